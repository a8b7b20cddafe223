//! The full recipe over JSON Lines read from a file, beside a bare loop that only splits on ASCII classes, lowercases and
//! counts; then whole runs of the built program with their peak memory.
//!
//! `cargo bench` measures at 10 MB and 100 MB; `cargo bench -- --huge` at 1 GB as well; `cargo bench -- --steps`
//! measures each step alone and nothing else, `-- --forms` the steps that reduce, tag and join words. Every figure is the best of several
//! rounds, with the two sides taking turns, so that a slow moment of the machine does not fall on one alone.
//!
//! `YARRUP_CORPUS=FILE.jsonl cargo bench` measures on real text instead, which is what counts: made-up text is kinder to caches. CONTRIBUTING tells how
//! such a file is made.

use std::collections::BTreeMap;
use std::fs::File;
use std::io::{BufRead, BufReader, BufWriter, Write};
use std::ops::ControlFlow;
use std::path::{Path, PathBuf};
use std::process::Command;
use std::time::Instant;

use hashbrown::HashMap;
use yarrup_core::{Account, NoFields, Outputs, Pipeline, Worker, recipe};
use yarrup_io::{
    BatchFacts, Collection, DocumentOutput, FolderLists, Lines, Numbered, Pass, Policy, Sink, Source,
    SourceSpec, read,
};

/// Case, words, stop words, short words, stems.
const RECIPE: &str = include_str!("full-recipe.toml");
const ROUNDS: usize = 5;

fn main() {
    let huge = std::env::args().any(|argument| argument == "--huge");
    if std::env::args().any(|argument| argument == "--steps") {
        alone();
        return word_forms();
    }
    if std::env::args().any(|argument| argument == "--forms") {
        return word_forms();
    }
    if let Some(corpus) = std::env::var_os("YARRUP_CORPUS") {
        return on_corpus(Path::new(&corpus));
    }
    let folder = std::env::temp_dir().join(format!("yarrup-bench-{}", std::process::id()));
    std::fs::create_dir_all(&folder).expect("a folder for the bench");
    let pipeline = pipeline();
    let ten = synthetic(&folder, 10);
    let hundred = synthetic(&folder, 100);
    let demo = demo_texts(&folder, 100);
    alone();
    word_forms();
    splitting(&pipeline);
    for (name, path) in [("synthetic, 100 MB", &hundred), ("demo texts repeated, 100 MB", &demo)] {
        compare(name, path, &pipeline, &folder);
    }
    let thousand = huge.then(|| synthetic(&folder, 1000));
    println!("\nwhole runs of the program, start-up, report and figures included");
    println!("{:<24} {:>8} {:>10} {:>12} {:>10}", "collection", "threads", "seconds", "peak memory", "forms");
    for path in [Some(ten), Some(hundred), thousand].into_iter().flatten() {
        for threads in [1, 2] {
            whole_run(&path, threads, &folder);
        }
    }
    std::fs::remove_dir_all(&folder).expect("the folder of the bench can go");
}

/// Recipes of each path through the engine: form by form, parted by what looks at several tokens, by every splitter.
const PATHS: &[(&str, &str)] = &[
    ("split", "[[step]]\ndo = \"split\"\n"),
    ("full recipe", RECIPE),
    ("clitics", "[[step]]\ndo = \"split\"\ninto = \"clitics\"\n"),
    ("posts", "[[step]]\ndo = \"split\"\ninto = \"posts\"\n"),
    ("lemma", "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"lemma\"\n"),
    ("tag", "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"tag\"\n"),
    ("tag and lemma", "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"tag\"\n[[step]]\ndo = \"lemma\"\n"),
    (
        "listed phrases",
        "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"phrases\"\nadd = [\"command line\", \"file system\"]\n",
    ),
];

