//! The recogniser of kinds: finds links, addresses, quantities and signs of social text, in one pass.
//!
//! What it finds here, `mask` masks, `posts` keeps whole, `drop` drops, and the reports count. Each family of kinds has a
//! file of its own. Cost: each looks no further than a fixed number of characters, or past what it has looked at before, so
//! that a pass over any text is linear.

mod address;
mod code;
mod date;
mod identifier;
mod plain;
mod quantity;
mod social;

use std::ops::Range;

pub(crate) use social::emoji_length;

use crate::kind::{Kind, KindSet, unnumbered};
use crate::unicode;

/// Tells `found` every stretch of `text` that is of a kind of its own, in order and apart from one another. What is found
/// does not depend on which kinds the caller cares for: a date is no number to anybody.
///
/// ```
/// use yarrup_core::{Kind, recognise};
///
/// let text = "See https://example.org/terns by 17 May";
/// let mut found = Vec::new();
/// recognise(text, |kind, place| found.push((kind, &text[place])));
/// assert_eq!(found, [(Kind::Url, "https://example.org/terns"), (Kind::Date, "17 May")]);
/// ```
pub fn recognise(text: &str, found: impl FnMut(Kind, Range<usize>)) {
    walk(text, |_, _| true, found);
}

/// As [`recognise`], of a text and of the same text in small letters, for as long as the same is found in both. Returns whether it was.
///
/// What is plain with capitals is plain without them: only where something may begin is a second look needed.
pub(crate) fn recognise_alike(text: &str, small: &str, found: impl FnMut(Kind, Range<usize>)) -> bool {
    let mut small = Scan::of(small);
    walk(text, |at, here| small.at(at) == *here, found)
}

/// What stands at a place: a stretch of a kind, or the place where the next may begin.
type Here = Result<(Kind, Range<usize>), usize>;

/// Goes over a text for as long as `goes_on`, which is shown every place that is not plain, with what stands there. Returns whether it came to the end.
fn walk(
    text: &str,
    mut goes_on: impl FnMut(usize, &Here) -> bool,
    mut found: impl FnMut(Kind, Range<usize>),
) -> bool {
    let mut scan = Scan::of(text);
    let mut plain = plain::Plain::default();
    let mut at = plain.pass(scan.bytes, 0);
    while at < text.len() {
        at = match scan.past_plain(at) {
            Some(next) => next,
            None => {
                let here = scan.at(at);
                if !goes_on(at, &here) {
                    return false;
                }
                match here {
                    Ok((kind, range)) => {
                        let end = range.end;
                        found(kind, range);
                        end
                    }
                    Err(next) => next,
                }
            }
        };
        at = plain.pass(scan.bytes, at);
    }
    true
}

/// What begins at `at`, if it is of a kind of its own.
pub(crate) fn recognise_at(text: &str, at: usize) -> Option<(Kind, Range<usize>)> {
    let mut scan = Scan::of(text);
    if at < text.len() { scan.at(at).ok() } else { None }
}

/// One pass over a text.
struct Scan<'t> {
    text: &'t str,
    bytes: &'t [u8],
    address: address::Seen,
}

/// What a byte is to [`Scan::past_plain`].
#[derive(Clone, Copy, PartialEq, Eq)]
enum Byte {
    /// A space: nothing begins there.
    Space,
    /// A small letter of ASCII.
    Small,
    /// A capital of ASCII.
    Capital,
    /// A digit or `_`.
    Word,
    /// A mark at which nothing begins if white space follows.
    Mark,
    /// The same, but it may join a word to an address.
    Joint,
    /// Anything else.
    Other,
}

static BYTES: [Byte; 256] = {
    let mut bytes = [Byte::Other; 256];
    let mut byte = 0;
    while byte < 128 {
        bytes[byte] = match byte as u8 {
            b' ' => Byte::Space,
            b'a'..=b'z' => Byte::Small,
            b'A'..=b'Z' => Byte::Capital,
            b'0'..=b'9' | b'_' => Byte::Word,
            b',' | b';' | b'!' | b'?' | b')' | b'(' | b']' | b'[' | b'"' | b'\'' => Byte::Mark,
            b'\n' | b'\t' | b'\r' => Byte::Mark,
            b'.' | b':' => Byte::Joint,
            _ => Byte::Other,
        };
        byte += 1;
    }
    bytes
};

