//! `yarrup run`: a recipe and a collection in, a run folder out.

use std::path::{Path, PathBuf};

use yarrup_core::study::Tally;
use yarrup_core::{Account, Outputs};
use yarrup_io::{
    DocumentOutput, KeptOriginals, Policy, ReadingRecord, RunFolder, Source, Summary, TableMode,
    input_copies, read,
};

use super::export_tables::IntoTables;
use super::matrix::{self, refuse_there};
use crate::arguments::{ExportArguments, ExportWhat, RunArguments, Written};
use crate::failure::{Exit, Failure, option};
use crate::learning::{LearnedBefore, learned, refuse_part, write_lessons_of};
use crate::reading::{
    ended, no_document, notes, reading_record, refuse_unknown_fields, tell_passed_over, threads,
};
use crate::recipe_file::{Compiled, compile, stem};
use crate::running::{
    Applying, Earlier, Noted, RunSummary, Weighing, Whole, Writing, WrittenWhole, add_lengths, are_packed,
    origin, referred, sources_record, word_lists,
};
use crate::screen::Screen;
use crate::timing::TimeSample;

pub(crate) fn run(arguments: &RunArguments, screen: &Screen) -> Result<Exit, Failure> {
    if let Some(file) = &arguments.lessons {
        let compiled = compile(&arguments.recipe)?;
        compiled.as_locked(arguments.locked, screen)?;
        let before = LearnedBefore::of(compiled, arguments.learned.as_deref())?;
        let collection = arguments.reading.collection(&arguments.sources)?;
        let policy = Policy {
            threads: threads(arguments.threads),
            strict: arguments.strict,
            compare_ids: false,
            part: arguments.part,
        };
        write_lessons_of(&before, &collection, policy, (file, arguments.replace), screen)?;
        return Ok(Exit::Done);
    }
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
        // Of an earlier run, the columns are the same.
        matrix::write_plain(Path::new(&told.folder), folder, arguments.frozen.as_deref(), screen)?;
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
    let earlier = arguments.frozen.as_deref().map(Earlier::open).transpose()?;
    let compiled = match &earlier {
        Some(earlier) => compile(&earlier.recipe())?,
        None => compile(&arguments.recipe)?,
    };
    if earlier.is_none() {
        compiled.as_locked(arguments.locked, screen)?;
    }
    compiled.tell_put_in(screen);
    let out = arguments.out.clone().unwrap_or_else(|| {
        let named = arguments.frozen.as_deref().unwrap_or(&arguments.recipe);
        PathBuf::from(format!("{}-run", stem(named)))
    });
    screen.tell_waiting_for(&arguments.named_sources());
    let mut collection = arguments.reading.collection(&arguments.named_sources())?;
    // Before anything is read: a place that is taken is told at once.
    let folder = RunFolder::create(&out, arguments.replace)?;
    let policy = Policy {
        threads: threads(arguments.threads),
        strict: arguments.strict,
        compare_ids: true,
        part: arguments.part,
    };
    let before = match &arguments.learned {
        Some(file) => LearnedBefore::of(compiled, Some(file))?,
        None => LearnedBefore::nothing(compiled),
    };
    if policy.part.is_some() {
        refuse_part(&before.compiled)?;
    }
    let learning = Policy { compare_ids: false, ..policy };
    let (compiled, learned) = learned(before.compiled, &mut collection, learning, screen)?;
    let mut source = Source::open(&collection)?;
    let read = read_all(arguments, policy, &compiled, &mut source, &folder, screen);
    // That no document was taken may be for a field that is not there.
    refuse_unknown_fields(&collection, Some(&compiled.pipeline), screen)?;
    let (mut account, summary, noted) = read?;
    learned.unchanged(&source)?;
    before.copied.are(&source)?;
    tell_passed_over(source.passed_over(), screen);
    account.origin = origin(&compiled, &source);
    if let Some(earlier) = &earlier {
        account.origin.name.clone_from(&earlier.account.origin.name);
    }
    let against = earlier.map(|earlier| earlier.against(&account, &noted.lengths));
    account.learned = before.told.into_iter().chain(learned.told).collect();
    let sources = sources_record(&source);
    let reading = ReadingRecord { part: policy.part, originals: noted.originals, ..reading_record(&source) };
    let originals = (noted.originals == Some(KeptOriginals::Referred))
        .then(|| referred(&folder, &collection, &sources, (&summary, &noted.left_out)))
        .transpose()?;
    let whole = Whole {
        compiled: &compiled,
        inputs: &input_copies(&compiled.lists),
        word_lists: word_lists(&compiled.lists),
        collection: &collection,
        sources: &sources,
        reading: &reading,
        summary: &summary,
        account: &account,
        noted: &noted,
        originals: originals.as_ref(),
        against: against.as_ref(),
    };
    let is_whole = policy.part.is_none();
    let wanted = WrittenWhole {
        tables: is_whole,
        figures: is_whole && arguments.writes(Written::Figures),
        report: is_whole && arguments.writes(Written::Report),
    };
    whole.write(folder, wanted, screen)
}

/// Of how many documents one is timed: the run must hardly be slower for it.
const ONE_TIMED: u64 = 150;
/// The least that is timed, in bytes.
const LEAST_TIMED: u64 = 60_000;

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
    let packs = are_packed(arguments.documents, source.likely_bytes());
    let pipeline = &compiled.pipeline;
    let originals = pipeline.originals();
    let timed = arguments.timings.then(|| TimeSample::of(source.likely_bytes(), LEAST_TIMED, ONE_TIMED));
    let progress = (screen.progress(source.bytes()), screen);
    let mut writing = Writing::new(folder, pipeline, writes_documents.then_some(packs), progress)?;
    let tokens = arguments.tokens.map(|format| writing.with_tokens(format)).transpose()?;
    let applying =
        Applying { pipeline, tokens, packs, originals, outputs, writes_documents, written, weighing, timed };
    let reading = read(source, policy, &applying, &mut writing).map_err(ended)?;
    let mut noted = writing.finish()?;
    noted.originals = writes_documents.then_some(match (refers, arguments.without_originals) {
        (true, _) => KeptOriginals::Referred,
        (false, true) => KeptOriginals::LeftOut,
        (false, false) => KeptOriginals::Copied,
    });
    // None at all may be what was asked for.
    let failure = no_document(&reading.summary, source)
        .filter(|_| !arguments.reading.asks_for_none() && policy.part.is_none());
    if let Some(failure) = failure {
        // What a file is like may be why it holds none.
        notes(source).iter().for_each(|note| screen.warn_once(note));
        return Err(failure);
    }
    let (mut workers, mut tally) = (Vec::new(), Tally::new());
    for working in reading.states {
        add_lengths(&mut noted.lengths, working.noting.lengths);
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
