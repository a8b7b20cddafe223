//! The value behind the page: all that it shows, as the core computed it.

use std::collections::BTreeMap;

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
        let shown = Shown::of(explored);
        let documents = shown.documents(explored);
        let overview = Overview::of(explored, &shown);
        ReportData {
            schema: "yarrup-report",
            version: VERSION,
            figures: FigureValues::of(explored, &shown),
            groups: explored.groups.map(|(field, table)| GroupValues::of(field, table)),
            details: shown.details(explored),
            terms: shown.terms(explored),
            forms: shown.forms(explored),
            overview,
            documents,
        }
    }

    /// How many documents are shown.
    pub fn document_count(&self) -> usize {
        self.documents.len()
    }

    /// How many rows the table of terms has: those that are left, and those that went.
    pub fn row_count(&self) -> usize {
        self.details.documents.len()
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

/// Fields by their names, in the order of these.
pub(super) type FieldValues<'a> = BTreeMap<&'a str, &'a str>;
