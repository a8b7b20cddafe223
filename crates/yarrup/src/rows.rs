//! Rows of results, printed as a table, as CSV or as JSON.

use std::io::Write;

use serde_json::{Map, Value};
use unicode_width::UnicodeWidthStr;
use yarrup_core::Tag;
use yarrup_io::TableWriter;
use yarrup_report::{Align, Look, counted, grouped, table, visible_name};

use crate::arguments::TableFormat;
use crate::failure::{Failure, meant, option};
use crate::screen::Screen;

/// A column of results.
#[derive(Clone, Debug)]
pub(crate) struct Column {
    /// The name in data.
    pub(crate) name: String,
    /// The heading for people.
    pub(crate) title: String,
    /// Whether tables for people have it where no columns are chosen.
    pub(crate) in_tables: bool,
    /// Whether tables for people go without it where it finds no room.
    pub(crate) gives_way: bool,
}

impl Column {
    pub(crate) fn new(name: &str, title: &str) -> Column {
        Column { name: name.to_owned(), title: title.to_owned(), in_tables: true, gives_way: false }
    }

    /// A column that tables for people leave out.
    pub(crate) fn aside(self) -> Column {
        Column { in_tables: false, ..self }
    }

    /// A column that tables for people go without where it finds no room.
    pub(crate) fn giving_way(self) -> Column {
        Column { gives_way: true, ..self }
    }
}

/// A cell of results.
#[derive(Clone, Debug)]
pub(crate) enum Cell {
    Text(String),
    Count(u64),
    /// From 0 to 1.
    Share(f64),
    Number(f64),
    /// Of chance.
    Probability(f64),
    Tag(Option<Tag>),
    Nothing,
}

/// Results.
pub(crate) struct Rows {
    pub(crate) columns: Vec<Column>,
    pub(crate) rows: Vec<Vec<Cell>>,
}

impl Cell {
    fn for_people(&self) -> String {
        match self {
            Cell::Text(text) => visible_name(text),
            Cell::Count(count) => grouped(*count),
            Cell::Share(share) => format!("{:.2} %", share * 100.0),
            Cell::Number(number) => format!("{number:.3}"),
            Cell::Probability(p) if *p < 0.001 => "< 0.001".to_owned(),
            Cell::Probability(p) => format!("{p:.3}"),
            Cell::Tag(tag) => tag.map_or("", Tag::name).to_owned(),
            Cell::Nothing => String::new(),
        }
    }

    fn csv(&self) -> String {
        match self {
            Cell::Text(text) => text.clone(),
            Cell::Count(count) => count.to_string(),
            Cell::Share(number) | Cell::Number(number) => format!("{number:.6}"),
            Cell::Probability(p) => format!("{p:.3e}"),
            Cell::Tag(tag) => tag.map_or("", Tag::code).to_owned(),
            Cell::Nothing => String::new(),
        }
    }

    fn json(&self) -> Value {
        match self {
            Cell::Text(text) => text.as_str().into(),
            Cell::Count(count) => (*count).into(),
            Cell::Share(number) | Cell::Number(number) => ((number * 1e6).round() / 1e6).into(),
            Cell::Probability(p) => (*p).into(),
            Cell::Tag(tag) => tag.map_or("", Tag::code).into(),
            Cell::Nothing => Value::Null,
        }
    }

    fn side(&self) -> Align {
        match self {
            Cell::Text(_) | Cell::Tag(_) => Align::Left,
            _ => Align::Right,
        }
    }
}

impl Rows {
    /// Leaves the columns of these names, in their order.
    pub(crate) fn choose(&mut self, names: &[String]) -> Result<(), Failure> {
        let mut chosen = Vec::new();
        for name in names {
            let found = self.columns.iter().position(|column| column.name == *name || column.title == *name);
            chosen.push(found.ok_or_else(|| {
                let known = self.columns.iter().map(|column| column.name.as_str());
                option("columns", &format!("no column `{name}`; {}", meant(name, known)))
            })?);
        }
        let pick = |column: &usize| Column { in_tables: true, ..self.columns[*column].clone() };
        self.columns = chosen.iter().map(pick).collect();
        for row in &mut self.rows {
            *row = chosen.iter().map(|column| row[*column].clone()).collect();
        }
        Ok(())
    }

