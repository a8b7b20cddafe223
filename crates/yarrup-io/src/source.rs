//! The documents of a collection: read in a thread of its own, handed out as batches that workers take apart.

use std::io;
use std::sync::Arc;
use std::sync::mpsc::{Receiver, SyncSender, sync_channel};
use std::thread;

use crate::apart::ReaderProcesses;
use crate::collection::{Collection, SourceSpec, read_collection};
use crate::documents::guard::{BROKE, guarded};
use crate::documents::{Batch, Context, Holding, Input, Message, Out, Proposed, ReadError, ReadFile};
use crate::intake::{Intake, failed};
use crate::originals::{CHANGED, Originals, WithOriginals};
use crate::place::{self, Place, Referring, SourceError};
use crate::record::{Item, Why};
use crate::registry::FORMATS;
use crate::run::OriginalRecord;
use crate::sampling::{Pick, Picker};

/// How many batches may wait to be worked on.
const WAITING: usize = 4;

/// The documents of a collection, as batches.
pub struct Source {
    messages: Receiver<Message>,
    read: Vec<ReadFile>,
    passed_over: Vec<String>,
    notes: Vec<String>,
    proposed: Vec<Proposed>,
    bytes: Option<u64>,
    likely_bytes: u64,
    stays: bool,
}

impl Source {
    /// Lists what there is to read in a collection, and begins to read it. Every file was found before the first is read.
    ///
    /// # Errors
    ///
    /// A place that is not there, or a folder that holds nothing to read.
    pub fn open(collection: &Collection) -> Result<Source, SourceError> {
        let mut places = Vec::new();
        let (mut passed_over, mut bytes, mut likely_bytes) = (Vec::new(), Some(0), 0);
        // Of a choice of documents nobody knows how much of the sources is read.
        let mut stays = collection.pick == Pick::All;
        for source in &collection.sources {
            let found = place::find(source)?;
            bytes = bytes.zip(found.bytes).map(|(sum, bytes)| sum + bytes);
            likely_bytes += found.likely_bytes;
            passed_over.extend(found.passed_over);
            stays &= found.stays;
            let mut source = source.clone();
            source.options.format = found.format.or(source.options.format);
            if found.of_run && !source.whole_run {
                source.selection.hidden = vec!["clean", "tokens_before", "tokens_after"];
            }
            if found.places.iter().any(|place| matches!(place, Place::WithoutOriginals(_))) {
                // Which lines are looked at is decided where the documents are put together: behind it lines have other numbers.
                source.options.holding = Holding::default();
            }
            let found = found.places.into_iter().map(put_together).collect::<Result<_, _>>()?;
            places.push((source, found));
        }
        let (sender, messages) = sync_channel(WAITING);
        let mut picker = Picker::new(collection.pick);
        let apart = collection.apart.clone();
        thread::Builder::new()
            .name("reader".into())
            .stack_size(READER_STACK)
            .spawn(move || {
                let ended = read_all(places, &mut picker, &sender, apart.as_ref());
                if ended.is_ok() {
                    for batch in picker.finish() {
                        if sender.send(Message::Batch(batch)).is_err() {
                            return;
                        }
                    }
                }
            })
            .map_err(|why| SourceError::Unreadable { place: "the sources".into(), why })?;
        Ok(Source {
            messages,
            read: Vec::new(),
            passed_over,
            notes: Vec::new(),
            proposed: Vec::new(),
            bytes,
            likely_bytes,
            stays,
        })
    }

    /// Whether all of it are files that stay where they are, and can be read again as fast as a copy of them.
    pub fn stays(&self) -> bool {
        self.stays
    }

    /// How many bytes there are to read; 0 if that is not known.
    pub fn bytes(&self) -> u64 {
        self.bytes.unwrap_or_default()
    }

    /// How many bytes there may be, what is compressed unpacked.
    pub fn likely_bytes(&self) -> u64 {
        self.likely_bytes
    }

    /// Files of folders and archives of no format that is read. All of them are known at the end.
    pub fn passed_over(&self) -> &[String] {
        &self.passed_over
    }

    /// What the user should know of files that were read, a sentence each. All of it is known at the end.
    pub fn notes(&self) -> &[String] {
        &self.notes
    }

    /// The files that were read.
    pub fn read_files(&self) -> &[ReadFile] {
        &self.read
    }

    /// What was proposed for the fields of files, where that was asked for.
    pub fn proposed(&self) -> &[Proposed] {
        &self.proposed
    }

