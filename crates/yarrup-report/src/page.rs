//! The HTML report: one file, no network.

use askama::Template;

use crate::figure::Figure;
use crate::numbers::{grouped, percent, plural};
use crate::terminal::{StepRow, step_table, visible};

static CHART_SCRIPT: &str = include_str!("../assets/vendor/uplot/uPlot.iife.min.js");
static CHART_STYLE: &str = include_str!("../assets/vendor/uplot/uPlot.min.css");
static SCRIPT: &str = include_str!("../assets/report.js");
static STYLE: &str = include_str!("../assets/report.css");

/// The hashes of the two scripts, which alone the page's policy lets run. A test says what they must be.
const SCRIPT_HASHES: [&str; 2] = [
    "sha256-GcjUxq2Ikpp59K5J1vcWFWbf0Lo9FcxJXpdPeH63jx8=",
    "sha256-Nwt98cD+gHU3J/YtyzddiD/27eRMEedcoFRre3hUGmc=",
];

/// How many of the commonest terms cover a share of all tokens.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Coverage {
    /// The share, from 0 to 1.
    pub share: f64,
    /// The number of terms.
    pub terms: u64,
}

/// A term as the page lists it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct TopTerm {
    /// Its place by count.
    pub rank: u64,
    /// The spelling.
    pub term: String,
    /// Tokens.
    pub count: u64,
    /// Documents.
    pub documents: u64,
    /// Distinct forms that became it.
    pub forms: u64,
    /// The commonest of them.
    pub commonest_form: String,
}

/// The values of a field, compared.
#[derive(Clone, Debug, Default)]
pub struct GroupSection {
    /// The field.
    pub field: String,
    /// Its values.
    pub rows: Vec<GroupCells>,
    /// How many values there are besides.
    pub more: usize,
}

/// A value of a field, as the page shows it.
#[derive(Clone, Debug, Default)]
pub struct GroupCells {
    /// The value.
    pub name: String,
    /// Documents with it.
    pub documents: String,
    /// Their tokens.
    pub tokens: String,
    /// The share of these among all.
    pub share: String,
    /// Their distinct terms.
    pub terms: String,
    /// The terms that mark it, each with its numbers.
    pub key_terms: Vec<(String, String)>,
}

/// Everything that the report page shows.
#[derive(Clone, Debug, Default)]
pub struct ReportPage {
    /// The recipe's name.
    pub recipe: String,
    /// What the recipe is for.
    pub about: String,
    /// The names of the sources.
    pub sources: Vec<String>,
    /// Figures in words: a number and what it counts.
    pub facts: Vec<(String, String)>,
    /// What went wrong or deserves a look.
    pub warnings: Vec<String>,
    /// The effect of every step.
    pub steps: Vec<StepRow>,
    /// The documents that steps left out: step, reason, how many.
    pub left_out: Vec<[String; 3]>,
    /// What the text steps matched: step, sort, count, documents, examples.
    pub matches: Vec<[String; 5]>,
    /// The commonest terms, the first first.
    pub top: Vec<TopTerm>,
    /// How many terms there are.
    pub terms: u64,
    /// Points of the rank–frequency curve: rank, count, term.
    pub curve: Vec<(u64, u64, String)>,
    /// Shares that the commonest terms cover.
    pub coverage: Vec<Coverage>,
    /// The recipe as written.
    pub recipe_text: String,
    /// Figures by their names: `effects`, `rank-frequency`, `cloud`, `growth`, `lengths`.
    pub figures: Vec<(&'static str, Figure)>,
    /// The values of a field, if they are to be compared.
    pub groups: Option<GroupSection>,
}

#[derive(Template)]
#[template(path = "report.html")]
struct Page<'a> {
    page: &'a ReportPage,
    policy: String,
    style: &'a str,
    chart_style: &'a str,
    chart_script: &'a str,
    script: &'a str,
    curve: String,
    columns: Vec<&'static str>,
    steps: Vec<Vec<String>>,
    top: Vec<TermCells>,
    coverage: Vec<CoverCells>,
    effect_svg: String,
    curve_svg: String,
    cloud_svg: String,
    growth_svg: String,
    lengths_svg: String,
}

struct TermCells {
    rank: u64,
    term: String,
    count: String,
    documents: String,
    forms: String,
    commonest: String,
    /// The length of the bar in per cent of the longest.
    bar: u64,
}

