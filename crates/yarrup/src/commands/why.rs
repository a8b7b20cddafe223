//! `yarrup why`: what became of a word in a run, and what became it.

use std::io::Write;

use serde_json::json;
use yarrup_core::recipe::Fault;
use yarrup_core::step::{ListReference, Stage};
use yarrup_core::{NoFields, Pipeline, Tag, WordLists, recipe};
use yarrup_io::{FormEntry, RunRecord, StepRecord, read_forms, read_run, recipe_path};
use yarrup_report::{Align, counted, grouped, percent, table, visible};

use crate::arguments::{TableFormat, WhyArguments};
use crate::failure::{Exit, Failure};
use crate::screen::Screen;

/// What a run knows of a word.
struct Known {
    /// What became of the tokens that were spelled like it.
    as_form: Vec<FormEntry>,
    /// The forms that became it.
    as_term: Vec<FormEntry>,
}

pub(crate) fn why(arguments: &WhyArguments, screen: &Screen) -> Result<Exit, Failure> {
    let run = read_run(&arguments.run)?;
    let mut words = vec![arguments.word.clone()];
    let mut known = look_up(arguments, &arguments.word)?;
    let mut rewritten = None;
    if known.as_form.is_empty() && known.as_term.is_empty() {
        // The steps before the split may have given it another shape.
        let shapes = shapes_at_split(arguments)?;
        if let [one] = shapes.as_slice()
            && *one != arguments.word
        {
            known = look_up(arguments, one)?;
            words = vec![one.clone()];
        }
        rewritten = (shapes != [arguments.word.as_str()]).then_some(shapes);
    }
    if arguments.format == TableFormat::Table {
        print(arguments, &run, &known, rewritten.as_deref(), &words[0], screen)?;
    } else {
        print_data(arguments, &known, rewritten.as_deref(), screen)?;
    }
    let found = !known.as_form.is_empty() || !known.as_term.is_empty();
    Ok(if found { Exit::Done } else { Exit::Found })
}

fn look_up(arguments: &WhyArguments, word: &str) -> Result<Known, Failure> {
    let mut known = Known { as_form: Vec::new(), as_term: Vec::new() };
    read_forms(&arguments.run, |entry| {
        if entry.term == word {
            known.as_term.push(entry.clone());
        }
        if entry.form == word {
            known.as_form.push(entry);
        }
    })?;
    Ok(known)
}

/// Takes every own word list for empty: they stand beside the recipe that was run, and nothing before the split asks for them.
struct EmptyLists;

impl WordLists for EmptyLists {
    fn words(&self, _reference: &ListReference) -> Result<Vec<String>, String> {
        Ok(Vec::new())
    }

    fn pairs(&self, _reference: &ListReference) -> Result<Vec<(String, String)>, String> {
        Ok(Vec::new())
    }
}

/// The tokens that the recipe of the run makes of a word at the split.
fn shapes_at_split(arguments: &WhyArguments) -> Result<Vec<String>, Failure> {
    let path = recipe_path(&arguments.run);
    let damaged = |why: String| Failure::File { path: path.display().to_string(), why };
    let text = std::fs::read_to_string(&path).map_err(|why| damaged(why.to_string()))?;
    let faults =
        |faults: Vec<Fault>| damaged(format!("damaged: {}", faults.first().map_or("", |fault| &fault.title)));
    let mut recipe = recipe::read(&text).map_err(faults)?;
    // What stands behind the split is of no account here, and may need files that stand elsewhere.
    recipe.steps.retain(|step| step.operation.stage != Stage::Token);
    if recipe.steps.is_empty() {
        return Ok(vec![arguments.word.clone()]);
    }
    let pipeline = Pipeline::compile(&recipe, &EmptyLists).map_err(faults)?;
    let trace = pipeline.trace(&arguments.word, &NoFields);
    Ok(trace.tokens.into_iter().map(|token| token.form).collect())
}

fn step_named(run: &RunRecord, number: Option<usize>) -> String {
    let Some(step) = number.and_then(|number| run.steps.iter().find(|step| step.step == number)) else {
        return String::new();
    };
    named(step)
}

