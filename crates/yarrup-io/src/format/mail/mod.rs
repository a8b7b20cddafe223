//! Mail: single messages (RFC 5322) and mailboxes of them (RFC 4155).

pub(crate) mod outlook;
mod parted;

use mail_parser::{Address, Message, MessageParser, MimeHeaders, PartType};

use crate::documents::guard::{BROKE, guarded};
use crate::documents::lines::{LineReader, Lines};
use crate::documents::{
    BATCH_BYTES, Chunk, Documents, FieldsWriter, Format, Input, More, Out, RawDocument, ReadError, Reader,
    Start, Visit,
};
use crate::format::facts;
use crate::format::markup::{Apart, read_page};
use crate::record::Why;
use parted::{DEEPEST, Parted};

pub(crate) struct Mail;

/// Header fields of which a message has two at least.
const USUAL: [&str; 12] = [
    "from",
    "to",
    "subject",
    "date",
    "received",
    "message-id",
    "mime-version",
    "return-path",
    "delivered-to",
    "content-type",
    "reply-to",
    "x-mailer",
];
/// The longest message.
const LONGEST_MESSAGE: usize = 256 << 20;

impl Reader for Mail {
    fn format(&self) -> Format {
        Format::of(&facts::MAIL)
    }

    fn recognises(&self, start: &Start<'_>) -> bool {
        let start = &start.bytes[..start.bytes.len().min(16 << 10)];
        let text = String::from_utf8_lossy(start);
        let text = text.trim_start_matches('\u{feff}');
        match text.strip_prefix("From ") {
            Some(rest) => rest.split_once('\n').is_some_and(|(_, headers)| looks_like_headers(headers)),
            None => looks_like_headers(text),
        }
    }

    fn read(&self, input: &mut Input<'_>, out: &mut dyn Out) -> Result<(), ReadError> {
        let is_mailbox = input.opened.look()?.starts_with(b"From ");
        if is_mailbox {
            return read_mailbox(input, out);
        }
        let bytes = input.whole()?;
        if bytes.is_empty() {
            return Err(ReadError::sentence("empty, so no message"));
        }
        out.give(Messages(vec![(input.name.clone(), bytes)]))
    }
}

fn looks_like_headers(text: &str) -> bool {
    let mut usual = 0;
    for (index, line) in text.lines().take(80).enumerate() {
        if line.is_empty() || (index > 0 && line.starts_with([' ', '\t'])) {
            if line.is_empty() {
                break;
            }
            continue;
        }
        let Some((name, _)) = line.split_once(':') else { return false };
        if name.is_empty()
            || !name.bytes().all(|byte| byte.is_ascii_alphanumeric() || byte == b'-' || byte == b'_')
        {
            return false;
        }
        usual += usize::from(USUAL.contains(&name.to_ascii_lowercase().as_str()));
    }
    usual >= 2
}

/// Reads the messages of a mailbox: each begins with a line `From ` behind a blank one.
fn read_mailbox(input: &mut Input<'_>, out: &mut dyn Out) -> Result<(), ReadError> {
    let name = input.name.clone();
    let mut lines = LineReader::new(&mut input.opened, false);
    let (mut message, mut number, mut blank) = (Vec::new(), 0, true);
    let (mut ready, mut bytes) = (Vec::new(), 0);
    while let Some(batch) = lines.next(BATCH_BYTES)? {
        let Lines::Whole(_, batch) = batch else { continue };
        for line in batch.split_inclusive(|byte| *byte == b'\n') {
            if blank && is_envelope(line) {
                if number > 0 {
                    bytes += message.len();
                    ready.push((format!("{name}:{number}"), std::mem::take(&mut message)));
                }
                number += 1;
                blank = false;
                if bytes >= BATCH_BYTES {
                    bytes = 0;
                    out.give(Messages(std::mem::take(&mut ready)))?;
                }
                continue;
            }
            blank = matches!(line, b"\n" | b"\r\n");
            // `>From ` was `From `, which a mailbox must not have at the start of a line.
            let unquoted = line.iter().position(|byte| *byte != b'>').unwrap_or(0);
            let line = if unquoted > 0 && line[unquoted..].starts_with(b"From ") { &line[1..] } else { line };
            if message.len() + line.len() <= LONGEST_MESSAGE {
                message.extend_from_slice(line);
            }
        }
    }
    if number > 0 {
        ready.push((format!("{name}:{number}"), message));
    }
    out.give(Messages(ready))
}

