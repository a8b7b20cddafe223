//! What an element says: as a text to be read, and as fields.

use std::borrow::Cow;
use std::collections::HashMap;

use mail_parser::DateTime;
use quick_xml::Reader as XmlReader;
use quick_xml::events::{BytesStart, Event};

use crate::documents::FieldsWriter;
use crate::format::xml::entities::Entities;
use crate::format::xml::{DEEPEST, no_tag};

/// How deep elements are fields of fields. What lies deeper is the text of the last.
const DEEPEST_FIELD: usize = 32;

/// The vocabulary of web pages.
const PAGE: &str = "www.w3.org/1999/xhtml";

/// The date of an item of RSS, which is written as in mail (RFC 822): it becomes one that can be compared and grouped.
const DATE: &str = "pubDate";

/// Attributes that say something of a text. An element without text that has others is what these say: `<link href="…"/>`.
const OF_TEXT: [&str; 6] = ["base", "dir", "lang", "mode", "space", "type"];

/// An element with all that stands in it.
#[derive(Debug, Default)]
pub(super) struct Element {
    name: String,
    attributes: Vec<(String, String)>,
    /// The addresses of the vocabularies that it names.
    vocabulary: String,
    content: Vec<Content>,
}

#[derive(Debug)]
enum Content {
    Text(String),
    Element(Element),
}

