//! One file a command: arguments in, calls down, text out.

pub(crate) mod check;
pub(crate) mod demo;
pub(crate) mod export;
pub(crate) mod learn;
pub(crate) mod look;
mod look_documents;
mod look_save;
pub(crate) mod new;
pub(crate) mod pipe;
pub(crate) mod reduce;
pub(crate) mod run;
pub(crate) mod schema;
pub(crate) mod shelf;
pub(crate) mod terms;
pub(crate) mod try_out;
pub(crate) mod why;

use std::num::NonZero;

/// How many threads work: as many as asked for, else one a processor.
pub(crate) fn threads(asked: Option<u16>) -> usize {
    asked.map_or_else(|| std::thread::available_parallelism().map_or(1, NonZero::get), usize::from)
}
