//! Where documents come from: files, folders, standard input, cut into batches that workers take apart.

use std::borrow::Cow;
use std::collections::VecDeque;
use std::fs::File;
use std::io::{self, Read};
use std::path::{Path, PathBuf};
use std::sync::Arc;

use thiserror::Error;
use xxhash_rust::xxh3::Xxh3;

use crate::json::Members;
use crate::record::{Carried, Malformed, Record, Selection};
use crate::table::{RowBatch, RowReader};
use crate::text_files::{self, TextFile};

/// How many bytes a batch aims at. Large enough that handing it over costs nothing, small enough to stay in cache.
const BATCH_BYTES: usize = 1 << 18;

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
    fn of_content(start: &[u8]) -> Format {
        let first_line = start.split(|&byte| byte == b'\n').next().unwrap_or_default();
        let first_line = String::from_utf8_lossy(first_line);
        if Members::read(first_line.trim_start_matches('\u{feff}')).is_ok() {
            Format::JsonLines
        } else {
            Format::Text
        }
    }
}

/// Why a source cannot be read.
#[derive(Debug, Error)]
#[non_exhaustive]
pub enum SourceError {
    /// The file or folder is not there or not readable.
    #[error("{place}: {why}")]
    Unreadable {
        /// What was asked for.
        place: String,
        /// The system's answer.
        why: io::Error,
    },
    /// The content is of a kind that is not read.
    #[error("{place}: {why}")]
    Unsupported {
        /// The source.
        place: String,
        /// What it looks like, and what to do.
        why: String,
    },
    /// A folder without a file that could be read.
    #[error("{place}: no text, CSV, TSV or JSON Lines file in this folder")]
    EmptyFolder {
        /// The folder.
        place: String,
    },
}

impl SourceError {
    pub(crate) fn unreadable(place: &str) -> impl FnOnce(io::Error) -> SourceError + '_ {
        |why| SourceError::Unreadable { place: place.to_owned(), why }
    }
}

/// A source that was read to its end.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ReadFile {
    /// Its name as given, or the path within the folder that was given.
    pub name: String,
    /// How it was read.
    pub format: Format,
    /// Its size in bytes.
    pub bytes: u64,
    /// The XXH3 hash (128 bits) of its bytes, in hexadecimal.
    pub hash: String,
}

/// Part of a source: whole records.
#[derive(Debug)]
pub struct Batch {
    name: Arc<str>,
    content: Content,
}

#[derive(Debug)]
enum Content {
    Json { first_line: u64, bytes: Vec<u8> },
    Lines { first_line: u64, bytes: Vec<u8> },
    Rows(RowBatch),
    Files(Vec<TextFile>),
}

impl Batch {
    /// How many bytes of the source it holds, for a progress bar.
    pub fn bytes(&self) -> u64 {
        match &self.content {
            Content::Json { bytes, .. } | Content::Lines { bytes, .. } => bytes.len() as u64,
            Content::Rows(rows) => rows.bytes(),
            Content::Files(files) => files.iter().map(|file| file.bytes.len() as u64).sum(),
        }
    }

    /// Gives every record to `visit`, in order, until it answers with an error.
    ///
    /// # Errors
    ///
    /// What `visit` answers.
    pub fn records<E>(
        &self,
        selection: &Selection,
        mut visit: impl FnMut(Result<Record<'_>, Malformed>) -> Result<(), E>,
    ) -> Result<(), E> {
        let place = |line: u64| format!("{}:{line}", self.name);
        match &self.content {
            Content::Json { first_line, bytes } => {
                each_line(bytes, *first_line, |line, text, broken_bytes| {
                    let record = Members::read(text)
                        .and_then(|members| Record::of_members(members, selection, || place(line)));
                    visit(finished(record, broken_bytes, || place(line)))
                })
            }
            Content::Lines { first_line, bytes } => {
                each_line(bytes, *first_line, |line, text, broken_bytes| {
                    visit(finished(Ok(plain(place(line), text)), broken_bytes, || place(line)))
                })
            }
            Content::Rows(rows) => rows.records(selection, &self.name, visit),
            Content::Files(files) => {
                for file in files {
                    let (text, broken_bytes) = repaired(without_mark(&file.bytes));
                    visit(finished(Ok(plain(file.name.clone(), &text)), broken_bytes, || file.name.clone()))?;
                }
                Ok(())
            }
        }
    }
}

fn plain(id: String, text: &str) -> Record<'_> {
    Record {
        id: id.into(),
        title: None,
        text: text.into(),
        carried: Carried::Nothing,
        broken_bytes: 0,
        written_text: None,
    }
}

