//! One text through every step, with what each step made of it: for looking at, not for speed.

use crate::kind::Kind;
use crate::pipeline::{Fields, Pipeline, StepName, TokenStage};
use crate::span::Span;
use crate::step::{
    Change, Edit, Form, Mark, Matches, Outcome, Place, Sequence, SequenceStep, SortMatches, Text,
};

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
    pub fn trace(&self, original: &str, fields: &dyn Fields) -> Trace<'_> {
        let variant = self.variant(original, fields);
        self.trace_up_to(original, variant, usize::MAX)
    }

    /// As [`Pipeline::trace`], but stops behind the step with this number. The split is always done; what it makes tells nothing where the
    /// number is that of a step before it.
    pub fn trace_to(&self, original: &str, fields: &dyn Fields, step: usize) -> Trace<'_> {
        self.trace_up_to(original, self.variant(original, fields), step)
    }

    /// As [`Pipeline::trace`], but stops before the step with this index.
    pub(crate) fn trace_up_to(&self, original: &str, variant: crate::Variant, end: usize) -> Trace<'_> {
        let mut text = Text::new(true);
        text.begin();
        let mut text_steps: Vec<TextTrace<'_>> = Vec::new();
        for stage in self.text.iter().filter(|stage| stage.step < end) {
            let before = text.as_str(original).to_owned();
            let mut one = Text::new(true);
            one.begin();
            let applied = stage.works_on(variant);
            let mut matched = Matches::default();
            let matches = if applied { stage.apply(&mut text, original, &mut matched) } else { 0 };
            matched.end_document();
            // Run once more on the text before, for the changes of this step alone.
            let changes = if matches > 0 {
                stage.apply(&mut one, &before, &mut Matches::default());
                with_case_changes(&before, one.as_str(&before), one.alignment().changes())
            } else {
                Vec::new()
            };
            text_steps.push(TextTrace {
                step: &self.steps()[stage.step],
                applied,
                matches,
                sorts: sorts_of(stage.runs.sorts(), &matched),
                text: text.as_str(original).to_owned(),
                changes,
            });
        }
        let now = text.as_str(original);
        let mut spans = Vec::new();
        self.splitter.split(now, &mut spans);
        let sentences: Option<Vec<Span>> = self.splitter.sentences().map(|splitter| {
            let mut found = Vec::new();
            splitter.split(now, &mut found);
            found
        });
        let sentence_of = |at: u32| {
            sentences
                .as_ref()
                .map(|found| (found.partition_point(|sentence| sentence.start <= at) as u32).max(1))
        };
        let tokens: Vec<TokenTrace> = spans
            .iter()
            .map(|span| {
                let place = text.alignment().original(span.start as usize..span.end as usize);
                let form = span.of(now);
                let sentence = sentence_of(span.start);
                let span = Span { start: place.start as u32, end: place.end as u32 };
                TokenTrace { span, form: form.to_owned(), kind: Kind::of(form), sentence }
            })
            .collect();
        let mut alive: Vec<Alive> = tokens
            .iter()
            .enumerate()
            .map(|(number, token)| Alive {
                number,
                last: number,
                form: token.form.clone(),
                mark: Mark::default(),
            })
            .collect();
        let begins: Vec<bool> = (0..spans.len())
            .map(|place| {
                let end = place.checked_sub(1).map_or(0, |before| spans[before].end as usize);
                place == 0 || now[end..spans[place].start as usize].matches('\n').count() > 1
            })
            .collect();
        let mut token_steps = Vec::new();
        for stage in self.tokens.iter().filter(|stage| stage.step < end) {
            let (fates, left) = match stage.sequence().filter(|_| stage.works_on(variant)) {
                Some(step) => in_order(self, stage, step, &begins, alive),
                None => one_by_one(stage, variant, alive),
            };
            alive = left;
            token_steps.push(TokenStepTrace {
                step: &self.steps()[stage.step],
                applied: stage.works_on(variant),
                tokens: fates,
            });
        }
        let clean = if self.is_text_recipe() {
            now.to_owned()
        } else {
            let mut clean = String::new();
            let mut last = None;
            for Alive { number, form, .. } in &alive {
                let sentence = tokens[*number].sentence;
                clean.push_str(if last.is_none() {
                    ""
                } else if last == Some(sentence) {
                    " "
                } else {
                    "\n"
                });
                clean.push_str(form);
                last = Some(sentence);
            }
            clean
        };
        Trace { text_steps, split: &self.steps()[self.split], tokens, token_steps, clean }
    }
}

