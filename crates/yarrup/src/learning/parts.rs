//! Learning over the parts of a collection: each part writes what it has to say to the steps that learn, and all of it together is what one run over
//! the whole learns.

use std::collections::HashMap;
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex};

use yarrup_core::step::Copies;
use yarrup_core::{LearnedByStep, LearnedStep, Learning, LessonKept, ToLearn, recipe};
use yarrup_io::{
    Collection, LearnedOfParts, LessonOrigin, Lessons, OriginalRecord, Part, Policy, ReadFile, Source,
    read_learned_of_parts, read_lessons, refuse_taken, way, write_collection, write_file,
    write_learned_of_parts, write_lessons,
};
use yarrup_report::visible;

use super::{Teacher, knowing, naming_all, with_written_out, written_out};
use crate::failure::{Exit, Failure, option};
use crate::reading::{read_all, refuse_unknown_fields, tell_losses};
use crate::recipe_file::{Compiled, compile_text};
use crate::screen::{Screen, program, shell_word};

/// A recipe with what was learned of parts before.
pub(crate) struct LearnedBefore {
    pub(crate) compiled: Compiled,
    /// What it is, with the evidence.
    pub(crate) told: Vec<LearnedStep>,
    copies: Vec<(usize, Arc<Copies>)>,
    pub(crate) copied: CopiedSources,
    /// Where steps need another pass over the collection: what they begin it with.
    begun: Option<Vec<LessonKept>>,
}

/// The sources of which it is known which documents repeat others, if that was learned: they are known by their places.
pub(crate) struct CopiedSources(Option<Vec<OriginalRecord>>);

impl CopiedSources {
    /// Refuses other sources.
    pub(crate) fn are(&self, source: &Source) -> Result<(), Failure> {
        match &self.0 {
            Some(known) if !source.read_files().iter().map(named).eq(known.iter().cloned()) => Err(option(
                "learned",
                "which documents repeat others was learned from another collection, or this one has changed since; learn again",
            )),
            _ => Ok(()),
        }
    }
}

impl LearnedBefore {
    /// The recipe with what a file says it has learned; with nothing if there is none.
    pub(crate) fn of(compiled: Compiled, file: Option<&Path>) -> Result<LearnedBefore, Failure> {
        let given = compiled.lists.clone();
        let Some(file) = file else {
            return Ok(LearnedBefore::nothing(naming_all(written_out(compiled)?, given)));
        };
        let learned = read_learned_of_parts(file)?;
        let refused = |why: &str| Failure::File { path: file.display().to_string(), why: why.to_owned() };
        if learned.yarrup != env!("CARGO_PKG_VERSION") {
            return Err(refused("was learned by another version of yarrup; learn again with this one"));
        }
        if learned.recipe != yarrup_io::hash(compiled.text.as_bytes()) {
            return Err(refused(&format!("is not what {} has learned; learn again", compiled.path)));
        }
        let LearnedOfParts { frozen, told, copies, sources, begun, .. } = learned;
        let copies: Vec<_> = copies.into_iter().map(|(step, copies)| (step, Arc::new(copies))).collect();
        let copied = CopiedSources((!copies.is_empty()).then_some(sources));
        let compiled = naming_all(compile_text(&compiled.path, compiled.text, frozen)?, given);
        Ok(LearnedBefore { compiled: knowing(compiled, &copies), told, copies, copied, begun })
    }

    /// A recipe that has learned nothing.
    pub(crate) fn nothing(compiled: Compiled) -> LearnedBefore {
        LearnedBefore {
            compiled,
            told: Vec::new(),
            copies: Vec::new(),
            copied: CopiedSources(None),
            begun: None,
        }
    }

    /// What lessons are of that are learned now.
    fn origin(&self) -> LessonOrigin {
        let lists =
            self.compiled.lists.iter().map(|list| (list.name.clone(), yarrup_io::hash(&list.content)));
        let mut before = self.compiled.frozen.clone().into_bytes();
        // A second pass of the same steps is another lesson.
        before.push(u8::from(self.begun.is_some()));
        LessonOrigin {
            yarrup: env!("CARGO_PKG_VERSION").to_owned(),
            recipe: yarrup_io::hash(self.compiled.text.as_bytes()),
            lists: lists.collect(),
            before: yarrup_io::hash(&before),
        }
    }

