//! The same documents are the same, however they are written and packed.

use std::io::Write;
use std::path::Path;

use proptest::prelude::*;
use serde_json::{Value, json};
use yarrup_io::{Collection, FORMATS, FieldType, Header, Item, Pick, Source, SourceSpec};

/// A document of these tests.
#[derive(Clone, Debug, PartialEq)]
struct Card {
    id: String,
    text: String,
    site: String,
    rating: i64,
}

fn word() -> impl Strategy<Value = String> {
    // Letters of several scripts, and all signs that some format has a use for.
    "[a-zéß鳥И😀]{1,6}|[,;|<>&\"'\\\\{}\\[\\]#=%:]{1,3}|&amp;|\\]\\]>|<!--|0[0-9]"
}

/// Text of one or more lines, without white space at its ends, as all formats can hold.
fn text() -> impl Strategy<Value = String> {
    let line = proptest::collection::vec(word(), 1..6).prop_map(|words| words.join(" "));
    proptest::collection::vec(line, 1..4).prop_map(|lines| lines.join("\n"))
}

fn cards() -> impl Strategy<Value = Vec<Card>> {
    let card = (text(), word(), -5i64..1000);
    proptest::collection::vec(card, 2..12).prop_map(|cards| {
        let numbered = cards.into_iter().enumerate();
        numbered
            .map(|(number, (text, site, rating))| Card { id: format!("c-{number}"), text, site, rating })
            .collect()
    })
}

fn json_of(card: &Card) -> Value {
    json!({"id": card.id, "text": card.text, "site": card.site, "rating": card.rating})
}

fn json_lines(cards: &[Card]) -> Vec<u8> {
    cards.iter().map(|card| format!("{}\n", json_of(card))).collect::<String>().into_bytes()
}

fn table(cards: &[Card], separator: u8) -> Vec<u8> {
    let mut writer = csv::WriterBuilder::new().delimiter(separator).from_writer(Vec::new());
    writer.write_record(["id", "text", "site", "rating"]).expect("memory");
    for card in cards {
        writer.write_record([&card.id, &card.text, &card.site, &card.rating.to_string()]).expect("memory");
    }
    writer.into_inner().expect("memory")
}

fn escaped(text: &str) -> String {
    let text = text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;");
    text.replace('"', "&quot;").replace('\n', "&#10;")
}

/// The cards as rows whose fields are attributes.
fn attributes(cards: &[Card]) -> Vec<u8> {
    let rows = cards.iter().map(|Card { id, text, site, rating }| {
        format!("<row id='{id}' text=\"{}\" site=\"{}\" rating='{rating}'/>\n", escaped(text), escaped(site))
    });
    format!("<?xml version='1.0'?>\n<rows>\n{}</rows>\n", rows.collect::<String>()).into_bytes()
}

/// The cards as elements whose fields are elements, the text with and without sections that need no escapes.
fn elements(cards: &[Card]) -> Vec<u8> {
    let cards = cards.iter().enumerate().map(|(number, Card { id, text, site, rating })| {
        let text = match number % 2 {
            0 => escaped(text),
            _ => format!("<![CDATA[{}]]>", text.replace("]]>", "]]]]><![CDATA[>")),
        };
        format!(
            "<card>\n <id>{id}</id><text>{text}</text>\n <site>{}</site><rating>{rating}</rating></card>",
            escaped(site)
        )
    });
    format!("<cards>{}</cards>", cards.collect::<String>()).into_bytes()
}

/// Members of an archive, in this order.
fn package(parts: &[(&str, impl AsRef<[u8]>)]) -> Vec<u8> {
    let mut out = std::io::Cursor::new(Vec::new());
    let mut archive = zip::ZipWriter::new(&mut out);
    for (name, content) in parts {
        archive.start_file(*name, zip::write::SimpleFileOptions::default()).expect("a member");
        archive.write_all(content.as_ref()).expect("memory");
    }
    archive.finish().expect("an archive");
    out.into_inner()
}

