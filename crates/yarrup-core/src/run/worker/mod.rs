//! One worker: takes documents through a pipeline and counts what becomes of them.

mod beside;

use crate::pipeline::{Pipeline, Variant};
use crate::run::by_spelling::{Deciding, Naming, defers, recases};
use crate::run::cleaned::{Cleaned, Ended, Kept, LeftOut, Outputs};
use crate::run::forms::{Fate, Forms};
use crate::run::intern::Interner;
use crate::run::ledger::{End, FormTally, Ledger};
use crate::run::passage::{Alike, FormsByVariant, Live, Look, Observer, Passage, TOGETHER, Tokens, gaps};
use crate::run::split_forms::{CountedHere, Met, SplitForms};
use crate::span::Span;
use crate::step::{Arriving, Document, Fields, Gap, Mark, Text};

/// The most bytes that a document can have: spans are of 32 bits, and text steps may make a text up to three times as long.
pub const LONGEST_DOCUMENT: usize = 1 << 30;

/// Takes documents through a pipeline, one after the other, and counts what becomes of them.
pub struct Worker<'p> {
    pipeline: &'p Pipeline,
    outputs: Outputs,
    ledger: Ledger,
    passage: Passage<'p, FormTally>,
    text: Text,
    /// The number of the step that made too much of the text.
    overgrown: Option<usize>,
    spans: Vec<Span>,
    original_spans: Vec<Span>,
    /// Whether the text is changed, and the text as found is split at the same places.
    splits_alike: bool,
    /// By variant: the spellings that the split gives.
    split_forms: Vec<SplitForms>,
    /// The spellings of texts as found that steps have changed.
    found_forms: SplitForms,
    /// What is counted where spellings are looked up: all, if each form has one end, and nobody asks where tokens stand.
    counts: CountedHere,
    /// The last text step, if what it makes of a spelling hardly depends on what stands around it.
    recases: Option<usize>,
    /// Whether its work is done spelling by spelling alone, and the text left as it is.
    defers: bool,
    /// Whether the spellings that are looked up are those of the text as found.
    as_found: bool,
    /// The number of each token's form.
    numbers: Vec<u32>,
    gaps: Vec<Gap>,
    sentences: Vec<Span>,
    kept: Vec<Kept>,
    ended: Vec<Ended>,
    /// By the index of a token step: its place in the recipe, from 1.
    steps: Vec<usize>,
    clean: Clean,
    /// Whether the cleaned text is written at once.
    writes_clean: bool,
    /// Of the last document: characters as found, tokens as found, and tokens that are kept.
    last: Counted,
    /// Of the last document: for which documents it was taken.
    variant: Variant,
    /// Of the last document: its forms, each with how many tokens it has.
    distinct: Vec<(u32, u32)>,
    /// By form: its place among these, if it is there.
    seen: Vec<u32>,
    /// Of the last document: its terms, each with how many tokens it has.
    bag: Vec<(u32, u32)>,
    /// Whether tokens are taken over from another recipe where all that is left to do is done form by form.
    groups: bool,
    /// Whether tokens are counted by the rows of the first and the last of several segments.
    by_row: bool,
}

/// What a worker has counted.
pub(crate) struct Counts<'p> {
    pub(crate) pipeline: &'p Pipeline,
    pub(crate) ledger: Ledger,
    /// The forms of each variant.
    pub(crate) variants: FormsByVariant<FormTally>,
    /// How many segments its token steps have.
    segments: usize,
}

/// What is counted of a document as a whole.
#[derive(Clone, Copy, Debug, Default)]
struct Counted {
    characters: u64,
    tokens_before: u64,
    tokens_after: u64,
}

