//! What has to be learned from the whole collection before a recipe can run.

use std::collections::{HashMap, HashSet};
use std::path::Path;
use std::sync::{Arc, Mutex, PoisonError};

use yarrup_core::advice::{self, Change};
use yarrup_core::compare::{StepText, described};
use yarrup_core::step::{Copies, Document, Evidence, Learned, Learns, Shape};
use yarrup_core::{LearnedByStep, LearnedStep, Learning, ToLearn, recipe};
use yarrup_io::{Collection, Input, Numbered, Pass, Policy, ReadFile, Source};
use yarrup_report::{grouped, percent, visible};

mod parts;

pub(crate) use parts::{LearnedBefore, complete, freeze, refuse_part, write_lessons_of};

use crate::failure::Failure;
use crate::kept_documents::KeptDocuments;
use crate::reading::{read_all, refuse_unknown_fields};
use crate::recipe_file::{Compiled, compile_text, lists_beside};
use crate::screen::Screen;

/// What was learned from a collection, and which files it was learned from.
#[derive(Debug, Default)]
pub(crate) struct WhatWasLearned {
    pub(crate) told: Vec<LearnedStep>,
    /// The hashes of the files of each name: two folders may have files of one name.
    files: HashMap<String, HashSet<String>>,
}

impl WhatWasLearned {
    fn note(&mut self, source: &Source) {
        for file in source.read_files() {
            self.files.entry(file.name.clone()).or_default().insert(file.hash.clone());
        }
    }

    /// Refuses files that are not what they were when the recipe was learned from them: the run would be of two collections.
    pub(crate) fn unchanged(&self, source: &Source) -> Result<(), Failure> {
        let is_another =
            |file: &&ReadFile| self.files.get(&file.name).is_some_and(|hashes| !hashes.contains(&file.hash));
        match source.read_files().iter().find(is_another) {
            Some(file) => Err(Failure::Sentence(format!(
                "{}: changed while it was read the first and the second time; run it again when nothing writes to it",
                file.name
            ))),
            None => Ok(()),
        }
    }
}

/// The recipe with all that it has to learn written out, and compiled; as it came if there is nothing to learn. Reads the collection
/// once for the steps that can learn together, and again for those that wait for them. What was learned is told and given back, with the evidence.
pub(crate) fn learned(
    compiled: Compiled,
    collection: &mut Collection,
    policy: Policy,
    screen: &Screen,
) -> Result<(Compiled, WhatWasLearned), Failure> {
    let mut seen = WhatWasLearned::default();
    if ToLearn::next(&compiled.pipeline).is_some() {
        reread(collection)?;
    }
    let (compiled, told) = learned_by(compiled, screen, &mut |_: &Compiled, to_learn: &ToLearn<'_>| {
        learn(to_learn, collection, policy, &mut seen, screen)
    })?;
    seen.told = told;
    Ok((compiled, seen))
}

/// What steps have learned from a collection, by what the steps up to them say: recipes that begin alike learn alike, and learn once.
#[derive(Default)]
pub(crate) struct Remembered(Vec<(Vec<StepText>, Lesson)>);

/// What steps have learned, and from how many documents.
type Lesson = (Vec<LearnedByStep>, u64);

/// As [`learned`], for one of several recipes. What was learned for another that has the same steps up to there is not learned again.
pub(crate) fn learned_together(
    compiled: Compiled,
    collection: &mut Collection,
    (policy, remembered): (Policy, &mut Remembered),
    screen: &Screen,
) -> Result<Compiled, Failure> {
    let mut seen = WhatWasLearned::default();
    if ToLearn::next(&compiled.pipeline).is_some() {
        reread(collection)?;
    }
    let (compiled, _) = learned_by(compiled, screen, &mut |compiled: &Compiled, to_learn: &ToLearn<'_>| {
        let mut steps = described(&compiled.recipe, &lists_beside(Path::new(&compiled.path)));
        steps.truncate(to_learn.steps().iter().max().copied().unwrap_or(0));
        let is_same = |known: &[StepText]| {
            known.len() == steps.len() && known.iter().zip(&steps).all(|(one, other)| one.does_as(other))
        };
        if let Some((_, lesson)) = remembered.0.iter().find(|(known, _)| is_same(known)) {
            return Ok(lesson.clone());
        }
        let lesson = learn(to_learn, collection, policy, &mut seen, screen)?;
        remembered.0.push((steps, lesson.clone()));
        Ok(lesson)
    })?;
    Ok(compiled)
}

/// As [`learned`], from documents in memory.
pub(crate) fn learned_from_kept(
    compiled: Compiled,
    kept: &KeptDocuments,
    threads: usize,
    screen: &Screen,
) -> Result<Compiled, Failure> {
    let (compiled, _) = learned_by(compiled, screen, &mut |_: &Compiled, to_learn: &ToLearn<'_>| {
        let mut prepared = Vec::new();
        loop {
            let lessons = Teacher { to_learn, prepared: Mutex::new(prepared) };
            let states =
                kept.each(threads, || lessons.state(), |learning, document| learning.document(document));
            let mut sum = lessons.sum(states);
            if !sum.needs_another_pass() {
                return Ok((sum.learned(), kept.count()));
            }
            prepared = again(sum, threads);
        }
    })?;
    Ok(compiled)
}

