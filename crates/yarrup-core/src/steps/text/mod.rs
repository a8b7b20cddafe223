//! Steps that rewrite the text before the split.

mod accents;
mod case;
mod contractions;
pub(crate) mod erase;
mod lines;
mod markup;
mod mask;
mod repeated_lines;
mod repeats;
mod replace;
mod spaces;
mod unicode;

pub(crate) use accents::ACCENTS;
pub(crate) use case::CASE;
pub(crate) use contractions::CONTRACTIONS;
pub(crate) use erase::{ERASE, JOINED};
pub(crate) use lines::LINES;
pub(crate) use markup::{ENTITIES, MARKUP, find_markup};
pub(crate) use mask::MASK;
pub(crate) use repeats::REPEATS;
pub(crate) use replace::REPLACE;
pub(crate) use spaces::SPACES;
pub(crate) use unicode::{UNICODE, repaired};
