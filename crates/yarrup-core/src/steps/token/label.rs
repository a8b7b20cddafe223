use crate::step::{
    Built, Entry, Facts, Finder, Key, Mark, Operation, Role, Sequence, SequenceStep, SequenceWork, Settings,
    SettingsError, Stage, Terms, WordList, single_entries,
};

pub(crate) const NAME: Key<String> = Key::text("name", "the label, such as `place`");

const LISTS: Key<Vec<WordList>> = Key::lists(
    "lists",
    "files of terms of one or more words: one a line, a JSON array, or a column of a CSV file",
);

const ADD: Key<Vec<String>> = Key::texts("add", "more terms");

const CASE: Key<&'static str> =
    Key::one_of("case", &["ignore", "exact"], "`ignore`: `Wash` and `wash` are the same term").or("ignore");

pub(crate) static LABEL: Operation = Operation {
    name: "label",
    stage: Stage::Token,
    about: "marks tokens that are in your lists, such as places or people, for `drop`, `keep` and reports; it changes no token",
    keys: &[&NAME.facts, &LISTS.facts, &ADD.facts, &CASE.facts],
    example: "name = \"place\"\nadd = [\"Saltmere\", \"Gull Hide\"]",
    roles: &[Role::Marks],
    learns: None,
    build: |settings| Ok(Built::Sequence(Box::new(Label::new(settings)?))),
};

struct Label {
    name: String,
    bit: u32,
    terms: Terms,
    entries: Vec<Entry>,
    /// Entries of several words that can never arrive.
    lost: Vec<Entry>,
}

impl Label {
    fn new(settings: &Settings) -> Result<Label, SettingsError> {
        let name = settings.get(&NAME).unwrap_or_default().trim().to_owned();
        if name.is_empty() {
            return Err(SettingsError::needs_one_of(&[&NAME.facts]));
        }
        let (lists, add) = (settings.get(&LISTS), settings.get(&ADD));
        if lists.is_empty() && add.is_empty() {
            return Err(SettingsError::needs_one_of(&[&LISTS.facts, &ADD.facts]));
        }
        // A label that an earlier step gives as well keeps its bit.
        let labels = settings.labels();
        let number = labels.iter().position(|known| *known == name).unwrap_or(labels.len());
        if number >= Mark::MOST_LABELS {
            let why = format!("a recipe can have {} labels", Mark::MOST_LABELS);
            return Err(SettingsError::key(&NAME.facts, why));
        }
        let exact = settings.get(&CASE) == Some("exact");
        let named =
            lists.iter().map(|list| (list.name.as_str(), list.words.as_slice())).chain([("add", add)]);
        let all: Vec<(&str, &String)> =
            named.clone().flat_map(|(list, words)| words.iter().map(move |word| (list, word))).collect();
        let written: Vec<&str> = all.iter().map(|(_, word)| word.as_str()).collect();
        let (terms, lost) = Terms::new(exact, false).of_entries(&written, settings);
        let lost = lost.into_iter().map(|number| {
            let (list, word) = all[number];
            Entry { word: word.clone(), list: list.to_owned() }
        });
        Ok(Label { name, bit: 1 << number, terms, lost: lost.collect(), entries: single_entries(named) })
    }
}

impl Facts for Label {
    fn has_case_rule(&self) -> bool {
        true
    }

    fn gives_label(&self) -> Option<&str> {
        Some(&self.name)
    }

    fn entries(&self) -> &[Entry] {
        &self.entries
    }

    fn lost_entries(&self) -> &[Entry] {
        &self.lost
    }

    fn lists(&self, token: &str) -> bool {
        self.terms.has_token(token)
    }
}

impl SequenceStep for Label {
    fn worker(&self) -> Box<dyn SequenceWork + '_> {
        Box::new(Labelling { bit: self.bit, finder: self.terms.finder() })
    }
}

struct Labelling<'s> {
    bit: u32,
    finder: Finder<'s>,
}

impl SequenceWork for Labelling<'_> {
    fn document(&mut self, tokens: &mut Sequence<'_>) {
        let mut places = Vec::new();
        self.finder.find(tokens.tokens(), |start, end, _| places.extend(start..end));
        for place in places {
            tokens.label(place, self.bit);
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::testing;

    #[test]
    fn labelled_tokens_can_be_dropped_or_kept() {
        let label =
            "[[step]]\ndo = \"label\"\nname = \"place\"\nadd = [\"Gull Hide\", \"saltmere\"]\n[[step]]\n";
        let text = "From Gull Hide at Saltmere we hide";
        let drop = format!("{label}do = \"drop\"\nlabels = [\"place\"]\n");
        assert_eq!(testing::clean(&drop, text), "From at we hide");
        let keep = format!("{label}do = \"keep\"\nlabels = [\"place\"]\n");
        assert_eq!(testing::clean(&keep, text), "Gull Hide Saltmere");
        let faults = crate::Pipeline::compile(
            &crate::recipe::read("[[step]]\ndo = \"drop\"\nlabels = [\"place\"]\n").expect("read"),
            &crate::NoFiles,
        );
        assert!(faults.err().unwrap_or_default()[0].title.contains("no step before"));
    }
}
