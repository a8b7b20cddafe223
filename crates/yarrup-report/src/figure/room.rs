//! How much room texts take, and where there is some left.

use unicode_width::UnicodeWidthChar as _;

/// The widths of the letters from the space to the tilde in the font of figures, in thousandths of its size (Inter Regular).
const WIDTHS: [u16; 95] = [
    281, 278, 403, 631, 638, 812, 639, 222, 362, 362, 500, 659, 280, 460, 276, 357, 625, 464, 605, 636, 642,
    608, 624, 571, 616, 624, 276, 280, 659, 659, 659, 507, 936, 676, 651, 727, 719, 598, 587, 743, 740, 264,
    543, 652, 562, 889, 753, 761, 635, 761, 639, 638, 642, 741, 676, 949, 642, 665, 625, 362, 357, 362, 469,
    452, 497, 564, 621, 558, 621, 582, 361, 609, 591, 237, 237, 544, 237, 869, 585, 597, 609, 609, 372, 523,
    364, 581, 557, 812, 540, 557, 541, 362, 327, 362, 659,
];
/// The same of other letters of one column, of which most are narrower.
const OTHER: f64 = 760.0;
/// How much wider bold letters are.
pub(super) const BOLD: f64 = 1.11;

/// How wide a text of this size is: exactly where it is of ASCII, and no wider than that nearly everywhere else.
pub(super) fn text_width(text: &str, size: f64) -> f64 {
    let letter = |c: char| match c {
        ' '..='~' => f64::from(WIDTHS[c as usize - 32]),
        '·' => 276.0,
        '–' => 500.0,
        '…' => 821.0,
        other => match other.width().unwrap_or(0) {
            0 => 0.0,
            1 => OTHER,
            _ => 1000.0,
        },
    };
    text.chars().map(letter).sum::<f64>() * size / 1000.0
}

/// The beginning of a text, as much of it as has room.
pub(super) fn fitted(text: &str, room: f64, size: f64) -> String {
    if text_width(text, size) <= room {
        return text.to_owned();
    }
    let room = room - text_width("…", size);
    let mut width = 0.0;
    let fits = |c: &char| {
        width += text_width(c.encode_utf8(&mut [0; 4]), size);
        width <= room
    };
    text.chars().take_while(fits).chain(['…']).collect()
}

/// Places that texts have taken: left, top, right, bottom of each.
#[derive(Debug, Default)]
pub(super) struct Taken(Vec<(f64, f64, f64, f64)>);

impl Taken {
    /// Takes a place if nothing reaches into it. Whether it was free.
    pub(super) fn take(&mut self, own: (f64, f64, f64, f64)) -> bool {
        let lies_on = |other: &(f64, f64, f64, f64)| {
            own.0 < other.2 && other.0 < own.2 && own.1 < other.3 && other.1 < own.3
        };
        let is_free = !self.0.iter().any(lies_on);
        if is_free {
            self.0.push(own);
        }
        is_free
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn texts_are_cut_to_the_room_that_they_have() {
        assert_eq!(text_width("WW", 10.0), 18.98);
        assert_eq!(text_width("海", 10.0), 10.0);
        for text in ["terns", "WWWWWWWW", "iiiiiiiiiiiiiiiiiiiiii", "Küstenseeschwalbe", "海鳥海鳥"] {
            for room in [30.0, 60.0, 200.0] {
                let shown = fitted(text, room, 12.0);
                assert!(text_width(&shown, 12.0) <= room, "{shown}");
                assert!(shown == text || shown.ends_with('…'), "{shown}");
            }
        }
    }

    #[test]
    fn a_place_is_taken_once() {
        let mut taken = Taken::default();
        assert!(taken.take((0.0, 0.0, 10.0, 10.0)));
        assert!(!taken.take((9.0, 9.0, 20.0, 20.0)));
        assert!(taken.take((10.0, 0.0, 20.0, 10.0)));
    }
}
