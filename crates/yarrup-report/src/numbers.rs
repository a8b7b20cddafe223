//! Numbers as people read them.

pub use yarrup_core::numbers::{counted, grouped, plural};

/// `part` of `whole` as [`share`] tells it; nothing of nothing is a dash.
pub fn percent(part: u64, whole: u64) -> String {
    if whole == 0 { "–".to_owned() } else { share(part as f64 / whole as f64) }
}

/// A share from 0 to 1 in per cent with one decimal. What is there is never told as nothing.
pub fn share(share: f64) -> String {
    if share > 0.0 && share < 0.0005 { "<0.1 %".to_owned() } else { format!("{:.1} %", share * 100.0) }
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
