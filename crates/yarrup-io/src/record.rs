//! A document of a source, with the fields that it carries, and how it is written behind the recipe.

use std::borrow::Cow;

use serde_json::value::RawValue;
use yarrup_core::{Cleaned, Fields};

use crate::json::{Found, Members, separate, write_number, write_text, write_value_without};

/// Which fields are what.
#[derive(Clone, Debug, Default)]
pub struct Selection {
    /// The path of the field that is the text; `text` if not chosen.
    pub text: Option<String>,
    /// The path of the field that is the id; `id` if not chosen and there, else made from file and place.
    pub id: Option<String>,
    /// The path of the field that is the title.
    pub title: Option<String>,
}

impl Selection {
    pub(crate) fn text_path(&self) -> &str {
        self.text.as_deref().unwrap_or("text")
    }
}

/// A record that is no document: where it stands, and why.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Malformed {
    /// The source's name, and the line for sources of many records.
    pub place: String,
    /// What is wrong with it.
    pub why: String,
}

/// A document as a source gives it.
#[derive(Debug)]
pub struct Record<'a> {
    /// The id.
    pub id: Cow<'a, str>,
    /// The title, if one was chosen and is there.
    pub title: Option<Cow<'a, str>>,
    /// The text.
    pub text: Cow<'a, str>,
    /// All other fields.
    pub carried: Carried<'a>,
    /// Bytes that were not UTF-8 and were replaced.
    pub broken_bytes: u64,
    /// The text as a JSON string, quotes and escapes as it was written, if it was.
    pub(crate) written_text: Option<&'a str>,
}

/// The fields that a document carries along.
#[derive(Debug)]
pub enum Carried<'a> {
    /// The members of a JSON object; those that were chosen are among them.
    Members(Members<'a>),
    /// The cells of a row by the names of their columns; those that were chosen are among them.
    Cells(&'a [String], Vec<Cow<'a, str>>),
    /// None.
    Nothing,
}

impl<'a> Record<'a> {
    /// The record of a JSON object.
    pub(crate) fn of_members(
        members: Members<'a>,
        selection: &Selection,
        made_id: impl FnOnce() -> String,
    ) -> Result<Record<'a>, String> {
        let value = members.value(selection.text_path());
        let text = match Members::text_of(value, selection.text_path()) {
            Found::Text(text) => text,
            Found::Missing => return Err(no_field(selection.text_path(), &members.paths())),
            Found::NoText(why) => return Err(why),
        };
        let chosen = |path: &Option<String>| match path.as_deref().map(|path| members.find(path)) {
            Some(Found::Text(text)) => Some(text),
            _ => None,
        };
        let id = match &selection.id {
            Some(path) => Some(chosen(&selection.id).ok_or_else(|| no_field(path, &members.paths()))?),
            None => match members.find("id") {
                Found::Text(text) if !text.is_empty() => Some(text),
                _ => None,
            },
        };
        let title = chosen(&selection.title);
        Ok(Record {
            id: id.unwrap_or_else(|| Cow::Owned(made_id())),
            title,
            text,
            carried: Carried::Members(members),
            broken_bytes: 0,
            written_text: value.map(RawValue::get).filter(|raw| raw.starts_with('"')),
        })
    }

    /// The record of a row.
    pub(crate) fn of_cells(
        names: &'a [String],
        cells: Vec<Cow<'a, str>>,
        selection: &Selection,
        made_id: impl FnOnce() -> String,
    ) -> Result<Record<'a>, String> {
        let cell =
            |path: &str| names.iter().position(|name| name == path).and_then(|at| cells.get(at).cloned());
        let text = cell(selection.text_path()).ok_or_else(|| no_field(selection.text_path(), names))?;
        let id = match &selection.id {
            Some(path) => Some(cell(path).ok_or_else(|| no_field(path, names))?),
            None => cell("id").filter(|id| !id.is_empty()),
        };
        let title = selection.title.as_deref().and_then(cell);
        Ok(Record {
            id: id.unwrap_or_else(|| Cow::Owned(made_id())),
            title,
            text,
            carried: Carried::Cells(names, cells),
            broken_bytes: 0,
            written_text: None,
        })
    }
}

/// The record, unless it is too long or was none; with its count of broken bytes, or its place.
pub(crate) fn finished<'a>(
    record: Result<Record<'a>, String>,
    broken_bytes: u64,
    place: impl FnOnce() -> String,
) -> Result<Record<'a>, Malformed> {
    match record {
        Ok(record) if record.text.len() > yarrup_core::LONGEST_DOCUMENT => {
            Err(Malformed { place: place(), why: "the text is longer than one GiB".into() })
        }
        Ok(record) => Ok(Record { broken_bytes, ..record }),
        Err(why) => Err(Malformed { place: place(), why }),
    }
}

/// One sentence that says which fields there are.
fn no_field(path: &str, names: &[impl AsRef<str>]) -> String {
    let named: Vec<_> = names.iter().map(|name| format!("`{}`", name.as_ref())).collect();
    format!(
        "no field `{path}`; there are {}",
        if named.is_empty() { "none".into() } else { named.join(", ") }
    )
}

