use crate::home::Home;

fn ids_and_texts(home: &Home) -> Vec<(String, String)> {
    home.read("run/documents.jsonl")
        .lines()
        .map(|line| {
            let value: serde_json::Value = serde_json::from_str(line).expect("JSON");
            // An id may be a number, and a text may not be there.
            let shown = |value: &serde_json::Value| match value {
                serde_json::Value::String(text) => text.clone(),
                serde_json::Value::Null => String::new(),
                other => other.to_string(),
            };
            (shown(&value["id"]), shown(&value["text"]))
        })
        .collect()
}

fn pairs(expected: &[(&str, &str)]) -> Vec<(String, String)> {
    expected.iter().map(|(id, text)| ((*id).to_owned(), (*text).to_owned())).collect()
}

#[test]
fn nested_fields_are_reached_by_paths_and_the_rest_is_carried() {
    let home = Home::with_recipe().file(
        "tickets.jsonl",
        "{\"ref\": 7, \"ticket\": {\"head\": \"Bench\", \"body\": \"It \\u201cwobbles\\u201d\\n\", \"n\": 1.50}, \"clean\": true}\n",
    );
    home.done("run recipe.toml tickets.jsonl --with-originals --out run --text ticket.body --id ref --title ticket.head");
    assert_eq!(
        home.read("run/documents.jsonl"),
        "{\"id\":7,\"title\":\"Bench\",\"ref\":7,\"ticket\":{\"head\": \"Bench\", \"body\": \"It \\u201cwobbles\\u201d\\n\", \"n\": 1.50},\
         \"carried_clean\":true,\"text\":\"It \\u201cwobbles\\u201d\\n\",\"clean\":\"wobbl\",\"tokens_before\":4,\"tokens_after\":1}\n"
    );
}

#[test]
fn tables_with_quoted_line_breaks_a_mark_and_other_separators() {
    let home = Home::with_recipe()
        .file("cards.csv", "\u{feff}card,text\r\nc1,\"Two lines,\r\none card\"\r\nc2,caf\u{e9}\r\n")
        .file("semicolon.csv", "id;text\nd1;\"a;b, c\"\n")
        .file("tabs.tsv", "id\ttext\nt1\t\"tern\"\n");
    home.done("run recipe.toml cards.csv --with-originals --out run --id card");
    assert_eq!(ids_and_texts(&home), pairs(&[("c1", "Two lines,\r\none card"), ("c2", "café")]));
    home.done("run recipe.toml semicolon.csv tabs.tsv --with-originals --out run --replace");
    assert_eq!(ids_and_texts(&home), pairs(&[("d1", "a;b, c"), ("t1", "tern")]));
}

#[test]
fn plain_text_is_one_document_or_one_a_line() {
    let home = Home::with_recipe().file("notes.txt", "\u{feff}first line\n\nthird line");
    home.done("run recipe.toml notes.txt --out run");
    assert_eq!(ids_and_texts(&home), pairs(&[("notes.txt", "first line\n\nthird line")]));
    home.done("run recipe.toml notes.txt --out run --replace --each line");
    assert_eq!(ids_and_texts(&home), pairs(&[("notes.txt:1", "first line"), ("notes.txt:3", "third line")]));
}

#[test]
fn documents_are_grouped_by_the_folders_and_files_that_they_lie_in() {
    let home = Home::with_recipe()
        .file("reviews/pos/a.txt", "lovely terns")
        .file("reviews/pos/b.txt", "lovely gulls")
        .file("reviews/neg/c.txt", "dull terns")
        .file("reviews/neg/c.toml", "rating = 1\nfolder = \"elsewhere\"\n")
        .file("reviews/all.jsonl", "{\"text\":\"own\",\"folder\":\"mine\"}\n")
        .file("reviews.toml", "collection = \"r\"\nwhere = \"folder = pos\"\n[[source]]\npath = \"reviews\"\nfile_fields = true\n");
    home.done("run recipe.toml reviews --file-fields --out run");
    let documents = home.read("run/documents.jsonl");
    for fields in [
        "\"folder\":\"pos\",\"file\":\"a.txt\"",
        // What the document or its side file says stays.
        "\"folder\":\"elsewhere\",\"rating\":1,\"file\":\"c.txt\"",
        "\"folder\":\"mine\",\"file\":\"all.jsonl\"",
    ] {
        assert!(documents.contains(fields), "{fields}: {documents}");
    }
    let by = home.done("terms run --by folder --format csv");
    assert!(by.contains("pos") && by.contains("elsewhere") && by.contains("mine"), "{by}");
    home.done("run recipe.toml reviews.toml --out some");
    let some = home.read("some/documents.jsonl");
    assert!(some.lines().count() == 2 && some.lines().all(|line| line.contains("lovely")), "{some}");
    let looked = home.done("look reviews --file-fields");
    assert!(looked.contains("folder") && looked.contains("elsewhere · pos"), "{looked}");
}

