//! A comparison as data: tables and JSON.

use std::collections::{BTreeMap, BTreeSet};

use serde_json::{Value, json};
use yarrup_core::Account;
use yarrup_core::compare::{
    Change, ChangedDocuments, Conflation, Contrast, DisagreementKind, Drift, Missing, Moved, Overview,
    Pairing, Standing, StepStatus, Stretch, TermPair, Whither, differences,
};
use yarrup_io::{NewFolder, TableWriter};
use yarrup_report::{ComparePage, compare_html, grouped};

use crate::comparing::{CollectionShift, Comparison, PairFacts, ShownDocument, Side, rounded};
use crate::failure::Failure;
use crate::rows::{Cell, Column, Rows};

/// How a step stands to those of another recipe, in a word.
pub(super) fn status_name(status: StepStatus) -> &'static str {
    match status {
        StepStatus::Same => "same",
        StepStatus::Moved => "moved",
        StepStatus::Changed => "changed",
        StepStatus::Removed => "removed",
        StepStatus::Added => "added",
    }
}

/// A kind of disagreement as tables name it.
pub(super) fn kind_name(kind: DisagreementKind) -> &'static str {
    match kind {
        DisagreementKind::Parted => "parted",
        DisagreementKind::Whole => "whole",
        DisagreementKind::CutElsewhere => "cut_elsewhere",
        DisagreementKind::OtherEdges => "other_edges",
        DisagreementKind::OnlyHere => "only_here",
        DisagreementKind::OnlyThere => "only_there",
    }
}

/// What became of the tokens of a term that is missing, in words: `account` is where it is missing.
pub(super) fn whither_in_words(whither: &Whither<'_>, account: &Account) -> String {
    let step = |number: usize| {
        let record = account.steps.get(number - 1);
        let name = record.map_or("", |step| step.label.as_deref().unwrap_or(&step.operation));
        format!("step {number} {name}")
    };
    match whither {
        Whither::Becomes { term } => format!("becomes {term}"),
        Whither::Dropped { step: number, reason } => format!("dropped by {}: {reason}", step(*number)),
        Whither::Joined { step: number, into: Some(into) } => {
            format!("goes into {into} in {}", step(*number))
        }
        Whither::Joined { step: number, into: None } => format!("goes into several in {}", step(*number)),
        Whither::NotMet => {
            "no token is spelled like it there: the text is cut or written otherwise".to_owned()
        }
    }
}

/// Why a term is missing, in a line.
pub(super) fn why(missing: &Missing<'_>, account: &Account) -> String {
    let is_alone = missing.whither.len() == 1;
    let mut line = String::new();
    let mut became = false;
    for (whither, tokens) in &missing.whither {
        let count = if is_alone { String::new() } else { format!(" ({})", grouped(*tokens)) };
        match whither {
            Whither::Becomes { term } if became => line.push_str(&format!(", {term}{count}")),
            _ => {
                line.push_str(if line.is_empty() { "" } else { "; " });
                line.push_str(&format!("{}{count}", whither_in_words(whither, account)));
            }
        }
        became = matches!(whither, Whither::Becomes { .. });
    }
    line
}

