//! Conditions on fields, wherever they may stand.

use serde_json::Value;

use crate::home::Home;

const NOTES: &str = "{\"id\":\"a\",\"site\":\"spit\",\"rating\":5,\"lang\":\"en\",\"text\":\"The wardens of the reserve counted every nest this morning.\"}\n\
                     {\"id\":\"b\",\"site\":\"hide\",\"rating\":2,\"lang\":\"de\",\"text\":\"Die W\u{e4}chter haben heute Morgen jedes Nest an der K\u{fc}ste gez\u{e4}hlt.\"}\n\
                     {\"id\":\"c\",\"site\":\"\",\"rating\":3,\"lang\":\"en-GB\",\"text\":\"They were not there when we came to the hut again.\"}\n";

fn home() -> Home {
    Home::new().file("notes.jsonl", NOTES)
}

fn ids(documents: &[Value]) -> String {
    documents.iter().filter_map(|document| document["id"].as_str()).collect()
}

#[test]
fn conditions_are_joined_in_where_and_derive() {
    let home = home();
    for (condition, expected) in [
        ("site in (spit, hide) and rating > 2", "a"),
        ("not (rating = 5 or site is empty)", "b"),
        ("site is empty or rating = 5", "ac"),
    ] {
        assert_eq!(
            ids(&home.documents_with("notes.jsonl", &["--where", condition])),
            expected,
            "{condition}"
        );
    }
    let derived =
        home.documents_with("notes.jsonl", &["--derive", "good=rating >= 3 and site not in (hide)"]);
    let good: Vec<bool> = derived.iter().map(|document| document["good"] == Value::Bool(true)).collect();
    assert_eq!(good, [true, false, true]);
}

#[test]
fn a_field_that_no_document_has_is_told_with_near_names() {
    let home = home().file("as-found.toml", "[[step]]\ndo = \"split\"\n");
    let refused = |arguments: &str, more: &[&str]| {
        let said = home.yarrup_with(arguments, more, b"");
        assert_eq!(said.code, Some(2), "{said:?}");
        said.err
    };
    let run = "run as-found.toml notes.jsonl --out run";
    let err = refused(run, &["--where", "sites = spit"]);
    assert!(err.contains("asks for the field `sites`, which no document has; did you mean `site`?"), "{err}");
    assert!(!home.path("run").exists());
    assert!(refused(run, &["--derive", "low=ratin < 3"]).contains("did you mean `rating`?"));
    assert!(refused("look notes.jsonl", &["--where", "sites = spit"]).contains("did you mean `site`?"));
    assert!(refused(run, &["--where", "language = en"]).contains("--detect-language finds it out"));
    for (name, step) in [
        ("only", "do = \"case\"\nonly = { seite = \"x\", site = \"spit\" }"),
        ("text", "do = \"case\"\nonly = \"rating > 2 and wardn is not empty\""),
        ("documents", "do = \"documents\"\nnot_fields = { sight = \"x\" }"),
        ("learning", "do = \"limit\"\nmin_count = 1\nonly = { sitte = \"spit\" }"),
    ] {
        std::fs::write(home.path("r.toml"), format!("[[step]]\n{step}\n")).expect("written");
        let err = refused("run r.toml notes.jsonl --out run", &[]);
        assert!(err.contains("asks for the field") && err.contains("which no document has"), "{name}: {err}");
        assert!(refused("check r.toml notes.jsonl", &[]).contains("which no document has"), "{name}");
        assert!(!home.path("run").exists());
    }
    // What only some have, and the language, which is detected, are no mistakes.
    let fine = "[[step]]\ndo = \"case\"\nonly = \"language = en and (site = x or rating = 2)\"\n";
    std::fs::write(home.path("r.toml"), fine).expect("written");
    home.done("run r.toml notes.jsonl --out run");
}

