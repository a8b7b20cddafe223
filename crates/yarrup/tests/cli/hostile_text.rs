//! Nothing that other people wrote can steer a terminal: documents, fields, names of files, recipes, collection files; in whatever a command says.

use crate::home::{Home, Said};

/// Steers a terminal in every way there is: C0 and C1 sequences, deletions, directions, the end of a line.
const HOSTILE: &str =
    "\u{1b}[2J\u{1b}]0;x\u{7}\u{9b}31m\u{9d}\u{85}\u{8}\u{7f}\u{202e}\u{2066}\u{61c}\u{200f}\u{2028}\r";

/// The same for a name of a file, with letters around it.
fn name(before: &str, after: &str) -> String {
    format!("{before}\u{1b}[2J\u{9b}31m\u{202e}\u{61c}\u{7f}{after}")
}

fn is_steering(c: char) -> bool {
    (c.is_control() && !matches!(c, '\n' | '\t'))
        || matches!(c, '\u{61c}' | '\u{200e}' | '\u{200f}' | '\u{2028}'..='\u{202e}' | '\u{2066}'..='\u{2069}')
}

#[track_caller]
fn assert_harmless(command: &str, said: &Said) {
    for (what, text) in [("standard output", &said.out), ("standard error", &said.err)] {
        let line = text.lines().find(|line| line.contains(is_steering) || text.contains('\r'));
        assert!(!text.contains(is_steering), "{command}: {what}: {line:?}");
    }
}

fn home() -> Home {
    let json = |text: &str| serde_json::to_string(text).expect("a text");
    let mut notes = String::new();
    for number in 0..6 {
        let text =
            json(&format!("The terns{HOSTILE}nest on the {HOSTILE}spit {HOSTILE}\u{1b}[1mtern {number}"));
        let (field, value) = (json(&format!("site{HOSTILE}")), json(&format!("Gull{HOSTILE}Hide")));
        notes.push_str(&format!(
            "{{\"id\":{},\"text\":{text},{field}:{value}}}\n",
            json(&format!("n{HOSTILE}{number}"))
        ));
    }
    let broken = format!("{{\"id\": 1, {}: 2}}\n{{\"text\" {HOSTILE}\n", json(&format!("f{HOSTILE}")));
    let label = "\"l\\u001b[2J\\u009b\\u202e\"";
    let recipe = format!(
        "recipe = {label}\nabout = {label}\n[[step]]\ndo = \"replace\"\nlabel = {label}\nfind = \"on\"\nwith = \"at\"\n[[step]]\ndo = \"split\"\n\
         [[step]]\ndo = \"stopwords\"\nlists = [\"en\"]\nadd = [{label}]\n[[step]]\ndo = \"tag\"\n[[step]]\ndo = \"lemma\"\n[[step]]\ndo = \"limit\"\ntop = 50\n"
    );
    Home::new()
        .file("r.toml", recipe)
        .file(&name("r", ".toml"), "[[step]]\ndo = \"case\"\n")
        .file("wrong.toml", format!("recipe = {label}\n[[step]]\ndo = {label}\n[[step]]\ndo = \"stopwords\"\nlists = [{label}]\n"))
        .file("raw.toml", format!("[[step]]\ndo = \"case\" # {HOSTILE}\nto = \"{HOSTILE}\"\n"))
        .file("order.toml", format!("[[step]]\ndo = \"stem\"\nlabel = {label}\n[[step]]\ndo = \"stopwords\"\nlists = [\"en\"]\nadd = [{label}]\n"))
        .file("all.toml", format!("collection = {label}\nabout = {label}\n[[source]]\npath = \"notes.jsonl\"\n"))
        .file("bad.toml", format!("[[source]]\npath = {label}\n{label} = 1\n"))
        .file("notes.jsonl", notes)
        .file("broken.jsonl", broken)
        .file(&format!("pile/{}", name("a", ".txt")), format!("The terns{HOSTILE}nest"))
        .file(&format!("pile/{}", name("b", ".pdf")), "%PDF-1.4 no")
        .file(&format!("pile/{}", name("c", ".bin")), [0, 1, 2, 3, 0, 0, 255, 254])
        .file("groups.txt", format!("terns{HOSTILE} tern\nnests nest{HOSTILE}\n"))
        .file("bank.conllu", format!("# text = x\n1\tt{HOSTILE}\tt\tNOUN\t_\t_\t_\t_\t_\t_\n\n").replace(['\r', '\u{85}', '\u{2028}'], ""))
        .file("cards.csv", format!("id,text,{HOSTILE}\n1,\"a{HOSTILE}\n,2,x\n"))
}

