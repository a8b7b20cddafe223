//! `yarrup why`: what became of a word in a run, and what became it.

use std::io::Write;

use serde_json::json;
use yarrup_core::recipe::{self, Fault};
use yarrup_core::{Account, FormRow, NoFields, Pipeline, RankRow, Tag};
use yarrup_io::{
    FolderLists, FormEntry, RECIPE_FILE, RunError, form_entry, read_account, read_file_of, read_run,
};
use yarrup_report::{
    Align, ContextLine, Look, context_lines, counted, grouped, percent, table, visible_name,
};

use super::find::first_places;
use super::find_search::{Among, Found};

use crate::arguments::{TableFormat, WhyArguments};
use crate::failure::{Exit, Failure, spelled_like};
use crate::output::Output;
use crate::rows::{Cell, Column, Rows};
use crate::screen::{Screen, program, shell_word};
use crate::studied::Studied;

/// What a run knows of a word.
struct Known<'a> {
    /// What became of the tokens that were spelled like it.
    as_form: Vec<FormEntry<'a>>,
    /// The forms that became it.
    as_term: Vec<FormEntry<'a>>,
    /// The forms that became part of it, where a step made it of several.
    parts: Vec<FormEntry<'a>>,
    /// In how many documents it stands.
    documents: u64,
}

