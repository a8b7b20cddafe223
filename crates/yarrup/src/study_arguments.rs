//! The arguments of commands that study a run, as typed.

use std::path::PathBuf;

use clap::{Args, ValueEnum};
use yarrup_core::study::{Together, Weight};

use crate::arguments::TableFormat;
use crate::figures::FIGURES;

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum TermOrder {
    /// Commonest first
    Count,
    /// In most documents first
    Documents,
    /// Made of most forms first
    Forms,
    /// By the alphabet, accents and letter case aside
    Term,
    /// By the first weight that is shown, or how strongly they mark the documents of --key
    Weight,
}

#[derive(Debug, Args)]
pub(crate) struct ReportArguments {
    /// The run folder
    pub(crate) run: PathBuf,
    /// Compare the values of a field: FIELD, FIELD:year, FIELD:month, FIELD:10 for values in bins
    #[arg(long, value_name = "FIELD")]
    pub(crate) by: Option<String>,
    /// How large the page may be, in megabytes: the larger, the more documents and terms it holds
    #[arg(long, value_name = "MB", default_value_t = 25, value_parser = clap::value_parser!(u32).range(1..=2_000))]
    pub(crate) size: u32,
    /// Print what the page shows as JSON instead, and draw nothing; `yarrup schema report` says what is what
    #[arg(long)]
    pub(crate) data: bool,
}

#[derive(Debug, Args)]
pub(crate) struct FigureArguments {
    /// The run folder
    pub(crate) run: PathBuf,
    /// The figure
    #[arg(value_name = "NAME", value_parser = clap::builder::PossibleValuesParser::new(FIGURES.map(|(name, about)| clap::builder::PossibleValue::new(name).help(about))))]
    pub(crate) name: String,
    /// The file to write, which ends in .svg or .png; `-` prints the SVG
    #[arg(short, long, value_name = "FILE")]
    pub(crate) out: PathBuf,
    /// Replace an existing file
    #[arg(long)]
    pub(crate) replace: bool,
    /// How many terms or bars to show [default: 30; in the cloud 120]
    #[arg(short = 'n', long, value_name = "N", help_heading = "What to show")]
    pub(crate) top: Option<usize>,
    /// The last rank to show
    #[arg(long, value_name = "N", help_heading = "What to show")]
    pub(crate) rank_up_to: Option<usize>,
    /// Terms not to show, separated by commas
    #[arg(long, value_name = "WORDS", value_delimiter = ',', help_heading = "What to show")]
    pub(crate) leave_out: Vec<String>,
    /// Draw the values of a field separately: FIELD, FIELD:year, FIELD:10 for values in bins; in the cloud also `tag`
    #[arg(long, value_name = "FIELD", help_heading = "What to show")]
    pub(crate) by: Option<String>,
    /// In the cloud: what the areas of words are as large as, in the place of their tokens: idf, entropy, mutual_information, chi_square
    #[arg(long, value_name = "WEIGHT", value_parser = weight, help_heading = "What to show")]
    pub(crate) weight: Option<Weight>,
    /// The field whose values mutual_information and chi_square are of
    #[arg(long, value_name = "FIELD", requires = "weight", help_heading = "What to show")]
    pub(crate) with: Option<String>,
    /// The size in pixels
    #[arg(long, value_name = "WIDTHxHEIGHT", default_value = "1280x800", value_parser = size, help_heading = "Look")]
    pub(crate) size: (u32, u32),
    /// How the axes are spaced [default: as suits the figure]
    #[arg(long, value_enum, value_name = "SCALE", help_heading = "Look")]
    pub(crate) scale: Option<AxisScale>,
    /// Dark on light or light on dark
    #[arg(long, value_enum, default_value_t = FigureTheme::Light, value_name = "THEME", help_heading = "Look")]
    pub(crate) theme: FigureTheme,
    /// Own colours, such as `#1f7a8c,#e2b474`
    #[arg(long, value_name = "COLOURS", value_delimiter = ',', help_heading = "Look")]
    pub(crate) colours: Vec<String>,
    /// Another title
    #[arg(long, value_name = "TEXT", help_heading = "Look")]
    pub(crate) title: Option<String>,
    /// A font file (OpenType, TrueType) to take letters from first
    #[arg(long, value_name = "FILE", help_heading = "Look")]
    pub(crate) font: Option<PathBuf>,
    /// The shape of the cloud
    #[arg(long, value_enum, default_value_t = ShapeOfCloud::Ellipse, value_name = "SHAPE", help_heading = "Look")]
    pub(crate) shape: ShapeOfCloud,
}

