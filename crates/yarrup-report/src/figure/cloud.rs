//! A picture of words: the area of each is as large as its count.

use super::fonts::Inked;
use super::room::{BOLD, fitted};
use super::{Colour, DESIGN, Figure, Fonts, LEGEND_SIGN, LEGEND_SIZE, MARGIN, Style, escaped, legend_places};
use crate::terminal::{visible, visible_name};

/// A word of the picture.
#[derive(Clone, Debug, PartialEq)]
pub struct CloudWord {
    /// The word.
    pub text: String,
    /// Its count or weight, above 0.
    pub weight: f64,
    /// The number of the series whose colour it has; none for colours in turn.
    pub series: Option<usize>,
}

/// The shape that the words fill.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum CloudShape {
    /// As wide and high as the sheet.
    Rectangle,
    /// As wide and high as the sheet, without its corners.
    Ellipse,
    /// As wide as it is high.
    Circle,
}

/// A word with its place.
#[derive(Clone, Copy, Debug)]
struct Placed {
    /// The number of the word.
    word: usize,
    /// The size of its letters.
    size: f64,
    /// The corners of its ink: left, top, right, bottom.
    ink: (f64, f64, f64, f64),
    /// Where its text begins.
    origin: (f64, f64),
}

/// How much room stands between words, of the size of the smaller.
const GAP: f64 = 0.14;
/// How far the words shrink when they do not fit, at most and at least.
const SHRINK: (f64, f64) = (0.85, 0.95);
/// How often they may shrink.
const ROUNDS: usize = 40;
/// How many directions there are.
const TURN: usize = 2048;

/// Words whose areas are as their weights, none upon another, the heaviest in the middle. The same words give the same picture. `series` names what the
/// colours stand for, where they stand for something.
pub fn cloud_figure(
    (title, subtitle): (&str, &str),
    words: &[CloudWord],
    series: &[String],
    shape: CloudShape,
    (fonts, style): (&Fonts, &Style),
) -> Figure {
    let (width, height) = (f64::from(style.size.0), f64::from(style.size.1));
    let unit = (width / DESIGN.0).min(height / DESIGN.1);
    let top = if series.is_empty() { 112.0 } else { 146.0 } * unit;
    let room = (24.0 * unit, top, width - 24.0 * unit, height - 20.0 * unit);
    let shown: Vec<String> = words.iter().map(|word| visible_name(&word.text)).collect();
    let texts: Vec<&str> = shown.iter().map(String::as_str).collect();
    let boxes = fonts.inked(&texts);
    for (text, _) in texts.iter().zip(&boxes).filter(|(_, ink)| ink.is_none()) {
        fonts.note_missing(text);
    }
    let placed = placed(words, &boxes, room, shape);
    let palette = &style.palette;
    let mut svg = format!(
        "<svg width=\"{0}\" height=\"{1}\" viewBox=\"0 0 {0} {1}\" xmlns=\"http://www.w3.org/2000/svg\">\n<rect x=\"0\" y=\"0\" width=\"{0}\" height=\"{1}\" fill=\"{2}\" stroke=\"none\"/>\n",
        style.size.0,
        style.size.1,
        palette.paper.svg()
    );
    let mut text = |text: &str, (x, y): (f64, f64), size: f64, weight: &str, colour: Colour| {
        svg.push_str(&format!(
            "<text x=\"{x:.1}\" y=\"{y:.1}\" font-family=\"{}\" font-size=\"{size:.2}\" font-weight=\"{weight}\" fill=\"{}\" xml:space=\"preserve\">{}</text>\n",
            style.family,
            colour.svg(),
            escaped(text)
        ));
    };
    let title = style.title.as_deref().unwrap_or(title);
    let room_of_titles = width / unit - 2.0 * MARGIN;
    let title = fitted(&visible(title), room_of_titles / BOLD, 30.0);
    let subtitle = fitted(&visible(subtitle), room_of_titles, 19.0);
    text(&title, (MARGIN * unit, 58.0 * unit), 30.0 * unit, "bold", palette.ink);
    text(&subtitle, (MARGIN * unit, 90.0 * unit), 19.0 * unit, "normal", palette.faint);
    let mut signs = String::new();
    let names: Vec<&str> = series.iter().map(String::as_str).collect();
    for (number, (x, name)) in legend_places(&names, width / unit).enumerate() {
        text(&name, ((x + 22.0) * unit, 126.0 * unit), LEGEND_SIZE * unit, "normal", palette.ink);
        signs.push_str(&format!(
            "<rect x=\"{:.1}\" y=\"{:.1}\" width=\"{2:.1}\" height=\"{2:.1}\" fill=\"{3}\" stroke=\"none\"/>\n",
            x * unit,
            113.0 * unit,
            LEGEND_SIGN * unit,
            palette.of_series(number).svg()
        ));
    }
    for (turn, word) in placed.iter().enumerate() {
        let colour = palette.of_series(words[word.word].series.unwrap_or(turn));
        // Drawn with another font, a word still takes no more room than it has.
        let advance = boxes[word.word].map_or(0.0, |inked| inked.advance * word.size / 100.0);
        let weight = format!("600\" textLength=\"{advance:.1}\" lengthAdjust=\"spacingAndGlyphs");
        text(texts[word.word], word.origin, word.size, &weight, colour);
    }
    svg.push_str(&signs);
    svg.push_str("</svg>\n");
    Figure { svg, size: style.size, drawn: (top as i32, style.size.1 as i32) }
}

