//! Sources on the network, from a small server that behaves as badly as real ones do.

use std::collections::HashMap;
use std::io::{BufRead, BufReader, Write};
use std::net::{TcpListener, TcpStream};
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Arc, Mutex};
use std::thread;
use std::time::{Duration, Instant};

use crate::home::Home;

/// What the server does when a path is asked for.
#[derive(Clone)]
enum Answer {
    /// Sends this, of this content type.
    Send(&'static str, Vec<u8>),
    /// Sends the browser elsewhere.
    Redirect(String),
    /// Sends this to whoever says who they are like this.
    Locked(&'static str, Vec<u8>),
    /// Sends a byte now and then, without an end.
    Drip,
    /// Answers with an error so many times, then sends this.
    FailFirst(usize, Vec<u8>),
    /// Sends a little, and then nothing more, so many times; then all of it.
    StallFirst(usize, Vec<u8>),
    /// Announces more than it sends.
    Lie(Vec<u8>),
    /// Sends its path after a while, and counts how many such answers are worked on at a time.
    Slow(Duration, Arc<AtWork>),
    /// Asks once to come back after a second, then sends this.
    Later(Vec<u8>),
}

/// How many answers a server works on at a time.
#[derive(Default)]
struct AtWork {
    now: AtomicUsize,
    most: AtomicUsize,
}

struct Server {
    address: String,
    asked: Arc<Mutex<Vec<(String, Instant)>>>,
}

impl Server {
    fn start(pages: Vec<(&'static str, Answer)>) -> Server {
        let listener = TcpListener::bind("127.0.0.1:0").expect("a port");
        let address = format!("http://{}", listener.local_addr().expect("an address"));
        let asked = Arc::new(Mutex::new(Vec::new()));
        let pages: Arc<HashMap<&str, Answer>> = Arc::new(pages.into_iter().collect());
        let log = asked.clone();
        thread::spawn(move || {
            for stream in listener.incoming().flatten() {
                let (pages, log) = (pages.clone(), log.clone());
                thread::spawn(move || answer(stream, &pages, &log));
            }
        });
        Server { address, asked }
    }

    fn times(&self, path: &str) -> usize {
        self.asked.lock().expect("the log").iter().filter(|(asked, _)| asked == path).count()
    }
}

/// Answers one request and closes the connection. A client that goes away early is none of its business.
fn answer(mut stream: TcpStream, pages: &HashMap<&str, Answer>, log: &Mutex<Vec<(String, Instant)>>) {
    let mut reader = BufReader::new(stream.try_clone().expect("a stream"));
    let mut line = String::new();
    if reader.read_line(&mut line).is_err() {
        return;
    }
    let path = line.split(' ').nth(1).unwrap_or_default().to_owned();
    while reader.read_line(&mut line).is_ok_and(|count| count > 2) {}
    let authorization = line
        .lines()
        .find_map(|line| line.split_once(": ").filter(|(name, _)| name.eq_ignore_ascii_case("authorization")))
        .map_or("", |(_, value)| value);
    if !authorization.is_empty() {
        log.lock().expect("the log").push((format!("{path} {authorization}"), Instant::now()));
    }
    let before = {
        let mut log = log.lock().expect("the log");
        let before = log.iter().filter(|(asked, _)| *asked == path).count();
        log.push((path.clone(), Instant::now()));
        before
    };
    let head = |status: &str, kind: &str, length: usize| {
        format!(
            "HTTP/1.1 {status}\r\nContent-Type: {kind}\r\nContent-Length: {length}\r\nConnection: close\r\n\r\n"
        )
    };
    let mut send = |head: String, body: &[u8]| {
        let _ = stream.write_all(head.as_bytes()).and_then(|()| stream.write_all(body));
    };
    match pages.get(path.as_str()) {
        None => send(head("404 Not Found", "text/plain", 4), b"gone"),
        Some(Answer::Send(kind, body)) => send(head("200 OK", kind, body.len()), body),
        Some(Answer::Redirect(to)) => {
            send(
                format!(
                    "HTTP/1.1 302 Found\r\nLocation: {to}\r\nContent-Length: 0\r\nConnection: close\r\n\r\n"
                ),
                b"",
            );
        }
        Some(Answer::Locked(wanted, _)) if authorization != *wanted => {
            send(head("401 Unauthorized", "text/plain", 2), b"no");
        }
        Some(Answer::Locked(_, body)) => send(head("200 OK", "text/plain", body.len()), body),
        Some(Answer::Drip) => {
            send(head("200 OK", "text/plain", 1_000_000), b"");
            for _ in 0..600 {
                send(String::new(), b"x");
                thread::sleep(Duration::from_millis(50));
            }
        }
        Some(Answer::FailFirst(times, _)) if before < *times => {
            send(head("500 Oh No", "text/plain", 2), b"no");
        }
        Some(Answer::StallFirst(times, body)) if before < *times => {
            send(head("200 OK", "text/plain", body.len()), &body[..3]);
            thread::sleep(Duration::from_secs(20));
        }
        Some(Answer::FailFirst(_, body) | Answer::StallFirst(_, body)) => {
            send(head("200 OK", "text/plain", body.len()), body);
        }
        Some(Answer::Slow(wait, at_work)) => {
            let now = at_work.now.fetch_add(1, Ordering::SeqCst) + 1;
            at_work.most.fetch_max(now, Ordering::SeqCst);
            thread::sleep(*wait);
            at_work.now.fetch_sub(1, Ordering::SeqCst);
            send(head("200 OK", "text/plain", path.len()), path.as_bytes());
        }
        Some(Answer::Later(_)) if before == 0 => {
            send(
                "HTTP/1.1 429 Too Many Requests\r\nRetry-After: 1\r\nContent-Length: 0\r\nConnection: close\r\n\r\n"
                    .to_owned(),
                b"",
            );
        }
        Some(Answer::Later(body)) => send(head("200 OK", "text/plain", body.len()), body),
        Some(Answer::Lie(body)) => send(head("200 OK", "text/plain", body.len() + 10), body),
    }
}

const NOTES: &[u8] = b"{\"id\":\"a\",\"text\":\"terns\"}\n{\"id\":\"b\",\"text\":\"gulls\"}\n";

#[test]
fn a_file_is_fetched_through_redirections_and_failures() {
    let server = Server::start(vec![
        ("/old.jsonl", Answer::Redirect("/new/notes.jsonl".into())),
        ("/new/notes.jsonl", Answer::FailFirst(2, NOTES.to_vec())),
    ]);
    let home = Home::new();
    assert_eq!(home.documents(&format!("{}/old.jsonl", server.address)).len(), 2);
    assert_eq!(server.times("/new/notes.jsonl"), 3);
}

#[test]
fn a_server_that_stalls_is_tried_again() {
    let server = Server::start(vec![("/notes.txt", Answer::StallFirst(1, b"terns over the spit".to_vec()))]);
    let home = Home::new();
    let documents = home.documents(&format!("{}/notes.txt --patience 1", server.address));
    assert_eq!(documents[0]["text"], "terns over the spit");
    assert_eq!(server.times("/notes.txt"), 2);
}

#[test]
fn what_does_not_come_whole_is_no_source() {
    let server = Server::start(vec![
        ("/lie.txt", Answer::Lie(b"terns".to_vec())),
        ("/big.txt", Answer::Send("text/plain", vec![b'x'; 5000])),
    ]);
    let home = Home::with_recipe();
    for (path, why) in [
        ("/lie.txt", "given up after 4 attempts"),
        ("/gone.txt", "the server answers 404 Not Found"),
        ("/big.txt --largest 1kb", "larger than 1000 bytes; --largest takes more"),
    ] {
        let err = home.refused(&format!("run recipe.toml {}{path} --out run", server.address));
        assert!(err.contains(why), "{path}: {err}");
        assert!(!home.path("run").exists());
    }
    assert_eq!(server.times("/gone.txt"), 1);
    let err = home.refused("run recipe.toml http://127.0.0.1:1/x --out run");
    assert!(err.contains("no connection"), "{err}");
    assert!(home.refused("run recipe.toml http:// --out run").starts_with("error: http://: "));
}

#[test]
fn a_listing_is_read_and_kept() {
    let page = "<html><body><h1>Index of /notes/</h1><a href=\"../\">up</a><a href=\"?C=N\">sort</a><a href=\"b.txt\">b</a>\
        <a href=\"a%20b.txt\">a b</a><a href=\"a%20b.yaml\">side</a><a href=\"old/\">old</a><a href=\"/other.txt\">other</a>\
        <a href=\"gone.txt\">gone</a><a href=\"http://elsewhere.example.org/notes/x.txt\">x</a></body></html>";
    let server = Server::start(vec![
        ("/notes", Answer::Redirect("/notes/".into())),
        ("/notes/", Answer::Send("text/html; charset=utf-8", page.as_bytes().to_vec())),
        ("/notes/a%20b.txt", Answer::Send("text/plain", b"terns".to_vec())),
        ("/notes/a%20b.yaml", Answer::Send("text/plain", b"ward: North Spit\n".to_vec())),
        ("/notes/b.txt", Answer::Send("text/plain", b"gulls".to_vec())),
    ]);
    let home = Home::with_recipe();
    let documents = home.documents(&format!("{}/notes --keep kept", server.address));
    assert_eq!(documents.len(), 2);
    assert_eq!(
        (&documents[0]["id"], &documents[0]["text"], &documents[0]["ward"]),
        (&"a b.txt".into(), &"terns".into(), &"North Spit".into())
    );
    assert!(
        home.read("as-found/skipped.csv").contains("gone.txt,the server answers 404"),
        "{}",
        home.read("as-found/skipped.csv")
    );
    let host = server.address.trim_start_matches("http://").replace(':', "-");
    assert_eq!(home.names(&format!("kept/{host}/notes")), ["a b.txt", "a b.yaml", "b.txt"]);
    assert_eq!(server.times("/other.txt") + server.times("/notes/old/"), 0);
    // What is there is not fetched again; only what is missing is.
    std::fs::remove_file(home.path(&format!("kept/{host}/notes/b.txt"))).expect("a file that was kept");
    assert_eq!(home.documents(&format!("{}/notes/ --keep kept", server.address)).len(), 2);
    assert_eq!((server.times("/notes/a%20b.txt"), server.times("/notes/b.txt")), (1, 2));
    let said = home.yarrup(&format!("look {}/notes", server.address));
    assert!(
        said.err.contains("passed over 1 file: old/ (a folder of the listing; give its address)"),
        "{}",
        said.err
    );
}

#[test]
fn the_files_of_a_listing_come_four_at_a_time_in_their_order() {
    let at_work = Arc::new(AtWork::default());
    let names: Vec<String> = (10..50).map(|number| format!("/slow/{number}.txt")).collect();
    let links: String = names.iter().rev().map(|name| format!("<a href=\"{name}\">x</a>")).collect();
    let mut pages = vec![("/slow/", Answer::Send("text/html", links.into_bytes()))];
    let leaked = names.iter().map(|name| &*name.clone().leak());
    // The first of each four comes last.
    pages.extend((0..).zip(leaked).map(|(place, name): (u64, &str)| {
        (name, Answer::Slow(Duration::from_millis(200 - 40 * (place % 4)), at_work.clone()))
    }));
    let server = Server::start(pages);
    let home = Home::new();
    let texts = |more: &str| -> Vec<String> {
        let documents = home.documents(&format!("{}/slow/{more}", server.address));
        documents.iter().map(|document| document["text"].as_str().expect("a text").to_owned()).collect()
    };
    assert_eq!(texts(""), names);
    assert_eq!(at_work.most.load(Ordering::SeqCst), 4);
    // Nobody asks for files that are not wanted, but for those that wait for their turn.
    let asked = || server.asked.lock().expect("the log").len();
    let before = asked();
    assert_eq!(texts(" --first 1"), names[..1]);
    assert!(asked() - before < 30, "{}", asked() - before);
    // With a pace, the next is asked for when it is its time.
    let begun = Instant::now();
    assert_eq!(texts(" --pace 50"), names);
    assert!(begun.elapsed() >= Duration::from_millis(39 * 50), "{:?}", begun.elapsed());
}

#[test]
fn a_server_that_asks_for_time_is_given_it() {
    let server = Server::start(vec![
        ("/notes/", Answer::Send("text/html", b"<a href=\"a.txt\">a</a><a href=\"b.txt\">b</a>".to_vec())),
        ("/notes/a.txt", Answer::Later(b"terns".to_vec())),
        ("/notes/b.txt", Answer::Later(b"gulls".to_vec())),
    ]);
    let home = Home::new();
    // The second would be asked for after a fifth of a second.
    let documents = home.documents(&format!("{}/notes/ --pace 200", server.address));
    assert_eq!((&documents[0]["text"], &documents[1]["text"]), (&"terns".into(), &"gulls".into()));
    assert_eq!((server.times("/notes/a.txt"), server.times("/notes/b.txt")), (2, 2));
    let asked = server.asked.lock().expect("the log");
    let first = |path: &str| asked.iter().find(|(asked, _)| asked == path).map(|(_, at)| *at);
    let between = first("/notes/b.txt").zip(first("/notes/a.txt")).map(|(second, first)| second - first);
    assert!(between.is_some_and(|between| between >= Duration::from_millis(900)), "{between:?}");
}

#[test]
fn files_that_share_a_side_file_each_have_its_fields() {
    let page =
        b"<a href=\"a.txt\">a</a><a href=\"a.md\">a</a><a href=\"a.yaml\">s</a><a href=\"b.txt\">b</a>";
    let server = Server::start(vec![
        ("/notes/", Answer::Send("text/html", page.to_vec())),
        ("/notes/a.txt", Answer::Send("text/plain", b"terns".to_vec())),
        ("/notes/a.md", Answer::Send("text/plain", b"gulls".to_vec())),
        ("/notes/a.yaml", Answer::Send("text/plain", b"ward: North Spit\n".to_vec())),
        ("/notes/b.txt", Answer::Send("text/plain", b"herons".to_vec())),
    ]);
    let home = Home::new();
    for keeps in ["", " --keep kept", " --keep kept"] {
        let documents = home.documents(&format!("{}/notes/{keeps}", server.address));
        let rows: Vec<_> =
            documents.iter().map(|document| (document["text"].as_str(), document["ward"].as_str())).collect();
        let ward = Some("North Spit");
        assert_eq!(rows, [(Some("gulls"), ward), (Some("terns"), ward), (Some("herons"), None)], "{keeps}");
    }
}

#[test]
fn files_of_one_name_are_kept_apart_and_told_by_where_they_lead() {
    let server = Server::start(vec![
        ("/one/notes.csv", Answer::Send("text/csv", b"id,text\n1,terns\n".to_vec())),
        ("/two/notes.csv", Answer::Send("text/csv", b"id,text\n2,gulls\n".to_vec())),
        ("/newest", Answer::Redirect("/two/notes.csv".into())),
    ]);
    let home = Home::new();
    let address = &server.address;
    for _ in 0..2 {
        let documents = home.documents(&format!(
            "{address}/one/notes.csv {address}/two/notes.csv {address}/newest --keep kept"
        ));
        let texts: Vec<_> =
            documents.iter().map(|document| document["text"].as_str().expect("a text")).collect();
        assert_eq!(texts, ["terns", "gulls", "gulls"]);
    }
    // Where a redirection leads may have changed: it is asked each time.
    assert_eq!((server.times("/one/notes.csv"), server.times("/newest")), (1, 2));
}

#[test]
fn a_page_that_lists_nothing_is_a_page() {
    let server = Server::start(vec![
        (
            "/",
            Answer::Send(
                "text/html",
                b"<html><title>Home</title><p>Terns <a href=\"http://elsewhere.example.org/\">here</a>"
                    .to_vec(),
            ),
        ),
        ("/folders/", Answer::Send("text/html", b"<a href=\"2030/\">2030</a>".to_vec())),
    ]);
    let home = Home::with_recipe();
    let documents = home.documents(&format!("{}/", server.address));
    assert_eq!((&documents[0]["title"], &documents[0]["text"]), (&"Home".into(), &"Terns here".into()));
    let err = home.refused(&format!("run recipe.toml {}/folders/ --out run", server.address));
    assert!(err.contains("lists no file, only folders, which are not followed: `2030/`"), "{err}");
}

#[test]
fn an_archive_is_read_from_the_network() {
    let archive =
        std::fs::read(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/reports-2030.zip")).expect("the demo");
    let server = Server::start(vec![("/reports.zip", Answer::Send("application/zip", archive))]);
    let documents = Home::new().documents(&format!("{}/reports.zip", server.address));
    assert_eq!(documents.len(), 10);
    assert_eq!(documents[0]["ward"], "Cockle Flats");
}

#[test]
fn a_user_and_a_password_go_to_their_server_and_nowhere_else() {
    let other = Server::start(vec![("/n.jsonl", Answer::Send("text/plain", NOTES.to_vec()))]);
    // The password, with a sign that must be written otherwise in an address.
    let server = Server::start(vec![
        ("/notes.jsonl", Answer::Locked("Basic d2FyZGVuOnMzY3JldEA=", NOTES.to_vec())),
        ("/moved.jsonl", Answer::Redirect(format!("{}/n.jsonl", other.address))),
        ("/broken.jsonl", Answer::Locked("Basic d2FyZGVuOnMzY3JldEA=", b"{\"id\": 1}\n".to_vec())),
    ]);
    let with_login =
        |path: &str| format!("{}{path}", server.address.replace("http://", "http://warden:s3cret%40@"));
    let home = Home::with_recipe();
    let (notes, moved) = (with_login("/notes.jsonl"), with_login("/moved.jsonl"));
    let broken = with_login("/broken.jsonl");
    let said = home.yarrup(&format!("run recipe.toml {notes} {moved} {broken} {notes}x --out run"));
    assert_eq!(said.code, Some(0), "{said:?}");
    let told =
        format!("{}/moved.jsonl: the server redirects to another one, {}", server.address, other.address);
    assert!(said.err.contains(&told), "{}", said.err);
    assert!(
        other.asked.lock().expect("the log").iter().all(|(asked, _)| !asked.contains("Basic")),
        "it went elsewhere"
    );
    // Whatever is said or written: neither of the two is in it.
    let mut all = format!("{}{}", said.out, said.err);
    for name in home.names("run").iter().filter(|name| !name.starts_with("figures")) {
        all.push_str(&String::from_utf8_lossy(
            &std::fs::read(home.path(&format!("run/{name}"))).expect("a file"),
        ));
    }
    for command in [
        format!("look {notes}"),
        format!("look {notes} --format json --save all.toml"),
        format!("look {notes}x"),
        format!("try recipe.toml --from {notes}"),
        format!("check recipe.toml {broken}"),
        "look all.toml".to_owned(),
        format!("run recipe.toml {} --out bad", notes.replace("127", "[127")),
    ] {
        let said = home.yarrup(&command);
        all.push_str(&format!("{}{}", said.out, said.err));
    }
    all.push_str(&home.read("all.toml"));
    for secret in ["s3cret", "warden", "d2FyZGVu"] {
        assert!(
            !all.contains(secret),
            "{secret} in {}",
            all.lines().find(|line| line.contains(secret)).unwrap_or_default()
        );
    }
}

#[test]
fn a_server_that_drips_is_given_up() {
    let server = Server::start(vec![("/slow.txt", Answer::Drip)]);
    let home = Home::with_recipe();
    let begun = std::time::Instant::now();
    let err = home.refused(&format!("run recipe.toml {}/slow.txt --patience 1 --out run", server.address));
    assert!(err.contains("the server sends less than 1000 bytes a second; --patience waits longer"), "{err}");
    assert!(begun.elapsed() < Duration::from_secs(15));
    assert_eq!(home.names("."), ["recipe.toml"]);
}
