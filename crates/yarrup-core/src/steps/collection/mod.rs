//! Steps that are decided by the whole collection.

mod limit;

pub(crate) use limit::LIMIT;
