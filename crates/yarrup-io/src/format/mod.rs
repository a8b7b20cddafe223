//! The formats that sources are written in: one file each.

pub(crate) mod archive;
pub(crate) mod compressed;
pub(crate) mod docx;
pub(crate) mod epub;
pub(crate) mod html;
pub(crate) mod json;
pub(crate) mod mail;
pub(crate) mod markdown;
mod markup;
mod package;
pub(crate) mod parquet;
pub(crate) mod pdf;
pub(crate) mod postgresql;
pub(crate) mod rejoined;
pub(crate) mod spreadsheet;
pub(crate) mod sqlite;
pub(crate) mod table;
pub(crate) mod text;
pub(crate) mod zipped;
