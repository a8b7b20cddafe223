use std::sync::OnceLock;

use crate::words::front_coded::FrontCoded;

/// The words of a language, for questions of whether there is such a word.
#[derive(Debug)]
pub struct Dictionary(FrontCoded);

/// Unpacked at the first question: most recipes never ask.
static ENGLISH: OnceLock<Dictionary> = OnceLock::new();

/// The dictionary on the shelf for this language, such as `en`.
pub fn dictionary(language: &str) -> Option<&'static Dictionary> {
    (language == "en").then(|| {
        ENGLISH.get_or_init(|| Dictionary(FrontCoded::unpacked(include_bytes!("english.bin"), false)))
    })
}

impl Dictionary {
    /// How many words it holds.
    pub fn len(&self) -> usize {
        self.0.len()
    }

    /// Whether it holds none.
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// The words, in the order of their bytes.
    pub fn words(&self) -> impl Iterator<Item = &str> {
        (0..self.len()).map(|number| self.0.word(number))
    }

    /// Whether it holds `word`, which is in small letters.
    pub fn has(&self, word: &str) -> bool {
        self.0.find(word).is_some()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_are_found_and_others_are_not() {
        let english = dictionary("en").expect("on the shelf");
        assert!(english.len() > 60_000);
        for word in ["breeding", "nest", "colour", "color", "zoology", "aardvark"] {
            assert!(english.has(word), "{word}");
        }
        for word in ["nestbox", "", "zzz", "breed-ing"] {
            assert!(!english.has(word), "{word}");
        }
        assert!(dictionary("xx").is_none());
    }
}
