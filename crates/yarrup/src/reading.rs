//! Reading a collection: what every command that reads one does alike.

use std::collections::BTreeSet;
use std::num::NonZero;
use std::ops::ControlFlow;
use std::path::Path;

use yarrup_core::{Pipeline, recipe};
use yarrup_io::{
    BatchDone, Collection, Malformed, Numbered, Pass, Pick, Policy, Reading, ReadingRecord, Sink, Source,
    Stopped, Summary, UNNAMED_TEXT, Why, read,
};
use yarrup_report::{counted, grouped, visible};

use crate::failure::{Failure, sentence};
use crate::screen::{Progress, Screen};

/// How many threads work: as many as asked for, else one a processor.
pub(crate) fn threads(asked: Option<u16>) -> usize {
    asked.map_or_else(|| std::thread::available_parallelism().map_or(1, NonZero::get), usize::from)
}

/// Above this size only a part of the documents is asked for its language.
pub(crate) const SMALL: u64 = 20_000_000;

/// A policy under which what is malformed is skipped, and told.
pub(crate) fn lenient(threads: usize) -> Policy {
    Policy::lenient(threads)
}

/// Reads with a pass that leaves nothing behind, its progress shown. What is skipped is for the caller to tell.
pub(crate) fn read_all<P: Pass<Left = ()>>(
    source: &mut Source,
    policy: Policy,
    pass: &P,
    screen: &Screen,
) -> Result<Reading<P::State>, Failure> {
    let mut sink = Watching(screen.progress(source.bytes()));
    let reading = read(source, policy, pass, &mut sink).map_err(ended)?;
    sink.0.end();
    notes(source).iter().for_each(|note| screen.warn_once(note));
    Ok(reading)
}

/// Reads all documents of a collection with a pass that leaves nothing behind, and says what was wrong with them. To have none is a failure.
pub(crate) fn read_documents<P: Pass<Left = ()>>(
    collection: &Collection,
    threads: usize,
    pass: &P,
    screen: &Screen,
) -> Result<Reading<P::State>, Failure> {
    let mut source = Source::open(collection)?;
    let reading = read_all(&mut source, lenient(threads), pass, screen)?;
    tell_reading(&reading.summary, &source, collection, screen)?;
    Ok(reading)
}

/// Says what was wrong with the documents of a collection, once all were read. To have none is a failure.
pub(crate) fn tell_reading(
    summary: &Summary,
    source: &Source,
    collection: &Collection,
    screen: &Screen,
) -> Result<(), Failure> {
    refuse_unknown_fields(collection, None, screen)?;
    tell_losses(summary, screen);
    no_document(summary, source).map_or(Ok(()), Err)
}

/// Looks at one document after the other with a pass that tells of each batch whether enough was found.
pub(crate) fn search<P: Pass<Left = bool>>(
    source: &mut Source,
    pass: &P,
    screen: &Screen,
) -> Result<Reading<P::State>, Failure> {
    let mut sink = Watching(screen.progress(source.bytes()));
    let reading = read(source, lenient(1), pass, &mut sink).map_err(ended)?;
    sink.0.end();
    notes(source).iter().for_each(|note| screen.warn_once(note));
    Ok(reading)
}

struct Watching(Progress);

impl Sink<bool> for Watching {
    type Error = Failure;

    fn left(&mut self, is_enough: bool) -> Result<ControlFlow<()>, Failure> {
        Ok(if is_enough { ControlFlow::Break(()) } else { ControlFlow::Continue(()) })
    }

    fn batch_done(&mut self, batch: BatchDone, _so_far: &Summary) -> Result<(), Failure> {
        self.0.advance(batch.bytes);
        Ok(())
    }
}

impl Sink<()> for Watching {
    type Error = Failure;

    fn left(&mut self, (): ()) -> Result<ControlFlow<()>, Failure> {
        Ok(ControlFlow::Continue(()))
    }

    fn batch_done(&mut self, batch: BatchDone, _so_far: &Summary) -> Result<(), Failure> {
        self.0.advance(batch.bytes);
        Ok(())
    }
}

