//! `yarrup look`.

use serde_json::Value;

use crate::home::Home;

fn report(home: &Home, arguments: &str) -> Value {
    serde_json::from_str(&home.done(&format!("look {arguments} --format json"))).expect("JSON")
}

fn demo() -> Home {
    let home = Home::new();
    home.done("demo --into saltmere");
    home
}

#[test]
fn the_demo_is_described_as_it_is() {
    let home = demo();
    let report = report(&home, "saltmere/saltmere.toml");
    assert_eq!(report["documents"], 312);
    assert_eq!(report["copies"], 0);
    assert!(
        report["repeated_lines"][0]["line"].as_str().is_some_and(|line| line.starts_with("Saltmere Reserve"))
    );
    assert_eq!(report["repeated_lines"][0]["documents"], 10);
    let languages = report["languages"].as_array().expect("languages");
    let codes: Vec<_> =
        languages.iter().take(4).map(|language| language[0].as_str().expect("a code")).collect();
    assert_eq!(codes, ["en", "de", "fr", "es"]);
    // Every sort of dirt that is known occurs.
    assert_eq!(report["dirt"].as_array().map(Vec::len), Some(17), "{}", report["dirt"]);
    let group = &report["groups"][3];
    assert_eq!(
        (&group["encodings"][0], &group["text"]["field"]),
        (&"windows-1252".into(), &"comment".into())
    );
    let text = home.done("look saltmere/saltmere.toml");
    for part in [
        "312 documents in 36 files",
        "Fields of warden-mail.mbox",
        "English (en)",
        "wrongly decoded (Ã©)",
        "Where to look next",
    ] {
        assert!(text.contains(part), "{part} in {text}");
    }
}

#[test]
fn the_threads_make_no_difference() {
    let home = demo();
    let one = home.done("look saltmere --format json --threads 1");
    assert_eq!(home.done("look saltmere --format json --threads 3"), one);
}

#[test]
fn fields_are_proposed_with_their_reasons_and_saved() {
    let home = demo();
    let said =
        home.yarrup("look saltmere --exclude README.md --exclude *words.csv --save saltmere/found.toml");
    assert_eq!(said.code, Some(0), "{said:?}");
    assert!(said.out.contains("text is taken from comment: the longest texts"), "{}", said.out);
    assert!(said.err.contains("saved as saltmere/found.toml"), "{}", said.err);
    let found = home.read("saltmere/found.toml");
    for part in [
        "text = \"note.text\"",
        "text = \"comment\"\nid = \"card\"",
        "text = \"messages.text\"\nid = \"ticket.id\"",
        "text = \"remark\"",
    ] {
        assert!(found.contains(part), "{part} in {found}");
    }
    // What was saved gives the same documents as what was looked at, and each of them once.
    let all = report(&home, "saltmere/found.toml");
    assert_eq!(all["documents"], 312, "{found}");
    assert_eq!(home.documents("saltmere/found.toml").len(), 312);
    let err = home.refused("look saltmere --save saltmere/found.toml");
    assert!(err.contains("is there already, and is left as it is"), "{err}");
}

#[test]
fn one_table_is_saved_from_elsewhere() {
    let home = Home::new()
        .file("data/cards.csv", "card,comment\nc1,A lovely place\nc2,No bus at all\nc3,We will come back\n");
    home.done("look data/cards.csv --save house.toml");
    assert_eq!(home.documents("house.toml").len(), 3);
    assert!(home.read("house.toml").contains("path = \"data/cards.csv\"\ntext = \"comment\"\nid = \"card\""));
}

#[test]
fn documents_are_shown_whole() {
    let home = Home::new().file("notes.jsonl", "{\"id\":\"a\",\"text\":\"one\\ntwo\",\"site\":\"spit\"}\n{\"id\":\"17\",\"text\":\"the longest of these\"}\n{\"id\":\"c\",\"text\":\"x\"}\n");
    let out = home.done("look notes.jsonl --documents 1,longest,shortest,id=17");
    assert_eq!(out.matches("document 2  17").count(), 2, "{out}");
    assert!(out.starts_with("document 1  a\n  id    a\n  site  spit\n\none\ntwo\n"), "{out}");
    assert!(out.contains("document 3  c\n"));
    assert!(home.done("look notes.jsonl --documents random").starts_with("document "));
    let said = home.yarrup("look notes.jsonl --documents 9,nobody");
    assert_eq!(said.code, Some(1), "{said:?}");
    assert!(said.err.contains("no document `9`, `nobody`; there are 3"), "{said:?}");
    let json = home.done("look notes.jsonl --documents 2 --format json");
    assert_eq!(serde_json::from_str::<Value>(&json).expect("JSON")["text"], "the longest of these");
}

#[test]
fn copies_empties_and_repeated_ids_are_counted() {
    let long = "the terns came back to the spit this morning and they have been screaming since";
    let home = Home::new().file("notes.jsonl", format!("{{\"id\":1,\"text\":\"{long}\"}}\n{{\"id\":1,\"text\":\"{long}\"}}\n{{\"id\":3,\"text\":\"{long} then\"}}\n{{\"id\":4,\"text\":\" \"}}\n{{\"id\":5}}\n"));
    let said = home.yarrup("look notes.jsonl");
    for part in [
        "4 documents in 1 file",
        "1 document repeats an earlier one to the letter, such as 1 and 2",
        "1 document repeats an earlier one nearly, such as 1 and 3",
        "1 document without a word, first empty 4 (4)",
        "1 document has the id of an earlier one, the first 1",
    ] {
        assert!(said.out.contains(part), "{part} in {}", said.out);
    }
    assert!(said.err.contains("notes.jsonl:5: no field `text`; there are `id`"), "{}", said.err);
    let run = home.yarrup("run as-found.toml notes.jsonl --out run");
    assert_eq!(run.code, Some(2));
    home.documents("notes.jsonl");
    assert!(
        home.read("as-found/run.json")
            .contains("1 document has an id that an earlier one has, the first of them `1`")
    );
}

