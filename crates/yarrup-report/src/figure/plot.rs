//! Two axes, linear or logarithmic, and what is drawn between them.

use super::room::{Taken, text_width};
use super::{Sheet, Side};
use crate::numbers::grouped;

/// How an axis spaces numbers.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Scale {
    /// Evenly.
    Linear,
    /// Their logarithms evenly.
    Log,
}

/// An axis.
#[derive(Clone, Debug)]
pub(super) struct Axis {
    name: String,
    from: f64,
    to: f64,
    scale: Scale,
}

impl Axis {
    /// An axis that holds numbers from 1 (logarithmic) or 0 (linear) up to this one.
    pub(super) fn up_to(name: &str, most: f64, scale: Scale) -> Axis {
        let (from, to) = match scale {
            Scale::Linear => (0.0, most.max(1.0) * 1.04),
            Scale::Log => (0.8, most.max(2.0) * 1.3),
        };
        Axis { name: name.to_owned(), from, to, scale }
    }

    /// Where a number stands, from 0 to 1; none where it does not stand on the axis.
    fn place(&self, number: f64) -> Option<f64> {
        let place = match self.scale {
            Scale::Linear => (number - self.from) / (self.to - self.from),
            Scale::Log if number > 0.0 => (number / self.from).ln() / (self.to / self.from).ln(),
            Scale::Log => return None,
        };
        (-1e-9..=1.0 + 1e-9).contains(&place).then_some(place)
    }

    /// Round numbers to mark.
    fn marks(&self) -> Vec<f64> {
        match self.scale {
            Scale::Log => {
                let decades: Vec<f64> =
                    (0..20).map(|power| 10f64.powi(power)).take_while(|mark| *mark <= self.to).collect();
                if decades.len() > 2 {
                    return decades;
                }
                let between = decades.iter().flat_map(|decade| [1.0, 2.0, 5.0].map(|step| step * decade));
                between.filter(|mark| *mark <= self.to).collect()
            }
            Scale::Linear => {
                let rough = self.to / 6.0;
                let power = 10f64.powf(rough.max(1e-9).log10().floor());
                let steps = [1.0, 2.0, 5.0, 10.0].map(|step| step * power);
                // Counts are whole numbers.
                let step = steps.into_iter().find(|step| *step >= rough).unwrap_or(rough).max(1.0);
                (0..100).map(|mark| f64::from(mark) * step).take_while(|mark| *mark <= self.to).collect()
            }
        }
    }
}

/// The size of the numbers beside an axis.
const MARK: f64 = 16.0;

/// The room between two axes.
pub(super) struct Plot<'p, 'a, 's> {
    pub(super) sheet: &'p Sheet<'a, 's>,
    x: Axis,
    y: Axis,
    /// Left, top, right, bottom, in units.
    pub(super) room: (f64, f64, f64, f64),
    /// Where texts stand.
    taken: Taken,
}

