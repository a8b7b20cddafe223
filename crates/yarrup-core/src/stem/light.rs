//! Light stemmers: endings of number, gender and case go, derivations stay. Each language's rules are those of its publication:
//!
//! - German, French, Portuguese: J. Savoy (2006), "Light stemming approaches for the French, Portuguese, German and Hungarian languages",
//!   *SAC '06*, 1031–1035;
//! - Spanish, Italian: J. Savoy (2002), "Report on CLEF-2001 experiments", and the rules published with it;
//! - Swedish: J. Savoy (2003), "Report on CLEF-2003 monolingual tracks", and the rules published with it;
//! - Russian: L. Dolamic and J. Savoy (2009), "Indexing and searching strategies for the Russian language", *JASIST* 60(12), 2540–2547.
//!
//! All expect small letters and count letters, not bytes.

/// A word that is being stemmed, letter by letter.
struct Word(Vec<char>);

impl Word {
    fn of(word: &str) -> Word {
        Word(word.chars().collect())
    }

    fn len(&self) -> usize {
        self.0.len()
    }

    /// The letter at this place from the end; 1 is the last.
    fn back(&self, place: usize) -> Option<char> {
        self.0.len().checked_sub(place).and_then(|at| self.0.get(at)).copied()
    }

    fn set(&mut self, place: usize, letter: char) {
        if let Some(at) = self.0.len().checked_sub(place) {
            self.0[at] = letter;
        }
    }

    fn ends(&self, ending: &str) -> bool {
        let letters = ending.chars().count();
        letters <= self.len() && self.0[self.len() - letters..].iter().copied().eq(ending.chars())
    }

    fn ends_any(&self, endings: &[&str]) -> bool {
        endings.iter().any(|ending| self.ends(ending))
    }

    fn cut(&mut self, letters: usize) {
        self.0.truncate(self.len().saturating_sub(letters));
    }

    fn put(&mut self, cut: usize, letters: &str) {
        self.cut(cut);
        self.0.extend(letters.chars());
    }

    fn bare(&mut self, table: &[(&str, char)]) {
        for letter in &mut self.0 {
            if let Some((_, bare)) = table.iter().find(|(accented, _)| accented.contains(*letter)) {
                *letter = *bare;
            }
        }
    }

    fn text(self) -> String {
        self.0.into_iter().collect()
    }
}

/// The German light stem of `word`.
pub fn german(word: &str) -> String {
    let may_stand_before_s =
        |letter: Option<char>| letter.is_some_and(|letter| "bdfghklmnt".contains(letter));
    let mut word = Word::of(word);
    word.bare(&[("äàáâ", 'a'), ("öòóô", 'o'), ("ïìíî", 'i'), ("üùúû", 'u')]);
    if word.len() > 5 && word.ends("ern") {
        word.cut(3);
    } else if word.len() > 4 && word.ends_any(&["em", "en", "er", "es"]) {
        word.cut(2);
    } else if word.len() > 3 && (word.ends("e") || (word.ends("s") && may_stand_before_s(word.back(2)))) {
        word.cut(1);
    }
    if word.len() > 5 && word.ends("est") {
        word.cut(3);
    } else if word.len() > 4
        && (word.ends_any(&["er", "en"]) || (word.ends("st") && may_stand_before_s(word.back(3))))
    {
        word.cut(2);
    }
    word.text()
}

/// The French light stem of `word`.
pub fn french(word: &str) -> String {
    let mut word = Word::of(word);
    if word.len() > 5 && word.ends("x") {
        if word.ends("aux") && word.back(4) != Some('e') {
            word.set(2, 'l');
        }
        word.cut(1);
    }
    for ending in ["x", "s"] {
        if word.len() > 3 && word.ends(ending) {
            word.cut(1);
        }
    }
    french_derivation(&mut word);
    // Letters without their accents, double letters single, and the endings of verbs and adjectives.
    if word.len() > 4 {
        word.bare(&[("àáâ", 'a'), ("ô", 'o'), ("èéê", 'e'), ("ùû", 'u'), ("î", 'i'), ("ç", 'c')]);
        word.0.dedup_by(|next, before| next == before && next.is_alphabetic());
    }
    if word.len() > 4 && word.ends("ie") {
        word.cut(2);
    }
    if word.len() > 4 {
        for ending in ["r", "e", "e"] {
            if word.ends(ending) {
                word.cut(1);
            }
        }
        if word.back(1) == word.back(2) && word.back(1).is_some_and(char::is_alphabetic) {
            word.cut(1);
        }
    }
    word.text()
}

