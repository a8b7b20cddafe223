//! The spellings that the split gives: counted where they are looked up, and decided about once.
//!
//! A token costs one line of the processor's cache: its slot holds the key, the count, the last document and what becomes of the form. What a text
//! step does to the case of letters is decided here as well, once a spelling, so that the text itself need not be rewritten. What is asked once a
//! document (in how many documents a form and a term stand) is done for each distinct spelling of it.

use std::hash::{BuildHasher, Hasher};

use foldhash::fast::RandomState;
use hashbrown::HashTable;

use crate::run::forms::{Fate, Forms, Map, TokenFate};
use crate::run::intern::Interner;
use crate::run::ledger::FormTally;
use crate::span::Span;

/// What the steps make of a spelling that the split gives.
#[derive(Clone, Copy, Debug)]
pub(super) struct Decision {
    /// The number of the form: the spelling as it comes to the steps behind the split. Of no use without a fate.
    pub(super) form: u32,
    /// How many letters the text step changes whose work is done here.
    pub(super) recased: u32,
    /// The token steps that change or drop the form, a bit for each.
    pub(super) touched: u64,
    /// Where the form ends. Nothing if what the text step makes of the spelling depends on the text around it.
    pub(super) fate: Option<Fate>,
}

/// Decides about spellings that are new.
pub(super) trait Decide {
    fn decide(&mut self, spelling: &str) -> Decision;

    /// Decides about a spelling where it stands in a text. Nothing if even then it is not clear.
    fn decide_at(&mut self, _text: &str, _span: Span) -> Option<Decision> {
        None
    }

    /// The text of a form.
    fn text(&self, form: u32) -> &str;
}

/// What is counted where spellings are looked up, and not on the way of their tokens through the steps.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) enum CountedHere {
    /// Which spellings there are.
    #[default]
    Spellings,
    /// The forms, and what becomes of them in the first steps.
    Forms,
    /// The forms and the terms: each form has one end.
    Terms,
}

/// A spelling of up to 16 bytes with what is counted of it. It never lies across two lines of the cache.
#[derive(Clone, Copy, Debug, Default)]
#[repr(align(32))]
struct Slot {
    /// The spelling itself, filled up with zeros. All zeros where nothing stands.
    key: [u64; 2],
    /// The place of its entry.
    entry: u32,
    last_document: u32,
    count: u32,
    fate: TokenFate,
}

/// What is looked at once a document for each distinct spelling, in 16 bytes.
#[derive(Clone, Copy, Debug)]
struct Entry {
    documents: u32,
    /// As a form and as a term: the place of what it shares with other spellings, or [`ALONE`].
    shared: [u32; 2],
    /// The place of the set of steps that touch the form.
    touched: u16,
    /// Whether some text as found holds the spelling.
    found: bool,
}

/// What is looked at when a spelling is new, and in the end.
#[derive(Clone, Copy, Debug)]
struct Rest {
    form: u32,
    fate: TokenFate,
    /// The place of the spelling in [`SplitForms::own`], unless it is that of the form.
    own: u32,
    recased: u32,
}

/// The documents of a form or a term that several spellings share. As long as it has one alone, they are those of its entry.
#[derive(Clone, Copy, Debug, Default)]
struct Documents {
    count: u32,
    last: u32,
}

impl Documents {
    #[inline]
    fn meet(&mut self, document: u32) {
        self.count += u32::from(self.last != document);
        self.last = document;
    }
}

/// The place of the documents of spellings that share them with none. What is counted there means nothing: which spellings these are cannot be foreseen, so
/// there is no branch.
const ALONE: u32 = 0;

/// No entry.
const NOBODY: u32 = u32::MAX;

/// The bit of the text step in a set of steps.
const RECASED: u64 = 1 << 63;

/// How many words are looked up at a time: the processor then waits for many slots at once.
const TOGETHER: usize = 32;

/// After so many tokens the counts are taken out of the slots, which hold 32 bits.
const MOST_TOKENS: u64 = if cfg!(test) { 1 << 6 } else { 1 << 31 };

/// The most bytes of a spelling that a slot holds.
const WHOLE: usize = 16;

/// A key that no slot has: spellings with the character NUL in them are found by their texts.
const NO_KEY: [u64; 2] = [0, 1];

