//! Standard output and standard error, through which nothing of other people's text can steer a terminal.

use std::io::{self, BufWriter, IsTerminal, Stdout, Write};

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
}

impl Output {
    pub(crate) fn new(shape: Shape, colour: bool) -> Output {
        let shape = if shape == Shape::Data && io::stdout().is_terminal() { Shape::Text } else { shape };
        Output { out: BufWriter::new(io::stdout()), shape, colour, held: Vec::new() }
    }
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
        self.out.write_all(safe.as_bytes())?;
        self.held.drain(..whole);
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        self.out.flush()
    }
}

/// Writes to standard error. Where even that cannot be written, nothing can be done about it.
pub(crate) fn say(message: &str, colour: bool) {
    let mut safe = String::with_capacity(message.len() + 1);
    push_safe(message, colour, &mut safe);
    let _ = io::stderr().write_all(safe.as_bytes());
}
