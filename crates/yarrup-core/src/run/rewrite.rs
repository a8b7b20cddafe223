//! The text steps on one text after the other.

use crate::pipeline::{Pipeline, Variant};
use crate::step::{Fields, Matches, Text};

/// Takes texts through the text steps of a pipeline alone.
pub struct TextRewriter<'p> {
    pipeline: &'p Pipeline,
    text: Text,
    matched: Vec<Matches>,
}

impl Pipeline {
    /// What takes texts through the text steps alone, and counts nothing but what they match.
    pub fn rewriter(&self) -> TextRewriter<'_> {
        self.rewriter_to(self.text.len())
    }

    /// As [`Pipeline::rewriter`], for the first `steps` text steps.
    pub(crate) fn rewriter_to(&self, steps: usize) -> TextRewriter<'_> {
        TextRewriter { pipeline: self, text: Text::new(false), matched: vec![Matches::default(); steps] }
    }
}

impl TextRewriter<'_> {
    /// What the text steps make of a text. A text that none of them changes is given back as it is.
    pub fn rewrite<'t>(&'t mut self, original: &'t str, fields: &dyn Fields) -> &'t str {
        let variant = self.pipeline.variant(original, fields);
        self.rewrite_as(original, variant)
    }

    /// As [`TextRewriter::rewrite`], for a document of this variant.
    pub(crate) fn rewrite_as<'t>(&'t mut self, original: &'t str, variant: Variant) -> &'t str {
        self.text.begin();
        for (stage, matched) in self.pipeline.text.iter().zip(&mut self.matched) {
            if stage.works_on(variant) {
                stage.apply(&mut self.text, original, matched);
            }
        }
        self.text.as_str(original)
    }
}
