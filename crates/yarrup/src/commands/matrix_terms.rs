//! The terms of a matrix that is there already.

use std::path::Path;

use yarrup_io::{read_bounded, restored_cell};

use crate::failure::Failure;

/// A term with a column.
#[derive(Clone, Debug, PartialEq)]
pub(super) struct MatrixTerm {
    pub(super) text: String,
    pub(super) count: u64,
    pub(super) documents: u64,
    pub(super) idf: f64,
    /// What its cells are multiplied by.
    pub(super) weight: f64,
}

/// What a folder of a vocabulary is.
pub(super) enum Known {
    Run,
    Matrix(Vec<MatrixTerm>),
}

/// The terms of a matrix folder in their order, with their weights.
pub(super) fn known_terms(folder: &Path) -> Result<Known, Failure> {
    let path = folder.join("terms.csv");
    if !path.exists() {
        return Ok(Known::Run);
    }
    let failed = |why: String| Failure::File { path: path.display().to_string(), why };
    let table = read_bounded(&path).map_err(|why| failed(why.to_string()))?;
    // Whether cells that would start a formula have an apostrophe in front stands beside the table.
    let record = read_bounded(&folder.join("matrix.json")).unwrap_or_default();
    let record: serde_json::Value = serde_json::from_slice(&record).unwrap_or_default();
    let is_safe = record["safe_cells"].as_bool().unwrap_or(true);
    let mut reader = csv::Reader::from_reader(table.as_slice());
    let mut terms = Vec::new();
    for row in reader.records() {
        let row = row.map_err(|why| failed(why.to_string()))?;
        let cell = |place: usize| row.get(place).unwrap_or_default();
        let line = row.position().map_or(0, csv::Position::line);
        let number = |place: usize| {
            let cell = cell(place);
            cell.parse::<f64>().map_err(|_| failed(format!("line {line}: `{cell}` is not a number")))
        };
        terms.push(MatrixTerm {
            text: if is_safe { restored_cell(cell(1)) } else { cell(1) }.to_owned(),
            count: number(2)? as u64,
            documents: number(3)? as u64,
            idf: number(4)?,
            weight: number(5)?,
        });
    }
    Ok(Known::Matrix(terms))
}
