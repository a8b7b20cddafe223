//! Links, e-mail addresses, IP addresses and paths of files.

use std::ops::Range;

use crate::kind::Kind;
use crate::kind::recognise::{
    begins_token, changes_script, ends_token, is_in_name, is_word_character, joins_apart,
};
use crate::unicode::{self, Category};

/// How far attempts have come that failed: what begins before that point fails as well.
#[derive(Debug, Default)]
pub(super) struct Seen {
    mail: usize,
    host: usize,
    path: usize,
}

/// The e-mail address, link or path that begins with the word at `at`.
pub(super) fn beginning_at(text: &str, at: usize, seen: &mut Seen) -> Option<(Kind, Range<usize>)> {
    if !begins_token(text, at) {
        return None;
    }
    let found = |kind: Kind, end: usize| Some((kind, at..end));
    if let Some(end) = scheme(text, at) {
        return found(Kind::Url, end);
    }
    if at >= seen.mail {
        match mail(text, at) {
            Ok(end) => return found(Kind::Email, end),
            Err(looked) => seen.mail = looked,
        }
    }
    if at >= seen.host {
        match host(text, at) {
            Ok(end) => return found(Kind::Url, end),
            Err(looked) => seen.host = looked,
        }
    }
    if let Some(end) = drive(text, at).or_else(|| six(text, at).map(|(_, end)| end)) {
        let kind = if text[at..end].contains('\\') || text[at..].get(1..3) == Some(":/") {
            Kind::Path
        } else {
            Kind::Ip
        };
        return found(kind, end);
    }
    if at >= seen.path {
        match relative_path(text, at) {
            Ok(end) => return found(Kind::Path, end),
            Err(looked) => seen.path = looked,
        }
    }
    None
}

/// Schemes whose addresses have no `//`.
const BARE_SCHEMES: &[&str] = &["mailto:", "tel:", "urn:", "doi:", "xmpp:"];

/// Where a link with a scheme ends.
fn scheme(text: &str, at: usize) -> Option<usize> {
    let rest = &text.as_bytes()[at..];
    let letters =
        rest.iter().take(12).take_while(|byte| byte.is_ascii_alphanumeric() || **byte == b'+').count();
    if rest.get(letters) != Some(&b':') {
        return None;
    }
    let colon = at + letters;
    let body = if rest[letters..].starts_with(b"://") {
        colon + 3
    } else if BARE_SCHEMES.iter().any(|scheme| text[at..=colon].eq_ignore_ascii_case(scheme)) {
        colon + 1
    } else {
        return None;
    };
    // Looked at first: an attempt that fails must not have read to the end of a long tail.
    let first = text[body..].chars().next()?;
    (first.is_alphanumeric() || matches!(first, '/' | '[' | '+'))
        .then(|| tail_end(text, body))
        .filter(|&end| end > body)
}

/// Where a link ends whose last part begins at `from`: at white space, quotes or brackets that open, and before the marks of
/// the sentence around it. A closing bracket belongs to the link if it was opened there.
fn tail_end(text: &str, from: usize) -> usize {
    let rest = &text[from..];
    let stops = |c: char| {
        c.is_whitespace()
            || c.is_control()
            || matches!(c, '<' | '>' | '"' | '|' | '`' | '{' | '}' | '\\' | '^')
            || (!c.is_ascii()
                && unicode::category(c) == Category::Punctuation
                && !matches!(c, '·' | '‐' | '–'))
    };
    let mut end = rest.find(stops).unwrap_or(rest.len());
    end = changes_script(rest, 0, end);
    let balance = |open: u8, close: u8| {
        rest.as_bytes()[..end]
            .iter()
            .fold(0i64, |sum, &byte| sum + i64::from(byte == open) - i64::from(byte == close))
    };
    let (mut round, mut square) = (balance(b'(', b')'), balance(b'[', b']'));
    loop {
        let kept = &rest[..end];
        if let Some(base) = kept.strip_suffix("'s").or_else(|| kept.strip_suffix(['·', '‐', '–'])) {
            end = base.len();
            continue;
        }
        match kept.as_bytes().last() {
            Some(b'.' | b',' | b';' | b':' | b'!' | b'?' | b'\'' | b'*' | b'~') => end -= 1,
            Some(b')') if round < 0 => {
                round += 1;
                end -= 1;
            }
            Some(b']') if square < 0 => {
                square += 1;
                end -= 1;
            }
            Some(b'(') => {
                round -= 1;
                end -= 1;
            }
            _ => return from + end,
        }
    }
}

