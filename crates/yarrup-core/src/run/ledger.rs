//! Counting: what becomes of every token, form by form, and what every step does.

use std::collections::BTreeMap;

use crate::pipeline::{Pipeline, Variant};
use crate::run::forms::{Fate, Forms, Map, NONE};
use crate::run::intern::Interner;
use crate::run::passage::{Alike, Live, Look, Observer, Regard, TOGETHER};
use crate::step::{Mark, Matches};

/// The counts of a whole run.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, serde::Serialize, serde::Deserialize)]
pub struct Totals {
    /// Documents that came in.
    pub documents: u64,
    /// Documents that a step left out.
    pub dropped: u64,
    /// Documents that had tokens as found, and none at the end, though no step left them out.
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
#[derive(Clone, Debug, Default, PartialEq, Eq, serde::Serialize, serde::Deserialize)]
pub struct TextTally {
    /// Documents in which it changed something.
    pub documents: u64,
    /// Places that it changed.
    pub matches: u64,
    /// Characters (code points) before it.
    pub characters_in: u64,
    /// Characters (code points) behind it.
    pub characters_out: u64,
    /// What it matched, by sort.
    pub matched: Matches,
}

/// What a token step did that does not follow from the forms.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, serde::Serialize, serde::Deserialize)]
pub struct TokenTally {
    /// Documents that it touched.
    pub documents: u64,
    /// Tokens that went no further, of a step that looks at tokens in their order or at documents.
    pub dropped: u64,
    /// Tokens that it made part of others.
    pub joined: u64,
    /// Tokens that it made.
    pub added: u64,
    /// Tokens that got another spelling, of a step that looks at tokens in their order.
    pub changed: u64,
    /// Tokens that it gave a part of speech or a label.
    pub marked: u64,
}

/// What the ledger keeps of each form.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct FormTally {
    pub(crate) count: u64,
    pub(crate) documents: u32,
    last_document: u32,
    /// Of the spelling as a term. In the first segment alone.
    pub(crate) term_documents: u32,
    last_term_document: u32,
}

impl FormTally {
    /// What was counted there of the form, and here of its spelling as a term.
    pub(crate) fn with_forms_of(&self, other: &FormTally) -> FormTally {
        FormTally {
            term_documents: self.term_documents,
            last_term_document: self.last_term_document,
            ..*other
        }
    }
}

/// Where the tokens of a form end.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(crate) enum End {
    Kept {
        term: u32,
    },
    Dropped {
        step: u8,
        reason: u16,
    },
    /// Gone into another token, which is named if there is one alone.
    Joined {
        step: u8,
        into: u32,
    },
}

impl Fate {
    /// The end of tokens that come to their last steps with this spelling.
    pub(crate) fn end(self, spelling: u32) -> End {
        match self {
            Fate::Kept { to } => End::Kept { term: to },
            Fate::Dropped { step, reason } => End::Dropped { step, reason },
            Fate::Unknown => End::Kept { term: spelling },
        }
    }
}

/// How often the tokens of a form ended alike.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Journey {
    pub(crate) count: u64,
    pub(crate) documents: u32,
    last_document: u32,
}

/// How many tokens of each form, with its mark but for labels, came to which end.
#[derive(Debug, Default)]
pub(crate) struct Journeys {
    numbers: Map<JourneyKey, u32>,
    rows: Vec<(JourneyKey, Journey)>,
    /// By form: the row of the journey that its last token made. Most tokens of a form fare alike.
    last: Vec<u32>,
}

/// A form, its mark, and where its tokens end.
pub(crate) type JourneyKey = (u32, Mark, End);

impl Journeys {
    /// The journey of a token.
    #[inline]
    fn of(&mut self, key: JourneyKey) -> &mut Journey {
        let form = key.0 as usize;
        if form >= self.last.len() {
            self.last.resize(form + 1, u32::MAX);
        }
        let mut row = self.last[form] as usize;
        if self.rows.get(row).is_none_or(|(known, _)| *known != key) {
            row = self.row(key);
            self.last[form] = row as u32;
        }
        &mut self.rows[row].1
    }

    fn row(&mut self, key: JourneyKey) -> usize {
        let next = self.rows.len() as u32;
        let row = *self.numbers.entry(key).or_insert(next);
        if row == next {
            self.rows.push((key, Journey::default()));
        }
        row as usize
    }

