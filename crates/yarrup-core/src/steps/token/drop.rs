use hashbrown::HashMap;
use regex::Regex;

use crate::kind::Kind;
use crate::lemma::{DictionaryFiles, Speller, english, english_features};
use crate::morphology::Feature;
use crate::part_of_speech::Tag;
use crate::step::{
    Built, Entry, Facts, Form, Key, KeyFacts, Operation, Outcome, Settings, SettingsError, Stage, TokenStep,
    WordList,
};
use crate::unicode::{self, Category};

const KINDS: Key<Vec<&'static str>> = Key::some_of(
    "kinds",
    Kind::NAMES,
    "tokens of these kinds; `number` means tokens that are numbers: digits, with a sign and separators",
);

const TAGS: Key<Vec<&'static str>> = Key::some_of(
    "tags",
    Tag::NAMES,
    "tokens with these parts of speech, by name or as a universal tag; an earlier step must `tag`",
);

const FEATURES: Key<Vec<&'static str>> = Key::some_of(
    "features",
    Feature::NAMES,
    "tokens whose form certainly has one of these features (English): number, degree, tense, verb form; an earlier step must `tag`, and none may remove endings before",
);

const LABELS: Key<Vec<String>> =
    Key::texts("labels", "tokens with these labels; an earlier step must `label` them");

const LISTS: Key<Vec<WordList>> =
    Key::lists("lists", "tokens that are in these lists: lists that come with Yarrup, or your own files");

const WORDS: Key<Vec<String>> = Key::texts("words", "these tokens");

const CASE: Key<&'static str> =
    Key::one_of("case", &["ignore", "exact"], "`ignore`: `tern` in `lists` and `words` also means `Tern`")
        .or("ignore");

const MATCHES: Key<String> =
    Key::text("matches", "tokens that a regular expression matches from beginning to end");

const DICTIONARY_WORDS: Key<&'static str> = Key::one_of(
    "dictionary_words",
    &["known", "unknown"],
    "words that are in the dictionary, or words that are not; this concerns no tokens of other kinds",
);

const DICTIONARY: Key<DictionaryFiles> = Key::dictionary(
    "dictionary",
    false,
    "a dictionary in Hunspell's format, such as `de_DE` [default: the English one that comes with Yarrup]",
);

const CONTAINS: Key<Vec<&'static str>> = Key::some_of(
    "contains",
    &["digits"],
    "tokens that have such a character anywhere, of any kind (`B12`, `3rd`, `12:30`)",
);

const SHORTER_THAN: Key<u64> =
    Key::whole("shorter_than", 1, 1_000_000, "tokens with fewer characters (code points)");

const LONGER_THAN: Key<u64> =
    Key::whole("longer_than", 1, 1_000_000, "tokens with more characters (code points)");

const MATCH: Key<&'static str> = Key::one_of(
    "match",
    &["any", "all"],
    "whether a token must meet one of the conditions of the step, or all of them; with `all`, it needs one of the `tags` and every one of the `labels`",
)
.or("any");

const KEYS: &[&KeyFacts] = &[
    &KINDS.facts,
    &TAGS.facts,
    &FEATURES.facts,
    &LABELS.facts,
    &LISTS.facts,
    &WORDS.facts,
    &CASE.facts,
    &MATCHES.facts,
    &DICTIONARY_WORDS.facts,
    &DICTIONARY.facts,
    &CONTAINS.facts,
    &SHORTER_THAN.facts,
    &LONGER_THAN.facts,
    &MATCH.facts,
];

pub(crate) static DROP: Operation = Operation {
    name: "drop",
    stage: Stage::Token,
    about: "drops tokens that meet any of the conditions: by kind, part of speech, label, list, pattern, dictionary, length",
    keys: KEYS,
    example: "kinds = [\"punctuation\", \"number\"]\nshorter_than = 3",
    roles: &[],
    learns: None,
    build: |settings| Ok(Built::Token(Box::new(Drop(Conditions::new(settings)?)))),
};

