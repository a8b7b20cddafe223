//! `yarrup steps`: what steps there are, and the keys of each.

use std::io::Write;

use yarrup_core::step::{Operation, Stage};
use yarrup_core::{OPERATIONS, operation};
use yarrup_report::visible;

use crate::arguments::{StepsArguments, TableFormat};
use crate::failure::{Exit, Failure, meant_or};
use crate::rows::{Cell, Column, Rows};
use crate::screen::{Screen, program};

pub(crate) fn steps(arguments: &StepsArguments, screen: &Screen) -> Result<Exit, Failure> {
    match &arguments.name {
        Some(name) => show(name, arguments, screen),
        None => list(arguments, screen),
    }
}

fn stage(operation: &Operation) -> String {
    match operation.stage {
        Stage::Split => "split".to_owned(),
        stage => stage.name().to_owned(),
    }
}

fn list(arguments: &StepsArguments, screen: &Screen) -> Result<Exit, Failure> {
    let columns = vec![
        Column::new("step", "step"),
        Column::new("stage", "stage"),
        Column::new("about", "what it does"),
        Column::new("keys", "keys").aside(),
    ];
    let row = |operation: &&Operation| {
        let keys: Vec<&str> = operation.keys.iter().map(|key| key.name).collect();
        let about = match arguments.format {
            TableFormat::Table => first_clause(operation.about),
            _ => operation.about,
        };
        vec![
            Cell::Text(operation.name.to_owned()),
            Cell::Text(stage(operation)),
            Cell::Text(about.to_owned()),
            Cell::Text(keys.join(" ")),
        ]
    };
    let rows = Rows { columns, rows: OPERATIONS.iter().map(row).collect() };
    let mut out = screen.out_as(arguments.format);
    rows.print(arguments.format, screen.look, &mut out)?;
    if arguments.format == TableFormat::Table {
        let note = format!("`{} steps NAME` shows the keys of one, with an example", program());
        writeln!(out, "{}", screen.look.faint(&note))?;
    }
    out.flush()?;
    Ok(Exit::Done)
}

/// What a step does, as far as the first mark that ends a thought, and the last comma that leaves it short enough for a cell.
fn first_clause(about: &str) -> &str {
    let end = [". ", ": ", "; ", " ("].iter().filter_map(|mark| about.find(mark)).min();
    let clause = about[..end.unwrap_or(about.len())].trim_end_matches('.');
    let fits = |comma: &usize| clause[..*comma].chars().count() <= CLAUSE;
    if clause.chars().count() <= CLAUSE {
        return clause;
    }
    let comma = clause.match_indices(", ").map(|(comma, _)| comma).take_while(fits).last();
    &clause[..comma.unwrap_or(clause.len())]
}

/// How many characters of a clause stand in the list.
const CLAUSE: usize = 72;

fn show(name: &str, arguments: &StepsArguments, screen: &Screen) -> Result<Exit, Failure> {
    let Some(operation) = operation(name) else {
        let known = OPERATIONS.iter().map(|operation| operation.name);
        let help = meant_or(name, known, || format!("`{} steps` lists them", program()));
        return Err(Failure::Sentence(format!("no step is called `{}`; {help}", visible(name))));
    };
    let mut out = screen.out_as(arguments.format);
    if arguments.format != TableFormat::Table {
        let columns =
            ["key", "value", "default", "about"].iter().map(|name| Column::new(name, name)).collect();
        let rows = operation.keys.iter().map(|key| {
            vec![
                Cell::Text(key.name.to_owned()),
                Cell::Text(key.shape.told()),
                key.default.map_or(Cell::Nothing, |default| Cell::Text(default.to_owned())),
                Cell::Text(key.about.to_owned()),
            ]
        });
        Rows { columns, rows: rows.collect() }.print(arguments.format, screen.look, &mut out)?;
        out.flush()?;
        return Ok(Exit::Done);
    }
    let look = screen.look;
    let sort = match operation.stage {
        Stage::Split => "the split".to_owned(),
        stage => format!("{} step", stage.name()),
    };
    writeln!(out, "{}  {}", look.heading(operation.name), look.faint(&sort))?;
    writeln!(out, "{}", wrapped(operation.about, "  ", look.width))?;
    for key in operation.keys {
        let default = key.default.map_or(String::new(), |default| format!("; `{default}` if left out"));
        let value = format!("{}{default}", key.shape.told());
        write!(out, "\n  {}", look.heading(key.name))?;
        if key.name.len() + value.chars().count() + 4 <= look.width {
            writeln!(out, "  {}", look.faint(&value))?;
        } else {
            writeln!(out)?;
            for line in wrapped(&value, "    ", look.width).lines() {
                writeln!(out, "{}", look.faint(line))?;
            }
        }
        writeln!(out, "{}", wrapped(key.about, "    ", look.width))?;
    }
    writeln!(out, "\n{}", look.heading("Example"))?;
    let example = format!("[[step]]\ndo = \"{}\"\n{}", operation.name, operation.example);
    for line in example.lines() {
        writeln!(out, "  {}", look.command(line))?;
    }
    writeln!(
        out,
        "\n{}",
        look.faint("every step also takes `label`, `spare`, `only` and `allow`: see `yarrup help recipes`")
    )?;
    out.flush()?;
    Ok(Exit::Done)
}

/// A text in lines of this width, each behind an indent.
fn wrapped(text: &str, indent: &str, width: usize) -> String {
    let mut out = String::new();
    let mut used = 0;
    for word in text.split_whitespace() {
        let length = word.chars().count();
        if used > 0 && used + 1 + length > width {
            out.push('\n');
            used = 0;
        }
        if used == 0 {
            out.push_str(indent);
            used = indent.len();
        } else {
            out.push(' ');
            used += 1;
        }
        out.push_str(word);
        used += length;
    }
    out
}