pub(crate) fn finished<'a>(
    record: Result<Record<'a>, String>,
    broken_bytes: u64,
    place: impl FnOnce() -> String,
) -> Result<Record<'a>, Malformed> {
    match record {
        Ok(record) if record.text.len() > yarrup_core::LONGEST_DOCUMENT => {
            Err(Malformed { place: place(), why: "the text is longer than one GiB".into() })
        }
        Ok(record) => Ok(Record { broken_bytes, ..record }),
        Err(why) => Err(Malformed { place: place(), why }),
    }
}

/// Gives every line that is not blank, with its number and the count of bytes that had to be replaced.
fn each_line<E>(
    bytes: &[u8],
    first_line: u64,
    mut visit: impl FnMut(u64, &str, u64) -> Result<(), E>,
) -> Result<(), E> {
    // Valid as a whole, as nearly every batch is: one check for all lines.
    let whole = std::str::from_utf8(bytes).ok();
    let mut at = 0;
    for line in first_line.. {
        if at >= bytes.len() {
            break;
        }
        let end = memchr::memchr(b'\n', &bytes[at..]).map_or(bytes.len(), |length| at + length);
        let (text, broken) = match whole {
            Some(whole) => (Cow::Borrowed(&whole[at..end]), 0),
            None => repaired(&bytes[at..end]),
        };
        at = end + 1;
        let text = text.strip_suffix('\r').unwrap_or(&text);
        if !text.trim_ascii().is_empty() {
            visit(line, text, broken)?;
        }
    }
    Ok(())
}

/// Text with every broken sequence replaced by U+FFFD, and how many bytes were broken.
pub(crate) fn repaired(bytes: &[u8]) -> (Cow<'_, str>, u64) {
    match std::str::from_utf8(bytes) {
        Ok(text) => (Cow::Borrowed(text), 0),
        Err(_) => {
            let broken = bytes.utf8_chunks().map(|chunk| chunk.invalid().len() as u64).sum();
            (Cow::Owned(String::from_utf8_lossy(bytes).into_owned()), broken)
        }
    }
}

const BYTE_ORDER_MARK: &[u8] = b"\xef\xbb\xbf";

fn without_mark(bytes: &[u8]) -> &[u8] {
    bytes.strip_prefix(BYTE_ORDER_MARK).unwrap_or(bytes)
}

/// Counts and hashes what is read, and leaves out a byte-order mark at the start.
pub(crate) struct Opened {
    reader: Box<dyn Read + Send>,
    /// Bytes that were read ahead to look at.
    ahead: VecDeque<u8>,
    bytes: u64,
    hash: Xxh3,
}

impl Opened {
    fn new(reader: Box<dyn Read + Send>) -> Opened {
        Opened { reader, ahead: VecDeque::new(), bytes: 0, hash: Xxh3::new() }
    }

    /// Reads ahead up to `most` bytes, or to the first line break if the source gives no more for now.
    fn look(&mut self, most: usize) -> io::Result<&[u8]> {
        let mut buffer = vec![0; most];
        while self.ahead.len() < most {
            let count = self.reader.read(&mut buffer[..most - self.ahead.len()])?;
            self.note(&buffer[..count]);
            self.ahead.extend(&buffer[..count]);
            if count == 0 || self.ahead.contains(&b'\n') {
                break;
            }
        }
        if self.ahead.make_contiguous().starts_with(BYTE_ORDER_MARK) {
            self.ahead.drain(..BYTE_ORDER_MARK.len());
        }
        Ok(self.ahead.make_contiguous())
    }

    fn note(&mut self, bytes: &[u8]) {
        self.bytes += bytes.len() as u64;
        self.hash.update(bytes);
    }
}

impl Read for Opened {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        if !self.ahead.is_empty() {
            return self.ahead.read(buffer);
        }
        loop {
            match self.reader.read(buffer) {
                Ok(count) => {
                    self.note(&buffer[..count]);
                    return Ok(count);
                }
                Err(error) if error.kind() == io::ErrorKind::Interrupted => {}
                Err(error) => return Err(error),
            }
        }
    }
}