struct CoverCells {
    share: String,
    terms: String,
    part: String,
    plural: String,
}

impl ReportPage {
    /// The page as HTML.
    ///
    /// # Errors
    ///
    /// If the template fails, which is a fault of the program.
    pub fn html(&self) -> Result<String, askama::Error> {
        let most = self.top.first().map_or(1, |term| term.count.max(1));
        let top = self.top.iter().map(|term| TermCells {
            rank: term.rank,
            term: visible(&term.term),
            count: grouped(term.count),
            documents: grouped(term.documents),
            forms: grouped(term.forms),
            commonest: visible(&term.commonest_form),
            bar: (term.count * 100 / most).max(1),
        });
        let coverage = self.coverage.iter().map(|cover| CoverCells {
            share: format!("{:.0} %", cover.share * 100.0),
            terms: grouped(cover.terms),
            part: percent(cover.terms, self.terms),
            plural: plural(cover.terms, "term"),
        });
        let svg = |name: &str| {
            let figure = self.figures.iter().find(|(known, _)| *known == name);
            figure.map(|(_, figure)| figure.untitled()).unwrap_or_default()
        };
        let (header, steps) = step_table(&self.steps);
        Page {
            page: self,
            policy: format!(
                "default-src 'none'; style-src 'unsafe-inline'; img-src data:; script-src '{}' '{}'",
                SCRIPT_HASHES[0], SCRIPT_HASHES[1]
            ),
            style: STYLE,
            chart_style: CHART_STYLE,
            chart_script: CHART_SCRIPT,
            script: SCRIPT,
            curve: curve_json(&self.curve, &self.coverage),
            columns: header.iter().map(|(name, _)| *name).collect(),
            steps,
            top: top.collect(),
            coverage: coverage.collect(),
            effect_svg: svg("effects"),
            curve_svg: svg("rank-frequency"),
            cloud_svg: svg("cloud"),
            growth_svg: svg("growth"),
            lengths_svg: svg("lengths"),
        }
        .render()
    }
}

/// The curve as JSON that can stand inside a page: no character of it can end the element it is in.
fn curve_json(curve: &[(u64, u64, String)], coverage: &[Coverage]) -> String {
    let ranks: Vec<u64> = curve.iter().map(|(rank, _, _)| *rank).collect();
    let counts: Vec<u64> = curve.iter().map(|(_, count, _)| *count).collect();
    let terms: Vec<String> = curve.iter().map(|(_, _, term)| visible(term)).collect();
    let covers: Vec<(f64, u64)> = coverage.iter().map(|cover| (cover.share, cover.terms)).collect();
    let value = serde_json::json!({ "ranks": ranks, "counts": counts, "terms": terms, "covers": covers });
    value.to_string().replace('<', "\\u003c").replace('>', "\\u003e").replace('&', "\\u0026")
}

#[cfg(test)]
mod tests {
    use super::*;
    use base64::Engine;
    use sha2::Digest;

    #[test]
    fn the_policy_names_the_scripts_that_the_page_holds() {
        for (script, hash) in [CHART_SCRIPT, SCRIPT].iter().zip(SCRIPT_HASHES) {
            let digest = sha2::Sha256::digest(script.as_bytes());
            let expected = base64::engine::general_purpose::STANDARD.encode(digest);
            assert_eq!(hash, format!("sha256-{expected}"));
        }
    }

    #[test]
    fn document_text_cannot_run() {
        let hostile = "</script><script>alert(1)</script><img src=x onerror=alert(1)>".to_owned();
        let page = ReportPage {
            recipe: hostile.clone(),
            matches: vec![std::array::from_fn(|_| hostile.clone())],
            top: vec![TopTerm {
                rank: 1,
                term: hostile.clone(),
                count: 1,
                documents: 1,
                forms: 1,
                commonest_form: hostile.clone(),
            }],
            curve: vec![(1, 1, hostile.clone())],
            warnings: vec![hostile.clone()],
            recipe_text: hostile,
            ..ReportPage::default()
        };
        let html = page.html().expect("a page");
        assert!(!html.contains("<script>alert") && !html.contains("<img src=x"));
        assert_eq!(html.matches("<script").count(), 3, "two scripts and the data");
    }
}
