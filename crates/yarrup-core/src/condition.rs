//! Conditions on the fields of a document: which documents are taken, which steps work on them, which stay.

use std::borrow::Cow;
use std::fmt;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

use regex::Regex;

use crate::language::is_language;

/// A condition such as `rating <= 2`, `site ~ ^North and not (season in (spring, autumn) or note is empty)`.
///
/// A comparison is of a field, by its path, with a text or a number: `=`, `!=`, `<`, `<=`, `>`, `>=`, `~` and `!~` (a regular expression), `in (…)`,
/// `not in (…)`, `is empty`, `is not empty`; a field alone must hold something (`note`), and `!note` nothing. Comparisons are joined by `and`, `or`,
/// `not` and parentheses. Names and values with such words in them stand in quotes.
#[derive(Clone, Debug)]
pub struct Condition {
    written: String,
    test: Test,
    /// The fields that it asks for, each with whether some document had it.
    fields: Vec<(String, Arc<AtomicBool>)>,
    /// Whether some document was asked.
    asked: Arc<AtomicBool>,
}

#[derive(Clone, Debug)]
enum Test {
    All(Vec<Test>),
    Any(Vec<Test>),
    Not(Box<Test>),
    Field(String, Comparison),
}

#[derive(Clone, Debug)]
enum Comparison {
    Filled(bool),
    /// Whether it is one of these values.
    OneOf(bool, Vec<String>),
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

/// The path that stands for the language of a document.
pub(crate) const LANGUAGE: &str = "language";

/// Longest first, so that `<=` is not read as `<`.
const OPERATORS: [&str; 10] = ["!=", "<=", ">=", "==", "!~", "=", "<", ">", "~", "≠"];

impl Condition {
    /// Reads a condition.
    ///
    /// # Errors
    ///
    /// What is wrong with it, as a sentence.
    ///
    /// ```
    /// use yarrup_core::Condition;
    ///
    /// let condition = Condition::read("rating <= 2 and site in (spit, hide)").expect("a condition");
    /// let mut field = |path: &str| match path {
    ///     "rating" => Some("2".into()),
    ///     "site" => Some("hide".into()),
    ///     _ => None,
    /// };
    /// assert!(condition.holds(&mut field));
    /// ```
    pub fn read(written: &str) -> Result<Condition, String> {
        let written = written.trim();
        let mut reader = Reader { written, at: 0, depth: 0 };
        let test = reader.any()?;
        if !reader.rest().is_empty() {
            return Err(format!("`{written}` goes on where it should end: `{}`", reader.rest()));
        }
        Ok(Condition::of(written.to_owned(), test))
    }

    /// The condition that each of these fields has one of its values.
    pub fn of_values(fields: Vec<(String, Vec<String>)>) -> Condition {
        let quoted = |text: &String| format!("\"{}\"", text.replace('\\', "\\\\").replace('"', "\\\""));
        let written: Vec<String> = fields
            .iter()
            .map(|(path, values)| {
                let values: Vec<String> = values.iter().map(quoted).collect();
                format!("{} in ({})", quoted(path), values.join(", "))
            })
            .collect();
        let tests =
            fields.into_iter().map(|(path, values)| Test::Field(path, Comparison::OneOf(true, values)));
        Condition::of(written.join(" and "), Test::All(tests.collect()))
    }

    fn of(written: String, test: Test) -> Condition {
        let mut paths = Vec::new();
        test.each_field(&mut |path| {
            if !paths.iter().any(|known| known == path) {
                paths.push(path.to_owned());
            }
        });
        let fields = paths.into_iter().map(|path| (path, Arc::default())).collect();
        Condition { written, test, fields, asked: Arc::default() }
    }

    /// As it was written.
    pub fn written(&self) -> &str {
        &self.written
    }

    /// The fields that it asks for.
    pub fn fields(&self) -> impl Iterator<Item = &str> {
        self.fields.iter().map(|(path, _)| path.as_str())
    }

    /// The fields that it asks for and no document had, of those that it was asked of by now. None if there was no document.
    pub fn unseen_fields(&self) -> impl Iterator<Item = &str> {
        let asked = self.asked.load(Ordering::Relaxed);
        let unseen = self.fields.iter().filter(move |(_, seen)| asked && !seen.load(Ordering::Relaxed));
        unseen.map(|(path, _)| path.as_str())
    }

