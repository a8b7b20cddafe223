//! `yarrup pipe`: JSON Lines in, the same objects with `clean` out; or lines of text.

use std::io::Write;
use std::ops::ControlFlow;
use std::path::Path;

use tempfile::TempDir;
use yarrup_core::step::Document;
use yarrup_core::{Account, LeftOut, Outputs, Pipeline, Worker};
use yarrup_io::{
    BatchDone, BatchFacts, BatchNotes, Collection, FORMATS, Malformed, NewFile, Numbered, Pass, PipeOutput,
    PipedObjects, Policy, Reading, RunFolder, Sink, Source, SourceRecord, Stopped, Summary, Unit,
    input_copies, pack_part, read, refuse_taken,
};
use yarrup_report::{counted, visible};

use crate::arguments::{OnError, PipeArguments};
#[cfg(not(feature = "arrow"))]
use crate::failure::option;
use crate::failure::{Exit, Failure};
use crate::learning::{LearnedBefore, refuse_unlearned, write_lessons_of};
use crate::output::{Output, Shape};
use crate::reading::{overgrown, reading_record};
use crate::recipe_file::{Compiled, compile};
use crate::running::{
    CourseKeeping, Noted, Noting, Whole, WrittenWhole, add_lengths, origin, sources_record, word_lists,
};
use crate::screen::Screen;
use crate::source_arguments::SourceArguments;

pub(crate) fn pipe(arguments: &PipeArguments, screen: &Screen) -> Result<Exit, Failure> {
    let compiled = compile(&arguments.recipe)?;
    compiled.as_locked(arguments.locked, screen)?;
    if let Some(file) = &arguments.lessons {
        let before = LearnedBefore::of(compiled, arguments.learned.as_deref())?;
        let policy = Policy {
            strict: arguments.on_error() == OnError::Fail,
            ..Policy::lenient(usize::from(arguments.threads))
        };
        write_lessons_of(&before, &collection(arguments)?, policy, (file, arguments.replace), screen)?;
        return Ok(Exit::Done);
    }
    refuse_unlearned(&compiled)?;
    if screen.verbose {
        compiled.tell_put_in(screen);
    }
    if arguments.arrow {
        #[cfg(feature = "arrow")]
        return super::pipe_arrow::pipe_arrow(arguments, &compiled, screen);
        #[cfg(not(feature = "arrow"))]
        return Err(option(
            "arrow",
            "this program was built without Arrow; build it with `--features arrow`",
        ));
    }
    if let Some(file) = &arguments.account {
        refuse_taken(file, arguments.replace)?;
    }
    screen.tell_waiting("JSON Lines");
    let collection = collection(arguments)?;
    let mut source = Source::open(&collection)?;
    let errors = arguments.on_error();
    let outputs = Outputs { clean: true, tokens: arguments.tokens, ends: false };
    let output = if arguments.lines {
        PipeOutput::Lines
    } else {
        let labels = compiled.pipeline.labels().to_vec();
        PipeOutput::Objects(PipedObjects { tokens: arguments.tokens, labels, counts: arguments.counts })
    };
    let policy = Policy {
        strict: errors == OnError::Fail,
        compare_ids: arguments.account.is_some(),
        ..Policy::lenient(usize::from(arguments.threads))
    };
    let piping = Piping {
        pipeline: &compiled.pipeline,
        outputs,
        output,
        errors,
        drops_emptied: arguments.drop_emptied,
        notes: arguments.account.is_some(),
    };
    let account = arguments.account.as_deref().map(AccountFile::begin).transpose()?;
    let folder = account.as_ref().map(|account| &account.folder);
    let (reading, dropped, noted) = passed_on(&mut source, policy, &piping, folder, screen)?;
    tell(arguments, &collection, &reading.summary, (errors, dropped), screen)?;
    if let (Some(account), Some(noted)) = (account, noted) {
        account.write((&compiled, &collection, &source), reading, noted, screen, arguments.replace)?;
    }
    Ok(Exit::Done)
}

/// Passes all documents on. Gives how many nothing was passed on of, and what was noted if there is a folder for it.
fn passed_on<'p>(
    source: &mut Source,
    policy: Policy,
    piping: &Piping<'p>,
    folder: Option<&RunFolder>,
    screen: &Screen,
) -> Result<(Reading<PipeWorking<'p>>, u64, Option<Noted>), Failure> {
    let mut passing = PassingOn {
        // Not buffered here: a batch is written whole, and whoever waits at the other end gets it at once.
        out: screen.out_as(Shape::Data),
        screen,
        errors: piping.errors,
        course: folder.map(CourseKeeping::new).transpose()?,
        dropped: 0,
    };
    let reading = read(source, policy, piping, &mut passing).map_err(|stopped| match stopped {
        Stopped::Malformed(bad) => Failure::Sentence(format!("{}: {}", bad.place, bad.why)),
        Stopped::Sink(failure) => failure,
    })?;
    Ok((reading, passing.dropped, passing.course.map(CourseKeeping::finish).transpose()?))
}

