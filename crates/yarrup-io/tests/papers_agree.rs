//! The same paragraphs are the same text, whichever program wrote them: one for papers, slides, books, pages or mail.

use std::io::Write;
use std::path::Path;

use proptest::prelude::*;
use yarrup_io::{Collection, Item, Pick, Source, SourceSpec, Unit};

/// A word, and how a program may have written it.
#[derive(Clone, Debug)]
struct Word {
    text: String,
    manner: Manner,
}

#[derive(Clone, Copy, Debug)]
enum Manner {
    Plain,
    /// In two stretches of different looks, with no gap between them.
    Parted,
    /// Something that is no text stands right behind it: a mark for a link, a picture, a remark.
    Marked,
    /// A reading stands above it.
    Read,
    /// A note is tied to it.
    Noted,
    /// A box with a text of its own is tied to it.
    Boxed,
    /// A word that was deleted, or moved from here, stands before it.
    Revised,
}

type Paragraph = Vec<Word>;

fn word() -> impl Strategy<Value = Word> {
    let text = "[a-zéß鳥И]{1,5}|[a-z][<&>\"']{1,2}[a-z]|[a-z]&amp;[a-z]|[a-z]\\]\\]>";
    let manner = prop_oneof![
        6 => Just(Manner::Plain),
        2 => Just(Manner::Parted),
        2 => Just(Manner::Marked),
        1 => Just(Manner::Read),
        1 => Just(Manner::Noted),
        1 => Just(Manner::Boxed),
        1 => Just(Manner::Revised),
    ];
    (text, manner).prop_map(|(text, manner)| Word { text, manner })
}

fn paragraphs() -> impl Strategy<Value = Vec<Paragraph>> {
    proptest::collection::vec(proptest::collection::vec(word(), 1..7), 1..6)
}

/// The texts of notes and boxes stand in lines of their own, wherever; they are told by this word.
const ASIDE: &str = "aside";

fn lines(paragraphs: &[Paragraph]) -> Vec<String> {
    let line = |words: &Paragraph| words.iter().map(|word| word.text.as_str()).collect::<Vec<_>>().join(" ");
    paragraphs.iter().map(line).collect()
}

fn escaped(text: &str) -> String {
    text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;")
}

/// The beginning and the end of a word, both escaped.
fn parts(word: &Word) -> (String, String) {
    let middle = word.text.floor_char_boundary(word.text.len() / 2);
    let (first, last) = word.text.split_at(middle);
    (escaped(first), escaped(last))
}

/// How many readings of asides there are in paragraphs of a format that knows them.
fn asides(paragraphs: &[Paragraph], noted: bool, boxed: bool) -> usize {
    let counts = |word: &&Word| match word.manner {
        Manner::Noted => noted,
        Manner::Boxed => boxed,
        _ => false,
    };
    paragraphs.iter().flatten().filter(counts).count()
}

fn zip(parts: &[(&str, String)]) -> Vec<u8> {
    let mut out = std::io::Cursor::new(Vec::new());
    let mut archive = zip::ZipWriter::new(&mut out);
    for (name, content) in parts {
        let stored = zip::write::SimpleFileOptions::default().compression_method(if *name == "mimetype" {
            zip::CompressionMethod::Stored
        } else {
            zip::CompressionMethod::Deflated
        });
        archive.start_file(*name, stored).expect("a member");
        archive.write_all(content.as_bytes()).expect("memory");
    }
    archive.finish().expect("an archive");
    out.into_inner()
}

fn each_word(words: &Paragraph, gap: &str, written: impl Fn(&Word, &str, &str) -> String) -> String {
    let written = |word: &Word| {
        let (first, last) = parts(word);
        written(word, &first, &last)
    };
    words.iter().map(written).collect::<Vec<_>>().join(gap)
}

