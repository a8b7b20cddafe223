//! The worked examples of CONTRIBUTING.md: a step of each stage, written with what the core offers to everybody.

use std::borrow::Cow;
use std::ops::Range;
use std::sync::LazyLock;

use yarrup_core::recipe::{NoRecipes, read_known};
use yarrup_core::step::{
    Arriving, Built, Document, DocumentStep, Facts, Fields, Form, Key, Operation, Outcome, Rewriter,
    Settings, SettingsError, Stage, TextStep, TokenStep,
};
use yarrup_core::{Kind, NoFiles, Outputs, Pipeline, Worker};

// A text step: tells the rewriter what to replace, from left to right.

const WITH: Key<String> = Key::text("with", "what stands in the place of `&`").or("and");

static AMPERSAND: Operation = Operation {
    name: "ampersand",
    stage: Stage::Text,
    about: "writes `&` out",
    keys: &[&WITH.facts],
    example: "with = \"and\"",
    roles: &[],
    learns: None,
    build: |settings| Ok(Built::Text(Box::new(Ampersand::new(settings)?))),
};

struct Ampersand {
    with: String,
}

impl Ampersand {
    fn new(settings: &Settings) -> Result<Ampersand, SettingsError> {
        let with = settings.get(&WITH).unwrap_or("and").trim();
        if with.is_empty() {
            return Err(SettingsError::key(&WITH.facts, "`with` is empty: to take `&` out, use `erase`"));
        }
        Ok(Ampersand { with: with.to_owned() })
    }
}

impl Facts for Ampersand {}

impl TextStep for Ampersand {
    fn rewrite(&self, text: &str, range: Range<usize>, out: &mut Rewriter<'_>) {
        for (at, sign) in text[range.clone()].match_indices('&') {
            let at = range.start + at;
            out.replace(at..at + sign.len(), &self.with);
        }
    }
}

// A token step: decides about each form once.

const LONGEST: Key<u64> = Key::whole("longest", 2, 100, "words with more characters are cut").or("6");

static CUT: Operation = Operation {
    name: "cut",
    stage: Stage::Token,
    about: "cuts long words, and drops what has no letter",
    keys: &[&LONGEST.facts],
    example: "longest = 4",
    roles: &[],
    learns: None,
    build: |settings| {
        let longest = settings.get(&LONGEST).and_then(|n| usize::try_from(n).ok()).unwrap_or(6);
        Ok(Built::Token(Box::new(Cut { longest })))
    },
};

struct Cut {
    longest: usize,
}

impl Facts for Cut {
    fn reason(&self, _number: u16) -> String {
        "has no letter".to_owned()
    }
}

impl TokenStep for Cut {
    fn apply(&self, form: &Form<'_>) -> Outcome {
        if form.kind != Kind::Word {
            return Outcome::Drop(0);
        }
        match form.text.char_indices().nth(self.longest) {
            Some((end, _)) => Outcome::Change(form.text[..end].to_owned()),
            None => Outcome::Keep,
        }
    }
}

// A collection step: keeps documents or leaves them out.

const FIELD: Key<String> = Key::text("field", "the field that documents must have");

static HAVING: Operation = Operation {
    name: "having",
    stage: Stage::Collection,
    about: "keeps documents that have a field",
    keys: &[&FIELD.facts],
    example: "field = \"site\"",
    roles: &[],
    learns: None,
    build: |settings| {
        let field =
            settings.get(&FIELD).ok_or_else(|| SettingsError::needs_one_of(&[&FIELD.facts]))?.to_owned();
        Ok(Built::Document(Box::new(Having { field })))
    },
};

struct Having {
    field: String,
}

impl Facts for Having {
    fn reason(&self, _number: u16) -> String {
        format!("has no field `{}`", self.field)
    }
}

impl DocumentStep for Having {
    fn judge(&self, arriving: &Arriving<'_>) -> Option<u16> {
        arriving.document.fields.field(&self.field).is_none().then_some(0)
    }
}

// The list with the steps of the program and these.

static OPERATIONS: LazyLock<Vec<&'static Operation>> = LazyLock::new(|| {
    let own: [&Operation; 3] = [&AMPERSAND, &CUT, &HAVING];
    yarrup_core::OPERATIONS.iter().copied().chain(own).collect()
});

struct Site(Option<&'static str>);

impl Fields for Site {
    fn field(&self, path: &str) -> Option<Cow<'_, str>> {
        self.0.filter(|_| path == "site").map(Cow::Borrowed)
    }
}

#[test]
fn the_worked_steps_run_and_are_counted() {
    let text = "[[step]]\ndo = \"ampersand\"\n[[step]]\ndo = \"split\"\n[[step]]\ndo = \"cut\"\nlongest = 4\n[[step]]\ndo = \"having\"\nfield = \"site\"\n";
    let recipe = read_known(text, &NoRecipes, &OPERATIONS).expect("a recipe of known steps");
    let pipeline = Pipeline::compile(&recipe, &NoFiles).unwrap_or_else(|faults| panic!("{faults:?}"));
    let mut worker = Worker::new(&pipeline, Outputs { clean: true, tokens: false, ends: false });
    let mut clean = |text: &str, site| {
        let cleaned = worker.take(&Document { text, fields: &Site(site), order: 0 });
        cleaned.left_out.map_or(cleaned.clean.to_owned(), |out| pipeline.reason(out.step, out.reason))
    };
    assert_eq!(clean("terns & avocets!", Some("spit")), "tern and avoc");
    assert_eq!(clean("gulls", None), "has no field `site`");
    let account = worker.into_account();
    assert!(account.is_balanced());
    let dropped: Vec<_> = account.effects().iter().map(|effect| effect.tokens_dropped).collect();
    assert_eq!(dropped, [None, None, None, Some(1), Some(1)]);
    assert_eq!(account.documents_left_out(), [(4, "has no field `site`", 1)]);
}

#[test]
fn mistakes_in_worked_steps_are_told_like_any() {
    let wrong = "[[step]]\ndo = \"ampersand\"\nwit = \"and\"\n[[step]]\ndo = \"cuts\"\n[[step]]\ndo = \"cut\"\nlongest = 1\n";
    let faults = read_known(wrong, &NoRecipes, &OPERATIONS).expect_err("mistakes");
    let told: Vec<_> = faults.iter().map(|fault| (fault.title.as_str(), fault.help.as_deref())).collect();
    assert_eq!(
        told,
        [
            ("unknown key `wit`", Some("did you mean `with`?")),
            ("unknown step `cuts`", Some("did you mean `cut`?")),
            ("wrong value for `longest`", None)
        ]
    );
}

#[test]
fn contributing_shows_these_steps_as_they_are() {
    let page = include_str!("../../../CONTRIBUTING.md");
    let own = include_str!("worked_steps.rs");
    let blocks: Vec<&str> =
        page.split("```rust\n").skip(1).filter_map(|block| block.split("\n```").next()).collect();
    assert_eq!(blocks.len(), 3, "a step of each stage");
    for block in blocks {
        assert!(own.contains(block), "CONTRIBUTING.md shows what is not here:\n{block}");
    }
}
