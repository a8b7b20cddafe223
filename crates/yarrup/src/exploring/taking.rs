//! The documents that a page shows, taken through the recipe again: where each of their tokens stands, and how it ended.

use std::ops::Range;

use yarrup_core::{Account, EndedToken, Fields, Outputs};
use yarrup_io::{Holding, Numbered};
use yarrup_report::ShownDocument;

use crate::counting::RunPass;
use crate::failure::Failure;
use crate::screen::Screen;
use crate::studied::{Again, Studied};

/// How many characters of the value of a field are shown.
const LONGEST_VALUE: usize = 200;
/// How many fields are shown.
const MOST_FIELDS: usize = 24;
/// The fields of the documents of a run that are shown in another way.
const OWN_FIELDS: [&str; 5] = ["id", "text", "clean", "tokens_before", "tokens_after"];

/// Takes documents of the run through its recipe again, of each so many bytes at most; in their order. None if the run holds no original texts.
pub(super) fn take(
    run: &Studied,
    account: &Account,
    (holding, longest): (Holding, usize),
    screen: &Screen,
) -> Result<Option<Vec<ShownDocument>>, Failure> {
    let opened = run.documents(&[], holding)?;
    let reading = match run.try_reading(opened, &Taking { run, account, longest }, screen) {
        Err(Failure::NoOriginals { .. }) => return Ok(None),
        reading => reading?,
    };
    let mut documents: Vec<_> = reading.states.into_iter().flat_map(|state| state.documents).collect();
    documents.sort_by_key(|document: &ShownDocument| document.order);
    Ok(Some(documents))
}

struct Taking<'r> {
    run: &'r Studied,
    account: &'r Account,
    longest: usize,
}

struct TakingState<'r> {
    again: Again<'r>,
    rows: Rows<'r>,
    documents: Vec<ShownDocument>,
}

impl<'r> RunPass for Taking<'r> {
    type State = TakingState<'r>;

    fn state(&self) -> TakingState<'r> {
        TakingState {
            again: Again::new(self.run, Outputs { ends: true, ..Outputs::default() }),
            rows: Rows { account: self.account, of_form: Vec::new() },
            documents: Vec::new(),
        }
    }

    fn document(&self, state: &mut TakingState<'r>, numbered: &Numbered<'_>) -> Result<(), Failure> {
        let document = self.shown(state, numbered)?;
        state.documents.push(document);
        Ok(())
    }
}

impl<'r> Taking<'r> {
    fn shown(&self, state: &mut TakingState<'r>, numbered: &Numbered<'_>) -> Result<ShownDocument, Failure> {
        let record = &numbered.record;
        let text = self.run.original(record)?;
        let cleaned = state.again.document(record, &text)?;
        let part = beginning(&text, self.longest);
        let mut fields = Vec::new();
        record.each_value(|path, _| {
            if fields.len() < MOST_FIELDS
                && !OWN_FIELDS.contains(&path)
                && let Some(value) = record.field(path)
                // The text is shown anyway, whatever the field is called that it comes from.
                && *value != *text
            {
                fields.push((path.to_owned(), value.chars().take(LONGEST_VALUE).collect()));
            }
        });
        let mut document = ShownDocument {
            id: record.field("id").unwrap_or_default().into_owned(),
            order: numbered.order,
            fields,
            text: part.to_owned(),
            clean: beginning(cleaned.clean, self.longest).to_owned(),
            cut: (text.len() - part.len()) as u64,
            tokens_before: cleaned.tokens_before,
            tokens_after: cleaned.tokens_after,
            ..ShownDocument::default()
        };
        let rows = &mut state.rows;
        document.take_tokens(cleaned.ends().filter_map(|token| Some((token.span, rows.of(&token)?))));
        Ok(document)
    }
}

/// The beginning of a text, of so many bytes at most.
fn beginning(text: &str, longest: usize) -> &str {
    let end = (0..=longest.min(text.len())).rev().find(|end| text.is_char_boundary(*end));
    &text[..end.unwrap_or(0)]
}

/// The rows of the account for tokens: those of each form are looked up once.
struct Rows<'r> {
    account: &'r Account,
    /// By the number of the form.
    of_form: Vec<Option<Range<u32>>>,
}

impl Rows<'_> {
    /// The row in which a token is counted.
    fn of(&mut self, token: &EndedToken<'_>) -> Option<u32> {
        let place = token.number as usize;
        if place >= self.of_form.len() {
            self.of_form.resize(place + 1, None);
        }
        let rows = self.of_form[place].get_or_insert_with(|| {
            let rows = self.account.rows_of(token.form);
            rows.start as u32..rows.end as u32
        });
        // Most forms have one row, in which all their tokens are counted.
        if rows.len() == 1 {
            return Some(rows.start);
        }
        let rows = rows.start as usize..rows.end as usize;
        self.account.row_among(rows, token.tag, token.fate).map(|row| row as u32)
    }
}