/// The table of sums: a row for each recipe or run.
pub(crate) fn overview_rows(comparison: &Comparison<'_>) -> Rows {
    let mut columns = vec![
        Column::new("letter", ""),
        Column::new("name", if comparison.of_runs { "run" } else { "recipe" }),
    ];
    let varied: Vec<&str> = comparison
        .sides
        .iter()
        .find(|side| !side.settings.is_empty())
        .map_or(Vec::new(), |side| side.settings.iter().map(|(key, _)| key.as_str()).collect());
    columns.extend(varied.iter().map(|key| Column::new(key, key).aside()));
    for (name, title) in [
        ("documents", "documents"),
        ("left_out", "left out"),
        ("emptied", "emptied"),
        ("tokens_found", "found"),
        ("types_found", "types"),
        ("tokens", "kept"),
        ("terms", "terms"),
        ("hapaxes", "once only"),
        ("cover_half", "cover half"),
        ("cover_most", "cover 90 %"),
    ] {
        columns.push(Column::new(name, title));
    }
    for (name, title) in [("accuracy", "accuracy"), ("macro_f1", "F1"), ("information_kept", "information")] {
        if comparison.labels.is_some() {
            columns.push(Column::new(name, title).aside());
        }
    }
    if comparison.sides.iter().any(|side| side.mates.is_some()) {
        columns.push(Column::new("mates_together", "mates together").aside());
        columns.push(Column::new("others_together", "others together").aside());
    }
    let against = comparison.sides.len() > 2;
    for name in [
        "terms_only_in_a",
        "terms_only_here",
        "shared_tokens",
        "rank_overlap",
        "together_here",
        "apart_here",
        "documents_changed",
    ] {
        if against {
            columns.push(Column::new(name, name).aside());
        }
    }
    let most_bits = most_bits(comparison);
    let row = |(place, side): (usize, &Side)| {
        let mut row = vec![Cell::Text(side.letter.clone()), Cell::Text(side.name.clone())];
        row.extend(varied.iter().map(|key| {
            let found = side.settings.iter().find(|(known, _)| known == key);
            found.map_or(Cell::Nothing, |(_, value)| Cell::Text(value.clone()))
        }));
        row.extend(count_cells(&side.overview));
        if let Some(labels) = &comparison.labels {
            let telling = labels.rows.get(place);
            row.push(telling.map_or(Cell::Nothing, |row| Cell::Number(row.telling.accuracy)));
            row.push(telling.map_or(Cell::Nothing, |row| Cell::Number(row.telling.macro_f1)));
            row.push(
                telling.map_or(Cell::Nothing, |row| Cell::Share(row.bits / most_bits.max(f64::MIN_POSITIVE))),
            );
        }
        if let Some(mates) = side.mates {
            row.push(Cell::Count(mates.mates.1));
            row.push(Cell::Count(mates.others.1));
        }
        if against {
            let pair = comparison.pairs.iter().find(|pair| pair.there == place);
            row.extend(pair.map_or_else(|| vec![Cell::Nothing; 7], against_cells));
        }
        row
    };
    Rows { columns, rows: comparison.sides.iter().enumerate().map(row).collect() }
}

/// The counts of a recipe or run, in the order of the columns.
fn count_cells(overview: &Overview) -> [Cell; 10] {
    [
        overview.documents,
        overview.left_out,
        overview.emptied,
        overview.tokens_found,
        overview.types_found,
        overview.tokens,
        overview.terms,
        overview.hapaxes,
        overview.cover_half,
        overview.cover_most,
    ]
    .map(Cell::Count)
}

/// How a recipe or run stands to the first.
fn against_cells(pair: &PairFacts<'_>) -> Vec<Cell> {
    let both = &pair.vocabularies;
    let of_one = |cell: Cell| if pair.drift.is_some() { Cell::Nothing } else { cell };
    vec![
        Cell::Count(both.only_here.0),
        Cell::Count(both.only_there.0),
        Cell::Share(both.shared_tokens),
        Cell::Number(both.rank_overlap),
        of_one(Cell::Count(pair.together_there.tokens)),
        of_one(Cell::Count(pair.together_here.tokens)),
        pair.changed.map_or(Cell::Nothing, |changed| Cell::Count(changed.all().changed)),
    ]
}

/// The information on the labels in the text as found.
pub(super) fn most_bits(comparison: &Comparison<'_>) -> f64 {
    comparison.labels.as_ref().and_then(|labels| labels.rows.last()).map_or(0.0, |row| row.bits)
}

fn standing(standing: Option<Standing>) -> [String; 3] {
    let cell = |value: fn(Standing) -> u64| standing.map_or_else(String::new, |row| value(row).to_string());
    [cell(|row| row.count), cell(|row| row.documents), cell(|row| row.rank)]
}

