//! What a collection shows of a recipe: computed from the account of a run.

use crate::account::{Account, FormFate};
use crate::advice::{Advice, At, Change, Fix};
use crate::kind::Kind;
use crate::pipeline::Pipeline;
use crate::recipe::Recipe;
use crate::steps::text::JOINED;
use crate::words;

/// How many documents are in a language.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct LanguageShare {
    /// The language, as a tag of two or three letters.
    pub language: String,
    /// How many documents.
    pub documents: u64,
}

/// How many of the commonest terms are looked at for stop words.
const TOP: usize = 100;
/// How many examples a piece of advice shows.
const SHOWN: usize = 5;

/// What the account of a run says of the recipe, beyond what [`super::check`] tells. `languages` are those of the documents, as far as they
/// could be told.
pub fn check_account(
    recipe: &Recipe,
    pipeline: &Pipeline,
    account: &Account,
    languages: &[LanguageShare],
) -> Vec<Advice> {
    let at = At { recipe, pipeline };
    let mut found = Vec::new();
    if account.totals.documents == 0 {
        return found;
    }
    found.extend(no_effect(&at, account));
    found.extend(documents_emptied(&at, account));
    found.extend(joined_words(&at, account));
    if !pipeline.is_text_recipe() && pipeline.splitter.parts_words() {
        found.extend(remnants(&at, account));
        found.extend(stopwords_left(&at, account));
        found.extend(case_variants(&at, account));
    }
    found.extend(other_language(&at, languages));
    found.extend(negation_dropped(&at, account));
    at.allowed(found)
}

fn no_effect(at: &At<'_>, account: &Account) -> Vec<Advice> {
    let steps = at.pipeline.steps();
    let idle =
        account.effects().into_iter().filter(|effect| effect.step > 0 && effect.documents_touched == Some(0));
    idle.filter_map(|effect| {
        let index = steps.iter().position(|name| name.number == effect.step)?;
        // What a condition keeps away from every document is not idle by its nature.
        let conditional = at.step(index).is_some_and(|step| step.only.is_some());
        let why = if conditional {
            "no document meets its `only`, or it has nothing to do in those that do"
        } else {
            "a step that does nothing costs time and hides what matters"
        };
        let mut advice = at.advice(
            "no-effect",
            index,
            format!("`{}` changes nothing in this collection", effect.operation),
            why,
        );
        advice.fixes = vec![Fix::told(
            "take it out, unless other collections need it: `allow = [\"no-effect\"]` says so",
        )];
        Some(advice)
    })
    .collect()
}

fn joined_words(at: &At<'_>, account: &Account) -> Vec<Advice> {
    let joined = account
        .matches()
        .into_iter()
        .filter(|row| row.operation == "erase" && row.sort == JOINED && row.count > 0);
    joined
        .filter_map(|row| {
            let index = at.pipeline.steps().iter().position(|name| name.number == row.step)?;
            let what = format!(
                "erasing marks to nothing joined words in {} places, in {} documents",
                row.count, row.documents
            );
            let mut advice = at.advice("joined-words", index, what, "the joined words are words of nobody");
            let shown: Vec<String> = row.examples.iter().map(|example| format!("`{example}`")).collect();
            advice.because = vec![format!("such as {}", shown.join(", "))];
            advice.fixes = vec![Fix::change(
                "put a space in their place, and leave apostrophes inside words",
                Some(Change::Set {
                    step: row.step,
                    keys: vec![("to", "\"space\"".into()), ("inside_words", "[\"apostrophes\"]".into())],
                }),
            )];
            Some(advice)
        })
        .collect()
}

fn documents_emptied(at: &At<'_>, account: &Account) -> Option<Advice> {
    let totals = account.totals;
    let emptied = totals.emptied;
    if emptied == 0 {
        return None;
    }
    // The step that drops most is the first to look at.
    let effects = account.effects();
    let most = effects
        .iter()
        .filter(|effect| effect.tokens_dropped > Some(0))
        .max_by_key(|effect| effect.tokens_dropped)?;
    let index = at.pipeline.steps().iter().position(|name| name.number == most.step)?;
    let what = format!("{emptied} of {} documents are left without any token", totals.documents);
    let mut advice = at.advice(
        "documents-emptied",
        index,
        what,
        "what is empty counts for nothing in any table made from the result",
    );
    advice.because = vec![format!("this step drops most: {} tokens", most.tokens_dropped.unwrap_or(0))];
    advice.fixes = vec![Fix::told(
        "look at one of them with `yarrup try … --from … --document ID`; spare what they are made of, or let them go",
    )];
    Some(advice)
}

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

