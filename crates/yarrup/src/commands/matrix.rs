//! `yarrup matrix`: the matrix of documents and terms of a run, or of terms that stand together, for the next tool.

use std::collections::HashMap;
use std::io::{self, Write as _};
use std::ops::ControlFlow;
use std::path::Path;

use clap::{Parser as _, ValueEnum};
use serde_json::json;
use yarrup_core::study::{Columns, GroupBy, Local, LocalWeight, Row, Together, Weighing, Weight, idf};
use yarrup_core::{Account, Fields};
use yarrup_io::{
    BatchDone, Cells, Holding, MatrixFile, MatrixRow, MatrixSize, NewFolder, Numbered, Packed, Pass, Policy,
    Sink, Summary, TableWriter, WriteError, read, read_account,
};
use yarrup_report::{counted, grouped};

use super::matrix_terms::{Known, MatrixTerm, known_terms};
use crate::arguments::{GlobalWeight, LocalCell, MatrixArguments, MatrixFormat, NEEDS_FIELD};
use crate::counting::{Grouping, TermsOf};
use crate::failure::{Exit, Failure, option};
use crate::reading::{ended, threads};
use crate::recipe_file::compile;
use crate::screen::{Progress, Screen};
use crate::studied::Studied;

/// The most cells that a dense table may have.
const DENSE: u64 = 20_000_000;

pub(crate) fn matrix(arguments: &MatrixArguments, screen: &Screen) -> Result<Exit, Failure> {
    let run = Studied::open(&arguments.run)?;
    let account = read_account(&arguments.run)?;
    let folder = NewFolder::create(&arguments.out)?;
    let terms = terms(arguments, &run, &account, screen)?;
    if terms.is_empty() {
        return Err(Failure::Sentence("no term is left for a column; ask for less".to_owned()));
    }
    let told = match arguments.together {
        Some(together) => write_pairs(arguments, &run, &terms, (together, &folder), screen)?,
        None => write_matrix(arguments, &run, &terms, &folder, screen)?,
    };
    folder.finish()?;
    screen.tell(&format!("{}: {told}", arguments.out.display()));
    Ok(Exit::Done)
}

/// Refuses a folder that is there.
pub(super) fn refuse_there(folder: &Path) -> Result<(), Failure> {
    match folder.symlink_metadata() {
        Ok(_) => Err(WriteError::FolderExists { path: folder.display().to_string() }.into()),
        Err(_) => Ok(()),
    }
}

/// Writes the matrix of a run as it is where nothing is chosen but, it may be, whose columns it has.
pub(super) fn write_plain(
    run: &Path,
    out: &Path,
    columns: Option<&Path>,
    screen: &Screen,
) -> Result<(), Failure> {
    #[derive(clap::Parser)]
    struct Typed {
        #[command(flatten)]
        arguments: MatrixArguments,
    }
    let typed = ["matrix".as_ref(), run.as_os_str(), "--out".as_ref(), out.as_os_str()];
    let columns = columns.into_iter().flat_map(|columns| ["--vocabulary".as_ref(), columns.as_os_str()]);
    let typed = typed.into_iter().chain(columns);
    let typed = Typed::try_parse_from(typed).map_err(|why| Failure::Sentence(why.to_string()))?;
    matrix(&typed.arguments, screen).map(|_| ())
}