    /// Whether it holds for a document of which `field` tells the values; none for a field that it does not have. Numbers are compared as
    /// numbers where both sides are; a value that is no number is neither less nor more than one. A language is met by what it is one of: `en` by
    /// `en-GB`.
    pub fn holds<'f>(&self, field: &mut dyn FnMut(&str) -> Option<Cow<'f, str>>) -> bool {
        self.asked.store(true, Ordering::Relaxed);
        for (path, seen) in &self.fields {
            if !seen.load(Ordering::Relaxed) && field(path).is_some() {
                seen.store(true, Ordering::Relaxed);
            }
        }
        self.test.holds(field)
    }

    /// Whether no document can meet both: each asks for other values of one field.
    pub(crate) fn excludes(&self, other: &Condition) -> bool {
        self.test.needed().iter().any(|(path, values)| {
            let same = |a: &String, b: &String| same(a, b) || (*path == LANGUAGE && is_language(a, b));
            let others = other.test.needed();
            let theirs = others.iter().filter(|(other, _)| other == path);
            theirs.into_iter().any(|(_, others)| !values.iter().any(|a| others.iter().any(|b| same(a, b))))
        })
    }

    /// The one value that a field must have, if it must have one alone.
    pub(crate) fn only_value(&self, path: &str) -> Option<&String> {
        self.test.needed().into_iter().find(|(known, _)| *known == path).and_then(
            |(_, values)| match values {
                [one] => Some(one),
                _ => None,
            },
        )
    }
}

impl Test {
    fn each_field(&self, visit: &mut dyn FnMut(&str)) {
        match self {
            Test::All(tests) | Test::Any(tests) => tests.iter().for_each(|test| test.each_field(visit)),
            Test::Not(test) => test.each_field(visit),
            Test::Field(path, _) => visit(path),
        }
    }

    /// Fields that must have one of some values.
    fn needed(&self) -> Vec<(&str, &[String])> {
        match self {
            Test::All(tests) => tests.iter().flat_map(Test::needed).collect(),
            Test::Field(path, Comparison::OneOf(true, values)) => vec![(path, values)],
            _ => Vec::new(),
        }
    }

    fn holds<'f>(&self, field: &mut dyn FnMut(&str) -> Option<Cow<'f, str>>) -> bool {
        match self {
            Test::All(tests) => tests.iter().all(|test| test.holds(field)),
            Test::Any(tests) => tests.iter().any(|test| test.holds(field)),
            Test::Not(test) => !test.holds(field),
            Test::Field(path, comparison) => {
                let value = field(path);
                comparison.holds(path, value.as_deref().map(str::trim))
            }
        }
    }
}

