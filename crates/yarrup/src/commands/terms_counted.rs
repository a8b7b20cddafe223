//! What `terms` counts in the documents of a run: groups, weights, keyness.

use std::collections::HashMap;
use std::io::Write;

use yarrup_core::study::{Frequency, GroupBy, Keyness, Local, TermTable, Weight, holm, idf};
use yarrup_core::{Account, Condition};
use yarrup_io::TermEntry;
use yarrup_report::{grouped, visible, visible_name};

use crate::arguments::{LocalWeight, NEEDS_FIELD, TermsArguments};
use crate::counting::{ELSEWHERE, Grouping, HERE};
use crate::failure::{Failure, option};
use crate::rows::{Cell, Column, Rows};
use crate::screen::Screen;
use crate::studied::Studied;

/// How strongly a term marks documents.
pub(super) struct Key {
    pub(super) tokens: Keyness,
    documents: Keyness,
    /// Tokens and documents here and elsewhere.
    here: (u64, u64),
    elsewhere: (u64, u64),
    /// Of how many tokens, here and elsewhere.
    of: (u64, u64),
    /// The probability by tokens, corrected for the number of terms.
    corrected: f64,
}

/// Terms with fewer tokens are not tested for what they mark, unless another least number is asked for.
pub(super) const LEAST_KEY: u64 = 3;

impl Key {
    /// Whether it is on the side that is asked for.
    pub(super) fn takes(&self, arguments: &TermsArguments) -> bool {
        self.tokens.is_commoner != arguments.reverse
    }
}

/// What was counted in the documents, where something had to be.
pub(super) struct Counted<'a> {
    table: Option<TermTable>,
    weights: &'a [Weight],
    local: Option<Local>,
    documents: u64,
}

impl<'a> Counted<'a> {
    /// Counts what the arguments ask for.
    pub(super) fn of(
        arguments: &'a TermsArguments,
        account: &Account,
        screen: &Screen,
    ) -> Result<Counted<'a>, Failure> {
        let by = |name, written: &String| GroupBy::read(written).map_err(|why| option(name, &why));
        let needs_groups = arguments.weight.iter().any(|weight| weight.needs_groups());
        if needs_groups && arguments.with.is_none() {
            return Err(option("weight", NEEDS_FIELD));
        }
        if arguments.by.is_some() && arguments.with.is_some() && arguments.by != arguments.with {
            return Err(option(
                "with",
                "counts by one field at a time: name the one of --by, or leave one out",
            ));
        }
        let grouping = match (&arguments.key, &arguments.by, &arguments.with) {
            (Some(condition), ..) => {
                Grouping::Key(Condition::read(condition).map_err(|why| option("key", &why))?)
            }
            (_, Some(written), _) => Grouping::By(by("by", written)?),
            (.., Some(written)) => Grouping::By(by("with", written)?),
            _ => Grouping::Together,
        };
        let from_account = matches!(grouping, Grouping::Together)
            && arguments.local.is_none_or(|local| local != LocalWeight::Log)
            && arguments.weight.iter().all(|weight| *weight == Weight::Idf);
        let table = match from_account {
            true => None,
            false => Some(Studied::open(&arguments.run)?.tally(grouping, screen)?),
        };
        let local = arguments.local.map(|local| match local {
            LocalWeight::Binary => Local::Binary,
            LocalWeight::Count => Local::Count,
            LocalWeight::Log => Local::Log,
        });
        let documents = account.totals.documents - account.totals.dropped;
        Ok(Counted { table, weights: &arguments.weight, local, documents })
    }

    /// The weights of a term, each followed by its sum if one is asked for.
    pub(super) fn weights(&self, entry: &TermEntry<'_>) -> Vec<f64> {
        let spread = self.table.as_ref().map(|table| table.spread(entry.term)).unwrap_or_default();
        let sum = |local| match (local, &self.table) {
            (_, Some(_)) => spread.sum(local),
            (Local::Binary, None) => entry.documents as f64,
            (_, None) => entry.count as f64,
        };
        let mut weights = Vec::new();
        for weight in self.weights {
            let value = match &self.table {
                Some(table) => table.weight(*weight, entry.term),
                None => idf(entry.documents, self.documents),
            };
            weights.push(value);
            weights.extend(self.local.map(|local| value * sum(local)));
        }
        weights
    }

    /// Adds the weights as columns.
    pub(super) fn add_weights<'w>(&self, rows: &mut Rows, weights: impl Iterator<Item = &'w Vec<f64>>) {
        if !self.weights.is_empty() {
            leave_out_of_tables(rows);
        }
        for weight in self.weights {
            rows.columns.push(Column::new(weight.name(), &weight.name().replace('_', " ")));
            if self.local.is_some() {
                let sum = format!("sum_{}", weight.name());
                rows.columns.push(Column::new(&sum, &sum.replace('_', " ")));
            }
        }
        for (row, weights) in rows.rows.iter_mut().zip(weights) {
            row.extend(weights.iter().map(|weight| Cell::Number(*weight)));
        }
    }

    /// How strongly each of these terms marks the documents that are asked for.
    pub(super) fn keys<'t>(&self, terms: &[TermEntry<'t>]) -> HashMap<&'t str, Key> {
        let Some(table) = &self.table else { return HashMap::new() };
        let place = |name: &str| table.groups().iter().position(|group| group.name == name);
        let totals = |place: Option<usize>| {
            place.map_or((0, 0), |place| (table.groups()[place].tokens, table.groups()[place].documents))
        };
        let (here, elsewhere) = (place(HERE), place(ELSEWHERE));
        let (all_here, all_elsewhere) = (totals(here), totals(elsewhere));
        let mut keys: Vec<(&str, Key)> = Vec::with_capacity(terms.len());
        for entry in terms {
            let counts = table.in_groups(entry.term);
            let count = |place: Option<usize>| place.map_or((0, 0), |place| counts[place]);
            let (here, elsewhere) = (count(here), count(elsewhere));
            let frequency = |count, of| Frequency { count, of };
            let tokens = Keyness::of(frequency(here.0, all_here.0), frequency(elsewhere.0, all_elsewhere.0));
            let documents =
                Keyness::of(frequency(here.1, all_here.1), frequency(elsewhere.1, all_elsewhere.1));
            let of = (all_here.0, all_elsewhere.0);
            keys.push((entry.term, Key { tokens, documents, here, elsewhere, of, corrected: 1.0 }));
        }
        let corrected = holm(&keys.iter().map(|(_, key)| key.tokens.p).collect::<Vec<_>>());
        for ((_, key), p) in keys.iter_mut().zip(corrected) {
            key.corrected = p;
        }
        keys.into_iter().collect()
    }

    /// Adds the values of the field as columns.
    pub(super) fn add_groups<'t>(&self, rows: &mut Rows, terms: impl Iterator<Item = &'t str>) {
        let Some(table) = &self.table else { return };
        leave_out_of_tables(rows);
        for group in table.groups() {
            rows.columns.push(Column::new(&group.name, &visible_name(&group.name)).giving_way());
        }
        for (row, term) in rows.rows.iter_mut().zip(terms) {
            row.extend(table.in_groups(term).into_iter().map(|(tokens, _)| Cell::Count(tokens)));
        }
    }

    /// Documents, tokens and terms of each value.
    pub(super) fn totals(&self) -> Result<(Rows, u64), Failure> {
        let Some(table) = &self.table else {
            return Err(option("totals", "needs --by and a field"));
        };
        let all: u64 = table.groups().iter().map(|group| group.tokens).sum();
        let columns = vec![
            Column::new("value", "value"),
            Column::new("documents", "documents"),
            Column::new("tokens", "tokens"),
            Column::new("share", "share"),
            Column::new("terms", "terms"),
        ];
        let rows = table.groups().iter().map(|group| {
            vec![
                Cell::Text(group.name.clone()),
                Cell::Count(group.documents),
                Cell::Count(group.tokens),
                Cell::Share(group.tokens as f64 / all.max(1) as f64),
                Cell::Count(group.terms),
            ]
        });
        Ok((Rows { columns, rows: rows.collect() }, table.groups().len() as u64))
    }

    /// What stands above the terms: the values with their totals, or what is compared with what.
    pub(super) fn print_head(&self, arguments: &TermsArguments, screen: &Screen) -> Result<(), Failure> {
        let Some(table) = &self.table else { return Ok(()) };
        let mut out = screen.out();
        if let Some(by) = &arguments.by {
            let (mut rows, _) = self.totals()?;
            rows.columns[0].title = visible(by);
            writeln!(out, "{}", rows.table(screen.look))?;
        } else if let Some(condition) = &arguments.key {
            let group = |name: &str| {
                let group = table.groups().iter().find(|group| group.name == name);
                group.map_or("nothing".to_owned(), |group| {
                    format!("{} documents with {} tokens", grouped(group.documents), grouped(group.tokens))
                })
            };
            let side = if arguments.reverse { "rarer" } else { "commoner" };
            let head = format!("Terms that are {side} where {}", visible(condition));
            writeln!(out, "{}", screen.look.heading(&head))?;
            let what = format!("here: {}; elsewhere: {}", group(HERE), group(ELSEWHERE));
            writeln!(out, "{}\n", screen.look.faint(&what))?;
        }
        out.flush()?;
        Ok(())
    }
}