/// What a field of a record says.
enum Said<'e> {
    Text(Cow<'e, str>),
    Fields(&'e Element),
}

impl Element {
    /// The outermost element of some XML. `first_line` is the line of the file where that begins.
    ///
    /// # Errors
    ///
    /// What is not well formed, and where.
    pub(super) fn read(xml: &str, first_line: u64, entities: &Entities) -> Result<Element, String> {
        let mut reader = XmlReader::from_str(xml);
        // What people's programs write is not always well formed, and its text is still wanted.
        reader.config_mut().allow_dangling_amp = true;
        let line_of = |place: u64| {
            let before = xml.as_bytes().get(..place as usize).unwrap_or_default();
            first_line + memchr::memchr_iter(b'\n', before).count() as u64
        };
        let mut open: Vec<Element> = Vec::new();
        let mut root = None;
        loop {
            let at = reader.buffer_position();
            let event = reader.read_event().map_err(|why| {
                format!("not well formed at line {}: {why}", line_of(reader.error_position()))
            })?;
            let ended = match event {
                Event::Start(_) if open.len() >= DEEPEST => {
                    return Err(format!("elements lie more than {DEEPEST} deep in one another"));
                }
                Event::Start(tag) | Event::Empty(tag) if tag.name().as_ref().is_empty() => {
                    return Err(no_tag(line_of(at)));
                }
                Event::Start(tag) => {
                    open.push(Element::of(&tag, entities));
                    None
                }
                Event::Empty(tag) => Some(Element::of(&tag, entities)),
                Event::End(_) => open.pop(),
                Event::Eof => break,
                other => {
                    if let Some(element) = open.last_mut() {
                        match other {
                            Event::Text(text) => element.push(&text),
                            Event::CData(text) => element.push(&text),
                            Event::GeneralRef(name) => element.push(&entities.text_of(&name)),
                            _ => {}
                        }
                    }
                    None
                }
            };
            match (ended, open.last_mut()) {
                (Some(ended), Some(around)) => around.content.push(Content::Element(ended)),
                (Some(ended), None) => root = Some(ended),
                (None, _) => {}
            }
        }
        match (open.last(), root) {
            (Some(element), _) => {
                Err(format!("ends too early: the element `{}` is not closed", element.name))
            }
            (None, Some(root)) => Ok(root),
            (None, None) => Err("no element in it".to_owned()),
        }
    }

    fn of(tag: &BytesStart<'_>, entities: &Entities) -> Element {
        let mut element = Element { name: tag.name().as_ref().to_owned(), ..Element::default() };
        for attribute in tag.html_attributes().with_checks(false).flatten() {
            let name: &str = attribute.key.as_ref();
            let value = entities.resolved(&attribute.value);
            // Which names are of which vocabulary says nothing of the document.
            if name == "xmlns" || name.starts_with("xmlns:") {
                element.vocabulary.push_str(&value);
            } else if !name.starts_with("xsi:") {
                let name = name.strip_prefix("xml:").unwrap_or(name);
                element.attributes.push((name.to_owned(), value));
            }
        }
        element
    }

    fn push(&mut self, text: &str) {
        match self.content.last_mut() {
            Some(Content::Text(last)) => last.push_str(text),
            _ => self.content.push(Content::Text(text.to_owned())),
        }
    }

    fn elements(&self) -> impl Iterator<Item = &Element> {
        self.content.iter().filter_map(|content| match content {
            Content::Element(element) => Some(element),
            Content::Text(_) => None,
        })
    }

    fn has_text(&self) -> bool {
        self.content.iter().any(|content| matches!(content, Content::Text(text) if !text.trim().is_empty()))
    }

    /// Whether it is one text, whatever elements stand in it: beside text, or because they are a piece of a page.
    fn is_text(&self) -> bool {
        self.has_text() || self.elements().any(|element| element.vocabulary.contains(PAGE))
    }

    /// Its text as it is written, if it has no elements; else as people read it.
    fn text(&self) -> Cow<'_, str> {
        match self.content.as_slice() {
            [] => Cow::Borrowed(""),
            [Content::Text(text)] => Cow::Borrowed(text.trim()),
            _ => Cow::Owned(self.reading(|_| true)),
        }
    }

    /// Its text as people read it, without the elements that `takes` does not take: elements that stand beside text are parts of its line, others have lines of
    /// their own.
    fn reading(&self, takes: impl Fn(&Element) -> bool) -> String {
        let mut laid = Laid::default();
        self.lay(false, &takes, &mut laid);
        laid.text
    }

    fn lay(&self, in_line: bool, takes: &impl Fn(&Element) -> bool, laid: &mut Laid) {
        let in_line = in_line || self.has_text();
        for content in &self.content {
            match content {
                Content::Text(text) => laid.push(text),
                Content::Element(element) if takes(element) => {
                    laid.ends_line |= !in_line;
                    element.lay(in_line, takes, laid);
                    laid.ends_line |= !in_line;
                }
                Content::Element(_) => {}
            }
        }
    }

    /// Its fields as a JSON object, if it is a record. `texts` are the paths of the fields that are the text: what lies there is one text with all that is in
    /// it, and the name of the record itself stands for all of its text.
    pub(super) fn fields(&self, texts: &[String]) -> String {
        let texts: Vec<Vec<&str>> = texts.iter().map(|path| path.split('.').collect()).collect();
        let mut members: Vec<(Cow<'_, str>, Said<'_>)> = self.said_by_attributes("").collect();
        if self.is_text() {
            members.push(("text".into(), Said::Text(self.text())));
        } else {
            self.members_of_elements(&[], &texts, &mut members);
        }
        if texts.iter().any(|path| *path == [self.name.as_str()])
            && members.iter().all(|(name, _)| *name != self.name)
        {
            members.push((self.name.as_str().into(), Said::Text(self.text())));
        }
        written(members, &[], &texts)
    }

    fn said_by_attributes(&self, prefix: &str) -> impl Iterator<Item = (Cow<'_, str>, Said<'_>)> {
        self.attributes.iter().map(move |(name, value)| {
            let name = if prefix.is_empty() { name.into() } else { format!("{prefix}.{name}").into() };
            (name, Said::Text(value.into()))
        })
    }

    fn members_of_elements<'e>(
        &'e self,
        path: &[&str],
        texts: &[Vec<&str>],
        members: &mut Vec<(Cow<'e, str>, Said<'e>)>,
    ) {
        for element in self.elements() {
            let name = element.name.as_str();
            let is_asked_for = || texts.iter().any(|text| text.split_last() == Some((&name, path)));
            let is_text = element.elements().next().is_none()
                || element.is_text()
                || path.len() >= DEEPEST_FIELD
                || is_asked_for();
            if !is_text {
                members.push((name.into(), Said::Fields(element)));
                continue;
            }
            members.extend(element.said_by_attributes(name));
            let mut text = element.text();
            if name == DATE
                && let Some(date) = DateTime::parse_rfc822(&text).filter(DateTime::is_valid)
            {
                text = date.to_rfc3339().into();
            }
            let says_more = element.attributes.iter().any(|(name, _)| !OF_TEXT.contains(&name.as_str()));
            if !(text.is_empty() && says_more) {
                members.push((name.into(), Said::Text(text)));
            }
        }
    }
}

/// Members as a JSON object, those of one name as an array. `path` is where the object lies.
fn written(members: Vec<(Cow<'_, str>, Said<'_>)>, path: &[&str], texts: &[Vec<&str>]) -> String {
    let mut groups: Vec<(Cow<'_, str>, Vec<Said<'_>>)> = Vec::new();
    let mut places: HashMap<Cow<'_, str>, usize> = HashMap::new();
    for (name, said) in members {
        match places.get(&name) {
            Some(place) => groups[*place].1.push(said),
            None => {
                places.insert(name.clone(), groups.len());
                groups.push((name, vec![said]));
            }
        }
    }
    let mut fields = FieldsWriter::default();
    for (name, all) in groups {
        // Texts and objects under one name are all texts: a path leads to values of one sort.
        let texts_alone = all.iter().any(|said| matches!(said, Said::Text(_)));
        let json = |said: &Said<'_>| match said {
            Said::Text(text) => serde_json::Value::from(&**text).to_string(),
            Said::Fields(element) if texts_alone => serde_json::Value::from(element.text()).to_string(),
            Said::Fields(element) => {
                let path = [path, &[element.name.as_str()]].concat();
                let mut members = element.said_by_attributes("").collect();
                element.members_of_elements(&path, texts, &mut members);
                written(members, &path, texts)
            }
        };
        match all.as_slice() {
            [Said::Text(text)] => fields.text(&name, text),
            [said] => fields.json(&name, &json(said)),
            all => fields.json(&name, &format!("[{}]", all.iter().map(json).collect::<Vec<_>>().join(","))),
        }
    }
    fields.finish()
}

