//! Dates and times of day.

use std::collections::HashMap;
use std::sync::LazyLock;

use crate::kind::Kind;
use crate::kind::recognise::{begins_token, ends_token, stands_at};
use crate::unicode;

/// The months of English, in lower case. In English they have a capital: `12 may` is hardly one.
const ENGLISH: &[&str] = &[
    "january",
    "february",
    "march",
    "april",
    "may",
    "june",
    "july",
    "august",
    "september",
    "october",
    "november",
    "december",
];

/// Names of months in the languages that the tool has word lists for, as they stand in dates, in lower case. What several languages share stands once.
const MONTHS: &[&[&str]] = &[
    ENGLISH,
    // German, and what Dutch and the Scandinavian languages have of their own
    &["januar", "jänner", "februar", "märz", "mai", "juni", "juli", "oktober", "dezember"],
    &["januari", "februari", "maart", "mei", "augustus", "februarie"],
    &["mars", "maj", "augusti", "marts", "desember"],
    // French, Spanish, Italian, Portuguese, Galician, Catalan, Romanian
    &[
        "janvier",
        "février",
        "avril",
        "juin",
        "juillet",
        "août",
        "septembre",
        "octobre",
        "novembre",
        "décembre",
    ],
    &[
        "enero",
        "febrero",
        "marzo",
        "abril",
        "mayo",
        "junio",
        "julio",
        "agosto",
        "septiembre",
        "setiembre",
        "octubre",
        "noviembre",
        "diciembre",
    ],
    &["gennaio", "febbraio", "aprile", "maggio", "giugno", "luglio", "settembre", "ottobre", "dicembre"],
    &[
        "janeiro",
        "fevereiro",
        "março",
        "maio",
        "junho",
        "julho",
        "setembro",
        "outubro",
        "novembro",
        "dezembro",
    ],
    &["xaneiro", "febreiro", "xuño", "xullo", "decembro"],
    &["gener", "febrer", "març", "maig", "juny", "juliol", "agost", "setembre", "desembre"],
    &["ianuarie", "martie", "aprilie", "iunie", "iulie", "septembrie", "octombrie", "noiembrie", "decembrie"],
    // Polish, Czech, Slovak
    &[
        "stycznia",
        "lutego",
        "marca",
        "kwietnia",
        "maja",
        "czerwca",
        "lipca",
        "sierpnia",
        "września",
        "października",
        "listopada",
        "grudnia",
    ],
    &[
        "ledna",
        "února",
        "března",
        "dubna",
        "května",
        "června",
        "července",
        "srpna",
        "září",
        "října",
        "listopadu",
        "prosince",
    ],
    &[
        "januára",
        "februára",
        "apríla",
        "mája",
        "júna",
        "júla",
        "augusta",
        "septembra",
        "októbra",
        "novembra",
        "decembra",
    ],
    // Russian, Ukrainian, Bulgarian
    &[
        "января",
        "февраля",
        "марта",
        "апреля",
        "мая",
        "июня",
        "июля",
        "августа",
        "сентября",
        "октября",
        "ноября",
        "декабря",
    ],
    &[
        "січня",
        "лютого",
        "березня",
        "квітня",
        "травня",
        "червня",
        "липня",
        "серпня",
        "вересня",
        "жовтня",
        "листопада",
        "грудня",
    ],
    &[
        "януари",
        "февруари",
        "март",
        "април",
        "май",
        "юни",
        "юли",
        "август",
        "септември",
        "октомври",
        "ноември",
        "декември",
    ],
    // Greek
    &[
        "ιανουαρίου",
        "φεβρουαρίου",
        "μαρτίου",
        "απριλίου",
        "μαΐου",
        "ιουνίου",
        "ιουλίου",
        "αυγούστου",
        "σεπτεμβρίου",
        "οκτωβρίου",
        "νοεμβρίου",
        "δεκεμβρίου",
    ],
    // Hungarian, Finnish, Turkish
    &[
        "január",
        "február",
        "március",
        "április",
        "május",
        "június",
        "július",
        "augusztus",
        "szeptember",
        "október",
    ],
    &[
        "tammikuuta",
        "helmikuuta",
        "maaliskuuta",
        "huhtikuuta",
        "toukokuuta",
        "kesäkuuta",
        "heinäkuuta",
        "elokuuta",
        "syyskuuta",
        "lokakuuta",
        "marraskuuta",
        "joulukuuta",
    ],
    &[
        "ocak", "şubat", "mart", "nisan", "mayıs", "haziran", "temmuz", "ağustos", "eylül", "ekim", "kasım",
        "aralık",
    ],
    // Indonesian, Arabic, Hindi
    &["maret", "agustus"],
    &[
        "يناير",
        "فبراير",
        "مارس",
        "أبريل",
        "إبريل",
        "مايو",
        "يونيو",
        "يوليو",
        "أغسطس",
        "سبتمبر",
        "أكتوبر",
        "نوفمبر",
        "ديسمبر",
    ],
    &[
        "जनवरी",
        "फरवरी",
        "फ़रवरी",
        "मार्च",
        "अप्रैल",
        "मई",
        "जून",
        "जुलाई",
        "अगस्त",
        "सितंबर",
        "सितम्बर",
        "अक्टूबर",
        "अक्तूबर",
        "नवंबर",
        "नवम्बर",
        "दिसंबर",
        "दिसम्बर",
    ],
];

