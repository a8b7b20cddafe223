use std::ops::Range;
use std::sync::Arc;

use hashbrown::HashMap;
use regex::Regex;

use crate::kind::{Kind, KindSet, placeholder_end, recognise};
use crate::pattern::compiled_pattern;
use crate::step::{
    Built, Evidence, Facts, Key, Learner, Learns, Operation, Rewriter, Role, Settings, SettingsError, Stage,
    TextStep,
};
use crate::steps::text::pseudonyms::{Pseudonyms, value_hash};
use crate::value::{STREET, hits_of_patterns, street_patterns};

/// The kinds that can be masked: all that the recogniser finds, and streets.
const KINDS: &[&str] = &[
    "url",
    "email",
    "phone",
    "mention",
    "hashtag",
    "emoticon",
    "emoji",
    "date",
    "time",
    "money",
    "percentage",
    "measure",
    "number",
    "card",
    "account",
    "ip",
    "path",
    "version",
    "isbn",
    "mac",
    "uuid",
    "coordinates",
    STREET,
];

const KINDS_KEY: Key<Vec<&'static str>> = Key::some_of(
    "kinds",
    KINDS,
    "what to mask (see the section on kinds); `card`, `account` and `isbn` only with valid check digits. `street`: street addresses with a number, found approximately by patterns for en de fr es pt it nl sv da no pl",
);

const PATTERNS: Key<Vec<(String, String)>> = Key::named(
    "patterns",
    "your own kinds: a name and a regular expression, `{ ticket = 'EQ-\\d+' }`; they are tried before the others",
);

const TO: Key<&'static str> = Key::one_of(
    "to",
    &["placeholder", "space", "nothing"],
    "what replaces them: the name of the kind in angle brackets (`<url>`), a space, or nothing",
)
.or("placeholder");

const MAP: Key<&'static str> = Key::one_of(
    "map",
    &["same", "numbered"],
    "`same`: all values of a kind get the same placeholder. `numbered`: each distinct value gets its own everywhere, such as `<email-17>`. Addresses that differ only in letter case are one value, and so are numbers that differ only in spaces. The numbers are learned from the collection; a new value becomes `<email>`",
)
.or("same");

const KNOWN: Key<Vec<(String, String)>> = Key::named(
    "known",
    "the numbers of values that were learned before, with one-way hashes of the values; with this key nothing is learned. `yarrup matches --key` lists the values",
);

pub(crate) static MASK: Operation = Operation {
    name: "mask",
    stage: Stage::Text,
    about: "finds links, addresses, personal numbers and other kinds, and replaces them with a placeholder, a space or nothing. Later steps leave a placeholder whole, and it is a token of its kind. If it runs twice, it may find more: a value that was removed can have hidden another one right next to it (`£5https://…`)",
    keys: &[&KINDS_KEY.facts, &PATTERNS.facts, &TO.facts, &MAP.facts, &KNOWN.facts],
    example: "kinds = [\"url\", \"email\"]\npatterns = { ticket = 'EQ-\\d+' }",
    roles: &[Role::Replaces],
    learns: Some(&Learns {
        key: &KNOWN.facts,
        names: ("pseudonym", "pseudonyms"),
        evidence: Evidence::Count,
    }),
    build: |settings| Ok(Built::Text(Box::new(Mask::new(settings)?))),
};

struct Mask {
    values: Arc<Values>,
    /// What is put in for each sort.
    instead: Vec<String>,
    placeholders: Vec<String>,
    /// The placeholders of values that have their own, by the hashes of the values. None where all of a sort have one.
    numbered: Option<HashMap<u128, String, foldhash::fast::FixedState>>,
    /// Whether the numbers are still to be learned.
    learns: bool,
}

/// Finds what is masked. Its sorts are own patterns first, then kinds.
struct Values {
    names: Arc<[String]>,
    kinds: Vec<Kind>,
    set: KindSet,
    /// The place of each kind among the sorts.
    sort_of: [usize; Kind::ALL.len()],
    /// Own patterns and those of streets, with their sorts.
    patterns: Vec<(usize, Regex)>,
}