/// `1600x900`.
fn size(typed: &str) -> Result<(u32, u32), String> {
    let wrong = || "expected WIDTHxHEIGHT in pixels, from 200 to 8000, such as 1600x900".to_owned();
    let (width, height) = typed.split_once('x').ok_or_else(wrong)?;
    let side =
        |text: &str| text.trim().parse().ok().filter(|side| (200..=8000).contains(side)).ok_or_else(wrong);
    Ok((side(width)?, side(height)?))
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum AxisScale {
    Linear,
    Log,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum FigureTheme {
    Light,
    Dark,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum ShapeOfCloud {
    Rectangle,
    Ellipse,
    Circle,
}

#[derive(Debug, Args)]
pub(crate) struct TermsArguments {
    /// The run folder
    pub(crate) run: PathBuf,
    /// How many rows to print; 0 prints all
    #[arg(short = 'n', long, value_name = "N", default_value_t = 25)]
    pub(crate) top: usize,
    /// What to sort by
    #[arg(long, value_enum, value_name = "ORDER")]
    pub(crate) sort: Option<TermOrder>,
    /// Sort the other way round
    #[arg(long)]
    pub(crate) reverse: bool,
    /// Only terms in which this regular expression matches
    #[arg(long, value_name = "PATTERN", help_heading = "Which")]
    pub(crate) matches: Option<String>,
    /// Only terms of these kinds, separated by commas: word, number, url, emoji and so on
    #[arg(long, value_name = "KINDS", value_delimiter = ',', help_heading = "Which")]
    pub(crate) kind: Vec<String>,
    /// Only tokens of this part of speech, such as noun or VERB, each counted by itself
    #[arg(long, value_name = "TAG", conflicts_with_all = ["by", "key", "weight"], help_heading = "Which")]
    pub(crate) tag: Option<String>,
    /// Only terms that a `label` step has given this label
    #[arg(long, value_name = "LABEL", conflicts_with = "dropped", help_heading = "Which")]
    pub(crate) label: Option<String>,
    /// Only terms with at least this many tokens
    #[arg(long, value_name = "N", help_heading = "Which")]
    pub(crate) at_least: Option<u64>,
    /// Only terms in at least this many documents
    #[arg(long, value_name = "N", help_heading = "Which")]
    pub(crate) documents_at_least: Option<u64>,
    /// List what was dropped instead: the words, the step, the reason
    #[arg(long, conflicts_with_all = ["forms", "by", "key", "weight"], help_heading = "Which")]
    pub(crate) dropped: bool,
    /// Only words that this step dropped
    #[arg(long, value_name = "N", requires = "dropped", help_heading = "Which")]
    pub(crate) step: Option<usize>,
    /// Show under each term the forms that became it
    #[arg(long, conflicts_with_all = ["by", "key", "weight"], help_heading = "What to show")]
    pub(crate) forms: bool,
    /// Count by the values of a field, a column each: FIELD, FIELD:year, FIELD:month, FIELD:10 for values in bins; or by `tag`, a row each
    #[arg(long, value_name = "FIELD", conflicts_with = "key", help_heading = "What to show")]
    pub(crate) by: Option<String>,
    /// With --by: only how many documents, tokens and terms each value has
    #[arg(long, requires = "by", help_heading = "What to show")]
    pub(crate) totals: bool,
    /// The terms that mark the documents for which this holds, such as `rating <= 2`, against all others
    #[arg(long, value_name = "CONDITION", conflicts_with = "by", help_heading = "What to show")]
    pub(crate) key: Option<String>,
    /// Add weights, separated by commas: idf, entropy, mutual_information, chi_square (these two with --with)
    #[arg(long, value_name = "WEIGHTS", value_delimiter = ',', value_parser = weight, help_heading = "What to show")]
    pub(crate) weight: Vec<Weight>,
    /// The field whose values mutual_information and chi_square are of
    #[arg(long, value_name = "FIELD", requires = "weight", help_heading = "What to show")]
    pub(crate) with: Option<String>,
    /// Add for each weight its sum over all documents, a term in each counted as binary, count or log
    #[arg(long, value_enum, value_name = "LOCAL", requires = "weight", help_heading = "What to show")]
    pub(crate) local: Option<LocalWeight>,
    /// The columns to print, separated by commas
    #[arg(long, value_name = "COLUMNS", value_delimiter = ',', help_heading = "What to show")]
    pub(crate) columns: Vec<String>,
    /// How to print them
    #[arg(long, value_enum, default_value_t = TableFormat::Table, value_name = "FORMAT")]
    pub(crate) format: TableFormat,
}

/// A weight by its name.
pub(crate) fn weight(typed: &str) -> Result<Weight, String> {
    let names = Weight::NAMES.map(|(name, _)| name).join(", ");
    Weight::named(typed).ok_or_else(|| format!("there are {names}"))
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum LocalWeight {
    /// 1 in each document that holds the term
    Binary,
    /// As often as it occurs there
    Count,
    /// ln (1 + n) where it occurs n times
    Log,
}

#[derive(Debug, Args)]
pub(crate) struct FindArguments {
    /// The run folder
    pub(crate) run: PathBuf,
    /// What to look for: terms, or phrases of several terms in quotes
    #[arg(value_name = "WHAT")]
    pub(crate) what: Vec<String>,
    /// Only documents that hold all that is looked for
    #[arg(long, help_heading = "What to look for")]
    pub(crate) all: bool,
    /// Look for words as they are written in the text, whatever became of them
    #[arg(long, conflicts_with_all = ["matches", "original", "emptied"], help_heading = "What to look for")]
    pub(crate) form: bool,
    /// WHAT is a regular expression that the term must match
    #[arg(long, conflicts_with_all = ["original", "emptied"], help_heading = "What to look for")]
    pub(crate) matches: bool,
    /// WHAT is a regular expression that is looked for in the original text
    #[arg(long = "text", conflicts_with_all = ["emptied", "dropped"], help_heading = "What to look for")]
    pub(crate) original: bool,
    /// Look for words that were dropped, as they are written; without WHAT, all of them
    #[arg(long, conflicts_with_all = ["emptied"], help_heading = "What to look for")]
    pub(crate) dropped: bool,
    /// Only words that this step dropped
    #[arg(long, value_name = "N", requires = "dropped", help_heading = "What to look for")]
    pub(crate) step: Option<usize>,
    /// List the documents that have nothing left
    #[arg(long, conflicts_with_all = ["what", "whole", "all"], help_heading = "What to look for")]
    pub(crate) emptied: bool,
    /// Only documents for which this holds, such as `rating <= 2`; can be given several times
    #[arg(long = "where", value_name = "CONDITION", help_heading = "Documents")]
    pub(crate) conditions: Vec<String>,
    /// Count the places by the values of a field first: FIELD, or FIELD:year, FIELD:month, FIELD:10 for values in bins
    #[arg(long, value_name = "FIELD", conflicts_with = "emptied", help_heading = "Documents")]
    pub(crate) by: Option<String>,
    /// Show these fields of each document, separated by commas
    #[arg(long, value_name = "FIELDS", value_delimiter = ',', help_heading = "Results")]
    pub(crate) show: Vec<String>,
    /// List documents with the number of places in each, not lines
    #[arg(long, conflicts_with = "whole", help_heading = "Results")]
    pub(crate) documents: bool,
    /// Show documents whole, with every place marked
    #[arg(long, help_heading = "Results")]
    pub(crate) whole: bool,
    /// How many to show; 0 shows all [default: 25; with --whole, 3]
    #[arg(short = 'n', long, alias = "top", value_name = "N", help_heading = "Results")]
    pub(crate) first: Option<usize>,
    /// Show so many by chance
    #[arg(long, value_name = "N", conflicts_with = "first", help_heading = "Results")]
    pub(crate) sample: Option<usize>,
    /// Another number, another sample
    #[arg(long, value_name = "N", requires = "sample", help_heading = "Results")]
    pub(crate) seed: Option<u64>,
    /// What to sort by: `before` and `after` the words that stand there, `document`, `count` (with --documents), or a field
    #[arg(long, value_name = "ORDER", default_value = "document", help_heading = "Results")]
    pub(crate) sort: String,
    /// How to print what was found
    #[arg(long, value_enum, default_value_t = RowFormat::Table, value_name = "FORMAT", help_heading = "Results")]
    pub(crate) format: RowFormat,
    /// How many threads to use [default: one per processor]
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u16).range(1..=512))]
    pub(crate) threads: Option<u16>,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum RowFormat {
    /// For people
    Table,
    /// Comma-separated values
    Csv,
    /// One JSON object
    Json,
    /// A JSON object for each row
    Jsonl,
}

#[derive(Debug, Args)]
pub(crate) struct WhyArguments {
    /// The run folder
    pub(crate) run: PathBuf,
    /// The word: as it stood in the text, or a term
    pub(crate) word: String,
    /// How to print what is known
    #[arg(long, value_enum, default_value_t = TableFormat::Table, value_name = "FORMAT")]
    pub(crate) format: TableFormat,
}

#[derive(Debug, Args)]
pub(crate) struct MatrixArguments {
    /// The run folder
    pub(crate) run: PathBuf,
    /// The folder to write; it must not exist
    #[arg(short, long, value_name = "FOLDER")]
    pub(crate) out: PathBuf,
    /// The formats, separated by commas
    #[arg(long = "as", value_enum, value_name = "FORMATS", value_delimiter = ',', default_value = "market")]
    pub(crate) formats: Vec<MatrixFormat>,
    /// Pack the matrix by gzip
    #[arg(long)]
    pub(crate) gzip: bool,
    /// Write the cells of CSV tables as they are, also those that a spreadsheet would take for formulas
    #[arg(long)]
    pub(crate) as_is: bool,
    /// What a term counts in a document in which it occurs n times
    #[arg(long, value_enum, default_value_t = LocalCell::Count, value_name = "LOCAL", help_heading = "Weights")]
    pub(crate) local: LocalCell,
    /// What a term weighs in the whole collection, which cells are multiplied by
    #[arg(long, value_enum, default_value_t = GlobalWeight::None, value_name = "GLOBAL", help_heading = "Weights")]
    pub(crate) global: GlobalWeight,
    /// The field whose values mutual-information and chi-square are of
    #[arg(long, value_name = "FIELD", help_heading = "Weights")]
    pub(crate) with: Option<String>,
    /// Make every document as long as 1 (L2)
    #[arg(long, help_heading = "Weights")]
    pub(crate) normalise: bool,
    /// Only terms with at least this many tokens
    #[arg(long, value_name = "N", help_heading = "Terms")]
    pub(crate) at_least: Option<u64>,
    /// Only terms in at least this many documents
    #[arg(long, value_name = "N", help_heading = "Terms")]
    pub(crate) documents_at_least: Option<u64>,
    /// Only terms in at most this share of the documents, from 0 to 1
    #[arg(long, value_name = "SHARE", help_heading = "Terms")]
    pub(crate) share_at_most: Option<f64>,
    /// Only terms that weigh at least this in the collection
    #[arg(long, value_name = "WEIGHT", help_heading = "Terms")]
    pub(crate) weight_at_least: Option<f64>,
    /// Of the terms that are left, so many of the commonest
    #[arg(short = 'n', long, value_name = "N", help_heading = "Terms")]
    pub(crate) top: Option<usize>,
    /// The terms and weights of another matrix folder, or the terms of another run or of a frozen recipe: the same columns for new documents
    #[arg(long, value_name = "PLACE", conflicts_with_all = ["at_least", "documents_at_least", "share_at_most", "weight_at_least", "top"], help_heading = "Terms")]
    pub(crate) vocabulary: Option<PathBuf>,
    /// Terms in rows, and documents in columns (Matrix Market)
    #[arg(long, help_heading = "Documents")]
    pub(crate) terms_in_rows: bool,
    /// Fields of documents for documents.csv, separated by commas
    #[arg(long, value_name = "FIELDS", value_delimiter = ',', help_heading = "Documents")]
    pub(crate) fields: Vec<String>,
    /// The field that is the label: numbers as they are, other values numbered in their order (labels.csv)
    #[arg(long, value_name = "FIELD", help_heading = "Documents")]
    pub(crate) label: Option<String>,
    /// Count which terms occur together instead: within so many terms, a line (a sentence, where the recipe keeps them), or a document
    #[arg(long, value_name = "window:N|line|document", value_parser = together, conflicts_with_all = ["formats", "local", "global", "normalise", "terms_in_rows", "fields", "label"], help_heading = "Pairs of terms")]
    pub(crate) together: Option<Together>,
    /// Only pairs that occur together at least this often
    #[arg(
        long,
        value_name = "N",
        default_value_t = 1,
        requires = "together",
        help_heading = "Pairs of terms"
    )]
    pub(crate) pairs_at_least: u64,
}

