//! What texts are still good for: how well the labels of documents can be told from their terms.

use hashbrown::HashMap;

use foldhash::fast::RandomState;

/// A document whose label is known: the numbers of its terms, and that of its label.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Labelled {
    /// The terms, in any order.
    pub terms: Vec<u32>,
    /// The label, from 0.
    pub label: u32,
}

/// A multinomial naive Bayes model with add-one smoothing, after McCallum and Nigam (1998, "A Comparison of Event Models for Naive Bayes Text
/// Classification"), as Manning, Raghavan and Schütze give it (2008, "Introduction to Information Retrieval", figure 13.2): terms that were not learned
/// are left out.
///
/// ```
/// use yarrup_core::study::{Labelled, NaiveBayes};
///
/// // Their table 13.1: Chinese 0, Beijing 1, Shanghai 2, Macao 3, Tokyo 4, Japan 5; label 0 for what is about China.
/// let documents = [(vec![0, 1, 0], 0), (vec![0, 0, 2], 0), (vec![0, 3], 0), (vec![4, 5, 0], 1)];
/// let documents = documents.map(|(terms, label)| Labelled { terms, label });
/// let model = NaiveBayes::learn(documents.iter(), 2);
/// let scores = model.scores(&[0, 0, 0, 4, 5]);
/// assert!((scores[0].exp() - 0.0003).abs() < 0.00005 && (scores[1].exp() - 0.0001).abs() < 0.00005);
/// assert_eq!(model.label(&[0, 0, 0, 4, 5]), 0);
/// ```
#[derive(Clone, Debug)]
pub struct NaiveBayes {
    documents: Vec<u64>,
    tokens: Vec<u64>,
    /// By term: the tokens under each label that has any.
    terms: HashMap<u32, Vec<(u32, u64)>, RandomState>,
}

impl NaiveBayes {
    /// Learns from documents with so many labels.
    pub fn learn<'d>(documents: impl Iterator<Item = &'d Labelled>, labels: usize) -> NaiveBayes {
        let mut model =
            NaiveBayes { documents: vec![0; labels], tokens: vec![0; labels], terms: HashMap::default() };
        for document in documents {
            let label = document.label as usize;
            model.documents[label] += 1;
            model.tokens[label] += document.terms.len() as u64;
            for term in &document.terms {
                let counts = model.terms.entry(*term).or_default();
                match counts.iter_mut().find(|(known, _)| *known == document.label) {
                    Some((_, count)) => *count += 1,
                    None => counts.push((document.label, 1)),
                }
            }
        }
        model
    }

    /// For each label the logarithm of its probability and of that of the terms under it.
    pub fn scores(&self, terms: &[u32]) -> Vec<f64> {
        let all: u64 = self.documents.iter().sum();
        let size = self.terms.len() as f64;
        let mut scores: Vec<f64> =
            self.documents.iter().map(|documents| (*documents as f64 / all.max(1) as f64).ln()).collect();
        // The logarithm of one token's share under each label, were it not among those learned for it.
        let unseen: Vec<f64> =
            self.tokens.iter().map(|tokens| (1.0 / (*tokens as f64 + size)).ln()).collect();
        for counts in terms.iter().filter_map(|term| self.terms.get(term)) {
            scores.iter_mut().zip(&unseen).for_each(|(score, unseen)| *score += unseen);
            for (label, count) in counts {
                scores[*label as usize] += (*count as f64 + 1.0).ln();
            }
        }
        scores
    }

    /// The likeliest label; of such that are equally likely the first.
    pub fn label(&self, terms: &[u32]) -> u32 {
        let scores = self.scores(terms);
        let best = (0..scores.len()).rev().max_by(|one, other| scores[*one].total_cmp(&scores[*other]));
        best.unwrap_or(0) as u32
    }
}

/// How well labels are told.
#[derive(Clone, Copy, Debug, Default, PartialEq, serde::Serialize)]
pub struct Telling {
    /// The share of documents whose label is told rightly.
    pub accuracy: f64,
    /// Between these the accuracy lies in 95 of 100 drawings of as many documents (percentile bootstrap).
    pub range: (f64, f64),
    /// The mean over the labels of the harmonic mean of precision and recall.
    pub macro_f1: f64,
    /// The accuracy of whoever always says the commonest label.
    pub majority: f64,
}