    /// All of them.
    pub(crate) fn iter(&self) -> impl Iterator<Item = (&JourneyKey, &Journey)> {
        self.rows.iter().map(|(key, journey)| (key, journey))
    }
}

/// The observer that counts.
#[derive(Debug)]
pub(crate) struct Ledger {
    pub(crate) totals: Totals,
    pub(crate) texts: Vec<TextTally>,
    pub(crate) tokens: Vec<TokenTally>,
    /// Of a recipe that parts its token steps: each form with its mark but for labels, and its end. In a recipe of one segment every form has
    /// one end, which its row tells.
    pub(crate) journeys: Option<Journeys>,
    /// How many token steps the first segment has, if its rows tell what it drops.
    first_steps: usize,
    /// Documents by variant.
    pub(crate) variants: Vec<(Variant, u64)>,
    /// The number of the present document, from 1; 0 has been in no document.
    document: u32,
    /// A bit for each token step that touched the present document.
    touched: u64,
    /// Whether the token that is being passed is the first of its form in the document.
    first: bool,
    /// Documents that steps left out, by the index of the token step and the number of the reason.
    pub(crate) dropped_documents: BTreeMap<(u8, u16), u64>,
    /// Whether a step has left the present document out, and why.
    pub(crate) left_out: Option<(usize, u16)>,
}

impl Ledger {
    /// A ledger for the first `token_steps` of a pipeline. `parts` says whether these have more than one segment.
    pub(crate) fn new(pipeline: &Pipeline, token_steps: usize, parts: bool) -> Ledger {
        Ledger {
            totals: Totals::default(),
            texts: vec![TextTally::default(); pipeline.text.len()],
            tokens: vec![TokenTally::default(); token_steps],
            journeys: parts.then(Journeys::default),
            first_steps: 0,
            variants: Vec::new(),
            document: 0,
            touched: 0,
            first: false,
            dropped_documents: BTreeMap::new(),
            left_out: None,
        }
    }

    pub(crate) fn begin_document(&mut self, variant: Variant) {
        self.document += 1;
        self.touched = 0;
        self.left_out = None;
        match self.variants.iter_mut().find(|(known, _)| *known == variant) {
            Some((_, documents)) => *documents += 1,
            None => self.variants.push((variant, 1)),
        }
    }

    pub(crate) fn count_text_step(&mut self, index: usize, matches: u64, before: u64, after: u64) {
        let tally = &mut self.texts[index];
        tally.documents += u64::from(matches > 0);
        tally.matches += matches;
        tally.characters_in += before;
        tally.characters_out += after;
        tally.matched.end_document();
    }

    /// Notes that a text step whose work is done form by form changed the case of letters in the document, which has so many characters. How many
    /// letters is told in the end: see [`Ledger::count_letters`].
    pub(crate) fn count_recased(&mut self, index: usize, is_recased: bool, characters: u64) {
        self.count_text_step(index, 0, characters, characters);
        self.texts[index].documents += u64::from(is_recased);
    }

    /// Adds letters whose case a text step changed.
    pub(crate) fn count_letters(&mut self, index: usize, letters: u64) {
        self.texts[index].matches += letters;
    }

    /// Notes the token steps that touched a token of the document, a bit for each.
    pub(crate) fn touch(&mut self, steps: u64) {
        self.touched |= steps;
    }

    /// The number of the document at hand, from 1.
    pub(crate) fn document_number(&self) -> u32 {
        self.document
    }

    pub(crate) fn end_document(&mut self, characters: u64, tokens_before: u64, tokens_after: u64) {
        let mut bits = self.touched;
        while bits != 0 {
            self.tokens[bits.trailing_zeros() as usize].documents += 1;
            bits &= bits - 1;
        }
        let totals = &mut self.totals;
        totals.documents += 1;
        totals.dropped += u64::from(self.left_out.is_some());
        totals.characters += characters;
        totals.tokens_found += tokens_before;
        totals.tokens_kept += tokens_after;
        totals.emptied += u64::from(tokens_before > 0 && tokens_after == 0 && self.left_out.is_none());
        totals.empty += u64::from(tokens_before == 0);
    }

