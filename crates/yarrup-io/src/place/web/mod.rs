//! Addresses on the network: of a file, of an archive, or of a page that lists a folder.

mod ahead;
mod fetching;
mod listing;

use std::fs::File;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use url::Url;

use crate::bounded::read_bounded;
use crate::collection::Login;
use crate::documents::{Out, Passed, ReadError, ReadOptions};
use crate::names::is_hidden;
use crate::place::web::ahead::{Ahead, elsewhere};
use crate::place::web::fetching::{Fetcher, Heard};
use crate::place::web::listing::Listing;
use crate::place::{FoundFile, SourceError, open_file};
use crate::record::Why;
use crate::sidecar::{SideFiles, side_fields};
use crate::writing::{NewFile, Temporary};

/// Refuses what cannot be an address, before anything is read.
pub(crate) fn check(place: &str) -> Result<(), SourceError> {
    Url::parse(place)
        .map(drop)
        .map_err(|why| SourceError::Address { place: place.to_owned(), why: why.to_string() })
}

/// Reads what is at an address.
pub(crate) fn read(address: &str, login: Option<&Login>, out: &mut dyn Out) -> Result<(), ReadError> {
    let Ok(url) = Url::parse(address) else {
        return out.no_document(Why::File("not an address".into()));
    };
    let options = out.options().clone();
    let web = match Fetcher::new(&options, login.map(|login| (url.origin(), login.clone()))) {
        Ok(fetcher) => Web { fetcher: Arc::new(fetcher), options: &options },
        Err(why) => return out.no_document(Why::File(why)),
    };
    // A file that was kept is not fetched again; a listing is, for it may have grown.
    let named = file_name(&url).unwrap_or_default();
    if let Some(kept) = web.kept(&url).filter(|kept| kept.is_file()) {
        return read_file((address.to_owned(), named), kept, None, true, out);
    }
    let mut tell = |heard| match heard {
        Heard::Bytes(count) => out.give(Passed(count)),
        Heard::Elsewhere(server) => out.note(elsewhere(&server)),
    };
    let fetched = match web.fetcher.fetch(&url, &mut tell)? {
        Ok(fetched) => fetched,
        Err(why) => return out.no_document(Why::File(why)),
    };
    if fetched.html && fetched.url.path().ends_with('/') {
        let listing = Listing::read(&fetched)?;
        if !listing.files.is_empty() {
            return web.read_listing(&listing, out);
        }
        if !listing.folders.is_empty() {
            let folders: Vec<_> =
                listing.folders.iter().take(3).map(|folder| format!("`{folder}`")).collect();
            return out.no_document(Why::File(format!(
                "this page lists no file, only folders, which are not followed: {}; give their addresses",
                folders.join(", ")
            )));
        }
    }
    // What a redirection leads to tells its format, and may be another file tomorrow: it is kept as what it is today.
    let named = file_name(&fetched.url).unwrap_or(named);
    let local = match web.keep_as(&fetched.url, fetched.file) {
        Ok(local) => local,
        Err(why) => return out.no_document(Why::File(why)),
    };
    read_file((address.to_owned(), named), local.path(), None, true, out)
}

/// A file that was fetched: kept, or gone when this is dropped.
enum Local {
    Kept(PathBuf),
    Temporary(Temporary),
}

impl Local {
    fn path(&self) -> PathBuf {
        match self {
            Local::Kept(path) => path.clone(),
            Local::Temporary(file) => file.path().to_owned(),
        }
    }
}

/// Reads a file that was fetched. The second name tells its format.
fn read_file(
    (name, file_name): (String, String),
    path: PathBuf,
    side: Option<Arc<str>>,
    asked_for: bool,
    out: &mut dyn Out,
) -> Result<(), ReadError> {
    let found = FoundFile { name, path, side: None, asked_for, expected: None };
    match open_file(found, out)? {
        Some(mut input) => {
            input.side = side;
            input.file_name = file_name;
            out.read(&mut input)
        }
        None => Ok(()),
    }
}

/// The last part of an address, if it names a file.
fn file_name(url: &Url) -> Option<String> {
    plain_name(url.path_segments()?.next_back()?)
}

/// A part of an address as the name of a file.
fn plain_name(segment: &str) -> Option<String> {
    let name = percent_encoding::percent_decode_str(segment).decode_utf8_lossy().into_owned();
    // What comes from the network names no place on this machine.
    let plain = !name.is_empty() && name != "." && name != ".." && !name.contains(['/', '\\', '\0']);
    plain.then_some(name)
}

struct Web<'o> {
    fetcher: Arc<Fetcher>,
    options: &'o ReadOptions,
}

