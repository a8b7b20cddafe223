//! The page itself: one file, without network, whose data are packed in blocks that are unpacked when they are needed.

use std::io::{self, Write as _};
use std::num::NonZero;
use std::ops::Range;

use askama::Template;
use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;
use flate2::Compression;
use flate2::write::GzEncoder;
use serde::Serialize;
use serde_json::json;
use yarrup_core::in_order;

use super::data::ReportData;
use super::overview::{DocumentsNamed, Overview};
use super::tables::{RankColumn, RowDetails};
use crate::figure::Figure;
use crate::html::{BASE_SCRIPT, BASE_STYLE, SHELL_STYLE, policy, within_script};
use crate::numbers::{counted, grouped, percent};
use crate::terminal::{StepRow, step_table, visible};

/// The scripts of the page, in the order in which they run.
const SCRIPTS: [&str; 11] = [
    include_str!("../../assets/vendor/uplot/uPlot.iife.min.js"),
    include_str!("../../assets/vendor/tabulator/tabulator.min.js"),
    BASE_SCRIPT,
    include_str!("../../assets/explorer/model.js"),
    include_str!("../../assets/explorer/panel.js"),
    include_str!("../../assets/explorer/tables.js"),
    include_str!("../../assets/explorer/figures.js"),
    include_str!("../../assets/explorer/terms.js"),
    include_str!("../../assets/explorer/documents.js"),
    include_str!("../../assets/explorer/overview.js"),
    include_str!("../../assets/explorer/start.js"),
];

/// The styles of the page.
const STYLES: [&str; 5] = [
    include_str!("../../assets/vendor/uplot/uPlot.min.css"),
    include_str!("../../assets/vendor/tabulator/tabulator_simple.min.css"),
    BASE_STYLE,
    SHELL_STYLE,
    include_str!("../../assets/explorer/explorer.css"),
];

/// How many rows of the table of terms, forms and documents a block holds.
const ROWS_OF_BLOCK: usize = 4_096;
const FORMS_OF_BLOCK: usize = 8_192;
const DOCUMENTS_OF_BLOCK: usize = 32;
/// How hard blocks are packed: at twice the level they get smaller by a thirtieth, and take three times as long.
const PACKING: Compression = Compression::new(2);
/// How many columns with fields the list of documents has, and how long their values may be.
const FIELD_COLUMNS: usize = 3;
const LONGEST_VALUE: usize = 60;

/// The page of a run, to be made.
pub struct ExplorerPage<'a> {
    /// What it shows.
    pub data: &'a ReportData<'a>,
    /// The effect of every step, for its table.
    pub steps: &'a [StepRow],
    /// The picture of words.
    pub cloud: Option<&'a Figure>,
}

/// What keeps a page from being made: a fault of the program, or of the system.
#[derive(Debug, thiserror::Error)]
pub enum PageError {
    /// The template cannot be filled in.
    #[error(transparent)]
    Template(#[from] askama::Error),
    /// A block cannot be written as JSON.
    #[error(transparent)]
    Json(#[from] serde_json::Error),
    /// A block cannot be packed.
    #[error(transparent)]
    Packing(#[from] io::Error),
}

#[derive(Template)]
#[template(path = "explorer.html")]
struct Page<'a> {
    overview: &'a Overview,
    policy: String,
    styles: &'a [&'a str],
    scripts: &'a [&'a str],
    overview_json: String,
    blocks: Vec<(String, String)>,
    facts: Vec<(String, &'static str)>,
    columns: Vec<&'static str>,
    steps: Vec<Vec<String>>,
    cloud: String,
    has_groups: bool,
    terms_told: String,
    documents_told: String,
}

impl Page<'_> {
    /// The ids of the first documents, and how many more there are; nothing where none is known.
    fn ids(named: &DocumentsNamed) -> String {
        if named.ids.is_empty() {
            return String::new();
        }
        let mut told = named.ids.iter().map(|id| visible(id)).collect::<Vec<_>>().join(", ");
        let more = named.documents - (named.ids.len() as u64).min(named.documents);
        if more > 0 {
            told.push_str(&format!(" and {} more", grouped(more)));
        }
        told
    }

