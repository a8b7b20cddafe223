//! The results of a run, computed once from the ledger: the effect of every step, the vocabulary, the forms.

use crate::part_of_speech::Tag;
use crate::pipeline::{Pipeline, StepName};
use crate::run::ledger::{Fate, Ledger, Totals};
use crate::run::passage::{ContextAccount, JourneyEnd, NONE};
use crate::step::{Mark, Stage, Term};

/// What one step did. A count that does not apply to the step's stage is none.
///
/// For every token step, `tokens_in + tokens_added - tokens_dropped == tokens_out`, and what goes out of one step goes into
/// the next.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Effect {
    /// The step's place in the recipe, from 1; 0 is the text as found.
    pub step: usize,
    /// The operation; `as found` for step 0.
    pub operation: &'static str,
    /// The step's label.
    pub label: Option<String>,
    /// Whether the step does not stand in the recipe but was put in.
    pub put_in: bool,
    /// Documents in which the step changed or dropped something.
    pub documents_touched: Option<u64>,
    /// Tokens that came in.
    pub tokens_in: Option<u64>,
    /// Tokens that the step dropped.
    pub tokens_dropped: Option<u64>,
    /// Tokens that the step added.
    pub tokens_added: Option<u64>,
    /// Tokens that got another spelling.
    pub tokens_changed: Option<u64>,
    /// Tokens that went on.
    pub tokens_out: Option<u64>,
    /// Distinct spellings that came in.
    pub types_in: Option<u64>,
    /// Distinct spellings that went on.
    pub types_out: Option<u64>,
    /// Places that a text step matched.
    pub matches: Option<u64>,
    /// Characters (code points) before a text step.
    pub characters_in: Option<u64>,
    /// Characters (code points) behind a text step.
    pub characters_out: Option<u64>,
}

/// What a text step matched, of one sort.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct MatchRow {
    /// The step's place in the recipe, from 1.
    pub step: usize,
    /// The operation.
    pub operation: &'static str,
    /// The step's label.
    pub label: Option<String>,
    /// The sort of matches; empty for a step that tells none apart.
    pub sort: String,
    /// How often.
    pub count: u64,
    /// In how many documents.
    pub documents: u64,
    /// A few of the texts that matched.
    pub examples: Vec<String>,
}

/// A form and what became of it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct FormRow<'l> {
    /// The spelling at the split.
    pub text: &'l str,
    /// Tokens of this spelling that met this fate.
    pub count: u64,
    /// Documents in which they stand.
    pub documents: u64,
    /// Their part of speech, where the recipe gives one.
    pub tag: Option<Tag>,
    /// What became of them.
    pub fate: FormFate<'l>,
}

/// What became of a form.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum FormFate<'l> {
    /// It became this term.
    Kept {
        /// The term's spelling.
        term: &'l str,
    },
    /// It was dropped.
    Dropped {
        /// The step's place in the recipe, from 1.
        step: usize,
        /// The number of the reason: see [`Account::reason`].
        reason: u16,
    },
    /// It went into another token.
    Joined {
        /// The step's place in the recipe, from 1.
        step: usize,
        /// That token, where there is one alone.
        into: Option<&'l str>,
    },
}

/// Everything that a run's ledger tells, in the order of the reports: by count, then by bytes.
pub struct Account<'l> {
    ledger: &'l Ledger,
    pipeline: &'l Pipeline,
    effects: Vec<Effect>,
    terms: Vec<TermRow>,
    forms: Vec<FormTally>,
    types_found: u64,
}

struct TermRow {
    prefix: u64,
    term: u32,
    forms: u32,
    commonest: u32,
    documents: u32,
    commonest_count: u64,
    count: u64,
    tag: Option<Tag>,
}

struct FormTally {
    prefix: u64,
    form: u32,
    documents: u32,
    count: u64,
    mark: Mark,
    fate: JourneyEnd,
}

