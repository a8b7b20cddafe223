use std::collections::BTreeMap;
use std::sync::Arc;

use hashbrown::HashMap;

use crate::kind::Kind;
use crate::language::code_of_name;
use crate::part_of_speech::Tag;
use crate::stem::{self, OwnRules, Stemmer};
use crate::step::{
    Built, Evidence, Facts, Form, Key, Learned, Learner, Learns, Operation, Outcome, Role, Settings,
    SettingsError, Stage, Term, TokenStep, from_vocabulary,
};

const METHOD: Key<&'static str> = Key::one_of(
    "method",
    &["porter2", "porter", "s", "paice", "light", "full", "own"],
    "English: `porter2` (Porter 2001; the default), `porter` (Porter 1980), `s` (Harman 1991: plurals only), `paice` (Paice and Husk 1990: the shortest stems). `light` removes the endings of nouns and adjectives, for German, French, Spanish, Italian, \
                    Portuguese, Dutch, Swedish, Russian, Polish, Turkish; `full` also those of verbs, and for Norwegian, Danish, Finnish, Hungarian and Romanian too. `own`: the rules of a file",
);

const RULES: Key<Vec<u8>> = Key::file(
    "rules",
    "your own suffix rules, a TOML file: `[endings]` and their replacements, `minimum_stem`, `[exceptions]`",
);

const LANGUAGE: Key<String> = Key::text(
    "language",
    "the language of the words, if not that of the recipe; English if neither is given",
);

const SHOW: Key<&'static str> = Key::one_of(
    "show",
    &["stem", "commonest"],
    "how to show a group of words: by its stem, or by its commonest word in the collection, which is learned",
)
.or("stem");

const KNOWN: Key<Vec<(String, String)>> =
    Key::named("known", "the word to show for each stem, as learned before");

pub(crate) static STEM: Operation = Operation {
    name: "stem",
    stage: Stage::Token,
    about: "reduces words to their stems. It does not change tokens that are not words, nor names, if the recipe tags",
    keys: &[&METHOD.facts, &RULES.facts, &LANGUAGE.facts, &SHOW.facts, &KNOWN.facts],
    example: "method = \"porter2\"",
    roles: &[Role::Reduces, Role::Stems, Role::WorksOnWords, Role::KnowsLanguage],
    learns: Some(&Learns {
        key: &KNOWN.facts,
        names: ("word to show for a stem", "words to show for stems"),
        evidence: Evidence::Count,
    }),
    build: |settings| Ok(Built::Token(Box::new(Stem::chosen(settings)?))),
};

struct Stem {
    /// The method as it is written, if it is.
    named: Option<&'static str>,
    method: Arc<Method>,
    shows_commonest: bool,
    shown: Option<HashMap<String, String, foldhash::fast::RandomState>>,
}

enum Method {
    Shelf(fn(&str) -> String),
    Own(OwnRules),
}

impl Stem {
    fn chosen(settings: &Settings) -> Result<Stem, SettingsError> {
        let named = settings.get(&METHOD);
        let language = settings.language().unwrap_or("en");
        let method = match (named, settings.get(&RULES)) {
            (None | Some("own"), Some(rules)) => {
                let text = std::str::from_utf8(rules)
                    .map_err(|_| SettingsError::key(&RULES.facts, "the rules are not UTF-8"))?;
                let told = |fault| format!("the rules cannot be read: {fault}");
                Method::Own(OwnRules::read(text).map_err(told).map_err(SettingsError::at(&RULES.facts))?)
            }
            (Some("own"), None) => {
                return Err(SettingsError::key(&METHOD.facts, "`method = \"own\"` needs `rules`, a file"));
            }
            (Some(_), Some(_)) => {
                return Err(SettingsError::key(&RULES.facts, "`rules` belong to `method = \"own\"`"));
            }
            (method, None) => Method::Shelf(shelf(language, method)?),
        };
        let known = settings.get(&KNOWN);
        Ok(Stem {
            named,
            method: Arc::new(method),
            shows_commonest: settings.get(&SHOW) == Some("commonest"),
            shown: settings.has(&KNOWN.facts).then(|| known.iter().cloned().collect()),
        })
    }
}

impl Method {
    fn stem(&self, word: &str) -> String {
        match self {
            Method::Shelf(stem) => stem(word),
            Method::Own(rules) => rules.stem(word),
        }
    }