    fn examples(examples: &[String]) -> String {
        examples.iter().map(|example| visible(example)).collect::<Vec<_>>().join(" · ")
    }
}

/// The page as HTML.
///
/// # Errors
///
/// If it cannot be put together.
pub fn explorer_html(page: &ExplorerPage<'_>) -> Result<String, PageError> {
    let overview = &page.data.overview;
    let mut json = serde_json::to_value(overview)?;
    json["blocks"] =
        json!({ "rows": ROWS_OF_BLOCK, "forms": FORMS_OF_BLOCK, "documents": DOCUMENTS_OF_BLOCK });
    let (columns, steps) = step_table(page.steps);
    let totals = &overview.totals;
    let html = Page {
        overview,
        policy: policy(&SCRIPTS, &STYLES),
        styles: &STYLES,
        scripts: &SCRIPTS,
        overview_json: within_script(&json.to_string()),
        blocks: packed_blocks(page.data)?,
        facts: vec![
            (grouped(totals.documents), "documents"),
            (grouped(totals.tokens_found), "tokens as found"),
            (grouped(totals.types_found), "distinct words as found"),
            (grouped(totals.tokens_kept), "tokens kept"),
            (grouped(totals.terms), "terms"),
            (percent(totals.tokens_kept, totals.tokens_found), "of the tokens are left"),
        ],
        columns: columns.iter().map(|(name, _)| *name).collect(),
        steps,
        cloud: page.cloud.map(Figure::untitled).unwrap_or_default(),
        has_groups: page.data.groups.is_some(),
        terms_told: terms_told(overview),
        documents_told: documents_told(overview),
    }
    .render()?;
    Ok(html)
}

/// How much of the vocabulary the page shows.
fn terms_told(overview: &Overview) -> String {
    let shown = &overview.shown;
    let whole = (shown.terms, shown.others) == (shown.of_terms, shown.of_others);
    if whole {
        return format!(
            "All {} that are left, and all {} that were dropped or became part of others.",
            counted(shown.terms as u64, "term"),
            counted(shown.others as u64, "form")
        );
    }
    let why = if shown.documents > 0 { "those that stand in its documents" } else { "the commonest" };
    format!(
        "This page shows {} of {} that are left, and {} of {} that were dropped or became part of others: {why}. The tables beside it, vocabulary.csv and \
         forms.csv, hold all.",
        grouped(shown.terms as u64),
        counted(shown.of_terms as u64, "term"),
        grouped(shown.others as u64),
        counted(shown.of_others as u64, "form")
    )
}

/// How many of the documents the page shows.
fn documents_told(overview: &Overview) -> String {
    let shown = &overview.shown;
    if let Some(why) = &shown.without_documents {
        return why.clone();
    }
    let mut told = if shown.documents as u64 == shown.of_documents {
        format!("All {}.", counted(shown.of_documents, "document"))
    } else {
        format!(
            "This page shows {} of {}, chosen so that every term on it stands in one of them, up to three each while there was room.",
            grouped(shown.documents as u64),
            counted(shown.of_documents, "document")
        )
    };
    if shown.cut_documents > 0 {
        told.push_str(&format!(
            " Of {} the beginning alone is shown.",
            counted(shown.cut_documents as u64, "long document")
        ));
    }
    told
}

/// The blocks of the page, each by its name: what is needed at once, and what opens.
fn packed_blocks(data: &ReportData<'_>) -> Result<Vec<(String, String)>, PageError> {
    let mut blocks: Vec<(String, Box<dyn Block + Send + '_>)> = vec![
        ("terms-data".to_owned(), Box::new(TablesBlock { terms: &data.terms, forms: &data.forms })),
        ("figures-data".to_owned(), Box::new(FiguresBlock { figures: &data.figures, groups: &data.groups })),
        ("documents-data".to_owned(), Box::new(document_index(data))),
    ];
    let details = &data.details;
    for (number, rows) in ranges(details.documents.len(), ROWS_OF_BLOCK).enumerate() {
        blocks.push((format!("details-{number}"), Box::new(DetailsBlock::of(details, rows))));
    }
    for (number, changes) in details.changes.chunks(FORMS_OF_BLOCK).enumerate() {
        blocks.push((format!("changes-{number}"), Box::new(changes)));
    }
    for (number, documents) in data.documents.chunks(DOCUMENTS_OF_BLOCK).enumerate() {
        blocks.push((format!("texts-{number}"), Box::new(documents)));
    }
    let threads = std::thread::available_parallelism().map_or(1, NonZero::get);
    let (mut left, mut packed) = (blocks.into_iter(), Vec::new());
    in_order(
        threads,
        || Ok::<_, PageError>(left.next()),
        || (),
        |(), (name, block)| Ok((name, block.packed()?)),
        |block| {
            packed.push(block);
            Ok(())
        },
    )?;
    Ok(packed)
}

