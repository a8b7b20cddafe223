//! What a tagger looks at: the word, its ends, what the lexicon knows of it, and its neighbours.
//!
//! Everything that depends on a form alone is told once a form, for each place in which the form can stand to the word that is tagged;
//! what depends on several words is told a token, by a few small numbers.

use crate::kind::Kind;
use crate::lemma::Readings;
use crate::part_of_speech::Tag;
use crate::tag::form::{Form, text_number};
use crate::tag::word_classes::ClassTable;

/// Where a form stands to the word that is tagged.
pub(super) const HERE: usize = 0;
pub(super) const BEFORE: usize = 1;
pub(super) const AFTER: usize = 2;
pub(super) const TWO_BEFORE: usize = 3;
pub(super) const TWO_AFTER: usize = 4;
pub(super) const PLACES: usize = 5;

/// How letters of a sentence are written: names can be told by their capitals only where others have none.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Capitals {
    /// As in print.
    Usual,
    /// None at all.
    None,
    /// Mostly capitals.
    Many,
    /// Most Words Begin With One.
    Titles,
}

/// How the letters of a form are written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Letters {
    None,
    Small,
    /// The first alone is a capital.
    Titled,
    /// The same, of a word that is no name as far as the lexicon knows.
    TitledWord,
    /// Small and short, as words are between Such Words.
    SmallBetween,
    /// Several, and all of them capitals.
    Shouted,
    Mixed,
}

impl Letters {
    pub(super) fn of(form: &Form<'_>) -> Letters {
        let (form, known) = (form.text, form.readings);
        let is_lettered = form.chars().any(char::is_alphabetic);
        let capitals = form.chars().filter(|c| c.is_uppercase()).count();
        match capitals {
            _ if !is_lettered => Letters::None,
            0 if form.len() < 4 || matches!(form, "with" | "from" | "into" | "over") => Letters::SmallBetween,
            0 => Letters::Small,
            1 if form.starts_with(char::is_uppercase) => {
                match known.classes.is_name_alone() || known == Readings::default() {
                    true => Letters::Titled,
                    false => Letters::TitledWord,
                }
            }
            _ if !form.chars().any(char::is_lowercase) => Letters::Shouted,
            _ => Letters::Mixed,
        }
    }
}

impl Capitals {
    /// Whether a capital says nothing of its word, so that the sentence is read in small letters.
    pub(super) fn tell_nothing(self) -> bool {
        matches!(self, Capitals::Many | Capitals::Titles)
    }

    /// How the sentence is written as it is read.
    pub(super) fn as_read(self) -> Capitals {
        if self.tell_nothing() { Capitals::None } else { self }
    }

    /// How a sentence of such forms is written.
    pub(super) fn of(forms: impl Iterator<Item = Letters>) -> Capitals {
        let (mut words, mut small, mut between, mut shouted, mut titled) = (0, 0, 0, 0, 0);
        for letters in forms.filter(|letters| *letters != Letters::None) {
            words += 1;
            small += usize::from(letters == Letters::Small);
            between += usize::from(letters == Letters::SmallBetween);
            shouted += usize::from(letters == Letters::Shouted);
            titled += usize::from(letters == Letters::TitledWord);
        }
        match () {
            () if small + between == words => Capitals::None,
            () if shouted * 2 > words && words > 2 => Capitals::Many,
            // A row of names has capitals as well, but few words that are no names.
            () if small == 0 && words > 3 && titled * 2 > words - between => Capitals::Titles,
            () => Capitals::Usual,
        }
    }
}

/// What the features of several words are made of, a form.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) struct Sketch {
    /// The form in small letters.
    pub(super) form: u32,
    /// The form itself for the commonest words, else what it may be.
    pub(super) class: u32,
    /// How it is written: small, capitalised, capitals, and so on.
    pub(super) shape: u8,
}

/// A number for a feature: its sort, and what it is about.
#[inline]
pub(super) fn feature(sort: u32, about: &[u32]) -> u32 {
    let mut hash = 0x9e37_79b9u32 ^ sort.wrapping_mul(0x85eb_ca6b);
    for &part in about {
        hash = (hash ^ part).wrapping_mul(0xcc9e_2d51).rotate_left(15).wrapping_mul(0x1b87_3593);
    }
    hash ^= hash >> 16;
    hash = hash.wrapping_mul(0x85eb_ca6b);
    hash ^ hash >> 13
}