impl<'p, 'a, 's> Plot<'p, 'a, 's> {
    /// Draws the axes.
    pub(super) fn new(sheet: &'p Sheet<'a, 's>, x: Axis, y: Axis) -> Option<Plot<'p, 'a, 's>> {
        let palette = &sheet.style.palette;
        let widest =
            y.marks().iter().map(|mark| text_width(&grouped(*mark as u64), MARK)).fold(0.0, f64::max);
        let room = ((widest + 24.0).max(122.0), 140.0, sheet.width - 48.0, sheet.height - 92.0);
        let (left, top, right, bottom) = room;
        let plot = Plot { sheet, x, y, room, taken: Taken::default() };
        let mut beside = Taken::default();
        for mark in plot.x.marks() {
            let Some(place) = plot.x.place(mark) else { continue };
            let at = left + place * (right - left);
            sheet.line(&[(at, top), (at, bottom)], 1.0, palette.grid)?;
            let told = grouped(mark as u64);
            let half = text_width(&told, MARK) / 2.0;
            let middle = at.min(sheet.width - half - 4.0);
            // Marks that stand close together are not all told.
            if beside.take((middle - half - 6.0, 0.0, middle + half + 6.0, MARK)) {
                sheet.text(&told, (middle, bottom + 20.0), MARK, palette.ink, Side::Middle)?;
            }
        }
        for mark in plot.y.marks() {
            let Some(place) = plot.y.place(mark) else { continue };
            let at = bottom - place * (bottom - top);
            sheet.line(&[(left, at), (right, at)], 1.0, palette.grid)?;
            sheet.text(&grouped(mark as u64), (left - 10.0, at), MARK, palette.ink, Side::Ends)?;
        }
        sheet.line(&[(left, top), (left, bottom), (right, bottom)], 1.0, palette.faint)?;
        sheet.text(&plot.x.name, ((left + right) / 2.0, bottom + 56.0), 18.0, palette.faint, Side::Middle)?;
        sheet.text(&plot.y.name, (left, top - 14.0), 18.0, palette.faint, Side::Begins)?;
        Some(plot)
    }

    /// Where a point stands on the sheet.
    pub(super) fn place(&self, (x, y): (f64, f64)) -> Option<(f64, f64)> {
        let (left, top, right, bottom) = self.room;
        Some((left + self.x.place(x)? * (right - left), bottom - self.y.place(y)? * (bottom - top)))
    }

    /// A line up to the edges of the room, through points of which some may lie beyond it.
    pub(super) fn line(
        &self,
        points: impl Iterator<Item = (f64, f64)>,
        width: f64,
        colour: super::Colour,
    ) -> Option<()> {
        let inside: Vec<(f64, f64)> = points.filter_map(|point| self.place(point)).collect();
        if inside.len() > 1 { self.sheet.line(&inside, width, colour) } else { Some(()) }
    }

    /// Writes a text at the first of these places where it lies upon no other, on paper of its own if it `covers` what is there. Whether there was one.
    pub(super) fn label(
        &mut self,
        text: &str,
        places: &[((f64, f64), Side)],
        (size, colour): (f64, super::Colour),
        covers: bool,
    ) -> Option<bool> {
        let width = text_width(text, size);
        let (left, top, right, bottom) = self.room;
        for ((x, y), side) in places {
            let start = match side {
                Side::Begins => *x,
                Side::Ends => x - width,
                Side::Middle => x - width / 2.0,
            };
            let own = (start - 3.0, y - size * 0.65, start + width + 3.0, y + size * 0.65);
            let is_inside = own.0 >= left && own.2 <= right && own.1 >= top - 6.0 && own.3 <= bottom;
            if is_inside && self.taken.take(own) {
                if covers {
                    self.sheet.rectangle((own.0, own.1), (own.2, own.3), self.sheet.style.palette.paper)?;
                }
                self.sheet.text(text, (*x, *y), size, colour, *side)?;
                return Some(true);
            }
        }
        Some(false)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn marks_are_round_and_few() {
        let marks = |most, scale| Axis::up_to("", most, scale).marks();
        assert_eq!(marks(1000.0, Scale::Log), [1.0, 10.0, 100.0, 1000.0]);
        assert_eq!(marks(30.0, Scale::Log), [1.0, 2.0, 5.0, 10.0, 20.0]);
        assert_eq!(marks(50.0, Scale::Linear), [0.0, 10.0, 20.0, 30.0, 40.0, 50.0]);
        assert_eq!(marks(0.0, Scale::Linear), [0.0, 1.0]);
        assert!(marks(1e12, Scale::Linear).len() < 12);
    }

    #[test]
    fn numbers_stand_in_their_places() {
        let axis = Axis { name: String::new(), from: 1.0, to: 100.0, scale: Scale::Log };
        assert!((axis.place(10.0).expect("on it") - 0.5).abs() < 1e-12);
        assert_eq!((axis.place(0.0), axis.place(1000.0)), (None, None));
    }
}
