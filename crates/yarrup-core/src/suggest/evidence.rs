//! What the documents of a run show of the suspects.

use std::sync::Arc;

use crate::language::language_of;
use crate::run::intern::Interner;
use crate::run::{Cleaned, EndedToken};
use crate::step::{Arriving, CopySort, Document, Gap, Learned, Learner, NoFields, Place};
use crate::steps::collection::copies::CopyFinder;
use crate::suggest::contexts::Contexts;
use crate::suggest::names::NameGathering;
use crate::suggest::{Inquiry, Sort, phrases};
use crate::survey::{Passage, Passages};

/// How alike near copies are.
const SIMILARITY: f64 = 0.8;
/// A document of fewer terms is nearly empty.
pub(super) const NEARLY_EMPTY: u64 = 3;

/// Gathers evidence from documents. Workers have one each; all together must be shown every document once in each pass.
pub struct Evidence<'i> {
    inquiry: &'i Inquiry<'i>,
    contexts: Contexts,
    phrases: Option<Box<dyn Learner>>,
    /// The spellings of terms, by whose numbers learners know them.
    spellings: Interner,
    passages: Option<Passages>,
    copies: Option<Box<dyn Learner>>,
    names: Option<NameGathering>,
    nearly_empty: u64,
    /// Whether the first pass is over: what needs no second is shown nothing more.
    is_second: bool,
    /// Whether phrases need the second.
    phrases_need: bool,
}

/// All that was found.
pub(super) struct Found {
    pub(super) contexts: Contexts,
    pub(super) phrases: Vec<Learned>,
    pub(super) passages: Vec<Passage>,
    /// Exact copies and near ones.
    pub(super) copies: (u64, u64),
    pub(super) names: NameGathering,
    pub(super) nearly_empty: u64,
}

/// In how many documents a line or passage must stand: in three, and in a large collection in one of a thousand.
fn least_documents(inquiry: &Inquiry<'_>) -> u64 {
    (inquiry.account.totals.documents / 1_000).max(3)
}

