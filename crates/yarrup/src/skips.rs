//! What gave no document: counted, the first of it kept, all of it written as it comes.

use std::fs::File;
use std::io::BufWriter;

use yarrup_io::{Malformed, RunFolder, SkippedTable, Why};

use crate::failure::{Failure, told};

/// How many are kept to be named one by one.
const KEPT: usize = 10;

/// Records and files that gave no document.
#[derive(Default)]
pub(crate) struct Skips {
    /// The first ones.
    pub(crate) first: Vec<Malformed>,
    /// Malformed records.
    pub(crate) records: u64,
    /// Files that were not read whole.
    pub(crate) files: u64,
    table: Option<SkippedTable<BufWriter<File>>>,
}

impl Skips {
    /// Counts them, and keeps the first ones.
    pub(crate) fn note(&mut self, skipped: Vec<Malformed>) {
        for malformed in skipped {
            match malformed.why {
                Why::File(_) => self.files += 1,
                _ => self.records += 1,
            }
            if self.first.len() < KEPT {
                self.first.push(malformed);
            }
        }
    }

    /// Counts them, and writes them into the run's `skipped.csv`: there may be more than memory holds.
    pub(crate) fn write(&mut self, skipped: Vec<Malformed>, folder: &RunFolder) -> Result<(), Failure> {
        let failed = |why| Failure::File { path: "skipped.csv".into(), why: format!("{why}") };
        if !skipped.is_empty() {
            if self.table.is_none() {
                self.table = Some(SkippedTable::new(folder.file("skipped.csv")?).map_err(failed)?);
            }
            if let Some(table) = &mut self.table {
                skipped.iter().try_for_each(|malformed| table.write(malformed)).map_err(failed)?;
            }
        }
        self.note(skipped);
        Ok(())
    }

    /// Ends the table.
    pub(crate) fn finish(&mut self) -> Result<(), Failure> {
        match self.table.take() {
            Some(table) => table
                .finish()
                .map_err(|why| Failure::File { path: "skipped.csv".into(), why: why.to_string() }),
            None => Ok(()),
        }
    }

    /// How many there are.
    pub(crate) fn count(&self) -> u64 {
        self.records + self.files
    }

    /// The failure of having no document for them, if there are any.
    pub(crate) fn failure(&self) -> Option<Failure> {
        let first = self.first.first()?;
        let others = match self.count() - 1 {
            0 => String::new(),
            1 => "; 1 other skipped as well".to_owned(),
            others => format!("; {} others skipped as well", yarrup_report::grouped(others)),
        };
        Some(Failure::Told(format!("no document could be read; {}{others}", told(first))))
    }
}
