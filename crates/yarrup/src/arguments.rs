//! The arguments as typed.

use std::path::{Path, PathBuf};

use clap::builder::styling::{AnsiColor, Styles};
use clap::{Args, Parser, Subcommand, ValueEnum};

use yarrup_core::recipe::STARTERS;
use yarrup_core::study::Weight;
use yarrup_io::Part;

pub(crate) use crate::choose_arguments::{
    EditedFile, ListsArguments, ListsEdit, MatchesArguments, SuggestArguments,
};
pub(crate) use crate::compare_arguments::CompareArguments;
use crate::source_arguments::SourceArguments;
pub(crate) use crate::study_arguments::{
    AxisScale, FigureArguments, FigureTheme, FindArguments, GlobalWeight, LocalCell, LocalWeight,
    MatrixArguments, MatrixFormat, ReportArguments, RowFormat, ShapeOfCloud, TermOrder, TermsArguments,
    WhyArguments, weight,
};

/// As usual, but for yellow, which cannot be read on white.
const STYLES: Styles = Styles::styled().invalid(AnsiColor::Magenta.on_default());

/// Compose recipes of small steps, apply them to collections of documents, and see exactly what they did.
#[derive(Debug, Parser)]
#[command(
    name = "yarrup",
    version,
    about,
    max_term_width = 100,
    arg_required_else_help = true,
    disable_help_subcommand = true,
    styles = STYLES
)]
pub(crate) struct Arguments {
    #[command(subcommand)]
    pub(crate) command: Command,
    /// When to use colour; never with NO_COLOR set
    #[arg(long, alias = "color", global = true, value_enum, default_value_t = Colour::Auto, value_name = "WHEN", help_heading = "Everywhere")]
    pub(crate) colour: Colour,
    /// Print only results and errors
    #[arg(short, long, global = true, help_heading = "Everywhere")]
    pub(crate) quiet: bool,
    /// Print more about the work, and at the end time, speed and memory
    #[arg(short, long, global = true, conflicts_with = "quiet", help_heading = "Everywhere")]
    pub(crate) verbose: bool,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum Colour {
    Auto,
    Always,
    Never,
}

#[derive(Debug, Subcommand)]
pub(crate) enum Command {
    /// Write the demo collection and its recipes, run them, and say where to look
    Demo(DemoArguments),
    /// See what a collection holds: formats, fields, languages, lengths, dirt, and documents whole
    Look(LookArguments),
    /// Apply a recipe to a collection, into a run folder
    Run(RunArguments),
    /// Record what a recipe depends on: its word lists, models, dictionaries, and the version of Yarrup
    Lock(LockArguments),
    /// Combine runs over parts of a collection into one run over all of it
    Merge(MergeArguments),
    /// Apply a recipe to JSON Lines from standard input, to standard output
    Pipe(PipeArguments),
    /// Show what each step of a recipe does to one text
    Try(TryArguments),
    /// Find mistakes in a recipe, and steps in an order that cannot work
    Check(CheckArguments),
    /// Write a commented recipe to start from
    New(NewArguments),
    /// List the steps that recipes are made of, and show the keys of one
    Steps(StepsArguments),
    /// Print the JSON Schema of recipes, for editors, or of what the page of a run shows
    Schema(SchemaArguments),
    /// Compare how several stemmers and lemmatisers reduce words
    Reduce(ReduceArguments),
    /// List what comes with Yarrup: stop lists, stemmers, dictionaries, tables, models
    Shelf(ShelfArguments),
    /// Compare the word lists of a recipe, and add or remove words in your own lists
    Lists(ListsArguments),
    /// Train a tagger and lemmatiser on annotated text (CoNLL-U), or measure how good one is
    Learn(LearnArguments),
    /// Export documents, tokens, counts, terms or forms of a run, to a file or a database
    Export(ExportArguments),
    /// Write a matrix of documents and terms, or of terms that occur together
    Matrix(MatrixArguments),
    /// Draw the report page and the figures of a run again
    #[command(alias = "redraw")]
    Report(ReportArguments),
    /// Draw one figure of a run, as SVG or PNG
    Figure(FigureArguments),
    /// List the vocabulary of a run
    Terms(TermsArguments),
    /// Find a word in the documents of a run, with the words around it
    Find(FindArguments),
    /// List links, addresses, dates and other values in texts, and what your own patterns and word lists find
    Matches(MatchesArguments),
    /// Suggest what to try next: misspellings, stop words, phrases, boilerplate, copies, names
    Suggest(SuggestArguments),
    /// Show what became of a word, step by step, and which words became it
    Why(WhyArguments),
    /// Compare recipes on one collection, or finished runs
    Compare(CompareArguments),
    /// Print a script that lets your shell complete commands and options
    Completions(CompletionsArguments),
    /// Write manual pages, one for each command
    Manual(ManualArguments),
    /// Show a page on recipes, sources, fields or runs, or the help of a command
    Help(HelpArguments),
}

#[derive(Debug, Args)]
pub(crate) struct StepsArguments {
    /// The step whose keys are shown; without it all steps are listed
    pub(crate) name: Option<String>,
    /// How to print them
    #[arg(long, value_enum, default_value_t = TableFormat::Table, value_name = "FORMAT")]
    pub(crate) format: TableFormat,
}

#[derive(Debug, Args)]
pub(crate) struct CompletionsArguments {
    /// The shell: bash, zsh, fish
    #[arg(value_enum, value_name = "SHELL")]
    pub(crate) shell: clap_complete::Shell,
}

#[derive(Debug, Args)]
pub(crate) struct ManualArguments {
    /// The folder to write; it must not exist
    #[arg(short, long, value_name = "FOLDER")]
    pub(crate) out: PathBuf,
}

#[derive(Debug, Args)]
pub(crate) struct HelpArguments {
    /// recipes, sources, fields, runs, or a command
    pub(crate) topic: Option<String>,
}

#[derive(Debug, Args)]
pub(crate) struct SchemaArguments {
    /// Of what
    #[arg(value_enum, default_value_t = SchemaOf::Recipe, value_name = "OF")]
    pub(crate) of: SchemaOf,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum SchemaOf {
    /// Recipes
    Recipe,
    /// What `yarrup report RUN --data` prints
    Report,
}

#[derive(Debug, Args)]
pub(crate) struct DemoArguments {
    /// The folder to write the demo into; it must not exist
    #[arg(long, value_name = "FOLDER", default_value = "yarrup-demo")]
    pub(crate) into: PathBuf,
}

#[derive(Debug, Args)]
pub(crate) struct LookArguments {
    /// Files, folders, addresses, databases, collection files, or `-` for standard input
    #[arg(required = true, value_name = "SOURCE")]
    pub(crate) sources: Vec<String>,
    /// Show documents whole instead: numbers, ranges such as 1-3, ids (`id=17` for an id that is a number), `longest`, `shortest`, `random`, separated by commas
    #[arg(short, long, alias = "document", value_name = "LIST", value_delimiter = ',')]
    pub(crate) documents: Vec<String>,
    /// Show instead which documents repeat others and what differs, and which passages many documents have, with the steps that leave them out
    #[arg(long, conflicts_with_all = ["documents", "all", "save"])]
    pub(crate) copies: bool,
    /// How many groups of copies and how many passages to show; 0 shows all [default: 10, as JSON all]
    #[arg(short = 'n', long, value_name = "N", requires = "copies")]
    pub(crate) top: Option<usize>,
    /// Look at every document closely. Without it, a large collection is described by a sample: languages by 2 MB of text, dirt, scripts, repeated lines and near
    /// copies by 6 MB
    #[arg(long, conflicts_with = "documents")]
    pub(crate) all: bool,
    /// Write what was found as a collection file, for all commands
    #[arg(short = 'o', long, alias = "out", value_name = "FILE")]
    pub(crate) save: Option<PathBuf>,
    /// Replace an existing collection file
    #[arg(long, requires = "save")]
    pub(crate) replace: bool,
    /// How to print what was found
    #[arg(long, value_enum, default_value_t = CheckFormat::Text, value_name = "FORMAT")]
    pub(crate) format: CheckFormat,
    #[command(flatten)]
    pub(crate) reading: SourceArguments,
    /// How many threads to use [default: one per processor]
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u16).range(1..=512))]
    pub(crate) threads: Option<u16>,
}

