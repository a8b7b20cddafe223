//! Exact accounting: every distinct form, how often it came, and what became of it.

use hashbrown::HashMap;

use crate::pipeline::{Pipeline, Variant};
use crate::run::intern::{Interner, Key};
use crate::run::passage::{ContextAccount, Live, NONE, Passage};
use crate::span::Span;
use crate::step::{Form, Matches, Outcome, SequenceWork};

/// What became of a form: the account of all that the engine counted, form by form.
///
/// Each worker keeps its own; [`Ledger::absorb`] adds two up to exactly what one worker would have counted.
#[derive(Debug)]
pub struct Ledger {
    spellings: Interner,
    variants: Vec<VariantAccount>,
    text_steps: Vec<TextTally>,
    /// How many documents each token step touched.
    touched: Vec<u64>,
    totals: Totals,
    /// For a recipe with steps that look at tokens in their order.
    context: Option<ContextAccount>,
    /// The number of the present document, from 1; 0 has been in no document.
    document: u32,
    /// A bit for each token step that touched the present document.
    touched_now: u64,
}

/// The counts of a whole run.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Totals {
    /// Documents.
    pub documents: u64,
    /// Documents that had tokens as found, and none at the end.
    pub emptied: u64,
    /// Documents that had no token as found.
    pub empty: u64,
    /// Characters (code points) of the text as found.
    pub characters: u64,
    /// Tokens of the text as found.
    pub tokens_found: u64,
    /// Tokens that were kept.
    pub tokens_kept: u64,
}

/// What a text step did.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(crate) struct TextTally {
    pub(crate) documents: u64,
    pub(crate) matches: u64,
    pub(crate) characters_in: u64,
    pub(crate) characters_out: u64,
    /// What it matched, by sort.
    pub(crate) matched: Matches,
}

/// The forms of the documents of one variant.
#[derive(Debug, Default)]
pub(crate) struct VariantAccount {
    variant: Variant,
    /// By the number of the spelling.
    pub(crate) forms: Vec<FormAccount>,
    /// Every change of spelling on the way, form by form and in the order of the steps.
    pub(crate) changes: Vec<SpellingChange>,
    /// The sets of token steps that touch forms, a bit for each step; few forms differ in theirs.
    touches: Vec<u64>,
    /// By form: the spelling behind the last step that leaves lemmas.
    lemmas: HashMap<u32, u32, foldhash::fast::RandomState>,
}

#[derive(Clone, Copy, Debug)]
pub(crate) struct SpellingChange {
    pub(crate) form: u32,
    /// The index of the token step.
    pub(crate) step: u32,
    pub(crate) to: u32,
}

/// What became of a form.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) enum Fate {
    Kept {
        term: u32,
    },
    Dropped {
        /// The index of the token step.
        step: u8,
        reason: u16,
    },
    /// The spelling did not come up as a form yet: it is a term of others, or was found before a text step changed it.
    Unknown,
}

/// A fate in four bytes: a term's number, or the highest bit with step and reason.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
struct PackedFate(u32);

impl PackedFate {
    const UNKNOWN: PackedFate = PackedFate(u32::MAX);
    const DROPPED: u32 = 1 << 31;

    fn pack(fate: Fate) -> PackedFate {
        match fate {
            Fate::Kept { term } => {
                assert!(term < PackedFate::DROPPED, "fewer than two thousand million distinct spellings");
                PackedFate(term)
            }
            // A recipe has fewer than 64 steps, so this is never all ones.
            Fate::Dropped { step, reason } => {
                PackedFate(PackedFate::DROPPED | u32::from(step) << 16 | u32::from(reason))
            }
            Fate::Unknown => PackedFate::UNKNOWN,
        }
    }

    fn unpack(self) -> Fate {
        match self {
            PackedFate::UNKNOWN => Fate::Unknown,
            PackedFate(packed) if packed & PackedFate::DROPPED == 0 => Fate::Kept { term: packed },
            PackedFate(packed) => Fate::Dropped { step: (packed >> 16) as u8, reason: packed as u16 },
        }
    }
}