/// What teaches the steps of a recipe that can learn now.
type Teaching<'t> = dyn FnMut(&Compiled, &ToLearn<'_>) -> Result<Lesson, Failure> + 't;

/// The recipe with all that it has to learn written out, and what that is.
fn learned_by(
    mut compiled: Compiled,
    screen: &Screen,
    teach: &mut Teaching<'_>,
) -> Result<(Compiled, Vec<LearnedStep>), Failure> {
    let mut told = Vec::new();
    let mut copies: Vec<(usize, Arc<Copies>)> = Vec::new();
    let given = compiled.lists.clone();
    if ToLearn::next(&compiled.pipeline).is_some() {
        compiled = written_out(compiled)?;
    }
    while let Some(to_learn) = ToLearn::next(&compiled.pipeline) {
        let (learned, documents) = teach(&compiled, &to_learn)?;
        compiled = with_written_out(&compiled, learned, documents, (&mut told, &mut copies), screen)?;
    }
    Ok((naming_all(compiled, given), told))
}

/// The recipe with what steps have learned now written out. What that is, is told and added to what was learned before.
fn with_written_out(
    compiled: &Compiled,
    learned: Vec<LearnedByStep>,
    documents: u64,
    (told, copies): (&mut Vec<LearnedStep>, &mut Vec<(usize, Arc<Copies>)>),
    screen: &Screen,
) -> Result<Compiled, Failure> {
    let mut text = compiled.frozen.clone();
    for LearnedByStep { step, learned, copies: found } in learned {
        let operation = compiled.pipeline.operations()[step - 1];
        copies.extend(found.map(|found| (step, Arc::new(found))));
        let Some(learns) = operation.learns else { continue };
        tell(step, operation.name, learns, &learned, documents, screen);
        let change = Change::Set { step, keys: vec![(learns.key.name, known(learns, &learned))] };
        // The recipe as it is now: an earlier change has moved the places of later steps.
        let now = compile_text(&compiled.path, compiled.text.clone(), text.clone())?;
        text = advice::mend(&text, &now.recipe, &change).map_err(|why| {
            Failure::Sentence(format!(
                "{}: what step {step} learns cannot be written out: {why}",
                compiled.path
            ))
        })?;
        told.push(LearnedStep { step, operation: operation.name.to_owned(), learned });
    }
    let compiled = compile_text(&compiled.path, compiled.text.clone(), text)?;
    Ok(knowing(compiled, copies))
}

/// Which documents are copies stands in no recipe: it is true of this collection alone.
fn knowing(mut compiled: Compiled, copies: &[(usize, Arc<Copies>)]) -> Compiled {
    for (step, copies) in copies {
        compiled.pipeline = compiled.pipeline.knowing(*step, copies);
    }
    compiled
}

/// The recipe with what it names as it was given: that is more than the one that is written out does, for what it includes.
fn naming_all(mut compiled: Compiled, given: Vec<Input>) -> Compiled {
    let left: Vec<Input> = given.into_iter().filter(|input| !compiled.lists.contains(input)).collect();
    compiled.lists.extend(left);
    compiled
}

/// The recipe with all that it includes written out, so that what steps learn can be written to where they stand.
fn written_out(compiled: Compiled) -> Result<Compiled, Failure> {
    let flat = recipe::flatten(&compiled.frozen, &lists_beside(Path::new(&compiled.path)))
        .map_err(|why| Failure::Sentence(format!("{}: cannot be written out: {why}", compiled.path)))?;
    match flat {
        Some(flat) => compile_text(&compiled.path, compiled.text, flat),
        None => Ok(compiled),
    }
}

/// Makes sure that a collection can be read more than once.
pub(crate) fn reread(collection: &mut Collection) -> Result<(), Failure> {
    collection.make_rereadable().map_err(|why| Failure::File {
        path: "standard input".into(),
        why: format!("cannot be put aside to be read twice: {why}"),
    })
}

/// What the steps that can learn now learn, by their numbers, and from how many documents.
fn learn(
    to_learn: &ToLearn<'_>,
    collection: &Collection,
    policy: Policy,
    seen: &mut WhatWasLearned,
    screen: &Screen,
) -> Result<(Vec<LearnedByStep>, u64), Failure> {
    let mut prepared = Vec::new();
    loop {
        let lessons = Teacher { to_learn, prepared: Mutex::new(prepared) };
        let mut source = Source::open(collection)?;
        let reading = read_all(&mut source, policy, &lessons, screen)?;
        seen.unchanged(&source)?;
        seen.note(&source);
        refuse_unknown_fields(collection, Some(to_learn.pipeline()), screen)?;
        let mut sum = lessons.sum(reading.states);
        if !sum.needs_another_pass() {
            return Ok((sum.learned(), reading.summary.documents));
        }
        prepared = again(sum, policy.threads);
    }
}