/// The recipe beside the bare loop on a corpus, every path through the engine, and whole runs.
fn on_corpus(path: &Path) {
    let folder = std::env::temp_dir().join(format!("yarrup-bench-{}", std::process::id()));
    std::fs::create_dir_all(&folder).expect("a folder for the bench");
    compare(&path.display().to_string(), path, &pipeline(), &folder);
    println!("\none thread, account alone");
    println!("{:<20} {:>14} {:>10}", "recipe", "M tokens/s", "seconds");
    for (name, text) in PATHS {
        let recipe = recipe::read(text).expect("the recipe has no mistakes");
        let pipeline = Pipeline::compile(&recipe, &FolderLists::new(PathBuf::new())).expect("it compiles");
        let mut best = f64::MAX;
        let mut tokens = 0;
        for _ in 0..3 {
            let begun = Instant::now();
            tokens = full(path, &pipeline, 1, None);
            best = best.min(begun.elapsed().as_secs_f64());
        }
        println!("{name:<20} {:>14.2} {best:>10.2}", tokens as f64 / best / 1e6);
    }
    println!(
        "\n{:<24} {:>8} {:>10} {:>12} {:>10}",
        "whole runs", "threads", "seconds", "peak memory", "forms"
    );
    for threads in [1, 2] {
        whole_run(path, threads, &folder);
    }
    std::fs::remove_dir_all(&folder).expect("the folder of the bench can go");
}

fn pipeline() -> Pipeline {
    let recipe = recipe::read(RECIPE).expect("the recipe of the bench has no mistakes");
    Pipeline::compile(&recipe, &FolderLists::new(PathBuf::new())).expect("the recipe of the bench compiles")
}

/// A generator of numbers from a seed (Marsaglia 2003, xorshift), so that every machine measures the same text.
struct Numbers(u64);

impl Numbers {
    fn next(&mut self) -> u64 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        self.0
    }

    fn below(&mut self, limit: u64) -> u64 {
        self.next() % limit
    }

    fn unit(&mut self) -> f64 {
        (self.next() >> 11) as f64 / (1u64 << 53) as f64
    }
}

/// Words whose frequencies follow a power law: function words of English first, then made-up ones, rank by rank longer; some are names, some have
/// letters beyond ASCII, an apostrophe or a hyphen, as the words of real text do.
fn words(numbers: &mut Numbers) -> Vec<String> {
    const SYLLABLES: [&str; 24] = [
        "ta", "ren", "wa", "mi", "lo", "str", "an", "ing", "er", "ed", "es", "po", "que", "ni", "sho", "re",
        "bil", "tern", "nes", "ly", "ment", "tion", "al", "ous",
    ];
    const COMMON: &str = "the of and to a in is was that it for on with as be at by this had not are but from or have an they \
        which one you were all her she there would their we him been has when who will no more if out so what up said about";
    let mut words: Vec<String> = COMMON.split_whitespace().map(str::to_owned).collect();
    while words.len() < 200_000 {
        let syllables = 1 + (words.len() as f64).log10() as u64 / 2 + numbers.below(3);
        let mut word: String = (0..syllables).map(|_| SYLLABLES[numbers.below(24) as usize]).collect();
        match numbers.below(40) {
            0..=4 => word[..1].make_ascii_uppercase(),
            5 => word = word.to_uppercase(),
            6 => word.push('é'),
            7 => word.push_str("'s"),
            8 => word = format!("{word}-{}", SYLLABLES[numbers.below(24) as usize]),
            9 => word = format!("{}", numbers.below(100_000)),
            _ => {}
        }
        words.push(word);
    }
    words
}

/// How the words begin that come but once.
const SYLLABLE_OF_ONE: &str = "once";

