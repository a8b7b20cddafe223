//! `yarrup export`: a run in the format of another trade.

use std::io::Write;
use std::ops::ControlFlow;
use std::path::PathBuf;

use yarrup_core::split::{Sentences, Splitter as _};
use yarrup_core::tag::{Sentence, Word, write_conllu};
use yarrup_core::{Kind, Outputs, Pipeline, Worker};
use yarrup_io::{
    Collection, DOCUMENTS_FILE, FORMATS, NewFile, Numbered, Pass, Policy, Sink, Source, SourceSpec, Stopped,
    read, read_account, read_file_of, read_run, refuse_taken,
};
use yarrup_report::counted;

use super::export_tables;
use crate::arguments::{ExportArguments, ExportFormat, ExportWhat};
use crate::failure::{Exit, Failure};
use crate::output::{Output, Shape};
use crate::reading::threads;
use crate::recipe_file::compile;
use crate::screen::Screen;
use crate::studied::refuse_inside;

pub(crate) fn export(arguments: &ExportArguments, screen: &Screen) -> Result<Exit, Failure> {
    if arguments.format != ExportFormat::Conllu {
        return export_tables::export(arguments, screen);
    }
    if arguments.what != ExportWhat::Tokens || arguments.dropped || !arguments.fields.is_empty() {
        return Err(Failure::Sentence(
            "--as conllu writes the kept tokens alone; other tables go as csv, jsonl, parquet or sqlite"
                .to_owned(),
        ));
    }
    let run = &arguments.run;
    if let Some(out) = &arguments.out {
        refuse_inside(out, run)?;
        refuse_taken(out, arguments.replace)?;
    }
    let (record, account) = (read_run(run)?, read_account(run)?);
    let compiled = match &arguments.recipe {
        Some(recipe) => compile(recipe)?,
        None => {
            read_file_of(run, &record, record.frozen_recipe())?;
            compile(&run.join(record.frozen_recipe()))?
        }
    };
    if arguments.recipe.is_some() && yarrup_io::hash(compiled.frozen.as_bytes()) != account.origin.recipe {
        screen.warn(&format!("{}: is not the recipe of this run, or was changed since", compiled.path));
    }
    if !record.files.contains_key(DOCUMENTS_FILE) {
        return Err(Failure::Sentence(format!(
            "{}: the run holds no documents: run it again without --without-documents",
            run.display()
        )));
    }
    let mut spec = SourceSpec::at(&run.join(DOCUMENTS_FILE).display().to_string());
    spec.options.format = FORMATS.named("jsonl");
    spec.selection.text = vec!["text".to_owned()];
    let mut source = Source::open(&Collection::of(spec))?;
    let out = match &arguments.out {
        Some(path) => Out::File(NewFile::create(path, arguments.replace)?),
        None => Out::Standard(screen.out_as(Shape::Data)),
    };
    let tagging = Exporting {
        pipeline: &compiled.pipeline,
        sentences: Sentences::of(compiled.recipe.language.as_deref()),
        lemmas: compiled.pipeline.gives_lemmas(),
    };
    let mut writing = Writing { out, path: arguments.out.clone(), words: 0 };
    let policy = Policy { threads: threads(None), strict: true, compare_ids: false };
    let reading = read(&mut source, policy, &tagging, &mut writing).map_err(|stopped| match stopped {
        Stopped::Malformed(bad) => Failure::Sentence(format!(
            "{}: {}; a run that was written with --without-originals cannot be exported",
            bad.place, bad.why
        )),
        Stopped::Sink(failure) => failure,
    })?;
    if let Some(file) = source.read_files().first() {
        record.confirm(run, DOCUMENTS_FILE, file.bytes, &file.hash)?;
    }
    writing.out.finish()?;
    if let Some(path) = &arguments.out {
        let (documents, words) = (reading.summary.documents, writing.words);
        let counts = format!("{}, {}", counted(documents, "document"), counted(words, "word"));
        screen.tell(&format!("{}: {counts}", path.display()));
    }
    Ok(Exit::Done)
}

/// The pass that writes kept tokens, sentence by sentence.
struct Exporting<'p> {
    pipeline: &'p Pipeline,
    sentences: Sentences,
    /// Whether the recipe leads words back to their lemmas.
    lemmas: bool,
}

