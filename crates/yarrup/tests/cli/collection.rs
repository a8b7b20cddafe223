//! Fields, filters, samples, side files and collection files.

use serde_json::{Value, json};

use crate::home::Home;

fn cards() -> Home {
    let row = |n: u32| {
        format!("c{n},{},{},Card number {n}\n", if n.is_multiple_of(2) { "spit" } else { "hide" }, n % 5 + 1)
    };
    let rows: String = (1..=40).map(row).collect();
    Home::new().file("cards.csv", format!("card,site,rating,comment\n{rows}"))
}

fn ids(documents: &[Value]) -> Vec<&str> {
    documents.iter().map(|document| document["id"].as_str().expect("an id")).collect()
}

#[test]
fn conditions_take_documents_and_derive_fields() {
    let home = cards();
    let fields = "cards.csv --text comment --id card";
    let low = home.documents_with(
        fields,
        &["--where", "rating <= 2", "--where", "site = spit", "--derive", "worst=rating = 1"],
    );
    assert_eq!(ids(&low), ["c6", "c10", "c16", "c20", "c26", "c30", "c36", "c40"]);
    assert_eq!((&low[0]["worst"], &low[1]["worst"]), (&json!(false), &json!(true)));
    let said = home.yarrup_with(
        "run as-found.toml cards.csv --text comment --out run",
        &["--where", "rating <= 2"],
        b"",
    );
    assert!(said.out.contains("16 documents from 1 file, 24 left out by conditions"), "{said:?}");
    assert!(home.read("run/run.json").contains("\"documents_left_out\": 24"));
    let said = home.yarrup_with(
        "run as-found.toml cards.csv --text comment --out sample --sample 3",
        &["--where", "rating <= 2"],
        b"",
    );
    assert!(said.out.contains("3 documents from 1 file, 24 left out by conditions"), "{said:?}");
    let none = home.yarrup_with(
        "run as-found.toml cards.csv --text comment --out none",
        &["--where", "rating > 9"],
        b"",
    );
    assert!(none.err.contains("no document is left by the conditions: 40 left out"), "{none:?}");
    assert_eq!(none.code, Some(2));
    assert!(!home.path("none").exists());
    let wrong = home.yarrup_with("run as-found.toml cards.csv --out x", &["--where", "<= 2"], b"");
    assert!(wrong.err.contains("--where: `<= 2` names no field"), "{wrong:?}");
    // A derived field is a field like others.
    let derived = home.documents_with(fields, &["--derive", "low=rating <= 2", "--where", "low = true"]);
    assert_eq!(derived.len(), 16);
}

#[test]
fn the_first_documents_and_samples_are_taken() {
    let home = cards();
    let fields = "cards.csv --text comment --id card";
    assert_eq!(ids(&home.documents(&format!("{fields} --first 3"))), ["c1", "c2", "c3"]);
    assert_eq!(home.documents(&format!("{fields} --first 0")).len(), 0);
    let sample = home.documents(&format!("{fields} --sample 5 --seed 9"));
    assert_eq!(sample.len(), 5);
    assert_eq!(home.documents(&format!("{fields} --sample 5 --seed 9 --threads 4")), sample);
    assert_ne!(home.documents(&format!("{fields} --sample 5 --seed 10")), sample);
    // In the order of the source, with all their fields.
    let numbers: Vec<u32> = ids(&sample).iter().map(|id| id[1..].parse().expect("a number")).collect();
    assert!(numbers.is_sorted());
    assert!(sample[0]["rating"].is_number());
    assert_eq!(home.documents(&format!("{fields} --sample 99")).len(), 40);
    // Each is as likely as any other: 300 samples of 10 among 40 take each about 75 times.
    let mut taken = [0; 41];
    for seed in 0..12 {
        for id in ids(&home.documents(&format!("{fields} --sample 20 --seed {seed}"))) {
            taken[id[1..].parse::<usize>().expect("a number")] += 1;
        }
    }
    assert!(taken[1..].iter().all(|count| (1..=11).contains(count)), "{taken:?}");
}

#[test]
fn fields_are_joined_as_text() {
    let home = Home::new().file("posts.jsonl", "{\"id\":1,\"title\":\"Terns\",\"body\":\"They scream.\"}\n{\"id\":2,\"body\":\"No title.\"}\n{\"id\":3,\"other\":1}\n");
    let said = home.documents("posts.jsonl --text title --text body");
    assert_eq!(
        said.iter().map(|document| document["text"].clone()).collect::<Vec<_>>(),
        ["Terns\n\nThey scream.", "No title."]
    );
    assert_eq!((&said[0]["title"], &said[0]["body"]), (&"Terns".into(), &"They scream.".into()));
    assert!(home.read("as-found/skipped.csv").contains("no field `title`; there are `id`, `other`"));
}

