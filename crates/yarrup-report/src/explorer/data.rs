//! The value behind the page: all that it shows, as the core computed it.

use serde::Serialize;

use super::Explored;
use super::documents::DocumentValue;
use super::figures::FigureValues;
use super::overview::Overview;
use super::tables::{FormColumns, GroupValues, RowDetails, Shown, TermColumns};

/// The JSON Schema of [`ReportData`].
pub const SCHEMA: &str = include_str!("../../assets/report.schema.json");

/// The version of the value's layout. It grows with every change by which an older reader would misread it.
const VERSION: u32 = 1;

/// All that the page of a run shows. [`SCHEMA`] says what is what.
#[derive(Debug, Serialize)]
pub struct ReportData<'a> {
    schema: &'static str,
    version: u32,
    pub(super) overview: Overview,
    pub(super) figures: FigureValues<'a>,
    pub(super) groups: Option<GroupValues<'a>>,
    pub(super) terms: TermColumns<'a>,
    pub(super) forms: FormColumns<'a>,
    pub(super) details: RowDetails<'a>,
    pub(super) documents: Vec<DocumentValue<'a>>,
}

impl<'a> ReportData<'a> {
    /// The value of a run.
    pub fn of(explored: &Explored<'a>) -> ReportData<'a> {
        let shown = &Shown::of(explored);
        // What takes long goes over all forms or all documents: it is done at once.
        std::thread::scope(|scope| {
            let figures = scope.spawn(|| FigureValues::of(explored, shown));
            let details = scope.spawn(|| shown.details(explored));
            let documents = scope.spawn(|| shown.documents(explored));
            ReportData {
                schema: "yarrup-report",
                version: VERSION,
                overview: Overview::of(explored, shown),
                groups: explored.groups.map(|(field, table)| GroupValues::of(field, table)),
                terms: shown.terms(explored),
                forms: shown.forms(explored),
                documents: documents.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic)),
                figures: figures.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic)),
                details: details.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic)),
            }
        })
    }

    /// As JSON.
    ///
    /// # Errors
    ///
    /// If the value cannot be written as JSON, which is a fault of the program.
    pub fn json(&self) -> Result<String, serde_json::Error> {
        serde_json::to_string(self)
    }
}
