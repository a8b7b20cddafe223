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
    fn forms_come_together() {
        for (words, stem) in [
            ("aufeinander", "aufeinand"),
            ("kategorie kategorien", "kategori"),
            ("kategorischer kategorische", "kategor"),
            ("häuser hauses haus", "haus"),
            ("freundlich freundliche freundlichkeit", "freundlich"),
            ("zeitung zeitungen", "zeitung"),
            ("möglichkeiten möglichkeit", "moglich"),
            ("spielst spielen spielt", "spielt"),
            ("kenntnisse kenntnis", "kenntnis"),
            ("größte", "grosst"),
        ] {
            for word in words.split(' ') {
                let found = german(word);
                assert!(found == stem || stem.starts_with(&found), "{word}: {found}");
            }
        }
        assert_eq!(german("zeitungen"), "zeitung");
        assert_eq!(german("häuser"), "haus");
    }
}
