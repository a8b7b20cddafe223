//! Two vocabularies: what both have, what one has alone and why, and how ranks move.

use std::cell::LazyCell;
use std::collections::HashMap;

use serde::Serialize;

use crate::account::{Account, Ends, NO_TEXT};
use crate::compare::pairing::{Pairing, rows_of};
use crate::compare::similarity::{RANK_PERSISTENCE, rank_biased_overlap};

/// How a term stands in one vocabulary.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub struct Standing {
    /// How many tokens became it.
    pub count: u64,
    /// In how many documents it stands.
    pub documents: u64,
    /// Its rank, from 1.
    pub rank: u64,
}

/// A term and how it stands in two vocabularies, in one of them at least.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub struct TermPair<'a> {
    /// The term.
    pub term: &'a str,
    /// How it stands in the first.
    pub here: Option<Standing>,
    /// How it stands in the second.
    pub there: Option<Standing>,
}

impl TermPair<'_> {
    /// How much its move weighs: the logarithm of how many times its rank has grown or shrunk, times its mean share of the tokens of both. 0 if
    /// one has it alone.
    pub fn move_weight(&self, tokens: (u64, u64)) -> f64 {
        let (Some(here), Some(there)) = (self.here, self.there) else { return 0.0 };
        let share = |count: u64, of: u64| count as f64 / of.max(1) as f64;
        let shares = share(here.count, tokens.0) + share(there.count, tokens.1);
        (here.rank as f64 / there.rank as f64).ln().abs() * shares / 2.0
    }
}

/// Two vocabularies set side by side.
#[derive(Clone, Debug)]
pub struct Vocabularies<'a> {
    /// Every term of either: by its better rank, then by its bytes.
    pub terms: Vec<TermPair<'a>>,
    /// How many tokens each has kept.
    pub tokens: (u64, u64),
    /// How many terms both have.
    pub common: u64,
    /// The terms that only the first has, and their tokens.
    pub only_here: (u64, u64),
    /// The terms that only the second has, and their tokens.
    pub only_there: (u64, u64),
    /// What share of the terms of either both have (Jaccard).
    pub shared_terms: f64,
    /// The same by tokens: the sum of the smaller counts by that of the larger.
    pub shared_tokens: f64,
    /// The rank-biased overlap at [`RANK_PERSISTENCE`].
    pub rank_overlap: f64,
}

/// The terms of an account in the order of their bytes, each with how it stands.
#[derive(Clone, Debug)]
pub struct Ranked<'a> {
    terms: Vec<(&'a str, Standing)>,
    /// The places of these by rank.
    by_rank: Vec<u32>,
}

