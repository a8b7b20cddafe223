//! Names of people, places and organisations, told without a model: by capitals in the middle of sentences, titles, endings of companies, and the words before.
//!
//! What is found is a list to look through: of a name that begins sentences alone nothing is known, and adjectives of countries have capitals as well.

use hashbrown::HashMap;

use crate::kind::Kind;
use crate::occurrences::Occurrences;
use crate::run::EndedToken;
use crate::suggest::contexts::is_inside;
use crate::suggest::{Inquiry, Proposal, Sort, Suggestion};

type State = foldhash::fast::FixedState;

/// The most words of a name; longer runs of capitals are headings.
const MOST_WORDS: usize = 4;
/// How often a name must come, and how often in the middle of a sentence.
const LEAST: u64 = 3;
const LEAST_INSIDE: u64 = 2;
/// Of a word, the most that may have no capital.
const MOST_SMALL: f64 = 0.05;

const TITLES: &[&str] = &[
    "Mr",
    "Mrs",
    "Ms",
    "Miss",
    "Dr",
    "Prof",
    "Professor",
    "Sir",
    "Lady",
    "Lord",
    "Captain",
    "Colonel",
    "General",
    "President",
    "Herr",
    "Frau",
    "Monsieur",
    "Madame",
    "Señor",
    "Señora",
    "Mister",
    "Sister",
    "Brother",
    "Father",
    "Uncle",
    "Aunt",
    "King",
    "Queen",
    "Prince",
    "Princess",
];
const ORGANISATIONS: &[&str] = &[
    "Ltd",
    "Limited",
    "Inc",
    "Incorporated",
    "LLC",
    "Corp",
    "Corporation",
    "Co",
    "Company",
    "plc",
    "PLC",
    "GmbH",
    "AG",
    "SA",
    "BV",
    "Foundation",
    "University",
    "Society",
    "Trust",
    "Association",
    "Institute",
    "Council",
    "Committee",
    "Agency",
    "Bank",
    "College",
    "Consortium",
    "Group",
    "Laboratories",
];
/// What stands before places, more often than not.
const BEFORE_PLACES: &[&str] =
    &["in", "at", "near", "from", "around", "outside", "across", "throughout", "into", "towards", "toward"];
/// Words that join the parts of a name.
const LINKS: &[&str] = &["of", "de", "van", "von", "der", "la", "du", "di", "da", "del", "and"];
/// Capitals that are no names.
const CALENDAR: &[&str] = &[
    "I",
    "Monday",
    "Tuesday",
    "Wednesday",
    "Thursday",
    "Friday",
    "Saturday",
    "Sunday",
    "January",
    "February",
    "March",
    "April",
    "May",
    "June",
    "July",
    "August",
    "September",
    "October",
    "November",
    "December",
    "Mon",
    "Tue",
    "Wed",
    "Thu",
    "Fri",
    "Sat",
    "Sun",
    "Jan",
    "Feb",
    "Mar",
    "Apr",
    "Jun",
    "Jul",
    "Aug",
    "Sep",
    "Oct",
    "Nov",
    "Dec",
    "OK",
    "Ok",
];

/// What was seen of words with capitals.
#[derive(Default)]
pub(super) struct NameGathering {
    names: HashMap<String, NameUse, State>,
    /// By word in small letters: how often it has a small letter, and how often a capital, in the middle of sentences.
    words: HashMap<String, (u32, u32), State>,
}

#[derive(Clone, Default)]
struct NameUse {
    seen: Occurrences,
    inside: u64,
    /// How often a title stands before it, and what stands before places.
    titled: u64,
    placed: u64,
    /// Where it stands first: the place of the document among all, and in its text; with the words around it.
    first: Option<((u64, usize), String)>,
}

