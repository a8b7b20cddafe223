//! XML: a file that is one document, or one of records.

mod cut;
mod element;
pub(super) mod entities;
mod shape;

use std::sync::Arc;

use encoding_rs::Encoding;

use crate::documents::{
    BATCH_BYTES, Chunk, FieldsWriter, Format, Input, More, Out, RawDocument, ReadError, Reader, Start, Unit,
    Visit, WholeFile,
};
use crate::encoding::{repaired, stated};
use crate::format::facts;
use crate::format::text::decoded;
use crate::format::xml::cut::{Cut, Cutter};
use crate::format::xml::element::{Element, Whole};
use crate::format::xml::entities::Entities;
use crate::format::xml::shape::Shape;
use crate::record::members::Members;
use crate::record::{Carried, Why};

/// How deep elements may lie in one another: functions that call themselves go down into them.
const DEEPEST: usize = 256;

/// What is wrong where a `<` begins no tag.
fn no_tag(line: u64) -> String {
    format!("not well formed: a `<` at line {line} that begins no tag; in a text it is written `&lt;`")
}

pub(crate) struct Xml;

impl Reader for Xml {
    fn format(&self) -> Format {
        Format::of(&facts::XML)
    }

    fn recognises(&self, start: &Start<'_>) -> bool {
        let text = start.text.unwrap_or_default();
        let shows = text.trim_start_matches('\u{feff}').trim_start().starts_with("<?xml");
        let Some(tag) = first_tag(text) else { return false };
        let name = tag.split(|c: char| c.is_whitespace() || c == '/').next().unwrap_or_default();
        // Drawings are XML as well.
        (shows || tag.contains(" xmlns")) && name != "svg" && !name.ends_with(":svg")
    }

    fn read(&self, input: &mut Input<'_>, out: &mut dyn Out) -> Result<(), ReadError> {
        let name = input.name.clone();
        let start = input.opened.look()?;
        if start.is_empty() {
            return Ok(());
        }
        let asked = out.options().encoding.or_else(|| declared(start));
        let start = asked.map_or_else(|| decoded(start), |encoding| encoding.decode(start).0);
        let shape = Shape::of(&start);
        let records = match (out.options().records.clone(), out.options().unit) {
            (Some(path), _) => Some(path),
            (None, Some(Unit::File)) => None,
            (None, unit) => {
                let records = shape.records();
                if records.is_none() && unit == Some(Unit::Row) {
                    return Err(ReadError::sentence(format!(
                        "which elements are the rows cannot be told; `--records NAME` says so; there are {}",
                        shape.repeated()
                    )));
                }
                records
            }
        };
        let Some(path) = records else {
            let (xml, broken_bytes) = input.whole_text(asked)?;
            return out.give(WholeFile {
                bytes: xml.len() as u64,
                take_out: move || document(name.clone(), &xml, broken_bytes),
            });
        };
        let texts: Arc<[String]> = out.selection().text.clone().into();
        let mut cutter = Cutter::new(input.text(asked)?, &path);
        let mut entities: Option<Arc<Entities>> = None;
        let mut is_any = false;
        while let Some(cut) = cutter.next(BATCH_BYTES)? {
            is_any = true;
            let entities = entities.get_or_insert_with(|| {
                Arc::new(Entities::declared(&String::from_utf8_lossy(cutter.doctype())))
            });
            out.give(Elements { cut, texts: texts.clone(), entities: entities.clone() })?;
        }
        match cutter.fault() {
            Some(why) => Err(ReadError::Told(why)),
            None if !is_any && out.options().records.is_some() => {
                Err(ReadError::sentence(format!("no element at `{path}`; there are {}", shape.repeated())))
            }
            None => Ok(()),
        }
    }
}

/// What stands in the first tag, behind its `<`.
fn first_tag(text: &str) -> Option<&str> {
    let mut rest = text;
    loop {
        let at = rest.find('<')?;
        if !rest[..at].trim_matches(['\u{feff}', ']', '>']).trim().is_empty() {
            return None;
        }
        rest = &rest[at + 1..];
        let end = match rest {
            _ if rest.starts_with("!--") => "-->",
            _ if rest.starts_with('?') => "?>",
            _ if rest.starts_with('!')
                && rest.split_once('>').is_some_and(|(head, _)| head.contains('[')) =>
            {
                "]>"
            }
            _ if rest.starts_with('!') => ">",
            _ if rest.starts_with(|c: char| c.is_alphabetic() || c == '_') => {
                return Some(rest.split('>').next().unwrap_or(rest));
            }
            _ => return None,
        };
        rest = rest.split_once(end)?.1;
    }
}