/// Writes a table of a comparison.
type TableOf = fn(&Comparison<'_>, &mut Vec<u8>) -> Result<(), csv::Error>;

/// Writes everything into a folder.
pub(super) fn write_folder(comparison: &Comparison<'_>, folder: &NewFolder) -> Result<(), Failure> {
    let failed = |name: &str| {
        let path = folder.named().join(name).display().to_string();
        move |why: csv::Error| Failure::File { path: path.clone(), why: why.to_string() }
    };
    let mut overview = Vec::new();
    overview_rows(comparison).print(crate::arguments::TableFormat::Csv, PLAIN, &mut overview)?;
    folder.write("overview.csv", &overview)?;
    let tables: [(&str, TableOf); 8] = [
        ("measures.csv", measures_table),
        ("steps.csv", steps_table),
        ("vocabulary.csv", vocabulary_table),
        ("together.csv", together_table),
        ("splits.csv", splits_table),
        ("documents.csv", documents_table),
        ("groups.csv", groups_table),
        ("moved.csv", moved_table),
    ];
    for (name, write) in tables {
        let mut table = Vec::new();
        write(comparison, &mut table).map_err(failed(name))?;
        // A table of nothing but its heading says nothing.
        if table.iter().filter(|byte| **byte == b'\n').count() > 1 {
            folder.write(name, &table)?;
        }
    }
    let whole = json(comparison, usize::MAX, false);
    let text = serde_json::to_vec_pretty(&whole).map_err(std::io::Error::from)?;
    folder.write("comparison.json", &text)?;
    let page =
        ComparePage { title: comparison.title.clone(), data: json(comparison, PAGE_ROWS, false).to_string() };
    let html = compare_html(&page).map_err(|why| Failure::Sentence(why.to_string()))?;
    folder.write("comparison.html", html.as_bytes())?;
    Ok(())
}

const PLAIN: yarrup_report::Look = yarrup_report::Look { colour: false, width: 100, wraps: true };
/// How many rows each list of the page has.
const PAGE_ROWS: usize = 2_000;

fn letters<'c>(comparison: &'c Comparison<'_>, pair: &PairFacts<'_>) -> &'c str {
    &comparison.sides[pair.there].letter
}

fn measures_table(comparison: &Comparison<'_>, out: &mut Vec<u8>) -> Result<(), csv::Error> {
    let mut table = TableWriter::new(out, ["there", "measure", "value"])?;
    for pair in &comparison.pairs {
        for (name, value) in pair.measures(&comparison.sides, comparison.labels.as_ref()) {
            table.row([letters(comparison, pair), name, &rounded(value)])?;
        }
    }
    Ok(table.finish()?)
}

fn steps_table(comparison: &Comparison<'_>, out: &mut Vec<u8>) -> Result<(), csv::Error> {
    let mut table = TableWriter::new(
        out,
        [
            "there",
            "status",
            "step_here",
            "step_there",
            "do",
            "key",
            "value_here",
            "value_there",
            "entries_here",
            "entries_there",
        ],
    )?;
    let number = |step: Option<usize>| step.map_or_else(String::new, |step| step.to_string());
    for pair in &comparison.pairs {
        for step in &pair.steps {
            let head = [
                letters(comparison, pair).to_owned(),
                status_name(step.status).to_owned(),
                number(step.here),
                number(step.there),
                step.operation.to_owned(),
            ];
            if step.keys.is_empty() {
                table.row(head.iter().cloned().chain(std::iter::repeat_n(String::new(), 5)))?;
            }
            for key in &step.keys {
                let cells = [
                    key.name.clone(),
                    key.here.clone().unwrap_or_default(),
                    key.there.clone().unwrap_or_default(),
                    key.entries_here.join(" | "),
                    key.entries_there.join(" | "),
                ];
                table.row(head.iter().cloned().chain(cells))?;
            }
        }
    }
    Ok(table.finish()?)
}

