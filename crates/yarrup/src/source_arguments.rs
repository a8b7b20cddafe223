//! What is said of sources on the command line, and the collection that comes of it.

use std::path::{Path, PathBuf};
use std::sync::Arc;

use clap::Args;
use yarrup_io::{
    Collection, Pick, ReaderProcesses, SourceSpec, is_collection_file, is_recipe_file, matching_files,
    read_collection,
};

use crate::failure::{Failure, text_of};

/// Which fields are what, which documents are taken, and how sources are read. The options have the names of the settings in
/// collection files.
#[derive(Clone, Debug, Default, Args)]
pub(crate) struct SourceArguments {
    /// The field that is the text, as a path into nested objects (`ticket.body`); `text` if not given; several are joined
    #[arg(long, value_name = "FIELD", help_heading = "Documents")]
    pub(crate) text: Vec<String>,
    /// The field that is the id; `id` if not given and there, else made from file and line
    #[arg(long, value_name = "FIELD", help_heading = "Documents")]
    pub(crate) id: Option<String>,
    /// The field that is the title
    #[arg(long, value_name = "FIELD", help_heading = "Documents")]
    pub(crate) title: Option<String>,
    /// Take only documents for which this is true: `rating <= 2`, `site ~ ^North`, `note`, `!note`
    #[arg(long = "where", value_name = "CONDITION", help_heading = "Documents")]
    pub(crate) conditions: Vec<String>,
    /// Take only the first N documents
    #[arg(long, value_name = "N", conflicts_with = "sample", help_heading = "Documents")]
    pub(crate) first: Option<u64>,
    /// Take N documents at random
    #[arg(long, value_name = "N", help_heading = "Documents")]
    pub(crate) sample: Option<u64>,
    /// The seed of --sample: the same seed takes the same documents
    #[arg(long, value_name = "NUMBER", requires = "sample", help_heading = "Documents")]
    pub(crate) seed: Option<u64>,
    /// Add a field that is true where a comparison is true: `low=rating <= 2`
    #[arg(long, value_name = "NAME=CONDITION", help_heading = "Documents")]
    pub(crate) derive: Vec<String>,
    /// The type of a field, if its values mislead: text, whole, number, truth, date
    #[arg(long, value_name = "FIELD=TYPE", help_heading = "Documents")]
    pub(crate) types: Vec<String>,
    /// The field that names the language of a document; `language` if not given
    #[arg(long, value_name = "FIELD", help_heading = "Documents")]
    pub(crate) language_field: Option<String>,
    /// Add a field `language` with the language that is detected, where the fields do not name one
    #[arg(long, help_heading = "Documents")]
    pub(crate) detect_language: bool,
    /// Add the fields `file` and `folder`, from the name of the file of each document
    #[arg(long, help_heading = "Documents")]
    pub(crate) file_fields: bool,
    /// Read sources in this format, whatever their names and contents suggest
    #[arg(long = "as", value_name = "FORMAT", help_heading = "Reading")]
    pub(crate) read_as: Option<String>,
    /// What a document is: file, line, paragraph, section, page, chapter, row, cell, message
    #[arg(long, value_name = "UNIT", help_heading = "Reading")]
    pub(crate) each: Option<String>,
    /// What the heading lines of sections look like (regular expression)
    #[arg(long, value_name = "PATTERN", help_heading = "Reading")]
    pub(crate) heading: Option<String>,
    /// The line between two documents of a plain text, such as `%`, or a pattern that begins with `^`
    #[arg(long, value_name = "LINE", allow_hyphen_values = true, help_heading = "Reading")]
    pub(crate) separator_line: Option<String>,
    /// The encoding of text, if it is detected wrongly
    #[arg(long, value_name = "NAME", help_heading = "Reading")]
    pub(crate) encoding: Option<String>,
    /// The separator between the cells of a table: one character, or `tab`
    #[arg(long, value_name = "CHARACTER", help_heading = "Reading")]
    pub(crate) separator: Option<String>,
    /// Whether the first row of a table names its columns (`true`, `false`), or the number of the row that does
    #[arg(long, value_name = "ROW", help_heading = "Reading")]
    pub(crate) header: Option<String>,
    /// The sheet of a spreadsheet
    #[arg(long, value_name = "NAME", help_heading = "Reading")]
    pub(crate) sheet: Option<String>,
    /// The column of a spreadsheet whose cells are documents
    #[arg(long, value_name = "NAME", help_heading = "Reading")]
    pub(crate) column: Option<String>,
    /// The table of a database
    #[arg(long, value_name = "NAME", conflicts_with = "query", help_heading = "Reading")]
    pub(crate) table: Option<String>,
    /// A query on a database
    #[arg(long, value_name = "SQL", help_heading = "Reading")]
    pub(crate) query: Option<String>,
    /// Where the records lie: the array in a JSON file that is one large object, or the elements in XML
    #[arg(long, value_name = "PATH", help_heading = "Reading")]
    pub(crate) records: Option<String>,
    /// Rejoin words that are broken at line ends, in PDF and plain text
    #[arg(long, help_heading = "Reading")]
    pub(crate) rejoin: bool,
    /// Leave menus, and the headers and footers of the site, out of the text of HTML pages; they go into the field `menus`
    #[arg(long, help_heading = "Reading")]
    pub(crate) without_menus: bool,
    /// In folders, archives and listings, read only files with these names or paths
    #[arg(long, value_name = "PATTERN", help_heading = "Reading")]
    pub(crate) include: Vec<String>,
    /// Do not read files with these names or paths
    #[arg(long, value_name = "PATTERN", help_heading = "Reading")]
    pub(crate) exclude: Vec<String>,
    /// Also read hidden files and folders
    #[arg(long, help_heading = "Reading")]
    pub(crate) hidden: bool,
    /// Read archives that unpack to more than 200 times their size
    #[arg(long, help_heading = "Reading")]
    pub(crate) trust_archives: bool,
    /// Read PDF, office files, Parquet and databases without a process of their own that keeps hostile ones in bounds
    #[arg(long, help_heading = "Reading")]
    pub(crate) trust_files: bool,
    /// How many seconds of processor time one such file may take [default: 60, and 10 more for each MB]
    #[arg(long, value_name = "SECONDS", help_heading = "Reading")]
    pub(crate) file_seconds: Option<u64>,
    /// How much memory one such file may take [default: 1GB, and 32 times its size, up to 8GB]
    #[arg(long, value_name = "SIZE", help_heading = "Reading")]
    pub(crate) file_memory: Option<String>,
    /// Keep what is fetched from the network in this folder; what is there is not fetched again
    #[arg(long, value_name = "FOLDER", help_heading = "Network")]
    pub(crate) keep: Option<String>,
    /// A file of certificates (PEM) to trust instead of the usual authorities
    #[arg(long, value_name = "FILE", help_heading = "Network")]
    pub(crate) certificates: Option<String>,
    /// The most that is fetched from one address [default: 8GB]
    #[arg(long, value_name = "SIZE", help_heading = "Network")]
    pub(crate) largest: Option<String>,
    /// How many seconds a server may be silent [default: 30]
    #[arg(long, value_name = "SECONDS", help_heading = "Network")]
    pub(crate) patience: Option<u64>,
    /// The milliseconds between two requests for files of a listing [default: 50 on each connection; 0 on this machine]
    #[arg(long, value_name = "MILLISECONDS", help_heading = "Network")]
    pub(crate) pace: Option<u64>,
}

