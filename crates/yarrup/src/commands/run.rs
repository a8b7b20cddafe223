//! `yarrup run`: a recipe and a collection in, a run folder out.

use std::collections::{BTreeMap, HashMap, HashSet};
use std::io::{self, Write};
use std::ops::ControlFlow;
use std::path::{Path, PathBuf};

use yarrup_core::step::{Document, Term};
use yarrup_core::study::{Firsts, GroupBy, Growth, Tally, TermTable, Weight};
use yarrup_core::{Account, Effect, Fields, LeftOut, Outputs, Pipeline, StepTimer, StepTimes, Worker};
use yarrup_io::{
    ACCOUNT_FILE, BatchFacts, Cells, Collection, DOCUMENTS_FILE, DocumentOutput, DroppedTable, Lines,
    Malformed, Numbered, ORIGINALS_FILE, OriginalRecord, OriginalsRecord, PACKED_DOCUMENTS_FILE, Pass,
    Policy, RowColumn, RowEncoder, RowFile, RowFormat, RowTable, RunFile, RunFolder, RunRecord, Sink,
    SkippedTable, Source, Summary, TableMode, Why, form_entry, input_copies, read, term_entries,
    write_account, write_collection, write_effects, write_forms, write_growth, write_learned, write_lengths,
    write_matches, write_terms,
};
use yarrup_report::{Fonts, counted, coverage, grouped, step_rows, visible, visible_name};

use super::export_tables::IntoTables;
use super::figure::missing;
use super::find::option;
use super::matrix::{self, refuse_there};
use super::run_figures::{Choices, FigureData, GROWTH_FILE, LENGTHS_FILE};
use super::run_page::{WantedFigures, draw_figures, left_out};
use super::run_record::Recorded;
use super::run_show::{RunSummary, SHOWN_TERMS};
use super::terms_counted::NEEDS_FIELD;
use crate::arguments::{DocumentFormat, ExportArguments, ExportWhat, RunArguments, TokenFormat, Written};
use crate::exploring::{SIZE_IN_RUN, Wish};
use crate::failure::{Exit, Failure};
use crate::learning::learned;
use crate::reading::{ended, no_document, notes, overgrown, refuse_unknown_fields, tell_skipped, threads};
use crate::recipe_file::{Compiled, compile, stem};
use crate::row_target::{Gathered, RowTarget};
use crate::screen::{Progress, Screen};
use crate::studied::Studied;
use crate::timing::{TimeSample, seconds, timer};
use crate::token_table::{TokenRows, TokenTable};

pub(crate) fn run(arguments: &RunArguments, screen: &Screen) -> Result<Exit, Failure> {
    // Before any work is done.
    if arguments.write.contains(&Written::None) && arguments.write.len() > 1 {
        return Err(option("write", "`none` stands alone"));
    }
    let needs_documents = arguments.matrix.is_some() || arguments.into.is_some();
    if needs_documents && !arguments.writes(Written::Documents) {
        return Err(option(
            "write",
            "a matrix and tables of a database are made from the documents; write them too",
        ));
    }
    if let Some(folder) = &arguments.matrix {
        refuse_there(folder)?;
    }
    let tables = arguments.into.as_deref().map(|place| tables(place, arguments));
    if let Some(tables) = &tables {
        tables.check()?;
    }
    let told = run_into(arguments, screen)?;
    told.print(screen)?;
    if let Some(folder) = &arguments.matrix {
        matrix::write_plain(Path::new(&told.folder), folder, screen)?;
    }
    if let Some(tables) = &tables {
        let run = Path::new(&told.folder);
        tables.write(run, &ExportArguments::of(run), screen).map_err(|why| {
            Failure::Sentence(format!(
                "{why}. The run itself is whole: `yarrup export {} --into …` writes its tables again",
                run.display()
            ))
        })?;
    }
    Ok(Exit::Done)
}

/// The tables of a database that are asked for.
fn tables<'a>(place: &'a str, arguments: &'a RunArguments) -> IntoTables<'a> {
    let mut tables = Vec::new();
    match (&arguments.document_table, &arguments.token_table) {
        (Some(name), _) => tables.push((ExportWhat::Documents, name.clone())),
        (None, None) => tables.push((ExportWhat::Documents, "documents".to_owned())),
        (None, Some(_)) => {}
    }
    tables.extend(arguments.token_table.iter().map(|name| (ExportWhat::Tokens, name.clone())));
    IntoTables {
        place,
        certificates: arguments.reading.certificates.as_deref().map(Path::new),
        tables,
        mode: match (arguments.append, arguments.replace_tables) {
            (true, _) => TableMode::Append,
            (_, true) => TableMode::Replace,
            _ => TableMode::Create,
        },
    }
}

