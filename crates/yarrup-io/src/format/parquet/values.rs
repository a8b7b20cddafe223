//! Values of a Parquet table as JSON.

use parquet::record::{Field, Row};

use crate::record::members::{separate, write_text};

/// A row as a JSON object.
pub(super) fn json_of(row: &Row) -> Vec<u8> {
    let mut out = Vec::new();
    write_row(row, &mut out);
    out
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

/// Writes a value as JSON.
pub(super) fn write_field(field: &Field, out: &mut Vec<u8>) {
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
