//! The account holds in every corner: joined tokens, included recipes, lists of several words, what goes out.

use serde_json::{Value, json};

use crate::home::Home;

/// The cells of a row of `effects.csv` by name.
fn effect(home: &Home, run: &str, step: usize) -> impl Fn(&str) -> u64 + use<> {
    let path = home.path(&format!("{run}/effects.csv"));
    let mut table = csv::Reader::from_path(path).expect("a table");
    let header = table.headers().expect("a header").clone();
    let row = table.records().nth(step).expect("the step").expect("a row");
    move |name| {
        let at = header.iter().position(|column| column == name).unwrap_or_else(|| panic!("{name}"));
        row[at].parse().unwrap_or(0)
    }
}

#[test]
fn every_row_adds_up_where_tokens_are_joined_and_marked() {
    let home = Home::new()
        .file("notes.jsonl", "{\"text\":\"The barn owl sat. Barn owls and a barn.\"}\n{\"text\":\"A Barn Owl, the owl\"}\n")
        .file(
            "recipe.toml",
            "[[step]]\ndo = \"tag\"\n[[step]]\ndo = \"phrases\"\nadd = [\"barn owl\"]\n[[step]]\ndo = \"ngrams\"\nsmallest = 1\n\
             [[step]]\ndo = \"equate\"\nwords = { \"a\" = \"one\", \"barn owl\" = \"owl\" }\n[[step]]\ndo = \"unique\"\n",
        );
    let shown = home.done("run recipe.toml notes.jsonl --out run");
    assert!(shown.contains("joined") && shown.contains("made") && shown.contains("marked"), "{shown}");
    let mut before = effect(&home, "run", 1)("tokens_out");
    for step in 2..=6 {
        let cell = effect(&home, "run", step);
        assert_eq!(cell("tokens_in"), before, "step {step}");
        let out = cell("tokens_in") - cell("tokens_dropped") - cell("tokens_joined") + cell("tokens_added");
        assert_eq!(out, cell("tokens_out"), "step {step}");
        before = out;
    }
    assert_eq!(
        (effect(&home, "run", 2)("tokens_marked"), effect(&home, "run", 2)("tokens_changed")),
        (17, 0)
    );
    let page = home.read("run/report.html");
    assert!(page.contains(">joined</th>") && page.contains("− joined + made = left"), "the page adds up too");
    // `why` of every term is its row.
    for row in home.rows("run/vocabulary.csv") {
        let said = home.yarrup_with("why run --format json", &[&row[1]], b"");
        let told: Value = serde_json::from_str(&said.out).expect("JSON");
        let sum: u64 = told["as_term"]
            .as_array()
            .expect("rows")
            .iter()
            .map(|row| row["count"].as_u64().unwrap_or(0))
            .sum();
        assert_eq!(
            (sum.to_string(), told["documents"].to_string()),
            (row[2].clone(), row[3].clone()),
            "{row:?}"
        );
    }
    let why = home.yarrup_with("why run", &["barn_owl"], b"");
    assert!(why.out.contains("the token `barn_owl` was made of"), "{why:?}");
}

#[test]
fn recipes_that_include_others_learn_and_are_kept_with_the_run() {
    let home = Home::new()
        .file("notes.jsonl", "{\"text\":\"the colour of terns\"}\n{\"text\":\"the gull, the colour\"}\n")
        .file("pairs.csv", "colour,color\n")
        .file("house/stop.txt", "of\n")
        .file(
            "house/clean.toml",
            "spare = [\"gull\"]\n[[step]]\ndo = \"replace\"\ntables = [\"../pairs.csv\"]\n[[step]]\ndo = \"split\"\n[[step]]\ndo = \"stopwords\"\nlists = [\"stop.txt\"]\nshare = 0.9\n",
        )
        .file("recipe.toml", "# ours\n[[step]]\ndo = \"include\"\nrecipe = \"house/clean.toml\"\n[[step]]\ndo = \"limit\"\nmin_count = 1\n[step.only]\nkind = \"note\"\n")
        .file("where.jsonl", "{\"kind\":\"note\",\"text\":\"colour\"}\n");
    let said = home.yarrup("run recipe.toml notes.jsonl where.jsonl --out run");
    assert_eq!(said.code, Some(0), "{said:?}");
    let frozen = home.read("run/frozen.toml");
    assert!(frozen.contains("known = [\"color\"]"), "{frozen}");
    assert!(frozen.contains("\"house/stop.txt\"") && frozen.contains("house/../pairs.csv"), "{frozen}");
    // The folder alone is enough, and tells what an edit of the list would hide.
    let clean = |home: &Home, recipe: &str| {
        home.yarrup_with(&format!("pipe {recipe}"), &[], b"{\"text\":\"the colour of gull\"}\n").out
    };
    let before = clean(&home, "run/frozen.toml");
    std::fs::remove_dir_all(home.path("house")).expect("removed");
    std::fs::remove_file(home.path("pairs.csv")).expect("removed");
    assert_eq!(clean(&home, "run/frozen.toml"), before);
    // `color` is in every document, and was learned; `gull` is in most, and spared.
    assert!(before.contains("\"clean\":\"the gull\""), "{before}");
    let why = home.done("why run colour");
    assert!(why.contains("`colour` is `color` at the split"), "{why}");
}

