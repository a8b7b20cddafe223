//! PDF files that hold their text. A page is a document.

use std::borrow::Cow;
use std::sync::Arc;
use std::sync::mpsc::channel;
use std::thread;
use std::time::Duration;

use pdf_extract::{Document, MediaBox, Object, ObjectId, OutputDev, OutputError, Transform};
use regex::{Captures, Regex};

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
    let Read { pages, title, author, faults } = read(bytes.clone())?;
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
    let faults: Vec<(String, Why)> = faults
        .into_iter()
        .map(|(page, why)| (format!("{name}:{page}"), Why::Record(format!("the page cannot be read: {why}"))))
        .collect();
    if !by_page {
        let documents = vec![document(name.to_owned(), None, pages.join("\n\n"))];
        return Ok(TakenOut { documents, faults });
    }
    let page = |(index, text): (usize, &String)| {
        document(format!("{name}:{}", index + 1), Some(index + 1), text.clone())
    };
    let is_faulty = |id: &str| faults.iter().any(|(place, _)| place == id);
    let documents = pages.iter().enumerate().map(page).filter(|page| !is_faulty(&page.id)).collect();
    Ok(TakenOut { documents, faults })
}

struct Read {
    pages: Vec<String>,
    title: String,
    author: String,
    /// The numbers of pages that cannot be read, and why.
    faults: Vec<(usize, String)>,
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
    let mut document = Document::load_mem(bytes).map_err(|why| damaged(&why.to_string()))?;
    if document.is_encrypted() {
        return Err("encrypted: it needs a password; save a copy without one".to_owned());
    }
    let (title, author) = (property(&document, b"Title"), property(&document, b"Author"));
    write_widths_out(&mut document);
    write_characters_in_full(&mut document);
    let (mut pages, mut faults) = (Vec::new(), Vec::new());
    for number in document.get_pages().keys() {
        let mut page = Page::default();
        // One broken page is not to cost the others.
        let read = guarded(|| pdf_extract::output_doc_page(&document, &mut page, *number));
        let fault = match read {
            Some(Ok(())) => None,
            Some(Err(why)) => Some(why.to_string()),
            None => Some("its fonts or its structure are of a kind that is not read yet".to_owned()),
        };
        pages.push(if fault.is_none() { page.text() } else { String::new() });
        faults.extend(fault.map(|why| (pages.len(), why)));
    }
    if let Some((_, why)) = faults.first().filter(|_| faults.len() == pages.len()) {
        return Err(damaged(why));
    }
    Ok(Read { pages, title, author, faults })
}

/// The most characters whose widths are written out: as many as a font can have.
const MOST_WIDTHS: i64 = 1 << 16;

/// Writes the widths of characters out that fonts give for a range of them (ISO 32000-1, section 9.7.4.3), which the package that reads them
/// takes for widths of nothing: gaps between words would be told in the wrong places.
fn write_widths_out(document: &mut Document) {
    let fonts = |object: &Object| -> Option<Object> {
        let font = object.as_dict().ok()?;
        let is_composite = font.get(b"Subtype").ok()?.as_name().ok()?.starts_with(b"CIDFontType");
        is_composite.then(|| font.get(b"W").ok().cloned()).flatten()
    };
    let found: Vec<(ObjectId, Object)> =
        document.objects.iter().filter_map(|(id, object)| Some((*id, fonts(object)?))).collect();
    for (font, widths) in found {
        let widths = match &widths {
            Object::Reference(id) => document.get_object(*id).ok().cloned(),
            _ => Some(widths),
        };
        let written_out = widths.as_ref().and_then(|widths| written_out(widths.as_array().ok()?));
        if let (Some(written_out), Ok(font)) = (written_out, document.get_dictionary_mut(font)) {
            font.set("W", Object::Array(written_out));
        }
    }
}

