//! Words that look like another word misspelt, or written in another way.
//!
//! Suspects are found by what is left of words when one or two letters are taken out (Mor and Fraenkel 1982, "A hash code method for detecting and correcting
//! spelling errors"), and compared by the edits between them, a swap of neighbours counting as one (Damerau 1964, "A technique for computer detection and
//! correction of spelling errors").

use std::collections::BTreeSet;

use hashbrown::HashMap;
use unicode_normalization::UnicodeNormalization as _;
use unicode_normalization::char::is_combining_mark;

use crate::account::WordCount;
use crate::lemma::english;
use crate::numbers::grouped;
use crate::step::NoFields;
use crate::suggest::contexts::Contexts;
use crate::suggest::{Inquiry, Proposal, Sort, StepPlace, Suggestion};
use crate::words::{dictionary, pair_table};

type State = foldhash::fast::FixedState;

/// The shortest word that may be misspelt, in letters; and the shortest that may have two mistakes.
const SHORTEST: usize = 4;
const SHORTEST_OF_TWO: usize = 8;
/// How many times as often the right word must come, by how likely the slip is.
const RATIO_LIKELY: u64 = 10;
const RATIO_UNLIKELY: u64 = 100;
/// And where no dictionary knows the words of the language.
const RATIO_UNKNOWN: u64 = 50;
/// How often the right word must come.
const LEAST: u64 = 10;
/// From so many tokens on, a misspelling is in many documents: what comes again and again in a few is a word of theirs.
const SPREAD_FROM: u64 = 4;
/// How many suspects are looked at closely: those that come most often.
const MOST_SUSPECTS: usize = 3_000;
/// How much of the neighbours of a word the other must have as well: the less likely the slip, the more.
const SHARED_OF_HAND: f64 = 0.25;
const SHARED: f64 = 0.5;
const SHARED_OF_EAR: f64 = 0.75;
/// Words with and without accents are variants if the one comes so many times as often.
const RATIO_OF_ACCENTS: u64 = 3;
const RATIO_OF_MISSING: u64 = 20;
/// And if the other comes so often at least: names and foreign words come once.
const LEAST_ACCENTED: u64 = 3;

/// A word that may be another.
#[derive(Clone, Debug)]
pub(super) struct Spelling {
    pub(super) from: String,
    pub(super) to: String,
    /// How one came of the other; none where accents alone are missing or too many.
    slip: Slip,
}

/// The words that may be others.
pub(super) fn suspects(inquiry: &Inquiry<'_>) -> Vec<Spelling> {
    let mut all = Vec::new();
    if inquiry.asks(Sort::Spellings) {
        all.extend(misspelt(inquiry));
    }
    if inquiry.asks(Sort::Variants) {
        all.extend(accented(inquiry));
    }
    all
}

/// Whether the words of the language are known.
fn has_dictionary(inquiry: &Inquiry<'_>) -> bool {
    inquiry.language() == "en"
}

fn is_known(word: &str) -> bool {
    dictionary("en").is_some_and(|dictionary| dictionary.has(word)) || english().knows(word)
}

/// The right form of a word that lacks the second of two letters before its ending, such as `occurred` for `occured`: the rules of inflection make either of `occur`,
/// so the dictionary cannot tell, only how often each comes. Not where both are right (`traveled`, `focused`), and not for a form of another word (`planed`).
fn undoubled(word: &str) -> Option<String> {
    let (stem, ending) =
        ["ed", "ing"].iter().find_map(|ending| Some((word.strip_suffix(ending)?, *ending)))?;
    let mut letters = stem.chars().rev();
    let (last, vowel, before) = (letters.next()?, letters.next()?, letters.next()?);
    let may_double = !is_vowel(last) && !matches!(last, 'c' | 'h' | 'l' | 's' | 'w' | 'x');
    if !may_double || !is_vowel(vowel) || is_vowel(before) {
        return None;
    }
    let has = |word: &str| english().knows(word);
    let doubled = format!("{stem}{last}{ending}");
    (has(stem) && !has(&format!("{stem}e")) && has(&doubled)).then_some(doubled)
}

