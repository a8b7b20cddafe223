//! Every format, as people's programs write it.

use std::io::Write;

use serde_json::{Value, json};

use crate::home::Home;

const DEMO: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo");

/// A demo file in a fresh folder.
fn demo(name: &str) -> Home {
    let content = std::fs::read(format!("{DEMO}/{name}")).expect("a file of the demo");
    Home::new().file(name, content)
}

fn texts(documents: &[Value]) -> Vec<&str> {
    documents.iter().map(|document| document["text"].as_str().expect("a text")).collect()
}

/// A zip archive of these members.
fn zip(members: &[(&str, &[u8])]) -> Vec<u8> {
    let mut out = std::io::Cursor::new(Vec::new());
    let mut archive = zip::ZipWriter::new(&mut out);
    for (name, content) in members {
        archive.start_file(*name, zip::write::SimpleFileOptions::default()).expect("a member");
        archive.write_all(content).expect("memory");
    }
    archive.finish().expect("an archive");
    out.into_inner()
}

#[test]
fn json_comes_as_lines_arrays_and_inside_an_object() {
    let home = Home::new()
        .file(
            "array.json",
            "[\n {\"id\": 1, \"text\": [\"one\", \"two\"]},\n {\"id\": 2, \"text\": \"three\"}\n]\n",
        )
        .file(
            "pretty.json",
            "{\n  \"id\": \"a\",\n  \"text\": \"one\"\n}\n{\n  \"id\": \"b\", \"text\": \"two\"\n}",
        )
        .file(
            "inside.json",
            "{\"meta\": {\"n\": 2},\n \"data\": {\"posts\": [{\"text\": \"x\"}, {\"text\": \"y\"}]}}",
        )
        .file("compact.json", "{\"data\":{\"posts\":[{\"text\":\"x\"},{\"text\":\"y\"}]}}")
        .file(
            "pages.jsonl",
            "{\"posts\":[{\"text\":\"a\"}]}\n{\"posts\":[]}\n\n{\"none\":1}\n{\"posts\":[{\"text\":\"b\"},{\"text\":\"c\"}]}\n",
        )
        .file("nested.jsonl", "{\"m\":[{\"t\":\"a\",\"by\":\"Bo\"},{\"t\":\"b\"}]}\n");
    assert_eq!(texts(&home.documents("array.json")), ["one\ntwo", "three"]);
    assert_eq!(texts(&home.documents("pretty.json")), ["one", "two"]);
    assert_eq!(texts(&home.documents("inside.json --records data.posts")), ["x", "y"]);
    // On one line, as programs write it, and page by page.
    assert_eq!(texts(&home.documents("compact.json --records data.posts")), ["x", "y"]);
    let pages = home.documents("pages.jsonl --records posts");
    assert_eq!(texts(&pages), ["a", "b", "c"]);
    assert_eq!(pages[2]["id"], "pages.jsonl:3");
    assert!(home.read("as-found/skipped.csv").contains("pages.jsonl:4,nothing at `posts`; there are `none`"));
    std::fs::write(
        home.path("broken.json"),
        b"{\"posts\":[{\"text\":\"caf\xc3\xa9 \xc3\xa0 \xff\"},{\"text\":\"b\"}]}",
    )
    .expect("written");
    assert_eq!(texts(&home.documents("broken.json --records posts")), ["café à \u{fffd}", "b"]);
    assert!(home.read("as-found/run.json").contains("\"broken_bytes\": 1"));
    assert_eq!(texts(&home.documents("nested.jsonl --text m.t")), ["a\nb"]);
    let err = home.refused("run as-found.toml inside.json --records data.notes --out run");
    assert!(err.contains("nothing at `data.notes`; there are `meta.n`, `data.posts.text`"), "{err}");
}

#[test]
fn tables_are_told_by_their_rows_and_typed() {
    let latin = encoding_rs::WINDOWS_1252
        .encode("id;text;n\n1;Vögel über der Bucht;2\n2;Möwen, Küken;007\n")
        .0
        .into_owned();
    let wide: Vec<u8> = "\u{feff}id\ttext\n1\tVögel\n".encode_utf16().flat_map(u16::to_le_bytes).collect();
    let home = Home::new()
        .file("latin.csv", latin)
        .file("wide.csv", wide)
        .file("bare.csv", "1,tern\n2,gull\n")
        .file("bars.txt", "id|text\n1|a,b\n")
        .file("typed.csv", "text,n,x,ok,day,code\na,5,1.5,TRUE,2031-05-04,007\nb,,2,false,2031-05-05,12\n");
    assert_eq!(texts(&home.documents("latin.csv")), ["Vögel über der Bucht", "Möwen, Küken"]);
    assert_eq!(home.documents("latin.csv")[1]["n"], "007");
    assert_eq!(texts(&home.documents("wide.csv")), ["Vögel"]);
    assert_eq!(texts(&home.documents("bare.csv --text column_2")), ["tern", "gull"]);
    assert_eq!(texts(&home.documents("bare.csv --header true --text tern")), ["gull"]);
    assert_eq!(texts(&home.documents("bars.txt --as csv")), ["a,b"]);
    let typed = home.documents("typed.csv --types n=text");
    assert_eq!(
        typed[0],
        json!({"id": "typed.csv:2", "n": "5", "x": 1.5, "ok": true, "day": "2031-05-04", "code": "007",
        "text": "a", "clean": "a", "tokens_before": 1, "tokens_after": 1})
    );
    assert_eq!(home.documents("typed.csv")[1]["n"], Value::Null);
}

#[test]
fn plain_text_is_cut_as_asked() {
    let home = Home::new()
        .file("book.txt", "Before all\n\nCHAPTER I\n\nIt was dark.\n\nCHAPTER II\n\nIt was\nlight.\n")
        .file("log.txt", "== one\nfirst\n== two\nsecond\n")
        .file("broken.txt", "the consid-\nerations of terns");
    assert_eq!(home.documents("book.txt").len(), 1);
    assert_eq!(home.documents("book.txt --each paragraph").len(), 5);
    let sections = home.documents("book.txt --each section");
    assert_eq!(sections[2]["title"], "CHAPTER II");
    assert_eq!(sections[2]["text"], "CHAPTER II\n\nIt was\nlight.");
    assert_eq!(sections[0]["id"], "book.txt:1");
    assert_eq!(
        texts(&home.documents_with("log.txt", &["--heading", "^== "])),
        ["== one\nfirst", "== two\nsecond"]
    );
    assert_eq!(texts(&home.documents("broken.txt --rejoin")), ["the considerations\nof terns"]);
    let err = home.refused("run as-found.toml book.txt --each page --out run");
    assert!(
        err.contains("documents of `text` are by file or line or paragraph or section, not by page"),
        "{err}"
    );
}

