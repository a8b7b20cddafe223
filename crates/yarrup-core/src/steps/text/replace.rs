use std::borrow::Cow;
use std::ops::Range;

use aho_corasick::{AhoCorasick, MatchKind};
use regex::Regex;

use crate::pattern::compiled_pattern;
use crate::step::{
    Built, Entry, Facts, Form, Key, Operation, Outcome, PairList, Rewriter, Role, Settings, SettingsError,
    Stage, TextStep, TokenStep,
};
use crate::word_finder::{longest_first, stands_alone};

const FIND: Key<String> = Key::text("find", "the text to replace");

const PATTERN: Key<String> = Key::text(
    "pattern",
    "a regular expression instead (without look-around and back-references, so that it is fast on every text)",
);

const WITH: Key<String> = Key::text("with", "the replacement for `find` or `pattern`; `$1` and `${name}` are groups of the pattern, `$$` is a dollar sign").or("");

const PAIRS: Key<Vec<(String, String)>> =
    Key::named("pairs", "a table of texts and their replacements: `{ \"colour\" = \"color\" }`");

const TABLES: Key<Vec<PairList>> = Key::pairs(
    "tables",
    "your own CSV files of pairs: two columns, or those named as `{ file = \"words.csv\", from = \"wrong\", to = \"right\" }`",
);

const WHERE: Key<&'static str> = Key::one_of(
    "where",
    &["anywhere", "words"],
    "`words`: only whole words, with no letter or digit directly before or after",
)
.or("anywhere");

const CASE: Key<&'static str> = Key::one_of(
    "case",
    &["exact", "ignore"],
    "`ignore`: `Colour` is replaced like `colour`. The replacement is always as written",
)
.or("exact");

pub(crate) static REPLACE: Operation = Operation {
    name: "replace",
    stage: Stage::TextOrToken,
    about: "replaces a text, the matches of a regular expression, or all texts of a table in one pass, always the longest that fits. After the split it works inside each token, and drops a token of which nothing is left",
    keys: &[&FIND.facts, &PATTERN.facts, &WITH.facts, &PAIRS.facts, &TABLES.facts, &WHERE.facts, &CASE.facts],
    example: "pairs = { \"colour\" = \"color\", \"grey\" = \"gray\" }\nwhere = \"words\"",
    roles: &[Role::Replaces],
    learns: None,
    build: |settings| {
        let replace = Replace::new(settings)?;
        Ok(Built::TextOrToken(Box::new(replace.clone()), Box::new(replace)))
    },
};

#[derive(Clone)]
struct Replace {
    finder: Finder,
    whole_words: bool,
    entries: Vec<Entry>,
}

#[derive(Clone)]
enum Finder {
    Pattern { pattern: Regex, with: String, has_groups: bool },
    Pairs { automaton: AhoCorasick, with: Vec<String> },
}

