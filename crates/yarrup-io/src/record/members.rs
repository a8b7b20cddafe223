//! JSON objects with their values left as they were written.

use std::borrow::Cow;
use std::fmt;

use serde::de::{Deserialize, Deserializer, MapAccess, Visitor};
use serde_json::value::RawValue;

use crate::encoding::repaired;

/// The members of a JSON object, in order, each value as the raw slice of the input.
#[derive(Clone, Debug, Default)]
pub struct Members<'a> {
    members: Vec<(Cow<'a, str>, &'a RawValue)>,
}

impl<'de: 'a, 'a> Deserialize<'de> for Members<'a> {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Members<'a>, D::Error> {
        struct Object;
        impl<'de> Visitor<'de> for Object {
            type Value = Members<'de>;

            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("an object")
            }

            fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<Members<'de>, A::Error> {
                let mut members = Vec::with_capacity(8);
                while let Some(key) = map.next_key::<Key<'de>>()? {
                    members.push((key.0, map.next_value::<&RawValue>()?));
                }
                Ok(Members { members })
            }
        }
        deserializer.deserialize_map(Object)
    }
}

/// A key, borrowed where it holds no escapes.
struct Key<'a>(Cow<'a, str>);

impl<'de> Deserialize<'de> for Key<'de> {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Key<'de>, D::Error> {
        struct Text;
        impl<'de> Visitor<'de> for Text {
            type Value = Cow<'de, str>;

            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("a string")
            }

            fn visit_borrowed_str<E>(self, text: &'de str) -> Result<Self::Value, E> {
                Ok(Cow::Borrowed(text))
            }

            fn visit_str<E>(self, text: &str) -> Result<Self::Value, E> {
                Ok(Cow::Owned(text.to_owned()))
            }
        }
        deserializer.deserialize_str(Text).map(Key)
    }
}

/// Where a path leads in an object.
pub(crate) enum Found<'a> {
    /// A string, a number or a truth, as text; `null` is the empty text.
    Text(Cow<'a, str>),
    /// There is no such member.
    Missing,
    /// A string with halves of surrogate pairs, which are replaced; and how many bytes these took in UTF-8.
    Broken(String, u64),
    /// An object, or an array of other things than texts.
    NoText(String),
}

/// The texts of an array's elements, joined by line breaks.
fn array_text<'a>(raw: &'a str, path: &str, find: impl Fn(&'a RawValue) -> Found<'a>) -> Found<'a> {
    let Ok(elements) = serde_json::from_str::<Vec<&'a RawValue>>(raw) else {
        return Found::NoText(format!("`{path}` is nested too deeply"));
    };
    let (mut joined, mut any, mut broken_bytes) = (String::new(), elements.is_empty(), 0);
    for element in elements {
        // Arrays within arrays are left to `find` only one level deep: hostile input may nest without end.
        if element.get().starts_with('[') {
            return Found::NoText(format!("`{path}` is an array of arrays, not of texts"));
        }
        let text = match find(element) {
            Found::Text(text) => text,
            Found::Broken(text, broken) => {
                broken_bytes += broken;
                Cow::Owned(text)
            }
            Found::Missing => continue,
            Found::NoText(_) => {
                return Found::NoText(format!("`{path}` is an array of objects; choose a field inside them"));
            }
        };
        if any && !joined.is_empty() {
            joined.push('\n');
        }
        any = true;
        joined.push_str(&text);
    }
    match (any, broken_bytes) {
        (false, _) => Found::Missing,
        (true, 0) => Found::Text(Cow::Owned(joined)),
        (true, broken) => Found::Broken(joined, broken),
    }
}

/// A string in which halves of surrogate pairs are let through, and then replaced.
struct Halves {
    text: String,
    broken: u64,
}

impl<'de> Deserialize<'de> for Halves {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Halves, D::Error> {
        struct Bytes;
        impl Visitor<'_> for Bytes {
            type Value = Halves;

            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("a string")
            }

