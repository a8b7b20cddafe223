//! What speaks for a language in a text: its function words, and letters that it is not written with.

use std::sync::OnceLock;

use hashbrown::HashMap;

use crate::language::names::Language;
use crate::unicode;
use crate::words::{STOP_LISTS, StopList, one_a_line};

/// How many function words a letter that a language does not have weighs as much as, and how many such letters are counted: a text may have foreign names.
const FOREIGN_LETTER: f32 = 2.0;
const MOST_FOREIGN: u32 = 6;

/// The letters beside `a` to `z` that languages in the Latin script are written with, and all letters of those in the Cyrillic one.
const LETTERS: &[(&str, &str)] = &[
    ("af", "êëéôîïö"),
    ("az", "çəğıöşü"),
    ("ca", "àçèéíïòóúü"),
    ("cs", "áčďéěíňóřšťúůýžöü"),
    ("cy", "âêîôûŵŷïö"),
    ("da", "æøåéöäü"),
    ("de", "äöüßé"),
    ("en", "éèïêñçâöü"),
    ("eo", "ĉĝĥĵŝŭ"),
    ("es", "áéíóúüñ"),
    ("et", "äöõüšž"),
    ("eu", "ñü"),
    ("fi", "äöåšžé"),
    ("fr", "àâæçéèêëîïôœùûüÿ"),
    ("ga", "áéíóú"),
    ("gl", "áéíóúüñ"),
    ("hr", "čćđšž"),
    ("hu", "áéíóöőúüű"),
    ("id", "é"),
    ("is", "áéíóúýþæöð"),
    ("it", "àèéìíîòóùú"),
    ("la", ""),
    ("lt", "ąčęėįšųūž"),
    ("lv", "āčēģīķļņšūž"),
    ("nl", "éèëïóöüáúíê"),
    ("no", "æøåéòôäöü"),
    ("pl", "ąćęłńóśźżé"),
    ("pt", "áâãàçéêíóôõúü"),
    ("ro", "ăâîșşțţ"),
    ("sk", "áäčďéíĺľňóôŕšťúýž"),
    ("sl", "čšžé"),
    ("sq", "ëç"),
    ("sv", "åäöéüà"),
    ("sw", ""),
    ("tr", "âçğıîöşüû"),
    ("be", "абвгдеёжзійклмнопрстуўфхцчшыьэюя"),
    ("bg", "абвгдежзийѝклмнопрстуфхцчшщъьюя"),
    ("mk", "абвгдѓежзѕијклљмнњопрстќуфхцчџш"),
    ("ru", "абвгдеёжзийклмнопрстуфхцчшщъыьэюя"),
    ("sr", "абвгдђежзијклљмнњопрстћуфхцчџш"),
    ("uk", "абвгґдеєжзиіїйклмнопрстуфхцчшщьюя"),
];

/// What speaks for each language in a text.
pub(super) struct Evidence {
    scores: Vec<Score>,
    words: usize,
    function_words: usize,
    /// How much all function words weigh, of whatever language.
    weight: f32,
}

/// What speaks for one language.
struct Score {
    language: Language,
    /// Its function words. A short one weighs less: it may be of any language, or a letter of a list.
    words: f32,
    /// Letters that it does not have.
    foreign: u32,
    /// What else speaks for it, as so many function words.
    more: f32,
}

impl Score {
    fn sum(&self) -> f32 {
        self.words + self.more - FOREIGN_LETTER * self.foreign.min(MOST_FOREIGN) as f32
    }
}

