//! What the figures of the page show: points that can be told apart, fitted lines, bars.

use std::collections::HashSet;

use serde::Serialize;
use yarrup_core::SortRow;
use yarrup_core::step::Term;
use yarrup_core::study::{FittedLaw, growth_law, rank_law};

use super::Explored;
use super::tables::Shown;
use crate::figure::{LengthRange, length_ranges};
use crate::views::coverage;

/// How many points can be told apart along a factor of e on a logarithmic axis.
const CELLS: f64 = 40.0;

/// All figures.
#[derive(Debug, Serialize)]
pub(super) struct FigureValues<'a> {
    rank_frequency: PointValues<'a>,
    rank_documents: PointValues<'a>,
    documents_frequency: PointValues<'a>,
    covers: Vec<CoverValue>,
    kinds: Vec<SortValue>,
    tags: Vec<SortValue>,
    growth: GrowthValues,
    lengths: Vec<LengthRange>,
}

/// Terms as points.
#[derive(Debug, Default, Serialize)]
struct PointValues<'a> {
    x: Vec<u64>,
    y: Vec<u64>,
    term: Vec<&'a str>,
    /// The row of the term in the table of terms, if it is shown there.
    row: Vec<Option<u32>>,
    fit: Option<FitValue>,
}

/// y = factor · x^power, from one x to another.
#[derive(Debug, Serialize)]
struct FitValue {
    factor: f64,
    power: f64,
    from: f64,
    to: f64,
}

/// How many of the commonest terms cover a share of the tokens.
#[derive(Debug, Serialize)]
struct CoverValue {
    share: f64,
    terms: u64,
}

#[derive(Debug, Serialize)]
struct SortValue {
    name: &'static str,
    kept: u64,
    gone: u64,
}

#[derive(Debug, Serialize)]
struct GrowthValues {
    tokens: Vec<u64>,
    terms: Vec<u64>,
    fit: Option<FitValue>,
}

impl From<FittedLaw> for FitValue {
    fn from(fitted: FittedLaw) -> FitValue {
        let FittedLaw { law, range } = fitted;
        FitValue { factor: law.factor, power: law.power, from: range.0, to: range.1 }
    }
}

impl From<SortRow> for SortValue {
    fn from(row: SortRow) -> SortValue {
        SortValue { name: row.name, kept: row.kept, gone: row.gone }
    }
}

impl<'a> FigureValues<'a> {
    pub(super) fn of(explored: &Explored<'a>, shown: &Shown) -> FigureValues<'a> {
        let points = |point: fn(u64, &Term<'_>) -> (u64, u64)| points(explored.vocabulary, shown, point);
        let all: Vec<(f64, f64)> = (1u32..)
            .zip(explored.vocabulary)
            .map(|(rank, term)| (f64::from(rank), term.count as f64))
            .collect();
        let rank_frequency = points(|rank, term| (rank, term.count));
        let cover = coverage(explored.vocabulary).into_iter();
        let growth = explored.growth;
        FigureValues {
            rank_frequency: PointValues { fit: rank_law(&all).map(FitValue::from), ..rank_frequency },
            rank_documents: points(|rank, term| (rank, term.documents)),
            documents_frequency: points(|_, term| (term.documents, term.count)),
            covers: cover.map(|cover| CoverValue { share: cover.share, terms: cover.terms }).collect(),
            kinds: explored.account.tokens_by_kind().into_iter().map(SortValue::from).collect(),
            tags: explored.account.tokens_by_tag().into_iter().map(SortValue::from).collect(),
            growth: GrowthValues {
                tokens: growth.iter().map(|point| point.0).collect(),
                terms: growth.iter().map(|point| point.1).collect(),
                fit: growth_law(growth).map(FitValue::from),
            },
            lengths: length_ranges(explored.lengths),
        }
    }
}

/// The terms as points that can be told apart on logarithmic axes, from left to right: of terms that lie on one spot the commonest.
fn points<'a>(
    vocabulary: &'a [Term<'a>],
    shown: &Shown,
    point: fn(u64, &Term<'_>) -> (u64, u64),
) -> PointValues<'a> {
    let cell = |value: u64| ((value.max(1) as f64).ln() * CELLS) as u64;
    let (mut seen, mut last) = (HashSet::new(), None);
    let mut points: Vec<(u64, u64, u32)> = Vec::new();
    for (place, term) in (0..).zip(vocabulary) {
        let (x, y) = point(u64::from(place) + 1, term);
        // Most terms are rare, and lie where the one before them does.
        let spot = Some((cell(x), cell(y)));
        if spot != last && seen.insert(spot) {
            points.push((x, y, place));
        }
        last = spot;
    }
    points.sort_by_key(|(x, ..)| *x);
    PointValues {
        x: points.iter().map(|(x, ..)| *x).collect(),
        y: points.iter().map(|(_, y, _)| *y).collect(),
        term: points.iter().map(|(.., place)| vocabulary[*place as usize].text).collect(),
        row: points.iter().map(|(.., place)| shown.row_of_term(*place)).collect(),
        fit: None,
    }
}
