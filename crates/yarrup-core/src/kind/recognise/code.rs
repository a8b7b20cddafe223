//! Codes that name things: versions, books, devices, records; and places on the map.

use crate::kind::Kind;
use crate::kind::recognise::{begins_token, ends_token};

fn digits(bytes: &[u8], at: usize) -> usize {
    bytes.iter().skip(at).take_while(|byte| byte.is_ascii_digit()).count()
}

/// An identifier of 128 bits (RFC 9562): 8, 4, 4, 4 and 12 hexadecimal digits.
pub(super) fn uuid(text: &str, at: usize) -> Option<(Kind, usize)> {
    let written = text.as_bytes().get(at..at + 36)?;
    let is_one = written.iter().enumerate().all(|(place, byte)| match place {
        8 | 13 | 18 | 23 => *byte == b'-',
        _ => byte.is_ascii_hexdigit(),
    });
    let stands_alone = is_one && begins_token(text, at) && ends_token(text, at + 36);
    (stands_alone && text.as_bytes().get(at + 36) != Some(&b'-')).then_some((Kind::Uuid, at + 36))
}

/// The address of a device in a network (IEEE 802): six pairs of hexadecimal digits, with colons or hyphens between them.
pub(super) fn mac(text: &str, at: usize) -> Option<(Kind, usize)> {
    let bytes = text.as_bytes();
    let written = bytes.get(at..at + 17)?;
    let sign = written[2];
    let is_one = matches!(sign, b':' | b'-')
        && written.iter().enumerate().all(|(place, byte)| match place % 3 {
            2 => *byte == sign,
            _ => byte.is_ascii_hexdigit(),
        })
        // Words of two letters look the same but for the digits.
        && written.iter().any(u8::is_ascii_digit);
    let another = bytes.get(at + 17) == Some(&sign) && bytes.get(at + 18).is_some_and(u8::is_ascii_hexdigit);
    let goes_on = another || (at > 0 && bytes[at - 1] == sign);
    (is_one && !goes_on && begins_token(text, at) && ends_token(text, at + 17))
        .then_some((Kind::Mac, at + 17))
}

/// The most parts of a version's number, and the most digits of a part.
const MOST_PARTS: usize = 5;
const MOST_DIGITS: usize = 4;

/// The number of a version: `v1.2`, or three to five numbers with points, `1.4.2`; with what semantic versioning adds, `2.0.1-rc.1+build5`.
/// Groups of thousands, `1.234.567`, are a number.
pub(super) fn version(text: &str, at: usize) -> Option<(Kind, usize)> {
    let bytes = text.as_bytes();
    let named = matches!(bytes[at], b'v' | b'V');
    if !begins_token(text, at) || (at > 0 && matches!(bytes[at - 1], b'.' | b'-' | b'/' | b',')) {
        return None;
    }
    let (mut end, mut parts, mut is_thousands) = (at + usize::from(named), 0, !named);
    loop {
        let length = digits(bytes, end);
        if !(1..=MOST_DIGITS).contains(&length) || parts == MOST_PARTS {
            return None;
        }
        is_thousands &= parts == 0 || length == 3;
        end += length;
        parts += 1;
        if bytes.get(end) != Some(&b'.') || !bytes.get(end + 1).is_some_and(u8::is_ascii_digit) {
            break;
        }
        end += 1;
    }
    if parts < if named { 2 } else { 3 } || is_thousands {
        return None;
    }
    for sign in [b'-', b'+'] {
        end = addition(bytes, end, sign);
    }
    ends_token(text, end).then_some((Kind::Version, end))
}

/// The beginnings of what is added to the number of a version before its time.
const EARLY: [&[u8]; 6] = [b"alpha", b"beta", b"rc", b"pre", b"dev", b"snapshot"];

/// Where what is added to the number of a version behind `sign` ends; where the number does, if nothing is.
fn addition(bytes: &[u8], end: usize, sign: u8) -> usize {
    let Some(rest) = bytes.get(end + 1..).filter(|_| bytes[end] == sign) else { return end };
    let is_early =
        |name: &&[u8]| rest.get(..name.len()).is_some_and(|start| start.eq_ignore_ascii_case(name));
    // Behind a hyphen words go on as they do behind any number: `1.2.3-like`.
    if sign == b'-' && !EARLY.iter().any(is_early) && !rest.first().is_some_and(u8::is_ascii_digit) {
        return end;
    }
    let length = rest.iter().take_while(|byte| byte.is_ascii_alphanumeric() || **byte == b'.').count();
    let kept = rest[..length].iter().rposition(|byte| *byte != b'.').map_or(0, |last| last + 1);
    if kept == 0 { end } else { end + 1 + kept }
}

