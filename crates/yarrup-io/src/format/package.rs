//! Office documents and books: zip archives whose parts are XML.

use std::io::{Read, Seek, SeekFrom};

use crate::documents::{Input, ReadError, ReadSeek};
use crate::format::xml::entities::Entities;
use crate::format::zipped::{BOMB, BOMB_BYTES, BOMB_RATIO, is_bomb, zip_told};
use quick_xml::Reader as XmlReader;
use quick_xml::events::{BytesStart, Event};

/// The most that a part may unpack to.
const LARGEST_PART: u64 = 512 << 20;

/// A package of parts.
pub(crate) struct Package<'i> {
    archive: zip::ZipArchive<Box<dyn ReadSeek + 'i>>,
    /// Its size.
    packed: u64,
    /// How much was unpacked so far: of all parts together, for several may unpack the same bytes.
    unpacked: u64,
    /// Whether it may unpack to whatever it likes.
    trusted: bool,
}

impl<'i> Package<'i> {
    /// Opens a package. One that is not `trusted` may not unpack to far more than any text does.
    pub(super) fn open(input: &'i mut Input<'_>, trusted: bool) -> Result<Package<'i>, ReadError> {
        let mut content = input.seekable()?;
        let packed = content.seek(SeekFrom::End(0))?;
        content.rewind()?;
        let archive = zip::ZipArchive::new(content).map_err(|why| zip_told(&why))?;
        Ok(Package { archive, packed, unpacked: 0, trusted })
    }

    /// The content of a part; none if there is no such part.
    pub(super) fn part(&mut self, name: &str) -> Result<Option<Vec<u8>>, ReadError> {
        // Some programs part the names of folders with the wrong stroke.
        let index = self
            .archive
            .index_for_name(name)
            .or_else(|| self.archive.index_for_name(&name.replace('/', "\\")));
        let Some(index) = index else { return Ok(None) };
        let part = self.archive.by_index(index).map_err(|why| zip_told(&why))?;
        let mut bytes = Vec::new();
        let most = match self.trusted {
            true => LARGEST_PART,
            false => LARGEST_PART.min(BOMB_BYTES.max(self.packed.saturating_mul(BOMB_RATIO))),
        };
        part.take(most + 1).read_to_end(&mut bytes)?;
        self.unpacked += bytes.len() as u64;
        if !self.trusted && is_bomb(self.unpacked, self.packed) {
            return Err(ReadError::sentence(BOMB));
        }
        if bytes.len() as u64 > LARGEST_PART {
            return Err(ReadError::sentence(format!(
                "its part `{name}` unpacks to more than 512 MB; not read"
            )));
        }
        Ok(Some(bytes))
    }

    /// What a part, or the package itself (an empty path), is related to (ECMA-376 part 2, section 6.5).
    pub(super) fn relations(&mut self, from: &str) -> Result<Vec<Relation>, ReadError> {
        let (folder, name) = from.rsplit_once('/').unwrap_or(("", from));
        let gap = if folder.is_empty() { "" } else { "/" };
        let mut relations = Vec::new();
        let Some(xml) = self.part(&format!("{folder}{gap}_rels/{name}.rels"))? else { return Ok(relations) };
        each_event(&xml, |event| {
            if let Event::Start(element) | Event::Empty(element) = &event
                && element.local_name().as_ref() == "Relationship"
            {
                let get = |name: &str| attribute(element, name).unwrap_or_default();
                let kind = get("Type").rsplit('/').next().unwrap_or_default().to_owned();
                relations.push(Relation { id: get("Id"), kind, path: resolved(from, &get("Target")) });
            }
            Ok(())
        })?;
        Ok(relations)
    }

    /// The path of the first part that another is related to in this way.
    pub(super) fn related(&mut self, from: &str, kind: &str) -> Result<Option<String>, ReadError> {
        let relations = self.relations(from)?;
        Ok(relations.into_iter().find(|relation| relation.kind == kind).map(|relation| relation.path))
    }

    /// The content of a part that must be there.
    pub(super) fn needed(&mut self, name: &str) -> Result<Vec<u8>, ReadError> {
        self.part(name)?.ok_or_else(|| ReadError::sentence(format!("damaged: its part `{name}` is missing")))
    }
}

/// How a part is related to another.
#[derive(Debug)]
pub(super) struct Relation {
    /// By what the part itself names it.
    pub(super) id: String,
    /// The last word of the address that names the way.
    pub(super) kind: String,
    /// The path of the other part.
    pub(super) path: String,
}

/// The path that an address inside a package leads to: relative to the part that states it, or to the root; with its escapes undone, without the place
/// in the part.
pub(super) fn resolved(from: &str, href: &str) -> String {
    let href = href.split('#').next().unwrap_or_default();
    let href = percent_encoding::percent_decode_str(href).decode_utf8_lossy();
    let mut parts: Vec<&str> = if href.starts_with('/') { Vec::new() } else { from.split('/').collect() };
    parts.pop();
    for part in href.split('/') {
        match part {
            "" | "." => {}
            ".." => {
                parts.pop();
            }
            part => parts.push(part),
        }
    }
    parts.join("/")
}

/// Gives the events of some XML until the visitor has enough, or the XML is damaged.
pub(super) fn each_event(
    xml: &[u8],
    mut visit: impl FnMut(Event<'_>) -> Result<(), ReadError>,
) -> Result<(), ReadError> {
    let text = super::text::decoded(xml);
    let mut reader = XmlReader::from_str(&text);
    // What people's programs write is not always balanced, and its text is still wanted.
    reader.config_mut().check_end_names = false;
    reader.config_mut().allow_unmatched_ends = true;
    loop {
        match reader.read_event() {
            Ok(Event::Eof) => return Ok(()),
            Ok(event) => visit(event)?,
            Err(why) => return Err(ReadError::sentence(format!("damaged XML inside: {why}"))),
        }
    }
}

/// The value of an attribute, by its name without prefix.
pub(super) fn attribute(element: &BytesStart<'_>, name: &str) -> Option<String> {
    element.attributes().flatten().find(|attribute| attribute.key.local_name().as_ref() == name).map(
        |attribute| {
            attribute
                .normalized_value(quick_xml::XmlVersion::Implicit1_0)
                .map_or_else(|_| attribute.value.to_string(), |value| value.into_owned())
        },
    )
}

/// The text of an event, if it is one.
pub(super) fn event_text(event: &Event<'_>) -> Option<String> {
    match event {
        Event::Text(text) => Some(text.to_string()),
        Event::CData(text) => Some(text.to_string()),
        Event::GeneralRef(name) => Some(Entities::default().text_of(name)),
        _ => None,
    }
}
