//! `yarrup suggest`: what a run suggests to try next, with what shows it, ready to go into the recipe.

use std::collections::BTreeSet;
use std::io::Write;
use std::path::Path;
use std::sync::{Mutex, PoisonError};

use unicode_width::UnicodeWidthStr as _;
use yarrup_core::Outputs;
use yarrup_core::suggest::{Evidence, Inquiry, Proposal, Sort, Suggestion, accept};
use yarrup_io::{Numbered, TableWriter, read_account, refuse_taken, write_file};
use yarrup_report::{counted, excerpt, grouped, visible};

use crate::arguments::{SuggestArguments, TableFormat};
use crate::choose_arguments::DEFAULT_TOP;
use crate::counting::RunPass;
use crate::failure::{Exit, Failure, meant, option};
use crate::reading::threads;
use crate::recipe_file::{compile, compile_text, lists_beside};
use crate::rows::{Cell, Column, Rows};
use crate::screen::{Screen, program, shell_word};
use crate::studied::{Again, Studied};

pub(crate) fn suggest(arguments: &SuggestArguments, screen: &Screen) -> Result<Exit, Failure> {
    if let Some(file) = &arguments.write {
        refuse_taken(file, arguments.replace)?;
    }
    if !arguments.accept.is_empty() && arguments.recipe.is_none() && arguments.write.is_none() {
        return Err(option("accept", "say where it goes: --recipe RECIPE, or --write FILE"));
    }
    let sorts = sorts(&arguments.only)?;
    let run = Studied::open(&arguments.run)?;
    let account = read_account(&arguments.run)?;
    let inquiry = Inquiry::new(&account, &run.compiled.recipe, &run.compiled.pipeline, &sorts);
    let all = inquiry.suggestions(gathered(&run, &inquiry, screen)?);
    let shown = first_of_each(all, arguments.top);
    if let Some(recipe) = &arguments.recipe {
        return accept_into(recipe, &chosen(&arguments.accept, &shown.rows)?, screen);
    }
    if let Some(file) = &arguments.write {
        let chosen = match arguments.accept.as_slice() {
            [] => shown.rows.iter().collect(),
            choice => chosen(choice, &shown.rows)?,
        };
        return write_list(file, &chosen, screen);
    }
    match arguments.format {
        TableFormat::Table => print_text(&shown, arguments, screen)?,
        format => {
            let mut out = screen.out_as(format);
            as_rows(&shown.rows).print(format, screen.look, &mut out)?;
            out.flush()?;
        }
    }
    Ok(Exit::Done)
}

/// The sorts that are asked for: all but names, which every text has.
fn sorts(names: &[String]) -> Result<Vec<Sort>, Failure> {
    if names.is_empty() {
        return Ok(Sort::ALL.into_iter().filter(|sort| *sort != Sort::Names).collect());
    }
    names.iter().map(|name| sort_named(name).ok_or_else(|| no_sort("only", name))).collect()
}

fn sort_named(name: &str) -> Option<Sort> {
    Sort::named(&name.replace(['_', ' '], "-"))
}

fn no_sort(name: &str, written: &str) -> Failure {
    let known = Sort::ALL.into_iter().map(Sort::name);
    option(name, &format!("no sort `{}`; {}", visible(written), meant(written, known)))
}

/// Takes the documents of the run through a pass, or two.
fn gathered<'i>(run: &Studied, inquiry: &'i Inquiry<'i>, screen: &Screen) -> Result<Evidence<'i>, Failure> {
    let mut prepared = Vec::new();
    loop {
        let gathering = Gathering { run, inquiry, prepared: Mutex::new(prepared) };
        let states = run.try_pass(&gathering, screen)?;
        let left = gathering.prepared.into_inner().unwrap_or_else(PoisonError::into_inner);
        let mut sum: Option<Evidence<'i>> = None;
        for (_, evidence) in states {
            match &mut sum {
                Some(sum) => sum.absorb(evidence),
                None => sum = Some(evidence),
            }
        }
        let mut sum = sum.unwrap_or_else(|| inquiry.begin());
        left.into_iter().for_each(|evidence| sum.absorb(evidence));
        if !sum.needs_another_pass() {
            return Ok(sum);
        }
        prepared = (1..threads(None)).map(|_| sum.fresh()).collect();
        prepared.push(sum);
    }
}

struct Gathering<'r, 'i> {
    run: &'r Studied,
    inquiry: &'i Inquiry<'i>,
    /// What workers begin with in a second pass.
    prepared: Mutex<Vec<Evidence<'i>>>,
}

impl<'r, 'i> RunPass for Gathering<'r, 'i> {
    type State = (Again<'r>, Evidence<'i>);

    fn state(&self) -> Self::State {
        let mut prepared = self.prepared.lock().unwrap_or_else(PoisonError::into_inner);
        let outputs = Outputs { tokens: true, ends: true, ..Outputs::default() };
        (Again::new(self.run, outputs), prepared.pop().unwrap_or_else(|| self.inquiry.begin()))
    }