impl<'p> Worker<'p> {
    /// A worker that has seen nothing yet.
    pub fn new(pipeline: &'p Pipeline, outputs: Outputs) -> Worker<'p> {
        Worker::up_to(pipeline, pipeline.tokens.len(), outputs)
    }

    /// A worker for all steps before the token step with this index.
    pub(crate) fn up_to(pipeline: &'p Pipeline, token_steps: usize, outputs: Outputs) -> Worker<'p> {
        let passage = Passage::new(pipeline, token_steps, outputs.has_spans());
        Worker::through(passage, pipeline, token_steps, outputs)
    }

    fn through(
        passage: Passage<'p, FormTally>,
        pipeline: &'p Pipeline,
        token_steps: usize,
        outputs: Outputs,
    ) -> Worker<'p> {
        let keeps_sentences = outputs != Outputs::default() && pipeline.splitter.sentences().is_some();
        let by_row = passage.parts() && !passage.keeps() && !outputs.has_spans();
        let counts = match (passage.parts(), outputs.has_spans() || keeps_sentences) {
            (true, _) if by_row => CountedHere::Forms,
            (false, false) => CountedHere::Terms,
            _ => CountedHere::Spellings,
        };
        let recases = recases(pipeline);
        let mut ledger = Ledger::new(pipeline, token_steps, passage.parts());
        if by_row {
            ledger.leave_to_rows(passage.first_steps());
        }
        Worker {
            pipeline,
            outputs,
            ledger,
            passage,
            text: Text::new(outputs.has_spans()),
            overgrown: None,
            spans: Vec::new(),
            original_spans: Vec::new(),
            splits_alike: false,
            split_forms: Vec::new(),
            found_forms: SplitForms::new(CountedHere::Spellings),
            counts,
            recases,
            defers: recases.is_some() && defers(pipeline, outputs),
            as_found: false,
            numbers: Vec::new(),
            gaps: Vec::new(),
            sentences: Vec::new(),
            kept: Vec::new(),
            ended: Vec::new(),
            steps: pipeline.tokens.iter().map(|stage| pipeline.steps()[stage.step].number).collect(),
            clean: Clean { is_of_lines: pipeline.splitter.makes_lines(), ..Clean::default() },
            writes_clean: true,
            last: Counted::default(),
            variant: Variant::of_bits(0),
            distinct: Vec::new(),
            seen: Vec::new(),
            bag: Vec::new(),
            groups: false,
            by_row,
        }
    }

    fn begin(&mut self, document: &Document<'_>) -> Variant {
        assert!(document.text.len() <= LONGEST_DOCUMENT, "the reader refuses documents that are too long");
        let variant = self.pipeline.variant(document.text, document.fields);
        self.ledger.begin_document(variant);
        self.begin_outputs();
        self.variant = variant;
        variant
    }

    fn end(&mut self, counted: Counted) {
        self.ledger.end_document(counted.characters, counted.tokens_before, counted.tokens_after);
        self.last = counted;
    }

    /// A worker that takes documents to the token step with this index, which looks at the tokens that come there: see [`Worker::arrive`].
    pub(crate) fn to_step(pipeline: &'p Pipeline, step: usize) -> Worker<'p> {
        Worker::through(Passage::to_step(pipeline, step), pipeline, step, Outputs::default())
    }

    /// Takes a document to the step that the worker was made for, and shows it as it arrives there. Not shown is one that a step before leaves
    /// out.
    pub(crate) fn arrive(&mut self, document: &Document<'_>, step: usize, look: impl FnOnce(&Arriving<'_>)) {
        let tokens_before = self.take(document).tokens_before;
        if self.ledger.left_out.is_some() {
            return;
        }
        let tokens = Tokens {
            variant: self.pipeline.variant(document.text, document.fields),
            numbers: &self.numbers,
            gaps: &self.gaps,
            tokens_before,
            document: *document,
        };
        let places = self.passage.arrived(self.pipeline.tokens.get(step), &tokens);
        look(&Arriving { document, tokens_before, tokens: &places });
    }

    /// What the worker has counted, for an account, and the spellings that number it.
    pub(crate) fn into_counts(mut self) -> (Counts<'p>, Interner) {
        let mut spellings = std::mem::take(&mut self.passage.spellings);
        (self.counts(&mut spellings), spellings)
    }

    /// What the worker has counted by the numbers of these spellings.
    fn counts(mut self, spellings: &mut Interner) -> Counts<'p> {
        let by_spelling = self.by_spelling();
        for (at, split_forms) in std::mem::take(&mut self.split_forms).into_iter().enumerate() {
            let letters = split_forms.settle(self.passage.first_forms(at), spellings);
            if let Some(step) = by_spelling {
                self.ledger.count_letters(step, letters);
            }
        }
        if self.by_row {
            self.count_rows();
        }
        let Worker { pipeline, passage, ledger, found_forms, .. } = self;
        let segments = passage.segment_count();
        let (mut variants, _) = passage.into_forms();
        if let Some((_, segments)) = variants.first_mut() {
            found_forms.settle(&mut segments[0], spellings);
        }
        Counts { pipeline, ledger, variants, segments }
    }

