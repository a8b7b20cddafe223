//! A run that is done, as the commands that study it find it.

use std::borrow::Cow;
use std::path::{Path, PathBuf};

use yarrup_core::{Cleaned, Condition, Fields, Outputs, Worker};
use yarrup_io::{Holding, Record, RunDocuments, RunRecord, Source, read_file_of, read_run};

use crate::failure::Failure;
use crate::recipe_file::{Compiled, compile};

/// A run that is done.
pub(crate) struct Studied {
    pub(crate) path: PathBuf,
    pub(crate) record: RunRecord,
    /// The recipe with all that was learned.
    pub(crate) compiled: Compiled,
}

impl Studied {
    /// The run in this folder, with its recipe ready to run.
    pub(crate) fn open(path: &Path) -> Result<Studied, Failure> {
        let record = read_run(path)?;
        read_file_of(path, &record, record.frozen_recipe())?;
        let compiled = compile(&path.join(record.frozen_recipe()))?;
        Ok(Studied { path: path.to_owned(), record, compiled })
    }

    /// Its documents for which all these conditions hold, and of which the lines hold these bytes.
    pub(crate) fn documents(
        &self,
        conditions: &[Condition],
        holding: Holding,
    ) -> Result<(RunDocuments, Source), Failure> {
        let documents = RunDocuments::of(&self.path, &self.record)?;
        let source = documents.open(conditions, holding)?;
        Ok((documents, source))
    }

    /// The original text of a document of the run.
    pub(crate) fn original<'d>(&self, record: &'d Record<'_>) -> Result<Cow<'d, str>, Failure> {
        let run = || self.path.display().to_string();
        record.field("text").ok_or_else(|| Failure::NoOriginals { run: run(), instead: "" })
    }

    /// What a document says that its recipe does not make of it what the run made.
    fn changed(&self, id: &str) -> Failure {
        Failure::Sentence(format!(
            "{}: the recipe makes something else of document `{id}` now than the run did, so a word list or a dictionary that it needs has changed; \
             make the run again",
            self.path.display()
        ))
    }
}

/// Takes documents of a run through its recipe again.
pub(crate) struct Again<'r> {
    run: &'r Studied,
    outputs: Outputs,
    /// Made for the first document: most searches need none.
    worker: Option<Worker<'r>>,
}

impl<'r> Again<'r> {
    /// What gives this much of each document; its cleaned text is always made, to be compared.
    pub(crate) fn new(run: &'r Studied, outputs: Outputs) -> Again<'r> {
        Again { run, outputs: Outputs { clean: true, ..outputs }, worker: None }
    }

    /// What the recipe makes of a document with this original text: what the run made of it, or it is an error.
    pub(crate) fn document(&mut self, record: &Record<'_>, original: &str) -> Result<Cleaned<'_>, Failure> {
        let (run, outputs) = (self.run, self.outputs);
        let worker = self.worker.get_or_insert_with(|| Worker::new(&run.compiled.pipeline, outputs));
        let cleaned = worker.document(original, record);
        if record.field("clean").is_some_and(|clean| clean != cleaned.clean) {
            return Err(run.changed(&record.field("id").unwrap_or_default()));
        }
        Ok(cleaned)
    }
}

/// Refuses to write into the run that is being read.
pub(crate) fn refuse_inside(out: &Path, run: &Path) -> Result<(), Failure> {
    let folder = out.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let (Ok(folder), Ok(run)) = (folder.canonicalize(), run.canonicalize()) else { return Ok(()) };
    if folder.starts_with(&run) {
        return Err(Failure::Sentence(format!(
            "{}: lies in the run folder, which holds what the run wrote and nothing else; choose another place",
            out.display()
        )));
    }
    Ok(())
}