#[test]
fn a_book_is_its_chapters_without_cover_and_contents() {
    let home = demo("handbook.epub");
    let chapters = home.documents("handbook.epub");
    assert_eq!(chapters.len(), 12);
    assert_eq!(chapters[3]["title"], "Terns");
    assert_eq!(chapters[3]["chapter"], 4);
    assert_eq!(chapters[3]["author"], "The wardens of Saltmere");
    assert!(
        chapters[3]["text"].as_str().is_some_and(|text| text.starts_with("Terns\n\nThe little tern weighs"))
    );
    assert_eq!(home.documents("handbook.epub --each file").len(), 1);
}

#[test]
fn menus_of_web_pages_are_left_out_where_that_is_asked_for() {
    let page = |own: &str| {
        format!(
            "<html lang=en><title>Terns</title><nav>Home<ul><li>Gulls<li>Terns</ul></nav>\
             <main><h1>Terns</h1><p>{own}</main><footer>The wardens of Saltmere</footer>"
        )
    };
    let home = Home::new()
        .file("pages/a.html", page("They dive."))
        .file("pages/b.html", page("They fish."))
        .file("pages/c.html", page("They nest."))
        .file("pages.toml", "[[source]]\npath = \"pages\"\nwithout_menus = true\n");
    let whole = home.documents("pages");
    assert!(whole.iter().all(|page| page.get("menus").is_none()), "{whole:?}");
    assert_eq!(whole[0]["text"], "Home\n\nGulls\nTerns\n\nTerns\n\nThey dive.\n\nThe wardens of Saltmere");
    for sources in ["pages --without-menus", "pages.toml"] {
        let pages = home.documents(sources);
        assert_eq!(pages[1]["text"], "Terns\n\nThey fish.", "{sources}");
        assert_eq!(pages[1]["menus"], "Home\n\nGulls\nTerns\n\nThe wardens of Saltmere", "{sources}");
    }
    // What is left out is a field as any other.
    let both = home.documents("pages --without-menus --text text --text menus");
    assert_eq!(both[2]["text"], "Terns\n\nThey nest.\n\nHome\n\nGulls\nTerns\n\nThe wardens of Saltmere");
    let look = home.done("look pages");
    assert!(look.contains("look pages --without-menus\n"), "{look}");
    let look = home.done("look pages --without-menus");
    assert!(look.contains("run RECIPE pages --without-menus\n"), "{look}");
    assert!(!look.contains("have the line"), "{look}");
}

/// Browsers print ligatures as signs of their own and give the widths of characters in ranges.
#[test]
fn a_page_that_a_browser_has_printed_reads_as_it_looks() {
    let home = Home::new().file("browser.pdf", include_bytes!("files/browser.pdf"));
    let pages = home.documents("browser.pdf");
    let text = pages[0]["text"].as_str().expect("a text");
    assert!(
        text.starts_with(
            "The official warden first found five flat fluffy fledglings; efficient staff offered coffee on\n11/28/2031 at 10:15."
        ),
        "{text}"
    );
    assert!(text.contains("11/28/26, 11:16 PM Field office findings"), "{text}");
    assert_eq!(pages[0]["title"], "Field office findings");
}

#[test]
fn a_pdf_is_its_pages_and_broken_words_are_rejoined() {
    let home = demo("season-summary.pdf");
    let pages = home.documents("season-summary.pdf");
    assert_eq!(pages.len(), 6);
    assert_eq!(
        (&pages[1]["page"], &pages[1]["pages"], &pages[1]["title"]),
        (&json!(2), &json!(6), &json!("Season summary 2031"))
    );
    let has = |page: &Value, part: &str| page["text"].as_str().is_some_and(|text| text.contains(part));
    assert!(has(&pages[1], "elec-") && !has(&pages[1], "electric"));
    let rejoined = home.documents("season-summary.pdf --rejoin");
    assert!(has(&rejoined[1], "electric") && has(&rejoined[1], "oystercatchers"), "{}", rejoined[1]["text"]);
    assert_eq!(home.documents("season-summary.pdf --each file").len(), 1);
}

#[test]
fn a_spreadsheet_is_its_rows_or_its_cells() {
    let xls = include_bytes!("files/remarks.xls");
    let home = demo("nest-boxes.xlsx").file("old.xls", xls);
    let rows = home.documents("nest-boxes.xlsx --text remark --title found");
    assert_eq!(rows.len(), 48);
    assert_eq!(rows[0]["id"], "nest-boxes.xlsx:2031:2");
    assert_eq!(
        (&rows[0]["visited"], &rows[0]["eggs"], &rows[0]["title"]),
        (&json!("2031-05-02"), &json!(9), &json!("great tit"))
    );
    assert_eq!(home.documents("nest-boxes.xlsx --text remark --sheet Nistkästen").len(), 12);
    let cells = home.documents("nest-boxes.xlsx --column remark");
    assert_eq!((cells.len(), &cells[0]["column"]), (48, &json!("remark")));
    let err = home.refused("run as-found.toml nest-boxes.xlsx --sheet 2030 --out run");
    assert!(err.contains("no sheet `2030`; there are `2031`, `Nistkästen`"), "{err}");
    let old = home.documents("old.xls --text remark");
    assert_eq!((&old[0]["text"], &old[0]["seen"]), (&json!("Blaumeise, neun Eier"), &json!("2031-05-04")));
}

/// The rows of a sheet, each a row of cells as they stand in the file.
fn sheet(rows: &[&[&str]]) -> String {
    let rows = rows.iter().zip(1..).map(|(cells, row)| {
        let cells = cells.iter().zip('A'..).map(|(cell, column)| match cell.strip_prefix('"') {
            Some(text) => format!("<c r=\"{column}{row}\" t=\"inlineStr\"><is><t>{text}</t></is></c>"),
            None => format!("<c r=\"{column}{row}\">{cell}</c>"),
        });
        format!("<row r=\"{row}\">{}</row>", cells.collect::<String>())
    });
    let names = "http://schemas.openxmlformats.org/spreadsheetml/2006/main";
    format!("<worksheet xmlns=\"{names}\"><sheetData>{}</sheetData></worksheet>", rows.collect::<String>())
}