/// `window:5`, `line`, `document`.
fn together(typed: &str) -> Result<Together, String> {
    let wrong = || "expected window:N, line or document".to_owned();
    match typed {
        "line" | "sentence" => Ok(Together::Line),
        "document" => Ok(Together::Document),
        other => {
            let width = other.strip_prefix("window:").and_then(|width| width.parse().ok());
            width.filter(|width| (1..=1000).contains(width)).map(Together::Window).ok_or_else(wrong)
        }
    }
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum MatrixFormat {
    /// Matrix Market, coordinates: matrix.mtx
    Market,
    /// SVMlight, a line a document: matrix.svm
    Svmlight,
    /// A row a cell: triplets.csv
    Triplets,
    /// The same as Parquet: triplets.parquet
    Parquet,
    /// A column a term: dense.csv
    Dense,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum LocalCell {
    /// n
    Count,
    /// 1
    Binary,
    /// ln (1 + n)
    Log,
    /// n divided by the tokens of the document that have a column
    Share,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum GlobalWeight {
    /// 1
    None,
    /// ln (N / n): N documents, n of them with the term; nothing is smoothed
    Idf,
    /// ln ((1 + N) / (1 + n)) + 1: smoothed as if one more document held every term
    IdfSmooth,
    /// ln ((N − n) / n), 0 where that is negative
    IdfProbabilistic,
    /// 1 less the normalised entropy of the term
    Entropy,
    /// In bits, with the values of the field --with
    MutualInformation,
    /// Pearson's, with the values of the field --with
    ChiSquare,
}