/// The cards as a book of Office Open XML: texts in the cells, shared, and shared in stretches of different looks with a reading above.
fn office_book(cards: &[Card]) -> Vec<u8> {
    let (mut shared, mut count) = (String::new(), 0);
    let mut cell = |column: char, row: usize, text: &str| {
        let at = format!("{column}{row}");
        let whole = |text: &str| format!("<t xml:space=\"preserve\">{}</t>", escaped(text));
        let middle = text.floor_char_boundary(text.len() / 2);
        let string = match row % 3 {
            0 => return format!("<c r=\"{at}\" t=\"inlineStr\"><is>{}</is></c>", whole(text)),
            1 => whole(text),
            _ => format!(
                "<r>{}</r><r><rPr><b/></rPr>{}</r><rPh sb=\"0\" eb=\"1\"><t>reading</t></rPh>",
                whole(&text[..middle]),
                whole(&text[middle..])
            ),
        };
        shared.push_str(&format!("<si>{string}</si>"));
        count += 1;
        format!("<c r=\"{at}\" t=\"s\"><v>{}</v></c>", count - 1)
    };
    let mut rows = String::new();
    let heads =
        ["id", "text", "site", "rating"].iter().zip('A'..).map(|(name, column)| cell(column, 1, name));
    rows.push_str(&format!("<row r=\"1\">{}</row>", heads.collect::<String>()));
    for (Card { id, text, site, rating }, row) in cards.iter().zip(2..) {
        rows.push_str(&format!(
            "<row r=\"{row}\">{}{}{}<c r=\"D{row}\"><f>1+1</f><v>{rating}</v></c></row>",
            cell('A', row, id),
            cell('B', row, text),
            cell('C', row, site)
        ));
    }
    let main = "http://schemas.openxmlformats.org/spreadsheetml/2006/main";
    let relations = "http://schemas.openxmlformats.org/officeDocument/2006/relationships";
    package(&[
        ("[Content_Types].xml", "<Types/>".to_owned()),
        (
            "_rels/.rels",
            format!(
                "<Relationships xmlns=\"http://schemas.openxmlformats.org/package/2006/relationships\">\
                 <Relationship Id=\"r1\" Type=\"{relations}/officeDocument\" Target=\"xl/workbook.xml\"/></Relationships>"
            ),
        ),
        (
            "xl/_rels/workbook.xml.rels",
            format!(
                "<Relationships xmlns=\"http://schemas.openxmlformats.org/package/2006/relationships\">\
                 <Relationship Id=\"r1\" Type=\"{relations}/worksheet\" Target=\"worksheets/sheet1.xml\"/></Relationships>"
            ),
        ),
        (
            "xl/workbook.xml",
            format!(
                "<workbook xmlns=\"{main}\" xmlns:r=\"{relations}\"><sheets><sheet name=\"Notes\" sheetId=\"1\" r:id=\"r1\"/></sheets></workbook>"
            ),
        ),
        ("xl/sharedStrings.xml", format!("<sst xmlns=\"{main}\">{shared}</sst>")),
        (
            "xl/worksheets/sheet1.xml",
            format!("<worksheet xmlns=\"{main}\"><sheetData>{rows}</sheetData></worksheet>"),
        ),
    ])
}

/// The cards as a book of OpenDocument: a paragraph for each line of a cell, with remarks beside them.
fn open_book(cards: &[Card]) -> Vec<u8> {
    let cell = |text: &str| {
        let lines = text.split('\n').map(|line| format!("<text:p>{}</text:p>", escaped(line)));
        let remark = "<office:annotation><text:p>remark</text:p></office:annotation>";
        format!(
            "<table:table-cell office:value-type=\"string\">{remark}{}</table:table-cell>",
            lines.collect::<String>()
        )
    };
    let row = |cells: String| format!("<table:table-row>{cells}</table:table-row>");
    let heads = row(["id", "text", "site", "rating"].iter().map(|name| cell(name)).collect());
    let rows = cards.iter().map(|Card { id, text, site, rating }| {
        let number = format!(
            "<table:table-cell office:value-type=\"float\" office:value=\"{rating}\"><text:p>{rating}</text:p></table:table-cell>"
        );
        row([cell(id), cell(text), cell(site), number].concat())
    });
    let rows: String = rows.collect();
    let spaces = "xmlns:office=\"urn:oasis:names:tc:opendocument:xmlns:office:1.0\" \
                  xmlns:table=\"urn:oasis:names:tc:opendocument:xmlns:table:1.0\" \
                  xmlns:text=\"urn:oasis:names:tc:opendocument:xmlns:text:1.0\"";
    package(&[
        ("mimetype", "application/vnd.oasis.opendocument.spreadsheet".to_owned()),
        ("META-INF/manifest.xml", "<manifest:manifest/>".to_owned()),
        (
            "content.xml",
            format!(
                "<?xml version=\"1.0\"?><office:document-content {spaces}><office:body><office:spreadsheet>\
                 <table:table table:name=\"Notes\">{heads}{rows}</table:table></office:spreadsheet></office:body></office:document-content>"
            ),
        ),
    ])
}

fn gzip(content: &[u8]) -> Vec<u8> {
    let mut gzip = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::fast());
    gzip.write_all(content).expect("memory");
    gzip.finish().expect("memory")
}

fn zip(name: &str, content: &[u8]) -> Vec<u8> {
    package(&[(name, content)])
}

fn tar(name: &str, content: &[u8]) -> Vec<u8> {
    let mut archive = tar::Builder::new(Vec::new());
    let mut header = tar::Header::new_gnu();
    header.set_size(content.len() as u64);
    header.set_mode(0o644);
    header.set_cksum();
    archive.append_data(&mut header, name, content).expect("memory");
    archive.into_inner().expect("memory")
}

fn utf_16(content: &[u8]) -> Vec<u8> {
    let text = std::str::from_utf8(content).expect("text");
    [&b"\xff\xfe"[..], &text.encode_utf16().flat_map(u16::to_le_bytes).collect::<Vec<_>>()].concat()
}

