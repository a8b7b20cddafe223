//! What each step did.

use std::cmp::Reverse;

use crate::account::{Account, Segment};

/// What one step did. A count that does not apply to the step's stage is none.
///
/// For every token step, `tokens_in - tokens_dropped - tokens_joined + tokens_added == tokens_out`, and what goes out of one step goes into
/// the next.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Effect {
    /// The step's place in the recipe, from 1; 0 is the text as found.
    pub step: usize,
    /// The operation; `as found` for step 0.
    pub operation: String,
    /// The step's label.
    pub label: Option<String>,
    /// Whether the step does not stand in the recipe but was added.
    pub put_in: bool,
    /// Documents in which the step changed or dropped something; of a step that decides about documents, those that it left out.
    pub documents_touched: Option<u64>,
    /// Tokens that came in.
    pub tokens_in: Option<u64>,
    /// Tokens that the step dropped.
    pub tokens_dropped: Option<u64>,
    /// Tokens that the step made part of others, which it added.
    pub tokens_joined: Option<u64>,
    /// Tokens that the step added: it made them of others.
    pub tokens_added: Option<u64>,
    /// Tokens that got another spelling.
    pub tokens_changed: Option<u64>,
    /// Tokens that got a part of speech or a label.
    pub tokens_marked: Option<u64>,
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

impl Account {
    /// The effect of every step, the text as found first.
    ///
    /// ```
    /// use yarrup_core::{NoFields, NoFiles, Outputs, Pipeline, Worker, recipe};
    ///
    /// let recipe = recipe::read("[[step]]\ndo = \"case\"\n[[step]]\ndo = \"phrases\"\nadd = [\"barn owl\"]\n").expect("no mistakes");
    /// let pipeline = Pipeline::compile(&recipe, &NoFiles).expect("it can run");
    /// let mut worker = Worker::new(&pipeline, Outputs::default());
    /// worker.document("A barn owl. Barn Owl, barn!", &NoFields);
    /// let account = worker.into_account();
    /// let phrases = &account.effects()[3];
    /// assert_eq!((phrases.tokens_joined, phrases.tokens_added), (Some(4), Some(2)));
    /// ```
    pub fn effects(&self) -> Vec<Effect> {
        let mut effects = vec![Effect {
            operation: "as found".to_owned(),
            tokens_out: Some(self.totals.tokens_found),
            types_out: Some(self.types_found()),
            characters_out: Some(self.totals.characters),
            ..Effect::default()
        }];
        let names: Vec<Effect> = self
            .steps
            .iter()
            .enumerate()
            .map(|(index, step)| Effect {
                step: index + 1,
                operation: step.operation.clone(),
                label: step.label.clone(),
                put_in: step.put_in,
                ..Effect::default()
            })
            .collect();
        let mut names = names.into_iter();
        for (tally, name) in self.text_steps.iter().zip(names.by_ref()) {
            effects.push(Effect {
                documents_touched: Some(tally.documents),
                matches: Some(tally.matches),
                characters_in: Some(tally.characters_in),
                characters_out: Some(tally.characters_out),
                ..name
            });
        }
        if let Some(split) = names.next() {
            self.token_effects(split, names, &mut effects);
        }
        effects
    }

    /// How a word stands among all behind the split and every step after it: how many tokens are spelled like it then, and its rank by that, ties in the
    /// order of their bytes. Steps behind which it stands as behind the one before are told as well.
    pub fn ranks_of(&self, word: &str) -> Vec<RankRow> {
        let Some(number) = self.texts.number(word) else { return Vec::new() };
        let mut rows = Vec::new();
        self.behind_each_step(|step, counts, _| {
            let count = counts[number as usize];
            let before = |(other, &others): (usize, &u64)| {
                others > count || (others == count && other < number as usize)
            };
            let rank =
                (count > 0).then(|| 1 + counts.iter().enumerate().filter(|row| before(*row)).count() as u64);
            rows.push(RankRow { step, count, rank });
        });
        rows
    }

    /// How all words stand among one another behind the split and behind every step after it that changed or dropped something: see
    /// [`Account::ranks_of`].
    pub fn step_ranks(&self) -> Vec<StepRanks> {
        let mut rows = Vec::new();
        self.behind_each_step(|step, counts, did_something| {
            if !did_something {
                return;
            }
            let mut order: Vec<u32> =
                (0..counts.len() as u32).filter(|number| counts[*number as usize] > 0).collect();
            // They stand in the order of their bytes, and stay so where they are equally frequent.
            order.sort_by_key(|number| Reverse(counts[*number as usize]));
            let mut ranks = vec![0; counts.len()];
            (1..).zip(&order).for_each(|(rank, number)| ranks[*number as usize] = rank);
            rows.push(StepRanks { step, ranks });
        });
        rows
    }

