//! `yarrup try`: one text through every step.

use std::borrow::Cow;
use std::io::{Read, Write};
use std::path::{Path, PathBuf};

use yarrup_core::{Fields, ToLearn, Trace, examples};
use yarrup_io::{Collection, Numbered, Pass, Reading, Source, without_login, write_file};
use yarrup_report::{counted, visible};

use super::try_json::json;
use super::try_show::show_all;
use crate::arguments::{CheckFormat, TryArguments};
use crate::failure::{Exit, Failure};
use crate::learning::reread;
use crate::output::Shape;
use crate::reading::{lenient, no_document, read_all, search, threads};
use crate::recipe_file::{Compiled, compile, compile_text};
use crate::screen::Screen;
use crate::wanted_document::WantedDocument;
use crate::watching::watch;

pub(crate) fn try_out(arguments: &TryArguments, screen: &Screen) -> Result<Exit, Failure> {
    let given = match (&arguments.from, arguments.given_text.join(" ")) {
        (Some(_), _) => None,
        (None, text) if text.is_empty() || text == "-" => {
            screen.tell_waiting("a text");
            Some(standard_input()?)
        }
        (None, text) => Some(text),
    };
    if !arguments.watch {
        let given = given.map(|text| Found { id: String::new(), text, fields: arguments.given.clone() });
        let found = match given {
            Some(given) => given,
            None => {
                // A recipe with mistakes is told before a large source is searched.
                compiled_all(arguments)?;
                document(arguments, screen)?
            }
        };
        show(arguments, &found, screen)?;
        return Ok(Exit::Done);
    }
    // The document is kept: a source is searched once, however often the recipe changes.
    let found = match given {
        Some(text) => Found { id: String::new(), text, fields: arguments.given.clone() },
        None => document(arguments, screen)?,
    };
    let recipes: Vec<PathBuf> =
        std::iter::once(&arguments.recipe).chain(&arguments.beside).cloned().collect();
    watch(&recipes, screen, || show(arguments, &found, screen))
}

/// The recipes, ready to run.
fn compiled_all(arguments: &TryArguments) -> Result<Vec<Compiled>, Failure> {
    std::iter::once(&arguments.recipe).chain(&arguments.beside).map(|path| compile(path)).collect()
}

/// Takes the text, or the document, through every recipe.
fn show(arguments: &TryArguments, found: &Found, screen: &Screen) -> Result<(), Failure> {
    let compiled = compiled_all(arguments)?;
    for compiled in &compiled {
        let steps = compiled.pipeline.steps().len();
        if let Some(step) = arguments.step.filter(|&step| usize::from(step) > steps) {
            return Err(Failure::Sentence(format!(
                "{}: there is no step {step}; it has {}",
                compiled.path,
                counted(steps as u64, "step")
            )));
        }
    }
    print_all(&compiled, &found.text, &found.fields, arguments, screen)
}

/// The way of one text through all recipes, and what they leave side by side.
fn print_all(
    recipes: &[Compiled],
    text: &str,
    fields: &[(String, String)],
    arguments: &TryArguments,
    screen: &Screen,
) -> Result<(), Failure> {
    let end = arguments.step.map_or(usize::MAX, usize::from);
    let given = GivenFields(fields);
    let traces: Vec<Trace<'_>> =
        recipes.iter().map(|compiled| compiled.pipeline.trace_to(text, &given, end)).collect();
    if arguments.format == CheckFormat::Json {
        let told: Vec<_> =
            recipes.iter().zip(&traces).map(|(compiled, trace)| json(compiled, trace, text, end)).collect();
        let mut out = screen.out_as(Shape::Json);
        match told.as_slice() {
            [one] => writeln!(out, "{one:#}")?,
            several => writeln!(out, "{:#}", serde_json::Value::from(several.to_vec()))?,
        }
        out.flush()?;
    } else {
        for compiled in recipes {
            tell_unlearned(compiled, screen);
        }
        show_all(recipes, &traces, text, end, screen)?;
    }
    if arguments.save_example {
        save_example(&recipes[0], &traces[0], text, fields, screen)?;
    }
    Ok(())
}