pub(crate) static KEEP: Operation = Operation {
    name: "keep",
    stage: Stage::Token,
    about: "keeps tokens that meet any of the conditions, and drops all others",
    keys: KEYS,
    example: "kinds = [\"word\"]",
    roles: &[],
    learns: None,
    build: |settings| Ok(Built::Token(Box::new(Keep(Conditions::new(settings)?)))),
};

/// Drops what meets a condition.
struct Drop(Conditions);

/// Drops what meets none.
struct Keep(Conditions);

struct Conditions {
    kinds: Vec<Kind>,
    tags: Vec<Tag>,
    /// Each with its name.
    features: Vec<(Feature, &'static str)>,
    /// The bits of the labels, and their names.
    labels: u32,
    label_names: Vec<String>,
    entries: Vec<Entry>,
    /// The words as they are compared, each with the number of the list that names it first.
    words: HashMap<String, u16, foldhash::fast::RandomState>,
    lists: Vec<String>,
    exact: bool,
    pattern: Option<Regex>,
    speller: Option<(Speller, bool)>,
    digits: bool,
    shorter_than: Option<usize>,
    longer_than: Option<usize>,
    /// Whether all conditions must be met.
    all: bool,
}

const DIGITS: u16 = 100;
const SHORT: u16 = 101;
const LONG: u16 = 102;
const PATTERN: u16 = 103;
const SPELLING: u16 = 104;
const LABEL: u16 = 105;
const NONE: u16 = 106;
/// Behind it: features.
const FEATURED: u16 = 150;
/// Behind it: parts of speech.
const TAGGED: u16 = 200;
/// Behind it: lists.
const LISTED: u16 = 300;

impl Conditions {
    fn new(settings: &Settings) -> Result<Conditions, SettingsError> {
        let length = |key: &Key<u64>| settings.get(key).and_then(|n| usize::try_from(n).ok());
        let mut conditions = Conditions {
            kinds: settings.get(&KINDS).iter().filter_map(|name| Kind::named(name)).collect(),
            tags: settings.get(&TAGS).iter().filter_map(|name| Tag::named(name)).collect(),
            features: settings
                .get(&FEATURES)
                .iter()
                .filter_map(|name| Some((Feature::named(name)?, *name)))
                .collect(),
            labels: 0,
            label_names: settings.get(&LABELS).to_vec(),
            entries: Vec::new(),
            words: HashMap::default(),
            lists: Vec::new(),
            exact: settings.get(&CASE) == Some("exact"),
            pattern: None,
            speller: None,
            digits: settings.get(&CONTAINS).contains(&"digits"),
            shorter_than: length(&SHORTER_THAN),
            longer_than: length(&LONGER_THAN),
            all: settings.get(&MATCH) == Some("all"),
        };
        if !conditions.tags.is_empty() && !settings.is_tagged() {
            return Err(SettingsError::key(&TAGS.facts, format!("`tags` {NEEDS_TAGS}")));
        }
        if !conditions.features.is_empty() {
            needs_english_forms(settings)?;
        }
        for label in settings.get(&LABELS) {
            let bit = settings.label_bit(label).ok_or_else(|| {
                let known: Vec<String> = settings.labels().iter().map(|label| format!("`{label}`")).collect();
                let known = if known.is_empty() { "none".to_owned() } else { known.join(", ") };
                let why = format!("no step before gives the label `{label}`; there are: {known}");
                SettingsError::key(&LABELS.facts, why)
            })?;
            conditions.labels |= bit;
        }
        for list in settings.get(&LISTS) {
            conditions.take(&list.name, &list.words);
        }
        conditions.take("words", settings.get(&WORDS));
        if let Some(pattern) = settings.get(&MATCHES) {
            let whole = format!("^(?:{pattern})$");
            conditions.pattern = Some(Regex::new(&whole).map_err(|fault| {
                let why = format!("`matches` is not a regular expression: {fault}");
                SettingsError::key(&MATCHES.facts, why)
            })?);
        }
        if let Some(sort) = settings.get(&DICTIONARY_WORDS) {
            let speller = match settings.get(&DICTIONARY) {
                Some(files) => Speller::dictionary(files)?,
                None => match settings.language() {
                    None | Some("en") => Speller::English(english()),
                    Some(other) => {
                        let why = format!("`dictionary_words` needs `dictionary` for the language `{other}`");
                        return Err(SettingsError::key(&DICTIONARY_WORDS.facts, why));
                    }
                },
            };
            conditions.speller = Some((speller, sort == "known"));
        }
        let says_nothing = conditions.kinds.is_empty()
            && conditions.tags.is_empty()
            && conditions.features.is_empty()
            && conditions.labels == 0
            && settings.get(&LISTS).is_empty()
            && conditions.words.is_empty()
            && conditions.pattern.is_none()
            && conditions.speller.is_none()
            && !conditions.digits
            && conditions.shorter_than.is_none()
            && conditions.longer_than.is_none();
        if says_nothing {
            let any = [
                &KINDS.facts,
                &TAGS.facts,
                &FEATURES.facts,
                &LABELS.facts,
                &LISTS.facts,
                &WORDS.facts,
                &MATCHES.facts,
                &DICTIONARY_WORDS.facts,
                &CONTAINS.facts,
                &SHORTER_THAN.facts,
                &LONGER_THAN.facts,
            ];
            return Err(SettingsError::needs_one_of(&any));
        }
        Ok(conditions)
    }

