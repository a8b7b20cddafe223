//! Parts of speech: the universal tags, the tagger, its models, and the open treebank format that they are learned from.

mod conllu;
mod english;
mod evaluate;
mod features;
mod form;
mod gate;
mod learn;
mod model;
mod tagger;
mod word_classes;
mod word_file;
mod word_uses;

pub use conllu::{MalformedTreebank, Sentence, Word, read_conllu, write_conllu};
pub use english::english;
pub use evaluate::{Evaluation, evaluate};
pub use learn::{RunningText, learn};
pub use model::{MalformedModel, Model};
pub use tagger::Tagger;
pub use word_classes::{ClassCounts, WordClassLearner, WordClasses};
pub use word_file::MalformedWordFile;
pub use word_uses::WordUses;
