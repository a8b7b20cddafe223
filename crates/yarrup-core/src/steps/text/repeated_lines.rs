//! Learning which lines many documents repeat.

use std::sync::Arc;

use hashbrown::hash_map::Entry;
use hashbrown::{HashMap, HashSet};

use crate::occurrences::Occurrences;
use crate::seen::{Seen, SeenReader};
use crate::step::{Learned, Learner, Shown, Term, same};
use crate::steps::text::line::{Edges, compared, lines_of};

type State = foldhash::fast::FixedState;

/// Learns which lines stand in at least so many documents.
pub(super) struct RepeatedLines {
    least: u64,
    /// How many lines at either end of a document are looked at, if not all: their numbers are alike.
    edges: Option<usize>,
    document: u64,
    lines: HashMap<u64, Line, State>,
    /// In a second pass: the lines whose texts are still to be found.
    wanted: Option<Arc<HashSet<u64, State>>>,
}

/// A line by the hash of its text. The text is kept from the second document on: most lines stand in one.
struct Line {
    seen: Occurrences,
    text: Option<Box<str>>,
}

impl RepeatedLines {
    pub(super) fn new(least: u64, edges: Option<usize>) -> RepeatedLines {
        RepeatedLines { least, edges, document: 0, lines: HashMap::default(), wanted: None }
    }

    fn note(&mut self, line: &str) {
        let hash = hash(line);
        if let Some(wanted) = &self.wanted {
            // The counts are known: it is the text alone that is missing.
            if wanted.contains(&hash) {
                let new = || Line { seen: Occurrences::default(), text: Some(line.into()) };
                self.lines.entry(hash).or_insert_with(new);
            }
            return;
        }
        match self.lines.entry(hash) {
            Entry::Vacant(new) => {
                new.insert(Line { seen: Occurrences::default(), text: None }).seen.note(self.document);
            }
            Entry::Occupied(mut known) => {
                let known = known.get_mut();
                if known.seen.note(self.document) {
                    known.text.get_or_insert_with(|| line.into());
                }
            }
        }
    }
}

impl Learner for RepeatedLines {
    fn shown(&self) -> Shown {
        Shown::Text
    }

    fn text(&mut self, _order: u64, text: &str) {
        self.document += 1;
        let edges = Edges::of(text, self.edges);
        for line in lines_of(text, 0..text.len()).filter(|line| edges.has(line.body.start)) {
            let line = compared(&text[line.body], self.edges.is_some());
            if !line.is_empty() {
                self.note(&line);
            }
        }
    }

    fn absorb(&mut self, other: Box<dyn Learner>) {
        let other: RepeatedLines = same(other);
        for (hash, theirs) in other.lines {
            match self.lines.entry(hash) {
                Entry::Vacant(new) => {
                    // Documents are numbered by each worker for itself.
                    let Occurrences { count, documents, .. } = theirs.seen;
                    new.insert(Line { seen: Occurrences::known(count, documents), ..theirs });
                }
                Entry::Occupied(mut known) => {
                    let ours = known.get_mut();
                    ours.seen.absorb(theirs.seen);
                    ours.text = ours.text.take().or(theirs.text);
                }
            }
        }
    }

    fn needs_another_pass(&mut self) -> bool {
        // Two workers may each have seen a line in one document.
        self.lines.retain(|_, line| line.seen.documents >= self.least);
        let nameless = self.lines.iter().filter(|(_, line)| line.text.is_none());
        let nameless: HashSet<u64, State> = nameless.map(|(hash, _)| *hash).collect();
        let needs = !nameless.is_empty() && self.wanted.is_none();
        if needs {
            self.wanted = Some(Arc::new(nameless));
        }
        needs
    }

    fn seen(&mut self) -> Seen {
        let mut seen = Seen::default();
        // None for a first pass; in a second the number of lines, and their hashes.
        match &self.wanted {
            None => seen.numbers.push(0),
            Some(wanted) => {
                let mut wanted: Vec<u64> = wanted.iter().copied().collect();
                wanted.sort_unstable();
                seen.numbers.extend([1, wanted.len() as u64]);
                seen.numbers.extend(wanted);
            }
        }
        let mut lines: Vec<(u64, Line)> = std::mem::take(&mut self.lines).into_iter().collect();
        lines.sort_unstable_by_key(|(hash, _)| *hash);
        seen.numbers.push(lines.len() as u64);
        for (hash, line) in lines {
            seen.numbers.extend([hash, line.seen.documents, line.seen.count, u64::from(line.text.is_some())]);
            seen.texts.extend(line.text.map(String::from));
        }
        seen
    }

    fn that_has(&self, seen: Seen) -> Option<Box<dyn Learner>> {
        let mut seen = seen.read();
        let is_second = seen.number()? == 1;
        let wanted = if is_second { Some(seen.many(SeenReader::number)?) } else { None };
        let wanted = wanted.map(|wanted| Arc::new(wanted.into_iter().collect()));
        let lines = seen.many(|seen| {
            let (hash, documents, count) = (seen.number()?, seen.number()?, seen.number()?);
            let text = if seen.number()? == 1 { Some(seen.text()?.into()) } else { None };
            Some((hash, Line { seen: Occurrences::known(count, documents), text }))
        })?;
        let lines = lines.into_iter().collect();
        seen.is_empty().then(|| -> Box<dyn Learner> {
            Box::new(RepeatedLines { lines, wanted, ..RepeatedLines::new(self.least, self.edges) })
        })
    }

    fn fresh(&self) -> Box<dyn Learner> {
        Box::new(RepeatedLines { wanted: self.wanted.clone(), ..RepeatedLines::new(self.least, self.edges) })
    }

    /// The lines to drop, in the order of their bytes.
    fn learned(
        self: Box<Self>,
        _vocabulary: &mut dyn Iterator<Item = Term<'_>>,
        _documents: u64,
    ) -> Vec<Learned> {
        let repeated = self.lines.into_values().filter(|line| line.seen.documents >= self.least);
        let mut learned: Vec<Learned> = repeated
            .filter_map(|line| {
                let text = String::from(line.text?);
                Some(Learned {
                    text,
                    to: None,
                    count: line.seen.count,
                    documents: line.seen.documents,
                    score: None,
                })
            })
            .collect();
        learned.sort_unstable_by(|a, b| a.text.cmp(&b.text));
        learned
    }
}

/// A hash that mixes eight bytes at a time by multiplication: nobody can gain by two lines that share one.
fn hash(line: &str) -> u64 {
    let mix = |hash: u64, word: u64| (hash ^ word).wrapping_mul(0x9e37_79b9_7f4a_7c15).rotate_left(29);
    let mut chunks = line.as_bytes().chunks_exact(8);
    let mut hash = chunks
        .by_ref()
        .fold(line.len() as u64, |hash, chunk| mix(hash, chunk.try_into().map_or(0, u64::from_le_bytes)));
    for &byte in chunks.remainder() {
        hash = mix(hash, u64::from(byte));
    }
    mix(hash, 0xff)
}
