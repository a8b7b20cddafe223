//! Pages that list a folder.

use std::collections::BTreeSet;
use std::fs::File;
use std::io::Read;

use scraper::{Html, Selector};
use url::Url;

use crate::documents::ReadError;
use crate::place::web::fetching::Fetched;
use crate::place::web::file_name;

/// The most that a page which lists a folder may hold.
const LONGEST_LISTING: u64 = 16 << 20;

/// The files and folders of a page that lists a folder.
#[derive(Debug, PartialEq, Eq)]
pub(super) struct Listing {
    pub(super) files: Vec<(String, Url)>,
    pub(super) folders: BTreeSet<String>,
}

impl Listing {
    pub(super) fn read(fetched: &Fetched) -> Result<Listing, ReadError> {
        let mut bytes = Vec::new();
        File::open(fetched.file.path())?.take(LONGEST_LISTING).read_to_end(&mut bytes)?;
        Ok(Listing::of(&String::from_utf8_lossy(&bytes), &fetched.url))
    }

    /// What lies in the folder itself, on the same server: no folder above, no other page, no order of sorting.
    fn of(page: &str, base: &Url) -> Listing {
        let mut listing = Listing { files: Vec::new(), folders: BTreeSet::new() };
        let Ok(links) = Selector::parse("a[href]") else { return listing };
        let mut seen = BTreeSet::new();
        for link in Html::parse_document(page).select(&links) {
            let Some(mut url) = link.attr("href").and_then(|href| base.join(href).ok()) else { continue };
            url.set_fragment(None);
            let Some(inside) = url.path().strip_prefix(base.path()) else { continue };
            if url.origin() != base.origin() || url.query().is_some() || inside.is_empty() {
                continue;
            }
            match inside.split_once('/') {
                Some((folder, _)) => {
                    listing.folders.insert(format!("{folder}/"));
                }
                None => {
                    if let Some(name) = file_name(&url)
                        && seen.insert(name.clone())
                    {
                        listing.files.push((name, url));
                    }
                }
            }
        }
        listing.files.sort();
        listing
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_listing_is_its_own_files_alone() {
        let page = r##"<html><body><h1>Index of /notes/</h1><a href="../">..</a> <a href="?C=M;O=A">sort</a>
            <a href="b%20c.txt">b</a> <a href="/notes/a.txt#top">a</a> <a href="a.txt">again</a> <a href="old/">old</a>
            <a href="http://other.example.org/notes/x.txt">x</a> <a href="/robots.txt">r</a> <a href="..%2Fup.txt">u</a></body></html>"##;
        let base = Url::parse("http://wardens.example.org/notes/").expect("an address");
        let listing = Listing::of(page, &base);
        let names: Vec<_> = listing.files.iter().map(|(name, _)| name.as_str()).collect();
        assert_eq!(names, ["a.txt", "b c.txt"]);
        assert_eq!(listing.folders.iter().collect::<Vec<_>>(), ["old/"]);
    }
}
