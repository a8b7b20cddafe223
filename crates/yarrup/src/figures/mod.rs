//! The figures of a run, drawn from what it counted.

mod draw;

use std::collections::{BTreeMap, HashSet};
use std::path::Path;

use yarrup_core::step::Term;
use yarrup_core::study::{FittedLaw, TermTable, growth_law, rank_law};
use yarrup_core::{Account, Effect, SortRow, Tag};
use yarrup_io::{RunRecord, read_file_of, read_numbers};
use yarrup_report::{
    BarRow, CloudShape, CloudWord, Figure, Fit, Fonts, Points, Scale, Style, bars_figure, cloud_figure,
    coverage, effect_figure, grouped, lengths_figure, points_figure, step_rows,
};

pub(crate) use draw::{WantedFigures, draw_figures, missing};

use crate::exploring::Material;
use crate::failure::Failure;
use crate::studied::Studied;

/// The table of how the vocabulary grows.
pub(crate) const GROWTH_FILE: &str = "growth.csv";
/// The table of the lengths of documents.
pub(crate) const LENGTHS_FILE: &str = "lengths.csv";

/// What a figure is called, and what it shows.
pub(crate) const FIGURES: [(&str, &str); 11] = [
    ("effects", "what each step left and dropped"),
    ("top-terms", "the commonest terms"),
    ("rank-frequency", "the tokens of each term over its rank"),
    ("rank-documents", "the documents of each term over its rank"),
    ("documents-frequency", "the tokens of each term over its documents"),
    ("kinds", "tokens by what they are made of, kept and dropped"),
    ("parts-of-speech", "tokens by part of speech, kept and dropped"),
    ("groups", "tokens by the values of a field (--by)"),
    ("growth", "distinct terms over tokens, in the order of the text"),
    ("lengths", "documents by their length, before and after"),
    ("cloud", "a picture of words: the area of each is as large as its count"),
];

/// What figures are drawn from.
pub(crate) struct FigureData<'a> {
    pub(crate) account: &'a Account,
    pub(crate) effects: &'a [Effect],
    pub(crate) vocabulary: &'a [Term<'a>],
    /// Tokens, and distinct terms among the first so many.
    pub(crate) growth: &'a [(u64, u64)],
    /// Documents by their tokens, as found and in the end.
    pub(crate) lengths: &'a BTreeMap<u64, (u64, u64)>,
}

/// How figures are drawn, and of what.
pub(crate) struct Choices {
    pub(crate) style: Style,
    /// How many terms are shown, where a figure shows some.
    pub(crate) top: Option<usize>,
    /// The last rank that is shown.
    pub(crate) rank_up_to: usize,
    /// Terms that are not shown.
    pub(crate) leave_out: HashSet<String>,
    /// How axes are spaced, if not as suits the figure.
    pub(crate) scale: Option<Scale>,
    pub(crate) shape: CloudShape,
    /// What was counted by the values of a field, and its name.
    pub(crate) groups: Option<(String, TermTable)>,
    /// Whether words are coloured by part of speech.
    pub(crate) by_tag: bool,
    /// What words weigh in the picture of words, if not their tokens.
    pub(crate) weights: Option<TermWeights>,
}

/// What weighs terms, in words, and the weight of each.
pub(crate) type TermWeights = (String, BTreeMap<String, f64>);

impl Default for Choices {
    fn default() -> Choices {
        Choices {
            style: Style::default(),
            top: None,
            rank_up_to: usize::MAX,
            leave_out: HashSet::new(),
            scale: None,
            shape: CloudShape::Ellipse,
            groups: None,
            by_tag: false,
            weights: None,
        }
    }
}

/// How many terms the figure of the top terms shows.
const TOP_TERMS: usize = 30;
/// How many words the picture of words shows.
const CLOUD_WORDS: usize = 120;
/// How many values of a field are told apart.
const MOST_SERIES: usize = 7;
/// The ranks whose terms are named.
const NAMED_RANKS: [usize; 16] = [1, 2, 3, 5, 8, 12, 20, 35, 60, 100, 200, 400, 1_000, 3_000, 10_000, 30_000];