/// Runs the recipe over the collection, into its folder.
pub(crate) fn run_into(arguments: &RunArguments, screen: &Screen) -> Result<RunSummary, Failure> {
    let compiled = compile(&arguments.recipe)?;
    compiled.tell_put_in(screen);
    let out =
        arguments.out.clone().unwrap_or_else(|| PathBuf::from(format!("{}-run", stem(&arguments.recipe))));
    let mut collection = arguments.reading.collection(&arguments.sources)?;
    // Before anything is read: a place that is taken is told at once.
    let folder = RunFolder::create(&out, arguments.replace)?;
    let policy = Policy { threads: threads(arguments.threads), strict: arguments.strict, compare_ids: true };
    let learning = Policy { compare_ids: false, ..policy };
    let (compiled, learned) = learned(compiled, &mut collection, learning, screen)?;
    let mut source = Source::open(&collection)?;
    let read = read_all(arguments, policy, &compiled, &mut source, &folder, screen);
    // That no document was taken may be for a field that is not there.
    refuse_unknown_fields(&collection, Some(&compiled.pipeline), screen)?;
    let (mut account, summary, noted) = read?;
    learned.unchanged(&source)?;
    if !source.passed_over().is_empty() {
        let count = source.passed_over().len() as u64;
        screen.tell(&format!(
            "note: passed over {}: {}",
            counted(count, "file"),
            named(source.passed_over())
        ));
    }
    account.origin.name = compiled.name();
    account.origin.about = compiled.recipe.about.clone().unwrap_or_default();
    account.origin.recipe = yarrup_io::hash(compiled.frozen.as_bytes());
    account.origin.sources =
        source.read_files().iter().map(|file| (file.name.clone(), file.hash.clone())).collect();
    account.origin.sources.sort();
    account.learned = learned.told;
    let (effects, vocabulary) = std::thread::scope(|scope| {
        let effects = scope.spawn(|| account.effects());
        let vocabulary = account.vocabulary();
        (effects.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic)), vocabulary)
    });
    let recorded = Recorded {
        collection: &collection,
        compiled: &compiled,
        source: &source,
        summary: &summary,
        account: &account,
        effects: &effects,
        vocabulary: &vocabulary,
        overgrown: &noted.overgrown,
        emptied: &noted.emptied,
    };
    if noted.refers {
        let originals = originals(&folder, (&collection, &source, &summary), &noted.left_out);
        let originals = originals.ok_or_else(|| {
            let why = "the way from the run to its sources cannot be written as text; use --with-originals";
            Failure::Sentence(format!("{}: {why}", out.display()))
        })?;
        folder.write(ORIGINALS_FILE, &originals.json())?;
    }
    let record = write_run(&folder, &recorded, &noted, arguments, screen)?;
    let told = RunSummary {
        name: compiled.name(),
        steps: step_rows(&effects),
        top: vocabulary.iter().take(SHOWN_TERMS).map(|term| (visible_name(term.text), term.count)).collect(),
        coverage: coverage(&vocabulary),
        matches: account.matches(),
        left_out: left_out(&account),
        folder: folder.named().display().to_string(),
        record: record.clone(),
        sizes: folder.sizes(),
        times: noted.times.as_ref().map(|times| {
            let part = times.bytes() as f64 / noted.bytes.max(1) as f64;
            (seconds(times, &compiled.pipeline, &account, noted.bytes), part)
        }),
    };
    folder.finish(record)?;
    Ok(told)
}

/// The first few of many names.
fn named(names: &[String]) -> String {
    let mut shown: Vec<_> = names.iter().take(3).map(|name| visible(name)).collect();
    if names.len() > shown.len() {
        shown.push(format!("and {} more", grouped((names.len() - shown.len()) as u64)));
    }
    shown.join(", ")
}

