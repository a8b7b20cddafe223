//! Parts of a source on their way from the reader to the workers.

use std::ops::Range;
use std::sync::Arc;

use serde::{Deserialize, Serialize};

use crate::documents::guard::{BROKE, guarded};
use crate::documents::{Format, ReadError};
use crate::record::members::{Members, write_text};
use crate::record::{Carried, Item, Malformed, Record, Selection, Why};

/// Records as they were read, to be taken apart by whoever works on them.
pub(crate) trait Chunk: Send {
    /// How many bytes of the source it holds, for a progress bar.
    fn bytes(&self) -> u64;

    /// Whether its documents have their text already, so that no field need be found for it.
    fn has_text(&self) -> bool {
        true
    }

    /// Gives every record, in order, until the visitor has enough.
    fn records(&self, visit: &mut Visit<'_>) -> More;

    /// Its documents, taken out of their source. Only what is read apart is asked for them.
    ///
    /// # Errors
    ///
    /// Why there are none.
    fn taken_out(self: Box<Self>) -> Result<TakenOut, String> {
        Err("its documents are not taken out one by one".to_owned())
    }

    /// The piece of the file that it is, if its records are still in the file.
    fn piece(&self) -> Option<&Piece> {
        None
    }
}

/// A piece of a file that can be read by itself: some rows of a row group.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub(crate) struct Piece {
    /// The number of the row group, from 0.
    pub(crate) group: usize,
    /// How many rows of the file come before the group.
    pub(crate) before: u64,
    /// The rows within the group.
    pub(crate) rows: Range<u64>,
    /// How many bytes they have, unpacked, as far as that is known.
    pub(crate) bytes: u64,
}

impl Piece {
    /// Where it lies in the file of this name.
    pub(crate) fn place(&self, name: &str) -> String {
        format!("{name}, rows {} to {}", self.before + self.rows.start + 1, self.before + self.rows.end)
    }
}

/// Documents that were taken out of a file, and what is wrong with others.
#[derive(Debug, Default)]
pub(crate) struct TakenOut {
    pub(crate) documents: Vec<RawDocument>,
    /// The places of faults, and what each is.
    pub(crate) faults: Vec<(String, Why)>,
}

/// Whether a visitor has enough.
pub(crate) type More = std::ops::ControlFlow<()>;

/// Where a chunk comes from, and what its records are taken for.
#[derive(Clone)]
pub(crate) struct Context {
    pub(crate) name: Arc<str>,
    pub(crate) selection: Arc<Selection>,
    /// The fields of the side file, as a JSON object.
    pub(crate) side: Option<Arc<str>>,
    /// How it is written, once that is told.
    pub(crate) format: Option<Format>,
    /// Whether fields were proposed for this source already.
    pub(crate) proposed: bool,
}

/// Who is given the records of a chunk.
pub(crate) struct Visit<'v> {
    pub(crate) name: &'v str,
    selection: &'v Selection,
    side: Option<&'v Members<'v>>,
    visit: &'v mut dyn FnMut(Item<'_>) -> More,
}

impl Context {
    pub(crate) fn visit(&self, chunk: &dyn Chunk, visit: &mut dyn FnMut(Item<'_>) -> More) -> More {
        let side = self.side.as_deref().and_then(|side| Members::read(side).ok());
        chunk.records(&mut Visit { name: &self.name, selection: &self.selection, side: side.as_ref(), visit })
    }
}

impl Visit<'_> {
    /// Gives a record of these fields. `place` is its id where no field is, and the place of what is wrong with it.
    pub(crate) fn record(
        &mut self,
        carried: Carried<'_>,
        broken_bytes: u64,
        place: impl Fn() -> String,
    ) -> More {
        let mut carried = carried;
        if let (Carried::Members(members), false) = (&mut carried, self.selection.hidden.is_empty()) {
            members.hide(&self.selection.hidden);
        }
        // A record of which only the fields are wanted is never too long.
        let item = match Record::of(carried, self.side, self.selection, &place) {
            Ok(None) => Item::LeftOut,
            Ok(Some(record)) if record.text.len() > yarrup_core::LONGEST_DOCUMENT => {
                return self.malformed(place(), Why::Record("the text is longer than one GiB".into()));
            }
            Ok(Some(mut record)) => {
                record.broken_bytes = broken_bytes + record.broken_halves;
                Item::Document(record)
            }
            Err(why) => return self.malformed(place(), why),
        };
        (self.visit)(item)
    }

