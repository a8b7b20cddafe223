//! Tables of typed rows for other programs: CSV, JSON Lines, Parquet, SQLite, PostgreSQL.
//!
//! Workers gather rows column by column ([`Rows`]) and encode them ([`RowEncoder`]); what they made is written in the order of the documents
//! ([`RowFile`], [`crate::IntoDatabase`]).

pub(crate) mod encode;
mod file;
#[cfg(feature = "parquet")]
pub(crate) mod parquet;
#[cfg(not(feature = "parquet"))]
#[path = "parquet_left_out.rs"]
pub(crate) mod parquet;
#[cfg(feature = "database")]
pub(crate) mod sqlite;
#[cfg(not(feature = "database"))]
#[path = "sqlite_left_out.rs"]
pub(crate) mod sqlite;

pub use encode::{EncodedRows, RowEncoder, RowFormat};
pub use file::RowFile;

use crate::fields::{DateShapes, FieldFacts};
use crate::record::FieldType;

/// What the cells of a column are.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum RowType {
    /// Texts.
    Text,
    /// Whole numbers.
    Whole,
    /// Numbers.
    Number,
    /// Truths.
    Truth,
    /// Dates without a time, as ISO 8601 writes them.
    Date,
    /// Dates with a time of no zone.
    Time,
    /// Dates with a time and its zone.
    ZonedTime,
    /// Lists of texts.
    Texts,
}

impl RowType {
    /// The type that all values of a field fit.
    pub fn of(field: &FieldFacts) -> RowType {
        match field.kind {
            _ if field.list => RowType::Text,
            _ if field.is_whole() => RowType::Whole,
            None | Some(FieldType::Text) => RowType::Text,
            Some(FieldType::Whole) => RowType::Whole,
            Some(FieldType::Number) => RowType::Number,
            Some(FieldType::Truth) => RowType::Truth,
            Some(FieldType::Date) => match field.dates {
                DateShapes { local: false, zoned: false, .. } => RowType::Date,
                DateShapes { days: false, zoned: false, .. } => RowType::Time,
                DateShapes { days: false, local: false, .. } => RowType::ZonedTime,
                // What no one type holds without loss.
                _ => RowType::Text,
            },
        }
    }
}

/// A column of a table of typed rows.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct RowColumn {
    /// Its name.
    pub name: String,
    /// What its cells are.
    pub kind: RowType,
}

impl RowColumn {
    /// A column of this name and type.
    pub fn new(name: &str, kind: RowType) -> RowColumn {
        RowColumn { name: name.to_owned(), kind }
    }
}

/// A table: its name, its columns, and those that get an index where the format has any.
#[derive(Clone, Debug)]
pub struct RowTable {
    /// The name.
    pub name: String,
    /// The columns.
    pub columns: Vec<RowColumn>,
    /// Names of columns.
    pub indexed: &'static [&'static str],
}

/// What becomes of a table that is in a database, or not.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum TableMode {
    /// It is made, and must not be there.
    Create,
    /// It takes the rows behind those that it has.
    Append,
    /// It is made anew.
    Replace,
}

impl TableMode {
    /// Whether a table must be made where one with these columns is, or none. What forbids to write to it is an error.
    pub(crate) fn makes(self, table: &RowTable, there: &[String]) -> Result<bool, String> {
        let shown = &table.name;
        match self {
            TableMode::Create if !there.is_empty() => Err(format!(
                "table `{shown}` is there already, and is left as it is; choose another name, or --append to it, or --replace it"
            )),
            TableMode::Append if there.is_empty() => {
                Err(format!("there is no table `{shown}` to append to; leave out --append to make it"))
            }
            TableMode::Append => {
                let missing = table.columns.iter().filter(|column| !there.contains(&column.name));
                let missing: Vec<_> = missing.map(|column| format!("`{}`", column.name)).collect();
                match missing.is_empty() {
                    true => Ok(false),
                    false => Err(format!("table `{shown}` has no column {}", missing.join(", "))),
                }
            }
            TableMode::Create | TableMode::Replace => Ok(true),
        }
    }
}

/// Rows of a table, column by column. Cells are added from left to right, row by row.
#[derive(Clone, Debug)]
pub struct Rows {
    columns: Vec<Cells>,
    /// The column of the next cell.
    next: usize,
    rows: usize,
}

/// The cells of a column.
#[derive(Clone, Debug)]
struct Cells {
    /// Whether its texts are dates, of which an empty one is none.
    is_date: bool,
    /// By row: whether there is something.
    filled: Vec<bool>,
    /// What there is, without gaps.
    values: Values,
}

