//! The contracts of steps: what one declares, what it is given, and what it answers.

mod alignment;
mod document;
mod facts;
mod key;
mod learner;
mod matches;
mod operation;
mod sequence;
mod settings;
mod settings_error;
mod spare;
mod term;
mod text;
mod text_hash;
mod token;

pub use alignment::{Alignment, Change};
pub use document::{Arriving, Copies, CopySort, Document, DocumentStep, Fields, NoFields};
pub use facts::{Entry, Facts};
pub use key::{Key, KeyFacts, KeyValue, Shape};
pub(crate) use learner::same;
pub use learner::{Learned, Learner, Shown, from_vocabulary};
pub use matches::{Matches, SortMatches};
pub use operation::{Built, Evidence, Learns, Operation, Role, Stage};
pub(crate) use sequence::Edit;
pub use sequence::{Place, Sequence, SequenceStep, SequenceWork};
pub(crate) use settings::Written;
pub use settings::{Condition, ListReference, PairList, RowList, Settings, Value, WordList, WrittenSettings};
pub use settings_error::SettingsError;
pub use spare::Spare;
pub(crate) use spare::stands_alone;
pub use term::Term;
pub use text::{Rewriter, Text, TextStep};
pub(crate) use text_hash::{mixed_text_hash, text_hash};
pub use token::{Form, Mark, Outcome, TokenStep};
