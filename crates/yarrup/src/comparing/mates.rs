//! Pairs of words that should fall together, or should not.

use std::path::Path;

use yarrup_core::{NoFields, Pipeline};
use yarrup_io::read_bounded;

use crate::failure::Failure;

/// Pairs of words, each with whether they should fall together.
pub(crate) struct WordPairs(Vec<(String, String, bool)>);

/// How many pairs fall together under a recipe.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Mates {
    /// Pairs that should, and how many of them do.
    pub(crate) mates: (u64, u64),
    /// Pairs that should not, and how many of them do.
    pub(crate) others: (u64, u64),
}

impl WordPairs {
    /// Reads a CSV table of three columns.
    pub(crate) fn read(path: &Path) -> Result<WordPairs, Failure> {
        let named = path.display().to_string();
        let failed = |why: String| Failure::File { path: named.clone(), why };
        let bytes = read_bounded(path).map_err(|why| failed(why.to_string()))?;
        let mut reader =
            csv::ReaderBuilder::new().has_headers(false).flexible(true).from_reader(bytes.as_slice());
        let mut pairs = Vec::new();
        for (number, row) in (1..).zip(reader.records()) {
            let row = row.map_err(|why| failed(why.to_string()))?;
            let cells: Vec<&str> = row.iter().map(str::trim).collect();
            let told = match cells.as_slice() {
                [_, _, told] => match told.to_lowercase().as_str() {
                    "yes" | "true" | "1" => Some(true),
                    "no" | "false" | "0" => Some(false),
                    _ => None,
                },
                _ => None,
            };
            match told {
                Some(told) => pairs.push((cells[0].to_owned(), cells[1].to_owned(), told)),
                // The names of the columns.
                None if number == 1 => {}
                None => {
                    return Err(Failure::Sentence(format!(
                        "{named}:{}: each row is a word, another, and `yes` or `no`: whether they should fall together",
                        row.position().map_or(number, csv::Position::line)
                    )));
                }
            }
        }
        match pairs.is_empty() {
            true => Err(Failure::Sentence(format!("{named}: holds no pair of words"))),
            false => Ok(WordPairs(pairs)),
        }
    }

    /// How many of them fall together under a recipe, each word taken as a text of its own. What nothing is left of falls together with nothing.
    pub(crate) fn under(&self, pipeline: &Pipeline) -> Mates {
        let mut counts = Mates { mates: (0, 0), others: (0, 0) };
        for (one, other, should) in &self.0 {
            let clean = |word: &str| pipeline.trace(word, &NoFields).clean;
            let ours = clean(one);
            let of = if *should { &mut counts.mates } else { &mut counts.others };
            of.0 += 1;
            of.1 += u64::from(!ours.is_empty() && ours == clean(other));
        }
        counts
    }
}
