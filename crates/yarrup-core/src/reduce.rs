//! Words outside of any recipe: what stemmers and lemmatisers make of them, and how far that agrees with groups that should fall
//! together.

use std::collections::BTreeMap;

use crate::lemma::{DictionaryFiles, DictionaryLemmas, Speller, english};
use crate::part_of_speech::Tag;
use crate::stem::{self, OwnRules};
use crate::tag::Model;

/// A way to reduce words.
pub struct Reducer(Method);

enum Method {
    Stemmer(fn(&str) -> String),
    English,
    Dictionary(Box<DictionaryLemmas>),
    Model(Box<Model>),
    Own(OwnRules),
}

impl Reducer {
    /// The stemmer of this method for a language; none if the shelf has no such stemmer.
    pub fn stemmer(language: &str, method: &str) -> Option<Reducer> {
        stem::stemmer(language, Some(method)).map(|stemmer| Reducer(Method::Stemmer(stemmer.stem)))
    }

    /// The English lemmatiser.
    pub fn english_lemma() -> Reducer {
        Reducer(Method::English)
    }

    /// A dictionary in Hunspell's format.
    ///
    /// # Errors
    ///
    /// If its files cannot be understood, with the line.
    pub fn dictionary(files: &DictionaryFiles) -> Result<Reducer, String> {
        DictionaryLemmas::read(files).map(|dictionary| Reducer(Method::Dictionary(Box::new(dictionary))))
    }

    /// A learned model.
    pub fn model(model: Model) -> Reducer {
        Reducer(Method::Model(Box::new(model)))
    }

    /// Own suffix rules.
    pub fn own(rules: OwnRules) -> Reducer {
        Reducer(Method::Own(rules))
    }

    /// What becomes of a word. Stemmers are given it in small letters.
    pub fn reduce(&self, word: &str, tag: Option<Tag>) -> String {
        match &self.0 {
            Method::Stemmer(stem) => stem(&word.to_lowercase()),
            Method::Own(rules) => rules.stem(&word.to_lowercase()),
            Method::English => english().lemma(word, tag).text.into_owned(),
            Method::Dictionary(dictionary) => dictionary.lemma(word, tag).unwrap_or_else(|| word.to_owned()),
            Method::Model(model) => {
                let lemma = match tag {
                    Some(tag) => model.lemma(word, tag),
                    None => model.lemma_without_tag(word),
                };
                lemma.unwrap_or_else(|| word.to_owned())
            }
        }
    }
}

/// Tells whether there is such a word in a language.
pub struct WordCheck(Speller);

impl WordCheck {
    /// English, by the lexicon on the shelf.
    pub fn english() -> WordCheck {
        WordCheck(Speller::English(english()))
    }

    /// By a dictionary in Hunspell's format.
    ///
    /// # Errors
    ///
    /// If its files cannot be understood, with the line.
    pub fn dictionary(files: &DictionaryFiles) -> Result<WordCheck, String> {
        Speller::dictionary(files).map(WordCheck)
    }

    /// Whether it is a word, or a form of one.
    pub fn knows(&self, word: &str) -> bool {
        self.0.knows(word)
    }
}

/// Groups of words that should fall together, or should be kept apart.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Groups {
    /// Words of a group should fall together, and words of different groups should not.
    pub together: Vec<Vec<String>>,
    /// No two words of such a group should fall together.
    pub apart: Vec<Vec<String>>,
}

/// How far a method agrees with groups of words (C. D. Paice 1994, "An evaluation method for stemming algorithms", *SIGIR '94*, 42–50).
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Indices {
    /// Pairs that should fall together, and how many of them do not.
    pub wanted: (u64, u64),
    /// Pairs that should be kept apart, and how many of them fall together.
    pub unwanted: (u64, u64),
}

impl Indices {
    /// The under-stemming index: the share of the pairs that should fall together and do not.
    pub fn under(&self) -> f64 {
        share(self.wanted)
    }

    /// The over-stemming index: the share of the pairs that should be kept apart and fall together.
    pub fn over(&self) -> f64 {
        share(self.unwanted)
    }
}

fn share((all, wrong): (u64, u64)) -> f64 {
    if all == 0 { 0.0 } else { wrong as f64 / all as f64 }
}

