//! How long steps take, measured on a sample of the documents.

use std::sync::OnceLock;
use std::time::Instant;

use yarrup_core::step::Stage;
use yarrup_core::{Account, Clock, Pipeline, StepTimer, StepTimes};

/// Which documents are measured: one of so many.
#[derive(Clone, Copy, Debug)]
pub(crate) struct TimeSample {
    every: u64,
}

impl TimeSample {
    /// One document of `most`, and more of a small collection of so many bytes: `least` bytes at least.
    pub(crate) fn of(bytes: u64, least: u64, most: u64) -> TimeSample {
        TimeSample { every: (bytes / least).clamp(1, most) }
    }

    /// Whether the document in this place is measured: the same ones, whoever reads what.
    pub(crate) fn takes(self, order: u64) -> bool {
        self.every == 1 || yarrup_io::short_hash(&order.to_le_bytes()).is_multiple_of(self.every)
    }
}

/// The time in nanoseconds since the first look at this clock.
fn now() -> u64 {
    static BEGIN: OnceLock<Instant> = OnceLock::new();
    BEGIN.get_or_init(Instant::now).elapsed().as_nanos() as u64
}

/// The clock of the system.
pub(crate) fn clock() -> &'static Clock<'static> {
    &now
}

/// A timer of the steps of a pipeline.
pub(crate) fn timer(pipeline: &Pipeline) -> StepTimer<'_> {
    StepTimer::new(pipeline, clock())
}

/// What one look at the clock takes, in nanoseconds.
fn look_at_clock() -> u64 {
    const LOOKS: u64 = 1_000;
    let begin = now();
    (0..LOOKS).for_each(|_| {
        std::hint::black_box(now());
    });
    (now() - begin) / LOOKS
}

/// What each step takes for all documents of an account, in seconds: of all threads together.
pub(crate) fn seconds(times: &StepTimes, pipeline: &Pipeline, account: &Account, bytes: u64) -> Vec<f64> {
    let split = pipeline.steps().iter().position(|step| step.stage == Stage::Split).unwrap_or(0);
    let forms = account.effects().get(split + 1).and_then(|effect| effect.types_out).unwrap_or(0);
    let nanoseconds = times.estimate(pipeline, bytes, forms, look_at_clock());
    nanoseconds.into_iter().map(|nanoseconds| nanoseconds as f64 / 1e9).collect()
}