#[test]
fn faults_of_included_recipes_are_drawn_where_they_are_included() {
    let home = Home::new()
        .file("deep/house.toml", "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"stem\"\nrules = \"own/rules.toml\"\n[[step]]\ndo = \"equate\"\ntables = [\"own/pairs.csv\"]\n")
        .file("r.toml", "[[step]]\ndo = \"include\"\nrecipe = \"deep/house.toml\"\n");
    let err = home.refused("check r.toml");
    for part in
        ["no file `deep/own/rules.toml`", "no table of pairs `deep/own/pairs.csv`", "r.toml:2:", "2 mistakes"]
    {
        assert!(err.contains(part), "{part} in {err}");
    }
    let home =
        home.file("deep/own/rules.toml", "[endings]\ns = \"\"\n").file("deep/own/pairs.csv", "gull,bird\n");
    let said = home.yarrup_with("try r.toml", &["terns and gulls"], b"");
    assert!(said.out.contains("tern and bird"), "{said:?}");
}

#[test]
fn steps_in_one_array_can_learn_and_what_learns_nothing_runs_again() {
    let home = Home::new()
        .file("notes.jsonl", "{\"text\":\"tern gull\"}\n")
        .file("recipe.toml", "step = [{ do = \"stem\", show = \"commonest\" }, { do = \"phrases\", learn = true }, { do = \"limit\", min_count = 9 }]\n");
    home.done("run recipe.toml notes.jsonl --out run");
    let frozen = home.read("run/frozen.toml");
    assert_eq!(frozen.matches("known").count(), 3, "{frozen}");
    home.done("run run/frozen.toml notes.jsonl --out again");
    assert_eq!(home.read("again/vocabulary.csv"), home.read("run/vocabulary.csv"));
}

#[test]
fn what_goes_out_is_what_came_in() {
    let home = Home::with_recipe()
        .file("notes.jsonl", "{\"id\": 7, \"title\": null, \"body\": \"terns\", \"text\": \"x\", \"deep\": {\"n\": 1}}\n{\"id\": \"7b\", \"title\": 5, \"body\": null}\n{\"id\": 12345678901234567890, \"body\": \"gull\"}\n")
        .file("cards.csv", "id,text,code\n1,tern,007\n2,gull,008\n")
        .file("pretty.json", "[\n  {\n    \"id\": 1,\n    \"text\": \"tern\",\n    \"tags\": [\n      \"a\",\n      \"b c\"\n    ]\n  }\n]\n");
    home.done("run recipe.toml notes.jsonl --out run --with-originals --text body --title title");
    let lines: Vec<String> = home.read("run/documents.jsonl").lines().map(str::to_owned).collect();
    assert!(lines[0].starts_with("{\"id\":7,\"title\":null,\"body\":\"terns\",\"carried_text\":\"x\",\"deep\":{\"n\": 1},\"text\":\"terns\""), "{}", lines[0]);
    assert!(lines[1].starts_with("{\"id\":\"7b\",\"title\":5,\"body\":null,\"text\":null"), "{}", lines[1]);
    assert!(lines[2].starts_with("{\"id\":12345678901234567890,"), "{}", lines[2]);
    home.done("run recipe.toml notes.jsonl --out bare --text body --title title --without-originals");
    assert!(!home.read("bare/documents.jsonl").contains("terns"));
    home.done("run recipe.toml cards.csv --out cards --with-originals");
    let card: Value =
        serde_json::from_str(home.read("cards/documents.jsonl").lines().next().expect("a line"))
            .expect("JSON");
    assert_eq!((&card["id"], &card["code"]), (&json!(1), &json!("007")));
    home.done("run recipe.toml pretty.json --out pretty --with-originals");
    let pretty = home.read("pretty/documents.jsonl");
    assert_eq!(pretty.lines().count(), 1, "{pretty}");
    assert!(pretty.contains("\"tags\":[\"a\",\"b c\"]"), "{pretty}");
    let piped = home.yarrup_with("pipe recipe.toml", &[], b"{\"id\": 7, \"text\": null}\n");
    assert_eq!(piped.out, "{\"id\":7,\"text\":null,\"clean\":\"\"}\n");
}