impl SourceArguments {
    /// The settings that were given, by their names.
    fn settings(&self) -> Vec<(&'static str, Vec<String>)> {
        let one = |value: &Option<String>| value.iter().cloned().collect::<Vec<_>>();
        let flag = |value: bool| value.then(|| "true".to_owned()).into_iter().collect::<Vec<_>>();
        vec![
            ("text", self.text.clone()),
            ("id", one(&self.id)),
            ("title", one(&self.title)),
            ("where", self.conditions.clone()),
            ("derive", self.derive.clone()),
            ("types", self.types.clone()),
            ("as", one(&self.read_as)),
            ("each", one(&self.each)),
            ("heading", one(&self.heading)),
            ("separator_line", one(&self.separator_line)),
            ("encoding", one(&self.encoding)),
            ("separator", one(&self.separator)),
            ("header", one(&self.header)),
            ("sheet", one(&self.sheet)),
            ("column", one(&self.column)),
            ("table", one(&self.table)),
            ("query", one(&self.query)),
            ("records", one(&self.records)),
            ("language_field", one(&self.language_field)),
            ("detect_language", flag(self.detect_language)),
            ("file_fields", flag(self.file_fields)),
            ("rejoin", flag(self.rejoin)),
            ("without_menus", flag(self.without_menus)),
            ("include", self.include.clone()),
            ("exclude", self.exclude.clone()),
            ("hidden", flag(self.hidden)),
            ("trust_archives", flag(self.trust_archives)),
            ("trust_files", flag(self.trust_files)),
            ("file_seconds", self.file_seconds.iter().map(ToString::to_string).collect()),
            ("file_memory", one(&self.file_memory)),
            ("keep", one(&self.keep)),
            ("certificates", one(&self.certificates)),
            ("largest", one(&self.largest)),
            ("patience", self.patience.iter().map(ToString::to_string).collect()),
            ("pace", self.pace.iter().map(ToString::to_string).collect()),
        ]
    }