            fn visit_bytes<E>(self, bytes: &[u8]) -> Result<Halves, E> {
                let (text, broken) = repaired(bytes);
                Ok(Halves { text: text.into_owned(), broken })
            }
        }
        deserializer.deserialize_bytes(Bytes)
    }
}

impl<'a> Members<'a> {
    /// Reads an object.
    ///
    /// # Errors
    ///
    /// What is wrong with it, and at which column.
    pub fn read(line: &'a str) -> Result<Members<'a>, String> {
        serde_json::from_str(line).map_err(|error| match error.classify() {
            serde_json::error::Category::Data => "not an object".to_owned(),
            _ => format!("not valid JSON: {}", sentence(&error)),
        })
    }

    /// Takes members out.
    pub(crate) fn hide(&mut self, names: &[&str]) {
        self.members.retain(|(name, _)| !names.contains(&name.as_ref()));
    }

    /// The members, in order.
    pub fn iter(&self) -> impl Iterator<Item = (&str, &'a RawValue)> {
        self.members.iter().map(|(key, value)| (key.as_ref(), *value))
    }

    /// The names of the members.
    pub fn names(&self) -> Vec<&str> {
        self.members.iter().map(|(key, _)| key.as_ref()).collect()
    }

    fn raw(&self, key: &str) -> Option<&'a RawValue> {
        // The last of two members of one name counts, as is the custom.
        self.members.iter().rev().find(|(name, _)| name == key).map(|(_, value)| *value)
    }

