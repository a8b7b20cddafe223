//! The text of a word processor's document as it is laid out: a line for each paragraph and for each row of a table.

/// How deep paragraphs may stand in one another.
const DEEPEST: usize = 64;

/// Lines that are being written. A row of a table is a line, its cells parted by tabs. What stands inside a paragraph and is none of its text, as notes and
/// text boxes are, follows in lines of its own.
#[derive(Debug, Default)]
pub(super) struct Paragraphs {
    lines: String,
    /// The paragraphs that have begun and not ended, the outer ones first.
    open: Vec<Paragraph>,
    /// How many rows are open in one another. The innermost are words of the cell that they stand in.
    rows: usize,
    row: Vec<String>,
}

#[derive(Debug, Default)]
struct Paragraph {
    text: String,
    /// The lines that stand inside it.
    inner: Vec<String>,
}

impl Paragraphs {
    pub(super) fn begin(&mut self) {
        if self.open.len() < DEEPEST {
            self.open.push(Paragraph::default());
        }
    }

    /// Whether text here is that of a paragraph.
    pub(super) fn is_open(&self) -> bool {
        !self.open.is_empty()
    }

    /// Adds text to the innermost paragraph.
    pub(super) fn push(&mut self, text: &str) {
        if let Some(paragraph) = self.open.last_mut() {
            paragraph.text.push_str(text);
        }
    }

    /// Adds text, with runs of white space as one space, and none at the beginning of a paragraph.
    pub(super) fn push_collapsed(&mut self, text: &str) {
        let Some(Paragraph { text: kept, .. }) = self.open.last_mut() else { return };
        for c in text.chars() {
            match c {
                ' ' | '\t' | '\r' | '\n' if kept.is_empty() || kept.ends_with([' ', '\t', '\n']) => {}
                ' ' | '\t' | '\r' | '\n' => kept.push(' '),
                other => kept.push(other),
            }
        }
    }

    pub(super) fn end(&mut self) {
        let Some(Paragraph { text, inner }) = self.open.pop() else { return };
        for line in std::iter::once(text).chain(inner) {
            let line = line.trim_end_matches([' ', '\t']).to_owned();
            match (self.open.last_mut(), self.row.last_mut()) {
                (Some(outer), _) => outer.inner.push(line),
                (None, Some(cell)) if self.rows > 0 => {
                    let gap = if cell.is_empty() || line.is_empty() { "" } else { " " };
                    *cell = format!("{cell}{gap}{line}");
                }
                _ => self.line(&line),
            }
        }
    }

    pub(super) fn begin_row(&mut self) {
        self.rows += 1;
    }

    pub(super) fn begin_cell(&mut self) {
        if self.rows == 1 && self.open.is_empty() {
            self.row.push(String::new());
        }
    }

    pub(super) fn end_row(&mut self) {
        self.rows = self.rows.saturating_sub(1);
        if self.rows == 0 && self.open.is_empty() {
            let row = std::mem::take(&mut self.row).join("\t");
            self.line(row.trim_end_matches([' ', '\t']));
        }
    }

    fn line(&mut self, line: &str) {
        if !(self.lines.is_empty() && line.is_empty()) {
            self.lines.push_str(line);
            self.lines.push('\n');
        }
    }

    /// The lines, with what a cut document has begun.
    pub(super) fn finish(mut self) -> String {
        while self.is_open() {
            self.end();
        }
        if !self.row.is_empty() {
            self.rows = 1;
            self.end_row();
        }
        self.lines
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_stands_inside_a_paragraph_follows_it() {
        let mut text = Paragraphs::default();
        text.begin();
        text.push("sea");
        text.begin();
        text.push("A note.");
        text.begin();
        text.push("In it.");
        text.end();
        text.end();
        text.push("wall");
        text.end();
        assert_eq!(text.finish(), "seawall\nA note.\nIn it.\n");
    }

    #[test]
    fn a_row_is_a_line_whatever_its_cells_hold() {
        let mut text = Paragraphs::default();
        text.begin_row();
        for cell in [&["a", "b"][..], &[], &["c"]] {
            text.begin_cell();
            for paragraph in cell {
                text.begin();
                text.push(paragraph);
                text.end();
            }
        }
        // A table within the last cell.
        text.begin_row();
        text.begin_cell();
        text.begin();
        text.push("d");
        text.end();
        text.end_row();
        text.end_row();
        text.begin();
        text.push_collapsed("\n  e \n f ");
        text.end();
        assert_eq!(text.finish(), "a b\t\tc d\ne f\n");
    }

    #[test]
    fn a_cut_document_keeps_what_it_has() {
        let mut text = Paragraphs::default();
        text.begin_row();
        text.begin_cell();
        text.begin();
        text.push("a");
        assert_eq!(text.finish(), "a\n");
        let mut deep = Paragraphs::default();
        for _ in 0..200 {
            deep.begin();
            deep.push("a");
        }
        assert_eq!(deep.finish().len(), 200 + DEEPEST);
    }
}
