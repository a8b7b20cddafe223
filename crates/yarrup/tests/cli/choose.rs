//! What is in the texts, and what to try next: `matches`, numbered placeholders, `look --copies`, `lists`, `suggest`.

use std::fmt::Write as _;

use crate::home::Home;

const NOTES: &str = "{\"id\":\"a\",\"text\":\"Write to warden@example.org or WARDEN@example.org, see https://example.org/tides.\"}\n\
                     {\"id\":\"b\",\"text\":\"v1.4.2 of the map: 52.9876, 1.2345. Ask warden@example.org on 3-5 May 2031, EQ-17 at 12 Marsh Lane\"}\n\
                     {\"id\":\"c\",\"text\":\"Nothing at Gull Hide, but EQ-17 and eq-3\"}\n";

fn json(said: &str) -> serde_json::Value {
    serde_json::from_str(said).expect("JSON")
}

#[test]
fn values_are_summed_up_listed_and_placed() {
    let home = Home::new().file("notes.jsonl", NOTES);
    let summary = home.done("matches notes.jsonl");
    for kind in ["email", "url", "version", "coordinates", "date", "street"] {
        assert!(summary.contains(kind), "{kind}\n{summary}");
    }
    let rows = home.done("matches notes.jsonl --kinds email,date,street --format csv");
    assert_eq!(
        rows,
        "kind,value,count,documents\nemail,warden@example.org,2,2\nemail,WARDEN@example.org,1,1\ndate,3-5 May 2031,1,1\nstreet,12 Marsh Lane,1,1\n"
    );
    let places = json(&home.done("matches notes.jsonl --kinds url --places --format json"));
    let text = "Write to warden@example.org or WARDEN@example.org, see https://example.org/tides.";
    let (start, end) = (places[0]["start"].as_u64(), places[0]["end"].as_u64());
    assert_eq!(&text[start.unwrap_or(0) as usize..end.unwrap_or(0) as usize], "https://example.org/tides");
    assert_eq!(places[0]["document"], "a");
}

#[test]
fn own_patterns_and_lists_are_found() {
    let home =
        Home::new().file("notes.jsonl", NOTES).file("places.csv", "id,name\n1,Gull Hide\n2,Sedge Pool\n");
    let found =
        home.done("matches notes.jsonl --pattern ticket=EQ-[0-9]+ --list places.csv#name --format csv");
    assert_eq!(found, "kind,value,count,documents\nticket,EQ-17,2,2\nplaces,Gull Hide,1,1\n");
    let none = home.yarrup("matches notes.jsonl --kinds mac");
    assert_eq!(none.code, Some(1), "{none:?}");
    assert!(home.refused("matches notes.jsonl --kinds emial").contains("did you mean `email`"));
    assert!(home.refused("matches notes.jsonl --pattern x=(").contains("not a regular expression"));
    let told = home.refused("matches notes.jsonl --list places.csv");
    assert!(told.contains("places.csv#COLUMN") && told.contains("`id`, `name`"), "{told}");
    assert!(home.refused("matches notes.jsonl --where colour=red").contains("no document has"));
}

#[test]
fn the_values_of_a_run_are_those_of_its_source() {
    let home = Home::with_recipe().file("notes.jsonl", NOTES);
    home.done("run recipe.toml notes.jsonl --out run");
    assert_eq!(
        home.done("matches run --kinds all --format csv"),
        home.done("matches notes.jsonl --kinds all --format csv")
    );
}

