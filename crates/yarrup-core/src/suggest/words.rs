//! The words of a run in small letters, with their counts.

use hashbrown::HashMap;

use crate::account::Account;
use crate::kind::Kind;
use crate::run::FormFate;

type State = foldhash::fast::FixedState;

/// The words of a run in small letters.
pub(super) struct WordCounts<'a> {
    pub(super) words: HashMap<String, WordCount<'a>, State>,
}

/// How often a word comes.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct WordCount<'a> {
    /// How many tokens, those that were dropped among them.
    pub(super) count: u64,
    /// In how many documents at least: in those of its most frequent form.
    pub(super) documents: u64,
    /// How many of the tokens were kept.
    pub(super) kept: u64,
    /// The term that most of them became.
    pub(super) term: Option<(&'a str, u64)>,
}

impl<'a> WordCounts<'a> {
    /// All words of letters; what stands in no dictionary and in one document is among them.
    pub(super) fn of(account: &'a Account) -> WordCounts<'a> {
        let mut words: HashMap<String, WordCount<'a>, State> = HashMap::default();
        for row in account.forms() {
            if !row.text.chars().all(char::is_alphabetic) || Kind::of(row.text) != Kind::Word {
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
    pub(super) fn of_word(&self, word: &str) -> WordCount<'a> {
        self.words.get(word).copied().unwrap_or_default()
    }
}
