//! What a tagger looks at: the word, its ends, what the lexicon knows of it, and its neighbours.
//!
//! Everything that depends on a form alone is told once a form, for each place in which the form can stand to the word that is tagged;
//! what depends on several words is told a token, by a few small numbers. Words behind have no tags yet when one is tagged; what stands for these
//! are first guesses, made without any tags.

use crate::kind::Kind;
use crate::lemma::Readings;
use crate::part_of_speech::Tag;
use crate::tag::form::{Form, text_number};
use crate::tag::word_classes::ClassTable;
use crate::tag::word_uses::UseTable;

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
/// knows the word by itself, `classes` and `uses` what running text tells of it.
pub(super) fn of_form(
    form: &Form<'_>,
    is_common: impl Fn(u32) -> bool,
    (classes, uses): (&ClassTable, &UseTable),
    mut tell: impl FnMut(usize, u32),
) -> Sketch {
    let Form { text, small, asked, readings: known } = form;
    let shape = shape(text);
    let number = form.number();
    let kind = Kind::of(text) as u32;
    let learned = classes.of(small);
    let used = uses.of(number);
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
            if let Some(used) = used {
                tell(place, feature(sort(16), &[used]));
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
pub(super) const WITHOUT_TAGS: usize = 6;
pub(super) const WITH_TAGS: usize = 13;

/// Those features of a word among its neighbours that depend on no tag.
#[inline]
pub(super) fn without_tags(around: [&Sketch; 3], is_first: bool, capitals: Capitals) -> [u32; WITHOUT_TAGS] {
    let [before, here, after] = around;
    let written = u32::from(here.shape) | u32::from(is_first) << 8 | (capitals as u32) << 9;
    [
        feature(105, &[here.class, after.class]),
        feature(106, &[here.form, after.class]),
        feature(107, &[before.form, here.class]),
        feature(108, &[before.class, here.class, after.class]),
        feature(109, &[written]),
        feature(110, &[written, here.class]),
    ]
}

/// The nearest verb of the clause on one side of a word. Marks and conjunctions part clauses.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) enum NearestVerb {
    #[default]
    None,
    Verb,
    Auxiliary,
}

impl NearestVerb {
    /// What it is one word further away from this one, which has this tag.
    #[inline]
    pub(super) fn beyond(self, tag: Tag) -> NearestVerb {
        match tag {
            Tag::Punctuation | Tag::CoordinatingConjunction | Tag::SubordinatingConjunction => {
                NearestVerb::None
            }
            Tag::Verb => NearestVerb::Verb,
            Tag::Auxiliary => NearestVerb::Auxiliary,
            _ => self,
        }
    }
}

/// The tags on one side of a word: of the next, and of the next but one, and the nearest verb.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) struct Side {
    next: Option<Tag>,
    next_but_one: Option<Tag>,
    verb: NearestVerb,
}

impl Side {
    /// That of a word beside this one, which has this tag, further away.
    #[inline]
    pub(super) fn beyond(self, tag: Tag) -> Side {
        Side { next: Some(tag), next_but_one: self.next, verb: self.verb.beyond(tag) }
    }
}

/// Those features of a word among its neighbours that depend on tags: `behind` are first guesses.
#[inline]
pub(super) fn with_tags(here: &Sketch, after: &Sketch, before: Side, behind: Side) -> [u32; WITH_TAGS] {
    let number = |tag: Option<Tag>| tag.map_or(0, |tag| tag as u32);
    let (last, before_last) = (number(before.next), number(before.next_but_one));
    let (next, next_but_one) = (number(behind.next), number(behind.next_but_one));
    let verbs = (before.verb as u32) << 2 | behind.verb as u32;
    [
        feature(100, &[last]),
        feature(101, &[last, before_last]),
        feature(102, &[last, here.form]),
        feature(103, &[last, here.class]),
        feature(104, &[last, after.class]),
        feature(111, &[last, before_last, here.class]),
        feature(112, &[next]),
        feature(113, &[next, here.class]),
        feature(114, &[next, here.form]),
        feature(115, &[next, last]),
        feature(116, &[next, next_but_one, here.class]),
        feature(117, &[verbs, here.form]),
        feature(118, &[verbs, last]),
    ]
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_side_tells_two_tags_and_the_verb_of_the_clause() {
        let side = |tags: &[Tag]| tags.iter().rev().fold(Side::default(), |side, tag| side.beyond(*tag));
        let (noun, verb, mark) = (Tag::Noun, Tag::Verb, Tag::Punctuation);
        let known = side(&[noun, Tag::Auxiliary, verb]);
        assert_eq!((known.next, known.next_but_one), (Some(noun), Some(Tag::Auxiliary)));
        for (tags, nearest) in [
            (&[][..], NearestVerb::None),
            (&[noun, verb], NearestVerb::Verb),
            (&[noun, Tag::Auxiliary, verb], NearestVerb::Auxiliary),
            (&[noun, mark, verb], NearestVerb::None),
            (&[Tag::SubordinatingConjunction, verb], NearestVerb::None),
            (&[verb, mark], NearestVerb::Verb),
        ] {
            assert_eq!(side(tags).verb, nearest, "{tags:?}");
        }
    }
}