impl<'t> Scan<'t> {
    fn of(text: &'t str) -> Scan<'t> {
        Scan { text, bytes: text.as_bytes(), address: address::Seen::default() }
    }
}

impl Scan<'_> {
    /// Where to go on behind what surely is of no kind of its own: a space, a word in small letters that no mark joins to anything, a mark before white
    /// space. That is most of any text.
    #[inline]
    fn past_plain(&self, at: usize) -> Option<usize> {
        let class = |at: usize| self.bytes.get(at).map_or(Byte::Space, |byte| BYTES[usize::from(*byte)]);
        match class(at) {
            Byte::Space => Some(at + 1),
            Byte::Mark | Byte::Joint => {
                let next = self.bytes.get(at + 1).copied().unwrap_or(b' ');
                matches!(next, b' ' | b'\n').then_some(at + 1)
            }
            // `xD`, `o_O`, `T.T`: a face may begin with a letter; so may `USD` and `DE89`.
            first @ (Byte::Small | Byte::Capital) => {
                let second = class(at + 1);
                if second == Byte::Capital || self.bytes.get(at + 1) == Some(&b'_') {
                    return None;
                }
                let mut end = at + 1;
                while matches!(class(end), Byte::Small | Byte::Capital | Byte::Word) {
                    end += 1;
                }
                let ends = match class(end) {
                    Byte::Space | Byte::Mark => true,
                    Byte::Joint => end - at > 1 && !self.goes_on(end + 1),
                    _ => false,
                };
                // `May 17`: a month has a digit behind it.
                let near = || self.bytes[end..].iter().take(3).any(u8::is_ascii_digit);
                (ends && (first == Byte::Small || !near())).then_some(end)
            }
            // Quotation marks, dashes and dots of U+2010 to U+202F. Behind them, what makes an emoji of a mark is beyond ASCII too.
            Byte::Other => match self.bytes[at..] {
                [0xe2, 0x80, 0x90..=0xaf, next, ..] if next < 0x80 => Some(at + 3),
                _ => None,
            },
            Byte::Word => None,
        }
    }

    /// What begins at `at`, which is a place where a token may begin. If nothing does, where the next may.
    fn at(&mut self, at: usize) -> Here {
        let byte = self.bytes[at];
        match byte {
            b'a'..=b'z' | b'A'..=b'Z' => {
                let run = word_end(self.text, at);
                self.word(at, run).ok_or(run)
            }
            b'0'..=b'9' => {
                let run = word_end(self.text, at);
                let next = self.bytes.get(run).copied().unwrap_or(b' ');
                if let Some((kind, end)) = self.code(at, run, next) {
                    return Ok((kind, at..end));
                }
                let joined = matches!(next, b'.' | b':' | b'@' | b'-' | b'+');
                let address = if joined && self.goes_on(run + 1) { self.address(at) } else { None };
                address.or_else(|| self.keycap(at)).or_else(|| self.number(at)).ok_or(run)
            }
            0x80.. => self.beyond_ascii(at).ok_or_else(|| self.next(at)),
            _ => self.mark(at, byte).ok_or(at + 1),
        }
    }

    /// What begins with the word from `at` to `run`.
    #[inline]
    fn word(&mut self, at: usize, run: usize) -> Option<(Kind, Range<usize>)> {
        let found = |found: Option<(Kind, usize)>| found.map(|(kind, end)| (kind, at..end));
        let next = self.bytes.get(run).copied().unwrap_or(b' ');
        if let Some(code) = self.code(at, run, next) {
            return found(Some(code));
        }
        // By far the commonest: a word, and behind it a space or a mark that joins nothing.
        if matches!(next, b'.' | b':' | b'@' | b'/' | b'\\' | b'-' | b'+' | b'%' | b'&')
            && self.goes_on(run + 1)
            && let Some(address) = self.address(at)
        {
            return Some(address);
        }
        // Faces of letters: `xD`, `o_O`, `T.T`.
        let face = matches!(self.bytes.get(at + 1), Some(b'_' | b'.' | b'-' | b'D' | b':'));
        if self.bytes[at].is_ascii_uppercase() {
            let (text, second) = (self.text, self.bytes.get(at + 1).copied().unwrap_or(b' '));
            if second.is_ascii_uppercase()
                && let Some(code) =
                    identifier::account(text, at).or_else(|| quantity::beginning_with_code(text, at, run))
            {
                return found(Some(code));
            }
            if let Some(date) = date::beginning_with_month(text, at, run) {
                return found(Some(date));
            }
            if let Some(sum) =
                quantity::beginning_with_code(text, at, run).filter(|_| next >= 0x80 || next == b'$')
            {
                return found(Some(sum));
            }
        }
        if face { found(social::emoticon(self.text, at)) } else { None }
    }

