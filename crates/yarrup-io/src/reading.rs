//! One pass over a collection: the one loop in which documents are read, for every command that reads them.

use std::collections::HashSet;
use std::ops::ControlFlow;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

use yarrup_core::in_order;

use crate::documents::done::{BatchIds, PLACE_BITS};
use crate::documents::{Batch, BatchDone, Format, Part};
use crate::record::{Item, Malformed, Record, Why};
use crate::source::Source;

/// What is done with every document of a collection.
///
/// Workers share the documents: which sees which depends on timing. What they keep must add up to the same, whoever saw what; what is to be in
/// the order of the source is left behind, batch by batch.
pub trait Pass: Sync {
    /// What one worker keeps.
    type State: Send;
    /// What a batch leaves behind.
    type Left: Default + Send;

    /// What a worker begins with.
    fn state(&self) -> Self::State;

    /// How many bytes of documents one lot should hold at least. What a lot leaves behind is given to the sink in one piece; without a wish it is a batch.
    fn lot(&self) -> usize {
        0
    }

    /// Begins a batch.
    fn batch(&self, _state: &mut Self::State, _batch: &BatchFacts, _left: &mut Self::Left) {}

    /// Looks at a document.
    fn document(&self, state: &mut Self::State, document: &Numbered<'_>, left: &mut Self::Left);

    /// Looks at a record that gave no document.
    fn malformed(&self, _state: &mut Self::State, _malformed: &Malformed, _left: &mut Self::Left) {}

    /// Ends a lot, of which all documents were looked at.
    fn lot_done(&self, _state: &mut Self::State, _left: &mut Self::Left) {}
}

/// What is known of a batch before its documents.
#[derive(Clone, Debug)]
pub struct BatchFacts {
    /// How many bytes of the source it holds.
    pub bytes: u64,
    /// The name of the file that it comes from.
    pub name: Arc<str>,
    /// How the file is written.
    pub format: Option<Format>,
    /// Whether its documents are records of a table, of which one field is the text.
    pub is_table: bool,
}

/// A document in its place.
#[derive(Debug)]
pub struct Numbered<'r> {
    /// The document.
    pub record: Record<'r>,
    /// Where it stands among all: a larger number comes later. [`Summary::number`] makes a count of it.
    pub order: u64,
    /// The name of the file that it comes from.
    pub file: &'r Arc<str>,
}

/// How a collection is read.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Policy {
    /// How many threads work.
    pub threads: usize,
    /// Whether the first malformed record or file ends the reading. Else it is skipped, counted and told.
    pub strict: bool,
    /// Whether ids are compared.
    pub compare_ids: bool,
    /// Which part of the collection is worked on, if not all of it.
    pub part: Option<Part>,
}

impl Policy {
    /// The whole collection is read, and what is malformed ends the reading.
    pub fn strict(threads: usize) -> Policy {
        Policy { threads, strict: true, compare_ids: false, part: None }
    }

    /// The whole collection is read, and what is malformed is skipped and told.
    pub fn lenient(threads: usize) -> Policy {
        Policy { strict: false, ..Policy::strict(threads) }
    }
}

/// Takes what a pass leaves behind, in the order of the source.
pub trait Sink<L> {
    /// What its work fails with.
    type Error: Send;

    /// Takes what a batch left behind. Nothing more is read after a break.
    ///
    /// # Errors
    ///
    /// An error ends the reading.
    fn left(&mut self, left: L) -> Result<ControlFlow<()>, Self::Error>;

    /// Takes a record or file that gave no document.
    ///
    /// # Errors
    ///
    /// An error ends the reading.
    fn skipped(&mut self, _malformed: &Malformed) -> Result<(), Self::Error> {
        Ok(())
    }

    /// A batch is done; `so_far` is what is known of all up to it.
    ///
    /// # Errors
    ///
    /// An error ends the reading.
    fn batch_done(&mut self, _batch: BatchDone, _so_far: &Summary) -> Result<(), Self::Error> {
        Ok(())
    }
}

/// How many malformed records are kept to be named one by one.
const KEPT: usize = 10;

