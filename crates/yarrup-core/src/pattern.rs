//! Regular expressions that recipes write.

use regex::Regex;

/// Compiles the regular expression of a key.
pub(crate) fn compiled_pattern(key: &str, written: &str) -> Result<Regex, String> {
    Regex::new(written).map_err(|error| {
        let told = error.to_string();
        let last = told.lines().last().unwrap_or_default().trim().trim_start_matches("error: ");
        format!("`{key}` is not a regular expression: {last}: `{written}`")
    })
}
