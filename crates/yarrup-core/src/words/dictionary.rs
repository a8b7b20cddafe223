use std::sync::OnceLock;

/// The words of a language, for questions of whether there is such a word.
#[derive(Debug)]
pub struct Dictionary {
    /// All words, one behind the other, in the order of their bytes.
    letters: String,
    /// Where each word begins, and the end of the last.
    begins: Vec<u32>,
}

/// Unpacked at the first question: most recipes never ask.
static ENGLISH: OnceLock<Dictionary> = OnceLock::new();

/// The dictionary on the shelf for this language, such as `en`.
pub fn dictionary(language: &str) -> Option<&'static Dictionary> {
    (language == "en").then(|| ENGLISH.get_or_init(|| Dictionary::unpacked(include_bytes!("english.bin"))))
}

impl Dictionary {
    /// Reads words that are front-coded: a byte says how many bytes a word shares with the one before; a zero ends it.
    fn unpacked(packed: &[u8]) -> Dictionary {
        let (mut letters, mut begins) = (String::with_capacity(packed.len() * 3), vec![0]);
        let mut word: Vec<u8> = Vec::new();
        let mut rest = packed;
        while let Some((&shared, tail)) = rest.split_first() {
            let end = tail.iter().position(|&byte| byte == 0).unwrap_or(tail.len());
            word.truncate(usize::from(shared));
            word.extend_from_slice(&tail[..end]);
            letters.push_str(std::str::from_utf8(&word).unwrap_or_default());
            begins.push(letters.len() as u32);
            rest = tail.get(end + 1..).unwrap_or_default();
        }
        Dictionary { letters, begins }
    }

    fn word(&self, number: usize) -> &str {
        &self.letters[self.begins[number] as usize..self.begins[number + 1] as usize]
    }

    /// How many words it holds.
    pub fn len(&self) -> usize {
        self.begins.len() - 1
    }

    /// Whether it holds none.
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// Whether it holds `word`, which is in small letters.
    pub fn has(&self, word: &str) -> bool {
        let (mut low, mut high) = (0, self.len());
        while low < high {
            let middle = (low + high) / 2;
            match self.word(middle).cmp(word) {
                std::cmp::Ordering::Equal => return true,
                std::cmp::Ordering::Less => low = middle + 1,
                std::cmp::Ordering::Greater => high = middle,
            }
        }
        false
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
