//! One worker: takes documents through a pipeline and keeps its own ledger.

use crate::kind::Kind;
use crate::part_of_speech::Tag;
use crate::pipeline::{Fields, Pipeline};
use crate::run::intern::Key;
use crate::run::ledger::Ledger;
use crate::run::passage::{Live, NONE, Passage};
use crate::span::Span;
use crate::step::{Mark, Matches, SequenceWork, Text};

/// What is made of each document, beside the ledger. What is not asked for is not paid for.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Outputs {
    /// The cleaned text.
    pub clean: bool,
    /// The kept tokens with their spans in the original.
    pub tokens: bool,
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
    kept: &'w [Kept],
    ledger: &'w Ledger,
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

#[derive(Clone, Copy, Debug)]
struct Kept {
    form: u32,
    term: u32,
    mark: Mark,
    lemma: u32,
    span: Span,
    /// 0 where the recipe keeps no sentences.
    sentence: u32,
}

impl<'w> Cleaned<'w> {
    /// The kept tokens, in order. None unless asked for.
    pub fn tokens(&self) -> impl Iterator<Item = Token<'w>> + '_ {
        self.kept.iter().map(|kept| Token {
            term: self.ledger.text(kept.term),
            kind: Kind::of(self.ledger.text(kept.form)),
            span: kept.span,
            sentence: (kept.sentence > 0).then_some(kept.sentence),
            tag: kept.mark.tag(),
            labels: kept.mark.labels(),
            lemma: (kept.lemma != NONE).then(|| self.ledger.text(kept.lemma)),
        })
    }
}

/// Takes documents through a pipeline, one after the other, and counts what becomes of them.
pub struct Worker<'p> {
    pipeline: &'p Pipeline,
    outputs: Outputs,
    ledger: Ledger,
    text: Text,
    spans: Vec<Span>,
    original_spans: Vec<Span>,
    /// UTF-8; as bytes, since joining terms byte by byte needs no look at their borders.
    clean: Vec<u8>,
    kept: Vec<Kept>,
    /// The number of each token's spelling, and whether it was found like that.
    numbers: Vec<(u32, bool)>,
    /// The numbers of the kept terms.
    terms: Vec<u32>,
    sentences: Vec<Span>,
    /// The places among the kept terms where sentences begin.
    line_begins: Vec<usize>,
    segments: Vec<std::ops::Range<usize>>,
    /// By token step: what works on tokens in their order.
    sequence_workers: Vec<Option<Box<dyn SequenceWork + 'p>>>,
    live: Vec<Live>,
    begins: Vec<bool>,
}