/// Their short forms, which a full stop may follow.
const SHORT_MONTHS: &[&str] = &[
    "jan", "feb", "mar", "apr", "jun", "jul", "aug", "sep", "sept", "oct", "nov", "dec", "okt", "dez",
    "janv", "févr", "avr", "juil", "déc", "ene", "abr", "dic", "febr", "kwi", "cze", "wrz", "paź",
];

/// Names that are other words as well: in small letters they are months only before a year.
const OTHER_WORDS: &[&str] = &[
    "mai",
    "mei",
    "mars",
    "mart",
    "mayo",
    "marca",
    "maja",
    "maj",
    "ocak",
    "ekim",
    "nisan",
    "kasım",
    "aralık",
    "gener",
    "листопада",
    "listopadu",
    "март",
    "май",
    "август",
    "مارس",
];

/// How certain it is that a word is a month.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Month {
    /// In small letters too.
    Certain,
    /// With a capital or a year.
    Likely,
    /// The same, and a full stop may belong to it.
    Short,
}

static NAMES: LazyLock<HashMap<&'static str, Month>> = LazyLock::new(|| {
    let whole = MONTHS.concat().into_iter().map(|name| (name, Month::Certain));
    let likely = ENGLISH.iter().chain(OTHER_WORDS).map(|name| (*name, Month::Likely));
    whole.chain(likely).chain(SHORT_MONTHS.iter().map(|name| (*name, Month::Short))).collect()
});

/// The longest name of a month, in bytes.
const LONGEST_MONTH: usize = 22;

fn digits(text: &str, at: usize) -> usize {
    text.as_bytes()[at.min(text.len())..].iter().take(9).take_while(|byte| byte.is_ascii_digit()).count()
}

fn number(text: &str, at: usize, length: usize) -> u32 {
    text.get(at..at + length).and_then(|digits| digits.parse().ok()).unwrap_or(u32::MAX)
}

fn is_year(text: &str, at: usize) -> bool {
    digits(text, at) == 4 && (1000..3000).contains(&number(text, at, 4)) && ends_token(text, at + 4)
}

/// Where a month's name ends that begins at `at`, and how certain it is one.
fn month(text: &str, at: usize) -> Option<(usize, Month)> {
    let end = super::word_end(text, at);
    if end - at > LONGEST_MONTH || end - at < 3 {
        return None;
    }
    let name = text[at..end].to_lowercase();
    NAMES.get(name.as_str()).map(|month| (end, *month))
}

fn skip(text: &str, at: usize, signs: &[&str]) -> Option<usize> {
    signs.iter().find(|sign| stands_at(text, at, sign)).map(|sign| at + sign.len())
}

