//! `compare`: recipes on one collection, and runs, against one another.

use std::collections::BTreeMap;

use serde_json::Value;

use crate::home::Home;

const STEM: &str = "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\n[[step]]\ndo = \"drop\"\nkinds = [\"punctuation\"]\n\
                    [[step]]\ndo = \"stopwords\"\nadd = [\"the\", \"of\"]\n[[step]]\ndo = \"stem\"\n";

/// Posts of two wards, in which each fault that is compared for comes up a known number of times.
fn home() -> Home {
    let mut notes = String::new();
    for number in 0..12 {
        let ward = if number % 2 == 0 { "north" } else { "south" };
        let text = match number % 3 {
            0 => "The universe of terns, the university of terns.",
            1 => "One tern nests; two terns nesting at the well-kept hide.",
            _ => "The hide of the gull: nothing new.",
        };
        notes.push_str(&format!(
            "{{\"id\":\"n{number}\",\"text\":\"{text}\",\"ward\":\"{ward}\",\"about\":\"{}\"}}\n",
            number % 3
        ));
    }
    Home::new()
        .file("stem.toml", STEM)
        .file("lemma.toml", STEM.replace("do = \"stem\"", "do = \"lemma\"\nlanguage = \"en\""))
        .file(
            "late.toml",
            STEM.replace("do = \"split\"\n", "do = \"split\"\ninto = \"spaces\"\n")
                .replace("add = [\"the\", \"of\"]", "add = [\"the\", \"of\", \"one\"]"),
        )
        .file("notes.jsonl", notes)
}

fn json(out: &str) -> Value {
    serde_json::from_str(out).unwrap_or_else(|why| panic!("{why}: {out}"))
}

/// The rows of a table by their first cells.
fn table(text: &str) -> Vec<BTreeMap<String, String>> {
    let mut reader = csv::Reader::from_reader(text.as_bytes());
    let names = reader.headers().expect("a header").clone();
    let row =
        |row: csv::StringRecord| names.iter().map(str::to_owned).zip(row.iter().map(str::to_owned)).collect();
    reader.records().map(|record| row(record.expect("a row"))).collect()
}

#[test]
fn two_recipes_are_told_apart_by_words_and_documents() {
    let home = home();
    let out = home.done("compare stem.toml lemma.toml --on notes.jsonl");
    assert!(out.contains("2 recipes compared on 12 documents from 1 file"), "{out}");
    assert!(out.contains("univers = universe 4 + university 4"), "{out}");
    assert!(out.contains("only in A: 1 group, 4 tokens"), "{out}");
    assert!(out.contains("the other 4 steps are the same in both"), "{out}");
    // Four notes have the universe, and each loses a form of two.
    assert!(out.contains("becomes universe (4), university (4)"), "{out}");
}

/// What is counted for each recipe beside others is what a run of its own counts, and what a script would.
#[test]
fn every_count_is_that_of_a_run_of_its_own() {
    let home = home();
    let whole =
        json(&home.done("compare stem.toml lemma.toml late.toml --on notes.jsonl --format json --rows 100"));
    let mut vocabularies = Vec::new();
    for (place, name) in ["stem", "lemma", "late"].iter().enumerate() {
        home.done(&format!("run {name}.toml notes.jsonl --out {name}"));
        let terms: BTreeMap<String, u64> = table(&home.read(&format!("{name}/vocabulary.csv")))
            .into_iter()
            .map(|row| (row["term"].clone(), row["count"].parse().expect("a number")))
            .collect();
        let overview = &whole["sides"][place]["overview"];
        assert_eq!(overview["terms"], terms.len());
        assert_eq!(overview["tokens"], terms.values().sum::<u64>());
        assert_eq!(overview["hapaxes"], terms.values().filter(|count| **count == 1).count());
        vocabularies.push(terms);
    }
    for (pair, other) in whole["pairs"].as_array().expect("pairs").iter().zip(&vocabularies[1..]) {
        let first = &vocabularies[0];
        let gone: u64 =
            first.iter().filter(|(term, _)| !other.contains_key(*term)).map(|(_, count)| count).sum();
        let new: u64 =
            other.iter().filter(|(term, _)| !first.contains_key(*term)).map(|(_, count)| count).sum();
        assert_eq!(pair["vocabulary"]["only_here"]["tokens"], gone);
        assert_eq!(pair["vocabulary"]["only_there"]["tokens"], new);
        let common = first.keys().filter(|term| other.contains_key(*term)).count();
        assert_eq!(pair["vocabulary"]["common"], common);
        let shared = common as f64 / (first.len() + other.len() - common) as f64;
        assert!((pair["measures"]["shared_terms"].as_f64().expect("a number") - shared).abs() < 1e-12);
        // Every token of a missing term is accounted for.
        for row in pair["vocabulary"]["only_here"]["list"].as_array().expect("rows") {
            let told: u64 =
                row["whither"].as_array().expect("ends").iter().filter_map(|end| end[1].as_u64()).sum();
            assert_eq!(told, row["count"].as_u64().expect("a count"), "{row}");
        }
    }
}

