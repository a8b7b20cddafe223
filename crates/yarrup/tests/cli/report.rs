//! What the page of a run shows, as the value behind it: against the tables of the run, and against its schema.

use std::collections::BTreeSet;

use serde_json::{Value, json};

use crate::home::Home;

/// Whether a value is as a schema says, of which the parts are looked at that the schema of reports uses.
fn fits(value: &Value, schema: &Value, place: &str) -> Result<(), String> {
    let wrong = |what: &str| {
        Err(format!("{place}: {what}: {}", value.to_string().chars().take(80).collect::<String>()))
    };
    if let Some(choices) = schema["oneOf"].as_array() {
        let fitting = choices.iter().filter(|choice| fits(value, choice, place).is_ok()).count();
        return if fitting == 1 { Ok(()) } else { wrong("fits none or several") };
    }
    if schema.get("const").is_some_and(|constant| constant != value) {
        return wrong("is another constant");
    }
    if schema["enum"].as_array().is_some_and(|choices| !choices.contains(value)) {
        return wrong("is no choice");
    }
    let is_of = |name: &Value| match name.as_str().unwrap_or_default() {
        "object" => value.is_object(),
        "array" => value.is_array(),
        "string" => value.is_string(),
        "integer" => value.is_u64(),
        "number" => value.is_number(),
        "boolean" => value.is_boolean(),
        "null" => value.is_null(),
        other => panic!("{place}: no type {other}"),
    };
    match &schema["type"] {
        Value::Null => {}
        Value::Array(names) if names.iter().any(is_of) => {}
        name if is_of(name) => {}
        _ => return wrong("is of another type"),
    }
    if let (Some(members), Some(known)) = (value.as_object(), schema["properties"].as_object()) {
        for name in schema["required"].as_array().into_iter().flatten() {
            if !members.contains_key(name.as_str().unwrap_or_default()) {
                return wrong(&format!("lacks {name}"));
            }
        }
        for (name, member) in members {
            match known.get(name) {
                Some(schema) => fits(member, schema, &format!("{place}.{name}"))?,
                None => return wrong(&format!("has {name}")),
            }
        }
    }
    if let Some(items) = value.as_array() {
        let (least, most) = (schema["minItems"].as_u64(), schema["maxItems"].as_u64());
        let count = items.len() as u64;
        if least.is_some_and(|least| count < least) || most.is_some_and(|most| count > most) {
            return wrong("has another length");
        }
        let first = schema["prefixItems"].as_array().map(Vec::as_slice).unwrap_or_default();
        for (number, item) in items.iter().enumerate() {
            let schema = first.get(number).unwrap_or(&schema["items"]);
            if schema == &json!(false) {
                return wrong("has too many items");
            }
            fits(item, schema, &format!("{place}[{number}]"))?;
        }
    }
    Ok(())
}

fn data(home: &Home, arguments: &str) -> Value {
    let data: Value = serde_json::from_str(&home.done(&format!("report {arguments} --data"))).expect("JSON");
    let schema: Value = serde_json::from_str(&home.done("schema report")).expect("JSON");
    assert_eq!(fits(&data, &schema, "data"), Ok(()));
    assert!(fits(&json!({ "schema": "another" }), &schema, "data").is_err());
    data
}

fn column<'v>(value: &'v Value, name: &str) -> Vec<&'v Value> {
    value[name].as_array().expect("a column").iter().collect()
}

/// A cell as it was before it was kept from being a formula.
fn restored(cell: &str) -> String {
    let rest = cell.strip_prefix('\'').filter(|rest| rest.starts_with(['=', '+', '-', '@', '\'']));
    rest.unwrap_or(cell).to_owned()
}

/// A cell as `vocabulary.csv` and `forms.csv` have it.
fn cell(value: &Value) -> String {
    value.as_str().map_or_else(|| value.to_string(), str::to_owned)
}

