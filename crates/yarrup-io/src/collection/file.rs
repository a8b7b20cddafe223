//! Collection files: sources described once, in TOML, for every command.

use std::fmt::Write as _;
use std::ops::Range;
use std::path::Path;

use toml::Spanned;
use toml::de::{DeTable, DeValue};
use yarrup_core::recipe::{Fault, FaultKind, nearest};

use crate::bounded::read_bounded;
use crate::collection::settings::{SETTINGS, Setting, SettingShape, setting};
use crate::collection::{Collection, SourceSpec};
use crate::sampling::Pick;

type Value<'a> = Spanned<DeValue<'a>>;

/// What stands at the top of a collection file besides settings for all sources.
const TOP_KEYS: [&str; 6] = ["collection", "about", "first", "sample", "seed", "source"];

/// Whether a file is a collection file: TOML with a `source` in it.
pub fn is_collection_file(path: &Path) -> bool {
    has_table(path, "[[source]]")
}

/// Whether a file is a recipe: TOML with a `step` in it.
pub fn is_recipe_file(path: &Path) -> bool {
    has_table(path, "[[step]]")
}

fn has_table(path: &Path, heading: &str) -> bool {
    path.extension().is_some_and(|ending| ending == "toml")
        && read_bounded(path).map(String::from_utf8).is_ok_and(|text| {
            text.unwrap_or_default().lines().any(|line| line.trim_start().starts_with(heading))
        })
}

/// Reads a collection file whose text this is. Relative paths are relative to `folder`.
///
/// # Errors
///
/// Every mistake in it, in the order of their places.
pub fn read_collection(text: &str, folder: &Path) -> Result<Collection, Vec<Fault>> {
    let (table, broken) = DeTable::parse_recoverable(text);
    let mut reader = Reader { folder, faults: Vec::new() };
    if let Some(error) = broken.first() {
        let span = error.span().unwrap_or(0..0);
        reader.fault(span, "not valid TOML", error.message(), None);
        return Err(reader.faults);
    }
    let collection = reader.collection(table.get_ref());
    if reader.faults.is_empty() {
        return Ok(collection);
    }
    reader.faults.sort_by_key(|fault| fault.span.start);
    Err(reader.faults)
}

struct Reader<'f> {
    folder: &'f Path,
    faults: Vec<Fault>,
}

