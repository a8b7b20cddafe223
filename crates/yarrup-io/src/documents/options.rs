//! How a source is to be read, where its content does not tell.

use std::cmp::Reverse;
use std::collections::HashSet;
use std::fmt;
use std::path::PathBuf;
use std::sync::Arc;

use crate::documents::{Format, Unit};
use encoding_rs::Encoding;
use globset::{Glob, GlobSet, GlobSetBuilder};
use memchr::memmem::Finder;
use regex::Regex;

/// Which lines are looked at: by bytes that they must hold, all of them, or by their numbers. Without either, every line.
#[derive(Clone, Debug, Default)]
pub struct Holding {
    needles: Arc<[Finder<'static>]>,
    lines: Option<Arc<HashSet<u64>>>,
}

impl Holding {
    /// Lines that hold all of these.
    pub fn all(needles: impl IntoIterator<Item = Vec<u8>>) -> Holding {
        // The longest first: it is likely to be the rarest.
        let mut needles: Vec<Vec<u8>> = needles.into_iter().collect();
        needles.sort_by_key(|needle| Reverse(needle.len()));
        let needles = needles.iter().map(|needle| Finder::new(needle).into_owned()).collect();
        Holding { needles, lines: None }
    }

    /// The lines with these numbers, from 1.
    pub fn lines(numbers: HashSet<u64>) -> Holding {
        Holding { needles: Arc::default(), lines: Some(Arc::new(numbers)) }
    }

    /// Whether the line with this number, from 1, may be looked at.
    pub(crate) fn takes_line(&self, number: u64) -> bool {
        self.lines.as_ref().is_none_or(|lines| lines.contains(&number))
    }

    /// The needles; without any, every line is looked at.
    pub(crate) fn needles(&self) -> &[Finder<'static>] {
        &self.needles
    }
}

/// The line between two documents of a text: written as it is, or as a regular expression that begins with `^`.
#[derive(Clone, Debug)]
pub struct SeparatorLine {
    written: String,
    pattern: Option<Regex>,
}

impl SeparatorLine {
    /// The line that is written so.
    ///
    /// # Errors
    ///
    /// What is wrong with it.
    pub(crate) fn new(written: &str) -> Result<SeparatorLine, String> {
        let written = written.trim_end().to_owned();
        if written.is_empty() || written.contains('\n') {
            return Err("`separator_line` must be one line that is not empty; `each = \"paragraph\"` cuts at empty lines".to_owned());
        }
        let pattern = written.starts_with('^').then(|| pattern(&written)).transpose()?;
        Ok(SeparatorLine { written, pattern })
    }

    /// Whether a line is one. White space at its end does not count.
    pub(crate) fn is(&self, line: &str) -> bool {
        let line = line.trim_end();
        self.pattern.as_ref().map_or_else(|| line == self.written, |pattern| pattern.is_match(line))
    }
}

impl fmt::Display for SeparatorLine {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.written)
    }
}

/// A regular expression.
///
/// # Errors
///
/// What is wrong with it.
pub(crate) fn pattern(written: &str) -> Result<Regex, String> {
    Regex::new(written).map_err(|why| {
        let told = why.to_string();
        let last = told.lines().last().unwrap_or_default();
        format!("`{written}` is not a regular expression: {}", last.trim_start_matches("error: "))
    })
}

/// Which row of a table names its columns.
#[derive(Clone, Copy, Debug, PartialEq, Eq, serde::Serialize, serde::Deserialize)]
pub enum Header {
    /// None does.
    None,
    /// The first that says anything.
    First,
    /// The one with this number, from 1, or the first behind it that says anything. What stands above it is not read.
    Row(u32),
}

impl std::str::FromStr for Header {
    type Err = String;

    fn from_str(written: &str) -> Result<Header, String> {
        match written {
            "true" => Ok(Header::First),
            "false" => Ok(Header::None),
            _ => match written.parse() {
                Ok(row) if row > 0 => Ok(Header::Row(row)),
                _ => {
                    Err(format!("`{written}` is neither `true` nor `false` nor the number of a row, from 1"))
                }
            },
        }
    }
}

impl fmt::Display for Header {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Header::None => f.write_str("false"),
            Header::First => f.write_str("true"),
            Header::Row(row) => row.fmt(f),
        }
    }
}