/// The documents that differ, counted from what runs leave of each.
#[test]
fn documents_differ_by_their_terms() {
    let home = home();
    let whole =
        json(&home.done("compare stem.toml lemma.toml --on notes.jsonl --by ward --format json --rows 100"));
    let clean = |name: &str| -> Vec<Vec<String>> {
        home.done(&format!("run {name}.toml notes.jsonl --out {name}"));
        let lines = home.read(&format!("{name}/documents.jsonl"));
        let words = |line: &str| {
            let mut words: Vec<String> =
                json(line)["clean"].as_str().expect("a text").split_whitespace().map(str::to_owned).collect();
            words.sort();
            words
        };
        lines.lines().map(words).collect()
    };
    let (stem, lemma) = (clean("stem"), clean("lemma"));
    let changed = stem.iter().zip(&lemma).filter(|(one, other)| one != other).count();
    let found = &whole["pairs"][0]["documents"];
    assert_eq!(found["all"]["changed"], changed);
    assert_eq!(found["list"].as_array().map(Vec::len), Some(changed));
    assert_eq!(found["groups"]["north"]["documents"], 6);
    let of_groups: u64 =
        ["north", "south"].iter().filter_map(|group| found["groups"][group]["changed"].as_u64()).sum();
    assert_eq!(of_groups, changed as u64);
    let first = &found["list"][0];
    assert_eq!(first["differences"][0]["here"], serde_json::json!(["univers"]));
}

#[test]
fn splitters_disagree_where_they_do() {
    let home = home();
    let whole = json(&home.done("compare stem.toml late.toml --on notes.jsonl --format json --rows 100"));
    let splits = &whole["pairs"][0]["splits"];
    let list = splits["list"].as_array().expect("rows");
    let kept = list.iter().find(|row| row["there"][0] == "well-kept").expect("a word with a hyphen");
    assert_eq!((kept["kind"].as_str(), kept["count"].as_u64()), (Some("whole"), Some(4)));
    assert_eq!(kept["here"], serde_json::json!(["well", "-", "kept"]));
    let of_kinds: u64 =
        splits["kinds"].as_array().expect("kinds").iter().filter_map(|row| row["count"].as_u64()).sum();
    assert_eq!(of_kinds, list.iter().filter_map(|row| row["count"].as_u64()).sum::<u64>());
    let steps = whole["pairs"][0]["steps"].as_array().expect("steps");
    let stopwords = steps.iter().find(|step| step["operation"] == "stopwords").expect("a step");
    assert_eq!(stopwords["keys"][0]["entries_there"], serde_json::json!(["one"]));
}

#[test]
fn steps_are_left_out_in_turn_and_idle_ones_told() {
    let home = home().file("idle.toml", format!("{STEM}[[step]]\ndo = \"drop\"\nkinds = [\"emoji\"]\n"));
    let out = home.done("compare idle.toml --each-step-out --on notes.jsonl");
    assert!(out.contains("7 recipes compared"), "{out}");
    assert!(out.contains("step 6 drop changes nothing in this place"), "{out}");
    assert!(!out.contains("step 5 stem changes nothing"), "{out}");
    let csv = table(&home.done("compare idle.toml --each-step-out --on notes.jsonl --format csv"));
    let without = csv.iter().find(|row| row["name"] == "without 4 stopwords").expect("a row");
    // `the` twice in each of eight notes and once in four, `of` twice in four and once in four.
    let tokens = |row: &BTreeMap<String, String>| row["tokens"].parse::<u64>().expect("a number");
    assert_eq!(tokens(without) - tokens(&csv[0]), 20 + 12);
}