/// How a word is written.
fn shape(form: &str) -> u8 {
    let mut letters = form.chars().filter(|c| c.is_alphabetic());
    let first = form.chars().next();
    let any_digit = form.bytes().any(|byte| byte.is_ascii_digit());
    let Some(first_letter) = letters.next() else {
        return if any_digit { 1 } else { 2 };
    };
    let rest: Vec<char> = letters.collect();
    let base = if first_letter.is_uppercase() {
        if rest.is_empty() {
            3
        } else if rest.iter().all(|c| c.is_uppercase()) {
            4
        } else {
            5
        }
    } else if rest.iter().any(|c| c.is_uppercase()) {
        6
    } else {
        7
    };
    let marked = match first {
        Some('#') => 1,
        Some('@') => 2,
        Some('\'' | '\u{2019}') => 3,
        _ if form.contains('-') => 4,
        _ => 0,
    };
    base + 8 * marked + if any_digit { 64 } else { 0 }
}

/// Tells the features of a form, each with the place that it stands in, and returns its sketch. `is_common` tells whether the tagger
/// knows the word by itself, `classes` where running text has it.
pub(super) fn of_form(
    form: &Form<'_>,
    is_common: impl Fn(u32) -> bool,
    classes: &ClassTable,
    mut tell: impl FnMut(usize, u32),
) -> Sketch {
    let Form { text, small, asked, readings: known } = form;
    let shape = shape(text);
    let number = form.number();
    let kind = Kind::of(text) as u32;
    let learned = classes.of(small);
    let reads = u32::from(known.classes.bits()) | u32::from(known.forms) << 8;
    // Rarity tells nothing of the class.
    let coarse = reads & 0x3f4f;
    let ends: Vec<usize> = small.char_indices().map(|(at, _)| at).rev().take(5).collect();
    let end = |length: usize| ends.get(length - 1).map(|&at| text_number(&small[at..]));
    let unknown_end = if coarse == 0 { end(3).or(end(2)).unwrap_or(0) } else { 0 };
    let class =
        if is_common(number) { feature(90, &[number]) } else { feature(91, &[coarse, kind, unknown_end]) };
    for place in 0..PLACES {
        let sort = |sort: u32| sort + 20 * place as u32;
        tell(place, feature(sort(0), &[number]));
        if matches!(place, HERE | BEFORE | AFTER) {
            for (sort_of, class) in (14..).zip(learned).filter(|(_, class)| *class != 0) {
                tell(place, feature(sort(sort_of), &[class]));
            }
        }
        if place == HERE {
            tell(place, feature(sort(10), &[]));
            tell(place, feature(sort(1), &[reads]));
            tell(place, feature(sort(2), &[coarse, shape.into()]));
            tell(place, feature(sort(3), &[kind]));
            for length in 1..=4 {
                if let Some(end) = end(length) {
                    tell(place, feature(sort(3 + length as u32), &[end]));
                }
            }
            if let Some(end) = end(3) {
                tell(place, feature(sort(11), &[end, coarse]));
            }
            if let Some(end) = end(5) {
                tell(place, feature(sort(12), &[end]));
            }
            let begin: String = small.chars().take(3).collect();
            tell(place, feature(sort(8), &[text_number(&begin)]));
            for bit in 0..14 {
                if reads >> bit & 1 == 1 {
                    tell(place, feature(sort(9), &[bit]));
                }
            }
            if small.contains('-')
                && let Some((_, last)) = small.rsplit_once('-')
            {
                tell(
                    place,
                    feature(
                        sort(13),
                        &[u32::from(asked.readings(last).classes.bits()) & 0x0f, text_number(last)],
                    ),
                );
            }
        } else if matches!(place, BEFORE | AFTER) {
            tell(place, feature(sort(1), &[class]));
            tell(place, feature(sort(2), &[u32::from(shape & 7)]));
            if let Some(end) = end(3) {
                tell(place, feature(sort(3), &[end]));
            }
            if let Some(end) = end(2) {
                tell(place, feature(sort(4), &[end]));
            }
        } else {
            tell(place, feature(sort(1), &[class]));
        }
    }
    Sketch { form: number, class, shape }
}

