//! Rows of a PostgreSQL database as documents: read through a cursor of a transaction that can only read, and handed on as lines of JSON.

use std::io::{self, Read};

use postgres::{Client, Row};

use crate::database::{Address, DatabaseTable, told};
use crate::rows::sqlite::quoted;

/// How many bytes are fetched at once, about.
const FETCHED_BYTES: usize = 1 << 20;
/// The most rows that are fetched at once.
const FETCHED_ROWS: usize = 5000;
/// Tables that are estimated to be larger are not counted.
const COUNTED_ROWS: f32 = 1e6;

/// The tables and views that the user may read.
fn tables(client: &mut Client) -> Result<Vec<(DatabaseTable, String)>, postgres::Error> {
    let found = client.query(
        "SELECT n.nspname::text, c.relname::text, c.relkind IN ('v', 'm'), c.reltuples \
         FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace \
         WHERE c.relkind IN ('r', 'v', 'm', 'p', 'f') AND NOT c.relispartition \
         AND n.nspname NOT IN ('pg_catalog', 'information_schema') AND n.nspname NOT LIKE 'pg\\_toast%' \
         AND n.nspname NOT LIKE 'pg\\_temp%' AND has_table_privilege(c.oid, 'SELECT') AND has_schema_privilege(n.oid, 'USAGE') \
         ORDER BY n.nspname <> 'public', n.nspname, c.relname",
        &[],
    )?;
    let table = |row: &Row| {
        let (schema, name): (String, String) = (row.get(0), row.get(1));
        let shown = if schema == "public" { name.clone() } else { format!("{schema}.{name}") };
        let estimated: f32 = row.get(3);
        let table = DatabaseTable {
            name: shown,
            is_view: row.get(2),
            rows: estimated.max(0.0) as u64,
            counted: false,
            columns: Vec::new(),
        };
        (table, format!("{}.{}", quoted(&schema), quoted(&name)))
    };
    Ok(found.iter().map(table).collect())
}

/// The tables and views of the database at an address, with their sizes and columns.
///
/// # Errors
///
/// If the server cannot be reached, or refuses.
pub fn tables_of(source: &crate::SourceSpec) -> Result<Vec<DatabaseTable>, String> {
    let address = Address::read(
        &source.place,
        source.login.as_ref(),
        source.options.certificates.as_deref(),
        source.options.patience,
    )?;
    let mut client = address.connect()?;
    let mut read = || {
        client.batch_execute("BEGIN READ ONLY")?;
        let mut found = tables(&mut client)?;
        for (table, quoted) in &mut found {
            let columns = client.query(
                "SELECT attname::text, format_type(atttypid, atttypmod) FROM pg_attribute \
                 WHERE attrelid = $1::text::regclass AND attnum > 0 AND NOT attisdropped ORDER BY attnum",
                &[quoted],
            )?;
            table.columns = columns.iter().map(|row| (row.get(0), row.get(1))).collect();
            if (table.rows as f32) < COUNTED_ROWS {
                let count: i64 = client.query_one(&format!("SELECT count(*) FROM {quoted}"), &[])?.get(0);
                table.rows = count.max(0) as u64;
                table.counted = true;
            }
        }
        Ok(found.into_iter().map(|(table, _)| table).collect())
    };
    read().map_err(|why: postgres::Error| told(&why))
}

