//! Which documents a page shows, asked in one reading of all: so many that its terms have documents in which they stand.

use std::collections::HashMap;
use std::hash::{BuildHasherDefault, Hasher};

use yarrup_core::step::Term;
use yarrup_core::study::{DocumentChoice, GroupBy, Tally, TermTable};
use yarrup_core::{Account, Fields};
use yarrup_io::{Holding, NOTHING_LEFT, Numbered, Pass, Record, RunDocuments, Summary, short_hash};
use yarrup_report::ShownDocument;

use super::taking::take;
use super::{NAMED_DOCUMENTS, Wish};
use crate::counting::{RunPass, TermsOf};
use crate::failure::Failure;
use crate::screen::Screen;
use crate::studied::Studied;

/// For how many terms documents are chosen at most, the commonest: for a page that is made sooner, and for others.
const CHOSEN_FOR_QUICK: usize = 50_000;
const CHOSEN_FOR: usize = 400_000;
/// How many bytes of text there are to a token, as found.
const BYTES_OF_TOKEN: u64 = 6;
/// How many bytes a document takes beside its text.
const BESIDE_TEXT: u64 = 80;

/// The place of no document.
const NOWHERE: u64 = u64::MAX;

/// What one reading of the documents tells.
pub(crate) struct Chosen {
    /// The first documents of each term.
    choice: DocumentChoice,
    /// What it takes to show all of them.
    size_of_all: u64,
    /// The ids of the first documents that nothing is left of.
    emptied: Vec<String>,
    /// What was counted by the values of a field.
    table: Option<TermTable>,
    /// Numbers the documents.
    summary: Summary,
}

impl Chosen {
    /// Reads the documents of a run.
    pub(super) fn of(
        run: &Studied,
        vocabulary: &[Term<'_>],
        wish: &Wish,
        screen: &Screen,
    ) -> Result<Chosen, Failure> {
        let by = wish.by.as_ref();
        // Where the cleaned text tells the terms, the original texts need not be read.
        let opened = if run.compiled.pipeline.clean_tells_terms() {
            let documents = RunDocuments::of(&run.path, &run.record)?;
            let source = documents.open_cleaned()?;
            (documents, source)
        } else {
            run.documents(&[], Holding::default())?
        };
        let most = if wish.quick { CHOSEN_FOR_QUICK } else { CHOSEN_FOR };
        let numbers: Numbers = vocabulary.iter().take(most).map(|term| hash(term.text)).zip(0..).collect();
        let choosing = Choosing { run, numbers: &numbers, by };
        let mut sum = choosing.state();
        let reading = run.try_reading(opened, &choosing, screen)?;
        for state in reading.states {
            sum.choice.absorb(state.choice);
            sum.tally.absorb(state.tally);
            sum.size += state.size;
            sum.emptied.extend(state.emptied);
        }
        sum.emptied.sort_unstable();
        let emptied = sum.emptied.into_iter().take(NAMED_DOCUMENTS).map(|(_, id)| id).collect();
        let table = by.map(|_| sum.tally.finish());
        if let (Some(by), Some(table)) = (by, &table) {
            run.has_groups(by, table, screen)?;
        }
        Ok(Chosen { choice: sum.choice, size_of_all: sum.size, emptied, table, summary: reading.summary })
    }

    /// The ids of the first documents that nothing is left of.
    pub(super) fn emptied(&self) -> &[String] {
        &self.emptied
    }

    /// What was counted by the values of a field, if that was asked for.
    pub(super) fn table(&self) -> Option<&TermTable> {
        self.table.as_ref()
    }

    /// The documents that are shown in this room, in order; none if the run holds no original texts.
    pub(super) fn documents(
        &self,
        run: &Studied,
        account: &Account,
        room: u64,
        screen: &Screen,
    ) -> Result<Option<Vec<ShownDocument>>, Failure> {
        let numbered = || self.choice.choose(room).iter().map(|order| self.summary.number(*order)).collect();
        let (holding, longest) = if self.size_of_all > room {
            (Holding::lines(numbered()), (room / 2) as usize)
        } else {
            (Holding::default(), usize::MAX)
        };
        take(run, account, (holding, longest), screen)
    }
}

/// Numbers by the hashes of terms. Two terms of one hash would share their documents on the page, and nothing else.
type Numbers = HashMap<u64, u32, BuildHasherDefault<AsItIs>>;

/// Hashes are hashed already.
#[derive(Default)]
struct AsItIs(u64);

impl Hasher for AsItIs {
    fn finish(&self) -> u64 {
        self.0
    }

