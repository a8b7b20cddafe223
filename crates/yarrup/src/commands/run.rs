//! `yarrup run`: a recipe and a collection in, a run folder out.

use std::io::Write;
use std::path::PathBuf;

use yarrup_core::{Account, Ledger, MatchRow, Outputs, Worker, in_order};
use yarrup_io::{
    Collection, DocumentOutput, Item, LearnedStep, Malformed, RunFolder, RunRecord, Source, SourceRecord,
    StepRecord, TotalsRecord, Why, write_collection, write_effects, write_forms, write_learned,
    write_matches, write_vocabulary,
};
use yarrup_report::{
    Align, Coverage, Figure, ReportPage, StepRow, bars, counted, coverage, curve, effect_figure,
    effect_table, grouped, percent, png, png_shows, rank_frequency_figure, shown, step_rows, table,
    terms_figure, top_terms, visible,
};

use crate::arguments::RunArguments;
use crate::failure::{Exit, Failure, told};
use crate::ids::Ids;
use crate::learning::learned;
use crate::recipe_file::{Compiled, compile, stem};
use crate::screen::{Screen, program, shell_word};
use crate::skips::Skips;

/// How many terms the terminal shows.
const SHOWN_TERMS: usize = 15;
/// How many terms the figure of the top terms shows.
const FIGURE_TERMS: usize = 30;
/// How many terms the report lists.
const REPORT_TERMS: usize = 50;

pub(crate) fn run(arguments: &RunArguments, screen: &Screen) -> Result<Exit, Failure> {
    run_into(arguments, screen)?.print(screen)?;
    Ok(Exit::Done)
}

/// A run that stands in its folder, and what is told of it.
pub(crate) struct Told {
    name: String,
    record: RunRecord,
    steps: Vec<StepRow>,
    top: Vec<(String, u64)>,
    coverage: Vec<Coverage>,
    matches: Vec<MatchRow>,
    folder: String,
}

/// Runs the recipe over the collection, into its folder.
pub(crate) fn run_into(arguments: &RunArguments, screen: &Screen) -> Result<Told, Failure> {
    let compiled = compile(&arguments.recipe)?;
    compiled.tell_put_in(screen);
    let out =
        arguments.out.clone().unwrap_or_else(|| PathBuf::from(format!("{}-run", stem(&arguments.recipe))));
    let mut collection = arguments.reading.collection(&arguments.sources)?;
    let (compiled, _spool, learned) = learned(compiled, &mut collection, screen)?;
    let source = Source::open(&collection)?;
    let folder = RunFolder::create(&out, arguments.replace)?;
    let read = read_all(arguments, &compiled, source, &folder, screen)?;
    if !read.passed_over.is_empty() {
        let count = read.passed_over.len() as u64;
        screen.tell(&format!("note: passed over {}: {}", counted(count, "file"), named(&read.passed_over)));
    }
    let account = Account::new(&read.ledger, &compiled.pipeline);
    let record = record_of(&collection, &compiled, &read, &account);
    write_run(&folder, &compiled, &record, &account, &learned)?;
    let told = Told {
        name: compiled.name(),
        steps: step_rows(account.effects()),
        top: account.vocabulary().take(SHOWN_TERMS).map(|term| (term.text.to_owned(), term.count)).collect(),
        coverage: coverage(&account),
        matches: account.matches(),
        folder: folder.target().display().to_string(),
        record,
    };
    folder.finish()?;
    Ok(told)
}

/// The first few of many names.
fn named(names: &[String]) -> String {
    let mut shown: Vec<_> = names.iter().take(3).map(|name| visible(name)).collect();
    if names.len() > shown.len() {
        shown.push(format!("and {} more", grouped((names.len() - shown.len()) as u64)));
    }
    shown.join(", ")
}

/// What came of reading the whole collection.
struct ReadAll {
    ledger: Ledger,
    sources: Vec<SourceRecord>,
    passed_over: Vec<String>,
    skips: Skips,
    /// Documents for which a condition does not hold.
    left_out: u64,
    broken_bytes: u64,
    broken_documents: u64,
    /// Places that were replaced while texts of other encodings than UTF-8 were decoded.
    replaced: u64,
    /// Documents whose id an earlier one has, and the first such id.
    repeated_ids: (u64, Option<String>),
    /// Whether any document has the field that was chosen for the title.
    titled: bool,
}

