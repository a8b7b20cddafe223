//! Slavic languages: forms that their dictionaries list as words of their own, or lead to the less likely of two words.

/// The infinitives that a Czech past tense, or a first person of the present that the dictionary leads to, may be of: `psala`, `vidím`.
pub(super) fn czech_infinitives(small: &str, found: Option<&str>) -> Vec<String> {
    let mut verbs = Vec::new();
    if let Some(stem) = ["la", "lo", "li", "ly", "l"].iter().find_map(|ending| small.strip_suffix(ending))
        && let Some(vowel @ ('a' | 'e' | 'ě' | 'i' | 'u' | 'y')) = stem.chars().next_back()
    {
        let bare = &stem[..stem.len() - vowel.len_utf8()];
        let endings: &[&str] = match vowel {
            'a' => &["at", "át"],
            'e' => &["et", "ět", "ít"],
            'ě' => &["ět", "it"],
            'i' => &["it", "ít"],
            'y' => &["ýt"],
            _ => &["out"],
        };
        verbs.extend(endings.iter().map(|ending| format!("{bare}{ending}")));
    }
    if let Some(stem) = found.and_then(|found| found.strip_suffix("ím")) {
        verbs.extend(["ět", "it", "et"].map(|ending| format!("{stem}{ending}")));
    }
    verbs
}

/// Whether a form in Czech, Polish or Ukrainian has an ending of adjectives, which no noun with the same stem has.
pub(super) fn has_ending_of_adjectives(language: &str, form: &str) -> bool {
    let endings: &[&str] = match language {
        "cs" => &["ého", "ému", "ých", "ými", "ým", "ou"],
        "pl" => &["ego", "emu", "ych", "ich", "ymi", "imi", "ej", "e"],
        "uk" => &["ого", "ому", "ої", "ій", "их", "им", "ими", "іх", "ім"],
        _ => &[],
    };
    endings.iter().any(|ending| form.ends_with(ending))
}

/// Whether a word is the masculine of an adjective of Czech, Polish or Ukrainian of which `noun` looks like another gender: `новий` and `нове`.
pub(super) fn is_masculine_of(language: &str, word: &str, noun: &str) -> bool {
    let masculine: &[&str] = if language == "pl" { &["y", "i"] } else { &["ý", "ий", "ій"] };
    let stem = masculine.iter().find_map(|ending| word.strip_suffix(ending));
    let behind = stem.and_then(|stem| noun.strip_prefix(stem));
    behind.is_some_and(|ending| matches!(ending, "a" | "o" | "á" | "é" | "а" | "е" | "о" | "є" | "я"))
}

/// Whether a form is the adverb of an adjective of Czech or Ukrainian, which is a word of its own: `česky`, `lokálně`, `типово`.
pub(super) fn is_adverb_of(language: &str, form: &str, adjective: &str) -> bool {
    match language {
        "cs" => {
            adjective.ends_with(['ý', 'í'])
                && ["ě", "e", "sky", "cky"].iter().any(|ending| form.ends_with(ending))
        }
        "uk" => adjective.strip_suffix("ий").is_some_and(|stem| form.strip_suffix('о') == Some(stem)),
        _ => false,
    }
}

/// The adjective that a comparative or superlative of Czech or Ukrainian is of, where there is one: `krásnější`, `гарніший`.
pub(super) fn positive(language: &str, adjective: &str, has: impl Fn(&str) -> bool) -> Option<String> {
    let (most, endings, bare): (&str, &[&str], &[&str]) = match language {
        "cs" => ("nej", &["ější", "ejší"], &["ý", "í"]),
        "uk" => ("най", &["іший"], &["ий", "ій"]),
        _ => return None,
    };
    let stem = endings.iter().find_map(|ending| adjective.strip_suffix(ending))?;
    let stems = [Some(stem), stem.strip_prefix(most)].into_iter().flatten();
    stems.flat_map(|stem| bare.iter().map(move |bare| format!("{stem}{bare}"))).find(|word| has(word))
}

/// Whether a form in Ukrainian may be a past tense.
pub(super) fn may_be_ukrainian_past(form: &str) -> bool {
    ["ла", "ло", "ли", "в"].iter().any(|ending| form.ends_with(ending))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn czech_past_tenses_lead_to_infinitives() {
        for (form, found, verb) in [
            ("psala", None, "psát"),
            ("dělali", None, "dělat"),
            ("viděl", None, "vidět"),
            ("vidí", Some("vidím"), "vidět"),
            ("zapomenul", None, "zapomenout"),
            ("koupilo", None, "koupit"),
        ] {
            assert!(czech_infinitives(form, found).contains(&verb.to_owned()), "{form}");
        }
        assert!(czech_infinitives("sklo", None).is_empty());
        let has = |word: &str| matches!(word, "krásný" | "гарний");
        for (language, form, word) in [("cs", "nejkrásnější", "krásný"), ("uk", "гарніший", "гарний")]
        {
            assert_eq!(positive(language, form, has).as_deref(), Some(word));
        }
        assert_eq!(positive("cs", "zdejší", has), None);
        assert!(is_masculine_of("uk", "новий", "нове") && is_masculine_of("cs", "nový", "nova"));
        assert!(is_masculine_of("pl", "nowy", "nowa") && !is_masculine_of("cs", "nowy", "nowa"));
        assert!(!is_masculine_of("uk", "новий", "новина"));
        assert!(is_adverb_of("cs", "lokálně", "lokální") && is_adverb_of("uk", "типово", "типовий"));
        assert!(!is_adverb_of("cs", "nové", "nový") && !is_adverb_of("uk", "нове", "новий"));
    }
}
