//! Regular forms of Romance languages: plurals, and of Italian and Spanish verbs those that dictionaries list as words of their own.

/// The plurals that a noun or an adjective may have, by its ending, the likeliest first. None in a language without rules here.
pub(super) fn plurals(language: &str, word: &str) -> Vec<String> {
    let endings: &[(&str, &[&str])] = match language {
        "ca" => &[("ça", &["ces"]), ("ca", &["ques"]), ("ga", &["gues"]), ("a", &["es"]), ("", &["s", "os"])],
        "es" => &[("z", &["ces"]), ("ón", &["ones"]), ("", &["s", "es"])],
        "fr" => &[("al", &["aux", "als"]), ("ail", &["aux", "ails"]), ("", &["s", "x"])],
        "it" => &[
            ("co", &["chi", "ci"]),
            ("go", &["ghi", "gi"]),
            ("ca", &["che"]),
            ("ga", &["ghe"]),
            ("cia", &["ce", "cie"]),
            ("gia", &["ge", "gie"]),
            ("io", &["i", "ii"]),
            ("o", &["i"]),
            ("a", &["e", "i"]),
            ("e", &["i"]),
        ],
        "pt" => &[("ão", &["ões", "ãos", "ães"]), ("m", &["ns"]), ("l", &["is"]), ("", &["s", "es"])],
        _ => &[],
    };
    let ending = endings.iter().find_map(|(ending, plurals)| Some((word.strip_suffix(ending)?, *plurals)));
    let (stem, plurals) = ending.unwrap_or_default();
    plurals.iter().map(|plural| format!("{stem}{plural}")).collect()
}

/// The infinitives that a regular Italian form may be of: `mangiato`, `credute`, `dormiti`, `cercando`, `capisco`.
pub(super) fn italian_infinitives(form: &str) -> Vec<String> {
    const ENDINGS: [(&str, &[&str]); 8] = [
        ("ando", &["are"]),
        ("endo", &["ere", "ire"]),
        ("isco", &["ire"]),
        ("isci", &["ire"]),
        ("isce", &["ire"]),
        ("iscono", &["ire"]),
        ("isca", &["ire"]),
        ("iscano", &["ire"]),
    ];
    let ending = ENDINGS.iter().find_map(|(ending, verbs)| Some((form.strip_suffix(ending)?, verbs)));
    if let Some((stem, verbs)) = ending.filter(|(stem, _)| stem.len() > 2) {
        return verbs.iter().map(|verb| format!("{stem}{verb}")).collect();
    }
    let Some(stem) = form.strip_suffix(['o', 'a', 'i', 'e']).and_then(|rest| rest.strip_suffix('t')) else {
        return Vec::new();
    };
    const VOWELS: [(&str, &[&str]); 3] = [("a", &["are"]), ("u", &["ere", "ire"]), ("i", &["ire"])];
    VOWELS
        .iter()
        .filter_map(|(vowel, endings)| Some((stem.strip_suffix(vowel)?, endings)))
        .filter(|(stem, _)| stem.len() > 2)
        .flat_map(|(stem, endings)| endings.iter().map(move |ending| format!("{stem}{ending}")))
        .collect()
}

/// The infinitives that a Spanish form may be of whose spelling keeps its sound: participles with an accent (`caído`, `leídas`), and the first person of
/// the past (`jugué`, `toqué`, `empecé`). Others dictionaries make of their verbs.
pub(super) fn spanish_infinitives(form: &str) -> Vec<String> {
    const ENDINGS: [(&str, &[&str]); 7] = [
        ("ído", &["er", "ír", "ir"]),
        ("ída", &["er", "ír", "ir"]),
        ("ídos", &["er", "ír", "ir"]),
        ("ídas", &["er", "ír", "ir"]),
        ("gué", &["gar"]),
        ("qué", &["car"]),
        ("cé", &["zar"]),
    ];
    let ending = ENDINGS.iter().find_map(|(ending, verbs)| Some((form.strip_suffix(ending)?, verbs)));
    ending
        .filter(|(stem, _)| stem.len() > 1)
        .map_or(Vec::new(), |(stem, verbs)| verbs.iter().map(|verb| format!("{stem}{verb}")).collect())
}

