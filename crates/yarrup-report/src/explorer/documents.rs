//! Documents on the page: their texts, and where each token stands and ended.

use std::collections::BTreeMap;

use serde::Serialize;
use yarrup_core::Span;

/// A document to show.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct ShownDocument {
    /// Its id.
    pub id: String,
    /// Where it stands among all: a larger number comes later.
    pub order: u64,
    /// Its fields, in order.
    pub fields: Vec<(String, String)>,
    /// Its original text, or the beginning of it.
    pub text: String,
    /// Its cleaned text, or the beginning of it.
    pub clean: String,
    /// How many bytes the original text has beyond the part that is shown.
    pub cut: u64,
    /// How many tokens it had as found.
    pub tokens_before: u64,
    /// How many tokens were kept.
    pub tokens_after: u64,
    /// Its tokens within the part that is shown.
    pub tokens: Vec<ShownToken>,
    /// Tokens that steps made of others: each covers several of the tokens.
    pub made: Vec<ShownToken>,
}

/// A token of a document that is shown.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct ShownToken {
    /// Where it begins, in UTF-16 code units.
    pub start: u32,
    /// How long it is, in UTF-16 code units.
    pub length: u32,
    /// Its row in [`Account::ends`](yarrup_core::Account::ends).
    pub row: u32,
}

impl ShownDocument {
    /// Takes the tokens of the text, each with its row of the account. Those that lie behind the part that is shown are left out.
    pub fn take_tokens(&mut self, tokens: impl Iterator<Item = (Span, u32)>) {
        let shown = self.text.len() as u32;
        let mut tokens: Vec<(Span, u32)> =
            tokens.filter(|(span, _)| span.end <= shown && span.start < span.end).collect();
        // Of tokens that begin at one place the shorter ones are those that others are made of.
        tokens.sort_by_key(|(span, _)| (span.start, span.end));
        let (mut units, mut end) = (Units { text: &self.text, at: 0, units: 0 }, 0);
        // Then bytes are units.
        let is_ascii = self.text.is_ascii();
        for (span, row) in tokens {
            let (start, length) = match is_ascii {
                true => (span.start, span.end - span.start),
                false => {
                    let length = span.of(&self.text).encode_utf16().count();
                    (units.up_to(span.start as usize), length as u32)
                }
            };
            let token = ShownToken { start, length, row };
            if span.start >= end {
                end = span.end;
                self.tokens.push(token);
            } else {
                self.made.push(token);
            }
        }
    }
}

/// Counts the UTF-16 code units up to places of a text that never come earlier than the one before.
struct Units<'t> {
    text: &'t str,
    at: usize,
    units: u32,
}

impl Units<'_> {
    fn up_to(&mut self, place: usize) -> u32 {
        self.units += self.text[self.at..place].encode_utf16().count() as u32;
        self.at = place;
        self.units
    }
}

/// A document as the value has it.
#[derive(Debug, Serialize)]
pub(super) struct DocumentValue<'a> {
    pub(super) id: &'a str,
    pub(super) fields: BTreeMap<&'a str, &'a str>,
    pub(super) text: &'a str,
    /// None where it is the terms of its tokens, joined by single spaces.
    pub(super) clean: Option<&'a str>,
    pub(super) cut: u64,
    pub(super) tokens_before: u64,
    pub(super) tokens_after: u64,
    /// From the end of the token before to the beginning of each.
    pub(super) gaps: Vec<u32>,
    /// The tokens that are not as long as their forms, each with its length.
    pub(super) lengths: Vec<[u32; 2]>,
    pub(super) forms: Vec<u32>,
    /// Tokens that steps made: where each begins, how long it is, its form.
    pub(super) made: Vec<[u32; 3]>,
}

