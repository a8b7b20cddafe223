//! `yarrup compare`: recipes on one collection, or runs that are done, against one another.

use std::collections::BTreeMap;
use std::io::Write;
use std::path::Path;

use yarrup_core::compare::{LengthShift, Overview, Ranked, StepText, align, described};
use yarrup_core::study::GroupBy;
use yarrup_core::{Account, Alternative, Fields, language_of};
use yarrup_io::{Holding, NewFolder, Numbered, Pass, RECIPE_FILE, Source, read_account};
use yarrup_report::counted;

use super::compare_show::show;
use super::compare_tables::{json, overview_rows, write_folder};
use super::matrix::refuse_there;
use crate::arguments::TableFormat;
use crate::compare_arguments::CompareArguments;
use crate::comparing::{
    Bounds, CollectionShift, Comparing, Comparison, LabelSample, LabelTellings, MOST, Made, PairFacts, Side,
    WordPairs, at_once, each_step_out, letter, named, names, rounded, split_alone, varied,
};
use crate::failure::{Exit, Failure, option};
use crate::figures::noted;
use crate::learning::Remembered;
use crate::reading::{lenient, no_document, read_all, refuse_unknown_fields, tell_losses, threads};
use crate::recipe_file::{compile, lists_beside};
use crate::screen::Screen;
use crate::studied::Studied;
use crate::timing::TimeSample;

/// How many documents that change most are kept of two that are compared, and of each of more.
const SHOWN_DOCUMENTS: (usize, usize) = (100, 20);

/// Of how many documents one is timed.
const ONE_TIMED: u64 = 400;
/// The least that is timed, in bytes.
const LEAST_TIMED: u64 = 50_000;

pub(crate) fn compare(arguments: &CompareArguments, screen: &Screen) -> Result<Exit, Failure> {
    // Before any work is done.
    let bounds = Bounds::read(&arguments.fail_if)?;
    let words = arguments.pairs.as_deref().map(WordPairs::read).transpose()?;
    if let Some(out) = &arguments.out {
        refuse_there(out)?;
    }
    let by = arguments.by.as_deref().map(GroupBy::read).transpose().map_err(|why| option("by", &why))?;
    if arguments.compared.len() >= MOST {
        return Err(Failure::Sentence(format!("{MOST} recipes or runs are compared at most")));
    }
    let run = arguments.compared.iter().find(|path| path.is_dir());
    let recipe = arguments.compared.iter().find(|path| !path.is_dir());
    match (run, recipe) {
        (Some(run), Some(recipe)) => Err(Failure::Sentence(format!(
            "{} is a folder and {} is a file: compare runs with runs, or recipes with recipes",
            run.display(),
            recipe.display()
        ))),
        (Some(run), None) if !arguments.on.is_empty() => Err(Failure::Sentence(format!(
            "{} is a run: --on is for recipes. Its recipe is {}/{RECIPE_FILE}",
            run.display(),
            run.display()
        ))),
        (Some(_), None) => of_runs(arguments, by, words.as_ref(), &bounds, screen),
        _ => of_recipes(arguments, by, words.as_ref(), &bounds, screen),
    }
}

/// The recipes that are to be compared.
fn recipes(arguments: &CompareArguments, screen: &Screen) -> Result<Vec<Made>, Failure> {
    let one = |what: &str| match arguments.compared.as_slice() {
        [recipe] => Ok(recipe.clone()),
        _ => Err(option(what, "is for one recipe")),
    };
    if arguments.each_step_out {
        return each_step_out(&one("each-step-out")?, screen);
    }
    if !arguments.vary.is_empty() {
        return varied(&one("vary")?, &arguments.vary);
    }
    let first = arguments.compared[0].display();
    if arguments.compared.len() < 2 {
        return Err(Failure::Sentence(format!(
            "{first}: there is nothing to compare it with: name another recipe, or say --each-step-out or --vary STEP.KEY=VALUES"
        )));
    }
    if arguments.on.is_empty() {
        return Err(Failure::Sentence(format!(
            "{first} is a recipe: say with --on which documents the recipes are compared on"
        )));
    }
    named(&arguments.compared)
}

