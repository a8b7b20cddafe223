//! What must hold whatever the bytes are: nothing panics, spans slice the original at the borders of its characters, the account balances, and what is
//! written reads back. Each function is one target of the fuzzer; the ordinary tests run all of them over the committed corpus.

use std::cell::RefCell;
use std::collections::HashMap;
use std::sync::LazyLock;

use yarrup_core::recipe::{self, FileError};
use yarrup_core::step::ListReference;
use yarrup_core::tag::{Model, read_conllu, write_conllu};
use yarrup_core::{
    Account, DictionaryFiles, MergeError, NoFields, NoFiles, Outputs, Pipeline, Relation, WordLists, Worker,
};
use yarrup_io::{Item, ReadOptions, SourceSpec, read_bytes, read_collection, write_collection};

/// A target: its name, and what it does with some bytes.
pub type Target = (&'static str, fn(&[u8]));

/// Every target.
pub const TARGETS: [Target; 9] = [
    ("account", account),
    ("collection", collection),
    ("conllu", conllu),
    ("dictionary", dictionary),
    ("documents", documents),
    ("model", model),
    ("recipe", recipe_text),
    ("splitters", splitters),
    ("text_steps", text_steps),
];

/// The longest text that is taken through a recipe here: what is slow is not looked for.
const LONGEST: usize = 2000;

/// The bytes as text, short enough to be worked on.
fn text_of(data: &[u8]) -> String {
    let text = String::from_utf8_lossy(data);
    text[..text.floor_char_boundary(LONGEST)].to_owned()
}

/// Takes a text through a recipe: every token is a part of the text.
fn taken_by(worker: &mut Worker<'_>, text: &str) {
    let cleaned = worker.document(text, &NoFields);
    assert!(cleaned.tokens_after == cleaned.tokens().count() as u64, "as many tokens as were counted");
    for token in cleaned.tokens() {
        let (start, end) = (token.span.start as usize, token.span.end as usize);
        assert!(text.get(start..end).is_some(), "{start}..{end} is no part of the text");
    }
}

/// Takes a text through a recipe, and looks at all that comes of it.
fn taken_through(pipeline: &Pipeline, text: &str) {
    let mut worker = Worker::new(pipeline, Outputs { clean: true, tokens: true, ends: false });
    taken_by(&mut worker, text);
    let account = worker.into_account();
    assert!(account.is_sound() && account.is_balanced(), "the account does not balance");
    // A second look at the same text comes to the same.
    let trace = pipeline.trace(text, &NoFields);
    let mut worker = Worker::new(pipeline, Outputs { clean: true, tokens: false, ends: false });
    assert_eq!(trace.clean, worker.document(text, &NoFields).clean);
}

/// As [`taken_through`], for one text in eight, chosen by its length; the others are taken by a worker that has seen many texts, which is faster.
fn taken_often(pipelines: &'static [Pipeline], data: &[u8]) {
    thread_local! {
        static WORKERS: RefCell<Workers> = RefCell::default();
    }
    let Some((first, content)) = data.split_first() else { return };
    let text = text_of(content);
    let number = usize::from(*first) % pipelines.len();
    if text.len().is_multiple_of(8) {
        return taken_through(&pipelines[number], &text);
    }
    WORKERS.with_borrow_mut(|workers| {
        // By the recipes as well: the tests run all targets in one process.
        let key = (pipelines.as_ptr().addr(), number);
        let (worker, texts) = workers.entry(key).or_insert_with(|| {
            (Worker::new(&pipelines[number], Outputs { clean: true, tokens: true, ends: false }), 0)
        });
        taken_by(worker, &text);
        *texts += 1;
        // A worker remembers every form that it has met.
        if *texts == 1000
            && let Some((worker, _)) = workers.remove(&key)
        {
            assert!(worker.into_account().is_balanced(), "the account does not balance");
        }
    });
}

/// Workers by their recipe, each with the number of its texts.
type Workers = HashMap<(usize, usize), (Worker<'static>, usize)>;

fn compiled(text: &str) -> Pipeline {
    let recipe = recipe::read(text).unwrap_or_else(|faults| panic!("{faults:?} in {text}"));
    Pipeline::compile(&recipe, &NoFiles).unwrap_or_else(|faults| panic!("{faults:?} in {text}"))
}

/// A recipe is compiled, or its mistakes are told; one that is compiled can be run.
pub fn recipe_text(data: &[u8]) {
    let text = text_of(data);
    match recipe::read(&text) {
        Ok(recipe) => {
            if let Ok(pipeline) = Pipeline::compile(&recipe, &NoFiles) {
                taken_through(
                    &pipeline,
                    "The terns' nests aren't empty: 3 eggs, #spit @mira :-) https://example.org",
                );
            }
        }
        Err(faults) => {
            assert!(!faults.is_empty());
            for fault in faults {
                assert!(
                    text.get(fault.span.clone()).is_some() || fault.span.start >= text.len(),
                    "{fault:?}"
                );
                assert!(!fault.title.is_empty());
            }
        }
    }
}

/// A collection file reads back as it was written.
pub fn collection(data: &[u8]) {
    let text = text_of(data);
    if let Ok(collection) = read_collection(&text, "".as_ref()) {
        let written = write_collection(&collection);
        let again =
            read_collection(&written, "".as_ref()).unwrap_or_else(|faults| panic!("{faults:?} in {written}"));
        assert_eq!(write_collection(&again), written);
    }
}

/// The formats that are read in the same process: by their first byte.
const FORMATS: [&str; 11] = ["jsonl", "csv", "tsv", "json", "txt", "md", "html", "eml", "mbox", "x", "xml"];

/// Documents of any text format: no record is longer than the file, and each has an id.
pub fn documents(data: &[u8]) {
    let Some((first, content)) = data.split_first() else { return };
    let mut source = SourceSpec::at(&format!("a.{}", FORMATS[usize::from(*first) % FORMATS.len()]));
    source.options = ReadOptions { propose: first & 0x80 != 0, ..ReadOptions::default() };
    read_bytes(&source, content, &mut |item| match item {
        Item::Document(record) => {
            // Of a table without a text only the fields are given.
            assert!(record.is_of_fields_alone() || !record.id.is_empty(), "a document without an id");
        }
        Item::Malformed(malformed) => {
            let why = malformed.why.to_string();
            assert!(!why.is_empty() && !why.contains("fault of ours"), "{}: {why}", malformed.place);
        }
        Item::LeftOut => {}
    });
}

/// Each text step alone, and all of them.
static TEXT_STEPS: LazyLock<Vec<Pipeline>> = LazyLock::new(|| {
    let steps = [
        "do = \"unicode\"",
        "do = \"unicode\"\nform = \"nfkc\"",
        "do = \"markup\"",
        "do = \"lines\"\nrejoin = true\nunwrap = true",
        "do = \"mask\"\nkinds = [\"url\", \"email\", \"mention\", \"hashtag\", \"number\", \"date\", \"time\", \"money\", \"emoji\"]",
        "do = \"contractions\"",
        "do = \"case\"",
        "do = \"case\"\nto = \"upper\"",
        "do = \"case\"\nto = \"fold\"",
        "do = \"accents\"",
        "do = \"replace\"\npairs = { \"a\" = \"bb\", \"e\" = \"\", \"tern\" = \"gull\" }",
        "do = \"replace\"\npattern = \"([a-z]+) ([a-z]+)\"\nwith = \"$2 $1\"",
        "do = \"erase\"\nclasses = [\"punctuation\", \"digits\", \"symbols\", \"emoji\"]",
        "do = \"repeats\"",
        "do = \"spaces\"",
    ];
    let alone = steps.iter().map(|step| format!("[[step]]\n{step}\n"));
    let all = steps.iter().map(|step| format!("[[step]]\n{step}\n")).collect::<String>();
    let spared = format!("spare = [\"tern\", \"the nest\"]\n{all}");
    alone.chain([all, spared]).map(|recipe| compiled(&recipe)).collect()
});

/// A text through the text steps: the first byte says through which.
pub fn text_steps(data: &[u8]) {
    taken_often(&TEXT_STEPS, data);
}

/// Each splitter, and the token steps that look at tokens in their order.
static SPLITTERS: LazyLock<Vec<Pipeline>> = LazyLock::new(|| {
    let splits = [
        "into = \"spaces\"",
        "into = \"words\"",
        "into = \"clitics\"",
        "into = \"posts\"",
        "into = \"pattern\"\npattern = \"[a-z]+\"",
        "into = \"characters\"\nsize = 3",
        "into = \"sentences\"",
        "into = \"paragraphs\"",
        "into = \"lines\"",
        "into = \"words\"\ngroup = 4",
    ];
    let steps = "[[step]]\ndo = \"ngrams\"\nsmallest = 1\n[[step]]\ndo = \"unique\"\n";
    let words = "[[step]]\ndo = \"phrases\"\nadd = [\"the nest\"]\n[[step]]\ndo = \"stopwords\"\nlists = [\"en\"]\n[[step]]\ndo = \"tag\"\n\
         [[step]]\ndo = \"lemma\"\n[[step]]\ndo = \"stem\"\n";
    let split = |split: &str| format!("[[step]]\ndo = \"split\"\n{split}\n");
    let alone = splits.iter().map(|one| split(one));
    let with_steps = splits.iter().map(|one| split(one) + steps);
    alone.chain(with_steps).chain([split(splits[2]) + words]).map(|recipe| compiled(&recipe)).collect()
});

/// A text through a splitter: the first byte says through which.
pub fn splitters(data: &[u8]) {
    taken_often(&SPLITTERS, data);
}

/// A treebank reads back as it was written.
pub fn conllu(data: &[u8]) {
    let Ok(text) = std::str::from_utf8(data) else { return };
    let Ok(sentences) = read_conllu(text) else { return };
    let mut written = String::new();
    for sentence in &sentences {
        write_conllu(sentence, &mut written);
    }
    let again = read_conllu(&written).unwrap_or_else(|fault| panic!("{fault} in {written}"));
    let mut rewritten = String::new();
    for sentence in &again {
        write_conllu(sentence, &mut rewritten);
    }
    assert_eq!(written, rewritten);
}

/// A model that is believed reads back as it was written.
pub fn model(data: &[u8]) {
    if let Ok(model) = Model::from_bytes(data) {
        let bytes = model.to_bytes();
        assert!(Model::from_bytes(&bytes).is_ok_and(|again| again.to_bytes() == bytes));
    }
}

/// A dictionary of these two texts and no other file.
struct OneDictionary(DictionaryFiles);

impl WordLists for OneDictionary {
    fn words(&self, reference: &ListReference) -> Result<Vec<String>, FileError> {
        NoFiles.words(reference)
    }

    fn dictionary(&self, _name: &str) -> Result<DictionaryFiles, FileError> {
        Ok(self.0.clone())
    }
}

/// A dictionary with affixes: its two files, parted by the first byte of zero.
pub fn dictionary(data: &[u8]) {
    let text = text_of(data);
    let (affixes, words) = text.split_once('\0').unwrap_or((&text, ""));
    let files = OneDictionary(DictionaryFiles {
        name: "xx".to_owned(),
        affixes: affixes.to_owned(),
        words: words.to_owned(),
    });
    let recipe = recipe::read("[[step]]\ndo = \"lemma\"\ndictionary = \"xx\"\n").expect("a recipe");
    if let Ok(pipeline) = Pipeline::compile(&recipe, &files) {
        let some: String =
            words.split_whitespace().take(20).flat_map(|word| [word, " ", word, "s "]).collect();
        taken_through(&pipeline, &some);
    }
}

/// An account that is believed can be looked at from all sides.
pub fn account(data: &[u8]) {
    let Ok(account) = postcard::from_bytes::<Account>(data) else { return };
    if !account.is_sound() {
        return;
    }
    let effects = account.effects();
    assert_eq!(effects.len(), account.steps.len() + 1);
    assert!(account.vocabulary().len() <= account.form_count() + account.term_count());
    assert_eq!(account.forms().count(), account.form_count());
    let _ = (account.matches(), account.documents_left_out());
    let bytes = postcard::to_allocvec(&account).expect("written");
    assert!(postcard::from_bytes::<Account>(&bytes).is_ok());
    let twice = [account.clone(), account].into_iter().map(Ok::<_, MergeError>);
    assert!(Account::add_up(twice, Relation::Parts).is_ok(), "parts of one collection");
}
