//! How figures look: their size, their colours, their letters.

use plotters::style::RGBColor;

/// A colour.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Colour(pub u8, pub u8, pub u8);

impl Colour {
    pub(super) fn rgb(self) -> RGBColor {
        RGBColor(self.0, self.1, self.2)
    }

    /// As SVG writes it.
    pub(super) fn svg(self) -> String {
        format!("#{:02x}{:02x}{:02x}", self.0, self.1, self.2)
    }

    /// Reads `#1f7a8c` or `#17c`.
    ///
    /// # Errors
    ///
    /// What is wrong, as a sentence.
    pub fn read(written: &str) -> Result<Colour, String> {
        let wrong = || format!("`{written}` is not a colour; write one as `#1f7a8c`");
        let digits = written.trim().trim_start_matches('#');
        if !digits.bytes().all(|byte| byte.is_ascii_hexdigit()) {
            return Err(wrong());
        }
        let part = |from: usize, to: usize| u8::from_str_radix(&digits[from..to], 16).map_err(|_| wrong());
        match digits.len() {
            6 => Ok(Colour(part(0, 2)?, part(2, 4)?, part(4, 6)?)),
            3 => Ok(Colour(part(0, 1)? * 17, part(1, 2)? * 17, part(2, 3)? * 17)),
            _ => Err(wrong()),
        }
    }
}

/// The colours of figures.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Palette {
    /// What is drawn on.
    pub paper: Colour,
    /// Text.
    pub ink: Colour,
    /// Text that stands back.
    pub faint: Colour,
    /// Lines of a grid.
    pub grid: Colour,
    /// What is told apart: the first for what is left, the second for what was dropped, then others.
    pub series: Vec<Colour>,
}

impl Palette {
    /// Dark on light.
    pub fn light() -> Palette {
        Palette {
            paper: Colour(0xff, 0xff, 0xff),
            ink: Colour(0x1d, 0x2b, 0x33),
            faint: Colour(0x5c, 0x6b, 0x73),
            grid: Colour(0xe3, 0xe8, 0xea),
            series: vec![
                Colour(0x1f, 0x7a, 0x8c),
                Colour(0xe2, 0xb4, 0x74),
                Colour(0x7a, 0x51, 0x95),
                Colour(0x4c, 0x8f, 0x4a),
                Colour(0xb8, 0x4a, 0x62),
                Colour(0x2f, 0x5a, 0xa8),
                Colour(0x8a, 0x7d, 0x1f),
                Colour(0x8b, 0x98, 0x9f),
            ],
        }
    }

    /// Light on dark.
    pub fn dark() -> Palette {
        Palette {
            paper: Colour(0x12, 0x19, 0x1f),
            ink: Colour(0xe6, 0xed, 0xf0),
            faint: Colour(0x9f, 0xb0, 0xb8),
            grid: Colour(0x2a, 0x36, 0x3e),
            series: vec![
                Colour(0x4f, 0xb3, 0xc6),
                Colour(0xc9, 0x95, 0x4e),
                Colour(0xb0, 0x8c, 0xcf),
                Colour(0x83, 0xc5, 0x7f),
                Colour(0xe0, 0x80, 0x95),
                Colour(0x7f, 0xa4, 0xe6),
                Colour(0xcf, 0xc2, 0x62),
                Colour(0x9a, 0xa7, 0xae),
            ],
        }
    }

    pub(super) fn kept(&self) -> Colour {
        self.of_series(0)
    }

    pub(super) fn dropped(&self) -> Colour {
        self.of_series(1)
    }

    /// The colour of the series with this number; they come again where there are more series than colours.
    pub(super) fn of_series(&self, number: usize) -> Colour {
        let count = self.series.len().max(1);
        self.series.get(number % count).copied().unwrap_or(self.ink)
    }
}

/// How a figure looks.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Style {
    /// Its size in pixels.
    pub size: (u32, u32),
    /// Its colours.
    pub palette: Palette,
    /// Its title, if it is not to have the usual one.
    pub title: Option<String>,
    /// The names of its fonts, as SVG lists them.
    pub family: String,
}

impl Default for Style {
    fn default() -> Style {
        Style {
            size: (1280, 800),
            palette: Palette::light(),
            title: None,
            family: "Inter, sans-serif".to_owned(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn colours_are_read() {
        assert_eq!(Colour::read("#1f7a8c"), Ok(Colour(0x1f, 0x7a, 0x8c)));
        assert_eq!(Colour::read("17c").map(Colour::svg), Ok("#1177cc".to_owned()));
        for wrong in ["", "#12", "teal", "#1234567", "#é0é0"] {
            assert!(Colour::read(wrong).is_err(), "{wrong}");
        }
    }
}