impl Evidence {
    /// What speaks for each language that has a function word in the text.
    pub(super) fn of(text: &str) -> Evidence {
        let known = known();
        let mut weights = vec![0f32; known.languages.len()];
        let (mut words, mut function_words, mut all) = (0, 0, 0.0);
        let mut letters: Vec<char> = Vec::new();
        for word in text.split_whitespace() {
            let word = word.trim_matches(|c: char| !(c.is_alphanumeric() || unicode::is_apostrophe(c)));
            if !word.contains(char::is_alphabetic) {
                continue;
            }
            words += 1;
            let small = unicode::small_letters(word);
            letters.extend(small.chars().filter(|c| !c.is_ascii() && c.is_alphabetic()));
            // `dell'acqua`: the word before an apostrophe is one by itself, whatever the apostrophe.
            let elided = || {
                let before = &small[..small.find(unicode::is_apostrophe)?];
                known.words.get(&format!("{before}'"))
            };
            let Some(theirs) = known.words.get(&*small).or_else(elided) else { continue };
            function_words += 1;
            let weight = match small.chars().count() {
                1 => 0.5,
                2 => 0.8,
                _ => 1.0,
            };
            all += weight;
            for language in theirs {
                weights[usize::from(*language)] += weight;
            }
        }
        let foreign = known.foreign(letters);
        let scores = known.languages.iter().zip(weights).zip(foreign);
        let scores = scores.filter(|((_, words), _)| *words > 0.0);
        let scores = scores.map(|((language, words), foreign)| Score {
            language: *language,
            words,
            foreign,
            more: 0.0,
        });
        Evidence { scores: scores.collect(), words, function_words, weight: all }
    }

    /// Adds what else speaks for a language, as so many function words.
    pub(super) fn add(&mut self, language: Language, more: f32) {
        match self.scores.iter_mut().find(|score| score.language == language) {
            Some(score) => score.more += more,
            None => self.scores.push(Score { language, words: 0.0, foreign: 0, more }),
        }
    }

    /// The language that most speaks for, with how much it is, and what speaks for the next; nothing may speak for that.
    pub(super) fn two_best(&self) -> (Option<(Language, f32)>, f32) {
        let mut best: Option<(Language, f32)> = None;
        let mut next = 0f32;
        for score in &self.scores {
            let (sum, most) = (score.sum(), best.map_or(f32::MIN, |(_, most)| most));
            next = next.max(sum.min(most));
            if sum > most {
                best = Some((score.language, sum));
            }
        }
        (best, next)
    }

    /// How much the function words of a language weigh.
    pub(super) fn words_of(&self, language: Language) -> f32 {
        self.scores.iter().find(|score| score.language == language).map_or(0.0, |score| score.words)
    }

    /// How much the function words weigh of the language that has most.
    pub(super) fn most_words(&self) -> f32 {
        self.scores.iter().map(|score| score.words).fold(0.0, f32::max)
    }

    /// How much all function words of the text weigh, of whatever language.
    pub(super) fn all_words(&self) -> f32 {
        self.weight
    }

    /// How many words the text has.
    pub(super) fn words(&self) -> f32 {
        self.words as f32
    }

    /// How many of these are function words of some language.
    pub(super) fn function_words(&self) -> f32 {
        self.function_words as f32
    }
}

/// The languages that have function words here.
struct Known {
    languages: Vec<Language>,
    /// By function word in small letters: the languages that have it, by their numbers.
    words: HashMap<String, Vec<u8>, foldhash::fast::RandomState>,
    /// The languages whose letters are known, a bit for each: those in the Latin script, and those in the Cyrillic one.
    lettered: [u64; 2],
    /// By letter: those of them that have it.
    letters: HashMap<char, u64, foldhash::fast::RandomState>,
}

impl Known {
    fn add<'w>(&mut self, code: &str, words: impl Iterator<Item = &'w str>) {
        let Some(language) = Language::of(code) else { return };
        let known = self.languages.iter().position(|known| *known == language);
        let number = known.unwrap_or(self.languages.len());
        if known.is_none() {
            self.languages.push(language);
        }
        for word in words {
            let known = self.words.entry(word.to_owned()).or_default();
            if !known.contains(&(number as u8)) {
                known.push(number as u8);
            }
        }
    }

    /// How many of these letters each language of their script does not have.
    fn foreign(&self, mut letters: Vec<char>) -> Vec<u32> {
        let mut foreign = vec![0; self.languages.len()];
        letters.sort_unstable();
        for alike in letters.chunk_by(|one, other| one == other) {
            let Some(with) = self.letters.get(&alike[0]) else { continue };
            let mut without = self.lettered[script(alike[0])] & !with;
            while without != 0 {
                foreign[without.trailing_zeros() as usize] += alike.len() as u32;
                without &= without - 1;
            }
        }
        foreign
    }
}

