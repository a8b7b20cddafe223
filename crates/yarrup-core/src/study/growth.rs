//! How the vocabulary grows with the text.

use foldhash::fast::FixedState;
use hashbrown::HashSet;
use serde::{Deserialize, Serialize};

/// The first tokens of their terms in a part of the text.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Firsts {
    /// How many tokens the part has.
    tokens: u64,
    /// Of each term, the place of its first token among those of the part, and a hash of its text.
    firsts: Vec<(u64, u64)>,
}

impl Firsts {
    /// Notes the next token, with a hash of its text if it is the first of its term in this part.
    pub fn note(&mut self, first: Option<u64>) {
        if let Some(hash) = first {
            self.firsts.push((self.tokens, hash));
        }
        self.tokens += 1;
    }
}

/// How many terms there are after so many tokens, part by part in the order of the text. Terms are told apart by 64 bits.
#[derive(Debug, Default)]
pub struct Growth {
    seen: HashSet<u64, FixedState>,
    tokens: u64,
    next: u64,
    points: Vec<(u64, u64)>,
}

/// How much more text there is at one point than at the one before, at least.
const STEP: f64 = 1.02;

impl Growth {
    /// Adds the next part, and takes out of it the terms that came before: where it is added to the same or to more, it comes to the same without them.
    pub fn add(&mut self, part: &mut Firsts) {
        let Growth { seen, .. } = self;
        part.firsts.retain(|(_, hash)| seen.insert(*hash));
        let new = part.firsts.len();
        let mut known = self.seen.len() - new;
        for (place, _) in &part.firsts {
            self.points_up_to(self.tokens + place, known);
            known += 1;
        }
        self.tokens += part.tokens;
        self.points_up_to(self.tokens, known);
    }

    fn points_up_to(&mut self, tokens: u64, terms: usize) {
        if self.next == 0 {
            self.next = 1;
        }
        while self.next <= tokens {
            self.points.push((self.next, terms as u64));
            self.next = ((self.next as f64 * STEP) as u64).max(self.next + 1);
        }
    }

    /// Numbers of tokens with the numbers of distinct terms among the first so many, up to all of them.
    ///
    /// ```
    /// use yarrup_core::study::{Firsts, Growth};
    ///
    /// let mut part = Firsts::default();
    /// for first in [Some(1), Some(2), None, Some(3)] {
    ///     part.note(first);
    /// }
    /// let mut growth = Growth::default();
    /// growth.add(&mut part);
    /// assert_eq!(growth.points(), [(1, 1), (2, 2), (3, 2), (4, 3)]);
    /// ```
    pub fn points(mut self) -> Vec<(u64, u64)> {
        if self.points.last().is_some_and(|(tokens, _)| *tokens < self.tokens) {
            self.points.push((self.tokens, self.seen.len() as u64));
        }
        self.points
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use std::collections::HashSet as Set;

    proptest! {
        #[test]
        fn growth_is_that_of_the_whole_text(
            parts in prop::collection::vec(prop::collection::vec(0u64..40, 0..60), 0..6),
        ) {
            let (mut growth, mut thinned) = (Growth::default(), Vec::new());
            for part in &parts {
                let (mut firsts, mut seen) = (Firsts::default(), Set::new());
                part.iter().for_each(|word| firsts.note(seen.insert(*word).then_some(*word)));
                growth.add(&mut firsts);
                thinned.push(firsts);
            }
            // What is left of the parts comes to the same once more.
            let mut again = Growth::default();
            thinned.iter_mut().for_each(|firsts| again.add(firsts));
            let words: Vec<u64> = parts.concat();
            let points = growth.points();
            prop_assert_eq!(&points, &again.points());
            prop_assert_eq!(points.last().map(|point| point.0), (!words.is_empty()).then_some(words.len() as u64));
            for (tokens, types) in points {
                prop_assert_eq!(words[..tokens as usize].iter().collect::<Set<_>>().len() as u64, types);
            }
        }
    }
}
