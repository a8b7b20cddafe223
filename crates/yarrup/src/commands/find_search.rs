//! The search through the documents of a run.

use std::collections::{BTreeMap, BinaryHeap};
use std::ops::ControlFlow;
use std::sync::atomic::{AtomicUsize, Ordering};

use yarrup_core::study::Wanted;
use yarrup_core::{Fields, FormFate, Outputs, Pipeline, Span};
use yarrup_io::{BatchDone, Numbered, Pass, Record, Sink, Summary};

use crate::failure::Failure;
use crate::screen::Progress;
use crate::studied::{Again, Studied};

/// Where something is looked for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Among {
    /// In the terms that are kept.
    Terms,
    /// In the words at the split, whatever became of them.
    Forms,
    /// In the words that were dropped, by this step if one is given.
    Dropped(Option<usize>),
    /// In the original text.
    Text,
    /// Nowhere: documents of which nothing is left are listed.
    Emptied,
}

/// What is looked for, and what is kept of it.
pub(super) struct Query {
    pub(super) wanted: Wanted,
    pub(super) among: Among,
    /// The fields that are shown.
    pub(super) show: Vec<String>,
    /// The field whose values are counted.
    pub(super) by: Option<String>,
    pub(super) kept: Kept,
    /// Whether the end is of no account once enough is kept.
    pub(super) stops_early: bool,
}

impl Query {
    pub(super) fn unit(&self) -> Unit {
        self.kept.unit
    }
}

/// What is kept of what was found.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Kept {
    pub(super) unit: Unit,
    /// How many.
    pub(super) most: usize,
    pub(super) order: Order,
}

/// What is shown of what was found.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Unit {
    /// Places, each with the words around it.
    Places,
    /// Documents, each with the number of its places.
    Documents,
    /// Documents whole.
    Whole,
}

/// In which order things are kept.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Order {
    /// As they stand in the documents.
    Document,
    /// By the words before them, the nearest first.
    Before,
    /// By the words behind them.
    After,
    /// By the number of places.
    Count,
    /// By a field.
    Field(String),
    /// By chance, which depends on this number.
    Chance(u64),
}

/// Something that was found: a place, or a document.
#[derive(Clone, Debug, Default)]
pub(super) struct Found {
    /// Where the document stands.
    pub(super) order: u64,
    pub(super) id: String,
    /// The values of the fields that are shown.
    pub(super) shown: Vec<Option<String>>,
    /// How many places the document has.
    pub(super) count: u64,
    /// The places: one, or all of a document that is shown whole.
    pub(super) places: Vec<FoundPlace>,
    /// The text of a document that is shown whole.
    pub(super) text: String,
    /// What it is ordered by.
    key: String,
}

impl Found {
    /// Whether it has nothing of what it is ordered by.
    pub(super) fn is_unordered(&self) -> bool {
        self.key.is_empty()
    }
}

/// A place.
#[derive(Clone, Debug, Default)]
pub(super) struct FoundPlace {
    pub(super) span: Span,
    pub(super) before: String,
    pub(super) words: String,
    pub(super) after: String,
    /// The words at the split, or the term.
    pub(super) token: String,
    pub(super) tag: Option<&'static str>,
    /// The step that dropped it, and the reason.
    pub(super) dropped: Option<(usize, String)>,
}

/// All that was found.
#[derive(Debug, Default)]
pub(super) struct Counts {
    pub(super) places: u64,
    pub(super) documents: u64,
    /// Places and documents by the value of a field.
    pub(super) by: BTreeMap<Option<String>, (u64, u64)>,
    /// Whether some document has the fields that are shown.
    pub(super) has: Vec<bool>,
}

/// How much of the text before and behind a place is kept, in characters.
const CONTEXT: usize = 200;

/// The pass that looks at every document.
pub(super) struct Searching<'r> {
    pub(super) run: &'r Studied,
    pub(super) query: &'r Query,
    /// How much was kept by now, where the first ones are wanted.
    pub(super) enough: AtomicUsize,
}

/// What a batch leaves behind.
#[derive(Default)]
pub(super) struct Left {
    found: Vec<Found>,
    counts: Counts,
    chances: Lots,
    fault: Option<Failure>,
}

impl<'r> Pass for Searching<'r> {
    type State = Again<'r>;
    type Left = Left;