/// Text as people read it, on its way.
#[derive(Default)]
struct Laid {
    text: String,
    /// What comes before the next word.
    has_space: bool,
    ends_line: bool,
}

impl Laid {
    fn push(&mut self, text: &str) {
        let mut rest = text;
        while !rest.is_empty() {
            let words = rest.trim_start();
            self.has_space |= words.len() < rest.len();
            let (word, behind) = words.split_at(words.find(char::is_whitespace).unwrap_or(words.len()));
            if !word.is_empty() {
                match () {
                    () if self.text.is_empty() => {}
                    () if self.ends_line => self.text.push('\n'),
                    () if self.has_space => self.text.push(' '),
                    () => {}
                }
                (self.has_space, self.ends_line) = (false, false);
                self.text.push_str(word);
            }
            rest = behind;
        }
    }
}

/// What a file says that is one document.
#[derive(Debug, Default, PartialEq, Eq)]
pub(super) struct Whole {
    pub(super) text: String,
    pub(super) title: String,
    pub(super) author: String,
    pub(super) language: String,
}

/// Elements that say something of a document, or hold pictures, and are no part of its text: those of the Text Encoding Initiative, of DocBook 4, of
/// FictionBook and of OpenDocument.
const NO_TEXT: [&str; 7] =
    ["teiHeader", "bookinfo", "articleinfo", "chapterinfo", "sectioninfo", "binary", "binary-data"];
/// The same of vocabularies that use common names for them: a part of the vocabulary's address, and the name.
const NO_TEXT_IN: [(&str, &str); 3] =
    [("docbook.org", "info"), ("projectmallard.org", "info"), ("fictionbook", "description")];

impl Whole {
    /// What the outermost element of a file says.
    pub(super) fn of(root: &Element) -> Whole {
        let is_in = |vocabulary: &str| root.vocabulary.contains(vocabulary);
        let takes = |element: &Element| {
            let name = element.local_name();
            !NO_TEXT.contains(&name)
                && !NO_TEXT_IN.iter().any(|(vocabulary, no_text)| *no_text == name && is_in(vocabulary))
        };
        let line = |names: &[&str]| {
            root.first(names).map(|element| element.reading(|_| true).replace('\n', " ")).unwrap_or_default()
        };
        let language = root.attributes.iter().find(|(name, _)| name == "lang");
        Whole {
            text: root.reading(takes),
            title: line(&["title", "book-title"]),
            author: line(&["author", "creator"]),
            language: language.map(|(_, language)| language.clone()).unwrap_or_default(),
        }
    }
}

impl Element {
    /// The name without its prefix.
    fn local_name(&self) -> &str {
        self.name.rsplit(':').next().unwrap_or(&self.name)
    }

