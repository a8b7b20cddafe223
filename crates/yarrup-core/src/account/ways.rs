//! The ways of forms through the steps: which step changed their spelling to what.

use std::ops::Range;

use crate::account::{Account, Ends, Segment, VariantForms};
use crate::part_of_speech::Tag;

/// A form on its way: its spelling now, and the changes so far.
type Way = (u32, Vec<(u8, u32)>);

impl Account {
    /// The steps that changed the spelling of the tokens of this row of [`Account::ends`], in order, each with what it made of it. Where tokens came to the
    /// same end by different ways, one of these; none where a step that looks at more than one token may have changed them, and others as well.
    ///
    /// # Panics
    ///
    /// If there are fewer rows.
    pub fn way_of(&self, row: usize) -> Vec<(usize, &str)> {
        let ends = &self.ends;
        if ends.fate[row] == Ends::KEPT && ends.form[row] == ends.what[row] {
            return Vec::new();
        }
        let behind = self.steps.iter().filter(|step| step.stage.needs_tokens());
        let parting: Vec<u8> =
            (0..).zip(behind).filter(|(_, step)| step.parts).map(|(index, _)| index).collect();
        let end = End { row, ends, parting: &parting };
        let mut ways = self.variants.iter().flat_map(|variant| {
            // What a step has made begins in a later segment.
            (0..variant.segments.len()).map(move |first| (variant, first))
        });
        let way = ways.find_map(|(variant, first)| end.reached(variant, first, (ends.form[row], Vec::new())));
        let changes = way.unwrap_or_else(|| self.change_between(&parting, row));
        changes.into_iter().map(|(step, to)| (self.token_step(step), self.texts.text(to))).collect()
    }

    /// The change of tokens that are kept by the one step that looks at more than one token and changes spellings, if there is one alone: what it made of
    /// which form is not counted.
    fn change_between(&self, parting: &[u8], row: usize) -> Vec<(u8, u32)> {
        let mut changing = parting.iter().filter(|step| self.token_steps[usize::from(**step)].changed > 0);
        match (changing.next(), changing.next(), self.ends.fate[row]) {
            (Some(step), None, Ends::KEPT) => vec![(*step, self.ends.what[row])],
            _ => Vec::new(),
        }
    }
}

/// The end of the tokens of a row.
struct End<'a> {
    row: usize,
    ends: &'a Ends,
    /// The steps that look at more than one token: the first stands behind the first segment, and so on.
    parting: &'a [u8],
}

impl End<'_> {
    /// The changes on a way to the end, from this segment on.
    fn reached(&self, variant: &VariantForms, at: usize, (spelling, changes): Way) -> Option<Vec<(u8, u32)>> {
        let (ends, row) = (self.ends, self.row);
        let segment = variant.segments.get(at)?;
        let (fate, step) = (ends.fate[row], ends.step[row]);
        let tag = Tag::numbered(ends.tag[row]);
        let of_tag = |mark: u32| {
            let marked = Tag::numbered((mark & 0xff) as u8);
            marked.is_none() || marked == tag
        };
        let is_last = at + 1 == variant.segments.len();
        segment.rows_of(spelling).filter(|form| of_tag(segment.mark[*form])).find_map(|form| {
            let (mut now, mut changes) = (spelling, changes.clone());
            for (_, by, to) in segment.changes_of(form) {
                changes.push((*by, *to));
                now = *to;
            }
            let dropped_at = segment.dropped_at[form];
            let is_end = match fate {
                Ends::KEPT => is_last && dropped_at == Segment::STAYS && now == ends.what[row],
                _ => {
                    dropped_at == step
                        || (dropped_at == Segment::STAYS && self.parting.get(at) == Some(&step))
                }
            };
            if is_end {
                return Some(changes);
            }
            if dropped_at == Segment::STAYS { self.reached(variant, at + 1, (now, changes)) } else { None }
        })
    }
}

impl Segment {
    /// The rows of a form.
    pub(super) fn rows_of(&self, form: u32) -> Range<usize> {
        self.form.partition_point(|other| *other < form)..self.form.partition_point(|other| *other <= form)
    }

    /// The changes of the form in this row.
    pub(super) fn changes_of(&self, row: usize) -> impl Iterator<Item = &(u32, u8, u32)> {
        let start = self.changes.partition_point(|(other, ..)| (*other as usize) < row);
        self.changes[start..].iter().take_while(move |(other, ..)| *other as usize == row)
    }
}