fn docx(paragraphs: &[Paragraph]) -> Vec<u8> {
    let run =
        |text: &str| format!("<w:r><w:rPr><w:b/></w:rPr><w:t xml:space=\"preserve\">{text}</w:t></w:r>");
    let mut notes = String::new();
    let body: String = paragraphs.iter().map(|words| {
        let runs = each_word(words, &run(" "), |word, first, last| {
            let whole = run(&format!("{first}{last}"));
            match word.manner {
                Manner::Plain => whole,
                Manner::Parted => format!("{}<w:proofErr w:type=\"spellStart\"/>{}", run(first), run(last)),
                Manner::Marked => format!("{whole}<w:bookmarkStart w:id=\"0\" w:name=\"x\"/><w:r><w:fldChar/><w:instrText>PAGE</w:instrText></w:r>"),
                Manner::Read => format!(
                    "<w:r><w:ruby><w:rubyPr/><w:rt>{}</w:rt><w:rubyBase>{whole}</w:rubyBase></w:ruby></w:r>", run("reading")
                ),
                Manner::Noted => format!("{whole}<w:r><w:footnoteReference w:id=\"2\"/></w:r>"),
                Manner::Boxed => format!(
                    "{}<w:r><mc:AlternateContent><mc:Choice><w:txbxContent><w:p>{}</w:p></w:txbxContent></mc:Choice>\
                     <mc:Fallback><w:txbxContent><w:p>{}</w:p></w:txbxContent></mc:Fallback></mc:AlternateContent></w:r>{}",
                    run(first), run(ASIDE), run(ASIDE), run(last)
                ),
                Manner::Revised => format!(
                    "<w:del><w:r><w:delText>gone</w:delText></w:r></w:del><w:moveFrom>{}</w:moveFrom><w:ins>{whole}</w:ins>", run("moved")
                ),
            }
        });
        format!("<w:p><w:pPr><w:tabs><w:tab w:val=\"left\"/></w:tabs></w:pPr>{runs}</w:p>\n")
    }).collect();
    for _ in 0..asides(paragraphs, true, false) {
        notes.push_str(&format!("<w:footnote w:id=\"2\"><w:p>{}</w:p></w:footnote>", run(ASIDE)));
    }
    zip(&[
        ("[Content_Types].xml", "<Types/>".to_owned()),
        (
            "word/document.xml",
            format!(
                "<?xml version=\"1.0\"?><w:document xmlns:w=\"w\" xmlns:mc=\"mc\"><w:body>{body}</w:body></w:document>"
            ),
        ),
        ("word/footnotes.xml", format!("<w:footnotes xmlns:w=\"w\">{notes}</w:footnotes>")),
    ])
}

fn odt(paragraphs: &[Paragraph]) -> Vec<u8> {
    let body: String = paragraphs.iter().map(|words| {
        // Whoever lays XML out puts white space anywhere, and it is one space.
        let text = each_word(words, "\n      ", |word, first, last| match word.manner {
            Manner::Plain | Manner::Revised => format!("{first}{last}"),
            Manner::Parted => format!("<text:span>{first}</text:span>{last}"),
            Manner::Marked => format!("{first}<text:bookmark text:name=\"x\"/>{last}<office:annotation><text:p>remark</text:p></office:annotation>"),
            Manner::Read => format!(
                "<text:ruby><text:ruby-base>{first}{last}</text:ruby-base><text:ruby-text>reading</text:ruby-text></text:ruby>"
            ),
            Manner::Noted => format!(
                "{first}{last}<text:note><text:note-citation>1</text:note-citation><text:note-body><text:p>{ASIDE}</text:p></text:note-body></text:note>"
            ),
            Manner::Boxed => format!("{first}<draw:frame><draw:text-box><text:p>{ASIDE}</text:p></draw:text-box></draw:frame>{last}"),
        });
        format!("<text:p>\n  {text}</text:p>\n")
    }).collect();
    let body = format!(
        "<text:tracked-changes><text:changed-region><text:deletion><text:p>gone</text:p></text:deletion></text:changed-region></text:tracked-changes>{body}"
    );
    zip(&[
        ("mimetype", "application/vnd.oasis.opendocument.text".to_owned()),
        (
            "content.xml",
            format!(
                "<?xml version=\"1.0\"?><office:document-content><office:body><office:text>{body}</office:text></office:body></office:document-content>"
            ),
        ),
    ])
}

