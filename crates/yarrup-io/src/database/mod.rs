//! PostgreSQL: tables and queries as sources, and tables that take what a run gave.

mod address;
mod facts;
mod password;
mod source;
mod target;
mod tls;

use postgres::error::DbError;

pub(crate) use address::Address;
pub use facts::{DatabaseError, DatabaseTable};
pub(crate) use source::rows_of;
pub use source::tables_of;
pub use target::IntoDatabase;

/// What a server says of a failure, and where.
fn told(why: &postgres::Error) -> String {
    match why.as_db_error() {
        Some(fault) => fault_told(fault),
        None => {
            let mut told = why.to_string();
            let mut inner = std::error::Error::source(why);
            while let Some(why) = inner {
                let more = why.to_string();
                if !told.contains(&more) {
                    told.push_str(&format!(": {more}"));
                }
                inner = why.source();
            }
            told
        }
    }
}

fn fault_told(fault: &DbError) -> String {
    let mut told = match fault.where_().and_then(row_and_column) {
        Some((row, Some(column))) => format!("row {row}, column {column}: {}", fault.message()),
        Some((row, None)) => format!("row {row}: {}", fault.message()),
        None => fault.message().to_owned(),
    };
    for more in [fault.detail(), fault.hint()].into_iter().flatten() {
        told.push_str(&format!(" ({more})"));
    }
    told
}

/// The row and the column of which `COPY` tells: `COPY cleaned, line 17, column rating: "x"`.
fn row_and_column(place: &str) -> Option<(&str, Option<&str>)> {
    let (_, rest) = place.lines().next()?.strip_prefix("COPY ")?.split_once(", line ")?;
    let digits = rest.find(|c: char| !c.is_ascii_digit()).unwrap_or(rest.len());
    let (row, rest) = rest.split_at(digits);
    let column = rest.strip_prefix(", column ").and_then(|rest| rest.split([':', ',']).next());
    Some((row, column))
}

#[cfg(test)]
mod tests {
    use super::row_and_column;

    #[test]
    fn a_place_in_a_copy_is_a_row_and_a_column() {
        for (place, expected) in [
            ("COPY cleaned, line 17, column rating: \"x\"", Some(("17", Some("rating")))),
            ("COPY cleaned, line 3", Some(("3", None))),
            ("COPY cleaned, line 3: \"1\t2\"", Some(("3", None))),
            ("SQL statement", None),
        ] {
            assert_eq!(row_and_column(place), expected, "{place}");
        }
    }
}