/// The pass that applies the recipe.
struct Applying<'p> {
    pipeline: &'p Pipeline,
    /// The table of tokens, if it is asked for, and what encodes it.
    tokens: Option<(TokenTable, RowEncoder, Vec<RowColumn>)>,
    /// Whether the lines of documents are packed.
    packs: bool,
    /// The places of documents that others repeat.
    originals: HashSet<u64>,
    outputs: Outputs,
    writes_documents: bool,
    written: DocumentOutput,
    weighing: Option<Weighing>,
    /// Which documents the steps are timed on, if they are.
    timed: Option<TimeSample>,
}

/// The weights that `vocabulary.csv` is to have.
struct Weighing {
    weights: Vec<Weight>,
    /// The field whose values some of them are of.
    with: Option<GroupBy>,
}

impl Weighing {
    /// What the arguments ask for.
    fn of(arguments: &RunArguments) -> Result<Option<Weighing>, Failure> {
        let with = arguments.with.as_deref().map(GroupBy::read).transpose();
        let with = with.map_err(|why| option("with", &why))?;
        if with.is_none() && arguments.weight.iter().any(|weight| weight.needs_groups()) {
            return Err(option("weight", NEEDS_FIELD));
        }
        let weights = arguments.weight.clone();
        Ok((!weights.is_empty()).then_some(Weighing { weights, with }))
    }
}

/// Of how many documents one is timed: the run must hardly be slower for it.
const ONE_TIMED: u64 = 150;
/// The least that is timed, in bytes.
const LEAST_TIMED: u64 = 60_000;

/// How many documents are named that are left without a token.
const NAMED_EMPTIED: usize = 3;

/// What a worker of the run keeps.
struct Working<'p> {
    worker: Worker<'p>,
    tokens: Option<TokenRows<'p>>,
    /// Documents by their tokens, as found and in the end.
    lengths: Lengths,
    /// What weighs terms, if that is asked for.
    tally: Tally,
    /// By the number of a term: the last batch that had it.
    last_batch: Vec<u64>,
    /// The number of the batch, from 1.
    batch: u64,
    timer: Option<StepTimer<'p>>,
    /// Bytes of all texts.
    bytes: u64,
}

/// How many documents have so many tokens, as found and in the end.
type Lengths = BTreeMap<u64, (u64, u64)>;

impl<'p> Pass for Applying<'p> {
    type State = Working<'p>;
    type Left = Applied;

    fn state(&self) -> Working<'p> {
        Working {
            worker: Worker::new(self.pipeline, self.outputs),
            tokens: self.tokens.as_ref().map(|(table, ..)| TokenRows::new(self.pipeline, table.clone())),
            lengths: Lengths::new(),
            tally: Tally::new(),
            last_batch: Vec::new(),
            batch: 0,
            timer: self.timed.map(|_| timer(self.pipeline)),
            bytes: 0,
        }
    }

    fn lot(&self) -> usize {
        let tokens = self.tokens.as_ref().map_or(0, |(_, encoder, _)| encoder.format().lot());
        if self.packs { tokens.max(PACKED_LOT) } else { tokens }
    }

    fn lot_done(&self, _working: &mut Working<'p>, left: &mut Applied) {
        if let Some((_, encoder, _)) = &self.tokens {
            left.tokens.encode(encoder);
        }
        if self.packs {
            match std::mem::take(&mut left.lines).packed() {
                Ok(packed) => left.lines = packed,
                Err(why) => left.fault = Some(why),
            }
        }
    }

    fn batch(&self, working: &mut Working<'p>, batch: &BatchFacts, left: &mut Applied) {
        working.batch += 1;
        if self.writes_documents {
            left.lines.reserve(batch.bytes as usize * 3 / 2);
        }
    }

    fn document(&self, working: &mut Working<'p>, document: &Numbered<'_>, left: &mut Applied) {
        let Numbered { record, order, .. } = document;
        working.bytes += record.text.len() as u64;
        if let Some(timer) =
            working.timer.as_mut().filter(|_| self.timed.is_some_and(|timed| timed.takes(*order)))
        {
            timer.document(&Document { text: &record.text, fields: record, order: *order });
        }
        let cleaned = working.worker.take(&Document { text: &record.text, fields: record, order: *order });
        working.lengths.entry(cleaned.tokens_before).or_default().0 += 1;
        if cleaned.left_out.is_none() {
            working.lengths.entry(cleaned.tokens_after).or_default().1 += 1;
            for (number, term) in cleaned.terms() {
                let number = number as usize;
                if number >= working.last_batch.len() {
                    working.last_batch.resize(number + 1, 0);
                }
                let is_first = working.last_batch[number] != working.batch;
                working.last_batch[number] = working.batch;
                left.firsts.note(is_first.then(|| yarrup_io::short_hash(term.as_bytes())));
            }
            if self.weighing.is_some() {
                let by = self.weighing.as_ref().and_then(|weighing| weighing.with.as_ref());
                let group = by.map(|by| by.group(record.field(by.path()).as_deref()).to_string());
                working.tally.document(cleaned.terms().map(|(_, term)| term), group.as_deref());
            }
            if let (Some(tokens), Some((_, encoder, columns))) = (&mut working.tokens, &self.tokens) {
                let rows = left.tokens.rows(columns);
                tokens.add((&record.id, record), &record.text, &cleaned, rows);
                left.tokens.encode_many(encoder);
            }
            if cleaned.tokens_after == 0 && cleaned.tokens_before > 0 && left.emptied.len() < NAMED_EMPTIED {
                left.emptied.push(record.id.to_string());
            }
        }
        if let Some(step) = cleaned.overgrown {
            left.overgrown.push((record.id.to_string(), step));
        }
        if self.originals.contains(order) {
            left.originals.push((*order, record.id.to_string()));
        }
        match cleaned.left_out {
            Some(LeftOut { step, reason }) => left.dropped.push(DroppedDocument {
                order: *order,
                id: record.id.to_string(),
                step,
                reason,
                original: self.pipeline.original(step, *order),
            }),
            None if self.writes_documents => self.written.write(record, &cleaned, &mut left.lines),
            None => {}
        }
    }
}

