//! Rows of a PostgreSQL database, which come as lines of JSON.

use crate::documents::{Format, FormatFacts, Input, Out, ReadError, Reader, Start, Unit};
use crate::format::json::JsonLines;

pub(crate) struct PostgreSql;

impl Reader for PostgreSql {
    fn format(&self) -> Format {
        Format::of(&FormatFacts {
            name: "postgresql",
            about: "a PostgreSQL database, by its address",
            endings: &[],
            units: &[Unit::Row],
            is_any_text: false,
        })
    }

    /// The place tells it, and nothing else.
    fn recognises(&self, _start: &Start<'_>) -> bool {
        false
    }

    fn read(&self, input: &mut Input<'_>, out: &mut dyn Out) -> Result<(), ReadError> {
        JsonLines.read(input, out)
    }
}
