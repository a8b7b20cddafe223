//! The process that reads files for another one.

use std::fs::File;
use std::io::{self, BufWriter, Write};
use std::path::PathBuf;
use std::sync::Arc;
use std::sync::mpsc::sync_channel;
use std::thread;

use super::limits;
use super::protocol::{Answer, Request, Sent, receive, send};
use crate::documents::guard::{BROKE, guarded};
use crate::documents::{Chunk, Input, Inside, Out, Piece, RawDocument, ReadError, ReadOptions, Reader};
use crate::record::{Selection, Why};
use crate::registry::FORMATS;

/// The stack on which files are read: some formats nest.
const STACK: usize = 16 << 20;
/// How many bytes of documents are sent together.
const PART_BYTES: usize = 1 << 20;

/// Reads the files that another process asks for on standard input, and sends what is in them to standard output, until there are no more.
pub fn serve_files() {
    let Ok(out) = own_output() else { return };
    let (sender, requests) = sync_channel::<Request>(0);
    let reading = thread::Builder::new().name("reader".into()).stack_size(STACK).spawn(move || {
        let mut out = BufWriter::new(out);
        for request in requests {
            limits::impose(request.limits);
            // That nobody listens any more is told by the end of standard input.
            let _ = serve(&request, &mut out);
        }
    });
    if reading.is_err() {
        return;
    }
    let mut input = io::stdin().lock();
    while let Ok(Some(request)) = receive::<Request>(&mut input) {
        if sender.send(request).is_err() {
            return;
        }
    }
    // The other process has ended, or wants no more: whatever is being read is not wanted either.
    std::process::exit(0);
}

/// Standard output, taken away from whatever else may write to it.
#[cfg(unix)]
fn own_output() -> io::Result<File> {
    let own = File::from(rustix::io::dup(io::stdout())?);
    rustix::stdio::dup2_stdout(File::options().write(true).open("/dev/null")?)?;
    Ok(own)
}

#[cfg(not(unix))]
fn own_output() -> io::Result<io::Stdout> {
    Ok(io::stdout())
}

fn serve(request: &Request, out: &mut impl Write) -> io::Result<()> {
    let mut sending = Sending {
        name: request.name.as_str().into(),
        options: request.asked.options(),
        selection: Selection::default(),
        piece: request.piece.clone(),
        out,
    };
    let read = match FORMATS.named(&request.format).map(|format| FORMATS.reader(format)) {
        Some(reader) => {
            guarded(|| read(request, reader, &mut sending)).unwrap_or_else(|| Err(ReadError::sentence(BROKE)))
        }
        None => Err(ReadError::sentence("no such format")),
    };
    send(out, &Sent::of(read))
}

fn read(request: &Request, reader: &dyn Reader, out: &mut dyn Out) -> Result<(), ReadError> {
    let path = PathBuf::from(&request.path);
    let mut input = Input::new(request.name.clone(), File::open(&path)?);
    input.file_name.clone_from(&request.file_name);
    input.disk = Some(path);
    reader.read(&mut input, out)
}

/// Sends documents to the process that asked for them.
struct Sending<'o, W> {
    name: Arc<str>,
    options: ReadOptions,
    selection: Selection,
    piece: Option<Piece>,
    out: &'o mut W,
}

impl<W: Write> Sending<'_, W> {
    fn part(&mut self, answer: Answer) -> Result<(), ReadError> {
        send(self.out, &Sent::Part(answer)).map_err(|_| ReadError::Stopped)
    }

    fn documents(&mut self, documents: Vec<RawDocument>) -> Result<(), ReadError> {
        let (mut part, mut bytes) = (Vec::new(), 0);
        for document in documents {
            bytes += document.fields.len() + document.text.as_ref().map_or(0, String::len);
            part.push(document);
            if bytes >= PART_BYTES {
                bytes = 0;
                self.part(Answer::Documents(std::mem::take(&mut part)))?;
            }
        }
        if part.is_empty() { Ok(()) } else { self.part(Answer::Documents(part)) }
    }
}

impl<W: Write> Out for Sending<'_, W> {
    fn options(&self) -> &ReadOptions {
        &self.options
    }

    fn piece(&self) -> Option<&Piece> {
        self.piece.as_ref()
    }

    fn name(&self) -> &Arc<str> {
        &self.name
    }

    fn rename(&mut self, name: Arc<str>) -> Arc<str> {
        std::mem::replace(&mut self.name, name)
    }

    fn selection(&self) -> &Selection {
        &self.selection
    }

    fn give_chunk(&mut self, chunk: Box<dyn Chunk>) -> Result<(), ReadError> {
        if let Some(piece) = chunk.piece() {
            return self.part(Answer::Piece(piece.clone()));
        }
        let taken = chunk.taken_out().map_err(ReadError::Told)?;
        self.documents(taken.documents)?;
        for (place, why) in taken.faults {
            self.part(Answer::Malformed { place, why })?;
        }
        Ok(())
    }

    fn malformed(&mut self, place: String, why: Why) -> Result<(), ReadError> {
        self.part(Answer::Malformed { place, why })
    }

    fn passed_over(&mut self, name: String) -> Result<(), ReadError> {
        self.part(Answer::PassedOver(name))
    }

    fn note(&mut self, what: String) -> Result<(), ReadError> {
        self.part(Answer::Note(what))
    }

    fn read(&mut self, _input: &mut Input<'_>) -> Result<(), ReadError> {
        Err(ReadError::sentence("files inside are not read here"))
    }

    fn read_inside(&mut self, _inside: Inside<'_>) -> Result<(), ReadError> {
        Err(ReadError::sentence("files inside are not read here"))
    }
}