/// What a batch leaves beside the ledger, in the order of the source.
#[derive(Default)]
struct Finished {
    documents: Vec<u8>,
    /// Whether it held any document.
    any: bool,
    titled: bool,
    skipped: Vec<Malformed>,
    left_out: u64,
    broken_bytes: u64,
    broken_documents: u64,
    bytes: u64,
    /// The ids that fields gave.
    ids: Ids,
}

fn read_all(
    arguments: &RunArguments,
    compiled: &Compiled,
    mut source: Source,
    folder: &RunFolder,
    screen: &Screen,
) -> Result<ReadAll, Failure> {
    let output = DocumentOutput { without_originals: arguments.without_originals };
    let outputs = Outputs { clean: !arguments.without_documents, tokens: false };
    let threads = super::threads(arguments.threads);
    let mut documents = if outputs.clean { Some(folder.file("documents.jsonl")?) } else { None };
    let mut progress = screen.progress(source.bytes());
    let (mut skips, mut broken_bytes, mut broken_documents) = (Skips::default(), 0, 0);
    let (mut left_out, mut ids) = (0, Ids::default());
    let (mut read_any, mut titled, mut named_skips) = (false, false, 0);
    let workers = in_order(
        threads,
        || Ok::<_, Failure>(source.next_batch()),
        || Worker::new(&compiled.pipeline, outputs),
        |worker, batch| {
            let mut done = Finished { bytes: batch.bytes(), ..Finished::default() };
            if outputs.clean {
                done.documents.reserve(batch.bytes() as usize * 3 / 2);
            }
            batch.records(|item| {
                match item {
                    Item::Document(record) => {
                        done.any = true;
                        done.titled |= record.title.is_some();
                        if !record.id_made {
                            done.ids.note(&record.id);
                        }
                        done.broken_bytes += record.broken_bytes;
                        done.broken_documents += u64::from(record.broken_bytes > 0);
                        let cleaned = worker.document(&record.text, &record);
                        if outputs.clean {
                            output.write(&record, &cleaned, &mut done.documents);
                        }
                    }
                    Item::LeftOut => done.left_out += 1,
                    Item::Malformed(malformed) if arguments.strict => {
                        return Err(Failure::Told(told(&malformed)));
                    }
                    Item::Malformed(malformed) => done.skipped.push(malformed),
                }
                Ok(())
            })?;
            Ok(done)
        },
        |done: Finished| {
            if let Some(documents) = &mut documents {
                documents.write_all(&done.documents).map_err(|why| cannot_write("documents.jsonl", &why))?;
            }
            ids.absorb(&done.ids);
            left_out += done.left_out;
            skips.write(done.skipped, folder)?;
            read_any |= done.any;
            titled |= done.titled;
            // Without any document the first skip alone is told, as the reason of the failure.
            if read_any {
                for malformed in skips.first.iter().skip(named_skips) {
                    let skipped = if matches!(malformed.why, Why::File(_)) { "" } else { "; skipped" };
                    screen.warn(&format!(
                        "{}: {}{skipped}",
                        visible(&malformed.place),
                        visible(&malformed.why.to_string())
                    ));
                }
                named_skips = skips.first.len();
            }
            broken_bytes += done.broken_bytes;
            broken_documents += done.broken_documents;
            progress.advance(done.bytes);
            Ok(())
        },
    )?;
    progress.end();
    if let Some(mut documents) = documents {
        documents.flush().map_err(|why| cannot_write("documents.jsonl", &why))?;
    }
    let mut ledgers = workers.into_iter().map(Worker::into_ledger);
    let mut ledger = ledgers.next().unwrap_or_else(|| Worker::new(&compiled.pipeline, outputs).into_ledger());
    for other in ledgers {
        ledger.absorb(other);
    }
    if ledger.totals().documents == 0
        && let Some(failure) = skips.failure()
    {
        return Err(failure);
    }
    skips.finish()?;
    let sources = source.read_files().iter().map(|file| SourceRecord {
        name: file.name.clone(),
        format: file.format.name().to_owned(),
        encoding: file.encoding.map(str::to_owned),
        bytes: file.bytes,
        hash: file.hash.clone(),
        whole: file.whole,
    });
    Ok(ReadAll {
        ledger,
        sources: sources.collect(),
        passed_over: source.passed_over().to_vec(),
        skips,
        left_out,
        broken_bytes,
        broken_documents,
        replaced: source.read_files().iter().map(|file| file.replaced).sum(),
        repeated_ids: (ids.repeated(), ids.first_repeated().map(str::to_owned)),
        titled,
    })
}

