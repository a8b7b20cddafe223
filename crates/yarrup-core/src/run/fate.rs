//! What becomes of a token, as it is told.

/// What became of a form.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum FormFate<'a> {
    /// It became this term.
    Kept {
        /// The term's spelling.
        term: &'a str,
    },
    /// It was dropped.
    Dropped {
        /// The step's place in the recipe, from 1.
        step: usize,
        /// The number of the reason: see [`Account::reason`](crate::Account::reason).
        reason: u16,
    },
    /// It went into another token.
    Joined {
        /// The step's place in the recipe, from 1.
        step: usize,
        /// That token, where there is one alone.
        into: Option<&'a str>,
    },
}
