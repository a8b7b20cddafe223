//! Putting runs together: what was noted of each, batch by batch, is played through what a run writes with.

mod lots;
mod parts;

use std::collections::VecDeque;
use std::sync::{Mutex, PoisonError};

use yarrup_core::{Account, MergeError};
use yarrup_io::{KeptOriginals, RunFolder, RunPart, Summary, replay};

use crate::arguments::{DocumentFormat, Written};
use crate::failure::Failure;
use crate::figures::noted;
use crate::running::{Noted, RunSummary, Whole, Writing, WrittenWhole, add_lengths, are_packed, referred};
use crate::screen::Screen;
use lots::Lots;
pub(crate) use parts::Parts;

impl From<MergeError> for Failure {
    fn from(why: MergeError) -> Failure {
        Failure::Sentence(why.to_string())
    }
}

/// What is made of parts.
pub(crate) struct Wanted<'a> {
    pub(crate) write: &'a [Written],
    /// How documents are written, if that is said.
    pub(crate) documents: Option<DocumentFormat>,
    pub(crate) threads: usize,
}

impl Wanted<'_> {
    /// Whether the documents of the parts are written.
    fn documents_of(&self, parts: &Parts) -> bool {
        parts.has_documents() && self.write.contains(&Written::Documents)
    }
}

/// Writes the run that these parts come to.
pub(crate) fn merge(
    parts: &Parts,
    folder: RunFolder,
    wanted: &Wanted<'_>,
    screen: &Screen,
) -> Result<RunSummary, Failure> {
    let compiled = parts.compiled()?;
    let (account, replayed) = std::thread::scope(|scope| {
        let account = scope.spawn(|| account(parts, wanted.threads));
        let replayed = replayed(parts, &compiled.pipeline, &folder, wanted, screen);
        (account.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic)), replayed)
    });
    let (account, (summary, mut noted_of_all)) = (account?, replayed?);
    for part in &parts.parts {
        add_lengths(&mut noted_of_all.lengths, noted(part.folder(), &part.record)?.1);
    }
    let collection = parts.collection()?;
    let (sources, mut reading) = (parts.sources(), parts.reading());
    if !wanted.documents_of(parts) {
        reading.originals = None;
    }
    let originals = (reading.originals == Some(KeptOriginals::Referred))
        .then(|| {
            let collection = parts.originals()?;
            referred(&folder, &collection, &sources, (&summary, &noted_of_all.left_out))
        })
        .transpose()?;
    let whole = Whole {
        compiled: &compiled,
        inputs: &parts.inputs()?,
        word_lists: parts.first().record.word_lists.clone(),
        collection: &collection,
        sources: &sources,
        reading: &reading,
        summary: &summary,
        account: &account,
        noted: &noted_of_all,
        originals: originals.as_ref(),
        against: None,
    };
    let wanted = WrittenWhole {
        tables: true,
        figures: wanted.write.contains(&Written::Figures),
        report: wanted.write.contains(&Written::Report),
    };
    whole.write(folder, wanted, screen)
}

/// The account of all parts. Several are read and added up at a time.
fn account(parts: &Parts, threads: usize) -> Result<Account, Failure> {
    let left: Mutex<VecDeque<&RunPart>> = Mutex::new(parts.parts.iter().collect());
    let next = || left.lock().unwrap_or_else(PoisonError::into_inner).pop_front();
    let sum = || {
        let mut accounts = std::iter::from_fn(&next).map(|part| part.account().map_err(Failure::from));
        // A thread that came too late for any has nothing to add.
        let Some(first) = accounts.next() else { return Ok(None) };
        Account::add_up(std::iter::once(first).chain(accounts), parts.relation()).map(Some)
    };
    let sums: Vec<Result<Option<Account>, Failure>> = std::thread::scope(|scope| {
        let threads: Vec<_> = (0..threads.min(parts.parts.len())).map(|_| scope.spawn(sum)).collect();
        let joined = threads.into_iter();
        joined.map(|thread| thread.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic))).collect()
    });
    Account::add_up(sums.into_iter().filter_map(Result::transpose), parts.relation())
}

/// Plays the courses of all parts in the order of the collection.
fn replayed(
    parts: &Parts,
    pipeline: &yarrup_core::Pipeline,
    folder: &RunFolder,
    wanted: &Wanted<'_>,
    screen: &Screen,
) -> Result<(Summary, Noted), Failure> {
    let packs =
        wanted.documents_of(parts).then(|| are_packed(wanted.documents, parts.reading().likely_bytes));
    let bytes = parts.parts.iter().filter_map(|part| part.record.files.get(part.record.documents_file()?));
    let progress = screen.progress(bytes.map(|file| file.bytes).sum());
    let mut writing = Writing::new(folder, pipeline, packs, (progress, screen))?;
    let tokens = parts.tokens()?;
    if let Some(format) = tokens {
        writing.with_tokens(format)?;
    }
    let summary = replay(Lots::of(parts, packs, tokens)?, &mut writing)?;
    Ok((summary, writing.finish()?))
}