#[test]
fn all_combinations_of_values_are_compared() {
    let home = home();
    let rows = table(&home.done("compare stem.toml --vary stem.method=porter2,s --vary stopwords=on,off --on notes.jsonl --format csv"));
    let settings: Vec<(&str, &str)> =
        rows.iter().map(|row| (row["stem.method"].as_str(), row["stopwords"].as_str())).collect();
    // The recipe as it is has Porter's second stemmer, but does not say so.
    assert_eq!(settings, [("", ""), ("porter2", "on"), ("porter2", "off"), ("s", "on"), ("s", "off")]);
    assert_eq!((&rows[0]["terms"], &rows[0]["shared_tokens"]), (&rows[1]["terms"], &String::new()));
    assert_eq!(rows[1]["shared_tokens"], "1.000000");
    for (vary, told) in [
        ("stem.method=harman", "expected one of"),
        ("stem.methd=s", "did you mean `method`?"),
        ("stemm.method=s", "did you mean `stem`?"),
        ("9.method=s", "there is no step 9; the recipe has 5"),
        ("stem=maybe", "`on` or `off`"),
        ("stem.method", "say it as STEP.KEY=VALUE"),
    ] {
        let said = home.refused(&format!("compare stem.toml --vary {vary} --on notes.jsonl"));
        assert!(said.contains(told), "{vary}: {said}");
    }
}

#[test]
fn labels_are_told_from_the_terms_as_well_as_they_can_be() {
    let home = home();
    let whole = json(&home.done("compare stem.toml lemma.toml --on notes.jsonl --label about --format json"));
    let label = &whole["sides"][0]["label"];
    // Three texts, each with a label of its own: whoever has seen four of each knows all.
    assert_eq!((&label["accuracy"], &label["macro_f1"]), (&serde_json::json!(1.0), &serde_json::json!(1.0)));
    let majority = whole["label"]["as_found"]["majority"].as_f64().expect("a number");
    assert!((majority - 4.0 / 12.0).abs() < 1e-12);
    assert!(label["information_kept"].as_f64().is_some_and(|kept| kept > 0.5 && kept <= 1.0), "{label}");
    let said = home.refused("compare stem.toml lemma.toml --on notes.jsonl --label colour");
    assert!(said.contains("no document has a field `colour`"), "{said}");
}

#[test]
fn pairs_of_words_are_counted_that_fall_together() {
    let home = home()
        .file("pairs.csv", "word,other,together\nuniverse,university,no\ntern,Terns,yes\nnest,nested,yes\n");
    let out = home.done("compare stem.toml lemma.toml --on notes.jsonl --pairs pairs.csv");
    assert!(out.contains("1 of 1") && out.contains("0 of 1") && out.contains("2 of 2"), "{out}");
    let home = home.file("bad.csv", "a,b,yes\na,b\n");
    let said = home.refused("compare stem.toml lemma.toml --on notes.jsonl --pairs bad.csv");
    assert!(said.contains("bad.csv:2: each row is a word, another"), "{said}");
}

/// A planted drift: words that were not there before, longer notes, another language.
#[test]
fn a_drift_is_measured_and_bounded() {
    let later = "{\"text\":\"Die Möwen brüten auf der Insel und die Wärter zählen die Nester jeden Morgen mit Geduld.\"}\n{\"text\":\"The hide of the gull: nothing new.\"}\n";
    let home = home().file("later.jsonl", later);
    home.done("run stem.toml notes.jsonl --out before");
    home.done("run stem.toml later.jsonl --out after");
    let out = home.done("compare before after");
    assert!(out.contains("What has changed from A to B") && out.contains("all 5 are the same"), "{out}");
    let measures: BTreeMap<String, f64> = home
        .done("compare before after --measures")
        .lines()
        .filter_map(|line| line.split_once(' '))
        .map(|(name, value)| (name.to_owned(), value.parse().expect("a number")))
        .collect();
    // hide, gull, nothing and new of twenty tokens are known.
    let known = 4.0;
    let tokens = measures["tokens"];
    assert!((measures["unknown_share"] - (tokens - known) / tokens).abs() < 1e-3, "{measures:?}");
    assert!((measures["language_distance"] - 0.5).abs() < 1e-3, "{measures:?}");
    assert!(
        (measures["mean_length_before"] - 10.0).abs() < 2.0 && measures["length_distance"] > 0.3,
        "{measures:?}"
    );
    let said = home.yarrup_with("compare before after", &["--fail-if", "unknown_share > 0.08"], b"");
    assert_eq!(said.code, Some(1), "{said:?}");
    assert!(said.err.contains("unknown_share > 0.08: unknown_share is 0."), "{said:?}");
    let said = home.yarrup_with("compare before after", &["--fail-if", "unknown_share > 0.99"], b"");
    assert_eq!(said.code, Some(0), "{said:?}");
    let said = home.yarrup_with("compare before after", &["--fail-if", "unknown_shar > 0.9"], b"");
    assert!(said.code == Some(2) && said.err.contains("did you mean `unknown_share`?"), "{said:?}");
}

