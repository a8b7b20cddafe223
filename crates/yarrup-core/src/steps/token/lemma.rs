use hashbrown::HashMap;

use crate::kind::Kind;
use crate::lemma::{DictionaryFiles, DictionaryLemmas, English, Known, english};
use crate::part_of_speech::Tag;
use crate::stem;
use crate::step::{
    Built, Facts, Form, Key, Operation, Outcome, Role, RowList, Settings, SettingsError, Stage, TokenStep,
};
use crate::steps::token::stem::is_left_alone;
use crate::tag::Model;

const LANGUAGE: Key<String> = Key::text(
    "language",
    "the language of the words, if not that of the recipe; English if neither is given. English comes with Yarrup; for other languages an installed dictionary in Hunspell's format is used",
);

const TABLES: Key<Vec<RowList>> = Key::rows(
    "tables",
    "your own tables of form and lemma, with the part of speech as an optional third column; they are used first",
);

const DICTIONARY: Key<DictionaryFiles> = Key::dictionary(
    "dictionary",
    true,
    "a dictionary in Hunspell's format: its name, such as `de_DE`, or the path of its `.dic` file",
);

const MODEL: Key<Vec<u8>> = Key::file("model", "your own model, made by `yarrup learn`");

const UNKNOWN: Key<&'static str> = Key::one_of(
    "unknown",
    &["keep", "stem", "drop"],
    "what to do with unknown words: keep them, stem them with the stemmer of the language, or drop them",
)
.or("keep");

pub(crate) static LEMMA: Operation = Operation {
    name: "lemma",
    stage: Stage::Token,
    about: "replaces words with their dictionary form, by their part of speech if an earlier step tags. Names are not changed",
    keys: &[&LANGUAGE.facts, &TABLES.facts, &DICTIONARY.facts, &MODEL.facts, &UNKNOWN.facts],
    example: "unknown = \"keep\"",
    roles: &[Role::Reduces, Role::WorksOnWords, Role::KnowsLanguage],
    learns: None,
    build: |settings| Ok(Built::Token(Box::new(LemmaStep::new(settings)?))),
};

struct LemmaStep {
    /// By form in small letters: part of speech, if it is given, and lemma.
    table: HashMap<String, Vec<(Option<Tag>, String)>, foldhash::fast::RandomState>,
    source: Source,
    unknown: Unknown,
}

enum Source {
    English(&'static English),
    Dictionary(Box<DictionaryLemmas>),
    Model(Box<Model>),
    /// The tables alone.
    Nothing,
}

enum Unknown {
    Keep,
    Stem(fn(&str) -> String),
    Drop,
}

impl LemmaStep {
    fn new(settings: &Settings) -> Result<LemmaStep, SettingsError> {
        let mut table: HashMap<String, Vec<(Option<Tag>, String)>, _> = HashMap::default();
        for list in settings.get(&TABLES) {
            for (number, row) in list.rows.iter().enumerate() {
                let told = |what: String| format!("{}: row {}: {what}", list.name, number + 1);
                let [form, lemma, rest @ ..] = row.as_slice() else {
                    return Err(SettingsError::key(
                        &TABLES.facts,
                        told("a form and its lemma are needed".to_owned()),
                    ));
                };
                let tag = match rest.first().map(|tag| tag.trim()).filter(|tag| !tag.is_empty()) {
                    Some(name) => Some(
                        Tag::named(name)
                            .ok_or_else(|| told(format!("`{name}` is not a part of speech")))
                            .map_err(SettingsError::at(&TABLES.facts))?,
                    ),
                    None => None,
                };
                table.entry(form.trim().to_lowercase()).or_default().push((tag, lemma.trim().to_owned()));
            }
        }
        let language = settings.language().unwrap_or("en");
        let source = if let Some(bytes) = settings.get(&MODEL) {
            Source::Model(Box::new(
                Model::from_bytes(bytes)
                    .map_err(|fault| SettingsError::key(&MODEL.facts, fault.to_string()))?,
            ))
        } else if let Some(files) = settings.get(&DICTIONARY) {
            Source::Dictionary(Box::new(DictionaryLemmas::read(files)?))
        } else if language == "en" {
            Source::English(english())
        } else if !table.is_empty() {
            Source::Nothing
        } else {
            let why = format!("there is no dictionary for `{language}`");
            return Err(SettingsError::key(&LANGUAGE.facts, why));
        };
        let unknown = match settings.get(&UNKNOWN) {
            Some("drop") => Unknown::Drop,
            Some("stem") => {
                let stemmer = stem::stemmer(language, None)
                    .ok_or_else(|| format!("there is no stemmer for `{language}` to handle unknown words"))?;
                Unknown::Stem(stemmer.stem)
            }
            _ => Unknown::Keep,
        };
        Ok(LemmaStep { table, source, unknown })
    }

