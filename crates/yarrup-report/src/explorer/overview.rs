//! The overview of a run: what went in, what came out, and which step did what.

use serde::Serialize;
use yarrup_core::step::Stage;
use yarrup_core::{Effect, Kind, Tag};

use super::Explored;
use super::tables::Shown;
use crate::numbers::{counted, grouped, percent};
use crate::terminal::{StepRow, visible_name};
use crate::views::{coverage, step_rows};

/// What is told of a run beside its account.
#[derive(Clone, Debug, Default)]
pub struct RunFacts {
    /// The version of the tool that made the run.
    pub yarrup: String,
    /// The recipe as written.
    pub recipe_text: String,
    /// The names of the sources.
    pub sources: Vec<String>,
    /// What went wrong or deserves a look.
    pub warnings: Vec<String>,
    /// The documents of which the steps left no token.
    pub emptied: DocumentsNamed,
    /// The documents that steps left out: by the step's place and the reason.
    pub left_out: Vec<(usize, String, DocumentsNamed)>,
    /// Why documents are not shown, where they are not.
    pub without_documents: Option<String>,
}

/// How many documents there are, and the ids of the first of them.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize)]
pub struct DocumentsNamed {
    /// How many.
    pub documents: u64,
    /// The ids of the first.
    pub ids: Vec<String>,
}

/// The overview.
#[derive(Debug, Serialize)]
pub(super) struct Overview {
    pub(super) yarrup: String,
    pub(super) recipe: RecipeValue,
    pub(super) sources: Vec<String>,
    pub(super) summary: Vec<String>,
    pub(super) totals: TotalsValue,
    pub(super) warnings: Vec<String>,
    pub(super) steps: Vec<StepValue>,
    pub(super) matches: Vec<MatchValue>,
    pub(super) emptied: DocumentsNamed,
    pub(super) left_out: Vec<LeftOutValue>,
    /// The names of kinds, of parts of speech (the first stands for none), and of labels, as tables number them.
    kinds: Vec<&'static str>,
    tags: Vec<&'static str>,
    labels: Vec<String>,
    /// Whether the recipe rewrites texts and does nothing to tokens.
    text_recipe: bool,
    pub(super) shown: ShownValue,
}

#[derive(Debug, Serialize)]
pub(super) struct RecipeValue {
    pub(super) name: String,
    pub(super) about: String,
    pub(super) text: String,
}

#[derive(Debug, Serialize)]
pub(super) struct TotalsValue {
    pub(super) documents: u64,
    pub(super) empty_as_found: u64,
    pub(super) characters: u64,
    pub(super) tokens_found: u64,
    pub(super) types_found: u64,
    pub(super) tokens_kept: u64,
    pub(super) terms: u64,
}

/// A step with what it did; a count that does not apply to it is none.
#[derive(Debug, Serialize)]
pub(super) struct StepValue {
    pub(super) step: usize,
    pub(super) name: String,
    tokens_in: Option<u64>,
    tokens_dropped: Option<u64>,
    tokens_joined: Option<u64>,
    tokens_added: Option<u64>,
    tokens_changed: Option<u64>,
    tokens_marked: Option<u64>,
    tokens_out: Option<u64>,
    types_out: Option<u64>,
    matches: Option<u64>,
    characters_in: Option<u64>,
    characters_out: Option<u64>,
    documents_touched: Option<u64>,
}

#[derive(Debug, Serialize)]
pub(super) struct MatchValue {
    pub(super) step: usize,
    pub(super) name: String,
    pub(super) sort: String,
    pub(super) count: u64,
    pub(super) documents: u64,
    pub(super) examples: Vec<String>,
}

#[derive(Debug, Serialize)]
pub(super) struct LeftOutValue {
    pub(super) step: usize,
    pub(super) name: String,
    pub(super) reason: String,
    #[serde(flatten)]
    pub(super) named: DocumentsNamed,
}

/// How much of the run is on the page.
#[derive(Debug, Serialize)]
pub(super) struct ShownValue {
    pub(super) terms: usize,
    pub(super) of_terms: usize,
    pub(super) others: usize,
    pub(super) of_others: usize,
    pub(super) documents: usize,
    pub(super) of_documents: u64,
    /// Documents of which the beginning alone is shown.
    pub(super) cut_documents: usize,
    /// Why there are no documents.
    pub(super) without_documents: Option<String>,
}

impl Overview {
    pub(super) fn of(explored: &Explored<'_>, shown: &Shown) -> Overview {
        let (account, facts) = (explored.account, explored.facts);
        let totals = &account.totals;
        let rows = step_rows(explored.effects);
        let name_of = |step: usize| rows.get(step).map(|row| row.name.clone()).unwrap_or_default();
        let match_row = |row: yarrup_core::MatchRow| MatchValue {
            name: name_of(row.step),
            step: row.step,
            sort: row.sort,
            count: row.count,
            documents: row.documents,
            examples: row.examples,
        };
        let left_out = |(step, reason, named): &(usize, String, DocumentsNamed)| LeftOutValue {
            step: *step,
            name: name_of(*step),
            reason: reason.clone(),
            named: named.clone(),
        };
        let documents = explored.documents.unwrap_or_default();
        Overview {
            yarrup: facts.yarrup.clone(),
            recipe: RecipeValue {
                name: account.origin.name.clone(),
                about: account.origin.about.clone(),
                text: facts.recipe_text.clone(),
            },
            sources: facts.sources.clone(),
            summary: summary(explored, &rows),
            totals: TotalsValue {
                documents: totals.documents,
                empty_as_found: totals.empty,
                characters: totals.characters,
                tokens_found: totals.tokens_found,
                types_found: account.types_found(),
                tokens_kept: totals.tokens_kept,
                terms: explored.vocabulary.len() as u64,
            },
            warnings: facts.warnings.clone(),
            steps: explored.effects.iter().map(|effect| step_value(effect, name_of(effect.step))).collect(),
            matches: account.matches().into_iter().map(match_row).collect(),
            emptied: facts.emptied.clone(),
            left_out: facts.left_out.iter().map(left_out).collect(),
            kinds: Kind::ALL.iter().map(|kind| kind.name()).collect(),
            tags: std::iter::once("").chain(Tag::ALL.map(Tag::name)).collect(),
            labels: account.labels.clone(),
            text_recipe: account
                .steps
                .iter()
                .all(|step| !step.stage.needs_tokens() && (step.stage == Stage::Text || step.put_in)),
            shown: ShownValue {
                terms: shown.term_count(),
                of_terms: shown.of_terms,
                others: shown.other_count(),
                of_others: shown.of_others,
                documents: documents.len(),
                of_documents: totals.documents - totals.dropped,
                cut_documents: documents.iter().filter(|document| document.cut > 0).count(),
                without_documents: facts.without_documents.clone(),
            },
        }
    }
}