/// A form as a row of the table; the same row counts the spelling as a term. Its 32 bytes never lie across two lines of the
/// processor's cache.
#[derive(Clone, Copy, Debug)]
#[repr(align(32))]
pub(crate) struct FormAccount {
    pub(crate) count: u64,
    pub(crate) documents: u32,
    last_document: u32,
    pub(crate) term_documents: u32,
    last_term_document: u32,
    fate: PackedFate,
    /// The index of the set of token steps that change or drop the form.
    touch: u16,
    /// Whether a token of the text as found was spelled like this.
    pub(crate) found: bool,
}

impl FormAccount {
    pub(crate) fn fate(&self) -> Fate {
        self.fate.unpack()
    }
}

impl Default for FormAccount {
    fn default() -> FormAccount {
        FormAccount {
            count: 0,
            documents: 0,
            last_document: 0,
            term_documents: 0,
            last_term_document: 0,
            fate: PackedFate::UNKNOWN,
            touch: 0,
            found: false,
        }
    }
}

impl VariantAccount {
    #[inline]
    fn form(&mut self, number: u32) -> &mut FormAccount {
        if number as usize >= self.forms.len() {
            self.forms.resize(number as usize + 1, FormAccount::default());
        }
        &mut self.forms[number as usize]
    }

    /// The index of a set of token steps.
    fn touch_index(&mut self, steps: u64) -> u16 {
        let index = self.touches.iter().position(|&known| known == steps).unwrap_or_else(|| {
            self.touches.push(steps);
            self.touches.len() - 1
        });
        u16::try_from(index).expect("a form is changed by few of 60 steps, and dropped by one")
    }
}

impl Ledger {
    pub(crate) fn new(pipeline: &Pipeline) -> Ledger {
        Ledger {
            spellings: Interner::default(),
            variants: Vec::new(),
            text_steps: vec![TextTally::default(); pipeline.text.len()],
            touched: vec![0; pipeline.tokens.len()],
            totals: Totals::default(),
            context: (pipeline.segments().len() > 1).then(|| ContextAccount::new(pipeline)),
            document: 0,
            touched_now: 0,
        }
    }

    #[inline]
    pub(crate) fn text(&self, number: u32) -> &str {
        self.spellings.text(number)
    }

    pub(crate) fn spelling_count(&self) -> usize {
        self.spellings.len()
    }

    pub(crate) fn variants(&self) -> &[VariantAccount] {
        &self.variants
    }

    /// The accounts segment by segment, for a recipe with steps that look at tokens in their order.
    pub(crate) fn context(&self) -> Option<&ContextAccount> {
        self.context.as_ref()
    }

    /// Notes which tokens were found as they are counted.
    pub(crate) fn note_as_found(&mut self, variant: usize, found: &[(u32, bool)]) {
        for &(number, as_found) in found.iter().filter(|(_, as_found)| *as_found) {
            self.variants[variant].form(number).found |= as_found;
        }
    }

