use std::ops::Range;

use unicode_normalization::char::{decompose_canonical, is_combining_mark};
use unicode_script::{Script, UnicodeScript};

use crate::step::{
    Built, Facts, Form, Key, Operation, Outcome, Rewriter, Settings, SettingsError, Stage, TextStep,
    TokenStep,
};

const LETTERS: Key<bool> = Key::truth("letters", "also changes letters that are not a plain letter with a mark: `ø` to `o`, `ł` to `l`, `ß` to `ss`, `æ` to `ae`, `œ` to `oe`, \
                    `đ` and `ð` to `d`, `þ` to `th`, `ı` to `i`").or("true");

const UMLAUTS: Key<&'static str> = Key::one_of(
    "umlauts",
    &["plain", "e", "keep"],
    "how to write `ä`, `ö`, `ü`: `plain`, as `a`, `o`, `u`; `e`, as `ae`, `oe`, `ue`; `keep`, unchanged",
)
.or("plain");

const EXCEPTIONS: Key<&'static str> = Key::one_of("exceptions", &["none", "language"], "`language`: keeps letters that are separate letters of the language: `ñ` in Spanish, `å ä ö` in Swedish and Finnish, \
                    `æ ø å` in Danish and Norwegian, `ä ö ü` in German, Estonian and Turkish, and so on").or("none");

const KEEP: Key<Vec<String>> = Key::texts("keep", "letters to keep, in upper and lower case");

const LANGUAGE: Key<String> =
    Key::text("language", "the language of the exceptions, if not that of the recipe");

pub(crate) static ACCENTS: Operation = Operation {
    name: "accents",
    stage: Stage::TextOrToken,
    about: "changes letters with diacritics to plain ones: Latin and Greek letters, `ё`, stress marks, Hebrew and Arabic vowel points. Marks that make a different letter (`й`, `が`, the signs of Indic scripts) stay. Doing it twice changes nothing",
    keys: &[&LETTERS.facts, &UMLAUTS.facts, &EXCEPTIONS.facts, &KEEP.facts, &LANGUAGE.facts],
    example: "umlauts = \"e\"\nkeep = [\"ñ\"]",
    roles: &[],
    learns: None,
    build: |settings| {
        let accents = Accents::new(settings)?;
        Ok(Built::TextOrToken(Box::new(accents.clone()), Box::new(accents)))
    },
};

/// Letters that languages count as letters of their own, in lower case.
const OWN_LETTERS: &[(&str, &str)] = &[
    ("es", "ñ"),
    ("gl", "ñ"),
    ("eu", "ñ"),
    ("sv", "åäö"),
    ("fi", "åäö"),
    ("da", "æøå"),
    ("nb", "æøå"),
    ("nn", "æøå"),
    ("no", "æøå"),
    ("is", "áéíóúýðþæö"),
    ("de", "äöü"),
    ("et", "õäöüšž"),
    ("tr", "çğıöşü"),
    ("az", "çəğıöşü"),
    ("hu", "áéíóöőúüű"),
    ("pl", "ąćęłńóśźż"),
    ("cs", "áčďéěíňóřšťúůýž"),
    ("sk", "áäčďéíĺľňóôŕšťúýž"),
    ("sl", "čšž"),
    ("hr", "čćđšž"),
    ("lt", "ąčęėįšųūž"),
    ("lv", "āčēģīķļņšūž"),
    ("ro", "ăâîșț"),
    ("ca", "ç"),
    ("pt", "ç"),
    ("fr", "ç"),
    ("vi", "ăâđêôơư"),
    ("sq", "çë"),
];

#[derive(Clone, Debug)]
struct Accents {
    letters: bool,
    umlauts: Umlauts,
    /// Letters that stay, in both cases.
    keep: Vec<char>,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Umlauts {
    Plain,
    WithE,
    Keep,
}

impl Accents {
    fn new(settings: &Settings) -> Result<Accents, SettingsError> {
        let mut keep: Vec<char> = Vec::new();
        let mut take = |letters: &str| {
            for c in letters.chars() {
                keep.push(c);
                keep.extend(c.to_lowercase());
                keep.extend(c.to_uppercase());
            }
        };
        for letters in settings.get(&KEEP) {
            take(letters);
        }
        if settings.get(&EXCEPTIONS) == Some("language") {
            let Some(language) = settings.language() else {
                let why = "`exceptions = \"language\"` needs the recipe's `language`";
                return Err(SettingsError::key(&EXCEPTIONS.facts, why));
            };
            match OWN_LETTERS.iter().find(|(known, _)| *known == language) {
                Some((_, letters)) => take(letters),
                None => {
                    let known: Vec<_> =
                        OWN_LETTERS.iter().map(|(language, _)| format!("`{language}`")).collect();
                    let why = format!(
                        "no exceptions are known for `{language}`; they are for {}: name letters with `keep`",
                        known.join(", ")
                    );
                    return Err(SettingsError::key(&EXCEPTIONS.facts, why));
                }
            }
        }
        let umlauts = match settings.get(&UMLAUTS) {
            Some("e") => Umlauts::WithE,
            Some("keep") => Umlauts::Keep,
            _ => Umlauts::Plain,
        };
        Ok(Accents { letters: settings.get(&LETTERS) != Some(false), umlauts, keep })
    }

