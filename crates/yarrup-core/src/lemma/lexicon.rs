use std::sync::OnceLock;

use crate::words::FrontCoded;

/// The English base words with their word classes, from SCOWL: `scripts/english-lexicon.py` makes the file and tells its format.
#[derive(Debug)]
pub(crate) struct Lexicon(FrontCoded);

/// What is known of a base word, a bit for each.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Classes(u8);

impl Classes {
    pub(crate) const NOUN: u8 = 1;
    pub(crate) const VERB: u8 = 2;
    pub(crate) const ADJECTIVE: u8 = 4;
    pub(crate) const ADVERB: u8 = 8;
    /// It has -er and -est.
    pub(crate) const COMPARED: u8 = 16;
    /// Its last letter is doubled before -ed, -ing, -er and -est.
    pub(crate) const DOUBLES: u8 = 32;
    /// It is a name with a capital.
    pub(crate) const NAME: u8 = 64;
    /// It is not among the commonest 60,000 words or so.
    pub(crate) const RARE: u8 = 128;

    /// Whether any of these holds.
    pub(crate) fn has(self, any: u8) -> bool {
        self.0 & any != 0
    }

    /// Whether it is a name and nothing else.
    pub(crate) fn is_name_alone(self) -> bool {
        self.has(Classes::NAME)
            && !self.has(Classes::NOUN | Classes::VERB | Classes::ADJECTIVE | Classes::ADVERB)
    }

    /// The bits, as a feature.
    pub(crate) fn bits(self) -> u8 {
        self.0
    }
}

static ENGLISH: OnceLock<Lexicon> = OnceLock::new();

/// The English lexicon, unpacked at the first call.
pub(crate) fn english_lexicon() -> &'static Lexicon {
    ENGLISH.get_or_init(|| Lexicon(FrontCoded::unpacked(include_bytes!("lexicon-en.bin"), true)))
}

impl Lexicon {
    /// What is known of a base word in small letters; none if it is not listed.
    pub(crate) fn classes(&self, word: &str) -> Option<Classes> {
        self.0.flags(word).map(Classes)
    }

    /// Whether a base word has one of these classes.
    pub(crate) fn has(&self, word: &str, any: u8) -> bool {
        self.classes(word).is_some_and(|classes| classes.has(any))
    }

    /// Every word with its classes, for looking at.
    pub(crate) fn lines(&self) -> impl Iterator<Item = String> + '_ {
        const NAMES: [&str; 8] =
            ["noun", "verb", "adjective", "adverb", "compared", "doubles", "name", "rare"];
        (0..self.0.len()).map(|number| {
            let word = self.0.word(number);
            let classes = self.classes(word).unwrap_or_default();
            let named: Vec<&str> = NAMES
                .iter()
                .enumerate()
                .filter(|(bit, _)| classes.has(1 << bit))
                .map(|(_, name)| *name)
                .collect();
            format!("{word} {}", named.join(" ")).trim_end().to_owned()
        })
    }

    pub(crate) fn len(&self) -> usize {
        self.0.len()
    }
}
