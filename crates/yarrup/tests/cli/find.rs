//! `find`: the places of words in the documents of a run.

use serde_json::Value;

use crate::home::Home;

const NOTES: &str = concat!(
    "{\"id\":\"a\",\"site\":\"spit\",\"rating\":1,\"text\":\"The little terns nest.\\nLittle Terns, \\u00c9tude & terns!\"}\n",
    "{\"id\":\"b\",\"site\":\"hide\",\"rating\":5,\"text\":\"A tern; the gulls don't.\"}\n",
    "{\"id\":\"c\",\"site\":\"spit\",\"rating\":3,\"text\":\"The of and\"}\n",
    "{\"id\":\"d\",\"rating\":2,\"text\":\"gulls and terns nest\"}\n",
);

fn home() -> Home {
    let home = Home::with_recipe().file("notes.jsonl", NOTES);
    home.done("run recipe.toml notes.jsonl --out run");
    home
}

fn rows(home: &Home, arguments: &str, more: &[&str]) -> Vec<Value> {
    let said = home.yarrup_with(&format!("find run --format jsonl {arguments}"), more, b"");
    assert!(matches!(said.code, Some(0 | 1)), "{said:?}");
    said.out.lines().map(|line| serde_json::from_str(line).expect("an object")).collect()
}

/// The documents with the original words that were found, and whether their bytes are those.
fn words(rows: &[Value]) -> Vec<(String, String)> {
    let texts: Vec<Value> = NOTES.lines().map(|line| serde_json::from_str(line).expect("a note")).collect();
    let row = |row: &Value| {
        let id = row["id"].as_str().expect("an id");
        let text = texts.iter().find(|note| note["id"] == id).and_then(|note| note["text"].as_str());
        let place = |name: &str| row[name].as_u64().expect("a place") as usize;
        let words = &text.expect("a text")[place("start")..place("end")];
        let line = words.split_whitespace().collect::<Vec<_>>().join(" ");
        assert_eq!(row["words"].as_str(), Some(line.as_str()), "{row}");
        (id.to_owned(), words.to_owned())
    };
    rows.iter().map(row).collect()
}

fn said(pairs: &[(&str, &str)]) -> Vec<(String, String)> {
    pairs.iter().map(|(id, words)| ((*id).to_owned(), (*words).to_owned())).collect()
}

#[test]
fn a_term_is_found_in_the_words_that_became_it() {
    let home = home();
    let tern = said(&[("a", "terns"), ("a", "Terns"), ("a", "terns"), ("b", "tern"), ("d", "terns")]);
    assert_eq!(words(&rows(&home, "tern", &[])), tern);
    // As the word stands in the text: the recipe makes a term of it.
    let told = home.yarrup("find run Terns");
    assert!(told.err.contains("the recipe makes `tern` of `Terns`"), "{told:?}");
    assert!(told.out.starts_with("tern  5 places in 3 documents of 4"), "{told:?}");
    assert!(told.out.contains("[Terns]"), "{told:?}");
    // The words that were found stand one below the other.
    let columns: Vec<usize> =
        told.out.lines().filter_map(|line| line.chars().position(|c| c == '[')).collect();
    assert_eq!(columns.len(), 5);
    assert!(columns.iter().all(|column| *column == columns[0]), "{}", told.out);
}

#[test]
fn phrases_several_terms_and_patterns_are_found() {
    let home = home();
    // Line breaks and marks between them are none between terms that are kept.
    let phrase = said(&[("a", "little terns"), ("a", "Little Terns")]);
    assert_eq!(words(&rows(&home, "", &["littl tern"])), phrase);
    assert_eq!(words(&rows(&home, "", &["little terns"])), phrase);
    let ids = |arguments: &str| {
        let rows = rows(&home, arguments, &[]);
        let row = |row: &Value| format!("{}{}", row["id"].as_str().unwrap_or(""), row["places"]);
        rows.iter().map(row).collect::<Vec<_>>()
    };
    assert_eq!(ids("tern gull --documents"), ["a3", "b2", "d2"]);
    assert_eq!(ids("tern gull --all --documents"), ["b2", "d2"]);
    assert_eq!(ids("tern gull --all --documents --sort count --first 1"), ["b2"]);
    assert_eq!(ids("--matches ^.u.l --documents"), ["b1", "d1"]);
    let found = rows(&home, "--text", &[r"(?i)t[eu]\w+"]);
    assert_eq!(words(&found)[..3], said(&[("a", "terns"), ("a", "Terns"), ("a", "tude")]));
    assert_eq!(words(&rows(&home, "--text", &["Étude"])), said(&[("a", "Étude")]));
}

