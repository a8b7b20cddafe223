//! From what a worker has counted to an account: spellings get the numbers of their order, and tables are sorted.

use std::panic::resume_unwind;

use crate::account::texts::Renumbering;
use crate::account::{
    Account, Ends, NO_TEXT, Origin, Segment, StepRecord, TermDocuments, Texts, VariantForms,
};
use crate::pipeline::{Pipeline, TokenWork, Variant};
use crate::run::forms::{Fate, FormRow, Forms};
use crate::run::ledger::{End, FormTally, Journey, Journeys};
use crate::run::passage::FormsByVariant;
use crate::run::worker::Counts;
use crate::run::{SideBySide, Worker};
use crate::step::Mark;

impl Account {
    /// The account of a run that several workers of `pipeline` shared. Each worker's is made in a thread of its own.
    pub fn of_workers(workers: Vec<Worker<'_>>, pipeline: &Pipeline) -> Account {
        std::thread::scope(|scope| {
            let made: Vec<_> =
                workers.into_iter().map(|worker| scope.spawn(|| worker.into_account())).collect();
            let made =
                made.into_iter().map(|thread| thread.join().unwrap_or_else(|panic| resume_unwind(panic)));
            Account::sum(made, pipeline)
        })
    }
}

impl Worker<'_> {
    /// What the worker has counted. The accounts of several workers add up: see [`Account::merge`].
    pub fn into_account(self) -> Account {
        Account::build(self)
    }
}

/// A row of [`Ends`] but for its counts, in the order of the columns.
pub(super) type EndKey = (u32, u8, u8, u8, u32);

impl Account {
    /// An account of no documents at all.
    pub fn empty(pipeline: &Pipeline) -> Account {
        Account::empty_up_to(pipeline, pipeline.tokens.len())
    }

    /// As [`Account::empty`], for a recipe that ends before the token step with this index.
    fn empty_up_to(pipeline: &Pipeline, token_steps: usize) -> Account {
        let end = pipeline.tokens.get(token_steps).map_or(pipeline.steps().len(), |stage| stage.step);
        let text = |step: usize| pipeline.text.iter().find(|stage| stage.step == step);
        let token = |step: usize| pipeline.tokens.iter().find(|stage| stage.step == step);
        let steps = pipeline.steps()[..end].iter().enumerate().map(|(index, name)| StepRecord {
            operation: name.operation.to_owned(),
            label: name.label.clone(),
            stage: name.stage,
            put_in: name.put_in,
            sorts: text(index).map(|stage| stage.runs.sorts()).unwrap_or_default(),
            parts: token(index).is_some_and(|stage| !matches!(stage.work, TokenWork::Form(_))),
            compares: token(index).is_some_and(
                |stage| matches!(&stage.work, TokenWork::Document(work) if work.copies().is_some()),
            ),
        });
        Account {
            origin: Origin::default(),
            steps: steps.collect(),
            labels: pipeline.labels().to_vec(),
            text_steps: vec![Default::default(); pipeline.text.len()],
            token_steps: vec![Default::default(); token_steps],
            ..Account::default()
        }
    }

    /// The account of what one worker has counted.
    fn build(worker: Worker<'_>) -> Account {
        let (counts, spellings) = worker.into_counts();
        let ordered = Texts::sorted(spellings.len(), |number| spellings.text(number));
        Account::of_counts(counts, ordered)
    }

