//! Plain text: a file, a line, a paragraph or a section is a document.

use std::borrow::Cow;
use std::io::Read;

use regex::Regex;

use crate::documents::lines::{LineReader, Lines, TOO_LONG, each_line};
use crate::documents::{
    BATCH_BYTES, Chunk, Documents, FieldsWriter, Format, FormatFacts, Input, More, Out, RawDocument,
    ReadError, Reader, SeparatorLine, Start, Unit, Visit,
};
use crate::encoding::repaired;
use crate::format::rejoined::rejoined;
use crate::record::members::Members;
use crate::record::{Carried, Why};

pub(crate) struct PlainText;

impl Reader for PlainText {
    fn format(&self) -> Format {
        Format::of(&FormatFacts {
            name: "text",
            about: "plain text",
            endings: &["txt", "text"],
            units: &[Unit::File, Unit::Line, Unit::Paragraph, Unit::Section],
            is_any_text: true,
        })
    }

    fn recognises(&self, _start: &Start<'_>) -> bool {
        false
    }

    fn read(&self, input: &mut Input<'_>, out: &mut dyn Out) -> Result<(), ReadError> {
        if let Some(line) = out.options().separator_line.clone() {
            return read_pieces(input, out, &Cut::SeparatorLine(line));
        }
        match out.options().unit_or(Unit::File) {
            Unit::Line => {
                let (blank_lines, at_once) = (out.options().blank_lines, out.options().at_once);
                let mut lines = LineReader::new(input.text(out.options().encoding)?, at_once);
                while let Some(lines) = lines.next(BATCH_BYTES)? {
                    match lines {
                        Lines::Whole(first_line, bytes) => {
                            out.give(TextLines { first_line, bytes, blank_lines })?;
                        }
                        Lines::TooLong(line) => too_long(out, line)?,
                    }
                }
                Ok(())
            }
            Unit::Paragraph => read_pieces(input, out, &Cut::BlankLines),
            Unit::Section => {
                let heading = out.options().heading.clone().unwrap_or_else(usual_headings);
                read_pieces(input, out, &Cut::Headings(heading))
            }
            _ => {
                let (mut text, broken_bytes) = input.whole_text(out.options().encoding)?;
                if out.options().rejoin {
                    text = rejoined(&text);
                }
                let id = input.name.clone();
                out.give(Documents(vec![RawDocument {
                    id,
                    fields: "{}".into(),
                    text: Some(text),
                    broken_bytes,
                }]))
            }
        }
    }
}

fn too_long(out: &mut dyn Out, line: u64) -> Result<(), ReadError> {
    let place = format!("{}:{line}", out.name());
    out.malformed(place, Why::Record(TOO_LONG.into()))
}

/// Headings of chapters as books print them, in the languages of the demo and some more.
fn usual_headings() -> Regex {
    Regex::new(concat!(
        r"(?i)^\s{0,8}(?:(?:chapter|part|book|section|kapitel|teil|abschnitt|chapitre|partie|cap[ií]tulo|parte|capitolo|hoofdstuk)",
        r"\s+(?:\d+|[ivxlcdm]+|[[:alpha:]]+)\b.{0,80}|prologue|epilogue|preface|introduction|afterword|vorwort|nachwort)\s*$"
    ))
    .expect("the pattern is a constant")
}

/// Where a text is cut into documents.
enum Cut {
    BlankLines,
    Headings(Regex),
    SeparatorLine(SeparatorLine),
}

/// A document on its way: whole lines.
#[derive(Default)]
struct Piece {
    text: String,
    first_line: u64,
    title: String,
    broken_bytes: u64,
}

