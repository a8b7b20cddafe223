//! Recipes side by side: which steps are the same, and what differs.

use serde::Serialize;

use crate::step::{KeyText, StepText};

/// How a step of one recipe stands to those of another.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum StepStatus {
    /// Both have it, in the same order among the steps that both have.
    Same,
    /// Both have it, in another order.
    Moved,
    /// Both have such a step, with other keys.
    Changed,
    /// Only the first has it.
    Removed,
    /// Only the second has it.
    Added,
}

/// A step of one recipe and that of the other which stands for it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct StepPair {
    /// How they stand to one another.
    pub status: StepStatus,
    /// The step's place in the first recipe, from 1.
    pub here: Option<usize>,
    /// Its place in the second.
    pub there: Option<usize>,
    /// Its operation.
    pub operation: &'static str,
    /// The keys that say something else; of a step that only one has, all that it says.
    pub keys: Vec<KeyChange>,
}

/// A key that says something else in another recipe.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct KeyChange {
    /// The key.
    pub name: String,
    /// What it says in the first recipe; none if it is not there.
    pub here: Option<String>,
    /// What it says in the second.
    pub there: Option<String>,
    /// Entries of lists that are only in the first, in the order of their bytes.
    pub entries_here: Vec<String>,
    /// Entries that are only in the second.
    pub entries_there: Vec<String>,
}

/// Sets the steps of two recipes side by side, in the order of the second, those that it has not got where the first has them.
pub fn align(here: &[StepText], there: &[StepText]) -> Vec<StepPair> {
    let mut partner_of: Vec<Option<(usize, StepStatus)>> = vec![None; there.len()];
    let mut is_paired = vec![false; here.len()];
    let mut pair = |ours: usize, theirs: usize, status: StepStatus, is_paired: &mut Vec<bool>| {
        partner_of[theirs] = Some((ours, status));
        is_paired[ours] = true;
    };
    let common = longest_common(here, there);
    for (ours, theirs) in &common {
        pair(*ours, *theirs, StepStatus::Same, &mut is_paired);
    }
    let mut open: Vec<usize> =
        (0..there.len()).filter(|theirs| !common.iter().any(|(_, other)| other == theirs)).collect();
    // What is the same but stands elsewhere comes before what is only of one sort.
    for (status, fits) in [
        (StepStatus::Moved, StepText::says_as as fn(&StepText, &StepText) -> bool),
        (StepStatus::Changed, |one, other| one.operation == other.operation),
    ] {
        open.retain(|theirs| {
            let ours = (0..here.len()).find(|ours| !is_paired[*ours] && fits(&here[*ours], &there[*theirs]));
            if let Some(ours) = ours {
                pair(ours, *theirs, status, &mut is_paired);
            }
            ours.is_none()
        });
    }
    let mut pairs = Vec::new();
    let mut next = 0;
    for (theirs, step) in there.iter().enumerate() {
        let partner = partner_of[theirs];
        if let Some((ours, StepStatus::Same | StepStatus::Changed)) = partner {
            pairs.extend((next..ours).filter(|ours| !is_paired[*ours]).map(|ours| removed(&here[ours])));
            next = next.max(ours + 1);
        }
        pairs.push(StepPair {
            status: partner.map_or(StepStatus::Added, |(_, status)| status),
            here: partner.map(|(ours, _)| here[ours].number),
            there: Some(step.number),
            operation: step.operation,
            keys: changes(partner.map_or(&[], |(ours, _)| &here[ours].keys), &step.keys),
        });
    }
    pairs.extend((next..here.len()).filter(|ours| !is_paired[*ours]).map(|ours| removed(&here[ours])));
    pairs
}

fn removed(step: &StepText) -> StepPair {
    let (here, operation) = (Some(step.number), step.operation);
    StepPair { status: StepStatus::Removed, here, there: None, operation, keys: changes(&step.keys, &[]) }
}

