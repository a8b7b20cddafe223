//! Entries of word lists, pushed through the steps that stand before their own.

use crate::advice::samples::text_before;
use crate::advice::{Advice, Change, Fix, Reviewed};
use crate::pipeline::{Pipeline, StepName};
use crate::recipe::codes::UNREACHABLE_ENTRIES;
use crate::step::{Entry, Role, Stage};
use crate::unicode;
use crate::words;
use std::collections::BTreeMap;

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

/// Entries of word lists that can never match: each is pushed through the steps before its own, as a document of its own for which
/// every condition holds. Cost: one trace for each entry.
pub(super) fn advise(at: &Reviewed<'_>) -> Vec<Advice> {
    let pipeline = at.pipeline;
    let clitics = at.into() == "clitics";
    let mut found = Vec::new();
    for stage in &pipeline.text {
        let entries = stage.runs.entries().iter().map(|entry| {
            let arrived = text_before(pipeline, &entry.word, stage.step);
            let verdict = match arrived == entry.word || stage.matches(&arrived) {
                true => Verdict::Reachable,
                false => Verdict::Unreachable(text_arrival(pipeline, &entry.word, stage.step, &arrived)),
            };
            EntryAdvice { entry: entry.clone(), verdict }
        });
        found.extend(advice_on(at, stage.step, stage.runs.entries().len(), entries.collect()));
    }
    for stage in &pipeline.tokens {
        let listed = stage.facts().entries();
        let entries = listed.iter().map(|entry| {
            let listed = |tokens: &[String]| {
                !tokens.is_empty() && tokens.iter().all(|token| stage.facts().lists(token))
            };
            let verdict = match arrival(pipeline, &entry.word, stage.step, listed) {
                _ if stage.spares(&entry.word) || is_tail(&entry.word) || is_pronoun(entry) => {
                    Verdict::Reachable
                }
                // `l'` is a token only before a word that it is elided before.
                _ if clitics && entry.word.ends_with(unicode::is_apostrophe) => Verdict::Reachable,
                None => Verdict::Reachable,
                Some(arrival) => match arrival.tokens.as_slice() {
                    [one] if same_match(stage, one, &entry.word) => Verdict::Reachable,
                    [] => Verdict::Covered(arrival),
                    // `can't` is parted on purpose; that its tail is on the list is what counts.
                    [_, tails @ ..]
                        if clitics && entry.word.contains(unicode::is_apostrophe) && listed(tails) =>
                    {
                        Verdict::Covered(arrival)
                    }
                    // The tail was dropped on purpose behind such a split, and the head stands for itself.
                    [head] if clitics && is_head(head, &entry.word) => Verdict::Covered(arrival),
                    // What is written out on purpose meets the list word by word.
                    _ if written_out(at, &entry.word, stage.step) => Verdict::Covered(arrival),
                    // An abbreviation without its stop, which other splits leave to it.
                    [head, stop] if stop == "." && stage.facts().lists(head) => Verdict::Covered(arrival),
                    tokens if listed(tokens) => Verdict::Covered(arrival),
                    _ => Verdict::Unreachable(arrival),
                },
            };
            EntryAdvice { entry: entry.clone(), verdict }
        });
        // Of an entry of several words nothing whole arrives: its first or its last word is dropped on the way.
        let lost = stage.facts().lost_entries();
        let of_several = lost.iter().filter_map(|entry| {
            let arrival = arrival(pipeline, &entry.word, stage.step, |tokens| tokens.len() > 1)?;
            Some(EntryAdvice { entry: entry.clone(), verdict: Verdict::Unreachable(arrival) })
        });
        let entries = entries.chain(of_several).collect();
        found.extend(advice_on(at, stage.step, listed.len() + lost.len(), entries));
    }
    for stage in &pipeline.tokens {
        found.extend(spared(at, stage));
    }
    found
}

/// Words that a token step is to spare but that never arrive as they are written.
fn spared(at: &Reviewed<'_>, stage: &crate::pipeline::TokenStage) -> Option<Advice> {
    let words = &at.step(stage.step)?.spare.words;
    let lost: Vec<(&String, Arrival)> = words
        .iter()
        .filter_map(|word| {
            Some((
                word,
                arrival(at.pipeline, word, stage.step, |tokens| tokens.iter().all(|one| stage.spares(one)))?,
            ))
        })
        .filter(|(_, arrival)| matches!(arrival.tokens.as_slice(), [one] if !stage.spares(one)))
        .collect();
    let (word, first) = lost.first()?;
    let culprit = &at.pipeline.steps()[first.step - 1];
    let what = format!("{} of {} spared words can never occur here", lost.len(), words.len());
    let mut advice = at.advice(
        &UNREACHABLE_ENTRIES,
        stage.step,
        what,
        "what should be spared arrives in another form and is not spared",
    );
    let named = format!("step {} (`{}`)", culprit.number, culprit.operation);
    advice.because = vec![format!("because of {named}: `{word}` {}", arrives_as(&first.tokens))];
    let listed: Vec<String> = lost.iter().map(|(word, _)| format!("{word:?}")).collect();
    advice.fixes = vec![Fix::by_hand(format!(
        "spare them in {named} too: `spare = [{}]`, or at the top of the recipe for all steps",
        listed.join(", ")
    ))];
    Some(advice)
}

