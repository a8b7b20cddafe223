//! `yarrup lists`: the word lists of a recipe side by side, and own lists edited.

use std::collections::HashMap;
use std::io::Write;
use std::path::Path;

use yarrup_core::lists::{
    ListFacts, ListHome, Met, RecipeList, RunWords, compare_lists, has_several_words, recipe_lists,
};
use yarrup_core::{Sought, ValueFinder, ValueTally};
use yarrup_io::{EditedList, ListEdit, Numbered, edit_list, read_account, write_file};
use yarrup_report::{Align, counted, give_way, grouped, table, visible, visible_name};

use crate::arguments::{EditedFile, ListsArguments, ListsEdit, TableFormat};
use crate::counting::RunPass;
use crate::failure::{Exit, Failure, meant, option, text_of};
use crate::recipe_file::{compile, lists_beside};
use crate::rows::{Cell, Column, Rows};
use crate::screen::Screen;
use crate::studied::Studied;

pub(crate) fn lists(arguments: &ListsArguments, screen: &Screen) -> Result<Exit, Failure> {
    match &arguments.edit {
        Some(ListsEdit::Add { list, reason }) => {
            let add = list.entries(screen)?;
            let edit = ListEdit { add, reason: reason.clone(), ..ListEdit::default() };
            edit_file(list, edit, screen)
        }
        Some(ListsEdit::Remove { list }) => {
            let edit = ListEdit { take_out: list.entries(screen)?, ..ListEdit::default() };
            edit_file(list, edit, screen)
        }
        None => show(arguments, screen),
    }
}

impl EditedFile {
    /// The words as they were typed, or lines of standard input.
    fn entries(&self, screen: &Screen) -> Result<Vec<String>, Failure> {
        if !self.words.is_empty() {
            return Ok(self.words.clone());
        }
        screen.tell_waiting("words, one a line,");
        let lines = std::io::stdin().lines().collect::<Result<Vec<_>, _>>();
        let failed =
            |why: std::io::Error| Failure::File { path: "standard input".into(), why: why.to_string() };
        Ok(lines.map_err(failed)?.into_iter().filter(|line| !line.trim().is_empty()).collect())
    }
}

fn edit_file(list: &EditedFile, edit: ListEdit, screen: &Screen) -> Result<Exit, Failure> {
    let path = &list.file;
    let named = path.display().to_string();
    let is_new = !path.exists();
    let content = if is_new && !edit.add.is_empty() { String::new() } else { text_of(path)? };
    let edit = ListEdit { column: list.column.clone(), sort: list.sort, ..edit };
    let edited = edit_list(&named, &content, &edit)
        .map_err(|why| Failure::File { path: named.clone(), why: why.to_string() })?;
    if edited.content != content || is_new {
        write_file(path, edited.content.as_bytes(), true)?;
    }
    screen.tell(&format!("{}: {}", visible(&named), told_edit(&edited)));
    Ok(if edited.missing.is_empty() { Exit::Done } else { Exit::Found })
}

/// A number of entries.
fn entries(count: usize) -> String {
    if count == 1 { "1 entry".to_owned() } else { format!("{} entries", grouped(count as u64)) }
}

/// What an edit did, in one sentence.
fn told_edit(edited: &EditedList) -> String {
    let mut told = Vec::new();
    let named = |entries: &[String]| {
        let shown: Vec<String> =
            entries.iter().take(5).map(|entry| format!("`{}`", visible_name(entry))).collect();
        let more = if entries.len() > 5 { " …" } else { "" };
        format!("{}{more}", shown.join(", "))
    };
    for (entries, what) in [
        (&edited.added, "added"),
        (&edited.known, "there already"),
        (&edited.taken_out, "taken out"),
        (&edited.missing, "not there"),
    ] {
        if !entries.is_empty() {
            told.push(format!("{} {what} ({})", entries.len(), named(entries)));
        }
    }
    if edited.repeated > 0 {
        told.push(format!("{} that stood twice taken out", entries(edited.repeated)));
    }
    told.push(entries(edited.entries));
    told.join("; ")
}

