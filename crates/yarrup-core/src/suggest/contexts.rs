//! What stands beside words in the documents of a run.

use hashbrown::HashMap;

use crate::kind::Kind;
use crate::run::EndedToken;
use crate::step::mixed_text_hash;
use crate::suggest::Inquiry;

type State = foldhash::fast::FixedState;

/// The most different neighbours of a word that are kept.
const MOST_NEIGHBOURS: usize = 20_000;

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
    pub(super) fn of(words: usize) -> Contexts {
        Contexts { words: (0..words).map(|_| Context::default()).collect() }
    }

    pub(super) fn document(&mut self, inquiry: &Inquiry<'_>, text: &str, tokens: &[EndedToken<'_>]) {
        if self.words.is_empty() {
            return;
        }
        let small = |token: &EndedToken<'_>| token.form.to_lowercase();
        for (place, token) in tokens.iter().enumerate().filter(|(_, token)| token.kind() == Kind::Word) {
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

    pub(super) fn absorb(&mut self, other: Contexts) {
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
