//! Documents of word processors: DOCX (ECMA-376) and ODT (ISO/IEC 26300).

use quick_xml::events::Event;

use crate::documents::{
    Documents, FieldsWriter, Format, Input, Out, RawDocument, ReadError, Reader, Start, Unit,
};
use crate::format::facts;
use crate::format::package::{Package, attribute, each_event, event_text};

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
        let mut text = String::new();
        let properties = match package.part("word/document.xml")? {
            Some(document) => {
                word_text(&document, &mut text)?;
                for notes in ["word/footnotes.xml", "word/endnotes.xml"] {
                    if let Some(notes) = package.part(notes)? {
                        word_text(&notes, &mut text)?;
                    }
                }
                package.part("docProps/core.xml")?
            }
            None => {
                open_text(&package.needed("content.xml")?, &mut text)?;
                package.part("meta.xml")?
            }
        };
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

/// The first member of an OpenDocument file tells its kind, and is not compressed.
/// The paragraphs of WordprocessingML, a line each; the cells of a row parted by tabs. What was deleted with changes tracked is no text.
fn word_text(xml: &[u8], out: &mut String) -> Result<(), ReadError> {
    // The older of two ways of writing the same thing.
    let mut fallback = 0;
    let (mut in_text, mut in_cell) = (false, 0);
    each_event(xml, |event| {
        match &event {
            Event::Start(element) => match element.local_name().as_ref() {
                "Fallback" => fallback += 1,
                "t" => in_text = true,
                "tc" => in_cell += 1,
                _ => {}
            },
            Event::End(element) => match element.local_name().as_ref() {
                "Fallback" => fallback -= 1,
                "t" => in_text = false,
                "tc" => {
                    in_cell -= 1;
                    out.push('\t');
                }
                "tr" => end_line(out),
                "p" if in_cell == 0 => end_line(out),
                "p" => out.push(' '),
                _ => {}
            },
            Event::Empty(element) if fallback == 0 => match element.local_name().as_ref() {
                "tab" => out.push('\t'),
                "br" | "cr" => out.push('\n'),
                "noBreakHyphen" => out.push('\u{2011}'),
                "p" if in_cell == 0 => end_line(out),
                _ => {}
            },
            other if in_text && fallback == 0 => out.push_str(&event_text(other).unwrap_or_default()),
            _ => {}
        }
        Ok(())
    })
}

fn end_line(out: &mut String) {
    let kept = out.trim_end_matches([' ', '\t']).len();
    out.truncate(kept);
    if !out.is_empty() {
        out.push('\n');
    }
}

/// The paragraphs and headings of an OpenDocument text.
fn open_text(xml: &[u8], out: &mut String) -> Result<(), ReadError> {
    let (mut depth, mut left_out) = (0, 0);
    each_event(xml, |event| {
        match &event {
            Event::Start(element) => match element.name().as_ref() {
                "text:p" | "text:h" => depth += 1,
                "text:tracked-changes" | "office:annotation" => left_out += 1,
                _ => {}
            },
            Event::End(element) => match element.name().as_ref() {
                "text:p" | "text:h" => {
                    depth -= 1;
                    if depth == 0 && left_out == 0 {
                        end_line(out);
                    }
                }
                "text:tracked-changes" | "office:annotation" => left_out -= 1,
                _ => {}
            },
            Event::Empty(element) if depth > 0 && left_out == 0 => match element.name().as_ref() {
                "text:s" => {
                    let count =
                        attribute(element, "c").and_then(|count| count.parse().ok()).unwrap_or(1usize);
                    out.push_str(&" ".repeat(count.min(200)));
                }
                "text:tab" => out.push('\t'),
                "text:line-break" => out.push('\n'),
                _ => {}
            },
            other if depth > 0 && left_out == 0 => out.push_str(&event_text(other).unwrap_or_default()),
            _ => {}
        }
        Ok(())
    })
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
