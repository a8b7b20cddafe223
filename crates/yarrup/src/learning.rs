//! What has to be learned from the whole collection before a recipe can run.

use std::path::Path;

use tempfile::{NamedTempFile, TempPath};
use yarrup_core::Learner;
use yarrup_core::recipe::{self, Change};
use yarrup_io::{Collection, Item, Source};

use crate::failure::Failure;
use crate::recipe_file::{Compiled, compile_text};
use crate::screen::Screen;

/// The recipe with all that it has to learn written out, and compiled; as it came if there is nothing to learn. Reads the collection
/// once for every step that learns. Standard input is put aside for that, and lies where `collection` says as long as the second of
/// the results lives.
pub(crate) fn learned(
    mut compiled: Compiled,
    collection: &mut Collection,
    screen: &Screen,
) -> Result<(Compiled, Option<TempPath>), Failure> {
    let mut spool = None;
    loop {
        let Some(mut learner) = Learner::new(&compiled.pipeline) else { return Ok((compiled, spool)) };
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
                    learner.document(&record.text, &record);
                }
                Ok::<(), Failure>(())
            })?;
            progress.advance(bytes);
        }
        progress.end();
        let (step, lines) = learner.learned();
        let known: Vec<String> = lines.iter().map(|line| toml_text(line)).collect();
        let change = Change::Set { step, keys: vec![("known", format!("[{}]", known.join(", ")))] };
        let text = recipe::mend(&compiled.frozen, &compiled.recipe, &change).ok_or_else(|| {
            let why = "cannot be written out: it comes from an included recipe, or a key of it stands on several lines";
            Failure::Told(format!("{}: what step {step} learns {why}", compiled.path))
        })?;
        compiled = compile_text(&compiled.path, compiled.text.clone(), text)?;
    }
}

/// Writes standard input to a temporary file, which is deleted when the path is dropped.
fn put_aside() -> std::io::Result<TempPath> {
    let mut file = NamedTempFile::new()?;
    std::io::copy(&mut std::io::stdin().lock(), &mut file)?;
    Ok(file.into_temp_path())
}

/// Refuses a recipe that has to learn first, where there is no whole collection.
pub(crate) fn refuse_unlearned(compiled: &Compiled) -> Result<(), Failure> {
    match Learner::new(&compiled.pipeline) {
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
