//! How long documents are, before and after.

use std::collections::BTreeMap;

use super::plot::Scale;
use super::{Figure, Side, Style, legend, sheet};
use crate::numbers::grouped;

/// How many documents have so many tokens, as found and in the end, in ranges that double. `lengths` has for each number of tokens the documents before
/// and after.
pub fn lengths_figure(
    recipe: &str,
    lengths: &BTreeMap<u64, (u64, u64)>,
    scale: Scale,
    style: &Style,
) -> Figure {
    let mut ranges: BTreeMap<u32, (u64, u64)> = BTreeMap::new();
    for (length, (before, after)) in lengths {
        // 0; 1; 2–3; 4–7; and so on.
        let range = ranges.entry(u64::BITS - length.leading_zeros()).or_default();
        range.0 += before;
        range.1 += after;
    }
    let last = ranges.keys().next_back().copied().unwrap_or(0);
    let rows: Vec<(u32, (u64, u64))> =
        (0..=last).map(|range| (range, ranges.get(&range).copied().unwrap_or_default())).collect();
    let subtitle = format!("{recipe}: documents by their number of tokens");
    sheet(
        style,
        "The lengths of documents",
        &subtitle,
        |_, height| (98.0, height),
        |sheet| {
            let palette = &style.palette;
            let names =
                [("as found".to_owned(), palette.dropped()), ("in the end".to_owned(), palette.kept())];
            legend(sheet, &names, 122.0)?;
            let (left, top, right, bottom) = (72.0, 176.0, sheet.width - 48.0, sheet.height - 92.0);
            let most = rows.iter().map(|(_, (before, after))| *before.max(after)).max().unwrap_or(0).max(1);
            let height = |count: u64| match scale {
                Scale::Linear => count as f64 / most as f64 * (bottom - top),
                Scale::Log => (count as f64).ln_1p() / (most as f64).ln_1p() * (bottom - top),
            };
            let pitch = (right - left) / rows.len().max(1) as f64;
            let bar = pitch * 0.4;
            let size = (pitch * 0.22).clamp(9.0, 15.0);
            for (number, (range, (before, after))) in rows.iter().enumerate() {
                let x = left + number as f64 * pitch + pitch * 0.1;
                for (at, count, colour) in [(0.0, *before, palette.dropped()), (bar, *after, palette.kept())]
                {
                    if count > 0 {
                        let y = bottom - height(count).max(1.0);
                        sheet.rectangle((x + at, y), (x + at + bar - 1.0, bottom), colour)?;
                        let place = (x + at + bar / 2.0, y - 11.0);
                        sheet.text(&grouped(count), place, size, palette.ink, Side::Middle)?;
                    }
                }
                let (from, to) = match range {
                    0 => (0, 0),
                    range => (1u64 << (range - 1), (1u64 << (range - 1)) * 2 - 1),
                };
                let told =
                    if from == to { grouped(from) } else { format!("{}–{}", grouped(from), grouped(to)) };
                sheet.text(&told, (x + bar, bottom + 20.0), size, palette.ink, Side::Middle)?;
            }
            sheet.line(&[(left, bottom), (right, bottom)], 1.0, palette.faint)?;
            sheet.text("tokens", ((left + right) / 2.0, bottom + 56.0), 18.0, palette.faint, Side::Middle)?;
            Some(())
        },
    )
}