impl Reader<'_> {
    fn fault(&mut self, span: Range<usize>, title: &str, label: &str, help: Option<String>) {
        let kind = FaultKind::WrongValue;
        self.faults.push(Fault { kind, title: title.to_owned(), span, label: label.to_owned(), help });
    }

    fn collection(&mut self, table: &DeTable<'_>) -> Collection {
        let mut collection = Collection::default();
        let mut everywhere = SourceSpec { base: Some(self.folder.to_owned()), ..SourceSpec::default() };
        let (mut first, mut sample, mut seed) = (None, None, 0);
        for (key, value) in table {
            match key.get_ref().as_ref() {
                "collection" => collection.name = self.text(value),
                "about" => collection.about = self.text(value),
                "first" => first = self.number(value),
                "sample" => sample = self.number(value).map(|documents| (documents, value.span())),
                "seed" => seed = self.number(value).unwrap_or_default(),
                "source" => {}
                name => self.setting(name, key.span(), value, &mut everywhere),
            }
        }
        collection.pick = match (first, sample) {
            (Some(_), Some((_, span))) => {
                self.fault(span, "`first` and `sample` together", "take the first ones, or a sample", None);
                Pick::All
            }
            (Some(documents), None) => Pick::First(documents),
            (None, Some((documents, _))) => Pick::Sample { documents, seed },
            (None, None) => Pick::All,
        };
        let Some(sources) = table.get("source") else {
            let help = Some("add a `[[source]]` with a `path`".to_owned());
            self.fault(0..0, "the collection has no source", "no `[[source]]` in this file", help);
            return collection;
        };
        let Some(sources) = sources.get_ref().as_array() else {
            let help = Some("write `[[source]]`, with two brackets".to_owned());
            self.fault(sources.span(), "`source` is not a list", "expected `[[source]]`", help);
            return collection;
        };
        for source in sources.iter() {
            match source.get_ref().as_table() {
                Some(table) => collection.sources.extend(self.source(table, source.span(), &everywhere)),
                None => self.fault(source.span(), "a source is not a table", "expected `[[source]]`", None),
            }
        }
        collection
    }

    fn source(
        &mut self,
        table: &DeTable<'_>,
        span: Range<usize>,
        everywhere: &SourceSpec,
    ) -> Vec<SourceSpec> {
        let mut spec = everywhere.clone();
        let mut paths = Vec::new();
        for (key, value) in table {
            match key.get_ref().as_ref() {
                "path" => paths = self.texts(value).unwrap_or_default(),
                name => self.setting(name, key.span(), value, &mut spec),
            }
        }
        if paths.is_empty() && !table.contains_key("path") {
            let help = Some("say where it is, such as `path = \"notes.jsonl\"`".to_owned());
            self.fault(span, "`path` is missing", "a source without a `path`", help);
        }
        paths.into_iter().map(|place| spec.clone().placed(&place)).collect()
    }

    fn setting(&mut self, name: &str, key: Range<usize>, value: &Value<'_>, spec: &mut SourceSpec) {
        let Some(setting) = setting(name) else {
            let known = SETTINGS.iter().map(|setting| setting.name).chain(TOP_KEYS).chain(["path"]);
            let help = nearest(name, known).map(|name| format!("did you mean `{name}`?"));
            self.fault(key, &format!("unknown key `{name}`"), "no such key in a collection file", help);
            return;
        };
        let Some(values) = self.values(setting, value) else { return };
        if let Err(why) = setting.set(spec, values) {
            self.fault(value.span(), &format!("`{name}` cannot be this"), &why, None);
        }
    }

    fn values(&mut self, setting: &Setting, value: &Value<'_>) -> Option<Vec<String>> {
        match setting.shape {
            SettingShape::Text => self.text(value).map(|text| vec![text]),
            SettingShape::Texts => self.texts(value),
            SettingShape::Number => self.number(value).map(|number| vec![number.to_string()]),
            SettingShape::Truth => match value.get_ref().as_bool() {
                Some(truth) => Some(vec![truth.to_string()]),
                None => self.wrong(value, "`true` or `false`"),
            },
            SettingShape::TruthOrNumber => match (value.get_ref().as_bool(), value.get_ref().as_integer()) {
                (Some(truth), _) => Some(vec![truth.to_string()]),
                (None, Some(number)) => Some(vec![number.to_string()]),
                (None, None) => self.wrong(value, "`true` or `false`, or a whole number"),
            },
            SettingShape::Pairs => match value.get_ref().as_table() {
                Some(table) => table
                    .iter()
                    .map(|(name, value)| self.text(value).map(|text| format!("{}={text}", name.get_ref())))
                    .collect(),
                None => self.wrong(value, "a table of names with texts"),
            },
        }
    }

    fn wrong<T>(&mut self, value: &Value<'_>, expected: &str) -> Option<T> {
        self.fault(value.span(), &format!("expected {expected}"), &format!("this is not {expected}"), None);
        None
    }

    fn text(&mut self, value: &Value<'_>) -> Option<String> {
        match value.get_ref().as_str() {
            Some(text) => Some(text.to_owned()),
            None => self.wrong(value, "a text in quotes"),
        }
    }

    fn texts(&mut self, value: &Value<'_>) -> Option<Vec<String>> {
        match value.get_ref().as_array() {
            Some(values) => values.iter().map(|value| self.text(value)).collect(),
            None => self.text(value).map(|text| vec![text]),
        }
    }

    fn number(&mut self, value: &Value<'_>) -> Option<u64> {
        let number =
            value.get_ref().as_integer().and_then(|n| u64::from_str_radix(n.as_str(), n.radix()).ok());
        match number {
            Some(number) => Some(number),
            None => self.wrong(value, "a whole number, not below zero"),
        }
    }
}

