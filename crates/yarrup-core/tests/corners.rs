//! Counts and choices at their borders.

use std::borrow::Cow;

use yarrup_core::step::Document;
use yarrup_core::{Account, Fields, NoFields, NoFiles, Outputs, Pipeline, ToLearn, Worker, recipe};

fn pipeline(text: &str) -> Pipeline {
    let recipe = recipe::read(text).unwrap_or_else(|faults| panic!("{faults:?}"));
    Pipeline::compile(&recipe, &NoFiles).unwrap_or_else(|faults| panic!("{faults:?}"))
}

fn account(recipe: &str, texts: &[&str]) -> Account {
    let pipeline = pipeline(recipe);
    let mut worker = Worker::new(&pipeline, Outputs::default());
    for text in texts {
        worker.document(text, &NoFields);
    }
    worker.into_account()
}

#[test]
fn documents_are_empty_emptied_or_left_out() {
    let totals = |recipe: &str, texts: &[&str]| {
        let totals = account(recipe, texts).totals;
        (totals.documents, totals.empty, totals.emptied, totals.dropped)
    };
    let stop = "[[step]]\ndo = \"stopwords\"\nadd = [\"the\"]\n";
    assert_eq!(totals(stop, &["", "the", "the tern", " "]), (4, 2, 1, 0));
    let out = format!("{stop}[[step]]\ndo = \"documents\"\nmin_tokens = 1\n");
    assert_eq!(totals(&out, &["", "the", "the tern", " "]), (4, 2, 0, 3));
    // What a text step takes away was there as found.
    let erased = "[[step]]\ndo = \"erase\"\nclasses = [\"digits\"]\n[[step]]\ndo = \"split\"\n";
    assert_eq!(totals(erased, &["7", ""]), (2, 1, 1, 0));
}

/// What a recipe learns from these texts.
fn learned(recipe: &str, texts: &[&str]) -> Vec<String> {
    let pipeline = pipeline(recipe);
    let to_learn = ToLearn::next(&pipeline).expect("something to learn");
    let mut learning = to_learn.begin();
    for (order, text) in (0..).zip(texts) {
        learning.document(&Document { text, fields: &NoFields, order });
    }
    learning.learned().remove(0).learned.into_iter().map(|learned| learned.text).collect()
}

#[test]
fn a_share_is_met_by_what_has_it_exactly() {
    let texts = ["a b", "a c", "a b", "d"];
    let share = |share: &str| learned(&format!("[[step]]\ndo = \"stopwords\"\nshare = {share}\n"), &texts);
    assert_eq!(share("0.75"), ["a"]);
    assert_eq!(share("0.76"), [""; 0]);
    assert_eq!(share("0.5"), ["a", "b"]);
    let top = learned("[[step]]\ndo = \"stopwords\"\ntop = 2\nadd = [\"A\"]\n", &texts);
    assert_eq!(top, ["b", "c"], "what is listed is not learned");
    let limit = |settings: &str| learned(&format!("[[step]]\ndo = \"limit\"\n{settings}\n"), &texts);
    assert_eq!(limit("max_count = 2"), ["b", "c", "d"]);
    assert_eq!(limit("min_count = 2\nmax_document_share = 0.5"), ["b"]);
    assert_eq!(limit("min_document_share = 0.75"), ["a"]);
}

struct Of(&'static str, &'static str);

impl Fields for Of {
    fn field(&self, path: &str) -> Option<Cow<'_, str>> {
        (path == self.0).then_some(Cow::Borrowed(self.1))
    }
}

#[test]
fn the_language_is_that_of_the_field_else_the_one_detected() {
    let english = "The wardens of the reserve counted every nest along the northern shore this morning.";
    let pipeline = pipeline("[[step]]\ndo = \"drop\"\nmatches = \".*\"\nonly = { language = \"en-GB\" }\n");
    let works = |text: &str, fields: &dyn Fields| {
        let mut worker = Worker::new(&pipeline, Outputs::default());
        worker.document(text, fields).tokens_after == 0
    };
    for (fields, expected) in [
        (Of("language", "en"), true),
        (Of("language", "en-GB"), true),
        (Of("language", "en-US"), false),
        (Of("language", "de"), false),
        (Of("language", ""), false),
        (Of("other", "de"), true),
    ] {
        assert_eq!(works(english, &fields), expected, "{} = {}", fields.0, fields.1);
    }
    assert!(works(english, &NoFields));
    assert!(!works("7 !", &NoFields));
}

