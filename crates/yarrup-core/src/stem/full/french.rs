use super::Word;

const VOWELS: &str = "aeiouyâàëéêèïîôûù";

/// The full French stem of `word`. Expects small letters.
pub(crate) fn french(word: &str) -> String {
    let is_vowel = |letter: Option<char>| letter.is_some_and(|letter| VOWELS.contains(letter));
    let letters = super::marked(word, |before, letter, after| match letter {
        'u' if before == Some('q') => true,
        'u' | 'i' => is_vowel(before) && is_vowel(after),
        'y' => is_vowel(before) || is_vowel(after),
        _ => false,
    });
    let mut word = Word::of(letters, VOWELS);
    word.rv = verb_region(&word);
    let before = word.letters.clone();
    let step_1 = derivation(&mut word);
    let altered = match step_1 {
        Some(Ended::Adverb) | None => verb_in_i(&mut word) || verb(&mut word) || step_1.is_some(),
        Some(Ended::Other) => true,
    };
    if altered && word.letters != before {
        match word.letters.last() {
            Some('Y') => word.put("Y", "i"),
            Some('ç') => word.put("ç", "c"),
            _ => {}
        }
    } else {
        residue(&mut word);
    }
    if word.longest(&["enn", "onn", "ett", "ell", "eill"]).is_some() {
        word.letters.pop();
    }
    let last_vowel = (0..word.letters.len()).rev().find(|&at| word.is_vowel(at));
    if let Some(at) = last_vowel.filter(|at| at + 1 < word.letters.len())
        && matches!(word.letters[at], 'é' | 'è')
    {
        word.letters[at] = 'e';
    }
    word.letters.into_iter().map(|letter| letter.to_ascii_lowercase()).collect()
}

/// Behind the third letter, if the word begins with two vowels or with `par`, `col`, `tap`; else behind the first vowel that does not begin it.
fn verb_region(word: &Word) -> usize {
    let length = word.letters.len();
    let begins = |start: &str| word.letters.iter().copied().take(3).eq(start.chars());
    if (word.is_vowel(0) && word.is_vowel(1)) || ["par", "col", "tap"].into_iter().any(begins) {
        return length.min(3);
    }
    (1..length).find(|&at| word.is_vowel(at)).map_or(length, |at| at + 1)
}

/// What the first step took off.
enum Ended {
    /// `-amment`, `-emment`, `-ment`: the endings of verbs are looked for as well.
    Adverb,
    Other,
}

fn derivation(word: &mut Word) -> Option<Ended> {
    let ending = word.longest(&[
        "ance",
        "iqUe",
        "isme",
        "able",
        "iste",
        "eux",
        "ances",
        "iqUes",
        "ismes",
        "ables",
        "istes",
        "atrice",
        "ateur",
        "ation",
        "atrices",
        "ateurs",
        "ations",
        "logie",
        "logies",
        "usion",
        "ution",
        "usions",
        "utions",
        "ence",
        "ences",
        "ement",
        "ements",
        "ité",
        "ités",
        "if",
        "ive",
        "ifs",
        "ives",
        "eaux",
        "aux",
        "euse",
        "euses",
        "issement",
        "issements",
        "amment",
        "emment",
        "ment",
        "ments",
    ])?;
    let (rv, r1, r2) = (word.rv, word.r1, word.r2);
    let put = |word: &mut Word, region: usize, other: &str| {
        word.put_within(region, ending, other).then_some(Ended::Other)
    };
    match ending {
        "logie" | "logies" => put(word, r2, "log"),
        "usion" | "ution" | "usions" | "utions" => put(word, r2, "u"),
        "ence" | "ences" => put(word, r2, "ent"),
        "eaux" => put(word, 0, "eau"),
        "aux" => put(word, r1, "al"),
        "euse" | "euses" => put(word, r2, "").or_else(|| put(word, r1, "eux")),
        "amment" | "emment" => {
            let adverb = if ending == "amment" { "ant" } else { "ent" };
            put(word, rv, adverb).map(|_| Ended::Adverb)
        }
        "ment" | "ments" => {
            let at = word.letters.len() - ending.len();
            let fits = at > rv && word.is_vowel(at - 1);
            if fits {
                word.cut(ending);
            }
            fits.then_some(Ended::Adverb)
        }
        "issement" | "issements" => {
            let at = word.letters.len() - ending.len();
            let fits = at > 0 && !word.is_vowel(at - 1);
            if fits { put(word, r1, "") } else { None }
        }
        "ement" | "ements" => {
            put(word, rv, "")?;
            if word.ends("iv") {
                if word.cut_within(r2, "iv") {
                    word.cut_within(r2, "at");
                }
            } else if word.ends("eus") {
                if !word.cut_within(r2, "eus") && word.within(r1, "eus") {
                    word.put("eus", "eux");
                }
            } else if !word.cut_any_within(r2, &["abl", "iqU"])
                && let Some(ending) = word.longest_within(rv, &["ièr", "Ièr"])
            {
                word.put(ending, "i");
            }
            Some(Ended::Other)
        }
        _ if !word.cut_within(r2, ending) => None,
        "atrice" | "ateur" | "ation" | "atrices" | "ateurs" | "ations" => {
            cut_or_put(word, r2, "ic", "iqU");
            Some(Ended::Other)
        }
        "ité" | "ités" => {
            if word.ends("abil") {
                cut_or_put(word, r2, "abil", "abl");
            } else if word.ends("ic") {
                cut_or_put(word, r2, "ic", "iqU");
            } else {
                word.cut_within(r2, "iv");
            }
            Some(Ended::Other)
        }
        "if" | "ive" | "ifs" | "ives" => {
            if word.cut_within(r2, "at") {
                cut_or_put(word, r2, "ic", "iqU");
            }
            Some(Ended::Other)
        }
        _ => Some(Ended::Other),
    }
}

