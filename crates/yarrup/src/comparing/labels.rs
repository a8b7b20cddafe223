//! Documents with labels, kept for asking how well these can be told from the terms.

use std::collections::{BTreeMap, HashMap};

use serde_json::{Value, json};
use yarrup_core::SideBySide;
use yarrup_core::study::{Labelled, Telling, cross_validated, gain, label_information};

/// The most documents that are kept: those with the least hash of their place, so that the same ones are taken whoever reads what.
pub(crate) const MOST_LABELLED: usize = 10_000;
/// In how many parts documents are told, each by a model of the others.
pub(crate) const FOLDS: usize = 5;

/// A document as it is kept.
struct Kept {
    label: String,
    /// By recipe: the numbers of its terms, and how many tokens it had as found.
    terms: Vec<(Vec<u32>, u64)>,
}

/// Labelled documents of one worker, whose terms have numbers that only this worker knows; or of all of them, with the terms' own texts numbered anew.
pub(crate) struct LabelSample {
    alternatives: usize,
    kept: BTreeMap<u64, Kept>,
    /// By text: the number of a term, once several workers are put together.
    numbers: HashMap<String, u32>,
    /// How many documents had a label.
    seen: u64,
}

impl LabelSample {
    pub(crate) fn new(alternatives: usize) -> LabelSample {
        LabelSample { alternatives, kept: BTreeMap::new(), numbers: HashMap::new(), seen: 0 }
    }

    /// Notes a document with a label that was just taken.
    pub(crate) fn note(&mut self, order: u64, label: &str, taken: &SideBySide<'_>) {
        self.seen += 1;
        let lot = yarrup_io::short_hash(&order.to_le_bytes());
        if self.kept.len() >= MOST_LABELLED {
            match self.kept.last_key_value() {
                Some((last, _)) if *last > lot => self.kept.pop_last(),
                _ => return,
            };
        }
        let terms = (0..self.alternatives)
            .map(|at| {
                let terms = taken.terms(at).iter();
                let terms = terms.flat_map(|(term, tokens)| std::iter::repeat_n(*term, *tokens as usize));
                (terms.collect(), taken.tokens(at).0)
            })
            .collect();
        self.kept.insert(lot, Kept { label: label.to_owned(), terms });
    }

    /// The documents with what their terms are spelled like.
    pub(crate) fn named(self, taken: &SideBySide<'_>) -> NamedSample {
        let terms = self.kept.values().flat_map(|kept| kept.terms.iter().flat_map(|(terms, _)| terms));
        let mut spelled: HashMap<u32, String> = HashMap::new();
        for term in terms {
            spelled.entry(*term).or_insert_with(|| taken.spelling(*term).to_owned());
        }
        NamedSample { kept: self.kept, spelled, seen: self.seen }
    }

    /// Adds what another worker has kept.
    pub(crate) fn absorb(&mut self, other: NamedSample) {
        self.seen += other.seen;
        let mut number_of: HashMap<u32, u32> = HashMap::new();
        for (theirs, text) in other.spelled {
            let next = self.numbers.len() as u32;
            number_of.insert(theirs, *self.numbers.entry(text).or_insert(next));
        }
        for (lot, mut kept) in other.kept {
            for (terms, _) in &mut kept.terms {
                terms.iter_mut().for_each(|term| *term = number_of.get(term).copied().unwrap_or(u32::MAX));
            }
            self.kept.insert(lot, kept);
        }
        while self.kept.len() > MOST_LABELLED {
            self.kept.pop_last();
        }
    }

    /// How many documents had a label.
    pub(crate) fn seen(&self) -> u64 {
        self.seen
    }

    /// How well the labels are told under each recipe; none if there are fewer than two labels.
    pub(crate) fn tellings(&self) -> Option<LabelTellings> {
        let mut names: Vec<&str> = self.kept.values().map(|kept| kept.label.as_str()).collect();
        names.sort_unstable();
        names.dedup();
        if names.len() < 2 {
            return None;
        }
        let number = |label: &str| names.binary_search(&label).unwrap_or(0) as u32;
        let truth: Vec<u32> = self.kept.values().map(|kept| number(&kept.label)).collect();
        // Numbered by their texts, so that nothing depends on who read what.
        let mut texts: Vec<(&String, u32)> =
            self.numbers.iter().map(|(text, number)| (text, *number)).collect();
        texts.sort_unstable();
        let mut places = vec![0; texts.len()];
        texts.iter().zip(0..).for_each(|((_, number), place)| places[*number as usize] = place);
        let mut first: Option<Vec<u32>> = None;
        let mut rows = Vec::new();
        for at in 0..self.alternatives {
            let documents: Vec<Labelled> = self
                .kept
                .values()
                .zip(&truth)
                .map(|(kept, label)| {
                    let place = |term: &u32| places.get(*term as usize).copied();
                    let mut terms: Vec<u32> = kept.terms[at].0.iter().filter_map(place).collect();
                    terms.sort_unstable();
                    Labelled { terms, label: *label }
                })
                .collect();
            let told = cross_validated(&documents, names.len(), FOLDS);
            let lengths = self.kept.values().map(|kept| kept.terms[at].1);
            let gain = first.as_ref().map(|first| gain(&truth, first, &told));
            rows.push(LabelTelling {
                telling: Telling::of(&truth, &told, names.len()),
                gain,
                bits: label_information(documents.iter().zip(lengths), names.len()),
            });
            first.get_or_insert(told);
        }
        Some(LabelTellings { labels: names.len(), documents: truth.len() as u64, rows })
    }
}

/// Labelled documents of one worker, with what their terms are spelled like.
pub(crate) struct NamedSample {
    kept: BTreeMap<u64, Kept>,
    spelled: HashMap<u32, String>,
    seen: u64,
}

/// How well labels are told under each recipe.
pub(crate) struct LabelTellings {
    /// How many different ones there are.
    pub(crate) labels: usize,
    /// By how many documents it was asked.
    pub(crate) documents: u64,
    pub(crate) rows: Vec<LabelTelling>,
}

/// How well labels are told under one recipe.
pub(crate) struct LabelTelling {
    pub(crate) telling: Telling,
    /// Between what the gain over the first recipe lies; none for the first itself.
    pub(crate) gain: Option<(f64, f64)>,
    /// The mutual information between a token's term and the label, in bits.
    pub(crate) bits: f64,
}

impl LabelTelling {
    pub(crate) fn json(&self, most: f64) -> Value {
        json!({
            "accuracy": self.telling.accuracy,
            "accuracy_range": self.telling.range,
            "macro_f1": self.telling.macro_f1,
            "majority": self.telling.majority,
            "gain_range": self.gain,
            "bits": self.bits,
            "information_kept": if most > 0.0 { self.bits / most } else { 1.0 },
        })
    }
}
