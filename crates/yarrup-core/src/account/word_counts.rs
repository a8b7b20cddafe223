//! The words of a run in small letters, with their counts.

use hashbrown::HashMap;

use crate::account::Account;
use crate::run::FormFate;

type State = foldhash::fast::FixedState;

/// The words of a run in small letters.
pub(crate) struct WordCounts<'a> {
    pub(crate) words: HashMap<String, WordCount<'a>, State>,
}

/// How often a word comes.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct WordCount<'a> {
    /// How many tokens, those that were dropped among them.
    pub(crate) count: u64,
    /// In how many documents at least: in those of its most frequent form.
    pub(crate) documents: u64,
    /// How many of the tokens were kept.
    pub(crate) kept: u64,
    /// The term that most of them became.
    pub(crate) term: Option<(&'a str, u64)>,
}

impl<'a> WordCounts<'a> {
    /// The words whose forms are taken.
    pub(crate) fn of(account: &'a Account, takes: impl Fn(&str) -> bool) -> WordCounts<'a> {
        let mut words: HashMap<String, WordCount<'a>, State> = HashMap::default();
        for row in account.forms() {
            if !takes(row.text) {
                continue;
            }
            let word = words.entry(row.text.to_lowercase()).or_default();
            word.count += row.count;
            word.documents = word.documents.max(row.documents);
            if let FormFate::Kept { term } = row.fate {
                word.kept += row.count;
                if word.term.is_none_or(|(_, most)| row.count > most) {
                    word.term = Some((term, row.count));
                }
            }
        }
        WordCounts { words }
    }

    /// The counts of a word.
    pub(crate) fn of_word(&self, word: &str) -> WordCount<'a> {
        self.words.get(word).copied().unwrap_or_default()
    }
}
