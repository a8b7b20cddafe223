//! Side files: `ward-03.yaml` beside `ward-03.txt` holds fields of that document.

use std::collections::{HashMap, HashSet};
use std::path::{Path, PathBuf};

use serde::de::{self, Deserialize, Deserializer, MapAccess, SeqAccess, Visitor};
use serde_json::{Map, Value};

use crate::names::ending;

/// The endings of side files.
const ENDINGS: [&str; 4] = ["yaml", "yml", "json", "toml"];
/// The most that a side file may hold. They are a few lines long.
const LONGEST: usize = 1 << 20;

/// Whether a name may be that of a side file.
fn is_side_name(name: &str) -> bool {
    ending(name).is_some_and(|ending| ENDINGS.contains(&ending.as_str()))
}

/// Which of some names are side files, and of which others.
pub(crate) struct SideFiles<'n> {
    by_stem: HashMap<&'n str, &'n str>,
    sides: HashSet<&'n str>,
}

impl<'n> SideFiles<'n> {
    /// A name is that of a side file if another file has the same name but for the ending, and is none.
    pub(crate) fn among(names: impl Iterator<Item = &'n str> + Clone) -> SideFiles<'n> {
        let with_side: HashSet<&str> = names.clone().filter(|name| !is_side_name(name)).map(stem).collect();
        let mut by_stem = HashMap::new();
        for name in names.filter(|name| is_side_name(name) && with_side.contains(stem(name))) {
            by_stem.entry(stem(name)).or_insert(name);
        }
        let sides = by_stem.values().copied().collect();
        SideFiles { by_stem, sides }
    }

    pub(crate) fn is_side(&self, name: &str) -> bool {
        self.sides.contains(name)
    }

    pub(crate) fn of(&self, name: &str) -> Option<&'n str> {
        (!is_side_name(name)).then(|| self.by_stem.get(stem(name)).copied()).flatten()
    }
}

fn stem(name: &str) -> &str {
    match ending(name) {
        Some(ending) => &name[..name.len() - ending.len() - 1],
        None => name,
    }
}

/// The side file of a file of the disk.
pub(crate) fn of_file(path: &Path) -> Option<PathBuf> {
    if path.to_str().is_none_or(is_side_name) {
        return None;
    }
    ENDINGS.iter().map(|ending| path.with_extension(ending)).find(|side| side.is_file())
}

/// The fields that a side file states, as a JSON object.
///
/// # Errors
///
/// What is wrong with the file, with the line where that is known.
pub(crate) fn side_fields(name: &str, bytes: &[u8]) -> Result<String, String> {
    if bytes.len() > LONGEST {
        return Err("longer than a side file can be (1 MB)".to_owned());
    }
    let text = std::str::from_utf8(bytes).map_err(|_| "not UTF-8".to_owned())?;
    let text = text.trim_start_matches('\u{feff}');
    let value = match ending(name).as_deref() {
        Some("json") => serde_json::from_str(text).map_err(|why| format!("not valid JSON: {why}"))?,
        Some("toml") => {
            let table = toml::from_str::<toml::Table>(text)
                .map_err(|why| format!("not valid TOML: {}", why.message()))?;
            if is_ours(&table) { Value::Null } else { of_toml(toml::Value::Table(table)) }
        }
        _ => yaml(text)?,
    };
    match value {
        Value::Object(_) => Ok(value.to_string()),
        Value::Null => Ok("{}".to_owned()),
        _ => Err("not a list of names with values".to_owned()),
    }
}

/// The fields of a file's own side file, or else those inherited from the archive that it lies in, as a JSON object with two more: `file`, the name of the file,
/// and `folder`, those that it lies in, with `/` between them. A file that lies in none has no folder; what its side file says stays.
pub(crate) fn with_file_fields(own: Option<&str>, inherited: Option<&str>, name: &str) -> String {
    let read =
        |side: Option<&str>| side.and_then(|side| serde_json::from_str::<Map<String, Value>>(side).ok());
    let mut fields = read(own.or(inherited)).unwrap_or_default();
    if own.is_none() {
        fields.retain(|name, _| name != "folder" && name != "file");
    }
    let (folder, file) = name.rsplit_once('/').map_or((None, name), |(folder, file)| (Some(folder), file));
    if let Some(folder) = folder {
        fields.entry("folder").or_insert(folder.into());
    }
    fields.entry("file").or_insert(file.into());
    Value::Object(fields).to_string()
}

/// Whether a file is a recipe or a collection. It may well have the name of the data that it is for, and states no fields of them.
fn is_ours(table: &toml::Table) -> bool {
    let first = |name: &str| table.get(name).and_then(|tables| tables.as_array()?.first()?.as_table());
    first("step").is_some_and(|step| step.contains_key("do")) || first("source").is_some()
}

fn of_toml(value: toml::Value) -> Value {
    match value {
        toml::Value::String(text) => text.into(),
        toml::Value::Integer(number) => number.into(),
        toml::Value::Float(number) => number.into(),
        toml::Value::Boolean(truth) => truth.into(),
        toml::Value::Datetime(date) => date.to_string().into(),
        toml::Value::Array(values) => values.into_iter().map(of_toml).collect::<Vec<_>>().into(),
        toml::Value::Table(table) => {
            Value::Object(table.into_iter().map(|(name, value)| (name, of_toml(value))).collect())
        }
    }
}

fn yaml(text: &str) -> Result<Value, String> {
    // YAML 1.2: `no` and `off` are words, as whoever writes of a bird of Norway will want.
    let options = serde_saphyr::options! { strict_booleans: true };
    serde_saphyr::from_str_with_options::<Yaml>(text, options).map(|yaml| yaml.0).map_err(|why| {
        let told = why.to_string();
        format!("not valid YAML: {}", told.lines().next().unwrap_or_default())
    })
}

