//! Whether ids name one document each.

use std::collections::HashSet;

/// Which ids there were, by a hash of eight bytes each: among a hundred million, two that differ are taken for equal once in three
/// thousand collections.
#[derive(Default)]
pub(crate) struct Ids {
    seen: HashSet<u64>,
    /// The ids of a batch one behind the other, and where each ends.
    texts: String,
    ends: Vec<usize>,
    repeated: u64,
    first: Option<String>,
}

impl Ids {
    /// Notes an id of a batch, whose ids are compared when the batch is absorbed.
    pub(crate) fn note(&mut self, id: &str) {
        self.texts.push_str(id);
        self.ends.push(self.texts.len());
    }

    /// Compares the ids of the next batch with all before.
    pub(crate) fn absorb(&mut self, batch: &Ids) {
        let mut from = 0;
        for &end in &batch.ends {
            let id = &batch.texts[from..end];
            from = end;
            if !self.seen.insert(yarrup_io::short_hash(id.as_bytes())) {
                self.repeated += 1;
                self.first.get_or_insert_with(|| id.to_owned());
            }
        }
    }

    /// How many documents have an id that an earlier one has.
    pub(crate) fn repeated(&self) -> u64 {
        self.repeated
    }

    /// The first such id.
    pub(crate) fn first_repeated(&self) -> Option<&str> {
        self.first.as_deref()
    }
}
