//! Books: EPUB 2 and 3 (ISO/IEC 23736). A chapter is a document.

use std::collections::{HashMap, HashSet};

use quick_xml::events::Event;

use crate::documents::{
    Documents, FieldsWriter, Format, Input, Out, RawDocument, ReadError, Reader, Start, Unit,
};
use crate::format::facts;
use crate::format::markup::{Apart, collapsed, read_page};
use crate::format::package::{Package, attribute, each_event, event_text, resolved};
use crate::format::text::decoded;
use crate::record::Why;

pub(crate) struct Epub;

impl Reader for Epub {
    fn format(&self) -> Format {
        Format::of(&facts::EPUB)
    }

    fn recognises(&self, start: &Start<'_>) -> bool {
        start.has_member("META-INF/container.xml")
    }

    fn is_read_apart(&self) -> bool {
        true
    }

    fn read(&self, input: &mut Input<'_>, out: &mut dyn Out) -> Result<(), ReadError> {
        let name = input.name.clone();
        let mut package = Package::open(input, out.options().trust_archives)?;
        let container = package.needed("META-INF/container.xml")?;
        let root = root_file(&container)?;
        let book = Book::read(&package.needed(&root)?, &root)?;
        let protected = match package.part("META-INF/encryption.xml")? {
            Some(xml) => protected_parts(&xml)?,
            None => HashSet::new(),
        };
        let mut titles = HashMap::new();
        for contents in &book.contents {
            if let Some(xml) = package.part(contents)? {
                read_contents(&decoded(&xml), contents, &mut titles);
            }
        }
        let whole = out.options().unit_or(Unit::Chapter) == Unit::File;
        let (mut joined, mut order) = (String::new(), 0);
        for path in &book.spine {
            if protected.contains(path) {
                let why = "protected against copying (DRM); not read";
                out.malformed(format!("{name}/{path}"), Why::File(why.into()))?;
                continue;
            }
            let Some(bytes) = package.part(path)? else {
                let why = "named by the book's list of contents, but not in it";
                out.malformed(format!("{name}/{path}"), Why::File(why.into()))?;
                continue;
            };
            let html = decoded(&bytes);
            let page = match read_page(&html, Apart::Nothing) {
                Ok(page) => page,
                Err(why) => {
                    out.malformed(format!("{name}/{path}"), Why::File(why))?;
                    continue;
                }
            };
            if page.text.trim().is_empty() || is_no_chapter(&html) {
                continue;
            }
            order += 1;
            if whole {
                joined.push_str(if joined.is_empty() { "" } else { "\n\n" });
                joined.push_str(&page.text);
                continue;
            }
            let title = titles.get(path).cloned().filter(|title| !title.is_empty());
            let title = title.unwrap_or(if page.heading.is_empty() { page.title } else { page.heading });
            let mut fields = FieldsWriter::default();
            fields.text_if_any("title", &title);
            fields.number("chapter", order);
            book.write(&mut fields);
            let text = Some(page.text);
            out.give(Documents(vec![RawDocument {
                id: format!("{name}:{order}"),
                fields: fields.finish(),
                text,
                broken_bytes: 0,
            }]))?;
        }
        if whole && order > 0 {
            let mut fields = FieldsWriter::default();
            fields.text_if_any("title", &book.title);
            fields.number("chapters", order);
            book.write(&mut fields);
            out.give(Documents(vec![RawDocument {
                id: name,
                fields: fields.finish(),
                text: Some(joined),
                broken_bytes: 0,
            }]))?;
        } else if order == 0 && protected.is_empty() {
            return Err(ReadError::sentence(
                "no chapter of this book holds any text: its pages may be pictures",
            ));
        }
        Ok(())
    }
}

fn root_file(container: &[u8]) -> Result<String, ReadError> {
    let mut root = None;
    each_event(container, |event| {
        if let Event::Start(element) | Event::Empty(element) = &event
            && element.local_name().as_ref() == "rootfile"
            && root.is_none()
        {
            root = attribute(element, "full-path");
        }
        Ok(())
    })?;
    root.ok_or_else(|| ReadError::sentence("damaged: its container names no book"))
}

