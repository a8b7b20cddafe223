//! Two accounts whose texts know one another.

use crate::account::{Account, Ends, NO_TEXT, Texts};
use crate::pipeline::Pipeline;

/// Two accounts side by side. Texts of one know their numbers in the other.
#[derive(Clone, Copy)]
pub struct Pairing<'a> {
    pub(super) here: &'a Account,
    pub(super) there: &'a Account,
    /// The recipes, which know what a form of one text is in the other.
    pipelines: Option<(&'a Pipeline, &'a Pipeline)>,
}

impl<'a> Pairing<'a> {
    /// These two accounts.
    pub fn of(here: &'a Account, there: &'a Account) -> Pairing<'a> {
        Pairing { here, there, pipelines: None }
    }

    /// The same with the recipes that they are of: where the text steps of one change a word before it is split, it is found under its other
    /// spelling.
    pub fn with_recipes(self, here: &'a Pipeline, there: &'a Pipeline) -> Pairing<'a> {
        Pairing { pipelines: Some((here, there)), ..self }
    }

    /// The first.
    pub fn here(&self) -> &'a Account {
        self.here
    }

    /// The second.
    pub fn there(&self) -> &'a Account {
        self.there
    }

    /// The same with their places exchanged.
    pub fn reversed(self) -> Pairing<'a> {
        let pipelines = self.pipelines.map(|(here, there)| (there, here));
        Pairing { here: self.there, there: self.here, pipelines }
    }

    /// By the number of a text that is a form here: the number of the form that its tokens have there, [`NO_TEXT`] if there is none; and whether it is spelled
    /// otherwise there.
    pub(super) fn forms_there(&self) -> Vec<(u32, bool)> {
        let (ours, theirs): (&Texts, &Texts) = (&self.here.texts, &self.there.texts);
        let is_form = |number: u32| !rows_of(&self.there.ends, number).is_empty();
        let mut found = vec![(NO_TEXT, false); ours.len()];
        let mut at = 0;
        for number in 0..ours.len() as u32 {
            let text = ours.text(number);
            while at < theirs.len() as u32 && theirs.text(at) < text {
                at += 1;
            }
            if at < theirs.len() as u32 && theirs.text(at) == text && is_form(at) {
                found[number as usize] = (at, false);
            }
        }
        let Some((_, pipeline)) = self.pipelines else { return found };
        let mut forms = self.here.ends.form.clone();
        forms.dedup();
        for number in forms {
            let place = &mut found[number as usize];
            if place.0 == NO_TEXT
                && let Some(form) = pipeline.form_of(ours.text(number))
                && let Some(other) = theirs.number(&form).filter(|other| is_form(*other))
            {
                *place = (other, true);
            }
        }
        found
    }
}

/// The rows of a form.
pub(super) fn rows_of(ends: &Ends, form: u32) -> std::ops::Range<usize> {
    if form == NO_TEXT {
        return 0..0;
    }
    ends.form.partition_point(|other| *other < form)..ends.form.partition_point(|other| *other <= form)
}
