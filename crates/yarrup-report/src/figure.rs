//! Figures as SVG: what every step left, the commonest terms, the rank–frequency curve.

use plotters::coord::Shift;
use plotters::prelude::*;
use plotters::style::text_anchor::{HPos, Pos, VPos};

use crate::numbers::{grouped, percent};
use crate::terminal::{StepRow, visible, visible_name};

/// The size of every figure in pixels.
const SIZE: (u32, u32) = (1280, 800);
const FONT: &str = "Inter, sans-serif";

/// A drawn figure.
#[derive(Clone, Debug)]
pub struct Figure {
    /// The whole SVG document.
    pub svg: String,
    /// Where the drawing begins under the title, and where it ends, in pixels.
    drawn: (i32, i32),
}

impl Figure {
    /// The drawing without its title and without the empty room under it, for a page that has a heading of its own.
    pub(crate) fn untitled(&self) -> String {
        let (top, bottom) = self.drawn;
        let (width, height) = SIZE;
        let whole = format!("width=\"{width}\" height=\"{height}\" viewBox=\"0 0 {width} {height}\"");
        let cut = bottom - top;
        self.svg.replacen(
            &whole,
            &format!("width=\"{width}\" height=\"{cut}\" viewBox=\"0 {top} {width} {cut}\""),
            1,
        )
    }
}

/// The colours of figures and pages.
pub struct Theme;

impl Theme {
    /// Text.
    pub const INK: RGBColor = RGBColor(0x1d, 0x2b, 0x33);
    /// Text that stands back.
    pub const FAINT: RGBColor = RGBColor(0x5c, 0x6b, 0x73);
    /// Lines of a grid.
    pub const GRID: RGBColor = RGBColor(0xe3, 0xe8, 0xea);
    /// What is left.
    pub const KEPT: RGBColor = RGBColor(0x1f, 0x7a, 0x8c);
    /// What was dropped.
    pub const DROPPED: RGBColor = RGBColor(0xe2, 0xb4, 0x74);
}

type Area<'a> = DrawingArea<SVGBackend<'a>, Shift>;

fn text(size: i32, colour: RGBColor) -> TextStyle<'static> {
    (FONT, size).into_font().color(&colour)
}

