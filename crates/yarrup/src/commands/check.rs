//! `yarrup check`: mistakes in a recipe, and advice on it.

use std::collections::BTreeMap;
use std::io::Write;
use std::path::Path;

use serde_json::json;
use yarrup_core::advice::{self, Advice, Arrival, EntryAdvice, LanguageShare, Verdict};
use yarrup_core::examples::{Miss, Outcome};
use yarrup_core::recipe::{self, Fault, Recipe};
use yarrup_core::step::Document;
use yarrup_core::{Account, Outputs, Pipeline, ToLearn, Worker, examples, language_of};
use yarrup_io::{Collection, FolderLists, Numbered, Pass, Source, write_file};
use yarrup_report::{Align, Look, Marked, counted, grouped, table, visible, wrapped};

use crate::arguments::{CheckArguments, CheckFormat};
use crate::failure::{Exit, Failure};
use crate::kept_documents::KeptDocuments;
use crate::learning::{learned, learned_from_kept, reread};
use crate::output::{Output, Shape};
use crate::reading::{SMALL, lenient, read_all, refuse_unknown_fields, tell_losses, threads};
use crate::recipe_file::{Compiled, compile};
use crate::screen::Screen;
use crate::watching::watch;

pub(crate) fn check(arguments: &CheckArguments, screen: &Screen) -> Result<Exit, Failure> {
    let mut compiled = match (compile(&arguments.recipe), arguments.format) {
        (Err(Failure::Recipe { path, text, faults }), CheckFormat::Json) => {
            return print_mistakes(&path, &text, &faults, screen);
        }
        (compiled, _) => compiled?,
    };
    let mut collection = match arguments.sources.is_empty() {
        true => None,
        false => Some(arguments.reading.collection(&arguments.sources)?),
    };
    if arguments.watch {
        return watched(arguments, &compiled, collection.as_ref(), screen);
    }
    if (arguments.fix || arguments.joined)
        && let Some(collection) = &mut collection
    {
        // Once for the advice, once more for what is left of it or for the words.
        reread(collection)?;
    }
    let mut advice = advice_on(&compiled, On::of(collection.as_mut()), screen)?;
    if arguments.fix {
        let mended = mend_all(&compiled, &advice)?;
        if mended.changes > 0 {
            let now = std::fs::read(&arguments.recipe).unwrap_or_default();
            // A mark at the start is no part of the recipe.
            if now.strip_prefix(b"\xef\xbb\xbf").unwrap_or(&now) != compiled.text.as_bytes() {
                return Err(Failure::Sentence(format!(
                    "{}: was changed meanwhile, and is left as it is; check it again",
                    compiled.path
                )));
            }
            write_file(&arguments.recipe, mended.text.as_bytes(), true)?;
            for told in &mended.told {
                screen.tell(&format!("{}: {told}", compiled.path));
            }
            compiled = compile(&arguments.recipe)?;
            advice = advice_on(&compiled, On::of(collection.as_mut()), screen)?;
        } else {
            screen.tell(&format!("{}: nothing that can be changed without a choice of yours", compiled.path));
        }
    }
    let joined = match &collection {
        Some(collection) if arguments.joined => Some(joined_words(&compiled, collection, screen)?),
        _ => None,
    };
    let holds = print(&compiled, &advice, joined.as_deref(), arguments, screen)?;
    Ok(if advice.is_empty() && holds { Exit::Done } else { Exit::Found })
}

/// Prints what was found. Returns whether all examples hold.
fn print(
    compiled: &Compiled,
    advice: &[Advice],
    joined: Option<&[JoinedWords]>,
    arguments: &CheckArguments,
    screen: &Screen,
) -> Result<bool, Failure> {
    let outcomes = examples::run(&compiled.recipe.examples, &compiled.pipeline);
    match arguments.format {
        CheckFormat::Json => print_json(compiled, advice, &outcomes, joined, screen)?,
        CheckFormat::Text => print_text(compiled, advice, (&outcomes, arguments.entries), joined, screen)?,
    }
    Ok(outcomes.iter().all(|outcome| outcome.misses.is_empty()))
}

