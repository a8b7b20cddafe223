//! The formats that sources are written in, as plain data.

use std::fmt;

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

/// How a source is written.
#[derive(Clone, Copy)]
pub struct Format(&'static FormatFacts);

/// What is known of a format without reading anything.
#[derive(Debug)]
pub(crate) struct FormatFacts {
    /// The name by which commands know it.
    pub(crate) name: &'static str,
    /// What it is, for people.
    pub(crate) about: &'static str,
    /// The endings of its files' names, in lower case.
    pub(crate) endings: &'static [&'static str],
    /// What a document can be; the first is what it is unless another is asked for. Empty where others inside decide.
    pub(crate) units: &'static [Unit],
    /// Whether any text may be of this format, so that its name alone can tell.
    pub(crate) is_any_text: bool,
}

impl Format {
    pub(crate) const fn of(facts: &'static FormatFacts) -> Format {
        Format(facts)
    }

    /// The name by which commands know it.
    pub fn name(self) -> &'static str {
        self.0.name
    }

    /// What it is, for people.
    pub fn about(self) -> &'static str {
        self.0.about
    }

    /// The endings of its files' names.
    pub fn endings(self) -> &'static [&'static str] {
        self.0.endings
    }

    /// What a document can be in it; the first is what it is unless another is asked for. Empty for archives.
    pub fn units(self) -> &'static [Unit] {
        self.0.units
    }

    /// Whether its documents are of other formats, inside: archives and compressed files.
    pub fn is_wrapping(self) -> bool {
        self.units().is_empty()
    }

    /// Whether any text may be of it.
    pub(crate) fn is_any_text(self) -> bool {
        self.0.is_any_text
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
