//! What ships inside: each resource with its origin, its licence and its size.

use crate::lemma::{IRREGULAR, english_lexicon};
use crate::recipe::STARTERS;
use crate::stem::STEMMERS;
use crate::words::{STOP_LISTS, dictionary, pair_table};

/// A resource on the shelf.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ShelfItem {
    /// The name by which it is shown, and by which recipes call it where they can.
    pub name: String,
    /// What sort of resource it is.
    pub sort: &'static str,
    /// The language that it is for.
    pub language: &'static str,
    /// What it is.
    pub about: String,
    /// Where it comes from.
    pub origin: &'static str,
    /// Under which terms it comes.
    pub licence: &'static str,
    /// How many entries it has.
    pub entries: usize,
    /// What its entries are called, many of them.
    pub unit: &'static str,
}

const OWN: &str = "own work";
const OURS: &str = "MIT/Apache-2.0";
const SCOWL: &str = "SCOWL 2020.12.07";
const SCOWL_TERMS: &str = "SCOWL's own, permissive";

/// Everything that ships inside.
pub fn shelf() -> Vec<ShelfItem> {
    let mut items = Vec::new();
    for list in STOP_LISTS {
        items.push(ShelfItem {
            name: list.name.to_owned(),
            sort: "stop list",
            language: list.language,
            about: list.about.to_owned(),
            origin: OWN,
            licence: OURS,
            entries: list.groups().iter().map(|(_, words)| words.len()).sum(),
            unit: "words",
        });
    }
    for stemmer in STEMMERS {
        items.push(ShelfItem {
            name: match stemmer.language {
                "en" => stemmer.method.to_owned(),
                language => format!("{}-{language}", stemmer.method),
            },
            sort: "stemmer",
            language: stemmer.language,
            about: "own code, written from the publication".to_owned(),
            origin: stemmer.source,
            licence: OURS,
            entries: 1,
            unit: "algorithm",
        });
    }
    let model = crate::tag::english();
    let more = [
        (
            "irregular-en",
            "irregular forms",
            "irregular verbs, nouns, adjectives and adverbs of English, with pronouns",
            OWN,
            OURS,
            irregular_lines().count(),
            "words",
        ),
        (
            "lexicon-en",
            "lexicon",
            "English base words with their word classes, for lemmas, tags and spelling",
            "SCOWL, hunspell-en-us",
            SCOWL_TERMS,
            english_lexicon().len(),
            "words",
        ),
        (
            "dictionary-en",
            "dictionary",
            "common English words, for lines that were broken inside of words",
            SCOWL,
            SCOWL_TERMS,
            dictionary("en").map_or(0, crate::words::Dictionary::len),
            "words",
        ),
        (
            "tagger-en",
            "tagger",
            "parts of speech of English in context, learned",
            "own treebank, lexicon, word classes",
            OURS,
            model.len(),
            "features",
        ),
        (
            "british",
            "table of pairs",
            "American spellings with the British ones that `equate` puts for them",
            SCOWL,
            SCOWL_TERMS,
            pair_table("british").map_or(0, |pairs| pairs.len()),
            "pairs",
        ),
        (
            "american",
            "table of pairs",
            "British spellings with the American ones that `equate` puts for them",
            SCOWL,
            SCOWL_TERMS,
            pair_table("american").map_or(0, |pairs| pairs.len()),
            "pairs",
        ),
    ];
    for (name, sort, about, origin, licence, entries, unit) in more {
        let (name, about) = (name.to_owned(), about.to_owned());
        items.push(ShelfItem { name, sort, language: "en", about, origin, licence, entries, unit });
    }
    for (language, text) in IRREGULAR {
        items.push(ShelfItem {
            name: format!("irregular-{language}"),
            sort: "irregular forms",
            language,
            about: "irregular forms that are asked before the dictionary of the system".to_owned(),
            origin: OWN,
            licence: OURS,
            entries: crate::words::one_a_line(text).count(),
            unit: "words",
        });
    }
    for starter in STARTERS {
        items.push(ShelfItem {
            name: format!("recipe-{}", starter.aim),
            sort: "recipe",
            language: "en",
            about: format!("what `yarrup new FILE --for {}` writes", starter.aim),
            origin: OWN,
            licence: OURS,
            entries: starter.text.matches("[[step]]").count(),
            unit: "steps",
        });
    }
    items
}

fn irregular_lines() -> impl Iterator<Item = &'static str> {
    crate::words::one_a_line(include_str!("lemma/english/irregular.txt"))
}

/// What is in a resource: lines under headings. None if the shelf has no such resource; empty if it holds nothing that could be listed.
pub fn shelf_content(name: &str) -> Option<Vec<(String, Vec<String>)>> {
    if let Some(list) = STOP_LISTS.iter().find(|list| list.name == name) {
        let mut groups: Vec<(String, Vec<String>)> = Vec::new();
        for (heading, words) in list.groups() {
            // Words come in both shapes of the apostrophe: one is enough to look at.
            let words = words.into_iter().filter(|word| !word.contains('\u{2019}')).collect();
            groups.push((heading.to_owned(), words));
        }
        return Some(groups);
    }
    if let Some(pairs) = pair_table(name) {
        let lines = pairs.into_iter().map(|(from, to)| format!("{from} → {to}")).collect();
        return Some(vec![(String::new(), lines)]);
    }
    if let Some(starter) = STARTERS.iter().find(|starter| name.strip_prefix("recipe-") == Some(starter.aim)) {
        return Some(vec![(String::new(), starter.text.lines().map(str::to_owned).collect())]);
    }
    let irregular = IRREGULAR.iter().find(|(language, _)| name.strip_prefix("irregular-") == Some(language));
    if let Some((_, text)) = irregular {
        return Some(vec![(String::new(), crate::words::one_a_line(text).map(str::to_owned).collect())]);
    }
    let lines: Vec<String> = match name {
        "irregular-en" => irregular_lines().map(str::to_owned).collect(),
        "dictionary-en" => dictionary("en")?.words().map(str::to_owned).collect(),
        "lexicon-en" => english_lexicon().lines().collect(),
        _ => return shelf().iter().any(|item| item.name == name).then(Vec::new),
    };
    Some(vec![(String::new(), lines)])
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::HashSet;

    #[test]
    fn names_are_unique_and_everything_has_its_origin() {
        let mut seen = HashSet::new();
        for item in shelf() {
            assert!(seen.insert(item.name.clone()), "{}", item.name);
            assert!(item.entries > 0 && !item.origin.is_empty() && !item.licence.is_empty(), "{}", item.name);
            assert!(shelf_content(&item.name).is_some(), "{}", item.name);
        }
        assert_eq!(shelf_content("nothing"), None);
    }
}
