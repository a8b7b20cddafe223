//! Terms that look like remnants.

use crate::advice::{Advice, Collected, Fix, Reviewed, SHOWN};
use crate::kind::Kind;
use crate::recipe::codes::REMNANTS;

const LINK_PARTS: &[&str] =
    &["http", "https", "www", "com", "org", "html", "htm", "php", "href", "src", "utm"];

const ENTITY_NAMES: &[&str] = &[
    "amp", "nbsp", "quot", "lt", "gt", "apos", "ndash", "mdash", "rsquo", "lsquo", "ldquo", "rdquo",
    "hellip", "br",
];

/// Neither `m` nor `d`: units and dates have them.
const TAILS: &[&str] = &["s", "t", "ll", "ve", "re", "n't", "'s", "'ll", "'re", "'ve", "'d", "'m"];

/// What a sort of remnants is called, what to do about it, and the terms that look like it.
type Sort<'a> = (&'static str, Fix, Vec<(&'a str, u64)>);

pub(super) fn advise(at: &Reviewed<'_>, collected: &Collected<'_>) -> Vec<Advice> {
    if !at.pipeline.is_text_recipe() && at.pipeline.splitter.parts_words() {
        found(at, collected).into_iter().collect()
    } else {
        Vec::new()
    }
}

fn found(at: &Reviewed<'_>, collected: &Collected<'_>) -> Option<Advice> {
    let into = at.into();
    // In other languages a single letter may be a word: `y`, `à`; in any, a unit.
    let is_english = at.recipe.language.as_deref().is_some_and(|tag| tag.starts_with("en"));
    let mut sorts: [Sort<'_>; 5] = [
        (
            "tails of contracted forms",
            Fix::step(
                "write contracted forms out before the split, or keep apostrophes",
                "[[step]]\ndo = \"contractions\"",
            ),
            Vec::new(),
        ),
        ("single letters", Fix::step("drop them", "[[step]]\ndo = \"drop\"\nshorter_than = 2"), Vec::new()),
        (
            "parts of links",
            Fix::step("mask links before the split", "[[step]]\ndo = \"mask\"\nkinds = [\"url\", \"email\"]"),
            Vec::new(),
        ),
        (
            "names of entities",
            Fix::step("decode them before the split", "[[step]]\ndo = \"markup\""),
            Vec::new(),
        ),
        (
            "lone marks",
            Fix::step(
                "drop them behind the split",
                "[[step]]\ndo = \"drop\"\nkinds = [\"punctuation\", \"symbol\"]",
            ),
            Vec::new(),
        ),
    ];
    for term in &collected.vocabulary {
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
        } else if LINK_PARTS.contains(&lower.as_str()) {
            2
        } else if ENTITY_NAMES.contains(&lower.as_str()) {
            3
        } else if matches!(kind, Kind::Punctuation | Kind::Symbol) {
            4
        } else {
            continue;
        };
        sorts[sort].2.push((term.text, term.count));
    }
    let total = collected.account.totals.tokens_kept.max(1);
    // A few letters in a large collection are names of things; marks that are kept on purpose are all of the commonest.
    let counts = |terms: &[(&str, u64)]| terms.iter().map(|(_, count)| count).sum::<u64>();
    let told: Vec<&Sort<'_>> =
        sorts.iter().filter(|(_, _, terms)| counts(terms) >= 3 && counts(terms) * 2000 >= total).collect();
    if told.is_empty() {
        return None;
    }
    let all: u64 = told.iter().map(|(_, _, terms)| counts(terms)).sum();
    let mut advice = at.advice(
        &REMNANTS,
        at.pipeline.split,
        format!("{all} tokens that were kept look like remnants"),
        "they stand among the terms and mean nothing",
    );
    for (name, cure, terms) in told {
        let shown: Vec<String> =
            terms.iter().take(SHOWN).map(|(term, count)| format!("`{term}` {count}")).collect();
        advice.because.push(format!(
            "{name}: {}{}",
            shown.join(", "),
            if terms.len() > SHOWN { ", …" } else { "" }
        ));
        advice.fixes.push(cure.clone());
    }
    Some(advice)
}
