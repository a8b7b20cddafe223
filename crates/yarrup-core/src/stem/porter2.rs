//! M. F. Porter (2001), "The English (Porter2) stemming algorithm": the description, with its exceptional forms.
//!
//! One departure is in: the curly apostrophe (U+2019) is read as the straight one, so that `warden’s` and `warden's`
//! have the same stem.

use std::borrow::Cow;

use crate::stem::{Rules, into_word, is_too_short};

/// The stem of `word` by Porter's English stemmer of 2001. Expects lower case; other letters than a to z count as
/// consonants. Words of one or two letters are left alone.
pub fn porter2(word: &str) -> String {
    if is_too_short(word) {
        return word.to_owned();
    }
    let first = word.as_bytes().first();
    if let Some((_, stem)) =
        EXCEPTIONS.iter().find(|(form, _)| form.as_bytes().first() == first && *form == word)
    {
        return (*stem).to_owned();
    }
    let mut word = Word::begin(word);
    word.step_0();
    word.step_1a();
    if !KEPT_AFTER_1A.iter().any(|kept| kept.as_bytes() == word.letters) {
        word.step_1b();
        word.step_1c();
        word.step_2();
        word.step_3();
        word.step_4();
        word.step_5();
    }
    for letter in &mut word.letters {
        if *letter == CONSONANT_Y {
            *letter = b'y';
        }
    }
    into_word(word.letters)
}

const EXCEPTIONS: &[(&str, &str)] = &[
    ("skis", "ski"),
    ("skies", "sky"),
    ("dying", "die"),
    ("lying", "lie"),
    ("tying", "tie"),
    ("idly", "idl"),
    ("gently", "gentl"),
    ("ugly", "ugli"),
    ("early", "earli"),
    ("only", "onli"),
    ("singly", "singl"),
    ("sky", "sky"),
    ("news", "news"),
    ("howe", "howe"),
    ("atlas", "atlas"),
    ("cosmos", "cosmos"),
    ("bias", "bias"),
    ("andes", "andes"),
];

const KEPT_AFTER_1A: &[&str] =
    &["inning", "outing", "canning", "herring", "earring", "proceed", "exceed", "succeed"];

/// Words that would be overstemmed: their R1 begins behind these letters.
const LONG_STARTS: &[&str] = &["gener", "commun", "arsen"];

/// Stands for a y that is a consonant. The description writes `Y`; a control character cannot be in the word already.
const CONSONANT_Y: u8 = 0x19;

struct Word {
    letters: Vec<u8>,
    /// Where the regions R1 and R2 begin.
    r1: usize,
    r2: usize,
}

fn is_vowel(letter: u8) -> bool {
    matches!(letter, b'a' | b'e' | b'i' | b'o' | b'u' | b'y')
}

/// Behind the first consonant that follows a vowel, from `start` on.
fn region(letters: &[u8], start: usize) -> usize {
    (start + 1..letters.len())
        .find(|&at| is_vowel(letters[at - 1]) && !is_vowel(letters[at]))
        .map_or(letters.len(), |at| at + 1)
}

impl Word {
    fn begin(word: &str) -> Word {
        let straight = match word.is_ascii() {
            true => Cow::Borrowed(word),
            false => Cow::Owned(word.replace('\u{2019}', "'")),
        };
        let mut letters = straight.strip_prefix('\'').unwrap_or(&straight).as_bytes().to_vec();
        for at in 0..letters.len() {
            if letters[at] == b'y' && (at == 0 || is_vowel(letters[at - 1])) {
                letters[at] = CONSONANT_Y;
            }
        }
        let r1 = match LONG_STARTS.iter().find(|start| letters.starts_with(start.as_bytes())) {
            Some(start) => start.len(),
            None => region(&letters, 0),
        };
        let r2 = region(&letters, r1);
        Word { letters, r1, r2 }
    }

    /// How many letters stand before a suffix of this length.
    fn before(&self, suffix: &str) -> usize {
        self.letters.len() - suffix.len()
    }

    fn put(&mut self, suffix: &str, instead: &str) {
        self.letters.truncate(self.before(suffix));
        self.letters.extend_from_slice(instead.as_bytes());
    }

    fn has_vowel_before(&self, end: usize) -> bool {
        self.letters[..end].iter().any(|&letter| is_vowel(letter))
    }