    fn document(&self, (again, evidence): &mut Self::State, document: &Numbered<'_>) -> Result<(), Failure> {
        let record = &document.record;
        let text = self.run.original(record)?;
        let cleaned = again.document(record, &text)?;
        evidence.document(document.order, &text, &cleaned);
        Ok(())
    }
}

/// The suggestions that are shown, numbered from 1 in this order, and how many more there are of each sort.
struct Shown {
    rows: Vec<Suggestion>,
    more: Vec<(Sort, u64)>,
}

fn first_of_each(all: Vec<Suggestion>, top: usize) -> Shown {
    let most = if top == 0 { usize::MAX } else { top };
    let mut shown = Shown { rows: Vec::new(), more: Vec::new() };
    let mut all = all.into_iter().peekable();
    while let Some(sort) = all.peek().map(|one| one.sort) {
        let mut of_sort = Vec::new();
        while let Some(one) = all.next_if(|one| one.sort == sort) {
            of_sort.push(one);
        }
        let more = of_sort.len().saturating_sub(most) as u64;
        shown.more.push((sort, more));
        of_sort.truncate(most);
        shown.rows.extend(of_sort);
    }
    shown
}

/// The longest line of a passage that is shown, in characters.
const WIDEST: usize = 72;
/// The fewest columns for what a suggestion is about, and for what shows it.
const LEAST: usize = 14;
/// The columns of a row that neither of these nor the digits of the count take up.
const BESIDE: usize = 12;

fn print_text(shown: &Shown, arguments: &SuggestArguments, screen: &Screen) -> Result<(), Failure> {
    let mut out = screen.out();
    if shown.rows.is_empty() {
        writeln!(out, "nothing to suggest: what was looked for is in order")?;
    }
    let mut number = 0;
    for (sort, more) in &shown.more {
        writeln!(out, "{}", screen.look.heading(sort.title()))?;
        let rows: Vec<&Suggestion> = shown.rows.iter().filter(|one| one.sort == *sort).collect();
        let counts = rows.iter().map(|one| grouped(one.count).len()).max().unwrap_or(0);
        // In a narrow window, what it is about and what shows it share the room.
        let room = screen.look.width.saturating_sub(counts + BESIDE);
        let widest = match screen.look.wraps {
            true => WIDEST.min(screen.look.width / 2).min(room.saturating_sub(LEAST)).max(LEAST),
            false => WIDEST,
        };
        let width = rows.iter().map(|one| excerpt(&one.what, widest).width()).max().unwrap_or(0);
        for one in &rows {
            number += 1;
            let what = excerpt(&one.what, widest);
            let because = match screen.look.wraps {
                true => excerpt(&one.because, room.saturating_sub(width).max(LEAST)),
                false => visible(&one.because),
            };
            let count = if one.count > 0 { format!("{}×", grouped(one.count)) } else { String::new() };
            writeln!(
                out,
                " {number:>3}  {what}{}  {count:>counts$}  {}",
                " ".repeat(width - what.width()),
                screen.look.faint(&because),
                counts = counts + 1
            )?;
            if let Proposal::Step { toml, .. } = &one.proposal {
                for line in toml.lines().filter(|line| *line != "[[step]]") {
                    writeln!(out, "        {}", screen.look.faint(line))?;
                }
            }
        }
        if *more > 0 {
            writeln!(
                out,
                "      {}",
                screen.look.faint(&format!("and {} more: --top 0 shows them", grouped(*more)))
            )?;
        }
        writeln!(out)?;
    }
    if !shown.rows.is_empty() {
        let (program, run) = (program(), shell_word(&arguments.run.display().to_string()));
        let only = match arguments.only.as_slice() {
            [] => String::new(),
            only => format!(" --only {}", shell_word(&only.join(","))),
        };
        writeln!(out, "Write the ones that you choose into a recipe:")?;
        // The numbers are those of this call.
        let top =
            if arguments.top == DEFAULT_TOP { String::new() } else { format!(" --top {}", arguments.top) };
        let command = format!("  {program} suggest {run}{only}{top} --accept 1,3-5 --recipe RECIPE");
        writeln!(out, "{}", screen.look.command(&command))?;
    }
    out.flush()?;
    Ok(())
}

fn as_rows(shown: &[Suggestion]) -> Rows {
    let names = ["number", "sort", "entry", "becomes", "label", "count", "documents", "because", "step"];
    let columns = names.iter().map(|name| Column::new(name, name)).collect();
    let row = |(number, one): (u64, &Suggestion)| {
        let (entry, becomes, label, step) = parts(one);
        vec![
            Cell::Count(number),
            Cell::Text(one.sort.name().to_owned()),
            Cell::Text(entry),
            Cell::Text(becomes),
            Cell::Text(label),
            Cell::Count(one.count),
            Cell::Count(one.documents),
            Cell::Text(one.because.clone()),
            Cell::Text(step),
        ]
    };
    Rows { columns, rows: (1..).zip(shown).map(row).collect() }
}

