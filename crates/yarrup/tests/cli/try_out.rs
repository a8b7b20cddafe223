use crate::home::Home;

#[test]
fn every_step_is_shown_with_what_it_did() {
    let home = Home::with_recipe();
    let said = home.yarrup_with("try recipe.toml", &["The Terns' nests, don't!"], b"");
    let expected = "\
text          The Terns' nests, don't!
 1 case       {+t+}he {+t+}erns' nests, don't!
              2 places changed
 2 split      the·terns·'·nests·,·don't·!
              7 tokens
 3 stopwords  [-the-]·terns·'·nests·,·[-don't-]·!
              2 tokens dropped, stop word (en): the, don't
 4 drop       terns·[-'-]·nests·[-,-]·[-!-]
              3 tokens dropped, punctuation: ', ,, !
 5 stem       {+tern+}·{+nest+}
              2 tokens changed
clean         tern nest
";
    assert_eq!(said.out, expected);
}

#[test]
fn replaced_and_erased_text_is_marked() {
    let home = Home::new().file(
        "r.toml",
        "[[step]]\ndo = \"erase\"\nclasses = [\"digits\"]\nto = \"nothing\"\n[[step]]\ndo = \"spaces\"\nlabel = \"tidy\"\n",
    );
    let said = home.yarrup_with("try r.toml", &["12 terns  here"], b"");
    assert!(said.out.contains("[-12-] terns  here"), "{said:?}");
    assert!(said.out.contains(" 2 tidy"), "{said:?}");
    assert!(said.out.contains("[- -]terns[-  -]{+ +}here"), "{said:?}");
}

#[test]
fn colour_is_there_when_asked_for_in_either_spelling() {
    let home = Home::with_recipe();
    let said = home.yarrup_with("try recipe.toml --color always", &["The tern"], b"");
    assert!(
        said.out.contains("\u{1b}[9m") || said.out.contains(";9m"),
        "dropped tokens are struck: {said:?}"
    );
    assert!(!said.out.contains("[-"), "{said:?}");
}

#[test]
fn a_document_is_found_by_its_id() {
    let home = Home::with_recipe().file(
        "notes.jsonl",
        "{\"id\":\"a\",\"t\":{\"x\":\"terns\"}}\n{\"id\":\"b\",\"t\":{\"x\":\"gulls\"}}\n",
    );
    assert!(
        home.done("try recipe.toml --from notes.jsonl --text t.x --document b")
            .contains("clean         gull\n")
    );
    assert!(home.done("try recipe.toml --from notes.jsonl --text t.x").contains("clean         tern\n"));
    let err = home.refused("try recipe.toml --from notes.jsonl --text t.x --document z");
    assert!(err.contains("there is no document `z`, by number or id; the first ids are `a`, `b`"), "{err}");
    let err = home.refused("try recipe.toml --from notes.jsonl");
    assert!(err.contains("notes.jsonl:1: no field `text`; there are `id`, `t.x`"), "{err}");
}

#[test]
fn text_comes_from_standard_input_too() {
    let said = Home::with_recipe().yarrup_with("try recipe.toml", &[], "İç terns\n".as_bytes());
    assert!(said.out.contains("clean         i\u{307}ç tern\n"), "{said:?}");
}

#[test]
fn conditions_are_told() {
    let home = Home::new()
        .file("r.toml", "[[step]]\ndo = \"stopwords\"\nlists = [\"en\"]\nonly = { language = \"en\" }\n");
    let said = home.yarrup_with("try r.toml", &["the tern"], b"");
    assert!(said.out.contains("not done: its `only` does not hold"), "{said:?}");
    assert!(said.out.contains("put in: the recipe has no split"), "{said:?}");
    let said = home.yarrup_with("try r.toml --field language=en", &["the tern"], b"");
    assert!(said.out.contains("clean         tern\n"), "{said:?}");
}

#[test]
fn recipes_stand_side_by_side_and_can_be_stopped() {
    let home = Home::with_recipe().file("other.toml", "[[step]]\ndo = \"split\"\ninto = \"spaces\"\n");
    let said = home.yarrup_with("try recipe.toml --beside other.toml", &["The terns"], b"");
    for told in ["recipe.toml\ntext", "other.toml\ntext", "side by side", "{+tern+}", "{+The+} {+terns+}"] {
        assert!(said.out.contains(told), "{told} in {}", said.out);
    }
    let said = home.yarrup_with("try recipe.toml --step 3", &["The terns"], b"");
    assert!(said.out.contains("3 stopwords") && !said.out.contains("4 drop"), "{said:?}");
    assert!(said.out.ends_with("clean         terns\n"), "{said:?}");
    let said = home.yarrup_with("try recipe.toml --step 1", &["The terns"], b"");
    assert!(said.out.contains("1 case") && !said.out.contains("split"), "{said:?}");
    assert!(home.yarrup_with("try recipe.toml --step 9", &["x"], b"").err.contains("there is no step 9"));
}

