//! What the elements of a file are like, from its beginning: one document, or records one after the other.

use std::collections::{HashMap, HashSet};

use quick_xml::Reader as XmlReader;
use quick_xml::events::{BytesStart, Event};

use crate::format::xml::DEEPEST;

/// Vocabularies whose records are known by name, by the name of their root: RSS in its versions, Atom (RFC 4287), the export of MediaWiki.
const KNOWN: [(&str, &str); 5] =
    [("rss", "item"), ("rdf:RDF", "item"), ("feed", "entry"), ("mediawiki", "page"), ("teiCorpus", "TEI")];
/// Roots of files that are one document, however often an element comes in them: the Text Encoding Initiative, DocBook, DITA, FictionBook, Mallard.
const DOCUMENTS: [&str; 16] = [
    "TEI",
    "TEI.2",
    "book",
    "article",
    "chapter",
    "section",
    "sect1",
    "refentry",
    "reference",
    "set",
    "topic",
    "concept",
    "task",
    "FictionBook",
    "page",
    "office:document",
];
/// How often a field comes in a record, at most, on an average: more of them are the paragraphs of a text.
const MOST_REPEATED: u64 = 3;
/// The least share that records have in all the text of a file, and the largest that text with elements in it has in that of records, in percent.
const LEAST_SHARE: u64 = 60;
const MOST_MIXED: u64 = 30;

/// The elements of a file, from its beginning.
#[derive(Debug, Default)]
pub(super) struct Shape {
    /// Each in the order of its first coming, so that what lies in another comes behind it.
    sorts: Vec<Sort>,
    /// By the place of the element around and by name.
    places: HashMap<(Option<usize>, String), usize>,
}

/// The elements at a path.
#[derive(Debug, Default)]
struct Sort {
    path: String,
    around: Option<usize>,
    count: u64,
    /// Bytes of text in it and in its attributes, and in all that lies in it.
    text: u64,
    /// Of these, those of elements with text and elements side by side.
    mixed: u64,
    attributes: HashSet<String>,
    /// How many sorts of elements lie in it, and how often the commonest of them comes.
    fields: usize,
    commonest: u64,
    is_mixed: bool,
    has_text: bool,
}

/// An element that is open.
struct Open {
    place: usize,
    has_text: bool,
    has_elements: bool,
}

impl Shape {
    /// That of a file that begins like this; what the end cuts off is not needed.
    pub(super) fn of(start: &str) -> Shape {
        let mut shape = Shape::default();
        let mut reader = XmlReader::from_str(start);
        reader.config_mut().allow_dangling_amp = true;
        let mut open: Vec<Open> = Vec::new();
        loop {
            match reader.read_event() {
                // Nobody nests so deep, and the paths would be long.
                Ok(Event::Start(_)) if open.len() >= DEEPEST => break,
                Ok(Event::Start(tag)) => {
                    let place = shape.meet(&tag, open.last_mut());
                    open.push(Open { place, has_text: false, has_elements: false });
                }
                Ok(Event::Empty(tag)) => {
                    shape.meet(&tag, open.last_mut());
                }
                Ok(Event::End(_)) => shape.close(open.pop()),
                Ok(Event::Text(text)) => shape.text(open.last_mut(), &text),
                Ok(Event::CData(text)) => shape.text(open.last_mut(), &text),
                Ok(Event::Eof) | Err(_) => break,
                Ok(_) => {}
            }
        }
        while let Some(element) = open.pop() {
            shape.close(Some(element));
        }
        for place in (0..shape.sorts.len()).rev() {
            let sort = &mut shape.sorts[place];
            sort.mixed = if sort.is_mixed { sort.text } else { sort.mixed };
            let (text, mixed, count) = (sort.text, sort.mixed, sort.count);
            if let Some(around) = sort.around {
                let around = &mut shape.sorts[around];
                around.text += text;
                around.mixed += mixed;
                around.fields += 1;
                around.commonest = around.commonest.max(count);
            }
        }
        shape
    }

    fn meet(&mut self, tag: &BytesStart<'_>, around: Option<&mut Open>) -> usize {
        let name = tag.name().as_ref().to_owned();
        let around = around.map(|open| {
            open.has_elements = true;
            open.place
        });
        let place = *self.places.entry((around, name.clone())).or_insert_with(|| {
            let path = match around {
                Some(around) => format!("{}.{name}", self.sorts[around].path),
                None => name,
            };
            self.sorts.push(Sort { path, around, ..Sort::default() });
            self.sorts.len() - 1
        });
        let sort = &mut self.sorts[place];
        sort.count += 1;
        for attribute in tag.html_attributes().with_checks(false).flatten() {
            let name: &str = attribute.key.as_ref();
            if !name.starts_with("xml") {
                sort.text += attribute.value.len() as u64;
                sort.attributes.insert(name.to_owned());
            }
        }
        place
    }

