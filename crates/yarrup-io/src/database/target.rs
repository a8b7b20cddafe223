//! Tables of a database that take rows: all of them in one transaction, which is done or leaves everything as it was.

use std::io::{self, Write};
use std::path::{Path, PathBuf};
use std::sync::mpsc::{Receiver, SyncSender, sync_channel};
use std::thread::{self, JoinHandle};

use postgres::Client;

use crate::collection::taken_login;
use crate::database::{Address, DatabaseError, told};
use crate::names::is_database;
use crate::rows::encode::Lot;
use crate::rows::sqlite::{SqliteTables, quoted};
use crate::rows::{EncodedRows, RowColumn, RowFormat, RowTable, RowType, TableMode};

/// A database into which rows are being written. Dropped before it was finished, it is left as it was.
pub struct IntoDatabase {
    place: String,
    to: To,
    /// How many characters its texts cannot hold.
    left_out: u64,
}

enum To {
    Postgres(Session),
    Sqlite {
        tables: SqliteTables,
        path: PathBuf,
        is_new: bool,
    },
    /// It has failed, or is done.
    Closed,
}

/// How many lots may wait for the server.
const WAITING: usize = 4;

/// What the thread that speaks with the server is told.
enum Order {
    /// The next rows go into this table. That it is ready is answered.
    Table(Box<RowTable>, TableMode, SyncSender<()>),
    /// Whether it could go there.
    Check(Box<RowTable>, TableMode, SyncSender<()>),
    Rows(Vec<u8>),
    Commit,
}

struct Session {
    orders: SyncSender<Order>,
    thread: JoinHandle<Result<(), String>>,
}

impl IntoDatabase {
    /// Connects to the database at `place`: an address such as `postgres://user@host/database`, or an SQLite file, which is made if it is not there.
    ///
    /// # Errors
    ///
    /// If it cannot be reached, or refuses.
    pub fn open(place: &str, certificates: Option<&Path>) -> Result<IntoDatabase, DatabaseError> {
        let (shown, login) = taken_login(place);
        let failed = |why: String| DatabaseError { place: shown.clone(), why };
        if is_database(&shown) {
            let address = Address::read(&shown, login.as_ref(), certificates, None).map_err(failed)?;
            let client = address.connect().map_err(failed)?;
            let (orders, taken) = sync_channel(WAITING);
            let thread = thread::Builder::new().name("database".into()).spawn(move || serve(client, &taken));
            let thread = thread.map_err(|why| failed(why.to_string()))?;
            return Ok(IntoDatabase {
                place: shown,
                to: To::Postgres(Session { orders, thread }),
                left_out: 0,
            });
        }
        if shown.contains("://") {
            return Err(failed(
                "no database that can be written to: give postgres://… or an SQLite file".to_owned(),
            ));
        }
        let path = PathBuf::from(&shown);
        let is_new = !path.exists();
        let tables = SqliteTables::in_old(&path).map_err(|why| failed(why.to_string()))?;
        Ok(IntoDatabase { place: shown, to: To::Sqlite { tables, path, is_new }, left_out: 0 })
    }

    /// Finds out whether the database at `place` can be reached, and whether each of these tables is there, or not there, as `mode` has it.
    ///
    /// # Errors
    ///
    /// What would keep [`IntoDatabase::table`] from beginning any of them, but for its columns.
    pub fn check(
        place: &str,
        certificates: Option<&Path>,
        tables: &[&str],
        mode: TableMode,
    ) -> Result<(), DatabaseError> {
        let mut database = IntoDatabase::open(place, certificates)?;
        for name in tables {
            let table = RowTable { name: (*name).to_owned(), columns: Vec::new(), indexed: &[] };
            let done = match &mut database.to {
                To::Postgres(session) => {
                    let (ready, answered) = sync_channel(1);
                    let order = Order::Check(Box::new(table), mode, ready);
                    session.orders.send(order).is_ok() && answered.recv().is_ok()
                }
                To::Sqlite { tables, .. } => {
                    let there = tables
                        .columns_of(name)
                        .and_then(|there| mode.makes(&table, &there).map_err(io::Error::other));
                    there.map_err(|why| database.failed(&why.to_string()))?;
                    true
                }
                To::Closed => false,
            };
            if !done {
                return Err(database.ended());
            }
        }
        Ok(())
    }

