//! How running text uses words: the tag that a tagger gives a word there most often, and how often.
//!
//! A treebank shows most words once or twice. A tagger that has learned from it errs in single places, but over millions of words its errors in
//! different places differ, and what it says of a word most of the time is nearly always right: a second tagger learns with that.

use std::collections::BTreeMap;
use std::fmt::Write as _;

use crate::part_of_speech::Tag;
use crate::tag::form::text_number;
use crate::tag::word_file::{MalformedWordFile, lines};
use crate::unicode::small_letters;

/// How words are used: the commonest tag of each, and its least share of all uses.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct WordUses {
    /// Words in small letters.
    words: BTreeMap<String, Use>,
}

/// The commonest tag of a word, and the place of its share in [`SHARES`].
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
struct Use {
    tag: Tag,
    share: u8,
}

/// The least shares of a tag that are told apart, in hundredths.
const SHARES: [u8; 5] = [97, 90, 75, 55, 0];

/// The first line of a file of uses.
const HEADER: &str = "# word uses of yarrup: commonest tag, its least share in hundredths, words";

impl WordUses {
    /// The uses of words that come `least` times or more. Each of the counts is of a form with one of its tags; what has no letter is no word.
    pub fn of_counts<'f>(counts: impl Iterator<Item = (&'f str, Tag, u64)>, least: u64) -> WordUses {
        let mut by_word: BTreeMap<String, [u64; Tag::COUNT]> = BTreeMap::new();
        let is_word = |form: &str| form.contains(char::is_alphabetic) && !form.contains(char::is_whitespace);
        for (form, tag, count) in counts.filter(|(form, ..)| is_word(form)) {
            by_word.entry(small_letters(form)).or_default()[tag as usize - 1] += count;
        }
        let words = by_word.into_iter().filter_map(|(word, counts)| {
            let all: u64 = counts.iter().sum();
            // Of equals the first.
            let (tag, most) = Tag::ALL.into_iter().zip(counts).rev().max_by_key(|(_, count)| *count)?;
            let share = SHARES.iter().position(|share| most * 100 >= all * u64::from(*share))?;
            (all >= least.max(1)).then_some((word, Use { tag, share: share as u8 }))
        });
        WordUses { words: words.collect() }
    }

    /// How many words have uses.
    pub fn len(&self) -> usize {
        self.words.len()
    }

    /// Whether no word has.
    pub fn is_empty(&self) -> bool {
        self.words.is_empty()
    }

    /// The uses as a text: a line for each tag and share, with its words.
    pub fn to_text(&self) -> String {
        let mut lines: BTreeMap<Use, Vec<&str>> = BTreeMap::new();
        for (word, of_word) in &self.words {
            lines.entry(*of_word).or_default().push(word);
        }
        let mut out = format!("{HEADER}\n");
        for (Use { tag, share }, words) in lines {
            // Writing to a text cannot fail.
            let _ = writeln!(out, "{}\t{}\t{}", tag.code(), SHARES[usize::from(share)], words.join(" "));
        }
        out
    }

    /// Reads what [`WordUses::to_text`] writes; lines that begin with `#` are notes.
    ///
    /// # Errors
    ///
    /// The first line that is not made so.
    pub fn from_text(text: &str) -> Result<WordUses, MalformedWordFile> {
        let mut words = BTreeMap::new();
        for line in lines(text, HEADER, "word uses")? {
            let [tag, share] = line.cells;
            let share = share.parse().ok();
            let share = share.and_then(|share: u8| SHARES.iter().position(|known| *known == share));
            let (Some(tag), Some(share)) = (Tag::named(tag), share) else {
                let what = "a line begins with a tag and one of the shares 97, 90, 75, 55 and 0, each followed by a tab";
                return Err(line.malformed(what));
            };
            let of_words = Use { tag, share: share as u8 };
            words.extend(line.words().map(|word| (word.to_owned(), of_words)));
        }
        Ok(WordUses { words })
    }

    /// As a model keeps them.
    pub(super) fn table(&self) -> UseTable {
        let number = |of_word: &Use| of_word.tag as u8 * SHARES.len() as u8 + of_word.share;
        let mut words: Vec<(u32, u8)> =
            self.words.iter().map(|(word, of_word)| (text_number(word), number(of_word))).collect();
        words.sort_unstable();
        words.dedup_by_key(|(word, _)| *word);
        UseTable { words }
    }
}

/// Uses of words as a model keeps them: words by their numbers.
#[derive(Debug, Default)]
pub(super) struct UseTable {
    /// In the order of the numbers.
    pub(super) words: Vec<(u32, u8)>,
}

impl UseTable {
    /// The number of the use of a word, which is known by its number in small letters.
    pub(super) fn of(&self, word: u32) -> Option<u32> {
        let place = self.words.binary_search_by_key(&word, |(known, _)| *known).ok()?;
        Some(u32::from(self.words[place].1))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn uses() -> WordUses {
        let counts = [
            ("nest", Tag::Noun, 60),
            ("Nest", Tag::Verb, 30),
            ("tern", Tag::Noun, 8),
            ("gull", Tag::Noun, 7),
            ("the", Tag::Determiner, 970),
            ("the", Tag::Adverb, 30),
            ("3,000", Tag::Numeral, 50),
            ("lay", Tag::Verb, 5),
            ("lay", Tag::Adjective, 5),
            ("of course", Tag::Adverb, 50),
        ];
        WordUses::of_counts(counts.into_iter(), 8)
    }

    #[test]
    fn words_that_come_often_have_their_commonest_tag_with_its_share() {
        let text = uses().to_text();
        let lines: Vec<&str> = text.lines().skip(1).collect();
        assert_eq!(lines, ["ADJ\t0\tlay", "DET\t97\tthe", "NOUN\t97\ttern", "NOUN\t55\tnest"]);
    }

    #[test]
    fn uses_can_be_written_and_read_again() {
        let known = uses();
        assert_eq!(WordUses::from_text(&known.to_text()), Ok(known.clone()));
        let table = known.table();
        assert_eq!(table.words.len(), known.len());
        let of = |word: &str| table.of(text_number(word));
        assert_ne!(of("nest"), of("tern"));
        assert!(of("tern").is_some() && of("gull").is_none());
        for (text, line) in [
            ("", 1),
            ("NOUN\t97\ttern\n", 1),
            (&format!("{HEADER}\n# a note\n\nNOUN\t96\ttern\n"), 4),
            (&format!("{HEADER}\nNAME\t97\ttern\n"), 2),
        ] {
            assert_eq!(WordUses::from_text(text).map_err(|fault| fault.line), Err(line), "{text:?}");
        }
    }
}
