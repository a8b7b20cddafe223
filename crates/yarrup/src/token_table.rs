//! The tables of the tokens of documents, and of the terms that they come to.

use std::collections::HashMap;
use std::fmt::Write as _;

use yarrup_core::{Cleaned, EndedToken, Fields, FormFate, Pipeline};
use yarrup_io::{Record, RowColumn, RowTable, RowType, Rows};

/// What a table of tokens has beside the tokens.
#[derive(Clone, Debug, Default)]
pub(crate) struct TokenTable {
    /// Fields of the documents.
    pub(crate) fields: Vec<String>,
    /// Whether tokens are in it that were dropped or joined, and their fates.
    pub(crate) dropped: bool,
}

fn with_fields(fields: &[String], columns: &[(&str, RowType)]) -> Vec<RowColumn> {
    let document = [RowColumn::new("document", RowType::Text)];
    let fields = fields.iter().map(|field| RowColumn::new(field, RowType::Text));
    document
        .into_iter()
        .chain(fields)
        .chain(columns.iter().map(|(name, kind)| RowColumn::new(name, *kind)))
        .collect()
}

/// The id of a document and these fields of it, as the first cells of a row.
fn add_document(id: &str, record: &Record<'_>, fields: &[String], rows: &mut Rows) {
    rows.text(id);
    for field in fields {
        match record.value(field) {
            Some(value) => rows.text(&value),
            None => rows.nothing(),
        }
    }
}

impl TokenTable {
    /// The table: a row a token.
    pub(crate) fn table(&self) -> RowTable {
        use RowType::{Text, Whole};
        let mut columns = with_fields(
            &self.fields,
            &[
                ("position", Whole),
                ("kept_position", Whole),
                ("sentence", Whole),
                ("text", Text),
                ("start", Whole),
                ("end", Whole),
                ("start_character", Whole),
                ("end_character", Whole),
                ("kind", Text),
                ("tag", Text),
                ("lemma", Text),
                ("labels", Text),
                ("term", Text),
            ],
        );
        if self.dropped {
            let more = [("form", Text), ("fate", Text), ("step", Whole), ("reason", Text)];
            columns.extend(more.map(|(name, kind)| RowColumn::new(name, kind)));
        }
        RowTable { name: "tokens".to_owned(), columns, indexed: &["document", "term"] }
    }

    /// The table that the tokens of each document add up to: a row a term.
    pub(crate) fn term_table(&self) -> RowTable {
        let columns = [("term", RowType::Text), ("count", RowType::Whole), ("positions", RowType::Text)];
        let columns = with_fields(&self.fields, &columns);
        RowTable { name: "counts".to_owned(), columns, indexed: &["document", "term"] }
    }
}

/// Makes rows of the tokens of documents.
pub(crate) struct TokenRows<'p> {
    pipeline: &'p Pipeline,
    table: TokenTable,
    /// What reasons are called.
    reasons: HashMap<(usize, u16), String>,
}

impl<'p> TokenRows<'p> {
    pub(crate) fn new(pipeline: &'p Pipeline, table: TokenTable) -> TokenRows<'p> {
        TokenRows { pipeline, table, reasons: HashMap::new() }
    }

    /// Adds a row for each token of a document with this original text. The ends of tokens must have been asked for.
    pub(crate) fn add(
        &mut self,
        (id, record): (&str, &Record<'_>),
        original: &str,
        cleaned: &Cleaned<'_>,
        rows: &mut Rows,
    ) {
        let (mut kept, mut characters) = (0u64, Characters::default());
        for token in cleaned.ends() {
            let is_kept = matches!(token.fate, FormFate::Kept { .. });
            kept += u64::from(is_kept);
            if is_kept || self.table.dropped {
                add_document(id, record, &self.table.fields, rows);
                self.token(original, &token, is_kept.then_some(kept), &mut characters, rows);
            }
        }
    }

    fn token(
        &mut self,
        original: &str,
        token: &EndedToken<'_>,
        kept: Option<u64>,
        characters: &mut Characters,
        rows: &mut Rows,
    ) {
        let (start, end) = (token.span.start as usize, token.span.end as usize);
        rows.whole(token.place);
        rows.whole_or_nothing(kept);
        rows.whole_or_nothing(token.sentence);
        rows.text(token.span.of(original));
        rows.whole(start as u64);
        rows.whole(end as u64);
        rows.whole(characters.before(original, start));
        rows.whole(characters.before(original, end));
        rows.text(token.kind().name());
        rows.text_or_nothing(token.tag.map_or("", |tag| tag.code()));
        rows.text_or_nothing(token.lemma.unwrap_or_default());
        if token.labels == 0 {
            rows.nothing();
        } else {
            let labels = self.pipeline.labels().iter().enumerate();
            let labels = labels.filter(|(bit, _)| token.labels >> bit & 1 == 1);
            let labels: Vec<&str> = labels.map(|(_, label)| label.as_str()).collect();
            rows.text(&labels.join(" "));
        }
        match token.fate {
            FormFate::Kept { term } | FormFate::Joined { into: Some(term), .. } => rows.text(term),
            _ => rows.nothing(),
        }
        if !self.table.dropped {
            return;
        }
        rows.text(token.form);
        let (fate, step, reason) = match token.fate {
            FormFate::Kept { .. } => ("kept", None, ""),
            FormFate::Joined { step, .. } => ("joined", Some(step), "part of another token"),
            FormFate::Dropped { step, reason } => {
                let told = self.reasons.entry((step, reason));
                let told = told.or_insert_with(|| self.pipeline.reason(step, reason));
                ("dropped", Some(step), told.as_str())
            }
        };
        rows.text(fate);
        rows.whole_or_nothing(step.map(|step| step as u64));
        rows.text_or_nothing(reason);
    }
}

/// Adds a row for each term of a document, in the order in which they come, with its places among the kept tokens.
pub(crate) fn add_terms(
    record: &Record<'_>,
    fields: &[String],
    terms: &mut dyn Iterator<Item = &str>,
    rows: &mut Rows,
) {
    let id = record.field("id").unwrap_or_default();
    let mut numbers: HashMap<&str, usize> = HashMap::new();
    let mut found: Vec<(&str, u64, String)> = Vec::new();
    for (place, term) in (1u64..).zip(terms) {
        let at = *numbers.entry(term).or_insert_with(|| {
            found.push((term, 0, String::new()));
            found.len() - 1
        });
        let (_, count, places) = &mut found[at];
        *count += 1;
        let space = if places.is_empty() { "" } else { " " };
        // Writing to a text does not fail.
        let _ = write!(places, "{space}{place}");
    }
    for (term, count, places) in &found {
        add_document(&id, record, fields, rows);
        rows.text(term);
        rows.whole(*count);
        rows.text(places);
    }
}

/// Counts characters up to places of a text that hardly ever go back.
#[derive(Default)]
struct Characters {
    at: usize,
    count: u64,
}

impl Characters {
    fn before(&mut self, text: &str, place: usize) -> u64 {
        let count = |from: usize, to: usize| text.get(from..to).map_or(0, |part| part.chars().count() as u64);
        if place >= self.at {
            self.count += count(self.at, place);
        } else {
            self.count -= count(place, self.at);
        }
        self.at = place;
        self.count
    }
}
