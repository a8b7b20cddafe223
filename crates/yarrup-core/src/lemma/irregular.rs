//! Irregular forms of languages whose dictionaries list them as words of their own: tables on the shelf, asked before the dictionary.

use std::sync::OnceLock;

use hashbrown::HashMap;

use crate::words::one_a_line;

type Table = HashMap<String, &'static str, foldhash::fast::RandomState>;

/// The languages that have a table, with the text of it.
pub(crate) static IRREGULAR: &[(&str, &str)] = &[
    ("de", include_str!("irregular-de.txt")),
    ("es", include_str!("irregular-es.txt")),
    ("fr", include_str!("irregular-fr.txt")),
    ("it", include_str!("irregular-it.txt")),
    ("nl", include_str!("irregular-nl.txt")),
    ("pl", include_str!("irregular-pl.txt")),
    ("pt", include_str!("irregular-pt.txt")),
    ("ru", include_str!("irregular-ru.txt")),
    ("sv", include_str!("irregular-sv.txt")),
];

/// Prefixes that make a verb of a German verb.
const GERMAN_PREFIXES: &[&str] = &[
    "ab", "an", "auf", "aus", "bei", "be", "dar", "durch", "ein", "emp", "ent", "er", "fest", "fort", "ge",
    "her", "heraus", "hervor", "hin", "hinaus", "hinter", "los", "miss", "mit", "nach", "nieder", "statt",
    "teil", "über", "um", "unter", "ver", "vor", "vorbei", "weg", "wider", "wieder", "zer", "zu", "zurück",
    "zusammen",
];

/// Prefixes that make a verb of a Dutch verb.
const DUTCH_PREFIXES: &[&str] = &[
    "aan", "achter", "af", "be", "bij", "binnen", "door", "er", "ge", "her", "in", "mee", "mis", "na",
    "neer", "om", "onder", "ont", "op", "over", "terug", "toe", "uit", "ver", "voor", "voorbij", "weer",
    "weg",
];

fn table(language: &str) -> Option<&'static Table> {
    static TABLES: [OnceLock<Table>; 9] = [const { OnceLock::new() }; 9];
    let number = IRREGULAR.iter().position(|(known, _)| *known == language)?;
    Some(TABLES.get(number)?.get_or_init(|| {
        let mut table = Table::default();
        for line in one_a_line(IRREGULAR[number].1) {
            let mut words = line.split_ascii_whitespace();
            let Some(lemma) = words.next() else { continue };
            for form in words {
                let (form, endings): (&str, &[&str]) =
                    match (form.strip_suffix('~'), form.strip_suffix('+'), language) {
                        (Some(past), ..) if past.ends_with('e') => (past, &["", "st", "n", "t"]),
                        (Some(past), ..) => (past, &["", "st", "est", "en", "t", "et"]),
                        (_, Some(participle), "de") => (participle, &["", "e", "er", "en", "em", "es"]),
                        (_, Some(participle), _) => (participle, &["", "e"]),
                        _ => (form, &[""]),
                    };
                for ending in endings {
                    table.entry(format!("{form}{ending}")).or_insert(lemma);
                }
            }
        }
        table
    }))
}

/// The lemma of an irregular form, or of one with a prefix before it: `ausgegangen` is of `ausgehen`. The form is in small letters.
pub(crate) fn irregular(language: &str, small: &str) -> Option<String> {
    let table = table(language)?;
    if let Some(lemma) = table.get(small) {
        return Some((*lemma).to_owned());
    }
    let prefixes = match language {
        "de" => GERMAN_PREFIXES,
        "nl" => DUTCH_PREFIXES,
        _ => return None,
    };
    // The longest prefix first: `herausging` is of `herausgehen`.
    let mut known: Vec<&&str> = prefixes.iter().filter(|prefix| small.starts_with(**prefix)).collect();
    known.sort_by_key(|prefix| std::cmp::Reverse(prefix.len()));
    known.into_iter().find_map(|prefix| {
        let rest = &small[prefix.len()..];
        let lemma = table.get(rest).filter(|lemma| lemma.len() > 3 && rest.len() > 3)?;
        // `bestand` is of `bestehen`, but `besser` and `Vorrat` are of no verb: what is left must be of one.
        lemma.ends_with('n').then(|| format!("{prefix}{lemma}"))
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn irregular_forms_lead_to_their_lemma() {
        for (language, form, lemma) in [
            ("de", "gingen", "gehen"),
            ("de", "ausgegangen", "ausgehen"),
            ("de", "verlorene", "verlieren"),
            ("de", "bestes", "gut"),
            ("de", "waren", "sein"),
            ("nl", "liepen", "lopen"),
            ("nl", "teruggekomen", "terugkomen"),
            ("nl", "kinderen", "kind"),
            ("sv", "böckerna", "bok"),
            ("sv", "sprang", "springa"),
            ("de", "wusstest", "wissen"),
        ] {
            assert_eq!(irregular(language, form).as_deref(), Some(lemma), "{form}");
        }
        assert_eq!(irregular("de", "nester"), None);
        assert_eq!(irregular("fr", "était").as_deref(), Some("être"));
        assert_eq!(irregular("xx", "était"), None);
    }
}