/// Whole lines of a source, a batch at a time.
struct LineReader {
    opened: Opened,
    rest: Vec<u8>,
    line: u64,
    ended: bool,
}

impl LineReader {
    /// The next lines and the number of the first. A batch ends with what is there to read, so that a program at the other
    /// end of a pipe is answered at once.
    fn next(&mut self) -> io::Result<Option<(u64, Vec<u8>)>> {
        let mut bytes = std::mem::take(&mut self.rest);
        while !self.ended {
            let filled = bytes.len();
            bytes.resize(filled + BATCH_BYTES, 0);
            let count = self.opened.read(&mut bytes[filled..])?;
            bytes.truncate(filled + count);
            self.ended = count == 0;
            if let Some(last) = memchr::memrchr(b'\n', &bytes[filled..]) {
                self.rest = bytes.split_off(filled + last + 1);
                break;
            }
        }
        if bytes.is_empty() {
            return Ok(None);
        }
        let first = self.line;
        self.line += memchr::memchr_iter(b'\n', &bytes).count() as u64;
        Ok(Some((first, bytes)))
    }
}

/// An input of the collection, in the order of its coming.
struct Input {
    name: String,
    /// None for standard input.
    path: Option<PathBuf>,
    format: Option<Format>,
}

enum Reading {
    Json(LineReader),
    Lines(LineReader),
    Rows(RowReader),
}

/// The documents of a collection, as batches.
pub struct Source {
    inputs: VecDeque<Input>,
    reading: Option<(Arc<str>, Reading)>,
    read: Vec<ReadFile>,
    passed_over: Vec<String>,
    bytes: u64,
}

impl Source {
    /// Lists what there is to read at `places`: files, folders, or `-` for standard input. Nothing is read yet, but every
    /// file was found.
    ///
    /// # Errors
    ///
    /// A place that is not there, or a folder that holds nothing to read.
    pub fn open(places: &[String], format: Option<Format>) -> Result<Source, SourceError> {
        let mut source = Source {
            inputs: VecDeque::new(),
            reading: None,
            read: Vec::new(),
            passed_over: Vec::new(),
            bytes: 0,
        };
        for place in places {
            if place == "-" {
                source.inputs.push_back(Input { name: "standard input".into(), path: None, format });
                continue;
            }
            let path = PathBuf::from(place);
            let meta = std::fs::metadata(&path).map_err(SourceError::unreadable(place))?;
            if meta.is_dir() {
                let found = text_files::in_folder(&path, place)?;
                for file in found.files {
                    source.bytes += file.bytes;
                    let format = format.or_else(|| Format::of_ending(&file.path));
                    source.inputs.push_back(Input { name: file.name, path: Some(file.path), format });
                }
                source.passed_over.extend(found.passed_over);
            } else {
                source.bytes += meta.len();
                let format = format.or_else(|| Format::of_ending(&path));
                source.inputs.push_back(Input { name: place.clone(), path: Some(path), format });
            }
        }
        Ok(source)
    }

    /// How many bytes there are to read, as far as that is known.
    pub fn bytes(&self) -> u64 {
        self.bytes
    }

    /// Files of folders whose ending names no format that is read.
    pub fn passed_over(&self) -> &[String] {
        &self.passed_over
    }

    /// The files that were read to their end.
    pub fn read_files(&self) -> &[ReadFile] {
        &self.read
    }

    /// The next batch; none at the end.
    ///
    /// # Errors
    ///
    /// A file that cannot be read, or that is of another kind than text.
    pub fn next_batch(&mut self) -> Result<Option<Batch>, SourceError> {
        loop {
            let Some((name, mut reading)) = self.reading.take() else {
                match self.begin()? {
                    Begun::Documents(batch) => return Ok(Some(batch)),
                    Begun::Reading => continue,
                    Begun::Nothing => return Ok(None),
                }
            };
            let content = match &mut reading {
                Reading::Json(lines) => lines
                    .next()
                    .map(|next| next.map(|(first_line, bytes)| Content::Json { first_line, bytes })),
                Reading::Lines(lines) => lines
                    .next()
                    .map(|next| next.map(|(first_line, bytes)| Content::Lines { first_line, bytes })),
                Reading::Rows(rows) => rows.next(BATCH_BYTES).map(|next| next.map(Content::Rows)),
            };
            let content = content.map_err(SourceError::unreadable(&name))?;
            if let Some(content) = content {
                self.reading = Some((name.clone(), reading));
                return Ok(Some(Batch { name, content }));
            }
            let (format, opened) = match reading {
                Reading::Json(lines) => (Format::JsonLines, lines.opened),
                Reading::Lines(lines) => (Format::Lines, lines.opened),
                Reading::Rows(rows) => (rows.format(), rows.into_opened()),
            };
            self.note_read(&name, format, opened.bytes, &opened.hash);
        }
    }

