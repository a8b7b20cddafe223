//! Addresses on the network: of a file, of an archive, or of a page that lists a folder.

use std::collections::BTreeSet;
use std::fs::File;
use std::io::{Read, Write};
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::sync::mpsc::{RecvTimeoutError, sync_channel};
use std::thread;
use std::time::{Duration, Instant};

use scraper::{Html, Selector};
use ureq::tls::{PemItem, RootCerts, TlsConfig, parse_pem};
use ureq::{Agent, ResponseExt};
use url::{Origin, Url};

use crate::bounded::read_bounded;
use crate::collection::Login;
use crate::documents::{Out, Passed, ReadError, ReadOptions};
use crate::names::is_hidden;
use crate::place::{FoundFile, SourceError, open_file};
use crate::record::Why;
use crate::sidecar::{SideFiles, side_fields};
use crate::writing::{NewFile, Temporary};

/// How often a request is made before it is given up.
const ATTEMPTS: u32 = 4;
/// How long is waited before the second attempt; twice as long before each further one.
const BACK_OFF: Duration = Duration::from_millis(500);
/// The longest wait that a server may ask for.
const LONGEST_WAIT: Duration = Duration::from_secs(60);
/// The pause between the files of a listing on another machine, so that a small server has time for others, unless something else is asked for.
const PAUSE: Duration = Duration::from_millis(50);
/// How long a server may be silent, unless something else is asked for.
const PATIENCE: Duration = Duration::from_secs(30);
/// The least that a server must send while it may be silent, in bytes a second: one that sends a byte now and then would never end.
const LEAST_SPEED: u64 = 1000;
/// How long fetching from one address may take.
const LONGEST_FETCH: Duration = Duration::from_secs(12 * 60 * 60);
/// The most that is taken from one address, unless something else is asked for.
const LARGEST: u64 = 8 << 30;
/// The most that a page which lists a folder may hold.
const LONGEST_LISTING: u64 = 16 << 20;

/// Whether a place is an address.
pub(crate) fn is_address(place: &str) -> bool {
    let scheme = place.split_once("://").map(|(scheme, _)| scheme.to_ascii_lowercase());
    matches!(scheme.as_deref(), Some("http" | "https"))
}

/// Refuses what cannot be an address, before anything is read.
pub(crate) fn check(place: &str) -> Result<(), SourceError> {
    Url::parse(place)
        .map(drop)
        .map_err(|why| SourceError::Address { place: place.to_owned(), why: why.to_string() })
}

/// What was fetched.
struct Fetched {
    file: Temporary,
    /// Where it was in the end, behind all redirections.
    url: Url,
    html: bool,
}