#[derive(Clone, Debug)]
enum Values {
    /// Texts one behind the other, and where each stands; equal neighbours stand in one place.
    Texts(String, Vec<(usize, usize)>),
    Wholes(Vec<i64>),
    Numbers(Vec<f64>),
    Truths(Vec<bool>),
    /// Texts as above, and where each list ends among them.
    Lists(String, Vec<(usize, usize)>, Vec<usize>),
}

/// A cell of a row.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Cell<'r> {
    Text(&'r str),
    Whole(i64),
    Number(f64),
    Truth(bool),
    Texts(TextList<'r>),
    Nothing,
}

/// The texts of a list.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct TextList<'r> {
    texts: &'r str,
    spans: &'r [(usize, usize)],
}

impl<'r> TextList<'r> {
    pub(crate) fn iter(self) -> impl Iterator<Item = &'r str> {
        self.spans.iter().map(move |&span| text_at(self.texts, span))
    }
}

fn text_at(texts: &str, (start, end): (usize, usize)) -> &str {
    texts.get(start..end).unwrap_or_default()
}

fn add_text(text: &str, texts: &mut String) -> (usize, usize) {
    let start = texts.len();
    texts.push_str(text);
    (start, texts.len())
}

impl Rows {
    /// No rows yet, of a table with these columns.
    pub fn of(columns: &[RowColumn]) -> Rows {
        let cells = columns.iter().map(|column| Cells {
            is_date: matches!(column.kind, RowType::Date | RowType::Time | RowType::ZonedTime),
            filled: Vec::new(),
            values: match column.kind {
                RowType::Text | RowType::Date | RowType::Time | RowType::ZonedTime => {
                    Values::Texts(String::new(), Vec::new())
                }
                RowType::Whole => Values::Wholes(Vec::new()),
                RowType::Number => Values::Numbers(Vec::new()),
                RowType::Truth => Values::Truths(Vec::new()),
                RowType::Texts => Values::Lists(String::new(), Vec::new(), Vec::new()),
            },
        });
        Rows { columns: cells.collect(), next: 0, rows: 0 }
    }

    /// How many whole rows there are.
    pub fn len(&self) -> usize {
        self.rows
    }

    /// Whether there is none.
    pub fn is_empty(&self) -> bool {
        self.rows == 0
    }

    /// Adds a cell: what `fill` puts in, or nothing if it puts nothing in, because the column is of another type.
    fn add(&mut self, fill: impl FnOnce(&mut Values) -> bool) {
        if let Some(column) = self.columns.get_mut(self.next) {
            let filled = fill(&mut column.values);
            column.filled.push(filled);
        }
        self.next += 1;
        if self.next >= self.columns.len() {
            self.next = 0;
            self.rows += 1;
        }
    }

    /// Adds a text.
    pub fn text(&mut self, text: &str) {
        self.add(|values| match values {
            Values::Texts(texts, spans) => {
                let span = match spans.last() {
                    Some(&last) if text_at(texts, last) == text => last,
                    _ => add_text(text, texts),
                };
                spans.push(span);
                true
            }
            _ => false,
        });
    }

    /// Adds a text, or nothing if it is empty.
    pub fn text_or_nothing(&mut self, text: &str) {
        if text.is_empty() { self.nothing() } else { self.text(text) }
    }

    /// Adds a whole number; nothing if it is too large.
    pub fn whole(&mut self, number: impl TryInto<i64>) {
        let number = number.try_into().ok();
        self.add(|values| match (values, number) {
            (Values::Wholes(wholes), Some(number)) => {
                wholes.push(number);
                true
            }
            _ => false,
        });
    }

    /// Adds a whole number, or nothing.
    pub fn whole_or_nothing(&mut self, number: Option<impl TryInto<i64>>) {
        match number {
            Some(number) => self.whole(number),
            None => self.nothing(),
        }
    }

    /// Adds a number.
    pub fn number(&mut self, number: f64) {
        self.add(|values| match values {
            Values::Numbers(numbers) => {
                numbers.push(number);
                true
            }
            _ => false,
        });
    }