#[test]
fn no_command_lets_anything_through_that_steers_a_terminal() {
    let home = home();
    home.done("run r.toml notes.jsonl --out run");
    let run = name("run", "");
    let mut commands: Vec<Vec<String>> = [
        "run r.toml notes.jsonl --out run --replace",
        "run r.toml broken.jsonl notes.jsonl --out run --replace -v",
        "run r.toml broken.jsonl --out other",
        "run r.toml notes.jsonl --out run --strict",
        "run r.toml pile --out run --replace",
        "run r.toml all.toml --out run --replace",
        "run r.toml bad.toml --out run --replace",
        "run r.toml cards.csv --out run --replace",
        "run wrong.toml notes.jsonl --out run --replace",
        "run raw.toml notes.jsonl --out run --replace",
        "look notes.jsonl",
        "look notes.jsonl --format json",
        "look notes.jsonl --documents 1,longest,nobody",
        "look notes.jsonl --documents 1 --format json",
        "look pile",
        "look pile --format json",
        "look broken.jsonl",
        "look cards.csv",
        "look all.toml --save saved.toml --replace",
        "check order.toml",
        "check order.toml --format json",
        "check order.toml --entries",
        "check r.toml notes.jsonl --joined",
        "check wrong.toml",
        "check wrong.toml --format json",
        "check raw.toml",
        "check raw.toml --format json",
        "try r.toml --from notes.jsonl",
        "try r.toml --from notes.jsonl --random 3",
        "try r.toml --from notes.jsonl --document nobody",
        "try r.toml --beside order.toml --from notes.jsonl",
        "try wrong.toml x",
        "terms run",
        "terms run --format json",
        "why run tern",
        "why run Gull",
        "why run tern --format json",
        "reduce --run run",
        "reduce --groups groups.txt",
        "learn bank.conllu --folds 2",
        "learn cards.csv --out x.model",
        "report run --by text",
        "find run tern",
        "find run tern --show text --by text",
        "find run tern --documents --show text",
        "find run --dropped --format json",
        "find run tern --whole",
        "terms run --dropped",
        "terms run --forms",
        "terms run --by text",
        "terms run --key text=x",
        "figure run top-terms --by text --out f.png --replace",
        "export run --as conllu --out x.conllu --replace",
        "shelf",
        "schema",
        "new new.toml --for topics --replace",
    ]
    .iter()
    .map(|command| command.split(' ').map(str::to_owned).collect())
    .collect();
    // What is typed may come from a listing of somebody's folder.
    let typed = |words: &[&str]| words.iter().map(|word| (*word).to_owned()).collect::<Vec<_>>();
    commands.extend([
        typed(&["run", &name("r", ".toml"), "notes.jsonl", "--out", &run]),
        typed(&["run", &name("r", ".toml"), "notes.jsonl", "--out", &run]),
        typed(&["run", "r.toml", &name("not", "there"), "--out", "x"]),
        typed(&["terms", &run]),
        typed(&["terms", HOSTILE]),
        typed(&["why", "run", HOSTILE]),
        typed(&["why", "run", HOSTILE, "--format", "json"]),
        typed(&["try", "r.toml", HOSTILE]),
        typed(&["try", &name("r", ".toml"), HOSTILE]),
        typed(&["try", "r.toml", "x", "--field", &format!("a{HOSTILE}=b")]),
        typed(&["look", &format!("pile/{}", name("a", ".txt"))]),
        typed(&["look", "notes.jsonl", "--where", &format!("{HOSTILE} = 1")]),
        typed(&["look", "notes.jsonl", "--save", &name("s", ".toml")]),
        typed(&["reduce", HOSTILE]),
        typed(&["reduce", HOSTILE, "--format", "json"]),
        typed(&["reduce", "terns", "--with", HOSTILE]),
        typed(&["shelf", HOSTILE]),
        typed(&["new", &name("n", ".toml"), "--for", "topics"]),
        typed(&["new", &name("n", ".toml"), "--for", "topics"]),
        typed(&["new", "x.toml", "--for", HOSTILE]),
        typed(&["demo", "--into", &name("demo", "")]),
        typed(&["demo", "--into", &name("demo", "")]),
        typed(&[HOSTILE]),
        typed(&["--help"]),
    ]);
    for words in &commands {
        let words: Vec<&str> = words.iter().map(String::as_str).collect();
        let said = home.yarrup_with("", &words, b"");
        assert_harmless(&words.join(" "), &said);
    }
    for (command, input) in [
        ("pipe r.toml", format!("{{\"text\": {HOSTILE}}}\n{{\"id\": \"{}\"}}\n", "\\u001b[2J")),
        ("try r.toml", format!("The terns{HOSTILE}nest")),
        ("reduce", format!("terns{HOSTILE}\tNOUN\nx\t{HOSTILE}\n")),
        ("look -", format!("The terns{HOSTILE}nest")),
    ] {
        let said = home.yarrup_with(command, &[], input.as_bytes());
        assert_harmless(command, &said);
    }
}

