//! JSON: an object a line, or an array of objects, or objects one after the other.

use std::io::Read;

use serde_json::value::RawValue;

use crate::documents::lines::{LineReader, Lines, TOO_LONG, each_line, lines_holding};
use crate::documents::{
    BATCH_BYTES, Chunk, Format, FormatFacts, Holding, Input, More, Out, ReadError, Reader, Start, Unit, Visit,
};
use crate::encoding::{into_text, repaired};
use crate::record::members::Members;
use crate::record::{Carried, Why};

pub(crate) struct JsonLines;

impl Reader for JsonLines {
    fn format(&self) -> Format {
        Format::of(&FormatFacts {
            name: "jsonl",
            about: "JSON Lines: a JSON object a line",
            endings: &["jsonl", "ndjson", "jsonlines"],
            units: &[Unit::Row],
            is_any_text: true,
        })
    }

    fn recognises(&self, start: &Start<'_>) -> bool {
        let line = first_line(start);
        line.starts_with('{') && Members::read(line).is_ok()
    }

    fn read(&self, input: &mut Input<'_>, out: &mut dyn Out) -> Result<(), ReadError> {
        if let Some(path) = out.options().records.clone() {
            return read_inside_lines(input, out, &path);
        }
        let at_once = out.options().at_once;
        let mut lines = LineReader::new(input.text(out.options().encoding)?, at_once);
        while let Some(lines) = lines.next(BATCH_BYTES)? {
            match lines {
                Lines::Whole(first_line, bytes) => {
                    let holding = out.options().holding.clone();
                    out.give(JsonLinesChunk { first_line, bytes, holding })?;
                }
                Lines::TooLong(line) => {
                    let place = format!("{}:{line}", out.name());
                    out.malformed(place, Why::Record(TOO_LONG.into()))?;
                }
            }
        }
        Ok(())
    }
}

/// The first line that says anything.
fn first_line<'a>(start: &Start<'a>) -> &'a str {
    let text = start.text.unwrap_or_default().trim_start_matches('\u{feff}').trim_start();
    text.lines().next().unwrap_or_default().trim_end()
}

struct JsonLinesChunk {
    first_line: u64,
    bytes: Vec<u8>,
    /// What a line must hold to be looked at.
    holding: Holding,
}

impl Chunk for JsonLinesChunk {
    fn bytes(&self) -> u64 {
        self.bytes.len() as u64
    }

    fn has_text(&self) -> bool {
        false
    }

    fn records(&self, visit: &mut Visit<'_>) -> More {
        let name = visit.name;
        let mut give = |line: u64, text: &str, broken: u64| {
            if !self.holding.takes_line(line) {
                return Ok(());
            }
            let place = || format!("{name}:{line}");
            let given = visit.of_line(text, |visit| match Members::read(text) {
                Ok(members) => visit.record(Carried::Members(members), broken, place),
                Err(why) => visit.malformed(place(), Why::Record(why)),
            });
            if given.is_break() { Err(()) } else { Ok(()) }
        };
        let given = match self.holding.needles() {
            [] => each_line(&self.bytes, (self.first_line, false), give),
            needles => lines_holding(&self.bytes, self.first_line, needles)
                .try_for_each(|(number, line)| each_line(line, (number, false), &mut give)),
        };
        if given.is_err() { More::Break(()) } else { More::Continue(()) }
    }
}

pub(crate) struct Json;

impl Reader for Json {
    fn format(&self) -> Format {
        Format::of(&FormatFacts {
            name: "json",
            about: "JSON: an array of objects, or objects one after the other",
            endings: &["json"],
            units: &[Unit::Row],
            is_any_text: false,
        })
    }

    fn recognises(&self, start: &Start<'_>) -> bool {
        let line = first_line(start);
        if let Some(rest) = line.strip_prefix('[') {
            let rest = rest.trim_start();
            // `[1] A footnote` is text.
            return rest.starts_with('{')
                || (rest.is_empty() && next_line(start).is_some_and(|line| line.starts_with('{')));
        }
        // An object over several lines.
        line.starts_with('{')
            && Members::read(line).is_err()
            && line[1..].trim_start().chars().next().map_or_else(
                || next_line(start).is_some_and(|line| line.starts_with('"') || line.starts_with('}')),
                |c| c == '"',
            )
    }

    fn read(&self, input: &mut Input<'_>, out: &mut dyn Out) -> Result<(), ReadError> {
        if let Some(path) = out.options().records.clone() {
            return read_inside(input, out, &path);
        }
        let mut elements = Elements::new(input.text(out.options().encoding)?);
        while let Some(chunk) = elements.next(BATCH_BYTES)? {
            out.give(chunk)?;
        }
        match elements.fault {
            Some(why) => Err(ReadError::Told(why)),
            None => Ok(()),
        }
    }
}

