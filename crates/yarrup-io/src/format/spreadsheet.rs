//! Spreadsheets: XLSX, XLSB, ODS and XLS. A row is a document, or a cell.

use std::collections::HashSet;

use calamine::{Data, DataRef, ExcelDateTime, Ods, Reader as _, Sheet, SheetType, Xls, Xlsb, Xlsx};

use crate::documents::guard::guarded;
use crate::documents::{
    BATCH_BYTES, Documents, FieldsWriter, Format, Header, Input, Out, RawDocument, ReadError, ReadSeek,
    Reader, Start, Unit,
};
use crate::format::table::{LONGEST_NAME, ONLY_NAMES, titles, told_above, unique_names};
use crate::format::zipped::{BOMB, is_bomb, zip_told};
use crate::format::{compound, facts};
use crate::record::Why;

pub(crate) struct Spreadsheet;

/// Whether a stream is the book of an old file.
fn is_old_book(name: &str) -> bool {
    name.eq_ignore_ascii_case("workbook") || name.eq_ignore_ascii_case("book")
}

/// What tables of OpenDocument say that they are; templates say more.
const OPEN_SHEETS: &str = "application/vnd.oasis.opendocument.spreadsheet";

impl Reader for Spreadsheet {
    fn format(&self) -> Format {
        Format::of(&facts::SPREADSHEET)
    }

    fn recognises(&self, start: &Start<'_>) -> bool {
        start.has_member("xl/workbook.xml")
            || start.has_member("xl/workbook.bin")
            || (start.has_member("content.xml") && start.media_type.starts_with(OPEN_SHEETS))
            || (start.bytes.starts_with(compound::SIGN)
                && (start.members.is_empty() || start.members.iter().any(|name| is_old_book(name))))
    }

    fn is_read_apart(&self) -> bool {
        true
    }

    fn read(&self, input: &mut Input<'_>, out: &mut dyn Out) -> Result<(), ReadError> {
        let old = input.opened.look()?.starts_with(compound::SIGN);
        let name = input.name.clone();
        let (mut binary, mut open) = (false, false);
        if !old {
            let mut archive = zip::ZipArchive::new(input.seekable()?).map_err(|why| zip_told(&why))?;
            binary = archive.index_for_name("xl/workbook.bin").is_some();
            open = archive.index_for_name("content.xml").is_some();
            for index in 0..archive.len() {
                let part = archive.by_index_raw(index).map_err(|why| zip_told(&why))?;
                if is_bomb(part.size(), part.compressed_size()) && !out.options().trust_archives {
                    return Err(ReadError::sentence(BOMB));
                }
            }
        }
        let content = input.seekable()?;
        if old {
            // Files of other old programs that are cut off come here as well, and break the package that reads books.
            let book = match guarded(|| Xls::new(content)) {
                Some(Ok(book)) => book,
                Some(Err(calamine::XlsError::Password)) => return Err(ReadError::sentence(ENCRYPTED)),
                Some(Err(_)) | None => {
                    return Err(ReadError::NotRead(
                        "an old Office file that is damaged or protected; save it as XLSX or DOCX without a password".into(),
                    ));
                }
            };
            return whole_sheets(book, &name, out);
        }
        if open {
            let book = Ods::new(content).map_err(|why| match &why {
                calamine::OdsError::Password => ReadError::sentence(ENCRYPTED),
                _ => damaged(&why),
            })?;
            return whole_sheets(book, &name, out);
        }
        if binary {
            return whole_sheets(Xlsb::new(content).map_err(|why| damaged(&why))?, &name, out);
        }
        let mut book = Xlsx::new(content).map_err(|why| damaged(&why))?;
        let sheets = chosen(&book.sheet_names(), out)?;
        let mut any = false;
        for sheet in sheets {
            // A chart on a sheet of its own has no cells.
            let is_table = |meta: &Sheet| meta.name == sheet && meta.typ == SheetType::WorkSheet;
            if !book.sheets_metadata().iter().any(is_table) {
                continue;
            }
            let mut cells = match book.worksheet_cells_reader(&sheet) {
                Ok(cells) => cells,
                Err(why) => {
                    let why = Why::File(format!("the sheet cannot be read: {why}"));
                    out.malformed(format!("{name}:{sheet}"), why)?;
                    any = true;
                    continue;
                }
            };
            let mut rows = Rows::new(&name, &sheet, out);
            let (mut row, mut current) = (Vec::new(), 0);
            let mut unsaved = 0;
            loop {
                let cell = match cells.next_cell_with_formula_metadata() {
                    Ok(Some(cell)) => cell,
                    Ok(None) => break,
                    Err(why) => {
                        // What came before the damage was read.
                        rows.finish()?;
                        return Err(damaged(&why));
                    }
                };
                let (at, column) = cell.pos;
                if at != current {
                    rows.row(current, &row)?;
                    row.clear();
                    current = at;
                }
                row.resize_with(row.len().max(column as usize + 1), || Cell::Empty);
                row[column as usize] = of_streamed(&cell.value);
                unsaved += u64::from(cell.formula.is_some() && cell.value == DataRef::Empty);
            }
            rows.row(current, &row)?;
            any |= rows.finish()?;
            if unsaved > 0 {
                // Some programs write formulas and leave the sums to whoever opens the book.
                let why = format!(
                    "{unsaved} cell{} formulas without their results, and {} empty here; save the book once with a program that \
                     computes them",
                    if unsaved == 1 { " holds" } else { "s hold" },
                    if unsaved == 1 { "is" } else { "are" },
                );
                out.malformed(format!("{name}:{sheet}"), Why::File(why))?;
            }
        }
        told_if_none(any)
    }
}

