//! A collection: its sources, how they are read, and which of their documents are taken.

mod file;
mod login;
mod settings;

use std::io;
use std::path::{Path, PathBuf};
use std::sync::Arc;

pub use file::{is_collection_file, is_recipe_file, read_collection, write_collection};
pub(crate) use login::Login;
pub use settings::{SETTINGS, Setting, SettingShape};

use crate::apart::ReaderProcesses;
use crate::documents::ReadOptions;
use crate::names::is_database;
use crate::record::Selection;
use crate::sampling::Pick;
use crate::writing::Temporary;

/// All the documents of one job.
#[derive(Clone, Debug, Default)]
pub struct Collection {
    /// Its name, if it has one.
    pub name: Option<String>,
    /// What it is.
    pub about: Option<String>,
    /// Where its documents come from, in order.
    pub sources: Vec<SourceSpec>,
    /// Which of the documents are taken.
    pub pick: Pick,
    /// Who reads files of formats whose readers a file can break. Where there is nobody, they are read in this process.
    pub apart: Option<Arc<ReaderProcesses>>,
}

/// A source: a place, how it is read, and which of its fields are what.
#[derive(Clone, Debug, Default)]
pub struct SourceSpec {
    /// A file, a folder, an address, or `-` for standard input; as given, but for the user and the password of an address.
    pub place: String,
    /// The user and the password of an address.
    pub(crate) login: Option<Login>,
    /// What a relative path is relative to, if not the folder in which the program runs.
    pub base: Option<PathBuf>,
    /// Where standard input was put aside to be read more than once; deleted with the last copy of this.
    pub(crate) spool: Option<Arc<Temporary>>,
    /// By what name its file is known, if not by the place.
    pub(crate) called: Option<String>,
    /// Whether of a run what it made of the documents is given as well.
    pub(crate) whole_run: bool,
    /// Whether of a run what it made of the documents is given without their original texts, if these are elsewhere.
    pub(crate) cleaned_alone: bool,
    /// How it is read.
    pub options: ReadOptions,
    /// Which of its fields are what.
    pub selection: Selection,
}

/// A place without the user and the password that its address may have, as it may be shown.
pub fn without_login(place: &str) -> String {
    taken_login(place).0
}

/// A place without the user and the password of its address, and these.
pub(crate) fn taken_login(place: &str) -> (String, Option<Login>) {
    if is_database(place) { Login::taken_from_database(place) } else { Login::taken_from(place) }
}

impl SourceSpec {
    /// A source at a place, read as it shows itself.
    pub fn at(place: &str) -> SourceSpec {
        SourceSpec::default().placed(place)
    }

    /// The same, called by another name than its place.
    #[must_use]
    pub fn called(self, name: &str) -> SourceSpec {
        SourceSpec { called: Some(name.to_owned()), ..self }
    }

    /// The same for another place.
    pub(crate) fn placed(self, place: &str) -> SourceSpec {
        let (place, login) = taken_login(place);
        SourceSpec { place, login, ..self }
    }

    /// Whether its address has a user or a password, which is never written down.
    pub fn has_login(&self) -> bool {
        self.login.is_some()
    }

    /// Whether it is a database.
    pub fn is_database(&self) -> bool {
        is_database(&self.place)
    }

    /// Whether it is standard input, which can be read but once.
    pub fn is_standard_input(&self) -> bool {
        self.place == "-"
    }

    /// Whether it was put aside, so that it can be read again.
    pub fn is_put_aside(&self) -> bool {
        self.spool.is_some()
    }

    pub(crate) fn path(&self) -> PathBuf {
        match &self.base {
            Some(base) => base.join(&self.place),
            None => Path::new(&self.place).to_owned(),
        }
    }
}

impl Collection {
    /// The same, with every place as an absolute path of which `relative` makes another; none if some source is no path.
    pub fn with_paths(&self, relative: impl Fn(&Path) -> Option<String>) -> Option<Collection> {
        let sources = self.sources.iter().map(|source| {
            let path = source.path().canonicalize().ok()?;
            Some(SourceSpec { place: relative(&path)?, base: None, ..source.clone() })
        });
        Some(Collection { sources: sources.collect::<Option<_>>()?, ..self.clone() })
    }

    /// A collection of one source.
    pub fn of(source: SourceSpec) -> Collection {
        Collection { sources: vec![source], ..Collection::default() }
    }

    /// Makes sure that the collection can be read more than once: puts standard input aside, if it is among the sources and was not put aside
    /// before.
    ///
    /// # Errors
    ///
    /// If standard input cannot be read, or there is no room for it.
    pub fn make_rereadable(&mut self) -> io::Result<()> {
        for source in self.sources.iter_mut().filter(|source| source.is_standard_input()) {
            if source.spool.is_none() {
                let mut file = Temporary::new()?;
                io::copy(&mut io::stdin().lock(), file.file())?;
                source.spool = Some(Arc::new(file));
            }
        }
        Ok(())
    }
}
