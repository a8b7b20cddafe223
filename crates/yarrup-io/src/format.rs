//! The formats that sources are written in.

use std::path::Path;

use crate::json::Members;

/// How a source is written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Format {
    /// One JSON object a line.
    JsonLines,
    /// Comma-separated values with a header; semicolons, tabs or bars if the header has more of these.
    Csv,
    /// Tab-separated values with a header.
    Tsv,
    /// Plain text, the whole file a document.
    Text,
    /// Plain text, each line a document; blank lines are none.
    Lines,
}

impl Format {
    /// The formats, with the names by which commands know them.
    pub const NAMES: [(&'static str, Format); 5] = [
        ("jsonl", Format::JsonLines),
        ("csv", Format::Csv),
        ("tsv", Format::Tsv),
        ("text", Format::Text),
        ("lines", Format::Lines),
    ];

    /// The name by which commands know the format.
    pub fn name(self) -> &'static str {
        Self::NAMES.iter().find(|(_, format)| *format == self).map_or("", |(name, _)| name)
    }

    /// The format that a file's ending stands for.
    pub(crate) fn of_ending(path: &Path) -> Option<Format> {
        let ending = path.extension()?.to_str()?.to_ascii_lowercase();
        Some(match ending.as_str() {
            "jsonl" | "ndjson" | "json" => Format::JsonLines,
            "csv" => Format::Csv,
            "tsv" | "tab" => Format::Tsv,
            "txt" | "text" | "md" => Format::Text,
            _ => return None,
        })
    }

    /// The format that the first bytes of a source of unknown name look like.
    pub(crate) fn of_content(start: &[u8]) -> Format {
        let first_line = start.split(|&byte| byte == b'\n').next().unwrap_or_default();
        let first_line = String::from_utf8_lossy(first_line);
        if Members::read(first_line.trim_start_matches('\u{feff}')).is_ok() {
            Format::JsonLines
        } else {
            Format::Text
        }
    }
}