/// The book of the demo with another first sheet, which is called 2031.
fn book_with(sheet: &str) -> Vec<u8> {
    let demo = std::fs::read(format!("{DEMO}/nest-boxes.xlsx")).expect("the demo");
    let mut archive = zip::ZipArchive::new(std::io::Cursor::new(demo)).expect("an archive");
    let mut members: Vec<(String, Vec<u8>)> = Vec::new();
    for index in 0..archive.len() {
        let mut member = archive.by_index(index).expect("a member");
        let mut bytes = Vec::new();
        std::io::Read::read_to_end(&mut member, &mut bytes).expect("readable");
        let name = member.name().expect("a name").into_owned();
        let bytes = if name.ends_with("sheet1.xml") { sheet.as_bytes().to_vec() } else { bytes };
        members.push((name, bytes));
    }
    let members: Vec<(&str, &[u8])> =
        members.iter().map(|(name, bytes)| (name.as_str(), bytes.as_slice())).collect();
    zip(&members)
}

#[test]
fn titles_above_a_table_are_not_its_columns() {
    let rows: [&[&str]; 6] = [
        &["\"Comment cards of the spring"],
        &["\"made by Ines"],
        &["\"id", "\"text", "\"site"],
        &["<v>1</v>", "\"Two terns", "\"North Spit"],
        &["<v>2</v>", "\"A gull", "\"Lagoon"],
        &["<v>3</v>", "\"No birds", "\"Lagoon"],
    ];
    let separated = "Comment cards of the spring\n\nid;text;site\n1;Two terns, here;North Spit\n2;A gull;Lagoon\n3;No birds;Lagoon\n";
    let padded = "Comment cards of the spring,,\nid,text,site\n1,Two terns,North Spit\n2,A gull,Lagoon\n3,No birds,Lagoon\n";
    let home = Home::with_recipe()
        .file("cards.xlsx", book_with(&sheet(&rows)))
        .file("cards.csv", separated)
        .file("padded.csv", padded)
        .file("cards.toml", "[[source]]\npath = \"cards.xlsx\"\nsheet = \"2031\"\nheader = 3\n");
    for source in ["cards.xlsx --sheet 2031", "cards.csv", "padded.csv"] {
        let cards = home.documents(source);
        assert_eq!(cards.len(), 3, "{source}");
        assert_eq!(
            (&cards[2]["text"], &cards[2]["site"]),
            (&json!("No birds"), &json!("Lagoon")),
            "{source}"
        );
        let said = home.yarrup(&format!("run recipe.toml {source} --out run --replace"));
        assert!(said.err.contains("above the names of the columns"), "{source}: {said:?}");
    }
    let said = home.yarrup("run recipe.toml cards.xlsx --sheet 2031 --out run --replace");
    assert!(said.err.contains("cards.xlsx: sheet `2031`: the first 2 rows stand above"), "{said:?}");
    // Who says which row it is, is not told.
    for source in ["cards.xlsx --sheet 2031 --header 3", "cards.csv --header 2", "cards.toml"] {
        let said = home.yarrup(&format!("run recipe.toml {source} --out run --replace"));
        assert!(said.code == Some(0) && !said.err.contains("above"), "{source}: {said:?}");
        assert_eq!(home.documents(source).len(), 3, "{source}");
    }
    assert_eq!(
        texts(&home.documents_with("cards.csv --header 3", &["--text", "Two terns, here"])),
        ["A gull", "No birds"]
    );
    let as_told = home
        .documents_with("cards.xlsx --sheet 2031 --header true", &["--text", "Comment cards of the spring"]);
    assert_eq!(as_told[0]["text"], "made by Ines");
    for (source, told) in [
        ("cards.csv --header 9", "cards.csv: the table has no row 9"),
        ("cards.xlsx --sheet 2031 --header 9", "passed over cards.xlsx:2031 (it has no row 9)"),
        ("cards.csv --header none", "`none` is neither `true` nor `false` nor the number of a row, from 1"),
        ("cards.csv --header 0", "`0` is neither"),
    ] {
        let err = home.refused(&format!("run recipe.toml {source} --out refused"));
        assert!(err.contains(told), "{source}: {err}");
    }
}

#[test]
fn tables_without_a_title_begin_at_their_first_row() {
    let texts_alone = "text\nonly, one column\nof texts, with commas\nand others, too\n";
    let lists: [&[&str]; 5] = [&["\"text"], &["\"tern"], &["\"gull", "\"new"], &["\"wader"], &["\"owl"]];
    let unnamed: [&[&str]; 4] =
        [&["\"text"], &["\"tern", "<v>1</v>"], &["\"gull", "<v>2</v>"], &["\"owl", "<v>3</v>"]];
    let home = Home::with_recipe()
        .file("list.xlsx", book_with(&sheet(&lists)))
        .file("unnamed.xlsx", book_with(&sheet(&unnamed)))
        .file("texts.csv", texts_alone);
    assert_eq!(texts(&home.documents("list.xlsx --sheet 2031")), ["tern", "gull", "wader", "owl"]);
    assert_eq!(texts(&home.documents("unnamed.xlsx --sheet 2031")), ["tern", "gull", "owl"]);
    // What has too many cells is told as before, each with its line.
    let err = home.refused("run recipe.toml texts.csv --out run");
    assert!(err.contains("texts.csv:2: the row has 2 cells, the header has 1 cell"), "{err}");
}

#[test]
fn formulas_without_results_are_told() {
    let rows: [&[&str]; 3] =
        [&["\"text", "\"sum"], &["\"tern", "<f>1+1</f>"], &["\"gull", "<f>1+2</f><v>3</v>"]];
    let home = Home::with_recipe().file("sums.xlsx", book_with(&sheet(&rows)));
    let said = home.yarrup("run recipe.toml sums.xlsx --sheet 2031 --out run");
    assert!(said.err.contains("sums.xlsx:2031: 1 cell holds formulas without their results"), "{said:?}");
    let documents = home.documents("sums.xlsx --sheet 2031");
    assert_eq!((&documents[0]["sum"], &documents[1]["sum"]), (&Value::Null, &json!(3)));
}