    /// Whether the first `end` letters end in a short syllable.
    fn ends_in_short_syllable(&self, end: usize) -> bool {
        match self.letters[..end] {
            [vowel, last] => is_vowel(vowel) && !is_vowel(last),
            [.., before, vowel, last] => {
                !is_vowel(before)
                    && is_vowel(vowel)
                    && !is_vowel(last)
                    && !matches!(last, b'w' | b'x' | CONSONANT_Y)
            }
            _ => false,
        }
    }

    fn is_short(&self) -> bool {
        self.r1 >= self.letters.len() && self.ends_in_short_syllable(self.letters.len())
    }

    fn step_0(&mut self) {
        const RULES: Rules<()> = Rules::new(&[("'", ()), ("'s", ()), ("'s'", ())]);
        if let Some((suffix, ())) = RULES.longest(&self.letters) {
            self.put(suffix, "");
        }
    }

    fn step_1a(&mut self) {
        const RULES: Rules<()> =
            Rules::new(&[("sses", ()), ("ied", ()), ("ies", ()), ("us", ()), ("ss", ()), ("s", ())]);
        let Some((suffix, ())) = RULES.longest(&self.letters) else {
            return;
        };
        match *suffix {
            "sses" => self.put(suffix, "ss"),
            "ied" | "ies" => {
                let instead = if self.before(suffix) > 1 { "i" } else { "ie" };
                self.put(suffix, instead);
            }
            "s" if self.before("s") > 0 && self.has_vowel_before(self.before("s") - 1) => self.put("s", ""),
            _ => {}
        }
    }

    fn step_1b(&mut self) {
        const RULES: Rules<()> =
            Rules::new(&[("eedly", ()), ("eed", ()), ("edly", ()), ("ed", ()), ("ingly", ()), ("ing", ())]);
        let Some((suffix, ())) = RULES.longest(&self.letters) else {
            return;
        };
        let before = self.before(suffix);
        if suffix.starts_with("eed") {
            if before >= self.r1 {
                self.put(suffix, "ee");
            }
            return;
        }
        if !self.has_vowel_before(before) {
            return;
        }
        self.put(suffix, "");
        let ends = |ends: &[&str]| ends.iter().any(|end| self.letters.ends_with(end.as_bytes()));
        if ends(&["at", "bl", "iz"]) {
            self.letters.push(b'e');
        } else if ends(&["bb", "dd", "ff", "gg", "mm", "nn", "pp", "rr", "tt"]) {
            self.letters.pop();
        } else if self.is_short() {
            self.letters.push(b'e');
        }
    }

    fn step_1c(&mut self) {
        if let [_, .., before, b'y' | CONSONANT_Y] = self.letters[..]
            && !is_vowel(before)
        {
            self.put("y", "i");
        }
    }

    fn step_2(&mut self) {
        const RULES: Rules<&str> = Rules::new(&[
            ("tional", "tion"),
            ("enci", "ence"),
            ("anci", "ance"),
            ("abli", "able"),
            ("entli", "ent"),
            ("izer", "ize"),
            ("ization", "ize"),
            ("ational", "ate"),
            ("ation", "ate"),
            ("ator", "ate"),
            ("alism", "al"),
            ("aliti", "al"),
            ("alli", "al"),
            ("fulness", "ful"),
            ("ousli", "ous"),
            ("ousness", "ous"),
            ("iveness", "ive"),
            ("iviti", "ive"),
            ("biliti", "ble"),
            ("bli", "ble"),
            ("ogi", "og"),
            ("fulli", "ful"),
            ("lessli", "less"),
            ("li", ""),
        ]);
        let Some((suffix, instead)) = RULES.longest(&self.letters) else {
            return;
        };
        let before = self.before(suffix);
        let preceding = before.checked_sub(1).map(|at| self.letters[at]);
        let allowed = match *suffix {
            "ogi" => preceding == Some(b'l'),
            "li" => preceding.is_some_and(|letter| b"cdeghkmnrt".contains(&letter)),
            _ => true,
        };
        if before >= self.r1 && allowed {
            self.put(suffix, instead);
        }
    }

    fn step_3(&mut self) {
        const RULES: Rules<&str> = Rules::new(&[
            ("tional", "tion"),
            ("ational", "ate"),
            ("alize", "al"),
            ("icate", "ic"),
            ("iciti", "ic"),
            ("ical", "ic"),
            ("ful", ""),
            ("ness", ""),
            ("ative", ""),
        ]);
        let Some((suffix, instead)) = RULES.longest(&self.letters) else {
            return;
        };
        let before = self.before(suffix);
        if before >= self.r1 && (*suffix != "ative" || before >= self.r2) {
            self.put(suffix, instead);
        }
    }

