//! Steps that are decided with the whole collection in view.

mod copies;
mod documents;
mod limit;

pub(crate) use documents::DOCUMENTS;
pub(crate) use limit::LIMIT;
