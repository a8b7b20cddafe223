//! `yarrup terms`: the vocabulary of a run, and what was dropped from it.

use std::collections::{HashMap, HashSet};
use std::io::Write;

use yarrup_core::study::{Wanted, alphabetical};
use yarrup_core::{Account, FormFate, Kind, Tag};
use yarrup_io::{TermEntry, form_entry, read_account, term_entries, write_terms};
use yarrup_report::{grouped, percent, visible_name};

use super::terms_counted::{Counted, Key, LEAST_KEY, add_keys};
use crate::arguments::{TableFormat, TermOrder, TermsArguments};
use crate::failure::{Exit, Failure, option};
use crate::rows::{Cell, Column, Rows};
use crate::screen::Screen;

pub(crate) fn terms(arguments: &TermsArguments, screen: &Screen) -> Result<Exit, Failure> {
    let account = read_account(&arguments.run)?;
    let chosen = Chosen::of(arguments, &account)?;
    let is_by_tag = arguments.by.as_deref() == Some("tag") || arguments.tag.is_some();
    if arguments.dropped {
        return print(dropped(arguments, &account, &chosen), arguments, "words", screen);
    }
    if is_by_tag {
        return print(by_tag(arguments, &account, &chosen)?, arguments, "rows", screen);
    }
    let vocabulary = account.vocabulary();
    let entries = term_entries(&account, &vocabulary).filter(|entry| chosen.takes(entry));
    let mut terms: Vec<TermEntry<'_>> = entries.collect();
    let counted = Counted::of(arguments, &account, screen)?;
    if arguments.totals {
        let (rows, all) = counted.totals()?;
        return print((rows, all), &TermsArguments { top: 0, ..unsorted(arguments) }, "values", screen);
    }
    let mut weights: Vec<Vec<f64>> = Vec::new();
    let mut keys: HashMap<&str, Key> = HashMap::new();
    if arguments.key.is_some() {
        terms.retain(|entry| entry.count >= arguments.at_least.unwrap_or(LEAST_KEY));
        keys = counted.keys(&terms);
        terms.retain(|entry| keys.get(entry.term).is_some_and(|key| key.takes(arguments)));
    } else if !arguments.weight.is_empty() {
        weights = terms.iter().map(|entry| counted.weights(entry)).collect();
    }
    let default = if arguments.key.is_some() { TermOrder::Weight } else { TermOrder::Count };
    let mut order: Vec<usize> = (0..terms.len()).collect();
    let sort = arguments.sort.unwrap_or(default);
    let strength = |row: usize| match keys.get(terms[row].term) {
        Some(key) => key.tokens.g2,
        None => weights.get(row).and_then(|weights| weights.first()).copied().unwrap_or(0.0),
    };
    match sort {
        TermOrder::Term => order.sort_by_cached_key(|row| alphabetical(terms[*row].term)),
        _ => order.sort_by(|a, b| {
            let (one, other) = (&terms[*a], &terms[*b]);
            let first = match sort {
                TermOrder::Documents => other.documents.cmp(&one.documents),
                TermOrder::Forms => other.forms.cmp(&one.forms),
                TermOrder::Weight => strength(*b).total_cmp(&strength(*a)),
                _ => other.count.cmp(&one.count),
            };
            // Ties are in the order of the counts, then of the bytes.
            first.then(one.rank.cmp(&other.rank))
        }),
    }
    // With --key the other way round are the terms that the documents lack.
    if arguments.reverse && arguments.key.is_none() {
        order.reverse();
    }
    let all = order.len() as u64;
    order.truncate(most(arguments));
    let is_plain = arguments.by.is_none() && arguments.key.is_none() && arguments.weight.is_empty();
    if is_plain && arguments.format == TableFormat::Csv && arguments.columns.is_empty() && !arguments.forms {
        let mut out = screen.out_as(arguments.format);
        write_terms(order.into_iter().map(|row| (terms[row].clone(), Vec::new())), &[], &mut out)?;
        return Ok(Exit::Done);
    }
    if arguments.forms {
        let listed = order.iter().map(|row| &terms[*row]);
        return print_forms(listed, &account, all, arguments, screen);
    }
    let mut rows = term_rows(order.iter().map(|row| &terms[*row]));
    if arguments.key.is_some() {
        add_keys(&mut rows, order.iter().map(|row| &keys[terms[*row].term]));
    }
    if arguments.by.is_some() {
        counted.add_groups(&mut rows, order.iter().map(|row| terms[*row].term));
    }
    counted.add_weights(&mut rows, order.iter().filter_map(|row| weights.get(*row)));
    if arguments.format == TableFormat::Table {
        counted.print_head(arguments, screen)?;
    }
    print_some((rows, all), arguments, "terms", screen)
}

fn most(arguments: &TermsArguments) -> usize {
    if arguments.top == 0 { usize::MAX } else { arguments.top }
}

/// The arguments without an order, for rows that have one of their own.
fn unsorted(arguments: &TermsArguments) -> TermsArguments {
    TermsArguments {
        run: arguments.run.clone(),
        sort: None,
        matches: None,
        kind: Vec::new(),
        tag: None,
        label: None,
        by: None,
        key: None,
        weight: Vec::new(),
        with: None,
        columns: arguments.columns.clone(),
        ..*arguments
    }
}