    /// A code that begins with the word or the digits from `at` to `run`, behind which `next` stands.
    #[inline]
    fn code(&self, at: usize, run: usize, next: u8) -> Option<(Kind, usize)> {
        match (run - at, next) {
            (8, b'-') => code::uuid(self.text, at),
            (2, b':' | b'-') => code::mac(self.text, at),
            (2.., b'.') if matches!(self.bytes[at], b'v' | b'V') => code::version(self.text, at),
            (4, b' ' | b':' | b'-' | 0x80..) if self.bytes[at..].starts_with(b"ISBN") => {
                code::isbn(self.text, at)
            }
            _ => None,
        }
    }

    /// What begins with a mark or symbol of ASCII.
    fn mark(&mut self, at: usize, byte: u8) -> Option<(Kind, Range<usize>)> {
        let text = self.text;
        let found = |found: Option<(Kind, usize)>| found.map(|(kind, end)| (kind, at..end));
        let first = match byte {
            b'+' | b'(' | b'-' | b'.' if begins_number(text, at) => {
                return self.number(at).or_else(|| found(social::emoticon(text, at)));
            }
            b'.' | b'~' | b'/' | b'\\' => address::path(text, at),
            b'#' | b'@' => social::sign(text, at),
            b'$' => quantity::beginning_with_currency(text, at),
            b'<' => placeholder(text, at),
            b':' => address::six(text, at),
            0x21..0x80 => None,
            _ => return None,
        };
        found(first.or_else(|| social::emoticon(text, at))).or_else(|| self.keycap(at))
    }

    /// An ASCII character that what is behind it makes an emoji of.
    fn keycap(&self, at: usize) -> Option<(Kind, Range<usize>)> {
        let beyond = self.bytes.get(at + 1).is_some_and(|&next| next >= 0x80);
        let found = if beyond { social::emoji_at(self.text, at) } else { None };
        found.map(|(kind, end)| (kind, at..end))
    }

    /// Whether what stands at `at` can go on with an address: no white space, and no mark that ends a sentence.
    fn goes_on(&self, at: usize) -> bool {
        self.bytes.get(at).is_some_and(|&byte| {
            byte.is_ascii_alphanumeric()
                || byte >= 0x80
                || matches!(byte, b'/' | b'\\' | b'[' | b'+' | b'_' | b'.' | b'~' | b':')
        })
    }

    fn address(&mut self, at: usize) -> Option<(Kind, Range<usize>)> {
        address::beginning_at(self.text, at, &mut self.address)
    }

    /// The widest quantity, date or code that begins with the number at `at`.
    fn number(&self, at: usize) -> Option<(Kind, Range<usize>)> {
        let text = self.text;
        let found = date::beginning_with_number(text, at)
            .or_else(|| address::ip(text, at))
            .or_else(|| code::isbn(text, at))
            .or_else(|| identifier::card(text, at))
            .or_else(|| identifier::phone(text, at))
            .or_else(|| code::coordinates(text, at))
            .or_else(|| code::version(text, at))
            .or_else(|| quantity::beginning_with_number(text, at));
        found.map(|(kind, end)| (kind, at..end))
    }

    fn beyond_ascii(&mut self, at: usize) -> Option<(Kind, Range<usize>)> {
        let c = self.text[at..].chars().next()?;
        if unicode::is_letter(c) {
            return None;
        }
        let found = if unicode::is_currency(c) {
            quantity::beginning_with_currency(self.text, at)
        } else if unicode::is_number(c) || matches!(c, '\u{2212}' | '\u{b1}') {
            quantity::beginning_with_number(self.text, at)
        } else if c == '\u{ff03}' || c == '\u{ff20}' {
            social::sign(self.text, at)
        } else {
            social::emoji_at(self.text, at).or_else(|| social::emoticon(self.text, at))
        };
        found.map(|(kind, end)| (kind, at..end))
    }

