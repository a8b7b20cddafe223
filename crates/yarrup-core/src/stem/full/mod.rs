//! Full stemmers: inflection of nouns, adjectives and verbs goes, and the commonest derivations. They are the algorithms that the group around M. F. Porter
//! described from 2001 on, in their notation: regions of a word, and lists of endings of which the longest is taken.

mod danish;
mod finnish;
mod french;
mod german;
mod hungarian;
mod italian;
mod norwegian;
mod portuguese;
mod romanian;
mod russian;
mod spanish;
mod swedish;

pub(super) use danish::danish;
pub(super) use finnish::finnish;
pub(super) use french::french;
pub(super) use german::german;
pub(super) use hungarian::hungarian;
pub(super) use italian::italian;
pub(super) use norwegian::norwegian;
pub(super) use portuguese::portuguese;
pub(super) use romanian::romanian;
pub(super) use russian::russian;
pub(super) use spanish::spanish;
pub(super) use swedish::swedish;

/// A word that is being stemmed, letter by letter. Letters that count as consonants although they look like vowels are capitals.
struct Word {
    letters: Vec<char>,
    vowels: &'static str,
    /// Where the region of the verb's endings begins.
    rv: usize,
    /// Where the region behind the first consonant behind a vowel begins, and the same within it.
    r1: usize,
    r2: usize,
}

impl Word {
    /// A word of these letters, with its first two regions.
    fn of(letters: Vec<char>, vowels: &'static str) -> Word {
        let mut word = Word { rv: letters.len(), r1: 0, r2: 0, letters, vowels };
        word.r1 = word.region(0);
        word.r2 = word.region(word.r1);
        word
    }

    /// Where the region behind the first consonant behind a vowel begins, from a place on.
    fn region(&self, from: usize) -> usize {
        let found = (from + 1..self.letters.len()).find(|&at| !self.is_vowel(at) && self.is_vowel(at - 1));
        found.map_or(self.letters.len(), |at| at + 1)
    }

    fn is_vowel(&self, at: usize) -> bool {
        self.letters.get(at).is_some_and(|letter| self.vowels.contains(*letter))
    }

    /// The region of the verb's endings in Spanish, Italian and Portuguese: behind the next vowel, if the second letter is a consonant; behind the next
    /// consonant, if the first two are vowels; else behind the third letter.
    fn romance_rv(&self) -> usize {
        let length = self.letters.len();
        let next =
            |vowel: bool| (2..length).find(|&at| self.is_vowel(at) == vowel).map_or(length, |at| at + 1);
        match (self.is_vowel(0), self.is_vowel(1)) {
            _ if length < 3 => length,
            (_, false) => next(true),
            (true, true) => next(false),
            (false, true) => 3,
        }
    }

    fn ends(&self, ending: &str) -> bool {
        ends(&self.letters, ending)
    }

    /// Whether an ending stands within a region.
    fn within(&self, region: usize, ending: &str) -> bool {
        self.letters.len() >= region && ends(&self.letters[region..], ending)
    }

