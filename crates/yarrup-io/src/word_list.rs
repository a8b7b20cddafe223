//! The word lists that a recipe names by file.

use std::cell::RefCell;
use std::collections::BTreeMap;
use std::collections::btree_map::Entry;
use std::path::{Path, PathBuf};

use yarrup_core::recipe::{FileError, Recipes};
use yarrup_core::step::ListReference;
use yarrup_core::words::one_a_line;
use yarrup_core::{DictionaryFiles, WordLists};

use crate::bounded::read_bounded;
use crate::csv_table::restored;

/// Names that a single-column CSV file is known to give its header; any other first cell is a word.
const HEADER_NAMES: &[&str] =
    &["word", "words", "term", "terms", "entry", "stopword", "stopwords", "stop word", "token", "tokens"];

/// Whether this is the name of a column of words.
pub(crate) fn is_header(name: &str) -> bool {
    HEADER_NAMES.contains(&name.trim().to_lowercase().as_str())
}

/// Reads word lists from files; relative paths start at the recipe's folder. What a recipe in a run folder names is read from the copies there.
#[derive(Debug)]
pub struct FolderLists {
    folder: PathBuf,
    /// Of a run folder: the copies of files, by the names that the recipe has for them.
    copies: BTreeMap<String, String>,
    read: RefCell<Vec<Input>>,
}

/// A file that a recipe names.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Input {
    /// The name as the recipe has it, seen from the recipe that is read first.
    pub name: String,
    /// What is in it.
    pub content: Vec<u8>,
    /// Whether it stands where systems keep dictionaries, and not with the recipe.
    pub of_system: bool,
}

/// Where a run folder keeps copies of what its recipe names.
const INPUTS: &str = "inputs";
/// The names of the copies there.
const INDEX: &str = "index.json";

/// The files of a run folder that hold what its recipe names: each with its content, and the index of them. None if the recipe names none.
pub fn input_copies(inputs: &[Input]) -> Vec<(String, Vec<u8>)> {
    let mut index = BTreeMap::new();
    let mut files = Vec::new();
    for input in inputs.iter().filter(|input| !input.of_system) {
        let base = input.name.rsplit(['/', '\\']).next().unwrap_or_default();
        let next = index.len() + 1;
        if let Entry::Vacant(new) = index.entry(&input.name) {
            let copy = format!("{next}-{base}");
            files.push((format!("{INPUTS}/{copy}"), input.content.clone()));
            new.insert(copy);
        }
    }
    if !index.is_empty() {
        let index = serde_json::to_string_pretty(&index).unwrap_or_default();
        files.push((format!("{INPUTS}/{INDEX}"), format!("{index}\n").into_bytes()));
    }
    files
}

impl FolderLists {
    /// Lists for a recipe of this folder.
    pub fn new(folder: PathBuf) -> FolderLists {
        let index = read_bounded(&folder.join(INPUTS).join(INDEX));
        let mut copies: BTreeMap<String, String> =
            index.ok().and_then(|index| serde_json::from_slice(&index).ok()).unwrap_or_default();
        // A run folder may come from anybody: a copy lies in it and nowhere else.
        copies.retain(|_, copy| !copy.contains(['/', '\\']) && copy != "..");
        FolderLists { folder, copies, read: RefCell::default() }
    }

    /// The files that were read.
    pub fn read_files(&self) -> Vec<Input> {
        self.read.borrow().clone()
    }

    /// Where a file stands that the recipe has this name for.
    fn place(&self, name: &str) -> PathBuf {
        match self.copies.get(name) {
            Some(copy) => self.folder.join(INPUTS).join(copy),
            None => self.folder.join(name),
        }
    }
}

impl FolderLists {
    /// The text of a file, and the sign that parts its columns if its ending tells one.
    fn text(&self, reference: &ListReference) -> Result<(String, Option<u8>), FileError> {
        let path = self.place(&reference.name);
        let bytes = self.file(&reference.name)?;
        let bytes = bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(&bytes);
        let text = std::str::from_utf8(bytes).map_err(|error| FileError::NotUtf8 {
            path: path.display().to_string(),
            valid: error.valid_up_to(),
        })?;
        let ending = path.extension().map(|ending| ending.to_string_lossy().to_ascii_lowercase());
        let separator = match ending.as_deref() {
            Some("csv") => Some(comma_or_semicolon(text)),
            Some("tsv" | "tab") => Some(b'\t'),
            _ => None,
        };
        Ok((text.to_owned(), separator))
    }
}

/// What stands between the cells of a table with the ending of comma-separated values: a semicolon, where its first line has some and no comma.
pub(crate) fn comma_or_semicolon(text: &str) -> u8 {
    let first = text.lines().next().unwrap_or_default();
    // `;-)` is a word.
    let are_cells =
        first.contains(';') && first.split(';').all(|cell| cell.trim().starts_with(char::is_alphanumeric));
    if are_cells && !first.contains(',') { b';' } else { b',' }
}