impl<'l> Account<'l> {
    /// Computes the results. `ledger` must have been made with `pipeline`.
    pub fn new(ledger: &'l Ledger, pipeline: &'l Pipeline) -> Account<'l> {
        // Three walks over all forms that know nothing of one another.
        let ((effects, types_found), terms, forms) = std::thread::scope(|scope| {
            let terms = scope.spawn(|| match ledger.context() {
                Some(context) => context_terms(ledger, context),
                None => terms(ledger),
            });
            let forms = scope.spawn(|| match ledger.context() {
                Some(context) => context_forms(ledger, context),
                None => forms(ledger),
            });
            (effects(ledger, pipeline), joined(terms), joined(forms))
        });
        let account = Account { ledger, pipeline, effects, terms, forms, types_found };
        debug_assert!(account.is_balanced(), "the books balance");
        account
    }

    /// The counts of the whole run.
    pub fn totals(&self) -> Totals {
        self.ledger.totals()
    }

    /// How many distinct spellings the text had as found.
    pub fn types_found(&self) -> u64 {
        self.types_found
    }

    /// How many terms the vocabulary has.
    pub fn term_count(&self) -> usize {
        self.terms.len()
    }

    /// The effect of every step, the text as found first.
    pub fn effects(&self) -> &[Effect] {
        &self.effects
    }

    /// What the text steps matched, step by step and sort by sort.
    pub fn matches(&self) -> Vec<MatchRow> {
        let mut rows = Vec::new();
        for (stage, tally) in self.pipeline.text.iter().zip(self.ledger.text_steps()) {
            let name = &self.pipeline.steps()[stage.step];
            let mut sorts = stage.runs.sorts();
            sorts.resize(tally.matched.sorts().len().max(sorts.len()), String::new());
            for (sort, seen) in
                sorts.into_iter().zip(tally.matched.sorts()).filter(|(_, seen)| seen.count > 0)
            {
                rows.push(MatchRow {
                    step: name.number,
                    operation: name.operation,
                    label: name.label.clone(),
                    sort,
                    count: seen.count,
                    documents: seen.documents,
                    examples: seen.examples().map(str::to_owned).collect(),
                });
            }
        }
        rows
    }

    /// The vocabulary: by count, then by the term's bytes.
    pub fn vocabulary(&self) -> impl ExactSizeIterator<Item = Term<'l>> + '_ {
        self.terms.iter().map(|row| Term {
            text: self.ledger.text(row.term),
            count: row.count,
            documents: u64::from(row.documents),
            forms: u64::from(row.forms),
            commonest_form: self.ledger.text(row.commonest),
            tag: row.tag,
        })
    }

    /// All forms: by count, then by the form's bytes.
    pub fn forms(&self) -> impl ExactSizeIterator<Item = FormRow<'l>> + '_ {
        self.forms.iter().map(|row| FormRow {
            text: self.ledger.text(row.form),
            count: row.count,
            documents: u64::from(row.documents),
            tag: row.mark.tag(),
            fate: match row.fate {
                JourneyEnd::Dropped { step, reason } => {
                    FormFate::Dropped { step: self.token_step(usize::from(step)).number, reason }
                }
                JourneyEnd::Kept { term } => FormFate::Kept { term: self.ledger.text(term) },
                JourneyEnd::Joined { step, into } => FormFate::Joined {
                    step: self.token_step(usize::from(step)).number,
                    into: (into != NONE).then(|| self.ledger.text(into)),
                },
            },
        })
    }

    /// The name of the step that drops a form, and the reason in words.
    pub fn reason(&self, step: usize, reason: u16) -> (&'l StepName, String) {
        let stage =
            self.pipeline.tokens.iter().find(|stage| self.pipeline.steps()[stage.step].number == step);
        let name = &self.pipeline.steps()[step - 1];
        (name, stage.map(|stage| stage.runs.reason(reason)).unwrap_or_default())
    }

    fn token_step(&self, index: usize) -> &'l StepName {
        &self.pipeline.steps()[self.pipeline.tokens[index].step]
    }

    /// Whether every step's books balance, and the sums of forms and terms are those of the steps.
    pub fn is_balanced(&self) -> bool {
        let totals = self.totals();
        let kept: u64 = self.terms.iter().map(|row| row.count).sum();
        let kept_forms: u64 = self
            .forms
            .iter()
            .filter(|row| matches!(row.fate, JourneyEnd::Kept { .. }))
            .map(|row| row.count)
            .sum();
        let mut before = None;
        let steps_balance = self.effects.iter().filter(|effect| effect.tokens_out.is_some()).all(|effect| {
            let n = |count: Option<u64>| count.unwrap_or(0);
            let balanced = effect.tokens_in.is_none()
                || (effect.tokens_in == before
                    && n(effect.tokens_in) + n(effect.tokens_added)
                        == n(effect.tokens_out) + n(effect.tokens_dropped));
            before = effect.tokens_out;
            balanced
        });
        steps_balance && kept == kept_forms && kept == totals.tokens_kept && before == Some(kept)
    }
}