/// Which terms are wanted.
struct Chosen {
    pattern: Option<Wanted>,
    kinds: Vec<Kind>,
    /// The terms with the label that is asked for.
    labelled: Option<HashSet<String>>,
    count: u64,
    documents: u64,
}

impl Chosen {
    fn of(arguments: &TermsArguments, account: &Account) -> Result<Chosen, Failure> {
        let pattern = arguments.matches.as_ref().map(|pattern| Wanted::matching("--matches", pattern));
        let kind = |name: &String| {
            Kind::named(name).ok_or_else(|| {
                option("kind", &format!("no kind `{name}`; there are {}", Kind::NAMES.join(", ")))
            })
        };
        let labelled = match &arguments.label {
            Some(label) if !account.labels.contains(label) => {
                let known = match account.labels.as_slice() {
                    [] => "no step of the recipe gives labels".to_owned(),
                    labels => format!("there are {}", labels.join(", ")),
                };
                return Err(option("label", &format!("no label `{label}`; {known}")));
            }
            Some(label) => {
                Some(account.terms_with_label(label).into_iter().map(|(term, _)| term.to_owned()).collect())
            }
            None => None,
        };
        Ok(Chosen {
            pattern: pattern.transpose().map_err(Failure::Sentence)?,
            kinds: arguments.kind.iter().map(kind).collect::<Result<_, _>>()?,
            labelled,
            count: arguments.at_least.unwrap_or(0),
            documents: arguments.documents_at_least.unwrap_or(0),
        })
    }

    fn takes(&self, entry: &TermEntry<'_>) -> bool {
        self.takes_text(entry.term) && entry.count >= self.count && entry.documents >= self.documents
    }

    fn takes_text(&self, text: &str) -> bool {
        self.pattern.as_ref().is_none_or(|pattern| !pattern.hits(&[[text]]).is_empty())
            && (self.kinds.is_empty() || self.kinds.contains(&Kind::of(text)))
            && self.labelled.as_ref().is_none_or(|labelled| labelled.contains(text))
    }
}

fn term_rows<'a>(terms: impl Iterator<Item = &'a TermEntry<'a>>) -> Rows {
    let columns = vec![
        Column::new("rank", "rank"),
        Column::new("term", "term"),
        Column::new("count", "tokens"),
        Column::new("documents", "documents"),
        Column::new("share", "share"),
        Column::new("cumulative_share", "cumulative share").aside(),
        Column::new("kind", "kind").giving_way(),
        Column::new("tag", "part of speech"),
        Column::new("forms", "forms").giving_way(),
        Column::new("commonest_form", "commonest form").giving_way(),
    ];
    let row = |term: &TermEntry<'_>| {
        vec![
            Cell::Count(term.rank),
            Cell::Text(term.term.to_owned()),
            Cell::Count(term.count),
            Cell::Count(term.documents),
            Cell::Share(term.share),
            Cell::Share(term.cumulative_share),
            Cell::Text(term.kind.to_owned()),
            Cell::Tag(Tag::named(term.tag)),
            Cell::Count(term.forms),
            Cell::Text(term.commonest_form.to_owned()),
        ]
    };
    Rows { columns, rows: terms.map(row).collect() }
}

/// The words that were dropped, the commonest first, and how many there are.
fn dropped(arguments: &TermsArguments, account: &Account, chosen: &Chosen) -> (Rows, u64) {
    let columns = vec![
        Column::new("form", "word"),
        Column::new("count", "tokens"),
        Column::new("documents", "documents"),
        Column::new("share", "share"),
        Column::new("kind", "kind"),
        Column::new("tag", "part of speech"),
        Column::new("step", "step"),
        Column::new("reason", "reason"),
    ];
    let found = account.totals.tokens_found;
    let rows = account.forms().filter_map(|row| {
        let FormFate::Dropped { step, .. } = row.fate else { return None };
        let taken = chosen.takes_text(row.text)
            && row.count >= chosen.count
            && row.documents >= chosen.documents
            && arguments.step.is_none_or(|asked| asked == step);
        let reason = form_entry(account, &row).reason.to_owned();
        taken.then(|| {
            vec![
                Cell::Text(row.text.to_owned()),
                Cell::Count(row.count),
                Cell::Count(row.documents),
                Cell::Share(row.count as f64 / found.max(1) as f64),
                Cell::Text(Kind::of(row.text).name().to_owned()),
                Cell::Tag(row.tag),
                Cell::Count(step as u64),
                Cell::Text(reason),
            ]
        })
    });
    let rows: Vec<_> = rows.collect();
    let all = rows.len() as u64;
    (Rows { columns, rows }, all)
}