impl Fields for Record<'_> {
    fn field(&self, path: &str) -> Option<Cow<'_, str>> {
        match &self.carried {
            Carried::Members(members) => match members.find(path) {
                Found::Text(text) => Some(text),
                _ => None,
            },
            Carried::Cells(names, cells) => {
                let at = names.iter().position(|name| name == path)?;
                cells.get(at).map(|cell| Cow::Borrowed(cell.as_ref()))
            }
            Carried::Nothing => None,
        }
    }
}

/// How a document is written into a run folder: id, title, carried fields, original text, cleaned text, token counts.
#[derive(Clone, Debug, Default)]
pub struct DocumentOutput {
    /// Which fields are what.
    pub selection: Selection,
    /// Leaves the original text out.
    pub without_originals: bool,
}

/// Whether the tool gives this name to a column of its own. A carried field of such a name gets `carried_` in front.
fn is_own_name(name: &str) -> bool {
    matches!(name, "clean" | "id" | "text" | "title" | "tokens_before" | "tokens_after")
}

impl DocumentOutput {
    /// Appends one line of JSON.
    pub fn write(&self, record: &Record<'_>, cleaned: &Cleaned<'_>, out: &mut Vec<u8>) {
        out.extend_from_slice(b"{\"id\":");
        write_text(&record.id, out);
        if let Some(title) = &record.title {
            out.extend_from_slice(b",\"title\":");
            write_text(title, out);
        }
        match &record.carried {
            Carried::Members(members) => {
                for (key, value) in members.iter() {
                    if self.begin_carried(key, out) {
                        write_value_without(key, value, self.selection.text_path(), out);
                    }
                }
            }
            Carried::Cells(names, cells) => {
                for (name, cell) in names.iter().zip(cells) {
                    if self.begin_carried(name, out) {
                        write_text(cell, out);
                    }
                }
            }
            Carried::Nothing => {}
        }
        if !self.without_originals {
            out.extend_from_slice(b",\"text\":");
            match record.written_text {
                Some(written) => out.extend_from_slice(written.as_bytes()),
                None => write_text(&record.text, out),
            }
        }
        out.extend_from_slice(b",\"clean\":");
        write_text(cleaned.clean, out);
        out.extend_from_slice(b",\"tokens_before\":");
        write_number(cleaned.tokens_before, out);
        out.extend_from_slice(b",\"tokens_after\":");
        write_number(cleaned.tokens_after, out);
        out.extend_from_slice(b"}\n");
    }

    /// Writes the name of a carried field; false if the field is written elsewhere.
    fn begin_carried(&self, name: &str, out: &mut Vec<u8>) -> bool {
        let is = |path: &Option<String>, default: &str| path.as_deref().unwrap_or(default) == name;
        if is(&self.selection.text, "text") || is(&self.selection.id, "id") {
            return false;
        }
        if self.selection.title.as_deref() == Some(name) {
            return false;
        }
        out.push(b',');
        let own = is_own_name(name) && !(name == "title" && self.selection.title.is_none());
        if own {
            write_text(&format!("carried_{name}"), out);
        } else {
            write_text(name, out);
        }
        out.push(b':');
        true
    }
}

/// How a document goes on through a pipe: the object as it came, with `clean` added, and `tokens` if asked for.
#[derive(Clone, Debug, Default)]
pub struct PipeOutput {
    /// Adds the kept tokens.
    pub tokens: bool,
}

impl PipeOutput {
    /// Appends one line of JSON.
    pub fn write(&self, record: &Record<'_>, cleaned: &Cleaned<'_>, out: &mut Vec<u8>) {
        out.push(b'{');
        let mut first = true;
        if let Carried::Members(members) = &record.carried {
            for (key, value) in members.iter() {
                if key == "clean" || (self.tokens && key == "tokens") {
                    continue;
                }
                separate(&mut first, out);
                write_text(key, out);
                out.push(b':');
                out.extend_from_slice(value.get().as_bytes());
            }
        }
        separate(&mut first, out);
        out.extend_from_slice(b"\"clean\":");
        write_text(cleaned.clean, out);
        if self.tokens {
            out.extend_from_slice(b",\"tokens\":[");
            for (number, token) in cleaned.tokens().enumerate() {
                out.extend_from_slice(if number == 0 { b"{\"term\":" } else { b",{\"term\":" });
                write_text(token.term, out);
                out.extend_from_slice(b",\"text\":");
                write_text(token.span.of(&record.text), out);
                out.extend_from_slice(
                    format!(
                        ",\"start\":{},\"end\":{},\"kind\":\"{}\"}}",
                        token.span.start,
                        token.span.end,
                        token.kind.name()
                    )
                    .as_bytes(),
                );
            }
            out.push(b']');
        }
        out.extend_from_slice(b"}\n");
    }
}
