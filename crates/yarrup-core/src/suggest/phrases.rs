//! Words that belong together and are shaped like terms.

use std::sync::Arc;

use crate::part_of_speech::Tag;
use crate::step::{Learned, Terms};
use crate::steps::token::collocations::{Collocations, Criteria, Score};
use crate::steps::token::tag_patterns::TagPatterns;
use crate::suggest::{Inquiry, Proposal, Sort, Suggestion};
use crate::tag::{Tagger, english};

/// How often a phrase must come, and in how many documents.
const LEAST: u64 = 5;
const LEAST_DOCUMENTS: u64 = 3;
/// The least normalised pointwise mutual information.
const LEAST_SCORE: f64 = 0.5;

/// Whether phrases are looked for: of words, and unless the recipe has phrases of its own. What it learned is what it wants.
pub(super) fn are_wanted(inquiry: &Inquiry<'_>) -> bool {
    inquiry.pipeline.makes_words() && !inquiry.has_step("phrases") && !inquiry.has_step("ngrams")
}

/// What counts neighbours among the terms.
pub(super) fn counter(inquiry: &Inquiry<'_>) -> Collocations {
    Collocations::new(Arc::new(Criteria {
        min_count: LEAST,
        score: Score::Npmi,
        min_score: LEAST_SCORE,
        top: usize::MAX,
        longest: 3,
        across: false,
        stop: inquiry.stop_words.clone(),
        tags: TagPatterns::default(),
        listed: Terms::new(false, false),
    }))
}

pub(super) fn suggest(inquiry: &Inquiry<'_>, phrases: &[Learned]) -> Vec<Suggestion> {
    let Ok(shapes) = TagPatterns::read(["terms", "names"]) else { return Vec::new() };
    let mut tagger = (inquiry.language() == "en").then(|| Tagger::new(english()));
    let forms: std::collections::HashMap<&str, &str> =
        inquiry.vocabulary.iter().map(|term| (term.text, term.commonest_form)).collect();
    let mut all: Vec<Suggestion> = phrases
        .iter()
        .filter(|phrase| phrase.documents >= LEAST_DOCUMENTS)
        .filter_map(|phrase| {
            // As they stand in the text, so that the recipe's own steps make the terms of them.
            let words: Vec<&str> =
                phrase.text.split(' ').map(|term| forms.get(term).copied().unwrap_or(term)).collect();
            let are_words = words
                .iter()
                .all(|word| word.chars().all(|c| c.is_alphabetic() || matches!(c, '\'' | '’' | '-')));
            let is_twice = (1..words.len()).any(|place| words[..place].contains(&words[place]));
            if !are_words || is_twice || !tagger.as_mut().is_none_or(|tagger| fits(tagger, &words, &shapes)) {
                return None;
            }
            Some(Suggestion {
                sort: Sort::Phrases,
                what: words.join(" "),
                count: phrase.count,
                documents: phrase.documents,
                because: format!("{:.2}", phrase.score.unwrap_or(0.0)),
                proposal: Proposal::Phrase(words.join(" ")),
            })
        })
        .collect();
    all.sort_by(|a, b| b.count.cmp(&a.count).then_with(|| a.what.cmp(&b.what)));
    drop_parts(&mut all);
    all
}

/// Whether the parts of speech of words fit a shape of terms, as a tagger reads the words behind an article: by themselves, `sluice gate` could be an order.
fn fits(tagger: &mut Tagger<'_>, words: &[&str], shapes: &TagPatterns) -> bool {
    let mut tags: Vec<Tag> = Vec::new();
    tagger.tag(std::iter::once("the").chain(words.iter().copied()), &mut tags);
    shapes.fit(&tags.into_iter().skip(1).map(Some).collect::<Vec<_>>())
}

/// Takes out what comes hardly ever without the longer phrase that it is a part of, and of two phrases of three words that are parts of one the later.
fn drop_parts(all: &mut Vec<Suggestion>) {
    let longer: Vec<(String, u64)> = all
        .iter()
        .filter(|one| one.what.split(' ').count() > 2)
        .map(|one| (format!(" {} ", one.what), one.count))
        .collect();
    let mut seen: Vec<(Vec<String>, u64)> = Vec::new();
    all.retain(|one| {
        let words: Vec<String> = one.what.split(' ').map(str::to_owned).collect();
        if words.len() > 2 {
            let overlaps = |(known, count): &(Vec<String>, u64)| {
                (known[1..] == words[..2] || known[..2] == words[1..]) && one.count * 5 >= count * 4
            };
            if seen.iter().any(overlaps) {
                return false;
            }
            seen.push((words, one.count));
        }
        let inside = format!(" {} ", one.what);
        !longer.iter().any(|(long, count)| {
            long.len() > inside.len() && long.contains(&inside) && count * 5 >= one.count * 4
        })
    });
}