fn is_local(byte: u8) -> bool {
    byte.is_ascii_alphanumeric() || matches!(byte, b'.' | b'_' | b'%' | b'+' | b'-' | b'&')
}

/// Where an e-mail address ends, or how far was looked.
fn mail(text: &str, at: usize) -> Result<usize, usize> {
    let bytes = text.as_bytes();
    let length = bytes[at..].iter().take_while(|&&byte| is_local(byte)).count();
    let sign = at + length;
    if bytes.get(sign) != Some(&b'@') || length > 64 || bytes[sign - 1] == b'.' {
        return Err(sign.max(at + 1));
    }
    let domain = domain_end(bytes, sign + 1);
    let name = &text[sign + 1..domain];
    match name.rsplit_once('.') {
        Some((before, top))
            if !before.is_empty() && top.len() >= 2 && top.bytes().all(|b| b.is_ascii_alphabetic()) =>
        {
            Ok(domain)
        }
        _ => Err(sign),
    }
}

/// Where the run of labels that begins at `from` ends, without a point or hyphen at its end.
fn domain_end(bytes: &[u8], from: usize) -> usize {
    let length = bytes[from..]
        .iter()
        .take_while(|byte| byte.is_ascii_alphanumeric() || matches!(byte, b'.' | b'-'))
        .count();
    let mut end = from + length;
    while end > from && matches!(bytes[end - 1], b'.' | b'-') {
        end -= 1;
    }
    end
}

/// Top-level domains that are told without a scheme: the generic ones that are in wide use, and those kept for examples.
const GENERIC: &[&str] = &[
    "aero", "app", "arpa", "biz", "blog", "cloud", "com", "coop", "dev", "edu", "example", "gov", "info",
    "int", "invalid", "jobs", "mil", "mobi", "museum", "name", "net", "onion", "online", "org", "page",
    "pro", "shop", "site", "store", "tech", "test", "travel", "website", "wiki", "xyz",
];

/// The two-letter domains of countries that are no word of a widely written language: told without a scheme.
const COUNTRIES: &[&str] = &[
    "ac", "ae", "ar", "at", "au", "ba", "bg", "br", "by", "ca", "ch", "cl", "cn", "cz", "de", "dk", "ee",
    "eg", "es", "eu", "fi", "fr", "gg", "gr", "hk", "hr", "hu", "ie", "il", "io", "ir", "is", "it", "jp",
    "ke", "kr", "lt", "lu", "lv", "ly", "md", "mx", "my", "ng", "nl", "no", "nz", "pe", "ph", "pk", "pl",
    "pt", "ro", "rs", "ru", "sa", "se", "sg", "si", "sk", "th", "tr", "tv", "tw", "ua", "uk", "us", "ve",
    "vn", "za", "co", "me", "so", "to", "be", "in", "am", "as", "la", "et", "id", "je", "li", "ai",
];

/// Country domains that are words, in English or a neighbour: a missing space after a full stop looks just like them.
const WORDS: &[&str] = &[
    "ac", "am", "ar", "as", "at", "be", "by", "co", "de", "es", "et", "hr", "id", "in", "is", "it", "je",
    "la", "li", "me", "my", "no", "pa", "pe", "sa", "se", "si", "so", "th", "to", "us", "ai", "eu", "io",
    "ie",
];

/// Names of two small letters: a bit for each second letter, by the first.
struct Pairs([u32; 26]);

static COUNTRY: Pairs = Pairs::of(COUNTRIES);
static WORD: Pairs = Pairs::of(WORDS);

impl Pairs {
    const fn of(names: &[&str]) -> Pairs {
        let (mut pairs, mut at) = ([0; 26], 0);
        while at < names.len() {
            let name = names[at].as_bytes();
            pairs[(name[0] - b'a') as usize] |= 1 << (name[1] - b'a');
            at += 1;
        }
        Pairs(pairs)
    }