/// The places of a longest row of steps that are the same in both.
fn longest_common(here: &[StepText], there: &[StepText]) -> Vec<(usize, usize)> {
    let mut length = vec![vec![0usize; there.len() + 1]; here.len() + 1];
    for ours in (0..here.len()).rev() {
        for theirs in (0..there.len()).rev() {
            length[ours][theirs] = match here[ours].says_as(&there[theirs]) {
                true => length[ours + 1][theirs + 1] + 1,
                false => length[ours + 1][theirs].max(length[ours][theirs + 1]),
            };
        }
    }
    let (mut ours, mut theirs, mut common) = (0, 0, Vec::new());
    while ours < here.len() && theirs < there.len() {
        if here[ours].says_as(&there[theirs]) {
            common.push((ours, theirs));
            (ours, theirs) = (ours + 1, theirs + 1);
        } else if length[ours + 1][theirs] >= length[ours][theirs + 1] {
            ours += 1;
        } else {
            theirs += 1;
        }
    }
    common
}

fn changes(here: &[KeyText], there: &[KeyText]) -> Vec<KeyChange> {
    let mut names: Vec<&str> = here.iter().chain(there).map(|key| key.name.as_str()).collect();
    names.sort_unstable();
    names.dedup();
    let of = |keys: &'_ [KeyText], name: &str| keys.iter().find(|key| key.name == name).cloned();
    let change = |name: &str| {
        let (ours, theirs) = (of(here, name), of(there, name));
        if ours == theirs {
            return None;
        }
        let entries = |key: &Option<KeyText>| key.as_ref().map(|key| key.entries.clone()).unwrap_or_default();
        let only = |one: &[String], other: &[String]| -> Vec<String> {
            one.iter().filter(|entry| other.binary_search(entry).is_err()).cloned().collect()
        };
        let (entries_here, entries_there) = (entries(&ours), entries(&theirs));
        Some(KeyChange {
            name: name.to_owned(),
            here: ours.map(|key| key.written),
            there: theirs.map(|key| key.written),
            entries_here: only(&entries_here, &entries_there),
            entries_there: only(&entries_there, &entries_here),
        })
    };
    names.into_iter().filter_map(change).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::compile::described;
    use crate::pipeline::NoFiles;
    use crate::recipe::read;

    fn steps(text: &str) -> Vec<StepText> {
        described(&read(text).expect("a recipe"), &NoFiles)
    }

    fn told(here: &str, there: &str) -> Vec<(StepStatus, Option<usize>, Option<usize>, &'static str)> {
        let pairs = align(&steps(here), &steps(there));
        pairs.iter().map(|pair| (pair.status, pair.here, pair.there, pair.operation)).collect()
    }

    const HERE: &str = "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\ninto = \"words\"\n[[step]]\ndo = \"stopwords\"\nadd = [\"the\", \"of\"]\n\
                        [[step]]\ndo = \"stem\"\n";

    #[test]
    fn a_recipe_is_the_same_as_itself() {
        assert!(told(HERE, HERE).iter().all(|(status, ..)| *status == StepStatus::Same));
        let labelled = HERE.replace("do = \"case\"", "do = \"case\"\nlabel = \"small letters\"");
        assert!(told(HERE, &labelled).iter().all(|(status, ..)| *status == StepStatus::Same));
    }

    #[test]
    fn what_differs_is_told_step_by_step() {
        let there = "[[step]]\ndo = \"split\"\ninto = \"words\"\n[[step]]\ndo = \"case\"\n[[step]]\ndo = \"stopwords\"\nadd = [\"of\", \"and\", \"or\"]\n\
                     [[step]]\ndo = \"lemma\"\n";
        assert_eq!(
            told(HERE, there),
            [
                (StepStatus::Same, Some(2), Some(1), "split"),
                (StepStatus::Moved, Some(1), Some(2), "case"),
                (StepStatus::Changed, Some(3), Some(3), "stopwords"),
                (StepStatus::Added, None, Some(4), "lemma"),
                (StepStatus::Removed, Some(4), None, "stem"),
            ]
        );
        let pairs = align(&steps(HERE), &steps(there));
        let change = &pairs[2].keys[0];
        assert_eq!((change.name.as_str(), change.here.as_deref()), ("add", Some("the, of")));
        assert_eq!(
            (change.entries_here.join(" "), change.entries_there.join(" ")),
            ("the".into(), "and or".into())
        );
    }
}
