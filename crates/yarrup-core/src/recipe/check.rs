//! The advice on a recipe: what is computed from the recipe alone.

use std::collections::BTreeMap;
use std::ops::Range;

use super::{Recipe, Stage};
use crate::pipeline::{Pipeline, StepName};
use crate::token::Entry;

/// A sort of advice.
#[derive(Clone, Copy, Debug)]
pub struct Code {
    /// Its name, which does not change.
    pub name: &'static str,
    /// What it means, in one sentence.
    pub about: &'static str,
}

/// Every sort of advice that [`check`] gives.
pub static CODES: &[Code] = &[Code { name: "unreachable-entries", about: "entries of a word list that can never match" }];

/// What becomes of an entry of a word list on its way to the step that compares tokens with it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Verdict {
    /// It arrives as it is written, so it can match.
    Reachable,
    /// It arrives in another shape, but that shape stands in the list as well: nothing is missed.
    Covered(Arrival),
    /// It can never match.
    Unreachable(Arrival),
}

/// The shape in which an entry arrives, and the step that gave it another.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Arrival {
    /// The tokens that arrive in the entry's place; none if it is dropped on the way.
    pub tokens: Vec<String>,
    /// The number of the first step behind which the entry is not what was written.
    pub step: usize,
    /// The operation of that step.
    pub operation: &'static str,
}

/// An entry of a word list with its verdict.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct EntryAdvice {
    /// The entry.
    pub entry: Entry,
    /// Whether it can match.
    pub verdict: Verdict,
}

/// Advice on one step of a recipe.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Advice {
    /// A name for this kind of advice that does not change.
    pub code: &'static str,
    /// The step's number.
    pub step: usize,
    /// Where the step's `do` stands in the recipe.
    pub span: Range<usize>,
    /// What was found, in one sentence.
    pub what: String,
    /// Which steps cause it, a sentence for each, with an example.
    pub because: Vec<String>,
    /// Why it matters, in one sentence.
    pub why: String,
    /// The changes to make, one for each cause.
    pub fixes: Vec<String>,
    /// Every entry of the step's lists that does not arrive as it is written.
    pub entries: Vec<EntryAdvice>,
}

/// What may be wrong with a recipe that has no mistakes: entries of word lists that can never match.
///
/// Each entry is pushed through the steps before its own, as a document of its own for which every condition holds.
/// Cost: one trace for each entry.
pub fn check(recipe: &Recipe, pipeline: &Pipeline) -> Vec<Advice> {
    let mut found = Vec::new();
    for stage in &pipeline.tokens {
        let listed = stage.runs.entries();
        let entries: Vec<EntryAdvice> = listed
            .iter()
            .map(|entry| {
                let verdict = match arrival(pipeline, &entry.word, stage.step) {
                    _ if stage.spares(&entry.word) => Verdict::Reachable,
                    None => Verdict::Reachable,
                    Some(arrival) => match arrival.tokens.as_slice() {
                        [one] if same_match(stage, one, &entry.word) => Verdict::Reachable,
                        [] => Verdict::Covered(arrival),
                        tokens if tokens.iter().all(|token| stage.runs.lists(token)) => {
                            Verdict::Covered(arrival)
                        }
                        _ => Verdict::Unreachable(arrival),
                    },
                };
                EntryAdvice { entry: entry.clone(), verdict }
            })
            .filter(|advice| advice.verdict != Verdict::Reachable)
            .collect();
        let lost: Vec<_> = entries
            .iter()
            .filter_map(|advice| match &advice.verdict {
                Verdict::Unreachable(arrival) => Some((&advice.entry, arrival)),
                _ => None,
            })
            .collect();
        if lost.is_empty() {
            continue;
        }
        let name = &pipeline.steps()[stage.step];
        let span = recipe
            .steps
            .iter()
            .filter(|step| step.operation.name == name.operation)
            .nth(same_operation_before(pipeline, stage.step))
            .map_or(0..0, |step| step.span.clone());
        let mut culprits: BTreeMap<usize, Vec<(&Entry, &Arrival)>> = BTreeMap::new();
        for (entry, arrival) in &lost {
            culprits.entry(arrival.step).or_default().push((*entry, *arrival));
        }
        let entries_word = if listed.len() == 1 { "entry" } else { "entries" };
        let because: Vec<String> = culprits.values().map(|lost| because(lost)).collect();
        let fixes: Vec<String> = culprits.values().map(|lost| fix(lost, name, pipeline)).collect();
        found.push(Advice {
            code: "unreachable-entries",
            step: name.number,
            span,
            what: format!("{} of {} {entries_word} can never match here", lost.len(), listed.len()),
            because,
            why: "tokens that the list means to catch arrive in another shape and stay in".to_owned(),
            fixes,
            entries,
        });
    }
    found
}