    /// The value at a dotted path. A member whose name holds the dots itself comes first.
    pub(crate) fn value(&self, path: &str) -> Option<&'a RawValue> {
        self.raw(path).or_else(|| {
            splits(path).find_map(|(first, rest)| Members::read(self.raw(first)?.get()).ok()?.value(rest))
        })
    }

    /// The text at a path: that of a string, number or truth; those of an array's elements, joined by line breaks. A path
    /// leads on through arrays, into each of their objects.
    pub(crate) fn find(&self, path: &str) -> Found<'a> {
        match self.value(path) {
            Some(value) => Members::text_of(value, path),
            None => self.find_in_arrays(path),
        }
    }

    /// What the value at `path` is as a text.
    pub(crate) fn text_of(value: &'a RawValue, path: &str) -> Found<'a> {
        let raw = value.get();
        match raw.as_bytes().first() {
            // Checked when the object was read: without an escape, what stands between the quotes is the text.
            Some(b'"') if memchr::memchr(b'\\', raw.as_bytes()).is_none() => {
                Found::Text(Cow::Borrowed(&raw[1..raw.len() - 1]))
            }
            Some(b'"') => match serde_json::from_str::<Key<'a>>(raw) {
                Ok(text) => Found::Text(text.0),
                Err(error) => match serde_json::from_str::<Halves>(raw) {
                    Ok(halves) => Found::Broken(halves.text, halves.broken),
                    Err(_) => Found::NoText(format!("`{path}` is not a valid string: {}", sentence(&error))),
                },
            },
            Some(b'{') => Found::NoText(object_for_text(raw, path)),
            Some(b'[') => array_text(raw, path, |element| Members::text_of(element, path)),
            Some(b'n') => Found::Text(Cow::Borrowed("")),
            _ => Found::Text(Cow::Borrowed(raw)),
        }
    }

    fn find_in_arrays(&self, path: &str) -> Found<'a> {
        let found = splits(path).filter_map(|(first, rest)| Some((self.raw(first)?.get(), rest)));
        let mut found = found.map(|(raw, rest)| match raw.as_bytes().first() {
            Some(b'[') => array_text(raw, path, |element| match Members::read(element.get()) {
                Ok(members) => members.find(rest),
                Err(_) => Found::Missing,
            }),
            Some(b'{') => Members::read(raw).map_or(Found::Missing, |members| members.find_in_arrays(rest)),
            _ => Found::Missing,
        });
        found.find(|found| !matches!(found, Found::Missing)).unwrap_or(Found::Missing)
    }

    pub(crate) fn has(&self, key: &str) -> bool {
        self.members.iter().any(|(name, _)| name == key)
    }

    /// Every path that leads to a value, for an error that lists what there is.
    pub(crate) fn paths(&self) -> Vec<String> {
        let mut paths: Vec<String> = Vec::new();
        self.each(&mut |path, _| {
            if !paths.iter().any(|known| known == path) {
                paths.push(path.to_owned());
            }
        });
        paths
    }

    /// Gives every path that leads to something else than an object or an array of objects, with each value there. What lies deeper than people nest is left out: hostile
    /// input may nest without end.
    pub(crate) fn each(&self, visit: &mut dyn FnMut(&str, &'a RawValue)) {
        self.each_below("", DEEPEST, visit);
    }

    fn each_below(&self, above: &str, depth: usize, visit: &mut dyn FnMut(&str, &'a RawValue)) {
        let mut path = String::new();
        for (key, value) in &self.members {
            path.clear();
            path.push_str(above);
            path.push_str(key);
            let nested = value.get().starts_with('{');
            let objects = if nested { None } else { objects(value) };
            if !nested && objects.is_none() {
                visit(&path, value);
                continue;
            }
            if depth == 0 {
                continue;
            }
            path.push('.');
            for object in objects.unwrap_or_else(|| Members::read(value.get()).into_iter().collect()) {
                object.each_below(&path, depth - 1, visit);
            }
        }
    }

    /// Writes the members, all as they were written.
    pub(crate) fn write_members(&self, first: &mut bool, out: &mut Vec<u8>) {
        for (key, value) in self.iter() {
            separate(first, out);
            write_text(key, out);
            out.push(b':');
            write_raw(value.get(), out);
        }
    }

    /// Writes the object without the members at `paths`, all else as it was written.
    pub(crate) fn write_without(&self, paths: &[&str], out: &mut Vec<u8>) {
        out.push(b'{');
        let mut first = true;
        for (key, value) in self.iter() {
            if paths.contains(&key) {
                continue;
            }
            separate(&mut first, out);
            write_text(key, out);
            out.push(b':');
            write_value_without(key, value, paths, out);
        }
        out.push(b'}');
    }
}

/// A path cut in two at each of its dots: any of them may be part of a name.
fn splits(path: &str) -> impl Iterator<Item = (&str, &str)> {
    path.match_indices('.').map(|(at, dot)| (&path[..at], &path[at + dot.len()..]))
}

/// The first objects of an array of objects.
fn objects(value: &RawValue) -> Option<Vec<Members<'_>>> {
    let inner = value.get().strip_prefix('[')?.trim_start();
    if !inner.starts_with('{') {
        return None;
    }
    let elements: Vec<&RawValue> = serde_json::from_str(value.get()).ok()?;
    Some(
        elements
            .into_iter()
            .take(MOST_OBJECTS)
            .filter_map(|element| Members::read(element.get()).ok())
            .collect(),
    )
}

/// How many objects of an array are followed in search of fields.
const MOST_OBJECTS: usize = 50;

/// How deep objects are followed in search of fields.
const DEEPEST: usize = 6;

/// Writes a value as it was written, on one line: a line break in JSON that stands as it is can only be between values.
pub(crate) fn write_raw(value: &str, out: &mut Vec<u8>) {
    let mut lines = value.split(['\n', '\r']);
    out.extend_from_slice(lines.next().unwrap_or_default().as_bytes());
    lines.for_each(|line| out.extend_from_slice(line.trim_start().as_bytes()));
}

/// Writes the value of member `key` of an object, without what lies at `paths` of that object.
pub(crate) fn write_value_without(key: &str, value: &RawValue, paths: &[&str], out: &mut Vec<u8>) {
    let inside: Vec<&str> =
        paths.iter().filter_map(|path| path.strip_prefix(key)?.strip_prefix('.')).collect();
    match (inside.is_empty(), value.get().starts_with('{')) {
        (false, true) => match Members::read(value.get()) {
            Ok(inner) => inner.write_without(&inside, out),
            Err(_) => write_raw(value.get(), out),
        },
        _ => write_raw(value.get(), out),
    }
}

