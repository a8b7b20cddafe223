//! Numbers, and what is counted by them: money, percentages, measures.

use crate::kind::Kind;
use crate::kind::recognise::{begins_token, ends_token, is_hangul, is_word_character, stands_at, word_end};
use crate::unicode;

/// Whether this is a unit of measure.
fn is_unit(unit: &str) -> bool {
    matches!(
        unit,
        "km/h"
            | "kmh"
            | "km²"
            | "km2"
            | "km"
            | "cm²"
            | "cm"
            | "mm"
            | "m²"
            | "m³"
            | "m2"
            | "m3"
            | "m/s"
            | "µm"
            | "nm"
            | "mi"
            | "ft"
            | "yd"
            | "mph"
            | "kn"
            | "kt"
            | "kg"
            | "mg"
            | "µg"
            | "g"
            | "lb"
            | "lbs"
            | "oz"
            | "t"
            | "l"
            | "L"
            | "ml"
            | "mL"
            | "cl"
            | "dl"
            | "hl"
            | "ha"
            | "°C"
            | "°F"
            | "°"
            | "hPa"
            | "kPa"
            | "bar"
            | "mbar"
            | "kW"
            | "kWh"
            | "MW"
            | "MWh"
            | "W"
            | "V"
            | "kV"
            | "mA"
            | "A"
            | "Hz"
            | "kHz"
            | "MHz"
            | "GHz"
            | "dB"
            | "kB"
            | "KB"
            | "MB"
            | "GB"
            | "TB"
            | "kbit/s"
            | "Mbit/s"
            | "ms"
            | "s"
            | "sec"
            | "min"
            | "h"
            | "hrs"
            | "m"
            | "км/ч"
            | "км"
            | "см"
            | "мм"
            | "м"
            | "кг"
            | "г"
            | "л"
            | "мл"
    )
}

/// Whether this names money behind a number; in small letters.
fn is_money_name(word: &str) -> bool {
    matches!(
        word,
        "euro"
            | "euros"
            | "dollar"
            | "dollars"
            | "pound"
            | "pounds"
            | "cent"
            | "cents"
            | "pence"
            | "franc"
            | "francs"
            | "franken"
            | "yen"
            | "dólares"
            | "pesos"
            | "peso"
            | "kronor"
            | "kroner"
            | "korun"
            | "forint"
            | "lei"
            | "zł"
            | "złotych"
            | "kč"
            | "руб"
            | "рублей"
            | "рубля"
            | "грн"
            | "гривень"
            | "лв"
            | "лева"
    )
}

/// Money and units that stand right behind a number, and other words right behind them.
const WITHOUT_GAP: &[(&str, Kind)] = &[
    ("元", Kind::Money),
    ("万元", Kind::Money),
    ("萬元", Kind::Money),
    ("亿元", Kind::Money),
    ("億元", Kind::Money),
    ("美元", Kind::Money),
    ("欧元", Kind::Money),
    ("円", Kind::Money),
    ("万円", Kind::Money),
    ("億円", Kind::Money),
    ("ドル", Kind::Money),
    ("ユーロ", Kind::Money),
    ("원", Kind::Money),
    ("만원", Kind::Money),
    ("억원", Kind::Money),
    ("달러", Kind::Money),
    ("บาท", Kind::Money),
    ("公里", Kind::Measure),
    ("公斤", Kind::Measure),
    ("平方米", Kind::Measure),
    ("平方公里", Kind::Measure),
    ("キロ", Kind::Measure),
    ("キログラム", Kind::Measure),
    ("キロメートル", Kind::Measure),
    ("メートル", Kind::Measure),
    ("センチ", Kind::Measure),
];

/// Words that begin like one of them: elements, and principles.
const OTHER_WORDS: &[&str] = &["元素", "元件", "원칙", "원소", "원인"];

/// Money or a unit right behind a number.
fn without_gap(text: &str, from: usize) -> Option<(Kind, usize)> {
    if text.as_bytes().get(from).is_none_or(u8::is_ascii)
        || OTHER_WORDS.iter().any(|word| stands_at(text, from, word))
    {
        return None;
    }
    let found = WITHOUT_GAP.iter().filter(|(name, _)| stands_at(text, from, name));
    found.max_by_key(|(name, _)| name.len()).map(|(name, kind)| (*kind, from + name.len()))
}