/// Writes a collection file. Relative places stay as they are given: it is to lie where they are relative to.
pub fn write_collection(collection: &Collection) -> String {
    let mut out = String::new();
    let quoted = |text: &str| toml::Value::String(text.to_owned()).to_string();
    for (name, value) in [("collection", &collection.name), ("about", &collection.about)] {
        if let Some(value) = value {
            let _ = writeln!(out, "{name} = {}", quoted(value));
        }
    }
    match collection.pick {
        Pick::All => {}
        Pick::First(documents) => {
            let _ = writeln!(out, "first = {documents}");
        }
        Pick::Sample { documents, seed } => {
            let _ = writeln!(out, "sample = {documents}\nseed = {seed}");
        }
    }
    let same = |one: &SourceSpec, other: &SourceSpec| {
        SETTINGS.iter().all(|setting| setting.get(one) == setting.get(other))
    };
    // Sources of which the same is said are one, of several paths.
    for sources in collection.sources.chunk_by(same) {
        let paths: Vec<_> = sources.iter().map(|source| quoted(&source.place)).collect();
        let path = if paths.len() == 1 { paths[0].clone() } else { format!("[{}]", paths.join(", ")) };
        let _ = writeln!(out, "\n[[source]]\npath = {path}");
        for setting in SETTINGS {
            let values = setting.get(&sources[0]);
            if values.is_empty() {
                continue;
            }
            let written = match setting.shape {
                SettingShape::Truth | SettingShape::Number | SettingShape::TruthOrNumber => values[0].clone(),
                SettingShape::Pairs => {
                    let pairs = values.iter().filter_map(|pair| pair.split_once('='));
                    let pairs: Vec<_> =
                        pairs.map(|(name, value)| format!("{} = {}", quoted(name), quoted(value))).collect();
                    format!("{{ {} }}", pairs.join(", "))
                }
                _ if values.len() == 1 => quoted(&values[0]),
                _ => format!("[{}]", values.iter().map(|value| quoted(value)).collect::<Vec<_>>().join(", ")),
            };
            let _ = writeln!(out, "{} = {written}", setting.name);
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    const FILE: &str = r#"collection = "saltmere"
about = "everything the wardens wrote"
where = "language = en"
sample = 50
seed = 7

[[source]]
path = "field-notes.jsonl"
text = ["note.title", "note.text"]
derive = { spring = "season = spring" }

[[source]]
path = ["a.csv", "b.csv"]
separator = ";"
header = false
where = ["rating <= 2"]
"#;

    #[test]
    fn a_collection_is_read_and_written_back() {
        let collection = read_collection(FILE, Path::new("house")).expect("a collection");
        assert_eq!(collection.name.as_deref(), Some("saltmere"));
        assert_eq!(collection.pick, Pick::Sample { documents: 50, seed: 7 });
        let places: Vec<_> = collection.sources.iter().map(|source| source.place.as_str()).collect();
        assert_eq!(places, ["field-notes.jsonl", "a.csv", "b.csv"]);
        assert_eq!(collection.sources[0].selection.text, ["note.title", "note.text"]);
        assert_eq!(collection.sources[0].selection.conditions[0].to_string(), "language = en");
        assert_eq!(collection.sources[2].selection.conditions[0].to_string(), "rating <= 2");
        assert_eq!(collection.sources[1].path(), Path::new("house/a.csv"));
        let again =
            read_collection(&write_collection(&collection), Path::new("house")).expect("what was written");
        assert_eq!(write_collection(&again), write_collection(&collection));
        assert_eq!(again.sources[1].selection, collection.sources[1].selection);
        assert!(write_collection(&collection).contains("path = [\"a.csv\", \"b.csv\"]"));
    }

    #[test]
    fn mistakes_are_told_with_their_places() {
        let text = "first = 1\nsample = 2\n[[source]]\npath = \"x\"\ntexts = \"a\"\neach = \"verse\"\n[[source]]\nheader = \"none\"\nhidden = 3\n";
        let faults = read_collection(text, Path::new("")).expect_err("mistakes");
        let titles: Vec<_> =
            faults.iter().map(|fault| (fault.title.as_str(), &text[fault.span.clone()])).collect();
        assert_eq!(
            titles,
            [
                ("`first` and `sample` together", "2"),
                ("unknown key `texts`", "texts"),
                ("`each` cannot be this", "\"verse\""),
                ("`path` is missing", "[[source]]"),
                ("expected `true` or `false`, or a whole number", "\"none\""),
                ("expected `true` or `false`", "3"),
            ]
        );
        assert_eq!(faults[1].help.as_deref(), Some("did you mean `text`?"));
        for text in ["", "source = 1", "[source]\npath = 'x'", "a ="] {
            assert!(read_collection(text, Path::new("")).is_err(), "{text}");
        }
    }
}