    /// The steps that learn now.
    fn to_learn(&self) -> Result<ToLearn<'_>, Failure> {
        ToLearn::next(&self.compiled.pipeline).ok_or_else(|| {
            Failure::Sentence(format!("{}: nothing is left to learn: the recipe can run", self.compiled.path))
        })
    }

    /// What a pass goes on from that was begun before.
    fn resumed<'l>(&self, to_learn: &'l ToLearn<'_>) -> Result<Option<Learning<'l>>, Failure> {
        let Some(begun) = self.begun.clone() else { return Ok(None) };
        let damaged = || Failure::Sentence("what was learned before does not fit the recipe".to_owned());
        to_learn.resume(begun).map(Some).ok_or_else(damaged)
    }
}

/// Refuses to run a recipe over a part of a collection that has to learn from all of it first.
pub(crate) fn refuse_part(compiled: &Compiled) -> Result<(), Failure> {
    let Some(to_learn) = ToLearn::next(&compiled.pipeline) else { return Ok(()) };
    let step = to_learn.steps()[0];
    let name = compiled.pipeline.operations()[step - 1].name;
    let recipe = shell_word(&compiled.path);
    Err(Failure::Sentence(format!(
        "{}: step {step} (`{name}`) learns from the whole collection first. Write what each part has to say with `--lessons FILE`, put that together by \
         `{} merge --freeze {recipe} FILE… --out frozen.toml`, and run the parts with `--learned frozen.learned`",
        compiled.path,
        program(),
    )))
}

/// Writes what a part of a collection has to say to the steps that learn.
pub(crate) fn write_lessons_of(
    before: &LearnedBefore,
    collection: &Collection,
    policy: Policy,
    (file, replace): (&Path, bool),
    screen: &Screen,
) -> Result<(), Failure> {
    refuse_taken(file, replace)?;
    let to_learn = before.to_learn()?;
    if policy.part.is_none() && compares(before, &to_learn) {
        return Err(Failure::Sentence(
            "which documents repeat others can be learned over parts only of one collection, in which each has its place: by `yarrup run … --part K/N --lessons`"
                .to_owned(),
        ));
    }
    let resumed = before.resumed(&to_learn)?;
    let prepared = resumed.iter().flat_map(|begun| (0..policy.threads).map(|_| begun.fresh())).collect();
    let teacher = Teacher { to_learn: &to_learn, prepared: Mutex::new(prepared) };
    let mut source = Source::open(collection)?;
    let reading = read_all(&mut source, policy, &teacher, screen)?;
    // Of a part that has no document nothing is known of the fields.
    if reading.summary.documents > 0 {
        refuse_unknown_fields(collection, Some(to_learn.pipeline()), screen)?;
    }
    tell_losses(&reading.summary, screen);
    let lessons = Lessons {
        origin: before.origin(),
        part: policy.part,
        collection: write_collection(collection),
        sources: source.read_files().iter().map(named).collect(),
        documents: reading.summary.documents,
        kept: teacher.sum(reading.states).kept(),
    };
    Ok(write_lessons(&lessons, file, replace)?)
}

fn named(file: &ReadFile) -> OriginalRecord {
    OriginalRecord { name: file.name.clone(), bytes: file.bytes, hash: file.hash.clone() }
}

/// Whether a step asks which documents repeat others.
fn compares(before: &LearnedBefore, to_learn: &ToLearn<'_>) -> bool {
    let operations = before.compiled.pipeline.operations();
    to_learn.steps().iter().any(|step| operations[step - 1].learns.is_none())
}

