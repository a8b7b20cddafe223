//! Where documents come from: files, folders, standard input, cut into batches that workers take apart.

use std::collections::VecDeque;
use std::fs::File;
use std::io::{self, Read};
use std::path::PathBuf;
use std::sync::Arc;

use xxhash_rust::xxh3::Xxh3;

use crate::format::Format;
use crate::input::{Opened, SourceError, refuse_binary, repaired, without_mark};
use crate::json::Members;
use crate::lines::{LineReader, each_line};
use crate::record::{Carried, Malformed, Record, Selection, finished};
use crate::table::{RowBatch, RowReader, table_separator};
use crate::text_files::{self, TextFile};

/// How many bytes a batch aims at. Large enough that handing it over costs nothing, small enough to stay in cache.
const BATCH_BYTES: usize = 1 << 18;

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
                    .next(BATCH_BYTES)
                    .map(|next| next.map(|(first_line, bytes)| Content::Json { first_line, bytes })),
                Reading::Lines(lines) => lines
                    .next(BATCH_BYTES)
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
                let separator = table_separator(format, start);
                let reading = match format {
                    Format::JsonLines => Reading::Json(LineReader::new(opened)),
                    Format::Lines => Reading::Lines(LineReader::new(opened)),
                    _ => Reading::Rows(RowReader::new(opened, format, separator, &input.name)?),
                };
                self.reading = Some((input.name.into(), reading));
                // Text files that came first make a batch of their own, before it.
                if files.is_empty() {
                    return Ok(Begun::Reading);
                }
                break;
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