#[test]
fn phrases_are_not_learned_over_marks() {
    let recipe = "[[step]]\ndo = \"phrases\"\nlearn = true\nmin_count = 2\nstopwords = [\"de\"]\n";
    for (between, joins) in [
        (" ", true),
        ("\n", true),
        (", ", false),
        (". ", false),
        ("; ", false),
        (" (", false),
        ("\" ", false),
        ("\n\n", false),
        (" \r\n\r\n", false),
    ] {
        let text = format!("grey{between}gull");
        assert_eq!(!learned(recipe, &[&text, &text]).is_empty(), joins, "{between:?}");
    }
}

/// Lines that end with a carriage return are lines like others, for every step that looks at borders.
#[test]
fn lines_of_other_systems_are_lines() {
    let text = "The grey gull\nsat. A grey\n\ngull, the tern\n\n\nnest box";
    let other = text.replace('\n', "\r\n");
    for steps in [
        "[[step]]\ndo = \"phrases\"\nadd = [\"grey gull\", \"gull sat\", \"nest box\"]\n",
        "[[step]]\ndo = \"ngrams\"\n",
        "[[step]]\ndo = \"tag\"\n[[step]]\ndo = \"keep\"\ntags = [\"noun\"]\n",
        "[[step]]\ndo = \"split\"\nsentences = true\n",
        "[[step]]\ndo = \"split\"\ninto = \"paragraphs\"\n",
        "[[step]]\ndo = \"label\"\nname = \"x\"\nadd = [\"grey gull\"]\n[[step]]\ndo = \"drop\"\nlabels = [\"x\"]\n",
        "[[step]]\ndo = \"equate\"\nwords = { \"grey gull\" = \"bird\" }\n",
    ] {
        let clean = |text: &str| {
            let pipeline = pipeline(steps);
            let mut worker = Worker::new(&pipeline, Outputs { clean: true, tokens: false, ends: false });
            worker.document(text, &NoFields).clean.replace('\r', "")
        };
        assert_eq!(clean(&other), clean(text), "{steps}");
    }
}

/// One text through every route: whole, traced, with tokens or without, alone or behind others.
#[test]
fn every_route_gives_the_same() {
    let recipes = [
        "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"stopwords\"\nlists = [\"en\"]\nadd = [\"as well as\"]\n[[step]]\ndo = \"stem\"\n",
        "[[step]]\ndo = \"tag\"\n[[step]]\ndo = \"lemma\"\nspare = [\"old nests\"]\n[[step]]\ndo = \"phrases\"\nadd = [\"nest box\"]\n",
        "[[step]]\ndo = \"split\"\ninto = \"clitics\"\nsentences = true\n[[step]]\ndo = \"label\"\nname = \"b\"\nadd = [\"nest box\"]\n[[step]]\ndo = \"drop\"\nkinds = [\"punctuation\"]\nspare = { labels = [\"b\"] }\n",
        "[[step]]\ndo = \"split\"\ninto = \"lines\"\n[[step]]\ndo = \"case\"\n",
        "[[step]]\ndo = \"ngrams\"\nsmallest = 1\nspare = [\"the\"]\n[[step]]\ndo = \"unique\"\n",
        "[[step]]\ndo = \"contractions\"\n[[step]]\ndo = \"unicode\"\n[[step]]\ndo = \"spaces\"\n",
    ];
    let texts = [
        "The old nests aren\u{2019}t as well as the nest box: -5.\nSee?",
        "",
        "Nest boxes, nest box \u{200f} and the nests.",
        "a\u{301} b\r\n\r\nc",
    ];
    for recipe in recipes {
        let pipeline = pipeline(recipe);
        let mut plain = Worker::new(&pipeline, Outputs { clean: true, tokens: false, ends: false });
        let mut full = Worker::new(&pipeline, Outputs { clean: true, tokens: true, ends: false });
        for text in texts {
            let trace = pipeline.trace(text, &NoFields);
            assert_eq!(plain.document(text, &NoFields).clean, trace.clean, "{recipe}: {text:?}");
            let whole = full.document(text, &NoFields);
            assert_eq!(whole.clean, trace.clean, "{recipe}: {text:?}");
            let terms: Vec<&str> = whole.tokens().map(|token| token.term).collect();
            assert_eq!(terms.len() as u64, whole.tokens_after, "{recipe}");
            if !pipeline.is_text_recipe() {
                assert_eq!(terms.join(" "), trace.clean.replace('\n', " "), "{recipe}: {text:?}");
            }
        }
        let (plain, full) = (plain.into_account(), full.into_account());
        assert_eq!(plain, full, "{recipe}");
        assert!(plain.is_balanced() && plain.is_sound());
    }
}

