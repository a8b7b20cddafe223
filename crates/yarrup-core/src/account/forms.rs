//! Every form, and what became of it.

use std::cmp::Reverse;
use std::ops::Range;

use crate::account::{Account, Ends, NO_TEXT};
use crate::part_of_speech::Tag;
use crate::run::FormFate;

/// A form and what became of it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct FormRow<'a> {
    /// Its row in [`Account::ends`].
    pub row: usize,
    /// The spelling at the split.
    pub text: &'a str,
    /// Tokens of this spelling that met this fate.
    pub count: u64,
    /// Documents in which they stand.
    pub documents: u64,
    /// Their part of speech, where the recipe gives one.
    pub tag: Option<Tag>,
    /// What became of them.
    pub fate: FormFate<'a>,
}

impl Account {
    /// All forms: by count, then by the form's bytes. A form with several fates has a row for each, the one that was kept first.
    pub fn forms(&self) -> impl ExactSizeIterator<Item = FormRow<'_>> {
        let ends = &self.ends;
        let mut rows: Vec<u32> = (0..ends.form.len() as u32).collect();
        // A token that is part of no one alone comes before those that are; in the account it stands behind them.
        let kind_of_end = |row: u32| {
            let row = row as usize;
            (ends.form[row], ends.tag[row], ends.fate[row], ends.step[row])
        };
        for alike in rows.chunk_by_mut(|a, b| kind_of_end(*a) == kind_of_end(*b)) {
            if alike.last().is_some_and(|row| ends.what[*row as usize] == NO_TEXT) {
                alike.rotate_right(1);
            }
        }
        // All else stands in order but for the counts, and stays so.
        rows.sort_by_key(|row| Reverse(ends.count[*row as usize]));
        rows.into_iter().map(|row| self.form(row as usize))
    }

    /// The form in this row of [`Account::ends`].
    ///
    /// # Panics
    ///
    /// If there are fewer rows.
    pub fn form(&self, row: usize) -> FormRow<'_> {
        let ends = &self.ends;
        let (step, what) = (self.token_step(ends.step[row]), ends.what[row]);
        FormRow {
            row,
            text: self.texts.text(ends.form[row]),
            count: ends.count[row],
            documents: ends.documents[row],
            tag: Tag::numbered(ends.tag[row]),
            fate: match ends.fate[row] {
                Ends::DROPPED => FormFate::Dropped { step, reason: what as u16 },
                Ends::JOINED => {
                    FormFate::Joined { step, into: (what != NO_TEXT).then(|| self.texts.text(what)) }
                }
                _ => FormFate::Kept { term: self.texts.text(what) },
            },
        }
    }

    /// The text of the form in this row of [`Account::ends`].
    ///
    /// # Panics
    ///
    /// If there are fewer rows.
    pub fn form_text(&self, row: usize) -> &str {
        self.texts.text(self.ends.form[row])
    }

    /// The term that the tokens of this row of [`Account::ends`] became, if they became one.
    ///
    /// # Panics
    ///
    /// If there are fewer rows.
    pub fn term_of(&self, row: usize) -> Option<&str> {
        self.is_kept(row).then(|| self.texts.text(self.ends.what[row]))
    }

    /// The rows of a form in [`Account::ends`].
    pub fn rows_of(&self, form: &str) -> Range<usize> {
        let Some(form) = self.texts.number(form) else { return 0..0 };
        let form_of = &self.ends.form;
        form_of.partition_point(|other| *other < form)..form_of.partition_point(|other| *other <= form)
    }

    /// Whether the tokens of this row became a term.
    pub fn is_kept(&self, row: usize) -> bool {
        self.ends.fate[row] == Ends::KEPT
    }

    /// Of these rows of a form the one with its tokens of this part of speech and this fate.
    pub fn row_among(&self, mut rows: Range<usize>, tag: Option<Tag>, fate: FormFate<'_>) -> Option<usize> {
        rows.find(|row| {
            let known = self.form(*row);
            (known.tag, known.fate) == (tag, fate)
        })
    }

    /// The rows of a form: what became of the tokens that were spelled like this. By count, then as in [`Account::forms`].
    pub fn fates_of(&self, form: &str) -> Vec<FormRow<'_>> {
        let mut rows: Vec<FormRow<'_>> = self.rows_of(form).map(|row| self.form(row)).collect();
        rows.sort_by_key(|row| Reverse(row.count));
        rows
    }

    /// The rows of all forms that became a term: their counts add up to its count. By count, then by the form's bytes.
    ///
    /// ```
    /// use yarrup_core::{NoFields, NoFiles, Outputs, Pipeline, Worker, recipe};
    ///
    /// let recipe = recipe::read("[[step]]\ndo = \"case\"\n[[step]]\ndo = \"phrases\"\nadd = [\"barn owl\"]\n").expect("no mistakes");
    /// let pipeline = Pipeline::compile(&recipe, &NoFiles).expect("it can run");
    /// let mut worker = Worker::new(&pipeline, Outputs::default());
    /// worker.document("A barn owl. Barn Owl, barn!", &NoFields);
    /// let account = worker.into_account();
    /// assert_eq!(account.forms_of("barn_owl").iter().map(|row| row.count).sum::<u64>(), 2);
    /// assert_eq!(account.parts_of("barn_owl").iter().map(|row| row.count).sum::<u64>(), 4);
    /// assert_eq!(account.documents_of("barn_owl"), 1);
    /// ```
    pub fn forms_of(&self, term: &str) -> Vec<FormRow<'_>> {
        self.rows_to(Ends::KEPT, term)
    }

    /// The rows of all forms that became part of a token of this spelling, and of no other. By count, then by the form's bytes.
    pub fn parts_of(&self, token: &str) -> Vec<FormRow<'_>> {
        self.rows_to(Ends::JOINED, token)
    }

    /// In how many documents a term stands.
    pub fn documents_of(&self, term: &str) -> u64 {
        let row = self.texts.number(term).and_then(|number| self.terms.term.binary_search(&number).ok());
        row.map_or(0, |row| self.terms.documents[row])
    }

    fn rows_to(&self, fate: u8, text: &str) -> Vec<FormRow<'_>> {
        let Some(number) = self.texts.number(text) else { return Vec::new() };
        let ends = &self.ends;
        let became = |row: &usize| ends.fate[*row] == fate && ends.what[*row] == number;
        let mut rows: Vec<FormRow<'_>> =
            (0..ends.form.len()).filter(became).map(|row| self.form(row)).collect();
        rows.sort_by_key(|row| Reverse(row.count));
        rows
    }
}
