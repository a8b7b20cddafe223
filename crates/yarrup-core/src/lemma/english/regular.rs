//! Regular forms of English: rules that are checked against the lexicon.

use super::{English, Irregular};
use crate::lemma::lexicon::Classes;
use crate::part_of_speech::Tag;

/// The most bytes that an irregular form has; a test looks at the table.
pub(super) const LONGEST_IRREGULAR: usize = 24;

impl English {
    pub(super) fn regular(&self, small: &str) -> Option<String> {
        self.plural_of(small)
            .or_else(|| self.verb_base(small).map(|(base, _)| base))
            .or_else(|| self.comparison_base(small))
    }

    pub(super) fn noun(&self, small: &str) -> Option<String> {
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
    pub(super) fn plural_of(&self, small: &str) -> Option<String> {
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
    pub(super) fn compound<'w>(&self, small: &'w str, tag: Tag) -> Option<(&'w str, Irregular)> {
        // No irregular form is longer, and a word may have a million letters.
        let from = small.len().saturating_sub(LONGEST_IRREGULAR);
        small.char_indices().skip(2).filter(|(at, _)| *at >= from).find_map(|(at, _)| {
            let known = self
                .irregular
                .get(&small[at..])?
                .iter()
                .find(|known| known.tag == tag && small.len() - at > 2)?;
            Some((&small[..at], *known))
        })
    }

    pub(super) fn verb(&self, small: &str, tag: Tag) -> Option<String> {
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
        if let Some(lemma) = self.words.preferred.get(small)
            && (small.ends_with("ing") || small.ends_with("ed"))
            && self.lexicon.has(lemma, Classes::VERB)
        {
            return Some((*lemma).to_owned());
        }
        if let Some((base, _)) = self.verb_base(small) {
            return Some(base);
        }
        // Verbs made of an irregular one: `overheard`, `mistook`, `outflew`.
        if let Some((first, known)) = self.compound(small, Tag::Verb)
            && self.words.prefixes.contains(first)
            && !self.lexicon.has(small, Classes::VERB)
        {
            return Some(format!("{first}{}", known.lemma));
        }
        if self.lexicon.has(small, Classes::VERB) {
            return None;
        }
        unknown_verb(small)
    }

    /// The base of a regular form of a verb that the lexicon lists, and the form's ending.
    pub(super) fn verb_base(&self, small: &str) -> Option<(String, &'static str)> {
        let is_verb = |word: &str| self.lexicon.has(word, Classes::VERB);
        // `seed` and `feed` are verbs, and no forms of `see` and `fee`.
        if small.ends_with("eed") && is_verb(small) {
            return None;
        }
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

    pub(super) fn compared(&self, small: &str, tag: Tag) -> Option<String> {
        let other = if tag == Tag::Adjective { Tag::Adverb } else { Tag::Adjective };
        let irregular =
            [tag, other].into_iter().find_map(|tag| self.irregular_for(small, |known| known == tag));
        if let Some(lemma) = irregular {
            return Some(lemma.to_owned());
        }
        if let Some(lemma) = self.words.preferred.get(small)
            && self.lexicon.has(lemma, Classes::COMPARED)
        {
            return Some((*lemma).to_owned());
        }
        self.comparison_base(small)
    }

    /// The base of a regular comparative or superlative that the lexicon lists.
    pub(super) fn comparison_base(&self, small: &str) -> Option<String> {
        let stem =
            small.strip_suffix("er").or_else(|| small.strip_suffix("est")).filter(|stem| stem.len() > 1)?;
        let is = |word: &str| self.lexicon.has(word, Classes::COMPARED);
        if let Some(stem) = stem.strip_suffix('i') {
            let base = format!("{stem}y");
            if is(&base) {
                return Some(base);
            }
        }
        // `redder` is of `red`, though there is a word `redd`.
        let rare = |word: &str| self.lexicon.has(word, Classes::RARE);
        if is(stem) && !self.must_double(stem) && !(rare(stem) && undoubled(stem).is_some_and(is)) {
            return Some(stem.to_owned());
        }
        let with_e = format!("{stem}e");
        if is(&with_e) {
            return Some(with_e);
        }
        undoubled(stem).filter(|single| is(single)).map(str::to_owned)
    }
}

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
pub(super) fn undoubled(stem: &str) -> Option<&str> {
    let bytes = stem.as_bytes();
    match bytes {
        [.., a, b] if a == b && a.is_ascii_lowercase() && !b"aeiou".contains(a) => {
            Some(&stem[..stem.len() - 1])
        }
        _ => None,
    }
}

pub(super) fn ends_with_any(word: &str, endings: &[&str]) -> bool {
    endings.iter().any(|ending| word.ends_with(ending))
}
