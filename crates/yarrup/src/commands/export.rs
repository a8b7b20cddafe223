//! `yarrup export`: a run in the format of another trade.

use std::collections::HashMap;
use std::io::Write;
use std::ops::ControlFlow;
use std::path::PathBuf;

use yarrup_core::split::{Sentences, Splitter as _};
use yarrup_core::tag::{Sentence, Word, write_conllu};
use yarrup_core::{Cleaned, Fields, Kind, Outputs, Tag, english_features};
use yarrup_io::{BatchDone, Holding, NewFile, Numbered, Pass, Policy, Sink, Summary, read, refuse_taken};
use yarrup_report::counted;

use super::export_tables;
use crate::arguments::{ExportArguments, ExportFormat, ExportWhat};
use crate::failure::{Exit, Failure, option};
use crate::output::{Output, Shape};
use crate::reading::{ended, threads};
use crate::screen::{Progress, Screen};
use crate::studied::{Again, Studied, refuse_inside};

pub(crate) fn export(arguments: &ExportArguments, screen: &Screen) -> Result<Exit, Failure> {
    if let Some(place) = &arguments.into {
        if arguments.format.is_some() {
            return Err(option("into", "writes tables; a file is written with --as and --out"));
        }
        return export_tables::export_into(place, arguments, screen);
    }
    if arguments.format != Some(ExportFormat::Conllu) {
        return export_tables::export(arguments, screen);
    }
    if arguments.what != [ExportWhat::Tokens] || arguments.dropped || !arguments.fields.is_empty() {
        return Err(Failure::Sentence(
            "--as conllu writes the kept tokens alone; other tables go as csv, jsonl, parquet or sqlite"
                .to_owned(),
        ));
    }
    if let Some(out) = &arguments.out {
        refuse_inside(out, &arguments.run)?;
        refuse_taken(out, arguments.replace)?;
    }
    let run = Studied::open(&arguments.run)?;
    let (documents, mut source) = run.documents(&[], Holding::default())?;
    let out = match &arguments.out {
        Some(path) => Out::File(NewFile::create(path, arguments.replace)?),
        None => Out::Standard(screen.out_as(Shape::Data)),
    };
    let language = run.compiled.recipe.language.as_deref();
    let tagging = Exporting {
        run: &run,
        sentences: Sentences::of(language),
        lemmas: run.compiled.pipeline.gives_lemmas(),
        is_english: language.is_none_or(|language| language.split('-').next() == Some("en")),
    };
    let mut writing =
        Writing { out, path: arguments.out.clone(), words: 0, progress: screen.progress(source.bytes()) };
    let policy = Policy::strict(threads(None));
    let reading = read(&mut source, policy, &tagging, &mut writing).map_err(ended)?;
    writing.progress.end();
    documents.confirm(&source)?;
    writing.out.finish()?;
    if let Some(path) = &arguments.out {
        let (documents, words) = (reading.summary.documents, writing.words);
        let counts = format!("{}, {}", counted(documents, "document"), counted(words, "word"));
        screen.tell(&format!("{}: {counts}", path.display()));
    }
    Ok(Exit::Done)
}

/// The pass that writes kept tokens, sentence by sentence.
struct Exporting<'r> {
    run: &'r Studied,
    sentences: Sentences,
    /// Whether the recipe leads words back to their lemmas.
    lemmas: bool,
    /// Whether the words are English, so that their forms tell features.
    is_english: bool,
}

/// What a batch leaves behind: the sentences, how many words they have, and what has failed.
#[derive(Default)]
struct Left {
    text: String,
    words: u64,
    fault: Option<Failure>,
}

/// The features of forms that were met, by their tags: worked out once a form.
#[derive(Default)]
struct KnownFeatures(HashMap<Tag, HashMap<String, String>>);

impl KnownFeatures {
    /// More are forgotten.
    const MOST: usize = 400_000;

    fn of(&mut self, form: &str, tag: Tag) -> &str {
        let known = self.0.entry(tag).or_default();
        if known.len() > Self::MOST {
            known.clear();
        }
        if !known.contains_key(form) {
            known.insert(form.to_owned(), english_features(form, tag).to_string());
        }
        &known[form]
    }
}

impl Exporting<'_> {
    /// One document as sentences of its kept tokens. Returns how many tokens there are.
    fn write(
        &self,
        id: &str,
        text: &str,
        cleaned: &Cleaned<'_>,
        features: &mut KnownFeatures,
        out: &mut String,
    ) -> u64 {
        let tokens: Vec<_> = cleaned.tokens().collect();
        let mut bounds = Vec::new();
        self.sentences.split(text, &mut bounds);
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
                        .or((self.lemmas && token.kind != Kind::Word).then_some(token.term))
                        .map(str::to_owned),
                    tag: token.tag,
                    features: token
                        .tag
                        .filter(|_| self.is_english)
                        .map_or_else(String::new, |tag| features.of(token.span.of(text), tag).to_owned()),
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
}

impl<'r> Pass for Exporting<'r> {
    type State = (Again<'r>, KnownFeatures);
    type Left = Left;

    fn state(&self) -> Self::State {
        let again = Again::new(self.run, Outputs { tokens: true, ..Outputs::default() });
        (again, KnownFeatures::default())
    }

    fn document(&self, (again, features): &mut Self::State, numbered: &Numbered<'_>, left: &mut Left) {
        let record = &numbered.record;
        let id = record.field("id").unwrap_or_default();
        let mut written = || {
            let original = self.run.original(record)?;
            let cleaned = again.document(record, &original)?;
            left.words += self.write(&id, &original, &cleaned, features, &mut left.text);
            Ok(())
        };
        if let Err(fault) = written() {
            left.fault.get_or_insert(fault);
        }
    }
}

struct Writing {
    out: Out,
    /// The file that it is, if it is one.
    path: Option<PathBuf>,
    words: u64,
    progress: Progress,
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

impl Sink<Left> for Writing {
    type Error = Failure;

    fn left(&mut self, left: Left) -> Result<ControlFlow<()>, Failure> {
        if let Some(fault) = left.fault {
            return Err(fault);
        }
        self.out.write(&left.text).map_err(|why| self.failure(why))?;
        self.words += left.words;
        Ok(ControlFlow::Continue(()))
    }

    fn batch_done(&mut self, batch: BatchDone, _so_far: &Summary) -> Result<(), Failure> {
        self.progress.advance(batch.bytes);
        Ok(())
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
