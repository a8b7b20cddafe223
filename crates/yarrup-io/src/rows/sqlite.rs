//! Rows into tables of SQLite, all of them in one transaction.

use std::fmt::Display;
use std::io;
use std::path::Path;
use std::time::Duration;

use rusqlite::types::{ToSqlOutput, ValueRef};
use rusqlite::{Connection, ToSql};

use crate::rows::encode::write_json_list;
use crate::rows::{Cell, RowColumn, RowTable, RowType, Rows, TableMode};

/// Tables of an SQLite file that are being written.
pub(crate) struct SqliteTables {
    connection: Connection,
    insert: String,
    /// What makes the indexes, once all rows are there: that is much faster than to keep them up row by row.
    indexes: Vec<String>,
}

/// How long is waited for others who use the file.
const PATIENCE: Duration = Duration::from_secs(10);

fn failed(why: impl Display) -> io::Error {
    io::Error::other(why.to_string())
}

/// A name as SQL quotes it.
pub(crate) fn quoted(name: &str) -> String {
    format!("\"{}\"", name.replace('"', "\"\""))
}

fn sql_type(column: &RowColumn) -> &'static str {
    match column.kind {
        RowType::Whole => "INTEGER",
        RowType::Number => "REAL",
        RowType::Truth => "BOOLEAN",
        RowType::Text | RowType::Date | RowType::Time | RowType::ZonedTime | RowType::Texts => "TEXT",
    }
}

impl SqliteTables {
    /// Begins a table in a new file, that only we see before it is whole.
    pub(crate) fn in_new(path: &Path, table: &RowTable) -> io::Result<SqliteTables> {
        let connection = Connection::open(path).map_err(failed)?;
        // What goes wrong costs the whole file, and nobody waits for its parts.
        connection.execute_batch("PRAGMA journal_mode = OFF; PRAGMA synchronous = OFF").map_err(failed)?;
        let mut tables = SqliteTables::begin(connection)?;
        tables.create(table)?;
        Ok(tables)
    }

    /// Begins in the file at `path`, which others may use, and which is made if it is not there.
    pub(crate) fn in_old(path: &Path) -> io::Result<SqliteTables> {
        let connection = Connection::open(path).map_err(failed)?;
        connection.busy_timeout(PATIENCE).map_err(failed)?;
        SqliteTables::begin(connection)
    }

    fn begin(connection: Connection) -> io::Result<SqliteTables> {
        connection.execute_batch("BEGIN IMMEDIATE").map_err(failed)?;
        Ok(SqliteTables { connection, insert: String::new(), indexes: Vec::new() })
    }

    /// Begins a table as `mode` has it, into which the next rows go.
    pub(crate) fn begin_table(&mut self, table: &RowTable, mode: TableMode) -> io::Result<()> {
        let there = self.columns_of(&table.name)?;
        if !mode.makes(table, &there).map_err(failed)? {
            self.insert_into(table);
            return Ok(());
        }
        if !there.is_empty() {
            let drop = format!("DROP TABLE {}", quoted(&table.name));
            self.connection.execute_batch(&drop).map_err(failed)?;
        }
        self.create(table)
    }

    /// The columns of a table; none if it is not there.
    pub(crate) fn columns_of(&self, table: &str) -> io::Result<Vec<String>> {
        let columns = || {
            let mut columns = self.connection.prepare("SELECT name FROM pragma_table_info(?1)")?;
            columns.query_map([table], |row| row.get(0))?.collect::<rusqlite::Result<_>>()
        };
        columns().map_err(failed)
    }

    /// Makes a table, into which the next rows go.
    fn create(&mut self, table: &RowTable) -> io::Result<()> {
        let columns: Vec<String> = table
            .columns
            .iter()
            .map(|column| format!("{} {}", quoted(&column.name), sql_type(column)))
            .collect();
        let name = quoted(&table.name);
        self.connection
            .execute_batch(&format!("CREATE TABLE {name} ({})", columns.join(", ")))
            .map_err(failed)?;
        self.indexes.extend(table.indexed.iter().map(|column| {
            let index = quoted(&format!("{}_{column}", table.name));
            format!("CREATE INDEX {index} ON {name} ({})", quoted(column))
        }));
        self.insert_into(table);
        Ok(())
    }

    /// Lets the next rows go into a table that is there.
    fn insert_into(&mut self, table: &RowTable) {
        let columns: Vec<String> = table.columns.iter().map(|column| quoted(&column.name)).collect();
        let places = vec!["?"; columns.len()].join(", ");
        self.insert =
            format!("INSERT INTO {} ({}) VALUES ({places})", quoted(&table.name), columns.join(", "));
    }

    /// Adds rows.
    pub(crate) fn rows(&mut self, rows: &Rows) -> io::Result<()> {
        let mut insert = self.connection.prepare_cached(&self.insert).map_err(failed)?;
        rows.each(|cells| {
            for (number, cell) in cells.iter().enumerate() {
                insert.raw_bind_parameter(number + 1, cell)?;
            }
            insert.raw_execute().map(drop)
        })
        .map_err(failed)
    }

    /// Makes the indexes, ends the transaction and closes the file.
    pub(crate) fn finish(self) -> io::Result<()> {
        for index in &self.indexes {
            self.connection.execute_batch(index).map_err(failed)?;
        }
        self.connection.execute_batch("COMMIT").map_err(failed)?;
        self.connection.close().map_err(|(_, why)| failed(why))
    }
}

impl ToSql for Cell<'_> {
    fn to_sql(&self) -> rusqlite::Result<ToSqlOutput<'_>> {
        Ok(ToSqlOutput::Borrowed(match self {
            Cell::Text(text) => ValueRef::Text(text.as_bytes()),
            Cell::Whole(number) => ValueRef::Integer(*number),
            Cell::Number(number) => ValueRef::Real(*number),
            Cell::Truth(truth) => ValueRef::Integer(i64::from(*truth)),
            Cell::Nothing => ValueRef::Null,
            Cell::Texts(texts) => {
                let mut list = Vec::new();
                write_json_list(*texts, &mut list);
                let list = String::from_utf8(list).unwrap_or_default();
                return Ok(ToSqlOutput::Owned(list.into()));
            }
        }))
    }
}