    fn take(&mut self, list: &str, words: &[String]) {
        let number = self.lists.len() as u16;
        self.lists.push(list.to_owned());
        for word in words {
            self.entries.push(Entry { word: word.clone(), list: list.to_owned() });
            let compared = if self.exact { word.clone() } else { word.to_lowercase() };
            self.words.entry(compared).or_insert(number);
        }
    }

    fn listed(&self, token: &str) -> Option<u16> {
        if self.words.is_empty() {
            return None;
        }
        if self.exact { self.words.get(token) } else { self.words.get(token.to_lowercase().as_str()) }
            .copied()
    }

    /// The number of the first condition that the form meets; where all must be met, of the first, if it meets every one.
    fn met(&self, form: &Form<'_>) -> Option<u16> {
        let is_digit = |c| matches!(unicode::category(c), Category::Digit | Category::OtherNumber);
        let length = || form.text.chars().count();
        let spelled = |(speller, known): &(Speller, bool)| {
            form.kind == Kind::Word && speller.knows(form.text) == *known
        };
        let labels = form.mark.labels() & self.labels;
        let labelled = if self.all { labels == self.labels } else { labels != 0 };
        let kind = || self.kinds.contains(&form.kind).then_some(form.kind as u16);
        let tag = || form.mark.tag().filter(|tag| self.tags.contains(tag)).map(|tag| TAGGED + tag as u16);
        let feature = || {
            let features = english_features(form.text, form.mark.tag()?);
            let met = self.features.iter().position(|(feature, _)| features.have(*feature))?;
            Some(FEATURED + met as u16)
        };
        let list = || self.listed(form.text).map(|list| LISTED + list);
        // Each condition: whether it was written, and the reason if it is met.
        let conditions: [(bool, &dyn Fn() -> Option<u16>); 10] = [
            (!self.kinds.is_empty(), &kind),
            (!self.tags.is_empty(), &tag),
            (!self.features.is_empty(), &feature),
            (self.labels != 0, &|| labelled.then_some(LABEL)),
            (!self.words.is_empty(), &list),
            (self.pattern.is_some(), &|| {
                self.pattern.as_ref().is_some_and(|pattern| pattern.is_match(form.text)).then_some(PATTERN)
            }),
            (self.speller.is_some(), &|| self.speller.as_ref().is_some_and(spelled).then_some(SPELLING)),
            (self.digits, &|| form.text.chars().any(is_digit).then_some(DIGITS)),
            (self.shorter_than.is_some(), &|| {
                self.shorter_than.is_some_and(|least| length() < least).then_some(SHORT)
            }),
            (self.longer_than.is_some(), &|| {
                self.longer_than.is_some_and(|most| length() > most).then_some(LONG)
            }),
        ];
        let mut written = conditions.iter().filter(|(written, _)| *written).map(|(_, met)| met);
        if !self.all {
            return written.find_map(|met| met());
        }
        let first = written.next()?()?;
        written.all(|met| met().is_some()).then_some(first)
    }

