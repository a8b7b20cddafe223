//! English lemmas: irregular forms by table, regular ones by rules that are checked against the lexicon.
//!
//! A rule never guesses where the lexicon can tell: `hoping` is of `hope` and `hopping` of `hop`, because the lexicon knows which of the
//! two doubles its last letter.

mod inflection;
mod regular;

use std::borrow::Cow;
use std::sync::OnceLock;

use hashbrown::{HashMap, HashSet};

use crate::lemma::lexicon::{Classes, Lexicon, english_lexicon};
use crate::lemma::{Known, Lemma};
use crate::part_of_speech::Tag;
pub use inflection::features;
use regular::undoubled;

/// The English lemmatiser on the shelf.
#[derive(Debug)]
pub(crate) struct English {
    lexicon: &'static Lexicon,
    /// By form: tag, lemma, and whether the reading needs a tag.
    irregular: HashMap<&'static str, Vec<Irregular>, State>,
    words: RuleWords,
}

type State = foldhash::fast::RandomState;

/// What the rules must know of single words: the lines of `rules.txt`.
#[derive(Debug, Default)]
struct RuleWords {
    /// Words in -ing that are mostly nouns: without a tag they stand for themselves.
    nouns_in_ing: HashSet<&'static str, State>,
    /// Words of closed classes that look like forms of others.
    closed: HashSet<&'static str, State>,
    /// Prefixes that make a verb of a verb.
    prefixes: HashSet<&'static str, State>,
    /// Of forms that two words spell alike: the word that wins.
    preferred: HashMap<&'static str, &'static str, State>,
}

impl RuleWords {
    fn read() -> RuleWords {
        let mut rules = RuleWords::default();
        for line in crate::words::one_a_line(include_str!("rules.txt")) {
            let mut words = line.split_ascii_whitespace();
            match words.next() {
                Some("noun") => rules.nouns_in_ing.extend(words),
                Some("closed") => rules.closed.extend(words),
                Some("prefix") => rules.prefixes.extend(words),
                _ => rules.preferred.extend(words.next().zip(words.next())),
            }
        }
        rules
    }
}

#[derive(Clone, Copy, Debug)]
struct Irregular {
    tag: Tag,
    lemma: &'static str,
    needs_tag: bool,
}

static SHELF: OnceLock<English> = OnceLock::new();

/// The English lemmatiser, made ready at the first call.
pub(crate) fn english() -> &'static English {
    SHELF.get_or_init(|| {
        let mut irregular: HashMap<&'static str, Vec<Irregular>, State> = HashMap::default();
        for (tag, lemma, forms) in irregular_lines() {
            for form in forms {
                let (form, needs_tag) = form.strip_suffix('~').map_or((form, false), |form| (form, true));
                irregular.entry(form).or_default().push(Irregular { tag, lemma, needs_tag });
            }
        }
        English { lexicon: english_lexicon(), irregular, words: RuleWords::read() }
    })
}

/// The lines of the table: tag, lemma, forms.
fn irregular_lines() -> impl Iterator<Item = (Tag, &'static str, impl Iterator<Item = &'static str>)> {
    crate::words::one_a_line(include_str!("irregular.txt")).filter_map(|line| {
        let mut words = line.split_ascii_whitespace();
        Some((Tag::named(words.next()?)?, words.next()?, words))
    })
}

