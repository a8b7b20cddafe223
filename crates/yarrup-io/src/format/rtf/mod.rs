//! Rich Text Format (RTF Specification, version 1.9.1).

mod control;
mod state;

use crate::documents::{
    FieldsWriter, Format, Input, Out, RawDocument, ReadError, Reader, Start, Unit, WholeFile,
};
use crate::format::facts;

pub(crate) struct Rtf;

/// The first bytes of every file.
const SIGN: &[u8] = b"{\\rtf";

/// What a file says.
#[derive(Debug, Default, PartialEq, Eq)]
struct Said {
    /// A line for each paragraph and for each row of a table.
    text: String,
    title: String,
    author: String,
    subject: String,
    keywords: String,
}

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
            take_out: move || Ok(documents(&name, unit, &state::read(&bytes)?)),
        })
    }
}

fn documents(name: &str, unit: Unit, said: &Said) -> Vec<RawDocument> {
    let document = |id: String, number: Option<usize>, text: &str| {
        let mut fields = FieldsWriter::default();
        for (name, value) in [
            ("title", &said.title),
            ("author", &said.author),
            ("subject", &said.subject),
            ("keywords", &said.keywords),
        ] {
            fields.text_if_any(name, value);
        }
        if let Some(number) = number {
            fields.number("paragraph", number);
        }
        RawDocument { id, fields: fields.finish(), text: Some(text.to_owned()), broken_bytes: 0 }
    };
    if unit == Unit::Paragraph {
        let paragraphs = said.text.lines().filter(|line| !line.trim().is_empty()).zip(1..);
        return paragraphs.map(|(line, at)| document(format!("{name}:{at}"), Some(at), line)).collect();
    }
    vec![document(name.to_owned(), None, said.text.trim_end())]
}