/// The spellings of the documents of one variant.
#[derive(Debug, Default)]
pub(super) struct SplitForms {
    hasher: RandomState,
    /// An open table (Knuth, The Art of Computer Programming 3, section 6.4, linear probing). A power of two of them, five of eight filled at most.
    slots: Vec<Slot>,
    filled: usize,
    /// Spellings that no key can hold, and by the hashes of their texts where they are.
    long: Vec<Slot>,
    by_text: HashTable<(u64, u32)>,
    /// By the entry of a spelling that is not clear by itself, and by the form that it has where it stands: its place among the long ones.
    in_context: Map<(u32, u32), u32>,
    entries: Vec<Entry>,
    rest: Vec<Rest>,
    /// Sets of steps that touch forms, a bit for each; few forms differ in theirs.
    touches: Vec<u64>,
    /// The documents of forms and of terms that spellings share.
    shared: Vec<Documents>,
    /// By spelling: the first entry of which it is the form, and the term.
    firsts: Vec<[u32; 2]>,
    /// Spellings that are not those of their forms.
    own: Vec<Box<str>>,
    counts: CountedHere,
    /// The distinct entries of the document at hand.
    met: Vec<u32>,
    /// By token of the document at hand: what becomes of it.
    fates: Vec<TokenFate>,
    /// Tokens since the slots were emptied, and by entry those that were counted before; nothing until then.
    tokens: u64,
    counted: Vec<u64>,
}

/// What a document came to.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) struct Met {
    /// The first token steps that change or drop any of its tokens, a bit for each.
    pub(super) touched: u64,
    /// Whether the text step whose work is done here changes a letter.
    pub(super) recased: bool,
}

/// The bytes of a key that belong to a spelling of so many.
const MASKS: [u128; WHOLE + 1] = {
    let mut masks = [0; WHOLE + 1];
    let mut length = 1;
    while length <= WHOLE {
        masks[length] = u128::MAX >> (128 - 8 * length);
        length += 1;
    }
    masks
};

/// The stretch of a text as a key. The bytes behind it are read along and masked, so that nothing depends on how long it is, which no processor
/// can foresee.
#[inline]
fn key(bytes: &[u8], span: Span, longest: usize) -> [u64; 2] {
    let (start, length) = (span.start as usize, (span.end - span.start) as usize);
    let number = match bytes.get(start..).and_then(<[u8]>::first_chunk::<WHOLE>) {
        Some(around) => u128::from_le_bytes(*around),
        None => at_the_end(bytes, start),
    };
    let number = number & MASKS[length.min(WHOLE)];
    if length > longest { NO_KEY } else { [number as u64, (number >> 64) as u64] }
}

/// The last bytes of a text as a number.
#[cold]
fn at_the_end(bytes: &[u8], start: usize) -> u128 {
    let rest = bytes.get(start..).unwrap_or_default();
    rest.iter().rev().fold(0, |number, byte| number << 8 | u128::from(*byte))
}

impl SplitForms {
    pub(super) fn new(counts: CountedHere) -> SplitForms {
        SplitForms { counts, shared: vec![Documents::default()], ..SplitForms::default() }
    }

