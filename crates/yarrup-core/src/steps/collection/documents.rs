//! `documents`: which documents stay.

use std::sync::Arc;

use crate::language::{is_language, language_of};
use crate::step::{
    Arriving, Built, Condition, Copies, CopySort, DocumentStep, Entry, Facts, Key, KeyFacts, Learner,
    Operation, Settings, SettingsError, Stage, Terms, single_entries,
};
use crate::steps::collection::copies::CopyFinder;

const COUNTS: u64 = 1_000_000_000_000;
const MIN_TOKENS: Key<u64> = Key::whole(
    "min_tokens",
    1,
    COUNTS,
    "documents must have at least this many tokens when they come to the step",
);
const MAX_TOKENS: Key<u64> = Key::whole("max_tokens", 1, COUNTS, "and at most this many");
const MIN_TOKENS_BEFORE: Key<u64> =
    Key::whole("min_tokens_before", 1, COUNTS, "they must have at least this many tokens as found");
const MAX_TOKENS_BEFORE: Key<u64> = Key::whole("max_tokens_before", 1, COUNTS, "and at most this many");
const LANGUAGES: Key<Vec<String>> = Key::texts(
    "languages",
    "they must be in one of these languages (`en`, `de`; `mul` for documents in several), by their field `language`, or as detected",
);
const UNDETECTED: Key<&'static str> = Key::one_of(
    "undetected",
    &["keep", "drop"],
    "what to do with documents whose language cannot be detected, if `languages` is given",
)
.or("keep");
const WITH_ANY: Key<Vec<String>> = Key::texts(
    "with_any",
    "they must have at least one of these terms when they come to the step; a term of several words is a phrase",
);
const WITH_ALL: Key<Vec<String>> = Key::texts("with_all", "they must have all of these terms");
const WITHOUT: Key<Vec<String>> = Key::texts("without", "they must have none of these terms");
const CASE: Key<&'static str> = Key::one_of(
    "case",
    &["ignore", "exact"],
    "`ignore`: `tern` in the lists also means `Tern` in a document",
)
.or("ignore");
const FIELDS: Key<Condition> = Key::fields(
    "fields",
    "their fields must have these values: `{ site = \"spit\", season = [\"spring\", \"autumn\"] }`",
);
const NOT_FIELDS: Key<Condition> =
    Key::fields("not_fields", "leaves out documents in which all of these fields have these values");
const COPIES: Key<&'static str> = Key::one_of(
    "copies",
    &["keep", "exact", "near"],
    "`exact`: keeps only the first of several documents with the same tokens; `near`: also leaves out those that are nearly the same. Documents without tokens are not copies",
)
.or("keep");
const SIMILARITY: Key<f64> = Key::share(
    "similarity",
    "for `copies = \"near\"`: the share of all runs of three tokens in two documents that must be in both (Jaccard's coefficient)",
)
.or("0.8");

/// The keys that ask something of a document, one of which is needed.
const CONDITIONS: [&KeyFacts; 11] = [
    &MIN_TOKENS.facts,
    &MAX_TOKENS.facts,
    &MIN_TOKENS_BEFORE.facts,
    &MAX_TOKENS_BEFORE.facts,
    &LANGUAGES.facts,
    &WITH_ANY.facts,
    &WITH_ALL.facts,
    &WITHOUT.facts,
    &FIELDS.facts,
    &NOT_FIELDS.facts,
    &COPIES.facts,
];

pub(crate) static DOCUMENTS: Operation = Operation {
    name: "documents",
    stage: Stage::Collection,
    about: "keeps the documents that meet all conditions, and leaves out the others: by length, language, terms, fields, copies",
    keys: &[
        &MIN_TOKENS.facts,
        &MAX_TOKENS.facts,
        &MIN_TOKENS_BEFORE.facts,
        &MAX_TOKENS_BEFORE.facts,
        &LANGUAGES.facts,
        &UNDETECTED.facts,
        &WITH_ANY.facts,
        &WITH_ALL.facts,
        &WITHOUT.facts,
        &CASE.facts,
        &FIELDS.facts,
        &NOT_FIELDS.facts,
        &COPIES.facts,
        &SIMILARITY.facts,
    ],
    example: "min_tokens = 1\nwithout = [\"lorem ipsum\"]",
    roles: &[],
    learns: None,
    build: |settings| Ok(Built::Document(Box::new(Documents::new(settings)?))),
};

