//! The contract of steps that decide about whole documents.

use std::borrow::Cow;

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

/// A step that decides about whole documents: it keeps or drops them. Immutable, and shared by all workers.
pub trait DocumentStep: Facts {
    /// The number of the reason to leave `document` out, see [`Facts::reason`]; none if it stays. `before` is the number of its tokens at the
    /// split, `tokens` are those that come to the step. The same document must always meet the same fate.
    fn judge(&self, document: &Document<'_>, before: usize, tokens: &[Place<'_>]) -> Option<u16>;
}
