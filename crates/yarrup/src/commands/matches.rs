//! `yarrup matches`: every link, address, date and other value that the texts hold, with its counts.

use std::collections::BTreeMap;
use std::io::Write;
use std::path::Path;

use yarrup_core::recipe::FileError;
use yarrup_core::step::ListReference;
use yarrup_core::{Kind, KindSet, Pipeline, STREET, Sought, ValueFinder, ValueTally, WordLists};
use yarrup_io::{Collection, FolderLists, Numbered, Pass};
use yarrup_report::{counted, excerpt, visible};

use super::matches_places::print_places;
use crate::arguments::{MatchesArguments, TableFormat};
use crate::failure::{Exit, Failure, meant, option};
use crate::reading::{read_documents, threads};
use crate::recipe_file::compile;
use crate::rows::{Cell, Column, Rows};
use crate::screen::{Screen, program};

/// How many values of a kind the summary shows.
const SHOWN: usize = 3;
/// How much of them, in characters.
const SHOWN_WIDTH: usize = 60;

pub(crate) fn matches(arguments: &MatchesArguments, screen: &Screen) -> Result<Exit, Failure> {
    screen.tell_waiting_for(&arguments.sources);
    let collection = arguments.reading.collection(&arguments.sources)?;
    if let Some(recipe) = &arguments.key {
        let compiled = compile(recipe)?;
        if !compiled.pipeline.has_pseudonyms() {
            return Err(option(
                "key",
                &format!(
                    "{}: no step gives values numbers; that takes a `mask` step with `map = \"numbered\"`, and the frozen recipe of a run",
                    compiled.path
                ),
            ));
        }
        return print_key(&compiled.pipeline, arguments, &collection, screen);
    }
    let sorts = Sorts::of(arguments)?;
    let finder = ValueFinder::new(&sorts.sought);
    if arguments.places {
        return print_places(&finder, &sorts.names, arguments, &collection, screen);
    }
    let tally = counted_values(&finder, arguments, &collection, screen)?;
    if sorts.is_summary {
        print_summary(&sorts, &tally, arguments, screen)
    } else {
        print_values(&sorts, &tally, arguments, screen)
    }
}

/// What is looked for.
struct Sorts {
    names: Vec<String>,
    sought: Vec<Sought>,
    /// Whether nothing was chosen, so that each kind is summed up.
    is_summary: bool,
}

impl Sorts {
    fn of(arguments: &MatchesArguments) -> Result<Sorts, Failure> {
        let is_summary =
            arguments.kinds.is_empty() && arguments.pattern.is_empty() && arguments.list.is_empty();
        let mut sorts = Sorts { names: Vec::new(), sought: Vec::new(), is_summary };
        for written in &arguments.pattern {
            let (name, pattern) = written
                .split_once('=')
                .filter(|(name, _)| !name.trim().is_empty())
                .ok_or_else(|| option("pattern", "expected NAME=PATTERN, such as ticket=EQ-[0-9]+"))?;
            let sought = Sought::pattern(name, pattern).map_err(|why| option("pattern", &why))?;
            sorts.add(name.trim(), sought);
        }
        for file in &arguments.list {
            let (path, column) = match file.rsplit_once('#') {
                Some((path, column)) if !column.is_empty() => (path, Some(column.to_owned())),
                _ => (file.as_str(), None),
            };
            let reference = ListReference { name: path.to_owned(), column, to: None, span: 0..0 };
            let words = FolderLists::new(".".into()).words(&reference);
            let words = words.map_err(|why| option("list", &told_of_list(path, &why)))?;
            let name = Path::new(path).file_stem().map_or(path.into(), |stem| stem.to_string_lossy());
            sorts.add(&name, Sought::Words(words));
        }
        let asks_for_all = is_summary || arguments.kinds.iter().any(|name| name == "all");
        if asks_for_all {
            sorts.add_all_kinds();
        }
        for name in arguments.kinds.iter().filter(|name| *name != "all" && !asks_for_all) {
            let sought = kind_sought(name)?;
            sorts.add(name, sought);
        }
        Ok(sorts)
    }

    fn add(&mut self, name: &str, sought: Sought) {
        if !self.names.iter().any(|known| known == name) {
            self.names.push(name.to_owned());
            self.sought.push(sought);
        }
    }