    fn text(&mut self, open: Option<&mut Open>, text: &str) {
        let said = text.trim().len() as u64;
        if let (Some(open), true) = (open, said > 0) {
            open.has_text = true;
            self.sorts[open.place].text += said;
        }
    }

    fn close(&mut self, open: Option<Open>) {
        let Some(open) = open else { return };
        let sort = &mut self.sorts[open.place];
        sort.has_text |= open.has_text;
        sort.is_mixed |= open.has_text && open.has_elements;
    }

    /// The name of the outermost element.
    pub(super) fn root(&self) -> &str {
        self.sorts.first().map_or("", |root| root.path.as_str())
    }

    /// The path of the elements that are records, if the file holds such.
    pub(super) fn records(&self) -> Option<String> {
        let is_there = |name: &str| self.places.keys().any(|(_, known)| known == name);
        if let Some((_, name)) = KNOWN.iter().find(|(root, name)| *root == self.root() && is_there(name)) {
            return Some((*name).to_owned());
        }
        if DOCUMENTS.contains(&self.root()) {
            return None;
        }
        let depth = |sort: &Sort| sort.path.matches('.').count();
        let records = (0..self.sorts.len()).filter(|place| self.is_record(*place));
        let first =
            records.min_by_key(|place| (depth(&self.sorts[*place]), u64::MAX - self.sorts[*place].text));
        first.map(|place| self.sorts[place].path.clone())
    }

    fn is_record(&self, place: usize) -> bool {
        let sort = &self.sorts[place];
        let all = self.sorts.first().map_or(0, |root| root.text);
        let mut around = sort.around;
        while let Some(place) = around {
            if self.sorts[place].has_text {
                return false;
            }
            around = self.sorts[place].around;
        }
        sort.around.is_some()
            && sort.count >= 2
            && !sort.has_text
            && sort.fields + sort.attributes.len() >= 2
            && sort.commonest <= MOST_REPEATED * sort.count
            && sort.text * 100 >= all * LEAST_SHARE
            && sort.mixed * 100 <= sort.text * MOST_MIXED
    }

    /// The paths of some elements that come more than once, for people: those nearest to the root first, and of these the most frequent.
    pub(super) fn repeated(&self) -> String {
        let mut repeated: Vec<&Sort> = self.sorts.iter().filter(|sort| sort.count > 1).collect();
        repeated.sort_by_key(|sort| (sort.path.matches('.').count(), u64::MAX - sort.count));
        let told: Vec<String> = repeated.iter().take(6).map(|sort| format!("`{}`", sort.path)).collect();
        if told.is_empty() { "none that comes more than once".to_owned() } else { told.join(", ") }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn records_are_told_from_documents() {
        let item = "<item><title>Terns</title><link>x</link><description>The terns are back on the spit.</description></item>";
        let paragraphs = "<p>The <i>terns</i> are back on the spit, says the warden.</p>".repeat(4);
        for (xml, records) in [
            (format!("<rss><channel><title>a</title>{item}</channel></rss>"), Some("item")),
            (format!("<list><info>a</info>{item}{item}"), Some("list.item")),
            (format!("<all><group>{item}{item}{item}{item}</group></all>"), Some("all.group.item")),
            ("<posts><row Id='1' Body='a'/><row Id='2' Body='b'/></posts>".to_owned(), Some("posts.row")),
            // A single one, of which nobody knows whether it is one of many.
            (format!("<list>{item}</list>"), None),
            // Paragraphs, chapters, lines of a poem.
            (format!("<doc>{paragraphs}</doc>"), None),
            (
                format!("<novel>{0}{0}</novel>", format_args!("<part><head>One</head>{paragraphs}</part>")),
                None,
            ),
            // Two paragraphs with words in italics, as in a letter.
            (
                format!(
                    "<letters>{0}{0}</letters>",
                    format_args!("<letter><to>Ines</to>{}</letter>", &paragraphs[..paragraphs.len() / 2])
                ),
                None,
            ),
            ("<poem><l n='1'>a</l><l n='2'>b</l></poem>".to_owned(), None),
            (format!("<book>{item}{item}</book>"), None),
            (format!("<doc>text{item}{item}</doc>"), None),
            // Lists within a text.
            (format!("<doc>{paragraphs}<list>{item}{item}</list>{paragraphs}{paragraphs}</doc>"), None),
        ] {
            assert_eq!(Shape::of(&xml).records().as_deref(), records, "{xml}");
        }
    }

    #[test]
    fn what_repeats_is_named_for_people() {
        let shape = Shape::of("<a><b/><b><c/><c/></b><d/>");
        assert_eq!(shape.repeated(), "`a.b`, `a.b.c`");
        assert_eq!(Shape::of("<a/>").repeated(), "none that comes more than once");
        assert_eq!(Shape::of("").root(), "");
    }
}
