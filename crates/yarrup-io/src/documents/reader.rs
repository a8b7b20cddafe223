//! The contract of readers, and where they give their documents.

use std::io::Read;
use std::sync::Arc;

use crate::documents::{Chunk, Format, Input, Piece, ReadError, ReadOptions};
use crate::record::{Selection, Why};

/// Reads inputs of one format.
pub(crate) trait Reader: Sync {
    /// The format.
    fn format(&self) -> Format;

    /// Whether content that starts like this is of this format, whatever its name.
    fn recognises(&self, start: &Start<'_>) -> bool;

    /// Whether the package that reads it can be made to take the whole machine, so that it is read in a process of its own.
    fn is_read_apart(&self) -> bool {
        false
    }

    /// Whether whoever works on the documents reads the file, so that several are read at once.
    fn is_read_whole(&self) -> bool {
        false
    }

    /// Gives the documents of the input.
    ///
    /// # Errors
    ///
    /// What keeps it from being read, or from being read to its end. What is wrong with one record is none.
    fn read(&self, input: &mut Input<'_>, out: &mut dyn Out) -> Result<(), ReadError>;
}

/// The start of an input, for telling its format.
pub(crate) struct Start<'a> {
    pub(crate) bytes: &'a [u8],
    /// The start as text, if it is one.
    pub(crate) text: Option<&'a str>,
    /// Whether the name says nothing, so that the content alone must do.
    pub(crate) unnamed: bool,
    /// The names inside, if it is a zip archive.
    pub(crate) members: &'a [String],
    /// What it says that it is, if it is a zip archive that says so.
    pub(crate) media_type: &'a str,
}

impl Start<'_> {
    /// Whether it is a zip archive with this inside.
    pub(crate) fn has_member(&self, name: &str) -> bool {
        self.members.iter().any(|member| member == name)
    }
}

/// Where readers, and places, give their documents.
pub(crate) trait Out {
    /// How the source is to be read.
    fn options(&self) -> &ReadOptions;

    /// The piece of the file that is wanted, if not all of it.
    fn piece(&self) -> Option<&Piece> {
        None
    }

    /// The name of what is being read.
    fn name(&self) -> &Arc<str>;

    /// Goes on under another name. Returns the one before.
    fn rename(&mut self, name: Arc<str>) -> Arc<str>;

    /// What its fields are taken for.
    fn selection(&self) -> &Selection;

    /// Gives records to whoever works on them.
    ///
    /// # Errors
    ///
    /// That nobody wants more.
    fn give_chunk(&mut self, chunk: Box<dyn Chunk>) -> Result<(), ReadError>;

    /// Notes why the record at `place` is no document.
    ///
    /// # Errors
    ///
    /// That nobody wants more.
    fn malformed(&mut self, place: String, why: Why) -> Result<(), ReadError>;

    /// Notes something that is not read because nobody asked for it.
    ///
    /// # Errors
    ///
    /// That nobody wants more.
    fn passed_over(&mut self, name: String) -> Result<(), ReadError>;

    /// Notes something that the user should know of what is being read: a sentence without its end.
    ///
    /// # Errors
    ///
    /// That nobody wants more.
    fn note(&mut self, what: String) -> Result<(), ReadError>;

    /// Reads an input, whatever it is. What is wrong with it is noted, and no error.
    ///
    /// # Errors
    ///
    /// That nobody wants more.
    fn read(&mut self, input: &mut Input<'_>) -> Result<(), ReadError>;

    /// Reads what was compressed or archived, as [`Out::read`] does.
    ///
    /// # Errors
    ///
    /// That nobody wants more.
    fn read_inside(&mut self, inside: Inside<'_>) -> Result<(), ReadError>;
}

/// Something that was compressed or archived.
pub(crate) struct Inside<'i> {
    pub(crate) name: String,
    /// The name that tells its format.
    pub(crate) file_name: String,
    pub(crate) reader: Box<dyn Read + 'i>,
    /// How many packed bytes were used so far.
    pub(crate) packed: Box<dyn Fn() -> u64 + 'i>,
    /// The fields of its side file.
    pub(crate) side: Option<Arc<str>>,
    /// Whether the user named it.
    pub(crate) asked_for: bool,
}

impl dyn Out + '_ {
    /// Gives records to whoever works on them.
    pub(crate) fn give(&mut self, chunk: impl Chunk + 'static) -> Result<(), ReadError> {
        self.give_chunk(Box::new(chunk))
    }

    /// Notes why what is being read gives no document.
    pub(crate) fn no_document(&mut self, why: Why) -> Result<(), ReadError> {
        let place = self.name().to_string();
        self.malformed(place, why)
    }
}