/// Stretches of so many out of all.
fn ranges(all: usize, of: usize) -> impl Iterator<Item = Range<usize>> {
    (0..all.div_ceil(of)).map(move |number| number * of..((number + 1) * of).min(all))
}

/// What can be packed.
trait Block: Sync {
    fn packed(&self) -> Result<String, PageError>;
}

impl<T: Serialize + Sync + ?Sized> Block for T {
    fn packed(&self) -> Result<String, PageError> {
        let mut packer = io::BufWriter::with_capacity(1 << 16, GzEncoder::new(Vec::new(), PACKING));
        serde_json::to_writer(&mut packer, self)?;
        packer.flush()?;
        let packer = packer.into_inner().map_err(io::IntoInnerError::into_error)?;
        Ok(STANDARD.encode(packer.finish()?))
    }
}

#[derive(Serialize)]
struct TablesBlock<'d, T, F> {
    terms: &'d T,
    forms: &'d F,
}

#[derive(Serialize)]
struct FiguresBlock<'d, F, G> {
    figures: &'d F,
    groups: &'d G,
}

/// What opens from some rows of the table of terms.
#[derive(Serialize)]
struct DetailsBlock<'d> {
    ranks: Vec<RanksBlock<'d>>,
    on_page: &'d [u32],
    documents: &'d [Vec<u32>],
    groups: &'d [Vec<(u32, u64)>],
}

#[derive(Serialize)]
struct RanksBlock<'d> {
    step: usize,
    ranks: &'d [u32],
}

impl<'d> DetailsBlock<'d> {
    fn of(details: &'d RowDetails<'_>, rows: Range<usize>) -> DetailsBlock<'d> {
        // Only terms have groups, and they stand first.
        let groups = rows.start.min(details.groups.len())..rows.end.min(details.groups.len());
        let ranks =
            |column: &'d RankColumn| RanksBlock { step: column.step, ranks: &column.ranks[rows.clone()] };
        DetailsBlock {
            ranks: details.ranks.iter().map(ranks).collect(),
            on_page: &details.on_page[rows.clone()],
            documents: &details.documents[rows.clone()],
            groups: &details.groups[groups],
        }
    }
}

/// The list of documents, with those fields that most have and that are short.
fn document_index(data: &ReportData<'_>) -> serde_json::Value {
    let documents = &data.documents;
    let mut names: Vec<(&str, usize)> = Vec::new();
    for document in documents {
        for (name, value) in &document.fields {
            if value.is_empty() || value.chars().count() > LONGEST_VALUE {
                continue;
            }
            match names.iter_mut().find(|(known, _)| known == name) {
                Some((_, count)) => *count += 1,
                None => names.push((name, 1)),
            }
        }
    }
    names.retain(|(_, count)| count * 2 >= documents.len());
    names.truncate(FIELD_COLUMNS);
    let values = |name: &str| {
        let value = |document: &super::documents::DocumentValue<'_>| {
            document
                .fields
                .get(name)
                .map_or_else(String::new, |value| value.chars().take(LONGEST_VALUE).collect())
        };
        documents.iter().map(value).collect::<Vec<String>>()
    };
    json!({
        "id": documents.iter().map(|document| document.id).collect::<Vec<_>>(),
        "before": documents.iter().map(|document| document.tokens_before).collect::<Vec<_>>(),
        "after": documents.iter().map(|document| document.tokens_after).collect::<Vec<_>>(),
        "fields": names.iter().map(|(name, _)| json!({ "name": name, "values": values(name) })).collect::<Vec<_>>(),
    })
}