#[test]
fn steps_work_where_a_written_condition_holds() {
    let home = home().file("r.toml", "[[step]]\ndo = \"case\"\nto = \"upper\"\nonly = \"rating in (2, 5) and not site = hide\"\n[[step]]\ndo = \"documents\"\nfields = \"rating < 5 or site = spit\"\n");
    home.done("run r.toml notes.jsonl --out run");
    let clean: Vec<bool> = home
        .read("run/documents.jsonl")
        .lines()
        .map(|line| {
            serde_json::from_str::<Value>(line).expect("JSON")["clean"]
                .as_str()
                .is_some_and(|clean| clean.contains("WARDENS"))
        })
        .collect();
    assert_eq!(clean, [true, false, false]);
    let bad = home.file("bad.toml", "[[step]]\ndo = \"case\"\nonly = \"rating <\"\n");
    let err = bad.refused("check bad.toml");
    assert!(err.contains("`rating <` compares with nothing") && err.contains("bad.toml:3"), "{err}");
}

#[test]
fn the_language_comes_from_a_field_of_ones_own_or_is_detected() {
    let home =
        home().file("r.toml", "[[step]]\ndo = \"drop\"\nmatches = \".*\"\nonly = { language = \"en\" }\n");
    home.done("run r.toml notes.jsonl --out run --language-field lang");
    let emptied: Vec<bool> = home
        .read("run/documents.jsonl")
        .lines()
        .map(|line| serde_json::from_str::<Value>(line).expect("JSON")["clean"] == "")
        .collect();
    assert_eq!(emptied, [true, false, true]);
    let detected =
        home.documents_with("notes.jsonl", &["--detect-language", "--where", "language in (en, de)"]);
    let languages: Vec<&str> = detected.iter().filter_map(|document| document["language"].as_str()).collect();
    assert_eq!(languages, ["en", "de", "en"]);
    // A field that is there stays as it is.
    let kept = home.file("own.jsonl", "{\"language\":\"nl\",\"text\":\"The wardens of the reserve counted every nest.\"}\n{\"text\":\"7\"}\n");
    let kept = kept.documents_with("own.jsonl", &["--detect-language"]);
    assert_eq!((&kept[0]["language"], &kept[1]["language"]), (&Value::from("nl"), &Value::Null));
}

#[test]
fn collection_files_hold_the_same_conditions() {
    let home = home()
        .file("c.toml", "detect_language = true\n[[source]]\npath = \"notes.jsonl\"\nwhere = \"rating in (2, 3) and not site = hide\"\n[[source]]\npath = \"more.jsonl\"\nlanguage_field = \"tongue\"\nwhere = [\"language = de\", \"note is not empty\"]\n[source.derive]\nshort = \"n < 5 or note = x\"\n")
        .file("more.jsonl", "{\"id\":\"m\",\"tongue\":\"de-AT\",\"note\":\"x\",\"n\":9,\"text\":\"nest\"}\n{\"id\":\"n\",\"tongue\":\"de\",\"note\":\"\",\"n\":1,\"text\":\"nest\"}\n{\"id\":\"o\",\"tongue\":\"fr\",\"note\":\"y\",\"n\":1,\"text\":\"nid\"}\n");
    let documents = home.documents("c.toml");
    assert_eq!(ids(&documents), "cm");
    assert_eq!((&documents[0]["language"], &documents[1]["short"]), (&Value::from("en"), &Value::from(true)));
    let run: Value = serde_json::from_str(&home.read("as-found/run.json")).expect("JSON");
    let said = run["collection"].as_str().expect("the collection as a file");
    for part in ["language_field = \"tongue\"", "detect_language = true", "note is not empty"] {
        assert!(said.contains(part), "{part} in {said}");
    }
    let bad = home.file("bad.toml", "[[source]]\npath = \"notes.jsonl\"\nwhere = \"rating in 2\"\n");
    let err = bad.refused("look bad.toml");
    assert!(err.contains("write values in parentheses after `in`") && err.contains("bad.toml:3"), "{err}");
}