    pub(crate) fn print(&self, format: TableFormat, look: Look, out: &mut impl Write) -> Result<(), Failure> {
        match format {
            TableFormat::Table => write!(out, "{}", self.table(look))?,
            TableFormat::Csv => {
                let failed = |why: yarrup_io::TableError| Failure::Output(yarrup_io::table_failure(why));
                let names = self.columns.iter().map(|column| &column.name);
                let mut table = TableWriter::new(&mut *out, names).map_err(failed)?;
                for row in &self.rows {
                    table.row(row.iter().map(Cell::csv)).map_err(failed)?;
                }
                table.finish()?;
            }
            TableFormat::Json => {
                serde_json::to_writer_pretty(&mut *out, &self.json()).map_err(std::io::Error::from)?;
                writeln!(out)?;
            }
        }
        Ok(())
    }

    /// Prints the rows, and how many of all they are.
    pub(crate) fn print_some(
        &self,
        all: u64,
        noun: &str,
        format: TableFormat,
        screen: &Screen,
    ) -> Result<(), Failure> {
        let mut out = screen.out_as(format);
        if format == TableFormat::Table && all == 0 {
            writeln!(out, "no {noun}")?;
            out.flush()?;
            return Ok(());
        }
        self.print(format, screen.look, &mut out)?;
        if format == TableFormat::Table {
            let note = format!("{} of {} {noun}", grouped(self.rows.len() as u64), grouped(all));
            writeln!(out, "{}", screen.look.faint(&note))?;
        }
        out.flush()?;
        Ok(())
    }

    pub(crate) fn json(&self) -> Value {
        let object = |row: &Vec<Cell>| {
            let cells = self.columns.iter().zip(row);
            Value::Object(
                cells.map(|(column, cell)| (column.name.clone(), cell.json())).collect::<Map<_, _>>(),
            )
        };
        self.rows.iter().map(object).collect()
    }

    /// The table for people. A column for what no row has is no use.
    pub(crate) fn table(&self, look: Look) -> String {
        let says = |column: usize| {
            self.rows.iter().any(|row| match &row[column] {
                Cell::Nothing | Cell::Tag(None) => false,
                Cell::Text(text) => !text.is_empty(),
                _ => true,
            })
        };
        let mut shown: Vec<usize> = (0..self.columns.len())
            .filter(|column| self.columns[*column].in_tables && (self.rows.is_empty() || says(*column)))
            .collect();
        let width = |column: &usize| {
            let cells = self.rows.iter().map(|row| row[*column].for_people().width());
            cells.max().unwrap_or(0).max(self.columns[*column].title.width()) + 3
        };
        let widths: Vec<usize> = (0..self.columns.len()).map(|column| width(&column)).collect();
        let all = shown.len();
        while look.wraps
            && shown.iter().map(|column| widths[*column]).sum::<usize>() > look.width
            && let Some(last) = shown.iter().rposition(|column| self.columns[*column].gives_way)
        {
            shown.remove(last);
        }
        let gone = all - shown.len();
        let side = |column: usize| self.rows.first().map_or(Align::Left, |row| row[column].side());
        let header: Vec<(&str, Align)> =
            shown.iter().map(|column| (self.columns[*column].title.as_str(), side(*column))).collect();
        let cells = |row: &Vec<Cell>| shown.iter().map(|column| row[*column].for_people()).collect();
        let mut out = table(&header, &self.rows.iter().map(cells).collect::<Vec<_>>(), look);
        if gone > 0 {
            let note =
                format!("{} more found no room; --format csv has all\n", counted(gone as u64, "column"));
            out.push_str(&look.faint(&note));
        }
        out
    }
}
