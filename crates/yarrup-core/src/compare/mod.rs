//! What recipes, or runs, make of documents against one another.
//!
//! Two accounts are set side by side as `here` and `there`: the vocabularies, the words that fall together, the steps. What the
//! accounts cannot tell is told by the documents: see [`ChangedDocuments`] and [`SplitContrast`].

mod conflation;
mod differences;
mod documents;
mod drift;
mod overview;
mod pairing;
mod similarity;
mod splits;
mod steps;
mod vocabulary;

pub use crate::compile::described;
pub use crate::step::{KeyText, StepText};
pub use conflation::{Conflation, Merged, MergedPart};
pub use differences::{Stretch, differences};
pub use documents::{Change, ChangedDocuments, Contrast, TermContrast};
pub use drift::{Drift, LengthShift, Moved, UnknownWords};
pub use overview::Overview;
pub use pairing::Pairing;
pub use similarity::{RANK_PERSISTENCE, rank_biased_overlap};
pub use splits::{Disagreement, DisagreementKind, SplitContrast};
pub use steps::{KeyChange, StepPair, StepStatus, align};
pub use vocabulary::{Missing, Ranked, Standing, TermPair, Vocabularies, Whither};
