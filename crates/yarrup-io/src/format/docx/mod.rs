//! Documents of word processors: DOCX (ECMA-376), ODT (ISO/IEC 26300) and DOC (MS-DOC).

mod old_word;
mod word;

use crate::documents::{Documents, Format, Input, Out, ReadError, Reader, Start, Unit};
use crate::format::compound::{self, Compound};
use crate::format::facts;
use crate::format::open_text;
use crate::format::package::Package;
use crate::format::paper::Paper;
use crate::format::paragraphs::Paragraphs;
use crate::format::properties::Properties;

pub(crate) struct Docx;

/// What a text of OpenDocument says that it is; templates say more.
const OPEN_TEXT: &str = "application/vnd.oasis.opendocument.text";

impl Reader for Docx {
    fn format(&self) -> Format {
        Format::of(&facts::DOCX)
    }

    fn recognises(&self, start: &Start<'_>) -> bool {
        start.members.iter().any(|member| member.starts_with("word/document") && member.ends_with(".xml"))
            || (start.has_member("content.xml") && start.media_type.starts_with(OPEN_TEXT))
            || (start.bytes.starts_with(compound::SIGN) && start.has_member("WordDocument"))
    }

    fn is_read_apart(&self) -> bool {
        true
    }

    fn read(&self, input: &mut Input<'_>, out: &mut dyn Out) -> Result<(), ReadError> {
        let name = input.name.clone();
        let paper = match input.opened.look()?.starts_with(compound::SIGN) {
            true => old_document(input)?,
            false => document_of_package(input, out.options().trust_archives)?,
        };
        out.give(Documents(paper.documents(name, out.options().unit_or(Unit::File))))
    }
}

/// What a document of DOCX or ODT says.
fn document_of_package(input: &mut Input<'_>, trusted: bool) -> Result<Paper, ReadError> {
    let mut package = Package::open(input, trusted)?;
    let mut text = Paragraphs::default();
    // The relations of the package name its main part. Nearly always it is this, and some programs leave them out.
    let main = package.related("", "officeDocument")?.unwrap_or_else(|| "word/document.xml".to_owned());
    let properties = match package.part(&main)? {
        Some(document) => {
            word::read(&document, &mut text)?;
            for notes in ["footnotes", "endnotes"] {
                let path = package.related(&main, notes)?.unwrap_or_else(|| format!("word/{notes}.xml"));
                if let Some(notes) = package.part(&path)? {
                    word::read(&notes, &mut text)?;
                }
            }
            package.part("docProps/core.xml")?
        }
        None => {
            open_text::read(&package.needed("content.xml")?, &mut text)?;
            package.part("meta.xml")?
        }
    };
    let properties = properties.map(|xml| Properties::of(&xml)).unwrap_or_default();
    Ok(Paper { text: text.finish(), properties })
}

/// The same of an old document.
fn old_document(input: &mut Input<'_>) -> Result<Paper, ReadError> {
    let mut file = Compound::open(input)?;
    let mut text = Paragraphs::default();
    old_word::read(&mut file, &mut text)?;
    let set = file.stream("\u{5}SummaryInformation")?;
    let properties = set.map(|set| Properties::of_set(&set)).unwrap_or_default();
    Ok(Paper { text: text.finish(), properties })
}