    fn reason(&self, number: u16) -> String {
        let characters = |n: Option<usize>| match n {
            Some(1) => "1 character".to_owned(),
            n => format!("{} characters", n.unwrap_or(0)),
        };
        match number {
            DIGITS => "contains digits".to_owned(),
            SHORT => format!("shorter than {}", characters(self.shorter_than)),
            LONG => format!("longer than {}", characters(self.longer_than)),
            PATTERN => "matches the pattern".to_owned(),
            SPELLING if self.speller.as_ref().is_some_and(|(_, known)| *known) => {
                "in the dictionary".to_owned()
            }
            SPELLING => "not in the dictionary".to_owned(),
            LABEL => {
                format!("labelled {}", self.label_names.join(if self.all { " and " } else { " or " }))
            }
            list if list >= LISTED => {
                format!("listed ({})", self.lists.get(usize::from(list - LISTED)).map_or("", String::as_str))
            }
            tag if tag > TAGGED => Tag::numbered((tag - TAGGED) as u8).map_or("", Tag::name).to_owned(),
            feature if feature >= FEATURED => {
                self.features.get(usize::from(feature - FEATURED)).map_or("", |(_, name)| name).to_owned()
            }
            kind => Kind::ALL.get(usize::from(kind)).map_or("", |kind| kind.name()).to_owned(),
        }
    }
}

/// What a condition needs that asks for parts of speech.
const NEEDS_TAGS: &str = "need a step before that gives parts of speech: `do = \"tag\"`";

/// Features are told by the endings of English words, given their part of speech.
fn needs_english_forms(settings: &Settings) -> Result<(), SettingsError> {
    if !settings.is_tagged() {
        return Err(SettingsError::key(&FEATURES.facts, format!("`features` {NEEDS_TAGS}")));
    }
    if settings.is_reduced() {
        let why = "a step before takes the endings off that tell `features`: put this step before it";
        return Err(SettingsError::key(&FEATURES.facts, why));
    }
    match settings.language() {
        None | Some("en") => Ok(()),
        Some(other) => {
            let why = format!("`features` are known of English words alone, not of `{other}`");
            Err(SettingsError::key(&FEATURES.facts, why))
        }
    }
}

impl Facts for Drop {
    fn drops_kinds(&self) -> &[Kind] {
        &self.0.kinds
    }

    fn has_case_rule(&self) -> bool {
        true
    }

    fn reason(&self, number: u16) -> String {
        self.0.reason(number)
    }

    fn entries(&self) -> &[Entry] {
        &self.0.entries
    }

    fn lists(&self, token: &str) -> bool {
        self.0.listed(token).is_some()
    }
}

impl TokenStep for Drop {
    fn apply(&self, form: &Form<'_>) -> Outcome {
        self.0.met(form).map_or(Outcome::Keep, Outcome::Drop)
    }
}

impl Facts for Keep {
    fn has_case_rule(&self) -> bool {
        true
    }

    fn reason(&self, number: u16) -> String {
        if number == NONE && self.0.all {
            "not all of what is kept".to_owned()
        } else if number == NONE {
            "none of what is kept".to_owned()
        } else {
            self.0.reason(number)
        }
    }

    fn entries(&self) -> &[Entry] {
        &self.0.entries
    }