    fn has(&self, name: &str) -> bool {
        match name.as_bytes() {
            [first @ b'a'..=b'z', second @ b'a'..=b'z'] => {
                self.0[usize::from(first - b'a')] >> (second - b'a') & 1 == 1
            }
            _ => false,
        }
    }
}

/// Where a link without a scheme ends, or how far was looked.
fn host(text: &str, at: usize) -> Result<usize, usize> {
    let bytes = text.as_bytes();
    let end = domain_end(bytes, at);
    let name = &text[at..end];
    let looked = Err(end.max(at + 1));
    let Some((before, top)) = name.rsplit_once('.') else {
        return looked;
    };
    // Marks and letters of other scripts behind a host make a word of it, and `@` an address.
    let goes_on = text[end..].chars().next().is_some_and(|c| is_word_character(c) || c == '@');
    if before.split('.').any(|label| label.is_empty() || label.starts_with('-')) || goes_on {
        return looked;
    }
    let with_path = || {
        let next = text[end..].bytes().next();
        let port =
            text[end..].strip_prefix(':').is_some_and(|rest| rest.starts_with(|c: char| c.is_ascii_digit()));
        matches!(next, Some(b'/' | b'?' | b'#')) || port
    };
    let is_www = name.get(..4).is_some_and(|start| start.eq_ignore_ascii_case("www."));
    let has_path = with_path();
    let known = if is_www {
        top.len() >= 2 && name.matches('.').count() >= 2
    } else if !top.bytes().all(|byte| byte.is_ascii_lowercase())
        || before.bytes().all(|b| b.is_ascii_digit() || b == b'.')
    {
        false
    } else if top.len() != 2 {
        GENERIC.contains(&top)
    } else if COUNTRY.has(top) {
        // `example.co.uk` has a label between that says what it is.
        let second = before.rsplit('.').next().unwrap_or_default();
        let told =
            before.contains('.') && matches!(second, "co" | "ac" | "com" | "gov" | "org" | "net" | "edu");
        !WORD.has(top) || told || (has_path && before.len() > 1)
    } else {
        false
    };
    if !known {
        return looked;
    }
    Ok(if has_path { tail_end(text, end) } else { end })
}

/// An IP address of version 4 that begins at `at`, with its port or the length of its prefix.
pub(super) fn ip(text: &str, at: usize) -> Option<(Kind, usize)> {
    let rest = &text[at..];
    let mut end = 0;
    for place in 0..4 {
        if place > 0 {
            end += usize::from(rest.as_bytes().get(end) == Some(&b'.'));
        }
        let digits = rest.as_bytes()[end..].iter().take(4).take_while(|byte| byte.is_ascii_digit()).count();
        let part = &rest[end..end + digits];
        // `15.000.000.000` is a number.
        let is_padded = digits > 1 && part.starts_with('0');
        if !(1..=3).contains(&digits) || is_padded || part.parse::<u16>().ok()? > 255 {
            return None;
        }
        end += digits;
        if place < 3 && rest.as_bytes().get(end) != Some(&b'.') {
            return None;
        }
    }
    let after = |sign: char, most: usize| {
        let digits =
            rest[end..].strip_prefix(sign)?.bytes().take(most + 1).take_while(u8::is_ascii_digit).count();
        (1..=most).contains(&digits).then_some(end + 1 + digits)
    };
    let end = after(':', 5).or_else(|| after('/', 2)).unwrap_or(end);
    let goes_on =
        rest[end..].starts_with('.') && rest.as_bytes().get(end + 1).is_some_and(u8::is_ascii_digit);
    (ends_token(text, at + end) && !goes_on).then_some((Kind::Ip, at + end))
}