#[test]
fn what_text_steps_match_is_told_by_sort() {
    let home = Home::new().file(
        "r.toml",
        "[[step]]\ndo = \"mask\"\nkinds = [\"url\", \"mention\"]\n[[step]]\ndo = \"split\"\n",
    );
    let said = home.yarrup_with("try r.toml", &["@mira see https://example.org/a"], b"");
    assert!(
        said.out.contains("2 places changed; url 1: https://example.org/a; mention 1: @mira"),
        "{said:?}"
    );
    assert!(said.out.contains("<mention>·see·<url>"), "{said:?}");
}

#[test]
fn a_document_can_be_drawn_by_chance() {
    let lines: String = (0..50).map(|n| format!("{{\"id\":\"n{n}\",\"text\":\"tern {n}\"}}\n")).collect();
    let home = Home::with_recipe().file("notes.jsonl", lines);
    let drawn = |seed: &str| home.yarrup(&format!("try recipe.toml --from notes.jsonl --random {seed}"));
    assert_eq!(drawn("1").out, drawn("1").out);
    assert!((2..12).any(|seed| drawn(&seed.to_string()).out != drawn("1").out));
    assert!(drawn("").err.contains("document n"));
}

#[test]
fn a_changed_recipe_is_shown_again() {
    use std::io::{BufRead, BufReader};
    let home = Home::with_recipe();
    let mut child = home
        .command("try recipe.toml --watch")
        .arg("The terns")
        .stdout(std::process::Stdio::piped())
        .stderr(std::process::Stdio::null())
        .spawn()
        .expect("the program starts");
    let mut lines = BufReader::new(child.stdout.take().expect("its output")).lines();
    let mut next_clean = || lines.by_ref().map_while(Result::ok).find(|line| line.starts_with("clean"));
    assert_eq!(next_clean().as_deref(), Some("clean         tern"));
    std::fs::write(home.path("recipe.toml"), "[[step]]\ndo = \"case\"\nto = \"upper\"\n").expect("written");
    assert_eq!(next_clean().as_deref(), Some("clean       THE TERNS"));
    child.kill().expect("it can be ended");
    child.wait().expect("it ended");
}

#[test]
fn words_can_be_given_one_by_one() {
    let home = Home::with_recipe();
    assert!(home.done("try recipe.toml The terns nest").contains("clean         tern nest\n"));
    assert!(home.refused("try recipe.toml terns --from notes.jsonl").contains("cannot be used with"));
}

#[test]
fn every_step_is_told_as_data() {
    let home = Home::with_recipe();
    let said = home.yarrup_with("try recipe.toml --format json", &["The terns."], b"");
    let told: serde_json::Value = serde_json::from_str(&said.out).expect("JSON");
    let steps = told["steps"].as_array().expect("steps");
    assert_eq!(steps.len(), 5);
    assert_eq!(steps[0]["changes"][0], serde_json::json!({"start": 0, "end": 1, "was": "T", "now": "t"}));
    assert_eq!(
        steps[1]["tokens"][1],
        serde_json::json!({"form": "terns", "kind": "word", "start": 4, "end": 9, "sentence": null})
    );
    assert_eq!(
        steps[2]["tokens"][0],
        serde_json::json!({"form": "the", "fate": "dropped", "what": "stop word (en)", "start": 0})
    );
    assert_eq!(steps[4]["tokens"][0]["what"], "tern");
    assert_eq!(told["clean"], "tern");
    let stopped = home.yarrup_with("try recipe.toml --format json --step 1", &["The terns."], b"");
    let told: serde_json::Value = serde_json::from_str(&stopped.out).expect("JSON");
    assert_eq!((told["steps"].as_array().map(Vec::len), &told["clean"]), (Some(1), &serde_json::Value::Null));
}

#[test]
fn recipes_stand_in_columns_where_there_is_room() {
    let home = Home::with_recipe().file("other.toml", "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"stem\"\n");
    let said = home
        .command("try recipe.toml The terns --beside other.toml")
        .env("COLUMNS", "120")
        .output()
        .expect("ends");
    let out = String::from_utf8(said.stdout).expect("text");
    let lines: Vec<&str> = out.lines().collect();
    assert!(lines[0].starts_with("recipe.toml") && lines[0].ends_with("│ other.toml"), "{out}");
    // The steps that both have stand in one line.
    let split = lines.iter().find(|line| line.contains(" 2 split")).expect("a line");
    assert!(split.contains("│  1 split"), "{out}");
    let stem = lines.iter().find(|line| line.contains(" 5 stem")).expect("a line");
    assert!(stem.contains("│  2 stem"), "{out}");
}

#[test]
fn a_text_becomes_an_example_of_the_recipe() {
    let home = Home::with_recipe();
    let before = home.read("recipe.toml");
    home.done("try recipe.toml The terns nest --save-example");
    let after = home.read("recipe.toml");
    assert_eq!(after, format!("{before}\n[[example]]\ntext = \"The terns nest\"\nclean = \"tern nest\"\n"));
    assert!(home.done("check recipe.toml").contains("the example holds"));
    // Once more is the same once.
    home.done("try recipe.toml The terns nest --save-example");
    assert_eq!(home.read("recipe.toml"), after);
}
