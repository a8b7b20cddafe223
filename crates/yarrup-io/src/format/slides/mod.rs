//! Presentations: PPTX (ECMA-376) and ODP (ISO/IEC 26300). A slide is a document.

mod drawing;
mod open_slides;

use std::collections::HashMap;

use quick_xml::events::Event;

use crate::documents::{
    Documents, FieldsWriter, Format, Input, Out, RawDocument, ReadError, Reader, Start, Unit,
};
use crate::format::facts;
use crate::format::package::{Package, each_event};
use crate::format::properties::Properties;

pub(crate) struct Slides;

/// What presentations of OpenDocument say that they are; templates say more.
const OPEN_PRESENTATION: &str = "application/vnd.oasis.opendocument.presentation";

/// What a slide says.
#[derive(Debug, Default, PartialEq, Eq)]
struct Slide {
    title: String,
    text: String,
    /// What its speaker wants to say.
    notes: String,
}

impl Reader for Slides {
    fn format(&self) -> Format {
        Format::of(&facts::SLIDES)
    }

    fn recognises(&self, start: &Start<'_>) -> bool {
        start.members.iter().any(|member| member.starts_with("ppt/presentation") && member.ends_with(".xml"))
            || (start.has_member("content.xml") && start.media_type.starts_with(OPEN_PRESENTATION))
    }

    fn is_read_apart(&self) -> bool {
        true
    }

    fn read(&self, input: &mut Input<'_>, out: &mut dyn Out) -> Result<(), ReadError> {
        let name = input.name.clone();
        let mut package = Package::open(input, out.options().trust_archives)?;
        let main = package.related("", "officeDocument")?;
        let main = main.unwrap_or_else(|| "ppt/presentation.xml".to_owned());
        let (slides, properties) = match package.part(&main)? {
            Some(presentation) => {
                (office_slides(&mut package, &main, &presentation)?, package.part("docProps/core.xml")?)
            }
            None => (open_slides::read(&package.needed("content.xml")?)?, package.part("meta.xml")?),
        };
        let properties = properties.map(|xml| Properties::of(&xml)).unwrap_or_default();
        let is_empty = |slide: &Slide| slide.text.trim().is_empty() && slide.notes.trim().is_empty();
        if slides.iter().all(is_empty) {
            return Err(ReadError::sentence("no slide of this presentation holds any text"));
        }
        let document = |id: String, fields: FieldsWriter, text: String| RawDocument {
            id,
            fields: fields.finish(),
            text: Some(text),
            broken_bytes: 0,
        };
        let mut fields = FieldsWriter::default();
        if out.options().unit_or(Unit::Page) == Unit::File {
            properties.write(&mut fields, "title");
            fields.number("pages", slides.len());
            let joined = |part: fn(&Slide) -> &str| {
                let parts: Vec<_> = slides.iter().map(part).filter(|part| !part.is_empty()).collect();
                parts.join("\n\n")
            };
            fields.text_if_any("notes", &joined(|slide| &slide.notes));
            return out.give(Documents(vec![document(name, fields, joined(|slide| &slide.text))]));
        }
        let pages = slides.len();
        let documents = slides.into_iter().enumerate().filter(|(_, slide)| !is_empty(slide));
        let documents = documents.map(|(index, slide)| {
            let mut fields = FieldsWriter::default();
            fields.text_if_any("title", &slide.title);
            fields.number("page", index + 1);
            fields.number("pages", pages);
            fields.text_if_any("notes", &slide.notes);
            properties.write(&mut fields, "presentation");
            document(format!("{name}:{}", index + 1), fields, slide.text)
        });
        out.give(Documents(documents.collect()))
    }
}

/// The slides of PresentationML, in the order in which they are shown.
fn office_slides(
    package: &mut Package<'_>,
    main: &str,
    presentation: &[u8],
) -> Result<Vec<Slide>, ReadError> {
    let paths: HashMap<String, String> =
        package.relations(main)?.into_iter().map(|relation| (relation.id, relation.path)).collect();
    let mut order = Vec::new();
    each_event(presentation, |event| {
        if let Event::Start(element) | Event::Empty(element) = &event
            && element.local_name().as_ref() == "sldId"
        {
            // The one with a prefix: `r:id`, beside the `id` of its own.
            let id = element.attributes().flatten().find(|attribute| attribute.key.as_ref().ends_with(":id"));
            order.extend(id.map(|id| id.value.to_string()));
        }
        Ok(())
    })?;
    let mut slides = Vec::new();
    for path in order.iter().filter_map(|id| paths.get(id)) {
        let Some(xml) = package.part(path)? else { continue };
        let mut slide = drawing::read(&xml, drawing::Part::Slide)?;
        for relation in package.relations(path)? {
            let part = match relation.kind.as_str() {
                "notesSlide" => drawing::Part::Notes,
                "diagramData" => drawing::Part::Diagram,
                _ => continue,
            };
            let Some(xml) = package.part(&relation.path)? else { continue };
            let text = drawing::read(&xml, part)?.text;
            let kept = if part == drawing::Part::Notes { &mut slide.notes } else { &mut slide.text };
            if !kept.is_empty() && !text.is_empty() {
                kept.push('\n');
            }
            kept.push_str(&text);
        }
        slides.push(slide);
    }
    Ok(slides)
}

/// Lines that hold something: shapes without text are many.
fn filled(text: &str) -> String {
    let lines: Vec<&str> = text.lines().filter(|line| !line.trim().is_empty()).collect();
    lines.join("\n")
}
