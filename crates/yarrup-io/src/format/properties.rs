//! What an office file says of itself.

use quick_xml::events::Event;

use crate::documents::FieldsWriter;
use crate::format::code_page::of_code_page;
use crate::format::package::{each_event, event_text};

/// The most properties of an old file that are looked at.
const MOST_PROPERTIES: usize = 100;
/// The type of a property that is text in the code page of the file.
const TEXT: usize = 30;

/// Title, author and so on, as Dublin Core names them, under the names of our fields.
#[derive(Debug, Default, PartialEq, Eq)]
pub(super) struct Properties(Vec<(&'static str, String)>);

impl Properties {
    pub(super) fn of(xml: &[u8]) -> Properties {
        let mut found = Properties::default();
        let mut current: Option<&'static str> = None;
        // Without them the document is still whole.
        let _ = each_event(xml, |event| {
            match &event {
                Event::Start(element) => {
                    current = match element.local_name().as_ref() {
                        "title" => Some("title"),
                        "creator" | "initial-creator" => Some("author"),
                        "subject" => Some("subject"),
                        "keywords" | "keyword" => Some("keywords"),
                        "language" => Some("language"),
                        "created" | "creation-date" => Some("created"),
                        _ => None,
                    };
                    // Whoever wrote it last is named beside whoever wrote it first.
                    if found.0.iter().any(|(name, _)| Some(*name) == current) {
                        current = None;
                    }
                }
                Event::End(_) => current = None,
                other => {
                    if let (Some(name), Some(text)) = (current, event_text(other)) {
                        found.add(name, &text);
                    }
                }
            }
            Ok(())
        });
        found
    }

    /// Adds text to a property.
    pub(super) fn add(&mut self, name: &'static str, text: &str) {
        match self.0.iter_mut().find(|(known, _)| *known == name) {
            Some((_, value)) => value.push_str(text),
            None => self.0.push((name, text.to_owned())),
        }
    }

    /// The same of an old file: a set of properties (MS-OLEPS). What is damaged says nothing.
    pub(super) fn of_set(set: &[u8]) -> Properties {
        let u32_at = |at: usize| {
            let bytes = set.get(at..at.checked_add(4)?)?;
            Some(u32::from_le_bytes(bytes.try_into().ok()?) as usize)
        };
        let read = || {
            let section = u32_at(44)?;
            let count = u32_at(section.checked_add(4)?)?.min(MOST_PROPERTIES);
            let places = (0..count).filter_map(|index| {
                let at = section + 8 + 8 * index;
                Some((u32_at(at)?, section.checked_add(u32_at(at + 4)?)?))
            });
            let places: Vec<(usize, usize)> = places.collect();
            // The first says which code page the texts are in.
            let page = places.iter().find(|(number, _)| *number == 1).and_then(|(_, at)| u32_at(at + 4));
            let encoding = of_code_page(page.unwrap_or(1252) as i32 & 0xffff);
            let found = places.iter().filter_map(|(number, at)| {
                let name = match number {
                    2 => "title",
                    3 => "subject",
                    4 => "author",
                    5 => "keywords",
                    _ => return None,
                };
                let is_text = u32_at(*at)? == TEXT;
                let bytes = set.get(at + 8..at.checked_add(8 + u32_at(at + 4)?)?).filter(|_| is_text)?;
                let text = encoding.decode_without_bom_handling(bytes).0;
                Some((name, text.trim_end_matches('\0').to_owned()))
            });
            Some(Properties(found.collect()))
        };
        read().unwrap_or_default()
    }

    /// Writes all of them but for the title, which is given a name of its own where parts of the file have titles too.
    pub(super) fn write(&self, fields: &mut FieldsWriter, title: &str) {
        for (name, value) in &self.0 {
            fields.text_if_any(if *name == "title" { title } else { name }, value);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A set of one section, in which each property is its number and its text.
    fn set(page: u32, properties: &[(u32, &[u8])]) -> Vec<u8> {
        let mut values = vec![(1, [&2u32.to_le_bytes()[..], &page.to_le_bytes()].concat())];
        values.extend(properties.iter().map(|(number, text)| {
            let length = text.len() as u32;
            (*number, [&30u32.to_le_bytes()[..], &length.to_le_bytes(), text].concat())
        }));
        let mut section = [[0; 4], (values.len() as u32).to_le_bytes()].concat();
        let mut at = 8 + 8 * values.len();
        for (number, value) in &values {
            section.extend([number.to_le_bytes(), (at as u32).to_le_bytes()].concat());
            at += value.len();
        }
        values.iter().for_each(|(_, value)| section.extend(value));
        let mut set = vec![0; 48];
        set[44..48].copy_from_slice(&48u32.to_le_bytes());
        set.extend(section);
        set
    }

    #[test]
    fn sets_of_old_files_are_read_in_their_code_page() {
        let russian = set(1251, &[(2, b"\xcf\xf2\xe8\xf6\xfb\0"), (4, b"Mira\0\0"), (8, b"Bo")]);
        assert_eq!(
            Properties::of_set(&russian).0,
            [("title", "Птицы".to_owned()), ("author", "Mira".to_owned())]
        );
        // What is cut off says what is left of it, and nothing is no danger.
        for end in 0..russian.len() {
            assert!(Properties::of_set(&russian[..end]).0.len() <= 2);
        }
        assert_eq!(Properties::of_set(&[0xff; 300]).0, []);
    }
}