/// Widths of characters, each given for itself; none if they are malformed.
fn written_out(widths: &[Object]) -> Option<Vec<Object>> {
    let (mut all, mut at, mut count) = (Vec::new(), 0, 0);
    while let Some(first) = widths.get(at) {
        if let Object::Array(each) = widths.get(at + 1)? {
            all.extend([first.clone(), Object::Array(each.clone())]);
            at += 2;
            continue;
        }
        let (from, to) = (first.as_i64().ok()?, widths.get(at + 1)?.as_i64().ok()?);
        let length =
            to.checked_sub(from)?.checked_add(1).filter(|length| (0..=MOST_WIDTHS).contains(length))?;
        count += length;
        if count > MOST_WIDTHS {
            return None;
        }
        all.extend([first.clone(), Object::Array(vec![widths.get(at + 2)?.clone(); length as usize])]);
        at += 3;
    }
    Some(all)
}

/// Writes the characters that codes stand for with two bytes where some programs write one (ISO 32000-1, section 9.10.3, asks for UTF-16), which the package that
/// reads them refuses with the whole page.
fn write_characters_in_full(document: &mut Document) {
    let table = |font: &Object| font.as_dict().ok()?.get(b"ToUnicode").ok()?.as_reference().ok();
    let tables: Vec<ObjectId> = document.objects.values().filter_map(table).collect();
    for table in tables {
        let Ok(Object::Stream(stream)) = document.get_object_mut(table) else { continue };
        if stream.content.len() > LARGEST_TABLE {
            continue;
        }
        let content = stream.decompressed_content().unwrap_or_default();
        if let Some(content) = in_full(&content) {
            stream.set_plain_content(content);
        }
    }
}

/// The most bytes of a table of characters, as it is packed.
const LARGEST_TABLE: usize = 1 << 18;

/// A table of characters in which the ranges begin at a character of two bytes; none if they do already, or it is no such table.
fn in_full(table: &[u8]) -> Option<Vec<u8>> {
    // A table is written in ASCII.
    let table = std::str::from_utf8(table).ok()?;
    let blocks = Regex::new(r"(?s)beginbfrange.*?endbfrange").expect("the pattern is a constant");
    let range = Regex::new(r"(<[0-9A-Fa-f]+>\s*<[0-9A-Fa-f]+>\s*<)([0-9A-Fa-f]+>)")
        .expect("the pattern is a constant");
    let longer = |found: &Captures<'_>| {
        let zeros = if found[2].len() == "FF>".len() { "00" } else { "" };
        format!("{}{zeros}{}", &found[1], &found[2])
    };
    let written =
        blocks.replace_all(table, |block: &Captures<'_>| range.replace_all(&block[0], longer).into_owned());
    (written != table).then(|| written.into_owned().into_bytes())
}

/// The characters of a page in the order in which they are drawn.
#[derive(Default)]
struct Page {
    glyphs: Vec<Glyph>,
    begins: bool,
}

/// Characters that are drawn together, in the units of the page, from the left and from the top.
struct Glyph {
    text: String,
    x: f64,
    y: f64,
    size: f64,
    end: f64,
    /// Whether a run of characters begins with it, which may be anywhere.
    begins: bool,
}

impl Page {
    /// The text: lines where the characters go down, spaces where they leave a gap. What writes spaces out leaves gaps for other reasons as well,
    /// such as fonts that are drawn at another width than they say.
    fn text(&self) -> String {
        let spaces = self.glyphs.iter().filter(|glyph| glyph.text.trim().is_empty()).count();
        let gap = match spaces * 100 / self.glyphs.len().max(1) {
            14.. => 0.3,
            5.. => 0.2,
            _ => 0.1,
        };
        let mut text = String::new();
        let mut before: Option<&Glyph> = None;
        for glyph in &self.glyphs {
            if let Some(last) = before.filter(|_| glyph.begins) {
                let down = (glyph.y - last.y).abs();
                if down > glyph.size * 1.5 {
                    text.push('\n');
                }
                if glyph.x < last.end && down > glyph.size * 0.5 {
                    text.push('\n');
                }
                let joins = text.ends_with(char::is_whitespace) || glyph.text.starts_with(' ');
                if glyph.x > last.end + glyph.size * gap && !joins {
                    text.push(' ');
                }
            }
            text.push_str(&plain_letters(&glyph.text));
            before = Some(glyph);
        }
        text
    }
}

