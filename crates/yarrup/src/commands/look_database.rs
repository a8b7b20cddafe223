//! `yarrup look` at a database of which no table is chosen: which tables it has.

use std::io::Write;

use serde_json::{Value, json};
use yarrup_io::{DatabaseTable, SourceSpec, tables_of};
use yarrup_report::{Align, grouped, table, visible};

use crate::arguments::{CheckFormat, LookArguments};
use crate::failure::{Exit, Failure};
use crate::screen::{Screen, shell_word};

/// How many columns of a table are named.
const NAMED_COLUMNS: usize = 6;

/// Whether this is a database of which nothing is chosen.
pub(super) fn is_meant(source: &SourceSpec) -> bool {
    source.is_database() && source.options.table.is_none() && source.options.query.is_none()
}

/// Lists the tables of a database.
pub(super) fn show(arguments: &LookArguments, source: &SourceSpec, screen: &Screen) -> Result<Exit, Failure> {
    let place = &source.place;
    let tables = tables_of(source).map_err(|why| Failure::Sentence(format!("{place}: {why}")))?;
    let mut out = screen.out_as(arguments.format);
    if arguments.format == CheckFormat::Json {
        let tables: Vec<Value> = tables.iter().map(as_json).collect();
        serde_json::to_writer_pretty(&mut out, &json!({ "database": place, "tables": tables }))
            .map_err(std::io::Error::from)?;
        writeln!(out)?;
        out.flush()?;
        return Ok(Exit::Done);
    }
    if tables.is_empty() {
        return Err(Failure::Sentence(format!("{place}: the database has no table that you may read")));
    }
    let rows: Vec<Vec<String>> = tables.iter().map(row).collect();
    let header = [("Table", Align::Left), ("Rows", Align::Right), ("Columns", Align::Left)];
    write!(out, "{}", table(&header, &rows, screen.look))?;
    // The address that was typed may hold a password, so that the command cannot be shown again.
    let option = screen.look.command(&format!("--table {}", shell_word(&tables[0].name)));
    writeln!(out, "\nAdd {option}, or --query and SQL, to look at what it holds.")?;
    out.flush()?;
    Ok(Exit::Done)
}

fn row(table: &DatabaseTable) -> Vec<String> {
    let mut columns: Vec<String> = table
        .columns
        .iter()
        .take(NAMED_COLUMNS)
        .map(|(name, kind)| format!("{} ({kind})", visible(name)))
        .collect();
    if table.columns.len() > NAMED_COLUMNS {
        columns.push(format!("and {} more", table.columns.len() - NAMED_COLUMNS));
    }
    let view = if table.is_view { " (view)" } else { "" };
    let about = if table.counted { "" } else { "about " };
    vec![
        format!("{}{view}", visible(&table.name)),
        format!("{about}{}", grouped(table.rows)),
        columns.join(", "),
    ]
}

fn as_json(table: &DatabaseTable) -> Value {
    let columns = table.columns.iter().map(|(name, kind)| json!({ "name": name, "type": kind }));
    json!({
        "name": table.name,
        "view": table.is_view,
        "rows": table.rows,
        "counted": table.counted,
        "columns": columns.collect::<Vec<_>>(),
    })
}