/// Takes an ending off that stands within a region, and puts another in its place where it does not.
fn cut_or_put(word: &mut Word, region: usize, ending: &str, other: &str) {
    if word.ends(ending) && !word.cut_within(region, ending) {
        word.put(ending, other);
    }
}

/// Whether an ending was taken off.
fn verb_in_i(word: &mut Word) -> bool {
    let ending = word.longest_within(
        word.rv,
        &[
            "îmes", "ît", "îtes", "i", "ie", "ies", "ir", "ira", "irai", "iraIent", "irais", "irait", "iras",
            "irent", "irez", "iriez", "irions", "irons", "iront", "is", "issaIent", "issais", "issait",
            "issant", "issante", "issantes", "issants", "isse", "issent", "isses", "issez", "issiez",
            "issions", "issons", "it",
        ],
    );
    let Some(ending) = ending else { return false };
    let at = word.letters.len() - ending.chars().count();
    let fits = at > word.rv && !word.is_vowel(at - 1);
    if fits {
        word.cut(ending);
    }
    fits
}

/// Whether an ending was taken off.
fn verb(word: &mut Word) -> bool {
    let ending = word.longest_within(
        word.rv,
        &[
            "ions", "é", "ée", "ées", "és", "èrent", "er", "era", "erai", "eraIent", "erais", "erait",
            "eras", "erez", "eriez", "erions", "erons", "eront", "ez", "iez", "âmes", "ât", "âtes", "a",
            "ai", "aIent", "ais", "ait", "ant", "ante", "antes", "ants", "as", "asse", "assent", "asses",
            "assiez", "assions",
        ],
    );
    let Some(ending) = ending else { return false };
    if ending == "ions" {
        return word.cut_within(word.r2, ending);
    }
    word.cut(ending);
    if ending.starts_with(['a', 'â']) {
        word.cut_within(word.rv, "e");
    }
    true
}

fn residue(word: &mut Word) {
    if word.ends("s") && !word.before("s").is_some_and(|letter| "aiouès".contains(letter)) {
        word.cut("s");
    }
    match word.longest_within(word.rv, &["ion", "ier", "ière", "Ier", "Ière", "e"]) {
        Some("ion") => {
            let at = word.letters.len() - 3;
            if word.within(word.r2, "ion") && at > word.rv && matches!(word.letters[at - 1], 's' | 't') {
                word.cut("ion");
            }
        }
        Some("e") => word.cut("e"),
        Some(ending) => word.put(ending, "i"),
        None => {}
    }
}

#[cfg(test)]
mod tests {
    use super::french;

    #[test]
    fn words_have_their_stems() {
        for (word, stem) in [
            ("continu", "continu"),
            ("continuait", "continu"),
            ("continuant", "continu"),
            ("continuation", "continu"),
            ("continuellement", "continuel"),
            ("majestueuse", "majestu"),
            ("majestueux", "majestu"),
            ("majestueusement", "majestu"),
            ("mangeait", "mang"),
            ("manger", "mang"),
            ("mangeons", "mangeon"),
            ("finissent", "fin"),
            ("finir", "fin"),
            ("nationalité", "national"),
            ("heureuses", "heureux"),
            ("journaux", "journal"),
            ("pianistes", "pianist"),
            ("pianiste", "pianist"),
        ] {
            assert_eq!(french(word), stem, "{word}");
        }
    }
}
