//! Passing over what surely is of no kind of its own, 64 bytes at a time.

use crate::many_bytes::{ManyBytes, WINDOW};

/// Marks at which nothing of a kind begins, whatever of ASCII stands behind them.
pub(super) const QUIET: [u8; 14] = *b"\"',!?)][}{|&%`";

/// How many bytes behind a word may say that it is not plain.
const AHEAD: usize = 4;

/// What of a text is plain: spaces, words of letters that nothing joins to anything, and marks before white space. That is most of any text.
#[derive(Debug, Default)]
pub(super) struct Plain {
    /// Where the stretch begins that was looked at last, and how much of it is known.
    at: usize,
    known: usize,
    /// Where in it something may be of a kind of its own, a bit for each place.
    places: u64,
    /// What of it is part of a word, with the hyphens in it.
    joined: u64,
}

impl Plain {
    /// The first place from `at` on, which is a place where a token may begin, at which something may be of a kind of its own.
    ///
    /// It may stop at what is plain all the same.
    #[inline]
    pub(super) fn pass(&mut self, bytes: &[u8], at: usize) -> usize {
        let mut at = at;
        while at < bytes.len() {
            let place = at.wrapping_sub(self.at);
            // Within a word that was looked at as a whole, the rest may be something by itself.
            let is_within = place > 0 && place < self.known && self.joined >> (place - 1) & 3 == 3;
            if place >= self.known || is_within {
                *self = Plain::of(bytes, at);
                if self.known == 0 {
                    return at;
                }
            }
            let place = at - self.at;
            let left = self.places & (u64::MAX << place);
            if left != 0 {
                return (self.at + left.trailing_zeros() as usize).min(bytes.len());
            }
            at = self.at + self.known;
        }
        bytes.len()
    }

    /// Looks at a stretch that begins where a token may.
    fn of(bytes: &[u8], at: usize) -> Plain {
        let window = ManyBytes::of(bytes, at);
        let (letters, blanks, line_ends) = (window.letters(), window.any([b' ']), window.any([b'\n']));
        let (commas, dots) = (window.any([b',']), window.any([b'.']));
        // Most windows hold nothing else, and need no look at any of it.
        let is_prose = letters | blanks | line_ends | commas | dots == u64::MAX;
        let (joined, places) = match is_prose {
            true => of_prose(&window, letters, dots),
            false => of_any(&window, letters, blanks, line_ends, dots),
        };
        // What is known but for what stands behind: up to the last word that may go on.
        let known = match at + WINDOW < bytes.len() {
            true => {
                let known = WINDOW - AHEAD;
                let open = joined << AHEAD >> AHEAD;
                known - if open >> (known - 1) & 1 == 1 { (open << AHEAD).leading_ones() as usize } else { 0 }
            }
            false => WINDOW,
        };
        let places = if known < WINDOW { places & !(u64::MAX << known) } else { places };
        Plain { at, known, places, joined }
    }
}

/// The words of a stretch of letters, spaces, commas and full stops, and the places at which something may be of a kind of its own.
fn of_prose(window: &ManyBytes, letters: u64, dots: u64) -> (u64, u64) {
    let (starts, ends) = (letters & !(letters << 1), !letters & letters << 1);
    // A face shows with the second letter: `xD`.
    let faces = starts & window.any([b'D']) >> 1;
    let dot = dots & dots >> 1;
    (letters, faces | dot | starts_of(starts, ends & dots & (letters | dots) >> 1))
}

/// As [`of_prose`], of any stretch.
fn of_any(window: &ManyBytes, letters: u64, blanks: u64, line_ends: u64, dots: u64) -> (u64, u64) {
    let (digits, joiners, capitals) =
        (window.within(b'0', b'9'), window.any([b'_']), window.within(b'A', b'Z'));
    let words = letters | digits | joiners;
    let marks = window.any(*b",;!?)(][\"'\t\r") | line_ends;
    let (colons, beyond) = (window.any([b':']), window.beyond_ascii());
    let joints = dots | colons;
    let goes_on = words | beyond | joints | window.any(*b"/\\[+~");
    // `nest-box`: what joins such a word to an address shows at its end.
    let dashes = window.any([b'-']);
    let hyphens = dashes & letters << 1 & letters >> 1;
    // But between four hexadecimal digits and four more may be a UUID.
    let hex = window.within(b'a', b'f') | window.within(b'A', b'F');
    let (two_before, two_behind) = (hex & hex << 1, hex & hex >> 1);
    let (four_before, four_behind) = (two_before & two_before << 2, two_behind & two_behind >> 2);
    let hyphens = hyphens & !(four_before << 1 & four_behind >> 1);
    let joined = words | hyphens;
    let (starts, ends) = (joined & !(joined << 1), !joined & joined << 1);
    // A number may begin, or a face, which shows with the second letter, or an account, which has digits behind two capitals.
    let parts = words & !(words << 1);
    let by_start =
        parts & (digits | joiners | (window.any([b'D']) | joiners | hyphens | (capitals & digits >> 1)) >> 1);
    // A word of one letter may begin a face: `D:`.
    let single = !(words << 2);
    // Behind the word something joins, or a digit is near, as behind the name of a month.
    let by_end = ends
        & (!(blanks | marks | joints | window.any(*b"`<>{}|*=~^#"))
            | (joints & goes_on >> 1)
            | (colons & single)
            | digits
            | digits >> 1
            | digits >> 2);
    // Marks at which something begins by what stands behind them alone: a number, a path, a face.
    let open = window.any([b'(']) & !((digits | colons | dashes | window.any(*b"+;^")) >> 1);
    let dot = dots & !((digits | dots | window.any([b'/'])) >> 1);
    let dash = dashes & !((digits | joiners | dots) >> 1);
    let star = window.any([b'*']) & !(joiners >> 1);
    let plus = window.any([b'+']) & !(digits >> 1);
    let brow = window.any([b'>']) & !((joiners | joints | window.any(*b";=8xX")) >> 1);
    let stroke = window.any([b'\\']) & !(window.any(*b"\\o") >> 1);
    let eyes = colons & window.any([b'`']) >> 1;
    let quiet = window.any(QUIET) | line_ends | open | dot | dash | star | plus | brow | stroke | eyes;
    let by_mark = (((marks | joints) & !quiet) & !((blanks | line_ends) >> 1))
        | !(joined | blanks | marks | joints | quiet)
        | (quiet & beyond >> 1);
    (joined, by_start | by_mark | starts_of(starts, by_end))
}

/// The starts of those words that end at these places.
fn starts_of(starts: u64, ends: u64) -> u64 {
    let (mut found, mut left) = (0, ends);
    while left != 0 {
        let end = left.trailing_zeros();
        found |= 1 << (WINDOW as u32 - 1 - (starts & !(u64::MAX << end)).leading_zeros());
        left &= left - 1;
    }
    found
}
