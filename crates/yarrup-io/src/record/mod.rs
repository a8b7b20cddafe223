//! A document of a source, with the fields that it carries.

mod lines;
pub(crate) mod members;
mod output;
mod value;

use std::borrow::Cow;
use std::fmt;

use serde::{Deserialize, Serialize};
use serde_json::value::RawValue;
use yarrup_core::{Fields, language_of};

pub use lines::Lines;
pub(crate) use output::behind_found;
pub use output::{DocumentOutput, PipeOutput, PipedObjects};
pub use value::FieldType;
pub use yarrup_core::Condition;

use members::{Found, Members, separate, write_text};

/// The name by which conditions ask for the language of a document.
pub(crate) const LANGUAGE: &str = "language";

/// Which fields are what, which documents are taken, and which fields are derived.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Selection {
    /// The paths of the fields that are the text, joined by blank lines; `text` if none is chosen.
    pub text: Vec<String>,
    /// The path of the field that is the id; `id` if not chosen and there, else made from file and place.
    pub id: Option<String>,
    /// The path of the field that is the title.
    pub title: Option<String>,
    /// The path of the field that names the language of a document, if it is not `language`.
    pub language: Option<String>,
    /// Whether documents whose fields do not name their language get a field `language` with the one that is detected.
    pub detects_language: bool,
    /// Whether documents get the fields `file` and `folder`, from the name of their file.
    pub names_files: bool,
    /// What must hold for a document to be taken, all of it.
    pub conditions: Vec<Condition>,
    /// Fields that are made: whether the condition holds.
    pub derived: Vec<(String, Condition)>,
    /// Types of fields, where those that the values show are not right.
    pub types: Vec<(String, FieldType)>,
    /// Fields at the top that are as good as not there.
    pub(crate) hidden: Vec<&'static str>,
    /// Gives the fields alone: no text is chosen, and none missed.
    pub fields_only: bool,
}

impl Selection {
    /// The paths of the fields that are the text.
    pub fn text_paths(&self) -> impl Iterator<Item = &str> {
        let given = self.text.iter().map(String::as_str);
        given.chain(self.text.is_empty().then_some("text"))
    }

    /// The path of the field that is the id.
    pub(crate) fn id_path(&self) -> &str {
        self.id.as_deref().unwrap_or("id")
    }

    /// The path of the field that names the language.
    pub(crate) fn language_path(&self) -> &str {
        self.language.as_deref().unwrap_or(LANGUAGE)
    }

    fn is_text(&self, path: &str) -> bool {
        self.text_paths().any(|text| text == path)
    }
}

/// A record, or a whole file, that is no document: where it stands, and why.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Malformed {
    /// The source's name, and the line for sources of many records.
    pub place: String,
    /// What is wrong with it.
    pub why: Why,
    /// The record as it came, where it was a line.
    #[serde(skip)]
    pub line: Option<String>,
}

/// Why there is no document.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[non_exhaustive]
pub enum Why {
    /// There is no field of the path that was asked for.
    NoField {
        /// The path.
        path: String,
        /// The fields that there are.
        fields: Vec<String>,
    },
    /// The record is not well formed, or has no text.
    Record(String),
    /// The file cannot be read, or not to its end.
    File(String),
}

/// How many fields are named that there are in the place of the one that is missing.
const NAMED_FIELDS: usize = 24;

impl fmt::Display for Why {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Why::NoField { path, fields } => {
                let named: Vec<_> =
                    fields.iter().take(NAMED_FIELDS).map(|name| format!("`{name}`")).collect();
                let mut there = if named.is_empty() { "none".into() } else { named.join(", ") };
                if fields.len() > NAMED_FIELDS {
                    there.push_str(&format!(" and {} more", fields.len() - NAMED_FIELDS));
                }
                write!(f, "no field `{path}`; there are {there}")
            }
            Why::Record(why) | Why::File(why) => f.write_str(why),
        }
    }
}

/// What a source gives at a place.
#[derive(Debug)]
pub enum Item<'a> {
    /// A document.
    Document(Record<'a>),
    /// A document for which a condition does not hold.
    LeftOut,
    /// No document.
    Malformed(Malformed),
}

