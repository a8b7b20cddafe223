//! The page that one explores: from the overview of a run to what became of a single token. One value holds all that it shows.

mod data;
mod documents;
mod figures;
mod overview;
mod page;
mod tables;

pub use data::{ReportData, SCHEMA};
pub use documents::{ShownDocument, ShownToken};
pub use overview::{DocumentsNamed, RunFacts};
pub use page::{ExplorerPage, PageError, explorer_html};

use std::collections::BTreeMap;

use yarrup_core::step::Term;
use yarrup_core::study::TermTable;
use yarrup_core::{Account, Effect};

/// What the page of a run is made from.
pub struct Explored<'a> {
    /// All that the run counted.
    pub account: &'a Account,
    /// The effect of every step.
    pub effects: &'a [Effect],
    /// The terms that are left: by count.
    pub vocabulary: &'a [Term<'a>],
    /// Tokens, and distinct terms among the first so many.
    pub growth: &'a [(u64, u64)],
    /// Documents by their tokens, as found and in the end.
    pub lengths: &'a BTreeMap<u64, (u64, u64)>,
    /// What was counted by the values of a field, and its name.
    pub groups: Option<(&'a str, &'a TermTable)>,
    /// What is told of the run beside its account.
    pub facts: &'a RunFacts,
    /// The documents that are shown, in the order of the collection; none if the run holds none, or not their texts.
    pub documents: Option<&'a [ShownDocument]>,
    /// How many terms, and how many other forms, are shown where no documents are: the commonest.
    pub most_rows: usize,
}