/// A collection of about this many megabytes.
fn synthetic(folder: &Path, megabytes: u64) -> PathBuf {
    let path = folder.join(format!("synthetic-{megabytes}.jsonl"));
    let mut out = BufWriter::new(File::create(&path).expect("the bench can write"));
    let mut numbers = Numbers(0x9e37_79b9_7f4a_7c15);
    let words = words(&mut numbers);
    // The rank of a random word under Zipf's law (exponent 1): the inverse of the logarithm that sums 1/rank.
    let spread = (words.len() as f64).ln();
    let mut written = 0;
    let mut id = 0;
    while written < megabytes * 1_000_000 {
        let mut text = String::new();
        let mut capital = true;
        // From some words to some thousand: the logarithm of the length is what is evenly spread.
        let length = (2.0 + numbers.unit() * 6.5).exp() as u64;
        for _ in 0..length {
            let rank = ((numbers.unit() * spread).exp() as usize - 1).min(words.len() - 1);
            let word = &words[rank];
            match word.chars().next().filter(|_| capital) {
                Some(first) => {
                    text.extend(first.to_uppercase());
                    text.push_str(&word[first.len_utf8()..]);
                }
                None => text.push_str(word),
            }
            // Much of the vocabulary of any text comes but once.
            if numbers.below(60) == 0 {
                text.push_str(&format!(" {}{id}x{}", SYLLABLE_OF_ONE, numbers.below(1 << 20)));
            }
            capital = false;
            match numbers.below(100) {
                0..=6 => {
                    text.push_str(". ");
                    capital = true;
                }
                7..=12 => text.push_str(", "),
                13 => text.push_str(" – "),
                _ => text.push(' '),
            }
        }
        id += 1;
        let line = format!("{{\"id\":{id},\"site\":\"north spit\",\"rating\":3,\"text\":\"{text}\"}}\n");
        written += line.len() as u64;
        out.write_all(line.as_bytes()).expect("the bench can write");
    }
    out.flush().expect("the bench can write");
    path
}

/// The notes of the demo, over and over.
fn demo_texts(folder: &Path, megabytes: usize) -> PathBuf {
    let path = folder.join("demo.jsonl");
    let once = include_str!("../../../demo/field-notes.jsonl");
    let mut out = BufWriter::new(File::create(&path).expect("the bench can write"));
    for _ in 0..megabytes * 1_000_000 / once.len() {
        for line in once.lines() {
            // The text on the first level, as in the synthetic collection.
            let value: serde_json::Value = serde_json::from_str(line).expect("the demo is valid");
            let flat =
                serde_json::json!({"id": value["id"], "site": value["site"], "text": value["note"]["text"]});
            writeln!(out, "{flat}").expect("the bench can write");
        }
    }
    out.flush().expect("the bench can write");
    path
}

/// What each byte becomes; 0 parts tokens. Bytes beyond ASCII belong to words.
fn word_classes() -> [u8; 256] {
    std::array::from_fn(|byte| match byte as u8 {
        byte if byte.is_ascii_whitespace() || byte.is_ascii_punctuation() || byte.is_ascii_control() => 0,
        byte => byte.to_ascii_lowercase(),
    })
}

/// Counts the words of a text; returns how many there are.
fn count_words(
    text: &[u8],
    classes: &[u8; 256],
    word: &mut Vec<u8>,
    counts: &mut HashMap<Vec<u8>, u64, foldhash::fast::RandomState>,
) -> u64 {
    let mut total = 0;
    for &byte in text.iter().chain(b" ") {
        let class = classes[usize::from(byte)];
        if class != 0 {
            word.push(class);
            continue;
        }
        if word.is_empty() {
            continue;
        }
        total += 1;
        match counts.get_mut(word.as_slice()) {
            Some(count) => *count += 1,
            None => {
                counts.insert(word.clone(), 1);
            }
        }
        word.clear();
    }
    total
}