    /// Where the next token may begin behind one that began at `at` and is of no kind of its own.
    fn next(&self, at: usize) -> usize {
        let end = word_end(self.text, at);
        if end > at {
            return end;
        }
        // Nothing of a kind begins with letters that stand apart.
        let letters = |c: char| if stands_apart(c) { c.len_utf8() } else { 0 };
        let run: usize = self.text[at..].chars().map(letters).take_while(|length| *length > 0).sum();
        match self.text[at..].chars().next() {
            Some(c) => at + run.max(c.len_utf8()),
            None => self.bytes.len(),
        }
    }
}

/// Whether these letters stand at `at`. Most questions end with the first byte.
#[inline]
fn stands_at(text: &str, at: usize, letters: &str) -> bool {
    let (rest, letters) = (&text.as_bytes()[at..], letters.as_bytes());
    rest.first() == letters.first() && rest.starts_with(letters)
}

/// Where the run of letters, digits, marks and `_` that begins at `at` ends; `at` itself if there is none.
#[inline]
fn word_end(text: &str, at: usize) -> usize {
    let bytes = text.as_bytes();
    let plain = |byte: &u8| byte.is_ascii_alphanumeric() || *byte == b'_';
    let mut end = at;
    loop {
        end += bytes[end..].iter().position(|byte| !plain(byte)).unwrap_or(bytes.len() - end);
        match text[end..].chars().next() {
            Some(c) if !c.is_ascii() && is_word_character(c) => end += c.len_utf8(),
            _ => return end,
        }
    }
}

/// Where the name that begins at `from` ends: as a word does, but letters of any script may stand in it together.
fn name_end(text: &str, from: usize) -> usize {
    from + text[from..].chars().take_while(|c| is_in_name(*c)).map(char::len_utf8).sum::<usize>()
}

/// Whether `c` is part of a name: a letter of any script, a digit, a mark on one of them, or `_`.
fn is_in_name(c: char) -> bool {
    is_word_character(c) || stands_apart(c)
}

/// Where what stands from `at` to `end` changes from letters, digits or a bracket of ASCII to letters that stand apart: a sentence in such a script goes on there
/// behind an address. `end` if it does not.
fn changes_script(text: &str, at: usize, end: usize) -> usize {
    let mut before = ' ';
    for (place, c) in text[at..end].char_indices() {
        if (before.is_ascii_alphanumeric() || before == ')') && stands_apart(c) {
            return at + place;
        }
        before = c;
    }
    end
}

/// Whether letters that stand apart stand both before `at` and from `from` on: what is between them joins two words, as in `输入/输出`, or names a sign.
fn joins_apart(text: &str, at: usize, from: usize) -> bool {
    text[..at].chars().next_back().is_some_and(stands_apart)
        && text[from..].chars().next().is_some_and(stands_apart)
}

/// Whether `c` is a letter that other words may stand beside without a space between them: of a script that has none between its words, or of
/// Korean, whose particles stand right behind figures and foreign words.
fn stands_apart(c: char) -> bool {
    unicode::is_unspaced(c) || is_hangul(c)
}

fn is_hangul(c: char) -> bool {
    matches!(c, '\u{1100}'..='\u{11ff}' | '\u{3131}'..='\u{318e}' | '\u{ac00}'..='\u{d7a3}')
}

/// Whether `c` is a letter, a digit, a mark on one of them, or `_`, and does not stand apart.
fn is_word_character(c: char) -> bool {
    use unicode::Category as C;
    if c.is_ascii() {
        return c.is_ascii_alphanumeric() || c == '_';
    }
    if stands_apart(c) {
        return false;
    }
    match unicode::category(c) {
        C::Letter | C::TitlecaseLetter | C::ModifierLetter | C::SpacingMark | C::Digit => true,
        // The sign that asks for a pictograph, and the keycap, are no part of a word.
        C::Mark => !matches!(c, '\u{fe0f}' | '\u{20e3}'),
        _ => false,
    }
}

