//! `yarrup why`: what became of a word in a run, and what became it.

use std::io::Write;

use serde_json::json;
use yarrup_core::recipe::{self, Fault};
use yarrup_core::{Account, FormRow, NoFields, Pipeline, Tag};
use yarrup_io::{
    FolderLists, FormEntry, RECIPE_FILE, form_entry, read_account, read_file_of, read_run, write_forms,
};
use yarrup_report::{Align, Look, counted, grouped, percent, table, visible_name};

use crate::arguments::{TableFormat, WhyArguments};
use crate::failure::{Exit, Failure};
use crate::screen::Screen;

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
        print_data(arguments, &known, rewritten.as_deref(), screen)?;
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
        }
        None => {}
    }
    if known.is_empty() {
        if rewritten.is_none_or(|shapes| shapes.len() == 1) {
            let word = visible_name(rewritten.map_or(arguments.word.as_str(), |shapes| &shapes[0]));
            writeln!(out, "`{word}` is not in this run: neither a form of its text nor a term")?;
        }
        out.flush()?;
        return Ok(());
    }
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
        write!(out, "{}", forms_table(&known.as_term, total, look))?;
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
        write!(out, "{}", forms_table(&known.parts, total, look))?;
    }
    out.flush()?;
    Ok(())
}

/// Forms with their tokens, the share of these, and their documents.
fn forms_table(entries: &[FormEntry<'_>], total: u64, look: Look) -> String {
    let tagged = entries.iter().any(|entry| !entry.tag.is_empty());
    let row = |entry: &FormEntry<'_>| {
        let mut cells = vec![visible_name(entry.form)];
        if tagged {
            cells.push(Tag::named(entry.tag).map_or(String::new(), |tag| tag.to_string()));
        }
        cells.extend([grouped(entry.count), percent(entry.count, total), grouped(entry.documents)]);
        cells
    };
    let mut header = vec![("form", Align::Left)];
    if tagged {
        header.push(("as", Align::Left));
    }
    header.extend([("tokens", Align::Right), ("share", Align::Right), ("documents", Align::Right)]);
    table(&header, &entries.iter().map(row).collect::<Vec<_>>(), look)
}

fn print_data(
    arguments: &WhyArguments,
    known: &Known<'_>,
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
            "documents": known.documents,
        });
        writeln!(out, "{value:#}")?;
    } else {
        // A form that stays as it is stands in both: once is enough.
        let others = known.as_term.iter().chain(&known.parts).filter(|entry| !known.as_form.contains(entry));
        let rows = known.as_form.iter().chain(others);
        write_forms(rows.cloned(), &mut out)?;
    }
    out.flush()?;
    Ok(())
}
