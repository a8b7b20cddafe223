//! What a recipe has to learn from the whole collection before it can run: lines that many documents repeat, words that most hold, phrases, the
//! terms within limits.

use std::sync::Arc;

use serde::{Deserialize, Serialize};

use crate::account::Account;
use crate::pipeline::{Pipeline, TokenWork};
use crate::run::{Outputs, TextRewriter, Worker};
use crate::seen::Seen;
use crate::step::{
    Copies, Document, Facts, Learned, Learner, Place, Sequence, SequenceStep, SequenceWork, Shown,
};

/// The steps of a pipeline that learn in the next pass over the collection: the first that has something to learn, and those behind it that work
/// on none of its documents and so need not wait for it.
pub struct ToLearn<'p> {
    pipeline: &'p Pipeline,
    ways: Vec<WayTo>,
}

/// The way to a step that learns.
struct WayTo {
    place: PlaceOfStep,
    /// The steps before it; for one that learns from the vocabulary, with what it spares dropped in its place if it spares anything, so that it
    /// learns nothing from that.
    pipeline: Pipeline,
    drops_spared: bool,
}

impl WayTo {
    fn new(place: PlaceOfStep, pipeline: &Pipeline) -> WayTo {
        let mut pipeline = pipeline.clone();
        let shown = place.learner(&pipeline).map(|learner| learner.shown());
        let mut drops_spared = false;
        if let (PlaceOfStep::Token(index), Some(Shown::Vocabulary)) = (place, shown) {
            drops_spared = !pipeline.tokens[index].spare.is_empty();
            if drops_spared {
                pipeline.tokens[index].work = TokenWork::Sequence(Arc::new(DropSpared));
            }
        }
        WayTo { place, pipeline, drops_spared }
    }
}

/// A step among those of its side of the split.
#[derive(Clone, Copy)]
enum PlaceOfStep {
    Text(usize),
    Token(usize),
}

impl PlaceOfStep {
    /// The index of the step's name.
    fn step(self, pipeline: &Pipeline) -> usize {
        match self {
            PlaceOfStep::Text(index) => pipeline.text[index].step,
            PlaceOfStep::Token(index) => pipeline.tokens[index].step,
        }
    }

    fn learner(self, pipeline: &Pipeline) -> Option<Box<dyn Learner>> {
        match self {
            PlaceOfStep::Text(index) => pipeline.text[index].runs.learner(),
            PlaceOfStep::Token(index) => pipeline.tokens[index].facts().learner(),
        }
    }
}

impl<'p> ToLearn<'p> {
    /// What is to be learned next; none if nothing is left to learn.
    ///
    /// ```
    /// use yarrup_core::step::{Document, NoFields};
    /// use yarrup_core::{NoFiles, Pipeline, ToLearn, recipe};
    ///
    /// let recipe = recipe::read("[[step]]\ndo = \"stopwords\"\nshare = 1.0\n").expect("no mistakes");
    /// let pipeline = Pipeline::compile(&recipe, &NoFiles).expect("it can run");
    /// let to_learn = ToLearn::next(&pipeline).expect("words of every document");
    /// let mut learning = to_learn.begin();
    /// for (order, text) in (0..).zip(["the tern", "the gull"]) {
    ///     learning.document(&Document { text, fields: &NoFields, order });
    /// }
    /// assert_eq!(learning.learned()[0].learned[0].text, "the");
    /// ```
    pub fn next(pipeline: &'p Pipeline) -> Option<ToLearn<'p>> {
        let text = (0..pipeline.text.len()).map(PlaceOfStep::Text);
        let tokens = (0..pipeline.tokens.len()).map(PlaceOfStep::Token);
        let mut places: Vec<PlaceOfStep> = Vec::new();
        let mut waiting: Vec<usize> = Vec::new();
        for place in text.chain(tokens).filter(|place| place.learner(pipeline).is_some()) {
            let step = place.step(pipeline);
            if waiting.iter().all(|&earlier| pipeline.are_apart(earlier, step)) {
                places.push(place);
            }
            waiting.push(step);
        }
        let ways: Vec<WayTo> = places.into_iter().map(|place| WayTo::new(place, pipeline)).collect();
        (!ways.is_empty()).then_some(ToLearn { pipeline, ways })
    }

    /// The pipeline whose steps learn.
    pub fn pipeline(&self) -> &'p Pipeline {
        self.pipeline
    }