/// Whether a token is what stands before the tail of a contracted form.
fn is_head(token: &str, entry: &str) -> bool {
    entry.contains(unicode::is_apostrophe) && entry.strip_prefix(token).is_some_and(is_tail)
}

/// Whether an entry is the tail of contracted forms, which only a split into `clitics` makes a token of.
fn is_tail(word: &str) -> bool {
    word.starts_with(unicode::is_apostrophe) || matches!(word, "n't" | "n\u{2019}t")
}

/// Whether an entry is a pronoun behind a verb as our own lists have it, `-je` of `puis-je`: it waits for a split into `clitics` as well.
fn is_pronoun(entry: &Entry) -> bool {
    entry.word.starts_with('-') && words::stop_list_names().any(|name| name == entry.list)
}

/// Whether a step before `end` writes contracted forms out, this word among them.
fn written_out(at: &Reviewed<'_>, word: &str, end: usize) -> bool {
    let mut before = at.pipeline.text.iter().filter(|stage| stage.step < end);
    // `'s` and `'d` are written out by what follows them.
    let follows = [format!("{word} been"), format!("{word} you")];
    before.any(|stage| {
        at.plays(stage.step, Role::WritesOut)
            && (stage.matches(word) || follows.iter().any(|text| stage.matches(text)))
    })
}

/// The advice on the entries of one step, if any is lost.
fn advice_on(at: &Reviewed<'_>, step: usize, all: usize, mut entries: Vec<EntryAdvice>) -> Option<Advice> {
    entries.retain(|advice| advice.verdict != Verdict::Reachable);
    let lost: Vec<_> = entries
        .iter()
        .filter_map(|advice| match &advice.verdict {
            Verdict::Unreachable(arrival) => Some((&advice.entry, arrival)),
            _ => None,
        })
        .collect();
    if lost.is_empty() {
        return None;
    }
    let name = &at.pipeline.steps()[step];
    let mut culprits: BTreeMap<usize, Vec<(&Entry, &Arrival)>> = BTreeMap::new();
    for (entry, arrival) in &lost {
        culprits.entry(arrival.step).or_default().push((*entry, *arrival));
    }
    let word = if all == 1 { "entry" } else { "entries" };
    let because: Vec<String> = culprits.values().map(|lost| because(lost)).collect();
    let fixes: Vec<Fix> = culprits.values().map(|lost| fix(at, lost, name)).collect();
    let what = format!("{} of {all} {word} can never match here", lost.len());
    let why = "words that the list should catch arrive in another form and stay in the text";
    let mut advice = at.advice(&UNREACHABLE_ENTRIES, step, what, why);
    (advice.because, advice.fixes, advice.entries) = (because, fixes, entries);
    Some(advice)
}

/// How a text arrives before a text step, and which step first changed it.
fn text_arrival(pipeline: &Pipeline, text: &str, before: usize, arrived: &str) -> Arrival {
    let first = (0..before).find(|&step| text_before(pipeline, text, step + 1) != text).unwrap_or(0);
    let name = &pipeline.steps()[first];
    Arrival { tokens: vec![arrived.trim().to_owned()], step: name.number, operation: name.operation }
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
fn fix(at: &Reviewed<'_>, lost: &[(&Entry, &Arrival)], list: &StepName) -> Fix {
    let (_, arrival) = lost[0];
    let culprit = &at.pipeline.steps()[arrival.step - 1];
    let named = format!("step {} (`{}`)", culprit.number, culprit.operation);
    let move_before = || {
        let told = format!("move step {} (`{}`) before {named}", list.number, list.operation);
        Fix::change(told, Some(Change::MoveBefore { step: list.number, before: culprit.number }))
    };
    match culprit.stage {
        Stage::Token | Stage::Collection => move_before(),
        // `l'`, `celui-ci`: that split has both as lists do.
        Stage::Split
            if at.into() != "clitics"
                && lost.iter().all(|(entry, _)| {
                    entry.word.contains(|c| unicode::is_apostrophe(c) || unicode::is_hyphen(c))
                }) =>
        {
            Fix::by_hand(format!("split into `clitics` in {named}, which parts words as these entries are"))
        }
        Stage::Split => Fix::by_hand("write these entries as the split parts them, or split into `spaces`"),
        Stage::Text | Stage::TextOrToken if list.stage == Stage::Text => move_before(),
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
                return Fix::by_hand(format!("remove {named}, or write these entries as they arrive"));
            }
            let marks: Vec<String> = marks.iter().map(|mark| format!("{:?}", mark.to_string())).collect();
            let value = format!("[{}]", marks.join(", "));
            let told = format!("add `spare = {value}` to {named}");
            Fix::change(told, Some(Change::Set { step: culprit.number, keys: vec![("spare", value)] }))
        }
    }
}