fn named(step: &StepRecord) -> String {
    match &step.label {
        Some(label) => format!("step {} (`{}`, {})", step.step, step.operation, visible(label)),
        None => format!("step {} (`{}`)", step.step, step.operation),
    }
}

fn print(
    arguments: &WhyArguments,
    run: &RunRecord,
    known: &Known,
    rewritten: Option<&[String]>,
    word: &str,
    screen: &Screen,
) -> Result<(), Failure> {
    let look = screen.look;
    let mut out = screen.out();
    let asked = visible(&arguments.word);
    match rewritten {
        Some([]) => writeln!(out, "`{asked}` is gone before the split: no token is left of it")?,
        Some([one]) => {
            writeln!(
                out,
                "`{asked}` is `{}` at the split: the steps before have rewritten it",
                visible(one)
            )?;
        }
        Some(many) => {
            let shown: Vec<_> = many.iter().map(|shape| format!("`{}`", visible(shape))).collect();
            writeln!(out, "`{asked}` is several tokens at the split: {}", shown.join(", "))?;
        }
        None => {}
    }
    if known.as_form.is_empty() && known.as_term.is_empty() {
        if rewritten.is_none_or(|shapes| shapes.len() == 1) {
            let word = visible(rewritten.map_or(arguments.word.as_str(), |shapes| &shapes[0]));
            writeln!(out, "`{word}` is not in this run: neither a form of its text nor a term")?;
        }
        out.flush()?;
        return Ok(());
    }
    let word = visible(word);
    let where_found = |entry: &FormEntry| {
        format!("{} in {}", counted(entry.count, "token"), counted(entry.documents, "document"))
    };
    for entry in &known.as_form {
        let found = where_found(entry);
        let journey = match entry.fate.as_str() {
            "dropped" => {
                format!("dropped at {}: {}", step_named(run, entry.step), visible(&entry.reason))
            }
            "joined" if entry.term.is_empty() => {
                format!("made part of other tokens at {}", step_named(run, entry.step))
            }
            "joined" => format!("made part of `{}` at {}", visible(&entry.term), step_named(run, entry.step)),
            _ if entry.term == entry.form => "kept as it is".to_owned(),
            _ => format!("kept as `{}`", visible(&entry.term)),
        };
        let tag = Tag::named(&entry.tag).map_or(String::new(), |tag| format!(" as {tag}"));
        writeln!(out, "{}{tag} ({found}): {journey}", look.heading(&format!("the word `{word}`")))?;
    }
    if !known.as_term.is_empty() {
        let total: u64 = known.as_term.iter().map(|entry| entry.count).sum();
        let forms = counted(known.as_term.len() as u64, "form");
        writeln!(
            out,
            "{} ({}) comes from {forms}:",
            look.heading(&format!("the term `{word}`")),
            counted(total, "token")
        )?;
        let rows: Vec<_> = known
            .as_term
            .iter()
            .map(|entry| {
                vec![
                    visible(&entry.form),
                    grouped(entry.count),
                    percent(entry.count, total),
                    grouped(entry.documents),
                ]
            })
            .collect();
        let header = [
            ("form", Align::Left),
            ("tokens", Align::Right),
            ("share", Align::Right),
            ("documents", Align::Right),
        ];
        write!(out, "{}", table(&header, &rows, look))?;
    }
    out.flush()?;
    Ok(())
}

fn print_data(
    arguments: &WhyArguments,
    known: &Known,
    rewritten: Option<&[String]>,
    screen: &Screen,
) -> Result<(), Failure> {
    let mut out = screen.out();
    if arguments.format == TableFormat::Json {
        let value = json!({
            "word": arguments.word,
            "at_split": rewritten,
            "as_form": known.as_form,
            "as_term": known.as_term,
        });
        writeln!(out, "{value:#}")?;
    } else {
        // A form that stays as it is stands in both: once is enough.
        let rows =
            known.as_form.iter().chain(known.as_term.iter().filter(|entry| !known.as_form.contains(entry)));
        yarrup_io::write_form_entries(rows, &mut out)?;
    }
    out.flush()?;
    Ok(())
}