/// A token that is still there.
#[derive(Clone)]
struct Alive {
    /// The first and the last of the tokens of the split that it is made of.
    number: usize,
    last: usize,
    form: String,
    mark: Mark,
}

type Told = (usize, String, TokenFate);
type Fates = Vec<Told>;

fn one_by_one(stage: &TokenStage, variant: crate::Variant, alive: Vec<Alive>) -> (Fates, Vec<Alive>) {
    let (mut fates, mut left) = (Vec::with_capacity(alive.len()), Vec::with_capacity(alive.len()));
    for token in alive {
        let fate = match stage.apply(&Form::marked(&token.form, token.mark), variant) {
            Outcome::Keep => {
                left.push(token.clone());
                TokenFate::Kept
            }
            Outcome::Change(to) => {
                left.push(Alive { form: to.clone(), ..token.clone() });
                TokenFate::Changed(to)
            }
            Outcome::Drop(reason) => TokenFate::Dropped(stage.runs.reason(reason)),
        };
        fates.push((token.number, token.form, fate));
    }
    (fates, left)
}

fn in_order(
    pipeline: &Pipeline,
    stage: &TokenStage,
    step: &dyn SequenceStep,
    begins: &[bool],
    alive: Vec<Alive>,
) -> (Fates, Vec<Alive>) {
    let places = alive.iter().map(|token| Place {
        text: &token.form,
        tag: token.mark.tag(),
        labels: token.mark.labels(),
        begins: begins[token.number],
        spared: stage.spares_token(&token.form, Kind::of(&token.form), token.mark),
    });
    let mut sequence = Sequence::new(places.collect());
    step.worker().document(&mut sequence);
    let (edits, replaced) = sequence.into_edits();
    let mut fates: Vec<TokenFate> = vec![TokenFate::Kept; alive.len()];
    let mut marks: Vec<Mark> = alive.iter().map(|token| token.mark).collect();
    let mut added: Vec<Alive> = Vec::new();
    for edit in edits {
        match edit {
            Edit::Tag(place, tag) => {
                marks[place as usize] = marks[place as usize].with_tag(tag);
                fates[place as usize] = TokenFate::Marked(tag.name().to_owned());
            }
            Edit::Label(place, labels) => {
                marks[place as usize] = marks[place as usize].with_labels(labels);
                let names = pipeline.labels().iter().enumerate().filter(|(bit, _)| labels >> bit & 1 == 1);
                let names: Vec<&str> = names.map(|(_, name)| name.as_str()).collect();
                fates[place as usize] = TokenFate::Marked(names.join(", "));
            }
            Edit::Drop(place, reason) => {
                fates[place as usize] = TokenFate::Dropped(stage.runs.reason(reason));
            }
            Edit::Join(start, end, text) | Edit::Run(start, end, text) => {
                let range = start as usize..end as usize;
                let (number, last) = (alive[range.start].number, alive[range.end - 1].last);
                let mark = Mark::of_parts(alive[range.clone()].iter().map(|token| token.mark));
                if !replaced {
                    fates[range].fill(TokenFate::Joined(Some(text.clone())));
                }
                added.push(Alive { number, last, form: text, mark });
            }
        }
    }
    if replaced {
        fates.fill(TokenFate::Joined(None));
    }
    // In the order of the text; what was made of others behind the last of them.
    let mut told: Vec<((usize, bool), Told)> = Vec::with_capacity(alive.len() + added.len());
    let mut left = Vec::with_capacity(alive.len());
    for ((mut token, fate), mark) in alive.into_iter().zip(fates).zip(marks) {
        told.push(((token.last, false), (token.number, token.form.clone(), fate.clone())));
        if !matches!(fate, TokenFate::Dropped(_) | TokenFate::Joined(_)) {
            token.mark = mark;
            left.push(token);
        }
    }
    for token in &added {
        told.push(((token.last, true), (token.number, token.form.clone(), TokenFate::Added)));
    }
    told.sort_by_key(|(place, _)| *place);
    let told = told.into_iter().map(|(_, fate)| fate).collect();
    left.extend(added);
    left.sort_by_key(|token| (token.number, token.last));
    (told, left)
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
