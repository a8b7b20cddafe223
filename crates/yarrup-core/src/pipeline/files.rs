//! What compiling a recipe needs from outside: the files that it names.

use crate::lemma::DictionaryFiles;
use crate::step::ListReference;

/// Reads the word lists that a recipe names by file.
pub trait WordLists {
    /// The words of the file that `reference` names.
    ///
    /// # Errors
    ///
    /// One sentence that says why there are none.
    fn words(&self, reference: &ListReference) -> Result<Vec<String>, String>;

    /// The pairs of the table that `reference` names: texts, each with what is put in its place.
    ///
    /// # Errors
    ///
    /// One sentence that says why there are none.
    fn pairs(&self, reference: &ListReference) -> Result<Vec<(String, String)>, String> {
        Err(format!("tables of pairs cannot be read here, and `{}` is one", reference.name))
    }

    /// The rows of the table that `reference` names.
    ///
    /// # Errors
    ///
    /// One sentence that says why there are none.
    fn rows(&self, reference: &ListReference) -> Result<Vec<Vec<String>>, String> {
        Err(format!("tables cannot be read here, and `{}` is one", reference.name))
    }

    /// The bytes of the file that `reference` names.
    ///
    /// # Errors
    ///
    /// One sentence that says why there are none.
    fn bytes(&self, reference: &ListReference) -> Result<Vec<u8>, String> {
        Err(format!("files cannot be read here, and `{}` is one", reference.name))
    }

    /// The two files of the dictionary in Hunspell's format with this name (`de_DE`), of this language (`de`), or at this path.
    ///
    /// # Errors
    ///
    /// One sentence that says why there is none.
    fn dictionary(&self, name: &str) -> Result<DictionaryFiles, String> {
        Err(format!("dictionaries cannot be read here, and `{name}` is one"))
    }
}