/// Splits on ASCII classes, lowercases, counts: what everybody writes first. Returns the number of tokens.
fn bare(path: &Path) -> u64 {
    #[derive(serde::Deserialize)]
    struct Line<'a> {
        #[serde(borrow)]
        text: std::borrow::Cow<'a, str>,
    }
    let classes = word_classes();
    let mut counts: HashMap<Vec<u8>, u64, foldhash::fast::RandomState> = HashMap::default();
    let mut reader = BufReader::with_capacity(1 << 20, File::open(path).expect("the file is there"));
    let mut line = String::new();
    let mut word: Vec<u8> = Vec::new();
    let mut total = 0;
    loop {
        line.clear();
        if reader.read_line(&mut line).expect("the file is text") == 0 {
            break;
        }
        let record: Line<'_> = serde_json::from_str(&line).expect("the file is JSON Lines");
        total += count_words(record.text.as_bytes(), &classes, &mut word, &mut counts);
    }
    assert!(!counts.is_empty());
    total
}

/// The full recipe with its ledger, as the program does it. Returns the number of tokens as found.
fn full(path: &Path, pipeline: &Pipeline, threads: usize, documents: Option<&Path>) -> u64 {
    let place = path.to_str().expect("a plain path").to_owned();
    let mut source = Source::open(&Collection::of(SourceSpec::at(&place))).expect("the file is there");
    let output = DocumentOutput::default();
    let outputs = Outputs { clean: documents.is_some(), tokens: false, ends: false };
    let mut out = documents.map(|path| BufWriter::new(File::create(path).expect("the bench can write")));
    let pass = Cleaning { pipeline, outputs, output };
    let policy = Policy::strict(threads);
    let reading = read(&mut source, policy, &pass, &mut Writing(&mut out)).expect("the file can be read");
    let account = Account::of_workers(reading.states, pipeline);
    assert!(account.is_balanced() && account.term_count() > 0);
    account.totals.tokens_found
}

/// The pass that the program makes.
struct Cleaning<'p> {
    pipeline: &'p Pipeline,
    outputs: Outputs,
    output: DocumentOutput,
}

impl<'p> Pass for Cleaning<'p> {
    type State = Worker<'p>;
    type Left = Lines;

    fn state(&self) -> Worker<'p> {
        Worker::new(self.pipeline, self.outputs)
    }

    fn batch(&self, _worker: &mut Worker<'p>, batch: &BatchFacts, lines: &mut Lines) {
        if self.outputs.clean {
            lines.reserve(batch.bytes as usize * 3 / 2);
        }
    }

    fn document(&self, worker: &mut Worker<'p>, document: &Numbered<'_>, lines: &mut Lines) {
        let record = &document.record;
        let cleaned = worker.document(&record.text, record);
        if self.outputs.clean {
            self.output.write(record, &cleaned, lines);
        }
    }
}

struct Writing<'o>(&'o mut Option<BufWriter<File>>);

impl Sink<Lines> for Writing<'_> {
    type Error = std::io::Error;

    fn left(&mut self, lines: Lines) -> Result<ControlFlow<()>, std::io::Error> {
        if let Some(out) = &mut self.0 {
            lines.write_to(out)?;
        }
        Ok(ControlFlow::Continue(()))
    }
}