    /// Appends what becomes of `c`; false if it stays.
    fn fold(&self, c: char, next: Option<char>, folded: &mut String) -> bool {
        if c.is_ascii() || self.keep.contains(&c) {
            return false;
        }
        if let 'ä' | 'ö' | 'ü' | 'Ä' | 'Ö' | 'Ü' = c {
            match self.umlauts {
                Umlauts::Keep => return false,
                Umlauts::WithE => {
                    let shouts = next.is_some_and(char::is_uppercase);
                    folded.push_str(match (c, shouts) {
                        ('ä', _) => "ae",
                        ('ö', _) => "oe",
                        ('ü', _) => "ue",
                        ('Ä', true) => "AE",
                        ('Ö', true) => "OE",
                        ('Ü', true) => "UE",
                        ('Ä', _) => "Ae",
                        ('Ö', _) => "Oe",
                        _ => "Ue",
                    });
                    return true;
                }
                Umlauts::Plain => {}
            }
        }
        if self.letters
            && let Some(plain) = by_table(c)
        {
            folded.push_str(plain);
            return true;
        }
        if is_combining_mark(c) {
            // A mark that stands apart goes where its letter would have been folded; the caller has looked at the letter.
            return matches!(c, '\u{300}'..='\u{36f}' | '\u{1ab0}'..='\u{1aff}' | '\u{1dc0}'..='\u{1dff}' | '\u{591}'..='\u{5bd}'
                | '\u{5bf}' | '\u{5c1}' | '\u{5c2}' | '\u{5c4}' | '\u{5c5}' | '\u{5c7}' | '\u{64b}'..='\u{65f}' | '\u{670}');
        }
        if !matches!(c.script(), Script::Latin | Script::Greek)
            && !matches!(c, 'ё' | 'Ё' | 'ѐ' | 'Ѐ' | 'ѝ' | 'Ѝ')
        {
            return false;
        }
        let before = folded.len();
        decompose_canonical(c, |part| {
            if !is_combining_mark(part) {
                folded.push(part);
            }
        });
        let same = folded[before..].chars().eq([c]);
        if same {
            folded.truncate(before);
        } else if self.letters {
            // `ǿ` is an `ø` below its accent.
            let plain: Option<&str> = folded[before..].chars().next().and_then(by_table);
            if let Some(plain) = plain {
                folded.truncate(before);
                folded.push_str(plain);
            }
        }
        !same
    }
}

/// Letters that are no letter with a mark, and what they are written as where they cannot be had.
fn by_table(c: char) -> Option<&'static str> {
    Some(match c {
        'ø' => "o",
        'Ø' => "O",
        'ł' => "l",
        'Ł' => "L",
        'ß' => "ss",
        'ẞ' => "SS",
        'æ' => "ae",
        'Æ' => "AE",
        'œ' => "oe",
        'Œ' => "OE",
        'đ' | 'ð' | 'ɖ' => "d",
        'Đ' | 'Ð' | 'Ɖ' => "D",
        'þ' => "th",
        'Þ' => "Th",
        'ı' => "i",
        'ħ' => "h",
        'Ħ' => "H",
        'ŧ' => "t",
        'Ŧ' => "T",
        'ŋ' => "ng",
        'Ŋ' => "NG",
        'ĸ' => "k",
        'ŉ' => "'n",
        'ſ' => "s",
        'ƒ' => "f",
        'ə' | 'ǝ' => "e",
        'Ə' | 'Ǝ' => "E",
        'ɓ' => "b",
        'Ɓ' => "B",
        'ɗ' => "d",
        'Ɗ' => "D",
        'ƙ' => "k",
        'Ƙ' => "K",
        'ɔ' => "o",
        'Ɔ' => "O",
        'ɛ' => "e",
        'Ɛ' => "E",
        'ŀ' => "l",
        'Ŀ' => "L",
        'ĳ' => "ij",
        'Ĳ' => "IJ",
        _ => return None,
    })
}

