//! SQLite databases: a row of a table or of a query is a document. They are opened for reading only.

use crate::documents::{
    BATCH_BYTES, Documents, FieldsWriter, Format, Input, Out, RawDocument, ReadError, Reader, Start,
};
use crate::format::facts;
use crate::rows::sqlite::quoted;
use rusqlite::types::ValueRef;
use rusqlite::{Connection, ErrorCode, OpenFlags};

pub(crate) struct Sqlite;

impl Reader for Sqlite {
    fn format(&self) -> Format {
        Format::of(&facts::SQLITE)
    }

    fn recognises(&self, start: &Start<'_>) -> bool {
        start.bytes.starts_with(b"SQLite format 3\0")
    }

    fn is_read_apart(&self) -> bool {
        true
    }

    fn read(&self, input: &mut Input<'_>, out: &mut dyn Out) -> Result<(), ReadError> {
        let name = input.name.clone();
        let (path, _kept) = input.on_disk()?;
        let flags = OpenFlags::SQLITE_OPEN_READ_ONLY | OpenFlags::SQLITE_OPEN_NO_MUTEX;
        let database = Connection::open_with_flags(&path, flags).map_err(|why| unreadable(&why))?;
        let (source, query) = match (&out.options().query, &out.options().table) {
            (Some(query), _) => ("query".to_owned(), query.clone()),
            (None, asked) => {
                let table = table(&database, asked.as_deref())?;
                let query = format!("SELECT * FROM {}", quoted(&table));
                (table, query)
            }
        };
        let mut statement = database.prepare(&query).map_err(|why| unreadable(&why))?;
        if !statement.readonly() {
            return Err(ReadError::sentence(
                "the query changes the database; only those that read are taken",
            ));
        }
        let columns: Vec<String> = statement.column_names().into_iter().map(str::to_owned).collect();
        let columns = super::table::unique_names(columns.into_iter());
        let mut rows = statement.query([]).map_err(|why| unreadable(&why))?;
        let (mut ready, mut bytes, mut number) = (Vec::new(), 0, 0);
        loop {
            let row = match rows.next() {
                Ok(Some(row)) => row,
                Ok(None) => break,
                Err(why) => {
                    // What came before the damage was read.
                    out.give(Documents(ready))?;
                    return Err(unreadable(&why));
                }
            };
            number += 1;
            let (mut fields, mut broken_bytes) = (FieldsWriter::default(), 0);
            for (index, column) in columns.iter().enumerate() {
                match row.get_ref(index).map_err(|why| unreadable(&why))? {
                    ValueRef::Integer(value) => fields.json(column, &value.to_string()),
                    ValueRef::Real(value) if value.is_finite() => fields.json(column, &value.to_string()),
                    ValueRef::Text(value) => {
                        let (text, broken) = crate::encoding::repaired(value);
                        broken_bytes += broken;
                        fields.text(column, &text);
                    }
                    // Text is stored as a blob by some; a picture is none.
                    ValueRef::Blob(value) => match std::str::from_utf8(value) {
                        Ok(text) => fields.text(column, text),
                        Err(_) => fields.json(column, "null"),
                    },
                    ValueRef::Real(_) | ValueRef::Null => fields.json(column, "null"),
                }
            }
            let fields = fields.finish();
            bytes += fields.len();
            ready.push(RawDocument {
                id: format!("{name}:{source}:{number}"),
                fields,
                text: None,
                broken_bytes,
            });
            if bytes >= BATCH_BYTES {
                bytes = 0;
                out.give(Documents(std::mem::take(&mut ready)))?;
            }
        }
        out.give(Documents(ready))
    }
}

/// The most rows of a table that are counted.
const COUNTED_ROWS: u64 = 1_000_000;

/// A table with how many rows it has: `notes` (1500 rows). Those of a view would have to be made.
fn with_size(database: &Connection, table: &str, is_view: bool) -> String {
    if is_view {
        return format!("`{table}` (a view)");
    }
    let limit = COUNTED_ROWS + 1;
    let query = format!("SELECT count(*) FROM (SELECT 1 FROM {} LIMIT {limit})", quoted(table));
    match database.query_one(&query, [], |row| row.get::<_, i64>(0)).map(i64::unsigned_abs) {
        Ok(1) => format!("`{table}` (1 row)"),
        Ok(rows) if rows > COUNTED_ROWS => format!("`{table}` (more than {COUNTED_ROWS} rows)"),
        Ok(rows) => format!("`{table}` ({rows} rows)"),
        Err(_) => format!("`{table}`"),
    }
}

/// The table that is asked for, or the only one.
fn table(database: &Connection, asked: Option<&str>) -> Result<String, ReadError> {
    let tables = || -> rusqlite::Result<Vec<(String, bool)>> {
        // What full-text search keeps for itself has the name of its table in front.
        let mut statement = database.prepare(
            "SELECT name, type = 'view' FROM sqlite_schema WHERE type IN ('table', 'view') AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\' \
             AND NOT EXISTS (SELECT 1 FROM sqlite_schema AS parent WHERE parent.sql LIKE 'CREATE VIRTUAL TABLE%' \
             AND sqlite_schema.name LIKE parent.name || '\\_%' ESCAPE '\\') ORDER BY name",
        )?;
        let names = statement.query_map([], |row| Ok((row.get(0)?, row.get(1)?)))?;
        names.collect()
    };
    let tables = tables().map_err(|why| unreadable(&why))?;
    let named = || {
        let sized: Vec<String> =
            tables.iter().map(|(table, is_view)| with_size(database, table, *is_view)).collect();
        sized.join(", ")
    };
    match (asked, tables.as_slice()) {
        (Some(asked), _) if tables.iter().any(|(table, _)| table == asked) => Ok(asked.to_owned()),
        (Some(asked), _) => Err(ReadError::sentence(format!("no table `{asked}`; there are {}", named()))),
        (None, [(only, _)]) => Ok(only.clone()),
        (None, []) => Err(ReadError::sentence("the database has no table")),
        (None, _) => Err(ReadError::sentence(format!(
            "several tables: {}; choose one with --table, or write a --query",
            named()
        ))),
    }
}

fn unreadable(error: &rusqlite::Error) -> ReadError {
    match error.sqlite_error_code() {
        Some(ErrorCode::NotADatabase) => {
            ReadError::sentence("damaged or encrypted: SQLite does not take it for a database")
        }
        Some(ErrorCode::DatabaseCorrupt) => {
            ReadError::sentence("damaged database, cut off or not copied to its end")
        }
        Some(ErrorCode::DatabaseBusy | ErrorCode::DatabaseLocked) => {
            ReadError::sentence("another program is writing to this database; try again when it has ended")
        }
        _ => ReadError::sentence(error.to_string()),
    }
}