impl Values {
    fn new(settings: &Settings) -> Result<Values, SettingsError> {
        let mut patterns = Vec::new();
        let mut names = Vec::new();
        for (name, written) in settings.get(&PATTERNS) {
            let plain =
                !name.is_empty() && name.chars().all(|c| c.is_alphanumeric() || matches!(c, '_' | '-'));
            if !plain {
                let why = format!("`{name}` cannot name a pattern: use letters, digits, `-` and `_`");
                return Err(SettingsError::key(&PATTERNS.facts, why));
            }
            let pattern = compiled_pattern(&format!("patterns.{name}"), written)
                .map_err(SettingsError::at(&PATTERNS.facts))?;
            if pattern.is_match("") {
                let why = format!("the pattern `{name}` matches nothing at all, everywhere: `{written}`");
                return Err(SettingsError::key(&PATTERNS.facts, why));
            }
            patterns.push((names.len(), pattern));
            names.push(name.clone());
        }
        let mut kinds = Vec::new();
        let mut sort_of = [usize::MAX; Kind::ALL.len()];
        for name in settings.get(&KINDS_KEY) {
            match Kind::named(name) {
                Some(kind) => {
                    sort_of[kind as usize] = names.len();
                    kinds.push(kind);
                }
                None => {
                    let streets = street_patterns(settings.language());
                    patterns.extend(streets.into_iter().map(|pattern| (names.len(), pattern)));
                }
            }
            names.push(name.to_string());
        }
        if names.is_empty() {
            return Err(SettingsError::needs_one_of(&[&KINDS_KEY.facts, &PATTERNS.facts]));
        }
        Ok(Values { set: KindSet::of(&kinds), kinds, names: names.into(), sort_of, patterns })
    }

    /// Every value with its sort, from left to right. A part of what a pattern took is no longer of its kind.
    fn each(&self, stretch: &str, found: &mut dyn FnMut(usize, Range<usize>)) {
        let own = hits_of_patterns(stretch, self.patterns.iter().map(|(sort, pattern)| (*sort, pattern)));
        let mut own = own.into_iter().peekable();
        if !self.set.is_empty() {
            let mut end = 0;
            recognise(stretch, |kind, hit| {
                if !self.set.has(kind) {
                    return;
                }
                while let Some((sort, earlier)) = own.next_if(|(_, own)| own.start < hit.end) {
                    end = earlier.end;
                    found(sort, earlier);
                }
                if hit.start >= end {
                    found(self.sort_of[kind as usize], hit);
                }
            });
        }
        own.for_each(|(sort, hit)| found(sort, hit));
    }
}

impl Mask {
    fn new(settings: &Settings) -> Result<Mask, SettingsError> {
        let values = Values::new(settings)?;
        let names = &values.names;
        let (placeholders, instead) = match settings.get(&TO) {
            Some("space") => (Vec::new(), vec![" ".to_owned(); names.len()]),
            Some("nothing") => (Vec::new(), vec![String::new(); names.len()]),
            _ => {
                let placeholders: Vec<String> = names.iter().map(|name| format!("<{name}>")).collect();
                (placeholders.clone(), placeholders)
            }
        };
        let is_numbered = settings.get(&MAP) == Some("numbered");
        if is_numbered && placeholders.is_empty() {
            let why = "`map = \"numbered\"` needs placeholders: leave `to` out";
            return Err(SettingsError::key(&MAP.facts, why));
        }
        let mut numbered = HashMap::default();
        for (hash, name) in settings.get(&KNOWN) {
            let read = u128::from_str_radix(hash, 16).map_err(|_| {
                format!("`{hash}` in `known` is not the hash of a value, which has 32 hexadecimal digits")
            })?;
            numbered.insert(read, format!("<{name}>"));
        }
        Ok(Mask {
            values: Arc::new(values),
            instead,
            placeholders,
            numbered: is_numbered.then_some(numbered),
            learns: is_numbered && !settings.has(&KNOWN.facts),
        })
    }

    /// What is put in for a value of a sort.
    fn instead(&self, sort: usize, value: &str) -> &str {
        let own = self.numbered.as_ref().filter(|numbered| !numbered.is_empty());
        let own = own.and_then(|numbered| numbered.get(&value_hash(&self.values.names[sort], value)));
        own.unwrap_or(&self.instead[sort])
    }
}

impl Facts for Mask {
    fn probes(&self) -> Vec<String> {
        self.values.kinds.iter().map(|&kind| Kind::SAMPLES[kind as usize].to_owned()).collect()
    }