#[derive(Debug, Default, Args)]
#[command(
    override_usage = "yarrup run [OPTIONS] <RECIPE> <SOURCE>...\n       yarrup run [OPTIONS] --frozen <RUN> <SOURCE>..."
)]
pub(crate) struct RunArguments {
    /// The recipe (TOML); left out with --frozen
    pub(crate) recipe: PathBuf,
    /// Files, folders, addresses, databases, collection files, or `-` for standard input
    #[arg(required_unless_present = "frozen", value_name = "SOURCE")]
    pub(crate) sources: Vec<String>,
    /// Take the recipe of an earlier run, with all that it learned, and tell how these documents stand against its own: words that it has never met,
    /// terms that it has not got
    #[arg(long, value_name = "RUN", conflicts_with_all = ["lessons", "learned", "part"], help_heading = "Recipe")]
    pub(crate) frozen: Option<PathBuf>,
    /// Refuse to run if the recipe, a file that it names, or the version of Yarrup differs from what `yarrup lock` recorded
    #[arg(long, conflicts_with = "frozen", help_heading = "Recipe")]
    pub(crate) locked: bool,
    /// The run folder to write [default: the recipe's file name with `-run`]
    #[arg(short, long, value_name = "FOLDER", help_heading = "Results")]
    pub(crate) out: Option<PathBuf>,
    /// Replace an existing run
    #[arg(long, help_heading = "Results")]
    pub(crate) replace: bool,
    /// What to write beside the counts, separated by commas: documents, report, figures (as files, SVG and PNG); or `none` of them
    #[arg(
        long,
        value_enum,
        value_name = "WHAT",
        value_delimiter = ',',
        default_value = "documents,report",
        help_heading = "Results"
    )]
    pub(crate) write: Vec<Written>,
    /// Copy the original texts into the run, also where they stay in their source [default: refer to a source that is one table or file of JSON Lines]
    #[arg(long, conflicts_with = "without_originals", help_heading = "Results")]
    pub(crate) with_originals: bool,
    /// Neither copy the original texts nor record where they are
    #[arg(long, help_heading = "Results")]
    pub(crate) without_originals: bool,
    /// Write no documents; the same as leaving them out of --write
    #[arg(long, conflicts_with_all = ["with_originals", "without_originals", "documents"], help_heading = "Results")]
    pub(crate) without_documents: bool,
    /// How to write the documents [default: jsonl, and jsonl.zst for collections of more than 16 MB]
    #[arg(long, value_enum, value_name = "FORMAT", help_heading = "Results")]
    pub(crate) documents: Option<DocumentFormat>,
    /// Write every kept token with its place in the original to tokens.csv, tokens.jsonl or tokens.parquet
    #[arg(long, value_enum, value_name = "FORMAT", help_heading = "Results")]
    pub(crate) tokens: Option<TokenFormat>,
    /// Also write the matrix of documents and terms to this folder; `yarrup matrix` has more choices
    #[arg(long, value_name = "FOLDER", conflicts_with = "without_documents", help_heading = "Results")]
    pub(crate) matrix: Option<PathBuf>,
    /// Also write tables into a database: postgres://USER@HOST/DATABASE, or an SQLite file
    #[arg(long, value_name = "DATABASE", conflicts_with_all = ["without_documents", "without_originals"], help_heading = "Databases")]
    pub(crate) into: Option<String>,
    /// The table for the documents [default: documents, if no --token-table is given]
    #[arg(long, value_name = "NAME", requires = "into", help_heading = "Databases")]
    pub(crate) document_table: Option<String>,
    /// The table for the tokens
    #[arg(long, value_name = "NAME", requires = "into", help_heading = "Databases")]
    pub(crate) token_table: Option<String>,
    /// Add to tables that are there
    #[arg(long, requires = "into", help_heading = "Databases")]
    pub(crate) append: bool,
    /// Make tables anew that are there
    #[arg(long, requires = "into", conflicts_with = "append", help_heading = "Databases")]
    pub(crate) replace_tables: bool,
    /// Add weights to vocabulary.csv, separated by commas: idf, entropy, mutual_information, chi_square (these two with --with)
    #[arg(long, value_name = "WEIGHTS", value_delimiter = ',', value_parser = weight, help_heading = "Results")]
    pub(crate) weight: Vec<Weight>,
    /// The field whose values mutual_information and chi_square are of
    #[arg(long, value_name = "FIELD", requires = "weight", help_heading = "Results")]
    pub(crate) with: Option<String>,
    #[command(flatten)]
    pub(crate) reading: SourceArguments,
    /// Work on one of several parts of the collection alone, such as 3/8; `yarrup merge` makes one run of all of them
    #[arg(long, value_name = "K/N", value_parser = part, conflicts_with_all = ["matrix", "into", "weight"], help_heading = "Parts")]
    pub(crate) part: Option<Part>,
    /// Only write to this file what the documents have to say to the steps that learn; `yarrup merge --freeze` puts the files of all parts together
    #[arg(long, value_name = "FILE", conflicts_with_all = ["out", "documents", "tokens", "matrix", "into", "weight", "timings"], help_heading = "Parts")]
    pub(crate) lessons: Option<PathBuf>,
    /// Take what steps learn from this file, which `yarrup merge --freeze` wrote
    #[arg(long, value_name = "FILE", help_heading = "Parts")]
    pub(crate) learned: Option<PathBuf>,
    /// Say how long each step takes, by a sample of the documents
    #[arg(long, help_heading = "Results")]
    pub(crate) timings: bool,
    /// End at the first malformed record or unreadable file, and write nothing
    #[arg(long, help_heading = "Documents")]
    pub(crate) strict: bool,
    /// How many threads to use [default: one per processor]
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u16).range(1..=512))]
    pub(crate) threads: Option<u16>,
}