/// Takes one of the commonest derivations off, or brings it to one shape.
fn french_derivation(word: &mut Word) {
    let length = word.len();
    let fits = |word: &Word, least: usize, ending: &str| length > least && word.ends(ending);
    if fits(word, 9, "issement") {
        word.put(7, "r");
    } else if fits(word, 8, "issant") {
        word.put(5, "r");
    } else if fits(word, 6, "ement") {
        word.cut(4);
        if word.len() > 3 && word.ends("ive") {
            word.put(2, "f");
        }
    } else if fits(word, 11, "ficatrice") {
        word.put(7, "er");
    } else if fits(word, 10, "ficateur") {
        word.put(6, "er");
    } else if fits(word, 9, "catrice") {
        word.put(7, "quer");
    } else if fits(word, 8, "cateur") {
        word.put(6, "quer");
    } else if fits(word, 8, "atrice") {
        word.put(6, "er");
    } else if fits(word, 7, "ateur") {
        word.put(5, "er");
    } else {
        if fits(word, 6, "trice") {
            word.put(4, "eur");
        }
        french_adjective(word);
    }
}

fn french_adjective(word: &mut Word) {
    let fits = |word: &Word, least: usize, ending: &str| word.len() > least && word.ends(ending);
    if fits(word, 5, "ième") {
        word.cut(4);
    } else if fits(word, 7, "teuse") {
        word.put(3, "r");
    } else if fits(word, 6, "teur") {
        word.put(2, "r");
    } else if fits(word, 5, "euse") {
        word.cut(2);
    } else if fits(word, 8, "ère") {
        word.put(3, "er");
    } else if fits(word, 7, "ive") {
        word.put(2, "f");
    } else if fits(word, 4, "folle") || fits(word, 4, "molle") {
        word.put(3, "u");
    } else if fits(word, 9, "nnelle") {
        word.cut(5);
    } else if fits(word, 9, "nnel") {
        word.cut(3);
    } else {
        if fits(word, 4, "ète") {
            word.put(3, "et");
        }
        if fits(word, 8, "ique") {
            word.cut(4);
        }
        if fits(word, 8, "esse") || fits(word, 7, "inage") {
            word.cut(3);
        } else if fits(word, 9, "isation") {
            word.cut(7);
            if word.len() > 5 && word.ends("ual") {
                word.set(2, 'e');
            }
        } else if fits(word, 9, "isateur") {
            word.cut(7);
        } else if fits(word, 8, "ation") || fits(word, 8, "ition") {
            word.cut(5);
        }
    }
}

const ROMANCE: &[(&str, char)] = &[("àáâä", 'a'), ("òóôö", 'o'), ("èéêë", 'e'), ("ùúûü", 'u'), ("ìíîï", 'i')];

/// The Spanish light stem of `word`.
pub fn spanish(word: &str) -> String {
    let mut word = Word::of(word);
    if word.len() < 5 {
        return word.text();
    }
    word.bare(ROMANCE);
    if word.ends_any(&["o", "a", "e"]) {
        word.cut(1);
    } else if word.ends("eses") {
        word.cut(2);
    } else if word.ends("ces") {
        word.put(3, "z");
    } else if word.ends_any(&["os", "as", "es"]) {
        word.cut(2);
    }
    word.text()
}

/// The Italian light stem of `word`.
pub fn italian(word: &str) -> String {
    let mut word = Word::of(word);
    if word.len() < 6 {
        return word.text();
    }
    word.bare(ROMANCE);
    if word.ends_any(&["ie", "he", "hi", "ii", "ia", "io"]) {
        word.cut(2);
    } else if word.ends_any(&["e", "i", "a", "o"]) {
        word.cut(1);
    }
    word.text()
}

/// The Portuguese light stem of `word`.
pub fn portuguese(word: &str) -> String {
    let mut word = Word::of(word);
    if word.len() < 4 {
        return word.text();
    }
    portuguese_plural(&mut word);
    if word.len() > 3 && word.ends("a") {
        portuguese_feminine(&mut word);
    }
    if word.len() > 4 && word.ends_any(&["e", "a", "o"]) {
        word.cut(1);
    }
    word.bare(&[("àáâäã", 'a'), ("òóôöõ", 'o'), ("èéêë", 'e'), ("ùúûü", 'u'), ("ìíîï", 'i'), ("ç", 'c')]);
    word.text()
}