/// What a reading was like, whatever was done with the documents.
#[derive(Debug, Default)]
pub struct Summary {
    /// Documents.
    pub documents: u64,
    /// Documents for which a condition does not hold.
    pub left_out: u64,
    /// Whether any document has the field that was chosen for the title.
    pub titled: bool,
    /// Bytes that were not valid and were replaced.
    pub broken_bytes: u64,
    /// Documents with such bytes.
    pub broken_documents: u64,
    /// Malformed records.
    pub skipped_records: u64,
    /// Files that were not read whole.
    pub skipped_files: u64,
    /// The first of these records and files. Of the records of a file or sheet that lack the same field, it has the first alone.
    pub first_skipped: Vec<Malformed>,
    ids: Ids,
    /// How many documents came before each batch.
    before: Vec<u64>,
}

impl Summary {
    /// How many documents have an id that an earlier one has. 0 where ids were not compared.
    pub fn repeated_ids(&self) -> u64 {
        self.ids.repeated
    }

    /// The first such id.
    pub fn first_repeated_id(&self) -> Option<&str> {
        self.ids.first.as_deref()
    }

    /// How many records and files gave no document.
    pub fn skipped(&self) -> u64 {
        self.skipped_records + self.skipped_files
    }

    /// The number of a document, counted from one.
    pub fn number(&self, order: u64) -> u64 {
        let batch = (order >> PLACE_BITS) as usize;
        self.before.get(batch).copied().unwrap_or_default() + (order & ((1 << PLACE_BITS) - 1)) + 1
    }

    fn add(&mut self, batch: &BatchDone) {
        // Batches of other parts have no documents here.
        self.before.resize(batch.number as usize + 1, self.documents);
        self.documents += batch.documents;
        self.left_out += batch.left_out;
        self.titled |= batch.titled;
        self.broken_bytes += batch.broken_bytes;
        self.broken_documents += batch.broken_documents;
        self.ids.compare(&batch.ids);
    }

    fn skip(&mut self, malformed: &Malformed) {
        match malformed.why {
            Why::File(_) => self.skipped_files += 1,
            _ => self.skipped_records += 1,
        }
        let is_known = self.first_skipped.last().is_some_and(|last| lack_the_same(last, malformed));
        if self.first_skipped.len() < KEPT && !is_known {
            self.first_skipped.push(malformed.clone());
        }
    }
}

/// The file or sheet of a place in it.
fn file_of(place: &str) -> &str {
    place.rsplit_once(':').map_or(place, |(file, _)| file)
}

/// Whether two records of one file or sheet lack the same field.
fn lack_the_same(one: &Malformed, other: &Malformed) -> bool {
    match (&one.why, &other.why) {
        (Why::NoField { path: first, .. }, Why::NoField { path: second, .. }) => {
            first == second && file_of(&one.place) == file_of(&other.place)
        }
        _ => false,
    }
}

/// Why a reading ended before the end of the collection.
#[derive(Debug)]
pub enum Stopped<E> {
    /// A record or file gave no document, and the policy is strict.
    Malformed(Malformed),
    /// What takes the results failed.
    Sink(E),
}

/// What came of a reading.
#[derive(Debug)]
pub struct Reading<S> {
    /// What the workers kept; one at least.
    pub states: Vec<S>,
    /// What the reading was like.
    pub summary: Summary,
}

/// Which ids there were, by a hash of eight bytes each: among a hundred million, two that differ are taken for equal once in three
/// thousand collections.
#[derive(Debug, Default)]
struct Ids {
    seen: HashSet<u64>,
    repeated: u64,
    first: Option<String>,
}

impl Ids {
    fn compare(&mut self, batch: &BatchIds) {
        let mut from = 0;
        for &end in &batch.ends {
            let id = &batch.texts[from..end];
            from = end;
            if !self.seen.insert(crate::short_hash(id.as_bytes())) {
                self.repeated += 1;
                self.first.get_or_insert_with(|| id.to_owned());
            }
        }
    }
}

