//! Unicode's own tests of boundaries, whole.

use yarrup_core::split::{next_grapheme_boundary, next_sentence_boundary, next_word_boundary};

/// The lines of a test file: `÷` is a boundary, `×` is none.
fn cases(file: &str) -> impl Iterator<Item = (usize, Vec<String>)> {
    file.lines().enumerate().filter_map(|(line, text)| {
        let (case, _) = text.split_once('#')?;
        let segments: Vec<String> = case
            .split('÷')
            .map(|segment| {
                segment
                    .split('×')
                    .filter_map(|code| u32::from_str_radix(code.trim(), 16).ok().and_then(char::from_u32))
                    .collect()
            })
            .filter(|segment: &String| !segment.is_empty())
            .collect();
        (!segments.is_empty()).then_some((line + 1, segments))
    })
}

/// Holds every case of a file against a function that finds the next boundary. Returns how many there are.
fn hold(file: &str, next_boundary: impl Fn(&str, usize) -> usize) -> usize {
    let mut count = 0;
    for (line, expected) in cases(file) {
        let text = expected.concat();
        let mut found = Vec::new();
        let mut at = 0;
        while at < text.len() {
            let end = next_boundary(&text, at);
            found.push(text[at..end].to_owned());
            at = end;
        }
        assert_eq!(found, expected, "line {line}");
        count += 1;
    }
    count
}

#[test]
fn every_case_of_the_word_break_test_is_split_as_it_says() {
    assert_eq!(hold(include_str!("unicode/WordBreakTest.txt"), next_word_boundary), 1823);
}

#[test]
fn every_case_of_the_sentence_break_test_is_split_as_it_says() {
    assert_eq!(hold(include_str!("unicode/SentenceBreakTest.txt"), next_sentence_boundary), 502);
}

#[test]
fn every_case_of_the_grapheme_break_test_is_split_as_it_says() {
    assert_eq!(hold(include_str!("unicode/GraphemeBreakTest.txt"), next_grapheme_boundary), 602);
}