/// The rows of a table or a query, as a stream of lines of JSON, and what they are called.
pub(crate) fn rows_of(
    address: &Address,
    table: Option<&str>,
    query: Option<&str>,
) -> Result<(String, DatabaseRows), String> {
    let mut client = address.connect()?;
    // Rows that are read twice come in the same order.
    client
        .batch_execute(
            "BEGIN ISOLATION LEVEL REPEATABLE READ READ ONLY; SET LOCAL synchronize_seqscans = off; \
             SET LOCAL max_parallel_workers_per_gather = 0; SET LOCAL statement_timeout = 0; \
             SET LOCAL idle_in_transaction_session_timeout = 0",
        )
        .map_err(|why| told(&why))?;
    let (name, query) = match query {
        Some(query) => ("query".to_owned(), query.trim().trim_end_matches(';').to_owned()),
        None => {
            let (name, quoted) = chosen(&mut client, table)?;
            (name, format!("SELECT * FROM {quoted}"))
        }
    };
    let columns = client.prepare(&query).map_err(|why| told(&why))?;
    let mut names: Vec<&str> = columns.columns().iter().map(|column| column.name()).collect();
    if names.is_empty() {
        return Err("the query gives no rows; only those that read are taken".to_owned());
    }
    names.sort_unstable();
    if let Some(twice) = names.windows(2).find(|pair| pair[0] == pair[1]) {
        return Err(format!("two columns are called `{}`; name one of them with AS", twice[0]));
    }
    // The line feed ends a comment that the query may end with.
    let cursor = format!(
        "DECLARE yarrup_rows NO SCROLL CURSOR FOR SELECT row_to_json(yarrup_row)::text FROM ({query}\n) AS yarrup_row"
    );
    client.execute(&cursor, &[]).map_err(|why| told(&why))?;
    Ok((name, DatabaseRows { client, lines: Vec::new(), at: 0, fetch: 100, ended: false, failed: None }))
}

/// The table that is meant, as it is shown and as SQL quotes it.
fn chosen(client: &mut Client, asked: Option<&str>) -> Result<(String, String), String> {
    let found = tables(client).map_err(|why| told(&why))?;
    let named = || {
        let names: Vec<_> = found.iter().map(|(table, _)| format!("`{}`", table.name)).collect();
        names.join(", ")
    };
    match (asked, found.as_slice()) {
        (_, []) => Err("the database has no table that you may read".to_owned()),
        (Some(asked), _) => {
            let plain = asked.strip_prefix("public.").unwrap_or(asked);
            let table = found.iter().find(|(table, _)| table.name == plain);
            table
                .map(|(table, quoted)| (table.name.clone(), quoted.clone()))
                .ok_or_else(|| format!("no table `{asked}`; there are {}", named()))
        }
        (None, [(only, quoted)]) => Ok((only.name.clone(), quoted.clone())),
        (None, _) => Err(format!("several tables: {}; choose one with --table, or write a --query", named())),
    }
}

/// Rows as lines of JSON.
pub(crate) struct DatabaseRows {
    client: Client,
    /// Lines that were fetched, and how much of them was read.
    lines: Vec<u8>,
    at: usize,
    /// How many rows are fetched next.
    fetch: usize,
    ended: bool,
    /// Why no more could be fetched: the transaction is over then.
    failed: Option<String>,
}

impl Read for DatabaseRows {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        if self.at == self.lines.len() && !self.ended {
            self.lines.clear();
            self.at = 0;
            let fetch = format!("FETCH FORWARD {} FROM yarrup_rows", self.fetch);
            if let Some(why) = &self.failed {
                return Err(io::Error::other(why.clone()));
            }
            let rows = match self.client.query(&fetch, &[]) {
                Ok(rows) => rows,
                Err(why) => {
                    let why = told(&why);
                    self.failed = Some(why.clone());
                    return Err(io::Error::other(why));
                }
            };
            self.ended = rows.len() < self.fetch;
            for row in &rows {
                let line: &str = row.try_get(0).map_err(|why| io::Error::other(told(&why)))?;
                // Values of the type `json` stand as they were written, line feeds and all; within a value they are no content.
                self.lines.extend(
                    line.bytes().map(|byte| if byte == b'\n' || byte == b'\r' { b' ' } else { byte }),
                );
                self.lines.push(b'\n');
            }
            let row = self.lines.len() / rows.len().max(1);
            self.fetch = (FETCHED_BYTES / row.max(1)).clamp(1, FETCHED_ROWS);
        }
        let count = buffer.len().min(self.lines.len() - self.at);
        buffer[..count].copy_from_slice(&self.lines[self.at..self.at + count]);
        self.at += count;
        Ok(count)
    }
}
