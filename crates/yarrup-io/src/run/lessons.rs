//! What the parts of a collection have to say to the steps that learn, and what is learned of all of them together.

use std::io;
use std::path::Path;

use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};
use yarrup_core::step::Copies;
use yarrup_core::{LearnedStep, LessonKept};

use crate::bounded::read_bounded;
use crate::documents::Part;
use crate::run::error::{RunError, damaged, refused};
use crate::run::packed::Form;
use crate::run::record::OriginalRecord;
use crate::writing::{NewFile, WriteError};

const LESSONS: Form = Form {
    magic: b"yarrup lessons\r\n",
    version: 1,
    what: "a file of lessons",
    again: "write it again with this version",
};

const LEARNED: Form = Form {
    magic: b"yarrup learned\r\n",
    version: 1,
    what: "a file of what was learned",
    again: "learn again with this version",
};

/// Of what lessons are: they add up only if this is the same of all of them.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct LessonOrigin {
    /// The version of the tool.
    pub yarrup: String,
    /// The hash of the recipe as it was given.
    pub recipe: String,
    /// What the recipe names: names and hashes.
    pub lists: Vec<(String, String)>,
    /// The hash of the recipe with all that was learned before.
    pub before: String,
}

/// What one part of a collection has to say to the steps that learn.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Lessons {
    /// Of what they are.
    pub origin: LessonOrigin,
    /// Which part, if the collection was parted by its number.
    pub part: Option<Part>,
    /// What was said of the sources, as a collection file.
    pub collection: String,
    /// The sources that were read.
    pub sources: Vec<OriginalRecord>,
    /// How many documents.
    pub documents: u64,
    /// What was seen for each step.
    pub kept: Vec<LessonKept>,
}

/// What was learned of all parts so far.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct LearnedOfParts {
    /// The version of the tool.
    pub yarrup: String,
    /// The hash of the recipe as it was given.
    pub recipe: String,
    /// The recipe with all of it written out.
    pub frozen: String,
    /// What it is, with the evidence.
    pub told: Vec<LearnedStep>,
    /// Which documents repeat others, by the steps that ask for it.
    pub copies: Vec<(usize, Copies)>,
    /// The sources of which the copies are: of others they say nothing.
    pub sources: Vec<OriginalRecord>,
    /// Where steps need another pass over the collection: what they begin it with.
    pub begun: Option<Vec<LessonKept>>,
}

/// Writes the lessons of a part.
///
/// # Errors
///
/// If the place is taken and not to be replaced, or the system refuses.
pub fn write_lessons(lessons: &Lessons, path: &Path, replace: bool) -> Result<(), WriteError> {
    write(&LESSONS, lessons, path, replace)
}

/// Reads the lessons of a part.
///
/// # Errors
///
/// If there are none at this place, or they cannot be read.
pub fn read_lessons(path: &Path) -> Result<Lessons, RunError> {
    read(&LESSONS, path)
}

/// Writes what was learned.
///
/// # Errors
///
/// If the place is taken and not to be replaced, or the system refuses.
pub fn write_learned_of_parts(
    learned: &LearnedOfParts,
    path: &Path,
    replace: bool,
) -> Result<(), WriteError> {
    write(&LEARNED, learned, path, replace)
}

/// Reads what was learned.
///
/// # Errors
///
/// If it is not at this place, or cannot be read.
pub fn read_learned_of_parts(path: &Path) -> Result<LearnedOfParts, RunError> {
    read(&LEARNED, path)
}

fn write(form: &Form, value: &impl Serialize, path: &Path, replace: bool) -> Result<(), WriteError> {
    let mut file = NewFile::create(path, replace)?;
    form.write(value, &mut file).map_err(WriteError::refused(path))?;
    file.finish()
}

fn read<T: DeserializeOwned>(form: &Form, path: &Path) -> Result<T, RunError> {
    let bytes: io::Result<Vec<u8>> = read_bounded(path);
    form.read(&bytes.map_err(refused(path))?).map_err(|why| damaged(path, &why))
}