/// A value of YAML. Keys that are no texts become the texts that they are written as.
struct Yaml(Value);

impl<'de> Deserialize<'de> for Yaml {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Yaml, D::Error> {
        struct Any;
        impl<'de> Visitor<'de> for Any {
            type Value = Value;

            fn expecting(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
                f.write_str("a value")
            }

            fn visit_bool<E>(self, truth: bool) -> Result<Value, E> {
                Ok(truth.into())
            }

            fn visit_i64<E>(self, number: i64) -> Result<Value, E> {
                Ok(number.into())
            }

            fn visit_u64<E>(self, number: u64) -> Result<Value, E> {
                Ok(number.into())
            }

            fn visit_f64<E>(self, number: f64) -> Result<Value, E> {
                Ok(number.into())
            }

            fn visit_str<E>(self, text: &str) -> Result<Value, E> {
                Ok(text.into())
            }

            fn visit_unit<E>(self) -> Result<Value, E> {
                Ok(Value::Null)
            }

            fn visit_none<E>(self) -> Result<Value, E> {
                Ok(Value::Null)
            }

            fn visit_some<D: Deserializer<'de>>(self, deserializer: D) -> Result<Value, D::Error> {
                Yaml::deserialize(deserializer).map(|yaml| yaml.0)
            }

            fn visit_seq<A: SeqAccess<'de>>(self, mut sequence: A) -> Result<Value, A::Error> {
                let mut values = Vec::new();
                while let Some(value) = sequence.next_element::<Yaml>()? {
                    values.push(value.0);
                }
                Ok(values.into())
            }

            fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<Value, A::Error> {
                let mut values = serde_json::Map::new();
                while let Some((key, value)) = map.next_entry::<Yaml, Yaml>()? {
                    let key = match key.0 {
                        Value::String(text) => text,
                        Value::Object(_) | Value::Array(_) => {
                            return Err(de::Error::custom("a key is not a text"));
                        }
                        other => other.to_string(),
                    };
                    values.insert(key, value.0);
                }
                Ok(Value::Object(values))
            }
        }
        deserializer.deserialize_any(Any).map(Yaml)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn side_files_are_known_by_their_stems() {
        let names = ["a/x.txt", "a/x.yaml", "a/y.json", "b/x.toml", "z.txt", "z.json"];
        let sides = SideFiles::among(names.iter().copied());
        assert_eq!(sides.of("a/x.txt"), Some("a/x.yaml"));
        assert_eq!(sides.of("z.txt"), Some("z.json"));
        assert_eq!(sides.of("a/y.json"), None);
        let sides: Vec<_> = names.into_iter().filter(|name| sides.is_side(name)).collect();
        assert_eq!(sides, ["a/x.yaml", "z.json"]);
    }

    #[test]
    fn three_notations_give_the_same_fields() {
        let expected = r#"{"ward":"North Spit","visits":12,"country":"no","open":true,"tags":["a","b"]}"#;
        let expected: Value = serde_json::from_str(expected).expect("JSON");
        for (name, text) in [
            (
                "x.json",
                r#"{"ward": "North Spit", "visits": 12, "country": "no", "open": true, "tags": ["a", "b"]}"#,
            ),
            ("x.yaml", "ward: North Spit\nvisits: 12\ncountry: no\nopen: true\ntags: [a, b]\n"),
            (
                "x.toml",
                "ward = \"North Spit\"\nvisits = 12\ncountry = \"no\"\nopen = true\ntags = [\"a\", \"b\"]\n",
            ),
        ] {
            let fields = side_fields(name, text.as_bytes()).expect(name);
            assert_eq!(serde_json::from_str::<Value>(&fields).expect("JSON"), expected, "{name}");
        }
    }

    #[test]
    fn recipes_and_collections_state_no_fields() {
        for (text, expected) in [
            ("recipe = \"x\"\n[[step]]\ndo = \"case\"\n", "{}"),
            ("collection = \"x\"\n[[source]]\npath = \"x.csv\"\n", "{}"),
            ("step = 3\n", "{\"step\":3}"),
            ("[[step]]\nname = \"weir\"\n", "{\"step\":[{\"name\":\"weir\"}]}"),
        ] {
            assert_eq!(side_fields("x.toml", text.as_bytes()).as_deref(), Ok(expected), "{text}");
        }
    }

    #[test]
    fn files_are_named_by_themselves_and_their_folders() {
        let told = |inherited: Option<&str>, name: &str| with_file_fields(None, inherited, name);
        assert_eq!(told(None, "pos/a.txt"), r#"{"folder":"pos","file":"a.txt"}"#);
        assert_eq!(told(None, "2031/spit/a.txt"), r#"{"folder":"2031/spit","file":"a.txt"}"#);
        assert_eq!(told(None, "a.txt"), r#"{"file":"a.txt"}"#);
        let archive = r#"{"site":"spit","folder":"old","file":"pile.zip"}"#;
        assert_eq!(
            told(Some(archive), "pile.zip/b.txt"),
            r#"{"site":"spit","folder":"pile.zip","file":"b.txt"}"#
        );
        let own = Some(r#"{"folder":"elsewhere"}"#);
        assert_eq!(
            with_file_fields(own, Some(archive), "pos/a.txt"),
            r#"{"folder":"elsewhere","file":"a.txt"}"#
        );
    }

    #[test]
    fn mistakes_are_told() {
        for (name, text) in [("x.json", "{"), ("x.yaml", "a: [1"), ("x.toml", "a ="), ("x.json", "[1]")] {
            assert!(side_fields(name, text.as_bytes()).is_err(), "{text}");
        }
    }
}