const ENCRYPTED: &str = "encrypted: it needs a password; save a copy without one";

fn damaged(error: &dyn std::fmt::Display) -> ReadError {
    ReadError::sentence(format!("damaged spreadsheet: {error}"))
}

/// The sheets that are read.
fn chosen(names: &[String], out: &dyn Out) -> Result<Vec<String>, ReadError> {
    match &out.options().sheet {
        None => Ok(names.to_vec()),
        Some(asked) if names.contains(asked) => Ok(vec![asked.clone()]),
        Some(asked) => {
            Err(ReadError::sentence(format!("no sheet `{asked}`; there are `{}`", names.join("`, `"))))
        }
    }
}

/// Reads a book whose format gives whole sheets only: these are held in memory.
fn whole_sheets<'c, B: calamine::Reader<Box<dyn ReadSeek + 'c>>>(
    mut book: B,
    name: &str,
    out: &mut dyn Out,
) -> Result<(), ReadError> {
    let mut any = false;
    for sheet in chosen(&book.sheet_names(), out)? {
        let range = book
            .worksheet_range(&sheet)
            .map_err(|why| ReadError::sentence(format!("damaged spreadsheet: {why:?}")))?;
        let (first_row, first_column) = range.start().unwrap_or_default();
        let mut rows = Rows::new(name, &sheet, out);
        for (index, row) in range.rows().enumerate() {
            let left = std::iter::repeat_with(|| Cell::Empty).take(first_column as usize);
            rows.row(first_row + index as u32, &left.chain(row.iter().map(of_data)).collect::<Vec<_>>())?;
        }
        any |= rows.finish()?;
    }
    told_if_none(any)
}

/// A book without a row is most often a damaged one.
fn told_if_none(any: bool) -> Result<(), ReadError> {
    if any { Ok(()) } else { Err(ReadError::sentence("its sheets hold no rows: empty, or damaged")) }
}

/// A cell: what it shows, not the formula behind it.
#[derive(Clone, Debug, PartialEq)]
enum Cell {
    Empty,
    Text(String),
    /// A number or a truth, as JSON.
    Plain(String),
}

fn of_number(number: f64) -> Cell {
    if number.is_finite() { Cell::Plain(number.to_string()) } else { Cell::Empty }
}

