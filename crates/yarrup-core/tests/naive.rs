//! A naive program for small recipes, written from what docs/recipe.md says and sharing nothing with the engine but its tagger: it splits,
//! finds paragraphs, joins, drops and counts by itself, document by document and token by token. The account of the engine must be its.

use std::borrow::Cow;
use std::cmp::Reverse;
use std::collections::{BTreeMap, BTreeSet};

use proptest::prelude::*;
use yarrup_core::recipe::{self};
use yarrup_core::tag::{Tagger, english};
use yarrup_core::{Account, Fields, FormFate, NoFiles, Outputs, Pipeline, Tag, Worker};

#[derive(Clone, Debug)]
struct Document {
    text: String,
    site: &'static str,
}

impl Fields for Document {
    fn field(&self, path: &str) -> Option<Cow<'_, str>> {
        (path == "site").then_some(Cow::Borrowed(self.site))
    }
}

/// What a step of a small recipe does.
#[derive(Clone, Copy, Debug)]
enum Does {
    Lower,
    DropShort(usize),
    Stop(&'static [&'static str]),
    Equate(&'static [(&'static str, &'static str)]),
    Label(&'static [&'static str]),
    DropLabelled,
    Phrases(&'static [&'static str]),
    NGrams(usize, usize),
    Unique,
    Limit(&'static [&'static str]),
    Tag,
    DropTagged,
    FewestTokens(usize),
    WithoutTerm(&'static str),
}

#[derive(Clone, Copy, Debug)]
struct Step {
    does: Does,
    /// Whether it works on documents of the site `spit` alone.
    only: bool,
    spares: Spares,
}

/// What a step must leave alone.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Spares {
    Nothing,
    Tern,
    /// Two words, where they stand together.
    MarshHarrier,
    /// What is labelled.
    Labelled,
}

fn quoted(words: &[&str]) -> String {
    words.iter().map(|word| format!("{word:?}")).collect::<Vec<_>>().join(", ")
}

impl Step {
    fn toml(&self) -> String {
        let step = match self.does {
            Does::Lower => "do = \"case\"".to_owned(),
            Does::DropShort(least) => format!("do = \"drop\"\nshorter_than = {least}"),
            Does::Stop(words) => format!("do = \"stopwords\"\nadd = [{}]", quoted(words)),
            Does::Equate(pairs) => {
                let pairs: Vec<_> = pairs.iter().map(|(from, to)| format!("{from:?} = {to:?}")).collect();
                format!("do = \"equate\"\nwords = {{ {} }}", pairs.join(", "))
            }
            Does::Label(words) => format!("do = \"label\"\nname = \"bird\"\nadd = [{}]", quoted(words)),
            Does::DropLabelled => "do = \"drop\"\nlabels = [\"bird\"]".to_owned(),
            Does::Phrases(phrases) => format!("do = \"phrases\"\nadd = [{}]", quoted(phrases)),
            Does::NGrams(smallest, size) => format!("do = \"ngrams\"\nsmallest = {smallest}\nsize = {size}"),
            Does::Unique => "do = \"unique\"".to_owned(),
            Does::Limit(known) => format!("do = \"limit\"\ntop = 9\nknown = [{}]", quoted(known)),
            Does::Tag => "do = \"tag\"".to_owned(),
            Does::DropTagged => "do = \"drop\"\ntags = [\"noun\"]".to_owned(),
            Does::FewestTokens(least) => format!("do = \"documents\"\nmin_tokens = {least}"),
            Does::WithoutTerm(term) => format!("do = \"documents\"\nwithout = [{term:?}]"),
        };
        let only = if self.only { "only = { site = \"spit\" }\n" } else { "" };
        let spare = match self.spares {
            Spares::Nothing => "",
            Spares::Tern => "spare = [\"tern\"]\n",
            Spares::MarshHarrier => "spare = [\"Marsh harrier\"]\n",
            Spares::Labelled => "spare = { labels = [\"bird\"] }\n",
        };
        format!("[[step]]\n{step}\n{only}{spare}")
    }
}