/// Whether a word is written like a name: a capital and small letters behind. Capitals inside are those of `McKay`, `O'Neill` and `Jean-Luc`, not of `TypeError` and
/// `URLs`; a short form of several words, `I'm`, is none.
fn is_capitalised(word: &str) -> bool {
    let tail = word.split_once(['\'', '’']).map_or("", |(_, tail)| tail);
    let is_short = matches!(tail, "m" | "d" | "ll" | "ve" | "re" | "t");
    let mut before = None;
    let fits = word.chars().all(|c| {
        let may_be_capital = match before {
            None => true,
            Some(before) => matches!(before, '\'' | '’' | '-' | '.'),
        };
        before = Some(c);
        c.is_lowercase() || matches!(c, '\'' | '’' | '-') || (c.is_uppercase() && may_be_capital)
    });
    let is_scottish = ["Mc", "Mac"].iter().any(|start| word.strip_prefix(start).is_some_and(is_simple));
    !is_short
        && (is_scottish
            || (is_simple(word) || fits && word.starts_with(char::is_uppercase))
                && word.chars().nth(1).is_some())
}

/// Whether a word is a capital with small letters behind it.
fn is_simple(word: &str) -> bool {
    let mut letters = word.chars();
    letters.next().is_some_and(char::is_uppercase)
        && letters.all(char::is_lowercase)
        && word.chars().nth(1).is_some()
}

