//! Compounds of the Germanic languages that a dictionary does not list: their last part is inflected as it is by itself.

/// The fewest letters of the parts before the last.
const SHORTEST_HEAD: usize = 3;

/// The most letters of a compound: the time goes with the square of them.
const LONGEST: usize = 60;

/// The fewest letters of the last part. A noun of German has a capital, so that fewer words are taken for one.
fn shortest_last(language: &str) -> usize {
    if language == "de" { 4 } else { 5 }
}

/// What may stand between two parts: `Sicherheit-s-kopie`.
fn links(language: &str) -> &'static [&'static str] {
    match language {
        "da" | "nb" => &["", "s", "e"],
        "de" => &["", "s", "es", "n", "en", "er"],
        "nl" => &["", "s", "e", "n", "en"],
        "sv" => &["", "s"],
        _ => &[],
    }
}

/// What a compound is a form of: its parts before the last as they stand, and the lemma of the last, which `lemma` gives where it knows it. The longest last
/// part that is known decides: `Bildschirmen` is of `Bildschirm`. None if no last part is known behind parts that `is_word` holds for, or the compound is
/// inflected nowhere.
pub(super) fn base(
    language: &str,
    form: &str,
    lemma: impl Fn(&str) -> Option<String>,
    is_word: impl Fn(&str) -> bool,
) -> Option<String> {
    let links = links(language);
    let length = form.chars().take(LONGEST + 1).count();
    if links.is_empty() || length > LONGEST {
        return None;
    }
    let is_head = |head: &str| {
        let is_part = |word: &str| word.chars().count() >= SHORTEST_HEAD && is_word(word);
        links.iter().any(|link| head.strip_suffix(link).is_some_and(is_part))
            // `skrivar-inställning`: of a word in a vowel, the vowel may go.
            || matches!(language, "sv") && is_word(&format!("{head}e"))
    };
    for (number, (at, _)) in form.char_indices().enumerate().skip(SHORTEST_HEAD) {
        if length - number < shortest_last(language) {
            return None;
        }
        let (head, last) = form.split_at(at);
        if let Some(lemma) = lemma(last).filter(|_| is_head(head)) {
            return (lemma != last).then(|| format!("{head}{lemma}"));
        }
    }
    None
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_last_part_is_inflected() {
        let table = [
            ("kopien", "kopie"),
            ("schirmen", "schirm"),
            ("schirm", "schirm"),
            ("knappen", "knapp"),
            ("inställningarna", "inställning"),
            ("platte", "platte"),
            ("latten", "latte"),
        ];
        let heads = ["sicherheit", "bild", "meny", "skrivare", "reserve", "reservep"];
        let lemma =
            |last: &str| table.iter().find(|(form, _)| *form == last).map(|(_, lemma)| (*lemma).to_owned());
        let is_word = |head: &str| heads.contains(&head);
        for (language, form, expected) in [
            ("de", "sicherheitskopien", Some("sicherheitskopie")),
            ("de", "bildschirmen", Some("bildschirm")),
            ("sv", "menyknappen", Some("menyknapp")),
            ("sv", "skrivarinställningarna", Some("skrivarinställning")),
            // It is its own base, whatever a shorter last part would be of.
            ("de", "reserveplatte", None),
            // The head is no word, and what is left of it too short.
            ("de", "mondschirmen", None),
            ("de", "anschirmen", None),
            ("fr", "bildschirmen", None),
        ] {
            assert_eq!(base(language, form, lemma, is_word).as_deref(), expected, "{form}");
        }
        assert_eq!(base("de", &format!("{}kopien", "bild".repeat(20)), lemma, |_| true), None);
    }
}
