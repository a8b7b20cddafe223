//! Fetching what is at an address: again if need be, not for ever, and no faster than the server or the user asks for.

use std::io::{Read, Write};
use std::sync::mpsc::{RecvTimeoutError, sync_channel};
use std::sync::{Mutex, MutexGuard, PoisonError};
use std::thread;
use std::time::{Duration, Instant};

use ureq::tls::{PemItem, RootCerts, TlsConfig, parse_pem};
use ureq::{Agent, ResponseExt};
use url::{Origin, Url};

use crate::bounded::read_bounded;
use crate::collection::Login;
use crate::documents::{ReadError, ReadOptions};
use crate::writing::Temporary;

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
/// How many files of a listing are fetched at a time.
pub(super) const AT_A_TIME: usize = 4;

/// What was fetched.
pub(super) struct Fetched {
    pub(super) file: Temporary,
    /// Where it was in the end, behind all redirections.
    pub(super) url: Url,
    pub(super) html: bool,
}

/// What is heard while something is fetched.
pub(super) enum Heard {
    /// So many bytes more have come.
    Bytes(u64),
    /// It comes from another server, which is named.
    Elsewhere(String),
}

/// Who wants to hear it. An error says that nobody wants more.
pub(super) type Tell<'t> = dyn FnMut(Heard) -> Result<(), ReadError> + 't;

pub(super) struct Fetcher {
    agent: Agent,
    /// Who we are, for this server alone.
    login: Option<(Origin, Login)>,
    patience: Duration,
    largest: u64,
    pace: Pace,
}

/// Why an attempt came to nothing.
enum Missed {
    /// The next may do better, but not before this time.
    Now(String, Option<Duration>),
    /// No other would.
    Ever(String),
}

/// When the next file of a listing may be asked for.
struct Pace {
    /// The time between two requests that the user asks for.
    asked: Option<Duration>,
    times: Mutex<Times>,
}

struct Times {
    /// When it is the turn of the next request, if the user asks for a pace.
    turn: Instant,
    /// Until when the server has asked for no request.
    held: Instant,
}

impl Pace {
    fn new(asked: Option<Duration>) -> Pace {
        let now = Instant::now();
        Pace { asked, times: Mutex::new(Times { turn: now, held: now }) }
    }

    fn times(&self) -> MutexGuard<'_, Times> {
        self.times.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Waits for the turn of a file: as the user asks for, and else a moment on each connection, but for a server on this machine, which is nobody else's.
    fn wait(&self, url: &Url) {
        match self.asked {
            Some(asked) => {
                let mut times = self.times();
                let turn = times.turn.max(Instant::now());
                times.turn = turn + asked;
                drop(times);
                thread::sleep(turn.saturating_duration_since(Instant::now()));
            }
            None if is_this_machine(url) => {}
            None => thread::sleep(PAUSE),
        }
        // The server may have asked for time while we waited.
        loop {
            let held = self.times().held.saturating_duration_since(Instant::now());
            if held.is_zero() {
                return;
            }
            thread::sleep(held);
        }
    }

    /// Lets nobody ask for anything before this time has passed.
    fn hold(&self, wait: Duration) {
        let mut times = self.times();
        times.held = times.held.max(Instant::now() + wait);
    }
}

impl Fetcher {
    pub(super) fn new(options: &ReadOptions, login: Option<(Origin, Login)>) -> Result<Fetcher, String> {
        let patience = options.patience.map_or(PATIENCE, Duration::from_secs);
        let config = Agent::config_builder()
            .user_agent(concat!("yarrup/", env!("CARGO_PKG_VERSION")))
            .timeout_connect(Some(patience))
            .timeout_recv_response(Some(patience))
            .http_status_as_error(false)
            .max_redirects(8)
            .max_idle_connections_per_host(AT_A_TIME)
            .tls_config(tls(options)?)
            .build();
        Ok(Fetcher {
            agent: config.into(),
            login,
            patience,
            largest: options.largest.unwrap_or(LARGEST),
            pace: Pace::new(options.pace.map(Duration::from_millis)),
        })
    }

    /// Fetches a file of a listing when its turn has come.
    pub(super) fn fetch_in_turn(
        &self,
        url: &Url,
        tell: &mut Tell<'_>,
    ) -> Result<Result<Fetched, String>, ReadError> {
        self.pace.wait(url);
        self.fetch(url, tell)
    }

    /// Fetches what is at an address, again if need be. What keeps it from coming is a sentence; the outer error says only that
    /// nobody wants more.
    pub(super) fn fetch(&self, url: &Url, tell: &mut Tell<'_>) -> Result<Result<Fetched, String>, ReadError> {
        let mut wait = BACK_OFF;
        let mut attempt = 1;
        loop {
            match self.attempt(url, tell)? {
                Ok(fetched) => return Ok(Ok(fetched)),
                Err(Missed::Ever(why)) => return Ok(Err(why)),
                Err(Missed::Now(why, _)) if attempt == ATTEMPTS => {
                    return Ok(Err(format!("{why}; given up after {ATTEMPTS} attempts")));
                }
                Err(Missed::Now(_, asked)) => {
                    let wait = asked.unwrap_or(wait).min(LONGEST_WAIT);
                    // A server that asks for time asks all who are at it.
                    if asked.is_some() {
                        self.pace.hold(wait);
                    }
                    thread::sleep(wait);
                }
            }
            attempt += 1;
            wait *= 2;
        }
    }

    fn attempt(&self, url: &Url, tell: &mut Tell<'_>) -> Result<Result<Fetched, Missed>, ReadError> {
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
            tell(Heard::Elsewhere(url.origin().ascii_serialization()))?;
        }
        let header = |name: &str| response.headers().get(name).and_then(|value| value.to_str().ok());
        let html = header("content-type").is_some_and(|kind| kind.contains("html"));
        let announced: Option<u64> = header("content-length").and_then(|length| length.parse().ok());
        let too_large =
            || Missed::Ever(format!("larger than {}; --largest takes more", told_size(self.largest)));
        if announced.is_some_and(|bytes| bytes > self.largest) {
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
                    if bytes > self.largest {
                        return Ok(Err(too_large()));
                    }
                    file.file().write_all(&piece)?;
                    tell(Heard::Bytes(piece.len() as u64))?;
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