/// What a form ended as: the term, or the step that dropped it, or the step and the token that it went into.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
enum End {
    Kept(String),
    Dropped(usize),
    Joined(usize, Option<String>),
}

#[derive(Clone, Debug)]
struct Token {
    now: String,
    /// What reports name it by.
    name: String,
    first: usize,
    last: usize,
    /// Whether a paragraph began with it at the split.
    begins: bool,
    /// Of what stands before it now: 0 for nothing, 1 for words that were dropped, 2 for marks, 3 for the border of a paragraph.
    gap: u8,
    tag: Option<Tag>,
    labelled: bool,
}

#[derive(Clone, Debug, Default, PartialEq, Eq)]
struct StepCounts {
    documents: BTreeSet<usize>,
    tokens_in: u64,
    dropped: u64,
    joined: u64,
    added: u64,
    changed: u64,
    marked: u64,
    tokens_out: u64,
    types_in: BTreeSet<String>,
    types_out: BTreeSet<String>,
}

type FormKey = (String, Option<Tag>, End);

#[derive(Default)]
struct Naive {
    steps: Vec<StepCounts>,
    /// Tokens, and the documents that they stand in.
    forms: BTreeMap<FormKey, (u64, BTreeSet<usize>)>,
    terms: BTreeMap<String, (u64, BTreeSet<usize>)>,
    left_out: u64,
}

impl Naive {
    fn end(&mut self, document: usize, token: &Token, end: End) {
        if let End::Kept(term) = &end {
            let known = self.terms.entry(term.clone()).or_default();
            known.0 += 1;
            known.1.insert(document);
        }
        let known = self.forms.entry((token.name.clone(), token.tag, end)).or_default();
        known.0 += 1;
        known.1.insert(document);
    }
}

fn small(text: &str) -> String {
    text.to_lowercase()
}

/// Tokens between white space, or runs of characters of these; a paragraph begins behind an empty line.
fn split(text: &str, characters: Option<usize>) -> Vec<Token> {
    let mut tokens: Vec<Token> = Vec::new();
    let mut breaks = 2;
    for line in text.split_inclusive('\n') {
        for word in line.split_whitespace() {
            let letters: Vec<char> = word.chars().collect();
            let parts: Vec<String> = match characters {
                None => vec![word.to_owned()],
                Some(size) if letters.len() <= size => vec![word.to_owned()],
                Some(size) => letters.windows(size).map(|run| run.iter().collect()).collect(),
            };
            for (place, part) in parts.into_iter().enumerate() {
                let at = tokens.len();
                let begins = at == 0 || (place == 0 && breaks > 1);
                let token = Token {
                    now: part.clone(),
                    name: part,
                    first: at,
                    last: at,
                    begins,
                    gap: 0,
                    tag: None,
                    labelled: false,
                };
                tokens.push(token);
            }
            breaks = 0;
        }
        if line.ends_with('\n') {
            breaks += 1;
        }
    }
    tokens
}

/// Tells each token what stands before it now; `all` are the tokens of the split.
fn look_back(tokens: &mut [Token], all: &[Token]) {
    let mut before: Option<usize> = None;
    for token in tokens {
        token.gap = match before {
            None => 3,
            Some(last) if last >= token.first => 0,
            Some(last) if all[last + 1..=token.first].iter().any(|one| one.begins) => 3,
            Some(last) => {
                let left = all[last + 1..token.first].iter();
                let is_word = |word: &str| word.chars().any(|c| c.is_alphanumeric() || c == '-');
                left.map(|one| if is_word(&one.name) { 1 } else { 2 }).max().unwrap_or(0)
            }
        };
        before = before.max(Some(token.last));
    }
}

/// A term as it arrives at a step: its words, and what stands before each.
type Arrived = Vec<(String, u8)>;

