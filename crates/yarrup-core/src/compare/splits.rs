//! Where two recipes cut the text at other places.

use std::collections::BTreeMap;

use serde::Serialize;

use crate::kind::Kind;
use crate::pipeline::Pipeline;
use crate::span::Span;
use crate::step::{Fields, Matches, Text};

/// How a stretch of text is cut otherwise.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum DisagreementKind {
    /// One token under the first recipe, several under the second.
    Parted,
    /// Several tokens under the first, one under the second.
    Whole,
    /// Several under both, at other places.
    CutElsewhere,
    /// One token under both, which ends or begins elsewhere.
    OtherEdges,
    /// Only the first makes tokens of it.
    OnlyHere,
    /// Only the second does.
    OnlyThere,
}

impl DisagreementKind {
    /// Every one, in order.
    pub const ALL: [DisagreementKind; 6] = [
        DisagreementKind::Parted,
        DisagreementKind::Whole,
        DisagreementKind::CutElsewhere,
        DisagreementKind::OtherEdges,
        DisagreementKind::OnlyHere,
        DisagreementKind::OnlyThere,
    ];
}

/// A stretch of text that is cut otherwise, and how often it comes.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Disagreement {
    /// How it differs.
    pub kind: DisagreementKind,
    /// What it is made of.
    #[serde(serialize_with = "by_name")]
    pub of: Kind,
    /// The tokens of the first.
    pub here: Vec<String>,
    /// The tokens of the second.
    pub there: Vec<String>,
    /// How often.
    pub count: u64,
}

fn by_name<S: serde::Serializer>(kind: &Kind, serializer: S) -> Result<S::Ok, S::Error> {
    serializer.serialize_str(kind.name())
}

/// The longest stretch that is told; longer ones are only counted.
const LONGEST_TOLD: usize = 80;

type Stretch = (DisagreementKind, Kind, Vec<String>, Vec<String>);

/// Finds the stretches that two recipes cut at other places, in the text as found. What workers have found adds up.
pub struct SplitContrast<'p> {
    pipelines: [&'p Pipeline; 2],
    texts: [Text; 2],
    spans: [Vec<Span>; 2],
    /// How many tokens both have, at the same places.
    alike: u64,
    stretches: BTreeMap<Stretch, u64>,
    by_kind: BTreeMap<DisagreementKind, u64>,
}

