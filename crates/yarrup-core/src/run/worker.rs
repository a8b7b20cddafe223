//! One worker: takes documents through a pipeline and counts what becomes of them.

use crate::kind::Kind;
use crate::part_of_speech::Tag;
use crate::pipeline::{Pipeline, Variant};
use crate::run::fate::FormFate;
use crate::run::forms::{Forms, NONE};
use crate::run::intern::{Interner, Key};
use crate::run::ledger::{End, FormTally, Ledger};
use crate::run::passage::{FormsByVariant, Live, Look, Observer, Passage, Tokens, gaps};
use crate::span::Span;
use crate::step::{Arriving, Document, Fields, Gap, Mark, Text};

/// The most bytes that a document can have: spans are of 32 bits, and text steps may make a text up to three times as long.
pub const LONGEST_DOCUMENT: usize = 1 << 30;

/// What is made of each document, beside the account. What is not asked for is not paid for.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Outputs {
    /// The cleaned text.
    pub clean: bool,
    /// The kept tokens with their spans in the original.
    pub tokens: bool,
    /// All tokens with their spans and what became of them, the dropped ones among them.
    pub ends: bool,
}

impl Outputs {
    /// Whether tokens are asked for with their places in the original.
    fn has_spans(self) -> bool {
        self.tokens || self.ends
    }
}

/// A document after the recipe.
#[derive(Debug)]
pub struct Cleaned<'w> {
    /// The terms joined by single spaces, or by line breaks between sentences where the recipe keeps them; for a text recipe, the rewritten
    /// text. Empty unless asked for.
    pub clean: &'w str,
    /// How many tokens the text had as found.
    pub tokens_before: u64,
    /// How many tokens were kept.
    pub tokens_after: u64,
    /// Whether a step left the document out, as the index of its name and the number of the reason.
    pub left_out: Option<LeftOut>,
    /// The number of the step that made so much of the text that nothing of it was kept, if one did.
    pub overgrown: Option<usize>,
    kept: &'w [Kept],
    terms: &'w [u32],
    ended: &'w [Ended],
    /// By the index of a token step: its place in the recipe, from 1.
    steps: &'w [usize],
    spellings: &'w Interner,
}

/// Why a document was left out.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct LeftOut {
    /// The step's place in the recipe, from 1.
    pub step: usize,
    /// The number of the reason: see [`Pipeline::reason`].
    pub reason: u16,
}

/// A token that survived the recipe.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Token<'w> {
    /// What became of it.
    pub term: &'w str,
    /// What it is made of, before any token step.
    pub kind: Kind,
    /// Where its words stand in the original text.
    pub span: Span,
    /// The number of its sentence, from 1, where the recipe keeps sentences.
    pub sentence: Option<u32>,
    /// Its part of speech, where the recipe gives one.
    pub tag: Option<Tag>,
    /// The labels that it has, a bit for each: see [`Pipeline::labels`].
    pub labels: u32,
    /// Its lemma, where the recipe gives one.
    pub lemma: Option<&'w str>,
}

/// A token of the split, or one that a step made of others, and what became of it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct EndedToken<'w> {
    /// Its spelling at the split, or as the step made it that did.
    pub form: &'w str,
    /// What it is made of.
    pub kind: Kind,
    /// Its part of speech, where the recipe gives one.
    pub tag: Option<Tag>,
    /// The labels that it has, a bit for each: see [`Pipeline::labels`].
    pub labels: u32,
    /// Its lemma, where the recipe gives one.
    pub lemma: Option<&'w str>,
    /// Where it stands among the tokens of the split, from 1; of a token that is made of others, where the first of them stands.
    pub place: u32,
    /// The number of its sentence, from 1, where the recipe keeps sentences.
    pub sentence: Option<u32>,
    /// Where its words stand in the original text.
    pub span: Span,
    /// What became of it.
    pub fate: FormFate<'w>,
}

/// A token that went no further, with its place.
#[derive(Clone, Copy, Debug)]
struct Ended {
    token: Live,
    span: Span,
    end: End,
    /// 0 where the recipe keeps no sentences.
    sentence: u32,
}

/// A kept token with its place.
#[derive(Clone, Copy, Debug)]
struct Kept {
    token: Live,
    span: Span,
    /// 0 where the recipe keeps no sentences.
    sentence: u32,
}

impl<'w> Cleaned<'w> {
    /// The kept tokens, in order. None unless asked for.
    pub fn tokens(&self) -> impl Iterator<Item = Token<'w>> + '_ {
        self.kept.iter().map(|kept| Token {
            term: self.spellings.text(kept.token.spelling),
            kind: Kind::of(self.spellings.text(kept.token.origin)),
            span: kept.span,
            sentence: (kept.sentence > 0).then_some(kept.sentence),
            tag: kept.token.mark.tag(),
            labels: kept.token.mark.labels(),
            lemma: (kept.token.lemma != NONE).then(|| self.spellings.text(kept.token.lemma)),
        })
    }

