//! Adding words to own word lists and taking them out: the rest of a file stays as it was written.

use std::collections::HashSet;

use thiserror::Error;
use yarrup_core::study::alphabetical;

use crate::csv_table::{TableWriter, restored};
use crate::word_list::comma_or_semicolon;

/// What is done to a list.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct ListEdit {
    /// The entries that are put in.
    pub add: Vec<String>,
    /// The entries that are taken out.
    pub take_out: Vec<String>,
    /// Why they are put in; kept in a column of a table.
    pub reason: Option<String>,
    /// The column of a table that holds the entries, if it is not one that is known by its name.
    pub column: Option<String>,
    /// Whether the whole list is put in order, not only kept in it.
    pub sort: bool,
}

/// A list after an edit.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct EditedList {
    /// The content of the file.
    pub content: String,
    /// Entries that were put in.
    pub added: Vec<String>,
    /// Entries that were there already.
    pub known: Vec<String>,
    /// Entries that were taken out.
    pub taken_out: Vec<String>,
    /// Entries to be taken out that were not there.
    pub missing: Vec<String>,
    /// How many repeated entries are gone.
    pub repeated: usize,
    /// How many entries there are now.
    pub entries: usize,
}

/// Why a list cannot be edited.
#[derive(Debug, Error)]
#[non_exhaustive]
pub enum ListEditError {
    /// A list of lines has no place for a reason.
    #[error("a list of one word a line has no place for a reason: a table (.csv) with a column `reason` has")]
    NoPlaceForReason,
    /// No column is known to hold the entries.
    #[error("no column is called `{wanted}`; there are {there}")]
    NoColumn {
        /// The column that was looked for.
        wanted: String,
        /// Those that there are.
        there: String,
    },
    /// The content is none of a list.
    #[error("cannot be read as {what}: {why}")]
    Malformed {
        /// What was expected.
        what: &'static str,
        /// What stands in the way.
        why: String,
    },
    /// An entry that would be a comment, or would be read back as something else.
    #[error("`{0}` cannot be an entry: empty, of several lines, or a comment")]
    Entry(String),
}

/// How a list is written.
enum Shape {
    /// One entry a line, with comments.
    Lines,
    Table(u8),
    Json,
}

impl Shape {
    fn of(name: &str, content: &str) -> Shape {
        let ending = name.rsplit_once('.').map(|(_, ending)| ending.to_ascii_lowercase());
        match ending.as_deref() {
            Some("csv") => Shape::Table(comma_or_semicolon(content)),
            Some("tsv" | "tab") => Shape::Table(b'\t'),
            Some("json") => Shape::Json,
            _ => Shape::Lines,
        }
    }
}

/// The content of the list in the file of this name after an edit; no content begins a new list. New entries are put where they belong by the alphabet, if
/// those around them are in that order; else at the end of their part. Repeated entries go, comments stay.
///
/// # Errors
///
/// If the content is no list, or an entry cannot stand in it.
pub fn edit_list(name: &str, content: &str, edit: &ListEdit) -> Result<EditedList, ListEditError> {
    let content = content.strip_prefix('\u{feff}').unwrap_or(content);
    for entry in &edit.add {
        let entry = entry.trim();
        if entry.is_empty() || entry.contains(['\n', '\r']) || entry == "#" || entry.starts_with("# ") {
            return Err(ListEditError::Entry(entry.to_owned()));
        }
    }
    match Shape::of(name, content) {
        Shape::Lines if edit.reason.is_some() => Err(ListEditError::NoPlaceForReason),
        Shape::Lines => Ok(edit_lines(content, edit)),
        Shape::Table(separator) => edit_table(content, separator, edit),
        Shape::Json if edit.reason.is_some() => Err(ListEditError::NoPlaceForReason),
        Shape::Json => edit_json(content, edit),
    }
}

/// Keeps account of what becomes of entries.
struct Editing<'e> {
    edit: &'e ListEdit,
    out: HashSet<&'e str>,
    seen: HashSet<String>,
    edited: EditedList,
}

