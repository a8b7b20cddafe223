//! Parquet: a row is a document. Row groups are read one after the other.

use std::fs::File;

use parquet::file::reader::{FileReader, SerializedFileReader};
use parquet::record::{Field, Row};

use crate::documents::{
    BATCH_BYTES, Documents, Format, FormatFacts, Input, Out, RawDocument, ReadError, Reader, Start, Unit,
};
use crate::record::members::{separate, write_text};

pub(crate) struct Parquet;

impl Reader for Parquet {
    fn format(&self) -> Format {
        Format::of(&FormatFacts {
            name: "parquet",
            about: "a Parquet table",
            endings: &["parquet", "pq"],
            units: &[Unit::Row],
            is_any_text: false,
        })
    }

    fn recognises(&self, start: &Start<'_>) -> bool {
        start.bytes.starts_with(b"PAR1")
    }

    fn is_read_apart(&self) -> bool {
        true
    }

    fn read(&self, input: &mut Input<'_>, out: &mut dyn Out) -> Result<(), ReadError> {
        let name = input.name.clone();
        let (path, _kept) = input.on_disk()?;
        let reader = SerializedFileReader::new(File::open(path)?).map_err(|why| damaged(&why))?;
        let rows = reader.get_row_iter(None).map_err(|why| damaged(&why))?;
        let (mut ready, mut bytes) = (Vec::new(), 0);
        for (index, row) in rows.enumerate() {
            let row = match row {
                Ok(row) => row,
                Err(why) => {
                    // What came before the damage was read.
                    out.give(Documents(ready))?;
                    return Err(damaged(&why));
                }
            };
            let fields = json_of(&row);
            bytes += fields.len();
            ready.push(RawDocument {
                id: format!("{name}:{}", index + 1),
                fields,
                text: None,
                broken_bytes: 0,
            });
            if bytes >= BATCH_BYTES {
                bytes = 0;
                out.give(Documents(std::mem::take(&mut ready)))?;
            }
        }
        out.give(Documents(ready))
    }
}

fn damaged(error: &parquet::errors::ParquetError) -> ReadError {
    let told = error.to_string();
    let lower = told.to_ascii_lowercase();
    if lower.contains("codec") || lower.contains("compress") || lower.contains("feature") {
        return ReadError::sentence(format!(
            "compressed in a way that is not read; write it with snappy, zstd, gzip or lz4: {told}"
        ));
    }
    ReadError::sentence(format!("damaged Parquet file, cut off or not copied to its end: {told}"))
}

fn json_of(row: &Row) -> String {
    let mut out = Vec::new();
    write_row(row, &mut out);
    String::from_utf8(out).unwrap_or_default()
}

fn write_row(row: &Row, out: &mut Vec<u8>) {
    out.push(b'{');
    let mut first = true;
    for (name, field) in row.get_column_iter() {
        separate(&mut first, out);
        write_text(name, out);
        out.push(b':');
        write_field(field, out);
    }
    out.push(b'}');
}

fn write_field(field: &Field, out: &mut Vec<u8>) {
    let json = match field {
        Field::Null => "null".to_owned(),
        Field::Bool(truth) => truth.to_string(),
        Field::Byte(number) => number.to_string(),
        Field::Short(number) => number.to_string(),
        Field::Int(number) => number.to_string(),
        Field::Long(number) => number.to_string(),
        Field::UByte(number) => number.to_string(),
        Field::UShort(number) => number.to_string(),
        Field::UInt(number) => number.to_string(),
        Field::ULong(number) => number.to_string(),
        Field::Float16(number) => of_number(f64::from(*number)),
        // By its own digits: as a longer number it would end in digits that nobody wrote.
        Field::Float(number) if number.is_finite() => number.to_string(),
        Field::Float(_) => "null".to_owned(),
        Field::Double(number) => of_number(*number),
        Field::Decimal(_) => field.to_string(),
        Field::Str(text) => return write_text(text, out),
        Field::Bytes(bytes) => match std::str::from_utf8(bytes.data()) {
            Ok(text) => return write_text(text, out),
            // A picture or the like.
            Err(_) => "null".to_owned(),
        },
        Field::Date(days) => return write_text(&date(i64::from(*days)), out),
        Field::TimeMillis(time) => return write_text(&clock(i64::from(*time) * 1000), out),
        Field::TimeMicros(time) => return write_text(&clock(*time), out),
        Field::TimestampMillis(time) => return write_text(&timestamp(time.saturating_mul(1000)), out),
        Field::TimestampMicros(time) => return write_text(&timestamp(*time), out),
        Field::Group(row) => return write_row(row, out),
        Field::ListInternal(list) => {
            out.push(b'[');
            let mut first = true;
            for element in list.elements() {
                separate(&mut first, out);
                write_field(element, out);
            }
            return out.push(b']');
        }
        Field::MapInternal(map) => {
            out.push(b'{');
            let mut first = true;
            for (key, value) in map.entries() {
                separate(&mut first, out);
                match key {
                    Field::Str(name) => write_text(name, out),
                    other => write_text(&other.to_string(), out),
                }
                out.push(b':');
                write_field(value, out);
            }
            return out.push(b'}');
        }
    };
    out.extend_from_slice(json.as_bytes());
}

/// A number as JSON has it, which knows no infinity.
fn of_number(number: f64) -> String {
    if number.is_finite() { number.to_string() } else { "null".to_owned() }
}

const MICROS_A_DAY: i64 = 86_400_000_000;

fn timestamp(micros: i64) -> String {
    let day = date(micros.div_euclid(MICROS_A_DAY));
    format!("{day}T{}Z", clock(micros.rem_euclid(MICROS_A_DAY)))
}

fn clock(micros: i64) -> String {
    let seconds = micros / 1_000_000;
    let mut out = format!("{:02}:{:02}:{:02}", seconds / 3600, seconds / 60 % 60, seconds % 60);
    match micros % 1_000_000 {
        0 => {}
        rest if rest % 1000 == 0 => out.push_str(&format!(".{:03}", rest / 1000)),
        rest => out.push_str(&format!(".{rest:06}")),
    }
    out
}

/// The date of a day, counted from 1 January 1970 (Hinnant 2013, "chrono-compatible low-level date algorithms").
fn date(days: i64) -> String {
    let shifted = days + 719_468;
    let era = shifted.div_euclid(146_097);
    let of_era = shifted.rem_euclid(146_097);
    let year_of_era = (of_era - of_era / 1460 + of_era / 36_524 - of_era / 146_096) / 365;
    let of_year = of_era - (365 * year_of_era + year_of_era / 4 - year_of_era / 100);
    let month_from_march = (5 * of_year + 2) / 153;
    let day = of_year - (153 * month_from_march + 2) / 5 + 1;
    let month = if month_from_march < 10 { month_from_march + 3 } else { month_from_march - 9 };
    let year = year_of_era + era * 400 + i64::from(month <= 2);
    format!("{year:04}-{month:02}-{day:02}")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn days_have_dates() {
        for (days, expected) in [
            (0, "1970-01-01"),
            (-1, "1969-12-31"),
            (11_016, "2000-02-29"),
            (19_723, "2024-01-01"),
            (22_404, "2031-05-05"),
        ] {
            assert_eq!(date(days), expected);
        }
        assert_eq!(timestamp(-1), "1969-12-31T23:59:59.999999Z");
        assert_eq!(timestamp(1_500_000), "1970-01-01T00:00:01.500Z");
    }
}
