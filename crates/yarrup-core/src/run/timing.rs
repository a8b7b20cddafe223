//! How long each step takes, by a sample of the documents.

use std::collections::HashSet;
use std::ops::Range;

use crate::pipeline::{Pipeline, TokenWork};
use crate::run::forms::Forms;
use crate::run::intern::Interner;
use crate::run::passage::{Live, Look, Observer, Passage, Tokens, gaps};
use crate::span::Span;
use crate::step::{Document, Form, Matches, Outcome, Text};

/// Tells the time in nanoseconds since some moment. The core has no clock of its own.
pub type Clock<'c> = dyn Fn() -> u64 + Sync + 'c;

/// What a step took, and for how much.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct StepTime {
    /// Nanoseconds.
    pub nanoseconds: u64,
    /// For so many of what its work grows with: bytes of text for text steps and the split, distinct forms for steps that decide form by form, tokens for
    /// the rest.
    pub units: u64,
}

/// Takes documents through a pipeline step by step, with a look at the clock before and behind each. It is told by a part of the documents what all of
/// them take: see [`StepTimes::estimate`].
pub struct StepTimer<'p> {
    pipeline: &'p Pipeline,
    clock: &'p Clock<'p>,
    text: Text,
    spans: Vec<Span>,
    numbers: Vec<u32>,
    passage: Passage<'p, ()>,
    /// The forms that were decided about.
    decided: HashSet<u32>,
    times: StepTimes,
}

/// The times of the steps of a pipeline, in its order.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct StepTimes {
    steps: Vec<StepTime>,
    /// Bytes of the documents.
    bytes: u64,
}

impl<'p> StepTimer<'p> {
    /// A timer that has seen nothing yet.
    pub fn new(pipeline: &'p Pipeline, clock: &'p Clock<'p>) -> StepTimer<'p> {
        StepTimer {
            pipeline,
            clock,
            text: Text::new(false),
            spans: Vec::new(),
            numbers: Vec::new(),
            passage: Passage::new(pipeline, pipeline.tokens.len(), false),
            decided: HashSet::new(),
            times: StepTimes { steps: vec![StepTime::default(); pipeline.steps().len()], bytes: 0 },
        }
    }

    /// Takes a document.
    pub fn document(&mut self, document: &Document<'_>) {
        let original = document.text;
        let variant = self.pipeline.variant(original, document.fields);
        self.times.bytes += original.len() as u64;
        self.text.begin();
        for stage in self.pipeline.text.iter().filter(|stage| stage.works_on(variant)) {
            let bytes = self.text.as_str(original).len();
            let begin = (self.clock)();
            stage.apply(&mut self.text, original, &mut Matches::default());
            self.times.add(stage.step, (self.clock)() - begin, bytes);
        }
        let now = self.text.as_str(original);
        self.spans.clear();
        let begin = (self.clock)();
        self.pipeline.splitter.split(now, &mut self.spans);
        self.times.add(self.pipeline.split, (self.clock)() - begin, now.len());
        self.numbers.clear();
        self.numbers.extend(self.spans.iter().map(|span| self.passage.spellings.number(span.of(now))));
        self.decide();
        if !self.passage.parts() {
            return;
        }
        let now = self.text.as_str(original);
        let mut between = Vec::new();
        gaps(now, &self.spans, &mut between);
        let tokens = Tokens {
            variant,
            numbers: &self.numbers,
            gaps: &between,
            tokens_before: self.spans.len() as u64,
            document: *document,
        };
        let mut looking =
            Looking { pipeline: self.pipeline, clock: self.clock, since: 0, times: &mut self.times };
        self.passage.document(&tokens, &mut looking);
    }

    /// Lets the steps that decide form by form decide about forms that are new.
    fn decide(&mut self) {
        for &number in &self.numbers {
            if !self.decided.insert(number) {
                continue;
            }
            let mut text = self.passage.spellings.text(number).to_owned();
            let mut is_marked = false;
            for stage in &self.pipeline.tokens {
                let TokenWork::Form(step) = &stage.work else {
                    is_marked = true;
                    continue;
                };
                let form = Form::new(&text);
                let begin = (self.clock)();
                let outcome = step.apply(&form);
                self.times.add(stage.step, (self.clock)() - begin, 1);
                match outcome {
                    Outcome::Keep => {}
                    Outcome::Change(now) => text = now,
                    // Behind a tagger it is the part of speech that decides, which the form alone has not got.
                    Outcome::Drop(_) if is_marked => {}
                    Outcome::Drop(_) => break,
                }
            }
        }
    }

    /// What was taken.
    pub fn into_times(self) -> StepTimes {
        self.times
    }
}

impl StepTimes {
    fn add(&mut self, step: usize, nanoseconds: u64, units: usize) {
        let time = &mut self.steps[step];
        time.nanoseconds += nanoseconds;
        time.units += units as u64;
    }

