//! A light Turkish stemmer: endings of case, owner and number go from nouns, in the order in which they stand, each at most once. Written for this project
//! after G. Eryiğit and E. Adalı (2004), "An affix stripping morphological analyzer for Turkish", whose order of suffixes it follows; derivation and verbs stay.

const VOWELS: &str = "aeıioöuü";

const CASE: [&str; 38] = [
    "ndan", "nden", "nda", "nde", "dan", "den", "tan", "ten", "nın", "nin", "nun", "nün", "yla", "yle", "da",
    "de", "ta", "te", "ın", "in", "un", "ün", "ya", "ye", "yı", "yi", "yu", "yü", "na", "ne", "nı", "ni",
    "nu", "nü", "la", "le", "ca", "ce",
];
const OWNER: [&str; 28] = [
    "ımız", "imiz", "umuz", "ümüz", "ınız", "iniz", "unuz", "ünüz", "mız", "miz", "muz", "müz", "nız", "niz",
    "nuz", "nüz", "sı", "si", "su", "sü", "ım", "im", "um", "üm", "ın", "in", "un", "ün",
];
/// Endings that many words have as part of themselves: what is left must have two syllables.
const DOUBTFUL: [&str; 18] = [
    "ın", "in", "un", "ün", "ım", "im", "um", "üm", "la", "le", "ca", "ce", "na", "ne", "nı", "ni", "nu",
    "nü",
];

/// The Turkish light stem of `word`. Expects small letters.
pub(super) fn turkish(word: &str) -> String {
    let mut stem = word;
    // `evdeki`: what is in the house.
    if let Some(rest) = stem
        .strip_suffix("ki")
        .filter(|rest| ["da", "de", "ta", "te"].iter().any(|place| rest.ends_with(place)) && vowels(rest) > 1)
    {
        stem = rest;
    }
    stem = without(stem, &CASE);
    // Their things: the vowel behind the plural is the owners'.
    let owned = stem.strip_suffix(['ı', 'i']).filter(|rest| rest.ends_with("lar") || rest.ends_with("ler"));
    stem = owned.unwrap_or_else(|| without(stem, &OWNER));
    stem = without(stem, &["lar", "ler"]);
    let mut letters: Vec<char> = stem.chars().collect();
    // A last vowel is an ending or part of the word, which the word alone does not tell: it goes from both.
    if letters.len() > 2 && letters.last().is_some_and(|last| VOWELS.contains(*last)) && vowels(stem) > 1 {
        letters.pop();
    }
    // `kitap`, `kitabı`.
    if let Some(last) = letters.last_mut().filter(|_| stem.chars().count() > 2) {
        *last = match *last {
            'b' => 'p',
            'c' => 'ç',
            'd' => 't',
            'g' | 'ğ' => 'k',
            other => other,
        };
    }
    letters.into_iter().collect()
}

fn vowels(text: &str) -> usize {
    text.chars().filter(|letter| VOWELS.contains(*letter)).count()
}

/// The word without the longest of these endings after which enough is left.
fn without<'w>(word: &'w str, endings: &[&str]) -> &'w str {
    let rests = endings.iter().filter_map(|ending| {
        let rest = word.strip_suffix(ending)?;
        let least = if DOUBTFUL.contains(ending) { 2 } else { 1 };
        (rest.chars().count() > 1 && vowels(rest) >= least).then_some(rest)
    });
    rests.min_by_key(|rest| rest.len()).unwrap_or(word)
}

#[cfg(test)]
mod tests {
    use super::turkish;

    #[test]
    fn cases_owners_and_plurals_come_together() {
        for (forms, stem) in [
            ("kitap kitabı kitaplar kitaplarımızdan kitabımız kitaplarda", "kitap"),
            ("ev evde evler evlerde evlerinde evdeki evimiz", "ev"),
            ("araba arabalar arabada arabanın arabasında arabayı", "arap"),
            ("göz gözler gözlerim gözlerimde gözden", "göz"),
            ("kadın kadınlar kadınlardan", "kadın"),
            ("ağaç ağacı ağaçlar", "ağaç"),
        ] {
            for form in forms.split(' ') {
                assert_eq!(turkish(form), stem, "{form}");
            }
        }
        for word in ["su", "ada", "o", ""] {
            assert!(turkish(word).chars().count() + 1 >= word.chars().count(), "{word}");
        }
    }
}
