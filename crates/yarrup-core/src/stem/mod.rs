//! Published stemmers, each written from its author's description.

mod dutch;
mod full;
mod harman;
mod light;
mod own;
mod paice;
mod polish;
mod porter;
mod porter2;
mod turkish;

pub use dutch::dutch;
pub use harman::harman;
pub use light::{french, german, italian, portuguese, russian, spanish, swedish};
pub use own::OwnRules;
pub use paice::paice;
pub use porter::porter;
pub use porter2::porter2;

use crate::words::shelf_code;

/// A stemmer on the shelf.
#[derive(Clone, Copy, Debug)]
pub struct Stemmer {
    /// What recipes call it.
    pub method: &'static str,
    /// The language that it is for.
    pub language: &'static str,
    /// Its publication.
    pub source: &'static str,
    /// What it makes of a word in small letters.
    pub stem: fn(&str) -> String,
}

/// The stemmers on the shelf. The first of each language is taken where a recipe names none.
pub static STEMMERS: &[Stemmer] = &[
    Stemmer { method: "porter2", language: "en", source: "M. F. Porter (2001)", stem: porter2 },
    Stemmer { method: "porter", language: "en", source: "M. F. Porter (1980)", stem: porter },
    Stemmer { method: "s", language: "en", source: "D. Harman (1991)", stem: harman },
    Stemmer { method: "paice", language: "en", source: "C. D. Paice (1990)", stem: paice },
    Stemmer { method: "light", language: "de", source: "J. Savoy (2006)", stem: german },
    Stemmer { method: "light", language: "fr", source: "J. Savoy (2006)", stem: french },
    Stemmer { method: "light", language: "es", source: "J. Savoy (2002)", stem: spanish },
    Stemmer { method: "light", language: "it", source: "J. Savoy (2002)", stem: italian },
    Stemmer { method: "light", language: "pt", source: "J. Savoy (2006)", stem: portuguese },
    Stemmer {
        method: "light",
        language: "nl",
        source: "M. F. Porter (2001), W. Kraaij and R. Pohlmann (1994)",
        stem: dutch,
    },
    Stemmer { method: "light", language: "sv", source: "J. Savoy (2003)", stem: swedish },
    Stemmer { method: "light", language: "ru", source: "L. Dolamic and J. Savoy (2009)", stem: russian },
    Stemmer {
        method: "light",
        language: "pl",
        source: "the grammar of Polish, for this project",
        stem: polish::polish,
    },
    Stemmer {
        method: "light",
        language: "tr",
        source: "after G. Eryiğit and E. Adalı (2004), for this project",
        stem: turkish::turkish,
    },
    Stemmer { method: "full", language: "de", source: "M. F. Porter (2001)", stem: full::german },
    Stemmer { method: "full", language: "fr", source: "M. F. Porter (2001)", stem: full::french },
    Stemmer { method: "full", language: "es", source: "M. F. Porter (2001)", stem: full::spanish },
    Stemmer { method: "full", language: "it", source: "M. F. Porter (2001)", stem: full::italian },
    Stemmer { method: "full", language: "pt", source: "M. F. Porter (2001)", stem: full::portuguese },
    Stemmer {
        method: "full",
        language: "nl",
        source: "M. F. Porter (2001), W. Kraaij and R. Pohlmann (1994)",
        stem: dutch,
    },
    Stemmer { method: "full", language: "sv", source: "M. F. Porter (2001)", stem: full::swedish },
    Stemmer { method: "full", language: "no", source: "M. F. Porter (2001)", stem: full::norwegian },
    Stemmer { method: "full", language: "da", source: "M. F. Porter (2001)", stem: full::danish },
    Stemmer { method: "full", language: "fi", source: "M. F. Porter (2001)", stem: full::finnish },
    Stemmer {
        method: "full",
        language: "hu",
        source: "A. Tordai and M. de Rijke (2006)",
        stem: full::hungarian,
    },
    Stemmer { method: "full", language: "ro", source: "E. Iordache (2007)", stem: full::romanian },
    Stemmer { method: "full", language: "ru", source: "M. F. Porter (2001)", stem: full::russian },
];

/// The stemmer of this method for a language; the language's first where no method is named.
pub fn stemmer(language: &str, method: Option<&str>) -> Option<&'static Stemmer> {
    STEMMERS.iter().find(|stemmer| {
        stemmer.language == shelf_code(language) && method.is_none_or(|method| stemmer.method == method)
    })
}

/// Whether a word is too short to be stemmed: one or two letters.
fn is_too_short(word: &str) -> bool {
    word.chars().nth(2).is_none()
}

/// A word that is being stemmed. All rules speak of bytes: the letters a to z are what they know, and every other
/// character counts as consonants.
fn into_word(bytes: Vec<u8>) -> String {
    // Suffixes are ASCII, so cutting them off cannot part a character; lossy only to have no panic on the path.
    String::from_utf8(bytes).unwrap_or_else(|error| String::from_utf8_lossy(error.as_bytes()).into_owned())
}

/// Rules by suffix. The last letter alone tells of most words that none applies.
struct Rules<T: 'static> {
    rules: &'static [(&'static str, T)],
    /// The last letters of the suffixes, a bit for each.
    last_letters: u128,
}

impl<T> Rules<T> {
    /// Suffixes are ASCII.
    const fn new(rules: &'static [(&'static str, T)]) -> Rules<T> {
        let (mut last_letters, mut at) = (0, 0);
        while at < rules.len() {
            let suffix = rules[at].0.as_bytes();
            last_letters |= 1 << suffix[suffix.len() - 1];
            at += 1;
        }
        Rules { rules, last_letters }
    }

    /// The longest whose suffix ends `word`.
    fn longest(&self, word: &[u8]) -> Option<&(&'static str, T)> {
        let last = word.last().filter(|last| last.is_ascii())?;
        if self.last_letters >> last & 1 == 0 { None } else { longest(word, self.rules) }
    }
}

/// The longest of `rules` whose suffix ends `word`.
fn longest<'r, T>(word: &[u8], rules: &'r [(&'static str, T)]) -> Option<&'r (&'static str, T)> {
    let last = word.last();
    // The last letter alone rules most suffixes out.
    let ends = |suffix: &str| suffix.as_bytes().last() == last && word.ends_with(suffix.as_bytes());
    rules.iter().filter(|(suffix, _)| ends(suffix)).max_by_key(|(suffix, _)| suffix.len())
}
