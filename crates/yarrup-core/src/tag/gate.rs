//! Which tags a word may have at all: what a sentence says decides only between those.

use std::sync::OnceLock;

use hashbrown::HashMap;

use crate::kind::Kind;
use crate::lemma::{Classes, Readings};
use crate::part_of_speech::Tag;
use crate::tag::form::{Asked, Form, text_number};

/// The tags that new words can have; the others belong to closed lists of words.
const OPEN: u32 = bits(&[
    Tag::Adjective,
    Tag::Adverb,
    Tag::Interjection,
    Tag::Noun,
    Tag::Numeral,
    Tag::ProperNoun,
    Tag::Symbol,
    Tag::Verb,
    Tag::Other,
]);

/// The tags of words that the lexicon does not list.
const UNLISTED: u32 = bits(&[
    Tag::Adjective,
    Tag::Adverb,
    Tag::Interjection,
    Tag::Noun,
    Tag::ProperNoun,
    Tag::Verb,
    Tag::Other,
]);

/// The tags of what has neither letter nor digit.
const MARKS: u32 = bits(&[Tag::Punctuation, Tag::Symbol, Tag::Other]);

/// Beside the tags that a word was seen with: that it was seen often enough to have no others.
pub(super) const SETTLED: u32 = 1 << 31;

/// The tags that a form may have, a bit for each: `seen` are those of the word in what was learned from.
pub(super) fn allowed(form: &Form<'_>, seen: Option<u32>) -> u32 {
    match seen {
        Some(seen) if seen & SETTLED != 0 => return seen & !SETTLED,
        _ => {}
    }
    let seen = seen.unwrap_or_default();
    let new = match form.asked {
        Asked::English => english_tags(form),
        Asked::Nothing if form.text.chars().any(char::is_alphanumeric) || form.text.is_empty() => OPEN,
        Asked::Nothing => MARKS,
    };
    seen | new
}

/// The tags that an English word may have: those of its kind, else those of its closed class, else those that the lexicon gives it.
fn english_tags(form: &Form<'_>) -> u32 {
    let Form { text: form, small, readings: known, .. } = form;
    if form.is_empty() {
        return OPEN;
    }
    match Kind::of(form) {
        Kind::Url | Kind::Email | Kind::Hashtag | Kind::Path | Kind::Ip => return bits(&[Tag::Other]),
        Kind::Mention => return bits(&[Tag::ProperNoun]),
        Kind::Emoticon | Kind::Emoji => return bits(&[Tag::Symbol]),
        Kind::Number => return bits(&[Tag::Numeral]),
        _ => {}
    }
    if !form.chars().any(char::is_alphanumeric) {
        return MARKS | if *form == "&" { bits(&[Tag::CoordinatingConjunction]) } else { 0 };
    }
    let more = match classes_of(small) {
        Some(tags) if tags & OPEN_CLASS == 0 => return tags,
        Some(tags) => tags & !OPEN_CLASS,
        None => 0,
    };
    let has_digit = form.bytes().any(|byte| byte.is_ascii_digit());
    let Readings { classes, forms } = *known;
    let mut tags = 0;
    for (class, tag) in [
        (Classes::NOUN, Tag::Noun),
        (Classes::VERB, Tag::Verb),
        (Classes::ADJECTIVE, Tag::Adjective),
        (Classes::COMPARED, Tag::Adjective),
        (Classes::COMPARED, Tag::Adverb),
        (Classes::ADVERB, Tag::Adverb),
    ] {
        tags |= u32::from(classes.has(class)) << tag as u32;
    }
    for (sort, of) in [
        (Readings::PLURAL, bits(&[Tag::Noun])),
        (Readings::IRREGULAR_VERB, bits(&[Tag::Verb, Tag::Adjective])),
        (Readings::S_OF_VERB, bits(&[Tag::Verb])),
        (Readings::COMPARISON, bits(&[Tag::Adjective, Tag::Adverb])),
        (Readings::ING, bits(&[Tag::Verb, Tag::Adjective, Tag::Noun])),
        (Readings::ED, bits(&[Tag::Verb, Tag::Adjective])),
    ] {
        tags |= if forms & sort != 0 { of } else { 0 };
    }
    if tags == 0 || form.contains('-') {
        tags |= UNLISTED;
    }
    tags |= more;
    // The lexicon infers classes from inflection, which tells nothing of adjectives that are nouns as well: `national`, `Roman`.
    if ADJECTIVAL.iter().any(|ending| small.len() > ending.len() + 2 && small.ends_with(ending)) {
        tags |= bits(&[Tag::Adjective]);
    }
    // `twenty-five`.
    let first = small.split('-').next().unwrap_or_default();
    let is_number = classes_of(first).is_some_and(|tags| tags >> Tag::Numeral as u32 & 1 == 1);
    if small.contains('-') && is_number {
        tags |= bits(&[Tag::Numeral]);
    }
    // A letter alone may stand for a quantity.
    if form.chars().count() == 1 {
        tags |= bits(&[Tag::Symbol, Tag::Noun, Tag::ProperNoun, Tag::Other]);
    }
    if has_digit {
        tags |= bits(&[Tag::Numeral, Tag::Noun, Tag::ProperNoun, Tag::Other]);
    }
    if classes.has(Classes::NAME)
        || form.starts_with(char::is_uppercase)
        || form.chars().any(char::is_uppercase)
    {
        tags |= bits(&[Tag::ProperNoun]);
    }
    tags
}

