use super::Word;

const VOWELS: &str = "aăâeiîou";

/// The full Romanian stem of `word`. Expects small letters.
pub(crate) fn romanian(word: &str) -> String {
    // Two ways to write the same letters: with a comma below, which is right, and with a cedilla.
    let comma = super::replaced(word.chars(), &[("ş", 'ș'), ("ţ", 'ț')]);
    let is_vowel = |letter: Option<char>| letter.is_some_and(|letter| VOWELS.contains(letter));
    let letters = super::marked(&comma, |before, letter, after| {
        matches!(letter, 'u' | 'i') && is_vowel(before) && is_vowel(after)
    });
    let mut word = Word::of(letters, VOWELS);
    word.rv = word.romance_rv();
    plural(&mut word);
    let mut derived = false;
    while combined(&mut word) {
        derived = true;
    }
    derived |= derivation(&mut word);
    if !derived {
        verb(&mut word);
    }
    let rv = word.rv;
    if let Some(vowel) = word.longest_within(rv, &["a", "e", "i", "ie", "ă"]) {
        word.cut(vowel);
    }
    word.letters.into_iter().map(|letter| letter.to_ascii_lowercase()).collect()
}

/// The articles and plurals of nouns.
fn plural(word: &mut Word) {
    let endings = [
        "ul", "ului", "aua", "ea", "ele", "elor", "ii", "iua", "iei", "iile", "iilor", "ilor", "ile", "atei",
        "ație", "ația",
    ];
    let Some(ending) = word.longest(&endings).filter(|ending| word.within(word.r1, ending)) else { return };
    match ending {
        "ul" | "ului" => word.cut(ending),
        "aua" => word.put(ending, "a"),
        "ea" | "ele" | "elor" => word.put(ending, "e"),
        "ile" if word.ends("abile") => {}
        "atei" => word.put(ending, "at"),
        "ație" | "ația" => word.put(ending, "ați"),
        _ => word.put(ending, "i"),
    }
}

/// Several derivations in a row become one. Whether something was put in the place of an ending.
fn combined(word: &mut Word) -> bool {
    const GROUPS: [(&str, &[&str]); 6] = [
        ("abil", &["abilitate", "abilitati", "abilităi", "abilități"]),
        ("ibil", &["ibilitate"]),
        ("iv", &["ivitate", "ivitati", "ivităi", "ivități"]),
        (
            "ic",
            &[
                "icitate",
                "icitati",
                "icităi",
                "icități",
                "icator",
                "icatori",
                "iciv",
                "iciva",
                "icive",
                "icivi",
                "icivă",
                "ical",
                "icala",
                "icale",
                "icali",
                "icală",
            ],
        ),
        (
            "at",
            &[
                "ativ", "ativa", "ative", "ativi", "ativă", "ațiune", "atoare", "ator", "atori", "ătoare",
                "ător", "ători",
            ],
        ),
        ("it", &["itiv", "itiva", "itive", "itivi", "itivă", "ițiune", "itoare", "itor", "itori"]),
    ];
    let all = GROUPS.iter().flat_map(|(put, endings)| endings.iter().map(move |ending| (*put, *ending)));
    let found = all.filter(|(_, ending)| word.ends(ending)).max_by_key(|(_, ending)| ending.chars().count());
    let r1 = word.r1;
    found.is_some_and(|(put, ending)| word.put_within(r1, ending, put))
}