/// How a term arrives behind these steps, in documents of either site, its words as they are compared: none if its first or last word does not.
fn arrivals_as(
    term: &str,
    before: &[Step],
    characters: Option<usize>,
    compared: &dyn Fn(&str) -> String,
) -> Vec<Arrived> {
    let several = term.contains(' ');
    let mut ways = vec![];
    if !several {
        ways.push(vec![(compared(term), 0)]);
    }
    for site in ["hide", "spit"] {
        let all = split(term, characters);
        let mut tokens = all.clone();
        let mut unused = Naive { steps: vec![StepCounts::default(); before.len()], ..Naive::default() };
        for (number, step) in before.iter().enumerate() {
            look_back(&mut tokens, &all);
            let asks_documents = matches!(step.does, Does::FewestTokens(_) | Does::WithoutTerm(_));
            if (step.only && site != "spit") || asks_documents {
                continue;
            }
            let way = Way { number, before: &before[..number], characters };
            tokens = apply(step, &way, 0, tokens, &mut unused).expect("no document is asked about");
        }
        look_back(&mut tokens, &all);
        let whole = tokens.iter().map(|token| token.first).min() == Some(0)
            && tokens.iter().map(|token| token.last).max() == Some(all.len() - 1);
        if whole && (several || tokens.len() > 1) {
            let mut way: Arrived = tokens.iter().map(|token| (compared(&token.now), token.gap)).collect();
            way[0].1 = 0;
            ways.push(way);
        }
    }
    ways
}

/// Where terms stand: the longest from left to right, whole tokens, not over wider gaps than they have, nor over a spared token.
fn found(
    tokens: &[Token],
    terms: &[&str],
    way: &Way<'_>,
    spared: &dyn Fn(&Token) -> bool,
) -> Vec<(usize, usize, usize)> {
    found_as(tokens, terms, way, spared, &small)
}

/// As [`found`], with words as they are compared.
fn found_as(
    tokens: &[Token],
    terms: &[&str],
    way: &Way<'_>,
    spared: &dyn Fn(&Token) -> bool,
    compared: &dyn Fn(&str) -> String,
) -> Vec<(usize, usize, usize)> {
    let arrived = |(number, term): (usize, &&str)| {
        let ways = arrivals_as(term, way.before, way.characters, compared);
        ways.into_iter().map(move |words| (words, number)).collect::<Vec<_>>()
    };
    let arrived: Vec<(Arrived, usize)> = terms.iter().enumerate().flat_map(arrived).collect();
    let mut places = Vec::new();
    let mut at = 0;
    while at < tokens.len() {
        let fits = |(words, _): &&(Arrived, usize)| {
            let end = at + words.len();
            end <= tokens.len()
                && (at..end).zip(words.iter()).all(|(place, (word, gap))| {
                    compared(&tokens[place].now) == *word
                        && !spared(&tokens[place])
                        && (place == at || (tokens[place].gap < 3 && tokens[place].gap <= *gap))
                })
        };
        // Of the longest, the first that is written.
        let longest =
            arrived.iter().filter(fits).max_by_key(|(words, number)| (words.len(), Reverse(*number)));
        match longest {
            Some((words, number)) => {
                places.push((at, at + words.len(), *number));
                at += words.len();
            }
            None => at += 1,
        }
    }
    places
}

/// A step in its place.
struct Way<'s> {
    number: usize,
    before: &'s [Step],
    characters: Option<usize>,
}

fn joined(parts: &[Token], now: String) -> Token {
    let name = parts.iter().map(|token| token.name.as_str()).collect::<Vec<_>>().join(" ");
    let names = parts.iter().map(|token| token.tag).find(|tag| *tag == Some(Tag::ProperNoun));
    Token {
        now,
        name,
        first: parts[0].first,
        last: parts[parts.len() - 1].last,
        begins: parts[0].begins,
        gap: parts[0].gap,
        tag: names.unwrap_or(parts[parts.len() - 1].tag),
        labelled: parts.iter().any(|token| token.labelled),
    }
}

/// Sentences end at full stops and where paragraphs begin.
fn tags(tokens: &[Token]) -> Vec<Tag> {
    let mut all = Vec::new();
    let mut tagger = Tagger::new(english());
    let mut start = 0;
    for end in 1..=tokens.len() {
        if end == tokens.len() || tokens[end].gap == 3 || tokens[end - 1].now == "." {
            let mut tags = Vec::new();
            tagger.tag(tokens[start..end].iter().map(|token| token.now.as_str()), &mut tags);
            all.extend(tags);
            start = end;
        }
    }
    all
}

