//! Terms by kind, part of speech, label, field, weight and keyness; what `why` says of them; `limit` by weight.

use serde_json::Value;

use crate::home::Home;

const NOTES: &str = concat!(
    "{\"site\":\"spit\",\"rating\":1,\"text\":\"The terns work. Terns, terns and 12 eggs\"}\n",
    "{\"site\":\"spit\",\"rating\":2,\"text\":\"hard work, closed\"}\n",
    "{\"site\":\"hide\",\"rating\":5,\"text\":\"gulls work\"}\n",
    "{\"site\":\"hide\",\"rating\":4,\"text\":\"The tern nests\"}\n",
);

fn home() -> Home {
    let home = Home::with_recipe().file("notes.jsonl", NOTES);
    home.done("run recipe.toml notes.jsonl --out run");
    home
}

fn rows(home: &Home, arguments: &str) -> Vec<Value> {
    let json = home.done(&format!("terms run --top 0 --format json {arguments}"));
    serde_json::from_str::<Vec<Value>>(&json).expect("an array")
}

fn column(rows: &[Value], name: &str) -> Vec<String> {
    rows.iter().map(|row| row[name].as_str().map_or_else(|| row[name].to_string(), str::to_owned)).collect()
}

#[test]
fn terms_are_filtered() {
    let home = home();
    let terms = |arguments: &str| column(&rows(&home, arguments), "term");
    assert_eq!(terms(""), ["tern", "work", "12", "close", "egg", "gull", "hard", "nest"]);
    assert_eq!(terms("--matches ^.e"), ["tern", "nest"]);
    assert_eq!(terms("--kind number"), ["12"]);
    assert_eq!(terms("--at-least 2"), ["tern", "work"]);
    assert_eq!(terms("--documents-at-least 3"), ["work"]);
    assert_eq!(terms("--sort term")[..3], ["12", "close", "egg"]);
    let csv = home.done("terms run --columns term,documents --format csv --top 2");
    assert_eq!(csv, "term,documents\ntern,2\nwork,3\n");
    let dropped = home.done("terms run --dropped --format csv --top 2");
    assert!(dropped.contains("the,2,2,") && dropped.contains(",3,stop word (en)"), "{dropped}");
    assert_eq!(column(&rows(&home, "--dropped --step 4"), "form"), [",", "."]);
    for (wrong, told) in [
        ("--kind bird", "no kind `bird`"),
        ("--tag noun", "gives no parts of speech"),
        ("--label place", "no step of the recipe gives labels"),
        ("--matches (", "not a regular expression"),
        ("--columns trm", "did you mean `term`?"),
        ("--by ward", "no document of the run has a field `ward`"),
        ("--key ward=1", "no document of the run has a field `ward`"),
        ("--weight chi_square", "need --with and a field"),
        ("--by rating:0", "bins need a width above 0"),
    ] {
        let err = home.refused(&format!("terms run {wrong}"));
        assert!(err.contains(told), "{wrong}: {err}");
    }
}

#[test]
fn forms_stand_under_their_terms() {
    let home = home();
    let tree = home.done("terms run --forms --matches tern");
    assert!(tree.contains("tern 4\n  ├ terns 3 · 75.0 %\n  └ tern 1 · 25.0 %\n"), "{tree}");
    let csv = home.done("terms run --forms --matches tern --format csv");
    assert_eq!(csv, "term,count,form,form_count\ntern,4,terns,3\ntern,4,tern,1\n");
}

#[test]
fn terms_are_counted_by_the_values_of_a_field() {
    let home = home();
    let by_site = rows(&home, "--by site");
    assert_eq!((&by_site[0]["hide"], &by_site[0]["spit"]), (&1.into(), &3.into()));
    let totals = home.done("terms run --by site --totals --format csv");
    assert_eq!(totals, "value,documents,tokens,share,terms\nhide,2,4,0.307692,4\nspit,2,9,0.692308,6\n");
    let bins = home.done("terms run --by rating:2 --totals --format csv");
    assert!(bins.contains("0 to 2,1,") && bins.contains("4 to 6,2,4,"), "{bins}");
    let table = home.done("terms run --by site");
    assert!(table.contains("hide") && table.contains("69.23 %"), "{table}");
}

