//! Lines and passages that many documents repeat.

use crate::numbers::counted;
use crate::step::NoFields;
use crate::suggest::{Inquiry, Proposal, Sort, Suggestion};
use crate::survey::Passage;

pub(super) fn suggest(inquiry: &Inquiry<'_>, passages: &[Passage]) -> Vec<Suggestion> {
    let mut rewriter = inquiry.pipeline.rewriter();
    // What the recipe drops already is not told again.
    let left =
        passages.iter().filter(|passage| !rewriter.rewrite(&passage.text, &NoFields).trim().is_empty());
    left.map(Suggestion::of_passage).collect()
}

impl Suggestion {
    /// That a passage goes: line by line, where it fills its lines.
    pub fn of_passage(passage: &Passage) -> Suggestion {
        let lines =
            || passage.text.lines().map(|line| line.trim().to_owned()).filter(|line| !line.is_empty());
        let words = passage.text.split_whitespace().count();
        Suggestion {
            sort: Sort::Boilerplate,
            what: passage.text.clone(),
            count: passage.count,
            documents: passage.documents,
            because: format!("{words} words, in {}", counted(passage.documents, "document")),
            // A line such as `--` goes with the passage alone, not wherever it stands.
            proposal: match passage.is_lines && lines().all(|line| has_letters(&line)) {
                true => Proposal::Lines(lines().collect()),
                false => Proposal::Passage(passage.text.clone()),
            },
        }
    }
}

/// Whether a line has so many letters that it is the same notice wherever it stands.
fn has_letters(line: &str) -> bool {
    line.chars().filter(|c| c.is_alphabetic()).nth(7).is_some()
}
