use std::borrow::Cow;
use std::sync::Arc;

use hashbrown::HashMap;

use crate::kind::Kind;
use crate::step::{
    Built, Entry, Evidence, Facts, Form, Key, Learned, Learner, Learns, Operation, Outcome, Role, Sequence,
    SequenceStep, SequenceWork, Settings, SettingsError, Stage, Term, Terms, TokenStep, WordList,
    from_vocabulary,
};
use crate::words;

const LISTS: Key<Vec<WordList>> = Key::lists(
    "lists",
    "lists that come with Yarrup, by name (`en`, `en-long`, `de` …), and your own files: one word a line, a JSON array, or a column of a CSV file as `{ file = \"words.csv\", column = \"word\" }`. The lists that come with Yarrup have groups, and `spare` accepts their names too: `spare = [\"negation\"]`",
);

pub(crate) const ADD: Key<Vec<String>> = Key::texts("add", "more words");

const SHARE: Key<f64> = Key::share(
    "share",
    "learns the words that at least this share of the documents have; they are shown, and written into `frozen.toml`",
);

const TOP: Key<u64> = Key::whole(
    "top",
    1,
    100_000,
    "learns this many of the commonest words; they are shown, and written into `frozen.toml`",
);

const KNOWN: Key<Vec<String>> =
    Key::texts("known", "words that were learned before; with this key nothing is learned");

const CASE: Key<&'static str> =
    Key::one_of("case", &["ignore", "exact"], "`ignore`: `The` counts as `the`").or("ignore");

pub(crate) static STOPWORDS: Operation = Operation {
    name: "stopwords",
    stage: Stage::Token,
    about: "drops the words of stop lists",
    keys: &[&LISTS.facts, &ADD.facts, &SHARE.facts, &TOP.facts, &KNOWN.facts, &CASE.facts],
    example: "lists = [\"en\"]\nadd = [\"observed\"]\nspare = [\"negation\"]",
    roles: &[Role::StopList, Role::WorksOnWords, Role::KnowsLanguage],
    learns: Some(&Learns {
        key: &KNOWN.facts,
        names: ("stop word", "stop words"),
        evidence: Evidence::Share,
    }),
    build: StopWords::build,
};

struct StopWords {
    list: Arc<StopList>,
    /// What is to be learned: the share of documents, the number of the most frequent.
    share: Option<f64>,
    top: Option<u64>,
    knows: bool,
    /// Finds entries of several words.
    runs: Option<Terms>,
    /// Those of them that can never arrive.
    lost: Vec<Entry>,
}

/// Words that are dropped, each with the list that names it first.
#[derive(Default)]
struct StopList {
    /// Those of one word.
    entries: Vec<Entry>,
    /// Those of several words, each with the number of its list.
    several: Vec<(Entry, u16)>,
    exact: bool,
    /// The words as they are compared, each with the number of its list.
    words: HashMap<String, u16, foldhash::fast::RandomState>,
    lists: Vec<String>,
}

impl StopWords {
    /// Entries of several words need the tokens in their order; else the form alone decides.
    fn build(settings: &Settings) -> Result<Built, SettingsError> {
        let words = StopWords::new(settings)?;
        Ok(if words.runs.is_some() {
            Built::Sequence(Box::new(words))
        } else {
            Built::Token(Box::new(words))
        })
    }

    fn new(settings: &Settings) -> Result<StopWords, SettingsError> {
        let mut list = StopList { exact: settings.get(&CASE) == Some("exact"), ..StopList::default() };
        let (share, top, knows) = (settings.get(&SHARE), settings.get(&TOP), settings.has(&KNOWN.facts));
        let lists = settings.get(&LISTS);
        let add = settings.get(&ADD);
        if lists.is_empty() && add.is_empty() && share.is_none() && top.is_none() && !knows {
            return Err(SettingsError::needs_one_of(&[&LISTS.facts, &ADD.facts, &SHARE.facts, &TOP.facts]));
        }
        for named in lists {
            // A spared word that is the name of a group spares the group's words.
            let spared = words::stop_groups(&named.name, settings.spared().iter().map(String::as_str));
            let left: Vec<String> =
                named.words.iter().filter(|word| !spared.contains(word.as_str())).cloned().collect();
            list.take(&named.name, &left);
        }
        list.take("add", add);
        list.take("learned", settings.get(&KNOWN));
        let several: Vec<&str> = list.several.iter().map(|(entry, _)| entry.word.as_str()).collect();
        let (runs, lost) = Terms::new(list.exact, false).of_entries(&several, settings);
        let lost = lost.into_iter().map(|number| list.several[number].0.clone()).collect();
        let runs = (!several.is_empty()).then_some(runs);
        Ok(StopWords { list: Arc::new(list), share, top, knows, runs, lost })
    }
}

