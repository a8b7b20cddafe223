//! `yarrup try`: one text through every step.

use std::borrow::Cow;
use std::io::{Read, Write};
use std::path::PathBuf;
use std::time::Duration;

use yarrup_core::{Fields, StepName, Tag, TextTrace, ToLearn, TokenFate, TokenStepTrace, TokenTrace, Trace};
use yarrup_io::{Collection, Numbered, Pass, Reading, Source, without_login};
use yarrup_report::{Look, Marked, counted, grouped, shown, visible, wrapped};

use crate::arguments::TryArguments;
use crate::failure::{Exit, Failure};
use crate::learning::reread;
use crate::reading::{lenient, no_document, read_all, search, threads};
use crate::recipe_file::{Compiled, compile};
use crate::screen::Screen;

pub(crate) fn try_out(arguments: &TryArguments, screen: &Screen) -> Result<Exit, Failure> {
    let given = match (&arguments.from, arguments.given_text.as_deref()) {
        (Some(_), _) => None,
        (None, Some("-") | None) => Some(standard_input()?),
        (None, Some(text)) => Some(text.to_owned()),
    };
    if !arguments.watch {
        show(arguments, given.as_deref(), screen)?;
        return Ok(Exit::Done);
    }
    loop {
        let seen = changed_at(arguments);
        // A recipe with mistakes is told, and waited for.
        if let Err(failure) = show(arguments, given.as_deref(), screen) {
            if failure.is_closed_pipe() {
                return Ok(Exit::Done);
            }
            screen.tell_failure(&failure);
        }
        screen.tell("waiting for a change of the recipe; Ctrl-C ends");
        while changed_at(arguments) == seen {
            std::thread::sleep(PAUSE);
        }
        screen.clear();
    }
}

/// How often `--watch` looks whether the recipe has changed.
const PAUSE: Duration = Duration::from_millis(150);

/// When the recipes were changed last, and how long they are.
fn changed_at(arguments: &TryArguments) -> Vec<Option<(std::time::SystemTime, u64)>> {
    let recipes = std::iter::once(&arguments.recipe).chain(&arguments.beside);
    let told = |path: &PathBuf| {
        let about = std::fs::metadata(path).ok()?;
        Some((about.modified().ok()?, about.len()))
    };
    recipes.map(told).collect()
}

/// Takes the text, or the document, through every recipe.
fn show(arguments: &TryArguments, given: Option<&str>, screen: &Screen) -> Result<(), Failure> {
    let recipes = std::iter::once(&arguments.recipe).chain(&arguments.beside);
    let compiled: Vec<Compiled> = recipes.map(|path| compile(path)).collect::<Result<_, _>>()?;
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
    match (given, &arguments.from) {
        (Some(text), _) => print_all(&compiled, text, &GivenFields(&arguments.given), arguments, screen),
        (None, Some(place)) => document(arguments, place, &compiled, screen),
        (None, None) => Ok(()),
    }
}

/// The way of one text through all recipes, and what they leave side by side.
fn print_all(
    recipes: &[Compiled],
    text: &str,
    fields: &dyn Fields,
    arguments: &TryArguments,
    screen: &Screen,
) -> Result<(), Failure> {
    let end = arguments.step.map_or(usize::MAX, usize::from);
    let mut traces = Vec::new();
    for compiled in recipes {
        let trace = compiled.pipeline.trace_to(text, fields, end);
        if recipes.len() > 1 {
            let mut out = screen.out();
            writeln!(out, "{}", screen.look.heading(&visible(&compiled.path)))?;
            out.flush()?;
        }
        if let Some(to_learn) = ToLearn::next(&compiled.pipeline) {
            let step = to_learn.steps()[0];
            screen.tell(&match compiled.pipeline.operations()[step - 1].learns {
                Some(_) => {
                    format!("note: step {step} does nothing here before it has learned from a collection")
                }
                None => format!("note: step {step} cannot compare this document with others here"),
            });
        }
        print(&trace, text, end, screen)?;
        if recipes.len() > 1 {
            println_empty(screen)?;
        }
        traces.push(trace);
    }
    if let [_, _, ..] = recipes {
        beside(recipes, &traces, screen)?;
    }
    Ok(())
}