#[test]
fn the_value_holds_what_the_tables_of_the_run_hold() {
    let home = Home::new();
    home.done("demo --into demo --quiet");
    for (run, by) in [("all", "site"), ("notes", "warden"), ("cards", "season"), ("reports", "ward")] {
        let run = format!("demo/runs/{run}");
        let by = if home.yarrup(&format!("report {run} --data --by {by}")).code == Some(0) {
            format!(" --by {by}")
        } else {
            String::new()
        };
        let data = data(&home, &format!("{run}{by}"));
        let (terms, forms) = (&data["terms"], &data["forms"]);
        let told: Vec<[String; 4]> = (0..column(terms, "text").len())
            .map(|row| ["rank", "text", "count", "documents"].map(|name| cell(&terms[name][row])))
            .collect();
        let wanted = home.rows(&format!("{run}/vocabulary.csv"));
        assert_eq!(
            told,
            wanted.iter().map(|row| [0, 1, 2, 3].map(|at| restored(&row[at]))).collect::<Vec<_>>(),
            "{run}"
        );
        let kept: usize =
            column(terms, "forms").iter().map(|count| count.as_u64().expect("a count") as usize).sum();
        let mut told: Vec<(String, String, String)> = Vec::new();
        for number in 0..column(forms, "text").len() {
            let fate =
                if number < kept { "kept".to_owned() } else { cell(&forms["others"]["fate"][number - kept]) };
            told.push((cell(&forms["text"][number]), cell(&forms["count"][number]), fate));
        }
        told.sort();
        let mut wanted: Vec<(String, String, String)> = home
            .rows(&format!("{run}/forms.csv"))
            .into_iter()
            .map(|row| (restored(&row[0]), row[3].clone(), row[5].clone()))
            .collect();
        wanted.sort();
        assert_eq!(told, wanted, "{run}");
        let number = |value: &Value| value.as_u64().unwrap_or(0);
        let steps = column(&data["overview"], "steps");
        let effects = home.rows(&format!("{run}/effects.csv"));
        for (step, effect) in steps.iter().zip(&effects) {
            assert_eq!(
                (cell(&step["step"]), cell(&step["tokens_out"]).replace("null", "")),
                (effect[0].clone(), effect[8].clone())
            );
            if !step["tokens_in"].is_null() {
                let (came, went) = ("tokens_in", "tokens_out");
                assert_eq!(
                    number(&step[came]) + number(&step["tokens_added"]),
                    number(&step[went]) + number(&step["tokens_dropped"]) + number(&step["tokens_joined"]),
                    "{run} {step}"
                );
            }
        }
        // Every document is there, with all its tokens; every term stands in one.
        let documents = column(&data, "documents");
        assert_eq!(documents.len() as u64, number(&data["overview"]["shown"]["of_documents"]));
        let mut counts = vec![0; column(forms, "text").len()];
        for document in &documents {
            let text: Vec<u16> = document["text"].as_str().expect("a text").encode_utf16().collect();
            let lengths: Vec<&Value> = column(document, "lengths");
            let mut end = 0;
            for (at, form) in column(document, "forms").into_iter().enumerate() {
                let spelled = cell(&forms["text"][number(form) as usize]);
                let told = lengths.iter().find(|told| number(&told[0]) as usize == at);
                let length = told.map_or(spelled.encode_utf16().count(), |told| number(&told[1]) as usize);
                let start = end + number(&document["gaps"][at]) as usize;
                end = start + length;
                let found = String::from_utf16(text.get(start..end).expect("within the text"))
                    .expect("whole characters");
                if told.is_none() && spelled.bytes().all(|byte| byte.is_ascii_alphabetic()) {
                    assert_eq!(found.to_lowercase(), spelled.to_lowercase(), "{run}");
                }
                counts[number(form) as usize] += 1;
            }
            for made in column(document, "made") {
                counts[number(&made[2]) as usize] += 1;
            }
        }
        let told: Vec<u64> = column(forms, "count").into_iter().map(number).collect();
        assert_eq!(counts, told, "{run}: every token has its place");
        assert!(
            column(&data["details"], "documents")
                .iter()
                .all(|documents| !documents.as_array().expect("a list").is_empty())
        );
    }
}

#[test]
fn a_page_keeps_to_its_size_and_every_term_on_it_has_a_document() {
    let mut lines = String::new();
    for note in 0..2_000 {
        let words: Vec<String> =
            (0..240).map(|place| format!("w{}", (note * 37 + place * place * 11) % 60_000)).collect();
        lines.push_str(
            &json!({ "id": format!("n{note}"), "text": words.join(" "), "site": format!("s{}", note % 3) })
                .to_string(),
        );
        lines.push('\n');
    }
    let home = Home::with_recipe().file("notes.jsonl", lines);
    home.done("run recipe.toml notes.jsonl --out run --quiet");
    // The page that a run draws is made once: it holds all documents that were chosen.
    let page = home.read("run/report.html");
    let told = page.split(" of 2,000 documents, chosen").next().expect("a number");
    let shown = told.rsplit(' ').next().expect("a number");
    let shown: usize = shown.replace(',', "").parse().expect("a number");
    assert!((700..2_000).contains(&shown), "{shown}");
    home.done("report run --size 2");
    let page = home.read("run/report.html");
    assert!((1_600_000..=2_000_000).contains(&page.len()), "{}", page.len());
    assert!(
        page.contains(" of 2,000 documents, chosen so that every term on it stands in one of them"),
        "{}",
        page.len()
    );
    let data = data(&home, "run --size 2");
    let shown = &data["overview"]["shown"];
    assert!(shown["documents"].as_u64() < shown["of_documents"].as_u64());
    assert!(
        column(&data["details"], "documents")
            .iter()
            .all(|documents| !documents.as_array().expect("a list").is_empty())
    );
    let whole: Value = serde_json::from_str(&home.done("report run --data --by site")).expect("JSON");
    assert_eq!(whole["overview"]["shown"]["documents"], 2_000);
    let groups: BTreeSet<String> =
        column(&whole["groups"], "groups").iter().map(|group| cell(&group["name"])).collect();
    assert_eq!(groups, ["s0", "s1", "s2"].map(str::to_owned).into());
    assert!(home.refused("report run --size 0").contains("--size"));
    assert!(home.refused("report run --by nothing").contains("no document of the run has a field `nothing`"));
}