/// A document as a source gives it.
#[derive(Debug)]
pub struct Record<'a> {
    /// The id.
    pub id: Cow<'a, str>,
    /// Whether the id was made from file and place, so that it is surely the only one of its kind.
    pub id_made: bool,
    /// The title, if one was chosen and is there.
    pub title: Option<Cow<'a, str>>,
    /// The text.
    pub text: Cow<'a, str>,
    /// Bytes that were not valid in the encoding of the source and were replaced.
    pub broken_bytes: u64,
    pub(crate) carried: Carried<'a>,
    /// The fields of the file's side file.
    side: Option<&'a Members<'a>>,
    selection: &'a Selection,
    /// The text as JSON, with quotes and escapes as it was written, if it was.
    written_text: Option<&'a str>,
    /// How many of the broken bytes are halves of surrogate pairs in JSON strings.
    pub(crate) broken_halves: u64,
}

/// The fields that a document carries along; those that were chosen are among them.
#[derive(Debug)]
pub(crate) enum Carried<'a> {
    /// The members of a JSON object.
    Members(Members<'a>),
    /// The cells of a row.
    Cells(&'a [Column], Vec<Cow<'a, str>>),
    /// A text, which is the field `text`, with what was found beside it.
    Body(&'a str, Members<'a>),
}

/// A column of a table.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Column {
    pub(crate) name: String,
    pub(crate) kind: FieldType,
}

/// A value of a field, as its source wrote it.
#[derive(Clone, Debug)]
pub enum Value<'a> {
    /// JSON.
    Json(&'a RawValue),
    /// A text of this type.
    Text(Cow<'a, str>, FieldType),
}

impl<'a> Carried<'a> {
    fn find(&self, path: &str) -> Found<'a> {
        match self {
            Carried::Members(members) => members.find(path),
            Carried::Cells(columns, cells) => {
                cell(columns, cells, path).map_or(Found::Missing, |(_, cell)| Found::Text(cell.clone()))
            }
            Carried::Body(text, _) if path == "text" => Found::Text(Cow::Borrowed(text)),
            Carried::Body(_, members) => members.find(path),
        }
    }

    /// Whether there is a field of this name, at the top.
    fn has(&self, name: &str) -> bool {
        match self {
            Carried::Members(members) => members.has(name),
            Carried::Cells(columns, _) => columns.iter().any(|column| column.name == name),
            Carried::Body(_, members) => name == "text" || members.has(name),
        }
    }

    fn paths(&self) -> Vec<String> {
        match self {
            Carried::Members(members) => members.paths(),
            Carried::Cells(columns, _) => columns.iter().map(|column| column.name.clone()).collect(),
            Carried::Body(_, members) => {
                let mut paths = members.paths();
                paths.push("text".into());
                paths
            }
        }
    }
}

fn cell<'c, 'a>(
    columns: &'c [Column],
    cells: &'c [Cow<'a, str>],
    path: &str,
) -> Option<(&'c Column, &'c Cow<'a, str>)> {
    let at = columns.iter().position(|column| column.name == path)?;
    Some((&columns[at], cells.get(at)?))
}