    /// The accounts of several recipes that workers took the same documents through, in the order of the recipes.
    pub fn of_side_by_side(workers: Vec<SideBySide<'_>>, pipelines: &[&Pipeline]) -> Vec<Account> {
        let by_worker: Vec<Vec<Account>> = std::thread::scope(|scope| {
            let made: Vec<_> = workers
                .into_iter()
                .map(|worker| {
                    scope.spawn(|| {
                        let (counts, spellings) = worker.into_counts();
                        let order = Texts::order(spellings.len(), |number| spellings.text(number));
                        let account = |counts: Counts<'_>| {
                            let is_used = used(&counts, spellings.len());
                            let own = order.iter().copied().filter(|number| is_used[*number as usize]);
                            let ordered =
                                Texts::of_order(own, |number| spellings.text(number), spellings.len());
                            Account::of_counts(counts, ordered)
                        };
                        counts.into_iter().map(account).collect()
                    })
                })
                .collect();
            made.into_iter()
                .map(|thread| thread.join().unwrap_or_else(|panic| resume_unwind(panic)))
                .collect()
        });
        let mut by_worker: Vec<_> = by_worker.into_iter().map(Vec::into_iter).collect();
        let parts: Vec<Vec<Account>> =
            pipelines.iter().map(|_| by_worker.iter_mut().filter_map(Iterator::next).collect()).collect();
        std::thread::scope(|scope| {
            let made: Vec<_> = parts
                .into_iter()
                .zip(pipelines)
                .map(|(parts, pipeline)| scope.spawn(|| Account::sum(parts.into_iter(), pipeline)))
                .collect();
            made.into_iter()
                .map(|thread| thread.join().unwrap_or_else(|panic| resume_unwind(panic)))
                .collect()
        })
    }

    /// The account of what was counted, with all spellings in order.
    fn of_counts(counts: Counts<'_>, (texts, renumbered): (Texts, Renumbering)) -> Account {
        let Counts { pipeline, ledger, variants, .. } = counts;
        let mut account = Account::empty_up_to(pipeline, ledger.tokens.len());
        let text = |number: u32| renumbered.numbers.get(number as usize).copied().unwrap_or(NO_TEXT);
        account.texts = texts;
        let (ends, segments) = std::thread::scope(|scope| {
            let ends = scope.spawn(|| {
                Ends::of(match &ledger.journeys {
                    Some(journeys) => ends_of_journeys(journeys, &text),
                    None => ends_of_forms(&variants, &renumbered),
                })
            });
            account.found = found(&variants, &renumbered);
            account.terms = terms(&variants, &renumbered);
            let of_variant = |(_, segments): &(Variant, Vec<Forms<FormTally>>)| -> Vec<Segment> {
                segments.iter().enumerate().map(|(at, forms)| segment(forms, at == 0, &renumbered)).collect()
            };
            let segments: Vec<Vec<Segment>> = variants.iter().map(of_variant).collect();
            (ends.join().unwrap_or_else(|panic| resume_unwind(panic)), segments)
        });
        account.ends = ends;
        account.dropped_documents =
            ledger.dropped_documents.iter().map(|((step, reason), count)| (*step, *reason, *count)).collect();
        account.reasons = reasons(pipeline, &account);
        let counted = ledger.variants;
        account.variants = variants
            .into_iter()
            .zip(segments)
            .map(|((variant, _), segments)| VariantForms {
                conditions: variant.bits(),
                documents: counted.iter().find(|(known, _)| *known == variant).map_or(0, |(_, count)| *count),
                segments,
            })
            .collect();
        account.variants.sort_by_key(|variant| variant.conditions);
        (account.totals, account.text_steps, account.token_steps) =
            (ledger.totals, ledger.texts, ledger.tokens);
        debug_assert!(account.is_balanced(), "the books balance");
        debug_assert!(account.is_sound(), "all numbers are of what there is");
        account
    }
}

/// By the number of a spelling: whether the recipe has to do with it.
fn used(counts: &Counts<'_>, spellings: usize) -> Vec<bool> {
    let mut is_used = vec![false; spellings];
    let mut mark = |number: u32| {
        if let Some(used) = is_used.get_mut(number as usize) {
            *used = true;
        }
    };
    for (_, segments) in &counts.variants {
        for (at, forms) in segments.iter().enumerate() {
            for (number, row) in (0..).zip(&forms.rows) {
                let tally = &row.tally;
                if at > 0 || tally.count > 0 || tally.term_documents > 0 || row.found {
                    mark(forms.key(number).0);
                }
            }
            forms.changes.iter().for_each(|change| mark(change.to));
        }
    }
    for ((form, _, end), _) in counts.ledger.journeys.iter().flat_map(Journeys::iter) {
        mark(*form);
        match end {
            End::Kept { term: to } | End::Joined { into: to, .. } => mark(*to),
            End::Dropped { .. } => {}
        }
    }
    is_used
}