    /// Takes one document through the pipeline, for which it is of no account where it stands among others.
    ///
    /// # Panics
    ///
    /// As [`Worker::take`].
    pub fn document(&mut self, text: &str, fields: &dyn Fields) -> Cleaned<'_> {
        self.take(&Document { text, fields, order: 0 })
    }

    /// Takes one document through the pipeline.
    ///
    /// # Panics
    ///
    /// If its text is longer than [`LONGEST_DOCUMENT`], which is for the reader to keep to.
    pub fn take(&mut self, document: &Document<'_>) -> Cleaned<'_> {
        let original = document.text;
        assert!(original.len() <= LONGEST_DOCUMENT, "the reader refuses documents that are too long");
        let variant = self.pipeline.variant(original, document.fields);
        self.ledger.begin_document(variant);
        self.begin_outputs();
        let (found, characters) = self.rewrite(original, variant);
        self.split(original);
        let met = self.look_up(original, variant, characters);
        let tokens_before = self.note_found(original);
        let tokens_after = match met {
            Some(met) if self.counts == CountedHere::Terms => self.end_at_once(met, variant),
            Some(met) if self.counts == CountedHere::Forms => {
                self.ledger.touch(met.touched);
                self.pass_from(Arrived::Decided, document, variant, tokens_before)
            }
            _ => self.pass(document, variant, tokens_before),
        };
        self.end(Counted { characters: found, tokens_before, tokens_after });
        if self.outputs.clean && self.writes_clean && self.pipeline.is_text_recipe() {
            self.clean.text.extend_from_slice(self.text.as_str(original).as_bytes());
        }
        let pipeline = self.pipeline;
        let left_out = self.ledger.left_out.map(|(step, reason)| {
            let name = &pipeline.steps()[pipeline.tokens[step].step];
            LeftOut { step: name.number, reason }
        });
        Cleaned {
            clean: std::str::from_utf8(&self.clean.text).expect("whole texts make a text"),
            tokens_before,
            tokens_after,
            left_out,
            overgrown: self.overgrown,
            kept: &self.kept,
            terms: &self.clean.terms,
            ended: &self.ended,
            steps: &self.steps,
            spellings: &self.passage.spellings,
        }
    }

    fn begin_outputs(&mut self) {
        self.kept.clear();
        self.ended.clear();
        self.clean.begin();
        self.sentences.clear();
    }

    /// Runs the text steps, but for one whose work is done spelling by spelling. Returns how many characters the text has as found, and behind
    /// them.
    fn rewrite(&mut self, original: &str, variant: Variant) -> (u64, u64) {
        self.text.begin();
        self.overgrown = None;
        let found = count_characters(original);
        let steps = self.by_spelling().unwrap_or(self.pipeline.text.len());
        let (mut characters, mut changed_before) = (found, false);
        for step in 0..steps {
            changed_before = self.text.is_changed();
            characters = self.rewrite_by(step, original, variant, characters);
        }
        // The last step alone has changed it, if any has.
        self.as_found =
            !self.text.is_changed() || (!changed_before && self.recases.is_some() && !self.defers);
        (found, characters)
    }

    /// Runs a text step on a text of so many characters. Returns how many there are behind it.
    fn rewrite_by(&mut self, step: usize, original: &str, variant: Variant, before: u64) -> u64 {
        let stage = &self.pipeline.text[step];
        let matches = match stage.works_on(variant) {
            true => stage.apply(&mut self.text, original, &mut self.ledger.texts[step].matched),
            false => 0,
        };
        if self.overgrown.is_none() && self.text.is_overgrown() {
            self.overgrown = Some(self.pipeline.steps()[stage.step].number);
        }
        // A text that was only recased has as many characters as before.
        let characters = match matches > 0 && !self.text.has_original_boundaries() {
            true => count_characters(self.text.as_str(original)),
            false => before,
        };
        self.ledger.count_text_step(step, matches, before, characters);
        characters
    }

    /// Splits the text.
    fn split(&mut self, original: &str) {
        let (splitter, now) = (&self.pipeline.splitter, self.text.as_str(original));
        self.spans.clear();
        let may_be_alike = self.text.is_changed() && self.text.has_original_boundaries();
        self.splits_alike = may_be_alike && splitter.split_alike(original, now, &mut self.spans);
        if !self.splits_alike {
            splitter.split(now, &mut self.spans);
        }
        self.as_found &= self.splits_alike || !self.text.is_changed();
    }

    /// The text step whose work is done spelling by spelling alone.
    fn by_spelling(&self) -> Option<usize> {
        self.recases.filter(|_| self.defers)
    }

    /// Decides about the spelling of each token. Returns what the document comes to if that is known spelling by spelling; else each token has the
    /// number of its form.
    fn look_up(&mut self, original: &str, variant: Variant, characters: u64) -> Option<Met> {
        self.numbers.clear();
        if let Some(met) = self.count_spellings(original, variant) {
            if let Some(step) = self.by_spelling() {
                self.ledger.count_recased(step, met.recased, characters);
            }
            return Some(met);
        }
        // Some token gets longer or shorter with the case of its letters: the text is rewritten after all.
        if let Some(step) = self.by_spelling() {
            self.rewrite_by(step, original, variant, characters);
            self.split(original);
        }
        self.as_found = false;
        if let Some(met) = self.count_spellings(original, variant) {
            return Some(met);
        }
        let now = self.text.as_str(original);
        self.numbers.extend(self.spans.iter().map(|span| self.passage.spellings.number(span.of(now))));
        None
    }

    /// Looks the spellings of the tokens up, and counts them where that is all that there is to do. Returns what the document comes to, unless what
    /// becomes of some token is not clear.
    fn count_spellings(&mut self, original: &str, variant: Variant) -> Option<Met> {
        let index = self.passage.variant(variant);
        while self.split_forms.len() <= index {
            self.split_forms.push(SplitForms::new(self.counts));
        }
        let text_step = self.recases.map(|step| &self.pipeline.text[step]);
        let text_step = text_step.filter(|stage| stage.works_on(variant));
        let forms = &mut self.split_forms[index];
        let document = self.ledger.document_number();
        let mut deciding = Deciding { passage: &mut self.passage, index, variant, text_step };
        let text = if self.as_found { original } else { self.text.as_str(original) };
        if !forms.count(text, &self.spans, document, &mut deciding) {
            return None;
        }
        if self.counts != CountedHere::Terms {
            self.numbers.extend(forms.fates().iter().map(|fate| fate.form()));
        }
        Some(forms.end(document, self.as_found))
    }

    /// Notes the spellings of the text as found, where it is not that whose spellings were looked up. Returns how many tokens it has.
    fn note_found(&mut self, original: &str) -> u64 {
        if self.as_found {
            return self.spans.len() as u64;
        }
        let splitter = &self.pipeline.splitter;
        if !self.splits_alike {
            self.original_spans.clear();
            splitter.split(original, &mut self.original_spans);
        }
        let spans = if self.splits_alike { &self.spans } else { &self.original_spans };
        let document = self.ledger.document_number();
        self.found_forms.count(original, spans, document, &mut Naming(&mut self.passage.spellings));
        self.found_forms.end(document, true);
        spans.len() as u64
    }

    /// Ends a document of which all is known. Returns how many tokens are kept.
    fn end_at_once(&mut self, met: Met, variant: Variant) -> u64 {
        self.ledger.touch(met.touched);
        let index = self.passage.variant(variant);
        if self.outputs.clean && !self.pipeline.is_text_recipe() {
            for term in self.split_forms[index].fates().iter().filter_map(|fate| fate.as_kept()) {
                self.clean.take(term, 0);
            }
            self.clean.write(&self.passage.spellings);
        }
        let fates = self.split_forms[index].fates();
        fates.iter().map(|fate| u64::from(fate.as_kept().is_some())).sum()
    }

    /// Takes the tokens through the token steps. Returns how many are kept.
    fn pass(&mut self, document: &Document<'_>, variant: Variant, tokens_before: u64) -> u64 {
        self.pass_from(Arrived::Split, document, variant, tokens_before)
    }

    /// As [`Worker::pass`], of tokens that have come so far.
    fn pass_from(
        &mut self,
        arrived: Arrived<'_>,
        document: &Document<'_>,
        variant: Variant,
        tokens_before: u64,
    ) -> u64 {
        let is_left_out = self.ledger.left_out.is_some();
        let now = self.text.as_str(document.text);
        let any_output = self.outputs != Outputs::default();
        if let Some(splitter) = self.pipeline.splitter.sentences().filter(|_| any_output) {
            splitter.split(now, &mut self.sentences);
        }
        if self.passage.parts() {
            gaps(now, &self.spans, &mut self.gaps);
        }
        let tokens =
            Tokens { variant, numbers: &self.numbers, gaps: &self.gaps, tokens_before, document: *document };
        if self.passage.keeps() {
            let mut passing = Passing { left_out: self.ledger.left_out };
            self.passage.document(&tokens, &mut passing);
            self.ledger.left_out = passing.left_out;
            return 0;
        }
        let mut counting = Counting {
            ledger: &mut self.ledger,
            tokens_after: 0,
            sentences: Sentences { found: &self.sentences, now: 0 },
            spans: &self.spans,
            clean: self.outputs.clean.then_some(&mut self.clean),
            by_row: self.by_row,
            text: &self.text,
            kept: self.outputs.tokens.then_some(&mut self.kept),
            ended: self.outputs.ends.then_some(&mut self.ended),
        };
        match arrived {
            Arrived::Behind(step, arrived) => {
                self.passage.go_on_behind((step, is_left_out), arrived, &tokens, &mut counting);
            }
            Arrived::Decided => {
                let index = self.passage.variant(variant);
                self.passage.go_on_decided(self.split_forms[index].fates(), &tokens, &mut counting);
            }
            Arrived::Split => self.passage.document(&tokens, &mut counting),
        }
        let tokens_after = counting.tokens_after;
        // They were told step by step.
        self.ended.sort_by_key(|ended| (ended.span.start, ended.token.first, ended.token.last));
        if !self.sentences.is_empty() {
            for ended in &mut self.ended {
                let start = self.spans[ended.token.first as usize].start;
                let before = self.sentences.partition_point(|sentence| sentence.start <= start);
                ended.sentence = (before as u32).max(1);
            }
        }
        if self.writes_clean && !self.pipeline.is_text_recipe() {
            self.clean.write(&self.passage.spellings);
        }
        tokens_after
    }
}

