//! A run folder, written whole: its account, tables, recipe, figures, page and record.

use yarrup_core::step::Term;
use yarrup_core::{Account, Effect};
use yarrup_io::{
    ACCOUNT_FILE, AgainstRecord, Collection, ORIGINALS_FILE, OriginalRecord, OriginalsRecord, ReadingRecord,
    RunFolder, RunRecord, SourceRecord, Summary, form_entry, term_entries, write_account, write_collection,
    write_effects, write_forms, write_growth, write_learned, write_lengths, write_matches, write_terms,
};
use yarrup_report::{Fonts, coverage, step_rows, visible, visible_name};

use super::show::{RunSummary, SHOWN_TERMS};
use super::{Noted, cannot_write, table_failed};
use crate::exploring::{SIZE_IN_RUN, Wish};
use crate::failure::Failure;
use crate::figures::{Choices, FigureData, GROWTH_FILE, LENGTHS_FILE, WantedFigures, draw_figures, missing};
use crate::recipe_file::Compiled;
use crate::screen::Screen;
use crate::studied::Studied;
use crate::timing::seconds;

/// A run of which everything is known, and the documents of which are written.
pub(crate) struct Whole<'a> {
    pub(crate) compiled: &'a Compiled,
    /// The copies of what the recipe names.
    pub(crate) inputs: &'a [(String, Vec<u8>)],
    /// What it names, as the record has it.
    pub(crate) word_lists: Vec<SourceRecord>,
    pub(crate) collection: &'a Collection,
    pub(crate) sources: &'a [SourceRecord],
    pub(crate) reading: &'a ReadingRecord,
    pub(crate) summary: &'a Summary,
    pub(crate) account: &'a Account,
    pub(crate) noted: &'a Noted,
    /// Where the original texts are, if the documents refer to them.
    pub(crate) originals: Option<&'a OriginalsRecord>,
    /// How the documents stand against those of an earlier run, if its recipe was taken.
    pub(crate) against: Option<&'a AgainstRecord>,
}

/// What is written of a run beside its account and its documents.
#[derive(Clone, Copy, Debug)]
pub(crate) struct WrittenWhole {
    /// Tables of terms, forms, effects and matches.
    pub(crate) tables: bool,
    /// Figures, as files.
    pub(crate) figures: bool,
    /// The page.
    pub(crate) report: bool,
}

impl Whole<'_> {
    /// Writes all that is not written yet, and gives the folder its name.
    pub(crate) fn write(
        &self,
        folder: RunFolder,
        wanted: WrittenWhole,
        screen: &Screen,
    ) -> Result<RunSummary, Failure> {
        let Whole { compiled, account, noted, .. } = *self;
        let (effects, vocabulary) = std::thread::scope(|scope| {
            let effects = scope.spawn(|| account.effects());
            let vocabulary = account.vocabulary();
            (effects.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic)), vocabulary)
        });
        if let Some(originals) = self.originals {
            folder.write(ORIGINALS_FILE, &originals.json())?;
        }
        let record = write_run(&folder, self, (&effects, &vocabulary), wanted, screen)?;
        let told = RunSummary {
            name: account.origin.name.clone(),
            steps: step_rows(&effects),
            top: vocabulary
                .iter()
                .take(SHOWN_TERMS)
                .map(|term| (visible_name(term.text), term.count))
                .collect(),
            coverage: coverage(&vocabulary),
            matches: account.matches(),
            left_out: left_out(account),
            folder: folder.named().display().to_string(),
            record: record.clone(),
            sizes: folder.sizes(),
            times: noted.times.as_ref().map(|times| {
                let part = times.bytes() as f64 / noted.bytes.max(1) as f64;
                (seconds(times, &compiled.pipeline, account, noted.bytes), part)
            }),
        };
        folder.finish(record)?;
        Ok(told)
    }
}

/// The documents that steps left out: the step, the reason, how many.
fn left_out(account: &Account) -> Vec<(String, String, u64)> {
    let row = |(step, reason, count): (usize, &str, u64)| {
        let record = &account.steps[step - 1];
        let name = record.label.as_ref().unwrap_or(&record.operation);
        (format!("{step} {}", visible(name)), visible(reason), count)
    };
    account.documents_left_out().into_iter().map(row).collect()
}