impl English {
    /// The lemma of `form`, by its tag where there is one.
    pub(crate) fn lemma<'f>(&self, form: &'f str, tag: Option<Tag>) -> Lemma<'f> {
        let form = form
            .strip_suffix('\u{2019}')
            .or_else(|| form.strip_suffix('\''))
            .filter(|rest| !rest.is_empty() && tag.is_some_and(|tag| tag == Tag::Noun))
            .unwrap_or(form);
        // `APIs`, `MPs`.
        if let Some(one) = form.strip_suffix('s').filter(|one| one.len() > 1 && is_acronym(one))
            && tag.is_none_or(|tag| matches!(tag, Tag::Noun | Tag::ProperNoun))
        {
            return Lemma { text: Cow::Borrowed(one), known: Known::Yes };
        }
        let small = lower(form);
        match tag {
            Some(Tag::ProperNoun) => self.name(form, &small),
            Some(Tag::Noun) => self.word(form, &small, Tag::Noun, |small| self.noun(small)),
            Some(tag @ (Tag::Verb | Tag::Auxiliary)) => {
                self.word(form, &small, tag, |small| self.verb(small, tag))
            }
            Some(tag @ (Tag::Adjective | Tag::Adverb)) => {
                self.word(form, &small, tag, |small| self.compared(small, tag))
            }
            Some(tag @ (Tag::Punctuation | Tag::Symbol | Tag::Other)) => {
                let known = if tag == Tag::Other { Known::No } else { Known::Yes };
                Lemma { text: Cow::Borrowed(form), known }
            }
            Some(tag) => {
                if &*small == "i" {
                    return Lemma::of("I");
                }
                match self.irregular_for(&small, |known| known == tag) {
                    Some(lemma) => Lemma::of(lemma),
                    None => Lemma { text: cased(form, small), known: Known::Yes },
                }
            }
            None => self.untagged(form, &small),
        }
    }

    /// Whether the word, in small letters, is known: as a base word, or as a form of one.
    pub(crate) fn knows(&self, small: &str) -> bool {
        self.lexicon.classes(small).is_some()
            || self.irregular.contains_key(small)
            || self.untagged(small, small).known == Known::Yes
    }

    /// The classes that the word or what it is a form of has: what a tagger can learn from. The bits are those of the lexicon for base
    /// words, and for inflected forms one for each sort of form.
    pub(crate) fn readings(&self, small: &str) -> Readings {
        let classes = self.lexicon.classes(small).unwrap_or_default();
        let mut forms = 0;
        for known in self.irregular.get(small).map_or(&[][..], Vec::as_slice) {
            forms |= match known.tag {
                Tag::Noun => Readings::PLURAL,
                Tag::Verb => Readings::IRREGULAR_VERB,
                Tag::Adjective | Tag::Adverb => Readings::COMPARISON,
                _ => 0,
            };
        }
        if forms & Readings::PLURAL == 0 && self.plural_of(small).is_some() {
            forms |= Readings::PLURAL;
        }
        if let Some((_, ending)) = self.verb_base(small) {
            forms |= match ending {
                "ing" => Readings::ING,
                "ed" => Readings::ED,
                _ => Readings::S_OF_VERB,
            };
        }
        if forms & Readings::COMPARISON == 0 && self.comparison_base(small).is_some() {
            forms |= Readings::COMPARISON;
        }
        Readings { classes, forms }
    }

    fn irregular_for(&self, small: &str, is: impl Fn(Tag) -> bool) -> Option<&'static str> {
        self.irregular.get(small)?.iter().find(|known| is(known.tag)).map(|known| known.lemma)
    }

    /// Names stay as they are, but for the plurals of names that are known.
    fn name<'f>(&self, form: &'f str, small: &str) -> Lemma<'f> {
        if !self.lexicon.has(small, Classes::NAME)
            && let Some(one) = small.strip_suffix('s').filter(|one| one.len() > 3)
            && self.lexicon.has(one, Classes::NAME)
        {
            return Lemma { text: Cow::Borrowed(&form[..form.len() - 1]), known: Known::Yes };
        }
        let known = if self.lexicon.classes(small).is_some() { Known::Yes } else { Known::No };
        Lemma { text: Cow::Borrowed(form), known }
    }

    /// A word of an open class: by `rules`, or by its last part behind a hyphen.
    fn word<'f>(
        &self,
        form: &'f str,
        small: &str,
        tag: Tag,
        rules: impl Fn(&str) -> Option<String>,
    ) -> Lemma<'f> {
        if let Some(lemma) = rules(small) {
            let known = if self.lexicon.classes(&lemma).is_some() || self.irregular.contains_key(small) {
                Known::Yes
            } else {
                Known::No
            };
            return Lemma { text: Cow::Owned(lemma), known };
        }
        if let Some((first, last)) =
            small.rsplit_once('-').filter(|(first, last)| !first.is_empty() && !last.is_empty())
            && matches!(tag, Tag::Noun | Tag::Verb)
            && let Some(lemma) = rules(last)
        {
            return Lemma { text: Cow::Owned(format!("{first}-{lemma}")), known: Known::Yes };
        }
        let known = if self.lexicon.classes(small).is_some() { Known::Yes } else { Known::No };
        // `American` and `English` keep their capital, and so does `DNA`; `Nest` at the head of a sentence does not.
        let keeps = self.lexicon.classes(small).map_or_else(|| is_acronym(form), Classes::is_name_alone);
        let text = if keeps { Cow::Borrowed(form) } else { cased(form, Cow::Borrowed(small)) };
        Lemma { text, known }
    }

    /// Without a tag: irregular readings first, then what the lexicon lists as a base word, then regular inflections.
    fn untagged<'f>(&self, form: &'f str, small: &str) -> Lemma<'f> {
        if let Some(bare) = possessor(small) {
            // The letters before the apostrophe, which may be more bytes in small letters than as they are written.
            let end = form.char_indices().rev().nth(1).map_or(form.len(), |(at, _)| at);
            return self.untagged(&form[..end], bare);
        }
        if let Some(lemma) = self.words.preferred.get(small) {
            return Lemma::of(lemma);
        }
        let irregular = self.irregular.get(small).map_or(&[][..], Vec::as_slice);
        if let Some(known) = irregular.iter().find(|known| !known.needs_tag) {
            return Lemma::of(known.lemma);
        }
        if self.words.closed.contains(small) {
            return Lemma { text: cased(form, Cow::Borrowed(small)), known: Known::Yes };
        }
        // `thinner` is of `thin` more often than a thing that thins; `cleaner` is not.
        if small.ends_with("er")
            && undoubled(&small[..small.len() - 2]).is_some()
            && let Some(base) = self.comparison_base(small)
        {
            return Lemma { text: Cow::Owned(base), known: Known::Yes };
        }
        let classes = self.lexicon.classes(small);
        if classes.is_some_and(Classes::is_name_alone) && form != small {
            return Lemma { text: Cow::Borrowed(form), known: Known::Yes };
        }
        let own = self.words.nouns_in_ing.contains(small)
            || classes.is_some_and(|classes| {
                let by_rule = small.ends_with("ing") || (small.ends_with("ed") && !small.ends_with("eed"));
                classes.has(Classes::NOUN | Classes::VERB | Classes::ADJECTIVE | Classes::ADVERB) && !by_rule
            });
        if !own && let Some(lemma) = self.regular(small) {
            return Lemma { text: Cow::Owned(lemma), known: Known::Yes };
        }
        if classes.is_some_and(|classes| !classes.is_name_alone()) || !irregular.is_empty() {
            return Lemma { text: cased(form, Cow::Borrowed(small)), known: Known::Yes };
        }
        if let Some((first, last)) = small.rsplit_once('-').filter(|(first, _)| !first.is_empty())
            && last.ends_with('s')
            && let Some(lemma) = self
                .plural_of(last)
                .or_else(|| self.irregular_for(last, |tag| tag == Tag::Noun).map(str::to_owned))
        {
            return Lemma { text: Cow::Owned(format!("{first}-{lemma}")), known: Known::Yes };
        }
        let known = if classes.is_some() { Known::Yes } else { Known::No };
        Lemma { text: Cow::Borrowed(form), known }
    }
}