#[test]
fn each_value_has_one_number_wherever_it_comes() {
    let home = Home::new().file("notes.jsonl", NOTES).file(
        "masked.toml",
        "language = \"en\"\n[[step]]\ndo = \"mask\"\nkinds = [\"email\", \"url\"]\npatterns = { ticket = '(?i)EQ-\\d+' }\nmap = \"numbered\"\n\
         [[step]]\ndo = \"case\"\nto = \"upper\"\n[[step]]\ndo = \"split\"\n",
    );
    home.done("run masked.toml notes.jsonl --out run --threads 1");
    home.done("run masked.toml notes.jsonl --out again --threads 4");
    assert_eq!(home.read("run/documents.jsonl"), home.read("again/documents.jsonl"));
    let clean: Vec<String> = home
        .read("run/documents.jsonl")
        .lines()
        .map(|line| json(line)["clean"].as_str().unwrap_or_default().to_owned())
        .collect();
    // One address in two letter cases is one value.
    assert!(clean[0].contains("<email-1> OR <email-1>") && clean[0].contains("<url-1>"), "{}", clean[0]);
    assert!(clean[1].contains("<email-1>") && clean[1].contains("<ticket-1>"), "{}", clean[1]);
    assert!(clean[2].contains("<ticket-1> AND <ticket-2>"), "{}", clean[2]);
    let frozen = home.read("run/frozen.toml");
    assert!(!frozen.contains("warden@") && frozen.contains("= \"email-1\""), "{frozen}");
    let key = home.done("matches notes.jsonl --key run/frozen.toml --format csv");
    assert!(key.starts_with("placeholder,kind,value,count,documents\n<email-1>,email,WARDEN@example.org,1,1\n<email-1>,email,warden@example.org,2,2\n"), "{key}");
    assert!(home.refused("matches notes.jsonl --key masked.toml").contains("no step gives values numbers"));
    // A value that the collection did not have has no number.
    let piped = home.yarrup_with(
        "pipe run/frozen.toml",
        &[],
        b"{\"text\":\"new@example.org, warden@example.org\"}\n",
    );
    assert_eq!(json(&piped.out)["clean"], "<email> , <email-1>");
    assert!(home.refused("pipe masked.toml").contains("must first be trained"));
}

/// Sentences that repeat nothing: each word has a number of its own.
fn filler(from: usize, words: usize) -> String {
    (from..from + words).map(|number| format!("w{number}")).collect::<Vec<_>>().join(" ")
}

#[test]
fn copies_and_passages_are_told_with_what_differs() {
    let notice = "This notice is printed by the office and must not be taken down.";
    let mut lines = String::new();
    for number in 0..8 {
        let text = match number {
            // A copy of the first, and one with a word of its own.
            5 => format!("{} {notice} {}", filler(0, 30), filler(1_000, 30)),
            6 => format!("{} {notice} {}", filler(0, 30).replace("w7 ", "zebra "), filler(1_000, 30)),
            number => format!("{} {notice} {}", filler(number * 100, 30), filler(1_000 + number * 100, 30)),
        };
        let text = text.replace(&format!(" {notice}"), &format!(". {notice}"));
        writeln!(lines, "{}", serde_json::json!({ "id": format!("n{number}"), "text": text }))
            .expect("a line");
    }
    let home = Home::new().file("notes.jsonl", lines);
    let told = home.done("look notes.jsonl --copies");
    for part in [
        "2 of 8 documents repeat an earlier one: 1 word for word, 1 nearly",
        "n5  the same words",
        "n6  [-w7-]{+zebra+}",
        "5×  This notice is printed by the office and must not be taken down.",
        "do = \"replace\"\npairs = { \"This notice is printed",
        "copies = \"near\"",
    ] {
        assert!(told.contains(part), "{part}\n{told}");
    }
    let data = json(&home.done("look notes.jsonl --copies --format json"));
    assert_eq!(
        data["groups"],
        serde_json::json!([{ "id": "n0", "copies": [{ "id": "n5", "same_words": true }, { "id": "n6", "same_words": false }] }])
    );
    assert_eq!((&data["passages"][0]["count"], &data["passages"][0]["documents"]), (&5.into(), &5.into()));
    // What is a copy for the most part is not counted once more. The steps run, and leave nothing of it.
    let steps = data["steps"].as_str().expect("steps");
    std::fs::write(home.path("left.toml"), steps).expect("a recipe");
    home.done("run left.toml notes.jsonl --out run");
    let left = home.read("run/documents.jsonl");
    let ids: Vec<_> = left.lines().map(|line| json(line)["id"].clone()).collect();
    assert_eq!(ids, ["n0", "n1", "n2", "n3", "n4", "n7"]);
    assert!(left.contains("w729"), "{left}");
    assert!(!left.contains("notice"), "{left}");
    let one_thread = home.done("look notes.jsonl --copies --format json --threads 1");
    assert_eq!(json(&one_thread), data);
}