impl<'p> Worker<'p> {
    /// A worker that has seen nothing yet.
    pub fn new(pipeline: &'p Pipeline, outputs: Outputs) -> Worker<'p> {
        Worker {
            pipeline,
            outputs,
            ledger: Ledger::new(pipeline),
            text: Text::new(outputs.tokens),
            spans: Vec::new(),
            original_spans: Vec::new(),
            clean: Vec::new(),
            kept: Vec::new(),
            numbers: Vec::new(),
            terms: Vec::new(),
            sentences: Vec::new(),
            line_begins: Vec::new(),
            segments: pipeline.segments(),
            sequence_workers: pipeline
                .tokens
                .iter()
                .map(|stage| stage.sequence().map(crate::step::SequenceStep::worker))
                .collect(),
            live: Vec::new(),
            begins: Vec::new(),
        }
    }

    /// What the worker has counted.
    pub fn into_ledger(self) -> Ledger {
        self.ledger
    }

    /// Takes one document through the pipeline.
    ///
    /// # Panics
    ///
    /// If `original` is longer than [`LONGEST_DOCUMENT`], which is for the reader to keep to.
    pub fn document(&mut self, original: &str, fields: &dyn Fields) -> Cleaned<'_> {
        assert!(original.len() <= LONGEST_DOCUMENT, "the reader refuses documents that are too long");
        let pipeline = self.pipeline;
        let variant = pipeline.variant(original, fields);
        let variant_number = self.ledger.begin_document(pipeline, variant);
        self.text.begin();
        let characters_found = count_characters(original);
        let mut characters = characters_found;
        for (index, stage) in pipeline.text.iter().enumerate() {
            let before = characters;
            let matches = match stage.works_on(variant) {
                true => stage.apply(&mut self.text, original, self.ledger.matches(index)),
                false => 0,
            };
            // A text that was only recased has as many characters as before.
            if matches > 0 && !self.text.has_original_boundaries() {
                characters = count_characters(self.text.as_str(original));
            }
            self.ledger.count_text_step(index, matches, before, characters);
        }
        let now = self.text.as_str(original);
        self.spans.clear();
        pipeline.splitter.split(now, &mut self.spans);
        let mut tokens_before = self.spans.len();
        let same_boundaries = !self.text.is_changed()
            || (self.text.has_original_boundaries() && pipeline.splitter.ignores_case());
        if !same_boundaries {
            self.original_spans.clear();
            pipeline.splitter.split(original, &mut self.original_spans);
            tokens_before = self.original_spans.len();
            for &span in &self.original_spans {
                self.ledger.note_found(variant_number, Key::at(original, span), original, span);
            }
        }
        self.clean.clear();
        self.kept.clear();
        let recased = same_boundaries && self.text.is_changed();
        // All look-ups first, then all counting: in a tight loop the processor waits for many of them at a time.
        self.numbers.clear();
        for &span in &self.spans {
            let key = Key::at(now, span);
            let mut as_found = same_boundaries;
            if recased {
                // Most tokens of a recased text are spelled as they were: only the others cost a look-up of their own.
                let found = Key::at(original, span);
                as_found = found == key && (key.is_whole() || span.of(original) == span.of(now));
                if !as_found {
                    self.ledger.note_found(variant_number, found, original, span);
                }
            }
            self.numbers.push((self.ledger.number(key, now, span), as_found));
        }
        let wants_terms = self.outputs.clean && !pipeline.is_text_recipe();
        let mut tokens_after = 0;
        self.terms.clear();
        self.sentences.clear();
        self.line_begins.clear();
        if let Some(splitter) = pipeline.splitter.sentences().filter(|_| self.outputs != Outputs::default()) {
            splitter.split(now, &mut self.sentences);
        }
        let keeps_sentences = !self.sentences.is_empty();
        let (mut sentence, mut last_sentence) = (0, 0);
        let mut keep = |place: usize, term: u32, live: Option<&Live>| {
            tokens_after += 1;
            if keeps_sentences {
                // The sentence in which the token begins; one before the first sentence belongs to that.
                let start = self.spans[place].start;
                while self.sentences.get(sentence).is_some_and(|next| next.start <= start) {
                    sentence += 1;
                }
                sentence = sentence.max(1);
                if wants_terms && sentence != last_sentence {
                    self.line_begins.push(self.terms.len());
                }
                last_sentence = sentence;
            }
            if wants_terms {
                self.terms.push(term);
            }
            if self.outputs.tokens {
                let last = live.map_or(place, |live| live.last as usize);
                let now = self.spans[place].start as usize..self.spans[last].end as usize;
                let original = self.text.alignment().original(now);
                let span = Span { start: original.start as u32, end: original.end as u32 };
                let form = live.map_or(self.numbers[place].0, |live| live.origin);
                let (mark, lemma) = live.map_or((Mark::default(), NONE), |live| (live.mark, live.lemma));
                self.kept.push(Kept { form, term, mark, lemma, span, sentence: sentence as u32 });
            }
        };
        if self.segments.len() > 1 {
            self.live.clear();
            self.live.extend(self.numbers.iter().enumerate().map(|(place, &(number, _))| {
                let place = place as u32;
                let mark = Mark::default();
                Live { spelling: number, mark, origin: number, first: place, last: place, lemma: NONE }
            }));
            begins(now, &self.spans, &mut self.begins);
            self.ledger.note_as_found(variant_number, &self.numbers);
            let passage = Passage { pipeline, segments: &self.segments, variant, begins: &self.begins };
            self.ledger.pass(&passage, &mut self.sequence_workers, &mut self.live);
            for live in &self.live {
                keep(live.first as usize, live.spelling, Some(live));
            }
        } else {
            self.ledger
                .count_tokens(pipeline, variant_number, &self.numbers, |place, term| keep(place, term, None));
            if self.outputs.tokens && pipeline.gives_lemmas() {
                for kept in &mut self.kept {
                    kept.lemma = self.ledger.lemma(variant_number, kept.form);
                }
            }
        }
        let mut begin = 0;
        let ends = self.line_begins.iter().copied().skip(1).chain([self.terms.len()]);
        for end in ends {
            for &term in &self.terms[begin..end] {
                self.clean.extend_from_slice(self.ledger.spaced(term));
            }
            self.clean.pop();
            self.clean.push(b'\n');
            begin = end;
        }
        self.clean.pop();
        self.ledger.end_document(characters_found, tokens_before as u64, tokens_after);
        if self.outputs.clean && pipeline.is_text_recipe() {
            self.clean.extend_from_slice(self.text.as_str(original).as_bytes());
        }
        Cleaned {
            clean: std::str::from_utf8(&self.clean).expect("whole texts make a text"),
            tokens_before: tokens_before as u64,
            tokens_after,
            kept: &self.kept,
            ledger: &self.ledger,
        }
    }
}

/// Tells for each token whether a paragraph begins with it: an empty line, or the end of a line that is no sentence's middle, stands
/// before it.
fn begins(text: &str, spans: &[Span], begins: &mut Vec<bool>) {
    begins.clear();
    let mut end = 0;
    begins.extend(spans.iter().enumerate().map(|(place, span)| {
        let gap = text.get(end..span.start as usize).unwrap_or_default();
        end = span.end as usize;
        place == 0 || (gap.len() > 1 && gap.bytes().filter(|&byte| byte == b'\n').count() > 1)
    }));
}

/// Takes texts through the text steps of a pipeline alone.
pub struct TextRewriter<'p> {
    pipeline: &'p Pipeline,
    text: Text,
    matched: Vec<Matches>,
}

impl Pipeline {
    /// What takes texts through the text steps alone, and counts nothing but what they match.
    pub fn rewriter(&self) -> TextRewriter<'_> {
        let matched = vec![Matches::default(); self.text.len()];
        TextRewriter { pipeline: self, text: Text::new(false), matched }
    }
}

impl TextRewriter<'_> {
    /// What the text steps make of a text. A text that none of them changes is given back as it is.
    pub fn rewrite<'t>(&'t mut self, original: &'t str, fields: &dyn Fields) -> &'t str {
        let variant = self.pipeline.variant(original, fields);
        self.text.begin();
        for (stage, matched) in self.pipeline.text.iter().zip(&mut self.matched) {
            if stage.works_on(variant) {
                stage.apply(&mut self.text, original, matched);
            }
        }
        self.text.as_str(original)
    }
}

/// The most bytes that a document can have: spans are of 32 bits, and text steps may make a text up to three times as long.
pub const LONGEST_DOCUMENT: usize = 1 << 30;

fn count_characters(text: &str) -> u64 {
    text.chars().count() as u64
}
