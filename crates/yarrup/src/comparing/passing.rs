//! The one reading of the documents that all recipes are compared on.

use yarrup_core::compare::{ChangedDocuments, SplitContrast, TermContrast};
use yarrup_core::step::Document;
use yarrup_core::study::GroupBy;
use yarrup_core::{Account, Alternative, Fields, Pipeline, SideBySide, StepTimer, StepTimes};
use yarrup_io::{Numbered, Pass, Policy, Source, Summary};

use crate::comparing::labels::LabelSample;
use crate::failure::Failure;
use crate::reading::read_all;
use crate::screen::Screen;
use crate::timing::{TimeSample, seconds, timer};

/// What is kept of a document that changes much.
#[derive(Clone, Debug)]
pub(crate) struct ShownDocument {
    pub(crate) id: String,
    pub(crate) text: String,
    /// The cleaned text under the first recipe.
    pub(crate) here: String,
    /// The cleaned text under the other.
    pub(crate) there: String,
}

/// What recipes are compared by.
pub(crate) struct Comparing<'p> {
    pub(crate) alternatives: Vec<Alternative<'p>>,
    /// How many documents that change most are kept of each pair.
    pub(crate) keep: usize,
    pub(crate) by: Option<GroupBy>,
    /// The field with the labels, where these are to be told from the terms.
    pub(crate) label: Option<String>,
    /// How many of the recipes are compared with the first; what stands behind them is only counted.
    pub(crate) compared: usize,
    /// Which documents the steps are timed on.
    pub(crate) timed: TimeSample,
    /// The field that holds the text; none where that is the document's own.
    pub(crate) text: Option<&'static str>,
}

/// What a worker of the comparison keeps.
pub(crate) struct Working<'p> {
    side_by_side: SideBySide<'p>,
    contrast: TermContrast,
    /// Of each recipe but the first.
    changed: Vec<ChangedDocuments<ShownDocument>>,
    /// Of each recipe but the first: where it is split otherwise.
    splits: Vec<Option<SplitContrast<'p>>>,
    labels: LabelSample,
    timers: Vec<StepTimer<'p>>,
    /// Bytes of all texts.
    bytes: u64,
}

/// What came of the reading.
pub(crate) struct Compared<'p> {
    pub(crate) accounts: Vec<Account>,
    pub(crate) changed: Vec<ChangedDocuments<ShownDocument>>,
    pub(crate) splits: Vec<Option<SplitContrast<'p>>>,
    pub(crate) labels: LabelSample,
    pub(crate) summary: Summary,
    /// The seconds that the steps of each recipe take, all threads together.
    pub(crate) seconds: Vec<Vec<f64>>,
}

impl<'p> Pass for Comparing<'p> {
    type State = Working<'p>;
    type Left = ();

    fn state(&self) -> Working<'p> {
        let first = &self.alternatives[0];
        let others = &self.alternatives[1..self.compared];
        let split = |other: &Alternative<'p>| {
            (!first.splits_as(other)).then(|| SplitContrast::new(first.pipeline, other.pipeline))
        };
        Working {
            side_by_side: SideBySide::new(self.alternatives.clone()),
            contrast: TermContrast::default(),
            changed: others.iter().map(|_| ChangedDocuments::new(self.keep)).collect(),
            splits: others.iter().map(split).collect(),
            labels: LabelSample::new(self.alternatives.len()),
            timers: self.alternatives.iter().map(|one| timer(one.pipeline)).collect(),
            bytes: 0,
        }
    }

    fn document(&self, working: &mut Working<'p>, document: &Numbered<'_>, (): &mut ()) {
        let Numbered { record, order, .. } = document;
        let of_field = self.text.map(|field| record.field(field));
        let text: &str = match &of_field {
            None => &record.text,
            Some(Some(text)) => text,
            Some(None) => return,
        };
        let Working { side_by_side, contrast, changed, splits, labels, timers, bytes } = working;
        let whole = Document { text, fields: record, order: *order };
        *bytes += text.len() as u64;
        if self.timed.takes(*order) {
            timers.iter_mut().for_each(|timer| timer.document(&whole));
        }
        side_by_side.take(&whole);
        let group = self.by.as_ref().map(|by| by.group(record.field(by.path()).as_deref()).to_string());
        for (other, changed) in (1..).zip(changed) {
            let change = contrast.change(side_by_side.terms(0), side_by_side.terms(other));
            changed.note(change, *order, group.as_deref(), || ShownDocument {
                id: match self.text {
                    None => record.id.to_string(),
                    Some(_) => record.field("id").unwrap_or_default().into_owned(),
                },
                text: text.to_owned(),
                here: side_by_side.clean(0, text),
                there: side_by_side.clean(other, text),
            });
        }
        for split in splits.iter_mut().flatten() {
            split.document(text, record);
        }
        if let Some(label) = self.label.as_ref().and_then(|path| record.field(path)) {
            labels.note(*order, &label, side_by_side);
        }
    }
}

impl<'p> Comparing<'p> {
    /// Reads all documents.
    pub(crate) fn read(
        &self,
        source: &mut Source,
        policy: Policy,
        screen: &Screen,
    ) -> Result<Compared<'p>, Failure> {
        let reading = read_all(source, policy, self, screen)?;
        let others = self.compared - 1;
        let mut changed: Vec<_> = (0..others).map(|_| ChangedDocuments::new(self.keep)).collect();
        let mut splits: Vec<Option<SplitContrast<'p>>> = Vec::new();
        let mut labels = LabelSample::new(self.alternatives.len());
        let mut times = vec![StepTimes::default(); self.alternatives.len()];
        let (mut workers, mut bytes) = (Vec::new(), 0);
        for state in reading.states {
            changed.iter_mut().zip(state.changed).for_each(|(sum, part)| sum.absorb(part));
            if splits.is_empty() {
                splits = state.splits;
            } else {
                for (sum, part) in splits.iter_mut().zip(state.splits) {
                    if let (Some(sum), Some(part)) = (sum, part) {
                        sum.absorb(part);
                    }
                }
            }
            bytes += state.bytes;
            times.iter_mut().zip(state.timers).for_each(|(sum, timer)| sum.absorb(&timer.into_times()));
            labels.absorb(state.labels.named(&state.side_by_side));
            workers.push(state.side_by_side);
        }
        let pipelines: Vec<&Pipeline> = self.alternatives.iter().map(|one| one.pipeline).collect();
        let accounts = Account::of_side_by_side(workers, &pipelines);
        let of_recipes = times.iter().zip(&pipelines).zip(&accounts);
        let seconds = of_recipes.map(|((times, pipeline), account)| seconds(times, pipeline, account, bytes));
        let seconds = seconds.collect();
        Ok(Compared { accounts, changed, splits, labels, summary: reading.summary, seconds })
    }
}