    /// Counts so many tokens of a form of the document at hand, which has one end, and the term that they become if they are kept.
    #[inline]
    pub(crate) fn count_form(
        &mut self,
        forms: &mut Forms<FormTally>,
        row: u32,
        tokens: u32,
        term: Option<u32>,
    ) {
        let touched = forms.touch(row);
        let tally = &mut forms.rows[row as usize].tally;
        tally.count += u64::from(tokens);
        tally.documents += 1;
        self.touched |= touched;
        if let Some(term) = term {
            self.count_term(forms, term);
        }
    }

    /// Counts the document at hand as one that has this term.
    #[inline]
    pub(crate) fn count_term(&mut self, forms: &mut Forms<FormTally>, term: u32) {
        let term = &mut forms.of_spelling(term).tally;
        term.term_documents += u32::from(term.last_term_document != self.document);
        term.last_term_document = self.document;
    }

    /// Counts the journeys of all tokens of a form that came to the last segment, of which none was counted so far: every one has this origin.
    pub(crate) fn count_all(&mut self, (origin, mark): (u32, Mark), end: End, tally: &FormTally) {
        let Some(journeys) = self.journeys.as_mut().filter(|_| tally.count > 0) else { return };
        let journey = journeys.of((origin, mark.without_labels(), end));
        journey.count += tally.count;
        journey.documents += tally.documents;
        journey.last_document = journey.last_document.max(tally.last_document);
    }

    /// From now on the rows of the first segment, which has so many steps, tell what it drops: it is counted in the end, by [`Ledger::count_all`].
    pub(crate) fn leave_to_rows(&mut self, first_steps: usize) {
        self.first_steps = first_steps;
    }

    /// Counts tokens that come to the last segment, each of which has its row there, and tells how they end. `first` are the forms of the first segment. As long as
    /// all tokens of a row are named by its spelling, the row tells their journeys, which are counted in the end.
    ///
    /// Where rows lie in memory cannot be foreseen, nor which token is the first of its form in the document: what is done for the first alone is done for all of
    /// these together, so that the processor need not wait for one after the other.
    #[inline]
    pub(crate) fn count_last(
        &mut self,
        first: &mut Forms<FormTally>,
        last: &mut Forms<FormTally>,
        groups: &[Alike],
        mut ended: impl FnMut(usize, Fate),
    ) {
        for (groups, start) in groups.chunks(TOGETHER).zip((0..).step_by(TOGETHER)) {
            let (mut fresh, mut fresh_count) = ([(0, Fate::Unknown); TOGETHER], 0);
            for (alike, at) in groups.iter().zip(start..) {
                let row = &last.rows[alike.row as usize];
                let is_odd = alike.origin != alike.spelling || row.told_apart || row.tally.count == 0;
                if is_odd || alike.mark.labels() != 0 {
                    self.count_apart(last, *alike);
                }
                let row = &mut last.rows[alike.row as usize];
                let fate = row.fate();
                let tally = &mut row.tally;
                tally.count += u64::from(alike.tokens);
                let is_fresh = tally.last_document != self.document;
                tally.last_document = self.document;
                tally.documents += u32::from(is_fresh);
                fresh[fresh_count] = (alike.row, fate);
                fresh_count += usize::from(is_fresh);
                ended(at, fate);
            }
            for (row, fate) in &fresh[..fresh_count] {
                self.touched |= last.touch(*row);
                if let Fate::Kept { to } = fate {
                    self.count_term(first, *to);
                }
            }
        }
    }

    /// Counts the journey of tokens of which it is not known that their row tells it.
    #[inline(never)]
    fn count_apart(&mut self, last: &mut Forms<FormTally>, alike: Alike) {
        let Alike { row, spelling, mark, origin, tokens } = alike;
        let form = (origin, mark.without_labels());
        let is_odd = origin != spelling || mark.labels() != 0 || last.rows[row as usize].told_apart;
        if !is_odd && !last.told_apart.contains(&form) {
            // The first of its row, which is as others are.
            return;
        }
        self.tell_apart(last, row);
        // The row of the form itself may tell of the same journey.
        if last.told_apart.insert(form)
            && let Some(own) = last.known(form.0, form.1)
        {
            self.tell_apart(last, own);
        }
        let end = last.rows[row as usize].fate().end(spelling);
        self.count_journeys((form.0, form.1, end), tokens);
    }

    /// Counts the journeys that a row has told so far; from now on they are counted one by one.
    fn tell_apart(&mut self, last: &mut Forms<FormTally>, row: u32) {
        let key = last.key(row);
        let row = &mut last.rows[row as usize];
        if !std::mem::replace(&mut row.told_apart, true) && row.tally.count > 0 {
            let (tally, end) = (row.tally, row.fate().end(key.0));
            self.count_all(key, end, &tally);
        }
    }