/// Why a reading ended early.
pub(crate) fn ended(stopped: Stopped<Failure>) -> Failure {
    match stopped {
        Stopped::Malformed(malformed) => Failure::Sentence(sentence(&malformed)),
        Stopped::Sink(failure) => failure,
    }
}

/// How many documents are asked for the names of their fields.
const ASKED: usize = 500;

/// Refuses conditions on fields that no document had, once all were read.
pub(crate) fn refuse_unknown_fields(
    collection: &Collection,
    pipeline: Option<&Pipeline>,
    screen: &Screen,
) -> Result<(), Failure> {
    // Of a few documents, others may have the field.
    if collection.pick != Pick::default() {
        return Ok(());
    }
    let selections = collection.sources.iter().map(|source| &source.selection);
    let asked = selections.flat_map(|selection| {
        let derived = selection.derived.iter().map(|(name, condition)| (format!("`{name}`"), condition));
        let taken = selection.conditions.iter().map(|condition| (format!("`{condition}`"), condition));
        derived.chain(taken)
    });
    // Where documents do not name their language, steps go by the one that is detected.
    let of_steps = pipeline.into_iter().flat_map(Pipeline::conditions);
    let of_steps = of_steps.map(|(step, condition)| (format!("step {step}"), condition));
    let unseen =
        asked.flat_map(|(who, condition)| condition.unseen_fields().map(move |path| (who.clone(), path)));
    let unseen_by_steps = of_steps.flat_map(|(who, condition)| {
        let unseen = condition.unseen_fields().filter(|path| *path != "language");
        unseen.map(move |path| (who.clone(), path))
    });
    let Some((who, path)) = unseen.chain(unseen_by_steps).next() else { return Ok(()) };
    let there = field_names(collection, screen)?;
    let near = recipe::nearest(path, there.iter().map(String::as_str));
    let help = match near {
        _ if path == "language" => {
            "; --detect-language finds it out, --language-field names another field".to_owned()
        }
        Some(near) => format!("; did you mean `{}`?", visible(near)),
        None => {
            let names: Vec<String> =
                there.iter().take(24).map(|name| format!("`{}`", visible(name))).collect();
            format!("; there are {}", if names.is_empty() { "none".to_owned() } else { names.join(", ") })
        }
    };
    Err(Failure::Sentence(format!(
        "{} asks for the field `{}`, which no document has{help}",
        visible(&who),
        visible(path)
    )))
}

/// The names of the fields that the first documents have.
pub(crate) fn field_names(collection: &Collection, screen: &Screen) -> Result<Vec<String>, Failure> {
    let mut all = collection.clone();
    // What came from standard input is gone.
    all.sources.retain(|source| !source.is_standard_input() || source.is_put_aside());
    for source in &mut all.sources {
        source.selection.conditions.clear();
        source.selection.derived.clear();
        source.selection.fields_only = true;
    }
    let reading = search(&mut Source::open(&all)?, &NamingFields, screen)?;
    let mut names: Vec<String> = reading.states.into_iter().flat_map(|(names, _)| names).collect();
    names.sort();
    names.dedup();
    Ok(names)
}

/// The pass that writes down the names of fields.
struct NamingFields;

impl Pass for NamingFields {
    type State = (BTreeSet<String>, usize);
    type Left = bool;

    fn state(&self) -> Self::State {
        Self::State::default()
    }

    fn document(&self, (names, seen): &mut Self::State, document: &Numbered<'_>, is_enough: &mut bool) {
        document.record.each_value(|path, _| {
            if !names.contains(path) {
                names.insert(path.to_owned());
            }
        });
        *seen += 1;
        *is_enough = *seen >= ASKED;
    }
}