#[test]
fn lemmas_are_those_of_words_that_a_step_has_worked_on() {
    let lemmas = |recipe: &str, text: &str| -> Vec<Option<String>> {
        let pipeline = pipeline(recipe);
        let mut worker = Worker::new(&pipeline, Outputs { clean: false, tokens: true, ends: false });
        let cleaned = worker.document(text, &NoFields);
        cleaned.tokens().map(|token| token.lemma.map(str::to_owned)).collect()
    };
    let some = |lemma: &str| Some(lemma.to_owned());
    let lemma = "[[step]]\ndo = \"lemma\"\n";
    assert_eq!(lemmas(lemma, "Terns, 7 eggs"), [some("tern"), None, None, some("egg")]);
    assert_eq!(lemmas(&format!("{lemma}spare = [\"eggs\"]\n"), "terns eggs"), [some("tern"), None]);
    assert_eq!(
        lemmas(&format!("{lemma}spare = [\"old eggs\"]\n"), "eggs, old eggs 7"),
        [some("egg"), None, None, None, None]
    );
    // What a later step makes of it, its lemma stays; what is joined has none.
    assert_eq!(lemmas(&format!("{lemma}[[step]]\ndo = \"stem\"\n"), "universities"), [some("university")]);
    let joined = format!("{lemma}[[step]]\ndo = \"phrases\"\nadd = [\"old egg\"]\n");
    assert_eq!(lemmas(&joined, "old eggs hatched"), [None, some("hatch")]);
    let elsewhere = format!("{lemma}only = {{ site = \"spit\" }}\n");
    assert_eq!(lemmas(&elsewhere, "terns"), [None]);
}

/// What a recipe as a whole spares is no concern of steps that change nothing.
#[test]
fn spared_words_are_marked_all_the_same() {
    let recipe = "spare = [\"tern\", \"Gull Hide\"]\n[[step]]\ndo = \"tag\"\n[[step]]\ndo = \"label\"\nname = \"bird\"\nadd = [\"tern\", \"gull hide\"]\n";
    let marked = |recipe: &str| -> Vec<(bool, bool)> {
        let pipeline = pipeline(recipe);
        let mut worker = Worker::new(&pipeline, Outputs { clean: false, tokens: true, ends: false });
        let cleaned = worker.document("a tern at Gull Hide", &NoFields);
        cleaned.tokens().map(|token| (token.tag.is_some(), token.labels == 1)).collect()
    };
    let (bird, other) = ((true, true), (true, false));
    assert_eq!(marked(recipe), [other, bird, other, bird, bird]);
    let own = format!("{recipe}spare = [\"tern\"]\n");
    assert_eq!(marked(&own), [other, other, other, bird, bird]);
    let drop = format!("{recipe}[[step]]\ndo = \"drop\"\nlabels = [\"bird\"]\n");
    assert_eq!(marked(&drop).len(), 5, "they are spared from what drops");
}
