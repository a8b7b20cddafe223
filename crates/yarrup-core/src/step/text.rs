//! The contract of text steps, and a document's text on its way through them.

use std::borrow::Cow;
use std::ops::Range;

use crate::step::{Alignment, Change, Facts, Matches, Spare};

/// Rewrites text before it is split.
pub trait TextStep: Facts {
    /// Rewrites the stretch `range` of `text`: tells `out` what is to be replaced, from left to right and within the
    /// stretch; all else stays. What surrounds the stretch is there to be looked at.
    fn rewrite(&self, text: &str, range: Range<usize>, out: &mut Rewriter<'_>);

    /// The names of the sorts of matches that it tells apart, by their numbers. Empty for a step that tells none apart.
    fn sorts(&self) -> Vec<String> {
        Vec::new()
    }

    /// Whether all that it does is change the case of letters, and what becomes of a token depends on nothing around it but in rare cases, which
    /// [`TextStep::recase`] tells.
    fn recases_alone(&self) -> bool {
        false
    }

    /// What it makes of a token wherever that stands, and how many letters it changes. Nothing where that depends on the text around the token, or
    /// where the token gets longer or shorter or may be split another way.
    fn recase<'t>(&self, _token: &'t str) -> Option<(Cow<'t, str>, u64)> {
        None
    }

    /// As [`TextStep::recase`], of a token where it stands in a text: nothing only where it would get longer or shorter or may be split another way.
    fn recase_at(&self, text: &str, token: Range<usize>) -> Option<(String, u64)> {
        let (mut recased, mut matched) = (String::new(), Matches::default());
        let mut out = Rewriter {
            source: text,
            text: &mut recased,
            changes: None,
            matched: &mut matched,
            copied: token.start,
            likely: token.len(),
            count: 0,
            boundaries_kept: true,
            most: usize::MAX,
            is_overgrown: false,
        };
        self.rewrite(text, token.clone(), &mut out);
        out.copy_to(token.end);
        let (boundaries_kept, letters) = (out.boundaries_kept, out.count);
        boundaries_kept.then_some((recased, letters))
    }

    /// What it puts in the place of what it finds, and no later step should take apart.
    fn placeholders(&self) -> Vec<String> {
        Vec::new()
    }

    /// Whether it gives values placeholders of their own.
    fn has_pseudonyms(&self) -> bool {
        false
    }

    /// The placeholder that it puts in the place of this value of a sort and of no other; none if values share one.
    fn placeholder_of(&self, _sort: usize, _value: &str) -> Option<String> {
        None
    }
}

/// Takes what a text step replaces, from left to right; copies what stays between. Nothing is copied before the first change.
pub struct Rewriter<'b> {
    source: &'b str,
    text: &'b mut String,
    changes: Option<&'b mut Vec<Change>>,
    matched: &'b mut Matches,
    /// How far the source has been copied or replaced.
    copied: usize,
    /// How long the text will be, if little changes.
    likely: usize,
    count: u64,
    boundaries_kept: bool,
    /// The most bytes that the text may come to.
    most: usize,
    /// Whether it would come to more. Nothing is replaced any more then.
    is_overgrown: bool,
}

