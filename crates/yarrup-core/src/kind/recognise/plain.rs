//! Passing over what surely is of no kind of its own, 64 bytes at a time.

use crate::many_bytes::{ManyBytes, WINDOW};

/// Marks at which nothing of a kind begins, whatever of ASCII stands behind them.
pub(super) const QUIET: [u8; 14] = *b"\"',!?)][}{|&%`";

/// How many bytes behind a word may say that it is not plain.
const AHEAD: usize = 4;

/// The first place from `at` on, which is a place where a token may begin, at which something may be of a kind of its own. All before is spaces,
/// words of letters that nothing joins to anything, and marks before white space. That is most of any text.
///
/// It may stop at what is plain all the same.
#[inline]
pub(super) fn pass_plain(bytes: &[u8], at: usize) -> usize {
    let mut at = at;
    while at < bytes.len() {
        let window = ManyBytes::of(bytes, at);
        let (letters, digits, joiners) = (window.letters(), window.within(b'0', b'9'), window.any([b'_']));
        let (capitals, blanks, line_ends) =
            (window.within(b'A', b'Z'), window.any([b' ']), window.any([b'\n']));
        let words = letters | digits | joiners;
        let marks = window.any(*b",;!?)(][\"'\t\r") | line_ends;
        let joints = window.any(*b".:");
        let goes_on = words | window.beyond_ascii() | window.any(*b"/\\[+.~:");
        // `nest-box`: what joins such a word to an address shows at its end.
        let hyphens = window.any([b'-']) & letters << 1 & letters >> 1;
        let joined = words | hyphens;
        let (starts, ends) = (joined & !(joined << 1), !joined & joined << 1);
        // A number may begin, or a face or a code, which show with the second letter.
        let parts = words & !(words << 1);
        let by_start = parts & (digits | joiners | (capitals | joiners | hyphens) >> 1);
        // A word of one letter may begin a face.
        let single = !(words << 2);
        // Behind the word something joins, or a digit is near, as behind the name of a month.
        let by_end = ends
            & (!(blanks | marks | joints)
                | (joints & (goes_on >> 1 | single))
                | digits
                | digits >> 1
                | digits >> 2);
        let (beyond, quiet) = (window.beyond_ascii(), window.any(QUIET));
        let by_mark = (((marks | joints) & !quiet) & !((blanks | line_ends) >> 1))
            | !(joined | blanks | marks | joints | quiet)
            | (quiet & beyond >> 1);
        // What is known but for what stands behind: up to the last word that may go on.
        let known = match at + WINDOW < bytes.len() {
            true => {
                let known = WINDOW - AHEAD;
                let open = joined << AHEAD >> AHEAD;
                known - if open >> (known - 1) & 1 == 1 { (open << AHEAD).leading_ones() as usize } else { 0 }
            }
            false => WINDOW,
        };
        let within = |bits: u64| if known < WINDOW { bits & !(u64::MAX << known) } else { bits };
        let mut first = within(by_start | by_mark).trailing_zeros() as usize;
        let end = by_end.trailing_zeros() as usize;
        if end < WINDOW {
            let start = WINDOW - 1 - (starts & !(u64::MAX << end)).leading_zeros() as usize;
            first = first.min(start);
        }
        if first < known {
            return (at + first).min(bytes.len());
        }
        if known == 0 {
            return at;
        }
        at += known;
    }
    bytes.len()
}