/// Whether nothing that continues a word stands behind `end`.
fn ends_token(text: &str, end: usize) -> bool {
    text.get(end..).is_some_and(|rest| !rest.chars().next().is_some_and(is_word_character))
}

/// Whether no part of a word stands before `at`.
fn begins_token(text: &str, at: usize) -> bool {
    text.get(..at).is_some_and(|rest| !rest.chars().next_back().is_some_and(is_word_character))
}

/// Whether a number begins at a sign, a bracket or a point.
fn begins_number(text: &str, at: usize) -> bool {
    let bytes = text.as_bytes();
    let digit = |at: usize| bytes.get(at).is_some_and(u8::is_ascii_digit);
    let after_word = at > 0
        && match bytes[at - 1] {
            0x80.. => text[..at].chars().next_back().is_some_and(is_word_character),
            before => before.is_ascii_alphanumeric(),
        };
    match bytes[at] {
        b'(' => digit(at + 1) || (bytes.get(at + 1) == Some(&b'+') && digit(at + 2)),
        b'.' => digit(at + 1) && !after_word && (at == 0 || bytes[at - 1] != b'.'),
        // `5-3` is no `-3`, and `C++17` no `+17`.
        _ => digit(at + 1) && !after_word && (at == 0 || !matches!(bytes[at - 1], b'+' | b'-' | b')' | b'/')),
    }
}