/// Whether an ending was taken off.
fn derivation(word: &mut Word) -> bool {
    let ending = word.longest(&[
        "at", "ata", "ată", "ati", "ate", "ut", "uta", "ută", "uti", "ute", "it", "ita", "ită", "iti", "ite",
        "ic", "ica", "ice", "ici", "ică", "abil", "abila", "abile", "abili", "abilă", "ibil", "ibila",
        "ibile", "ibili", "ibilă", "oasa", "oasă", "oase", "os", "osi", "oși", "ant", "anta", "ante", "anti",
        "antă", "ator", "atori", "itate", "itati", "ităi", "ități", "iv", "iva", "ive", "ivi", "ivă", "iune",
        "iuni", "ism", "isme", "ist", "ista", "iste", "isti", "istă", "iști",
    ]);
    let Some(ending) = ending else { return false };
    let r2 = word.r2;
    match ending {
        "iune" | "iuni" => {
            let goes = word.within(r2, ending) && word.before(ending) == Some('ț');
            if goes {
                word.cut(ending);
                word.put("ț", "t");
            }
            goes
        }
        "ism" | "isme" | "ist" | "ista" | "iste" | "isti" | "istă" | "iști" => {
            word.put_within(r2, ending, "ist")
        }
        _ => word.cut_within(r2, ending),
    }
}

fn verb(word: &mut Word) {
    const BEHIND_CONSONANT: &[&str] = &[
        "are",
        "ere",
        "ire",
        "âre",
        "ind",
        "ând",
        "indu",
        "ându",
        "eze",
        "ească",
        "ez",
        "ezi",
        "ează",
        "esc",
        "ești",
        "ește",
        "ăsc",
        "ăști",
        "ăște",
        "am",
        "ai",
        "au",
        "eam",
        "eai",
        "ea",
        "eați",
        "eau",
        "iam",
        "iai",
        "ia",
        "iați",
        "iau",
        "ui",
        "ași",
        "arăm",
        "arăți",
        "ară",
        "uși",
        "urăm",
        "urăți",
        "ură",
        "iși",
        "irăm",
        "irăți",
        "iră",
        "âși",
        "ârăm",
        "ârăți",
        "âră",
        "asem",
        "aseși",
        "ase",
        "aserăm",
        "aserăți",
        "aseră",
        "isem",
        "iseși",
        "ise",
        "iserăm",
        "iserăți",
        "iseră",
        "âsem",
        "âseși",
        "âse",
        "âserăm",
        "âserăți",
        "âseră",
        "usem",
        "useși",
        "use",
        "userăm",
        "userăți",
        "useră",
    ];
    const ALWAYS: &[&str] = &[
        "ăm",
        "ați",
        "em",
        "eți",
        "im",
        "iți",
        "âm",
        "âți",
        "seși",
        "serăm",
        "serăți",
        "seră",
        "sei",
        "se",
        "sesem",
        "seseși",
        "sese",
        "seserăm",
        "seserăți",
        "seseră",
    ];
    let (rv, always) = (word.rv, word.longest_within(word.rv, ALWAYS));
    let behind_consonant = word.longest_within(rv, BEHIND_CONSONANT);
    let longest = always.into_iter().chain(behind_consonant).max_by_key(|ending| ending.chars().count());
    let Some(ending) = longest else { return };
    // Behind a consonant or `u` that is itself in the region.
    let at = word.letters.len() - ending.chars().count();
    let behind = at > word.rv && (!word.is_vowel(at - 1) || word.letters[at - 1] == 'u');
    if always == Some(ending) || behind {
        word.cut(ending);
    }
}

#[cfg(test)]
mod tests {
    use super::romanian;

    #[test]
    fn forms_come_together() {
        for (words, stem) in [
            // Articles and plurals of nouns.
            ("băiatul băiatului", "băiat"),
            ("copil copilul copilului", "copil"),
            ("grădinile grădini", "grădin"),
            ("pădurea pădurile pădurilor", "pădur"),
            // Verbs of the first and the fourth conjugation.
            ("lucrăm lucrați lucram lucrând lucrase", "lucr"),
            ("vorbesc vorbești vorbește vorbeam vorbind", "vorb"),
            // Derivations, with a comma or a cedilla.
            ("național naţional naționale", "național"),
            ("organizațiune organizare", "organiz"),
            ("posibilitate posibil", "posibil"),
        ] {
            for word in words.split(' ') {
                assert_eq!(romanian(word), stem, "{word}");
            }
        }
        assert_eq!(romanian("ea"), "ea");
        assert_eq!(romanian(""), "");
    }
}
