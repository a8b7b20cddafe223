use super::Word;

/// The full Swedish stem of `word`. Expects small letters.
pub(crate) fn swedish(word: &str) -> String {
    let mut word = Word::of(word.chars().collect(), "aeiouyäåö");
    word.r1 = word.r1.max(3);
    let ending = word.longest_within(
        word.r1,
        &[
            "a", "arna", "erna", "heterna", "orna", "ad", "e", "ade", "ande", "arne", "are", "aste", "en",
            "anden", "aren", "heten", "ern", "ar", "er", "heter", "or", "as", "arnas", "ernas", "ornas",
            "es", "ades", "andes", "ens", "arens", "hetens", "erns", "at", "andet", "het", "ast", "s",
        ],
    );
    if let Some(ending) = ending
        && (ending != "s" || word.before("s").is_some_and(|letter| "bcdfghjklmnoprtvy".contains(letter)))
    {
        word.cut(ending);
    }
    if word.longest_within(word.r1, &["dd", "gd", "nn", "dt", "gt", "kt", "tt"]).is_some() {
        word.letters.pop();
    }
    match word.longest_within(word.r1, &["lig", "ig", "els", "löst", "fullt"]) {
        Some(ending @ ("löst" | "fullt")) => {
            let shorter = &ending[..ending.len() - 1];
            word.put(ending, shorter);
        }
        Some(ending) => word.cut(ending),
        None => {}
    }
    word.text()
}

#[cfg(test)]
mod tests {
    use super::swedish;

    #[test]
    fn words_have_their_stems() {
        for (word, stem) in [
            ("flicka", "flick"),
            ("flickor", "flick"),
            ("flickorna", "flick"),
            ("jaktkarlarne", "jaktkarl"),
            ("jaktkarlens", "jaktkarl"),
            ("möjligheter", "möj"),
            ("arbetade", "arbet"),
            ("arbetar", "arbet"),
            ("klokast", "klok"),
            ("arbetslöst", "arbetslös"),
        ] {
            assert_eq!(swedish(word), stem, "{word}");
        }
    }
}
