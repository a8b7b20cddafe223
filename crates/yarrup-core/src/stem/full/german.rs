use super::{Word, marked, replaced};

const VOWELS: &str = "aeiouyäöü";

/// The full German stem of `word`. Expects small letters.
pub(crate) fn german(word: &str) -> String {
    let is_vowel = |letter: Option<char>| letter.is_some_and(|letter| VOWELS.contains(letter));
    let word = word.replace('ß', "ss");
    let letters = marked(&word, |before, letter, after| {
        matches!(letter, 'u' | 'y') && is_vowel(before) && is_vowel(after)
    });
    let mut word = Word::of(letters, VOWELS);
    word.r1 = word.r1.max(3);
    case_endings(&mut word);
    comparison(&mut word);
    derivation(&mut word);
    let letters = word.letters.into_iter().map(|letter| letter.to_ascii_lowercase());
    replaced(letters, &[("ä", 'a'), ("ö", 'o'), ("ü", 'u')])
}

fn case_endings(word: &mut Word) {
    let Some(ending) = word.longest(&["em", "ern", "er", "e", "en", "es", "s"]) else { return };
    if ending == "s" && !word.before("s").is_some_and(|letter| "bdfghklmnrt".contains(letter)) {
        return;
    }
    if word.cut_within(word.r1, ending) && matches!(ending, "e" | "en" | "es") && word.ends("niss") {
        word.cut("s");
    }
}

fn comparison(word: &mut Word) {
    let Some(ending) = word.longest(&["en", "er", "est", "st"]) else { return };
    if ending == "st" {
        let fits = word.before("st").is_some_and(|letter| "bdfghklmnt".contains(letter));
        if !fits || word.letters.len() < 6 {
            return;
        }
    }
    word.cut_within(word.r1, ending);
}

fn derivation(word: &mut Word) {
    let Some(ending) = word.longest(&["end", "ung", "ig", "ik", "isch", "lich", "heit", "keit"]) else {
        return;
    };
    let behind_e = word.before(ending) == Some('e');
    if matches!(ending, "ig" | "ik" | "isch") && behind_e || !word.cut_within(word.r2, ending) {
        return;
    }
    match ending {
        "end" | "ung" if word.ends("ig") && word.before("ig") != Some('e') => {
            word.cut_within(word.r2, "ig");
        }
        "lich" | "heit" => {
            word.cut_any_within(word.r1, &["er", "en"]);
        }
        "keit" => {
            word.cut_any_within(word.r2, &["lich", "ig"]);
        }
        _ => {}
    }
}

#[cfg(test)]
mod tests {
    use super::german;

    #[test]
    fn words_have_their_stems() {
        for (word, stem) in [
            ("aufeinander", "aufeinand"),
            ("kategorie", "kategori"),
            ("kategorien", "kategori"),
            ("kategorischer", "kategor"),
            ("kategorische", "kategor"),
            ("häuser", "haus"),
            ("hauses", "haus"),
            ("freundlich", "freundlich"),
            ("freundlichkeit", "freundlich"),
            ("zeitung", "zeitung"),
            ("zeitungen", "zeitung"),
            ("möglichkeiten", "moglich"),
            ("spielst", "spiel"),
            ("spielen", "spiel"),
            ("kenntnisse", "kenntnis"),
            ("kenntnis", "kenntnis"),
            ("größte", "grosst"),
        ] {
            assert_eq!(german(word), stem, "{word}");
        }
    }
}