fn of_recipes(
    arguments: &CompareArguments,
    by: Option<GroupBy>,
    words: Option<&WordPairs>,
    bounds: &Bounds,
    screen: &Screen,
) -> Result<Exit, Failure> {
    let mut made = recipes(arguments, screen)?;
    let mut collection = arguments.reading.collection(&arguments.on)?;
    let policy = lenient(threads(arguments.threads));
    let compared = made.len();
    if arguments.label.is_some() {
        // What could be told of the text as it was found.
        made.push(split_alone(&arguments.compared[0])?);
    }
    // What each learns is told by `run`; here it would be told over and over.
    let quiet = screen.hushed();
    let mut remembered = Remembered::default();
    let ready = made.into_iter().map(|made| made.learned(&mut collection, (policy, &mut remembered), &quiet));
    let made: Vec<Made> = ready.collect::<Result<_, _>>()?;
    let alternatives = made
        .iter()
        .map(|made| Alternative { pipeline: &made.compiled.pipeline, steps: &made.ready })
        .collect();
    let keep = if compared == 2 { SHOWN_DOCUMENTS.0 } else { SHOWN_DOCUMENTS.1 };
    let mut source = Source::open(&collection)?;
    let timed = TimeSample::of(source.likely_bytes(), LEAST_TIMED, ONE_TIMED);
    let label = arguments.label.clone();
    let comparing = Comparing { alternatives, keep, by, label, compared, timed, text: None };
    let read = comparing.read(&mut source, policy, screen)?;
    for made in &made {
        refuse_unknown_fields(&collection, Some(&made.compiled.pipeline), screen)?;
    }
    if let Some(failure) = no_document(&read.summary, &source) {
        return Err(failure);
    }
    tell_losses(&read.summary, screen);
    refuse_no_groups(&comparing, &read.changed)?;
    let labels = tellings(arguments.label.as_deref(), &read.labels)?;
    let ranked = at_once(0..compared, policy.threads, |place| Ranked::of(&read.accounts[place]));
    let overviews = read.accounts.iter().zip(&ranked).map(|(account, ranked)| Overview::of(account, ranked));
    let sides = made.iter().zip(overviews).enumerate().map(|(place, (made, overview))| Side {
        letter: letter(place),
        name: made.name.clone(),
        language: made.compiled.recipe.language.clone(),
        overview,
        seconds: read.seconds[place].clone(),
        settings: made.settings.clone(),
        without: made.without,
        mates: words.map(|words| words.under(&made.compiled.pipeline)),
    });
    let pairs = at_once(1..compared, policy.threads, |there| PairFacts {
        changed: read.changed.get(there - 1),
        splits: read.splits.get(there - 1).and_then(Option::as_ref),
        ..PairFacts::of(
            &read.accounts,
            &ranked,
            (there, align(&made[0].steps, &made[there].steps)),
            (&made[0].compiled.pipeline, &made[there].compiled.pipeline),
            true,
        )
    });
    let comparison = Comparison {
        of_runs: false,
        title: title(arguments),
        documents: read.summary.documents,
        sources: source
            .read_files()
            .iter()
            .filter(|file| !file.inside)
            .map(|file| file.name.clone())
            .collect(),
        sides: sides.collect(),
        pairs,
        labels,
        label: arguments.label.clone(),
        by: arguments.by.clone(),
        notes: Vec::new(),
    };
    told(&comparison, arguments, bounds, screen)
}

/// How well labels are told, where they are asked for.
fn tellings(label: Option<&str>, sample: &LabelSample) -> Result<Option<LabelTellings>, Failure> {
    let Some(label) = label else { return Ok(None) };
    match sample.tellings() {
        Some(tellings) => Ok(Some(tellings)),
        None if sample.seen() == 0 => Err(option("label", &format!("no document has a field `{label}`"))),
        None => Err(option(
            "label",
            &format!("all documents have the same value of `{label}`: there is nothing to tell apart"),
        )),
    }
}