/// Whether a line parts two messages: `From`, whoever sent it, and when. A sentence may begin with the same word.
fn is_envelope(line: &[u8]) -> bool {
    let Some(rest) = line.strip_prefix(b"From ") else { return false };
    let text = String::from_utf8_lossy(rest);
    let is_clock = |word: &str| {
        let mut parts = word.split(':');
        let two = |part: Option<&str>| part.is_some_and(|part| part.len() <= 2 && part.parse::<u8>().is_ok());
        two(parts.next()) && two(parts.next())
    };
    let is_year = |word: &str| word.len() == 4 && word.parse::<u16>().is_ok();
    text.split_whitespace().any(is_clock) && text.split_whitespace().any(is_year)
}

/// Messages with their ids, not yet taken apart.
struct Messages(Vec<(String, Vec<u8>)>);

impl Chunk for Messages {
    fn bytes(&self) -> u64 {
        self.0.iter().map(|(_, bytes)| bytes.len() as u64).sum()
    }

    fn records(&self, visit: &mut Visit<'_>) -> More {
        for (id, bytes) in &self.0 {
            match guarded(|| message(id, bytes)).unwrap_or_else(|| Err(BROKE.into())) {
                Ok(document) => Documents(vec![document]).records(visit)?,
                Err(why) => visit.malformed(id.clone(), Why::Record(why))?,
            }
        }
        More::Continue(())
    }
}

fn message(id: &str, bytes: &[u8]) -> Result<RawDocument, String> {
    let message = MessageParser::default().parse(bytes).filter(|message| !message.headers().is_empty());
    let message = message.ok_or("not a message: it has no header")?;
    let mut fields = FieldsWriter::default();
    fields.text_if_any("subject", message.subject().unwrap_or_default());
    for (name, address) in [("from", message.from()), ("to", message.to()), ("cc", message.cc())] {
        fields.text_if_any(name, &addresses(address));
    }
    if let Some(date) = message.date().filter(|date| date.is_valid()) {
        fields.text("date", &date.to_rfc3339());
    }
    fields.text_if_any("message_id", message.message_id().unwrap_or_default());
    fields.text_if_any("in_reply_to", message.in_reply_to().as_text().unwrap_or_default());
    let attached: Vec<_> = message.attachments().filter_map(|part| part.attachment_name()).collect();
    fields.text_if_any("attachments", &attached.join(", "));
    let parted = parted(&message, 0)?;
    fields.text_if_any("quoted", &parted.quoted);
    fields.text_if_any("signature", &parted.signature);
    // What a broken letter became in decoding is still seen in the text.
    Ok(RawDocument { id: id.to_owned(), fields: fields.finish(), text: Some(parted.own), broken_bytes: 0 })
}

fn addresses(address: Option<&Address<'_>>) -> String {
    let all: Vec<_> = address
        .into_iter()
        .flat_map(Address::iter)
        .map(|one| match (one.name(), one.address()) {
            (Some(name), Some(address)) => format!("{name} <{address}>"),
            (Some(one), None) | (None, Some(one)) => one.to_owned(),
            (None, None) => String::new(),
        })
        .collect();
    all.join(", ")
}

/// What a message says in all of its parts that are texts. Messages that are attached to it are what others wrote.
fn parted(message: &Message<'_>, depth: usize) -> Result<Parted, String> {
    let mut said = Parted::default();
    for (text, cited) in texts(message)? {
        said.add(&text, &cited);
    }
    for part in message.parts.iter().filter(|_| depth < DEEPEST) {
        if let PartType::Message(attached) = &part.body {
            let inside = parted(attached, depth + 1)?;
            said.add_attached(attached.subject().unwrap_or_default(), &inside);
        }
    }
    Ok(said)
}

