//! The heart of Yarrup: a recipe becomes a pipeline; documents go in; tokens, a vocabulary and an exact account of what
//! every step did come out. No files, no terminal, no network, no clock.
//!
//! ```
//! use yarrup_core::{Account, NoFields, Outputs, Pipeline, WordLists, Worker, recipe};
//!
//! struct NoFiles;
//! impl WordLists for NoFiles {
//!     fn words(&self, list: &recipe::ListReference) -> Result<Vec<String>, String> {
//!         Err(format!("no file {}", list.name))
//!     }
//! }
//!
//! let recipe = recipe::read("[[step]]\ndo = \"case\"\n[[step]]\ndo = \"stopwords\"\nlists = [\"en\"]\n").unwrap();
//! let pipeline = Pipeline::compile(&recipe, &NoFiles).unwrap();
//! let mut worker = Worker::new(&pipeline, Outputs { clean: true, tokens: false });
//! assert_eq!(worker.document("The terns are nesting", &NoFields).clean, "terns nesting");
//! let ledger = worker.into_ledger();
//! let account = Account::new(&ledger, &pipeline);
//! assert_eq!(account.totals().tokens_found, 4);
//! assert_eq!(account.effects().last().unwrap().tokens_dropped, Some(2));
//! ```
#![warn(clippy::print_stdout, clippy::print_stderr)]

mod account;
mod context;
mod engine;
mod intern;
mod learn;
mod ledger;
mod lemma;
mod pipeline;
pub mod recipe;
mod reduce;
mod shelf;
pub mod split;
pub mod stem;
pub mod survey;
pub mod tag;
pub mod text;
pub mod token;
mod trace;
pub mod unicode;
pub mod words;
mod worker;

pub use account::{Account, Effect, FormFate, FormRow, MatchRow, Term, terms_to_cover};
pub use engine::in_order;
pub use learn::{Learner, ToLearn};
pub use ledger::{Ledger, Totals};
pub use pipeline::{Fields, NoFields, Pipeline, StepName, Variant, WordLists};
pub use reduce::{Groups, Indices, Reducer, WordCheck};
pub use shelf::{ShelfItem, shelf, shelf_content};
pub use trace::{TextTrace, TokenFate, TokenStepTrace, TokenTrace, Trace};
pub use worker::{Cleaned, LONGEST_DOCUMENT, Outputs, TextRewriter, Token, Worker};
