//! The text of WordprocessingML (ECMA-376).

use quick_xml::events::Event;

use crate::documents::ReadError;
use crate::format::package::{each_event, event_text};
use crate::format::paragraphs::Paragraphs;

/// Elements whose text is none: the older of two ways of writing the same thing, what was moved from here with changes tracked, the reading above a word.
/// What was deleted stands in elements of another name than text does.
const LEFT_OUT: [&str; 3] = ["Fallback", "moveFrom", "rt"];

pub(super) fn read(xml: &[u8], out: &mut Paragraphs) -> Result<(), ReadError> {
    let (mut left_out, mut runs, mut in_text) = (0, 0, false);
    each_event(xml, |event| {
        match &event {
            Event::Start(element) => match element.local_name().as_ref() {
                name if LEFT_OUT.contains(&name) => left_out += 1,
                "p" => out.begin(),
                "r" => runs += 1,
                "t" => in_text = true,
                "tr" => out.begin_row(),
                "tc" => out.begin_cell(),
                _ => {}
            },
            Event::End(element) => match element.local_name().as_ref() {
                name if LEFT_OUT.contains(&name) => left_out -= 1,
                "p" => out.end(),
                "r" => runs -= 1,
                "t" => in_text = false,
                "tr" => out.end_row(),
                _ => {}
            },
            Event::Empty(element) => match element.local_name().as_ref() {
                "p" => {
                    out.begin();
                    out.end();
                }
                // Outside of runs a tab is one of the stops of a paragraph.
                "tab" | "ptab" if runs > 0 && left_out == 0 => out.push("\t"),
                "br" | "cr" if runs > 0 && left_out == 0 => out.push("\n"),
                "noBreakHyphen" if left_out == 0 => out.push("\u{2011}"),
                _ => {}
            },
            other if in_text && left_out == 0 => out.push(&event_text(other).unwrap_or_default()),
            _ => {}
        }
        Ok(())
    })
}