fn cannot_write(file: &str, why: &dyn std::fmt::Display) -> Failure {
    Failure::File { path: file.to_owned(), why: why.to_string() }
}

fn record_of(
    collection: &Collection,
    compiled: &Compiled,
    read: &ReadAll,
    account: &Account<'_>,
) -> RunRecord {
    let totals = account.totals();
    let mut warnings = Vec::new();
    let mut warn = |count: u64, what: String| {
        if count > 0 {
            warnings.push(what);
        }
    };
    let (skipped, unreadable) = (read.skips.records, read.skips.files);
    warn(skipped, format!("{} skipped: see skipped.csv", counted(skipped, "malformed record")));
    warn(unreadable, format!("{} not read whole: see skipped.csv", counted(unreadable, "file")));
    let (repeated, first) = &read.repeated_ids;
    if let Some(first) = first {
        warn(
            *repeated,
            format!(
                "{} an id that an earlier one has, the first of them `{first}`: an id should name one document; \
                 choose another with --id",
                if *repeated == 1 {
                    "1 document has".into()
                } else {
                    format!("{} documents have", grouped(*repeated))
                }
            ),
        );
    }
    warn(
        read.replaced,
        format!(
            "{} of the text not valid in its encoding and replaced by U+FFFD",
            counted(read.replaced, "place")
        ),
    );
    warn(
        read.broken_bytes,
        format!(
            "{} not UTF-8 and replaced by U+FFFD, in {}",
            if read.broken_bytes == 1 {
                "1 byte was".into()
            } else {
                format!("{} bytes were", grouped(read.broken_bytes))
            },
            counted(read.broken_documents, "document")
        ),
    );
    if let Some(title) = collection.sources.iter().find_map(|source| source.selection.title.as_deref())
        && !read.titled
        && totals.documents > 0
    {
        warn(1, format!("no document has the field `{title}` that was chosen for the title"));
    }
    let none = if read.left_out > 0 {
        "no document is left by the conditions"
    } else {
        "the sources hold no document"
    };
    warn(u64::from(totals.documents == 0), none.to_owned());
    let hidden =
        account.vocabulary().take(FIGURE_TERMS).filter(|term| !png_shows(&visible(term.text))).count();
    warn(
        hidden as u64,
        format!(
            "figures/top-terms.png cannot show the letters of {}: its font has Latin, Greek and Cyrillic; the SVG and the report can",
            counted(hidden as u64, "term")
        ),
    );
    warn(totals.emptied, format!("{} left without any token", counted(totals.emptied, "document")));
    RunRecord {
        yarrup: env!("CARGO_PKG_VERSION").to_owned(),
        recipe: compiled.recipe.name.clone(),
        recipe_hash: yarrup_io::hash(compiled.text.as_bytes()),
        language: compiled.recipe.language.clone(),
        sources: read.sources.clone(),
        word_lists: compiled
            .lists
            .iter()
            .map(|(name, bytes, hash)| SourceRecord {
                name: name.clone(),
                format: "words".to_owned(),
                encoding: None,
                bytes: *bytes,
                hash: hash.clone(),
                whole: true,
            })
            .collect(),
        collection: write_collection(collection),
        totals: TotalsRecord {
            documents: totals.documents,
            documents_empty_as_found: totals.empty,
            documents_emptied: totals.emptied,
            documents_left_out: read.left_out,
            documents_with_repeated_ids: read.repeated_ids.0,
            records_skipped: skipped,
            files_unreadable: unreadable,
            broken_bytes: read.broken_bytes,
            documents_with_broken_bytes: read.broken_documents,
            characters: totals.characters,
            tokens_found: totals.tokens_found,
            types_found: account.types_found(),
            tokens_kept: totals.tokens_kept,
            terms: account.term_count() as u64,
            forms: account.forms().len() as u64,
        },
        steps: account.effects().iter().map(StepRecord::from).collect(),
        warnings,
    }
}

