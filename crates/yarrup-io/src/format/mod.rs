//! The formats that sources are written in: one file each, registered in [`READERS`].

mod archive;
mod compressed;
mod docx;
mod epub;
mod html;
mod json;
mod mail;
mod markdown;
mod markup;
mod package;
mod parquet;
mod pdf;
mod spreadsheet;
mod sqlite;
mod table;
mod text;

use std::fmt;
use std::io;

use crate::input::Input;
use crate::intake::Intake;

/// What a document can be in a source.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs, reason = "the names say it")]
pub enum Unit {
    File,
    Line,
    Paragraph,
    /// From one heading to the next.
    Section,
    Page,
    Chapter,
    Row,
    Cell,
    Message,
}

impl Unit {
    /// The units, with the names by which commands know them.
    pub const NAMES: [(&'static str, Unit); 9] = [
        ("file", Unit::File),
        ("line", Unit::Line),
        ("paragraph", Unit::Paragraph),
        ("section", Unit::Section),
        ("page", Unit::Page),
        ("chapter", Unit::Chapter),
        ("row", Unit::Row),
        ("cell", Unit::Cell),
        ("message", Unit::Message),
    ];

    /// The name by which commands know it.
    pub fn name(self) -> &'static str {
        Self::NAMES.iter().find(|(_, unit)| *unit == self).map_or("", |(name, _)| name)
    }
}

/// Reads inputs of one format.
pub(crate) trait Reader: Sync {
    /// The name by which commands know the format.
    fn name(&self) -> &'static str;

    /// What it is, for people.
    fn about(&self) -> &'static str;

    /// The endings of its files' names, in lower case.
    fn endings(&self) -> &'static [&'static str];

    /// What a document can be; the first is what it is unless another is asked for. Empty where others inside decide.
    fn units(&self) -> &'static [Unit];

    /// Whether content that starts like this is of this format, whatever its name.
    fn recognises(&self, start: &Start<'_>) -> bool;

    /// Whether any text may be of this format, so that its name alone can tell.
    fn is_any_text(&self) -> bool {
        false
    }

    /// Gives the documents of the input.
    ///
    /// # Errors
    ///
    /// What keeps it from being read, or from being read to its end. What is wrong with one record is none.
    fn read(&self, input: &mut Input<'_>, intake: &mut Intake<'_>) -> Result<(), ReadError>;
}

/// Every format. Those whose content is surely told come first; tables and plain text are told by their names as well.
static READERS: [&dyn Reader; 19] = [
    &compressed::GZIP,
    &compressed::ZSTD,
    &compressed::BZIP2,
    &compressed::XZ,
    &spreadsheet::Spreadsheet,
    &epub::Epub,
    &docx::Docx,
    &archive::Zip,
    &archive::Tar,
    &pdf::Pdf,
    &sqlite::Sqlite,
    &parquet::Parquet,
    &json::Json,
    &json::JsonLines,
    &html::Html,
    &mail::Mail,
    &table::Table,
    &markdown::Markdown,
    &text::PlainText,
];

/// The start of an input, for telling its format.
pub(crate) struct Start<'a> {
    pub(crate) bytes: &'a [u8],
    /// The start as text, if it is one.
    pub(crate) text: Option<&'a str>,
    /// Whether the name says nothing, so that the content alone must do.
    pub(crate) unnamed: bool,
    /// The names inside, if it is a zip archive.
    pub(crate) members: &'a [String],
}

/// How a source is written.
#[derive(Clone, Copy)]
pub struct Format(&'static dyn Reader);

impl Format {
    /// Every format.
    pub fn all() -> impl Iterator<Item = Format> {
        READERS.iter().map(|reader| Format(*reader))
    }

    /// The format of this name, or of this ending.
    pub fn named(name: &str) -> Option<Format> {
        let name = name.to_ascii_lowercase();
        Self::all().find(|format| format.name() == name).or_else(|| Self::of_ending(&name))
    }

    /// The format that a file's ending stands for.
    pub(crate) fn of_ending(ending: &str) -> Option<Format> {
        Self::all().find(|format| format.0.endings().contains(&ending))
    }

    /// The format whose content starts like this.
    pub(crate) fn of_content(start: &Start<'_>) -> Option<Format> {
        Self::all().find(|format| format.0.recognises(start))
    }

    pub(crate) fn plain_text() -> Format {
        Format(&text::PlainText)
    }

    /// The name by which commands know it.
    pub fn name(self) -> &'static str {
        self.0.name()
    }

    /// What it is, for people.
    pub fn about(self) -> &'static str {
        self.0.about()
    }

    /// The endings of its files' names.
    pub fn endings(self) -> &'static [&'static str] {
        self.0.endings()
    }

    /// What a document can be in it; the first is what it is unless another is asked for. Empty for archives.
    pub fn units(self) -> &'static [Unit] {
        self.0.units()
    }

    /// Whether its documents are of other formats, inside: archives and compressed files.
    pub fn is_wrapping(self) -> bool {
        self.units().is_empty()
    }

    /// Whether any text may be of it.
    pub(crate) fn is_any_text(self) -> bool {
        self.0.is_any_text()
    }

    pub(crate) fn reader(self) -> &'static dyn Reader {
        self.0
    }
}

impl PartialEq for Format {
    fn eq(&self, other: &Format) -> bool {
        self.name() == other.name()
    }
}

impl Eq for Format {}

impl fmt::Debug for Format {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.name())
    }
}

/// Why an input is not read to its end.
#[derive(Debug)]
pub(crate) enum ReadError {
    /// It cannot be read.
    Io(io::Error),
    /// What is wrong with it, as a sentence.
    Told(String),
    /// It is of a kind that is not read, which is named.
    NotRead(String),
    /// Nobody wants more.
    Stopped,
}

impl From<io::Error> for ReadError {
    fn from(error: io::Error) -> ReadError {
        ReadError::Io(error)
    }
}

impl ReadError {
    pub(crate) fn told(why: impl Into<String>) -> ReadError {
        ReadError::Told(why.into())
    }
}

/// What an error of a zip archive is for people.
pub(crate) fn zip_told(error: &zip::result::ZipError) -> ReadError {
    use zip::result::ZipError;
    match error {
        ZipError::Io(why) if why.kind() == io::ErrorKind::UnexpectedEof => {
            ReadError::Io(io::ErrorKind::UnexpectedEof.into())
        }
        ZipError::InvalidPassword => ReadError::told("encrypted: it needs a password; not read"),
        ZipError::UnsupportedArchive(why) if why.to_ascii_lowercase().contains("password") => {
            ReadError::told("encrypted: it needs a password; not read")
        }
        ZipError::CompressionMethodNotSupported(method) => ReadError::told(format!(
            "compressed in a way that is not read (zip method {method}); pack it with deflate"
        )),
        other => ReadError::told(format!("damaged zip archive, cut off or not copied to its end: {other}")),
    }
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
        () if is(b"{\\rtf") => "RTF; save it as DOCX or text",
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
        for format in Format::all() {
            assert!(seen.insert(format.name()), "{}", format.name());
            assert!(!format.about().is_empty());
        }
        let mut seen = HashSet::new();
        for ending in Format::all().flat_map(Format::endings) {
            assert!(seen.insert(ending), "{ending}");
        }
    }
}
