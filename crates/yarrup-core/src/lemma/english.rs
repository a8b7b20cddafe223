//! English lemmas: irregular forms by table, regular ones by rules that are checked against the lexicon.
//!
//! A rule never guesses where the lexicon can tell: `hoping` is of `hope` and `hopping` of `hop`, because the lexicon knows which of the
//! two doubles its last letter.

use std::borrow::Cow;
use std::sync::OnceLock;

use hashbrown::HashMap;

use crate::lemma::lexicon::{Classes, Lexicon, english_lexicon};
use crate::lemma::{Known, Lemma};
use crate::part_of_speech::Tag;

/// The English lemmatiser on the shelf.
#[derive(Debug)]
pub(crate) struct English {
    lexicon: &'static Lexicon,
    /// By form: tag, lemma, and whether the reading needs a tag.
    irregular: HashMap<&'static str, Vec<Irregular>, foldhash::fast::RandomState>,
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
        let mut irregular: HashMap<&'static str, Vec<Irregular>, _> = HashMap::default();
        for (tag, lemma, forms) in irregular_lines() {
            for form in forms {
                let (form, needs_tag) = form.strip_suffix('~').map_or((form, false), |form| (form, true));
                irregular.entry(form).or_default().push(Irregular { tag, lemma, needs_tag });
            }
        }
        English { lexicon: english_lexicon(), irregular }
    })
}

/// The lines of the table: tag, lemma, forms.
fn irregular_lines() -> impl Iterator<Item = (Tag, &'static str, impl Iterator<Item = &'static str>)> {
    crate::words::one_a_line(include_str!("irregular-en.txt")).filter_map(|line| {
        let mut words = line.split_ascii_whitespace();
        Some((Tag::named(words.next()?)?, words.next()?, words))
    })
}

/// Words in -ing that are mostly nouns: without a tag they stand for themselves.
const NOUNS_IN_ING: &[&str] = &[
    "accounting",
    "banking",
    "beginning",
    "being",
    "blessing",
    "briefing",
    "building",
    "ceiling",
    "clothing",
    "coating",
    "crossing",
    "dwelling",
    "ending",
    "engineering",
    "evening",
    "feeling",
    "filling",
    "fitting",
    "funding",
    "gathering",
    "hearing",
    "heating",
    "housing",
    "killing",
    "landing",
    "lighting",
    "lining",
    "marketing",
    "meaning",
    "meeting",
    "morning",
    "offering",
    "opening",
    "outing",
    "painting",
    "parking",
    "plumbing",
    "programming",
    "railing",
    "rating",
    "recording",
    "saying",
    "setting",
    "shipping",
    "shopping",
    "sibling",
    "spelling",
    "stocking",
    "stuffing",
    "surrounding",
    "training",
    "turning",
    "warning",
    "wedding",
    "wording",
    "happening",
    "cutting",
    "drawing",
    "farming",
    "finding",
    "gardening",
    "greeting",
    "icing",
    "innings",
    "listing",
    "mining",
    "ruling",
    "understanding",
    "interesting",
    "amazing",
    "exciting",
    "outstanding",
    "charming",
    "willing",
    "following",
    "according",
    "including",
    "regarding",
    "concerning",
    "during",
    "king",
    "ring",
    "string",
    "thing",
    "wing",
    "spring",
    "lightning",
    "pudding",
    "bearing",
    "casting",
    "padding",
];

/// Words of closed classes that look like forms of others.
const CLOSED: &[&str] = &[
    "his",
    "hers",
    "ours",
    "yours",
    "theirs",
    "its",
    "as",
    "us",
    "thus",
    "yes",
    "plus",
    "during",
    "per",
    "ever",
    "never",
    "over",
    "under",
    "after",
    "sometimes",
    "besides",
    "towards",
    "afterwards",
    "forwards",
    "backwards",
    "upwards",
    "downwards",
    "inwards",
    "outwards",
    "onwards",
    "indoors",
    "outdoors",
    "upstairs",
    "downstairs",
    "overseas",
    "always",
    "perhaps",
    "nowadays",
    "whereas",
    "either",
    "neither",
    "rather",
    "whether",
    "together",
    "however",
    "another",
    "or",
    "her",
    "there",
    "where",
];

/// Verbs that win where two spell their forms alike.
const PREFERRED: &[(&str, &str)] = &[
    ("bathing", "bathe"),
    ("bathed", "bathe"),
    ("breathing", "breathe"),
    ("breathed", "breathe"),
    ("routing", "route"),
    ("routed", "route"),
    ("wreathing", "wreathe"),
    ("clothing", "clothe"),
    ("teething", "teethe"),
    ("loathing", "loathe"),
    ("loathed", "loathe"),
    ("sheathed", "sheathe"),
    ("soothed", "soothe"),
    ("lower", "low"),
    ("lowest", "low"),
    ("used", "use"),
    ("supposed", "suppose"),
    ("tinged", "tinge"),
    ("planed", "plane"),
    ("sided", "side"),
    ("laws", "law"),
    ("others", "other"),
];

