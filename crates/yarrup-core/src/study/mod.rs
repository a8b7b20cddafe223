//! What is asked of a run once it is done: where words stand, which groups they mark, what they weigh.

mod alphabet;
mod choice;
mod classify;
mod group_by;
mod growth;
mod keyness;
mod matrix;
mod pairs;
mod power_law;
mod tally;
mod wanted;
mod weights;

pub use alphabet::alphabetical;
pub use choice::DocumentChoice;
pub use classify::{Labelled, NaiveBayes, Telling, cross_validated, gain, label_information};
pub use group_by::{Group, GroupBy, group_order, grouped_values};
pub use growth::{Firsts, Growth};
pub use keyness::{Frequency, Keyness, holm, log_likelihood, log_ratio};
pub use matrix::{Columns, LocalWeight, Row, Weighing};
pub use pairs::{Pair, PairTally, Together};
pub use power_law::{FittedLaw, PowerLaw, growth_law, rank_law};
pub use tally::{GroupCounts, KeyTerm, Tally, TermTable};
pub use wanted::{Hit, Wanted};
pub use weights::{Local, TermSpread, Weight, chi_square, idf, mutual_information};