    fn note_read(&mut self, name: &str, format: Format, bytes: u64, hash: &Xxh3) {
        let hash = format!("{:032x}", hash.digest128());
        self.read.push(ReadFile { name: name.to_owned(), format, bytes, hash });
    }

    /// Opens the next input, or reads the next text files whole.
    fn begin(&mut self) -> Result<Begun, SourceError> {
        let mut files = Vec::new();
        let mut bytes = 0;
        while bytes < BATCH_BYTES {
            let Some(input) = self.inputs.pop_front() else {
                break;
            };
            let reader: Box<dyn Read + Send> = match &input.path {
                None => Box::new(io::stdin()),
                Some(path) => Box::new(File::open(path).map_err(SourceError::unreadable(&input.name))?),
            };
            let mut opened = Opened::new(reader);
            let start = opened.look(8192).map_err(SourceError::unreadable(&input.name))?;
            refuse_binary(start, &input.name)?;
            let format = input.format.unwrap_or_else(|| Format::of_content(start));
            if format == Format::JsonLines && start.trim_ascii_start().starts_with(b"[") {
                return Err(SourceError::Unsupported {
                    place: input.name,
                    why: "a JSON array, not JSON Lines; write one object a line".into(),
                });
            }
            if format != Format::Text {
                if !files.is_empty() {
                    // The text files that came first make a batch of their own.
                    self.inputs.push_front(input);
                    break;
                }
                let separator = table_separator(format, start);
                let lines = |opened| LineReader { opened, rest: Vec::new(), line: 1, ended: false };
                let reading = match format {
                    Format::JsonLines => Reading::Json(lines(opened)),
                    Format::Lines => Reading::Lines(lines(opened)),
                    _ => Reading::Rows(RowReader::new(opened, format, separator, &input.name)?),
                };
                self.reading = Some((input.name.into(), reading));
                return Ok(Begun::Reading);
            }
            let mut content = Vec::new();
            opened.read_to_end(&mut content).map_err(SourceError::unreadable(&input.name))?;
            bytes += content.len();
            self.note_read(&input.name, format, opened.bytes, &opened.hash);
            files.push(TextFile { name: input.name, bytes: content });
        }
        Ok(if files.is_empty() {
            Begun::Nothing
        } else {
            Begun::Documents(Batch { name: "".into(), content: Content::Files(files) })
        })
    }
}

enum Begun {
    Documents(Batch),
    Reading,
    Nothing,
}

/// The separator of a table: that which the header has most of.
fn table_separator(format: Format, start: &[u8]) -> u8 {
    if format == Format::Tsv {
        return b'\t';
    }
    let header = start.split(|&byte| byte == b'\n').next().unwrap_or_default();
    let count = |separator: u8| header.iter().filter(|&&byte| byte == separator).count();
    [b'|', b'\t', b';', b','].into_iter().max_by_key(|&separator| count(separator)).unwrap_or(b',')
}

fn refuse_binary(start: &[u8], name: &str) -> Result<(), SourceError> {
    let kind = match start {
        [0xff, 0xfe, ..] | [0xfe, 0xff, ..] => "UTF-16 text; convert it to UTF-8 first",
        [b'P', b'K', 3, 4, ..] => {
            "a zip archive (or an office document or book in one), which is not read yet"
        }
        [0x1f, 0x8b, ..] => "compressed by gzip, which is not read yet; unpack it first",
        [b'%', b'P', b'D', b'F', ..] => "a PDF, which is not read yet",
        _ if start.contains(&0) => "not text: it holds NUL bytes",
        _ => return Ok(()),
    };
    Err(SourceError::Unsupported { place: name.to_owned(), why: kind.to_owned() })
}