/// The body of a page, in XHTML or in HTML.
fn page(paragraphs: &[Paragraph], xhtml: bool) -> String {
    let empty = |name: &str| if xhtml { format!("<{name}/>") } else { format!("<{name}></{name}>") };
    let body = paragraphs.iter().map(|words| {
        let text = each_word(words, "\n  ", |word, first, last| match word.manner {
            Manner::Plain | Manner::Boxed => format!("{first}{last}"),
            Manner::Parted => format!("{first}<i>{last}</i>"),
            Manner::Marked => format!(
                "{first}{}{last}{}{}<img alt='tern' src='x'/>",
                empty("a"),
                empty("script"),
                empty("iframe")
            ),
            Manner::Read => format!("<ruby>{first}{last}<rp>(</rp><rt>reading</rt><rp>)</rp></ruby>"),
            Manner::Noted if xhtml => {
                format!("<!-- a note's --><![CDATA[{}]]>", word.text.replace("]]>", "]]]]><![CDATA[>"))
            }
            Manner::Noted => format!("<!-- a note -->{first}{last}"),
            Manner::Revised => format!("<style>p {{}}</style>{first}{last}{}", empty("noscript")),
        });
        format!("<p>\n {text}\n</p>")
    });
    let body: String = body.collect();
    let head = format!("{}{}<meta name='x' content='y'/>", empty("title"), empty("style"));
    let start = if xhtml {
        "<?xml version='1.0'?><html xmlns='http://www.w3.org/1999/xhtml'>"
    } else {
        "<!DOCTYPE html><html>"
    };
    format!("{start}<head>{head}</head><body>{body}</body></html>")
}

fn epub(paragraphs: &[Paragraph]) -> Vec<u8> {
    zip(&[
        ("mimetype", "application/epub+zip".to_owned()),
        ("META-INF/container.xml", "<container><rootfiles><rootfile full-path='O/book.opf'/></rootfiles></container>".to_owned()),
        ("O/book.opf", "<package><metadata/><manifest><item id='c' href='c.xhtml' media-type='application/xhtml+xml'/></manifest><spine><itemref idref='c'/></spine></package>".to_owned()),
        ("O/c.xhtml", page(paragraphs, true)),
    ])
}

/// A message of Outlook whose text is a page.
fn message(paragraphs: &[Paragraph]) -> Vec<u8> {
    let mut properties = vec![0; 32];
    properties.extend([3, 0, 0xde, 0x3f, 6, 0, 0, 0]);
    properties.extend(65001u64.to_le_bytes());
    let page = page(paragraphs, false).into_bytes();
    compound(&[("__properties_version1.0", properties), ("__substg1.0_10130102", page)])
}

/// A mail whose text is a page, in base64, wrapped as mail programs wrap it.
fn mail(paragraphs: &[Paragraph]) -> Vec<u8> {
    const SIGNS: &[u8; 64] = b"ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    let page = page(paragraphs, false);
    let mut encoded = String::new();
    for three in page.as_bytes().chunks(3) {
        let bits =
            three.iter().fold(0u32, |bits, byte| bits << 8 | u32::from(*byte)) << (8 * (3 - three.len()));
        for place in 0..4 {
            let sign = SIGNS[(bits >> (18 - 6 * place) & 63) as usize];
            encoded.push(if place > three.len() { '=' } else { char::from(sign) });
        }
    }
    let lines: Vec<&str> =
        encoded.as_bytes().chunks(76).map(|line| std::str::from_utf8(line).expect("ASCII")).collect();
    format!(
        "From: mira@example.org\r\nTo: warden@example.org\r\nSubject: Terns\r\nDate: Sat, 17 May 2031 06:30:00 +0000\r\nMIME-Version: 1.0\r\n\
         Content-Type: text/html; charset=utf-8\r\nContent-Transfer-Encoding: base64\r\n\r\n{}\r\n",
        lines.join("\r\n")
    ).into_bytes()
}

