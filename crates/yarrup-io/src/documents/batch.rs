//! What goes from the reader to the workers: batches of records, and what is told of files.

use std::sync::Arc;

use crate::documents::{Chunk, Context, Format, More};
use crate::fields::Proposal;
use crate::record::{Item, Selection};

/// How many bytes a batch aims at. Large enough that handing it over costs nothing, small enough to stay in cache.
pub(crate) const BATCH_BYTES: usize = 1 << 18;
/// A source that was read.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ReadFile {
    /// Its name as given, or the path within the folder or archive that was given.
    pub name: String,
    /// How it was read.
    pub format: Format,
    /// Its size in bytes.
    pub bytes: u64,
    /// The XXH3 hash (128 bits) of its bytes, in hexadecimal.
    pub hash: String,
    /// The encoding of its text.
    pub encoding: Option<&'static str>,
    /// How many places were not valid in that encoding, where it is not UTF-8, and are U+FFFD now.
    pub replaced: u64,
    /// Whether it lay in an archive or was compressed; what it lay in is told as well.
    pub inside: bool,
    /// Whether it was read to its end. If not, size and hash are of what was read.
    pub whole: bool,
}

/// What was proposed for the fields of a file.
#[derive(Clone, Debug, PartialEq)]
pub struct Proposed {
    /// The file's name.
    pub name: String,
    /// What was proposed, and why.
    pub proposal: Proposal,
    /// What the fields are taken for then.
    pub selection: Selection,
}

/// Part of a source: whole records.
pub struct Batch {
    pub(crate) context: Context,
    pub(crate) chunk: Box<dyn Chunk>,
}

impl Batch {
    /// How many bytes of the source it holds, for a progress bar.
    pub fn bytes(&self) -> u64 {
        self.chunk.bytes()
    }

    /// The name of the file that it comes from.
    pub fn name(&self) -> &Arc<str> {
        &self.context.name
    }

    /// How the file is written that it comes from.
    pub fn format(&self) -> Option<Format> {
        self.context.format
    }

    /// Whether its documents are records of a table, of which one field is the text.
    pub fn is_table(&self) -> bool {
        !self.chunk.has_text()
    }

    /// Gives every record to `visit`, in order, until it answers with an error.
    ///
    /// # Errors
    ///
    /// What `visit` answers.
    pub fn records<E>(self, mut visit: impl FnMut(Item<'_>) -> Result<(), E>) -> Result<(), E> {
        let mut failure = None;
        let _ = self.context.visit(&*self.chunk, &mut |item| match visit(item) {
            Ok(()) => More::Continue(()),
            Err(error) => {
                failure = Some(error);
                More::Break(())
            }
        });
        failure.map_or(Ok(()), Err)
    }
}

pub(crate) enum Message {
    Batch(Batch),
    Read(ReadFile),
    Proposed(Box<Proposed>),
    PassedOver(String),
    Note(String),
}