/// An IP address of version 6 that begins at `at`.
pub(super) fn six(text: &str, at: usize) -> Option<(Kind, usize)> {
    if !begins_token(text, at) || (at > 0 && text.as_bytes()[at - 1] == b':') {
        return None;
    }
    let length = text.as_bytes()[at..]
        .iter()
        .take(46)
        .take_while(|b| b.is_ascii_hexdigit() || matches!(b, b':' | b'.'))
        .count();
    let found = text[at..at + length].trim_end_matches(['.', ':']);
    let colons = found.matches(':').count();
    let valid = colons >= 2
        && found.len() > 2
        && found.bytes().any(|b| b.is_ascii_digit())
        && found.parse::<std::net::Ipv6Addr>().is_ok();
    (valid && ends_token(text, at + found.len())).then_some((Kind::Ip, at + found.len()))
}

fn is_name(c: char) -> bool {
    is_in_name(c) || matches!(c, '.' | '-' | '+' | '%' | '@' | '~')
}

/// Where names parted by `sign` end that begin at `from`, and how many there are.
fn names_end(text: &str, from: usize, sign: char) -> (usize, usize) {
    let rest = &text[from..];
    let end = rest.find(|c: char| !(is_name(c) || c == sign)).unwrap_or(rest.len());
    let end = changes_script(rest, 0, end);
    let kept = rest[..end].trim_end_matches(['.', '-', '~', '%', '@', '+']);
    (from + kept.len(), kept.split(sign).filter(|name| !name.is_empty()).count())
}

/// A path that begins with `/`, `~/`, `./`, `../` or `\\`.
pub(super) fn path(text: &str, at: usize) -> Option<(Kind, usize)> {
    if !begins_token(text, at) || text[..at].ends_with(['/', '<', ':', ')', '\\', '~']) {
        return None;
    }
    let rest = &text[at..];
    let (lead, least, sign) =
        [("~/", 1, '/'), ("./", 1, '/'), ("../", 1, '/'), ("/", 2, '/'), ("\\\\", 2, '\\')]
            .into_iter()
            .find(|(lead, ..)| rest.starts_with(lead))?;
    let from = at + lead.len();
    text[from..].chars().next().filter(|&c| is_in_name(c) || matches!(c, '.' | '~'))?;
    if joins_apart(text, at, from) {
        return None;
    }
    let (end, names) = names_end(text, from, sign);
    (names >= least && text[from..end].chars().any(unicode::is_letter)).then_some((Kind::Path, end))
}

/// A path of a drive: `C:\notes\may.txt`.
fn drive(text: &str, at: usize) -> Option<usize> {
    let rest = &text[at..];
    let bytes = rest.as_bytes();
    let is_drive = bytes.len() > 3
        && bytes[0].is_ascii_alphabetic()
        && bytes[1] == b':'
        && matches!(bytes[2], b'\\' | b'/');
    if !is_drive || !begins_token(text, at) {
        return None;
    }
    let sign = char::from(bytes[2]);
    let (end, names) = names_end(text, at + 3, sign);
    (names >= 1 && end > at + 3).then_some(end)
}

/// Endings by which a file is told where its path begins with no sign.
const ENDINGS: &[&str] = &[
    "bak", "bin", "bmp", "c", "conf", "cpp", "css", "csv", "db", "doc", "docx", "eml", "epub", "exe", "gif",
    "gz", "h", "htm", "html", "ini", "java", "jpeg", "jpg", "js", "json", "jsonl", "log", "mbox", "md",
    "mp3", "mp4", "odp", "ods", "odt", "parquet", "pdf", "php", "png", "ppt", "pptx", "py", "r", "rb", "rs",
    "rtf", "sh", "sql", "sqlite", "svg", "tar", "tex", "toml", "ts", "tsv", "txt", "wav", "xls", "xlsx",
    "xml", "yaml", "yml", "zip", "zst",
];

/// Where a path ends that begins with a name: two names at least, the last with the ending of a file. Or how far was looked.
fn relative_path(text: &str, at: usize) -> Result<usize, usize> {
    let (end, names) = names_end(text, at, '/');
    let is_told = || {
        let last = text[at..end].rsplit('/').next().unwrap_or_default();
        let ending = last.rsplit_once('.').map(|(_, ending)| ending.to_ascii_lowercase());
        ending.is_some_and(|ending| ENDINGS.contains(&ending.as_str()))
    };
    if names >= 2 && is_told() { Ok(end) } else { Err(end.max(at + 1)) }
}