impl<'a> Known<'a> {
    fn look_up(account: &'a Account, word: &str) -> Known<'a> {
        let entries = |rows: Vec<FormRow<'a>>| rows.iter().map(|row| form_entry(account, row)).collect();
        Known {
            as_form: entries(account.fates_of(word)),
            as_term: entries(account.forms_of(word)),
            parts: entries(account.parts_of(word)),
            documents: account.documents_of(word),
        }
    }

    fn is_empty(&self) -> bool {
        self.as_form.is_empty() && self.as_term.is_empty() && self.parts.is_empty()
    }
}

pub(crate) fn why(arguments: &WhyArguments, screen: &Screen) -> Result<Exit, Failure> {
    let account = read_account(&arguments.run)?;
    let mut word = arguments.word.clone();
    let mut known = Known::look_up(&account, &word);
    let mut rewritten = None;
    if known.is_empty() {
        // The steps before the split may have given it another shape.
        let shapes = shapes_at_split(arguments)?;
        if let [one] = shapes.as_slice()
            && *one != arguments.word
        {
            known = Known::look_up(&account, one);
            word.clone_from(one);
        }
        rewritten = (shapes != [arguments.word.as_str()]).then_some(shapes);
    }
    if arguments.format == TableFormat::Table {
        print(arguments, &account, &known, rewritten.as_deref(), &word, screen)?;
    } else {
        print_data(arguments, &account, (&known, &word), rewritten.as_deref(), screen)?;
    }
    Ok(if known.is_empty() { Exit::Found } else { Exit::Done })
}

/// The tokens that the recipe of the run makes of a word at the split.
fn shapes_at_split(arguments: &WhyArguments) -> Result<Vec<String>, Failure> {
    let run = &arguments.run;
    let damaged = |why: String| Failure::File { path: run.join(RECIPE_FILE).display().to_string(), why };
    let text = read_file_of(run, &read_run(run)?, RECIPE_FILE)?;
    let text = String::from_utf8_lossy(&text);
    let faults =
        |faults: Vec<Fault>| damaged(format!("damaged: {}", faults.first().map_or("", |fault| &fault.title)));
    let lists = FolderLists::new(arguments.run.clone());
    let mut recipe = recipe::read_with(&text, &lists).map_err(faults)?;
    // What stands behind the split is of no account here, and may need what this system does not have.
    recipe.steps.retain(|step| !step.operation.stage.needs_tokens());
    if recipe.steps.is_empty() {
        return Ok(vec![arguments.word.clone()]);
    }
    let pipeline = Pipeline::compile(&recipe, &lists).map_err(faults)?;
    let trace = pipeline.trace(&arguments.word, &NoFields);
    Ok(trace.tokens.into_iter().map(|token| token.form).collect())
}

fn step_named(account: &Account, number: Option<usize>) -> String {
    let Some((number, step)) = number.and_then(|number| Some((number, account.steps.get(number - 1)?)))
    else {
        return String::new();
    };
    match &step.label {
        Some(label) => format!("step {number} (`{}`, {})", step.operation, visible_name(label)),
        None => format!("step {number} (`{}`)", step.operation),
    }
}

fn print(
    arguments: &WhyArguments,
    account: &Account,
    known: &Known<'_>,
    rewritten: Option<&[String]>,
    word: &str,
    screen: &Screen,
) -> Result<(), Failure> {
    let look = screen.look;
    let mut out = screen.out();
    let asked = visible_name(&arguments.word);
    match rewritten {
        Some([]) => writeln!(out, "`{asked}` is gone before the split: no token is left of it")?,
        Some([one]) => {
            writeln!(
                out,
                "`{asked}` is `{}` at the split: the steps before have rewritten it",
                visible_name(one)
            )?;
        }
        Some(many) => {
            let shown: Vec<_> = many.iter().map(|shape| format!("`{}`", visible_name(shape))).collect();
            writeln!(out, "`{asked}` is several tokens at the split: {}", shown.join(", "))?;
            let command = find_command(arguments, "", &arguments.word);
            writeln!(out, "{}", look.faint(&format!("where they stand together: {command}")))?;
        }
        None => {}
    }
    if known.is_empty() {
        if rewritten.is_none_or(|shapes| shapes.len() == 1) {
            let word = rewritten.map_or(arguments.word.as_str(), |shapes| &shapes[0]);
            let shown = visible_name(word);
            writeln!(out, "`{shown}` is not in this run: neither a form of its text nor a term")?;
            if let Some(told) = spelled_like(account, word) {
                writeln!(out, "{told}")?;
            }
        }
        out.flush()?;
        return Ok(());
    }
    let raw_word = word;
    let word = visible_name(word);
    let where_found = |entry: &FormEntry<'_>| {
        format!("{} in {}", counted(entry.count, "token"), counted(entry.documents, "document"))
    };
    for entry in &known.as_form {
        let found = where_found(entry);
        let journey = match entry.fate {
            "dropped" => {
                format!("dropped at {}: {}", step_named(account, entry.step), visible_name(entry.reason))
            }
            "joined" if entry.term.is_empty() => {
                format!("made part of other tokens at {}", step_named(account, entry.step))
            }
            "joined" => {
                format!("made part of `{}` at {}", visible_name(entry.term), step_named(account, entry.step))
            }
            _ if entry.term == entry.form => "kept as it is".to_owned(),
            _ => format!("kept as `{}`", visible_name(entry.term)),
        };
        let tag = Tag::named(entry.tag).map_or(String::new(), |tag| format!(" as {tag}"));
        writeln!(out, "{}{tag} ({found}): {journey}", look.heading(&format!("the word `{word}`")))?;
    }
    if !known.as_term.is_empty() {
        if !known.as_form.is_empty() {
            writeln!(out)?;
        }
        let total: u64 = known.as_term.iter().map(|entry| entry.count).sum();
        let forms = counted(known.as_term.len() as u64, "form");
        writeln!(
            out,
            "{} ({} in {}) comes from {forms}:",
            look.heading(&format!("the term `{word}`")),
            counted(total, "token"),
            counted(known.documents, "document")
        )?;
        write!(out, "{}", forms_table(account, &known.as_term, total, look))?;
    }
    if !known.parts.is_empty() {
        if !known.as_form.is_empty() || !known.as_term.is_empty() {
            writeln!(out)?;
        }
        let total: u64 = known.parts.iter().map(|entry| entry.count).sum();
        let step = step_named(account, known.parts[0].step);
        writeln!(
            out,
            "{} was made of {} at {step}:",
            look.heading(&format!("the token `{word}`")),
            counted(total, "other token")
        )?;
        write!(out, "{}", forms_table(account, &known.parts, total, look))?;
    }
    print_ranks(account, raw_word, screen, &mut out)?;
    print_places(arguments, known, raw_word, screen, &mut out)?;
    out.flush()?;
    Ok(())
}