/// What the comparison is of.
fn title(arguments: &CompareArguments) -> String {
    let names = names(&arguments.compared).join(" · ");
    match (arguments.each_step_out, arguments.vary.is_empty()) {
        (true, _) => format!("{names} without each of its steps"),
        (false, false) => format!("{names} with {}", arguments.vary.join(", ")),
        (false, true) => names,
    }
}

/// A field that no document has makes no groups.
fn refuse_no_groups<D>(
    comparing: &Comparing<'_>,
    changed: &[yarrup_core::compare::ChangedDocuments<D>],
) -> Result<(), Failure> {
    let (Some(by), Some(changed)) = (&comparing.by, changed.first()) else { return Ok(()) };
    let without = by.group(None).to_string();
    if changed.groups().keys().all(|group| *group == without) {
        return Err(option("by", &format!("no document has a field `{}`", by.path())));
    }
    Ok(())
}

/// A run that is done, with what was counted.
struct Done {
    studied: Studied,
    /// What the steps of its recipe say as it was given.
    steps: Vec<StepText>,
    /// What they say with all that was learned.
    ready: Vec<StepText>,
}

impl Done {
    fn open(path: &Path) -> Result<Done, Failure> {
        let studied = Studied::open(path)?;
        let given = compile(&path.join(RECIPE_FILE))?;
        let texts = |path: &str, recipe| described(recipe, &lists_beside(Path::new(path)));
        let steps = texts(&given.path, &given.recipe);
        let ready = texts(&studied.compiled.path, &studied.compiled.recipe);
        Ok(Done { studied, steps, ready })
    }

    /// The hashes of what was read.
    fn sources(&self) -> Vec<&str> {
        let mut hashes: Vec<&str> =
            self.studied.record.sources.iter().map(|source| source.hash.as_str()).collect();
        hashes.sort_unstable();
        hashes
    }
}

