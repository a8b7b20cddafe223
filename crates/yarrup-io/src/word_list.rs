//! The word lists that a recipe names by file.

use std::cell::RefCell;
use std::path::PathBuf;

use yarrup_core::WordLists;
use yarrup_core::recipe::ListReference;
use yarrup_core::words::one_a_line;

/// Names that a single-column CSV file is known to give its header; any other first cell is a word.
const HEADER_NAMES: &[&str] =
    &["word", "words", "term", "terms", "stopword", "stopwords", "stop word", "token", "tokens"];

/// Reads word lists from files; relative paths start at the recipe's folder.
#[derive(Debug)]
pub struct FolderLists {
    folder: PathBuf,
    read: RefCell<Vec<(String, u64, String)>>,
}

impl FolderLists {
    /// Lists for a recipe of this folder.
    pub fn new(folder: PathBuf) -> FolderLists {
        FolderLists { folder, read: RefCell::default() }
    }

    /// The files that were read: name as written, size, and hash as in [`crate::ReadFile`].
    pub fn read_files(&self) -> Vec<(String, u64, String)> {
        self.read.borrow().clone()
    }
}

impl WordLists for FolderLists {
    fn words(&self, reference: &ListReference) -> Result<Vec<String>, String> {
        let path = self.folder.join(&reference.name);
        let bytes = std::fs::read(&path).map_err(|why| format!("cannot read {}: {why}", path.display()))?;
        let hash = format!("{:032x}", xxhash_rust::xxh3::xxh3_128(&bytes));
        self.read.borrow_mut().push((reference.name.clone(), bytes.len() as u64, hash));
        let bytes = bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(&bytes);
        let text = std::str::from_utf8(bytes).map_err(|error| {
            format!("{} is not UTF-8 from byte {} on", path.display(), error.valid_up_to())
        })?;
        let ending = path.extension().map(|ending| ending.to_string_lossy().to_ascii_lowercase());
        match ending.as_deref() {
            Some("csv") => column(text, b',', reference),
            Some("tsv" | "tab") => column(text, b'\t', reference),
            _ if reference.column.is_some() => column(text, b',', reference),
            _ => Ok(one_a_line(text).map(str::to_owned).collect()),
        }
    }
}

fn column(text: &str, separator: u8, reference: &ListReference) -> Result<Vec<String>, String> {
    let mut reader = csv::ReaderBuilder::new()
        .has_headers(false)
        .delimiter(separator)
        .flexible(true)
        .from_reader(text.as_bytes());
    let rows = reader
        .records()
        .collect::<Result<Vec<_>, _>>()
        .map_err(|error| format!("{} cannot be read as a table: {error}", reference.name))?;
    let Some(header) = rows.first() else {
        return Ok(Vec::new());
    };
    let names = || header.iter().map(|name| format!("`{}`", name.trim())).collect::<Vec<_>>().join(", ");
    let (at, skip) = match &reference.column {
        Some(column) => {
            let at = header.iter().position(|name| name.trim() == column);
            (at.ok_or_else(|| format!("no column `{column}`; there are {}", names()))?, 1)
        }
        None => {
            let known = |name: &str| HEADER_NAMES.contains(&name.trim().to_lowercase().as_str());
            match header.iter().position(known) {
                Some(at) => (at, 1),
                None if header.len() == 1 => (0, 0),
                None => {
                    return Err(format!(
                        "the table has {} columns: say which, as `{{ file = \"{}\", column = \"…\" }}`; there are {}",
                        header.len(),
                        reference.name,
                        names()
                    ));
                }
            }
        }
    };
    let words = rows.iter().skip(skip).filter_map(|row| row.get(at)).map(str::trim);
    Ok(words.filter(|word| !word.is_empty()).map(str::to_owned).collect())
}

#[cfg(test)]
mod tests {
    use super::*;

    fn words(name: &str, content: &str, column: Option<&str>) -> Result<Vec<String>, String> {
        let folder = tempfile::tempdir().expect("a folder");
        std::fs::write(folder.path().join(name), content).expect("a file");
        let reference =
            ListReference { name: name.to_owned(), column: column.map(str::to_owned), span: 0..0 };
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
        assert_eq!(words("own.csv", "tern\ngull\n", None), Ok(vec!["tern".into(), "gull".into()]));
        assert_eq!(
            words("own.csv", table, Some("list")),
            Err("no column `list`; there are `word`, `why`".into())
        );
        assert!(words("own.csv", "a,b\n1,2\n", None).is_err_and(|why| why.contains("say which")));
    }

    #[test]
    fn what_cannot_be_read_is_told() {
        assert!(words("own.txt", "x", None).is_ok());
        let missing = ListReference { name: "no.txt".into(), column: None, span: 0..0 };
        assert!(FolderLists::new("nowhere".into()).words(&missing).is_err_and(|why| why.contains("no.txt")));
    }
}