#[test]
fn much_is_looked_at_in_a_sample() {
    let line = |n: usize| {
        format!("{{\"id\":\"n{n}\",\"text\":\"Note {n}: {}\"}}\n", "terns over the spit & gulls ".repeat(40))
    };
    let lines: String = (0..10_000).map(line).collect();
    let home = Home::new().file("big.jsonl", lines);
    let report = report(&home, "big.jsonl");
    assert_eq!(report["documents"], 10_000);
    let looked_at = report["looked_at"].as_u64().expect("a number");
    assert!((4_000..7_000).contains(&looked_at), "{looked_at}");
    let languages = report["languages_looked_at"].as_u64().expect("a number");
    assert!((1_200..2_500).contains(&languages), "{languages}");
    let shown = home.done("look big.jsonl");
    assert!(shown.contains("Languages (a sample of") && shown.contains("look big.jsonl --all"), "{shown}");
    let all = home.done("look big.jsonl --all");
    assert!(!all.contains("a sample of") && !all.contains("--all"), "{all}");
}

#[test]
fn a_line_that_parts_texts_is_shown_with_the_option_that_makes_documents_of_the_parts() {
    let home = Home::new()
        .file("notes/may.txt", "The terns are back.\n%\nFog all day.\n%\nFive eggs.\n%\nThe ferry is late.\n")
        .file("notes/june.txt", "Rain.\n%\nMore rain.\n%\nNo ferry.\n%\nSun at last.\n")
        .file("notes.jsonl", "{\"text\": \"one\\n%\\ntwo\\n%\\nthree\\n%\\nfour\"}\n");
    let shown = home.done("look notes");
    assert!(
        shown.contains(
            "lines of “%” divide 2 documents, in 6 places: --separator-line reads the parts as documents"
        ),
        "{shown}"
    );
    assert!(shown.contains("look notes --separator-line '%'\n"), "{shown}");
    let parts = home.done("look notes --separator-line %");
    assert!(parts.starts_with("8 documents in 2 files"), "{parts}");
    assert!(
        parts.contains("run RECIPE notes --separator-line '%'\n") && !parts.contains("divide"),
        "{parts}"
    );
    // A line of hyphens is no option.
    let home = home.file("rules.txt", "terns\n---\ngulls\n---\nherons\n---\ndunlins\n");
    assert!(home.done("look rules.txt").contains("look rules.txt --separator-line ---\n"));
    assert!(home.done("look rules.txt --separator-line ---").starts_with("4 documents"));
    // In other formats lines part nothing.
    assert!(!home.done("look notes.jsonl").contains("separator"));
}

#[test]
fn a_table_without_a_text_shows_its_fields_alone() {
    let home = Home::new()
        .file("tides.csv", "hour,height\n1,2.5\n2,3.5\n3,3.5\n")
        .file("cards.csv", "id,comment\n1,The terns are back on the spit\n2,Gulls over the hide again\n");
    let text = home.done("look tides.csv");
    assert!(text.contains("3 documents in 1 file") && text.contains("none found"), "{text}");
    assert!(text.contains("no field looks like the text; choose one with --text"), "{text}");
    assert!(text.contains("look tides.csv --save collection.toml"), "{text}");
    assert!(text.contains("run RECIPE tides.csv --text FIELD"), "{text}");
    for part in ["Words in a document", "have the id of an earlier one", "Languages", "--all"] {
        assert!(!text.contains(part), "{part}\n{text}");
    }
    let alone = report(&home, "tides.csv");
    let fields = alone["groups"][0]["fields"].as_array().expect("fields");
    let facts: Vec<_> =
        fields.iter().map(|field| (&field["path"], &field["type"], &field["filled"])).collect();
    assert_eq!(
        facts,
        [
            (&"hour".into(), &"whole number".into(), &3.into()),
            (&"height".into(), &"number".into(), &3.into())
        ]
    );
    assert_eq!((&alone["skipped_count"], &alone["repeated_ids"]), (&0.into(), &0.into()));
    // Beside others, it adds nothing to what is said of texts.
    let both = report(&home, "tides.csv cards.csv");
    assert_eq!(both["words"]["sum"], report(&home, "cards.csv")["words"]["sum"]);
    assert_eq!(both["empty"], 0);
    // A run needs a text.
    std::fs::write(home.path("split.toml"), "[[step]]\ndo = \"split\"\n").expect("a recipe");
    let err = home.refused("run split.toml tides.csv --out run");
    assert!(err.contains("no field `text`; there are `hour`, `height`; choose one with --text"), "{err}");
}

#[test]
fn many_encodings_are_counted_in_the_table_and_named_in_json() {
    let mut home = Home::new();
    let encodings =
        [encoding_rs::UTF_8, encoding_rs::WINDOWS_1252, encoding_rs::KOI8_R, encoding_rs::SHIFT_JIS];
    let texts = [
        "Möwen über der Bucht, früh am Morgen",
        "Vögel über der Küste, schön",
        "Чайки над берегом залива сегодня утром",
        "海の上を飛ぶ鳥たちの巣箱です",
    ];
    for (index, (encoding, text)) in encodings.iter().zip(texts).enumerate() {
        home = home.file(&format!("notes/{index}.txt"), &encoding.encode(&text.repeat(6)).0);
    }
    let named = report(&home, "notes")["groups"][0]["encodings"].as_array().map(Vec::len);
    assert_eq!(named, Some(4));
    let text = home.done("look notes");
    assert!(text.contains("UTF-8, windows-1252 and 2 more"), "{text}");
}