impl English {
    /// The lemma of `form`, by its tag where there is one.
    pub(crate) fn lemma<'f>(&self, form: &'f str, tag: Option<Tag>) -> Lemma<'f> {
        let form = form
            .strip_suffix('\u{2019}')
            .or_else(|| form.strip_suffix('\''))
            .filter(|rest| !rest.is_empty() && tag.is_some_and(|tag| tag == Tag::Noun))
            .unwrap_or(form);
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
        if let Some((_, lemma)) = PREFERRED.iter().find(|(known, _)| *known == small) {
            return Lemma::of(lemma);
        }
        let irregular = self.irregular.get(small).map_or(&[][..], Vec::as_slice);
        if let Some(known) = irregular.iter().find(|known| !known.needs_tag) {
            return Lemma::of(known.lemma);
        }
        if CLOSED.contains(&small) {
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
        let own = NOUNS_IN_ING.contains(&small)
            || classes.is_some_and(|classes| {
                let by_rule = small.ends_with("ing") || small.ends_with("ed");
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

    fn regular(&self, small: &str) -> Option<String> {
        self.plural_of(small)
            .or_else(|| self.verb_base(small).map(|(base, _)| base))
            .or_else(|| self.comparison_base(small))
    }

    fn noun(&self, small: &str) -> Option<String> {
        if let Some(lemma) = self.irregular_for(small, |tag| tag == Tag::Noun) {
            return Some(lemma.to_owned());
        }
        if let Some(one) = self.plural_of(small) {
            return Some(one);
        }
        if self.lexicon.classes(small).is_some_and(|classes| classes.has(Classes::NOUN)) {
            return None;
        }
        // A plural that the lexicon does not know: the tag says that it is a noun, and the ending says the rest.
        let one = match small {
            _ if small.len() < 4 || ends_with_any(small, &["ss", "us", "is", "as", "ics", "ous"]) => {
                return None;
            }
            _ if small.ends_with("ies") && small.len() > 4 => format!("{}y", &small[..small.len() - 3]),
            _ if ends_with_any(small, &["sses", "xes", "zes", "ches", "shes"]) => {
                small[..small.len() - 2].to_owned()
            }
            _ if ends_with_any(small, &["'s", "\u{2019}s"]) => return None,
            _ => small.strip_suffix('s')?.to_owned(),
        };
        one.ends_with(|c: char| c.is_alphabetic()).then_some(one)
    }

    /// The singular of a plural that the tables or the lexicon know.
    fn plural_of(&self, small: &str) -> Option<String> {
        let is_noun = |word: &str| self.lexicon.has(word, Classes::NOUN);
        if let Some(stem) = small.strip_suffix("men").filter(|stem| stem.len() > 1) {
            let one = format!("{stem}man");
            return (is_noun(&one) || self.lexicon.classes(small).is_none()).then_some(one);
        }
        // Compounds of irregular nouns: `grandchildren`, `bookshelves`, `dormice`.
        if let Some((first, known)) = self.compound(small, Tag::Noun) {
            let one = format!("{first}{}", known.lemma);
            if is_noun(&one) {
                return Some(one);
            }
        }
        let stem = small.strip_suffix('s')?;
        if is_noun(small) && !stem.ends_with('e') && small.ends_with("ss") {
            return None;
        }
        if let Some(stem) = small.strip_suffix("ies") {
            let one = format!("{stem}y");
            if is_noun(&one) {
                return Some(one);
            }
        }
        // A word of its own right: `news`, `species`, `physics`.
        if is_noun(small) {
            return None;
        }
        if is_noun(stem) && !ends_with_any(stem, &["s", "x", "z", "ch", "sh"]) {
            return Some(stem.to_owned());
        }
        let short = small
            .strip_suffix("es")
            .filter(|short| ends_with_any(short, &["s", "x", "z", "ch", "sh", "o"]) && is_noun(short));
        if let Some(short) = short {
            return Some(short.to_owned());
        }
        // `gasses`, `quizzes`.
        let single = small.strip_suffix("ses").or_else(|| small.strip_suffix("zes"));
        if let Some(single) = single.filter(|single| single.ends_with(['s', 'z']) && is_noun(single)) {
            return Some(single.to_owned());
        }
        is_noun(stem).then(|| stem.to_owned())
    }

    /// A word that ends in an irregular form behind two letters or more: what stands before, and the form.
    fn compound<'w>(&self, small: &'w str, tag: Tag) -> Option<(&'w str, Irregular)> {
        small.char_indices().skip(2).find_map(|(at, _)| {
            let known = self
                .irregular
                .get(&small[at..])?
                .iter()
                .find(|known| known.tag == tag && small.len() - at > 2)?;
            Some((&small[..at], *known))
        })
    }

    fn verb(&self, small: &str, tag: Tag) -> Option<String> {
        // `'s` and `'d` are of `be` or `have`, and of `will` or `have`: the commoner is taken.
        match small {
            "'s" | "\u{2019}s" => return Some("be".to_owned()),
            "'d" | "\u{2019}d" => return Some("would".to_owned()),
            _ if small.starts_with('\u{2019}') => return self.verb(&small.replace('\u{2019}', "'"), tag),
            _ => {}
        }
        let other = if tag == Tag::Verb { Tag::Auxiliary } else { Tag::Verb };
        if let Some(lemma) =
            [tag, other].into_iter().find_map(|tag| self.irregular_for(small, |known| known == tag))
        {
            return Some(lemma.to_owned());
        }
        if tag == Tag::Auxiliary {
            return None;
        }
        if let Some((_, lemma)) = PREFERRED.iter().find(|(known, _)| *known == small)
            && (small.ends_with("ing") || small.ends_with("ed"))
            && self.lexicon.has(lemma, Classes::VERB)
        {
            return Some((*lemma).to_owned());
        }
        // Verbs made of an irregular one: `overheard`, `mistook`, `outflew`.
        if let Some((first, known)) = self.compound(small, Tag::Verb)
            && PREFIXES.contains(&first)
            && !self.lexicon.has(small, Classes::VERB)
        {
            return Some(format!("{first}{}", known.lemma));
        }
        if let Some((base, _)) = self.verb_base(small) {
            return Some(base);
        }
        if self.lexicon.has(small, Classes::VERB) {
            return None;
        }
        unknown_verb(small)
    }

    /// The base of a regular form of a verb that the lexicon lists, and the form's ending.
    fn verb_base(&self, small: &str) -> Option<(String, &'static str)> {
        let is_verb = |word: &str| self.lexicon.has(word, Classes::VERB);
        for ending in ["ing", "ed"] {
            let Some(stem) = small.strip_suffix(ending).filter(|stem| stem.len() > 1) else { continue };
            let mut found: Vec<String> = Vec::new();
            let with_e = format!("{stem}e");
            let undoubled = undoubled(stem);
            if let Some(single) = undoubled.filter(|single| is_verb(single)) {
                let doubles = self.lexicon.has(single, Classes::DOUBLES);
                if doubles || single.ends_with(['l', 'p', 's', 't', 'm']) {
                    found.push(single.to_owned());
                }
            }
            if is_verb(stem) && !self.must_double(stem) {
                found.push(stem.to_owned());
            }
            if is_verb(&with_e) && !(ending == "ing" && ends_with_any(&with_e, &["ee", "oe", "ye"])) {
                found.push(with_e);
            }
            if let Some(stem) = stem.strip_suffix('i').filter(|_| ending == "ed") {
                found.extend(Some(format!("{stem}y")).filter(|base| is_verb(base)));
            }
            if let Some(stem) = stem.strip_suffix('y').filter(|_| ending == "ing") {
                found.extend(Some(format!("{stem}ie")).filter(|base| is_verb(base)));
            }
            if let Some(stem) = stem.strip_suffix('k').filter(|stem| stem.ends_with('c')) {
                found.extend(Some(stem.to_owned()).filter(|base| is_verb(base)));
            }
            let commonest = found.iter().position(|base| !self.lexicon.has(base, Classes::RARE)).unwrap_or(0);
            if !found.is_empty() {
                return Some((found.swap_remove(commonest), ending));
            }
        }
        let stem = small.strip_suffix('s').filter(|stem| !stem.ends_with('s'))?;
        if let Some(stem) = small.strip_suffix("ies") {
            let base = format!("{stem}y");
            if is_verb(&base) {
                return Some((base, "s"));
            }
        }
        let short = small
            .strip_suffix("es")
            .filter(|short| ends_with_any(short, &["s", "x", "z", "ch", "sh", "o"]) && is_verb(short));
        if is_verb(stem) && !ends_with_any(stem, &["s", "x", "z", "ch", "sh"]) {
            return Some((stem.to_owned(), "s"));
        }
        short.map(|short| (short.to_owned(), "s"))
    }

    /// Whether the word doubles its last letter and nothing else will do.
    fn must_double(&self, word: &str) -> bool {
        let vowels = word.bytes().filter(|byte| b"aeiouy".contains(byte)).count();
        self.lexicon.has(word, Classes::DOUBLES) && vowels < 2
    }

    fn compared(&self, small: &str, tag: Tag) -> Option<String> {
        let other = if tag == Tag::Adjective { Tag::Adverb } else { Tag::Adjective };
        let irregular =
            [tag, other].into_iter().find_map(|tag| self.irregular_for(small, |known| known == tag));
        if let Some(lemma) = irregular {
            return Some(lemma.to_owned());
        }
        if let Some((_, lemma)) = PREFERRED.iter().find(|(known, _)| *known == small)
            && self.lexicon.has(lemma, Classes::COMPARED)
        {
            return Some((*lemma).to_owned());
        }
        self.comparison_base(small)
    }

    /// The base of a regular comparative or superlative that the lexicon lists.
    fn comparison_base(&self, small: &str) -> Option<String> {
        let stem =
            small.strip_suffix("er").or_else(|| small.strip_suffix("est")).filter(|stem| stem.len() > 1)?;
        let is = |word: &str| self.lexicon.has(word, Classes::COMPARED);
        if let Some(stem) = stem.strip_suffix('i') {
            let base = format!("{stem}y");
            if is(&base) {
                return Some(base);
            }
        }
        if is(stem) && !self.must_double(stem) {
            return Some(stem.to_owned());
        }
        let with_e = format!("{stem}e");
        if is(&with_e) {
            return Some(with_e);
        }
        undoubled(stem).filter(|single| is(single)).map(str::to_owned)
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

/// Prefixes that make a verb of a verb.
const PREFIXES: &[&str] = &[
    "over", "under", "out", "re", "mis", "un", "up", "fore", "with", "inter", "counter", "pre", "co", "de",
    "dis", "be", "down", "off", "hand", "cross", "ghost", "proof", "sight", "type", "spoon", "bottle",
    "test", "baby",
];

/// The base of a verb's form that the lexicon does not know, by its shape alone.
fn unknown_verb(small: &str) -> Option<String> {
    let has_vowel = |stem: &str| stem.contains(['a', 'e', 'i', 'o', 'u', 'y']);
    for ending in ["ing", "ed"] {
        let Some(stem) = small.strip_suffix(ending).filter(|stem| stem.len() > 1 && has_vowel(stem)) else {
            continue;
        };
        if let Some(single) = undoubled(stem).filter(|_| !ends_with_any(stem, &["ll", "ss", "ff", "zz"])) {
            return Some(single.to_owned());
        }
        if let Some(stem) = stem.strip_suffix('i') {
            return Some(format!("{stem}y"));
        }
        let needs_e = ends_with_any(
            stem,
            &[
                "v", "c", "u", "at", "iz", "is", "dg", "rg", "ng", "rs", "bl", "pl", "tl", "dl", "gl", "kl",
                "fl", "zl",
            ],
        ) && !ends_with_any(stem, &["eat", "oat"])
            || is_short_syllable(stem);
        return Some(if needs_e { format!("{stem}e") } else { stem.to_owned() });
    }
    if ends_with_any(small, &["ss", "us", "is"]) || small.len() < 4 {
        return None;
    }
    if let Some(stem) = small.strip_suffix("ies") {
        return Some(format!("{stem}y"));
    }
    if ends_with_any(small, &["sses", "xes", "zzes", "ches", "shes"]) {
        return Some(small[..small.len() - 2].to_owned());
    }
    small.strip_suffix('s').map(str::to_owned)
}

/// Whether a stem is one short syllable that has lost an e: consonant, single vowel, single consonant.
fn is_short_syllable(stem: &str) -> bool {
    let bytes = stem.as_bytes();
    let is_vowel = |byte: u8| b"aeiou".contains(&byte);
    match bytes {
        [before @ .., vowel, last] => {
            is_vowel(*vowel)
                && !is_vowel(*last)
                && !b"wxy".contains(last)
                && before.iter().all(|&byte| !is_vowel(byte))
        }
        _ => false,
    }
}

/// The stem without the second of two equal consonants at its end.
fn undoubled(stem: &str) -> Option<&str> {
    let bytes = stem.as_bytes();
    match bytes {
        [.., a, b] if a == b && a.is_ascii_lowercase() && !b"aeiou".contains(a) => {
            Some(&stem[..stem.len() - 1])
        }
        _ => None,
    }
}

/// The word before a possessive ending, unless the whole is a contraction.
fn possessor(small: &str) -> Option<&str> {
    let bare = small.strip_suffix("'s").or_else(|| small.strip_suffix("\u{2019}s"))?;
    let contracted =
        ["it", "that", "what", "who", "where", "there", "here", "how", "let", "he", "she", "when", "why"];
    (!bare.is_empty() && !contracted.contains(&bare)).then_some(bare)
}

fn ends_with_any(word: &str, endings: &[&str]) -> bool {
    endings.iter().any(|ending| word.ends_with(ending))
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