fn at(style: &TextStyle<'static>, side: HPos) -> TextStyle<'static> {
    style.pos(Pos::new(side, VPos::Center))
}

/// Draws on an empty sheet with a title. Drawing into memory has nothing that could fail but the numbers given: a figure of
/// impossible numbers stays an empty sheet.
fn sheet(
    title: &str,
    subtitle: &str,
    drawn: (i32, i32),
    draw: impl FnOnce(&Area<'_>) -> Option<()>,
) -> Figure {
    let mut svg = String::new();
    {
        let area = SVGBackend::with_string(&mut svg, SIZE).into_drawing_area();
        let bold = (FONT, 30, FontStyle::Bold).into_font().color(&Theme::INK);
        let _ = area.fill(&WHITE);
        let _ = area.draw(&Text::new(visible(title), (48, 36), bold));
        let _ = area.draw(&Text::new(visible(subtitle), (48, 76), text(19, Theme::FAINT)));
        let _ = draw(&area);
        let _ = area.present();
    }
    Figure { svg, drawn }
}

fn rectangle(area: &Area<'_>, left: i32, top: i32, width: i32, height: i32, colour: RGBColor) -> Option<()> {
    if width > 0 {
        area.draw(&Rectangle::new([(left, top), (left + width, top + height)], colour.filled())).ok()?;
    }
    Some(())
}

/// Which count of a step a panel shows.
type Count = fn(&StepRow) -> Option<u64>;

/// What every step left and dropped, as bars: tokens on the left, distinct words on the right.
pub fn effect_figure(recipe: &str, steps: &[StepRow]) -> Figure {
    let rows: Vec<&StepRow> = steps.iter().filter(|step| step.tokens.is_some()).collect();
    let subtitle = format!("{recipe}: what each step left (dark) and dropped (light)");
    let names = 310;
    let (top, bottom) = (150, 760);
    let pitch = ((bottom - top) / rows.len().max(1) as i32).min(122);
    let height = (pitch * 6 / 10).min(56);
    let drawn = (top - 44, top + pitch * rows.len() as i32);
    sheet("The effect of each step", &subtitle, drawn, |area| {
        let panel = (SIZE.0 as i32 - names - 48) / 2;
        let bar_room = panel - 190;
        let panels: [(&str, Count); 2] =
            [("tokens", |step| step.tokens), ("distinct words", |step| step.types)];
        for (number, (name, count)) in panels.into_iter().enumerate() {
            let left = names + number as i32 * panel;
            let most = rows.iter().filter_map(|row| count(row)).max().unwrap_or(0).max(1);
            let length = |count: u64| (count as f64 / most as f64 * f64::from(bar_room)).round() as i32;
            area.draw(&Text::new(name.to_owned(), (left, top - 24), text(19, Theme::FAINT))).ok()?;
            let mut before = None;
            let mut whole = None;
            for (index, row) in rows.iter().enumerate() {
                let y = top + index as i32 * pitch;
                let now = count(row).unwrap_or(0);
                // The share is that of what the split made: what was found before text steps is another text.
                if row.step > 0 && whole.is_none() {
                    whole = Some(now);
                }
                let gone = match before {
                    Some(before) if row.dropped.is_some() => length(before) - length(now),
                    _ => 0,
                };
                rectangle(area, left, y, length(now).max(1), height, Theme::KEPT)?;
                rectangle(area, left + length(now), y, gone, height, Theme::DROPPED)?;
                let share = whole.map(|whole| format!(" · {}", percent(now, whole))).unwrap_or_default();
                let place = (left + length(now) + gone.max(0) + 8, y + height / 2);
                area.draw(&Text::new(
                    format!("{}{share}", grouped(now)),
                    place,
                    at(&text(17, Theme::INK), HPos::Left),
                ))
                .ok()?;
                before = Some(now);
            }
        }
        for (index, row) in rows.iter().enumerate() {
            let place = (names - 16, top + index as i32 * pitch + height / 2);
            let name = short(&format!("{} {}", row.step, visible(&row.name)), 34);
            area.draw(&Text::new(name, place, at(&text(18, Theme::INK), HPos::Right))).ok()?;
        }
        Some(())
    })
}

/// The commonest terms as bars.
pub fn terms_figure(recipe: &str, terms: &[(String, u64)]) -> Figure {
    let shown = &terms[..terms.len().min(30)];
    let subtitle = format!("{recipe}: the {} commonest terms, by number of tokens", shown.len());
    sheet("Top terms", &subtitle, (104, 800), |area| {
        let (left, top) = (250, 118);
        let pitch = (660 / shown.len().max(1) as i32).min(44);
        let height = (pitch * 7 / 10).max(1);
        let room = SIZE.0 as i32 - left - 140;
        let most = shown.iter().map(|(_, count)| *count).max().unwrap_or(0).max(1);
        let size = (pitch * 8 / 10).clamp(10, 19);
        for (index, (term, count)) in shown.iter().enumerate() {
            let y = top + index as i32 * pitch;
            let length = (*count as f64 / most as f64 * f64::from(room)).round() as i32;
            rectangle(area, left, y, length.max(1), height, Theme::KEPT)?;
            let middle = y + height / 2;
            let term = short(&visible_name(term), 24);
            area.draw(&Text::new(term, (left - 12, middle), at(&text(size, Theme::INK), HPos::Right)))
                .ok()?;
            let place = (left + length + 8, middle);
            area.draw(&Text::new(grouped(*count), place, at(&text(size, Theme::FAINT), HPos::Left))).ok()?;
        }
        Some(())
    })
}

/// The count of every term over its rank, both on logarithmic axes, with where the commonest terms cover shares of all tokens.
/// `counts` must fall; `covers` holds shares with the number of terms.
pub fn rank_frequency_figure(recipe: &str, counts: &[u64], covers: &[(f64, u64)]) -> Figure {
    let subtitle = format!(
        "{recipe}: {} terms, each a point; lines: share of all tokens covered",
        grouped(counts.len() as u64)
    );
    sheet("Rank and frequency", &subtitle, (100, 800), |area| {
        let (last, most) = (counts.len().max(2) as f64, counts.first().copied().unwrap_or(1).max(2) as f64);
        let inner = area.margin(110, 16, 24, 48);
        let mut chart = ChartBuilder::on(&inner)
            .x_label_area_size(64)
            .y_label_area_size(84)
            .build_cartesian_2d((1.0..last * 1.15).log_scale(), (0.8..most * 1.3).log_scale())
            .ok()?;
        chart
            .configure_mesh()
            .bold_line_style(Theme::GRID)
            .light_line_style(TRANSPARENT)
            .axis_style(Theme::FAINT)
            .label_style(text(16, Theme::INK))
            .x_desc("rank of the term")
            .y_desc("number of tokens")
            .axis_desc_style(text(18, Theme::FAINT))
            .x_label_formatter(&|n| grouped(n.round() as u64))
            .y_label_formatter(&|n| {
                if *n < 1.0 { String::new() } else { grouped(n.round() as u64) }
            })
            .draw()
            .ok()?;
        for (number, (share, terms)) in covers.iter().filter(|(_, terms)| *terms > 0).enumerate() {
            let x = *terms as f64;
            chart
                .draw_series(LineSeries::new([(x, 0.8), (x, most * 1.3)], Theme::DROPPED.stroke_width(2)))
                .ok()?;
            let label = format!("{:.0} % by {}", share * 100.0, grouped(*terms));
            // Beside its line, on the side where there is room, each lower than the one before.
            let (line, top) = chart.backend_coord(&(x, most * 1.3));
            let at_end = line > SIZE.0 as i32 - 200;
            let (side, gap) = if at_end { (HPos::Right, -8) } else { (HPos::Left, 8) };
            let place = (line + gap, top + 16 + number as i32 * 26);
            // The label may lie upon the line of another share: paper under it keeps it readable.
            let width = label.chars().count() as i32 * 17 * 12 / 25;
            let left = if at_end { place.0 - width } else { place.0 };
            rectangle(area, left, place.1 - 11, width, 22, WHITE)?;
            area.draw(&Text::new(label, place, at(&text(17, Theme::INK), side))).ok()?;
        }
        let mut previous = (f64::MIN, f64::MIN);
        let points = counts.iter().enumerate().filter_map(|(index, count)| {
            let (x, y) = ((index + 1) as f64, *count as f64);
            // Points that would fall upon the one before are left out: the file stays small.
            let place = (x.ln() / last.ln() * 1100.0, y.ln() / most.ln() * 600.0);
            let apart = (place.0 - previous.0).abs().max((place.1 - previous.1).abs()) > 1.2;
            apart.then(|| {
                previous = place;
                Circle::new((x, y), 4, Theme::KEPT.mix(0.75).filled())
            })
        });
        chart.draw_series(points).ok()?;
        Some(())
    })
}

/// The start of a text of at most this many characters, with an ellipsis if that is not all.
fn short(text: &str, most: usize) -> String {
    if text.chars().count() <= most {
        return text.to_owned();
    }
    text.chars().take(most - 1).chain(['…']).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::png;

    #[test]
    fn figures_hold_their_numbers_and_no_markup_of_documents() {
        let steps = [
            StepRow { name: "as found".into(), tokens: Some(1500), types: Some(300), ..StepRow::default() },
            StepRow {
                step: 1,
                name: "drop <b>".into(),
                tokens: Some(1234),
                dropped: Some(266),
                types: Some(200),
                ..StepRow::default()
            },
        ];
        let figure = effect_figure("wardens", &steps);
        assert!(figure.svg.contains("1,234") && figure.svg.contains("drop &lt;b&gt;"), "{}", figure.svg);
        let figure = terms_figure("wardens", &[("<script>".into(), 7), ("tern".into(), 3)]);
        assert!(!figure.svg.contains("<script>") && figure.svg.contains("tern"));
    }

    #[test]
    fn a_figure_of_nothing_is_a_sheet_with_a_title() {
        for figure in [effect_figure("x", &[]), terms_figure("x", &[]), rank_frequency_figure("x", &[], &[])]
        {
            assert!(figure.svg.starts_with("<svg"));
            assert!(png(&figure).is_ok_and(|bytes| bytes.starts_with(b"\x89PNG")));
        }
    }

    #[test]
    fn the_curve_has_as_many_points_as_can_be_told_apart() {
        let counts: Vec<u64> = (1..=20_000).map(|rank| 1 + 50_000 / rank).collect();
        let figure = rank_frequency_figure("x", &counts, &[(0.5, 40)]);
        let points = figure.svg.matches("<circle").count();
        assert!((200..3000).contains(&points), "{points}");
        assert!(figure.svg.contains("50 % by 40"));
    }
}