/// What a step makes of the tokens of a document. `None` leaves the document out.
fn apply(
    step: &Step,
    way: &Way<'_>,
    document: usize,
    tokens: Vec<Token>,
    naive: &mut Naive,
) -> Option<Vec<Token>> {
    // As it is written with a capital, it is spared only so.
    let together: Vec<(usize, usize)> = match step.spares {
        Spares::MarshHarrier => {
            let places = found_as(&tokens, &["Marsh harrier"], way, &|_| false, &str::to_owned);
            let places = places.into_iter().flat_map(|(start, end, _)| start..end);
            places.map(|at| (tokens[at].first, tokens[at].last)).collect()
        }
        _ => Vec::new(),
    };
    let spares = |token: &Token| match step.spares {
        Spares::Nothing => false,
        Spares::Tern => small(&token.now) == "tern",
        Spares::MarshHarrier => together.contains(&(token.first, token.last)),
        Spares::Labelled => token.labelled,
    };
    let mut left: Vec<Token> = Vec::new();
    let number = way.number;
    let (mut dropped, mut joined_up, mut added, mut changed, mut marked) = (0, 0, 0, 0, 0);
    // What drops, and what changes, token by token.
    let drops = |token: &Token| match step.does {
        Does::DropShort(least) => token.now.chars().count() < least,
        Does::Stop(words) => words.iter().any(|word| small(word) == small(&token.now)),
        Does::DropLabelled => token.labelled,
        Does::DropTagged => token.tag == Some(Tag::Noun),
        Does::Limit(known) => !known.contains(&token.now.as_str()),
        _ => false,
    };
    match step.does {
        Does::Lower => {
            for mut token in tokens {
                let to = small(&token.now);
                if !spares(&token) && to != token.now {
                    token.now = to;
                    changed += 1;
                }
                left.push(token);
            }
        }
        Does::Equate(pairs) => {
            let variants: Vec<&str> = pairs.iter().map(|(variant, _)| *variant).collect();
            let places = found(&tokens, &variants, way, &spares);
            let mut at = 0;
            for (start, end, number) in places.into_iter().chain([(tokens.len(), tokens.len(), 0)]) {
                left.extend(tokens[at..start].iter().cloned());
                at = end;
                let to = pairs[number].1;
                match &tokens[start..end] {
                    [] => {}
                    [one] => {
                        changed += u64::from(one.now != to);
                        left.push(Token { now: to.to_owned(), ..one.clone() });
                    }
                    several => {
                        for token in several {
                            naive.end(document, token, End::Joined(way.number, Some(to.to_owned())));
                            joined_up += 1;
                        }
                        left.push(joined(several, to.to_owned()));
                        added += 1;
                    }
                }
            }
        }
        Does::Label(words) => {
            let places = found(&tokens, words, way, &spares);
            left = tokens;
            for place in places.into_iter().flat_map(|(start, end, _)| start..end) {
                left[place].labelled = true;
                marked += 1;
            }
        }
        Does::Tag => {
            let tags = tags(&tokens);
            left = tokens;
            for (token, tag) in left.iter_mut().zip(tags) {
                if !spares(token) {
                    token.tag = Some(tag);
                    marked += 1;
                }
            }
        }
        Does::Phrases(phrases) => {
            let places = found(&tokens, phrases, way, &spares);
            // One token is no phrase, though an earlier step may have made it of several.
            let places: Vec<_> = places.into_iter().filter(|(start, end, _)| end - start > 1).collect();
            for (at, token) in tokens.iter().enumerate() {
                match places.iter().find(|(start, end, _)| (*start..*end).contains(&at)) {
                    None => left.push(token.clone()),
                    Some(&(start, end, _)) => {
                        let words: Vec<&str> =
                            tokens[start..end].iter().map(|token| token.now.as_str()).collect();
                        let whole = words.join("_");
                        naive.end(document, token, End::Joined(number, Some(whole.clone())));
                        joined_up += 1;
                        if at == start {
                            left.push(joined(&tokens[start..end], whole));
                            added += 1;
                        }
                    }
                }
            }
        }
        Does::NGrams(smallest, size) => {
            let parts = |token: &Token| !token.now.chars().any(char::is_alphanumeric);
            let mut into = vec![Vec::new(); tokens.len()];
            for start in 0..tokens.len() {
                for length in smallest..=size.min(tokens.len() - start) {
                    let run = &tokens[start..start + length];
                    let broken = run[1..].iter().any(|token| token.gap > 0) || run.iter().any(parts);
                    if !run.iter().any(spares) && (length == 1 || !broken) {
                        let words: Vec<&str> = run.iter().map(|token| token.now.as_str()).collect();
                        let whole = words.join("_");
                        into[start..start + length].iter_mut().for_each(|into| into.push(whole.clone()));
                        left.push(joined(run, whole));
                        added += 1;
                    }
                }
            }
            for (token, into) in tokens.iter().zip(into) {
                match into.as_slice() {
                    _ if spares(token) => left.push(token.clone()),
                    [] => {
                        naive.end(document, token, End::Dropped(number));
                        dropped += 1;
                    }
                    several => {
                        let one = Some(several[0].clone()).filter(|_| several.len() == 1);
                        naive.end(document, token, End::Joined(number, one));
                        joined_up += 1;
                    }
                }
            }
            left.sort_by_key(|token| (token.first, token.last));
        }
        Does::Unique => {
            let mut seen = BTreeSet::new();
            for token in tokens {
                if spares(&token) || seen.insert(token.now.clone()) {
                    left.push(token);
                } else {
                    naive.end(document, &token, End::Dropped(number));
                    dropped += 1;
                }
            }
        }
        Does::FewestTokens(_) | Does::WithoutTerm(_) => {
            let goes = match step.does {
                Does::FewestTokens(least) => tokens.len() < least,
                Does::WithoutTerm(term) => !found(&tokens, &[term], way, &spares).is_empty(),
                _ => false,
            };
            if goes {
                for token in &tokens {
                    naive.end(document, token, End::Dropped(number));
                }
                let counts = &mut naive.steps[number];
                counts.dropped += tokens.len() as u64;
                counts.documents.insert(document);
                return None;
            }
            left = tokens;
        }
        Does::DropShort(_) | Does::Stop(_) | Does::DropLabelled | Does::DropTagged | Does::Limit(_) => {
            for token in tokens {
                if !spares(&token) && drops(&token) {
                    naive.end(document, &token, End::Dropped(number));
                    dropped += 1;
                } else {
                    left.push(token);
                }
            }
        }
    }
    let counts = &mut naive.steps[number];
    counts.dropped += dropped;
    counts.joined += joined_up;
    counts.added += added;
    counts.changed += changed;
    counts.marked += marked;
    if dropped + joined_up + added + changed + marked > 0 {
        counts.documents.insert(document);
    }
    Some(left)
}

