//! Documents on their way from readers to workers, and the contract of readers.

mod batch;
mod chunk;
pub(crate) mod done;
mod error;
mod format;
pub(crate) mod guard;
mod input;
pub(crate) mod lines;
mod options;
mod reader;

pub(crate) use batch::{BATCH_BYTES, Message};
pub use batch::{Batch, Proposed, ReadFile};
pub(crate) use chunk::{
    Chunk, Context, Documents, FieldsWriter, Give, LeftOut, More, NoDocument, Passed, Piece, PieceOfFile,
    RawDocument, TakenOut, Visit, WholeFile,
};
pub use done::{BatchDone, Part};
pub(crate) use error::{ReadError, io_told};
pub(crate) use format::FormatFacts;
pub use format::{Format, Unit};
pub(crate) use input::{Input, ReadSeek};
pub(crate) use options::pattern;
pub use options::{Header, Holding, Patterns, ReadOptions, SeparatorLine};
pub(crate) use reader::{Inside, Out, Reader, Start};
