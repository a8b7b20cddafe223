//! Irregular forms of languages whose dictionaries list them as words of their own: tables on the shelf, asked before the dictionary.

use std::sync::OnceLock;

use hashbrown::HashMap;

use crate::lemma::romance::plurals;
use crate::lemma::{dutch, german, is_infinitive, with_capital};
use crate::words::one_a_line;

type Table = HashMap<String, &'static str, foldhash::fast::RandomState>;

/// The languages that have a table, with the text of it.
pub(crate) static IRREGULAR: [(&str, &str); 15] = [
    ("ca", include_str!("irregular-ca.txt")),
    ("cs", include_str!("irregular-cs.txt")),
    ("da", include_str!("irregular-da.txt")),
    ("de", include_str!("irregular-de.txt")),
    ("es", include_str!("irregular-es.txt")),
    ("fr", include_str!("irregular-fr.txt")),
    ("it", include_str!("irregular-it.txt")),
    ("nb", include_str!("irregular-nb.txt")),
    ("nl", include_str!("irregular-nl.txt")),
    ("pl", include_str!("irregular-pl.txt")),
    ("pt", include_str!("irregular-pt.txt")),
    ("ro", include_str!("irregular-ro.txt")),
    ("ru", include_str!("irregular-ru.txt")),
    ("sv", include_str!("irregular-sv.txt")),
    ("uk", include_str!("irregular-uk.txt")),
];

fn table(language: &str) -> Option<&'static Table> {
    static TABLES: [OnceLock<Table>; IRREGULAR.len()] = [const { OnceLock::new() }; IRREGULAR.len()];
    let number = IRREGULAR.iter().position(|(known, _)| *known == language)?;
    Some(TABLES.get(number)?.get_or_init(|| {
        let mut table = Table::default();
        for line in one_a_line(IRREGULAR[number].1) {
            let mut words = line.split_ascii_whitespace();
            let Some(lemma) = words.next() else { continue };
            if let Some(noun) = lemma.strip_suffix('*') {
                table.entry(noun.to_owned()).or_insert(lemma);
                for form in made_forms(language, noun) {
                    table.entry(form).or_insert(lemma);
                }
                continue;
            }
            for form in words {
                let (form, endings) = endings_of(form, language);
                for ending in endings {
                    table.entry(format!("{form}{ending}")).or_insert(lemma);
                }
            }
        }
        // What is a lemma is a form of no other word.
        let lemmas: Vec<&'static str> = table.values().copied().collect();
        for lemma in lemmas.into_iter().filter(|lemma| !lemma.ends_with('*')) {
            table.entry(lemma.to_owned()).or_insert(lemma);
        }
        table
    }))
}

