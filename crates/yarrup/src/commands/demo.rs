//! `yarrup demo`: the made-up collection, its recipes, and a first run of each.

use std::io::Write;
use std::path::Path;

use yarrup_io::{NewFolder, WriteError};
use yarrup_report::{Look, look_overview, visible};

use crate::arguments::{CheckFormat, DemoArguments, LookArguments, RunArguments, Written};
use crate::commands::{look, run};
use crate::demo_files::FILES;
use crate::failure::{Exit, Failure};
use crate::screen::{Screen, program, shell_word};
use crate::source_arguments::SourceArguments;

pub(crate) fn demo(arguments: &DemoArguments, screen: &Screen) -> Result<Exit, Failure> {
    let folder = &arguments.into;
    write_files(folder)?;
    let at = |name: &str| folder.join(name);
    let fields = |text: Option<&str>, id: Option<&str>, title: Option<&str>| SourceArguments {
        text: text.map(str::to_owned).into_iter().collect(),
        id: id.map(str::to_owned),
        title: title.map(str::to_owned),
        ..SourceArguments::default()
    };
    let runs = [
        ("topics", "field-notes.jsonl", "runs/notes", fields(Some("note.text"), None, None)),
        ("topics", "ward-reports", "runs/reports", fields(None, None, None)),
        ("search", "visitor-cards.csv", "runs/cards", fields(Some("comment"), Some("card"), Some("site"))),
        // The whole collection: its file says which fields are what.
        ("languages", "saltmere.toml", "runs/all", fields(None, None, None)),
    ];
    let look = screen.look;
    let shown = visible(&shell_word(&folder.display().to_string()));
    say(screen, &format!("The wardens of Saltmere: {} files written to {shown}\n", FILES.len()))?;
    look_at_all(&at("saltmere.toml"), &shown, screen)?;
    for (number, (recipe, source, out, fields)) in runs.into_iter().enumerate() {
        let command = run_command(&shown, recipe, source, out, &fields);
        say(screen, &format!("{} {}", look.faint("$"), look.command(&command)))?;
        let run_arguments = RunArguments {
            recipe: at(&format!("recipes/{recipe}.toml")),
            sources: vec![at(source).display().to_string()],
            out: Some(at(out)),
            reading: fields,
            write: vec![Written::Documents, Written::Report],
            ..RunArguments::default()
        };
        // The first run is shown whole; the others would only repeat how it reads.
        let told = run::run_into(&run_arguments, screen)?;
        if number == 0 {
            told.print(screen)?;
        } else {
            say(screen, &format!("{}\n", told.in_a_line()))?;
        }
    }
    say(screen, &tour(&shown, look))?;
    Ok(Exit::Done)
}

/// Looks at the whole collection, and shows where it comes from.
fn look_at_all(file: &Path, folder: &str, screen: &Screen) -> Result<(), Failure> {
    let look = screen.look;
    let command = format!("{} look {folder}/saltmere.toml", program());
    say(screen, &format!("{} {}", look.faint("$"), look.command(&command)))?;
    let arguments = LookArguments {
        copies: false,
        top: None,
        sources: vec![file.display().to_string()],
        documents: Vec::new(),
        all: false,
        save: None,
        replace: false,
        format: CheckFormat::Text,
        reading: SourceArguments::default(),
        threads: None,
    };
    let report = look::report(&arguments, screen)?;
    let sorts: Vec<_> = report.dirt.iter().map(|row| row.what.as_str()).collect();
    let languages: Vec<_> = report
        .languages
        .iter()
        .filter(|(_, _, documents)| *documents > 1)
        .map(|(_, name, documents)| format!("{name} {documents}"))
        .collect();
    say(
        screen,
        &format!(
            "{}  {}\n  {}\n  {}\n",
            look_overview(&report, look),
            look.faint(&format!("languages: {}", languages.join(", "))),
            look.faint(&format!(
                "dirt of {} sorts: {} and so on",
                sorts.len(),
                sorts[..sorts.len().min(5)].join(", ")
            )),
            look.faint(
                "that is the start of it: type the command to see fields, lengths, languages and dirt"
            ),
        ),
    )
}

fn say(screen: &Screen, text: &str) -> Result<(), Failure> {
    let mut out = screen.out();
    writeln!(out, "{text}")?;
    out.flush()?;
    Ok(())
}