    /// The first element of one of these names.
    fn first(&self, names: &[&str]) -> Option<&Element> {
        self.elements().find_map(|element| {
            if names.contains(&element.local_name()) { Some(element) } else { element.first(names) }
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn fields(xml: &str, texts: &[&str]) -> serde_json::Value {
        let texts: Vec<String> = texts.iter().map(|text| (*text).to_owned()).collect();
        let json = Element::read(xml, 1, &Entities::default()).expect("well formed").fields(&texts);
        serde_json::from_str(&json).expect("a JSON object")
    }

    fn whole(xml: &str) -> Result<Whole, String> {
        Element::read(xml, 1, &Entities::default()).map(|root| Whole::of(&root))
    }

    #[test]
    fn elements_and_attributes_are_fields() {
        for (xml, expected) in [
            (
                "<row Id='7' Body='&lt;p&gt;A &amp;amp; b&lt;/p&gt;'/>",
                r#"{"Id": "7", "Body": "<p>A &amp; b</p>"}"#,
            ),
            ("<i><t>Terns</t><t>Gulls</t><n/></i>", r#"{"t": ["Terns", "Gulls"], "n": ""}"#),
            (
                "<i xmlns='x' xmlns:y='z'><y:t xml:lang='en'> a\n b </y:t><link href='#'/></i>",
                r##"{"y:t.lang": "en", "y:t": "a\n b", "link.href": "#"}"##,
            ),
            (
                "<i><by when='1'><name>Mira</name></by><d><![CDATA[<p>x</p>]]></d></i>",
                r#"{"by": {"when": "1", "name": "Mira"}, "d": "<p>x</p>"}"#,
            ),
            // Elements that stand beside text are parts of it.
            ("<i><p>A <b>small</b>\n tern</p></i>", r#"{"p": "A small tern"}"#),
            ("<s n='1'>A <w>tern</w>.</s>", r#"{"n": "1", "text": "A tern."}"#),
            ("<i><a>x</a><a><b>y</b></a></i>", r#"{"a": ["x", "y"]}"#),
            // Pieces of pages are text, as in Atom.
            (
                "<i><c type='xhtml'><div xmlns='http://www.w3.org/1999/xhtml'><p>a</p><p>b</p></div></c></i>",
                r#"{"c.type": "xhtml", "c": "a\nb"}"#,
            ),
            // Dates of feeds are those of ISO 8601, if they are dates.
            (
                "<i><pubDate>Sun, 4 May 2031 06:30:00 +0200</pubDate><date>4 May 2031</date></i>",
                r#"{"pubDate": "2031-05-04T06:30:00+02:00", "date": "4 May 2031"}"#,
            ),
            ("<i><pubDate>soon</pubDate></i>", r#"{"pubDate": "soon"}"#),
            ("<i><d xml:lang='ar'/></i>", r#"{"d.lang": "ar", "d": ""}"#),
            ("<i/>", "{}"),
        ] {
            let expected: serde_json::Value = serde_json::from_str(expected).expect("JSON");
            assert_eq!(fields(xml, &[]), expected, "{xml}");
        }
    }

    #[test]
    fn what_is_the_text_is_one_text_with_all_that_is_in_it() {
        let xml = "<doc><head>H</head><body><p>One <i>two</i>.</p><p>Three.</p></body></doc>";
        assert_eq!(fields(xml, &["body"])["body"], "One two.\nThree.");
        assert_eq!(fields(xml, &["doc"])["doc"], "H\nOne two.\nThree.");
        assert_eq!(fields(xml, &["head.body"])["body"]["p"][1], "Three.");
        let nested = "<doc><part><body><p>a</p><p>b</p></body></part></doc>";
        assert_eq!(fields(nested, &["part.body"])["part"]["body"], "a\nb");
        assert_eq!(fields(nested, &["body"])["part"]["body"]["p"][0], "a");
    }

    #[test]
    fn what_lies_deep_is_text() {
        let deep = format!("<i>{}tern{}</i>", "<a><b/>".repeat(200), "</a>".repeat(200));
        assert!(fields(&deep, &[]).to_string().contains("tern"));
        let deeper = format!("{}tern", "<a>".repeat(200_000));
        assert!(whole(&deeper).is_err_and(|why| why.contains("256 deep")));
    }

    #[test]
    fn a_document_has_its_blocks_on_lines_and_says_what_it_is() {
        let tei = "<?xml version='1.0'?><!-- a --><TEI xml:lang='en'><teiHeader><title>The <hi>tern</hi></title><author>Mira Sand</author></teiHeader>\
                   <text><head>One</head>\n <p>It <hi>flew</hi>\n  over\n us.</p><lg><l>a</l><l>b</l></lg></text></TEI>";
        let found = whole(tei).expect("well formed");
        assert_eq!(found.text, "One\nIt flew over us.\na\nb");
        assert_eq!((found.title.as_str(), found.author.as_str()), ("The tern", "Mira Sand"));
        assert_eq!(found.language, "en");
        for (xml, text) in [
            ("<page xmlns='http://projectmallard.org/1.0/'><info><desc>d</desc></info><p>a</p></page>", "a"),
            ("<page><info>d</info><p>a</p></page>", "d\na"),
            (
                "<FictionBook xmlns='http://www.gribuser.ru/xml/fictionbook/2.0'><description>d</description><body><p>a</p></body><binary>QUJD</binary></FictionBook>",
                "a",
            ),
            ("<a/>", ""),
        ] {
            assert_eq!(whole(xml).expect("well formed").text, text, "{xml}");
        }
    }

    #[test]
    fn what_is_not_well_formed_is_told_with_its_line() {
        let told = |xml: &str| whole(xml).expect_err("not well formed");
        assert!(
            told("<a>\n<b>\n</a>").starts_with("not well formed at line 3: "),
            "{}",
            told("<a>\n<b>\n</a>")
        );
        assert!(told("<a>\n1 < 2</a>").contains("a `<` at line 2 that begins no tag"));
        assert_eq!(told("<a><b>"), "ends too early: the element `b` is not closed");
        assert!(
            Element::read("<a>\n</b>", 10, &Entities::default()).is_err_and(|why| why.contains("line 11"))
        );
    }
}