fn of_date(date: ExcelDateTime) -> Cell {
    if date.is_duration() {
        let seconds = (date.as_f64() * 86_400.0).round() as i64;
        return Cell::Text(format!("{:02}:{:02}:{:02}", seconds / 3600, seconds / 60 % 60, seconds % 60));
    }
    let (year, month, day, hour, minute, second, _) = date.to_ymd_hms_milli();
    let clock = format!("{hour:02}:{minute:02}:{second:02}");
    // Less than a day is a time of day.
    Cell::Text(match (date.as_f64() < 1.0, clock.as_str()) {
        (true, _) => clock,
        (false, "00:00:00") => format!("{year:04}-{month:02}-{day:02}"),
        (false, _) => format!("{year:04}-{month:02}-{day:02}T{clock}"),
    })
}

fn of_text(text: &str) -> Cell {
    if text.is_empty() { Cell::Empty } else { Cell::Text(text.to_owned()) }
}

fn of_streamed(value: &DataRef<'_>) -> Cell {
    match value {
        DataRef::Int(number) => Cell::Plain(number.to_string()),
        DataRef::Float(number) => of_number(*number),
        DataRef::String(text) => of_text(text),
        DataRef::SharedString(text) => of_text(text),
        DataRef::Bool(truth) => Cell::Plain(truth.to_string()),
        DataRef::DateTime(date) => of_date(*date),
        DataRef::DateTimeIso(text) | DataRef::DurationIso(text) => of_text(text),
        DataRef::Error(error) => Cell::Text(error.to_string()),
        _ => Cell::Empty,
    }
}

fn of_data(value: &Data) -> Cell {
    match value {
        Data::Int(number) => Cell::Plain(number.to_string()),
        Data::Float(number) => of_number(*number),
        Data::String(text) => of_text(text),
        Data::Bool(truth) => Cell::Plain(truth.to_string()),
        Data::DateTime(date) => of_date(*date),
        Data::DateTimeIso(text) | Data::DurationIso(text) => {
            of_text(text.strip_suffix("T00:00:00").unwrap_or(text))
        }
        Data::Error(error) => Cell::Text(error.to_string()),
        _ => Cell::Empty,
    }
}

/// The rows of a sheet on their way to documents.
struct Rows<'r, 's> {
    name: String,
    sheet: String,
    out: &'r mut (dyn Out + 's),
    columns: Option<Vec<String>>,
    ready: Vec<RawDocument>,
    bytes: usize,
    /// The first rows with their numbers, until it is clear which of them names the columns.
    first: Vec<(u32, Vec<Cell>)>,
    /// Whether there are rows above the one that is said to name the columns.
    has_rows_above: bool,
    /// Rows behind that with the names of the columns, and documents made of them.
    rows: u64,
    given: u64,
}