impl<'a> DocumentValue<'a> {
    /// The value of a document on a page with these forms.
    pub(super) fn of(document: &'a ShownDocument, forms: &dyn Forms) -> DocumentValue<'a> {
        let mut end = 0;
        let gap = |token: &ShownToken| {
            let gap = token.start - end;
            end = token.start + token.length;
            gap
        };
        let form = |token: &ShownToken| forms.number(token.row);
        let length = |(at, token): (u32, &ShownToken)| {
            (token.length != forms.length(token.row)).then_some([at, token.length])
        };
        let is_told = document.cut == 0
            && document.made.is_empty()
            && is_joined(&document.clean, &document.tokens, forms);
        let made = |token: &ShownToken| [token.start, token.length, form(token)];
        DocumentValue {
            id: &document.id,
            fields: document.fields.iter().map(|(name, value)| (name.as_str(), value.as_str())).collect(),
            text: &document.text,
            clean: (!is_told).then_some(document.clean.as_str()),
            cut: document.cut,
            tokens_before: document.tokens_before,
            tokens_after: document.tokens_after,
            gaps: document.tokens.iter().map(gap).collect(),
            lengths: (0..).zip(&document.tokens).filter_map(length).collect(),
            forms: document.tokens.iter().map(form).collect(),
            made: document.made.iter().map(made).collect(),
        }
    }
}

/// What a page says of the forms of its tokens.
pub(super) trait Forms {
    /// The number of the form in this row of the account.
    fn number(&self, row: u32) -> u32;
    /// How long it is, in UTF-16 code units.
    fn length(&self, row: u32) -> u32;
    /// The term that it became, if it is left.
    fn term(&self, row: u32) -> Option<&str>;
}

/// Whether a cleaned text is the terms of these tokens joined by single spaces.
fn is_joined(clean: &str, tokens: &[ShownToken], forms: &dyn Forms) -> bool {
    let mut rest = clean;
    for (number, term) in tokens.iter().filter_map(|token| forms.term(token.row)).enumerate() {
        let behind = if number == 0 { Some(rest) } else { rest.strip_prefix(' ') };
        match behind.and_then(|behind| behind.strip_prefix(term)) {
            Some(behind) => rest = behind,
            None => return false,
        }
    }
    rest.is_empty()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn tokens_stand_in_utf_16_and_what_was_made_of_others_lies_over_them() {
        let text = "🐦 barn owl é tern".to_owned();
        let mut document = ShownDocument { text, ..ShownDocument::default() };
        let span = |start, end| Span { start, end };
        let tokens = [(5, 9), (5, 13), (10, 13), (14, 16), (17, 21), (17, 40)];
        document.take_tokens((0..).zip(tokens).map(|(row, (start, end))| (span(start, end), row)));
        let told: Vec<_> =
            document.tokens.iter().map(|token| (token.start, token.length, token.row)).collect();
        assert_eq!(told, [(3, 4, 0), (8, 3, 2), (12, 1, 3), (14, 4, 4)]);
        assert_eq!(document.made, [ShownToken { start: 3, length: 8, row: 1 }]);
        let value = DocumentValue::of(&document, &Known);
        assert_eq!((value.gaps, value.forms), (vec![3, 1, 1, 1], vec![9, 7, 6, 5]));
        assert_eq!((value.made, value.lengths), (vec![[3, 8, 8]], vec![[1, 3], [2, 1]]));
        assert_eq!(value.clean, Some(""));
        let mut plain = ShownDocument {
            text: "owl tern".to_owned(),
            clean: "x x".to_owned(),
            ..ShownDocument::default()
        };
        plain.take_tokens([(span(0, 3), 0), (span(4, 8), 1)].into_iter());
        assert_eq!(DocumentValue::of(&plain, &Known).clean, None);
        for clean in ["x  x", "x x ", "x y", "x", "x\nx"] {
            plain.clean = clean.to_owned();
            assert_eq!(DocumentValue::of(&plain, &Known).clean, Some(clean));
        }
    }

    /// Forms of four letters that all became one term.
    struct Known;

    impl Forms for Known {
        fn number(&self, row: u32) -> u32 {
            9 - row
        }

        fn length(&self, _: u32) -> u32 {
            4
        }

        fn term(&self, _: u32) -> Option<&str> {
            Some("x")
        }
    }
}
