//! What the tests of the steps share: a recipe as text, run on one text.

use crate::pipeline::{NoFiles, Pipeline};
use crate::recipe::read;
use crate::run::{Outputs, Worker};
use crate::step::NoFields;

pub(crate) fn pipeline(recipe: &str) -> Pipeline {
    let recipe = read(recipe).unwrap_or_else(|faults| panic!("{faults:?}"));
    Pipeline::compile(&recipe, &NoFiles).unwrap_or_else(|faults| panic!("{faults:?}"))
}

/// What the recipe makes of `text`.
pub(crate) fn clean(recipe: &str, text: &str) -> String {
    let pipeline = pipeline(recipe);
    let mut worker = Worker::new(&pipeline, Outputs { clean: true, tokens: false, ends: false });
    worker.document(text, &NoFields).clean.to_owned()
}