/// Standard input, as the arguments say it is to be read.
fn collection(arguments: &PipeArguments) -> Result<Collection, Failure> {
    let said = SourceArguments {
        text: arguments.text.clone(),
        id: arguments.id.clone(),
        conditions: arguments.conditions.clone(),
        derive: arguments.derive.clone(),
        language_field: arguments.language_field.clone(),
        detect_language: arguments.detect_language,
        ..SourceArguments::default()
    };
    let mut collection = said.collection(&["-".to_owned()])?;
    for source in &mut collection.sources {
        if arguments.lines {
            (source.options.format, source.options.unit) = (FORMATS.named("text"), Some(Unit::Line));
            source.options.blank_lines = true;
        } else {
            source.options.format = FORMATS.named("jsonl");
        }
        // What is counted must not depend on how the input comes.
        source.options.at_once = arguments.account.is_none();
        if let Some(name) = &arguments.called {
            *source = source.clone().called(name);
        }
    }
    Ok(collection)
}

/// Says at the end what was not passed on as it should be.
fn tell(
    arguments: &PipeArguments,
    collection: &Collection,
    summary: &Summary,
    (errors, dropped): (OnError, u64),
    screen: &Screen,
) -> Result<(), Failure> {
    let malformed = summary.skipped();
    let lines = counted(malformed, "malformed line");
    // Where nobody said what is to become of such lines, something else is wrong: the field, most often.
    let is_unlikely = arguments.errors.is_none() || errors == OnError::Skip;
    if is_unlikely && malformed > 0 && summary.documents + summary.left_out == 0 {
        let lines = counted(malformed, "line");
        return Err(Failure::Sentence(format!("standard input: none of {lines} is a document")));
    }
    match errors {
        _ if malformed == 0 => {}
        OnError::Fail | OnError::Skip => screen.warn(&format!("{lines} skipped")),
        OnError::Pass => screen.warn(&format!("{lines} passed on as they came")),
        OnError::Record => screen.warn(&format!("{lines} passed on as objects with `error`")),
    }
    if arguments.drop_emptied && dropped > 0 {
        screen.tell(&format!(
            "note: {} without a token or left out by the recipe: nothing was passed on of them",
            counted(dropped, "document")
        ));
    }
    if summary.left_out > 0 {
        screen.tell(&format!("note: {} left out by --where", counted(summary.left_out, "document")));
    }
    if summary.documents + summary.left_out > 0 {
        let selections = collection.sources.iter().map(|source| &source.selection);
        let conditions = selections.flat_map(|selection| {
            let derived = selection.derived.iter().map(|(_, condition)| condition);
            derived.chain(&selection.conditions)
        });
        for field in conditions.flat_map(|condition| condition.unseen_fields()) {
            screen.warn(&format!("no object has the field `{}` that a condition asks for", visible(field)));
        }
    }
    Ok(())
}

/// The pass that cleans document by document.
struct Piping<'p> {
    pipeline: &'p Pipeline,
    outputs: Outputs,
    output: PipeOutput,
    errors: OnError,
    drops_emptied: bool,
    /// Whether is noted what an account is written from.
    notes: bool,
}

/// What a worker keeps.
struct PipeWorking<'p> {
    worker: Worker<'p>,
    noting: Noting,
}

/// What a batch leaves behind.
#[derive(Default)]
struct Piped {
    /// Lines that go on.
    lines: Vec<u8>,
    /// What is to be told of some documents.
    told: Vec<String>,
    /// How many documents nothing was passed on of.
    dropped: u64,
    /// What is noted of each batch.
    batches: Vec<BatchNotes>,
}

impl<'p> Pass for Piping<'p> {
    type State = PipeWorking<'p>;
    type Left = Piped;