/// What a word may be, by the lexicon and the rules.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Readings {
    /// Of the word itself as a base.
    pub(crate) classes: Classes,
    /// The sorts of forms that it may be.
    pub(crate) forms: u8,
}

impl Readings {
    pub(crate) const PLURAL: u8 = 1;
    pub(crate) const IRREGULAR_VERB: u8 = 2;
    pub(crate) const COMPARISON: u8 = 4;
    pub(crate) const ING: u8 = 8;
    pub(crate) const ED: u8 = 16;
    pub(crate) const S_OF_VERB: u8 = 32;
}

/// The word before a possessive ending, unless the whole is a contraction.
fn possessor(small: &str) -> Option<&str> {
    let bare = small.strip_suffix("'s").or_else(|| small.strip_suffix("\u{2019}s"))?;
    let contracted =
        ["it", "that", "what", "who", "where", "there", "here", "how", "let", "he", "she", "when", "why"];
    (!bare.is_empty() && !contracted.contains(&bare)).then_some(bare)
}

/// Whether a word is written in capitals alone: `DNA`, `MPs`.
fn is_acronym(form: &str) -> bool {
    let stem = form.strip_suffix('s').unwrap_or(form);
    stem.chars().count() > 1 && stem.chars().all(|c| c.is_uppercase() || c.is_ascii_digit())
}

/// The word in small letters. Most are already.
fn lower(form: &str) -> Cow<'_, str> {
    if form.bytes().all(|byte| byte.is_ascii() && !byte.is_ascii_uppercase()) {
        Cow::Borrowed(form)
    } else {
        Cow::Owned(form.to_lowercase())
    }
}