/// The terms that get columns, in the order of these.
fn terms(
    arguments: &MatrixArguments,
    run: &Studied,
    account: &Account,
    screen: &Screen,
) -> Result<Vec<MatrixTerm>, Failure> {
    let (from, other) = match &arguments.vocabulary {
        Some(recipe) if recipe.is_file() => return limited_terms(recipe, arguments, account),
        Some(folder) => match known_terms(folder)? {
            // The weights of the other matrix: new documents are weighed as its documents were.
            Known::Matrix(terms) => return Ok(terms),
            Known::Run => (Studied::open(folder)?, Some(read_account(folder)?)),
        },
        None => (Studied::open(&run.path)?, None),
    };
    let account = other.as_ref().unwrap_or(account);
    let documents = account.totals.documents - account.totals.dropped;
    let kind = match arguments.global {
        GlobalWeight::Entropy => Some(Weight::Entropy),
        GlobalWeight::MutualInformation => Some(Weight::MutualInformation),
        GlobalWeight::ChiSquare => Some(Weight::ChiSquare),
        _ => None,
    };
    let grouping = match &arguments.with {
        Some(written) => Grouping::By(GroupBy::read(written).map_err(|why| option("with", &why))?),
        None if kind.is_some_and(Weight::needs_groups) => return Err(option("global", NEEDS_FIELD)),
        None => Grouping::Together,
    };
    let table = kind.map(|_| from.tally(grouping, screen)).transpose()?;
    let weight = |term: &str, with: u64| match (arguments.global, kind, &table) {
        (_, Some(kind), Some(table)) => table.weight(kind, term),
        (GlobalWeight::Idf, ..) => idf(with, documents),
        (GlobalWeight::IdfSmooth, ..) => smooth(with, documents),
        (GlobalWeight::IdfProbabilistic, ..) => probabilistic(with, documents),
        _ => 1.0,
    };
    let vocabulary = account.vocabulary();
    let most = arguments.share_at_most.unwrap_or(1.0) * documents as f64;
    let chosen = vocabulary
        .iter()
        .map(|term| MatrixTerm {
            text: term.text.to_owned(),
            count: term.count,
            documents: term.documents,
            idf: idf(term.documents, documents),
            weight: weight(term.text, term.documents),
        })
        .filter(|term| {
            term.count >= arguments.at_least.unwrap_or(0)
                && term.documents >= arguments.documents_at_least.unwrap_or(0)
                && term.documents as f64 <= most
                && arguments.weight_at_least.is_none_or(|least| term.weight >= least)
        });
    Ok(chosen.take(arguments.top.unwrap_or(usize::MAX)).collect())
}

/// The terms that the limit of a frozen recipe keeps, in its order, with what they weigh in this run.
fn limited_terms(
    path: &Path,
    arguments: &MatrixArguments,
    account: &Account,
) -> Result<Vec<MatrixTerm>, Failure> {
    let recipe = compile(path)?.recipe;
    let Some(limited) = recipe.limited_to() else {
        let why =
            "holds no terms: a vocabulary is a folder of a matrix, a run, or a frozen recipe with a `limit`";
        return Err(Failure::Sentence(format!("{}: {why}", path.display())));
    };
    let documents = account.totals.documents - account.totals.dropped;
    let vocabulary = account.vocabulary();
    let known: HashMap<&str, (u64, u64)> =
        vocabulary.iter().map(|term| (term.text, (term.count, term.documents))).collect();
    let weight = |with: u64| match arguments.global {
        _ if with == 0 => Ok(0.0),
        GlobalWeight::None => Ok(1.0),
        GlobalWeight::Idf => Ok(idf(with, documents)),
        GlobalWeight::IdfSmooth => Ok(smooth(with, documents)),
        GlobalWeight::IdfProbabilistic => Ok(probabilistic(with, documents)),
        _ => Err(option("global", "with a frozen recipe as vocabulary, terms weigh by idf alone")),
    };
    let terms = limited.iter().map(|text| {
        let (count, with) = known.get(text.as_str()).copied().unwrap_or_default();
        let idf = if with == 0 { 0.0 } else { idf(with, documents) };
        Ok(MatrixTerm { text: text.clone(), count, documents: with, idf, weight: weight(with)? })
    });
    terms.collect()
}

/// As if one more document held every term.
fn smooth(with: u64, documents: u64) -> f64 {
    ((1.0 + documents as f64) / (1.0 + with as f64)).ln() + 1.0
}

fn probabilistic(with: u64, documents: u64) -> f64 {
    ((documents - with) as f64 / with as f64).ln().max(0.0)
}

fn failed(folder: &NewFolder, name: &str) -> impl Fn(io::Error) -> Failure {
    let path = folder.named().join(name).display().to_string();
    move |why| Failure::File { path: path.clone(), why: why.to_string() }
}

/// `terms.csv`: what each column is.
fn write_terms(folder: &NewFolder, terms: &[MatrixTerm], cells: Cells) -> Result<(), Failure> {
    let name = "terms.csv";
    let failed = failed(folder, name);
    let into = |why: yarrup_io::TableError| failed(yarrup_io::table_failure(why));
    let mut table = TableWriter::with(
        cells,
        io::BufWriter::new(folder.file(name)?),
        ["column", "term", "count", "documents", "idf", "weight"],
    )
    .map_err(into)?;
    for (number, term) in (1..).zip(terms) {
        table
            .row([
                number.to_string().as_str(),
                &term.text,
                &term.count.to_string(),
                &term.documents.to_string(),
                &term.idf.to_string(),
                &term.weight.to_string(),
            ])
            .map_err(into)?;
    }
    table.finish().map_err(&failed)
}

