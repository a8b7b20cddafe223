//! PDF files that hold their text. A page is a document.

use std::sync::Arc;
use std::sync::mpsc::channel;
use std::thread;
use std::time::Duration;

use crate::documents::guard::guarded;
use crate::documents::{
    FieldsWriter, Format, FormatFacts, Input, Out, RawDocument, ReadError, Reader, Start, Unit, WholeFile,
};
use crate::format::rejoined::rejoined;

pub(crate) struct Pdf;

/// The largest file that is read: all of it is held in memory.
const LARGEST: u64 = 1 << 30;
/// How long reading a file may take: a thousand pages take about half a minute.
const PATIENCE: Duration = Duration::from_secs(600);
/// Pages are drawn by functions that call themselves.
const STACK: usize = 256 << 20;

impl Reader for Pdf {
    fn format(&self) -> Format {
        Format::of(&FormatFacts {
            name: "pdf",
            about: "a PDF",
            endings: &["pdf"],
            units: &[Unit::Page, Unit::File],
            is_any_text: false,
        })
    }

    fn recognises(&self, start: &Start<'_>) -> bool {
        // Some have a line of something else before the sign.
        let start = &start.bytes[..start.bytes.len().min(1024)];
        memchr::memmem::find(start, b"%PDF-").is_some_and(|at| at == 0 || !start[..at].contains(&b'<'))
    }

    fn read(&self, input: &mut Input<'_>, out: &mut dyn Out) -> Result<(), ReadError> {
        let name = input.name.clone();
        let bytes = Arc::new(input.whole()?);
        if bytes.len() as u64 > LARGEST {
            return Err(ReadError::sentence("larger than one GiB; split it first"));
        }
        let by_page = out.options().unit_or(Unit::Page) == Unit::Page;
        let rejoin = out.options().rejoin;
        out.give(WholeFile {
            bytes: bytes.len() as u64,
            take_out: move || documents(&name, &bytes, by_page, rejoin),
        })
    }
}

fn documents(
    name: &str,
    bytes: &Arc<Vec<u8>>,
    by_page: bool,
    rejoin: bool,
) -> Result<Vec<RawDocument>, String> {
    let Read { pages, title, author } = read(bytes.clone())?;
    if pages.iter().all(|page| page.trim().is_empty()) {
        return Err(format!(
            "no text layer: its {} {} pictures only; run text recognition (OCR) over it first",
            pages.len(),
            if pages.len() == 1 { "page is" } else { "pages are" }
        ));
    }
    let pages: Vec<String> = pages
        .iter()
        .map(|page| {
            let page = composed(page.trim());
            if rejoin { rejoined(&page) } else { page }
        })
        .collect();
    let document = |id: String, number: Option<usize>, text: String| {
        let mut fields = FieldsWriter::default();
        fields.text_if_any("title", &title);
        fields.text_if_any("author", &author);
        if let Some(number) = number {
            fields.number("page", number);
        }
        fields.number("pages", pages.len());
        RawDocument { id, fields: fields.finish(), text: Some(text), broken_bytes: 0 }
    };
    if !by_page {
        return Ok(vec![document(name.to_owned(), None, pages.join("\n\n"))]);
    }
    let page = |(index, text): (usize, &String)| {
        document(format!("{name}:{}", index + 1), Some(index + 1), text.clone())
    };
    Ok(pages.iter().enumerate().map(page).collect())
}

struct Read {
    pages: Vec<String>,
    title: String,
    author: String,
}

/// Reads a file in a thread of its own, whose stack is large and whose panics are silent: the package that reads it panics on some files.
fn read(bytes: Arc<Vec<u8>>) -> Result<Read, String> {
    let (sender, receiver) = channel();
    let work = move || {
        let read = guarded(|| read_pages(&bytes)).unwrap_or_else(|| {
            Err("its fonts or its structure are of a kind that is not read yet".to_owned())
        });
        // Nobody may be waiting any more.
        drop(sender.send(read));
    };
    let reading = thread::Builder::new().name("pdf".into()).stack_size(STACK).spawn(work);
    reading.map_err(|why| format!("no memory to read it: {why}"))?;
    // A thread that goes on for ever is left to itself, and ends with the program.
    receiver.recv_timeout(PATIENCE).unwrap_or_else(|_| {
        Err(format!("takes longer than {} minutes to read; given up", PATIENCE.as_secs() / 60))
    })
}