/// A file in Rich Text Format, with letters beyond ASCII as programs write them.
fn rich(paragraphs: &[Paragraph]) -> Vec<u8> {
    let plain = |text: &str| {
        let mut out = String::new();
        for c in text.chars() {
            match c {
                '\\' | '{' | '}' => out.push_str(&format!("\\{c}")),
                ' '..='~' => out.push(c),
                'é' => out.push_str("\\'e9"),
                _ => c
                    .encode_utf16(&mut [0; 2])
                    .iter()
                    .for_each(|unit| out.push_str(&format!("\\u{}?", *unit as i16))),
            }
        }
        out
    };
    let mut body = String::new();
    for words in paragraphs {
        for (number, word) in words.iter().enumerate() {
            let middle = word.text.floor_char_boundary(word.text.len() / 2);
            let (first, last) = (plain(&word.text[..middle]), plain(&word.text[middle..]));
            body.push_str(if number > 0 { "\n\\f0  " } else { "" });
            body.push_str(&match word.manner {
                Manner::Plain | Manner::Read => format!("{first}{last}"),
                Manner::Parted => format!("{first}{{\\b\\lang1031 {last}}}"),
                Manner::Marked => format!("{first}{{\\*\\bkmkstart x}}{last}{{\\pict\\wmetafile8 00ff}}{{\\field{{\\*\\fldinst PAGE}}}}"),
                Manner::Noted => format!("{first}{last}{{\\super\\chftn}}{{\\footnote {{\\chftn}} {ASIDE}\\par}}"),
                Manner::Boxed => format!(
                    "{first}{{\\shp{{\\*\\shpinst\\shpleft1{{\\sp{{\\sn fill}}{{\\sv 1}}}}{{\\shptxt {ASIDE}\\par}}}}}}{last}"
                ),
                Manner::Revised => format!("{{\\deleted gone}}{{\\v hidden}}{first}{last}"),
            });
        }
        body.push_str("\\par\\pard\n");
    }
    format!("{{\\rtf1\\ansi\\ansicpg1252\\deff0{{\\fonttbl{{\\f0\\fcharset0 Sans;}}}}{{\\info{{\\title Terns}}}}{{\\footer Page}}{body}}}")
        .into_bytes()
}

/// A document of Word 97: its parts one after the other, in pieces of one byte or two for each letter.
fn old_word(paragraphs: &[Paragraph]) -> Vec<u8> {
    let (mut main, mut pieces) = (String::new(), Vec::new());
    let units = |text: &str| text.encode_utf16().count();
    for words in paragraphs {
        for (number, word) in words.iter().enumerate() {
            let (first, last) = word.text.split_at(word.text.floor_char_boundary(word.text.len() / 2));
            main.push_str(if number > 0 { " " } else { "" });
            main.push_str(first);
            match word.manner {
                Manner::Parted => pieces.push(units(&main)),
                Manner::Marked => main.push_str("\u{13} PAGE \u{13}x\u{14}y\u{15}\u{14}\u{15}\u{1}"),
                Manner::Boxed => main.push('\u{8}'),
                _ => {}
            }
            main.push_str(last);
            main.push_str(if matches!(word.manner, Manner::Noted) { "\u{2}" } else { "" });
        }
        main.push('\r');
    }
    let aside = format!("\u{2} {ASIDE}\r");
    let parts = [
        main,
        aside.repeat(asides(paragraphs, true, false)),
        "Header\r".to_owned(),
        String::new(),
        "Remark\r".to_owned(),
        String::new(),
        aside.repeat(asides(paragraphs, false, true)),
    ];
    let lengths: Vec<u32> = parts.iter().map(|part| units(part) as u32).collect();
    let text: Vec<u16> = parts.concat().encode_utf16().collect();
    pieces.insert(0, 0);
    pieces.push(text.len());
    let mut stream = vec![0; 0x400];
    let (mut places, mut last) = (Vec::new(), 0);
    for (&from, &to) in pieces.iter().zip(&pieces[1..]) {
        last = to;
        let piece = &text[from..to];
        if piece.iter().all(|unit| *unit < 0x80 || (0xa0..0x100).contains(unit)) {
            places.push((stream.len() as u32 * 2) | 0x4000_0000);
            stream.extend(piece.iter().map(|unit| *unit as u8));
        } else {
            places.push(stream.len() as u32);
            stream.extend(piece.iter().flat_map(|unit| unit.to_le_bytes()));
        }
    }
    assert_eq!(last, text.len());
    let mut list = Vec::new();
    pieces.iter().for_each(|at| list.extend((*at as u32).to_le_bytes()));
    places.iter().for_each(|place| list.extend([&[0, 0][..], &place.to_le_bytes(), &[0, 0]].concat()));
    // Properties, then the pieces, somewhere in the table.
    let mut table = vec![7; 30];
    table.extend([1, 2, 0, 9, 9, 2]);
    table.extend((list.len() as u32).to_le_bytes());
    table.extend(&list);
    let length = table.len() as u32 - 30;
    let mut set = |at: usize, bytes: &[u8]| stream[at..at + bytes.len()].copy_from_slice(bytes);
    set(0, &[0xec, 0xa5, 0xc1, 0]);
    set(10, &0x0200u16.to_le_bytes());
    lengths.iter().enumerate().for_each(|(part, length)| set(0x4c + 4 * part, &length.to_le_bytes()));
    set(0x1a2, &30u32.to_le_bytes());
    set(0x1a6, &length.to_le_bytes());
    compound(&[("WordDocument", stream), ("1Table", table)])
}

