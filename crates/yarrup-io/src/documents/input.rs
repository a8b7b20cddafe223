//! An input that is being read: its bytes as they come, counted and hashed.

use std::cell::Cell;
use std::io::{self, Read, Seek, SeekFrom};
use std::path::PathBuf;
use std::rc::Rc;
use std::sync::Arc;

use encoding_rs::{Encoding, UTF_8};
use tempfile::SpooledTempFile;
use xxhash_rust::xxh3::Xxh3;

use crate::encoding::{self, Decoded};
use crate::writing::Temporary;

/// How much of an input is looked at to tell its format and its encoding.
const LOOK: usize = 1 << 18;
/// How much of a file is searched for the first letter that is not ASCII, which tells its encoding.
const ASCII_LOOK: u64 = 1 << 26;
/// How much of what must be read out of order is held in memory; what is larger goes through a temporary file.
const IN_MEMORY: usize = 1 << 26;

/// What a reader is given to read.
pub(crate) struct Input<'r> {
    /// The name as given, or the path within the folder or the archive that was given.
    pub(crate) name: String,
    /// The name that tells its format: without the ending of what it was compressed by.
    pub(crate) file_name: String,
    pub(crate) opened: Opened<'r>,
    /// The file, if it is one of the disk.
    pub(crate) disk: Option<PathBuf>,
    /// The fields of its side file, as a JSON object.
    pub(crate) side: Option<Arc<str>>,
    /// Whether the user named it, so that it is read whatever its name says.
    pub(crate) asked_for: bool,
    /// The hash that it must have, if that is known.
    pub(crate) expected: Option<String>,
    /// The encoding, once the text is read.
    pub(crate) encoding: Option<&'static Encoding>,
    /// How many places of the text had to be replaced while it was decoded.
    pub(crate) replaced: Rc<Cell<u64>>,
    /// Its content once more, to be read out of order.
    copy: Option<SpooledTempFile>,
}

/// A reader that can go back.
pub(crate) trait ReadSeek: Read + Seek {}
impl<T: Read + Seek> ReadSeek for T {}

impl<'r> Input<'r> {
    pub(crate) fn new(name: String, reader: impl Read + 'r) -> Input<'r> {
        Input {
            file_name: name.clone(),
            name,
            opened: Opened::new(Box::new(reader)),
            disk: None,
            side: None,
            asked_for: false,
            expected: None,
            encoding: None,
            replaced: Rc::default(),
            copy: None,
        }
    }

    /// Its text in UTF-8, without a byte-order mark, out of the encoding that is asked for or that it shows.
    pub(crate) fn text(&mut self, asked: Option<&'static Encoding>) -> io::Result<Box<dyn Read + '_>> {
        let start = self.opened.look()?;
        let encoding = asked.or_else(|| encoding::of_start(start)).unwrap_or(UTF_8);
        let encoding = match &self.disk {
            Some(path) if asked.is_none() && encoding == UTF_8 && start.is_ascii() && start.len() >= LOOK => {
                later_encoding(path)?.unwrap_or(UTF_8)
            }
            _ => encoding,
        };
        self.encoding = Some(encoding);
        if encoding == UTF_8 {
            self.opened.skip_mark();
            return Ok(Box::new(&mut self.opened));
        }
        Ok(Box::new(Decoded::new(&mut self.opened, encoding, self.replaced.clone())))
    }

    /// Its whole text in UTF-8, and how many bytes of it were broken.
    pub(crate) fn whole_text(&mut self, asked: Option<&'static Encoding>) -> io::Result<(String, u64)> {
        let mut bytes = Vec::new();
        self.text(asked)?.read_to_end(&mut bytes)?;
        Ok(encoding::into_text(bytes))
    }

    /// Its whole content.
    pub(crate) fn whole(&mut self) -> io::Result<Vec<u8>> {
        let mut bytes = Vec::new();
        self.opened.read_to_end(&mut bytes)?;
        Ok(bytes)
    }

    /// Its content as something that can be read out of order: the file of the disk, or a copy in memory or in a temporary
    /// file without a name.
    pub(crate) fn seekable(&mut self) -> io::Result<Box<dyn ReadSeek + '_>> {
        if let Some(path) = &self.disk {
            return Ok(Box::new(std::fs::File::open(path)?));
        }
        if self.copy.is_none() {
            let mut copy = SpooledTempFile::new(IN_MEMORY);
            io::copy(&mut self.opened, &mut copy)?;
            self.copy = Some(copy);
        }
        let Some(copy) = &mut self.copy else { return Err(io::Error::other("no copy")) };
        copy.seek(SeekFrom::Start(0))?;
        Ok(Box::new(copy))
    }

    /// Its content as a file with a name: the file of the disk, or a temporary one, which goes when it is dropped.
    pub(crate) fn on_disk(&mut self) -> io::Result<(PathBuf, Option<Temporary>)> {
        if let Some(path) = &self.disk {
            return Ok((path.clone(), None));
        }
        let mut file = Temporary::new()?;
        match self.copy {
            // It was read already, to tell its format.
            Some(_) => io::copy(&mut self.seekable()?, file.file())?,
            None => io::copy(&mut self.opened, file.file())?,
        };
        Ok((file.path().to_owned(), Some(file)))
    }
}

impl Input<'_> {
    /// Its content as a file whose name is text, for another process: the file of the disk, or a temporary one, which goes when it is dropped.
    pub(crate) fn on_disk_by_text(&mut self) -> io::Result<(String, Option<Temporary>)> {
        if self.disk.as_ref().is_some_and(|path| path.to_str().is_none()) {
            // A copy has a name that is text.
            self.disk = None;
        }
        let (path, kept) = self.on_disk()?;
        Ok((path.to_string_lossy().into_owned(), kept))
    }
}