/// How far the tokens of a document have come.
#[derive(Clone, Copy)]
enum Arrived<'l> {
    /// They have been split.
    Split,
    /// What the first segment makes of them is known and counted.
    Decided,
    /// They have come through all steps up to the one with this index.
    Behind(usize, &'l [Live]),
}

fn count_characters(text: &str) -> u64 {
    text.chars().count() as u64
}

/// The sentences of a document, walked along with its tokens.
struct Sentences<'d> {
    found: &'d [Span],
    now: usize,
}

impl Sentences<'_> {
    /// The number of the sentence in which a token begins, from 1; 0 if none are kept. Tokens come from left to right, but for runs of
    /// them; one before the first sentence belongs to that.
    fn number(&mut self, start: u32) -> u32 {
        if self.found.is_empty() {
            return 0;
        }
        while self.found.get(self.now).is_some_and(|next| next.start <= start) {
            self.now += 1;
        }
        self.now = self.now.max(1);
        self.now as u32
    }
}

/// The cleaned text of a document.
#[derive(Debug, Default)]
struct Clean {
    /// UTF-8; as bytes, since joining terms byte by byte needs no look at their borders.
    text: Vec<u8>,
    /// The numbers of the kept terms.
    terms: Vec<u32>,
    /// The places among these where lines begin.
    line_begins: Vec<usize>,
    last_sentence: u32,
    /// Whether each token stands on a line of its own.
    is_of_lines: bool,
}

