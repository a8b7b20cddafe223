//! The text of a page out of the characters that are drawn on it.

use std::borrow::Cow;

use pdf_extract::{MediaBox, OutputDev, OutputError, Transform};

/// The characters of a page in the order in which they are drawn.
#[derive(Default)]
pub(super) struct Page {
    glyphs: Vec<Glyph>,
    begins: bool,
}

/// Characters that are drawn together, in the units of the page, as somebody sees them who turns the page until they stand upright.
struct Glyph {
    text: String,
    /// Which way the line goes: how far along each side of the page a step along the line leads.
    way: (f64, f64),
    /// Where they begin and end along the line.
    start: f64,
    end: f64,
    /// How far down the line is.
    down: f64,
    /// The side of a square as large as what a letter takes up, however it is stretched.
    size: f64,
    /// Whether a run of characters begins with it, which may be anywhere.
    begins: bool,
}

impl Page {
    /// What is wrong with the page if its fonts do not say which letters most of its characters are. Of fewer, each becomes U+FFFD.
    pub(super) fn fault(&self) -> Option<String> {
        let unknown = self.glyphs.iter().filter(|glyph| glyph.text.is_empty()).count();
        (unknown * 2 > self.glyphs.len()).then(|| {
            format!(
                "its fonts do not say which letters {unknown} of its {} characters are; run text recognition (OCR) over it",
                self.glyphs.len()
            )
        })
    }

    /// The text: lines where the characters go down, spaces where they leave a gap. What writes spaces out leaves gaps for other reasons as well,
    /// such as fonts that are drawn at another width than they say.
    pub(super) fn text(&self) -> String {
        let spaces = self.glyphs.iter().filter(|glyph| glyph.text.trim().is_empty()).count();
        let gap = match spaces * 100 / self.glyphs.len().max(1) {
            14.. => 0.3,
            5.. => 0.2,
            _ => 0.1,
        };
        let mut text = String::new();
        let mut before: Option<&Glyph> = None;
        for glyph in &self.glyphs {
            if let Some(last) = before.filter(|_| glyph.begins) {
                let down = (glyph.down - last.down).abs();
                if glyph.is_turned_from(last) || down > glyph.size * 1.5 {
                    text.push('\n');
                }
                if glyph.start < last.end && down > glyph.size * 0.5 {
                    text.push('\n');
                }
                let joins = text.ends_with(char::is_whitespace) || glyph.text.starts_with(' ');
                if glyph.start > last.end + glyph.size * gap && !joins {
                    text.push(' ');
                }
            }
            if glyph.text.is_empty() {
                text.push(char::REPLACEMENT_CHARACTER);
            }
            text.push_str(&plain_letters(&glyph.text));
            before = Some(glyph);
        }
        text
    }
}

impl Glyph {
    /// Whether the line goes another way than that of other characters.
    fn is_turned_from(&self, other: &Glyph) -> bool {
        (self.way.0 - other.way.0).abs() + (self.way.1 - other.way.1).abs() > 0.1
    }
}

/// The letters of signs that fonts have for several in a row.
fn plain_letters(text: &str) -> Cow<'_, str> {
    if !text.contains(|c| matches!(c, '\u{fb00}'..='\u{fb06}')) {
        return text.into();
    }
    let letters = |c: char| match c {
        '\u{fb00}' => "ff",
        '\u{fb01}' => "fi",
        '\u{fb02}' => "fl",
        '\u{fb03}' => "ffi",
        '\u{fb04}' => "ffl",
        '\u{fb05}' | '\u{fb06}' => "st",
        _ => "",
    };
    text.chars()
        .fold(String::new(), |mut all, c| {
            match letters(c) {
                "" => all.push(c),
                several => all.push_str(several),
            }
            all
        })
        .into()
}

impl OutputDev for Page {
    fn begin_page(
        &mut self,
        _page_num: u32,
        _media_box: &MediaBox,
        _art_box: Option<(f64, f64, f64, f64)>,
    ) -> Result<(), OutputError> {
        Ok(())
    }

    fn end_page(&mut self) -> Result<(), OutputError> {
        Ok(())
    }

    fn output_character(
        &mut self,
        place: &Transform,
        width: f64,
        _spacing: f64,
        font_size: f64,
        text: &str,
    ) -> Result<(), OutputError> {
        let (across, down) = (place.m11 * font_size, place.m12 * font_size);
        let stretch = across.hypot(down);
        // What has no width stands nowhere; its letters count all the same.
        let way = if stretch > 0.0 { (across / stretch, down / stretch) } else { (1.0, 0.0) };
        let area = place.m11 * place.m22 - place.m12 * place.m21;
        let start = place.m31 * way.0 + place.m32 * way.1;
        self.glyphs.push(Glyph {
            // Some fonts give NUL for letters that they do not tell.
            text: text.replace('\0', ""),
            way,
            start,
            end: start + width * stretch,
            down: place.m31 * way.1 - place.m32 * way.0,
            size: font_size.abs() * area.abs().sqrt(),
            begins: std::mem::take(&mut self.begins),
        });
        Ok(())
    }

    fn begin_word(&mut self) -> Result<(), OutputError> {
        self.begins = true;
        Ok(())
    }

    fn end_word(&mut self) -> Result<(), OutputError> {
        Ok(())
    }

    fn end_line(&mut self) -> Result<(), OutputError> {
        Ok(())
    }
}

/// Accents that some programs print apart, before their letters (`caf´e`), put on these.
pub(super) fn composed(text: &str) -> String {
    if !text.contains(['´', '¨', '`', 'ˆ', '˜', '¸', 'ˇ', '˚']) {
        return text.to_owned();
    }
    let mut out = String::with_capacity(text.len());
    let mut chars = text.chars().peekable();
    while let Some(c) = chars.next() {
        let mark = match c {
            '´' => Some('\u{301}'),
            '¨' => Some('\u{308}'),
            '`' => Some('\u{300}'),
            'ˆ' => Some('\u{302}'),
            '˜' => Some('\u{303}'),
            '¸' => Some('\u{327}'),
            'ˇ' => Some('\u{30c}'),
            '˚' => Some('\u{30a}'),
            _ => None,
        };
        // The dotless letters are what stands under an accent.
        let letter = chars.peek().map(|next| match next {
            'ı' => 'i',
            'ȷ' => 'j',
            other => *other,
        });
        match mark.zip(letter).and_then(|(mark, letter)| unicode_normalization::char::compose(letter, mark)) {
            Some(whole) => {
                chars.next();
                out.push(whole);
            }
            None => out.push(c),
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn accents_before_their_letters_are_put_on_them() {
        assert_eq!(composed("caf´e, M¨uller, na¨ıve, 5 ´ x"), "café, Müller, naïve, 5 ´ x");
    }

    #[test]
    fn signs_of_several_letters_become_these() {
        assert_eq!(plain_letters("o\u{fb03}ce \u{fb01}ve \u{fb05}"), "office five st");
    }
}
