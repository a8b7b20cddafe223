//! M. F. Porter (1980), "An algorithm for suffix stripping", Program 14(3), 130-137.
//!
//! The rules are those of the paper. One published departure is in: words of one or two letters are left alone. The
//! two others that the author made later in his own program (`bli` in place of `abli`, and `logi`) are not in.

use crate::stem::{into_word, is_too_short, longest};

/// The stem of `word` by Porter's algorithm of 1980. Expects lower case; other letters than a to z count as consonants.
pub fn porter(word: &str) -> String {
    if is_too_short(word) {
        return word.to_owned();
    }
    let mut word = word.as_bytes().to_vec();
    for step in [step_1a, step_1b, step_1c, step_2, step_3, step_4, step_5a, step_5b] {
        step(&mut word);
    }
    into_word(word)
}

fn is_vowel(word: &[u8], at: usize) -> bool {
    match word[at] {
        b'a' | b'e' | b'i' | b'o' | b'u' => true,
        b'y' => at > 0 && !is_vowel(word, at - 1),
        _ => false,
    }
}

/// The m of the paper: how many times a run of vowels is followed by a run of consonants.
fn measure(stem: &[u8]) -> usize {
    let mut turns = 0;
    let mut after_vowel = false;
    for at in 0..stem.len() {
        let vowel = is_vowel(stem, at);
        turns += usize::from(after_vowel && !vowel);
        after_vowel = vowel;
    }
    turns
}

fn has_vowel(stem: &[u8]) -> bool {
    (0..stem.len()).any(|at| is_vowel(stem, at))
}

fn ends_in_double_consonant(stem: &[u8]) -> bool {
    let n = stem.len();
    n >= 2 && stem[n - 1] == stem[n - 2] && !is_vowel(stem, n - 1)
}

/// The *o of the paper: consonant, vowel, consonant at the end, the last not w, x or y.
fn ends_in_short_syllable(stem: &[u8]) -> bool {
    let n = stem.len();
    n >= 3
        && !is_vowel(stem, n - 3)
        && is_vowel(stem, n - 2)
        && !is_vowel(stem, n - 1)
        && !matches!(stem[n - 1], b'w' | b'x' | b'y')
}

fn put(word: &mut Vec<u8>, suffix: usize, instead: &str) {
    word.truncate(word.len() - suffix);
    word.extend_from_slice(instead.as_bytes());
}

/// Obeys the rule with the longest suffix, if the measure of what stands before it is above `least`.
fn replace_longest(word: &mut Vec<u8>, rules: &[(&'static str, &'static str)], least: usize) {
    if let Some((suffix, instead)) = longest(word, rules)
        && measure(&word[..word.len() - suffix.len()]) > least
    {
        put(word, suffix.len(), instead);
    }
}

fn step_1a(word: &mut Vec<u8>) {
    if let Some((suffix, instead)) = longest(word, &[("sses", "ss"), ("ies", "i"), ("ss", "ss"), ("s", "")]) {
        put(word, suffix.len(), instead);
    }
}

fn step_1b(word: &mut Vec<u8>) {
    let Some((suffix, _)) = longest(word, &[("eed", ()), ("ed", ()), ("ing", ())]) else {
        return;
    };
    let stem = &word[..word.len() - suffix.len()];
    if *suffix == "eed" {
        if measure(stem) > 0 {
            put(word, 1, "");
        }
        return;
    }
    if !has_vowel(stem) {
        return;
    }
    put(word, suffix.len(), "");
    if ["at", "bl", "iz"].iter().any(|end| word.ends_with(end.as_bytes())) {
        word.push(b'e');
    } else if ends_in_double_consonant(word) && !matches!(word.last(), Some(b'l' | b's' | b'z')) {
        put(word, 1, "");
    } else if measure(word) == 1 && ends_in_short_syllable(word) {
        word.push(b'e');
    }
}

fn step_1c(word: &mut Vec<u8>) {
    if word.ends_with(b"y") && has_vowel(&word[..word.len() - 1]) {
        put(word, 1, "i");
    }
}

fn step_2(word: &mut Vec<u8>) {
    replace_longest(
        word,
        &[
            ("ational", "ate"),
            ("tional", "tion"),
            ("enci", "ence"),
            ("anci", "ance"),
            ("izer", "ize"),
            ("abli", "able"),
            ("alli", "al"),
            ("entli", "ent"),
            ("eli", "e"),
            ("ousli", "ous"),
            ("ization", "ize"),
            ("ation", "ate"),
            ("ator", "ate"),
            ("alism", "al"),
            ("iveness", "ive"),
            ("fulness", "ful"),
            ("ousness", "ous"),
            ("aliti", "al"),
            ("iviti", "ive"),
            ("biliti", "ble"),
        ],
        0,
    );
}