impl Facts for Accents {}

impl TextStep for Accents {
    fn rewrite(&self, text: &str, range: Range<usize>, out: &mut Rewriter<'_>) {
        let bytes = text.as_bytes();
        let mut folded = String::new();
        let mut at = range.start;
        // The letter that marks ride on.
        let mut base = text[..at].chars().next_back();
        while at < range.end {
            let Some(offset) = bytes[at..range.end].iter().position(|&byte| byte >= 0x80) else { break };
            if offset > 0 {
                base = Some(char::from(bytes[at + offset - 1]));
            }
            at += offset;
            let mut chars = text[at..range.end].chars();
            let Some(c) = chars.next() else { break };
            let end = at + c.len_utf8();
            let is_mark = is_combining_mark(c);
            folded.clear();
            let stays = is_mark && self.keeps_marks_of(base, c);
            if !stays && self.fold(c, chars.next(), &mut folded) {
                out.replace(at..end, &folded);
            }
            if !is_mark {
                base = Some(c);
            }
            at = end;
        }
    }
}

impl Accents {
    /// Whether a mark that stands apart belongs to the letter `base` as the recipe has it.
    fn keeps_marks_of(&self, base: Option<char>, mark: char) -> bool {
        let Some(base) = base else { return false };
        let composed = unicode_normalization::char::compose(base, mark);
        let kept = composed.is_some_and(|c| {
            self.keep.contains(&c)
                || (self.umlauts == Umlauts::Keep && matches!(c, 'ä' | 'ö' | 'ü' | 'Ä' | 'Ö' | 'Ü'))
        });
        // Short i and its like are letters of their own; other marks on Cyrillic letters are stress.
        kept || (base.script() == Script::Cyrillic && mark == '\u{306}')
    }

    fn folded(&self, text: &str) -> String {
        let mut all = String::with_capacity(text.len());
        let mut chars = text.chars().peekable();
        let mut base = None;
        while let Some(c) = chars.next() {
            let stays = is_combining_mark(c) && self.keeps_marks_of(base, c);
            if stays || !self.fold(c, chars.peek().copied(), &mut all) {
                all.push(c);
            }
            if !is_combining_mark(c) {
                base = Some(c);
            }
        }
        all
    }
}

impl TokenStep for Accents {
    fn apply(&self, form: &Form<'_>) -> Outcome {
        if form.text.is_ascii() {
            return Outcome::Keep;
        }
        let folded = self.folded(form.text);
        if folded == form.text || folded.is_empty() { Outcome::Keep } else { Outcome::Change(folded) }
    }
}

#[cfg(test)]
mod tests {
    use crate::testing;

    fn folded(settings: &str, text: &str) -> String {
        let in_text = testing::clean(&format!("[[step]]\ndo = \"accents\"\n{settings}\n"), text);
        let spaces = "[[step]]\ndo = \"split\"\ninto = \"spaces\"\n";
        let in_tokens = testing::clean(&format!("{spaces}[[step]]\ndo = \"accents\"\n{settings}\n"), text);
        assert_eq!(in_text, in_tokens);
        in_text
    }

    #[test]
    fn letters_with_marks_become_plain() {
        let table = [
            ("Übung été naïve Ångström ñandú", "Ubung ete naive Angstrom nandu"),
            ("e\u{301}te\u{301} A\u{30a}", "ete A"),
            ("Łódź Straße søster cœur Æsir þing ǿ", "Lodz Strasse soster coeur AEsir thing o"),
            ("άνθρωπος ΐ", "ανθρωπος ι"),
            ("ёлка за\u{301}мок йод й", "елка замок йод й"),
            ("が ぱ हिन्दी 가 ไทย", "が ぱ हिन्दी 가 ไทย"),
            ("שָׁלוֹם مُحَمَّد", "שלום محمد"),
        ];
        for (text, expected) in table {
            assert_eq!(folded("", text), expected, "{text}");
        }
    }

    #[test]
    fn languages_have_exceptions() {
        assert_eq!(folded("umlauts = \"e\"", "Über MÖWE schön"), "Ueber MOEWE schoen");
        assert_eq!(folded("umlauts = \"keep\"", "Möwe é o\u{308}"), "Möwe e o\u{308}");
        assert_eq!(folded("keep = [\"ñ\"]", "Ñandú n\u{303}"), "Ñandu n\u{303}");
        assert_eq!(folded("exceptions = \"language\"\nlanguage = \"sv\"", "Åkerö é"), "Åkerö e");
        assert_eq!(folded("letters = false", "Łódź"), "Łodz");
    }
}
