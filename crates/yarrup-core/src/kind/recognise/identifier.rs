//! Numbers that stand for a person or an account: telephone numbers, payment cards, bank accounts.

use crate::kind::Kind;
use crate::kind::recognise::{begins_token, ends_token};

/// The most digits that any of them has.
const LONGEST: usize = 19;

/// Digits with single separators between them: how many there are (one more than the longest if there are more), the digits,
/// and where they end.
fn grouped(text: &str, at: usize, separators: &[u8]) -> (usize, [u8; LONGEST + 1], usize) {
    let bytes = text.as_bytes();
    let (mut digits, mut count, mut end) = ([0; LONGEST + 1], 0, at);
    let mut place = at;
    while count <= LONGEST {
        match bytes.get(place) {
            Some(byte) if byte.is_ascii_digit() => {
                digits[count] = byte - b'0';
                count += 1;
                end = place + 1;
            }
            Some(byte) if separators.contains(byte) && place > at && bytes[place - 1].is_ascii_digit() => {}
            _ => break,
        }
        place += 1;
    }
    (count, digits, end)
}

/// A payment card: 13 to 19 digits, alone or in groups of four or so, whose check digit is right (Luhn 1960, ISO/IEC 7812).
pub(super) fn card(text: &str, at: usize) -> Option<(Kind, usize)> {
    if !begins_token(text, at) || !matches!(text.as_bytes()[at], b'2'..=b'6') {
        return None;
    }
    let (count, digits, end) = grouped(text, at, b" -");
    if !(13..=LONGEST).contains(&count) {
        return None;
    }
    // Groups of four, or four, six and five, or none: other spaced numbers are lists.
    let groups: Vec<usize> = text[at..end].split([' ', '-']).map(str::len).collect();
    let shaped = match groups.as_slice() {
        [_] | [4, 6, 5] | [4, 6, 4] => true,
        groups => {
            groups[..groups.len() - 1].iter().all(|&length| length == 4)
                && groups.last().is_some_and(|&length| length <= 4)
        }
    };
    (shaped && luhn(&digits[..count]) && ends_token(text, end)).then_some((Kind::Card, end))
}

fn luhn(digits: &[u8]) -> bool {
    let sum: u32 = digits
        .iter()
        .rev()
        .enumerate()
        .map(|(place, &digit)| match (place % 2, u32::from(digit)) {
            (0, digit) => digit,
            (_, digit) => digit * 2 / 10 + digit * 2 % 10,
        })
        .sum();
    sum.is_multiple_of(10)
}

/// A bank account by its international number (IBAN, ISO 13616): country, two check digits, up to thirty letters and digits, which
/// leave 1 when divided by 97.
pub(super) fn account(text: &str, at: usize) -> Option<(Kind, usize)> {
    let bytes = text.as_bytes();
    let head = bytes.get(at..at + 4)?;
    let begins = head[0].is_ascii_uppercase()
        && head[1].is_ascii_uppercase()
        && head[2].is_ascii_digit()
        && head[3].is_ascii_digit();
    if !begins || !begins_token(text, at) {
        return None;
    }
    let mut signs = Vec::with_capacity(34);
    let mut ends = Vec::with_capacity(34);
    let mut place = at;
    while signs.len() < 35 {
        match bytes.get(place) {
            Some(byte) if byte.is_ascii_uppercase() || byte.is_ascii_digit() => {
                signs.push(*byte);
                place += 1;
                ends.push(place);
            }
            Some(b' ') if signs.len() % 4 == 0 && bytes[place - 1] != b' ' => place += 1,
            _ => break,
        }
    }
    // The widest that checks: what follows may look like a part of it.
    let fits = |length: usize| ends_token(text, ends[length - 1]) && remainder(&signs[..length]) == 1;
    (15..=signs.len().min(34))
        .rev()
        .find(|&length| fits(length))
        .map(|length| (Kind::Account, ends[length - 1]))
}

fn remainder(signs: &[u8]) -> u32 {
    signs[4..].iter().chain(&signs[..4]).fold(0, |rest, &sign| match sign {
        b'0'..=b'9' => (rest * 10 + u32::from(sign - b'0')) % 97,
        letter => (rest * 100 + u32::from(letter - b'A') + 10) % 97,
    })
}

/// A telephone number: `+` with 7 to 15 digits (ITU-T E.164); or one that begins with 0 and has 9 to 12 digits; or three, three and
/// four digits. With an area code in brackets or without.
pub(super) fn phone(text: &str, at: usize) -> Option<(Kind, usize)> {
    let bytes = text.as_bytes();
    if !begins_token(text, at)
        || (at > 0
            && matches!(bytes[at - 1], b'.' | b',' | b':' | b'/' | b'=')
            && bytes.get(at.wrapping_sub(2)).is_some_and(u8::is_ascii_digit))
    {
        return None;
    }
    let plus = bytes[at] == b'+';
    let (mut place, mut end) = (at + usize::from(plus), at);
    let (mut count, mut first) = (0, b' ');
    let mut groups = Groups::default();
    let (mut open, mut bracketed) = (false, false);
    let mut bracket_end = at;
    let mut previous = b' ';
    while let Some(&byte) = bytes.get(place) {
        match byte {
            b'0'..=b'9' => {
                if count == 0 {
                    first = byte;
                }
                count += 1;
                groups.last += 1;
                if count > 15 {
                    return None;
                }
                if !open {
                    end = place + 1;
                }
            }
            b'(' if !bracketed && count <= 4 && (previous == b' ' || count == 0) => {
                (open, bracketed) = (true, true);
                groups.close();
            }
            b')' if open && groups.last > 0 => {
                open = false;
                bracket_end = place;
                groups.close();
            }
            b' ' | b'-' | b'.' if !open && count > 0 && (previous.is_ascii_digit() || previous == b')') => {
                groups.close();
            }
            _ => break,
        }
        previous = byte;
        place += 1;
    }
    groups.close();
    // What stands in brackets at the end is no part of the number.
    if open || end < bracket_end || !ends_token(text, end) {
        return None;
    }
    let groups = &groups.lengths[..groups.count];
    let spelled = &text[at..end];
    if groups == [5, 4] && spelled.contains('-') && is_behind_state(&text[..at]) {
        return None;
    }
    let national = first == b'0'
        && (9..=12).contains(&count)
        && groups.len() <= 5
        && (groups[0] >= 3 || bracketed)
        && !spelled.contains('.');
    let american = (groups == [3, 3, 4] || groups == [1, 3, 3, 4]) && first != b'0';
    let valid = if plus { (7..=15).contains(&count) } else { national || american };
    valid.then_some((Kind::Phone, end))
}

/// Whether the sign of a state of the United States may end a text: what follows is then a postal code (`MA 02111-1307`).
fn is_behind_state(text: &str) -> bool {
    let words = text.strip_suffix([' ', '\u{a0}', '\n']).unwrap_or_default();
    let word = words.rsplit(|c: char| !c.is_alphanumeric()).next().unwrap_or_default();
    word.len() == 2 && word.bytes().all(|byte| byte.is_ascii_uppercase())
}

/// How many digits stand in each group of a number.
#[derive(Default)]
struct Groups {
    lengths: [usize; 16],
    count: usize,
    /// The length of the group that is being read.
    last: usize,
}

impl Groups {
    fn close(&mut self) {
        if self.last > 0 && self.count < self.lengths.len() {
            self.lengths[self.count] = self.last;
            self.count += 1;
            self.last = 0;
        }
    }
}