impl NameGathering {
    pub(super) fn document(&mut self, order: u64, text: &str, tokens: &[EndedToken<'_>]) {
        let word = |place: usize| {
            tokens[place].span.of(text).trim_end_matches('.').trim_end_matches("'s").trim_end_matches("’s")
        };
        let heads = headings(text);
        let mut place = 0;
        while place < tokens.len() {
            let token = &tokens[place];
            let written = word(place);
            let is_word =
                !written.is_empty() && written.chars().any(char::is_alphabetic) && token.kind() != Kind::Url;
            if !is_word {
                place += 1;
                continue;
            }
            let inside = is_inside(text, tokens, place);
            if !is_capitalised(written) || in_heading(&heads, token.span.start as usize) {
                if inside
                    && written.chars().all(char::is_alphabetic)
                    && !written.chars().any(char::is_uppercase)
                {
                    self.words.entry_ref(written).or_default().0 += 1;
                }
                place += 1;
                continue;
            }
            let end = chain_end(text, tokens, place, &word);
            let mut first = place;
            let mut is_titled = false;
            // A title may stand behind the word that begins a sentence: `Yesterday Dr. Okoro`.
            if !inside && first + 2 < end && TITLES.contains(&word(first + 1)) {
                first += 1;
            }
            while first + 1 < end && TITLES.contains(&word(first)) {
                (is_titled, first) = (true, first + 1);
            }
            let words = (first..end).filter(|at| is_capitalised(word(*at))).count();
            if words <= MOST_WORDS {
                // `in the United States`
                let before = |at: usize| at.checked_sub(1).map(&word).unwrap_or_default();
                let before = if before(place) == "the" { before(place - 1) } else { before(place) };
                let name = joined(text, tokens, first, end, &word);
                let stretch = tokens[first].span.start as usize..tokens[end - 1].span.end as usize;
                let signs = (inside, is_titled, BEFORE_PLACES.contains(&before));
                self.note((order, text, stretch), &name, signs);
            }
            for at in first..end {
                if (at > place || inside) && is_capitalised(word(at)) {
                    self.words.entry(word(at).to_lowercase()).or_default().1 += 1;
                }
            }
            place = end;
        }
    }

    /// Counts a name in a stretch of a document, and keeps the words around it where it stands first.
    fn note(
        &mut self,
        (order, text, stretch): (u64, &str, std::ops::Range<usize>),
        name: &str,
        (inside, is_titled, is_placed): (bool, bool, bool),
    ) {
        let known = self.names.entry_ref(name).or_default();
        known.seen.note(order);
        known.inside += u64::from(inside || is_titled);
        known.titled += u64::from(is_titled);
        known.placed += u64::from(is_placed);
        let place = (order, stretch.start);
        if known.first.as_ref().is_none_or(|(first, _)| place < *first) {
            known.first = Some((place, around(text, stretch)));
        }
    }

    pub(super) fn absorb(&mut self, other: NameGathering) {
        for (name, theirs) in other.names {
            let ours = self.names.entry(name).or_default();
            ours.seen.absorb(theirs.seen);
            ours.inside += theirs.inside;
            ours.titled += theirs.titled;
            ours.placed += theirs.placed;
            let is_earlier =
                |first: &((u64, usize), String)| ours.first.as_ref().is_none_or(|known| first.0 < known.0);
            if theirs.first.as_ref().is_some_and(is_earlier) {
                ours.first = theirs.first;
            }
        }
        for (word, (small, capital)) in other.words {
            let ours = self.words.entry(word).or_default();
            (ours.0, ours.1) = (ours.0 + small, ours.1 + capital);
        }
    }

    /// How many of the tokens of a word in the middle of sentences have a small letter.
    fn small_share(&self, word: &str) -> f64 {
        let (small, capital) = self.words.get(word.to_lowercase().as_str()).copied().unwrap_or_default();
        f64::from(small) / f64::from((small + capital).max(1))
    }
}

/// Where a run of words with capitals ends that begins at `place`: single spaces between them, and small words that link names.
fn chain_end<'t>(
    text: &'t str,
    tokens: &[EndedToken<'_>],
    place: usize,
    word: &dyn Fn(usize) -> &'t str,
) -> usize {
    let adjoins = |at: usize| {
        at < tokens.len() && {
            let (end, start) = (tokens[at - 1].span.end as usize, tokens[at].span.start as usize);
            // A full stop ends a short form: `Dr. Okoro`.
            let between = text.get(end..start).unwrap_or_default();
            between == " " || (between == ". " && TITLES.contains(&word(at - 1)))
        }
    };
    let mut end = place + 1;
    loop {
        // A full stop may be a token of its own behind a title.
        let dot = adjoins_dot(text, tokens, end) && TITLES.contains(&word(end - 1));
        let next = end + usize::from(dot);
        if next < tokens.len() && (dot || adjoins(next)) && is_capitalised(word(next)) {
            end = next + 1;
        } else if !dot
            && adjoins(end)
            && LINKS.contains(&word(end))
            && word(end) != "and"
            && adjoins(end + 1)
            && is_capitalised(word(end + 1))
        {
            end += 2;
        } else {
            return end;
        }
    }
}

/// Whether the token at `at` is a full stop right behind a word, with a space and another token behind it.
fn adjoins_dot(text: &str, tokens: &[EndedToken<'_>], at: usize) -> bool {
    at + 1 < tokens.len()
        && tokens[at].span.of(text) == "."
        && tokens[at].span.start == tokens[at - 1].span.end
        && text.get(tokens[at].span.end as usize..tokens[at + 1].span.start as usize) == Some(" ")
}

/// How much of the text on either side of a name is shown, in characters.
const AROUND: usize = 28;

/// A stretch of a text with whole words around it, on one line.
fn around(text: &str, stretch: std::ops::Range<usize>) -> String {
    let from =
        text[..stretch.start].char_indices().rev().take(AROUND).last().map_or(stretch.start, |(at, _)| at);
    let from =
        if from == 0 { 0 } else { from + text[from..stretch.start].find(char::is_whitespace).unwrap_or(0) };
    let to = text[stretch.end..].char_indices().nth(AROUND).map_or(text.len(), |(at, _)| stretch.end + at);
    let to = if to == text.len() {
        to
    } else {
        stretch.end + text[stretch.end..to].rfind(char::is_whitespace).unwrap_or(0)
    };
    text[from..to].split_whitespace().collect::<Vec<_>>().join(" ")
}

/// The words of a name with single spaces.
fn joined<'t>(
    text: &'t str,
    tokens: &[EndedToken<'_>],
    first: usize,
    end: usize,
    word: &dyn Fn(usize) -> &'t str,
) -> String {
    let words = (first..end).filter(|at| tokens[*at].span.of(text) != ".").map(word);
    words.collect::<Vec<_>>().join(" ")
}

/// The lines in which most words have a capital, as ranges: headings tell nothing of names.
fn headings(text: &str) -> Vec<(usize, usize)> {
    let mut found = Vec::new();
    let mut start = 0;
    for line in text.split_inclusive('\n') {
        let words = line.split_whitespace().filter(|word| word.starts_with(char::is_alphabetic));
        let (all, capital) = words.fold((0, 0), |(all, capital), word| {
            (all + 1, capital + usize::from(word.starts_with(char::is_uppercase)))
        });
        if all >= 2 && capital * 5 >= all * 3 {
            found.push((start, start + line.len()));
        }
        start += line.len();
    }
    found
}

fn in_heading(headings: &[(usize, usize)], at: usize) -> bool {
    let next = headings.partition_point(|(start, _)| *start <= at);
    next > 0 && at < headings[next - 1].1
}

pub(super) fn suggest(inquiry: &Inquiry<'_>, gathered: &NameGathering) -> Vec<Suggestion> {
    if inquiry.language() == "de" {
        return Vec::new();
    }
    let mut all: Vec<Suggestion> = gathered
        .names
        .iter()
        .filter(|(name, known)| {
            let is_single = !name.contains(' ');
            known.seen.count >= LEAST
                && known.inside >= LEAST_INSIDE
                && name.chars().count() > 2
                && !name.split(' ').any(|word| CALENDAR.contains(&word))
                && (!is_single || gathered.small_share(name) <= MOST_SMALL)
                // A run of capitals whose every word has none elsewhere is a heading or a label.
                && name.split(' ').any(|word| is_capitalised(word) && gathered.small_share(word) <= 0.5)
        })
        .map(|(name, known)| suggestion(name, known))
        .collect();
    all.sort_by(|a, b| b.count.cmp(&a.count).then_with(|| a.what.cmp(&b.what)));
    all
}

fn suggestion(name: &str, known: &NameUse) -> Suggestion {
    let last = name.rsplit(' ').next().unwrap_or_default();
    let first = name.split(' ').next().unwrap_or_default();
    let (label, why) = if ORGANISATIONS.contains(&last) || ORGANISATIONS.contains(&first) {
        ("organisation", "organisation by its name; ".to_owned())
    } else if known.titled > 0 && known.titled * 4 >= known.seen.count {
        ("person", format!("person, after a title {}×; ", known.titled))
    } else if known.placed * 5 >= known.seen.count * 2 && known.placed > 1 {
        ("place", format!("place, after `in`, `at`, `from` {}×; ", known.placed))
    } else {
        ("name", String::new())
    };
    let context = known.first.as_ref().map_or("", |(_, context)| context);
    let because = format!("{why}{} inside sentences: {context}", known.inside);
    Suggestion {
        sort: Sort::Names,
        what: name.to_owned(),
        count: known.seen.count,
        documents: known.seen.documents,
        because,
        proposal: Proposal::Name { name: name.to_owned(), label },
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn headings_are_lines_of_capitals() {
        let text = "The Old Harbour Road\nWe met Ines Okoro at the hide.\nNotes\n";
        assert_eq!(headings(text), [(0, 21)]);
        assert!(in_heading(&headings(text), 4) && !in_heading(&headings(text), 30));
        assert!(
            is_capitalised("Okoro")
                && is_capitalised("O'Neill")
                && !is_capitalised("NASA")
                && !is_capitalised("URLs")
                && !is_capitalised("I'm")
                && is_capitalised("Wu")
                && ["McKay", "O'Neill", "Jean-Luc"].iter().all(|name| is_capitalised(name))
                && !["TypeError", "IOException", "QWidget", "A"].iter().any(|name| is_capitalised(name))
                && !is_capitalised("tern")
        );
    }
}
