//! What a recipe has to learn from the whole collection before it can run: lines that many documents repeat, words that most hold,
//! phrases, the terms within limits.

use hashbrown::HashMap;
use hashbrown::hash_map::Entry;

use crate::account::Account;
use crate::pipeline::{Fields, Pipeline};
use crate::run::worker::{Outputs, Worker};
use crate::step::{Learned, Matches, Place, Text, TokenLearner};
use crate::steps::text::learnable;

/// The first step of a pipeline that has something to learn.
pub struct ToLearn<'p> {
    pipeline: &'p Pipeline,
    place: ToLearnAt,
}

enum ToLearnAt {
    /// The index among the text steps, and in how many documents a line must stand.
    Lines(usize, u64),
    /// The index among the token steps, and the pipeline before the step.
    Tokens(usize, Box<Pipeline>),
}

impl<'p> ToLearn<'p> {
    /// The first step that has to learn; none if nothing has to be learned.
    pub fn first(pipeline: &'p Pipeline) -> Option<ToLearn<'p>> {
        let mut lines = pipeline.text.iter().enumerate();
        if let Some((place, least)) = lines.find_map(|(place, stage)| Some((place, stage.runs.learns()?))) {
            return Some(ToLearn { pipeline, place: ToLearnAt::Lines(place, least) });
        }
        let place = pipeline.tokens.iter().position(|stage| stage.runs.learner().is_some())?;
        Some(ToLearn { pipeline, place: ToLearnAt::Tokens(place, Box::new(pipeline.before(place))) })
    }

    /// The number of the step that learns.
    pub fn step(&self) -> usize {
        let index = match &self.place {
            ToLearnAt::Lines(place, _) => self.pipeline.text[*place].step,
            ToLearnAt::Tokens(place, _) => self.pipeline.tokens[*place].step,
        };
        self.pipeline.steps()[index].number
    }

    /// What learns for the step. It must be shown every document once, in any order.
    pub fn learner(&self) -> Learner<'_> {
        match &self.place {
            ToLearnAt::Lines(place, least) => Learner::Lines(LineLearner {
                pipeline: self.pipeline,
                place: *place,
                least: *least,
                text: Text::new(false),
                lines: HashMap::default(),
                document: 0,
            }),
            ToLearnAt::Tokens(place, before) => {
                let learner = self.pipeline.tokens[*place].runs.learner();
                let needs_order = learner.as_ref().is_some_and(|learner| learner.needs_order());
                let outputs = Outputs { clean: false, tokens: needs_order };
                Learner::Tokens(Box::new(TermLearner {
                    before,
                    worker: Worker::new(before, outputs),
                    learner,
                    needs_order,
                }))
            }
        }
    }
}

/// Learns for one step. It must be shown every document once, in any order.
pub enum Learner<'p> {
    /// For a step that drops repeated lines.
    Lines(LineLearner<'p>),
    /// For a step behind the split.
    Tokens(Box<TermLearner<'p>>),
}

impl Learner<'_> {
    /// Looks at a document as it is before the step.
    pub fn document(&mut self, original: &str, fields: &dyn Fields) {
        match self {
            Learner::Lines(learner) => learner.document(original, fields),
            Learner::Tokens(learner) => learner.document(original, fields),
        }
    }

    /// What was learned, in the order in which it is told.
    pub fn learned(self) -> Vec<Learned> {
        match self {
            Learner::Lines(learner) => learner.learned(),
            Learner::Tokens(learner) => learner.learned(),
        }
    }
}

/// Learns for a step behind the split, from the terms that arrive there.
pub struct TermLearner<'p> {
    before: &'p Pipeline,
    worker: Worker<'p>,
    learner: Option<Box<dyn TokenLearner + 'p>>,
    needs_order: bool,
}

impl TermLearner<'_> {
    fn document(&mut self, original: &str, fields: &dyn Fields) {
        let cleaned = self.worker.document(original, fields);
        if !self.needs_order {
            return;
        }
        let mut end = 0;
        let places: Vec<Place<'_>> = cleaned
            .tokens()
            .map(|token| {
                let gap = original.get(end..token.span.start as usize).unwrap_or_default();
                end = token.span.end as usize;
                // What was dropped between two tokens parts them only where it was a mark; a stop word leaves its neighbours together.
                let begins =
                    gap.contains("\n\n") || gap.contains(['.', '!', '?', ';', ':', ',', '(', ')', '"']);
                Place { text: token.term, tag: token.tag, labels: token.labels, begins, spared: false }
            })
            .collect();
        if let Some(learner) = &mut self.learner {
            learner.document(&places);
        }
    }

    fn learned(self) -> Vec<Learned> {
        let ledger = self.worker.into_ledger();
        let account = Account::new(&ledger, self.before);
        let documents = account.totals().documents;
        self.learner.map_or(Vec::new(), |learner| learner.learned(&mut account.vocabulary(), documents))
    }
}

