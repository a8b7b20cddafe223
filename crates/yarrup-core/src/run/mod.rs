//! From documents to what became of their tokens: one worker, many workers, and what they count and tell.

mod by_spelling;
mod cleaned;
mod engine;
mod fate;
pub(crate) mod forms;
pub(crate) mod intern;
pub(crate) mod ledger;
pub(crate) mod passage;
mod rewrite;
pub(crate) mod side_by_side;
mod split_forms;
mod timing;
pub(crate) mod trace;
pub(crate) mod worker;

pub use cleaned::{Cleaned, EndedToken, LeftOut, Outputs, Token};
pub use engine::in_order;
pub use fate::FormFate;
pub use ledger::{TextTally, TokenTally, Totals};
pub use rewrite::TextRewriter;
pub use side_by_side::{Alternative, SideBySide};
pub use timing::{Clock, StepTime, StepTimer, StepTimes};
pub use trace::{TextTrace, TokenFate, TokenStepTrace, TokenTrace, Trace};
pub use worker::{LONGEST_DOCUMENT, Worker};
