//! `yarrup terms`: the vocabulary of a run.

use std::cmp::Ordering;
use std::io::Write;

use yarrup_core::Tag;
use yarrup_io::{TermEntry, read_account, term_entries, write_terms};
use yarrup_report::{Align, grouped, table, visible_name};

use crate::arguments::{TableFormat, TermOrder, TermsArguments};
use crate::failure::{Exit, Failure};
use crate::screen::Screen;

pub(crate) fn terms(arguments: &TermsArguments, screen: &Screen) -> Result<Exit, Failure> {
    let most = if arguments.top == 0 { usize::MAX } else { arguments.top };
    let account = read_account(&arguments.run)?;
    let vocabulary = account.vocabulary();
    let (all, entries) = (vocabulary.len() as u64, term_entries(&account, &vocabulary));
    // They come in the order of their counts.
    let is_sorted = arguments.sort == TermOrder::Count && !arguments.reverse;
    let mut terms: Vec<_> = entries.take(if is_sorted { most } else { usize::MAX }).collect();
    if !is_sorted {
        terms.sort_by(|a, b| {
            let order = compared(a, b, arguments.sort);
            if arguments.reverse { order.reverse() } else { order }
        });
    }
    terms.truncate(most);
    match arguments.format {
        TableFormat::Table => print_table(&terms, all, screen)?,
        TableFormat::Csv => {
            let mut out = screen.out_as(arguments.format);
            write_terms(terms, &mut out)?;
        }
        TableFormat::Json => {
            let mut out = screen.out_as(arguments.format);
            serde_json::to_writer_pretty(&mut out, &terms).map_err(std::io::Error::from)?;
            writeln!(out)?;
            out.flush()?;
        }
    }
    Ok(Exit::Done)
}

/// Ties are in the order of the counts, then of the bytes.
fn compared(a: &TermEntry<'_>, b: &TermEntry<'_>, order: TermOrder) -> Ordering {
    let first = match order {
        TermOrder::Count => b.count.cmp(&a.count),
        TermOrder::Documents => b.documents.cmp(&a.documents),
        TermOrder::Forms => b.forms.cmp(&a.forms),
        TermOrder::Term => a.term.cmp(b.term),
    };
    first.then(a.rank.cmp(&b.rank))
}

fn print_table(terms: &[TermEntry<'_>], all: u64, screen: &Screen) -> Result<(), Failure> {
    // A column for what no term has is no use.
    let tagged = terms.iter().any(|term| !term.tag.is_empty());
    let mut header = vec![
        ("rank", Align::Right),
        ("term", Align::Left),
        ("tokens", Align::Right),
        ("share", Align::Right),
        ("documents", Align::Right),
        ("kind", Align::Left),
        ("forms", Align::Right),
        ("commonest form", Align::Left),
    ];
    let rows: Vec<_> = terms
        .iter()
        .map(|term| {
            let mut cells = vec![
                grouped(term.rank),
                visible_name(term.term),
                grouped(term.count),
                format!("{:.2} %", term.share * 100.0),
                grouped(term.documents),
                term.kind.to_owned(),
                grouped(term.forms),
                visible_name(term.commonest_form),
            ];
            if tagged {
                cells.insert(6, Tag::named(term.tag).map_or("", Tag::name).to_owned());
            }
            cells
        })
        .collect();
    if tagged {
        header.insert(6, ("part of speech", Align::Left));
    }
    let mut out = screen.out();
    write!(out, "{}", table(&header, &rows, screen.look))?;
    let note = format!("{} of {} terms", grouped(terms.len() as u64), grouped(all));
    writeln!(out, "{}", screen.look.faint(&note))?;
    out.flush()?;
    Ok(())
}