impl PipeArguments {
    /// What becomes of a line that is no document.
    pub(crate) fn on_error(&self) -> OnError {
        if self.strict { OnError::Fail } else { self.errors.unwrap_or(OnError::Record) }
    }
}

impl RunArguments {
    /// The sources. Without a recipe, the first of them stands where a recipe would.
    pub(crate) fn named_sources(&self) -> Vec<String> {
        let first = self.frozen.is_some().then(|| self.recipe.display().to_string());
        first.into_iter().chain(self.sources.iter().cloned()).collect()
    }

    /// Whether this is to be written.
    pub(crate) fn writes(&self, what: Written) -> bool {
        let is_left_out = what == Written::Documents && self.without_documents;
        self.write.contains(&what) && !is_left_out
    }
}

#[derive(Debug, Args)]
pub(crate) struct LockArguments {
    /// The recipe (TOML); its lock stands beside it, with the ending `.lock`
    pub(crate) recipe: PathBuf,
}

#[derive(Debug, Args)]
pub(crate) struct MergeArguments {
    /// Run folders, or files that `yarrup pipe --account` wrote; with --freeze, files that `--lessons` wrote
    #[arg(required = true, value_name = "PART")]
    pub(crate) parts: Vec<PathBuf>,
    /// The run folder to write; with --freeze, the recipe
    #[arg(short, long, value_name = "PLACE")]
    pub(crate) out: PathBuf,
    /// Put together what the parts have to say to the steps of this recipe that learn, and write the recipe with all that it learned; beside it, with the
    /// ending `.learned`, a file for `--learned`
    #[arg(long, value_name = "RECIPE", conflicts_with_all = ["write", "documents"])]
    pub(crate) freeze: Option<PathBuf>,
    /// What earlier steps have learned, where steps learn one after the other
    #[arg(long, value_name = "FILE", requires = "freeze")]
    pub(crate) learned: Option<PathBuf>,
    /// Replace an existing run
    #[arg(long)]
    pub(crate) replace: bool,
    /// What to write beside the counts, separated by commas: documents (if the parts have them), report, figures (as files, SVG and PNG); or `none` of them
    #[arg(long, value_enum, value_name = "WHAT", value_delimiter = ',', default_value = "documents,report")]
    pub(crate) write: Vec<Written>,
    /// How to write the documents [default: jsonl, and jsonl.zst for collections of more than 16 MB]
    #[arg(long, value_enum, value_name = "FORMAT")]
    pub(crate) documents: Option<DocumentFormat>,
    /// How many threads to use [default: one per processor]
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u16).range(1..=512))]
    pub(crate) threads: Option<u16>,
}