    fn learner(&self) -> Option<Box<dyn Learner>> {
        let values = Arc::clone(&self.values);
        let placeholders = self.placeholders.clone();
        let values_of = move |text: &str, found: &mut dyn FnMut(usize, &str)| {
            values.each(text, &mut |sort, place| {
                let value = &text[place];
                if !is_placeholder(value, &placeholders[sort]) {
                    found(sort, value);
                }
            });
        };
        self.learns.then(|| -> Box<dyn Learner> {
            Box::new(Pseudonyms::new(Arc::clone(&self.values.names), Arc::new(values_of)))
        })
    }
}

/// Whether a value is a placeholder of its sort already.
fn is_placeholder(value: &str, placeholder: &str) -> bool {
    placeholder_end(value, 0, placeholder) == Some(value.len())
}

impl TextStep for Mask {
    fn sorts(&self) -> Vec<String> {
        self.values.names.to_vec()
    }

    fn placeholders(&self) -> Vec<String> {
        self.placeholders.clone()
    }

    fn has_pseudonyms(&self) -> bool {
        self.numbered.is_some() && !self.learns
    }

    fn placeholder_of(&self, sort: usize, value: &str) -> Option<String> {
        let numbered = self.numbered.as_ref()?;
        numbered.get(&value_hash(self.values.names.get(sort)?, value)).cloned()
    }

    fn rewrite(&self, text: &str, range: Range<usize>, out: &mut Rewriter<'_>) {
        let stretch = &text[range.clone()];
        self.values.each(stretch, &mut |sort, hit| {
            let value = &stretch[hit.clone()];
            // A placeholder is what it is.
            if self.placeholders.get(sort).is_some_and(|placeholder| is_placeholder(value, placeholder)) {
                return;
            }
            let place = range.start + hit.start..range.start + hit.end;
            out.replace_as(sort, place, self.instead(sort, value));
        });
    }
}

#[cfg(test)]
mod tests {
    use crate::testing;

    fn masked(settings: &str, text: &str) -> String {
        testing::clean(&format!("[[step]]\ndo = \"mask\"\n{settings}\n"), text)
    }

    #[test]
    fn kinds_and_own_patterns_are_masked() {
        let text =
            "See https://example.org/a, write warden@example.org, call +44 20 7946 0018 about EQ-17 (@mira).";
        assert_eq!(
            masked("kinds = [\"url\", \"email\", \"phone\"]\npatterns = { ticket = 'EQ-\\d+' }", text),
            "See <url>, write <email>, call <phone> about <ticket> (@mira)."
        );
        assert_eq!(masked("kinds = [\"url\"]\nto = \"nothing\"", "a https://example.org b"), "a  b");
        assert_eq!(masked("kinds = [\"mention\"]\nto = \"space\"", "hi @mira!"), "hi  !");
        assert_eq!(masked("patterns = { n = '\\d+', long = '\\d+-\\d+' }", "1-2 3"), "<long> <n>");
        assert_eq!(
            masked("kinds = [\"date\"]\npatterns = { year = '20\\d\\d' }", "2031-05-17 or 2031"),
            "<year>-05-17 or <year>"
        );
        assert_eq!(
            masked("kinds = [\"street\", \"number\"]", "3 terns at 12 Marsh Lane"),
            "<number> terns at <street>"
        );
        assert_eq!(
            masked("kinds = [\"card\", \"account\", \"ip\"]", "4111 1111 1111 1111, 192.0.2.1"),
            "<card>, <ip>"
        );
    }

    #[test]
    fn a_placeholder_stays_whole_and_is_a_token_of_its_kind() {
        let recipe = |last: &str| {
            format!(
                "[[step]]\ndo = \"mask\"\nkinds = [\"url\"]\npatterns = {{ ticket = 'EQ-\\d+' }}\n[[step]]\ndo = \"case\"\nto = \"upper\"\n\
                 [[step]]\ndo = \"erase\"\nclasses = [\"punctuation\", \"symbols\"]\n[[step]]\ndo = \"split\"\n{last}"
            )
        };
        let text = "see https://example.org/x! (EQ-3)";
        assert_eq!(testing::clean(&recipe(""), text), "SEE <url> <ticket>");
        assert_eq!(
            testing::clean(&recipe("[[step]]\ndo = \"drop\"\nkinds = [\"url\"]\n"), text),
            "SEE <ticket>"
        );
    }
}
