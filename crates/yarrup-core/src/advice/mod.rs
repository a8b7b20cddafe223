//! The advice on a recipe: what is computed from the recipe alone, and what a collection shows besides.
//!
//! Advice is computed, not guessed: entries of lists, and sample texts in which a step has something to do, are pushed through the steps that
//! stand before it. What arrives spoiled is told, with the step at fault and what to change.

mod borders_lost;
mod capitals_lost;
mod case_after_list;
mod case_variants;
mod contraction_tails;
mod documents_emptied;
mod joined_words;
mod kinds_never_arrive;
mod languages_disagree;
mod mend;
mod negation_dropped;
mod never_finds;
mod no_effect;
mod other_language;
mod remnants;
mod samples;
mod sentences_lost;
mod signs_lost;
mod spaces_too_early;
mod stopwords_left;
mod tags_lost;
#[cfg(test)]
mod tests;
mod two_reducers;
mod unreachable_entries;
mod words_not_split;

use std::ops::Range;

pub use mend::{MendError, mend};
pub use other_language::LanguageShare;
pub use unreachable_entries::{Arrival, EntryAdvice, Verdict};

use crate::account::{Account, Effect};
use crate::advice::case_variants::CaseVariants;
use crate::advice::remnants::Remnants;
use crate::pipeline::Pipeline;
use crate::recipe::codes::{CASE_VARIANTS, REMNANTS};
use crate::recipe::{CODES, Code, Recipe};
use crate::step::{Role, Term};
use crate::steps::split::INTO;
/// The sort of matches of an `erase` step that join two words.
pub use crate::steps::text::erase::JOINED;

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
    fn by_hand(what: impl Into<String>) -> Fix {
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

/// A recipe that is being reviewed: what all advice is made from.
struct Reviewed<'r> {
    recipe: &'r Recipe,
    pipeline: &'r Pipeline,
}

impl<'r> Reviewed<'r> {
    /// The step of the recipe that has this index in the pipeline; none for a split that was put in.
    fn step(&self, index: usize) -> Option<&'r crate::recipe::Step> {
        let names = self.pipeline.steps();
        let put_in = names[..index].iter().filter(|name| name.put_in).count();
        (!names[index].put_in).then(|| self.recipe.steps.get(index - put_in)).flatten()
    }

    /// Whether the step with this index plays a part.
    fn plays(&self, index: usize, role: Role) -> bool {
        self.step(index).is_some_and(|step| step.operation.plays(role))
    }

    /// What the text is split into.
    fn into(&self) -> &'static str {
        self.step(self.pipeline.split).and_then(|step| step.settings.get(&INTO)).unwrap_or("words")
    }

    fn advice(&self, code: &Code, index: usize, what: impl Into<String>, why: impl Into<String>) -> Advice {
        Advice {
            code: code.name,
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

/// How many examples a piece of advice shows.
const SHOWN: usize = 5;

/// What a collection shows of a recipe.
struct Collected<'a> {
    account: &'a Account,
    effects: Vec<Effect>,
    vocabulary: &'a [Term<'a>],
    languages: &'a [LanguageShare],
}

/// What some advice is made from, for those who suggest changes themselves.
pub(crate) struct Advised<'a> {
    at: Reviewed<'a>,
    collected: Collected<'a>,
}

impl<'a> Advised<'a> {
    /// Of the run of a recipe that has this account and vocabulary.
    pub(crate) fn new(
        recipe: &'a Recipe,
        pipeline: &'a Pipeline,
        account: &'a Account,
        vocabulary: &'a [Term<'a>],
    ) -> Advised<'a> {
        let collected = Collected { account, effects: Vec::new(), vocabulary, languages: &[] };
        Advised { at: Reviewed { recipe, pipeline }, collected }
    }

    /// Whether the recipe's author does not want advice with this code on the split.
    fn is_allowed(&self, code: &Code) -> bool {
        let advice = self.at.advice(code, self.at.pipeline.split, "", "");
        self.at.allowed(vec![advice]).is_empty()
    }

    /// Remnants among the terms.
    pub(crate) fn remnants(&self) -> Vec<Remnants<'a>> {
        if self.is_allowed(&REMNANTS) { Vec::new() } else { remnants::find(&self.at, &self.collected) }
    }

    /// Words in two letter cases.
    pub(crate) fn case_variants(&self) -> Option<CaseVariants> {
        if self.is_allowed(&CASE_VARIANTS) { None } else { case_variants::find(&self.at, &self.collected) }
    }
}

/// Finds what there is to say of a recipe by itself.
type OfRecipe = fn(&Reviewed<'_>) -> Vec<Advice>;

/// Every sort of advice that needs no collection, one file each.
const OF_RECIPE: &[OfRecipe] = &[
    unreachable_entries::advise,
    never_finds::advise,
    kinds_never_arrive::advise,
    case_after_list::advise,
    sentences_lost::advise,
    signs_lost::advise,
    joined_words::advise,
    borders_lost::advise,
    contraction_tails::advise,
    words_not_split::advise,
    two_reducers::advise,
    tags_lost::advise,
    capitals_lost::advise,
    languages_disagree::advise,
    spaces_too_early::advise,
];

/// Finds what there is to say of a recipe by what it did to a collection.
type OfCollection = fn(&Reviewed<'_>, &Collected<'_>) -> Vec<Advice>;

/// Every sort of advice that needs a collection, one file each.
const OF_COLLECTION: &[OfCollection] = &[
    no_effect::advise,
    documents_emptied::advise,
    joined_words::advise_counted,
    remnants::advise,
    stopwords_left::advise,
    case_variants::advise,
    other_language::advise,
    negation_dropped::advise,
];

/// What may be wrong with a recipe that has no mistakes, computed from the recipe alone.
///
/// Cost: one trace for each entry of a list, and a few for each step.
///
/// ```
/// use yarrup_core::{NoFiles, Pipeline, advice, recipe};
///
/// let text = "[[step]]\ndo = \"stem\"\n[[step]]\ndo = \"stopwords\"\nadd = [\"nests\"]\n";
/// let recipe = recipe::read(text).expect("no mistakes");
/// let pipeline = Pipeline::compile(&recipe, &NoFiles).expect("it can run");
/// let found = advice::check(&recipe, &pipeline);
/// assert_eq!(found[0].code, "unreachable-entries");
/// assert_eq!(found[0].because, ["1 because of step 2 (`stem`): `nests` arrives as `nest`"]);
/// ```
pub fn check(recipe: &Recipe, pipeline: &Pipeline) -> Vec<Advice> {
    let at = Reviewed { recipe, pipeline };
    at.allowed(OF_RECIPE.iter().flat_map(|advise| advise(&at)).collect())
}

/// What the account of a run says of the recipe, beyond what [`check`] tells. `languages` are those of the documents, as far as they
/// could be told.
pub fn check_account(
    recipe: &Recipe,
    pipeline: &Pipeline,
    account: &Account,
    languages: &[LanguageShare],
) -> Vec<Advice> {
    if account.totals.documents == 0 {
        return Vec::new();
    }
    let at = Reviewed { recipe, pipeline };
    let (effects, vocabulary) = (account.effects(), account.vocabulary());
    let collected = Collected { account, effects, vocabulary: &vocabulary, languages };
    at.allowed(OF_COLLECTION.iter().flat_map(|advise| advise(&at, &collected)).collect())
}
