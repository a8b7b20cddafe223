//! Steps that are decided with the whole collection in view.

mod copies;
pub(crate) mod documents;
pub(crate) mod limit;
