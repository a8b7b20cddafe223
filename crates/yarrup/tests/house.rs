//! The house of CONTRIBUTING.md stands: no module leans on one of a floor above it.

use std::fs;
use std::path::Path;

/// The modules of the core, from the ground up. Modules of one floor may lean on those before them in the line.
const CORE: &[&[&str]] = &[
    &[
        "unicode",
        "many_bytes",
        "span",
        "kind",
        "part_of_speech",
        "morphology",
        "numbers",
        "words",
        "language",
        "condition",
        "pattern",
        "word_finder",
        "occurrences",
        "value",
        "count_sketch",
        "seen",
        "study",
    ],
    &["stem", "lemma", "tag", "split"],
    &["step"],
    &["steps"],
    &["recipe"],
    &["pipeline"],
    &["run"],
    &["compile"],
    &["account"],
    &["compare", "examples", "learn", "advice", "survey", "reduce", "shelf", "lists"],
    &["suggest"],
    &["lib", "testing"],
];

const IO: &[&[&str]] = &[
    &[
        "arrow_stream",
        "encoding",
        "names",
        "left_out",
        "bounded",
        "csv_error",
        "csv_table",
        "writing",
        "record",
        "fields",
        "rows",
        "matrix",
    ],
    &["documents"],
    &["sidecar", "format", "sampling", "originals"],
    &["registry"],
    &["apart"],
    &["collection"],
    &["database"],
    &["run", "place", "intake"],
    &["source"],
    &["reading", "word_list", "word_list_edit", "lock", "run_documents"],
    &["lib"],
];

/// Every file of a folder and those in it.
fn files(folder: &Path) -> Vec<std::path::PathBuf> {
    let entries = fs::read_dir(folder).expect("a folder of sources");
    let mut files = Vec::new();
    for entry in entries {
        let path = entry.expect("an entry").path();
        match path.is_dir() {
            true => files.extend(self::files(&path)),
            false => files.push(path),
        }
    }
    files
}

/// What leans upward or sideways against the line, as "file: module -> module".
fn leaning(source: &Path, floors: &[&[&str]]) -> Vec<String> {
    let order: Vec<&str> = floors.concat();
    let place = |module: &str| order.iter().position(|known| *known == module);
    let mut wrong = Vec::new();
    for file in files(source) {
        let inside = file.strip_prefix(source).expect("a file of the folder").to_string_lossy().into_owned();
        let module = inside.split(['/', '\\', '.']).next().unwrap_or_default().to_owned();
        let text = fs::read_to_string(&file).unwrap_or_default();
        if !inside.ends_with(".rs") || inside.ends_with("tests.rs") {
            continue;
        }
        let Some(own) = place(&module) else {
            wrong.push(format!("{inside}: `{module}` has no place in the house"));
            continue;
        };
        let code = text.split("#[cfg(test)]\nmod tests").next().unwrap_or_default();
        for used in code.split("crate::").skip(1) {
            let used: &str =
                used.split(|c: char| !c.is_alphanumeric() && c != '_').next().unwrap_or_default();
            if place(used).is_some_and(|used| used > own) {
                wrong.push(format!("{inside}: {module} -> {used}"));
            }
        }
    }
    wrong
}

#[test]
fn arrows_run_downward() {
    let crates = Path::new(env!("CARGO_MANIFEST_DIR")).join("..");
    for (name, floors) in [("yarrup-core", CORE), ("yarrup-io", IO)] {
        let source = crates.join(name).join("src");
        assert!(files(&source).len() > 20, "the sources of {name} are found");
        let wrong = leaning(&source, floors);
        assert!(wrong.is_empty(), "{name}:\n{}", wrong.join("\n"));
    }
}

#[test]
fn the_picture_shows_every_module() {
    let picture = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/house.dot");
    let picture = fs::read_to_string(picture).expect("the picture's source");
    for module in CORE.concat().into_iter().filter(|module| !["lib", "testing"].contains(module)) {
        assert!(picture.contains(module), "docs/house.dot does not show `{module}` of the core");
    }
}