fn write_run(
    folder: &RunFolder,
    compiled: &Compiled,
    record: &RunRecord,
    account: &Account<'_>,
    learned: &[LearnedStep],
) -> Result<(), Failure> {
    // The figures take as long as the tables: both at once.
    std::thread::scope(|scope| {
        let figures = scope.spawn(|| write_figures(folder, compiled, record, account));
        let table = |name: &str,
                     write: &dyn Fn(
            std::io::BufWriter<std::fs::File>,
        ) -> Result<(), yarrup_io::TableError>| {
            write(folder.file(name)?).map_err(|why| cannot_write(name, &why))
        };
        table("vocabulary.csv", &|out| write_vocabulary(account, out))?;
        table("forms.csv", &|out| write_forms(account, out))?;
        table("effects.csv", &|out| write_effects(account.effects(), out))?;
        table("matches.csv", &|out| write_matches(&account.matches(), out))?;
        if !learned.is_empty() {
            table("learned.csv", &|out| write_learned(learned, out))?;
        }
        folder.write("recipe.toml", compiled.text.as_bytes())?;
        // The recipe as given is the frozen one where nothing had to be learned.
        if compiled.frozen != compiled.text {
            folder.write("frozen.toml", compiled.frozen.as_bytes())?;
        }
        let json = serde_json::to_string_pretty(record).map_err(|why| cannot_write("run.json", &why))?;
        folder.write("run.json", format!("{json}\n").as_bytes())?;
        figures.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic))
    })
}

fn write_figures(
    folder: &RunFolder,
    compiled: &Compiled,
    record: &RunRecord,
    account: &Account<'_>,
) -> Result<(), Failure> {
    let name = compiled.name();
    let steps = step_rows(account.effects());
    let covers = coverage(account);
    let counts: Vec<u64> = account.vocabulary().map(|term| term.count).collect();
    let top: Vec<(String, u64)> =
        account.vocabulary().take(REPORT_TERMS).map(|term| (term.text.to_owned(), term.count)).collect();
    let cover_lines: Vec<(f64, u64)> = covers.iter().map(|cover| (cover.share, cover.terms)).collect();
    let figures: [(&str, Figure); 3] = [
        ("effects", effect_figure(&name, &steps)),
        ("top-terms", terms_figure(&name, &top)),
        ("rank-frequency", rank_frequency_figure(&name, &counts, &cover_lines)),
    ];
    for (file, figure) in &figures {
        folder.write(&format!("figures/{file}.svg"), figure.svg.as_bytes())?;
        let pixels = png(figure).map_err(|why| Failure::Told(why.to_string()))?;
        folder.write(&format!("figures/{file}.png"), &pixels)?;
    }
    let [(_, effects), _, (_, curve)] = figures;
    let page = page(compiled, record, account, steps, covers, vec![effects, curve]);
    let html = page.html().map_err(|why| cannot_write("report.html", &why))?;
    folder.write("report.html", html.as_bytes())?;
    Ok(())
}

fn page(
    compiled: &Compiled,
    record: &RunRecord,
    account: &Account<'_>,
    steps: Vec<StepRow>,
    coverage: Vec<Coverage>,
    figures: Vec<Figure>,
) -> ReportPage {
    let totals = &record.totals;
    let facts = [
        (grouped(totals.documents), "documents".to_owned()),
        (grouped(totals.tokens_found), "tokens as found".to_owned()),
        (grouped(totals.types_found), "distinct words as found".to_owned()),
        (grouped(totals.tokens_kept), "tokens kept".to_owned()),
        (grouped(totals.terms), "terms".to_owned()),
        (percent(totals.tokens_kept, totals.tokens_found), "of the tokens as found are left".to_owned()),
    ];
    ReportPage {
        recipe: compiled.name(),
        about: compiled.recipe.about.clone().unwrap_or_default(),
        sources: named_sources(record),
        facts: facts.into(),
        warnings: record.warnings.clone(),
        steps,
        matches: sorted_matches(&account.matches()),
        top: top_terms(account, REPORT_TERMS),
        terms: totals.terms,
        curve: curve(account),
        coverage,
        recipe_text: compiled.text.clone(),
        figures,
    }
}

/// How many sources the report names.
const NAMED_SOURCES: usize = 12;

