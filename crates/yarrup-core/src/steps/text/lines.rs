//! Lines: those that are dropped, those that are joined, and the words that were broken at their ends.

use std::borrow::Cow;
use std::collections::HashSet;
use std::ops::Range;

use regex::RegexSet;

use crate::step::{
    Built, Evidence, Facts, Key, Learner, Learns, Operation, Rewriter, Settings, SettingsError, Stage,
    TextStep, WordList,
};
use crate::steps::text::line::{Edges, Line, compared, lines_of};
use crate::steps::text::repeated_lines::RepeatedLines;
use crate::unicode;
use crate::words::{Dictionary, dictionary};

const DROP: Key<Vec<String>> =
    Key::texts("drop", "regular expressions: drops lines in which one of them matches (`^>`, `^--$`)");

const REPEATED_IN: Key<u64> = Key::whole(
    "repeated_in",
    2,
    1_000_000_000,
    "drops lines that occur in at least this many documents: headers, signatures, notices. They are learned from the whole collection in a first pass and written into the frozen recipe; empty lines do not count",
);

const KNOWN: Key<Vec<String>> = Key::texts(
    "known",
    "lines to drop everywhere, compared without white space at their ends; with `repeated_in`, these are the lines that were learned, and no more are learned",
);

const EDGES: Key<u64> = Key::whole(
    "edges",
    1,
    20,
    "with `repeated_in` or `known`: looks only at so many lines at the beginning and at the end of each document, not counting empty ones, and takes all numbers in them for the same one, also a Roman number that is the whole line: the running heads and feet of pages",
);

const REJOIN: Key<bool> = Key::truth("rejoin", "rejoins a word that is broken with a hyphen at the end of a line. The hyphen is removed if the dictionary of the language, the recipe's `words` or the document has the whole word, or if none of them has its parts; it stays if both halves are words and the whole is not \
                    (`nest-` `box`), or if the document has the word with its hyphen elsewhere").or("false");

const WORDS: Key<Vec<WordList>> =
    Key::lists("words", "your own lists of words that count as known when lines are rejoined");

const UNWRAP: Key<bool> = Key::truth("unwrap", "joins the lines of a paragraph with a space, if the next word would not have fitted on the line. Empty lines, lists, \
                    quotes, indented lines and short lines stay as they are").or("false");

pub(crate) static LINES: Operation = Operation {
    name: "lines",
    stage: Stage::Text,
    about: "drops lines, rejoins words that are broken at line ends, and joins the lines of a paragraph. If it only \
            drops or unwraps, and has no `edges`, doing it twice changes nothing",
    keys: &[
        &DROP.facts,
        &REPEATED_IN.facts,
        &KNOWN.facts,
        &EDGES.facts,
        &REJOIN.facts,
        &WORDS.facts,
        &UNWRAP.facts,
    ],
    example: "drop = ['^--$']\nrejoin = true\nunwrap = true",
    roles: &[],
    learns: Some(&Learns { key: &KNOWN.facts, names: ("line", "lines"), evidence: Evidence::Count }),
    build: |settings| Ok(Built::Text(Box::new(Lines::new(settings)?))),
};

struct Lines {
    drop: RegexSet,
    known: HashSet<String>,
    /// In how many documents a line must stand to go, if that is to be learned.
    learns: Option<u64>,
    /// How many lines at either end of a document may be known, if not all.
    edges: Option<usize>,
    rejoin: bool,
    unwrap: bool,
    words: HashSet<String>,
    dictionary: Option<&'static Dictionary>,
}

const DROPPED: usize = 0;
const REPEATED: usize = 1;
const REJOINED: usize = 2;
const HYPHEN_KEPT: usize = 3;
const UNWRAPPED: usize = 4;

