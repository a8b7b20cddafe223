use hashbrown::HashMap;

use crate::step::{
    Built, Entry, Facts, Finder, Form, Key, Operation, Outcome, PairList, Sequence, SequenceStep,
    SequenceWork, Settings, SettingsError, Stage, Terms, TokenStep,
};

const TABLES: Key<Vec<PairList>> = Key::pairs(
    "tables",
    "tables of a variant and its term: CSV files, or `british` (American spellings become British ones) and `american` (the other way), which come with Yarrup. A variant may have several words",
);

const WORDS: Key<Vec<(String, String)>> = Key::named("words", "more pairs: `{ \"variant\" = \"term\" }`");

const CASE: Key<&'static str> =
    Key::one_of("case", &["ignore", "exact"], "`ignore`: `seagull` also means `Seagull`").or("ignore");

pub(crate) static EQUATE: Operation = Operation {
    name: "equate",
    stage: Stage::Token,
    about: "replaces words that mean the same with one term: synonyms, spelling variants, misspellings, several words for one",
    keys: &[&TABLES.facts, &WORDS.facts, &CASE.facts],
    example: "words = { \"seagull\" = \"gull\", \"nest box\" = \"nestbox\" }",
    roles: &[],
    learns: None,
    build: Equate::build,
};

struct Equate {
    exact: bool,
    /// Variants of one word.
    words: HashMap<String, String, foldhash::fast::RandomState>,
    /// Variants of several words, and what each becomes.
    runs: Option<(Terms, Vec<String>)>,
    entries: Vec<Entry>,
    /// Variants of several words that can never arrive.
    lost: Vec<Entry>,
}

impl Equate {
    /// Variants of several words need the tokens in their order; else the form alone decides.
    fn build(settings: &Settings) -> Result<Built, SettingsError> {
        let equate = Equate::new(settings)?;
        Ok(match equate.runs {
            Some(_) => Built::Sequence(Box::new(equate)),
            None => Built::Token(Box::new(equate)),
        })
    }

    fn new(settings: &Settings) -> Result<Equate, SettingsError> {
        let exact = settings.get(&CASE) == Some("exact");
        let written = settings.get(&WORDS);
        let tables = settings.get(&TABLES);
        if tables.is_empty() && written.is_empty() {
            return Err(SettingsError::needs_one_of(&[&TABLES.facts, &WORDS.facts]));
        }
        let (mut words, mut variants, mut becomes) = (HashMap::default(), Vec::new(), Vec::new());
        let mut entries = Vec::new();
        let listed = tables
            .iter()
            .map(|table| (table.name.as_str(), table.pairs.as_slice()))
            .chain([("words", written)]);
        for (list, pairs) in listed {
            for (variant, term) in pairs {
                let variant = if exact { variant.trim().to_owned() } else { variant.trim().to_lowercase() };
                if variant.is_empty() || term.trim().is_empty() {
                    let why = format!("`{list}` has a pair with an empty side: `{variant}` and `{term}`");
                    let key = if list == "words" { &WORDS.facts } else { &TABLES.facts };
                    return Err(SettingsError::key(key, why));
                }
                if !variant.contains(char::is_whitespace) {
                    entries.push(Entry { word: variant.clone(), list: list.to_owned() });
                    words.entry(variant.clone()).or_insert_with(|| term.trim().to_owned());
                }
                variants.push((list, variant));
                becomes.push(term.trim().to_owned());
            }
        }
        // Single variants are among the runs, so that one pass finds all, the longest first.
        let written: Vec<&str> = variants.iter().map(|(_, variant)| variant.as_str()).collect();
        let (terms, lost) = Terms::new(exact, false).of_entries(&written, settings);
        let lost = lost.into_iter().map(|number| {
            let (list, variant) = &variants[number];
            Entry { word: variant.clone(), list: (*list).to_owned() }
        });
        let lost = lost.collect();
        let several = terms.has_runs() || written.iter().any(|variant| variant.contains(char::is_whitespace));
        let runs = several.then_some((terms, becomes));
        Ok(Equate { exact, words, runs, entries, lost })
    }

    fn term(&self, word: &str) -> Option<&String> {
        if self.exact { self.words.get(word) } else { self.words.get(word.to_lowercase().as_str()) }
    }
}

impl Facts for Equate {
    fn has_case_rule(&self) -> bool {
        true
    }

    fn entries(&self) -> &[Entry] {
        &self.entries
    }

    fn lost_entries(&self) -> &[Entry] {
        &self.lost
    }

    fn lists(&self, token: &str) -> bool {
        self.term(token).is_some()
    }
}

impl TokenStep for Equate {
    fn apply(&self, form: &Form<'_>) -> Outcome {
        match self.term(form.text) {
            Some(term) if term != form.text => Outcome::Change(term.clone()),
            _ => Outcome::Keep,
        }
    }
}

impl SequenceStep for Equate {
    fn worker(&self) -> Box<dyn SequenceWork + '_> {
        Box::new(Equating(self.runs.as_ref().map(|(terms, becomes)| (terms.finder(), becomes.as_slice()))))
    }
}

struct Equating<'s>(Option<(Finder<'s>, &'s [String])>);

impl SequenceWork for Equating<'_> {
    fn document(&mut self, tokens: &mut Sequence<'_>) {
        let Some((finder, becomes)) = &mut self.0 else { return };
        let mut found = Vec::new();
        finder.find(tokens.tokens(), |start, end, number| found.push((start, end, number)));
        for (start, end, number) in found {
            if end - start > 1 {
                tokens.join(start, end, becomes[number].clone());
            } else if tokens.tokens()[start].text() != becomes[number] {
                tokens.change(start, becomes[number].clone());
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::testing;

    #[test]
    fn variants_become_their_term() {
        let recipe = "[[step]]\ndo = \"equate\"\nwords = { seagull = \"gull\", \"Grey Gull\" = \"gull\" }\n";
        assert_eq!(testing::clean(recipe, "A grey gull, a Seagull and a gull"), "A gull , a gull and a gull");
        let single = "[[step]]\ndo = \"equate\"\nwords = { Seagull = \"gull\" }\ncase = \"exact\"\n";
        assert_eq!(testing::clean(single, "Seagull seagull"), "gull seagull");
    }

    #[test]
    fn spellings_of_two_countries_come_together() {
        let recipe = "[[step]]\ndo = \"equate\"\ntables = [\"british\"]\n";
        assert_eq!(testing::clean(recipe, "gray color organized center"), "grey colour organised centre");
    }
}
