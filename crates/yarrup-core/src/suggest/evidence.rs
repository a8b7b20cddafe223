//! What the documents of a run show of the suspects.

use std::sync::Arc;

use hashbrown::HashMap;

use crate::kind::Kind;
use crate::language::language_of;
use crate::run::{Cleaned, EndedToken};
use crate::step::{Arriving, CopySort, Document, Gap, Learned, Learner, NoFields, Place, mixed_text_hash};
use crate::steps::collection::copies::CopyFinder;
use crate::suggest::names::NameGathering;
use crate::suggest::{Inquiry, Sort, phrases};
use crate::survey::{Passage, Passages};

type State = foldhash::fast::FixedState;

/// How alike near copies are.
const SIMILARITY: f64 = 0.8;
/// A document of fewer terms is nearly empty.
const NEARLY_EMPTY: u64 = 3;
/// The most different neighbours of a word that are kept.
const MOST_NEIGHBOURS: usize = 20_000;

/// Gathers evidence from documents. Workers have one each; all together must be shown every document once in each pass.
pub struct Evidence<'i> {
    inquiry: &'i Inquiry<'i>,
    contexts: Contexts,
    phrases: Option<Box<dyn Learner>>,
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
            phrases: asks(Sort::Phrases).then(|| -> Box<dyn Learner> { Box::new(phrases::counter(inquiry)) }),
            passages: asks(Sort::Boilerplate).then(|| Passages::new(least)),
            copies: asks(Sort::Documents).then(|| {
                boxed(CopyFinder::new(CopySort::Near, SIMILARITY, Arc::new(|_: &Arriving<'_>| true)))
            }),
            names: asks(Sort::Names).then(NameGathering::default),
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
            let (terms, document) = (places(text, cleaned), Document { text, fields: &NoFields, order });
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
fn places<'c>(text: &str, cleaned: &Cleaned<'c>) -> Vec<Place<'c>> {
    let mut end = None;
    let place = |token: crate::run::Token<'c>| {
        let (start, behind) = (token.span.start as usize, token.span.end as usize);
        let gap = match end {
            Some(end) if end <= start => Gap::of(&text[end..start]),
            _ => Gap::Paragraph,
        };
        end = Some(behind);
        Place { text: token.term, number: 0, tag: token.tag, labels: token.labels, gap, spared: false }
    };
    cleaned.tokens().map(place).collect()
}

/// Whether a token stands in the middle of a sentence: a word stands before it, with a space or a comma between.
pub(super) fn is_inside(text: &str, tokens: &[EndedToken<'_>], place: usize) -> bool {
    let start = tokens[place].span.start as usize;
    let is_word = |token: &&EndedToken<'_>| token.span.of(text).contains(|c: char| c.is_alphanumeric());
    let Some(before) = tokens[..place].iter().rev().take(3).find(is_word) else { return false };
    let end = before.span.end as usize;
    let ends_sentence = before.span.of(text).ends_with(['.', '!', '?', ':', '"', '”', '»', '…']);
    end < start && !ends_sentence && text[end..start].chars().all(|c| matches!(c, ' ' | ',' | '\u{a0}'))
}

/// The words beside some words, and how often these have a capital.
#[derive(Default)]
pub(super) struct Contexts {
    words: Vec<Context>,
}

#[derive(Default)]
struct Context {
    /// How often each neighbour comes, by its hash and side.
    neighbours: HashMap<u32, u32, State>,
    /// Tokens in the middle of sentences, and how many of them have a capital.
    inside: u32,
    capitals: u32,
}

impl Contexts {
    fn of(words: usize) -> Contexts {
        Contexts { words: (0..words).map(|_| Context::default()).collect() }
    }

    fn document(&mut self, inquiry: &Inquiry<'_>, text: &str, tokens: &[EndedToken<'_>]) {
        if self.words.is_empty() {
            return;
        }
        let small = |token: &EndedToken<'_>| token.form.to_lowercase();
        for (place, token) in tokens.iter().enumerate().filter(|(_, token)| token.kind == Kind::Word) {
            let number = match token.form.chars().any(char::is_uppercase) {
                true => inquiry.watched.get(small(token).as_str()),
                false => inquiry.watched.get(token.form),
            };
            let Some(number) = number else { continue };
            let context = &mut self.words[*number as usize];
            let beside = [place.checked_sub(1), Some(place + 1)];
            for (side, neighbour) in (0..).zip(beside) {
                let neighbour = neighbour.and_then(|place| tokens.get(place)).map_or(String::new(), small);
                let hash = (mixed_text_hash(&neighbour) as u32) << 1 | side;
                if context.neighbours.len() < MOST_NEIGHBOURS {
                    *context.neighbours.entry(hash).or_default() += 1;
                } else if let Some(count) = context.neighbours.get_mut(&hash) {
                    *count += 1;
                }
            }
            if is_inside(text, tokens, place) {
                context.inside += 1;
                context.capitals += u32::from(token.span.of(text).starts_with(char::is_uppercase));
            }
        }
    }

    fn absorb(&mut self, other: Contexts) {
        for (ours, theirs) in self.words.iter_mut().zip(other.words) {
            for (hash, count) in theirs.neighbours {
                *ours.neighbours.entry(hash).or_default() += count;
            }
            ours.inside += theirs.inside;
            ours.capitals += theirs.capitals;
        }
    }

    fn of_word(&self, inquiry: &Inquiry<'_>, word: &str) -> Option<&Context> {
        self.words.get(*inquiry.watched.get(word)? as usize)
    }

    /// How much of what stands beside one word stands beside the other as well, from 0 to 1; none if nothing was seen.
    pub(super) fn shared(&self, inquiry: &Inquiry<'_>, word: &str, other: &str) -> Option<f64> {
        let (word, other) = (self.of_word(inquiry, word)?, self.of_word(inquiry, other)?);
        let all: u32 = word.neighbours.values().sum();
        let both = word.neighbours.iter().filter(|(hash, _)| other.neighbours.contains_key(*hash));
        let both: u32 = both.map(|(_, count)| count).sum();
        (all > 0).then(|| f64::from(both) / f64::from(all))
    }

    /// How many different words stand beside a word on either side, of so many that stand there, from 0 to 1: what is expected of a sample of that size, so that
    /// rare and frequent words compare (Hurlbert 1971, "The nonconcept of species diversity: a critique and alternative parameters"). None for a word that
    /// comes less often.
    pub(super) fn diversity(&self, inquiry: &Inquiry<'_>, word: &str, sample: u32) -> Option<f64> {
        let neighbours = &self.of_word(inquiry, word)?.neighbours;
        let side = |side: u32| {
            let counts = || {
                neighbours
                    .iter()
                    .filter(move |(hash, _)| *hash & 1 == side)
                    .map(|(_, count)| f64::from(*count))
            };
            let all: f64 = counts().sum();
            let expected = |count: f64| 1.0 - (1.0 - count / all).powi(sample as i32);
            // In one order, so that sums are the same whoever counted.
            let mut each: Vec<f64> = counts().map(expected).collect();
            each.sort_by(f64::total_cmp);
            (all >= f64::from(sample)).then(|| each.iter().sum::<f64>() / f64::from(sample))
        };
        Some(f64::midpoint(side(0)?, side(1)?))
    }

    /// Whether a word mostly has a capital where words of a sentence have none.
    pub(super) fn is_name(&self, inquiry: &Inquiry<'_>, word: &str) -> bool {
        self.of_word(inquiry, word).is_some_and(|context| context.capitals * 2 > context.inside)
    }
}
