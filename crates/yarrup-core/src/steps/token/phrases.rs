use std::sync::Arc;

use hashbrown::HashSet;

use crate::step::{
    Built, Entry, Evidence, Facts, Finder, Key, Learner, Learns, Operation, Sequence, SequenceStep,
    SequenceWork, Settings, SettingsError, Stage, Terms, WordList,
};
use crate::steps::token::collocations::{Collocations, Criteria, Score};
use crate::steps::token::ngrams::join_of;
use crate::steps::token::tag_patterns::TagPatterns;
use crate::words;

const LISTS: Key<Vec<WordList>> = Key::lists(
    "lists",
    "files of phrases, with spaces between the words: one a line, a JSON array, or a column of a CSV file",
);

const ADD: Key<Vec<String>> = Key::texts("add", "more phrases");

const CASE: Key<&'static str> =
    Key::one_of("case", &["ignore", "exact"], "`ignore`: `marsh harrier` also means `Marsh Harrier`")
        .or("ignore");

const JOIN: Key<String> = Key::text("join", "what to put between the words of a phrase").or("_");

const ACROSS: Key<bool> = Key::truth(
    "across",
    "finds a phrase even if words inside it were dropped: `nest the box` is `nest box` after a stop list",
)
.or("false");

const LEARN: Key<bool> = Key::truth("learn", "learns phrases of two or three words from the collection; they are shown with counts and scores, and written into `frozen.toml`. They can have stop words inside, but not at the ends").or("false");

const MIN_COUNT: Key<u64> =
    Key::whole("min_count", 2, 1_000_000_000, "a learned phrase must occur at least this often").or("5");

const TAGS: Key<Vec<String>> = Key::texts(
    "tags",
    "a learned phrase must have these parts of speech in at least half of its places: `[\"adjective noun\", \"noun noun\"]`, with `|` between alternatives. `terms` stands for the usual shapes of terms (adjectives and nouns before a noun, two nouns around a preposition), `names` for two or three \
     proper nouns. An earlier step must `tag`",
);

const SCORE: Key<&'static str> = Key::one_of("score", &["npmi", "likelihood", "c_value"], "`npmi`: normalised pointwise mutual information, from -1 to 1 (Bouma 2009). `likelihood`: the log-likelihood ratio, from \
                    0 upwards (Dunning 1993). `c_value`: the count of a phrase, less its mean count inside longer phrases, higher for more words (Frantzi and others 2000); best with `tags`").or("npmi");

const MIN_SCORE: Key<u64> = Key::whole(
    "min_score",
    0,
    1_000_000,
    "the lowest score of a learned phrase; for `npmi` in hundredths: 40 means 0.40 [default: 40 for `npmi`, 11 for `likelihood`, 5 for `c_value`]",
);

const TOP: Key<u64> =
    Key::whole("top", 1, 1_000_000, "learns at most this many, those with the highest scores");

const LONGEST: Key<u64> = Key::whole("longest", 2, 3, "how many words a learned phrase may have").or("3");

const STOPWORDS: Key<Vec<WordList>> = Key::lists(
    "stopwords",
    "stop lists: a learned phrase has none of their words at its ends [default: the list of the language]",
);

const KNOWN: Key<Vec<String>> =
    Key::texts("known", "phrases that were learned before; with this key nothing is learned");

pub(crate) static PHRASES: Operation = Operation {
    name: "phrases",
    stage: Stage::Token,
    about: "joins words that belong together into one token: listed phrases, or phrases learned from the collection",
    keys: &[
        &LISTS.facts,
        &ADD.facts,
        &CASE.facts,
        &JOIN.facts,
        &ACROSS.facts,
        &LEARN.facts,
        &MIN_COUNT.facts,
        &SCORE.facts,
        &MIN_SCORE.facts,
        &TOP.facts,
        &LONGEST.facts,
        &STOPWORDS.facts,
        &TAGS.facts,
        &KNOWN.facts,
    ],
    example: "add = [\"marsh harrier\"]",
    roles: &[],
    learns: Some(&Learns { key: &KNOWN.facts, names: ("phrase", "phrases"), evidence: Evidence::Count }),
    build: |settings| Ok(Built::Sequence(Box::new(Phrases::new(settings)?))),
};

