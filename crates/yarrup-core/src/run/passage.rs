//! The one way of tokens through the token steps.
//!
//! A step that looks at a document as a whole, or at its tokens in their order, parts the token steps into segments. Within a segment each
//! form is decided about once. Who wants to know what becomes of tokens observes the passage: the ledger counts, `try` and `check` write down
//! every step.

use std::ops::Range;

use crate::kind::Kind;
use crate::part_of_speech::Tag;
use crate::pipeline::{Pipeline, TokenStage, TokenWork, Variant};
use crate::run::forms::{Fate, FormRow, Forms, Map, NONE, TokenFate, without_spaces};
use crate::run::intern::Interner;
use crate::span::Span;
use crate::step::{
    Arriving, Document, Edit, Edits, Form, Gap, Mark, Outcome, Place, Sequence, SequenceWork, Spelling,
    TokenStep,
};

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

impl Live {
    #[inline]
    fn split(spelling: u32, place: u32) -> Live {
        Live { spelling, mark: Mark::default(), origin: spelling, first: place, last: place, lemma: NONE }
    }
}

/// What a step that looks at tokens in their order makes of one of them.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Regard {
    /// It goes on as it is.
    Kept,
    /// It gets a part of speech.
    Tagged(Tag),
    /// It gets labels, a bit for each.
    Labelled(u32),
    /// It gets this spelling.
    Changed(u32),
    /// It is dropped, for the reason with this number.
    Dropped(u16),
    /// It goes into the token with this spelling; [`NONE`] if there are several.
    Joined(u32),
}

/// What a step makes of the tokens of a document.
enum Regarded {
    /// Parts of speech, and nothing else.
    Tags(Vec<Option<Tag>>),
    /// What the regards tell; and which tokens it must leave alone, where lemmas are wanted.
    All { spared: Vec<bool> },
}

/// What a step made of the tokens of a document that it looked at in their order.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Look<'l> {
    /// The index of the token step.
    pub(crate) step: usize,
    /// The tokens that came to it.
    pub(crate) before: &'l [Live],
    /// What became of each of these.
    pub(crate) regards: &'l [Regard],
    /// The tokens that it made of others.
    pub(crate) added: &'l [Live],
}

impl Look<'_> {
    /// Whether the step left every token as it was.
    pub(crate) fn is_idle(&self) -> bool {
        self.added.is_empty() && self.regards.iter().all(|regard| *regard == Regard::Kept)
    }
}

/// The tokens of the document at hand as they leave some steps, for the passages of other recipes that begin alike. They number spellings alike.
#[derive(Debug, Default)]
pub(super) struct Halts(pub(super) Vec<Halt>);

/// The tokens of the document at hand as they leave a step.
#[derive(Debug, Default)]
pub(super) struct Halt {
    /// The index of the step.
    pub(super) step: usize,
    /// The tokens, in order. None where a step before has left the document out.
    pub(super) tokens: Vec<Live>,
    /// The same, those that are alike together.
    pub(super) groups: Vec<Alike>,
    /// By variant: the forms that have come here. They are numbered as they are by every passage that takes tokens on from here.
    forms: Vec<(Variant, Forms<()>)>,
    /// By the row of a form: its place among the groups of the document at hand, if it is there.
    places: Vec<u32>,
}

/// Tokens of a document that are alike, as they come to a segment.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Alike {
    /// The row of their form there.
    pub(crate) row: u32,
    pub(crate) spelling: u32,
    pub(crate) mark: Mark,
    pub(crate) origin: u32,
    /// How many they are.
    pub(crate) tokens: u32,
}

impl Halts {
    pub(super) fn behind(steps: Vec<usize>) -> Halts {
        Halts(steps.into_iter().map(|step| Halt { step, ..Halt::default() }).collect())
    }

    fn clear(&mut self) {
        for halt in &mut self.0 {
            halt.tokens.clear();
            halt.groups.clear();
        }
    }

    fn note(&mut self, step: usize, variant: Variant, live: &[Live]) {
        if let Some(halt) = self.0.iter_mut().find(|halt| halt.step == step) {
            halt.note(variant, live);
        }
    }
}

impl Halt {
    /// All of it; what stays is of the same step.
    pub(super) fn lent(&mut self) -> Halt {
        let step = self.step;
        std::mem::replace(self, Halt { step, ..Halt::default() })
    }

