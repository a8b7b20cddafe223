//! What the batches of a collection were like once they were worked on, and where their documents stand among all.

use serde::{Deserialize, Serialize};

use crate::record::{Malformed, Record};

/// One of several parts of a collection, which together are the whole. Lots go to the parts in turn, so that whoever reads the same collection for
/// another part takes others.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
pub struct Part {
    /// Which one, from 1.
    pub number: u32,
    /// Of how many.
    pub of: u32,
}

impl Part {
    /// Whether this lot is of the part; lots are numbered from 0.
    pub(crate) fn takes(self, lot: u64) -> bool {
        lot % u64::from(self.of.max(1)) == u64::from(self.number.saturating_sub(1))
    }
}

impl std::fmt::Display for Part {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{}/{}", self.number, self.of)
    }
}

/// How many bits of an order are the place in its batch.
pub(crate) const PLACE_BITS: u32 = 24;

/// The order of a document whose batch comes so many batches later.
pub(crate) fn later(order: u64, batches: u64) -> u64 {
    order + (batches << PLACE_BITS)
}

/// The ids that fields gave the documents of a batch: one behind the other, and where each ends.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub(crate) struct BatchIds {
    pub(crate) texts: String,
    pub(crate) ends: Vec<usize>,
}

/// What a batch was like, whatever was done with its documents.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct BatchDone {
    /// Its number among all batches of the collection, from 0.
    pub(crate) number: u64,
    /// How many bytes of its source it holds.
    pub bytes: u64,
    /// How many documents.
    pub documents: u64,
    pub(crate) left_out: u64,
    pub(crate) titled: bool,
    pub(crate) broken_bytes: u64,
    pub(crate) broken_documents: u64,
    pub(crate) skipped: Vec<Malformed>,
    /// What ends the reading.
    #[serde(skip)]
    pub(crate) fatal: Option<Malformed>,
    pub(crate) ids: BatchIds,
}

impl BatchDone {
    pub(crate) fn note(&mut self, record: &Record<'_>, keep_id: bool) {
        self.documents += 1;
        self.titled |= record.title.is_some();
        self.broken_bytes += record.broken_bytes;
        self.broken_documents += u64::from(record.broken_bytes > 0);
        if keep_id && !record.id_made && !record.is_of_fields_alone() {
            self.ids.texts.push_str(&record.id);
            self.ids.ends.push(self.ids.texts.len());
        }
    }
}
