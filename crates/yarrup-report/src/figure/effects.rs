//! What every step left and dropped.

use super::{Figure, Side, Style, sheet};
use crate::numbers::{counted, grouped, percent};
use crate::terminal::{StepRow, cut, visible};

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
        let bar_room = panel - 190.0;
        let panels: [(&str, Count); 2] =
            [("tokens", |step| step.tokens), ("distinct words", |step| step.types)];
        for (number, (name, count)) in panels.into_iter().enumerate() {
            let left = names + number as f64 * panel;
            let most = steps.iter().filter_map(count).max().unwrap_or(0).max(1);
            let length = |count: u64| count as f64 / most as f64 * bar_room;
            sheet.text(name, (left, top - 18.0), 19.0, palette.faint, Side::Begins)?;
            let (mut before, mut whole) = (None, None);
            for (index, row) in steps.iter().enumerate() {
                let y = top + index as f64 * pitch;
                let middle = y + height / 2.0;
                let Some(now) = count(row) else {
                    // A text step rewrites what comes before the split: it has no tokens to count.
                    if let (0, Some(matches)) = (number, row.matches) {
                        let documents = counted(row.documents.unwrap_or(0), "document");
                        let told = format!("{} in {documents}", counted(matches, "place"));
                        sheet.text(&told, (left, middle), size - 1.0, palette.faint, Side::Begins)?;
                    }
                    continue;
                };
                // The share is that of what the split made: what was found before text steps is another text.
                if row.step > 0 && whole.is_none() {
                    whole = Some(now);
                }
                let gone = match before {
                    Some(before) if row.dropped.is_some() => length(before) - length(now),
                    _ => 0.0,
                };
                let end = left + length(now).max(1.0);
                sheet.rectangle((left, y), (end, y + height), palette.kept())?;
                sheet.rectangle((end, y), (end + gone, y + height), palette.dropped())?;
                let share = whole.map(|whole| format!(" · {}", percent(now, whole))).unwrap_or_default();
                let place = (end + gone.max(0.0) + 8.0, middle);
                let told = format!("{}{share}", grouped(now));
                sheet.text(&told, place, size - 1.0, palette.ink, Side::Begins)?;
                before = Some(now);
            }
        }
        for (index, row) in steps.iter().enumerate() {
            let place = (names - 16.0, top + index as f64 * pitch + height / 2.0);
            let name = cut(&format!("{} {}", row.step, visible(&row.name)), 34);
            sheet.text(&name, place, size, palette.ink, Side::Ends)?;
        }
        Some(())
    })
}
