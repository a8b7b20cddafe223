//! Every format that is read, and its reader.

use crate::documents::{Format, Reader, Start};
#[cfg(not(all(feature = "documents", feature = "database", feature = "parquet")))]
use crate::format::left_out;
#[cfg(feature = "parquet")]
use crate::format::parquet;
use crate::format::{archive, compressed, json, table, text};
#[cfg(feature = "documents")]
use crate::format::{docx, epub, html, mail, markdown, pdf, rtf, slides, spreadsheet, xml};
#[cfg(feature = "database")]
use crate::format::{postgresql, sqlite};

/// Every format. Those whose content is surely told come first; tables and plain text are told by their names as well.
static READERS: [&dyn Reader; 24] = [
    &compressed::GZIP,
    &compressed::ZSTD,
    &compressed::BZIP2,
    &compressed::XZ,
    #[cfg(feature = "documents")]
    &spreadsheet::Spreadsheet,
    #[cfg(not(feature = "documents"))]
    &left_out::SPREADSHEET,
    #[cfg(feature = "documents")]
    &epub::Epub,
    #[cfg(not(feature = "documents"))]
    &left_out::EPUB,
    #[cfg(feature = "documents")]
    &docx::Docx,
    #[cfg(not(feature = "documents"))]
    &left_out::DOCX,
    #[cfg(feature = "documents")]
    &slides::Slides,
    #[cfg(not(feature = "documents"))]
    &left_out::SLIDES,
    #[cfg(feature = "documents")]
    &mail::outlook::OutlookMessage,
    #[cfg(not(feature = "documents"))]
    &left_out::OUTLOOK,
    #[cfg(feature = "documents")]
    &rtf::Rtf,
    #[cfg(not(feature = "documents"))]
    &left_out::RTF,
    &archive::Zip,
    &archive::Tar,
    #[cfg(feature = "documents")]
    &pdf::Pdf,
    #[cfg(not(feature = "documents"))]
    &left_out::PDF,
    #[cfg(feature = "database")]
    &sqlite::Sqlite,
    #[cfg(not(feature = "database"))]
    &left_out::SQLITE,
    #[cfg(feature = "parquet")]
    &parquet::Parquet,
    #[cfg(not(feature = "parquet"))]
    &left_out::PARQUET,
    #[cfg(feature = "database")]
    &postgresql::PostgreSql,
    #[cfg(not(feature = "database"))]
    &left_out::POSTGRESQL,
    &json::Json,
    &json::JsonLines,
    #[cfg(feature = "documents")]
    &html::Html,
    #[cfg(not(feature = "documents"))]
    &left_out::HTML,
    #[cfg(feature = "documents")]
    &xml::Xml,
    #[cfg(not(feature = "documents"))]
    &left_out::XML,
    #[cfg(feature = "documents")]
    &mail::Mail,
    #[cfg(not(feature = "documents"))]
    &left_out::MAIL,
    &table::Table,
    #[cfg(feature = "documents")]
    &markdown::Markdown,
    #[cfg(not(feature = "documents"))]
    &left_out::MARKDOWN,
    &text::PlainText,
];

/// The formats that are read.
#[derive(Clone, Copy)]
pub struct Formats {
    readers: &'static [&'static dyn Reader],
}

/// Every format.
pub static FORMATS: Formats = Formats { readers: &READERS };

impl Formats {
    /// All of them.
    pub fn all(&self) -> impl Iterator<Item = Format> + use<> {
        self.readers.iter().map(|reader| reader.format())
    }

    /// The format of this name, or of this ending.
    pub fn named(&self, name: &str) -> Option<Format> {
        let name = name.to_ascii_lowercase();
        self.all().find(|format| format.name() == name).or_else(|| self.of_ending(&name))
    }

    /// The format that a file's ending stands for.
    pub(crate) fn of_ending(&self, ending: &str) -> Option<Format> {
        self.all().find(|format| format.endings().contains(&ending))
    }

    /// The format whose content starts like this.
    pub(crate) fn of_content(&self, start: &Start<'_>) -> Option<Format> {
        self.readers.iter().find(|reader| reader.recognises(start)).map(|reader| reader.format())
    }

    /// What any text can be read as.
    pub(crate) fn plain_text(&self) -> Format {
        text::PlainText.format()
    }

    /// Whether files of a format are text that is read line by line, or row by row: as fast as anything that holds the same.
    pub(crate) fn reads_lines(&self, format: Format) -> bool {
        matches!(format.name(), "csv" | "jsonl")
    }

    /// The reader of a format.
    pub(crate) fn reader(&self, format: Format) -> &'static dyn Reader {
        self.readers.iter().copied().find(|reader| reader.format() == format).unwrap_or(&text::PlainText)
    }
}

/// Whether it is a drawing, a formula or a database of an office program, if it is none of the files of such a program that are read.
pub(crate) fn is_other_open_document(start: &Start<'_>) -> bool {
    start.media_type.starts_with("application/vnd.oasis.opendocument")
        || start.media_type.starts_with("application/vnd.sun.xml")
}

/// What an old Office file is that is not read, by the streams in it.
pub(crate) fn old_office_not_read(start: &Start<'_>) -> Option<&'static str> {
    [
        ("PowerPoint Document", "an old presentation; save it as PPTX"),
        ("EncryptedPackage", "an encrypted Office file; save a copy without a password"),
    ]
    .into_iter()
    .find_map(|(name, what)| start.has_member(name).then_some(what))
}

/// What content is that is known but not read; by its first bytes.
pub(crate) fn known_but_not_read(start: &[u8]) -> Option<&'static str> {
    let is = |sign: &[u8]| start.starts_with(sign);
    Some(match () {
        () if is(b"\x89PNG")
            || is(b"\xff\xd8\xff")
            || is(b"GIF8")
            || is(b"BM") && start.len() > 30 && start[6..10] == [0; 4] =>
        {
            "a picture"
        }
        () if is(b"II*\0") || is(b"MM\0*") || (is(b"RIFF") && start.get(8..12) == Some(b"WEBP")) => {
            "a picture"
        }
        () if is(b"7z\xbc\xaf\x27\x1c") => "a 7z archive; unpack it, or pack it as zip or tar",
        () if is(b"Rar!") => "a RAR archive; unpack it, or pack it as zip or tar",
        () if is(b"\x1f\x9d") => "compressed by the old `compress`; unpack it first",
        () if is(b"ID3")
            || is(b"OggS")
            || is(b"fLaC")
            || (is(b"RIFF") && start.get(8..12) == Some(b"WAVE")) =>
        {
            "sound"
        }
        () if start.get(4..8) == Some(b"ftyp") => "a film or sound",
        () if is(b"\x7fELF") || is(b"MZ\x90") => "a program",
        () if is(b"ARROW1") => "an Arrow file; write it as Parquet",
        () if is(b"ORC") => "an ORC file; write it as Parquet",
        () if is(b"Obj\x01") => "an Avro file; write it as JSON Lines or Parquet",
        () if is(b"%!PS") => "PostScript; make a PDF of it",
        () => return None,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::HashSet;

    #[test]
    fn names_and_endings_are_unique() {
        let mut seen = HashSet::new();
        for format in FORMATS.all() {
            assert!(seen.insert(format.name()), "{}", format.name());
            assert!(!format.about().is_empty());
        }
        let mut seen = HashSet::new();
        for ending in FORMATS.all().flat_map(Format::endings) {
            assert!(seen.insert(ending), "{ending}");
        }
    }
}