#[test]
fn sheets_that_give_no_document_say_why() {
    let home = Home::with_recipe()
        .file("names.xlsx", book_with(&sheet(&[&["\"tern", "\"gull"]])))
        .file("counts.xlsx", book_with(&sheet(&[&["\"tern"], &["<v>3</v>"], &["<v>4</v>"]])));
    for (command, told) in [
        (
            "names.xlsx",
            "passed over names.xlsx:2031 (its only row names the columns; `--header false` reads it as a document)",
        ),
        ("counts.xlsx --each cell", "passed over counts.xlsx:2031 (no cell holds text)"),
    ] {
        let err = home.refused(&format!("run recipe.toml {command} --sheet 2031 --out run"));
        assert!(err.contains(&format!("the sources hold no document; {told}")), "{command}: {err}");
    }
    let err = home.refused("run recipe.toml names.xlsx --header false --text column_1,column_2 --out run");
    assert!(err.contains("to join several fields, give --text once for each"), "{err}");
    let row = home.documents("names.xlsx --sheet 2031 --header false --text column_1 --text column_2");
    assert_eq!(texts(&row), ["tern\n\ngull"]);
    // Of a book that has other sheets, the others are read.
    let others = home.yarrup("look names.xlsx --text remark");
    assert!(others.out.contains("12 documents"), "{others:?}");
}

#[test]
fn pages_of_the_web_and_markdown_are_their_text() {
    let home = Home::new()
        .file("page.html", "<!DOCTYPE html><html lang=de><head><meta charset=iso-8859-1><title>Die Bucht</title><script>x()</script></head><body><p>M\u{f6}wen &amp; Meer<p>zwei".chars().map(|c| c as u8).collect::<Vec<_>>())
        .file("nameless", "<html><body><p>told by content</p></body></html>")
        .file("notes.md", "---\nward: Gull Hide\n---\n# The hide\n\nSand *everywhere*.\n\n## Later\n\nMore.\n");
    let page = &home.documents("page.html")[0];
    assert_eq!(
        (&page["title"], &page["language"], &page["text"]),
        (&json!("Die Bucht"), &json!("de"), &json!("Möwen & Meer\n\nzwei"))
    );
    assert_eq!(texts(&home.documents("nameless")), ["told by content"]);
    let notes = &home.documents("notes.md")[0];
    assert_eq!(
        (&notes["title"], &notes["ward"], &notes["text"]),
        (&json!("The hide"), &json!("Gull Hide"), &json!("The hide\n\nSand everywhere.\n\nLater\n\nMore."))
    );
    assert_eq!(home.documents("notes.md --each section")[1]["title"], "Later");
}

#[test]
fn xml_is_records_where_it_has_such() {
    let feed = "<?xml version='1.0'?>\n<rss version='2.0'><channel><title>Shore notes</title>\n\
                <item><title>Nests</title><guid>n-1</guid><description>The wardens &lt;b&gt;counted&lt;/b&gt; every nest.</description></item>\n\
                <item><title>Storm</title><guid>n-2</guid><description><![CDATA[Two boats &amp; a pier.]]></description><category domain='w'>weather</category></item>\n\
                </channel></rss>";
    let rows = "<!DOCTYPE posts [<!ENTITY spit 'the <i>spit</i>'><!ENTITY hide \"Gull &amp; Hide\">]>\n<posts>\n\
                <row id='7' Score='12' text='Terns at &hide;.'/>\n<row id='8' Score='3' text='caf&#233; &unknown;'/>\n</posts>\n";
    let (latin, ..) = encoding_rs::WINDOWS_1252.encode("<?xml version='1.0' encoding='windows-1252'?><notes><note><text>Möwen über der Küste</text><by>Ines</by></note><note><text>Küken</text><by>Bo</by></note></notes>");
    let home = Home::new()
        .file("feed.xml", feed)
        .file("rows.xml", rows)
        .file("latin.xml", &latin)
        .file("one.xml", "<list><note><text>A single tern</text></note></list>")
        .file("cut.xml", "<posts>\n<row id='1' text='one'/>\n<row id='2' text='two'/>\n<row id='3' te");
    let items = home.documents("feed.xml --text description --id guid");
    assert_eq!(texts(&items), ["The wardens <b>counted</b> every nest.", "Two boats &amp; a pier."]);
    let expected =
        json!({"id": "n-2", "title": "Storm", "category.domain": "w", "category": "weather", "guid": "n-2"});
    for (name, value) in expected.as_object().expect("an object") {
        assert_eq!(items[1][name], *value, "{name}");
    }
    // Conditions compare numbers as numbers, and the place of a row is its line.
    let rows = home.documents_with("rows.xml --types Score=whole", &["--where", "Score > 4"]);
    assert_eq!(texts(&rows), ["Terns at Gull & Hide."]);
    assert_eq!((&rows[0]["id"], &rows[0]["Score"]), (&json!("7"), &json!(12)));
    assert_eq!(texts(&home.documents("rows.xml")), ["Terns at Gull & Hide.", "café &unknown;"]);
    assert_eq!(texts(&home.documents("latin.xml")), ["Möwen über der Küste", "Küken"]);
    // One alone may be anything, unless it is said what it is.
    assert_eq!(texts(&home.documents("one.xml")), ["A single tern"]);
    let single = home.documents("one.xml --records note");
    assert_eq!((texts(&single), &single[0]["id"]), (vec!["A single tern"], &json!("one.xml:1")));
    // What came before the fault is read.
    let said = home.yarrup("run as-found.toml cut.xml --out cut");
    assert_eq!(said.code, Some(0), "{said:?}");
    assert!(
        home.read("cut/skipped.csv").contains("ends too early: the element `posts` that begins at line 1")
    );
    assert!(said.out.contains("2 documents"), "{}", said.out);
    for (arguments, why) in [
        ("one.xml --records tern", "no element at `tern`; there are none that comes more than once"),
        ("one.xml --each row", "`--records NAME` says so"),
        ("feed.xml --each page", "documents of `xml` are by file or row, not by page"),
        ("feed.xml --text body", "no field `body`; there are `title`, `guid`, `description`"),
    ] {
        let err = home.refused(&format!("run as-found.toml {arguments} --out refused"));
        assert!(err.contains(why), "{err}");
    }
}