/// What a run writes beside its counts.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum Written {
    /// The documents with their cleaned texts
    Documents,
    /// Figures as SVG and PNG
    Figures,
    /// The report page
    Report,
    /// Nothing of these
    None,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum DocumentFormat {
    /// A JSON object a line: documents.jsonl
    Jsonl,
    /// The same, packed by Zstandard: documents.jsonl.zst
    #[value(name = "jsonl.zst")]
    JsonlZst,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum TokenFormat {
    /// Comma-separated values
    Csv,
    /// A JSON object a line
    Jsonl,
    /// Parquet, with typed columns
    Parquet,
}

#[derive(Debug, Args)]
pub(crate) struct PipeArguments {
    /// The recipe (TOML)
    pub(crate) recipe: PathBuf,
    /// Refuse to run if the recipe, a file that it names, or the version of Yarrup differs from what `yarrup lock` recorded
    #[arg(long)]
    pub(crate) locked: bool,
    /// Take plain text, a document a line, and give the cleaned text alone, a line a document
    #[arg(long, conflicts_with_all = ["tokens", "counts", "text", "id", "conditions", "derive"], help_heading = "Lines")]
    pub(crate) lines: bool,
    /// Take a stream of Arrow record batches, a document a row, and give the same rows with `clean`, `tokens_before`, `tokens_after` and `left_out`; --text
    /// is the column. Only in a program built with `--features arrow`
    #[arg(long, conflicts_with_all = ["lines", "tokens", "counts", "drop_emptied", "errors", "strict", "id", "conditions", "derive", "language_field", "detect_language", "account", "lessons", "called", "threads"], help_heading = "Lines")]
    pub(crate) arrow: bool,
    /// Add the kept tokens with their places in the original text
    #[arg(long, help_heading = "Lines")]
    pub(crate) tokens: bool,
    /// Add how many tokens there were, as found and in the end
    #[arg(long, help_heading = "Lines")]
    pub(crate) counts: bool,
    /// Leave out documents that have no token left or that the recipe drops, and say how many
    #[arg(long, help_heading = "Lines")]
    pub(crate) drop_emptied: bool,
    /// What becomes of a line that is no document [default: record, and exit code 2 where no line is one]
    #[arg(long, value_enum, value_name = "WHAT", help_heading = "Lines")]
    pub(crate) errors: Option<OnError>,
    /// End at the first malformed line; the same as --errors fail
    #[arg(long, hide = true, conflicts_with = "errors")]
    pub(crate) strict: bool,
    /// The field that is the text, as a path into nested objects (`ticket.body`); `text` if not given; several are joined
    #[arg(long, value_name = "FIELD", help_heading = "Documents")]
    pub(crate) text: Vec<String>,
    /// The field that is the id, for messages about a document
    #[arg(long, value_name = "FIELD", help_heading = "Documents")]
    pub(crate) id: Option<String>,
    /// Take only documents for which this is true: `rating <= 2`, `site ~ ^North`, `note`, `!note`
    #[arg(long = "where", value_name = "CONDITION", help_heading = "Documents")]
    pub(crate) conditions: Vec<String>,
    /// Add a field that is true where a comparison is true: `low=rating <= 2`
    #[arg(long, value_name = "NAME=CONDITION", help_heading = "Documents")]
    pub(crate) derive: Vec<String>,
    /// The field that names the language of a document; `language` if not given
    #[arg(long, value_name = "FIELD", help_heading = "Documents")]
    pub(crate) language_field: Option<String>,
    /// Add a field `language` with the language that is detected, where the fields do not name one
    #[arg(long, help_heading = "Documents")]
    pub(crate) detect_language: bool,
    /// Write what was counted to this file: `yarrup merge` makes a run of such files
    #[arg(long, value_name = "FILE", help_heading = "Parts")]
    pub(crate) account: Option<PathBuf>,
    /// Pass nothing on: only write to this file what the documents have to say to the steps that learn, for `yarrup merge --freeze`
    #[arg(long, value_name = "FILE", conflicts_with_all = ["account", "lines", "tokens", "counts", "drop_emptied"], help_heading = "Parts")]
    pub(crate) lessons: Option<PathBuf>,
    /// What earlier steps have learned, where steps learn one after the other
    #[arg(long, value_name = "FILE", requires = "lessons", help_heading = "Parts")]
    pub(crate) learned: Option<PathBuf>,
    /// What to call the input in the account and in messages [default: standard input]
    #[arg(long, value_name = "NAME", help_heading = "Parts")]
    pub(crate) called: Option<String>,
    /// Replace an existing file
    #[arg(long, help_heading = "Parts")]
    pub(crate) replace: bool,
    /// How many threads to use
    #[arg(long, value_name = "N", default_value_t = 1, value_parser = clap::value_parser!(u16).range(1..=512))]
    pub(crate) threads: u16,
}

/// What becomes of a line that is no document.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum OnError {
    /// It ends the work
    Fail,
    /// The line goes on as it came
    Pass,
    /// An object with `error`, `place` and `line` goes on in its place
    Record,
    /// Nothing goes on in its place
    Skip,
}

