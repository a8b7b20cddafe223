use super::{Word, replaced};

const BARE: [(&str, char); 5] = [("á", 'a'), ("é", 'e'), ("í", 'i'), ("ó", 'o'), ("ú", 'u')];

/// The full Spanish stem of `word`. Expects small letters.
pub(crate) fn spanish(word: &str) -> String {
    let mut word = Word::of(word.chars().collect(), "aeiouáéíóúü");
    word.rv = word.romance_rv();
    pronoun(&mut word);
    if !derivation(&mut word) && !verb_with_y(&mut word) {
        verb(&mut word);
    }
    residue(&mut word);
    replaced(word.letters.into_iter(), &BARE)
}

fn pronoun(word: &mut Word) {
    let pronouns =
        ["me", "se", "sela", "selo", "selas", "selos", "la", "le", "lo", "las", "les", "los", "nos"];
    let Some(pronoun) = word.longest(&pronouns) else { return };
    let kept = word.letters.len() - pronoun.chars().count();
    let verb = Word { letters: word.letters[..kept].to_vec(), ..*word };
    let Some(ending) = verb.longest_within(
        word.rv,
        &["iéndo", "ándo", "ár", "ér", "ír", "ando", "iendo", "ar", "er", "ir", "yendo"],
    ) else {
        return;
    };
    if ending == "yendo" && verb.before(ending) != Some('u') {
        return;
    }
    word.letters.truncate(kept);
    let bare = replaced(ending.chars(), &BARE);
    word.put(ending, &bare);
}

/// Whether an ending was taken off.
fn derivation(word: &mut Word) -> bool {
    let ending = word.longest(&[
        "anza", "anzas", "ico", "ica", "icos", "icas", "ismo", "ismos", "able", "ables", "ible", "ibles",
        "ista", "istas", "oso", "osa", "osos", "osas", "amiento", "amientos", "imiento", "imientos", "adora",
        "ador", "ación", "acion", "adoras", "adores", "aciones", "ante", "antes", "ancia", "ancias", "logía",
        "logías", "ución", "uciones", "encia", "encias", "amente", "mente", "idad", "idades", "iva", "ivo",
        "ivas", "ivos",
    ]);
    let Some(ending) = ending else { return false };
    let r2 = word.r2;
    match ending {
        "logía" | "logías" => word.put_within(r2, ending, "log"),
        "ución" | "uciones" => word.put_within(r2, ending, "u"),
        "encia" | "encias" => word.put_within(r2, ending, "ente"),
        "amente" => word.cut_adverb(&["os", "ic", "ad"]),
        _ if !word.cut_within(r2, ending) => false,
        "adora" | "ador" | "ación" | "acion" | "adoras" | "adores" | "aciones" | "ante" | "antes"
        | "ancia" | "ancias" => {
            word.cut_within(r2, "ic");
            true
        }
        "mente" => {
            word.cut_any_within(r2, &["ante", "able", "ible"]);
            true
        }
        "idad" | "idades" => {
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
fn verb_with_y(word: &mut Word) -> bool {
    let endings = ["ya", "ye", "yan", "yen", "yeron", "yendo", "yo", "yó", "yas", "yes", "yais", "yamos"];
    match word.longest_within(word.rv, &endings) {
        Some(ending) if word.before(ending) == Some('u') => {
            word.cut(ending);
            true
        }
        _ => false,
    }
}

fn verb(word: &mut Word) {
    let ending = word.longest_within(
        word.rv,
        &[
            "en", "es", "éis", "emos", "arían", "arías", "arán", "arás", "aríais", "aría", "aréis",
            "aríamos", "aremos", "ará", "aré", "erían", "erías", "erán", "erás", "eríais", "ería", "eréis",
            "eríamos", "eremos", "erá", "eré", "irían", "irías", "irán", "irás", "iríais", "iría", "iréis",
            "iríamos", "iremos", "irá", "iré", "aba", "ada", "ida", "ía", "ara", "iera", "ad", "ed", "id",
            "ase", "iese", "aste", "iste", "an", "aban", "ían", "aran", "ieran", "asen", "iesen", "aron",
            "ieron", "ado", "ido", "ando", "iendo", "ió", "ar", "er", "ir", "as", "abas", "adas", "idas",
            "ías", "aras", "ieras", "ases", "ieses", "ís", "áis", "abais", "íais", "arais", "ierais",
            "aseis", "ieseis", "asteis", "isteis", "ados", "idos", "amos", "ábamos", "íamos", "imos",
            "áramos", "iéramos", "iésemos", "ásemos",
        ],
    );
    let Some(ending) = ending else { return };
    word.cut(ending);
    if matches!(ending, "en" | "es" | "éis" | "emos") && word.ends("gu") {
        word.cut("u");
    }
}

fn residue(word: &mut Word) {
    let Some(ending) = word.longest_within(word.rv, &["os", "a", "o", "á", "í", "ó", "e", "é"]) else {
        return;
    };
    word.cut(ending);
    if matches!(ending, "e" | "é") && word.ends("gu") {
        word.cut_within(word.rv, "u");
    }
}

#[cfg(test)]
mod tests {
    use super::spanish;

    #[test]
    fn words_have_their_stems() {
        for (word, stem) in [
            ("cheque", "chequ"),
            ("cheques", "chequ"),
            ("torneado", "torn"),
            ("tornear", "torn"),
            ("chicharrones", "chicharron"),
            ("chicharrón", "chicharron"),
            ("toreros", "torer"),
            ("habla", "habl"),
            ("hablaron", "habl"),
            ("hablábamos", "habl"),
            ("hablando", "habl"),
            ("hablaré", "habl"),
            ("comieron", "com"),
            ("comido", "com"),
            ("gritándoles", "grit"),
            ("gritarle", "grit"),
            ("gritar", "grit"),
            ("nacionalidades", "nacional"),
            ("rápidamente", "rapid"),
        ] {
            assert_eq!(spanish(word), stem, "{word}");
        }
    }
}
