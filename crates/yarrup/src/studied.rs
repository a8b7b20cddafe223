//! A run that is done, as the commands that study it find it.

use std::path::{Path, PathBuf};

use yarrup_core::Condition;
use yarrup_io::{Holding, RunDocuments, RunRecord, Source, read_file_of, read_run};

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

    /// What a document says that its recipe does not make of it what the run made.
    pub(crate) fn changed(&self, id: &str) -> Failure {
        Failure::Sentence(format!(
            "{}: the recipe makes something else of document `{id}` now than the run did, so a word list or a dictionary that it needs has changed; \
             make the run again",
            self.path.display()
        ))
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