/// The number of a letter's script: 0 for Latin, 1 for Cyrillic.
fn script(letter: char) -> usize {
    usize::from(('\u{400}'..='\u{4ff}').contains(&letter))
}

/// Languages that are told by the words in `tell-languages.txt` alone. With their stop lists, one or two in a hundred short texts in the larger languages beside them
/// (Spanish, Portuguese, Czech) have no language any more.
const TOLD_BY_FEW: [&str; 4] = ["gl", "hr", "ko", "sk"];

fn known() -> &'static Known {
    static KNOWN: OnceLock<Known> = OnceLock::new();
    KNOWN.get_or_init(|| {
        let mut known = Known {
            languages: Vec::new(),
            words: HashMap::default(),
            lettered: [0; 2],
            letters: HashMap::default(),
        };
        let tells = |list: &&StopList| list.name == list.language && !TOLD_BY_FEW.contains(&list.language);
        for list in STOP_LISTS.iter().filter(tells) {
            let words: Vec<String> = list.groups().into_iter().flat_map(|(_, words)| words).collect();
            known.add(list.language, words.iter().map(String::as_str));
        }
        for line in one_a_line(include_str!("../words/tell-languages.txt")) {
            let mut words = line.split_ascii_whitespace();
            if let Some(code) = words.next() {
                known.add(code, words);
            }
        }
        assert!(known.languages.len() <= 64, "a bit for each language");
        for (code, letters) in LETTERS {
            let Some(number) = known.languages.iter().position(|language| language.code == *code) else {
                continue;
            };
            known.lettered[letters.chars().next().map_or(0, script)] |= 1 << number;
            for letter in letters.chars() {
                *known.letters.entry(letter).or_default() |= 1 << number;
            }
        }
        known
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_are_counted_and_foreign_letters_speak_against() {
        let spanish = Evidence::of("El niño no hace al hombre.");
        let code = |evidence: &Evidence| evidence.two_best().0.map(|(language, _)| language.code);
        assert_eq!(code(&spanish), Some("es"));
        let catalan = Language::of("ca").expect("it is in the table");
        assert!(spanish.words_of(catalan) > 1.0);
        let plain = Evidence::of("El nino no hace al hombre.");
        let ahead = |evidence: &Evidence| {
            let (first, next) = evidence.two_best();
            first.map_or(0.0, |(_, most)| most - next)
        };
        assert!(ahead(&spanish) > ahead(&plain));
        let [straight, typographic] =
            ["'", "’"].map(|sign| Evidence::of(&format!("l{sign}aigua d{sign}un riu")));
        assert_eq!(straight.words_of(catalan), typographic.words_of(catalan));
        assert_eq!((spanish.words() as usize, spanish.function_words() as usize), (6, 5));
    }

    #[test]
    fn every_language_with_letters_has_words_and_writes_them_with_these() {
        let known = known();
        for (code, letters) in LETTERS {
            let number = known.languages.iter().position(|language| language.code == *code);
            let number = number.unwrap_or_else(|| panic!("{code} has no function words")) as u8;
            let own = known.words.iter().filter(|(_, languages)| languages.contains(&number));
            let odd: Vec<&str> = own
                .map(|(word, _)| word.as_str())
                .filter(|word| {
                    word.chars().any(|c| !c.is_ascii() && c.is_alphabetic() && !letters.contains(c))
                })
                .collect();
            assert!(odd.is_empty(), "{code}: {odd:?}");
        }
    }
}