impl Clean {
    fn begin(&mut self) {
        self.text.clear();
        self.terms.clear();
        self.line_begins.clear();
        self.last_sentence = 0;
    }

    #[inline]
    fn take(&mut self, term: u32, sentence: u32) {
        if sentence != self.last_sentence || self.is_of_lines {
            self.line_begins.push(self.terms.len());
            self.last_sentence = sentence;
        }
        self.terms.push(term);
    }

    /// Joins the terms by spaces, and lines by line breaks.
    fn write(&mut self, spellings: &Interner) {
        let mut begin = 0;
        let ends = self.line_begins.iter().copied().skip(1).chain([self.terms.len()]);
        for end in ends {
            for &term in &self.terms[begin..end] {
                self.text.extend_from_slice(spellings.spaced(term));
            }
            self.text.pop();
            self.text.push(b'\n');
            begin = end;
        }
        self.text.pop();
    }
}

/// The observer that counts nothing: the tokens that have come through are looked at.
struct Passing {
    left_out: Option<(usize, u16)>,
}

impl Observer for Passing {
    type Tally = FormTally;

    fn judged(&mut self, step: usize, reason: Option<u16>, _tokens: &[Live], _spellings: &Interner) {
        self.left_out = reason.map(|reason| (step, reason)).or(self.left_out);
    }
}

