//! What is said of two recipes against one another, over random recipes and documents: it adds up, and is what a slow and simple count says.

mod random;

use std::collections::{BTreeMap, BTreeSet};

use proptest::prelude::*;
use random::{Document, compiled, documents, recipes};
use yarrup_core::compare::{
    ChangedDocuments, Pairing, Ranked, SplitContrast, StepStatus, TermContrast, Vocabularies, Whither, align,
    described,
};
use yarrup_core::{Account, FormFate, NoFiles, Outputs, Pipeline, Worker, recipe};

fn account(pipeline: &Pipeline, documents: &[Document]) -> Account {
    let mut worker = Worker::new(pipeline, Outputs::default());
    for document in documents {
        worker.document(&document.text, document);
    }
    worker.into_account()
}

/// The tokens of each term.
fn counts(account: &Account) -> BTreeMap<String, u64> {
    account.vocabulary().iter().map(|term| (term.text.to_owned(), term.count)).collect()
}

/// Each form with the term that most of its tokens became, and how many of them are kept.
fn main_terms(account: &Account) -> BTreeMap<String, (String, u64)> {
    let mut kept: BTreeMap<String, BTreeMap<String, u64>> = BTreeMap::new();
    for row in account.forms() {
        if let FormFate::Kept { term } = row.fate {
            *kept.entry(row.text.to_owned()).or_default().entry(term.to_owned()).or_default() += row.count;
        }
    }
    kept.into_iter()
        .map(|(form, terms)| {
            let all = terms.values().sum();
            // Of equally frequent terms the first by its bytes.
            let best = terms.iter().rev().max_by_key(|(_, count)| **count).map(|(term, _)| term.clone());
            (form, (best.unwrap_or_default(), all))
        })
        .collect()
}

/// By term here: how many tokens each term there has of it, where there are several.
fn together(
    here: &BTreeMap<String, (String, u64)>,
    there: &BTreeMap<String, (String, u64)>,
) -> BTreeMap<String, BTreeMap<String, u64>> {
    let mut groups: BTreeMap<String, BTreeMap<String, u64>> = BTreeMap::new();
    for (form, (term, count)) in here {
        if let Some((other, others)) = there.get(form) {
            *groups.entry(term.clone()).or_default().entry(other.clone()).or_default() += count.min(others);
        }
    }
    groups.retain(|_, parts| parts.len() > 1);
    groups
}

