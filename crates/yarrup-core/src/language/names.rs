//! Languages by name and code: what people call them, what a document or a recipe states, and which of these mean the same.

/// A language.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Language {
    /// Its code: of ISO 639-1 where that has one, else of ISO 639-2.
    pub code: &'static str,
    /// Its English name.
    pub name: &'static str,
}

/// A text in several languages, by the code of ISO 639-2 for such.
pub(super) const SEVERAL: Language = Language { code: "mul", name: "several languages" };

/// Each language with its code of two letters, its code of ISO 639-3, and its English name.
const LANGUAGES: &[(&str, &str, &str)] = &[
    ("af", "afr", "Afrikaans"),
    ("ak", "aka", "Akan"),
    ("am", "amh", "Amharic"),
    ("ar", "ara", "Arabic"),
    ("az", "aze", "Azerbaijani"),
    ("be", "bel", "Belarusian"),
    ("bg", "bul", "Bulgarian"),
    ("bn", "ben", "Bengali"),
    ("ca", "cat", "Catalan"),
    ("cs", "ces", "Czech"),
    ("cy", "cym", "Welsh"),
    ("da", "dan", "Danish"),
    ("de", "deu", "German"),
    ("el", "ell", "Greek"),
    ("en", "eng", "English"),
    ("eo", "epo", "Esperanto"),
    ("es", "spa", "Spanish"),
    ("et", "est", "Estonian"),
    ("eu", "eus", "Basque"),
    ("fa", "pes", "Persian"),
    ("fi", "fin", "Finnish"),
    ("fr", "fra", "French"),
    ("ga", "gle", "Irish"),
    ("gl", "glg", "Galician"),
    ("gu", "guj", "Gujarati"),
    ("he", "heb", "Hebrew"),
    ("hi", "hin", "Hindi"),
    ("hr", "hrv", "Croatian"),
    ("hu", "hun", "Hungarian"),
    ("hy", "hye", "Armenian"),
    ("id", "ind", "Indonesian"),
    ("is", "isl", "Icelandic"),
    ("it", "ita", "Italian"),
    ("ja", "jpn", "Japanese"),
    ("jv", "jav", "Javanese"),
    ("ka", "kat", "Georgian"),
    ("km", "khm", "Khmer"),
    ("kn", "kan", "Kannada"),
    ("ko", "kor", "Korean"),
    ("la", "lat", "Latin"),
    ("lt", "lit", "Lithuanian"),
    ("lv", "lav", "Latvian"),
    ("mk", "mkd", "Macedonian"),
    ("ml", "mal", "Malayalam"),
    ("mr", "mar", "Marathi"),
    ("my", "mya", "Burmese"),
    ("ne", "nep", "Nepali"),
    ("nl", "nld", "Dutch"),
    ("no", "nob", "Norwegian"),
    ("or", "ori", "Oriya"),
    ("pa", "pan", "Punjabi"),
    ("pl", "pol", "Polish"),
    ("pt", "por", "Portuguese"),
    ("ro", "ron", "Romanian"),
    ("ru", "rus", "Russian"),
    ("si", "sin", "Sinhalese"),
    ("sk", "slk", "Slovak"),
    ("sl", "slv", "Slovene"),
    ("sn", "sna", "Shona"),
    ("sq", "sqi", "Albanian"),
    ("sr", "srp", "Serbian"),
    ("sv", "swe", "Swedish"),
    ("sw", "swa", "Swahili"),
    ("ta", "tam", "Tamil"),
    ("te", "tel", "Telugu"),
    ("th", "tha", "Thai"),
    ("tk", "tuk", "Turkmen"),
    ("tl", "tgl", "Tagalog"),
    ("tr", "tur", "Turkish"),
    ("uk", "ukr", "Ukrainian"),
    ("ur", "urd", "Urdu"),
    ("uz", "uzb", "Uzbek"),
    ("vi", "vie", "Vietnamese"),
    ("yi", "yid", "Yiddish"),
    ("zh", "cmn", "Chinese"),
    ("zu", "zul", "Zulu"),
];

/// Other names of some languages: their own, and English ones beside those of the table.
const OTHER_NAMES: &[(&str, &str)] = &[
    ("deutsch", "de"),
    ("français", "fr"),
    ("francais", "fr"),
    ("español", "es"),
    ("espanol", "es"),
    ("italiano", "it"),
    ("português", "pt"),
    ("nederlands", "nl"),
    ("svenska", "sv"),
    ("polski", "pl"),
    ("русский", "ru"),
    ("Slovenian", "sl"),
    ("Farsi", "fa"),
    ("Sinhala", "si"),
];

impl Language {
    /// The language with this code of two letters, or of three of ISO 639-3.
    pub(super) fn of(code: &str) -> Option<Language> {
        LANGUAGES
            .iter()
            .find(|(short, long, _)| *short == code || *long == code)
            .map(|(short, _, name)| Language { code: short, name })
    }
}

/// The names that [`language_tag`] knows, in English and some in their own languages.
pub fn language_names() -> impl Iterator<Item = &'static str> {
    LANGUAGES.iter().map(|(.., name)| *name).chain(OTHER_NAMES.iter().map(|(name, _)| *name))
}

/// The code of a language by its name, in English or its own: `de` for `German` and `deutsch`.
pub(crate) fn code_of_name(name: &str) -> Option<&'static str> {
    let name = name.trim().to_lowercase();
    let named = LANGUAGES.iter().map(|(code, _, name)| (*name, *code)).chain(OTHER_NAMES.iter().copied());
    named.into_iter().find(|(known, _)| known.to_lowercase() == name).map(|(_, code)| code)
}

/// Whether a text has the shape of a language tag: two or three letters, with parts behind hyphens or without.
pub(crate) fn is_tag(text: &str) -> bool {
    let primary = text.split('-').next().unwrap_or_default();
    (2..=3).contains(&primary.len()) && text.bytes().all(|byte| byte.is_ascii_alphanumeric() || byte == b'-')
}

/// The tag of a language that somebody has typed: `de` for `German`, and tags as they are. None if it is neither.
pub fn language_tag(typed: &str) -> Option<String> {
    let typed = typed.trim();
    if is_tag(typed) { Some(typed.to_owned()) } else { code_of_name(typed).map(str::to_owned) }
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
    fn languages_are_told_by_tag_or_name() {
        for (typed, tag) in
            [("German", Some("de")), ("español", Some("es")), ("pt-BR", Some("pt-BR")), ("klingon!", None)]
        {
            assert_eq!(language_tag(typed).as_deref(), tag, "{typed}");
        }
    }

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
    fn every_language_has_codes_and_names_of_its_own() {
        for (at, (short, long, name)) in LANGUAGES.iter().enumerate() {
            assert!(short.len() == 2 && long.len() == 3, "{name}");
            assert_eq!(Language::of(short), Language::of(long), "{name}");
            assert_eq!(code_of_name(name), Some(*short), "{name}");
            let (before, _) = LANGUAGES.split_at(at);
            assert!(before.iter().all(|other| (*short, *name) > (other.0, "") && other.2 != *name), "{name}");
        }
        for lang in whatlang::Lang::all() {
            assert!(Language::of(lang.code()).is_some(), "{lang}");
        }
    }
}