fn compare(name: &str, path: &Path, pipeline: &Pipeline, folder: &Path) {
    let megabytes = std::fs::metadata(path).expect("the file is there").len() as f64 / 1e6;
    let documents = folder.join("documents.jsonl");
    let sides: [(&str, &dyn Fn() -> u64); 5] = [
        ("bare loop, 1 thread", &|| bare(path)),
        ("recipe, 1 thread, documents written", &|| full(path, pipeline, 1, Some(&documents))),
        ("recipe, 1 thread, account alone", &|| full(path, pipeline, 1, None)),
        ("recipe, 2 threads, documents written", &|| full(path, pipeline, 2, Some(&documents))),
        ("recipe, 2 threads, account alone", &|| full(path, pipeline, 2, None)),
    ];
    let mut best: BTreeMap<usize, f64> = BTreeMap::new();
    let mut tokens = [0; 5];
    for _ in 0..ROUNDS {
        for (index, (_, side)) in sides.iter().enumerate() {
            // Giving back the room of an old file is no part of the work.
            let _ = std::fs::remove_file(&documents);
            let begun = Instant::now();
            tokens[index] = side();
            let seconds = begun.elapsed().as_secs_f64();
            best.entry(index).and_modify(|best| *best = best.min(seconds)).or_insert(seconds);
        }
    }
    assert!(tokens[1..].iter().all(|&count| count == tokens[1]), "every way counts the same");
    println!("\n{name} ({megabytes:.0} MB, {} tokens)", tokens[1]);
    println!("{:<40} {:>8} {:>14} {:>16}", "", "MB/s", "of bare loop", "of one thread");
    for (index, (side, _)) in sides.iter().enumerate() {
        let to_bare = best[&0] / best[&index];
        let to_one =
            if index >= 3 { format!("{:.2}", best[&(index - 2)] / best[&index]) } else { String::new() };
        println!("{side:<40} {:>8.1} {to_bare:>14.2} {to_one:>16}", megabytes / best[&index]);
    }
}

/// Every text step and every splitter alone.
const ALONE: &[&str] = &[
    "do = \"unicode\"",
    "do = \"unicode\"\nform = \"nfkc\"\nrepair = true",
    "do = \"markup\"",
    "do = \"lines\"\nrejoin = true\nunwrap = true",
    "do = \"mask\"\nkinds = [\"url\", \"email\", \"phone\", \"mention\", \"date\", \"money\"]",
    "do = \"contractions\"",
    "do = \"case\"",
    "do = \"case\"\nspare_acronyms = true",
    "do = \"accents\"",
    "do = \"replace\"\npairs = { colour = \"color\", tern = \"bird\" }",
    "do = \"replace\"\npattern = '[0-9]+ km'",
    "do = \"erase\"\nclasses = [\"punctuation\"]",
    "do = \"repeats\"",
    "do = \"spaces\"",
    "do = \"split\"",
    "do = \"split\"\ninto = \"spaces\"",
    "do = \"split\"\ninto = \"clitics\"",
    "do = \"split\"\ninto = \"posts\"",
    "do = \"split\"\nhyphens = \"keep\"",
    "do = \"split\"\ninto = \"pattern\"\npattern = '[A-Za-z]+'",
    "do = \"split\"\ninto = \"characters\"",
    "do = \"split\"\ninto = \"characters\"\nsize = 3",
    "do = \"split\"\ninto = \"sentences\"",
    "do = \"split\"\ninto = \"sentences\"\nrules = \"unicode\"",
    "do = \"split\"\ninto = \"paragraphs\"",
    "do = \"split\"\ninto = \"lines\"",
    "do = \"split\"\ngroup = 100",
];

