//! Documents of word processors: DOCX (ECMA-376) and ODT (ISO/IEC 26300).

mod open_text;
mod paragraphs;
mod word;

use quick_xml::events::Event;

use crate::documents::{
    Documents, FieldsWriter, Format, Input, Out, RawDocument, ReadError, Reader, Start, Unit,
};
use crate::format::facts;
use crate::format::package::{Package, each_event, event_text};

use paragraphs::Paragraphs;

pub(crate) struct Docx;

/// What a text of OpenDocument says that it is; templates say more.
const OPEN_TEXT: &str = "application/vnd.oasis.opendocument.text";

impl Reader for Docx {
    fn format(&self) -> Format {
        Format::of(&facts::DOCX)
    }

    fn recognises(&self, start: &Start<'_>) -> bool {
        start.has_member("word/document.xml")
            || (start.has_member("content.xml") && start.media_type.starts_with(OPEN_TEXT))
    }

    fn is_read_apart(&self) -> bool {
        true
    }

    fn read(&self, input: &mut Input<'_>, out: &mut dyn Out) -> Result<(), ReadError> {
        let name = input.name.clone();
        let mut package = Package::open(input, out.options().trust_archives)?;
        let mut text = Paragraphs::default();
        let properties = match package.part("word/document.xml")? {
            Some(document) => {
                word::read(&document, &mut text)?;
                for notes in ["word/footnotes.xml", "word/endnotes.xml"] {
                    if let Some(notes) = package.part(notes)? {
                        word::read(&notes, &mut text)?;
                    }
                }
                package.part("docProps/core.xml")?
            }
            None => {
                open_text::read(&package.needed("content.xml")?, &mut text)?;
                package.part("meta.xml")?
            }
        };
        let text = text.finish();
        let properties = properties.map(|xml| properties_of(&xml)).unwrap_or_default();
        let fields = |number: Option<usize>| {
            let mut fields = FieldsWriter::default();
            for (name, value) in &properties {
                fields.text_if_any(name, value);
            }
            if let Some(number) = number {
                fields.number("paragraph", number);
            }
            fields.finish()
        };
        let document = |id: String, number: Option<usize>, text: &str| RawDocument {
            id,
            fields: fields(number),
            text: Some(text.to_owned()),
            broken_bytes: 0,
        };
        let documents = match out.options().unit_or(Unit::File) {
            Unit::Paragraph => text
                .split('\n')
                .filter(|paragraph| !paragraph.trim().is_empty())
                .enumerate()
                .map(|(index, text)| document(format!("{name}:{}", index + 1), Some(index + 1), text))
                .collect(),
            _ => vec![document(name, None, text.trim_end())],
        };
        out.give(Documents(documents))
    }
}

/// Title, author and so on, as Dublin Core names them, under the names of our fields.
fn properties_of(xml: &[u8]) -> Vec<(&'static str, String)> {
    let mut found: Vec<(&'static str, String)> = Vec::new();
    let mut current: Option<&'static str> = None;
    // Without them the document is still whole.
    let _ = each_event(xml, |event| {
        match &event {
            Event::Start(element) => {
                current = match element.local_name().as_ref() {
                    "title" => Some("title"),
                    "creator" | "initial-creator" => Some("author"),
                    "subject" => Some("subject"),
                    "keywords" | "keyword" => Some("keywords"),
                    "language" => Some("language"),
                    "created" | "creation-date" => Some("created"),
                    _ => None,
                };
                // Whoever wrote it last is named beside whoever wrote it first.
                if found.iter().any(|(name, _)| Some(*name) == current) {
                    current = None;
                }
            }
            Event::End(_) => current = None,
            other => {
                if let (Some(name), Some(text)) = (current, event_text(other)) {
                    match found.iter_mut().find(|(known, _)| *known == name) {
                        Some((_, value)) => value.push_str(&text),
                        None => found.push((name, text)),
                    }
                }
            }
        }
        Ok(())
    });
    found
}