/// By hand: `tern` 3 of 9 tokens at the spit, 1 of 4 elsewhere.
#[test]
fn terms_mark_documents_against_others() {
    let home = home();
    let keys = rows(&home, "--key site=spit --at-least 1");
    let tern = keys.iter().find(|row| row["term"] == "tern").expect("a key term");
    assert_eq!(
        (&tern["here"], &tern["elsewhere"], &tern["documents_here"]),
        (&3.into(), &1.into(), &1.into())
    );
    let ln = |x: f64| x.ln();
    let g2 = 2.0
        * (3.0 * ln(3.0 * 13.0 / (4.0 * 9.0))
            + ln(13.0 / (4.0 * 4.0))
            + 6.0 * ln(6.0 * 13.0 / (9.0 * 9.0))
            + 3.0 * ln(3.0 * 13.0 / (9.0 * 4.0)));
    let close = |value: &Value, expected: f64| (value.as_f64().expect("a number") - expected).abs() < 1e-5;
    assert!(close(&tern["g2"], g2), "{tern} {g2}");
    assert!(close(&tern["log_ratio"], (3.0f64 / 9.0 / (1.0 / 4.0)).log2()), "{tern}");
    let rarer = rows(&home, "--key site=spit --at-least 1 --reverse");
    assert_eq!(column(&rarer, "term"), ["gull", "nest", "work"]);
    // Only what comes often enough is tested, and what is tested is what is corrected for.
    assert_eq!(column(&rows(&home, "--key site=spit"), "term"), ["tern"]);
}

#[test]
fn weights_are_those_of_their_definitions() {
    let home = home();
    let weights = rows(&home, "--weight idf,entropy,mutual_information,chi_square --with site --local log");
    let of = |term: &str, name: &str| {
        let row = weights.iter().find(|row| row["term"] == term).expect("a term");
        row[name].as_f64().expect("a number")
    };
    let close = |value: f64, expected: f64| assert!((value - expected).abs() < 1e-5, "{value} {expected}");
    close(of("tern", "idf"), 2f64.ln());
    close(of("gull", "idf"), 4f64.ln());
    // 3 tokens in one document and 1 in another, of four.
    close(of("tern", "entropy"), 1.0 + (0.75 * 0.75f64.ln() + 0.25 * 0.25f64.ln()) / 4f64.ln());
    close(of("gull", "entropy"), 1.0);
    // In one document of each site: tells nothing.
    close(of("tern", "mutual_information"), 0.0);
    close(of("tern", "chi_square"), 0.0);
    // In one of four documents.
    close(of("gull", "chi_square"), 4.0 / 3.0);
    close(of("tern", "sum_idf"), 2f64.ln() * (4f64.ln() + 2f64.ln()));
    let nobody = "run recipe.toml notes.jsonl --out nobody --weight chi_square --with ward";
    assert!(home.refused(nobody).contains("--with: no document has a field `ward`"));
    assert!(!home.path("nobody").exists());
    // The same as columns of the table of the run.
    home.done("run recipe.toml notes.jsonl --out weighed --weight idf,entropy,chi_square --with site");
    let table = home.read("weighed/vocabulary.csv");
    assert!(table.lines().next().is_some_and(|line| line.ends_with("commonest_form,idf,entropy,chi_square")));
    for row in home.rows("weighed/vocabulary.csv") {
        let cell = |place: usize| row[place].parse::<f64>().expect("a number");
        close(cell(10), of(&row[1], "idf"));
        close(cell(11), of(&row[1], "entropy"));
        close(cell(12), of(&row[1], "chi_square"));
    }
}