/// Takes every document of `source` through `pass`, and gives what batches leave behind to `sink`.
///
/// # Errors
///
/// What the sink fails with; and where the policy is strict, the first malformed record or file in the order of the source, after all that
/// came before it was given to the sink.
pub fn read<P, K>(
    source: &mut Source,
    policy: Policy,
    pass: &P,
    sink: &mut K,
) -> Result<Reading<P::State>, Stopped<K::Error>>
where
    P: Pass,
    K: Sink<P::Left> + Send,
{
    let enough = AtomicBool::new(false);
    let mut summary = Summary::default();
    let (mut next, mut lots) = (0, 0..);
    let states = in_order(
        policy.threads,
        || {
            loop {
                let (first, mut lot, mut bytes) = (next, Vec::new(), 0);
                while !enough.load(Ordering::Relaxed) {
                    let Some(batch) = source.next_batch() else { break };
                    bytes += batch.bytes();
                    lot.push(batch);
                    next += 1;
                    if bytes >= pass.lot() as u64 {
                        break;
                    }
                }
                let is_ours = policy.part.is_none_or(|part| lots.next().is_some_and(|lot| part.takes(lot)));
                if is_ours || lot.is_empty() {
                    return Ok((!lot.is_empty()).then_some((first, lot)));
                }
            }
        },
        || pass.state(),
        |state, (first, lot)| Ok(one_lot(pass, state, first, lot, policy)),
        |(lot, left)| {
            if !enough.load(Ordering::Relaxed) && take_lot(lot, left, &mut summary, sink)?.is_break() {
                enough.store(true, Ordering::Relaxed);
            }
            Ok(())
        },
    )?;
    Ok(Reading { states, summary })
}

/// Gives a sink what a lot left behind.
fn take_lot<L, K: Sink<L>>(
    lot: Vec<BatchDone>,
    left: L,
    summary: &mut Summary,
    sink: &mut K,
) -> Result<ControlFlow<()>, Stopped<K::Error>> {
    lot.iter().for_each(|done| summary.add(done));
    let goes_on = sink.left(left).map_err(Stopped::Sink)?;
    for mut done in lot {
        for malformed in &done.skipped {
            sink.skipped(malformed).map_err(Stopped::Sink)?;
            summary.skip(malformed);
        }
        let fatal = done.fatal.take();
        sink.batch_done(done, summary).map_err(Stopped::Sink)?;
        fatal.map_or(Ok(()), |malformed| Err(Stopped::Malformed(malformed)))?;
    }
    Ok(goes_on)
}

/// Gives a sink what lots left behind when they were read, in their order, as [`read`] did then.
///
/// # Errors
///
/// What the lots or the sink fail with.
pub fn replay<L, K: Sink<L>>(
    lots: impl Iterator<Item = Result<(Vec<BatchDone>, L), K::Error>>,
    sink: &mut K,
) -> Result<Summary, K::Error> {
    let mut summary = Summary::default();
    for lot in lots {
        let (lot, left) = lot?;
        match take_lot(lot, left, &mut summary, sink) {
            Ok(ControlFlow::Continue(())) => {}
            // What a batch was ended by is not kept.
            Ok(ControlFlow::Break(())) | Err(Stopped::Malformed(_)) => break,
            Err(Stopped::Sink(why)) => return Err(why),
        }
    }
    Ok(summary)
}

fn one_lot<P: Pass>(
    pass: &P,
    state: &mut P::State,
    first: u64,
    lot: Vec<Batch>,
    policy: Policy,
) -> (Vec<BatchDone>, P::Left) {
    let (mut all, mut left) = (Vec::with_capacity(lot.len()), P::Left::default());
    for (number, batch) in (first..).zip(lot) {
        let done = one_batch(pass, state, (number, batch), policy, &mut left);
        let is_fatal = done.fatal.is_some();
        all.push(done);
        if is_fatal {
            break;
        }
    }
    pass.lot_done(state, &mut left);
    (all, left)
}

fn one_batch<P: Pass>(
    pass: &P,
    state: &mut P::State,
    (number, batch): (u64, Batch),
    policy: Policy,
    left: &mut P::Left,
) -> BatchDone {
    let facts = BatchFacts {
        bytes: batch.bytes(),
        name: batch.name().clone(),
        format: batch.format(),
        is_table: batch.is_table(),
    };
    let mut done = BatchDone { number, bytes: facts.bytes, ..BatchDone::default() };
    pass.batch(state, &facts, left);
    // An end that the policy asks for is no failure of the walk.
    let _ = batch.records(|item| {
        match item {
            Item::Document(record) => {
                let order = (number << PLACE_BITS) + done.documents;
                done.note(&record, policy.compare_ids);
                pass.document(state, &Numbered { record, order, file: &facts.name }, left);
            }
            Item::LeftOut => done.left_out += 1,
            Item::Malformed(malformed) if policy.strict => {
                done.fatal = Some(malformed);
                return Err(());
            }
            Item::Malformed(malformed) => {
                pass.malformed(state, &malformed, left);
                done.skipped.push(malformed);
            }
        }
        Ok(())
    });
    done
}