impl Replace {
    fn new(settings: &Settings) -> Result<Replace, SettingsError> {
        let (find, pattern) = (settings.get(&FIND), settings.get(&PATTERN));
        let mut pairs: Vec<(String, String)> = settings.get(&PAIRS).to_vec();
        let mut entries: Vec<Entry> =
            pairs.iter().map(|(from, _)| Entry { word: from.clone(), list: "pairs".into() }).collect();
        for table in settings.get(&TABLES) {
            entries.extend(
                table.pairs.iter().map(|(from, _)| Entry { word: from.clone(), list: table.name.clone() }),
            );
            pairs.extend(table.pairs.iter().cloned());
        }
        let has_pairs = !pairs.is_empty() || !settings.get(&TABLES).is_empty();
        if usize::from(find.is_some()) + usize::from(pattern.is_some()) + usize::from(has_pairs) != 1 {
            return Err("`replace` needs one of `find`, `pattern`, and `pairs` or `tables`".into());
        }
        let with = settings.get(&WITH).unwrap_or_default().to_owned();
        let whole_words = settings.get(&WHERE) == Some("words");
        let ignore_case = settings.get(&CASE) == Some("ignore");
        if let Some(pattern) = pattern {
            let written = if ignore_case { format!("(?i:{pattern})") } else { pattern.to_owned() };
            let pattern = compiled_pattern("pattern", &written).map_err(SettingsError::at(&PATTERN.facts))?;
            let has_groups = with.contains('$');
            return Ok(Replace {
                finder: Finder::Pattern { pattern, with, has_groups },
                whole_words,
                entries,
            });
        }
        if let Some(find) = find {
            entries.push(Entry { word: find.to_owned(), list: "find".into() });
            pairs.push((find.to_owned(), with));
        }
        if pairs.iter().any(|(from, _)| from.is_empty()) {
            let key = if find.is_some() { &FIND.facts } else { &PAIRS.facts };
            return Err(SettingsError::key(key, "`replace` cannot look for an empty text"));
        }
        let (mut patterns, mut with): (Vec<String>, Vec<String>) = (Vec::new(), Vec::new());
        for (from, to) in pairs {
            for spelling in spellings(&from, ignore_case) {
                patterns.push(spelling);
                with.push(to.clone());
            }
        }
        let automaton = AhoCorasick::builder()
            .match_kind(if whole_words { MatchKind::Standard } else { MatchKind::LeftmostLongest })
            .ascii_case_insensitive(ignore_case)
            .build(&patterns)
            .map_err(|error| format!("the table is too large: {error}"))?;
        Ok(Replace { finder: Finder::Pairs { automaton, with }, whole_words, entries })
    }

    /// Every place to be replaced, and what is put there.
    fn each<'t>(
        &'t self,
        text: &'t str,
        range: Range<usize>,
        mut found: impl FnMut(Range<usize>, Cow<'t, str>),
    ) {
        let stretch = &text[range.clone()];
        let place = |hit: Range<usize>| range.start + hit.start..range.start + hit.end;
        let fits =
            |place: &Range<usize>| !place.is_empty() && (!self.whole_words || stands_alone(text, place));
        match &self.finder {
            Finder::Pattern { pattern, with, has_groups: false } => {
                for hit in pattern.find_iter(stretch) {
                    let place = place(hit.range());
                    if fits(&place) {
                        found(place, Cow::Borrowed(with));
                    }
                }
            }
            Finder::Pattern { pattern, with, .. } => {
                for hit in pattern.captures_iter(stretch) {
                    let Some(whole) = hit.get(0) else { continue };
                    let place = place(whole.range());
                    if fits(&place) {
                        let mut now = String::new();
                        hit.expand(with, &mut now);
                        found(place, Cow::Owned(now));
                    }
                }
            }
            Finder::Pairs { automaton, with } if self.whole_words => {
                // The longest may end within a word where a shorter one does not.
                let hits = automaton.find_overlapping_iter(stretch);
                let hits = hits.map(|hit| (place(hit.range()), hit.pattern()));
                for (place, pair) in longest_first(hits.filter(|(place, _)| fits(place)).collect()) {
                    found(place, Cow::Borrowed(&with[pair.as_usize()]));
                }
            }
            Finder::Pairs { automaton, with } => {
                for hit in automaton.find_iter(stretch) {
                    let place = place(hit.range());
                    if fits(&place) {
                        found(place, Cow::Borrowed(&with[hit.pattern().as_usize()]));
                    }
                }
            }
        }
    }
}

/// The spellings of a text that count as it: its own, and where letter case beyond ASCII does not count, in small letters, in
/// capitals and with a first capital.
fn spellings(text: &str, ignore_case: bool) -> Vec<String> {
    let mut all = vec![text.to_owned()];
    if ignore_case && !text.is_ascii() {
        let mut chars = text.chars();
        let first: String = chars.next().into_iter().flat_map(char::to_uppercase).collect();
        all.extend([text.to_lowercase(), text.to_uppercase(), first + chars.as_str()]);
        all.sort_unstable();
        all.dedup();
    }
    all
}

