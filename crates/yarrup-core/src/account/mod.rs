//! The account of a run: everything that it counted, as plain data.
//!
//! What people and tools are shown is drawn from it by views, one module each: the effect of every step, the vocabulary, the forms, the matches of
//! text steps. Accounts of parts of a collection add up to that of the whole.

mod build;
mod by_mark;
mod effects;
mod forms;
mod matches;
mod merge;
mod spelled_like;
mod texts;
mod vocabulary;
mod ways;
mod word_counts;

use serde::{Deserialize, Serialize};

pub use by_mark::SortRow;
pub use effects::{Effect, RankRow, StepRanks};
pub use forms::FormRow;
pub use matches::MatchRow;
pub use merge::{Difference, MergeError, Relation};
pub use texts::Texts;
pub use vocabulary::terms_to_cover;
pub(crate) use word_counts::{WordCount, WordCounts};

use crate::run::{TextTally, TokenTally, Totals};
use crate::step::{Learned, Stage};

/// No text: the number that stands where there is none.
pub(crate) const NO_TEXT: u32 = u32::MAX;

/// Everything that a run counted. Equal runs give equal accounts, whoever shared the work.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct Account {
    /// What was run and over what.
    pub origin: Origin,
    /// The steps, in order, with the `split` that was added if the recipe has none.
    pub steps: Vec<StepRecord>,
    /// The labels that steps give to tokens, in the order of their bits in marks.
    pub labels: Vec<String>,
    /// The counts of the whole run.
    pub totals: Totals,
    /// What each text step did, in order.
    pub text_steps: Vec<TextTally>,
    /// What each step behind the split did that does not follow from the forms, in order.
    pub token_steps: Vec<TokenTally>,
    /// Every spelling that came up anywhere. All tables name texts by their numbers here.
    pub texts: Texts,
    /// The spellings of tokens of the text as found, in order.
    pub found: Vec<u32>,
    /// The forms in documents of each variant, in the order of their conditions.
    pub variants: Vec<VariantForms>,
    /// Where the tokens of each form ended.
    pub ends: Ends,
    /// In how many documents each term stands.
    pub terms: TermDocuments,
    /// Documents that steps left out: the index of the token step, the number of the reason, and how many; in this order.
    pub dropped_documents: Vec<(u8, u16, u64)>,
    /// Why tokens and documents were dropped, in words: the index of the token step, the number of the reason, and the reason.
    pub reasons: Vec<(u8, u16, String)>,
    /// What steps have learned from the collection.
    pub learned: Vec<LearnedStep>,
}

/// Of what an account is. Accounts add up only if they are of the same recipe, frozen, and of different sources.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Origin {
    /// What reports call the recipe.
    pub name: String,
    /// What the recipe is for, as it says itself.
    pub about: String,
    /// A hash of the recipe with all that it learned written out; empty where nobody said.
    pub recipe: String,
    /// The sources that were read, each by a name and a hash of its content, in order.
    pub sources: Vec<(String, String)>,
}

/// A step of the recipe, as reports name it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct StepRecord {
    /// Its operation.
    pub operation: String,
    /// Its label, if it has one.
    pub label: Option<String>,
    /// Where it works.
    pub stage: Stage,
    /// Whether it does not stand in the recipe but was added.
    pub put_in: bool,
    /// Of a text step: the names of the sorts of matches that it tells apart.
    pub sorts: Vec<String>,
    /// Of a step behind the split: whether it looks at more than one token, so that the forms are counted anew behind it.
    pub parts: bool,
    /// Whether it compares documents with others, so that what it does in a part of a collection is not what it does in the whole.
    pub compares: bool,
}

/// The forms of the documents for which the same conditions hold.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct VariantForms {
    /// A bit for each condition of the recipe that holds.
    pub conditions: u64,
    /// How many documents.
    pub documents: u64,
    /// The forms that came to each segment: the steps up to the first that looks at more than one token, those up to the next, and so on.
    pub segments: Vec<Segment>,
}

