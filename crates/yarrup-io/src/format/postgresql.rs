//! Rows of a PostgreSQL database, which come as lines of JSON.

use crate::documents::{Format, Input, Out, ReadError, Reader, Start};
use crate::format::facts;
use crate::format::json::JsonLines;

pub(crate) struct PostgreSql;

impl Reader for PostgreSql {
    fn format(&self) -> Format {
        Format::of(&facts::POSTGRESQL)
    }

    /// The place tells it, and nothing else.
    fn recognises(&self, _start: &Start<'_>) -> bool {
        false
    }

    fn read(&self, input: &mut Input<'_>, out: &mut dyn Out) -> Result<(), ReadError> {
        JsonLines.read(input, out)
    }
}
