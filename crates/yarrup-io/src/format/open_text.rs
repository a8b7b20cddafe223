//! The text of OpenDocument files (ISO/IEC 26300).

use quick_xml::events::Event;

use crate::documents::ReadError;
use crate::format::package::{attribute, each_event, event_text};
use crate::format::paragraphs::Paragraphs;

/// Elements whose text is none: what was deleted with changes tracked, remarks, the number of a note, the reading above a word.
const LEFT_OUT: [&str; 4] =
    ["text:tracked-changes", "office:annotation", "text:note-citation", "text:ruby-text"];

/// The most spaces that one element may stand for.
const MOST_SPACES: usize = 200;

/// The text of a document.
pub(super) fn read(xml: &[u8], out: &mut Paragraphs) -> Result<(), ReadError> {
    let mut text = OpenText::default();
    each_event(xml, |event| {
        text.take(&event, out);
        Ok(())
    })
}

/// Where a reading of a document is.
#[derive(Debug, Default)]
pub(super) struct OpenText {
    left_out: i32,
}

impl OpenText {
    /// Takes what the next event adds to the text.
    pub(super) fn take(&mut self, event: &Event<'_>, out: &mut Paragraphs) {
        match event {
            Event::Start(element) => match element.name().as_ref() {
                name if LEFT_OUT.contains(&name) => self.left_out += 1,
                "text:p" | "text:h" if self.left_out == 0 => out.begin(),
                "table:table-row" => out.begin_row(),
                "table:table-cell" | "table:covered-table-cell" => out.begin_cell(),
                _ => {}
            },
            Event::End(element) => match element.name().as_ref() {
                name if LEFT_OUT.contains(&name) => self.left_out -= 1,
                "text:p" | "text:h" if self.left_out == 0 => out.end(),
                "table:table-row" => out.end_row(),
                _ => {}
            },
            Event::Empty(element) if self.left_out == 0 => match element.name().as_ref() {
                "text:p" | "text:h" => {
                    out.begin();
                    out.end();
                }
                "table:table-cell" | "table:covered-table-cell" => out.begin_cell(),
                "text:s" => {
                    let count =
                        attribute(element, "c").and_then(|count| count.parse().ok()).unwrap_or(1usize);
                    out.push(&" ".repeat(count.min(MOST_SPACES)));
                }
                "text:tab" => out.push("\t"),
                "text:line-break" => out.push("\n"),
                _ => {}
            },
            other if self.left_out == 0 && out.is_open() => {
                out.push_collapsed(&event_text(other).unwrap_or_default());
            }
            _ => {}
        }
    }
}