#[derive(Debug, Args)]
pub(crate) struct TryArguments {
    /// The recipe (TOML)
    pub(crate) recipe: PathBuf,
    /// The text, in one piece or as several words; standard input if neither this nor --from is given
    #[arg(conflicts_with = "from", value_name = "TEXT")]
    pub(crate) given_text: Vec<String>,
    /// Show what another recipe makes of the same text beside it; can be given several times
    #[arg(long, value_name = "RECIPE")]
    pub(crate) beside: Vec<PathBuf>,
    /// Stop after the step with this number
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u16).range(1..))]
    pub(crate) step: Option<u16>,
    /// Show it again whenever the recipe changes, until you press Ctrl-C
    #[arg(long)]
    pub(crate) watch: bool,
    /// Add the text, with what the recipe makes of it, to the examples in the recipe
    #[arg(long, conflicts_with_all = ["step", "watch"])]
    pub(crate) save_example: bool,
    /// How to print it: for people, or as data with every token, its place and its reasons
    #[arg(long, value_enum, default_value_t = CheckFormat::Text, value_name = "FORMAT")]
    pub(crate) format: CheckFormat,
    /// Take a document from this source instead
    #[arg(long, value_name = "SOURCE", help_heading = "Documents")]
    pub(crate) from: Option<String>,
    /// Which document: its number or id (`id=17` for an id that is a number), `longest`, `shortest`, `random` [default: the first]
    #[arg(short, long, requires = "from", value_name = "DOCUMENT", help_heading = "Documents")]
    pub(crate) document: Option<String>,
    /// Take a random document instead; each seed takes another
    #[arg(long, requires = "from", conflicts_with = "document", value_name = "SEED", num_args = 0..=1, default_missing_value = "", help_heading = "Documents")]
    pub(crate) random: Option<String>,
    /// Give the text a field, for steps that work only on some documents
    #[arg(long = "field", conflicts_with = "from", value_name = "NAME=VALUE", value_parser = field, help_heading = "Documents")]
    pub(crate) given: Vec<(String, String)>,
    #[command(flatten)]
    pub(crate) reading: SourceArguments,
}