fn read_pieces(input: &mut Input<'_>, out: &mut dyn Out, cut: &Cut) -> Result<(), ReadError> {
    let name = input.name.clone();
    let mut lines = LineReader::new(input.text(out.options().encoding)?, false);
    let (mut piece, mut number, mut ready, mut bytes) = (Piece::default(), 0, Vec::new(), 0);
    let mut finish = |piece: &mut Piece, ready: &mut Vec<RawDocument>| {
        let piece = std::mem::take(piece);
        let text = piece.text.trim_end();
        if text.is_empty() {
            return;
        }
        number += 1;
        let mut fields = FieldsWriter::default();
        if let Cut::Headings(_) = cut {
            fields.text_if_any("title", &piece.title);
            fields.number("section", number);
        }
        ready.push(RawDocument {
            id: format!("{name}:{}", piece.first_line),
            fields: fields.finish(),
            text: Some(text.to_owned()),
            broken_bytes: piece.broken_bytes,
        });
    };
    loop {
        let (first_line, batch) = match lines.next(BATCH_BYTES)? {
            None => break,
            Some(Lines::Whole(first_line, batch)) => (first_line, batch),
            Some(Lines::TooLong(line)) => {
                too_long(out, line)?;
                continue;
            }
        };
        for (line, raw) in (first_line..).zip(lines_of(&batch)) {
            let (text, broken) = repaired(raw);
            let text = text.trim_end_matches(['\r', '\n']);
            let (ends, is_heading) = match cut {
                Cut::BlankLines => (text.trim().is_empty(), false),
                Cut::SeparatorLine(line) => (line.is(text), false),
                Cut::Headings(heading) => {
                    let is_heading = heading.is_match(text);
                    (is_heading, is_heading)
                }
            };
            if ends {
                bytes += piece.text.len();
                finish(&mut piece, &mut ready);
            }
            if !matches!(cut, Cut::Headings(_)) && ends {
                continue;
            }
            if piece.text.is_empty() {
                if text.trim().is_empty() {
                    continue;
                }
                piece.first_line = line;
            }
            if is_heading {
                piece.title = text.to_owned();
            }
            piece.text.push_str(text);
            piece.text.push('\n');
            piece.broken_bytes += broken;
        }
        if bytes >= BATCH_BYTES {
            bytes = 0;
            out.give(Documents(std::mem::take(&mut ready)))?;
        }
    }
    finish(&mut piece, &mut ready);
    out.give(Documents(ready))
}

fn lines_of(bytes: &[u8]) -> impl Iterator<Item = &[u8]> {
    bytes.split_inclusive(|byte| *byte == b'\n')
}

/// Lines, each a document; blank ones are none, unless that is asked for.
struct TextLines {
    first_line: u64,
    bytes: Vec<u8>,
    blank_lines: bool,
}

impl Chunk for TextLines {
    fn bytes(&self) -> u64 {
        self.bytes.len() as u64
    }

    fn records(&self, visit: &mut Visit<'_>) -> More {
        let name = visit.name.to_owned();
        let given = each_line(&self.bytes, (self.first_line, self.blank_lines), |line, text, broken| {
            let given =
                visit.record(Carried::Body(text, Members::default()), broken, || format!("{name}:{line}"));
            if given.is_break() { Err(()) } else { Ok(()) }
        });
        if given.is_err() { More::Break(()) } else { More::Continue(()) }
    }
}

/// The text of a string of bytes whose encoding is what it shows.
pub(super) fn decoded(bytes: &[u8]) -> Cow<'_, str> {
    match crate::encoding::of_start(bytes) {
        Some(encoding) => encoding.decode(bytes).0,
        None => String::from_utf8_lossy(bytes),
    }
}

/// Reads all there is of a part of something.
pub(super) fn read_whole(mut reader: impl Read) -> std::io::Result<Vec<u8>> {
    let mut bytes = Vec::new();
    reader.read_to_end(&mut bytes)?;
    Ok(bytes)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn headings_of_chapters_are_known_and_sentences_are_not() {
        let headings = usual_headings();
        for heading in
            ["CHAPTER I", "Chapter 12. The Storm", "Kapitel Drei", "  Part Two", "Prologue", "CAPÍTULO IV"]
        {
            assert!(headings.is_match(heading), "{heading}");
        }
        for line in
            ["Part of the fence fell.", "The chapter ends.", "book", "Chapter", "Introduction of the fox"]
        {
            assert_eq!(headings.is_match(line), line == "Part of the fence fell.", "{line}");
        }
    }
}