#[test]
fn side_files_give_their_fields() {
    let home = Home::new()
        .file("reports/a.txt", "terns")
        .file("reports/a.yaml", "ward: North Spit\nmonth: 2031-05\ncount: 3\nopen: yes\n")
        .file("reports/b.txt", "gulls")
        .file("reports/b.json", "{\"ward\": \"Gull Hide\", \"tags\": [\"x\"]}")
        .file("reports/c.txt", "knots")
        .file("reports/c.toml", "ward = \"Cockle Flats\"\nday = 2031-05-04\n")
        .file("reports/d.txt", "alone")
        .file("reports/e.txt", "broken")
        .file("reports/e.yaml", "ward: [");
    let said = home.documents_with("reports --title ward", &["--where", "text != x"]);
    assert_eq!(said.len(), 5);
    assert_eq!(
        said[0],
        json!({"id": "a.txt", "title": "North Spit", "ward": "North Spit", "month": "2031-05", "count": 3, "open": "yes",
        "text": "terns", "clean": "terns", "tokens_before": 1, "tokens_after": 1})
    );
    assert_eq!((&said[1]["tags"], &said[2]["day"]), (&json!(["x"]), &json!("2031-05-04")));
    assert!(
        home.read("as-found/skipped.csv").contains("e.yaml,not valid YAML"),
        "{}",
        home.read("as-found/skipped.csv")
    );
    // One that was named alone has its side file too.
    assert_eq!(home.documents("reports/b.txt")[0]["ward"], "Gull Hide");
}

#[test]
fn a_collection_is_described_once() {
    let home = cards()
        .file("notes.jsonl", "{\"note\":{\"text\":\"terns\"}}\n")
        .file("house/all.toml", "collection = \"all\"\n[[source]]\npath = \"../cards.csv\"\ntext = \"comment\"\nid = \"card\"\nwhere = \"rating = 5\"\n[[source]]\npath = [\"../notes.jsonl\"]\ntext = \"note.text\"\n");
    assert_eq!(ids(&home.documents("house/all.toml")).len(), 9);
    // What is typed counts more than what is written.
    assert_eq!(home.documents_with("house/all.toml", &["--where", "rating = 1", "--first", "3"]).len(), 3);
    let said = home.yarrup_with("try as-found.toml --from house/all.toml --document", &["c4"], b"");
    assert!(said.out.contains("Card number 4"), "{said:?}");
    let run: Value = serde_json::from_str(&home.read("as-found/run.json")).expect("JSON");
    assert!(run["collection"].as_str().is_some_and(|text| text.contains("text = \"note.text\"")));
}

#[test]
fn a_collection_of_every_format_gives_the_same_bytes_on_any_threads() {
    let home = Home::new();
    home.done("demo --into saltmere");
    home.done("run saltmere/recipes/topics.toml saltmere/saltmere.toml --out one --threads 1");
    home.done("run saltmere/recipes/topics.toml saltmere/saltmere.toml --out four --threads 4");
    for file in ["documents.jsonl", "vocabulary.csv", "forms.csv", "effects.csv", "run.json", "report.html"] {
        assert_eq!(home.read(&format!("one/{file}")), home.read(&format!("four/{file}")), "{file}");
    }
    assert_eq!(home.read("one/documents.jsonl").lines().count(), 312);
    assert!(home.read("one/report.html").contains("and 24 more"));
}

#[test]
fn mistakes_in_a_collection_file_are_underlined() {
    let home = Home::with_recipe()
        .file("c.toml", "[[source]]\npath = \"x\"\ntexts = \"a\"\neach = \"verse\"\n")
        .file("other.toml", "a = 1\n");
    let err = home.refused("look c.toml");
    for part in [
        "unknown key `texts`",
        "did you mean `text`?",
        "no `verse`; there are `file`",
        "c.toml:4:8",
        "2 mistakes",
    ] {
        assert!(err.contains(part), "{part} in {err}");
    }
    let err = home.refused("run recipe.toml other.toml --out run");
    assert!(err.contains("other.toml: not a collection file: it has no `[[source]]`"), "{err}");
}