impl<'p> SplitContrast<'p> {
    /// Nothing found yet.
    pub fn new(here: &'p Pipeline, there: &'p Pipeline) -> SplitContrast<'p> {
        SplitContrast {
            pipelines: [here, there],
            texts: [Text::new(true), Text::new(true)],
            spans: [Vec::new(), Vec::new()],
            alike: 0,
            stretches: BTreeMap::new(),
            by_kind: BTreeMap::new(),
        }
    }

    /// Looks at a document.
    pub fn document(&mut self, original: &str, fields: &dyn Fields) {
        for side in 0..2 {
            let (pipeline, text) = (self.pipelines[side], &mut self.texts[side]);
            let variant = pipeline.variant(original, fields);
            text.begin();
            for stage in pipeline.text.iter().filter(|stage| stage.works_on(variant)) {
                stage.apply(text, original, &mut Matches::default());
            }
            let spans = &mut self.spans[side];
            spans.clear();
            pipeline.splitter.split(text.as_str(original), spans);
            for span in spans.iter_mut() {
                let place = text.alignment().original(span.start as usize..span.end as usize);
                *span = Span { start: place.start as u32, end: place.end as u32 };
            }
            // What text steps have put in stands nowhere in the original.
            spans.retain(|span| span.start < span.end);
        }
        let [here, there] = std::mem::take(&mut self.spans);
        let (mut ours, mut theirs) = (0, 0);
        while ours < here.len() || theirs < there.len() {
            if ours < here.len() && theirs < there.len() && here[ours] == there[theirs] {
                self.alike += 1;
                (ours, theirs) = (ours + 1, theirs + 1);
                continue;
            }
            let (first_here, first_there) = (ours, theirs);
            let start = |spans: &[Span], at: usize| spans.get(at).map_or(u32::MAX, |span| span.start);
            // All that overlaps from here on, from either side.
            let mut end = 0;
            loop {
                let (next_here, next_there) = (start(&here, ours), start(&there, theirs));
                let is_first = ours == first_here && theirs == first_there;
                if next_here <= next_there && next_here != u32::MAX && (is_first || next_here < end) {
                    end = end.max(here[ours].end);
                    ours += 1;
                } else if next_there != u32::MAX && (is_first || next_there < end) {
                    end = end.max(there[theirs].end);
                    theirs += 1;
                } else {
                    break;
                }
            }
            self.note(original, &here[first_here..ours], &there[first_there..theirs]);
        }
        self.spans = [here, there];
    }

    fn note(&mut self, original: &str, here: &[Span], there: &[Span]) {
        let kind = match (here.len(), there.len()) {
            (_, 0) => DisagreementKind::OnlyHere,
            (0, _) => DisagreementKind::OnlyThere,
            (1, 1) => DisagreementKind::OtherEdges,
            (1, _) => DisagreementKind::Parted,
            (_, 1) => DisagreementKind::Whole,
            _ => DisagreementKind::CutElsewhere,
        };
        *self.by_kind.entry(kind).or_default() += 1;
        let all = here.iter().chain(there);
        let start = all.clone().map(|span| span.start).min().unwrap_or_default();
        let end = all.map(|span| span.end).max().unwrap_or_default();
        if (end - start) as usize > LONGEST_TOLD {
            return;
        }
        let texts = |spans: &[Span]| -> Vec<String> {
            spans.iter().map(|span| span.of(original).to_owned()).collect()
        };
        let of = Kind::of(Span { start, end }.of(original));
        *self.stretches.entry((kind, of, texts(here), texts(there))).or_default() += 1;
    }

    /// Adds what another worker has found.
    pub fn absorb(&mut self, other: SplitContrast<'_>) {
        self.alike += other.alike;
        for (stretch, count) in other.stretches {
            *self.stretches.entry(stretch).or_default() += count;
        }
        for (kind, count) in other.by_kind {
            *self.by_kind.entry(kind).or_default() += count;
        }
    }

    /// How many tokens both cut alike.
    pub fn alike(&self) -> u64 {
        self.alike
    }

    /// How many stretches of each kind, the kinds in order.
    pub fn by_kind(&self) -> impl Iterator<Item = (DisagreementKind, u64)> + '_ {
        self.by_kind.iter().map(|(kind, count)| (*kind, *count))
    }

    /// The stretches that differ: by count, then by kind and text. Those of more than 80 bytes are not among them.
    pub fn disagreements(&self) -> Vec<Disagreement> {
        let mut rows: Vec<Disagreement> = self
            .stretches
            .iter()
            .map(|((kind, of, here, there), count)| Disagreement {
                kind: *kind,
                of: *of,
                here: here.clone(),
                there: there.clone(),
                count: *count,
            })
            .collect();
        rows.sort_by_key(|row| std::cmp::Reverse(row.count));
        rows
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{NoFields, testing};

    #[test]
    fn kinds_of_disagreement() {
        let words = testing::pipeline("[[step]]\ndo = \"split\"\ninto = \"words\"\n");
        let spaces = testing::pipeline("[[step]]\ndo = \"split\"\ninto = \"spaces\"\n");
        let mut contrast = SplitContrast::new(&spaces, &words);
        contrast.document("A tern's egg, a well-kept one, a well-kept one.", &NoFields);
        let rows = contrast.disagreements();
        assert_eq!(rows[0].count, 2, "{rows:?}");
        assert_eq!(
            (rows[0].kind, rows[0].here.join("|")),
            (DisagreementKind::Parted, "well-kept".to_owned())
        );
        assert_eq!(rows[0].there.join("|"), "well|-|kept");
        let parted: u64 = contrast.by_kind().map(|(_, count)| count).sum();
        assert_eq!(parted, rows.iter().map(|row| row.count).sum::<u64>());
        let mut back = SplitContrast::new(&words, &spaces);
        back.document("A tern's egg, a well-kept one, a well-kept one.", &NoFields);
        assert_eq!(back.disagreements()[0].kind, DisagreementKind::Whole);
        assert_eq!(back.alike(), contrast.alike());
        let mut same = SplitContrast::new(&words, &words);
        same.document("A tern's egg.", &NoFields);
        assert!(same.disagreements().is_empty() && same.alike() > 0);
    }

    #[test]
    fn places_are_those_of_the_text_as_found() {
        let masked = testing::pipeline(
            "[[step]]\ndo = \"mask\"\nkinds = [\"url\"]\n[[step]]\ndo = \"split\"\ninto = \"words\"\n",
        );
        let words = testing::pipeline("[[step]]\ndo = \"split\"\ninto = \"words\"\n");
        let mut contrast = SplitContrast::new(&masked, &words);
        contrast.document("See https://example.org/a now", &NoFields);
        let rows = contrast.disagreements();
        assert_eq!(rows.len(), 1, "{rows:?}");
        assert_eq!(rows[0].here.join("|"), "https://example.org/a");
    }
}
