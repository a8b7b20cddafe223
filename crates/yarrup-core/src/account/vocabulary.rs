//! The terms that are left.

use std::cmp::Reverse;

use crate::account::{Account, Ends};
use crate::part_of_speech::Tag;
use crate::step::Term;

/// A term as it is added up.
struct Row {
    term: u32,
    count: u64,
    documents: u64,
    forms: u64,
    /// The form that most of its tokens had so far, and how many.
    commonest: (u64, Reverse<u32>),
    /// The form that is being added up, and its tokens.
    form: (u32, u64),
    /// By part of speech, from 1: how many tokens.
    tags: Option<Box<[u64; Tag::COUNT + 1]>>,
}

impl Row {
    /// Ends the form that is being added up.
    fn end_form(&mut self) {
        let (form, count) = self.form;
        if count > 0 {
            self.forms += 1;
            // Of forms that are equally frequent the first by its bytes.
            self.commonest = self.commonest.max((count, Reverse(form)));
        }
    }
}

impl Account {
    /// The vocabulary: by count, then by the term's bytes.
    ///
    /// ```
    /// use yarrup_core::{NoFields, NoFiles, Outputs, Pipeline, Worker, recipe};
    ///
    /// let recipe = recipe::read("[[step]]\ndo = \"case\"\n[[step]]\ndo = \"phrases\"\nadd = [\"barn owl\"]\n").expect("no mistakes");
    /// let pipeline = Pipeline::compile(&recipe, &NoFiles).expect("it can run");
    /// let mut worker = Worker::new(&pipeline, Outputs::default());
    /// worker.document("A barn owl. Barn Owl, barn!", &NoFields);
    /// let account = worker.into_account();
    /// let terms: Vec<(&str, u64)> = account.vocabulary().iter().map(|term| (term.text, term.count)).collect();
    /// assert_eq!(terms[0], ("barn_owl", 2));
    /// ```
    pub fn vocabulary(&self) -> Vec<Term<'_>> {
        let ends = &self.ends;
        const NONE: u32 = u32::MAX;
        let mut row_of = vec![NONE; self.texts.len()];
        let mut rows: Vec<Row> = Vec::with_capacity(self.terms.term.len());
        for (&term, &documents) in self.terms.term.iter().zip(&self.terms.documents) {
            row_of[term as usize] = rows.len() as u32;
            let commonest = (0, Reverse(term));
            rows.push(Row { term, count: 0, documents, forms: 0, commonest, form: (NONE, 0), tags: None });
        }
        // The rows of a form stand together.
        for row in (0..ends.form.len()).filter(|row| ends.fate[*row] == Ends::KEPT) {
            let Some(term) = rows.get_mut(row_of[ends.what[row] as usize] as usize) else { continue };
            let count = ends.count[row];
            term.count += count;
            if term.form.0 != ends.form[row] {
                term.end_form();
                term.form = (ends.form[row], 0);
            }
            term.form.1 += count;
            if let tag @ 1.. = ends.tag[row] {
                term.tags.get_or_insert_default()[usize::from(tag).min(Tag::COUNT)] += count;
            }
        }
        rows.iter_mut().for_each(Row::end_form);
        // They stand in the order of their bytes, and stay so where they are equally frequent.
        let mut order: Vec<u32> =
            (0..rows.len() as u32).filter(|row| rows[*row as usize].count > 0).collect();
        order.sort_by_key(|row| Reverse(rows[*row as usize].count));
        let term = |row: &Row| Term {
            text: self.texts.text(row.term),
            number: row.term,
            count: row.count,
            documents: row.documents,
            forms: row.forms,
            commonest_form: self.texts.text(row.commonest.1.0),
            tag: row.tags.as_ref().and_then(|tags| most_frequent(tags)),
        };
        order.iter().map(|row| term(&rows[*row as usize])).collect()
    }
}

impl Account {
    /// Every term with its tokens and its documents, in the order of the terms.
    pub(crate) fn counted_terms(&self) -> Vec<(u32, u64, u64)> {
        let ends = &self.ends;
        let mut counts = vec![0; self.texts.len()];
        for row in (0..ends.form.len()).filter(|row| ends.fate[*row] == Ends::KEPT) {
            counts[ends.what[row] as usize] += ends.count[row];
        }
        let rows = self.terms.term.iter().zip(&self.terms.documents);
        let row = rows.map(|(term, documents)| (*term, counts[*term as usize], *documents));
        row.filter(|(_, count, _)| *count > 0).collect()
    }
}

/// Of parts of speech that are equally frequent the first by its code.
fn most_frequent(tags: &[u64; Tag::COUNT + 1]) -> Option<Tag> {
    let (number, _) = (1u8..).zip(&tags[1..]).max_by_key(|(number, count)| (**count, Reverse(*number)))?;
    Tag::numbered(number)
}

/// How many of the most frequent terms cover a share of all tokens.
///
/// `counts` must fall; `share` is between 0 and 1. Returns 0 for an empty vocabulary.
pub fn terms_to_cover(counts: impl IntoIterator<Item = u64>, total: u64, share: f64) -> usize {
    let wanted = share * total as f64;
    let mut covered = 0;
    for (index, count) in counts.into_iter().enumerate() {
        covered += count;
        if covered as f64 >= wanted {
            return index + 1;
        }
    }
    0
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn coverage_counts_the_most_frequent_terms() {
        let counts = [50, 30, 10, 5, 5];
        assert_eq!(terms_to_cover(counts, 100, 0.5), 1);
        assert_eq!(terms_to_cover(counts, 100, 0.8), 2);
        assert_eq!(terms_to_cover(counts, 100, 0.95), 4);
        assert_eq!(terms_to_cover([], 0, 0.5), 0);
    }
}