fn read_pages(bytes: &[u8]) -> Result<Read, String> {
    let document = pdf_extract::Document::load_mem(bytes).map_err(|why| damaged(&why.to_string()))?;
    if document.is_encrypted() {
        return Err("encrypted: it needs a password; save a copy without one".to_owned());
    }
    let (title, author) = (property(&document, b"Title"), property(&document, b"Author"));
    let pages =
        pdf_extract::extract_text_from_mem_by_pages(bytes).map_err(|why| damaged(&why.to_string()))?;
    Ok(Read { pages, title, author })
}

fn damaged(why: &str) -> String {
    let lower = why.to_ascii_lowercase();
    if lower.contains("password") || lower.contains("encrypt") || lower.contains("decrypt") {
        "encrypted: it needs a password; save a copy without one".to_owned()
    } else {
        format!("damaged PDF, cut off or not copied to its end: {why}")
    }
}

/// A text of the document's properties.
fn property(document: &pdf_extract::Document, name: &[u8]) -> String {
    let text = || {
        let info = document.trailer.get(b"Info").ok()?;
        let info = match info.as_reference() {
            Ok(id) => document.get_object(id).ok()?,
            Err(_) => info,
        };
        let value = info.as_dict().ok()?.get(name).ok()?;
        let value = match value.as_reference() {
            Ok(id) => document.get_object(id).ok()?,
            Err(_) => value,
        };
        let bytes = value.as_str().ok()?;
        Some(match bytes {
            [0xfe, 0xff, ..] | [0xff, 0xfe, ..] | [0xef, 0xbb, 0xbf, ..] => {
                super::text::decoded(bytes).into_owned()
            }
            _ => encoding_rs::WINDOWS_1252.decode(bytes).0.into_owned(),
        })
    };
    text().unwrap_or_default()
}

/// Accents that some programs print apart, before their letters (`caf´e`), put on these.
fn composed(text: &str) -> String {
    if !text.contains(['´', '¨', '`', 'ˆ', '˜', '¸', 'ˇ', '˚']) {
        return text.to_owned();
    }
    let mut out = String::with_capacity(text.len());
    let mut chars = text.chars().peekable();
    while let Some(c) = chars.next() {
        let mark = match c {
            '´' => Some('\u{301}'),
            '¨' => Some('\u{308}'),
            '`' => Some('\u{300}'),
            'ˆ' => Some('\u{302}'),
            '˜' => Some('\u{303}'),
            '¸' => Some('\u{327}'),
            'ˇ' => Some('\u{30c}'),
            '˚' => Some('\u{30a}'),
            _ => None,
        };
        // The dotless letters are what stands under an accent.
        let letter = chars.peek().map(|next| match next {
            'ı' => 'i',
            'ȷ' => 'j',
            other => *other,
        });
        match mark.zip(letter).and_then(|(mark, letter)| unicode_normalization::char::compose(letter, mark)) {
            Some(whole) => {
                chars.next();
                out.push(whole);
            }
            None => out.push(c),
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_are_rejoined_at_line_ends() {
        for (text, expected) in [
            ("the consid-\nerations of\nterns", "the considerations\nof\nterns"),
            ("Saltmere-\nNorth", "Saltmere-\nNorth"),
            ("pages 3-\n4", "pages 3-\n4"),
            ("no hyphen\nhere", "no hyphen\nhere"),
            ("one-\ntwo three-\nfour", "onetwo\nthreefour\n"),
            ("consid-\n\nerations on", "considerations\non"),
        ] {
            assert_eq!(rejoined(text), expected, "{text}");
        }
    }

    #[test]
    fn accents_before_their_letters_are_put_on_them() {
        assert_eq!(composed("caf´e, M¨uller, na¨ıve, 5 ´ x"), "café, Müller, naïve, 5 ´ x");
    }

    #[test]
    fn what_is_no_pdf_is_told_and_never_panics() {
        assert!(
            read(Arc::new(b"%PDF-1.4\nnothing".to_vec())).is_err_and(|why| why.starts_with("damaged PDF"))
        );
    }
}
