//! One text through every step, with what each step made of it: for looking at, not for speed.

use std::ops::Range;

use crate::kind::Kind;
use crate::pipeline::{Pipeline, StepName, Variant};
use crate::run::forms::{Fate, Forms, NONE};
use crate::run::intern::Interner;
use crate::run::passage::{Live, Look, Observer, Passage, Regard, Tokens, gaps};
use crate::span::Span;
use crate::step::{Change, Document, Fields, Matches, NoFields, SortMatches, Text};

/// What every step made of one text.
#[derive(Clone, Debug)]
pub struct Trace<'p> {
    /// The text steps, in order.
    pub text_steps: Vec<TextTrace<'p>>,
    /// The split.
    pub split: &'p StepName,
    /// The tokens that the split made.
    pub tokens: Vec<TokenTrace>,
    /// The token steps, in order.
    pub token_steps: Vec<TokenStepTrace<'p>>,
    /// What is left: the terms joined by single spaces, or by line breaks between sentences; for a text recipe, the rewritten text.
    pub clean: String,
}

/// What a text step made of a text.
#[derive(Clone, Debug)]
pub struct TextTrace<'p> {
    /// The step.
    pub step: &'p StepName,
    /// Whether the step's condition held.
    pub applied: bool,
    /// How many places it matched.
    pub matches: u64,
    /// The sorts of matches that it tells apart, each with what was seen of it.
    pub sorts: Vec<(String, SortMatches)>,
    /// The text behind the step.
    pub text: String,
    /// What was put in the place of what, from the text before the step to the text behind it.
    pub changes: Vec<Change>,
    /// Whether this step, or one before, makes so much of the text that nothing of it was kept.
    pub is_overgrown: bool,
}

/// A token that the split made.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct TokenTrace {
    /// Where it stands in the original text.
    pub span: Span,
    /// Its spelling at the split.
    pub form: String,
    /// What it is made of.
    pub kind: Kind,
    /// The number of its sentence, from 1, where the recipe keeps sentences.
    pub sentence: Option<u32>,
}

/// What a token step made of the tokens.
#[derive(Clone, Debug)]
pub struct TokenStepTrace<'p> {
    /// The step.
    pub step: &'p StepName,
    /// Whether the step's condition held.
    pub applied: bool,
    /// For each token that came in: its number in [`Trace::tokens`], its spelling before the step, and its fate.
    pub tokens: Vec<(usize, String, TokenFate)>,
    /// Why the step leaves the whole document out, if it does.
    pub left_out: Option<String>,
}

/// What a token step made of a token.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum TokenFate {
    /// It goes on as it is.
    Kept,
    /// It goes on with this spelling.
    Changed(String),
    /// It is dropped, for this reason.
    Dropped(String),
    /// It goes on with what the step has said of it: a part of speech, a label.
    Marked(String),
    /// It goes into another token, with this spelling where there is one alone.
    Joined(Option<String>),
    /// The step has made it of others.
    Added,
}