/// The number of a book (ISO 2108): thirteen digits that begin with 978 or 979; or, behind the word `ISBN`, ten as well. With a valid check digit,
/// in groups or not. The word belongs to it.
pub(super) fn isbn(text: &str, at: usize) -> Option<(Kind, usize)> {
    if !begins_token(text, at) {
        return None;
    }
    let rest = &text[at..];
    let named = ["ISBN-13", "ISBN-10", "ISBN"].iter().find_map(|name| rest.strip_prefix(name));
    let number = match named {
        Some(behind) => behind.strip_prefix(':').unwrap_or(behind).strip_prefix([' ', '\u{a0}'])?,
        None => rest,
    };
    let start = text.len() - number.len();
    let (mut values, mut count, mut end) = ([0u32; 13], 0, start);
    for (place, byte) in number.bytes().enumerate() {
        let value = match byte {
            b'0'..=b'9' => u32::from(byte - b'0'),
            b'X' if count == 9 => 10,
            b'-' | b' ' if place > 0 && number.as_bytes()[place - 1].is_ascii_digit() => continue,
            _ => break,
        };
        if count == 13 {
            return None;
        }
        (values[count], count, end) = (value, count + 1, start + place + 1);
    }
    let sum = |weight: &dyn Fn(u32) -> u32| {
        (0..).zip(&values).map(|(place, value)| weight(place) * value).sum::<u32>()
    };
    let is_valid = match count {
        13 => {
            let prefix = values[0] * 100 + values[1] * 10 + values[2];
            matches!(prefix, 978 | 979) && sum(&|place| 1 + 2 * (place % 2)).is_multiple_of(10)
        }
        10 => named.is_some() && sum(&|place| 10u32.saturating_sub(place)).is_multiple_of(11),
        _ => false,
    };
    (is_valid && ends_token(text, end)).then_some((Kind::Isbn, end))
}

/// A place on the map: latitude and longitude as two numbers with four decimals or more (`52.9876, 1.2345`), or in degrees, minutes and seconds with the
/// letters of the directions (`52°58′30″N 1°14′04″E`).
pub(super) fn coordinates(text: &str, at: usize) -> Option<(Kind, usize)> {
    // A number of a list is none.
    let before = text.as_bytes()[..at].trim_ascii_end();
    let in_list = before.strip_suffix(b",").and_then(<[u8]>::last).is_some_and(u8::is_ascii_digit);
    if in_list || text[..at].ends_with('.') || !begins_token(text, at) {
        return None;
    }
    let between = |end: usize| {
        let rest = text[end..].strip_prefix(',').unwrap_or(&text[end..]);
        let gapless = rest.len() < text.len() - end;
        let start = rest.strip_prefix([' ', '\u{a0}']);
        start.or(gapless.then_some(rest)).map(|rest| text.len() - rest.len())
    };
    if let Some(end) = degrees(text, at, ['N', 'S']) {
        let second = between(end).unwrap_or(end);
        return degrees(text, second, ['E', 'W']).map(|end| (Kind::Coordinates, end));
    }
    let (end, latitude) = decimals(text, at)?;
    // A space alone is between numbers of any sort.
    let second = between(end).filter(|_| text[end..].starts_with(','))?;
    let (end, longitude) = decimals(text, second)?;
    // A list of numbers goes on.
    let goes_on =
        text[end..].trim_start_matches([',', ' ']).starts_with(|c: char| c.is_ascii_digit() || c == '-');
    (latitude.abs() <= 90.0 && longitude.abs() <= 180.0 && !goes_on).then_some((Kind::Coordinates, end))
}

/// A number with four decimals or more: where it ends, and what it is.
fn decimals(text: &str, at: usize) -> Option<(usize, f64)> {
    let bytes = text.as_bytes();
    let start = at + usize::from(matches!(bytes.get(at), Some(b'-' | b'+')));
    let whole = digits(bytes, start);
    let point = start + whole;
    let decimals = digits(bytes, point + 1);
    let end = point + 1 + decimals;
    let is_one = (1..=3).contains(&whole) && bytes.get(point) == Some(&b'.') && (4..=12).contains(&decimals);
    (is_one && ends_token(text, end)).then_some(())?;
    Some((end, text[at..end].parse().ok()?))
}

