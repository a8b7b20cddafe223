//! Counts as bars.

use super::room::{fitted, text_width};
use super::{Colour, Figure, Side, Style, legend, sheet};
use crate::numbers::{grouped, percent};
use crate::terminal::visible_name;

/// A bar: its name, and its counts, one for each series.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct BarRow {
    /// What it is the bar of.
    pub name: String,
    /// The counts, one behind the other.
    pub counts: Vec<u64>,
}

/// The widest that a name is shown, in units.
const WIDEST_NAME: f64 = 288.0;

/// Counts as bars, one under the other, each in pieces where there are several series. `series` names these.
pub fn bars_figure(
    (title, subtitle): (&str, &str),
    rows: &[BarRow],
    series: &[String],
    style: &Style,
) -> Figure {
    let is_parted = series.len() > 1;
    let top = if is_parted { 146.0 } else { 118.0 };
    let drawn = move |_, height: f64| (104.0, height);
    sheet(style, title, subtitle, drawn, |sheet| {
        let palette = &style.palette;
        let names: Vec<(String, Colour)> =
            series.iter().enumerate().map(|(at, name)| (name.clone(), palette.of_series(at))).collect();
        if is_parted {
            legend(sheet, &names, 120.0)?;
        }
        let pitch = ((sheet.height - 22.0 - top) / rows.len().max(1) as f64).min(44.0);
        let size = (pitch * 0.8).clamp(5.0, 19.0);
        let height = (pitch * 0.7).max(1.0);
        let widest = |texts: &[String]| texts.iter().map(|text| text_width(text, size)).fold(0.0, f64::max);
        let shown: Vec<String> =
            rows.iter().map(|row| fitted(&visible_name(&row.name), WIDEST_NAME, size)).collect();
        let left = (widest(&shown) + 72.0).max(160.0);
        let sum = |row: &BarRow| row.counts.iter().sum::<u64>();
        let most = rows.iter().map(sum).max().unwrap_or(0).max(1);
        let all: u64 = rows.iter().map(sum).sum();
        // Where all there is is shown, so is its share.
        let with_shares = rows.len() <= 20 && is_whole(title);
        let told = |row: &BarRow| {
            let share = if with_shares { format!(" · {}", percent(sum(row), all)) } else { String::new() };
            format!("{}{share}", grouped(sum(row)))
        };
        let told: Vec<String> = rows.iter().map(told).collect();
        let room = sheet.width - left - widest(&told).max(126.0) - 24.0;
        for (index, (row, name)) in rows.iter().zip(&shown).enumerate() {
            let y = top + index as f64 * pitch;
            let middle = y + height / 2.0;
            let mut x = left;
            for (at, count) in row.counts.iter().enumerate() {
                let end = x + *count as f64 / most as f64 * room;
                if *count > 0 {
                    sheet.rectangle((x, y), (end.max(x + 1.0), y + height), palette.of_series(at))?;
                }
                x = end;
            }
            sheet.text(name, (left - 12.0, middle), size, palette.ink, Side::Ends)?;
            sheet.text(&told[index], (x + 8.0, middle), size, palette.faint, Side::Begins)?;
        }
        Some(())
    })
}

/// Whether the bars of a figure of this title are all that there is, so that shares can be told.
fn is_whole(title: &str) -> bool {
    !title.starts_with("Top")
}
