//! Comparing recipes and runs: what is set side by side, and what is said of it.

mod alternatives;
mod bounds;
mod labels;
mod mates;
mod passing;

use std::collections::BTreeMap;

use yarrup_core::compare::{
    ChangedDocuments, Conflation, Drift, LengthShift, Overview, Pairing, Ranked, SplitContrast, StepPair,
    Vocabularies,
};
use yarrup_core::{Account, Pipeline};

pub(crate) use alternatives::{MOST, Made, each_step_out, named, names, split_alone, varied};
pub(crate) use bounds::{Bounds, rounded};
pub(crate) use labels::{LabelSample, LabelTellings, MOST_LABELLED};
pub(crate) use mates::{Mates, WordPairs};
pub(crate) use passing::{Compared, Comparing, ShownDocument};

/// One of the recipes or runs that are compared.
pub(crate) struct Side {
    /// `A` for the first, and so on.
    pub(crate) letter: String,
    pub(crate) name: String,
    /// The language that its recipe is for.
    pub(crate) language: Option<String>,
    pub(crate) overview: Overview,
    /// The seconds that its steps take, all threads together; none of runs of different documents.
    pub(crate) seconds: Vec<f64>,
    /// Of a combination of values: each with the key that it is of.
    pub(crate) settings: Vec<(String, String)>,
    /// The place of the step that is left out.
    pub(crate) without: Option<usize>,
    /// How many pairs of words fall together.
    pub(crate) mates: Option<Mates>,
}

/// The letter of the recipe or run in this place: A to Z, then A2 and so on.
pub(crate) fn letter(place: usize) -> String {
    let letter = char::from(b'A' + (place % 26) as u8);
    if place < 26 { letter.to_string() } else { format!("{letter}{}", place / 26 + 1) }
}

/// What has changed between two collections, beside their vocabularies.
pub(crate) struct CollectionShift {
    pub(crate) lengths: LengthShift,
    /// Documents by language, in both; empty where nobody could ask.
    pub(crate) languages: (BTreeMap<String, u64>, BTreeMap<String, u64>),
}

/// One recipe or run against the first.
pub(crate) struct PairFacts<'a> {
    pub(crate) there: usize,
    pub(crate) pairing: Pairing<'a>,
    pub(crate) steps: Vec<StepPair>,
    pub(crate) vocabularies: Vocabularies<'a>,
    /// Words that fall together under the first alone.
    pub(crate) together_here: Conflation<'a>,
    /// Words that fall together under the other alone.
    pub(crate) together_there: Conflation<'a>,
    /// The documents; none of runs of different documents.
    pub(crate) changed: Option<&'a ChangedDocuments<ShownDocument>>,
    pub(crate) splits: Option<&'a SplitContrast<'a>>,
    /// Of runs of different documents: what has changed in the collection.
    pub(crate) drift: Option<(Drift<'a>, CollectionShift)>,
}

impl<'a> PairFacts<'a> {
    /// What the accounts say of the recipe in the place `there` against the first. Which words fall together is asked only of the same documents.
    pub(crate) fn of(
        accounts: &'a [Account],
        ranked: &[Ranked<'a>],
        (there, steps): (usize, Vec<StepPair>),
        recipes: (&'a Pipeline, &'a Pipeline),
        of_same: bool,
    ) -> PairFacts<'a> {
        let pairing = Pairing::of(&accounts[0], &accounts[there]).with_recipes(recipes.0, recipes.1);
        let (together_here, together_there) =
            if of_same { pairing.conflations() } else { Default::default() };
        PairFacts {
            there,
            pairing,
            steps,
            vocabularies: Vocabularies::of(&ranked[0], &ranked[there]),
            together_here,
            together_there,
            changed: None,
            splits: None,
            drift: None,
        }
    }

