use std::ops::Range;

use crate::kind::emoji_length;
use crate::step::{Built, Facts, Key, Operation, Rewriter, Settings, Stage, TextStep};
use crate::unicode::{self, Category};

const LETTERS: Key<u64> = Key::whole(
    "letters",
    1,
    20,
    "how many of the same letter may stay in a row, in either case; only runs of three or more are shortened",
)
.or("2");

const MARKS: Key<u64> = Key::whole("marks", 1, 20, "how many of the same punctuation mark, symbol or emoji may stay in a row. Runs of hyphens, underscores and brackets stay; three or more dots become three").or("1");

pub(crate) static REPEATS: Operation = Operation {
    name: "repeats",
    stage: Stage::Text,
    about: "shortens repeated letters and marks: `sooooo` becomes `soo`, `!!!` becomes `!`. Digits, words with digits (`0xffff`), `www`, short names in capitals (`IEEE`), Roman numbers, the dots of an ellipsis, and placeholders stay. Doing it twice changes nothing",
    keys: &[&LETTERS.facts, &MARKS.facts],
    example: "letters = 2\nmarks = 1",
    roles: &[],
    learns: None,
    build: |settings| Ok(Built::Text(Box::new(Repeats::new(settings)))),
};

struct Repeats {
    letters: usize,
    marks: usize,
}

impl Repeats {
    fn new(settings: &Settings) -> Repeats {
        let most = |key: &Key<u64>, default| {
            settings.get(key).and_then(|n| usize::try_from(n).ok()).unwrap_or(default)
        };
        Repeats { letters: most(&LETTERS, 2), marks: most(&MARKS, 1) }
    }

    /// How many of the `count` times that `unit` stands in a row may stay.
    fn allowed(&self, text: &str, place: &Range<usize>, unit: &str, count: usize) -> usize {
        let Some(c) = unit.chars().next() else { return count };
        match unicode::category(c) {
            Category::Letter | Category::TitlecaseLetter | Category::ModifierLetter => {
                let drawn_out = count >= 3 && is_alphabetic_script(c) && is_drawn_out(text, place);
                if drawn_out { self.letters } else { count }
            }
            Category::Punctuation if c == '.' => {
                if count > 3 {
                    3
                } else {
                    count
                }
            }
            Category::Punctuation
                if unicode::is_dash(c)
                    || matches!(
                        c,
                        '_' | '(' | ')' | '[' | ']' | '{' | '}' | '/' | '\\' | '\'' | ':' | '#' | '@'
                    ) =>
            {
                count
            }
            Category::Punctuation => self.marks,
            _ if unit.len() > c.len_utf8() || unicode::is_emoji(c) => self.marks,
            Category::Symbol if !matches!(c, '+' | '=' | '<' | '>' | '|' | '~') => self.marks,
            _ => count,
        }
    }
}

/// Whether `c` belongs to a script in which a letter is a sound and is never written three times in a row.
fn is_alphabetic_script(c: char) -> bool {
    (c as u32) < 0x0600 || matches!(c as u32, 0x1e00..=0x1fff)
}

/// How far a word is looked at on either side of a run.
const AROUND: usize = 12;

/// Whether three or more of a letter in a row, at this place, are drawn out. Two of a letter are common in most languages; three are drawn out in all, but
/// not in `www`, in Roman numbers, in short names such as `IEEE`, and in what has digits (`0xffff`).
pub(crate) fn is_drawn_out(text: &str, place: &Range<usize>) -> bool {
    let inside = |byte: &u8| byte.is_ascii_alphanumeric();
    let before = text[..place.start].bytes().rev().take(AROUND).take_while(inside).count();
    let after = text[place.end..].bytes().take(AROUND).take_while(inside).count();
    let word = &text.as_bytes()[place.start - before..place.end + after];
    let is_roman = word.len() <= AROUND
        && (word.iter().all(|b| b"IVXLCDM".contains(b)) || word.iter().all(|b| b"ivx".contains(b)));
    let is_name = word.len() <= 4 && word.iter().all(u8::is_ascii_uppercase);
    let has_digit = word.iter().any(u8::is_ascii_digit);
    !is_roman && !is_name && !has_digit && !text[place.clone()].eq_ignore_ascii_case("www")
}

impl Facts for Repeats {
    fn probes(&self) -> Vec<String> {
        vec!["sooooo".into()]
    }
}

impl TextStep for Repeats {
    fn sorts(&self) -> Vec<String> {
        vec!["letters".into(), "marks".into()]
    }

    fn rewrite(&self, text: &str, range: Range<usize>, out: &mut Rewriter<'_>) {
        let bytes = text.as_bytes();
        let mut at = range.start;
        while at + 1 < range.end {
            let byte = bytes[at];
            // In ASCII the next byte tells at once that nothing is repeated here.
            if byte < 0x80 && !byte.eq_ignore_ascii_case(&bytes[at + 1]) {
                at += 1;
                continue;
            }
            let Some(c) = text[at..range.end].chars().next() else { break };
            let emoji = if byte >= 0x80 { emoji_length(&text[at..range.end]) } else { 0 };
            let length = if emoji > 0 { emoji } else { c.len_utf8() };
            let unit = &text[at..at + length];
            let same = |end: usize| {
                let next = text.get(end..end + length).filter(|_| end + length <= range.end)?;
                let alike = next == unit
                    || (emoji == 0 && next.chars().flat_map(char::to_lowercase).eq(c.to_lowercase()));
                alike.then_some(end + length)
            };
            let (mut end, mut count) = (at + length, 1);
            while let Some(further) = same(end) {
                (end, count) = (further, count + 1);
            }
            if count > 1 {
                let allowed = self.allowed(text, &(at..end), unit, count);
                if allowed < count {
                    let sort = usize::from(!unicode::is_letter(c));
                    // The first of them stay, so that a word keeps the case that it begins with.
                    out.replace_as(sort, at + allowed * length..end, "");
                }
            }
            at = end;
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::testing;

    #[test]
    fn what_is_drawn_out_is_shortened() {
        let recipe = "[[step]]\ndo = \"repeats\"\n";
        let table = [
            ("sooooo good!!!", "soo good!"),
            ("SOOOoo goood", "SOO good"),
            ("wait..... no...", "wait... no..."),
            ("10000 www.example.org XXXIII iii", "10000 www.example.org XXXIII iii"),
            ("too book ---- ____", "too book ---- ____"),
            ("(IEEE) 0xffff ffff0 AAAAA Aaaa aaaa NOOOO", "(IEEE) 0xffff ffff0 AA Aa aa NOO"),
            ("🐦🐦🐦 ÉÉÉté", "🐦 ÉÉté"),
            ("?!?!", "?!?!"),
            ("", ""),
        ];
        for (text, expected) in table {
            assert_eq!(testing::clean(recipe, text), expected, "{text}");
        }
        assert_eq!(
            testing::clean("[[step]]\ndo = \"repeats\"\nletters = 1\nmarks = 3\n", "sooo!!!!! good"),
            "so!!! good"
        );
    }
}