fn step_3(word: &mut Vec<u8>) {
    replace_longest(
        word,
        &[
            ("icate", "ic"),
            ("ative", ""),
            ("alize", "al"),
            ("iciti", "ic"),
            ("ical", "ic"),
            ("ful", ""),
            ("ness", ""),
        ],
        0,
    );
}

fn step_4(word: &mut Vec<u8>) {
    const RULES: &[(&str, &str)] = &[
        ("al", ""),
        ("ance", ""),
        ("ence", ""),
        ("er", ""),
        ("ic", ""),
        ("able", ""),
        ("ible", ""),
        ("ant", ""),
        ("ement", ""),
        ("ment", ""),
        ("ent", ""),
        ("ion", ""),
        ("ou", ""),
        ("ism", ""),
        ("ate", ""),
        ("iti", ""),
        ("ous", ""),
        ("ive", ""),
        ("ize", ""),
    ];
    if word.ends_with(b"ion") && !word.ends_with(b"sion") && !word.ends_with(b"tion") {
        return;
    }
    replace_longest(word, RULES, 1);
}

fn step_5a(word: &mut Vec<u8>) {
    if !word.ends_with(b"e") {
        return;
    }
    let stem = &word[..word.len() - 1];
    let m = measure(stem);
    if m > 1 || (m == 1 && !ends_in_short_syllable(stem)) {
        put(word, 1, "");
    }
}

fn step_5b(word: &mut Vec<u8>) {
    // The measure is that of the word with its last l taken off: *d and *L speak of the same stem.
    if word.ends_with(b"ll") && measure(&word[..word.len() - 1]) > 1 {
        put(word, 1, "");
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn after(step: fn(&mut Vec<u8>), word: &str) -> String {
        let mut word = word.as_bytes().to_vec();
        step(&mut word);
        into_word(word)
    }

    /// What the paper prints beside each rule.
    #[test]
    fn the_examples_of_the_paper() {
        type Step = fn(&mut Vec<u8>);
        let table: [(Step, &str); 8] = [
            (step_1a, "caresses caress ponies poni ties ti caress caress cats cat"),
            (
                step_1b,
                "feed feed agreed agree plastered plaster bled bled motoring motor sing sing conflated conflate \
                 troubled trouble sized size hopping hop tanned tan falling fall hissing hiss fizzed fizz \
                 failing fail filing file",
            ),
            (step_1c, "happy happi sky sky"),
            (
                step_2,
                "relational relate conditional condition rational rational valenci valence hesitanci hesitance \
                 digitizer digitize conformabli conformable radicalli radical differentli different vileli vile \
                 analogousli analogous vietnamization vietnamize predication predicate operator operate \
                 feudalism feudal decisiveness decisive hopefulness hopeful callousness callous formaliti formal \
                 sensitiviti sensitive sensibiliti sensible",
            ),
            (
                step_3,
                "triplicate triplic formative form formalize formal electriciti electric electrical electric \
                 hopeful hope goodness good",
            ),
            (
                step_4,
                "revival reviv allowance allow inference infer airliner airlin gyroscopic gyroscop adjustable adjust \
                 defensible defens irritant irrit replacement replac adjustment adjust dependent depend \
                 adoption adopt homologou homolog communism commun activate activ angulariti angular \
                 homologous homolog effective effect bowdlerize bowdler",
            ),
            (step_5a, "probate probat rate rate cease ceas"),
            (step_5b, "controll control roll roll"),
        ];
        for (step, pairs) in table {
            let words: Vec<_> = pairs.split_whitespace().collect();
            for pair in words.chunks(2) {
                assert_eq!(after(step, pair[0]), pair[1], "{}", pair[0]);
            }
        }
    }

    #[test]
    fn the_measures_of_the_paper() {
        for (m, words) in
            [(0, "tr ee tree y by"), (1, "trouble oats trees ivy"), (2, "troubles private oaten orrery")]
        {
            for word in words.split(' ') {
                assert_eq!(measure(word.as_bytes()), m, "{word}");
            }
        }
    }

    #[test]
    fn whole_words() {
        assert_eq!(porter("generalizations"), "gener");
        assert_eq!(porter("oscillators"), "oscil");
        assert_eq!(porter("is"), "is");
        assert_eq!(porter("cafés"), "café");
    }
}
