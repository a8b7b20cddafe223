use super::Word;

/// The full Danish stem of `word`. Expects small letters.
pub(crate) fn danish(word: &str) -> String {
    let mut word = Word::of(word.chars().collect(), "aeiouyæåø");
    word.r1 = word.r1.max(3);
    let ending = word.longest_within(
        word.r1,
        &[
            "hed", "ethed", "ered", "e", "erede", "ende", "erende", "ene", "erne", "ere", "en", "heden",
            "eren", "er", "heder", "erer", "heds", "es", "endes", "erendes", "enes", "ernes", "eres", "ens",
            "hedens", "erens", "ers", "ets", "erets", "et", "eret", "s",
        ],
    );
    if let Some(ending) = ending
        && (ending != "s" || word.before("s").is_some_and(|letter| "abcdfghjklmnoprtvyzå".contains(letter)))
    {
        word.cut(ending);
    }
    consonant_pair(&mut word);
    if word.ends("igst") {
        word.cut("st");
    }
    match word.longest_within(word.r1, &["ig", "lig", "elig", "els", "løst"]) {
        Some("løst") => word.put("løst", "løs"),
        Some(ending) => {
            word.cut(ending);
            consonant_pair(&mut word);
        }
        None => {}
    }
    if let [.., one, two] = word.letters[..]
        && one == two
        && word.letters.len() > word.r1
        && !word.is_vowel(word.letters.len() - 1)
    {
        word.letters.pop();
    }
    word.text()
}

fn consonant_pair(word: &mut Word) {
    if word.longest_within(word.r1, &["gd", "dt", "gt", "kt"]).is_some() {
        word.letters.pop();
    }
}

#[cfg(test)]
mod tests {
    use super::danish;

    #[test]
    fn words_have_their_stems() {
        for (word, stem) in [
            ("indtager", "indtag"),
            ("indtagende", "indtag"),
            ("undersøgelser", "undersøg"),
            ("undersøgelsen", "undersøg"),
            ("bilerne", "bil"),
            ("biler", "bil"),
            ("bil", "bil"),
            ("arbejdsløst", "arbejdsløs"),
            ("hoppede", "hopped"),
        ] {
            assert_eq!(danish(word), stem, "{word}");
        }
    }
}