struct Phrases {
    /// Those that are listed: they go before those that were learned.
    listed: Terms,
    known: Terms,
    /// By phrase: whether its full stop at the end is left out, since some texts have none there.
    drops_stop: Vec<bool>,
    join: String,
    /// The phrases of which nothing whole can arrive.
    lost: Vec<Entry>,
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
        let across = settings.get(&ACROSS) == Some(true);
        let listed: Vec<Entry> = lists
            .iter()
            .map(|list| (list.name.as_str(), list.words.as_slice()))
            .chain([("add", add)])
            .flat_map(|(list, words)| {
                words.iter().map(move |word| Entry { word: word.clone(), list: list.to_owned() })
            })
            .collect();
        let written: Vec<&str> = listed.iter().map(|entry| entry.word.as_str()).collect();
        let all = written.iter().copied().chain(known.iter().map(String::as_str));
        if let Some(single) = all.clone().find(|phrase| phrase.split_whitespace().nth(1).is_none()) {
            let why = format!("`{single}` is not a phrase: it has only one word");
            return Err(match add.iter().any(|phrase| phrase == single) {
                true => SettingsError::key(&ADD.facts, why),
                false => why.into(),
            });
        }
        let mut stop: HashSet<String, _> = HashSet::default();
        if learns {
            let named = settings.get(&STOPWORDS);
            stop.extend(named.iter().flat_map(|list| list.words.iter().cloned()));
            if named.is_empty() {
                stop.extend(words::stop_list(settings.language().unwrap_or("en")).unwrap_or_default());
            }
        }
        let score = match settings.get(&SCORE) {
            Some("likelihood") => Score::Likelihood,
            Some("c_value") => Score::CValue,
            _ => Score::Npmi,
        };
        let tags = TagPatterns::read(settings.get(&TAGS).iter().map(String::as_str))
            .map_err(|why| SettingsError::key(&TAGS.facts, format!("`tags`: {why}")))?;
        if !tags.is_empty() && !settings.is_tagged() {
            let why = "`tags` need a step before that gives parts of speech: `do = \"tag\"`";
            return Err(SettingsError::key(&TAGS.facts, why));
        }
        let drops_stop = all.map(|phrase| phrase.trim_end().ends_with('.')).collect();
        let (terms, lost) = Terms::new(exact, across).of_entries(&written, settings);
        let learning = learns.then(|| Criteria {
            min_count: settings.get(&MIN_COUNT).unwrap_or(5),
            score,
            min_score: match (score, settings.get(&MIN_SCORE)) {
                (Score::Npmi, hundredths) => hundredths.unwrap_or(40) as f64 / 100.0,
                (Score::Likelihood, least) => least.unwrap_or(11) as f64,
                (Score::CValue, least) => least.unwrap_or(5) as f64,
            },
            top: settings.get(&TOP).map_or(usize::MAX, |top| top as usize),
            longest: settings.get(&LONGEST).unwrap_or(3) as usize,
            across,
            stop,
            tags,
            listed: terms.clone(),
        });
        let learning = learning.map(Arc::new);
        let mut learned = Terms::new(exact, across);
        // What was learned has come here like this.
        for (number, phrase) in (written.len()..).zip(known) {
            learned.add_words(number, phrase);
        }
        Ok(Phrases {
            listed: terms,
            known: learned,
            drops_stop,
            join: join_of(settings, &JOIN)?,
            lost: lost.into_iter().map(|number| listed[number].clone()).collect(),
            learning,
        })
    }
}

impl Facts for Phrases {
    fn has_case_rule(&self) -> bool {
        true
    }

    fn lost_entries(&self) -> &[Entry] {
        &self.lost
    }

    fn learner(&self) -> Option<Box<dyn Learner>> {
        Some(Box::new(Collocations::new(self.learning.clone()?)))
    }

    fn joins_tokens(&self) -> bool {
        true
    }

    fn join_sign(&self) -> Option<&str> {
        Some(&self.join)
    }
}

impl SequenceStep for Phrases {
    fn worker(&self) -> Box<dyn SequenceWork + '_> {
        Box::new(Joining { phrases: self, listed: self.listed.finder(), known: self.known.finder() })
    }
}