fn show(arguments: &ListsArguments, screen: &Screen) -> Result<Exit, Failure> {
    // Clap asks for it where no list is edited.
    let path = arguments.recipe.as_deref().unwrap_or(Path::new(""));
    let compiled = compile(path)?;
    let files = lists_beside(Path::new(&compiled.path));
    let lists = recipe_lists(&compiled.recipe, &files)
        .map_err(|why| Failure::File { path: compiled.path.clone(), why: why.to_string() })?;
    if lists.is_empty() {
        screen.tell(&format!("{}: no step has a word list", visible(&compiled.path)));
        return Ok(Exit::Done);
    }
    let met = match &arguments.run {
        Some(run) => Some((RunWords::of(&read_account(run)?), several_met(run, &lists, screen)?)),
        None => None,
    };
    let met = met.as_ref().map(|(words, several)| (words, several));
    let facts = compare_lists(&lists, compiled.recipe.language.as_deref(), met);
    let shown = match &arguments.entries {
        Some(name) => Some(place_of(name, &lists)?),
        None => None,
    };
    match (arguments.format, shown) {
        (TableFormat::Table, None) => print_text(&lists, &facts, met.is_some(), screen)?,
        (format, shown) => {
            let chosen = lists
                .iter()
                .zip(&facts)
                .enumerate()
                .filter(|(place, _)| shown.is_none_or(|shown| shown == *place));
            let rows = entry_rows(chosen, &lists, met.is_some());
            let mut out = screen.out_as(format);
            rows.print(format, screen.look, &mut out)?;
            out.flush()?;
        }
    }
    Ok(Exit::Done)
}

/// The list with this name.
fn place_of(name: &str, lists: &[RecipeList]) -> Result<usize, Failure> {
    lists.iter().position(|list| list.name == name).ok_or_else(|| {
        let help = meant(name, lists.iter().map(|list| list.name.as_str()));
        option("entries", &format!("the recipe has no list `{}`; {help}", visible(name)))
    })
}

/// How often entries of several words stand in the documents of a run.
fn several_met(run: &Path, lists: &[RecipeList], screen: &Screen) -> Result<HashMap<String, Met>, Failure> {
    let mut entries: Vec<String> = lists
        .iter()
        .flat_map(|list| &list.entries)
        .filter(|entry| has_several_words(entry))
        .cloned()
        .collect();
    entries.sort();
    entries.dedup();
    if entries.is_empty() {
        return Ok(HashMap::new());
    }
    let run = Studied::open(run)?;
    let small: Vec<String> = entries.iter().map(|entry| entry.to_lowercase()).collect();
    let counting = CountingEntries { run: &run, finder: ValueFinder::new(&[Sought::Words(small)]) };
    let mut sum = ValueTally::default();
    run.try_pass(&counting, screen)?.into_iter().for_each(|tally| sum.absorb(tally));
    let met: HashMap<String, Met> =
        sum.values(0).into_iter().map(|value| (value.value, (value.count, value.documents))).collect();
    let of_entry = |entry: String| {
        let met = met.get(&entry.to_lowercase()).copied().unwrap_or_default();
        (entry, met)
    };
    Ok(entries.into_iter().map(of_entry).collect())
}

struct CountingEntries<'r> {
    run: &'r Studied,
    finder: ValueFinder,
}

impl RunPass for CountingEntries<'_> {
    type State = ValueTally;

    fn state(&self) -> ValueTally {
        ValueTally::default()
    }

    fn document(&self, tally: &mut ValueTally, document: &Numbered<'_>) -> Result<(), Failure> {
        // Whatever the letter case.
        let text = self.run.original(&document.record)?.to_lowercase();
        tally.document(&text, self.finder.find(&text).into_iter());
        Ok(())
    }
}

/// How many entries are shown of what is said in a line.
const SHOWN: usize = 8;

