use std::sync::Arc;

use hashbrown::HashSet;

use crate::step::{
    Built, Entry, Facts, Key, Learner, Operation, Sequence, SequenceStep, SequenceWork, Settings, Shape,
    Stage,
};
use crate::steps::token::collocations::{Collocations, Criteria, Score};
use crate::steps::token::terms::Terms;
use crate::words;

pub(crate) static PHRASES: Operation = Operation {
    name: "phrases",
    stage: Stage::Token,
    about: "makes one token of words that belong together: listed ones, or those that the collection shows to come together",
    keys: &[
        Key {
            name: "lists",
            shape: Shape::Lists,
            default: None,
            about: "files of phrases, the words with spaces between: one a line, a JSON array, or the column of a CSV file",
        },
        Key { name: "add", shape: Shape::Texts, default: None, about: "more phrases, written here" },
        Key {
            name: "case",
            shape: Shape::OneOf(&["ignore", "exact"]),
            default: Some("ignore"),
            about: "whether `Marsh Harrier` is met by `marsh harrier`",
        },
        Key {
            name: "join",
            shape: Shape::Text,
            default: Some("_"),
            about: "what stands between the words of a phrase",
        },
        Key {
            name: "learn",
            shape: Shape::Truth,
            default: Some("false"),
            about: "learns phrases of two or three words from the collection: they are shown with their counts and scores, and written \
                    into `frozen.toml`. Stop words may stand inside of them, not at their ends",
        },
        Key {
            name: "min_count",
            shape: Shape::Whole { least: 2, most: 1_000_000_000 },
            default: Some("5"),
            about: "a learned phrase must come at least this often",
        },
        Key {
            name: "score",
            shape: Shape::OneOf(&["npmi", "likelihood"]),
            default: Some("npmi"),
            about: "`npmi`: normalised pointwise mutual information, from -1 to 1 (Bouma 2009). `likelihood`: the log-likelihood ratio, from \
                    0 upwards (Dunning 1993)",
        },
        Key {
            name: "min_score",
            shape: Shape::Whole { least: 0, most: 1_000_000 },
            default: None,
            about: "the least score of a learned phrase, of `npmi` in hundredths: 40 means 0.40. Without it 40 for `npmi`, 11 for `likelihood`",
        },
        Key {
            name: "top",
            shape: Shape::Whole { least: 1, most: 1_000_000 },
            default: None,
            about: "at most this many, the best first",
        },
        Key {
            name: "longest",
            shape: Shape::Whole { least: 2, most: 3 },
            default: Some("3"),
            about: "how many words a learned phrase may have",
        },
        Key {
            name: "stopwords",
            shape: Shape::Lists,
            default: None,
            about: "what may not stand at the ends of a learned phrase: stop lists; without it that of the language",
        },
        Key {
            name: "known",
            shape: Shape::Texts,
            default: None,
            about: "phrases that were learned before: with it nothing is learned",
        },
    ],
    example: "add = [\"marsh harrier\"]",
    build: |settings| Ok(Built::Sequence(Box::new(Phrases::new(settings)?))),
};

struct Phrases {
    terms: Terms,
    join: String,
    exact: bool,
    entries: Vec<Entry>,
    /// None where nothing is to be learned.
    learning: Option<Arc<Criteria>>,
}

impl Phrases {
    fn new(settings: &Settings) -> Result<Phrases, String> {
        let (lists, add, known) = (settings.lists("lists"), settings.texts("add"), settings.texts("known"));
        let learns = settings.truth("learn") == Some(true) && !settings.has("known");
        if lists.is_empty() && add.is_empty() && !learns && !settings.has("known") {
            return Err("`phrases` needs at least one of `lists`, `add`, `learn = true`".to_owned());
        }
        let exact = settings.choice("case") == Some("exact");
        let all: Vec<&str> =
            lists.iter().flat_map(|list| &list.words).chain(add).chain(known).map(String::as_str).collect();
        if let Some(single) = all.iter().find(|phrase| phrase.split_whitespace().nth(1).is_none()) {
            return Err(format!("`{single}` is no phrase: it has one word"));
        }
        let mut stop: HashSet<String, _> = HashSet::default();
        if learns {
            let named = settings.lists("stopwords");
            stop.extend(named.iter().flat_map(|list| list.words.iter().cloned()));
            if named.is_empty() {
                stop.extend(words::stop_list(settings.language().unwrap_or("en")).unwrap_or_default());
            }
        }
        let score =
            if settings.choice("score") == Some("likelihood") { Score::Likelihood } else { Score::Npmi };
        let learning = learns.then(|| Criteria {
            min_count: settings.whole("min_count").unwrap_or(5),
            score,
            min_score: match (score, settings.whole("min_score")) {
                (Score::Npmi, hundredths) => hundredths.unwrap_or(40) as f64 / 100.0,
                (Score::Likelihood, least) => least.unwrap_or(11) as f64,
            },
            top: settings.whole("top").map_or(usize::MAX, |top| top as usize),
            longest: settings.whole("longest").unwrap_or(3) as usize,
            stop,
        });
        let learning = learning.map(Arc::new);
        // Each word of a listed phrase must arrive as it is written.
        let words_of = |list: &str, phrases: &[String]| -> Vec<Entry> {
            let words = phrases.iter().flat_map(|phrase| phrase.split_whitespace());
            words.map(|word| Entry { word: word.to_owned(), list: list.to_owned() }).collect()
        };
        let mut entries: Vec<Entry> =
            lists.iter().flat_map(|list| words_of(&list.name, &list.words)).collect();
        entries.extend(words_of("add", add));
        Ok(Phrases {
            terms: Terms::new(all.iter().copied(), exact)?,
            join: settings.text("join").unwrap_or("_").to_owned(),
            exact,
            entries,
            learning,
        })
    }
}

impl Facts for Phrases {
    fn entries(&self) -> &[Entry] {
        &self.entries
    }

    fn lists(&self, token: &str) -> bool {
        let same =
            |word: &str| if self.exact { word == token } else { word.to_lowercase() == token.to_lowercase() };
        self.entries.iter().any(|entry| same(&entry.word))
    }

    fn learner(&self) -> Option<Box<dyn Learner>> {
        Some(Box::new(Collocations::new(self.learning.clone()?)))
    }
}

impl SequenceStep for Phrases {
    fn worker(&self) -> Box<dyn SequenceWork + '_> {
        Box::new(Joining(self))
    }
}

struct Joining<'s>(&'s Phrases);

impl SequenceWork for Joining<'_> {
    fn document(&mut self, tokens: &mut Sequence<'_>) {
        let mut found = Vec::new();
        self.0.terms.find(tokens.tokens(), |start, end, _| found.push((start, end)));
        for (start, end) in found {
            let words: Vec<&str> = tokens.tokens()[start..end].iter().map(|token| token.text).collect();
            let phrase = words.join(&self.0.join);
            tokens.join(start, end, phrase);
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::testing;

    #[test]
    fn listed_phrases_become_one_token_the_longest_first() {
        let recipe = "[[step]]\ndo = \"phrases\"\nadd = [\"marsh harrier\", \"marsh harrier nest\"]\n";
        assert_eq!(
            testing::clean(recipe, "A Marsh Harrier nest, a marsh. Harrier and marsh harrier"),
            "A Marsh_Harrier_nest , a marsh . Harrier and marsh_harrier"
        );
    }
}
