//! Cuts the elements that are records out of a stream of XML (Extensible Markup Language 1.0, fifth edition).

use std::io::{self, Read};

use yarrup_core::LONGEST_DOCUMENT;

use crate::format::xml::{DEEPEST, no_tag};

/// How much of the declaration of the document type is kept, for the entities that it declares.
const LONGEST_DOCTYPE: usize = 1 << 18;

/// Elements, one behind the other.
#[derive(Debug, Default)]
pub(super) struct Cut {
    pub(super) bytes: Vec<u8>,
    /// The line where each element begins, and the byte where it ends.
    pub(super) elements: Vec<(u64, usize)>,
}

/// Cuts the elements at a path out of a stream, without looking into them more than their tags need. What is wrong inside an element is told when it is
/// taken apart.
pub(super) struct Cutter<R> {
    source: Source<R>,
    /// The names of the path.
    path: Vec<Vec<u8>>,
    /// The open elements, each with the line where it begins.
    open: Vec<(Vec<u8>, u64)>,
    /// How many elements are open around the record at hand, and the line where that begins.
    record: Option<(usize, u64)>,
    tag: Vec<u8>,
    doctype: Vec<u8>,
    fault: Option<String>,
    /// What kept the source from being read, told once all elements before it were given.
    failed: Option<io::Error>,
}

impl<R: Read> Cutter<R> {
    /// Cuts what lies at a path: names of elements with dots between, of which those at the beginning may be left out.
    pub(super) fn new(reader: R, path: &str) -> Cutter<R> {
        Cutter {
            source: Source::new(reader),
            path: path.split('.').map(|name| name.as_bytes().to_vec()).collect(),
            open: Vec::new(),
            record: None,
            tag: Vec::new(),
            doctype: Vec::new(),
            fault: None,
            failed: None,
        }
    }

    /// What is wrong with the XML, so that no more of it was read.
    pub(super) fn fault(&mut self) -> Option<String> {
        self.fault.take()
    }

    /// The declaration of the document type, as far as it was read.
    pub(super) fn doctype(&self) -> &[u8] {
        &self.doctype
    }

    /// The next elements, some `most_bytes` of them; nothing at the end.
    ///
    /// # Errors
    ///
    /// That the source cannot be read.
    pub(super) fn next(&mut self, most_bytes: usize) -> io::Result<Option<Cut>> {
        if let Some(error) = self.failed.take() {
            return Err(error);
        }
        let mut elements = Vec::new();
        let read = self.elements(most_bytes, &mut elements);
        let mut bytes = std::mem::take(&mut self.source.copied);
        bytes.truncate(elements.last().map_or(0, |(_, end)| *end));
        match read {
            Err(error) if elements.is_empty() => return Err(error),
            Err(error) => self.failed = Some(error),
            Ok(()) => {}
        }
        Ok((!elements.is_empty()).then_some(Cut { bytes, elements }))
    }

    fn elements(&mut self, most_bytes: usize, elements: &mut Vec<(u64, usize)>) -> io::Result<()> {
        while self.fault.is_none() && (self.record.is_some() || self.source.copied.len() < most_bytes) {
            if !self.source.pass(b"<")? {
                if let Some((name, line)) = self.open.last() {
                    let name = String::from_utf8_lossy(name);
                    self.fault = Some(format!(
                        "ends too early: the element `{name}` that begins at line {line} is not closed"
                    ));
                }
                return Ok(());
            }
            if let Some(line) = self.markup()? {
                elements.push((line, self.source.copied.len()));
            }
            if let Some((_, line)) = self.record
                && self.source.copied.len() - elements.last().map_or(0, |(_, end)| *end) > LONGEST_DOCUMENT
            {
                self.fault = Some(format!(
                    "the element that begins at line {line} is longer than one GiB, too long for a document"
                ));
            }
        }
        Ok(())
    }

    /// Reads what begins with a `<` that has gone by. Gives the line of the record that ends with it.
    fn markup(&mut self) -> io::Result<Option<u64>> {
        let line = self.source.line;
        match self.source.peek()? {
            Some(b'/') => return self.closing_tag(line),
            Some(b'?') => {
                self.source.pass(b"?>")?;
            }
            Some(b'!') => {
                self.source.consume(1);
                match self.source.peek()? {
                    Some(b'-') => self.source.comment()?,
                    Some(b'[') => {
                        self.source.pass(b"]]>")?;
                    }
                    _ => self.declaration()?,
                }
            }
            Some(byte)
                if byte.is_ascii_whitespace() || byte.is_ascii_digit() || b"<=>&-.".contains(&byte) =>
            {
                self.fault = Some(no_tag(line));
            }
            Some(_) => return self.opening_tag(line),
            None => {}
        }
        Ok(None)
    }

