//! Passages that many documents repeat: notices, signatures, standing sentences.
//!
//! Every run of six words is hashed, and every shorter line, and a first pass sketches how often each comes. A second goes along the runs that come often enough, and counts whole
//! sentences and lines among them exactly: memory is bounded by the sketch and by what is repeated.

use std::collections::HashMap;
use std::ops::Range;
use std::sync::Arc;

use crate::count_sketch::CountSketch;
use crate::occurrences::Occurrences;
use crate::step::mixed_text_hash;

/// How many words a passage has at least.
const WORDS: usize = 6;
/// The fewest letters of a line of fewer words: shorter ones repeat by chance.
const LETTERS: usize = 8;
/// The longest passage, in words: what is longer is a copy.
const MOST_WORDS: usize = 400;

/// A passage that several documents have.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Passage {
    /// As it stands there, line breaks and all.
    pub text: String,
    /// How often.
    pub count: u64,
    /// In how many documents.
    pub documents: u64,
    /// Whether it fills its lines everywhere.
    pub is_lines: bool,
}

/// Finds passages that stand in at least so many documents. Workers have one each; every document must be shown in each pass.
pub struct Passages {
    least: u64,
    phase: Phase,
}

enum Phase {
    /// How often runs of words come, at least.
    Sketching(Box<CountSketch>),
    Counting {
        runs: Arc<CountSketch>,
        found: HashMap<u64, Counted>,
    },
}

struct Counted {
    text: String,
    seen: Occurrences,
    is_lines: bool,
}

impl Passages {
    /// What finds passages of at least so many documents.
    pub fn new(least: u64) -> Passages {
        Passages { least, phase: Phase::Sketching(Box::default()) }
    }

    /// Looks at a document, which has this place among all.
    pub fn document(&mut self, order: u64, text: &str) {
        let words = words(text);
        if words.len() < WORDS {
            return;
        }
        let hashes: Vec<u64> = words.iter().map(|word| mixed_text_hash(&text[word.clone()])).collect();
        match &mut self.phase {
            Phase::Sketching(sketch) => {
                hashes.windows(WORDS).for_each(|run| sketch.add(run_hash(run), 1));
                short_lines(text, words.len()).for_each(|line| sketch.add(line_hash(line), 1));
            }
            Phase::Counting { runs, found } => {
                let is_often: Vec<bool> =
                    hashes.windows(WORDS).map(|run| runs.most(run_hash(run)) >= self.least).collect();
                // Of one document, each passage counts once for the documents.
                each_passage(text, &words, &is_often, &mut |place, is_lines| {
                    note(found, order, &text[place], is_lines);
                });
                for line in
                    short_lines(text, words.len()).filter(|line| runs.most(line_hash(line)) >= self.least)
                {
                    note(found, order, line, true);
                }
            }
        }
    }

    /// Adds what another worker saw in the same pass.
    pub fn absorb(&mut self, other: Passages) {
        match (&mut self.phase, other.phase) {
            (Phase::Sketching(ours), Phase::Sketching(theirs)) => ours.absorb(&theirs),
            (Phase::Counting { found: ours, .. }, Phase::Counting { found: theirs, .. }) => {
                for (hash, theirs) in theirs {
                    match ours.get_mut(&hash) {
                        Some(ours) => {
                            ours.seen.absorb(theirs.seen);
                            ours.is_lines &= theirs.is_lines;
                        }
                        None => {
                            ours.insert(hash, theirs);
                        }
                    }
                }
            }
            _ => {}
        }
    }

    /// Begins the second pass, if this was the first.
    pub fn needs_another_pass(&mut self) -> bool {
        let Phase::Sketching(sketch) = &mut self.phase else { return false };
        let runs = Arc::from(std::mem::take(sketch));
        self.phase = Phase::Counting { runs, found: HashMap::new() };
        true
    }

    /// What another worker begins the same pass with.
    pub fn fresh(&self) -> Passages {
        let phase = match &self.phase {
            Phase::Sketching(_) => Phase::Sketching(Box::default()),
            Phase::Counting { runs, .. } => Phase::Counting { runs: Arc::clone(runs), found: HashMap::new() },
        };
        Passages { least: self.least, phase }
    }

