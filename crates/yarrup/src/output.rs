//! Standard output and standard error, through which nothing of other people's text can steer a terminal.

use std::borrow::Cow;
use std::io::{self, BufWriter, IsTerminal, Stdout, Write};

use unicode_width::UnicodeWidthChar;
use yarrup_report::{push_json_safe, push_safe};

use crate::arguments::{CheckFormat, RowFormat, TableFormat};

/// What is written to standard output.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Shape {
    /// Text for people: what could steer a terminal is shown by its number.
    Text,
    /// JSON, in which it is escaped, so that it reads back as it was.
    Json,
    /// Data for another program, as it is; for people where it goes to a terminal.
    Data,
}

impl From<TableFormat> for Shape {
    fn from(format: TableFormat) -> Shape {
        match format {
            TableFormat::Table => Shape::Text,
            TableFormat::Csv => Shape::Data,
            TableFormat::Json => Shape::Json,
        }
    }
}

impl From<RowFormat> for Shape {
    fn from(format: RowFormat) -> Shape {
        match format {
            RowFormat::Table => Shape::Text,
            RowFormat::Csv => Shape::Data,
            RowFormat::Json | RowFormat::Jsonl => Shape::Json,
        }
    }
}

impl From<CheckFormat> for Shape {
    fn from(format: CheckFormat) -> Shape {
        match format {
            CheckFormat::Text => Shape::Text,
            CheckFormat::Json => Shape::Json,
        }
    }
}

/// Standard output, buffered.
pub(crate) struct Output {
    out: BufWriter<Stdout>,
    shape: Shape,
    /// Whether our own colours may pass.
    colour: bool,
    /// The start of a character whose rest is still to come.
    held: Vec<u8>,
    /// Whether lines of text are broken between words, and how.
    breaking: Option<Breaking>,
    /// The start of a line whose rest is still to come, where lines are broken.
    line: String,
}

/// How lines of text are broken on a terminal.
pub(crate) struct Breaking {
    /// How many columns there are.
    pub(crate) width: usize,
    /// The program as it was called. Lines with commands of it stay whole, to be copied.
    pub(crate) program: String,
}

impl Breaking {
    fn line<'l>(&self, line: &'l str) -> Cow<'l, str> {
        let mut behind = line.split(self.program.as_str()).skip(1);
        if behind.any(|behind| behind.starts_with(' ')) {
            Cow::Borrowed(line)
        } else {
            broken(line, self.width)
        }
    }
}

impl Output {
    pub(crate) fn new(shape: Shape, colour: bool, breaking: Option<Breaking>) -> Output {
        let breaking = breaking.filter(|_| shape == Shape::Text);
        let shape = if shape == Shape::Data && io::stdout().is_terminal() { Shape::Text } else { shape };
        let out = BufWriter::new(io::stdout());
        Output { out, shape, colour, held: Vec::new(), breaking, line: String::new() }
    }
}

impl Drop for Output {
    fn drop(&mut self) {
        let _ = self.flush();
    }
}

/// A line of text, broken between words where it is wider than the terminal; what follows stands under its beginning.
fn broken(line: &str, width: usize) -> Cow<'_, str> {
    let indent = line.len() - line.trim_start_matches(' ').len();
    let mut out = String::new();
    // How wide the line is so far, and how much of it stands behind its last space.
    let (mut used, mut behind) = (0, 0);
    let (mut space, mut in_escape, mut copied) = (None, false, 0);
    for (at, c) in line.trim_end().char_indices() {
        if c == '\u{1b}' || in_escape {
            in_escape = c != 'm';
            continue;
        }
        let columns = c.width().unwrap_or(0);
        used += columns;
        behind += columns;
        if c == ' ' {
            behind = 0;
            space = (at >= indent).then_some(at + 1).or(space);
        } else if used > width
            && let Some(end) = space.take()
        {
            out.push_str(line[copied..end].trim_end());
            out.push('\n');
            out.push_str(&" ".repeat(indent));
            copied = end;
            used = indent + behind;
        }
    }
    if copied == 0 {
        return Cow::Borrowed(line);
    }
    out.push_str(&line[copied..]);
    Cow::Owned(out)
}

impl Write for Output {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        if self.shape == Shape::Data {
            return self.out.write(bytes);
        }
        self.held.extend_from_slice(bytes);
        let whole = match std::str::from_utf8(&self.held) {
            Err(error) if error.error_len().is_none() => error.valid_up_to(),
            _ => self.held.len(),
        };
        let mut safe = String::with_capacity(whole);
        let text = String::from_utf8_lossy(&self.held[..whole]);
        match self.shape {
            Shape::Json => push_json_safe(&text, &mut safe),
            _ => push_safe(&text, self.colour, &mut safe),
        }
        self.held.drain(..whole);
        let Some(breaking) = &self.breaking else {
            self.out.write_all(safe.as_bytes())?;
            return Ok(bytes.len());
        };
        for part in safe.split_inclusive('\n') {
            self.line.push_str(part);
            if part.ends_with('\n') {
                self.out.write_all(breaking.line(&self.line).as_bytes())?;
                self.line.clear();
            }
        }
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        self.out.write_all(std::mem::take(&mut self.line).as_bytes())?;
        self.out.flush()
    }
}

/// Writes to standard error. Where even that cannot be written, nothing can be done about it.
pub(crate) fn say(message: &str, colour: bool) {
    let mut safe = String::with_capacity(message.len() + 1);
    push_safe(message, colour, &mut safe);
    let _ = io::stderr().write_all(safe.as_bytes());
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn long_lines_break_between_words_under_their_beginning() {
        for (line, width, expected) in [
            ("the terns nest\n", 14, "the terns nest\n"),
            ("the terns nest on\n", 14, "the terns nest\non\n"),
            ("  the terns nest on the spit\n", 12, "  the terns\n  nest on\n  the spit\n"),
            ("  saltmere-north-spit\n", 10, "  saltmere-north-spit\n"),
            ("\u{1b}[1mthe terns\u{1b}[0m nest\n", 10, "\u{1b}[1mthe terns\u{1b}[0m\nnest\n"),
            ("鳥の巣 鳥の巣\n", 8, "鳥の巣\n鳥の巣\n"),
            ("", 8, ""),
        ] {
            assert_eq!(broken(line, width), expected, "{line:?}");
        }
    }

    #[test]
    fn commands_stay_on_one_line() {
        let breaking = Breaking { width: 12, program: "yarrup".to_owned() };
        assert_eq!(breaking.line("  yarrup find all terns\n"), "  yarrup find all terns\n");
        assert_eq!(breaking.line("a yarrup, say all terns\n"), "a yarrup,\nsay all\nterns\n");
    }

    #[test]
    fn nothing_is_lost_but_spaces() {
        let text = "a bird that nests on bare shingle, far from extraordinarily well-kept lawns, 鳥 é";
        for (width, indent) in (6..100).flat_map(|width| (0..5).map(move |indent| (width, indent))) {
            let line = format!("{}{text}\n", " ".repeat(indent));
            let broken = broken(&line, width);
            assert!(broken.split_whitespace().eq(text.split_whitespace()), "{broken}");
            for part in broken.lines() {
                let columns: usize = part.chars().filter_map(UnicodeWidthChar::width).sum();
                assert!(columns <= width || !part.trim().contains(' '), "{width}: {part:?}");
            }
        }
    }
}
