//! What a finished run suggests to try next: words for the stop list, misspellings, phrases, boilerplate, names; each with what shows it, and as something
//! that goes into the recipe.
//!
//! An [`Inquiry`] asks the account first which words are suspects. [`Evidence`] is then gathered from the documents for these alone, and decides. A suggestion
//! that is wrong is worse than none: on a run in which all is well little is said.

mod accept;
mod boilerplate;
mod contexts;
mod documents;
mod evidence;
mod names;
mod phrases;
mod remnants;
mod spellings;
mod stop_words;

use hashbrown::{HashMap, HashSet};

pub use accept::{AcceptError, Accepted, accept};
pub use evidence::Evidence;

use crate::account::{Account, WordCounts};
use crate::advice::Advised;
use crate::kind::Kind;
use crate::pipeline::Pipeline;
use crate::recipe::Recipe;
use crate::step::Term;
use crate::words::stop_list;
use spellings::Spelling;

/// A sort of suggestion.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Sort {
    /// Words that stand everywhere and tell no document from another.
    StopWords,
    /// Words that belong together.
    Phrases,
    /// Misspelt words.
    Spellings,
    /// Words that stand in the vocabulary in two ways of writing: with and without accents, in British and American spelling, in two letter cases.
    Variants,
    /// What is left of links, entities and contracted forms.
    Remnants,
    /// Lines and passages that many documents repeat.
    Boilerplate,
    /// Documents that repeat others, or of which hardly anything is left.
    Documents,
    /// Names of people, places and organisations.
    Names,
}

impl Sort {
    /// Every sort, in the order in which they are shown.
    pub const ALL: [Sort; 8] = [
        Sort::Remnants,
        Sort::Spellings,
        Sort::Variants,
        Sort::StopWords,
        Sort::Phrases,
        Sort::Boilerplate,
        Sort::Documents,
        Sort::Names,
    ];

    /// What commands call it.
    pub fn name(self) -> &'static str {
        match self {
            Sort::StopWords => "stop-words",
            Sort::Phrases => "phrases",
            Sort::Spellings => "spellings",
            Sort::Variants => "variants",
            Sort::Remnants => "remnants",
            Sort::Boilerplate => "boilerplate",
            Sort::Documents => "documents",
            Sort::Names => "names",
        }
    }

    /// What it is, in a few words.
    pub fn title(self) -> &'static str {
        match self {
            Sort::StopWords => "Stop words: in most documents, spread evenly",
            Sort::Phrases => "Phrases: words that belong together, up to 1.00 where they always do",
            Sort::Spellings => "Spellings: rare words that look like misspellings of common ones",
            Sort::Variants => "Variants: one word, written in two ways",
            Sort::Remnants => "Remnants: pieces that mean nothing",
            Sort::Boilerplate => "Boilerplate: what many documents repeat",
            Sort::Documents => "Documents: copies, and documents with hardly any text",
            Sort::Names => "Names: words with a capital in the middle of sentences",
        }
    }

    /// The sort with this name.
    pub fn named(name: &str) -> Option<Sort> {
        Sort::ALL.into_iter().find(|sort| sort.name() == name)
    }
}

/// Something to try.
#[derive(Clone, Debug, PartialEq)]
pub struct Suggestion {
    /// What sort it is of.
    pub sort: Sort,
    /// What it is about: a word, a pair of words, a passage, a step.
    pub what: String,
    /// How many tokens, lines or documents it touches.
    pub count: u64,
    /// In how many documents.
    pub documents: u64,
    /// What shows it, in a few words.
    pub because: String,
    /// What goes into the recipe.
    pub proposal: Proposal,
}

/// What goes into a recipe.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Proposal {
    /// A term for the stop list.
    StopWord(String),
    /// A word that becomes another.
    Equate {
        /// The word as it is written.
        from: String,
        /// What it becomes.
        to: String,
    },
    /// A phrase.
    Phrase(String),
    /// Lines that go.
    Lines(Vec<String>),
    /// A passage that goes.
    Passage(String),
    /// A name, with the label that fits it.
    Name {
        /// The name.
        name: String,
        /// The label: `person`, `place`, `organisation` or `name`.
        label: &'static str,
    },
    /// A whole step.
    Step {
        /// The step as TOML.
        toml: String,
        /// Where it goes.
        place: StepPlace,
    },
}

