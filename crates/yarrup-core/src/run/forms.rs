//! What the steps of a segment make of forms: decided once a form, and kept.

use hashbrown::{HashMap, HashSet};

use crate::kind::Kind;
use crate::pipeline::{TokenStage, Variant};
use crate::run::intern::Interner;
use crate::step::{Form, Mark, Outcome};

pub(crate) type Map<K, V> = HashMap<K, V, foldhash::fast::RandomState>;

/// No spelling.
pub(crate) const NONE: u32 = u32::MAX;

/// What a segment makes of a form.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Fate {
    /// It leaves the segment with this spelling.
    Kept { to: u32 },
    /// A step drops it.
    Dropped {
        /// The index of the token step.
        step: u8,
        reason: u16,
    },
    /// The form has not come to the segment yet.
    Unknown,
}

/// A fate in four bytes: a spelling's number, or the highest bit with step and reason.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
struct PackedFate(u32);

impl PackedFate {
    const UNKNOWN: PackedFate = PackedFate(u32::MAX);
    const DROPPED: u32 = 1 << 31;

    fn pack(fate: Fate) -> PackedFate {
        match fate {
            Fate::Kept { to } => {
                assert!(to < PackedFate::DROPPED, "fewer than two thousand million distinct spellings");
                PackedFate(to)
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
            PackedFate(packed) if packed & PackedFate::DROPPED == 0 => Fate::Kept { to: packed },
            PackedFate(packed) => Fate::Dropped { step: (packed >> 16) as u8, reason: packed as u16 },
        }
    }
}

/// A form as a row. With the tally of the ledger it has 32 bytes, which never lie across two lines of the processor's cache.
#[derive(Clone, Copy, Debug)]
#[repr(align(32))]
pub(crate) struct FormRow<T> {
    /// What the observer keeps of the form.
    pub(crate) tally: T,
    fate: PackedFate,
    /// The index of the set of steps that change or drop the form.
    touch: u16,
    /// Whether a token of the text as found was spelled like this. In the first segment alone.
    pub(crate) found: bool,
    /// Whether the ends of its tokens are counted one by one, since the row does not tell them. In the last segment alone.
    pub(crate) told_apart: bool,
}

impl<T> FormRow<T> {
    #[inline]
    pub(crate) fn fate(&self) -> Fate {
        self.fate.unpack()
    }
}

impl<T: Default> Default for FormRow<T> {
    fn default() -> FormRow<T> {
        FormRow { tally: T::default(), fate: PackedFate::UNKNOWN, touch: 0, found: false, told_apart: false }
    }
}

/// What becomes of a token at the split, in four bytes.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct TokenFate(u32);

impl TokenFate {
    const DROPPED: u32 = 1 << 31;
    pub(crate) const UNCLEAR: TokenFate = TokenFate(u32::MAX);

    /// Of a token that is kept, with its term or its form.
    #[inline]
    pub(crate) fn kept(number: u32) -> TokenFate {
        TokenFate(number)
    }

    /// Of a token that the first steps drop, with its form.
    pub(crate) fn dropped(form: u32) -> TokenFate {
        TokenFate(form | TokenFate::DROPPED)
    }

    /// The term or the form of a token that is kept.
    #[inline]
    pub(crate) fn as_kept(self) -> Option<u32> {
        (self.0 < TokenFate::DROPPED).then_some(self.0)
    }

    /// The form of a token, kept or not.
    #[inline]
    pub(crate) fn form(self) -> u32 {
        self.0 & !TokenFate::DROPPED
    }
}

/// A step that gives a form another spelling.
#[derive(Clone, Copy, Debug)]
pub(crate) struct SpellingChange {
    /// The row of the form.
    pub(crate) form: u32,
    /// The index of the token step.
    pub(crate) step: u8,
    pub(crate) to: u32,
}

/// The forms that have come to one segment in documents of one variant. `T` is what an observer keeps of each.
///
/// Rows of the first segment are numbered by spelling, since no token has a mark there; a row of it may stand for a spelling that is no form
/// but a term of others. Rows of later segments are numbered in the order of coming.
#[derive(Debug)]
pub(crate) struct Forms<T> {
    pub(crate) rows: Vec<FormRow<T>>,
    numbers: Map<(u32, Mark), u32>,
    /// By spelling, in a later segment: the mark that its last token had, and the row. Most tokens of a spelling have the same.
    last: Vec<(Mark, u32)>,
    /// By row of a later segment.
    keys: Vec<(u32, Mark)>,
    /// Form by form, and of each form in the order of the steps.
    pub(crate) changes: Vec<SpellingChange>,
    /// The sets of steps that touch forms, a bit for each step; few forms differ in theirs.
    touches: Vec<u64>,
    /// By row: the spelling behind the last step that leaves lemmas.
    lemmas: Map<u32, u32>,
    /// Forms with their marks that have ends beside those that their rows tell.
    pub(crate) told_apart: HashSet<(u32, Mark), foldhash::fast::RandomState>,
}

impl<T> Default for Forms<T> {
    fn default() -> Forms<T> {
        Forms {
            rows: Vec::new(),
            numbers: Map::default(),
            last: Vec::new(),
            keys: Vec::new(),
            changes: Vec::new(),
            touches: Vec::new(),
            lemmas: Map::default(),
            told_apart: HashSet::default(),
        }
    }
}

impl<T: Copy + Default> Forms<T> {
    /// The row of a spelling in the first segment.
    #[inline]
    pub(crate) fn of_spelling(&mut self, spelling: u32) -> &mut FormRow<T> {
        if spelling as usize >= self.rows.len() {
            self.rows.resize(spelling as usize + 1, FormRow::default());
        }
        &mut self.rows[spelling as usize]
    }

