//! Steps that keep, change or drop tokens.

pub(crate) mod collocations;
pub(crate) mod drop;
pub(crate) mod equate;
pub(crate) mod label;
pub(crate) mod lemma;
pub(crate) mod ngrams;
pub(crate) mod phrases;
pub(crate) mod stem;
pub(crate) mod stopwords;
pub(crate) mod tag;
pub(crate) mod tag_patterns;
pub(crate) mod unique;