/// `NAME=VALUE`.
fn field(typed: &str) -> Result<(String, String), String> {
    let (name, value) = typed.split_once('=').ok_or("expected NAME=VALUE, such as language=en")?;
    Ok((name.to_owned(), value.to_owned()))
}

#[derive(Debug, Args)]
pub(crate) struct NewArguments {
    /// The recipe file to write; `-` prints it
    pub(crate) file: PathBuf,
    /// Replace an existing file
    #[arg(long)]
    pub(crate) replace: bool,
    /// What the recipe is for
    #[arg(long = "for", value_name = "AIM", value_parser = clap::builder::PossibleValuesParser::new(STARTERS.iter().map(|starter| starter.aim)))]
    pub(crate) aim: String,
    /// The language of the texts, such as `de` or `German`
    #[arg(long, value_name = "TAG", default_value = "en")]
    pub(crate) language: String,
}

#[derive(Debug, Args)]
pub(crate) struct CheckArguments {
    /// The recipe (TOML)
    pub(crate) recipe: PathBuf,
    /// A collection to check it on: files, folders, addresses, collection files, or `-`
    #[arg(value_name = "SOURCE")]
    pub(crate) sources: Vec<String>,
    /// Make the changes that are safe, in the recipe
    #[arg(long)]
    pub(crate) fix: bool,
    /// How to print what was found
    #[arg(long, value_enum, default_value_t = CheckFormat::Text, value_name = "FORMAT")]
    pub(crate) format: CheckFormat,
    /// List every entry that can never match, and those that another entry covers
    #[arg(long)]
    pub(crate) entries: bool,
    /// List every word that erasing marks has joined in the sources, with its counts
    #[arg(long, requires = "sources")]
    pub(crate) joined: bool,
    /// Check it again whenever the recipe or a list that it names changes, until interrupted; the sources are read once, and kept in memory
    #[arg(long, conflicts_with_all = ["fix", "joined"])]
    pub(crate) watch: bool,
    #[command(flatten)]
    pub(crate) reading: SourceArguments,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum CheckFormat {
    Text,
    Json,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum TableFormat {
    Table,
    Csv,
    Json,
}

#[derive(Debug, Args)]
pub(crate) struct LearnArguments {
    /// Treebanks to learn from (CoNLL-U)
    #[arg(value_name = "TREEBANK")]
    pub(crate) treebanks: Vec<PathBuf>,
    /// The model file to write
    #[arg(short, long, value_name = "FILE")]
    pub(crate) out: Option<PathBuf>,
    /// Replace existing files
    #[arg(long)]
    pub(crate) replace: bool,
    /// The language of the treebanks; for `en` the built-in lexicon is used too
    #[arg(long, value_name = "TAG", default_value = "en")]
    pub(crate) language: String,
    /// Classes of words from running text, as `--text` learns them: the model then knows more words than the treebanks have
    #[arg(long, value_name = "FILE")]
    pub(crate) word_classes: Option<PathBuf>,
    /// How running text uses words, as `--uses-of` counts it
    #[arg(long, value_name = "FILE")]
    pub(crate) word_uses: Option<PathBuf>,
    /// Learn classes of words from running text instead of a model: plain UTF-8, each line a text of its own
    #[arg(
        long,
        value_name = "FILE",
        num_args = 1..,
        requires = "out",
        conflicts_with_all = ["treebanks", "word_classes", "word_uses", "uses_of", "evaluate", "folds"],
        help_heading = "Running text"
    )]
    pub(crate) text: Vec<PathBuf>,
    /// Count how a run uses words instead: the tags that its step `tag` gave each word, and how often
    #[arg(
        long,
        value_name = "RUN",
        requires = "out",
        conflicts_with_all = ["treebanks", "word_classes", "word_uses", "evaluate", "folds"],
        help_heading = "Running text"
    )]
    pub(crate) uses_of: Option<PathBuf>,
    /// How many classes
    #[arg(long, value_name = "N", default_value_t = 600, value_parser = clap::value_parser!(u16).range(2..=10_000), help_heading = "Running text")]
    pub(crate) classes: u16,
    /// How often a word must occur in the text to be counted
    #[arg(long, value_name = "N", default_value_t = 12, value_parser = clap::value_parser!(u32).range(1..), help_heading = "Running text")]
    pub(crate) least: u32,
    /// Measure the model on this annotated text: the one just trained, the one in --model, or the built-in English one
    #[arg(long, value_name = "GOLD", help_heading = "Evaluation")]
    pub(crate) evaluate: Option<PathBuf>,
    /// The model to evaluate
    #[arg(
        long,
        value_name = "FILE",
        requires = "evaluate",
        conflicts_with = "out",
        help_heading = "Evaluation"
    )]
    pub(crate) model: Option<PathBuf>,
    /// Measure a model on sentences it has not seen: split the treebanks into N parts, and test each part with a model of the others
    #[arg(long, value_name = "N", conflicts_with = "evaluate", value_parser = clap::value_parser!(u8).range(2..=100), help_heading = "Evaluation")]
    pub(crate) folds: Option<u8>,
    /// Write the evaluated sentences with the model's tags and lemmas (CoNLL-U)
    #[arg(long, value_name = "FILE", help_heading = "Evaluation")]
    pub(crate) predictions: Option<PathBuf>,
    /// How to print the figures
    #[arg(long, value_enum, default_value_t = CheckFormat::Text, value_name = "FORMAT")]
    pub(crate) format: CheckFormat,
}