    /// The passages, those first that make up most words.
    pub fn finish(self) -> Vec<Passage> {
        let Phase::Counting { found, .. } = self.phase else { return Vec::new() };
        let passages = found.into_values().filter(|counted| counted.seen.documents >= self.least);
        let mut passages: Vec<Passage> = passages
            .map(|Counted { text, seen, is_lines }| Passage {
                text,
                count: seen.count,
                documents: seen.documents,
                is_lines,
            })
            .collect();
        // A short line that hardly ever stands outside of a passage is told with it.
        let longer: HashMap<String, u64> = passages
            .iter()
            .filter(|passage| passage.text.contains('\n'))
            .flat_map(|passage| passage.text.lines().map(|line| (line.trim().to_owned(), passage.documents)))
            .collect();
        passages.retain(|passage| {
            longer.get(&passage.text).is_none_or(|documents| documents * 5 < passage.documents * 4)
        });
        let weight = |passage: &Passage| passage.count * passage.text.split_whitespace().count() as u64;
        passages.sort_by(|a, b| weight(b).cmp(&weight(a)).then_with(|| a.text.cmp(&b.text)));
        passages
    }
}

fn note(found: &mut HashMap<u64, Counted>, order: u64, text: &str, is_lines: bool) {
    let new = || Counted { text: text.to_owned(), seen: Occurrences::default(), is_lines: true };
    let counted = found.entry(mixed_text_hash(text)).or_insert_with(new);
    counted.seen.note(order);
    counted.is_lines &= is_lines;
}

/// The words of a text: what stands between white space.
fn words(text: &str) -> Vec<Range<usize>> {
    let start = text.as_ptr() as usize;
    let place = |word: &str| {
        let at = word.as_ptr() as usize - start;
        at..at + word.len()
    };
    text.split_whitespace().map(place).collect()
}

fn run_hash(run: &[u64]) -> u64 {
    run.iter().fold(0, |sum: u64, hash| (sum ^ hash).wrapping_mul(0x9e37_79b9_7f4a_7c15).rotate_left(31))
}

/// The lines of a text that are too short for a run, and not most of the text.
fn short_lines(text: &str, words: usize) -> impl Iterator<Item = &str> {
    let lines = if text.contains('\n') { text } else { "" };
    lines.lines().map(str::trim).filter(move |line| {
        let count = line.split_whitespace().take(WORDS).count();
        (1..WORDS).contains(&count)
            && count * 2 < words
            && line.chars().filter(|c| c.is_alphabetic()).nth(LETTERS - 1).is_some()
    })
}

/// The hash of a line, which is none of a run.
fn line_hash(line: &str) -> u64 {
    mixed_text_hash(line).rotate_left(7) ^ 0x6c69_6e65
}