impl Pipeline {
    /// Takes one text through every step and keeps what each made of it.
    ///
    /// ```
    /// use yarrup_core::{NoFields, NoFiles, Pipeline, TokenFate, recipe};
    ///
    /// let recipe = recipe::read("[[step]]\ndo = \"stem\"\n").expect("no mistakes");
    /// let pipeline = Pipeline::compile(&recipe, &NoFiles).expect("it can run");
    /// let trace = pipeline.trace("Terns nesting", &NoFields);
    /// assert_eq!(trace.tokens[1].form, "nesting");
    /// assert_eq!(trace.token_steps[0].tokens[1].2, TokenFate::Changed("nest".to_owned()));
    /// assert_eq!(trace.clean, "Tern nest");
    /// ```
    pub fn trace(&self, original: &str, fields: &dyn Fields) -> Trace<'_> {
        self.trace_to(original, fields, usize::MAX)
    }

    /// How a word is spelled at the split that stands alone in a text; none if it is not one token there.
    pub(crate) fn form_of(&self, word: &str) -> Option<String> {
        let variant = self.variant(word, &NoFields);
        let mut text = Text::new(false);
        text.begin();
        for stage in self.text.iter().filter(|stage| stage.works_on(variant)) {
            stage.apply(&mut text, word, &mut Matches::default());
        }
        let now = text.as_str(word);
        let mut spans = Vec::new();
        self.splitter.split(now, &mut spans);
        match spans.as_slice() {
            [one] => Some(one.of(now).to_owned()),
            _ => None,
        }
    }

    /// As [`Pipeline::trace`], but stops behind the step with this number. The split is always done; what it makes tells nothing where the
    /// number is that of a step before it.
    pub fn trace_to(&self, original: &str, fields: &dyn Fields, step: usize) -> Trace<'_> {
        let document = Document { text: original, fields, order: 0 };
        self.traced(&document, self.variant(original, fields), step)
    }

    /// The way of a document without fields for which these conditions hold, up to the step with this index.
    pub(crate) fn trace_up_to(&self, original: &str, variant: Variant, end: usize) -> Trace<'_> {
        self.traced(&Document { text: original, fields: &NoFields, order: 0 }, variant, end)
    }

    fn traced(&self, document: &Document<'_>, variant: Variant, end: usize) -> Trace<'_> {
        let original = document.text;
        let mut text = Text::new(true);
        text.begin();
        let text_steps = self.trace_text_steps(original, variant, end, &mut text);
        let now = text.as_str(original);
        let mut spans = Vec::new();
        self.splitter.split(now, &mut spans);
        let tokens = self.split_tokens(now, &spans, &text);
        let steps = self.tokens.iter().take_while(|stage| stage.step < end).count();
        let mut passage = Passage::new(self, steps, false);
        let numbers: Vec<u32> = spans.iter().map(|span| passage.spellings.number(span.of(now))).collect();
        let mut found = Vec::new();
        self.splitter.split(original, &mut found);
        let mut between = Vec::new();
        gaps(now, &spans, &mut between);
        let mut writer =
            TraceWriter { pipeline: self, variant, met: Vec::new(), steps: Vec::new(), kept: Vec::new() };
        let arriving = Tokens {
            variant,
            numbers: &numbers,
            gaps: &between,
            tokens_before: found.len() as u64,
            document: *document,
        };
        passage.document(&arriving, &mut writer);
        let clean = if self.is_text_recipe() {
            now.to_owned()
        } else {
            let terms = writer
                .kept
                .iter()
                .map(|token| (tokens[token.first as usize].sentence, passage.spellings.text(token.spelling)));
            joined(terms, self.splitter.makes_lines())
        };
        Trace { text_steps, split: &self.steps()[self.split], tokens, token_steps: writer.steps, clean }
    }

    /// The text steps before the step with the index `end`, one after the other.
    fn trace_text_steps(
        &self,
        original: &str,
        variant: Variant,
        end: usize,
        text: &mut Text,
    ) -> Vec<TextTrace<'_>> {
        let mut traces = Vec::new();
        for stage in self.text.iter().filter(|stage| stage.step < end) {
            let before = text.as_str(original).to_owned();
            let mut one = Text::new(true);
            one.begin();
            let applied = stage.works_on(variant);
            let mut matched = Matches::default();
            let matches = if applied { stage.apply(text, original, &mut matched) } else { 0 };
            matched.end_document();
            // Run once more on the text before, for the changes of this step alone.
            let changes = if text.is_overgrown() {
                Vec::from_iter((!before.is_empty()).then_some(Change { was: 0..before.len(), now: 0..0 }))
            } else if matches > 0 {
                stage.apply(&mut one, &before, &mut Matches::default());
                with_case_changes(&before, one.as_str(&before), one.alignment().changes())
            } else {
                Vec::new()
            };
            traces.push(TextTrace {
                step: &self.steps()[stage.step],
                applied,
                matches,
                sorts: sorts_of(stage.runs.sorts(), &matched),
                text: text.as_str(original).to_owned(),
                changes,
                is_overgrown: text.is_overgrown(),
            });
        }
        traces
    }

    fn split_tokens(&self, now: &str, spans: &[Span], text: &Text) -> Vec<TokenTrace> {
        let sentences: Option<Vec<Span>> = self.splitter.sentences().map(|splitter| {
            let mut found = Vec::new();
            splitter.split(now, &mut found);
            found
        });
        let sentence_of = |at: u32| {
            let found = sentences.as_ref()?;
            Some((found.partition_point(|sentence| sentence.start <= at) as u32).max(1))
        };
        let token = |span: &Span| {
            let place = text.alignment().original(span.start as usize..span.end as usize);
            let form = span.of(now);
            let sentence = sentence_of(span.start);
            let span = Span { start: place.start as u32, end: place.end as u32 };
            TokenTrace { span, form: form.to_owned(), kind: Kind::of(form), sentence }
        };
        spans.iter().map(token).collect()
    }
}

