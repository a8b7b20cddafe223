use std::borrow::Cow;

use hashbrown::HashMap;

use crate::kind::Kind;
use crate::step::{
    Built, Entry, Form, Key, Learned, Operation, Outcome, Settings, Shape, Stage, Term, TokenLearner,
    TokenStep,
};
use crate::words;

pub(crate) static STOPWORDS: Operation = Operation {
    name: "stopwords",
    stage: Stage::Token,
    about: "drops the words of stop lists",
    keys: &[
        Key {
            name: "lists",
            shape: Shape::Lists,
            default: None,
            about: "lists from the shelf by name (`en`, `en-long`, `de` …), and own files: one word a line, a JSON array, or the column \
                    of a CSV file as `{ file = \"words.csv\", column = \"word\" }`. The lists on the shelf are grouped, and `spare` \
                    takes the names of groups as well: `spare = [\"negation\"]`",
        },
        Key { name: "add", shape: Shape::Texts, default: None, about: "more words, written here" },
        Key {
            name: "share",
            shape: Shape::Share,
            default: None,
            about: "learns words that at least this share of the documents hold; they are shown, and written into `frozen.toml`",
        },
        Key {
            name: "top",
            shape: Shape::Whole { least: 1, most: 100_000 },
            default: None,
            about: "learns this many of the commonest words; they are shown, and written into `frozen.toml`",
        },
        Key {
            name: "known",
            shape: Shape::Texts,
            default: None,
            about: "words that were learned before: with it nothing is learned",
        },
        Key {
            name: "case",
            shape: Shape::OneOf(&["ignore", "exact"]),
            default: Some("ignore"),
            about: "whether `The` counts as `the`",
        },
    ],
    example: "lists = [\"en\"]\nadd = [\"observed\"]\nspare = [\"negation\"]",
    build: |settings| Ok(Built::Token(Box::new(StopWords::new(settings)?))),
};

struct StopWords {
    entries: Vec<Entry>,
    exact: bool,
    /// The words as they are compared, each with the number of the list that names it first.
    words: HashMap<String, u16, foldhash::fast::RandomState>,
    lists: Vec<String>,
    /// What is to be learned: the share of documents, the number of the commonest.
    share: Option<f64>,
    top: Option<u64>,
    knows: bool,
}

impl StopWords {
    fn new(settings: &Settings) -> Result<StopWords, String> {
        let mut stop = StopWords {
            entries: Vec::new(),
            exact: settings.choice("case") == Some("exact"),
            words: HashMap::default(),
            lists: Vec::new(),
            share: settings.share("share"),
            top: settings.whole("top"),
            knows: settings.has("known"),
        };
        let lists = settings.lists("lists");
        let add = settings.texts("add");
        let learns = stop.share.is_some() || stop.top.is_some();
        if lists.is_empty() && add.is_empty() && !learns && !stop.knows {
            return Err("`stopwords` needs at least one of `lists`, `add`, `share`, `top`".into());
        }
        for list in lists {
            // A spared word that is the name of a group spares the group's words.
            let spared: Vec<String> = settings
                .spared()
                .iter()
                .filter_map(|group| words::stop_group(&list.name, group))
                .flatten()
                .collect();
            let left: Vec<String> =
                list.words.iter().filter(|word| !spared.contains(word)).cloned().collect();
            stop.take(&list.name, &left);
        }
        stop.take("add", add);
        stop.take("learned", settings.texts("known"));
        Ok(stop)
    }

    fn take(&mut self, list: &str, words: &[String]) {
        let Ok(number) = u16::try_from(self.lists.len()) else {
            return;
        };
        self.lists.push(list.to_owned());
        for word in words {
            self.entries.push(Entry { word: word.clone(), list: list.to_owned() });
            let compared = self.compared(word).into_owned();
            self.words.entry(compared).or_insert(number);
        }
    }

    /// The word as it is compared. Most are in lower case already.
    fn compared<'w>(&self, word: &'w str) -> Cow<'w, str> {
        let as_it_is = self.exact || word.bytes().all(|byte| byte.is_ascii() && !byte.is_ascii_uppercase());
        if as_it_is { Cow::Borrowed(word) } else { Cow::Owned(word.to_lowercase()) }
    }
}

impl TokenStep for StopWords {
    fn apply(&self, form: &Form<'_>) -> Outcome {
        match self.words.get(self.compared(form.text).as_ref()) {
            Some(&list) => Outcome::Drop(list),
            None => Outcome::Keep,
        }
    }

    fn reason(&self, number: u16) -> String {
        format!("stop word ({})", self.lists.get(usize::from(number)).map_or("", String::as_str))
    }

    fn learner(&self) -> Option<Box<dyn TokenLearner + '_>> {
        ((self.share.is_some() || self.top.is_some()) && !self.knows).then(|| Box::new(Common(self)) as _)
    }

    fn entries(&self) -> &[Entry] {
        &self.entries
    }

    fn lists(&self, token: &str) -> bool {
        self.words.contains_key(self.compared(token).as_ref())
    }
}

/// Learns the words that most documents hold, or the commonest.
struct Common<'s>(&'s StopWords);

impl TokenLearner for Common<'_> {
    fn learned(
        self: Box<Self>,
        vocabulary: &mut dyn Iterator<Item = Term<'_>>,
        documents: u64,
    ) -> Vec<Learned> {
        let step = self.0;
        let mut learned = Vec::new();
        let words = vocabulary.filter(|term| term.kind() == Kind::Word && !step.lists(term.text));
        for (rank, term) in (1..).zip(words) {
            let share = term.documents as f64 / documents.max(1) as f64;
            if step.share.is_some_and(|least| share >= least) || step.top.is_some_and(|top| rank <= top) {
                let text = term.text.to_owned();
                learned.push(Learned {
                    text,
                    to: None,
                    count: term.count,
                    documents: term.documents,
                    score: None,
                });
            }
        }
        learned
    }
}

#[cfg(test)]
mod tests {
    use crate::testing;

    #[test]
    fn shelf_list_own_words_and_spared_words() {
        let recipe = "[[step]]\ndo = \"stopwords\"\nlists = [\"en\"]\nadd = [\"Tern\"]\nspare = [\"not\"]\n";
        assert_eq!(
            testing::clean(recipe, "The tern DON'T nest and they don\u{2019}t not fly"),
            "nest not fly"
        );
    }

    #[test]
    fn groups_of_a_list_can_be_spared() {
        let recipe = "[[step]]\ndo = \"stopwords\"\nlists = [\"en\"]\nspare = [\"negation\"]\n";
        assert_eq!(testing::clean(recipe, "they do not nest and never fly"), "not nest never fly");
    }

    #[test]
    fn case_can_be_exact() {
        let recipe = "[[step]]\ndo = \"stopwords\"\nadd = [\"us\"]\ncase = \"exact\"\n";
        assert_eq!(testing::clean(recipe, "US and us"), "US and");
    }
}
