//! How the entries of word lists arrive at a step.

use crate::pipeline::{Pipeline, TokenWork, Variant};
use crate::run::passage::{Observer, Passage, Tokens, gaps};
use crate::span::Span;
use crate::step::{Arrival, Arrivals, ArrivedToken, Document, Gap, Matches, NoFields, Text};

/// The steps before a step, for its word lists.
pub(super) struct Route {
    before: Pipeline,
}

impl Route {
    /// The way past these steps. Those that decide about documents have no say in it: an entry is none.
    pub(super) fn new(mut before: Pipeline) -> Route {
        before.tokens.retain(|stage| !matches!(stage.work, TokenWork::Document(_)));
        Route { before }
    }

    /// The sorts of documents that entries are taken for: those for which no condition holds, one alone, or all.
    fn variants(&self) -> Vec<Variant> {
        let count = self.before.conditions.len();
        let mut bits: Vec<u64> = (0..count).map(|bit| 1 << bit).collect();
        bits.extend([0, self.before.full_variant().bits()]);
        bits.sort_unstable();
        bits.dedup();
        bits.into_iter().map(Variant::of_bits).collect()
    }
}

impl Arrivals for Route {
    fn of(&self, entries: &[&str]) -> Vec<Vec<Arrival>> {
        let mut passage = Passage::to_step(&self.before, self.before.tokens.len());
        let variants = self.variants();
        let mut arrive = |entry: &&str| {
            let mut arrivals = Vec::new();
            for &variant in &variants {
                for text in settings_of(entry.trim()) {
                    let arrival = arrival(&mut passage, &self.before, variant, &text, entry.trim().len());
                    if let Some(arrival) = arrival.filter(|arrival| !arrivals.contains(arrival)) {
                        arrivals.push(arrival);
                    }
                }
            }
            arrivals
        };
        entries.iter().map(&mut arrive).collect()
    }
}

/// The texts in which an entry is split: alone, and where it ends with a full stop without it and before a word, since only there an abbreviation
/// keeps its stop.
fn settings_of(entry: &str) -> Vec<String> {
    match entry.strip_suffix('.') {
        Some(bare) if !bare.ends_with('.') => {
            vec![bare.to_owned(), entry.to_owned(), format!("{entry} and")]
        }
        _ => vec![entry.to_owned()],
    }
}

/// The observer that has nothing to tell: the tokens that are left are looked at behind all steps.
struct Nothing;

impl Observer for Nothing {
    type Tally = ();
}

/// How the part of `text` before `end` arrives in documents of a variant; none if its first or last word does not.
fn arrival(
    passage: &mut Passage<'_, ()>,
    before: &Pipeline,
    variant: Variant,
    text: &str,
    end: usize,
) -> Option<Arrival> {
    let mut rewritten = Text::new(true);
    rewritten.begin();
    for stage in before.text.iter().filter(|stage| stage.works_on(variant)) {
        stage.apply(&mut rewritten, text, &mut Matches::default());
    }
    let now = rewritten.as_str(text);
    let mut spans: Vec<Span> = Vec::new();
    before.splitter.split(now, &mut spans);
    spans.retain(|span| rewritten.alignment().original(span.start as usize..span.end as usize).start < end);
    let numbers: Vec<u32> = spans.iter().map(|span| passage.spellings.number(span.of(now))).collect();
    let mut between = Vec::new();
    gaps(now, &spans, &mut between);
    let document = Document { text, fields: &NoFields, order: 0 };
    let tokens =
        Tokens { variant, numbers: &numbers, gaps: &between, tokens_before: spans.len() as u64, document };
    passage.document(&tokens, &mut Nothing);
    // The words that must still be there; marks at the ends may go.
    let is_word = |span: &Span| Gap::of_token(span.of(now)) == Gap::Words;
    let words = (spans.iter().position(is_word)?, spans.iter().rposition(is_word)?);
    let (first, last) = passage.reach()?;
    if first as usize > words.0 || (last as usize) < words.1 {
        return None;
    }
    let arrived = passage.arrived(None, &tokens);
    let token = |(place, token): (usize, &crate::step::Place<'_>)| ArrivedToken {
        text: token.text().to_owned(),
        gap: if place == 0 { Gap::None } else { token.gap },
    };
    let mut arrival: Arrival = arrived.iter().enumerate().map(token).collect();
    // A stop that is a token of its own is left to the sentence.
    if text.ends_with('.') && arrival.len() > 1 && arrival.last().is_some_and(|token| token.text == ".") {
        arrival.pop();
    }
    Some(arrival)
}