    /// The lemma of a form, and whether the form is known.
    fn lemma(&self, form: &str, tag: Option<Tag>) -> (String, bool) {
        if let Some(rows) = self.table.get(&form.to_lowercase()) {
            let of_tag = rows.iter().find(|(known, _)| known.is_some() && *known == tag);
            if let Some((_, lemma)) =
                of_tag.or_else(|| rows.iter().find(|(known, _)| known.is_none() || tag.is_none()))
            {
                return (lemma.clone(), true);
            }
        }
        match &self.source {
            Source::English(english) => {
                let lemma = english.lemma(form, tag);
                (lemma.text.into_owned(), lemma.known == Known::Yes)
            }
            Source::Dictionary(dictionary) => match dictionary.lemma(form, tag) {
                Some(lemma) => (lemma, true),
                None => (form.to_owned(), false),
            },
            Source::Model(model) => {
                let lemma = match tag {
                    Some(tag) => model.lemma(form, tag),
                    None => model.lemma_without_tag(form),
                };
                lemma.map_or_else(|| (form.to_owned(), false), |lemma| (lemma, true))
            }
            Source::Nothing => (form.to_owned(), false),
        }
    }
}

impl Facts for LemmaStep {
    fn reason(&self, _number: u16) -> String {
        "not in the dictionary".to_owned()
    }

    fn gives_lemmas(&self) -> bool {
        true
    }
}

impl TokenStep for LemmaStep {
    fn apply(&self, form: &Form<'_>) -> Outcome {
        let is_name = form.mark.tag() == Some(Tag::ProperNoun);
        if form.kind != Kind::Word || (is_name && !matches!(self.source, Source::English(_))) {
            return Outcome::Keep;
        }
        let (lemma, known) = self.lemma(form.text, form.mark.tag());
        let lemma = match self.unknown {
            _ if known || is_left_alone(form) => lemma,
            Unknown::Drop => return Outcome::Drop(0),
            Unknown::Stem(stem) => stem(&lemma),
            Unknown::Keep => lemma,
        };
        if lemma.is_empty() || lemma == form.text { Outcome::Keep } else { Outcome::Change(lemma) }
    }
}

#[cfg(test)]
mod tests {
    use crate::testing;

    #[test]
    fn words_become_their_lemmas_with_tags_and_without() {
        let plain = "[[step]]\ndo = \"lemma\"\n";
        assert_eq!(
            testing::clean(plain, "Terns flew over Saltmere, leaves fell, 7 xqzts"),
            "tern fly over Saltmere , leaf fall , 7 xqzts"
        );
        let tagged = "[[step]]\ndo = \"tag\"\n[[step]]\ndo = \"lemma\"\n";
        assert_eq!(
            testing::clean(tagged, "She leaves the leaves. We met at the meeting."),
            "she leave the leaf . we meet at the meeting ."
        );
    }

    #[test]
    fn unknown_words_stay_or_go_or_are_stemmed() {
        let step = |unknown: &str| format!("[[step]]\ndo = \"lemma\"\nunknown = \"{unknown}\"\n");
        assert_eq!(testing::clean(&step("drop"), "gulls fnargles"), "gull");
        assert_eq!(testing::clean(&step("stem"), "gulls fnargles"), "gull fnargl");
        assert_eq!(testing::clean(&step("keep"), "gulls fnargles"), "gull fnargles");
    }
}
