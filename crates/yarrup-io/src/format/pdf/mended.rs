//! What is put right in a file before the package that reads it takes it: what it misreads, refuses or passes over, written in a way that it knows.

use std::collections::{HashMap, HashSet};

use pdf_extract::content::{Content, Operation};
use pdf_extract::{Dictionary, Document, Object, ObjectId, Stream};
use regex::{Captures, Regex};

/// Puts right all that is known to go wrong.
pub(super) fn mend(document: &mut Document) {
    empty_pictures(document);
    write_widths_out(document);
    write_characters_in_full(document);
    write_next_lines_out(document);
    give_each_font_its_name(document);
}

/// Takes the pixels out of pictures: the package reads them for instructions.
fn empty_pictures(document: &mut Document) {
    for object in document.objects.values_mut() {
        if let Object::Stream(stream) = object
            && is_a(stream, b"Image")
        {
            stream.set_plain_content(Vec::new());
        }
    }
}

/// Whether a stream is a picture or a form: what a page draws by its name.
fn is_a(stream: &Stream, kind: &[u8]) -> bool {
    stream.dict.get(b"Subtype").and_then(Object::as_name).is_ok_and(|name| name == kind)
}

/// Writes out the two operators that begin a new line and show a text on it (ISO 32000-1, section 9.4.3), which the package passes over, with their text.
fn write_next_lines_out(document: &mut Document) {
    let pages: Vec<ObjectId> = document.get_pages().into_values().collect();
    for page in pages {
        let content =
            document.get_page_content(page).ok().and_then(|content| next_lines_written_out(&content));
        if let Some(content) = content {
            let stream = document.add_object(Stream::new(Dictionary::new(), content));
            if let Ok(page) = document.get_dictionary_mut(page) {
                page.set("Contents", stream);
            }
        }
    }
    for object in document.objects.values_mut() {
        if let Object::Stream(stream) = object
            && is_a(stream, b"Form")
            && let Some(content) =
                stream.get_plain_content().ok().and_then(|content| next_lines_written_out(&content))
        {
            stream.set_plain_content(content);
        }
    }
}

/// Instructions without the operators `'` and `"`; none if they have none.
fn next_lines_written_out(content: &[u8]) -> Option<Vec<u8>> {
    let may_be_one = |at: usize| {
        let before = at.checked_sub(1).map(|at| content[at]);
        let behind = content.get(at + 1);
        before.is_some_and(|c| matches!(c, b')' | b'>') || c.is_ascii_whitespace())
            && behind.is_none_or(u8::is_ascii_whitespace)
    };
    memchr::memchr2_iter(b'\'', b'"', content).find(|at| may_be_one(*at))?;
    let operations = Content::decode(content).ok()?.operations;
    if !operations.iter().any(|operation| matches!(operation.operator.as_str(), "'" | "\"")) {
        return None;
    }
    let mut written = Vec::with_capacity(operations.len() * 2);
    for operation in operations {
        let mut operands = operation.operands;
        match (operation.operator.as_str(), operands.len()) {
            ("'", 1) => {}
            ("\"", 3) => {
                let (word, character) = (operands.remove(0), operands.remove(0));
                written.push(Operation::new("Tw", vec![word]));
                written.push(Operation::new("Tc", vec![character]));
            }
            _ => {
                written.push(Operation::new(&operation.operator, operands));
                continue;
            }
        }
        written.push(Operation::new("T*", Vec::new()));
        written.push(Operation::new("Tj", operands));
    }
    encoded(&Content { operations: written })
}

/// Instructions as bytes; none if they would read otherwise than they are, as pictures among them may.
fn encoded(content: &Content) -> Option<Vec<u8>> {
    let bytes = content.encode().ok()?;
    let again = Content::decode(&bytes).ok()?;
    let operators = |content: &Content| {
        content.operations.iter().map(|operation| operation.operator.clone()).collect::<Vec<_>>()
    };
    (operators(&again) == operators(content)).then_some(bytes)
}