/// The letters of signs that fonts have for several in a row.
fn plain_letters(text: &str) -> Cow<'_, str> {
    if !text.contains(|c| matches!(c, '\u{fb00}'..='\u{fb06}')) {
        return text.into();
    }
    let letters = |c: char| match c {
        '\u{fb00}' => "ff",
        '\u{fb01}' => "fi",
        '\u{fb02}' => "fl",
        '\u{fb03}' => "ffi",
        '\u{fb04}' => "ffl",
        '\u{fb05}' | '\u{fb06}' => "st",
        _ => "",
    };
    text.chars()
        .fold(String::new(), |mut all, c| {
            match letters(c) {
                "" => all.push(c),
                several => all.push_str(several),
            }
            all
        })
        .into()
}

impl OutputDev for Page {
    fn begin_page(
        &mut self,
        _page_num: u32,
        _media_box: &MediaBox,
        _art_box: Option<(f64, f64, f64, f64)>,
    ) -> Result<(), OutputError> {
        Ok(())
    }

    fn end_page(&mut self) -> Result<(), OutputError> {
        Ok(())
    }

    fn output_character(
        &mut self,
        place: &Transform,
        width: f64,
        _spacing: f64,
        font_size: f64,
        text: &str,
    ) -> Result<(), OutputError> {
        // The side of a square as large as what a letter takes up, however it is turned or stretched.
        let (across, down) = (font_size * (place.m11 + place.m21), font_size * (place.m12 + place.m22));
        let size = (across * down).abs().sqrt();
        let (x, y) = (place.m31, -place.m32);
        let begins = std::mem::take(&mut self.begins);
        self.glyphs.push(Glyph { text: text.to_owned(), x, y, size, end: x + width * size, begins });
        Ok(())
    }

    fn begin_word(&mut self) -> Result<(), OutputError> {
        self.begins = true;
        Ok(())
    }

    fn end_word(&mut self) -> Result<(), OutputError> {
        Ok(())
    }

    fn end_line(&mut self) -> Result<(), OutputError> {
        Ok(())
    }
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
    fn characters_of_one_byte_are_written_with_two() {
        // Several on a line, in whatever order; single characters stay as they are.
        let table = "3 beginbfrange\n<61> <7A> <0061> <C5> <D6> <C5>\n<d8><de><D8>\nendbfrange\n2 beginbfchar\n<1B> <00660066>\n<1C> <66>\nendbfchar\n";
        let full = in_full(table.as_bytes()).map(|full| String::from_utf8(full).expect("text"));
        assert_eq!(
            full.as_deref(),
            Some(
                "3 beginbfrange\n<61> <7A> <0061> <C5> <D6> <00C5>\n<d8><de><00D8>\nendbfrange\n2 beginbfchar\n<1B> <00660066>\n<1C> <66>\nendbfchar\n"
            )
        );
        assert_eq!(in_full(full.as_deref().unwrap_or_default().as_bytes()), None);
        assert_eq!(in_full(b"<C5> <D6> <C5>"), None);
        assert_eq!(in_full(b"beginbfrange \xff"), None);
    }

    #[test]
    fn widths_of_ranges_are_written_out() {
        let (number, array) = (
            |n: i64| Object::Integer(n),
            |of: &[i64]| Object::Array(of.iter().map(|n| Object::Integer(*n)).collect()),
        );
        assert_eq!(
            written_out(&[
                number(0),
                array(&[600]),
                number(3),
                number(5),
                number(318),
                number(9),
                array(&[1, 2])
            ]),
            Some(vec![
                number(0),
                array(&[600]),
                number(3),
                array(&[318, 318, 318]),
                number(9),
                array(&[1, 2])
            ])
        );
        for malformed in [
            vec![number(1)],
            vec![number(5), number(3), number(1)],
            vec![number(0), number(1 << 40), number(1)],
            vec![number(1), number(2)],
        ] {
            assert_eq!(written_out(&malformed), None, "{malformed:?}");
        }
    }

    #[test]
    fn signs_of_several_letters_become_these() {
        assert_eq!(plain_letters("o\u{fb03}ce \u{fb01}ve \u{fb05}"), "office five st");
    }

    #[test]
    fn what_is_no_pdf_is_told_and_never_panics() {
        assert!(
            read(Arc::new(b"%PDF-1.4\nnothing".to_vec())).is_err_and(|why| why.starts_with("damaged PDF"))
        );
    }
}