/// Pages of navigation and covers, which say so themselves.
fn is_no_chapter(html: &str) -> bool {
    let head: String = html.chars().take(6000).collect();
    let Some((_, body)) = head.split_once("<body") else { return false };
    let tag = body.split('>').next().unwrap_or_default();
    ["cover", "titlepage", "toc", "landmarks", "page-list"].iter().any(|kind| {
        tag.contains(&format!("epub:type=\"{kind}\"")) || tag.contains(&format!("epub:type='{kind}'"))
    })
}

#[derive(Debug, Default)]
struct Book {
    title: String,
    author: String,
    language: String,
    date: String,
    publisher: String,
    /// The paths of the chapters, in the order of reading.
    spine: Vec<String>,
    /// The paths of the tables of contents.
    contents: Vec<String>,
}

impl Book {
    fn write(&self, fields: &mut FieldsWriter) {
        for (name, value) in [
            ("book", &self.title),
            ("author", &self.author),
            ("language", &self.language),
            ("published", &self.date),
            ("publisher", &self.publisher),
        ] {
            fields.text_if_any(name, value);
        }
    }

    /// Takes the text of an element that says something of the book. Of several, the first is the book's own; but it may have several authors.
    fn take(&mut self, element: &str, text: &str) {
        let value = match element {
            "title" => &mut self.title,
            "creator" => &mut self.author,
            "language" => &mut self.language,
            "date" => &mut self.date,
            "publisher" => &mut self.publisher,
            _ => return,
        };
        if value.is_empty() {
            text.clone_into(value);
        } else if element == "creator" && !text.is_empty() {
            value.push_str(", ");
            value.push_str(text);
        }
    }

    fn read(opf: &[u8], root: &str) -> Result<Book, ReadError> {
        let mut book = Book::default();
        let mut items: HashMap<String, (String, String)> = HashMap::new();
        let mut left_out: HashSet<String> = HashSet::new();
        let mut spine: Vec<String> = Vec::new();
        let (mut current, mut text) = (String::new(), String::new());
        each_event(opf, |event| {
            match &event {
                Event::Start(element) | Event::Empty(element) => {
                    current.clear();
                    text.clear();
                    let get = |name: &str| attribute(element, name).unwrap_or_default();
                    match element.local_name().as_ref() {
                        "item" => {
                            let (path, properties) = (resolved(root, &get("href")), get("properties"));
                            let is_nav = properties.split(' ').any(|property| property == "nav");
                            if is_nav || get("media-type") == "application/x-dtbncx+xml" {
                                book.contents.push(path.clone());
                            }
                            if is_nav || is_named_no_chapter(&path) {
                                left_out.insert(path.clone());
                            }
                            items.insert(get("id"), (path, get("media-type")));
                        }
                        "itemref" if get("linear") != "no" => spine.push(get("idref")),
                        "reference" if matches!(get("type").as_str(), "cover" | "toc" | "title-page") => {
                            left_out.insert(resolved(root, &get("href")));
                        }
                        name @ ("title" | "creator" | "language" | "date" | "publisher") => {
                            name.clone_into(&mut current);
                        }
                        _ => {}
                    }
                }
                Event::End(_) => {
                    // A text of several pieces, since entities stand between them.
                    book.take(&std::mem::take(&mut current), &collapsed(&std::mem::take(&mut text)));
                }
                other => text.push_str(&event_text(other).unwrap_or_default()),
            }
            Ok(())
        })?;
        let mut taken = HashSet::new();
        book.contents.retain(|path| taken.insert(path.clone()));
        taken.clear();
        let is_page = |kind: &String| kind.contains("html") || kind.contains("xml");
        let pages = spine.iter().filter_map(|id| items.get(id)).filter(|(_, kind)| is_page(kind));
        // A chapter stands in a book once (EPUB 3.3, section 5.7.1).
        book.spine = pages.map(|(path, _)| path.clone()).filter(|path| taken.insert(path.clone())).collect();
        // A book of nothing but a cover or a table of contents has these for its text.
        if !book.spine.iter().all(|path| left_out.contains(path)) {
            book.spine.retain(|path| !left_out.contains(path));
        }
        if book.spine.is_empty() {
            return Err(ReadError::sentence("damaged: the book names no chapters"));
        }
        Ok(book)
    }
}