    /// Counts the tokens of a document. Returns whether all of them are clear; if not, nothing is counted.
    pub(super) fn count(&mut self, text: &str, spans: &[Span], document: u32, by: &mut impl Decide) -> bool {
        let bytes = text.as_bytes();
        self.met.clear();
        self.fates.clear();
        self.fates.reserve(spans.len());
        // Documents are too short for a count to run over within one.
        if self.tokens >= MOST_TOKENS {
            self.empty_slots();
        }
        self.tokens += spans.len() as u64;
        let longest = if memchr::memchr(0, bytes).is_some() { 0 } else { WHOLE };
        let (mut keys, mut homes, mut heads) = ([[0; 2]; TOGETHER], [0; TOGETHER], [0; TOGETHER]);
        let mut is_clear = true;
        for spans in spans.chunks(TOGETHER) {
            for ((known, home), span) in keys.iter_mut().zip(&mut homes).zip(spans) {
                *known = key(bytes, *span, longest);
                *home = self.hash(*known) as usize;
            }
            for (head, home) in heads.iter_mut().zip(&homes[..spans.len()]) {
                *head = self.slots.get(home & self.slots.len().wrapping_sub(1)).map_or(0, |slot| slot.key[0]);
            }
            let (mut fresh, mut fresh_count) = ([0; TOGETHER], 0);
            let mut fates = [TokenFate::default(); TOGETHER];
            for (at, span) in spans.iter().enumerate() {
                let (key, home) = (keys[at], homes[at]);
                let mask = self.slots.len().wrapping_sub(1);
                let slot = match self.slots.get_mut(home & mask) {
                    Some(slot) if heads[at] == key[0] && slot.key == key => slot,
                    _ => self.find(text, *span, (key, home), by),
                };
                slot.count += 1;
                fates[at] = slot.fate;
                // Which token is the first of its form in a document cannot be foreseen: no branch.
                fresh[fresh_count] = slot.entry;
                fresh_count += usize::from(slot.last_document != document);
                slot.last_document = document;
            }
            self.met.extend_from_slice(&fresh[..fresh_count]);
            let fates = &fates[..spans.len()];
            is_clear &= fates.iter().all(|fate| *fate != TokenFate::UNCLEAR);
            self.fates.extend_from_slice(fates);
        }
        is_clear || self.count_unclear((text, longest), spans, document, by)
    }

    /// Counts those tokens again of which it is only clear where they stand what becomes of them. Returns whether it is clear of all; if not, nothing
    /// of the document is counted any more.
    #[cold]
    fn count_unclear(
        &mut self,
        (text, longest): (&str, usize),
        spans: &[Span],
        document: u32,
        by: &mut impl Decide,
    ) -> bool {
        let is_unclear = |token: &usize| self.fates[*token] == TokenFate::UNCLEAR;
        let unclear: Vec<usize> = (0..self.fates.len()).filter(is_unclear).collect();
        let decisions: Option<Vec<Decision>> =
            unclear.iter().map(|token| by.decide_at(text, spans[*token])).collect();
        let Some(decisions) = decisions else {
            self.take_back((text, longest), spans, by);
            return false;
        };
        self.met.retain(|place| self.rest[*place as usize].fate != TokenFate::UNCLEAR);
        for (token, decision) in unclear.into_iter().zip(decisions) {
            let span = spans[token];
            let key = key(text.as_bytes(), span, longest);
            let home = self.hash(key) as usize;
            let slot = self.find(text, span, (key, home), by);
            slot.count -= 1;
            let entry = slot.entry;
            let place = match self.in_context.get(&(entry, decision.form)) {
                Some(place) => *place as usize,
                None => {
                    let place = self.long.len();
                    self.in_context.insert((entry, decision.form), place as u32);
                    let (entry, fate) = self.add(span.of(text), decision);
                    self.long.push(Slot { entry, fate, ..Slot::default() });
                    place
                }
            };
            let slot = &mut self.long[place];
            slot.count += 1;
            if std::mem::replace(&mut slot.last_document, document) != document {
                self.met.push(slot.entry);
            }
            self.fates[token] = slot.fate;
        }
        true
    }

    /// Takes out of the counts what [`SplitForms::count`] has put in.
    #[cold]
    fn take_back(&mut self, (text, longest): (&str, usize), spans: &[Span], by: &mut impl Decide) {
        for span in spans {
            let key = key(text.as_bytes(), *span, longest);
            let home = self.hash(key) as usize;
            let slot = self.find(text, *span, (key, home), by);
            slot.count -= 1;
            slot.last_document = 0;
        }
    }

    /// Ends the document whose tokens were counted: what is asked once a document. `as_found` says whether its text is as it was found.
    pub(super) fn end(&mut self, document: u32, as_found: bool) -> Met {
        let mut touched = 0;
        for &place in &self.met {
            let entry = &mut self.entries[place as usize];
            entry.documents += 1;
            entry.found |= as_found;
            touched |= self.touches[usize::from(entry.touched)];
            for role in entry.shared {
                self.shared[role as usize].meet(document);
            }
        }
        Met { touched: touched & !RECASED, recased: touched & RECASED != 0 }
    }