impl Facts for Replace {
    fn entries(&self) -> &[Entry] {
        &self.entries
    }

    fn reason(&self, _number: u16) -> String {
        "replaced by nothing".into()
    }

    fn lists(&self, token: &str) -> bool {
        self.apply(&Form::new(token)) != Outcome::Keep
    }
}

impl TextStep for Replace {
    fn rewrite(&self, text: &str, range: Range<usize>, out: &mut Rewriter<'_>) {
        self.each(text, range, |place, now| out.replace(place, &now));
    }
}

impl TokenStep for Replace {
    fn apply(&self, form: &Form<'_>) -> Outcome {
        let mut now = String::new();
        let mut copied = 0;
        self.each(form.text, 0..form.text.len(), |place, with| {
            now.push_str(&form.text[copied..place.start]);
            now.push_str(&with);
            copied = place.end;
        });
        if copied == 0 {
            return Outcome::Keep;
        }
        now.push_str(&form.text[copied..]);
        match now.trim() {
            "" => Outcome::Drop(0),
            trimmed if trimmed == form.text => Outcome::Keep,
            trimmed => Outcome::Change(trimmed.to_owned()),
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::recipe::read;
    use crate::testing;

    fn replaced(settings: &str, text: &str) -> String {
        testing::clean(&format!("[[step]]\ndo = \"replace\"\n{settings}\n"), text)
    }

    #[test]
    fn literals_patterns_and_tables_replace() {
        let table = [
            ("find = \"a.b\"\nwith = \"x\"", "a.b acb a.b", "x acb x"),
            ("pattern = '(\\d+) (?P<unit>km|m)'\nwith = '${unit}:$1'", "5 km, 3 m", "km:5, m:3"),
            ("pattern = 'x*'\nwith = \"-\"", "axxb", "a-b"),
            ("pairs = { colour = \"color\", col = \"pass\" }", "colour col", "color pass"),
            ("pairs = { col = \"pass\" }\nwhere = \"words\"", "colour col, col", "colour pass, pass"),
            (
                "pairs = { \"nest box\" = \"box\", nest = \"home\" }\nwhere = \"words\"",
                "nest boxes, nest box, nests",
                "home boxes, box, nests",
            ),
            ("find = \"été\"\nwith = \"summer\"\ncase = \"ignore\"", "Été ÉTÉ été", "summer summer summer"),
            ("find = \"Tern\"\nwith = \"bird\"\ncase = \"ignore\"", "tern TERN", "bird bird"),
            ("find = \"tern\"", "a tern b", "a  b"),
            ("pattern = '\\bTERN'\ncase = \"ignore\"\nwith = \"$$\"", "tern", "$"),
        ];
        for (settings, text, expected) in table {
            assert_eq!(replaced(settings, text), expected, "{settings}");
        }
    }

    #[test]
    fn tokens_are_replaced_inside_and_dropped_when_empty() {
        let recipe = "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"replace\"\npattern = \"^x+|s$\"\n";
        assert_eq!(testing::clean(recipe, "terns xx xa tern"), "tern a tern");
    }

    #[test]
    fn what_cannot_be_is_told() {
        let told = |settings: &str| {
            let recipe = read(&format!("[[step]]\ndo = \"replace\"\n{settings}\n")).expect("read");
            let built = crate::Pipeline::compile(&recipe, &crate::NoFiles);
            built.err().map(|faults| faults[0].title.clone()).unwrap_or_default()
        };
        assert!(told("with = \"x\"").contains("needs one of"));
        assert!(told("find = \"x\"\npattern = \"y\"").contains("needs one of"));
        assert!(told("find = \"\"").contains("empty text"));
        assert!(told("pattern = \"(a\"").contains("unclosed group"), "{}", told("pattern = \"(a\""));
    }
}