#[test]
fn words_are_found_as_they_are_written_and_where_they_were_dropped() {
    let home = home();
    assert_eq!(words(&rows(&home, "--form Terns", &[])), said(&[("a", "Terns")]));
    let dropped = rows(&home, "--dropped the", &[]);
    assert_eq!(words(&dropped), said(&[("a", "The"), ("b", "the"), ("c", "The")]));
    assert_eq!((&dropped[0]["step"], &dropped[0]["reason"]), (&3.into(), &"stop word (en)".into()));
    let all = rows(&home, "--dropped --step 4 --first 0", &[]);
    assert_eq!(all.len(), 6, "{all:?}");
    // As many as the table of forms has.
    for row in home.rows("run/forms.csv") {
        let (form, count, fate) = (&row[0], &row[3], &row[5]);
        let more = if fate == "dropped" { vec!["--dropped", form] } else { vec!["--form", form] };
        let found = rows(&home, "--first 0", &more);
        let of_form = found.iter().filter(|row| row["form"] == form.as_str()).count();
        assert_eq!(of_form.to_string(), *count, "{row:?}");
    }
    let emptied = home.done("find run --emptied");
    assert!(emptied.contains("1 document of 4") && emptied.contains("The of and"), "{emptied}");
}

#[test]
fn conditions_groups_and_orders() {
    let home = home();
    let table = home.done("find run tern --by site --show site,rating");
    assert!(table.contains("spit          3   60.0 %           1"), "{table}");
    assert!(table.contains("(none)        1   20.0 %           1"), "{table}");
    let json: Value =
        serde_json::from_str(&home.done("find run tern --by rating:2 --format json")).expect("JSON");
    assert_eq!(json["by"][0], serde_json::json!({"value": "0 to 2", "places": 3, "documents": 1}));
    let found = rows(&home, "tern --where rating>1 --show site", &[]);
    assert_eq!(words(&found), said(&[("b", "tern"), ("d", "terns")]));
    assert_eq!((&found[0]["site"], &found[1]["site"]), (&"hide".into(), &Value::Null));
    let ids = |arguments: &str| {
        words(&rows(&home, arguments, &[])).into_iter().map(|(id, words)| id + &words).collect::<Vec<_>>()
    };
    assert_eq!(ids("tern --sort after")[..2], ["aterns", "aTerns"]);
    assert_eq!(ids("tern --sort before")[0], "aterns");
    assert_eq!(ids("tern --sort rating --first 4")[3], "dterns");
    let sample = ids("tern --sample 2 --seed 7");
    assert_eq!((sample.len(), &sample), (2, &ids("tern --sample 2 --seed 7")));
    // Every number of them is a part of all.
    let all = ids("tern");
    assert!(
        (0..9).flat_map(|seed| ids(&format!("tern --sample 1 --seed {seed}"))).all(|one| all.contains(&one))
    );
    let whole = home.done("find run nest --whole");
    assert!(whole.contains("The little terns [nest].\nLittle Terns, Étude & terns!"), "{whole}");
    let csv = home.done("find run nest --format csv --show site");
    assert!(csv.starts_with("id,site,before,words,after,start,end,term,tag\na,spit,"), "{csv}");
    assert!(home.done("find run tern --first 2").contains("2 of 5 places; --first 0 shows all"));
}

#[test]
fn any_number_of_threads_finds_the_same() {
    let home = home();
    for arguments in ["tern", "--dropped", "tern --sample 3", "--text e", "tern --documents --sort count"] {
        let of =
            |threads: &str| home.done(&format!("find run {arguments} --threads {threads} --format json"));
        assert_eq!(of("1"), of("4"), "{arguments}");
    }
}

