//! The fonts of figures, in a build that measures no letters: whoever looks at a figure has fonts.

use thiserror::Error;

use super::room::text_width;

/// Why a font cannot be used.
#[derive(Debug, Error)]
#[error("{0}")]
pub struct FontError(String);

/// The fonts with which figures are drawn.
#[derive(Default)]
pub struct Fonts(());

/// How a text is drawn.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Inked {
    /// Where its ink lies: left, top, right, bottom.
    pub(crate) ink: (f64, f64, f64, f64),
    /// How far its letters go on.
    pub(crate) advance: f64,
}

impl Fonts {
    /// Refuses.
    ///
    /// # Errors
    ///
    /// Always.
    pub fn with(_font: Vec<u8>) -> Result<Fonts, FontError> {
        Err(FontError("this yarrup was built without fonts; build it with `--features figures`".to_owned()))
    }

    /// The names of the fonts, as SVG lists them.
    pub fn family(&self) -> &str {
        "Inter, sans-serif"
    }

    /// The letters that no font has: not known.
    pub fn missing(&self) -> Vec<char> {
        Vec::new()
    }

    pub(super) fn note_missing(&self, _text: &str) {}

    /// How each of these texts is drawn from the origin in a size of 100, nearly. None for what leaves no ink.
    pub(crate) fn inked(&self, texts: &[&str]) -> Vec<Option<Inked>> {
        let inked = |text: &&str| {
            let advance = text_width(text, 112.0);
            (!text.trim().is_empty()).then_some(Inked { ink: (0.0, -76.0, advance, 22.0), advance })
        };
        texts.iter().map(inked).collect()
    }
}