    pub(crate) fn malformed(&mut self, place: String, why: Why) -> More {
        (self.visit)(Item::Malformed(Malformed { place, why, line: None }))
    }

    /// Gives what `records` gives; what is malformed is told with the line that it came as.
    pub(crate) fn of_line(&mut self, line: &str, records: impl FnOnce(&mut Visit<'_>) -> More) -> More {
        let visit = &mut *self.visit;
        records(&mut Visit {
            name: self.name,
            selection: self.selection,
            side: self.side,
            visit: &mut |item| match item {
                Item::Malformed(malformed) => {
                    visit(Item::Malformed(Malformed { line: Some(line.to_owned()), ..malformed }))
                }
                other => visit(other),
            },
        })
    }

    /// Gives a document that was taken out of its source already.
    fn raw(&mut self, raw: &RawDocument) -> More {
        let place = || raw.id.clone();
        match Members::read(&raw.fields) {
            Ok(members) => {
                let carried = match &raw.text {
                    Some(text) => Carried::Body(text, members),
                    None => Carried::Members(members),
                };
                self.record(carried, raw.broken_bytes, place)
            }
            Err(why) => self.malformed(place(), Why::Record(why)),
        }
    }
}

/// A document that was taken out of its source.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub(crate) struct RawDocument {
    /// The id where no field is the id: the source's name and the place in it.
    pub(crate) id: String,
    /// Its fields, as a JSON object.
    pub(crate) fields: String,
    /// Its text, as the field `text`, if that is not among the fields.
    pub(crate) text: Option<String>,
    pub(crate) broken_bytes: u64,
}

impl From<Vec<RawDocument>> for TakenOut {
    fn from(documents: Vec<RawDocument>) -> TakenOut {
        TakenOut { documents, faults: Vec::new() }
    }
}

/// Documents that were taken out of their source.
pub(crate) struct Documents(pub(crate) Vec<RawDocument>);

impl Chunk for Documents {
    fn bytes(&self) -> u64 {
        self.0.iter().map(|raw| (raw.fields.len() + raw.text.as_ref().map_or(0, String::len)) as u64).sum()
    }

    fn has_text(&self) -> bool {
        self.0.first().is_none_or(|raw| raw.text.is_some())
    }

    fn records(&self, visit: &mut Visit<'_>) -> More {
        self.0.iter().try_for_each(|raw| visit.raw(raw))
    }

    fn taken_out(self: Box<Self>) -> Result<TakenOut, String> {
        Ok(TakenOut { documents: self.0, faults: Vec::new() })
    }
}

/// A whole file, whose documents are taken out by whoever works on it.
pub(crate) struct WholeFile<F> {
    pub(crate) bytes: u64,
    /// Gives the documents, or says why there are none.
    pub(crate) take_out: F,
}

impl<T: Into<TakenOut>, F: Fn() -> Result<T, String> + Send> Chunk for WholeFile<F> {
    fn bytes(&self) -> u64 {
        self.bytes
    }

    fn records(&self, visit: &mut Visit<'_>) -> More {
        match guarded(&self.take_out).unwrap_or_else(|| Err(BROKE.into())) {
            Ok(taken) => {
                let taken = taken.into();
                taken.documents.iter().try_for_each(|raw| visit.raw(raw))?;
                taken.faults.into_iter().try_for_each(|(place, why)| visit.malformed(place, why))
            }
            Err(why) => {
                let name = visit.name.to_owned();
                visit.malformed(name, Why::File(why))
            }
        }
    }