/// Each step by itself on text in memory, on one thread: a text step rewrites, a splitter splits and its tokens are counted. Beside the bare
/// loop over the same text.
fn alone() {
    let notes = include_str!("../../../demo/field-notes.jsonl");
    let mut documents: Vec<String> = Vec::new();
    let mut bytes = 0;
    while bytes < 8_000_000 {
        for line in notes.lines() {
            let value: serde_json::Value = serde_json::from_str(line).expect("the demo is valid");
            let text = value["note"]["text"].as_str().expect("a note").to_owned();
            bytes += text.len();
            documents.push(text);
        }
    }
    let best = |work: &mut dyn FnMut()| {
        let round = |work: &mut dyn FnMut()| {
            let begun = Instant::now();
            work();
            begun.elapsed().as_secs_f64()
        };
        (0..ROUNDS).map(|_| round(work)).fold(f64::INFINITY, f64::min)
    };
    let classes = word_classes();
    let bare = best(&mut || {
        let mut counts: HashMap<Vec<u8>, u64, foldhash::fast::RandomState> = HashMap::default();
        let mut word = Vec::new();
        let count = |text: &String| count_words(text.as_bytes(), &classes, &mut word, &mut counts);
        assert!(documents.iter().map(count).sum::<u64>() > 0);
    });
    println!("\neach step alone, on the demo notes in memory ({:.0} MB, one thread)", bytes as f64 / 1e6);
    println!("{:<72} {:>8} {:>14}", "", "MB/s", "of bare loop");
    println!("{:<72} {:>8.1}", "bare loop", bytes as f64 / 1e6 / bare);
    for step in ALONE {
        let recipe = recipe::read(&format!("language = \"en\"\n[[step]]\n{step}\n")).expect("a recipe");
        let pipeline = Pipeline::compile(&recipe, &FolderLists::new(PathBuf::new())).expect("it compiles");
        let seconds = best(&mut || {
            if pipeline.is_text_recipe() {
                let mut rewriter = pipeline.rewriter();
                assert!(
                    documents.iter().map(|text| rewriter.rewrite(text, &NoFields).len()).sum::<usize>() > 0
                );
            } else {
                let mut worker = Worker::new(&pipeline, Outputs::default());
                assert!(
                    documents.iter().map(|text| worker.document(text, &NoFields).tokens_after).sum::<u64>()
                        > 0
                );
            }
        });
        let name = step.replace("do = ", "").replace('\n', ", ");
        println!("{name:<72} {:>8.1} {:>14.2}", bytes as f64 / 1e6 / seconds, bare / seconds);
    }
}

/// Steps that reduce, tag and join words, each put behind the same recipe: what they add to its time.
fn word_forms() {
    const BASE: &str = "language = \"en\"\n[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\n[[step]]\ndo = \"stopwords\"\nlists = [\"en\"]\n";
    const MORE: &[&str] = &[
        "do = \"lemma\"",
        "do = \"stem\"",
        "do = \"stem\"\nmethod = \"paice\"",
        "do = \"equate\"\ntables = [\"british\"]",
        "do = \"equate\"\nwords = { \"grey gull\" = \"gull\" }",
        "do = \"phrases\"\nadd = [\"marsh harrier\", \"nest box\"]",
        "do = \"label\"\nname = \"bird\"\nadd = [\"tern\", \"marsh harrier\"]",
        "do = \"ngrams\"\nsmallest = 1",
        "do = \"unique\"",
        "do = \"tag\"",
        "do = \"tag\"\n[[step]]\ndo = \"lemma\"",
    ];
    let notes = include_str!("../../../demo/field-notes.jsonl");
    let mut texts: Vec<String> = Vec::new();
    while texts.iter().map(String::len).sum::<usize>() < 8_000_000 {
        texts.extend(notes.lines().map(|line| {
            let value: serde_json::Value = serde_json::from_str(line).expect("the demo is valid");
            value["note"]["text"].as_str().expect("a note").to_owned()
        }));
    }
    let bytes: usize = texts.iter().map(String::len).sum();
    let compiled = |recipe: &str| {
        let recipe = recipe::read(recipe).expect("a recipe");
        Pipeline::compile(&recipe, &FolderLists::new(PathBuf::new())).expect("it compiles")
    };
    let base = compiled(BASE);
    let once = |pipeline: &Pipeline| {
        let begun = Instant::now();
        let mut worker = Worker::new(pipeline, Outputs { clean: true, tokens: false, ends: false });
        let found: u64 = texts.iter().map(|text| worker.document(text, &NoFields).tokens_before).sum();
        (begun.elapsed().as_secs_f64(), found)
    };
    println!(
        "\nsteps behind case, words and stop words, on the demo notes in memory ({:.0} MB, one thread)",
        bytes as f64 / 1e6
    );
    println!("{:<72} {:>12} {:>14}", "", "M tokens/s", "time to base");
    let (seconds, tokens) = once(&base);
    println!("{:<72} {:>12.2}", "base", tokens as f64 / 1e6 / seconds);
    for step in MORE {
        let more = compiled(&format!("{BASE}[[step]]\n{step}\n"));
        // Both sides take turns, so that a slow moment of the machine does not fall on one alone.
        let (mut own, mut other) = (f64::INFINITY, f64::INFINITY);
        for _ in 0..ROUNDS {
            own = own.min(once(&more).0);
            other = other.min(once(&base).0);
        }
        let name = step.replace("do = ", "").replace("[[step]]\n", "").replace('\n', ", ");
        println!("{name:<72} {:>12.2} {:>14.2}", tokens as f64 / 1e6 / own, own / other);
    }
}