    /// The numbers of the steps that learn.
    pub fn steps(&self) -> Vec<usize> {
        self.ways.iter().map(|way| self.pipeline.steps()[way.place.step(self.pipeline)].number).collect()
    }

    /// What goes on from what was kept; none if that is not of these steps.
    pub fn resume(&self, kept: Vec<LessonKept>) -> Option<Learning<'_>> {
        let mut lessons = self.begin().lessons;
        if kept.len() != lessons.len() {
            return None;
        }
        for (lesson, kept) in lessons.iter_mut().zip(kept) {
            if kept.step != lesson.step() {
                return None;
            }
            lesson.learner = lesson.learner.that_has(kept.seen)?;
            lesson.is_done = kept.is_done;
            if let Some(account) = kept.account {
                if lesson.learner.shown() != Shown::Vocabulary || !account.is_sound() {
                    return None;
                }
                lesson.before = Before::Counted(Box::new(account));
            }
        }
        Some(Learning { lessons })
    }

    /// What one worker learns with.
    pub fn begin(&self) -> Learning<'_> {
        let begun =
            self.ways.iter().filter_map(|way| Some(Lesson::new(way, way.place.learner(self.pipeline)?)));
        Learning { lessons: begun.collect() }
    }
}

/// Drops what a step spares.
struct DropSpared;

impl Facts for DropSpared {}

impl SequenceStep for DropSpared {
    fn worker(&self) -> Box<dyn SequenceWork + '_> {
        Box::new(DropSpared)
    }
}

impl SequenceWork for DropSpared {
    fn document(&mut self, tokens: &mut Sequence<'_>) {
        let spared = |(place, token): (usize, &Place<'_>)| token.spared.then_some(place);
        let spared: Vec<usize> = tokens.tokens().iter().enumerate().filter_map(spared).collect();
        spared.into_iter().for_each(|place| tokens.drop(place, 0));
    }
}

/// What a step has learned.
#[derive(Clone, Debug, PartialEq)]
pub struct LearnedByStep {
    /// The step's place in the recipe, from 1.
    pub step: usize,
    /// What it learned, in the order in which it is told.
    pub learned: Vec<Learned>,
    /// Which documents repeat others, for a step that asks: see [`Pipeline::knowing`].
    pub copies: Option<Copies>,
}

/// What was seen for a step that learns, to be kept and added to what others have seen: see [`ToLearn::resume`].
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct LessonKept {
    /// The step's place in the recipe, from 1.
    step: usize,
    /// Whether the step needs no further pass over the collection.
    is_done: bool,
    seen: Seen,
    /// What was counted before a step that learns from the vocabulary.
    account: Option<Account>,
}

/// What one worker learns, for one step or several. All workers together must be shown every document once, in any order.
pub struct Learning<'p> {
    lessons: Vec<Lesson<'p>>,
}

impl<'p> Learning<'p> {
    /// Looks at a document.
    pub fn document(&mut self, document: &Document<'_>) {
        for lesson in &mut self.lessons {
            lesson.document(document);
        }
    }

    /// Adds what another worker has learned in the same pass.
    ///
    /// # Panics
    ///
    /// If the other learns for other steps.
    pub fn absorb(&mut self, other: Learning<'p>) {
        assert_eq!(self.lessons.len(), other.lessons.len(), "both learn for the same steps");
        for (ours, theirs) in self.lessons.iter_mut().zip(other.lessons) {
            ours.absorb(theirs);
        }
    }

