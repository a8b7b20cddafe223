//! One file a command: arguments in, calls down, text out.

pub(crate) mod check;
pub(crate) mod demo;
pub(crate) mod pipe;
pub(crate) mod run;
pub(crate) mod terms;
pub(crate) mod try_out;
pub(crate) mod why;

use yarrup_io::{Format, Selection};

use crate::arguments::{FieldArguments, InputFormat};

impl From<&FieldArguments> for Selection {
    fn from(arguments: &FieldArguments) -> Selection {
        Selection { text: arguments.text.clone(), id: arguments.id.clone(), title: arguments.title.clone() }
    }
}

impl From<InputFormat> for Format {
    fn from(format: InputFormat) -> Format {
        match format {
            InputFormat::Jsonl => Format::JsonLines,
            InputFormat::Csv => Format::Csv,
            InputFormat::Tsv => Format::Tsv,
            InputFormat::Text => Format::Text,
            InputFormat::Lines => Format::Lines,
        }
    }
}