    /// Whether no document at all is asked for.
    pub(crate) fn asks_for_none(&self) -> bool {
        self.first == Some(0) || self.sample == Some(0)
    }

    /// The collection of these places: files, folders, addresses, `-`, and collection files, of which what is given here counts more
    /// than what they say.
    pub(crate) fn collection(&self, places: &[String]) -> Result<Collection, Failure> {
        // A hidden call of this same program, which `main` knows.
        let program = std::env::current_exe().ok();
        let apart = program.map(|program| Arc::new(ReaderProcesses::of(program)));
        let mut collection = Collection { apart, ..Collection::default() };
        for place in places {
            let path = Path::new(place);
            let is_toml = path.extension().is_some_and(|ending| ending == "toml") && path.is_file();
            if is_toml && is_collection_file(path) {
                let read = read_file(path)?;
                collection.name = collection.name.or(read.name);
                collection.about = collection.about.or(read.about);
                if collection.pick == Pick::All {
                    collection.pick = read.pick;
                }
                collection.sources.extend(read.sources);
            } else if is_toml && self.read_as.is_none() {
                let what = match is_recipe_file(path) {
                    true => "a recipe, and not a source: a recipe comes before the sources",
                    false => "not a collection file: it has no `[[source]]`",
                };
                return Err(Failure::Sentence(format!(
                    "{place}: {what}; if its text is the document, add `--as text`"
                )));
            } else if let Some(files) = matching_files(place).map_err(Failure::Sentence)? {
                if files.is_empty() {
                    return Err(Failure::Sentence(format!("{place}: no file has such a path")));
                }
                collection.sources.extend(files.iter().map(|file| SourceSpec::at(file)));
            } else {
                collection.sources.push(SourceSpec::at(place));
            }
        }
        for (name, values) in self.settings() {
            for source in &mut collection.sources {
                source
                    .set(name, values.clone())
                    .map_err(|why| Failure::Sentence(format!("--{}: {why}", name.replace('_', "-"))))?;
            }
        }
        match (self.first, self.sample) {
            (Some(documents), _) => collection.pick = Pick::First(documents),
            (None, Some(documents)) => {
                collection.pick = Pick::Sample { documents, seed: self.seed.unwrap_or_default() };
            }
            (None, None) => {}
        }
        Ok(collection)
    }
}

fn read_file(path: &Path) -> Result<Collection, Failure> {
    let named = path.display().to_string();
    let text = text_of(path)?;
    let folder = path.parent().map(PathBuf::from).unwrap_or_default();
    read_collection(&text, &folder).map_err(|faults| Failure::Recipe { path: named, text, faults })
}

#[cfg(test)]
mod tests {
    use super::*;
    use clap::CommandFactory;
    use yarrup_io::SETTINGS;

    #[test]
    fn every_setting_of_a_source_is_an_option() {
        let command = crate::arguments::Arguments::command();
        let look = command.find_subcommand("look").expect("a command");
        let given: Vec<_> = SourceArguments::default().settings().into_iter().map(|(name, _)| name).collect();
        for setting in SETTINGS {
            let option = setting.name.replace('_', "-");
            assert!(look.get_arguments().any(|argument| argument.get_long() == Some(&option)), "--{option}");
            assert!(given.contains(&setting.name), "{}", setting.name);
        }
        assert_eq!(given.len(), SETTINGS.len());
    }
}
