//! Finding values in running text.

use std::ops::Range;

use regex::Regex;

use crate::kind::{Kind, KindSet, recognise};
use crate::pattern::compiled_pattern;
use crate::value::street_patterns;
use crate::word_finder::{WordFinder, longest_first};

/// One sort of values that are looked for.
#[derive(Clone, Debug)]
pub enum Sought {
    /// What the recogniser finds of a kind.
    Kind(Kind),
    /// Addresses of streets, by the patterns of a language, or of all languages.
    Streets(Option<String>),
    /// What a regular expression finds.
    Pattern(Regex),
    /// Words and phrases where they stand alone: one without capitals in any letter case, one with a capital as it is written.
    Words(Vec<String>),
}

impl Sought {
    /// What this regular expression finds, which `name` is called by.
    ///
    /// # Errors
    ///
    /// If it is none, or matches no text at all.
    pub fn pattern(name: &str, written: &str) -> Result<Sought, String> {
        let pattern = compiled_pattern(name, written).map_err(|why| format!("the pattern {why}"))?;
        if pattern.is_match("") {
            return Err(format!("the pattern `{name}` matches nothing at all, everywhere: `{written}`"));
        }
        Ok(Sought::Pattern(pattern))
    }
}

/// Finds values of several sorts. The sorts are known by their numbers, in the order in which they were given.
///
/// ```
/// use yarrup_core::{Kind, Sought, ValueFinder};
///
/// let finder = ValueFinder::new(&[Sought::Kind(Kind::Email), Sought::Words(vec!["Saltmere".into()])]);
/// let text = "Write to warden@example.org in Saltmere";
/// let found: Vec<_> = finder.find(text).into_iter().map(|(sort, place)| (sort, &text[place])).collect();
/// assert_eq!(found, [(0, "warden@example.org"), (1, "Saltmere")]);
/// ```
pub struct ValueFinder {
    kinds: KindSet,
    /// By kind: its sort.
    sort_of: [usize; Kind::ALL.len()],
    patterns: Vec<(usize, Vec<Regex>)>,
    words: Vec<(usize, WordFinder)>,
}

impl ValueFinder {
    /// What finds these.
    pub fn new(sought: &[Sought]) -> ValueFinder {
        let mut finder = ValueFinder {
            kinds: KindSet::default(),
            sort_of: [usize::MAX; Kind::ALL.len()],
            patterns: Vec::new(),
            words: Vec::new(),
        };
        let mut kinds = Vec::new();
        for (sort, sought) in sought.iter().enumerate() {
            match sought {
                Sought::Kind(kind) => {
                    kinds.push(*kind);
                    finder.sort_of[*kind as usize] = sort;
                }
                Sought::Streets(language) => {
                    finder.patterns.push((sort, street_patterns(language.as_deref())));
                }
                Sought::Pattern(pattern) => finder.patterns.push((sort, vec![pattern.clone()])),
                Sought::Words(words) => finder.words.push((sort, WordFinder::new(words))),
            }
        }
        finder.kinds = KindSet::of(&kinds);
        finder
    }

    /// Every value with its sort and place, from left to right. Values of one sort are apart from one another; those of two sorts may overlap: a name may
    /// stand within an address.
    pub fn find(&self, text: &str) -> Vec<(usize, Range<usize>)> {
        let mut found: Vec<(usize, Range<usize>)> = Vec::new();
        if !self.kinds.is_empty() {
            recognise(text, |kind, place| {
                if kind == Kind::Url && self.kinds.has(Kind::Email) {
                    let address = mailed_to(text, &place);
                    found.extend(address.map(|address| (self.sort_of[Kind::Email as usize], address)));
                }
                if self.kinds.has(kind) {
                    found.push((self.sort_of[kind as usize], place));
                }
            });
        }
        for (sort, patterns) in &self.patterns {
            found.extend(hits_of_patterns(text, patterns.iter().map(|pattern| (*sort, pattern))));
        }
        for (sort, words) in &self.words {
            found.extend(words.find(text).into_iter().map(|place| (*sort, place)));
        }
        found.sort_by_key(|(sort, place)| (place.start, place.end, *sort));
        found
    }
}

/// The address in a link that begins to write a mail: `mailto:warden@example.org?subject=Terns`.
fn mailed_to(text: &str, link: &Range<usize>) -> Option<Range<usize>> {
    const SCHEME: &str = "mailto:";
    let written = &text[link.clone()];
    let rest = written
        .get(..SCHEME.len())
        .filter(|scheme| scheme.eq_ignore_ascii_case(SCHEME))
        .map(|_| &written[SCHEME.len()..])?;
    let address = rest.split('?').next().unwrap_or_default();
    let start = link.start + SCHEME.len();
    (Kind::of(address) == Kind::Email).then_some(start..start + address.len())
}

