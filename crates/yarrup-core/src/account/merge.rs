//! Adding up the accounts of parts of a collection.

use std::cmp::Ordering;
use std::collections::HashMap;
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
    /// They are parts of one collection, and this source was not the same for both.
    Other(String),
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
            Difference::Other(name) => {
                write!(f, "the parts are not of one collection: `{name}` was not the same for all of them")
            }
        }
    }
}

impl std::error::Error for MergeError {}

/// How the collections belong together of which accounts are added up.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Relation {
    /// They are of different sources.
    Apart,
    /// They are parts of one collection: of the same sources, and every document is in one of them.
    Parts,
}

impl Account {
    /// The account of both parts together. In whatever order parts are added, the sum is the same: that of one run over all of them.
    ///
    /// # Errors
    ///
    /// If the two are of different recipes, have a source in common, or were cleaned of copies each by itself.
    pub fn merge(self, other: Account) -> Result<Account, MergeError> {
        Account::add_up([self, other].into_iter().map(Ok), Relation::Apart)
    }

    /// As [`Account::merge`], of many: no more of them are held at a time than it takes to add the small to the small and the large to the large. Of
    /// none it is an empty account.
    ///
    /// # Errors
    ///
    /// What an account cannot be had for, and what keeps them from adding up.
    pub fn add_up<E: From<MergeError>>(
        accounts: impl Iterator<Item = Result<Account, E>>,
        relation: Relation,
    ) -> Result<Account, E> {
        let mut belonging = Belonging { relation, first: None, sources: HashMap::new() };
        // Sums of accounts, each with the number of them: of equal numbers no two stay apart.
        let mut sums: Vec<(u32, Account)> = Vec::new();
        for account in accounts {
            let mut sum = account?;
            belonging.check(&sum)?;
            let mut count = 1;
            while let Some((_, before)) = sums.pop_if(|(last, _)| *last == count) {
                sum = before.plus(sum, relation);
                count *= 2;
            }
            sums.push((count, sum));
        }
        let accounts = sums.into_iter().rev().map(|(_, sum)| sum);
        Ok(accounts.reduce(|sum, larger| larger.plus(sum, relation)).unwrap_or_default())
    }

    fn plus(mut self, mut other: Account, relation: Relation) -> Account {
        if relation == Relation::Parts {
            other.origin.sources.clear();
        }
        self.add(other);
        self
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
        self.found = both(&self.found, &other.found);
        self.variants = variants(std::mem::take(&mut self.variants), other.variants);
        self.ends = std::mem::take(&mut self.ends).sum(&other.ends);
        self.terms = std::mem::take(&mut self.terms).sum(&other.terms);
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

/// What has to be alike in all accounts that are added up, and what must not.
struct Belonging {
    relation: Relation,
    first: Option<Account>,
    /// All sources so far, by the hashes of their content.
    sources: HashMap<String, String>,
}

impl Belonging {
    fn check(&mut self, account: &Account) -> Result<(), MergeError> {
        let refused = |difference| Err(MergeError { difference });
        let Some(first) = &self.first else {
            // Of the first, what is compared with the others.
            let Account { origin, steps, learned, .. } = account;
            let (origin, steps, learned) = (origin.clone(), steps.clone(), learned.clone());
            self.sources.extend(by_hash(account));
            self.first = Some(Account { origin, steps, learned, ..Account::default() });
            return Ok(());
        };
        if first.origin.recipe != account.origin.recipe
            || first.steps != account.steps
            || first.learned != account.learned
        {
            return refused(Difference::Recipes);
        }
        if self.relation == Relation::Parts {
            let other = account.origin.sources.iter().find(|source| !first.origin.sources.contains(source));
            let other = other.or_else(|| {
                first.origin.sources.iter().find(|source| !account.origin.sources.contains(source))
            });
            return other.map_or(Ok(()), |(name, _)| refused(Difference::Other(name.clone())));
        }
        if let Some(step) = account.steps.iter().position(|step| step.compares) {
            return refused(Difference::Copies(step + 1));
        }
        // The same bytes under another name are the same documents.
        let again = account.origin.sources.iter().find_map(|(_, hash)| self.sources.get(hash));
        if let Some(name) = again {
            return refused(Difference::Source(name.clone()));
        }
        self.sources.extend(by_hash(account));
        Ok(())
    }
}

/// The sources of an account, by the hashes of their content.
fn by_hash(account: &Account) -> impl Iterator<Item = (String, String)> + '_ {
    account.origin.sources.iter().map(|(name, hash)| (hash.clone(), name.clone()))
}

/// The numbers that are in either, which are in order.
fn both(ours: &[u32], theirs: &[u32]) -> Vec<u32> {
    let mut all = Vec::with_capacity(ours.len().max(theirs.len()));
    each_of_both(
        ours.len(),
        theirs.len(),
        |a, b| ours[a].cmp(&theirs[b]),
        |a, b| {
            all.extend(a.map(|a| ours[a]).or_else(|| b.map(|b| theirs[b])));
        },
    );
    all
}

/// Walks over the rows of two tables in their common order: `visit` is given the row of one, or those of both where they are equal.
fn each_of_both(
    ours: usize,
    theirs: usize,
    order: impl Fn(usize, usize) -> Ordering,
    mut visit: impl FnMut(Option<usize>, Option<usize>),
) {
    let (mut a, mut b) = (0, 0);
    while a < ours || b < theirs {
        let order = match (a < ours, b < theirs) {
            (true, true) => order(a, b),
            (true, false) => Ordering::Less,
            _ => Ordering::Greater,
        };
        visit(order.is_le().then_some(a), order.is_ge().then_some(b));
        a += usize::from(order.is_le());
        b += usize::from(order.is_ge());
    }
}

impl Ends {
    fn key(&self, row: usize) -> EndKey {
        (self.form[row], self.tag[row], self.fate[row], self.step[row], self.what[row])
    }

