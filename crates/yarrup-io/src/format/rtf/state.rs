//! The text of a file, by what its control words say of it.

use std::collections::HashMap;

use encoding_rs::Encoding;

use super::control::{Piece, Pieces};
use crate::format::code_page::of_code_page;
use crate::format::paper::Paper;
use crate::format::paragraphs::Paragraphs;
use crate::format::properties::Properties;

/// How deep groups may stand in one another.
const DEEPEST: usize = 2000;

/// Groups whose text is none of the document: definitions, pictures, what stands on every page, what programs note, the marks of lists, the readings of
/// an older way of writing.
const LEFT_OUT: [&str; 28] = [
    "colortbl",
    "stylesheet",
    "listtable",
    "listoverridetable",
    "pict",
    "objdata",
    "header",
    "headerl",
    "headerr",
    "headerf",
    "footer",
    "footerl",
    "footerr",
    "footerf",
    "listtext",
    "pntext",
    "pntxta",
    "pntxtb",
    "nonesttables",
    "fldinst",
    "xe",
    "tc",
    "rxe",
    "annotation",
    "atnid",
    "atnauthor",
    "filetbl",
    "template",
];

/// Where text goes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Goes {
    ToText,
    /// Into a line of its own behind the paragraph around: a note.
    ToNote,
    /// The names of fonts, of which only the letters are of use.
    ToFonts,
    /// What the document says of itself, and one of its properties.
    ToProperties,
    ToProperty(&'static str),
    Nowhere,
}

/// What holds in a group, and is given back at its end.
#[derive(Clone, Copy, Debug)]
struct Group {
    goes: Goes,
    encoding: &'static Encoding,
    /// How many bytes behind a Unicode letter stand for it.
    instead: usize,
    is_hidden: bool,
    in_table: bool,
}

struct Reading {
    group: Group,
    around: Vec<Group>,
    text: Paragraphs,
    properties: Properties,
    /// Bytes that wait for their end, and units of UTF-16.
    bytes: Vec<u8>,
    units: Vec<u16>,
    /// The encodings of the fonts, by their numbers.
    fonts: HashMap<i32, &'static Encoding>,
    font: i32,
    default_font: i32,
    /// How many letters are to be passed over.
    over: usize,
    /// Whether the row of a table, and a cell in it, have begun.
    in_row: bool,
    in_cell: bool,
}

/// Reads a file.
///
/// # Errors
///
/// That it is nested deeper than programs nest.
pub(super) fn read(file: &[u8]) -> Result<Paper, String> {
    let group = Group {
        goes: Goes::ToText,
        encoding: encoding_rs::WINDOWS_1252,
        instead: 1,
        is_hidden: false,
        in_table: false,
    };
    let mut reading = Reading {
        group,
        around: Vec::new(),
        text: Paragraphs::default(),
        properties: Properties::default(),
        bytes: Vec::new(),
        units: Vec::new(),
        fonts: HashMap::new(),
        font: 0,
        default_font: 0,
        over: 0,
        in_row: false,
        in_cell: false,
    };
    let mut pieces = Pieces::of(file);
    let mut is_starred = false;
    while let Some(piece) = pieces.next() {
        let starred = std::mem::take(&mut is_starred);
        match piece {
            Piece::Byte(byte) => reading.byte(byte),
            Piece::Symbol(b'\'') => {
                if let Some(byte) = pieces.hex() {
                    reading.byte(byte);
                }
            }
            Piece::Symbol(b'*') => is_starred = true,
            other => {
                // Letters beyond the first plane are two units.
                if !(matches!(other, Piece::Word("u", _)) && reading.bytes.is_empty()) {
                    reading.settle();
                }
                reading.over = 0;
                match other {
                    Piece::Open if reading.around.len() >= DEEPEST => {
                        return Err(format!(
                            "nested more than {DEEPEST} deep, as only an attack is; not read"
                        ));
                    }
                    Piece::Open => reading.around.push(reading.group),
                    Piece::Close => reading.close(),
                    Piece::Word("bin", length) => pieces.pass(length.unwrap_or(0).max(0) as usize),
                    Piece::Word(word, number) => reading.word(word, number, starred),
                    Piece::Symbol(symbol) => reading.symbol(symbol),
                    Piece::Byte(_) => {}
                }
            }
        }
    }
    reading.settle();
    Ok(Paper { text: reading.text.finish(), properties: reading.properties })
}

impl Reading {
    fn byte(&mut self, byte: u8) {
        if self.over > 0 {
            self.over -= 1;
            return;
        }
        if !self.units.is_empty() {
            self.settle();
        }
        self.bytes.push(byte);
    }

    /// Gives text that has waited to where it goes.
    fn settle(&mut self) {
        if !self.bytes.is_empty() {
            let bytes = std::mem::take(&mut self.bytes);
            let text = self.group.encoding.decode_without_bom_handling(&bytes).0.into_owned();
            self.give(&text);
        }
        if !self.units.is_empty() {
            let text = String::from_utf16_lossy(&std::mem::take(&mut self.units));
            self.give(&text);
        }
    }