proptest! {
    #[test]
    fn vocabularies_are_set_side_by_side_as_sets_are(
        here in recipes(),
        there in recipes(),
        documents in documents(),
    ) {
        let accounts = [account(&compiled(&here), &documents), account(&compiled(&there), &documents)];
        let (ours, theirs) = (counts(&accounts[0]), counts(&accounts[1]));
        let (one, other) = (Ranked::of(&accounts[0]), Ranked::of(&accounts[1]));
        let both = Vocabularies::of(&one, &other);
        let common = ours.keys().filter(|term| theirs.contains_key(*term)).count() as u64;
        prop_assert_eq!(both.common, common);
        let only = |one: &BTreeMap<String, u64>, other: &BTreeMap<String, u64>| {
            let alone: Vec<u64> =
                one.iter().filter(|(term, _)| !other.contains_key(*term)).map(|(_, count)| *count).collect();
            (alone.len() as u64, alone.iter().sum::<u64>())
        };
        prop_assert_eq!(both.only_here, only(&ours, &theirs));
        prop_assert_eq!(both.only_there, only(&theirs, &ours));
        let names: BTreeSet<&String> = ours.keys().chain(theirs.keys()).collect();
        prop_assert_eq!(both.terms.len(), names.len());
        let count = |counts: &BTreeMap<String, u64>, term: &str| counts.get(term).copied().unwrap_or(0);
        let (less, more) = names.iter().fold((0, 0), |(less, more), term| {
            let (one, other) = (count(&ours, term), count(&theirs, term));
            (less + one.min(other), more + one.max(other))
        });
        if more > 0 {
            prop_assert!((both.shared_tokens - less as f64 / more as f64).abs() < 1e-12);
        }
        // Seen from the other side it is the same.
        let back = Vocabularies::of(&other, &one);
        prop_assert_eq!((back.only_here, back.only_there), (both.only_there, both.only_here));
        prop_assert!((back.rank_overlap - both.rank_overlap).abs() < 1e-12);
        // Ranks are those of the vocabularies.
        for (rank, term) in (1..).zip(accounts[0].vocabulary()) {
            let pair = both.terms.iter().find(|pair| pair.term == term.text).expect("a term");
            prop_assert_eq!(pair.here.map(|row| (row.rank, row.count)), Some((rank, term.count)));
        }
    }

    #[test]
    fn every_token_of_a_missing_term_is_accounted_for(
        here in recipes(),
        there in recipes(),
        documents in documents(),
    ) {
        let (one, other) = (compiled(&here), compiled(&there));
        let accounts = [account(&one, &documents), account(&other, &documents)];
        let (ours, theirs) = (Ranked::of(&accounts[0]), Ranked::of(&accounts[1]));
        let both = Vocabularies::of(&ours, &theirs);
        let pairing = Pairing::of(&accounts[0], &accounts[1]).with_recipes(&one, &other);
        for (pairing, gone) in [
            (pairing, both.gone().collect::<Vec<_>>()),
            (pairing.reversed(), both.new_there().collect()),
        ] {
            let terms: Vec<&str> = gone.iter().map(|(term, _)| *term).collect();
            let missing = pairing.missing(&terms);
            prop_assert_eq!(missing.len(), terms.len());
            for (missing, (term, standing)) in missing.iter().zip(&gone) {
                prop_assert_eq!(missing.term, *term);
                prop_assert_eq!(missing.tokens, standing.count);
                prop_assert_eq!(missing.whither.iter().map(|(_, tokens)| tokens).sum::<u64>(), standing.count);
                // What it becomes there is not itself: it is missing there.
                let is_itself = |(whither, _): &(Whither<'_>, u64)| *whither == Whither::Becomes { term };
                prop_assert!(!missing.whither.iter().any(is_itself), "{missing:?}");
            }
        }
    }

    #[test]
    fn words_fall_together_as_a_slow_count_says(
        here in recipes(),
        there in recipes(),
        documents in documents(),
    ) {
        let accounts = [account(&compiled(&here), &documents), account(&compiled(&there), &documents)];
        let pairing = Pairing::of(&accounts[0], &accounts[1]);
        let (ours, theirs) = (main_terms(&accounts[0]), main_terms(&accounts[1]));
        let (one, other) = pairing.conflations();
        for (told, expected) in [(&one, together(&ours, &theirs)), (&other, together(&theirs, &ours))] {
            let told: BTreeMap<String, BTreeMap<String, u64>> = told
                .merged
                .iter()
                .map(|merged| {
                    let parts = merged.parts.iter().map(|part| (part.term.to_owned(), part.tokens)).collect();
                    (merged.term.to_owned(), parts)
                })
                .collect();
            prop_assert_eq!(told, expected);
        }
        let (back, forth) = pairing.reversed().conflations();
        prop_assert_eq!((back.tokens, forth.tokens), (other.tokens, one.tokens));
    }

    /// Every token of either split is at the same place in both, or in a stretch that is told.
    #[test]
    fn stretches_and_tokens_at_the_same_places_are_all_tokens(
        here in recipes(),
        there in recipes(),
        documents in documents(),
    ) {
        let (one, other) = (compiled(&here), compiled(&there));
        let mut contrast = SplitContrast::new(&one, &other);
        let mut tokens = (0, 0);
        for document in &documents {
            contrast.document(&document.text, document);
            let placed = |pipeline: &Pipeline| {
                let trace = pipeline.trace(&document.text, document);
                trace.tokens.iter().filter(|token| token.span.start < token.span.end).count() as u64
            };
            tokens = (tokens.0 + placed(&one), tokens.1 + placed(&other));
        }
        let rows = contrast.disagreements();
        let sum = |side: fn(&yarrup_core::compare::Disagreement) -> usize| -> u64 {
            rows.iter().map(|row| row.count * side(row) as u64).sum()
        };
        let told: u64 = rows.iter().map(|row| row.count).sum();
        let all: u64 = contrast.by_kind().map(|(_, count)| count).sum();
        prop_assert!(told <= all);
        // Long stretches are only counted.
        if told == all {
            prop_assert_eq!(contrast.alike() + sum(|row| row.here.len()), tokens.0);
            prop_assert_eq!(contrast.alike() + sum(|row| row.there.len()), tokens.1);
        }
    }

    #[test]
    fn steps_are_paired_each_once(here in recipes(), there in recipes()) {
        let steps = |text: &str| described(&recipe::read(text).expect("a recipe"), &NoFiles);
        let (ours, theirs) = (steps(&here), steps(&there));
        let pairs = align(&ours, &theirs);
        let mut left: Vec<usize> = pairs.iter().filter_map(|pair| pair.here).collect();
        left.sort_unstable();
        prop_assert_eq!(left, (1..=ours.len()).collect::<Vec<_>>());
        // Those of the second stand in their order.
        let right: Vec<usize> = pairs.iter().filter_map(|pair| pair.there).collect();
        prop_assert_eq!(right, (1..=theirs.len()).collect::<Vec<_>>());
        for pair in &pairs {
            let is_both = pair.here.is_some() && pair.there.is_some();
            prop_assert_eq!(is_both, !matches!(pair.status, StepStatus::Added | StepStatus::Removed));
            if matches!(pair.status, StepStatus::Same | StepStatus::Moved) {
                prop_assert!(pair.keys.is_empty());
            }
        }
        prop_assert!(align(&ours, &ours).iter().all(|pair| pair.status == StepStatus::Same));
    }

    #[test]
    fn documents_change_by_the_terms_that_differ(
        rows in prop::collection::vec((prop::collection::vec(0u32..6, 0..9), prop::collection::vec(0u32..6, 0..9)), 0..12),
    ) {
        let mut contrast = TermContrast::default();
        let mut changed = ChangedDocuments::new(3);
        let bag = |terms: &[u32]| -> Vec<(u32, u32)> { terms.iter().map(|term| (*term, 1)).collect() };
        let mut weights = Vec::new();
        for (order, (here, there)) in (0..).zip(&rows) {
            let change = contrast.change(&bag(here), &bag(there));
            let mut left = there.clone();
            let common = here.iter().filter(|term| {
                let at = left.iter().position(|other| other == *term);
                at.map(|at| left.swap_remove(at)).is_some()
            });
            prop_assert_eq!(change.common, common.count() as u64);
            prop_assert_eq!((change.here, change.there), (here.len() as u64, there.len() as u64));
            weights.push(change.weight());
            changed.note(change, order, None, || order);
        }
        weights.retain(|weight| *weight > 0.0);
        prop_assert_eq!(changed.all().changed, weights.len() as u64);
        weights.sort_by(|one, other| other.total_cmp(one));
        weights.truncate(3);
        prop_assert_eq!(changed.top().map(|(change, _)| change.weight()).collect::<Vec<_>>(), weights);
    }
}