    fn add_all_kinds(&mut self) {
        // Numbers last: every text has them, and nobody asks for them first.
        let is_found = |kind: &Kind| KindSet::FOUND.has(*kind) && *kind != Kind::Number;
        for kind in Kind::ALL.into_iter().filter(is_found) {
            self.add(kind.name(), Sought::Kind(kind));
        }
        self.add(STREET, Sought::Streets(None));
        self.add(Kind::Number.name(), Sought::Kind(Kind::Number));
    }
}

/// Why a list cannot be read; which column of a table is said here in another way than in a recipe.
fn told_of_list(path: &str, why: &FileError) -> String {
    match why {
        FileError::WhichColumn { there, .. } => {
            let there: Vec<String> = there.iter().map(|name| format!("`{}`", visible(name))).collect();
            let path = visible(path);
            format!(
                "{path}: which column has the entries? Say it as {path}#COLUMN; there are {}",
                there.join(", ")
            )
        }
        why => why.to_string(),
    }
}

/// The names that `--kinds` takes.
pub(crate) fn kind_names() -> impl Iterator<Item = &'static str> {
    let kinds = Kind::ALL.into_iter().filter(|kind| KindSet::FOUND.has(*kind)).map(Kind::name);
    kinds.chain([STREET, "all"])
}

/// The kind with this name, as something to look for.
fn kind_sought(name: &str) -> Result<Sought, Failure> {
    if name == STREET {
        return Ok(Sought::Streets(None));
    }
    let found = Kind::named(name).filter(|kind| KindSet::FOUND.has(*kind));
    found.map(Sought::Kind).ok_or_else(|| {
        let help = meant(name, kind_names());
        option("kinds", &format!("no kind `{}` is found in texts; {help}", visible(name)))
    })
}

fn counted_values(
    finder: &ValueFinder,
    arguments: &MatchesArguments,
    collection: &Collection,
    screen: &Screen,
) -> Result<ValueTally, Failure> {
    let counting = Counting { finder };
    let reading = read_documents(collection, threads(arguments.threads), &counting, screen)?;
    let mut sum = ValueTally::default();
    reading.states.into_iter().for_each(|tally| sum.absorb(tally));
    Ok(sum)
}

struct Counting<'f> {
    finder: &'f ValueFinder,
}

impl Pass for Counting<'_> {
    type State = ValueTally;
    type Left = ();

    fn state(&self) -> ValueTally {
        ValueTally::default()
    }

    fn document(&self, tally: &mut ValueTally, document: &Numbered<'_>, (): &mut ()) {
        let text = &document.record.text;
        tally.document(text, self.finder.find(text).into_iter());
    }
}

/// A row for each kind that was found.
fn print_summary(
    sorts: &Sorts,
    tally: &ValueTally,
    arguments: &MatchesArguments,
    screen: &Screen,
) -> Result<Exit, Failure> {
    let columns = vec![
        Column::new("kind", "kind"),
        Column::new("count", "places"),
        Column::new("documents", "documents"),
        Column::new("values", "different values"),
        Column::new("examples", "the most frequent"),
    ];
    let mut rows = Vec::new();
    for (sort, name) in sorts.names.iter().enumerate() {
        let values = tally.values(sort);
        if values.is_empty() {
            continue;
        }
        let mut examples = String::new();
        for value in values.iter().take(SHOWN) {
            let written = excerpt(&value.value, SHOWN_WIDTH);
            if !examples.is_empty() {
                if examples.chars().count() + written.chars().count() > SHOWN_WIDTH {
                    break;
                }
                examples.push_str("  ");
            }
            examples.push_str(&written);
        }
        rows.push(vec![
            Cell::Text(name.clone()),
            Cell::Count(values.iter().map(|value| value.count).sum()),
            Cell::Count(tally.documents_of(sort)),
            Cell::Count(values.len() as u64),
            Cell::Text(examples),
        ]);
    }
    let found = rows.len() as u64;
    let mut out = screen.out_as(arguments.format);
    if arguments.format == TableFormat::Table && found == 0 {
        writeln!(out, "no links, addresses, numbers or other values were found")?;
    } else {
        Rows { columns, rows }.print(arguments.format, screen.look, &mut out)?;
    }
    if arguments.format == TableFormat::Table && found > 0 {
        let note = format!(
            "`{} matches … --kinds {}` lists every value of a kind",
            program(),
            first_kind(sorts, tally)
        );
        writeln!(out, "{}", screen.look.faint(&note))?;
    }
    out.flush()?;
    Ok(if found == 0 { Exit::Found } else { Exit::Done })
}

