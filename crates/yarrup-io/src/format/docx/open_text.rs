//! The text of an OpenDocument text (ISO/IEC 26300).

use quick_xml::events::Event;

use super::paragraphs::Paragraphs;
use crate::documents::ReadError;
use crate::format::package::{attribute, each_event, event_text};

/// Elements whose text is none: what was deleted with changes tracked, remarks, the number of a note, the reading above a word.
const LEFT_OUT: [&str; 4] =
    ["text:tracked-changes", "office:annotation", "text:note-citation", "text:ruby-text"];

/// The most spaces that one element may stand for.
const MOST_SPACES: usize = 200;

pub(super) fn read(xml: &[u8], out: &mut Paragraphs) -> Result<(), ReadError> {
    let mut left_out = 0;
    each_event(xml, |event| {
        match &event {
            Event::Start(element) => match element.name().as_ref() {
                name if LEFT_OUT.contains(&name) => left_out += 1,
                "text:p" | "text:h" if left_out == 0 => out.begin(),
                "table:table-row" => out.begin_row(),
                "table:table-cell" | "table:covered-table-cell" => out.begin_cell(),
                _ => {}
            },
            Event::End(element) => match element.name().as_ref() {
                name if LEFT_OUT.contains(&name) => left_out -= 1,
                "text:p" | "text:h" if left_out == 0 => out.end(),
                "table:table-row" => out.end_row(),
                _ => {}
            },
            Event::Empty(element) if left_out == 0 => match element.name().as_ref() {
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
            other if left_out == 0 && out.is_open() => {
                out.push_collapsed(&event_text(other).unwrap_or_default());
            }
            _ => {}
        }
        Ok(())
    })
}
