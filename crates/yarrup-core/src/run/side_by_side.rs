//! Several recipes over the same documents, with the work that they have in common done once.

use crate::pipeline::Pipeline;
use crate::run::intern::Interner;
use crate::run::worker::{Counts, Worker};
use crate::step::{Document, StepText};

/// A recipe that is set beside others: what runs, and what its steps say, by which it is told which of them others have as well.
#[derive(Clone, Copy)]
pub struct Alternative<'p> {
    /// What runs.
    pub pipeline: &'p Pipeline,
    /// What its steps say.
    pub steps: &'p [StepText],
}

impl Alternative<'_> {
    /// How many steps both begin with alike.
    fn alike(&self, other: &Alternative<'_>) -> usize {
        self.steps.iter().zip(other.steps).take_while(|(one, other)| one.does_as(other)).count()
    }

    /// Whether both have the same text steps and the same split.
    pub fn splits_as(&self, other: &Alternative<'_>) -> bool {
        let (ours, theirs) = (self.pipeline.split, other.pipeline.split);
        ours == theirs && self.alike(other) > ours
    }
}

/// Where a recipe takes its work from.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
struct Sharing {
    /// The recipe whose text steps and split are the same; itself if none before is.
    lead: usize,
    /// An earlier recipe with the same token steps up to one that does not decide form by form, and the index of that step: the tokens are taken from
    /// there.
    fork: Option<(usize, usize)>,
}

/// One worker of several recipes. Text steps and split are done once for all recipes that begin with the same; so is what a step makes of tokens in their
/// order. Each recipe is counted by itself: its account is that of a run of its own.
pub struct SideBySide<'p> {
    alternatives: Vec<Alternative<'p>>,
    sharing: Vec<Sharing>,
    workers: Vec<Worker<'p>>,
    /// The spellings of all of them.
    spellings: Interner,
}

impl<'p> SideBySide<'p> {
    /// A worker for these recipes that has seen nothing yet.
    pub fn new(alternatives: Vec<Alternative<'p>>) -> SideBySide<'p> {
        let sharing: Vec<Sharing> = (0..alternatives.len()).map(|at| shared(&alternatives, at)).collect();
        let mut workers: Vec<Worker<'p>> = Vec::new();
        for (at, alternative) in alternatives.iter().enumerate() {
            // What one of them asks of the text, its lead must leave.
            let defers = |other: &usize| sharing[*other].lead == at;
            let group: Vec<&Pipeline> =
                (0..alternatives.len()).filter(defers).map(|other| alternatives[other].pipeline).collect();
            let asked = sharing.iter().filter_map(|other| other.fork.filter(|(from, _)| *from == at));
            let mut halts: Vec<usize> = asked.map(|(_, step)| step).collect();
            halts.sort_unstable();
            halts.dedup();
            let fork = sharing[at].fork.map(|(_, step)| step);
            workers.push(Worker::beside(alternative.pipeline, &group, halts, fork));
        }
        SideBySide { alternatives, sharing, workers, spellings: Interner::default() }
    }

    /// Takes one document through all recipes.
    ///
    /// # Panics
    ///
    /// As [`Worker::take`].
    pub fn take(&mut self, document: &Document<'_>) {
        for at in 0..self.workers.len() {
            let Sharing { lead, fork } = self.sharing[at];
            let (before, rest) = self.workers.split_at_mut(at);
            let worker = &mut rest[0];
            worker.exchange_spellings(&mut self.spellings);
            if let Some((from, step)) = fork {
                let lent = before[from].lend(step);
                if let Some(halt) = &lent {
                    worker.take_from(halt, &mut before[lead], document);
                }
                before[from].take_back(lent);
            } else {
                match before.get_mut(lead) {
                    Some(lead) => worker.take_behind(lead, document),
                    None => worker.take_ahead(document),
                }
            }
            worker.exchange_spellings(&mut self.spellings);
        }
    }

    /// The terms of the last document under the recipe in this place by the numbers that they have in all of them, each with how many tokens it has; a term
    /// may stand there several times, its tokens one by one or together.
    pub fn terms(&self, alternative: usize) -> &[(u32, u32)] {
        self.workers[alternative].bag()
    }

    /// The terms of the last document under the recipe in this place, in the order of its tokens. `original` is its text.
    pub fn terms_in_order(&mut self, alternative: usize, original: &str) -> Vec<&str> {
        let Sharing { lead, fork } = self.sharing[alternative];
        let (before, rest) = self.workers.split_at_mut(alternative);
        let halt = fork.and_then(|(from, step)| before[from].halt(step));
        rest[0].terms_in_order(before.get(lead), halt, original);
        let terms = rest[0].last_terms();
        terms.iter().map(|term| self.spellings.text(*term)).collect()
    }

    /// The spelling of a term.
    pub fn spelling(&self, term: u32) -> &str {
        self.spellings.text(term)
    }

    /// The cleaned text of the last document under the recipe in this place: `original` is its text.
    pub fn clean(&mut self, alternative: usize, original: &str) -> String {
        let pipeline = self.alternatives[alternative].pipeline;
        if pipeline.is_text_recipe() {
            return self.workers[self.sharing[alternative].lead].rewritten(original).to_owned();
        }
        self.terms_in_order(alternative, original);
        self.workers[alternative].joined_terms(&self.spellings)
    }

    /// How many tokens the last document had as found, and how many were kept, under the recipe in this place.
    pub fn tokens(&self, alternative: usize) -> (u64, u64) {
        self.workers[alternative].tokens_of_last()
    }

    /// What was counted of each recipe, and the spellings that number it.
    pub(crate) fn into_counts(mut self) -> (Vec<Counts<'p>>, Interner) {
        let shared: Vec<(usize, Option<(usize, usize)>)> =
            self.sharing.iter().map(|sharing| (sharing.lead, sharing.fork)).collect();
        let counts = Worker::counts_beside(self.workers, &shared, &mut self.spellings);
        (counts, self.spellings)
    }
}

fn shared(alternatives: &[Alternative<'_>], at: usize) -> Sharing {
    let own = &alternatives[at];
    let lead = (0..at).find(|other| own.splits_as(&alternatives[*other])).unwrap_or(at);
    if lead == at {
        return Sharing { lead, fork: None };
    }
    // The step up to which both have the same token steps, one that does not decide form by form.
    let common = |other: usize| {
        let theirs = &alternatives[other];
        let steps = own.alike(theirs).saturating_sub(own.pipeline.split + 1);
        // Documents are counted by the conditions that hold for them, and terms are joined by one sign.
        let counts_alike = own.pipeline.conditions == theirs.pipeline.conditions
            && own.pipeline.join_sign() == theirs.pipeline.join_sign();
        own.pipeline.last_part_within(steps).filter(|_| counts_alike && own.splits_as(theirs))
    };
    let fork = (0..at).filter_map(|other| Some((other, common(other)?))).max_by_key(|(other, step)| {
        // Of equals the first: the others have theirs from it.
        (*step, std::cmp::Reverse(*other))
    });
    Sharing { lead, fork }
}
