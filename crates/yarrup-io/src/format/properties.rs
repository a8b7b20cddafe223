//! What an office file says of itself.

use quick_xml::events::Event;

use crate::documents::FieldsWriter;
use crate::format::package::{each_event, event_text};

/// Title, author and so on, as Dublin Core names them, under the names of our fields.
#[derive(Debug, Default)]
pub(super) struct Properties(Vec<(&'static str, String)>);

impl Properties {
    pub(super) fn of(xml: &[u8]) -> Properties {
        let mut found: Vec<(&'static str, String)> = Vec::new();
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
                    if found.iter().any(|(name, _)| Some(*name) == current) {
                        current = None;
                    }
                }
                Event::End(_) => current = None,
                other => {
                    if let (Some(name), Some(text)) = (current, event_text(other)) {
                        match found.iter_mut().find(|(known, _)| *known == name) {
                            Some((_, value)) => value.push_str(&text),
                            None => found.push((name, text)),
                        }
                    }
                }
            }
            Ok(())
        });
        Properties(found)
    }

    /// Writes all of them but for the title, which is given a name of its own where parts of the file have titles too.
    pub(super) fn write(&self, fields: &mut FieldsWriter, title: &str) {
        for (name, value) in &self.0 {
            fields.text_if_any(if *name == "title" { title } else { name }, value);
        }
    }
}
