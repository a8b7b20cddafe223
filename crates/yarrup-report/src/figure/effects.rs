//! What every step left and dropped.

use super::room::{fitted, text_width};
use super::{Figure, Side, Style, sheet};
use crate::numbers::{counted, grouped, percent};
use crate::terminal::{StepRow, visible};

/// Which count of a step a panel shows.
type Count = fn(&StepRow) -> Option<u64>;

/// What every step left and dropped, as bars: tokens on the left, distinct words on the right; of text steps the places that they changed.
pub fn effect_figure(recipe: &str, steps: &[StepRow], style: &Style) -> Figure {
    let subtitle = format!("{recipe}: what each step left (dark) and dropped (light)");
    let (names, top) = (310.0, 150.0);
    let pitch = |height: f64| ((height - 40.0 - top) / steps.len().max(1) as f64).min(122.0);
    let drawn = |_, height: f64| (top - 44.0, top + pitch(height) * steps.len() as f64);
    sheet(style, "The effect of each step", &subtitle, drawn, |sheet| {
        let palette = &style.palette;
        let pitch = pitch(sheet.height);
        let height = (pitch * 0.6).min(56.0);
        let size = (pitch * 0.6).clamp(8.0, 18.0);
        let panel = (sheet.width - names - 48.0) / 2.0;
        let panels: [(&str, Count); 2] =
            [("tokens", |step| step.tokens), ("distinct words", |step| step.types)];
        for (number, (name, count)) in panels.into_iter().enumerate() {
            let left = names + number as f64 * panel;
            let most = steps.iter().filter_map(count).max().unwrap_or(0).max(1);
            // The share is that of what the split made: what was found before text steps is another text.
            let whole = steps.iter().filter(|row| row.step > 0).find_map(count);
            let told: Vec<String> = steps
                .iter()
                .map(|row| match (count(row), whole.filter(|_| row.step > 0)) {
                    (None, _) => String::new(),
                    (Some(now), None) => grouped(now),
                    (Some(now), Some(whole)) => format!("{} · {}", grouped(now), percent(now, whole)),
                })
                .collect();
            let widest = told.iter().map(|told| text_width(told, size - 1.0)).fold(0.0, f64::max);
            let bar_room = panel - widest.max(166.0) - 24.0;
            let length = |count: u64| count as f64 / most as f64 * bar_room;
            sheet.text(name, (left, top - 18.0), 19.0, palette.faint, Side::Begins)?;
            let mut before = None;
            for (index, row) in steps.iter().enumerate() {
                let y = top + index as f64 * pitch;
                let middle = y + height / 2.0;
                let Some(now) = count(row) else {
                    // A text step rewrites what comes before the split: it has no tokens to count.
                    if let (0, Some(matches)) = (number, row.matches) {
                        let documents = counted(row.documents.unwrap_or(0), "document");
                        let told = format!("{} in {documents}", counted(matches, "place"));
                        let told = fitted(&told, panel - 24.0, size - 1.0);
                        sheet.text(&told, (left, middle), size - 1.0, palette.faint, Side::Begins)?;
                    }
                    continue;
                };
                let gone = match before {
                    Some(before) if row.dropped.is_some() => length(before) - length(now),
                    _ => 0.0,
                };
                let end = left + length(now).max(1.0);
                sheet.rectangle((left, y), (end, y + height), palette.kept())?;
                sheet.rectangle((end, y), (end + gone, y + height), palette.dropped())?;
                let place = (end + gone.max(0.0) + 8.0, middle);
                sheet.text(&told[index], place, size - 1.0, palette.ink, Side::Begins)?;
                before = Some(now);
            }
        }
        for (index, row) in steps.iter().enumerate() {
            let place = (names - 16.0, top + index as f64 * pitch + height / 2.0);
            let name = fitted(&format!("{} {}", row.step, visible(&row.name)), names - 40.0, size);
            sheet.text(&name, place, size, palette.ink, Side::Ends)?;
        }
        Some(())
    })
}
