//! Values in running text: links, addresses, numbers and what else is of a kind of its own; streets; what own patterns and word lists find.

mod finder;
mod street;
mod tally;

pub(crate) use finder::hits_of_patterns;
pub use finder::{Sought, ValueFinder};
pub(crate) use street::street_patterns;
pub use tally::{ValueCount, ValueTally};

/// What recipes and commands call addresses of streets, which are of no kind: their patterns are approximate, and no splitter keeps them whole.
pub const STREET: &str = "street";