#[test]
fn runs_of_the_same_documents_are_compared_document_by_document() {
    let home = home();
    home.done("run stem.toml notes.jsonl --out a");
    home.done("run lemma.toml notes.jsonl --out b");
    let of_runs = json(&home.done("compare a b --format json --rows 100"));
    let of_recipes =
        json(&home.done("compare stem.toml lemma.toml --on notes.jsonl --format json --rows 100"));
    assert_eq!(of_runs["pairs"], of_recipes["pairs"]);
    home.done("run stem.toml notes.jsonl --out c --write none");
    let said = home.yarrup("compare c b");
    assert!(said.code == Some(0) && said.err.contains("documents are not compared"), "{said:?}");
}

#[test]
fn the_folder_holds_tables_json_and_a_page_whoever_shares_the_work() {
    let home = home();
    home.done("compare stem.toml late.toml --on notes.jsonl --by ward --out one --threads 1");
    home.done("compare stem.toml late.toml --on notes.jsonl --by ward --out two --threads 3");
    let names = home.names("one");
    assert_eq!(names, home.names("two"));
    for name in &names {
        assert_eq!(home.read(&format!("one/{name}")), home.read(&format!("two/{name}")), "{name}");
    }
    for name in [
        "comparison.html",
        "comparison.json",
        "documents.csv",
        "groups.csv",
        "measures.csv",
        "overview.csv",
        "splits.csv",
        "steps.csv",
        "vocabulary.csv",
    ] {
        assert!(names.iter().any(|known| known == name), "{name} of {names:?}");
    }
    assert!(home.refused("compare stem.toml late.toml --on notes.jsonl --out one").contains("one"));
}

#[test]
fn what_cannot_be_compared_is_refused() {
    let home = home();
    home.done("run stem.toml notes.jsonl --out run");
    for (arguments, told) in [
        ("compare stem.toml --on notes.jsonl", "there is nothing to compare it with"),
        ("compare stem.toml lemma.toml", "say with --on"),
        ("compare run", "there is nothing to compare it with: name another run"),
        ("compare run stem.toml", "compare runs with runs"),
        ("compare run run --on notes.jsonl", "--on is for recipes"),
        ("compare stem.toml lemma.toml --each-step-out --on notes.jsonl", "is for one recipe"),
        ("compare stem.toml lemma.toml --on notes.jsonl --by wrd", "no document has a field `wrd`"),
        ("compare stem.toml lemma.toml --on nowhere.jsonl", "nowhere.jsonl"),
    ] {
        let said = home.refused(arguments);
        assert!(said.contains(told), "{arguments}: {said}");
    }
}

/// Two recipes that learn what to drop are each compared with what they have learned.
#[test]
fn what_recipes_learn_is_learned_by_each() {
    let limit = |least: u64| format!("{STEM}[[step]]\ndo = \"limit\"\nmin_documents = {least}\n");
    let home = home().file("two.toml", limit(2)).file("five.toml", limit(5));
    let whole = json(&home.done("compare two.toml five.toml --on notes.jsonl --format json"));
    home.done("run five.toml notes.jsonl --out five");
    assert_eq!(whole["sides"][1]["overview"]["terms"], table(&home.read("five/vocabulary.csv")).len());
    assert_eq!(whole["sides"][0]["overview"]["tokens_found"], whole["sides"][1]["overview"]["tokens_found"]);
}