/// Writes everything but the record, which it returns.
fn write_run(
    folder: &RunFolder,
    whole: &Whole<'_>,
    (effects, vocabulary): (&[Effect], &[Term<'_>]),
    wanted: WrittenWhole,
    screen: &Screen,
) -> Result<RunRecord, Failure> {
    let Whole { compiled, account, noted, .. } = *whole;
    let data = FigureData { account, effects, vocabulary, growth: &noted.growth, lengths: &noted.lengths };
    let fonts = Fonts::default();
    // The figures take as long as the tables, and so does the account: all at once.
    let cloud = std::thread::scope(|scope| {
        let figures = scope.spawn(|| {
            let wanted = WantedFigures { files: wanted.figures, page: wanted.report };
            draw_figures(&data, &Choices::default(), (&fonts, wanted), |name, content| {
                folder.write(name, content)
            })
        });
        let packed = scope.spawn(|| {
            write_account(account, folder.file(ACCOUNT_FILE)?)
                .map_err(|why| cannot_write(folder, ACCOUNT_FILE, &why))
        });
        let forms = scope.spawn(|| {
            if !wanted.tables {
                return Ok(());
            }
            write_forms(account.forms().map(|row| form_entry(account, &row)), folder.file("forms.csv")?)
                .map_err(|why| cannot_write(folder, "forms.csv", &why))
        });
        write_tables(folder, whole, (effects, vocabulary), wanted)?;
        folder.write("recipe.toml", compiled.text.as_bytes())?;
        for (name, content) in whole.inputs {
            folder.write(name, content)?;
        }
        // The recipe as given is the frozen one where nothing had to be learned.
        if compiled.frozen != compiled.text {
            folder.write("frozen.toml", compiled.frozen.as_bytes())?;
        }
        for thread in [packed, forms] {
            thread.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic))?;
        }
        figures.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic))
    })?;
    let record = whole.record((effects, vocabulary), missing(&fonts));
    if wanted.report {
        // The page shows documents of the run: they are read as they were written.
        let run = Studied::open(folder.so_far(record.clone())?)?;
        let page = data
            .material(&run, &compiled.text, cloud.as_ref())
            .html(&Wish { by: None, size: SIZE_IN_RUN, quick: true }, screen)?;
        folder.write("report.html", page.as_bytes())?;
    }
    Ok(record)
}

fn write_tables(
    folder: &RunFolder,
    whole: &Whole<'_>,
    (effects, vocabulary): (&[Effect], &[Term<'_>]),
    wanted: WrittenWhole,
) -> Result<(), Failure> {
    let Whole { account, noted, .. } = *whole;
    let file = |name: &str| folder.file(name);
    write_lengths(&noted.lengths, file(LENGTHS_FILE)?).map_err(table_failed(folder, LENGTHS_FILE))?;
    if !wanted.tables {
        return Ok(());
    }
    let names: Vec<&str> =
        noted.weights.iter().flat_map(|(weights, _)| weights).map(|weight| weight.name()).collect();
    let weighed = term_entries(account, vocabulary).map(|entry| {
        let weights = noted.weights.iter().flat_map(|(weights, table)| {
            weights.iter().map(|weight| table.weight(*weight, entry.term)).collect::<Vec<_>>()
        });
        let weights = weights.collect();
        (entry, weights)
    });
    write_terms(weighed, &names, file("vocabulary.csv")?).map_err(table_failed(folder, "vocabulary.csv"))?;
    if !noted.growth.is_empty() {
        write_growth(&noted.growth, file(GROWTH_FILE)?).map_err(table_failed(folder, GROWTH_FILE))?;
    }
    write_effects(effects, file("effects.csv")?).map_err(table_failed(folder, "effects.csv"))?;
    write_matches(&account.matches(), file("matches.csv")?).map_err(table_failed(folder, "matches.csv"))?;
    if !account.learned.is_empty() {
        write_learned(&account.learned, file("learned.csv")?).map_err(table_failed(folder, "learned.csv"))?;
    }
    Ok(())
}

/// Where the original texts are that the documents refer to.
pub(crate) fn referred(
    folder: &RunFolder,
    collection: &Collection,
    sources: &[SourceRecord],
    (summary, left_out): (&Summary, &[u64]),
) -> Result<OriginalsRecord, Failure> {
    let collection = collection.with_paths(|path| folder.path_to(path)).ok_or_else(|| {
        let why = "the way from the run to its sources cannot be written as text; use --with-originals";
        Failure::Sentence(format!("{}: {why}", folder.named().display()))
    })?;
    // What lies in another file, under whatever name, is read with it.
    let sources = sources.iter().filter(|file| !file.inside).map(|file| OriginalRecord {
        name: file.name.clone(),
        bytes: file.bytes,
        hash: file.hash.clone(),
    });
    let sources = sources.collect();
    let left_out = left_out.iter().map(|order| summary.number(*order)).collect();
    Ok(OriginalsRecord { collection: write_collection(&collection), sources, left_out })
}
