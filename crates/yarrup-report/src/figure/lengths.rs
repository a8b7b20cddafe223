//! How long documents are, before and after.

use std::collections::BTreeMap;

use serde::Serialize;

use super::plot::Scale;
use super::room::{Taken, text_width};
use super::{Figure, Side, Style, legend, sheet};
use crate::numbers::grouped;

/// Documents by their number of tokens, in a range that ends at about twice its beginning.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub(crate) struct LengthRange {
    /// The fewest tokens.
    pub(crate) from: u64,
    /// The most.
    pub(crate) to: u64,
    /// Documents with so many as found.
    pub(crate) before: u64,
    /// Documents with so many in the end.
    pub(crate) after: u64,
}

/// Documents in ranges of length that double: 0; 1; 2–3; 4–7; and so on. `lengths` has for each number of tokens the documents before and after.
pub(crate) fn length_ranges(lengths: &BTreeMap<u64, (u64, u64)>) -> Vec<LengthRange> {
    let range_of = |length: u64| u64::BITS - length.leading_zeros();
    let last = lengths.keys().next_back().map_or(0, |length| range_of(*length));
    let range = |range: u32| {
        let from = if range == 0 { 0 } else { 1 << (range - 1) };
        LengthRange { from, to: (from * 2).saturating_sub(1), before: 0, after: 0 }
    };
    let mut ranges: Vec<LengthRange> = (0..=last).map(range).collect();
    for (length, (before, after)) in lengths {
        let range = &mut ranges[range_of(*length) as usize];
        range.before += before;
        range.after += after;
    }
    ranges
}

/// How many documents have so many tokens, as found and in the end, in ranges that double. `lengths` has for each number of tokens the documents before
/// and after.
pub fn lengths_figure(
    recipe: &str,
    lengths: &BTreeMap<u64, (u64, u64)>,
    scale: Scale,
    style: &Style,
) -> Figure {
    let rows = length_ranges(lengths);
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
            let most = rows.iter().map(|row| row.before.max(row.after)).max().unwrap_or(0).max(1);
            let height = |count: u64| match scale {
                Scale::Linear => count as f64 / most as f64 * (bottom - top),
                Scale::Log => (count as f64).ln_1p() / (most as f64).ln_1p() * (bottom - top),
            };
            let pitch = (right - left) / rows.len().max(1) as f64;
            let bar = pitch * 0.4;
            let size = (pitch * 0.22).clamp(9.0, 15.0);
            let mut columns = Vec::new();
            for (number, LengthRange { before, after, .. }) in rows.iter().enumerate() {
                let x = left + number as f64 * pitch + pitch * 0.1;
                for (at, count, colour) in [(0.0, *before, palette.dropped()), (bar, *after, palette.kept())]
                {
                    if count > 0 {
                        let y = bottom - height(count).max(1.0);
                        sheet.rectangle((x + at, y), (x + at + bar - 1.0, bottom), colour)?;
                        columns.push((count, (x + at + bar / 2.0, y - 11.0)));
                    }
                }
            }
            // Where bars are too narrow for all numbers, the largest are told.
            columns.sort_by_key(|(count, _)| std::cmp::Reverse(*count));
            let mut taken = Taken::default();
            let mut label = |told: &str, (x, y): (f64, f64)| {
                let half = text_width(told, size) / 2.0;
                let x = x.clamp(half + 2.0, (sheet.width - half - 2.0).max(half + 2.0));
                let own = (x - half - 1.5, y - size * 0.55, x + half + 1.5, y + size * 0.55);
                match taken.take(own) {
                    true => sheet.text(told, (x, y), size, palette.ink, Side::Middle),
                    false => Some(()),
                }
            };
            for (count, place) in columns {
                label(&grouped(count), place)?;
            }
            let range = |row: &LengthRange| match row.from == row.to {
                true => grouped(row.from),
                false => format!("{}–{}", grouped(row.from), grouped(row.to)),
            };
            // Where there is no room for both ends of a range, its beginning tells it.
            let has_room = rows.iter().all(|row| text_width(&range(row), size) + 8.0 <= pitch);
            for (number, row) in rows.iter().enumerate() {
                let x = left + number as f64 * pitch + pitch * 0.1;
                let told = if has_room { range(row) } else { grouped(row.from) };
                label(&told, (x + bar, bottom + 20.0))?;
            }
            sheet.line(&[(left, bottom), (right, bottom)], 1.0, palette.faint)?;
            let told = if has_room { "tokens" } else { "tokens, from" };
            sheet.text(told, ((left + right) / 2.0, bottom + 56.0), 18.0, palette.faint, Side::Middle)?;
            Some(())
        },
    )
}