fn run_command(folder: &str, recipe: &str, source: &str, out: &str, fields: &SourceArguments) -> String {
    let mut command =
        format!("{} run {folder}/recipes/{recipe}.toml {folder}/{source} --out {folder}/{out}", program());
    for (name, field) in
        [("text", &fields.text.first().cloned()), ("id", &fields.id), ("title", &fields.title)]
    {
        if let Some(field) = field {
            command.push_str(&format!(" --{name} {field}"));
        }
    }
    command
}

/// Writes the demo, whole or not at all. What is there already is never touched.
fn write_files(folder: &Path) -> Result<(), Failure> {
    let demo = NewFolder::create(folder).map_err(|error| match error {
        WriteError::FolderExists { path } => Failure::Sentence(format!(
            "{path}: is there already, and is left as it is; choose another place with --into"
        )),
        other => other.into(),
    })?;
    for (name, content) in FILES {
        demo.write(name, content)?;
    }
    Ok(demo.finish()?)
}

/// Commands to try next, each with what it shows.
fn tour(folder: &str, look: Look) -> String {
    let steps = [
        ("Look: what the whole collection is like", format!("look {folder}/saltmere.toml")),
        (
            "Three of its documents, whole",
            format!("look {folder}/saltmere.toml --documents 1,eq-016,longest"),
        ),
        (
            "The worst of the visitors' cards alone",
            format!("look {folder}/saltmere.toml --where low=true --documents 1,2,3"),
        ),
        (
            "Try: one note through every step, before and after",
            format!(
                "try {folder}/recipes/topics.toml --from {folder}/field-notes.jsonl --text note.text --document note-019"
            ),
        ),
        (
            "Two recipes on one text, side by side",
            format!(
                "try {folder}/recipes/topics.toml --beside {folder}/recipes/search.toml \"Two terns are nesting, and it isn't raining.\""
            ),
        ),
        (
            "Any text of yours",
            format!("try {folder}/recipes/topics.toml \"We haven't seen the terns' nests…\""),
        ),
        ("Why a recipe in the wrong order cannot work", format!("check {folder}/recipes/wrong-order.toml")),
        (
            "How stemmers and the lemmatiser treat words, side by side",
            "reduce nests flew leaves university universe".to_owned(),
        ),
        (
            "Run: parts of speech, lemmas, and phrases that are learned from the collection",
            format!("run {folder}/recipes/words.toml {folder}/saltmere.toml --out {folder}/runs/words"),
        ),
        ("Terms: the vocabulary, by documents", format!("terms {folder}/runs/all --sort documents --top 10")),
        ("What was dropped, and by which step", format!("terms {folder}/runs/all --dropped --top 10")),
        (
            "What marks the cards of unhappy visitors",
            format!("terms {folder}/runs/all --key low=true --top 10"),
        ),
        (
            "Find: a word in the documents, with the words around it",
            format!("find {folder}/runs/all terns --show site"),
        ),
        ("Where a word was dropped", format!("find {folder}/runs/notes --dropped under")),
        ("Why: which words became one term, and where it stands", format!("why {folder}/runs/notes nest")),
        (
            "Compare: two recipes on the whole collection, and what each word loses or gains",
            format!(
                "compare {folder}/recipes/topics.toml {folder}/recipes/search.toml --on {folder}/saltmere.toml"
            ),
        ),
        ("Suggest: what to try next, with what shows it", format!("suggest {folder}/runs/all")),
        (
            "Matches: every date and time in the texts",
            format!("matches {folder}/saltmere.toml --kinds date,time --top 8"),
        ),
        (
            "Lists: what of the stop lists ever occurs",
            format!("lists {folder}/recipes/topics.toml --run {folder}/runs/all"),
        ),
        (
            "What each step of a recipe changes in the end",
            format!("compare {folder}/recipes/topics.toml --each-step-out --on {folder}/saltmere.toml"),
        ),
        (
            "Report: the page and the figures again, with the wards side by side",
            format!("report {folder}/runs/all --by site"),
        ),
        ("A picture of words", format!("figure {folder}/runs/all cloud --out {folder}/cloud.png")),
        (
            "The same recipe in a pipeline",
            format!("pipe {folder}/recipes/topics.toml --text note.text < {folder}/field-notes.jsonl"),
        ),
    ];
    let program = program();
    let mut out = format!("{}\n", look.heading("A short tour"));
    for (what, command) in steps {
        out.push_str(&format!("  {what}\n    {}\n", look.command(&format!("{program} {command}"))));
    }
    out.push_str(&format!("  The whole picture, in a browser\n    {folder}/runs/all/report.html"));
    out
}
