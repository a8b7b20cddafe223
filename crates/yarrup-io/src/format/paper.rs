//! What a word processor's file says: one document, or one for each paragraph.

use crate::documents::{FieldsWriter, RawDocument, Unit};
use crate::format::properties::Properties;

/// A file that was read.
#[derive(Debug, Default)]
pub(super) struct Paper {
    /// A line for each paragraph and for each row of a table.
    pub(super) text: String,
    pub(super) properties: Properties,
}

impl Paper {
    pub(super) fn documents(&self, name: String, unit: Unit) -> Vec<RawDocument> {
        let document = |id: String, number: Option<usize>, text: &str| {
            let mut fields = FieldsWriter::default();
            self.properties.write(&mut fields, "title");
            if let Some(number) = number {
                fields.number("paragraph", number);
            }
            RawDocument { id, fields: fields.finish(), text: Some(text.to_owned()), broken_bytes: 0 }
        };
        if unit != Unit::Paragraph {
            return vec![document(name, None, self.text.trim_end())];
        }
        let paragraphs = self.text.split('\n').filter(|paragraph| !paragraph.trim().is_empty());
        paragraphs.zip(1..).map(|(text, at)| document(format!("{name}:{at}"), Some(at), text)).collect()
    }
}
