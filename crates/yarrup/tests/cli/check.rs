use crate::home::Home;

#[test]
fn a_good_recipe_is_passed_in_silence() {
    let said = Home::with_recipe().yarrup("check recipe.toml");
    assert_eq!(said.out, "recipe.toml: no mistakes, nothing to advise (5 steps)\n");
    assert_eq!(said.code, Some(0));
}

fn wrong_order() -> Home {
    Home::new().file(
        "r.toml",
        "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"erase\"\nclasses = [\"punctuation\"]\nto = \"nothing\"\n\
         [[step]]\ndo = \"stem\"\nmethod = \"porter\"\n[[step]]\ndo = \"stopwords\"\nadd = [\"don't\", \"this\", \"nest\"]\n",
    )
}

#[test]
fn entries_that_can_never_match_are_named_with_step_and_cure() {
    let said = wrong_order().yarrup("check r.toml");
    assert_eq!(said.code, Some(1));
    for told in [
        "warning[unreachable-entries]: 2 of 3 entries can never match here",
        "1 because of step 2 (`erase`): `don't` arrives as `dont`",
        "because of step 4 (`stem`): `this` arrives as `thi`",
        "r.toml:11:6",
        "add `spare = [\"'\"]` to step 2 (`erase`)",
        "move step 5 (`stopwords`) before step 4 (`stem`)",
        "r.toml: no mistakes, 2 warnings",
    ] {
        assert!(said.out.contains(told), "{told} in {}", said.out);
    }
}

#[test]
fn advice_comes_as_json_too() {
    let said = wrong_order().yarrup("check r.toml --format json");
    let value: serde_json::Value = serde_json::from_str(&said.out).expect("JSON");
    assert_eq!(said.code, Some(1));
    let advice = value["advice"].as_array().expect("advice");
    let lost = advice.iter().find(|advice| advice["code"] == "unreachable-entries").expect("of entries");
    assert_eq!(
        (&lost["entries"][0]["entry"], &lost["entries"][0]["arrives_as"][0]),
        (&"don't".into(), &"dont".into())
    );
    assert_eq!(lost["page"], "docs/advice.md#unreachable-entries");
    let joined = advice.iter().find(|advice| advice["code"] == "joined-words").expect("of joined words");
    assert!(joined["fixes"][0]["toml"].as_str().is_some_and(|toml| toml.starts_with("to = \"space\"")));
    let said = Home::new().file("r.toml", "[[step]]\ndo = \"cases\"\n").yarrup("check r.toml --format json");
    let value: serde_json::Value = serde_json::from_str(&said.out).expect("JSON");
    assert_eq!((said.code, &value["mistakes"][0]["line"]), (Some(2), &serde_json::json!(2)));
}

#[test]
fn the_recipes_of_the_demo_but_one_pass() {
    let home = Home::new();
    home.done("demo --into demo");
    for (recipe, code) in [("topics", 0), ("search", 0), ("wrong-order", 1)] {
        let said = home.yarrup(&format!("check demo/recipes/{recipe}.toml"));
        assert_eq!(said.code, Some(code), "{said:?}");
    }
}

#[test]
fn safe_changes_are_written() {
    let home = Home::new().file(
        "r.toml",
        "# ours\n[[step]]\ndo = \"erase\"   # marks\nclasses = [\"punctuation\"]\nto = \"nothing\"  # \"gone\"\n\n[[step]]\ndo = \"mask\"\nkinds = [\"url\"]\n\n\
         # words\n[[step]]\ndo = \"split\"\n",
    );
    let said = home.yarrup("check r.toml");
    assert_eq!(said.code, Some(1));
    for told in ["warning[joined-words]", "warning[never-finds]", "`and/or` becomes `andor`", "--fix makes"] {
        assert!(said.out.contains(told), "{told} in {}", said.out);
    }
    let said = home.yarrup("check r.toml --fix");
    assert_eq!(said.code, Some(0), "{said:?}");
    let mended = home.read("r.toml");
    let places: Vec<_> =
        ["\"mask\"", "# ours", "to = \"space\"  # \"gone\"", "inside_words", "# words", "\"split\""]
            .iter()
            .map(|part| mended.find(part).unwrap_or_else(|| panic!("{part} in {mended}")))
            .collect();
    assert!(places.is_sorted(), "{mended}");
    assert!(mended.contains("do = \"erase\"   # marks"));
}

