//! Terms by what steps have said of their tokens: parts of speech and labels.

use std::cmp::Reverse;
use std::collections::BTreeMap;

use crate::account::{Account, Ends, Segment};
use crate::kind::Kind;
use crate::part_of_speech::Tag;

/// Tokens of a sort, by whether they are left.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct SortRow {
    /// The name of the sort.
    pub name: &'static str,
    /// Tokens that are kept.
    pub kept: u64,
    /// Tokens that were dropped, or became part of others.
    pub gone: u64,
}

impl Account {
    /// How many tokens of each kind were kept, and how many went. The commonest kind first.
    pub fn tokens_by_kind(&self) -> Vec<SortRow> {
        let kind = |row: usize| Some(Kind::of(self.texts.text(self.ends.form[row])) as usize);
        self.tokens_by(&Kind::ALL.map(Kind::name), kind)
    }

    /// How many tokens of each part of speech were kept, and how many went; none where the recipe gives no parts of speech. The commonest first.
    pub fn tokens_by_tag(&self) -> Vec<SortRow> {
        // Parts of speech are numbered from 1.
        let tag = |row: usize| usize::from(self.ends.tag[row]).checked_sub(1).filter(|tag| *tag < Tag::COUNT);
        self.tokens_by(&Tag::ALL.map(Tag::name), tag)
    }

    /// How many tokens of the sorts with these names were kept, and how many went; `sort` tells the place of a row's among them.
    fn tokens_by(&self, names: &[&'static str], sort: impl Fn(usize) -> Option<usize>) -> Vec<SortRow> {
        let ends = &self.ends;
        let mut counts = vec![[0; 2]; names.len()];
        for row in 0..ends.form.len() {
            if let Some(sort) = sort(row) {
                counts[sort][usize::from(ends.fate[row] != Ends::KEPT)] += ends.count[row];
            }
        }
        let named = names.iter().zip(counts).filter(|(_, counts)| *counts != [0; 2]);
        let mut rows: Vec<SortRow> = named.map(|(name, [kept, gone])| SortRow { name, kept, gone }).collect();
        rows.sort_by_key(|row| (Reverse(row.kept + row.gone), row.name));
        rows
    }

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
        let sums = |rows: Vec<super::SortRow>| {
            rows.iter().fold((0, 0), |sum, row| (sum.0 + row.kept, sum.1 + row.gone))
        };
        let kept = account.totals.tokens_kept;
        assert_eq!(sums(account.tokens_by_tag()), (kept, 0));
        assert_eq!(sums(account.tokens_by_kind()), (kept, 0));
        assert_eq!(account.tokens_by_kind()[0].name, "word");
        let all: u64 = account.terms_by_tag().iter().map(|(.., count)| count).sum();
        assert_eq!(all, account.totals.tokens_kept);
    }
}
