//! The heart of Yarrup: a recipe becomes a pipeline; documents go in; tokens, a vocabulary and an exact account of what
//! every step did come out. No files, no terminal, no network, no clock.
//!
//! ```
//! use yarrup_core::{NoFields, NoFiles, Outputs, Pipeline, Worker, recipe};
//!
//! let recipe = recipe::read("[[step]]\ndo = \"case\"\n[[step]]\ndo = \"stopwords\"\nlists = [\"en\"]\n").unwrap();
//! let pipeline = Pipeline::compile(&recipe, &NoFiles).unwrap();
//! let mut worker = Worker::new(&pipeline, Outputs { clean: true, tokens: false, ends: false });
//! assert_eq!(worker.document("The terns are nesting", &NoFields).clean, "terns nesting");
//! let account = worker.into_account();
//! assert_eq!(account.totals.tokens_found, 4);
//! assert_eq!(account.effects().last().unwrap().tokens_dropped, Some(2));
//! ```
#![warn(clippy::print_stdout, clippy::print_stderr)]

mod account;
pub mod advice;
pub mod compare;
mod compile;
mod condition;
mod count_sketch;
pub mod examples;
mod kind;
mod language;
mod learn;
mod lemma;
pub mod lists;
mod many_bytes;
mod morphology;
pub mod numbers;
mod occurrences;
mod part_of_speech;
mod pattern;
mod pipeline;
pub mod recipe;
mod reduce;
mod run;
mod seen;
mod shelf;
mod span;
pub mod split;
pub mod stem;
pub mod step;
mod steps;
pub mod study;
pub mod suggest;
pub mod survey;
pub mod tag;
#[cfg(test)]
mod testing;
pub mod unicode;
mod value;
mod word_finder;
pub mod words;

pub use account::{
    Account, Difference, Effect, FormRow, LearnedStep, MatchRow, MergeError, Origin, RankRow, Relation,
    SortRow, StepRanks, StepRecord, Texts, terms_to_cover,
};
pub use condition::Condition;
pub use kind::{Kind, KindSet, recognise};
pub use language::{Language, language_names, language_of, language_tag};
pub use learn::{LearnedByStep, Learning, LessonKept, ToLearn};
pub use lemma::{DictionaryFiles, english_features};
pub use morphology::{Feature, Features};
pub use part_of_speech::Tag;
pub use pipeline::{NoFiles, Pipeline, StepName, Variant, WordLists};
pub use reduce::{Groups, Indices, Reducer, WordCheck};
pub use run::{
    Alternative, Cleaned, EndedToken, FormFate, LONGEST_DOCUMENT, LeftOut, Outputs, SideBySide, TextRewriter,
    TextTally, TextTrace, Token, TokenFate, TokenStepTrace, TokenTally, TokenTrace, Totals, Trace, Worker,
    in_order,
};
pub use run::{Clock, StepTime, StepTimer, StepTimes};
pub use shelf::{ShelfItem, shelf, shelf_content};
pub use span::Span;
pub use step::{Fields, NoFields};
pub use steps::{OPERATIONS, operation};
pub use value::{STREET, Sought, ValueCount, ValueFinder, ValueTally};