    fn state(&self) -> PipeWorking<'p> {
        PipeWorking { worker: Worker::new(self.pipeline, self.outputs), noting: Noting::default() }
    }

    fn batch(&self, working: &mut PipeWorking<'p>, batch: &BatchFacts, left: &mut Piped) {
        left.lines.reserve(batch.bytes as usize * 3 / 2);
        if self.notes {
            working.noting.batch();
            left.batches.push(BatchNotes::default());
        }
    }

    fn document(&self, working: &mut PipeWorking<'p>, document: &Numbered<'_>, left: &mut Piped) {
        let Numbered { record, order, .. } = document;
        let cleaned = working.worker.take(&Document { text: &record.text, fields: record, order: *order });
        if let Some(step) = cleaned.overgrown {
            left.told.push(format!("document {}: {}", record.id, overgrown(step)));
        }
        if let Some(notes) = left.batches.last_mut() {
            working.noting.document((record, *order), &cleaned, self.pipeline, notes);
        }
        if self.drops_emptied && (cleaned.left_out.is_some() || cleaned.tokens_after == 0) {
            left.dropped += 1;
            return;
        }
        let reason = cleaned
            .left_out
            .map(|LeftOut { step, reason }| format!("step {step}: {}", self.pipeline.reason(step, reason)));
        self.output.write(record, &cleaned, reason.as_deref(), &mut left.lines);
    }

    fn malformed(&self, _working: &mut PipeWorking<'p>, malformed: &Malformed, left: &mut Piped) {
        match (self.errors, &malformed.line) {
            (OnError::Pass, Some(line)) => {
                left.lines.extend_from_slice(line.as_bytes());
                left.lines.push(b'\n');
            }
            (OnError::Pass | OnError::Record, _) => self.output.write_malformed(malformed, &mut left.lines),
            (OnError::Fail | OnError::Skip, _) => {}
        }
    }
}

/// Writes the lines to standard output.
struct PassingOn<'s> {
    out: Output,
    screen: &'s Screen,
    errors: OnError,
    course: Option<CourseKeeping<'s>>,
    dropped: u64,
}

impl Sink<Piped> for PassingOn<'_> {
    type Error = Failure;

    fn left(&mut self, left: Piped) -> Result<ControlFlow<()>, Failure> {
        left.told.iter().for_each(|told| self.screen.warn(told));
        self.dropped += left.dropped;
        self.out.write_all(&left.lines)?;
        self.out.flush()?;
        if let Some(course) = &mut self.course {
            left.batches.into_iter().for_each(|notes| course.note(notes));
        }
        Ok(ControlFlow::Continue(()))
    }

    fn skipped(&mut self, malformed: &Malformed) -> Result<(), Failure> {
        let (place, why) = (visible(&malformed.place), visible(&malformed.why.to_string()));
        let skipped = if self.errors == OnError::Skip { "; skipped" } else { "" };
        self.screen.warn(&format!("{place}: {why}{skipped}"));
        Ok(())
    }

    fn batch_done(&mut self, batch: BatchDone, _so_far: &Summary) -> Result<(), Failure> {
        self.course.as_mut().map_or(Ok(()), |course| course.batch_done(batch))
    }
}

/// The file of what was counted: a part that `yarrup merge` takes.
struct AccountFile<'f> {
    path: &'f Path,
    folder: RunFolder,
    /// Where the folder stands until it is packed.
    apart: TempDir,
}

impl<'f> AccountFile<'f> {
    fn begin(path: &'f Path) -> Result<AccountFile<'f>, Failure> {
        let failed =
            |why: std::io::Error| Failure::File { path: path.display().to_string(), why: why.to_string() };
        let apart = tempfile::Builder::new().prefix("yarrup-part-").tempdir().map_err(failed)?;
        let folder = RunFolder::create(&apart.path().join("part"), false)?;
        Ok(AccountFile { path, folder, apart })
    }

    fn write(
        self,
        (compiled, collection, source): (&Compiled, &Collection, &Source),
        reading: Reading<PipeWorking<'_>>,
        mut noted: Noted,
        screen: &Screen,
        replace: bool,
    ) -> Result<(), Failure> {
        let mut workers = Vec::new();
        for working in reading.states {
            add_lengths(&mut noted.lengths, working.noting.lengths);
            workers.push(working.worker);
        }
        let mut account = Account::of_workers(workers, &compiled.pipeline);
        account.origin = origin(compiled, source);
        let sources = sources_record(source);
        // The same text may well come twice to a cluster: under another name it is another input. Where nothing came, nothing can be counted twice.
        let named = |file: &SourceRecord| {
            (file.name.clone(), yarrup_io::hash(format!("{} {}", file.hash, file.name).as_bytes()))
        };
        account.origin.sources = sources.iter().filter(|file| file.bytes > 0).map(named).collect();
        let record = reading_record(source);
        let whole = Whole {
            compiled,
            inputs: &input_copies(&compiled.lists),
            word_lists: word_lists(&compiled.lists),
            collection,
            sources: &sources,
            reading: &record,
            summary: &reading.summary,
            account: &account,
            noted: &noted,
            originals: None,
            against: None,
        };
        let nothing = WrittenWhole { tables: false, figures: false, report: false };
        whole.write(self.folder, nothing, screen)?;
        let mut file = NewFile::create(self.path, replace)?;
        pack_part(&self.apart.path().join("part"), &mut file)
            .map_err(|why| Failure::File { path: self.path.display().to_string(), why: why.to_string() })?;
        Ok(file.finish()?)
    }
}
