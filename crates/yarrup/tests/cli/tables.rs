//! `export` of tables: what is written is read again by the readers of our own, and compared.

use std::collections::BTreeMap;

use serde_json::{Value, json};

use crate::home::Home;

const NOTES: &str = concat!(
    "{\"id\":\"a\",\"site\":\"spit\",\"rating\":1,\"low\":true,\"note\":{\"by\":\"Mira\"},\"text\":\"The terns nest. \\u00c9tude \\ud83d\\udc26 terns\"}\n",
    "{\"id\":\"=b\",\"rating\":2,\"tags\":[\"x\",\"y\"],\"text\":\"null gulls\"}\n",
);

fn home() -> Home {
    let home = Home::new()
        .file(
            "r.toml",
            "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"case\"\n[[step]]\ndo = \"stopwords\"\nlists = [\"en\"]\n[[step]]\ndo = \"drop\"\nkinds = [\"punctuation\"]\n\
                   [[step]]\ndo = \"label\"\nname = \"bird\"\nadd = [\"terns\", \"gulls\"]\n[[step]]\ndo = \"stem\"\n",
        )
        .file("notes.jsonl", NOTES);
    home.done("run r.toml notes.jsonl --out run");
    home
}

fn lines(text: &str) -> Vec<Value> {
    text.lines().map(|line| serde_json::from_str(line).expect("an object")).collect()
}

#[test]
fn tokens_stand_where_the_table_says() {
    let home = home();
    let tokens = lines(&home.done("export run --as jsonl --what tokens --dropped --fields site"));
    let texts: BTreeMap<String, String> = lines(NOTES)
        .into_iter()
        .map(|note| {
            (note["id"].as_str().unwrap_or("").to_owned(), note["text"].as_str().unwrap_or("").to_owned())
        })
        .collect();
    for token in &tokens {
        let text = &texts[token["document"].as_str().expect("an id")];
        let place = |name: &str| token[name].as_u64().expect("a place") as usize;
        assert_eq!(&text[place("start")..place("end")], token["text"].as_str().expect("a text"));
        let characters: String = text
            .chars()
            .skip(place("start_character"))
            .take(place("end_character") - place("start_character"))
            .collect();
        assert_eq!(characters, token["text"].as_str().expect("a text"));
    }
    let of = |document: &str| tokens.iter().filter(|token| token["document"] == document).collect::<Vec<_>>();
    let places: Vec<u64> = of("a").iter().map(|token| token["position"].as_u64().unwrap_or(0)).collect();
    assert_eq!(places, [1, 2, 3, 4, 5, 6, 7]);
    let second = of("a")[1];
    assert_eq!(
        (&second["term"], &second["form"], &second["labels"], &second["kept_position"], &second["site"]),
        (&json!("tern"), &json!("terns"), &json!("bird"), &json!(1), &json!("spit"))
    );
    let first = of("a")[0];
    assert_eq!(
        (&first["fate"], &first["step"], &first["term"]),
        (&json!("dropped"), &json!(3), &Value::Null)
    );
    // As many as the table of forms has, and without the dropped ones as many as are kept.
    let counted: u64 =
        home.rows("run/forms.csv").iter().map(|row| row[3].parse::<u64>().expect("a count")).sum();
    assert_eq!(tokens.len() as u64, counted);
    let kept = lines(&home.done("export run --as jsonl"));
    assert!(kept.iter().all(|token| token.get("fate").is_none() && token["kept_position"].is_u64()));
    let terms: u64 =
        home.rows("run/vocabulary.csv").iter().map(|row| row[2].parse::<u64>().expect("a count")).sum();
    assert_eq!(kept.len() as u64, terms);
}

/// Every format holds the same rows, by the readers that read sources.
#[test]
fn tables_are_the_same_in_every_format() {
    let home = home().file("as-it-is.toml", "[[step]]\ndo = \"split\"\n");
    for (what, text) in
        [("documents", "text"), ("tokens", "text"), ("terms", "term"), ("forms", "form"), ("effects", "do")]
    {
        let mut read: Vec<Vec<Value>> = Vec::new();
        for format in ["jsonl", "parquet", "sqlite", "csv"] {
            let file = format!("{what}.{format}");
            home.done(&format!("export run --as {format} --what {what} --out {file}"));
            home.done(&format!(
                "run as-it-is.toml {file} --text {text} --with-originals --out {what}-{format} --quiet"
            ));
            let documents = lines(&home.read(&format!("{what}-{format}/documents.jsonl")));
            read.push(
                documents
                    .into_iter()
                    .map(|mut row| {
                        // Where a row has no id, the reader names it by its file.
                        if what != "documents" {
                            row.as_object_mut().expect("an object").remove("id");
                        }
                        row
                    })
                    .collect(),
            );
        }
        assert!(!read[0].is_empty(), "{what}");
        assert_eq!(read[0], read[1], "{what}: Parquet");
        // SQLite has no truths, and CSV no difference between nothing and an empty text.
        let plain = |rows: &[Value]| -> Vec<BTreeMap<String, String>> {
            let cell = |value: &Value| match value {
                Value::Null => String::new(),
                Value::Bool(truth) => u8::from(*truth).to_string(),
                Value::String(text) if text == "true" => "1".to_owned(),
                Value::String(text) => text.trim_start_matches('\'').to_owned(),
                other => other.to_string(),
            };
            let row = |row: &Value| {
                let cells = row.as_object().expect("an object").iter();
                cells
                    .map(|(name, value)| (name.clone(), cell(value)))
                    .filter(|(_, value)| !value.is_empty())
                    .collect()
            };
            rows.iter().map(row).collect()
        };
        assert_eq!(plain(&read[0]), plain(&read[2]), "{what}: SQLite");
        assert_eq!(plain(&read[0]).len(), read[3].len(), "{what}: CSV");
    }
}