/// The ledger, and what is to be made of the kept tokens beside it.
struct Counting<'w> {
    ledger: &'w mut Ledger,
    tokens_after: u64,
    sentences: Sentences<'w>,
    spans: &'w [Span],
    clean: Option<&'w mut Clean>,
    /// Whether tokens are counted by the rows of their forms.
    by_row: bool,
    text: &'w Text,
    kept: Option<&'w mut Vec<Kept>>,
    ended: Option<&'w mut Vec<Ended>>,
}

impl Observer for Counting<'_> {
    type Tally = FormTally;

    #[inline]
    fn met(&mut self, forms: &mut Forms<FormTally>, row: u32, token: &Live) {
        self.ledger.met(forms, row, token);
    }

    fn looked(&mut self, look: Look<'_>, spellings: &Interner) {
        self.ledger.looked(look, spellings);
    }

    fn judged(&mut self, step: usize, reason: Option<u16>, tokens: &[Live], spellings: &Interner) {
        self.ledger.judged(step, reason, tokens, spellings);
    }

    #[inline]
    fn dropped(&mut self, token: &Live, step: usize, reason: u16) {
        self.ledger.dropped(token, step, reason);
        if self.ended.is_some() {
            self.note_end(token, End::Dropped { step: step as u8, reason });
        }
    }

    fn counts_rows(&self) -> bool {
        self.by_row
    }

    fn ended(
        &mut self,
        first: &mut Forms<FormTally>,
        last: &mut Forms<FormTally>,
        rows: &[u32],
        tokens: &[Live],
    ) {
        let mut groups = [Alike::default(); TOGETHER];
        for ((alike, row), token) in groups.iter_mut().zip(rows).zip(tokens) {
            let Live { spelling, mark, origin, .. } = *token;
            *alike = Alike { row: *row, spelling, mark, origin, tokens: 1 };
        }
        let Counting { ledger, tokens_after, sentences, spans, clean, .. } = self;
        ledger.count_last(first, last, &groups[..tokens.len()], |at, fate| {
            if let Fate::Kept { to } = fate {
                *tokens_after += 1;
                if let Some(clean) = clean {
                    let sentence = sentences.number(spans[tokens[at].first as usize].start);
                    clean.take(to, sentence);
                }
            }
        });
    }

    fn marked(&mut self, step: usize, tokens: u64) {
        self.ledger.marked(step, tokens);
    }

    fn joined(&mut self, token: &Live, step: usize, into: u32) {
        self.ledger.joined(token, step, into);
        if self.ended.is_some() {
            self.note_end(token, End::Joined { step: step as u8, into });
        }
    }

    #[inline(always)]
    fn kept(&mut self, forms: &mut Forms<FormTally>, token: &Live) {
        self.ledger.kept(forms, token);
        self.tokens_after += 1;
        if self.clean.is_some() || self.kept.is_some() || self.ended.is_some() {
            self.put_out(token);
        }
    }
}

