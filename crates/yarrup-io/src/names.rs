//! What the names of files say.

/// The ending of a file's name, in lower case.
pub(crate) fn ending(name: &str) -> Option<String> {
    let file = name.rsplit(['/', '\\']).next().unwrap_or(name);
    let (stem, ending) = file.rsplit_once('.')?;
    // A `.hidden` file has no ending, and neither has `1234.host:2,S`.
    let is_ending =
        !stem.is_empty() && ending.len() <= 8 && ending.bytes().all(|byte| byte.is_ascii_alphanumeric());
    (is_ending && !ending.is_empty()).then(|| ending.to_ascii_lowercase())
}

/// Whether a name is hidden by custom.
pub(crate) fn is_hidden(name: &str) -> bool {
    name.starts_with('.') || name == "__MACOSX"
}

/// Whether a place is the address of a database.
pub(crate) fn is_database(place: &str) -> bool {
    let scheme = place.split_once("://").map(|(scheme, _)| scheme.to_ascii_lowercase());
    matches!(scheme.as_deref(), Some("postgres" | "postgresql"))
}

/// Whether a place is an address.
pub(crate) fn is_address(place: &str) -> bool {
    let scheme = place.split_once("://").map(|(scheme, _)| scheme.to_ascii_lowercase());
    matches!(scheme.as_deref(), Some("http" | "https"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn endings_are_short_words_behind_a_dot() {
        for (name, expected) in [
            ("a/b.TXT", Some("txt")),
            ("a.b/notes", None),
            (".hidden", None),
            ("1234.M5P.host:2,S", None),
            ("notes.", None),
            ("a.tar.gz", Some("gz")),
        ] {
            assert_eq!(ending(name).as_deref(), expected, "{name}");
        }
    }
}