    fn opening_tag(&mut self, line: u64) -> io::Result<Option<u64>> {
        if !self.source.tag(&mut self.tag)? {
            return Ok(None);
        }
        let name = name_in(&self.tag);
        let begins = self.record.is_none() && self.is_wanted(name);
        if self.open.len() >= DEEPEST {
            self.fault =
                Some(format!("elements lie more than {DEEPEST} deep in one another, at line {line}"));
            return Ok(None);
        }
        if begins {
            self.record = Some((self.open.len(), line));
            self.source.copied.push(b'<');
        }
        if self.record.is_some() {
            self.source.copied.extend_from_slice(&self.tag);
            self.source.copies = true;
        }
        if !self.tag.ends_with(b"/>") {
            self.open.push((name.to_vec(), line));
            return Ok(None);
        }
        Ok(self.record_that_ends())
    }

    fn closing_tag(&mut self, line: u64) -> io::Result<Option<u64>> {
        if !self.source.tag(&mut self.tag)? {
            return Ok(None);
        }
        let name = name_in(&self.tag[1..]);
        let told = String::from_utf8_lossy(name);
        match self.open.pop() {
            Some((opened, _)) if opened == name => {}
            Some((opened, begun)) => {
                let opened = String::from_utf8_lossy(&opened);
                self.fault = Some(format!(
                    "not well formed: `</{told}>` at line {line}, where the element `{opened}` of line {begun} is still open"
                ));
                return Ok(None);
            }
            None => {
                self.fault = Some(format!("not well formed: `</{told}>` at line {line} closes nothing"));
                return Ok(None);
            }
        }
        if self.record.is_some() {
            self.source.copied.extend_from_slice(&self.tag);
        }
        Ok(self.record_that_ends())
    }

    /// The line of the record at hand, if it has ended now.
    fn record_that_ends(&mut self) -> Option<u64> {
        let (_, line) = self.record.take_if(|(around, _)| *around == self.open.len())?;
        self.source.copies = false;
        Some(line)
    }

    fn is_wanted(&self, name: &[u8]) -> bool {
        let Some((last, before)) = self.path.split_last() else { return false };
        let open = self.open.iter().rev().map(|(name, _)| name);
        last == name && before.len() <= self.open.len() && before.iter().rev().eq(open.take(before.len()))
    }

    /// A declaration: that of the document type, with what lies in it.
    fn declaration(&mut self) -> io::Result<()> {
        let mut depth = 1;
        while depth > 0 {
            let Some(byte) = self.source.peek()? else { return Ok(()) };
            self.source.consume(1);
            self.note(&[byte]);
            match byte {
                b'>' => depth -= 1,
                b'"' | b'\'' => {
                    while let Some(inside) = self.source.peek()? {
                        self.source.consume(1);
                        self.note(&[inside]);
                        if inside == byte {
                            break;
                        }
                    }
                }
                b'<' => match self.source.peek()? {
                    Some(b'?') => {
                        self.source.pass(b"?>")?;
                    }
                    Some(b'!') => {
                        self.source.consume(1);
                        if self.source.peek()? == Some(b'-') {
                            self.source.comment()?;
                        } else {
                            self.note(b"!");
                            depth += 1;
                        }
                    }
                    _ => depth += 1,
                },
                _ => {}
            }
        }
        Ok(())
    }

    fn note(&mut self, bytes: &[u8]) {
        if self.doctype.len() < LONGEST_DOCTYPE {
            self.doctype.extend_from_slice(bytes);
        }
    }
}

/// The name at the beginning of what stands in a tag.
fn name_in(tag: &[u8]) -> &[u8] {
    let end = tag.iter().position(|byte| byte.is_ascii_whitespace() || b"/>".contains(byte));
    &tag[..end.unwrap_or(tag.len())]
}

/// A stream as it goes by, with its lines counted, and copied where that is wanted.
struct Source<R> {
    reader: R,
    raw: Box<[u8]>,
    /// What of the bytes that were read is still to go by.
    rest: std::ops::Range<usize>,
    ended: bool,
    line: u64,
    /// The last bytes that went by, as many as the longest end of markup has.
    last: [u8; 3],
    copies: bool,
    copied: Vec<u8>,
}

