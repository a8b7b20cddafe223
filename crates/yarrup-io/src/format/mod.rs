//! The formats that sources are written in: one file each.

pub(crate) mod archive;
#[cfg(feature = "documents")]
mod code_page;
#[cfg(feature = "documents")]
pub(crate) mod compound;
pub(crate) mod compressed;
#[cfg(feature = "documents")]
pub(crate) mod docx;
#[cfg(feature = "documents")]
pub(crate) mod epub;
pub(crate) mod facts;
#[cfg(feature = "documents")]
pub(crate) mod html;
pub(crate) mod json;
#[cfg(not(all(feature = "documents", feature = "database", feature = "parquet")))]
pub(crate) mod left_out;
#[cfg(feature = "documents")]
pub(crate) mod mail;
#[cfg(feature = "documents")]
pub(crate) mod markdown;
#[cfg(feature = "documents")]
mod markup;
#[cfg(feature = "documents")]
mod open_text;
#[cfg(feature = "documents")]
mod package;
#[cfg(feature = "documents")]
mod paper;
#[cfg(feature = "documents")]
mod paragraphs;
#[cfg(feature = "parquet")]
pub(crate) mod parquet;
#[cfg(feature = "documents")]
pub(crate) mod pdf;
#[cfg(feature = "database")]
pub(crate) mod postgresql;
#[cfg(feature = "documents")]
mod properties;
pub(crate) mod rejoined;
#[cfg(feature = "documents")]
pub(crate) mod rtf;
#[cfg(feature = "documents")]
pub(crate) mod slides;
#[cfg(feature = "documents")]
pub(crate) mod spreadsheet;
#[cfg(feature = "database")]
pub(crate) mod sqlite;
pub(crate) mod table;
pub(crate) mod text;
#[cfg(feature = "documents")]
mod xhtml;
#[cfg(feature = "documents")]
pub(crate) mod xml;
pub(crate) mod zipped;