/// Degrees, perhaps with minutes and seconds, and one of these letters: where they end.
fn degrees(text: &str, at: usize, letters: [char; 2]) -> Option<usize> {
    let mut rest = text.get(at..)?;
    for (signs, longest) in [(&["°"][..], 3), (&["′", "'", "’"], 2), (&["″", "\"", "”", "''"], 2)] {
        let length = digits(rest.as_bytes(), 0);
        if length == 0 && !signs.contains(&"°") {
            break;
        }
        if !(1..=longest).contains(&length) {
            return None;
        }
        rest = &rest[length..];
        // The last of them may have decimals.
        if let Some(fraction) = rest.strip_prefix('.') {
            rest = &fraction[digits(fraction.as_bytes(), 0)..];
        }
        rest = signs.iter().find_map(|sign| rest.strip_prefix(sign))?;
        rest = rest
            .strip_prefix([' ', '\u{a0}'])
            .filter(|rest| rest.starts_with(|c: char| c.is_ascii_digit() || letters.contains(&c)))
            .unwrap_or(rest);
    }
    let end = text.len() - rest.strip_prefix(letters)?.len();
    ends_token(text, end).then_some(end)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::kind::recognise;

    /// What is found of a kind in a text.
    fn found(text: &str, wanted: Kind) -> Vec<&str> {
        let mut all = Vec::new();
        recognise(text, |kind, range| {
            if kind == wanted {
                all.push(&text[range]);
            }
        });
        all
    }

    /// Texts that hold none but the code that is given with each, in a sentence and in brackets too.
    fn check(kind: Kind, codes: &[&str], others: &[&str]) {
        for code in codes {
            for text in [(*code).to_owned(), format!("See {code}, or ({code}) and \u{201c}{code}\u{201d}.")] {
                assert!(
                    found(&text, kind).iter().all(|one| one == code) && !found(&text, kind).is_empty(),
                    "{text}: {:?}",
                    found(&text, kind)
                );
            }
        }
        for other in others {
            assert_eq!(found(other, kind), [""; 0], "{other}");
        }
    }

    #[test]
    fn uuids_of_rfc_9562_are_found() {
        check(
            Kind::Uuid,
            &[
                "f81d4fae-7dec-11d0-a765-00a0c91e6bf6",
                "00000000-0000-0000-0000-000000000000",
                "FFFFFFFF-FFFF-FFFF-FFFF-FFFFFFFFFFFF",
                "ffffffff-ffff-ffff-ffff-ffffffffffff",
                "919108f7-52d1-4320-9bac-f847db4148a8",
            ],
            &[
                "f81d4fae-7dec-11d0-a765-00a0c91e6bf",
                "f81d4fae-7dec-11d0-a765-00a0c91e6bf6-1",
                "g81d4fae-7dec-11d0-a765-00a0c91e6bf6",
                "xf81d4fae-7dec-11d0-a765-00a0c91e6bf6",
                "f81d4fae_7dec_11d0_a765_00a0c91e6bf6",
            ],
        );
    }

    #[test]
    fn addresses_of_devices_have_six_pairs_and_one_sign() {
        check(
            Kind::Mac,
            &["00:00:5e:00:53:af", "00-00-5E-00-53-00"],
            &[
                "00:00:5e:00:53",
                "00:00:5e:00:53:af:01",
                "00-00:5e-00:53-00",
                "00:00:5g:00:53:af",
                "12:34:56",
                "ad-be-fa-ce-ed-da",
            ],
        );
    }

    #[test]
    fn versions_of_the_rules_of_semantic_versioning_are_found() {
        check(
            Kind::Version,
            &[
                "1.9.0",
                "1.10.0",
                "1.0.0-alpha",
                "1.0.0-alpha.1",
                "1.0.0-0.3.7",
                "1.0.0-rc.1+build5",
                "1.0.0-beta+exp.sha.5114f85",
                "1.0.0+20130313144700",
                "v1.2",
                "V2.0.1",
            ],
            &[
                "1.2",
                "1.234.567",
                "12.345.678.901",
                "v7",
                "1.2.3.4.5.6",
                "12345.1.1",
                "a1.2.3",
                "/1.2.3",
                "1.2.x",
            ],
        );
        // A hyphen behind it joins a word, and a full stop ends the sentence.
        assert_eq!(found("a 1.2.3-like notice", Kind::Version), ["1.2.3"]);
        assert_eq!(found("It was 1.4.2.", Kind::Version), ["1.4.2"]);
    }

    #[test]
    fn books_have_valid_check_digits() {
        check(
            Kind::Isbn,
            &[
                "978-3-16-148410-0",
                "9783161484100",
                "978 0 306 40615 7",
                "979-10-90636-07-1",
                "ISBN 0-306-40615-2",
                "ISBN 0306406152",
                "ISBN-10: 0-8044-2957-X",
                "ISBN-13: 978-0-306-40615-7",
                "ISBN: 9780306406157",
            ],
            &[
                "978-3-16-148410-1",
                "977-3-16-148410-0",
                "0-306-40615-2",
                "ISBN 0-306-40615-3",
                "97831614841000",
                "ISBN 12",
            ],
        );
    }

    #[test]
    fn places_on_the_map_are_within_its_bounds() {
        check(
            Kind::Coordinates,
            &[
                "52.9876, 1.2345",
                "-33.85678,151.21531",
                "52°58′30″N 1°14′04″E",
                "52° 58' 30\" N, 1° 14' 04\" E",
                "52.5°N 13.4°E",
                "89.9999, -180.0000",
            ],
            &[
                "52.98, 1.23",
                "90.0001, 1.2345",
                "52.9876, 180.0001",
                "52.9876 1.2345",
                "1.2345, 2.3456, 3.4567",
                "52°58′30″N",
            ],
        );
    }
}