/// The forms that came to one segment, in the order of their texts and marks. The columns are of one length.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Segment {
    /// The form's text.
    pub form: Vec<u32>,
    /// Its mark: part of speech and labels.
    pub mark: Vec<u32>,
    /// How many tokens.
    pub count: Vec<u64>,
    /// The index of the token step that drops it; [`Segment::STAYS`] if none does.
    pub dropped_at: Vec<u8>,
    /// Every change of a form's spelling: the row of the form, the index of the token step, and the text that it becomes; in this order.
    pub changes: Vec<(u32, u8, u32)>,
}

impl Segment {
    /// Stands for the step that drops a form where none does.
    pub const STAYS: u8 = u8::MAX;
}

/// Where the tokens of the forms of the split, and of tokens that steps made, ended. The rows are in the order of the columns, which are of
/// one length.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Ends {
    /// The form's text.
    pub form: Vec<u32>,
    /// Its part of speech, as a number; 0 if none.
    pub tag: Vec<u8>,
    /// What became of it: [`Ends::KEPT`], [`Ends::DROPPED`] or [`Ends::JOINED`].
    pub fate: Vec<u8>,
    /// The index of the token step that dropped or joined it; 0 if it was kept.
    pub step: Vec<u8>,
    /// The text of the term or of the token that it went into, all ones if there is none alone; or the number of the reason.
    pub what: Vec<u32>,
    /// How many tokens.
    pub count: Vec<u64>,
    /// In how many documents.
    pub documents: Vec<u64>,
}

impl Ends {
    /// The tokens became a term.
    pub const KEPT: u8 = 0;
    /// A step dropped them.
    pub const DROPPED: u8 = 1;
    /// A step made them part of others.
    pub const JOINED: u8 = 2;
}

/// In how many documents each term stands, in the order of their texts.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct TermDocuments {
    /// The term's text.
    pub term: Vec<u32>,
    /// How many documents.
    pub documents: Vec<u64>,
}

/// What a step has learned from the collection.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct LearnedStep {
    /// The step's place in the recipe, from 1.
    pub step: usize,
    /// Its operation.
    pub operation: String,
    /// What it learned.
    pub learned: Vec<Learned>,
}

impl Account {
    /// How many distinct spellings the text had as found.
    pub fn types_found(&self) -> u64 {
        self.found.len() as u64
    }

    /// How many terms the vocabulary has.
    pub fn term_count(&self) -> usize {
        self.terms.term.len()
    }

    /// How many rows the table of forms has.
    pub fn form_count(&self) -> usize {
        self.ends.form.len()
    }

    /// The place in the recipe, from 1, of the token step with this index.
    pub(crate) fn token_step(&self, index: u8) -> usize {
        let behind = |step: &&StepRecord| step.stage.needs_tokens();
        let split = self.steps.iter().take_while(|step| !behind(step)).count();
        split + usize::from(index) + 1
    }

    /// The reason with this number why the step at this place in the recipe drops tokens.
    pub fn reason(&self, step: usize, reason: u16) -> &str {
        let found = self
            .reasons
            .iter()
            .find(|(index, number, _)| (self.token_step(*index), *number) == (step, reason));
        found.map_or("", |(.., text)| text)
    }

    /// The documents that steps left out: the step's place in the recipe, the reason in words, and how many.
    pub fn documents_left_out(&self) -> Vec<(usize, &str, u64)> {
        let row = |(step, reason, count): &(u8, u16, u64)| {
            let step = self.token_step(*step);
            (step, self.reason(step, *reason), *count)
        };
        self.dropped_documents.iter().map(row).collect()
    }

    /// Whether every step's books balance, and the sums of forms and terms are those of the steps.
    pub fn is_balanced(&self) -> bool {
        let kept: u64 = self.vocabulary().iter().map(|term| term.count).sum();
        let mut before = None;
        let steps_balance =
            self.effects().iter().filter(|effect| effect.tokens_out.is_some()).all(|effect| {
                let n = |count: Option<u64>| count.unwrap_or(0);
                let balanced = effect.tokens_in.is_none()
                    || (effect.tokens_in == before
                        && n(effect.tokens_in) + n(effect.tokens_added)
                            == n(effect.tokens_out) + n(effect.tokens_dropped) + n(effect.tokens_joined));
                before = effect.tokens_out;
                balanced
            });
        let documents: u64 = self.variants.iter().map(|variant| variant.documents).sum();
        steps_balance
            && kept == self.totals.tokens_kept
            && before == Some(kept)
            && documents == self.totals.documents
            && self.dropped_documents.iter().map(|(.., count)| count).sum::<u64>() == self.totals.dropped
    }