/// Checks the recipe again whenever it, or a list that it names, changes. The documents are read once and kept.
fn watched(
    arguments: &CheckArguments,
    compiled: &Compiled,
    collection: Option<&Collection>,
    screen: &Screen,
) -> Result<Exit, Failure> {
    let kept = match collection {
        Some(collection) => Some(KeptDocuments::read(collection, lenient(threads(None)), screen)?),
        None => None,
    };
    let folder = arguments.recipe.parent().map(Path::to_owned).unwrap_or_default();
    let mut files = vec![arguments.recipe.clone()];
    files.extend(compiled.lists.iter().map(|list| folder.join(&list.name)));
    // What is learned is told by `run`; here it would be told over and over.
    let hushed = screen.hushed();
    watch(&files, screen, || {
        let compiled = compile(&arguments.recipe)?;
        let on = kept.as_ref().map_or(On::Nothing, On::Kept);
        let advice = advice_on(&compiled, on, &hushed)?;
        print(&compiled, &advice, None, arguments, screen).map(|_| ())
    })
}

/// What a recipe is checked on.
enum On<'a> {
    Nothing,
    Collection(&'a mut Collection),
    Kept(&'a KeptDocuments),
}

impl<'a> On<'a> {
    fn of(collection: Option<&'a mut Collection>) -> On<'a> {
        collection.map_or(On::Nothing, On::Collection)
    }
}

/// The examples of the recipe that do not hold, each as expected against got.
fn print_examples(
    compiled: &Compiled,
    outcomes: &[Outcome<'_>],
    look: Look,
    out: &mut Output,
) -> Result<(), Failure> {
    for outcome in outcomes.iter().filter(|outcome| !outcome.misses.is_empty()) {
        let example = outcome.example;
        let line = compiled.text[..example.span.start.min(compiled.text.len())].matches('\n').count() + 1;
        let about =
            example.about.as_deref().map_or_else(String::new, |about| format!(", {}", visible(about)));
        let title = format!("{}:{line}: the example does not hold{about}", visible(&compiled.path));
        writeln!(out, "{}", look.heading(&title))?;
        let told = |out: &mut Output, name: &str, text: &str| {
            let pieces = [Marked::Same(visible(text))];
            writeln!(out, "  {}  {}", look.faint(&format!("{name:<8}")), wrapped(&pieces, 12, look))
        };
        told(out, "text", &example.text)?;
        for miss in &outcome.misses {
            told(out, "expected", &miss.expected)?;
            told(out, "got", &miss.got)?;
            if let Some(step) = miss.step {
                let name = compiled.pipeline.steps().get(step - 1);
                let name = name.map_or("", |step| step.label.as_deref().unwrap_or(step.operation));
                told(out, "because", &format!("step {step} ({name}) {}", miss.did))?;
            }
        }
        writeln!(out)?;
    }
    Ok(())
}

/// The mistakes of a recipe that cannot be compiled.
fn print_mistakes(path: &str, text: &str, faults: &[Fault], screen: &Screen) -> Result<Exit, Failure> {
    let mistake = |fault: &Fault| {
        let line = text[..fault.span.start.min(text.len())].matches('\n').count() + 1;
        json!({"title": fault.title, "line": line, "start": fault.span.start, "end": fault.span.end,
               "label": fault.label, "help": fault.help})
    };
    let mistakes: Vec<_> = faults.iter().map(mistake).collect();
    let mut out = screen.out_as(Shape::Json);
    writeln!(out, "{:#}", json!({"recipe": path, "mistakes": mistakes, "advice": []}))?;
    out.flush()?;
    Ok(Exit::Unusable)
}

/// The advice on a recipe: from the recipe alone, and from the documents if there are any.
fn advice_on(compiled: &Compiled, on: On<'_>, screen: &Screen) -> Result<Vec<Advice>, Failure> {
    let mut advice = advice::check(&compiled.recipe, &compiled.pipeline);
    let policy = lenient(threads(None));
    let learns = ToLearn::next(&compiled.pipeline).is_some();
    let frozen;
    let (pipeline, states) = match on {
        On::Nothing => return Ok(advice),
        On::Collection(collection) => {
            // What has nothing to learn stands as it is.
            frozen = match learns {
                true => Some(learned(compiled.again()?, collection, policy, screen)?.0),
                false => None,
            };
            let pipeline = frozen.as_ref().map_or(&compiled.pipeline, |frozen| &frozen.pipeline);
            let mut source = Source::open(collection)?;
            let counting = Counting { pipeline, few: source.bytes() < SMALL };
            let reading = read_all(&mut source, policy, &counting, screen)?;
            tell_losses(&reading.summary, screen);
            refuse_unknown_fields(collection, Some(pipeline), screen)?;
            if reading.summary.documents == 0 {
                return Err(Failure::Sentence("the sources hold no document".to_owned()));
            }
            (pipeline, reading.states)
        }
        On::Kept(kept) => {
            frozen = match learns {
                true => Some(learned_from_kept(compiled.again()?, kept, policy.threads, screen)?),
                false => None,
            };
            let pipeline = frozen.as_ref().map_or(&compiled.pipeline, |frozen| &frozen.pipeline);
            let workers = kept.each(
                policy.threads,
                || Worker::new(pipeline, Outputs::default()),
                |worker, document| {
                    worker.take(document);
                },
            );
            // Languages are those of the documents, whatever the recipe.
            let mut states: Vec<_> = workers.into_iter().map(|worker| (worker, BTreeMap::new())).collect();
            if let Some((_, languages)) = states.first_mut() {
                *languages = kept.languages();
            }
            (pipeline, states)
        }
    };
    let mut languages: BTreeMap<&'static str, u64> = BTreeMap::new();
    let mut workers = Vec::new();
    for (worker, seen) in states {
        seen.into_iter().for_each(|(language, count)| *languages.entry(language).or_default() += count);
        workers.push(worker);
    }
    let account = Account::of_workers(workers, pipeline);
    let found = advice::check_account(&compiled.recipe, pipeline, &account, &shares(languages));
    // What the collection counts takes the place of what a sample showed.
    advice.retain(|advice| {
        !found.iter().any(|counted| (counted.code, counted.step) == (advice.code, advice.step))
    });
    advice.extend(found);
    advice.sort_by_key(|advice| advice.step);
    Ok(advice)
}

/// The pass that counts what the recipe does, and the languages of the documents.
struct Counting<'p> {
    pipeline: &'p Pipeline,
    /// Whether every document is asked for its language.
    few: bool,
}

impl<'p> Pass for Counting<'p> {
    type State = (Worker<'p>, BTreeMap<&'static str, u64>);
    type Left = ();

    fn state(&self) -> Self::State {
        (Worker::new(self.pipeline, Outputs::default()), BTreeMap::new())
    }

    fn document(&self, (worker, languages): &mut Self::State, document: &Numbered<'_>, (): &mut ()) {
        let Numbered { record, order, .. } = document;
        worker.take(&Document { text: &record.text, fields: record, order: *order });
        // By length, so that the choice does not depend on who reads what.
        if (self.few || record.text.len() % 16 == 0)
            && let Some(language) = language_of(&record.text)
        {
            *languages.entry(language).or_default() += 1;
        }
    }
}

/// Words that are joined because the marks between them are erased.
struct JoinedWords {
    step: usize,
    /// As they stood there.
    found: String,
    count: u64,
    documents: u64,
}

/// All words that the recipe joins in a collection, the most frequent first.
fn joined_words(
    compiled: &Compiled,
    collection: &Collection,
    screen: &Screen,
) -> Result<Vec<JoinedWords>, Failure> {
    let joining = Joining { pipeline: &compiled.pipeline };
    let reading = read_all(&mut Source::open(collection)?, lenient(threads(None)), &joining, screen)?;
    let mut sum: BTreeMap<(usize, String), (u64, u64)> = BTreeMap::new();
    for (words, (count, documents)) in reading.states.into_iter().flatten() {
        let known = sum.entry(words).or_default();
        (known.0, known.1) = (known.0 + count, known.1 + documents);
    }
    let joined = |((step, found), (count, documents))| JoinedWords { step, found, count, documents };
    let mut all: Vec<JoinedWords> = sum.into_iter().map(joined).collect();
    all.sort_by_key(|words| std::cmp::Reverse(words.count));
    Ok(all)
}

/// The pass that writes down which words are joined.
struct Joining<'p> {
    pipeline: &'p Pipeline,
}

impl Pass for Joining<'_> {
    /// By step and words: how often, and in how many documents.
    type State = BTreeMap<(usize, String), (u64, u64)>;
    type Left = ();

    fn state(&self) -> Self::State {
        BTreeMap::new()
    }

    fn document(&self, words: &mut Self::State, document: &Numbered<'_>, (): &mut ()) {
        let mut here: BTreeMap<(usize, String), u64> = BTreeMap::new();
        self.pipeline.each_match(&document.record.text, &document.record, &mut |step, sort, found| {
            if sort == advice::JOINED {
                *here.entry((step, found.to_owned())).or_default() += 1;
            }
        });
        for (key, count) in here {
            let known = words.entry(key).or_default();
            (known.0, known.1) = (known.0 + count, known.1 + 1);
        }
    }
}

