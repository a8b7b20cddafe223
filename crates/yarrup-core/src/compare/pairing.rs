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
        let mut is_form = vec![false; theirs.len()];
        self.there.ends.form.iter().for_each(|form| is_form[*form as usize] = true);
        let mut found = vec![(NO_TEXT, false); ours.len()];
        // Both are in order.
        let (mut at, mut last) = (0, NO_TEXT);
        for &number in &self.here.ends.form {
            if std::mem::replace(&mut last, number) == number {
                continue;
            }
            let text = ours.text(number);
            let mut order = std::cmp::Ordering::Greater;
            while at < theirs.len() as u32 {
                order = theirs.text(at).cmp(text);
                if order.is_ge() {
                    break;
                }
                at += 1;
            }
            found[number as usize] = if order.is_eq() && is_form[at as usize] {
                (at, false)
            } else if let Some((_, pipeline)) = self.pipelines
                && let Some(form) = pipeline.form_of(text)
                && let Some(other) = theirs.number(&form).filter(|other| is_form[*other as usize])
            {
                (other, true)
            } else {
                (NO_TEXT, false)
            };
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