impl Web<'_> {
    /// Where what is at an address is kept, if files are: by server and path, so that two files of one name stay two.
    fn kept(&self, url: &Url) -> Option<PathBuf> {
        let mut path = self.options.keep.as_ref()?.join(url.host_str()?.replace(':', "-"));
        if let Some(port) = url.port() {
            path.as_mut_os_string().push(format!("-{port}"));
        }
        file_name(url)?;
        for segment in url.path_segments()?.filter(|segment| !segment.is_empty()) {
            path.push(plain_name(segment)?);
        }
        if let Some(query) = url.query() {
            path.as_mut_os_string().push(format!("-{:016x}", crate::short_hash(query.as_bytes())));
        }
        Some(path)
    }

    fn keep_as(&self, url: &Url, file: Temporary) -> Result<Local, String> {
        let Some(path) = self.kept(url) else {
            return Ok(Local::Temporary(file));
        };
        keep(&file, &path).map_err(|why| format!("cannot be kept as {}: {why}", path.display()))?;
        Ok(Local::Kept(path))
    }

    /// Reads the files of a listing in their order. Those that are not kept are fetched ahead, some at a time.
    fn read_listing(&self, listing: &Listing, out: &mut dyn Out) -> Result<(), ReadError> {
        let sides = SideFiles::among(listing.files.iter().map(|(name, _)| name.as_str()));
        let takes = |name: &str| {
            !sides.is_side(name) && self.options.takes(name) && (self.options.hidden || !is_hidden(name))
        };
        let side_of = |name: &str| {
            let side = sides.of(name)?;
            listing.files.iter().find(|(name, _)| name == side)
        };
        let files: Vec<_> = listing.files.iter().filter(|(name, _)| takes(name)).collect();
        let wanted = files.iter().flat_map(|file| side_of(&file.0).into_iter().chain([*file]));
        let missing = wanted.map(|(_, url)| url).filter(|url| self.kept_already(url).is_none());
        let mut ahead = Ahead::begin(&self.fetcher, missing.cloned().collect());
        let outer = out.name().clone();
        for (name, url) in files {
            // Faults are told by the name of the file, not of the listing.
            out.rename(name.as_str().into());
            let mut side = None;
            if let Some((side_name, url)) = side_of(name) {
                let fields = match self.local(url, &mut ahead, out)? {
                    Ok(local) => side_fields(side_name, &read_bounded(&local.path())?),
                    Err(why) => Err(why),
                };
                match fields {
                    Ok(fields) => side = Some(Arc::from(fields)),
                    Err(why) => out.malformed(side_name.clone(), Why::File(why))?,
                }
            }
            match self.local(url, &mut ahead, out)? {
                Ok(local) => {
                    let asked_for = self.options.asks_for(name);
                    read_file((name.clone(), name.clone()), local.path(), side, asked_for, out)?;
                }
                Err(why) => out.no_document(Why::File(why))?,
            }
        }
        out.rename(outer);
        for folder in &listing.folders {
            out.passed_over(format!("{folder} (a folder of the listing; give its address)"))?;
        }
        Ok(())
    }

    fn kept_already(&self, url: &Url) -> Option<PathBuf> {
        self.kept(url).filter(|kept| kept.is_file())
    }

    /// A file of a listing: the next that is fetched, if it is one of those, or that which was kept.
    fn local(
        &self,
        url: &Url,
        ahead: &mut Ahead,
        out: &mut dyn Out,
    ) -> Result<Result<Local, String>, ReadError> {
        if let Some(fetched) = ahead.take(url, out)? {
            return Ok(fetched.and_then(|fetched| self.keep_as(url, fetched.file)));
        }
        Ok(self.kept_already(url).map(Local::Kept).ok_or_else(|| "the file that was kept is gone".to_owned()))
    }
}

/// Puts a file where it is to be kept, complete or not at all.
fn keep(file: &Temporary, path: &Path) -> std::io::Result<()> {
    let folder = path.parent().unwrap_or(Path::new("."));
    std::fs::create_dir_all(folder)?;
    // The temporary file may lie on another disk.
    let mut kept = NewFile::create(path, true).map_err(std::io::Error::other)?;
    std::io::copy(&mut File::open(file.path())?, &mut kept)?;
    kept.finish().map_err(std::io::Error::other)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn addresses_are_told_from_paths() {
        assert!(crate::names::is_address("https://wardens.example.org/notes/"));
        assert!(crate::names::is_address("HTTP://wardens.example.org"));
        assert!(!crate::names::is_address("notes/http.txt"));
        assert!(!crate::names::is_address("ftp://wardens.example.org/"));
        assert!(check("http://").is_err());
    }
}