    fn give(&mut self, text: &str) {
        if self.group.is_hidden {
            return;
        }
        match self.group.goes {
            Goes::ToText | Goes::ToNote => {
                self.begin();
                self.text.push(text);
            }
            Goes::ToProperty(name) => self.properties.add(name, text),
            Goes::ToProperties | Goes::ToFonts | Goes::Nowhere => {}
        }
    }

    /// Begins a paragraph, and the row and the cell that it stands in, unless they have begun.
    fn begin(&mut self) {
        if self.text.is_open() {
            return;
        }
        if self.group.in_table {
            if !std::mem::replace(&mut self.in_row, true) {
                self.text.begin_row();
            }
            if !std::mem::replace(&mut self.in_cell, true) {
                self.text.begin_cell();
            }
        } else if std::mem::take(&mut self.in_row) {
            self.text.end_row();
            self.in_cell = false;
        }
        self.text.begin();
    }

    fn end_paragraph(&mut self) {
        if self.group.goes == Goes::ToNote {
            // The paragraphs of a note are words of it.
            self.text.push(" ");
        } else if self.group.goes == Goes::ToText {
            self.begin();
            self.text.end();
        }
    }

    fn end_cell(&mut self) {
        if self.group.goes != Goes::ToText {
            return;
        }
        self.group.in_table = true;
        self.begin();
        self.text.end();
        self.in_cell = false;
    }

    fn end_row(&mut self) {
        if self.group.goes != Goes::ToText {
            return;
        }
        if self.text.is_open() {
            self.text.end();
        }
        if std::mem::take(&mut self.in_row) {
            self.text.end_row();
        }
        self.in_cell = false;
    }

    fn close(&mut self) {
        let Some(around) = self.around.pop() else { return };
        if self.group.goes == Goes::ToNote && around.goes != Goes::ToNote {
            self.text.end();
        }
        self.group = Group { in_table: self.group.in_table, ..around };
    }

    fn symbol(&mut self, symbol: u8) {
        match symbol {
            b'{' | b'}' | b'\\' => self.give(char::from(symbol).encode_utf8(&mut [0; 4])),
            b'~' => self.give("\u{a0}"),
            b'_' => self.give("\u{2011}"),
            b'\r' | b'\n' => self.end_paragraph(),
            _ => {}
        }
    }

    fn word(&mut self, word: &str, number: Option<i32>, starred: bool) {
        let is_on = number != Some(0);
        match word {
            "u" => {
                let unit = number.unwrap_or(0);
                // Written as a number of sixteen bits with a sign, or without one.
                self.units.push(unit.rem_euclid(0x1_0000) as u16);
                self.over = self.group.instead;
            }
            "uc" => self.group.instead = number.unwrap_or(1).clamp(0, 16) as usize,
            "par" | "sect" | "page" | "column" => self.end_paragraph(),
            "line" | "softline" | "lbr" => self.give("\n"),
            "tab" => self.give("\t"),
            "cell" => self.end_cell(),
            "nestcell" | "nestrow" => self.give(" "),
            "row" => self.end_row(),
            "intbl" => self.group.in_table = true,
            "pard" => self.group.in_table = false,
            "plain" => self.plain(),
            "v" | "deleted" => self.group.is_hidden = is_on,
            "emdash" => self.give("—"),
            "endash" => self.give("–"),
            "lquote" => self.give("‘"),
            "rquote" => self.give("’"),
            "ldblquote" => self.give("“"),
            "rdblquote" => self.give("”"),
            "bullet" => self.give("•"),
            "emspace" | "enspace" | "qmspace" => self.give(" "),
            "zwj" => self.give("\u{200d}"),
            "zwnj" => self.give("\u{200c}"),
            "ansicpg" => self.group.encoding = of_code_page(number.unwrap_or(1252)),
            "mac" => self.group.encoding = encoding_rs::MACINTOSH,
            "deff" => self.default_font = number.unwrap_or(0),
            "f" => self.font(number.unwrap_or(0)),
            "fcharset" if self.group.goes == Goes::ToFonts => {
                if let Some(encoding) = of_letters(number.unwrap_or(0)) {
                    self.fonts.insert(self.font, encoding);
                }
            }
            _ => self.goes(word, starred),
        }
    }

    fn font(&mut self, number: i32) {
        if self.group.goes == Goes::ToFonts {
            self.font = number;
        } else if let Some(encoding) = self.fonts.get(&number) {
            self.group.encoding = encoding;
        }
    }

    fn plain(&mut self) {
        self.group.is_hidden = false;
        if let Some(encoding) = self.fonts.get(&self.default_font) {
            self.group.encoding = encoding;
        }
    }

