//! What is known of formats whose readers a build can leave out.

use crate::documents::{FormatFacts, Unit};

pub(crate) static SPREADSHEET: FormatFacts = FormatFacts {
    name: "spreadsheet",
    about: "a spreadsheet (XLSX, ODS, XLS)",
    endings: &["xlsx", "xlsm", "xlsb", "ods", "xls"],
    units: &[Unit::Row, Unit::Cell],
    is_any_text: false,
};
pub(crate) static EPUB: FormatFacts = FormatFacts {
    name: "epub",
    about: "an EPUB book",
    endings: &["epub"],
    units: &[Unit::Chapter, Unit::File],
    is_any_text: false,
};
pub(crate) static DOCX: FormatFacts = FormatFacts {
    name: "docx",
    about: "a document of a word processor (DOCX, ODT, DOC)",
    endings: &["docx", "docm", "odt", "doc"],
    units: &[Unit::File, Unit::Paragraph],
    is_any_text: false,
};
pub(crate) static SLIDES: FormatFacts = FormatFacts {
    name: "slides",
    about: "a presentation (PPTX, ODP)",
    endings: &["pptx", "pptm", "ppsx", "odp"],
    units: &[Unit::Page, Unit::File],
    is_any_text: false,
};
pub(crate) static RTF: FormatFacts = FormatFacts {
    name: "rtf",
    about: "a document in Rich Text Format",
    endings: &["rtf"],
    units: &[Unit::File, Unit::Paragraph],
    is_any_text: false,
};
pub(crate) static PDF: FormatFacts = FormatFacts {
    name: "pdf",
    about: "a PDF",
    endings: &["pdf"],
    units: &[Unit::Page, Unit::File],
    is_any_text: false,
};
pub(crate) static HTML: FormatFacts = FormatFacts {
    name: "html",
    about: "an HTML page",
    endings: &["html", "htm", "xhtml"],
    units: &[Unit::File],
    is_any_text: true,
};
pub(crate) static XML: FormatFacts = FormatFacts {
    name: "xml",
    about: "XML: a document, or records one after the other",
    endings: &["xml", "rss", "atom", "tei", "fb2", "dbk", "docbook", "dita"],
    units: &[Unit::File, Unit::Row],
    is_any_text: true,
};
pub(crate) static MAIL: FormatFacts = FormatFacts {
    name: "mail",
    about: "mail: a message or a mailbox",
    endings: &["eml", "mbox", "mbx"],
    units: &[Unit::Message],
    is_any_text: true,
};
pub(crate) static OUTLOOK: FormatFacts = FormatFacts {
    name: "msg",
    about: "a message of Outlook",
    endings: &["msg"],
    units: &[Unit::Message],
    is_any_text: false,
};
pub(crate) static MARKDOWN: FormatFacts = FormatFacts {
    name: "markdown",
    about: "Markdown",
    endings: &["md", "markdown", "mkd"],
    units: &[Unit::File, Unit::Section],
    is_any_text: true,
};
pub(crate) static SQLITE: FormatFacts = FormatFacts {
    name: "sqlite",
    about: "an SQLite database",
    endings: &["sqlite", "sqlite3", "db", "db3"],
    units: &[Unit::Row],
    is_any_text: false,
};
pub(crate) static POSTGRESQL: FormatFacts = FormatFacts {
    name: "postgresql",
    about: "a PostgreSQL database, by its address",
    endings: &[],
    units: &[Unit::Row],
    is_any_text: false,
};
pub(crate) static PARQUET: FormatFacts = FormatFacts {
    name: "parquet",
    about: "a Parquet table",
    endings: &["parquet", "pq"],
    units: &[Unit::Row],
    is_any_text: false,
};
