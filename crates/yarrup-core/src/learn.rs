//! What a recipe has to learn from the whole collection before it can run: lines that many documents repeat.

use hashbrown::HashMap;
use hashbrown::hash_map::Entry;

use crate::pipeline::{Fields, Pipeline};
use crate::text::{Matches, Text, learnable};

/// Learns for the first step of a pipeline that has something to learn. It must be shown every document once, in any order.
pub struct Learner<'p> {
    pipeline: &'p Pipeline,
    /// The place of the step among the text steps, and in how many documents a line must stand.
    place: usize,
    least: u64,
    text: Text,
    lines: HashMap<u64, Line, foldhash::fast::RandomState>,
    document: u64,
}

/// A line by the hash of its text. The text is kept from the second document on: most lines stand in one.
struct Line {
    documents: u64,
    last: u64,
    text: Option<Box<str>>,
}

impl<'p> Learner<'p> {
    /// A learner for `pipeline`; none if nothing has to be learned.
    pub fn new(pipeline: &'p Pipeline) -> Option<Learner<'p>> {
        let (place, least) = pipeline
            .text
            .iter()
            .enumerate()
            .find_map(|(place, stage)| Some((place, stage.runs.learns()?)))?;
        let (text, lines) = (Text::new(false), HashMap::default());
        Some(Learner { pipeline, place, least, text, lines, document: 0 })
    }

    /// Looks at a document as it is before the step.
    pub fn document(&mut self, original: &str, fields: &dyn Fields) {
        let variant = self.pipeline.variant(fields);
        self.document += 1;
        if !self.pipeline.text[self.place].works_on(variant) {
            return;
        }
        self.text.begin();
        for stage in self.pipeline.text[..self.place].iter().filter(|stage| stage.works_on(variant)) {
            stage.apply(&mut self.text, original, &mut Matches::default());
        }
        for line in learnable(self.text.as_str(original)) {
            match self.lines.entry(hash(line)) {
                Entry::Vacant(new) => {
                    new.insert(Line { documents: 1, last: self.document, text: None });
                }
                Entry::Occupied(mut known) => {
                    let known = known.get_mut();
                    if known.last != self.document {
                        known.last = self.document;
                        known.documents += 1;
                        known.text.get_or_insert_with(|| line.into());
                    }
                }
            }
        }
    }

    /// The number of the step that learns.
    pub fn step(&self) -> usize {
        self.pipeline.steps()[self.pipeline.text[self.place].step].number
    }

    /// The number of the step that learns, and the lines that it has to drop, in the order of their bytes.
    pub fn learned(self) -> (usize, Vec<String>) {
        let number = self.step();
        let repeated = self.lines.into_values().filter(|line| line.documents >= self.least);
        let mut lines: Vec<String> = repeated.filter_map(|line| line.text).map(String::from).collect();
        lines.sort_unstable();
        (number, lines)
    }
}

/// A hash that mixes eight bytes at a time by multiplication: nobody can gain by two lines that share one.
fn hash(line: &str) -> u64 {
    let mix = |hash: u64, word: u64| (hash ^ word).wrapping_mul(0x9e37_79b9_7f4a_7c15).rotate_left(29);
    let mut chunks = line.as_bytes().chunks_exact(8);
    let mut hash = chunks
        .by_ref()
        .fold(line.len() as u64, |hash, chunk| mix(hash, chunk.try_into().map_or(0, u64::from_le_bytes)));
    for &byte in chunks.remainder() {
        hash = mix(hash, u64::from(byte));
    }
    mix(hash, 0xff)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::pipeline::NoFields;
    use crate::recipe::testing;

    #[test]
    fn lines_of_many_documents_are_learned() {
        let pipeline =
            testing::pipeline("[[step]]\ndo = \"case\"\n[[step]]\ndo = \"lines\"\nrepeated_in = 2\n");
        let mut learner = Learner::new(&pipeline).expect("something to learn");
        for text in ["Gull Hide\none\none\n\n", "two\n  GULL HIDE \n\n", "three\n-- \n", "--\nfour"] {
            learner.document(text, &NoFields);
        }
        assert_eq!(learner.learned(), (2, vec!["--".to_owned(), "gull hide".to_owned()]));
        let known = testing::pipeline("[[step]]\ndo = \"lines\"\nrepeated_in = 2\nknown = [\"--\"]\n");
        assert!(Learner::new(&known).is_none());
    }
}
