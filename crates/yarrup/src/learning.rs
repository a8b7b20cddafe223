//! What has to be learned from the whole collection before a recipe can run.

use std::path::Path;

use tempfile::{NamedTempFile, TempPath};
use yarrup_core::advice::Change;
use yarrup_core::step::Learned;
use yarrup_core::{ToLearn, advice};
use yarrup_io::{Collection, Item, LearnedStep, Source};
use yarrup_report::{counted, grouped, percent, visible};

use crate::failure::Failure;
use crate::recipe_file::{Compiled, compile_text};
use crate::screen::Screen;

/// The recipe with all that it has to learn written out, and compiled; as it came if there is nothing to learn. Reads the collection
/// once for every step that learns. Standard input is put aside for that, and lies where `collection` says as long as the second of
/// the results lives. What was learned is told and given back, with the evidence.
pub(crate) fn learned(
    mut compiled: Compiled,
    collection: &mut Collection,
    screen: &Screen,
) -> Result<(Compiled, Option<TempPath>, Vec<LearnedStep>), Failure> {
    let (mut spool, mut told) = (None, Vec::new());
    loop {
        let Some(to_learn) = ToLearn::first(&compiled.pipeline) else { return Ok((compiled, spool, told)) };
        let mut learner = to_learn.learner();
        let mut documents = 0;
        for source in collection.sources.iter_mut().filter(|source| source.is_standard_input()) {
            if spool.is_none() {
                spool = Some(put_aside().map_err(|why| Failure::File {
                    path: "standard input".into(),
                    why: format!("cannot be put aside to be read twice: {why}"),
                })?);
            }
            source.spool = spool.as_deref().map(Path::to_owned);
        }
        let mut source = Source::open(collection)?;
        let mut progress = screen.progress(source.bytes());
        while let Some(batch) = source.next_batch() {
            let bytes = batch.bytes();
            batch.records(|item| {
                if let Item::Document(record) = item {
                    documents += 1;
                    learner.document(&record.text, &record);
                }
                Ok::<(), Failure>(())
            })?;
            progress.advance(bytes);
        }
        progress.end();
        let step = to_learn.step();
        let learned = LearnedStep {
            step,
            operation: compiled.pipeline.steps()[step - 1].operation,
            learned: learner.learned(),
        };
        tell(&learned, documents, screen);
        let change = Change::Set { step, keys: vec![("known", known(&learned.learned))] };
        told.push(learned);
        let text = advice::mend(&compiled.frozen, &compiled.recipe, &change).ok_or_else(|| {
            let why = "cannot be written out: it comes from an included recipe, or a key of it stands on several lines";
            Failure::Told(format!("{}: what step {step} learns {why}", compiled.path))
        })?;
        compiled = compile_text(&compiled.path, compiled.text.clone(), text)?;
    }
}

/// How many of the things learned are shown.
const SHOWN: usize = 12;

/// Says what was learned, with the evidence of the first few.
fn tell(learned: &LearnedStep, documents: u64, screen: &Screen) {
    let what = match learned.operation {
        "lines" => "line",
        "phrases" => "phrase",
        "stopwords" => "stop word",
        "stem" => "word to show for a stem",
        _ => "term",
    };
    let count = learned.learned.len() as u64;
    let counted = match what {
        "word to show for a stem" if count != 1 => format!("{} words to show for stems", grouped(count)),
        what => counted(count, what),
    };
    let shown: Vec<String> = learned
        .learned
        .iter()
        .take(SHOWN)
        .map(|one| {
            let text = match &one.to {
                Some(to) => format!("{} as {}", visible(&one.text), visible(to)),
                None => visible(&one.text),
            };
            let evidence = match (learned.operation, one.score) {
                (_, Some(score)) => format!("{} times, {score:.2}", grouped(one.count)),
                ("stopwords", None) => format!("{} of documents", percent(one.documents, documents)),
                _ => format!("{} times", grouped(one.count)),
            };
            format!("{text} ({evidence})")
        })
        .collect();
    let more = learned.learned.len().saturating_sub(SHOWN) as u64;
    let more = if more > 0 { format!(" and {} more", grouped(more)) } else { String::new() };
    let list = if shown.is_empty() { String::new() } else { format!(": {}{more}", shown.join(", ")) };
    screen.tell(&format!("learned {counted} for step {} (`{}`){list}", learned.step, learned.operation));
}

/// What was learned, as the value of `known`: an array, or a table where pairs were learned.
fn known(learned: &[Learned]) -> String {
    let pairs = learned.iter().any(|one| one.to.is_some());
    let items: Vec<String> = learned
        .iter()
        .map(|one| match &one.to {
            Some(to) => format!("{} = {}", toml_text(&one.text), toml_text(to)),
            None => toml_text(&one.text),
        })
        .collect();
    let items = items.join(", ");
    if pairs { format!("{{ {items} }}") } else { format!("[{items}]") }
}

/// Writes standard input to a temporary file, which is deleted when the path is dropped.
fn put_aside() -> std::io::Result<TempPath> {
    let mut file = NamedTempFile::new()?;
    std::io::copy(&mut std::io::stdin().lock(), &mut file)?;
    Ok(file.into_temp_path())
}

/// Refuses a recipe that has to learn first, where there is no whole collection.
pub(crate) fn refuse_unlearned(compiled: &Compiled) -> Result<(), Failure> {
    match ToLearn::first(&compiled.pipeline) {
        None => Ok(()),
        Some(learner) => Err(Failure::Told(format!(
            "{}: step {} has to learn from a whole collection first: `yarrup run` does, and leaves `frozen.toml` for this",
            compiled.path,
            learner.step()
        ))),
    }
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