/// Terms joined by spaces, and by line breaks where another sentence begins, or behind each if they are `lines`.
fn joined<'t>(terms: impl Iterator<Item = (Option<u32>, &'t str)>, lines: bool) -> String {
    let mut clean = String::new();
    let mut last = None;
    for (sentence, term) in terms {
        clean.push_str(match last {
            None => "",
            Some(before) if before == sentence && !lines => " ",
            Some(_) => "\n",
        });
        clean.push_str(term);
        last = Some(sentence);
    }
    clean
}

/// The observer that writes down what every step made of every token.
struct TraceWriter<'p> {
    pipeline: &'p Pipeline,
    variant: Variant,
    /// The tokens that have come to the present segment, each with its row.
    met: Vec<(Live, u32)>,
    steps: Vec<TokenStepTrace<'p>>,
    kept: Vec<Live>,
}

/// The changes of a form's spelling, among those of its segment.
#[derive(Clone, Copy, Debug, Default)]
struct Changes {
    start: u32,
    end: u32,
}

impl<'p> TraceWriter<'p> {
    fn push(&mut self, index: usize, tokens: Vec<(usize, String, TokenFate)>) {
        let stage = &self.pipeline.tokens[index];
        let applied = stage.works_on(self.variant);
        let step = &self.pipeline.steps()[stage.step];
        self.steps.push(TokenStepTrace { step, applied, tokens, left_out: None });
    }

    /// For a step that had nothing to look at: every token stays.
    fn push_idle(&mut self, index: usize, tokens: &[Live], spellings: &Interner) {
        let kept =
            |token: &Live| (token.first as usize, spellings.text(token.spelling).to_owned(), TokenFate::Kept);
        self.push(index, tokens.iter().map(kept).collect());
    }

    fn labels(&self, bits: u32) -> String {
        let names = self.pipeline.labels().iter().enumerate().filter(|(bit, _)| bits >> bit & 1 == 1);
        names.map(|(_, name)| name.as_str()).collect::<Vec<_>>().join(", ")
    }
}

