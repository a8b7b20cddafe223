//! The values of keys, as TOML writes them.

use toml::de::{DeTable, DeValue};

use crate::kind::Kind;
use crate::language::{code_of_name, is_tag, language_names};
use crate::part_of_speech::Tag;
use crate::recipe::read::{Reader, Toml, did_you_mean, listed, nearest, what};
use crate::recipe::{CODES, FaultKind, SpareList};
use crate::step::{Condition, KeyFacts, ListReference, Shape, Value, Written};

/// A number, with a point or without.
fn decimal(value: &Toml<'_>) -> Option<f64> {
    match value.get_ref() {
        DeValue::Integer(number) => number.as_str().parse().ok(),
        DeValue::Float(number) => number.as_str().parse().ok(),
        _ => None,
    }
}

impl Reader<'_> {
    pub(super) fn setting(&mut self, key: &KeyFacts, value: &Toml<'_>) -> Option<Written> {
        Some(match key.shape {
            Shape::Pairs => Written::Pairs(self.references(value, key)?),
            Shape::Rows => Written::Rows(self.references(value, key)?),
            Shape::Lists => Written::Lists(self.references(value, key)?),
            Shape::File => Written::File(self.file(value, key)?),
            Shape::Dictionary { .. } => Written::Dictionary(self.file(value, key)?),
            _ => Written::Value(self.plain(value, key)?),
        })
    }

    pub(super) fn references(&mut self, value: &Toml<'_>, key: &KeyFacts) -> Option<Vec<ListReference>> {
        let items = self.array(value, key.name)?;
        Some(items.iter().filter_map(|item| self.reference(item, key)).collect())
    }

    pub(super) fn file(&mut self, value: &Toml<'_>, key: &KeyFacts) -> Option<ListReference> {
        let name = self.text(value, key.name)?;
        Some(ListReference { name, column: None, to: None, span: value.span() })
    }

    /// A value that names no file.
    pub(super) fn plain(&mut self, value: &Toml<'_>, key: &KeyFacts) -> Option<Value> {
        match key.shape {
            Shape::Whole { least, most } => {
                let whole = value.get_ref().as_integer().and_then(|digits| {
                    u64::from_str_radix(&digits.as_str().replace('_', ""), digits.radix()).ok()
                });
                let whole = whole.filter(|whole| (least..=most).contains(whole));
                if whole.is_none() {
                    self.wrong_type(value, key.name, &format!("a whole number from {least} to {most}"));
                }
                whole.map(Value::Whole)
            }
            Shape::OneOf(words) => self.choice(key.name, words, value).map(Value::Choice),
            Shape::SomeOf(words) => {
                let items = self.array(value, key.name)?;
                let chosen = items.iter().filter_map(|item| self.choice(key.name, words, item));
                Some(Value::Choices(chosen.collect()))
            }
            Shape::Truth => {
                let truth = value.get_ref().as_bool();
                if truth.is_none() {
                    self.wrong_type(value, key.name, "`true` or `false`");
                }
                truth.map(Value::Truth)
            }
            Shape::Text => self.text(value, key.name).map(Value::Text),
            Shape::Texts => self.texts(value, key.name).map(Value::Texts),
            Shape::Named => self.named(value, key.name).map(Value::Named),
            Shape::Fields => self.condition(value, key.name).map(Value::Fields),
            Shape::Share => {
                let share = decimal(value).filter(|share| (0.0..=1.0).contains(share));
                if share.is_none() {
                    self.wrong_type(value, key.name, "a number from 0 to 1, such as 0.5");
                }
                share.map(|share| Value::Share((share * 1e6).round() as u32))
            }
            Shape::Number => {
                let number = decimal(value).filter(|number| (0.0..=1e12).contains(number));
                if number.is_none() {
                    self.wrong_type(value, key.name, "a number from 0 up, such as 2.5");
                }
                number.map(|number| Value::Number((number * 1e6).round() as u64))
            }
            Shape::Pairs | Shape::Rows | Shape::Lists | Shape::File | Shape::Dictionary { .. } => None,
        }
    }

    pub(super) fn choice(
        &mut self,
        key: &str,
        words: &'static [&'static str],
        value: &Toml<'_>,
    ) -> Option<&'static str> {
        let Some(found) = value.get_ref().as_str() else {
            self.wrong_type(value, key, &format!("one of {}", listed(words)));
            return None;
        };
        let chosen = words.iter().copied().find(|word| word.eq_ignore_ascii_case(found));
        if chosen.is_none() {
            self.fault(
                FaultKind::WrongValue,
                value.span(),
                format!("wrong value for `{key}`"),
                format!("expected {}{}", if words.len() > 1 { "one of " } else { "" }, listed(words)),
                nearest(found, words.iter().copied()).map(|word| format!("did you mean `{word}`?")),
            );
        }
        chosen
    }

    pub(super) fn reference(&mut self, value: &Toml<'_>, key: &KeyFacts) -> Option<ListReference> {
        let span = value.span();
        if let Some(name) = value.get_ref().as_str() {
            return Some(ListReference { name: name.to_owned(), column: None, to: None, span });
        }
        let is_pairs = key.shape == Shape::Pairs;
        let (what, from) = match is_pairs {
            true => ("a file, or `{ file = \"…\", from = \"…\", to = \"…\" }`", "from"),
            false => ("the name of a list, a file, or `{ file = \"…\", column = \"…\" }`", "column"),
        };
        let Some(table) = value.get_ref().as_table() else {
            self.wrong_type(value, key.name, what);
            return None;
        };
        let (mut file, mut column, mut to) = (None, None, None);
        for (key, value) in table {
            match key.get_ref().as_ref() {
                "file" => file = self.text(value, "file"),
                name if name == from => column = self.text(value, from),
                "to" if is_pairs => to = self.text(value, "to"),
                other => self.fault(
                    FaultKind::UnknownKey,
                    key.span(),
                    format!("unknown key `{other}`"),
                    "a list has no such key",
                    did_you_mean(other, if is_pairs { &["file", "from", "to"] } else { &["file", "column"] }),
                ),
            }
        }
        if file.is_none() {
            self.fault(FaultKind::Missing, span.clone(), "`file` is missing", "a list without a file", None);
        }
        Some(ListReference { name: file?, column, to, span })
    }

    /// A table of texts by name.
    pub(super) fn named(&mut self, value: &Toml<'_>, key: &str) -> Option<Vec<(String, String)>> {
        let Some(table) = value.get_ref().as_table() else {
            self.wrong_type(value, key, "a table, such as `{ \"this\" = \"that\" }`");
            return None;
        };
        let mut entries: Vec<_> = table.iter().collect();
        entries.sort_by_key(|(name, _)| name.span().start);
        let texts = entries.into_iter().filter_map(|(name, value)| {
            Some((name.get_ref().to_string(), self.text(value, name.get_ref())?))
        });
        Some(texts.collect())
    }

    /// Codes of advice.
    pub(super) fn codes(&mut self, value: &Toml<'_>) -> Vec<String> {
        let items = self.array(value, "allow").unwrap_or_default();
        let mut codes = Vec::new();
        for item in items {
            let Some(code) = self.text(item, "allow") else { continue };
            let known: Vec<&str> = CODES.iter().map(|code| code.name).collect();
            if known.contains(&code.as_str()) {
                codes.push(code);
            } else {
                let help = did_you_mean(&code, &known);
                self.fault(
                    FaultKind::UnknownName,
                    item.span(),
                    format!("unknown code `{code}`"),
                    "`check` gives no such advice",
                    help,
                );
            }
        }
        codes
    }

    pub(super) fn text(&mut self, value: &Toml<'_>, key: &str) -> Option<String> {
        match value.get_ref().as_str() {
            Some(text) => Some(text.to_owned()),
            None => {
                self.wrong_type(value, key, "a text in quotes");
                None
            }
        }
    }

    pub(super) fn language(&mut self, value: &Toml<'_>) -> Option<String> {
        let language = self.text(value, "language")?;
        if !is_tag(&language) {
            self.fault(
                FaultKind::WrongValue,
                value.span(),
                "wrong value for `language`",
                "expected a language tag of two or three letters, such as `en` or `pt-BR`",
                code_of_name(&language)
                    .or_else(|| nearest(&language, language_names()).and_then(code_of_name))
                    .map(|code| format!("did you mean `{code}`?")),
            );
        }
        Some(language)
    }

    pub(super) fn array<'v>(&mut self, value: &'v Toml<'_>, key: &str) -> Option<Vec<&'v Toml<'v>>> {
        match value.get_ref().as_array() {
            Some(array) => Some(array.iter().collect()),
            None => {
                let help = value.get_ref().as_str().map(|text| format!("write `{key} = [\"{text}\"]`"));
                let label = format!("found {}, expected an array", what(value.get_ref()));
                self.fault(
                    FaultKind::WrongValue,
                    value.span(),
                    format!("wrong value for `{key}`"),
                    label,
                    help,
                );
                None
            }
        }
    }

    pub(super) fn texts(&mut self, value: &Toml<'_>, key: &str) -> Option<Vec<String>> {
        let items = self.array(value, key)?;
        Some(items.iter().filter_map(|item| self.text(item, key)).collect())
    }

    pub(super) fn spare(&mut self, value: &Toml<'_>) -> SpareList {
        let mut spare = SpareList::default();
        let Some(table) = value.get_ref().as_table() else {
            spare.words = self.texts(value, "spare").unwrap_or_default();
            self.refuse_empty(&spare.words, value);
            return spare;
        };
        for (key, value) in table {
            match key.get_ref().as_ref() {
                "words" => spare.words = self.texts(value, "words").unwrap_or_default(),
                "kinds" => {
                    let items = self.array(value, "kinds").unwrap_or_default();
                    spare.kinds =
                        items.iter().filter_map(|item| self.choice("kinds", Kind::NAMES, item)).collect();
                }
                "tags" => {
                    let items = self.array(value, "tags").unwrap_or_default();
                    spare.tags =
                        items.iter().filter_map(|item| self.choice("tags", Tag::NAMES, item)).collect();
                }
                "labels" => spare.labels = self.texts(value, "labels").unwrap_or_default(),
                "match" => spare.all = self.choice("match", &["any", "all"], value) == Some("all"),
                other => self.fault(
                    FaultKind::UnknownKey,
                    key.span(),
                    format!("unknown key `{other}`"),
                    "`spare` has no such key",
                    did_you_mean(other, &["words", "kinds", "tags", "labels", "match"]),
                ),
            }
        }
        self.refuse_empty(&spare.words, value);
        spare
    }

    pub(super) fn refuse_empty(&mut self, words: &[String], value: &Toml<'_>) {
        if words.iter().any(String::is_empty) {
            self.fault(
                FaultKind::WrongValue,
                value.span(),
                "wrong value for `spare`",
                "an empty word",
                Some("take it out".into()),
            );
        }
    }

    /// A condition: a table of fields and their values, or a text.
    pub(super) fn condition(&mut self, value: &Toml<'_>, key: &str) -> Option<Condition> {
        if let Some(written) = value.get_ref().as_str() {
            let read = Condition::read(written);
            if let Err(why) = &read {
                let help = "compare fields with values, such as `rating <= 2 and site in (spit, hide)`";
                self.fault(
                    FaultKind::WrongValue,
                    value.span(),
                    format!("wrong value for `{key}`"),
                    why.clone(),
                    Some(help.to_owned()),
                );
            }
            return read.ok();
        }
        let mut fields = Vec::new();
        match value.get_ref().as_table() {
            Some(table) if !table.is_empty() => self.fields(table, "", &mut fields),
            _ => self.fault(
                FaultKind::WrongValue,
                value.span(),
                format!("wrong value for `{key}`"),
                format!("found {}, expected a field and its value", what(value.get_ref())),
                Some(format!("write `{key} = {{ season = \"spring\" }}`, or `{key} = \"rating <= 2\"`")),
            ),
        }
        Some(Condition::of_values(fields))
    }

    fn fields(&mut self, table: &DeTable<'_>, prefix: &str, fields: &mut Vec<(String, Vec<String>)>) {
        for (key, value) in table {
            let path = format!("{prefix}{}", key.get_ref());
            if let Some(inner) = value.get_ref().as_table() {
                self.fields(inner, &format!("{path}."), fields);
                continue;
            }
            let items = match value.get_ref().as_array() {
                Some(array) => array.iter().collect(),
                None => vec![value],
            };
            let mut values = Vec::new();
            for item in items {
                match item.get_ref() {
                    DeValue::String(text) => values.push(text.to_string()),
                    DeValue::Integer(number) => values.push(number.as_str().to_owned()),
                    DeValue::Float(number) => values.push(number.as_str().to_owned()),
                    DeValue::Boolean(truth) => values.push(truth.to_string()),
                    _ => self.wrong_type(item, &path, "a text, a number, `true` or `false`"),
                }
            }
            fields.push((path, values));
        }
    }
}