    /// Whether all numbers in the tables are of texts, steps and rows that there are, and all columns of one length: what was read from a file
    /// may be anything. Views panic without.
    pub fn is_sound(&self) -> bool {
        let texts = self.texts.len() as u32;
        let is_text = |number: &u32| *number < texts;
        let steps = self.token_steps.len();
        let is_step = |index: &u8| usize::from(*index) < steps;
        let behind = self.steps.iter().filter(|step| step.stage.needs_tokens()).count();
        let before = self.steps.iter().filter(|step| step.stage == Stage::Text).count();
        let segments = 1 + self.steps.iter().filter(|step| step.parts).count();
        let segment = |segment: &Segment| {
            let rows = segment.form.len();
            [segment.mark.len(), segment.count.len(), segment.dropped_at.len()] == [rows; 3]
                && segment.form.iter().all(is_text)
                && segment.dropped_at.iter().all(|step| *step == Segment::STAYS || is_step(step))
                && segment
                    .changes
                    .iter()
                    .all(|(row, step, to)| (*row as usize) < rows && is_step(step) && is_text(to))
        };
        let ends = &self.ends;
        let rows = ends.form.len();
        let lengths = [
            ends.tag.len(),
            ends.fate.len(),
            ends.step.len(),
            ends.what.len(),
            ends.count.len(),
            ends.documents.len(),
        ];
        let end = |row: usize| {
            is_text(&ends.form[row])
                && match ends.fate[row] {
                    Ends::KEPT => is_text(&ends.what[row]),
                    Ends::DROPPED => is_step(&ends.step[row]) && ends.what[row] <= u32::from(u16::MAX),
                    Ends::JOINED => {
                        is_step(&ends.step[row]) && (ends.what[row] == NO_TEXT || is_text(&ends.what[row]))
                    }
                    _ => false,
                }
        };
        let split = self.steps.iter().filter(|step| step.stage == Stage::Split).count();
        split == 1
            && behind == steps
            && before == self.text_steps.len()
            && behind + before + 1 == self.steps.len()
            && self.texts.are_sorted()
            && self.found.iter().all(is_text)
            && self
                .variants
                .iter()
                .all(|variant| variant.segments.len() == segments && variant.segments.iter().all(segment))
            && lengths == [rows; 6]
            && (0..rows).all(end)
            && self.terms.term.len() == self.terms.documents.len()
            && self.terms.term.iter().all(is_text)
            && self.dropped_documents.iter().all(|(step, ..)| is_step(step))
            // Views add counts up: all of them together fit into 62 bits.
            && self.counts().try_fold(0, u64::checked_add).is_some_and(|sum| sum >> 62 == 0)
    }

    /// Every count that views add up or take from one another.
    fn counts(&self) -> impl Iterator<Item = u64> + '_ {
        let Totals { documents, dropped, emptied, empty, characters, tokens_found, tokens_kept } =
            self.totals;
        let totals = [documents, dropped, emptied, empty, characters, tokens_found, tokens_kept];
        let of_texts =
            |tally: &TextTally| [tally.documents, tally.matches, tally.characters_in, tally.characters_out];
        let of_tokens = |tally: &TokenTally| {
            [tally.documents, tally.dropped, tally.joined, tally.added, tally.changed, tally.marked]
        };
        let segments = self.variants.iter().flat_map(|variant| &variant.segments);
        let forms =
            segments.flat_map(|segment| &segment.count).chain(&self.ends.count).chain(&self.ends.documents);
        totals
            .into_iter()
            .chain(self.text_steps.iter().flat_map(of_texts))
            .chain(self.token_steps.iter().flat_map(of_tokens))
            .chain(self.variants.iter().map(|variant| variant.documents))
            .chain(forms.chain(&self.terms.documents).copied())
            .chain(self.dropped_documents.iter().map(|(.., count)| *count))
    }
}