impl Groups {
    /// Reads groups, one a line: words with spaces, commas or tabs between, those that should be kept apart behind `apart:`. Lines that
    /// begin with `#` are left out.
    ///
    /// # Errors
    ///
    /// The first line with a single word, and where it stands.
    pub fn read(text: &str) -> Result<Groups, String> {
        let mut groups = Groups::default();
        for (index, line) in text.lines().enumerate() {
            let line = line.trim();
            if line.is_empty() || line.starts_with('#') {
                continue;
            }
            let (words, into) = match line.strip_prefix("apart:") {
                Some(words) => (words, &mut groups.apart),
                None => (line.strip_prefix("together:").unwrap_or(line), &mut groups.together),
            };
            let words: Vec<String> = words
                .split([' ', ',', '\t', ';'])
                .filter(|word| !word.is_empty())
                .map(str::to_owned)
                .collect();
            if words.len() < 2 && line.starts_with("apart:") {
                return Err(format!("line {}: two words at least are kept apart", index + 1));
            }
            into.push(words);
        }
        if groups.together.is_empty() && groups.apart.is_empty() {
            return Err(
                "there are no groups: write one group per line, with spaces between the words".to_owned()
            );
        }
        Ok(groups)
    }

    /// All words, each once, in the order of the file.
    pub fn words(&self) -> Vec<&str> {
        let mut seen = std::collections::HashSet::new();
        let all = self.together.iter().chain(&self.apart).flatten().map(String::as_str);
        all.filter(|word| seen.insert(*word)).collect()
    }

    /// How far a method agrees with the groups.
    pub fn indices(&self, reduce: impl Fn(&str) -> String) -> Indices {
        let mut indices = Indices::default();
        let pairs = |count: u64| count * count.saturating_sub(1) / 2;
        // By result: how many words of each group.
        let mut results: BTreeMap<String, BTreeMap<usize, u64>> = BTreeMap::new();
        for (group, words) in self.together.iter().enumerate() {
            indices.wanted.0 += pairs(words.len() as u64);
            let mut own: BTreeMap<String, u64> = BTreeMap::new();
            for word in words {
                let reduced = reduce(word);
                *own.entry(reduced.clone()).or_default() += 1;
                *results.entry(reduced).or_default().entry(group).or_default() += 1;
            }
            indices.wanted.1 +=
                pairs(words.len() as u64) - own.values().map(|&count| pairs(count)).sum::<u64>();
        }
        let all: u64 = self.together.iter().map(|words| words.len() as u64).sum();
        indices.unwanted.0 = pairs(all) - indices.wanted.0;
        for groups in results.values() {
            let together: u64 = groups.values().sum();
            indices.unwanted.1 += pairs(together) - groups.values().map(|&count| pairs(count)).sum::<u64>();
        }
        for words in &self.apart {
            indices.unwanted.0 += pairs(words.len() as u64);
            let mut own: BTreeMap<String, u64> = BTreeMap::new();
            words.iter().for_each(|word| *own.entry(reduce(word)).or_default() += 1);
            indices.unwanted.1 += own.values().map(|&count| pairs(count)).sum::<u64>();
        }
        indices
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_indices_count_pairs() {
        let groups = Groups::read("# made\nnest nests nesting\nunit, units\napart: university universe\n")
            .expect("read");
        assert_eq!(groups.words(), ["nest", "nests", "nesting", "unit", "units", "university", "universe"]);
        // The first letter alone: everything of a group falls together, and so does much else.
        let deep = groups.indices(|word| word[..1].to_owned());
        assert_eq!((deep.wanted, deep.unwanted), ((4, 0), (7, 1)));
        let nothing = groups.indices(str::to_owned);
        assert_eq!((nothing.under(), nothing.over()), (1.0, 0.0));
        let porter = groups.indices(stem::porter2);
        assert_eq!((porter.under(), porter.unwanted), (0.0, (7, 1)));
    }

    #[test]
    fn groups_that_say_nothing_are_told() {
        assert!(Groups::read("# nothing\n").is_err());
        assert!(Groups::read("apart: one\n").expect_err("one word").starts_with("line 1"));
    }
}