impl WordLists for FolderLists {
    fn words(&self, reference: &ListReference) -> Result<Vec<String>, FileError> {
        let (text, separator) = self.text(reference)?;
        if reference.name.to_ascii_lowercase().ends_with(".json") {
            return json_words(&text, reference);
        }
        match separator.or(reference.column.is_some().then_some(b',')) {
            Some(separator) => column(&text, separator, reference),
            None => Ok(one_a_line(&text).map(str::to_owned).collect()),
        }
    }

    fn pairs(&self, reference: &ListReference) -> Result<Vec<(String, String)>, FileError> {
        let (text, separator) = self.text(reference)?;
        pairs(&text, separator.unwrap_or(b','), reference)
    }

    fn rows(&self, reference: &ListReference) -> Result<Vec<Vec<String>>, FileError> {
        let (text, separator) = self.text(reference)?;
        let mut rows: Vec<Vec<String>> = rows(&text, separator.unwrap_or(b'\t'), reference)?
            .iter()
            .map(|row| row.iter().map(str::to_owned).collect())
            .collect();
        let is_header = rows.first().is_some_and(|row| {
            let name =
                |place: usize| row.get(place).map(|cell| cell.trim().to_lowercase()).unwrap_or_default();
            matches!((name(0).as_str(), name(1).as_str()), ("form" | "word", "lemma"))
        });
        if is_header {
            rows.remove(0);
        }
        rows.retain(|row| row.iter().any(|cell| !cell.trim().is_empty()));
        Ok(rows)
    }

    fn bytes(&self, reference: &ListReference) -> Result<Vec<u8>, FileError> {
        self.file(&reference.name)
    }

    fn dictionary(&self, name: &str) -> Result<DictionaryFiles, FileError> {
        let bare = name.strip_suffix(".dic").or_else(|| name.strip_suffix(".aff")).unwrap_or(name);
        let read = |ending: &str| {
            let own = format!("{bare}.{ending}");
            if self.place(&own).is_file() {
                return self.file(&own);
            }
            let path = dictionary_stem(name)?.with_extension(ending);
            let content = read_bounded(&path).map_err(refused(&path))?;
            let name = path.file_name().unwrap_or(path.as_os_str()).to_string_lossy().into_owned();
            self.read.borrow_mut().push(Input { name, content: content.clone(), of_system: true });
            Ok(content)
        };
        let (affixes, words) = (read("aff")?, read("dic")?);
        // The affix file names the encoding of both.
        let named = affixes.split(|&byte| byte == b'\n').find_map(|line| line.strip_prefix(b"SET "));
        let named = named.map(|name| String::from_utf8_lossy(name).trim().to_owned());
        let named = named.map(|name| name.replace("ISO8859", "ISO-8859").replace("microsoft-cp", "windows-"));
        let encoding = named
            .as_deref()
            .and_then(|name| encoding_rs::Encoding::for_label(name.as_bytes()))
            .unwrap_or(encoding_rs::UTF_8);
        let decoded = |bytes: &[u8]| encoding.decode(bytes).0.into_owned();
        Ok(DictionaryFiles { name: name.to_owned(), affixes: decoded(&affixes), words: decoded(&words) })
    }
}

/// Where systems keep dictionaries in Hunspell's format.
const DICTIONARY_FOLDERS: &[&str] =
    &["/usr/share/hunspell", "/usr/share/myspell/dicts", "/usr/share/myspell", "/usr/local/share/hunspell"];

/// The path of a dictionary's two files without their endings: of the dictionary with this name in the usual folders (`de_DE`), or of the first
/// that is for this language (`de`). The folders of the variable `DICPATH` come first.
fn dictionary_stem(name: &str) -> Result<PathBuf, FileError> {
    let listed = std::env::var_os("DICPATH").unwrap_or_default();
    let folders: Vec<PathBuf> =
        std::env::split_paths(&listed).chain(DICTIONARY_FOLDERS.iter().map(PathBuf::from)).collect();
    let wanted = name.replace('-', "_");
    for folder in &folders {
        let whole = folder.join(&wanted);
        if folder.join(format!("{wanted}.dic")).is_file() {
            return Ok(whole);
        }
    }
    // `de`: `de_DE` before `de_AT`, and that before the others.
    let language = wanted.to_ascii_lowercase();
    let usual = match language.as_str() {
        "en" => "en_US".to_owned(),
        "sv" => "sv_SE".to_owned(),
        "da" => "da_DK".to_owned(),
        "cs" => "cs_CZ".to_owned(),
        "el" => "el_GR".to_owned(),
        "uk" => "uk_UA".to_owned(),
        "no" => "nb_NO".to_owned(),
        other => format!("{other}_{}", other.to_ascii_uppercase()),
    };
    for folder in &folders {
        if folder.join(format!("{usual}.dic")).is_file() {
            return Ok(folder.join(&usual));
        }
        let mut found: Vec<String> = std::fs::read_dir(folder)
            .into_iter()
            .flatten()
            .filter_map(|entry| entry.ok()?.file_name().into_string().ok())
            .filter_map(|file| file.strip_suffix(".dic").map(str::to_owned))
            .filter(|file| file.split(['_', '-']).next() == Some(language.as_str()))
            .collect();
        found.sort();
        if let Some(first) = found.first() {
            return Ok(folder.join(first));
        }
    }
    Err(FileError::NotInstalled { file: format!("{wanted}.dic"), folders: DICTIONARY_FOLDERS.to_vec() })
}