/// Tells which files of the sources were passed over, and how to read those that are text.
pub(crate) fn tell_passed_over(names: &[String], screen: &Screen) {
    if names.is_empty() {
        return;
    }
    let mut shown: Vec<_> = names.iter().take(3).map(|name| visible(name)).collect();
    if names.len() > shown.len() {
        shown.push(format!("and {} more", grouped((names.len() - shown.len()) as u64)));
    }
    screen.tell(&format!("note: passed over {}: {}", counted(names.len() as u64, "file"), shown.join(", ")));
    let text = format!(" ({UNNAMED_TEXT})");
    let ending = names.iter().find_map(|name| Path::new(name.strip_suffix(&text)?).extension());
    if let Some(ending) = ending.and_then(|ending| ending.to_str()) {
        screen.tell(&format!("help: `--include '*.{}'` reads text files with that ending", visible(ending)));
    }
}

/// The failure of having no document, if there is none.
pub(crate) fn no_document(summary: &Summary, source: &Source) -> Option<Failure> {
    if summary.documents > 0 {
        return None;
    }
    let passed_over = match source.passed_over() {
        [] => String::new(),
        [first] => format!("; passed over {}", visible(first)),
        [first, others @ ..] => {
            format!("; passed over {} and {}", visible(first), counted(others.len() as u64, "other file"))
        }
    };
    let Some(first) = summary.first_skipped.first() else {
        return Some(Failure::Sentence(match summary.left_out {
            0 => format!("the sources hold no document{passed_over}"),
            left_out => format!("no document is left by the conditions: {} left out", grouped(left_out)),
        }));
    };
    let others = match summary.skipped() - 1 {
        0 => String::new(),
        1 => "; 1 other skipped as well".to_owned(),
        others => format!("; {} others skipped as well", grouped(others)),
    };
    Some(Failure::Sentence(format!("no document could be read; {}{others}{passed_over}", sentence(first))))
}

/// Says of a record or file that it gave no document.
pub(crate) fn tell_skipped(malformed: &Malformed, screen: &Screen) {
    let skipped = if matches!(malformed.why, Why::File(_)) { "" } else { "; skipped" };
    screen.warn(&format!("{}: {}{skipped}", visible(&malformed.place), visible(&malformed.why.to_string())));
}

/// Says what is not right with what was read: the first records and files that gave no document, how many more there are, and bytes that were
/// replaced.
pub(crate) fn tell_losses(summary: &Summary, screen: &Screen) {
    for malformed in &summary.first_skipped {
        tell_skipped(malformed, screen);
    }
    let more = summary.skipped() - summary.first_skipped.len() as u64;
    if more > 0 {
        screen.warn(&format!("and {} that gave no document", counted(more, "other unreadable record")));
    }
    if summary.broken_bytes > 0 {
        screen.warn(&broken(summary));
    }
}

/// What is told of a document of whose text this step has made too much.
pub(crate) fn overgrown(step: usize) -> String {
    format!("step {step} makes its text more than 32 times as long; nothing of its cleaned text is kept")
}

/// How many of the notes on sources are told one by one.
pub(crate) const TOLD_NOTES: usize = 5;

/// How the sources of a run were read.
pub(crate) fn reading_record(source: &Source) -> ReadingRecord {
    let notes: Vec<String> = source.notes().iter().take(TOLD_NOTES).cloned().collect();
    ReadingRecord {
        part: None,
        likely_bytes: source.likely_bytes(),
        stays: source.stays(),
        originals: None,
        more_notes: (source.notes().len() - notes.len()) as u64,
        notes,
    }
}

/// What the user should know of the sources, a sentence each.
pub(crate) fn told_notes(reading: &ReadingRecord) -> Vec<String> {
    let mut told = reading.notes.clone();
    if reading.more_notes > 0 {
        told.push(format!("and {} on the sources", counted(reading.more_notes, "other note")));
    }
    told
}

/// As [`told_notes`], of sources that are being read.
pub(crate) fn notes(source: &Source) -> Vec<String> {
    told_notes(&reading_record(source))
}

/// What is told of bytes that were replaced.
pub(crate) fn broken(summary: &Summary) -> String {
    let bytes = match summary.broken_bytes {
        1 => "1 byte was".to_owned(),
        bytes => format!("{} bytes were", grouped(bytes)),
    };
    let documents = counted(summary.broken_documents, "document");
    format!("{bytes} not UTF-8 and replaced by U+FFFD, in {documents}")
}