/// Learns which lines many documents repeat.
pub struct LineLearner<'p> {
    pipeline: &'p Pipeline,
    place: usize,
    least: u64,
    text: Text,
    lines: HashMap<u64, Line, foldhash::fast::RandomState>,
    document: u64,
}

/// A line by the hash of its text. The text is kept from the second document on: most lines stand in one.
struct Line {
    documents: u64,
    count: u64,
    last: u64,
    text: Option<Box<str>>,
}

impl LineLearner<'_> {
    fn document(&mut self, original: &str, fields: &dyn Fields) {
        let variant = self.pipeline.variant(original, fields);
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
                    new.insert(Line { documents: 1, count: 1, last: self.document, text: None });
                }
                Entry::Occupied(mut known) => {
                    let known = known.get_mut();
                    known.count += 1;
                    if known.last != self.document {
                        known.last = self.document;
                        known.documents += 1;
                        known.text.get_or_insert_with(|| line.into());
                    }
                }
            }
        }
    }

    /// The lines to drop, in the order of their bytes.
    fn learned(self) -> Vec<Learned> {
        let repeated = self.lines.into_values().filter(|line| line.documents >= self.least);
        let mut learned: Vec<Learned> = repeated
            .filter_map(|line| {
                let text = String::from(line.text?);
                Some(Learned { text, to: None, count: line.count, documents: line.documents, score: None })
            })
            .collect();
        learned.sort_unstable_by(|a, b| a.text.cmp(&b.text));
        learned
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
    use crate::testing;

    #[test]
    fn lines_of_many_documents_are_learned() {
        let pipeline =
            testing::pipeline("[[step]]\ndo = \"case\"\n[[step]]\ndo = \"lines\"\nrepeated_in = 2\n");
        let to_learn = ToLearn::first(&pipeline).expect("something to learn");
        let mut learner = to_learn.learner();
        for text in ["Gull Hide\none\none\n\n", "two\n  GULL HIDE \n\n", "three\n-- \n", "--\nfour"] {
            learner.document(text, &NoFields);
        }
        let lines: Vec<String> = learner.learned().into_iter().map(|learned| learned.text).collect();
        assert_eq!((to_learn.step(), lines), (2, vec!["--".to_owned(), "gull hide".to_owned()]));
        let known = testing::pipeline("[[step]]\ndo = \"lines\"\nrepeated_in = 2\nknown = [\"--\"]\n");
        assert!(ToLearn::first(&known).is_none());
    }

    fn learn(recipe: &str, texts: &[&str]) -> Vec<(String, u64, u64)> {
        let pipeline = testing::pipeline(recipe);
        let to_learn = ToLearn::first(&pipeline).expect("something to learn");
        let mut learner = to_learn.learner();
        texts.iter().for_each(|text| learner.document(text, &NoFields));
        learner
            .learned()
            .into_iter()
            .map(|learned| (learned.text, learned.count, learned.documents))
            .collect()
    }

    #[test]
    fn common_words_and_terms_within_limits_are_learned() {
        let texts = ["the tern and the egg", "the gull", "the tern"];
        let share = "[[step]]\ndo = \"stopwords\"\nshare = 0.9\n";
        assert_eq!(learn(share, &texts), [("the".to_owned(), 4, 3)]);
        let top = "[[step]]\ndo = \"stopwords\"\ntop = 2\n";
        assert_eq!(learn(top, &texts), [("the".to_owned(), 4, 3), ("tern".to_owned(), 2, 2)]);
        let limit = "[[step]]\ndo = \"limit\"\nmin_documents = 2\nmax_document_share = 0.7\n";
        assert_eq!(learn(limit, &texts), [("tern".to_owned(), 2, 2)]);
    }

    #[test]
    fn phrases_are_learned_with_stop_words_inside_alone() {
        let text = "The marsh harrier of the lagoon saw a marsh harrier. Bird of prey, a bird of prey; the bird of prey sat.";
        let recipe = "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"phrases\"\nlearn = true\nmin_count = 2\n";
        let learned = learn(recipe, &[text]);
        let phrases: Vec<&str> = learned.iter().map(|(phrase, ..)| phrase.as_str()).collect();
        assert!(phrases.contains(&"marsh harrier") && phrases.contains(&"bird of prey"), "{phrases:?}");
        assert!(
            !phrases.iter().any(|phrase| phrase.starts_with("of ") || phrase.ends_with(" of")),
            "{phrases:?}"
        );
    }

    #[test]
    fn the_commonest_word_of_a_stem_is_learned() {
        let recipe = "[[step]]\ndo = \"stem\"\nshow = \"commonest\"\n";
        let pipeline = testing::pipeline(recipe);
        let to_learn = ToLearn::first(&pipeline).expect("something to learn");
        let mut learner = to_learn.learner();
        learner.document("nesting nesting nests nest tern", &NoFields);
        let pairs: Vec<_> = learner.learned().into_iter().map(|learned| (learned.text, learned.to)).collect();
        assert_eq!(pairs, [("nest".to_owned(), Some("nesting".to_owned()))]);
    }
}
