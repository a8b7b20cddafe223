//! One hostile file costs one file: those that are made to break, to fill or to stop a machine, among good ones.

use std::io::Write as _;

use flate2::Compression;
use flate2::write::ZlibEncoder;

use crate::home::Home;
use crate::pdf::{pdf, stream};

/// A PDF of one page with this content, and what the page draws.
fn page(content: Vec<u8>, drawn: Vec<Vec<u8>>) -> Vec<u8> {
    let mut objects = vec![
        b"<</Type/Catalog/Pages 2 0 R>>".to_vec(),
        b"<</Type/Pages/Kids[3 0 R]/Count 1>>".to_vec(),
        b"<</Type/Page/Parent 2 0 R/MediaBox[0 0 200 200]/Contents 4 0 R/Resources<</XObject<</X 5 0 R>>>>>>"
            .to_vec(),
        content,
    ];
    objects.extend(drawn);
    pdf(&objects)
}

/// A picture that draws the one with this number, as often as is said.
fn form(draws: usize, content: &[u8]) -> Vec<u8> {
    let entries = format!("/Type/XObject/Subtype/Form/BBox[0 0 9 9]/Resources<</XObject<</X {draws} 0 R>>>>");
    stream(&entries, content)
}

fn packed(content: impl Iterator<Item = Vec<u8>>) -> Vec<u8> {
    let mut encoder = ZlibEncoder::new(Vec::new(), Compression::best());
    for piece in content {
        encoder.write_all(&piece).expect("memory");
    }
    encoder.finish().expect("packed")
}

fn package(parts: &[(&str, &[u8])]) -> Vec<u8> {
    let mut bytes = std::io::Cursor::new(Vec::new());
    let mut archive = zip::ZipWriter::new(&mut bytes);
    let options = zip::write::SimpleFileOptions::default().compression_level(Some(9));
    for (name, content) in parts {
        archive.start_file(*name, options).expect("a member");
        archive.write_all(content).expect("memory");
    }
    archive.finish().expect("an archive");
    bytes.into_inner()
}

fn docx(body: &str) -> Vec<u8> {
    let document = format!(
        "<w:document xmlns:w=\"http://schemas.openxmlformats.org/wordprocessingml/2006/main\"><w:body>{body}</w:body></w:document>"
    );
    package(&[("[Content_Types].xml", b"<Types/>"), ("word/document.xml", document.as_bytes())])
}

fn epub(chapters: usize, body: &str) -> Vec<u8> {
    let container = b"<container><rootfiles><rootfile full-path=\"c.opf\"/></rootfiles></container>";
    let item = "<item id=\"a\" href=\"a.xhtml\" media-type=\"application/xhtml+xml\"/>";
    let spine = "<itemref idref=\"a\"/>".repeat(chapters);
    let opf = format!("<package><manifest>{item}</manifest><spine>{spine}</spine></package>");
    package(&[
        ("mimetype", b"application/epub+zip"),
        ("META-INF/container.xml", container),
        ("c.opf", opf.as_bytes()),
        ("a.xhtml", body.as_bytes()),
    ])
}

fn database(home: &Home, name: &str, view: &str) {
    let database = rusqlite::Connection::open(home.path(name)).expect("a database");
    database.execute(&format!("CREATE VIEW v AS {view}"), []).expect("a view");
}