    /// By token of the document that was counted: what becomes of it.
    pub(super) fn fates(&self) -> &[TokenFate] {
        &self.fates
    }

    /// Adds what was counted to the rows of the forms. Returns how many letters the text step changed whose work was done here.
    pub(super) fn settle(self, forms: &mut Forms<FormTally>, spellings: &mut Interner) -> u64 {
        let mut recased = 0;
        let counted = self.counted.iter().zip(0..).map(|(count, entry)| (entry, *count));
        let slots = self.slots.iter().chain(&self.long).map(|slot| (slot.entry, u64::from(slot.count)));
        // Those that were not clear have been taken back.
        for (place, count) in counted.chain(slots).filter(|(_, count)| *count > 0) {
            recased += count * u64::from(self.rest[place as usize].recased);
            if self.counts != CountedHere::Spellings {
                forms.of_spelling(self.rest[place as usize].form).tally.count += count;
            }
        }
        for (_, rest) in self.entries.iter().zip(&self.rest).filter(|(entry, _)| entry.found) {
            let own = self.own.get(rest.own as usize);
            forms.of_spelling(own.map_or(rest.form, |text| spellings.number(text))).found = true;
        }
        let documents = |role: usize, first: u32| match self.entries.get(first as usize) {
            Some(Entry { shared, documents, .. }) if shared[role] == ALONE => *documents,
            Some(Entry { shared, .. }) => self.shared[shared[role] as usize].count,
            None => 0,
        };
        for (spelling, [form, term]) in (0..).zip(&self.firsts) {
            if *form != NOBODY || *term != NOBODY {
                let tally = &mut forms.of_spelling(spelling).tally;
                tally.documents += documents(0, *form);
                tally.term_documents += documents(1, *term);
            }
        }
        recased
    }

    #[inline]
    fn hash(&self, key: [u64; 2]) -> u64 {
        let mut hasher = self.hasher.build_hasher();
        hasher.write_u128(u128::from(key[1]) << 64 | u128::from(key[0]));
        hasher.finish()
    }

    /// The slot of a spelling that does not stand in the first place where it may.
    #[inline(never)]
    fn find(
        &mut self,
        text: &str,
        span: Span,
        (key, home): ([u64; 2], usize),
        by: &mut impl Decide,
    ) -> &mut Slot {
        let spelling = span.of(text);
        if key == NO_KEY && (spelling.len() > WHOLE || spelling.contains('\0')) {
            return self.find_by_text(spelling, by);
        }
        // In a document with a NUL somewhere.
        let (key, home) = match key {
            NO_KEY => {
                let key = self::key(text.as_bytes(), span, WHOLE);
                (key, self.hash(key) as usize)
            }
            key => (key, home),
        };
        let mask = self.slots.len().wrapping_sub(1);
        let mut at = home & mask;
        while let Some(slot) = self.slots.get(at).filter(|slot| slot.key != [0; 2]) {
            if slot.key == key {
                return &mut self.slots[at];
            }
            at = (at + 1) & mask;
        }
        let (entry, fate) = self.add(spelling, by.decide(spelling));
        if (self.filled + 1) * 8 > self.slots.len() * 5 {
            self.grow();
            at = self.free(home);
        }
        self.filled += 1;
        let slot = &mut self.slots[at];
        *slot = Slot { key, entry, fate, ..Slot::default() };
        slot
    }

    fn find_by_text(&mut self, spelling: &str, by: &mut impl Decide) -> &mut Slot {
        let mut hasher = self.hasher.build_hasher();
        hasher.write(spelling.as_bytes());
        let hash = hasher.finish();
        let text = |place: u32| self.spelling(self.long[place as usize].entry as usize, by);
        let known = self.by_text.find(hash, |(other, place)| *other == hash && text(*place) == spelling);
        let place = match known {
            Some((_, place)) => *place as usize,
            None => {
                let place = self.long.len();
                self.by_text.insert_unique(hash, (hash, place as u32), |(hash, _)| *hash);
                let (entry, fate) = self.add(spelling, by.decide(spelling));
                self.long.push(Slot { entry, fate, ..Slot::default() });
                place
            }
        };
        &mut self.long[place]
    }