impl<'i> Evidence<'i> {
    pub(super) fn new(inquiry: &'i Inquiry<'i>) -> Evidence<'i> {
        let least = least_documents(inquiry);
        let asks = |sort| inquiry.asks(sort);
        let boxed = |learner: CopyFinder| -> Box<dyn Learner> { Box::new(learner) };
        Evidence {
            inquiry,
            contexts: Contexts::of(inquiry.watched.len()),
            phrases: (asks(Sort::Phrases) && phrases::are_wanted(inquiry))
                .then(|| -> Box<dyn Learner> { Box::new(phrases::counter(inquiry)) }),
            passages: asks(Sort::Boilerplate).then(|| Passages::new(least)),
            copies: asks(Sort::Documents).then(|| {
                boxed(CopyFinder::new(CopySort::Near, SIMILARITY, Arc::new(|_: &Arriving<'_>| true)))
            }),
            names: asks(Sort::Names).then(NameGathering::default),
            spellings: Interner::default(),
            nearly_empty: 0,
            is_second: false,
            phrases_need: true,
        }
    }

    /// Looks at a document, which has this place among all: its text as it was found, and what the recipe makes of it, with tokens and ends.
    pub fn document(&mut self, order: u64, text: &str, cleaned: &Cleaned<'_>) {
        let phrases = self.phrases_need;
        if let Some(passages) = &mut self.passages {
            passages.document(order, text);
        }
        let needs_terms = (self.phrases.is_some() && phrases) || (self.copies.is_some() && !self.is_second);
        if needs_terms && cleaned.left_out.is_none() {
            let terms = places(text, cleaned, &mut self.spellings);
            let document = Document { text, fields: &NoFields, order };
            let arriving =
                Arriving { document: &document, tokens_before: cleaned.tokens_before, tokens: &terms };
            if let Some(learner) = self.phrases.as_mut().filter(|_| phrases) {
                learner.tokens(&arriving);
            }
            if let Some(learner) = self.copies.as_mut().filter(|_| !self.is_second) {
                learner.tokens(&arriving);
            }
        }
        if self.is_second {
            return;
        }
        if cleaned.left_out.is_none() && cleaned.tokens_after < NEARLY_EMPTY {
            self.nearly_empty += 1;
        }
        if self.names.is_some() || !self.inquiry.watched.is_empty() {
            let ends: Vec<EndedToken<'_>> = cleaned.ends().collect();
            self.contexts.document(self.inquiry, text, &ends);
            // In German every noun has a capital: it tells nothing there.
            if let Some(names) = &mut self.names
                && language_of(text) != Some("de")
            {
                names.document(order, text, &ends);
            }
        }
    }

    /// Adds what another worker has gathered in the same pass.
    pub fn absorb(&mut self, other: Evidence<'_>) {
        for (ours, theirs) in [(&mut self.phrases, other.phrases), (&mut self.copies, other.copies)] {
            if let (Some(ours), Some(theirs)) = (ours, theirs) {
                ours.absorb(theirs);
            }
        }
        if let (Some(ours), Some(theirs)) = (&mut self.passages, other.passages) {
            ours.absorb(theirs);
        }
        if let (Some(ours), Some(theirs)) = (&mut self.names, other.names) {
            ours.absorb(theirs);
        }
        self.contexts.absorb(other.contexts);
        self.nearly_empty += other.nearly_empty;
    }

    /// Begins a second pass over the documents, if one is needed.
    pub fn needs_another_pass(&mut self) -> bool {
        self.phrases_need = self.phrases.as_mut().is_some_and(|learner| learner.needs_another_pass());
        self.is_second = true;
        let passages = self.passages.as_mut().is_some_and(Passages::needs_another_pass);
        self.phrases_need || passages
    }

    /// What another worker begins the same pass with.
    pub fn fresh(&self) -> Evidence<'i> {
        let fresh = |learner: &Option<Box<dyn Learner>>| learner.as_ref().map(|learner| learner.fresh());
        Evidence {
            phrases: fresh(&self.phrases),
            passages: self.passages.as_ref().map(Passages::fresh),
            copies: fresh(&self.copies),
            is_second: self.is_second,
            phrases_need: self.phrases_need,
            ..Evidence::new(self.inquiry)
        }
    }

    pub(super) fn finish(self) -> Found {
        let documents = self.inquiry.account.totals.documents;
        let learned = |learner: Option<Box<dyn Learner>>| {
            learner.map(|learner| learner.learned(&mut std::iter::empty(), documents)).unwrap_or_default()
        };
        let copies = self.copies.and_then(|mut learner| learner.copies());
        let copies: Vec<(u64, u64, CopySort)> = copies.map(Vec::from).unwrap_or_default();
        let exact = copies.iter().filter(|(.., sort)| *sort == CopySort::Exact).count() as u64;
        Found {
            contexts: self.contexts,
            phrases: learned(self.phrases),
            passages: self.passages.map(Passages::finish).unwrap_or_default(),
            copies: (exact, copies.len() as u64 - exact),
            names: self.names.unwrap_or_default(),
            nearly_empty: self.nearly_empty,
        }
    }
}

/// The terms of a document in their places.
fn places<'c>(text: &str, cleaned: &Cleaned<'c>, spellings: &mut Interner) -> Vec<Place<'c>> {
    let mut end = None;
    let place = |token: crate::run::Token<'c>| {
        let (start, behind) = (token.span.start as usize, token.span.end as usize);
        let gap = match end {
            Some(end) if end <= start => Gap::of(&text[end..start]),
            _ => Gap::Paragraph,
        };
        end = Some(behind);
        let number = spellings.number(token.term);
        Place { tag: token.tag, labels: token.labels, gap, ..Place::alone(token.term, number) }
    };
    cleaned.tokens().map(place).collect()
}
