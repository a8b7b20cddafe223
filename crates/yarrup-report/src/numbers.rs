//! Numbers as people read them.

/// A whole number with a comma between each three digits.
pub fn grouped(number: u64) -> String {
    let digits = number.to_string();
    let mut out = String::with_capacity(digits.len() + digits.len() / 3);
    for (at, digit) in digits.chars().enumerate() {
        if at > 0 && (digits.len() - at).is_multiple_of(3) {
            out.push(',');
        }
        out.push(digit);
    }
    out
}

/// `part` of `whole` in per cent with one decimal; nothing of nothing is a dash.
pub fn percent(part: u64, whole: u64) -> String {
    if whole == 0 { "–".to_owned() } else { format!("{:.1} %", part as f64 * 100.0 / whole as f64) }
}

/// `noun` as it goes with this number: an `s` for any but one.
pub fn plural(number: u64, noun: &str) -> String {
    if number == 1 { noun.to_owned() } else { format!("{noun}s") }
}

/// The number with its noun.
pub fn counted(number: u64, noun: &str) -> String {
    format!("{} {}", grouped(number), plural(number, noun))
}

/// A size in bytes, in the unit that suits it.
pub fn sized(bytes: u64) -> String {
    let unit = |size: f64, name: &str| format!("{:.1} {name}", bytes as f64 / size);
    match bytes {
        0..1_000 => counted(bytes, "byte"),
        1_000..1_000_000 => unit(1e3, "kB"),
        1_000_000..1_000_000_000 => unit(1e6, "MB"),
        _ => unit(1e9, "GB"),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_are_written_for_people() {
        assert_eq!(grouped(0), "0");
        assert_eq!(grouped(999), "999");
        assert_eq!(grouped(1_234_567), "1,234,567");
        assert_eq!(percent(1, 3), "33.3 %");
        assert_eq!(percent(0, 0), "–");
        assert_eq!(counted(1, "document"), "1 document");
        assert_eq!(sized(1_234_567), "1.2 MB");
        assert_eq!(counted(2000, "document"), "2,000 documents");
    }
}