impl FigureData<'_> {
    /// What the page of a run is made from.
    pub(crate) fn material<'a>(
        &'a self,
        run: &'a Studied,
        recipe_text: &'a str,
        cloud: Option<&'a Figure>,
    ) -> Material<'a> {
        let FigureData { account, effects, vocabulary, growth, lengths } = *self;
        Material { run, account, effects, vocabulary, growth, lengths, recipe_text, cloud }
    }

    /// Draws the figure of this name; none where the run has nothing for it.
    pub(crate) fn draw(&self, name: &str, choices: &Choices, fonts: &Fonts) -> Option<Figure> {
        let style = &choices.style;
        let recipe = &self.account.origin.name;
        Some(match name {
            "effects" => effect_figure(recipe, &step_rows(self.effects), style),
            "top-terms" => self.top_terms(choices),
            "rank-frequency" => points_figure(&self.rank_frequency(choices), style),
            "rank-documents" => points_figure(&self.rank_documents(choices), style),
            "documents-frequency" => points_figure(&self.documents_frequency(choices), style),
            "kinds" => self.by_kind(style),
            "parts-of-speech" => self.by_tag(style)?,
            "groups" => self.by_group(choices)?,
            "growth" => points_figure(&self.growth_points(choices)?, style),
            "lengths" => lengths_figure(recipe, self.lengths, choices.scale.unwrap_or(Scale::Linear), style),
            "cloud" => self.cloud(choices, fonts),
            _ => return None,
        })
    }

    /// The terms that are shown, each with its rank among all.
    fn shown<'c>(&'c self, choices: &'c Choices) -> impl Iterator<Item = (usize, &'c Term<'c>)> + 'c {
        let all = (1..).zip(self.vocabulary).take(choices.rank_up_to);
        all.filter(|(_, term)| !choices.leave_out.contains(term.text))
    }

    fn top_terms(&self, choices: &Choices) -> Figure {
        let most = choices.top.unwrap_or(TOP_TERMS);
        let terms: Vec<&Term<'_>> = self.shown(choices).map(|(_, term)| term).take(most).collect();
        let mut subtitle = format!(
            "{}: the {} commonest terms, by number of tokens",
            self.account.origin.name,
            grouped(terms.len() as u64)
        );
        let (mut series, mut rows) = (Vec::new(), Vec::new());
        if let Some((field, table)) = &choices.groups {
            subtitle.push_str(&format!(", and by {field}"));
            let (names, places) = series_of(table);
            series = names;
            for term in &terms {
                let mut counts = vec![0; series.len()];
                for ((tokens, _), place) in table.in_groups(term.text).into_iter().zip(&places) {
                    counts[*place] += tokens;
                }
                rows.push(BarRow { name: term.text.to_owned(), counts });
            }
        } else {
            let row = |term: &&Term<'_>| BarRow { name: term.text.to_owned(), counts: vec![term.count] };
            rows.extend(terms.iter().map(row));
        }
        bars_figure(("Top terms", &subtitle), &rows, &series, &choices.style)
    }

    fn rank_frequency(&self, choices: &Choices) -> Points {
        let points: Vec<(f64, f64)> =
            self.shown(choices).map(|(rank, term)| (rank as f64, term.count as f64)).collect();
        let marks = coverage(self.vocabulary).into_iter().filter(|cover| cover.terms > 0).map(|cover| {
            (cover.terms as f64, format!("{:.0} % by {}", cover.share * 100.0, grouped(cover.terms)))
        });
        Points {
            title: (
                "Rank and frequency".to_owned(),
                format!(
                    "{}: {} terms, each a point; lines: share of all tokens covered",
                    self.account.origin.name,
                    grouped(points.len() as u64)
                ),
            ),
            x: ("rank of the term".to_owned(), choices.scale.unwrap_or(Scale::Log)),
            y: ("number of tokens".to_owned(), choices.scale.unwrap_or(Scale::Log)),
            fit: slope(&points),
            marks: marks.collect(),
            names: self.named(choices, |rank, term| (rank as f64, term.count as f64)),
            points,
            is_line: false,
        }
    }

    fn rank_documents(&self, choices: &Choices) -> Points {
        let point = |rank: usize, term: &Term<'_>| (rank as f64, term.documents as f64);
        Points {
            title: (
                "Rank and documents".to_owned(),
                format!(
                    "{}: in how many documents each term stands, over its rank by tokens",
                    self.account.origin.name
                ),
            ),
            x: ("rank of the term".to_owned(), choices.scale.unwrap_or(Scale::Log)),
            y: ("documents with the term".to_owned(), choices.scale.unwrap_or(Scale::Log)),
            points: self.shown(choices).map(|(rank, term)| point(rank, term)).collect(),
            names: self.named(choices, point),
            marks: Vec::new(),
            fit: None,
            is_line: false,
        }
    }

    fn documents_frequency(&self, choices: &Choices) -> Points {
        let point = |_: usize, term: &Term<'_>| (term.documents as f64, term.count as f64);
        Points {
            title: (
                "Documents and frequency".to_owned(),
                format!(
                    "{}: terms high above the diagonal stand often in few documents",
                    self.account.origin.name
                ),
            ),
            x: ("documents with the term".to_owned(), choices.scale.unwrap_or(Scale::Log)),
            y: ("number of tokens".to_owned(), choices.scale.unwrap_or(Scale::Log)),
            points: self.shown(choices).map(|(rank, term)| point(rank, term)).collect(),
            names: self.named(choices, point),
            marks: Vec::new(),
            fit: self.vocabulary.iter().map(|term| term.documents).max().filter(|most| *most > 1).map(
                |most| Fit {
                    factor: 1.0,
                    power: 1.0,
                    range: (1.0, most as f64),
                    told: "one token a document".to_owned(),
                },
            ),
            is_line: false,
        }
    }

    /// The terms whose names are written beside their points.
    fn named(
        &self,
        choices: &Choices,
        point: impl Fn(usize, &Term<'_>) -> (f64, f64),
    ) -> Vec<((f64, f64), String)> {
        let named = self.shown(choices).filter(|(rank, _)| NAMED_RANKS.contains(rank));
        named.map(|(rank, term)| (point(rank, term), term.text.to_owned())).collect()
    }

    fn growth_points(&self, choices: &Choices) -> Option<Points> {
        let points: Vec<(f64, f64)> =
            self.growth.iter().map(|(tokens, terms)| (*tokens as f64, *terms as f64)).collect();
        points.last()?;
        let fit = growth_law(self.growth).map(|FittedLaw { law, range }| Fit {
            factor: law.factor,
            power: law.power,
            range,
            told: format!("terms = {:.3} · tokens^{:.3}", law.factor, law.power),
        });
        let told = fit.as_ref().map(|fit| format!("; fitted from {} tokens", Fit::told_range(fit.range)));
        Some(Points {
            title: (
                "The growth of the vocabulary".to_owned(),
                format!(
                    "{}: distinct terms among the first tokens, in the order of the text{}",
                    self.account.origin.name,
                    told.unwrap_or_default()
                ),
            ),
            x: ("tokens".to_owned(), choices.scale.unwrap_or(Scale::Linear)),
            y: ("distinct terms".to_owned(), choices.scale.unwrap_or(Scale::Linear)),
            points,
            names: Vec::new(),
            marks: Vec::new(),
            fit,
            is_line: true,
        })
    }

    fn by_kind(&self, style: &Style) -> Figure {
        let title = ("Kinds of tokens", "what tokens are made of");
        self.kept_and_dropped(title, &self.account.tokens_by_kind(), style)
    }

    fn by_tag(&self, style: &Style) -> Option<Figure> {
        let rows = self.account.tokens_by_tag();
        let title = ("Parts of speech", "parts of speech of tokens");
        (!rows.is_empty()).then(|| self.kept_and_dropped(title, &rows, style))
    }

    fn kept_and_dropped(&self, (title, what): (&str, &str), rows: &[SortRow], style: &Style) -> Figure {
        let bar = |row: &SortRow| BarRow { name: row.name.to_owned(), counts: vec![row.kept, row.gone] };
        let rows: Vec<BarRow> = rows.iter().map(bar).collect();
        let subtitle = format!("{}: {what}", self.account.origin.name);
        bars_figure((title, &subtitle), &rows, &["kept".to_owned(), "dropped".to_owned()], style)
    }

    fn by_group(&self, choices: &Choices) -> Option<Figure> {
        let (field, table) = choices.groups.as_ref()?;
        let most = choices.top.unwrap_or(40);
        let row = |group: &yarrup_core::study::GroupCounts| BarRow {
            name: group.name.clone(),
            counts: vec![group.tokens],
        };
        let rows: Vec<BarRow> = table.groups().iter().take(most).map(row).collect();
        let subtitle = format!("{}: tokens that are kept, by {field}", self.account.origin.name);
        Some(bars_figure(("Groups of documents", &subtitle), &rows, &[], &choices.style))
    }

    fn cloud(&self, choices: &Choices, fonts: &Fonts) -> Figure {
        let weigh = |term: &Term<'_>| match &choices.weights {
            Some((_, weights)) => weights.get(term.text).copied().unwrap_or(0.0),
            None => term.count as f64,
        };
        let mut terms: Vec<(f64, &Term<'_>)> = self
            .shown(choices)
            .map(|(_, term)| (weigh(term), term))
            .filter(|(weight, _)| *weight > 0.0)
            .collect();
        terms.sort_by(|(one, _), (other, _)| other.total_cmp(one));
        terms.truncate(choices.top.unwrap_or(CLOUD_WORDS));
        let mut series = Vec::new();
        let words: Vec<CloudWord> = match &choices.groups {
            Some((_, table)) => {
                let (names, places) = series_of(table);
                series = names;
                let of = |term: &Term<'_>| {
                    // The group in which it is most frequent, relative to the size of the group.
                    let counts = table.in_groups(term.text).into_iter().zip(table.groups()).zip(&places);
                    let share = |tokens: u64, all: u64| tokens as f64 / all.max(1) as f64;
                    let most = counts.max_by(|((a, of_a), _), ((b, of_b), _)| {
                        share(a.0, of_a.tokens).total_cmp(&share(b.0, of_b.tokens))
                    });
                    most.map(|(_, place)| *place)
                };
                terms.iter().map(|(weight, term)| word(term, *weight, of(term))).collect()
            }
            None if choices.by_tag => {
                let tag = |term: &Term<'_>| term.tag.map_or("none", Tag::name);
                for (_, term) in &terms {
                    if !series.iter().any(|known| known == tag(term)) {
                        series.push(tag(term).to_owned());
                    }
                }
                let of = |term: &Term<'_>| series.iter().position(|known| known == tag(term));
                terms.iter().map(|(weight, term)| word(term, *weight, of(term))).collect()
            }
            None => terms.iter().map(|(weight, term)| word(term, *weight, None)).collect(),
        };
        let by = choices.weights.as_ref().map_or("its number of tokens", |(name, _)| name.as_str());
        let subtitle = format!(
            "{}: {} terms; the area of each is as large as {by}",
            self.account.origin.name,
            grouped(words.len() as u64)
        );
        let title = ("The commonest terms", subtitle.as_str());
        cloud_figure(title, &words, &series, choices.shape, (fonts, &choices.style))
    }
}