/// Codes of money (ISO 4217) that are common in text.
const MONEY_CODES: &[&str] = &[
    "AUD", "BRL", "CAD", "CHF", "CNY", "CZK", "DKK", "EUR", "GBP", "HKD", "HUF", "INR", "JPY", "KRW", "MXN",
    "NOK", "NZD", "PLN", "RUB", "SEK", "SGD", "TRY", "USD", "ZAR",
];

/// What may follow an amount of money without a gap or behind one space: thousands and more.
const SCALES: &[&str] =
    &["million", "billion", "thousand", "mn", "bn", "m", "k", "M", "K", "B", "Mio.", "Mrd."];

fn is_separator(c: char) -> bool {
    // Arabic decimal and thousands separators, and the narrow and no-break spaces, stand beside the ASCII ones.
    matches!(c, '.' | ',' | '\'' | '\u{2019}' | '_' | '\u{66b}' | '\u{66c}' | '\u{202f}')
}

/// Where the number ends that begins at `at`, perhaps with a sign: digits with single separators between them.
pub(super) fn number_end(text: &str, at: usize) -> Option<usize> {
    let rest = &text[at..];
    let unsigned = rest.strip_prefix(['+', '-', '\u{2212}', '\u{b1}']).unwrap_or(rest);
    let unsigned = unsigned.strip_prefix('.').unwrap_or(unsigned);
    let start = text.len() - unsigned.len();
    let mut end = start;
    let mut chars = unsigned.char_indices().peekable();
    while let Some((offset, c)) = chars.next() {
        let digit = unicode::is_number(c);
        let mut separates =
            || is_separator(c) && end > start && chars.peek().is_some_and(|&(_, c)| unicode::is_number(c));
        if !(digit || separates()) {
            break;
        }
        if digit {
            end = start + offset + c.len_utf8();
        }
    }
    (end > start).then_some(end)
}

fn behind_gap(text: &str, at: usize) -> Option<usize> {
    [" ", "\u{a0}", "\u{202f}"].iter().find(|gap| text[at..].starts_with(**gap)).map(|gap| at + gap.len())
}

fn one_of(text: &str, at: usize, names: &[&str]) -> Option<usize> {
    let ended = |name: &&&str| stands_at(text, at, name) && ends_token(text, at + name.len());
    names.iter().filter(ended).map(|name| at + name.len()).max()
}

/// The longest name or unit that may follow a number, in bytes.
const LONGEST_NAME: usize = 20;

/// Where the unit ends that begins at `from`: with what stands behind a stroke, or without.
fn unit_end(text: &str, from: usize) -> Option<usize> {
    let inside = |c: char| is_word_character(c) || matches!(c, '/' | '°' | '²' | '³');
    let rest = &text[from..];
    let mut end = 0;
    for c in rest.chars().take_while(|&c| inside(c)) {
        end += c.len_utf8();
        if end > LONGEST_NAME {
            return None;
        }
    }
    let whole = &rest[..end];
    if is_unit(whole) {
        return Some(from + end);
    }
    let before = whole.split('/').next().unwrap_or_default();
    (before.len() < end && is_unit(before)).then_some(from + before.len())
}

/// A word behind a number that says what is counted: money, or hundredths.
fn named(text: &str, from: usize) -> Option<(Kind, usize)> {
    let end = word_end(text, from);
    let word = &text[from..end];
    if word.is_empty() || word.len() > LONGEST_NAME {
        return None;
    }
    if MONEY_CODES.contains(&word) {
        return Some((Kind::Money, end));
    }
    let lower = word.to_lowercase();
    if is_money_name(&lower) {
        return Some((Kind::Money, end));
    }
    let then = |second: &str| {
        let next = behind_gap(text, end)?;
        let last = word_end(text, next);
        text[next..last].eq_ignore_ascii_case(second).then_some((Kind::Percentage, last))
    };
    match lower.as_str() {
        "percent" | "prozent" | "procent" | "prosent" | "prosenttia" | "процент" | "процента"
        | "процентов" | "відсоток" | "відсотки" | "відсотків" => {
            Some((Kind::Percentage, end))
        }
        "per" => then("cent").or_else(|| then("cento")),
        "pour" => then("cent"),
        "por" => then("ciento").or_else(|| then("cento")),
        _ => None,
    }
}