    /// Takes over what another ledger has counted of the steps up to the one with this index, which both have alike.
    pub(crate) fn take_over(&mut self, other: &Ledger, step: usize) {
        self.tokens[..=step].copy_from_slice(&other.tokens[..=step]);
        let dropped = other.dropped_documents.iter().filter(|((at, _), _)| usize::from(*at) <= step);
        self.dropped_documents.extend(dropped.map(|(key, count)| (*key, *count)));
        if let (Some(own), Some(theirs)) = (&mut self.journeys, &other.journeys) {
            for (key, journey) in theirs.iter() {
                let at = match key.2 {
                    End::Dropped { step, .. } | End::Joined { step, .. } => usize::from(step),
                    End::Kept { .. } => usize::MAX,
                };
                if at <= step {
                    *own.of(*key) = *journey;
                }
            }
        }
    }

    #[inline(always)]
    fn ended(&mut self, token: &Live, end: End) {
        // Out of the loop in which the form alone decides: it is called for every token there.
        if self.journeys.is_some() {
            self.count_journey(token, end);
        }
    }

    #[inline(never)]
    fn count_journey(&mut self, token: &Live, end: End) {
        self.count_journeys((token.origin, token.mark.without_labels(), end), 1);
    }

    /// Counts so many tokens of the document at hand that made the same journey.
    #[inline]
    fn count_journeys(&mut self, key: JourneyKey, tokens: u32) {
        let Some(journeys) = &mut self.journeys else { return };
        let journey = journeys.of(key);
        journey.count += u64::from(tokens);
        if journey.last_document != self.document {
            journey.last_document = self.document;
            journey.documents += 1;
        }
    }
}

impl Observer for Ledger {
    type Tally = FormTally;

    #[inline]
    fn met(&mut self, forms: &mut Forms<FormTally>, row: u32, _token: &Live) {
        let tally = &mut forms.rows[row as usize].tally;
        tally.count += 1;
        self.first = tally.last_document != self.document;
        if self.first {
            tally.last_document = self.document;
            tally.documents += 1;
            self.touched |= forms.touch(row);
        }
    }

    fn looked(&mut self, look: Look<'_>, _spellings: &Interner) {
        if look.is_idle() {
            return;
        }
        self.touched |= 1 << look.step;
        let tally = &mut self.tokens[look.step];
        tally.added += look.added.len() as u64;
        for regard in look.regards {
            match regard {
                Regard::Kept => {}
                Regard::Tagged(_) | Regard::Labelled(_) => tally.marked += 1,
                Regard::Changed(_) => tally.changed += 1,
                Regard::Dropped(_) => tally.dropped += 1,
                Regard::Joined(_) => tally.joined += 1,
            }
        }
    }

    fn judged(&mut self, step: usize, reason: Option<u16>, tokens: &[Live], _spellings: &Interner) {
        if let Some(reason) = reason {
            self.touched |= 1 << step;
            self.tokens[step].dropped += tokens.len() as u64;
            self.left_out = Some((step, reason));
            *self.dropped_documents.entry((step as u8, reason)).or_default() += 1;
        }
    }

    #[inline]
    fn dropped(&mut self, token: &Live, step: usize, reason: u16) {
        if step >= self.first_steps {
            self.ended(token, End::Dropped { step: step as u8, reason });
        }
    }

    fn marked(&mut self, step: usize, tokens: u64) {
        if tokens > 0 {
            self.touched |= 1 << step;
            self.tokens[step].marked += tokens;
        }
    }

    fn joined(&mut self, token: &Live, step: usize, into: u32) {
        self.ended(token, End::Joined { step: step as u8, into });
    }

    #[inline]
    fn kept(&mut self, forms: &mut Forms<FormTally>, token: &Live) {
        // Where the form alone decides, only its first token in a document can be the term's first.
        if self.journeys.is_some() || self.first {
            let term = &mut forms.of_spelling(token.spelling).tally;
            if term.last_term_document != self.document {
                term.last_term_document = self.document;
                term.term_documents += 1;
            }
        }
        self.ended(token, End::Kept { term: token.spelling });
        debug_assert!(token.spelling != NONE);
    }
}