    /// A word that begins a group may say what the group is for.
    fn goes(&mut self, word: &str, starred: bool) {
        if self.group.goes == Goes::Nowhere {
            return;
        }
        match word {
            "fonttbl" => self.group.goes = Goes::ToFonts,
            "footnote" if self.group.goes == Goes::ToText => {
                self.begin();
                self.group.goes = Goes::ToNote;
                self.text.begin();
            }
            "info" => self.group.goes = Goes::ToProperties,
            _ if self.group.goes == Goes::ToProperties => {
                let known = ["title", "author", "subject", "keywords"].into_iter().find(|name| *name == word);
                self.group.goes = known.map_or(Goes::Nowhere, Goes::ToProperty);
            }
            _ if LEFT_OUT.contains(&word) => self.group.goes = Goes::Nowhere,
            // What only newer programs know, they mark so; of the text itself, the boxes of shapes alone.
            _ if starred && !matches!(word, "shpinst" | "shptxt" | "nesttableprops") => {
                self.group.goes = Goes::Nowhere;
            }
            "shptxt" if self.group.goes == Goes::ToText => {
                self.begin();
                self.group.goes = Goes::ToNote;
                self.text.begin();
            }
            // Names and values of a shape's properties.
            "sn" | "sv" | "sp" => self.group.goes = Goes::Nowhere,
            _ => {}
        }
    }
}

/// The encoding of a font, by the number of its letters. None if it has that of the file.
fn of_letters(number: i32) -> Option<&'static Encoding> {
    Some(of_code_page(match number {
        0 => 1252,
        77 => 10000,
        128 => 932,
        129 => 949,
        134 => 936,
        136 => 950,
        161 => 1253,
        162 => 1254,
        163 => 1258,
        177 => 1255,
        178 => 1256,
        186 => 1257,
        204 => 1251,
        222 => 874,
        238 => 1250,
        _ => return None,
    }))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn text(body: &str) -> String {
        read(format!("{{\\rtf1\\ansi\\ansicpg1252\\deff0 {body}}}").as_bytes()).expect("a file").text
    }

    #[test]
    fn text_is_what_a_reader_sees() {
        for (body, expected) in [
            (r"Terns dive.\par They \b come\b0  in May.", "Terns dive.\nThey come in May.\n"),
            // Bytes of the code page, Unicode with what older programs show in its place, and a pair of units.
            (r"\'84\'c4\'93 \u8364? \u8364 E \uc0\u233 \uc2\u26085\'93\'fax", "„Ä“ € € é日x\n"),
            (r"\u-10179?\u-8700?", "😄\n"),
            (
                r"a\~b\_c\-d \{e\} \\f\emdash\ldblquote g\rdblquote\line h",
                "a\u{a0}b\u{2011}cd {e} \\f—“g”\nh\n",
            ),
            // What is none of the text.
            (
                r"{\fonttbl{\f0\fswiss Arial;}}{\colortbl;\red0;}{\*\generator X;}{\info{\title T}}a{\pict 00ff}b",
                "ab\n",
            ),
            (
                r"{\header Page}{\listtext 1.}a{\v hidden}{\deleted gone}b {\field{\*\fldinst PAGE}{\fldrslt 3}}",
                "ab 3\n",
            ),
            ("a{\\pict\\bin3 }}}}b", "ab\n"),
            // Notes stand behind their paragraph.
            (
                r"tern{\footnote{\chftn} A note.\par More.} dives.\par Gull",
                "tern dives.\n A note. More.\nGull\n",
            ),
            (r"\trowd\intbl a\par b\cell \cell c\cell\row\trowd\intbl d\cell\row\pard e", "a b\t\tc\nd\ne\n"),
        ] {
            assert_eq!(text(body), expected, "{body}");
        }
    }

    #[test]
    fn fonts_say_which_letters_their_bytes_are() {
        let fonts = r"{\fonttbl{\f0\fcharset0 Arial;}{\f1\fcharset204 Arial;}{\f2\fcharset128 Mincho;}}";
        let body = format!(r"{fonts}\f1\'cf\'f2\'e8\'f6\'e0 {{\f2\'93\'fa}}\'ff\plain\'e4");
        assert_eq!(text(&body), "Птица 日яä\n");
        assert_eq!(read(b"{\\rtf1\\ansi\\ansicpg1251\\'cf}").expect("a file").text, "П\n");
    }

    #[test]
    fn a_file_says_who_wrote_it() {
        let paper =
            read(b"{\\rtf1{\\info{\\title The \\'e4rm}{\\author Mira}{\\operator Bo}{\\creatim\\yr2031}}a}")
                .expect("a file");
        let mut expected = Properties::default();
        expected.add("title", "The ärm");
        expected.add("author", "Mira");
        assert_eq!((paper.properties, paper.text.as_str()), (expected, "a\n"));
    }

    #[test]
    fn a_cut_or_hostile_file_is_no_danger() {
        assert_eq!(read(b"{\\rtf1 a{\\b b").expect("a file").text, "ab\n");
        assert_eq!(read(b"{\\rtf1 a}}}} b\\").expect("a file").text, "a b\n");
        assert!(read("{".repeat(5000).as_bytes()).is_err());
    }
}