    /// The next batch; none at the end.
    pub fn next_batch(&mut self) -> Option<Batch> {
        loop {
            match self.messages.recv().ok()? {
                Message::Batch(batch) => return Some(batch),
                Message::Read(file) => self.read.push(file),
                Message::Proposed(proposed) => self.proposed.push(*proposed),
                Message::PassedOver(name) => self.passed_over.push(name),
                Message::Note(note) => self.notes.push(note),
            }
        }
    }
}

/// The documents of a run and their original texts put together, if these are elsewhere.
fn put_together(place: Place) -> Result<Place, SourceError> {
    let Place::WithoutOriginals(referring) = place else { return Ok(place) };
    let Referring { name, run, reader, originals, holding } = *referring;
    let told = |why: &dyn std::fmt::Display| SourceError::Run {
        why: format!(
            "{}: the run does not hold the original texts, which are elsewhere: {why}",
            run.display()
        ),
    };
    let mut collection = read_collection(&originals.collection, &run).map_err(|_| told(&CHANGED))?;
    // That a file is another shows at its end; that it is shorter or longer, at once.
    for (source, expected) in collection.sources.iter_mut().zip(&originals.sources) {
        source.called = Some(expected.name.clone());
        let size =
            source.path().metadata().map_err(|why| told(&format!("{}: {why}", source.path().display())))?;
        if size.len() != expected.bytes {
            return Err(told(&format!(
                "{}: was cut or changed since the run read it; make the run again",
                source.path().display()
            )));
        }
    }
    let source = Source::open(&collection).map_err(|why| told(&why))?;
    let left_out = originals.left_out.iter().copied().collect();
    let again = ReadAgain { source, expected: originals.sources };
    Ok(Place::Stream(name, Box::new(WithOriginals::new(reader, Box::new(again), left_out, holding))))
}

/// The sources of a run, read again.
struct ReadAgain {
    source: Source,
    expected: Vec<OriginalRecord>,
}

impl Originals for ReadAgain {
    fn next(&mut self) -> io::Result<Option<Batch>> {
        let batch = self.source.next_batch();
        let read = || {
            let files = self.source.read_files().iter().filter(|file| !file.inside);
            files.map(|file| (file.bytes, &file.hash))
        };
        if batch.is_none() && !read().eq(self.expected.iter().map(|file| (file.bytes, &file.hash))) {
            return Err(io::Error::other(CHANGED));
        }
        Ok(batch)
    }
}

/// Gives the documents of a file that is held in memory, and what is wrong with others, to `visit`. The file is read in this process, whatever its
/// format.
pub fn read_bytes(source: &SourceSpec, content: &[u8], visit: &mut dyn FnMut(Item<'_>)) {
    let (sender, messages) = sync_channel(WAITING);
    thread::scope(|scope| {
        scope.spawn(move || {
            let mut picker = Picker::new(Pick::All);
            let context = Context {
                name: source.place.as_str().into(),
                selection: Arc::new(source.selection.clone()),
                side: None,
                format: None,
                proposed: false,
            };
            let mut input = Input::new(source.place.clone(), content);
            input.asked_for = true;
            // That nobody wants more does not happen.
            let _ =
                Intake::new(FORMATS, &source.options, context, &sender, &mut picker, None).read(&mut input);
        });
        for message in messages {
            if let Message::Batch(batch) = message {
                let _ = batch.records(|item| {
                    visit(item);
                    Ok::<(), ()>(())
                });
            }
        }
    });
}

/// The reader's stack: some formats nest.
const READER_STACK: usize = 16 << 20;

fn read_all(
    places: Vec<(SourceSpec, Vec<Place>)>,
    picker: &mut Picker,
    sender: &SyncSender<Message>,
    apart: Option<&Arc<ReaderProcesses>>,
) -> Result<(), ReadError> {
    for (source, places) in places {
        let selection = Arc::new(source.selection.clone());
        for place in places {
            let context = Context {
                name: place.name().into(),
                selection: selection.clone(),
                side: None,
                format: None,
                proposed: false,
            };
            let mut intake = Intake::new(FORMATS, &source.options, context, sender, picker, apart.cloned());
            let read = match place.open(&mut intake) {
                Ok(Some(mut input)) => read_one(&mut intake, &mut input),
                Ok(None) => Ok(()),
                // One place that fails takes no other with it.
                Err(error) => failed(&mut intake, error),
            };
            match read {
                // More documents are no failure of the one that was read last.
                Err(ReadError::Stopped) if picker.is_full() => return Ok(()),
                other => other?,
            }
        }
    }
    Ok(())
}

fn read_one(intake: &mut Intake<'_>, input: &mut Input<'_>) -> Result<(), ReadError> {
    let out: &mut dyn Out = intake;
    guarded(|| out.read(input)).unwrap_or_else(|| out.no_document(Why::File(BROKE.into())))
}
