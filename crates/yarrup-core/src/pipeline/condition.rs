//! Which steps work on a document: the conditions of a recipe, and the variants of documents by which of them hold.

use std::borrow::Cow;

use crate::condition::LANGUAGE;
use crate::language::language_of;
use crate::pipeline::Pipeline;
use crate::step::{Condition, Fields};

/// Which conditions of a recipe hold for a document, a bit for each. Documents of the same variant meet the same steps.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Variant(u64);

impl Variant {
    pub(super) fn meets(self, condition: Option<usize>) -> bool {
        condition.is_none_or(|bit| self.0 >> bit & 1 == 1)
    }

    /// The variant of documents for which the conditions hold whose bits are set.
    pub(crate) fn of_bits(bits: u64) -> Variant {
        Variant(bits)
    }

    /// The bits of the conditions that hold.
    pub(crate) fn bits(self) -> u64 {
        self.0
    }
}

impl Pipeline {
    /// The variant of a document with this text and these fields. A condition on the field `language` goes by the language of the text
    /// where the document has no such field.
    pub fn variant(&self, text: &str, fields: &dyn Fields) -> Variant {
        let mut detected = None;
        let mut field = |path: &str| match fields.field(path) {
            None if path == LANGUAGE => detected.get_or_insert_with(|| language_of(text)).map(Cow::Borrowed),
            found => found,
        };
        let mut holds = |condition: &Condition| condition.holds(&mut field);
        let bits = self.conditions.iter().enumerate().filter(|(_, condition)| holds(condition));
        Variant(bits.fold(0, |mask, (bit, _)| mask | 1 << bit))
    }

    /// The variant of a document for which every condition holds.
    pub fn full_variant(&self) -> Variant {
        Variant((0..self.conditions.len()).fold(0, |mask, bit| mask | 1 << bit))
    }
}

impl Pipeline {
    /// Whether no document meets the conditions of both of these steps, told by the indices of their names: each asks for other values of one
    /// field.
    pub(crate) fn are_apart(&self, one: usize, other: usize) -> bool {
        let (Some(one), Some(other)) = (self.condition_of(one), self.condition_of(other)) else {
            return false;
        };
        one.excludes(other)
    }

    fn condition_of(&self, step: usize) -> Option<&Condition> {
        let text = self.text.iter().find(|stage| stage.step == step).map(|stage| stage.condition);
        let token = self.tokens.iter().find(|stage| stage.step == step).map(|stage| stage.condition);
        self.conditions.get(text.or(token)??)
    }
}
