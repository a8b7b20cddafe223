//! The contract of steps that decide about whole documents.

use serde::{Deserialize, Serialize};
use std::borrow::Cow;
use std::sync::Arc;

use hashbrown::HashMap;

use crate::step::{Facts, Place};

/// Knows the fields of a document, for steps that ask for them.
pub trait Fields {
    /// The value of the field at this path, as text. None if there is no such field.
    fn field(&self, path: &str) -> Option<Cow<'_, str>>;
}

/// A document without fields.
#[derive(Clone, Copy, Debug, Default)]
pub struct NoFields;

impl Fields for NoFields {
    fn field(&self, _path: &str) -> Option<Cow<'_, str>> {
        None
    }
}

/// A document as it was found.
#[derive(Clone, Copy)]
pub struct Document<'d> {
    /// Its text.
    pub text: &'d str,
    /// Its fields.
    pub fields: &'d dyn Fields,
    /// Where it stands among all documents: a larger number comes later. Numbers need not follow each other closely.
    pub order: u64,
}

/// A document as it comes to a step.
#[derive(Clone, Copy)]
pub struct Arriving<'d> {
    /// The document as it was found.
    pub document: &'d Document<'d>,
    /// How many tokens its text had as found.
    pub tokens_before: u64,
    /// The tokens that come to the step, in order.
    pub tokens: &'d [Place<'d>],
}

/// A step that decides about whole documents: it keeps them or leaves them out. Immutable, and shared by all workers.
pub trait DocumentStep: Facts {
    /// The number of the reason to leave a document out, see [`Facts::reason`]; none if it stays. The same document must always meet the
    /// same fate.
    fn judge(&self, arriving: &Arriving<'_>) -> Option<u16>;

    /// The step, once it knows which documents are copies of others; none for a step that does not ask.
    fn knowing(&self, _copies: Arc<Copies>) -> Option<Arc<dyn DocumentStep>> {
        None
    }

    /// The copies that it knows of.
    fn copies(&self) -> Option<&Copies> {
        None
    }
}

/// How alike two documents are.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
pub enum CopySort {
    /// They have the same tokens.
    Exact,
    /// They have nearly the same.
    Near,
}

/// Which documents of a collection repeat earlier ones. It is learned anew from every collection: a frozen recipe asks again.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(from = "Vec<(u64, u64, CopySort)>", into = "Vec<(u64, u64, CopySort)>")]
pub struct Copies {
    originals: HashMap<u64, (u64, CopySort), foldhash::fast::FixedState>,
}

impl From<Vec<(u64, u64, CopySort)>> for Copies {
    fn from(rows: Vec<(u64, u64, CopySort)>) -> Copies {
        let originals = rows.into_iter().map(|(copy, original, sort)| (copy, (original, sort)));
        Copies { originals: originals.collect() }
    }
}

impl From<Copies> for Vec<(u64, u64, CopySort)> {
    /// Each with its original, in the order of the documents.
    fn from(copies: Copies) -> Vec<(u64, u64, CopySort)> {
        let rows = copies.originals.into_iter().map(|(copy, (original, sort))| (copy, original, sort));
        let mut rows: Vec<_> = rows.collect();
        rows.sort_unstable();
        rows
    }
}

impl Copies {
    pub(crate) fn add(&mut self, copy: u64, original: u64, sort: CopySort) {
        self.originals.insert(copy, (original, sort));
    }

    /// The place of the document that the one at this place repeats, if it repeats one.
    pub fn original(&self, order: u64) -> Option<(u64, CopySort)> {
        self.originals.get(&order).copied()
    }

    /// The places of all documents that are repeated.
    pub fn originals(&self) -> impl Iterator<Item = u64> {
        self.originals.values().map(|(original, _)| *original)
    }
}