fn joined<T>(thread: std::thread::ScopedJoinHandle<'_, T>) -> T {
    thread.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic))
}

/// The first eight bytes of a text as a number that sorts as they do. Most ties of the sort end here, without a look at the
/// texts, which lie all over memory.
fn prefix(text: &str) -> u64 {
    let mut first = [0; 8];
    let length = text.len().min(8);
    first[..length].copy_from_slice(&text.as_bytes()[..length]);
    u64::from_be_bytes(first)
}

/// Forms that were counted, variant by variant.
fn counted(ledger: &Ledger) -> impl Iterator<Item = (usize, u32, &crate::run::ledger::FormAccount)> {
    ledger.variants().iter().enumerate().flat_map(|(variant, account)| {
        let forms = account.forms.iter().enumerate();
        forms.filter(|(_, form)| form.count > 0).map(move |(number, form)| (variant, number as u32, form))
    })
}

/// Counts distinct numbers, again and again, without clearing between.
struct Distinct {
    seen: Vec<u32>,
    round: u32,
}

impl Distinct {
    fn count(&mut self, numbers: impl Iterator<Item = u32>) -> u64 {
        self.round += 1;
        let mut distinct = 0;
        for number in numbers {
            let seen = &mut self.seen[number as usize];
            distinct += u64::from(*seen != self.round);
            *seen = self.round;
        }
        distinct
    }
}

fn effects(ledger: &Ledger, pipeline: &Pipeline) -> (Vec<Effect>, u64) {
    let totals = ledger.totals();
    let mut distinct = Distinct { seen: vec![0; ledger.spelling_count()], round: 0 };
    let found = ledger.variants().iter().flat_map(|account| account.forms.iter().enumerate());
    let types_found = distinct.count(found.filter(|(_, form)| form.found).map(|(number, _)| number as u32));
    let mut effects = vec![Effect {
        step: 0,
        operation: "as found",
        tokens_out: Some(totals.tokens_found),
        types_out: Some(types_found),
        characters_out: Some(totals.characters),
        ..Effect::default()
    }];
    let named = |index: usize| {
        let name = &pipeline.steps()[index];
        Effect {
            step: name.number,
            operation: name.operation,
            label: name.label.clone(),
            put_in: name.put_in,
            ..Effect::default()
        }
    };
    for (stage, tally) in pipeline.text.iter().zip(ledger.text_steps()) {
        effects.push(Effect {
            documents_touched: Some(tally.documents),
            matches: Some(tally.matches),
            characters_in: Some(tally.characters_in),
            characters_out: Some(tally.characters_out),
            ..named(stage.step)
        });
    }
    if let Some(context) = ledger.context() {
        effects.extend(context_effects(ledger, pipeline, context, &named));
        return (effects, types_found);
    }
    // What every form is spelled like as the steps go by; none once it is dropped.
    let mut spellings: Vec<Vec<Option<u32>>> = ledger
        .variants()
        .iter()
        .map(|account| {
            let numbered = account.forms.iter().enumerate();
            numbered.map(|(number, form)| (form.count > 0).then_some(number as u32)).collect()
        })
        .collect();
    let mut tokens: u64 = counted(ledger).map(|(_, _, form)| form.count).sum();
    let mut types = distinct.count(spellings.iter().flatten().copied().flatten());
    effects.push(Effect { tokens_out: Some(tokens), types_out: Some(types), ..named(pipeline.split) });
    for (index, stage) in pipeline.tokens.iter().enumerate() {
        let (mut changed, mut dropped) = (0, 0);
        for (spellings, account) in spellings.iter_mut().zip(ledger.variants()) {
            for change in account.changes.iter().filter(|change| change.step as usize == index) {
                spellings[change.form as usize] = Some(change.to);
                changed += account.forms[change.form as usize].count;
            }
            for (spelling, form) in spellings.iter_mut().zip(&account.forms) {
                if matches!(form.fate(), Fate::Dropped { step, .. } if usize::from(step) == index) {
                    *spelling = None;
                    dropped += form.count;
                }
            }
        }
        let types_in = types;
        types = distinct.count(spellings.iter().flatten().copied().flatten());
        effects.push(Effect {
            documents_touched: Some(ledger.touched()[index]),
            tokens_in: Some(tokens),
            tokens_dropped: Some(dropped),
            tokens_added: Some(0),
            tokens_changed: Some(changed),
            tokens_out: Some(tokens - dropped),
            types_in: Some(types_in),
            types_out: Some(types),
            ..named(stage.step)
        });
        tokens -= dropped;
    }
    debug_assert!(
        pipeline.steps().iter().all(|step| step.stage != Stage::TextOrToken),
        "every step has taken its side"
    );
    (effects, types_found)
}

