use std::borrow::Cow;

use hashbrown::HashMap;

use super::{Entry, Form, Outcome, TokenStep};
use crate::recipe::{Built, Key, Operation, Settings, Shape, Stage};

pub(crate) static STOPWORDS: Operation = Operation {
    name: "stopwords",
    stage: Stage::Token,
    about: "drops the words of stop lists",
    keys: &[
        Key {
            name: "lists",
            shape: Shape::Lists,
            default: None,
            about: "lists from the shelf by name (`en`), and own files: one word a line, or the column of a CSV file as \
                    `{ file = \"words.csv\", column = \"word\" }`",
        },
        Key { name: "add", shape: Shape::Texts, default: None, about: "more words, written here" },
        Key {
            name: "case",
            shape: Shape::OneOf(&["ignore", "exact"]),
            default: Some("ignore"),
            about: "whether `The` counts as `the`",
        },
    ],
    example: "lists = [\"en\"]\nadd = [\"observed\"]\nspare = [\"not\", \"no\"]",
    build: |settings| Ok(Built::Token(Box::new(StopWords::new(settings)?))),
};

struct StopWords {
    entries: Vec<Entry>,
    exact: bool,
    /// The words as they are compared, each with the number of the list that names it first.
    words: HashMap<String, u16, foldhash::fast::RandomState>,
    lists: Vec<String>,
}

impl StopWords {
    fn new(settings: &Settings) -> Result<StopWords, String> {
        let mut stop = StopWords {
            entries: Vec::new(),
            exact: settings.choice("case") == Some("exact"),
            words: HashMap::default(),
            lists: Vec::new(),
        };
        let lists = settings.lists("lists");
        let add = settings.texts("add");
        if lists.is_empty() && add.is_empty() {
            return Err("`stopwords` needs `lists`, `add`, or both".into());
        }
        for list in lists {
            stop.take(&list.name, &list.words);
        }
        stop.take("add", add);
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

    fn entries(&self) -> &[Entry] {
        &self.entries
    }

    fn lists(&self, token: &str) -> bool {
        self.words.contains_key(self.compared(token).as_ref())
    }
}

#[cfg(test)]
mod tests {
    use crate::recipe::testing;

    #[test]
    fn shelf_list_own_words_and_spared_words() {
        let recipe = "[[step]]\ndo = \"stopwords\"\nlists = [\"en\"]\nadd = [\"Tern\"]\nspare = [\"not\"]\n";
        assert_eq!(
            testing::clean(recipe, "The tern DON'T nest and they don\u{2019}t not fly"),
            "nest not fly"
        );
    }

    #[test]
    fn case_can_be_exact() {
        let recipe = "[[step]]\ndo = \"stopwords\"\nadd = [\"us\"]\ncase = \"exact\"\n";
        assert_eq!(testing::clean(recipe, "US and us"), "US and");
    }
}