fn of_runs(
    arguments: &CompareArguments,
    by: Option<GroupBy>,
    words: Option<&WordPairs>,
    bounds: &Bounds,
    screen: &Screen,
) -> Result<Exit, Failure> {
    if arguments.compared.len() < 2 {
        return Err(Failure::Sentence(format!(
            "{}: there is nothing to compare it with: name another run",
            arguments.compared[0].display()
        )));
    }
    let accounts: Vec<Account> =
        arguments.compared.iter().map(|run| read_account(run)).collect::<Result<_, _>>()?;
    let runs: Vec<Done> = arguments.compared.iter().map(|run| Done::open(run)).collect::<Result<_, _>>()?;
    // The same files may have been read in part, or otherwise.
    let read = |place: usize| {
        let totals = &accounts[place].totals;
        (runs[place].sources(), totals.documents, totals.characters)
    };
    let of_same = (1..runs.len()).all(|place| read(place) == read(0));
    let mut notes = Vec::new();
    let alternatives = runs
        .iter()
        .map(|run| Alternative { pipeline: &run.studied.compiled.pipeline, steps: &run.ready })
        .collect();
    let bytes: u64 = runs[0].studied.record.totals.characters;
    let timed = TimeSample::of(bytes, LEAST_TIMED, ONE_TIMED);
    let keep = if runs.len() == 2 { SHOWN_DOCUMENTS.0 } else { SHOWN_DOCUMENTS.1 };
    let comparing =
        Comparing { alternatives, keep, by, label: None, compared: runs.len(), timed, text: Some("text") };
    let again = match of_same {
        true => documents_again(&comparing, &runs[0], &accounts[0], arguments, &mut notes, screen)?,
        false => None,
    };
    if again.is_none() && arguments.by.is_some() {
        return Err(option(
            "by",
            "there are no documents to set side by side: the runs are of different ones",
        ));
    }
    let mut shifts: Vec<Option<CollectionShift>> = runs.iter().map(|_| None).collect();
    if !of_same {
        let first = shape(&runs[0], screen, &mut notes)?;
        for (shift, run) in shifts.iter_mut().zip(&runs).skip(1) {
            let other = shape(run, screen, &mut notes)?;
            *shift = Some(CollectionShift {
                lengths: LengthShift::of(&first.0, &other.0),
                languages: (first.1.clone(), other.1),
            });
        }
    }
    let ranked: Vec<Ranked<'_>> = accounts.iter().map(Ranked::of).collect();
    let overviews = accounts.iter().zip(&ranked).map(|(account, ranked)| Overview::of(account, ranked));
    let sides = overviews.zip(&runs).zip(names(&arguments.compared)).enumerate();
    let sides = sides.map(|(place, ((overview, run), name))| Side {
        letter: letter(place),
        name,
        language: run.studied.compiled.recipe.language.clone(),
        overview,
        seconds: again.as_ref().map_or(Vec::new(), |again| again.seconds[place].clone()),
        settings: Vec::new(),
        without: None,
        mates: words.map(|words| words.under(&run.studied.compiled.pipeline)),
    });
    let pairs = (1..runs.len()).zip(shifts.into_iter().skip(1)).map(|(there, shift)| {
        let pipeline = |run: usize| &runs[run].studied.compiled.pipeline;
        let steps = align(&runs[0].steps, &runs[there].steps);
        let facts =
            PairFacts::of(&accounts, &ranked, (there, steps), (pipeline(0), pipeline(there)), of_same);
        PairFacts {
            changed: again.as_ref().and_then(|again| again.changed.get(there - 1)),
            splits: again.as_ref().and_then(|again| again.splits.get(there - 1)).and_then(Option::as_ref),
            drift: shift.map(|shift| (facts.drifted(), shift)),
            ..facts
        }
    });
    let comparison = Comparison {
        of_runs: true,
        title: title(arguments),
        documents: accounts[0].totals.documents,
        sources: runs[0].studied.record.sources.iter().map(|source| source.name.clone()).collect(),
        sides: sides.collect(),
        pairs: pairs.collect(),
        labels: None,
        label: None,
        by: arguments.by.clone(),
        notes,
    };
    told(&comparison, arguments, bounds, screen)
}

/// Takes the documents of the first run through the recipes of all: the runs are of the same ones. None, and noted, if there are no texts.
fn documents_again<'p>(
    comparing: &Comparing<'p>,
    first: &Done,
    account: &Account,
    arguments: &CompareArguments,
    notes: &mut Vec<String>,
    screen: &Screen,
) -> Result<Option<crate::comparing::Compared<'p>>, Failure> {
    let run = first.studied.path.display();
    let policy = lenient(threads(arguments.threads));
    let (documents, mut source) = match first.studied.documents(&[], Holding::default()) {
        Ok(opened) => opened,
        Err(why) => {
            notes.push(format!("documents are not compared: {why}"));
            return Ok(None);
        }
    };
    let read = comparing.read(&mut source, policy, screen)?;
    documents.confirm(&source)?;
    refuse_no_groups(comparing, &read.changed)?;
    let (told, found) = (&account.totals, &read.accounts[0].totals);
    if found.documents == 0 {
        notes.push(format!("documents are not compared: {run} was written without the original texts"));
        return Ok(None);
    }
    if told.dropped > 0 {
        notes.push(format!(
            "the {} that {run} left out are not among the documents that are compared",
            counted(told.dropped, "document")
        ));
    } else if told.tokens_kept != found.tokens_kept {
        notes.push(format!(
            "documents are not compared: the recipe of {run} makes something else now than it did, so a word list or a dictionary has changed"
        ));
        return Ok(None);
    }
    Ok(Some(read))
}

/// Documents by their tokens, and by their language.
type Shape = (BTreeMap<u64, u64>, BTreeMap<String, u64>);