fn step_value(effect: &Effect, name: String) -> StepValue {
    StepValue {
        step: effect.step,
        name,
        tokens_in: effect.tokens_in,
        tokens_dropped: effect.tokens_dropped,
        tokens_joined: effect.tokens_joined,
        tokens_added: effect.tokens_added,
        tokens_changed: effect.tokens_changed,
        tokens_marked: effect.tokens_marked,
        tokens_out: effect.tokens_out,
        types_out: effect.types_out,
        matches: effect.matches,
        characters_in: effect.characters_in,
        characters_out: effect.characters_out,
        documents_touched: effect.documents_touched,
    }
}

/// How many steps are named that took tokens out.
const NAMED_STEPS: usize = 2;
/// A step that took less than this share of the tokens is not named.
const LEAST_NAMED: f64 = 0.005;

/// The run in a few sentences.
fn summary(explored: &Explored<'_>, steps: &[StepRow]) -> Vec<String> {
    let (account, facts) = (explored.account, explored.facts);
    let totals = &account.totals;
    let (found, kept, terms) = (totals.tokens_found, totals.tokens_kept, explored.vocabulary.len() as u64);
    let mut told = vec![format!(
        "{} went in, with {} of {} distinct words.",
        counted(totals.documents, "document"),
        counted(found, "token"),
        grouped(account.types_found())
    )];
    told.push(tokens_out(explored.effects, steps, (found, kept)));
    if let Some(half) = coverage(explored.vocabulary).first().filter(|half| half.terms > 0 && terms > 1) {
        told.push(format!(
            "{} came out, of {}; the commonest {} of them make up half of the text.",
            counted(kept, "token"),
            counted(terms, "term"),
            grouped(half.terms)
        ));
    } else {
        told.push(format!("{} came out, of {}.", counted(kept, "token"), counted(terms, "term")));
    }
    let emptied = facts.emptied.documents;
    if emptied > 0 {
        told.push(format!("{} {} left without a token.", counted(emptied, "document"), was(emptied)));
    }
    if totals.dropped > 0 {
        told.push(format!(
            "{} {} left out by a step.",
            counted(totals.dropped, "document"),
            was(totals.dropped)
        ));
    }
    told
}

fn was(count: u64) -> &'static str {
    if count == 1 { "was" } else { "were" }
}

/// What share of the tokens was taken out, and by which steps mostly.
fn tokens_out(effects: &[Effect], rows: &[StepRow], (found, kept): (u64, u64)) -> String {
    if found == 0 {
        return "There was no token to take out.".to_owned();
    }
    let mut took: Vec<(u64, String)> = Vec::new();
    let mut made: Vec<(u64, String)> = Vec::new();
    for (effect, row) in effects.iter().zip(rows) {
        let n = |count: Option<u64>| count.unwrap_or(0);
        let (lost, gained) = (n(effect.tokens_dropped) + n(effect.tokens_joined), n(effect.tokens_added));
        let name = format!("step {}, {}", effect.step, visible_name(&row.name));
        if lost > gained {
            took.push((lost - gained, name));
        } else if gained > lost {
            made.push((gained - lost, name));
        }
    }
    // What text steps took is no token's loss: the split found fewer.
    let split = effects.iter().skip(1).find_map(|effect| effect.tokens_out).unwrap_or(found);
    let by_text = "the steps on the text".to_owned();
    if split < found {
        took.push((found - split, by_text));
    } else if split > found {
        made.push((split - found, by_text));
    }
    let named = |mut steps: Vec<(u64, String)>| {
        steps.sort_by_key(|(count, _)| std::cmp::Reverse(*count));
        let large = steps.iter().filter(|(count, _)| *count as f64 >= LEAST_NAMED * found as f64);
        let told: Vec<String> = large
            .take(NAMED_STEPS)
            .map(|(count, name)| format!("{name} ({} of all tokens)", percent(*count, found)))
            .collect();
        told.join(" and ")
    };
    if kept > found {
        let by = named(made);
        return format!(
            "There are {} more tokens than were found{}.",
            percent(kept - found, found),
            if by.is_empty() { String::new() } else { format!(", made mostly by {by}") }
        );
    }
    if kept == found && took.is_empty() {
        return "No token was taken out.".to_owned();
    }
    let (share, by) = (percent(found - kept, found), named(took));
    let by = if by.is_empty() { String::new() } else { format!(", mostly by {by}") };
    format!("{share} of the tokens {} taken out{by}.", was(found - kept))
}
