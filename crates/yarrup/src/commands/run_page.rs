//! The page and the figures of a run, drawn from its account and its record alone.

use std::sync::{Mutex, PoisonError};

use yarrup_core::step::Term;
use yarrup_core::study::{GroupCounts, TermTable};
use yarrup_core::{Account, Effect};
use yarrup_io::{RunError, RunRecord};
use yarrup_report::{
    Coverage, Figure, Fonts, GroupCells, GroupSection, ReportPage, StepRow, coverage, curve, grouped,
    percent, png, step_rows, top_terms, visible, visible_name,
};

use super::run_figures::{Choices, FIGURES, FigureData};
use super::run_show::sorted_matches;
use crate::failure::Failure;

/// How many terms the report lists.
const REPORT_TERMS: usize = 50;
/// The figures that the page shows.
const PAGE_FIGURES: [&str; 5] = ["effects", "rank-frequency", "cloud", "growth", "lengths"];

/// How many figures are drawn at a time.
const DRAWING: usize = 3;

/// Which figures are wanted.
#[derive(Clone, Copy, Debug)]
pub(crate) struct WantedFigures {
    /// All of them, as files.
    pub(crate) files: bool,
    /// Those of the page.
    pub(crate) page: bool,
}

/// Draws the figures that are wanted and that the run has something for, and writes each as SVG and PNG by its name in the run folder. Returns those
/// of the page.
pub(crate) fn draw_figures(
    data: &FigureData<'_>,
    choices: &Choices,
    (fonts, wanted): (&Fonts, WantedFigures),
    write: impl Fn(&str, &[u8]) -> Result<(), RunError> + Sync,
) -> Result<Vec<(&'static str, Figure)>, Failure> {
    let draw = |name: &'static str| -> Result<Option<(&'static str, Figure)>, Failure> {
        let of_page = wanted.page && PAGE_FIGURES.contains(&name);
        if !wanted.files && !of_page {
            return Ok(None);
        }
        let Some(figure) = data.draw(name, choices, fonts) else { return Ok(None) };
        if !wanted.files {
            return Ok(Some((name, figure)));
        }
        write(&format!("figures/{name}.svg"), figure.svg.as_bytes())?;
        let pixels = png(&figure, fonts).map_err(|why| Failure::Sentence(why.to_string()))?;
        write(&format!("figures/{name}.png"), &pixels)?;
        Ok(of_page.then_some((name, figure)))
    };
    // A few at a time: each takes some megabytes while it is drawn. The last takes longest, and begins first.
    let left = Mutex::new(FIGURES.map(|(name, _)| name).to_vec());
    let next = || left.lock().unwrap_or_else(PoisonError::into_inner).pop();
    let drawn: Vec<Result<Option<(&str, Figure)>, Failure>> = std::thread::scope(|scope| {
        let work = || std::iter::from_fn(next).map(draw).collect::<Vec<_>>();
        let threads: Vec<_> = (0..DRAWING).map(|_| scope.spawn(work)).collect();
        let joined = threads.into_iter();
        joined
            .flat_map(|thread| thread.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic)))
            .collect()
    });
    let mut of_page = Vec::new();
    for figure in drawn {
        of_page.extend(figure?);
    }
    Ok(of_page)
}

/// What the page is drawn from.
pub(crate) struct Drawn<'a> {
    pub(crate) recipe_text: &'a str,
    pub(crate) record: &'a RunRecord,
    pub(crate) account: &'a Account,
    pub(crate) effects: &'a [Effect],
    pub(crate) vocabulary: &'a [Term<'a>],
    pub(crate) figures: Vec<(&'static str, Figure)>,
    /// The values of a field that are compared, and its name.
    pub(crate) groups: Option<(String, TermTable)>,
}

