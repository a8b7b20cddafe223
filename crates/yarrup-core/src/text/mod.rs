//! A document's text on its way through the text steps, and its alignment to the original.

mod alignment;
mod case;
mod erase;
mod spaces;
mod spare;

pub use alignment::{Alignment, Change};
pub(crate) use case::CASE;
pub(crate) use erase::ERASE;
pub(crate) use spaces::SPACES;
pub use spare::Spare;

use std::ops::Range;

/// Rewrites text before it is split.
pub trait TextStep: Send + Sync {
    /// Rewrites the stretch `range` of `text` into `out`, which must be given all of that stretch, kept or replaced.
    /// What surrounds the stretch is there to be looked at. Returns how many places it matched; 0 says that it
    /// changed nothing.
    fn rewrite(&self, text: &str, range: Range<usize>, out: &mut Rewriter<'_>) -> u64;
}

/// Takes what a text step makes of a text, piece by piece.
pub struct Rewriter<'b> {
    text: &'b mut String,
    changes: Option<&'b mut Vec<Change>>,
    /// How far the text before the step has been used up.
    read: usize,
    boundaries_kept: bool,
}

impl<'b> Rewriter<'b> {
    fn new(text: &'b mut String, changes: Option<&'b mut Vec<Change>>) -> Rewriter<'b> {
        Rewriter { text, changes, read: 0, boundaries_kept: true }
    }

    /// Takes the next piece over as it is.
    pub fn keep(&mut self, piece: &str) {
        self.text.push_str(piece);
        self.read += piece.len();
    }

    /// Takes `now` for the next piece, character by character of the same length and differing in letter case alone.
    pub fn recase(&mut self, now: &str) {
        self.keep(now);
    }

    /// Takes the next piece, which is ASCII, in lower or in upper case.
    pub(crate) fn recase_ascii(&mut self, piece: &str, recase: fn(&mut str)) {
        let start = self.text.len();
        self.keep(piece);
        recase(&mut self.text[start..]);
    }

    /// Puts `now` in the place of the next `was` bytes.
    pub fn replace(&mut self, was: usize, now: &str) {
        self.boundaries_kept = false;
        if let Some(changes) = &mut self.changes {
            let at = self.text.len();
            changes.push(Change { was: self.read..self.read + was, now: at..at + now.len() });
        }
        self.text.push_str(now);
        self.read += was;
    }
}

/// The text of a document between two steps. Its buffers are kept from document to document.
#[derive(Debug, Default)]
pub struct Text {
    now: String,
    spare_buffer: String,
    changed: bool,
    boundaries_kept: bool,
    aligned: bool,
    alignment: Alignment,
    step_changes: Vec<Change>,
}

impl Text {
    /// A text that keeps its alignment to the original if `aligned`.
    pub fn new(aligned: bool) -> Text {
        Text { aligned, boundaries_kept: true, ..Text::default() }
    }

    /// Begins a new document.
    pub fn begin(&mut self) {
        self.changed = false;
        self.boundaries_kept = true;
        self.alignment.clear();
    }

    /// The text as it stands now, `original` being the text that the document began with.
    pub fn as_str<'t>(&'t self, original: &'t str) -> &'t str {
        if self.changed { &self.now } else { original }
    }

    /// Whether any step has changed the text.
    pub fn is_changed(&self) -> bool {
        self.changed
    }

    /// Whether the text differs from the original in letter case alone, byte for byte in the same places, so that a
    /// splitter finds the same boundaries in both.
    pub fn has_original_boundaries(&self) -> bool {
        self.boundaries_kept
    }

    /// Where each part of the text comes from. Empty where the text was made without alignment.
    pub fn alignment(&self) -> &Alignment {
        &self.alignment
    }

    /// Lets `step` rewrite the text, but for what `spare` protects. Returns how many places it matched.
    pub fn apply(&mut self, original: &str, step: &dyn TextStep, spare: &Spare) -> u64 {
        self.spare_buffer.clear();
        self.step_changes.clear();
        let text = if self.changed { self.now.as_str() } else { original };
        self.spare_buffer.reserve(text.len());
        let mut out = Rewriter::new(&mut self.spare_buffer, self.aligned.then_some(&mut self.step_changes));
        let mut matches = 0;
        let mut from = 0;
        for range in spare.in_text(text) {
            matches += step.rewrite(text, from..range.start, &mut out);
            out.keep(&text[range.clone()]);
            from = range.end;
        }
        matches += step.rewrite(text, from..text.len(), &mut out);
        if matches > 0 {
            self.boundaries_kept &= out.boundaries_kept;
            if self.aligned {
                self.alignment.then(&self.step_changes);
            }
            std::mem::swap(&mut self.now, &mut self.spare_buffer);
            self.changed = true;
        }
        matches
    }
}
