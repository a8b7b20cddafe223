//! Regular Dutch words by the rules of Dutch spelling, for dictionaries that list their forms as words of their own.
//!
//! A long vowel is doubled in a closed syllable (`maak`) and single in an open one (`maken`); behind a short vowel a consonant is doubled (`zit`, `zitten`);
//! `v` and `z` are `f` and `s` at the end of a syllable (`leef`, `leven`; `reis`, `reizen`).

fn is_vowel(c: char) -> bool {
    matches!(c, 'a' | 'e' | 'i' | 'o' | 'u' | 'y' | 'ë' | 'ï' | 'é' | 'ĳ')
}

/// The verbs that a stem may be of, likeliest first: `maak`, `maken`.
pub(super) fn verbs(stem: &str) -> Vec<String> {
    let letters: Vec<char> = stem.chars().collect();
    let mut found = Vec::new();
    let Some((&last, before)) = letters.split_last() else { return found };
    let soft = match last {
        'f' => Some('v'),
        's' => Some('z'),
        _ => None,
    };
    let text = |letters: &[char], last: char| letters.iter().collect::<String>() + &format!("{last}en");
    if let [rest @ .., first, second] = before
        && is_vowel(*second)
        && !is_vowel(last)
    {
        if first == second && "aeou".contains(*second) {
            let open: Vec<char> = rest.iter().chain([second]).copied().collect();
            found.extend(soft.map(|soft| text(&open, soft)));
            found.push(text(&open, last));
        } else if !is_vowel(*first) {
            found.push(format!("{stem}{last}en"));
        }
    }
    found.extend(soft.map(|soft| text(before, soft)));
    found.push(format!("{stem}en"));
    found
}

/// Whether a form is a stem with the ending of a verb: `werkte`, `leeft`.
pub(super) fn is_verbal(form: &str, stem: &str) -> bool {
    let ending = form.strip_prefix(stem).unwrap_or_default();
    matches!(ending, "t" | "te" | "ten" | "de" | "den") && stem.len() > 1
}

/// Prefixes that stand before the `ge` of a participle, the longest first where one begins another.
pub(super) const PARTED: [&str; 24] = [
    "terug", "voorbij", "samen", "binnen", "onder", "over", "door", "achter", "voor", "neer", "mede", "aan",
    "bij", "uit", "mee", "weg", "toe", "op", "af", "in", "om", "na", "los", "vast",
];

/// Prefixes of verbs that leave no room for the `ge` of a participle.
pub(super) const FIXED: [&str; 8] = ["ver", "be", "ont", "her", "ge", "er", "mis", "weer"];

/// Whether a word in `-en` has a prefix that few words but verbs have: `verkopen` is a verb rather than several sales.
pub(super) fn has_verbal_prefix(form: &str) -> bool {
    form.ends_with("en")
        && FIXED.iter().any(|prefix| form.strip_prefix(prefix).is_some_and(|rest| rest.len() > 4))
}

/// The verbs that a regular participle may be of, likeliest first: `gemaakt`, `opgebelde`. The form is in small letters.
pub(super) fn participles(form: &str) -> Vec<String> {
    let mut found = Vec::new();
    let participle = form.strip_suffix('e').filter(|bare| bare.ends_with(['t', 'd'])).unwrap_or(form);
    for prefix in PARTED.into_iter().chain([""]) {
        let Some(rest) = participle.strip_prefix(prefix).and_then(|rest| rest.strip_prefix("ge")) else {
            continue;
        };
        // `gepraat`, `gered`: the ending may be part of the stem.
        let stems = rest.strip_suffix(['t', 'd']).into_iter().flat_map(|stem| [stem, rest]);
        let stems = stems.filter(|stem| stem.len() > 1);
        found.extend(stems.flat_map(verbs).map(|verb| format!("{prefix}{verb}")));
    }
    for prefix in FIXED {
        let stem = participle.strip_prefix(prefix).and_then(|rest| rest.strip_suffix(['t', 'd']));
        if let Some(stem) = stem.filter(|stem| stem.len() > 2) {
            found.extend(verbs(stem).into_iter().map(|verb| format!("{prefix}{verb}")));
        }
    }
    found
}

/// The nouns that a plural in `-en` may be of, likeliest first: `bomen`, `boom`. The form is in small letters.
pub(super) fn singulars(form: &str) -> Vec<String> {
    let Some(stem) = form.strip_suffix("en") else { return Vec::new() };
    let letters: Vec<char> = stem.chars().collect();
    let mut found = Vec::new();
    let Some((&last, before)) = letters.split_last() else { return found };
    let hard = match last {
        'v' => 'f',
        'z' => 's',
        other => other,
    };
    if let [.., first, second] = before
        && "aeou".contains(*second)
        && !is_vowel(*first)
        && !is_vowel(last)
    {
        found.push(before.iter().chain([second, &hard]).collect());
    }
    let short = before.last() == Some(&last) && !is_vowel(last);
    found.push(before.iter().chain((!short).then_some(&hard)).collect());
    found
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn regular_forms_lead_to_their_words() {
        for (form, verb) in [
            ("gewerkt", "werken"),
            ("gemaakt", "maken"),
            ("opgebelde", "opbellen"),
            ("gepraat", "praten"),
            ("betaald", "betalen"),
        ] {
            let found = participles(form);
            assert!(found.contains(&verb.to_owned()), "{form}: {found:?}");
        }
        for (stem, verb) in [
            ("werk", "werken"),
            ("maak", "maken"),
            ("leef", "leven"),
            ("reis", "reizen"),
            ("stop", "stoppen"),
        ] {
            let found = verbs(stem);
            assert!(found.contains(&verb.to_owned()), "{stem}: {found:?}");
        }
        assert!(is_verbal("werkte", "werk") && !is_verbal("grote", "groot") && !is_verbal("boeken", "boek"));
        for (form, singular) in
            [("bomen", "boom"), ("brieven", "brief"), ("huizen", "huis"), ("katten", "kat")]
        {
            assert!(singulars(form).contains(&singular.to_owned()), "{form}: {:?}", singulars(form));
        }
    }
}