impl Drawn<'_> {
    /// The page, as HTML.
    pub(crate) fn html(self) -> Result<String, Failure> {
        let (steps, covers) = (step_rows(self.effects), coverage(self.vocabulary));
        let page = self.page(steps, covers);
        page.html().map_err(|why| Failure::File { path: "report.html".to_owned(), why: why.to_string() })
    }

    fn page(self, steps: Vec<StepRow>, coverage: Vec<Coverage>) -> ReportPage {
        let totals = &self.record.totals;
        let facts = [
            (grouped(totals.documents), "documents".to_owned()),
            (grouped(totals.tokens_found), "tokens as found".to_owned()),
            (grouped(totals.types_found), "distinct words as found".to_owned()),
            (grouped(totals.tokens_kept), "tokens kept".to_owned()),
            (grouped(totals.terms), "terms".to_owned()),
            (percent(totals.tokens_kept, totals.tokens_found), "of the tokens as found are left".to_owned()),
        ];
        ReportPage {
            recipe: self.account.origin.name.clone(),
            about: self.account.origin.about.clone(),
            sources: named_sources(self.record),
            facts: facts.into(),
            warnings: self.record.warnings.clone(),
            steps,
            left_out: left_out(self.account)
                .into_iter()
                .map(|(step, reason, count)| [step, reason, grouped(count)])
                .collect(),
            matches: sorted_matches(&self.account.matches()),
            top: top_terms(self.vocabulary, REPORT_TERMS),
            terms: totals.terms,
            curve: curve(self.vocabulary),
            coverage,
            recipe_text: self.recipe_text.to_owned(),
            groups: self.groups.as_ref().map(|(field, table)| groups(field, table)),
            figures: self.figures,
        }
    }
}

/// How many values of a field are compared on the page, and how many terms each names.
const PAGE_GROUPS: (usize, usize) = (24, 10);
/// Terms with fewer tokens mark no group.
const LEAST_KEY: u64 = 3;

/// Documents, tokens and terms of each value of a field, and the terms that mark it.
fn groups(field: &str, table: &TermTable) -> GroupSection {
    let all: u64 = table.groups().iter().map(|group| group.tokens).sum();
    let row = |(number, group): (usize, &GroupCounts)| GroupCells {
        name: visible_name(&group.name),
        documents: grouped(group.documents),
        tokens: grouped(group.tokens),
        share: percent(group.tokens, all),
        terms: grouped(group.terms),
        key_terms: table
            .key_terms(number, LEAST_KEY)
            .iter()
            .take(PAGE_GROUPS.1)
            .map(|key| {
                (
                    visible_name(key.term),
                    format!("{} here, {} elsewhere, G² {:.1}", key.count, key.elsewhere, key.keyness.g2),
                )
            })
            .collect(),
    };
    let rows = table.groups().iter().enumerate().take(PAGE_GROUPS.0).map(row).collect();
    GroupSection {
        field: visible_name(field),
        rows,
        more: table.groups().len().saturating_sub(PAGE_GROUPS.0),
    }
}

/// The documents that steps left out: the step, the reason, how many.
pub(super) fn left_out(account: &Account) -> Vec<(String, String, u64)> {
    let row = |(step, reason, count): (usize, &str, u64)| {
        let record = &account.steps[step - 1];
        let name = record.label.as_ref().unwrap_or(&record.operation);
        (format!("{step} {}", visible(name)), visible(reason), count)
    };
    account.documents_left_out().into_iter().map(row).collect()
}

/// How many sources the report names.
const NAMED_SOURCES: usize = 12;

/// The first sources by name, and how many more there are.
fn named_sources(record: &RunRecord) -> Vec<String> {
    let files: Vec<_> = record.sources.iter().filter(|source| !source.is_wrapping()).collect();
    let mut named: Vec<_> = files.iter().take(NAMED_SOURCES).map(|source| visible(&source.name)).collect();
    if files.len() > named.len() {
        named.push(format!("and {} more", grouped((files.len() - named.len()) as u64)));
    }
    named
}