impl Lines {
    fn new(settings: &Settings) -> Result<Lines, SettingsError> {
        let written = settings.get(&DROP);
        let repeated_in = settings.get(&REPEATED_IN);
        let edges = settings.get(&EDGES).map(|edges| edges as usize);
        let known = settings.get(&KNOWN).iter().map(|line| compared(line, edges.is_some()).into_owned());
        let known: HashSet<String> = known.collect();
        let on = |key: &Key<bool>| settings.get(key) == Some(true);
        let has_known = settings.has(&KNOWN.facts);
        if written.is_empty() && repeated_in.is_none() && !has_known && !on(&REJOIN) && !on(&UNWRAP) {
            let any = [&DROP.facts, &REPEATED_IN.facts, &KNOWN.facts, &REJOIN.facts, &UNWRAP.facts];
            return Err(SettingsError::needs_one_of(&any));
        }
        if edges.is_some() && repeated_in.is_none() && !has_known {
            return Err(SettingsError::key(&EDGES.facts, "`edges` needs `repeated_in` or `known`"));
        }
        for pattern in written {
            crate::pattern::compiled_pattern("drop", pattern).map_err(SettingsError::at(&DROP.facts))?;
        }
        let drop = RegexSet::new(written)
            .map_err(|error| format!("the patterns of `drop` are too large: {error}"))?;
        let words = settings.get(&WORDS).iter().flat_map(|list| &list.words).map(|word| word.to_lowercase());
        Ok(Lines {
            drop,
            learns: repeated_in.filter(|_| !has_known),
            known,
            edges,
            rejoin: on(&REJOIN),
            unwrap: on(&UNWRAP),
            words: words.collect(),
            // Text of an unknown language is most often English, and a word of another one is in no English dictionary.
            dictionary: dictionary(settings.language().unwrap_or("en")),
        })
    }

    fn has_word(&self, word: &str) -> bool {
        self.words.contains(word) || self.dictionary.is_some_and(|dictionary| dictionary.has(word))
    }

    /// Whether the hyphen of a broken word goes. `words` are the words of the text, gathered when they are first asked for.
    fn hyphen_goes<'t>(
        &self,
        words: &mut Option<HashSet<&'t str>>,
        text: &'t str,
        left: &str,
        right: &str,
    ) -> bool {
        let (left, right) = (left.to_lowercase(), right.to_lowercase());
        let whole = format!("{left}{right}");
        let words =
            words.get_or_insert_with(|| text.split(|c: char| !(c == '-' || unicode::is_letter(c))).collect());
        // What the document itself writes elsewhere says most.
        if words.contains(format!("{left}-{right}").as_str()) {
            return false;
        }
        if words.contains(whole.as_str()) || self.has_word(&whole) {
            return true;
        }
        // The halves of a compound are words; those of a single word seldom are.
        !(self.has_word(&left) && self.has_word(&right) && left.len() > 1 && right.len() > 1)
    }
}

/// The letters at the end of a line, before its hyphen.
fn broken_half(line: &str) -> Option<(&str, char)> {
    let hyphen = line.chars().next_back().filter(|c| matches!(c, '-' | '\u{2010}' | '\u{ad}' | '¬'))?;
    let before = &line[..line.len() - hyphen.len_utf8()];
    let start = before
        .char_indices()
        .rev()
        .take_while(|(_, c)| unicode::is_letter(*c) || unicode::category(*c) == unicode::Category::Mark);
    let start = start.last().map(|(at, _)| at)?;
    // A word with a hyphen before the one at the line's end is a compound with many parts.
    Some((&before[start..], hyphen))
}

fn first_word(line: &str) -> &str {
    let end =
        line.find(|c: char| !(unicode::is_letter(c) || unicode::category(c) == unicode::Category::Mark));
    &line[..end.unwrap_or(line.len())]
}

/// Lines shorter than this are no prose that a program has wrapped.
const NARROWEST: usize = 40;

/// Whether a line begins something of its own: an item of a list, a quote, a heading, an indented line, a row of a table.
fn stands_apart(line: &str) -> bool {
    let body = line.trim_start();
    if body.is_empty() || line.starts_with([' ', '\t', '>', '|', '#']) {
        return true;
    }
    if body.starts_with(['•', '·', '◦', '▪', '‣'])
        || body.starts_with("- ")
        || body.starts_with("* ")
        || body.starts_with("+ ")
    {
        return true;
    }
    let digits = body.bytes().take_while(u8::is_ascii_digit).count();
    (1..=3).contains(&digits)
        && matches!(body.as_bytes().get(digits), Some(b'.' | b')'))
        && body.as_bytes().get(digits + 1) == Some(&b' ')
        || body.bytes().all(|byte| matches!(byte, b'-' | b'=' | b'*' | b'_'))
}

/// Whether a script needs no space between the lines of a paragraph.
fn is_spaceless(c: char) -> bool {
    matches!(c as u32, 0x3000..=0x30ff | 0x3400..=0x9fff | 0xf900..=0xfaff | 0xff00..=0xff60 | 0x0e00..=0x0eff | 0x20000..=0x3ffff)
}

impl Facts for Lines {
    fn drops_lines(&self) -> bool {
        !self.drop.is_empty() || !self.known.is_empty() || self.learns.is_some()
    }

