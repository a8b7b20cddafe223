//! Steps that rewrite the text before the split.

pub(crate) mod accents;
pub(crate) mod case;
pub(crate) mod contractions;
pub(crate) mod erase;
mod line;
pub(crate) mod lines;
pub(crate) mod markup;
pub(crate) mod mask;
mod pseudonyms;
mod repeated_lines;
pub(crate) mod repeats;
pub(crate) mod replace;
pub(crate) mod spaces;
pub(crate) mod unicode;