/// What a batch leaves behind.
#[derive(Default)]
struct Applied {
    /// The lines of documents.
    lines: Lines,
    tokens: Gathered,
    /// What kept lines from being packed.
    fault: Option<io::Error>,
    dropped: Vec<DroppedDocument>,
    /// Documents that others repeat: place and id.
    originals: Vec<(u64, String)>,
    /// Documents that steps have made too long: the id, and the number of the step.
    overgrown: Vec<(String, usize)>,
    /// The first documents that are left without a token.
    emptied: Vec<String>,
    firsts: Firsts,
}

/// A document that a step left out.
struct DroppedDocument {
    order: u64,
    id: String,
    step: usize,
    reason: u16,
    /// The place of the document that it repeats.
    original: Option<u64>,
}

/// Writes what the pass leaves behind into the run folder.
struct Writing<'r> {
    folder: &'r RunFolder,
    pipeline: &'r Pipeline,
    documents: Option<(RunFile<'r>, &'static str)>,
    tokens: Option<RowTarget<'r>>,
    /// The places of documents that a step left out.
    left_out: Vec<u64>,
    skipped: Option<SkippedTable<RunFile<'r>>>,
    dropped: Option<DroppedTable<RunFile<'r>>>,
    /// The ids of documents that others repeat, by their places.
    originals: HashMap<u64, String>,
    progress: Progress,
    screen: &'r Screen,
    /// How many of the first skips were named.
    named: usize,
    /// How many documents steps have made too long, and the first of them.
    overgrown: (u64, String),
    /// The first documents that are left without a token.
    emptied: Vec<String>,
    growth: Growth,
}

impl Sink<Applied> for Writing<'_> {
    type Error = Failure;

    fn left(&mut self, left: Applied) -> Result<ControlFlow<()>, Failure> {
        if let Some((documents, name)) = &mut self.documents {
            let written = left.fault.map_or(Ok(()), Err).and_then(|()| left.lines.write_to(documents));
            written.map_err(|why| cannot_write(self.folder, name, &why))?;
        }
        if let Some(tokens) = &mut self.tokens {
            left.tokens.write(tokens)?;
        }
        self.originals.extend(left.originals);
        self.growth.add(&left.firsts);
        self.emptied.extend(left.emptied);
        self.emptied.truncate(NAMED_EMPTIED);
        self.drop_documents(left.dropped)?;
        for (id, step) in left.overgrown {
            self.skipped(&Malformed { place: id.clone(), why: Why::Record(overgrown(step)) })?;
            self.overgrown.0 += 1;
            if self.overgrown.0 == 1 {
                self.overgrown.1 = id;
            }
        }
        Ok(ControlFlow::Continue(()))
    }

    fn skipped(&mut self, malformed: &Malformed) -> Result<(), Failure> {
        let failed = |why| cannot_write(self.folder, "skipped.csv", &why);
        if self.skipped.is_none() {
            self.skipped = Some(SkippedTable::new(self.folder.file("skipped.csv")?).map_err(failed)?);
        }
        self.skipped.as_mut().map_or(Ok(()), |table| table.write(malformed)).map_err(failed)
    }

    fn batch_done(&mut self, bytes: u64, so_far: &Summary) {
        // Without any document the first skip alone is told, as the reason of the failure.
        if so_far.documents > 0 {
            so_far.first_skipped.iter().skip(self.named).for_each(|skip| tell_skipped(skip, self.screen));
            self.named = so_far.first_skipped.len();
        }
        self.progress.advance(bytes);
    }
}