/// The layers of the recipe on one thread, on text in memory.
fn splitting(pipeline: &Pipeline) {
    let mut numbers = Numbers(7);
    let words = words(&mut numbers);
    let spread = (words.len() as f64).ln();
    let mut text = String::new();
    while text.len() < 8_000_000 {
        let rank = ((numbers.unit() * spread).exp() as usize - 1).min(words.len() - 1);
        text.push_str(&words[rank]);
        text.push_str(if numbers.below(12) == 0 { ". " } else { " " });
    }
    println!("layers on text in memory (8 MB)");
    let mut spans = Vec::new();
    let timed = |name: &str, work: &mut dyn FnMut()| {
        let best = (0..ROUNDS)
            .map(|_| {
                let begun = Instant::now();
                work();
                begun.elapsed().as_secs_f64()
            })
            .fold(f64::INFINITY, f64::min);
        println!("{name:<40} {:>8.1} MB/s", text.len() as f64 / 1e6 / best);
    };
    timed("split into words", &mut || {
        spans.clear();
        yarrup_core::split::Splitter::split(&yarrup_core::split::Words::default(), &text, &mut spans);
    });
    timed("the recipe, account alone", &mut || {
        let mut worker = Worker::new(pipeline, Outputs::default());
        for chunk in 0..8 {
            worker.document(&text[chunk * 1_000_000..(chunk + 1) * 1_000_000], &NoFields);
        }
    });
    assert!(spans.len() > 1_000_000);
}

fn whole_run(path: &Path, threads: usize, folder: &Path) {
    let out = folder.join("run");
    let recipe = folder.join("full-recipe.toml");
    std::fs::write(&recipe, RECIPE).expect("the bench can write");
    let mut best = f64::INFINITY;
    let mut peak = 0;
    for _ in 0..3 {
        let begun = Instant::now();
        let mut child = Command::new(env!("CARGO_BIN_EXE_yarrup"))
            .args(["run", "--quiet", "--replace", "--threads", &threads.to_string(), "--out"])
            .args([&out, &recipe, path])
            .stdout(std::process::Stdio::null())
            .spawn()
            .expect("the program starts");
        // The peak stands in /proc as long as the process does: the last look before the end is the one that counts.
        let status = format!("/proc/{}/status", child.id());
        loop {
            if let Ok(status) = std::fs::read_to_string(&status) {
                let line = status.lines().find_map(|line| line.strip_prefix("VmHWM:"));
                let kilobytes = line.and_then(|line| line.trim().trim_end_matches(" kB").parse::<u64>().ok());
                peak = peak.max(kilobytes.unwrap_or(0));
            }
            if child.try_wait().expect("the program can be waited for").is_some() {
                break;
            }
            std::thread::sleep(std::time::Duration::from_millis(2));
        }
        best = best.min(begun.elapsed().as_secs_f64());
    }
    let record = std::fs::read(out.join("run.json")).expect("a run");
    let record: serde_json::Value = serde_json::from_slice(&record).expect("its record");
    let name = path.file_stem().map(|stem| stem.to_string_lossy().into_owned()).unwrap_or_default();
    println!(
        "{name:<24} {threads:>8} {best:>10.3} {:>9.1} MB {:>10}",
        peak as f64 / 1024.0,
        record["totals"]["forms"]
    );
}
