/// How often a text step matched, by the sorts of matches that it tells apart, with a few examples of each.
#[derive(Clone, Debug, Default, PartialEq, Eq, serde::Serialize, serde::Deserialize)]
pub struct Matches {
    sorts: Vec<SortMatches>,
    /// Every match with its sort, where all are kept.
    #[serde(skip)]
    all: Option<Vec<(usize, String)>>,
}

use crate::step::text_hash;

/// The matches of one sort.
#[derive(Clone, Debug, Default, PartialEq, Eq, serde::Serialize, serde::Deserialize)]
pub struct SortMatches {
    /// How often.
    pub count: u64,
    /// In how many documents.
    pub documents: u64,
    /// The examples, by the hash of their texts.
    examples: Vec<(u64, String)>,
    #[serde(skip)]
    in_this_document: bool,
}

/// How many examples are kept of each sort.
const EXAMPLES: usize = 3;
/// The longest example, in characters.
const LONGEST: usize = 60;

impl SortMatches {
    /// A few of the texts that matched. Which they are depends on the texts alone, not on their order.
    pub fn examples(&self) -> impl Iterator<Item = &str> {
        self.examples.iter().map(|(_, text)| text.as_str())
    }

    fn note(&mut self, text: &str) {
        self.count += 1;
        self.in_this_document = true;
        self.take(text_hash(text), text);
    }

    /// Keeps the examples of the smallest hashes: a sample that adds up, whoever saw them and when.
    fn take(&mut self, hash: u64, text: &str) {
        let full = self.examples.len() == EXAMPLES;
        if full && self.examples.last().is_some_and(|(most, _)| *most <= hash) {
            return;
        }
        match self.examples.binary_search_by_key(&hash, |(known, _)| *known) {
            Ok(_) => {}
            Err(place) => {
                self.examples.insert(place, (hash, text.chars().take(LONGEST).collect()));
                self.examples.truncate(EXAMPLES);
            }
        }
    }

    fn absorb(&mut self, other: &SortMatches) {
        self.count += other.count;
        self.documents += other.documents;
        for (hash, text) in &other.examples {
            self.take(*hash, text);
        }
    }
}

impl Matches {
    /// The sorts, by their numbers.
    pub fn sorts(&self) -> &[SortMatches] {
        &self.sorts
    }

    /// None so far; every match will be kept, not a few examples alone.
    pub fn keeping_all() -> Matches {
        Matches { all: Some(Vec::new()), ..Matches::default() }
    }

    /// Every match with the number of its sort, in the order of the text; none unless all were kept.
    pub fn all(&self) -> &[(usize, String)] {
        self.all.as_deref().unwrap_or_default()
    }

    pub(super) fn note(&mut self, sort: usize, text: &str) {
        if let Some(all) = &mut self.all {
            all.push((sort, text.to_owned()));
        }
        if sort >= self.sorts.len() {
            self.sorts.resize(sort + 1, SortMatches::default());
        }
        self.sorts[sort].note(text);
    }

    /// Ends a document: what matched in it counts once for the documents.
    pub(crate) fn end_document(&mut self) {
        for sort in &mut self.sorts {
            sort.documents += u64::from(sort.in_this_document);
            sort.in_this_document = false;
        }
    }

    /// Adds what another worker saw of the same step.
    pub(crate) fn absorb(&mut self, other: &Matches) {
        if other.sorts.len() > self.sorts.len() {
            self.sorts.resize(other.sorts.len(), SortMatches::default());
        }
        for (ours, theirs) in self.sorts.iter_mut().zip(&other.sorts) {
            ours.absorb(theirs);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn examples_do_not_depend_on_the_order() {
        let texts = ["tern", "gull", "avocet", "egret", "tern", "knot"];
        let noted = |texts: &mut dyn Iterator<Item = &&str>| {
            let mut matches = Matches::default();
            texts.for_each(|text| matches.note(0, text));
            matches.end_document();
            matches
        };
        let forward = noted(&mut texts.iter());
        assert_eq!(forward, noted(&mut texts.iter().rev()));
        assert_eq!((forward.sorts[0].count, forward.sorts[0].examples().count()), (6, 3));
        let mut sum = noted(&mut texts[3..].iter());
        sum.absorb(&noted(&mut texts[..3].iter()));
        assert!(sum.sorts[0].examples().eq(forward.sorts[0].examples()));
        assert_eq!(sum.sorts[0].documents, 2);
    }
}