/// What became of the tokens of each form, of a recipe whose steps may send tokens of one form different ways.
fn ends_of_journeys(journeys: &Journeys, text: &impl Fn(u32) -> u32) -> Vec<(EndKey, u64, u64)> {
    let end = |((form, mark, end), journey): (&(u32, Mark, End), &Journey)| {
        let tag = mark.tag().map_or(0, |tag| tag as u8);
        (end_key(text(*form), tag, *end, text), journey.count, u64::from(journey.documents))
    };
    journeys.iter().map(end).collect()
}

/// As [`ends_of_journeys`], of a recipe in which every form of a variant has one end.
fn ends_of_forms(variants: &FormsByVariant<FormTally>, renumbered: &Renumbering) -> Vec<(EndKey, u64, u64)> {
    let text = |number: u32| renumbered.numbers.get(number as usize).copied().unwrap_or(NO_TEXT);
    let mut ends = Vec::new();
    for forms in first_segments(variants) {
        for (form, number, row) in in_order(forms, renumbered).filter(|(_, _, row)| row.tally.count > 0) {
            let end = match row.fate() {
                Fate::Dropped { step, reason } => End::Dropped { step, reason },
                Fate::Kept { to } => End::Kept { term: to },
                Fate::Unknown => End::Kept { term: number },
            };
            ends.push((end_key(form, 0, end, &text), row.tally.count, u64::from(row.tally.documents)));
        }
    }
    ends
}

fn first_segments(variants: &FormsByVariant<FormTally>) -> impl Iterator<Item = &Forms<FormTally>> {
    variants.iter().filter_map(|(_, segments)| segments.first())
}

/// The rows of a first segment in the order of their texts, each with the number of its text and that of its spelling. What is made of them one after
/// the other is in order by itself.
fn in_order<'f>(
    forms: &'f Forms<FormTally>,
    renumbered: &'f Renumbering,
) -> impl Iterator<Item = (u32, u32, &'f FormRow<FormTally>)> {
    let row = |(text, number): (u32, &u32)| Some((text, *number, forms.rows.get(*number as usize)?));
    (0..).zip(&renumbered.order).filter_map(row)
}

fn end_key(form: u32, tag: u8, end: End, text: &impl Fn(u32) -> u32) -> EndKey {
    match end {
        End::Kept { term } => (form, tag, Ends::KEPT, 0, text(term)),
        End::Dropped { step, reason } => (form, tag, Ends::DROPPED, step, u32::from(reason)),
        End::Joined { step, into } => (form, tag, Ends::JOINED, step, text(into)),
    }
}

impl Ends {
    /// Rows in any order; those of one key are added up.
    pub(super) fn of(mut rows: Vec<(EndKey, u64, u64)>) -> Ends {
        rows.sort();
        rows.dedup_by(|next, row| {
            let same = next.0 == row.0;
            if same {
                row.1 += next.1;
                row.2 += next.2;
            }
            same
        });
        let mut ends = Ends::with_capacity(rows.len());
        rows.into_iter().for_each(|(key, count, documents)| ends.push(key, count, documents));
        ends
    }

    /// No rows yet, with room for some.
    pub(super) fn with_capacity(rows: usize) -> Ends {
        Ends {
            form: Vec::with_capacity(rows),
            tag: Vec::with_capacity(rows),
            fate: Vec::with_capacity(rows),
            step: Vec::with_capacity(rows),
            what: Vec::with_capacity(rows),
            count: Vec::with_capacity(rows),
            documents: Vec::with_capacity(rows),
        }
    }