/// Every term with each part of speech, a row each.
fn by_tag(arguments: &TermsArguments, account: &Account, chosen: &Chosen) -> Result<(Rows, u64), Failure> {
    let wanted = match &arguments.tag {
        Some(name) => Some(Tag::named(name).ok_or_else(|| {
            let names: Vec<&str> = Tag::ALL.iter().map(|tag| tag.name()).collect();
            option("tag", &format!("no part of speech `{name}`; there are {}", names.join(", ")))
        })?),
        None => None,
    };
    let rows = account.terms_by_tag();
    if rows.iter().all(|(_, tag, _)| tag.is_none()) {
        return Err(Failure::Sentence(
            "the recipe of this run gives no parts of speech; a `tag` step does".to_owned(),
        ));
    }
    let kept = account.totals.tokens_kept;
    let columns = vec![
        Column::new("term", "term"),
        Column::new("tag", "part of speech"),
        Column::new("count", "tokens"),
        Column::new("share", "share"),
        Column::new("kind", "kind"),
    ];
    let row = |(term, tag, count): (&str, Option<Tag>, u64)| {
        let taken = chosen.takes_text(term)
            && count >= chosen.count
            && wanted.is_none_or(|wanted| tag == Some(wanted))
            && (chosen.documents == 0 || account.documents_of(term) >= chosen.documents);
        taken.then(|| {
            vec![
                Cell::Text(term.to_owned()),
                Cell::Tag(tag),
                Cell::Count(count),
                Cell::Share(count as f64 / kept.max(1) as f64),
                Cell::Text(Kind::of(term).name().to_owned()),
            ]
        })
    };
    let rows: Vec<_> = rows.into_iter().filter_map(row).collect();
    let all = rows.len() as u64;
    Ok((Rows { columns, rows }, all))
}

/// Prints rows that are sorted by their counts and not yet cut.
fn print(
    (mut rows, all): (Rows, u64),
    arguments: &TermsArguments,
    noun: &str,
    screen: &Screen,
) -> Result<Exit, Failure> {
    if arguments.sort == Some(TermOrder::Term) {
        rows.rows.sort_by_cached_key(|row| match &row[0] {
            Cell::Text(text) => alphabetical(text),
            _ => alphabetical(""),
        });
    }
    if arguments.reverse {
        rows.rows.reverse();
    }
    rows.rows.truncate(most(arguments));
    print_some((rows, all), arguments, noun, screen)
}

fn print_some(
    (mut rows, all): (Rows, u64),
    arguments: &TermsArguments,
    noun: &str,
    screen: &Screen,
) -> Result<Exit, Failure> {
    if !arguments.columns.is_empty() {
        rows.choose(&arguments.columns)?;
    }
    rows.print_some(all, noun, arguments.format, screen)?;
    Ok(Exit::Done)
}

/// Each term with the forms that became it, as a small tree.
fn print_forms<'a>(
    terms: impl Iterator<Item = &'a TermEntry<'a>>,
    account: &Account,
    all: u64,
    arguments: &TermsArguments,
    screen: &Screen,
) -> Result<Exit, Failure> {
    let mut of: HashMap<&str, Vec<(&str, u64)>> = HashMap::new();
    for row in account.forms() {
        if let FormFate::Kept { term } = row.fate {
            let forms = of.entry(term).or_default();
            match forms.iter_mut().find(|(form, _)| *form == row.text) {
                Some((_, count)) => *count += row.count,
                None => forms.push((row.text, row.count)),
            }
        }
    }
    for forms in of.values_mut() {
        forms.sort_by(|a, b| b.1.cmp(&a.1).then(a.0.cmp(b.0)));
    }
    let terms: Vec<_> = terms.collect();
    let forms = |entry: &TermEntry<'_>| of.get(entry.term).map_or(&[] as &[_], Vec::as_slice);
    if arguments.format != TableFormat::Table {
        let columns =
            [("term", "term"), ("count", "tokens"), ("form", "form"), ("form_count", "tokens of the form")];
        let rows = terms.iter().flat_map(|entry| {
            forms(entry).iter().map(|(form, count)| {
                vec![
                    Cell::Text(entry.term.to_owned()),
                    Cell::Count(entry.count),
                    Cell::Text((*form).to_owned()),
                    Cell::Count(*count),
                ]
            })
        });
        let columns = columns.iter().map(|(name, title)| Column::new(name, title)).collect();
        return print_some((Rows { columns, rows: rows.collect() }, all), arguments, "terms", screen);
    }
    let mut out = screen.out();
    for entry in &terms {
        let head = format!("{} {}", screen.look.heading(&visible_name(entry.term)), grouped(entry.count));
        writeln!(out, "{head}")?;
        let forms = forms(entry);
        // A term that is its only form has nothing to show.
        if forms.len() == 1 && forms[0].0 == entry.term {
            continue;
        }
        for (number, (form, count)) in forms.iter().enumerate() {
            let branch = if number + 1 == forms.len() { "└" } else { "├" };
            let (count, share) = (grouped(*count), percent(*count, entry.count));
            writeln!(
                out,
                "  {branch} {} {}",
                visible_name(form),
                screen.look.faint(&format!("{count} · {share}"))
            )?;
        }
    }
    let note = format!("{} of {} terms", grouped(terms.len() as u64), grouped(all));
    writeln!(out, "{}", screen.look.faint(&note))?;
    out.flush()?;
    Ok(Exit::Done)
}