/// Endings of adjectives.
const ADJECTIVAL: [&str; 15] =
    ["al", "ic", "ive", "ant", "ent", "ary", "ory", "an", "ese", "ish", "ist", "ile", "ate", "ern", "less"];

/// Beside the tags of a word: that the lexicon is asked as well.
const OPEN_CLASS: u32 = 1 << 31;

/// What the table of classes says of a word in small letters.
fn classes_of(small: &str) -> Option<u32> {
    type Classes = HashMap<u32, u32, foldhash::fast::RandomState>;
    static CLASSES: OnceLock<Classes> = OnceLock::new();
    let classes = CLASSES.get_or_init(|| {
        let mut classes = Classes::default();
        for line in crate::words::one_a_line(include_str!("classes-en.txt")) {
            let mut words = line.split_ascii_whitespace();
            let names = words.next().unwrap_or_default();
            let (names, sort) = names.strip_prefix('+').map_or((names, 0), |names| (names, OPEN_CLASS));
            let tags = names.split(',').filter_map(Tag::named).fold(sort, |tags, tag| tags | 1 << tag as u32);
            for word in words {
                *classes.entry(text_number(word)).or_insert(sort) |= tags & !OPEN_CLASS;
            }
        }
        classes
    });
    classes.get(&text_number(small)).copied()
}

const fn bits(tags: &[Tag]) -> u32 {
    let (mut bits, mut index) = (0, 0);
    while index < tags.len() {
        bits |= 1 << tags[index] as u32;
        index += 1;
    }
    bits
}

#[cfg(test)]
mod tests {
    use super::*;

    fn english_allowed(form: &str, seen: Option<u32>) -> u32 {
        allowed(&Form::new(form, Asked::English), seen)
    }

    fn codes(form: &str) -> String {
        let allowed = english_allowed(form, None);
        let tags = Tag::ALL.into_iter().filter(|tag| allowed >> *tag as u32 & 1 == 1);
        tags.map(Tag::code).collect::<Vec<_>>().join(" ")
    }

    #[test]
    fn words_have_the_tags_of_their_kind_their_class_or_the_lexicon() {
        for (form, expected) in [
            ("himself", "PRON"),
            ("toward", "ADP"),
            ("Perhaps", "ADV"),
            ("thus", "ADV"),
            ("https://example.org", "X"),
            ("#terns", "X"),
            ("@mira", "PROPN"),
            (":(", "SYM"),
            ("3,000", "NUM"),
            ("main", "ADJ NOUN"),
            ("kindness", "NOUN"),
            ("quickly", "ADV"),
            ("Quickly", "ADV PROPN"),
            ("&", "CCONJ PUNCT SYM X"),
        ] {
            let (mut found, mut wanted): (Vec<_>, Vec<_>) =
                (codes(form).split(' ').map(str::to_owned).collect(), expected.split(' ').collect());
            found.sort();
            wanted.sort_unstable();
            assert_eq!(found, wanted, "{form}");
        }
        // A word that nobody knows may be new, but it is no pronoun, sign or numeral.
        let unknown = english_allowed("fnargling", None);
        for tag in [Tag::Pronoun, Tag::Symbol, Tag::Numeral] {
            assert_eq!(unknown >> tag as u32 & 1, 0, "{tag:?}");
        }
        assert_eq!(english_allowed("saw", Some(SETTLED | 1 << Tag::Verb as u32)), 1 << Tag::Verb as u32);
    }

    #[test]
    fn the_treebank_keeps_to_the_classes() {
        let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../../treebank/en");
        let (mut words, mut outside) = (0, 0);
        for file in std::fs::read_dir(folder).expect("the treebank") {
            let path = file.expect("a file").path();
            if path.extension().is_none_or(|ending| ending != "conllu") {
                continue;
            }
            let text = std::fs::read_to_string(path).expect("readable");
            for word in crate::tag::read_conllu(&text)
                .expect("a treebank")
                .iter()
                .flat_map(|sentence| &sentence.words)
            {
                let Some(tag) = word.tag else { continue };
                words += 1;
                outside += u32::from(english_allowed(&word.form, None) >> tag as u32 & 1 == 0);
            }
        }
        assert!(words > 20_000 && outside * 500 < words, "{outside} of {words}");
    }
}
