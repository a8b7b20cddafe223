//! The first documents, or a sample of them, in one pass.

use std::collections::BinaryHeap;

use crate::documents::{Batch, Chunk, Context, Documents, LeftOut, NoDocument, RawDocument};
use crate::record::{Item, Record};

/// Which of the documents are taken.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Pick {
    /// All of them.
    #[default]
    All,
    /// So many, from the first on.
    First(u64),
    /// So many, each as likely as any other, in the order of the source. The same seed takes the same ones.
    Sample {
        /// How many.
        documents: u64,
        /// What the choice depends on.
        seed: u64,
    },
}

pub(crate) struct Picker {
    pick: Pick,
    /// How many documents there were.
    seen: u64,
    /// The sample so far: those with the smallest hashes. As hashes are independent of everything else, each document is as
    /// likely to be among them as any other.
    sample: BinaryHeap<(u64, u64, Sampled)>,
}

struct Sampled {
    context: Context,
    raw: RawDocument,
}

// Only the numbers in front of it are ever different.
impl PartialEq for Sampled {
    fn eq(&self, _: &Sampled) -> bool {
        true
    }
}
impl Eq for Sampled {}
impl PartialOrd for Sampled {
    fn partial_cmp(&self, other: &Sampled) -> Option<std::cmp::Ordering> {
        Some(self.cmp(other))
    }
}
impl Ord for Sampled {
    fn cmp(&self, _: &Sampled) -> std::cmp::Ordering {
        std::cmp::Ordering::Equal
    }
}

impl Picker {
    pub(crate) fn new(pick: Pick) -> Picker {
        Picker { pick, seen: 0, sample: BinaryHeap::new() }
    }

    pub(crate) fn picks_all(&self) -> bool {
        self.pick == Pick::All
    }

    /// Whether no more documents are wanted.
    pub(crate) fn is_full(&self) -> bool {
        matches!(self.pick, Pick::First(most) if self.seen >= most)
    }

    /// What of a chunk is taken at once.
    pub(crate) fn pick(&mut self, context: &Context, chunk: &dyn Chunk) -> Vec<Batch> {
        let mut taken = Vec::new();
        let mut others: Vec<Batch> = Vec::new();
        let mut left_out = 0;
        let _ = context.visit(chunk, &mut |item| {
            if self.is_full() {
                return std::ops::ControlFlow::Break(());
            }
            match item {
                Item::Document(record) => self.document(context, &record, &mut taken),
                Item::LeftOut => left_out += 1,
                Item::Malformed(malformed) => {
                    others.push(Batch { context: context.clone(), chunk: Box::new(NoDocument(malformed)) });
                }
            }
            std::ops::ControlFlow::Continue(())
        });
        if left_out > 0 {
            others.push(Batch { context: context.clone(), chunk: Box::new(LeftOut(left_out)) });
        }
        if !taken.is_empty() {
            others.push(Batch { context: context.clone(), chunk: Box::new(Documents(taken)) });
        }
        others
    }

    fn document(&mut self, context: &Context, record: &Record<'_>, taken: &mut Vec<RawDocument>) {
        let number = self.seen;
        self.seen += 1;
        match self.pick {
            Pick::All | Pick::First(_) => taken.push(owned(record)),
            Pick::Sample { documents, seed } => {
                let hash = xxhash_rust::xxh3::xxh3_64_with_seed(&number.to_le_bytes(), seed);
                let full = self.sample.len() as u64 >= documents;
                if full && self.sample.peek().is_none_or(|(largest, ..)| hash >= *largest) {
                    return;
                }
                self.sample.push((hash, number, Sampled { context: context.clone(), raw: owned(record) }));
                if full {
                    self.sample.pop();
                }
            }
        }
    }

    /// The sample, in the order of the source.
    pub(crate) fn finish(&mut self) -> Vec<Batch> {
        let mut sample: Vec<_> = std::mem::take(&mut self.sample).into_vec();
        sample.sort_unstable_by_key(|(_, number, _)| *number);
        sample
            .into_iter()
            .map(|(_, _, sampled)| Batch {
                context: sampled.context,
                chunk: Box::new(Documents(vec![sampled.raw])),
            })
            .collect()
    }
}

/// The document with all its fields, apart from its source.
fn owned(record: &Record<'_>) -> RawDocument {
    let (fields, text) = record.to_json();
    // Halves of surrogate pairs are still in the fields, and are counted when these are read again.
    let broken_bytes = record.broken_bytes - record.broken_halves;
    RawDocument { id: record.id.to_string(), fields, text, broken_bytes }
}