fn compound(streams: &[(&str, Vec<u8>)]) -> Vec<u8> {
    let mut file = cfb::CompoundFile::create(std::io::Cursor::new(Vec::new())).expect("memory");
    for (name, content) in streams {
        file.create_stream(name).expect("a stream").write_all(content).expect("memory");
    }
    file.flush().expect("memory");
    file.into_inner().into_inner()
}

/// A presentation with a slide for each paragraph, the last of them first in the package.
fn pptx(paragraphs: &[Paragraph]) -> Vec<u8> {
    let run = |text: &str| format!("<a:r><a:rPr/><a:t>{text}</a:t></a:r>");
    let relations = |list: &[(String, &str, String)]| {
        let list = list.iter().map(|(id, kind, target)| {
            format!(
                "<Relationship Id=\"{id}\" Type=\"http://schemas.example.org/{kind}\" Target=\"{target}\"/>"
            )
        });
        format!("<Relationships>{}</Relationships>", list.collect::<String>())
    };
    let mut parts: Vec<(String, String)> = Vec::new();
    let (mut order, mut slides) = (String::new(), Vec::new());
    for (number, words) in paragraphs.iter().enumerate() {
        let mut boxes = String::new();
        let text = each_word(words, &run(" "), |word, first, last| match word.manner {
            Manner::Parted => format!("{}{}", run(first), run(last)),
            Manner::Marked => format!("{}<a:fld type=\"x\"><a:rPr/></a:fld>", run(&format!("{first}{last}"))),
            _ => run(&format!("{first}{last}")),
        });
        for _ in 0..asides(std::slice::from_ref(words), false, true) {
            boxes
                .push_str(&format!("<p:sp><p:nvSpPr/><p:txBody><a:p>{}</a:p></p:txBody></p:sp>", run(ASIDE)));
        }
        parts.insert(0, (
            format!("ppt/slides/s{number}.xml"),
            format!(
                "<p:sld xmlns:a=\"a\" xmlns:p=\"p\"><p:sp><p:nvSpPr><p:nvPr><p:ph type=\"title\"/></p:nvPr></p:nvSpPr><p:txBody><a:p>{text}</a:p></p:txBody></p:sp>\
                 {boxes}<p:sp><p:nvSpPr><p:nvPr><p:ph type=\"sldNum\"/></p:nvPr></p:nvSpPr><p:txBody><a:p>{}</a:p></p:txBody></p:sp></p:sld>",
                run("7")
            ),
        ));
        order.push_str(&format!("<p:sldId id=\"{}\" r:id=\"r{number}\"/>", 256 + number));
        slides.push((format!("r{number}"), "slide", format!("slides/s{number}.xml")));
    }
    parts.push((
        "_rels/.rels".to_owned(),
        relations(&[("m".to_owned(), "officeDocument", "/ppt/presentation.xml".to_owned())]),
    ));
    parts.push(("ppt/_rels/presentation.xml.rels".to_owned(), relations(&slides)));
    parts.push((
        "ppt/presentation.xml".to_owned(),
        format!(
            "<p:presentation xmlns:p=\"p\" xmlns:r=\"r\"><p:sldIdLst>{order}</p:sldIdLst></p:presentation>"
        ),
    ));
    let parts: Vec<(&str, String)> =
        parts.iter().map(|(name, content)| (name.as_str(), content.clone())).collect();
    zip(&parts)
}