/// What workers begin with that go on where a pass before has ended.
fn again(sum: Learning<'_>, threads: usize) -> Vec<Learning<'_>> {
    let mut prepared: Vec<_> = (1..threads).map(|_| sum.fresh()).collect();
    prepared.push(sum);
    prepared
}

/// The pass that learns.
struct Teacher<'p> {
    to_learn: &'p ToLearn<'p>,
    /// What workers begin with, where a pass before has left something open.
    prepared: Mutex<Vec<Learning<'p>>>,
}

impl<'p> Teacher<'p> {
    /// What all workers have learned, and what was prepared for workers that there were not.
    fn sum(self, states: Vec<Learning<'p>>) -> Learning<'p> {
        let left = self.prepared.into_inner().unwrap_or_else(PoisonError::into_inner);
        let mut states = states.into_iter().chain(left);
        let mut sum = states.next().unwrap_or_else(|| self.to_learn.begin());
        states.for_each(|other| sum.absorb(other));
        sum
    }
}

impl<'p> Pass for Teacher<'p> {
    type State = Learning<'p>;
    type Left = ();

    fn state(&self) -> Learning<'p> {
        let mut prepared = self.prepared.lock().unwrap_or_else(PoisonError::into_inner);
        prepared.pop().unwrap_or_else(|| self.to_learn.begin())
    }

    fn document(&self, learning: &mut Learning<'p>, document: &Numbered<'_>, (): &mut ()) {
        let Numbered { record, order, .. } = document;
        learning.document(&Document { text: &record.text, fields: record, order: *order });
    }
}

/// How many of the things learned are shown.
const SHOWN: usize = 12;

/// Says what was learned, with the evidence of the first few.
fn tell(step: usize, operation: &str, learns: &Learns, learned: &[Learned], documents: u64, screen: &Screen) {
    let count = learned.len() as u64;
    let name = if count == 1 { learns.names.0 } else { learns.names.1 };
    let shown: Vec<String> = learned
        .iter()
        .take(SHOWN)
        .map(|one| {
            let text = match &one.to {
                Some(to) => format!("{} as {}", visible(&one.text), visible(to)),
                None => visible(&one.text),
            };
            let evidence = match (learns.evidence, one.score) {
                (_, Some(score)) => format!("{} times, {score:.2}", grouped(one.count)),
                (Evidence::Share, None) => format!("{} of documents", percent(one.documents, documents)),
                (Evidence::Count, None) => format!("{} times", grouped(one.count)),
            };
            format!("{text} ({evidence})")
        })
        .collect();
    let more = learned.len().saturating_sub(SHOWN) as u64;
    let more = if more > 0 { format!(" and {} more", grouped(more)) } else { String::new() };
    let list = if shown.is_empty() { String::new() } else { format!(": {}{more}", shown.join(", ")) };
    screen.tell(&format!("learned {} {name} for step {step} (`{operation}`){list}", grouped(count)));
}

/// What was learned, as the value of `known`: an array, or a table for a step that learns pairs.
fn known(learns: &Learns, learned: &[Learned]) -> String {
    let items: Vec<String> = learned
        .iter()
        .map(|one| match &one.to {
            Some(to) => format!("{} = {}", toml_text(&one.text), toml_text(to)),
            None => toml_text(&one.text),
        })
        .collect();
    let items = items.join(", ");
    if learns.key.shape == Shape::Named { format!("{{ {items} }}") } else { format!("[{items}]") }
}

/// Refuses a recipe that has to learn first, where there is no whole collection.
pub(crate) fn refuse_unlearned(compiled: &Compiled) -> Result<(), Failure> {
    let Some(to_learn) = ToLearn::next(&compiled.pipeline) else { return Ok(()) };
    let step = to_learn.steps()[0];
    let (path, operation) = (&compiled.path, compiled.pipeline.operations()[step - 1]);
    Err(Failure::Sentence(match operation.learns {
        Some(_) => format!(
            "{path}: step {step} must first be trained on the full collection: `yarrup run` does it, and writes `frozen.toml` for this"
        ),
        None => format!(
            "{path}: step {step} (`{}`) compares documents with one another: only `yarrup run` can do that",
            operation.name
        ),
    }))
}

/// A text as TOML writes it.
fn toml_text(text: &str) -> String {
    let mut out = String::from("\"");
    for c in text.chars() {
        match c {
            '"' | '\\' => out.extend(['\\', c]),
            c if c.is_control() => out.push_str(&format!("\\u{:04X}", u32::from(c))),
            c => out.push(c),
        }
    }
    out.push('"');
    out
}
