//! Whatever a figure is drawn of, its texts stay on the sheet and apart from one another.
#![cfg(feature = "figures")]

use std::collections::BTreeMap;
use std::sync::Arc;

use proptest::prelude::*;
use resvg::tiny_skia::Rect;
use resvg::usvg::{Group, Node, Options, Tree, fontdb::Database};
use yarrup_report::{
    BarRow, CloudShape, CloudWord, Figure, Fonts, Points, Scale, StepRow, Style, bars_figure, cloud_figure,
    effect_figure, lengths_figure, points_figure,
};

fn walk(group: &Group, found: &mut Vec<(String, Rect)>) {
    for node in group.children() {
        match node {
            Node::Group(group) => walk(group, found),
            Node::Text(text) => {
                let spelled: String = text.chunks().iter().map(|chunk| chunk.text()).collect();
                found.push((spelled, text.flattened().abs_bounding_box()));
            }
            _ => {}
        }
    }
}

/// The texts of a figure, and where their ink lies.
fn texts(figure: &Figure) -> Vec<(String, Rect)> {
    let mut database = Database::new();
    database.load_font_data(include_bytes!("../assets/fonts/Inter-Regular.otf").to_vec());
    database.load_font_data(include_bytes!("../assets/fonts/Inter-SemiBold.otf").to_vec());
    database.set_sans_serif_family("Inter");
    let options =
        Options { font_family: "Inter".to_owned(), fontdb: Arc::new(database), ..Options::default() };
    let tree = Tree::from_str(&figure.svg, &options).expect("an SVG");
    let mut found = Vec::new();
    walk(tree.root(), &mut found);
    found
}

/// What is wrong with a figure of this size.
fn faults(figure: &Figure, size: (u32, u32)) -> Vec<String> {
    let mut faults = Vec::new();
    for wrong in ["\"NaN", "\"inf", "\"-inf", ",NaN", ",inf"] {
        if figure.svg.contains(wrong) {
            faults.push(format!("holds {wrong}"));
        }
    }
    let texts = texts(figure);
    let (width, height) = (size.0 as f32, size.1 as f32);
    for (number, (text, ink)) in texts.iter().enumerate() {
        if ink.left() < -1.0 || ink.right() > width + 1.0 || ink.top() < -1.0 || ink.bottom() > height + 1.0 {
            faults.push(format!("`{text}` leaves the sheet: {ink:?}"));
        }
        for (other, place) in &texts[..number] {
            let wide = ink.right().min(place.right()) - ink.left().max(place.left());
            let high = ink.bottom().min(place.bottom()) - ink.top().max(place.top());
            if wide > 1.0 && high > 1.0 {
                faults.push(format!("`{text}` and `{other}` lie over one another by {wide} x {high}"));
            }
        }
    }
    faults
}

fn word() -> impl Strategy<Value = String> {
    prop_oneof![
        8 => "[a-zA-Zéß]{1,12}",
        2 => "[WM@]{1,30}",
        1 => "[<&>\"'a-z][<&>\"' a-z]{0,6}[a-z]",
        1 => "[a-z]{20,60}",
        1 => "[А-Яα-ω0-9.,%]{1,9}",
    ]
}

fn style() -> impl Strategy<Value = Style> {
    let sizes = prop_oneof![
        4 => Just((1280u32, 800u32)),
        1 => Just((640, 400)),
        1 => Just((2400, 900)),
        1 => Just((700, 1200)),
    ];
    sizes.prop_map(|size| Style { size, ..Style::default() })
}

fn count() -> impl Strategy<Value = u64> {
    prop_oneof![0u64..10, 0u64..100_000, any::<u32>().prop_map(u64::from), Just(u64::from(u32::MAX) * 4000)]
}

