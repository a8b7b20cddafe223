//! The arguments of `yarrup compare`, as typed.

use std::path::PathBuf;

use clap::Args;

use crate::arguments::TableFormat;
use crate::source_arguments::SourceArguments;

#[derive(Debug, Args)]
pub(crate) struct CompareArguments {
    /// Recipes (with --on), or run folders; each is compared with the first
    #[arg(required = true, value_name = "RECIPE|RUN")]
    pub(crate) compared: Vec<PathBuf>,
    /// The documents to take through the recipes: files, folders, addresses, databases, collection files, or `-`
    #[arg(long, value_name = "SOURCE", num_args = 1..)]
    pub(crate) on: Vec<String>,
    /// Compare a recipe with itself without each of its steps in turn
    #[arg(long, requires = "on", conflicts_with = "vary", help_heading = "Alternatives")]
    pub(crate) each_step_out: bool,
    /// Compare a recipe with itself with other values of a key: `stem.method=porter,light`, `4.lists=en,en-long`; a step in and out: `stem=on,off`. Several of these
    /// are combined
    #[arg(long, requires = "on", value_name = "STEP.KEY=VALUES", help_heading = "Alternatives")]
    pub(crate) vary: Vec<String>,
    /// Say by group how much documents change: by the values of a field, also `FIELD:year` and such
    #[arg(long, value_name = "FIELD", help_heading = "What to show")]
    pub(crate) by: Option<String>,
    /// Measure how well the values of this field can be predicted from the cleaned texts
    #[arg(long, requires = "on", value_name = "FIELD", help_heading = "What to show")]
    pub(crate) label: Option<String>,
    /// Say how many pairs of words of a CSV table fall together: its columns are a word, another, and whether they should (yes, no)
    #[arg(long, value_name = "FILE", help_heading = "What to show")]
    pub(crate) pairs: Option<PathBuf>,
    /// End with exit code 1 if this holds of some comparison: `unknown_share > 0.08`; --measures lists what can be named. Can be given several times
    #[arg(long, value_name = "BOUND", help_heading = "What to show")]
    pub(crate) fail_if: Vec<String>,
    /// Print every measure with its value, one a line
    #[arg(long, conflicts_with = "format", help_heading = "What to show")]
    pub(crate) measures: bool,
    /// How many rows each list has in the terminal and in JSON
    #[arg(
        short = 'n',
        long,
        alias = "top",
        default_value_t = 10,
        value_name = "N",
        help_heading = "What to show"
    )]
    pub(crate) rows: usize,
    /// Write all of it to this folder, which must not exist: CSV tables, JSON, and a page to explore
    #[arg(short, long, value_name = "FOLDER", help_heading = "Results")]
    pub(crate) out: Option<PathBuf>,
    /// How to print the comparison; `csv` prints the summary table
    #[arg(long, value_enum, default_value_t = TableFormat::Table, value_name = "FORMAT", help_heading = "Results")]
    pub(crate) format: TableFormat,
    #[command(flatten)]
    pub(crate) reading: SourceArguments,
    /// How many threads to use [default: one per processor]
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u16).range(1..=512))]
    pub(crate) threads: Option<u16>,
}