impl<'e> Editing<'e> {
    fn of(edit: &'e ListEdit) -> Editing<'e> {
        let out = edit.take_out.iter().map(|entry| entry.trim()).collect();
        Editing { edit, out, seen: HashSet::new(), edited: EditedList::default() }
    }

    /// Whether an entry that is there stays.
    fn stays(&mut self, entry: &str) -> bool {
        if self.out.contains(entry) {
            if !self.edited.taken_out.iter().any(|known| known == entry) {
                self.edited.taken_out.push(entry.to_owned());
            }
            return false;
        }
        let is_new = self.seen.insert(entry.to_owned());
        self.edited.repeated += usize::from(!is_new);
        is_new
    }

    /// The entries that are to be put in and are not there, once all that were there have been asked for.
    fn new_entries(&mut self) -> Vec<String> {
        for entry in &self.edit.add {
            let entry = entry.trim();
            if self.seen.insert(entry.to_owned()) {
                self.edited.added.push(entry.to_owned());
            } else if !self.edited.added.iter().any(|added| added == entry) {
                self.edited.known.push(entry.to_owned());
            }
        }
        self.edited.added.clone()
    }

    fn finish(mut self, content: String) -> EditedList {
        let missing =
            self.out.iter().filter(|entry| !self.edited.taken_out.iter().any(|gone| gone == *entry));
        self.edited.missing = missing.map(|entry| (*entry).to_owned()).collect();
        self.edited.missing.sort();
        self.edited.entries = self.seen.len();
        self.edited.content = content;
        self.edited
    }
}

/// Puts an entry where it belongs among others, each with what stands beside it.
fn insert<T>(entries: &mut Vec<(String, T)>, new: (String, T)) {
    let key = alphabetical(&new.0);
    let is_sorted = entries.is_sorted_by(|a, b| alphabetical(&a.0) <= alphabetical(&b.0));
    let place = match is_sorted {
        true => entries.partition_point(|(entry, _)| alphabetical(entry) <= key),
        false => entries.len(),
    };
    entries.insert(place, new);
}

/// A stretch of entries without comments between, and the comments and empty lines before it.
#[derive(Default)]
struct Part {
    before: Vec<String>,
    entries: Vec<(String, ())>,
}

fn edit_lines(content: &str, edit: &ListEdit) -> EditedList {
    let mut editing = Editing::of(edit);
    let mut parts = vec![Part::default()];
    for line in content.lines() {
        let entry = line.trim();
        let is_comment = entry.is_empty() || entry == "#" || entry.starts_with("# ");
        let last = parts.len() - 1;
        if is_comment {
            if parts[last].entries.is_empty() {
                parts[last].before.push(line.to_owned());
            } else {
                parts.push(Part { before: vec![line.to_owned()], ..Part::default() });
            }
        } else if editing.stays(entry) {
            parts[last].entries.push((entry.to_owned(), ()));
        }
    }
    if edit.sort {
        for part in &mut parts {
            part.entries.sort_by_cached_key(|(entry, ())| alphabetical(entry));
        }
    }
    let home = parts.iter().rposition(|part| !part.entries.is_empty()).unwrap_or(parts.len() - 1);
    for entry in editing.new_entries() {
        insert(&mut parts[home].entries, (entry, ()));
    }
    let mut written = String::new();
    for part in parts {
        for line in part.before.into_iter().chain(part.entries.into_iter().map(|(entry, ())| entry)) {
            written.push_str(&line);
            written.push('\n');
        }
    }
    editing.finish(written)
}

fn edit_json(content: &str, edit: &ListEdit) -> Result<EditedList, ListEditError> {
    let malformed = |why: serde_json::Error| ListEditError::Malformed {
        what: "a JSON array of texts",
        why: why.to_string(),
    };
    let there: Vec<String> = if content.trim().is_empty() {
        Vec::new()
    } else {
        serde_json::from_str(content).map_err(malformed)?
    };
    let mut editing = Editing::of(edit);
    let mut entries: Vec<(String, ())> =
        there.into_iter().filter(|entry| editing.stays(entry)).map(|entry| (entry, ())).collect();
    if edit.sort {
        entries.sort_by_cached_key(|(entry, ())| alphabetical(entry));
    }
    for entry in editing.new_entries() {
        insert(&mut entries, (entry, ()));
    }
    let entries: Vec<String> = entries.into_iter().map(|(entry, ())| entry).collect();
    let written = serde_json::to_string_pretty(&entries).map_err(malformed)?;
    Ok(editing.finish(format!("{written}\n")))
}

/// The column of reasons, and what it is called in tables that others made.
const REASON: &str = "reason";
const REASONS: [&str; 4] = [REASON, "why", "note", "comment"];

fn edit_table(content: &str, separator: u8, edit: &ListEdit) -> Result<EditedList, ListEditError> {
    let malformed =
        |why: &dyn std::fmt::Display| ListEditError::Malformed { what: "a table", why: why.to_string() };
    let mut reader = csv::ReaderBuilder::new()
        .has_headers(false)
        .delimiter(separator)
        .flexible(true)
        .from_reader(content.as_bytes());
    let rows = reader.records().collect::<Result<Vec<_>, _>>().map_err(|why| malformed(&why))?;
    let mut rows: Vec<Vec<String>> = rows.iter().map(|row| row.iter().map(str::to_owned).collect()).collect();
    let known = |name: &str| crate::word_list::is_header(name);
    let named = |wanted: &str, header: &[String]| header.iter().position(|name| name.trim() == wanted);
    let mut header: Option<Vec<String>> = None;
    let at = match (rows.first(), &edit.column) {
        (None, column) => {
            header = Some(vec![column.clone().unwrap_or_else(|| "word".to_owned())]);
            0
        }
        (Some(first), Some(column)) => {
            let missing = || ListEditError::NoColumn { wanted: column.clone(), there: first.join(", ") };
            let at = named(column, first).ok_or_else(missing)?;
            header = Some(rows.remove(0));
            at
        }
        (Some(first), None) => match first.iter().position(|name| known(name)) {
            Some(at) => {
                header = Some(rows.remove(0));
                at
            }
            None if first.len() == 1 => 0,
            None => {
                return Err(ListEditError::NoColumn { wanted: "word".to_owned(), there: first.join(", ") });
            }
        },
    };
    let mut reason_at =
        header.as_ref().and_then(|header| REASONS.iter().find_map(|name| named(name, header)));
    if edit.reason.is_some() && reason_at.is_none() {
        let header = header.get_or_insert_with(|| vec!["word".to_owned()]);
        reason_at = Some(header.len());
        header.push(REASON.to_owned());
    }
    let mut editing = Editing::of(edit);
    let mut entries: Vec<(String, Vec<String>)> = Vec::new();
    for row in rows {
        let entry = row.get(at).map(|cell| restored(cell.trim()).to_owned()).unwrap_or_default();
        if entry.is_empty() || editing.stays(&entry) {
            entries.push((entry, row));
        }
    }
    if edit.sort {
        entries.sort_by_cached_key(|(entry, _)| alphabetical(entry));
    }
    let width = header.as_ref().map_or(1, Vec::len);
    for entry in editing.new_entries() {
        let mut row = vec![String::new(); width];
        row[at].clone_from(&entry);
        if let (Some(at), Some(reason)) = (reason_at, &edit.reason) {
            row[at].clone_from(reason);
        }
        insert(&mut entries, (entry, row));
    }
    let mut written = Vec::new();
    let mut rows = header.into_iter().chain(entries.into_iter().map(|(_, mut row)| {
        row.resize(row.len().max(width), String::new());
        row
    }));
    if let Some(first) = rows.next() {
        // Cells stand as they stood.
        let mut table =
            TableWriter::separated(separator, &mut written, first).map_err(|why| malformed(&why))?;
        rows.try_for_each(|row| table.row(row)).map_err(|why| malformed(&why))?;
        table.finish().map_err(|why| malformed(&why))?;
    }
    let written = String::from_utf8(written).map_err(|why| malformed(&why))?;
    Ok(editing.finish(written))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use std::collections::BTreeSet;

    fn edit(add: &[&str], take_out: &[&str]) -> ListEdit {
        let owned = |words: &[&str]| words.iter().map(|word| (*word).to_owned()).collect();
        ListEdit { add: owned(add), take_out: owned(take_out), ..ListEdit::default() }
    }

    #[test]
    fn lines_keep_their_comments_and_parts() {
        let content = "# our words\nnote\nobserved\n\n# the calendar\nmay\nnote\nmonday\n";
        let edited =
            edit_list("ours.txt", content, &edit(&["warden", "observed"], &["may", "june"])).expect("edited");
        // `monday` alone is in order.
        assert_eq!(edited.content, "# our words\nnote\nobserved\n\n# the calendar\nmonday\nwarden\n");
        assert_eq!(
            (edited.added, edited.known, edited.taken_out, edited.missing),
            (vec!["warden".into()], vec!["observed".into()], vec!["may".into()], vec!["june".into()])
        );
        assert_eq!((edited.repeated, edited.entries), (1, 4));
        let unsorted = edit_list("ours.txt", "b\na\n", &edit(&["aa"], &[])).expect("edited");
        assert_eq!(unsorted.content, "b\na\naa\n");
        let sorted = edit_list("x.txt", "b\n# c\nz\ny\n", &ListEdit { sort: true, ..edit(&["x"], &[]) })
            .expect("edited");
        assert_eq!(sorted.content, "b\n# c\nx\ny\nz\n");
        assert_eq!(edit_list("new.txt", "", &edit(&["b", "a"], &[])).expect("edited").content, "a\nb\n");
    }

    proptest! {
        #[test]
        fn a_list_has_what_was_there_and_added_and_nothing_that_was_taken_out(
            lines in proptest::collection::vec("[a-e]{1,2}|# [a-c]{1,3}|", 0..12),
            add in proptest::collection::btree_set("[a-e]{1,2}", 0..4),
            take_out in proptest::collection::btree_set("[a-e]{1,2}", 0..4),
            sort: bool,
        ) {
            let content: String = lines.iter().map(|line| format!("{line}\n")).collect();
            let words = |text: &str| -> Vec<String> {
                let words = text.lines().filter(|line| !line.is_empty() && !line.starts_with('#'));
                words.map(str::to_owned).collect()
            };
            let comments = |text: &str| -> Vec<String> {
                text.lines().filter(|line| line.starts_with('#')).map(str::to_owned).collect()
            };
            // What is added and taken out at once is added.
            let take_out = &take_out - &add;
            let owned = |words: &BTreeSet<String>| words.iter().cloned().collect::<Vec<_>>();
            let asked = ListEdit { add: owned(&add), take_out: owned(&take_out), sort, ..ListEdit::default() };
            let edited = edit_list("ours.txt", &content, &asked).expect("edited");
            let before: BTreeSet<String> = words(&content).into_iter().collect();
            let expected: BTreeSet<String> = &(&before | &add) - &take_out;
            let after = words(&edited.content);
            let named = |words: &[String]| words.iter().cloned().collect::<BTreeSet<_>>();
            prop_assert_eq!(named(&after), &(&before | &add) - &take_out);
            prop_assert_eq!(after.len(), expected.len(), "each word stands once");
            prop_assert_eq!(edited.entries, expected.len());
            prop_assert_eq!(comments(&edited.content), comments(&content));
            prop_assert_eq!(named(&edited.added), &add - &before);
            prop_assert_eq!(named(&edited.known), &add & &before);
            prop_assert_eq!(named(&edited.taken_out), &take_out & &before);
            prop_assert_eq!(named(&edited.missing), &take_out - &before);
            // A second time, nothing is left to do.
            let again = edit_list("ours.txt", &edited.content, &asked).expect("edited");
            prop_assert_eq!(again.content, edited.content);
        }
    }

    #[test]
    fn tables_have_reasons() {
        let reasoned = |reason: &str, edit: ListEdit| ListEdit { reason: Some(reason.to_owned()), ..edit };
        let new = edit_list("ours.csv", "", &reasoned("says nothing", edit(&["note", "day, long"], &[])))
            .expect("edited");
        assert_eq!(new.content, "word,reason\n\"day, long\",says nothing\nnote,says nothing\n");
        let more = edit_list("ours.csv", &new.content, &edit(&["gull"], &["note"])).expect("edited");
        assert_eq!(more.content, "word,reason\n\"day, long\",says nothing\ngull,\n");
        let plain = edit_list("ours.csv", "a\nc\n", &reasoned("x", edit(&["b"], &[]))).expect("edited");
        assert_eq!(plain.content, "word,reason\na,\nb,x\nc,\n");
        let columns = "id\tname\n1\tGull Hide\n";
        let named = ListEdit { column: Some("name".into()), ..edit(&["Sedge Pool"], &[]) };
        assert_eq!(
            edit_list("places.tsv", columns, &named).expect("edited").content,
            "id\tname\n1\tGull Hide\n\tSedge Pool\n"
        );
        let wrong = edit_list("places.tsv", columns, &edit(&["x"], &[])).expect_err("no such column");
        assert!(wrong.to_string().contains("there are id, name"), "{wrong}");
    }

    #[test]
    fn json_and_what_cannot_be() {
        assert_eq!(
            edit_list("a.json", "[\"b\", \"b\"]", &edit(&["a"], &[])).expect("edited").content,
            "[\n  \"a\",\n  \"b\"\n]\n"
        );
        assert!(edit_list("a.json", "{}", &edit(&["a"], &[])).is_err());
        for entry in ["", "# a", "a\nb"] {
            assert!(edit_list("a.txt", "", &edit(&[entry], &[])).is_err(), "{entry:?}");
        }
        let reason = ListEdit { reason: Some("x".into()), ..edit(&["a"], &[]) };
        assert!(
            edit_list("a.txt", "", &reason).is_err_and(|why| why.to_string().contains("a column `reason`"))
        );
    }
}