/// The form that a table lists, without its mark, and the endings that the mark stands for.
fn endings_of<'f>(form: &'f str, language: &str) -> (&'f str, &'static [&'static str]) {
    // A German noun: the dative plural is made.
    if language == "de" && form.starts_with(char::is_uppercase) {
        return (form, &["", "n"]);
    }
    if let Some(past) = form.strip_suffix('~') {
        return (
            past,
            if past.ends_with('e') { &["", "st", "n", "t"] } else { &["", "st", "est", "en", "t", "et"] },
        );
    }
    if let Some(past) = form.strip_suffix('^') {
        return (past, &["i", "e", "ero"]);
    }
    let Some(participle) = form.strip_suffix('+') else { return (form, &[""]) };
    let without = |ending: char| participle.strip_suffix(ending).unwrap_or(participle);
    match language {
        "de" => (participle, &["", "e", "er", "en", "em", "es"]),
        "cs" => (participle, &["", "a", "o", "i", "y"]),
        "da" if participle.ends_with(['e', 'r']) => (participle, &["", "s", "ne", "nes"]),
        "nb" if participle.ends_with("er") => (without('r'), &["r", "rs", "ne", "nes"]),
        "nb" if participle.ends_with('e') => (participle, &["", "s", "ne", "nes"]),
        "da" | "nb" => (participle, &["", "s", "ene", "enes"]),
        "ro" => (participle, &["", "i", "le", "lor"]),
        "uk" => (without('в'), &["в", "ла", "ло", "ли"]),
        "it" => (without('o'), &["o", "a", "i", "e"]),
        _ => (participle, &["", "e"]),
    }
}

/// The regular forms of a noun that is marked in the table: its plural, and in Danish and Norwegian all forms of a noun in `-e`.
fn made_forms(language: &str, noun: &str) -> Vec<String> {
    let with = |endings: &[&str]| endings.iter().map(|ending| format!("{noun}{ending}")).collect();
    match language {
        "de" => with(&["n"]),
        "da" => with(&["s", "n", "ns", "r", "rs", "rne", "rnes"]),
        "nb" => with(&["s", "n", "ns", "t", "ts", "r", "rs", "ne", "nes"]),
        _ => plurals(language, noun).into_iter().take(1).collect(),
    }
}

/// The noun that a form in German is of, where the table has the noun with a plural that is made.
pub(crate) fn german_noun(form: &str) -> Option<String> {
    let lemma = table("de")?.get(form).filter(|lemma| lemma.ends_with('*'))?;
    Some(unmarked(lemma).to_owned())
}

/// The singular of a German plural that changes its vowel, or of a noun that ends in one: `Handtücher` is of `Handtuch`.
pub(crate) fn german_singular(form: &str) -> Option<String> {
    let table = table("de")?;
    if let Some(lemma) = table.get(form).filter(|_| form.starts_with(char::is_uppercase)) {
        return Some((*lemma).to_owned());
    }
    // The longest last part first.
    form.char_indices().skip(3).find_map(|(at, _)| {
        let last = &form[at..];
        let noun = last.starts_with(char::is_lowercase).then(|| with_capital(last))?;
        // `Studenten` are no `Enten`.
        let lemma = table.get(noun.as_str()).filter(|lemma| noun.len() > 4 && !lemma.ends_with('*'))?;
        Some(format!("{}{}", &form[..at], lemma.to_lowercase()))
    })
}

/// The lemma of an irregular form. The form is in small letters.
pub(crate) fn irregular(language: &str, small: &str) -> Option<String> {
    table(language)?.get(small).map(|lemma| unmarked(lemma).to_owned())
}

/// A lemma without the mark of nouns whose plural is made.
fn unmarked(lemma: &'static str) -> &'static str {
    lemma.strip_suffix('*').unwrap_or(lemma)
}

/// The lemma of an irregular form of a German or Dutch verb with a prefix before it: `ausgegangen` is of `ausgehen`. The form is in small letters. Behind a
/// prefix, three letters may be many things: of `bekam` it is asked whether there is such a verb.
pub(crate) fn irregular_behind_prefix(
    language: &str,
    small: &str,
    has: impl Fn(&str) -> bool,
) -> Option<String> {
    let table = table(language)?;
    let (parted, fixed): (&[&str], &[&str]) = match language {
        "de" => (&german::PARTED, &german::FIXED),
        "nl" => (&dutch::PARTED, &dutch::FIXED),
        _ => return None,
    };
    // The longest prefix first: `herausging` is of `herausgehen`.
    let mut known: Vec<&&str> =
        parted.iter().chain(fixed).filter(|prefix| small.starts_with(**prefix)).collect();
    known.sort_by_key(|prefix| std::cmp::Reverse(prefix.len()));
    known.into_iter().find_map(|prefix| {
        let rest = &small[prefix.len()..];
        // `verbroken`: a fixed prefix stands where other participles have `ge`.
        let participle = || {
            let is_fixed = fixed.contains(prefix) && rest.ends_with("en");
            let found = is_fixed.then(|| table.get(format!("ge{rest}").as_str())).flatten();
            // `erlangen` has nothing to do with `gelingen`, nor `belegen` with `gelegen`.
            found.filter(|verb| !verb.starts_with("ge") && !has(rest))
        };
        let found = table.get(rest).or_else(participle);
        let lemma = found.filter(|lemma| lemma.len() > 3 && rest.len() > 2)?;
        // `bestand` is of `bestehen`, but `besser` and `Vorrat` are of no verb: what is left must be of one.
        let verb = Some(format!("{prefix}{lemma}")).filter(|_| lemma.ends_with('n'))?;
        // There is no verb like `bewaren` of `zijn`.
        (*lemma != "zijn" && (rest.len() > 3 || has(&verb))).then_some(verb)
    })
}

/// The lemma of an irregular form of a verb with any prefix before it, where there is such a verb: `riprese` is of `riprendere`. For languages with more
/// prefixes than can be listed. The form is in small letters.
pub(crate) fn irregular_behind_any_prefix(
    language: &str,
    small: &str,
    has: impl Fn(&str) -> bool,
) -> Option<String> {
    if !matches!(language, "cs" | "es" | "fr" | "it" | "pl" | "pt" | "ru" | "uk") {
        return None;
    }
    let table = table(language)?;
    small.char_indices().skip(1).take(6).find_map(|(at, _)| {
        let (prefix, rest) = small.split_at(at);
        let lemma = table.get(rest).filter(|lemma| rest.len() > 3 && is_infinitive(language, lemma))?;
        let verb = format!("{prefix}{lemma}");
        if has(&verb) {
            return Some(verb);
        }
        // `psát`, but `vypsat`.
        let short = verb.strip_suffix("át").map(|stem| format!("{stem}at")).filter(|_| language == "cs");
        short.filter(|verb| has(verb))
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
            ("de", "entnommen", "entnehmen"),
            ("nl", "verbroken", "verbreken"),
            ("de", "verlorene", "verlieren"),
            ("de", "bestes", "gut"),
            ("de", "waren", "sein"),
            ("de", "bekam", "bekommen"),
            ("de", "zulas", "zulas"),
            ("de", "schalten", "schalten"),
            ("fr", "fausses", "faux"),
            ("nl", "liepen", "lopen"),
            ("nl", "teruggekomen", "terugkomen"),
            ("nl", "kinderen", "kind"),
            ("sv", "böckerna", "bok"),
            ("sv", "sprang", "springa"),
            ("de", "wusstest", "wissen"),
            ("it", "scelsero", "scegliere"),
            ("it", "riprese", "riprendere"),
            ("it", "giochi", "gioco"),
            ("it", "città", "città"),
        ] {
            let has = |verb: &str| matches!(verb, "riprendere" | "bekommen");
            let found = irregular(language, form)
                .or_else(|| irregular_behind_prefix(language, form, has))
                .or_else(|| irregular_behind_any_prefix(language, form, has));
            assert_eq!(found.as_deref().unwrap_or(form), lemma, "{form}");
        }
        assert_eq!(irregular("de", "nester"), None);
        for (form, lemma) in [
            ("Büchern", "Buch"),
            ("Handtücher", "Handtuch"),
            ("Hauptstädten", "Hauptstadt"),
            ("Äpfel", "Apfel"),
        ] {
            assert_eq!(german_singular(form).as_deref(), Some(lemma), "{form}");
        }
        for form in ["Enten", "Ente"] {
            assert_eq!(german_noun(form).as_deref(), Some("Ente"));
        }
        assert_eq!(german_noun("Bücher"), None);
        for form in ["Nester", "Studenten", "Dokumenten"] {
            assert_eq!(german_singular(form), None);
        }
        assert_eq!(irregular("fr", "était").as_deref(), Some("être"));
        assert_eq!(irregular("xx", "était"), None);
    }

    #[test]
    fn every_listed_form_leads_to_its_lemma_and_no_lemma_leads_on() {
        let mut faults = Vec::new();
        for (language, text) in IRREGULAR {
            let mut first_of: std::collections::HashMap<String, &str> = Default::default();
            for line in one_a_line(text) {
                let mut words = line.split_ascii_whitespace();
                let lemma = words.next().unwrap_or_default();
                let forms: Vec<&str> = words.collect();
                if forms.is_empty() && !lemma.ends_with('*') {
                    faults.push(format!("{language}: `{line}` says nothing"));
                }
                if let Some(noun) = lemma.strip_suffix('*') {
                    for whole in made_forms(language, noun).into_iter().chain([noun.to_owned()]) {
                        first_of.entry(whole).or_insert(lemma);
                    }
                }
                for form in forms {
                    let (stem, endings) = endings_of(form, language);
                    for whole in endings.iter().map(|ending| format!("{stem}{ending}")) {
                        // Of a form that stands there twice, the first counts.
                        let first = *first_of.entry(whole.clone()).or_insert(lemma);
                        if irregular(language, &whole).as_deref() != Some(unmarked(first)) {
                            faults.push(format!("{language}: {whole} is not of {first}"));
                        }
                    }
                }
                // `wegen` is oftener several of `weg` than the verb, and so on.
                let is_both = matches!(
                    (language, lemma),
                    ("nl", "bevelen" | "graven" | "wegen") | ("ru", "есть") | ("sv", "låg") | ("it", "venti")
                );
                let on = irregular(language, lemma).filter(|_| !is_both && !lemma.ends_with('*'));
                if let Some(on) = on.filter(|on| on != lemma) {
                    faults.push(format!("{language}: {lemma} leads on to {on}"));
                }
            }
        }
        assert!(faults.is_empty(), "{}", faults.join("\n"));
    }
}