    /// Whether the first segment has decided about a spelling.
    #[inline]
    pub(crate) fn has_decided(&self, spelling: u32) -> bool {
        self.rows.get(spelling as usize).is_some_and(|row| row.fate != PackedFate::UNKNOWN)
    }

    /// The row of a form in a later segment, and whether it is new: then the steps have to decide about it.
    pub(crate) fn of_form(&mut self, spelling: u32, mark: Mark) -> (u32, bool) {
        let place = spelling as usize;
        if place >= self.last.len() {
            self.last.resize(place + 1, (Mark::default(), NONE));
        }
        if let (known, row) = self.last[place]
            && known == mark
            && row != NONE
        {
            return (row, false);
        }
        let next = self.rows.len() as u32;
        let row = *self.numbers.entry((spelling, mark)).or_insert(next);
        self.last[place] = (mark, row);
        let is_new = row == next;
        if is_new {
            self.rows.push(FormRow::default());
            self.keys.push((spelling, mark));
        }
        (row, is_new)
    }

    /// The row of a form that has come to a later segment.
    pub(crate) fn known(&self, spelling: u32, mark: Mark) -> Option<u32> {
        self.numbers.get(&(spelling, mark)).copied()
    }

    /// Adds the row of a form in a later segment, which was numbered elsewhere.
    pub(crate) fn add_form(&mut self, spelling: u32, mark: Mark) {
        self.numbers.insert((spelling, mark), self.rows.len() as u32);
        self.rows.push(FormRow::default());
        self.keys.push((spelling, mark));
    }

    /// Takes over what another recipe with the same steps has made of the forms that came to this segment; `tally` gives what is kept of a form, by what was kept
    /// of it here and there.
    pub(crate) fn take_over(&mut self, other: &Forms<T>, tally: impl Fn(&T, &T) -> T) {
        if self.rows.len() < other.rows.len() {
            self.rows.resize(other.rows.len(), FormRow::default());
        }
        for (own, theirs) in self.rows.iter_mut().zip(&other.rows) {
            *own = FormRow { tally: tally(&own.tally, &theirs.tally), ..*theirs };
        }
        self.keys.clone_from(&other.keys);
        self.changes.clone_from(&other.changes);
        self.touches.clone_from(&other.touches);
    }

    /// The spelling and the mark of a row.
    pub(crate) fn key(&self, row: u32) -> (u32, Mark) {
        self.keys.get(row as usize).copied().unwrap_or((row, Mark::default()))
    }

    /// The steps that touch a form, a bit for each.
    #[inline]
    pub(crate) fn touch(&self, row: u32) -> u64 {
        self.touches[usize::from(self.rows[row as usize].touch)]
    }

    /// The lemma of a form; [`NONE`] if no step of the segment gives one.
    pub(crate) fn lemma(&self, row: u32) -> u32 {
        if self.lemmas.is_empty() { NONE } else { self.lemmas.get(&row).copied().unwrap_or(NONE) }
    }

    /// The index of a set of steps.
    fn touch_index(&mut self, steps: u64) -> u16 {
        let index = self.touches.iter().position(|&known| known == steps).unwrap_or_else(|| {
            self.touches.push(steps);
            self.touches.len() - 1
        });
        u16::try_from(index).expect("a form is changed by few of 60 steps, and dropped by one")
    }

    /// Runs the steps of the segment, the first of which has the index `first`, on a form that comes to it for the first time.
    #[cold]
    pub(crate) fn decide(
        &mut self,
        row: u32,
        (stages, first): (&[TokenStage], usize),
        variant: Variant,
        spellings: &mut Interner,
        join: &str,
    ) {
        let (spelling, mark) = self.key(row);
        let original = spellings.text(spelling).to_owned();
        let mut changed;
        let mut form = Form::marked(&original, mark);
        let (mut to, mut touch, mut fate) = (spelling, 0, None);
        let last = first + stages.len() - usize::from(!stages.is_empty());
        for (index, stage) in (first..).zip(stages) {
            let outcome = match stage.apply(&form, variant) {
                Outcome::Change(text) => changed_to(form.text, text, join),
                outcome => outcome,
            };
            match outcome {
                Outcome::Keep => {}
                Outcome::Change(text) => {
                    touch |= 1 << index;
                    to = spellings.number(&text);
                    self.changes.push(SpellingChange { form: row, step: index as u8, to });
                    // Of what kind it is then, nobody asks behind the last step.
                    if index < last || stage.facts().gives_lemmas() {
                        changed = text;
                        form = Form::marked(&changed, mark);
                    }
                }
                Outcome::Drop(reason) => {
                    touch |= 1 << index;
                    fate = Some(Fate::Dropped { step: index as u8, reason });
                    break;
                }
            }
            let has_lemma = stage.facts().gives_lemmas()
                && stage.works_on(variant)
                && form.kind == Kind::Word
                && !stage.spares_token(form.text, mark);
            if has_lemma {
                self.lemmas.insert(row, to);
            }
        }
        let touch = self.touch_index(touch);
        let row = &mut self.rows[row as usize];
        row.touch = touch;
        row.fate = PackedFate::pack(fate.unwrap_or(Fate::Kept { to }));
    }
}

/// What a step makes of a token, with `join` in the place of white space where the token had none: terms can be told apart in the cleaned text.
pub(crate) fn without_spaces(was: &str, now: String, join: &str) -> String {
    if !now.contains(char::is_whitespace) || was.contains(char::is_whitespace) {
        return now;
    }
    now.split_whitespace().collect::<Vec<_>>().join(join)
}

/// The outcome of a step that gives a token this spelling.
fn changed_to(was: &str, now: String, join: &str) -> Outcome {
    match without_spaces(was, now, join) {
        now if now == was => Outcome::Keep,
        now => Outcome::Change(now),
    }
}
