//! Characters that XML writes by a name or a number.

use std::collections::HashMap;

/// How many entities of a document are known, and how long what they stand for may be: hostile files declare some that unpack without end.
const MOST: usize = 5_000;
const LONGEST: usize = 100;

/// The entities that a document declares for itself.
#[derive(Debug, Default)]
pub(in crate::format) struct Entities(HashMap<String, String>);

impl Entities {
    /// Those in a declaration of the document type. What they stand for is taken as it is: entities in it stay as they are written.
    pub(super) fn declared(doctype: &str) -> Entities {
        let mut declared = Entities::default();
        for declaration in doctype.split("<!ENTITY").skip(1).take(MOST) {
            let Some((name, rest)) = declaration.trim_start().split_once(char::is_whitespace) else {
                continue;
            };
            let rest = rest.trim_start();
            let Some(quote) = rest.chars().next().filter(|sign| matches!(sign, '"' | '\'')) else { continue };
            let Some((value, _)) = rest[1..].split_once(quote) else { continue };
            if value.len() <= LONGEST && !value.contains('<') {
                let value = Entities::default().resolved(value);
                // The first declaration counts (section 4.2).
                declared.0.entry(name.to_owned()).or_insert(value);
            }
        }
        declared
    }

    /// What stands between `&` and `;` as a text; as it is written if nobody knows it.
    pub(in crate::format) fn text_of(&self, name: &str) -> String {
        let numbered = name.strip_prefix('#').map(|digits| match digits.strip_prefix(['x', 'X']) {
            Some(digits) => u32::from_str_radix(digits, 16),
            None => digits.parse(),
        });
        let character = numbered.and_then(|code| char::from_u32(code.ok()?));
        match character {
            Some('\0') => '\u{fffd}'.to_string(),
            Some(character) => character.to_string(),
            None => match self.0.get(name) {
                Some(value) => value.clone(),
                // Those of XML are among those of HTML.
                None => html_escape::decode_html_entities(&format!("&{name};")).into_owned(),
            },
        }
    }

    /// A text with its entities as what they stand for.
    pub(super) fn resolved(&self, text: &str) -> String {
        let mut out = String::with_capacity(text.len());
        let mut rest = text;
        while let Some(at) = rest.find('&') {
            out.push_str(&rest[..at]);
            rest = &rest[at..];
            let end = rest.bytes().take(LONGEST).position(|byte| byte == b';');
            match end.filter(|end| *end > 1 && !rest[1..*end].contains(['&', ' ', '<'])) {
                Some(end) => {
                    out.push_str(&self.text_of(&rest[1..end]));
                    rest = &rest[end + 1..];
                }
                None => {
                    out.push('&');
                    rest = &rest[1..];
                }
            }
        }
        out.push_str(rest);
        out
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_and_numbers_are_resolved_and_what_is_unknown_stays() {
        let doctype = "DOCTYPE a [<!ENTITY tern 'Sterna &amp; co'><!ENTITY tern 'another'>\n<!ENTITY  gull \"a &tern; &#x65;\">\
                       <!ENTITY % x SYSTEM 'y.ent'><!ENTITY far SYSTEM \"far.xml\"><!ENTITY tag '<b>'>]>";
        let entities = Entities::declared(doctype);
        for (written, text) in [
            ("&lt;b&gt; &amp;amp; &quot;&apos;", "<b> &amp; \"'"),
            ("caf&#233; &#xE9;&#0;&#x110000;", "café é\u{fffd}&#x110000;"),
            ("&eacute;&nbsp;&mdash;", "é\u{a0}—"),
            ("&tern;", "Sterna & co"),
            ("&gull;", "a &tern; e"),
            ("&far; &tag; &unknown;", "&far; &tag; &unknown;"),
            ("R&D; a & b; &; AT&T", "R&D; a & b; &; AT&T"),
        ] {
            assert_eq!(entities.resolved(written), text, "{written}");
        }
        let long = format!("DOCTYPE a [<!ENTITY x '{}'>]", "ha".repeat(LONGEST));
        assert_eq!(Entities::declared(&long).resolved("&x;"), "&x;");
    }
}
