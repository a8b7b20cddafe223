use std::collections::BTreeMap;

use hashbrown::HashMap;

use crate::kind::Kind;
use crate::part_of_speech::Tag;
use crate::stem::{self, OwnRules};
use crate::step::{
    Built, Form, Key, Learned, Operation, Outcome, Settings, Shape, Stage, Term, TokenLearner, TokenStep,
};

pub(crate) static STEM: Operation = Operation {
    name: "stem",
    stage: Stage::Token,
    about: "cuts words down to their stems. Tokens that are no words, and names where the recipe tags them, are left alone",
    keys: &[
        Key {
            name: "method",
            shape: Shape::OneOf(&["porter2", "porter", "s", "paice", "light", "own"]),
            default: None,
            about: "English: `porter2` (Porter 2001; the default), `porter` (Porter 1980), `s` (Harman 1991: plurals alone), `paice` \
                    (Paice and Husk 1990: cuts deep). `light`: German, French, Spanish, Italian, Portuguese, Dutch, Swedish, Russian. \
                    `own`: the rules of a file",
        },
        Key {
            name: "rules",
            shape: Shape::File,
            default: None,
            about: "own suffix rules, a TOML file: `[endings]` with what comes in their place, `minimum_stem`, `[exceptions]`",
        },
        Key {
            name: "language",
            shape: Shape::Text,
            default: None,
            about: "the language of the words, where the recipe does not say it; English without either",
        },
        Key {
            name: "show",
            shape: Shape::OneOf(&["stem", "commonest"]),
            default: Some("stem"),
            about: "what stands for a group of words: its stem, or the commonest of the words in the collection, which is learned",
        },
        Key {
            name: "known",
            shape: Shape::Named,
            default: None,
            about: "the word that is shown for each stem, as it was learned before",
        },
    ],
    example: "method = \"porter2\"",
    build: |settings| Ok(Built::Token(Box::new(Stem::chosen(settings)?))),
};

struct Stem {
    method: Method,
    shows_commonest: bool,
    shown: Option<HashMap<String, String, foldhash::fast::RandomState>>,
}

enum Method {
    Shelf(fn(&str) -> String),
    Own(OwnRules),
}

impl Stem {
    fn chosen(settings: &Settings) -> Result<Stem, String> {
        let method = settings.choice("method");
        let language = settings.language().unwrap_or("en");
        let method = match (method, settings.file("rules")) {
            (None | Some("own"), Some(rules)) => {
                let text = std::str::from_utf8(rules).map_err(|_| "the rules are not UTF-8".to_owned())?;
                Method::Own(
                    OwnRules::read(text).map_err(|fault| format!("the rules cannot be read: {fault}"))?,
                )
            }
            (Some("own"), None) => return Err("`method = \"own\"` needs `rules`, a file".to_owned()),
            (Some(_), Some(_)) => return Err("`rules` belong to `method = \"own\"`".to_owned()),
            (method, None) => Method::Shelf(shelf(language, method)?),
        };
        let known = settings.named("known");
        Ok(Stem {
            method,
            shows_commonest: settings.choice("show") == Some("commonest"),
            shown: (!known.is_empty()).then(|| known.iter().cloned().collect()),
        })
    }

    fn stem(&self, word: &str) -> String {
        match &self.method {
            Method::Shelf(stem) => stem(word),
            Method::Own(rules) => rules.stem(word),
        }
    }
}

fn shelf(language: &str, method: Option<&str>) -> Result<fn(&str) -> String, String> {
    if let Some(found) = stem::stemmer(language, method) {
        return Ok(found.stem);
    }
    // English methods take English words whatever the recipe's language is; `check` tells.
    if let Some(method) = method.filter(|method| *method != "light")
        && let Some(found) = stem::stemmer("en", Some(method))
    {
        return Ok(found.stem);
    }
    let mut languages: Vec<&str> = stem::STEMMERS.iter().map(|stemmer| stemmer.language).collect();
    languages.dedup();
    let known = languages.into_iter().filter(|known| method != Some("light") || *known != "en");
    let known: Vec<String> = known.map(|language| format!("`{language}`")).collect();
    Err(format!(
        "there is no stemmer for `{language}` on the shelf; there are {}. `method = \"own\"` takes rules of your own",
        known.join(", ")
    ))
}

/// Whether a step that reduces words leaves a form alone: it is no word, or a name.
pub(super) fn is_left_alone(form: &Form<'_>) -> bool {
    form.kind != Kind::Word || form.mark.tag() == Some(Tag::ProperNoun)
}

impl TokenStep for Stem {
    fn apply(&self, form: &Form<'_>) -> Outcome {
        if is_left_alone(form) {
            return Outcome::Keep;
        }
        let mut stem = self.stem(form.text);
        if let Some(shown) = self.shown.as_ref().and_then(|shown| shown.get(&stem)) {
            stem.clone_from(shown);
        }
        if stem.is_empty() || stem == form.text { Outcome::Keep } else { Outcome::Change(stem) }
    }

    fn learner(&self) -> Option<Box<dyn TokenLearner + '_>> {
        (self.shows_commonest && self.shown.is_none()).then(|| Box::new(Commonest(self)) as _)
    }
}

/// Learns the commonest word of each stem.
struct Commonest<'s>(&'s Stem);

impl TokenLearner for Commonest<'_> {
    fn learned(
        self: Box<Self>,
        vocabulary: &mut dyn Iterator<Item = Term<'_>>,
        _documents: u64,
    ) -> Vec<Learned> {
        let mut words: BTreeMap<String, (u64, u64, String)> = BTreeMap::new();
        // Terms come by count, then by bytes: the first of a stem is its commonest.
        for term in vocabulary.filter(|term| term.kind() == Kind::Word) {
            let stem = self.0.stem(term.text);
            let entry = words.entry(stem).or_insert_with(|| (0, 0, term.text.to_owned()));
            entry.0 += term.count;
            entry.1 = entry.1.max(term.documents);
        }
        words
            .into_iter()
            .filter(|(stem, (.., word))| stem != word)
            .map(|(text, (count, documents, word))| Learned {
                text,
                to: Some(word),
                count,
                documents,
                score: None,
            })
            .collect()
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
            &crate::recipe::read("language = \"tr\"\n[[step]]\ndo = \"stem\"\n").expect("read"),
            &testing::NoFiles,
        );
        assert!(faults.err().unwrap_or_default()[0].title.contains("no stemmer for `tr`"));
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
