use hashbrown::HashSet;

use crate::step::{
    Built, Evidence, Facts, Form, Key, KeyFacts, Learned, Learner, Learns, Operation, Outcome, Settings,
    SettingsError, Stage, Term, TokenStep, from_vocabulary,
};

const MIN_DOCUMENTS: Key<u64> =
    Key::whole("min_documents", 1, 1_000_000_000_000, "terms must stand in at least this many documents");

const MAX_DOCUMENTS: Key<u64> = Key::whole("max_documents", 1, 1_000_000_000_000, "and in at most this many");

const MIN_DOCUMENT_SHARE: Key<f64> =
    Key::share("min_document_share", "terms must stand in at least this share of the documents");

const MAX_DOCUMENT_SHARE: Key<f64> = Key::share("max_document_share", "and in at most this share");

const MIN_COUNT: Key<u64> =
    Key::whole("min_count", 1, 1_000_000_000_000, "terms must come at least this often");

const MAX_COUNT: Key<u64> = Key::whole("max_count", 1, 1_000_000_000_000, "and at most this often");

const TOP: Key<u64> = Key::whole(
    "top",
    1,
    1_000_000_000_000,
    "of the terms that are left, this many of the commonest; of equals the first by their letters",
);

const KNOWN: Key<Vec<String>> =
    Key::texts("known", "the terms that were left before: with it nothing is learned");

/// The keys that set bounds, one of which is needed.
const BOUNDS: [&KeyFacts; 7] = [
    &MIN_DOCUMENTS.facts,
    &MAX_DOCUMENTS.facts,
    &MIN_DOCUMENT_SHARE.facts,
    &MAX_DOCUMENT_SHARE.facts,
    &MIN_COUNT.facts,
    &MAX_COUNT.facts,
    &TOP.facts,
];

pub(crate) static LIMIT: Operation = Operation {
    name: "limit",
    stage: Stage::Collection,
    about: "keeps terms that are neither too rare nor too common in the collection, which is learned and written into `frozen.toml`",
    keys: &[
        &MIN_DOCUMENTS.facts,
        &MAX_DOCUMENTS.facts,
        &MIN_DOCUMENT_SHARE.facts,
        &MAX_DOCUMENT_SHARE.facts,
        &MIN_COUNT.facts,
        &MAX_COUNT.facts,
        &TOP.facts,
        &KNOWN.facts,
    ],
    example: "min_documents = 2\nmax_document_share = 0.95\nknown = [\"tern\"]",
    roles: &[],
    learns: Some(&Learns { key: &KNOWN.facts, names: ("term", "terms"), evidence: Evidence::Count }),
    build: |settings| Ok(Built::Token(Box::new(Limit::new(settings)?))),
};

struct Limit {
    bounds: Bounds,
    known: Option<HashSet<String, foldhash::fast::RandomState>>,
}

/// What terms must keep within; of counts the least and the most.
#[derive(Clone, Copy)]
struct Bounds {
    documents: (u64, u64),
    shares: (f64, f64),
    counts: (u64, u64),
    top: Option<u64>,
}

impl Limit {
    fn new(settings: &Settings) -> Result<Limit, SettingsError> {
        if !BOUNDS.iter().any(|key| settings.has(key)) {
            return Err(SettingsError::needs_one_of(&BOUNDS));
        }
        let pair = |least: &Key<u64>, most: &Key<u64>| {
            (settings.get(least).unwrap_or(0), settings.get(most).unwrap_or(u64::MAX))
        };
        let bounds = Bounds {
            documents: pair(&MIN_DOCUMENTS, &MAX_DOCUMENTS),
            shares: (
                settings.get(&MIN_DOCUMENT_SHARE).unwrap_or(0.0),
                settings.get(&MAX_DOCUMENT_SHARE).unwrap_or(1.0),
            ),
            counts: pair(&MIN_COUNT, &MAX_COUNT),
            top: settings.get(&TOP),
        };
        Ok(Limit {
            bounds,
            known: settings.has(&KNOWN.facts).then(|| settings.get(&KNOWN).iter().cloned().collect()),
        })
    }
}

impl Facts for Limit {
    fn reason(&self, _number: u16) -> String {
        "outside the limits".to_owned()
    }

    fn learner(&self) -> Option<Box<dyn Learner>> {
        let bounds = self.bounds;
        self.known
            .is_none()
            .then(|| from_vocabulary(move |vocabulary, documents| bounds.within(vocabulary, documents)))
    }
}
impl TokenStep for Limit {
    fn apply(&self, form: &Form<'_>) -> Outcome {
        match &self.known {
            Some(known) if !known.contains(form.text) => Outcome::Drop(0),
            _ => Outcome::Keep,
        }
    }
}

impl Bounds {
    /// The terms that keep within the bounds.
    fn within(&self, vocabulary: &mut dyn Iterator<Item = Term<'_>>, documents: u64) -> Vec<Learned> {
        let within = |term: &Term<'_>| {
            let share = term.documents as f64 / documents.max(1) as f64;
            (self.documents.0..=self.documents.1).contains(&term.documents)
                && (self.counts.0..=self.counts.1).contains(&term.count)
                && (self.shares.0..=self.shares.1).contains(&share)
        };
        let left = vocabulary.filter(within).take(self.top.map_or(usize::MAX, |top| top as usize));
        left.map(|term| term.learned()).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The terms within these bounds of a vocabulary of four, with counts 8, 4, 2 and 1, in 4, 2, 2 and 1 of four documents.
    fn within(bounds: Bounds) -> String {
        let term = |text, count, documents| Term {
            text,
            count,
            documents,
            forms: 1,
            commonest_form: text,
            tag: None,
        };
        let vocabulary = [term("a", 8, 4), term("b", 4, 2), term("c", 2, 2), term("d", 1, 1)];
        let learned = bounds.within(&mut vocabulary.into_iter(), 4);
        learned.into_iter().map(|learned| learned.text).collect()
    }

    #[test]
    fn each_bound_is_kept_and_its_ends_belong_to_it() {
        let all = Bounds { documents: (0, u64::MAX), shares: (0.0, 1.0), counts: (0, u64::MAX), top: None };
        for (bounds, expected) in [
            (all, "abcd"),
            (Bounds { documents: (2, u64::MAX), ..all }, "abc"),
            (Bounds { documents: (0, 2), ..all }, "bcd"),
            (Bounds { shares: (0.5, 1.0), ..all }, "abc"),
            (Bounds { shares: (0.0, 0.5), ..all }, "bcd"),
            (Bounds { counts: (2, u64::MAX), ..all }, "abc"),
            (Bounds { counts: (0, 4), ..all }, "bcd"),
            (Bounds { counts: (2, 4), ..all }, "bc"),
            (Bounds { top: Some(1), counts: (0, 4), ..all }, "b"),
            (Bounds { top: Some(9), ..all }, "abcd"),
        ] {
            assert_eq!(within(bounds), expected);
        }
    }
}