fn write_matrix(
    arguments: &MatrixArguments,
    run: &Studied,
    terms: &[MatrixTerm],
    folder: &NewFolder,
    screen: &Screen,
) -> Result<String, Failure> {
    let columns = Columns::new(terms.iter().map(|term| (term.text.as_str(), term.weight)));
    let weighing = Weighing {
        local: match arguments.local {
            LocalCell::Count => LocalWeight::Of(Local::Count),
            LocalCell::Binary => LocalWeight::Of(Local::Binary),
            LocalCell::Log => LocalWeight::Of(Local::Log),
            LocalCell::Share => LocalWeight::Share,
        },
        normalised: arguments.normalise,
    };
    if arguments.formats.contains(&MatrixFormat::Svmlight) && arguments.label.is_none() {
        return Err(option("as", "svmlight needs --label and a field: each line begins with the label"));
    }
    let labels = arguments.label.as_deref().map(|field| Labels::of(run, field, screen)).transpose()?;
    let documents = run.record.totals.documents - run.record.totals.documents_dropped;
    let entries = match &arguments.vocabulary {
        // Every document of a term has one cell of it.
        None => terms.iter().map(|term| term.documents).sum(),
        Some(_) => run.entries(&columns, screen)?,
    };
    let size = MatrixSize { documents, terms: terms.len() as u64, entries };
    if arguments.formats.contains(&MatrixFormat::Dense) && size.documents * size.terms > DENSE {
        let cells = grouped(size.documents * size.terms);
        return Err(option("as", &format!("dense would have {cells} cells; ask for fewer terms with --top")));
    }
    let is_whole = matches!(arguments.local, LocalCell::Count | LocalCell::Binary)
        && terms.iter().all(|term| term.weight == 1.0)
        && !arguments.normalise;
    let about = format!(
        "documents and terms of the run {}\nlocal weight: {}; global weight: {}{}",
        run.compiled.name(),
        name_of(&arguments.local),
        if arguments.vocabulary.is_some() {
            "as in terms.csv".to_owned()
        } else {
            name_of(&arguments.global)
        },
        if arguments.normalise { "; rows of length 1" } else { "" }
    );
    let names: Vec<String> = terms.iter().map(|term| term.text.clone()).collect();
    let mut files = Vec::new();
    for format in &arguments.formats {
        let (stem, ending) = match format {
            MatrixFormat::Market => ("matrix", "mtx"),
            MatrixFormat::Svmlight => ("matrix", "svm"),
            MatrixFormat::Triplets => ("triplets", "csv"),
            MatrixFormat::Parquet => ("triplets", "parquet"),
            MatrixFormat::Dense => ("dense", "csv"),
        };
        // Parquet packs by itself.
        let gzip = arguments.gzip && *format != MatrixFormat::Parquet;
        let name = format!("{stem}.{ending}{}", if gzip { ".gz" } else { "" });
        let out = folder.file(&name)?;
        let packed = |out| Packed::new(out, gzip);
        let file = match format {
            MatrixFormat::Market => {
                MatrixFile::market(packed(out), size, (is_whole, arguments.terms_in_rows), &about)
            }
            MatrixFormat::Svmlight => Ok(MatrixFile::SvmLight(packed(out))),
            MatrixFormat::Triplets => MatrixFile::triplets(packed(out), names.clone(), cells(arguments)),
            MatrixFormat::Parquet => MatrixFile::parquet(out, names.clone()),
            MatrixFormat::Dense => MatrixFile::dense(packed(out), &names, cells(arguments)),
        };
        files.push((file.map_err(failed(folder, &name))?, name));
    }
    let header = ["row", "id"].into_iter().chain(labels.iter().map(|_| "label"));
    let header = header.chain(arguments.fields.iter().map(String::as_str));
    let into = |why: yarrup_io::TableError| failed(folder, "documents.csv")(yarrup_io::table_failure(why));
    let rows = io::BufWriter::new(folder.file("documents.csv")?);
    let rows = TableWriter::with(cells(arguments), rows, header).map_err(into)?;
    let making =
        Making { run, columns: &columns, weighing, fields: &arguments.fields, labels: labels.as_ref() };
    let (all, mut source) = run.documents(&[], Holding::default())?;
    let mut writing =
        Writing { folder, files, rows, number: 0, entries: 0, progress: screen.progress(source.bytes()) };
    let policy = Policy::strict(threads(None));
    read(&mut source, policy, &making, &mut writing).map_err(ended)?;
    all.confirm(&source)?;
    writing.progress.end();
    if writing.number != size.documents || writing.entries != size.entries {
        return Err(Failure::Sentence(format!(
            "{}: the documents are not those that the run counted; make the run again",
            run.path.display()
        )));
    }
    for (file, name) in writing.files {
        file.finish().map_err(failed(folder, &name))?;
    }
    writing.rows.finish().map_err(failed(folder, "documents.csv"))?;
    write_terms(folder, terms, cells(arguments))?;
    if let Some(labels) = &labels {
        labels.write(folder, cells(arguments))?;
    }
    let told = json!({
        "run": run.compiled.name(),
        "documents": size.documents,
        "terms": size.terms,
        "entries": size.entries,
        "local": name_of(&arguments.local),
        "global": if arguments.vocabulary.is_some() { "as in terms.csv".to_owned() } else { name_of(&arguments.global) },
        "with": arguments.with,
        "normalised": arguments.normalise,
        "label": arguments.label,
        "safe_cells": !arguments.as_is,
    });
    folder.write("matrix.json", format!("{told:#}\n").as_bytes())?;
    Ok(format!(
        "{} × {}, {} cells",
        counted(size.documents, "document"),
        counted(size.terms, "term"),
        grouped(size.entries)
    ))
}

