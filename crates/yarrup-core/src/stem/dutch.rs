//! M. F. Porter (2001), "The Dutch stemming algorithm", after W. Kraaij and R. Pohlmann (1994), "Porter's stemming algorithm for Dutch".

/// The Dutch stem of `word`. Expects lower case; accents on vowels go.
pub fn dutch(word: &str) -> String {
    let mut word = Word::begin(word);
    word.step_1();
    let dropped_e = word.step_2();
    word.step_3a();
    word.step_3b(dropped_e);
    word.step_4();
    word.letters
        .into_iter()
        .map(|letter| match letter {
            'I' => 'i',
            'Y' => 'y',
            other => other,
        })
        .collect()
}

struct Word {
    letters: Vec<char>,
    /// Where the regions R1 and R2 begin.
    r1: usize,
    r2: usize,
}

fn is_vowel(letter: char) -> bool {
    "aeiouyè".contains(letter)
}

impl Word {
    fn begin(word: &str) -> Word {
        let mut letters: Vec<char> = word
            .chars()
            .map(|letter| match letter {
                'ä' | 'á' => 'a',
                'ë' | 'é' => 'e',
                'ï' | 'í' => 'i',
                'ö' | 'ó' => 'o',
                'ü' | 'ú' => 'u',
                other => other,
            })
            .collect();
        // Capitals mark a y and an i that count as consonants.
        for at in 0..letters.len() {
            let before = at.checked_sub(1).map(|before| letters[before]);
            let follows_vowel = before.is_some_and(is_vowel);
            match letters[at] {
                'y' if at == 0 || follows_vowel => letters[at] = 'Y',
                'i' if follows_vowel && letters.get(at + 1).copied().is_some_and(is_vowel) => {
                    letters[at] = 'I';
                }
                _ => {}
            }
        }
        let region = |from: usize| {
            let found =
                (from + 1..letters.len()).find(|&at| !is_vowel(letters[at]) && is_vowel(letters[at - 1]));
            found.map_or(letters.len(), |at| at + 1)
        };
        let r1 = region(0);
        let r2 = region(r1);
        Word { r1: r1.max(3), r2, letters }
    }

    fn ends(&self, ending: &str) -> bool {
        let length = ending.chars().count();
        length <= self.letters.len()
            && self.letters[self.letters.len() - length..].iter().copied().eq(ending.chars())
    }

    /// Whether an ending lies in a region.
    fn within(&self, region: usize, ending: &str) -> bool {
        self.ends(ending) && self.letters.len() - ending.chars().count() >= region
    }

    fn cut(&mut self, count: usize) {
        self.letters.truncate(self.letters.len() - count);
    }

    /// The letter before an ending of this length.
    fn before(&self, length: usize) -> Option<char> {
        self.letters.len().checked_sub(length + 1).map(|at| self.letters[at])
    }

    fn undouble(&mut self) {
        if ["kk", "dd", "tt"].iter().any(|double| self.ends(double)) {
            self.cut(1);
        }
    }

    /// Takes `-en` or `-ene` off behind a consonant, but not behind `gem`.
    fn cut_en(&mut self, length: usize) {
        let stem = &self.letters[..self.letters.len() - length];
        if stem.last().is_some_and(|last| !is_vowel(*last)) && !stem.ends_with(&['g', 'e', 'm']) {
            self.cut(length);
            self.undouble();
        }
    }

    fn step_1(&mut self) {
        if self.ends("heden") {
            if self.within(self.r1, "heden") {
                self.cut(5);
                self.letters.extend("heid".chars());
            }
        } else if let Some(ending) = ["ene", "en"].into_iter().find(|ending| self.ends(ending)) {
            if self.within(self.r1, ending) {
                self.cut_en(ending.len());
            }
        } else if let Some(ending) = ["se", "s"].into_iter().find(|ending| self.ends(ending)) {
            let valid = self.before(ending.len()).is_some_and(|letter| !is_vowel(letter) && letter != 'j');
            if self.within(self.r1, ending) && valid {
                self.cut(ending.len());
            }
        }
    }

    /// Whether an e was dropped.
    fn step_2(&mut self) -> bool {
        let drops = self.within(self.r1, "e") && self.before(1).is_some_and(|letter| !is_vowel(letter));
        if drops {
            self.cut(1);
            self.undouble();
        }
        drops
    }

    fn step_3a(&mut self) {
        if self.within(self.r2, "heid") && self.before(4) != Some('c') {
            self.cut(4);
            if self.within(self.r1, "en") {
                self.cut_en(2);
            }
        }
    }

    fn step_3b(&mut self, dropped_e: bool) {
        let endings = ["lijk", "baar", "end", "ing", "bar", "ig"];
        let Some(ending) = endings.into_iter().find(|ending| self.ends(ending)) else { return };
        if !self.within(self.r2, ending) {
            return;
        }
        match ending {
            "end" | "ing" => {
                self.cut(3);
                if self.within(self.r2, "ig") && self.before(2) != Some('e') {
                    self.cut(2);
                } else {
                    self.undouble();
                }
            }
            "ig" => {
                if self.before(2) != Some('e') {
                    self.cut(2);
                }
            }
            "lijk" => {
                self.cut(4);
                self.step_2();
            }
            "baar" => self.cut(4),
            _ => {
                if dropped_e {
                    self.cut(3);
                }
            }
        }
    }

    /// `maan` and `manen` come together: a double vowel between two consonants at the end becomes single.
    fn step_4(&mut self) {
        if let [.., before, one, two, last] = self.letters[..]
            && one == two
            && "aeou".contains(one)
            && !is_vowel(before)
            && !is_vowel(last)
            && last != 'I'
        {
            let at = self.letters.len() - 2;
            self.letters.remove(at);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn forms_of_a_word_come_together() {
        for (form, stem) in [
            ("lichamelijke", "licham"),
            ("lichamelijkheden", "licham"),
            ("maan", "man"),
            ("manen", "man"),
            ("vogels", "vogel"),
            ("nesten", "nest"),
            ("katten", "kat"),
            ("opglimmende", "opglimm"),
            ("opgevoed", "opgevoed"),
            ("", ""),
            ("en", "en"),
        ] {
            assert_eq!(dutch(form), stem, "{form}");
        }
    }
}
