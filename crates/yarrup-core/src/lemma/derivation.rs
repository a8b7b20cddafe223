//! What of an affix is inflection, which a lemma is without, and what makes another word, which stays.

/// Endings by which dictionaries make words of words, in small letters, each with what it is without its inflection: `Zeitungen` is of `Zeitung`, which
/// is of nothing.
const DERIVED: &[(&str, &[(&str, &str)])] = &[
    ("cs", &[("ostí", "ost"), ("osti", "ost"), ("ostem", "ost"), ("ostech", "ost"), ("ost", "ost")]),
    (
        "de",
        &[
            ("ungen", "ung"),
            ("ung", "ung"),
            ("innen", "in"),
            ("in", "in"),
            ("heiten", "heit"),
            ("heit", "heit"),
            ("keiten", "keit"),
            ("keit", "keit"),
            ("chens", "chen"),
            ("chen", "chen"),
        ],
    ),
    (
        "es",
        &[
            ("mente", "mente"),
            ("mientos", "miento"),
            ("miento", "miento"),
            ("ciones", "ción"),
            ("ción", "ción"),
            ("bles", "ble"),
            ("ble", "ble"),
        ],
    ),
    ("it", &[("mente", "mente"), ("anti", "ante"), ("ante", "ante"), ("enti", "ente"), ("ente", "ente")]),
    (
        "pt",
        &[
            ("mente", "mente"),
            ("mentos", "mento"),
            ("mento", "mento"),
            ("ções", "ção"),
            ("ção", "ção"),
            ("dores", "dor"),
            ("dor", "dor"),
            ("veis", "vel"),
            ("vel", "vel"),
        ],
    ),
    ("da", SCANDINAVIAN),
    ("nb", SCANDINAVIAN),
    ("sv", &[("ningar", "ning"), ("ning", "ning"), ("het", "het")]),
];

/// Endings of Danish and Norwegian.
const SCANDINAVIAN: &[(&str, &str)] = &[
    ("ingerne", "ing"),
    ("ingene", "ing"),
    ("inger", "ing"),
    ("ingen", "ing"),
    ("ing", "ing"),
    ("lsene", "lse"),
    ("lser", "lse"),
    ("lsen", "lse"),
    ("lse", "lse"),
    ("ske", "sk"),
    ("sk", "sk"),
    ("iteter", "itet"),
    ("iteten", "itet"),
    ("itet", "itet"),
    ("ige", "ig"),
    ("igt", "ig"),
    ("ig", "ig"),
    ("heter", "het"),
    ("heten", "het"),
    ("het", "het"),
    ("heden", "hed"),
    ("heder", "hed"),
    ("hed", "hed"),
];

/// A form without its inflection, if it ends with an ending that makes another word, within the last `suffix` bytes. The form is in small letters;
/// `written` is the form as it is written.
pub(super) fn without_inflection(language: &str, form: &str, written: &str, suffix: usize) -> Option<String> {
    let (_, endings) = DERIVED.iter().find(|(known, _)| *known == language)?;
    let (ending, bare) =
        endings.iter().find(|(ending, _)| ending.len() <= suffix && form.ends_with(ending))?;
    if ending == bare {
        return Some(written.to_owned());
    }
    written.get(..written.len() - ending.len()).map(|stem| format!("{stem}{bare}"))
}

/// Whether a prefix is inflection: what is elided before a word (`l'`), of participles, and of superlatives.
pub(super) fn inflects(language: &str, prefix: &str) -> bool {
    prefix.contains(['\'', '’'])
        || match language {
            "de" | "nl" => prefix == "ge",
            "cs" => prefix == "nej",
            "pl" => prefix == "naj",
            "uk" => prefix == "най",
            "ru" => prefix == "наи",
            "hu" => prefix == "leg",
            _ => false,
        }
}