#[test]
fn xml_is_a_document_where_it_is_one() {
    let guide = "<?xml version='1.0'?>\n<article xml:lang='en' xmlns='http://docbook.org/ns/docbook'><info><title>On terns</title>\
                 <author>Mira Sand</author></info>\n<section><title>One</title><para>They <emphasis>fly</emphasis>\n   far&#46;</para>\
                 <itemizedlist><listitem><para>north</para></listitem><listitem><para>south</para></listitem></itemizedlist></section>\
                 <section><title>Two</title><para>They nest.</para></section></article>";
    let laughs: String = (1..60).map(|n| format!("<!ENTITY l{n} '&l{};&l{0};'>", n - 1)).collect();
    let home = Home::new()
        .file("guide.dbk", guide)
        .file("help/nests.page", "<page xmlns='http://projectmallard.org/1.0/' id='nests'><title>Nests</title><p>Keep off.</p></page>")
        .file("help/sign.svg", "<?xml version='1.0'?><svg xmlns='http://www.w3.org/2000/svg'><text>Keep off</text></svg>")
        .file("laughs.xml", format!("<!DOCTYPE a [<!ENTITY l0 'ha'>{laughs}]><a>&l59; &l0;</a>"))
        .file("help/empty.xml", "")
        .file("deep.xml", "<a>".repeat(100_000))
        .file("note.txt", "<b>Terns</b> at the spit");
    let documents = home.documents("guide.dbk");
    assert_eq!(texts(&documents), ["One\nThey fly far.\nnorth\nsouth\nTwo\nThey nest."]);
    assert_eq!(
        (&documents[0]["title"], &documents[0]["author"], &documents[0]["language"]),
        (&json!("On terns"), &json!("Mira Sand"), &json!("en"))
    );
    // A part of it, with all that is in it.
    let sections = home.documents("guide.dbk --records section --text section --title title");
    assert_eq!(texts(&sections), ["One\nThey fly far.\nnorth\nsouth", "Two\nThey nest."]);
    assert_eq!(sections[1]["title"], "Two");
    // Told by its content where its name says nothing, if that is asked for: programs write XML as well. Pictures are passed over.
    let said = home.yarrup("look help");
    assert_eq!(said.code, Some(2), "{said:?}");
    assert!(said.err.contains("passed over empty.xml (empty) and 2 other files"), "{said:?}");
    assert_eq!(texts(&home.documents("help --include *.page")), ["Nests\nKeep off."]);
    assert_eq!(texts(&home.documents("help/nests.page")), ["Nests\nKeep off."]);
    assert_eq!(texts(&home.documents("note.txt")), ["<b>Terns</b> at the spit"]);
    let laughed = home.documents("laughs.xml");
    assert_eq!(texts(&laughed), ["&l58;&l58; ha"]);
    let err = home.refused("run as-found.toml deep.xml --out deep");
    assert!(err.contains("elements lie more than 256 deep in one another"), "{err}");
}

#[test]
fn word_processors_write_documents() {
    let docx = zip(&[
        ("[Content_Types].xml", b"<Types/>"),
        ("word/document.xml", "<w:document xmlns:w='w'><w:body><w:p><w:r><w:t>The key</w:t></w:r><w:r><w:tab/><w:t xml:space='preserve'> hangs &amp; rusts</w:t></w:r></w:p><w:p><w:del><w:r><w:delText>gone</w:delText></w:r></w:del></w:p><w:tbl><w:tr><w:tc><w:p><w:r><w:t>a</w:t></w:r></w:p></w:tc><w:tc><w:p><w:r><w:t>b</w:t></w:r></w:p></w:tc></w:tr></w:tbl></w:body></w:document>".as_bytes()),
        ("docProps/core.xml", b"<p xmlns:dc='dc'><dc:title>Keys</dc:title><dc:creator>Bo</dc:creator></p>"),
    ]);
    let mut open = std::io::Cursor::new(Vec::new());
    let mut archive = zip::ZipWriter::new(&mut open);
    let stored = zip::write::SimpleFileOptions::default().compression_method(zip::CompressionMethod::Stored);
    archive.start_file("mimetype", stored).expect("a member");
    archive.write_all(b"application/vnd.oasis.opendocument.text").expect("memory");
    archive.start_file("content.xml", stored).expect("a member");
    archive.write_all("<d xmlns:text='t'><text:h>Head</text:h><text:p>One<text:s text:c='2'/>two<text:line-break/>three</text:p></d>".as_bytes()).expect("memory");
    archive.finish().expect("an archive");
    let home = Home::new().file("a.docx", docx).file("b.odt", open.into_inner());
    let document = &home.documents("a.docx")[0];
    assert_eq!((&document["title"], &document["author"]), (&json!("Keys"), &json!("Bo")));
    assert_eq!(document["text"], "The key\t hangs & rusts\n\na\tb");
    assert_eq!(texts(&home.documents("b.odt")), ["Head\nOne  two\nthree"]);
    assert_eq!(home.documents("b.odt --each paragraph").len(), 3);
}

/// Some programs do not put the name of the format first, where the standard wants it.
#[test]
fn open_documents_are_known_wherever_they_say_what_they_are() {
    let package = |kind: &str, content: &str| {
        let media_type = format!("application/vnd.oasis.opendocument.{kind}\n");
        zip(&[
            ("Pictures/tern.png", b"\x89PNG"),
            ("content.xml", content.as_bytes()),
            ("mimetype", media_type.as_bytes()),
        ])
    };
    let text = "<d xmlns:text='t'><text:p>Two terns</text:p></d>";
    let slide = "<d xmlns:text='t'><draw:page><text:p>Two terns</text:p></draw:page></d>";
    let home = Home::with_recipe()
        .file("a.odt", package("text", text))
        .file("b.ott", package("text-template", text))
        .file("c.odp", package("presentation", slide))
        .file("pile/d.odg", package("graphics", text))
        .file("pile/e.txt", "Two terns");
    for name in ["a.odt", "b.ott", "c.odp"] {
        assert_eq!(texts(&home.documents(name)), ["Two terns"], "{name}");
    }
    let said = home.yarrup("run recipe.toml pile --out run");
    assert!(
        said.err.contains("d.odg (a file of an office program that is neither a text nor a table)"),
        "{said:?}"
    );
}