#[test]
fn each_hostile_file_is_one_row_and_the_others_are_read() {
    let double = (0..40).map(|number| form(6 + number, b"/X Do /X Do")).chain([form(1, b" ")]).collect();
    let spaces = packed((0..256).map(|_| vec![b' '; 4 << 20]));
    let folded = packed(std::iter::once(spaces));
    let filters = "/Filter[/FlateDecode/FlateDecode]";
    let home = Home::with_recipe()
        .file("pile/self.pdf", page(stream("", b"/X Do"), vec![form(5, b"/X Do")]))
        .file("pile/double.pdf", page(stream("", b"/X Do"), double))
        .file("pile/bomb.pdf", page(stream(filters, &folded), vec![form(1, b" ")]))
        .file(
            "pile/round.pdf",
            pdf(&[
                b"<</Type/Catalog/Pages 2 0 R>>".to_vec(),
                b"<</Type/Pages/Kids[2 0 R]/Count 1>>".to_vec(),
            ]),
        )
        .file(
            "pile/bomb.docx",
            docx(&format!("<w:p><w:r><w:t>{}</w:t></w:r></w:p>", "tern ".repeat(44 << 20))),
        )
        .file(
            "pile/many.epub",
            epub(50_000, &format!("<html><body><p>{}</p></body></html>", "tern ".repeat(9))),
        );
    for number in 0..20 {
        std::fs::write(home.path(&format!("pile/good-{number:02}.txt")), "The terns are nesting\n")
            .expect("written");
    }
    std::fs::copy(
        concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/handbook.epub"),
        home.path("pile/good.epub"),
    )
    .expect("copied");
    let counts = "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT";
    database(&home, "pile/endless.sqlite", &format!("{counts} count(*) AS text FROM n"));
    let grows = "WITH RECURSIVE n(i, t) AS (SELECT 1, 'tern' UNION ALL SELECT i + 1, t || t FROM n) SELECT";
    database(&home, "pile/growing.sqlite", &format!("{grows} max(length(t)) AS text FROM n"));
    let limits = "--file-seconds 4 --file-memory 300MB";
    let said = home.yarrup(&format!("run recipe.toml pile --out run {limits}"));
    assert_eq!(said.code, Some(0), "{said:?}");
    let rows = home.rows("run/skipped.csv");
    let why = |name: &str| {
        let mut of_it = rows.iter().filter(|row| row[0] == name);
        let row = of_it.next().unwrap_or_else(|| panic!("{name} in {rows:?}"));
        assert!(of_it.next().is_none(), "{name} in {rows:?}");
        row[1].clone()
    };
    for (name, told) in [
        ("self.pdf", "its parts lie in one another without end"),
        ("double.pdf", "it takes more than 4 s of processor time"),
        ("round.pdf", "it has no pages"),
        ("bomb.docx", "unpacks to more than 200 times its size"),
        ("endless.sqlite", "it takes more than 4 s of processor time"),
        ("growing.sqlite", ""),
    ] {
        assert!(why(name).contains(told), "{name}: {}", why(name));
    }
    // What is slower here than elsewhere may come to the other limit first.
    let bomb = why("bomb.pdf");
    assert!(bomb.contains("more than 300 MB of memory") || bomb.contains("processor time"), "{bomb}");
    let documents = home.read("run/documents.jsonl");
    assert_eq!(documents.matches("good-").count(), 20);
    assert!(documents.contains("good.epub:1") && documents.contains("many.epub:1"));
    assert!(!documents.contains("many.epub:2"), "a chapter stands in a book once");
}

#[test]
fn good_files_are_read_apart_as_they_are_read_here() {
    let home = Home::with_recipe();
    let demo = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo");
    for name in ["handbook.epub", "nest-boxes.xlsx", "season-summary.pdf"] {
        std::fs::copy(format!("{demo}/{name}"), home.path(name))
            .unwrap_or_else(|why| panic!("{name}: {why}"));
    }
    database(&home, "cards.sqlite", "SELECT 1 AS id, 'The terns are nesting' AS text, NULL AS site");
    let sources = "handbook.epub nest-boxes.xlsx season-summary.pdf cards.sqlite --text text --text remark";
    home.done(&format!("run recipe.toml {sources} --out apart"));
    home.done(&format!("run recipe.toml {sources} --out here --trust-files"));
    for name in ["documents.jsonl", "vocabulary.csv", "account.bin"] {
        let read = |run: &str| std::fs::read(home.path(&format!("{run}/{name}"))).expect("a file");
        assert!(read("apart") == read("here"), "{name} differs");
    }
    // In an archive as well, and by several threads.
    let parts: Vec<(&str, Vec<u8>)> = ["handbook.epub", "season-summary.pdf"]
        .map(|name| (name, std::fs::read(home.path(name)).expect("a file")))
        .into();
    let archive = package(&parts.iter().map(|(name, bytes)| (*name, bytes.as_slice())).collect::<Vec<_>>());
    let home = home.file("all.zip", archive);
    let inside = home.documents("all.zip --threads 4");
    assert_eq!(inside, home.documents("all.zip --threads 1 --trust-files"));
    assert!(inside.len() > 5);
}
