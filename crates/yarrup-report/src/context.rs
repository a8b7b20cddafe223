//! Places in documents: a line each with the words around them, and documents whole.

use anstyle::{AnsiColor, Effects};
use unicode_width::{UnicodeWidthChar, UnicodeWidthStr};

use crate::terminal::{Look, cut, visible, visible_name};

/// A place in a document with what stands before and behind it.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct ContextLine {
    /// What stands in the columns in front: the document, and fields of it.
    pub lead: Vec<String>,
    /// The text before the place, on one line.
    pub before: String,
    /// The words at the place.
    pub words: String,
    /// The text behind the place, on one line.
    pub after: String,
}

/// The most columns that the first column in front takes, and each other.
const LEAD: [usize; 2] = [28, 18];

impl Look {
    /// Words that were looked for, so that they can be seen also without colour.
    fn found(self, text: &str) -> String {
        if self.colour {
            // Yellow cannot be read on white.
            self.paint(AnsiColor::Magenta.on_default().effects(Effects::BOLD), text)
        } else {
            format!("[{text}]")
        }
    }
}

/// Keywords in context: the words that were found stand one below the other, and as much around them as the lines hold.
pub fn context_lines(header: &[&str], lines: &[ContextLine], look: Look) -> String {
    let columns: Vec<usize> = (0..header.len())
        .map(|column| {
            let cells = lines.iter().filter_map(|line| line.lead.get(column));
            let widest = cells.map(|cell| visible(cell).width()).max().unwrap_or(0);
            widest.max(header[column].width()).min(LEAD[column.min(1)])
        })
        .collect();
    let used: usize = columns.iter().map(|width| width + 2).sum();
    let room = look.width.saturating_sub(used).max(30);
    // A little more behind than before: what follows is read first.
    let left = room * 2 / 5;
    let mut out = String::new();
    let mut heads = String::new();
    for (name, width) in header.iter().zip(&columns) {
        heads.push_str(&padded(&cut(name, *width), *width));
        heads.push_str("  ");
    }
    out.push_str(&format!("{}\n", look.heading(heads.trim_end())));
    for line in lines {
        for (cell, width) in line.lead.iter().zip(&columns) {
            out.push_str(&look.faint(&padded(&tail(&visible(cell), *width), *width)));
            out.push_str("  ");
        }
        let before = visible(&line.before);
        let before = last(&before, left.saturating_sub(2));
        let words = visible_name(&line.words);
        let padding = left.saturating_sub(1).saturating_sub(before.width());
        out.push_str(&" ".repeat(padding));
        out.push_str(before);
        out.push_str(&look.found(&words));
        let taken = left.saturating_sub(1) + visible_name(&line.words).width() + 2;
        out.push_str(first(&visible(&line.after), room.saturating_sub(taken)).trim_end());
        out.push('\n');
    }
    out
}

fn padded(text: &str, width: usize) -> String {
    format!("{text}{}", " ".repeat(width.saturating_sub(text.width())))
}

/// The end of a name that is too long, which tells more than its beginning.
fn tail(text: &str, width: usize) -> String {
    if text.width() <= width {
        text.to_owned()
    } else {
        format!("…{}", last(text, width.saturating_sub(1)))
    }
}

/// The last characters of a text that fit into so many columns.
fn last(text: &str, width: usize) -> &str {
    let mut used = 0;
    let mut from = text.len();
    for (at, c) in text.char_indices().rev() {
        used += c.width().unwrap_or(0);
        if used > width {
            break;
        }
        from = at;
    }
    // What belongs upon a character that is cut off goes with it.
    let rest = &text[from..];
    if from == 0 { rest } else { rest.trim_start_matches(|c: char| c.width() == Some(0)) }
}

/// The first characters of a text that fit into so many columns.
fn first(text: &str, width: usize) -> &str {
    let mut used = 0;
    for (at, c) in text.char_indices() {
        used += c.width().unwrap_or(0);
        if used > width {
            return &text[..at];
        }
    }
    text
}

/// A document as it is, with its places marked. Places are bytes, in order, and do not overlap; what does not lie within the text is passed over.
pub fn marked_document(text: &str, places: &[(usize, usize)], look: Look) -> String {
    let mut out = String::with_capacity(text.len() + places.len() * 12);
    let mut at = 0;
    for &(start, end) in places {
        if let (Some(before), Some(words)) = (text.get(at..start), text.get(start..end)) {
            out.push_str(before);
            out.push_str(&look.found(words));
            at = end;
        }
    }
    out.push_str(&text[at..]);
    if !out.ends_with('\n') {
        out.push('\n');
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    const PLAIN: Look = Look { colour: false, width: 60, wraps: true };

    fn line(id: &str, before: &str, words: &str, after: &str) -> ContextLine {
        ContextLine { lead: vec![id.into()], before: before.into(), words: words.into(), after: after.into() }
    }

    #[test]
    fn words_stand_one_below_the_other() {
        let lines = [
            line("n-1", "two ", "terns", " nest on the spit, and more of them than last year"),
            line("ward-reports/north-spit-2031-06.txt", "we have counted all of the ", "terns", ""),
            line("n-3", "鳥鳥鳥鳥鳥鳥鳥鳥鳥鳥鳥鳥 ", "鳥", "!"),
        ];
        let out = context_lines(&["document"], &lines, PLAIN);
        let columns: Vec<usize> =
            out.lines().skip(1).map(|line| line[..line.find('[').expect("a mark")].width()).collect();
        assert_eq!(columns, [columns[0]; 3], "{out}");
        assert!(out.lines().all(|line| line.width() <= 60), "{out}");
        assert!(out.contains("…north-spit-2031-06.txt") || out.contains("north-spit-2031-06.txt"), "{out}");
    }

    #[test]
    fn documents_are_marked_where_places_are() {
        assert_eq!(marked_document("a tern, a gull", &[(2, 6), (10, 14)], PLAIN), "a [tern], a [gull]\n");
        assert_eq!(marked_document("鳥", &[(1, 2), (0, 9)], PLAIN), "鳥\n");
    }

    #[test]
    fn text_is_cut_between_characters() {
        assert_eq!((last("e\u{301}tude", 4), first("鳥鳥", 3)), ("tude", "鳥"));
        assert_eq!(last("ab", 9), "ab");
    }
}
