//! Stretches of text.

/// A half-open range of bytes in a document's text.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Span {
    /// Where the first byte stands.
    pub start: u32,
    /// Where the byte after the last stands.
    pub end: u32,
}

impl Span {
    /// The stretch of `text` that this span covers. `text` is the one that the span was made for.
    pub fn of<'a>(&self, text: &'a str) -> &'a str {
        &text[self.start as usize..self.end as usize]
    }
}