/// Where a new step goes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum StepPlace {
    /// Before the first step that rewrites the text, so that it sees the text as it was found.
    First,
    /// Behind the split and what mends spellings, before words are dropped or reduced.
    BeforeReducing,
    /// Behind all that reduces words, before steps that make runs of them or look at the whole collection.
    BehindReducing,
    /// Behind everything but limits.
    Last,
}

type State = foldhash::fast::FixedState;

/// What is asked of a run.
pub struct Inquiry<'a> {
    account: &'a Account,
    recipe: &'a Recipe,
    pipeline: &'a Pipeline,
    sorts: Vec<Sort>,
    counts: WordCounts<'a>,
    vocabulary: Vec<Term<'a>>,
    /// The stop list of the language.
    stop_words: HashSet<String, foldhash::fast::RandomState>,
    /// Words that may be misspelt or written in another way.
    spellings: Vec<Spelling>,
    /// The words whose neighbours are gathered, by their numbers.
    watched: HashMap<String, u32, State>,
}

impl<'a> Inquiry<'a> {
    /// Asks these sorts of things of a run of which this is the account, and its recipe with all that it learned.
    pub fn new(
        account: &'a Account,
        recipe: &'a Recipe,
        pipeline: &'a Pipeline,
        sorts: &[Sort],
    ) -> Inquiry<'a> {
        // Of letters alone; what stands in no dictionary and in one document is among them.
        let is_word = |form: &str| form.chars().all(char::is_alphabetic) && Kind::of(form) == Kind::Word;
        let counts = WordCounts::of(account, is_word);
        let mut inquiry = Inquiry {
            account,
            recipe,
            pipeline,
            sorts: sorts.to_vec(),
            counts,
            vocabulary: account.vocabulary(),
            stop_words: stop_list(primary(recipe)).unwrap_or_default().into_iter().collect(),
            spellings: Vec::new(),
            watched: HashMap::default(),
        };
        if pipeline.makes_words() && (inquiry.asks(Sort::Spellings) || inquiry.asks(Sort::Variants)) {
            inquiry.spellings = spellings::suspects(&inquiry);
            for spelling in inquiry.spellings.clone() {
                inquiry.watch(&spelling.from);
                inquiry.watch(&spelling.to);
            }
        }
        if pipeline.makes_words() && inquiry.asks(Sort::StopWords) {
            for word in stop_words::suspects(&inquiry) {
                inquiry.watch(&word);
            }
        }
        inquiry
    }

    fn watch(&mut self, word: &str) {
        let next = self.watched.len() as u32;
        self.watched.entry(word.to_owned()).or_insert(next);
    }

    fn asks(&self, sort: Sort) -> bool {
        self.sorts.contains(&sort)
    }

    /// What advice on the run is made from.
    fn advised(&self) -> Advised<'_> {
        Advised::new(self.recipe, self.pipeline, self.account, &self.vocabulary)
    }

    /// Whether a step of the recipe does this.
    fn has_step(&self, operation: &str) -> bool {
        self.recipe.steps.iter().any(|step| step.operation.name == operation)
    }

    /// The primary part of the recipe's language.
    fn language(&self) -> &str {
        primary(self.recipe)
    }

    /// What one worker gathers evidence with.
    pub fn begin(&self) -> Evidence<'_> {
        Evidence::new(self)
    }

    /// What is suggested, sort by sort, the strongest first.
    pub fn suggestions(&self, evidence: Evidence<'_>) -> Vec<Suggestion> {
        let found = evidence.finish();
        let mut all = Vec::new();
        for sort in Sort::ALL.into_iter().filter(|sort| self.asks(*sort)) {
            let of_words = matches!(sort, Sort::StopWords | Sort::Spellings | Sort::Variants);
            if of_words && !self.pipeline.makes_words() {
                continue;
            }
            all.extend(match sort {
                Sort::Remnants => remnants::suggest(self),
                Sort::Spellings => spellings::suggest_words(self, &found.contexts, sort),
                Sort::Variants => spellings::suggest_variants(self, &found.contexts),
                Sort::StopWords => stop_words::suggest(self, &found.contexts),
                Sort::Phrases => phrases::suggest(self, &found.phrases),
                Sort::Boilerplate => boilerplate::suggest(self, &found.passages),
                Sort::Documents => documents::suggest(self, &found),
                Sort::Names => names::suggest(self, &found.names),
            });
        }
        all
    }
}

/// The primary part of a recipe's language; none if it has no language.
fn primary(recipe: &Recipe) -> &str {
    recipe.language.as_deref().map_or("", |tag| tag.split('-').next().unwrap_or(tag))
}
