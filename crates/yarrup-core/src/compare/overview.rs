//! One account in a line.

use serde::Serialize;

use crate::account::{Account, terms_to_cover};
use crate::compare::vocabulary::Ranked;

/// The sums of an account.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Overview {
    /// Documents that came in.
    pub documents: u64,
    /// Documents that steps left out.
    pub left_out: u64,
    /// Documents that had tokens as found, and none in the end.
    pub emptied: u64,
    /// Tokens of the text as found, by the recipe's own splitter.
    pub tokens_found: u64,
    /// Distinct spellings of these.
    pub types_found: u64,
    /// Tokens that are left.
    pub tokens: u64,
    /// Distinct terms that are left.
    pub terms: u64,
    /// Terms with one token.
    pub hapaxes: u64,
    /// How many of the commonest terms cover half of the tokens that are left.
    pub cover_half: u64,
    /// How many cover nine tenths of them.
    pub cover_most: u64,
}

impl Overview {
    /// The sums of an account with this vocabulary.
    pub fn of(account: &Account, vocabulary: &Ranked<'_>) -> Overview {
        let totals = &account.totals;
        let cover = |share: f64| terms_to_cover(vocabulary.counts(), totals.tokens_kept, share) as u64;
        Overview {
            documents: totals.documents,
            left_out: totals.dropped,
            emptied: totals.emptied,
            tokens_found: totals.tokens_found,
            types_found: account.types_found(),
            tokens: totals.tokens_kept,
            terms: vocabulary.counts().count() as u64,
            hapaxes: vocabulary.counts().filter(|count| *count == 1).count() as u64,
            cover_half: cover(0.5),
            cover_most: cover(0.9),
        }
    }
}
