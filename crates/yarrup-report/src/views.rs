//! What people are shown of the views of an account: rows and covers, taken from them and not computed anew.

use yarrup_core::step::Term;
use yarrup_core::{Effect, terms_to_cover};

use crate::terminal::{StepRow, visible};

/// How many of the commonest terms cover a share of all tokens.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Coverage {
    /// The share, from 0 to 1.
    pub share: f64,
    /// The number of terms.
    pub terms: u64,
}

/// The shares of all tokens whose cover is told.
const SHARES: [f64; 3] = [0.5, 0.8, 0.95];

/// The effect of every step as a row.
pub fn step_rows(effects: &[Effect]) -> Vec<StepRow> {
    let name = |effect: &Effect| match &effect.label {
        Some(label) => format!("{} · {}", effect.operation, visible(label)),
        None if effect.put_in => format!("{} (put in)", effect.operation),
        None => effect.operation.clone(),
    };
    effects
        .iter()
        .map(|effect| StepRow {
            step: effect.step,
            name: name(effect),
            tokens: effect.tokens_out,
            dropped: effect.tokens_dropped,
            joined: effect.tokens_joined,
            made: effect.tokens_added,
            changed: effect.tokens_changed,
            marked: effect.tokens_marked,
            matches: effect.matches,
            types: effect.types_out,
            documents: effect.documents_touched,
        })
        .collect()
}

/// How many of the most frequent terms cover the shares that are told.
pub fn coverage(vocabulary: &[Term<'_>]) -> Vec<Coverage> {
    let total = vocabulary.iter().map(|term| term.count).sum();
    let terms = |share| terms_to_cover(vocabulary.iter().map(|term| term.count), total, share) as u64;
    SHARES.iter().map(|&share| Coverage { share, terms: terms(share) }).collect()
}
