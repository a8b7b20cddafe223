//! The advice on a recipe: what is computed from the recipe alone, and what a collection shows besides.
//!
//! Advice is computed, not guessed: entries of lists, and sample texts in which a step has something to do, are pushed through the steps that
//! stand before it. What arrives spoiled is told, with the step at fault and what to change.

mod collection;
mod entries;
mod mend;
mod order;

use std::ops::Range;

pub use collection::{LanguageShare, check_account};
pub use entries::{Arrival, EntryAdvice, Verdict};
pub use mend::mend;

use crate::pipeline::Pipeline;
use crate::recipe::{CODES, Recipe};

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
    /// Which steps cause it, or what shows it, a sentence for each, with an example.
    pub because: Vec<String>,
    /// Why it matters, in one sentence.
    pub why: String,
    /// The changes to make, one for each cause.
    pub fixes: Vec<Fix>,
    /// Every entry of the step's lists that does not arrive as it is written.
    pub entries: Vec<EntryAdvice>,
}

/// A change that mends what advice speaks of.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Fix {
    /// What to do, in words.
    pub told: String,
    /// The change itself, where it is sure to do no harm.
    pub change: Option<Change>,
    /// A step to put in, as TOML.
    pub step: Option<&'static str>,
}

impl Fix {
    fn told(what: impl Into<String>) -> Fix {
        Fix { told: what.into(), change: None, step: None }
    }

    /// A change that is sure to do no harm, if there is one.
    fn change(what: impl Into<String>, change: Option<Change>) -> Fix {
        Fix { told: what.into(), change, step: None }
    }

    /// A step to put in.
    fn step(what: impl Into<String>, step: &'static str) -> Fix {
        Fix { told: what.into(), change: None, step: Some(step) }
    }

    /// The change as lines of TOML that can be pasted, where it is one of keys or a step to put in.
    pub fn toml(&self) -> Option<String> {
        match &self.change {
            Some(Change::Set { keys, .. }) => Some(
                keys.iter().map(|(key, value)| format!("{key} = {value}")).collect::<Vec<_>>().join("\n"),
            ),
            _ => self.step.map(str::to_owned),
        }
    }
}

/// A change of a recipe's text.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Change {
    /// Gives keys of the step with this number these values, as TOML.
    Set {
        /// The step's number.
        step: usize,
        /// The keys and their values.
        keys: Vec<(&'static str, String)>,
    },
    /// Moves a step to a place before another.
    MoveBefore {
        /// The number of the step that moves.
        step: usize,
        /// The number of the step that it comes to stand before.
        before: usize,
    },
}

/// What all advice is made from.
struct At<'r> {
    recipe: &'r Recipe,
    pipeline: &'r Pipeline,
}

impl<'r> At<'r> {
    /// The step of the recipe that has this index in the pipeline; none for a split that was put in.
    fn step(&self, index: usize) -> Option<&'r crate::recipe::Step> {
        let names = self.pipeline.steps();
        let put_in = names[..index].iter().filter(|name| name.put_in).count();
        (!names[index].put_in).then(|| self.recipe.steps.get(index - put_in)).flatten()
    }

    fn advice(
        &self,
        code: &'static str,
        index: usize,
        what: impl Into<String>,
        why: impl Into<String>,
    ) -> Advice {
        debug_assert!(CODES.iter().any(|known| known.name == code), "{code} is listed");
        Advice {
            code,
            step: self.pipeline.steps()[index].number,
            span: self.step(index).map_or(0..0, |step| step.span.clone()),
            what: what.into(),
            because: Vec::new(),
            why: why.into(),
            fixes: Vec::new(),
            entries: Vec::new(),
        }
    }

    /// Says where the steps stand that advice would change, where that is not in this recipe.
    fn name_included(&self, advice: &mut Advice) {
        let changed = advice.fixes.iter().filter_map(|fix| match &fix.change {
            Some(Change::Set { step, .. }) => Some(vec![*step]),
            Some(Change::MoveBefore { step, before }) => Some(vec![*step, *before]),
            None => None,
        });
        let mut numbers: Vec<usize> = changed.flatten().chain([advice.step]).collect();
        numbers.sort_unstable();
        numbers.dedup();
        for number in numbers {
            if let Some(path) = self.step(number - 1).and_then(|step| step.included.as_deref()) {
                advice.because.push(format!("step {number} stands in `{path}`"));
            }
        }
    }

    /// Takes out what the recipe's author has allowed, and sorts the rest by step.
    fn allowed(&self, mut found: Vec<Advice>) -> Vec<Advice> {
        found.retain(|advice| {
            let allows = |codes: &[String]| codes.iter().any(|code| code == advice.code);
            let by_step = self.step(advice.step - 1).is_some_and(|step| allows(&step.allow));
            !by_step && !allows(&self.recipe.allow)
        });
        for advice in &mut found {
            self.name_included(advice);
        }
        found.sort_by_key(|advice| (advice.step, CODES.iter().position(|code| code.name == advice.code)));
        found
    }
}

/// What may be wrong with a recipe that has no mistakes, computed from the recipe alone.
///
/// Cost: one trace for each entry of a list, and a few for each step.
pub fn check(recipe: &Recipe, pipeline: &Pipeline) -> Vec<Advice> {
    let at = At { recipe, pipeline };
    let mut found = entries::unreachable(&at);
    found.extend(order::faults(&at));
    at.allowed(found)
}