/// The texts of a message, in their order, each with what a page of it marks as quoted; of one that is written in several forms, the plain one.
fn texts(message: &Message<'_>) -> Result<Vec<(String, String)>, String> {
    let parts = |places: &[u32]| -> Result<Vec<(String, String)>, String> {
        let parts = places.iter().filter_map(|place| message.parts.get(*place as usize));
        let texts = parts.filter_map(|part| match &part.body {
            PartType::Text(text) => Some(Ok((text.to_string(), String::new()))),
            PartType::Html(html) => Some(read_page(html, Apart::Quotes).map(|page| (page.text, page.apart))),
            _ => None,
        });
        texts.collect()
    };
    let mut texts = parts(&message.text_body)?;
    if texts.is_empty() {
        texts = parts(&message.html_body)?;
    }
    // A type that is not one, such as `text` alone, stands for plain text (RFC 2045, section 5.2).
    if let ([part], true) = (message.parts.as_slice(), texts.is_empty())
        && part.content_type().is_some_and(|kind| kind.c_type.eq_ignore_ascii_case("text"))
    {
        texts = parts(&[0])?;
    }
    Ok(texts)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_a_page_marks_as_quoted_is_quoted() {
        let html = "Content-Type: text/html";
        for (page, own, quoted) in [
            (
                "<p>Here.</p><blockquote type=cite><p>Where?</p></blockquote><p>Mira</p>",
                "Here.\n\nMira",
                "Where?",
            ),
            (
                "<div>Here.</div><div class='gmail_quote'><div class='gmail_attr'>On Sunday Teo wrote:<br></div>\
                 <blockquote class='gmail_quote' style='border-left:1px solid'>Where?</blockquote></div>",
                "Here.",
                "On Sunday Teo wrote:\n\nWhere?",
            ),
            ("<blockquote style='margin-left:40px'>Indented.</blockquote>", "Indented.", ""),
            (
                "<p>Here.</p><hr><p>From: Teo<br>Sent: Sunday</p><p>Where?</p>",
                "Here.",
                "From: Teo\nSent: Sunday\n\nWhere?",
            ),
        ] {
            let document = of_parts("mixed", &[(html, page)]);
            assert_eq!(document.text.as_deref(), Some(own), "{page}");
            assert_eq!(field(&document, "quoted").unwrap_or_default(), quoted, "{page}");
        }
    }

    #[test]
    fn messages_are_parted_at_their_envelopes_alone() {
        for (line, expected) in [
            ("From mira@example.org Sun May  4 06:30:00 2031\n", true),
            ("From - Sun May 04 06:30:00 2031\r\n", true),
            ("From here it is text.\n", false),
            ("From 06:30 on, the tide falls.\n", false),
            ("Froma 06:30 2031\n", false),
        ] {
            assert_eq!(is_envelope(line.as_bytes()), expected, "{line}");
        }
    }

    #[test]
    fn headers_are_told_from_text() {
        assert!(looks_like_headers("From: a@example.org\nSubject: keys\n\nNote: x"));
        assert!(looks_like_headers("Received: by x\n\tfor y\nDate: today\n\n"));
        assert!(!looks_like_headers("Note: this\nis text: really\n"));
        assert!(!looks_like_headers("Site: Gull Hide\nSeason: spring\n\nText"));
    }

    #[test]
    fn a_message_in_two_forms_is_read_once() {
        let raw = b"From: Mira <mira@example.org>\r\nTo: teo@example.org\r\nSubject: =?utf-8?q?Caf=C3=A9?=\r\nDate: Sun, 4 May 2031 06:30:00 +0200\r\nMIME-Version: 1.0\r\nContent-Type: multipart/alternative; boundary=b\r\n\r\n--b\r\nContent-Type: text/plain; charset=iso-8859-1\r\nContent-Transfer-Encoding: quoted-printable\r\n\r\nCaf=E9 at six?\r\n--b\r\nContent-Type: text/html\r\n\r\n<p>Caf&eacute; at six?</p>\r\n--b--\r\n";
        let document = message("m", raw).expect("a message");
        assert_eq!(document.text.as_deref(), Some("Café at six?"));
        assert_eq!(
            document.fields,
            r#"{"subject":"Café","from":"Mira <mira@example.org>","to":"teo@example.org","date":"2031-05-04T06:30:00+02:00"}"#
        );
    }

    /// A message of these parts, each with its type and its text.
    fn of_parts(sort: &str, parts: &[(&str, &str)]) -> RawDocument {
        let mut raw = format!(
            "From: a@example.org\nTo: b@example.org\nMIME-Version: 1.0\nContent-Type: multipart/{sort}; boundary=b\n\n"
        );
        for (headers, text) in parts {
            raw.push_str(&format!("--b\n{headers}\n\n{text}\n"));
        }
        message("m", format!("{raw}--b--\n").as_bytes()).expect("a message")
    }

    fn field(document: &RawDocument, name: &str) -> Option<String> {
        let fields: serde_json::Value = serde_json::from_str(&document.fields).expect("an object");
        fields[name].as_str().map(str::to_owned)
    }

    #[test]
    fn every_part_that_is_a_text_is_read() {
        let text = "Content-Type: text/plain";
        let picture = "Content-Type: image/png; name=spit.png\nContent-Transfer-Encoding: base64\nContent-Disposition: inline; filename=spit.png";
        let document = of_parts(
            "mixed",
            &[
                (text, "Before the picture.\n> a quote"),
                (picture, "QUJD"),
                ("Content-Type: text/html", "<p>Behind <b>it</b>.</p>"),
                (text, "--\nMira"),
                (
                    "Content-Type: text/plain; name=list.txt\nContent-Disposition: attachment; filename=list.txt",
                    "not mine",
                ),
            ],
        );
        assert_eq!(document.text.as_deref(), Some("Before the picture.\n\nBehind it."));
        assert_eq!(field(&document, "quoted").as_deref(), Some("> a quote"));
        assert_eq!(field(&document, "signature").as_deref(), Some("Mira"));
        assert!(field(&document, "attachments").is_some_and(|names| names.contains("list.txt")));
    }

    #[test]
    fn attached_messages_are_what_others_wrote() {
        let attached = "From: c@example.org\nSubject: Keys\n\nUnder the mat.\n> Where?";
        let document = of_parts(
            "mixed",
            &[("Content-Type: text/plain", "See below."), ("Content-Type: message/rfc822", attached)],
        );
        assert_eq!(document.text.as_deref(), Some("See below."));
        assert_eq!(field(&document, "quoted").as_deref(), Some("Keys\n\nUnder the mat.\n\n> Where?"));
        let digest = of_parts(
            "digest",
            &[("Content-Type: message/rfc822", attached), ("Content-Type: message/rfc822", attached)],
        );
        assert_eq!(digest.text.as_deref(), Some(""));
        assert_eq!(field(&digest, "quoted").map(|quoted| quoted.matches("Under the mat.").count()), Some(2));
    }

    #[test]
    fn a_type_without_its_second_half_is_plain_text() {
        let text = |kind: &str| {
            let raw = format!(
                "From: a@example.org\nTo: b@example.org\nContent-Type: {kind}\n\nGute Gr\u{fc}\u{df}e"
            );
            let (raw, ..) = encoding_rs::WINDOWS_1252.encode(&raw);
            message("m", &raw).expect("a message").text.unwrap_or_default()
        };
        assert_eq!(text("text; charset=iso-8859-1"), "Gute Grüße");
        assert_eq!(text("text; charset=windows-1252"), "Gute Grüße");
        assert_eq!(text("application/x-keys"), "");
    }
}