#[test]
fn documents_keep_their_types_and_names() {
    let home = home();
    let documents = lines(&home.done("export run --what documents --as jsonl"));
    assert_eq!(
        (&documents[0]["rating"], &documents[0]["low"], &documents[0]["note.by"]),
        (&json!(1), &json!(true), &json!("Mira"))
    );
    assert_eq!((&documents[1]["low"], &documents[1]["site"]), (&Value::Null, &Value::Null));
    home.done("export run --what documents --as csv --out d.csv");
    assert_eq!(home.rows("d.csv")[1][0], "'=b");
    home.done("export run --what documents --as csv --as-is --out d.csv --replace");
    assert_eq!(home.rows("d.csv")[1][0], "=b");
    // Packed by the ending, and read again as such.
    for ending in ["gz", "zst"] {
        home.done(&format!("export run --what terms --as jsonl --out t.jsonl.{ending}"));
        let look = home.done(&format!("look t.jsonl.{ending} --text term"));
        assert!(look.contains("4 documents") || look.contains("5 documents"), "{look}");
    }
}

#[test]
fn nothing_is_written_where_something_is_wrong() {
    let home = home().file("there.csv", "mine");
    for (arguments, told) in [
        ("--as csv --out there.csv", "there.csv"),
        ("--as sqlite", "sqlite needs --out and a file"),
        ("--as conllu --what terms", "--as conllu writes the kept tokens alone"),
        ("--as csv --out run/x.csv", "lies in the run folder"),
    ] {
        let err = home.refused(&format!("export run {arguments}"));
        assert!(err.contains(told), "{arguments}: {err}");
    }
    assert_eq!(home.read("there.csv"), "mine");
    home.done("run r.toml notes.jsonl --out bare --without-originals");
    assert!(home.refused("export bare --as parquet --out x.parquet").contains("--without-originals"));
    assert!(!home.path("x.parquet").exists());
    home.done("export bare --as parquet --what documents --out x.parquet");
    // A run that was changed is told, and leaves no table.
    let text = home.read("run/documents.jsonl").replace("gull", "gulp");
    std::fs::write(home.path("run/documents.jsonl"), text).expect("changed");
    for what in ["documents", "tokens"] {
        let err = home.refused(&format!("export run --as sqlite --what {what} --out changed.sqlite"));
        assert!(err.contains("make the run again"), "{err}");
        assert!(!home.path("changed.sqlite").exists());
    }
}

/// What steps leave of each document, its terms as a list, and the cleaned text under another name.
#[test]
fn documents_show_every_stage() {
    let home = home();
    let all = lines(
        &home.done("export run --what documents --as jsonl --stages all --term-list words --clean-as made"),
    );
    let first = &all[0];
    assert_eq!(first["step_1_split"], json!("The terns nest . \u{c9}tude \u{1f426} terns"));
    assert_eq!(first["step_2_case"], json!("the terns nest . \u{e9}tude \u{1f426} terns"));
    assert_eq!(first["step_6_stem"], first["made"]);
    assert_eq!(first["words"], json!(["tern", "nest", "\u{e9}tude", "\u{1f426}", "tern"]));
    assert!(first.get("clean").is_none());
    let some = lines(&home.done("export run --what documents --as jsonl --stages 3"));
    assert_eq!(some[0]["step_3_stopwords"], json!("terns nest . \u{e9}tude \u{1f426} terns"));
    assert!(some[0].get("step_1_split").is_none());
    assert!(
        home.refused("export run --what documents --as jsonl --stages 9")
            .contains("the recipe has steps 1 to 6")
    );
    assert!(
        home.refused("export run --what documents --as jsonl --clean-as site")
            .contains("choose another name")
    );
    assert!(home.refused("export run --what documents --as jsonl --term-list text").contains("--term-list"));
    // A text step leaves a text.
    let home = home.file("t.toml", "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\n");
    home.done("run t.toml notes.jsonl --out t");
    let texts = lines(&home.done("export t --what documents --as jsonl --stages 1"));
    assert_eq!(texts[0]["step_1_case"], json!("the terns nest. \u{e9}tude \u{1f426} terns"));
}

#[test]
fn counts_add_up_to_the_vocabulary() {
    let home = home();
    let counts = lines(&home.done("export run --what counts --as jsonl --fields site"));
    let first = &counts[0];
    assert_eq!(
        (&first["document"], &first["site"], &first["term"], &first["count"], &first["positions"]),
        (&json!("a"), &json!("spit"), &json!("tern"), &json!(2), &json!("1 5"))
    );
    let mut sums: BTreeMap<String, u64> = BTreeMap::new();
    for row in &counts {
        *sums.entry(row["term"].as_str().expect("a term").to_owned()).or_default() +=
            row["count"].as_u64().expect("a count");
    }
    for row in home.rows("run/vocabulary.csv") {
        assert_eq!(sums.remove(&row[1]).map(|sum| sum.to_string()).as_ref(), Some(&row[2]));
    }
    assert!(sums.is_empty());
    // The name by which a matrix may be asked for.
    assert_eq!(
        home.done("export run --what matrix --as csv"),
        home.done("export run --what counts --as csv")
    );
    assert!(
        home.refused("export run --what counts --as csv --fields ward")
            .contains("no document of the run has a field `ward`")
    );
}