/// How a source is to be read.
#[derive(Clone, Debug, Default)]
pub struct ReadOptions {
    /// The format, whatever names and contents say.
    pub format: Option<Format>,
    /// What a document is.
    pub unit: Option<Unit>,
    /// The encoding of text.
    pub encoding: Option<&'static Encoding>,
    /// What stands between the cells of a table.
    pub separator: Option<u8>,
    /// Which row of a table names its columns; told by its rows if not said.
    pub header: Option<Header>,
    /// The sheet of a spreadsheet; all of them if not chosen.
    pub sheet: Option<String>,
    /// The column whose cells are documents, where a cell is one; all text columns if not chosen.
    pub column: Option<String>,
    /// The table of a database.
    pub table: Option<String>,
    /// The query on a database.
    pub query: Option<String>,
    /// Where the array of records lies in a JSON file.
    pub records: Option<String>,
    /// What headings look like, where a document is a section.
    pub heading: Option<Regex>,
    /// The line that stands between two documents of a text.
    pub separator_line: Option<SeparatorLine>,
    /// Rejoins words that are broken at line ends, in PDF and text.
    pub rejoin: bool,
    /// Leaves menus, and the headers and footers of the site, out of the text of HTML pages.
    pub without_menus: bool,
    /// Which files of folders, archives and listings are read; all if empty.
    pub include: Patterns,
    /// Which are not.
    pub exclude: Patterns,
    /// Reads hidden files as well.
    pub hidden: bool,
    /// Reads what unpacks to far more than text does.
    pub trust_archives: bool,
    /// Reads files in this process whose readers can be broken.
    pub trust_files: bool,
    /// How many seconds of processor time a file may take that is read in a process of its own, if not as many as suit its size.
    pub file_seconds: Option<u64>,
    /// How many bytes of memory it may take.
    pub file_memory: Option<u64>,
    /// The folder in which what comes from the network is kept.
    pub keep: Option<PathBuf>,
    /// A file of certificates (PEM): servers are trusted that one of these vouches for, in the place of the usual ones.
    pub certificates: Option<PathBuf>,
    /// The most that is taken from one address, in bytes.
    pub largest: Option<u64>,
    /// Gives lines as they come, so that a program at the other end of a pipe is answered at once.
    pub at_once: bool,
    /// Gives blank lines as documents without text, where a line is a document.
    pub blank_lines: bool,
    /// Looks for the fields that are likely to be the text, the title and the id, where none are chosen.
    pub propose: bool,
    /// How long a server may be silent, in seconds.
    pub patience: Option<u64>,
    /// How many milliseconds to wait before each file of a listing.
    pub pace: Option<u64>,
    /// Of JSON Lines, gives only the lines that hold all of these bytes. The others are not looked at, and not counted.
    pub holding: Holding,
}

impl ReadOptions {
    /// The encoding of this name.
    ///
    /// # Errors
    ///
    /// What is wrong with the name.
    pub fn encoding_named(name: &str) -> Result<&'static Encoding, String> {
        Encoding::for_label(name.replace('_', "-").as_bytes())
            .or_else(|| Encoding::for_label(name.replace(['-', '_', ' '], "").as_bytes()))
            .ok_or_else(|| format!("no encoding `{name}`; there are utf-8, utf-16le, latin1, windows-1251, shift_jis and so on"))
    }

    /// Whether a file of this path within its folder is to be read: the path as a whole, or the file's name, must match.
    pub(crate) fn takes(&self, path: &str) -> bool {
        (self.include.is_empty() || self.include.match_path(path)) && !self.exclude.match_path(path)
    }

    /// Whether the user named files like this one.
    pub(crate) fn asks_for(&self, path: &str) -> bool {
        self.format.is_some() || (!self.include.is_empty() && self.include.match_path(path))
    }

    pub(crate) fn unit_or(&self, unit: Unit) -> Unit {
        self.unit.unwrap_or(unit)
    }
}

/// Patterns of file names, such as `*.txt` or `2031/**`.
#[derive(Clone, Debug, Default)]
pub struct Patterns {
    /// As they were written.
    pub written: Vec<String>,
    set: GlobSet,
}

impl Patterns {
    /// Reads patterns.
    ///
    /// # Errors
    ///
    /// What is wrong with one of them.
    pub fn read(written: &[String]) -> Result<Patterns, String> {
        let mut set = GlobSetBuilder::new();
        for pattern in written {
            set.add(
                Glob::new(pattern)
                    .map_err(|why| format!("`{pattern}` is not a pattern of names: {}", why.kind()))?,
            );
        }
        let set = set.build().map_err(|why| why.to_string())?;
        Ok(Patterns { written: written.to_vec(), set })
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.written.is_empty()
    }

    fn match_path(&self, path: &str) -> bool {
        let name = path.rsplit('/').next().unwrap_or(path);
        self.set.is_match(path) || self.set.is_match(name)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn patterns_match_paths_or_names() {
        let patterns = |written: &[&str]| {
            Patterns::read(&written.iter().map(|one| (*one).to_owned()).collect::<Vec<_>>())
                .expect("patterns")
        };
        let options = ReadOptions {
            include: patterns(&["*.txt", "2031/**"]),
            exclude: patterns(&["draft*"]),
            ..Default::default()
        };
        for (path, expected) in [
            ("a/b.txt", true),
            ("2031/x.csv", true),
            ("b.csv", false),
            ("a/draft.txt", false),
            ("draft.txt", false),
        ] {
            assert_eq!(options.takes(path), expected, "{path}");
        }
        assert!(Patterns::read(&["[".to_owned()]).is_err());
    }

    #[test]
    fn encodings_have_several_names() {
        for (name, expected) in
            [("latin-1", "windows-1252"), ("UTF_16LE", "UTF-16LE"), ("shift_jis", "Shift_JIS")]
        {
            assert_eq!(ReadOptions::encoding_named(name).map(Encoding::name), Ok(expected));
        }
        assert!(ReadOptions::encoding_named("klingon").is_err());
    }
}