#[test]
fn what_cannot_be_found_is_told() {
    let home = home();
    let none = home.yarrup("find run kittiwake");
    assert_eq!(
        (none.code, none.out.lines().next()),
        (Some(1), Some("kittiwak  0 places in 0 documents of 4"))
    );
    let gone = home.yarrup("find run the");
    assert!(
        gone.err.contains("the recipe leaves nothing of `the`") && gone.err.contains("--dropped the"),
        "{gone:?}"
    );
    assert!(home.refused("find run").contains("say what to look for"));
    assert!(home.refused("find run --text ( ").contains("not a regular expression"));
    assert!(
        home.refused("find run tern --where ward=1").contains("no document of the run has a field `ward`")
    );
    assert!(
        home.yarrup("find run tern --show ward").err.contains("none of the documents has a field `ward`")
    );
    assert!(
        home.refused("find run tern --by ward").contains("--by: no document of the run has a field `ward`")
    );
    assert!(
        home.refused("find run tern --sort befor")
            .contains("other orders are before, after, document and count")
    );
    assert!(home.refused("find nowhere tern").contains("no run folder here"));
    home.done("run recipe.toml notes.jsonl --out bare --without-originals");
    assert!(home.refused("find bare tern").contains("--documents lists the documents"));
    assert!(home.done("find bare tern --documents").contains("5 places in 3 documents"));
    home.done("run recipe.toml notes.jsonl --out counts --without-documents");
    assert!(home.refused("find counts tern").contains("the run holds no documents"));
}

#[test]
fn a_run_that_was_changed_is_refused() {
    let home = home();
    home.done("run recipe.toml notes.jsonl --out run --replace --with-originals");
    let path = home.path("run/documents.jsonl");
    let text = home.read("run/documents.jsonl");
    std::fs::write(&path, text.replace("gulls", "goose")).expect("changed");
    assert!(home.refused("find run tern gull --first 0 --by site").contains("make the run again"));
    std::fs::write(&path, &text[..text.len() - 3]).expect("cut");
    assert!(home.refused("find run tern").contains("was cut or changed"));
}

/// What needs more than the cleaned text: terms with spaces, and a recipe without tokens.
#[test]
fn sentences_and_text_recipes_are_searched() {
    let home = Home::new()
        .file("s.toml", "[[step]]\ndo = \"split\"\ninto = \"sentences\"\n")
        .file("t.toml", "[[step]]\ndo = \"case\"\n")
        .file("notes.jsonl", NOTES);
    home.done("run s.toml notes.jsonl --out run");
    let found = rows(&home, "", &["A tern; the gulls don't."]);
    assert_eq!(words(&found), said(&[("b", "A tern; the gulls don't.")]));
    assert_eq!(rows(&home, "--matches tern", &[]).len(), 4);
    home.done("run t.toml notes.jsonl --out run --replace");
    assert_eq!(words(&rows(&home, "terns", &[])).len(), 4);
}

/// A field that names the language under another name, and fields that are the id and the title, are what they were when the run is studied.
#[test]
fn fields_keep_their_names() {
    let home = Home::new()
        .file(
            "r.toml",
            "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"stopwords\"\nadd = [\"die\"]\nonly = { language = \"de\" }\n\
             [[step]]\ndo = \"drop\"\nlonger_than = 5\nonly = { site = \"spit\" }\n",
        )
        .file(
            "cards.csv",
            "card,site,lang,comment\nc1,spit,de,die Aussicht\nc2,hide,en,die Aussicht\n",
        );
    home.done("run r.toml cards.csv --text comment --id card --title site --language-field lang --out run");
    let found = rows(&home, "die --show card,site,title,language", &[]);
    assert_eq!(found.len(), 1, "{found:?}");
    for (field, value) in [("card", "c2"), ("site", "hide"), ("title", "hide"), ("language", "en")] {
        assert_eq!(found[0][field], value, "{field}");
    }
    assert_eq!(rows(&home, "--dropped Aussicht", &[]).len(), 1);
}
