//! What is learned from a collection is the same whoever looks at which document, in which order, and whether it is kept on disk in between.

use proptest::prelude::*;
use yarrup_core::step::Document;
use yarrup_core::{LearnedByStep, LessonKept, NoFields, NoFiles, Pipeline, ToLearn, recipe};

/// Recipes whose steps learn: one or several, in one pass or more.
const RECIPES: &[&str] = &[
    "do = \"lines\"\nrepeated_in = 2",
    "do = \"lines\"\nrepeated_in = 3\nedges = 1",
    "do = \"mask\"\nkinds = [\"email\", \"number\"]\nmap = \"numbered\"",
    "do = \"stopwords\"\nshare = 0.4",
    "do = \"stopwords\"\ntop = 3\nspare = [\"tern\"]",
    "do = \"stem\"\nshow = \"commonest\"",
    "do = \"limit\"\nmin_documents = 2\nmax_document_share = 0.8",
    "do = \"phrases\"\nlearn = true\nmin_count = 2",
    "do = \"documents\"\ncopies = \"exact\"",
    "do = \"documents\"\ncopies = \"near\"",
    "do = \"lines\"\nrepeated_in = 2\n[[step]]\ndo = \"split\"\n[[step]]\ndo = \"stopwords\"\ntop = 1\n[[step]]\ndo = \"limit\"\ntop = 5",
];

fn compiled(steps: &str) -> Pipeline {
    let recipe = recipe::read(&format!("language = \"en\"\n[[step]]\n{steps}\n")).expect("no mistakes");
    Pipeline::compile(&recipe, &NoFiles).expect("it can run")
}

/// What the first steps learn from documents, each of which one of the workers sees, in the order that is given.
fn learned(pipeline: &Pipeline, texts: &[String], seen_by: &[usize], keeps: bool) -> Vec<LearnedByStep> {
    let to_learn = ToLearn::next(pipeline).expect("something to learn");
    let workers = seen_by.iter().max().map_or(1, |last| last + 1);
    let resume = |kept: Vec<LessonKept>| to_learn.resume(kept).expect("of these steps");
    let mut sum = to_learn.begin();
    loop {
        let mut all: Vec<_> = (0..workers).map(|_| sum.fresh()).collect();
        for (order, text) in texts.iter().enumerate() {
            let worker = seen_by.get(order).copied().unwrap_or(0);
            all[worker].document(&Document { text, fields: &NoFields, order: order as u64 });
        }
        // The last first, so that nothing depends on who is added to whom.
        for learning in all.into_iter().rev() {
            sum.absorb(if keeps { resume(learning.kept()) } else { learning });
        }
        if !sum.needs_another_pass() {
            return sum.learned();
        }
        if keeps {
            sum = resume(sum.kept());
        }
    }
}

fn texts() -> impl Strategy<Value = Vec<String>> {
    let word = prop::sample::select(vec![
        "tern",
        "terns",
        "gull",
        "the",
        "The",
        "marsh",
        "harrier",
        "17",
        "ines@example.org",
        "saw",
        "heron",
    ]);
    let line = prop::collection::vec(word, 0..5).prop_map(|words| words.join(" "));
    let text = prop::collection::vec(line, 0..5).prop_map(|lines| lines.join("\n"));
    prop::collection::vec(text, 1..9)
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 60, ..ProptestConfig::default() })]

    #[test]
    fn whoever_looks_at_which_documents_learns_the_same(
        texts in texts(), seen_by in prop::collection::vec(0..3_usize, 9), keeps in any::<bool>()
    ) {
        for steps in RECIPES {
            let pipeline = compiled(steps);
            let alone = learned(&pipeline, &texts, &[], false);
            prop_assert_eq!(learned(&pipeline, &texts, &seen_by, keeps), alone, "{}", steps);
        }
    }
}

#[test]
fn what_was_kept_for_other_steps_is_not_taken() {
    let (lines, words) = (compiled(RECIPES[0]), compiled(RECIPES[3]));
    let kept = ToLearn::next(&lines).expect("lines").begin().kept();
    assert!(ToLearn::next(&words).expect("words").resume(kept.clone()).is_none());
    assert!(ToLearn::next(&lines).expect("lines").resume(Vec::new()).is_none());
    assert!(ToLearn::next(&lines).expect("lines").resume(kept).is_some());
}
