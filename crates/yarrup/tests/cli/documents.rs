//! Whole documents are left out, and everybody is told which and why; learning reads as runs do.

use crate::home::Home;

const RECIPE: &str = "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\n[[step]]\ndo = \"drop\"\nkinds = [\"punctuation\"]\n\
                      [[step]]\ndo = \"documents\"\nmin_tokens = 3\ncopies = \"near\"\n";

const NOTES: &str = r#"{"id":"first","text":"Terns nest on the long spit by the old hide, and the wardens count their eggs in May and again in June."}
{"id":"short","text":"A tern."}
{"id":"again","text":"terns nest on the long spit, by the old hide and the wardens count their eggs in May and again in June"}
{"id":"other","text":"Gulls stay near the harbour all winter."}
{"id":"nearly","text":"Terns nest on the long spit by the old hide, and the wardens count their eggs in May and again in July."}
"#;

fn home() -> Home {
    Home::new().file("r.toml", RECIPE).file("notes.jsonl", NOTES)
}

#[test]
fn documents_left_out_are_listed_with_reason_and_original() {
    let home = home();
    let page = home.done("run r.toml notes.jsonl --out run");
    assert_eq!(
        home.read("run/dropped-documents.csv"),
        "id,step,reason,original\nshort,4,fewer than 3 tokens,\nagain,4,copy,first\nnearly,4,near copy,first\n"
    );
    assert!(page.contains("Documents left out: 3 of 5"), "{page}");
    let report = home.read("run/report.html");
    assert!(report.contains("<h2>Documents left out</h2>") && report.contains("near copy</td><td>1</td>"));
    let ids: Vec<serde_json::Value> = home
        .read("run/documents.jsonl")
        .lines()
        .map(|line| serde_json::from_str(line).expect("JSON"))
        .collect();
    assert_eq!(
        ids.iter().map(|document| document["id"].as_str()).collect::<Vec<_>>(),
        [Some("first"), Some("other")]
    );
    let record: serde_json::Value = serde_json::from_str(&home.read("run/run.json")).expect("JSON");
    assert_eq!(record["totals"]["documents_dropped"], 3);
    // The terms are those of what stayed.
    let counted: u64 =
        home.rows("run/vocabulary.csv").iter().map(|row| row[2].parse::<u64>().expect("a count")).sum();
    let kept: u64 = ids.iter().map(|document| document["tokens_after"].as_u64().expect("a count")).sum();
    assert_eq!(counted, kept);
}

#[test]
fn every_number_of_threads_leaves_out_the_same() {
    let many: String = (0..3000)
        .map(|n| {
            format!("{{\"id\":\"{n}\",\"text\":\"note {} of the warden at post {}\"}}\n", n % 700, n % 700)
        })
        .collect();
    let home = home().file("many.jsonl", many);
    home.done("run r.toml many.jsonl --out one --threads 1");
    home.done("run r.toml many.jsonl --out four --threads 4");
    for file in ["dropped-documents.csv", "documents.jsonl", "vocabulary.csv", "effects.csv"] {
        assert_eq!(home.read(&format!("one/{file}")), home.read(&format!("four/{file}")), "{file}");
    }
    let bytes = |run: &str| std::fs::read(home.path(run).join("account.bin")).expect("an account");
    assert_eq!(bytes("one"), bytes("four"));
    assert_eq!(home.rows("one/dropped-documents.csv").len(), 2300);
}

#[test]
fn pipe_leaves_documents_out_but_cannot_look_for_copies() {
    let home = home().file("short.toml", RECIPE.replace("copies = \"near\"\n", ""));
    let said = home.yarrup_with("pipe short.toml", &[], NOTES.as_bytes());
    assert_eq!((said.out.lines().count(), said.code), (4, Some(0)));
    let said = home.yarrup_with("pipe r.toml", &[], NOTES.as_bytes());
    assert!(said.out.is_empty() && said.code != Some(0));
    assert!(said.err.contains("only `yarrup run` can do that"), "{}", said.err);
}

