//! Numbers as people read them.

pub use yarrup_core::numbers::{counted, grouped, plural};

/// `part` of `whole` in per cent with one decimal; nothing of nothing is a dash, and what is there is never told as nothing.
pub fn percent(part: u64, whole: u64) -> String {
    let share = part as f64 * 100.0 / whole as f64;
    match (part, whole) {
        (_, 0) => "–".to_owned(),
        (1.., _) if share < 0.05 => "<0.1 %".to_owned(),
        _ => format!("{share:.1} %"),
    }
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
        assert_eq!(percent(1, 3), "33.3 %");
        assert_eq!(percent(0, 0), "–");
        assert_eq!([percent(0, 9), percent(4, 10_000), percent(6, 10_000)], ["0.0 %", "<0.1 %", "0.1 %"]);
        assert_eq!(sized(1_234_567), "1.2 MB");
    }
}
