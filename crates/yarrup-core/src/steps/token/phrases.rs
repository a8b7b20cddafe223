use hashbrown::{HashMap, HashSet};

use crate::step::{
    Built, Entry, Form, Key, Learned, Operation, Outcome, Place, Sequence, SequenceStep, SequenceWork,
    Settings, Shape, Stage, Term, TokenLearner, TokenStep,
};
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
    build: |settings| Ok(Built::Token(Box::new(Phrases::new(settings)?))),
};

struct Phrases {
    terms: Terms,
    join: String,
    exact: bool,
    entries: Vec<Entry>,
    /// None where nothing is to be learned.
    learning: Option<Learning>,
}

struct Learning {
    min_count: u64,
    score: Score,
    min_score: f64,
    top: usize,
    longest: usize,
    stop: HashSet<String, foldhash::fast::RandomState>,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Score {
    Npmi,
    Likelihood,
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
        let learning = learns.then(|| Learning {
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

impl TokenStep for Phrases {
    fn apply(&self, _form: &Form<'_>) -> Outcome {
        Outcome::Keep
    }

    fn sequence(&self) -> Option<&dyn SequenceStep> {
        Some(self)
    }

    fn entries(&self) -> &[Entry] {
        &self.entries
    }

    fn lists(&self, token: &str) -> bool {
        let same =
            |word: &str| if self.exact { word == token } else { word.to_lowercase() == token.to_lowercase() };
        self.entries.iter().any(|entry| same(&entry.word))
    }

    fn learner(&self) -> Option<Box<dyn TokenLearner + '_>> {
        let learning = self.learning.as_ref()?;
        Some(Box::new(Pairs {
            learning,
            words: HashMap::default(),
            spellings: Vec::new(),
            counts: Vec::new(),
            pairs: HashMap::default(),
            triples: HashMap::default(),
            document: 0,
            tokens: 0,
        }))
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

/// How often words stand side by side: count, documents, and the last of them.
type Counts = (u64, u64, u64);

/// Counts neighbours, and learns which of them belong together.
struct Pairs<'s> {
    learning: &'s Learning,
    words: HashMap<String, u32, foldhash::fast::RandomState>,
    spellings: Vec<String>,
    counts: Vec<u64>,
    pairs: HashMap<(u32, u32), Counts, foldhash::fast::RandomState>,
    triples: HashMap<(u32, u32, u32), Counts, foldhash::fast::RandomState>,
    document: u64,
    tokens: u64,
}

impl Pairs<'_> {
    fn number(&mut self, word: &str) -> u32 {
        if let Some(&number) = self.words.get(word) {
            return number;
        }
        let number = self.spellings.len() as u32;
        self.spellings.push(word.to_owned());
        self.counts.push(0);
        self.words.insert(word.to_owned(), number);
        number
    }

    fn is_stop(&self, number: u32) -> bool {
        self.learning.stop.contains(&self.spellings[number as usize].to_lowercase())
    }

    /// The score of two words of which so many stand together.
    fn score(&self, a: u32, b: u32, together: u64) -> f64 {
        let total = self.tokens.max(1) as f64;
        let (a, b, both) = (self.counts[a as usize] as f64, self.counts[b as usize] as f64, together as f64);
        match self.learning.score {
            Score::Npmi => {
                let chance = both / total;
                if chance >= 1.0 { 1.0 } else { (chance * total * total / (a * b)).ln() / -chance.ln() }
            }
            Score::Likelihood => {
                let term = |count: f64, expected: f64| {
                    if count > 0.0 { count * (count / expected).ln() } else { 0.0 }
                };
                let (only_a, only_b, neither) = (a - both, b - both, total - a - b + both);
                2.0 * (term(both, a * b / total)
                    + term(only_a, a * (total - b) / total)
                    + term(only_b, (total - a) * b / total)
                    + term(neither, (total - a) * (total - b) / total))
            }
        }
    }
}

fn count(counts: &mut Counts, document: u64) {
    counts.0 += 1;
    if counts.2 != document {
        *counts = (counts.0, counts.1 + 1, document);
    }
}

impl TokenLearner for Pairs<'_> {
    fn needs_order(&self) -> bool {
        true
    }

    fn document(&mut self, tokens: &[Place<'_>]) {
        self.document += 1;
        let mut before: [Option<u32>; 2] = [None, None];
        for token in tokens {
            if token.parts() || token.spared {
                before = [None, None];
                continue;
            }
            if token.begins {
                before = [None, None];
            }
            let here = self.number(token.text);
            self.counts[here as usize] += 1;
            self.tokens += 1;
            if let Some(last) = before[1] {
                count(self.pairs.entry((last, here)).or_default(), self.document);
                if self.learning.longest > 2
                    && let Some(first) = before[0]
                {
                    count(self.triples.entry((first, last, here)).or_default(), self.document);
                }
            }
            before = [before[1], Some(here)];
        }
    }

    fn learned(
        self: Box<Self>,
        _vocabulary: &mut dyn Iterator<Item = Term<'_>>,
        _documents: u64,
    ) -> Vec<Learned> {
        let learning = self.learning;
        let spelled = |number: u32| self.spellings[number as usize].as_str();
        let mut learned = Vec::new();
        for (&(a, b), &(together, documents, _)) in &self.pairs {
            if together < learning.min_count || self.is_stop(a) || self.is_stop(b) {
                continue;
            }
            let score = self.score(a, b, together);
            learned.push((format!("{} {}", spelled(a), spelled(b)), together, documents, score));
        }
        for (&(a, b, c), &(together, documents, _)) in &self.triples {
            if together < learning.min_count || self.is_stop(a) || self.is_stop(c) {
                continue;
            }
            // With a stop word inside, its neighbours must belong together; else each pair must.
            let score = if self.is_stop(b) {
                self.score(a, c, together)
            } else {
                let pair = |a, b| self.pairs.get(&(a, b)).map_or(0.0, |counts| self.score(a, b, counts.0));
                pair(a, b).min(pair(b, c))
            };
            learned.push((
                format!("{} {} {}", spelled(a), spelled(b), spelled(c)),
                together,
                documents,
                score,
            ));
        }
        learned.retain(|(.., score)| *score >= learning.min_score);
        learned.sort_by(|a, b| b.3.total_cmp(&a.3).then(b.1.cmp(&a.1)).then_with(|| a.0.cmp(&b.0)));
        learned.truncate(learning.top);
        learned
            .into_iter()
            .map(|(text, count, documents, score)| Learned {
                text,
                to: None,
                count,
                documents,
                score: Some(score),
            })
            .collect()
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
