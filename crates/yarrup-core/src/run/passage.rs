//! Accounting for recipes with steps that look at tokens in their order: such a step parts the recipe into segments, and each segment
//! has an account of its own forms. What became of each form of the split is counted token by token.

use hashbrown::HashMap;

use crate::pipeline::{Pipeline, Variant};
use crate::run::intern::Interner;
use crate::step::{Edit, Form, Mark, Outcome, Place, Sequence, SequenceWork};

type Map<K, V> = HashMap<K, V, foldhash::fast::RandomState>;

/// A token on its way through the steps behind the split.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Live {
    /// The number of its spelling now.
    pub(crate) spelling: u32,
    pub(crate) mark: Mark,
    /// The number of the spelling that reports name it by: that of the split, or that of the step that made it.
    pub(crate) origin: u32,
    /// The first and the last of the tokens of the split that it is made of.
    pub(crate) first: u32,
    pub(crate) last: u32,
    /// The spelling that the last `lemma` step gave it or left it.
    pub(crate) lemma: u32,
}

/// No spelling.
pub(crate) const NONE: u32 = u32::MAX;

/// What became of the tokens of a form.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(crate) enum JourneyEnd {
    Kept {
        term: u32,
    },
    Dropped {
        step: u8,
        reason: u16,
    },
    /// Gone into another token, which is named if there is one alone.
    Joined {
        step: u8,
        into: u32,
    },
}

/// How often the tokens of a form met the same fate.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Journey {
    pub(crate) count: u64,
    pub(crate) documents: u32,
    last_document: u32,
}

/// A form in one segment.
#[derive(Clone, Copy, Debug)]
pub(crate) struct SegmentForm {
    pub(crate) spelling: u32,
    pub(crate) count: u64,
    /// The spelling at the segment's end, or none.
    pub(crate) to: u32,
    /// If it is dropped: the step and the reason.
    dropped: Option<(u8, u16)>,
    /// A bit for each step that touches it.
    touch: u64,
    lemma: u32,
}

/// The forms of one segment in documents of one variant.
#[derive(Debug, Default)]
pub(crate) struct SegmentAccount {
    numbers: Map<(u32, Mark), u32>,
    pub(crate) forms: Vec<SegmentForm>,
    /// Form, step, and the spelling that the step gives it.
    pub(crate) changes: Vec<(u32, u32, u32)>,
}

impl SegmentForm {
    /// The step that drops the form.
    pub(crate) fn dropped_at(&self) -> Option<usize> {
        self.dropped.map(|(step, _)| usize::from(step))
    }
}

/// What a step that looks at tokens in their order did.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct SequenceTally {
    pub(crate) tokens_in: u64,
    pub(crate) dropped: u64,
    pub(crate) added: u64,
    pub(crate) changed: u64,
}

/// The accounts of one variant, segment by segment, and the journeys of its forms.
#[derive(Debug, Default)]
pub(crate) struct VariantContext {
    variant: Variant,
    pub(crate) segments: Vec<SegmentAccount>,
    pub(crate) journeys: Map<(u32, Mark, JourneyEnd), Journey>,
}

/// All accounts of a recipe with such steps.
#[derive(Debug, Default)]
pub(crate) struct ContextAccount {
    pub(crate) variants: Vec<VariantContext>,
    /// By the index of the token step; of steps that decide form by form, nothing.
    pub(crate) tallies: Vec<SequenceTally>,
    /// By the number of a term: documents, and the last of them.
    terms: Map<u32, (u32, u32)>,
}

impl ContextAccount {
    pub(crate) fn new(pipeline: &Pipeline) -> ContextAccount {
        ContextAccount {
            tallies: vec![SequenceTally::default(); pipeline.tokens.len()],
            ..ContextAccount::default()
        }
    }

    fn variant(&mut self, variant: Variant, segments: usize) -> usize {
        if let Some(index) = self.variants.iter().position(|known| known.variant == variant) {
            return index;
        }
        let segments = (0..segments).map(|_| SegmentAccount::default()).collect();
        self.variants.push(VariantContext { variant, segments, journeys: Map::default() });
        self.variants.len() - 1
    }

    /// How many documents hold the term with this number.
    pub(crate) fn documents_with(&self, term: u32) -> u64 {
        self.terms.get(&term).map_or(0, |(documents, _)| u64::from(*documents))
    }