    fn state(&self) -> Again<'r> {
        let is_of_terms = self.query.among == Among::Terms;
        Again::new(self.run, Outputs { tokens: is_of_terms, ends: !is_of_terms, ..Outputs::default() })
    }

    fn document(&self, again: &mut Again<'r>, numbered: &Numbered<'_>, left: &mut Left) {
        if left.fault.is_none()
            && let Err(fault) = self.look(again, numbered, left)
        {
            left.fault = Some(fault);
        }
    }
}

impl<'r> Searching<'r> {
    fn pipeline(&self) -> &'r Pipeline {
        &self.run.compiled.pipeline
    }

    fn look(&self, again: &mut Again<'r>, numbered: &Numbered<'_>, left: &mut Left) -> Result<(), Failure> {
        let (record, query) = (&numbered.record, self.query);
        let id = || record.field("id").unwrap_or_default().into_owned();
        let in_order = query.kept.order == Order::Document;
        // Where the first ones are wanted, others are only counted.
        let is_full = in_order
            && left.found.len() >= query.kept.most.saturating_sub(self.enough.load(Ordering::Relaxed));
        let order = numbered.order;
        let chances = &mut left.chances;
        let needs_places = |count: u64| match (query.kept.unit, &query.kept.order) {
            (Unit::Documents, _) => false,
            (Unit::Places, Order::Chance(seed)) => {
                // Nothing need be looked at whose lots are all worse than those that are kept.
                let lots = (0..count).map(|place| lot(*seed, order, place));
                lots.filter(|lot| chances.draw(*lot, query.kept.most)).count() > 0
            }
            _ => !is_full,
        };
        let (count, places) = self.places(again, record, needs_places)?;
        if count == 0 {
            return Ok(());
        }
        left.counts.places += count;
        left.counts.documents += 1;
        if let Some(by) = &query.by {
            let value = record.field(by).map(|value| value.into_owned());
            let counts = left.counts.by.entry(value).or_default();
            counts.0 += count;
            counts.1 += 1;
        }
        if is_full {
            return Ok(());
        }
        let field = |path: &String| record.field(path).map(|value| value.into_owned());
        let found = Found {
            order: numbered.order,
            id: id(),
            shown: query.show.iter().map(field).collect(),
            count,
            ..Found::default()
        };
        left.counts.has.resize(query.show.len(), false);
        for (has, value) in left.counts.has.iter_mut().zip(&found.shown) {
            *has |= value.is_some();
        }
        let keyed = |mut found: Found, place: u64| {
            let value = |path: &str| field(&path.to_owned()).unwrap_or_default();
            found.key = query.kept.order.key(&found, place, value);
            found
        };
        match query.kept.unit {
            Unit::Places => {
                let one = |(number, place)| keyed(Found { places: vec![place], ..found.clone() }, number);
                left.found.extend((0..).zip(places).map(one));
            }
            Unit::Whole => {
                let text = record.field("text").unwrap_or_default().into_owned();
                left.found.push(keyed(Found { places, text, ..found }, 0));
            }
            Unit::Documents => left.found.push(keyed(found, 0)),
        }
        if !in_order {
            query.kept.cut(&mut left.found, false);
        }
        Ok(())
    }

    /// How many places a document has, and if they are needed, which is asked once that is known, all of them.
    fn places(
        &self,
        again: &mut Again<'r>,
        record: &Record<'_>,
        needs_places: impl FnOnce(u64) -> bool,
    ) -> Result<(u64, Vec<FoundPlace>), Failure> {
        let query = self.query;
        match query.among {
            Among::Emptied => {
                let text = record.field("text").unwrap_or_default();
                let token = record.field("tokens_before").unwrap_or_default().into_owned();
                let start = FoundPlace { token, ..FoundPlace::at(&text, Span::default()) };
                Ok((1, if needs_places(1) { vec![start] } else { Vec::new() }))
            }
            Among::Text => {
                let text = self.original(record)?;
                let spans = query.wanted.hits_in_text(&text);
                let places = if needs_places(spans.len() as u64) {
                    spans.iter().map(|span| FoundPlace::at(&text, *span)).collect()
                } else {
                    Vec::new()
                };
                Ok((spans.len() as u64, places))
            }
            Among::Terms => {
                let clean = record.field("clean").unwrap_or_default();
                if self.pipeline().clean_tells_terms() {
                    let mut terms = Vec::new();
                    self.pipeline().terms_of_clean(&clean, &mut terms);
                    let terms: Vec<[&str; 1]> = terms.into_iter().map(|term| [term]).collect();
                    let count = query.wanted.hits(&terms).len() as u64;
                    if count == 0 || !needs_places(count) {
                        return Ok((count, Vec::new()));
                    }
                }
                let places = self.terms(again, record)?;
                Ok((places.len() as u64, places))
            }
            Among::Forms | Among::Dropped(_) => {
                let places = self.forms(again, record)?;
                Ok((places.len() as u64, places))
            }
        }
    }

    fn original<'d>(&self, record: &'d Record<'_>) -> Result<std::borrow::Cow<'d, str>, Failure> {
        record.field("text").ok_or_else(|| {
            let instead = match self.query.among {
                Among::Terms => "; --documents lists the documents",
                _ => "",
            };
            Failure::NoOriginals { run: self.run.path.display().to_string(), instead }
        })
    }

    /// The places among the terms, by taking the document through the recipe again.
    fn terms(&self, again: &mut Again<'r>, record: &Record<'_>) -> Result<Vec<FoundPlace>, Failure> {
        let text = self.original(record)?;
        let cleaned = again.document(record, &text)?;
        let tokens: Vec<_> = cleaned.tokens().collect();
        let terms: Vec<[&str; 1]> = tokens.iter().map(|token| [token.term]).collect();
        let place = |words: std::ops::Range<usize>| {
            let tokens = &tokens[words];
            let start = tokens.iter().map(|token| token.span.start).min().unwrap_or(0);
            let end = tokens.iter().map(|token| token.span.end).max().unwrap_or(0);
            FoundPlace {
                token: tokens.iter().map(|token| token.term).collect::<Vec<_>>().join(" "),
                tag: match tokens {
                    [token] => token.tag.map(|tag| tag.code()),
                    _ => None,
                },
                ..FoundPlace::at(&text, Span { start, end })
            }
        };
        Ok(self.query.wanted.hits(&terms).into_iter().map(|hit| place(hit.words)).collect())
    }

    /// The places among the words at the split.
    fn forms(&self, again: &mut Again<'r>, record: &Record<'_>) -> Result<Vec<FoundPlace>, Failure> {
        let text = self.original(record)?;
        let cleaned = again.document(record, &text)?;
        let among = self.query.among;
        let tokens: Vec<_> = cleaned.ends().collect();
        // As it is written in the text, or as the split has it.
        let words: Vec<[&str; 2]> = tokens.iter().map(|token| [token.form, token.span.of(&text)]).collect();
        let mut places = Vec::new();
        for hit in self.query.wanted.hits(&words) {
            let tokens = &tokens[hit.words];
            let dropped = tokens.iter().find_map(|token| match token.fate {
                FormFate::Dropped { step, reason } => Some((step, self.pipeline().reason(step, reason))),
                _ => None,
            });
            if let Among::Dropped(asked) = among
                && dropped.as_ref().is_none_or(|(step, _)| asked.is_some_and(|asked| asked != *step))
            {
                continue;
            }
            let start = tokens.iter().map(|token| token.span.start).min().unwrap_or(0);
            let end = tokens.iter().map(|token| token.span.end).max().unwrap_or(0);
            places.push(FoundPlace {
                token: tokens.iter().map(|token| token.form).collect::<Vec<_>>().join(" "),
                tag: match tokens {
                    [token] => token.tag.map(|tag| tag.code()),
                    _ => None,
                },
                dropped,
                ..FoundPlace::at(&text, Span { start, end })
            });
        }
        Ok(places)
    }
}