    fn step_4(&mut self) {
        const RULES: Rules<()> = Rules::new(&[
            ("al", ()),
            ("ance", ()),
            ("ence", ()),
            ("er", ()),
            ("ic", ()),
            ("able", ()),
            ("ible", ()),
            ("ant", ()),
            ("ement", ()),
            ("ment", ()),
            ("ent", ()),
            ("ism", ()),
            ("ate", ()),
            ("iti", ()),
            ("ous", ()),
            ("ive", ()),
            ("ize", ()),
            ("ion", ()),
        ]);
        let Some((suffix, ())) = RULES.longest(&self.letters) else {
            return;
        };
        let before = self.before(suffix);
        let allowed = *suffix != "ion" || matches!(self.letters[..before].last(), Some(b's' | b't'));
        if before >= self.r2 && allowed {
            self.put(suffix, "");
        }
    }

    fn step_5(&mut self) {
        let Some(before) = self.letters.len().checked_sub(1) else {
            return;
        };
        let goes = match self.letters[before] {
            b'e' => before >= self.r2 || (before >= self.r1 && !self.ends_in_short_syllable(before)),
            b'l' => before >= self.r2 && self.letters[..before].last() == Some(&b'l'),
            _ => false,
        };
        if goes {
            self.letters.pop();
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// From the sample vocabulary of the description, and the examples beside its rules.
    #[test]
    fn the_examples_of_the_description() {
        let pairs = "consign consign consigned consign consigning consign consignment consign consist consist \
            consisted consist consistency consist consistent consist consistently consist consisting consist \
            consists consist consolation consol consolations consol consolatory consolatori console consol \
            consoled consol consoles consol consolidate consolid consolidated consolid consolidating consolid \
            consoling consol consolingly consol consols consol consonant conson consort consort consorted consort \
            consorting consort conspicuous conspicu conspicuously conspicu conspiracy conspiraci \
            conspirator conspir conspirators conspir conspire conspir conspired conspir conspiring conspir \
            constable constabl constables constabl constance constanc constancy constanc constant constant \
            knack knack knackeries knackeri knacks knack knag knag knave knave knaves knave knavish knavish \
            kneaded knead kneading knead knee knee kneel kneel kneeled kneel kneeling kneel kneels kneel \
            knees knee knell knell knelt knelt knew knew knick knick knif knif knife knife knight knight \
            knightly knight knights knight knit knit knits knit knitted knit knitting knit knives knive knob knob \
            knobs knob knock knock knocked knock knocker knocker knockers knocker knocking knock knocks knock \
            knopp knopp knot knot knots knot \
            ties tie cries cri gas gas this this gaps gap kiwis kiwi luxuriated luxuri hopped hop hoped hope \
            hoping hope cry cri by by say say";
        let words: Vec<_> = pairs.split_whitespace().collect();
        for pair in words.chunks(2) {
            assert_eq!(porter2(pair[0]), pair[1], "{}", pair[0]);
        }
    }

    #[test]
    fn regions_and_exceptional_forms() {
        let regions = |word: &str| {
            let word = Word::begin(word);
            (word.letters.len() - word.r1, word.letters.len() - word.r2)
        };
        assert_eq!(regions("beautiful"), (4, 2));
        assert_eq!(regions("beauty"), (1, 0));
        assert_eq!(regions("beau"), (0, 0));
        assert_eq!(regions("animadversion"), (11, 9));
        assert_eq!(regions("sprinkled"), (4, 0));
        assert_eq!(regions("eucharist"), (6, 3));
        assert_eq!(porter2("skies"), "sky");
        assert_eq!(porter2("generously"), "generous");
        assert_eq!(porter2("communism"), "communism");
        assert_eq!(porter2("inning"), "inning");
        assert_eq!(porter2("exceeding"), "exceed");
    }

    #[test]
    fn apostrophes_go_in_either_shape() {
        for word in ["warden's", "wardens'", "warden\u{2019}s", "'wardens'"] {
            assert_eq!(porter2(word), "warden", "{word}");
        }
        assert_eq!(porter2("at"), "at");
    }
}
