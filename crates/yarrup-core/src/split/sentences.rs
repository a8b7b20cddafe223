//! Sentences by rules of our own.

use crate::kind::{Kind, emoji_length, recognise_at};
use crate::span::Span;
use crate::split::Splitter;
use crate::split::abbreviations::{
    Abbreviation, Abbreviations, ends_with_initial, goes_on_after_time, goes_on_as_date, is_month,
};
use crate::unicode::{self, Category, SentenceBreak};

/// A token is a sentence, by rules of our own (`docs/splitting.md`): a sentence ends behind `.`, `!`, `?`, `…` and their like in
/// other scripts, with the quotes and brackets that close there, where white space and something that can begin a sentence follow;
/// and at an empty line. Abbreviations, initials, decimals, ordinals and ellipses end none where they should not.
#[derive(Clone, Debug)]
pub struct Sentences {
    abbreviations: Abbreviations,
    /// Whether `;` asks a question.
    greek: bool,
}

impl Sentences {
    /// Sentences of a language, such as `en`; with none, the abbreviations of English and of no other language's words.
    pub fn of(language: Option<&str>) -> Sentences {
        Sentences { abbreviations: Abbreviations::of(language), greek: language == Some("el") }
    }
}

impl Splitter for Sentences {
    fn split(&self, text: &str, spans: &mut Vec<Span>) {
        // Who writes no word with a first capital begins sentences with small letters. `I` and `OK` are written large by most.
        // A capital alone at the very beginning is a word of one letter: `A`, `О`, `У`.
        let begins_large = || {
            let mut letters = text.chars().skip_while(|c| !unicode::is_letter(*c));
            letters.next().is_some_and(|c| c.is_uppercase() && c != 'I')
                && letters.next().is_some_and(char::is_whitespace)
        };
        let has_capitals = text
            .chars()
            .zip(text.chars().skip(1))
            .any(|(first, second)| first.is_uppercase() && second.is_lowercase())
            || begins_large();
        let mut scan = Scan { rules: self, text, bytes: text.as_bytes(), start: 0, has_capitals };
        let mut at = 0;
        while let Some(end) = scan.next_end(&mut at) {
            push_trimmed(text, scan.start, end, spans);
            scan.start = end;
            at = at.max(end);
        }
        push_trimmed(text, scan.start, text.len(), spans);
    }

    fn ignores_case(&self) -> bool {
        false
    }

    fn parts_words(&self) -> bool {
        false
    }

    fn makes_lines(&self) -> bool {
        true
    }
}

pub(super) fn push_trimmed(text: &str, start: usize, end: usize, spans: &mut Vec<Span>) {
    let stretch = &text[start..end];
    let trimmed = stretch.trim_start();
    let start = end - trimmed.len();
    let trimmed = trimmed.trim_end();
    if !trimmed.is_empty() {
        spans.push(Span { start: start as u32, end: (start + trimmed.len()) as u32 });
    }
}

struct Scan<'t> {
    rules: &'t Sentences,
    text: &'t str,
    bytes: &'t [u8],
    /// Where the present sentence begins.
    start: usize,
    has_capitals: bool,
}

/// The longest heading, in characters.
const HEADING: usize = 60;

/// How strongly a sign ends a sentence.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Sign {
    /// A single full stop.
    Stop,
    /// Two full stops or more, or the character for them.
    Ellipsis,
    /// `!`, `?` and their like.
    Strong,
    /// A full stop of a script that needs no space behind it.
    Wide,
}