/// What was learned for one recipe serves another with the same steps up to there, and no other.
#[test]
fn recipes_that_begin_alike_learn_once_and_the_same() {
    let recipe = format!(
        "{STEM}[[step]]\ndo = \"limit\"\nmin_documents = 5\n[[step]]\ndo = \"drop\"\nshorter_than = 4\n"
    );
    let home = home()
        .file("base.toml", &recipe)
        .file("long.toml", recipe.replace("shorter_than = 4", "shorter_than = 5"))
        .file("early.toml", recipe.replace("add = [\"the\", \"of\"]", "add = [\"the\", \"of\", \"hide\"]"));
    let whole = json(&home.done("compare base.toml long.toml early.toml --on notes.jsonl --format json"));
    for (place, name) in ["base", "long", "early"].iter().enumerate() {
        home.done(&format!("run {name}.toml notes.jsonl --out {name}"));
        let terms = table(&home.read(&format!("{name}/vocabulary.csv")));
        assert_eq!(whole["sides"][place]["overview"]["terms"], terms.len(), "{name}");
    }
}

/// Text of documents cannot run in the page, steer the terminal, or begin a formula in a table.
#[test]
fn hostile_text_stays_text() {
    let notes = "{\"id\":\"</script><script>alert(1)</script>\",\"text\":\"</script> =cmd() \\u001b[2J terns\"}\n\
                 {\"id\":\"=1+1\",\"text\":\"=cmd() terns \\u202e nests\"}\n";
    let home = Home::new()
        .file("notes.jsonl", notes)
        .file("a.toml", "[[step]]\ndo = \"split\"\ninto = \"spaces\"\n")
        .file("b.toml", "[[step]]\ndo = \"split\"\ninto = \"spaces\"\n[[step]]\ndo = \"stem\"\n[[step]]\ndo = \"drop\"\nwords = [\"=cmd()\"]\n");
    let out = home.done("compare a.toml b.toml --on notes.jsonl --out all --color always");
    assert!(!out.contains("\u{1b}[2J") && !out.contains('\u{202e}'), "{out:?}");
    let page = home.read("all/comparison.html");
    assert_eq!(page.matches("<script").count(), 3, "the data and the scripts");
    assert!(!page.contains("<script>alert"), "{page}");
    // The page fetches nothing.
    for address in ["http://", "https://", "src=", "@import", "url("] {
        assert!(!page.contains(address), "{address}");
    }
    for name in home.names("all").iter().filter(|name| name.ends_with(".csv")) {
        let csv = home.read(&format!("all/{name}"));
        let mut reader = csv::ReaderBuilder::new().has_headers(false).from_reader(csv.as_bytes());
        for record in reader.records() {
            let record = record.expect("a row");
            assert!(record.iter().all(|cell| !cell.starts_with('=')), "{name}: {record:?}");
        }
    }
    let whole = json(&home.read("all/comparison.json"));
    let gone = whole["pairs"][0]["vocabulary"]["only_here"]["list"].as_array().expect("rows");
    assert!(gone.iter().any(|row| row["term"] == "=cmd()" && row["count"] == 2), "{gone:?}");
}

#[test]
fn documents_come_from_standard_input_also_where_recipes_learn() {
    let home = home().file("limit.toml", format!("{STEM}[[step]]\ndo = \"limit\"\nmin_documents = 5\n"));
    let notes = home.read("notes.jsonl");
    for recipes in ["stem.toml lemma.toml", "stem.toml limit.toml"] {
        let piped =
            home.yarrup_with(&format!("compare {recipes} --on - --format json"), &[], notes.as_bytes());
        assert_eq!(piped.code, Some(0), "{piped:?}");
        let from_file = json(&home.done(&format!("compare {recipes} --on notes.jsonl --format json")));
        assert_eq!(json(&piped.out)["pairs"], from_file["pairs"], "{recipes}");
    }
}