fn remnants(at: &At<'_>, account: &Account) -> Option<Advice> {
    let into = at.step(at.pipeline.split).and_then(|step| step.settings.choice("into")).unwrap_or("words");
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
    for term in account.vocabulary() {
        let lower = term.text.to_lowercase();
        let kind = term.kind();
        let sort = if TAILS.contains(&lower.as_str()) && into != "clitics" {
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
    let total = account.totals.tokens_kept.max(1);
    // A few letters in a large collection are names of things; marks that are kept on purpose are all of the commonest.
    let counts = |terms: &[(&str, u64)]| terms.iter().map(|(_, count)| count).sum::<u64>();
    let told: Vec<&Sort<'_>> =
        sorts.iter().filter(|(_, _, terms)| counts(terms) >= 3 && counts(terms) * 2000 >= total).collect();
    if told.is_empty() {
        return None;
    }
    let all: u64 = told.iter().map(|(_, _, terms)| counts(terms)).sum();
    let mut advice = at.advice(
        "remnants",
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

fn stopwords_left(at: &At<'_>, account: &Account) -> Option<Advice> {
    let (index, step) = at
        .pipeline
        .tokens
        .iter()
        .filter_map(|stage| Some((stage.step, at.step(stage.step)?)))
        .find(|(_, step)| step.operation.name == "stopwords" && step.only.is_none())?;
    let language =
        at.recipe.language.as_deref().map(|tag| tag.split('-').next().unwrap_or(tag)).unwrap_or("en");
    let list = words::stop_list(language)?;
    let spared = |word: &str| {
        step.spare.words.iter().chain(&at.recipe.spare.words).any(|spare| spare.eq_ignore_ascii_case(word))
    };
    let left: Vec<(&str, u64)> = account
        .vocabulary()
        .into_iter()
        .take(TOP)
        .filter(|term| list.iter().any(|word| word == &term.text.to_lowercase()) && !spared(term.text))
        .map(|term| (term.text, term.count))
        .collect();
    if left.is_empty() {
        return None;
    }
    let shown: Vec<String> =
        left.iter().take(SHOWN).map(|(term, count)| format!("`{term}` {count}")).collect();
    let what = format!("{} of the {TOP} commonest terms are function words all the same", left.len());
    let mut advice = at.advice("stopwords-left", index, what, "the stop list was to take them out");
    advice.because = vec![shown.join(", ")];
    let uses_shelf = step.settings.references().any(|reference| reference.name == language);
    advice.fixes = vec![match uses_shelf {
        true => Fix::told(
            "a step behind the list makes them anew (a stem, a change of case): move the list behind it, or `add` the words",
        ),
        false => {
            let words: Vec<String> =
                left.iter().map(|(term, _)| format!("{:?}", term.to_lowercase())).collect();
            let has_add = step.settings.has("add");
            let change = (!has_add).then(|| Change::Set {
                step: at.pipeline.steps()[index].number,
                keys: vec![("add", format!("[{}]", words.join(", ")))],
            });
            Fix::change(
                "add them to the list, or use the list on the shelf besides",
                change.filter(|_| left.len() <= 20),
            )
        }
    }];
    Some(advice)
}

fn case_variants(at: &At<'_>, account: &Account) -> Option<Advice> {
    if at.pipeline.steps().iter().any(|name| name.operation == "case") {
        return None;
    }
    let mut by_lower: std::collections::HashMap<String, (u64, u64)> = std::collections::HashMap::new();
    for term in account.vocabulary() {
        let lower = term.text.to_lowercase();
        let (small, other) = by_lower.entry(lower).or_default();
        if term.text.chars().any(char::is_uppercase) { *other += term.count } else { *small += term.count }
    }
    let mut pairs: Vec<(u64, String)> = by_lower
        .into_iter()
        .filter(|(_, (small, other))| *small > 0 && *other > 0)
        .map(|(word, (small, other))| (small.min(other), word))
        .collect();
    let tokens: u64 = pairs.iter().map(|(count, _)| count).sum();
    if pairs.len() < 5 || tokens * 100 < account.totals.tokens_kept {
        return None;
    }
    pairs.sort_by(|a, b| b.0.cmp(&a.0).then_with(|| a.1.cmp(&b.1)));
    let shown: Vec<String> = pairs.iter().take(SHOWN).map(|(_, word)| format!("`{word}`")).collect();
    let what = format!("{} words stand in the vocabulary in two letter cases", pairs.len());
    let mut advice = at.advice(
        "case-variants",
        at.pipeline.split,
        what,
        "each counts as two terms, and neither count is right",
    );
    advice.because = vec![format!("the commonest: {}", shown.join(", "))];
    advice.fixes = vec![Fix::told(
        "add a step `do = \"case\"`, with `spare_acronyms = true` where `US` and `us` are to stay apart",
    )];
    Some(advice)
}

fn other_language(at: &At<'_>, languages: &[LanguageShare]) -> Option<Advice> {
    let language = at.recipe.language.as_deref()?;
    let primary = language.split('-').next().unwrap_or(language);
    let all: u64 = languages.iter().map(|share| share.documents).sum();
    let others: Vec<&LanguageShare> = languages.iter().filter(|share| share.language != primary).collect();
    let count: u64 = others.iter().map(|share| share.documents).sum();
    if count * 50 < all || count == 0 {
        return None;
    }
    let shown: Vec<String> =
        others.iter().take(SHOWN).map(|share| format!("`{}` {}", share.language, share.documents)).collect();
    // It is the first step that knows a language that goes wrong.
    let index = at
        .pipeline
        .steps()
        .iter()
        .position(|name| matches!(name.operation, "stopwords" | "stem" | "contractions" | "lemma"))
        .unwrap_or(at.pipeline.split);
    if at.step(index).is_some_and(|step| step.only.is_some()) {
        return None;
    }
    let what = format!("{count} of {all} documents whose language can be told are not in `{language}`");
    let mut advice =
        at.advice("other-language", index, what, "lists and rules of one language do harm in another");
    advice.because = vec![shown.join(", ")];
    advice.fixes = vec![Fix::told(
        "read only documents in the language (`--where`), or say with `only = { language = \"…\" }` on which documents a step works",
    )];
    Some(advice)
}

/// Words of negation, in the languages of the shelf's lists.
const NEGATION: &[&str] = &[
    "not", "no", "never", "nor", "none", "nothing", "nobody", "neither", "don't", "didn't", "isn't",
    "wasn't", "can't", "won't", "nicht", "kein", "pas", "ne", "nunca",
];

fn negation_dropped(at: &At<'_>, account: &Account) -> Option<Advice> {
    let mut dropped: Vec<(&str, u64)> = Vec::new();
    let mut at_step = None;
    for form in account.forms() {
        if let FormFate::Dropped { step, .. } = form.fate
            && NEGATION.contains(&form.text.to_lowercase().as_str())
            && at.pipeline.steps()[step - 1].operation == "stopwords"
        {
            dropped.push((form.text, form.count));
            at_step.get_or_insert(step);
        }
    }
    let index = at.pipeline.steps().iter().position(|name| Some(name.number) == at_step)?;
    let count: u64 = dropped.iter().map(|(_, count)| count).sum();
    let shown: Vec<String> =
        dropped.iter().take(SHOWN).map(|(word, count)| format!("`{word}` {count}")).collect();
    let mut advice = at.advice(
        "negation-dropped",
        index,
        format!("{count} words of negation are dropped"),
        "`not good` and `good` are the same behind this step: fine for topics, wrong for opinions",
    );
    advice.because = vec![shown.join(", ")];
    // Who spares one of them has thought of it.
    if at
        .step(index)
        .is_some_and(|step| step.spare.words.iter().any(|word| NEGATION.contains(&word.as_str())))
    {
        return None;
    }
    // Whether negation matters is for the author to say: nothing is written without being asked for.
    let told = "`spare = [\"not\", \"no\", \"never\", \"nor\"]` keeps them where they matter; `allow = [\"negation-dropped\"]` says that they do not";
    advice.fixes = vec![Fix::told(told)];
    Some(advice)
}