fn vocabulary_table(comparison: &Comparison<'_>, out: &mut Vec<u8>) -> Result<(), csv::Error> {
    let mut table = TableWriter::new(
        out,
        [
            "there",
            "term",
            "count_here",
            "documents_here",
            "rank_here",
            "count_there",
            "documents_there",
            "rank_there",
            "missing",
            "why",
        ],
    )?;
    for pair in &comparison.pairs {
        let gone: Vec<&str> = pair.vocabularies.gone().map(|(term, _)| term).collect();
        let new: Vec<&str> = pair.vocabularies.new_there().map(|(term, _)| term).collect();
        let told = |pairing: Pairing<'_>, account: &Account, terms: &[&str]| -> Vec<String> {
            pairing.missing(terms).iter().map(|missing| why(missing, account)).collect()
        };
        // The documents of other collections need no reason not to have a word.
        let is_drift = pair.drift.is_some();
        let (mut gone, mut new) = if is_drift {
            (Vec::new().into_iter(), Vec::new().into_iter())
        } else {
            (
                told(pair.pairing, pair.pairing.there(), &gone).into_iter(),
                told(pair.pairing.reversed(), pair.pairing.here(), &new).into_iter(),
            )
        };
        for row in &pair.vocabularies.terms {
            let (missing, why) = match (row.here, row.there) {
                (Some(_), None) => ("there", gone.next().unwrap_or_default()),
                (None, Some(_)) => ("here", new.next().unwrap_or_default()),
                _ => ("", String::new()),
            };
            let cells = standing(row.here).into_iter().chain(standing(row.there));
            let head = [letters(comparison, pair).to_owned(), row.term.to_owned()];
            table.row(head.into_iter().chain(cells).chain([missing.to_owned(), why]))?;
        }
    }
    Ok(table.finish()?)
}

fn together_table(comparison: &Comparison<'_>, out: &mut Vec<u8>) -> Result<(), csv::Error> {
    let mut table =
        TableWriter::new(out, ["there", "together_in", "term", "tokens", "apart", "tokens_apart"])?;
    for pair in comparison.pairs.iter().filter(|pair| pair.drift.is_none()) {
        let there = letters(comparison, pair);
        for (side, conflation) in [("here", &pair.together_here), ("there", &pair.together_there)] {
            for merged in &conflation.merged {
                let parts: Vec<&str> = merged.parts.iter().map(|part| part.term).collect();
                let counts: Vec<String> = merged.parts.iter().map(|part| part.tokens.to_string()).collect();
                table.row([
                    there,
                    side,
                    merged.term,
                    &merged.tokens.to_string(),
                    &parts.join(" "),
                    &counts.join(" "),
                ])?;
            }
        }
    }
    Ok(table.finish()?)
}

fn splits_table(comparison: &Comparison<'_>, out: &mut Vec<u8>) -> Result<(), csv::Error> {
    let mut table = TableWriter::new(out, ["there", "how", "kind", "here", "there_text", "count"])?;
    for pair in &comparison.pairs {
        for row in pair.splits.iter().flat_map(|splits| splits.disagreements()) {
            table.row([
                letters(comparison, pair),
                kind_name(row.kind),
                row.of.name(),
                &row.here.join(" | "),
                &row.there.join(" | "),
                &row.count.to_string(),
            ])?;
        }
    }
    Ok(table.finish()?)
}

fn documents_table(comparison: &Comparison<'_>, out: &mut Vec<u8>) -> Result<(), csv::Error> {
    let mut table = TableWriter::new(
        out,
        [
            "there",
            "id",
            "terms_here",
            "terms_there",
            "terms_common",
            "share",
            "text",
            "clean_here",
            "clean_there",
        ],
    )?;
    for pair in &comparison.pairs {
        for (change, document) in pair.changed.iter().flat_map(|changed| changed.top()) {
            table.row([
                letters(comparison, pair),
                &document.id,
                &change.here.to_string(),
                &change.there.to_string(),
                &change.common.to_string(),
                &format!("{:.6}", change.share()),
                &document.text,
                &document.here,
                &document.there,
            ])?;
        }
    }
    Ok(table.finish()?)
}

fn groups_table(comparison: &Comparison<'_>, out: &mut Vec<u8>) -> Result<(), csv::Error> {
    let mut table = TableWriter::new(
        out,
        ["there", "group", "documents", "changed", "terms_here", "terms_there", "terms_common", "share"],
    )?;
    for pair in &comparison.pairs {
        for (name, sums) in pair.changed.iter().flat_map(|changed| changed.groups()) {
            table.row([
                letters(comparison, pair),
                name,
                &sums.documents.to_string(),
                &sums.changed.to_string(),
                &sums.terms.here.to_string(),
                &sums.terms.there.to_string(),
                &sums.terms.common.to_string(),
                &format!("{:.6}", sums.terms.share()),
            ])?;
        }
    }
    Ok(table.finish()?)
}