#[derive(Debug, Args)]
pub(crate) struct ReduceArguments {
    /// Words; without any, one per line from standard input, optionally with a part of speech after a tab
    #[arg(value_name = "WORD")]
    pub(crate) words: Vec<String>,
    /// The methods, separated by commas: porter2, porter, s, paice, light, full, lemma, a dictionary such as de_DE, own rules (a `.toml` file), a
    /// learned model (a `.model` file)
    #[arg(long = "with", value_name = "METHOD", value_delimiter = ',')]
    pub(crate) methods: Vec<String>,
    /// The language of the words
    #[arg(long, value_name = "TAG", default_value = "en")]
    pub(crate) language: String,
    /// The part of speech of all words that come without one
    #[arg(long, value_name = "TAG")]
    pub(crate) tag: Option<String>,
    /// Take the commonest forms that a run kept instead
    #[arg(long, value_name = "RUN", conflicts_with = "words")]
    pub(crate) run: Option<PathBuf>,
    /// How many of them
    #[arg(short = 'n', long, value_name = "N", default_value_t = 40, requires = "run")]
    pub(crate) top: usize,
    /// A file of word groups, one group per line, that should be reduced to one word each: count what each method joins too little or too much
    #[arg(long, value_name = "FILE", conflicts_with_all = ["words", "run"])]
    pub(crate) groups: Option<PathBuf>,
    /// How to print the table
    #[arg(long, value_enum, default_value_t = TableFormat::Table, value_name = "FORMAT")]
    pub(crate) format: TableFormat,
}

#[derive(Debug, Args)]
pub(crate) struct ShelfArguments {
    /// What to show; without it everything is listed
    pub(crate) name: Option<String>,
    /// How to print it
    #[arg(long, value_enum, default_value_t = TableFormat::Table, value_name = "FORMAT")]
    pub(crate) format: TableFormat,
}

