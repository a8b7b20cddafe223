//! Starting a recipe: `new`, `schema`, `include`, and what is learned.

use crate::home::Home;

#[test]
fn every_aim_gives_a_recipe_that_passes_in_silence() {
    let home = Home::new();
    for aim in ["topics", "counts", "search", "sentences", "posts", "model-input"] {
        let said = home.done(&format!("new {aim}.toml --for {aim}"));
        assert!(said.contains(&format!("try {aim}.toml")), "{said}");
        assert!(home.done(&format!("check {aim}.toml")).contains("nothing to advise"), "{aim}");
    }
    let err = home.refused("new topics.toml --for posts");
    assert!(err.contains("topics.toml: is there already, and is left as it is"), "{err}");
    assert!(home.read("topics.toml").contains("recipe   = \"topics\""));
    home.done("new topics.toml --for posts --replace");
    assert!(home.read("topics.toml").contains("recipe   = \"posts\""));
    assert!(home.done("new - --for posts").starts_with("recipe   = \"posts\""));
    assert!(home.refused("new x.toml --for pots").contains("posts"));
    // In another language, by its tag or its name.
    let said = home.done("new themen.toml --for topics --language German");
    assert!(said.starts_with("themen.toml: a recipe for topics, for texts in `de`\n"), "{said}");
    let tried = home.yarrup_with("pipe themen.toml", &[], "{\"text\":\"Die Nester der Möwen\"}\n".as_bytes());
    assert!(tried.out.contains("\"clean\":\"nest mow\""), "{tried:?}");
    assert!(home.yarrup("check themen.toml").code == Some(0));
    let near = home.refused("new x.toml --for topics --language Gernam");
    assert!(near.contains("; did you mean `German`?"), "{near}");
    let refused = home.refused("new x.toml --for topics --language klingonish");
    assert!(
        refused.contains("--language: `klingonish` is not the name of a language that is known here"),
        "{refused}"
    );
}

#[test]
fn the_schema_knows_every_step_and_code() {
    let schema: serde_json::Value = serde_json::from_str(&Home::new().done("schema")).expect("JSON");
    let steps = schema["properties"]["step"]["items"]["oneOf"].as_array().expect("steps");
    let named: Vec<&str> =
        steps.iter().filter_map(|step| step["properties"]["do"]["const"].as_str()).collect();
    for operation in yarrup_core::OPERATIONS {
        assert!(named.contains(&operation.name), "{}", operation.name);
    }
    assert!(named.contains(&"include"));
    let split = steps.iter().find(|step| step["title"] == "split").expect("split");
    assert_eq!(split["properties"]["sentences"]["type"], "boolean");
    assert_eq!(split["properties"]["size"]["default"], 1);
    assert_eq!(split["additionalProperties"], false);
}

#[test]
fn a_house_recipe_is_brought_in_with_its_lists() {
    let home = Home::new()
        .file("house/clean.toml", "[[step]]\ndo = \"case\"\n\n[[step]]\ndo = \"replace\"\ntables = [\"pairs.csv\"]\nwhere = \"words\"\n")
        .file("house/pairs.csv", "from,to\ncolour,color\n")
        .file("r.toml", "[[step]]\ndo = \"include\"\nrecipe = \"house/clean.toml\"\n\n[[step]]\ndo = \"split\"\n");
    let said = home.yarrup_with("try r.toml", &["The Colour"], b"");
    assert!(said.out.contains("clean       the color\n"), "{said:?}");
    let home = home.file("house/clean.toml", "[[step]]\ndo = \"include\"\nrecipe = \"../r.toml\"\n");
    let home = home.file(
        "house/clean.toml",
        "[[step]]\ndo = \"erase\"\nclasses = [\"punctuation\"]\nto = \"nothing\"\n",
    );
    let said = home.yarrup("check r.toml");
    assert!(
        said.out.contains("step 1 stands in `house/clean.toml`") && !said.out.contains("--fix"),
        "{said:?}"
    );
    let home = home.file("house/clean.toml", "[[step]]\ndo = \"include\"\nrecipe = \"../r.toml\"\n");
    let err = home.refused("check r.toml");
    assert!(err.contains("recipes include one another") && err.contains("r.toml"), "{err}");
    let home = home.file("house/clean.toml", "[[step]]\ndo = \"cases\"\n");
    let err = home.refused("check r.toml");
    assert!(
        err.contains("`house/clean.toml` has mistakes") && err.contains("line 2: unknown step `cases`"),
        "{err}"
    );
    assert!(err.contains("r.toml:3:10"), "{err}");
}

const LEARNS: &str = "[[step]]\ndo = \"lines\"\nrepeated_in = 2\n\n[[step]]\ndo = \"split\"\n";

#[test]
fn repeated_lines_are_learned_dropped_and_frozen() {
    let home = Home::new().file("r.toml", LEARNS).file(
        "notes.jsonl",
        "{\"id\":1,\"text\":\"Gull Hide\\nfirst tern\"}\n{\"id\":2,\"text\":\"second\\nGull Hide\"}\n{\"id\":3,\"text\":\"third\"}\n",
    );
    for threads in [1, 2] {
        home.done(&format!(
            "run r.toml notes.jsonl --out run --with-originals --replace --threads {threads}"
        ));
        let documents = home.read("run/documents.jsonl");
        assert!(
            documents.contains("\"clean\":\"first tern\"") && documents.contains("\"clean\":\"second\""),
            "{documents}"
        );
        assert!(home.read("run/frozen.toml").contains("known = [\"Gull Hide\"]"));
        assert_eq!(home.read("run/recipe.toml"), LEARNS);
    }
    // The frozen recipe needs no collection any more.
    let said = home.yarrup_with("pipe run/frozen.toml", &[], b"{\"text\":\"Gull Hide\\nfourth\"}\n");
    assert!(said.out.contains("\"clean\":\"fourth\""), "{said:?}");
    let err = home.refused("pipe r.toml");
    assert!(err.contains("step 1 must first be trained on the full collection"), "{err}");
    // Standard input is put aside, and gives the same.
    let said = home.yarrup_with("run r.toml - --out two", &[], home.read("notes.jsonl").as_bytes());
    assert_eq!(said.code, Some(0), "{said:?}");
    assert_eq!(home.read("two/documents.jsonl"), home.read("run/documents.jsonl"));
    assert!(home.read("two/run.json").contains("\"name\": \"standard input\""));
    let said = home.yarrup_with("try r.toml", &["Gull Hide"], b"");
    assert!(said.err.contains("step 1 does nothing here before it has learned"), "{said:?}");
}