impl<'a> Ranked<'a> {
    /// The vocabulary of an account.
    pub fn of(account: &'a Account) -> Ranked<'a> {
        let counted = account.counted_terms();
        let mut by_rank: Vec<u32> = (0..counted.len() as u32).collect();
        // They stand in the order of their bytes, and stay so where they are equally frequent.
        by_rank.sort_by_key(|place| std::cmp::Reverse(counted[*place as usize].1));
        let mut terms: Vec<(&'a str, Standing)> = counted
            .into_iter()
            .map(|(term, count, documents)| {
                (account.texts.text(term), Standing { count, documents, rank: 0 })
            })
            .collect();
        for (rank, place) in (1..).zip(&by_rank) {
            terms[*place as usize].1.rank = rank;
        }
        Ranked { terms, by_rank }
    }

    /// How many tokens each term has, the most frequent first.
    pub(super) fn counts(&self) -> impl Iterator<Item = u64> + '_ {
        self.by_rank.iter().map(|place| self.terms[*place as usize].1.count)
    }
}

impl<'a> Vocabularies<'a> {
    /// The vocabularies of two accounts.
    pub fn of(here: &Ranked<'a>, there: &Ranked<'a>) -> Vocabularies<'a> {
        let (ours, theirs) = (&here.terms, &there.terms);
        let mut terms = Vec::with_capacity(ours.len().max(theirs.len()));
        // By rank in either: the place of the term among all.
        let (mut ranks_here, mut ranks_there) = (vec![0u32; ours.len()], vec![0u32; theirs.len()]);
        let (mut left, mut right) = (ours.iter().peekable(), theirs.iter().peekable());
        loop {
            let order = match (left.peek(), right.peek()) {
                (Some((one, _)), Some((other, _))) => one.cmp(other),
                (Some(_), None) => std::cmp::Ordering::Less,
                (None, Some(_)) => std::cmp::Ordering::Greater,
                (None, None) => break,
            };
            let one = if order.is_le() { left.next() } else { None };
            let other = if order.is_ge() { right.next() } else { None };
            let Some((term, _)) = one.or(other) else { break };
            let place = terms.len() as u32;
            let standing = |found: Option<&(&'a str, Standing)>, ranks: &mut [u32]| {
                found.map(|(_, row)| {
                    ranks[row.rank as usize - 1] = place;
                    *row
                })
            };
            let (here, there) = (standing(one, &mut ranks_here), standing(other, &mut ranks_there));
            terms.push(TermPair { term, here, there });
        }
        let rank_overlap = rank_biased_overlap(&ranks_here, &ranks_there, RANK_PERSISTENCE);
        let terms = by_better_rank(&terms, &ranks_here, &ranks_there);
        let (mut only_here, mut only_there) = ((0, 0), (0, 0));
        let (mut tokens, mut less, mut more) = ((0, 0), 0, 0);
        for pair in &terms {
            let count = |standing: Option<Standing>| standing.map_or(0, |standing| standing.count);
            let (one, other) = (count(pair.here), count(pair.there));
            tokens = (tokens.0 + one, tokens.1 + other);
            less += one.min(other);
            more += one.max(other);
            match (pair.here, pair.there) {
                (Some(_), None) => only_here = (only_here.0 + 1, only_here.1 + one),
                (None, Some(_)) => only_there = (only_there.0 + 1, only_there.1 + other),
                _ => {}
            }
        }
        let common = terms.len() as u64 - only_here.0 - only_there.0;
        let share = |part: u64, of: u64| if of == 0 { 1.0 } else { part as f64 / of as f64 };
        Vocabularies {
            tokens,
            common,
            only_here,
            only_there,
            shared_terms: share(common, terms.len() as u64),
            shared_tokens: share(less, more),
            rank_overlap,
            terms,
        }
    }

    /// The terms of both whose rank has moved, by the weight of the move: see [`TermPair::move_weight`].
    pub fn movers(&self) -> Vec<TermPair<'a>> {
        let mut movers: Vec<(f64, TermPair<'a>)> =
            self.terms.iter().map(|pair| (pair.move_weight(self.tokens), *pair)).collect();
        movers.retain(|(weight, _)| *weight > 0.0);
        movers.sort_by(|one, other| other.0.total_cmp(&one.0));
        movers.into_iter().map(|(_, pair)| pair).collect()
    }

    /// The terms that the first has alone, by count.
    pub fn gone(&self) -> impl Iterator<Item = (&'a str, Standing)> + '_ {
        self.terms.iter().filter_map(|pair| Some((pair.term, pair.here.filter(|_| pair.there.is_none())?)))
    }

    /// The terms that the second has alone, by count.
    pub fn new_there(&self) -> impl Iterator<Item = (&'a str, Standing)> + '_ {
        self.terms.iter().filter_map(|pair| Some((pair.term, pair.there.filter(|_| pair.here.is_none())?)))
    }
}

/// The terms by their better rank, and where that is the same, in the order of their bytes; by rank in either: the place of the term.
fn by_better_rank<'a>(terms: &[TermPair<'a>], here: &[u32], there: &[u32]) -> Vec<TermPair<'a>> {
    let mut is_placed = vec![false; terms.len()];
    let mut ordered = Vec::with_capacity(terms.len());
    for rank in 0..here.len().max(there.len()) {
        // Places are in the order of the bytes.
        let mut next = [here.get(rank).copied(), there.get(rank).copied()];
        next.sort_unstable();
        for place in next.into_iter().flatten() {
            if !std::mem::replace(&mut is_placed[place as usize], true) {
                ordered.push(terms[place as usize]);
            }
        }
    }
    ordered
}