/// What the documents of a run are like.
fn shape(run: &Done, screen: &Screen, notes: &mut Vec<String>) -> Result<Shape, Failure> {
    let (_, lengths) = noted(&run.studied.path, &run.studied.record)?;
    let lengths = lengths.into_iter().map(|(tokens, (found, _))| (tokens, found)).collect();
    let languages = match run.studied.documents(&[], Holding::default()) {
        Ok((_, mut source)) => {
            let step = (run.studied.record.totals.documents / ASKED).max(1);
            let asking = AskingLanguages { step };
            let mut sum: BTreeMap<String, u64> = BTreeMap::new();
            let reading = read_all(&mut source, lenient(threads(None)), &asking, screen)?;
            for (language, count) in reading.states.into_iter().flatten() {
                *sum.entry(language).or_default() += count;
            }
            sum
        }
        Err(why) => {
            notes.push(format!("languages are not compared: {why}"));
            BTreeMap::new()
        }
    };
    Ok((lengths, languages))
}

/// About how many documents are asked for their language.
const ASKED: u64 = 5_000;
/// How much of each.
const ASKED_BYTES: usize = 2_000;

/// Asks one of so many documents for its language.
struct AskingLanguages {
    step: u64,
}

impl Pass for AskingLanguages {
    type State = BTreeMap<String, u64>;
    type Left = ();

    fn state(&self) -> Self::State {
        BTreeMap::new()
    }

    fn document(&self, languages: &mut Self::State, document: &Numbered<'_>, (): &mut ()) {
        if !yarrup_io::short_hash(&document.order.to_le_bytes()).is_multiple_of(self.step) {
            return;
        }
        let record = &document.record;
        let detected = || {
            let text = record.field("text")?;
            let end = (0..=ASKED_BYTES.min(text.len())).rev().find(|end| text.is_char_boundary(*end));
            language_of(&text[..end.unwrap_or(0)]).map(str::to_owned)
        };
        let language = record.field("language").map(|language| language.into_owned()).or_else(detected);
        *languages.entry(language.unwrap_or_else(|| "unknown".to_owned())).or_default() += 1;
    }
}

/// Prints and writes the comparison, and tells whether it keeps to the bounds.
fn told(
    comparison: &Comparison<'_>,
    arguments: &CompareArguments,
    bounds: &Bounds,
    screen: &Screen,
) -> Result<Exit, Failure> {
    for note in &comparison.notes {
        screen.tell(&format!("note: {note}"));
    }
    if let Some(out) = &arguments.out {
        let folder = NewFolder::create(out)?;
        write_folder(comparison, &folder)?;
        folder.finish()?;
    }
    let measures: Vec<_> = comparison
        .pairs
        .iter()
        .map(|pair| pair.measures(&comparison.sides, comparison.labels.as_ref()))
        .collect();
    let mut out = screen.out_as(arguments.format);
    if arguments.measures {
        for (pair, measures) in comparison.pairs.iter().zip(&measures) {
            if measures.len() > 1 && comparison.pairs.len() > 1 {
                writeln!(out, "{}", screen.look.heading(&comparison.sides[pair.there].name))?;
            }
            for (name, value) in measures {
                writeln!(out, "{name} {}", rounded(*value))?;
            }
        }
    } else {
        match arguments.format {
            TableFormat::Table => show(comparison, arguments, screen, &mut out)?,
            TableFormat::Csv => overview_rows(comparison).print(TableFormat::Csv, screen.look, &mut out)?,
            TableFormat::Json => {
                serde_json::to_writer_pretty(&mut out, &json(comparison, arguments.rows, true))
                    .map_err(std::io::Error::from)?;
                writeln!(out)?;
            }
        }
    }
    out.flush()?;
    let mut exit = Exit::Done;
    for (pair, measures) in comparison.pairs.iter().zip(&measures) {
        for broken in bounds.broken(measures)? {
            screen.warn(&format!("{}: {broken}", comparison.sides[pair.there].name));
            exit = Exit::Found;
        }
    }
    Ok(exit)
}