/// What stands between the two ends of a span of days or of hours.
const SPANS: &[&str] = &[
    "–",
    "—",
    "-",
    " – ",
    " — ",
    " - ",
    " to ",
    " until ",
    " till ",
    " through ",
    " bis ",
    " au ",
    " al ",
    " tot ",
    " do ",
    " до ",
    "～",
    "〜",
];
/// The dashes among them.
const DASHES: &[&str] = &["–", "-", " – "];

/// Where the span ends of which the first date or time ends at `end`; there, if it is none.
fn spanned(text: &str, kind: Kind, end: usize) -> usize {
    // An interval of ISO 8601: `2031-05-17/2031-05-20`.
    let behind_stroke = text[end..].starts_with('/') && digits(text, end + 1) == 4;
    if behind_stroke && let Some(last) = numeric(text, end + 1, 4, b'-') {
        return last;
    }
    let Some(next) = skip(text, end, SPANS) else { return end };
    let second = match text.as_bytes().get(next) {
        Some(b'0'..=b'9') => single_with_number(text, next),
        Some(b'A'..=b'Z') => single_with_month(text, next, super::word_end(text, next)),
        _ => None,
    };
    second.filter(|(second, _)| *second == kind).map_or(end, |(_, end)| end)
}

/// `May 17, 2031`, `May 2031`, `June 3rd`, `May 3–5`, `May 30 – June 2`.
pub(super) fn beginning_with_month(text: &str, at: usize, run: usize) -> Option<(Kind, usize)> {
    single_with_month(text, at, run).map(|(kind, end)| (kind, spanned(text, kind, end)))
}

fn single_with_month(text: &str, at: usize, run: usize) -> Option<(Kind, usize)> {
    if run - at > LONGEST_MONTH || !begins_token(text, at) {
        return None;
    }
    // A digit must follow soon, or the look-up is not worth its while.
    let near = text.as_bytes()[run..].iter().take(3).any(u8::is_ascii_digit);
    if !near {
        return None;
    }
    // The caller begins at capitals alone: `may 5` is more often a verb than a month, `mar 3` no month at all.
    let (end, _) = month(text, at)?;
    let end = skip(text, end, &[". ", " ", ".\u{a0}", "\u{a0}"])?;
    if is_year(text, end) {
        return Some((Kind::Date, end + 4));
    }
    let length = digits(text, end);
    if !(1..=2).contains(&length) || !(1..=31).contains(&number(text, end, length)) {
        return None;
    }
    let mut day = end + length;
    day = skip(text, day, &["st", "nd", "rd", "th"]).unwrap_or(day);
    if let Some(last) = skip(text, day, DASHES)
        && (1..=2).contains(&digits(text, last))
        && (1..=31).contains(&number(text, last, digits(text, last)))
        && ends_token(text, last + digits(text, last))
    {
        day = last + digits(text, last);
    }
    if !ends_token(text, day) || goes_on_as_number(text, day) {
        return None;
    }
    let year = skip(text, day, &[", ", " "]).filter(|&year| is_year(text, year));
    Some((Kind::Date, year.map_or(day, |year| year + 4)))
}

/// Whether digits follow behind one separator.
fn goes_on_as_number(text: &str, at: usize) -> bool {
    let bytes = text.as_bytes();
    matches!(bytes.get(at), Some(b'.' | b',' | b':' | b'/' | b'-' | b'%'))
        && bytes.get(at + 1).is_some_and(u8::is_ascii_digit)
}

/// A date or a time of day that begins with a number, or a span of either.
pub(super) fn beginning_with_number(text: &str, at: usize) -> Option<(Kind, usize)> {
    match single_with_number(text, at) {
        Some((kind, end)) => Some((kind, spanned(text, kind, end))),
        None => days_of_month(text, at).or_else(|| hours(text, at)),
    }
}