    fn note(&mut self, variant: Variant, live: &[Live]) {
        self.tokens.extend_from_slice(live);
        let at = self.forms.iter().position(|(known, _)| *known == variant).unwrap_or_else(|| {
            self.forms.push((variant, Forms::default()));
            self.forms.len() - 1
        });
        let forms = &mut self.forms[at].1;
        for token in live {
            let (row, _) = forms.of_form(token.spelling, token.mark);
            let place = row as usize;
            if place >= self.places.len() {
                self.places.resize(place + 1, NONE);
            }
            match self.groups.get_mut(self.places[place] as usize) {
                Some(group) if group.row == row && group.origin == token.origin => group.tokens += 1,
                _ => {
                    self.places[place] = self.groups.len() as u32;
                    let Live { spelling, mark, origin, .. } = *token;
                    self.groups.push(Alike { row, spelling, mark, origin, tokens: 1 });
                }
            }
        }
    }
}

/// Is told what becomes of the tokens of a document. Every token of the split, and every one that a step makes, has one end.
pub(crate) trait Observer {
    /// What the observer keeps of each form of a segment.
    type Tally: Copy + Default;

    /// The steps of a segment have decided about the form of this row; `changes` are the changes of its spelling.
    fn decided(&mut self, _forms: &mut Forms<Self::Tally>, _row: u32, _changes: Range<u32>) {}

    /// A token came to a segment as the form of this row.
    fn met(&mut self, _forms: &mut Forms<Self::Tally>, _row: u32, _token: &Live) {}

    /// All tokens have passed the segment of these steps.
    fn passed(&mut self, _steps: Range<usize>, _forms: &Forms<Self::Tally>, _spellings: &Interner) {}

    /// A step has looked at the tokens in their order. The ends of those that go no further are told besides.
    fn looked(&mut self, _look: Look<'_>, _spellings: &Interner) {}

    /// A step has decided about the whole document, which goes on without a `reason` to drop it.
    fn judged(&mut self, _step: usize, _reason: Option<u16>, _tokens: &[Live], _spellings: &Interner) {}

    /// A token ended here: it was dropped.
    fn dropped(&mut self, _token: &Live, _step: usize, _reason: u16) {}

    /// A token ended here: it became part of others.
    fn joined(&mut self, _token: &Live, _step: usize, _into: u32) {}

    /// Whether the observer counts the ends of tokens by the rows of the last segment. Then it is told of tokens that come there once, by
    /// [`Observer::ended`], and of tokens that only get a part of speech by their number, by [`Observer::marked`].
    fn counts_rows(&self) -> bool {
        false
    }

    /// Tokens have come to the last segment of several, each as the form of its row, and end there. `first` are the forms of the first segment.
    fn ended(
        &mut self,
        _first: &mut Forms<Self::Tally>,
        _last: &mut Forms<Self::Tally>,
        _rows: &[u32],
        _tokens: &[Live],
    ) {
    }

    /// A step has given parts of speech to so many tokens, and done nothing else.
    fn marked(&mut self, _step: usize, _tokens: u64) {}

    /// A token has come through all steps. `forms` are those of the first segment, with a row for each spelling.
    fn kept(&mut self, _forms: &mut Forms<Self::Tally>, _token: &Live) {}
}

/// How many forms are looked up together, and how many tokens are told to an observer at most.
pub(super) const TOGETHER: usize = 32;

/// For each variant of documents, its forms in each segment of the token steps.
pub(crate) type FormsByVariant<T> = Vec<(Variant, Vec<Forms<T>>)>;

/// The token steps of a pipeline with all that they have decided so far. `T` is what an observer keeps of each form.
pub(crate) struct Passage<'p, T> {
    pipeline: &'p Pipeline,
    segments: Vec<Range<usize>>,
    /// By token step: what works on tokens in their order.
    workers: Vec<Option<Box<dyn SequenceWork + 'p>>>,
    /// By variant: the forms of each segment.
    variants: FormsByVariant<T>,
    pub(crate) spellings: Interner,
    wants_lemmas: bool,
    /// Whether the tokens that have come through are to be looked at behind all steps.
    keeps: bool,
    /// What stands in the place of white space that a step puts into a token.
    join: String,
    live: Vec<Live>,
    regards: Vec<Regard>,
    pub(super) halts: Halts,
}

/// A document on its way through the token steps.
pub(crate) struct Tokens<'d> {
    pub(crate) variant: Variant,
    /// By token of the split: the number of its form.
    pub(crate) numbers: &'d [u32],
    /// By token of the split: what stands before it. Only for a passage that parts.
    pub(crate) gaps: &'d [Gap],
    /// How many tokens the text had as found.
    pub(crate) tokens_before: u64,
    /// The document as it was found, for steps that decide about it.
    pub(crate) document: Document<'d>,
}