/// The name of a value as it is typed.
fn name_of(value: &impl ValueEnum) -> String {
    value.to_possible_value().map_or_else(String::new, |value| value.get_name().to_owned())
}

/// How cells are written that a spreadsheet would take for formulas.
fn cells(arguments: &MatrixArguments) -> Cells {
    if arguments.as_is { Cells::AsIs } else { Cells::Safe }
}

/// The values of a field as numbers.
struct Labels {
    field: String,
    /// Values with their numbers and documents; none where the values are numbers themselves.
    numbered: Option<Vec<(String, u64)>>,
}

impl Labels {
    fn of(run: &Studied, field: &str, screen: &Screen) -> Result<Labels, Failure> {
        let values = run.values(field, screen)?;
        if values.keys().all(Option::is_none) {
            return Err(run.no_field(field, screen));
        }
        let is_number = |value: &Option<String>| {
            value.as_deref().is_some_and(|value| value.trim().parse::<f64>().is_ok_and(f64::is_finite))
        };
        let numbered = (!values.keys().all(is_number)).then(|| {
            values.into_iter().map(|(value, documents)| (value.unwrap_or_default(), documents)).collect()
        });
        Ok(Labels { field: field.to_owned(), numbered })
    }

    fn number(&self, value: Option<&str>) -> String {
        let value = value.unwrap_or_default();
        match &self.numbered {
            None => value.trim().to_owned(),
            Some(values) => {
                let number = values.binary_search_by(|(known, _)| known.as_str().cmp(value));
                number.unwrap_or_default().to_string()
            }
        }
    }

    fn write(&self, folder: &NewFolder, cells: Cells) -> Result<(), Failure> {
        let Some(values) = &self.numbered else { return Ok(()) };
        let into = |why: yarrup_io::TableError| failed(folder, "labels.csv")(yarrup_io::table_failure(why));
        let mut table = TableWriter::with(cells, folder.file("labels.csv")?, ["label", "value", "documents"])
            .map_err(into)?;
        for (number, (value, documents)) in values.iter().enumerate() {
            table.row([number.to_string().as_str(), value, &documents.to_string()]).map_err(into)?;
        }
        table.finish().map_err(failed(folder, "labels.csv"))
    }
}

/// The pass that makes rows.
struct Making<'r> {
    run: &'r Studied,
    columns: &'r Columns,
    weighing: Weighing,
    fields: &'r [String],
    labels: Option<&'r Labels>,
}

/// A document as a row.
struct Made {
    id: String,
    label: String,
    fields: Vec<String>,
    row: Row,
}

/// What a batch leaves behind.
#[derive(Default)]
struct Left {
    rows: Vec<Made>,
    fault: Option<Failure>,
}

impl<'r> Pass for Making<'r> {
    type State = TermsOf<'r>;
    type Left = Left;

    fn state(&self) -> TermsOf<'r> {
        TermsOf::new(self.run)
    }

    fn document(&self, terms: &mut TermsOf<'r>, document: &Numbered<'_>, left: &mut Left) {
        let record = &document.record;
        let field = |name: &str| record.field(name).unwrap_or_default().into_owned();
        let mut row = Row::new();
        let made = terms.each(record, |terms| row = self.columns.row(terms, self.weighing));
        if let Err(fault) = made {
            left.fault.get_or_insert(fault);
        }
        let label = self.labels.map(|labels| labels.number(record.field(&labels.field).as_deref()));
        left.rows.push(Made {
            id: field("id"),
            label: label.unwrap_or_default(),
            fields: self.fields.iter().map(|name| field(name)).collect(),
            row,
        });
    }
}