/// A presentation of OpenDocument with a slide for each paragraph.
fn odp(paragraphs: &[Paragraph]) -> Vec<u8> {
    let slides: String = paragraphs.iter().map(|words| {
        let text = each_word(words, " ", |word, first, last| match word.manner {
            Manner::Parted => format!("<text:span>{first}</text:span><text:span>{last}</text:span>"),
            _ => format!("{first}{last}"),
        });
        let boxes = "<draw:frame><draw:text-box><text:p>aside</text:p></draw:text-box></draw:frame>"
            .repeat(asides(std::slice::from_ref(words), false, true));
        format!(
            "<draw:page><draw:frame presentation:class=\"title\"><draw:text-box><text:p>{text}</text:p></draw:text-box></draw:frame>{boxes}\
             <draw:frame><draw:text-box><text:p><text:page-number>7</text:page-number></text:p></draw:text-box></draw:frame>\
             <presentation:notes><text:p>Speak up.</text:p></presentation:notes></draw:page>"
        )
    }).collect();
    zip(&[
        ("mimetype", "application/vnd.oasis.opendocument.presentation".to_owned()),
        (
            "content.xml",
            format!(
                "<office:document-content><office:presentation>{slides}</office:presentation></office:document-content>"
            ),
        ),
    ])
}

/// The lines of all documents of a file that hold anything, with white space as one space; and what is told of the file.
fn given(path: &Path) -> (Vec<String>, Vec<String>) {
    let mut source = SourceSpec::at(path.to_str().expect("a plain path"));
    source.options.unit = (path.file_stem() != Some("letter".as_ref())).then_some(Unit::File);
    let collection = Collection { pick: Pick::All, ..Collection::of(source) };
    let mut source = Source::open(&collection).expect("the file is there");
    let (mut lines, mut told) = (Vec::new(), Vec::new());
    while let Some(batch) = source.next_batch() {
        let _ = batch.records(|item| {
            match item {
                Item::Document(record) => {
                    let text = record.text.lines();
                    let text = text.map(|line| line.split_whitespace().collect::<Vec<_>>().join(" "));
                    lines.extend(text.filter(|line| !line.is_empty()));
                }
                Item::LeftOut => {}
                Item::Malformed(malformed) => told.push(malformed.why.to_string()),
            }
            Ok::<(), ()>(())
        });
    }
    (lines, told)
}