fn refused(path: &Path) -> impl FnOnce(std::io::Error) -> FileError + '_ {
    |why| FileError::Refused { path: path.display().to_string(), why: why.to_string() }
}

fn malformed(reference: &ListReference, what: &'static str, why: &dyn std::fmt::Display) -> FileError {
    FileError::Malformed { name: reference.name.clone(), what, why: why.to_string() }
}

/// The names in the header of a table.
fn names(header: &csv::StringRecord) -> Vec<String> {
    header.iter().map(|name| name.trim().to_owned()).collect()
}

/// The words of a JSON array of texts.
fn json_words(text: &str, reference: &ListReference) -> Result<Vec<String>, FileError> {
    serde_json::from_str::<Vec<String>>(text)
        .map_err(|error| malformed(reference, "is not a JSON array of texts", &error))
}

impl FolderLists {
    /// The bytes of a file, which is noted as read.
    fn file(&self, name: &str) -> Result<Vec<u8>, FileError> {
        let path = self.place(name);
        let bytes = read_bounded(&path).map_err(refused(&path))?;
        self.read.borrow_mut().push(Input {
            name: name.to_owned(),
            content: bytes.clone(),
            of_system: false,
        });
        Ok(bytes)
    }
}

impl Recipes for FolderLists {
    fn recipe(&self, path: &str) -> Result<(String, String), FileError> {
        let reference = ListReference { name: path.to_owned(), column: None, to: None, span: 0..0 };
        let (text, _) = self.text(&reference)?;
        // The same file must have one name, whatever path leads to it.
        let place = self.place(path);
        let name = std::fs::canonicalize(&place).unwrap_or(place);
        let own = std::fs::canonicalize(&self.folder).unwrap_or_else(|_| self.folder.clone());
        let shown = name.strip_prefix(&own).unwrap_or(&name).display().to_string();
        Ok((shown, text))
    }
}

/// The rows of a table.
fn rows(text: &str, separator: u8, reference: &ListReference) -> Result<Vec<csv::StringRecord>, FileError> {
    let mut reader = csv::ReaderBuilder::new()
        .has_headers(false)
        .delimiter(separator)
        .flexible(true)
        .comment(None)
        .from_reader(text.as_bytes());
    reader
        .records()
        // The tables of a run are lists as well.
        .map(|row| row.map(|row| row.iter().map(restored).collect()))
        .collect::<Result<Vec<_>, _>>()
        .map_err(|error| malformed(reference, "cannot be read as a table", &error))
}

/// Names that the header of a table of pairs is known by.
const PAIR_HEADERS: [(&str, &str); 6] = [
    ("from", "to"),
    ("find", "replace"),
    ("wrong", "right"),
    ("variant", "word"),
    ("old", "new"),
    ("contraction", "expansion"),
];

fn pairs(text: &str, separator: u8, reference: &ListReference) -> Result<Vec<(String, String)>, FileError> {
    let rows = rows(text, separator, reference)?;
    let Some(header) = rows.first() else { return Ok(Vec::new()) };
    let name = |place: usize| header.get(place).unwrap_or_default().trim().to_lowercase();
    let place_of = |wanted: &str| {
        header
            .iter()
            .position(|name| name.trim() == wanted)
            .ok_or_else(|| FileError::NoColumn { wanted: wanted.to_owned(), there: names(header) })
    };
    let (from, to, skip) = match (&reference.column, &reference.to) {
        (Some(from), Some(to)) => (place_of(from)?, place_of(to)?, 1),
        (None, None) if header.len() == 2 => {
            let known = PAIR_HEADERS.iter().any(|(from, to)| name(0) == *from && name(1) == *to);
            (0, 1, usize::from(known))
        }
        (None, None) => {
            return Err(FileError::WhichColumns { name: reference.name.clone(), columns: header.len() });
        }
        _ => return Err(FileError::OneColumn),
    };
    let mut pairs = Vec::with_capacity(rows.len());
    for (number, row) in rows.iter().enumerate().skip(skip) {
        match (row.get(from), row.get(to)) {
            (Some(from), Some(to)) if !from.is_empty() => pairs.push((from.to_owned(), to.to_owned())),
            _ => return Err(FileError::NoPair { name: reference.name.clone(), row: number + 1 }),
        }
    }
    Ok(pairs)
}