    /// Adds what another worker counted; `numbers` are ours for the spellings of the other.
    pub(crate) fn absorb(&mut self, other: ContextAccount, numbers: &[u32]) {
        let ours_of = |number: u32| if number == NONE { NONE } else { numbers[number as usize] };
        for theirs in other.variants {
            let index = self.variant(theirs.variant, theirs.segments.len());
            let ours = &mut self.variants[index];
            for (ours, theirs) in ours.segments.iter_mut().zip(theirs.segments) {
                let mut keys: Vec<((u32, Mark), u32)> = theirs.numbers.into_iter().collect();
                keys.sort_unstable_by_key(|(_, form)| *form);
                let mut new = vec![None; theirs.forms.len()];
                for ((spelling, mark), form) in keys {
                    let theirs = theirs.forms[form as usize];
                    let spelling = ours_of(spelling);
                    match ours.numbers.get(&(spelling, mark)) {
                        Some(&known) => ours.forms[known as usize].count += theirs.count,
                        None => {
                            let number = ours.forms.len() as u32;
                            ours.numbers.insert((spelling, mark), number);
                            let (to, lemma) = (ours_of(theirs.to), ours_of(theirs.lemma));
                            ours.forms.push(SegmentForm { spelling, to, lemma, ..theirs });
                            new[form as usize] = Some(number);
                        }
                    }
                }
                for (form, step, to) in theirs.changes {
                    if let Some(number) = new[form as usize] {
                        ours.changes.push((number, step, ours_of(to)));
                    }
                }
            }
            for ((origin, mark, end), journey) in theirs.journeys {
                let end = match end {
                    JourneyEnd::Kept { term } => JourneyEnd::Kept { term: ours_of(term) },
                    JourneyEnd::Joined { step, into } => JourneyEnd::Joined { step, into: ours_of(into) },
                    dropped @ JourneyEnd::Dropped { .. } => dropped,
                };
                let sum = ours.journeys.entry((ours_of(origin), mark, end)).or_default();
                sum.count += journey.count;
                sum.documents += journey.documents;
            }
        }
        for (ours, theirs) in self.tallies.iter_mut().zip(other.tallies) {
            ours.tokens_in += theirs.tokens_in;
            ours.dropped += theirs.dropped;
            ours.added += theirs.added;
            ours.changed += theirs.changed;
        }
        for (term, (documents, _)) in other.terms {
            self.terms.entry(ours_of(term)).or_default().0 += documents;
        }
    }
}

/// Takes the tokens of a document through all token steps of a pipeline whose steps look at tokens in their order.
pub(crate) struct Passage<'d> {
    pub(crate) pipeline: &'d Pipeline,
    pub(crate) segments: &'d [std::ops::Range<usize>],
    pub(crate) variant: Variant,
    /// By token of the split: whether a sentence or paragraph may begin there.
    pub(crate) begins: &'d [bool],
}

