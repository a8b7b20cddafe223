//! The slides of an OpenDocument presentation.

use quick_xml::events::Event;

use super::{Slide, filled};
use crate::documents::ReadError;
use crate::format::open_text::OpenText;
use crate::format::package::{attribute, each_event, event_text};
use crate::format::paragraphs::Paragraphs;

/// Elements that show the number of a slide, the day, and what stands on every slide.
const RUNNING: [&str; 4] =
    ["text:page-number", "presentation:footer", "presentation:date-time", "presentation:header"];

pub(super) fn read(xml: &[u8]) -> Result<Vec<Slide>, ReadError> {
    let mut slides = Vec::new();
    // The slide that is open, and its notes.
    let mut open: Option<(OpenText, Paragraphs, Paragraphs)> = None;
    let (mut title, mut in_title, mut in_notes, mut running) = (String::new(), false, false, 0);
    each_event(xml, |event| {
        match &event {
            Event::Start(element) => match element.name().as_ref() {
                "draw:page" => {
                    title.clear();
                    open = Some((OpenText::default(), Paragraphs::default(), Paragraphs::default()));
                }
                "presentation:notes" => in_notes = true,
                "draw:frame" => in_title = attribute(element, "class").is_some_and(|class| class == "title"),
                name if RUNNING.contains(&name) => running += 1,
                _ => {}
            },
            Event::End(element) => match element.name().as_ref() {
                "draw:page" => {
                    let Some((_, text, notes)) = open.take() else { return Ok(()) };
                    slides.push(Slide {
                        title: title.trim().to_owned(),
                        text: filled(&text.finish()),
                        notes: filled(&notes.finish()),
                    });
                }
                "presentation:notes" => in_notes = false,
                "draw:frame" => in_title = false,
                name if RUNNING.contains(&name) => {
                    running -= 1;
                    return Ok(());
                }
                _ => {}
            },
            _ => {}
        }
        let Some((reading, text, notes)) = open.as_mut().filter(|_| running == 0) else { return Ok(()) };
        if in_title && !in_notes {
            title.push_str(event_text(&event).unwrap_or_default().trim_matches(['\n', '\r']));
        }
        reading.take(&event, if in_notes { notes } else { text });
        Ok(())
    })?;
    Ok(slides)
}