/// The encoding that the first line states, unless a mark or UTF-8 letters show another.
fn declared(start: &[u8]) -> Option<&'static Encoding> {
    stated(start, |head| {
        let (declaration, _) = head.strip_prefix("<?xml")?.split_once("?>")?;
        let (_, rest) = declaration.split_once("encoding")?;
        let label = rest.trim_start().strip_prefix('=')?.trim_start().trim_start_matches(['"', '\'']).chars();
        Some(label.take_while(|c| !matches!(c, '"' | '\'')).collect())
    })
}

fn document(id: String, xml: &str, broken_bytes: u64) -> Result<Vec<RawDocument>, String> {
    let doctype = xml.find("<!DOCTYPE").map_or("", |at| &xml[at..]);
    let doctype = doctype.split("]>").next().unwrap_or_default();
    let read = Whole::of(&Element::read(xml, 1, &Entities::declared(doctype))?);
    let mut fields = FieldsWriter::default();
    for (name, value) in [("title", &read.title), ("language", &read.language), ("author", &read.author)] {
        fields.text_if_any(name, value);
    }
    Ok(vec![RawDocument { id, fields: fields.finish(), text: Some(read.text), broken_bytes }])
}

/// Elements that are records.
struct Elements {
    cut: Cut,
    /// The paths of the fields that are the text.
    texts: Arc<[String]>,
    entities: Arc<Entities>,
}

impl Chunk for Elements {
    fn bytes(&self) -> u64 {
        self.cut.bytes.len() as u64
    }

    fn has_text(&self) -> bool {
        false
    }

    fn records(&self, visit: &mut Visit<'_>) -> More {
        let name = visit.name;
        let mut from = 0;
        for (line, end) in &self.cut.elements {
            let (xml, broken) = repaired(&self.cut.bytes[from..*end]);
            from = *end;
            let place = || format!("{name}:{line}");
            let element = Element::read(&xml, *line, &self.entities);
            let fields = element.map(|element| element.fields(&self.texts));
            match fields.as_deref().map_err(Clone::clone).and_then(Members::read) {
                Ok(members) => visit.record(Carried::Members(members), broken, place)?,
                Err(why) => visit.malformed(place(), Why::Record(why))?,
            }
        }
        More::Continue(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn is_xml(text: &str) -> bool {
        let start =
            Start { bytes: text.as_bytes(), text: Some(text), unnamed: true, members: &[], media_type: "" };
        Xml.recognises(&start)
    }

    #[test]
    fn xml_is_told_by_its_first_line_or_its_vocabulary() {
        for text in [
            "<?xml version=\"1.0\"?><a/>",
            "\u{feff}\n<?xml version='1.0'?>\n<!-- <b> -->\n<!DOCTYPE a [ <!ENTITY b 'c'> ]>\n<a>",
            "<page xmlns=\"http://projectmallard.org/1.0/\" id='a'>",
            "<!-- a -->\n<t:a xmlns:t='x'>",
        ] {
            assert!(is_xml(text), "{text}");
        }
        for text in [
            "",
            "plain",
            "<b>Bold</b> words of a note",
            "<?xml version='1.0'?><svg xmlns='http://www.w3.org/2000/svg'/>",
            "<?xml version='1.0'?>",
            "<svg xmlns='x'>",
            "a <a xmlns='x'>",
            "< a xmlns='x'>",
            "<a> xmlns",
        ] {
            assert!(!is_xml(text), "{text}");
        }
    }

    #[test]
    fn a_file_states_its_encoding() {
        let name = |start: &[u8]| declared(start).map(Encoding::name);
        assert_eq!(name(b"<?xml version='1.0' encoding='ISO-8859-2'?><a>\xb1"), Some("ISO-8859-2"));
        assert_eq!(name("<?xml version='1.0' encoding = \"latin1\"?><a>é".as_bytes()), None);
        assert_eq!(name(b"<?xml version='1.0' encoding='utf-16'?><a/>"), None);
        assert_eq!(name(b"<?xml version='1.0'?><a encoding='latin1'/>\xe9"), None);
        assert_eq!(name(b"<a>\xe9"), None);
    }
}