fn moved_table(comparison: &Comparison<'_>, out: &mut Vec<u8>) -> Result<(), csv::Error> {
    let mut table = TableWriter::new(out, ["there", "term", "count_here", "count_there", "g2", "log_ratio"])?;
    for pair in &comparison.pairs {
        for row in pair.drift.iter().flat_map(|(drift, _)| &drift.moved) {
            table.row([
                letters(comparison, pair),
                row.term,
                &row.here.to_string(),
                &row.there.to_string(),
                &format!("{:.4}", row.g2),
                &format!("{:.4}", row.log_ratio),
            ])?;
        }
    }
    Ok(table.finish()?)
}

/// The whole comparison with so many rows in each list. What is timed is another each time, and has no place in files.
pub(crate) fn json(comparison: &Comparison<'_>, rows: usize, with_times: bool) -> Value {
    let most_bits = most_bits(comparison);
    let sides: Vec<Value> = comparison
        .sides
        .iter()
        .enumerate()
        .map(|(place, side)| {
            let label = comparison.labels.as_ref().and_then(|labels| labels.rows.get(place));
            json!({
                "letter": side.letter,
                "name": side.name,
                "language": side.language,
                "overview": side.overview,
                "step_seconds": if with_times { side.seconds.clone() } else { Vec::new() },
                "settings": side.settings.iter().cloned().collect::<std::collections::BTreeMap<_, _>>(),
                "without": side.without,
                "label": label.map(|row| row.json(most_bits)),
                "mates": side.mates.map(|mates| json!({
                    "mates": mates.mates.0, "mates_together": mates.mates.1,
                    "others": mates.others.0, "others_together": mates.others.1,
                })),
            })
        })
        .collect();
    let label = comparison.labels.as_ref().zip(comparison.label.as_ref()).map(|(labels, field)| {
        json!({
            "field": field,
            "labels": labels.labels,
            "documents": labels.documents,
            "as_found": labels.rows.last().map(|row| row.json(most_bits)),
        })
    });
    json!({
        "compared": if comparison.of_runs { "runs" } else { "recipes" },
        "documents": comparison.documents,
        "sources": comparison.sources,
        "by": comparison.by,
        "label": label,
        "sides": sides,
        "pairs": comparison.pairs.iter().map(|pair| pair_json(comparison, pair, rows)).collect::<Vec<_>>(),
        "notes": comparison.notes,
    })
}

fn pair_json(comparison: &Comparison<'_>, pair: &PairFacts<'_>, rows: usize) -> Value {
    let both = &pair.vocabularies;
    let is_drift = pair.drift.is_some();
    let listed = |terms: Vec<(&str, Standing)>, pairing: Pairing<'_>, account: &Account| -> Vec<Value> {
        let names: Vec<&str> = terms.iter().map(|(term, _)| *term).collect();
        let reasons = if is_drift { Vec::new() } else { pairing.missing(&names) };
        let mut reasons = reasons.iter();
        terms
            .iter()
            .map(|(term, row)| {
                let missing = reasons.next();
                json!({"term": term, "count": row.count, "documents": row.documents, "rank": row.rank,
                       "why": missing.map(|missing| why(missing, account)),
                       "whither": missing.map(|missing| &missing.whither)})
            })
            .collect()
    };
    let gone = listed(both.gone().take(rows).collect(), pair.pairing, pair.pairing.there());
    let new = listed(both.new_there().take(rows).collect(), pair.pairing.reversed(), pair.pairing.here());
    let measures: serde_json::Map<String, Value> = pair
        .measures(&comparison.sides, comparison.labels.as_ref())
        .into_iter()
        .map(|(name, value)| (name.to_owned(), value.into()))
        .collect();
    let movers: Vec<TermPair<'_>> = both.movers().into_iter().take(rows).collect();
    json!({
        "here": comparison.sides[0].letter,
        "there": comparison.sides[pair.there].letter,
        "measures": measures,
        "steps": pair.steps,
        "vocabulary": {
            "common": both.common,
            "only_here": {"terms": both.only_here.0, "tokens": both.only_here.1, "list": gone},
            "only_there": {"terms": both.only_there.0, "tokens": both.only_there.1, "list": new},
            "movers": movers,
        },
        "together_here": together_json(&pair.together_here, rows, is_drift),
        "together_there": together_json(&pair.together_there, rows, is_drift),
        "splits": pair.splits.map(|splits| json!({
            "alike": splits.alike(),
            "kinds": splits.by_kind().map(|(kind, count)| json!({"kind": kind, "count": count})).collect::<Vec<_>>(),
            "list": splits.disagreements().into_iter().take(rows).collect::<Vec<_>>(),
        })),
        "documents": pair.changed.map(|changed| documents_json(changed, rows)),
        "drift": pair.drift.as_ref().map(|(drift, shift)| drift_json(drift, shift, rows)),
    })
}

