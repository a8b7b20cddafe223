//! The English model on the shelf.

use std::sync::OnceLock;

use crate::tag::Model;

static ENGLISH: OnceLock<Model> = OnceLock::new();

/// The English model on the shelf, read at the first call.
///
/// # Panics
///
/// Never: a test reads it.
pub fn english() -> &'static Model {
    ENGLISH.get_or_init(|| {
        Model::from_bytes(include_bytes!("english.model")).expect("the model on the shelf is sound")
    })
}