/// `3–5 May 2031`, `3 to 5 May`, `3. bis 5. Mai`.
fn days_of_month(text: &str, at: usize) -> Option<(Kind, usize)> {
    let first = digits(text, at);
    if !(1..=2).contains(&first) || !(1..=31).contains(&number(text, at, first)) || !begins_token(text, at) {
        return None;
    }
    let end = skip(text, at + first, &["st", "nd", "rd", "th", "."]).unwrap_or(at + first);
    let second = skip(text, end, SPANS)?;
    let length = digits(text, second);
    if (1..=2).contains(&length) { day_and_month(text, second, length) } else { None }
}

/// `9–11 am`, `9.30–11 Uhr`: the half of the day, or the hour, stands behind the second time alone.
fn hours(text: &str, at: usize) -> Option<(Kind, usize)> {
    let first = digits(text, at);
    if !(1..=2).contains(&first) || number(text, at, first) > 24 || !begins_token(text, at) {
        return None;
    }
    let mut end = at + first;
    if text[end..].starts_with('.') && digits(text, end + 1) == 2 && number(text, end + 1, 2) < 60 {
        end += 3;
    }
    let second = skip(text, end, SPANS)?;
    let length = digits(text, second);
    if !(1..=2).contains(&length) {
        return None;
    }
    let (kind, last) = time(text, second, length)?;
    let has_half = HALVES.iter().any(|half| text[..last].ends_with(half));
    has_half.then_some((kind, last))
}

fn single_with_number(text: &str, at: usize) -> Option<(Kind, usize)> {
    let first = digits(text, at);
    if !(1..=4).contains(&first) || !begins_token(text, at) {
        return None;
    }
    let bytes = text.as_bytes();
    let sign = bytes.get(at + first).copied();
    let free_before = at == 0
        || !matches!(bytes[at - 1], b'/' | b'.' | b'-' | b':')
        || !bytes.get(at.wrapping_sub(2)).is_some_and(u8::is_ascii_digit);
    if free_before
        && let Some(sign @ (b'-' | b'/' | b'.')) = sign
        && let Some(end) = numeric(text, at, first, sign)
    {
        return Some((Kind::Date, with_time(text, end)));
    }
    if let Some(found) = with_signs(text, at, first) {
        return Some(found);
    }
    match first {
        1 | 2 => time(text, at, first).or_else(|| day_and_month(text, at, first)),
        4 => year_month_and_day(text, at),
        _ => None,
    }
}

/// `2031-05-17`, `17.05.2031`, `17/5/31`, `5/17/2031`.
fn numeric(text: &str, at: usize, first: usize, sign: u8) -> Option<usize> {
    let two = at + first + 1;
    let second = digits(text, two);
    if !(1..=2).contains(&second) || text.as_bytes().get(two + second) != Some(&sign) {
        return None;
    }
    let three = two + second + 1;
    let third = digits(text, three);
    let end = three + third;
    let (a, b, c) = (number(text, at, first), number(text, two, second), number(text, three, third));
    let fits = |day: u32, month: u32| (1..=31).contains(&day) && (1..=12).contains(&month);
    let valid = match (first, third) {
        (4, 1..=2) => (1000..3000).contains(&a) && fits(c, b),
        (1..=2, 4) => (1000..3000).contains(&c) && (fits(a, b) || fits(b, a)),
        // Two figures for the year are told with slashes, or with points and two figures all over; else `10.7.96` may be a version.
        (1..=2, 2) => {
            (fits(a, b) || (sign == b'/' && fits(b, a)))
                && (sign == b'/'
                    || (first == 2 && second == 2)
                    || sign == b'.' && stands_behind_day_word(text, at))
        }
        _ => false,
    };
    let separated = !(text.as_bytes().get(end) == Some(&sign)
        && text.as_bytes().get(end + 1).is_some_and(u8::is_ascii_digit));
    (valid && separated && (ends_token(text, end) || text[end..].starts_with('T'))).then_some(end)
}