/// What goes into a list: the entry, what it becomes, the label of a name; and the step, where it is one.
fn parts(one: &Suggestion) -> (String, String, String, String) {
    let nothing = String::new;
    match &one.proposal {
        Proposal::StopWord(word) | Proposal::Phrase(word) | Proposal::Passage(word) => {
            (word.clone(), nothing(), nothing(), nothing())
        }
        Proposal::Equate { from, to } => (from.clone(), to.clone(), nothing(), nothing()),
        Proposal::Lines(lines) => (lines.join("\n"), nothing(), nothing(), nothing()),
        Proposal::Name { name, label } => (name.clone(), nothing(), (*label).to_owned(), nothing()),
        Proposal::Step { toml, .. } => (one.what.clone(), nothing(), nothing(), toml.clone()),
    }
}

/// The suggestions that were chosen, in their order.
fn chosen<'s>(choice: &[String], shown: &'s [Suggestion]) -> Result<Vec<&'s Suggestion>, Failure> {
    let mut numbers: BTreeSet<usize> = BTreeSet::new();
    for written in choice.iter().map(|written| written.trim()).filter(|written| !written.is_empty()) {
        if written == "all" {
            numbers.extend(1..=shown.len());
            continue;
        }
        if let Some(sort) = sort_named(written) {
            numbers.extend((1..).zip(shown).filter(|(_, one)| one.sort == sort).map(|(number, _)| number));
            continue;
        }
        let (from, to) = written.split_once('-').unwrap_or((written, written));
        let range = from.trim().parse::<usize>().ok().zip(to.trim().parse::<usize>().ok());
        match range {
            Some((from, to)) if from >= 1 && from <= to && to <= shown.len() => numbers.extend(from..=to),
            Some(_) => {
                let there = match shown.len() {
                    0 => "there are none".to_owned(),
                    last => format!("there are 1 to {last}"),
                };
                let why = format!("{} is not the number of a suggestion; {there}", visible(written));
                return Err(option("accept", &why));
            }
            None if written.starts_with(|c: char| c.is_ascii_digit()) => {
                return Err(option(
                    "accept",
                    &format!("`{}` is neither a number nor a range such as 3-7", visible(written)),
                ));
            }
            None => return Err(no_sort("accept", written)),
        }
    }
    Ok(numbers.into_iter().map(|number| &shown[number - 1]).collect())
}

fn accept_into(path: &Path, chosen: &[&Suggestion], screen: &Screen) -> Result<Exit, Failure> {
    let named = path.display().to_string();
    // A recipe with mistakes is told with all of them.
    let text = compile(path)?.text;
    let proposals: Vec<Proposal> = chosen.iter().map(|one| one.proposal.clone()).collect();
    let accepted = accept(&text, &lists_beside(path), &proposals)
        .map_err(|why| Failure::File { path: named.clone(), why: why.to_string() })?;
    // What was put in must run before it takes the place of what was there.
    compile_text(&named, accepted.text.clone(), accepted.text.clone())?;
    write_file(path, accepted.text.as_bytes(), true)?;
    for change in &accepted.changes {
        screen.tell(&format!("{}: {change}", visible(&named)));
    }
    let program = program();
    screen.tell(&format!(
        "`{program} check {0}` looks it over, `{program} try {0}` shows what it does",
        shell_word(&named)
    ));
    Ok(Exit::Done)
}

fn write_list(path: &Path, chosen: &[&Suggestion], screen: &Screen) -> Result<Exit, Failure> {
    let is_text = path.extension().is_some_and(|ending| ending.eq_ignore_ascii_case("txt"));
    let mut content = Vec::new();
    let mut left_out = 0;
    if is_text {
        for one in chosen {
            let (entry, becomes, _, step) = parts(one);
            // One entry a line: what has several lines, becomes another or is a step is none.
            if entry.contains('\n') || !becomes.is_empty() || !step.is_empty() {
                left_out += 1;
                continue;
            }
            writeln!(content, "{entry}")?;
        }
    } else {
        let failed = |why: yarrup_io::TableError| Failure::Output(yarrup_io::table_failure(why));
        let names = ["entry", "becomes", "label", "sort", "count", "documents", "because"];
        let mut table = TableWriter::new(&mut content, names).map_err(failed)?;
        for one in chosen {
            let (entry, becomes, label, step) = parts(one);
            if !step.is_empty() {
                left_out += 1;
                continue;
            }
            let (count, documents) = (one.count.to_string(), one.documents.to_string());
            table
                .row([&entry, &becomes, &label, one.sort.name(), &count, &documents, &one.because])
                .map_err(failed)?;
        }
        table.finish()?;
    }
    write_file(path, &content, true)?;
    let written = match chosen.len() - left_out {
        1 => "1 entry".to_owned(),
        entries => format!("{} entries", grouped(entries as u64)),
    };
    let left_out = match left_out {
        0 => String::new(),
        left_out => format!("; {} that no list can hold left out", counted(left_out as u64, "suggestion")),
    };
    screen.tell(&format!("{}: {written}{left_out}", visible(&path.display().to_string())));
    Ok(Exit::Done)
}