#[test]
fn a_page_without_documents_says_why_and_shows_all_terms() {
    let home = Home::with_recipe().file("notes.txt", "Terns over the spit.\n\nA tern, and an owl.\n");
    for (arguments, why) in [
        ("--write report", "The run was made without its documents"),
        ("--without-originals", "The run was made without the original texts"),
    ] {
        home.done(&format!("run recipe.toml notes.txt --out run --replace {arguments}"));
        let page = home.read("run/report.html");
        assert!(page.contains(why), "{page}");
        assert!(page.contains("All 3 terms that are left, and all "), "{page}");
        let data = data(&home, "run");
        assert_eq!((column(&data["terms"], "text").len(), column(&data, "documents").len()), (3, 0));
    }
}

#[test]
fn a_page_of_documents_that_are_gone_says_so() {
    let home = Home::with_recipe().file("notes.jsonl", "{\"text\":\"Terns over the spit.\"}\n");
    home.done("run recipe.toml notes.jsonl --out run");
    let before = home.read("run/report.html");
    std::fs::rename(home.path("notes.jsonl"), home.path("away")).expect("moved");
    let said = home.yarrup("report run");
    assert_eq!(said.code, Some(0), "{said:?}");
    assert!(said.err.contains("warning: the page shows no documents, for they cannot be read: "), "{said:?}");
    assert!(home.read("run/report.html").contains("The documents could not be read when this page was made"));
    std::fs::rename(home.path("away"), home.path("notes.jsonl")).expect("moved");
    home.done("report run");
    assert_eq!(home.read("run/report.html"), before);
}

#[test]
fn a_very_long_document_is_shown_to_a_place() {
    let text = "The tern é flies. ".repeat(70_000);
    let home = Home::with_recipe().file("book.txt", &text);
    home.done("run recipe.toml book.txt --out run --quiet");
    let whole: Value = serde_json::from_str(&home.done("report run --data")).expect("JSON");
    assert_eq!(whole["documents"][0]["text"].as_str(), Some(text.as_str()));
    let data = data(&home, "run --size 2");
    let document = &data["documents"][0];
    let (shown, cut) =
        (document["text"].as_str().expect("a text").len(), document["cut"].as_u64().expect("a count"));
    assert_eq!(shown as u64 + cut, text.len() as u64);
    assert!((250_000..=1_000_000).contains(&shown), "{shown}");
    home.done("report run --size 2");
    assert!(home.read("run/report.html").contains("Of 1 long document the beginning alone is shown."));
}

#[test]
fn the_overview_tells_the_run_in_sentences() {
    let home = Home::with_recipe().file("notes.txt", "The terns are over the spit. The owl!");
    home.done("run recipe.toml notes.txt --out run");
    let summary = |home: &Home| {
        let data: Value = serde_json::from_str(&home.done("report run --data")).expect("JSON");
        column(&data["overview"], "summary").into_iter().map(cell).collect::<Vec<_>>().join(" ")
    };
    assert_eq!(
        summary(&home),
        "1 document went in, with 10 tokens of 9 distinct words. 70.0 % of the tokens were taken out, mostly by step 3, stopwords (50.0 % of all tokens) \
         and step 4, drop (20.0 % of all tokens). 3 tokens came out, of 3 terms; the commonest 2 of them make up half of the text."
    );
    let home = home
        .file("recipe.toml", "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"ngrams\"\nsize = 2\nsmallest = 1\n");
    home.done("run recipe.toml notes.txt --out run --replace");
    assert!(
        summary(&home).contains("more tokens than were found, made mostly by step 2, ngrams"),
        "{}",
        summary(&home)
    );
    let home = home.file("recipe.toml", "[[step]]\ndo = \"spaces\"\n");
    home.done("run recipe.toml notes.txt --out run --replace");
    assert!(summary(&home).contains("No token was taken out."), "{}", summary(&home));
}

#[test]
fn a_page_without_original_texts_names_the_documents_that_nothing_is_left_of() {
    let notes = "{\"id\":\"a\",\"text\":\"Terns over the spit.\"}\n{\"id\":\"b\",\"text\":\"the\"}\n{\"id\":\"c\",\"text\":\"\"}\n";
    let home = Home::new()
        .file("notes.jsonl", notes)
        .file("r.toml", "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"stopwords\"\nadd = [\"the\"]\n");
    for arguments in ["", "--without-originals"] {
        home.done(&format!("run r.toml notes.jsonl --out run --replace {arguments}"));
        let emptied = &data(&home, "run")["overview"]["emptied"];
        assert_eq!(*emptied, serde_json::json!({ "documents": 1, "ids": ["b"] }), "{arguments}");
    }
}
