//! German words that dictionaries list as words of their own: participles of regular verbs.

/// The endings of adjectives, the longest first.
const ENDINGS: [&str; 6] = ["en", "em", "er", "es", "e", ""];
/// Prefixes that stand before the `ge` of a participle, the longest first where one begins another.
pub(super) const PARTED: [&str; 38] = [
    "zusammen", "herunter", "hinunter", "zurück", "vorbei", "heraus", "hinaus", "herein", "hinein", "voraus",
    "weiter", "wieder", "nieder", "hervor", "statt", "durch", "unter", "über", "fest", "fort", "auf", "aus",
    "bei", "dar", "ein", "her", "hin", "los", "mit", "nach", "teil", "vor", "weg", "ab", "an", "um", "zu",
    "da",
];

/// Prefixes that leave no room for the `ge` of a participle.
pub(super) const FIXED: [&str; 10] =
    ["hinter", "wider", "miss", "ver", "ent", "emp", "zer", "be", "er", "ge"];

/// The infinitives that a participle (`gemacht`, `abgeholte`, `bezahlt`) may be of, likeliest first. The form is in small letters.
pub(super) fn infinitives(form: &str) -> Vec<String> {
    let mut found = Vec::new();
    for ending in ENDINGS {
        let Some(participle) = form.strip_suffix(ending).and_then(|rest| rest.strip_suffix('t')) else {
            continue;
        };
        for prefix in PARTED.into_iter().chain([""]) {
            let Some(stem) = participle.strip_prefix(prefix).and_then(|rest| rest.strip_prefix("ge")) else {
                continue;
            };
            add(prefix, stem, &mut found);
        }
        let is_fixed = FIXED.iter().any(|prefix| participle.starts_with(prefix));
        if is_fixed || participle.ends_with("ier") {
            add("", participle, &mut found);
        }
    }
    found
}

/// The infinitive that has `zu` inside: `abzubrechen`.
pub(super) fn without_zu(form: &str) -> Option<String> {
    PARTED.into_iter().find_map(|prefix| {
        let verb = form.strip_prefix(prefix)?.strip_prefix("zu")?;
        (verb.len() > 3 && verb.ends_with('n')).then(|| format!("{prefix}{verb}"))
    })
}

fn add(prefix: &str, stem: &str, found: &mut Vec<String>) {
    // `gearbeitet`: an `e` stands between `t` or `d` and the ending.
    let bare = stem.strip_suffix('e').filter(|bare| bare.ends_with(['t', 'd', 'n', 'm']));
    for stem in bare.into_iter().chain([stem]).filter(|stem| stem.len() > 2) {
        found.push(format!("{prefix}{stem}en"));
        if stem.ends_with("el") || stem.ends_with("er") {
            found.push(format!("{prefix}{stem}n"));
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn participles_lead_to_infinitives() {
        for (form, infinitive) in [
            ("gemacht", "machen"),
            ("gekaufte", "kaufen"),
            ("gearbeitet", "arbeiten"),
            ("abgeholt", "abholen"),
            ("gewandert", "wandern"),
            ("gesammeltes", "sammeln"),
            ("eingeordnet", "einordnen"),
            ("bezahltes", "bezahlen"),
            ("verwendet", "verwenden"),
            ("studiert", "studieren"),
        ] {
            assert!(infinitives(form).contains(&infinitive.to_owned()), "{form}: {:?}", infinitives(form));
        }
        // `gelegen` comes behind `legen`.
        assert_eq!(infinitives("gelegt")[0], "legen");
        assert!(infinitives("schnell").is_empty());
        assert_eq!(without_zu("abzubrechen").as_deref(), Some("abbrechen"));
        assert_eq!(without_zu("anzuwandern").as_deref(), Some("anwandern"));
        assert_eq!(without_zu("abzug"), None);
    }
}