impl Writing<'_> {
    /// Notes documents that were left out, each with its reason.
    fn drop_documents(&mut self, dropped: Vec<DroppedDocument>) -> Result<(), Failure> {
        let failed = |why| cannot_write(self.folder, DROPPED_DOCUMENTS, &why);
        for document in dropped {
            self.left_out.push(document.order);
            let table = match &mut self.dropped {
                Some(table) => table,
                None => {
                    let table = DroppedTable::new(self.folder.file(DROPPED_DOCUMENTS)?).map_err(failed)?;
                    self.dropped.insert(table)
                }
            };
            let reason = self.pipeline.reason(document.step, document.reason);
            // Originals come before their copies.
            let original = document.original.and_then(|order| self.originals.get(&order));
            let original = original.map_or("", String::as_str);
            table.write(&document.id, document.step, &reason, original).map_err(failed)?;
        }
        Ok(())
    }

    /// Ends the files.
    fn finish(self) -> Result<Noted, Failure> {
        self.progress.end();
        if let Some((mut documents, name)) = self.documents {
            documents.flush().map_err(|why| cannot_write(self.folder, name, &why))?;
        }
        self.tokens.map_or(Ok(()), RowTarget::finish)?;
        self.dropped
            .map_or(Ok(()), DroppedTable::finish)
            .map_err(|why| cannot_write(self.folder, DROPPED_DOCUMENTS, &why))?;
        self.skipped
            .map_or(Ok(()), SkippedTable::finish)
            .map_err(|why| cannot_write(self.folder, "skipped.csv", &why))?;
        let growth = self.growth.points();
        let (overgrown, emptied, left_out) = (self.overgrown, self.emptied, self.left_out);
        Ok(Noted { overgrown, emptied, left_out, growth, ..Noted::default() })
    }
}

/// What was noted beside the account.
#[derive(Default)]
struct Noted {
    /// How many documents steps have made too long, and the first of them.
    overgrown: (u64, String),
    /// The first documents that are left without a token.
    emptied: Vec<String>,
    /// Tokens, and distinct terms among the first so many.
    growth: Vec<(u64, u64)>,
    lengths: Lengths,
    /// The places of documents that a step left out.
    left_out: Vec<u64>,
    /// Whether the documents refer to their originals.
    refers: bool,
    /// What weighs terms, if that was asked for.
    weights: Option<(Vec<Weight>, TermTable)>,
    /// What the steps took for a sample of the documents, if that was asked for; and bytes of all texts.
    times: Option<StepTimes>,
    bytes: u64,
}