fn terms(ledger: &Ledger) -> Vec<TermRow> {
    const NONE: u32 = u32::MAX;
    let mut rows: Vec<TermRow> = Vec::new();
    let mut row_of = vec![NONE; ledger.spelling_count()];
    // Forms come variant by variant: a form of two variants must be counted once.
    let single = ledger.variants().len() == 1;
    let mut kept: Vec<(u32, u32, u64)> = counted(ledger)
        .filter_map(|(_, number, form)| match form.fate() {
            Fate::Kept { term } => Some((term, number, form.count)),
            _ => None,
        })
        .collect();
    if !single {
        kept.sort_unstable();
        kept.dedup_by(|next, row| {
            let same = (next.0, next.1) == (row.0, row.1);
            if same {
                row.2 += next.2;
            }
            same
        });
    }
    for (term, form, count) in kept {
        if row_of[term as usize] == NONE {
            row_of[term as usize] = rows.len() as u32;
            let documents = ledger
                .variants()
                .iter()
                .filter_map(|v| v.forms.get(term as usize))
                .map(|f| f.term_documents)
                .sum();
            let prefix = prefix(ledger.text(term));
            rows.push(TermRow {
                prefix,
                term,
                forms: 0,
                commonest: form,
                documents,
                commonest_count: 0,
                count: 0,
                tag: None,
            });
        }
        let row = &mut rows[row_of[term as usize] as usize];
        row.forms += 1;
        row.count += count;
        let better = count > row.commonest_count
            || (count == row.commonest_count && ledger.text(form) < ledger.text(row.commonest));
        if better {
            (row.commonest, row.commonest_count) = (form, count);
        }
    }
    sort_terms(ledger, &mut rows);
    rows
}

fn sort_terms(ledger: &Ledger, rows: &mut [TermRow]) {
    rows.sort_unstable_by(|a, b| {
        b.count
            .cmp(&a.count)
            .then(a.prefix.cmp(&b.prefix))
            .then_with(|| ledger.text(a.term).cmp(ledger.text(b.term)))
    });
}

