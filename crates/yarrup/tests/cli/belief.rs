//! A run can be believed, and repeated: what was done to its folder is seen, and the folder alone is enough.

use std::fs;

use crate::home::{Home, Said};

const NOTES: &str = "{\"id\": \"n1\", \"site\": \"spit\", \"text\": \"The terns are nesting on the spit, and they aren't shy\"}\n\
    {\"id\": \"n2\", \"site\": \"hide\", \"text\": \"Gulls and terns rest near the observed hide\"}\n";

fn home() -> Home {
    Home::new()
        .file("house.toml", "[[step]]\ndo = \"contractions\"\n[[step]]\ndo = \"case\"\n")
        .file("own.csv", "word,why\nobserved,everywhere\n")
        .file("equal.csv", "from,to\ngulls,gull\n")
        .file("rules.toml", "name = \"own\"\n[[rule]]\nend = \"s\"\nbecomes = \"\"\n")
        .file(
            "all.toml",
            "[[step]]\ndo = \"include\"\nrecipe = \"house.toml\"\n[[step]]\ndo = \"split\"\n[[step]]\ndo = \"stopwords\"\nlists = [\"en\", \"own.csv\"]\n\
             [[step]]\ndo = \"equate\"\ntables = [\"equal.csv\"]\n[[step]]\ndo = \"limit\"\ntop = 6\n",
        )
        .file("notes.jsonl", NOTES)
}

/// Everything that commands say of a run.
fn told(home: &Home) -> Vec<(&'static str, Said)> {
    [
        "terms run --top 0 --format csv",
        "terms run",
        "why run terns",
        "why run zebra",
        "reduce --run run",
        "export run --as conllu",
        "report run",
        "look run",
        "find run terns",
        "find run --dropped",
        "terms run --weight entropy",
        "figure run growth --out -",
    ]
    .map(|command| (command, home.yarrup(command)))
    .into()
}

#[test]
fn whatever_is_done_to_a_run_is_seen_or_changes_nothing() {
    let home = home();
    home.done("run all.toml notes.jsonl --out run");
    home.done("run house.toml notes.jsonl --out other");
    let before: Vec<(i32, String)> =
        told(&home).into_iter().map(|(_, said)| (said.code.expect("a code"), said.out)).collect();
    let whole = home.path("whole");
    fs::rename(home.path("run"), &whole).expect("moved");
    let files = [
        "account.bin",
        "run.json",
        "documents.jsonl",
        "recipe.toml",
        "frozen.toml",
        "vocabulary.csv",
        "forms.csv",
        "effects.csv",
        "growth.csv",
        "lengths.csv",
        "inputs/index.json",
    ];
    type Damage = fn(&[u8], &[u8]) -> Option<Vec<u8>>;
    let damages: [(&str, Damage); 7] = [
        ("taken away", |_, _| None),
        ("emptied", |_, _| Some(Vec::new())),
        ("cut by a byte", |bytes, _| Some(bytes[..bytes.len() - 1].to_vec())),
        ("cut by a line", |bytes, _| {
            let end = bytes[..bytes.len() - 1].iter().rposition(|byte| *byte == b'\n').map_or(0, |at| at + 1);
            Some(bytes[..end].to_vec())
        }),
        ("changed in a digit", |bytes, _| {
            let mut changed = bytes.to_vec();
            let at = bytes.iter().rposition(u8::is_ascii_digit)?;
            changed[at] = if bytes[at] == b'7' { b'8' } else { b'7' };
            Some(changed)
        }),
        ("lengthened", |bytes, _| Some([bytes, b"\n"].concat())),
        ("taken from another run", |_, other| Some(other.to_vec())),
    ];
    let mut seen = 0;
    for file in files {
        for (what, damage) in &damages {
            let _ = fs::remove_dir_all(home.path("run"));
            copy(&whole, &home.path("run"));
            let path = home.path(&format!("run/{file}"));
            let bytes = fs::read(&path).expect("a file");
            let other = fs::read(home.path(&format!("other/{file}"))).unwrap_or_default();
            match damage(&bytes, &other) {
                Some(damaged) => fs::write(&path, damaged).expect("written"),
                None => fs::remove_file(&path).expect("removed"),
            }
            for ((command, said), (code, out)) in told(&home).into_iter().zip(&before) {
                // The folder of a run without its record is a folder of files, and told as such.
                let is_other = file == "run.json" && command == "look run";
                if said.code == Some(2)
                    || is_other
                    || said.err.contains("was cut or changed since the run wrote it")
                {
                    seen += 1;
                    continue;
                }
                assert!(
                    said.code == Some(*code) && said.out == *out,
                    "{command} believes {file}, {what}: {said:?}"
                );
            }
        }
    }
    assert!(seen > 100, "{seen}");
}

fn copy(from: &std::path::Path, to: &std::path::Path) {
    fs::create_dir_all(to).expect("a folder");
    for entry in fs::read_dir(from).expect("a folder").flatten() {
        match entry.file_type().is_ok_and(|kind| kind.is_dir()) {
            true => copy(&entry.path(), &to.join(entry.file_name())),
            false => drop(fs::copy(entry.path(), to.join(entry.file_name())).expect("copied")),
        }
    }
}

#[test]
fn the_folder_of_a_run_is_enough_to_repeat_it_anywhere() {
    let home = home();
    home.done("run all.toml notes.jsonl --out run");
    let far = Home::new().file("notes.jsonl", NOTES);
    copy(&home.path("run"), &far.path("run"));
    drop(home);
    for recipe in ["run/recipe.toml", "run/frozen.toml"] {
        far.done(&format!("run {recipe} notes.jsonl --out again --replace"));
        for file in ["documents.jsonl", "vocabulary.csv", "forms.csv"] {
            assert_eq!(
                far.read(&format!("again/{file}")),
                far.read(&format!("run/{file}")),
                "{recipe}: {file}"
            );
        }
        assert!(far.done(&format!("try {recipe} gulls")).contains("gull"));
    }
    assert!(far.done("export run --as conllu").contains("newdoc id = n1"));
}

#[test]
fn a_run_as_a_source_is_its_documents_as_they_were() {
    let home = home();
    home.done("run all.toml notes.jsonl --out run");
    let documents = home.documents("run");
    let originals: Vec<serde_json::Value> =
        NOTES.lines().map(|line| serde_json::from_str(line).expect("an object")).collect();
    assert_eq!(documents.len(), 2);
    for (document, original) in documents.iter().zip(&originals) {
        for field in ["id", "site", "text"] {
            assert_eq!(document[field], original[field]);
        }
        assert!(
            document.as_object().expect("an object").keys().all(|key| !key.starts_with("carried_")),
            "{document}"
        );
    }
    assert_eq!(home.documents_with("run", &["--where", "site = hide"]).len(), 1);
    assert!(home.done("look run").contains("2 documents"));
    // In a folder of other things, a run is no source.
    fs::create_dir(home.path("pile")).expect("a folder");
    copy(&home.path("run"), &home.path("pile/run"));
    fs::write(home.path("pile/a.txt"), "Terns").expect("written");
    assert_eq!(home.documents("pile").len(), 1);
    home.done("run all.toml notes.jsonl --out bare --without-documents");
    assert!(home.refused("run all.toml bare --out x").contains("bare: the run holds no documents"));
}
