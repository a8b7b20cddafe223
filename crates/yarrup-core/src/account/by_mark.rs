//! Terms by what steps have said of their tokens: parts of speech and labels.

use std::collections::BTreeMap;

use crate::account::{Account, Ends, Segment};
use crate::part_of_speech::Tag;

impl Account {
    /// Every term with each part of speech that its tokens had, and how many had it. By count, then by the term's bytes.
    pub fn terms_by_tag(&self) -> Vec<(&str, Option<Tag>, u64)> {
        let ends = &self.ends;
        let kept = (0..ends.form.len()).filter(|row| ends.fate[*row] == Ends::KEPT);
        let mut counts: BTreeMap<(u32, u8), u64> = BTreeMap::new();
        for row in kept {
            *counts.entry((ends.what[row], ends.tag[row])).or_default() += ends.count[row];
        }
        let mut rows: Vec<_> = counts
            .into_iter()
            .map(|((term, tag), count)| (self.texts.text(term), Tag::numbered(tag), count))
            .collect();
        rows.sort_by_key(|(.., count)| std::cmp::Reverse(*count));
        rows
    }

    /// Terms of which some tokens have this label, with how many have it. In the order of their bytes; none if no step gives such a label.
    pub fn terms_with_label(&self, label: &str) -> Vec<(&str, u64)> {
        let Some(bit) = self.labels.iter().position(|known| known == label) else { return Vec::new() };
        // A mark has its labels above the eight bits of the part of speech.
        let is_labelled = |mark: u32| mark >> 8 >> bit & 1 == 1;
        let mut counts: BTreeMap<u32, u64> = BTreeMap::new();
        for segment in self.variants.iter().filter_map(|variant| variant.segments.last()) {
            let mut terms = segment.form.clone();
            // Of several changes of a form the last stands last.
            segment.changes.iter().for_each(|(row, _, to)| terms[*row as usize] = *to);
            for (row, term) in terms.iter().enumerate() {
                if segment.dropped_at[row] == Segment::STAYS && is_labelled(segment.mark[row]) {
                    *counts.entry(*term).or_default() += segment.count[row];
                }
            }
        }
        counts.into_iter().map(|(term, count)| (self.texts.text(term), count)).collect()
    }
}

#[cfg(test)]
mod tests {
    use crate::{NoFields, Outputs, Worker, testing};

    #[test]
    fn tokens_are_counted_by_what_was_said_of_them() {
        let recipe = "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"tag\"\n[[step]]\ndo = \"label\"\nname = \"bird\"\nadd = [\"tern\", \"terns\"]\n\
                      [[step]]\ndo = \"lemma\"\n";
        let pipeline = testing::pipeline(recipe);
        let mut worker = Worker::new(&pipeline, Outputs::default());
        worker.document("They work all day, and we work too. The work of the terns is hard work.", &NoFields);
        let account = worker.into_account();
        let work: Vec<_> = account
            .terms_by_tag()
            .into_iter()
            .filter(|(term, ..)| *term == "work")
            .map(|(_, tag, count)| (tag.map(crate::Tag::code).unwrap_or_default(), count))
            .collect();
        assert_eq!(work, [("NOUN", 2), ("VERB", 2)]);
        assert_eq!(account.terms_with_label("bird"), [("tern", 1)]);
        assert!(account.terms_with_label("fish").is_empty());
        let all: u64 = account.terms_by_tag().iter().map(|(.., count)| count).sum();
        assert_eq!(all, account.totals.tokens_kept);
    }
}
