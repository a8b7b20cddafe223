use hashbrown::HashSet;

use crate::seen::Seen;
use crate::step::{
    Arriving, Built, Condition, Evidence, Facts, Fields, Form, Key, KeyFacts, Learned, Learner, Learns,
    Operation, Outcome, Settings, SettingsError, Shown, Stage, Term, TokenStep, from_vocabulary, same,
};
use crate::study::{Tally, Weight};

const MIN_DOCUMENTS: Key<u64> =
    Key::whole("min_documents", 1, 1_000_000_000_000, "terms must occur in at least this many documents");

const MAX_DOCUMENTS: Key<u64> = Key::whole("max_documents", 1, 1_000_000_000_000, "and in at most this many");

const MIN_DOCUMENT_SHARE: Key<f64> =
    Key::share("min_document_share", "terms must occur in at least this share of the documents");

const MAX_DOCUMENT_SHARE: Key<f64> = Key::share("max_document_share", "and in at most this share");

const MIN_COUNT: Key<u64> =
    Key::whole("min_count", 1, 1_000_000_000_000, "terms must occur at least this often");

const MAX_COUNT: Key<u64> = Key::whole("max_count", 1, 1_000_000_000_000, "and at most this often");

const TOP: Key<u64> = Key::whole(
    "top",
    1,
    1_000_000_000_000,
    "of the terms that are left, keeps this many: the commonest, or with `weight` those with the highest weight; among equals the first in alphabetical order",
);

const WEIGHT: Key<&'static str> = Key::one_of(
    "weight",
    &["idf", "entropy", "mutual_information", "chi_square"],
    "the weight of terms, for `min_weight`, `max_weight` and `top`: `idf`, the inverse document frequency, ln (N / n) (Spärck Jones 1972); `entropy`, 1 minus the normalised entropy over documents (Dumais 1991); `mutual_information`, in bits, or Pearson's `chi_square`, of the term's presence in a document and \
     the value of `field`",
);

const FIELD: Key<String> =
    Key::text("field", "the field of documents for `mutual_information` and `chi_square`");

const MIN_WEIGHT: Key<f64> = Key::decimal("min_weight", "terms must have at least this weight");

const MAX_WEIGHT: Key<f64> = Key::decimal("max_weight", "and at most this");

pub(crate) const KNOWN: Key<Vec<String>> =
    Key::texts("known", "the terms that were learned before; with this key nothing is learned");

/// The keys that set bounds, one of which is needed.
const BOUNDS: [&KeyFacts; 9] = [
    &MIN_DOCUMENTS.facts,
    &MAX_DOCUMENTS.facts,
    &MIN_DOCUMENT_SHARE.facts,
    &MAX_DOCUMENT_SHARE.facts,
    &MIN_COUNT.facts,
    &MAX_COUNT.facts,
    &TOP.facts,
    &MIN_WEIGHT.facts,
    &MAX_WEIGHT.facts,
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
        &WEIGHT.facts,
        &FIELD.facts,
        &MIN_WEIGHT.facts,
        &MAX_WEIGHT.facts,
        &KNOWN.facts,
    ],
    example: "min_documents = 2\nmax_document_share = 0.95\nknown = [\"tern\"]",
    roles: &[],
    learns: Some(&Learns { key: &KNOWN.facts, names: ("term", "terms"), evidence: Evidence::Count }),
    build: |settings| Ok(Built::Token(Box::new(Limit::new(settings)?))),
};

struct Limit {
    bounds: Bounds,
    /// What weighs terms, and the field whose values it is of.
    weighing: Option<(Weight, Option<FieldAsked>)>,
    known: Option<HashSet<String, foldhash::fast::RandomState>>,
}

