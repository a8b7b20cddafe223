//! Points between two axes: rank and frequency, documents and frequency, the growth of the vocabulary.

use std::collections::HashSet;

use super::plot::{Axis, Plot};
use super::{Figure, Scale, Side, Style, sheet};
use crate::numbers::grouped;
use crate::terminal::{cut, visible_name};

/// Points to draw, with what is said of them.
#[derive(Clone, Debug)]
pub struct Points {
    /// The title, and what stands under it.
    pub title: (String, String),
    /// What the horizontal axis counts, and how it is spaced.
    pub x: (String, Scale),
    /// What the vertical axis counts, and how it is spaced.
    pub y: (String, Scale),
    /// The points.
    pub points: Vec<(f64, f64)>,
    /// Names of some of them, the most important first; those that find room are shown.
    pub names: Vec<((f64, f64), String)>,
    /// Places on the horizontal axis with what they mean.
    pub marks: Vec<(f64, String)>,
    /// A line through them.
    pub fit: Option<Fit>,
    /// Whether the points are joined by a line.
    pub is_line: bool,
}

/// y = factor · x^power, fitted to the points of a range.
#[derive(Clone, Debug, PartialEq)]
pub struct Fit {
    /// The factor.
    pub factor: f64,
    /// The power.
    pub power: f64,
    /// From which x to which it was fitted.
    pub range: (f64, f64),
    /// What is said of it.
    pub told: String,
}

/// How many points the lines of fits have.
const LINE_POINTS: u32 = 60;

/// Draws points.
pub fn points_figure(points: &Points, style: &Style) -> Figure {
    let (title, subtitle) = &points.title;
    sheet(
        style,
        title,
        subtitle,
        |_, height| (98.0, height),
        |sheet| {
            let palette = &style.palette;
            let most = |which: fn(&(f64, f64)) -> f64| points.points.iter().map(which).fold(1.0, f64::max);
            let x = Axis::up_to(&points.x.0, most(|point| point.0), points.x.1);
            let y = Axis::up_to(&points.y.0, most(|point| point.1), points.y.1);
            let mut plot = Plot::new(sheet, x, y)?;
            let (_, top, _, bottom) = plot.room;
            for (x, _) in &points.marks {
                if let Some((at, _)) = plot.place((*x, most(|point| point.1))) {
                    sheet.line(&[(at, top), (at, bottom)], 2.0, palette.dropped())?;
                }
            }
            if points.is_line {
                plot.line(points.points.iter().copied(), 3.0, palette.kept())?;
            } else {
                // Points that would fall upon others are left out: the file stays small.
                let mut taken = HashSet::new();
                for point in &points.points {
                    let Some(place) = plot.place(*point) else { continue };
                    if taken.insert(((place.0 / 2.0).round() as i32, (place.1 / 2.0).round() as i32)) {
                        sheet.dot(place, 4.0, palette.kept())?;
                    }
                }
            }
            if let Some(fit) = &points.fit {
                let (from, to) = fit.range;
                let step = (to / from).powf(1.0 / f64::from(LINE_POINTS));
                let line = (0..=LINE_POINTS).map(|at| from * step.powi(at as i32));
                plot.line(line.map(|x| (x, fit.factor * x.powf(fit.power))), 2.0, palette.of_series(4))?;
            }
            for (number, (x, told)) in points.marks.iter().enumerate() {
                let Some((at, _)) = plot.place((*x, most(|point| point.1))) else { continue };
                // Each lower than the one before, on the side where there is room.
                let height = top + 16.0 + number as f64 * 26.0;
                let places = [((at + 10.0, height), Side::Begins), ((at - 10.0, height), Side::Ends)];
                plot.label(told, &places, (17.0, palette.ink), true)?;
            }
            if let Some(fit) = &points.fit {
                let middle = (fit.range.0 * fit.range.1).sqrt();
                if let Some((x, y)) = plot.place((middle, fit.factor * middle.powf(fit.power))) {
                    // Where the line rises there is room under it, where it falls above it.
                    let away = if fit.power > 0.0 { 1.0 } else { -1.0 };
                    let place = |across: f64, down: f64| ((x + across, y + down * away), Side::Begins);
                    let places =
                        [place(40.0, 40.0), place(60.0, 70.0), place(90.0, 110.0), place(20.0, 30.0)];
                    plot.label(&fit.told, &places, (17.0, palette.of_series(4)), true)?;
                }
            }
            for (point, name) in &points.names {
                let Some((x, y)) = plot.place(*point) else { continue };
                let name = cut(&visible_name(name), 24);
                let places = [
                    ((x + 8.0, y - 15.0), Side::Begins),
                    ((x - 8.0, y + 16.0), Side::Ends),
                    ((x + 8.0, y + 16.0), Side::Begins),
                ];
                plot.label(&name, &places, (14.0, palette.faint), false)?;
            }
            Some(())
        },
    )
}

impl Fit {
    /// A range as it is told: `1 to 2,000`.
    pub fn told_range((from, to): (f64, f64)) -> String {
        format!("{} to {}", grouped(from.round() as u64), grouped(to.round() as u64))
    }
}