/// `small`, borrowed from `form` where they are the same.
fn cased<'f>(form: &'f str, small: Cow<'_, str>) -> Cow<'f, str> {
    if form == small { Cow::Borrowed(form) } else { Cow::Owned(small.into_owned()) }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn lemma(form: &str, tag: &str) -> String {
        english().lemma(form, Tag::named(tag)).text.into_owned()
    }

    #[test]
    fn a_word_without_an_end_is_looked_at_once() {
        let english = english();
        assert!(english.irregular.keys().all(|form| form.len() <= regular::LONGEST_IRREGULAR));
        // Each of its ends tried in the table would take minutes.
        let long = "tern".repeat(500_000);
        for tag in ["VERB", "NOUN", "ADJ"] {
            assert_eq!(lemma(&long, tag), long);
        }
        assert_eq!(lemma("outflew", "VERB"), "outfly");
    }

    #[test]
    fn the_tag_decides_between_readings() {
        for (form, tag, expected) in [
            ("saw", "VERB", "see"),
            ("saw", "NOUN", "saw"),
            ("left", "VERB", "leave"),
            ("left", "ADJ", "left"),
            ("meeting", "NOUN", "meeting"),
            ("meeting", "VERB", "meet"),
            ("better", "ADJ", "good"),
            ("better", "ADV", "well"),
            ("leaves", "NOUN", "leaf"),
            ("leaves", "VERB", "leave"),
            ("found", "VERB", "find"),
            ("tired", "ADJ", "tired"),
            ("lying", "VERB", "lie"),
            ("lower", "ADJ", "low"),
            ("lower", "VERB", "lower"),
            ("does", "AUX", "do"),
            ("'ll", "AUX", "will"),
            ("n't", "PART", "not"),
            ("na", "PART", "to"),
            ("'T", "PRON", "it"),
            ("'cause", "SCONJ", "because"),
            ("Them", "PRON", "they"),
            ("An", "DET", "a"),
            ("Terns", "PROPN", "Terns"),
        ] {
            assert_eq!(lemma(form, tag), expected, "{form} {tag}");
        }
    }

    #[test]
    fn regular_forms_are_checked_against_the_lexicon() {
        for (form, tag, expected) in [
            ("hoping", "VERB", "hope"),
            ("hopping", "VERB", "hop"),
            ("stopped", "VERB", "stop"),
            ("travelled", "VERB", "travel"),
            ("traveled", "VERB", "travel"),
            ("colours", "NOUN", "colour"),
            ("colors", "NOUN", "color"),
            ("studies", "NOUN", "study"),
            ("boxes", "NOUN", "box"),
            ("causes", "NOUN", "cause"),
            ("potatoes", "NOUN", "potato"),
            ("singing", "VERB", "sing"),
            ("bathing", "VERB", "bathe"),
            ("grandchildren", "NOUN", "grandchild"),
            ("fishermen", "NOUN", "fisherman"),
            ("overheard", "VERB", "overhear"),
            ("species", "NOUN", "species"),
            ("news", "NOUN", "news"),
            ("happiest", "ADJ", "happy"),
            ("bigger", "ADJ", "big"),
            ("nicer", "ADJ", "nice"),
            ("clever", "ADJ", "clever"),
            ("backends", "NOUN", "backend"),
            ("nest-boxes", "NOUN", "nest-box"),
            ("re-opened", "VERB", "re-open"),
            ("emailing", "VERB", "email"),
        ] {
            assert_eq!(lemma(form, tag), expected, "{form} {tag}");
        }
    }

    #[test]
    fn without_a_tag_the_choice_is_stated() {
        for (form, expected) in [
            ("saw", "see"),
            ("left", "leave"),
            ("meeting", "meeting"),
            ("running", "run"),
            ("better", "good"),
            ("leaves", "leaf"),
            ("tired", "tire"),
            ("ground", "ground"),
            ("news", "news"),
            ("university", "university"),
            ("quickly", "quickly"),
            ("flew", "fly"),
            ("warden's", "warden"),
            ("Saltmere", "Saltmere"),
            ("terning", "terning"),
            ("it's", "it's"),
            ("was", "be"),
            ("cleaner", "cleaner"),
            ("thinner", "thin"),
            ("his", "his"),
            ("theirs", "theirs"),
            ("under", "under"),
            ("closer", "close"),
            ("bus", "bus"),
            ("as", "as"),
            ("is", "be"),
            ("analyses", "analysis"),
        ] {
            assert_eq!(lemma(form, "none"), expected, "{form}");
        }
    }

    proptest::proptest! {
        #[test]
        fn any_text_has_a_lemma(word in "([a-zA-ZÀ-ÿȺİſẞ'’.-]|ing|ed|s|es|ies|er|est|men|n't|'s|’s){0,8}") {
            for tag in Tag::ALL.into_iter().map(Some).chain([None]) {
                english().lemma(&word, tag);
            }
            english().readings(&word.to_lowercase());
            english().knows(&word.to_lowercase());
            for stemmer in crate::stem::STEMMERS {
                (stemmer.stem)(&word.to_lowercase());
            }
            for (language, _) in crate::lemma::IRREGULAR {
                crate::lemma::irregular(language, &word.to_lowercase());
            }
        }
    }
}