/// Puts the lessons of all parts together, and writes the recipe with what was learned, and beside it a file with the evidence. Finds something if steps are
/// left that have to learn.
pub(crate) fn freeze(
    before: LearnedBefore,
    files: &[PathBuf],
    (out, replace): (&Path, bool),
    screen: &Screen,
) -> Result<Exit, Failure> {
    let evidence = out.with_extension("learned");
    refuse_taken(out, replace)?;
    refuse_taken(&evidence, replace)?;
    let (sum, documents, sources) = sum_of(&before, files)?;
    let LearnedBefore { compiled, mut told, mut copies, .. } = before;
    let (path, recipe) = (compiled.path.clone(), yarrup_io::hash(compiled.text.as_bytes()));
    let (compiled, begun) = match sum {
        Sum::Begun(begun) => (compiled, Some(begun)),
        Sum::Learned(learned) => {
            let copies = &mut copies;
            (with_written_out(&compiled, learned, documents, (&mut told, copies), screen)?, None)
        }
    };
    let operations = compiled.pipeline.operations();
    let left = ToLearn::next(&compiled.pipeline).map_or_else(Vec::new, |to_learn| to_learn.steps());
    let left: Vec<String> =
        left.iter().map(|step| format!("{step} (`{}`)", operations[step - 1].name)).collect();
    let is_again = begun.is_some();
    let learned = LearnedOfParts {
        yarrup: env!("CARGO_PKG_VERSION").to_owned(),
        recipe,
        frozen: compiled.frozen.clone(),
        told,
        copies: copies.into_iter().map(|(step, copies)| (step, Arc::unwrap_or_clone(copies))).collect(),
        sources,
        begun,
    };
    let frozen = seen_from(out, &compiled)?;
    write_learned_of_parts(&learned, &evidence, replace)?;
    write_file(out, frozen.as_bytes(), replace)?;
    let (recipe, out) = (shell_word(&path), shell_word(&out.display().to_string()));
    let evidence = shell_word(&evidence.display().to_string());
    if !left.is_empty() {
        let (step, learns) = if left.len() == 1 { ("step", "learns") } else { ("steps", "learn") };
        let why = if is_again {
            "in a second pass: what may come often enough is known now, and is counted in it"
        } else {
            "next"
        };
        screen.tell(&format!(
            "note: {step} {} {learns} {why}. Write lessons of all parts again with `--learned {evidence}`, and put them together with the same",
            left.join(" and ")
        ));
        return Ok(Exit::Found);
    }
    screen.tell(&format!("the recipe with all that it learned is {out}, the evidence {evidence}; now"));
    screen
        .tell(&format!("  {} run {recipe} SOURCE… --learned {evidence} --part K/N --out part-K", program()));
    if learned.copies.is_empty() {
        screen.tell(&format!("  {} pipe {out}", program()));
    }
    Ok(Exit::Done)
}

/// The recipe with all that it learned, as it is to stand in the place `out`: with its files named from there.
fn seen_from(out: &Path, compiled: &Compiled) -> Result<String, Failure> {
    let folder = |path: &Path| {
        let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty());
        folder.unwrap_or(Path::new(".")).canonicalize().ok()
    };
    let given = Path::new(&compiled.path);
    let (from, to) = (folder(out), folder(given));
    if from == to {
        return Ok(compiled.frozen.clone());
    }
    let failed = |why: &str| {
        Failure::Sentence(format!(
            "{}: the files that {} names cannot be named from there: {why}; write it beside the recipe",
            out.display(),
            compiled.path
        ))
    };
    let file = to.and_then(|to| Some(to.join(given.file_name()?)));
    let path = from.zip(file).and_then(|(from, file)| way(&from, &file));
    let Some(path) = path else { return Err(failed("the path is not valid text")) };
    let text = recipe::moved(&compiled.frozen, &path).map_err(|why| failed(&why.to_string()))?;
    // It must run where it is written.
    compile_text(&out.display().to_string(), text.clone(), text.clone())?;
    Ok(text)
}

/// What all parts have to say together.
enum Sum {
    Learned(Vec<LearnedByStep>),
    /// Another pass is needed, which begins with this.
    Begun(Vec<LessonKept>),
}