/// Gives the whole sentences and lines of each stretch of which all runs come often, and whether they fill their lines. A document most of which is such a
/// stretch is a copy.
fn each_passage(
    text: &str,
    words: &[Range<usize>],
    is_often: &[bool],
    found: &mut dyn FnMut(Range<usize>, bool),
) {
    let between = |word: usize| match word {
        0 => "\n\n",
        word if word == words.len() => "\n\n",
        word => &text[words[word - 1].end..words[word].start],
    };
    let is_paragraph = |word: usize| between(word).matches('\n').count() > 1;
    let ends_sentence = |word: usize| {
        text[words[word].clone()].trim_end_matches(['"', '”', ')', '\'']).ends_with(['.', '!', '?', '…', ':'])
    };
    // A passage may begin or end before this word.
    let is_border = |word: usize| {
        word == 0 || word == words.len() || between(word).contains('\n') || ends_sentence(word - 1)
    };
    let mut at = 0;
    while at < is_often.len() {
        if !is_often[at] {
            at += 1;
            continue;
        }
        let first = at;
        while at < is_often.len() && is_often[at] {
            at += 1;
        }
        // The words of the runs from `first` on.
        let last = at + WORDS - 1;
        if (last - first) * 2 > words.len() {
            continue;
        }
        let mut from = first;
        while from < last {
            // Up to the end of the paragraph.
            let to = (from + 1..=last).find(|word| is_paragraph(*word)).unwrap_or(last).min(last);
            let start = (from..to).find(|word| is_border(*word));
            let end = (from + 1..=to).rev().find(|word| is_border(*word));
            if let (Some(start), Some(end)) = (start, end)
                && end >= start + WORDS
                && end - start <= MOST_WORDS
            {
                let is_lines = between(start).contains('\n') && between(end).contains('\n');
                found(words[start].start..words[end - 1].end, is_lines);
            }
            from = to;
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// What workers find that each see some of the texts.
    fn found(least: u64, shards: &[&[String]]) -> Vec<Passage> {
        let mut sum = Passages::new(least);
        loop {
            let mut others: Vec<Passages> = shards[1..].iter().map(|_| sum.fresh()).collect();
            let mut order = 0..;
            let mut show = |worker: &mut Passages, texts: &[String]| {
                texts.iter().zip(&mut order).for_each(|(text, order)| worker.document(order, text));
            };
            show(&mut sum, shards[0]);
            for (other, texts) in others.iter_mut().zip(&shards[1..]) {
                show(other, texts);
            }
            others.into_iter().for_each(|other| sum.absorb(other));
            if !sum.needs_another_pass() {
                return sum.finish();
            }
        }
    }

    #[test]
    fn whole_sentences_and_lines_are_found_wherever_they_stand() {
        let notice = "Please do not answer this message, for nobody reads it here.";
        let footer = "Saltmere Reserve · 3 Old Harbour Road\nOpen every day from dawn to dusk";
        let texts: Vec<String> = [
            format!("We counted nine terns at dawn by the wall today. {notice} The tide was low and the wind came round from the west later on."),
            format!("A heron stood in the reeds for an hour or so this morning. {notice} Nobody saw where it went, though all of us looked for it."),
            format!("The gate is open again and the path has dried out well since.\nThe hide needs a new board before the winter begins.\n\n{footer}\n"),
            format!("Two boxes are empty and one has been taken over by wasps since.\nWe shall move it behind the shed as soon as they go.\n\n{footer}\n"),
            "Nothing else of note happened on the marsh all day long, and so we went home early.".to_owned(),
        ]
        .to_vec();
        let whole = found(2, &[&texts]);
        let told: Vec<(&str, u64, u64, bool)> =
            whole.iter().map(|one| (one.text.as_str(), one.count, one.documents, one.is_lines)).collect();
        assert_eq!(told, [(footer, 2, 2, true), (notice, 2, 2, false)]);
        assert_eq!(found(2, &[&texts[..1], &texts[1..3], &texts[3..]]), whole);
        assert_eq!(found(3, &[&texts]), []);
    }

    #[test]
    fn short_lines_are_found_unless_a_passage_has_them() {
        let letter = |name: &str| {
            format!(
                "Dear {name}, the boat leaves at nine and will not wait for anybody who is late.\nYours,\nThe Wardens' Office\n"
            )
        };
        let other =
            "The ferry is out of order until the end of the month, as far as we know.\nThe Wardens' Office\n"
                .to_owned();
        let texts = [letter("Ines"), letter("Bo"), other];
        let told: Vec<(String, u64)> =
            found(2, &[&texts]).into_iter().map(|one| (one.text, one.documents)).collect();
        assert_eq!(told, [("The Wardens' Office".to_owned(), 3)]);
    }

    #[test]
    fn copies_are_no_passages_and_a_document_counts_once() {
        let copy = "The tide was low and the wind came round from the west later on.".to_owned();
        assert_eq!(found(2, &[&[copy.clone(), copy.clone()]]), []);
        let filler = (0..40).map(|number| format!("w{number}")).collect::<Vec<_>>().join(" ");
        let twice = format!("{filler}\n{copy}\n\nx y z\n\n{copy}\n");
        assert_eq!(found(2, &[std::slice::from_ref(&twice)]), []);
        let other = format!("{}\n{copy}\n", filler.replace('w', "v"));
        let both = found(2, &[&[twice, other]]);
        assert_eq!(both.iter().map(|one| (one.count, one.documents)).collect::<Vec<_>>(), [(3, 2)]);
    }
}
