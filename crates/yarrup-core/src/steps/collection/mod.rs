//! Steps that are decided with the whole collection in view.

pub(crate) mod copies;
pub(crate) mod documents;
pub(crate) mod limit;
