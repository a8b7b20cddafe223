//! Which words fall together under one recipe and not under another.

use serde::Serialize;

use crate::account::{Account, Ends, NO_TEXT};
use crate::compare::pairing::Pairing;

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

/// A form: its terms here and there, its tokens, and its number on the side of which it is, here if that is told.
type FormOfBoth = ((u32, u32), u64, (bool, u32));

/// The forms that are one term under both recipes.
#[derive(Clone, Copy, Debug)]
struct Group<'a> {
    tokens: u64,
    /// The form that most of them have, and how many.
    commonest: (&'a str, u64),
}

impl<'a> Pairing<'a> {
    /// The words that fall together under the first recipe and not under the second, and those that do under the second alone. Only forms that both keep are
    /// asked; a form of several terms goes with the one that most of its tokens became.
    pub fn conflations(&self) -> (Conflation<'a>, Conflation<'a>) {
        let (ours, theirs) = (MainTerms::of(self.here), MainTerms::of(self.there));
        let mut rows: Vec<FormOfBoth> = Vec::with_capacity(ours.forms.len());
        let forms_there = self.forms_there();
        for &(form, term, tokens) in &ours.forms {
            let (other, is_respelled) = forms_there[form as usize];
            if let Some((other, kept)) = theirs.term(other) {
                let tokens = if is_respelled { tokens } else { tokens.min(kept) };
                rows.push(((term, other), tokens, (true, form)));
            }
        }
        // Forms that are spelled otherwise here, and were not met from this side.
        if forms_there.iter().any(|(_, is_respelled)| *is_respelled) || rows.len() < theirs.forms.len() {
            let forms_here = self.reversed().forms_there();
            for &(form, term, tokens) in &theirs.forms {
                let (other, is_respelled) = forms_here[form as usize];
                if is_respelled && let Some((other, _)) = ours.term(other) {
                    rows.push(((other, term), tokens, (false, form)));
                }
            }
        }
        rows.sort_unstable();
        let text = |(is_here, form): (bool, u32)| {
            let account = if is_here { self.here } else { self.there };
            account.texts.text(form)
        };
        let mut groups: Vec<((u32, u32), Group<'a>)> = Vec::new();
        for alike in rows.chunk_by(|one, other| one.0 == other.0) {
            // Those of equal terms stand in the order of their tokens.
            let (terms, most, form) = alike[alike.len() - 1];
            let tokens = alike.iter().map(|(_, tokens, _)| tokens).sum();
            groups.push((terms, Group { tokens, commonest: (text(form), most) }));
        }
        let here = self.merged(&groups);
        groups.iter_mut().for_each(|((ours, theirs), _)| std::mem::swap(ours, theirs));
        groups.sort_by_key(|(terms, _)| *terms);
        (here, self.reversed().merged(&groups))
    }

    /// The terms here that are several there, of groups by both.
    fn merged(&self, groups: &[((u32, u32), Group<'a>)]) -> Conflation<'a> {
        let together = groups.chunk_by(|one, other| one.0.0 == other.0.0).filter(|group| group.len() > 1);
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

/// The forms of an account that are kept, each with the term that most of its tokens became.
struct MainTerms {
    /// The form, the term, and how many tokens of the form are kept.
    forms: Vec<(u32, u32, u64)>,
    /// By text: its place among the forms.
    places: Vec<u32>,
}

impl MainTerms {
    fn of(account: &Account) -> MainTerms {
        let forms = main_terms(account);
        let mut places = vec![NO_TEXT; account.texts.len()];
        for (place, (form, ..)) in (0..).zip(&forms) {
            places[*form as usize] = place;
        }
        MainTerms { forms, places }
    }

    /// The main term of a form, and how many of its tokens are kept.
    fn term(&self, form: u32) -> Option<(u32, u64)> {
        let place = self.places.get(form as usize).filter(|place| **place != NO_TEXT)?;
        self.forms.get(*place as usize).map(|(_, term, tokens)| (*term, *tokens))
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
        let together = pairing.conflations().0;
        let univers = together.merged.iter().find(|merged| merged.term == "univers").expect("a group");
        let parts: Vec<(&str, u64)> = univers.parts.iter().map(|part| (part.term, part.tokens)).collect();
        assert_eq!(parts, [("universe", 3), ("university", 2)]);
        assert_eq!(univers.tokens, 2);
        assert!(together.tokens >= 2);
        assert!(pairing.reversed().conflations().0.merged.iter().all(|merged| merged.term != "universe"));
        assert_eq!(Pairing::of(&stem, &stem).conflations().0, Conflation::default());
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
        let together = pairing.conflations().0;
        let parts: Vec<(&str, u64)> =
            together.merged[0].parts.iter().map(|part| (part.term, part.tokens)).collect();
        assert_eq!((together.merged.len(), together.merged[0].term, together.tokens), (1, "the", 2));
        assert_eq!(parts, [("THE", 1), ("The", 1), ("the", 1)]);
        assert!(pairing.reversed().conflations().0.merged.is_empty());
        let missing = pairing.reversed().missing(&["The"]);
        assert_eq!(missing[0].whither, [(crate::compare::Whither::Becomes { term: "the" }, 1)]);
    }
}