/// How many places and documents are shown.
const SHOWN: (usize, usize) = (3, 5);

/// Where the word stands: its first documents, and some places.
fn print_places(
    arguments: &WhyArguments,
    known: &Known<'_>,
    word: &str,
    screen: &Screen,
    out: &mut Output,
) -> Result<(), Failure> {
    let run = Studied::open(&arguments.run)?;
    let is_dropped = known.as_form.iter().any(|entry| entry.fate == "dropped");
    let among = match (known.as_term.is_empty(), is_dropped) {
        (false, _) => Among::Terms,
        (true, true) => Among::Dropped(None),
        (true, false) => Among::Forms,
    };
    let (places, documents) = match first_places(&run, word, among, SHOWN, screen) {
        // Without the documents, or their texts, there is nothing to show.
        Err(Failure::NoOriginals { .. } | Failure::Run(RunError::NoDocuments { .. })) => return Ok(()),
        found => found?,
    };
    if places.is_empty() {
        return Ok(());
    }
    let look = screen.look;
    let named: Vec<String> = documents
        .iter()
        .map(|found| format!("{} ({})", visible_name(&found.id), grouped(found.count)))
        .collect();
    let all = if among == Among::Terms {
        known.documents
    } else {
        known.as_form.iter().map(|entry| entry.documents).max().unwrap_or(0)
    };
    let more = all.saturating_sub(documents.len() as u64);
    let more = if more > 0 { format!(" and {} more", grouped(more)) } else { String::new() };
    writeln!(out, "\n{}  {}{more}", look.heading("Documents"), named.join(", "))?;
    let line = |found: &Found| {
        let place = found.places.first().cloned().unwrap_or_default();
        let lead = vec![found.id.clone()];
        ContextLine { lead, before: place.before, words: place.words, after: place.after }
    };
    let lines: Vec<ContextLine> = places.iter().map(line).collect();
    write!(out, "{}", context_lines(&["such as"], &lines, look))?;
    let option = match among {
        Among::Terms => "",
        Among::Dropped(_) => " --dropped",
        _ => " --form",
    };
    let command = find_command(arguments, option, word);
    writeln!(out, "{}", look.faint(&format!("all of them: {command}")))?;
    Ok(())
}

/// The command that finds a word, or several, in the run.
fn find_command(arguments: &WhyArguments, option: &str, word: &str) -> String {
    format!(
        "{} find {}{option} {}",
        program(),
        shell_word(&arguments.run.display().to_string()),
        shell_word(word)
    )
}

/// How the word stands among all, step by step. Steps that change nothing of it are left out.
fn print_ranks(account: &Account, word: &str, screen: &Screen, out: &mut Output) -> Result<(), Failure> {
    let ranks = account.ranks_of(word);
    let mut shown: Vec<&RankRow> = Vec::new();
    for row in &ranks {
        if shown.last().is_none_or(|last| (last.rank, last.count) != (row.rank, row.count)) {
            shown.push(row);
        }
    }
    if shown.len() < 2 {
        return Ok(());
    }
    let name = |row: &RankRow| {
        let step = &account.steps[row.step - 1];
        format!(
            "{} {}",
            row.step,
            step.label.as_ref().map_or(step.operation.clone(), |label| visible_name(label))
        )
    };
    let rows: Vec<Vec<String>> = shown
        .iter()
        .map(|row| vec![name(row), row.rank.map_or("–".to_owned(), grouped), grouped(row.count)])
        .collect();
    let header = [("after step", Align::Left), ("rank", Align::Right), ("tokens", Align::Right)];
    let title = format!("The rank of `{}` among all words", visible_name(word));
    writeln!(out, "\n{}", screen.look.heading(&title))?;
    write!(out, "{}", table(&header, &rows, screen.look))?;
    Ok(())
}

