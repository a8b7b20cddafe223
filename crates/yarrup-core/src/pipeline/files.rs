//! What compiling a recipe needs from outside: the files that it names.

use crate::lemma::DictionaryFiles;
use crate::recipe::FileError;
use crate::step::ListReference;

/// Reads the word lists that a recipe names by file.
pub trait WordLists {
    /// The words of the file that `reference` names.
    ///
    /// # Errors
    ///
    /// Why there are none.
    fn words(&self, reference: &ListReference) -> Result<Vec<String>, FileError> {
        Err(unsupported("word lists", &reference.name))
    }

    /// The pairs of the table that `reference` names: texts, each with what is put in its place.
    ///
    /// # Errors
    ///
    /// Why there are none.
    fn pairs(&self, reference: &ListReference) -> Result<Vec<(String, String)>, FileError> {
        Err(unsupported("tables of pairs", &reference.name))
    }

    /// The rows of the table that `reference` names.
    ///
    /// # Errors
    ///
    /// Why there are none.
    fn rows(&self, reference: &ListReference) -> Result<Vec<Vec<String>>, FileError> {
        Err(unsupported("tables", &reference.name))
    }

    /// The bytes of the file that `reference` names.
    ///
    /// # Errors
    ///
    /// Why there are none.
    fn bytes(&self, reference: &ListReference) -> Result<Vec<u8>, FileError> {
        Err(unsupported("files", &reference.name))
    }

    /// The two files of the dictionary in Hunspell's format with this name (`de_DE`), of this language (`de`), or at this path.
    ///
    /// # Errors
    ///
    /// Why there is none.
    fn dictionary(&self, name: &str) -> Result<DictionaryFiles, FileError> {
        Err(unsupported("dictionaries", name))
    }
}

/// Reads no files at all.
#[derive(Clone, Copy, Debug, Default)]
pub struct NoFiles;

impl WordLists for NoFiles {}

fn unsupported(what: &'static str, name: &str) -> FileError {
    FileError::Unsupported { what, name: name.to_owned() }
}
