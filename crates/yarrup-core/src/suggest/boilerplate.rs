//! Lines and passages that many documents repeat.

use crate::suggest::evidence::Found;
use crate::step::NoFields;
use crate::suggest::{Inquiry, Proposal, Sort, Suggestion};

/// The fewest letters of a line that is boilerplate: shorter ones repeat by chance.
const FEWEST_LETTERS: usize = 8;

pub(super) fn suggest(inquiry: &Inquiry<'_>, found: &Found) -> Vec<Suggestion> {
    let mut all = Vec::new();
    let mut rewriter = inquiry.pipeline.rewriter();
    // What the recipe drops already is not told again.
    let mut is_left = |text: &str| !rewriter.rewrite(text, &NoFields).trim().is_empty();
    for passage in found.passages.iter().filter(|passage| is_left(&passage.text)) {
        let lines: Vec<String> = passage.text.lines().map(|line| line.trim().to_owned()).filter(|line| !line.is_empty()).collect();
        let proposal = if passage.is_lines { Proposal::Lines(lines) } else { Proposal::Passage(passage.text.clone()) };
        all.push(suggestion(&passage.text, passage.count, passage.documents, proposal));
    }
    let within: Vec<String> = found.passages.iter().map(|passage| passage.text.clone()).collect();
    for line in &found.lines {
        let letters = line.text.chars().filter(|c| c.is_alphabetic()).count();
        let is_told = within.iter().any(|passage| passage.lines().any(|known| known.trim() == line.text));
        if letters >= FEWEST_LETTERS && !is_told && is_left(&line.text) {
            all.push(suggestion(&line.text, line.count, line.documents, Proposal::Lines(vec![line.text.clone()])));
        }
    }
    let weight = |one: &Suggestion| one.count * one.what.split_whitespace().count() as u64;
    all.sort_by(|a, b| weight(b).cmp(&weight(a)).then_with(|| a.what.cmp(&b.what)));
    all
}

fn suggestion(text: &str, count: u64, documents: u64, proposal: Proposal) -> Suggestion {
    let words = text.split_whitespace().count();
    Suggestion {
        sort: Sort::Boilerplate,
        what: text.to_owned(),
        count,
        documents,
        because: format!("{words} words, in {documents} documents"),
        proposal,
    }
}