impl Counting<'_> {
    /// Keeps a token for whoever asked for the cleaned text or the tokens.
    fn put_out(&mut self, token: &Live) {
        let span = self.spans[token.first as usize];
        let sentence = self.sentences.number(span.start);
        if let Some(clean) = &mut self.clean {
            clean.take(token.spelling, sentence);
        }
        let span = if self.kept.is_some() { self.original(token) } else { span };
        if let Some(kept) = &mut self.kept {
            kept.push(Kept { token: *token, span, sentence });
        }
        if self.ended.is_some() {
            self.note_end(token, End::Kept { term: token.spelling });
        }
    }

    #[cold]
    fn note_end(&mut self, token: &Live, end: End) {
        let span = self.original(token);
        if let Some(ended) = &mut self.ended {
            ended.push(Ended { token: *token, span, end, sentence: 0 });
        }
    }

    /// Where the words of a token stand in the original.
    fn original(&self, token: &Live) -> Span {
        let (first, last) = (self.spans[token.first as usize], self.spans[token.last as usize]);
        let original = self.text.alignment().original(first.start as usize..last.end as usize);
        Span { start: original.start as u32, end: original.end as u32 }
    }
}

// A mark is part of every kept token: it must stay as small as a number.
const _: () = assert!(std::mem::size_of::<Mark>() == 4);

#[cfg(test)]
mod tests {
    use super::*;
    use crate::account::Account;
    use crate::testing;
    use proptest::prelude::*;

