//! The pages of the book: every command in them runs, in their order, on the files of the demo.

use std::path::Path;

use crate::home::Home;

/// The fenced blocks of a page: the language, and the lines.
fn blocks(page: &str) -> Vec<(String, String)> {
    let mut blocks = Vec::new();
    let mut open: Option<(String, String)> = None;
    for line in page.lines() {
        match (line.strip_prefix("```"), &mut open) {
            (Some(_), Some(_)) => blocks.extend(open.take()),
            (Some(language), None) => open = Some((language.to_owned(), String::new())),
            (None, Some((_, lines))) => {
                lines.push_str(line);
                lines.push('\n');
            }
            (None, None) => {}
        }
    }
    blocks
}

/// Runs a page from its top to its end; returns how many commands it has.
fn run_page(name: &str, home: &Home) -> usize {
    let page = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs").join(name);
    let page = std::fs::read_to_string(page).expect("a page");
    let mut count = 0;
    for (language, lines) in blocks(&page) {
        if language == "toml" || language == "xml" {
            let first = lines.lines().next().expect("a line");
            let first = first.trim_start_matches("<!-- ").trim_end_matches(" -->").trim_start_matches("# ");
            let file = first.strip_prefix("file: ").expect("the name of a file");
            std::fs::write(home.path(file), &lines).expect("a file");
            continue;
        }
        for command in lines.lines().filter(|_| language == "sh") {
            let output = home.shell(command);
            assert!(
                output.status.success(),
                "{name}: {command}\n{}",
                String::from_utf8_lossy(&output.stderr)
            );
            count += 1;
        }
    }
    count
}

#[test]
fn start_here_leads_from_files_to_a_matrix() {
    let home = Home::new();
    let count = run_page("start-here.md", &home);
    assert!(count >= 15, "{count} commands");
    assert!(home.path("my-matrix/matrix.mtx").is_file());
}

#[test]
fn every_entry_of_the_cookbook_runs() {
    let home = Home::new();
    home.done("demo --into saltmere");
    let count = run_page("cookbook.md", &home);
    assert!(count >= 30, "{count} commands");
    let handed_over = home.read("for-others.jsonl");
    assert!(handed_over.contains("<email-1>") && !handed_over.contains("office@example.org"));
}

#[test]
fn the_summary_names_every_page() {
    let docs = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs");
    let summary = std::fs::read_to_string(docs.join("SUMMARY.md")).expect("a summary");
    for entry in std::fs::read_dir(&docs).expect("pages") {
        let name = entry.expect("a page").file_name().to_string_lossy().into_owned();
        if name.ends_with(".md") && name != "SUMMARY.md" {
            assert!(summary.contains(&format!("({name})")), "{name}");
        }
    }
}
