//! Danish, Norwegian and Swedish: nouns whose definite forms look like those of other words, and regular past tenses.

/// The infinitives that a regular Swedish past tense may be of: `räknade`, `lärde`, `köpte`.
pub(super) fn swedish_infinitives(form: &str) -> Vec<String> {
    let stem = form.strip_suffix("de").or_else(|| form.strip_suffix("te"));
    let verb = stem.map(|stem| if stem.ends_with('a') { stem.to_owned() } else { format!("{stem}a") });
    verb.into_iter().collect()
}

/// The infinitive that a Swedish present tense may be of: `visar`, `byter`.
pub(super) fn swedish_present(form: &str) -> Option<String> {
    let stem = form.strip_suffix("ar").or_else(|| form.strip_suffix("er"))?;
    (stem.chars().count() > 1).then(|| format!("{stem}a"))
}

/// Forms that a Swedish verb may have, of which one shows that it is a verb: nouns in `-a` have no past tense, nor a present participle.
pub(super) fn swedish_signs_of_verb(infinitive: &str) -> [String; 4] {
    let stem = infinitive.strip_suffix('a').unwrap_or(infinitive);
    ["ade", "te", "de", "ande"].map(|ending| format!("{stem}{ending}"))
}

/// The infinitives that a regular past tense in Danish or Norwegian may be of: `kjøpte`, `levde`, `arbejdede`. `lette` is none: two letters come together.
pub(super) fn infinitives(form: &str) -> Vec<String> {
    let behind = |ending: &str, twice: char| form.strip_suffix(ending).filter(|stem| !stem.ends_with(twice));
    let stem = form.strip_suffix("ede").or_else(|| behind("te", 't')).or_else(|| behind("de", 'd'));
    let stem = stem.filter(|stem| stem.chars().count() > 2);
    stem.map(|stem| format!("{}e", stem.trim_end_matches('e'))).into_iter().collect()
}

/// The adjectives that a comparative or superlative in Danish or Norwegian may be of: `finere`, `smukkeste`.
pub(super) fn positives(form: &str) -> Vec<String> {
    let stem = ["ere", "este", "est"].iter().find_map(|ending| form.strip_suffix(ending));
    let Some(stem) = stem.filter(|stem| stem.chars().count() > 2) else { return Vec::new() };
    // `smuk` has its last letter twice before a vowel.
    let mut letters = stem.chars().rev();
    let is_double = letters.next() == letters.next();
    let single = is_double.then(|| {
        let mut word = stem.to_owned();
        word.pop();
        word
    });
    [Some(stem.to_owned()), single].into_iter().flatten().collect()
}

/// Of the nouns that a definite form may be of, which must be beginnings of it, the one that it is of: `husene` is of `hus` and not of the verb `huse`, but
/// `siden` is of `side` and not of `sid`; `lærerne` is of `lærer`, but `timerne` of `time`.
pub(super) fn definite_noun<'w>(
    form: &str,
    words: &[&'w str],
    is_verb: impl Fn(&str) -> bool,
) -> Option<&'w str> {
    if !["en", "et", "ne", "ens", "ets", "nes"].iter().any(|ending| form.ends_with(ending)) {
        return None;
    }
    let begins = |word: &&&str| word.len() < form.len() && form.starts_with(**word);
    let shortest = *words.iter().filter(begins).min_by_key(|word| word.len())?;
    let longer = |ending: &str| {
        words
            .iter()
            .find(|word| word.strip_suffix(ending) == Some(shortest) && form.starts_with(**word))
            .copied()
    };
    let with_e = longer("e").filter(|word| !word.ends_with("ere") && !is_verb(word));
    let agent = longer("r").filter(|_| is_verb(shortest));
    Some(with_e.or(agent).unwrap_or(shortest))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn definite_forms_are_of_their_nouns() {
        let is_verb = |word: &str| matches!(word, "huse" | "lære" | "folke");
        let table: [(&str, &[&str], &str); 6] = [
            ("husene", &["huse", "hus", "huser"], "hus"),
            ("siden", &["side", "sid"], "side"),
            ("lærerne", &["lærer", "lære"], "lærer"),
            ("timerne", &["timer", "time"], "time"),
            ("brukeren", &["brukere", "bruker"], "bruker"),
            ("folket", &["folke", "folk"], "folk"),
        ];
        for (form, words, noun) in table {
            assert_eq!(definite_noun(form, words, is_verb), Some(noun), "{form}");
        }
        assert_eq!(definite_noun("huse", &["hus"], is_verb), None);
    }

    #[test]
    fn past_tenses_lead_to_infinitives() {
        for (form, verb) in
            [("kjøpte", "kjøpe"), ("levde", "leve"), ("arbejdede", "arbejde"), ("tænkte", "tænke")]
        {
            assert_eq!(infinitives(form), [verb]);
        }
        for form in ["lette", "ete", "huset"] {
            assert!(infinitives(form).is_empty(), "{form}");
        }
        assert_eq!(swedish_infinitives("köpte"), ["köpa"]);
        assert_eq!(positives("finere"), ["fin"]);
        assert_eq!(positives("smukkeste"), ["smukk", "smuk"]);
        assert!(positives("best").is_empty());
    }
}