/// The effects from the split on, for a recipe with steps that look at tokens in their order.
fn context_effects(
    ledger: &Ledger,
    pipeline: &Pipeline,
    context: &ContextAccount,
    named: &dyn Fn(usize) -> Effect,
) -> Vec<Effect> {
    let mut distinct = Distinct { seen: vec![0; ledger.spelling_count()], round: 0 };
    let mut effects = Vec::new();
    let mut last: Option<(u64, u64)> = None;
    for (number, segment) in pipeline.segments().into_iter().enumerate() {
        // What every form of the segment is spelled like as its steps go by; none once it is dropped.
        let mut spellings: Vec<Vec<Option<u32>>> = context
            .variants
            .iter()
            .map(|variant| variant.segments[number].forms.iter().map(|form| Some(form.spelling)).collect())
            .collect();
        let forms = || context.variants.iter().flat_map(|variant| &variant.segments[number].forms);
        let mut tokens: u64 = forms().map(|form| form.count).sum();
        let mut types = distinct.count(forms().map(|form| form.spelling));
        if let Some((tokens_in, types_in)) = last {
            let step = segment.start - 1;
            let tally = context.tallies[step];
            effects.push(Effect {
                documents_touched: Some(ledger.touched()[step]),
                tokens_in: Some(tokens_in),
                tokens_dropped: Some(tally.dropped),
                tokens_added: Some(tally.added),
                tokens_changed: Some(tally.changed),
                tokens_out: Some(tokens),
                types_in: Some(types_in),
                types_out: Some(types),
                ..named(pipeline.tokens[step].step)
            });
        } else {
            effects.push(Effect {
                tokens_out: Some(tokens),
                types_out: Some(types),
                ..named(pipeline.split)
            });
        }
        for index in segment {
            let (mut changed, mut dropped) = (0, 0);
            for (spellings, variant) in spellings.iter_mut().zip(&context.variants) {
                let account = &variant.segments[number];
                for &(form, _, to) in account.changes.iter().filter(|(_, step, _)| *step as usize == index) {
                    spellings[form as usize] = Some(to);
                    changed += account.forms[form as usize].count;
                }
                for (spelling, form) in spellings.iter_mut().zip(&account.forms) {
                    if form.dropped_at() == Some(index) {
                        *spelling = None;
                        dropped += form.count;
                    }
                }
            }
            let types_in = types;
            types = distinct.count(spellings.iter().flatten().copied().flatten());
            effects.push(Effect {
                documents_touched: Some(ledger.touched()[index]),
                tokens_in: Some(tokens),
                tokens_dropped: Some(dropped),
                tokens_added: Some(0),
                tokens_changed: Some(changed),
                tokens_out: Some(tokens - dropped),
                types_in: Some(types_in),
                types_out: Some(types),
                ..named(pipeline.tokens[index].step)
            });
            tokens -= dropped;
        }
        last = Some((tokens, types));
    }
    effects
}

/// The vocabulary of a recipe with steps that look at tokens in their order.
fn context_terms(ledger: &Ledger, context: &ContextAccount) -> Vec<TermRow> {
    // By term and form, then by term and tag, each with all its tokens.
    let mut by_form: Vec<(u32, u32, u64)> = Vec::new();
    let mut by_tag: Vec<(u32, Mark, u64)> = Vec::new();
    for ((origin, mark, end), journey) in context.variants.iter().flat_map(|variant| &variant.journeys) {
        if let JourneyEnd::Kept { term } = *end {
            by_form.push((term, *origin, journey.count));
            let tag = mark.tag().map_or(Mark::default(), |tag| Mark::default().with_tag(tag));
            by_tag.push((term, tag, journey.count));
        }
    }
    let mut rows: Vec<TermRow> = Vec::new();
    for (term, form, count) in summed(by_form) {
        let row = match rows.last_mut() {
            Some(row) if row.term == term => row,
            _ => {
                rows.push(TermRow {
                    prefix: prefix(ledger.text(term)),
                    term,
                    forms: 0,
                    commonest: form,
                    documents: u32::try_from(context.documents_with(term)).unwrap_or(u32::MAX),
                    commonest_count: 0,
                    count: 0,
                    tag: None,
                });
                let last = rows.len() - 1;
                &mut rows[last]
            }
        };
        row.forms += 1;
        row.count += count;
        let better = count > row.commonest_count
            || (count == row.commonest_count && ledger.text(form) < ledger.text(row.commonest));
        if better {
            (row.commonest, row.commonest_count) = (form, count);
        }
    }
    // Of tags that are equally common the first by its code.
    let mut tags = summed(by_tag).into_iter().peekable();
    for row in &mut rows {
        let mut most = 0;
        while let Some((_, mark, count)) = tags.next_if(|(term, ..)| *term == row.term) {
            if count > most {
                (row.tag, most) = (mark.tag(), count);
            }
        }
    }
    sort_terms(ledger, &mut rows);
    rows
}