struct Joining<'s> {
    phrases: &'s Phrases,
    listed: Finder<'s>,
    known: Finder<'s>,
}

impl SequenceWork for Joining<'_> {
    fn document(&mut self, tokens: &mut Sequence<'_>) {
        let mut found = Vec::new();
        self.listed.find(tokens.tokens(), |start, end, number| found.push((start, end, number)));
        if !self.phrases.known.is_empty() {
            // Between the listed ones, which no learned one may take a word from.
            let (mut from, ends) = (0, tokens.tokens().len());
            let listed: Vec<(usize, usize)> = found.iter().map(|(start, end, _)| (*start, *end)).collect();
            for (start, end) in listed.into_iter().chain([(ends, ends)]) {
                let between = &tokens.tokens()[from..start];
                self.known.find(between, |start, end, number| found.push((from + start, from + end, number)));
                from = end;
            }
        }
        // A phrase that an earlier step has made one token is one already.
        for (start, end, number) in found.into_iter().filter(|(start, end, _)| end - start > 1) {
            let words: Vec<&str> = tokens.tokens()[start..end].iter().map(|token| token.text()).collect();
            let mut phrase = words.join(&self.phrases.join);
            if self.phrases.drops_stop[number] && phrase.ends_with('.') {
                phrase.pop();
            }
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

    #[test]
    fn a_learned_phrase_takes_no_word_of_a_listed_one() {
        let recipe = "[[step]]\ndo = \"phrases\"\nadd = [\"harrier nest\"]\nlearn = true\nknown = [\"marsh harrier\", \"nest site\", \"old marsh\"]\n";
        assert_eq!(
            testing::clean(recipe, "old marsh harrier nest site, marsh harrier, harrier nest"),
            "old_marsh harrier_nest site , marsh_harrier , harrier_nest"
        );
    }

    #[test]
    fn phrases_are_split_as_the_recipe_splits_and_taken_through_the_steps_before() {
        let text = "Sailed from St. Brides Bay with Acme Robotics Inc. on board, then Acme Robotics Inc, and nest-boxes. Acme Robotics Inc.";
        let add = "[[step]]\ndo = \"phrases\"\nadd = [\"St. Brides Bay\", \"Acme Robotics Inc.\", \"nest-box es\", \"Nest-boxes there\"]\n";
        for into in ["words", "clitics", "posts"] {
            let recipe = format!("[[step]]\ndo = \"split\"\ninto = \"{into}\"\n{add}");
            let clean = testing::clean(&recipe, text);
            assert_eq!(clean.matches("Acme_Robotics_Inc").count(), 3, "{into}: {clean}");
            assert_eq!(clean.matches("Brides_Bay").count(), 1, "{into}: {clean}");
        }
        let stemmed = "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"stem\"\n[[step]]\ndo = \"phrases\"\nadd = [\"Nesting Boxes\"]\n";
        assert_eq!(testing::clean(stemmed, "nested box, nesting boxes, boxes"), "nest_box , nest_box , box");
    }

    #[test]
    fn phrases_keep_to_the_gaps_that_they_have() {
        let drops = "[[step]]\ndo = \"drop\"\nwords = [\"of\", \"the\"]\nkinds = [\"punctuation\"]\n[[step]]\ndo = \"phrases\"\nadd = [\"bird of prey\", \"nest box\", \"the tern\"]\n";
        let text = "bird of prey; bird. Prey nest the box nest. box nest\r\n\r\nbox the tern";
        assert_eq!(testing::clean(drops, text), "bird_prey bird Prey nest box nest box nest box tern");
        let across = format!("{drops}across = true\n");
        assert_eq!(testing::clean(&across, text), "bird_prey bird Prey nest_box nest box nest box tern");
    }

    #[test]
    fn the_border_of_a_paragraph_outlives_its_first_token() {
        let recipe = "[[step]]\ndo = \"drop\"\nwords = [\"the\"]\n[[step]]\ndo = \"phrases\"\nadd = [\"nest box\"]\nacross = true\n";
        assert_eq!(testing::clean(recipe, "a nest\n\nthe box, nest the box"), "a nest box , nest_box");
    }
}
