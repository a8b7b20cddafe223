use std::ops::Range;

use regex::Regex;

use crate::kind::{Kind, KindSet, recognise};
use crate::pattern::compiled_pattern;
use crate::step::{Built, Facts, Key, Operation, Rewriter, Role, Settings, SettingsError, Stage, TextStep};

/// The kinds that can be masked: all that the recogniser finds.
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
];

const KINDS_KEY: Key<Vec<&'static str>> = Key::some_of(
    "kinds",
    KINDS,
    "what is masked (see the section on kinds); `card` and `account` only with valid check digits",
);

const PATTERNS: Key<Vec<(String, String)>> = Key::named(
    "patterns",
    "own kinds: a name and a regular expression, `{ ticket = 'EQ-\\d+' }`; they go before the others",
);

const TO: Key<&'static str> = Key::one_of(
    "to",
    &["placeholder", "space", "nothing"],
    "what stands in their place: the kind's name in angle brackets (`<url>`), a space, or nothing",
)
.or("placeholder");

pub(crate) static MASK: Operation = Operation {
    name: "mask",
    stage: Stage::Text,
    about: "finds links, addresses, numbers of persons and other kinds, and puts a placeholder, a space or nothing in their place. A \
            placeholder stays whole in the steps behind, and is a token of its kind. Done twice, it may find more: what it took out \
            stood in the way of what was written right beside it (`£5https://…`)",
    keys: &[&KINDS_KEY.facts, &PATTERNS.facts, &TO.facts],
    example: "kinds = [\"url\", \"email\"]\npatterns = { ticket = 'EQ-\\d+' }",
    roles: &[Role::Replaces],
    learns: None,
    build: |settings| Ok(Built::Text(Box::new(Mask::new(settings)?))),
};

struct Mask {
    kinds: Vec<Kind>,
    set: KindSet,
    /// The place of each kind among the sorts.
    sort_of: [usize; Kind::ALL.len()],
    patterns: Vec<Regex>,
    /// The names of the sorts: own patterns first, then kinds.
    names: Vec<String>,
    /// What is put in for each sort: own patterns first, then kinds.
    instead: Vec<String>,
    placeholders: Vec<String>,
}

impl Mask {
    fn new(settings: &Settings) -> Result<Mask, SettingsError> {
        let kinds: Vec<Kind> = settings.get(&KINDS_KEY).iter().filter_map(|name| Kind::named(name)).collect();
        let mut patterns = Vec::new();
        for (name, written) in settings.get(&PATTERNS) {
            let plain =
                !name.is_empty() && name.chars().all(|c| c.is_alphanumeric() || matches!(c, '_' | '-'));
            if !plain {
                return Err(format!(
                    "`{name}` is no name for a pattern: letters, digits, `-` and `_` make one"
                )
                .into());
            }
            let pattern = compiled_pattern(&format!("patterns.{name}"), written)?;
            if pattern.is_match("") {
                return Err(
                    format!("the pattern `{name}` matches nothing at all, everywhere: `{written}`").into()
                );
            }
            patterns.push((name.clone(), pattern));
        }
        if kinds.is_empty() && patterns.is_empty() {
            return Err(SettingsError::needs_one_of(&[&KINDS_KEY.facts, &PATTERNS.facts]));
        }
        let names: Vec<String> = patterns
            .iter()
            .map(|(name, _)| name.clone())
            .chain(kinds.iter().map(|kind| kind.name().to_owned()))
            .collect();
        let (placeholders, instead) = match settings.get(&TO) {
            Some("space") => (Vec::new(), vec![" ".to_owned(); names.len()]),
            Some("nothing") => (Vec::new(), vec![String::new(); names.len()]),
            _ => {
                let placeholders: Vec<String> = names.iter().map(|name| format!("<{name}>")).collect();
                (placeholders.clone(), placeholders)
            }
        };
        let mut sort_of = [usize::MAX; Kind::ALL.len()];
        for (place, &kind) in kinds.iter().enumerate() {
            sort_of[kind as usize] = patterns.len() + place;
        }
        let patterns = patterns.into_iter().map(|(_, pattern)| pattern).collect();
        Ok(Mask { set: KindSet::of(&kinds), kinds, names, sort_of, patterns, instead, placeholders })
    }

    /// What own patterns find, the leftmost and longest of each place, in order and apart.
    fn by_patterns(&self, stretch: &str) -> Vec<(usize, Range<usize>)> {
        let mut hits: Vec<(usize, Range<usize>)> = Vec::new();
        for (sort, pattern) in self.patterns.iter().enumerate() {
            hits.extend(
                pattern
                    .find_iter(stretch)
                    .map(|hit| (sort, hit.range()))
                    .filter(|(_, range)| !range.is_empty()),
            );
        }
        hits.sort_by_key(|(sort, range)| (range.start, std::cmp::Reverse(range.end), *sort));
        let mut end = 0;
        hits.retain(|(_, range)| {
            let apart = range.start >= end;
            if apart {
                end = range.end;
            }
            apart
        });
        hits
    }
}

impl Facts for Mask {
    fn probes(&self) -> Vec<String> {
        self.kinds.iter().map(|&kind| Kind::SAMPLES[kind as usize].to_owned()).collect()
    }
}

impl TextStep for Mask {
    fn sorts(&self) -> Vec<String> {
        self.names.clone()
    }

    fn placeholders(&self) -> Vec<String> {
        self.placeholders.clone()
    }

    fn rewrite(&self, text: &str, range: Range<usize>, out: &mut Rewriter<'_>) {
        let stretch = &text[range.clone()];
        let own = self.by_patterns(stretch);
        let mut own = own.into_iter().peekable();
        let mut put = |(sort, hit): (usize, Range<usize>)| {
            out.replace_as(sort, range.start + hit.start..range.start + hit.end, &self.instead[sort]);
        };
        if self.set.is_empty() {
            own.for_each(put);
            return;
        }
        let mut end = 0;
        recognise(stretch, |kind, hit| {
            if !self.set.has(kind) {
                return;
            }
            while let Some(earlier) = own.next_if(|(_, own)| own.start < hit.end) {
                end = earlier.1.end;
                put(earlier);
            }
            // What an own pattern took a part of is no longer what it was; a placeholder is what it is.
            let sort = self.sort_of[kind as usize];
            if hit.start >= end && stretch[hit.clone()] != self.instead[sort] {
                put((sort, hit));
            }
        });
        own.for_each(put);
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