/// What becomes elsewhere of tokens that made a term.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Whither<'a> {
    /// They become another term.
    Becomes {
        /// That term.
        term: &'a str,
    },
    /// A step drops them.
    Dropped {
        /// Its place in the recipe, from 1.
        step: usize,
        /// Why.
        reason: &'a str,
    },
    /// They go into another token.
    Joined {
        /// The step's place in the recipe, from 1.
        step: usize,
        /// That token, if there is one alone.
        into: Option<&'a str>,
    },
    /// The text there has no token that is spelled like them: text steps change them, the split parts them, or there are none.
    NotMet,
}

/// Why a term is missing elsewhere.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Missing<'a> {
    /// The term.
    pub term: &'a str,
    /// How many tokens it has.
    pub tokens: u64,
    /// What becomes of its forms there, with how many of its tokens are of such forms: the most frequent first.
    pub whither: Vec<(Whither<'a>, u64)>,
}

impl<'a> Pairing<'a> {
    /// Why these terms, which are in the first vocabulary, are missing in the second. A form that meets several ends there is shared out to them as
    /// its tokens are there. A form that is not met is looked for in other letter case: recipes change it before the split, or later.
    pub fn missing(&self, terms: &[&str]) -> Vec<Missing<'a>> {
        let forms_there = self.forms_there();
        let (ours, theirs) = (&self.here.ends, &self.there.ends);
        let mut wanted: Vec<(u32, usize)> = terms
            .iter()
            .zip(0..)
            .filter_map(|(term, at)| Some((self.here.texts.number(term)?, at)))
            .collect();
        wanted.sort_unstable();
        let mut forms: Vec<Vec<usize>> = vec![Vec::new(); terms.len()];
        for row in (0..ours.form.len()).filter(|row| ours.fate[*row] == Ends::KEPT) {
            if let Ok(at) = wanted.binary_search_by_key(&ours.what[row], |(number, _)| *number) {
                forms[wanted[at].1].push(row);
            }
        }
        // By the small letters of a form: the rows of all forms there that differ from it in letter case alone.
        let in_other_case = LazyCell::new(|| {
            let mut rows: HashMap<String, Vec<usize>> = HashMap::new();
            for row in 0..theirs.form.len() {
                rows.entry(self.there.texts.text(theirs.form[row]).to_lowercase()).or_default().push(row);
            }
            rows
        });
        let told = |(term, rows): (&&str, &Vec<usize>)| {
            let number = self.here.texts.number(term)?;
            let mut whither: Vec<(Whither<'a>, u64)> = Vec::new();
            for row in rows {
                let (there, _) = forms_there[ours.form[*row] as usize];
                let mut found: Vec<usize> = rows_of(theirs, there).collect();
                if found.iter().all(|row| theirs.count[*row] == 0) {
                    let small = self.here.texts.text(ours.form[*row]).to_lowercase();
                    found = in_other_case.get(&small).cloned().unwrap_or_default();
                }
                let all: u64 = found.iter().map(|row| theirs.count[*row]).sum();
                let Some(last) = found.last().copied().filter(|_| all > 0) else {
                    whither.push((Whither::NotMet, ours.count[*row]));
                    continue;
                };
                let mut left = ours.count[*row];
                for other in found {
                    let part = (u128::from(ours.count[*row]) * u128::from(theirs.count[other])
                        / u128::from(all)) as u64;
                    let part = if other == last { left } else { part.min(left) };
                    left -= part;
                    whither.push((self.there.whither(other), part));
                }
            }
            whither.sort_unstable();
            whither.dedup_by(|next, kept| {
                let same = next.0 == kept.0;
                if same {
                    kept.1 += next.1;
                }
                same
            });
            whither.retain(|(_, tokens)| *tokens > 0);
            whither.sort_by_key(|(_, tokens)| std::cmp::Reverse(*tokens));
            let tokens = rows.iter().map(|row| ours.count[*row]).sum();
            Some(Missing { term: self.here.texts.text(number), tokens, whither })
        };
        terms.iter().zip(&forms).filter_map(told).collect()
    }
}