/// Spanish forms as they would be if the vowel of their stem did not change under stress: `juegan`, `jugan`; `pierde`, `perde`.
pub(super) fn without_spanish_diphthong(form: &str) -> Vec<String> {
    let mut found = Vec::new();
    for (stressed, plain) in [("ue", "o"), ("ue", "u"), ("ie", "e"), ("i", "e")] {
        if let Some(at) = form.get(..form.len().saturating_sub(2)).and_then(|stem| stem.rfind(stressed)) {
            found.push(format!("{}{plain}{}", &form[..at], &form[at + stressed.len()..]));
        }
    }
    found
}

/// The Romanian word that a form is of which the dictionary lists as a word of its own: a verb in `-a`, of which it has a first person (`cumpărat` is of
/// `cumpăra`), or a noun with its article (`vara` is of `vară`). `has` tells what the dictionary lists, and `is_form_of` whether a form is of what it lists.
pub(super) fn romanian_base(
    form: &str,
    has: impl Fn(&str) -> bool,
    is_form_of: impl Fn(&str, &str) -> bool,
) -> Option<String> {
    const OF_VERBS: [&str; 11] = ["at", "ată", "ate", "ând", "am", "ai", "au", "ăm", "ați", "a", "ă"];
    const OF_NOUNS: [(&str, &[&str]); 6] = [
        ("ilor", &["", "ă", "e", "iu"]),
        ("elor", &["ă", "", "e"]),
        ("ile", &["ă", "e", ""]),
        ("ele", &["ă", "", "e"]),
        ("ea", &["e"]),
        ("a", &["ă"]),
    ];
    let stems = |ending: &str| form.strip_suffix(ending).filter(|stem| stem.chars().count() > 2);
    let is_verb = |stem: &str| {
        let together = format!("{stem}ăm");
        has(stem) && (has(&together) || is_form_of(&together, stem))
    };
    let verb = OF_VERBS.into_iter().filter_map(stems).find(|stem| is_verb(stem));
    verb.map(|stem| format!("{stem}a")).or_else(|| {
        OF_NOUNS.into_iter().find_map(|(ending, bare)| {
            let stem = stems(ending)?;
            bare.iter().map(|bare| format!("{stem}{bare}")).find(|noun| has(noun))
        })
    })
}

/// The infinitive of a Romanian verb, of which dictionaries list the first person: `vorbi` of `vorbesc`, `lucra` of `lucrez`. `is_form` tells whether the
/// word that is listed has a form: `românesc` and `francez` are no verbs.
pub(super) fn romanian_infinitive(first: &str, is_form: impl Fn(&str) -> bool) -> Option<String> {
    let of = |listed: &str, third: &str, infinitive: &str| {
        let stem = first.strip_suffix(listed)?;
        is_form(&format!("{stem}{third}")).then(|| format!("{stem}{infinitive}"))
    };
    of("esc", "ește", "i").or_else(|| of("ez", "ează", "a")).or_else(|| of("ăsc", "ăște", "î"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn participles_and_stressed_stems_lead_to_verbs() {
        assert_eq!(italian_infinitives("mangiate"), ["mangiare"]);
        assert_eq!(italian_infinitives("creduto"), ["credere", "credire"]);
        assert_eq!(italian_infinitives("capiscono"), ["capire"]);
        assert!(italian_infinitives("gatto").is_empty());
        assert!(spanish_infinitives("caídas").contains(&"caer".to_owned()));
        assert_eq!(spanish_infinitives("jugué"), ["jugar"]);
        assert!(without_spanish_diphthong("juegan").contains(&"jugan".to_owned()));
        assert!(without_spanish_diphthong("é").is_empty());
    }

    #[test]
    fn romanian_forms_that_are_listed_lead_to_their_words() {
        let has = |word: &str| {
            matches!(word, "cumpăr" | "cumpărăm" | "vară" | "limbă" | "pădure" | "pal" | "termin")
        };
        for (form, word) in [
            ("cumpărat", Some("cumpăra")),
            ("vara", Some("vară")),
            ("limbile", Some("limbă")),
            ("pădurilor", Some("pădure")),
            ("palat", None),
            ("terminat", Some("termina")),
        ] {
            assert_eq!(
                romanian_base(form, has, |form, word| (form, word) == ("terminăm", "termin")).as_deref(),
                word,
                "{form}"
            );
        }
    }

    #[test]
    fn romanian_verbs_are_listed_by_their_first_person() {
        let is_form = |form: &str| matches!(form, "vorbește" | "lucrează");
        assert_eq!(romanian_infinitive("vorbesc", is_form).as_deref(), Some("vorbi"));
        assert_eq!(romanian_infinitive("lucrez", is_form).as_deref(), Some("lucra"));
        assert_eq!(romanian_infinitive("francez", is_form), None);
    }
}
