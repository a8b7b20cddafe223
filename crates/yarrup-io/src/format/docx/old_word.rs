//! The text of documents of Word before 2007 (MS-DOC), and of Word 6 and 95.

use crate::documents::ReadError;
use crate::format::compound::Compound;
use crate::format::paragraphs::Paragraphs;

/// The first version whose text may be Unicode.
const WORD_97: u16 = 0x00c1;

/// Reads the text, with its notes and text boxes behind it; without headers, footers and remarks.
pub(super) fn read(file: &mut Compound<'_>, out: &mut Paragraphs) -> Result<(), ReadError> {
    let main = file.stream("WordDocument")?.unwrap_or_default();
    let header = Header::of(&main).ok_or_else(damaged)?;
    if header.is_encrypted {
        return Err(ReadError::sentence("encrypted: it needs a password; save a copy without one"));
    }
    let text = if header.version < WORD_97 {
        old_text(&main, &header)?
    } else {
        let table =
            file.stream(if header.has_second_table { "1Table" } else { "0Table" })?.ok_or_else(damaged)?;
        pieces(&main, &table).ok_or_else(damaged)?
    };
    let mut lines = Lines { out, fields: Vec::new(), after_cell: false };
    let mut at = 0;
    for (length, is_text) in header.parts {
        let end = (at + length).min(text.len());
        if is_text {
            String::from_utf16_lossy(&text[at..end]).chars().for_each(|c| lines.take(c));
        }
        at = end;
    }
    lines.end();
    Ok(())
}

fn damaged() -> ReadError {
    ReadError::sentence("damaged Word document, cut off or not copied to its end")
}

fn u16_at(bytes: &[u8], at: usize) -> Option<u16> {
    Some(u16::from_le_bytes(bytes.get(at..at + 2)?.try_into().ok()?))
}

fn u32_at(bytes: &[u8], at: usize) -> Option<usize> {
    Some(u32::from_le_bytes(bytes.get(at..at.checked_add(4)?)?.try_into().ok()?) as usize)
}

/// What the beginning of a document says of it (the FIB).
struct Header {
    version: u16,
    is_encrypted: bool,
    has_second_table: bool,
    /// Whether the text of an old version stands in pieces.
    is_in_pieces: bool,
    /// How many letters each part of the text has, in order, and whether it is read.
    parts: Vec<(usize, bool)>,
}

impl Header {
    fn of(main: &[u8]) -> Option<Header> {
        let version = u16_at(main, 2)?;
        let flags = u16_at(main, 10)?;
        // Text, notes, headers, macros, remarks, notes at the end, boxes. The boxes of headers are the rest.
        let first = if version < WORD_97 { 0x34 } else { 0x4c };
        let is_text = [true, true, false, false, false, true, true];
        let lengths = (0..is_text.len()).map(|part| u32_at(main, first + 4 * part));
        let lengths = lengths.collect::<Option<Vec<_>>>()?;
        Some(Header {
            version,
            is_encrypted: flags & 0x0100 != 0,
            has_second_table: flags & 0x0200 != 0,
            is_in_pieces: flags & 0x0004 != 0,
            parts: lengths.into_iter().zip(is_text).collect(),
        })
    }
}

/// The letters of a document of Word 6 or 95: bytes one after the other, as units of UTF-16.
fn old_text(main: &[u8], header: &Header) -> Result<Vec<u16>, ReadError> {
    if header.is_in_pieces {
        let why = "a document of Word 6 or 95 that was saved in pieces; save it once with a newer program";
        return Err(ReadError::NotRead(why.to_owned()));
    }
    let (start, end) = (u32_at(main, 0x18).ok_or_else(damaged)?, u32_at(main, 0x1c).ok_or_else(damaged)?);
    let bytes = main.get(start..end.min(main.len())).ok_or_else(damaged)?;
    Ok(western(bytes))
}

/// Bytes of the Western code page as units of UTF-16, one for each.
fn western(bytes: &[u8]) -> Vec<u16> {
    encoding_rs::WINDOWS_1252.decode_without_bom_handling(bytes).0.encode_utf16().collect()
}

