//! Formats are told by content, and every record is accounted for.

use std::io::Write;
use std::path::Path;

use proptest::prelude::*;
use yarrup_io::{Collection, Condition, Item, Pick, Source, SourceSpec};

/// What a source gave: documents with their ids, those left out, those that are none; and its formats.
#[derive(Debug, Default, PartialEq)]
struct Given {
    ids: Vec<String>,
    left_out: u64,
    malformed: u64,
    formats: Vec<&'static str>,
}

fn read(source: SourceSpec, pick: Pick) -> Given {
    let mut source = Source::open(&Collection { pick, ..Collection::of(source) }).expect("the file is there");
    let mut given = Given::default();
    while let Some(batch) = source.next_batch() {
        let _ = batch.records(|item| {
            match item {
                Item::Document(record) => given.ids.push(record.id.to_string()),
                Item::LeftOut => given.left_out += 1,
                Item::Malformed(_) => given.malformed += 1,
            }
            Ok::<(), ()>(())
        });
    }
    given.formats = source.read_files().iter().map(|file| file.format.name()).collect();
    given
}

fn at(path: &Path) -> SourceSpec {
    let mut source = SourceSpec::at(path.to_str().expect("a plain path"));
    source.options.propose = true;
    source
}

#[test]
fn formats_are_told_by_content_whatever_the_name() {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo");
    let folder = tempfile::tempdir().expect("a folder");
    for (name, format, documents) in [
        ("handbook.epub", "epub", 12),
        ("season-summary.pdf", "pdf", 6),
        ("nest-boxes.xlsx", "spreadsheet", 48),
        ("warden-mail.mbox", "mail", 16),
        ("field-notes.jsonl", "jsonl", 67),
        ("night-posts.json", "json", 22),
        ("notice-board/notices-de.html", "html", 1),
        ("reports-2030.zip", "zip", 10),
        ("visitor-cards-2030.csv", "csv", 38),
    ] {
        let content = std::fs::read(demo.join(name)).expect("a file of the demo");
        for disguise in ["nameless", "notes.txt", "table.csv", "page.html", "data.db"] {
            // Text is what its name says: a table may be called a text, and is one then.
            if format == "csv" && disguise != "nameless" {
                continue;
            }
            let path = folder.path().join(disguise);
            std::fs::write(&path, &content).expect("written");
            let given = read(at(&path), Pick::All);
            assert_eq!(given.formats.last(), Some(&format), "{name} as {disguise}");
            assert_eq!((given.ids.len(), given.malformed), (documents, 0), "{name} as {disguise}");
        }
    }
}

#[test]
fn text_stays_text_though_it_looks_like_more() {
    let folder = tempfile::tempdir().expect("a folder");
    for (name, content) in [
        ("braces.txt", "{ this is no object }\nand goes on\n"),
        ("brackets.txt", "[1] The first footnote.\n[2] The second.\n"),
        ("commas.txt", "one, two, three\nfour, five, six\nseven, eight, nine\n"),
        ("colons.txt", "Site: Gull Hide\nSeason: spring\n\nA note.\n"),
        ("from.txt", "From the hide, we saw nothing.\nTo: nobody\n"),
        ("nameless", "A note without a name, of one line"),
        ("less.txt", "<3 terns, they said, and html> is a word\n"),
    ] {
        let path = folder.path().join(name);
        std::fs::write(&path, content).expect("written");
        let given = read(at(&path), Pick::All);
        assert_eq!((given.formats, given.ids.len()), (vec!["text"], 1), "{name}");
    }
}

/// A line of a file: a document, one that the condition leaves out, one without a text, one that is broken, or a blank one.
fn line() -> impl Strategy<Value = (String, char)> {
    prop_oneof![
        4 => "[a-zé ]{0,30}".prop_map(|text| (format!("{{\"text\":\"{text}\",\"n\":1}}"), 'd')),
        2 => Just(("{\"n\":2,\"text\":\"x\"}".to_owned(), 'l')),
        1 => Just(("{\"n\":1,\"body\":\"x\"}".to_owned(), 'm')),
        1 => "[a-z{}\\[]{1,9}".prop_map(|junk| (format!("!{junk}"), 'm')),
        1 => Just((String::new(), 'b')),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    #[test]
    fn every_record_is_a_document_or_left_out_or_told(
        lines in proptest::collection::vec(line(), 0..200),
        packed: bool,
        first in 0u64..100,
        seed: u64,
    ) {
        let folder = tempfile::tempdir().expect("a folder");
        let mut content: String = lines.iter().map(|(line, _)| format!("{line}\n")).collect();
        // Told by its first line, which must be an object.
        content.insert_str(0, "{\"text\":\"first\",\"n\":1}\n");
        let path = folder.path().join(if packed { "notes.jsonl.gz" } else { "notes.jsonl" });
        if packed {
            let file = std::fs::File::create(&path).expect("a file");
            let mut gzip = flate2::write::GzEncoder::new(file, flate2::Compression::fast());
            gzip.write_all(content.as_bytes()).expect("written");
            gzip.finish().expect("written");
        } else {
            std::fs::write(&path, &content).expect("written");
        }
        let mut source = SourceSpec::at(path.to_str().expect("a plain path"));
        source.selection.conditions = vec![Condition::read("n != 2").expect("a condition")];
        let count = |sort: char| lines.iter().filter(|(_, known)| *known == sort).count() as u64;
        let all = read(source.clone(), Pick::All);
        prop_assert_eq!(all.ids.len() as u64, count('d') + 1);
        prop_assert_eq!((all.left_out, all.malformed), (count('l'), count('m')));
        // The first ones are the first of all; a sample is some of all, in their order.
        let some = read(source.clone(), Pick::First(first));
        prop_assert_eq!(&some.ids[..], &all.ids[..all.ids.len().min(first as usize)]);
        let sample = read(source.clone(), Pick::Sample { documents: first, seed });
        prop_assert_eq!(sample.ids.len(), all.ids.len().min(first as usize));
        let mut rest = all.ids.iter();
        prop_assert!(sample.ids.iter().all(|id| rest.any(|known| known == id)));
        prop_assert_eq!((sample.left_out, sample.malformed), (all.left_out, all.malformed));
        prop_assert_eq!(read(source, Pick::Sample { documents: first, seed }), sample);
    }
}
