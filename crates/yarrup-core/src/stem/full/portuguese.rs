use super::Word;

/// The full Portuguese stem of `word`. Expects small letters.
pub(crate) fn portuguese(word: &str) -> String {
    // A nasal vowel is a vowel and a consonant.
    let letters = word.replace('ã', "a~").replace('õ', "o~").chars().collect();
    let mut word = Word::of(letters, "aeiouáéíóúâêô");
    word.rv = word.romance_rv();
    let rv = word.rv;
    if derivation(&mut word) || verb(&mut word) {
        if word.within(rv, "i") && word.before("i") == Some('c') {
            word.cut("i");
        }
    } else if let Some(ending) = word.longest_within(rv, &["os", "a", "i", "o", "á", "í", "ó"]) {
        word.cut(ending);
    }
    if let Some(ending) = word.longest_within(rv, &["e", "é", "ê"]) {
        word.cut(ending);
        for (pair, last) in [("gu", "u"), ("ci", "i")] {
            if word.ends(pair) && word.cut_within(rv, last) {
                break;
            }
        }
    } else if word.ends("ç") {
        word.put("ç", "c");
    }
    word.text().replace("a~", "ã").replace("o~", "õ")
}

/// Whether an ending was taken off.
fn derivation(word: &mut Word) -> bool {
    let ending = word.longest(&[
        "eza", "ezas", "ico", "ica", "icos", "icas", "ismo", "ismos", "ável", "ível", "ista", "istas", "oso",
        "osa", "osos", "osas", "amento", "amentos", "imento", "imentos", "adora", "ador", "aça~o", "adoras",
        "adores", "aço~es", "ante", "antes", "ância", "logia", "logias", "uça~o", "uço~es", "ência",
        "ências", "amente", "mente", "idade", "idades", "iva", "ivo", "ivas", "ivos", "ira", "iras",
    ]);
    let Some(ending) = ending else { return false };
    let (rv, r2) = (word.rv, word.r2);
    match ending {
        "logia" | "logias" => word.put_within(r2, ending, "log"),
        "uça~o" | "uço~es" => word.put_within(r2, ending, "u"),
        "ência" | "ências" => word.put_within(r2, ending, "ente"),
        "ira" | "iras" => {
            let fits = word.within(rv, ending) && word.before(ending) == Some('e');
            if fits {
                word.put(ending, "ir");
            }
            fits
        }
        "amente" => word.cut_adverb(&["os", "ic", "ad"]),
        _ if !word.cut_within(r2, ending) => false,
        "mente" => {
            word.cut_any_within(r2, &["ante", "avel", "ível"]);
            true
        }
        "idade" | "idades" => {
            word.cut_any_within(r2, &["abil", "ic", "iv"]);
            true
        }
        "iva" | "ivo" | "ivas" | "ivos" => {
            word.cut_within(r2, "at");
            true
        }
        _ => true,
    }
}

/// Whether an ending was taken off.
fn verb(word: &mut Word) -> bool {
    let ending = word.longest_within(
        word.rv,
        &[
            "ada", "ida", "ia", "aria", "eria", "iria", "ara", "era", "ira", "ava", "asse", "esse", "isse",
            "aste", "este", "iste", "ei", "arei", "erei", "irei", "am", "iam", "ariam", "eriam", "iriam",
            "aram", "eram", "iram", "avam", "em", "arem", "erem", "irem", "assem", "essem", "issem", "ado",
            "ido", "ando", "endo", "indo", "ara~o", "era~o", "ira~o", "ar", "er", "ir", "as", "adas", "idas",
            "ias", "arias", "erias", "irias", "aras", "eras", "iras", "avas", "es", "ardes", "erdes",
            "irdes", "ares", "eres", "ires", "asses", "esses", "isses", "astes", "estes", "istes", "is",
            "ais", "eis", "íeis", "aríeis", "eríeis", "iríeis", "áreis", "areis", "éreis", "ereis", "íreis",
            "ireis", "ásseis", "ésseis", "ísseis", "áveis", "ados", "idos", "ámos", "amos", "íamos",
            "aríamos", "eríamos", "iríamos", "áramos", "éramos", "íramos", "ávamos", "emos", "aremos",
            "eremos", "iremos", "ássemos", "êssemos", "íssemos", "imos", "armos", "ermos", "irmos", "eu",
            "iu", "ou", "ira", "iras",
        ],
    );
    if let Some(ending) = ending {
        word.cut(ending);
    }
    ending.is_some()
}

#[cfg(test)]
mod tests {
    use super::portuguese;

    #[test]
    fn words_have_their_stems() {
        for (word, stem) in [
            ("boa", "boa"),
            ("boainain", "boainain"),
            ("bobagem", "bobag"),
            ("bobagens", "bobagens"),
            ("quilométricas", "quilométr"),
            ("quilômetro", "quilômetr"),
            ("química", "químic"),
            ("falaram", "fal"),
            ("falando", "fal"),
            ("falarei", "fal"),
            ("comeram", "com"),
            ("felizmente", "feliz"),
            ("nações", "naçõ"),
        ] {
            assert_eq!(portuguese(word), stem, "{word}");
        }
    }
}
