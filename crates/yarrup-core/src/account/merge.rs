//! Adding up the accounts of parts of a collection.

use std::fmt;

use crate::account::build::EndKey;
use crate::account::{Account, Ends, NO_TEXT, Segment, TermDocuments, VariantForms};
use crate::pipeline::Pipeline;

/// Why two accounts do not add up.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct MergeError {
    /// What keeps them apart.
    pub difference: Difference,
}

/// What keeps two accounts from adding up.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Difference {
    /// They are of different recipes, or of one that has learned different things.
    Recipes,
    /// A step of this number compares documents with others of its part alone.
    Copies(usize),
    /// A part of the collection is in both: this source.
    Source(String),
}

impl fmt::Display for MergeError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match &self.difference {
            Difference::Recipes => f.write_str(
                "the runs are of different recipes, or of one recipe that learned different things",
            ),
            Difference::Copies(step) => write!(
                f,
                "step {step} compares documents with others: copies whose original is in the other part were not found. Run the recipe on all sources \
                 at once"
            ),
            Difference::Source(name) => {
                write!(f, "`{name}` was read by both runs, and would be counted twice")
            }
        }
    }
}

impl std::error::Error for MergeError {}

impl Account {
    /// The account of both parts together. In whatever order parts are added, the sum is the same: that of one run over all of them.
    ///
    /// # Errors
    ///
    /// If the two are of different recipes, have a source in common, or were cleaned of copies each by itself.
    pub fn merge(mut self, other: Account) -> Result<Account, MergeError> {
        if self.origin.recipe != other.origin.recipe
            || self.steps != other.steps
            || self.learned != other.learned
        {
            return Err(MergeError { difference: Difference::Recipes });
        }
        if let Some(step) = self.steps.iter().position(|step| step.compares) {
            return Err(MergeError { difference: Difference::Copies(step + 1) });
        }
        let sources = &other.origin.sources;
        // The same bytes under another name are the same documents.
        if let Some((name, _)) =
            self.origin.sources.iter().find(|(_, hash)| sources.iter().any(|(_, other)| other == hash))
        {
            return Err(MergeError { difference: Difference::Source(name.clone()) });
        }
        self.add(other);
        Ok(self)
    }

    /// The account of a run that several workers of `pipeline` shared.
    pub fn sum(workers: impl Iterator<Item = Account>, pipeline: &Pipeline) -> Account {
        let sum = workers.reduce(|mut sum, other| {
            sum.add(other);
            sum
        });
        sum.unwrap_or_else(|| Account::empty(pipeline))
    }

    /// Adds what another worker of the same run has counted.
    pub(crate) fn add(&mut self, mut other: Account) {
        // One recipe under two names: in whatever order they are added, the same name stays.
        if other.origin.name < self.origin.name {
            self.origin.name = std::mem::take(&mut other.origin.name);
        }
        self.origin.sources.append(&mut other.origin.sources);
        self.origin.sources.sort();
        let (texts, ours, theirs) = self.texts.union(&other.texts);
        self.renumber(&ours);
        other.renumber(&theirs);
        self.texts = texts;
        self.found.append(&mut other.found);
        self.found.sort();
        self.found.dedup();
        self.variants = variants(std::mem::take(&mut self.variants), other.variants);
        let mut ends = self.ends.take_rows();
        ends.append(&mut other.ends.take_rows());
        self.ends = Ends::of(ends);
        let rows = |terms: TermDocuments| terms.term.into_iter().zip(terms.documents);
        self.terms =
            TermDocuments::of(rows(std::mem::take(&mut self.terms)).chain(rows(other.terms)).collect());
        self.dropped_documents.append(&mut other.dropped_documents);
        self.dropped_documents.sort();
        self.dropped_documents.dedup_by(|next, row| {
            let same = (next.0, next.1) == (row.0, row.1);
            if same {
                row.2 += next.2;
            }
            same
        });
        self.reasons.append(&mut other.reasons);
        self.reasons.sort();
        self.reasons.dedup();
        for (ours, theirs) in self.text_steps.iter_mut().zip(other.text_steps) {
            ours.documents += theirs.documents;
            ours.matches += theirs.matches;
            ours.characters_in += theirs.characters_in;
            ours.characters_out += theirs.characters_out;
            ours.matched.absorb(&theirs.matched);
        }
        for (ours, theirs) in self.token_steps.iter_mut().zip(other.token_steps) {
            ours.documents += theirs.documents;
            ours.dropped += theirs.dropped;
            ours.joined += theirs.joined;
            ours.added += theirs.added;
            ours.changed += theirs.changed;
            ours.marked += theirs.marked;
        }
        let (ours, theirs) = (&mut self.totals, other.totals);
        ours.documents += theirs.documents;
        ours.dropped += theirs.dropped;
        ours.emptied += theirs.emptied;
        ours.empty += theirs.empty;
        ours.characters += theirs.characters;
        ours.tokens_found += theirs.tokens_found;
        ours.tokens_kept += theirs.tokens_kept;
    }

    /// Gives every text in the tables another number. A larger number stays larger, so that the order of rows stays too.
    fn renumber(&mut self, numbers: &[u32]) {
        let renumber = |text: &mut u32| {
            if *text != NO_TEXT {
                *text = numbers[*text as usize];
            }
        };
        self.found.iter_mut().for_each(renumber);
        self.terms.term.iter_mut().for_each(renumber);
        self.ends.form.iter_mut().for_each(renumber);
        for (what, fate) in self.ends.what.iter_mut().zip(&self.ends.fate) {
            if *fate != Ends::DROPPED {
                renumber(what);
            }
        }
        for segment in self.variants.iter_mut().flat_map(|variant| &mut variant.segments) {
            segment.form.iter_mut().for_each(renumber);
            segment.changes.iter_mut().for_each(|(.., to)| renumber(to));
        }
    }
}

