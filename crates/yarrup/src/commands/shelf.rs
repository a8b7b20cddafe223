//! `yarrup shelf`: what ships inside, and what is in it.

use std::io::Write;

use serde_json::json;
use yarrup_core::{shelf as all, shelf_content};
use yarrup_io::TableWriter;
use yarrup_report::{Align, grouped, table};

use crate::arguments::{ShelfArguments, TableFormat};
use crate::failure::{Exit, Failure, meant_or};
use crate::screen::Screen;

pub(crate) fn shelf(arguments: &ShelfArguments, screen: &Screen) -> Result<Exit, Failure> {
    match &arguments.name {
        None => list(arguments, screen),
        Some(name) => show(name, arguments, screen),
    }
}

fn list(arguments: &ShelfArguments, screen: &Screen) -> Result<Exit, Failure> {
    let items = all();
    let mut out = screen.out_as(arguments.format);
    match arguments.format {
        TableFormat::Table => {
            let header = [
                ("name", Align::Left),
                ("what", Align::Left),
                ("language", Align::Left),
                ("size", Align::Right),
                ("origin", Align::Left),
                ("licence", Align::Left),
            ];
            let rows: Vec<Vec<String>> = items
                .iter()
                .map(|item| {
                    vec![
                        item.name.clone(),
                        item.sort.to_owned(),
                        item.language.to_owned(),
                        format!("{} {}", grouped(item.entries as u64), item.unit),
                        item.origin.to_owned(),
                        item.licence.to_owned(),
                    ]
                })
                .collect();
            write!(out, "{}", table(&header, &rows, screen.look))?;
            writeln!(out, "{}", screen.look.faint("`yarrup shelf NAME` shows what is in one"))?;
        }
        TableFormat::Csv => {
            let cells = ["name", "what", "language", "about", "entries", "unit", "origin", "licence"];
            let written = TableWriter::new(&mut out, cells).and_then(|mut csv| {
                items.iter().try_for_each(|item| {
                    let entries = item.entries.to_string();
                    csv.row([
                        &item.name,
                        item.sort,
                        item.language,
                        &item.about,
                        &entries,
                        item.unit,
                        item.origin,
                        item.licence,
                    ])
                })?;
                Ok(csv.finish()?)
            });
            written.map_err(yarrup_io::table_failure)?;
        }
        TableFormat::Json => {
            let items: Vec<_> = items.iter().map(as_json).collect();
            writeln!(out, "{:#}", json!(items))?;
        }
    }
    out.flush()?;
    Ok(Exit::Done)
}

fn as_json(item: &yarrup_core::ShelfItem) -> serde_json::Value {
    json!({
        "name": item.name, "what": item.sort, "language": item.language, "about": item.about, "entries": item.entries,
        "unit": item.unit, "origin": item.origin, "licence": item.licence,
    })
}

fn show(name: &str, arguments: &ShelfArguments, screen: &Screen) -> Result<Exit, Failure> {
    let items = all();
    let (Some(item), Some(content)) = (items.iter().find(|item| item.name == name), shelf_content(name))
    else {
        let known = items.iter().map(|item| item.name.as_str());
        let help = meant_or(name, known, || "`yarrup shelf` lists what there is".to_owned());
        return Err(Failure::Sentence(format!("nothing on the shelf is called `{name}`; {help}")));
    };
    let mut out = screen.out_as(arguments.format);
    match arguments.format {
        TableFormat::Json => {
            let mut value = as_json(item);
            value["content"] = content
                .iter()
                .map(|(heading, lines)| json!({ "heading": heading, "entries": lines }))
                .collect();
            writeln!(out, "{value:#}")?;
        }
        TableFormat::Csv => {
            let written = TableWriter::new(&mut out, ["entry", "group", "source"]).and_then(|mut csv| {
                for (heading, lines) in &content {
                    lines.iter().try_for_each(|line| csv.row([line, heading, item.origin]))?;
                }
                Ok(csv.finish()?)
            });
            written.map_err(yarrup_io::table_failure)?;
        }
        TableFormat::Table => {
            let look = screen.look;
            writeln!(out, "{}  {}", look.heading(&item.name), item.about)?;
            writeln!(
                out,
                "{} {}; {}; {}",
                grouped(item.entries as u64),
                item.unit,
                item.origin,
                item.licence
            )?;
            let sentences = item.sort == "recipe" || item.sort == "irregular forms" || item.sort == "lexicon";
            for (heading, lines) in &content {
                writeln!(out)?;
                if !heading.is_empty() {
                    writeln!(out, "{}", look.heading(heading))?;
                }
                if sentences {
                    lines.iter().try_for_each(|line| writeln!(out, "{line}"))?;
                } else {
                    write!(out, "{}", filled(lines, look.width))?;
                }
            }
        }
    }
    out.flush()?;
    Ok(Exit::Done)
}

/// Words in lines of this width, two spaces between.
fn filled(words: &[String], width: usize) -> String {
    let (mut out, mut used) = (String::new(), 0);
    for word in words {
        let length = word.chars().count();
        if used > 0 && used + 2 + length > width {
            out.push('\n');
            used = 0;
        }
        if used > 0 {
            out.push_str("  ");
            used += 2;
        }
        out.push_str(word);
        used += length;
    }
    out.push('\n');
    out
}
