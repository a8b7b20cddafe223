//! Numbers as people read them, in advice and in tables.

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

/// `noun` as it goes with this number: an `s` for any but one.
pub fn plural(number: u64, noun: &str) -> String {
    if number == 1 { noun.to_owned() } else { format!("{noun}s") }
}

/// The number with its noun.
pub fn counted(number: u64, noun: &str) -> String {
    format!("{} {}", grouped(number), plural(number, noun))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_are_written_for_people() {
        assert_eq!(grouped(0), "0");
        assert_eq!(grouped(999), "999");
        assert_eq!(grouped(1_234_567), "1,234,567");
        assert_eq!(counted(1, "document"), "1 document");
        assert_eq!(counted(2000, "document"), "2,000 documents");
    }
}
