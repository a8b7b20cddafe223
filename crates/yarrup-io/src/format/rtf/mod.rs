//! Rich Text Format (RTF Specification, version 1.9.1).

mod control;
mod state;

use crate::documents::{Format, Input, Out, ReadError, Reader, Start, Unit, WholeFile};
use crate::format::facts;

pub(crate) struct Rtf;

/// The first bytes of every file.
const SIGN: &[u8] = b"{\\rtf";

impl Reader for Rtf {
    fn format(&self) -> Format {
        Format::of(&facts::RTF)
    }

    fn recognises(&self, start: &Start<'_>) -> bool {
        start.bytes.starts_with(SIGN)
    }

    fn read(&self, input: &mut Input<'_>, out: &mut dyn Out) -> Result<(), ReadError> {
        let name = input.name.clone();
        let unit = out.options().unit_or(Unit::File);
        let bytes = input.whole()?;
        out.give(WholeFile {
            bytes: bytes.len() as u64,
            take_out: move || Ok(state::read(&bytes)?.documents(name.clone(), unit)),
        })
    }
}
