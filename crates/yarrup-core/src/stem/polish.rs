//! A light Polish stemmer: endings of number, gender and case go. Written for this project from the declensions of the grammar; the endings are those of
//! nouns and adjectives, the longest first, and consonants that are soft only before some endings are written hard.

/// Longest first.
const ENDINGS: [&str; 37] = [
    "owie", "iami", "yami", "iego", "iemu", "ami", "iach", "ach", "ego", "emu", "ymi", "imi", "ych", "ich",
    "iej", "iom", "iów", "owi", "iem", "ej", "om", "ów", "em", "ią", "ię", "ie", "ia", "io", "iu", "ym",
    "im", "ą", "ę", "y", "i", "a", "e",
];

/// The Polish light stem of `word`. Expects small letters.
pub(super) fn polish(word: &str) -> String {
    let mut stem = word;
    // `o` and `u` end nouns as well, but foreign ones often keep them.
    for ending in ENDINGS.into_iter().chain(["o", "u"]) {
        if let Some(rest) = word.strip_suffix(ending).filter(|rest| rest.chars().count() > 2) {
            stem = rest;
            break;
        }
    }
    let mut letters: Vec<char> = stem.chars().collect();
    let length = letters.len();
    if let Some(last) = letters.last_mut() {
        *last = match *last {
            'ć' => 'c',
            'ń' => 'n',
            'ś' => 's',
            'ź' => 'z',
            other => other,
        };
    }
    // `stół`, `stołu`: a closed last syllable.
    if length > 2 && letters[length - 2] == 'ó' {
        letters[length - 2] = 'o';
    }
    letters.into_iter().collect()
}

#[cfg(test)]
mod tests {
    use super::polish;

    #[test]
    fn cases_of_one_word_come_together() {
        for (forms, stem) in [
            ("dom domy domów domami domach domowi domem domu", "dom"),
            ("ryba ryby rybie rybą rybami rybach ryb", "ryb"),
            ("dobry dobra dobrego dobremu dobrej dobrym dobrych dobrymi", "dobr"),
            ("niebieski niebieskiego niebieska niebieską", "niebiesk"),
            ("koń konia koniem konie koniami", "kon"),
            ("kość kości kością", "kośc"),
            ("stół stołu stołem stoły", "stoł"),
            ("okno okna oknem oknami", "okn"),
        ] {
            for form in forms.split(' ') {
                assert_eq!(polish(form), stem, "{form}");
            }
        }
        // Too short for an ending.
        for word in ["my", "dno", "oko", ""] {
            assert_eq!(polish(word), word);
        }
    }
}