fn documents_json(changed: &ChangedDocuments<ShownDocument>, rows: usize) -> Value {
    let document = |(change, document): (Change, &ShownDocument)| {
        json!({
            "id": document.id,
            "change": change,
            "share": change.share(),
            "text": document.text,
            "here": document.here,
            "there": document.there,
            "differences": stretches(document),
        })
    };
    let group = |(name, sums): (&String, &Contrast)| {
        let (documents, changed, terms) = (sums.documents, sums.changed, sums.terms);
        let row =
            json!({ "documents": documents, "changed": changed, "terms": terms, "share": terms.share() });
        (name.clone(), row)
    };
    json!({
        "all": changed.all(),
        "share": changed.all().terms.share(),
        "groups": changed.groups().iter().map(group).collect::<serde_json::Map<_, _>>(),
        "list": changed.top().take(rows).map(document).collect::<Vec<_>>(),
    })
}

/// What share of the documents is in each language, in both collections.
fn language_shares((here, there): &(BTreeMap<String, u64>, BTreeMap<String, u64>)) -> Value {
    let share = |counts: &BTreeMap<String, u64>, name: &String| {
        let all = counts.values().sum::<u64>().max(1) as f64;
        counts.get(name).copied().unwrap_or(0) as f64 / all
    };
    let names: BTreeSet<&String> = here.keys().chain(there.keys()).collect();
    let row = |name: &String| (name.clone(), json!([share(here, name), share(there, name)]));
    names.into_iter().map(row).collect::<serde_json::Map<_, _>>().into()
}

fn drift_json(drift: &Drift<'_>, shift: &CollectionShift, rows: usize) -> Value {
    let moved = |moved: &Moved<'_>| {
        let Moved { term, here, there, g2, log_ratio } = *moved;
        json!({ "term": term, "here": here, "there": there, "g2": g2, "log_ratio": log_ratio, "times": log_ratio.exp2() })
    };
    json!({
        "unknown_share": drift.unknown_share,
        "gone_share": drift.gone_share,
        "lengths": shift.lengths,
        "languages_here": shift.languages.0,
        "languages_there": shift.languages.1,
        "language_shares": language_shares(&shift.languages),
        "moved": drift.moved.iter().take(rows).map(moved).collect::<Vec<_>>(),
    })
}

/// The stretches of both cleaned texts of a document.
pub(super) fn stretches(document: &ShownDocument) -> Vec<Stretch<'_>> {
    let here: Vec<&str> = document.here.split_whitespace().collect();
    let there: Vec<&str> = document.there.split_whitespace().collect();
    differences(&here, &there)
}

fn together_json(conflation: &Conflation<'_>, rows: usize, is_drift: bool) -> Value {
    if is_drift {
        return Value::Null;
    }
    let list: Vec<_> = conflation.merged.iter().take(rows).collect();
    json!({"groups": conflation.merged.len(), "tokens": conflation.tokens, "list": list})
}