/// Every word without one of its letters, or two.
fn shortened(word: &[char], edits: usize) -> BTreeSet<String> {
    let mut all = BTreeSet::from([word.iter().collect::<String>()]);
    for place in 0..word.len() {
        let rest: Vec<char> = [&word[..place], &word[place + 1..]].concat();
        if edits > 1 {
            all.extend(shortened(&rest, edits - 1));
        } else {
            all.insert(rest.iter().collect());
        }
    }
    all
}

fn edits_of(length: usize) -> usize {
    if length >= SHORTEST_OF_TWO { 2 } else { 1 }
}

fn misspelt(inquiry: &Inquiry<'_>) -> Vec<Spelling> {
    let words = &inquiry.counts.words;
    let has_dictionary = has_dictionary(inquiry);
    let stop = &inquiry.stop_words;
    let mut rights: Vec<(&str, WordCount<'_>)> = words
        .iter()
        .filter(|(word, count)| count.count >= LEAST && word.chars().count() >= SHORTEST)
        .filter(|(word, _)| !has_dictionary || is_known(word))
        .map(|(word, count)| (word.as_str(), *count))
        .collect();
    rights.sort_unstable_by(|a, b| b.1.count.cmp(&a.1.count).then_with(|| a.0.cmp(b.0)));
    let mut by_part: HashMap<String, Vec<u32>, State> = HashMap::default();
    for (number, (word, _)) in (0..).zip(&rights) {
        let letters: Vec<char> = word.chars().collect();
        for part in shortened(&letters, edits_of(letters.len())) {
            by_part.entry(part).or_default().push(number);
        }
    }
    let most = rights.first().map_or(0, |(_, count)| count.count);
    let mut found: Vec<(u64, Spelling)> = Vec::new();
    for (word, count) in words {
        let letters: Vec<char> = word.chars().collect();
        // No right word comes often enough for it to be a mistake.
        if letters.len() < SHORTEST || count.count * RATIO_LIKELY > most {
            continue;
        }
        let is_bunched = count.count >= SPREAD_FROM && count.documents * 2 < count.count;
        if is_bunched || stop.contains(word) {
            continue;
        }
        let doubled = if has_dictionary { undoubled(word) } else { None };
        if has_dictionary && doubled.is_none() && (is_known(word) || is_compound(word)) {
            continue;
        }
        let mut best: Option<((usize, u64), &str, Slip)> = None;
        for part in shortened(&letters, edits_of(letters.len())) {
            for number in by_part.get(&part).into_iter().flatten() {
                let (right, right_count) = rights[*number as usize];
                if doubled.as_deref().is_some_and(|doubled| doubled != right) {
                    continue;
                }
                // What a step has brought together already is one term.
                if count.term.is_some()
                    && count.term.map(|(term, _)| term) == right_count.term.map(|(term, _)| term)
                {
                    continue;
                }
                // Where no dictionary knows the words of the language, another vowel is most often another form.
                let slip = slip(&letters, &right.chars().collect::<Vec<_>>());
                let ratio = match slip {
                    Slip::OfHand => RATIO_LIKELY,
                    Slip::OfEar if has_dictionary => RATIO_LIKELY,
                    Slip::Unlikely => RATIO_UNLIKELY,
                    Slip::OfEar | Slip::None => continue,
                };
                let ratio = if has_dictionary { ratio } else { ratio.max(RATIO_UNKNOWN) };
                // Of the short words, function words alone come so often that slips are seen.
                let is_told = letters.len() > SHORTEST || stop.contains(right);
                let may_be = is_told
                    && right_count.count >= ratio * count.count
                    && begins_alike(&letters, right)
                    && !is_inflection(word, right, has_dictionary);
                if !may_be {
                    continue;
                }
                let edits = strsim::damerau_levenshtein(word, right);
                // The nearest, and of those as near the most frequent.
                let order = (edits, u64::MAX - right_count.count);
                if (1..=edits_of(letters.len())).contains(&edits)
                    && best.is_none_or(|(known, ..)| order < known)
                {
                    best = Some((order, right, slip));
                }
            }
        }
        if let Some((_, right, slip)) = best {
            found.push((count.count, Spelling { from: word.clone(), to: right.to_owned(), slip }));
        }
    }
    let order = |(count, spelling): &(u64, Spelling)| {
        (std::cmp::Reverse(*count), spelling.slip, spelling.from.clone())
    };
    found.sort_by_cached_key(order);
    found.into_iter().take(MOST_SUSPECTS).map(|(_, spelling)| spelling).collect()
}

/// How likely a hand or an ear is to slip from one word to another.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
enum Slip {
    /// Two neighbours swapped, a letter doubled or not.
    OfHand,
    /// A vowel for a vowel, or the same consonants.
    OfEar,
    /// A letter left out or put in within a long word, or a neighbour of the key.
    Unlikely,
    None,
}

/// The rows of keys, by which letters are neighbours.
const KEYS: [&str; 3] = ["qwertyuiop", "asdfghjkl", "zxcvbnm"];

fn slip(word: &[char], right: &[char]) -> Slip {
    let shared = word.iter().zip(right).take_while(|(a, b)| a == b).count();
    let (rest, right_rest) = (&word[shared..], &right[shared..]);
    let behind = rest.iter().rev().zip(right_rest.iter().rev()).take_while(|(a, b)| a == b).count();
    // What is left of either when what they share before and behind is gone.
    let (wrong, meant) = (&rest[..rest.len() - behind], &right_rest[..right_rest.len() - behind]);
    let is_last = behind == 0;
    let is_double =
        |letter: char| shared > 1 && (right[shared - 1] == letter || right.get(shared) == Some(&letter));
    let is_long = word.len() > SHORTEST + 1;
    match (wrong, meant) {
        ([a, b], [c, d]) if a == d && b == c => Slip::OfHand,
        // Words of four letters are too near to others.
        _ if word.len() <= SHORTEST => Slip::None,
        ([extra], []) if is_double(*extra) => Slip::OfHand,
        ([], [left_out])
            if shared > 1 && (word[shared - 1] == *left_out || word.get(shared) == Some(left_out)) =>
        {
            Slip::OfHand
        }
        ([_], []) if is_last => Slip::None,
        _ if is_last && skeleton(word) != skeleton(right) => Slip::None,
        ([a], [b]) if is_vowel(*a) && is_vowel(*b) && !is_last && is_long => Slip::OfEar,
        ([], [_]) if is_long => Slip::Unlikely,
        ([_], []) if word.len() >= 7 => Slip::Unlikely,
        ([a], [b]) if is_long && are_neighbours(*a, *b) => Slip::Unlikely,
        _ if word.len() >= SHORTEST_OF_TWO
            && shared > 0
            && word.len().abs_diff(right.len()) <= 1
            && skeleton(word) == skeleton(right)
            && !is_last =>
        {
            Slip::OfEar
        }
        _ => Slip::None,
    }
}

fn is_vowel(letter: char) -> bool {
    matches!(letter, 'a' | 'e' | 'i' | 'o' | 'u' | 'y')
}

fn are_neighbours(a: char, b: char) -> bool {
    let beside = |keys: &str| {
        let place = |letter: char| keys.chars().position(|key| key == letter);
        place(a).zip(place(b)).is_some_and(|(a, b)| a.abs_diff(b) == 1)
    };
    KEYS.iter().any(|keys| beside(keys))
}

/// The consonants of a word, each once where it is doubled.
fn skeleton(word: &[char]) -> Vec<char> {
    let mut consonants: Vec<char> = word.iter().copied().filter(|letter| !is_vowel(*letter)).collect();
    consonants.dedup();
    consonants
}

/// Whether two words begin with the same letter, or with the same two swapped: hands seldom miss the first.
fn begins_alike(letters: &[char], right: &str) -> bool {
    let mut right = right.chars();
    let (first, second) = (right.next(), right.next());
    letters.first().copied() == first
        || (letters.first().copied() == second && letters.get(1).copied() == first)
}

/// The endings by which forms of one word differ.
const ENDINGS: &[&str] = &[
    "s", "es", "d", "ed", "r", "er", "ers", "or", "ors", "n", "en", "e", "ing", "ings", "ly", "y", "al",
    "able", "ness", "ism", "ist", "ize", "ise",
];

/// Endings of other languages, where no dictionary knows their forms.
const OTHER_ENDINGS: &[&str] = &[
    "a", "as", "an", "o", "os", "é", "ée", "és", "ées", "ez", "iez", "ent", "ant", "ants", "ait", "ais",
    "ont", "ons", "et", "ar", "ir", "ado", "ada", "ando", "t", "te", "ten", "em", "st", "end",
];

/// Whether one word is the other with an ending, or both are one stem with two endings.
fn is_inflection(word: &str, right: &str, has_dictionary: bool) -> bool {
    let is_ending =
        |ending: &str| ENDINGS.contains(&ending) || (!has_dictionary && OTHER_ENDINGS.contains(&ending));
    let extends = |short: &str, long: &str| {
        // `process` is none of `proces`.
        let is_double = |ending: &str| ending == "s" && short.ends_with('s');
        long.strip_prefix(short).is_some_and(|ending| is_ending(ending) && !is_double(ending))
    };
    if extends(word, right) || extends(right, word) {
        return true;
    }
    let shared = word.char_indices().zip(right.chars()).take_while(|((_, a), b)| a == b).last();
    let shared = shared.map_or(0, |((at, letter), _)| at + letter.len_utf8());
    let ending = |text: &str| text.get(shared..).is_some_and(&is_ending);
    shared >= 3 && ending(word) && ending(right)
}

/// Whether two words of the dictionary, of three letters or more, make this one: names of things are made so.
fn is_compound(word: &str) -> bool {
    let places = word.char_indices().map(|(at, _)| at).skip(3);
    places
        .filter(|at| word[*at..].chars().count() >= 3)
        .any(|at| is_known(&word[..at]) && is_known(&word[at..]))
}

/// A word without its accents.
fn folded(word: &str) -> String {
    word.nfd().filter(|c| !is_combining_mark(*c)).nfc().collect()
}

/// Words of which some tokens have accents and others have none.
fn accented(inquiry: &Inquiry<'_>) -> Vec<Spelling> {
    let mut by_bare: HashMap<String, Vec<(&str, u64)>, State> = HashMap::default();
    let is_latin = |word: &str| word.chars().all(|c| c < '\u{250}');
    for (word, count) in inquiry.counts.words.iter().filter(|(word, count)| count.kept > 0 && is_latin(word))
    {
        if word.chars().count() >= SHORTEST && (!word.is_ascii() || inquiry.counts.words.len() < 2_000_000) {
            by_bare.entry(folded(word)).or_default().push((word, count.count));
        }
    }
    let mut found = Vec::new();
    for (bare, mut writings) in by_bare.into_iter().filter(|(_, writings)| writings.len() == 2) {
        writings.sort_by(|a, b| b.1.cmp(&a.1).then_with(|| a.0.cmp(b.0)));
        let ((to, most), (from, fewest)) = (writings[0], writings[1]);
        // Where accents tell words apart, only one that is missing is a variant, and seldom.
        let is_missing = from == bare;
        let ratio = if inquiry.language() == "en" { RATIO_OF_ACCENTS } else { RATIO_OF_MISSING };
        let is_word = has_dictionary(inquiry) && is_known(from);
        let term = |word: &str| inquiry.counts.of_word(word).term.map(|(term, _)| term);
        if term(from) == term(to) {
            continue;
        }
        if fewest >= LEAST_ACCENTED
            && most >= ratio * fewest
            && (is_missing || inquiry.language() == "en")
            && !is_word
        {
            found.push((fewest, Spelling { from: from.to_owned(), to: to.to_owned(), slip: Slip::None }));
        }
    }
    found.sort_by(|a, b| b.0.cmp(&a.0).then_with(|| a.1.from.cmp(&b.1.from)));
    found.into_iter().take(MOST_SUSPECTS).map(|(_, spelling)| spelling).collect()
}

/// The misspellings, or the variants, among the suspects: those whose neighbours the right word has as well; and of misspellings none that are names.
pub(super) fn suggest_words(inquiry: &Inquiry<'_>, contexts: &Contexts, sort: Sort) -> Vec<Suggestion> {
    let wanted = |spelling: &&Spelling| (spelling.slip == Slip::None) == (sort == Sort::Variants);
    let judge = |spelling: &Spelling| {
        let neighbours = contexts.shared(inquiry, &spelling.from, &spelling.to);
        let is_name = sort == Sort::Spellings && contexts.is_name(inquiry, &spelling.from);
        let least = match spelling.slip {
            Slip::OfHand => SHARED_OF_HAND,
            Slip::OfEar => SHARED_OF_EAR,
            Slip::Unlikely | Slip::None => SHARED,
        };
        if is_name || neighbours.is_none_or(|shared| shared < least) {
            return None;
        }
        // What the recipe makes the same of already, be it nothing, is no more to be mended.
        let made = |word: &str| inquiry.pipeline.trace(word, &NoFields).clean;
        if made(&spelling.from) == made(&spelling.to) {
            return None;
        }
        let (from, to) = (inquiry.counts.of_word(&spelling.from), inquiry.counts.of_word(&spelling.to));
        Some(Suggestion {
            sort,
            what: format!("{} → {}", spelling.from, spelling.to),
            count: from.count,
            documents: from.documents,
            because: format!(
                "{} against {}; {:.0} % of its neighbours also occur next to `{}`",
                grouped(from.count),
                grouped(to.count),
                neighbours.unwrap_or(0.0) * 100.0,
                spelling.to
            ),
            proposal: Proposal::Equate { from: spelling.from.clone(), to: spelling.to.clone() },
        })
    };
    inquiry.spellings.iter().filter(wanted).filter_map(judge).collect()
}

/// How many words must be written in both ways for a table to be suggested.
const LEAST_PAIRS: usize = 3;
/// How many of them are shown.
const SHOWN: usize = 4;

/// Words with and without accents; British and American spellings; letter cases.
pub(super) fn suggest_variants(inquiry: &Inquiry<'_>, contexts: &Contexts) -> Vec<Suggestion> {
    let mut all: Vec<Suggestion> = both_countries(inquiry).into_iter().collect();
    all.extend(letter_cases(inquiry));
    all.extend(suggest_words(inquiry, contexts, Sort::Variants));
    all
}

/// A word in American and in British spelling, each with its counts.
type BothWays<'a> = (String, WordCount<'a>, String, WordCount<'a>);

fn both_countries(inquiry: &Inquiry<'_>) -> Option<Suggestion> {
    if inquiry.language() != "en" {
        return None;
    }
    let equated = inquiry.recipe.steps.iter().flat_map(|step| step.settings.references());
    if equated.into_iter().any(|reference| matches!(reference.name.as_str(), "british" | "american")) {
        return None;
    }
    let counts = |word: &str| inquiry.counts.of_word(word);
    let mut both: Vec<BothWays<'_>> = pair_table("british")?
        .into_iter()
        .map(|(american, british)| {
            let (one, other) = (counts(&american), counts(&british));
            (american, one, british, other)
        })
        .filter(|(_, american, _, british)| {
            // What a stemmer has brought together already is one term.
            american.kept > 0
                && british.kept > 0
                && american.term.map(|(term, _)| term) != british.term.map(|(term, _)| term)
        })
        .collect();
    if both.len() < LEAST_PAIRS {
        return None;
    }
    both.sort_by_key(|(_, american, _, british)| std::cmp::Reverse(american.count.min(british.count)));
    let sum = |of: &dyn Fn(&BothWays<'_>) -> u64| both.iter().map(of).sum::<u64>();
    let (american, british) = (sum(&|pair| pair.1.count), sum(&|pair| pair.3.count));
    let (table, fewer) = if british >= american { ("british", american) } else { ("american", british) };
    let shown: Vec<String> = both
        .iter()
        .take(SHOWN)
        .map(|(american, one, british, other)| {
            format!("{american} {} / {british} {}", grouped(one.count), grouped(other.count))
        })
        .collect();
    Some(Suggestion {
        sort: Sort::Variants,
        what: format!("{} words in both British and American spelling", both.len()),
        count: fewer,
        documents: 0,
        because: shown.join(", "),
        proposal: Proposal::Step {
            toml: format!("[[step]]\ndo = \"equate\"\ntables = [\"{table}\"]\n"),
            place: StepPlace::BeforeReducing,
        },
    })
}

/// Letter cases that were left apart in a recipe that has no step for them.
fn letter_cases(inquiry: &Inquiry<'_>) -> Option<Suggestion> {
    let found = inquiry.advised().case_variants()?;
    let shown: Vec<String> = found.words.iter().take(SHOWN).map(|word| format!("`{word}`")).collect();
    Some(Suggestion {
        sort: Sort::Variants,
        what: format!("{} words occur with a capital and without", found.words.len()),
        count: found.tokens,
        documents: 0,
        because: format!("the commonest: {}", shown.join(", ")),
        proposal: Proposal::Step {
            toml: "[[step]]\ndo = \"case\"\n".to_owned(),
            place: StepPlace::BeforeReducing,
        },
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn shortened_words_meet_where_they_differ_by_as_many_letters() {
        let of = |word: &str, edits| shortened(&word.chars().collect::<Vec<_>>(), edits);
        assert!(of("recieved", 1).intersection(&of("received", 1)).next().is_some());
        assert!(of("ocurence", 2).intersection(&of("occurrence", 2)).next().is_some());
        assert_eq!(of("tern", 1).len(), 5);
    }

    #[test]
    fn forms_of_one_word_are_no_misspellings() {
        for (word, right) in [
            ("terns", "tern"),
            ("config", "configs"),
            ("hided", "hiding"),
            ("parser", "parsed"),
            ("gulls", "gull"),
        ] {
            assert!(is_inflection(word, right, true), "{word} {right}");
        }
        assert!(
            is_inflection("programmée", "programme", false)
                && !is_inflection("independant", "independent", true)
        );
        for (word, right) in [
            ("recieved", "received"),
            ("becuase", "because"),
            ("seperate", "separate"),
            ("occured", "occurred"),
        ] {
            assert!(!is_inflection(word, right, true), "{word} {right}");
        }
        // `e` is an ending: what hand or ear made cannot be told from it.
        assert!(is_inflection("ther", "there", true));
    }

    #[test]
    fn an_undoubled_letter_is_a_mistake_only_where_one_form_is_right() {
        for (wrong, right) in [
            ("occured", "occurred"),
            ("refering", "referring"),
            ("stoped", "stopped"),
            ("begining", "beginning"),
        ] {
            assert_eq!(undoubled(wrong).as_deref(), Some(right), "{wrong}");
        }
        for right in [
            "planed", "hoping", "traveled", "focusing", "mixed", "showed", "rained", "walked", "cured",
            "occurred", "bed", "ing",
        ] {
            assert_eq!(undoubled(right), None, "{right}");
        }
    }

    #[test]
    fn slips_are_told_by_how_they_come_about() {
        let slip = |word: &str, right: &str| {
            slip(&word.chars().collect::<Vec<_>>(), &right.chars().collect::<Vec<_>>())
        };
        for (word, right) in [
            ("thier", "their"),
            ("waht", "what"),
            ("recieved", "received"),
            ("occured", "occurred"),
            ("neccessary", "necessary"),
            ("definately", "definitely"),
            ("tommorow", "tomorrow"),
            ("maintainance", "maintenance"),
            ("seperate", "separate"),
            ("begining", "beginning"),
        ] {
            assert!(matches!(slip(word, right), Slip::OfHand | Slip::OfEar), "{word}");
        }
        for (word, right) in [("goverment", "government"), ("functiom", "function")] {
            assert_ne!(slip(word, right), Slip::OfHand, "{word}");
        }
        assert_eq!(slip("enviroment", "environment"), Slip::Unlikely);
        for (word, right) in [
            ("codec", "code"),
            ("iter", "item"),
            ("modulo", "module"),
            ("paren", "parent"),
            ("rustc", "rust"),
            ("tostring", "testing"),
            ("isinstance", "instance"),
            ("frob", "from"),
            ("modulea", "module"),
            ("mech", "much"),
            ("dist", "disst"),
        ] {
            assert_eq!(slip(word, right), Slip::None, "{word}");
        }
    }

    #[test]
    fn compounds_and_first_letters_tell() {
        assert!(is_compound("nestbox") && !is_compound("thier") && !is_compound("recieved"));
        let alike = |word: &str, right: &str| begins_alike(&word.chars().collect::<Vec<_>>(), right);
        assert!(alike("thier", "their") && alike("hte", "the") && !alike("bern", "tern"));
        assert_eq!(folded("Élan Ångström"), "Elan Angstrom");
    }
}