/// Whether a file's name says that it is a cover or a table of contents.
fn is_named_no_chapter(path: &str) -> bool {
    let file = path.rsplit('/').next().unwrap_or(path).to_ascii_lowercase();
    let stem = file.split('.').next().unwrap_or_default();
    matches!(
        stem,
        "cover"
            | "coverpage"
            | "cover-page"
            | "titlepage"
            | "title_page"
            | "title-page"
            | "toc"
            | "nav"
            | "contents"
    )
}

fn protected_parts(xml: &[u8]) -> Result<HashSet<String>, ReadError> {
    let mut parts = HashSet::new();
    each_event(xml, |event| {
        if let Event::Start(element) | Event::Empty(element) = &event
            && element.local_name().as_ref() == "CipherReference"
            && let Some(uri) = attribute(element, "URI")
        {
            parts.insert(resolved("", &uri));
        }
        Ok(())
    })?;
    Ok(parts)
}

/// The titles of chapters, from a table of contents of either kind. The first of a chapter is its own; others are of its sections.
fn read_contents(xml: &str, from: &str, titles: &mut HashMap<String, String>) {
    let (mut label, mut in_label, mut href) = (String::new(), false, None::<String>);
    // A table that cannot be read leaves the chapters their own headings.
    let _ = each_event(xml.as_bytes(), |event| {
        let mut note = |href: &Option<String>, label: &str| {
            if let Some(href) = href {
                titles.entry(resolved(from, href)).or_insert_with(|| collapsed(label));
            }
        };
        match &event {
            Event::Start(element) => match element.local_name().as_ref() {
                "text" => {
                    label.clear();
                    in_label = true;
                }
                "a" => {
                    label.clear();
                    in_label = true;
                    href = attribute(element, "href");
                }
                _ => {}
            },
            Event::Empty(element) if element.local_name().as_ref() == "content" => {
                note(&attribute(element, "src"), &label);
            }
            Event::End(element) => match element.local_name().as_ref() {
                "text" => in_label = false,
                "a" => {
                    in_label = false;
                    note(&href, &label);
                    href = None;
                }
                _ => {}
            },
            other if in_label => label.push_str(&event_text(other).unwrap_or_default()),
            _ => {}
        }
        Ok(())
    });
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn addresses_are_resolved_within_the_book() {
        assert_eq!(resolved("OEBPS/content.opf", "text/c%201.xhtml#part"), "OEBPS/text/c 1.xhtml");
        assert_eq!(resolved("OEBPS/nav/toc.ncx", "../text/a.xhtml"), "OEBPS/text/a.xhtml");
        assert_eq!(resolved("content.opf", "a.xhtml"), "a.xhtml");
    }

    #[test]
    fn what_is_said_of_a_book_is_decoded() {
        let opf = "<package><metadata><dc:title>Terns &amp; gulls</dc:title><dc:title>A second</dc:title>\
                   <dc:creator>Mira O&apos;Hara</dc:creator><dc:creator>Jos&#233; Sand</dc:creator>\
                   <dc:language> en-GB </dc:language><dc:language>fr</dc:language></metadata>\
                   <manifest><item id=\"a\" href=\"a.xhtml\" media-type=\"application/xhtml+xml\"/></manifest>\
                   <spine><itemref idref=\"a\"/></spine></package>";
        let book = Book::read(opf.as_bytes(), "").expect("a book");
        assert_eq!(
            (book.title.as_str(), book.author.as_str(), book.language.as_str()),
            ("Terns & gulls", "Mira O'Hara, José Sand", "en-GB")
        );
    }

    #[test]
    fn titles_come_from_both_kinds_of_contents() {
        let mut titles = HashMap::new();
        read_contents(
            "<navMap><navPoint><navLabel><text>On  Terns</text></navLabel><content src='a.xhtml'/></navPoint></navMap>",
            "toc.ncx",
            &mut titles,
        );
        read_contents(
            "<nav><ol><li><a href='b.xhtml#x'>On <i>Gulls</i></a></li></ol></nav>",
            "nav.xhtml",
            &mut titles,
        );
        assert_eq!(titles["a.xhtml"], "On Terns");
        assert_eq!(titles["b.xhtml"], "On Gulls");
    }
}