/// A scale behind an amount: `3m`, `3 million`.
fn scaled(text: &str, end: usize) -> usize {
    let gap = behind_gap(text, end);
    let near = one_of(text, end, SCALES);
    let far = gap.and_then(|from| one_of(text, from, &SCALES[..3]));
    near.or(far).unwrap_or(end)
}

/// `$5`, `€ 5.50`, `£3m`.
pub(super) fn beginning_with_currency(text: &str, at: usize) -> Option<(Kind, usize)> {
    let sign = text[at..].chars().next()?;
    let mut from = at + sign.len_utf8();
    from = behind_gap(text, from).unwrap_or(from);
    if text[from..].starts_with(['.', '+']) {
        return None;
    }
    let end = number_end(text, from)?;
    let end = scaled(text, end);
    ends_token(text, end).then_some((Kind::Money, end))
}

/// `US$5`, `EUR 5`.
pub(super) fn beginning_with_code(text: &str, at: usize, run: usize) -> Option<(Kind, usize)> {
    if run - at > 3 || !begins_token(text, at) {
        return None;
    }
    let code = &text[at..run];
    let sign = text[run..].chars().next()?;
    if matches!(code, "US" | "A" | "C" | "NZ" | "HK" | "S" | "R") && unicode::is_currency(sign) {
        return beginning_with_currency(text, run);
    }
    if !MONEY_CODES.contains(&code) {
        return None;
    }
    let from = behind_gap(text, run)?;
    if !text[from..].starts_with(|c: char| c.is_ascii_digit()) {
        return None;
    }
    let end = scaled(text, number_end(text, from)?);
    ends_token(text, end).then_some((Kind::Money, end))
}

/// A number with what is counted by it.
pub(super) fn beginning_with_number(text: &str, at: usize) -> Option<(Kind, usize)> {
    if text.as_bytes()[at] == b'(' || !begins_token(text, at) {
        return None;
    }
    let end = number_end(text, at)?;
    let gap = behind_gap(text, end);
    for from in [Some(end), gap].into_iter().flatten() {
        let rest = &text[from..];
        let near = from == end;
        if rest.starts_with(['%', '‰', '٪', '％']) {
            let sign = rest.chars().next().map_or(0, char::len_utf8);
            return Some((Kind::Percentage, from + sign));
        }
        let currency = rest.chars().next().filter(|&c| unicode::is_currency(c));
        // `5 $6` are two things: a sign behind a gap must end there.
        if let Some(sign) = currency {
            let after = from + sign.len_utf8();
            let another = text[after..].starts_with(|c: char| c.is_ascii_digit());
            if ends_token(text, after) && !another {
                return Some((Kind::Money, after));
            }
        }
        if near {
            let after = scaled(text, end);
            if after > end && text[after..].starts_with(['€', '$', '£']) {
                return text[after..].chars().next().map(|c| (Kind::Money, after + c.len_utf8()));
            }
            if let Some(found) = without_gap(text, end) {
                return Some(found);
            }
        } else if let Some(named) = named(text, from) {
            return Some(named);
        }
        if let Some(end) = unit_end(text, from) {
            // `in` is a word wherever it stands alone; so is `A`, and `s` behind a year is a decade.
            let unit = &text[from..end];
            let word = if near { matches!(unit, "s" | "t" | "A") } else { matches!(unit, "A" | "t" | "bar") };
            if !word {
                return Some((Kind::Measure, end));
            }
        }
    }
    // Korean writes figures and what they count as one word.
    let in_word = text[end..].chars().next().is_some_and(is_hangul);
    (ends_token(text, end) && !in_word).then_some((Kind::Number, end))
}