#[test]
fn a_collection_shows_what_a_recipe_leaves() {
    let lines: String = (0..20)
        .map(|n| format!("{{\"text\":\"The terns' nest {n} isn't at https://example.org/a and not bad\"}}\n"))
        .chain(["{\"text\":\"the\"}\n".to_owned()])
        .collect();
    let home = Home::new().file("notes.jsonl", lines).file(
        "r.toml",
        "language = \"en\"\n[[step]]\ndo = \"markup\"\n[[step]]\ndo = \"split\"\n[[step]]\ndo = \"stopwords\"\nlists = [\"en\"]\n",
    );
    let said = home.yarrup("check r.toml notes.jsonl");
    assert_eq!(said.code, Some(1));
    for told in [
        "warning[no-effect]: `markup` changes nothing in this collection",
        "warning[documents-emptied]: 1 of 21 documents",
        "parts of links: `https` 20",
        "lone marks: `/`",
        "warning[negation-dropped]: 40 negations",
    ] {
        assert!(said.out.contains(told), "{told} in {}", said.out);
    }
    let allowed = home
        .read("r.toml")
        .replace("language", "allow = [\"remnants\", \"no-effect\", \"documents-emptied\"]\nlanguage");
    let allowed = allowed.replace("lists", "allow = [\"negation-dropped\"]\nlists");
    assert!(home.file("r.toml", allowed).done("check r.toml notes.jsonl").contains("nothing to advise"));
}

#[test]
fn words_are_no_remnants_of_links_where_the_recipe_sees_to_links() {
    let home = Home::new().file("notes.jsonl", "{\"text\":\"the HTML of www and http pages\"}\n".repeat(20));
    let recipe = "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"drop\"\nkinds = [\"punctuation\"]\n";
    let masked = format!("[[step]]\ndo = \"mask\"\nkinds = [\"url\"]\n{recipe}");
    let home = home.file("bare.toml", recipe).file("masked.toml", masked);
    let said = home.yarrup("check bare.toml notes.jsonl");
    assert!(said.out.contains("parts of links: `HTML` 20, `http` 20, `www` 20"), "{said:?}");
    let said = home.yarrup("check masked.toml notes.jsonl");
    assert!(!said.out.contains("remnants"), "{said:?}");
}

#[test]
fn every_code_has_its_page() {
    let page = std::fs::read_to_string(
        std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/advice.md"),
    )
    .expect("the page");
    let sections: Vec<&str> = page.lines().filter_map(|line| line.strip_prefix("## ")).collect();
    let codes: Vec<&str> = yarrup_core::recipe::CODES.iter().map(|code| code.name).collect();
    assert_eq!(sections, codes);
}

#[test]
fn examples_are_tested_and_the_step_named_that_made_the_difference() {
    let recipe = "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\n[[step]]\ndo = \"stem\"\nlabel = \"short\"\n\
                  [[example]]\ntext = \"Terns nest\"\nclean = \"tern nest\"\n\
                  [[example]]\nabout = \"names stay\"\ntext = \"Terns nest\"\nkeeps = [\"gull\"]\ntokens = [\"terns\", \"nest\"]\n";
    let home = Home::new().file("r.toml", recipe);
    let said = home.yarrup("check r.toml");
    assert_eq!(said.code, Some(1), "{said:?}");
    assert!(said.out.contains("r.toml:11: the example does not hold, names stay"), "{said:?}");
    assert!(
        said.out.contains("expected  terns | nest") && said.out.contains("got       tern | nest"),
        "{said:?}"
    );
    assert!(said.out.contains("step 3 (short) makes `tern` of `terns`"), "{said:?}");
    assert!(said.out.contains("1 of 2 examples does not hold"), "{said:?}");
    let json: serde_json::Value =
        serde_json::from_str(&home.yarrup("check r.toml --format json").out).expect("JSON");
    assert_eq!(
        (&json["examples"][0]["holds"], &json["examples"][1]["misses"][0]["step"]),
        (&true.into(), &3.into())
    );
    // What holds is no reason to fail.
    let good = Home::new().file("r.toml", recipe.split("[[example]]\nabout").next().unwrap_or_default());
    assert!(good.done("check r.toml").contains("the example holds"));
    let bad = Home::new().file("r.toml", "[[step]]\ndo = \"case\"\n[[example]]\ntext = \"a\"\n");
    assert!(bad.refused("check r.toml").contains("an example that cannot fail"));
}

/// The recipe is checked again when it is saved; the documents are those that were read at the start.
#[test]
fn a_recipe_is_watched_with_the_documents_in_memory() {
    use std::io::{BufRead, BufReader};
    let home = Home::new()
        .file("r.toml", "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"drop\"\nkinds = [\"emoji\"]\n")
        .file("notes.jsonl", "{\"text\":\"Terns nest\"}\n{\"text\":\"Gulls nest\"}\n");
    let mut child = home
        .command("check r.toml notes.jsonl --watch")
        .stdout(std::process::Stdio::piped())
        .stderr(std::process::Stdio::null())
        .spawn()
        .expect("it starts");
    let mut lines = BufReader::new(child.stdout.take().expect("its output")).lines();
    let mut until = |wanted: &str| {
        let found = lines.by_ref().map_while(Result::ok).find(|line| line.contains(wanted));
        found.unwrap_or_else(|| panic!("{wanted}"))
    };
    until("changes nothing");
    until("r.toml: no mistakes, 1 warning");
    std::fs::remove_file(home.path("notes.jsonl")).expect("gone");
    std::fs::write(home.path("r.toml"), "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"stem\"\n").expect("saved");
    until("nothing to advise (3 steps)");
    child.kill().expect("it is ended");
    child.wait().expect("it ends");
}