impl StopList {
    fn take(&mut self, list: &str, words: &[String]) {
        let Ok(number) = u16::try_from(self.lists.len()) else {
            return;
        };
        self.lists.push(list.to_owned());
        for word in words {
            let entry = Entry { word: word.clone(), list: list.to_owned() };
            if word.trim().contains(char::is_whitespace) {
                self.several.push((entry, number));
                continue;
            }
            self.entries.push(entry);
            let compared = self.compared(word).into_owned();
            self.words.entry(compared).or_insert(number);
        }
    }

    /// The word as it is compared. Most are in lower case already.
    fn compared<'w>(&self, word: &'w str) -> Cow<'w, str> {
        let as_it_is = self.exact || word.bytes().all(|byte| byte.is_ascii() && !byte.is_ascii_uppercase());
        if as_it_is { Cow::Borrowed(word) } else { Cow::Owned(word.to_lowercase()) }
    }

    /// The number of the list that names a word.
    fn listed(&self, word: &str) -> Option<u16> {
        self.words.get(self.compared(word).as_ref()).copied()
    }
}

impl Facts for StopWords {
    fn foreign(&self, language: &str) -> Vec<String> {
        // `en-long` is English.
        let is_own = |list: &&String| list.split('-').next() == Some(language);
        let mut shelf =
            self.list.lists.iter().filter(|list| words::stop_list_names().any(|name| name == *list));
        // A recipe for one language may well drop the function words of others beside its own.
        if shelf.clone().any(|list| is_own(&list)) {
            return Vec::new();
        }
        shelf.by_ref().map(|list| format!("the list `{list}` is for another language")).collect()
    }

    fn has_case_rule(&self) -> bool {
        true
    }

    fn reason(&self, number: u16) -> String {
        format!("stop word ({})", self.list.lists.get(usize::from(number)).map_or("", String::as_str))
    }

    fn learner(&self) -> Option<Box<dyn Learner>> {
        let common = Common { share: self.share, top: self.top, list: self.list.clone() };
        let learns = (self.share.is_some() || self.top.is_some()) && !self.knows;
        learns.then(|| from_vocabulary(move |vocabulary, documents| common.learned(vocabulary, documents)))
    }

    fn entries(&self) -> &[Entry] {
        &self.list.entries
    }

    fn lost_entries(&self) -> &[Entry] {
        &self.lost
    }

    fn lists(&self, token: &str) -> bool {
        self.list.listed(token).is_some()
    }
}

impl SequenceStep for StopWords {
    fn worker(&self) -> Box<dyn SequenceWork + '_> {
        Box::new(Stopping(self))
    }
}

struct Stopping<'s>(&'s StopWords);

impl SequenceWork for Stopping<'_> {
    fn document(&mut self, tokens: &mut Sequence<'_>) {
        let list = &self.0.list;
        let mut reasons: Vec<Option<u16>> = Vec::with_capacity(tokens.tokens().len());
        reasons.extend(
            tokens.tokens().iter().map(|token| if token.spared { None } else { list.listed(token.text()) }),
        );
        if let Some(runs) = &self.0.runs {
            runs.find(tokens.tokens(), |start, end, number| {
                reasons[start..end].fill(list.several.get(number).map(|(_, list)| *list));
            });
        }
        for (place, reason) in reasons.into_iter().enumerate() {
            reason.into_iter().for_each(|reason| tokens.drop(place, reason));
        }
    }
}

impl TokenStep for StopWords {
    fn apply(&self, form: &Form<'_>) -> Outcome {
        self.list.listed(form.text).map_or(Outcome::Keep, Outcome::Drop)
    }
}

/// Learns the words that most documents hold, or the most frequent, of those that no list names.
#[derive(Clone)]
struct Common {
    share: Option<f64>,
    top: Option<u64>,
    list: Arc<StopList>,
}

impl Common {
    fn learned(&self, vocabulary: &mut dyn Iterator<Item = Term<'_>>, documents: u64) -> Vec<Learned> {
        let words =
            vocabulary.filter(|term| term.kind() == Kind::Word && self.list.listed(term.text).is_none());
        let is_common = |(rank, term): &(u64, Term<'_>)| {
            let share = term.documents as f64 / documents.max(1) as f64;
            self.share.is_some_and(|least| share >= least) || self.top.is_some_and(|top| *rank <= top)
        };
        (1..).zip(words).filter(is_common).map(|(_, term)| term.learned()).collect()
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
    fn entries_of_several_words_are_dropped_where_they_stand_together() {
        let recipe = "[[step]]\ndo = \"stopwords\"\nadd = [\"as well as\", \"the\", \"Inc. of\"]\nspare = [\"well\"]\n";
        let clean = |recipe: &str| testing::clean(recipe, "As well as the tern, well as it can");
        assert_eq!(clean(recipe), "As well as tern , well as it can");
        assert_eq!(clean(&recipe.replace("spare = [\"well\"]", "")), "tern , well as it can");
    }

    #[test]
    fn case_can_be_exact() {
        let recipe = "[[step]]\ndo = \"stopwords\"\nadd = [\"us\"]\ncase = \"exact\"\n";
        assert_eq!(testing::clean(recipe, "US and us"), "US and");
    }
}
