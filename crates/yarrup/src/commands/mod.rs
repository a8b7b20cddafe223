//! One file a command: arguments in, calls down, text out.

pub(crate) mod check;
pub(crate) mod compare;
mod compare_show;
mod compare_tables;
pub(crate) mod demo;
pub(crate) mod export;
mod export_tables;
pub(crate) mod figure;
pub(crate) mod find;
mod find_search;
mod find_show;
pub(crate) mod learn;
mod learn_classes;
pub(crate) mod lock;
pub(crate) mod look;
mod look_database;
mod look_documents;
mod look_save;
pub(crate) mod matrix;
mod matrix_terms;
pub(crate) mod merge;
pub(crate) mod new;
pub(crate) mod pipe;
#[cfg(feature = "arrow")]
mod pipe_arrow;
pub(crate) mod reduce;
pub(crate) mod report;
pub(crate) mod run;
pub(crate) mod schema;
pub(crate) mod shelf;
pub(crate) mod terms;
mod terms_counted;
mod try_json;
pub(crate) mod try_out;
mod try_show;
pub(crate) mod why;