    /// What has changed in the vocabulary from one collection to another.
    pub(crate) fn drifted(&self) -> Drift<'a> {
        Drift::of(&self.vocabularies)
    }

    /// Every measure of the comparison by its name, for bounds and for other tools.
    pub(crate) fn measures(
        &self,
        sides: &[Side],
        labels: Option<&LabelTellings>,
    ) -> Vec<(&'static str, f64)> {
        let (here, there) = (&sides[0].overview, &sides[self.there].overview);
        let share = |part: u64, of: u64| if of == 0 { 0.0 } else { part as f64 / of as f64 };
        let both = &self.vocabularies;
        let mut measures = vec![
            ("shared_terms", both.shared_terms),
            ("shared_tokens", both.shared_tokens),
            ("rank_overlap", both.rank_overlap),
            ("new_terms", both.only_there.0 as f64),
            ("gone_terms", both.only_here.0 as f64),
            ("unknown_share", share(both.only_there.1, both.tokens.1)),
            ("gone_share", share(both.only_here.1, both.tokens.0)),
            ("documents_before", here.documents as f64),
            ("documents", there.documents as f64),
            ("tokens_before", here.tokens as f64),
            ("tokens", there.tokens as f64),
            ("terms_before", here.terms as f64),
            ("terms", there.terms as f64),
            ("kept_share_before", share(here.tokens, here.tokens_found)),
            ("kept_share", share(there.tokens, there.tokens_found)),
            ("hapax_share_before", share(here.hapaxes, here.terms)),
            ("hapax_share", share(there.hapaxes, there.terms)),
            ("emptied_share_before", share(here.emptied, here.documents)),
            ("emptied_share", share(there.emptied, there.documents)),
        ];
        if let Some(changed) = self.changed {
            let all = changed.all();
            measures.push(("changed_documents_share", share(all.changed, all.documents)));
            measures.push(("changed_terms_share", all.terms.share()));
        }
        if self.drift.is_none() {
            measures.push(("together_tokens_before", self.together_here.tokens as f64));
            measures.push(("together_tokens", self.together_there.tokens as f64));
        }
        if let Some((_, shift)) = &self.drift {
            measures.push(("length_distance", shift.lengths.distance));
            measures.push(("mean_length_before", shift.lengths.mean.0));
            measures.push(("mean_length", shift.lengths.mean.1));
            if !shift.languages.0.is_empty() && !shift.languages.1.is_empty() {
                let distance = Drift::distance(&shift.languages.0, &shift.languages.1);
                measures.push(("language_distance", distance));
            }
        }
        if let Some(row) = labels.and_then(|labels| labels.rows.get(self.there)) {
            measures.push(("accuracy", row.telling.accuracy));
            measures.push(("macro_f1", row.telling.macro_f1));
            measures.push(("least_gain", row.gain.map_or(0.0, |gain| gain.0)));
        }
        measures
    }
}

/// Makes something for each of these numbers, a few at a time.
pub(crate) fn at_once<T: Send>(
    numbers: std::ops::Range<usize>,
    threads: usize,
    make: impl Fn(usize) -> T + Sync,
) -> Vec<T> {
    let next = std::sync::atomic::AtomicUsize::new(numbers.start);
    let mut made: Vec<(usize, T)> = std::thread::scope(|scope| {
        let work = || {
            let mut made = Vec::new();
            loop {
                let number = next.fetch_add(1, std::sync::atomic::Ordering::Relaxed);
                if number >= numbers.end {
                    return made;
                }
                made.push((number, make(number)));
            }
        };
        let workers: Vec<_> = (0..threads.max(1)).map(|_| scope.spawn(work)).collect();
        workers
            .into_iter()
            .flat_map(|worker| worker.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic)))
            .collect()
    });
    made.sort_by_key(|(number, _)| *number);
    made.into_iter().map(|(_, made)| made).collect()
}

/// All that is said of what is compared.
pub(crate) struct Comparison<'a> {
    /// Whether these are runs that are done, not recipes.
    pub(crate) of_runs: bool,
    /// What it is of.
    pub(crate) title: String,
    /// How many documents were read, from what.
    pub(crate) documents: u64,
    pub(crate) sources: Vec<String>,
    pub(crate) sides: Vec<Side>,
    /// Each but the first, against the first.
    pub(crate) pairs: Vec<PairFacts<'a>>,
    pub(crate) labels: Option<LabelTellings>,
    /// The field of the labels.
    pub(crate) label: Option<String>,
    /// The field of the groups.
    pub(crate) by: Option<String>,
    /// What could not be asked, and why.
    pub(crate) notes: Vec<String>,
}
