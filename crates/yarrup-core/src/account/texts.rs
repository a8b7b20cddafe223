//! Distinct texts in the order of their bytes.

use serde::{Deserialize, Serialize};

use crate::account::NO_TEXT;

/// Distinct texts, numbered from 0 in the order of their bytes: comparing two numbers compares the texts.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(try_from = "Flat", into = "Flat")]
pub struct Texts {
    /// All texts, one behind the other.
    arena: String,
    /// Where each ends.
    ends: Vec<usize>,
}

/// What becomes of the numbers of texts that are put in order.
#[derive(Debug)]
pub(super) struct Renumbering {
    /// By number before: the number now.
    pub(super) numbers: Vec<u32>,
    /// By number now: the number before.
    pub(super) order: Vec<u32>,
}

/// The texts as they are written to files.
#[derive(Serialize, Deserialize)]
struct Flat {
    arena: String,
    lengths: Vec<u32>,
}

impl From<Texts> for Flat {
    fn from(texts: Texts) -> Flat {
        let lengths = (0..texts.len() as u32).map(|number| texts.text(number).len() as u32).collect();
        Flat { arena: texts.arena, lengths }
    }
}

impl TryFrom<Flat> for Texts {
    type Error = String;

    fn try_from(flat: Flat) -> Result<Texts, String> {
        let mut ends = Vec::with_capacity(flat.lengths.len());
        let mut end = 0usize;
        for length in flat.lengths {
            end = end.saturating_add(length as usize);
            if !flat.arena.is_char_boundary(end.min(flat.arena.len())) || end > flat.arena.len() {
                return Err("a text ends within a character".to_owned());
            }
            ends.push(end);
        }
        if end != flat.arena.len() {
            return Err("there is more text than its parts take up".to_owned());
        }
        Ok(Texts { arena: flat.arena, ends })
    }
}

impl Texts {
    /// How many there are.
    pub fn len(&self) -> usize {
        self.ends.len()
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.ends.is_empty()
    }

    /// The text with this number.
    ///
    /// # Panics
    ///
    /// If there is none.
    pub fn text(&self, number: u32) -> &str {
        let number = number as usize;
        let start = if number == 0 { 0 } else { self.ends[number - 1] };
        &self.arena[start..self.ends[number]]
    }

    /// The number of a text, if it is among these.
    pub fn number(&self, text: &str) -> Option<u32> {
        let (mut low, mut high) = (0, self.len());
        while low < high {
            let middle = low + (high - low) / 2;
            match self.text(middle as u32).cmp(text) {
                std::cmp::Ordering::Less => low = middle + 1,
                std::cmp::Ordering::Equal => return Some(middle as u32),
                std::cmp::Ordering::Greater => high = middle,
            }
        }
        None
    }

    fn push(&mut self, text: &str) {
        self.arena.push_str(text);
        self.ends.push(self.arena.len());
    }

    /// The `count` distinct texts that `text_of` gives, and for each its number here.
    pub(super) fn sorted<'t>(count: usize, text_of: impl Fn(u32) -> &'t str) -> (Texts, Renumbering) {
        let order = Texts::order(count, &text_of);
        Texts::of_order(order.into_iter(), text_of, count)
    }

    /// The numbers of `count` distinct texts, in the order of their bytes.
    pub(super) fn order<'t>(count: usize, text_of: impl Fn(u32) -> &'t str) -> Vec<u32> {
        // Most comparisons end with the first bytes, without a look at the texts, which lie all over memory.
        let mut order: Vec<(u128, u32)> =
            (0..count as u32).map(|number| (prefix(text_of(number)), number)).collect();
        order.sort_unstable_by(|a, b| a.0.cmp(&b.0).then_with(|| text_of(a.1).cmp(text_of(b.1))));
        order.into_iter().map(|(_, number)| number).collect()
    }

    /// The texts with these of `count` numbers, which are in order.
    pub(super) fn of_order<'t>(
        order: impl Iterator<Item = u32>,
        text_of: impl Fn(u32) -> &'t str,
        count: usize,
    ) -> (Texts, Renumbering) {
        let order: Vec<u32> = order.collect();
        let mut texts = Texts::default();
        texts.ends.reserve_exact(order.len());
        texts.arena.reserve(order.iter().map(|number| text_of(*number).len()).sum());
        let mut numbers = vec![NO_TEXT; count];
        for (ours, theirs) in (0..).zip(&order) {
            texts.push(text_of(*theirs));
            numbers[*theirs as usize] = ours;
        }
        (texts, Renumbering { numbers, order })
    }

    /// The texts of both, and for each of either its number among these.
    pub(super) fn union(&self, other: &Texts) -> (Texts, Vec<u32>, Vec<u32>) {
        let mut all = Texts::default();
        let (mut ours, mut theirs) = (Vec::with_capacity(self.len()), Vec::with_capacity(other.len()));
        while ours.len() < self.len() || theirs.len() < other.len() {
            let number = all.len() as u32;
            let (a, b) = (ours.len() as u32, theirs.len() as u32);
            let order = match (ours.len() < self.len(), theirs.len() < other.len()) {
                (true, true) => self.text(a).cmp(other.text(b)),
                (true, false) => std::cmp::Ordering::Less,
                _ => std::cmp::Ordering::Greater,
            };
            all.push(if order.is_gt() { other.text(b) } else { self.text(a) });
            if order.is_le() {
                ours.push(number);
            }
            if order.is_ge() {
                theirs.push(number);
            }
        }
        (all, ours, theirs)
    }

    /// Whether the texts stand in the order of their bytes, each once.
    pub(super) fn are_sorted(&self) -> bool {
        (1..self.len() as u32).all(|number| self.text(number - 1) < self.text(number))
    }
}

/// The first 16 bytes of a text as a number that sorts as they do.
fn prefix(text: &str) -> u128 {
    let mut first = [0; 16];
    let length = text.len().min(first.len());
    first[..length].copy_from_slice(&text.as_bytes()[..length]);
    u128::from_be_bytes(first)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use std::collections::BTreeSet;

    proptest! {
        #[test]
        fn texts_are_numbered_by_their_bytes(
            a in prop::collection::btree_set("[abé鳥]{0,11}", 0..20),
            b in prop::collection::btree_set("[abé鳥]{0,11}", 0..20),
        ) {
            let made = |set: &BTreeSet<String>| {
                let mut mixed: Vec<&str> = set.iter().map(String::as_str).collect();
                mixed.reverse();
                let (texts, numbers) = Texts::sorted(mixed.len(), |number| mixed[number as usize]);
                for ((text, number), before) in mixed.iter().zip(numbers.numbers).zip(0..) {
                    assert_eq!(numbers.order[number as usize], before);
                    assert_eq!(texts.text(number), *text);
                    assert_eq!(texts.number(text), Some(number));
                }
                texts
            };
            let (one, other) = (made(&a), made(&b));
            prop_assert!(one.are_sorted());
            let (all, ours, theirs) = one.union(&other);
            let expected: Vec<&String> = a.union(&b).collect();
            prop_assert_eq!((0..all.len() as u32).map(|n| all.text(n).to_owned()).collect::<Vec<_>>(),
                expected.into_iter().cloned().collect::<Vec<_>>());
            for (number, text) in (0..).zip(&a) { prop_assert_eq!(all.text(ours[number]), text); }
            for (number, text) in (0..).zip(&b) { prop_assert_eq!(all.text(theirs[number]), text); }
        }
    }
}