fn step() -> impl Strategy<Value = StepRow> {
    let counted = || proptest::option::of(count());
    (word(), counted(), counted(), counted()).prop_map(|(name, tokens, dropped, types)| StepRow {
        step: 1,
        name,
        tokens,
        dropped,
        joined: None,
        made: None,
        changed: None,
        marked: None,
        matches: None,
        types,
        documents: None,
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    #[test]
    fn bars_keep_their_names_apart(
        rows in proptest::collection::vec((word(), proptest::collection::vec(count(), 3)), 0..40),
        series in proptest::collection::vec(word(), 1..4),
        (title, subtitle) in (word(), word()),
        style in style(),
    ) {
        let rows: Vec<BarRow> = rows
            .into_iter()
            .map(|(name, counts)| BarRow { name, counts: counts[..series.len()].to_vec() })
            .collect();
        let figure = bars_figure((&title, &subtitle), &rows, &series, &style);
        prop_assert_eq!(faults(&figure, style.size), Vec::<String>::new());
    }

    #[test]
    fn clouds_keep_their_words_apart(
        words in proptest::collection::vec((word(), 1u32..5000, 0usize..3), 0..60),
        series in proptest::collection::vec(word(), 0..4),
        shape in prop_oneof![Just(CloudShape::Rectangle), Just(CloudShape::Ellipse), Just(CloudShape::Circle)],
        style in style(),
    ) {
        let words: Vec<CloudWord> = words
            .into_iter()
            .map(|(text, weight, number)| CloudWord {
                text,
                weight: f64::from(weight),
                series: (number < series.len()).then_some(number),
            })
            .collect();
        let figure = cloud_figure(("Terms", "all"), &words, &series, shape, (&Fonts::default(), &style));
        prop_assert_eq!(faults(&figure, style.size), Vec::<String>::new());
    }

    #[test]
    fn lengths_keep_their_numbers_apart(
        lengths in proptest::collection::btree_map(count(), (count(), count()), 0..40),
        recipe in word(),
        is_log in any::<bool>(),
        style in style(),
    ) {
        let lengths: BTreeMap<u64, (u64, u64)> = lengths;
        let scale = if is_log { Scale::Log } else { Scale::Linear };
        let figure = lengths_figure(&recipe, &lengths, scale, &style);
        prop_assert_eq!(faults(&figure, style.size), Vec::<String>::new());
    }

    #[test]
    fn steps_keep_their_numbers_apart(
        steps in proptest::collection::vec(step(), 0..24),
        recipe in word(),
        style in style(),
    ) {
        // No step leaves more than came to it.
        let mut steps = steps;
        let (mut tokens, mut types) = (u64::MAX, u64::MAX);
        for (at, step) in steps.iter_mut().enumerate() {
            (tokens, types) = (step.tokens.unwrap_or(tokens).min(tokens), step.types.unwrap_or(types).min(types));
            *step = StepRow {
                step: at,
                tokens: step.tokens.map(|_| tokens),
                types: step.types.map(|_| types),
                ..step.clone()
            };
        }
        let figure = effect_figure(&recipe, &steps, &style);
        prop_assert_eq!(faults(&figure, style.size), Vec::<String>::new());
    }

    #[test]
    fn points_keep_their_names_apart(
        points in proptest::collection::vec((count(), count(), word()), 0..60),
        marks in proptest::collection::vec((count(), word()), 0..4),
        (is_log_x, is_log_y) in any::<(bool, bool)>(),
        style in style(),
    ) {
        let scale = |is_log| if is_log { Scale::Log } else { Scale::Linear };
        let at = |(x, y, _): &(u64, u64, String)| (*x as f64, *y as f64);
        let points = Points {
            title: ("Ranks".to_owned(), "and counts".to_owned()),
            x: ("rank".to_owned(), scale(is_log_x)),
            y: ("count".to_owned(), scale(is_log_y)),
            points: points.iter().map(at).collect(),
            names: points.iter().map(|point| (at(point), point.2.clone())).collect(),
            marks: marks.into_iter().map(|(x, name)| (x as f64, name)).collect(),
            fit: None,
            is_line: false,
        };
        prop_assert_eq!(faults(&points_figure(&points, &style), style.size), Vec::<String>::new());
    }
}