fn next_line<'a>(start: &Start<'a>) -> Option<&'a str> {
    start
        .text?
        .trim_start_matches('\u{feff}')
        .trim_start()
        .lines()
        .skip(1)
        .map(str::trim)
        .find(|line| !line.is_empty())
}

/// Reads the array that lies at a path of one large object. The whole file is held in memory.
fn read_inside(input: &mut Input<'_>, out: &mut dyn Out, path: &str) -> Result<(), ReadError> {
    let mut bytes = Vec::new();
    input.text(out.options().encoding)?.read_to_end(&mut bytes)?;
    let (text, broken) = into_text(bytes);
    let mut arrays = ArraysInside { path, chunk: ElementsChunk::default(), count: 0 };
    arrays.read(text.trim(), broken, out)?;
    out.give(arrays.chunk)
}

/// Reads the arrays that lie at a path of each line.
fn read_inside_lines(input: &mut Input<'_>, out: &mut dyn Out, path: &str) -> Result<(), ReadError> {
    let name = input.name.clone();
    let mut lines = LineReader::new(input.text(out.options().encoding)?, false);
    let mut arrays = ArraysInside { path, chunk: ElementsChunk::default(), count: 0 };
    while let Some(lines) = lines.next(BATCH_BYTES)? {
        let (first_line, bytes) = match lines {
            Lines::Whole(first_line, bytes) => (first_line, bytes),
            Lines::TooLong(line) => {
                out.malformed(format!("{name}:{line}"), Why::Record(TOO_LONG.into()))?;
                continue;
            }
        };
        each_line(&bytes, (first_line, false), |line, text, broken| match arrays.read(text, broken, out) {
            Err(ReadError::Told(why)) => out.malformed(format!("{name}:{line}"), Why::Record(why)),
            other => other,
        })?;
    }
    out.give(arrays.chunk)
}

/// The records of arrays that lie at a path of objects, on their way.
struct ArraysInside<'p> {
    path: &'p str,
    chunk: ElementsChunk,
    count: u64,
}

impl ArraysInside<'_> {
    /// Takes the records of the array that lies in an object.
    fn read(&mut self, object: &str, broken: u64, out: &mut dyn Out) -> Result<(), ReadError> {
        self.chunk.broken += broken;
        let path = self.path;
        let members = Members::read(object).map_err(ReadError::Told)?;
        let Some(value) = members.value(path) else {
            let paths = members.paths().join("`, `");
            return Err(ReadError::sentence(format!("nothing at `{path}`; there are `{paths}`")));
        };
        let records: Vec<&RawValue> = serde_json::from_str(value.get())
            .map_err(|_| ReadError::sentence(format!("`{path}` is not an array of records")))?;
        for record in records {
            self.count += 1;
            self.chunk.push(self.count, record.get().as_bytes());
            if self.chunk.bytes.len() > BATCH_BYTES {
                out.give(std::mem::take(&mut self.chunk))?;
            }
        }
        Ok(())
    }
}

/// Cuts the elements of an array, or objects one behind the other, out of a stream, without looking into them more than brackets and
/// strings need. Whether an element is valid is told when it is taken apart.
struct Elements<R> {
    reader: R,
    raw: Vec<u8>,
    at: usize,
    line: u64,
    ended: bool,
    /// Whether the array has begun, and has ended.
    array: Option<bool>,
    fault: Option<String>,
}

#[derive(Default)]
struct ElementsChunk {
    bytes: Vec<u8>,
    /// The line of each element, and where it ends.
    elements: Vec<(u64, usize)>,
    /// Bytes that were replaced before the elements were cut: they are told with the first of these.
    broken: u64,
}

impl ElementsChunk {
    fn push(&mut self, line: u64, element: &[u8]) {
        self.bytes.extend_from_slice(element);
        self.elements.push((line, self.bytes.len()));
    }
}

/// Where the reading of an element stands.
#[derive(Default)]
struct Inside {
    depth: u64,
    string: bool,
    escape: bool,
}

impl<R: Read> Elements<R> {
    fn new(reader: R) -> Elements<R> {
        Elements { reader, raw: Vec::new(), at: 0, line: 1, ended: false, array: None, fault: None }
    }

    fn peek(&mut self) -> std::io::Result<Option<u8>> {
        while self.at == self.raw.len() && !self.ended {
            self.raw.resize(1 << 16, 0);
            let count = self.reader.read(&mut self.raw)?;
            self.raw.truncate(count);
            self.at = 0;
            self.ended = count == 0;
        }
        Ok(self.raw.get(self.at).copied())
    }

    fn advance(&mut self, byte: u8) {
        self.at += 1;
        self.line += u64::from(byte == b'\n');
    }