/// Forms with their tokens, the share of these, their documents, and the steps that changed them.
fn forms_table(account: &Account, entries: &[FormEntry<'_>], total: u64, look: Look) -> String {
    let changed = |entry: &FormEntry<'_>| {
        let changes = account.way_of(entry.row);
        let step = |(step, to): &(usize, &str)| format!("{step} → {}", visible_name(to));
        changes.iter().map(step).collect::<Vec<_>>().join(", ")
    };
    let changes: Vec<String> = entries.iter().map(changed).collect();
    let any_changes = changes.iter().any(|changes| !changes.is_empty());
    let tagged = entries.iter().any(|entry| !entry.tag.is_empty());
    let row = |(entry, changes): (&FormEntry<'_>, &String)| {
        let mut cells = vec![visible_name(entry.form)];
        if tagged {
            cells.push(Tag::named(entry.tag).map_or(String::new(), |tag| tag.to_string()));
        }
        cells.extend([grouped(entry.count), percent(entry.count, total), grouped(entry.documents)]);
        if any_changes {
            cells.push(changes.clone());
        }
        cells
    };
    let mut header = vec![("form", Align::Left)];
    if tagged {
        header.push(("as", Align::Left));
    }
    header.extend([("tokens", Align::Right), ("share", Align::Right), ("documents", Align::Right)]);
    if any_changes {
        header.push(("changed at step", Align::Left));
    }
    table(&header, &entries.iter().zip(&changes).map(row).collect::<Vec<_>>(), look)
}

fn print_data(
    arguments: &WhyArguments,
    account: &Account,
    (known, word): (&Known<'_>, &str),
    rewritten: Option<&[String]>,
    screen: &Screen,
) -> Result<(), Failure> {
    let mut out = screen.out_as(arguments.format);
    if arguments.format == TableFormat::Json {
        let value = json!({
            "word": arguments.word,
            "at_split": rewritten,
            "as_form": known.as_form,
            "as_term": known.as_term,
            "parts": known.parts,
            "ranks": account.ranks_of(word).iter().map(|row| json!({ "step": row.step, "rank": row.rank, "tokens": row.count })).collect::<Vec<_>>(),
            "documents": known.documents,
        });
        writeln!(out, "{value:#}")?;
    } else {
        // A form that stays as it is stands in both: once is enough. The tokens of parts are not those of the term.
        let others = known.as_term.iter().filter(|entry| !known.as_form.contains(entry));
        let whole = known.as_form.iter().chain(others).map(|entry| (entry, false));
        let rows = whole.chain(known.parts.iter().map(|entry| (entry, true)));
        let rows = rows.map(|(entry, is_part)| {
            let text = |text: &str| Cell::Text(text.to_owned());
            let into = if entry.fate == "joined" { entry.term } else { "" };
            vec![
                text(entry.form),
                text(entry.kind),
                text(entry.tag),
                Cell::Count(entry.count),
                Cell::Count(entry.documents),
                text(entry.fate),
                entry.step.map_or(Cell::Nothing, |step| Cell::Count(step as u64)),
                text(entry.reason),
                text(if is_part || entry.fate == "joined" { "" } else { entry.term }),
                text(into),
            ]
        });
        let names =
            ["form", "kind", "tag", "count", "documents", "fate", "step", "reason", "term", "part_of"];
        let columns = names.iter().map(|name| Column::new(name, name)).collect();
        Rows { columns, rows: rows.collect() }.print(arguments.format, screen.look, &mut out)?;
    }
    out.flush()?;
    Ok(())
}