fn same_match(stage: &crate::pipeline::TokenStage, arrived: &str, entry: &str) -> bool {
    // A list that ignores letter case matches an entry that arrives in another case.
    stage.facts().lists(arrived) && arrived.to_lowercase() == entry.to_lowercase()
}

/// `arrives as …`, in words.
fn arrives_as(tokens: &[String]) -> String {
    match tokens {
        [] => "never arrives".to_owned(),
        tokens => {
            let quoted: Vec<_> = tokens.iter().map(|token| format!("`{token}`")).collect();
            format!("arrives as {}", quoted.join(" + "))
        }
    }
}

/// The shape in which a word arrives before the step with this index; none if it arrives as it is.
fn arrival(
    pipeline: &Pipeline,
    word: &str,
    before: usize,
    fits: impl Fn(&[String]) -> bool,
) -> Option<Arrival> {
    let arriving = |end: usize| -> Vec<String> {
        let trace = pipeline.trace_up_to(word, pipeline.full_variant(), end);
        match trace.token_steps.last() {
            _ if end <= pipeline.split => {
                vec![trace.text_steps.last().map_or_else(|| word.to_owned(), |step| step.text.clone())]
            }
            None => trace.tokens.into_iter().map(|token| token.form).collect(),
            Some(_) => trace.clean.split([' ', '\n']).filter(|t| !t.is_empty()).map(str::to_owned).collect(),
        }
    };
    let tokens = arriving(before);
    if tokens == [word] {
        return None;
    }
    // A step that gives it another shape which the list holds as well is not at fault.
    let spoils = |step: &usize| {
        let tokens = arriving(step + 1);
        tokens != [word] && !fits(&tokens)
    };
    let first = (0..before).find(spoils).unwrap_or(before.saturating_sub(1));
    let name = &pipeline.steps()[first];
    Some(Arrival { tokens, step: name.number, operation: name.operation })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::advice::check;
    use crate::recipe::read;
    use crate::testing;

    /// The advice on entries alone.
    fn advice(text: &str) -> Vec<Advice> {
        let recipe = read(text).expect("no mistakes");
        let mut found = check(&recipe, &testing::pipeline(text));
        found.retain(|advice| advice.code == "unreachable-entries");
        found
    }

    #[test]
    fn a_step_that_leaves_a_listed_shape_is_not_at_fault() {
        let text = "[[step]]\ndo = \"unicode\"\n[[step]]\ndo = \"erase\"\nclasses = [\"punctuation\"]\nto = \"nothing\"\n\
                    [[step]]\ndo = \"stopwords\"\nadd = [\"don\u{2019}t\", \"don't\"]\n";
        assert_eq!(
            advice(text)[0].because,
            ["2 because of step 2 (`erase`): `don\u{2019}t` arrives as `dont`"]
        );
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
    fn every_entry_of_the_lists_that_come_along_can_match() {
        for list in words::STOP_LISTS {
            for into in ["words", "clitics"] {
                let text = format!(
                    "language = \"{0}\"\n[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\ninto = \"{into}\"\n[[step]]\ndo = \"stopwords\"\nlists = [\"{1}\"]\n",
                    list.language, list.name
                );
                let found = advice(&text);
                // Words that are elided or have hyphens ask for the other split, which parts words as they are listed.
                let asks_for_other = |advice: &Advice| advice.fixes[0].told.contains("split into `clitics`");
                assert!(found.iter().all(asks_for_other), "{} {into}: {found:?}", list.name);
                assert!(into == "words" || found.is_empty(), "{}: {found:?}", list.name);
            }
        }
    }

    #[test]
    fn elided_words_ask_for_the_split_that_parts_them() {
        let recipe = |into: &str| {
            format!(
                "language = \"fr\"\n[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\ninto = \"{into}\"\n[[step]]\ndo = \"stopwords\"\nlists = [\"fr\"]\n"
            )
        };
        let found = advice(&recipe("words"));
        assert!(found[0].fixes[0].told.contains("split into `clitics`"), "{found:?}");
        assert_eq!(advice(&recipe("clitics")), []);
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
        assert!(found[0].what.contains("1 of 1 entry"));
        assert_eq!(
            found[0].because,
            ["1 because of step 1 (`split`): `nest-box` arrives as `nest` + `-` + `box`"]
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
            found[0].fixes.iter().map(|fix| fix.told.as_str()).collect::<Vec<_>>(),
            ["add `spare = [\"'\"]` to step 1 (`erase`)", "move step 4 (`stopwords`) before step 3 (`stem`)"]
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