/// The encoding that the first letters beyond ASCII of a long file show.
fn later_encoding(path: &PathBuf) -> io::Result<Option<&'static Encoding>> {
    let mut file = std::fs::File::open(path)?.take(ASCII_LOOK);
    let mut piece = vec![0; LOOK];
    loop {
        let count = file.read(&mut piece)?;
        if count == 0 {
            return Ok(None);
        }
        if !piece[..count].is_ascii() {
            return Ok(encoding::of_start(&piece[..count]));
        }
    }
}

const BYTE_ORDER_MARK: &[u8] = b"\xef\xbb\xbf";

/// Counts and hashes what is read.
pub(crate) struct Opened<'r> {
    reader: Box<dyn Read + 'r>,
    /// Bytes that were read ahead to look at; those from `at` on are still to be read.
    ahead: Vec<u8>,
    at: usize,
    looked: bool,
    /// Whether a program may be waiting at the other end, so that no more is read than is there.
    pub(crate) live: bool,
    /// How many bytes were read, for whoever unpacks them to see as well.
    pub(crate) bytes: Rc<Cell<u64>>,
    pub(crate) hash: Xxh3,
}

impl<'r> Opened<'r> {
    pub(crate) fn new(reader: Box<dyn Read + 'r>) -> Opened<'r> {
        Opened {
            reader,
            ahead: Vec::new(),
            at: 0,
            looked: false,
            live: false,
            bytes: Rc::default(),
            hash: Xxh3::new(),
        }
    }

    /// The first bytes, whether they were read since or not. Of a live input, what is there up to its first line break.
    pub(crate) fn look(&mut self) -> io::Result<&[u8]> {
        while !self.looked {
            let filled = self.ahead.len();
            self.ahead.resize(LOOK, 0);
            let count = self.reader.read(&mut self.ahead[filled..]);
            self.ahead.truncate(filled + *count.as_ref().unwrap_or(&0));
            let count = match count {
                Err(error) if error.kind() == io::ErrorKind::Interrupted => continue,
                // The error comes again, or is told by who reads on.
                Err(_) if !self.ahead.is_empty() => 0,
                other => other?,
            };
            self.note(filled);
            self.looked =
                count == 0 || self.ahead.len() >= LOOK || (self.live && self.ahead.contains(&b'\n'));
        }
        Ok(&self.ahead)
    }

    fn skip_mark(&mut self) {
        if self.at == 0 && self.ahead.starts_with(BYTE_ORDER_MARK) {
            self.at = BYTE_ORDER_MARK.len();
        }
    }

    fn note(&mut self, from: usize) {
        self.bytes.set(self.bytes.get() + (self.ahead.len() - from) as u64);
        self.hash.update(&self.ahead[from..]);
    }
}

impl Read for Opened<'_> {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        if self.at < self.ahead.len() {
            let count = buffer.len().min(self.ahead.len() - self.at);
            buffer[..count].copy_from_slice(&self.ahead[self.at..self.at + count]);
            self.at += count;
            return Ok(count);
        }
        loop {
            match self.reader.read(buffer) {
                Ok(count) => {
                    self.bytes.set(self.bytes.get() + count as u64);
                    self.hash.update(&buffer[..count]);
                    return Ok(count);
                }
                Err(error) if error.kind() == io::ErrorKind::Interrupted => {}
                Err(error) => return Err(error),
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_mark_is_left_out_and_every_byte_is_counted() {
        let content: &[u8] = b"\xef\xbb\xbfid,text\n1,tern\n";
        let mut input = Input::new("cards".into(), content);
        assert!(input.opened.look().expect("readable").starts_with(BYTE_ORDER_MARK));
        assert_eq!(input.whole_text(None).expect("readable"), ("id,text\n1,tern\n".to_owned(), 0));
        assert_eq!(input.opened.bytes.get(), content.len() as u64);
        assert_eq!(input.opened.hash.digest128(), xxhash_rust::xxh3::xxh3_128(content));
    }
}
