//! Scripts that are written without spaces between words: runs of them are split by the dictionaries of the Unicode consortium.

use std::ops::Range;
use std::sync::LazyLock;

use icu_segmenter::options::WordBreakInvariantOptions;
use icu_segmenter::{WordSegmenter, WordSegmenterBorrowed};

use crate::span::Span;
use crate::unicode;

/// Made at the first run that needs it.
static SEGMENTER: LazyLock<WordSegmenterBorrowed<'static>> =
    LazyLock::new(|| WordSegmenter::new_dictionary(WordBreakInvariantOptions::default()));

/// Runs are given to the segmenter in pieces of about so many bytes, cut where it sees a boundary itself.
const PIECE: usize = 6000;

#[derive(Clone, Copy, PartialEq, Eq)]
enum Class {
    /// Words of it stand without spaces between them.
    Unspaced,
    /// Unspaced too, but Unicode's rules keep its runs whole: by itself it needs no dictionary.
    Katakana,
    Other,
}

fn class(c: char) -> Class {
    if unicode::is_katakana(c) {
        Class::Katakana
    } else if unicode::is_unspaced(c) {
        Class::Unspaced
    } else {
        Class::Other
    }
}

/// Appends the words of the run of unspaced scripts that begins at `at`, and tells where they end. None if there is no run, or nothing that
/// a dictionary is needed for. Of a long run only a piece is split; the rest is another run.
pub(super) fn split(text: &str, at: usize, spans: &mut Vec<Span>) -> Option<usize> {
    let (run, goes_on) = run(text, at)?;
    let first = spans.len();
    let mut start = run.start;
    for end in SEGMENTER.segment_str(&text[run.clone()]).skip(1) {
        let end = run.start + end;
        if end > start {
            spans.push(Span { start: start as u32, end: end as u32 });
            start = end;
        }
    }
    // The last word of a piece may go on behind it: it begins the next.
    if goes_on && spans.len() > first + 1 {
        return spans.pop().map(|last| last.start as usize);
    }
    Some(run.end)
}

/// The run that begins at `at`, or the first piece of it, and whether it goes on.
fn run(text: &str, at: usize) -> Option<(Range<usize>, bool)> {
    let mut needs_dictionary = false;
    let mut end = at;
    for c in text[at..].chars() {
        match class(c) {
            Class::Unspaced => needs_dictionary = true,
            Class::Katakana => {}
            // Marks and joiners ride on the letter before them.
            Class::Other
                if end > at
                    && matches!(
                        unicode::word_break(c),
                        unicode::WordBreak::Extend | unicode::WordBreak::Zwj
                    ) => {}
            Class::Other => break,
        }
        if needs_dictionary && end - at >= PIECE {
            return Some((at..end, true));
        }
        end += c.len_utf8();
    }
    needs_dictionary.then_some((at..end, false))
}

#[cfg(test)]
mod tests {
    use crate::span::Span;
    use crate::split::{Splitter, Words};

    fn tokens(text: &str) -> Vec<&str> {
        let mut spans: Vec<Span> = Vec::new();
        Words::default().split(text, &mut spans);
        spans.iter().map(|span| span.of(text)).collect()
    }

    #[test]
    fn words_of_unspaced_scripts_are_found() {
        assert_eq!(tokens("我们今天去大学。"), ["我们", "今天", "去", "大学", "。"]);
        assert_eq!(tokens("鳥の巣 カタカナ"), ["鳥", "の", "巣", "カタカナ"]);
        assert_eq!(tokens("東京都に住む"), ["東京", "都", "に", "住む"]);
        assert_eq!(tokens("ผมรักนก tern"), ["ผม", "รัก", "นก", "tern"]);
        assert_eq!(tokens("tern鳥5"), ["tern", "鳥", "5"]);
    }

    #[test]
    fn nothing_of_a_long_run_is_lost() {
        let text = "我们今天去大学".repeat(5000);
        assert_eq!(tokens(&text).concat(), text);
        // Nor is a word cut where a piece ends.
        assert_eq!(tokens(&text).len(), 5000 * 4);
    }
}