impl Comparison {
    fn holds(&self, path: &str, value: Option<&str>) -> bool {
        match self {
            Comparison::Filled(expected) => value.is_some_and(|value| !value.is_empty()) == *expected,
            Comparison::OneOf(expected, others) => {
                let is = |value: &str, other: &String| {
                    same(value, other) || (path == LANGUAGE && is_language(value, other))
                };
                value.is_some_and(|value| others.iter().any(|other| is(value, other))) == *expected
            }
            Comparison::Match(expected, pattern) => {
                value.is_some_and(|value| pattern.is_match(value)) == *expected
            }
            Comparison::Order(order, other) => value.is_some_and(|value| {
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

/// The number that a text is, as JSON writes numbers: `007` is none.
fn number(text: &str) -> Option<f64> {
    let digits = text.strip_prefix('-').unwrap_or(text);
    let is_written = digits.starts_with(|c: char| c.is_ascii_digit())
        && !(digits.starts_with('0') && digits[1..].starts_with(|c: char| c.is_ascii_digit()))
        && digits
            .bytes()
            .all(|byte| byte.is_ascii_digit() || matches!(byte, b'.' | b'e' | b'E' | b'+' | b'-'));
    if is_written { text.parse().ok() } else { None }
}

/// Reads a condition from left to right.
struct Reader<'w> {
    written: &'w str,
    at: usize,
    /// How many parentheses and `not` are open.
    depth: usize,
}

/// How deep parentheses and `not` may lie in one another.
const DEEPEST: usize = 100;

impl<'w> Reader<'w> {
    fn rest(&mut self) -> &'w str {
        self.at = self.written.len() - self.written[self.at..].trim_start().len();
        &self.written[self.at..]
    }

    /// Takes a word, if it stands here as a word of its own.
    fn takes_word(&mut self, word: &str) -> bool {
        let rest = self.rest();
        let found = begins_with_word(rest, word);
        self.at += if found { word.len() } else { 0 };
        found
    }

    fn takes_sign(&mut self, sign: char) -> bool {
        let found = self.rest().starts_with(sign);
        self.at += if found { sign.len_utf8() } else { 0 };
        found
    }

    fn any(&mut self) -> Result<Test, String> {
        let mut tests = vec![self.all()?];
        while self.takes_word("or") {
            tests.push(self.all()?);
        }
        Ok(if tests.len() == 1 { tests.remove(0) } else { Test::Any(tests) })
    }

    fn all(&mut self) -> Result<Test, String> {
        let mut tests = vec![self.one()?];
        while self.takes_word("and") {
            tests.push(self.one()?);
        }
        Ok(if tests.len() == 1 { tests.remove(0) } else { Test::All(tests) })
    }

    fn one(&mut self) -> Result<Test, String> {
        self.depth += 1;
        if self.depth > DEEPEST {
            return Err(format!(
                "a condition has parentheses or `not` more than {DEEPEST} deep in one another"
            ));
        }
        let test = self.one_inside()?;
        self.depth -= 1;
        Ok(test)
    }

    fn one_inside(&mut self) -> Result<Test, String> {
        if self.takes_word("not") {
            return Ok(Test::Not(Box::new(self.one()?)));
        }
        if self.takes_sign('(') {
            let inner = self.any()?;
            if !self.takes_sign(')') {
                return Err(format!("`{}` lacks a `)`", self.written));
            }
            return Ok(inner);
        }
        let is_empty = self.rest().starts_with('!') && !self.rest().starts_with("!=") && self.takes_sign('!');
        let field = self.field()?;
        if is_empty {
            return Ok(Test::Field(field, Comparison::Filled(false)));
        }
        let comparison = self.comparison()?;
        Ok(Test::Field(field, comparison))
    }

    /// The path of a field: up to an operator, a word that joins, or the end.
    fn field(&mut self) -> Result<String, String> {
        let field = match self.quoted()? {
            Some(quoted) => quoted,
            None => {
                let rest = self.rest();
                let ends = |at: usize| {
                    let rest = &rest[at..];
                    OPERATORS.iter().any(|sign| rest.starts_with(sign))
                        || rest.starts_with(['(', ')', ','])
                        || (is_at_word(self.written, self.at + at)
                            && ["and", "or", "in", "is", "not"]
                                .iter()
                                .any(|word| begins_with_word(rest, word)))
                };
                let end = rest.char_indices().map(|(at, _)| at).find(|at| ends(*at)).unwrap_or(rest.len());
                self.at += end;
                rest[..end].trim().to_owned()
            }
        };
        if field.is_empty() {
            return Err(format!(
                "`{}` names no field; a comparison looks like `rating <= 2`, `language = en` or `site ~ ^North`",
                self.written
            ));
        }
        Ok(field)
    }

    fn comparison(&mut self) -> Result<Comparison, String> {
        if self.takes_word("is") {
            let expected = self.takes_word("not");
            return match self.takes_word("empty") {
                true => Ok(Comparison::Filled(expected)),
                false => Err(format!("`{}`: write `empty` or `not empty` after `is`", self.written)),
            };
        }
        let before = self.at;
        let expected = !self.takes_word("not");
        if self.takes_word("in") {
            return Ok(Comparison::OneOf(expected, self.values()?));
        }
        self.at = before;
        let rest = self.rest();
        let Some(sign) = OPERATORS.iter().find(|sign| rest.starts_with(**sign)) else {
            return Ok(Comparison::Filled(true));
        };
        self.at += sign.len();
        let value = self.value(false)?;
        Ok(match *sign {
            "=" | "==" => Comparison::OneOf(true, vec![value]),
            "!=" | "≠" => Comparison::OneOf(false, vec![value]),
            "~" | "!~" => {
                let pattern = Regex::new(&value)
                    .map_err(|why| format!("`{value}` is not a regular expression: {}", last_line(&why)))?;
                Comparison::Match(*sign == "~", pattern)
            }
            _ if value.is_empty() => return Err(format!("`{}` compares with nothing", self.written)),
            "<" => Comparison::Order(Order::Less, value),
            "<=" => Comparison::Order(Order::LessOrEqual, value),
            ">" => Comparison::Order(Order::More, value),
            _ => Comparison::Order(Order::MoreOrEqual, value),
        })
    }

    /// The values of `in (…)`.
    fn values(&mut self) -> Result<Vec<String>, String> {
        if !self.takes_sign('(') {
            return Err(format!(
                "`{}`: write values in parentheses after `in`, such as `(spring, autumn)`",
                self.written
            ));
        }
        let mut values = Vec::new();
        loop {
            values.push(self.value(true)?);
            if self.takes_sign(')') {
                return Ok(values);
            }
            if !self.takes_sign(',') {
                return Err(format!("`{}` lacks a `)`", self.written));
            }
        }
    }

    /// A value: in quotes, or up to a word that joins, a `)` that was not opened within, or in a list a comma.
    fn value(&mut self, in_list: bool) -> Result<String, String> {
        if let Some(quoted) = self.quoted()? {
            return Ok(quoted);
        }
        let rest = self.rest();
        let (mut open, mut end) = (0, rest.len());
        for (at, c) in rest.char_indices() {
            let joins = open == 0
                && is_at_word(self.written, self.at + at)
                && ["and", "or"].iter().any(|word| begins_with_word(&rest[at..], word));
            if joins || (open == 0 && (c == ')' || (in_list && c == ','))) {
                end = at;
                break;
            }
            match c {
                '(' => open += 1,
                ')' => open -= 1,
                _ => {}
            }
        }
        self.at += end;
        Ok(rest[..end].trim().to_owned())
    }

    fn quoted(&mut self) -> Result<Option<String>, String> {
        let rest = self.rest();
        let Some(sign) = rest.chars().next().filter(|c| matches!(c, '"' | '\'')) else { return Ok(None) };
        let mut text = String::new();
        let mut chars = rest.char_indices().skip(1);
        while let Some((at, c)) = chars.next() {
            match c {
                c if c == sign => {
                    self.at += at + 1;
                    return Ok(Some(text));
                }
                // Only the sign itself and the backslash can need one: patterns are full of others.
                '\\' => match chars.next() {
                    Some((_, next)) if next == sign || (next == '\\' && sign == '"') => text.push(next),
                    Some((_, next)) => text.extend(['\\', next]),
                    None => text.push('\\'),
                },
                c => text.push(c),
            }
        }
        Err(format!("`{}` has a {sign} that is not closed", self.written))
    }
}

/// Whether a word may begin at a place: white space or a parenthesis stands before it.
fn is_at_word(text: &str, at: usize) -> bool {
    at == 0 || text[..at].ends_with(|c: char| c.is_whitespace() || matches!(c, '(' | ')' | '"' | '\''))
}

fn begins_with_word(text: &str, word: &str) -> bool {
    let ends = |rest: &str| {
        rest.is_empty()
            || rest.starts_with(|c: char| c.is_whitespace() || matches!(c, '(' | ')' | '!' | '"' | '\''))
    };
    text.get(..word.len()).is_some_and(|found| found.eq_ignore_ascii_case(word)) && ends(&text[word.len()..])
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

impl Eq for Condition {}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// Whether a condition holds for a document of these fields.
    fn holds(written: &str, fields: &[(&str, &str)]) -> bool {
        let condition = Condition::read(written).unwrap_or_else(|why| panic!("{why}"));
        condition.holds(&mut |path| {
            fields.iter().find(|(name, _)| *name == path).map(|(_, value)| Cow::Owned((*value).to_owned()))
        })
    }

    #[test]
    fn comparisons_hold_or_do_not() {
        for (written, value, expected) in [
            ("rating <= 2", Some("2"), true),
            ("rating <= 2", Some("10"), false),
            ("rating <= 2", Some("2.0"), true),
            ("rating <= 2", Some("n/a"), false),
            ("rating<=2", Some(""), false),
            ("rating > 2", None, false),
            ("rating > 2", Some("2"), false),
            ("rating >= 2", Some("2"), true),
            ("rating < 2", Some("2"), false),
            ("rating == 2", Some("2.0"), true),
            ("rating = 2", Some("02"), false),
            ("language = en", Some("en-GB"), true),
            ("language = en-GB", Some("en-US"), false),
            ("language != en", Some("en"), false),
            ("language != en", None, true),
            ("site = \"Gull Hide\"", Some("Gull Hide"), true),
            ("site = Gull Hide", Some("Gull Hide"), true),
            ("date >= 2031-05-01", Some("2031-05-04"), true),
            ("date >= 2031-05-01", Some("2031-04-30"), false),
            ("site ~ ^(North|Gull)", Some("North Spit"), true),
            ("site !~ ^North", Some("North Spit"), false),
            ("note", Some(" "), false),
            ("note", Some("x"), true),
            ("!note", None, true),
            ("note is empty", Some(" "), true),
            ("note is not empty", Some("x"), true),
            ("note is not empty", None, false),
            ("'two words' = x", Some("x"), true),
            ("two words = x", Some("x"), true),
            ("site in (spit, 'Gull Hide', 7)", Some("Gull Hide"), true),
            ("site in (spit, 'Gull Hide', 7)", Some("7.0"), true),
            ("site not in (spit)", Some("hide"), true),
            ("site not in (spit)", None, true),
            ("SITE IN (x)", Some("x"), true),
            ("order = sandy", Some("sandy"), true),
            ("not a = b", Some("b"), false),
        ] {
            let name = Condition::read(written).expect(written).fields[0].0.clone();
            let fields: Vec<(&str, &str)> = value.iter().map(|value| (name.as_str(), *value)).collect();
            assert_eq!(holds(written, &fields), expected, "{written} on {value:?}");
        }
    }

    #[test]
    fn comparisons_are_joined() {
        let fields = [("a", "1"), ("b", "x y"), ("c", "")];
        for (written, expected) in [
            ("a = 1 and b = x y", true),
            ("a = 2 or b = \"x y\"", true),
            ("a = 2 and b = 'x y' or a = 1", true),
            ("a = 2 and (b = 'x y' or a = 1)", false),
            ("not (a = 1 and c)", true),
            ("not a = 2 and not c", true),
            ("(a in (1, 2)) and c is empty", true),
            ("b ~ ^x (y|z)$ and a=1", true),
            ("a AND b", true),
            ("a and !c", true),
            ("not not a", true),
        ] {
            assert_eq!(holds(written, &fields), expected, "{written}");
        }
    }

    /// A condition as it is written, and whether it holds for a document of the fields `a`, `b` and `c`, of which `c` is not there.
    #[derive(Clone, Debug)]
    struct Expected {
        written: String,
        holds: bool,
    }

    /// The fields of the document that conditions are tried on.
    const FIELDS: [(&str, &str); 2] = [("a", "x y"), ("b", "12")];

    fn comparison() -> impl Strategy<Value = Expected> {
        let field = prop_oneof![Just("a"), Just("b"), Just("c")];
        let value = prop_oneof![Just("x y"), Just("12"), Just("12.0"), Just("and"), Just("x"), Just("3")];
        (field, value, 0usize..10, 0usize..3).prop_map(|(field, value, sort, quotes)| {
            let found = FIELDS.iter().find(|(name, _)| *name == field).map(|(_, value)| *value);
            let number = |text: &str| text.parse::<f64>().ok();
            let same =
                |text: &str| text == value || number(text).is_some_and(|one| number(value) == Some(one));
            let order = |text: &str| match (number(text), number(value)) {
                (Some(one), Some(other)) => one.partial_cmp(&other),
                (None, Some(_)) => None,
                _ => Some(text.cmp(value)),
            };
            let is = |test: &dyn Fn(&str) -> bool| found.is_some_and(test);
            let quoted = match quotes {
                0 => format!("\"{value}\""),
                1 => format!("'{value}'"),
                _ if value == "and" => "'and'".to_owned(),
                _ => value.to_owned(),
            };
            let (written, holds) = match sort {
                0 => (format!("{field} = {quoted}"), is(&same)),
                1 => (format!("{field}!={quoted}"), !is(&same)),
                2 => (
                    format!("{field} < {quoted}"),
                    is(&|text| order(text).is_some_and(|order| order.is_lt())),
                ),
                3 => (
                    format!("{field} >={quoted}"),
                    is(&|text| order(text).is_some_and(|order| order.is_ge())),
                ),
                4 => (format!("{field} in (z, {quoted})"), is(&same)),
                5 => (format!("{field} NOT in ({quoted})"), !is(&same)),
                6 => (format!("{field} is empty"), found.is_none()),
                7 => (format!("{field} is not empty"), found.is_some()),
                8 => (format!("!{field}"), found.is_none()),
                _ => (format!("{field} ~ ^{}$", value.replace('.', "\\.")), is(&|text| text == value)),
            };
            Expected { written, holds }
        })
    }

    fn condition() -> impl Strategy<Value = Expected> {
        comparison().prop_recursive(5, 24, 3, |inner| {
            let several = || proptest::collection::vec(inner.clone(), 2..4);
            let joined = |all: &[Expected], word: &str| {
                let parts: Vec<String> = all.iter().map(|one| format!("({})", one.written)).collect();
                parts.join(word)
            };
            prop_oneof![
                several().prop_map(move |all| Expected {
                    written: joined(&all, " and "),
                    holds: all.iter().all(|one| one.holds),
                }),
                several().prop_map(move |all| Expected {
                    written: joined(&all, " OR "),
                    holds: all.iter().any(|one| one.holds),
                }),
                inner
                    .clone()
                    .prop_map(|one| Expected { written: format!("not({})", one.written), holds: !one.holds }),
            ]
        })
    }

    proptest! {
        #[test]
        fn conditions_hold_as_their_parts_do(expected in condition()) {
            prop_assert_eq!(holds(&expected.written, &FIELDS), expected.holds, "{}", expected.written);
        }

        #[test]
        fn any_values_are_written_so_that_they_are_read_again(
            path in "[a-c .\"'\\\\é]{1,5}",
            values in proptest::collection::vec("[a-c,()\"'\\\\ \né\u{301}]{0,6}", 1..4),
        ) {
            let of_values = Condition::of_values(vec![(path.clone(), values.clone())]);
            let read = Condition::read(of_values.written()).map_err(TestCaseError::fail)?;
            for value in values.iter().map(String::as_str).chain(["other"]) {
                for condition in [&of_values, &read] {
                    let holds = condition.holds(&mut |asked| (asked == path).then(|| value.to_owned().into()));
                    prop_assert_eq!(holds, values.iter().any(|known| known == value.trim()), "{}", read);
                }
            }
        }

        #[test]
        fn no_condition_breaks_the_reader(written in "[a-b()!<>=~\"'\\\\, ]{0,30}|(not |\\(|a and ){0,300}") {
            let _ = Condition::read(&written);
        }
    }

    #[test]
    fn mistakes_are_told() {
        let deep = format!("{}a{}", "(".repeat(100_000), ")".repeat(100_000));
        for deep in [deep, "not ".repeat(100_000)] {
            assert!(Condition::read(&deep).is_err_and(|why| why.contains("more than 100 deep")));
        }
        for (written, told) in [
            ("<= 2", "`<= 2` names no field"),
            ("", "`` names no field"),
            ("rating <", "`rating <` compares with nothing"),
            ("site ~ (", "`(` is not a regular expression: unclosed group"),
            ("(a = 1", "`(a = 1` lacks a `)`"),
            ("a = 1) b", "`a = 1) b` goes on where it should end: `) b`"),
            ("a in b", "`a in b`: write values in parentheses after `in`"),
            ("a in (b", "`a in (b` lacks a `)`"),
            ("a is full", "`a is full`: write `empty`"),
            ("a = 1 and", "`a = 1 and` names no field"),
            ("a = 'b", "`a = 'b` has a ' that is not closed"),
        ] {
            let error = Condition::read(written).expect_err(written);
            assert!(error.starts_with(told), "{error}");
        }
    }

    #[test]
    fn fields_that_no_document_had_are_known() {
        let condition = Condition::read("a = 1 or (b = 2 and c)").expect("a condition");
        assert_eq!(condition.unseen_fields().count(), 0);
        condition.holds(&mut |path| (path == "a" || path == "c").then(|| "1".into()));
        assert_eq!(condition.unseen_fields().collect::<Vec<_>>(), ["b"]);
        condition.holds(&mut |path| (path == "b").then(|| "".into()));
        assert_eq!(condition.unseen_fields().count(), 0);
    }

    #[test]
    fn what_excludes_what_is_told_by_the_values_that_are_needed() {
        let table = |path: &str, values: &[&str]| {
            Condition::of_values(vec![(
                path.to_owned(),
                values.iter().map(|one| (*one).to_owned()).collect(),
            )])
        };
        let read = |written: &str| Condition::read(written).expect("a condition");
        assert!(table("language", &["de"]).excludes(&read("language = en and site = x")));
        assert!(!table("language", &["en"]).excludes(&read("language in (en-GB, de)")));
        assert!(!read("site = x or a").excludes(&read("site = y")));
        assert!(!read("not site = x").excludes(&read("site = x")));
        assert_eq!(table("language", &["de"]).only_value("language").map(String::as_str), Some("de"));
        assert_eq!(table("language", &["de", "en"]).only_value("language"), None);
        let again = read(table("a b", &["it's", "x \"y\""]).written());
        assert!(again.holds(&mut |path| (path == "a b").then(|| "x \"y\"".into())));
    }
}