    /// The rows of both; those of one key are added up.
    fn sum(self, other: &Ends) -> Ends {
        let rows = self.form.len().max(other.form.len());
        let mut sum = Ends::with_capacity(rows);
        let at = |ends: &Ends, row: Option<usize>| {
            row.map_or((0, 0), |row| (ends.count[row], ends.documents[row]))
        };
        each_of_both(
            self.form.len(),
            other.form.len(),
            |a, b| self.key(a).cmp(&other.key(b)),
            |a, b| {
                let key = match (a, b) {
                    (Some(a), _) => self.key(a),
                    (None, b) => other.key(b.unwrap_or_default()),
                };
                let (ours, theirs) = (at(&self, a), at(other, b));
                sum.push(key, ours.0 + theirs.0, ours.1 + theirs.1);
            },
        );
        sum
    }
}

impl TermDocuments {
    /// The terms of both, with the documents of either.
    fn sum(self, other: &TermDocuments) -> TermDocuments {
        let mut sum = TermDocuments::default();
        let count = |terms: &TermDocuments, row: Option<usize>| row.map_or(0, |row| terms.documents[row]);
        let term = |terms: &TermDocuments, row: Option<usize>| row.map(|row| terms.term[row]);
        each_of_both(
            self.term.len(),
            other.term.len(),
            |a, b| self.term[a].cmp(&other.term[b]),
            |a, b| {
                sum.term.extend(term(&self, a).or_else(|| term(other, b)));
                sum.documents.push(count(&self, a) + count(other, b));
            },
        );
        sum
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
        let key = |segment: &Segment, row: usize| (segment.form[row], segment.mark[row]);
        let order = |a, b| key(&self, a).cmp(&key(&other, b));
        each_of_both(self.form.len(), other.form.len(), order, |a, b| {
            let place = sum.form.len() as u32;
            let (from, row) = match (a, b) {
                (Some(a), _) => (&self, a),
                (None, b) => (&other, b.unwrap_or_default()),
            };
            sum.form.push(from.form[row]);
            sum.mark.push(from.mark[row]);
            sum.dropped_at.push(from.dropped_at[row]);
            sum.count.push(a.map_or(0, |a| self.count[a]) + b.map_or(0, |b| other.count[b]));
            if a.is_some() {
                our_places.push(Some(place));
            }
            if b.is_some() {
                // The changes of a form that both have are taken once.
                their_places.push(a.is_none().then_some(place));
            }
        });
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
    fn parts_of_one_collection_have_its_sources() {
        let part = |hash, texts: &[&str]| account(RECIPE, ("a.txt", hash), texts);
        let sum =
            |parts: Vec<Account>| Account::add_up::<MergeError>(parts.into_iter().map(Ok), Relation::Parts);
        let parts: Vec<Account> = ["The tern nests", "an egg", "a tern", "The gull", "an egg"]
            .map(|text| part("1", &[text]))
            .into();
        let whole = part("1", &["The tern nests", "an egg", "a tern", "The gull", "an egg"]);
        assert_eq!(sum(parts.clone()), Ok(whole.clone()));
        assert_eq!(sum(parts.into_iter().rev().collect()), Ok(whole.clone()));
        let other = sum(vec![whole, part("2", &["a tern"])]).expect_err("another collection").to_string();
        assert_eq!(other, "the parts are not of one collection: `a.txt` was not the same for all of them");
        assert_eq!(sum(Vec::new()), Ok(Account::default()));
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