    /// Counts documents token by token, after every text step has rewritten the text.
    fn slowly(pipeline: &Pipeline) -> Worker<'_> {
        let mut worker = Worker::new(pipeline, Outputs::default());
        (worker.counts, worker.by_row) = (CountedHere::Spellings, false);
        (worker.recases, worker.defers) = (None, false);
        worker.ledger.leave_to_rows(0);
        worker
    }

    fn account(mut worker: Worker<'_>, texts: &[String]) -> Account {
        for text in texts {
            worker.document(text, &crate::NoFields);
        }
        worker.into_account()
    }

    const RECIPES: &[&str] = &[
        "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"stopwords\"\nadd = [\"the\", \"οσ\"]\n[[step]]\ndo = \"stem\"\nmethod = \"porter2\"\nlanguage = \"en\"\n",
        "[[step]]\ndo = \"case\"\nto = \"upper\"\n[[step]]\ndo = \"drop\"\nkinds = [\"punctuation\"]\n",
        "[[step]]\ndo = \"case\"\nto = \"fold\"\n[[step]]\ndo = \"split\"\ninto = \"spaces\"\n[[step]]\ndo = \"case\"\nto = \"upper\"\n",
        "[[step]]\ndo = \"replace\"\nfind = \"a\"\nwith = \"Bb\"\n[[step]]\ndo = \"case\"\n[[step]]\ndo = \"phrases\"\nadd = [\"the bird\"]\n",
        "language = \"tr\"\n[[step]]\ndo = \"case\"\n",
        "[[step]]\ndo = \"mask\"\nkinds = [\"number\"]\n[[step]]\ndo = \"case\"\nto = \"upper\"\n[[step]]\ndo = \"split\"\nhyphens = \"keep\"\n",
        "[[step]]\ndo = \"case\"\nspare = [\"The\"]\n",
        "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\ninto = \"characters\"\nsize = 2\n",
        "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\ninto = \"clitics\"\n",
        "[[step]]\ndo = \"replace\"\nfind = \"a\"\nwith = \"Bb\"\n[[step]]\ndo = \"case\"\nto = \"fold\"\n[[step]]\ndo = \"split\"\ninto = \"posts\"\nsentences = true\n",
    ];

    #[test]
    fn recipes_are_counted_by_spelling() {
        let is_fast = |recipe: &str| {
            let pipeline = testing::pipeline(recipe);
            let worker = Worker::new(&pipeline, Outputs::default());
            (worker.counts == CountedHere::Terms, worker.by_spelling().is_some())
        };
        let fast: Vec<_> = RECIPES.iter().map(|recipe| is_fast(recipe)).collect();
        let expected = [
            (true, true),
            (true, true),
            (true, true),
            (false, true),
            (true, false),
            (true, false),
            (true, false),
            (true, false),
            (true, false),
            (true, false),
        ];
        assert_eq!(fast, expected);
    }

    /// Recipes whose steps look at tokens in their order: the same form comes to the last steps under several names, with several marks, and from several
    /// steps that end it alike.
    const IN_ORDER: &[&str] = &[
        "language = \"en\"\n[[step]]\ndo = \"tag\"\n[[step]]\ndo = \"keep\"\ntags = [\"noun\", \"verb\", \"proper noun\"]\n[[step]]\ndo = \"lemma\"\n",
        "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"stem\"\nmethod = \"porter2\"\nlanguage = \"en\"\n[[step]]\ndo = \"label\"\nname = \"sea\"\nadd = [\"bird\", \"the bird\"]\n[[step]]\ndo = \"drop\"\nwords = [\"the\"]\n",
        "[[step]]\ndo = \"stopwords\"\nadd = [\"the\"]\n[[step]]\ndo = \"phrases\"\nadd = [\"bird a\", \"b c\"]\njoin = \"\"\n[[step]]\ndo = \"equate\"\nwords = { \"birds\" = \"bird\", \"birda\" = \"b\" }\n",
        "[[step]]\ndo = \"equate\"\nwords = { \"the bird\" = \"bird\", \"a b\" = \"the\" }\n[[step]]\ndo = \"label\"\nname = \"one\"\nadd = [\"bird a\"]\n[[step]]\ndo = \"equate\"\nwords = { \"bird\" = \"the\", \"b\" = \"the\" }\n",
        "[[step]]\ndo = \"label\"\nname = \"one\"\nadd = [\"bird a\"]\n[[step]]\ndo = \"unique\"\n[[step]]\ndo = \"label\"\nname = \"two\"\nadd = [\"b\"]\nonly = { longer_than = 20 }\n[[step]]\ndo = \"drop\"\nkinds = [\"punctuation\"]\n",
        "[[step]]\ndo = \"ngrams\"\nsize = 2\nsmallest = 1\n[[step]]\ndo = \"drop\"\nwords = [\"a\", \"b\"]\n",
    ];

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(400))]
        #[test]
        fn rows_tell_the_ends_of_tokens_in_order(
            texts in prop::collection::vec(
                prop::collection::vec("the|The|a|a|b|c|bird|Bird|birds|BIRDS|birda|nests|ΟΣ|-|\\.|\\^", 0..24),
                0..6,
            ),
            recipe in 0..IN_ORDER.len(),
        ) {
            let texts: Vec<String> = texts.iter().map(|words| words.join(" ")).collect();
            let pipeline = testing::pipeline(IN_ORDER[recipe]);
            let by_rows = Worker::new(&pipeline, Outputs::default());
            prop_assert!(by_rows.by_row && by_rows.counts == CountedHere::Forms);
            let by_rows = account(by_rows, &texts);
            prop_assert_eq!(&by_rows, &account(slowly(&pipeline), &texts));
            let clean = Outputs { clean: true, ..Outputs::default() };
            prop_assert_eq!(&by_rows, &account(Worker::new(&pipeline, clean), &texts));
            let tokens = Outputs { tokens: true, ..Outputs::default() };
            prop_assert_eq!(&by_rows, &account(Worker::new(&pipeline, tokens), &texts));
        }

        #[test]
        fn spellings_are_counted_as_tokens_are(
            texts in prop::collection::vec(
                prop::collection::vec("the|The|THE|bird|Birds|BIRDS|ΟΣ|ος|Σ|οΣ1|a\u{0}|\u{0}|Ⓐ|\\^|\\.|'|-|-5|[a-cAΣσέİKßǅⓜ鳥0']{1,20}", 0..30),
                0..6,
            ),
            recipe in 0..RECIPES.len(),
        ) {
            let texts: Vec<String> = texts.iter().map(|words| words.join(" ").replace(" ' ", "'")).collect();
            let pipeline = testing::pipeline(RECIPES[recipe]);
            let fast = account(Worker::new(&pipeline, Outputs::default()), &texts);
            prop_assert_eq!(&fast, &account(slowly(&pipeline), &texts));
            let clean = Outputs { clean: true, ..Outputs::default() };
            prop_assert_eq!(&fast, &account(Worker::new(&pipeline, clean), &texts));
            let tokens = Outputs { tokens: true, ..Outputs::default() };
            prop_assert_eq!(&fast, &account(Worker::new(&pipeline, tokens), &texts));
        }
    }
}