    /// Makes an entry for a new spelling. Returns what its slot is to hold: the entry and the fate.
    fn add(&mut self, spelling: &str, decision: Decision) -> (u32, TokenFate) {
        let Decision { form, recased, touched, fate } = decision;
        let fate = match fate {
            None => TokenFate::UNCLEAR,
            Some(_) if self.counts == CountedHere::Spellings => TokenFate::kept(form),
            Some(Fate::Kept { to }) if self.counts == CountedHere::Terms => TokenFate::kept(to),
            Some(Fate::Kept { .. }) => TokenFate::kept(form),
            Some(Fate::Dropped { .. } | Fate::Unknown) => TokenFate::dropped(form),
        };
        let touched = touched | if recased > 0 { RECASED } else { 0 };
        let set = self.touches.iter().position(|known| *known == touched).unwrap_or_else(|| {
            self.touches.push(touched);
            self.touches.len() - 1
        });
        let touched = u16::try_from(set).expect("a form is changed by few of 60 steps, and dropped by one");
        let place = u32::try_from(self.entries.len()).ok().filter(|place| *place != NOBODY);
        let place = place.expect("fewer than four thousand million distinct spellings");
        self.entries.push(Entry { documents: 0, shared: [ALONE; 2], touched, found: false });
        let mut own = NOBODY;
        if fate == TokenFate::UNCLEAR || recased > 0 {
            // There are no more of them than entries.
            own = self.own.len() as u32;
            self.own.push(spelling.into());
        }
        self.rest.push(Rest { form, fate, own, recased });
        if self.counts != CountedHere::Spellings && fate != TokenFate::UNCLEAR {
            self.share(place);
        }
        (place, fate)
    }

    /// Enters a new spelling with its form and its term.
    fn share(&mut self, place: u32) {
        let Rest { form, fate, .. } = self.rest[place as usize];
        let term = fate.as_kept().filter(|_| self.counts == CountedHere::Terms);
        let most = term.unwrap_or_default().max(form) as usize + 1;
        if most > self.firsts.len() {
            self.firsts.resize(most, [NOBODY; 2]);
        }
        for (role, spelling) in [Some(form), term].into_iter().enumerate() {
            let Some(first) = spelling.map(|spelling| &mut self.firsts[spelling as usize][role]) else {
                continue;
            };
            match *first {
                NOBODY => *first = place,
                other => self.entries[place as usize].shared[role] = self.shared_by(role, other),
            }
        }
    }

    /// The place of the documents that other spellings share with this one. What was counted for it alone is counted there from now on.
    fn shared_by(&mut self, role: usize, first: u32) -> u32 {
        let entry = &mut self.entries[first as usize];
        if entry.shared[role] == ALONE {
            entry.shared[role] = self.shared.len() as u32;
            // Without the document at hand, which has not ended.
            self.shared.push(Documents { count: entry.documents, last: 0 });
        }
        entry.shared[role]
    }

    /// The spelling of an entry.
    fn spelling<'s>(&'s self, place: usize, by: &'s impl Decide) -> &'s str {
        match self.own.get(self.rest[place].own as usize) {
            Some(text) => text,
            None => by.text(self.rest[place].form),
        }
    }

    /// Takes the counts out of the slots.
    #[cold]
    fn empty_slots(&mut self) {
        self.tokens = 0;
        self.counted.resize(self.entries.len(), 0);
        for slot in self.slots.iter_mut().chain(&mut self.long) {
            self.counted[slot.entry as usize] += u64::from(std::mem::take(&mut slot.count));
        }
    }

    /// The first free place for a spelling with this hash.
    fn free(&self, home: usize) -> usize {
        let mask = self.slots.len() - 1;
        let mut at = home & mask;
        while self.slots[at].key != [0; 2] {
            at = (at + 1) & mask;
        }
        at
    }

    /// Makes room for twice as many.
    #[cold]
    fn grow(&mut self) {
        let size = (self.slots.len() * 2).max(1 << 10);
        let slots = std::mem::replace(&mut self.slots, vec![Slot::default(); size]);
        for slot in slots.into_iter().filter(|slot| slot.key != [0; 2]) {
            let at = self.free(self.hash(slot.key) as usize);
            self.slots[at] = slot;
        }
    }
}