/// What patterns find that have these numbers, apart from one another: the leftmost, and of those that begin together the longest.
pub(crate) fn hits_of_patterns<'p>(
    text: &str,
    patterns: impl Iterator<Item = (usize, &'p Regex)>,
) -> Vec<(usize, Range<usize>)> {
    let mut hits: Vec<(Range<usize>, usize)> = Vec::new();
    for (sort, pattern) in patterns {
        let found = pattern.find_iter(text).map(|hit| hit.range()).filter(|place| !place.is_empty());
        hits.extend(found.map(|place| (place, sort)));
    }
    longest_first(hits).map(|(place, sort)| (sort, place)).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn sorts_are_found_for_themselves() {
        let sought = [
            Sought::Kind(Kind::Email),
            Sought::Kind(Kind::Number),
            Sought::pattern("ticket", r"EQ-\d+").expect("a pattern"),
            Sought::Words(vec!["acme".into(), "Old Harbour".into()]),
            Sought::Streets(Some("en".into())),
        ];
        let text = "ACME: info@acme.example.org on EQ-17, 3 Old Harbour Road, old harbour";
        let found: Vec<(usize, &str)> = ValueFinder::new(&sought)
            .find(text)
            .into_iter()
            .map(|(sort, place)| (sort, &text[place]))
            .collect();
        assert_eq!(
            found,
            [
                (3, "ACME"),
                (0, "info@acme.example.org"),
                (3, "acme"),
                (2, "EQ-17"),
                (1, "17"),
                (1, "3"),
                (4, "3 Old Harbour Road"),
                (3, "Old Harbour"),
            ]
        );
        let mails = ValueFinder::new(&[Sought::Kind(Kind::Email), Sought::Kind(Kind::Url)]);
        let text = "mailto:warden@example.org?subject=Terns, MAILTO:lab@example.org, https://example.org";
        let found: Vec<(usize, &str)> =
            mails.find(text).into_iter().map(|(sort, place)| (sort, &text[place])).collect();
        assert_eq!(
            found,
            [
                (1, "mailto:warden@example.org?subject=Terns"),
                (0, "warden@example.org"),
                (1, "MAILTO:lab@example.org"),
                (0, "lab@example.org"),
                (1, "https://example.org"),
            ]
        );
        assert!(Sought::pattern("x", "a*").is_err_and(|why| why.contains("matches nothing at all")));
        assert!(Sought::pattern("x", "(").is_err_and(|why| why.contains("is not a regular expression")));
    }

    #[test]
    fn a_value_of_each_kind_is_found_wherever_it_stands_and_by_its_kind_alone() {
        let kinds: Vec<Kind> = Kind::ALL.into_iter().filter(|kind| KindSet::FOUND.has(*kind)).collect();
        assert!(kinds.len() > 15);
        let all = ValueFinder::new(&kinds.iter().map(|kind| Sought::Kind(*kind)).collect::<Vec<_>>());
        for (sort, kind) in kinds.iter().enumerate() {
            let value = Kind::SAMPLES[*kind as usize];
            for (before, behind) in
                [("", ""), ("see ", " there"), ("“", "”"), ("Ende – ", " – é"), ("海 ", " 鳥")]
            {
                let text = format!("{before}{value}{behind}");
                let place = before.len()..before.len() + value.len();
                assert_eq!(all.find(&text), [(sort, place.clone())], "{text}");
                assert_eq!(ValueFinder::new(&[Sought::Kind(*kind)]).find(&text), [(0, place)], "{text}");
            }
            // Two are two, with their own places.
            let text = format!("{value} and {value}");
            let places: Vec<_> =
                all.find(&text).into_iter().map(|(_, place)| text[place].to_owned()).collect();
            assert_eq!(places, [value, value], "{text}");
        }
    }

    #[test]
    fn streets_are_found_in_their_own_language() {
        let streets = |language: &str, text: &str| -> Vec<String> {
            let finder = ValueFinder::new(&[Sought::Streets(Some(language.into()))]);
            finder.find(text).into_iter().map(|(_, place)| text[place].to_owned()).collect()
        };
        for (language, text, street) in [
            ("en", "Our office at 12 Marsh Lane is open.", "12 Marsh Lane"),
            ("de", "Das Büro in der Deichstraße 17 ist offen.", "Deichstraße 17"),
            ("fr", "Le bureau au 5 rue des Sternes est ouvert.", "5 rue des Sternes"),
            ("es", "La oficina en Calle Mayor 8 está abierta.", "Calle Mayor 8"),
        ] {
            assert_eq!(streets(language, text), [street], "{text}");
            assert_eq!(streets(language, "Nobody was there on day 17."), [""; 0]);
        }
    }
}
