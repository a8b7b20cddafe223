//! How documents are written behind the recipe.

use yarrup_core::{Cleaned, Fields as _};

use crate::record::lines::Lines;
use crate::record::members::{
    Found, Members, separate, write_number, write_raw, write_text, write_value_without,
};
use crate::record::{Carried, FieldType, LANGUAGE, Malformed, Record, Selection, write_cell};

/// How a document is written into a run folder: id, title, carried fields, original text, cleaned text, token counts.
#[derive(Clone, Debug, Default)]
pub struct DocumentOutput {
    /// Leaves the original text out.
    pub without_originals: bool,
}

/// Whether the tool gives this name to a column of its own. A carried field of such a name gets `carried_` in front.
fn is_own_name(name: &str) -> bool {
    matches!(name, "clean" | "id" | "text" | "title" | "tokens_before" | "tokens_after")
}

impl DocumentOutput {
    /// Appends one line of JSON.
    pub fn write(&self, record: &Record<'_>, cleaned: &Cleaned<'_>, lines: &mut Lines) {
        self.write_found(record, lines);
        lines.bytes.extend_from_slice(b",\"clean\":");
        lines.text(cleaned.clean);
        let out = &mut lines.bytes;
        out.extend_from_slice(b",\"tokens_before\":");
        write_number(cleaned.tokens_before, out);
        out.extend_from_slice(b",\"tokens_after\":");
        write_number(cleaned.tokens_after, out);
        out.extend_from_slice(b"}\n");
    }

    /// Appends a line of which the end was written before: what stands behind the document as it was found, as [`behind_found`] tells it.
    pub(crate) fn write_again(&self, record: &Record<'_>, behind: &[u8], lines: &mut Lines) {
        self.write_found(record, lines);
        lines.bytes.extend_from_slice(behind);
    }

    /// Appends the document as it was found.
    fn write_found(&self, record: &Record<'_>, lines: &mut Lines) {
        let out = &mut lines.bytes;
        let selection = record.selection;
        out.extend_from_slice(b"{\"id\":");
        record.write_chosen(selection.id_path(), &record.id, !record.id_made, out);
        if let (Some(title), Some(path)) = (&record.title, &selection.title) {
            out.extend_from_slice(b",\"title\":");
            record.write_chosen(path, title, true, out);
        }
        let begin = |name: &str, out: &mut Vec<u8>| self.begin_carried(selection, name, out);
        match &record.carried {
            Carried::Members(members) | Carried::Body(_, members) => {
                self.write_carried(selection, members, &|_| false, out);
            }
            Carried::Cells(columns, cells) => {
                for (column, cell) in columns.iter().zip(cells) {
                    if begin(&column.name, out) {
                        write_cell(cell, column.kind, out);
                    }
                }
            }
        }
        if let Some(side) = record.side {
            // What stands in the file itself counts more than what its side file says of it.
            self.write_carried(selection, side, &|name| record.carried.has(name), out);
        }
        for (name, condition) in &record.selection.derived {
            if begin(name, out) {
                out.extend_from_slice(if record.meets_derived(condition) { b"true" } else { b"false" });
            }
        }
        // Steps go by it, under whatever name the source has it.
        if (selection.detects_language || selection.language.is_some()) && !record.has(LANGUAGE) {
            out.extend_from_slice(b",\"language\":");
            match record.field(LANGUAGE) {
                Some(language) => write_text(&language, out),
                None => out.extend_from_slice(b"null"),
            }
        }
        if !self.without_originals {
            out.extend_from_slice(b",\"text\":");
            match record.written_text {
                Some(written) => lines.json(written),
                None => lines.text(&record.text),
            }
        }
    }

    fn write_carried(
        &self,
        selection: &Selection,
        members: &Members<'_>,
        left_out: &dyn Fn(&str) -> bool,
        out: &mut Vec<u8>,
    ) {
        for (key, value) in members.iter() {
            if left_out(key) || !self.begin_carried(selection, key, out) {
                continue;
            }
            let kind = selection.types.iter().find(|(name, _)| name == key).map(|(_, kind)| *kind);
            // What is not there is not a text of no letters.
            let kind = kind.filter(|_| value.get() != "null");
            match kind.map(|kind| (kind, Members::text_of(value, key))) {
                Some((FieldType::Text, Found::Text(text))) => write_text(&text, out),
                Some((kind, Found::Text(text))) if value.get().starts_with('"') => {
                    write_cell(&text, kind, out);
                }
                _ if value.get().starts_with('{') && self.without_originals => {
                    let paths: Vec<&str> = selection.text_paths().collect();
                    write_value_without(key, value, &paths, out);
                }
                _ => write_raw(value.get(), out),
            }
        }
    }

    /// Writes the name of a carried field; false if the field is written elsewhere, or not at all.
    fn begin_carried(&self, selection: &Selection, name: &str, out: &mut Vec<u8>) -> bool {
        // A field that is the text, or part of it, stays under its name; under `text` stands the text that was cleaned.
        let is_the_text = name == "text" && selection.text.len() < 2;
        // A field that is the id or the title stays under its own name besides.
        let is_written = matches!(name, "id" | "title")
            && (selection.id_path() == name || selection.title.as_deref() == Some(name));
        if is_written || selection.is_text(name) && (self.without_originals || is_the_text) {
            return false;
        }
        out.push(b',');
        let own = is_own_name(name) && !(name == "title" && selection.title.is_none());
        if own {
            write_text(&format!("carried_{name}"), out);
        } else {
            write_text(name, out);
        }
        out.push(b':');
        true
    }
}

