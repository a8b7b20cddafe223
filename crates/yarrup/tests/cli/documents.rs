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
    assert!(
        report.contains("<h2>Documents left out</h2>")
            && report.contains("near copy</td><td class=\"number\">1</td><td class=\"text ids\">nearly</td>")
    );
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
    let said = home.yarrup_with("pipe short.toml --drop-emptied", &[], NOTES.as_bytes());
    assert_eq!((said.out.lines().count(), said.code), (4, Some(0)));
    // Every document has its line, and one that is left out says why.
    let said = home.yarrup_with("pipe short.toml", &[], NOTES.as_bytes());
    assert_eq!(said.out.lines().count(), NOTES.lines().count());
    let told = said.out.lines().filter(|line| line.contains("\"clean\":null,\"left_out\":\"step "));
    assert_eq!(told.count(), NOTES.lines().count() - 4);
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

const CARDS: &str = r#"{"id":"a","site":"spit","season":"spring","text":"The little tern nests on the spit."}
{"id":"b","site":"hide","season":"spring","text":"Nobody was in the hide, and no tern came by."}
{"id":"c","site":"spit","season":"autumn","language":"de","text":"Die Seeschwalbe ist fort."}
{"id":"d","site":"pool","text":"Little of note: a Tern and an avocet."}
{"id":"e","site":"pool","season":"spring","text":"An avocet."}
"#;

#[test]
fn every_condition_keeps_the_documents_that_it_names() {
    let cases = [
        ("min_tokens = 5", "a b d"),
        ("max_tokens = 4", "c e"),
        ("min_tokens_before = 9", "b d"),
        ("max_tokens_before = 3", "e"),
        ("with_any = [\"avocet\", \"hide\"]", "b d e"),
        ("with_any = [\"little tern\"]", "a"),
        ("with_all = [\"tern\", \"avocet\"]", "d"),
        ("with_all = [\"Tern\"]\ncase = \"exact\"", "d"),
        ("without = [\"tern\"]", "c e"),
        ("without = [\"little tern\", \"avocet\"]", "b c"),
        ("fields = { site = \"spit\" }", "a c"),
        ("fields = { site = [\"spit\", \"hide\"], season = \"spring\" }", "a b"),
        ("not_fields = { site = \"pool\" }", "a b c"),
        ("not_fields = { site = \"pool\", season = \"spring\" }", "a b c d"),
        ("languages = [\"de\"]\nundetected = \"drop\"", "c"),
        ("min_tokens = 5\nwithout = [\"hide\"]", "a d"),
    ];
    for (settings, kept) in cases {
        let home = Home::new().file("cards.jsonl", CARDS).file(
            "r.toml",
            format!(
                "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"drop\"\nkinds = [\"punctuation\"]\n[[step]]\ndo = \"documents\"\n{settings}\n"
            ),
        );
        home.done("run r.toml cards.jsonl --out run");
        let documents = home.read("run/documents.jsonl");
        let ids: Vec<String> = documents
            .lines()
            .map(|line| serde_json::from_str::<serde_json::Value>(line).expect("JSON")["id"].to_string())
            .map(|id| id.trim_matches('"').to_owned())
            .collect();
        assert_eq!(ids.join(" "), kept, "{settings}");
        let left_out = home.rows("run/dropped-documents.csv");
        assert_eq!(left_out.len() + ids.len(), 5, "{settings}");
        assert!(left_out.iter().all(|row| row[1] == "3" && !row[2].is_empty()), "{settings}: {left_out:?}");
        // What was left out is dropped at that step, and nothing of it is in the tables.
        let effects = home.rows("run/effects.csv");
        let kept_tokens: u64 =
            home.rows("run/vocabulary.csv").iter().map(|row| row[2].parse::<u64>().unwrap_or(0)).sum();
        assert_eq!(effects[3][8], kept_tokens.to_string(), "{settings}");
        assert_eq!(effects[3][3], left_out.len().to_string(), "{settings}");
    }
}

#[test]
fn settings_of_documents_that_cannot_be_are_told() {
    let cases = [
        ("", "`documents` needs at least one of `min_tokens`"),
        ("copies = \"exact\"\nsimilarity = 0.9", "`similarity` is for `copies = \"near\"`"),
        ("copies = \"near\"\nsimilarity = 0.1", "`similarity` must be at least"),
        ("with_any = [\" \"]", "`with_any` has an empty term"),
        ("copies = \"close\"", "wrong value for `copies`"),
        ("min_token = 3", "did you mean `min_tokens`?"),
    ];
    for (settings, told) in cases {
        let home = Home::new().file("r.toml", format!("[[step]]\ndo = \"documents\"\n{settings}\n"));
        let err = home.refused("check r.toml");
        assert!(err.contains(told), "{settings}: {err}");
    }
}

#[test]
fn every_way_in_which_a_list_cannot_be_had_is_told() {
    let cases: [(&str, &[u8], &str, &str); 9] = [
        ("none.txt", b"", "stopwords\"\nlists = [\"gone.txt\"]", "cannot read"),
        ("own.txt", b"tern\n\xff\n", "stopwords\"\nlists = [\"own.txt\"]", "is not UTF-8 from byte 5 on"),
        ("own.json", b"{\"tern\": 1}", "stopwords\"\nlists = [\"own.json\"]", "is not a JSON array of texts"),
        (
            "own.csv",
            b"a,b\n1,2\n",
            "stopwords\"\nlists = [\"own.csv\"]",
            "the table has 2 columns: say which",
        ),
        (
            "own.csv",
            b"a,b\n1,2\n",
            "stopwords\"\nlists = [{ file = \"own.csv\", column = \"c\" }]",
            "no column `c`; there are `a`, `b`",
        ),
        ("p.csv", b"a,b,c\n1,2,3\n", "equate\"\ntables = [\"p.csv\"]", "the table has 3 columns: say which"),
        ("p.csv", b"from,to\ntarn\n", "equate\"\ntables = [\"p.csv\"]", "p.csv: row 2 holds no pair"),
        ("l.tsv", b"terns\n", "lemma\"\ntables = [\"l.tsv\"]", "row 1: a form and its lemma are needed"),
        ("none.txt", b"", "lemma\"\ndictionary = \"xq_XQ\"", "none is installed: looked for `xq_XQ.dic`"),
    ];
    for (name, content, step, told) in cases {
        let home = Home::new().file(name, content).file("r.toml", format!("[[step]]\ndo = \"{step}\n"));
        let err = home.refused("check r.toml");
        assert!(err.contains(told), "{step}: {err}");
        assert!(err.contains("r.toml:"), "the place in the recipe: {err}");
    }
}

#[test]
fn a_recipe_that_leaves_everything_out_says_so() {
    let home = home()
        .file("none.toml", "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"documents\"\nmin_tokens = 500\n");
    let said = home.yarrup("run none.toml notes.jsonl --out run");
    assert_eq!(said.code, Some(0), "{said:?}");
    assert!(said.err.contains("the recipe left every document out"), "{}", said.err);
    assert_eq!(home.read("run/documents.jsonl"), "");
    // Its words can still be asked for.
    let said = home.yarrup("why run tern");
    assert!(said.out.contains("dropped at step 2 (`documents`): fewer than 500 tokens"), "{said:?}");
}