/// Why these entries are lost, all by the same step.
fn because(lost: &[(&Entry, &Arrival)]) -> String {
    let (entry, arrival) = lost[0];
    format!(
        "{} because of step {} (`{}`): `{}` {}",
        lost.len(),
        arrival.step,
        arrival.operation,
        entry.word,
        arrives_as(&arrival.tokens)
    )
}

/// What to do about the step that loses these entries.
fn fix(lost: &[(&Entry, &Arrival)], list: &StepName, pipeline: &Pipeline) -> String {
    let (_, arrival) = lost[0];
    let culprit = &pipeline.steps()[arrival.step - 1];
    let named = format!("step {} (`{}`)", culprit.number, culprit.operation);
    match culprit.stage {
        Stage::Token => format!("move step {} (`{}`) to a place before {named}", list.number, list.operation),
        Stage::Split => "write these entries as the split parts them, or split into `spaces`".to_owned(),
        Stage::Text | Stage::TextOrToken => {
            let mut marks: Vec<char> = lost
                .iter()
                .flat_map(|(entry, arrival)| {
                    entry.word.chars().filter(|c| !arrival.tokens.iter().any(|token| token.contains(*c)))
                })
                .filter(|c| !c.is_alphanumeric())
                .collect();
            marks.sort_unstable();
            marks.dedup();
            if marks.is_empty() || marks.len() > 6 {
                format!("take {named} out, or write these entries as they arrive")
            } else {
                let marks: Vec<String> = marks.iter().map(|mark| format!("{:?}", mark.to_string())).collect();
                format!("add `spare = [{}]` to {named}", marks.join(", "))
            }
        }
    }
}

/// How many steps of the same operation stand before this one.
fn same_operation_before(pipeline: &Pipeline, index: usize) -> usize {
    let name = pipeline.steps()[index].operation;
    pipeline.steps()[..index].iter().filter(|step| step.operation == name && !step.put_in).count()
}

fn same_match(stage: &crate::pipeline::TokenStage, arrived: &str, entry: &str) -> bool {
    // A list that ignores letter case matches an entry that arrives in another case.
    stage.runs.lists(arrived) && arrived.to_lowercase() == entry.to_lowercase()
}

/// `arrives as …`, in words.
pub(crate) fn arrives_as(tokens: &[String]) -> String {
    match tokens {
        [] => "never arrives".to_owned(),
        tokens => {
            let quoted: Vec<_> = tokens.iter().map(|token| format!("`{token}`")).collect();
            format!("arrives as {}", quoted.join(" + "))
        }
    }
}