fn println_empty(screen: &Screen) -> Result<(), Failure> {
    let mut out = screen.out();
    writeln!(out)?;
    out.flush()?;
    Ok(())
}

/// What each recipe leaves; terms that another does not leave are marked.
fn beside(recipes: &[Compiled], traces: &[Trace<'_>], screen: &Screen) -> Result<(), Failure> {
    let look = screen.look;
    let mut out = screen.out();
    let terms: Vec<Vec<&str>> = traces.iter().map(|trace| trace.clean.split_whitespace().collect()).collect();
    writeln!(out, "{}", look.heading("side by side"))?;
    let names: Vec<String> = recipes.iter().map(|compiled| visible(&compiled.path)).collect();
    let width = names.iter().map(|name| name.chars().count() + 2).max().unwrap_or(0).clamp(NAMES.0, 40);
    for (name, own) in names.iter().zip(&terms) {
        let mut pieces = Vec::new();
        for term in own {
            if !pieces.is_empty() {
                pieces.push(Marked::Same(" ".to_owned()));
            }
            let everywhere = terms.iter().all(|others| others.contains(term));
            pieces.push(if everywhere {
                Marked::Same((*term).to_owned())
            } else {
                Marked::New((*term).to_owned())
            });
        }
        let name: String = name.chars().take(width - 2).collect();
        writeln!(
            out,
            "{}  {}",
            look.heading(&format!("{name:<fill$}", fill = width - 2)),
            wrapped(&pieces, width, look)
        )?;
        let count = counted(own.len() as u64, "term");
        writeln!(out, "{}{}", " ".repeat(width), look.faint(&format!("{count}; marked: not in all")))?;
    }
    out.flush()?;
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
    First,
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
        let is_wanted = match &self.wanted {
            Wanted::First => true,
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
    Ok(best.map_or(Wanted::First, |(_, order)| Wanted::Order(order)))
}

/// Finds the document and shows its way through the recipes.
fn document(
    arguments: &TryArguments,
    place: &str,
    recipes: &[Compiled],
    screen: &Screen,
) -> Result<(), Failure> {
    let mut collection = arguments.reading.collection(&[place.to_owned()])?;
    let wanted = match (&arguments.random, &arguments.document) {
        (Some(seed), _) => {
            reread(&mut collection)?;
            drawn(&collection, seed, screen)?
        }
        (None, Some(id)) => Wanted::Id(id.clone()),
        (None, None) => Wanted::First,
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
        return print_all(recipes, &found.text, &GivenFields(&found.fields), arguments, screen);
    }
    if let Some(failure) = no_document(&summary, &source) {
        return Err(failure);
    }
    Err(Failure::Sentence(match &arguments.document {
        Some(id) if !search.seen.is_empty() => {
            format!(
                "{place}: no document has the id `{id}`; the first ids are `{}`",
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

/// The least and the most that the column of the steps' names may take.
const NAMES: (usize, usize) = (12, 28);

fn print(trace: &Trace<'_>, original: &str, end: usize, screen: &Screen) -> Result<(), Failure> {
    let look = screen.look;
    let mut out = screen.out();
    let steps = trace.text_steps.iter().map(|step| step.step).chain([trace.split]);
    let steps = steps.chain(trace.token_steps.iter().map(|step| step.step));
    let names = steps.map(|step| name(step).chars().count() + 2).max().unwrap_or(0).clamp(NAMES.0, NAMES.1);
    let line = |out: &mut dyn Write, name: &str, pieces: &[Marked]| {
        let name: String = name.chars().take(names - 2).collect();
        writeln!(
            out,
            "{}  {}",
            look.heading(&format!("{name:<width$}", width = names - 2)),
            wrapped(pieces, names, look)
        )
    };
    let note = |out: &mut dyn Write, text: &str| writeln!(out, "{}{}", " ".repeat(names), look.faint(text));
    line(&mut out, "text", &[Marked::Same(original.to_owned())])?;
    let mut before = original;
    for step in &trace.text_steps {
        line(&mut out, &name(step.step), &text_pieces(step, before))?;
        for text in text_notes(step, look) {
            note(&mut out, &text)?;
        }
        before = &step.text;
    }
    if end < trace.split.number {
        out.flush()?;
        return Ok(());
    }
    line(&mut out, &name(trace.split), &token_pieces(&trace.tokens))?;
    let put_in = if trace.split.put_in { ", put in: the recipe has no split" } else { "" };
    note(&mut out, &format!("{}{put_in}", counted(trace.tokens.len() as u64, "token")))?;
    for step in &trace.token_steps {
        line(&mut out, &name(step.step), &fate_pieces(step))?;
        for text in fate_notes(step, look) {
            note(&mut out, &text)?;
        }
        // No later step sees the document.
        if step.left_out.is_some() {
            break;
        }
    }
    line(&mut out, "clean", &[Marked::Same(trace.clean.clone())])?;
    out.flush()?;
    Ok(())
}

fn name(step: &StepName) -> String {
    let named = step.label.as_deref().map_or_else(|| step.operation.to_owned(), visible);
    format!("{:>2} {named}", step.number)
}

fn text_pieces(step: &TextTrace<'_>, before: &str) -> Vec<Marked> {
    let mut pieces = Vec::new();
    let mut at = 0;
    for change in &step.changes {
        pieces.push(Marked::Same(step.text[at..change.now.start].to_owned()));
        let (was, now) = (&before[change.was.clone()], &step.text[change.now.clone()]);
        // A letter that changed its case is shown once; what was replaced or taken out is shown as it was as well.
        if was.to_lowercase() != now.to_lowercase() {
            pieces.push(Marked::Gone(was.to_owned()));
        }
        if !now.is_empty() {
            pieces.push(Marked::New(now.to_owned()));
        }
        at = change.now.end;
    }
    pieces.push(Marked::Same(step.text[at..].to_owned()));
    pieces.retain(|piece| !matches!(piece, Marked::Same(text) if text.is_empty()));
    // Neighbours of one fate are shown as one stretch.
    pieces.dedup_by(|next, piece| match (piece, next) {
        (Marked::Gone(text), Marked::Gone(more)) | (Marked::New(text), Marked::New(more)) => {
            text.push_str(more);
            true
        }
        _ => false,
    });
    pieces
}

/// What is told of a text that steps have made too long.
const TOO_LONG: &str = "the text would become more than 32 times as long: nothing of it is kept";

fn text_notes(step: &TextTrace<'_>, look: Look) -> Vec<String> {
    let first = match (step.applied, step.matches) {
        _ if step.is_overgrown => TOO_LONG.to_owned(),
        (false, _) => NOT_DONE.to_owned(),
        (true, 0) => "nothing to change".to_owned(),
        (true, matches) => format!("{} changed", counted(matches, "place")),
    };
    let sorts: Vec<String> = step
        .sorts
        .iter()
        .map(|(name, sort)| {
            let examples: Vec<String> = sort.examples().map(shown).collect();
            format!("{} {}: {}", visible(name), sort.count, examples.join(", "))
        })
        .collect();
    let mut notes = vec![first];
    for sort in sorts {
        // As many on a line as fit.
        let last = notes
            .last_mut()
            .filter(|last| last.chars().count() + sort.chars().count() + NAMES.1 + 3 < look.width);
        match last {
            Some(last) => *last = format!("{last}; {sort}"),
            None => notes.push(sort),
        }
    }
    notes
}

fn bordered(tokens: impl Iterator<Item = Marked>) -> Vec<Marked> {
    let mut pieces: Vec<Marked> = Vec::new();
    for token in tokens {
        if !pieces.is_empty() {
            pieces.push(Marked::Border);
        }
        pieces.push(token);
    }
    pieces
}

fn token_pieces(tokens: &[TokenTrace]) -> Vec<Marked> {
    bordered(tokens.iter().map(|token| Marked::Same(token.form.clone())))
}

fn fate_pieces(step: &TokenStepTrace<'_>) -> Vec<Marked> {
    bordered(step.tokens.iter().map(|(_, form, fate)| match fate {
        TokenFate::Kept => Marked::Same(form.clone()),
        TokenFate::Changed(to) => Marked::New(to.clone()),
        TokenFate::Dropped(_) | TokenFate::Joined(_) => Marked::Gone(form.clone()),
        TokenFate::Added => Marked::New(form.clone()),
        TokenFate::Marked(mark) => Marked::Noted(form.clone(), mark.clone()),
    }))
}

/// What is said of a step whose condition does not hold.
const NOT_DONE: &str = "not done: its `only` does not hold for this document";

/// What a token step dropped, by reason, and what it changed.
fn fate_notes(step: &TokenStepTrace<'_>, look: Look) -> Vec<String> {
    if !step.applied {
        return vec![NOT_DONE.to_owned()];
    }
    if let Some(reason) = &step.left_out {
        return vec![format!("the document is left out: {}", visible(reason))];
    }
    let mut reasons: Vec<(&str, Vec<&str>)> = Vec::new();
    let (mut changed, mut joined, mut added) = (0, 0, 0);
    let mut marks: Vec<(&str, u64)> = Vec::new();
    for (_, form, fate) in &step.tokens {
        match fate {
            TokenFate::Kept => {}
            TokenFate::Joined(_) => joined += 1,
            TokenFate::Added => added += 1,
            TokenFate::Marked(mark) => match marks.iter_mut().find(|(known, _)| known == mark) {
                Some((_, count)) => *count += 1,
                None => marks.push((mark, 1)),
            },
            TokenFate::Changed(_) => changed += 1,
            TokenFate::Dropped(reason) => match reasons.iter_mut().find(|(known, _)| known == reason) {
                Some((_, forms)) => forms.push(form),
                None => reasons.push((reason, vec![form])),
            },
        }
    }
    let mut notes: Vec<String> = reasons
        .into_iter()
        .map(|(reason, mut forms)| {
            let count = counted(forms.len() as u64, "token");
            let mut seen = Vec::new();
            forms.retain(|form| {
                !seen.contains(form) && {
                    seen.push(form);
                    true
                }
            });
            let mut shown = String::new();
            for (index, form) in forms.iter().enumerate() {
                if shown.len() + form.len() + reason.len() + 40 > look.width {
                    shown.push_str(&format!(", {} more", forms.len() - index));
                    break;
                }
                shown.push_str(if index == 0 { "" } else { ", " });
                shown.push_str(&visible(form));
            }
            format!("{count} dropped, {}: {shown}", visible(reason))
        })
        .collect();
    if changed > 0 {
        notes.push(format!("{} changed", counted(changed, "token")));
    }
    if joined > 0 {
        notes.push(format!("{} made into {}", counted(joined, "token"), grouped(added)));
    }
    if !marks.is_empty() {
        marks.sort_by_key(|(_, count)| std::cmp::Reverse(*count));
        let mut line = String::new();
        for (mark, count) in marks {
            // Parts of speech have a plural; labels are what their author calls them.
            let plural = Tag::named(mark).filter(|_| count > 1).map(Tag::plural);
            let one = format!("{count} {}", plural.map_or_else(|| visible(mark), str::to_owned));
            if !line.is_empty() && line.chars().count() + one.chars().count() + NAMES.1 + 4 > look.width {
                notes.push(std::mem::take(&mut line));
            }
            line.push_str(if line.is_empty() { "" } else { ", " });
            line.push_str(&one);
        }
        notes.push(line);
    }
    if notes.is_empty() {
        notes.push("nothing to change".to_owned());
    }
    notes
}