impl Passage<'_> {
    /// Counts what becomes of `live` in the document with this number, from 1. `live` is left with the tokens that are kept. Returns a bit for each step that touched the
    /// document.
    pub(crate) fn go(
        &self,
        account: &mut ContextAccount,
        document: u32,
        spellings: &mut Interner,
        workers: &mut [Option<Box<dyn SequenceWork + '_>>],
        live: &mut Vec<Live>,
    ) -> u64 {
        let index = account.variant(self.variant, self.segments.len());
        let mut touched = 0;
        for (number, segment) in self.segments.iter().enumerate() {
            let own = &mut account.variants[index];
            let (segments, journeys) = (&mut own.segments, &mut own.journeys);
            let forms = &mut segments[number];
            live.retain_mut(|token| {
                let form = match forms.numbers.get(&(token.spelling, token.mark)) {
                    Some(&form) => form,
                    None => self.decide(forms, spellings, segment.clone(), token.spelling, token.mark),
                };
                let form = &mut forms.forms[form as usize];
                form.count += 1;
                touched |= form.touch;
                if form.lemma != NONE {
                    token.lemma = form.lemma;
                }
                if let Some((step, reason)) = form.dropped {
                    finish(journeys, document, token, JourneyEnd::Dropped { step, reason });
                    return false;
                }
                token.spelling = form.to;
                true
            });
            if let Some(stage) = self.pipeline.tokens.get(segment.end)
                && stage.works_on(self.variant)
                && let Some(worker) = workers[segment.end].as_mut()
            {
                let changed =
                    self.look((account, index, document), spellings, segment.end, worker.as_mut(), live);
                touched |= u64::from(changed) << segment.end;
            } else if segment.end < self.pipeline.tokens.len() {
                account.tallies[segment.end].tokens_in += live.len() as u64;
            }
        }
        let own = &mut account.variants[index];
        for token in live.iter() {
            finish(&mut own.journeys, document, token, JourneyEnd::Kept { term: token.spelling });
            let known = account.terms.entry(token.spelling).or_default();
            if known.1 != document {
                *known = (known.0 + 1, document);
            }
        }
        touched
    }

    /// Lets a step look at the tokens in their order. Returns whether it changed anything.
    fn look(
        &self,
        (account, variant, document): (&mut ContextAccount, usize, u32),
        spellings: &mut Interner,
        step: usize,
        worker: &mut dyn SequenceWork,
        live: &mut Vec<Live>,
    ) -> bool {
        let stage = &self.pipeline.tokens[step];
        let before = live.len() as u64;
        let places = live.iter().map(|token| {
            let text = spellings.text(token.spelling);
            Place {
                text,
                tag: token.mark.tag(),
                labels: token.mark.labels(),
                begins: self.begins.get(token.first as usize).copied().unwrap_or(true),
                spared: stage.has_spare()
                    && stage.spares_token(text, crate::kind::Kind::of(text), token.mark),
            }
        });
        let mut sequence = Sequence::new(places.collect());
        worker.document(&mut sequence);
        let (edits, replaced) = sequence.into_edits();
        let tally = &mut account.tallies[step];
        tally.tokens_in += before;
        if edits.is_empty() && (!replaced || before == 0) {
            return false;
        }
        let mut gone: Vec<Option<JourneyEnd>> = vec![None; live.len()];
        let mut added: Vec<Live> = Vec::new();
        let step = step as u8;
        let mut changed_any = replaced;
        for edit in edits {
            match edit {
                Edit::Tag(place, tag) => {
                    let token = &mut live[place as usize];
                    token.mark = token.mark.with_tag(tag);
                    tally.changed += 1;
                }
                Edit::Label(place, labels) => {
                    let token = &mut live[place as usize];
                    token.mark = token.mark.with_labels(labels);
                    tally.changed += 1;
                }
                Edit::Drop(place, reason) => {
                    gone[place as usize] = Some(JourneyEnd::Dropped { step, reason });
                }
                Edit::Join(start, end, text) | Edit::Run(start, end, text) => {
                    let range = start as usize..end as usize;
                    let parts = &live[range.clone()];
                    let spelling = spellings.number(&text);
                    let origin: Vec<&str> = parts.iter().map(|token| spellings.text(token.origin)).collect();
                    let origin = origin.join(" ");
                    let mark = Mark::of_parts(parts.iter().map(|token| token.mark));
                    let (first, last) = (parts[0].first, parts[parts.len() - 1].last);
                    let origin =
                        if range.len() == 1 { live[range.start].origin } else { spellings.number(&origin) };
                    added.push(Live { spelling, mark, origin, first, last, lemma: spelling });
                    if !replaced {
                        for end in &mut gone[range] {
                            *end = Some(JourneyEnd::Joined { step, into: spelling });
                        }
                    }
                }
            }
            changed_any = true;
        }
        if replaced {
            gone.fill(Some(JourneyEnd::Joined { step, into: NONE }));
        }
        let journeys = &mut account.variants[variant].journeys;
        let mut dropped = 0;
        let mut place = 0;
        live.retain(|token| {
            place += 1;
            let Some(end) = gone[place - 1] else { return true };
            finish(journeys, document, token, end);
            dropped += 1;
            false
        });
        let tally = &mut account.tallies[usize::from(step)];
        tally.dropped += dropped;
        tally.added += added.len() as u64;
        if !added.is_empty() {
            live.extend(added);
            // In the order of the text; of those that begin together, the shorter first.
            live.sort_by_key(|token| (token.first, token.last));
        }
        changed_any
    }

    /// Runs the steps of a segment on a form that is seen there for the first time.
    #[cold]
    fn decide(
        &self,
        forms: &mut SegmentAccount,
        spellings: &mut Interner,
        steps: std::ops::Range<usize>,
        spelling: u32,
        mark: Mark,
    ) -> u32 {
        let number = forms.forms.len() as u32;
        let mut now = spellings.text(spelling).to_owned();
        let mut decided =
            SegmentForm { spelling, count: 0, to: spelling, dropped: None, touch: 0, lemma: NONE };
        for index in steps {
            let stage = &self.pipeline.tokens[index];
            match stage.apply(&Form::marked(&now, mark), self.variant) {
                Outcome::Keep => {}
                Outcome::Change(to) => {
                    decided.touch |= 1 << index;
                    decided.to = spellings.number(&to);
                    forms.changes.push((number, index as u32, decided.to));
                    now = to;
                }
                Outcome::Drop(reason) => {
                    decided.touch |= 1 << index;
                    decided.dropped = Some((index as u8, reason));
                    break;
                }
            }
            if stage.runs.gives_lemmas() && stage.works_on(self.variant) {
                decided.lemma = decided.to;
            }
        }
        forms.numbers.insert((spelling, mark), number);
        forms.forms.push(decided);
        number
    }
}

/// Counts a token that met its fate.
fn finish(
    journeys: &mut Map<(u32, Mark, JourneyEnd), Journey>,
    document: u32,
    token: &Live,
    end: JourneyEnd,
) {
    let journey = journeys.entry((token.origin, token.mark, end)).or_default();
    journey.count += 1;
    if journey.last_document != document {
        journey.last_document = document;
        journey.documents += 1;
    }
}
