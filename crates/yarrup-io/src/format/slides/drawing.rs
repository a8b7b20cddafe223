//! The text of DrawingML, of which slides, their notes and their diagrams are made (ECMA-376).

use quick_xml::events::Event;

use super::{Slide, filled};
use crate::documents::ReadError;
use crate::format::package::{attribute, each_event, event_text};
use crate::format::paragraphs::Paragraphs;

/// What of a presentation is read.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Part {
    Slide,
    Notes,
    Diagram,
}

/// The shapes of a slide that show its number, the day, and what stands on every slide.
const RUNNING: [&str; 4] = ["sldNum", "dt", "ftr", "hdr"];
/// The shapes that show its title.
const TITLES: [&str; 2] = ["title", "ctrTitle"];

/// The text of a part; its title, if it is a slide with one.
pub(super) fn read(xml: &[u8], part: Part) -> Result<Slide, ReadError> {
    let (mut text, mut title) = (Paragraphs::default(), String::new());
    // What the shape around is made for, by its name.
    let mut shape = String::new();
    let (mut left_out, mut in_text) = (0, false);
    each_event(xml, |event| {
        let is_left_out = |shape: &str| match part {
            Part::Slide => RUNNING.contains(&shape),
            Part::Notes => shape != "body",
            Part::Diagram => false,
        };
        match &event {
            Event::Start(element) | Event::Empty(element) if element.local_name().as_ref() == "ph" => {
                shape = attribute(element, "type").unwrap_or_default();
            }
            Event::Start(element) => match element.local_name().as_ref() {
                // The older of two ways of writing the same thing.
                "Fallback" => left_out += 1,
                "sp" => shape.clear(),
                "p" => text.begin(),
                "t" => in_text = true,
                "tr" => text.begin_row(),
                "tc" => text.begin_cell(),
                _ => {}
            },
            Event::End(element) => match element.local_name().as_ref() {
                "Fallback" => left_out -= 1,
                "sp" => shape.clear(),
                "p" => text.end(),
                "t" => in_text = false,
                "tr" => text.end_row(),
                _ => {}
            },
            Event::Empty(element) if left_out == 0 && !is_left_out(&shape) => {
                match element.local_name().as_ref() {
                    "br" => text.push("\n"),
                    "tab" => text.push("\t"),
                    _ => {}
                }
            }
            other if in_text && left_out == 0 && !is_left_out(&shape) => {
                let said = event_text(other).unwrap_or_default();
                text.push(&said);
                if TITLES.contains(&shape.as_str()) {
                    title.push_str(&said);
                }
            }
            _ => {}
        }
        Ok(())
    })?;
    Ok(Slide { title: title.trim().to_owned(), text: filled(&text.finish()), notes: String::new() })
}