#[test]
fn lists_are_shown_beside_one_another_and_edited() {
    let home = Home::new()
        .file("ours.csv", "word,why\nobserved,says nothing\nthe,\nobserved,again\nGull Hide,a place\nwalrus,\n")
        .file("recipe.toml", "language = \"en\"\n[[step]]\ndo = \"case\"\n[[step]]\ndo = \"stopwords\"\nlists = [\"en\", \"ours.csv\"]\n")
        .file("notes.jsonl", "{\"text\":\"The gull observed the Gull Hide\"}\n{\"text\":\"He observes and observed at gull hide\"}\n");
    home.done("run recipe.toml notes.jsonl --out run");
    let told = home.done("lists recipe.toml --run run");
    for part in
        ["1 entry twice: observed", "1 in `en` as well: the", "1 never met: walrus", "observes 1× (observed)"]
    {
        assert!(told.contains(part), "{part}\n{told}");
    }
    let rows = home.done("lists recipe.toml --run run --entries ours.csv --format csv");
    assert_eq!(
        rows,
        "step,do,list,entry,count,documents,also_in\n2,stopwords,ours.csv,observed,2,2,\n2,stopwords,ours.csv,the,2,1,en\n\
         2,stopwords,ours.csv,Gull Hide,2,2,\n2,stopwords,ours.csv,walrus,0,0,\n"
    );
    assert!(home.refused("lists recipe.toml --entries our.csv").contains("did you mean `ours.csv`"));

    let said = home.yarrup("lists add ours.csv observes --reason form");
    assert_eq!((said.code, said.err.contains("1 added (`observes`)")), (Some(0), true), "{said:?}");
    assert!(home.read("ours.csv").contains("observes,form\n"), "{}", home.read("ours.csv"));
    let said = home.yarrup_with("lists remove ours.csv", &[], b"walrus\nGull Hide\nnothing\n");
    assert_eq!((said.code, said.err.contains("not there (`nothing`)")), (Some(1), true), "{said:?}");
    assert!(!home.read("ours.csv").contains("walrus"));
    home.done("lists add new.txt b a b");
    assert_eq!(home.read("new.txt"), "a\nb\n");
    assert!(home.refused("lists add new.txt c --reason x").contains("a column `reason`"));
    assert!(home.refused("lists remove missing.txt c").contains("missing.txt"));
    assert!(home.done("shelf en --format csv").starts_with("entry,group,source\n"));
}

/// Notes of a reserve in which something is planted.
fn planted() -> String {
    let mut lines = String::new();
    let birds = ["tern", "gull", "heron", "plover", "dunlin", "curlew", "knot", "egret"];
    for number in 0..120 {
        let bird = birds[number % birds.len()];
        let (received, marsh) = match number {
            17 | 40 => ("recieved", "the marsh harrier"),
            _ => ("received", "the marsh harrier"),
        };
        let place = if number % 4 == 0 { "We met Ines Okoro at Sedge Pool. " } else { "" };
        let rest = filler(number * 10, 6);
        let text = format!(
            "{place}The office {received} a note about a {bird} by the wall, and {marsh} flew over the water with it. {rest}.\nPlease keep this board dry and tidy for others\n"
        );
        writeln!(lines, "{}", serde_json::json!({ "id": number.to_string(), "text": text })).expect("a line");
    }
    lines
}

const NOTES_RECIPE: &str = "# Notes of the wardens.\nrecipe = \"notes\"\nlanguage = \"en\"\n\n[[step]]\ndo = \"case\"\n\n[[step]]\ndo = \"split\"\n\n[[step]]\ndo = \"drop\"\nkinds = [\"punctuation\"]\n\n# the usual\n[[step]]\ndo = \"stopwords\"\nlists = [\"en\"]\n\n[[step]]\ndo = \"lemma\"\n";

#[test]
fn what_was_planted_is_suggested_and_goes_into_the_recipe() {
    let home = Home::new().file("notes.jsonl", planted()).file("recipe.toml", NOTES_RECIPE);
    home.done("run recipe.toml notes.jsonl --out run");
    let told = home.done("suggest run --top 0");
    for part in [
        "recieved → received",
        "marsh harrier",
        "Please keep this board dry and tidy for others",
        "note  ",
        "office  ",
    ] {
        assert!(told.contains(part), "{part}\n{told}");
    }
    let rows = json(&home.done("suggest run --top 0 --format json"));
    let number = |entry: &str| {
        let row = rows.as_array().and_then(|rows| rows.iter().find(|row| row["entry"] == entry));
        row.and_then(|row| row["number"].as_u64()).unwrap_or_else(|| panic!("{entry}: {rows}"))
    };
    let chosen = format!("{},{},{}", number("recieved"), number("marsh harrier"), number("note"));
    let said = home.yarrup_with(
        "suggest run --top 0 --recipe recipe.toml --accept",
        &[&format!("{chosen},boilerplate")],
        b"",
    );
    assert_eq!(said.code, Some(0), "{said:?}");
    let changed = home.read("recipe.toml");
    for kept in ["# Notes of the wardens.", "# the usual\n[[step]]\ndo = \"stopwords\"\nlists = [\"en\"]"] {
        assert!(changed.contains(kept), "{kept}\n{changed}");
    }
    home.done("run recipe.toml notes.jsonl --out better");
    let terms = home.done("terms better --top 0 --format csv");
    assert!(
        terms.contains(",marsh_harrier,120,") && !terms.contains(",recieve,") && !terms.contains(",note,"),
        "{terms}"
    );
    assert!(!terms.contains(",board,"), "{terms}");
    // What was accepted is not suggested again.
    let again = home.done("suggest better --top 0");
    for part in ["recieved", "marsh harrier", "Please keep"] {
        assert!(!again.contains(part), "{part}\n{again}");
    }
}