/// What terms must keep within; of counts the least and the most.
#[derive(Clone, Copy, Debug)]
struct Bounds {
    weights: (f64, f64),
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
        let weight = settings.get(&WEIGHT).and_then(Weight::named);
        let field = settings.get(&FIELD).map(str::to_owned);
        for key in [&MIN_WEIGHT, &MAX_WEIGHT] {
            if settings.has(&key.facts) && weight.is_none() {
                let why = format!("`{}` needs `weight`, which says what terms weigh", key.facts.name);
                return Err(SettingsError::key(&key.facts, why));
            }
        }
        if weight.is_some_and(Weight::needs_groups) != field.is_some() {
            return Err(match &field {
                Some(_) => SettingsError::key(
                    &FIELD.facts,
                    "`field` goes with `weight = \"mutual_information\"` or `weight = \"chi_square\"`",
                ),
                None => {
                    SettingsError::key(&WEIGHT.facts, "this `weight` needs `field`, whose values it is of")
                }
            });
        }
        let bounds = Bounds {
            weights: (
                settings.get(&MIN_WEIGHT).unwrap_or(0.0),
                settings.get(&MAX_WEIGHT).unwrap_or(f64::INFINITY),
            ),
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
            weighing: weight.map(|weight| (weight, field.map(FieldAsked::new))),
            known: settings.has(&KNOWN.facts).then(|| settings.get(&KNOWN).iter().cloned().collect()),
        })
    }
}

impl Facts for Limit {
    fn reason(&self, _number: u16) -> String {
        "outside the limits".to_owned()
    }

    fn conditions(&self) -> Vec<&Condition> {
        let asked = self.weighing.iter().filter_map(|(_, field)| field.as_ref());
        asked.map(|field| &field.condition).collect()
    }

    fn learner(&self) -> Option<Box<dyn Learner>> {
        let bounds = self.bounds;
        match &self.weighing {
            _ if self.known.is_some() => None,
            Some((weight, field)) => Some(Box::new(Weighing {
                bounds,
                weight: *weight,
                field: field.clone(),
                tally: Tally::new(),
            })),
            None => Some(from_vocabulary(move |vocabulary, documents| bounds.within(vocabulary, documents))),
        }
    }
}

/// A field whose values group documents, and whether some document had it.
#[derive(Clone)]
struct FieldAsked {
    path: String,
    /// Asks for the field, so that it is told where no document has it.
    condition: Condition,
}

impl FieldAsked {
    fn new(path: String) -> FieldAsked {
        let condition = Condition::of_values(vec![(path.clone(), Vec::new())]);
        FieldAsked { path, condition }
    }

    /// The value in a document. Documents without the field are a group of their own.
    fn of(&self, fields: &dyn Fields) -> String {
        self.condition.holds(&mut |path| fields.field(path));
        fields.field(&self.path).map_or_else(String::new, |value| value.trim().to_owned())
    }
}

/// Weighs the terms of documents as they come to the step.
struct Weighing {
    bounds: Bounds,
    weight: Weight,
    field: Option<FieldAsked>,
    tally: Tally,
}

impl Learner for Weighing {
    fn shown(&self) -> Shown {
        Shown::Tokens
    }

    fn tokens(&mut self, arriving: &Arriving<'_>) {
        let group = self.field.as_ref().map(|field| field.of(arriving.document.fields));
        let terms = arriving.tokens.iter().filter(|token| !token.spared).map(|token| token.text());
        self.tally.document(terms, group.as_deref());
    }

    fn absorb(&mut self, other: Box<dyn Learner>) {
        self.tally.absorb(same::<Weighing>(other).tally);
    }

    fn seen(&mut self) -> Seen {
        std::mem::take(&mut self.tally).seen()
    }

    fn that_has(&self, seen: Seen) -> Option<Box<dyn Learner>> {
        let mut seen = seen.read();
        let tally = Tally::of_seen(&mut seen)?;
        let field = self.field.clone();
        seen.is_empty().then(|| -> Box<dyn Learner> {
            Box::new(Weighing { bounds: self.bounds, weight: self.weight, field, tally })
        })
    }

    fn fresh(&self) -> Box<dyn Learner> {
        let field = self.field.clone();
        Box::new(Weighing { bounds: self.bounds, weight: self.weight, field, tally: Tally::new() })
    }