/// The letters of a document, from the pieces that the table of the CLX lists, as units of UTF-16: in these the lengths of the parts are counted.
fn pieces(main: &[u8], table: &[u8]) -> Option<Vec<u16>> {
    let (start, length) = (u32_at(main, 0x1a2)?, u32_at(main, 0x1a6)?);
    let clx = table.get(start..start.checked_add(length)?)?;
    let mut at = 0;
    // Properties stand before the pieces.
    while clx.get(at) == Some(&1) {
        at += 3 + usize::from(u16_at(clx, at + 1)?);
    }
    let length = u32_at(clx, at + 1).filter(|_| clx.get(at) == Some(&2))?;
    let list = clx.get(at + 5..)?;
    let list = &list[..length.min(list.len())];
    let count = list.len().checked_sub(4)? / 12;
    let mut text = Vec::new();
    for piece in 0..count {
        // No byte is a letter twice: pieces that lie over one another are made to fill a machine.
        if text.len() > main.len() {
            return None;
        }
        let (from, to) = (u32_at(list, 4 * piece)?, u32_at(list, 4 * (piece + 1))?);
        let letters = to.checked_sub(from)?;
        let place = u32_at(list, 4 * (count + 1) + 8 * piece + 2)?;
        if place & 0x4000_0000 != 0 {
            let at = (place & 0x3fff_ffff) / 2;
            let bytes = main.get(at..)?;
            let bytes = &bytes[..letters.min(bytes.len())];
            text.extend(western(bytes));
        } else {
            let bytes = main.get(place & 0x3fff_ffff..)?;
            text.extend(
                bytes.chunks_exact(2).take(letters).map(|unit| u16::from_le_bytes([unit[0], unit[1]])),
            );
        }
    }
    Some(text)
}

/// Which part of a field is being read: what it is told to show, or what it shows.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Field {
    Instruction,
    Result,
}

/// Text that is laid out letter by letter.
struct Lines<'o> {
    out: &'o mut Paragraphs,
    /// The fields that are open.
    fields: Vec<Field>,
    /// Whether a cell has just ended: another end is that of its row.
    after_cell: bool,
}

impl Lines<'_> {
    fn take(&mut self, c: char) {
        let was_cell = std::mem::take(&mut self.after_cell);
        match c {
            '\u{13}' => return self.fields.push(Field::Instruction),
            '\u{14}' => {
                if let Some(field) = self.fields.last_mut() {
                    *field = Field::Result;
                }
                return;
            }
            '\u{15}' => {
                self.fields.pop();
                return;
            }
            _ if self.fields.contains(&Field::Instruction) => return,
            _ => {}
        }
        match c {
            '\r' | '\u{c}' | '\u{e}' => self.end(),
            '\u{7}' if was_cell => self.end(),
            '\u{7}' => {
                self.push('\t');
                self.after_cell = true;
            }
            '\u{b}' => self.push('\n'),
            '\t' => self.push('\t'),
            '\u{1e}' => self.push('\u{2011}'),
            // Pictures, the marks of notes, hyphens that show at the end of a line alone.
            '\0'..='\u{1f}' => {}
            other => self.push(other),
        }
    }

    fn push(&mut self, c: char) {
        if !self.out.is_open() {
            self.out.begin();
        }
        self.out.push(c.encode_utf8(&mut [0; 4]));
    }

    fn end(&mut self) {
        if !self.out.is_open() {
            self.out.begin();
        }
        self.out.end();
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A document and its table, whose pieces all hold these bytes.
    fn overlapping(count: u32, letters: u32) -> (Vec<u8>, Vec<u8>) {
        let mut list = Vec::new();
        (0..=count).for_each(|piece| list.extend((piece * letters).to_le_bytes()));
        (0..count).for_each(|_| list.extend([&[0, 0][..], &0x4000_0000u32.to_le_bytes(), &[0, 0]].concat()));
        let table = [&[2][..], &(list.len() as u32).to_le_bytes(), &list].concat();
        let mut main = vec![b'a'; 0x400];
        main[0x1a2..0x1a6].copy_from_slice(&0u32.to_le_bytes());
        main[0x1a6..0x1aa].copy_from_slice(&(table.len() as u32).to_le_bytes());
        (main, table)
    }

    #[test]
    fn pieces_that_lie_over_one_another_are_refused() {
        let (main, table) = overlapping(3, 100);
        assert_eq!(pieces(&main, &table).map(|text| text.len()), Some(300));
        let (main, table) = overlapping(5000, 0x300);
        assert_eq!(pieces(&main, &table), None);
        // A table that is cut off, and none.
        assert_eq!(pieces(&main, &table[..20]), None);
        assert_eq!(pieces(&main, &[]), None);
    }
}
