//! Which words fall together under one recipe and not under another.

use std::collections::BTreeMap;

use serde::Serialize;

use crate::account::{Account, Ends, NO_TEXT};
use crate::compare::pairing::{Pairing, rows_of};

/// One of the terms that fall together elsewhere.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct MergedPart<'a> {
    /// The term where they are kept apart.
    pub term: &'a str,
    /// The form that most of its tokens have.
    pub form: &'a str,
    /// How many tokens.
    pub tokens: u64,
}

/// Terms of the second recipe that are one term under the first.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Merged<'a> {
    /// The term that they are under the first.
    pub term: &'a str,
    /// What they are under the second: two at least, the most frequent first.
    pub parts: Vec<MergedPart<'a>>,
    /// How many tokens are counted with a larger part under the first, and apart from it under the second.
    pub tokens: u64,
}

/// What falls together under one recipe alone.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Conflation<'a> {
    /// By tokens, then by the term's bytes.
    pub merged: Vec<Merged<'a>>,
    /// The tokens of all of them.
    pub tokens: u64,
}

/// The forms that are one term under both recipes.
#[derive(Clone, Copy, Debug, Default)]
struct Group<'a> {
    tokens: u64,
    /// The form that most of them have, and how many.
    commonest: (&'a str, u64),
}

impl<'a> Pairing<'a> {
    /// The words that fall together under the first recipe and not under the second. Only forms that both keep are asked; a form of several terms goes
    /// with the one that most of its tokens became.
    pub fn conflation(&self) -> Conflation<'a> {
        let mut groups: BTreeMap<(u32, u32), Group<'a>> = BTreeMap::new();
        let mut add = |terms: (u32, u32), form: &'a str, tokens: u64| {
            let group = groups.entry(terms).or_default();
            group.tokens += tokens;
            if tokens > group.commonest.1 {
                group.commonest = (form, tokens);
            }
        };
        let forms_there = self.forms_there();
        for (form, term, tokens) in main_terms(self.here) {
            let (other, is_respelled) = forms_there[form as usize];
            if let Some((other, kept)) = main_term(&self.there.ends, rows_of(&self.there.ends, other)) {
                let tokens = if is_respelled { tokens } else { tokens.min(kept) };
                add((term, other), self.here.texts.text(form), tokens);
            }
        }
        // Forms that are spelled otherwise here, and were not met from this side.
        let forms_here = self.reversed().forms_there();
        for (form, term, tokens) in main_terms(self.there) {
            let (other, is_respelled) = forms_here[form as usize];
            if is_respelled
                && let Some((other, _)) = main_term(&self.here.ends, rows_of(&self.here.ends, other))
            {
                add((other, term), self.there.texts.text(form), tokens);
            }
        }
        let rows: Vec<((u32, u32), Group<'a>)> = groups.into_iter().collect();
        let together = rows.chunk_by(|one, other| one.0.0 == other.0.0).filter(|group| group.len() > 1);
        let mut merged: Vec<Merged<'a>> = together
            .map(|groups| {
                let part = |((_, other), group): &((u32, u32), Group<'a>)| MergedPart {
                    term: self.there.texts.text(*other),
                    form: group.commonest.0,
                    tokens: group.tokens,
                };
                let mut parts: Vec<MergedPart<'a>> = groups.iter().map(part).collect();
                parts.sort_by_key(|part| std::cmp::Reverse(part.tokens));
                let tokens = parts.iter().skip(1).map(|part| part.tokens).sum();
                Merged { term: self.here.texts.text(groups[0].0.0), parts, tokens }
            })
            .collect();
        merged.sort_by_key(|merged| std::cmp::Reverse(merged.tokens));
        let tokens = merged.iter().map(|merged| merged.tokens).sum();
        Conflation { merged, tokens }
    }
}

/// Every form that is kept, with the term that most of its tokens became, and how many of its tokens are kept.
fn main_terms(account: &Account) -> Vec<(u32, u32, u64)> {
    let ends = &account.ends;
    let mut found = Vec::new();
    let mut row = 0;
    while row < ends.form.len() {
        let end = row + ends.form[row..].iter().take_while(|form| **form == ends.form[row]).count();
        found.extend(main_term(ends, row..end).map(|(term, tokens)| (ends.form[row], term, tokens)));
        row = end;
    }
    found
}

/// The term that most of the tokens of these rows became, and how many of them are kept.
fn main_term(ends: &Ends, rows: std::ops::Range<usize>) -> Option<(u32, u64)> {
    let mut terms: Vec<(u32, u64)> = Vec::new();
    for row in rows.filter(|row| ends.fate[*row] == Ends::KEPT && ends.what[*row] != NO_TEXT) {
        match terms.iter_mut().find(|(term, _)| *term == ends.what[row]) {
            Some((_, tokens)) => *tokens += ends.count[row],
            None => terms.push((ends.what[row], ends.count[row])),
        }
    }
    let all = terms.iter().map(|(_, tokens)| tokens).sum();
    let (term, _) = terms.into_iter().max_by_key(|(term, tokens)| (*tokens, std::cmp::Reverse(*term)))?;
    Some((term, all))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{NoFields, Outputs, Worker, testing};

    #[test]
    fn words_that_fall_together_are_told_with_their_price() {
        let text = "The university of the universe: universities, universe, universe, nesting nests.";
        let account = |recipe: &str| {
            let pipeline = testing::pipeline(recipe);
            let mut worker = Worker::new(&pipeline, Outputs::default());
            worker.document(text, &NoFields);
            worker.into_account()
        };
        let stem = account("[[step]]\ndo = \"stem\"\nmethod = \"porter2\"\n");
        let lemma = account("[[step]]\ndo = \"lemma\"\n");
        let pairing = Pairing::of(&stem, &lemma);
        let together = pairing.conflation();
        let univers = together.merged.iter().find(|merged| merged.term == "univers").expect("a group");
        let parts: Vec<(&str, u64)> = univers.parts.iter().map(|part| (part.term, part.tokens)).collect();
        assert_eq!(parts, [("universe", 3), ("university", 2)]);
        assert_eq!(univers.tokens, 2);
        assert!(together.tokens >= 2);
        assert!(pairing.reversed().conflation().merged.iter().all(|merged| merged.term != "universe"));
        assert_eq!(Pairing::of(&stem, &stem).conflation(), Conflation::default());
    }

    #[test]
    fn words_that_text_steps_spell_otherwise_are_found() {
        let (small, plain) =
            ("[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\n", "[[step]]\ndo = \"split\"\n");
        let (small, plain) = (testing::pipeline(small), testing::pipeline(plain));
        let account = |pipeline| {
            let mut worker = Worker::new(pipeline, Outputs::default());
            worker.document("The tern, the gull. THE owl.", &NoFields);
            worker.into_account()
        };
        let (ours, theirs) = (account(&small), account(&plain));
        let pairing = Pairing::of(&ours, &theirs).with_recipes(&small, &plain);
        let together = pairing.conflation();
        let parts: Vec<(&str, u64)> =
            together.merged[0].parts.iter().map(|part| (part.term, part.tokens)).collect();
        assert_eq!((together.merged.len(), together.merged[0].term, together.tokens), (1, "the", 2));
        assert_eq!(parts, [("THE", 1), ("The", 1), ("the", 1)]);
        assert!(pairing.reversed().conflation().merged.is_empty());
        let missing = pairing.reversed().missing(&["The"]);
        assert_eq!(missing[0].whither, [(crate::compare::Whither::Becomes { term: "the" }, 1)]);
    }
}