impl FoundPlace {
    /// The words of a span with the text around them, white space as single spaces.
    fn at(text: &str, span: Span) -> FoundPlace {
        let (start, end) = (span.start as usize, span.end as usize);
        let from = text[..start].char_indices().rev().nth(CONTEXT - 1).map_or(0, |(at, _)| at);
        let to = text[end..].char_indices().nth(CONTEXT).map_or(text.len(), |(at, _)| end + at);
        FoundPlace {
            span,
            before: one_line(&text[from..start]),
            words: one_line(&text[start..end]),
            after: one_line(&text[end..to]),
            ..FoundPlace::default()
        }
    }
}

/// A text with its white space as single spaces.
fn one_line(text: &str) -> String {
    let mut line = String::with_capacity(text.len());
    let mut spaced = false;
    for c in text.chars() {
        if c.is_whitespace() {
            if !spaced {
                line.push(' ');
            }
            spaced = true;
        } else {
            line.push(c);
            spaced = false;
        }
    }
    line
}

impl Order {
    /// What something is ordered by.
    fn key(&self, found: &Found, number: u64, field: impl Fn(&str) -> String) -> String {
        let place = found.places.first();
        match self {
            Order::Document | Order::Count => String::new(),
            Order::Before => {
                let before = place.map(|place| place.before.to_lowercase()).unwrap_or_default();
                let words: Vec<&str> = before.split_whitespace().rev().collect();
                words.join(" ")
            }
            Order::After => place.map(|place| place.after.trim_start().to_lowercase()).unwrap_or_default(),
            Order::Field(path) => field(path),
            Order::Chance(seed) => format!("{:016x}", lot(*seed, found.order, number)),
        }
    }
}

