use hashbrown::HashSet;

use crate::step::{
    Built, Facts, Form, Key, Learned, Learner, Operation, Outcome, Settings, Shape, Stage, Term, TokenStep,
    from_vocabulary,
};

const COUNTS: Shape = Shape::Whole { least: 1, most: 1_000_000_000_000 };

pub(crate) static LIMIT: Operation = Operation {
    name: "limit",
    stage: Stage::Token,
    about: "keeps terms that are neither too rare nor too common in the collection, which is learned and written into `frozen.toml`",
    keys: &[
        Key {
            name: "min_documents",
            shape: COUNTS,
            default: None,
            about: "terms must stand in at least this many documents",
        },
        Key { name: "max_documents", shape: COUNTS, default: None, about: "and in at most this many" },
        Key {
            name: "min_document_share",
            shape: Shape::Share,
            default: None,
            about: "terms must stand in at least this share of the documents",
        },
        Key {
            name: "max_document_share",
            shape: Shape::Share,
            default: None,
            about: "and in at most this share",
        },
        Key { name: "min_count", shape: COUNTS, default: None, about: "terms must come at least this often" },
        Key { name: "max_count", shape: COUNTS, default: None, about: "and at most this often" },
        Key {
            name: "top",
            shape: COUNTS,
            default: None,
            about: "of the terms that are left, this many of the commonest; of equals the first by their letters",
        },
        Key {
            name: "known",
            shape: Shape::Texts,
            default: None,
            about: "the terms that were left before: with it nothing is learned",
        },
    ],
    example: "min_documents = 2\nmax_document_share = 0.95\nknown = [\"tern\"]",
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
    fn new(settings: &Settings) -> Result<Limit, String> {
        let bounds = [
            "min_documents",
            "max_documents",
            "min_document_share",
            "max_document_share",
            "min_count",
            "max_count",
            "top",
        ];
        if !bounds.iter().any(|key| settings.has(key)) {
            let named: Vec<String> = bounds.iter().map(|key| format!("`{key}`")).collect();
            return Err(format!("`limit` needs at least one of {}", named.join(", ")));
        }
        let pair = |least: &str, most: &str| {
            (settings.whole(least).unwrap_or(0), settings.whole(most).unwrap_or(u64::MAX))
        };
        let bounds = Bounds {
            documents: pair("min_documents", "max_documents"),
            shares: (
                settings.share("min_document_share").unwrap_or(0.0),
                settings.share("max_document_share").unwrap_or(1.0),
            ),
            counts: pair("min_count", "max_count"),
            top: settings.whole("top"),
        };
        Ok(Limit {
            bounds,
            known: settings.has("known").then(|| settings.texts("known").iter().cloned().collect()),
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