    fn lists(&self, token: &str) -> bool {
        self.0.listed(token).is_some()
    }
}

impl TokenStep for Keep {
    fn apply(&self, form: &Form<'_>) -> Outcome {
        match self.0.met(form) {
            Some(_) => Outcome::Keep,
            None if self.0.all => Outcome::Drop(NONE),
            // What was dropped is told by what it is, where kinds or parts of speech were asked for.
            None if !self.0.kinds.is_empty() => Outcome::Drop(form.kind as u16),
            None if !self.0.tags.is_empty() => {
                Outcome::Drop(form.mark.tag().map_or(NONE, |tag| TAGGED + tag as u16))
            }
            None => Outcome::Drop(NONE),
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::run::TokenFate;
    use crate::step::NoFields;
    use crate::testing;

    #[test]
    fn numbers_are_dropped_whole_or_wherever_digits_stand() {
        let text = "7 -3,000.5 B12 3rd 12:30 nest";
        let split = "[[step]]\ndo = \"split\"\ninto = \"spaces\"\n[[step]]\ndo = \"drop\"\n";
        assert_eq!(testing::clean(&format!("{split}kinds = [\"number\"]"), text), "B12 3rd 12:30 nest");
        assert_eq!(testing::clean(&format!("{split}contains = [\"digits\"]"), text), "nest");
    }

    #[test]
    fn lengths_are_counted_in_characters() {
        let split = "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"drop\"\n";
        assert_eq!(testing::clean(&format!("{split}shorter_than = 3"), "åå ööö été né"), "ööö été");
        assert_eq!(testing::clean(&format!("{split}longer_than = 2"), "åå ööö été né"), "åå né");
    }

    #[test]
    fn lists_patterns_and_the_dictionary_decide() {
        let step = |keys: &str| format!("[[step]]\ndo = \"{keys}\n");
        assert_eq!(testing::clean(&step("keep\"\nwords = [\"tern\", \"gull\"]"), "A Tern and gulls"), "Tern");
        assert_eq!(testing::clean(&step("drop\"\nmatches = \"g.*s\""), "gulls gas egg"), "egg");
        assert_eq!(
            testing::clean(&step("drop\"\ndictionary_words = \"unknown\""), "gulls xqzt nesting 7"),
            "gulls nesting 7"
        );
        assert_eq!(
            testing::clean(&step("keep\"\ndictionary_words = \"known\""), "gulls xqzt nesting"),
            "gulls nesting"
        );
    }

    #[test]
    fn lists_can_be_compared_to_the_letter_and_reasons_are_told() {
        let exact = "[[step]]\ndo = \"drop\"\nwords = [\"Tern\"]\ncase = \"exact\"\n";
        assert_eq!(testing::clean(exact, "Tern tern TERN"), "tern TERN");
        let reasons = |step: &str, text: &str| -> Vec<String> {
            let pipeline = testing::pipeline(&format!("[[step]]\ndo = \"tag\"\n[[step]]\n{step}\n"));
            let trace = pipeline.trace(text, &NoFields);
            let fates = trace.token_steps[1].tokens.iter();
            fates
                .filter_map(|(_, _, fate)| match fate {
                    TokenFate::Dropped(why) => Some(why.clone()),
                    _ => None,
                })
                .collect()
        };
        assert_eq!(
            reasons("do = \"drop\"\ntags = [\"NOUN\", \"verb\"]", "The terns nested."),
            ["noun", "verb"]
        );
        assert_eq!(
            reasons("do = \"keep\"\ntags = [\"noun\"]", "The terns nested."),
            ["determiner", "verb", "punctuation"]
        );
        assert_eq!(reasons("do = \"keep\"\nkinds = [\"number\"]", "Five 5 !"), ["word", "punctuation"]);
        for (step, reason) in [
            ("words = [\"tern\"]", "listed (words)"),
            ("matches = \"t.*\"", "matches the pattern"),
            ("dictionary_words = \"known\"", "in the dictionary"),
            ("shorter_than = 5", "shorter than 5 characters"),
            ("shorter_than = 1\nlonger_than = 1", "longer than 1 character"),
        ] {
            assert_eq!(reasons(&format!("do = \"drop\"\n{step}"), "tern"), [reason], "{step}");
        }
        assert_eq!(reasons("do = \"drop\"\ncontains = [\"digits\"]", "B12"), ["contains digits"]);
        assert_eq!(reasons("do = \"keep\"\nmatches = \"g.*\"", "tern"), ["none of what is kept"]);
    }

    #[test]
    fn all_conditions_can_be_asked_for() {
        let label = "[[step]]\ndo = \"label\"\nname = \"bird\"\nadd = [\"tern\", \"gull\"]\n\
                     [[step]]\ndo = \"label\"\nname = \"seen\"\nadd = [\"tern\", \"nest\"]\n[[step]]\ndo = ";
        let clean = |step: &str| testing::clean(&format!("{label}{step}\n"), "tern gull nest Tern");
        assert_eq!(clean("\"drop\"\nlabels = [\"bird\", \"seen\"]\nmatch = \"all\""), "gull nest");
        assert_eq!(clean("\"keep\"\nlabels = [\"bird\", \"seen\"]\nmatch = \"all\""), "tern Tern");
        assert_eq!(
            clean("\"drop\"\nlabels = [\"bird\"]\nmatches = \"t.*\"\nmatch = \"all\""),
            "gull nest Tern"
        );
        assert_eq!(clean("\"drop\"\nlabels = [\"bird\"]\nmatches = \"n.*\""), "");
        assert_eq!(clean("\"drop\"\nshorter_than = 5\nspare = { labels = [\"bird\"] }"), "tern gull Tern");
        assert_eq!(
            clean("\"drop\"\nshorter_than = 5\nspare = { labels = [\"bird\", \"seen\"], match = \"all\" }"),
            "tern Tern"
        );
    }

    #[test]
    fn parts_of_speech_are_kept_by_name_or_code() {
        let recipe = "[[step]]\ndo = \"tag\"\n[[step]]\ndo = \"keep\"\ntags = [\"noun\", \"VERB\"]\n";
        assert_eq!(
            testing::clean(recipe, "The wardens quickly counted five old nests."),
            "wardens counted nests"
        );
    }

    #[test]
    fn features_are_kept_where_the_form_tells_them_for_certain() {
        let tag = "[[step]]\ndo = \"tag\"\n[[step]]\ndo = ";
        let clean = |step: &str| testing::clean(&format!("{tag}{step}\n"), "The mice saw older traps.");
        assert_eq!(clean("\"keep\"\nfeatures = [\"Number=Plur\"]"), "mice traps");
        assert_eq!(clean("\"keep\"\nfeatures = [\"Tense=Past\", \"Degree=Cmp\"]"), "saw older");
        assert_eq!(clean("\"drop\"\nfeatures = [\"Number=Plur\"]\ntags = [\"PUNCT\"]"), "The saw older");
        let walked = |value: &str| {
            let step = format!("{tag}\"keep\"\nfeatures = [\"{value}\"]\n");
            testing::clean(&step, "They walked home.")
        };
        assert_eq!((walked("Tense=Past").as_str(), walked("VerbForm=Part").as_str()), ("walked", ""));
        let pipeline = testing::pipeline(&format!("{tag}\"drop\"\nfeatures = [\"Number=Plur\"]\n"));
        let trace = pipeline.trace("Terns nest.", &NoFields);
        let fates = trace.token_steps[1].tokens.iter();
        let reasons: Vec<&str> = fates
            .filter_map(|(_, _, fate)| match fate {
                TokenFate::Dropped(why) => Some(why.as_str()),
                _ => None,
            })
            .collect();
        assert_eq!(reasons, ["Number=Plur"]);
    }

    #[test]
    fn features_need_tags_english_and_words_with_their_endings() {
        let refused = |recipe: &str| {
            let recipe = crate::recipe::read(recipe).expect("a recipe");
            let faults = crate::Pipeline::compile(&recipe, &crate::NoFiles).err().unwrap_or_default();
            faults.into_iter().map(|fault| fault.title).collect::<String>()
        };
        let keep = "[[step]]\ndo = \"keep\"\nfeatures = [\"Number=Plur\"]\n";
        let tag = "[[step]]\ndo = \"tag\"\n";
        let lemma = "[[step]]\ndo = \"lemma\"\n";
        for (recipe, why) in [
            (keep.to_owned(), "gives parts of speech"),
            (format!("{tag}{lemma}{keep}"), "takes the endings off"),
        ] {
            let faults = refused(&recipe);
            assert!(faults.contains(why), "{recipe}: {faults}");
        }
        assert_eq!(refused(&format!("{tag}{keep}{lemma}")), "");
    }
}
