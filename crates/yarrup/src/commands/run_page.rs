//! The page and the figures of a run, drawn from its account and its record alone.

use yarrup_core::step::Term;
use yarrup_core::{Account, Effect};
use yarrup_io::{RunError, RunRecord};
use yarrup_report::{
    Coverage, Figure, ReportPage, StepRow, coverage, curve, effect_figure, grouped, percent, png,
    rank_frequency_figure, step_rows, terms_figure, top_terms, visible, visible_name,
};

use super::run_show::sorted_matches;
use crate::failure::Failure;

/// The table of how the vocabulary grows.
pub(crate) const GROWTH_FILE: &str = "growth.csv";
/// The table of the lengths of documents.
pub(crate) const LENGTHS_FILE: &str = "lengths.csv";

/// How many terms the figure of the top terms shows.
pub(crate) const FIGURE_TERMS: usize = 30;
/// How many terms the report lists.
const REPORT_TERMS: usize = 50;

/// What the page is drawn from.
pub(crate) struct Drawn<'a> {
    pub(crate) recipe_text: &'a str,
    pub(crate) record: &'a RunRecord,
    pub(crate) account: &'a Account,
    pub(crate) effects: &'a [Effect],
    pub(crate) vocabulary: &'a [Term<'a>],
}

impl Drawn<'_> {
    /// Writes the figures and the page, each by its name in the run folder.
    pub(crate) fn write(&self, write: impl Fn(&str, &[u8]) -> Result<(), RunError>) -> Result<(), Failure> {
        let name = &self.account.origin.name;
        let steps = step_rows(self.effects);
        let covers = coverage(self.vocabulary);
        let counts: Vec<u64> = self.vocabulary.iter().map(|term| term.count).collect();
        let top: Vec<(String, u64)> = self
            .vocabulary
            .iter()
            .take(REPORT_TERMS)
            .map(|term| (visible_name(term.text), term.count))
            .collect();
        let cover_lines: Vec<(f64, u64)> = covers.iter().map(|cover| (cover.share, cover.terms)).collect();
        let figures: [(&str, Figure); 3] = [
            ("effects", effect_figure(name, &steps)),
            ("top-terms", terms_figure(name, &top)),
            ("rank-frequency", rank_frequency_figure(name, &counts, &cover_lines)),
        ];
        for (file, figure) in &figures {
            write(&format!("figures/{file}.svg"), figure.svg.as_bytes())?;
            let pixels = png(figure).map_err(|why| Failure::Sentence(why.to_string()))?;
            write(&format!("figures/{file}.png"), &pixels)?;
        }
        let [(_, effects), _, (_, curve)] = figures;
        let page = self.page(steps, covers, vec![effects, curve]);
        let html = page
            .html()
            .map_err(|why| Failure::File { path: "report.html".to_owned(), why: why.to_string() })?;
        write("report.html", html.as_bytes())?;
        Ok(())
    }

    fn page(&self, steps: Vec<StepRow>, coverage: Vec<Coverage>, figures: Vec<Figure>) -> ReportPage {
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
            figures,
        }
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