#[test]
fn try_says_that_a_document_is_left_out() {
    let home = home();
    let said = home.yarrup_with("try r.toml", &["A tern."], b"");
    assert!(said.out.contains("the document is left out: fewer than 3 tokens"), "{}", said.out);
}

const LEARNS: &str =
    "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\n[[step]]\ndo = \"limit\"\nmin_documents = 2\n";

#[test]
fn learning_tells_what_it_skips_and_keeps_to_strict() {
    let home = Home::new()
        .file("r.toml", LEARNS)
        .file("notes.jsonl", "{\"text\":\"a tern\"}\nnot json\n{\"text\":\"a gull\"}\n");
    let said = home.yarrup("run r.toml notes.jsonl --out run");
    assert_eq!(said.code, Some(0), "{}", said.err);
    assert_eq!(said.err.matches("notes.jsonl:2: not valid JSON").count(), 1, "told once: {}", said.err);
    let err = home.refused("run r.toml notes.jsonl --out strict --strict");
    assert!(err.contains("notes.jsonl:2: not valid JSON"), "{err}");
    assert!(!home.path("strict").exists());
}

#[test]
fn a_taken_folder_is_told_before_anything_is_learned() {
    let home = Home::new().file("r.toml", LEARNS).file("notes.jsonl", "{\"text\":\"a tern\"}\nnot json\n");
    home.done("run r.toml notes.jsonl --out run");
    let err = home.refused("run r.toml notes.jsonl --out run");
    assert!(!err.contains("not valid JSON") && !err.contains("learned"), "{err}");
}

#[test]
fn standard_input_is_read_once_and_used_as_often_as_needed() {
    let home = Home::new().file("r.toml", LEARNS);
    let said =
        home.yarrup_with("run r.toml - --out run", &[], b"{\"text\":\"a tern\"}\n{\"text\":\"a gull\"}\n");
    assert_eq!(said.code, Some(0), "{}", said.err);
    assert_eq!(home.rows("run/vocabulary.csv").len(), 1);
    let wrong = Home::new().file(
        "r.toml",
        "[[step]]\ndo = \"erase\"\nclasses = [\"punctuation\"]\nto = \"nothing\"\n\n[[step]]\ndo = \"split\"\n",
    );
    let said = wrong.yarrup_with("check --fix r.toml -", &[], b"{\"text\":\"The tern and/or gull\"}\n");
    assert!(!format!("{}{}", said.out, said.err).contains("no document"), "{said:?}");
    assert!(wrong.read("r.toml").contains("to = \"space\""), "{}", wrong.read("r.toml"));
}

#[test]
fn the_files_of_an_included_recipe_are_found_beside_it() {
    let home = Home::new()
        .file(
            "shared/base.toml",
            "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"lemma\"\ntables = [\"lemmas.tsv\"]\n",
        )
        .file("shared/lemmas.tsv", "tarns\tlake\n")
        .file("r.toml", "[[step]]\ndo = \"include\"\nrecipe = \"shared/base.toml\"\n")
        .file("notes.jsonl", "{\"text\":\"two tarns\"}\n");
    home.done("run r.toml notes.jsonl --out run");
    assert!(home.read("run/vocabulary.csv").contains(",lake,"), "{}", home.read("run/vocabulary.csv"));
}

#[test]
fn what_a_step_learned_is_frozen_into_it_and_not_into_its_condition() {
    let home = Home::new()
        .file(
            "r.toml",
            "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"limit\"\ntop = 1\n[step.only]\nsite = \"spit\"\n",
        )
        .file(
            "notes.jsonl",
            "{\"site\":\"spit\",\"text\":\"tern tern gull\"}\n{\"site\":\"hide\",\"text\":\"gull gull gull\"}\n",
        );
    home.done("run r.toml notes.jsonl --out run");
    home.done("run run/frozen.toml notes.jsonl --out again");
    assert_eq!(home.read("again/vocabulary.csv"), home.read("run/vocabulary.csv"));
    // What is common elsewhere is not what the step counts.
    assert!(home.read("run/documents.jsonl").contains("\"clean\":\"tern tern\""));
}