/// Says which step does nothing here, for it has learned nothing.
fn tell_unlearned(compiled: &Compiled, screen: &Screen) {
    let Some(to_learn) = ToLearn::next(&compiled.pipeline) else { return };
    let step = to_learn.steps()[0];
    screen.tell(&match compiled.pipeline.operations()[step - 1].learns {
        Some(_) => format!("note: step {step} does nothing here before it has learned from a collection"),
        None => format!("note: step {step} cannot compare this document with others here"),
    });
}

/// Adds the text with what the recipe makes of it to the recipe's examples.
fn save_example(
    compiled: &Compiled,
    trace: &Trace<'_>,
    text: &str,
    fields: &[(String, String)],
    screen: &Screen,
) -> Result<(), Failure> {
    let path = Path::new(&compiled.path);
    // Of the fields of a document only those that the recipe asks for.
    let asked: Vec<&str> =
        compiled.pipeline.conditions().iter().flat_map(|(_, condition)| condition.fields()).collect();
    let fields: Vec<(String, String)> =
        fields.iter().filter(|(name, _)| asked.contains(&name.as_str())).cloned().collect();
    let with = examples::added(&compiled.text, text, &fields, &trace.clean).ok_or_else(|| {
        Failure::Sentence(format!("{}: its examples are not written as `[[example]]`", compiled.path))
    })?;
    // What would not be read again must not be written.
    compile_text(&compiled.path, with.clone(), with.clone())?;
    let now = std::fs::read(path).unwrap_or_default();
    let mark: &[u8] = if now.starts_with(b"\xef\xbb\xbf") { b"\xef\xbb\xbf" } else { b"" };
    if &now[mark.len()..] != compiled.text.as_bytes() {
        return Err(Failure::Sentence(format!(
            "{}: was changed meanwhile, and is left as it is; try it again",
            compiled.path
        )));
    }
    write_file(path, &[mark, with.as_bytes()].concat(), true)?;
    screen.tell(&format!("{}: the example is added; `yarrup check` tests it from now on", compiled.path));
    Ok(())
}

fn standard_input() -> Result<String, Failure> {
    let mut bytes = Vec::new();
    std::io::stdin()
        .read_to_end(&mut bytes)
        .map_err(|why| Failure::File { path: "standard input".into(), why: why.to_string() })?;
    Ok(String::from_utf8_lossy(&bytes).into_owned())
}

/// Which document is looked for.
enum Wanted {
    /// The one with this number, from 1.
    Number(u64),
    Id(String),
    /// The document in this place.
    Order(u64),
}

/// A document that was found.
struct Found {
    id: String,
    text: String,
    fields: Vec<(String, String)>,
}

/// The pass that looks for a document, one after the other.
struct Searching {
    wanted: Wanted,
}

/// What was found, and the first ids that were met on the way.
#[derive(Default)]
struct Search {
    found: Option<Found>,
    seen: Vec<String>,
    /// How many documents were looked at.
    number: u64,
}

impl Pass for Searching {
    type State = Search;
    /// Whether the document was found.
    type Left = bool;

    fn state(&self) -> Search {
        Search::default()
    }

    fn document(&self, search: &mut Search, document: &Numbered<'_>, is_found: &mut bool) {
        let record = &document.record;
        search.number += 1;
        let is_wanted = match &self.wanted {
            Wanted::Number(number) => *number == search.number,
            Wanted::Id(id) => *id == record.id,
            Wanted::Order(order) => *order == document.order,
        };
        if is_wanted && search.found.is_none() {
            let mut fields = Vec::new();
            record.each_value(|path, _| {
                fields.extend(record.field(path).map(|value| (path.to_owned(), value.into_owned())));
            });
            search.found = Some(Found { id: record.id.to_string(), text: record.text.to_string(), fields });
        }
        *is_found = search.found.is_some();
        if search.seen.len() < 5 {
            search.seen.push(record.id.to_string());
        }
    }
}

/// The pass that draws a document by lot.
struct Drawing<'a> {
    seed: &'a str,
}

impl Pass for Drawing<'_> {
    /// The least lot so far, and whose it is.
    type State = Option<(String, u64)>;
    type Left = ();

    fn state(&self) -> Self::State {
        None
    }

    fn document(&self, best: &mut Self::State, document: &Numbered<'_>, (): &mut ()) {
        // The least hash wins: the draw is fair, and the same for the same seed however the source is read.
        let (seed, record) = (self.seed, &document.record);
        let text = yarrup_io::short_hash(record.text.as_bytes());
        let lot = (yarrup_io::hash(format!("{seed}\n{}\n{text}", record.id).as_bytes()), document.order);
        if best.as_ref().is_none_or(|best| lot < *best) {
            *best = Some(lot);
        }
    }
}