/// Adds up what parts have to say, and how many documents they have; and tells of which sources numbered parts are.
fn sum_of(before: &LearnedBefore, files: &[PathBuf]) -> Result<(Sum, u64, Vec<OriginalRecord>), Failure> {
    let to_learn = before.to_learn()?;
    let mut sum = before.resumed(&to_learn)?.unwrap_or_else(|| to_learn.begin());
    let mut belonging =
        Belonging { origin: before.origin(), parts: Vec::new(), whole: None, sources: HashMap::new() };
    let mut documents = 0;
    for file in files {
        let lessons = read_lessons(file)?;
        belonging.check(file, &lessons)?;
        documents += lessons.documents;
        let learning = to_learn.resume(lessons.kept).ok_or_else(|| Failure::File {
            path: file.display().to_string(),
            why: "its lessons do not fit the recipe".to_owned(),
        })?;
        sum.absorb(learning);
    }
    let sources = belonging.are_all()?;
    let sum = if sum.needs_another_pass() { Sum::Begun(sum.kept()) } else { Sum::Learned(sum.learned()) };
    Ok((sum, documents, sources))
}

/// What lessons have in common, and which there were.
struct Belonging {
    origin: LessonOrigin,
    parts: Vec<Option<Part>>,
    /// Of numbered parts: what was said of their collection, and its sources.
    whole: Option<(String, Vec<OriginalRecord>)>,
    /// The sources of parts that are no numbered ones, by their hashes, and whose they are.
    sources: HashMap<String, PathBuf>,
}

impl Belonging {
    fn check(&mut self, file: &Path, lessons: &Lessons) -> Result<(), Failure> {
        let refused = |why: String| Err(Failure::File { path: file.display().to_string(), why });
        let (ours, theirs) = (&self.origin, &lessons.origin);
        if ours.yarrup != theirs.yarrup {
            return refused(format!("was written by version {} of yarrup", theirs.yarrup));
        }
        if ours.recipe != theirs.recipe {
            return refused("holds the lessons of another recipe".to_owned());
        }
        if let Some((name, _)) = theirs.lists.iter().find(|list| !ours.lists.contains(list)) {
            return refused(format!("`{}`, which the recipe names, was another then", visible(name)));
        }
        if ours.before != theirs.before {
            return refused("was written with another --learned than is given here".to_owned());
        }
        if lessons.part.is_none() {
            let both = |source: &OriginalRecord| format!("{} {}", source.hash, source.name);
            for source in lessons.sources.iter().filter(|source| source.bytes > 0) {
                if let Some(other) = self.sources.insert(both(source), file.to_owned()) {
                    let name = visible(&source.name);
                    return refused(format!(
                        "`{name}` is in {} as well, and would be counted twice",
                        other.display()
                    ));
                }
            }
        }
        if lessons.part.is_some() {
            let theirs = (lessons.collection.clone(), lessons.sources.clone());
            if *self.whole.get_or_insert_with(|| theirs.clone()) != theirs {
                return refused(
                    "is of another collection than the parts before, or was read with other options"
                        .to_owned(),
                );
            }
        }
        self.parts.push(lessons.part);
        Ok(())
    }

    /// Refuses numbered parts of which some are missing or there twice.
    fn are_all(mut self) -> Result<Vec<OriginalRecord>, Failure> {
        self.parts.sort();
        complete(&self.parts)
            .map_err(|why| Failure::Sentence(format!("the lessons are not of all parts: {why}")))?;
        Ok(self.whole.map_or_else(Vec::new, |(_, sources)| sources))
    }
}

/// What keeps parts, which are in order, from being all of one collection, if they are numbered.
pub(crate) fn complete(parts: &[Option<Part>]) -> Result<(), String> {
    let Some(of) = parts.iter().flatten().map(|part| part.of).next() else { return Ok(()) };
    for (expected, part) in (1..).zip(parts) {
        match part {
            None => return Err("one of them is not a numbered part".to_owned()),
            Some(part) if part.of != of => return Err(format!("there are parts of {of} and of {}", part.of)),
            Some(part) if part.number < expected => return Err(format!("part {part} is there twice")),
            Some(part) if part.number > expected => return Err(format!("part {expected}/{of} is missing")),
            Some(_) => {}
        }
    }
    let next = parts.len() as u32 + 1;
    if next <= of { Err(format!("part {next}/{of} is missing")) } else { Ok(()) }
}