    fn learned(self: Box<Self>, _: &mut dyn Iterator<Item = Term<'_>>, _: u64) -> Vec<Learned> {
        let table = self.tally.finish();
        let documents = table.documents();
        let weighed = table.terms().into_iter().filter_map(|(term, spread)| {
            let weight = table.weight(self.weight, term);
            let within = self.bounds.hold(spread.count, spread.documents, documents)
                && (self.bounds.weights.0..=self.bounds.weights.1).contains(&weight);
            let learned = Learned {
                text: term.to_owned(),
                to: None,
                count: spread.count,
                documents: spread.documents,
                score: Some(weight),
            };
            within.then_some((weight, learned))
        });
        let mut weighed: Vec<(f64, Learned)> = weighed.collect();
        // They come by count, and of equal weight the commonest stays first.
        weighed.sort_by(|(one, _), (other, _)| other.total_cmp(one));
        weighed.truncate(self.bounds.top.map_or(usize::MAX, |top| top as usize));
        weighed.into_iter().map(|(_, learned)| learned).collect()
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
    /// Whether the counts of a term keep within the bounds, among so many documents.
    fn hold(&self, count: u64, with_term: u64, documents: u64) -> bool {
        let share = with_term as f64 / documents.max(1) as f64;
        (self.documents.0..=self.documents.1).contains(&with_term)
            && (self.counts.0..=self.counts.1).contains(&count)
            && (self.shares.0..=self.shares.1).contains(&share)
    }

    /// The terms that keep within the bounds.
    fn within(&self, vocabulary: &mut dyn Iterator<Item = Term<'_>>, documents: u64) -> Vec<Learned> {
        let within = |term: &Term<'_>| self.hold(term.count, term.documents, documents);
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
            number: 0,
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
        let all = Bounds {
            documents: (0, u64::MAX),
            shares: (0.0, 1.0),
            counts: (0, u64::MAX),
            top: None,
            weights: (0.0, f64::INFINITY),
        };
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

    #[test]
    fn terms_are_kept_by_what_they_weigh() {
        let recipe = |keys: &str| format!("[[step]]\ndo = \"split\"\n[[step]]\ndo = \"limit\"\n{keys}\n");
        let texts = [("tern tern gull", "a"), ("tern egg", "a"), ("gull tern owl", "b"), ("tern egg", "b")];
        let learned = |keys: &str| -> Vec<(String, f64)> {
            let pipeline = crate::testing::pipeline(&recipe(keys));
            let to_learn = crate::ToLearn::next(&pipeline).expect("a limit to learn");
            let mut learning = to_learn.begin();
            for (order, (text, group)) in (0..).zip(texts) {
                let fields = Group(group);
                learning.document(&crate::step::Document { text, fields: &fields, order });
            }
            let steps = learning.learned();
            let terms = steps[0].learned.iter();
            terms.map(|learned| (learned.text.clone(), learned.score.unwrap_or(-1.0))).collect()
        };
        let terms =
            |keys: &str| learned(keys).into_iter().map(|(term, _)| term).collect::<Vec<_>>().join(" ");
        assert_eq!(learned("weight = \"idf\"\nmin_weight = 0.5")[0], ("owl".into(), 4f64.ln()));
        assert_eq!(terms("weight = \"idf\"\nmin_weight = 0.5"), "owl egg gull");
        assert_eq!(terms("weight = \"idf\"\nmax_weight = 0.5"), "tern");
        assert_eq!(terms("weight = \"entropy\"\ntop = 1"), "owl");
        assert_eq!(terms("weight = \"chi_square\"\nfield = \"group\"\nmin_weight = 1"), "owl");
        assert_eq!(
            terms("weight = \"mutual_information\"\nfield = \"group\"\nmin_weight = 0.01\nmin_count = 2"),
            ""
        );
    }

    struct Group(&'static str);

    impl crate::Fields for Group {
        fn field(&self, path: &str) -> Option<std::borrow::Cow<'_, str>> {
            (path == "group").then_some(self.0.into())
        }
    }
}