/// The numbers of the reasons. Behind [`LACKS`]: terms that are missing; behind [`HOLDS`]: terms that are there.
const SHORT: u16 = 0;
const LONG: u16 = 1;
const SHORT_BEFORE: u16 = 2;
const LONG_BEFORE: u16 = 3;
const LANGUAGE: u16 = 4;
const UNDETECTED_LANGUAGE: u16 = 5;
const LACKS_ANY: u16 = 6;
const FIELD: u16 = 7;
const NOT_FIELD: u16 = 8;
const COPY: u16 = 9;
const NEAR_COPY: u16 = 10;
const LACKS: u16 = 1_000;
const HOLDS: u16 = 20_000;
/// How many terms a list may have, so that each has a number.
const MOST_TERMS: usize = 19_000;

/// What is asked of documents.
#[derive(Clone)]
struct Documents {
    conditions: Arc<Conditions>,
    /// Which copies are looked for, and how alike near copies are.
    copies: Option<(CopySort, f64)>,
    /// The copies that were found.
    known: Option<Arc<Copies>>,
}

/// What is asked of each document by itself.
struct Conditions {
    tokens: (u64, u64),
    before: (u64, u64),
    languages: Vec<String>,
    drops_undetected: bool,
    any: List,
    all: List,
    none: List,
    fields: Option<Condition>,
    not_fields: Option<Condition>,
    entries: Vec<Entry>,
    /// Terms of several words that can never arrive.
    lost: Vec<Entry>,
}

/// Terms that are looked for.
struct List {
    written: Vec<String>,
    terms: Terms,
    /// Those of several words that can never arrive.
    lost: Vec<Entry>,
}

impl List {
    fn new(
        key: &KeyFacts,
        written: &[String],
        exact: bool,
        settings: &Settings,
    ) -> Result<List, SettingsError> {
        if written.len() > MOST_TERMS {
            return Err(SettingsError::key(key, format!("`{}` can have {MOST_TERMS} terms", key.name)));
        }
        if written.iter().any(|term| term.trim().is_empty()) {
            return Err(SettingsError::key(key, format!("`{}` has an empty term", key.name)));
        }
        let all: Vec<&str> = written.iter().map(String::as_str).collect();
        let (terms, lost) = Terms::new(exact, false).of_entries(&all, settings);
        let lost =
            lost.into_iter().map(|number| Entry { word: written[number].clone(), list: key.name.to_owned() });
        Ok(List { written: written.to_vec(), terms, lost: lost.collect() })
    }
}

impl Documents {
    fn new(settings: &Settings) -> Result<Documents, SettingsError> {
        if !CONDITIONS.iter().any(|key| settings.has(key)) {
            return Err(SettingsError::needs_one_of(&CONDITIONS));
        }
        let exact = settings.get(&CASE) == Some("exact");
        let pair = |least: &Key<u64>, most: &Key<u64>| {
            (settings.get(least).unwrap_or(0), settings.get(most).unwrap_or(u64::MAX))
        };
        let list = |key: &Key<Vec<String>>| List::new(&key.facts, settings.get(key), exact, settings);
        let copies = match settings.get(&COPIES) {
            Some("exact") => Some((CopySort::Exact, 1.0)),
            Some("near") => Some((CopySort::Near, settings.get(&SIMILARITY).unwrap_or(0.8))),
            _ => None,
        };
        if settings.has(&SIMILARITY.facts) && settings.get(&COPIES) != Some("near") {
            return Err(SettingsError::key(&SIMILARITY.facts, "`similarity` is for `copies = \"near\"`"));
        }
        if copies.is_some_and(|(_, similarity)| similarity < LEAST_SIMILARITY) {
            let why = format!(
                "`similarity` must be at least {LEAST_SIMILARITY}: documents less alike than that are not copies"
            );
            return Err(SettingsError::key(&SIMILARITY.facts, why));
        }
        let keys = [&WITH_ANY, &WITH_ALL, &WITHOUT].into_iter();
        let (any, all, none) = (list(&WITH_ANY)?, list(&WITH_ALL)?, list(&WITHOUT)?);
        let lists = [&any, &all, &none];
        Ok(Documents {
            conditions: Arc::new(Conditions {
                entries: single_entries(keys.map(|key| (key.facts.name, settings.get(key)))),
                lost: lists.iter().flat_map(|list| list.lost.clone()).collect(),
                tokens: pair(&MIN_TOKENS, &MAX_TOKENS),
                before: pair(&MIN_TOKENS_BEFORE, &MAX_TOKENS_BEFORE),
                languages: settings.get(&LANGUAGES).to_vec(),
                drops_undetected: settings.get(&UNDETECTED) == Some("drop"),
                any,
                all,
                none,
                fields: settings.get(&FIELDS).cloned(),
                not_fields: settings.get(&NOT_FIELDS).cloned(),
            }),
            copies,
            known: None,
        })
    }
}

