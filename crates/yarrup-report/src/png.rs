//! Figures as pixels.

use resvg::tiny_skia::{Pixmap, Transform};
use resvg::usvg::{Options, Tree};
use thiserror::Error;

use crate::figure::Figure;

static REGULAR: &[u8] = include_bytes!("../assets/fonts/Inter-Regular.otf");
static SEMI_BOLD: &[u8] = include_bytes!("../assets/fonts/Inter-SemiBold.otf");

/// Why a figure could not be drawn as pixels.
#[derive(Debug, Error)]
#[error("cannot draw the figure as PNG: {why}")]
pub struct PngError {
    why: String,
}

/// What the embedded fonts hold, as they were cut (see the README beside them).
const IN_FONT: &[std::ops::RangeInclusive<char>] = &[
    '\u{20}'..='\u{24f}',
    '\u{300}'..='\u{36f}',
    '\u{370}'..='\u{3ff}',
    '\u{400}'..='\u{52f}',
    '\u{1e00}'..='\u{1eff}',
    '\u{2010}'..='\u{2044}',
    '€'..='€',
];

/// Whether a PNG figure can show all letters of a text. The embedded font has Latin, Greek and Cyrillic.
pub fn png_shows(text: &str) -> bool {
    text.chars().all(|c| IN_FONT.iter().any(|range| range.contains(&c)))
}

/// The figure as a PNG file of its own size. Letters that the embedded font lacks (Chinese, Arabic, …) are left out: the SVG
/// file has them all.
///
/// # Errors
///
/// If the figure is no valid SVG or does not fit into memory.
pub fn png(figure: &Figure) -> Result<Vec<u8>, PngError> {
    let why = |why: &dyn std::fmt::Display| PngError { why: why.to_string() };
    let mut options = Options { font_family: "Inter".to_owned(), ..Options::default() };
    let fonts = options.fontdb_mut();
    fonts.load_font_data(REGULAR.to_vec());
    fonts.load_font_data(SEMI_BOLD.to_vec());
    fonts.set_sans_serif_family("Inter");
    let tree = Tree::from_str(&figure.svg, &options).map_err(|error| why(&error))?;
    let size = tree.size().to_int_size();
    let mut pixels =
        Pixmap::new(size.width(), size.height()).ok_or_else(|| why(&"the figure has no size"))?;
    resvg::render(&tree, Transform::identity(), &mut pixels.as_mut());
    // The sheet is opaque, so its colours are what they are whether alpha has been multiplied in or not.
    let mut bytes = Vec::new();
    let mut encoder = png::Encoder::new(&mut bytes, size.width(), size.height());
    encoder.set_color(png::ColorType::Rgba);
    encoder.set_depth(png::BitDepth::Eight);
    // Large plain areas: the fast setting is a tenth of the time for a fifth more bytes.
    encoder.set_compression(png::Compression::Fast);
    let written = encoder.write_header().and_then(|mut writer| writer.write_image_data(pixels.data()));
    written.map_err(|error| why(&error))?;
    Ok(bytes)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::terms_figure;

    #[test]
    fn letters_of_any_kind_are_drawn_or_left_out_but_never_an_error() {
        let terms =
            ["tern", "鳥", "طائر", "\u{fffe}", "\u{0}\u{1b}\u{85}", "e\u{301}", "👩\u{200d}🔬", "<&>\"'"];
        let terms: Vec<(String, u64)> = terms.iter().map(|term| ((*term).to_owned(), 3)).collect();
        assert!(png(&terms_figure("鳥 <x>", &terms)).is_ok());
        assert!(png_shows("Ünïcödé чайка γλάρος") && !png_shows("鳥") && !png_shows("طائر"));
    }
}
