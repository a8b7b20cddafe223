use std::ops::Range;

/// A stretch of a text that was put in the place of another.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Change {
    /// The bytes that it stood for before.
    pub was: Range<usize>,
    /// The bytes that stand there now. Empty if the stretch was taken out.
    pub now: Range<usize>,
}

/// Which bytes of the original text each byte of a rewritten text comes from.
///
/// Holds the changes alone, in order; what stands between them was copied byte for byte. A change is a whole: a part
/// of what is there now stands for all of what was.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Alignment {
    changes: Vec<Change>,
}

impl Alignment {
    /// The changes from the original, in order.
    pub fn changes(&self) -> &[Change] {
        &self.changes
    }

    pub(super) fn clear(&mut self) {
        self.changes.clear();
    }

    /// Adds the changes of one more step, given from the text before that step to the text after it.
    pub(super) fn then(&mut self, step: &[Change]) {
        if self.changes.is_empty() {
            self.changes.extend_from_slice(step);
        } else if !step.is_empty() {
            self.changes = joined(&self.changes, step);
        }
    }

    /// The bytes of the original that the stretch `now` of the rewritten text comes from. What was taken out before or
    /// behind the stretch does not belong to it; what was taken out within does.
    pub fn original(&self, now: Range<usize>) -> Range<usize> {
        let following = self.changes.partition_point(|change| change.now.end <= now.start);
        let start = match self.changes.get(following) {
            Some(change) if change.now.start <= now.start && !change.now.is_empty() => change.was.start,
            _ => match following.checked_sub(1).map(|i| &self.changes[i]) {
                Some(change) => now.start - change.now.end + change.was.end,
                None => now.start,
            },
        };
        let following = self.changes.partition_point(|change| change.now.start < now.end);
        let end = match following.checked_sub(1).map(|i| &self.changes[i]) {
            Some(change) if change.now.end >= now.end => change.was.end,
            Some(change) => now.end - change.now.end + change.was.end,
            None => now.end,
        };
        start..end
    }
}

/// The changes from the first text to the third, given those from the first to the second and from there to the third.
/// Changes that overlap in the second text become one.
fn joined(first: &[Change], second: &[Change]) -> Vec<Change> {
    let mut all = Vec::with_capacity(first.len() + second.len());
    let (mut i, mut k) = (0, 0);
    // The last change used up on either side: what lies behind it is shifted as it was.
    let back = |at: usize, i: usize| match i.checked_sub(1).map(|i| &first[i]) {
        Some(change) => at - change.now.end + change.was.end,
        None => at,
    };
    let forth = |at: usize, k: usize| match k.checked_sub(1).map(|k| &second[k]) {
        Some(change) => at - change.was.end + change.now.end,
        None => at,
    };
    while i < first.len() || k < second.len() {
        let begins_first = match (first.get(i), second.get(k)) {
            (Some(a), Some(b)) => (a.now.start, a.now.end) <= (b.was.start, b.was.end),
            (a, _) => a.is_some(),
        };
        // The stretch of the second text that changes which touch one another cover.
        let start = if begins_first { first[i].now.start } else { second[k].was.start };
        let (was_start, now_start) = (
            if begins_first { first[i].was.start } else { back(start, i) },
            if begins_first { forth(start, k) } else { second[k].now.start },
        );
        let mut end = start;
        if begins_first {
            end = end.max(first[i].now.end);
            i += 1;
        } else {
            end = end.max(second[k].was.end);
            k += 1;
        }
        loop {
            let grown = end;
            while first.get(i).is_some_and(|a| a.now.start < end) {
                end = end.max(first[i].now.end);
                i += 1;
            }
            while second.get(k).is_some_and(|b| b.was.start < end) {
                end = end.max(second[k].was.end);
                k += 1;
            }
            if grown == end {
                break;
            }
        }
        all.push(Change { was: was_start..back(end, i), now: now_start..forth(end, k) });
    }
    all
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// Rewrites `text` by pairs of (bytes kept, bytes replaced, bytes put in); returns the text and its changes.
    fn rewritten(text: &[u16], edits: &[(usize, usize, usize)], mark: &mut u16) -> (Vec<u16>, Vec<Change>) {
        let (mut out, mut changes, mut read) = (Vec::new(), Vec::new(), 0);
        for &(keep, was, now) in edits {
            let keep = keep.min(text.len() - read);
            out.extend_from_slice(&text[read..read + keep]);
            read += keep;
            let was = was.min(text.len() - read);
            if was + now == 0 {
                continue;
            }
            changes.push(Change { was: read..read + was, now: out.len()..out.len() + now });
            for _ in 0..now {
                out.push(*mark);
                *mark += 1;
            }
            read += was;
        }
        out.extend_from_slice(&text[read..]);
        (out, changes)
    }

    type Edits = Vec<(usize, usize, usize)>;

    fn edits() -> impl Strategy<Value = Edits> {
        // Something always stands between two changes or was replaced: insertions out of nothing do not occur.
        prop::collection::vec((0usize..4, 1usize..4, 0usize..4), 0..6)
    }

    proptest! {
        /// What was copied in both steps is mapped to its own place; nothing is mapped outside of the text; order is kept.
        #[test]
        fn two_steps_map_copied_units_to_their_own_place(one in edits(), two in edits()) {
            let original: Vec<u16> = (0..24).collect();
            let mut mark = 1000;
            let (middle, first) = rewritten(&original, &one, &mut mark);
            let (last, second) = rewritten(&middle, &two, &mut mark);
            let mut alignment = Alignment::default();
            alignment.then(&first);
            alignment.then(&second);
            let mut before = 0..0;
            for (at, unit) in last.iter().enumerate() {
                let place = alignment.original(at..at + 1);
                prop_assert!(place.end <= original.len() && place.start <= place.end);
                prop_assert!(place.start >= before.start && place.end >= before.end);
                if *unit < 1000 {
                    let inside = alignment.changes().iter().any(|c| c.now.contains(&at));
                    if !inside {
                        prop_assert_eq!(&place, &(usize::from(*unit)..usize::from(*unit) + 1));
                    }
                    prop_assert!(place.contains(&usize::from(*unit)));
                }
                before = place;
            }
        }
    }

    #[test]
    fn spans_leave_out_what_was_deleted_beside_them_and_cover_what_was_deleted_within() {
        // "(ab-cd)" -> "abcd"
        let mut alignment = Alignment::default();
        alignment.then(&[
            Change { was: 0..1, now: 0..0 },
            Change { was: 3..4, now: 2..2 },
            Change { was: 6..7, now: 4..4 },
        ]);
        assert_eq!(alignment.original(0..4), 1..6);
        assert_eq!(alignment.original(0..2), 1..3);
        assert_eq!(alignment.original(2..4), 4..6);
    }
}