#[test]
fn tables_come_back_as_they_were() {
    let cells = ["=1+1", "'=1", " =2+2", "\t@x", "+cmd|y", "-1", "--", "'tis"];
    let mut notes = String::new();
    for cell in cells {
        notes.push_str(&serde_json::json!({ "text": cell }).to_string());
        notes.push('\n');
    }
    let home = Home::new()
        .file("r.toml", "[[step]]\ndo = \"split\"\ninto = \"lines\"\n")
        .file("drop.toml", "[[step]]\ndo = \"split\"\ninto = \"lines\"\n[[step]]\ndo = \"drop\"\nlists = [{ file = \"run/vocabulary.csv\", column = \"term\" }]\n")
        .file("notes.jsonl", &notes);
    home.done("run r.toml notes.jsonl --out run");
    let table = home.read("run/vocabulary.csv");
    assert!(table.contains("'=1+1") && table.contains("''=1") && !table.contains(",=1"), "{table}");
    // As a list, and as a source.
    let vocabulary: serde_json::Value =
        serde_json::from_str(&home.done("terms run --top 0 --format json")).expect("JSON");
    let terms: Vec<&str> =
        vocabulary.as_array().expect("terms").iter().filter_map(|row| row["term"].as_str()).collect();
    home.done("run drop.toml notes.jsonl --out none");
    assert_eq!(home.read("none/vocabulary.csv").lines().count(), 1, "every term is on the list");
    let mut back: Vec<String> = home
        .documents("run/vocabulary.csv --text term")
        .iter()
        .map(|document| document["text"].as_str().expect("a text").to_owned())
        .collect();
    back.sort();
    let mut terms: Vec<String> = terms.iter().map(|term| (*term).to_owned()).collect();
    terms.sort();
    assert_eq!(back, terms);
    // Somebody's own table is left as it is.
    let home = home.file("mine.csv", "text,more\n'=1,x\n");
    assert_eq!(home.documents("mine.csv")[0]["text"], "'=1");
}