/// A kind for an example: one that people ask for, or the first that was found.
fn first_kind<'s>(sorts: &'s Sorts, tally: &ValueTally) -> &'s str {
    let is_found = |sort: &usize| tally.documents_of(*sort) > 0;
    let asked_for = |sort: &usize| matches!(sorts.names[*sort].as_str(), "email" | "url" | "date");
    let all = || 0..sorts.names.len();
    let found = all().filter(asked_for).find(is_found).or_else(|| all().find(is_found));
    found.map_or("email", |sort| sorts.names[sort].as_str())
}

/// A row for each value.
fn print_values(
    sorts: &Sorts,
    tally: &ValueTally,
    arguments: &MatchesArguments,
    screen: &Screen,
) -> Result<Exit, Failure> {
    let columns = vec![
        Column::new("kind", "kind"),
        Column::new("value", "value"),
        Column::new("count", "places"),
        Column::new("documents", "documents"),
    ];
    let (mut rows, mut all) = (Vec::new(), 0);
    for (sort, name) in sorts.names.iter().enumerate() {
        let values = tally.values(sort);
        all += values.len() as u64;
        rows.extend(values.into_iter().take(arguments.most()).map(|value| {
            vec![
                Cell::Text(name.clone()),
                Cell::Text(value.value),
                Cell::Count(value.count),
                Cell::Count(value.documents),
            ]
        }));
    }
    let noun = if all == 0 { "such values" } else { "different values" };
    Rows { columns, rows }.print_some(all, noun, arguments.format, screen)?;
    Ok(if all == 0 { Exit::Found } else { Exit::Done })
}

/// Which value each numbered placeholder stands for.
fn print_key(
    pipeline: &Pipeline,
    arguments: &MatchesArguments,
    collection: &Collection,
    screen: &Screen,
) -> Result<Exit, Failure> {
    let reading = read_documents(collection, threads(arguments.threads), &Unmasking { pipeline }, screen)?;
    let mut sum: BTreeMap<Pseudonym, (u64, u64)> = BTreeMap::new();
    for (value, (count, documents)) in reading.states.into_iter().flatten() {
        let known = sum.entry(value).or_default();
        (known.0, known.1) = (known.0 + count, known.1 + documents);
    }
    let columns = vec![
        Column::new("placeholder", "placeholder"),
        Column::new("kind", "kind"),
        Column::new("value", "value"),
        Column::new("count", "places"),
        Column::new("documents", "documents"),
    ];
    let all = sum.len() as u64;
    let row = |(value, (count, documents)): (Pseudonym, (u64, u64))| {
        vec![
            Cell::Text(value.placeholder),
            Cell::Text(value.kind),
            Cell::Text(value.value),
            Cell::Count(count),
            Cell::Count(documents),
        ]
    };
    let rows = sum.into_iter().take(arguments.most()).map(row).collect();
    if all == 0 {
        screen.tell(&format!(
            "none of {} holds a value that the recipe has a number for",
            counted(reading.summary.documents, "document")
        ));
    }
    Rows { columns, rows }.print_some(all, "values", arguments.format, screen)?;
    Ok(if all == 0 { Exit::Found } else { Exit::Done })
}

/// A value that has a placeholder of its own, in the order of the key.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
struct Pseudonym {
    kind: String,
    number: u64,
    placeholder: String,
    value: String,
}

struct Unmasking<'p> {
    pipeline: &'p Pipeline,
}

impl Pass for Unmasking<'_> {
    /// How often each came, and in how many documents.
    type State = BTreeMap<Pseudonym, (u64, u64)>;
    type Left = ();

    fn state(&self) -> Self::State {
        BTreeMap::new()
    }

    fn document(&self, values: &mut Self::State, document: &Numbered<'_>, (): &mut ()) {
        let mut here: BTreeMap<Pseudonym, u64> = BTreeMap::new();
        let record = &document.record;
        self.pipeline.each_pseudonym(&record.text, record, &mut |placeholder, kind, value| {
            let number =
                placeholder.trim_end_matches('>').rsplit('-').next().and_then(|number| number.parse().ok());
            let value = Pseudonym {
                kind: kind.to_owned(),
                number: number.unwrap_or(u64::MAX),
                placeholder: placeholder.to_owned(),
                value: value.to_owned(),
            };
            *here.entry(value).or_default() += 1;
        });
        for (value, count) in here {
            let known = values.entry(value).or_default();
            (known.0, known.1) = (known.0 + count, known.1 + 1);
        }
    }
}