#[test]
fn splitting_the_cleaned_text_gives_the_vocabulary() {
    let home = Home::new()
        .file("notes.jsonl", "{\"text\":\"a nest box \\u200f and \\u0301 seagulls \\u00ad -5 m\"}\n{\"text\":\"grey gull. Grey gull\"}\n")
        .file(
            "recipe.toml",
            "[[step]]\ndo = \"equate\"\nwords = { \"nest box\" = \"box of nests\", seagulls = \"grey gull\" }\n[[step]]\ndo = \"phrases\"\nadd = [\"grey gull\"]\njoin = \"+\"\n\
             [[step]]\ndo = \"replace\"\npattern = \"^and$\"\nwith = \"x y\"\n",
        );
    home.done("run recipe.toml notes.jsonl --out run");
    let mut counted = std::collections::BTreeMap::<String, u64>::new();
    for line in home.read("run/documents.jsonl").lines() {
        let document: Value = serde_json::from_str(line).expect("JSON");
        for term in document["clean"].as_str().expect("a text").split_whitespace() {
            *counted.entry(term.to_owned()).or_default() += 1;
        }
    }
    let told: std::collections::BTreeMap<String, u64> = home
        .rows("run/vocabulary.csv")
        .into_iter()
        .map(|row| (row[1].clone(), row[2].parse().expect("a count")))
        .collect();
    assert_eq!(counted, told);
    assert_eq!(told["grey+gull"], 2);
    assert!(told.contains_key("box+of+nests") && told.contains_key("x+y") && told.contains_key("-5"));
    let bad = home.file("bad.toml", "[[step]]\ndo = \"ngrams\"\njoin = \" \"\n");
    assert!(bad.refused("check bad.toml").contains("`join` holds white space"));
}

#[test]
fn lemmas_are_told_where_a_step_made_them() {
    let home = Home::new()
        .file("recipe.toml", "[[step]]\ndo = \"lemma\"\nspare = [\"eggs\"]\n[[step]]\ndo = \"phrases\"\nadd = [\"nest box\"]\n")
        .file("plain.toml", "[[step]]\ndo = \"stem\"\n")
        .file("notes.jsonl", "{\"text\":\"Nest boxes, eggs 7\"}\n");
    let lemmas = |recipe: &str| -> Vec<Value> {
        let said =
            home.yarrup_with(&format!("pipe {recipe} --tokens"), &[], home.read("notes.jsonl").as_bytes());
        let document: Value = serde_json::from_str(&said.out).expect("JSON");
        document["tokens"].as_array().expect("tokens").iter().map(|token| token["lemma"].clone()).collect()
    };
    // `nest_box` is of no lemma step, and neither are a spared word, a mark and a number.
    assert_eq!(lemmas("recipe.toml"), vec![Value::Null; 4]);
    assert_eq!(lemmas("plain.toml"), vec![Value::Null; 5]);
    home.done("run recipe.toml notes.jsonl --out run");
    let conllu = home.done("export run --as conllu");
    assert!(conllu.contains("Nest boxes\t_\t") && conllu.contains("|Term=nest_box"), "{conllu}");
    assert!(conllu.contains("7\t7\t"), "{conllu}");
}

#[test]
fn one_slip_hides_no_other_mistake() {
    let home = Home::new().file("r.toml", "[[step]]\ndo = \"case\"\nto = lower\n[[step]]\ndo = \"stem\"\nmethod = \"porters\"\n[[step]]\ndo = \"stpwords\"\n");
    let err = home.refused("check r.toml");
    for part in ["not valid TOML", "wrong value for `method`", "unknown step `stpwords`", "3 mistakes"] {
        assert!(err.contains(part), "{part} in {err}");
    }
}

#[test]
fn joined_words_are_listed_on_request() {
    let home = Home::new()
        .file("r.toml", "[[step]]\ndo = \"erase\"\nclasses = [\"punctuation\"]\nto = \"nothing\"\n[[step]]\ndo = \"split\"\n")
        .file("notes.jsonl", "{\"text\":\"a book--but not; a book--but\"}\n{\"text\":\"and/or\"}\n");
    let said = home.yarrup("check r.toml notes.jsonl --joined --format json");
    let told: Value = serde_json::from_str(&said.out).expect("JSON");
    assert_eq!(
        told["joined"],
        json!([
            {"found": "book--but", "count": 2, "documents": 1, "step": 1},
            {"found": "and/or", "count": 1, "documents": 1, "step": 1},
        ])
    );
    assert!(home.yarrup("check r.toml notes.jsonl --joined").out.contains("words that are joined"));
    assert!(home.refused("check r.toml --joined").contains("SOURCE"));
}