impl<'p> Pass for Exporting<'p> {
    type State = Worker<'p>;
    /// The sentences, and how many words they have.
    type Left = (String, u64);

    fn state(&self) -> Worker<'p> {
        Worker::new(self.pipeline, Outputs { clean: false, tokens: true, ends: false })
    }

    fn document(&self, worker: &mut Worker<'p>, numbered: &Numbered<'_>, (text, words): &mut (String, u64)) {
        let record = &numbered.record;
        *words += document(&record.id, &record.text, worker, (&self.sentences, self.lemmas), record, text);
    }
}

struct Writing {
    out: Out,
    /// The file that it is, if it is one.
    path: Option<PathBuf>,
    words: u64,
}

/// Where the export goes.
enum Out {
    File(NewFile),
    Standard(Output),
}

impl Out {
    fn write(&mut self, text: &str) -> std::io::Result<()> {
        match self {
            Out::File(file) => file.write_all(text.as_bytes()),
            Out::Standard(out) => out.write_all(text.as_bytes()),
        }
    }

    fn finish(self) -> Result<(), Failure> {
        match self {
            Out::File(file) => Ok(file.finish()?),
            Out::Standard(mut out) => Ok(out.flush()?),
        }
    }
}

impl Writing {
    fn failure(&self, why: std::io::Error) -> Failure {
        match &self.path {
            Some(path) => Failure::File { path: path.display().to_string(), why: why.to_string() },
            None => Failure::Output(why),
        }
    }
}

impl Sink<(String, u64)> for Writing {
    type Error = Failure;

    fn left(&mut self, (text, words): (String, u64)) -> Result<ControlFlow<()>, Failure> {
        self.out.write(&text).map_err(|why| self.failure(why))?;
        self.words += words;
        Ok(ControlFlow::Continue(()))
    }
}

/// A text as a value in the last column of CoNLL-U, where `|` parts values and white space columns.
fn misc_value(text: &str) -> String {
    let mut value = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            '|' => value.push_str("\\p"),
            '\\' => value.push_str("\\\\"),
            c if c.is_whitespace() => value.push_str("\\s"),
            c => value.push(c),
        }
    }
    value
}

/// One document as sentences of its kept tokens. Returns how many tokens there are.
fn document(
    id: &str,
    text: &str,
    worker: &mut Worker<'_>,
    (sentences, lemmas): (&Sentences, bool),
    fields: &dyn yarrup_core::Fields,
    out: &mut String,
) -> u64 {
    let cleaned = worker.document(text, fields);
    let tokens: Vec<_> = cleaned.tokens().collect();
    let mut bounds = Vec::new();
    sentences.split(text, &mut bounds);
    let mut first = true;
    let mut start = 0;
    let one_line = |text: &str| text.split_whitespace().collect::<Vec<_>>().join(" ");
    for (number, bound) in bounds.iter().enumerate() {
        let end = start + tokens[start..].iter().take_while(|token| token.span.start < bound.end).count();
        // What stands behind the last end belongs to the last sentence.
        let end = if number + 1 == bounds.len() { tokens.len() } else { end };
        if end == start {
            continue;
        }
        let mut sentence = Sentence::default();
        if first {
            sentence.comments.push(format!("# newdoc id = {}", one_line(id)));
            first = false;
        }
        sentence.comments.push(format!("# sent_id = {}-{}", one_line(id), number + 1));
        sentence.comments.push(format!("# text = {}", one_line(bound.of(text))));
        for place in start..end {
            let token = &tokens[place];
            let joined = tokens
                .get(place + 1)
                .is_some_and(|next| place + 1 < end && next.span.start == token.span.end);
            let space = if joined { "SpaceAfter=No|" } else { "" };
            sentence.words.push(Word {
                form: token.span.of(text).to_owned(),
                // What is no word is its own lemma, where words have theirs.
                lemma: token
                    .lemma
                    .or((lemmas && token.kind != Kind::Word).then_some(token.term))
                    .map(str::to_owned),
                tag: token.tag,
                misc: format!(
                    "{space}Start={}|End={}|Term={}",
                    token.span.start,
                    token.span.end,
                    misc_value(token.term)
                ),
                line: 0,
            });
        }
        write_conllu(&sentence, out);
        start = end;
    }
    tokens.len() as u64
}