/// The lot of a place in a document: places are as likely as each other to have one of the smallest.
fn lot(seed: u64, order: u64, place: u64) -> u64 {
    let mut bytes = [0; 24];
    bytes[..8].copy_from_slice(&seed.to_le_bytes());
    bytes[8..16].copy_from_slice(&order.to_le_bytes());
    bytes[16..].copy_from_slice(&place.to_le_bytes());
    yarrup_io::short_hash(&bytes)
}

/// The smallest lots of a batch.
#[derive(Debug, Default)]
struct Lots(BinaryHeap<u64>);

impl Lots {
    /// Whether a lot is among the smallest so far, of which there are at most so many.
    fn draw(&mut self, lot: u64, most: usize) -> bool {
        if self.0.len() >= most && self.0.peek().is_none_or(|largest| lot >= *largest) {
            return false;
        }
        self.0.push(lot);
        if self.0.len() > most {
            self.0.pop();
        }
        true
    }
}

impl Kept {
    /// Leaves the first ones in order. Unless it is `final_cut`, only once there are many more.
    pub(super) fn cut(&self, found: &mut Vec<Found>, final_cut: bool) {
        if !final_cut && (self.most == usize::MAX || found.len() < 2 * self.most + 1_000) {
            return;
        }
        let by_place = |a: &Found, b: &Found| {
            let start = |found: &Found| found.places.first().map_or(0, |place| place.span.start);
            (a.order, start(a)).cmp(&(b.order, start(b)))
        };
        found.sort_by(|a, b| match &self.order {
            Order::Count => b.count.cmp(&a.count).then(by_place(a, b)),
            // Numbers among values by their size.
            Order::Field(_) => match (a.key.parse::<f64>(), b.key.parse::<f64>()) {
                (Ok(one), Ok(other)) => one.total_cmp(&other),
                _ => a.key.cmp(&b.key),
            }
            .then(by_place(a, b)),
            _ => a.key.cmp(&b.key).then(by_place(a, b)),
        });
        found.truncate(self.most);
        if final_cut && matches!(self.order, Order::Chance(_)) {
            found.sort_by(by_place);
        }
    }
}

/// Takes what the batches leave behind.
pub(super) struct Taking<'r> {
    pub(super) query: &'r Query,
    pub(super) enough: &'r AtomicUsize,
    pub(super) found: Vec<Found>,
    pub(super) counts: Counts,
    pub(super) progress: Progress,
}

impl Sink<Left> for Taking<'_> {
    type Error = Failure;

    fn left(&mut self, left: Left) -> Result<ControlFlow<()>, Failure> {
        if let Some(fault) = left.fault {
            return Err(fault);
        }
        let (counts, kept) = (&mut self.counts, &self.query.kept);
        counts.places += left.counts.places;
        counts.documents += left.counts.documents;
        for (value, (places, documents)) in left.counts.by {
            let sum = counts.by.entry(value).or_default();
            sum.0 += places;
            sum.1 += documents;
        }
        counts.has.resize(counts.has.len().max(left.counts.has.len()), false);
        for (has, other) in counts.has.iter_mut().zip(left.counts.has) {
            *has |= other;
        }
        self.found.extend(left.found);
        if kept.order == Order::Document {
            self.found.truncate(kept.most);
        } else {
            kept.cut(&mut self.found, false);
        }
        self.enough.store(self.found.len(), Ordering::Relaxed);
        let is_enough = self.query.stops_early && self.found.len() >= kept.most;
        Ok(if is_enough { ControlFlow::Break(()) } else { ControlFlow::Continue(()) })
    }

    fn batch_done(&mut self, batch: BatchDone, _so_far: &Summary) -> Result<(), Failure> {
        self.progress.advance(batch.bytes);
        Ok(())
    }
}