#[test]
fn slides_are_documents_with_their_notes() {
    let relations = |list: &str| format!("<Relationships>{list}</Relationships>");
    let shape = |kind: &str, text: &str| {
        let lines = text.split('|').map(|line| format!("<a:p><a:r><a:t>{line}</a:t></a:r></a:p>"));
        format!("<p:sp><p:nvPr><p:ph type='{kind}'/></p:nvPr>{}</p:sp>", lines.collect::<String>())
    };
    let slide = |shapes: &[String]| format!("<p:sld xmlns:p='p' xmlns:a='a'>{}</p:sld>", shapes.concat());
    let parts = [
        ("ppt/presentation.xml", "<p:p xmlns:p='p' xmlns:r='r'><p:sldId id='1' r:id='b'/><p:sldId id='2' r:id='c'/><p:sldId id='3' r:id='a'/></p:p>".to_owned()),
        (
            "ppt/_rels/presentation.xml.rels",
            relations("<Relationship Id='a' Type='x/slide' Target='slides/1.xml'/><Relationship Id='b' Type='x/slide' Target='slides/2.xml'/><Relationship Id='c' Type='x/slide' Target='slides/3.xml'/>"),
        ),
        ("ppt/slides/1.xml", slide(&[shape("body", "Thank you")])),
        ("ppt/slides/2.xml", slide(&[shape("ctrTitle", "Terns &amp; gulls"), shape("body", "Nests|Eggs"), shape("sldNum", "1")])),
        ("ppt/slides/_rels/2.xml.rels", relations("<Relationship Id='n' Type='x/notesSlide' Target='../notes/2.xml'/>")),
        ("ppt/notes/2.xml", slide(&[shape("body", "Show the map"), shape("sldNum", "1")])),
        ("ppt/slides/3.xml", slide(&[shape("pic", "")])),
        ("docProps/core.xml", "<p xmlns:dc='dc'><dc:title>The season</dc:title><dc:creator>Mira</dc:creator></p>".to_owned()),
    ];
    let parts: Vec<(&str, &[u8])> = parts.iter().map(|(name, content)| (*name, content.as_bytes())).collect();
    let home = Home::new().file("talk.pptx", zip(&parts));
    let slides = home.documents("talk.pptx");
    assert_eq!(texts(&slides), ["Terns & gulls\nNests\nEggs", "Thank you"]);
    assert_eq!((&slides[0]["id"], &slides[1]["id"]), (&json!("talk.pptx:1"), &json!("talk.pptx:3")));
    let first = &slides[0];
    assert_eq!((&first["title"], &first["notes"]), (&json!("Terns & gulls"), &json!("Show the map")));
    assert_eq!((&first["presentation"], &first["author"]), (&json!("The season"), &json!("Mira")));
    assert_eq!((&first["page"], &first["pages"]), (&json!(1), &json!(3)));
    let whole = home.documents("talk.pptx --each file");
    assert_eq!(texts(&whole), ["Terns & gulls\nNests\nEggs\n\nThank you"]);
    assert_eq!(whole[0]["title"], "The season");
    let with_notes = home.documents("talk.pptx --text text --text notes");
    assert_eq!(with_notes[0]["text"], "Terns & gulls\nNests\nEggs\n\nShow the map");
}

#[test]
fn rich_text_is_its_paragraphs() {
    let file = "{\\rtf1\\ansi\\ansicpg1250{\\fonttbl{\\f0\\fcharset238 Sans;}}{\\info{\\title Rybitwy}{\\author Bo}}\\f0 \\'a3apa {\\b ry}ba\\par {\\v x}Dwa\\tab gniazda\\par}";
    let home = Home::new().file("a.rtf", file).file("b.doc", file);
    for name in ["a.rtf", "b.doc"] {
        let document = &home.documents(name)[0];
        assert_eq!(document["text"], "Łapa ryba\nDwa\tgniazda", "{name}");
        assert_eq!((&document["title"], &document["author"]), (&json!("Rybitwy"), &json!("Bo")));
    }
    assert_eq!(texts(&home.documents("a.rtf --each paragraph")), ["Łapa ryba", "Dwa\tgniazda"]);
}

#[test]
fn chapters_keep_what_stands_behind_empty_elements() {
    let page = |inside: &str| {
        format!("<?xml version='1.0'?><html xmlns='http://www.w3.org/1999/xhtml'>{inside}</html>")
    };
    let parts = [
        ("META-INF/container.xml", "<c><rootfile full-path='b.opf'/></c>".to_owned()),
        ("b.opf", "<p><manifest><item id='a' href='a.xhtml' media-type='application/xhtml+xml'/><item id='b' href='toc.xhtml' media-type='application/xhtml+xml'/></manifest><spine><itemref idref='a'/><itemref idref='b'/></spine></p>".to_owned()),
        ("a.xhtml", page("<head><title/><script src='a.js'/></head><body><p>One <a id='x'/>tern</p><audio src='x'/><p><ruby>海<rt>うみ</rt></ruby></p><pre><i>two</i> <i>gulls</i>\n<i>three</i></pre></body>")),
        ("toc.xhtml", page("<body><p>Contents</p></body>")),
    ];
    let parts: Vec<(&str, &[u8])> = parts.iter().map(|(name, content)| (*name, content.as_bytes())).collect();
    let only_contents = [parts[0], ("b.opf", "<p><manifest><item id='b' href='toc.xhtml' media-type='application/xhtml+xml'/></manifest><spine><itemref idref='b'/></spine></p>".as_bytes()), parts[3]];
    let home = Home::new().file("a.epub", zip(&parts)).file("b.epub", zip(&only_contents));
    assert_eq!(texts(&home.documents("a.epub")), ["One tern\n\n海\n\ntwo gulls\nthree"]);
    // Of a book that is nothing but a list, the list is the text.
    assert_eq!(texts(&home.documents("b.epub")), ["Contents"]);
}

#[test]
fn a_missing_field_is_told_once_for_a_sheet() {
    let rows = "a,b\n1,2\n3,4\n5,6\n";
    let home = Home::with_recipe()
        .file("notes/one.csv", rows)
        .file("notes/two.csv", rows)
        .file("notes/c.txt", "Terns");
    let said = home.yarrup("look notes --text text");
    assert_eq!(said.err.matches("no field `text`").count(), 2, "{said:?}");
    assert!(said.err.contains("and 4 other unreadable records"), "{said:?}");
}

#[test]
fn mail_has_its_headers_and_its_parts() {
    let home = demo("warden-mail.mbox");
    let mails = home.documents("warden-mail.mbox --title subject");
    assert_eq!(mails.len(), 16);
    assert_eq!(
        (&mails[0]["title"], &mails[0]["from"]),
        (&json!("Fox at the colony"), &json!("Mira Sandholt <mira@wardens.example.org>"))
    );
    assert_eq!(mails[0]["date"], "2031-05-02T07:12:00+02:00");
    assert_eq!(
        mails[1]["quoted"],
        "> Could we have the electric wire before the weekend?\n> I'll carry it myself if I must."
    );
    assert!(
        mails[1]["text"]
            .as_str()
            .is_some_and(|text| text.ends_with("just leave the gate unlocked.") && !text.contains('>'))
    );
    assert!(mails[4]["text"].as_str().is_some_and(|text| text.starts_with("Chère Mira")));
    assert!(mails[0]["signature"].as_str().is_some_and(|text| text.ends_with("five wards and one kettle")));
    let joined = home.documents("warden-mail.mbox --text text --text quoted");
    assert!(joined[1]["text"].as_str().is_some_and(|text| text.contains("unlocked.\n\n> Could we")));
}