impl Scan<'_> {
    /// Where the present sentence ends; looks from `at` on and leaves there how far it looked. None at the end of the text.
    fn next_end(&mut self, at: &mut usize) -> Option<usize> {
        while *at < self.bytes.len() {
            let here = *at;
            let byte = self.bytes[here];
            match byte {
                b'\n' => {
                    if let Some(end) = self.paragraph_end(here) {
                        *at = end;
                        return Some(end);
                    }
                    *at += 1;
                }
                b'.' | b'!' | b'?' => {
                    let found = self.candidate(here, at);
                    if found.is_some() {
                        return found;
                    }
                }
                b';' if self.rules.greek => {
                    let found = self.candidate(here, at);
                    if found.is_some() {
                        return found;
                    }
                }
                0x80.. => {
                    let Some(c) = self.text[here..].chars().next() else { break };
                    if self.sign(c).is_some() {
                        let found = self.candidate(here, at);
                        if found.is_some() {
                            return found;
                        }
                    } else if c == '\u{2029}' {
                        *at += c.len_utf8();
                        return Some(*at);
                    } else {
                        *at += c.len_utf8();
                    }
                }
                _ => *at += 1,
            }
        }
        None
    }

    /// Whether an empty line, or an item of a list, follows the line break at `at`.
    fn paragraph_end(&self, at: usize) -> Option<usize> {
        let rest = &self.text[at + 1..];
        let line = rest.trim_start_matches([' ', '\t', '\r']);
        if line.starts_with('\n') {
            return Some(at + 1);
        }
        let item = line.starts_with("- ") || line.starts_with("* ") || line.starts_with(['•', '◦', '‣']);
        let marked = match list_mark(line) {
            Some(mark) if mark.starts_with(|c: char| c.is_ascii_digit()) => true,
            // `either (a) the first or` and `(b) the second` may be two lines of one sentence.
            Some(_) => {
                let before = &self.text[self.start..at];
                before.trim_end().ends_with(['.', ';', ':', ',', '!', '?'])
                    || list_mark(before.trim_start()).is_some()
            }
            None => false,
        };
        (item || marked || self.is_heading(at)).then_some(at + 1)
    }

    /// Whether the line that ends at `at` is a heading: the first of its paragraph, short, without a mark at its end, and followed by a line
    /// that begins with a capital and is half as long again. Lines that a program has wrapped are of about one length.
    fn is_heading(&self, at: usize) -> bool {
        let before = &self.text[self.start..at];
        // No heading is longer; what is longer need not be looked through.
        let window: usize = before.chars().rev().take(HEADING + 1).map(char::len_utf8).sum();
        let near = &before[before.len() - window..];
        let line = match near.rfind('\n') {
            Some(feed) => {
                let is_first = near[..feed].ends_with('\n') || near[..feed].trim().is_empty();
                if !is_first {
                    return false;
                }
                &near[feed + 1..]
            }
            None if window < before.len() => return false,
            // The present sentence begins here: at the text's start, or behind a sentence on a line of its own.
            None if self.start > 0
                && !self.text[..self.start].trim_end_matches([' ', '\t', '\r']).ends_with('\n') =>
            {
                return false;
            }
            None => near,
        };
        let line = line.trim();
        let length = line.chars().count();
        let next = self.text[at + 1..].split('\n').next().unwrap_or_default().trim();
        length > 0
            && length <= HEADING
            && line.starts_with(|c: char| c.is_uppercase() || c.is_ascii_digit())
            && line.ends_with(|c: char| unicode::is_letter(c) || unicode::is_number(c))
            && next.starts_with(char::is_uppercase)
            && next.chars().count() * 2 >= length * 3
    }

    fn sign(&self, c: char) -> Option<Sign> {
        match c {
            '.' => Some(Sign::Stop),
            '…' => Some(Sign::Ellipsis),
            '!' | '?' | '‼' | '⁇' | '⁈' | '⁉' | '‽' => Some(Sign::Strong),
            ';' | '\u{37e}' if self.rules.greek => Some(Sign::Strong),
            '。' | '！' | '？' | '｡' | '．' | '︒' | '﹒' => Some(Sign::Wide),
            c if c.is_ascii() => None,
            c => (unicode::sentence_break(c) == SentenceBreak::STerm).then_some(Sign::Strong),
        }
    }

    /// Decides about the run of signs that begins at `here`. Leaves in `at` where to look on.
    fn candidate(&self, here: usize, at: &mut usize) -> Option<usize> {
        let (mut end, mut stops, mut strongest) = (here, 0, Sign::Stop);
        let mut chars = self.text[here..].char_indices();
        for (offset, c) in chars.by_ref() {
            let Some(sign) = self.sign(c) else { break };
            stops += usize::from(c == '.');
            match (strongest, sign) {
                (_, Sign::Wide) | (Sign::Wide, _) => strongest = Sign::Wide,
                (_, Sign::Strong) => strongest = Sign::Strong,
                (Sign::Stop, Sign::Ellipsis) => strongest = Sign::Ellipsis,
                _ => {}
            }
            end = here + offset + c.len_utf8();
        }
        if strongest == Sign::Stop && stops > 1 {
            strongest = Sign::Ellipsis;
        }
        // `. . .` with spaces between is an ellipsis too.
        while strongest != Sign::Wide
            && self.text[end..].starts_with(" .")
            && !self.bytes.get(end + 2).is_some_and(u8::is_ascii_alphanumeric)
        {
            end += 2;
            strongest = Sign::Ellipsis;
        }
        let signs = end;
        let mut closed = false;
        for c in self.text[signs..].chars() {
            let closes = matches!(
                c,
                '"' | '\''
                    | ')'
                    | ']'
                    | '}'
                    | '”'
                    | '’'
                    | '»'
                    | '›'
                    | '“'
                    | '‘'
                    | '」'
                    | '』'
                    | '）'
                    | '】'
                    | '》'
                    | '*'
                    | '_'
            );
            // The same sign closes in German and opens in Chinese and English: behind a letter it opens.
            let next = || self.text[end + c.len_utf8()..].chars().next();
            if !closes || (matches!(c, '“' | '‘') && next().is_some_and(unicode::is_letter)) {
                break;
            }
            // A quote that opens the next sentence stands behind a space, never right behind the stop.
            closed |= c != '*' && c != '_';
            end += c.len_utf8();
        }
        // French sets its closing quote behind a space; before a word it opens.
        for space in [" »", "\u{a0}»", "\u{202f}»"] {
            if let Some(behind) = self.text[end..].strip_prefix(space)
                && behind.chars().next().is_none_or(char::is_whitespace)
            {
                end += space.len();
                closed = true;
            }
        }
        *at = end;
        let rest = &self.text[end..];
        let gap = rest.len() - rest.trim_start().len();
        if rest.is_empty() {
            return None;
        }
        if gap == 0 {
            // Japanese goes on with a particle behind what was quoted: `「見て！」と`.
            let goes_on = closed && rest.starts_with(['と', 'っ']);
            return (strongest == Sign::Wide && !goes_on).then_some(end);
        }
        let end = self.with_faces(end);
        let rest = self.text[end..].trim_start();
        if rest.is_empty() {
            return None;
        }
        let next_at = self.text.len() - rest.len();
        let breaks_line = self.text[end..next_at].matches('\n').count() > 1;
        if breaks_line || self.begins(strongest, here, closed, rest) { Some(end) } else { None }
    }

    /// Emoji and faces right behind a sentence's end belong to it.
    fn with_faces(&self, end: usize) -> usize {
        let mut with = end;
        loop {
            let rest = &self.text[with..];
            let trimmed = rest.trim_start_matches(' ');
            let from = with + rest.len() - trimmed.len();
            let emoji = if trimmed.as_bytes().first().is_some_and(|&byte| byte >= 0x80) {
                emoji_length(trimmed)
            } else {
                0
            };
            let face = match emoji {
                0 => recognise_at(self.text, from)
                    .filter(|(kind, _)| *kind == Kind::Emoticon)
                    .map_or(0, |(_, range)| range.len()),
                length => length,
            };
            if face == 0 {
                return with;
            }
            with = from + face;
        }
    }

    /// Whether a sentence begins with `rest`, behind the sign at `here`.
    fn begins(&self, sign: Sign, here: usize, closed: bool, rest: &str) -> bool {
        let opens = |c: char| {
            unicode::is_opening(c)
                || matches!(
                    c,
                    '"' | '\''
                        | '¿'
                        | '¡'
                        | '„'
                        | '‚'
                        | '*'
                        | '_'
                        | '-'
                        | '–'
                        | '—'
                        | '«'
                        | '»'
                        | '“'
                        | '”'
                        | '‘'
                        | '’'
                )
        };
        let body = rest.trim_start_matches(|c: char| opens(c) || c == ' ');
        let opened = body.len() < rest.len();
        let Some(first) = body.chars().next() else { return true };
        let word_end =
            body.find(|c: char| !(unicode::is_letter(c) || c == '\'' || c == '’')).unwrap_or(body.len());
        let next = body[..word_end].split(['\'', '’']).next().unwrap_or_default();
        // `iPhones ring`, Dutch `'s Morgens`: a capital comes second.
        let behind = &body[first.len_utf8()..];
        let is_shortened = rest.starts_with(['\'', '’']) && next.chars().count() == 1;
        let second = if is_shortened { behind.strip_prefix(' ') } else { Some(behind) };
        let is_large_inside = second.is_some_and(|second| second.starts_with(char::is_uppercase));
        let small = first.is_lowercase() && self.has_capitals && !is_large_inside;
        match sign {
            Sign::Wide => true,
            // `"Look!" she said`; but what is written all small goes on with a new sentence.
            Sign::Strong => {
                !(small && (closed || rest.starts_with(['-', '–', '—'])) || (closed && says(body)))
            }
            Sign::Ellipsis => !small && (first.is_alphanumeric() || opened),
            Sign::Stop => self.ends_at_stop(here, closed, small, body, next, opened),
        }
    }

    fn ends_at_stop(
        &self,
        here: usize,
        closed: bool,
        small: bool,
        body: &str,
        next: &str,
        opened: bool,
    ) -> bool {
        if small {
            return false;
        }
        let word = self.word_before(here);
        let next_is_digit = body.chars().next().is_some_and(unicode::is_number);
        let starter = self.rules.abbreviations.is_starter(next)
            && !(next.chars().count() == 1 && body[next.len()..].starts_with('.'));
        // The number of an item stands at the beginning of its sentence.
        let at_start = self.text[self.start..here - word.len()].trim_start().is_empty();
        if !word.is_empty() && word.chars().all(|c| c.is_ascii_digit()) {
            // Hungarian `2031. május 3`: a date goes on behind the stop.
            let date = recognise_at(self.text, here - word.len()).filter(|(kind, _)| *kind == Kind::Date);
            if date.is_some_and(|(_, place)| place.end > here + 1) {
                return false;
            }
            if at_start && word.len() <= 3 {
                return false;
            }
            let before = &self.text[self.start..here - word.len()];
            if word.len() <= 2 && !closed && self.rules.abbreviations.has_dotted_ordinals(before) {
                return !(is_month(next)
                    || goes_on_as_date(before, body)
                    || !starter && !next_is_digit && !opened);
            }
            return true;
        }
        let begins_line = self.text[..here - word.len()].trim_end_matches([' ', '\t', '(']);
        if at_start && is_roman(word) && (begins_line.is_empty() || begins_line.ends_with('\n')) {
            return false;
        }
        if at_start && word.chars().count() == 1 && word.chars().all(char::is_alphabetic) && !starter {
            return false;
        }
        let mut letters = word.chars();
        let (one, two) = (letters.next(), letters.next());
        if closed && says(body) {
            return false;
        }
        if closed {
            // What is quoted or in brackets ends with its own stop.
            return !matches!(self.rules.abbreviations.find(word), Some(Abbreviation::Leads));
        }
        // `No. 5` is written small as well, but an answer ends its sentence.
        if word == "no" && next_is_digit && self.rules.abbreviations.find("No").is_some() {
            return ends_with_answer(&self.text[self.start..here - word.len()]);
        }
        let before = &self.text[self.start..here - word.len()];
        // `wasn't.`, `Anna's.`, `c'è.` end with a letter behind an apostrophe, which is short for nothing.
        if word.chars().all(char::is_lowercase)
            && word.chars().count() == 1
            && before.ends_with(['\'', '’'])
            && before.len() > 3
        {
            return true;
        }
        match self.rules.abbreviations.find(word) {
            // `P. Sand wrote it`: a capital alone is an initial, unless a number follows.
            Some(Abbreviation::LeadsToNumber) if !next_is_digit && is_capital(word) => {}
            Some(Abbreviation::Leads) => {
                return starter && matches!(word, "St" | "Mt" | "Ft" | "al.") && !next_is_digit;
            }
            Some(Abbreviation::LeadsToNumber) => {
                let roman = !next.is_empty()
                    && next.chars().all(|c| matches!(c, 'I' | 'V' | 'X' | 'L'))
                    && next != "I";
                // A month is written short before a year and before a day; other words that lead to numbers end sentences as words do.
                // `App. B.`, `Fig. C,`: a letter alone is counted by as well.
                let letter = next.chars().count() == 1
                    && next.chars().all(char::is_uppercase)
                    && !body[next.len()..].starts_with([' ', '\'', '’']);
                let is_word = !(next_is_digit || roman || letter);
                return is_word
                    && (starter
                        || word.chars().count() > 2
                        || word.chars().next().is_some_and(char::is_uppercase));
            }
            Some(Abbreviation::HalfOfDay) => return !goes_on_after_time(next) && !next_is_digit,
            Some(Abbreviation::MayEnd) => {
                return if word.eq_ignore_ascii_case("etc")
                    || word.eq_ignore_ascii_case("usw")
                    || word.eq_ignore_ascii_case("ecc")
                {
                    !next_is_digit
                } else if word.contains('.') || word.chars().next().is_some_and(char::is_uppercase) {
                    starter
                } else {
                    !next_is_digit || word.chars().count() > 3
                };
            }
            None => {}
        }
        // Initials: `J. Tern`, `J. R. Tern`; a pronoun and a letter before a starter end their sentences.
        if let (Some(c), None) = (one, two)
            && unicode::is_letter(c)
        {
            let next_is_initial = next.chars().count() == 1 && body[next.len()..].starts_with('.');
            let before = &self.text[self.start..here - word.len()];
            // `z. B.`, `d. h.`, `г. Москва`: small letters with a stop are short for something.
            let after_initial = ends_with_initial(before);
            if !c.is_uppercase() {
                return starter && !next_is_initial && !after_initial;
            }
            if c == 'I' {
                return !next_is_initial;
            }
            return starter && !next_is_initial;
        }
        // Letters with stops between them: `U.N.`, `J.R.R.`
        let initials = word.contains('.')
            && word.split('.').all(|part| part.chars().count() <= 2 && part.chars().all(unicode::is_letter));
        if initials {
            return starter && !next_is_digit;
        }
        true
    }

    /// The word before `at`, with points inside.
    fn word_before(&self, at: usize) -> &str {
        let before = &self.text[self.start..at];
        let inside = |c: char| {
            let is_mark = || matches!(unicode::category(c), Category::Mark | Category::SpacingMark);
            unicode::is_letter(c)
                || unicode::is_number(c)
                || matches!(c, '.' | '-' | 'º' | 'ª')
                || !c.is_ascii() && is_mark()
        };
        // No word that matters here is longer.
        let length: usize =
            before.chars().rev().take(40).take_while(|&c| inside(c)).map(char::len_utf8).sum();
        before[before.len() - length..].trim_start_matches(['.', '-'])
    }
}

