//! New documents by the recipe of an earlier run, and what a recipe stands on.

use std::fs;

use serde_json::Value;

use crate::home::Home;

const RECIPE: &str = "recipe = \"birds\"\n[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\n[[step]]\ndo = \"drop\"\nkinds = [\"punctuation\"]\n\
                      [[step]]\ndo = \"stopwords\"\nlists = [\"ours.txt\"]\nshare = 0.9\n[[step]]\ndo = \"stem\"\n";

fn home() -> Home {
    let note = |text: &str| format!("{{\"text\":\"{text}\"}}\n");
    let june = ["The terns nest here", "Here a gull nests", "The owl is here"].map(note).concat();
    let july = ["The terns are here", "Here a puffin nests", "Puffins puffins"].map(note).concat();
    Home::new()
        .file("birds.toml", RECIPE)
        .file("ours.txt", "the\na\nis\n")
        .file("june.jsonl", june)
        .file("july.jsonl", july)
}

#[test]
fn new_documents_are_treated_as_the_old_ones_and_what_is_unknown_is_told() {
    let home = home();
    home.done("run birds.toml june.jsonl --out june --matrix june-matrix");
    // The list may change: the run has its own.
    fs::write(home.path("ours.txt"), "puffin\n").expect("another list");
    let out = home.done("run --frozen june july.jsonl --out july --matrix july-matrix");
    assert!(
        out.contains("Against june")
            && out.contains("40.00 % of the words (4) never came up there, such as puffins · are · puffin"),
        "{out}"
    );
    let record: Value = serde_json::from_str(&home.read("july/run.json")).expect("JSON");
    let against = &record["against"];
    assert_eq!(against["run"], "june");
    assert_eq!(against["unknown_words"], 4);
    assert_eq!(against["unknown_words_share"], 0.4);
    // Of tern, are, puffin, nest, puffin, puffin.
    assert_eq!(against["unknown_share"], 4.0 / 6.0);
    assert_eq!(home.read("june-matrix/terms.csv"), home.read("july-matrix/terms.csv"));
    // What one word was learned to be, it is: `here` is in every note of June, and in two of three of July.
    assert!(home.read("june/learned.csv").contains("here"));
    assert!(!home.read("july/vocabulary.csv").contains("here"));
    assert!(!home.path("july/learned.csv").exists());
    let compared = home.done("compare june july --measures");
    let line = compared.lines().find(|line| line.contains("unknown_share")).expect("a measure").to_owned();
    assert!(line.contains("0.66"), "{line}");
    assert!(home.refused("run --frozen nowhere july.jsonl --out x").contains("no run folder here"));
    assert!(home.refused("run --frozen june july.jsonl --locked --out x").contains("cannot be used with"));
}

#[test]
fn what_a_recipe_stands_on_is_locked() {
    let home = home();
    assert!(home.refused("run birds.toml june.jsonl --locked --out x").contains("lock birds.toml` makes it"));
    let out = home.done("lock birds.toml");
    assert_eq!(out, "birds.lock records birds.toml and 1 file that it names at yarrup 0.1.0\n");
    home.done("run birds.toml june.jsonl --locked --out june");
    fs::write(home.path("ours.txt"), "the\n").expect("another list");
    let said = home.yarrup("run birds.toml june.jsonl --out june-2");
    assert!(
        said.code == Some(0) && said.err.contains("birds.lock: not as it was locked: `ours.txt` has changed"),
        "{said:?}"
    );
    let refused = home.refused("run birds.toml june.jsonl --locked --out june-3");
    assert!(refused.contains("`ours.txt` has changed") && !home.path("june-3").exists(), "{refused}");
    fs::write(home.path("birds.toml"), RECIPE.replace("0.9", "0.8")).expect("another recipe");
    let refused = home.yarrup_with("pipe birds.toml --locked", &[], b"");
    assert!(
        refused.code == Some(2) && refused.err.contains("the recipe has changed; `ours.txt` has changed"),
        "{refused:?}"
    );
    let again = home.done("lock birds.toml");
    assert!(again.starts_with("the recipe has changed\n`ours.txt` has changed\n"), "{again}");
    home.done("run birds.toml june.jsonl --locked --out june-4");
    fs::write(home.path("birds.lock"), "yarrup = 3\n").expect("no lock");
    assert!(home.refused("run birds.toml june.jsonl --out june-5").contains("birds.lock: "));
}