    /// The format of the rows that it takes.
    pub fn format(&self) -> RowFormat {
        match self.to {
            To::Postgres(_) => RowFormat::Copy,
            To::Sqlite { .. } | To::Closed => RowFormat::Sqlite,
        }
    }

    /// The database, as it may be shown.
    pub fn place(&self) -> &str {
        &self.place
    }

    /// Begins a table, into which all further rows go.
    ///
    /// # Errors
    ///
    /// If the table is there, or not there, other than `mode` has it; or the database refuses.
    pub fn table(&mut self, table: &RowTable, mode: TableMode) -> Result<(), DatabaseError> {
        let done = match &mut self.to {
            To::Postgres(session) => {
                let (ready, answered) = sync_channel(1);
                let order = Order::Table(Box::new(table.clone()), mode, ready);
                session.orders.send(order).is_ok() && answered.recv().is_ok()
            }
            To::Sqlite { tables, .. } => {
                return tables.begin_table(table, mode).map_err(|why| self.failed(&why.to_string()));
            }
            To::Closed => false,
        };
        if done { Ok(()) } else { Err(self.ended()) }
    }

    /// Adds rows that an encoder for this format made.
    ///
    /// # Errors
    ///
    /// If the database refuses them, or cannot be reached any more.
    pub fn add(&mut self, rows: EncodedRows) -> Result<(), DatabaseError> {
        self.left_out += rows.left_out;
        let done = match (&mut self.to, rows.lot) {
            (To::Postgres(session), Lot::Bytes(bytes)) => session.orders.send(Order::Rows(bytes)).is_ok(),
            (To::Sqlite { tables, .. }, Lot::Rows(rows)) => {
                return tables.rows(&rows).map_err(|why| self.failed(&why.to_string()));
            }
            _ => false,
        };
        if done { Ok(()) } else { Err(self.ended()) }
    }

    /// Makes all of it last. Returns what the user should know.
    ///
    /// # Errors
    ///
    /// If the database refuses; then it is as it was.
    pub fn finish(mut self) -> Result<Vec<String>, DatabaseError> {
        let warning = (self.left_out > 0).then(|| {
            format!(
                "texts of PostgreSQL cannot hold the character U+0000; {} of them were left out",
                self.left_out
            )
        });
        match std::mem::replace(&mut self.to, To::Closed) {
            To::Postgres(session) => {
                // What went wrong before is told below.
                let _ = session.orders.send(Order::Commit);
                joined(session).map_err(|why| DatabaseError { place: self.place.clone(), why })
            }
            To::Sqlite { tables, path, is_new } => tables.finish().map_err(|why| {
                let told = self.failed(&why.to_string());
                clear(&path, is_new);
                told
            }),
            To::Closed => Ok(()),
        }?;
        Ok(warning.into_iter().collect())
    }

    fn failed(&self, why: &str) -> DatabaseError {
        DatabaseError { place: self.place.clone(), why: why.to_owned() }
    }

    /// Why the thread that speaks with the server has ended.
    fn ended(&mut self) -> DatabaseError {
        let why = match std::mem::replace(&mut self.to, To::Closed) {
            To::Postgres(session) => joined(session).err(),
            _ => None,
        };
        self.failed(&why.unwrap_or_else(|| "the connection is closed".to_owned()))
    }
}

impl Drop for IntoDatabase {
    fn drop(&mut self) {
        if let To::Sqlite { tables, path, is_new } = std::mem::replace(&mut self.to, To::Closed) {
            drop(tables);
            clear(&path, is_new);
        }
    }
}

/// Removes the empty file that a database left which never held anything.
fn clear(path: &Path, is_new: bool) {
    if is_new && path.metadata().is_ok_and(|meta| meta.len() == 0) {
        let _ = std::fs::remove_file(path);
    }
}

fn joined(session: Session) -> Result<(), String> {
    drop(session.orders);
    session.thread.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic))
}

