use std::sync::Arc;

use hashbrown::HashSet;

use crate::step::{
    Built, Entry, Evidence, Facts, Key, Learner, Learns, Operation, Sequence, SequenceStep, SequenceWork,
    Settings, SettingsError, Stage, WordList,
};
use crate::steps::terms::Terms;
use crate::steps::token::collocations::{Collocations, Criteria, Score};
use crate::words;

const LISTS: Key<Vec<WordList>> = Key::lists(
    "lists",
    "files of phrases, the words with spaces between: one a line, a JSON array, or the column of a CSV file",
);

const ADD: Key<Vec<String>> = Key::texts("add", "more phrases, written here");

const CASE: Key<&'static str> =
    Key::one_of("case", &["ignore", "exact"], "whether `Marsh Harrier` is met by `marsh harrier`")
        .or("ignore");

const JOIN: Key<String> = Key::text("join", "what stands between the words of a phrase").or("_");

const LEARN: Key<bool> = Key::truth("learn", "learns phrases of two or three words from the collection: they are shown with their counts and scores, and written \
                    into `frozen.toml`. Stop words may stand inside of them, not at their ends").or("false");

const MIN_COUNT: Key<u64> =
    Key::whole("min_count", 2, 1_000_000_000, "a learned phrase must come at least this often").or("5");

const SCORE: Key<&'static str> = Key::one_of("score", &["npmi", "likelihood"], "`npmi`: normalised pointwise mutual information, from -1 to 1 (Bouma 2009). `likelihood`: the log-likelihood ratio, from \
                    0 upwards (Dunning 1993)").or("npmi");

const MIN_SCORE: Key<u64> = Key::whole(
    "min_score",
    0,
    1_000_000,
    "the least score of a learned phrase, of `npmi` in hundredths: 40 means 0.40. Without it 40 for `npmi`, 11 for `likelihood`",
);

const TOP: Key<u64> = Key::whole("top", 1, 1_000_000, "at most this many, the best first");

const LONGEST: Key<u64> = Key::whole("longest", 2, 3, "how many words a learned phrase may have").or("3");

const STOPWORDS: Key<Vec<WordList>> = Key::lists(
    "stopwords",
    "what may not stand at the ends of a learned phrase: stop lists; without it that of the language",
);

const KNOWN: Key<Vec<String>> =
    Key::texts("known", "phrases that were learned before: with it nothing is learned");

pub(crate) static PHRASES: Operation = Operation {
    name: "phrases",
    stage: Stage::Token,
    about: "makes one token of words that belong together: listed ones, or those that the collection shows to come together",
    keys: &[
        &LISTS.facts,
        &ADD.facts,
        &CASE.facts,
        &JOIN.facts,
        &LEARN.facts,
        &MIN_COUNT.facts,
        &SCORE.facts,
        &MIN_SCORE.facts,
        &TOP.facts,
        &LONGEST.facts,
        &STOPWORDS.facts,
        &KNOWN.facts,
    ],
    example: "add = [\"marsh harrier\"]",
    roles: &[],
    learns: Some(&Learns { key: &KNOWN.facts, names: ("phrase", "phrases"), evidence: Evidence::Count }),
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
    fn new(settings: &Settings) -> Result<Phrases, SettingsError> {
        let (lists, add, known) = (settings.get(&LISTS), settings.get(&ADD), settings.get(&KNOWN));
        let learns = settings.get(&LEARN) == Some(true) && !settings.has(&KNOWN.facts);
        if lists.is_empty() && add.is_empty() && !learns && !settings.has(&KNOWN.facts) {
            return Err("`phrases` needs at least one of `lists`, `add`, `learn = true`".into());
        }
        let exact = settings.get(&CASE) == Some("exact");
        let all: Vec<&str> =
            lists.iter().flat_map(|list| &list.words).chain(add).chain(known).map(String::as_str).collect();
        if let Some(single) = all.iter().find(|phrase| phrase.split_whitespace().nth(1).is_none()) {
            return Err(format!("`{single}` is no phrase: it has one word").into());
        }
        let mut stop: HashSet<String, _> = HashSet::default();
        if learns {
            let named = settings.get(&STOPWORDS);
            stop.extend(named.iter().flat_map(|list| list.words.iter().cloned()));
            if named.is_empty() {
                stop.extend(words::stop_list(settings.language().unwrap_or("en")).unwrap_or_default());
            }
        }
        let score = if settings.get(&SCORE) == Some("likelihood") { Score::Likelihood } else { Score::Npmi };
        let learning = learns.then(|| Criteria {
            min_count: settings.get(&MIN_COUNT).unwrap_or(5),
            score,
            min_score: match (score, settings.get(&MIN_SCORE)) {
                (Score::Npmi, hundredths) => hundredths.unwrap_or(40) as f64 / 100.0,
                (Score::Likelihood, least) => least.unwrap_or(11) as f64,
            },
            top: settings.get(&TOP).map_or(usize::MAX, |top| top as usize),
            longest: settings.get(&LONGEST).unwrap_or(3) as usize,
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
            join: settings.get(&JOIN).unwrap_or("_").to_owned(),
            exact,
            entries,
            learning,
        })
    }
}

impl Facts for Phrases {
    fn has_case_rule(&self) -> bool {
        true
    }

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