/// Reads the whole collection.
fn read_all(
    arguments: &RunArguments,
    policy: Policy,
    compiled: &Compiled,
    source: &mut Source,
    folder: &RunFolder,
    screen: &Screen,
) -> Result<(Account, Summary, Noted), Failure> {
    let weighing = Weighing::of(arguments)?;
    let writes_documents = arguments.writes(Written::Documents);
    let clean = writes_documents || weighing.is_some();
    let outputs = Outputs { clean, tokens: false, ends: arguments.tokens.is_some() };
    let copies = arguments.with_originals || !source.stays();
    let refers = writes_documents && !copies && !arguments.without_originals;
    let written = DocumentOutput { without_originals: refers || arguments.without_originals };
    let packs = match arguments.documents {
        Some(format) => format == DocumentFormat::JsonlZst,
        None => source.likely_bytes() >= PACKED_FROM,
    };
    let documents = if packs { PACKED_DOCUMENTS_FILE } else { DOCUMENTS_FILE };
    let pipeline = &compiled.pipeline;
    let originals = pipeline.originals();
    let timed = arguments.timings.then(|| TimeSample::of(source.likely_bytes(), LEAST_TIMED, ONE_TIMED));
    let (tokens, token_file) = match arguments.tokens {
        Some(format) => {
            let (table, encoder, file) = token_file(folder, format)?;
            (Some((TokenTable::default(), encoder, table.columns)), Some(file))
        }
        None => (None, None),
    };
    let applying =
        Applying { pipeline, tokens, packs, originals, outputs, writes_documents, written, weighing, timed };
    let mut writing = Writing {
        folder,
        documents: if writes_documents { Some((folder.file(documents)?, documents)) } else { None },
        tokens: token_file,
        left_out: Vec::new(),
        pipeline,
        skipped: None,
        dropped: None,
        originals: HashMap::new(),
        progress: screen.progress(source.bytes()),
        screen,
        named: 0,
        overgrown: (0, String::new()),
        emptied: Vec::new(),
        growth: Growth::default(),
    };
    let reading = read(source, policy, &applying, &mut writing).map_err(ended)?;
    let mut noted = writing.finish()?;
    noted.refers = refers;
    // None at all may be what was asked for.
    let failure = no_document(&reading.summary, source).filter(|_| !arguments.reading.asks_for_none());
    if let Some(failure) = failure {
        // What a file is like may be why it holds none.
        notes(source).iter().for_each(|note| screen.warn_once(note));
        return Err(failure);
    }
    let (mut workers, mut tally) = (Vec::new(), Tally::new());
    for working in reading.states {
        for (tokens, (before, after)) in working.lengths {
            let sum = noted.lengths.entry(tokens).or_default();
            sum.0 += before;
            sum.1 += after;
        }
        tally.absorb(working.tally);
        workers.push(working.worker);
        noted.bytes += working.bytes;
        if let Some(timer) = working.timer {
            noted.times.get_or_insert_default().absorb(&timer.into_times());
        }
    }
    let table = tally.finish();
    if let Some(by) = applying.weighing.as_ref().and_then(|weighing| weighing.with.as_ref()) {
        // A field that nobody has would weigh everything alike.
        let without = by.group(None).to_string();
        if table.documents() > 0 && table.groups().iter().all(|group| group.name == without) {
            return Err(option("with", &format!("no document has a field `{}`", by.path())));
        }
    }
    noted.weights = applying.weighing.map(|weighing| (weighing.weights, table));
    Ok((Account::of_workers(workers, &compiled.pipeline), reading.summary, noted))
}

/// How many bytes of documents are packed at a time: what repeats within them is said once.
const PACKED_LOT: usize = 1 << 20;
/// Collections of so many bytes have their documents packed, unless something else is asked for.
const PACKED_FROM: u64 = 16 << 20;

/// Begins the file of tokens.
fn token_file<'r>(
    folder: &'r RunFolder,
    format: TokenFormat,
) -> Result<(RowTable, RowEncoder, RowTarget<'r>), Failure> {
    let (name, format) = match format {
        TokenFormat::Csv => ("tokens.csv", RowFormat::Csv(Cells::Safe)),
        TokenFormat::Jsonl => ("tokens.jsonl", RowFormat::JsonLines),
        TokenFormat::Parquet => ("tokens.parquet", RowFormat::Parquet),
    };
    let table = TokenTable::default().table();
    let failed = |why: io::Error| cannot_write(folder, name, &why);
    let encoder = RowEncoder::new(format, &table).map_err(failed)?;
    let file = RowFile::stream(Box::new(folder.file(name)?), &encoder, &table).map_err(failed)?;
    let target = RowTarget::File(Box::new(file), Some(folder.named().join(name)));
    Ok((table, encoder, target))
}

/// Where the original texts are that the documents refer to.
fn originals(
    folder: &RunFolder,
    (collection, source, summary): (&Collection, &Source, &Summary),
    left_out: &[u64],
) -> Option<OriginalsRecord> {
    let collection = collection.with_paths(|path| folder.path_to(path))?;
    // What lies in another file, under whatever name, is read with it.
    let sources = source.read_files().iter().filter(|file| !file.inside).map(|file| OriginalRecord {
        name: file.name.clone(),
        bytes: file.bytes,
        hash: file.hash.clone(),
    });
    let sources = sources.collect();
    let left_out = left_out.iter().map(|order| summary.number(*order)).collect();
    Some(OriginalsRecord { collection: write_collection(&collection), sources, left_out })
}