pub(crate) fn separate(first: &mut bool, out: &mut Vec<u8>) {
    if !*first {
        out.push(b',');
    }
    *first = false;
}

/// Writes a JSON string.
pub(crate) fn write_text(text: &str, out: &mut Vec<u8>) {
    // Nearly all text needs no escape. Piece by piece without an early end, so that the compiler looks at many bytes at a time.
    let escaped = |byte: &u8| (*byte < 0x20) | (*byte == b'"') | (*byte == b'\\');
    let plain = |piece: &[u8]| !piece.iter().fold(false, |any, byte| any | escaped(byte));
    if text.as_bytes().chunks(64).all(plain) {
        out.push(b'"');
        out.extend_from_slice(text.as_bytes());
        out.push(b'"');
    } else {
        serde_json::to_writer(out, text).expect("writing into memory does not fail");
    }
}

/// Writes a number.
pub(crate) fn write_number(number: u64, out: &mut Vec<u8>) {
    serde_json::to_writer(out, &number).expect("writing into memory does not fail");
}

/// The error without its place, which is that of the line and not of the file.
fn sentence(error: &serde_json::Error) -> String {
    let message = error.to_string();
    let what = message.rsplit_once(" at line ").map_or(message.as_str(), |(what, _)| what);
    if error.column() > 0 { format!("{what} at column {}", error.column()) } else { what.to_owned() }
}

/// How many fields of an object are named.
const NAMED_FIELDS: usize = 6;