    /// Gives, behind the split and each step after it: the step's place in the recipe, how many tokens are spelled like each text, and whether the step did
    /// something that may have changed that.
    fn behind_each_step(&self, mut look: impl FnMut(usize, &[u64], bool)) {
        let split = self.steps.iter().take_while(|step| !step.stage.needs_tokens()).count();
        let mut counts = vec![0; self.texts.len()];
        let mut tell = |step: usize, forms: &Walk<'_>, did_something: bool| {
            if did_something {
                counts.fill(0);
                forms.counts(&mut counts);
            }
            look(step, &counts, did_something);
        };
        let mut forms = Walk::begin(self, 0);
        tell(split, &forms, true);
        let mut segment = 0;
        let parts = self.steps.iter().filter(|step| step.stage.needs_tokens()).map(|step| step.parts);
        for (index, parts) in parts.enumerate() {
            let did_something = if parts {
                segment += 1;
                forms = Walk::begin(self, segment);
                true
            } else {
                forms.pass(index as u8) != (0, 0)
            };
            tell(split + index + 1, &forms, did_something);
        }
    }

    /// The effect of the split and of every step behind it, segment by segment.
    fn token_effects(&self, split: Effect, names: impl Iterator<Item = Effect>, effects: &mut Vec<Effect>) {
        let mut distinct = Distinct { seen: vec![0; self.texts.len()], round: 0 };
        let mut forms = Walk::begin(self, 0);
        let (mut tokens, mut types) = (forms.tokens(), distinct.count(forms.spellings()));
        effects.push(Effect { tokens_out: Some(tokens), types_out: Some(types), ..split });
        let mut segment = 0;
        let parts = self.steps.iter().filter(|step| step.stage.needs_tokens()).map(|step| step.parts);
        for (index, (name, parts)) in names.zip(parts).enumerate() {
            let tally = self.token_steps[index];
            let (tokens_in, types_in) = (tokens, types);
            let (mut dropped, mut changed) = (tally.dropped, tally.changed);
            if parts {
                segment += 1;
                forms = Walk::begin(self, segment);
            } else {
                (changed, dropped) = forms.pass(index as u8);
            }
            // Whether it balances is for others to ask: what was read from a file may be anything.
            tokens = (tokens_in + tally.added).saturating_sub(dropped + tally.joined);
            types = distinct.count(forms.spellings());
            effects.push(Effect {
                documents_touched: Some(tally.documents),
                tokens_in: Some(tokens_in),
                tokens_dropped: Some(dropped),
                tokens_joined: Some(tally.joined),
                tokens_added: Some(tally.added),
                tokens_changed: Some(changed),
                tokens_marked: Some(tally.marked),
                tokens_out: Some(tokens),
                types_in: Some(types_in),
                types_out: Some(types),
                ..name
            });
        }
    }
}

/// How a word stands among all behind a step.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct RankRow {
    /// The step's place in the recipe, from 1.
    pub step: usize,
    /// How many tokens are spelled like the word behind the step.
    pub count: u64,
    /// Its rank by that, if there are any.
    pub rank: Option<u64>,
}

/// How all words stand among one another behind a step.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct StepRanks {
    /// The step's place in the recipe, from 1.
    pub step: usize,
    /// By the number of a text: its rank by how many tokens are spelled like it, from 1; 0 where none is.
    pub ranks: Vec<u32>,
}

/// The forms of a segment as they pass its steps.
struct Walk<'a> {
    segments: Vec<&'a Segment>,
    /// By variant and form: its spelling now; none once it is dropped.
    now: Vec<Vec<Option<u32>>>,
}

impl<'a> Walk<'a> {
    fn begin(account: &'a Account, segment: usize) -> Walk<'a> {
        let segments: Vec<&Segment> =
            account.variants.iter().filter_map(|variant| variant.segments.get(segment)).collect();
        let now = segments.iter().map(|segment| segment.form.iter().copied().map(Some).collect()).collect();
        Walk { segments, now }
    }

    fn tokens(&self) -> u64 {
        self.segments.iter().flat_map(|segment| &segment.count).sum()
    }

    /// Adds up the tokens of each spelling.
    fn counts(&self, counts: &mut [u64]) {
        for (segment, now) in self.segments.iter().zip(&self.now) {
            for (spelling, count) in now.iter().zip(&segment.count) {
                if let Some(spelling) = spelling {
                    counts[*spelling as usize] += count;
                }
            }
        }
    }

    fn spellings(&self) -> impl Iterator<Item = u32> + '_ {
        self.now.iter().flatten().copied().flatten()
    }

    /// Takes the forms through the step with this index. Returns how many tokens it changed and dropped.
    fn pass(&mut self, index: u8) -> (u64, u64) {
        let (mut changed, mut dropped) = (0, 0);
        for (segment, now) in self.segments.iter().zip(&mut self.now) {
            for (row, _, to) in segment.changes.iter().filter(|(_, step, _)| *step == index) {
                now[*row as usize] = Some(*to);
                changed += segment.count[*row as usize];
            }
            let rows = now.iter_mut().zip(&segment.dropped_at).zip(&segment.count);
            for ((now, _), count) in rows.filter(|((_, step), _)| **step == index) {
                *now = None;
                dropped += count;
            }
        }
        (changed, dropped)
    }
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