#[test]
fn databases_give_tables_and_queries_and_are_not_changed() {
    let home = Home::new();
    let path = home.path("notes.db");
    let database = rusqlite::Connection::open(&path).expect("a database");
    database
        .execute_batch("create table notes(id integer, body text, rating real); insert into notes values(1,'terns',2.5),(2,'gulls é',null); create table other(x); create view rated as select * from notes;")
        .expect("tables");
    drop(database);
    let before = std::fs::read(&path).expect("the file");
    let rows = home.documents("notes.db --table notes --text body");
    assert_eq!(
        (texts(&rows), &rows[0]["rating"], &rows[1]["rating"]),
        (vec!["terns", "gulls é"], &json!(2.5), &Value::Null)
    );
    assert_eq!(
        texts(&home.documents_with("notes.db", &["--query", "select body as text from notes where id = 2"])),
        ["gulls é"]
    );
    let err = home.refused("run as-found.toml notes.db --out run");
    assert!(
        err.contains(
            "several tables: `notes` (2 rows), `other` (0 rows), `rated` (a view); choose one with --table"
        ),
        "{err}"
    );
    let said =
        home.yarrup_with("run as-found.toml notes.db --out run", &["--query", "delete from notes"], b"");
    assert!(said.err.contains("the query changes the database"), "{said:?}");
    assert_eq!(std::fs::read(&path).expect("the file"), before);
}

#[test]
fn parquet_is_read_with_its_types_and_lists() {
    use parquet::data_type::{ByteArray, ByteArrayType, Int32Type};
    use parquet::file::properties::WriterProperties;
    use parquet::file::writer::SerializedFileWriter;

    let schema = "message m { required binary note (STRING); optional int32 day (DATE); optional group tags (LIST) { repeated group list { optional binary element (STRING); } } }";
    let schema = parquet::schema::parser::parse_message_type(schema).expect("a schema");
    let codecs = [
        parquet::basic::Compression::UNCOMPRESSED,
        parquet::basic::Compression::SNAPPY,
        parquet::basic::Compression::ZSTD(Default::default()),
    ];
    for codec in codecs {
        let properties = WriterProperties::builder().set_compression(codec).build();
        let mut out = Vec::new();
        let mut writer =
            SerializedFileWriter::new(&mut out, schema.clone().into(), properties.into()).expect("a writer");
        let mut group = writer.next_row_group().expect("a group");
        let text = |text: &str| ByteArray::from(text);
        let mut column = group.next_column().expect("ok").expect("note");
        column
            .typed::<ByteArrayType>()
            .write_batch(&[text("terns é"), text("gulls")], None, None)
            .expect("written");
        column.close().expect("closed");
        let mut column = group.next_column().expect("ok").expect("day");
        column.typed::<Int32Type>().write_batch(&[22_404], Some(&[1, 0]), None).expect("written");
        column.close().expect("closed");
        let mut column = group.next_column().expect("ok").expect("tags");
        column
            .typed::<ByteArrayType>()
            .write_batch(&[text("a"), text("b")], Some(&[3, 3, 0]), Some(&[0, 1, 0]))
            .expect("written");
        column.close().expect("closed");
        group.close().expect("closed");
        writer.close().expect("closed");
        let home = Home::new().file("notes.parquet", out);
        let rows = home.documents("notes.parquet --text note --types day=text");
        assert_eq!(texts(&rows), ["terns é", "gulls"]);
        assert_eq!((&rows[0]["day"], &rows[0]["tags"]), (&json!("2031-05-05"), &json!(["a", "b"])));
        assert_eq!((&rows[1]["day"], &rows[1]["tags"]), (&Value::Null, &Value::Null));
    }
}

/// A Parquet file of two row groups, each of several pieces: a text of 20,000 bytes, a number that every third row lacks, and a truth in each row.
fn long_parquet(groups: [usize; 2]) -> Vec<u8> {
    use parquet::data_type::{BoolType, ByteArray, ByteArrayType, Int64Type};
    use parquet::file::properties::WriterProperties;
    use parquet::file::writer::SerializedFileWriter;

    let schema = "message m { required binary text (STRING); optional int64 number; required boolean even; }";
    let schema = parquet::schema::parser::parse_message_type(schema).expect("a schema");
    let properties = WriterProperties::builder().set_dictionary_enabled(false).build();
    let mut out = Vec::new();
    let mut writer = SerializedFileWriter::new(&mut out, schema.into(), properties.into()).expect("a writer");
    let mut before = 0;
    for count in groups {
        let rows = before..before + count as i64;
        before = rows.end;
        let mut group = writer.next_row_group().expect("a group");
        let mut column = group.next_column().expect("ok").expect("text");
        let texts: Vec<_> = rows.clone().map(|row| ByteArray::from(long_text(row).as_str())).collect();
        column.typed::<ByteArrayType>().write_batch(&texts, None, None).expect("written");
        column.close().expect("closed");
        let mut column = group.next_column().expect("ok").expect("number");
        let numbers: Vec<_> = rows.clone().filter(|row| row % 3 != 0).collect();
        let levels: Vec<_> = rows.clone().map(|row| i16::from(row % 3 != 0)).collect();
        column.typed::<Int64Type>().write_batch(&numbers, Some(&levels), None).expect("written");
        column.close().expect("closed");
        let mut column = group.next_column().expect("ok").expect("even");
        let truths: Vec<_> = rows.map(|row| row % 2 == 0).collect();
        column.typed::<BoolType>().write_batch(&truths, None, None).expect("written");
        column.close().expect("closed");
        group.close().expect("closed");
    }
    writer.close().expect("closed");
    out
}

fn long_text(row: i64) -> String {
    format!("tern {row} {}", "x".repeat(20_000))
}