impl Rewriter<'_> {
    /// Puts `now` in the place of the bytes `was`. Does nothing if the same stands there.
    pub fn replace(&mut self, was: Range<usize>, now: &str) {
        self.replace_as(0, was, now);
    }

    /// As [`Rewriter::replace`], for a match of the sort with this number.
    pub fn replace_as(&mut self, sort: usize, was: Range<usize>, now: &str) {
        let before = &self.source[was.clone()];
        if before == now {
            return;
        }
        debug_assert!(!was.is_empty(), "nothing is put in out of nothing");
        if self.is_overgrown || self.text.len() + (was.start - self.copied) + now.len() > self.most {
            self.is_overgrown = true;
            return;
        }
        self.copy_to(was.start);
        self.matched.note(sort, before);
        self.count += 1;
        self.boundaries_kept = false;
        if let Some(changes) = &mut self.changes {
            let at = self.text.len();
            changes.push(Change { was: was.clone(), now: at..at + now.len() });
        }
        self.text.push_str(now);
        self.copied = was.end;
    }

    /// Notes a match that is left as it is.
    pub fn note(&mut self, sort: usize, place: Range<usize>) {
        self.matched.note(sort, &self.source[place]);
    }

    /// Puts `now` in the place of the bytes `was`, character by character of the same length and differing in letter case
    /// alone.
    pub fn recase(&mut self, was: Range<usize>, now: &str) {
        self.copy_to(was.start);
        self.count += 1;
        self.text.push_str(now);
        self.copied = was.end;
    }

    /// Changes the case of the letters of `was`, which is ASCII and in which as many letters as `changes` says change.
    pub(crate) fn recase_ascii(&mut self, was: Range<usize>, changes: u64, recase: fn(&mut str)) {
        if changes == 0 {
            return;
        }
        self.copy_to(was.start);
        let start = self.text.len();
        self.text.push_str(&self.source[was.clone()]);
        recase(&mut self.text[start..]);
        self.count += changes;
        self.copied = was.end;
    }

    fn copy_to(&mut self, at: usize) {
        debug_assert!(at >= self.copied, "changes come from left to right");
        if self.text.is_empty() {
            self.text.reserve(self.likely);
        }
        self.text.push_str(&self.source[self.copied..at]);
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
    is_overgrown: bool,
}

/// How many times as long text steps may make a text, how long they may in any case, and how long at most: spans are of 32 bits. Compatibility
/// normalisation makes one character of three bytes into 33 (Unicode Standard Annex 15, section 12).
const GROWTH: usize = 32;
const GROWN_ANYWAY: usize = 16 << 20;
const GROWN_AT_MOST: usize = 3 << 30;

/// The most bytes that steps may make of a text of this length.
fn most_bytes(length: usize) -> usize {
    length.saturating_mul(GROWTH).clamp(GROWN_ANYWAY, GROWN_AT_MOST)
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
        self.is_overgrown = false;
    }

    /// Whether a step has made so much of the text that nothing of it was kept.
    pub fn is_overgrown(&self) -> bool {
        self.is_overgrown
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

    /// Lets `step` rewrite the text, but for what `spare` protects. Returns how many places it changed, and adds to `matched`
    /// what they were.
    pub fn apply(
        &mut self,
        original: &str,
        step: &dyn TextStep,
        spare: &Spare,
        matched: &mut Matches,
    ) -> u64 {
        self.spare_buffer.clear();
        self.step_changes.clear();
        let text = if self.changed { self.now.as_str() } else { original };
        let mut out = Rewriter {
            source: text,
            text: &mut self.spare_buffer,
            changes: self.aligned.then_some(&mut self.step_changes),
            matched,
            copied: 0,
            likely: text.len(),
            count: 0,
            boundaries_kept: true,
            most: most_bytes(original.len()),
            is_overgrown: false,
        };
        let mut from = 0;
        for range in spare.in_text(text) {
            step.rewrite(text, from..range.start, &mut out);
            from = range.end;
        }
        step.rewrite(text, from..text.len(), &mut out);
        let (count, length) = (out.count, text.len());
        let rest = length - out.copied;
        if out.is_overgrown || out.text.len() + rest > out.most {
            self.is_overgrown = true;
            // What no memory holds is of no use cut off somewhere: nothing of it is kept, and whoever asks is told.
            self.boundaries_kept = false;
            self.changed = true;
            self.now.clear();
            self.spare_buffer = String::new();
            self.step_changes.clear();
            if self.aligned {
                self.step_changes.push(Change { was: 0..length, now: 0..0 });
                self.alignment.then(&self.step_changes);
            }
            return count.max(1);
        }
        if count > 0 {
            out.copy_to(text.len());
            self.boundaries_kept &= out.boundaries_kept;
            if self.aligned {
                self.alignment.then(&self.step_changes);
            }
            std::mem::swap(&mut self.now, &mut self.spare_buffer);
            self.changed = true;
        }
        count
    }
}
