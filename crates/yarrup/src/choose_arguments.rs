//! The arguments of the commands that help to choose: what is in the texts, and what to try next.

use std::path::PathBuf;

use clap::Args;

use crate::arguments::TableFormat;
use crate::source_arguments::SourceArguments;

#[derive(Debug, Args)]
pub(crate) struct MatchesArguments {
    /// Files, folders, runs, addresses, databases, collection files, or `-` for standard input
    #[arg(required = true, value_name = "SOURCE")]
    pub(crate) sources: Vec<String>,
    /// List every value of these kinds, separated by commas: url, email, date, phone, money, street and so on; `all` lists every kind. Without this, --pattern,
    /// --list and --key, each kind is summed up in one row
    #[arg(short, long, value_name = "KINDS", value_delimiter = ',', help_heading = "What to find")]
    pub(crate) kinds: Vec<String>,
    /// List what a regular expression finds; can be given several times
    #[arg(short, long, value_name = "NAME=PATTERN", help_heading = "What to find")]
    pub(crate) pattern: Vec<String>,
    /// List the words and phrases of a file that stand in the texts: one a line, a JSON array, or a column of a table (`places.csv#name`); can be given several times
    #[arg(short, long, value_name = "FILE", help_heading = "What to find")]
    pub(crate) list: Vec<String>,
    /// List which value each numbered placeholder stands for, by the recipe of a run that has masked these documents (RUN/frozen.toml)
    #[arg(long, value_name = "RECIPE", conflicts_with_all = ["kinds", "pattern", "list", "places"], help_heading = "What to find")]
    pub(crate) key: Option<PathBuf>,
    /// List every place instead: document, kind, value, and where it starts and ends, in bytes of the text
    #[arg(long, help_heading = "What to show")]
    pub(crate) places: bool,
    /// How many rows to print of each kind; 0 prints all [default: 25 in a table, else all]
    #[arg(short = 'n', long, value_name = "N", help_heading = "What to show")]
    pub(crate) top: Option<usize>,
    /// How to print them
    #[arg(long, value_enum, default_value_t = TableFormat::Table, value_name = "FORMAT", help_heading = "What to show")]
    pub(crate) format: TableFormat,
    #[command(flatten)]
    pub(crate) reading: SourceArguments,
    /// How many threads work [default: one a processor]
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u16).range(1..=512))]
    pub(crate) threads: Option<u16>,
}

impl MatchesArguments {
    /// How many rows of each kind are printed.
    pub(crate) fn most(&self) -> usize {
        match (self.top, self.format) {
            (Some(0), _) | (None, TableFormat::Csv | TableFormat::Json) => usize::MAX,
            (Some(top), _) => top,
            (None, TableFormat::Table) => 25,
        }
    }
}