/// A placeholder that masking left: the name of a kind in angle brackets.
fn placeholder(text: &str, at: usize) -> Option<(Kind, usize)> {
    let inner = &text[at + 1..];
    let end = inner.bytes().take(32).position(|byte| byte == b'>')?;
    let kind = Kind::named(unnumbered(inner.get(..end)?))?;
    KindSet::FOUND.has(kind).then_some((kind, at + end + 2))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn found(text: &str) -> Vec<(&'static str, &str)> {
        let mut all = Vec::new();
        recognise(text, |kind, range| all.push((kind.name(), &text[range])));
        all
    }

    /// A kind, and texts in which the stretch between `[[` and `]]` is the only one of a kind of its own.
    const TABLE: &[(&str, &[&str])] = &[
        (
            "url",
            &[
                "see [[https://example.org/a?b=1#c]].",
                "([[http://example.org/wiki/Tern_(bird)]])",
                "[[www.example.org]], please",
                "at [[example.org/tides]]!",
                "from [[tides.example.com]] today",
                "“[[HTTPS://Example.ORG/A]]”",
                "[[https://example.org/für/élan]]",
                "<[[ftp://files.example.net/x.zip]]>",
                "[[https://user@example.org:8080/]]",
                "[[mailto:warden@example.org]]",
                "[[https://example.org]]。",
                "[[example.co.uk]]",
                "[[www.example.it/x]]",
                "[[http://localhost:8080/a]]",
                "[[https://example.org/a_b]]’s page",
            ],
        ),
        (
            "email",
            &[
                "write to [[warden@example.org]].",
                "<[[first.last+tag@sub.example.co.uk]]>",
                "[[a_b@example.org]],",
                "[[2030@example.org]]",
                "([[o-k@example-two.org]])",
            ],
        ),
        (
            "mention",
            &[
                "thanks [[@mira]]!",
                "[[@bo_2]]: yes",
                "(@[[]] no",
                "[[@mira@birds.example.org]] hello",
                "[[@mira]]'s nest",
                "[[@mira]]さん",
            ],
        ),
        (
            "hashtag",
            &[
                "[[#terns]] are",
                "the [[#SeaWall]].",
                "[[#été]]",
                "[[#2031Season]]",
                "＃[[]] no",
                "[[＃海鳥]]",
                "今天[[#海鸟#]]很多",
                "今天[[#terns]] 很多",
            ],
        ),
        (
            "emoticon",
            &[
                "good [[:-)]]",
                "[[:)]] yes",
                "oh [[;-)]].",
                "no [[:'(]]!",
                "[[<3]] terns",
                "[[</3]]",
                "[[^_^]]",
                "[[:D]]",
                "wow [[xD]]",
                "[[>:(]]",
                "hm [[:-/]]",
                "[[:-))))]]",
                "[[o_O]]",
                "[[-_-]] so",
                "[[¯\\_(ツ)_/¯]]",
                "[[\\o/]]",
                "[[(:]] ok",
                "oh no [[D:]]",
                "[[D:]]\nno",
                "[[T_T]]",
            ],
        ),
        (
            "emoji",
            &[
                "a [[🐦]] here",
                "[[👩\u{200d}🔬]]",
                "[[🇫🇷]][[🇩🇪]]",
                "[[3\u{fe0f}\u{20e3}]]",
                "[[☀\u{fe0f}]]",
                "[[👍🏽]]",
            ],
        ),
        (
            "date",
            &[
                "on [[2031-05-17]].",
                "[[17.05.2031]]",
                "[[17/5/31]],",
                "[[5/17/2031]]",
                "[[17 May 2031]]",
                "[[May 17, 2031]]",
                "[[17th of May 2031]]",
                "[[17. Mai 2031]]",
                "[[17 mai 2031]]",
                "el [[17 de mayo de 2031]]",
                "[[May 2031]]",
                "[[3 June]] at",
                "[[June 3rd]]",
                "[[2031/05/17]]",
                "[[1er mai 2031]]",
                "[[Sept. 3, 2031]]",
                "[[2031-05-17T06:30:00Z]]",
                "[[3–5 May 2031]],",
                "[[3-5 May]]",
                "[[May 3–5, 2031]]",
                "[[17 May – 3 June 2031]]",
                "from [[17 May to 3 June]]",
                "[[3. bis 5. Mai 2031]]",
                "[[2031-05-17/2031-05-20]]",
                "[[17.05.2031 - 20.05.2031]]",
                "am [[3.12.31]], Sturm",
            ],
        ),
        (
            "time",
            &[
                "at [[06:30]].",
                "on Monday, @[[10:50]]",
                "[[6:30 am]]",
                "[[6.30 p.m.]] sharp",
                "[[10am]]",
                "[[18:04:09]]",
                "[[18h30]]",
                "um [[18 Uhr]]",
                "[[18.30 Uhr]]",
                "[[6:30pm]]",
                "[[06:30–08:00]]",
                "[[9am-5pm]] daily",
                "[[9–11 am]]",
                "from [[9:00 to 17:30]].",
                "[[10-12 Uhr]]",
                "[[9.30–11 Uhr]]",
            ],
        ),
        (
            "money",
            &[
                "[[$5]]",
                "[[€ 5.50]]",
                "[[£3m]]",
                "[[5 €]]",
                "[[5,00€]].",
                "[[EUR 5]]",
                "[[20 euros]]",
                "[[US$5.50]]",
                "[[$1,000.50]]",
                "[[5 USD]]",
                "[[¥500]]",
            ],
        ),
        (
            "percentage",
            &[
                "[[5%]]",
                "[[5.5 %]]",
                "[[12 percent]] of",
                "[[12 per cent]]",
                "[[3‰]]",
                "[[-2%]]",
                "[[20 Prozent]]",
            ],
        ),
        (
            "measure",
            &[
                "[[5km]]",
                "[[5 km]] off",
                "[[3.5 m]]",
                "[[20 °C]]",
                "[[-3°C]]",
                "[[40 km/h]]",
                "[[12 m²]]",
                "[[250g]]",
                "[[3 kg]].",
            ],
        ),
        (
            "phone",
            &[
                "[[+44 20 7946 0018]]",
                "[[(020) 7946 0018]]",
                "[[020 7946 0018]]",
                "[[555-010-0199]]",
                "[[(555) 010-0199]]",
                "[[+1-555-010-0199]]",
                "[[07700 900123]]",
                "[[+442079460018]]",
            ],
        ),
        (
            "path",
            &[
                "[[/usr/share/terns]]",
                "[[~/notes/may.txt]]",
                "in [[./data/cards.csv]]",
                "[[C:\\notes\\may.txt]]",
                "[[notes/may.txt]]",
                "[[../a/b]]",
                "请看[[/usr/share/terns]]目录",
                "[[/家/海鳥/一覧]] を",
            ],
        ),
        (
            "number",
            &[
                "[[15.000.000.000]] stars",
                "[[7]]",
                "[[-3]]",
                "[[1,000,000]]",
                "[[3.14]].",
                "[[+4.5]]",
                "[[١٢٫٥]]",
                "[[½]]",
                "[[.5]]",
                "[[1'000]]",
            ],
        ),
        (
            "ip",
            &[
                "[[192.0.2.1]]",
                "[[192.0.2.1:8080]]",
                "[[2001:db8::1]]",
                "[[fe80::1]]",
                "[[192.0.2.0/24]]",
                "[[::1]]",
            ],
        ),
        (
            "card",
            &[
                "[[4111 1111 1111 1111]]",
                "[[4111111111111111]]",
                "[[5500-0000-0000-0004]]",
                "[[340000000000009]]",
            ],
        ),
        (
            "account",
            &[
                "[[GB82 WEST 1234 5698 7654 32]]",
                "[[DE89370400440532013000]]",
                "[[FR14 2004 1010 0505 0001 3M02 606]]",
            ],
        ),
        (
            "version",
            &[
                "use [[1.4.2]].",
                "[[v1.2]], then",
                "([[V2.0.1-rc.1]])",
                "[[2.0.1-beta2+build5]]",
                "[[6.1.0.1023]]-like",
                "from [[v0.9.12]] on",
                "since [[1.1.81]], and Vietnam [[1.1.81]]",
            ],
        ),
        (
            "isbn",
            &[
                "[[978-3-16-148410-0]].",
                "[[9783161484100]]",
                "[[ISBN 978-3-16-148410-0]]",
                "([[ISBN: 0-306-40615-2]])",
                "[[ISBN-10: 080442957X]]",
            ],
        ),
        ("mac", &["[[00:00:5e:00:53:af]].", "[[00-00-5E-00-53-AF]]", "([[fe:00:5e:00:53:01]])"]),
        (
            "uuid",
            &[
                "id [[123e4567-e89b-12d3-a456-426614174000]].",
                "[[f81d4fae-7dec-11d0-a765-00a0c91e6bf6]]",
                "([[C81D4FAE-7DEC-11D0-A765-00A0C91E6BF6]])",
            ],
        ),
        (
            "coordinates",
            &[
                "at [[52.9876, 1.2345]].",
                "[[-52.98761,-171.23457]]",
                "([[52°58′30″N 1°14′04″E]])",
                "[[52°58'N, 1°14'W]]",
                "[[52.98° N, 1.23° W]]",
            ],
        ),
    ];

    #[test]
    fn every_kind_is_found_where_it_stands() {
        let mut wrong = Vec::new();
        for (kind, texts) in TABLE {
            for marked in *texts {
                let text = marked.replace("[[", "").replace("]]", "");
                let expected: Vec<(&str, &str)> = marked
                    .split("[[")
                    .skip(1)
                    .filter_map(|rest| rest.split("]]").next())
                    .filter(|stretch| !stretch.is_empty())
                    .map(|stretch| (*kind, stretch))
                    .collect();
                let told = found(&text);
                if told != expected {
                    wrong.push(format!("{marked}: {told:?}"));
                }
            }
        }
        assert!(wrong.is_empty(), "{}", wrong.join("\n"));
    }

    #[test]
    fn plain_text_is_of_no_kind_of_its_own() {
        for text in [
            "The end.It was",
            "e.g. this",
            "and/or",
            "nest-box",
            "don't",
            "Hello:world",
            "a @ b",
            "# 5".trim_end_matches(" 5"),
            "B12",
            "3rd",
            "1990s",
            "C++",
            "ASP.NET",
            "Dr.No",
            "I may go",
            "march on",
            "he said: (no)",
            "x = y",
            "note (see below): ok",
            "U.S.A.",
            "i.e.",
            "a.m.",
            "1st",
            "so.we",
            "12x",
            "www.",
            "http://",
            "foo@bar",
            "@",
            "#",
            "#!",
            "...",
            "--",
            "In 3D",
            "the mar",
            "am.Am",
            "wait...what",
            "either/or",
            "yes/no.",
            "he/she",
            "(a) first",
            "and:",
            "s/he",
            "v2",
            "v2 is",
            "输入/输出/错误",
            "以#号开始的行",
            "符号@表示",
            "ISBN",
            "ab:cd",
            "deadbeef-cafe",
            "well-being",
            "D: Why do terns dive?",
            "A: Nobody knows.\nD: Why?",
        ] {
            assert_eq!(found(text), [], "{text}");
        }
        assert_eq!(found("1. First"), [("number", "1")]);
        assert_eq!(found("Form 1. Sie müssen"), [("number", "1")]);
        assert_eq!(found("5-3"), [("number", "5"), ("number", "3")]);
        assert_eq!(found("(8) eggs"), [("number", "8")]);
        assert_eq!(found("1.234.567"), [("number", "1.234.567")]);
        assert_eq!(found("978-3-16-148410-1").first(), Some(&("number", "978")));
        assert_eq!(found("ISBN 0-306-40615-3").first(), Some(&("number", "0")));
        assert_eq!(found("1.2345, 2.3456, 3.4567").len(), 3);
        assert_eq!(found("3 to 5"), [("number", "3"), ("number", "5")]);
        // Digits in brackets behind a number are none of a telephone, nor is the postal code behind a state.
        assert_eq!(found("bit 0 (00000001)"), [("number", "0"), ("number", "00000001")]);
        assert_eq!(found("Boston, MA 02111-1307").first(), Some(&("number", "02111")));
        assert_eq!(found("Tel. 02111-1307"), [("phone", "02111-1307")]);
        assert_eq!(found("May 3 to 5"), [("date", "May 3"), ("number", "5")]);
        assert_eq!(
            found("4111 1111 1111 1112"),
            [("number", "4111"), ("number", "1111"), ("number", "1111"), ("number", "1112")]
        );
        assert_eq!(found("GB82 WEST 1234 5698 7654 33").first(), Some(&("number", "1234")));
    }

    #[test]
    fn placeholders_are_of_the_kind_that_they_name() {
        assert_eq!(found("see <url> or <email>, <b>"), [("url", "<url>"), ("email", "<email>")]);
    }

    /// As [`recognise`], looking at every place.
    fn found_slowly(text: &str) -> Vec<(Kind, Range<usize>)> {
        let mut scan = Scan { text, bytes: text.as_bytes(), address: address::Seen::default() };
        let (mut all, mut at) = (Vec::new(), 0);
        while at < text.len() {
            match scan.at(at) {
                Ok((kind, range)) => {
                    at = range.end;
                    all.push((kind, range));
                }
                Err(next) => at = next,
            }
        }
        all
    }

    fn found_quickly(text: &str) -> Vec<(Kind, Range<usize>)> {
        let mut all = Vec::new();
        recognise(text, |kind, range| all.push((kind, range)));
        all
    }

    #[test]
    fn what_is_passed_over_is_of_no_kind() {
        for (_, texts) in TABLE {
            for text in *texts {
                let text = text.replace("[[", "").replace("]]", "");
                assert_eq!(found_quickly(&text), found_slowly(&text), "{text}");
            }
        }
    }

    #[test]
    fn at_quiet_marks_nothing_begins() {
        for byte in plain::QUIET {
            let special = b"+(-.~/\\#@$<:".contains(&byte) || social::FIRST[usize::from(byte)];
            assert!(!special, "{}", char::from(byte));
        }
    }

    proptest! {
        #[test]
        fn what_is_passed_over_is_of_no_kind_in_any_text(text in "([a-cxoOTDMayvISBN_]{1,4}|[ .,:;!?()@/*+<>^=~\\\\’“–…'\"#$€é🐦海年月日元를\u{fe0f}\u{20e3}\n\\[\\]{}|&%`-]|[0-9]{1,3}|May|USD|ISBN 97|GB82|DE89 |v1|[0-9a-f]{8}-|ffffffff-|ffff-|FFFF-|aa:bb:|AA-BB-|www|com){0,24}") {
            prop_assert_eq!(found_quickly(&text), found_slowly(&text));
        }
    }

    proptest! {
        /// Whatever the text: in order, apart, on character borders.
        #[test]
        fn stretches_are_in_order_and_on_borders(text in "[a-c0-9A-C@#:/.+$%€()<>_ ~\\\\'’é鳥🐦🇫\u{200d}\u{fe0f}\u{20e3}\u{301}-]{0,48}") {
            let mut end = 0;
            recognise(&text, |_, range| {
                assert!(range.start >= end && range.start < range.end && text.get(range.clone()).is_some());
                end = range.end;
            });
        }
    }
}