/// The least similarity of near copies: the sketches that find them miss some of those that are less alike.
const LEAST_SIMILARITY: f64 = 0.5;

/// A length as sentences name it.
fn tokens(count: u64) -> String {
    if count == 1 { "1 token".to_owned() } else { format!("{count} tokens") }
}

impl Conditions {
    /// The number of the first condition that a document does not meet.
    fn missed(&self, arriving: &Arriving<'_>) -> Option<u16> {
        let (count, before) = (arriving.tokens.len() as u64, arriving.tokens_before);
        match () {
            () if before < self.before.0 => return Some(SHORT_BEFORE),
            () if before > self.before.1 => return Some(LONG_BEFORE),
            () if count < self.tokens.0 => return Some(SHORT),
            () if count > self.tokens.1 => return Some(LONG),
            () => {}
        }
        let holds = |condition: &Condition| condition.holds(&mut |path| arriving.document.fields.field(path));
        if self.fields.as_ref().is_some_and(|fields| !holds(fields)) {
            return Some(FIELD);
        }
        if self.not_fields.as_ref().is_some_and(holds) {
            return Some(NOT_FIELD);
        }
        self.missed_terms(arriving).or_else(|| self.missed_language(arriving))
    }

    fn missed_terms(&self, arriving: &Arriving<'_>) -> Option<u16> {
        if !self.any.written.is_empty() && self.any.terms.held(arriving.tokens).is_empty() {
            return Some(LACKS_ANY);
        }
        if !self.all.written.is_empty() {
            let held = self.all.terms.held(arriving.tokens);
            let missing = (0..self.all.written.len()).find(|term| held.binary_search(term).is_err());
            if let Some(term) = missing {
                return Some(LACKS + term as u16);
            }
        }
        if self.none.written.is_empty() {
            return None;
        }
        self.none.terms.held(arriving.tokens).first().map(|term| HOLDS + *term as u16)
    }

    fn missed_language(&self, arriving: &Arriving<'_>) -> Option<u16> {
        if self.languages.is_empty() {
            return None;
        }
        let stated = arriving.document.fields.field("language");
        let detected = stated.is_none().then(|| language_of(arriving.document.text)).flatten();
        match stated.as_deref().or(detected) {
            Some(found) if self.languages.iter().any(|allowed| is_language(found, allowed)) => None,
            Some(_) => Some(LANGUAGE),
            None => self.drops_undetected.then_some(UNDETECTED_LANGUAGE),
        }
    }
}

impl Facts for Documents {
    fn reason(&self, number: u16) -> String {
        let conditions = &self.conditions;
        let written =
            |list: &List, number: u16| list.written.get(usize::from(number)).cloned().unwrap_or_default();
        match number {
            SHORT => format!("fewer than {}", tokens(conditions.tokens.0)),
            LONG => format!("more than {}", tokens(conditions.tokens.1)),
            SHORT_BEFORE => format!("fewer than {} as found", tokens(conditions.before.0)),
            LONG_BEFORE => format!("more than {} as found", tokens(conditions.before.1)),
            LANGUAGE => "in another language".to_owned(),
            UNDETECTED_LANGUAGE => "language not detected".to_owned(),
            LACKS_ANY => "has none of the terms".to_owned(),
            FIELD => "a field has another value".to_owned(),
            NOT_FIELD => "a field has an unwanted value".to_owned(),
            COPY => "copy".to_owned(),
            NEAR_COPY => "near copy".to_owned(),
            number if number >= HOLDS => format!("has `{}`", written(&conditions.none, number - HOLDS)),
            number => format!("lacks `{}`", written(&conditions.all, number.saturating_sub(LACKS))),
        }
    }

    fn entries(&self) -> &[Entry] {
        &self.conditions.entries
    }

    fn lost_entries(&self) -> &[Entry] {
        &self.conditions.lost
    }

    fn lists(&self, token: &str) -> bool {
        let conditions = &self.conditions;
        [&conditions.any, &conditions.all, &conditions.none].iter().any(|list| list.terms.has_token(token))
    }

    fn has_case_rule(&self) -> bool {
        true
    }

    fn conditions(&self) -> Vec<&Condition> {
        self.conditions.fields.iter().chain(&self.conditions.not_fields).collect()
    }

