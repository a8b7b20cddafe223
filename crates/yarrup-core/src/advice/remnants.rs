//! Terms that look like remnants.

use crate::advice::{Advice, Collected, Fix, Reviewed, SHOWN};
use crate::kind::Kind;
use crate::numbers::grouped;
use crate::recipe::codes::REMNANTS;

const LINK_PARTS: &[&str] =
    &["http", "https", "www", "com", "org", "html", "htm", "php", "href", "src", "utm"];

const ENTITY_NAMES: &[&str] = &[
    "amp", "nbsp", "quot", "lt", "gt", "apos", "ndash", "mdash", "rsquo", "lsquo", "ldquo", "rdquo",
    "hellip", "br",
];

/// Neither `m` nor `d`: units and dates have them.
const TAILS: &[&str] = &["s", "t", "ll", "ve", "re", "n't", "'s", "'ll", "'re", "'ve", "'d", "'m"];

/// A text that leaves parts of links wherever nothing is done about them.
const LINKS: &str = "see https://www.terns.example.org/nests.html or http://gulls.example.com/a.php";

/// A sort of remnants among the terms.
pub(crate) struct Remnants<'a> {
    /// What they are called.
    pub(crate) name: &'static str,
    /// What to do about them.
    pub(crate) fix: Fix,
    /// The terms, each with its tokens, the commonest first.
    pub(crate) terms: Vec<(&'a str, u64)>,
}

impl Remnants<'_> {
    /// How many tokens they are.
    pub(crate) fn tokens(&self) -> u64 {
        self.terms.iter().map(|(_, count)| count).sum()
    }

    /// The commonest, with their tokens.
    pub(crate) fn examples(&self) -> String {
        let shown: Vec<String> = self
            .terms
            .iter()
            .take(SHOWN)
            .map(|(term, count)| format!("`{term}` {}", grouped(*count)))
            .collect();
        format!("{}{}", shown.join(", "), if self.terms.len() > SHOWN { ", …" } else { "" })
    }
}

pub(super) fn advise(at: &Reviewed<'_>, collected: &Collected<'_>) -> Vec<Advice> {
    let found = find(at, collected);
    if found.is_empty() {
        return Vec::new();
    }
    let all: u64 = found.iter().map(Remnants::tokens).sum();
    let mut advice = at.advice(
        &REMNANTS,
        at.pipeline.split,
        format!("{} kept tokens look like remnants", grouped(all)),
        "they are terms without a meaning",
    );
    for remnants in found {
        advice.because.push(format!("{}: {}", remnants.name, remnants.examples()));
        advice.fixes.push(remnants.fix);
    }
    vec![advice]
}

/// The sorts of remnants that are worth a word.
pub(super) fn find<'a>(at: &Reviewed<'_>, collected: &Collected<'a>) -> Vec<Remnants<'a>> {
    if !at.pipeline.makes_words() {
        return Vec::new();
    }
    let into = at.into();
    // In other languages a single letter may be a word: `y`, `à`; in any, a unit.
    let is_english = at.recipe.language.as_deref().is_some_and(|tag| tag.starts_with("en"));
    let sort = |name, told, step| Remnants { name, fix: Fix::step(told, step), terms: Vec::new() };
    let mut sorts = [
        sort(
            "ends of contractions",
            "expand contractions before the split, or keep apostrophes",
            "[[step]]\ndo = \"contractions\"",
        ),
        sort("single letters", "drop them", "[[step]]\ndo = \"drop\"\nshorter_than = 2"),
        sort(
            "parts of links",
            "mask links before the split",
            "[[step]]\ndo = \"mask\"\nkinds = [\"url\", \"email\"]",
        ),
        sort("names of entities", "decode them before the split", "[[step]]\ndo = \"markup\""),
        sort(
            "lone marks",
            "drop them after the split",
            "[[step]]\ndo = \"drop\"\nkinds = [\"punctuation\", \"symbol\"]",
        ),
    ];
    // Where the recipe sees to links, `html` is a word that somebody wrote: `the HTML of the page`.
    let is_link_part = |term: &str| LINK_PARTS.contains(&term.to_lowercase().as_str());
    let clean = at.pipeline.trace_up_to(LINKS, at.pipeline.full_variant(), usize::MAX).clean;
    let leaves_links = clean.split_whitespace().any(is_link_part);
    for term in collected.vocabulary {
        let lower = term.text.to_lowercase();
        let kind = term.kind();
        // They are tails in English: French has a `t` of its own (`a-t-il`).
        let sort = if is_english && TAILS.contains(&lower.as_str()) && into != "clitics" {
            0
        } else if is_english
            && kind == Kind::Word
            && term.text.is_ascii()
            && term.text.len() == 1
            && !matches!(lower.as_str(), "i" | "a" | "m" | "g" | "h" | "l")
        {
            1
        } else if leaves_links && is_link_part(&lower) {
            2
        } else if ENTITY_NAMES.contains(&lower.as_str()) {
            3
        } else if matches!(kind, Kind::Punctuation | Kind::Symbol) {
            4
        } else {
            continue;
        };
        sorts[sort].terms.push((term.text, term.count));
    }
    let total = collected.account.totals.tokens_kept.max(1);
    // A few letters in a large collection are names of things; marks that are kept on purpose are all of the commonest.
    let is_told = |remnants: &Remnants<'_>| remnants.tokens() >= 3 && remnants.tokens() * 2000 >= total;
    sorts.into_iter().filter(is_told).collect()
}