    fn taken_out(self: Box<Self>) -> Result<TakenOut, String> {
        guarded(&self.take_out).unwrap_or_else(|| Err(BROKE.into())).map(Into::into)
    }
}

/// Takes documents, and says if nobody wants more.
pub(crate) type Give<'g> = dyn FnMut(Vec<RawDocument>) -> Result<(), ReadError> + 'g;

/// A piece of a file, which whoever works on its documents reads as they go.
pub(crate) struct PieceOfFile<F> {
    pub(crate) piece: Piece,
    /// Gives the documents.
    pub(crate) read: F,
}

impl<F: Fn(&mut Give<'_>) -> Result<(), ReadError> + Send> Chunk for PieceOfFile<F> {
    fn bytes(&self) -> u64 {
        self.piece.bytes
    }

    fn has_text(&self) -> bool {
        false
    }

    fn records(&self, visit: &mut Visit<'_>) -> More {
        let mut more = More::Continue(());
        let read = guarded(|| {
            (self.read)(&mut |documents| {
                more = Documents(documents).records(visit);
                if more.is_break() { Err(ReadError::Stopped) } else { Ok(()) }
            })
        });
        match read.unwrap_or_else(|| Err(ReadError::sentence(BROKE))) {
            Ok(()) | Err(ReadError::Stopped) => more,
            Err(error) => {
                let place = self.piece.place(visit.name);
                visit.malformed(place, Why::File(error.told()))
            }
        }
    }

    fn piece(&self) -> Option<&Piece> {
        Some(&self.piece)
    }
}

/// Something that is no document.
pub(crate) struct NoDocument(pub(crate) Malformed);

impl Chunk for NoDocument {
    fn bytes(&self) -> u64 {
        0
    }

    fn records(&self, visit: &mut Visit<'_>) -> More {
        visit.malformed(self.0.place.clone(), self.0.why.clone())
    }
}

/// Documents that a condition left out before they came here.
pub(crate) struct LeftOut(pub(crate) u64);

impl Chunk for LeftOut {
    fn bytes(&self) -> u64 {
        0
    }

    fn records(&self, visit: &mut Visit<'_>) -> More {
        (0..self.0).try_for_each(|_| (visit.visit)(Item::LeftOut))
    }
}

/// Bytes that went by without a record, for the progress bar.
pub(crate) struct Passed(pub(crate) u64);

impl Chunk for Passed {
    fn bytes(&self) -> u64 {
        self.0
    }

    fn records(&self, _visit: &mut Visit<'_>) -> More {
        More::Continue(())
    }
}

/// The fields of a document, as they are found.
#[derive(Debug, Default)]
pub(crate) struct FieldsWriter(Vec<u8>);

impl FieldsWriter {
    fn name(&mut self, name: &str) {
        self.0.push(if self.0.is_empty() { b'{' } else { b',' });
        write_text(name, &mut self.0);
        self.0.push(b':');
    }

    /// Adds a field that is a text.
    pub(crate) fn text(&mut self, name: &str, text: &str) {
        self.name(name);
        write_text(text, &mut self.0);
    }

    /// Adds a field that is a text, if it says anything.
    pub(crate) fn text_if_any(&mut self, name: &str, text: &str) {
        let text = text.trim();
        if !text.is_empty() {
            self.text(name, text);
        }
    }

    /// Adds a field that is a number.
    pub(crate) fn number(&mut self, name: &str, number: usize) {
        self.json(name, &number.to_string());
    }

    /// Adds a field that is written as JSON already.
    pub(crate) fn json(&mut self, name: &str, json: &str) {
        self.name(name);
        self.0.extend_from_slice(json.as_bytes());
    }

    /// All of them, as a JSON object.
    pub(crate) fn finish(mut self) -> String {
        if self.0.is_empty() {
            self.0.push(b'{');
        }
        self.0.push(b'}');
        // Put together from texts alone.
        String::from_utf8(self.0).unwrap_or_default()
    }
}