/// How many features of a word among its neighbours depend on no tag, and how many do.
pub(super) const WITHOUT_TAGS: usize = 10;
pub(super) const WITH_TAGS: usize = 7;

/// Those features of [`of_context`] that depend on no tag.
#[inline]
pub(super) fn without_tags(
    around: [&Sketch; PLACES],
    is_first: bool,
    capitals: Capitals,
) -> [u32; WITHOUT_TAGS] {
    let [here, before, after, two_before, two_after] = around;
    let written = u32::from(here.shape) | u32::from(is_first) << 8 | (capitals as u32) << 9;
    [
        feature(105, &[here.class, after.class]),
        feature(106, &[here.form, after.class]),
        feature(107, &[before.form, here.class]),
        feature(108, &[before.class, here.class, after.class]),
        feature(109, &[written]),
        feature(110, &[written, here.class]),
        feature(112, &[after.class, two_after.class, here.class]),
        feature(114, &[two_before.class, before.class, here.class]),
        feature(115, &[here.form, before.form]),
        feature(116, &[here.form, after.form]),
    ]
}

/// Those features of [`of_context`] that depend on the tags of the words before.
#[inline]
pub(super) fn with_tags(here: &Sketch, after: &Sketch, tags: (Option<Tag>, Option<Tag>)) -> [u32; WITH_TAGS] {
    let number = |tag: Option<Tag>| tag.map_or(0, |tag| tag as u32);
    let (last, before_last) = (number(tags.0), number(tags.1));
    [
        feature(100, &[last]),
        feature(101, &[last, before_last]),
        feature(102, &[last, here.form]),
        feature(103, &[last, here.class]),
        feature(104, &[last, after.class]),
        feature(111, &[last, here.class, after.class]),
        feature(113, &[last, before_last, here.class]),
    ]
}

/// Tells the features of a word among its neighbours and the tags before it.
pub(super) fn of_context(
    around: &[Sketch; PLACES],
    tags: (Option<Tag>, Option<Tag>),
    is_first: bool,
    capitals: Capitals,
    mut tell: impl FnMut(u32),
) {
    let number = |tag: Option<Tag>| tag.map_or(0, |tag| tag as u32);
    let (last, before_last) = (number(tags.0), number(tags.1));
    let [here, before, after, two_before, two_after] = around;
    let written = u32::from(here.shape) | u32::from(is_first) << 8 | (capitals as u32) << 9;
    tell(feature(100, &[last]));
    tell(feature(101, &[last, before_last]));
    tell(feature(102, &[last, here.form]));
    tell(feature(103, &[last, here.class]));
    tell(feature(104, &[last, after.class]));
    tell(feature(105, &[here.class, after.class]));
    tell(feature(106, &[here.form, after.class]));
    tell(feature(107, &[before.form, here.class]));
    tell(feature(108, &[before.class, here.class, after.class]));
    tell(feature(109, &[written]));
    tell(feature(110, &[written, here.class]));
    tell(feature(111, &[last, here.class, after.class]));
    tell(feature(112, &[after.class, two_after.class, here.class]));
    tell(feature(113, &[last, before_last, here.class]));
    tell(feature(114, &[two_before.class, before.class, here.class]));
    tell(feature(115, &[here.form, before.form]));
    tell(feature(116, &[here.form, after.form]));
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn features_of_the_context_are_those_that_are_learned() {
        let sketch = |number: u32| Sketch { form: number, class: number * 7, shape: number as u8 * 13 };
        let around = [1, 2, 3, 4, 5].map(sketch);
        for tags in [(None, None), (Some(Tag::Noun), None), (Some(Tag::Verb), Some(Tag::Determiner))] {
            for (is_first, capitals) in
                [(true, Capitals::Usual), (false, Capitals::None), (false, Capitals::Many)]
            {
                let mut learned = Vec::new();
                of_context(&around, tags, is_first, capitals, |feature| learned.push(feature));
                let mut used = Vec::from(without_tags(around.each_ref(), is_first, capitals));
                used.extend(with_tags(&around[HERE], &around[AFTER], tags));
                learned.sort_unstable();
                used.sort_unstable();
                assert_eq!(used, learned);
            }
        }
    }
}