fn run(steps: &[Step], characters: Option<usize>, documents: &[Document]) -> Naive {
    let mut naive = Naive { steps: vec![StepCounts::default(); steps.len()], ..Naive::default() };
    for (number, document) in documents.iter().enumerate() {
        let all = split(&document.text, characters);
        let mut tokens = Some(all.clone());
        for (index, step) in steps.iter().enumerate() {
            let Some(mut now) = tokens.take() else { break };
            look_back(&mut now, &all);
            let way = Way { number: index, before: &steps[..index], characters };
            naive.steps[index].tokens_in += now.len() as u64;
            naive.steps[index].types_in.extend(now.iter().map(|token| token.now.clone()));
            let works = !step.only || document.site == "spit";
            tokens = if works { apply(step, &way, number, now, &mut naive) } else { Some(now) };
            let out = tokens.as_deref().unwrap_or_default();
            naive.steps[index].tokens_out += out.len() as u64;
            naive.steps[index].types_out.extend(out.iter().map(|token| token.now.clone()));
        }
        naive.left_out += u64::from(tokens.is_none());
        for token in tokens.unwrap_or_default() {
            let term = token.now.clone();
            naive.end(number, &token, End::Kept(term));
        }
    }
    naive
}

fn steps() -> impl Strategy<Value = Vec<Step>> {
    const DOES: &[Does] = &[
        Does::Lower,
        Does::DropShort(3),
        Does::Stop(&["the", "Nest"]),
        Does::Stop(&["of", "."]),
        Does::Equate(&[("terns", "tern"), ("gull", "bird"), ("the", "a")]),
        Does::Equate(&[("nest box", "box"), ("nest", "home"), ("a nest of", "nest")]),
        Does::Label(&["tern", "marsh harrier"]),
        Does::DropLabelled,
        Does::Phrases(&["marsh harrier", "the tern", "harrier nest box"]),
        Does::Phrases(&["nest of the tern", "Marsh. harrier", "terns nesting"]),
        Does::NGrams(1, 2),
        Does::NGrams(2, 3),
        Does::Unique,
        Does::Limit(&["tern", "the", "nest", "marsh_harrier", "bird"]),
        Does::Tag,
        Does::DropTagged,
        Does::FewestTokens(4),
        Does::WithoutTerm("marsh harrier"),
    ];
    let spares = prop_oneof![
        6 => Just(Spares::Nothing),
        1 => Just(Spares::Tern),
        1 => Just(Spares::MarshHarrier),
        1 => Just(Spares::Labelled),
    ];
    let step = (prop::sample::select(DOES), prop::bool::weighted(0.25), spares)
        .prop_map(|(does, only, spares)| Step { does, only, spares });
    prop::collection::vec(step, 1..6).prop_map(|mut steps| {
        // Labels and tags can be dropped only behind a step that gives them.
        let mut labelled = false;
        let mut tagged = false;
        steps.retain(|step| {
            labelled |= matches!(step.does, Does::Label(_));
            tagged |= matches!(step.does, Does::Tag);
            match step.does {
                Does::DropLabelled => labelled,
                Does::DropTagged => tagged,
                _ => true,
            }
        });
        // Documents are left out as they are: sparing a word has no say in it.
        for step in &mut steps {
            if matches!(step.does, Does::FewestTokens(_) | Does::WithoutTerm(_)) {
                step.spares = Spares::Nothing;
            }
        }
        // Only what is labelled before can be spared for it.
        let mut labelled = false;
        for step in &mut steps {
            if step.spares == Spares::Labelled && !labelled {
                step.spares = Spares::Tern;
            }
            labelled |= matches!(step.does, Does::Label(_));
        }
        steps
    })
}