/// What stands in a line of a run behind the document as it was found: `,"clean":` and all that follows. None if it is no such line.
pub(crate) fn behind_found(line: &[u8]) -> Option<&[u8]> {
    // Within strings quotes are escaped, and fields of such a name are called otherwise; an object that is a field may have it.
    memchr::memmem::rfind(line, b",\"clean\":").map(|at| &line[at..])
}

/// How documents go on through a pipe.
#[derive(Clone, Debug)]
pub enum PipeOutput {
    /// The object as it came, with what was derived of it and `clean` added, and `tokens` if asked for.
    Objects(PipedObjects),
    /// The cleaned text alone, on one line.
    Lines,
}

/// How objects go on through a pipe.
#[derive(Clone, Debug, Default)]
pub struct PipedObjects {
    /// Adds the kept tokens.
    pub tokens: bool,
    /// The names of the labels that tokens may have, in the order of their bits.
    pub labels: Vec<String>,
    /// Adds how many tokens there were, as found and in the end.
    pub counts: bool,
}

impl PipeOutput {
    /// Appends the line of a document. `left_out` says why a step has left it out, if one has.
    pub fn write(
        &self,
        record: &Record<'_>,
        cleaned: &Cleaned<'_>,
        left_out: Option<&str>,
        out: &mut Vec<u8>,
    ) {
        match self {
            PipeOutput::Objects(objects) => objects.write(record, cleaned, left_out, out),
            PipeOutput::Lines => {
                let clean = if left_out.is_some() { "" } else { cleaned.clean };
                let breaks = |byte: &u8| matches!(byte, b'\n' | b'\r');
                out.extend(clean.bytes().map(|byte| if breaks(&byte) { b' ' } else { byte }));
                out.push(b'\n');
            }
        }
    }

    /// Appends the line of what was no document: why, and what it was.
    pub fn write_malformed(&self, malformed: &Malformed, out: &mut Vec<u8>) {
        if let PipeOutput::Objects(_) = self {
            out.extend_from_slice(b"{\"error\":");
            write_text(&malformed.why.to_string(), out);
            out.extend_from_slice(b",\"place\":");
            write_text(&malformed.place, out);
            out.extend_from_slice(b",\"line\":");
            match &malformed.line {
                Some(line) => write_text(line, out),
                None => out.extend_from_slice(b"null"),
            }
            out.push(b'}');
        }
        out.push(b'\n');
    }
}

impl PipedObjects {
    fn write(&self, record: &Record<'_>, cleaned: &Cleaned<'_>, left_out: Option<&str>, out: &mut Vec<u8>) {
        let is_own = |key: &str| {
            key == "clean"
                || (self.tokens && key == "tokens")
                || (self.counts && matches!(key, "tokens_before" | "tokens_after"))
                || record.selection.derived.iter().any(|(name, _)| name == key)
        };
        out.push(b'{');
        let mut first = true;
        if let Carried::Members(members) = &record.carried {
            for (key, value) in members.iter().filter(|(key, _)| !is_own(key)) {
                separate(&mut first, out);
                write_text(key, out);
                out.push(b':');
                write_raw(value.get(), out);
            }
        }
        for (name, condition) in &record.selection.derived {
            separate(&mut first, out);
            write_text(name, out);
            out.push(b':');
            out.extend_from_slice(if record.meets_derived(condition) { b"true" } else { b"false" });
        }
        if record.selection.detects_language && !record.has(LANGUAGE) {
            separate(&mut first, out);
            out.extend_from_slice(b"\"language\":");
            match record.field(LANGUAGE) {
                Some(language) => write_text(&language, out),
                None => out.extend_from_slice(b"null"),
            }
        }
        if let Some(reason) = left_out {
            separate(&mut first, out);
            out.extend_from_slice(b"\"clean\":null,\"left_out\":");
            write_text(reason, out);
            out.extend_from_slice(b"}\n");
            return;
        }
        separate(&mut first, out);
        out.extend_from_slice(b"\"clean\":");
        write_text(cleaned.clean, out);
        if self.counts {
            out.extend_from_slice(b",\"tokens_before\":");
            write_number(cleaned.tokens_before, out);
            out.extend_from_slice(b",\"tokens_after\":");
            write_number(cleaned.tokens_after, out);
        }
        if self.tokens {
            self.write_tokens(record, cleaned, out);
        }
        out.extend_from_slice(b"}\n");
    }

    fn write_tokens(&self, record: &Record<'_>, cleaned: &Cleaned<'_>, out: &mut Vec<u8>) {
        out.extend_from_slice(b",\"tokens\":[");
        for (number, token) in cleaned.tokens().enumerate() {
            out.extend_from_slice(if number == 0 { b"{\"term\":" } else { b",{\"term\":" });
            write_text(token.term, out);
            out.extend_from_slice(b",\"text\":");
            write_text(token.span.of(&record.text), out);
            out.extend_from_slice(
                format!(
                    ",\"start\":{},\"end\":{},\"kind\":\"{}\"",
                    token.span.start,
                    token.span.end,
                    token.kind.name()
                )
                .as_bytes(),
            );
            if let Some(tag) = token.tag {
                out.extend_from_slice(b",\"tag\":");
                write_text(tag.code(), out);
            }
            if let Some(lemma) = token.lemma {
                out.extend_from_slice(b",\"lemma\":");
                write_text(lemma, out);
            }
            if token.labels != 0 {
                out.extend_from_slice(b",\"labels\":[");
                let mut first = true;
                for (_, label) in
                    self.labels.iter().enumerate().filter(|(bit, _)| token.labels >> bit & 1 == 1)
                {
                    separate(&mut first, out);
                    write_text(label, out);
                }
                out.push(b']');
            }
            if let Some(sentence) = token.sentence {
                out.extend_from_slice(b",\"sentence\":");
                write_number(u64::from(sentence), out);
            }
            out.push(b'}');
        }
        out.push(b']');
    }
}
