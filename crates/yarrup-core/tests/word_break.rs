//! Unicode's own test of word boundaries, whole.

use yarrup_core::split::next_word_boundary;

/// The lines of the test file: `÷` is a boundary, `×` is none.
fn cases() -> impl Iterator<Item = (usize, Vec<String>)> {
    include_str!("unicode/WordBreakTest.txt").lines().enumerate().filter_map(|(line, text)| {
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

#[test]
fn every_case_of_the_word_break_test_is_split_as_it_says() {
    let mut count = 0;
    for (line, expected) in cases() {
        let text = expected.concat();
        let mut found = Vec::new();
        let mut at = 0;
        while at < text.len() {
            let end = next_word_boundary(&text, at);
            found.push(text[at..end].to_owned());
            at = end;
        }
        assert_eq!(found, expected, "line {line}");
        count += 1;
    }
    assert_eq!(count, 1823, "the file was read whole");
}