    fn probes(&self) -> Vec<String> {
        let mut probes = Vec::new();
        if self.rejoin {
            probes.push("the breed-\ning season".to_owned());
        }
        if self.unwrap {
            probes.push("The wardens of the northern spit counted every\nnest on the shingle before the tide came in.".to_owned());
        }
        probes
    }

    fn learner(&self) -> Option<Box<dyn Learner>> {
        Some(Box::new(RepeatedLines::new(self.learns?, self.edges)))
    }
}

impl TextStep for Lines {
    fn sorts(&self) -> Vec<String> {
        ["dropped by pattern", "dropped as known", "rejoined", "rejoined with hyphen", "unwrapped"]
            .map(str::to_owned)
            .to_vec()
    }

    fn rewrite(&self, text: &str, range: Range<usize>, out: &mut Rewriter<'_>) {
        if !self.drop.is_empty() || !self.known.is_empty() || self.rejoin || self.unwrap {
            self.rewrite_lines(text, range, out);
        }
    }
}

impl Lines {
    /// The sort of a line that goes.
    fn goes(&self, text: &str, line: &Line, edges: &Edges) -> Option<usize> {
        let body = &text[line.body.clone()];
        if !self.drop.is_empty() && self.drop.is_match(body) {
            Some(DROPPED)
        } else if !self.known.is_empty()
            && edges.has(line.body.start)
            && self.known.contains(compared(body, self.edges.is_some()).as_ref())
        {
            Some(REPEATED)
        } else {
            None
        }
    }

    fn rewrite_lines(&self, text: &str, range: Range<usize>, out: &mut Rewriter<'_>) {
        let edges = Edges::of(text, self.edges.filter(|_| !self.known.is_empty()));
        let mut lines = lines_of(text, range.clone()).peekable();
        // The width of the present paragraph, up to the line where it ends.
        let mut width = (0, range.start);
        let mut words = None;
        while let Some(line) = lines.next() {
            let body = &text[line.body.clone()];
            if let Some(sort) = self.goes(text, &line, &edges) {
                // The last line takes the break before it along, or it would leave an empty line.
                if line.end > line.body.start {
                    out.replace_as(sort, line.body.start..line.end, "");
                }
                continue;
            }
            if line.end == line.body.end {
                continue;
            }
            // What is dropped between two lines goes with the break that they are joined at.
            let mut next_start = line.end;
            let mut dropped: Vec<(usize, Range<usize>)> = Vec::new();
            while let Some(next) = lines.peek() {
                let Some(sort) = self.goes(text, next, &edges) else { break };
                dropped.push((sort, next.body.start..next.end));
                next_start = next.end;
                lines.next();
            }
            let next = lines.peek().map(|next| &text[next.body.clone()]);
            if self.unwrap && width.1 < line.end {
                width = paragraph_width(text, line.body.start, range.end);
            }
            let joined = next.and_then(|next| self.join(&mut words, text, body, next, width.0));
            match joined {
                Some((sort, taken, skipped, now)) => {
                    for (sort, place) in dropped {
                        out.note(sort, place);
                    }
                    out.replace_as(sort, line.body.end - taken..next_start + skipped, &now);
                }
                None => {
                    for (sort, place) in dropped {
                        out.replace_as(sort, place, "");
                    }
                }
            }
        }
    }

    /// How a line is joined with the next: the sort, how many bytes go at its end and at the start of the next, and what stands
    /// between.
    fn join<'t>(
        &self,
        words: &mut Option<HashSet<&'t str>>,
        text: &'t str,
        line: &str,
        next: &str,
        width: usize,
    ) -> Option<(usize, usize, usize, Cow<'static, str>)> {
        let trimmed = line.trim_end_matches([' ', '\t']);
        let blanks = line.len() - trimmed.len();
        let indent = next.len() - next.trim_start_matches([' ', '\t']).len();
        if self.rejoin
            && let Some((left, hyphen)) = broken_half(trimmed)
        {
            let right = first_word(&next[indent..]);
            let goes_on = right.chars().next().is_some_and(char::is_lowercase);
            if goes_on {
                if hyphen == '\u{ad}' || hyphen == '¬' || self.hyphen_goes(words, text, left, right) {
                    return Some((REJOINED, blanks + hyphen.len_utf8(), indent, "".into()));
                }
                return Some((HYPHEN_KEPT, blanks, indent, "".into()));
            }
        }
        if !self.unwrap
            || trimmed.is_empty()
            || stands_apart(next)
            || line.starts_with(['>', '|', '#'])
            || width < NARROWEST
        {
            return None;
        }
        let word = next.split_whitespace().next().unwrap_or_default();
        let length = trimmed.chars().count();
        // A hyphen or a dash at the end that broke no word still ends a line that was full.
        if length + 1 + word.chars().count() <= width {
            return None;
        }
        let spaceless = trimmed.chars().next_back().is_some_and(is_spaceless)
            && next.chars().next().is_some_and(is_spaceless);
        Some((UNWRAPPED, blanks, 0, if spaceless { "".into() } else { " ".into() }))
    }
}

