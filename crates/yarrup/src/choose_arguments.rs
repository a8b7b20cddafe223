//! The arguments of the commands that help to choose: what is in the texts, and what to try next.

use std::path::PathBuf;

use clap::{Args, Subcommand};

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
    /// List the words and phrases of a file that occur in the texts: one per line, a JSON array, or a column of a table (`places.csv#name`); can be given several times
    #[arg(short, long, value_name = "FILE", help_heading = "What to find")]
    pub(crate) list: Vec<String>,
    /// List the value behind each numbered placeholder, from the recipe of a run that has masked these documents (RUN/frozen.toml)
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
    /// How many threads to use [default: one per processor]
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

/// How many suggestions of each sort are shown.
pub(crate) const DEFAULT_TOP: usize = 10;

#[derive(Debug, Args)]
pub(crate) struct SuggestArguments {
    /// The run folder
    pub(crate) run: PathBuf,
    /// Only these sorts, separated by commas: remnants, spellings, variants, stop-words, phrases, boilerplate, documents; and names, which are listed when they are asked for
    #[arg(long, value_name = "SORTS", value_delimiter = ',')]
    pub(crate) only: Vec<String>,
    /// How many suggestions of each sort to show; 0 shows all
    #[arg(short = 'n', long, value_name = "N", default_value_t = DEFAULT_TOP)]
    pub(crate) top: usize,
    /// Take these: numbers, ranges such as 3-7, sorts, or `all`, separated by commas; they go into --recipe, or are written with --write
    #[arg(long, value_name = "CHOICE", value_delimiter = ',', help_heading = "Accepting")]
    pub(crate) accept: Vec<String>,
    /// The recipe that what is accepted goes into; comments and layout stay
    #[arg(long, value_name = "RECIPE", requires = "accept", help_heading = "Accepting")]
    pub(crate) recipe: Option<PathBuf>,
    /// Write what is accepted, or all that is shown, as a list to edit: a CSV table with the evidence, or one entry a line where the name ends in .txt
    #[arg(
        short = 'o',
        long,
        alias = "out",
        value_name = "FILE",
        conflicts_with = "recipe",
        help_heading = "Accepting"
    )]
    pub(crate) write: Option<PathBuf>,
    /// Replace an existing file
    #[arg(long, requires = "write", help_heading = "Accepting")]
    pub(crate) replace: bool,
    /// How to print them
    #[arg(long, value_enum, default_value_t = TableFormat::Table, value_name = "FORMAT")]
    pub(crate) format: TableFormat,
}

#[derive(Debug, Args)]
#[command(args_conflicts_with_subcommands = true, subcommand_negates_reqs = true)]
pub(crate) struct ListsArguments {
    #[command(subcommand)]
    pub(crate) edit: Option<ListsEdit>,
    /// The recipe whose lists are shown
    #[arg(required = true)]
    pub(crate) recipe: Option<PathBuf>,
    /// Count how often the entries come in this run
    #[arg(long, value_name = "RUN")]
    pub(crate) run: Option<PathBuf>,
    /// Show the entries of one list: its name or path, or `add`
    #[arg(short, long, value_name = "LIST")]
    pub(crate) entries: Option<String>,
    /// How to print them; csv and json have every entry of every list
    #[arg(long, value_enum, default_value_t = TableFormat::Table, value_name = "FORMAT")]
    pub(crate) format: TableFormat,
}

#[derive(Debug, Subcommand)]
pub(crate) enum ListsEdit {
    /// Put words into an own list, each where it belongs; makes the file if there is none
    Add {
        #[command(flatten)]
        list: EditedFile,
        /// Why they are added; kept in the column `reason` of a table
        #[arg(long, value_name = "TEXT")]
        reason: Option<String>,
    },
    /// Take words out of an own list
    Remove {
        #[command(flatten)]
        list: EditedFile,
    },
}

/// A list that is edited, and the words.
#[derive(Debug, Args)]
pub(crate) struct EditedFile {
    /// The list: a text of one entry a line, a table (.csv, .tsv), or a JSON array
    pub(crate) file: PathBuf,
    /// The words or phrases; without any, one per line from standard input
    #[arg(value_name = "WORD")]
    pub(crate) words: Vec<String>,
    /// The column of a table that holds the entries [default: word, term, entry or token]
    #[arg(long, value_name = "NAME")]
    pub(crate) column: Option<String>,
    /// Put the whole list in alphabetical order, each part between comments by itself
    #[arg(long)]
    pub(crate) sort: bool,
}