fn at(path: &Path) -> SourceSpec {
    let mut source = SourceSpec::at(path.to_str().expect("a plain path"));
    source.selection.types =
        vec![("rating".to_owned(), FieldType::Whole), ("site".to_owned(), FieldType::Text)];
    source
}

/// The documents of a source, and how many records are none.
fn read(source: SourceSpec, pick: Pick) -> (Vec<Card>, u64) {
    let mut source = Source::open(&Collection { pick, ..Collection::of(source) }).expect("the file is there");
    let (mut cards, mut malformed) = (Vec::new(), 0);
    while let Some(batch) = source.next_batch() {
        let _ = batch.records(|item| {
            match item {
                Item::Document(record) => cards.push(Card {
                    id: record.id.to_string(),
                    text: record.text.to_string(),
                    site: record.value("site").unwrap_or_default().into_owned(),
                    rating: record.value("rating").and_then(|rating| rating.parse().ok()).unwrap_or(i64::MIN),
                }),
                Item::LeftOut => {}
                Item::Malformed(_) => malformed += 1,
            }
            Ok::<(), ()>(())
        });
    }
    (cards, malformed)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    #[test]
    fn documents_are_the_same_in_every_format(cards in cards()) {
        let folder = tempfile::tempdir().expect("a folder");
        let lines = json_lines(&cards);
        let array = Value::from(cards.iter().map(json_of).collect::<Vec<_>>());
        let inside = json!({"about": {"cards": [1]}, "data": {"cards": array}});
        let written: [(&str, Vec<u8>); 17] = [
            ("lines.jsonl", lines.clone()),
            ("array.json", array.to_string().into_bytes()),
            ("pretty.json", format!("{array:#}").into_bytes()),
            ("commas.csv", table(&cards, b',')),
            ("semicolons.csv", table(&cards, b';')),
            ("tabs.tsv", table(&cards, b'\t')),
            ("attributes.xml", attributes(&cards)),
            ("elements.xml", elements(&cards)),
            ("book.xlsx", office_book(&cards)),
            ("book.ods", open_book(&cards)),
            ("utf-16.jsonl", utf_16(&lines)),
            ("utf-16.xml", utf_16(&attributes(&cards))),
            ("packed.jsonl.gz", gzip(&lines)),
            ("archive.zip", zip("notes/lines.jsonl", &lines)),
            ("archive.tar", tar("notes/elements.xml", &elements(&cards))),
            ("archive.tar.gz", gzip(&tar("notes/commas.csv", &table(&cards, b',')))),
            ("inner.zip", zip("packed.jsonl.gz", &gzip(&lines))),
        ];
        for (name, content) in written {
            let path = folder.path().join(name);
            std::fs::write(&path, content).expect("written");
            let mut source = at(&path);
            // What separates the cells of so little text may be any sign in it.
            source.options.separator = match name {
                "semicolons.csv" => Some(b';'),
                "tabs.tsv" => Some(b'\t'),
                _ if name.ends_with(".csv") || name.ends_with("tar.gz") => Some(b','),
                _ => None,
            };
            source.options.header = Some(Header::First);
            prop_assert_eq!(&read(source, Pick::All), &(cards.clone(), 0), "{}", name);
        }
        let path = folder.path().join("inside.json");
        std::fs::write(&path, inside.to_string()).expect("written");
        let mut source = at(&path);
        source.options.records = Some("data.cards".to_owned());
        prop_assert_eq!(read(source, Pick::All), (cards.clone(), 0));
        // By the names of the elements, from any depth.
        let path = folder.path().join("elements.xml");
        for records in ["card", "cards.card"] {
            let mut source = at(&path);
            source.options.records = Some(records.to_owned());
            prop_assert_eq!(&read(source, Pick::All), &(cards.clone(), 0), "{}", records);
        }
    }

    #[test]
    fn what_is_cut_off_loses_its_end_alone(cards in cards(), share in 0.0f64..1.0, sort in 0usize..4) {
        let folder = tempfile::tempdir().expect("a folder");
        let (name, whole) = match sort {
            0 => ("cut.jsonl", json_lines(&cards)),
            1 => ("cut.json", format!("{:#}", Value::from(cards.iter().map(json_of).collect::<Vec<_>>())).into_bytes()),
            2 => ("cut.xml", attributes(&cards)),
            _ => ("cut.xml", elements(&cards)),
        };
        let path = folder.path().join(name);
        std::fs::write(&path, &whole[..(whole.len() as f64 * share) as usize]).expect("written");
        let mut source = at(&path);
        source.options.format = FORMATS.named(name.rsplit('.').next().expect("an ending"));
        source.options.records = (name == "cut.xml").then(|| if sort == 2 { "row" } else { "card" }.to_owned());
        let (given, malformed) = read(source, Pick::All);
        prop_assert_eq!(&given[..], &cards[..given.len()]);
        // One record at most is broken, and the file is told once.
        prop_assert!(malformed <= 2, "{} malformed", malformed);
        prop_assert!(given.len() < cards.len() || share > 0.9);
    }
}