/// Reads what is at an address.
pub(crate) fn read(address: &str, login: Option<&Login>, out: &mut dyn Out) -> Result<(), ReadError> {
    let Ok(url) = Url::parse(address) else {
        return out.no_document(Why::File("not an address".into()));
    };
    let options = out.options().clone();
    let web = match Web::new(&options, login.map(|login| (url.origin(), login))) {
        Ok(web) => web,
        Err(why) => return out.no_document(Why::File(why)),
    };
    // A file that was kept is not fetched again; a listing is, for it may have grown.
    let named = file_name(&url).unwrap_or_default();
    if let Some(kept) = web.kept(&url).filter(|kept| kept.is_file()) {
        return read_file((address.to_owned(), named), kept, None, true, out);
    }
    let fetched = match web.fetch(&url, web.largest, out)? {
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
    agent: Agent,
    /// Who we are, for this server alone.
    login: Option<(Origin, &'o Login)>,
    options: &'o ReadOptions,
    patience: Duration,
    largest: u64,
}

/// Why an attempt came to nothing.
enum Missed {
    /// The next may do better, but not before this time.
    Now(String, Option<Duration>),
    /// No other would.
    Ever(String),
}

impl<'o> Web<'o> {
    fn new(options: &'o ReadOptions, login: Option<(Origin, &'o Login)>) -> Result<Web<'o>, String> {
        let patience = options.patience.map_or(PATIENCE, Duration::from_secs);
        let config = Agent::config_builder()
            .user_agent(concat!("yarrup/", env!("CARGO_PKG_VERSION")))
            .timeout_connect(Some(patience))
            .timeout_recv_response(Some(patience))
            .http_status_as_error(false)
            .max_redirects(8)
            .tls_config(tls(options)?)
            .build();
        Ok(Web {
            agent: config.into(),
            login,
            options,
            patience,
            largest: options.largest.unwrap_or(LARGEST),
        })
    }

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

    /// Fetches what is at an address, again if need be. What keeps it from coming is a sentence; the outer error says only that
    /// nobody wants more.
    fn fetch(
        &self,
        url: &Url,
        largest: u64,
        out: &mut dyn Out,
    ) -> Result<Result<Fetched, String>, ReadError> {
        let mut wait = BACK_OFF;
        let mut attempt = 1;
        loop {
            match self.attempt(url, largest, out)? {
                Ok(fetched) => return Ok(Ok(fetched)),
                Err(Missed::Ever(why)) => return Ok(Err(why)),
                Err(Missed::Now(why, _)) if attempt == ATTEMPTS => {
                    return Ok(Err(format!("{why}; given up after {ATTEMPTS} attempts")));
                }
                Err(Missed::Now(_, asked)) => thread::sleep(asked.unwrap_or(wait).min(LONGEST_WAIT)),
            }
            attempt += 1;
            wait *= 2;
        }
    }

    fn attempt(
        &self,
        url: &Url,
        largest: u64,
        out: &mut dyn Out,
    ) -> Result<Result<Fetched, Missed>, ReadError> {
        let begun = Instant::now();
        let mut request = self.agent.get(url.as_str());
        if let Some((server, login)) = &self.login
            && *server == url.origin()
        {
            // Not sent on to where the server redirects.
            request = request.header("authorization", login.header());
        }
        let response = match request.call() {
            Ok(response) => response,
            Err(error) => return Ok(Err(missed(&error, self.patience))),
        };
        let status = response.status();
        if !status.is_success() {
            let header = response.headers().get("retry-after").and_then(|value| value.to_str().ok());
            let asked = header.and_then(|value| value.parse().ok()).map(Duration::from_secs);
            let why = format!("the server answers {status}");
            let passing = status.is_server_error() || matches!(status.as_u16(), 408 | 429);
            return Ok(Err(if passing { Missed::Now(why, asked) } else { Missed::Ever(why) }));
        }
        let asked = url;
        let url = Url::parse(&response.get_uri().to_string()).unwrap_or_else(|_| url.clone());
        if url.origin() != asked.origin() {
            out.note(format!("the server redirects to another one, {}", url.origin().ascii_serialization()))?;
        }
        let header = |name: &str| response.headers().get(name).and_then(|value| value.to_str().ok());
        let html = header("content-type").is_some_and(|kind| kind.contains("html"));
        let announced: Option<u64> = header("content-length").and_then(|length| length.parse().ok());
        let too_large = || Missed::Ever(format!("larger than {}; --largest takes more", told_size(largest)));
        if announced.is_some_and(|bytes| bytes > largest) {
            return Ok(Err(too_large()));
        }
        let mut file = Temporary::new()?;
        let mut bytes = 0;
        let (mut since, mut before) = (Instant::now(), 0);
        let pieces = pieces(response.into_body());
        loop {
            match pieces.recv_timeout(self.patience) {
                Ok(Ok(piece)) => {
                    bytes += piece.len() as u64;
                    if bytes > largest {
                        return Ok(Err(too_large()));
                    }
                    file.file().write_all(&piece)?;
                    out.give(Passed(piece.len() as u64))?;
                    if since.elapsed() >= self.patience {
                        if (bytes - before) / since.elapsed().as_secs().max(1) < LEAST_SPEED {
                            let why = format!(
                                "the server sends less than {LEAST_SPEED} bytes a second; --patience waits longer"
                            );
                            return Ok(Err(Missed::Ever(why)));
                        }
                        (since, before) = (Instant::now(), bytes);
                    }
                    if begun.elapsed() > LONGEST_FETCH {
                        let hours = LONGEST_FETCH.as_secs() / 3600;
                        return Ok(Err(Missed::Ever(format!("not here after {hours} hours"))));
                    }
                }
                Ok(Err(why)) => return Ok(Err(Missed::Now(why, None))),
                Err(RecvTimeoutError::Timeout) => {
                    let why = format!(
                        "the server fell silent for {} s after {bytes} bytes",
                        self.patience.as_secs()
                    );
                    return Ok(Err(Missed::Now(why, None)));
                }
                Err(RecvTimeoutError::Disconnected) => break,
            }
        }
        if let Some(announced) = announced.filter(|announced| *announced != bytes) {
            let why = format!("the server announced {announced} bytes and sent {bytes}");
            return Ok(Err(Missed::Now(why, None)));
        }
        file.file().flush()?;
        Ok(Ok(Fetched { file, url, html }))
    }

    fn read_listing(&self, listing: &Listing, out: &mut dyn Out) -> Result<(), ReadError> {
        let sides = SideFiles::among(listing.files.iter().map(|(name, _)| name.as_str()));
        let outer = out.name().clone();
        for (name, url) in &listing.files {
            if sides.is_side(name) || !self.options.takes(name) || (is_hidden(name) && !self.options.hidden) {
                continue;
            }
            // Faults are told by the name of the file, not of the listing.
            out.rename(name.as_str().into());
            let side =
                match sides.of(name).and_then(|side| listing.files.iter().find(|(name, _)| name == side)) {
                    Some((side, url)) => match self.local(url, out)? {
                        Ok(local) => {
                            let bytes = read_bounded(&local.path())?;
                            match side_fields(side, &bytes) {
                                Ok(fields) => Some(Arc::from(fields)),
                                Err(why) => {
                                    out.malformed(side.clone(), Why::File(why))?;
                                    None
                                }
                            }
                        }
                        Err(why) => {
                            out.malformed(side.clone(), Why::File(why))?;
                            None
                        }
                    },
                    None => None,
                };
            match self.local(url, out)? {
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

    /// How long is waited before a file of a listing: a server on this machine is nobody else's.
    fn pause(&self, url: &Url) -> Duration {
        let asked = self.options.pace.map(Duration::from_millis);
        asked.unwrap_or(if is_this_machine(url) { Duration::ZERO } else { PAUSE })
    }

    /// A file of a listing: that which was kept, or fetched now.
    fn local(&self, url: &Url, out: &mut dyn Out) -> Result<Result<Local, String>, ReadError> {
        if let Some(kept) = self.kept(url).filter(|kept| kept.is_file()) {
            return Ok(Ok(Local::Kept(kept)));
        }
        thread::sleep(self.pause(url));
        Ok(match self.fetch(url, self.largest, out)? {
            Ok(fetched) => self.keep_as(url, fetched.file),
            Err(why) => Err(why),
        })
    }
}

/// Whether an address is on this machine.
fn is_this_machine(url: &Url) -> bool {
    match url.host() {
        Some(url::Host::Domain(name)) => name.eq_ignore_ascii_case("localhost"),
        Some(url::Host::Ipv4(address)) => address.is_loopback(),
        Some(url::Host::Ipv6(address)) => address.is_loopback(),
        None => false,
    }
}

/// Whom to trust.
fn tls(options: &ReadOptions) -> Result<TlsConfig, String> {
    let Some(path) = &options.certificates else { return Ok(TlsConfig::default()) };
    let refused = |why: &dyn std::fmt::Display| format!("the certificates of {}: {why}", path.display());
    let pem = read_bounded(path).map_err(|why| refused(&why))?;
    let mut certificates = Vec::new();
    for item in parse_pem(&pem) {
        if let PemItem::Certificate(certificate) = item.map_err(|why| refused(&why))? {
            certificates.push(certificate);
        }
    }
    if certificates.is_empty() {
        return Err(refused(&"the file holds none"));
    }
    Ok(TlsConfig::builder().root_certs(RootCerts::from(certificates)).build())
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

fn missed(error: &ureq::Error, patience: Duration) -> Missed {
    match error {
        ureq::Error::Timeout(_) => Missed::Now(format!("no answer within {} s", patience.as_secs()), None),
        ureq::Error::HostNotFound => Missed::Ever("there is no such host".to_owned()),
        ureq::Error::TooManyRedirects => Missed::Ever("the server redirects without end".to_owned()),
        // What the encryption says does not change by waiting.
        ureq::Error::Io(why) if why.kind() == std::io::ErrorKind::InvalidData => {
            Missed::Ever(format!("no trusted connection: {why}; --certificates names other authorities"))
        }
        ureq::Error::Io(why) => Missed::Now(format!("no connection: {why}"), None),
        ureq::Error::ConnectionFailed => Missed::Now("no connection".to_owned(), None),
        other => Missed::Ever(other.to_string()),
    }
}

/// The body, piece by piece, read in a thread of its own: the only way to notice that nothing comes any more.
fn pieces(body: ureq::Body) -> std::sync::mpsc::Receiver<Result<Vec<u8>, String>> {
    let (sender, receiver) = sync_channel(8);
    thread::spawn(move || {
        let mut reader = body.into_reader();
        loop {
            let mut piece = vec![0; 1 << 16];
            let message = match reader.read(&mut piece) {
                Ok(0) => return,
                Ok(count) => {
                    piece.truncate(count);
                    Ok(piece)
                }
                Err(why) => Err(format!("the connection broke: {why}")),
            };
            let broke = message.is_err();
            if sender.send(message).is_err() || broke {
                return;
            }
        }
    });
    receiver
}

fn told_size(bytes: u64) -> String {
    match bytes {
        0..1_000_000 => format!("{bytes} bytes"),
        1_000_000..1_000_000_000 => format!("{} MB", bytes / 1_000_000),
        _ => format!("{:.1} GB", bytes as f64 / 1e9),
    }
}

/// The files and folders of a page that lists a folder.
#[derive(Debug, PartialEq, Eq)]
struct Listing {
    files: Vec<(String, Url)>,
    folders: BTreeSet<String>,
}

impl Listing {
    fn read(fetched: &Fetched) -> Result<Listing, ReadError> {
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

    #[test]
    fn addresses_are_told_from_paths() {
        assert!(is_address("https://wardens.example.org/notes/"));
        assert!(is_address("HTTP://wardens.example.org"));
        assert!(!is_address("notes/http.txt"));
        assert!(!is_address("ftp://wardens.example.org/"));
        assert!(check("http://").is_err());
    }
}