#[test]
fn labels_are_told_alike_on_any_number_of_threads() {
    // Words that say little of the label, so that much depends on which documents are drawn.
    let mut notes = String::new();
    for number in 0..90u32 {
        let words = ["tern", "gull", "owl", "nest", "hide", "reed", "mud"];
        let text: Vec<&str> =
            (0..5).map(|place| words[((number * 7 + place * number + place) % 7) as usize]).collect();
        let label = ["low", "high", "slack"][(number % 3) as usize];
        notes.push_str(&format!("{{\"text\":\"{}\",\"tide\":\"{label}\"}}\n", text.join(" ")));
    }
    let home = home().file("tides.jsonl", notes);
    let told = |threads: u32| {
        let out = home.done(&format!(
            "compare stem.toml lemma.toml --on tides.jsonl --label tide --format json --threads {threads}"
        ));
        let whole = json(&out);
        (whole["label"].clone(), whole["sides"][0]["label"].clone(), whole["sides"][1]["label"].clone())
    };
    let one = told(1);
    assert_eq!(one, told(4));
    assert_eq!(one.0["labels"], 3);
    let accuracy = one.1["accuracy"].as_f64().expect("a number");
    let range: Vec<f64> =
        one.1["accuracy_range"].as_array().expect("two").iter().filter_map(Value::as_f64).collect();
    assert!(range[0] <= accuracy && accuracy <= range[1] && range[1] - range[0] > 0.05, "{range:?}");
    // A bound can be set on it.
    let said = home.yarrup_with(
        "compare stem.toml lemma.toml --on tides.jsonl --label tide",
        &["--fail-if", "accuracy < 1.1"],
        b"",
    );
    assert_eq!(said.code, Some(1), "{said:?}");
}

#[test]
fn runs_that_read_a_part_are_of_other_documents() {
    let home = home();
    home.done("run stem.toml notes.jsonl --out whole");
    home.done("run stem.toml notes.jsonl --out part --first 3");
    let out = home.done("compare whole part");
    assert!(out.contains("What has changed from A to B"), "{out}");
    assert!(home.refused("compare whole part --by ward").contains("the runs are of different ones"));
}

#[test]
fn entries_of_a_list_are_joined_and_steps_named_by_number_or_label() {
    let home = home()
        .file("own.toml", STEM.replace("do = \"stopwords\"", "do = \"stopwords\"\nlabel = \"small words\""));
    let csv = |spec: &str| -> Vec<(String, u64)> {
        let said = home.yarrup_with("compare own.toml --on notes.jsonl --format csv", &["--vary", spec], b"");
        assert_eq!(said.code, Some(0), "{said:?}");
        let rows = table(&said.out);
        let name = spec.split('=').next().expect("a name");
        rows.iter().map(|row| (row[name].clone(), row["tokens"].parse().expect("a number"))).collect()
    };
    let by_label = csv("small words.add=the,the+of+hide");
    assert_eq!(by_label, csv("4.add=the,the+of+hide").into_iter().collect::<Vec<_>>());
    assert_eq!(
        by_label.iter().map(|(value, _)| value.as_str()).collect::<Vec<_>>(),
        ["", "the", "the+of+hide"]
    );
    // `of` comes twelve times, `hide` eight.
    assert_eq!(by_label[1].1 - by_label[0].1, 12);
    assert_eq!(by_label[0].1 - by_label[2].1, 8);
    let said = home.refused("compare stem.toml --vary stopwords.share=a --on notes.jsonl");
    assert!(said.contains("`share` is a number"), "{said}");
}

#[test]
fn every_measure_can_be_printed_and_is_a_number() {
    let home = home();
    let out = home.done("compare stem.toml lemma.toml --on notes.jsonl --label about --measures");
    let names: Vec<&str> = out.lines().filter_map(|line| line.split(' ').next()).collect();
    for name in [
        "shared_terms",
        "rank_overlap",
        "unknown_share",
        "changed_documents_share",
        "together_tokens",
        "accuracy",
        "least_gain",
    ] {
        assert!(names.contains(&name), "{name}: {out}");
    }
    for line in out.lines() {
        let value = line.split(' ').nth(1).expect("a value");
        assert!(value.parse::<f64>().is_ok_and(f64::is_finite), "{line}");
    }
    // With several, each has its heading.
    let out = home.done("compare stem.toml lemma.toml late.toml --on notes.jsonl --measures");
    assert!(out.starts_with("lemma.toml\n") && out.contains("\nlate.toml\n"), "{out}");
}

/// Of a long document that is shown which stands around the differences.
#[test]
fn long_documents_are_shown_where_they_differ() {
    let words: Vec<String> = (0..400).map(|number| format!("word{}", number % 90)).collect();
    let text = format!("{} university {}", words.join(" "), words.join(" "));
    let home = home().file("long.jsonl", format!("{{\"id\":\"book\",\"text\":\"{text}\"}}\n"));
    let out = home.done("compare stem.toml lemma.toml --on long.jsonl");
    let (_, shown) = out.split_once("book  801 terms").expect("the document");
    assert!(shown.contains("… word32") && shown.contains("[-univers-] {+university+}"), "{shown}");
}