type Box4 = (f64, f64, f64, f64);

/// Places for the words, which shrink together until all find one.
fn placed(words: &[CloudWord], boxes: &[Option<Inked>], room: Box4, shape: CloudShape) -> Vec<Placed> {
    let mut order: Vec<usize> =
        (0..words.len()).filter(|word| boxes[*word].is_some() && words[*word].weight > 0.0).collect();
    order.sort_by(|a, b| words[*b].weight.total_cmp(&words[*a].weight).then(a.cmp(b)));
    let area = |ink: Box4| (ink.2 - ink.0) * (ink.3 - ink.1);
    // The size at which the ink's area is as large as the weight.
    let sizes: Vec<f64> = order
        .iter()
        .map(|word| boxes[*word].map_or(0.0, |inked| (words[*word].weight / area(inked.ink).max(1.0)).sqrt()))
        .collect();
    let whole: f64 = order.iter().map(|word| words[*word].weight).sum();
    let sheet = (room.2 - room.0) * (room.3 - room.1);
    // From a scale at which the words would fill nearly all of the room.
    let mut scale = (sheet * 0.7 / whole.max(f64::MIN_POSITIVE)).sqrt();
    for _ in 0..ROUNDS {
        match try_place(&order, &sizes, boxes, scale, room, shape) {
            Ok(all) => return all,
            // As much smaller as what found a place is smaller than all of it.
            Err(share) => scale *= share.sqrt().clamp(SHRINK.0, SHRINK.1),
        }
    }
    Vec::new()
}

/// Which words stand near a place: those in the same cells of a grid.
struct Near {
    corner: (f64, f64),
    columns: usize,
    /// Row by row: the words that reach into the cell.
    cells: Vec<Vec<usize>>,
}

impl Near {
    /// The side of a cell.
    const CELL: f64 = 24.0;

    fn new(room: Box4) -> Near {
        let cells = |length: f64| (length.max(0.0) / Near::CELL) as usize + 1;
        let (columns, rows) = (cells(room.2 - room.0), cells(room.3 - room.1));
        Near { corner: (room.0, room.1), columns, cells: vec![Vec::new(); columns * rows] }
    }

