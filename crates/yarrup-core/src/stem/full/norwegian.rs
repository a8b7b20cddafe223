use super::Word;

/// The full Norwegian stem of `word`, for Bokmål. Expects small letters.
pub(crate) fn norwegian(word: &str) -> String {
    let mut word = Word::of(word.chars().collect(), "aeiouyæåø");
    word.r1 = word.r1.max(3);
    let ending = word.longest_within(
        word.r1,
        &[
            "a", "e", "ede", "ande", "ende", "ane", "ene", "hetene", "en", "heten", "ar", "er", "heter",
            "as", "es", "edes", "endes", "enes", "hetenes", "ens", "hetens", "ers", "ets", "et", "het",
            "ast", "s", "erte", "ert",
        ],
    );
    match ending {
        Some("s") => {
            let valid = match word.before("s") {
                Some('k') => word.letters.len() > 2 && !word.is_vowel(word.letters.len() - 3),
                Some(letter) => "bcdfghjlmnoprtvyz".contains(letter),
                None => false,
            };
            if valid {
                word.cut("s");
            }
        }
        Some(ending @ ("erte" | "ert")) => word.put(ending, "er"),
        Some(ending) => word.cut(ending),
        None => {}
    }
    if word.longest_within(word.r1, &["dt", "vt"]).is_some() {
        word.letters.pop();
    }
    let derived = ["leg", "eleg", "ig", "eig", "lig", "elig", "els", "lov", "elov", "slov", "hetslov"];
    if let Some(ending) = word.longest_within(word.r1, &derived) {
        word.cut(ending);
    }
    word.text()
}

#[cfg(test)]
mod tests {
    use super::norwegian;

    #[test]
    fn words_have_their_stems() {
        for (word, stem) in [
            ("havnedistrikt", "havnedistrikt"),
            ("havnedistriktene", "havnedistrikt"),
            ("havneeffektivt", "havneeffektiv"),
            ("jenter", "jent"),
            ("jentene", "jent"),
            ("jenta", "jent"),
            ("opninga", "opning"),
            ("snakket", "snakk"),
            ("snakker", "snakk"),
        ] {
            assert_eq!(norwegian(word), stem, "{word}");
        }
    }
}