impl Observer for TraceWriter<'_> {
    type Tally = Changes;

    fn decided(&mut self, forms: &mut Forms<Changes>, row: u32, changes: Range<u32>) {
        forms.rows[row as usize].tally = Changes { start: changes.start, end: changes.end };
    }

    fn met(&mut self, _forms: &mut Forms<Changes>, row: u32, token: &Live) {
        self.met.push((*token, row));
    }

    fn passed(&mut self, steps: Range<usize>, forms: &Forms<Changes>, spellings: &Interner) {
        let mut met = std::mem::take(&mut self.met);
        // A step that does not work on the document was not asked to look.
        if let Some(before) = steps.start.checked_sub(1).filter(|before| self.steps.len() == *before) {
            let tokens: Vec<Live> = met.iter().map(|(token, _)| *token).collect();
            self.push_idle(before, &tokens, spellings);
        }
        for index in steps {
            let mut fates = Vec::with_capacity(met.len());
            met.retain_mut(|(token, row)| {
                let row = &forms.rows[*row as usize];
                let was = spellings.text(token.spelling).to_owned();
                let changes = &forms.changes[row.tally.start as usize..row.tally.end as usize];
                let change = changes.iter().find(|change| usize::from(change.step) == index);
                let fate = match (row.fate(), change) {
                    (_, Some(change)) => {
                        token.spelling = change.to;
                        TokenFate::Changed(spellings.text(change.to).to_owned())
                    }
                    (Fate::Dropped { step, reason }, None) if usize::from(step) == index => {
                        TokenFate::Dropped(self.pipeline.tokens[index].facts().reason(reason))
                    }
                    _ => TokenFate::Kept,
                };
                let stays = !matches!(fate, TokenFate::Dropped(_));
                fates.push((token.first as usize, was, fate));
                stays
            });
            self.push(index, fates);
        }
    }

    fn looked(&mut self, look: Look<'_>, spellings: &Interner) {
        let spelled = |number: u32| spellings.text(number).to_owned();
        // In the order of the text; what was made of others behind the last of them.
        let mut told = Vec::with_capacity(look.before.len() + look.added.len());
        for (token, regard) in look.before.iter().zip(look.regards) {
            let fate = match *regard {
                Regard::Kept => TokenFate::Kept,
                Regard::Tagged(tag) => TokenFate::Marked(tag.name().to_owned()),
                Regard::Labelled(labels) => TokenFate::Marked(self.labels(labels)),
                Regard::Changed(to) => TokenFate::Changed(spelled(to)),
                Regard::Dropped(reason) => {
                    TokenFate::Dropped(self.pipeline.tokens[look.step].facts().reason(reason))
                }
                Regard::Joined(NONE) => TokenFate::Joined(None),
                Regard::Joined(into) => TokenFate::Joined(Some(spelled(into))),
            };
            told.push(((token.last, false), (token.first as usize, spelled(token.spelling), fate)));
        }
        for token in look.added {
            let added = (token.first as usize, spelled(token.spelling), TokenFate::Added);
            told.push(((token.last, true), added));
        }
        told.sort_by_key(|(place, _)| *place);
        self.push(look.step, told.into_iter().map(|(_, fate)| fate).collect());
    }

    fn judged(&mut self, step: usize, reason: Option<u16>, tokens: &[Live], spellings: &Interner) {
        let left_out = reason.map(|reason| self.pipeline.tokens[step].facts().reason(reason));
        let fate = left_out.clone().map_or(TokenFate::Kept, TokenFate::Dropped);
        let told =
            |token: &Live| (token.first as usize, spellings.text(token.spelling).to_owned(), fate.clone());
        self.push(step, tokens.iter().map(told).collect());
        if let Some(trace) = self.steps.last_mut() {
            trace.left_out = left_out;
        }
    }

    fn kept(&mut self, _forms: &mut Forms<Changes>, token: &Live) {
        self.kept.push(*token);
    }
}

/// The sorts of matches that were seen, with their names.
pub(crate) fn sorts_of(names: Vec<String>, matched: &Matches) -> Vec<(String, SortMatches)> {
    let seen = names.into_iter().zip(matched.sorts().iter().cloned());
    seen.filter(|(_, sort)| sort.count > 0).collect()
}

/// The changes of a step with those of letter case added, which the alignment leaves out since they move nothing.
fn with_case_changes(before: &str, after: &str, changes: &[Change]) -> Vec<Change> {
    let mut all: Vec<Change> = Vec::new();
    let (mut was, mut now) = (0, 0);
    let ends = Change { was: before.len()..before.len(), now: after.len()..after.len() };
    for change in changes.iter().chain([&ends]) {
        let copied = before[was..change.was.start].char_indices().zip(after[now..change.now.start].chars());
        for ((at, a), b) in copied {
            if a != b {
                let length = a.len_utf8();
                match all.last_mut() {
                    Some(last) if last.was.end == was + at && last.now.end == now + at => {
                        last.was.end += length;
                        last.now.end += length;
                    }
                    _ => all
                        .push(Change { was: was + at..was + at + length, now: now + at..now + at + length }),
                }
            }
        }
        all.push(change.clone());
        (was, now) = (change.was.end, change.now.end);
    }
    all.pop();
    all
}