fn portuguese_plural(word: &mut Word) {
    let length = word.len();
    if length > 4 && word.ends_any(&["res", "ses", "les", "zes"]) {
        word.cut(2);
    } else if length > 3 && word.ends("ns") {
        word.put(2, "m");
    } else if length > 4 && word.ends_any(&["eis", "éis"]) {
        word.put(3, "el");
    } else if length > 4 && word.ends("ais") {
        word.put(2, "l");
    } else if length > 4 && word.ends("óis") {
        word.put(3, "ol");
    } else if length > 4 && word.ends("is") {
        word.put(1, "l");
    } else if length > 3 && word.ends_any(&["ões", "ães"]) {
        word.put(3, "ão");
    } else if length > 6 && word.ends("mente") {
        word.cut(5);
    } else if length > 3 && word.ends("s") {
        word.cut(1);
    }
}

fn portuguese_feminine(word: &mut Word) {
    let length = word.len();
    if length > 7 && word.ends_any(&["inha", "iaca", "eira"])
        || length > 6 && word.ends_any(&["osa", "ica", "ida", "ada", "iva", "ama"])
    {
        word.put(1, "o");
    } else if length > 6 && word.ends("ona") {
        word.put(3, "ão");
    } else if length > 6 && word.ends("ora") {
        word.cut(1);
    } else if length > 6 && word.ends("esa") {
        word.put(3, "ês");
    } else if length > 6 && word.ends("na") {
        word.put(1, "o");
    }
}

/// The Swedish light stem of `word`.
pub fn swedish(word: &str) -> String {
    let mut word = Word::of(word);
    if word.len() > 4 && word.ends("s") {
        word.cut(1);
    }
    let length = word.len();
    if length > 7 && word.ends_any(&["elser", "heten"]) {
        word.cut(5);
    } else if length > 6 && word.ends_any(&["arne", "erna", "ande", "else", "aste", "orna", "aren"]) {
        word.cut(4);
    } else if length > 5 && word.ends_any(&["are", "ast", "het"]) {
        word.cut(3);
    } else if length > 4 && word.ends_any(&["ar", "er", "or", "en", "at", "te", "et"]) {
        word.cut(2);
    } else if length > 3 && word.ends_any(&["t", "a", "e", "n"]) {
        word.cut(1);
    }
    word.text()
}

/// The Russian light stem of `word`.
pub fn russian(word: &str) -> String {
    let mut word = Word::of(word);
    let length = word.len();
    let threes = [
        "иям", "иях", "оях", "ями", "оям", "оьв", "ами", "его", "ему", "ери", "ими", "ого", "ому", "ыми",
        "оев",
    ];
    let twos = [
        "ая", "яя", "ях", "юю", "ах", "ею", "их", "ия", "ию", "ьв", "ою", "ую", "ям", "ых", "ея", "ам", "ем",
        "ей", "ём", "ев", "ий", "им", "ое", "ой", "ом", "ов", "ые", "ый", "ым", "ми",
    ];
    if length > 6 && word.ends_any(&["иями", "оями"]) {
        word.cut(4);
    } else if length > 5 && word.ends_any(&threes) {
        word.cut(3);
    } else if length > 4 && word.ends_any(&twos) {
        word.cut(2);
    } else if length > 3 && word.back(1).is_some_and(|last| "аеиоуйыяь".contains(last)) {
        word.cut(1);
    }
    if word.len() > 3 && (word.ends_any(&["ь", "и"]) || word.ends("нн")) {
        word.cut(1);
    }
    word.text()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn forms_of_a_word_come_together() {
        type Case<'c> = (fn(&str) -> String, &'c [&'c str], &'c str);
        let cases: &[Case<'_>] = &[
            (german, &["häuser", "häusern", "haus"], "haus"),
            (german, &["nester", "nestern", "nestes"], "nest"),
            (french, &["chevaux", "cheval"], "cheval"),
            (french, &["oiseaux", "oiseau"], "oiseau"),
            (french, &["grandes", "grande", "grands", "grand"], "grand"),
            (spanish, &["pájaros", "pájaro", "pajaras"], "pajar"),
            (spanish, &["luces"], "luz"),
            (italian, &["uccelli", "uccello"], "uccell"),
            (portuguese, &["corações", "coração"], "coraca"),
            (portuguese, &["animais", "animal"], "animal"),
            (swedish, &["fåglar", "fåglen"], "fågl"),
            (russian, &["птицами", "птица", "птицы"], "птиц"),
        ];
        for (stem, forms, expected) in cases {
            for form in *forms {
                let got = stem(form);
                assert_eq!(got, *expected, "{form}");
            }
        }
    }

    #[test]
    fn short_and_foreign_words_are_no_trouble() {
        for stem in [german, french, spanish, italian, portuguese, swedish, russian] {
            for word in ["", "a", "x", "ß", "鳥", "e\u{301}", "sss", "eee", "aaaaaa"] {
                stem(word);
            }
        }
    }
}