    /// Takes the tokens of a document through the token steps, with those that look at tokens in their order. `live` is left with the
    /// tokens that are kept.
    pub(crate) fn pass(
        &mut self,
        passage: &Passage<'_>,
        workers: &mut [Option<Box<dyn SequenceWork + '_>>],
        live: &mut Vec<Live>,
    ) {
        if let Some(context) = &mut self.context {
            self.touched_now |= passage.go(context, self.document, &mut self.spellings, workers, live);
        }
    }

    pub(crate) fn text_steps(&self) -> &[TextTally] {
        &self.text_steps
    }

    pub(crate) fn touched(&self) -> &[u64] {
        &self.touched
    }

    /// The counts of the whole run.
    pub fn totals(&self) -> Totals {
        self.totals
    }

    /// Begins a document and returns the index of its variant's account.
    pub(crate) fn begin_document(&mut self, pipeline: &Pipeline, variant: Variant) -> usize {
        debug_assert_eq!(pipeline.tokens.len(), self.touched.len(), "the ledger was made for this pipeline");
        self.document += 1;
        self.touched_now = 0;
        self.variant_index(variant)
    }

    fn variant_index(&mut self, variant: Variant) -> usize {
        if let Some(index) = self.variants.iter().position(|account| account.variant == variant) {
            return index;
        }
        self.variants.push(VariantAccount { variant, ..VariantAccount::default() });
        self.variants.len() - 1
    }

    /// Where the text step with this index notes what it matches.
    pub(crate) fn matches(&mut self, index: usize) -> &mut Matches {
        &mut self.text_steps[index].matched
    }

    pub(crate) fn count_text_step(&mut self, index: usize, matches: u64, before: u64, after: u64) {
        let tally = &mut self.text_steps[index];
        tally.documents += u64::from(matches > 0);
        tally.matches += matches;
        tally.characters_in += before;
        tally.characters_out += after;
        tally.matched.end_document();
    }

    /// The number of the spelling of the token that `span` covers in `text`.
    #[inline]
    pub(crate) fn number(&mut self, key: Key, text: &str, span: Span) -> u32 {
        self.spellings.number_at(key, text, span)
    }

    /// Notes the spelling of a token as found, where it is not the form that is counted.
    pub(crate) fn note_found(&mut self, variant: usize, key: Key, text: &str, span: Span) {
        let number = self.spellings.number_at(key, text, span);
        self.variants[variant].form(number).found = true;
    }

    /// Counts the tokens of a document by the numbers of their spellings, each with whether it was found like that. Tells
    /// `kept` the place of each token that is kept, and the number of its term.
    pub(crate) fn count_tokens(
        &mut self,
        pipeline: &Pipeline,
        variant: usize,
        tokens: &[(u32, bool)],
        mut kept: impl FnMut(usize, u32),
    ) {
        let document = self.document;
        let account = &mut self.variants[variant];
        for (place, &(number, as_found)) in tokens.iter().enumerate() {
            let known = account.forms.get(number as usize);
            if known.is_none_or(|form| form.fate == PackedFate::UNKNOWN) {
                decide(&mut self.spellings, account, pipeline, number);
            }
            let form = &mut account.forms[number as usize];
            form.count += 1;
            form.found |= as_found;
            let fate = form.fate;
            let first_in_document = form.last_document != document;
            if first_in_document {
                form.last_document = document;
                form.documents += 1;
                self.touched_now |= account.touches[usize::from(form.touch)];
            }
            let Fate::Kept { term } = fate.unpack() else { continue };
            if first_in_document {
                let term = &mut account.forms[term as usize];
                if term.last_term_document != document {
                    term.last_term_document = document;
                    term.term_documents += 1;
                }
            }
            kept(place, term);
        }
    }

    /// The bytes of a term and a space.
    #[inline]
    pub(crate) fn spaced(&self, number: u32) -> &[u8] {
        self.spellings.spaced(number)
    }

    pub(crate) fn end_document(&mut self, characters: u64, tokens_before: u64, tokens_after: u64) {
        let mut bits = self.touched_now;
        while bits != 0 {
            self.touched[bits.trailing_zeros() as usize] += 1;
            bits &= bits - 1;
        }
        let totals = &mut self.totals;
        totals.documents += 1;
        totals.characters += characters;
        totals.tokens_found += tokens_before;
        totals.tokens_kept += tokens_after;
        totals.emptied += u64::from(tokens_before > 0 && tokens_after == 0);
        totals.empty += u64::from(tokens_before == 0);
    }

    /// The lemma of a form; the number of none if no step gives one.
    pub(crate) fn lemma(&self, variant: usize, form: u32) -> u32 {
        self.variants[variant].lemmas.get(&form).copied().unwrap_or(NONE)
    }

    /// Adds what another worker counted with the same pipeline. The order of adding changes no result.
    ///
    /// # Panics
    ///
    /// If the two were made for pipelines of different steps.
    pub fn absorb(&mut self, other: Ledger) {
        assert_eq!(self.touched.len(), other.touched.len(), "both ledgers are of the same pipeline");
        assert_eq!(self.text_steps.len(), other.text_steps.len(), "both ledgers are of the same pipeline");
        let numbers: Vec<u32> = (0..other.spellings.len() as u32)
            .map(|number| self.spellings.number(other.spellings.text(number)))
            .collect();
        for theirs in other.variants {
            let index = self.variant_index(theirs.variant);
            let ours = &mut self.variants[index];
            // A form that both have decided met the same fate in both, with the same changes.
            for change in theirs.changes {
                let form = numbers[change.form as usize];
                if ours.form(form).fate == PackedFate::UNKNOWN {
                    ours.changes.push(SpellingChange {
                        form,
                        step: change.step,
                        to: numbers[change.to as usize],
                    });
                }
            }
            let touches: Vec<u16> = theirs.touches.iter().map(|&steps| ours.touch_index(steps)).collect();
            for (number, form) in theirs.forms.iter().enumerate() {
                let sum = ours.form(numbers[number]);
                sum.count += form.count;
                sum.documents += form.documents;
                sum.term_documents += form.term_documents;
                sum.found |= form.found;
                if sum.fate == PackedFate::UNKNOWN && form.fate != PackedFate::UNKNOWN {
                    sum.touch = touches[usize::from(form.touch)];
                    sum.fate = PackedFate::pack(match form.fate() {
                        Fate::Kept { term } => Fate::Kept { term: numbers[term as usize] },
                        other => other,
                    });
                }
            }
        }
        if let (Some(ours), Some(theirs)) = (&mut self.context, other.context) {
            ours.absorb(theirs, &numbers);
        }
        for (ours, theirs) in self.text_steps.iter_mut().zip(other.text_steps) {
            ours.documents += theirs.documents;
            ours.matches += theirs.matches;
            ours.characters_in += theirs.characters_in;
            ours.characters_out += theirs.characters_out;
            ours.matched.absorb(&theirs.matched);
        }
        for (ours, theirs) in self.touched.iter_mut().zip(other.touched) {
            *ours += theirs;
        }
        let (ours, theirs) = (&mut self.totals, other.totals);
        ours.documents += theirs.documents;
        ours.emptied += theirs.emptied;
        ours.empty += theirs.empty;
        ours.characters += theirs.characters;
        ours.tokens_found += theirs.tokens_found;
        ours.tokens_kept += theirs.tokens_kept;
    }
}

/// Runs the token steps on a form that is seen for the first time.
#[cold]
fn decide(spellings: &mut Interner, account: &mut VariantAccount, pipeline: &Pipeline, number: u32) {
    let original = spellings.text(number).to_owned();
    let mut changed;
    let mut form = Form::new(&original);
    let mut term = number;
    let mut touch = 0;
    let mut fate = None;
    for (index, stage) in pipeline.tokens.iter().enumerate() {
        match stage.apply(&form, account.variant) {
            Outcome::Keep => {}
            Outcome::Change(to) => {
                touch |= 1 << index;
                term = spellings.number(&to);
                account.changes.push(SpellingChange { form: number, step: index as u32, to: term });
                changed = to;
                form = Form::new(&changed);
            }
            Outcome::Drop(reason) => {
                touch |= 1 << index;
                fate = Some(Fate::Dropped { step: index as u8, reason });
                break;
            }
        }
        if stage.runs.gives_lemmas() && stage.works_on(account.variant) {
            account.lemmas.insert(number, term);
        }
    }
    account.form(number.max(term));
    let touch = account.touch_index(touch);
    let form = account.form(number);
    form.touch = touch;
    form.fate = PackedFate::pack(fate.unwrap_or(Fate::Kept { term }));
}