/// The first sources by name, and how many more there are.
fn named_sources(record: &RunRecord) -> Vec<String> {
    let files: Vec<_> = record.sources.iter().filter(|source| !source.is_wrapping()).collect();
    let mut named: Vec<_> = files.iter().take(NAMED_SOURCES).map(|source| visible(&source.name)).collect();
    if files.len() > named.len() {
        named.push(format!("and {} more", grouped((files.len() - named.len()) as u64)));
    }
    named
}

/// The sorts of matches that steps tell apart, as the cells of a table: step, sort, count, documents, examples.
fn sorted_matches(rows: &[MatchRow]) -> Vec<[String; 5]> {
    let cells = |row: &MatchRow| {
        let name = row.label.as_deref().map_or_else(|| row.operation.to_owned(), visible);
        let cut = |example: &String| {
            let seen = shown(example);
            match seen.char_indices().nth(30) {
                Some((at, _)) => format!("{}…", &seen[..at]),
                None => seen,
            }
        };
        let examples: Vec<String> = row.examples.iter().map(cut).collect();
        [
            format!("{} {name}", row.step),
            visible(&row.sort),
            grouped(row.count),
            grouped(row.documents),
            examples.join(" · "),
        ]
    };
    rows.iter().filter(|row| !row.sort.is_empty()).map(cells).collect()
}

impl Told {
    /// One line for a run that is not shown whole.
    pub(crate) fn in_a_line(&self) -> String {
        let totals = &self.record.totals;
        format!(
            "{}, {} as found, {} kept, {}",
            counted(totals.documents, "document"),
            counted(totals.tokens_found, "token"),
            grouped(totals.tokens_kept),
            counted(totals.terms, "term")
        )
    }

    /// The effect of every step, the top terms, and where to look next.
    pub(crate) fn print(&self, screen: &Screen) -> Result<(), Failure> {
        let look = screen.look;
        let mut out = screen.out();
        let totals = &self.record.totals;
        writeln!(
            out,
            "{}  {} from {}{}",
            look.heading(&visible(&self.name)),
            counted(totals.documents, "document"),
            counted(self.record.sources.iter().filter(|source| !source.is_wrapping()).count() as u64, "file"),
            match totals.documents_left_out {
                0 => String::new(),
                count => format!(", {} left out by conditions", grouped(count)),
            },
        )?;
        writeln!(out, "\n{}", look.heading("The effect of each step"))?;
        write!(out, "{}", effect_table(&self.steps, look))?;
        // Sorts that a step tells apart: how often each of a step came stands in the table above already.
        let sorts: Vec<Vec<String>> =
            sorted_matches(&self.matches).into_iter().map(|cells| cells.to_vec()).collect();
        if !sorts.is_empty() {
            writeln!(out, "\n{}", look.heading("What the text steps matched"))?;
            let columns = [
                ("step", Align::Left),
                ("sort", Align::Left),
                ("count", Align::Right),
                ("documents", Align::Right),
                ("such as", Align::Left),
            ];
            write!(out, "{}", table(&columns, &sorts, look))?;
        }
        if !self.top.is_empty() {
            writeln!(out, "\n{}", look.heading(&format!("Top terms of {}", grouped(totals.terms))))?;
            write!(out, "{}", bars(&self.top, look))?;
            let covers: Vec<_> = self
                .coverage
                .iter()
                .map(|cover| format!("{} cover {:.0} %", counted(cover.terms, "term"), cover.share * 100.0))
                .collect();
            writeln!(out, "  {}", look.faint(&format!("{} of all tokens", covers.join(", "))))?;
        }
        let (program, run) = (program(), shell_word(&self.folder));
        let first = self.top.first().map_or("WORD", |(term, _)| term.as_str());
        writeln!(out, "\n{}", look.heading("Where to look next"))?;
        writeln!(out, "  {run}/report.html   the whole picture, in a browser")?;
        writeln!(out, "  {}", look.command(&format!("{program} terms {run}")))?;
        writeln!(
            out,
            "  {}\n",
            look.command(&format!("{program} why {run} {}", shell_word(&visible(first))))
        )?;
        out.flush()?;
        for warning in &self.record.warnings {
            screen.warn(&visible(warning));
        }
        Ok(())
    }
}