impl<'p, T: Copy + Default> Passage<'p, T> {
    /// The way through the first `steps` token steps. Tokens carry their lemmas along only if that is wanted.
    pub(crate) fn new(pipeline: &'p Pipeline, steps: usize, wants_lemmas: bool) -> Passage<'p, T> {
        Passage::beginning(pipeline, steps, wants_lemmas, false)
    }

    /// The way to the token step with this index, which looks at the tokens that have come there: see [`Passage::arrived`].
    pub(crate) fn to_step(pipeline: &'p Pipeline, step: usize) -> Passage<'p, T> {
        Passage::beginning(pipeline, step, false, true)
    }

    fn beginning(pipeline: &'p Pipeline, steps: usize, wants_lemmas: bool, keeps: bool) -> Passage<'p, T> {
        let stages = &pipeline.tokens[..steps.min(pipeline.tokens.len())];
        let workers = stages.iter().map(|stage| match &stage.work {
            TokenWork::Sequence(step) => Some(step.worker()),
            TokenWork::FormInOrder(step) => {
                Some(Box::new(EachForm { step: step.as_ref(), known: Map::default() })
                    as Box<dyn SequenceWork>)
            }
            TokenWork::Form(_) | TokenWork::Document(_) => None,
        });
        Passage {
            pipeline,
            segments: segments(pipeline, stages.len()),
            workers: workers.collect(),
            variants: Vec::new(),
            spellings: Interner::default(),
            wants_lemmas: wants_lemmas && stages.iter().any(|stage| stage.facts().gives_lemmas()),
            keeps,
            join: pipeline.join_sign().to_owned(),
            live: Vec::new(),
            regards: Vec::new(),
            halts: Halts::default(),
        }
    }

    /// Whether some step looks at more than one token at a time.
    pub(crate) fn parts(&self) -> bool {
        self.keeps || self.segments.len() > 1
    }

    /// How many segments there are.
    pub(crate) fn segment_count(&self) -> usize {
        self.segments.len()
    }

    /// The index of a variant's forms.
    pub(crate) fn variant(&mut self, variant: Variant) -> usize {
        if let Some(index) = self.variants.iter().position(|(known, _)| *known == variant) {
            return index;
        }
        self.variants.push((variant, self.segments.iter().map(|_| Forms::default()).collect()));
        self.variants.len() - 1
    }

    /// The variants with the forms of each segment, and the spellings that they are numbered by.
    pub(crate) fn into_forms(self) -> (FormsByVariant<T>, Interner) {
        (self.variants, self.spellings)
    }

    /// What the first segment makes of a form, and the steps of it that touch the form, a bit for each.
    pub(crate) fn fate(&mut self, index: usize, variant: Variant, form: u32) -> (Fate, u64) {
        let forms = &mut self.variants[index].1[0];
        if !forms.has_decided(form) {
            forms.of_spelling(form);
            let steps = self.segments[0].clone();
            let stages = (&self.pipeline.tokens[steps.clone()], steps.start);
            forms.decide(form, stages, variant, &mut self.spellings, &self.join);
        }
        (forms.rows[form as usize].fate(), forms.touch(form))
    }

    /// Takes the tokens of a document through the steps.
    pub(crate) fn document<O: Observer<Tally = T>>(&mut self, tokens: &Tokens<'_>, observer: &mut O) {
        let index = self.variant(tokens.variant);
        if !self.parts() {
            // The form alone decides: the fast loop.
            self.first_segment(index, tokens, observer, |observer, forms, token| observer.kept(forms, token));
            self.pass_told(index, 0, observer);
            return;
        }
        let mut live = std::mem::take(&mut self.live);
        live.clear();
        self.first_segment(index, tokens, observer, |_, _, token| live.push(*token));
        self.pass_told(index, 0, observer);
        self.pass_on(index, (1, false), tokens, &mut live, observer);
        self.live = live;
    }

    /// As [`Passage::document`], of a passage that parts, where it is known and counted what the first segment makes of each token of the split.
    pub(crate) fn go_on_decided<O: Observer<Tally = T>>(
        &mut self,
        fates: &[TokenFate],
        tokens: &Tokens<'_>,
        observer: &mut O,
    ) {
        let index = self.variant(tokens.variant);
        let mut live = std::mem::take(&mut self.live);
        live.clear();
        self.live_of(index, fates, &mut live);
        self.pass_on(index, (1, false), tokens, &mut live, observer);
        self.live = live;
    }

    /// Takes tokens on that have come to the segment behind the step with this index, which is no step that decides form by form. `is_left_out` says whether a step
    /// has left the document out already.
    pub(crate) fn go_on_behind<O: Observer<Tally = T>>(
        &mut self,
        (step, is_left_out): (usize, bool),
        arrived: &[Live],
        tokens: &Tokens<'_>,
        observer: &mut O,
    ) {
        let index = self.variant(tokens.variant);
        let mut live = std::mem::take(&mut self.live);
        live.clear();
        live.extend_from_slice(arrived);
        let segment = self.segment_behind(step);
        self.pass_segment(index, segment, tokens.variant, &mut live, observer);
        self.pass_on(index, (segment + 1, is_left_out), tokens, &mut live, observer);
        self.live = live;
    }

    /// The number of the segment behind a step that does not decide form by form.
    pub(crate) fn segment_behind(&self, step: usize) -> usize {
        self.segments.iter().position(|steps| steps.start == step + 1).unwrap_or(0)
    }

    /// Whether no step looks at more than one token behind this one.
    pub(crate) fn is_last_part(&self, step: usize) -> bool {
        self.segment_behind(step) + 1 == self.segments.len()
    }

    /// The forms of the first segment and of the last, which has decided about all of these tokens. Of such whose form is new, the row is the next.
    #[inline]
    pub(super) fn last_segment(
        &mut self,
        index: usize,
        of: Variant,
        groups: &[Alike],
    ) -> Option<(&mut Forms<T>, &mut Forms<T>)> {
        let Some((first, [.., last])) = self.variants[index].1.split_first_mut() else { return None };
        for alike in groups {
            if alike.row as usize == last.rows.len() {
                last.add_form(alike.spelling, alike.mark);
                let steps = self.segments[self.segments.len() - 1].clone();
                let stages = (&self.pipeline.tokens[steps.clone()], steps.start);
                last.decide(alike.row, stages, of, &mut self.spellings, &self.join);
            }
        }
        Some((first, last))
    }

    /// Gives every form that came to the last segment, of which the row tells the ends: its spelling and mark there, its fate, and what was kept of it.
    pub(super) fn each_of_last_segment(&self, mut give: impl FnMut((u32, Mark), Fate, &T)) {
        for forms in self.variants.iter().filter_map(|(_, segments)| segments.last()) {
            for (row, number) in forms.rows.iter().zip(0..).filter(|(row, _)| !row.told_apart) {
                give(forms.key(number), row.fate(), &row.tally);
            }
        }
    }

    /// Gives every form that the first segment drops: its spelling, its fate, and what was kept of it.
    pub(super) fn each_dropped_first(&self, mut give: impl FnMut(u32, Fate, &T)) {
        for forms in self.variants.iter().filter_map(|(_, segments)| segments.first()) {
            for (row, spelling) in forms.rows.iter().zip(0..) {
                if let fate @ Fate::Dropped { .. } = row.fate() {
                    give(spelling, fate, &row.tally);
                }
            }
        }
    }

    /// How many token steps the first segment has.
    pub(super) fn first_steps(&self) -> usize {
        self.segments[0].end
    }

    /// Whether the tokens that have come through are looked at behind all steps.
    pub(super) fn keeps(&self) -> bool {
        self.keeps
    }

    /// What the last segment makes of a form that came to it.
    pub(super) fn last_fate(&self, of: Variant, row: u32) -> Option<Fate> {
        let (_, segments) = self.variants.iter().find(|(known, _)| *known == of)?;
        segments.last()?.rows.get(row as usize).map(FormRow::fate)
    }

    /// The forms of the first segment, which have a row for each spelling.
    #[inline]
    pub(crate) fn first_forms(&mut self, index: usize) -> &mut Forms<T> {
        &mut self.variants[index].1[0]
    }

    /// Takes tokens through the segments from this one on, with the steps before each.
    fn pass_on<O: Observer<Tally = T>>(
        &mut self,
        index: usize,
        (first, mut is_left_out): (usize, bool),
        tokens: &Tokens<'_>,
        live: &mut Vec<Live>,
        observer: &mut O,
    ) {
        self.halts.clear();
        for number in first..self.segments.len() {
            let step = self.segments[number].start - 1;
            let stage = &self.pipeline.tokens[step];
            if stage.works_on(tokens.variant) && !is_left_out {
                match &stage.work {
                    TokenWork::Sequence(_) | TokenWork::FormInOrder(_) => {
                        self.look(step, tokens, live, observer);
                    }
                    TokenWork::Document(_) => is_left_out = self.judge(step, tokens, live, observer),
                    TokenWork::Form(_) => {}
                }
            }
            self.halts.note(step, tokens.variant, live);
            self.pass_segment(index, number, tokens.variant, live, observer);
        }
        if observer.counts_rows() {
            return;
        }
        let forms = &mut self.variants[index].1[0];
        for token in live.iter() {
            observer.kept(forms, token);
        }
    }

    /// Takes the distinct forms of a document through the steps, each with how many tokens it has: of a passage of one segment, whose forms have one end
    /// each. `count` is given each form's row and its tokens, and the term that they become, if they are kept.
    pub(crate) fn distinct(
        &mut self,
        variant: Variant,
        forms: &[(u32, u32)],
        mut count: impl FnMut(&mut Forms<T>, u32, u32, Option<u32>),
    ) {
        let index = self.variant(variant);
        // Where a row lies in memory cannot be foreseen, and what becomes of a form neither: many rows are looked at before the first is decided upon.
        let mut fates = [Fate::Unknown; TOGETHER];
        for forms in forms.chunks(TOGETHER) {
            let rows = &self.variants[index].1[0].rows;
            for (fate, (number, _)) in fates.iter_mut().zip(forms) {
                *fate = rows.get(*number as usize).map_or(Fate::Unknown, FormRow::fate);
            }
            for (fate, &(number, tokens)) in fates.iter().zip(forms) {
                let fate = match fate {
                    Fate::Unknown => self.fate(index, variant, number).0,
                    known => *known,
                };
                let term = match fate {
                    Fate::Kept { to } => Some(to),
                    Fate::Dropped { .. } | Fate::Unknown => None,
                };
                count(&mut self.variants[index].1[0], number, tokens, term);
            }
        }
    }

    /// The term that the tokens of a form of the last document become, of a passage of one segment.
    pub(crate) fn term_of(&self, variant: Variant, form: u32) -> Option<u32> {
        let (_, segments) = self.variants.iter().find(|(known, _)| *known == variant)?;
        match segments.first()?.rows.get(form as usize)?.fate() {
            Fate::Kept { to } => Some(to),
            Fate::Dropped { .. } | Fate::Unknown => None,
        }
    }

    fn pass_told<O: Observer<Tally = T>>(&self, variant: usize, segment: usize, observer: &mut O) {
        let steps = self.segments[segment].clone();
        observer.passed(steps, &self.variants[variant].1[segment], &self.spellings);
    }

    /// The loop that most of the time is spent in: a look at the form's row, and counting. `go_on` gets each token that leaves the segment.
    #[inline]
    fn first_segment<O: Observer<Tally = T>>(
        &mut self,
        variant: usize,
        tokens: &Tokens<'_>,
        observer: &mut O,
        mut go_on: impl FnMut(&mut O, &mut Forms<T>, &Live),
    ) {
        let forms = &mut self.variants[variant].1[0];
        let steps = self.segments[0].clone();
        for (place, &number) in (0..).zip(tokens.numbers) {
            if !forms.has_decided(number) {
                let start = forms.changes.len() as u32;
                forms.of_spelling(number);
                let stages = (&self.pipeline.tokens[steps.clone()], steps.start);
                forms.decide(number, stages, tokens.variant, &mut self.spellings, &self.join);
                let end = forms.changes.len() as u32;
                observer.decided(forms, number, start..end);
            }
            let mut token = Live::split(number, place);
            observer.met(forms, number, &token);
            match forms.rows[number as usize].fate() {
                Fate::Kept { to } => {
                    token.spelling = to;
                    if self.wants_lemmas {
                        token.lemma = forms.lemma(number);
                    }
                    go_on(observer, forms, &token);
                }
                Fate::Dropped { step, reason } => observer.dropped(&token, usize::from(step), reason),
                Fate::Unknown => {}
            }
        }
    }

    /// Takes tokens through a segment behind the first; where they are counted by its rows, to their ends in the last.
    fn pass_segment<O: Observer<Tally = T>>(
        &mut self,
        variant: usize,
        segment: usize,
        of: Variant,
        live: &mut Vec<Live>,
        observer: &mut O,
    ) {
        if segment + 1 == self.segments.len() && observer.counts_rows() {
            self.end_by_rows(variant, of, live, observer);
        } else {
            self.later_segment(variant, segment, of, live, observer);
            self.pass_told(variant, segment, observer);
        }
    }

    /// The tokens that leave the first segment, of a document of which it is known what that makes of each.
    fn live_of(&mut self, variant: usize, fates: &[TokenFate], live: &mut Vec<Live>) {
        let forms = &self.variants[variant].1[0];
        let kept = (0..).zip(fates).filter_map(|(place, fate)| Some(Live::split(fate.as_kept()?, place)));
        if forms.changes.is_empty() {
            live.extend(kept);
            return;
        }
        live.extend(kept.map(|token| match forms.rows[token.spelling as usize].fate() {
            Fate::Kept { to } => Live { spelling: to, ..token },
            Fate::Dropped { .. } | Fate::Unknown => token,
        }));
    }

    /// Takes tokens to their ends in the last segment.
    fn end_by_rows<O: Observer<Tally = T>>(
        &mut self,
        variant: usize,
        of: Variant,
        live: &[Live],
        observer: &mut O,
    ) {
        let Some((first, [.., last])) = self.variants[variant].1.split_first_mut() else { return };
        let steps = self.segments[self.segments.len() - 1].clone();
        let stages = (&self.pipeline.tokens[steps.clone()], steps.start);
        let mut rows = [0; TOGETHER];
        for tokens in live.chunks(TOGETHER) {
            for (row, token) in rows.iter_mut().zip(tokens) {
                let (own, is_new) = last.of_form(token.spelling, token.mark);
                if is_new {
                    last.decide(own, stages, of, &mut self.spellings, &self.join);
                }
                *row = own;
            }
            observer.ended(first, last, &rows[..tokens.len()], tokens);
        }
    }

    fn later_segment<O: Observer<Tally = T>>(
        &mut self,
        variant: usize,
        segment: usize,
        of: Variant,
        live: &mut Vec<Live>,
        observer: &mut O,
    ) {
        let forms = &mut self.variants[variant].1[segment];
        let steps = self.segments[segment].clone();
        live.retain_mut(|token| {
            let (row, is_new) = forms.of_form(token.spelling, token.mark);
            if is_new {
                let start = forms.changes.len() as u32;
                let stages = (&self.pipeline.tokens[steps.clone()], steps.start);
                forms.decide(row, stages, of, &mut self.spellings, &self.join);
                let end = forms.changes.len() as u32;
                observer.decided(forms, row, start..end);
            }
            observer.met(forms, row, token);
            match forms.rows[row as usize].fate() {
                Fate::Kept { to } => {
                    token.spelling = to;
                    let lemma = if self.wants_lemmas { forms.lemma(row) } else { NONE };
                    if lemma != NONE {
                        token.lemma = lemma;
                    }
                    true
                }
                Fate::Dropped { step, reason } => {
                    observer.dropped(token, usize::from(step), reason);
                    false
                }
                Fate::Unknown => true,
            }
        });
    }

    /// The tokens of the last document that have come through all steps, as the step behind them is shown them.
    pub(crate) fn arrived<'s>(&'s self, stage: Option<&TokenStage>, tokens: &Tokens<'_>) -> Vec<Place<'s>> {
        self.places(stage, tokens, &self.live)
    }

    /// The first and the last token of the split that the tokens are made of which have come through all steps.
    pub(crate) fn reach(&self) -> Option<(u32, u32)> {
        let first = self.live.iter().map(|token| token.first).min()?;
        Some((first, self.live.iter().map(|token| token.last).max()?))
    }

    /// The tokens as a step is shown them that looks at more than one.
    fn places<'s>(
        &'s self,
        stage: Option<&TokenStage>,
        tokens: &Tokens<'_>,
        live: &[Live],
    ) -> Vec<Place<'s>> {
        let mut before: Option<u32> = None;
        let stage = stage.filter(|stage| stage.spares_any());
        let place = |token: &Live| {
            let gap = self.gap(before, token.first, tokens);
            before = Some(before.map_or(token.last, |before| before.max(token.last)));
            let spared = stage
                .is_some_and(|stage| stage.spares_token(self.spellings.text(token.spelling), token.mark));
            Place {
                spelling: Spelling::Known(&self.spellings),
                number: token.spelling,
                tag: token.mark.tag(),
                labels: token.mark.labels(),
                gap,
                spared,
            }
        };
        let mut places: Vec<Place<'_>> = live.iter().map(place).collect();
        if let Some(stage) = stage {
            stage.spare_runs(&mut places);
        }
        places
    }

    /// What stands before a token that begins with this token of the split: the widest of the gaps since the token `before`, and of what is left
    /// of the tokens between them that were dropped.
    fn gap(&self, before: Option<u32>, first: u32, tokens: &Tokens<'_>) -> Gap {
        let Some(before) = before else { return Gap::Paragraph };
        if first == before + 1 {
            return tokens.gaps.get(first as usize).copied().unwrap_or_default();
        }
        // Tokens may overlap: runs of characters do.
        let gaps = tokens.gaps.get(before as usize + 1..=first as usize).unwrap_or_default();
        let mut widest = gaps.iter().copied().max().unwrap_or_default();
        for dropped in tokens.numbers.get(before as usize + 1..first as usize).unwrap_or_default() {
            if widest >= Gap::Mark {
                break;
            }
            widest = widest.max(Gap::of_token(self.spellings.text(*dropped)));
        }
        widest
    }

    /// Lets a step decide about the whole document. Returns whether it is left out.
    fn judge<O: Observer<Tally = T>>(
        &mut self,
        step: usize,
        tokens: &Tokens<'_>,
        live: &mut Vec<Live>,
        observer: &mut O,
    ) -> bool {
        let pipeline = self.pipeline;
        let TokenWork::Document(judge) = &pipeline.tokens[step].work else { return false };
        let places = self.places(Some(&pipeline.tokens[step]), tokens, live);
        let (document, tokens_before) = (&tokens.document, tokens.tokens_before);
        let reason = judge.judge(&Arriving { document, tokens_before, tokens: &places });
        observer.judged(step, reason, live, &self.spellings);
        if let Some(reason) = reason {
            for token in live.drain(..) {
                observer.dropped(&token, step, reason);
            }
        }
        reason.is_some()
    }

    /// Lets a step look at the tokens in their order.
    fn look<O: Observer<Tally = T>>(
        &mut self,
        step: usize,
        tokens: &Tokens<'_>,
        live: &mut Vec<Live>,
        observer: &mut O,
    ) {
        let mut regards = std::mem::take(&mut self.regards);
        regards.clear();
        let mut added: Vec<Live> = Vec::new();
        let regarded = self.regard(step, tokens, live, &mut regards, &mut added);
        let spared = match regarded {
            Regarded::Tags(tags) if observer.counts_rows() => {
                let mut marked = 0;
                for (token, tag) in live.iter_mut().zip(tags) {
                    if let Some(tag) = tag {
                        token.mark = token.mark.with_tag(tag);
                        marked += 1;
                    }
                }
                observer.marked(step, marked);
                self.regards = regards;
                return;
            }
            Regarded::Tags(tags) => {
                regards.extend(tags.into_iter().map(|tag| tag.map_or(Regard::Kept, Regard::Tagged)));
                Vec::new()
            }
            Regarded::All { spared } => spared,
        };
        let wants_lemmas = self.wants_lemmas && self.pipeline.tokens[step].facts().gives_lemmas();
        let look = Look { step, before: live, regards: &regards, added: &added };
        observer.looked(look, &self.spellings);
        let mut place = 0;
        live.retain_mut(|token| {
            let regard = regards[place];
            place += 1;
            match regard {
                Regard::Kept => return true,
                Regard::Tagged(tag) => token.mark = token.mark.with_tag(tag),
                Regard::Labelled(labels) => token.mark = token.mark.with_labels(labels),
                Regard::Changed(to) => token.spelling = to,
                Regard::Dropped(reason) => observer.dropped(token, step, reason),
                Regard::Joined(into) => observer.joined(token, step, into),
            }
            matches!(regard, Regard::Tagged(_) | Regard::Labelled(_) | Regard::Changed(_))
        });
        if wants_lemmas {
            // Such a step drops some tokens and changes others, but makes none of several.
            let left =
                spared.iter().zip(&regards).filter(|(_, regard)| !matches!(regard, Regard::Dropped(_)));
            for (token, (spared, _)) in live.iter_mut().zip(left) {
                let is_word = Kind::of(self.spellings.text(token.spelling)) == Kind::Word;
                token.lemma = if is_word && !spared { token.spelling } else { token.lemma };
            }
        }
        self.regards = regards;
        if !added.is_empty() {
            live.extend(added);
            // In the order of the text; of those that begin together, the shorter first.
            live.sort_by_key(|token| (token.first, token.last));
        }
    }

    /// Asks a step what it makes of each token, and which it makes of others.
    fn regard(
        &mut self,
        step: usize,
        tokens: &Tokens<'_>,
        live: &[Live],
        regards: &mut Vec<Regard>,
        added: &mut Vec<Live>,
    ) -> Regarded {
        let Some(mut worker) = self.workers[step].take() else {
            regards.resize(live.len(), Regard::Kept);
            return Regarded::All { spared: Vec::new() };
        };
        let stage = &self.pipeline.tokens[step];
        let places = self.places(Some(stage), tokens, live);
        let mut sequence = Sequence::new(places);
        worker.document(&mut sequence);
        let Edits { tokens: places, tags, edits, replaced } = sequence.into_edits();
        let wants_lemmas = self.wants_lemmas && stage.facts().gives_lemmas();
        let spared: Vec<bool> = match wants_lemmas || replaced.is_some() {
            true => places.iter().map(|place| place.spared).collect(),
            false => Vec::new(),
        };
        self.workers[step] = Some(worker);
        if edits.is_empty() && replaced.is_none() && !tags.is_empty() && !wants_lemmas {
            return Regarded::Tags(tags);
        }
        match replaced {
            Some(reason) => {
                let regard = |spared: &bool| if *spared { Regard::Kept } else { Regard::Dropped(reason) };
                regards.extend(spared.iter().map(regard));
            }
            None => regards.resize(live.len(), Regard::Kept),
        }
        for (regard, tag) in regards.iter_mut().zip(tags) {
            if let Some(tag) = tag {
                *regard = Regard::Tagged(tag);
            }
        }
        for edit in edits {
            match edit {
                Edit::Label(place, labels) => regards[place as usize] = Regard::Labelled(labels),
                Edit::Change(place, text) => {
                    let was = self.spellings.text(live[place as usize].spelling);
                    let text = without_spaces(was, text, &self.join);
                    if text != was {
                        regards[place as usize] = Regard::Changed(self.spellings.number(&text));
                    }
                }
                Edit::Drop(place, reason) => regards[place as usize] = Regard::Dropped(reason),
                Edit::Join(start, end, text) | Edit::Run(start, end, text) => {
                    let range = start as usize..end as usize;
                    let parts = &live[range.clone()];
                    let spaced = parts
                        .iter()
                        .find(|part| self.spellings.text(part.spelling).contains(char::is_whitespace));
                    let was = spaced.map_or("", |part| self.spellings.text(part.spelling));
                    let text = without_spaces(was, text, &self.join);
                    let made = self.made_of(parts, &text);
                    added.push(made);
                    for regard in &mut regards[range] {
                        // A token may go into several.
                        *regard = match regard {
                            Regard::Joined(_) => Regard::Joined(NONE),
                            _ => Regard::Joined(made.spelling),
                        };
                    }
                }
            }
        }
        Regarded::All { spared }
    }

    /// The token that a step makes of others.
    fn made_of(&mut self, parts: &[Live], text: &str) -> Live {
        let spelling = self.spellings.number(text);
        let origin = match parts {
            [one] => one.origin,
            _ => {
                let names: Vec<&str> = parts.iter().map(|token| self.spellings.text(token.origin)).collect();
                let name = names.join(" ");
                self.spellings.number(&name)
            }
        };
        let mark = Mark::of_parts(parts.iter().map(|token| token.mark));
        // No step has led it back to a lemma.
        let (first, last) = (parts[0].first, parts[parts.len() - 1].last);
        Live {
            spelling,
            mark,
            origin,
            first,
            last,
            lemma: if parts.len() == 1 { parts[0].lemma } else { NONE },
        }
    }
}

/// Runs of token steps that decide form by form, with one step between them each that looks at more than one token. A recipe without such a
/// step has one segment.
fn segments(pipeline: &Pipeline, steps: usize) -> Vec<Range<usize>> {
    let mut segments = Vec::new();
    let mut start = 0;
    for (index, stage) in pipeline.tokens[..steps].iter().enumerate() {
        if !matches!(stage.work, TokenWork::Form(_)) {
            segments.push(start..index);
            start = index + 1;
        }
    }
    segments.push(start..steps);
    segments
}

/// Tells for each token of the split what stands before it in the text.
pub(crate) fn gaps(text: &str, spans: &[Span], gaps: &mut Vec<Gap>) {
    gaps.clear();
    let mut end = 0;
    gaps.extend(spans.iter().map(|span| {
        // Runs of characters overlap: between these there is no gap.
        let between = text.get(end..span.start as usize).unwrap_or_default();
        end = end.max(span.end as usize);
        // Nearly all tokens stand behind a space.
        if between.len() > 1 || !matches!(between, "" | " " | "\n") { Gap::of(between) } else { Gap::None }
    }));
}

/// Takes a step that decides about each form to tokens in their order, since what it spares depends on their neighbours.
struct EachForm<'p> {
    step: &'p dyn TokenStep,
    /// What becomes of each form, by its spelling and its mark.
    known: Map<String, Vec<(Mark, Outcome)>>,
}

impl EachForm<'_> {
    fn outcome(&mut self, text: &str, mark: Mark) -> &Outcome {
        let of_marks = self.known.entry_ref(text).or_default();
        let at = of_marks.iter().position(|(known, _)| *known == mark).unwrap_or_else(|| {
            of_marks.push((mark, self.step.apply(&Form { text, kind: Kind::of(text), mark })));
            of_marks.len() - 1
        });
        &of_marks[at].1
    }
}

impl SequenceWork for EachForm<'_> {
    fn document(&mut self, tokens: &mut Sequence<'_>) {
        for place in 0..tokens.tokens().len() {
            let token = tokens.tokens()[place];
            if token.spared {
                continue;
            }
            let mark = token.tag.map_or(Mark::default(), |tag| Mark::default().with_tag(tag));
            match self.outcome(token.text(), mark.with_labels(token.labels)) {
                Outcome::Keep => {}
                Outcome::Change(text) => tokens.change(place, text.clone()),
                Outcome::Drop(reason) => tokens.drop(place, *reason),
            }
        }
    }
}
