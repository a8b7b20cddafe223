//! What others may ask of a step, as it is set: advice, learning, reports. They never go by what a step is called.

use crate::condition::Condition;
use crate::kind::Kind;
use crate::step::Learner;

/// One word of a word list, and where it was written.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Entry {
    /// The word as written.
    pub word: String,
    /// The list's name: a shelf name, a file, or the key that holds it.
    pub list: String,
}

/// What a step as it is set tells of itself. Everything has an answer that most steps give.
pub trait Facts: Send + Sync {
    /// The reason with this number, as reports name it, for a step that drops.
    fn reason(&self, _number: u16) -> String {
        String::new()
    }

    /// The entries of the word lists that the step compares tokens with, or looks for in text.
    fn entries(&self) -> &[Entry] {
        &[]
    }

    /// The entries of several words of which nothing whole can arrive at the step, which therefore never match.
    fn lost_entries(&self) -> &[Entry] {
        &[]
    }

    /// Whether the step makes one token of neighbours, and so has to know what stood between them.
    fn joins_tokens(&self) -> bool {
        false
    }

    /// What the step puts between the words that it joins.
    fn join_sign(&self) -> Option<&str> {
        None
    }

    /// The conditions on fields that the step itself asks of documents.
    fn conditions(&self) -> Vec<&Condition> {
        Vec::new()
    }

    /// Whether the lists hold `token`, by the rule of this step for letter case.
    fn lists(&self, _token: &str) -> bool {
        false
    }

    /// Texts in which the step has something to do: a step before it that spoils them spoils its work.
    fn probes(&self) -> Vec<String> {
        Vec::new()
    }

    /// The kinds of tokens that the step drops.
    fn drops_kinds(&self) -> &[Kind] {
        &[]
    }

    /// Whether the step drops lines of the text.
    fn drops_lines(&self) -> bool {
        false
    }

    /// Whether what the step takes out of the text leaves no gap, so that words may be joined.
    fn joins_words(&self) -> bool {
        false
    }

    /// Whether the step can compare its lists with or without regard to letter case.
    fn has_case_rule(&self) -> bool {
        false
    }

    /// What of the step is for another language than this one, which is given by its primary part (`en`): a sentence for each.
    fn foreign(&self, _language: &str) -> Vec<String> {
        Vec::new()
    }

    /// What learns for this step from the collection as it is before it; none if nothing is left to learn.
    fn learner(&self) -> Option<Box<dyn Learner>> {
        None
    }

    /// Whether what the step leaves of a word is its lemma.
    fn gives_lemmas(&self) -> bool {
        false
    }

    /// The label that the step gives to tokens.
    fn gives_label(&self) -> Option<&str> {
        None
    }
}
