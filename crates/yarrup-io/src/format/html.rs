//! HTML pages.

use encoding_rs::Encoding;

use crate::documents::{FieldsWriter, Format, Input, Out, RawDocument, ReadError, Reader, Start, WholeFile};
use crate::encoding::stated;
use crate::format::facts;
use crate::format::markup::{Apart, Page, read_page};

pub(crate) struct Html;

impl Reader for Html {
    fn format(&self) -> Format {
        Format::of(&facts::HTML)
    }

    fn recognises(&self, start: &Start<'_>) -> bool {
        let text = start.text.unwrap_or_default().trim_start_matches('\u{feff}').trim_start();
        let head: String = text.chars().take(600).collect::<String>().to_ascii_lowercase();
        head.starts_with("<!doctype html")
            || head.starts_with("<html")
            || ((head.starts_with("<?xml") || head.starts_with("<!--")) && head.contains("<html"))
    }

    fn read(&self, input: &mut Input<'_>, out: &mut dyn Out) -> Result<(), ReadError> {
        let name = input.name.clone();
        let declared = declared(input.opened.look()?);
        let asked = out.options().encoding.or(declared);
        let (html, broken_bytes) = input.whole_text(asked)?;
        let apart = if out.options().without_menus { Apart::Menus } else { Apart::Nothing };
        out.give(WholeFile {
            bytes: html.len() as u64,
            take_out: move || {
                let page = read_page(&html, apart)?;
                Ok(vec![document(name.clone(), page, broken_bytes)])
            },
        })
    }
}

fn document(id: String, page: Page, broken_bytes: u64) -> RawDocument {
    let mut fields = FieldsWriter::default();
    let title = if page.title.is_empty() { &page.heading } else { &page.title };
    fields.text_if_any("title", title);
    fields.text_if_any("language", &page.language);
    for (name, value) in &page.meta {
        fields.text_if_any(name, value);
    }
    fields.text_if_any("menus", &page.apart);
    RawDocument { id, fields: fields.finish(), text: Some(page.text), broken_bytes }
}

/// The encoding that a page itself states, unless a mark or UTF-8 letters show another.
fn declared(start: &[u8]) -> Option<&'static Encoding> {
    stated(start, |head| {
        let head = head.to_ascii_lowercase();
        let (_, rest) = head.split_once("charset=")?;
        let label = rest.trim_start_matches(['"', '\'']).chars();
        Some(label.take_while(|c| c.is_ascii_alphanumeric() || "-_:.".contains(*c)).collect())
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_page_states_its_encoding() {
        assert_eq!(declared(b"<meta charset='ISO-8859-2'>\xb1").map(Encoding::name), Some("ISO-8859-2"));
        assert_eq!(declared("<meta charset=latin1>é".as_bytes()), None);
        assert_eq!(declared(b"<p>\xe9"), None);
    }
}
