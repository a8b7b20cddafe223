//! Two accounts whose texts know one another.

use crate::account::{Account, NO_TEXT, Texts};

/// Two accounts side by side. Texts of one know their numbers in the other.
#[derive(Clone, Copy, Debug)]
pub struct Pairing<'a> {
    pub(super) here: &'a Account,
    pub(super) there: &'a Account,
}

impl<'a> Pairing<'a> {
    /// These two accounts.
    pub fn of(here: &'a Account, there: &'a Account) -> Pairing<'a> {
        Pairing { here, there }
    }

    /// The same with their places exchanged.
    pub fn reversed(self) -> Pairing<'a> {
        Pairing { here: self.there, there: self.here }
    }

    /// By the number of a text here: its number there, [`NO_TEXT`] if it has none.
    pub(super) fn numbers_there(&self) -> Vec<u32> {
        let (ours, theirs): (&Texts, &Texts) = (&self.here.texts, &self.there.texts);
        let mut at = 0;
        let number = |ours: &str| {
            while at < theirs.len() as u32 && theirs.text(at) < ours {
                at += 1;
            }
            if at < theirs.len() as u32 && theirs.text(at) == ours { at } else { NO_TEXT }
        };
        let texts: Vec<&str> = (0..ours.len() as u32).map(|number| ours.text(number)).collect();
        texts.into_iter().map(number).collect()
    }
}