    /// The cells that a place reaches into, if it is made wider by so much on every side.
    fn reach(&self, place: Box4, wider: f64) -> impl Iterator<Item = usize> + use<> {
        let (columns, rows) = (self.columns, self.cells.len() / self.columns);
        let cell = |at: f64, most: usize| ((at / Near::CELL).max(0.0) as usize).min(most - 1);
        let across =
            cell(place.0 - wider - self.corner.0, columns)..=cell(place.2 + wider - self.corner.0, columns);
        let down = cell(place.1 - wider - self.corner.1, rows)..=cell(place.3 + wider - self.corner.1, rows);
        down.flat_map(move |row| across.clone().map(move |column| row * columns + column))
    }

    fn around(&self, place: Box4, wider: f64) -> impl Iterator<Item = usize> + '_ {
        self.reach(place, wider).flat_map(|cell| self.cells[cell].iter().copied())
    }

    fn add(&mut self, word: usize, place: Box4) {
        for cell in self.reach(place, 0.0) {
            self.cells[cell].push(word);
        }
    }
}

/// Places for all words at this scale, or how much of their area found one.
fn try_place(
    order: &[usize],
    sizes: &[f64],
    boxes: &[Option<Inked>],
    scale: f64,
    room: Box4,
    shape: CloudShape,
) -> Result<Vec<Placed>, f64> {
    let middle = ((room.0 + room.2) / 2.0, (room.1 + room.3) / 2.0);
    let (half_width, half_height) = ((room.2 - room.0) / 2.0, (room.3 - room.1) / 2.0);
    let (across, down) = match shape {
        CloudShape::Circle => (half_width.min(half_height), half_width.min(half_height)),
        _ => (half_width, half_height),
    };
    let holds = |ink: Box4| match shape {
        CloudShape::Rectangle => ink.0 >= room.0 && ink.1 >= room.1 && ink.2 <= room.2 && ink.3 <= room.3,
        CloudShape::Ellipse | CloudShape::Circle => {
            [(ink.0, ink.1), (ink.2, ink.1), (ink.0, ink.3), (ink.2, ink.3)]
                .into_iter()
                .all(|(x, y)| ((x - middle.0) / across).powi(2) + ((y - middle.1) / down).powi(2) <= 1.0)
        }
    };
    let (wide, high) = (across / across.max(down), down / across.max(down));
    // Asked for a million times.
    let turn: Vec<(f64, f64)> = (0..TURN)
        .map(|part| (part as f64 / TURN as f64 * std::f64::consts::TAU).sin_cos())
        .map(|(sine, cosine)| (cosine, sine))
        .collect();
    let whole: f64 = order
        .iter()
        .zip(sizes)
        .filter_map(|(word, size)| boxes[*word].map(|inked| (inked.ink, size * scale)))
        .map(|(ink, by)| (ink.2 - ink.0) * (ink.3 - ink.1) * by * by)
        .sum();
    let by_turn = TURN as f64 / std::f64::consts::TAU;
    let mut all: Vec<Placed> = Vec::with_capacity(order.len());
    let mut near = Near::new(room);
    for (word, size) in order.iter().zip(sizes) {
        let Some(Inked { ink, .. }) = boxes[*word] else { continue };
        // Measured at a size of 100.
        let by = size * scale;
        let (width, height) = ((ink.2 - ink.0) * by, (ink.3 - ink.1) * by);
        let letters = by * 100.0;
        let gap = letters * GAP;
        // Outward in a spiral as flat as the shape, in steps that grow with the word.
        let step = (height * 0.4).max(1.0);
        let (mut angle, mut in_the_way) = (0.0f64, 0);
        let found = loop {
            let reach = step * angle / std::f64::consts::TAU;
            if reach > across.max(down) {
                let area = |ink: Box4| (ink.2 - ink.0) * (ink.3 - ink.1);
                let placed: f64 = all.iter().map(|placed| area(placed.ink)).sum();
                return Err(placed / whole);
            }
            let direction = turn[(angle * by_turn) as usize % TURN];
            let (x, y) = (middle.0 + reach * direction.0 * wide, middle.1 + reach * direction.1 * high);
            let place = (x - width / 2.0, y - height / 2.0, x + width / 2.0, y + height / 2.0);
            // How far left, up, right or down the word must go to be clear of another, which is in the way if it must in each direction.
            let beyond = |other: &Placed| {
                let apart = gap.min(other.size * GAP).max(1.0);
                [
                    place.2 + apart - other.ink.0,
                    place.3 + apart - other.ink.1,
                    other.ink.2 + apart - place.0,
                    other.ink.3 + apart - place.1,
                ]
            };
            let is_in_the_way = |other: usize| beyond(&all[other]).into_iter().all(|side| side > 0.0);
            let mut move_on = step;
            if holds(place) {
                // The word in the way one step before is most likely in the way again.
                let known = (in_the_way < all.len() && is_in_the_way(in_the_way)).then_some(in_the_way);
                match known.or_else(|| near.around(place, gap.max(1.0)).find(|other| is_in_the_way(*other))) {
                    Some(other) => {
                        in_the_way = other;
                        // Straight on along the spiral, it is in the way until here.
                        let [left, up, right, down] = beyond(&all[other]);
                        let (right_on, down_on) = (-direction.1 * wide, direction.0 * high);
                        let past = |ahead: f64, behind: f64, speed: f64| {
                            (if speed > 0.0 { ahead } else { behind }) / speed.abs().max(1e-6)
                        };
                        move_on = step.max(past(right, left, right_on).min(past(down, up, down_on)));
                    }
                    None => break place,
                }
            }
            // Steps of about the same length all along the spiral.
            angle += (move_on / reach.max(step)).min(0.8);
        };
        let origin = (found.0 - ink.0 * by, found.1 - ink.1 * by);
        near.add(all.len(), found);
        all.push(Placed { word: *word, size: letters, ink: found, origin });
    }
    Ok(all)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn words(count: usize) -> Vec<CloudWord> {
        (1..=count)
            .map(|rank| CloudWord { text: format!("word{rank}"), weight: 1000.0 / rank as f64, series: None })
            .collect()
    }

    #[test]
    fn words_lie_apart_within_their_shape_and_have_the_area_of_their_weight() {
        let (words, fonts) = (words(80), Fonts::default());
        let texts: Vec<&str> = words.iter().map(|word| word.text.as_str()).collect();
        let boxes = fonts.inked(&texts);
        let room = (0.0, 0.0, 1200.0, 700.0);
        for shape in [CloudShape::Rectangle, CloudShape::Ellipse, CloudShape::Circle] {
            let all = placed(&words, &boxes, room, shape);
            assert_eq!(all.len(), 80, "{shape:?}");
            let area = |at: usize| (all[at].ink.2 - all[at].ink.0) * (all[at].ink.3 - all[at].ink.1);
            for (at, one) in all.iter().enumerate() {
                assert!(
                    (area(at) / area(0) - words[one.word].weight / words[all[0].word].weight).abs() < 1e-6
                );
                assert!(one.ink.0 >= 0.0 && one.ink.1 >= 0.0 && one.ink.2 <= 1200.0 && one.ink.3 <= 700.0);
                for other in &all[at + 1..] {
                    let apart = one.ink.2 <= other.ink.0
                        || other.ink.2 <= one.ink.0
                        || one.ink.3 <= other.ink.1
                        || other.ink.3 <= one.ink.1;
                    assert!(apart, "{one:?} {other:?}");
                }
            }
        }
    }

    #[test]
    fn the_same_words_give_the_same_picture() {
        let (fonts, style) = (Fonts::default(), Style::default());
        let draw = || cloud_figure(("x", "y"), &words(30), &[], CloudShape::Ellipse, (&fonts, &style)).svg;
        assert_eq!(draw(), draw());
        let hostile = [CloudWord { text: "<script>".into(), weight: 1.0, series: None }];
        let svg = cloud_figure(("x", "y"), &hostile, &[], CloudShape::Rectangle, (&fonts, &style)).svg;
        assert!(!svg.contains("<script>") && svg.contains("&lt;script&gt;"));
    }
}