/// As [`given`], of a file that is whole.
fn read(path: &Path) -> Vec<String> {
    let (lines, told) = given(path);
    assert_eq!(told, Vec::<String>::new(), "{}", path.display());
    lines
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(100))]

    #[test]
    fn paragraphs_are_the_same_whoever_wrote_them(paragraphs in paragraphs()) {
        let folder = tempfile::tempdir().expect("a folder");
        let expected = lines(&paragraphs);
        for (name, content, asides) in [
            ("paper.docx", docx(&paragraphs), asides(&paragraphs, true, true)),
            ("paper.odt", odt(&paragraphs), asides(&paragraphs, true, true)),
            ("paper.rtf", rich(&paragraphs), asides(&paragraphs, true, true)),
            ("paper.doc", old_word(&paragraphs), asides(&paragraphs, true, true)),
            ("slides.pptx", pptx(&paragraphs), asides(&paragraphs, false, true)),
            ("slides.odp", odp(&paragraphs), asides(&paragraphs, false, true)),
            ("page.html", page(&paragraphs, false).into_bytes(), 0),
            ("page.xhtml", page(&paragraphs, true).into_bytes(), 0),
            ("book.epub", epub(&paragraphs), 0),
            ("letter.eml", mail(&paragraphs), 0),
            ("letter.msg", message(&paragraphs), 0),
        ] {
            let path = folder.path().join(name);
            std::fs::write(&path, content).expect("written");
            let (beside, text): (Vec<_>, Vec<_>) = read(&path).into_iter().partition(|line| line == ASIDE);
            prop_assert_eq!((name, beside.len()), (name, asides));
            prop_assert_eq!((name, &text), (name, &expected));
        }
    }

    /// Whatever is wrong with a file, no reader breaks, and what is told says why.
    #[test]
    fn damaged_papers_break_nothing(
        paragraphs in paragraphs(),
        places in proptest::collection::vec((any::<prop::sample::Index>(), any::<u8>()), 1..20),
        end in proptest::option::of(any::<prop::sample::Index>()),
    ) {
        let folder = tempfile::tempdir().expect("a folder");
        for (name, content) in [
            ("paper.docx", docx(&paragraphs)),
            ("paper.doc", old_word(&paragraphs)),
            ("paper.rtf", rich(&paragraphs)),
            ("slides.pptx", pptx(&paragraphs)),
            ("letter.msg", message(&paragraphs)),
        ] {
            let mut content = content;
            for (place, byte) in &places {
                let at = place.index(content.len());
                content[at] = *byte;
            }
            content.truncate(end.map_or(content.len(), |end| end.index(content.len())));
            let path = folder.path().join(name);
            std::fs::write(&path, content).expect("written");
            let (_, told) = given(&path);
            let is_clear = |why: &String| !why.is_empty() && !why.contains("fault of ours");
            prop_assert!(told.iter().all(is_clear), "{}: {:?}", name, told);
        }
    }
}

#[test]
fn older_and_protected_documents_are_told_from_others() {
    let folder = tempfile::tempdir().expect("a folder");
    let path = folder.path().join("paper.doc");
    let text = b"Terns \xc4nd gulls.\rA cell\x07b\x07\x07End\r";
    // Word 95: bytes of the Western code page between two places.
    let word = |flags: u16| {
        let mut stream = vec![0; 0x300];
        stream[..4].copy_from_slice(&[0xdc, 0xa5, 0x68, 0]);
        stream[10..12].copy_from_slice(&flags.to_le_bytes());
        stream[0x18..0x1c].copy_from_slice(&0x300u32.to_le_bytes());
        stream[0x1c..0x20].copy_from_slice(&(0x300 + text.len() as u32).to_le_bytes());
        stream[0x34..0x38].copy_from_slice(&(text.len() as u32).to_le_bytes());
        stream.extend(text);
        compound(&[("WordDocument", stream)])
    };
    std::fs::write(&path, word(0)).expect("written");
    assert_eq!(read(&path), ["Terns Änd gulls.", "A cell b", "End"]);
    for (content, why) in [
        (word(0x0100), "encrypted: it needs a password"),
        (word(0x0004), "saved in pieces"),
        (compound(&[("WordDocument", vec![0xec, 0xa5, 0xc1, 0])]), "damaged Word document"),
        (compound(&[("PowerPoint Document", vec![0])]), "an old presentation; save it as PPTX"),
        (compound(&[("EncryptedPackage", vec![0])]), "not read: it is an encrypted Office file"),
        (
            compound(&[("WordDocument", vec![0; 0x300]), ("EncryptedPackage", vec![0])]),
            "not read: it is an encrypted Office file",
        ),
    ] {
        std::fs::write(&path, content).expect("written");
        let (_, told) = given(&path);
        assert!(told.len() == 1 && told[0].contains(why), "{why}: {told:?}");
    }
}
