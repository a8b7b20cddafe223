//! Parts of speech: the universal tags.

use std::fmt;

/// A part of speech: the seventeen universal tags (Nivre et al. 2016, "Universal Dependencies v1").
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[repr(u8)]
pub enum Tag {
    /// `ADJ`.
    Adjective = 1,
    /// `ADP`: a preposition or postposition.
    Adposition,
    /// `ADV`.
    Adverb,
    /// `AUX`.
    Auxiliary,
    /// `CCONJ`.
    CoordinatingConjunction,
    /// `DET`.
    Determiner,
    /// `INTJ`.
    Interjection,
    /// `NOUN`.
    Noun,
    /// `NUM`.
    Numeral,
    /// `PART`.
    Particle,
    /// `PRON`.
    Pronoun,
    /// `PROPN`.
    ProperNoun,
    /// `PUNCT`.
    Punctuation,
    /// `SCONJ`.
    SubordinatingConjunction,
    /// `SYM`.
    Symbol,
    /// `VERB`.
    Verb,
    /// `X`.
    Other,
}

/// A tag's code in treebanks, its name, and the plural of the name.
const TAGS: [(Tag, &str, &str, &str); Tag::COUNT] = [
    (Tag::Adjective, "ADJ", "adjective", "adjectives"),
    (Tag::Adposition, "ADP", "adposition", "adpositions"),
    (Tag::Adverb, "ADV", "adverb", "adverbs"),
    (Tag::Auxiliary, "AUX", "auxiliary", "auxiliaries"),
    (Tag::CoordinatingConjunction, "CCONJ", "coordinating conjunction", "coordinating conjunctions"),
    (Tag::Determiner, "DET", "determiner", "determiners"),
    (Tag::Interjection, "INTJ", "interjection", "interjections"),
    (Tag::Noun, "NOUN", "noun", "nouns"),
    (Tag::Numeral, "NUM", "numeral", "numerals"),
    (Tag::Particle, "PART", "particle", "particles"),
    (Tag::Pronoun, "PRON", "pronoun", "pronouns"),
    (Tag::ProperNoun, "PROPN", "proper noun", "proper nouns"),
    (Tag::Punctuation, "PUNCT", "punctuation", "punctuation marks"),
    (Tag::SubordinatingConjunction, "SCONJ", "subordinating conjunction", "subordinating conjunctions"),
    (Tag::Symbol, "SYM", "symbol", "symbols"),
    (Tag::Verb, "VERB", "verb", "verbs"),
    (Tag::Other, "X", "other", "others"),
];

impl Tag {
    /// How many there are.
    pub const COUNT: usize = 17;

    /// All tags, in the order of their codes.
    pub const ALL: [Tag; Tag::COUNT] = {
        let mut all = [Tag::Other; Tag::COUNT];
        let mut index = 0;
        while index < Tag::COUNT {
            all[index] = TAGS[index].0;
            index += 1;
        }
        all
    };

    /// What a recipe may write: the names, then the codes.
    pub const NAMES: &'static [&'static str] = &{
        let mut names = [""; 2 * Tag::COUNT];
        let mut index = 0;
        while index < Tag::COUNT {
            names[index] = TAGS[index].2;
            names[Tag::COUNT + index] = TAGS[index].1;
            index += 1;
        }
        names
    };

    /// The code in treebanks, such as `PROPN`.
    pub fn code(self) -> &'static str {
        TAGS[self as usize - 1].1
    }

    /// The name, such as `proper noun`.
    pub fn name(self) -> &'static str {
        TAGS[self as usize - 1].2
    }

    /// The name of many, such as `proper nouns`.
    pub fn plural(self) -> &'static str {
        TAGS[self as usize - 1].3
    }

    /// The tag with this code, name or plural, in any letter case.
    pub fn named(name: &str) -> Option<Tag> {
        let is = |known: &str| known.eq_ignore_ascii_case(name);
        TAGS.iter().find(|(_, code, one, many)| is(code) || is(one) || is(many)).map(|(tag, ..)| *tag)
    }

    /// The tag with this number, as `tag as u8` gives it.
    pub(crate) fn numbered(number: u8) -> Option<Tag> {
        Tag::ALL.get(usize::from(number).checked_sub(1)?).copied()
    }
}

impl fmt::Display for Tag {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.name())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn codes_names_and_numbers_go_there_and_back() {
        for tag in Tag::ALL {
            for name in [tag.code(), tag.name(), tag.plural()] {
                assert_eq!(Tag::named(name), Some(tag));
            }
            assert_eq!(Tag::numbered(tag as u8), Some(tag));
        }
        assert_eq!(Tag::numbered(0), None);
        assert_eq!(Tag::named("nun"), None);
    }
}