/// Rows of the same two keys added up, in the order of the keys.
fn summed<K: Ord + Copy>(mut rows: Vec<(u32, K, u64)>) -> Vec<(u32, K, u64)> {
    rows.sort_unstable();
    rows.dedup_by(|next, row| {
        let same = (next.0, next.1) == (row.0, row.1);
        if same {
            row.2 += next.2;
        }
        same
    });
    rows
}

/// The forms of a recipe with steps that look at tokens in their order.
fn context_forms(ledger: &Ledger, context: &ContextAccount) -> Vec<FormTally> {
    let mut rows: Vec<FormTally> = context
        .variants
        .iter()
        .flat_map(|variant| &variant.journeys)
        .map(|(&(form, mark, fate), journey)| FormTally {
            prefix: prefix(ledger.text(form)),
            form,
            documents: journey.documents,
            count: journey.count,
            // Labels are no part of the row: what they did is told by the steps that ask for them.
            mark: mark.tag().map_or(Mark::default(), |tag| Mark::default().with_tag(tag)),
            fate,
        })
        .collect();
    rows.sort_unstable_by_key(|row| (row.form, row.mark, row.fate));
    rows.dedup_by(|next, row| {
        let same = (next.form, next.mark, next.fate) == (row.form, row.mark, row.fate);
        if same {
            row.count += next.count;
            row.documents += next.documents;
        }
        same
    });
    sort_forms(ledger, &mut rows);
    rows
}

fn forms(ledger: &Ledger) -> Vec<FormTally> {
    let mut rows: Vec<FormTally> = counted(ledger)
        .map(|(_, form, account)| FormTally {
            prefix: prefix(ledger.text(form)),
            form,
            documents: account.documents,
            count: account.count,
            mark: Mark::default(),
            fate: match account.fate() {
                Fate::Kept { term } => JourneyEnd::Kept { term },
                Fate::Dropped { step, reason } => JourneyEnd::Dropped { step, reason },
                Fate::Unknown => JourneyEnd::Kept { term: form },
            },
        })
        .collect();
    if ledger.variants().len() > 1 {
        rows.sort_unstable_by_key(|row| (row.form, row.fate));
        rows.dedup_by(|next, row| {
            let same = (next.form, next.fate) == (row.form, row.fate);
            if same {
                row.count += next.count;
                row.documents += next.documents;
            }
            same
        });
    }
    sort_forms(ledger, &mut rows);
    rows
}

/// A form with two fates has two rows; the one that was kept comes first, then by step.
fn sort_forms(ledger: &Ledger, rows: &mut [FormTally]) {
    rows.sort_unstable_by(|a, b| {
        let fate = |row: &FormTally| match row.fate {
            JourneyEnd::Dropped { step, reason } => (1, step, reason, ""),
            JourneyEnd::Kept { term } => (0, 0, 0, ledger.text(term)),
            JourneyEnd::Joined { step, into } if into == NONE => (2, step, 0, ""),
            JourneyEnd::Joined { step, into } => (2, step, 0, ledger.text(into)),
        };
        b.count
            .cmp(&a.count)
            .then(a.prefix.cmp(&b.prefix))
            .then_with(|| ledger.text(a.form).cmp(ledger.text(b.form)))
            .then_with(|| a.mark.cmp(&b.mark))
            .then_with(|| fate(a).cmp(&fate(b)))
    });
}

/// How many of the commonest terms cover a share of all tokens.
///
/// `counts` must fall; `share` is between 0 and 1. Returns 0 for an empty vocabulary.
pub fn terms_to_cover(counts: impl IntoIterator<Item = u64>, total: u64, share: f64) -> usize {
    let wanted = share * total as f64;
    let mut covered = 0;
    for (index, count) in counts.into_iter().enumerate() {
        covered += count;
        if covered as f64 >= wanted {
            return index + 1;
        }
    }
    0
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn coverage_counts_the_commonest_terms() {
        let counts = [50, 30, 10, 5, 5];
        assert_eq!(terms_to_cover(counts, 100, 0.5), 1);
        assert_eq!(terms_to_cover(counts, 100, 0.8), 2);
        assert_eq!(terms_to_cover(counts, 100, 0.95), 4);
        assert_eq!(terms_to_cover([], 0, 0.5), 0);
    }
}
