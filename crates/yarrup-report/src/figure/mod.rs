//! Figures as SVG, of any size, in light or dark or colours of one's own.

mod bars;
mod cloud;
mod effects;
#[cfg(feature = "figures")]
mod fonts;
#[cfg(not(feature = "figures"))]
#[path = "fonts_left_out.rs"]
mod fonts;
mod lengths;
mod plot;
mod points;
mod room;
mod style;

pub use bars::{BarRow, bars_figure};
pub use cloud::{CloudShape, CloudWord, cloud_figure};
pub use effects::effect_figure;
pub use fonts::{FontError, Fonts};
pub use lengths::lengths_figure;
pub(crate) use lengths::{LengthRange, length_ranges};
pub use plot::Scale;
pub use points::{Fit, Points, points_figure};
pub use style::{Colour, Palette, Style};

use crate::terminal::visible;
use plotters::coord::Shift;
use plotters::prelude::*;
use plotters::style::text_anchor::{HPos, Pos, VPos};
use room::{BOLD, fitted, text_width};

/// The size that layouts are thought for, in units: a figure of this many pixels has units of one pixel.
const DESIGN: (f64, f64) = (1280.0, 800.0);

/// How much of a sheet is empty beside titles.
const MARGIN: f64 = 48.0;

/// A drawn figure.
#[derive(Clone, Debug)]
pub struct Figure {
    /// The whole SVG document.
    pub svg: String,
    /// Its size in pixels.
    size: (u32, u32),
    /// Where the drawing begins under the title, and where it ends, in pixels.
    drawn: (i32, i32),
}

impl Figure {
    /// The drawing without its title and without the empty room under it, for a page that has a heading of its own.
    pub(crate) fn untitled(&self) -> String {
        let ((top, bottom), (width, height)) = (self.drawn, self.size);
        let whole = format!("width=\"{width}\" height=\"{height}\" viewBox=\"0 0 {width} {height}\"");
        let cut = bottom - top;
        self.svg.replacen(
            &whole,
            &format!("width=\"{width}\" height=\"{cut}\" viewBox=\"0 {top} {width} {cut}\""),
            1,
        )
    }
}

type Area<'a> = DrawingArea<SVGBackend<'a>, Shift>;

/// An empty sheet to draw on, in units of its own: see [`DESIGN`].
struct Sheet<'a, 's> {
    area: &'a Area<'s>,
    style: &'a Style,
    unit: f64,
    width: f64,
    height: f64,
}

/// On which side of its place a text stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Side {
    /// It begins there.
    Begins,
    /// It ends there.
    Ends,
    /// Its middle is there.
    Middle,
}

impl Sheet<'_, '_> {
    fn pixels(&self, (x, y): (f64, f64)) -> (i32, i32) {
        ((x * self.unit).round() as i32, (y * self.unit).round() as i32)
    }

    /// A text whose middle line is at this height.
    fn text(&self, text: &str, place: (f64, f64), size: f64, colour: Colour, side: Side) -> Option<()> {
        let horizontal = match side {
            Side::Begins => HPos::Left,
            Side::Ends => HPos::Right,
            Side::Middle => HPos::Center,
        };
        let font = (self.style.family.as_str(), (size * self.unit).max(1.0)).into_font();
        let style = font.color(&colour.rgb()).pos(Pos::new(horizontal, VPos::Center));
        self.area.draw(&Text::new(text.to_owned(), self.pixels(place), style)).ok()
    }

    fn rectangle(&self, from: (f64, f64), to: (f64, f64), colour: Colour) -> Option<()> {
        let (from, to) = (self.pixels(from), self.pixels(to));
        if to.0 > from.0 && to.1 > from.1 {
            self.area.draw(&Rectangle::new([from, to], colour.rgb().filled())).ok()?;
        }
        Some(())
    }

    fn line(&self, points: &[(f64, f64)], width: f64, colour: Colour) -> Option<()> {
        let points: Vec<(i32, i32)> = points.iter().map(|point| self.pixels(*point)).collect();
        let style = colour.rgb().stroke_width((width * self.unit).round().max(1.0) as u32);
        self.area.draw(&PathElement::new(points, style)).ok()
    }