/// Whether a word is one capital letter.
fn is_capital(word: &str) -> bool {
    let mut letters = word.chars();
    letters.next().is_some_and(char::is_uppercase) && letters.next().is_none()
}

/// Whether a text ends with a word behind which `no` is an answer.
fn ends_with_answer(text: &str) -> bool {
    const WORDS: [&str; 9] = ["said", "say", "says", "saying", "answered", "replied", "or", "but", "yes"];
    let word = text.trim_end().rsplit(|c: char| !unicode::is_letter(c)).next().unwrap_or_default();
    text.trim_end().ends_with([',', ':']) || WORDS.contains(&word)
}

/// What the items of a list are counted by at the start of `line`, with its signs: `12.`, `a)`, `(b)`, `iv.`
fn list_mark(line: &str) -> Option<&str> {
    let opened = line.starts_with('(');
    let name = &line[usize::from(opened)..];
    let length = name.bytes().take(5).take_while(u8::is_ascii_alphanumeric).count();
    let (name, rest) = name.split_at(length);
    let counts = match name.len() {
        0 => false,
        1..=3 if name.bytes().all(|byte| byte.is_ascii_digit()) => true,
        // A capital with a full stop is an initial.
        1 => name.bytes().all(|byte| byte.is_ascii_lowercase()) || rest.starts_with(')'),
        _ => is_roman(name),
    };
    let closes = rest.starts_with(')') || (rest.starts_with('.') && !opened);
    // `i. e.` counts nothing.
    let is_short_form = name == "i" && rest.starts_with(". e.");
    (counts && closes && rest[1..].starts_with(' ') && !is_short_form)
        .then(|| &line[..usize::from(opened) + length + 1])
}