fn word(term: &Term<'_>, weight: f64, series: Option<usize>) -> CloudWord {
    CloudWord { text: term.text.to_owned(), weight, series }
}

/// The largest groups as series, all others as one more, and the series of each group.
fn series_of(table: &TermTable) -> (Vec<String>, Vec<usize>) {
    let groups = table.groups();
    let mut order: Vec<usize> = (0..groups.len()).collect();
    order.sort_by_key(|group| std::cmp::Reverse(groups[*group].tokens));
    order.truncate(MOST_SERIES);
    order.sort_unstable();
    let mut names: Vec<String> = order.iter().map(|group| groups[*group].name.clone()).collect();
    let others = names.len();
    if groups.len() > others {
        names.push("others".to_owned());
    }
    let places = (0..groups.len())
        .map(|group| order.iter().position(|shown| *shown == group).unwrap_or(others))
        .collect();
    (names, places)
}

/// The slope of rank and frequency, both as logarithms.
fn slope(points: &[(f64, f64)]) -> Option<Fit> {
    let FittedLaw { law, range } = rank_law(points)?;
    Some(Fit {
        factor: law.factor,
        power: law.power,
        range,
        told: format!("slope {:.2}, ranks {}", law.power, Fit::told_range(range)).replace('-', "−"),
    })
}

/// What a run noted of the growth of its vocabulary and of the lengths of its documents.
pub(crate) type Noted = (Vec<(u64, u64)>, BTreeMap<u64, (u64, u64)>);

/// Reads what a run noted.
pub(crate) fn noted(run: &Path, record: &RunRecord) -> Result<Noted, Failure> {
    let numbers = |name: &str| -> Result<Vec<Vec<u64>>, Failure> {
        if !record.files.contains_key(name) {
            return Ok(Vec::new());
        }
        let table = read_file_of(run, record, name)?;
        read_numbers(&table).map_err(|why| Failure::File { path: run.join(name).display().to_string(), why })
    };
    let cell = |row: &[u64], place: usize| row.get(place).copied().unwrap_or(0);
    let growth = numbers(GROWTH_FILE)?.iter().map(|row| (cell(row, 0), cell(row, 1))).collect();
    let lengths =
        numbers(LENGTHS_FILE)?.iter().map(|row| (cell(row, 0), (cell(row, 1), cell(row, 2)))).collect();
    Ok((growth, lengths))
}