    /// Begins another pass over the collection, if some step needs one. The steps that do not need it are shown the documents all the same, and
    /// look away.
    pub fn needs_another_pass(&mut self) -> bool {
        let mut any = false;
        for lesson in &mut self.lessons {
            lesson.is_done = !lesson.learner.needs_another_pass();
            any |= !lesson.is_done;
        }
        any
    }

    /// What another worker begins the present pass with.
    pub fn fresh(&self) -> Learning<'p> {
        Learning { lessons: self.lessons.iter().map(Lesson::fresh).collect() }
    }

    /// What was seen for each step, to be kept.
    pub fn kept(self) -> Vec<LessonKept> {
        self.lessons.into_iter().map(Lesson::kept).collect()
    }

    /// What was learned, step by step.
    pub fn learned(self) -> Vec<LearnedByStep> {
        self.lessons.into_iter().map(Lesson::learned).collect()
    }
}

/// Learns for one step.
struct Lesson<'p> {
    way: &'p WayTo,
    learner: Box<dyn Learner>,
    before: Before<'p>,
    is_done: bool,
}

/// What takes documents through the steps before the one that learns.
enum Before<'p> {
    Text(TextRewriter<'p>),
    Tokens(Box<Worker<'p>>),
    /// What workers have counted.
    Counted(Box<Account>),
}

impl<'p> Lesson<'p> {
    fn new(way: &'p WayTo, learner: Box<dyn Learner>) -> Lesson<'p> {
        let pipeline = &way.pipeline;
        let before = match way.place {
            PlaceOfStep::Text(index) => Before::Text(pipeline.rewriter_to(index)),
            PlaceOfStep::Token(index) => Before::Tokens(Box::new(match learner.shown() {
                Shown::Tokens => Worker::to_step(pipeline, index),
                _ => Worker::up_to(pipeline, index + usize::from(way.drops_spared), Outputs::default()),
            })),
        };
        Lesson { way, learner, before, is_done: false }
    }

    fn fresh(&self) -> Lesson<'p> {
        Lesson { is_done: self.is_done, ..Lesson::new(self.way, self.learner.fresh()) }
    }

    fn document(&mut self, document: &Document<'_>) {
        if self.is_done {
            return;
        }
        let (pipeline, place) = (&self.way.pipeline, self.way.place);
        let variant = pipeline.variant(document.text, document.fields);
        let works = match place {
            PlaceOfStep::Text(index) => pipeline.text[index].works_on(variant),
            PlaceOfStep::Token(index) => pipeline.tokens[index].works_on(variant),
        };
        if !works {
            return;
        }
        match &mut self.before {
            Before::Text(rewriter) => {
                self.learner.text(document.order, rewriter.rewrite_as(document.text, variant));
            }
            Before::Tokens(worker) => match (self.learner.shown(), place) {
                (Shown::Tokens, PlaceOfStep::Token(index)) => {
                    worker.arrive(document, index, |arriving| self.learner.tokens(arriving));
                }
                _ => {
                    worker.take(document);
                }
            },
            Before::Counted(_) => {}
        }
    }

    fn absorb(&mut self, other: Lesson<'p>) {
        self.learner.absorb(other.learner);
        if self.learner.shown() == Shown::Vocabulary
            && let (Some(mut sum), Some(theirs)) = (self.before.take_account(), other.before.into_account())
        {
            sum.add(theirs);
            self.before = Before::Counted(Box::new(sum));
        }
    }

    /// The step's place in the recipe, from 1.
    fn step(&self) -> usize {
        let pipeline = &self.way.pipeline;
        pipeline.steps()[self.way.place.step(pipeline)].number
    }

    fn kept(mut self) -> LessonKept {
        let counts = self.learner.shown() == Shown::Vocabulary;
        LessonKept {
            step: self.step(),
            is_done: self.is_done,
            seen: self.learner.seen(),
            account: if counts { self.before.take_account() } else { None },
        }
    }

    fn learned(mut self) -> LearnedByStep {
        let step = self.step();
        let copies = self.learner.copies();
        let account = match self.learner.shown() {
            Shown::Vocabulary => self.before.take_account(),
            Shown::Text | Shown::Tokens => None,
        };
        let learned = match account {
            Some(account) => {
                let documents = account.totals.documents - account.totals.dropped;
                self.learner.learned(&mut account.vocabulary().into_iter(), documents)
            }
            None => self.learner.learned(&mut std::iter::empty(), 0),
        };
        LearnedByStep { step, learned, copies }
    }
}

impl Before<'_> {
    fn into_account(self) -> Option<Account> {
        match self {
            Before::Text(_) => None,
            Before::Tokens(worker) => Some(worker.into_account()),
            Before::Counted(account) => Some(*account),
        }
    }

    fn take_account(&mut self) -> Option<Account> {
        std::mem::replace(self, Before::Counted(Box::default())).into_account()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::step::NoFields;
    use crate::testing;

    /// What the first pass learns of each of its steps, whoever has seen which of the documents.
    fn learn(recipe: &str, texts: &[&str]) -> Vec<LearnedByStep> {
        let pipeline = testing::pipeline(recipe);
        let to_learn = ToLearn::next(&pipeline).expect("something to learn");
        let shard = |texts: &[&str], mut learning: Learning<'_>| {
            for (order, text) in (0..).zip(texts) {
                learning.document(&Document { text, fields: &NoFields, order });
            }
            learning.learned()
        };
        let whole = shard(texts, to_learn.begin());
        let mut sum = to_learn.begin();
        loop {
            let mut other = sum.fresh();
            for (order, text) in (0..).zip(texts) {
                let one = if order % 2 == 0 { &mut sum } else { &mut other };
                one.document(&Document { text, fields: &NoFields, order });
            }
            sum.absorb(other);
            if !sum.needs_another_pass() {
                break;
            }
        }
        assert_eq!(sum.learned(), whole, "two workers learn what one learns");
        assert_eq!(learned_over_parts(&to_learn, texts), whole, "parts that are kept learn what one learns");
        whole
    }

    /// What parts learn of which each is kept, and added to the others later.
    fn learned_over_parts(to_learn: &ToLearn<'_>, texts: &[&str]) -> Vec<LearnedByStep> {
        let mut begun: Option<Vec<LessonKept>> = None;
        loop {
            let resumed = || begun.clone().map(|begun| to_learn.resume(begun).expect("of these steps"));
            let mut parts = Vec::new();
            for (order, text) in (0..).zip(texts) {
                let mut part = resumed().map_or_else(|| to_learn.begin(), |begun| begun.fresh());
                part.document(&Document { text, fields: &NoFields, order });
                parts.push(part.kept());
            }
            let mut sum = resumed().unwrap_or_else(|| to_learn.begin());
            for part in parts.into_iter().rev() {
                sum.absorb(to_learn.resume(part).expect("of these steps"));
            }
            if !sum.needs_another_pass() {
                return sum.learned();
            }
            begun = Some(sum.kept());
        }
    }

    fn counted(recipe: &str, texts: &[&str]) -> Vec<(String, u64, u64)> {
        let learned = learn(recipe, texts).remove(0).learned;
        learned.into_iter().map(|learned| (learned.text, learned.count, learned.documents)).collect()
    }

    #[test]
    fn lines_of_many_documents_are_learned() {
        let recipe = "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"lines\"\nrepeated_in = 2\n";
        let texts = ["Gull Hide\none\none\n\n", "two\n  GULL HIDE \n\n", "three\n-- \n", "--\nfour"];
        let learned = learn(recipe, &texts);
        let lines: Vec<&str> = learned[0].learned.iter().map(|learned| learned.text.as_str()).collect();
        assert_eq!((learned[0].step, lines), (2, vec!["--", "gull hide"]));
        let known = testing::pipeline("[[step]]\ndo = \"lines\"\nrepeated_in = 2\nknown = [\"--\"]\n");
        assert!(ToLearn::next(&known).is_none());
    }

    #[test]
    fn common_words_and_terms_within_limits_are_learned() {
        let texts = ["the tern and the egg", "the gull", "the tern"];
        let share = "[[step]]\ndo = \"stopwords\"\nshare = 0.9\n";
        assert_eq!(counted(share, &texts), [("the".to_owned(), 4, 3)]);
        let top = "[[step]]\ndo = \"stopwords\"\ntop = 2\n";
        assert_eq!(counted(top, &texts), [("the".to_owned(), 4, 3), ("tern".to_owned(), 2, 2)]);
        let limit = "[[step]]\ndo = \"limit\"\nmin_documents = 2\nmax_document_share = 0.7\n";
        assert_eq!(counted(limit, &texts), [("tern".to_owned(), 2, 2)]);
    }

    #[test]
    fn what_a_step_spares_is_not_learned() {
        let texts = ["the tern and the egg", "the gull", "the tern in the New York"];
        let learned = |settings: &str| {
            let words = counted(&format!("[[step]]\n{settings}\n"), &texts);
            words.into_iter().map(|(word, ..)| word).collect::<Vec<_>>()
        };
        assert_eq!(learned("do = \"stopwords\"\nshare = 0.6"), ["the", "tern"]);
        assert_eq!(learned("do = \"stopwords\"\nshare = 0.6\nspare = [\"the\"]"), ["tern"]);
        assert_eq!(learned("do = \"limit\"\ntop = 2\nspare = [\"the\"]"), ["tern", "New"]);
        assert_eq!(learned("do = \"limit\"\ntop = 2\nspare = [\"the\", \"New York\"]"), ["tern", "and"]);
        let stem = "do = \"stem\"\nshow = \"commonest\"\nspare = [\"nests\"]";
        let shown = learn(&format!("[[step]]\n{stem}\n"), &["nests nests nesting nesting nested"]);
        assert_eq!(shown[0].learned[0].to.as_deref(), Some("nesting"));
        let phrases = "do = \"phrases\"\nlearn = true\nmin_count = 2\nstopwords = [\"de\"]";
        let texts = ["marsh harrier", "marsh harrier", "grey gull", "grey gull"];
        assert_eq!(counted(&format!("[[step]]\n{phrases}\nspare = [\"gull\"]\n"), &texts).len(), 1);
    }

    #[test]
    fn steps_learn_from_their_own_documents_alone() {
        let english = "The wardens of the reserve counted every nest along the northern shore this morning.";
        let german = "Die Wächter des Schutzgebietes haben heute der Reihe nach an der Küste gezählt.";
        let recipe = "[[step]]\ndo = \"stopwords\"\nshare = 1.0\nonly = { language = \"de\" }\n";
        let words: Vec<String> =
            counted(recipe, &[english, german, english]).into_iter().map(|one| one.0).collect();
        assert!(words.contains(&"der".to_owned()) && !words.contains(&"of".to_owned()), "{words:?}");
    }

    #[test]
    fn phrases_are_learned_where_they_are_joined() {
        let drop = "[[step]]\ndo = \"drop\"\nwords = [\"the\"]\nkinds = [\"punctuation\"]\n[[step]]\ndo = \"phrases\"\nlearn = true\nmin_count = 2\nstopwords = [\"de\"]\n";
        let learned = |recipe: &str, text: &str| {
            let learned = counted(recipe, &[text, text, text]);
            learned.into_iter().map(|(phrase, ..)| phrase).collect::<Vec<_>>()
        };
        for (text, phrases) in [
            ("marsh harrier", vec!["marsh harrier"]),
            ("marsh\nharrier", vec!["marsh harrier"]),
            ("marsh\r\n\r\nharrier", vec![]),
            ("marsh. harrier", vec![]),
            ("marsh the harrier", vec![]),
            ("marsh\n\nthe harrier", vec![]),
        ] {
            assert_eq!(learned(drop, text), phrases, "{text:?}");
            let known = format!("{drop}known = [\"marsh harrier\"]\n");
            assert_eq!(testing::clean(&known, text).contains('_'), !phrases.is_empty(), "{text:?}");
        }
        let across = format!("{drop}across = true\n");
        assert_eq!(learned(&across, "marsh the harrier"), ["marsh harrier"]);
        assert_eq!(learned(&across, "marsh, the harrier"), [""; 0]);
        let kept = "[[step]]\ndo = \"keep\"\nwords = [\"marsh\", \"harrier\"]\n[[step]]\ndo = \"phrases\"\nlearn = true\nmin_count = 2\nacross = true\n";
        assert_eq!(learned(kept, "marsh grey harrier"), ["marsh harrier"]);
        assert_eq!(learned(&kept.replace("across = true\n", ""), "marsh grey harrier"), [""; 0]);
    }

    #[test]
    fn phrases_are_learned_with_stop_words_inside_alone() {
        let text = "The marsh harrier of the lagoon saw a marsh harrier. Bird of prey, a bird of prey; the bird of prey sat.";
        let recipe = "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"phrases\"\nlearn = true\nmin_count = 2\n";
        let learned = counted(recipe, &[text]);
        let phrases: Vec<&str> = learned.iter().map(|(phrase, ..)| phrase.as_str()).collect();
        assert!(phrases.contains(&"marsh harrier") && phrases.contains(&"bird of prey"), "{phrases:?}");
        assert!(
            !phrases.iter().any(|phrase| phrase.starts_with("of ") || phrase.ends_with(" of")),
            "{phrases:?}"
        );
    }

    #[test]
    fn the_most_frequent_word_of_a_stem_is_learned() {
        let recipe = "[[step]]\ndo = \"stem\"\nshow = \"commonest\"\n";
        let learned = learn(recipe, &["nesting nesting nests nest tern"]).remove(0).learned;
        let pairs: Vec<_> = learned.into_iter().map(|learned| (learned.text, learned.to)).collect();
        assert_eq!(pairs, [("nest".to_owned(), Some("nesting".to_owned()))]);
    }

    #[test]
    fn steps_for_documents_of_different_languages_learn_together() {
        let english = "The wardens of the reserve counted every nest along the northern shore this morning.";
        let german = "Die Wächter des Schutzgebietes haben heute Morgen jedes Nest an der Küste gezählt.";
        let recipe = "[[step]]\ndo = \"stopwords\"\ntop = 1\nonly = { language = \"en\" }\n\
                      [[step]]\ndo = \"stopwords\"\ntop = 1\nonly = { language = \"de\" }\n[[step]]\ndo = \"limit\"\ntop = 1\n";
        let learned = learn(recipe, &[english, german]);
        let words: Vec<(usize, &str)> =
            learned.iter().map(|one| (one.step, one.learned[0].text.as_str())).collect();
        assert_eq!(words, [(2, "the"), (3, "Die")]);
    }

    #[test]
    fn copies_are_told_with_the_first_of_them() {
        let recipe =
            "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"documents\"\ncopies = \"exact\"\nmin_tokens = 2\n";
        let texts = ["a tern", "A  tern", "gull", "gull", "a Tern"];
        let learned = learn(recipe, &texts).remove(0);
        let copies = learned.copies.expect("a step that asks for copies");
        let originals: Vec<_> = (0..5).map(|order| copies.original(order).map(|(first, _)| first)).collect();
        assert_eq!((learned.step, originals), (3, vec![None, Some(0), None, None, Some(0)]));
        let pipeline = testing::pipeline(recipe).knowing(3, &std::sync::Arc::new(copies));
        assert!(ToLearn::next(&pipeline).is_none());
        assert_eq!(pipeline.originals(), [0].into());
    }
}