    fn dot(&self, place: (f64, f64), radius: f64, colour: Colour) -> Option<()> {
        let radius = (radius * self.unit).round().max(1.0) as i32;
        self.area.draw(&Circle::new(self.pixels(place), radius, colour.rgb().mix(0.75).filled())).ok()
    }
}

/// Text as XML holds it.
fn escaped(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            '<' => out.push_str("&lt;"),
            '>' => out.push_str("&gt;"),
            '&' => out.push_str("&amp;"),
            '"' => out.push_str("&quot;"),
            c => out.push(c),
        }
    }
    out
}

/// Draws on an empty sheet with a title. `drawn` tells, for the width and height in units, where the drawing begins and ends. Drawing into memory has
/// nothing that could fail but the numbers given: a figure of impossible numbers stays an empty sheet.
fn sheet(
    style: &Style,
    title: &str,
    subtitle: &str,
    drawn: impl FnOnce(f64, f64) -> (f64, f64),
    draw: impl FnOnce(&Sheet<'_, '_>) -> Option<()>,
) -> Figure {
    let (width, height) = (f64::from(style.size.0), f64::from(style.size.1));
    let unit = (width / DESIGN.0).min(height / DESIGN.1);
    let mut svg = String::new();
    let drawn = drawn(width / unit, height / unit);
    {
        let area = SVGBackend::with_string(&mut svg, style.size).into_drawing_area();
        let _ = area.fill(&style.palette.paper.rgb());
        let sheet = Sheet { area: &area, style, unit, width: width / unit, height: height / unit };
        // As much on the right as on the left.
        let room = sheet.width - 2.0 * MARGIN;
        let title = fitted(&visible(style.title.as_deref().unwrap_or(title)), room / BOLD, 30.0);
        let bold = (style.family.as_str(), 30.0 * unit, FontStyle::Bold).into_font();
        let bold = bold.color(&style.palette.ink.rgb()).pos(Pos::new(HPos::Left, VPos::Center));
        let _ = area.draw(&Text::new(title, sheet.pixels((MARGIN, 48.0)), bold));
        let subtitle = fitted(&visible(subtitle), room, 19.0);
        let _ = sheet.text(&subtitle, (MARGIN, 84.0), 19.0, style.palette.faint, Side::Begins);
        let _ = draw(&sheet);
        let _ = area.present();
    }
    let drawn = ((drawn.0 * unit).floor() as i32, (drawn.1 * unit).ceil() as i32);
    Figure { svg, size: style.size, drawn }
}

/// What colours and series stand for, in a line under the title.
fn legend(sheet: &Sheet<'_, '_>, names: &[(String, Colour)], height: f64) -> Option<()> {
    let texts: Vec<&str> = names.iter().map(|(name, _)| name.as_str()).collect();
    for ((x, name), (_, colour)) in legend_places(&texts, sheet.width).zip(names) {
        sheet.rectangle((x, height - 7.0), (x + LEGEND_SIGN, height + 7.0), *colour)?;
        sheet.text(&name, (x + 22.0, height), LEGEND_SIZE, sheet.style.palette.ink, Side::Begins)?;
    }
    Some(())
}

/// The side of the sign before a name of a legend, and the size of the name.
const LEGEND_SIGN: f64 = 14.0;
const LEGEND_SIZE: f64 = 17.0;

/// Where the names of a legend begin, with their signs, and as much of each as has room.
fn legend_places(names: &[&str], width: f64) -> impl Iterator<Item = (f64, String)> {
    let most = (width - 2.0 * MARGIN) / names.len().max(1) as f64 - 46.0;
    let shown: Vec<String> =
        names.iter().map(|name| fitted(&visible(name), most.min(240.0), LEGEND_SIZE)).collect();
    shown.into_iter().scan(MARGIN, |x, name| {
        let at = *x;
        *x += 46.0 + text_width(&name, LEGEND_SIZE);
        Some((at, name))
    })
}