    fn learner(&self) -> Option<Box<dyn Learner>> {
        let (sort, similarity) = self.copies.filter(|_| self.known.is_none())?;
        let conditions = Arc::clone(&self.conditions);
        // Of copies, those that are left out for another reason are not the first.
        Some(Box::new(CopyFinder::new(
            sort,
            similarity,
            Arc::new(move |arriving: &Arriving<'_>| conditions.missed(arriving).is_none()),
        )))
    }
}

impl DocumentStep for Documents {
    fn judge(&self, arriving: &Arriving<'_>) -> Option<u16> {
        self.conditions.missed(arriving).or_else(|| {
            let (_, sort) = self.known.as_ref()?.original(arriving.document.order)?;
            Some(match sort {
                CopySort::Exact => COPY,
                CopySort::Near => NEAR_COPY,
            })
        })
    }

    fn knowing(&self, copies: Arc<Copies>) -> Option<Arc<dyn DocumentStep>> {
        Some(Arc::new(Documents { known: Some(copies), ..self.clone() }))
    }

    fn copies(&self) -> Option<&Copies> {
        self.known.as_deref()
    }
}

#[cfg(test)]
mod tests {
    use std::borrow::Cow;

    use crate::run::{Outputs, Worker};
    use crate::step::{Document, Fields};
    use crate::testing;

    struct Site(&'static str);

    impl Fields for Site {
        fn field(&self, path: &str) -> Option<Cow<'_, str>> {
            (path == "site").then_some(Cow::Borrowed(self.0))
        }
    }

    /// Why each of the documents is left out, or nothing.
    fn reasons(settings: &str, texts: &[&str]) -> Vec<Option<String>> {
        let recipe = format!("[[step]]\ndo = \"case\"\n[[step]]\ndo = \"documents\"\n{settings}\n");
        let pipeline = testing::pipeline(&recipe);
        let mut worker = Worker::new(&pipeline, Outputs { clean: true, tokens: false, ends: false });
        let judged = texts.iter().map(|text| {
            let cleaned = worker.take(&Document { text, fields: &Site("spit"), order: 0 });
            assert_eq!(cleaned.clean.is_empty(), cleaned.left_out.is_some() || text.is_empty());
            cleaned.left_out.map(|out| pipeline.reason(out.step, out.reason))
        });
        let judged = judged.collect();
        assert!(worker.into_account().is_balanced());
        judged
    }

    #[test]
    fn each_condition_leaves_documents_out_with_its_reason() {
        let told = |settings: &str, text: &str| reasons(settings, &[text]).remove(0).unwrap_or_default();
        for (settings, text, reason) in [
            ("min_tokens = 3", "two words", "fewer than 3 tokens"),
            ("min_tokens = 2", "two words", ""),
            ("max_tokens = 1", "two words", "more than 1 token"),
            ("min_tokens_before = 3", "two words", "fewer than 3 tokens as found"),
            ("max_tokens_before = 1", "two words", "more than 1 token as found"),
            ("with_any = [\"tern\", \"gull\"]", "A Tern here", ""),
            ("with_any = [\"tern\", \"gull\"]", "nothing here", "has none of the terms"),
            ("with_all = [\"nest\", \"nest box\"]", "the nest box", ""),
            ("with_all = [\"nest\", \"nest box\"]", "a nest, a box", "lacks `nest box`"),
            ("without = [\"nest box\"]", "the Nest Box", "has `nest box`"),
            ("without = [\"Nest\"]\ncase = \"exact\"", "the nest", ""),
            ("fields = { site = [\"hide\", \"spit\"] }", "x", ""),
            ("fields = { site = \"hide\" }", "x", "a field has another value"),
            ("not_fields = { site = \"spit\" }", "x", "a field has an unwanted value"),
            (
                "languages = [\"de\"]",
                "The wardens of the reserve counted every nest this morning.",
                "in another language",
            ),
            ("languages = [\"en-GB\"]", "The wardens of the reserve counted every nest this morning.", ""),
            ("languages = [\"de\"]", "??", ""),
            ("languages = [\"de\"]\nundetected = \"drop\"", "??", "language not detected"),
        ] {
            assert_eq!(told(settings, text), reason, "{settings}: {text}");
        }
    }

    #[test]
    fn settings_that_say_nothing_or_too_much_are_refused() {
        for settings in ["", "similarity = 0.9", "copies = \"near\"\nsimilarity = 0.2", "without = [\" \"]"] {
            let text = format!("[[step]]\ndo = \"documents\"\n{settings}\n");
            let recipe = crate::recipe::read(&text).expect("read");
            assert!(crate::Pipeline::compile(&recipe, &crate::NoFiles).is_err(), "{settings}");
        }
    }
}