/// Writes rows in their order.
struct Writing<'f> {
    folder: &'f NewFolder,
    files: Vec<(MatrixFile, String)>,
    rows: TableWriter<io::BufWriter<std::fs::File>>,
    number: u64,
    entries: u64,
    progress: Progress,
}

impl Sink<Left> for Writing<'_> {
    type Error = Failure;

    fn left(&mut self, left: Left) -> Result<ControlFlow<()>, Failure> {
        if let Some(fault) = left.fault {
            return Err(fault);
        }
        for made in left.rows {
            let row = MatrixRow { id: &made.id, label: &made.label, cells: &made.row };
            for (file, name) in &mut self.files {
                file.row(self.number, &row).map_err(failed(self.folder, name))?;
            }
            self.number += 1;
            self.entries += made.row.len() as u64;
            let label = (!made.label.is_empty()).then_some(made.label);
            let cells = [self.number.to_string(), made.id].into_iter().chain(label).chain(made.fields);
            let written = self.rows.row(cells);
            written.map_err(|why| failed(self.folder, "documents.csv")(yarrup_io::table_failure(why)))?;
        }
        Ok(ControlFlow::Continue(()))
    }

    fn batch_done(&mut self, batch: BatchDone, _so_far: &Summary) -> Result<(), Failure> {
        self.progress.advance(batch.bytes);
        Ok(())
    }
}

/// Which terms stand together: `pairs.csv`, and as symmetric matrices `counts.mtx` and `ppmi.mtx`.
fn write_pairs(
    arguments: &MatrixArguments,
    run: &Studied,
    terms: &[MatrixTerm],
    (together, folder): (Together, &NewFolder),
    screen: &Screen,
) -> Result<String, Failure> {
    let columns = Columns::new(terms.iter().map(|term| (term.text.as_str(), 1.0)));
    let pairs = run.pairs(&columns, together, screen)?.pairs(arguments.pairs_at_least);
    let name = "pairs.csv";
    let into = |why: yarrup_io::TableError| failed(folder, name)(yarrup_io::table_failure(why));
    let mut table = TableWriter::with(
        cells(arguments),
        io::BufWriter::new(folder.file(name)?),
        ["term", "other", "count", "ppmi"],
    )
    .map_err(into)?;
    let text = |number: u32| terms[number as usize].text.as_str();
    for pair in &pairs {
        let (one, other) = pair.terms;
        let (count, ppmi) = (pair.count.to_string(), pair.ppmi.to_string());
        table.row([text(one), text(other), &count, &ppmi]).map_err(into)?;
    }
    table.finish().map_err(failed(folder, name))?;
    for (name, field) in [("counts.mtx", "integer"), ("ppmi.mtx", "real")] {
        let failed = failed(folder, name);
        let mut out = io::BufWriter::new(folder.file(name)?);
        let kept = |ppmi: f64| field == "integer" || ppmi > 0.0;
        let entries = pairs.iter().filter(|pair| kept(pair.ppmi)).count();
        writeln!(out, "%%MatrixMarket matrix coordinate {field} symmetric").map_err(&failed)?;
        writeln!(out, "{0} {0} {entries}", terms.len()).map_err(&failed)?;
        for pair in pairs.iter().filter(|pair| kept(pair.ppmi)) {
            // Of a symmetric matrix the lower half is written.
            let (column, row) = (pair.terms.0 + 1, pair.terms.1 + 1);
            match field {
                "integer" => writeln!(out, "{row} {column} {}", pair.count),
                _ => writeln!(out, "{row} {column} {}", pair.ppmi),
            }
            .map_err(&failed)?;
        }
        out.flush().map_err(&failed)?;
    }
    write_terms(folder, terms, cells(arguments))?;
    Ok(format!("{} of {}", counted(pairs.len() as u64, "pair"), counted(terms.len() as u64, "term")))
}

impl Studied {
    /// How many cells a matrix of these columns has.
    fn entries(&self, columns: &Columns, screen: &Screen) -> Result<u64, Failure> {
        let table = self.tally(Grouping::Together, screen)?;
        let terms = table.terms();
        let cells = terms.iter().filter(|(term, _)| columns.of(term).is_some());
        Ok(cells.map(|(_, spread)| spread.documents).sum())
    }
}