fn documents() -> impl Strategy<Value = Vec<Document>> {
    const WORDS: &[&str] = &[
        "the", "The", "tern", "Tern", "terns", "marsh", "Marsh", "harrier", "nest", "box", "gull", "a",
        "saw", "nesting", ".", "—", "warm", "they", "of",
    ];
    let gap = prop::sample::select(&[" ", " ", " ", "  ", "\n", "\n\n", "\n \n", "\r\n", "\r\n\r\n"][..]);
    let text = prop::collection::vec((prop::sample::select(WORDS), gap), 0..16)
        .prop_map(|pieces| pieces.into_iter().map(|(word, gap)| format!("{word}{gap}")).collect::<String>());
    let document =
        (text, prop::sample::select(&["spit", "hide"][..])).prop_map(|(text, site)| Document { text, site });
    prop::collection::vec(document, 0..7)
}

fn engine(recipe: &str, documents: &[Document]) -> Account {
    let recipe = recipe::read(recipe).unwrap_or_else(|faults| panic!("{faults:?}"));
    let pipeline = Pipeline::compile(&recipe, &NoFiles).unwrap_or_else(|faults| panic!("{faults:?}"));
    let mut worker = Worker::new(&pipeline, Outputs { clean: true, tokens: true, ends: false });
    for document in documents {
        worker.document(&document.text, document);
    }
    worker.into_account()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(600))]

    #[test]
    fn the_account_is_that_of_a_naive_program(
        steps in steps(),
        characters in prop_oneof![4 => Just(None), 1 => Just(Some(1)), 1 => Just(Some(2)), 1 => Just(Some(3))],
        documents in documents(),
    ) {
        let into = match characters {
            None => "into = \"spaces\"".to_owned(),
            Some(size) => format!("into = \"characters\"\nsize = {size}"),
        };
        let written: String = steps.iter().map(Step::toml).collect();
        let recipe = format!("[[step]]\ndo = \"split\"\n{into}\n{written}");
        let account = engine(&recipe, &documents);
        prop_assert!(account.is_balanced() && account.is_sound());
        let naive = run(&steps, characters, &documents);

        for (counts, effect) in naive.steps.iter().zip(&account.effects()[2..]) {
            prop_assert_eq!(effect.documents_touched, Some(counts.documents.len() as u64), "{} {}", effect.step, recipe);
            prop_assert_eq!(effect.tokens_in, Some(counts.tokens_in));
            prop_assert_eq!(effect.tokens_dropped, Some(counts.dropped), "{} {}", effect.step, recipe);
            prop_assert_eq!(effect.tokens_joined, Some(counts.joined), "{} {}", effect.step, recipe);
            prop_assert_eq!(effect.tokens_marked, Some(counts.marked), "{} {}", effect.step, recipe);
            prop_assert_eq!(effect.tokens_added, Some(counts.added));
            prop_assert_eq!(effect.tokens_changed, Some(counts.changed), "{} {}", effect.step, recipe);
            prop_assert_eq!(effect.tokens_out, Some(counts.tokens_out));
            prop_assert_eq!(effect.types_in, Some(counts.types_in.len() as u64));
            prop_assert_eq!(effect.types_out, Some(counts.types_out.len() as u64), "{} {}", effect.step, recipe);
        }
        prop_assert_eq!(account.totals.dropped, naive.left_out);

        let mut forms: Vec<(FormKey, u64, u64)> = account.forms().map(|form| {
            let end = match form.fate {
                FormFate::Kept { term } => End::Kept(term.to_owned()),
                FormFate::Dropped { step, .. } => End::Dropped(step - 2),
                FormFate::Joined { step, into } => End::Joined(step - 2, into.map(str::to_owned)),
            };
            ((form.text.to_owned(), form.tag, end), form.count, form.documents)
        }).collect();
        forms.sort();
        let expected: Vec<_> =
            naive.forms.iter().map(|(key, (count, documents))| (key.clone(), *count, documents.len() as u64)).collect();
        prop_assert_eq!(forms, expected, "{}", recipe);

        for term in account.vocabulary() {
            let (count, documents) = &naive.terms[term.text];
            prop_assert_eq!((term.count, term.documents), (*count, documents.len() as u64));
            let (why, parts) = (account.forms_of(term.text), account.parts_of(term.text));
            prop_assert_eq!(why.iter().map(|row| row.count).sum::<u64>(), *count, "{}", recipe);
            let names: BTreeSet<&str> = why.iter().map(|row| row.text).collect();
            prop_assert_eq!(names.len() as u64, term.forms);
            let goes_in = |fate: &FormFate<'_>| matches!(fate, FormFate::Joined { into: Some(into), .. } if *into == term.text);
            prop_assert!(parts.iter().all(|row| goes_in(&row.fate)));
            // The forms of the term with all their tokens, whatever the part of speech; and the other way round.
            let (mut forms, mut tags) = (BTreeMap::<&str, u64>::new(), BTreeMap::<Tag, u64>::new());
            for ((form, tag, end), (count, _)) in &naive.forms {
                if *end == End::Kept(term.text.to_owned()) {
                    *forms.entry(form).or_default() += count;
                    if let Some(tag) = tag {
                        *tags.entry(*tag).or_default() += count;
                    }
                }
            }
            prop_assert_eq!(term.forms, forms.len() as u64);
            let most = forms.values().max().copied().unwrap_or(0);
            let first = forms.iter().find(|(_, count)| **count == most).map(|(form, _)| *form);
            prop_assert_eq!(Some(term.commonest_form), first);
            let most = tags.values().max().copied().unwrap_or(0);
            prop_assert_eq!(term.tag, tags.iter().find(|(_, count)| **count == most).map(|(tag, _)| *tag));
        }
        prop_assert_eq!(account.vocabulary().len(), naive.terms.len());
    }
}