impl<'a> Record<'a> {
    /// The record whose fields these are: a document, unless a condition does not hold.
    pub(crate) fn of(
        carried: Carried<'a>,
        side: Option<&'a Members<'a>>,
        selection: &'a Selection,
        made_id: impl FnOnce() -> String,
    ) -> Result<Option<Record<'a>>, Why> {
        let mut record = Record {
            id: "".into(),
            id_made: false,
            title: None,
            text: "".into(),
            broken_bytes: 0,
            carried,
            side,
            selection,
            written_text: None,
            broken_halves: 0,
        };
        // The language is detected from the text.
        let text_first = selection.detects_language && !selection.fields_only;
        if text_first {
            record.choose_text()?;
        }
        // Every one is asked, so that each can tell which fields it has not seen.
        let hold = selection.conditions.iter().filter(|condition| record.meets(condition)).count();
        if hold < selection.conditions.len() {
            return Ok(None);
        }
        if selection.fields_only {
            return Ok(Some(record));
        }
        if !text_first {
            record.choose_text()?;
        }
        match &selection.id {
            Some(path) => {
                record.id = record.chosen(path)?.ok_or_else(|| record.no_field(path))?;
            }
            None => {
                if let Ok(Some(id)) = record.chosen("id") {
                    record.id = id;
                }
            }
        }
        if record.id.is_empty() {
            record.id = made_id().into();
            record.id_made = true;
        }
        if let Some(path) = &selection.title {
            record.title = record.chosen(path).ok().flatten();
        }
        Ok(Some(record))
    }

    /// Whether only its fields were asked for, so that it has no text and no id.
    pub fn is_of_fields_alone(&self) -> bool {
        self.selection.fields_only
    }

    fn choose_text(&mut self) -> Result<(), Why> {
        let mut paths = self.selection.text_paths();
        let (first, several) = (paths.next().unwrap_or("text"), self.selection.text.len() > 1);
        if !several {
            // The usual case, for every document: the value is looked up once.
            if let Carried::Members(members) = &self.carried
                && let Some(value) = members.value(first)
                && let Found::Text(text) = Members::text_of(value, first)
            {
                self.text = text;
                self.written_text = Some(value.get()).filter(|raw| !raw.starts_with('['));
                return Ok(());
            }
            self.text = self.chosen(first)?.ok_or_else(|| self.no_field(first))?;
            return Ok(());
        }
        let (mut joined, mut any) = (String::new(), false);
        for path in self.selection.text_paths() {
            // A field that only some records have, such as a title, is no fault of the others.
            let Some(text) = self.chosen(path)? else { continue };
            any = true;
            if !joined.is_empty() && !text.is_empty() {
                joined.push_str("\n\n");
            }
            joined.push_str(&text);
        }
        if !any {
            return Err(self.no_field(first));
        }
        self.text = joined.into();
        Ok(())
    }

    /// What is at a path: in the document, else in its side file.
    fn found(&self, path: &str) -> Found<'a> {
        match (self.carried.find(path), self.side) {
            (Found::Missing, Some(side)) => side.find(path),
            (found, _) => found,
        }
    }

    /// The text at a path; none if there is no such field.
    fn chosen(&mut self, path: &str) -> Result<Option<Cow<'a, str>>, Why> {
        match self.found(path) {
            Found::Text(text) => Ok(Some(text)),
            Found::Broken(text, broken) => {
                self.broken_halves += broken;
                Ok(Some(text.into()))
            }
            Found::Missing => Ok(None),
            Found::NoText(why) => Err(Why::Record(why)),
        }
    }

    /// Writes a field that was chosen, whose text this is: a number stays a number, and what is not there `null`, if the text was `found`.
    fn write_chosen(&self, path: &str, text: &str, found: bool, out: &mut Vec<u8>) {
        match &self.carried {
            Carried::Cells(columns, cells) if found => match cell(columns, cells, path) {
                Some((column, cell)) => write_cell(cell, column.kind, out),
                None => write_text(text, out),
            },
            Carried::Members(members) | Carried::Body(_, members) if found => {
                let side = || self.side.and_then(|side| side.value(path));
                let raw = members.value(path).or_else(side).map(RawValue::get);
                match raw.filter(|raw| !raw.starts_with(['"', '[', '{'])) {
                    Some(raw) => out.extend_from_slice(raw.as_bytes()),
                    None => write_text(text, out),
                }
            }
            _ => write_text(text, out),
        }
    }

    fn no_field(&self, path: &str) -> Why {
        let mut fields = self.carried.paths();
        fields.extend(
            self.side
                .iter()
                .flat_map(|side| side.paths())
                .filter(|path| !fields.contains(path))
                .collect::<Vec<_>>(),
        );
        Why::NoField { path: path.to_owned(), fields }
    }

    /// Every path that leads to a value, with the value; nested objects are followed, to some depth.
    pub fn each_value(&self, mut visit: impl FnMut(&str, Value<'_>)) {
        if let Some(side) = self.side {
            side.each(&mut |path, value| visit(path, Value::Json(value)));
        }
        match &self.carried {
            Carried::Members(members) => members.each(&mut |path, value| visit(path, Value::Json(value))),
            Carried::Cells(columns, cells) => {
                for (column, cell) in columns.iter().zip(cells) {
                    visit(&column.name, Value::Text(Cow::Borrowed(cell), FieldType::of(cell)));
                }
            }
            Carried::Body(text, members) => {
                members.each(&mut |path, value| visit(path, Value::Json(value)));
                visit("text", Value::Text(Cow::Borrowed(text), FieldType::Text));
            }
        }
        for (name, condition) in &self.selection.derived {
            let holds = self.meets_derived(condition);
            visit(name, Value::Text(if holds { "true" } else { "false" }.into(), FieldType::Truth));
        }
    }

    /// All its fields as one JSON object, texts included; the text of a whole file apart.
    pub(crate) fn to_json(&self) -> (String, Option<String>) {
        let mut out = Vec::new();
        out.push(b'{');
        let mut first = true;
        let mut text = None;
        match &self.carried {
            Carried::Members(members) => members.write_members(&mut first, &mut out),
            Carried::Cells(columns, cells) => {
                for (column, cell) in columns.iter().zip(cells) {
                    separate(&mut first, &mut out);
                    write_text(&column.name, &mut out);
                    out.push(b':');
                    write_cell(cell, column.kind, &mut out);
                }
            }
            Carried::Body(body, members) => {
                members.write_members(&mut first, &mut out);
                text = Some((*body).to_owned());
            }
        }
        out.push(b'}');
        (String::from_utf8(out).unwrap_or_default(), text)
    }
}