    /// The most frequent word of each stem that is not the stem itself.
    fn commonest(&self, vocabulary: &mut dyn Iterator<Item = Term<'_>>) -> Vec<Learned> {
        let mut words: BTreeMap<String, Learned> = BTreeMap::new();
        // Terms come by count, then by bytes: the first of a stem is its most frequent.
        for term in vocabulary.filter(|term| term.kind() == Kind::Word) {
            let text = self.stem(term.text);
            let first = || Learned {
                text: text.clone(),
                to: Some(term.text.to_owned()),
                count: 0,
                documents: 0,
                score: None,
            };
            let entry = words.entry(text.clone()).or_insert_with(first);
            entry.count += term.count;
            entry.documents = entry.documents.max(term.documents);
        }
        words.into_values().filter(|learned| learned.to.as_ref() != Some(&learned.text)).collect()
    }
}

fn shelf(language: &str, method: Option<&str>) -> Result<fn(&str) -> String, SettingsError> {
    if let Some(found) = stem::stemmer(language, method) {
        return Ok(found.stem);
    }
    // English methods take English words whatever the recipe's language is; `check` tells.
    if let Some(method) = method.filter(|method| !is_of_language(method))
        && let Some(found) = stem::stemmer("en", Some(method))
    {
        return Ok(found.stem);
    }
    let of_method = |stemmer: &&Stemmer| method.is_none_or(|method| stemmer.method == method);
    let mut known: Vec<&str> =
        stem::STEMMERS.iter().filter(of_method).map(|stemmer| stemmer.language).collect();
    known.sort_unstable();
    known.dedup();
    let known = known.into_iter();
    let known: Vec<String> = known.map(|language| format!("`{language}`")).collect();
    if let Some(code) = code_of_name(language) {
        let why = format!("`{language}` is not a language tag; did you mean `{code}`?");
        return Err(SettingsError::key(&LANGUAGE.facts, why));
    }
    let why = format!(
        "Yarrup has no stemmer for `{language}`; it has {}. With `method = \"own\"` you can use your own rules",
        known.join(", ")
    );
    Err(SettingsError::key(&LANGUAGE.facts, why))
}

/// Whether a method goes by the language of the words.
fn is_of_language(method: &str) -> bool {
    matches!(method, "light" | "full")
}

/// Whether a step that reduces words leaves a form alone: it is no word, or a name.
pub(super) fn is_left_alone(form: &Form<'_>) -> bool {
    form.kind != Kind::Word || form.mark.tag() == Some(Tag::ProperNoun)
}

impl Facts for Stem {
    fn foreign(&self, language: &str) -> Vec<String> {
        // Without a method the stemmer is that of the language.
        let english =
            self.named.filter(|method| language != "en" && *method != "own" && !is_of_language(method));
        english.map(|method| format!("`{method}` is for English")).into_iter().collect()
    }

    fn learner(&self) -> Option<Box<dyn Learner>> {
        let method = Arc::clone(&self.method);
        (self.shows_commonest && self.shown.is_none())
            .then(|| from_vocabulary(move |vocabulary, _| method.commonest(vocabulary)))
    }
}

impl TokenStep for Stem {
    fn apply(&self, form: &Form<'_>) -> Outcome {
        if is_left_alone(form) {
            return Outcome::Keep;
        }
        let mut stem = self.method.stem(form.text);
        if let Some(shown) = self.shown.as_ref().and_then(|shown| shown.get(&stem)) {
            stem.clone_from(shown);
        }
        if stem.is_empty() || stem == form.text { Outcome::Keep } else { Outcome::Change(stem) }
    }
}

#[cfg(test)]
mod tests {
    use crate::testing;

    #[test]
    fn words_are_stemmed_and_all_else_is_left_alone() {
        let recipe = "[[step]]\ndo = \"stem\"\nmethod = \"porter\"\nspare = [\"bus\"]\n";
        assert_eq!(testing::clean(recipe, "nesting terns, bus 1990s 's"), "nest tern , bus 1990 ' s");
    }

    #[test]
    fn the_language_chooses_the_stemmer() {
        let recipe = "language = \"de\"\n[[step]]\ndo = \"stem\"\n";
        assert_eq!(testing::clean(recipe, "nester häusern"), "nest haus");
        let faults = crate::Pipeline::compile(
            &crate::recipe::read("language = \"uk\"\n[[step]]\ndo = \"stem\"\n").expect("read"),
            &crate::NoFiles,
        );
        assert!(faults.err().unwrap_or_default()[0].title.contains("no stemmer for `uk`"));
    }

    #[test]
    fn known_words_stand_for_their_stems() {
        let recipe = "[[step]]\ndo = \"stem\"\nshow = \"commonest\"\nknown = { nest = \"nests\" }\n";
        assert_eq!(testing::clean(recipe, "nesting nest terns"), "nests nests tern");
    }

    #[test]
    fn names_are_left_alone_where_they_are_tagged() {
        let recipe = "[[step]]\ndo = \"tag\"\n[[step]]\ndo = \"stem\"\n";
        assert_eq!(
            testing::clean(recipe, "We met Mr Banks near the banks."),
            "We met Mr Banks near the bank ."
        );
    }
}
