use crate::span::Span;
use crate::split::Splitter;
use crate::unicode;

/// A token is whatever stands between white space (Unicode's property White_Space).
#[derive(Clone, Copy, Debug)]
pub struct Spaces;

impl Splitter for Spaces {
    fn split(&self, text: &str, spans: &mut Vec<Span>) {
        let mut start = None;
        let mut end_at = |start: &mut Option<usize>, end: usize| {
            if let Some(first) = start.take() {
                spans.push(Span { start: first as u32, end: end as u32 });
            }
        };
        let bytes = text.as_bytes();
        let mut at = 0;
        while at < bytes.len() {
            let byte = bytes[at];
            if byte < 0x80 {
                // The ASCII white space of Unicode: tab to carriage return, and the space. Separators such as
                // U+001C are not White_Space.
                if byte == b' ' || (b'\t'..=b'\r').contains(&byte) {
                    end_at(&mut start, at);
                } else if start.is_none() {
                    start = Some(at);
                }
                at += 1;
                continue;
            }
            let Some(c) = text[at..].chars().next() else {
                break;
            };
            if unicode::is_white_space(c) {
                end_at(&mut start, at);
            } else if start.is_none() {
                start = Some(at);
            }
            at += c.len_utf8();
        }
        end_at(&mut start, text.len());
    }

    fn covers_letters(&self) -> bool {
        true
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn white_space_of_every_kind_parts_tokens() {
        let text = " one\u{a0}two\u{3000}three\u{85}four\u{200b}still\n\nlast";
        let mut spans = Vec::new();
        Spaces.split(text, &mut spans);
        let tokens: Vec<_> = spans.iter().map(|span| span.of(text)).collect();
        assert_eq!(tokens, ["one", "two", "three", "four\u{200b}still", "last"]);
    }

    proptest! {
        #[test]
        fn agrees_with_splitting_on_white_space(text in "[a-z \u{2003}é\n'\u{c}\u{1c}]{0,40}") {
            let mut spans = Vec::new();
            Spaces.split(&text, &mut spans);
            let tokens: Vec<_> = spans.iter().map(|span| span.of(&text)).collect();
            let expected: Vec<_> = text.split(char::is_whitespace).filter(|t| !t.is_empty()).collect();
            prop_assert_eq!(tokens, expected);
        }
    }
}