/// Writes a cell as JSON: as its type says where it fits, else as a text.
fn write_cell(cell: &str, kind: FieldType, out: &mut Vec<u8>) {
    match kind.json(cell) {
        Some(json) => out.extend_from_slice(json.as_bytes()),
        None => write_text(cell, out),
    }
}

impl Fields for Record<'_> {
    fn field(&self, path: &str) -> Option<Cow<'_, str>> {
        if path == LANGUAGE {
            return match self.found(self.selection.language_path()) {
                Found::Text(text) => Some(text),
                Found::Broken(text, _) => Some(text.into()),
                Found::Missing | Found::NoText(_) => self.detected_language().map(Cow::Borrowed),
            };
        }
        match self.found(path) {
            Found::Text(text) => Some(text),
            Found::Broken(text, _) => Some(text.into()),
            Found::Missing => {
                let derived = self.selection.derived.iter().find(|(name, _)| name == path);
                derived
                    .map(|(_, condition)| if self.meets_derived(condition) { "true" } else { "false" }.into())
            }
            Found::NoText(_) => None,
        }
    }
}

impl<'a> Record<'a> {
    /// The value of a field; none as well where it is the `null` of JSON, of which [`Fields::field`] makes an empty text.
    pub fn value(&self, path: &str) -> Option<Cow<'_, str>> {
        let is_null = match &self.carried {
            Carried::Members(members) | Carried::Body(_, members) => {
                members.value(path).is_some_and(|value| value.get() == "null")
            }
            Carried::Cells(..) => false,
        };
        if is_null { None } else { self.field(path) }
    }

    /// Whether the document carries a field of this name.
    pub(crate) fn has(&self, name: &str) -> bool {
        self.carried.has(name) || self.side.is_some_and(|side| side.has(name))
    }

    /// Whether a condition holds for the document.
    fn meets(&self, condition: &Condition) -> bool {
        condition.holds(&mut |path| self.field(path))
    }

    /// Whether a condition holds that gives a field its value. It may not look at another such field: the search would not end.
    pub(crate) fn meets_derived(&self, condition: &Condition) -> bool {
        let is_derived = |path: &str| self.selection.derived.iter().any(|(name, _)| name == path);
        condition.holds(&mut |path| if is_derived(path) { None } else { self.field(path) })
    }

    /// The language that the document's text shows, where its fields do not name one and that was asked for.
    pub(crate) fn detected_language(&self) -> Option<&'static str> {
        let is_named = || !matches!(self.found(self.selection.language_path()), Found::Missing);
        if self.selection.detects_language && !is_named() { language_of(&self.text) } else { None }
    }
}