impl<'r, 's> Rows<'r, 's> {
    fn new(name: &str, sheet: &str, out: &'r mut (dyn Out + 's)) -> Rows<'r, 's> {
        let (name, sheet) = (name.to_owned(), sheet.to_owned());
        Rows {
            name,
            sheet,
            out,
            columns: None,
            ready: Vec::new(),
            bytes: 0,
            first: Vec::new(),
            has_rows_above: false,
            rows: 0,
            given: 0,
        }
    }

    /// Takes a row. If nobody says which names the columns, it is the first that says anything and is no title.
    fn row(&mut self, index: u32, cells: &[Cell]) -> Result<(), ReadError> {
        /// How many rows are looked at.
        const LOOK: usize = 30;
        if cells.iter().all(|cell| *cell == Cell::Empty) {
            return Ok(());
        }
        match self.out.options().header {
            Some(Header::Row(row)) if index + 1 < row => {
                self.has_rows_above = true;
                Ok(())
            }
            None if self.columns.is_none() => {
                self.first.push((index, cells.to_vec()));
                if self.first.len() < LOOK { Ok(()) } else { self.begin() }
            }
            _ => self.take(index, cells),
        }
    }

    /// Takes the first rows, without the title above the names of the columns.
    fn begin(&mut self) -> Result<(), ReadError> {
        let first = std::mem::take(&mut self.first);
        let filled =
            |(_, cells): &(u32, Vec<Cell>)| cells.iter().filter(|cell| **cell != Cell::Empty).count();
        let may_name = |row: usize| {
            let mut names = HashSet::new();
            first[row].1.iter().all(|cell| match cell {
                Cell::Empty => true,
                Cell::Text(text) => text.chars().count() <= LONGEST_NAME && names.insert(text),
                Cell::Plain(_) => false,
            })
        };
        let filled: Vec<usize> = first.iter().map(filled).collect();
        let titles = titles(&filled, may_name);
        if titles > 0 {
            self.out.note(format!("sheet `{}`: {}", self.sheet, told_above(titles)))?;
        }
        first[titles..].iter().try_for_each(|(index, cells)| self.take(*index, cells))
    }

    /// Takes a row, the first of which names the columns, unless none does.
    fn take(&mut self, index: u32, cells: &[Cell]) -> Result<(), ReadError> {
        let header = self.out.options().header != Some(Header::None);
        if self.columns.is_none() {
            let names = cells.iter().enumerate().map(|(index, cell)| match cell {
                Cell::Text(text) | Cell::Plain(text) if header => {
                    text.split_whitespace().collect::<Vec<_>>().join(" ")
                }
                _ => format!("column_{}", index + 1),
            });
            self.columns = Some(unique_names(names));
            if header {
                return Ok(());
            }
        }
        self.rows += 1;
        let had = self.ready.len();
        let columns = self.columns.as_mut().expect("they were set above");
        for index in columns.len()..cells.len() {
            columns.push(format!("column_{}", index + 1));
        }
        let columns = &*columns;
        let place = format!("{}:{}:{}", self.name, self.sheet, index + 1);
        match self.out.options().unit_or(Unit::Row) {
            Unit::Cell => {
                let asked = self.out.options().column.as_deref();
                for (column, cell) in columns.iter().zip(cells) {
                    let Cell::Text(text) = cell else { continue };
                    if asked.is_some_and(|asked| asked != column) {
                        continue;
                    }
                    let mut fields = FieldsWriter::default();
                    fields.text("sheet", &self.sheet);
                    fields.number("row", index as usize + 1);
                    fields.text("column", column);
                    self.bytes += text.len();
                    self.ready.push(RawDocument {
                        id: format!("{place}:{column}"),
                        fields: fields.finish(),
                        text: Some(text.clone()),
                        broken_bytes: 0,
                    });
                }
            }
            _ => {
                let mut fields = FieldsWriter::default();
                if !columns.iter().any(|column| column == "sheet") {
                    fields.text("sheet", &self.sheet);
                }
                for (index, column) in columns.iter().enumerate() {
                    match cells.get(index) {
                        Some(Cell::Text(text)) => fields.text(column, text),
                        Some(Cell::Plain(json)) => fields.json(column, json),
                        Some(Cell::Empty) | None => fields.json(column, "null"),
                    }
                }
                let fields = fields.finish();
                self.bytes += fields.len();
                self.ready.push(RawDocument { id: place, fields, text: None, broken_bytes: 0 });
            }
        }
        self.given += (self.ready.len() - had) as u64;
        if self.bytes >= BATCH_BYTES {
            self.bytes = 0;
            self.out.give(Documents(std::mem::take(&mut self.ready)))?;
        }
        Ok(())
    }

    /// Gives the last rows; whether there were any cells.
    fn finish(mut self) -> Result<bool, ReadError> {
        self.begin()?;
        let any = self.columns.is_some();
        if let (Some(asked), Some(columns)) = (self.out.options().column.clone(), &self.columns)
            && !columns.contains(&asked)
        {
            let why = Why::NoField { path: asked, fields: columns.clone() };
            self.out.malformed(format!("{}:{}", self.name, self.sheet), why)?;
        } else if any && self.given == 0 {
            let why = if self.rows == 0 { ONLY_NAMES } else { "no cell holds text" };
            self.out.passed_over(format!("{}:{} ({why})", self.name, self.sheet))?;
        }
        if let (Some(Header::Row(row)), None) = (self.out.options().header, &self.columns)
            && self.has_rows_above
        {
            self.out.passed_over(format!("{}:{} (it has no row {row})", self.name, self.sheet))?;
        }
        self.out.give(Documents(self.ready))?;
        Ok(any || self.has_rows_above)
    }
}