#[derive(Debug, Default, Args)]
#[command(group = clap::ArgGroup::new("to").required(true).args(["format", "into"]))]
pub(crate) struct ExportArguments {
    /// The run folder
    pub(crate) run: PathBuf,
    /// The format of a file
    #[arg(long = "as", value_enum, value_name = "FORMAT")]
    pub(crate) format: Option<ExportFormat>,
    /// What to write; several go into a database, separated by commas
    #[arg(long, value_enum, default_value = "tokens", value_name = "WHAT", value_delimiter = ',')]
    pub(crate) what: Vec<ExportWhat>,
    /// Of tokens: also those that were dropped or joined, with form, fate, step and reason
    #[arg(long)]
    pub(crate) dropped: bool,
    /// Of tokens and counts: fields of their documents as columns, separated by commas
    #[arg(long, value_name = "FIELDS", value_delimiter = ',')]
    pub(crate) fields: Vec<String>,
    /// Of documents: the name of the column with the cleaned text [default: clean]
    #[arg(long, value_name = "NAME")]
    pub(crate) clean_as: Option<String>,
    /// Of documents: add a column of this name with the list of their terms
    #[arg(long, value_name = "NAME")]
    pub(crate) term_list: Option<String>,
    /// Of documents: add what steps leave of each, a column for each of these steps, separated by commas, or `all`
    #[arg(long, value_name = "STEPS", value_delimiter = ',')]
    pub(crate) stages: Vec<String>,
    /// Write the cells of CSV as they are, also those that a spreadsheet would take for formulas
    #[arg(long)]
    pub(crate) as_is: bool,
    /// The file to write [default: standard output]
    #[arg(short, long, value_name = "FILE", conflicts_with = "into")]
    pub(crate) out: Option<PathBuf>,
    /// Replace an existing file or database table
    #[arg(long)]
    pub(crate) replace: bool,
    /// Write into a database: postgres://USER@HOST/DATABASE, or an SQLite file
    #[arg(long, value_name = "DATABASE", help_heading = "Databases")]
    pub(crate) into: Option<String>,
    /// The table to make [default: what is written]; a dot parts a schema from it
    #[arg(long, value_name = "NAME", requires = "into", help_heading = "Databases")]
    pub(crate) table: Option<String>,
    /// Add the rows to a table that is there
    #[arg(long, requires = "into", conflicts_with = "replace", help_heading = "Databases")]
    pub(crate) append: bool,
    /// A file of certificates (PEM) that vouch for the server, which is then checked
    #[arg(long, value_name = "FILE", requires = "into", help_heading = "Databases")]
    pub(crate) certificates: Option<PathBuf>,
}

impl ExportArguments {
    /// What is written of a run where nothing more is said.
    pub(crate) fn of(run: &Path) -> ExportArguments {
        ExportArguments { run: run.to_owned(), ..ExportArguments::default() }
    }
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum ExportFormat {
    /// CoNLL-U, the open format of treebanks: a kept token a line, with its place in the original
    Conllu,
    /// Comma-separated values; packed where the file ends in .gz or .zst
    Csv,
    /// A JSON object a line; packed where the file ends in .gz or .zst
    Jsonl,
    /// Parquet, with typed columns
    Parquet,
    /// A table of an SQLite file, with indexes
    Sqlite,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum ExportWhat {
    /// The documents with all their fields
    Documents,
    /// Every token with its place in the original
    Tokens,
    /// Every term of every document, with its count and its places among the kept tokens
    #[value(alias = "matrix")]
    Counts,
    /// The vocabulary
    Terms,
    /// Every form with its fate
    Forms,
    /// The effect of each step
    Effects,
}

/// What is told where weights that need a field have none.
pub(crate) const NEEDS_FIELD: &str = "mutual_information and chi_square need --with and a field";

/// One of several parts of a collection, as it is typed.
fn part(written: &str) -> Result<Part, String> {
    let numbers =
        written.split_once('/').and_then(|(number, of)| Some((number.parse().ok()?, of.parse().ok()?)));
    match numbers {
        Some((number, of)) if (1..=of).contains(&number) => Ok(Part { number, of }),
        _ => Err("a part is written as its number and how many there are, such as 3/8".to_owned()),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use clap::CommandFactory;

    #[test]
    fn the_definition_is_sound() {
        Arguments::command().debug_assert();
    }
}