#[test]
fn long_parquet_files_are_read_in_pieces_and_in_order() {
    let home = Home::new().file("long.parquet", long_parquet([400, 250]));
    for more in [&[][..], &["--trust-files"], &["--threads", "1"]] {
        let rows = home.documents_with("long.parquet", more);
        assert_eq!(rows.len(), 650);
        for (number, row) in (0..).zip(&rows) {
            assert_eq!(row["id"], format!("long.parquet:{}", number + 1));
            assert_eq!(row["text"], long_text(number));
            let lacks = number % 3 == 0;
            assert_eq!(row["number"], if lacks { Value::Null } else { json!(number) });
            assert_eq!(row["even"], number % 2 == 0);
        }
    }
    let kept: Vec<_> = home.documents("long.parquet --where even=true --where number>600");
    assert_eq!(kept.len(), (601..650).filter(|row| row % 3 != 0 && row % 2 == 0).count());
    assert!(home.done("look long.parquet --documents 640").contains("tern 639"));
}

#[test]
fn a_damaged_piece_of_a_parquet_file_costs_its_rows_alone() {
    let mut bytes = long_parquet([400, 250]);
    let at = bytes.windows(9).position(|window| window == b"tern 300 ").expect("the row");
    // The length of the text before its first byte.
    bytes[at - 4..at].copy_from_slice(&[0xff; 4]);
    let home = Home::new().file("long.parquet", bytes).file("r.toml", "[[step]]\ndo = \"split\"\n");
    let said = home.yarrup("run r.toml long.parquet --out run");
    assert!(said.err.contains("rows 201 to 400") && said.err.contains("damaged Parquet file"), "{said:?}");
    let documents = home.read("run/documents.jsonl");
    for id in ["long.parquet:1\"", "long.parquet:200\"", "long.parquet:401\"", "long.parquet:650\""] {
        assert!(documents.contains(id), "{id}");
    }
    assert!(!documents.contains("long.parquet:301\""));
    assert!(home.refused("run r.toml long.parquet --out strict --strict").contains("rows 201 to 400"));
}

#[test]
fn a_row_of_a_table_has_the_number_of_its_line() {
    for end in ["\n", "\r\n"] {
        let table =
            ["name,text", "a,tern", "", "b,\"gull", "", "auk\"", "c,skua,more", "d,plover", ""].join(end);
        let home = Home::new().file("t.csv", table).file("r.toml", "[[step]]\ndo = \"split\"\n");
        let said = home.yarrup("run r.toml t.csv --out run --text text");
        assert!(said.err.contains("t.csv:7: the row has 3 cells, the header has 2"), "{said:?}");
        let documents = home.read("run/documents.jsonl");
        for (line, name) in [(2, "a"), (4, "b"), (8, "d")] {
            assert!(
                documents.contains(&format!("{{\"id\":\"t.csv:{line}\",\"name\":\"{name}\"")),
                "{documents}"
            );
        }
    }
}

#[test]
fn compressed_files_are_read_through() {
    let lines = "{\"id\":\"a\",\"text\":\"terns\"}\n{\"id\":\"b\",\"text\":\"gulls\"}\n";
    let mut gzip = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::default());
    gzip.write_all(lines.as_bytes()).expect("memory");
    let gzip = gzip.finish().expect("packed");
    let mut bzip = bzip2::write::BzEncoder::new(Vec::new(), bzip2::Compression::default());
    bzip.write_all(lines.as_bytes()).expect("memory");
    let zstd = zstd::encode_all(lines.as_bytes(), 1).expect("packed");
    let home = Home::new()
        .file("a.jsonl.gz", &gzip)
        .file("b.jsonl.bz2", bzip.finish().expect("packed"))
        .file("c.jsonl.zst", &zstd)
        // Two packed files joined are one, and the name may say nothing.
        .file("nameless", [&gzip[..], &gzip[..]].concat())
        .file("table.csv.gz", {
            let mut gzip = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::default());
            gzip.write_all(b"id;text\n1;a,b\n").expect("memory");
            gzip.finish().expect("packed")
        });
    for name in ["a.jsonl.gz", "b.jsonl.bz2", "c.jsonl.zst"] {
        assert_eq!(texts(&home.documents(name)), ["terns", "gulls"], "{name}");
    }
    assert_eq!(home.documents("nameless").len(), 4);
    assert_eq!(texts(&home.documents("table.csv.gz")), ["a,b"]);
    let sources: Value = serde_json::from_str(&home.read("as-found/run.json")).expect("JSON");
    let formats: Vec<_> = sources["sources"]
        .as_array()
        .expect("sources")
        .iter()
        .map(|source| source["format"].clone())
        .collect();
    assert_eq!(formats, ["csv", "gzip"]);
}

#[test]
fn archives_are_read_member_by_member_with_their_side_files() {
    let inner = zip(&[("deep.txt", b"deep words")]);
    let members: [(&str, &[u8]); 5] = [
        ("b/ward.txt", b"terns"),
        ("b/ward.yaml", b"ward: North Spit\n"),
        ("a.csv", b"id,text\n1,gull\n"),
        (".hidden.txt", b"no"),
        ("inner.zip", &inner),
    ];
    let mut tar = tar::Builder::new(Vec::new());
    for (name, content) in members {
        let mut header = tar::Header::new_gnu();
        header.set_size(content.len() as u64);
        header.set_mode(0o644);
        tar.append_data(&mut header, name, content).expect("a member");
    }
    let tar = tar.into_inner().expect("an archive");
    let home = Home::new()
        .file("pile.zip", zip(&members))
        .file("pile.tar", &tar)
        .file("pile.tar.zst", zstd::encode_all(&*tar, 1).expect("packed"));
    let by_path = home.documents("pile.zip");
    assert_eq!(texts(&by_path), ["gull", "terns", "deep words"]);
    assert_eq!(
        (&by_path[1]["id"], &by_path[1]["ward"]),
        (&json!("pile.zip/b/ward.txt"), &json!("North Spit"))
    );
    assert_eq!(by_path[2]["id"], "pile.zip/inner.zip/deep.txt");
    for name in ["pile.tar", "pile.tar.zst"] {
        let documents = home.documents(name);
        assert_eq!(texts(&documents), ["terns", "gull", "deep words"], "{name}");
        assert_eq!(documents[0]["ward"], "North Spit");
    }
    assert_eq!(texts(&home.documents("pile.zip --include ward*")), ["terns"]);
    assert_eq!(texts(&home.documents("pile.zip --exclude *.csv --exclude inner.zip")), ["terns"]);
}
