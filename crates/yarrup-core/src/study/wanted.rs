//! What is looked for in the documents of a run.

use std::ops::Range;

use regex::Regex;

use crate::pattern::compiled_pattern;
use crate::span::Span;

/// What is looked for: words, one behind the other where they are a phrase, or whatever matches a pattern.
#[derive(Clone, Debug)]
pub struct Wanted {
    shape: Shape,
}

#[derive(Clone, Debug)]
enum Shape {
    /// Runs of words. All of them must be in a document if the flag is set.
    Words(Vec<Vec<String>>, bool),
    /// Words that match.
    Pattern(Regex),
    /// Every word.
    Any,
}

/// A place where something stands that was looked for.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Hit {
    /// The numbers of the words in their document.
    pub words: Range<usize>,
}

impl Wanted {
    /// Words, or phrases of several words in a row: each of them, wherever it stands, or with `all` only in documents that hold all.
    pub fn words(runs: Vec<Vec<String>>, all: bool) -> Wanted {
        Wanted { shape: Shape::Words(runs.into_iter().filter(|run| !run.is_empty()).collect(), all) }
    }

    /// Every word in which this regular expression matches something; `name` is what users know it by.
    ///
    /// # Errors
    ///
    /// What is wrong with the expression.
    pub fn matching(name: &str, pattern: &str) -> Result<Wanted, String> {
        Ok(Wanted { shape: Shape::Pattern(compiled_pattern(name, pattern)?) })
    }

    /// Every word.
    pub fn any() -> Wanted {
        Wanted { shape: Shape::Any }
    }

    /// Where in a document it stands. Each word may have several spellings, any of which is enough. Places do not overlap: of those that begin
    /// alike the longest counts.
    ///
    /// ```
    /// use yarrup_core::study::Wanted;
    ///
    /// let wanted = Wanted::words(vec![vec!["little".into(), "tern".into()], vec!["tern".into()]], false);
    /// let words = ["little", "tern", "tern", "gull"].map(|word| [word]);
    /// let places: Vec<_> = wanted.hits(&words).into_iter().map(|hit| hit.words).collect();
    /// assert_eq!(places, [0..2, 2..3]);
    /// ```
    pub fn hits<W: AsRef<[S]>, S: AsRef<str>>(&self, words: &[W]) -> Vec<Hit> {
        let mut hits = Vec::new();
        let is = |word: &W, test: &dyn Fn(&str) -> bool| word.as_ref().iter().any(|text| test(text.as_ref()));
        match &self.shape {
            Shape::Any => hits.extend((0..words.len()).map(|at| Hit { words: at..at + 1 })),
            Shape::Pattern(pattern) => {
                let at = (0..words.len()).filter(|at| is(&words[*at], &|text| pattern.is_match(text)));
                hits.extend(at.map(|at| Hit { words: at..at + 1 }));
            }
            Shape::Words(runs, all) => {
                let stands = |run: &[String], at: usize| {
                    words.len() - at >= run.len()
                        && run.iter().zip(&words[at..]).all(|(wanted, word)| is(word, &|text| text == wanted))
                };
                if *all && !runs.iter().all(|run| (0..words.len()).any(|at| stands(run, at))) {
                    return hits;
                }
                let mut at = 0;
                while at < words.len() {
                    let longest = runs.iter().filter(|run| stands(run, at)).map(Vec::len).max();
                    if let Some(length) = longest {
                        hits.push(Hit { words: at..at + length });
                    }
                    at += longest.unwrap_or(1);
                }
            }
        }
        hits
    }

    /// Where in a running text the pattern matches something. Nothing if it is no pattern.
    pub fn hits_in_text(&self, text: &str) -> Vec<Span> {
        let Shape::Pattern(pattern) = &self.shape else { return Vec::new() };
        let found = pattern.find_iter(text).filter(|found| !found.is_empty());
        found.map(|found| Span { start: found.start() as u32, end: found.end() as u32 }).collect()
    }

    /// The words without which a document holds nothing of what is looked for; none if any document may.
    pub fn needed(&self) -> Vec<&str> {
        match &self.shape {
            Shape::Words(runs, all) if *all || runs.len() == 1 => {
                runs.iter().flatten().map(String::as_str).collect()
            }
            _ => Vec::new(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn places(wanted: &Wanted, text: &str) -> Vec<(usize, usize)> {
        let words: Vec<[&str; 1]> = text.split(' ').map(|word| [word]).collect();
        wanted.hits(&words).into_iter().map(|hit| (hit.words.start, hit.words.end)).collect()
    }

    #[test]
    fn words_phrases_and_patterns_are_found() {
        let runs = |phrases: &[&str]| {
            phrases.iter().map(|phrase| phrase.split(' ').map(str::to_owned).collect()).collect::<Vec<_>>()
        };
        for (wanted, text, expected) in [
            (Wanted::words(runs(&["a"]), false), "a b a", vec![(0, 1), (2, 3)]),
            (Wanted::words(runs(&["a b"]), false), "a a b b", vec![(1, 3)]),
            (Wanted::words(runs(&["a a"]), false), "a a a", vec![(0, 2)]),
            (Wanted::words(runs(&["a", "c"]), true), "a b a", vec![]),
            (Wanted::words(runs(&["a", "c"]), true), "a b c", vec![(0, 1), (2, 3)]),
            (Wanted::words(runs(&["a", "c"]), false), "a b a", vec![(0, 1), (2, 3)]),
            (Wanted::words(runs(&["a b c"]), false), "a b", vec![]),
            (Wanted::words(Vec::new(), false), "a b", vec![]),
            (Wanted::matching("x", "^[ab]").expect("a pattern"), "a bc cb", vec![(0, 1), (1, 2)]),
            (Wanted::any(), "a b", vec![(0, 1), (1, 2)]),
        ] {
            assert_eq!(places(&wanted, text), expected, "{wanted:?} in {text}");
        }
        assert_eq!(Wanted::words(runs(&["a b"]), false).needed(), ["a", "b"]);
        assert!(Wanted::words(runs(&["a", "b"]), false).needed().is_empty());
        assert!(Wanted::matching("x", "(").is_err());
    }

    #[test]
    fn any_spelling_of_a_word_is_enough() {
        let wanted = Wanted::words(vec![vec!["Terns".to_owned()]], false);
        assert_eq!(wanted.hits(&[["terns", "Terns"], ["terns", "terns"]]), [Hit { words: 0..1 }]);
    }
}
