//! Small comparisons on the fields of a document: which documents are taken, and fields that are derived from others.

use std::fmt;

use regex::Regex;

use crate::record::value::number;

/// A comparison such as `rating <= 2`, `language = en`, `site ~ ^North`, `note` (filled) or `!note` (not filled).
#[derive(Clone, Debug)]
pub struct Condition {
    written: String,
    /// The path of the field.
    field: String,
    test: Test,
}

#[derive(Clone, Debug)]
enum Test {
    Filled(bool),
    Equal(bool, String),
    Order(Order, String),
    Match(bool, Regex),
}

#[derive(Clone, Copy, Debug)]
enum Order {
    Less,
    LessOrEqual,
    More,
    MoreOrEqual,
}

/// Longest first, so that `<=` is not read as `<`.
const OPERATORS: [&str; 10] = ["!=", "<=", ">=", "==", "!~", "=", "<", ">", "~", "≠"];

impl Condition {
    /// Reads a comparison.
    ///
    /// # Errors
    ///
    /// What is wrong with it, as a sentence.
    pub fn read(written: &str) -> Result<Condition, String> {
        let found = written.char_indices().find_map(|(at, _)| {
            OPERATORS.iter().find(|sign| written[at..].starts_with(**sign)).map(|sign| (at, *sign))
        });
        // `!note` begins with a sign of its own.
        let (field, test) = match found {
            None => match written.trim().strip_prefix('!') {
                Some(field) => (field.trim(), Test::Filled(false)),
                None => (written.trim(), Test::Filled(true)),
            },
            Some((at, sign)) => {
                let value = unquoted(written[at + sign.len()..].trim());
                let test = match sign {
                    "=" | "==" => Test::Equal(true, value),
                    "!=" | "≠" => Test::Equal(false, value),
                    "~" | "!~" => {
                        let pattern = Regex::new(&value).map_err(|why| {
                            format!("`{value}` is not a regular expression: {}", last_line(&why))
                        })?;
                        Test::Match(sign == "~", pattern)
                    }
                    _ if value.is_empty() => return Err(format!("`{written}` compares with nothing")),
                    "<" => Test::Order(Order::Less, value),
                    "<=" => Test::Order(Order::LessOrEqual, value),
                    ">" => Test::Order(Order::More, value),
                    _ => Test::Order(Order::MoreOrEqual, value),
                };
                (written[..at].trim(), test)
            }
        };
        if field.is_empty() {
            return Err(format!(
                "`{written}` names no field; a comparison looks like `rating <= 2`, `language = en` or `site ~ ^North`"
            ));
        }
        Ok(Condition { written: written.trim().to_owned(), field: unquoted(field), test })
    }

    /// The path of the field that it looks at.
    pub fn field(&self) -> &str {
        &self.field
    }

    /// Whether it holds for a document whose field has this value; none if the document has no such field. Numbers are compared
    /// as numbers where both sides are; a value that is no number is neither less nor more than one.
    pub(crate) fn holds(&self, value: Option<&str>) -> bool {
        let value = value.map(str::trim);
        match &self.test {
            Test::Filled(expected) => value.is_some_and(|value| !value.is_empty()) == *expected,
            Test::Equal(expected, other) => value.is_some_and(|value| same(value, other)) == *expected,
            Test::Match(expected, pattern) => value.is_some_and(|value| pattern.is_match(value)) == *expected,
            Test::Order(order, other) => value.is_some_and(|value| {
                let compared = match (number(value), number(other)) {
                    (Some(value), Some(other)) => value.partial_cmp(&other),
                    (None, Some(_)) => None,
                    _ if value.is_empty() => None,
                    _ => Some(value.cmp(other.as_str())),
                };
                compared.is_some_and(|compared| match order {
                    Order::Less => compared.is_lt(),
                    Order::LessOrEqual => compared.is_le(),
                    Order::More => compared.is_gt(),
                    Order::MoreOrEqual => compared.is_ge(),
                })
            }),
        }
    }
}

fn same(value: &str, other: &str) -> bool {
    value == other || number(value).zip(number(other)).is_some_and(|(value, other)| value == other)
}

fn unquoted(text: &str) -> String {
    let quoted = |sign: char| text.strip_prefix(sign).and_then(|text| text.strip_suffix(sign));
    quoted('"').or_else(|| quoted('\'')).unwrap_or(text).to_owned()
}

/// What is wrong with a pattern, without the drawing of the place.
fn last_line(error: &regex::Error) -> String {
    let told = error.to_string();
    told.lines().last().unwrap_or(&told).trim_start_matches("error: ").to_owned()
}

impl fmt::Display for Condition {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.written)
    }
}

impl PartialEq for Condition {
    fn eq(&self, other: &Condition) -> bool {
        self.written == other.written
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn comparisons_hold_or_do_not() {
        for (written, value, expected) in [
            ("rating <= 2", Some("2"), true),
            ("rating <= 2", Some("10"), false),
            ("rating <= 2", Some("2.0"), true),
            ("rating <= 2", Some("n/a"), false),
            ("rating<=2", Some(""), false),
            ("rating > 2", None, false),
            ("rating == 2", Some("2.0"), true),
            ("language = en", Some("en"), true),
            ("language != en", Some("en"), false),
            ("language != en", None, true),
            ("site = \"Gull Hide\"", Some("Gull Hide"), true),
            ("date >= 2031-05-01", Some("2031-05-04"), true),
            ("date >= 2031-05-01", Some("2031-04-30"), false),
            ("site ~ ^(North|Gull)", Some("North Spit"), true),
            ("site !~ ^North", Some("North Spit"), false),
            ("note", Some(" "), false),
            ("note", Some("x"), true),
            ("!note", None, true),
            ("'two words' = x", Some("x"), true),
        ] {
            let condition = Condition::read(written).expect(written);
            assert_eq!(condition.holds(value), expected, "{written} on {value:?}");
        }
    }

    #[test]
    fn mistakes_are_told() {
        for (written, told) in [
            ("<= 2", "`<= 2` names no field"),
            ("", "`` names no field"),
            ("rating <", "`rating <` compares with nothing"),
            ("site ~ (", "`(` is not a regular expression: unclosed group"),
        ] {
            let error = Condition::read(written).expect_err(written);
            assert!(error.starts_with(told), "{error}");
        }
    }
}