    /// Adds a list of texts.
    pub fn texts<'t>(&mut self, texts: impl IntoIterator<Item = &'t str>) {
        self.add(|values| match values {
            Values::Lists(all, spans, ends) => {
                spans.extend(texts.into_iter().map(|text| add_text(text, all)));
                ends.push(spans.len());
                true
            }
            _ => false,
        });
    }

    /// Adds nothing.
    pub fn nothing(&mut self) {
        self.add(|_| false);
    }

    /// Adds a value as it is written, as what its column holds; nothing if it does not fit.
    pub fn written(&mut self, written: &str) {
        let trimmed = written.trim();
        let is_date = self.columns.get(self.next).is_some_and(|column| column.is_date);
        self.add(|values| match values {
            Values::Texts(..) if is_date && trimmed.is_empty() => false,
            Values::Texts(texts, spans) => {
                spans.push(add_text(if is_date { trimmed } else { written }, texts));
                true
            }
            Values::Wholes(wholes) => trimmed.parse().map(|number| wholes.push(number)).is_ok(),
            Values::Numbers(numbers) => {
                let number = trimmed.parse().ok().filter(|number: &f64| number.is_finite());
                number.map(|number| numbers.push(number)).is_some()
            }
            Values::Truths(truths) => {
                let truth = match trimmed.to_ascii_lowercase().as_str() {
                    "true" => Some(true),
                    "false" => Some(false),
                    _ => None,
                };
                truth.map(|truth| truths.push(truth)).is_some()
            }
            Values::Lists(..) => false,
        });
    }

    /// How many characters U+0000 are in its texts.
    pub(crate) fn zeros(&self) -> u64 {
        let texts = self.columns.iter().filter_map(|column| match &column.values {
            Values::Texts(texts, spans) | Values::Lists(texts, spans, _) => Some((texts, spans)),
            _ => None,
        });
        let with_zero = texts.filter(|(texts, _)| memchr::memchr(0, texts.as_bytes()).is_some());
        let zeros = with_zero.flat_map(|(texts, spans)| {
            spans.iter().map(|&span| text_at(texts, span).bytes().filter(|byte| *byte == 0).count() as u64)
        });
        zeros.sum()
    }

    /// Takes every row, cell by cell.
    ///
    /// # Errors
    ///
    /// What `visit` fails with.
    pub(crate) fn each<E>(&self, mut visit: impl FnMut(&[Cell<'_>]) -> Result<(), E>) -> Result<(), E> {
        let mut taken = vec![0; self.columns.len()];
        let mut cells = vec![Cell::Nothing; self.columns.len()];
        for row in 0..self.rows {
            for ((cell, column), taken) in cells.iter_mut().zip(&self.columns).zip(&mut taken) {
                *cell = if column.filled[row] {
                    *taken += 1;
                    column.cell(*taken - 1)
                } else {
                    Cell::Nothing
                };
            }
            visit(&cells)?;
        }
        Ok(())
    }
}

impl Cells {
    /// The cell with this number among those that are not empty.
    fn cell(&self, number: usize) -> Cell<'_> {
        match &self.values {
            Values::Texts(texts, spans) => Cell::Text(text_at(texts, spans[number])),
            Values::Wholes(wholes) => Cell::Whole(wholes[number]),
            Values::Numbers(numbers) => Cell::Number(numbers[number]),
            Values::Truths(truths) => Cell::Truth(truths[number]),
            Values::Lists(texts, spans, ends) => {
                let start = if number == 0 { 0 } else { ends[number - 1] };
                Cell::Texts(TextList { texts, spans: &spans[start..ends[number]] })
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn rows_come_back_as_they_were_added() {
        let columns = [
            RowColumn::new("text", RowType::Text),
            RowColumn::new("count", RowType::Whole),
            RowColumn::new("words", RowType::Texts),
        ];
        let mut rows = Rows::of(&columns);
        for (text, count, words) in
            [("tern", Some(3i64), vec!["a", "b"]), ("tern", None, vec![]), ("", Some(-1), vec!["c"])]
        {
            rows.text(text);
            rows.whole_or_nothing(count);
            rows.texts(words);
        }
        // What does not fit is nothing.
        rows.written("gull");
        rows.written("many");
        rows.nothing();
        let mut seen = Vec::new();
        let all = rows.each(|cells| {
            let words = match cells[2] {
                Cell::Texts(words) => Some(words.iter().collect::<Vec<_>>().join(" ")),
                _ => None,
            };
            seen.push(format!("{:?} {:?} {words:?}", cells[0], cells[1]));
            Ok::<(), ()>(())
        });
        assert_eq!(all, Ok(()));
        assert_eq!(
            seen,
            [
                r#"Text("tern") Whole(3) Some("a b")"#,
                r#"Text("tern") Nothing Some("")"#,
                r#"Text("") Whole(-1) Some("c")"#,
                r#"Text("gull") Nothing None"#,
            ]
        );
        assert_eq!(rows.len(), 4);
    }
}