impl<R: Read> Source<R> {
    fn new(reader: R) -> Source<R> {
        Source {
            reader,
            raw: vec![0; 1 << 16].into_boxed_slice(),
            rest: 0..0,
            ended: false,
            line: 1,
            last: [0; 3],
            copies: false,
            copied: Vec::new(),
        }
    }

    /// Whether there is more.
    fn fill(&mut self) -> io::Result<bool> {
        if self.rest.is_empty() && !self.ended {
            self.rest = 0..self.reader.read(&mut self.raw)?;
            self.ended = self.rest.is_empty();
        }
        Ok(!self.rest.is_empty())
    }

    /// What is there already.
    fn ahead(&self) -> &[u8] {
        &self.raw[self.rest.clone()]
    }

    fn peek(&mut self) -> io::Result<Option<u8>> {
        Ok(if self.fill()? { self.ahead().first().copied() } else { None })
    }

    /// Lets bytes go by that are there.
    fn consume(&mut self, count: usize) {
        let bytes = &self.raw[self.rest.start..self.rest.start + count];
        if self.copies {
            self.copied.extend_from_slice(bytes);
        }
        self.line += memchr::memchr_iter(b'\n', bytes).count() as u64;
        for byte in &bytes[bytes.len().saturating_sub(self.last.len())..] {
            self.last.rotate_left(1);
            self.last[2] = *byte;
        }
        self.rest.start += count;
    }

    /// Lets all go by up to these bytes and with them. Returns whether they came.
    fn pass(&mut self, end: &[u8]) -> io::Result<bool> {
        let Some(last) = end.last() else { return Ok(true) };
        while self.fill()? {
            match memchr::memchr(*last, self.ahead()) {
                Some(before) => {
                    self.consume(before + 1);
                    if self.last.ends_with(end) {
                        return Ok(true);
                    }
                }
                None => self.consume(self.rest.len()),
            }
        }
        Ok(false)
    }

    /// Lets a comment go by, of which the first sign behind `<!` is there.
    fn comment(&mut self) -> io::Result<()> {
        self.consume(1);
        if self.peek()? == Some(b'-') {
            self.consume(1);
        }
        // Its own beginning is no part of its end.
        self.last = [0; 3];

        self.pass(b"-->")?;
        Ok(())
    }

    /// Reads the rest of a tag, which is not copied. Returns whether it ends.
    fn tag(&mut self, tag: &mut Vec<u8>) -> io::Result<bool> {
        tag.clear();
        let copies = std::mem::take(&mut self.copies);
        let mut quote: Option<u8> = None;
        let ends = loop {
            if !self.fill()? {
                break false;
            }
            let rest = self.ahead();
            let found = match quote {
                Some(quote) => memchr::memchr(quote, rest),
                None => memchr::memchr3(b'>', b'"', b'\'', rest),
            };
            let count = found.map_or(rest.len(), |before| before + 1);
            tag.extend_from_slice(&rest[..count]);
            self.consume(count);
            if found.is_none() {
                continue;
            }
            match (quote, tag.last()) {
                (Some(_), _) => quote = None,
                (None, Some(b'>')) => break true,
                (None, sign) => quote = sign.copied(),
            }
        };
        self.copies = copies;
        Ok(ends)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// Gives one byte at a time.
    struct Trickle<'a>(&'a [u8]);