/// Whether the word before names a day, as in `am 10.7.96`.
fn stands_behind_day_word(text: &str, at: usize) -> bool {
    const BEFORE_A_DAY: [&str; 10] = ["am", "vom", "zum", "den", "dne", "dnia", "le", "il", "el", "op"];
    let Some(before) = text[..at].strip_suffix(' ') else { return false };
    BEFORE_A_DAY
        .iter()
        .any(|word| before.strip_suffix(word).is_some_and(|rest| !rest.ends_with(unicode::is_letter)))
}

/// A time of day right behind an ISO date: `T06:30:00Z`.
fn with_time(text: &str, date: usize) -> usize {
    if !text[date..].starts_with('T') {
        return date;
    }
    let at = date + 1;
    let length = digits(text, at);
    match clock(text, at, length) {
        Some(mut end) if length == 2 => {
            if text[end..].starts_with('.') && digits(text, end + 1) > 0 {
                end += 1 + digits(text, end + 1);
            }
            if text[end..].starts_with('Z') {
                end += 1;
            } else if text[end..].starts_with(['+', '-']) && digits(text, end + 1) >= 2 {
                let hours = digits(text, end + 1).min(4);
                end += 1 + hours;
                if text[end..].starts_with(':') && digits(text, end + 1) == 2 {
                    end += 3;
                }
            }
            end
        }
        _ => date,
    }
}

/// `17 May 2031`, `17th of May`, `17. Mai 2031`, `17 de mayo de 2031`, `1er mai`, `17 мая 2031`.
fn day_and_month(text: &str, at: usize, first: usize) -> Option<(Kind, usize)> {
    if !(1..=31).contains(&number(text, at, first)) {
        return None;
    }
    let mut end = at + first;
    end = skip(text, end, &["st", "nd", "rd", "th", "er", "º", "."]).unwrap_or(end);
    end = skip(text, end, &[" ", "\u{a0}", "-"])?;
    end = skip(text, end, &["of "]).unwrap_or(end);
    let joined = skip(text, end, &["de ", "di ", "d'", "d’"]);
    end = joined.unwrap_or(end);
    let (named, month) = month(text, end)?;
    // In English a month has a capital: `12 may` is hardly one where a year does not say so.
    let is_told = text[end..].starts_with(char::is_uppercase)
        || month == Month::Certain
        || joined.is_some() && month == Month::Likely;
    let stop = skip(text, named, &["."]).unwrap_or(named);
    let year = skip(text, named, &[" de ", " del ", " ", ". ", ", ", "-", "\u{a0}"])
        .filter(|&year| is_year(text, year));
    match year {
        Some(year) => Some((Kind::Date, year + 4)),
        None if is_told => {
            let with_stop = stop > named && month == Month::Short && text[stop..].starts_with(' ');
            Some((Kind::Date, if with_stop { stop } else { named }))
        }
        None => None,
    }
}

/// `2031 May 17`, `2031. május 17.`
fn year_month_and_day(text: &str, at: usize) -> Option<(Kind, usize)> {
    let name = is_year(text, at).then(|| skip(text, at + 4, &[". ", " ", "\u{a0}"]))??;
    let (end, _) = month(text, name)?;
    let day = skip(text, end, &[". ", " ", "\u{a0}"])?;
    let length = digits(text, day);
    let fits = (1..=2).contains(&length) && (1..=31).contains(&number(text, day, length));
    let end = day + length;
    if !fits || !ends_token(text, end) || goes_on_as_number(text, end) {
        return None;
    }
    // In Hungarian the day has a full stop as the year has.
    let stop = skip(text, end, &["."]).filter(|_| text[at + 4..].starts_with('.'));
    Some((Kind::Date, stop.unwrap_or(end)))
}

/// The signs of Chinese, Japanese and Korean behind a year, a month and a day.
const OF_A_DATE: [&[&str]; 3] = [&["年", "년"], &["月", "월"], &["日", "号", "號", "일"]];
/// The same behind hours, minutes and seconds.
const OF_A_TIME: [&[&str]; 3] = [&["時", "时", "点", "點", "시"], &["分", "분"], &["秒", "초"]];