#[test]
fn texts_are_cut_at_a_line_of_ones_own() {
    let home = Home::new().file("cookies.txt", "one tern\n%\ntwo\nlines\n%  \n\n%\nlast % one");
    let texts: Vec<Value> = home
        .documents_with("cookies.txt", &["--separator-line", "%"])
        .into_iter()
        .map(|document| document["text"].clone())
        .collect();
    assert_eq!(texts, ["one tern", "two\nlines", "last % one"]);
    let home = home.file("rules.txt", "terns\n-----\n---\ngulls\n------- \nherons\n");
    let texts = home.documents_with("rules.txt", &["--separator-line", "^-{5,}$"]);
    let texts: Vec<_> = texts.iter().map(|document| document["text"].clone()).collect();
    assert_eq!(texts, ["terns", "---\ngulls", "herons"]);
    let said = home.yarrup_with("look rules.txt", &["--separator-line", "^(x"], b"");
    assert!(said.err.contains("`^(x` is not a regular expression: unclosed group"), "{said:?}");
    let said = home.yarrup_with("look cookies.txt", &["--separator-line", " "], b"");
    assert!(said.err.contains("`separator_line` must be one line"), "{said:?}");
}

#[test]
fn long_lists_cost_a_look_up() {
    let words: String = (0..5_000).map(|n| format!("harrier{n} of marsh{n}\n")).collect();
    let home = Home::new()
        .file("phrases.txt", words)
        .file("r.toml", "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"phrases\"\nlists = [\"phrases.txt\"]\n");
    let begun = std::time::Instant::now();
    let said = home.done("check r.toml");
    assert!(said.contains("nothing to advise"), "{said}");
    // An unoptimised build on a busy machine: what grows with the square takes minutes.
    assert!(begun.elapsed().as_secs() < 20, "{:?}", begun.elapsed());
}

/// The demo's documents, counted again by hand from what the run wrote.
#[test]
fn the_demo_adds_up_by_hand() {
    let home = Home::new();
    home.done("demo --into d");
    for recipe in ["topics", "search", "words"] {
        home.done(&format!("run d/recipes/{recipe}.toml d/saltmere.toml --out {recipe}"));
        let mut counted = std::collections::BTreeMap::<String, (u64, u64)>::new();
        for line in home.read(&format!("{recipe}/documents.jsonl")).lines() {
            let document: Value = serde_json::from_str(line).expect("JSON");
            let terms: Vec<&str> = document["clean"].as_str().expect("a text").split_whitespace().collect();
            assert_eq!(Some(terms.len() as u64), document["tokens_after"].as_u64(), "{line}");
            let distinct: std::collections::BTreeSet<&str> = terms.iter().copied().collect();
            terms.iter().for_each(|term| counted.entry((*term).to_owned()).or_default().0 += 1);
            distinct.iter().for_each(|term| counted.entry((*term).to_owned()).or_default().1 += 1);
        }
        // A cell that would begin a formula has a sign in front.
        let plain = |cell: &str| match cell.strip_prefix('\'') {
            Some(rest) if rest.starts_with(['=', '+', '-', '@']) => rest.to_owned(),
            _ => cell.to_owned(),
        };
        let number = |cell: &str| cell.parse::<u64>().unwrap_or(0);
        let vocabulary = home.rows(&format!("{recipe}/vocabulary.csv"));
        let told: std::collections::BTreeMap<String, (u64, u64)> =
            vocabulary.iter().map(|row| (plain(&row[1]), (number(&row[2]), number(&row[3])))).collect();
        assert_eq!(counted, told, "{recipe}");
        let mut of_forms =
            std::collections::BTreeMap::<String, (u64, std::collections::BTreeSet<String>)>::new();
        for row in home.rows(&format!("{recipe}/forms.csv")).iter().filter(|row| row[5] == "kept") {
            let entry = of_forms.entry(plain(&row[8])).or_default();
            entry.0 += number(&row[3]);
            entry.1.insert(row[0].clone());
        }
        for row in &vocabulary {
            let (count, forms) = &of_forms[&plain(&row[1])];
            assert_eq!((*count, forms.len() as u64), (number(&row[2]), number(&row[8])), "{row:?}");
        }
        let dropped: u64 = home
            .rows(&format!("{recipe}/forms.csv"))
            .iter()
            .filter(|row| row[5] == "dropped")
            .map(|row| number(&row[3]))
            .sum();
        let effects = home.rows(&format!("{recipe}/effects.csv"));
        assert_eq!(dropped, effects.iter().map(|row| number(&row[5])).sum::<u64>(), "{recipe}");
        for row in effects.iter().filter(|row| !row[4].is_empty()) {
            let out = number(&row[4]) - number(&row[5]) - number(&row[14]) + number(&row[6]);
            assert_eq!(out, number(&row[8]), "{recipe}: {row:?}");
        }
    }
}