    /// Adds a row behind all others.
    pub(super) fn push(&mut self, (form, tag, fate, step, what): EndKey, count: u64, documents: u64) {
        self.form.push(form);
        self.tag.push(tag);
        self.fate.push(fate);
        self.step.push(step);
        self.what.push(what);
        self.count.push(count);
        self.documents.push(documents);
    }
}

/// The spellings of the text as found, whatever the variant.
fn found(variants: &FormsByVariant<FormTally>, renumbered: &Renumbering) -> Vec<u32> {
    let rows = first_segments(variants).flat_map(|forms| in_order(forms, renumbered));
    let mut found: Vec<u32> = rows.filter(|(_, _, row)| row.found).map(|(text, ..)| text).collect();
    found.sort_unstable();
    found.dedup();
    found
}

/// The documents of each term, whatever the variant.
fn terms(variants: &FormsByVariant<FormTally>, renumbered: &Renumbering) -> TermDocuments {
    let rows = first_segments(variants).flat_map(|forms| in_order(forms, renumbered));
    let counted = rows.map(|(text, _, row)| (text, u64::from(row.tally.term_documents)));
    TermDocuments::of(counted.filter(|(_, documents)| *documents > 0).collect())
}

impl TermDocuments {
    /// Rows in any order; those of one term are added up.
    pub(super) fn of(mut rows: Vec<(u32, u64)>) -> TermDocuments {
        rows.sort();
        rows.dedup_by(|next, row| {
            let same = next.0 == row.0;
            if same {
                row.1 += next.1;
            }
            same
        });
        let (term, documents) = rows.into_iter().unzip();
        TermDocuments { term, documents }
    }
}

/// The reasons that came up, in words.
fn reasons(pipeline: &Pipeline, account: &Account) -> Vec<(u8, u16, String)> {
    let ends = &account.ends;
    let dropped = (0..ends.form.len()).filter(|row| ends.fate[*row] == Ends::DROPPED);
    let mut seen: Vec<(u8, u16)> = dropped.map(|row| (ends.step[row], ends.what[row] as u16)).collect();
    seen.extend(account.dropped_documents.iter().map(|(step, reason, _)| (*step, *reason)));
    seen.sort_unstable();
    seen.dedup();
    let in_words =
        |(step, reason): (u8, u16)| (step, reason, pipeline.tokens[usize::from(step)].facts().reason(reason));
    seen.into_iter().map(in_words).collect()
}

/// The forms of a segment in the order of their texts and marks.
fn segment(forms: &Forms<FormTally>, is_first: bool, renumbered: &Renumbering) -> Segment {
    let text = |number: u32| renumbered.numbers.get(number as usize).copied().unwrap_or(NO_TEXT);
    let mut order: Vec<(u32, u32, u32)> = match is_first {
        true => {
            in_order(forms, renumbered).map(|(form, row, _)| (form, forms.key(row).1.number(), row)).collect()
        }
        false => (0..forms.rows.len() as u32)
            .map(|row| {
                let (spelling, mark) = forms.key(row);
                (text(spelling), mark.number(), row)
            })
            .collect(),
    };
    order.retain(|(_, _, row)| forms.rows[*row as usize].tally.count > 0);
    order.sort_unstable();
    let mut places = vec![NO_TEXT; forms.rows.len()];
    let mut segment = Segment::default();
    for (place, (form, mark, row)) in (0..).zip(order) {
        places[row as usize] = place;
        let row = &forms.rows[row as usize];
        segment.form.push(form);
        segment.mark.push(mark);
        segment.count.push(row.tally.count);
        segment.dropped_at.push(match row.fate() {
            Fate::Dropped { step, .. } => step,
            Fate::Kept { .. } | Fate::Unknown => Segment::STAYS,
        });
    }
    let changes =
        forms.changes.iter().map(|change| (places[change.form as usize], change.step, text(change.to)));
    segment.changes = changes.collect();
    segment.changes.sort_unstable();
    segment
}