    fn write(&mut self, bytes: &[u8]) {
        self.0 = bytes.iter().fold(self.0, |hash, byte| hash << 8 | u64::from(*byte));
    }

    fn write_u64(&mut self, hash: u64) {
        self.0 = hash;
    }
}

fn hash(term: &str) -> u64 {
    short_hash(term.as_bytes())
}

struct Choosing<'r> {
    run: &'r Studied,
    /// The terms that documents are chosen for, with their numbers.
    numbers: &'r Numbers,
    by: Option<&'r GroupBy>,
}

struct ChoosingState<'r> {
    terms: TermsOf<'r>,
    choice: DocumentChoice,
    tally: Tally,
    size: u64,
    emptied: Vec<(u64, String)>,
    /// The numbers of the terms of the document at hand, each once.
    found: Vec<u32>,
    /// By the number of a term: the document in which it was met last.
    met: Vec<u64>,
}

impl<'r> RunPass for Choosing<'r> {
    type State = ChoosingState<'r>;

    fn state(&self) -> ChoosingState<'r> {
        ChoosingState {
            terms: TermsOf::new(self.run),
            choice: DocumentChoice::of_terms(self.numbers.len()),
            tally: Tally::new(),
            size: 0,
            emptied: Vec::new(),
            found: Vec::new(),
            met: vec![NOWHERE; self.numbers.len()],
        }
    }

    fn document(&self, state: &mut ChoosingState<'r>, document: &Numbered<'_>) -> Result<(), Failure> {
        let (record, order) = (&document.record, document.order);
        let ChoosingState { terms, choice, tally, size, emptied, found, met } = state;
        found.clear();
        let group = self.by.map(|by| by.group(record.field(by.path()).as_deref()).to_string());
        let mut number = |term: &str| {
            let number = *self.numbers.get(&hash(term))?;
            let is_new = std::mem::replace(&mut met[number as usize], order) != order;
            is_new.then_some(number)
        };
        terms.each(record, |terms| {
            if group.is_some() {
                let terms: Vec<&str> = terms.collect();
                tally.document(terms.iter().copied(), group.as_deref());
                found.extend(terms.iter().filter_map(|term| number(term)));
            } else {
                found.extend(terms.filter_map(number));
            }
        })?;
        let shown = size_of(record) + BESIDE_TEXT;
        *size += shown;
        choice.note(order, shown, found);
        if emptied.len() < NAMED_DOCUMENTS && is_emptied(record) {
            emptied.push((order, record.field("id").unwrap_or_default().into_owned()));
        }
        Ok(())
    }
}

/// The ids of the first documents that nothing is left of, of a run that has no original texts to show.
pub(super) fn emptied(run: &Studied, screen: &Screen) -> Result<Vec<String>, Failure> {
    let opened = run.documents(&[], Holding::all([NOTHING_LEFT.to_vec()]))?;
    let mut all: Vec<_> = run.reading(opened, &Emptied, screen)?.states.into_iter().flatten().collect();
    all.sort_unstable();
    Ok(all.into_iter().take(NAMED_DOCUMENTS).map(|(_, id)| id).collect())
}

struct Emptied;

impl Pass for Emptied {
    type State = Vec<(u64, String)>;
    type Left = ();

    fn state(&self) -> Vec<(u64, String)> {
        Vec::new()
    }

    fn document(&self, emptied: &mut Vec<(u64, String)>, document: &Numbered<'_>, (): &mut ()) {
        if emptied.len() < NAMED_DOCUMENTS && is_emptied(&document.record) {
            emptied.push((document.order, document.record.field("id").unwrap_or_default().into_owned()));
        }
    }
}

/// How many bytes the original text of a document has, or about as many, if it was not read.
fn size_of(record: &Record<'_>) -> u64 {
    match record.field("text") {
        Some(text) => text.len() as u64,
        None => {
            let tokens = record.field("tokens_before").and_then(|tokens| tokens.parse().ok());
            BYTES_OF_TOKEN * tokens.unwrap_or(0_u64)
        }
    }
}

/// Whether steps left nothing of a document.
fn is_emptied(record: &Record<'_>) -> bool {
    let count = |field| record.field(field).map(|count| count.into_owned());
    count("tokens_after").as_deref() == Some("0") && count("tokens_before").as_deref() != Some("0")
}
