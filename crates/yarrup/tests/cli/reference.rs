//! The documentation says what the program does.

use std::fmt::Write;
use std::path::{Path, PathBuf};

use yarrup_core::OPERATIONS;
use yarrup_core::step::Stage;
use yarrup_io::{FORMATS, SETTINGS};

use crate::home::Home;

fn repository() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

fn read(name: &str) -> String {
    std::fs::read_to_string(repository().join(name)).unwrap_or_else(|error| panic!("{name}: {error}"))
}

/// The section on the steps, as the list of operations tells it.
fn steps() -> String {
    let mut out = String::new();
    for operation in OPERATIONS {
        let stage = match operation.stage {
            Stage::Split => "the split".to_owned(),
            stage => format!("{} step", stage.name()),
        };
        writeln!(out, "### `{}`\n\n{}: {}.\n", operation.name, capital(&stage), operation.about)
            .expect("memory");
        writeln!(out, "| key | value | default | meaning |\n| --- | --- | --- | --- |").expect("memory");
        for key in operation.keys {
            let value = key.shape.told();
            let default = key.default.map_or_else(|| "–".to_owned(), |default| format!("`{default}`"));
            writeln!(out, "| `{}` | {value} | {default} | {} |", key.name, key.about.replace('|', "\\|"))
                .expect("memory");
        }
        let keys =
            if operation.example.is_empty() { String::new() } else { format!("{}\n", operation.example) };
        writeln!(out, "\n```toml\n[[step]]\ndo = \"{}\"\n{keys}```\n", operation.name).expect("memory");
    }
    out
}

fn capital(text: &str) -> String {
    format!("{}{}", text[..1].to_uppercase(), &text[1..])
}

/// Compares a section of a page with what it should be; with `YARRUP_WRITE_REFERENCE` set, writes it.
fn compare(page_name: &str, section_name: &str, expected: &str) {
    let page = read(page_name);
    let (begin, end) = (format!("<!-- {section_name} -->\n"), format!("<!-- end of {section_name} -->"));
    let (before, rest) = page.split_once(&begin).expect("a marker");
    let (section, after) = rest.split_once(&end).expect("a marker");
    if std::env::var_os("YARRUP_WRITE_REFERENCE").is_some() {
        let page = format!("{before}{begin}{expected}{end}{after}");
        std::fs::write(repository().join(page_name), page).expect("written");
    } else {
        assert_eq!(section, expected, "run the test once with YARRUP_WRITE_REFERENCE=1");
    }
}

#[test]
fn the_reference_page_lists_every_step_and_key() {
    compare("docs/recipe.md", "steps", &steps());
}

#[test]
fn the_page_on_sources_lists_every_format_and_setting() {
    let mut formats =
        "| `--as` | what it is | endings | a document is |\n| --- | --- | --- | --- |\n".to_owned();
    for format in FORMATS.all() {
        let endings: Vec<_> = format.endings().iter().map(|ending| format!("`.{ending}`")).collect();
        let units: Vec<_> = format.units().iter().map(|unit| format!("a {}", unit.name())).collect();
        let units = if units.is_empty() { "what is inside".to_owned() } else { units.join(", or ") };
        writeln!(formats, "| `{}` | {} | {} | {units} |", format.name(), format.about(), endings.join(" "))
            .expect("memory");
    }
    let mut settings = "| key | value | meaning |\n| --- | --- | --- |\n".to_owned();
    for setting in SETTINGS {
        let about = setting.about.replace('|', "\\|");
        writeln!(settings, "| `{}` | `{}` | {about} |", setting.name, setting.example.replace('|', "\\|"))
            .expect("memory");
    }
    // One after the other: both stand in one file.
    compare("docs/sources.md", "formats", &formats);
    compare("docs/sources.md", "settings", &settings);
}

#[test]
fn the_collection_file_of_the_page_on_sources_is_one() {
    let page = read("docs/sources.md");
    let file =
        page.split("```toml\n").nth(1).and_then(|rest| rest.split("```").next()).expect("a collection file");
    let home = Home::new()
        .file("house.toml", file)
        .file("visitor-cards.csv", "card,rating,language,comment\nc1,2,en,No bus\nc2,5,fr,Merci\n")
        .file("ward-reports/a.txt", "terns")
        .file("ward-reports/draft-b.txt", "no")
        .file(
            "reports-2030.zip",
            std::fs::read(repository().join("demo/reports-2030.zip")).expect("the demo"),
        );
    let report = home.done("look house.toml --format json");
    assert!(report.contains("\"documents\": 12") && report.contains("\"documents_left_out\": 1"), "{report}");
}

#[test]
fn the_recipe_of_the_readme_runs() {
    let readme = read("README.md");
    let recipe =
        readme.split("```toml\n").nth(1).and_then(|rest| rest.split("```").next()).expect("a recipe");
    let home = Home::new()
        .file("topics.toml", recipe)
        .file("our-words.csv", "word\nsaltmere\n")
        .file("notes.jsonl", "{\"note\":{\"text\":\"No terns at Saltmere\"}}\n");
    home.done("check topics.toml");
    home.done("run topics.toml notes.jsonl --text note.text --out runs/notes");
    assert!(home.read("runs/notes/documents.jsonl").contains("\"clean\":\"no tern\""));
}

#[test]
fn the_readme_names_every_command_and_every_picture() {
    let readme = read("README.md");
    let help = Home::new().done("--help");
    // A line that goes on with what a command is for stands further in.
    let names = |line: &&str| line.is_empty() || line.starts_with("  ") && !line.starts_with("   ");
    let commands = help.lines().skip_while(|line| *line != "Commands:").skip(1).filter(names).map(str::trim);
    let commands = commands.take_while(|line| !line.is_empty()).filter_map(|line| line.split(' ').next());
    let commands: Vec<&str> =
        commands.filter(|name| name.chars().all(char::is_alphabetic) && *name != "help").collect();
    assert!(commands.len() >= 7, "{help}");
    for command in commands {
        assert!(readme.contains(&format!("`yarrup {command}")), "{command}");
    }
    let pictures = std::fs::read_dir(repository().join("docs/screenshots")).expect("pictures");
    for picture in pictures {
        let name = picture.expect("a picture").file_name().to_string_lossy().into_owned();
        assert!(readme.contains(&name), "{name}");
    }
}