fn column(text: &str, separator: u8, reference: &ListReference) -> Result<Vec<String>, FileError> {
    let rows = rows(text, separator, reference)?;
    let Some(header) = rows.first() else {
        return Ok(Vec::new());
    };
    let (at, skip) = match &reference.column {
        Some(column) => {
            let at = header.iter().position(|name| name.trim() == column);
            (at.ok_or_else(|| FileError::NoColumn { wanted: column.clone(), there: names(header) })?, 1)
        }
        None => match header.iter().position(is_header) {
            Some(at) => (at, 1),
            None if header.len() == 1 => (0, 0),
            None => {
                return Err(FileError::WhichColumn { name: reference.name.clone(), there: names(header) });
            }
        },
    };
    let words = rows.iter().skip(skip).filter_map(|row| row.get(at)).map(str::trim);
    Ok(words.filter(|word| !word.is_empty()).map(str::to_owned).collect())
}

#[cfg(test)]
mod tests {
    use super::*;

    fn words(name: &str, content: &str, column: Option<&str>) -> Result<Vec<String>, FileError> {
        let folder = tempfile::tempdir().expect("a folder");
        std::fs::write(folder.path().join(name), content).expect("a file");
        let reference =
            ListReference { name: name.to_owned(), column: column.map(str::to_owned), to: None, span: 0..0 };
        FolderLists::new(folder.path().to_owned()).words(&reference)
    }

    #[test]
    fn one_word_a_line() {
        assert_eq!(
            words("own.txt", "\u{feff}# ours\ntern\r\n\n gull \n", None),
            Ok(vec!["tern".into(), "gull".into()])
        );
    }

    #[test]
    fn columns_of_tables() {
        let table = "word,why\ntern,topic\n\"a, b\",x\n";
        assert_eq!(words("own.csv", table, None), Ok(vec!["tern".into(), "a, b".into()]));
        assert_eq!(words("own.csv", table, Some("why")), Ok(vec!["topic".into(), "x".into()]));
        assert_eq!(words("own.csv", "word;why\ntern;a, b\n", None), Ok(vec!["tern".into()]));
        assert_eq!(words("own.csv", ";-)\n:;\n", None), Ok(vec![";-)".into(), ":;".into()]));
        assert_eq!(words("own.csv", "tern\ngull\n", None), Ok(vec!["tern".into(), "gull".into()]));
        assert_eq!(
            words("own.csv", table, Some("list")),
            Err(FileError::NoColumn { wanted: "list".into(), there: vec!["word".into(), "why".into()] })
        );
        assert!(words("own.csv", "a,b\n1,2\n", None).is_err_and(|why| why.to_string().contains("say which")));
    }

    #[test]
    fn tables_of_pairs() {
        let folder = tempfile::tempdir().expect("a folder");
        let read = |content: &str, columns: Option<(&str, &str)>| {
            std::fs::write(folder.path().join("p.csv"), content).expect("a file");
            let (column, to) = columns.map(|(from, to)| (from.to_owned(), to.to_owned())).unzip();
            let reference = ListReference { name: "p.csv".into(), column, to, span: 0..0 };
            FolderLists::new(folder.path().to_owned()).pairs(&reference)
        };
        let pair = |from: &str, to: &str| (from.to_owned(), to.to_owned());
        assert_eq!(
            read("colour,color\n\"a, b\",\n", None),
            Ok(vec![pair("colour", "color"), pair("a, b", "")])
        );
        assert_eq!(read("from,to\ngrey,gray\n", None), Ok(vec![pair("grey", "gray")]));
        assert_eq!(read("a,b,c\n1,2,3\n", Some(("c", "a"))), Ok(vec![pair("3", "1")]));
        assert!(read("a,b,c\n1,2,3\n", None).is_err_and(|why| why.to_string().contains("say which")));
        assert!(read("a,b\n1\n", None).is_err_and(|why| why.to_string().contains("row 2")));
    }

    #[test]
    fn what_cannot_be_read_is_told() {
        assert!(words("own.txt", "x", None).is_ok());
        let missing = ListReference { name: "no.txt".into(), column: None, to: None, span: 0..0 };
        assert!(
            FolderLists::new("nowhere".into())
                .words(&missing)
                .is_err_and(|why| why.to_string().contains("no.txt"))
        );
    }
}