    /// The terms, in order, each with a number by which its worker knows it. None unless the cleaned text is asked for.
    pub fn terms(&self) -> impl Iterator<Item = (u32, &'w str)> + '_ {
        self.terms.iter().map(|number| (*number, self.spellings.text(*number)))
    }

    /// All tokens and what became of them, in the order of the text. None unless asked for.
    ///
    /// ```
    /// use yarrup_core::{FormFate, NoFields, NoFiles, Outputs, Pipeline, Worker, recipe};
    ///
    /// let recipe = recipe::read("[[step]]\ndo = \"case\"\n[[step]]\ndo = \"stopwords\"\nadd = [\"the\"]\n").expect("no mistakes");
    /// let pipeline = Pipeline::compile(&recipe, &NoFiles).expect("it can run");
    /// let mut worker = Worker::new(&pipeline, Outputs { ends: true, ..Outputs::default() });
    /// let cleaned = worker.document("The tern", &NoFields);
    /// let ends: Vec<_> = cleaned.ends().map(|token| (token.form, token.span.start, token.fate)).collect();
    /// assert_eq!(ends[0], ("the", 0, FormFate::Dropped { step: 3, reason: 0 }));
    /// assert_eq!(ends[1], ("tern", 4, FormFate::Kept { term: "tern" }));
    /// ```
    pub fn ends(&self) -> impl Iterator<Item = EndedToken<'w>> + '_ {
        self.ended.iter().map(|ended| {
            let form = self.spellings.text(ended.token.origin);
            let step = |index: u8| self.steps.get(usize::from(index)).copied().unwrap_or_default();
            EndedToken {
                form,
                kind: Kind::of(form),
                tag: ended.token.mark.tag(),
                labels: ended.token.mark.labels(),
                lemma: (ended.token.lemma != NONE).then(|| self.spellings.text(ended.token.lemma)),
                place: ended.token.first + 1,
                sentence: (ended.sentence > 0).then_some(ended.sentence),
                span: ended.span,
                fate: match ended.end {
                    End::Kept { term } => FormFate::Kept { term: self.spellings.text(term) },
                    End::Dropped { step: index, reason } => FormFate::Dropped { step: step(index), reason },
                    End::Joined { step: index, into } => FormFate::Joined {
                        step: step(index),
                        into: (into != NONE).then(|| self.spellings.text(into)),
                    },
                },
            }
        })
    }
}

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
    /// The number of each token's spelling, and whether it was found like that.
    numbers: Vec<(u32, bool)>,
    gaps: Vec<Gap>,
    sentences: Vec<Span>,
    kept: Vec<Kept>,
    ended: Vec<Ended>,
    /// By the index of a token step: its place in the recipe, from 1.
    steps: Vec<usize>,
    clean: Clean,
}