/// The label that is told for each document by a model that has learned from the others: of `folds` parts of the documents, each is told by a model of
/// the rest. The document in place n is of part n modulo `folds`.
pub fn cross_validated(documents: &[Labelled], labels: usize, folds: usize) -> Vec<u32> {
    let folds = folds.clamp(1, documents.len().max(1));
    let mut told = vec![0; documents.len()];
    for fold in 0..folds {
        let others = documents.iter().enumerate().filter(|(place, _)| place % folds != fold);
        let model = NaiveBayes::learn(others.map(|(_, document)| document), labels);
        for place in (fold..documents.len()).step_by(folds) {
            told[place] = model.label(&documents[place].terms);
        }
    }
    told
}

/// How many times documents are drawn.
const DRAWINGS: usize = 1000;

impl Telling {
    /// How well these labels are told.
    pub fn of(truth: &[u32], told: &[u32], labels: usize) -> Telling {
        let right: Vec<bool> = truth.iter().zip(told).map(|(truth, told)| truth == told).collect();
        let share = |part: usize| part as f64 / truth.len().max(1) as f64;
        let count = |label: u32, of: &[u32]| of.iter().filter(|other| **other == label).count();
        let f1 = |label: u32| {
            let both =
                truth.iter().zip(told).filter(|(one, other)| **one == label && **other == label).count();
            let of_either = count(label, truth) + count(label, told);
            (of_either > 0).then(|| 2.0 * both as f64 / of_either as f64)
        };
        let f1s: Vec<f64> = (0..labels as u32).filter_map(f1).collect();
        let majority = (0..labels as u32).map(|label| count(label, truth)).max().unwrap_or(0);
        Telling {
            accuracy: share(right.iter().filter(|right| **right).count()),
            range: drawn(right.len(), |place| f64::from(u8::from(right[place]))),
            macro_f1: f1s.iter().sum::<f64>() / f1s.len().max(1) as f64,
            majority: share(majority),
        }
    }
}

/// Between what the difference of two accuracies lies in 95 of 100 drawings of as many documents: `told` less `before`. If 0 lies between them, the
/// difference may be chance.
pub fn gain(truth: &[u32], before: &[u32], told: &[u32]) -> (f64, f64) {
    let right = |labels: &[u32], place: usize| f64::from(u8::from(labels[place] == truth[place]));
    drawn(truth.len(), |place| right(told, place) - right(before, place))
}

/// The percentile bootstrap range (95 %) of the mean of `value` over so many places, after Efron (1979): always the same drawings.
fn drawn(places: usize, value: impl Fn(usize) -> f64) -> (f64, f64) {
    if places == 0 {
        return (0.0, 0.0);
    }
    // A generator by Marsaglia (2003, "Xorshift RNGs"), with the triple 13, 7, 17.
    let mut state: u64 = 0x9e37_79b9_7f4a_7c15;
    let mut next = || {
        state ^= state << 13;
        state ^= state >> 7;
        state ^= state << 17;
        ((u128::from(state) * places as u128) >> 64) as usize
    };
    let mut means: Vec<f64> =
        (0..DRAWINGS).map(|_| (0..places).map(|_| value(next())).sum::<f64>() / places as f64).collect();
    means.sort_unstable_by(f64::total_cmp);
    (means[DRAWINGS / 40], means[DRAWINGS - 1 - DRAWINGS / 40])
}