    fn next(&mut self, most_bytes: usize) -> std::io::Result<Option<ElementsChunk>> {
        let mut chunk = ElementsChunk::default();
        while chunk.bytes.len() < most_bytes && self.fault.is_none() {
            let Some(byte) = self.peek()? else {
                if self.array == Some(true) {
                    self.fault =
                        Some("the array does not end: the file was cut off, or not copied to its end".into());
                }
                break;
            };
            match byte {
                b'[' if self.array.is_none() && chunk.elements.is_empty() => {
                    self.array = Some(true);
                    self.advance(byte);
                }
                b']' if self.array == Some(true) => {
                    self.array = Some(false);
                    self.advance(byte);
                }
                b' ' | b'\t' | b'\r' | b'\n' | b',' => self.advance(byte),
                _ if self.array == Some(false) => {
                    self.fault =
                        Some(format!("there is more after the end of the array, at line {}", self.line));
                }
                b']' => self.fault = Some(format!("a `]` that closes nothing, at line {}", self.line)),
                _ => {
                    let line = self.line;
                    self.element(&mut chunk.bytes)?;
                    chunk.elements.push((line, chunk.bytes.len()));
                }
            }
        }
        Ok((!chunk.elements.is_empty()).then_some(chunk))
    }

    /// Copies one element: to its closing bracket, or to the comma behind what has none.
    fn element(&mut self, out: &mut Vec<u8>) -> std::io::Result<()> {
        let mut inside = Inside::default();
        while let Some(byte) = self.peek()? {
            if inside.depth == 0 && !inside.string && matches!(byte, b',' | b']') {
                return Ok(());
            }
            out.push(byte);
            self.advance(byte);
            match byte {
                _ if inside.escape => inside.escape = false,
                b'\\' if inside.string => inside.escape = true,
                b'"' => inside.string = !inside.string,
                _ if inside.string => {}
                b'{' | b'[' => inside.depth += 1,
                b'}' | b']' => {
                    // One too many is no element, and told as such.
                    inside.depth = inside.depth.saturating_sub(1);
                    if inside.depth == 0 {
                        return Ok(());
                    }
                }
                _ => {}
            }
        }
        Ok(())
    }
}

impl Chunk for ElementsChunk {
    fn bytes(&self) -> u64 {
        self.bytes.len() as u64
    }

    fn has_text(&self) -> bool {
        false
    }

    fn records(&self, visit: &mut Visit<'_>) -> More {
        let name = visit.name;
        let (mut from, mut before) = (0, self.broken);
        for (line, end) in &self.elements {
            let (text, broken) = repaired(&self.bytes[from..*end]);
            let broken = broken + std::mem::take(&mut before);
            from = *end;
            let place = || format!("{name}:{line}");
            match Members::read(&text) {
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
    use proptest::prelude::*;

    fn elements(text: &str) -> (Vec<(u64, String)>, Option<String>) {
        let mut elements = Elements::new(text.as_bytes());
        let mut found = Vec::new();
        while let Some(chunk) = elements.next(8).expect("readable") {
            let mut from = 0;
            for (line, end) in chunk.elements {
                found.push((line, String::from_utf8_lossy(&chunk.bytes[from..end]).into_owned()));
                from = end;
            }
        }
        (found, elements.fault)
    }

    #[test]
    fn elements_are_cut_at_their_brackets() {
        let text = "[\n {\"a\": \"}]\\\"\"},\n {\"b\": [1, {\"c\": 2}]}\n, 7]\n";
        let (found, fault) = elements(text);
        let expected = [(2, "{\"a\": \"}]\\\"\"}"), (3, "{\"b\": [1, {\"c\": 2}]}"), (4, "7")];
        assert_eq!(found, expected.map(|(line, element)| (line, element.to_owned())));
        assert_eq!(fault, None);
        assert_eq!(
            elements("{\"a\":\n1}\n{\"b\":2}").0,
            [(1, "{\"a\":\n1}".into()), (3, "{\"b\":2}".into())]
        );
    }

    proptest! {
        #[test]
        fn elements_are_those_that_a_parser_finds(
            texts in proptest::collection::vec(r#"[\[\]{}",\\ a\u{e9}\n]{0,12}"#, 0..6),
            pretty: bool,
        ) {
            let values: Vec<_> = texts.iter().map(|text| serde_json::json!({"t": text, "n": [1, {"x": text}]})).collect();
            let array = serde_json::Value::from(values.clone());
            let written = if pretty { format!("{array:#}") } else { array.to_string() };
            let (found, fault) = elements(&written);
            let found: Vec<serde_json::Value> =
                found.iter().map(|(_, element)| serde_json::from_str(element).expect("an object")).collect();
            prop_assert_eq!(found, values);
            prop_assert_eq!(fault, None);
        }
    }

    #[test]
    fn an_array_that_does_not_end_is_told() {
        assert!(
            elements("{\"a\": 1}]")
                .1
                .is_some_and(|why| why.starts_with("a `]` that closes nothing, at line 1"))
        );
        assert!(elements("[{\"a\": 1}").1.is_some_and(|why| why.starts_with("the array does not end")));
        assert!(
            elements("[{\"a\": 1}] x")
                .1
                .is_some_and(|why| why.contains("after the end of the array, at line 1"))
        );
    }
}