#[test]
fn names_are_listed_when_they_are_asked_for() {
    let home = Home::new().file("notes.jsonl", planted()).file("recipe.toml", NOTES_RECIPE);
    home.done("run recipe.toml notes.jsonl --out run");
    assert!(!home.done("suggest run").contains("Ines Okoro"));
    home.done("suggest run --only names --write names.csv");
    let names = home.read("names.csv");
    assert!(
        names.contains("Ines Okoro,,name,names,30,30") && names.contains("Sedge Pool,,place,names,30,30"),
        "{names}"
    );
    home.done("suggest run --only names --accept names --recipe recipe.toml");
    let changed = home.read("recipe.toml");
    assert!(changed.contains("do = \"label\"\nname = \"place\"\nadd = [\"Sedge Pool\"]"), "{changed}");
    home.done("run recipe.toml notes.jsonl --out labelled");
    assert!(home.done("terms labelled --label place").contains("sedge"));
    assert!(home.refused("suggest run --only names --write names.csv").contains("names.csv"));
    home.done("suggest run --only spellings,names --write names.txt");
    assert!(home.read("names.txt").lines().any(|line| line == "Sedge Pool"));
}

#[test]
fn what_cannot_be_accepted_is_refused() {
    let home = Home::with_recipe()
        .file("notes.jsonl", planted())
        .file("bad.toml", "[[step]]\ndo = \"cse\"\n")
        .file("inline.toml", "step = [{ do = \"case\" }]\n");
    home.done("run recipe.toml notes.jsonl --out run");
    assert!(home.refused("suggest run --accept 1").contains("--recipe RECIPE, or --write FILE"));
    assert!(home.refused("suggest run --accept 99 --recipe recipe.toml").contains("there are 1 to"));
    assert!(
        home.refused("suggest run --accept names,spelings --recipe recipe.toml")
            .contains("did you mean `spellings`")
    );
    assert!(home.refused("suggest run --accept 1 --recipe bad.toml").contains("did you mean `case`"));
    assert!(home.refused("suggest run --accept 1 --recipe inline.toml").contains("[[step]]"));
    assert!(home.refused("suggest run --only nmes").contains("did you mean `names`"));
    home.done("run recipe.toml notes.jsonl --out bare --without-originals");
    assert!(home.refused("suggest bare").contains("--without-originals"));
}

#[test]
fn phrases_are_learned_by_parts_of_speech() {
    let mut lines = String::new();
    for number in 0..12 {
        let text = format!(
            "The old marsh harrier flew slowly over a nest box at dawn. She saw it again on day {number}."
        );
        writeln!(lines, "{}", serde_json::json!({ "text": text })).expect("a line");
    }
    let home = Home::new().file("notes.jsonl", lines).file(
        "recipe.toml",
        "language = \"en\"\n[[step]]\ndo = \"split\"\n[[step]]\ndo = \"tag\"\n[[step]]\ndo = \"phrases\"\nlearn = true\ntags = [\"terms\"]\nscore = \"c_value\"\nmin_score = 3\n",
    );
    home.done("run recipe.toml notes.jsonl --out run");
    let learned = home.read("run/learned.csv");
    assert!(learned.contains("marsh harrier") && learned.contains("nest box"), "{learned}");
    assert!(!learned.contains("flew slowly") && !learned.contains("saw it"), "{learned}");
    let untagged = home.read("recipe.toml").replace("[[step]]\ndo = \"tag\"\n", "");
    std::fs::write(home.path("untagged.toml"), untagged).expect("a recipe");
    assert!(home.refused("check untagged.toml").contains("do = \"tag\""));
}