impl Ends {
    fn take_rows(&mut self) -> Vec<(EndKey, u64, u64)> {
        let ends = std::mem::take(self);
        let row = |row: usize| {
            let key = (ends.form[row], ends.tag[row], ends.fate[row], ends.step[row], ends.what[row]);
            (key, ends.count[row], ends.documents[row])
        };
        (0..ends.form.len()).map(row).collect()
    }
}

/// The variants of both, those of the same conditions added up.
fn variants(ours: Vec<VariantForms>, theirs: Vec<VariantForms>) -> Vec<VariantForms> {
    let mut all = ours;
    for variant in theirs {
        match all.iter_mut().find(|known| known.conditions == variant.conditions) {
            Some(known) => {
                known.documents += variant.documents;
                for (ours, theirs) in known.segments.iter_mut().zip(variant.segments) {
                    *ours = std::mem::take(ours).sum(theirs);
                }
            }
            None => all.push(variant),
        }
    }
    all.sort_by_key(|variant| variant.conditions);
    all
}

impl Segment {
    /// The forms of both in order. A form that is in both met the same fate in both, with the same changes.
    fn sum(self, other: Segment) -> Segment {
        let mut sum = Segment::default();
        let (mut our_places, mut their_places) = (Vec::with_capacity(self.form.len()), Vec::new());
        let (mut a, mut b) = (0, 0);
        while a < self.form.len() || b < other.form.len() {
            let key =
                |segment: &Segment, row: usize| Some((*segment.form.get(row)?, *segment.mark.get(row)?));
            let (ours, theirs) = (key(&self, a), key(&other, b));
            let place = sum.form.len() as u32;
            let takes_ours = theirs.is_none() || (ours.is_some() && ours <= theirs);
            let takes_theirs = ours.is_none() || (theirs.is_some() && theirs <= ours);
            let (from, row) = if takes_ours { (&self, a) } else { (&other, b) };
            sum.form.push(from.form[row]);
            sum.mark.push(from.mark[row]);
            sum.dropped_at.push(from.dropped_at[row]);
            let mut count = 0;
            if takes_ours {
                count += self.count[a];
                our_places.push(Some(place));
                a += 1;
            }
            if takes_theirs {
                count += other.count[b];
                // The changes of a form that both have are taken once.
                their_places.push((!takes_ours).then_some(place));
                b += 1;
            }
            sum.count.push(count);
        }
        let placed = |changes: Vec<(u32, u8, u32)>, places: Vec<Option<u32>>| {
            let moved = move |(row, step, to): (u32, u8, u32)| Some((places[row as usize]?, step, to));
            changes.into_iter().filter_map(moved)
        };
        sum.changes.extend(placed(self.changes, our_places));
        sum.changes.extend(placed(other.changes, their_places));
        sum.changes.sort();
        sum
    }
}

#[cfg(test)]
mod tests {
    use std::sync::Arc;

    use super::*;
    use crate::account::Origin;
    use crate::testing;
    use crate::{Outputs, Worker};

    /// What a run of `recipe` over one source counts.
    fn account(recipe: &str, source: (&str, &str), texts: &[&str]) -> Account {
        let pipeline = testing::pipeline(recipe).knowing(2, &Arc::default());
        let mut worker = Worker::new(&pipeline, Outputs { clean: false, tokens: false, ends: false });
        for text in texts {
            worker.document(text, &crate::NoFields);
        }
        let origin = Origin {
            recipe: recipe.to_owned(),
            sources: vec![(source.0.to_owned(), source.1.to_owned())],
            ..Origin::default()
        };
        Account { origin, ..worker.into_account() }
    }

    const RECIPE: &str =
        "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\n[[step]]\ndo = \"ngrams\"\nsize = 2\n";

    #[test]
    fn parts_add_up_to_the_whole_in_any_order() {
        let one = || account(RECIPE, ("a.txt", "1"), &["The tern nests", "an egg"]);
        let other = || account(RECIPE, ("b.txt", "2"), &["a tern", "the gull"]);
        let sum = one().merge(other()).expect("parts of one recipe");
        assert_eq!(sum, other().merge(one()).expect("parts of one recipe"));
        let whole = account(RECIPE, ("a.txt", "1"), &["The tern nests", "an egg", "a tern", "the gull"]);
        assert_eq!((sum.effects(), sum.vocabulary()), (whole.effects(), whole.vocabulary()));
        assert_eq!(sum.origin.sources.len(), 2);
    }

    #[test]
    fn parts_that_do_not_add_up_are_refused() {
        let why = |a: Account, b: Account| a.merge(b).expect_err("refused").to_string();
        let one = || account(RECIPE, ("a.txt", "1"), &["The tern nests"]);
        let again = account(RECIPE, ("copy of a.txt", "1"), &["The tern nests"]);
        assert_eq!(why(one(), again), "`a.txt` was read by both runs, and would be counted twice");
        let shorter = account("[[step]]\ndo = \"split\"\n", ("b.txt", "2"), &["a tern"]);
        assert!(why(one(), shorter).starts_with("the runs are of different recipes"));
        let copies = "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"documents\"\ncopies = \"exact\"\n";
        let part = |name, hash| account(copies, (name, hash), &["a tern"]);
        assert!(
            why(part("a.txt", "1"), part("b.txt", "2")).starts_with("step 2 compares documents with others")
        );
    }
}
