//! What of an affix is inflection, which a lemma is without, and what makes another word, which stays.

/// Endings by which dictionaries make words of words, in small letters, each with how much of it is inflection: `Zeitungen` is of `Zeitung`, which is
/// of nothing.
const DERIVED: &[(&str, &[(&str, usize)])] = &[
    (
        "de",
        &[
            ("ungen", 2),
            ("ung", 0),
            ("innen", 3),
            ("in", 0),
            ("heiten", 2),
            ("heit", 0),
            ("keiten", 2),
            ("keit", 0),
            ("chens", 1),
            ("chen", 0),
        ],
    ),
    ("es", &[("mente", 0), ("mientos", 1), ("miento", 0)]),
    ("it", &[("mente", 0)]),
    ("pt", &[("mente", 0), ("mentos", 1), ("mento", 0)]),
    ("sv", &[("ningar", 2), ("ning", 0), ("het", 0)]),
];

/// How many bytes of inflection stand behind an ending that makes another word, if `form`, in small letters, has one within the last `suffix` bytes.
pub(super) fn inflection_behind(language: &str, form: &str, suffix: usize) -> Option<usize> {
    let (_, endings) = DERIVED.iter().find(|(known, _)| *known == language)?;
    let (_, inflection) =
        endings.iter().find(|(ending, _)| ending.len() <= suffix && form.ends_with(ending))?;
    Some(*inflection)
}

/// Whether a prefix is inflection: what is elided before a word (`l'`), of participles, and of superlatives.
pub(super) fn inflects(language: &str, prefix: &str) -> bool {
    prefix.contains(['\'', '’'])
        || match language {
            "de" | "nl" => prefix == "ge",
            "pl" => prefix == "naj",
            "ru" => prefix == "наи",
            "hu" => prefix == "leg",
            _ => false,
        }
}
