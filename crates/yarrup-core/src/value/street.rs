//! Addresses of streets, by a pattern for each language: approximate. A name of a street with the number of a house is found; a name alone is not, nor is
//! a town.

use std::sync::OnceLock;

use regex::Regex;

/// The languages of a pattern, and the pattern.
type Street = (&'static [&'static str], Regex);

/// The sources of the patterns. A gap is a space on the same line.
const SOURCES: &[(&[&str], &str)] = &[
    (
        &["en"],
        r"\b(?:(?:Flat|Apt\.?|Apartment|Unit|Suite)[ \u{a0}]+\w{1,4},?[ \u{a0}]+)?\d{1,5}[A-Za-z]?(?:[-–/]\d{1,5}[A-Za-z]?)?,?[ \u{a0}]+(?:\p{Lu}[\p{L}'’.-]*[ \u{a0}]+){1,4}(?:Street|St|Road|Rd|Lane|Ln|Avenue|Ave|Drive|Dr|Close|Court|Ct|Place|Pl|Square|Sq|Way|Terrace|Crescent|Boulevard|Blvd|Row|Gardens|Grove|Mews|Quay|Parade|Walk|Highway|Hwy|Parkway|Pkwy|Alley|Rise|Wharf)\b",
    ),
    (
        &["de"],
        r"\b(?:(?:\p{Lu}[\p{L}.]*[ -]){0,3}\p{Lu}[\p{Ll}-]*(?:straße|strasse|str\.|gasse|weg|platz|allee|damm|ufer|steig|chaussee)|(?:\p{Lu}[\p{L}.]*[ -]){1,3}(?:Straße|Strasse|Str\.|Gasse|Weg|Platz|Allee|Damm|Ufer))[ \u{a0}]+\d{1,4}(?:[ \u{a0}]?[a-h])?\b",
    ),
    (
        &["fr"],
        r"\b\d{1,4}(?:[ \u{a0}]?(?:bis|ter|quater|[A-D]))?,?[ \u{a0}]+(?:[Rr]ue|[Aa]venue|[Aa]v\.|[Bb]oulevard|[Bb]d\.?|[Pp]lace|[Cc]hemin|[Aa]llée|[Ii]mpasse|[Qq]uai|[Rr]oute|[Cc]ours|[Ss]quare|[Pp]assage)[ \u{a0}]+(?:(?:de la|de l['’]|de|du|des|d['’]|la|le|les|l['’])[ \u{a0}]?)*\p{Lu}[\p{L}'’-]*(?:[ \u{a0}-]\p{Lu}[\p{L}'’-]*){0,3}",
    ),
    (
        &["es", "pt", "it"],
        r"(?:\b(?:[Cc]alle|[Aa]venida|[Aa]vda\.?|[Pp]laza|[Pp]aseo|[Cc]amino|[Rr]ua|[Tt]ravessa|[Pp]raça|[Vv]ia|[Vv]iale|[Pp]iazza|[Cc]orso|[Vv]icolo|[Ll]argo)|\bC/)[ \u{a0}]+(?:(?:de|del|la|las|los|el|da|do|das|dos|di|della|dei|degli|delle)[ \u{a0}]+)*\p{Lu}[\p{Ll}'’][\p{L}'’.-]*(?:[ \u{a0}]+(?:(?:de|del|la|las|los|da|do|das|dos|di|della|dei)[ \u{a0}]+)*\p{Lu}[\p{Ll}'’][\p{L}'’.-]*){0,3},?[ \u{a0}]+(?:n[º°.][ \u{a0}]?)?\d{1,5}(?:[ \u{a0}]?[a-h])?\b",
    ),
    (
        &["nl", "sv", "da", "no"],
        r"\b(?:\p{Lu}[\p{L}.]*[ \u{a0}]){0,2}\p{Lu}[\p{Ll}-]*(?:straat|laan|plein|gracht|kade|dijk|steeg|gatan|vägen|gata|veien|vej|gade|gränd)[ \u{a0}]+\d{1,4}(?:[ \u{a0}]?[a-h])?\b",
    ),
    (
        &["pl"],
        r"\b(?:ul|al|pl)\.[ \u{a0}]+\p{Lu}\p{Ll}[\p{L}.-]*(?:[ \u{a0}]+\p{Lu}\p{Ll}[\p{L}.-]*){0,2}[ \u{a0}]+\d{1,4}[a-zA-Z]?(?:/\d{1,4})?\b",
    ),
];

/// The patterns of addresses of streets in this language; of all languages that there are patterns for, where it is not known or has none.
pub(crate) fn street_patterns(language: Option<&str>) -> Vec<Regex> {
    static PATTERNS: OnceLock<Vec<Street>> = OnceLock::new();
    let all = PATTERNS.get_or_init(|| {
        let compiled =
            SOURCES.iter().filter_map(|(languages, source)| Some((*languages, Regex::new(source).ok()?)));
        compiled.collect()
    });
    let is_of = |(languages, _): &&Street| language.is_some_and(|language| languages.contains(&language));
    let own: Vec<Regex> = all.iter().filter(is_of).map(|(_, pattern)| pattern.clone()).collect();
    if own.is_empty() { all.iter().map(|(_, pattern)| pattern.clone()).collect() } else { own }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_pattern_compiles() {
        assert_eq!(street_patterns(None).len(), SOURCES.len());
        assert_eq!(street_patterns(Some("de")).len(), 1);
        assert_eq!(street_patterns(Some("ja")).len(), SOURCES.len());
    }

    #[test]
    fn streets_are_found_and_other_text_is_not() {
        // What stands in brackets is the address; a text without any has none.
        for (language, marked) in [
            ("en", "The hide is at [12 Marsh Lane], Saltmere."),
            ("en", "Send it to [Flat 3, 12b Old Harbour Road] by Friday"),
            ("en", "[221-223 Ferry St] and 12 Terns"),
            ("en", "We walked 12 Long Miles along the Road"),
            ("de", "Das Büro: [Lange Straße 5a], Saltmere; [Hafenstr. 12], [Am Alten Deich-Weg 3]"),
            ("de", "Der lange Weg nach Hause, 12 Kilometer"),
            ("de", "auf Platz 7; siehe Str. 38; [Am Platz 7] und [Bonner Str. 38]"),
            ("fr", "Venez au [12 bis, rue de la Grève] ou [3 quai du Port]."),
            ("fr", "dans la rue, 12 personnes"),
            ("es", "Vivo en [Calle de la Marisma 14] o [Avda. del Puerto, nº 3]"),
            ("pt", "na [Rua das Gaivotas, 21] há um ninho"),
            ("it", "in [Via Garzaia 7], vicino, via RFC 5077"),
            ("nl", "op de [Oude Havenstraat 8] en de gracht"),
            ("sv", "på [Strandvägen 7], inte vägen"),
            ("pl", "przy [ul. Długiej 5/7] w porcie"),
        ] {
            let text = marked.replace(['[', ']'], "");
            let expected: Vec<&str> =
                marked.split('[').skip(1).filter_map(|rest| rest.split(']').next()).collect();
            let patterns = street_patterns(Some(language));
            let found: Vec<&str> = patterns
                .iter()
                .flat_map(|pattern| pattern.find_iter(&text))
                .map(|hit| hit.as_str())
                .collect();
            assert_eq!(found, expected, "{marked}");
        }
    }
}
