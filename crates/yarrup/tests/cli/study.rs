//! `terms` and `why`.

use crate::home::Home;

fn home() -> Home {
    let home = Home::with_recipe().file(
        "notes.jsonl",
        "{\"text\":\"The terns nest, the nests\"}\n{\"text\":\"Nesting terns don't stop\"}\n{\"text\":\"The hide. A hide!\"}\n",
    );
    home.done("run recipe.toml notes.jsonl --out run");
    home
}

#[test]
fn terms_come_in_the_order_asked_for() {
    let home = home();
    let order = |options: &str| -> Vec<String> {
        let out = home.done(&format!("terms run --format csv {options}"));
        out.lines().skip(1).filter_map(|line| line.split(',').nth(1)).map(str::to_owned).collect()
    };
    assert_eq!(order(""), ["nest", "hide", "tern", "stop"]);
    assert_eq!(order("--sort documents"), ["nest", "tern", "hide", "stop"]);
    assert_eq!(order("--sort term"), ["hide", "nest", "stop", "tern"]);
    assert_eq!(order("--sort term --reverse"), ["tern", "stop", "nest", "hide"]);
    assert_eq!(order("--sort forms --top 1"), ["nest"]);
    assert_eq!(order("--reverse --top 1"), ["stop"]);
}

#[test]
fn terms_are_printed_as_table_csv_and_json() {
    let home = home();
    let table = home.done("terms run --top 2");
    assert!(table.contains("commonest form") && table.contains("2 of 4 terms"), "{table}");
    assert_eq!(home.done("terms run --top 0 --format csv"), home.read("run/vocabulary.csv"));
    let json: serde_json::Value = serde_json::from_str(&home.done("terms run --format json")).expect("JSON");
    assert_eq!((&json[0]["term"], &json[0]["count"]), (&serde_json::json!("nest"), &serde_json::json!(3)));
}

#[test]
fn the_journey_of_a_word_is_told() {
    let home = home();
    let out = home.done("why run nest");
    assert!(out.contains("the word `nest` (1 token in 1 document): kept as it is"), "{out}");
    assert!(out.contains("the term `nest` (3 tokens in 2 documents) comes from 3 forms:"), "{out}");
    assert!(out.contains("nesting") && out.contains("33.3 %"), "{out}");
    let out = home.done("why run the");
    assert!(
        out.contains(
            "the word `the` (3 tokens in 2 documents): dropped at step 3 (`stopwords`): stop word (en)"
        ),
        "{out}"
    );
    let out = home.done("why run terns");
    assert!(out.contains("kept as `tern`"), "{out}");
}

#[test]
fn a_word_that_a_text_step_rewrites_is_followed() {
    let out = home().done("why run NESTING");
    assert!(out.contains("`NESTING` is `nesting` at the split"), "{out}");
    assert!(out.contains("kept as `nest`"), "{out}");
    let out = home().yarrup("why run nest-box");
    assert!(out.out.contains("several tokens at the split: `nest`, `-`, `box`"), "{out:?}");
}

#[test]
fn an_unknown_word_is_said_to_be_unknown() {
    let said = home().yarrup("why run zebra");
    assert_eq!(said.code, Some(1));
    assert!(said.out.contains("`zebra` is not in this run"), "{said:?}");
}

#[test]
fn why_gives_its_facts_as_json() {
    let json: serde_json::Value =
        serde_json::from_str(&home().done("why run nest --format json")).expect("JSON");
    assert_eq!(json["as_term"].as_array().map(Vec::len), Some(3));
    let csv = home().done("why run nest --format csv");
    assert!(csv.starts_with("form,kind,tag,count,documents,fate,step,reason,term,part_of\n"), "{csv}");
}

#[test]
fn no_run_no_answer() {
    let home = Home::new().file("folder/x.txt", "x");
    for command in ["terms folder", "why folder x", "terms nowhere"] {
        assert!(home.refused(command).contains("no run folder here"));
    }
}

#[test]
fn a_rewritten_word_is_followed_without_the_recipes_own_lists() {
    let home = Home::new()
        .file(
            "house/r.toml",
            "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"stopwords\"\nlists = [\"own.txt\"]\n",
        )
        .file("house/own.txt", "the\n")
        .file("notes.txt", "The BIG tern");
    home.done("run house/r.toml notes.txt --out run");
    let out = home.done("why run BIG");
    assert!(out.contains("`BIG` is `big` at the split") && out.contains("the word `big` (1 token"), "{out}");
    assert!(home.done("why run THE").contains("dropped at step 3 (`stopwords`): stop word (own.txt)"));
}

#[test]
fn an_account_that_was_changed_cut_or_taken_away_is_told() {
    let home = home();
    let whole = std::fs::read(home.path("run/account.bin")).expect("the account");
    let told = |bytes: &[u8]| {
        std::fs::write(home.path("run/account.bin"), bytes).expect("written");
        let said = home.yarrup("terms run");
        assert_eq!(said.code, Some(2), "{said:?}");
        said.err
    };
    assert!(
        told(&whole[..whole.len() - 1]).contains("run/account.bin: damaged: the file was cut or changed")
    );
    let mut changed = whole.clone();
    changed[40] ^= 1;
    assert!(told(&changed).contains("cut or changed"));
    assert!(told(b"rank,term,count\n").contains("cut or changed"));
    std::fs::remove_file(home.path("run/account.bin")).expect("taken away");
    assert!(home.yarrup("why run tern").err.contains("account.bin: damaged: the file is missing"));
    // The tables are not read: what was done to them changes nothing.
    std::fs::write(home.path("run/account.bin"), &whole).expect("written");
    let before = home.done("terms run");
    std::fs::write(home.path("run/vocabulary.csv"), "nonsense").expect("written");
    std::fs::write(home.path("run/forms.csv"), "nonsense").expect("written");
    assert_eq!(home.done("terms run"), before);
    assert!(home.done("why run tern").contains("tern"));
}

#[test]
fn page_and_figures_are_drawn_again_from_the_account() {
    for recipe in ["recipe = \"r\"\nabout = \"for a try\"\n", ""] {
        let steps = "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\n[[step]]\ndo = \"stem\"\n";
        let home = home()
            .file("own.toml", format!("{recipe}{steps}"))
            .file("t.txt", "Terns nest. Nests on the spit!");
        home.done("run own.toml t.txt --out once --write documents,report,figures");
        let files = ["report.html", "figures/effects.svg", "figures/effects.png", "figures/top-terms.svg"];
        let bytes = || files.map(|file| std::fs::read(home.path("once").join(file)).expect("a file"));
        let before = bytes();
        std::fs::write(home.path("once/report.html"), "spoilt").expect("a file");
        std::fs::remove_dir_all(home.path("once/figures")).expect("a folder");
        std::fs::remove_file(home.path("t.txt")).expect("a file");
        let said = home.yarrup("redraw once");
        assert_eq!(said.code, Some(0), "{said:?}");
        assert!(bytes() == before, "drawn as before");
        let names = home.names("once");
        assert!(names.iter().all(|name| !name.contains("unfinished")), "{names:?}");
    }
    let home = home();
    let err = home.refused("redraw nothing");
    assert!(err.contains("nothing"), "{err}");
}
