//! XHTML, written anew so that a parser of HTML reads it as a parser of XML does.

use std::borrow::Cow;

/// Elements that have no content in HTML: for them both ways of writing are the same.
const VOID: [&str; 14] = [
    "area", "base", "br", "col", "embed", "hr", "img", "input", "link", "meta", "param", "source", "track",
    "wbr",
];

/// How much of a page says whether it is XHTML, in bytes.
const HEAD: usize = 2000;

/// A page as HTML: elements that are empty in XHTML have an end, and sections without markup are escaped. Else `<title/>` or `<script/>` would hold the
/// rest of the page, and nothing of it were text.
pub(super) fn as_html(page: &str) -> Cow<'_, str> {
    if !is_xhtml(page) {
        return Cow::Borrowed(page);
    }
    let (mut out, mut rest) = (String::with_capacity(page.len() + 64), page);
    while let Some(at) = memchr::memchr(b'<', rest.as_bytes()) {
        let (before, tag) = rest.split_at(at);
        out.push_str(before);
        let length = if tag.starts_with("<!--") {
            tag.find("-->").map_or(tag.len(), |end| end + 3)
        } else if let Some(section) = tag.strip_prefix("<![CDATA[") {
            let length = section.find("]]>").unwrap_or(section.len());
            let text = section[..length].replace('&', "&amp;").replace('<', "&lt;");
            out.push_str(&text);
            rest = section[length..].strip_prefix("]]>").unwrap_or_default();
            continue;
        } else {
            tag_length(tag)
        };
        let (whole, behind) = tag.split_at(length);
        match empty_element(whole) {
            Some((open, name)) => {
                out.push_str(open);
                out.push_str("></");
                out.push_str(name);
                out.push('>');
            }
            None => out.push_str(whole),
        }
        rest = behind;
    }
    out.push_str(rest);
    Cow::Owned(out)
}

fn is_xhtml(page: &str) -> bool {
    let head = &page[..page.floor_char_boundary(HEAD)];
    let start = head.trim_start_matches('\u{feff}').trim_start();
    start.starts_with("<?xml") || head.contains("http://www.w3.org/1999/xhtml")
}

/// How long the tag is that a text begins with. A bracket within the value of an attribute does not end it.
fn tag_length(text: &str) -> usize {
    let mut quote = None;
    for (at, byte) in text.bytes().enumerate().skip(1) {
        match (quote, byte) {
            (None, b'>') => return at + 1,
            // What never ends is none.
            (None, b'<') => return at,
            (None, b'"' | b'\'') => quote = Some(byte),
            (Some(open), close) if open == close => quote = None,
            _ => {}
        }
    }
    // A quotation mark that is not closed, or the end of a cut page.
    1
}

/// The beginning of an empty element without `/>`, and its name, if the tag is one that HTML does not end by itself.
fn empty_element(tag: &str) -> Option<(&str, &str)> {
    let open = tag.strip_suffix("/>")?;
    let name = open.get(1..)?.split(|c: char| c.is_ascii_whitespace()).next()?;
    let is_name = name.starts_with(|c: char| c.is_ascii_alphabetic()) && !VOID.contains(&name);
    is_name.then_some((open, name))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn empty_elements_have_an_end() {
        let head = "<?xml version='1.0'?>";
        for (xhtml, html) in [
            ("<title/><p>a", "<title></title><p>a"),
            ("<script src='a>b'/>c", "<script src='a>b'></script>c"),
            ("<a id=\"x\" />b<br/>", "<a id=\"x\" ></a>b<br/>"),
            ("<svg:path d='M'/>", "<svg:path d='M'></svg:path>"),
            ("<p title='<i/>'>a</p>", "<p title='<i/>'>a</p>"),
            ("<!-- <i/> --><i/>", "<!-- <i/> --><i></i>"),
            ("a<![CDATA[b<i/>&amp;]]>c", "ab&lt;i/>&amp;amp;c"),
            ("<![CDATA[cut", "cut"),
            ("a < b/> c", "a < b/> c"),
            ("<p title='open>a<i/>", "<p title='open>a<i></i>"),
            ("<p <i/>", "<p <i></i>"),
            ("<!-- cut <i/>", "<!-- cut <i/>"),
        ] {
            assert_eq!(as_html(&format!("{head}{xhtml}")), format!("{head}{html}"), "{xhtml}");
        }
        assert_eq!(as_html("<html><title/>a"), "<html><title/>a");
        assert!(as_html("<html xmlns='http://www.w3.org/1999/xhtml'><i/>").ends_with("<i></i>"));
    }
}