/// Gives fonts of forms other names where another font has theirs: the package knows one font of a name on a page, though each form has names of its own
/// (ISO 32000-1, section 8.10.1). Pages that are put on a page, two or four, are such forms.
fn give_each_font_its_name(document: &mut Document) {
    let is_form = |object: &Object| matches!(object, Object::Stream(stream) if is_a(stream, b"Form"));
    if !document.objects.values().any(is_form) {
        return;
    }
    let pages: Vec<ObjectId> = document.get_pages().into_values().collect();
    for page in pages {
        let mut fonts: HashMap<Vec<u8>, Object> = HashMap::new();
        let mut seen = HashSet::new();
        let mut forms = Vec::new();
        for resources in resources_of_page(document, page) {
            for (name, font) in entries(document, resources, b"Font") {
                fonts.entry(name).or_insert(font);
            }
            forms.extend(entries(document, resources, b"XObject").into_iter().rev());
        }
        while let Some((_, form)) = forms.pop() {
            let Ok(id) = form.as_reference() else { continue };
            let Ok(Object::Stream(stream)) = document.get_object(id) else { continue };
            if !is_a(stream, b"Form") || !seen.insert(id) {
                continue;
            }
            let Some(resources) = dictionary(document, stream.dict.get(b"Resources").ok()) else { continue };
            forms.extend(entries(document, resources, b"XObject").into_iter().rev());
            let own = entries(document, resources, b"Font");
            let mut names: HashMap<Vec<u8>, Vec<u8>> = HashMap::new();
            for (name, font) in &own {
                if fonts.get(name).is_some_and(|known| known != font) {
                    names.insert(
                        name.clone(),
                        [&name[..], format!(".of.{}.{}", id.0, id.1).as_bytes()].concat(),
                    );
                } else {
                    fonts.insert(name.clone(), font.clone());
                }
            }
            if names.is_empty() {
                continue;
            }
            let mut resources = resources.clone();
            let new_name = |name: Vec<u8>| names.get(&name).cloned().unwrap_or(name);
            let own: Dictionary = own.into_iter().map(|(name, font)| (new_name(name), font)).collect();
            resources.set("Font", own);
            let content =
                stream.get_plain_content().ok().and_then(|content| with_fonts_named(&content, &names));
            if let (Some(content), Ok(Object::Stream(stream))) = (content, document.get_object_mut(id)) {
                stream.dict.set("Resources", resources);
                stream.set_plain_content(content);
            }
        }
    }
}

/// The resources of a page, the nearest first.
fn resources_of_page(document: &Document, page: ObjectId) -> Vec<&Dictionary> {
    let Ok((own, inherited)) = document.get_page_resources(page) else { return Vec::new() };
    own.into_iter().chain(inherited.into_iter().filter_map(|id| document.get_dictionary(id).ok())).collect()
}

/// A dictionary that is given itself or by its number.
fn dictionary<'a>(document: &'a Document, object: Option<&'a Object>) -> Option<&'a Dictionary> {
    match object? {
        Object::Reference(id) => document.get_dictionary(*id).ok(),
        object => object.as_dict().ok(),
    }
}

/// What resources have of a kind, by name.
fn entries(document: &Document, resources: &Dictionary, kind: &[u8]) -> Vec<(Vec<u8>, Object)> {
    let all = dictionary(document, resources.get(kind).ok());
    all.into_iter().flatten().map(|(name, object)| (name.clone(), object.clone())).collect()
}

/// Instructions that call fonts by other names; none if they cannot be read.
fn with_fonts_named(content: &[u8], names: &HashMap<Vec<u8>, Vec<u8>>) -> Option<Vec<u8>> {
    let mut content = Content::decode(content).ok()?;
    for operation in content.operations.iter_mut().filter(|operation| operation.operator == "Tf") {
        if let Some(Object::Name(name)) = operation.operands.first_mut()
            && let Some(new) = names.get(name)
        {
            name.clone_from(new);
        }
    }
    encoded(&content)
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

#[cfg(test)]
mod tests {
    use super::*;

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
}