/// Leaves out of tables for people what gives way to the columns that were asked for.
fn leave_out_of_tables(rows: &mut Rows) {
    let aside = ["kind", "forms", "commonest_form", "share", "tag"];
    for column in rows.columns.iter_mut().filter(|column| aside.contains(&column.name.as_str())) {
        column.in_tables = false;
    }
}

/// Adds how strongly each term marks the documents.
pub(super) fn add_keys<'k>(rows: &mut Rows, keys: impl Iterator<Item = &'k Key>) {
    let shown = ["term"];
    for column in &mut rows.columns {
        column.in_tables = shown.contains(&column.name.as_str());
    }
    for (name, title) in [
        ("here", "here"),
        ("here_per_1000", "per 1,000"),
        ("elsewhere", "elsewhere"),
        ("elsewhere_per_1000", "per 1,000 there"),
        ("log_ratio", "log ratio"),
        ("g2", "G²"),
        ("p", "p (Holm)"),
        ("documents_here", "documents here"),
        ("documents_elsewhere", "elsewhere"),
        ("documents_g2", "their G²"),
        ("documents_log_ratio", "log ratio by documents"),
    ] {
        let column = Column::new(name, title);
        let is_aside = matches!(name, "documents_log_ratio" | "elsewhere_per_1000" | "here_per_1000");
        rows.columns.push(if is_aside { column.aside() } else { column.giving_way() });
    }
    let per_thousand = |count: u64, of: u64| Cell::Number(count as f64 * 1000.0 / of.max(1) as f64);
    for (row, key) in rows.rows.iter_mut().zip(keys) {
        row.extend([
            Cell::Count(key.here.0),
            per_thousand(key.here.0, key.of.0),
            Cell::Count(key.elsewhere.0),
            per_thousand(key.elsewhere.0, key.of.1),
            Cell::Number(key.tokens.log_ratio),
            Cell::Number(key.tokens.g2),
            Cell::Probability(key.corrected),
            Cell::Count(key.here.1),
            Cell::Count(key.elsewhere.1),
            Cell::Number(key.documents.g2),
            Cell::Number(key.documents.log_ratio),
        ]);
    }
}
