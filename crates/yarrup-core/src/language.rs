//! Languages, and in which a text is written.

use whatlang::{Detector, Lang};

/// How many letters of a document its language is told by.
const LANGUAGE_LETTERS: usize = 600;
/// How many letters a document needs for its language to be told.
const FEWEST_LETTERS: usize = 24;

/// A language.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Language {
    /// Its code: of ISO 639-1 where that has one, else of ISO 639-3.
    pub code: &'static str,
    /// Its English name.
    pub name: &'static str,
}

impl Language {
    /// The language that was detected.
    pub(crate) fn of(lang: Lang) -> Language {
        Language { code: short_code(lang.code()), name: name_of(lang) }
    }
}

/// The language of a text as a tag of two letters, or three where there are none of two; if it can be told.
///
/// ```
/// use yarrup_core::language_of;
///
/// assert_eq!(language_of("Die Wächter haben heute Morgen jedes Nest an der Küste gezählt."), Some("de"));
/// assert_eq!(language_of("7 !"), None);
/// ```
pub fn language_of(text: &str) -> Option<&'static str> {
    detect(text).map(|lang| short_code(lang.code()))
}

/// The language of a text, if it can be told.
pub(crate) fn detect(text: &str) -> Option<Lang> {
    // Links, mentions and tags are of no language.
    let mut sample = String::new();
    for word in text.split_whitespace() {
        if word.contains("://") || word.starts_with(['@', '#', '<']) {
            continue;
        }
        sample.push_str(word);
        sample.push(' ');
        if sample.len() > LANGUAGE_LETTERS {
            break;
        }
    }
    let letters = sample.chars().filter(|c| c.is_alphabetic()).count();
    let info = Detector::new().detect(&sample)?;
    // Where a script is of one language, a few letters are enough.
    let by_script = letters >= 4 && info.script().langs().len() == 1;
    let sure =
        letters >= FEWEST_LETTERS && (info.is_reliable() || (letters >= 60 && info.confidence() > 0.35));
    (sure || by_script).then(|| info.lang())
}

/// The English name of a language, as people call it.
fn name_of(lang: Lang) -> &'static str {
    match lang {
        Lang::Nob => "Norwegian",
        Lang::Cmn => "Chinese",
        Lang::Pes => "Persian",
        other => other.eng_name(),
    }
}

/// The two-letter code of a language, where ISO 639-1 has one, which is what recipes state.
fn short_code(code: &'static str) -> &'static str {
    const CODES: [(&str, &str); 50] = [
        ("eng", "en"),
        ("deu", "de"),
        ("fra", "fr"),
        ("spa", "es"),
        ("ita", "it"),
        ("por", "pt"),
        ("nld", "nl"),
        ("swe", "sv"),
        ("nob", "no"),
        ("dan", "da"),
        ("fin", "fi"),
        ("rus", "ru"),
        ("pol", "pl"),
        ("tur", "tr"),
        ("ces", "cs"),
        ("slk", "sk"),
        ("slv", "sl"),
        ("hrv", "hr"),
        ("srp", "sr"),
        ("bul", "bg"),
        ("ukr", "uk"),
        ("bel", "be"),
        ("ron", "ro"),
        ("hun", "hu"),
        ("ell", "el"),
        ("cat", "ca"),
        ("est", "et"),
        ("lav", "lv"),
        ("lit", "lt"),
        ("heb", "he"),
        ("ara", "ar"),
        ("pes", "fa"),
        ("hin", "hi"),
        ("ben", "bn"),
        ("tam", "ta"),
        ("tel", "te"),
        ("urd", "ur"),
        ("cmn", "zh"),
        ("jpn", "ja"),
        ("kor", "ko"),
        ("tha", "th"),
        ("vie", "vi"),
        ("ind", "id"),
        ("epo", "eo"),
        ("lat", "la"),
        ("afr", "af"),
        ("kat", "ka"),
        ("hye", "hy"),
        ("aze", "az"),
        ("mkd", "mk"),
    ];
    CODES.iter().find(|(long, _)| *long == code).map_or(code, |(_, short)| short)
}

/// Whether a document in this language is meant by a condition: `de-AT` and `de` are one language where one of them is all that is said.
pub(crate) fn is_language(language: &str, allowed: &str) -> bool {
    let primary = |tag: &str| tag.split(['-', '_']).next().unwrap_or(tag).to_ascii_lowercase();
    language.eq_ignore_ascii_case(allowed)
        || (primary(language) == primary(allowed)
            && !(language.contains(['-', '_']) && allowed.contains(['-', '_'])))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn regions_count_where_both_sides_name_one() {
        for (language, allowed, expected) in [
            ("de", "de", true),
            ("DE", "de", true),
            ("de-AT", "de", true),
            ("de", "de-AT", true),
            ("de-AT", "de-CH", false),
            ("de_AT", "de-CH", false),
            ("de-at", "de-AT", true),
            ("de", "nl", false),
            ("den", "de", false),
        ] {
            assert_eq!(is_language(language, allowed), expected, "{language} {allowed}");
        }
    }

    #[test]
    fn a_language_is_told_by_enough_letters_and_not_by_links() {
        let english = "The wardens of the reserve counted every nest along the northern shore this morning.";
        assert_eq!(language_of(english), Some("en"));
        assert_eq!(language_of("7 !"), None);
        assert_eq!(language_of("ab"), None);
        assert_eq!(language_of("鳥の巣箱です"), Some("ja"));
        let links = "https://example.org/die-waechter-des-schutzgebietes @haben #heute".repeat(4);
        assert_eq!(language_of(&format!("{links} {english}")), Some("en"));
    }
}
