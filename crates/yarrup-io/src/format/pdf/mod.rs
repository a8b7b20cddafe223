//! PDF files that hold their text. A page is a document.

mod filled;
mod mended;
mod page;

use std::collections::HashSet;
use std::sync::Arc;
use std::sync::mpsc::channel;
use std::thread;
use std::time::Duration;

use pdf_extract::Document;

use self::filled::{Filled, decoded};
use self::page::{Page, composed};
use crate::documents::guard::guarded;
use crate::documents::{
    FieldsWriter, Format, Input, Out, RawDocument, ReadError, Reader, Start, TakenOut, Unit, WholeFile,
};
use crate::format::facts;
use crate::format::rejoined::rejoined;
use crate::record::Why;

pub(crate) struct Pdf;

/// The largest file that is read: all of it is held in memory.
const LARGEST: u64 = 1 << 30;
/// How long reading a file may take: a thousand pages take about half a minute.
const PATIENCE: Duration = Duration::from_secs(600);
/// Pages are drawn by functions that call themselves.
const STACK: usize = 256 << 20;

impl Reader for Pdf {
    fn format(&self) -> Format {
        Format::of(&facts::PDF)
    }

    fn recognises(&self, start: &Start<'_>) -> bool {
        // Some have a line of something else before the sign.
        let start = &start.bytes[..start.bytes.len().min(1024)];
        memchr::memmem::find(start, b"%PDF-").is_some_and(|at| at == 0 || !start[..at].contains(&b'<'))
    }

    fn is_read_apart(&self) -> bool {
        true
    }

    fn is_read_whole(&self) -> bool {
        true
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

fn documents(name: &str, bytes: &Arc<Vec<u8>>, by_page: bool, rejoin: bool) -> Result<TakenOut, String> {
    let Read { pages, entries, title, author, faults } = read(bytes.clone())?;
    if pages.iter().all(|page| page.trim().is_empty()) && faults.is_empty() {
        if pages.is_empty() {
            return Err("it has no pages".to_owned());
        }
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
    let document = |id: String, number: Option<usize>, text: String, entries: &[(String, String)]| {
        let mut fields = FieldsWriter::default();
        fields.text_if_any("title", &title);
        fields.text_if_any("author", &author);
        if let Some(number) = number {
            fields.number("page", number);
        }
        fields.number("pages", pages.len());
        if !entries.is_empty() {
            let mut form = FieldsWriter::default();
            entries.iter().for_each(|(name, value)| form.text(name, value));
            fields.json("form", &form.finish());
        }
        RawDocument { id, fields: fields.finish(), text: Some(text), broken_bytes: 0 }
    };
    let faults: Vec<(String, Why)> = faults
        .into_iter()
        .map(|(page, why)| (format!("{name}:{page}"), Why::Record(format!("the page cannot be read: {why}"))))
        .collect();
    if !by_page {
        // An entry that stands on several pages is one.
        let mut named = HashSet::new();
        let mut entries = entries.concat();
        entries.retain(|(name, _)| named.insert(name.clone()));
        let documents = vec![document(name.to_owned(), None, pages.join("\n\n"), &entries)];
        return Ok(TakenOut { documents, faults });
    }
    let page = |(index, text): (usize, &String)| {
        document(format!("{name}:{}", index + 1), Some(index + 1), text.clone(), &entries[index])
    };
    let is_faulty = |id: &str| faults.iter().any(|(place, _)| place == id);
    let documents = pages.iter().enumerate().map(page).filter(|page| !is_faulty(&page.id)).collect();
    Ok(TakenOut { documents, faults })
}

struct Read {
    pages: Vec<String>,
    /// By page: what its form holds.
    entries: Vec<Vec<(String, String)>>,
    title: String,
    author: String,
    /// The numbers of pages that cannot be read, and why.
    faults: Vec<(usize, String)>,
}

/// Reads a file in a thread of its own, whose stack is large and whose panics are silent: the package that reads it panics on some files.
fn read(bytes: Arc<Vec<u8>>) -> Result<Read, String> {
    let (sender, receiver) = channel();
    let work = move || {
        let read = guarded(|| read_pages(&bytes)).unwrap_or_else(|| Err(NOT_READ_YET.to_owned()));
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

/// What is told where the package that reads pages gives up.
const NOT_READ_YET: &str = "its fonts or its structure are of a kind that is not read yet";

fn read_pages(bytes: &[u8]) -> Result<Read, String> {
    let mut document = Document::load_mem(bytes).map_err(|why| damaged(&why.to_string()))?;
    if document.is_encrypted() {
        return Err("encrypted: it needs a password; save a copy without one".to_owned());
    }
    let (title, author) = (property(&document, b"Title"), property(&document, b"Author"));
    mended::mend(&mut document);
    let (mut pages, mut entries) = (Vec::new(), Vec::new());
    let (mut faults, mut first_fault) = (Vec::new(), None);
    for (number, id) in &document.get_pages() {
        let mut page = Page::default();
        // One broken page is not to cost the others.
        let read = guarded(|| pdf_extract::output_doc_page(&document, &mut page, *number));
        let (fault, is_damage) = match read {
            Some(Ok(())) => (page.fault(), false),
            Some(Err(why)) => (Some(why.to_string()), true),
            None => (Some(NOT_READ_YET.to_owned()), false),
        };
        let mut text = if fault.is_none() { page.text() } else { String::new() };
        let filled = Filled::of(&document, *id);
        for put in &filled.texts {
            if !text.is_empty() && !text.ends_with('\n') {
                text.push('\n');
            }
            text.push_str(put);
        }
        pages.push(text);
        entries.push(filled.entries);
        if let Some(why) = fault {
            first_fault.get_or_insert_with(|| if is_damage { damaged(&why) } else { why.clone() });
            faults.push((pages.len(), why));
        }
    }
    if let Some(why) = first_fault.filter(|_| faults.len() == pages.len()) {
        return Err(why);
    }
    Ok(Read { pages, entries, title, author, faults })
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
fn property(document: &Document, name: &[u8]) -> String {
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
        Some(decoded(bytes))
    };
    text().unwrap_or_default()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_no_pdf_is_told_and_never_panics() {
        assert!(
            read(Arc::new(b"%PDF-1.4\nnothing".to_vec())).is_err_and(|why| why.starts_with("damaged PDF"))
        );
    }
}
