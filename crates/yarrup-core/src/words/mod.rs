//! The word lists that ship inside, made by us. `README.md` beside this file says how.

mod contractions;
mod dictionary;
mod front_coded;

use std::collections::HashSet;

pub(crate) use contractions::{
    english_contractions, follows_has, follows_is, follows_would, is_between, is_function_word,
    is_participle, is_state,
};
pub use dictionary::{Dictionary, dictionary};
pub(crate) use front_coded::FrontCoded;

/// A stop list on the shelf.
#[derive(Clone, Copy, Debug)]
pub struct StopList {
    /// What recipes call it.
    pub name: &'static str,
    /// The language that it is for.
    pub language: &'static str,
    /// What it is, in a few words.
    pub about: &'static str,
    /// Its files, one behind the other.
    parts: &'static [&'static str],
}

const EN: &str = include_str!("stop-en.txt");

/// The stop lists on the shelf.
pub static STOP_LISTS: &[StopList] = &[
    list("en", "en", "English function words, the careful short list, with contracted forms", &[EN]),
    list(
        "en-long",
        "en",
        "English, the long list: adverbs, light verbs, numerals, the calendar",
        &[EN, include_str!("stop-en-long.txt")],
    ),
    list("de", "de", "German function words", &[include_str!("stop-de.txt")]),
    list("fr", "fr", "French function words", &[include_str!("stop-fr.txt")]),
    list("es", "es", "Spanish function words", &[include_str!("stop-es.txt")]),
    list("it", "it", "Italian function words", &[include_str!("stop-it.txt")]),
    list("pt", "pt", "Portuguese function words", &[include_str!("stop-pt.txt")]),
    list("nl", "nl", "Dutch function words", &[include_str!("stop-nl.txt")]),
    list("sv", "sv", "Swedish function words", &[include_str!("stop-sv.txt")]),
    list("no", "no", "Norwegian function words (Bokmål)", &[include_str!("stop-no.txt")]),
    list("da", "da", "Danish function words", &[include_str!("stop-da.txt")]),
    list("fi", "fi", "Finnish function words, with their commonest cases", &[include_str!("stop-fi.txt")]),
    list("ru", "ru", "Russian function words", &[include_str!("stop-ru.txt")]),
    list("pl", "pl", "Polish function words", &[include_str!("stop-pl.txt")]),
    list("tr", "tr", "Turkish function words, with their commonest cases", &[include_str!("stop-tr.txt")]),
    list("ar", "ar", "Arabic function words", &[include_str!("stop-ar.txt")]),
    list("bg", "bg", "Bulgarian function words", &[include_str!("stop-bg.txt")]),
    list("ca", "ca", "Catalan function words", &[include_str!("stop-ca.txt")]),
    list("cs", "cs", "Czech function words", &[include_str!("stop-cs.txt")]),
    list("el", "el", "Greek function words", &[include_str!("stop-el.txt")]),
    list("gl", "gl", "Galician function words", &[include_str!("stop-gl.txt")]),
    list("hi", "hi", "Hindi function words", &[include_str!("stop-hi.txt")]),
    list("hr", "hr", "Croatian function words, with Serbian forms", &[include_str!("stop-hr.txt")]),
    list("hu", "hu", "Hungarian function words", &[include_str!("stop-hu.txt")]),
    list("id", "id", "Indonesian function words", &[include_str!("stop-id.txt")]),
    list("ja", "ja", "Japanese function words", &[include_str!("stop-ja.txt")]),
    list("ko", "ko", "Korean function words, with their particles", &[include_str!("stop-ko.txt")]),
    list("ro", "ro", "Romanian function words", &[include_str!("stop-ro.txt")]),
    list("sk", "sk", "Slovak function words", &[include_str!("stop-sk.txt")]),
    list("uk", "uk", "Ukrainian function words", &[include_str!("stop-uk.txt")]),
    list("zh", "zh", "Chinese function words", &[include_str!("stop-zh.txt")]),
];

const fn list(
    name: &'static str,
    language: &'static str,
    about: &'static str,
    parts: &'static [&'static str],
) -> StopList {
    StopList { name, language, about, parts }
}