/// The table of documents that a step left out.
const DROPPED_DOCUMENTS: &str = "dropped-documents.csv";

fn cannot_write(folder: &RunFolder, file: &str, why: &dyn std::fmt::Display) -> Failure {
    Failure::File { path: folder.named().join(file).display().to_string(), why: why.to_string() }
}

/// Writes everything but the record, which it returns.
fn write_run(
    folder: &RunFolder,
    recorded: &Recorded<'_>,
    noted: &Noted,
    arguments: &RunArguments,
    screen: &Screen,
) -> Result<RunRecord, Failure> {
    let Recorded { compiled, account, effects, vocabulary, .. } = *recorded;
    let data = FigureData { account, effects, vocabulary, growth: &noted.growth, lengths: &noted.lengths };
    let fonts = Fonts::default();
    // The figures take as long as the tables, and so does the account: all at once.
    let cloud = std::thread::scope(|scope| {
        let figures = scope.spawn(|| {
            let wanted = WantedFigures {
                files: arguments.writes(Written::Figures),
                page: arguments.writes(Written::Report),
            };
            draw_figures(&data, &Choices::default(), (&fonts, wanted), |name, content| {
                folder.write(name, content)
            })
        });
        let packed = scope.spawn(|| {
            write_account(account, folder.file(ACCOUNT_FILE)?)
                .map_err(|why| cannot_write(folder, ACCOUNT_FILE, &why))
        });
        let forms = scope.spawn(|| {
            write_forms(account.forms().map(|row| form_entry(account, &row)), folder.file("forms.csv")?)
                .map_err(|why| cannot_write(folder, "forms.csv", &why))
        });
        write_tables(folder, account, effects, vocabulary, noted)?;
        folder.write("recipe.toml", compiled.text.as_bytes())?;
        for (name, content) in input_copies(&compiled.lists) {
            folder.write(&name, &content)?;
        }
        // The recipe as given is the frozen one where nothing had to be learned.
        if compiled.frozen != compiled.text {
            folder.write("frozen.toml", compiled.frozen.as_bytes())?;
        }
        for thread in [packed, forms] {
            thread.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic))?;
        }
        figures.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic))
    })?;
    let record = recorded.record(missing(&fonts));
    if arguments.writes(Written::Report) {
        // The page shows documents of the run: they are read as they were written.
        let run = Studied::open(folder.so_far(record.clone())?)?;
        let page = data
            .material(&run, &compiled.text, cloud.as_ref())
            .html(&Wish { by: None, size: SIZE_IN_RUN, quick: true }, screen)?;
        folder.write("report.html", page.as_bytes())?;
    }
    Ok(record)
}

fn write_tables(
    folder: &RunFolder,
    account: &Account,
    effects: &[Effect],
    vocabulary: &[Term<'_>],
    noted: &Noted,
) -> Result<(), Failure> {
    let file = |name: &str| folder.file(name);
    let names: Vec<&str> =
        noted.weights.iter().flat_map(|(weights, _)| weights).map(|weight| weight.name()).collect();
    let weighed = term_entries(account, vocabulary).map(|entry| {
        let weights = noted.weights.iter().flat_map(|(weights, table)| {
            weights.iter().map(|weight| table.weight(*weight, entry.term)).collect::<Vec<_>>()
        });
        let weights = weights.collect();
        (entry, weights)
    });
    write_terms(weighed, &names, file("vocabulary.csv")?)
        .map_err(|why| cannot_write(folder, "vocabulary.csv", &why))?;
    if !noted.growth.is_empty() {
        write_growth(&noted.growth, file(GROWTH_FILE)?)
            .map_err(|why| cannot_write(folder, GROWTH_FILE, &why))?;
    }
    write_lengths(&noted.lengths, file(LENGTHS_FILE)?)
        .map_err(|why| cannot_write(folder, LENGTHS_FILE, &why))?;
    write_effects(effects, file("effects.csv")?).map_err(|why| cannot_write(folder, "effects.csv", &why))?;
    write_matches(&account.matches(), file("matches.csv")?)
        .map_err(|why| cannot_write(folder, "matches.csv", &why))?;
    if !account.learned.is_empty() {
        write_learned(&account.learned, file("learned.csv")?)
            .map_err(|why| cannot_write(folder, "learned.csv", &why))?;
    }
    Ok(())
}