/// `2031年5月17日`, `5月17日`, `2031년 5월`, `18時30分`, `18時`.
fn with_signs(text: &str, at: usize, first: usize) -> Option<(Kind, usize)> {
    let behind = at + first;
    if text.as_bytes().get(behind).is_none_or(u8::is_ascii) {
        return None;
    }
    if first == 4 || skip(text, behind, OF_A_DATE[1]).is_some() {
        let parts = if first == 4 { &OF_A_DATE[..] } else { &OF_A_DATE[1..] };
        let (end, count) = parts_end(text, at, parts, &[3000, 12, 31][3 - parts.len()..])?;
        return (count > 1).then_some((Kind::Date, end));
    }
    let (end, count) = parts_end(text, at, &OF_A_TIME, &[24, 59, 59])?;
    // `3点` may be three points.
    let is_hour = count > 1 || !text[..end].ends_with(['点', '點']);
    is_hour.then_some((Kind::Time, end))
}

/// Where the last of these parts ends, each a number with one of its signs behind it, and how many there are.
fn parts_end(text: &str, at: usize, parts: &[&[&str]], most: &[u32]) -> Option<(usize, usize)> {
    let (mut end, mut count) = (None, 0);
    for (signs, most) in parts.iter().zip(most) {
        let from = match end {
            None => at,
            Some(end) => skip(text, end, &[" "]).unwrap_or(end),
        };
        let length = digits(text, from);
        if !(1..=4).contains(&length) || number(text, from, length) > *most {
            break;
        }
        let Some(behind) = skip(text, from + length, signs) else { break };
        end = Some(behind);
        count += 1;
    }
    Some((end?, count))
}

/// Where `06:30` or `06:30:15` ends.
fn clock(text: &str, at: usize, first: usize) -> Option<usize> {
    let bytes = text.as_bytes();
    let minutes = at + first + 1;
    if number(text, at, first) > 24 || bytes.get(at + first) != Some(&b':') {
        return None;
    }
    if digits(text, minutes) != 2 || number(text, minutes, 2) > 59 {
        return None;
    }
    let end = minutes + 2;
    let has_seconds =
        bytes.get(end) == Some(&b':') && digits(text, end + 1) == 2 && number(text, end + 1, 2) < 60;
    Some(if has_seconds { end + 3 } else { end })
}

/// Signs of the half of the day, and of the hour.
const HALVES: &[&str] = &["a.m.", "p.m.", "am", "pm", "AM", "PM", "A.M.", "P.M.", "Uhr"];

fn half(text: &str, at: usize) -> Option<usize> {
    let from = skip(text, at, &[" ", "\u{a0}", "\u{202f}"]).unwrap_or(at);
    let end = skip(text, from, HALVES)?;
    ends_token(text, end).then_some(end)
}

fn time(text: &str, at: usize, first: usize) -> Option<(Kind, usize)> {
    let bytes = text.as_bytes();
    if let Some(end) = clock(text, at, first) {
        let goes_on = bytes.get(end) == Some(&b':') && bytes.get(end + 1).is_some_and(u8::is_ascii_digit);
        if let Some(end) = half(text, end) {
            return Some((Kind::Time, end));
        }
        return (ends_token(text, end) && !goes_on).then_some((Kind::Time, end));
    }
    let hour = number(text, at, first);
    if hour > 24 {
        return None;
    }
    let end = at + first;
    // `6.30 p.m.`, `18.30 Uhr`
    if bytes.get(end) == Some(&b'.') && digits(text, end + 1) == 2 && number(text, end + 1, 2) < 60 {
        return half(text, end + 3).map(|end| (Kind::Time, end));
    }
    if let Some(end) = half(text, end) {
        // `18 am` is a German preposition, `in 10 am` none of ours.
        let fits = hour <= 12 || text[..end].ends_with("Uhr");
        return fits.then_some((Kind::Time, end));
    }
    // `18h30`, `18h` alone is a measure
    (bytes.get(end) == Some(&b'h')
        && digits(text, end + 1) == 2
        && number(text, end + 1, 2) < 60
        && ends_token(text, end + 3))
    .then_some((Kind::Time, end + 3))
}