impl StopList {
    /// The groups of the list with their words, in its order. Words with an apostrophe come in both shapes, `'` and `’`. A group that
    /// stands in several parts comes several times.
    pub fn groups(&self) -> Vec<(&'static str, Vec<String>)> {
        let mut groups: Vec<(&'static str, Vec<String>)> = Vec::new();
        for line in self.parts.iter().flat_map(|part| part.lines()).map(str::trim) {
            if let Some(heading) = line.strip_prefix("# ") {
                groups.push((heading, Vec::new()));
            } else if let Some((_, words)) = groups.last_mut() {
                for word in line.split_whitespace() {
                    if word.contains('\'') {
                        words.push(word.replace('\'', "\u{2019}"));
                    }
                    words.push(word.to_owned());
                }
            }
        }
        groups.retain(|(_, words)| !words.is_empty());
        groups
    }
}

/// The code under which the shelf has what is for a language: Norwegian without anything else is Bokmål.
pub(crate) fn shelf_code(code: &str) -> &str {
    if code == "nb" { "no" } else { code }
}

/// The names of the stop lists on the shelf.
pub fn stop_list_names() -> impl Iterator<Item = &'static str> {
    STOP_LISTS.iter().map(|list| list.name)
}

/// The words of the stop list with this name.
pub fn stop_list(name: &str) -> Option<Vec<String>> {
    let list = STOP_LISTS.iter().find(|list| list.name == shelf_code(name))?;
    Some(list.groups().into_iter().flat_map(|(_, words)| words).collect())
}

/// The words of the groups of a stop list whose heading has one of these words: `negation`, `pronouns`.
pub fn stop_groups<'g>(list: &str, groups: impl IntoIterator<Item = &'g str>) -> HashSet<String> {
    let Some(list) = STOP_LISTS.iter().find(|known| known.name == shelf_code(list)) else {
        return HashSet::new();
    };
    let wanted: HashSet<&str> = groups.into_iter().collect();
    let is_named = |heading: &str| heading.split([' ', ',', ':']).any(|word| wanted.contains(word));
    list.groups().into_iter().filter(|(heading, _)| is_named(heading)).flat_map(|(_, words)| words).collect()
}

/// The table of pairs on the shelf with this name: `british` makes British spellings of American ones, `american` the other way.
pub fn pair_table(name: &str) -> Option<Vec<(String, String)>> {
    let pairs = one_a_line(include_str!("spellings-en.txt"))
        .filter_map(|line| line.split_once(' '))
        .map(|(american, british)| (american.to_owned(), british.to_owned()));
    match name {
        "british" => Some(pairs.collect()),
        "american" => Some(pairs.map(|(american, british)| (british, american)).collect()),
        _ => None,
    }
}

/// The words of a list that holds one a line. Empty lines and lines that begin with `# ` are left out.
pub fn one_a_line(text: &str) -> impl Iterator<Item = &str> {
    text.lines().map(str::trim).filter(|line| !line.is_empty() && *line != "#" && !line.starts_with("# "))
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::HashSet;

    #[test]
    fn lists_are_clean() {
        for name in stop_list_names() {
            let words = stop_list(name).unwrap_or_default();
            let mut seen = HashSet::new();
            for word in &words {
                assert!(seen.insert(word.clone()), "{word} is in {name} twice");
                assert_eq!(word.to_lowercase(), *word);
                assert!(!word.contains(char::is_whitespace));
            }
        }
    }

    #[test]
    fn every_list_has_its_groups() {
        for list in STOP_LISTS {
            for group in ["negation", "pronouns", "auxiliaries", "conjunctions"] {
                assert!(!stop_groups(list.name, [group]).is_empty(), "{} {group}", list.name);
            }
            assert!(stop_groups(list.name, ["nouns"]).is_empty());
        }
        let negation = stop_groups("en", ["negation"]);
        assert!(["not", "never", "don't"].iter().all(|word| negation.iter().any(|known| known == word)));
    }

    #[test]
    fn spellings_lead_both_ways() {
        let british = pair_table("british").unwrap_or_default();
        assert!(british.contains(&("color".to_owned(), "colour".to_owned())));
        let american = pair_table("american").unwrap_or_default();
        assert!(american.contains(&("colour".to_owned(), "color".to_owned())));
        assert_eq!(pair_table("irish"), None);
    }

    #[test]
    fn contracted_forms_come_in_both_apostrophes() {
        let words = stop_list("en").unwrap_or_default();
        for word in ["the", "don't", "don\u{2019}t", "they're", "they\u{2019}re"] {
            assert!(words.iter().any(|known| known == word), "{word}");
        }
    }

    #[test]
    fn comments_are_told_from_words_with_a_number_sign() {
        assert_eq!(one_a_line("# note\n#\nnest\n\n #tern \n").collect::<Vec<_>>(), ["nest", "#tern"]);
    }
}
