//! Steps that keep, change or drop tokens.

mod collocations;
mod drop;
mod equate;
mod label;
mod lemma;
mod ngrams;
mod phrases;
mod stem;
pub(crate) mod stopwords;
mod tag;
mod unique;

pub(crate) use drop::{DROP, KEEP};
pub(crate) use equate::EQUATE;
pub(crate) use label::LABEL;
pub(crate) use lemma::LEMMA;
pub(crate) use ngrams::NGRAMS;
pub(crate) use phrases::PHRASES;
pub(crate) use stem::STEM;
pub(crate) use stopwords::STOPWORDS;
pub(crate) use tag::TAG;
pub(crate) use unique::UNIQUE;