fn print_text(
    lists: &[RecipeList],
    facts: &[ListFacts],
    has_run: bool,
    screen: &Screen,
) -> Result<(), Failure> {
    let mut header =
        vec![("step", Align::Right), ("", Align::Left), ("list", Align::Left), ("entries", Align::Right)];
    if has_run {
        header.extend([("in the run", Align::Right), ("never met", Align::Right), ("tokens", Align::Right)]);
    }
    let mut rows: Vec<Vec<String>> = lists
        .iter()
        .zip(facts)
        .map(|(list, facts)| {
            let mut row = vec![
                list.step.to_string(),
                list.operation.to_owned(),
                shown_name(list),
                grouped(facts.entries.len() as u64),
            ];
            if has_run {
                let met = facts.entries.iter().filter_map(|(_, met)| *met);
                let occurring = met.clone().filter(|(count, _)| *count > 0).count();
                row.push(grouped(occurring as u64));
                row.push(grouped((facts.entries.len() - occurring) as u64));
                row.push(grouped(met.map(|(count, _)| count).sum()));
            }
            row
        })
        .collect();
    give_way(&mut header, &mut rows, &["never met", "", "step"], screen.look);
    let mut out = screen.out();
    write!(out, "{}", table(&header, &rows, screen.look))?;
    for (place, (list, facts)) in lists.iter().zip(facts).enumerate() {
        let mut told: Vec<String> = Vec::new();
        if !facts.repeated.is_empty() {
            told.push(format!("{} twice: {}", entries(facts.repeated.len()), named(facts.repeated.iter())));
        }
        for (other, both) in &facts.shared {
            // Of a list of one's own and one on the shelf the own one is told, of two own ones the later.
            let is_told =
                list.home != ListHome::Shelf && (lists[*other].home == ListHome::Shelf || *other < place);
            if is_told {
                told.push(format!(
                    "{} in `{}` as well: {}",
                    grouped(both.len() as u64),
                    visible_name(&lists[*other].name),
                    named(both.iter())
                ));
            }
        }
        if has_run && list.home != ListHome::Shelf {
            let never: Vec<&String> = facts
                .entries
                .iter()
                .filter(|(_, met)| met.is_some_and(|(count, _)| count == 0))
                .map(|(entry, _)| entry)
                .collect();
            if !never.is_empty() {
                told.push(format!("{} never met: {}", grouped(never.len() as u64), named(never.into_iter())));
            }
        }
        if !facts.missing_forms.is_empty() {
            let forms: Vec<String> = facts
                .missing_forms
                .iter()
                .map(|(word, count, entry)| format!("{word} {}× ({entry})", grouped(*count)))
                .collect();
            told.push(format!(
                "{} of the entries in the run that no list of the step has: {}",
                counted(forms.len() as u64, "other form"),
                named(forms.iter())
            ));
        }
        if told.is_empty() {
            continue;
        }
        writeln!(out, "\n{}", screen.look.heading(&format!("step {} · {}", list.step, shown_name(list))))?;
        for line in told {
            writeln!(out, "  {line}")?;
        }
    }
    out.flush()?;
    Ok(())
}

fn shown_name(list: &RecipeList) -> String {
    let name = visible_name(&list.name);
    match list.home {
        ListHome::Shelf => format!("{name} (shelf)"),
        ListHome::File => name,
        ListHome::Recipe => format!("{name} = (in the recipe)"),
    }
}

/// The first of some entries.
fn named<'e>(entries: impl ExactSizeIterator<Item = &'e String>) -> String {
    let more = entries.len().saturating_sub(SHOWN);
    let shown: Vec<String> = entries.take(SHOWN).map(|entry| visible_name(entry)).collect();
    if more > 0 {
        format!("{} and {} more", shown.join(", "), grouped(more as u64))
    } else {
        shown.join(", ")
    }
}

/// A row for each entry.
fn entry_rows<'a>(
    chosen: impl Iterator<Item = (usize, (&'a RecipeList, &'a ListFacts))>,
    lists: &[RecipeList],
    has_run: bool,
) -> Rows {
    let mut columns = vec![
        Column::new("step", "step"),
        Column::new("do", "do"),
        Column::new("list", "list"),
        Column::new("entry", "entry"),
    ];
    if has_run {
        columns.extend([Column::new("count", "tokens"), Column::new("documents", "documents")]);
    }
    columns.push(Column::new("also_in", "also in"));
    let mut rows = Vec::new();
    for (_, (list, facts)) in chosen {
        for (entry, met) in &facts.entries {
            let also = facts
                .shared
                .iter()
                .filter(|(_, both)| both.contains(entry))
                .map(|(other, _)| lists[*other].name.as_str());
            let mut row = vec![
                Cell::Count(list.step as u64),
                Cell::Text(list.operation.to_owned()),
                Cell::Text(list.name.clone()),
                Cell::Text(entry.clone()),
            ];
            if let Some((count, documents)) = met {
                row.extend([Cell::Count(*count), Cell::Count(*documents)]);
            }
            row.push(Cell::Text(also.collect::<Vec<_>>().join(", ")));
            rows.push(row);
        }
    }
    Rows { columns, rows }
}