    /// The longest of these endings that the word has.
    fn longest(&self, endings: &[&'static str]) -> Option<&'static str> {
        self.longest_within(0, endings)
    }

    /// The longest of these endings that stands within a region.
    fn longest_within(&self, region: usize, endings: &[&'static str]) -> Option<&'static str> {
        let fits = endings.iter().filter(|ending| self.within(region, ending));
        fits.max_by_key(|ending| ending.chars().count()).copied()
    }

    /// The letter before an ending.
    fn before(&self, ending: &str) -> Option<char> {
        let at = self.letters.len().checked_sub(ending.chars().count() + 1)?;
        self.letters.get(at).copied()
    }

    fn cut(&mut self, ending: &str) {
        self.put(ending, "");
    }

    /// Puts something in the place of an ending.
    fn put(&mut self, ending: &str, other: &str) {
        self.letters.truncate(self.letters.len().saturating_sub(ending.chars().count()));
        self.letters.extend(other.chars());
    }

    /// Takes an ending off if it stands within a region. Whether it did.
    fn cut_within(&mut self, region: usize, ending: &str) -> bool {
        let fits = self.within(region, ending);
        if fits {
            self.cut(ending);
        }
        fits
    }

    /// Puts something in the place of an ending that stands within a region. Whether it did.
    fn put_within(&mut self, region: usize, ending: &str, other: &str) -> bool {
        let fits = self.within(region, ending);
        if fits {
            self.put(ending, other);
        }
        fits
    }

    /// Takes `-amente` off in Spanish, Italian and Portuguese, and what the adjective behind it ended with. Whether it did.
    fn cut_adverb(&mut self, adjectives: &[&str]) -> bool {
        if !self.cut_within(self.r1, "amente") {
            return false;
        }
        let r2 = self.r2;
        if self.cut_within(r2, "iv") {
            self.cut_within(r2, "at");
        } else {
            self.cut_any_within(r2, adjectives);
        }
        true
    }

    /// Takes the first of these endings off that the word has, if it stands within a region. Whether the word has one.
    fn cut_any_within(&mut self, region: usize, endings: &[&str]) -> bool {
        let found = endings.iter().find(|ending| self.ends(ending));
        if let Some(ending) = found {
            self.cut_within(region, ending);
        }
        found.is_some()
    }

    fn text(self) -> String {
        self.letters.into_iter().collect()
    }
}

fn ends(letters: &[char], ending: &str) -> bool {
    let length = ending.chars().count();
    length <= letters.len() && letters[letters.len() - length..].iter().copied().eq(ending.chars())
}

/// The letters of a word, those for which `counts` holds between the letters on either side as capitals.
fn marked(word: &str, counts: impl Fn(Option<char>, char, Option<char>) -> bool) -> Vec<char> {
    let mut letters: Vec<char> = word.chars().collect();
    for at in 0..letters.len() {
        let before = at.checked_sub(1).map(|before| letters[before]);
        if counts(before, letters[at], letters.get(at + 1).copied()) {
            letters[at] = letters[at].to_ascii_uppercase();
        }
    }
    letters
}

/// Letters in the place of others.
fn replaced(letters: impl Iterator<Item = char>, table: &[(&str, char)]) -> String {
    letters
        .map(|letter| table.iter().find(|(from, _)| from.contains(letter)).map_or(letter, |(_, to)| *to))
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn regions_are_those_of_the_description() {
        // The examples of the description: `beautiful`, `beauty`, `animadversion`, `eucharist`.
        for (word, r1, r2) in [
            ("beautiful", "iful", "ul"),
            ("beauty", "y", ""),
            ("beau", "", ""),
            ("animadversion", "imadversion", "adversion"),
            ("sprinkled", "kled", ""),
            ("eucharist", "harist", "ist"),
        ] {
            let word = Word::of(word.chars().collect(), "aeiouy");
            assert_eq!(word.letters[word.r1..].iter().collect::<String>(), r1);
            assert_eq!(word.letters[word.r2..].iter().collect::<String>(), r2);
        }
        // `macho`, `oliva`, `trabajo`, `áureo`.
        for (word, rv) in [("macho", "ho"), ("oliva", "va"), ("trabajo", "bajo"), ("áureo", "eo")] {
            let word = Word::of(word.chars().collect(), "aeiouáéíóúü");
            assert_eq!(word.letters[word.romance_rv()..].iter().collect::<String>(), rv);
        }
    }

    proptest::proptest! {
        #[test]
        fn any_word_has_a_stem(word in "[a-zäöüßéèçñãõâîûÿœæåøășțőűáíóúа-яё']{0,14}") {
            for stem in [german, french, spanish, italian, portuguese, swedish, norwegian, danish, russian, finnish, hungarian, romanian] {
                let stem = stem(&word);
                proptest::prop_assert!(stem.chars().count() <= word.chars().count() * 2);
            }
        }
    }
}