/// The shape in which a word arrives before the step with this index; none if it arrives as it is.
fn arrival(pipeline: &Pipeline, word: &str, before: usize) -> Option<Arrival> {
    let arriving = |end: usize| -> Vec<String> {
        let trace = pipeline.trace_up_to(word, pipeline.full_variant(), end);
        match trace.token_steps.last() {
            _ if end <= pipeline.split => {
                vec![trace.text_steps.last().map_or_else(|| word.to_owned(), |step| step.text.clone())]
            }
            None => trace.tokens.into_iter().map(|token| token.form).collect(),
            Some(_) => trace.clean.split(' ').filter(|t| !t.is_empty()).map(str::to_owned).collect(),
        }
    };
    let tokens = arriving(before);
    if tokens == [word] {
        return None;
    }
    let first = (0..before).find(|&step| arriving(step + 1) != [word]).unwrap_or(before.saturating_sub(1));
    let name = &pipeline.steps()[first];
    Some(Arrival { tokens, step: name.number, operation: name.operation })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::recipe::{read, testing};

    fn advice(text: &str) -> Vec<Advice> {
        let recipe = read(text).expect("no mistakes");
        check(&recipe, &testing::pipeline(text))
    }

    const STOP: &str = "[[step]]\ndo = \"stopwords\"\nadd = [\"don't\", \"the\", \"nests\"]\n";

    #[test]
    fn a_good_order_gets_no_advice() {
        let text =
            format!("[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\n{STOP}[[step]]\ndo = \"stem\"\n");
        assert_eq!(advice(&text), []);
        let full = "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\n[[step]]\ndo = \"stopwords\"\nlists = [\"en\"]\n";
        assert_eq!(advice(full), []);
    }

    #[test]
    fn erased_apostrophes_and_stems_make_entries_unreachable() {
        let erased =
            format!("[[step]]\ndo = \"erase\"\nclasses = [\"punctuation\"]\nto = \"nothing\"\n{STOP}");
        let found = advice(&erased);
        assert_eq!(found[0].step, 3);
        assert_eq!(found[0].what, "1 of 3 entries can never match here");
        assert_eq!(found[0].because, ["1 because of step 1 (`erase`): `don't` arrives as `dont`"]);
        let stemmed = format!("[[step]]\ndo = \"stem\"\n{STOP}");
        let found = advice(&stemmed);
        assert_eq!(found[0].because, ["1 because of step 2 (`stem`): `nests` arrives as `nest`"]);
        let upper = format!("[[step]]\ndo = \"case\"\nto = \"upper\"\n{STOP}case = \"exact\"\n");
        assert!(advice(&upper)[0].what.starts_with("3 of 3 entries"));
        let folded = format!("[[step]]\ndo = \"case\"\nto = \"upper\"\n{STOP}");
        assert_eq!(advice(&folded), []);
    }

    #[test]
    fn entries_that_are_split_are_told() {
        let text =
            "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"stopwords\"\nadd = [\"nest-box\", \"new york\"]\n";
        let found = advice(text);
        assert!(found[0].what.contains("2 of 2 entries"));
        assert_eq!(
            found[0].because,
            ["2 because of step 1 (`split`): `nest-box` arrives as `nest` + `-` + `box`"]
        );
    }

    #[test]
    fn each_culprit_is_named_with_what_to_do() {
        let text = format!(
            "[[step]]\ndo = \"erase\"\nclasses = [\"punctuation\"]\nto = \"nothing\"\n[[step]]\ndo = \"stem\"\n{STOP}"
        );
        let found = advice(&text);
        assert_eq!(
            found[0].because,
            [
                "1 because of step 1 (`erase`): `don't` arrives as `dont`",
                "1 because of step 3 (`stem`): `nests` arrives as `nest`"
            ]
        );
        assert_eq!(
            found[0].fixes,
            [
                "add `spare = [\"'\"]` to step 1 (`erase`)",
                "move step 4 (`stopwords`) to a place before step 3 (`stem`)"
            ]
        );
        let mended = text.replace("to = \"nothing\"", "to = \"nothing\"\nspare = [\"'\"]").replace(
            &format!("[[step]]\ndo = \"stem\"\n{STOP}"),
            &format!("{STOP}[[step]]\ndo = \"stem\"\n"),
        );
        assert_eq!(advice(&mended), [], "{mended}");
    }

    #[test]
    fn what_arrives_in_a_listed_shape_is_covered() {
        let text = "[[step]]\ndo = \"erase\"\nclasses = [\"punctuation\"]\nto = \"nothing\"\n[[step]]\ndo = \"stopwords\"\n\
                    add = [\"don't\", \"dont\"]\n";
        assert_eq!(advice(text), []);
    }
}
