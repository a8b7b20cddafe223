//! Markdown (CommonMark with tables), with fields in front of it where there are some.

use pulldown_cmark::{Event, HeadingLevel, MetadataBlockKind, Options, Parser, Tag, TagEnd};

use crate::documents::{
    FieldsWriter, Format, Input, Out, RawDocument, ReadError, Reader, Start, Unit, WholeFile,
};
use crate::format::facts;
use crate::record::members::Members;
use crate::sidecar::side_fields;

pub(crate) struct Markdown;

impl Reader for Markdown {
    fn format(&self) -> Format {
        Format::of(&facts::MARKDOWN)
    }

    fn recognises(&self, _start: &Start<'_>) -> bool {
        false
    }

    fn read(&self, input: &mut Input<'_>, out: &mut dyn Out) -> Result<(), ReadError> {
        let name = input.name.clone();
        let by_section = out.options().unit_or(Unit::File) == Unit::Section;
        let (text, broken_bytes) = input.whole_text(out.options().encoding)?;
        out.give(WholeFile {
            bytes: text.len() as u64,
            take_out: move || documents(&name, &text, by_section, broken_bytes),
        })
    }
}

/// A part of the text, from a heading on.
#[derive(Default)]
struct Section {
    title: String,
    text: String,
}

fn documents(
    name: &str,
    markdown: &str,
    by_section: bool,
    broken_bytes: u64,
) -> Result<Vec<RawDocument>, String> {
    let (front, sections) = read(markdown, by_section);
    let front = match front {
        Some(front) => side_fields("front.yaml", front.as_bytes())
            .map_err(|why| format!("the fields in front: {why}"))?,
        None => "{}".to_owned(),
    };
    let front = Members::read(&front).unwrap_or_default();
    let several = by_section;
    let document = |(index, section): (usize, Section)| {
        let mut fields = FieldsWriter::default();
        for (name, value) in front.iter() {
            if name != "text" && !(several && name == "title") {
                fields.json(name, value.get());
            }
        }
        if several || !front.has("title") {
            fields.text_if_any("title", &section.title);
        }
        if several {
            fields.number("section", index + 1);
        }
        let id = if several { format!("{name}:{}", index + 1) } else { name.to_owned() };
        RawDocument { id, fields: fields.finish(), text: Some(section.text.trim().to_owned()), broken_bytes }
    };
    Ok(sections.into_iter().enumerate().map(document).collect())
}

/// The fields in front, and the sections; one of them if there are to be no several.
fn read(markdown: &str, by_section: bool) -> (Option<String>, Vec<Section>) {
    let options = Options::ENABLE_TABLES
        | Options::ENABLE_FOOTNOTES
        | Options::ENABLE_STRIKETHROUGH
        | Options::ENABLE_TASKLISTS
        | Options::ENABLE_YAML_STYLE_METADATA_BLOCKS;
    let (mut front, mut in_front) = (None, false);
    let mut sections: Vec<Section> = Vec::new();
    let mut section = Section::default();
    let mut heading: Option<HeadingLevel> = None;
    for event in Parser::new_ext(markdown, options) {
        match event {
            Event::Start(Tag::MetadataBlock(MetadataBlockKind::YamlStyle)) => in_front = true,
            Event::End(TagEnd::MetadataBlock(_)) => in_front = false,
            Event::Text(text) if in_front => front.get_or_insert_with(String::new).push_str(&text),
            Event::Start(Tag::Heading { level, .. }) => {
                if by_section && !section.text.trim().is_empty() {
                    sections.push(std::mem::take(&mut section));
                }
                // The title of the whole is its first heading.
                heading = (by_section || section.title.is_empty()).then_some(level);
            }
            Event::End(TagEnd::Heading(_)) => {
                heading = None;
                section.text.push_str("\n\n");
            }
            Event::Text(text) | Event::Code(text) | Event::InlineMath(text) | Event::DisplayMath(text) => {
                if heading.is_some() {
                    section.title.push_str(&text);
                }
                section.text.push_str(&text);
            }
            Event::SoftBreak
            | Event::HardBreak
            | Event::End(TagEnd::Item | TagEnd::TableHead | TagEnd::TableRow) => {
                section.text.push('\n');
            }
            Event::End(TagEnd::TableCell) => section.text.push('\t'),
            Event::End(
                TagEnd::Paragraph
                | TagEnd::CodeBlock
                | TagEnd::List(_)
                | TagEnd::BlockQuote(_)
                | TagEnd::Table,
            ) => {
                section.text.push_str("\n\n");
            }
            // A tag inside the text is no text, but parts words.
            Event::InlineHtml(tag) if tag.to_ascii_lowercase().starts_with("<br") => section.text.push('\n'),
            _ => {}
        }
    }
    if !section.text.trim().is_empty() || sections.is_empty() {
        sections.push(section);
    }
    for section in &mut sections {
        while section.text.contains("\n\n\n") {
            section.text = section.text.replace("\n\n\n", "\n\n");
        }
    }
    (front, sections)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn markdown_becomes_its_text() {
        let markdown = "---\nward: Gull Hide\nvisits: 3\n---\n# The *hide*\n\nSand in [everything](https://example.org).\n\n- one\n- two\n\n## Later\n\n`key` on a string\n";
        let documents = documents("hide.md", markdown, false, 0).expect("markdown");
        assert_eq!(documents.len(), 1);
        assert_eq!(documents[0].fields, r#"{"ward":"Gull Hide","visits":3,"title":"The hide"}"#);
        assert_eq!(
            documents[0].text.as_deref(),
            Some("The hide\n\nSand in everything.\n\none\ntwo\n\nLater\n\nkey on a string")
        );
        let sections = super::documents("hide.md", markdown, true, 0).expect("markdown");
        let titles: Vec<_> = sections.iter().map(|section| section.fields.as_str()).collect();
        assert_eq!(
            titles,
            [
                r#"{"ward":"Gull Hide","visits":3,"title":"The hide","section":1}"#,
                r#"{"ward":"Gull Hide","visits":3,"title":"Later","section":2}"#
            ]
        );
    }
}