/// What is told of an object in the place of a text: its fields may be meant.
fn object_for_text(raw: &str, path: &str) -> String {
    let inside = Members::read(raw).map(|members| members.paths()).unwrap_or_default();
    let named: Vec<String> =
        inside.iter().take(NAMED_FIELDS).map(|field| format!("`{path}.{field}`")).collect();
    let hint = if named.is_empty() { String::new() } else { format!("; it has {}", named.join(", ")) };
    format!("`{path}` is an object, not a text{hint}")
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn told_at(members: &Members<'_>, path: &str) -> String {
        match members.find(path) {
            Found::Text(text) => text.into_owned(),
            Found::Missing => "missing".into(),
            Found::Broken(text, broken) => format!("{text} ({broken})"),
            Found::NoText(why) => why,
        }
    }

    #[test]
    fn values_are_found_by_path_and_kept_as_written() {
        let line = r#"{"id": 7, "ticket": {"body": "a\nb", "n": 1.50}, "a.b": true, "x": null}"#;
        let members = Members::read(line).expect("an object");
        let text = |path| told_at(&members, path);
        assert_eq!(text("ticket.body"), "a\nb");
        assert_eq!(text("ticket.n"), "1.50");
        assert_eq!(text("a.b"), "true");
        assert_eq!(text("x"), "");
        assert_eq!(text("ticket"), "`ticket` is an object, not a text; it has `ticket.body`, `ticket.n`");
        assert_eq!(text("ticket.author"), "missing");
        assert_eq!(members.paths(), ["id", "ticket.body", "ticket.n", "a.b", "x"]);
        let mut out = Vec::new();
        members.write_without(&["ticket.body"], &mut out);
        assert_eq!(String::from_utf8_lossy(&out), r#"{"id":7,"ticket":{"n":1.50},"a.b":true,"x":null}"#);
    }

    #[test]
    fn arrays_are_joined_and_halves_of_pairs_replaced() {
        let line = r#"{"body": ["a", "b", 3], "notes": [{"t": "x"}, {"u": 1}, {"t": "y"}], "half": "a\ud83dz", "deep": [[1]], "none": []}"#;
        let members = Members::read(line).expect("an object");
        let text = |path| told_at(&members, path);
        assert_eq!(text("body"), "a\nb\n3");
        assert_eq!(text("notes.t"), "x\ny");
        assert_eq!(text("notes.v"), "missing");
        assert_eq!(text("notes"), "`notes` is an array of objects; choose a field inside them");
        assert_eq!(text("half"), "a\u{fffd}\u{fffd}\u{fffd}z (3)");
        assert_eq!(text("deep"), "`deep` is an array of arrays, not of texts");
        assert_eq!(text("none"), "");
        assert_eq!(members.paths(), ["body", "notes.t", "notes.u", "half", "deep", "none"]);
    }

    #[test]
    fn texts_are_written_as_json_strings() {
        let long = "x".repeat(200);
        for text in ["", "tern", "a \"b\" \\c\n\u{1}\u{7f}é鳥", &long, &format!("{long}\"")] {
            let mut out = Vec::new();
            write_text(text, &mut out);
            assert_eq!(serde_json::from_slice::<String>(&out).expect("a string"), text);
        }
    }

    #[test]
    fn dots_may_be_parts_of_names() {
        let line = r#"{"a.b": {"c": 1, "d.e": {"f": 2}}, "g.h": [{"i": 3}, {"i": 4}], "x": {"y.z": 5}, "x.y": {"z": 6}}"#;
        let members = Members::read(line).expect("an object");
        for (path, text) in
            [("a.b.c", "1"), ("a.b.d.e.f", "2"), ("g.h.i", "3\n4"), ("x.y.z", "5"), ("a.b.d", "missing")]
        {
            assert_eq!(told_at(&members, path), text, "{path}");
        }
    }

    /// JSON as a naive reader has it.
    fn json() -> impl Strategy<Value = serde_json::Value> {
        let leaf = prop_oneof![
            Just(serde_json::Value::Null),
            any::<bool>().prop_map(serde_json::Value::from),
            any::<i32>().prop_map(serde_json::Value::from),
            "[a-zé\"\\\\\n 鳥]{0,6}".prop_map(serde_json::Value::from),
        ];
        leaf.prop_recursive(3, 24, 4, |inner| {
            prop_oneof![
                proptest::collection::vec(inner.clone(), 0..3).prop_map(serde_json::Value::from),
                proptest::collection::btree_map("[a-c.]{1,3}", inner, 0..4)
                    .prop_map(|members| serde_json::Value::Object(members.into_iter().collect())),
            ]
        })
    }

    proptest! {
        #[test]
        fn every_path_that_is_listed_leads_to_something(
            members in proptest::collection::btree_map("[a-d.é\"]{1,3}", json(), 0..5),
            pretty: bool,
        ) {
            let object = serde_json::Value::Object(members.into_iter().collect());
            let written = if pretty { format!("{object:#}") } else { object.to_string() };
            let read = Members::read(&written).expect("an object");
            for path in read.paths() {
                prop_assert!(!matches!(read.find(&path), Found::Missing), "{} in {}", path, written);
            }
            // Members come back as they are, in their order, and without those that are not wanted.
            let names: Vec<&str> = object.as_object().expect("an object").keys().map(String::as_str).collect();
            prop_assert_eq!(&read.names(), &names);
            let without = |paths: &[&str]| {
                let mut out = Vec::new();
                read.write_without(paths, &mut out);
                assert!(!out.contains(&b'\n'), "on one line");
                serde_json::from_slice::<serde_json::Value>(&out).expect("JSON")
            };
            prop_assert_eq!(&without(&[]), &object);
            for name in names {
                let mut rest = object.clone();
                rest.as_object_mut().expect("an object").remove(name);
                let left = without(&[name]);
                // Another member may hold what the path means as well.
                let left = left.as_object().expect("an object");
                prop_assert!(!left.contains_key(name));
                prop_assert_eq!(left.len(), rest.as_object().expect("an object").len());
            }
        }
    }

    #[test]
    fn nesting_without_end_is_survived() {
        let deep = format!("{}1{}", "{\"a\":".repeat(200_000), "}".repeat(200_000));
        let members = Members::read(&deep).expect("an object");
        assert_eq!(members.paths(), [""; 0]);
        assert!(matches!(members.find("a.a.a.b"), Found::Missing));
    }

    #[test]
    fn errors_name_the_column() {
        assert_eq!(
            Members::read("{\"a\": }").err().as_deref(),
            Some("not valid JSON: expected value at column 7")
        );
        assert_eq!(Members::read("[1]").err().as_deref(), Some("not an object"));
    }
}