#[test]
fn terms_are_kept_by_weight_and_frozen() {
    let home = home().file(
        "limit.toml",
        "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"limit\"\nweight = \"idf\"\nmax_weight = 0.8\n",
    );
    home.done("run limit.toml notes.jsonl --out limited");
    let terms: Vec<String> =
        home.rows("limited/vocabulary.csv").into_iter().map(|row| row[1].clone()).collect();
    assert_eq!(terms, ["work", ",", "The"]);
    assert!(home.read("limited/frozen.toml").contains("known = "));
    assert!(
        home.read("limited/learned.csv").contains("work,,3,3,0.2877"),
        "{}",
        home.read("limited/learned.csv")
    );
    let wrong = home.file(
        "wrong.toml",
        "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"limit\"\nweight = \"chi_square\"\nfield = \"ward\"\ntop = 3\n",
    );
    assert!(wrong.refused("run wrong.toml notes.jsonl").contains("`ward`"));
}

#[test]
fn parts_of_speech_and_labels_are_counted_truly() {
    let home = home().file(
        "tagged.toml",
        "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"tag\"\n[[step]]\ndo = \"label\"\nname = \"bird\"\nadd = [\"tern\", \"terns\", \"gulls\"]\n\
         [[step]]\ndo = \"lemma\"\n[[step]]\ndo = \"phrases\"\nadd = [\"hard work\"]\n",
    );
    home.done("run tagged.toml notes.jsonl --out run --replace");
    let work = rows(&home, "--by tag --matches ^work$");
    let counted: u64 = work.iter().map(|row| row["count"].as_u64().expect("a count")).sum();
    assert_eq!(counted, 2, "{work:?}");
    let nouns = rows(&home, "--tag noun");
    assert!(nouns.iter().all(|row| row["tag"] == "NOUN") && !nouns.is_empty());
    let labelled = column(&rows(&home, "--label bird"), "term");
    assert!(
        labelled.iter().all(|term| term.to_lowercase().contains("tern") || term.contains("gull")),
        "{labelled:?}"
    );
    assert!(home.refused("terms run --label fish").contains("there are bird"));
    // The tokens of parts are not those of the whole.
    let csv = home.done("why run hard_work --format csv");
    let of_term: Vec<&str> = csv.lines().filter(|line| line.ends_with(",hard_work,")).collect();
    assert_eq!(of_term.len(), 1, "{csv}");
    assert!(csv.contains("hard,word,ADJ,1,1,joined,5,part of another token,,hard_work"), "{csv}");
}

#[test]
fn why_goes_on_to_documents_and_ranks() {
    let home = home();
    let out = home.done("why run tern");
    assert!(out.contains("changed at step") && out.contains("5 → tern"), "{out}");
    assert!(out.contains("Documents  notes.jsonl:1 (3), notes.jsonl:4 (1)\n"), "{out}");
    assert!(out.contains("[terns] work. Terns, terns"), "{out}");
    assert!(out.contains("after step"), "{out}");
    let json: Value = serde_json::from_str(&home.done("why run tern --format json")).expect("JSON");
    let ranks = json["ranks"].as_array().expect("ranks");
    assert_eq!((ranks[0]["step"].clone(), ranks[0]["tokens"].clone()), (2.into(), 1.into()));
    assert_eq!((ranks[3]["rank"].clone(), ranks[3]["tokens"].clone()), (1.into(), 4.into()));
    // What a run without documents cannot show is left out.
    home.done("run recipe.toml notes.jsonl --out bare --without-documents");
    assert!(!home.done("why bare tern").contains("Documents"));
}

#[test]
fn the_terminal_says_what_people_ask() {
    let home = home().file("empty.jsonl", "{\"id\":\"x\",\"text\":\"The of\"}\n{\"text\":\"tern\"}\n");
    let said = home.yarrup("run recipe.toml empty.jsonl --out emptied");
    assert!(said.out.contains("66.7 % less: 1 of 3 tokens (33.3 %)"), "{said:?}");
    assert!(said.out.contains("1 term (100.0 % of the vocabulary) covers 80 % of all tokens"), "{said:?}");
    assert!(
        said.err.contains("1 document left without any token: `x`; `yarrup find RUN --emptied`"),
        "{said:?}"
    );
    let look = home.done("look notes.jsonl");
    assert!(look.contains("site hide: 2 · spit: 2"), "{look}");
}