impl Account {
    /// What became of the tokens of a row of the ends.
    fn whither(&self, row: usize) -> Whither<'_> {
        let ends = &self.ends;
        let (step, what) = (self.token_step(ends.step[row]), ends.what[row]);
        match ends.fate[row] {
            Ends::DROPPED => Whither::Dropped { step, reason: self.reason(step, what as u16) },
            Ends::JOINED => Whither::Joined { step, into: (what != NO_TEXT).then(|| self.texts.text(what)) },
            _ => Whither::Becomes { term: self.texts.text(what) },
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{NoFields, Outputs, Worker, testing};

    fn account(recipe: &str, texts: &[&str]) -> Account {
        let pipeline = testing::pipeline(recipe);
        let mut worker = Worker::new(&pipeline, Outputs::default());
        for text in texts {
            worker.document(text, &NoFields);
        }
        worker.into_account()
    }

    const TEXTS: &[&str] =
        &["The terns nest. The tern nests, the gull nests.", "One tern of the nests; one gull."];

    #[test]
    fn terms_are_common_or_missing_for_a_reason() {
        let here = account("[[step]]\ndo = \"case\"\n[[step]]\ndo = \"stopwords\"\nadd = [\"the\"]\n", TEXTS);
        let there = account(
            "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"stem\"\n[[step]]\ndo = \"stopwords\"\nadd = [\"one\"]\n",
            TEXTS,
        );
        let pairing = Pairing::of(&here, &there);
        let both = Vocabularies::of(&Ranked::of(&here), &Ranked::of(&there));
        // one, of, tern, terns, nest, nests, gull, . against the, of, tern, nest, gull and marks.
        let gone: Vec<(&str, u64)> = both.gone().map(|(term, row)| (term, row.count)).collect();
        assert_eq!(gone, [("nests", 3), ("one", 2), ("terns", 1)]);
        assert_eq!(both.only_here, (3, 6));
        let new: Vec<&str> = both.new_there().map(|(term, _)| term).collect();
        assert_eq!(new, ["the"]);
        let missing = pairing.missing(&["nests", "one"]);
        assert_eq!(missing[0].whither, [(Whither::Becomes { term: "nest" }, 3)]);
        assert_eq!(missing[1].whither.len(), 1);
        assert!(matches!(missing[1].whither[0], (Whither::Dropped { step: 4, .. }, 2)));
        let back = pairing.reversed().missing(&["the"]);
        assert!(matches!(back[0].whither[0], (Whither::Dropped { step: 3, .. }, 4)));
        let best = |pair: &TermPair<'_>| {
            let rank = |standing: Option<Standing>| standing.map_or(u64::MAX, |standing| standing.rank);
            (rank(pair.here).min(rank(pair.there)), pair.term.to_owned())
        };
        assert!(both.terms.is_sorted_by_key(best));
        assert!(both.shared_terms < 1.0 && both.rank_overlap < 1.0);
        let movers = both.movers();
        assert_eq!(movers[0].term, "nest");
    }

    #[test]
    fn forms_that_were_recased_before_the_split_are_met() {
        let early = account(
            "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\ninto = \"words\"\n[[step]]\ndo = \"stem\"\n",
            &["Larry met LARRY and Iris"],
        );
        let late = account(
            "[[step]]\ndo = \"split\"\ninto = \"words\"\n[[step]]\ndo = \"case\"\n[[step]]\ndo = \"stopwords\"\nadd = [\"iris\"]\n",
            &["Larry met LARRY and Iris"],
        );
        let pairing = Pairing::of(&early, &late);
        let missing = pairing.missing(&["larri", "iri"]);
        assert_eq!(missing[0].whither, [(Whither::Becomes { term: "larry" }, 2)]);
        assert!(matches!(missing[1].whither[..], [(Whither::Dropped { step: 3, .. }, 1)]));
        let back = pairing.reversed().missing(&["larry"]);
        assert_eq!(back[0].whither, [(Whither::Becomes { term: "larri" }, 2)]);
    }

    #[test]
    fn an_account_is_like_itself() {
        let one = account("[[step]]\ndo = \"stem\"\n", TEXTS);
        let both = Vocabularies::of(&Ranked::of(&one), &Ranked::of(&one));
        assert_eq!((both.only_here, both.only_there), ((0, 0), (0, 0)));
        assert_eq!((both.shared_terms, both.shared_tokens), (1.0, 1.0));
        assert!((both.rank_overlap - 1.0).abs() < 1e-9 && both.movers().is_empty());
    }
}