#[test]
fn a_folder_is_read_in_the_order_of_its_paths() {
    let home = Home::with_recipe()
        .file("reports/b.txt", "bee")
        .file("reports/a/z.txt", "zed")
        .file("reports/a.txt", "ay")
        .file("reports/.hidden.txt", "no")
        .file("reports/notes.jsonl", "{\"id\":\"n\",\"text\":\"note\"}\n")
        .file("reports/photo.jpeg", [0xff, 0xd8, 0xff, 0xe0]);
    let said = home.yarrup("run recipe.toml reports --out run");
    assert_eq!(said.code, Some(0));
    assert!(said.err.contains("passed over 1 file: photo.jpeg (a picture)"), "{said:?}");
    assert_eq!(
        ids_and_texts(&home),
        pairs(&[("a/z.txt", "zed"), ("a.txt", "ay"), ("b.txt", "bee"), ("n", "note")])
    );
}

#[test]
fn standard_input_is_told_by_its_content() {
    let home = Home::with_recipe();
    let said = home.yarrup_with("run recipe.toml - --out run", &[], b"{\"id\":\"x\",\"text\":\"terns\"}\n");
    assert_eq!(said.code, Some(0), "{said:?}");
    assert_eq!(ids_and_texts(&home), pairs(&[("x", "terns")]));
    home.yarrup_with("run recipe.toml - --out run --replace", &[], b"plain words\n");
    assert_eq!(ids_and_texts(&home), pairs(&[("standard input", "plain words\n")]));
    home.yarrup_with("run recipe.toml - --out run --replace --as csv", &[], b"id,text\n1,words\n");
    assert_eq!(ids_and_texts(&home), pairs(&[("1", "words")]));
}

#[test]
fn documents_without_words_are_kept_and_counted() {
    let home = Home::with_recipe()
        .file("notes.jsonl", "{\"text\":\"\"}\n{\"text\":null}\n{\"text\":\"the\"}\n\n{\"text\":\"tern\"}");
    let said = home.yarrup("run recipe.toml notes.jsonl --out run");
    assert!(said.err.contains("1 document left without any token"), "{said:?}");
    assert_eq!(ids_and_texts(&home).len(), 4);
    assert!(home.read("run/run.json").contains("\"documents_empty_as_found\": 2"));
    assert_eq!(ids_and_texts(&home)[3].0, "notes.jsonl:5");
}

#[test]
fn runs_within_a_folder_are_no_sources() {
    let home = Home::with_recipe().file("notes/a.txt", "tern");
    home.done("run recipe.toml notes --out notes/runs/first");
    home.done("run recipe.toml notes --out notes/runs/second");
    assert_eq!(home.read("notes/runs/first/vocabulary.csv"), home.read("notes/runs/second/vocabulary.csv"));
    let record: serde_json::Value =
        serde_json::from_str(&home.read("notes/runs/second/run.json")).expect("JSON");
    assert_eq!(record["sources"].as_array().map(Vec::len), Some(1));
}

#[test]
fn a_recipe_with_a_mark_and_windows_line_ends_is_read() {
    let home = Home::new()
        .file("r.toml", "\u{feff}spare = [\"The\"]\r\n[[step]]\r\ndo = \"stopwords\"\r\nlists = [\"en\"]\r\n")
        .file("a.txt", "The tern and the gull");
    home.done("run r.toml a.txt --out run");
    assert!(
        home.read("run/documents.jsonl").contains("\"clean\":\"The tern gull\""),
        "the recipe's own spare holds"
    );
}

#[test]
fn nothing_is_lost_of_standard_input_behind_text_files() {
    let home = Home::with_recipe().file("a.txt", "tern").file("z.txt", "gull");
    let input: String = (0..3000).map(|n| format!("{{\"id\":\"n{n}\",\"text\":\"note {n}\"}}\n")).collect();
    let said = home.yarrup_with("run recipe.toml a.txt - z.txt --out run", &[], input.as_bytes());
    assert_eq!(said.code, Some(0), "{said:?}");
    let ids: Vec<String> = ids_and_texts(&home).into_iter().map(|(id, _)| id).collect();
    let expected = ["a.txt".to_owned()]
        .into_iter()
        .chain((0..3000).map(|n| format!("n{n}")))
        .chain(["z.txt".to_owned()]);
    assert_eq!(ids, expected.collect::<Vec<_>>());
}

#[test]
fn a_title_that_no_document_has_is_told() {
    let home = Home::with_recipe().file("notes.jsonl", "{\"head\":\"x\",\"text\":\"terns\"}\n");
    let said = home.yarrup("run recipe.toml notes.jsonl --out run --title haed");
    assert!(said.err.contains("no document has the field `haed` that was chosen for the title"), "{said:?}");
    assert_eq!(home.yarrup("run recipe.toml notes.jsonl --out named --title head").err, "");
}

#[test]
fn sources_are_named_by_patterns_as_by_their_paths() {
    let home = Home::with_recipe()
        .file("notes/2031-01/b.jsonl", "{\"text\":\"two gulls\"}\n")
        .file("notes/2031-01/a.jsonl", "{\"text\":\"a tern\"}\n")
        .file("notes/2031-02/c.txt", "an owl");
    home.done("run recipe.toml notes/*/*.jsonl --out by-pattern");
    home.done("run recipe.toml notes/2031-01/a.jsonl notes/2031-01/b.jsonl --out by-path");
    for file in ["run.json", "documents.jsonl"] {
        assert_eq!(home.read(&format!("by-pattern/{file}")), home.read(&format!("by-path/{file}")));
    }
    assert!(
        home.refused("run recipe.toml notes/*.csv --out x").contains("notes/*.csv: no file has such a path")
    );
}