/// Whether a word is a Roman number of a small list, in small letters or in capitals.
fn is_roman(word: &str) -> bool {
    const NUMBERS: [&str; 20] = [
        "i", "ii", "iii", "iv", "v", "vi", "vii", "viii", "ix", "x", "xi", "xii", "xiii", "xiv", "xv", "xvi",
        "xvii", "xviii", "xix", "xx",
    ];
    NUMBERS.contains(&word) || NUMBERS.iter().any(|number| number.to_ascii_uppercase() == word)
}

/// Whether a text goes on with who says what was quoted: `Mira said`.
fn says(text: &str) -> bool {
    const VERBS: &[&str] = &[
        "said",
        "says",
        "asked",
        "asks",
        "cried",
        "shouted",
        "called",
        "whispered",
        "replied",
        "answered",
        "yelled",
        "muttered",
        "added",
        "sagte",
        "fragte",
        "rief",
        "dit",
        "demanda",
        "cria",
        "dijo",
        "preguntó",
        "gritó",
        "disse",
        "chiese",
    ];
    const PRONOUNS: &[&str] = &[
        "He", "She", "They", "We", "I", "You", "It", "Nobody", "Everyone", "Who", "Er", "Sie", "Wir", "Il",
        "Elle", "Él", "Ella",
    ];
    let mut words = text.split(|c: char| !unicode::is_letter(c)).filter(|word| !word.is_empty());
    let first = words.next().unwrap_or_default();
    // A pronoun with a capital begins a sentence of its own: `He said nothing.`
    !PRONOUNS.contains(&first) && words.next().is_some_and(|word| VERBS.contains(&word))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn check(language: Option<&str>, texts: &[&str]) {
        let mut wrong = Vec::new();
        for marked in texts {
            let expected: Vec<&str> = marked.split('|').map(str::trim).collect();
            let text = marked.replace('|', "");
            let mut spans = Vec::new();
            Sentences::of(language).split(&text, &mut spans);
            let found: Vec<&str> = spans.iter().map(|span| span.of(&text)).collect();
            if found != expected {
                wrong.push(format!("{marked}\n  {found:?}"));
            }
        }
        assert!(wrong.is_empty(), "{}", wrong.join("\n"));
    }

    #[test]
    fn english_sentences() {
        check(
            Some("en"),
            &[
                "The terns are back.| They nest on the spit!| Did you see them?| Yes.",
                "Dr. Heron and Mrs. J. R. Sand met at 5 p.m. on Friday.| They left.",
                "It opens at 9 a.m. Monday.| It shuts at 5 p.m.| Mira has the key.",
                "The water rose 3.5 m.| It cost £4.50.| Then it fell.",
                "\"Look!\" she said.| \"It is a tern.\"| He nodded.",
                "“We saw it.”| “Where?”| “Here.”",
                "(It was late.)| We went home (by bus).| Nobody spoke.",
                "See fig. 3 and p. 12, vol. 2, No. 5, e.g. the map, i.e. this one.",
                "He said no.| She left.",
                "Gulls, terns, etc. were there.| Terns, gulls, etc.| The end.",
                "He works for Tide Inc. in the U.S. and the U.K.| He likes it.",
                "It is in the U.S.| The tern is not.",
                "Wait... what?| Well...| Then it flew.",
                "Well… no.| Well…| It flew.",
                "It is in App. B, cf. Fig. C.| The rest is lost.",
                "1. Count the nests.| 2. Write them down.",
                "In 2031.| 25 nests were found.",
                "So did I.| Mira saw it.",
                "J. R. R. Tern wrote it.| A. Gull read it.",
                "What?!| No!!!| Really.",
                "Great! 🐦| Next one. :-)| More.",
                "Visit https://example.org/a.b?c.| Then write to warden@example.org.| Bye.",
                "We left on Jan. 5 at night.| It was in Dec.| The tide was high.",
                "The end.It was odd.",
                "He asked \"Why?\" and left.| Then he came back.",
                "Plan B.| The tide.",
                "Capt. Sand of St. Brine's met Gen. Marsh vs. Col. Reed.",
                "one thing.| another thing.| I saw it, ok?| yes.",
                "First para\n\n|second para.",
                "Ward report\n|The terns are back on the northern spit.| They nest.\n\n|Gull Hide\n|Nobody was there when Mira came by.",
                "The wardens of the northern\nSpit counted every nest that\nThey could find.",
                "\"Stop!\" Mira said.| \"Why?\"| He said nothing.| We left.",
                "To do:\n|- nets\n|- posts",
                "He wasn't.| Anna was.| It was Anna's.| Peter laughed.| They’d.| Sand nodded.",
                "P. Sand and S. Reed wrote it with F. V. Marsh.| See P. 5.",
                "Brig. Gen. Sand, Atty. Gen. Reed and Sens. Dune and Marsh met Lt. Col. Tide.| They left.",
                "Box no. 5 is full, and so is no. 12.| Is it empty?| He said no.| 25 nests were found.",
                "Bring:\n|a) nets;\n|b) posts.\n|c) The rope of Mira.",
                "Bring\n\n|(a) nets\n|(b) posts\n|(iii) rope",
                "Take either (a) the first or\n(b) the second.",
                "They say:\n|i. Nets are dear.\n|ii. Posts are not.\n|iv. The rope is lost.",
                "The map, i. e. the chart,\ni. e. Reed's one.",
            ],
        );
    }

    #[test]
    fn other_languages() {
        check(
            Some("de"),
            &[
                "Am 3. Mai kamen z.B. Dr. Sand und Prof. Reet.| Sie blieben bis 18 Uhr.",
                "Der 2. Weltkrieg ist vorbei.| Es war 1945.| Dann kam Ruhe.",
                "„Schau!“, sagte sie.| „Eine Möwe.“| Er nickte.",
                "Möwen, Seeschwalben usw. waren da.| Nr. 5 fehlt, vgl. S. 12.",
                "Das ist z. B. gut, d. h. Sie kommen.| Er kam am 5. Januar.| Es war kalt.",
                "Am 3. 7. kam sie.| Am 14. 7. 2031 ging er, bis zum 2. 8.| Es war kalt.| Der 2. Preis ging an Anna.",
                "Es waren 25.| 12 kamen wieder.| Wie geht's.| Anna kommt.",
            ],
        );
        check(
            Some("fr"),
            &[
                "M. Dune et Mme. Grève sont là.| « Regardez ! »| Il part.",
                "Qu'est-ce que c'est ?| Une sterne, p. 5, etc.| Oui !",
                "Il l'a.| Demain on part.| Le livre d'A. Martin est là.",
            ],
        );
        check(
            Some("es"),
            &[
                "El Sr. Duna llegó a las 5 p.m. del lunes.| ¿Dónde está?| ¡Aquí!",
                "La Dra. Playa vive en EE.UU. desde 2030.| No vuelve.",
                "Vive en EE. UU. con la Sra. Mar.| Es feliz.",
            ],
        );
        check(
            Some("it"),
            &["Oggi non c'è.| Torna domani?| La Sig.ra Duna e il Sig. P. Mare sono qui, ecc.| Sì."],
        );
        check(
            None,
            &[
                "La Dra. Playa y la Sra. Mar llegaron.| El sig. Rossi no.",
                "Er kam am 3. 7. mit Anna.| Das war der 2. Preis.| Es war schön.",
                "I saw 5.| Terns came.",
            ],
        );
        check(Some("ja"), &["鳥が来た。|「見て！」と言った。|白い鳥だ。"]);
        check(None, &["我们看到了燕鸥。|它在哪里？|“在这里。”|好！", "पक्षी आया।| वह गया।", "هل رأيت؟| نعم."]);
        check(Some("ru"), &["Он живёт в г. Москва, на ул. Мира и т.д. до моря.| Она тоже."]);
        for (language, marked) in [
            ("da", "Hr. Sand kom kl. 5, jf. s. 12, f.eks. Anna, Bo osv.| Hun blev."),
            ("no", "Fr. Strand bor i nr. 7, bl.a. med Ola m.fl.| Hun blir."),
            ("fi", "Prof. Ranta tuli v. 2031, ks. s. 12, esim. Anna jne.| Hän jäi."),
            ("cs", "Ing. Písek přišel (str. 22), tzv. Racek, viz čl. 5 atd.| Ona zůstala."),
            ("hu", "Dr. Part jött, pl. Anna, kb. 12 madár stb.| A többi elment."),
            ("ro", "Dl. Mare și dr. Val stau pe str. Mării nr. 5, pag. 12 etc.| Ea a rămas."),
            ("uk", "Проф. Берег живе на вул. Морській, див. с. 12 і т.д.| Вона залишилась."),
            ("tr", "Sayın Dr. Deniz, örn. Ali, bkz. s. 12 vb.| Bu yeter."),
            ("el", "Ο κ. Θάλασσας, π.χ. Άννα, βλ. σελ. 12 κ.λπ.| Είναι εδώ."),
            ("el", "Πού είναι;| Εδώ."),
            // By the table of a neighbour.
            ("nb", "Fr. Strand bor i nr. 7, bl.a. med Ola m.fl.| Hun blir."),
            ("sk", "Ing. Piesok prišiel (str. 22), tzv. Čajka atď.| Ona zostala."),
        ] {
            check(Some(language), &[marked]);
        }
    }
}
