//! A worker beside those of other recipes: it goes on from what another has made of the same document.

use std::collections::HashMap;

use super::{Arrived, Counted, Counts, Sentences, Worker};
use crate::pipeline::{Pipeline, Variant};
use crate::run::by_spelling::defers;
use crate::run::cleaned::Outputs;
use crate::run::forms::{Fate, Forms};
use crate::run::intern::Interner;
use crate::run::ledger::FormTally;
use crate::run::passage::{Alike, Halt, Halts};
use crate::run::split_forms::CountedHere;
use crate::step::{Document, Mark};

impl<'p> Worker<'p> {
    /// A worker that stands beside those of other recipes. `group` are the recipes that begin with the same text steps and split, and go by what this
    /// one makes of the text: all of them, its own among them; none if it goes by what another makes of it. `halts` are the steps behind which others take
    /// the tokens over, and `fork` is the step behind which this one does.
    pub(in crate::run) fn beside(
        pipeline: &'p Pipeline,
        group: &[&Pipeline],
        halts: Vec<usize>,
        fork: Option<usize>,
    ) -> Worker<'p> {
        let outputs = Outputs { clean: true, ..Outputs::default() };
        let mut worker = Worker::new(pipeline, outputs);
        let needs_text = |other: &&Pipeline| !defers(other, outputs);
        worker.defers &= !group.iter().any(needs_text);
        worker.counts = CountedHere::Spellings;
        worker.writes_clean = false;
        worker.passage.halts = Halts::behind(halts);
        worker.groups = fork.is_some_and(|step| worker.passage.is_last_part(step));
        worker
    }

    /// Exchanges the spellings for others: all numbers are of those that are here while documents are taken.
    pub(in crate::run) fn exchange_spellings(&mut self, spellings: &mut Interner) {
        std::mem::swap(&mut self.passage.spellings, spellings);
    }

    /// The tokens of the document at hand as they left this step.
    pub(in crate::run) fn halt(&self, step: usize) -> Option<&Halt> {
        self.passage.halts.0.iter().find(|halt| halt.step == step)
    }

    /// Lends the tokens of the document at hand as they left this step.
    pub(in crate::run) fn lend(&mut self, step: usize) -> Option<Halt> {
        let halt = self.passage.halts.0.iter_mut().find(|halt| halt.step == step)?;
        Some(halt.lent())
    }

    /// Takes back what was lent.
    pub(in crate::run) fn take_back(&mut self, lent: Option<Halt>) {
        if let Some(lent) = lent
            && let Some(halt) = self.passage.halts.0.iter_mut().find(|halt| halt.step == lent.step)
        {
            *halt = lent;
        }
    }

    /// The terms of the last document that were told in order.
    pub(in crate::run) fn last_terms(&self) -> &[u32] {
        &self.clean.terms
    }

    /// Takes a document on from the step with this index, behind which its tokens are these.
    pub(in crate::run) fn take_from(&mut self, halt: &Halt, lead: &mut Worker<'_>, document: &Document<'_>) {
        let step = halt.step;
        let variant = self.begin(document);
        self.overgrown = lead.overgrown;
        self.last = lead.last;
        self.ledger.left_out = lead.ledger.left_out.filter(|(at, _)| *at <= step);
        let Counted { characters, tokens_before, .. } = self.last;
        let tokens_after = if self.groups {
            self.pass_groups(&halt.groups, variant)
        } else {
            self.exchange_text(lead);
            let arrived = Arrived::Behind(step, &halt.tokens);
            let tokens_after = self.pass_from(arrived, document, variant, tokens_before);
            self.exchange_text(lead);
            self.bag.clear();
            self.bag.extend(self.clean.terms.iter().map(|term| (*term, 1)));
            tokens_after
        };
        self.end(Counted { characters, tokens_before, tokens_after });
    }

    /// Takes tokens through the last steps, which decide form by form: those that are alike together. Returns how many are kept.
    fn pass_groups(&mut self, groups: &[Alike], variant: Variant) -> u64 {
        self.bag.clear();
        let index = self.passage.variant(variant);
        let Some((first, last)) = self.passage.last_segment(index, variant, groups) else { return 0 };
        let mut kept = 0;
        self.ledger.count_last(first, last, groups, |at, fate| {
            if let Fate::Kept { to } = fate {
                kept += u64::from(groups[at].tokens);
                self.bag.push((to, groups[at].tokens));
            }
        });
        kept
    }

    /// Counts the journeys of all tokens that came to the last segment so far, of which every one is named by its spelling there; and of those that the
    /// first segment dropped.
    pub(super) fn count_rows(&mut self) {
        let ledger = &mut self.ledger;
        self.passage.each_of_last_segment(|(spelling, mark), fate, tally| {
            ledger.count_all((spelling, mark), fate.end(spelling), tally);
        });
        self.passage.each_dropped_first(|spelling, fate, tally| {
            ledger.count_all((spelling, Mark::default()), fate.end(spelling), tally);
        });
    }

    /// Takes a document as the first of those that begin with the same text steps and split.
    pub(in crate::run) fn take_ahead(&mut self, document: &Document<'_>) {
        let original = document.text;
        let variant = self.begin(document);
        let (found, characters) = self.rewrite(original, variant);
        self.split(original);
        self.look_up(original, variant, characters);
        let tokens_before = self.note_found(original);
        self.count_distinct();
        self.last.characters = found;
        self.last.tokens_before = tokens_before;
        let distinct = std::mem::take(&mut self.distinct);
        self.take_on(document, variant, &distinct);
        self.distinct = distinct;
    }

    /// Takes a document whose text another has rewritten and split.
    pub(in crate::run) fn take_behind(&mut self, lead: &mut Worker<'_>, document: &Document<'_>) {
        let variant = self.begin(document);
        self.overgrown = lead.overgrown;
        self.last = lead.last;
        self.exchange_text(lead);
        self.take_on(document, variant, &lead.distinct);
        self.exchange_text(lead);
    }

    /// Takes the tokens of a document, which have their numbers, through the token steps.
    fn take_on(&mut self, document: &Document<'_>, variant: Variant, distinct: &[(u32, u32)]) {
        let Counted { characters, tokens_before, .. } = self.last;
        self.bag.clear();
        let tokens_after = if self.passage.parts() {
            let tokens_after = self.pass(document, variant, tokens_before);
            self.bag.extend(self.clean.terms.iter().map(|term| (*term, 1)));
            tokens_after
        } else {
            let (ledger, bag) = (&mut self.ledger, &mut self.bag);
            let mut kept = 0;
            self.passage.distinct(variant, distinct, |forms, row, tokens, term| {
                ledger.count_form(forms, row, tokens, term);
                if let Some(term) = term {
                    kept += u64::from(tokens);
                    bag.push((term, tokens));
                }
            });
            kept
        };
        self.end(Counted { characters, tokens_before, tokens_after });
    }

    /// Counts the tokens of each form of the document at hand.
    fn count_distinct(&mut self) {
        self.distinct.clear();
        for &number in &self.numbers {
            let place = number as usize;
            if place >= self.seen.len() {
                self.seen.resize(place + 1, u32::MAX);
            }
            // The place of another document's form is of no account here.
            match self.distinct.get_mut(self.seen[place] as usize) {
                Some((known, tokens)) if *known == number => *tokens += 1,
                _ => {
                    self.seen[place] = self.distinct.len() as u32;
                    self.distinct.push((number, 1));
                }
            }
        }
    }

    fn exchange_text(&mut self, other: &mut Worker<'_>) {
        std::mem::swap(&mut self.text, &mut other.text);
        std::mem::swap(&mut self.spans, &mut other.spans);
        std::mem::swap(&mut self.numbers, &mut other.numbers);
    }

    /// The terms of the last document by their numbers, each with how many tokens it has; a term may stand there several times.
    pub(in crate::run) fn bag(&self) -> &[(u32, u32)] {
        &self.bag
    }

    /// The terms of the last document in the order of its tokens. `lead` is the one that rewrote and split its text, and `halt` is where its tokens
    /// were taken over from another.
    pub(in crate::run) fn terms_in_order(
        &mut self,
        lead: Option<&Worker<'_>>,
        halt: Option<&Halt>,
        original: &str,
    ) {
        if let Some(halt) = halt.filter(|_| self.groups) {
            let lead = lead.unwrap_or(self);
            let mut found = Vec::new();
            if let Some(splitter) = self.pipeline.splitter.sentences() {
                splitter.split(lead.text.as_str(original), &mut found);
            }
            let mut sentences = Sentences { found: &found, now: 0 };
            let starts: Vec<u32> =
                halt.tokens.iter().map(|token| lead.spans[token.first as usize].start).collect();
            let rows: HashMap<(u32, Mark), u32> =
                halt.groups.iter().map(|alike| ((alike.spelling, alike.mark), alike.row)).collect();
            self.clean.begin();
            for (token, start) in halt.tokens.iter().zip(starts) {
                let row = rows.get(&(token.spelling, token.mark));
                if let Some(Fate::Kept { to }) =
                    row.and_then(|row| self.passage.last_fate(self.variant, *row))
                {
                    self.clean.take(to, sentences.number(start));
                }
            }
        } else if !self.passage.parts() {
            let (text, spans, numbers) = match lead {
                Some(lead) => (&lead.text, &lead.spans, &lead.numbers),
                None => (&self.text, &self.spans, &self.numbers),
            };
            let mut found = Vec::new();
            if let Some(splitter) = self.pipeline.splitter.sentences() {
                splitter.split(text.as_str(original), &mut found);
            }
            let mut sentences = Sentences { found: &found, now: 0 };
            self.clean.begin();
            for (span, number) in spans.iter().zip(numbers) {
                if let Some(term) = self.passage.term_of(self.variant, *number) {
                    self.clean.take(term, sentences.number(span.start));
                }
            }
        }
    }

    /// What the text steps made of the last document, which had this text.
    pub(in crate::run) fn rewritten<'t>(&'t self, original: &'t str) -> &'t str {
        self.text.as_str(original)
    }

    /// The terms of the last document, joined; [`Worker::terms_in_order`] comes before.
    pub(in crate::run) fn joined_terms(&mut self, spellings: &Interner) -> String {
        self.clean.text.clear();
        self.clean.write(spellings);
        String::from_utf8_lossy(&self.clean.text).into_owned()
    }

    /// How many tokens the last document had as found, and how many were kept.
    pub(in crate::run) fn tokens_of_last(&self) -> (u64, u64) {
        (self.last.tokens_before, self.last.tokens_after)
    }

    /// What workers have counted that stand beside one another: `shared` tells for each whose text it went by, and from whom it took tokens over, behind
    /// which step.
    pub(in crate::run) fn counts_beside(
        workers: Vec<Worker<'p>>,
        shared: &[(usize, Option<(usize, usize)>)],
        spellings: &mut Interner,
    ) -> Vec<Counts<'p>> {
        let mut counts: Vec<Counts<'p>> = Vec::new();
        for (at, worker) in workers.into_iter().enumerate() {
            let (lead, fork) = shared[at];
            let segment = fork.map(|(_, step)| worker.passage.segment_behind(step));
            let mut own = worker.counts(spellings);
            if let (Some((from, step)), Some(segment)) = (fork, segment) {
                own.take_over(&counts[from], step, segment);
            }
            if let Some(lead) = counts.get(lead) {
                own.ledger.texts.clone_from(&lead.ledger.texts);
                let rows = lead.variants.iter().filter_map(|(_, segments)| segments.first());
                let found = rows.flat_map(|forms| (0..).zip(&forms.rows).filter(|(_, row)| row.found));
                if let Some((_, segments)) = own.variants.first_mut() {
                    found.for_each(|(spelling, _)| segments[0].of_spelling(spelling).found = true);
                }
            }
            counts.push(own);
        }
        counts
    }
}

impl Counts<'_> {
    /// Takes over what another recipe has counted up to the step with this index; the segment behind it has this number.
    fn take_over(&mut self, other: &Counts<'_>, step: usize, segment: usize) {
        self.ledger.take_over(&other.ledger, step);
        for (variant, theirs) in &other.variants {
            let at = self.variants.iter().position(|(known, _)| known == variant).unwrap_or_else(|| {
                let segments = self.segments;
                self.variants.push((*variant, (0..segments).map(|_| Forms::default()).collect()));
                self.variants.len() - 1
            });
            let own = &mut self.variants[at].1;
            // Rows of the first segment are of terms as well, and each recipe has its own.
            own[0].take_over(&theirs[0], FormTally::with_forms_of);
            for number in 1..segment {
                own[number].take_over(&theirs[number], |_, theirs| *theirs);
            }
        }
    }
}