/// Languages by how many documents are in them.
fn shares(languages: BTreeMap<&'static str, u64>) -> Vec<LanguageShare> {
    let share =
        |(language, documents): (&str, u64)| LanguageShare { language: language.to_owned(), documents };
    let mut shares: Vec<LanguageShare> = languages.into_iter().map(share).collect();
    shares.sort_by(|a, b| b.documents.cmp(&a.documents).then_with(|| a.language.cmp(&b.language)));
    shares
}

/// A recipe with changes made.
struct Mended {
    text: String,
    changes: usize,
    told: Vec<String>,
}

/// Makes the changes that are sure to do no harm: each must leave a recipe that can be read, and give less advice than before.
fn mend_all(compiled: &Compiled, advice: &[Advice]) -> Result<Mended, Failure> {
    let mut mended = Mended { text: compiled.text.clone(), changes: 0, told: Vec::new() };
    let mut left = advice.iter().filter(|advice| !is_counted(advice)).count();
    // One change at a time: a step that moves gives the others new numbers.
    loop {
        let now = recompile(compiled, &mended.text);
        let Ok((recipe, pipeline)) = now else { break };
        let found = match mended.changes {
            0 => advice.to_vec(),
            _ => advice::check(&recipe, &pipeline),
        };
        let better = found.iter().flat_map(|advice| &advice.fixes).find_map(|fix| {
            let text = advice::mend(&mended.text, &recipe, fix.change.as_ref()?).ok()?;
            let (recipe, pipeline) = recompile(compiled, &text).ok()?;
            let less = advice::check(&recipe, &pipeline).len();
            (less < left || (less == left && left == 0 && text != mended.text))
                .then(|| (text, less, fix.told.clone()))
        });
        let Some((text, less, told)) = better else { break };
        (mended.text, left) = (text, less);
        mended.changes += 1;
        mended.told.push(told);
    }
    Ok(mended)
}