    impl Read for Trickle<'_> {
        fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
            let count = self.0.len().min(buffer.len()).min(1);
            buffer[..count].copy_from_slice(&self.0[..count]);
            self.0 = &self.0[count..];
            Ok(count)
        }
    }

    fn cut(xml: &str, path: &str) -> (Vec<(u64, String)>, Option<String>) {
        let all = |reader: &mut dyn Read| {
            let mut cutter = Cutter::new(reader, path);
            let mut found = Vec::new();
            while let Some(cut) = cutter.next(8).expect("readable") {
                let mut from = 0;
                for (line, end) in cut.elements {
                    found.push((line, String::from_utf8_lossy(&cut.bytes[from..end]).into_owned()));
                    from = end;
                }
            }
            (found, cutter.fault())
        };
        let whole = all(&mut xml.as_bytes());
        assert_eq!(whole, all(&mut Trickle(xml.as_bytes())), "{xml}");
        whole
    }

    #[test]
    fn elements_are_cut_at_their_tags() {
        let xml = "<?xml version='1.0'?>\n<!DOCTYPE a [<!ENTITY x '<item>'> <!-- <item> it's -->]>\n<a>\n<item n='>'>x<item/></item>\n\
                   <!-- <item>no</item> --><b><![CDATA[<item>]]><item\nm=\"'/>\"/></b></a>\n";
        let expected = [(4, "<item n='>'>x<item/></item>".to_owned()), (5, "<item\nm=\"'/>\"/>".to_owned())];
        assert_eq!(cut(xml, "item"), (expected.to_vec(), None));
        assert_eq!(cut(xml, "a.item"), (expected[..1].to_vec(), None));
        assert_eq!(cut(xml, "b.item"), (expected[1..].to_vec(), None));
        assert_eq!(cut(xml, "a.b.item"), (expected[1..].to_vec(), None));
        assert_eq!(cut(xml, "c.item"), (vec![], None));
        assert_eq!(cut("<r><!--><i/>--><i n='1'/></r>", "i").0, [(1, "<i n='1'/>".to_owned())]);
        let inside = "<r><i>a<!-- </i> --><?x </i>?><![CDATA[</i>]]></i></r>";
        assert_eq!(cut(inside, "i"), (vec![(1, inside[3..inside.len() - 4].to_owned())], None));
    }

    #[test]
    fn what_is_not_well_formed_is_told_with_its_line_and_what_came_before_is_given() {
        for (xml, count, why) in [
            ("<a>\n<i/>\n<i>", 1, "ends too early: the element `i` that begins at line 3 is not closed"),
            ("<a><i/>\n</b>", 1, "`</b>` at line 2, where the element `a` of line 1 is still open"),
            ("<a/>\n</a>", 0, "`</a>` at line 2 closes nothing"),
            ("<a><i>1 < 2</i></a>", 0, "a `<` at line 1 that begins no tag"),
            ("<a><i/><i x='1></i></a>", 1, "ends too early"),
            (&"<a>".repeat(DEEPEST + 1), 0, "more than 256 deep"),
        ] {
            let (found, fault) = cut(xml, "i");
            assert_eq!(found.len(), count, "{xml}");
            assert!(fault.as_deref().is_some_and(|told| told.contains(why)), "{why}: {fault:?}");
        }
    }

    #[test]
    fn what_was_read_before_a_source_fails_is_given() {
        struct Failing<'a>(&'a [u8]);
        impl Read for Failing<'_> {
            fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
                match std::mem::take(&mut self.0) {
                    [] => Err(io::ErrorKind::UnexpectedEof.into()),
                    bytes => {
                        buffer[..bytes.len()].copy_from_slice(bytes);
                        Ok(bytes.len())
                    }
                }
            }
        }
        let mut cutter = Cutter::new(Failing(b"<a><i>tern</i><i>gu"), "i");
        let first = cutter.next(1 << 10).expect("what came before").expect("an element");
        assert_eq!(first.bytes, b"<i>tern</i>");
        assert!(cutter.next(1 << 10).is_err());
    }

    #[test]
    fn the_declaration_of_the_type_is_kept() {
        let mut cutter = Cutter::new(&b"<!DOCTYPE a [<!ENTITY tern \"a > b\">]><a/>"[..], "a");
        assert!(cutter.next(10).expect("readable").is_some());
        assert_eq!(cutter.doctype(), b"DOCTYPE a [<!ENTITY tern \"a > b\">]>");
    }

    proptest! {
        #[test]
        fn every_element_that_is_written_is_cut_as_it_was(
            texts in proptest::collection::vec("[a é&;'\"\n]{0,8}", 0..6),
            between in "[ \n]{0,3}",
        ) {
            let elements: Vec<String> = texts
                .iter()
                .enumerate()
                .map(|(index, text)| match index % 3 {
                    0 => format!("<i n=\"{}\">{text}</i>", text.replace('"', "")),
                    1 => format!("<i><i>{text}</i><b/></i>"),
                    _ => format!("<i t='{}'/>", text.replace('\'', "")),
                })
                .collect();
            let xml = format!("<r>{between}{}</r>", elements.join(&between));
            let (found, fault) = cut(&xml, "r.i");
            let found: Vec<String> = found.into_iter().map(|(_, element)| element).collect();
            prop_assert_eq!(found, elements);
            prop_assert_eq!(fault, None);
        }
    }
}