/// The most characters that a line of the paragraph at `from` has, and where the paragraph ends.
fn paragraph_width(text: &str, from: usize, end: usize) -> (usize, usize) {
    let (mut width, mut last) = (0, from);
    for line in lines_of(text, from..end) {
        let body = text[line.body.clone()].trim_end();
        if body.is_empty() && last > from {
            break;
        }
        width = width.max(body.chars().count());
        last = line.end;
    }
    (width, last)
}

#[cfg(test)]
mod tests {
    use crate::testing;

    fn cleaned(settings: &str, text: &str) -> String {
        testing::clean(&format!("language = \"en\"\n[[step]]\ndo = \"lines\"\n{settings}\n"), text)
    }

    #[test]
    fn broken_words_are_rejoined_by_the_dictionary() {
        let table = [
            ("the breed-\ning season", "the breeding season"),
            ("a nest-\nbox here", "a nest-box here"),
            ("the Cock-\n  lesham coast", "the Cocklesham coast"),
            ("the Salt-  \r\nMere coast", "the Salt-  \r\nMere coast"),
            ("shing\u{ad}\nle", "shingle"),
            ("10-\n20 terns", "10-\n20 terns"),
            ("a re-use; to re-\nuse", "a re-use; to re-use"),
            ("dash -\nno", "dash -\nno"),
            ("ternery- \nx", "terneryx"),
        ];
        for (text, expected) in table {
            assert_eq!(cleaned("rejoin = true", text), expected, "{text}");
        }
    }

    #[test]
    fn lines_are_dropped_by_pattern_and_by_text() {
        let text = "From: Mira\nTerns are back.\n--\nGull Hide\n";
        assert_eq!(cleaned("drop = ['^From:', '^--$']", text), "Terns are back.\nGull Hide\n");
        assert_eq!(cleaned("known = [\"Gull Hide\"]", text), "From: Mira\nTerns are back.\n--\n");
        assert_eq!(cleaned("drop = ['^page']\nrejoin = true", "the breed-\npage 3\ning"), "the breeding");
    }

    #[test]
    fn heads_and_feet_of_pages_are_known_whatever_their_number() {
        let known = "known = [\"Tides of the Marsh 12\", \"1\"]\nedges = 2";
        for (page, expected) in [
            ("Tides of the Marsh 7\n\nTerns.\nGulls.\n\n7\n", "\nTerns.\nGulls.\n\n"),
            ("\n  118 \nTerns.\nGulls.", "\nTerns.\nGulls."),
            ("xiv\nTerns.\n", "Terns.\n"),
            // In the middle a number is a number, and another head is another head.
            ("Terns.\nGulls.\n17\nHerons.\nPlovers.", "Terns.\nGulls.\n17\nHerons.\nPlovers."),
            ("The Marsh 7\nTerns.\nGulls.\nHerons.", "The Marsh 7\nTerns.\nGulls.\nHerons."),
            ("7", ""),
            ("", ""),
            ("\n\n", "\n\n"),
        ] {
            assert_eq!(cleaned(known, page), expected, "{page:?}");
        }
    }

    #[test]
    fn wrapped_paragraphs_become_one_line() {
        let text = "Ward report\n\nThe wardens of the northern spit counted every\nnest on the shingle before the tide came in and\n\
                    found seventeen.\n\n- one long item that stands on a line alone here\n- two\nGull Hide\nSaltmere\n";
        let expected = "Ward report\n\nThe wardens of the northern spit counted every nest on the shingle before the tide came in and \
                        found seventeen.\n\n- one long item that stands on a line alone here\n- two\nGull Hide\nSaltmere\n";
        assert_eq!(cleaned("unwrap = true", text), expected);
        assert_eq!(cleaned("unwrap = true", expected), expected);
        let verse = "The tern\nhas flown\nto sea\n";
        assert_eq!(cleaned("unwrap = true", verse), verse);
    }

    #[test]
    fn no_text_is_worse_than_linear() {
        for piece in ["\n", "a-\n", "a-\nb ", "word and word and word and word and word\n"] {
            let text = piece.repeat(50_000);
            assert!(cleaned("rejoin = true\nunwrap = true\ndrop = ['^x']", &text).len() <= text.len());
        }
    }
}
