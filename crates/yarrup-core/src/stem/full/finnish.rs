use super::Word;

const VOWELS: &str = "aeiouyäö";
/// Vowels that stand doubled in a long syllable.
const LONG: [&str; 7] = ["aa", "ee", "ii", "oo", "uu", "ää", "öö"];

/// The full Finnish stem of `word`. Expects small letters.
pub(crate) fn finnish(word: &str) -> String {
    let mut word = Word::of(word.chars().collect(), VOWELS);
    particle(&mut word);
    possessive(&mut word);
    let had_case = case(&mut word);
    comparison(&mut word);
    if had_case {
        let r1 = word.r1;
        let _ = word.cut_within(r1, "i") || word.cut_within(r1, "j");
    } else {
        plural(&mut word);
    }
    tidy(&mut word);
    word.text()
}

/// Whether the letters before an ending end with one of these.
fn stands_behind(word: &Word, ending: &str, before: &[&str]) -> bool {
    let kept = word.letters.len() - ending.chars().count();
    before.iter().any(|before| super::ends(&word.letters[..kept], before))
}

fn is_vowel_before(word: &Word, ending: &str) -> bool {
    word.before(ending).is_some_and(|letter| VOWELS.contains(letter))
}

fn particle(word: &mut Word) {
    let endings = ["kin", "kaan", "kään", "ko", "kö", "han", "hän", "pa", "pä", "sti"];
    match word.longest_within(word.r1, &endings) {
        Some("sti") => {
            word.cut_within(word.r2, "sti");
        }
        Some(ending) if matches!(word.before(ending), Some('n' | 't')) || is_vowel_before(word, ending) => {
            word.cut(ending);
        }
        _ => {}
    }
}

fn possessive(word: &mut Word) {
    let Some(ending) =
        word.longest_within(word.r1, &["si", "ni", "nsa", "nsä", "mme", "nne", "an", "än", "en"])
    else {
        return;
    };
    let goes = match ending {
        "si" => word.before(ending) != Some('k'),
        "an" => stands_behind(word, ending, &["ta", "ssa", "sta", "lla", "lta", "na"]),
        "än" => stands_behind(word, ending, &["tä", "ssä", "stä", "llä", "ltä", "nä"]),
        "en" => stands_behind(word, ending, &["lle", "ine"]),
        _ => true,
    };
    if goes {
        word.cut(ending);
        if ending == "ni" && word.ends("kse") {
            word.put("kse", "ksi");
        }
    }
}

/// Whether an ending was taken off.
fn case(word: &mut Word) -> bool {
    let ending = word.longest_within(
        word.r1,
        &[
            "han", "hen", "hin", "hon", "hän", "hön", "siin", "den", "tten", "seen", "a", "ä", "tta", "ttä",
            "ta", "tä", "ssa", "ssä", "sta", "stä", "lla", "llä", "lta", "ltä", "lle", "na", "nä", "ksi",
            "ine", "n",
        ],
    );
    let Some(ending) = ending else { return false };
    let goes = match ending {
        "han" | "hen" | "hin" | "hon" | "hän" | "hön" => word.before(ending) == ending.chars().nth(1),
        "siin" | "den" | "tten" => {
            let at = word.letters.len() - ending.chars().count();
            at > 1 && word.letters[at - 1] == 'i' && word.is_vowel(at - 2)
        }
        "seen" => stands_behind(word, ending, &LONG),
        "a" | "ä" => {
            let at = word.letters.len() - 1;
            at > 1 && word.is_vowel(at - 1) && !word.is_vowel(at - 2)
        }
        "tta" | "ttä" => word.before(ending) == Some('e'),
        _ => true,
    };
    if !goes {
        return false;
    }
    word.cut(ending);
    if ending == "n" && (word.longest(&LONG).is_some() || word.ends("ie")) {
        word.letters.pop();
    }
    true
}

fn comparison(word: &mut Word) {
    let endings = [
        "mpi", "mpa", "mpä", "mmi", "mma", "mmä", "impi", "impa", "impä", "immi", "imma", "immä", "eja",
        "ejä",
    ];
    if let Some(ending) = word.longest_within(word.r2, &endings)
        && (ending.len() > 4 || ending.starts_with('e') || !stands_behind(word, ending, &["po"]))
    {
        word.cut(ending);
    }
}

fn plural(word: &mut Word) {
    if !word.within(word.r1, "t") || !is_vowel_before(word, "t") {
        return;
    }
    word.cut("t");
    if let Some(ending) = word.longest_within(word.r2, &["mma", "imma"])
        && (ending == "imma" || !stands_behind(word, ending, &["po"]))
    {
        word.cut(ending);
    }
}

fn tidy(word: &mut Word) {
    let r1 = word.r1;
    if word.longest_within(r1, &LONG).is_some() {
        word.letters.pop();
    }
    let last = word.letters.len();
    if last >= r1 + 2
        && !word.is_vowel(last - 2)
        && word.letters.last().is_some_and(|letter| "aäei".contains(*letter))
    {
        word.letters.pop();
    }
    if word.within(r1, "oj") || word.within(r1, "uj") {
        word.letters.pop();
    }
    if word.within(r1, "jo") {
        word.letters.pop();
    }
    // A double consonant at the end, whatever vowels follow, becomes single.
    let consonants = (0..word.letters.len()).rev().find(|&at| !word.is_vowel(at));
    if let Some(at) = consonants.filter(|&at| at > 0 && word.letters[at - 1] == word.letters[at]) {
        word.letters.remove(at);
    }
}

#[cfg(test)]
mod tests {
    use super::finnish;

    #[test]
    fn words_have_their_stems() {
        for (word, stem) in [
            ("talo", "talo"),
            ("talossa", "talo"),
            ("talosta", "talo"),
            ("talon", "talo"),
            ("talot", "talo"),
            ("taloissa", "talo"),
            ("edeltänyt", "edeltäny"),
            ("kirjassa", "kirj"),
            ("kirjan", "kirj"),
            ("innostuessaan", "innostue"),
            ("eläkkeessä", "eläk"),
            ("puhelimella", "puhelim"),
        ] {
            assert_eq!(finnish(word), stem, "{word}");
        }
    }
}