/// Whether advice comes from a collection, which is not read again for every change.
fn is_counted(advice: &Advice) -> bool {
    recipe::CODES.iter().any(|code| code.name == advice.code && code.needs_collection)
}

fn recompile(compiled: &Compiled, text: &str) -> Result<(Recipe, Pipeline), ()> {
    let folder = Path::new(&compiled.path).parent().map(Path::to_owned).unwrap_or_default();
    let lists = FolderLists::new(folder);
    let recipe = recipe::read_with(text, &lists).map_err(drop)?;
    let pipeline = Pipeline::compile(&recipe, &lists).map_err(drop)?;
    Ok((recipe, pipeline))
}

fn print_text(
    compiled: &Compiled,
    advice: &[Advice],
    (outcomes, entries): (&[Outcome<'_>], bool),
    joined: Option<&[JoinedWords]>,
    screen: &Screen,
) -> Result<(), Failure> {
    compiled.tell_put_in(screen);
    let mut out = screen.out();
    print_examples(compiled, outcomes, screen.look, &mut out)?;
    for advice in advice {
        writeln!(out, "{}", screen.advice(&compiled.path, &compiled.text, advice))?;
        let mut shown: Vec<&EntryAdvice> = advice
            .entries
            .iter()
            .filter(|entry| entries || matches!(entry.verdict, Verdict::Unreachable(_)))
            .collect();
        let all = shown.len();
        if !entries {
            // A few for each step that is the cause.
            shown.sort_by_key(|entry| arrival(entry).map_or(0, |arrival| arrival.step));
            let mut of_step = (0, 0);
            shown.retain(|entry| {
                let step = arrival(entry).map_or(0, |arrival| arrival.step);
                of_step = if of_step.0 == step { (step, of_step.1 + 1) } else { (step, 1) };
                of_step.1 <= EXAMPLES
            });
        }
        if advice.entries.is_empty() {
            continue;
        }
        let rows: Vec<Vec<String>> = shown.iter().map(|entry| row(entry, entries)).collect();
        let mut header = vec![
            ("entry", Align::Left),
            ("list", Align::Left),
            ("arrives as", Align::Left),
            ("because of step", Align::Left),
        ];
        if entries {
            header.push(("is missed", Align::Left));
        }
        write!(out, "{}", table(&header, &rows, screen.look))?;
        let more = all - rows.len();
        if more > 0 {
            writeln!(out, "  and {more} more; --entries lists them all")?;
        }
        writeln!(out)?;
    }
    if let Some(joined) = joined {
        let header = [
            ("words that are joined", Align::Left),
            ("times", Align::Right),
            ("documents", Align::Right),
            ("by step", Align::Right),
        ];
        let row = |words: &JoinedWords| {
            vec![
                visible(&words.found),
                grouped(words.count),
                grouped(words.documents),
                words.step.to_string(),
            ]
        };
        match joined {
            [] => writeln!(out, "no words are joined\n")?,
            joined => {
                let rows: Vec<Vec<String>> = joined.iter().map(row).collect();
                writeln!(out, "{}", table(&header, &rows, screen.look))?;
            }
        }
    }
    let steps = compiled.pipeline.steps().len() as u64;
    let all = outcomes.len() as u64;
    let held = outcomes.iter().filter(|outcome| outcome.misses.is_empty()).count() as u64;
    let examples = match all {
        0 => String::new(),
        _ if held == all => format!(
            ", {}",
            if all == 1 {
                "the example holds".to_owned()
            } else {
                format!("all {} examples hold", grouped(all))
            }
        ),
        _ => {
            let verb = if all - held == 1 { "does" } else { "do" };
            format!(", {} of {} {verb} not hold", grouped(all - held), counted(all, "example"))
        }
    };
    match advice.len() {
        0 => writeln!(
            out,
            "{}: no mistakes, nothing to advise ({}){examples}",
            compiled.path,
            counted(steps, "step")
        )?,
        count => {
            writeln!(out, "{}: no mistakes, {}{examples}", compiled.path, counted(count as u64, "warning"))?;
            let changes =
                advice.iter().flat_map(|advice| &advice.fixes).filter_map(|fix| fix.change.as_ref());
            let fixable = changes
                .into_iter()
                .any(|change| advice::mend(&compiled.text, &compiled.recipe, change).is_ok());
            if fixable {
                writeln!(out, "  --fix makes the safe changes")?;
            }
        }
    }
    out.flush()?;
    Ok(())
}

/// How many entries are shown for each step that is the cause.
const EXAMPLES: usize = 4;

fn arrival(entry: &EntryAdvice) -> Option<&Arrival> {
    match &entry.verdict {
        Verdict::Unreachable(arrival) | Verdict::Covered(arrival) => Some(arrival),
        Verdict::Reachable => None,
    }
}

fn row(entry: &EntryAdvice, with_verdict: bool) -> Vec<String> {
    let (arrives, step) = match arrival(entry) {
        Some(arrival) if arrival.tokens.is_empty() => ("never".to_owned(), arrival),
        Some(arrival) => {
            (arrival.tokens.iter().map(|token| visible(token)).collect::<Vec<_>>().join(" + "), arrival)
        }
        None => return vec![visible(&entry.entry.word)],
    };
    let step = format!("{} {}", step.step, step.operation);
    let mut cells = vec![visible(&entry.entry.word), visible(&entry.entry.list), arrives, step];
    if with_verdict {
        let missed = matches!(entry.verdict, Verdict::Unreachable(_));
        cells.push(if missed { "yes" } else { "no: another entry covers it" }.to_owned());
    }
    cells
}

fn fixes(advice: &Advice) -> Vec<serde_json::Value> {
    let fix = |fix: &advice::Fix| json!({"told": fix.told, "toml": fix.toml(), "safe": fix.change.is_some()});
    advice.fixes.iter().map(fix).collect()
}

fn print_json(
    compiled: &Compiled,
    advice: &[Advice],
    outcomes: &[Outcome<'_>],
    joined: Option<&[JoinedWords]>,
    screen: &Screen,
) -> Result<(), Failure> {
    let mut out = screen.out_as(Shape::Json);
    let advice: Vec<_> = advice
        .iter()
        .map(|advice| {
            let entries: Vec<_> = advice
                .entries
                .iter()
                .map(|entry| {
                    let (verdict, arrival) = match &entry.verdict {
                        Verdict::Unreachable(arrival) => ("unreachable", Some(arrival)),
                        Verdict::Covered(arrival) => ("covered", Some(arrival)),
                        Verdict::Reachable => ("reachable", None),
                    };
                    json!({"entry": entry.entry.word, "list": entry.entry.list, "verdict": verdict,
                           "arrives_as": arrival.map(|arrival| &arrival.tokens),
                           "because_of_step": arrival.map(|arrival| arrival.step)})
                })
                .collect();
            json!({"code": advice.code, "step": advice.step, "start": advice.span.start, "end": advice.span.end,
                   "what": advice.what, "because": advice.because,
                   "why": advice.why, "fixes": fixes(advice), "entries": entries,
                   "page": format!("docs/advice.md#{}", advice.code)})
        })
        .collect();
    let example = |outcome: &Outcome<'_>| {
        let miss = |miss: &Miss| json!({"expected": miss.expected, "got": miss.got, "step": miss.step, "did": miss.did});
        json!({"text": outcome.example.text, "about": outcome.example.about,
               "start": outcome.example.span.start, "end": outcome.example.span.end,
               "holds": outcome.misses.is_empty(), "misses": outcome.misses.iter().map(miss).collect::<Vec<_>>()})
    };
    let examples: Vec<_> = outcomes.iter().map(example).collect();
    let mut told = json!({"recipe": compiled.path, "mistakes": [], "advice": advice, "examples": examples});
    if let Some(joined) = joined {
        let words = |words: &JoinedWords| json!({"found": words.found, "count": words.count, "documents": words.documents, "step": words.step});
        told["joined"] = joined.iter().map(words).collect();
    }
    writeln!(out, "{told:#}")?;
    out.flush()?;
    Ok(())
}
