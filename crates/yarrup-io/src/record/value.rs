//! Types of fields.

use std::borrow::Cow;

/// What the values of a field are.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum FieldType {
    /// Any text.
    Text,
    /// A whole number.
    Whole,
    /// A number.
    Number,
    /// True or false.
    Truth,
    /// A date, with or without a time of day, as ISO 8601 writes it: `2031-05-04`, `2031-05-04T06:30:00Z`.
    Date,
}

impl FieldType {
    /// The types, with the names by which collection files know them.
    pub const NAMES: [(&'static str, FieldType); 5] = [
        ("text", FieldType::Text),
        ("whole", FieldType::Whole),
        ("number", FieldType::Number),
        ("truth", FieldType::Truth),
        ("date", FieldType::Date),
    ];

    /// The type of a written value. A number with zeros in front, such as a postcode, is a text.
    pub fn of(text: &str) -> FieldType {
        match number_parts(text) {
            Some((true, digits)) if digits <= 18 => FieldType::Whole,
            Some((false, _)) => FieldType::Number,
            // Longer than any count: an account or a code, whose digits must not be rounded.
            Some(_) => FieldType::Text,
            None if truth(text).is_some() => FieldType::Truth,
            None if is_date(text) => FieldType::Date,
            None => FieldType::Text,
        }
    }

    /// The type that values of both types fit.
    pub fn and(self, other: FieldType) -> FieldType {
        match (self, other) {
            _ if self == other => self,
            (FieldType::Whole, FieldType::Number) | (FieldType::Number, FieldType::Whole) => {
                FieldType::Number
            }
            _ => FieldType::Text,
        }
    }

    /// Whether a value of type `other` may stand in a field of this type.
    pub(crate) fn takes(self, other: FieldType) -> bool {
        self == other || (self == FieldType::Number && other == FieldType::Whole)
    }

    /// The name by which collection files know it.
    pub fn name(self) -> &'static str {
        Self::NAMES.iter().find(|(_, known)| *known == self).map_or("", |(name, _)| name)
    }

    /// The name as people read it.
    pub fn words(self) -> &'static str {
        match self {
            FieldType::Whole => "whole number",
            other => other.name(),
        }
    }

    /// A written value as JSON: a number or a truth if the field is of that type and the value fits, else none, for a
    /// string.
    pub(crate) fn json(self, text: &str) -> Option<Cow<'_, str>> {
        if matches!(self, FieldType::Text | FieldType::Date) {
            return None;
        }
        let text = text.trim();
        if text.is_empty() {
            return Some("null".into());
        }
        match self {
            FieldType::Truth => truth(text).map(|truth| if truth { "true".into() } else { "false".into() }),
            _ => self.takes(FieldType::of(text)).then_some(Cow::Borrowed(text)),
        }
    }
}

/// Whether a text is a number as JSON writes it: whether a whole one, and of how many digits.
fn number_parts(text: &str) -> Option<(bool, usize)> {
    let digits = |text: &str| text.bytes().take_while(u8::is_ascii_digit).count();
    let text = text.strip_prefix('-').unwrap_or(text);
    let whole = digits(text);
    if whole == 0 || (whole > 1 && text.starts_with('0')) {
        return None;
    }
    let mut rest = &text[whole..];
    if rest.is_empty() {
        return Some((true, whole));
    }
    if let Some(fraction) = rest.strip_prefix('.') {
        let count = digits(fraction);
        if count == 0 {
            return None;
        }
        rest = &fraction[count..];
    }
    if let Some(exponent) = rest.strip_prefix(['e', 'E']) {
        let exponent = exponent.strip_prefix(['+', '-']).unwrap_or(exponent);
        let count = digits(exponent);
        if count == 0 || count > 3 {
            return None;
        }
        rest = &exponent[count..];
    }
    rest.is_empty().then_some((false, whole))
}

fn truth(text: &str) -> Option<bool> {
    match text {
        "true" | "True" | "TRUE" => Some(true),
        "false" | "False" | "FALSE" => Some(false),
        _ => None,
    }
}

/// Whether a text is a date as ISO 8601 writes it, with or without a time.
pub(crate) fn is_date(text: &str) -> bool {
    let Some((date, time)) = text.split_at_checked(10) else { return false };
    let number = |from: usize, to: usize| date.get(from..to).and_then(|part| part.parse::<u32>().ok());
    let shape = date.bytes().enumerate().all(|(at, byte)| match at {
        4 | 7 => byte == b'-',
        _ => byte.is_ascii_digit(),
    });
    shape
        && number(5, 7).is_some_and(|month| (1..=12).contains(&month))
        && number(8, 10).is_some_and(|day| (1..=31).contains(&day))
        && (time.is_empty() || is_time(time))
}

/// `T06:30`, ` 06:30:00`, `T06:30:00.123Z`, `T06:30:00+02:00`.
fn is_time(text: &str) -> bool {
    let Some(text) = text.strip_prefix(['T', ' ']) else { return false };
    let (hours, zone) = match text.find(['Z', '+', '-', ' ']) {
        Some(at) => text.split_at(at),
        None => (text, ""),
    };
    let mut parts = hours.split(':');
    let two = |part: Option<&str>| {
        part.is_some_and(|part| part.len() == 2 && part.bytes().all(|byte| byte.is_ascii_digit()))
    };
    let seconds = |part: &str| {
        let (whole, fraction) = part.split_once('.').unwrap_or((part, "0"));
        two(Some(whole)) && fraction.bytes().all(|byte| byte.is_ascii_digit())
    };
    let clock =
        two(parts.next()) && two(parts.next()) && parts.next().is_none_or(seconds) && parts.next().is_none();
    let zone = zone.trim_start();
    let offset = || {
        let digits: String = zone.chars().skip(1).filter(|c| *c != ':').collect();
        matches!(digits.len(), 2 | 4) && digits.bytes().all(|byte| byte.is_ascii_digit())
    };
    clock && (zone.is_empty() || matches!(zone, "Z" | "UTC") || offset())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn values_have_types() {
        for (text, expected) in [
            ("5", FieldType::Whole),
            ("-12", FieldType::Whole),
            ("0", FieldType::Whole),
            ("007", FieldType::Text),
            ("1234567890123456789", FieldType::Text),
            ("4.50", FieldType::Number),
            ("1e5", FieldType::Number),
            (".5", FieldType::Text),
            ("1.", FieldType::Text),
            ("1,5", FieldType::Text),
            ("True", FieldType::Truth),
            ("yes", FieldType::Text),
            ("2031-05-04", FieldType::Date),
            ("2031-05-04T06:30:00Z", FieldType::Date),
            ("2031-05-04 06:30", FieldType::Date),
            ("2031-05-04T06:30:00.25+02:00", FieldType::Date),
            ("2031-13-04", FieldType::Text),
            ("2031-05-04 or so", FieldType::Text),
            ("", FieldType::Text),
            ("été-2031-1", FieldType::Text),
        ] {
            assert_eq!(FieldType::of(text), expected, "{text}");
        }
    }

    #[test]
    fn a_value_that_does_not_fit_stays_a_text() {
        assert_eq!(FieldType::Whole.json("5").as_deref(), Some("5"));
        assert_eq!(FieldType::Whole.json("five"), None);
        assert_eq!(FieldType::Number.json("5").as_deref(), Some("5"));
        assert_eq!(FieldType::Truth.json("TRUE").as_deref(), Some("true"));
        assert_eq!(FieldType::Whole.json("").as_deref(), Some("null"));
        assert_eq!(FieldType::Text.json("5"), None);
    }
}
