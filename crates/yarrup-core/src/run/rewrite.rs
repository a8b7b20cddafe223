//! The text steps on one text after the other.

use crate::pipeline::{Pipeline, TextStage, Variant};
use crate::step::{Fields, Matches, Text};

/// Takes texts through the text steps of a pipeline alone.
pub struct TextRewriter<'p> {
    pipeline: &'p Pipeline,
    text: Text,
    matched: Vec<Matches>,
}

impl Pipeline {
    /// What takes texts through the text steps alone, and counts nothing but what they match.
    ///
    /// ```
    /// use yarrup_core::{NoFields, NoFiles, Pipeline, recipe};
    ///
    /// let recipe = recipe::read("[[step]]\ndo = \"case\"\n").expect("no mistakes");
    /// let pipeline = Pipeline::compile(&recipe, &NoFiles).expect("it can run");
    /// assert_eq!(pipeline.rewriter().rewrite("Terns", &NoFields), "terns");
    /// ```
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

impl Pipeline {
    /// Tells every match of the text steps in a document: the number of the step, the name of its sort, and what stood there.
    pub fn each_match(&self, original: &str, fields: &dyn Fields, visit: &mut dyn FnMut(usize, &str, &str)) {
        self.each_found(original, fields, &mut |stage, sort, found| {
            let sorts = stage.runs.sorts();
            visit(self.steps()[stage.step].number, sorts.get(sort).map_or("", String::as_str), found);
        });
    }

    /// Tells every value in a document that a step gives a placeholder of its own: the placeholder, the name of the sort, and the value as it
    /// stood there.
    pub fn each_pseudonym(
        &self,
        original: &str,
        fields: &dyn Fields,
        visit: &mut dyn FnMut(&str, &str, &str),
    ) {
        self.each_found(original, fields, &mut |stage, sort, found| {
            if let Some(placeholder) = stage.runs.placeholder_of(sort, found) {
                let sorts = stage.runs.sorts();
                visit(&placeholder, sorts.get(sort).map_or("", String::as_str), found);
            }
        });
    }

    /// Whether a step gives values placeholders of their own.
    pub fn has_pseudonyms(&self) -> bool {
        self.text.iter().any(|stage| stage.runs.has_pseudonyms())
    }

    fn each_found(
        &self,
        original: &str,
        fields: &dyn Fields,
        visit: &mut dyn FnMut(&TextStage, usize, &str),
    ) {
        let variant = self.variant(original, fields);
        let mut text = Text::new(false);
        text.begin();
        for stage in self.text.iter().filter(|stage| stage.works_on(variant)) {
            let mut matched = Matches::keeping_all();
            stage.apply(&mut text, original, &mut matched);
            matched.all().iter().for_each(|(sort, found)| visit(stage, *sort, found));
        }
    }
}