impl<'p> Worker<'p> {
    /// A worker that has seen nothing yet.
    pub fn new(pipeline: &'p Pipeline, outputs: Outputs) -> Worker<'p> {
        Worker::up_to(pipeline, pipeline.tokens.len(), outputs)
    }

    /// A worker for all steps before the token step with this index.
    pub(crate) fn up_to(pipeline: &'p Pipeline, token_steps: usize, outputs: Outputs) -> Worker<'p> {
        let passage = Passage::new(pipeline, token_steps, outputs.has_spans());
        Worker {
            pipeline,
            outputs,
            ledger: Ledger::new(pipeline, token_steps, passage.parts()),
            passage,
            text: Text::new(outputs.has_spans()),
            overgrown: None,
            spans: Vec::new(),
            original_spans: Vec::new(),
            numbers: Vec::new(),
            gaps: Vec::new(),
            sentences: Vec::new(),
            kept: Vec::new(),
            ended: Vec::new(),
            steps: pipeline.tokens.iter().map(|stage| pipeline.steps()[stage.step].number).collect(),
            clean: Clean { is_of_lines: pipeline.splitter.makes_lines(), ..Clean::default() },
        }
    }

    /// A worker that takes documents to the token step with this index, which looks at the tokens that come there: see [`Worker::arrive`].
    pub(crate) fn to_step(pipeline: &'p Pipeline, step: usize) -> Worker<'p> {
        let passage = Passage::to_step(pipeline, step);
        let ledger = Ledger::new(pipeline, step, passage.parts());
        Worker { passage, ledger, ..Worker::up_to(pipeline, step, Outputs::default()) }
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

    /// What the worker has counted, for an account: its pipeline, the ledger, the forms of each variant, and the spellings that number them.
    pub(crate) fn into_counts(self) -> (&'p Pipeline, Ledger, FormsByVariant<FormTally>, Interner) {
        let (forms, spellings) = self.passage.into_forms();
        (self.pipeline, self.ledger, forms, spellings)
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
        let characters = self.rewrite(original, variant);
        let tokens_before = self.look_up(original, variant);
        let tokens_after = self.pass(document, variant, tokens_before);
        self.ledger.end_document(characters, tokens_before, tokens_after);
        if self.outputs.clean && self.pipeline.is_text_recipe() {
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

    /// Runs the text steps. Returns how many characters there were before.
    fn rewrite(&mut self, original: &str, variant: Variant) -> u64 {
        self.text.begin();
        let found = count_characters(original);
        let mut characters = found;
        self.overgrown = None;
        for (index, stage) in self.pipeline.text.iter().enumerate() {
            let before = characters;
            let matches = match stage.works_on(variant) {
                true => stage.apply(&mut self.text, original, &mut self.ledger.texts[index].matched),
                false => 0,
            };
            if self.overgrown.is_none() && self.text.is_overgrown() {
                self.overgrown = Some(self.pipeline.steps()[stage.step].number);
            }
            // A text that was only recased has as many characters as before.
            if matches > 0 && !self.text.has_original_boundaries() {
                characters = count_characters(self.text.as_str(original));
            }
            self.ledger.count_text_step(index, matches, before, characters);
        }
        found
    }

    /// Splits the text and looks up the number of each token's spelling. Returns how many tokens there were as found.
    fn look_up(&mut self, original: &str, variant: Variant) -> u64 {
        let now = self.text.as_str(original);
        let splitter = &self.pipeline.splitter;
        self.spans.clear();
        splitter.split(now, &mut self.spans);
        let variant = self.passage.variant(variant);
        let same_boundaries =
            !self.text.is_changed() || (self.text.has_original_boundaries() && splitter.ignores_case());
        let mut tokens_before = self.spans.len();
        if !same_boundaries {
            self.original_spans.clear();
            splitter.split(original, &mut self.original_spans);
            tokens_before = self.original_spans.len();
            for &span in &self.original_spans {
                note_found(&mut self.passage, variant, Key::at(original, span), original, span);
            }
        }
        let recased = same_boundaries && self.text.is_changed();
        // All look-ups first, then all counting: in a tight loop the processor waits for many of them at a time.
        self.numbers.clear();
        let numbers = &mut self.numbers;
        self.passage.spellings.numbers(now, &self.spans, |number| numbers.push((number, same_boundaries)));
        if recased {
            // Most tokens of a recased text are spelled as they were: only the others cost a look-up of their own.
            for (&span, (_, as_found)) in self.spans.iter().zip(&mut self.numbers) {
                let (found, key) = (Key::at(original, span), Key::at(now, span));
                *as_found = found == key && (key.is_whole() || span.of(original) == span.of(now));
                if !*as_found {
                    note_found(&mut self.passage, variant, found, original, span);
                }
            }
        }
        tokens_before as u64
    }

    /// Takes the tokens through the token steps. Returns how many are kept.
    fn pass(&mut self, document: &Document<'_>, variant: Variant, tokens_before: u64) -> u64 {
        let now = self.text.as_str(document.text);
        self.kept.clear();
        self.ended.clear();
        self.clean.begin();
        self.sentences.clear();
        let any_output = self.outputs != Outputs::default();
        if let Some(splitter) = self.pipeline.splitter.sentences().filter(|_| any_output) {
            splitter.split(now, &mut self.sentences);
        }
        if self.passage.parts() {
            gaps(now, &self.spans, &mut self.gaps);
        }
        let tokens =
            Tokens { variant, numbers: &self.numbers, gaps: &self.gaps, tokens_before, document: *document };
        let mut counting = Counting {
            ledger: &mut self.ledger,
            tokens_after: 0,
            sentences: Sentences { found: &self.sentences, now: 0 },
            spans: &self.spans,
            clean: self.outputs.clean.then_some(&mut self.clean),
            text: &self.text,
            kept: self.outputs.tokens.then_some(&mut self.kept),
            ended: self.outputs.ends.then_some(&mut self.ended),
        };
        self.passage.document(&tokens, &mut counting);
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
        if !self.pipeline.is_text_recipe() {
            self.clean.write(&self.passage.spellings);
        }
        tokens_after
    }
}

/// Notes the spelling of a token as found, where it is not the form that is counted.
fn note_found(passage: &mut Passage<'_, FormTally>, variant: usize, key: Key, text: &str, span: Span) {
    let number = passage.spellings.number_at(key, text, span);
    passage.first_forms(variant).of_spelling(number).found = true;
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

/// The ledger, and what is to be made of the kept tokens beside it.
struct Counting<'w> {
    ledger: &'w mut Ledger,
    tokens_after: u64,
    sentences: Sentences<'w>,
    spans: &'w [Span],
    clean: Option<&'w mut Clean>,
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
