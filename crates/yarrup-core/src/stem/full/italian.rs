use super::{Word, replaced};

const VOWELS: &str = "aeiouàèìòù";

/// The full Italian stem of `word`. Expects small letters.
pub(crate) fn italian(word: &str) -> String {
    let grave = replaced(word.chars(), &[("á", 'à'), ("é", 'è'), ("í", 'ì'), ("ó", 'ò'), ("ú", 'ù')]);
    let is_vowel = |letter: Option<char>| letter.is_some_and(|letter| VOWELS.contains(letter));
    let letters = super::marked(&grave, |before, letter, after| match letter {
        'u' if before == Some('q') => true,
        'u' | 'i' => is_vowel(before) && is_vowel(after),
        _ => false,
    });
    let mut word = Word::of(letters, VOWELS);
    word.rv = word.romance_rv();
    pronoun(&mut word);
    if !derivation(&mut word) {
        verb(&mut word);
    }
    if let Some(vowel) = word.longest_within(word.rv, &["a", "e", "i", "o", "à", "è", "ì", "ò"]) {
        word.cut(vowel);
        let rv = word.rv;
        word.cut_within(rv, "i");
    }
    for hard in ["ch", "gh"] {
        if word.within(word.rv, hard) {
            word.cut("h");
        }
    }
    word.letters.into_iter().map(|letter| letter.to_ascii_lowercase()).collect()
}

fn pronoun(word: &mut Word) {
    let pronouns = [
        "ci", "gli", "la", "le", "li", "lo", "mi", "ne", "si", "ti", "vi", "sene", "gliela", "gliele",
        "glieli", "glielo", "gliene", "mela", "mele", "meli", "melo", "mene", "tela", "tele", "teli", "telo",
        "tene", "cela", "cele", "celi", "celo", "cene", "vela", "vele", "veli", "velo", "vene",
    ];
    let Some(pronoun) = word.longest(&pronouns) else { return };
    let kept = word.letters.len() - pronoun.chars().count();
    let verb = Word { letters: word.letters[..kept].to_vec(), ..*word };
    match verb.longest_within(word.rv, &["ando", "endo", "ar", "er", "ir"]) {
        Some("ando" | "endo") => word.cut(pronoun),
        Some(_) => word.put(pronoun, "e"),
        None => {}
    }
}

/// Whether an ending was taken off.
fn derivation(word: &mut Word) -> bool {
    let ending = word.longest(&[
        "anza", "anze", "ico", "ici", "ica", "ice", "iche", "ichi", "ismo", "ismi", "abile", "abili",
        "ibile", "ibili", "ista", "iste", "isti", "istà", "istè", "istì", "oso", "osi", "osa", "ose",
        "mente", "atrice", "atrici", "ante", "anti", "azione", "azioni", "atore", "atori", "logia", "logie",
        "uzione", "uzioni", "usione", "usioni", "enza", "enze", "amento", "amenti", "imento", "imenti",
        "amente", "ità", "ivo", "ivi", "iva", "ive",
    ]);
    let Some(ending) = ending else { return false };
    let (rv, r2) = (word.rv, word.r2);
    match ending {
        "logia" | "logie" => word.put_within(r2, ending, "log"),
        "uzione" | "uzioni" | "usione" | "usioni" => word.put_within(r2, ending, "u"),
        "enza" | "enze" => word.put_within(r2, ending, "ente"),
        "amento" | "amenti" | "imento" | "imenti" => word.cut_within(rv, ending),
        "amente" => word.cut_adverb(&["abil", "os", "ic"]),
        _ if !word.cut_within(r2, ending) => false,
        "azione" | "azioni" | "atore" | "atori" => {
            word.cut_within(r2, "ic");
            true
        }
        "ità" => {
            word.cut_any_within(r2, &["abil", "ic", "iv"]);
            true
        }
        "ivo" | "ivi" | "iva" | "ive" => {
            if word.cut_within(r2, "at") {
                word.cut_within(r2, "ic");
            }
            true
        }
        _ => true,
    }
}

fn verb(word: &mut Word) {
    let ending = word.longest_within(
        word.rv,
        &[
            "ammo", "ando", "ano", "are", "arono", "asse", "assero", "assi", "assimo", "ata", "ate", "ati",
            "ato", "ava", "avamo", "avano", "avate", "avi", "avo", "emmo", "enda", "ende", "endi", "endo",
            "erà", "erai", "eranno", "ere", "erebbe", "erebbero", "erei", "eremmo", "eremo", "ereste",
            "eresti", "erete", "erò", "erono", "essero", "ete", "eva", "evamo", "evano", "evate", "evi",
            "evo", "Yamo", "iamo", "immo", "irà", "irai", "iranno", "ire", "irebbe", "irebbero", "irei",
            "iremmo", "iremo", "ireste", "iresti", "irete", "irò", "irono", "isca", "iscano", "isce", "isci",
            "isco", "iscono", "issero", "ita", "ite", "iti", "ito", "iva", "ivamo", "ivano", "ivate", "ivi",
            "ivo", "ono", "uta", "ute", "uti", "uto", "ar", "ir",
        ],
    );
    if let Some(ending) = ending {
        word.cut(ending);
    }
}

#[cfg(test)]
mod tests {
    use super::italian;

    #[test]
    fn forms_come_together() {
        for (words, stem) in [
            (
                "abbandonata abbandonate abbandonati abbandonato abbandonava abbandonerà abbandoneranno abbandonò",
                "abbandon",
            ),
            ("pronto pronta pronti", "pront"),
            ("propaga propagare propagano", "propag"),
            ("propizio propizia", "propiz"),
            ("parlarle parlando parlavano", "parl"),
            ("sporche sporchi sporco", "sporc"),
        ] {
            for word in words.split(' ') {
                assert_eq!(italian(word), stem, "{word}");
            }
        }
    }
}