    /// Adds what another timer of the same pipeline has measured.
    pub fn absorb(&mut self, other: &StepTimes) {
        self.bytes += other.bytes;
        self.steps.resize(self.steps.len().max(other.steps.len()), StepTime::default());
        for (own, theirs) in self.steps.iter_mut().zip(&other.steps) {
            own.nanoseconds += theirs.nanoseconds;
            own.units += theirs.units;
        }
    }

    /// How many bytes of text were measured.
    pub fn bytes(&self) -> u64 {
        self.bytes
    }

    /// What each step takes for all documents, in nanoseconds, when it takes `look_at_clock` to look at the clock: these have `bytes` of text, and so many
    /// times as many distinct forms as the sample has. Steps that decide form by form grow with the forms, all others with the text.
    pub fn estimate(&self, pipeline: &Pipeline, bytes: u64, forms: u64, look_at_clock: u64) -> Vec<u64> {
        let by_form = |step: usize| {
            pipeline.tokens.iter().any(|stage| stage.step == step && matches!(stage.work, TokenWork::Form(_)))
        };
        // The first such step has seen every form of the sample.
        let seen = (0..self.steps.len()).find(|step| by_form(*step)).map_or(0, |step| self.steps[step].units);
        let scaled = |value: u64, all: u64, part: u64| {
            if part == 0 { 0 } else { (u128::from(value) * u128::from(all) / u128::from(part)) as u64 }
        };
        let estimate = |(step, time): (usize, &StepTime)| {
            if by_form(step) {
                let own = time.nanoseconds.saturating_sub(time.units * look_at_clock);
                scaled(own, forms.max(seen), seen)
            } else {
                scaled(time.nanoseconds, bytes.max(self.bytes), self.bytes)
            }
        };
        self.steps.iter().enumerate().map(estimate).collect()
    }
}

/// The observer that looks at the clock between steps that do not decide form by form.
struct Looking<'t> {
    pipeline: &'t Pipeline,
    clock: &'t Clock<'t>,
    since: u64,
    times: &'t mut StepTimes,
}

impl Looking<'_> {
    fn done(&mut self, step: usize, tokens: usize) {
        let now = (self.clock)();
        self.times.add(self.pipeline.tokens[step].step, now - self.since, tokens);
    }
}

impl Observer for Looking<'_> {
    type Tally = ();

    fn passed(&mut self, _steps: Range<usize>, _forms: &Forms<()>, _spellings: &Interner) {
        self.since = (self.clock)();
    }

    fn looked(&mut self, look: Look<'_>, _spellings: &Interner) {
        self.done(look.step, look.before.len());
    }

    fn judged(&mut self, step: usize, _reason: Option<u16>, tokens: &[Live], _spellings: &Interner) {
        self.done(step, tokens.len());
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::step::NoFields;
    use crate::testing;
    use std::sync::atomic::{AtomicU64, Ordering};

    /// A clock that goes on by one with every look: each look at a step takes one.
    #[test]
    fn each_step_has_its_time_for_its_units() {
        let pipeline = testing::pipeline(
            "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\n[[step]]\ndo = \"stem\"\n[[step]]\ndo = \"tag\"\n",
        );
        let ticks = AtomicU64::new(0);
        let clock = || ticks.fetch_add(1, Ordering::Relaxed);
        let mut timer = StepTimer::new(&pipeline, &clock);
        for text in ["Terns nest.", "terns nest"] {
            timer.document(&Document { text, fields: &NoFields, order: 0 });
        }
        let times = timer.into_times();
        let told: Vec<(u64, u64)> = times.steps.iter().map(|time| (time.nanoseconds, time.units)).collect();
        // Two documents of 21 bytes; terns, nest and the stop are decided about once; five tokens are tagged.
        assert_eq!(told, [(2, 21), (2, 21), (3, 3), (2, 5)]);
        assert_eq!(times.bytes(), 21);
        assert_eq!(times.estimate(&pipeline, 210, 30, 0), [20, 20, 30, 20]);
        assert_eq!(times.estimate(&pipeline, 210, 30, 1)[2], 0);
        let mut twice = times.clone();
        twice.absorb(&times);
        assert_eq!(twice.estimate(&pipeline, 210, 30, 0)[0], 20);
    }
}
