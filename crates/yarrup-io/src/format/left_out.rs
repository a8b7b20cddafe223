//! Formats that a build can leave out.

use crate::documents::{Format, FormatFacts, Input, Out, ReadError, Reader, Start};
use crate::format::facts;
use crate::left_out::told;

/// A format that this build does not read.
pub(crate) struct LeftOut {
    facts: &'static FormatFacts,
    feature: &'static str,
    recognises: fn(&Start<'_>) -> bool,
}

impl Reader for LeftOut {
    fn format(&self) -> Format {
        Format::of(self.facts)
    }

    fn recognises(&self, start: &Start<'_>) -> bool {
        (self.recognises)(start)
    }

    fn read(&self, _input: &mut Input<'_>, _out: &mut dyn Out) -> Result<(), ReadError> {
        let what = format!("the reader of this format ({})", self.facts.name);
        Err(ReadError::sentence(told(&what, self.feature)))
    }
}

/// The name tells it, or nothing.
fn by_name(_start: &Start<'_>) -> bool {
    false
}

const fn documents(facts: &'static FormatFacts, recognises: fn(&Start<'_>) -> bool) -> LeftOut {
    LeftOut { facts, feature: "documents", recognises }
}

pub(crate) static SPREADSHEET: LeftOut = documents(&facts::SPREADSHEET, |start| {
    start.has_member("xl/workbook.xml") || start.media_type.ends_with("opendocument.spreadsheet")
});
pub(crate) static EPUB: LeftOut = documents(&facts::EPUB, |start| start.has_member("META-INF/container.xml"));
pub(crate) static DOCX: LeftOut = documents(&facts::DOCX, |start| {
    start.has_member("word/document.xml") || start.media_type.ends_with("opendocument.text")
});
pub(crate) static SLIDES: LeftOut = documents(&facts::SLIDES, |start| {
    start.has_member("ppt/presentation.xml") || start.media_type.ends_with("opendocument.presentation")
});
pub(crate) static RTF: LeftOut = documents(&facts::RTF, |start| start.bytes.starts_with(b"{\\rtf"));
pub(crate) static PDF: LeftOut = documents(&facts::PDF, |start| start.bytes.starts_with(b"%PDF-"));
pub(crate) static HTML: LeftOut = documents(&facts::HTML, |start| {
    let text = start.text.unwrap_or_default().trim_start();
    text.get(..14).is_some_and(|head| head.eq_ignore_ascii_case("<!doctype html"))
});
pub(crate) static XML: LeftOut =
    documents(&facts::XML, |start| start.text.unwrap_or_default().trim_start().starts_with("<?xml"));
pub(crate) static MAIL: LeftOut = documents(&facts::MAIL, by_name);
pub(crate) static OUTLOOK: LeftOut =
    documents(&facts::OUTLOOK, |start| start.has_member("__properties_version1.0"));
pub(crate) static MARKDOWN: LeftOut = documents(&facts::MARKDOWN, by_name);
pub(crate) static SQLITE: LeftOut = LeftOut {
    facts: &facts::SQLITE,
    feature: "database",
    recognises: |start| start.bytes.starts_with(b"SQLite format 3\0"),
};
pub(crate) static POSTGRESQL: LeftOut =
    LeftOut { facts: &facts::POSTGRESQL, feature: "database", recognises: by_name };
pub(crate) static PARQUET: LeftOut = LeftOut {
    facts: &facts::PARQUET,
    feature: "parquet",
    recognises: |start| start.bytes.starts_with(b"PAR1"),
};

#[cfg(test)]
mod tests {
    use super::*;
    use crate::registry::FORMATS;

    #[test]
    fn what_is_left_out_is_known_by_its_start() {
        let starts: [(&[u8], &[&str], &str); 11] = [
            (b"PK", &["xl/workbook.xml"], "spreadsheet"),
            (b"PK", &["META-INF/container.xml"], "epub"),
            (b"PK", &["word/document.xml"], "docx"),
            (b"PK", &["ppt/presentation.xml"], "slides"),
            (b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1", &["__properties_version1.0"], "msg"),
            (b"{\\rtf1 tern}", &[], "rtf"),
            (b"%PDF-1.7\n", &[], "pdf"),
            (b"<!DOCTYPE html>\n<p>tern", &[], "html"),
            (b"<?xml version='1.0'?>\n<a/>", &[], "xml"),
            (b"SQLite format 3\0", &[], "sqlite"),
            (b"PAR1", &[], "parquet"),
        ];
        for (bytes, members, name) in starts {
            let members: Vec<String> = members.iter().map(|member| (*member).to_owned()).collect();
            let text = std::str::from_utf8(bytes).ok();
            let start = Start { bytes, text, unnamed: true, members: &members, media_type: "" };
            assert_eq!(FORMATS.of_content(&start).map(Format::name), Some(name));
        }
    }
}