/// Speaks with the server until all is done, or nobody goes on: then the server rolls back what was begun.
fn serve(mut client: Client, orders: &Receiver<Order>) -> Result<(), String> {
    client
        .batch_execute(
            "BEGIN; SET LOCAL idle_in_transaction_session_timeout = 0; SET LOCAL statement_timeout = 0",
        )
        .map_err(|why| told(&why))?;
    let mut next = orders.recv().ok();
    let mut indexes = Vec::new();
    loop {
        match next.take() {
            Some(Order::Table(table, mode, ready)) => {
                let created = prepared(&mut client, &table, mode)?;
                let name = quoted_path(&table.name);
                if created {
                    indexes.extend(
                        table
                            .indexed
                            .iter()
                            .map(|column| format!("CREATE INDEX ON {name} ({})", quoted(column))),
                    );
                }
                let columns: Vec<String> = table.columns.iter().map(|column| quoted(&column.name)).collect();
                let copy = format!("COPY {name} ({}) FROM STDIN", columns.join(", "));
                // Nobody waits any more if this cannot be said.
                let _ = ready.send(());
                next = copied(&mut client, &copy, orders).map_err(|why| match why {
                    Refused::Server(why) => told(&why),
                    Refused::Connection(why) => format!("the connection was lost: {why}"),
                })?;
            }
            Some(Order::Check(table, mode, ready)) => {
                mode.makes(&table, &columns_of(&mut client, &quoted_path(&table.name))?)?;
                let _ = ready.send(());
                next = orders.recv().ok();
            }
            Some(Order::Commit) => {
                for index in &indexes {
                    client.batch_execute(index).map_err(|why| told(&why))?;
                }
                return client.batch_execute("COMMIT").map_err(|why| told(&why));
            }
            Some(Order::Rows(_)) | None => return Ok(()),
        }
    }
}

enum Refused {
    Server(postgres::Error),
    Connection(io::Error),
}

/// Copies rows into a table until something else is ordered, which is returned.
fn copied(client: &mut Client, copy: &str, orders: &Receiver<Order>) -> Result<Option<Order>, Refused> {
    let mut writer = client.copy_in(copy).map_err(Refused::Server)?;
    loop {
        match orders.recv() {
            Ok(Order::Rows(bytes)) => {
                if let Err(why) = writer.write_all(&bytes) {
                    // What the server says is told when the copy ends.
                    return match writer.finish() {
                        Err(told) if told.as_db_error().is_some() => Err(Refused::Server(told)),
                        _ => Err(Refused::Connection(why)),
                    };
                }
            }
            Ok(order) => {
                writer.finish().map_err(Refused::Server)?;
                return Ok(Some(order));
            }
            // Dropped: the copy is given up.
            Err(_) => return Ok(None),
        }
    }
}

/// A name as SQL quotes it; a dot parts the schema from the table.
fn quoted_path(name: &str) -> String {
    name.splitn(2, '.').map(quoted).collect::<Vec<_>>().join(".")
}

fn sql_type(column: &RowColumn) -> &'static str {
    match column.kind {
        RowType::Text => "text",
        RowType::Whole => "bigint",
        RowType::Number => "double precision",
        RowType::Truth => "boolean",
        RowType::Date => "date",
        RowType::Time => "timestamp",
        RowType::ZonedTime => "timestamp with time zone",
        RowType::Texts => "text[]",
    }
}

/// The columns of a table, whose name is quoted; none if it is not there.
fn columns_of(client: &mut Client, name: &str) -> Result<Vec<String>, String> {
    let columns = client.query(
        "SELECT attname::text FROM pg_attribute WHERE attrelid = to_regclass($1) AND attnum > 0 AND NOT attisdropped",
        &[&name],
    );
    Ok(columns.map_err(|why| told(&why))?.iter().map(|row| row.get(0)).collect())
}

/// Makes the table ready for rows. Returns whether it was made.
fn prepared(client: &mut Client, table: &RowTable, mode: TableMode) -> Result<bool, String> {
    let name = quoted_path(&table.name);
    let there = columns_of(client, &name)?;
    if !mode.makes(table, &there)? {
        return Ok(false);
    }
    if !there.is_empty() {
        client.batch_execute(&format!("DROP TABLE {name}")).map_err(|why| told(&why))?;
    }
    let columns: Vec<String> =
        table.columns.iter().map(|column| format!("{} {}", quoted(&column.name), sql_type(column))).collect();
    let create = format!("CREATE TABLE {name} ({})", columns.join(", "));
    client.batch_execute(&create).map_err(|why| told(&why))?;
    Ok(true)
}
