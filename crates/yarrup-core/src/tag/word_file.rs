//! Files of words that running text tells something of: a first line that says what they hold, and lines of two cells and words, parted by tabs. Lines that
//! begin with `#` are notes.

/// What is wrong with such a file.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("line {line}: {what}")]
pub struct MalformedWordFile {
    /// The line, from 1.
    pub line: usize,
    /// What is wrong there, in one sentence.
    pub what: String,
}

/// A line: its two cells, and its words.
pub(super) struct Line<'t> {
    number: usize,
    pub(super) cells: [&'t str; 2],
    words: &'t str,
}

impl<'t> Line<'t> {
    pub(super) fn words(&self) -> impl Iterator<Item = &'t str> + use<'t> {
        self.words.split(' ').filter(|word| !word.is_empty())
    }

    /// What is wrong with this line.
    pub(super) fn malformed(&self, what: &str) -> MalformedWordFile {
        MalformedWordFile { line: self.number, what: what.to_owned() }
    }
}

/// The lines of a file of these (`word classes`, for example) behind this first line.
pub(super) fn lines<'t>(
    text: &'t str,
    header: &str,
    of: &str,
) -> Result<impl Iterator<Item = Line<'t>> + use<'t>, MalformedWordFile> {
    if text.lines().next().map(str::trim_end) != Some(header) {
        let what = format!("a file of {of} begins with `{header}`");
        return Err(MalformedWordFile { line: 1, what });
    }
    let is_note = |line: &str| line.trim().is_empty() || line.starts_with('#');
    let lines = (1..).zip(text.lines()).filter(move |(_, line)| !is_note(line));
    Ok(lines.map(|(number, line)| {
        let mut cells = line.trim_end().splitn(3, '\t');
        let mut cell = || cells.next().unwrap_or_default();
        Line { number, cells: [cell(), cell()], words: cell() }
    }))
}
