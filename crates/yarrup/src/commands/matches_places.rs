//! Every place of a value, as the documents are read.

use std::io::Write;
use std::ops::ControlFlow;

use yarrup_core::ValueFinder;
use yarrup_io::{
    BatchDone, Collection, Numbered, Pass, Sink, Source, Summary, TableError, TableWriter, read,
};

use crate::arguments::{MatchesArguments, TableFormat};
use crate::failure::{Exit, Failure};
use crate::output::Output;
use crate::reading::{ended, lenient, notes, tell_reading, threads};
use crate::rows::{Cell, Column, Rows};
use crate::screen::{Progress, Screen};

const COLUMNS: [&str; 5] = ["document", "kind", "value", "start", "end"];

/// Prints where values stand.
pub(super) fn print_places(
    finder: &ValueFinder,
    names: &[String],
    arguments: &MatchesArguments,
    collection: &Collection,
    screen: &Screen,
) -> Result<Exit, Failure> {
    let mut source = Source::open(collection)?;
    let form = match arguments.format {
        TableFormat::Table => Form::Table(Vec::new()),
        TableFormat::Csv => {
            let out = screen.out_as(arguments.format);
            Form::Csv(Box::new(TableWriter::new(out, COLUMNS).map_err(failed)?))
        }
        TableFormat::Json => Form::Json(screen.out_as(arguments.format)),
    };
    let mut printing = Printing {
        most: arguments.most(),
        printed: vec![0; names.len()],
        all: 0,
        form,
        progress: screen.progress(source.bytes()),
    };
    let policy = lenient(threads(arguments.threads));
    let reading = read(&mut source, policy, &Placing { finder, names }, &mut printing).map_err(ended)?;
    let all = printing.all;
    printing.progress.end();
    notes(&source).iter().for_each(|note| screen.warn_once(note));
    match printing.form {
        Form::Table(rows) => {
            let columns = COLUMNS.iter().map(|name| Column::new(name, name)).collect();
            Rows { columns, rows }.print_some(all, "places", TableFormat::Table, screen)?;
        }
        Form::Csv(table) => table.finish()?,
        Form::Json(mut out) => {
            out.write_all(if all == 0 { b"[]\n" } else { b"\n]\n" })?;
            out.flush()?;
        }
    }
    tell_reading(&reading.summary, &source, collection, screen)?;
    Ok(if all == 0 { Exit::Found } else { Exit::Done })
}

fn failed(why: TableError) -> Failure {
    Failure::Output(yarrup_io::table_failure(why))
}

/// A place of a value.
struct Place {
    document: String,
    sort: usize,
    kind: String,
    value: String,
    start: usize,
    end: usize,
}

struct Placing<'f> {
    finder: &'f ValueFinder,
    names: &'f [String],
}

impl Pass for Placing<'_> {
    type State = ();
    type Left = Vec<Place>;

    fn state(&self) {}

    fn document(&self, (): &mut (), document: &Numbered<'_>, places: &mut Vec<Place>) {
        let record = &document.record;
        let found = self.finder.find(&record.text).into_iter();
        places.extend(found.map(|(sort, place)| Place {
            document: record.id.to_string(),
            sort,
            kind: self.names[sort].clone(),
            value: record.text[place.clone()].to_owned(),
            start: place.start,
            end: place.end,
        }));
    }
}

/// Takes places in the order of the documents, and prints the first of each sort.
struct Printing {
    most: usize,
    /// How many were printed of each sort.
    printed: Vec<usize>,
    all: u64,
    form: Form,
    progress: Progress,
}

/// How places are printed.
enum Form {
    /// At the end.
    Table(Vec<Vec<Cell>>),
    Csv(Box<TableWriter<Output>>),
    Json(Output),
}

impl Printing {
    fn place(&mut self, place: Place) -> Result<(), Failure> {
        self.all += 1;
        if self.printed[place.sort] == self.most {
            return Ok(());
        }
        self.printed[place.sort] += 1;
        let is_first = self.printed.iter().sum::<usize>() == 1;
        match &mut self.form {
            Form::Table(rows) => rows.push(vec![
                Cell::Text(place.document),
                Cell::Text(place.kind),
                Cell::Text(place.value),
                Cell::Count(place.start as u64),
                Cell::Count(place.end as u64),
            ]),
            Form::Csv(table) => table
                .row([
                    place.document,
                    place.kind,
                    place.value,
                    place.start.to_string(),
                    place.end.to_string(),
                ])
                .map_err(failed)?,
            Form::Json(out) => {
                out.write_all(if is_first { b"[\n  " } else { b",\n  " })?;
                let object = serde_json::json!({
                    "document": place.document,
                    "kind": place.kind,
                    "value": place.value,
                    "start": place.start,
                    "end": place.end,
                });
                serde_json::to_writer(out, &object).map_err(std::io::Error::from)?;
            }
        }
        Ok(())
    }
}

impl Sink<Vec<Place>> for Printing {
    type Error = Failure;

    fn left(&mut self, places: Vec<Place>) -> Result<ControlFlow<()>, Failure> {
        places.into_iter().try_for_each(|place| self.place(place))?;
        Ok(ControlFlow::Continue(()))
    }

    fn batch_done(&mut self, batch: BatchDone, _so_far: &Summary) -> Result<(), Failure> {
        self.progress.advance(batch.bytes);
        Ok(())
    }
}