/// Draws a document.
fn drawn(collection: &Collection, seed: &str, screen: &Screen) -> Result<Wanted, Failure> {
    let now = || {
        std::time::SystemTime::now().duration_since(std::time::UNIX_EPOCH).map_or(0, |time| time.as_nanos())
    };
    let seed = if seed.is_empty() { now().to_string() } else { seed.to_owned() };
    let drawing = Drawing { seed: &seed };
    let reading = read_all(&mut Source::open(collection)?, lenient(threads(None)), &drawing, screen)?;
    let best = reading.states.into_iter().flatten().min();
    Ok(best.map_or(Wanted::Number(1), |(_, order)| Wanted::Order(order)))
}

/// The pass that looks for the longest document, or the shortest that says something.
struct Measuring {
    longest: bool,
}

impl Pass for Measuring {
    /// What is compared, the larger first; the place, the earlier first.
    type State = Option<(u64, std::cmp::Reverse<u64>)>;
    type Left = ();

    fn state(&self) -> Self::State {
        None
    }

    fn document(&self, best: &mut Self::State, document: &Numbered<'_>, (): &mut ()) {
        let length = document.record.text.len() as u64;
        if document.record.text.trim().is_empty() {
            return;
        }
        let rank = if self.longest { length } else { u64::MAX - length };
        *best = (*best).max(Some((rank, std::cmp::Reverse(document.order))));
    }
}

/// The longest document, or the shortest.
fn by_length(collection: &Collection, longest: bool, screen: &Screen) -> Result<Wanted, Failure> {
    let measuring = Measuring { longest };
    let reading = read_all(&mut Source::open(collection)?, lenient(threads(None)), &measuring, screen)?;
    let best = reading.states.into_iter().flatten().max();
    Ok(best.map_or(Wanted::Number(1), |(_, std::cmp::Reverse(order))| Wanted::Order(order)))
}

/// Finds the document.
fn document(arguments: &TryArguments, screen: &Screen) -> Result<Found, Failure> {
    let place = arguments.from.as_deref().unwrap_or_default();
    let mut collection = arguments.reading.collection(&[place.to_owned()])?;
    let wanted = match (&arguments.random, &arguments.document) {
        (Some(seed), _) => {
            reread(&mut collection)?;
            drawn(&collection, seed, screen)?
        }
        (None, Some(written)) => match WantedDocument::read(written) {
            WantedDocument::Number(number) => Wanted::Number(number),
            WantedDocument::Id(id) => Wanted::Id(id),
            WantedDocument::Random => {
                reread(&mut collection)?;
                drawn(&collection, "", screen)?
            }
            measured => {
                reread(&mut collection)?;
                by_length(&collection, measured == WantedDocument::Longest, screen)?
            }
        },
        (None, None) => Wanted::Number(1),
    };
    let is_named = matches!(wanted, Wanted::Id(_));
    let place = without_login(place);
    let mut source = Source::open(&collection)?;
    let Reading { states, summary } = search(&mut source, &Searching { wanted }, screen)?;
    let search = states.into_iter().next().unwrap_or_default();
    if let Some(found) = search.found {
        if !is_named {
            screen.tell(&format!("document {}", visible(&found.id)));
        }
        return Ok(found);
    }
    if let Some(failure) = no_document(&summary, &source) {
        return Err(failure);
    }
    Err(Failure::Sentence(match &arguments.document {
        Some(id) if !search.seen.is_empty() => {
            format!(
                "{place}: there is no document `{id}`, by number or id; the first ids are `{}`",
                search.seen.join("`, `")
            )
        }
        _ => format!("{place}: holds no document"),
    }))
}

/// The fields that were given on the command line.
struct GivenFields<'a>(&'a [(String, String)]);

impl Fields for GivenFields<'_> {
    fn field(&self, path: &str) -> Option<Cow<'_, str>> {
        self.0.iter().find(|(name, _)| name == path).map(|(_, value)| Cow::Borrowed(value.as_str()))
    }
}