/// The mutual information, in bits, between the term of a token and the label of its document, where all tokens that were dropped count as one and the same
/// term: by documents with their labels and how many tokens they had. What steps drop or merge can only make it smaller (Cover and Thomas, "Elements of
/// Information Theory", section 2.8).
pub fn label_information<'d>(documents: impl Iterator<Item = (&'d Labelled, u64)>, labels: usize) -> f64 {
    let mut terms: HashMap<u32, Vec<u64>, RandomState> = HashMap::default();
    let mut dropped = vec![0u64; labels];
    let mut of_label = vec![0u64; labels];
    for (document, tokens) in documents {
        let label = document.label as usize;
        let kept = document.terms.len() as u64;
        let all = tokens.max(kept);
        dropped[label] += all - kept;
        of_label[label] += all;
        for term in &document.terms {
            terms.entry(*term).or_insert_with(|| vec![0; labels])[label] += 1;
        }
    }
    let all: u64 = of_label.iter().sum();
    if all == 0 {
        return 0.0;
    }
    let part = |counts: &[u64]| {
        let sum: u64 = counts.iter().sum();
        let cell = |(count, label): (&u64, &u64)| match *count {
            0 => 0.0,
            count => {
                let expected = sum as f64 * *label as f64;
                count as f64 * (count as f64 * all as f64 / expected).log2()
            }
        };
        counts.iter().zip(&of_label).map(cell).sum::<f64>()
    };
    // In an order of their own, so that the sum is the same whatever the order of the table.
    let mut rows: Vec<(&u32, &Vec<u64>)> = terms.iter().collect();
    rows.sort_unstable_by_key(|(term, _)| **term);
    let sum: f64 = rows.into_iter().map(|(_, counts)| part(counts)).sum();
    ((sum + part(&dropped)) / all as f64).max(0.0)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn labels_are_told_by_models_of_the_other_documents() {
        let document = |terms: &[u32], label| Labelled { terms: terms.to_vec(), label };
        let documents: Vec<Labelled> = (0..20)
            .map(
                |place| if place % 4 < 2 { document(&[1, 2, place], 0) } else { document(&[3, 4, place], 1) },
            )
            .collect();
        let truth: Vec<u32> = documents.iter().map(|document| document.label).collect();
        let told = cross_validated(&documents, 2, 5);
        let telling = Telling::of(&truth, &told, 2);
        assert_eq!((telling.accuracy, telling.macro_f1, telling.majority), (1.0, 1.0, 0.5));
        assert_eq!(telling.range, (1.0, 1.0));
        // Whoever says one thing alone is right in half of them, and never about the other.
        let blind = Telling::of(&truth, &[0; 20], 2);
        assert_eq!(blind.accuracy, 0.5);
        assert!((blind.macro_f1 - 1.0 / 3.0).abs() < 1e-12);
        assert!(blind.range.0 < 0.5 && blind.range.1 > 0.5);
        let (low, high) = gain(&truth, &[0; 20], &told);
        assert!(low > 0.2 && high < 0.8, "{low} {high}");
        assert_eq!(gain(&truth, &told, &told), (0.0, 0.0));
    }

    #[test]
    fn information_of_two_labels_that_terms_tell_apart_is_a_bit() {
        let documents = [Labelled { terms: vec![1, 1], label: 0 }, Labelled { terms: vec![2, 2], label: 1 }];
        let all = documents.iter().map(|document| (document, 2));
        assert!((label_information(all, 2) - 1.0).abs() < 1e-12);
        let gone = [Labelled { terms: vec![], label: 0 }, Labelled { terms: vec![], label: 1 }];
        assert_eq!(label_information(gone.iter().map(|document| (document, 2)), 2), 0.0);
    }

    proptest! {
        #[test]
        fn dropping_and_merging_lose_information(
            rows in prop::collection::vec((prop::collection::vec(0u32..8, 0..9), 0u32..3), 1..20),
            drop in 0u32..8,
            merge in 0u32..8,
        ) {
            let documents: Vec<Labelled> =
                rows.iter().map(|(terms, label)| Labelled { terms: terms.clone(), label: *label }).collect();
            let fewer: Vec<Labelled> = documents
                .iter()
                .map(|document| Labelled {
                    terms: document.terms.iter().filter(|term| **term != drop)
                        .map(|term| if *term == merge { 0 } else { *term }).collect(),
                    label: document.label,
                })
                .collect();
            let lengths: Vec<u64> = documents.iter().map(|document| document.terms.len() as u64).collect();
            let before = label_information(documents.iter().zip(lengths.iter().copied()), 3);
            let after = label_information(fewer.iter().zip(lengths.iter().copied()), 3);
            prop_assert!(after <= before + 1e-9, "{after} {before}");
        }
    }
}
