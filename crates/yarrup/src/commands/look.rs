//! `yarrup look`: what a collection holds, before anyone trusts it.

use std::collections::{BTreeMap, HashMap};
use std::io::Write;
use std::path::Path;
use std::sync::Arc;

use yarrup_core::survey::{Depth, Findings, Lengths, Order, Place, Survey};
use yarrup_io::{
    BatchFacts, Collection, FieldSurvey, Numbered, Pass, Policy, Proposed, ReadFile, Reading, Source,
    Summary, refuse_taken, without_login,
};
use yarrup_report::{
    Chosen, DirtRow, FieldRow, GroupRow, LengthFacts, LookReport, NamedDocument, RepeatedRow, SeparatorRow,
    counted, look_text, visible,
};

use crate::arguments::{CheckFormat, LookArguments};
use crate::commands::{look_copies, look_database, look_documents, look_save};
use crate::failure::{Exit, Failure};
use crate::reading::{lenient, no_document, read_all, refuse_unknown_fields, tell_passed_over, threads};
use crate::screen::{Screen, program, shell_word};

/// How many bytes of a collection are looked at closely, and how many are asked for their languages; where there are more, a sample of so many.
const CLOSE_BYTES: u64 = 6 << 20;
const LANGUAGE_BYTES: u64 = 2 << 20;

pub(crate) fn look(arguments: &LookArguments, screen: &Screen) -> Result<Exit, Failure> {
    if let Some(file) = &arguments.save {
        // Before any work is done.
        refuse_taken(file, arguments.replace)?;
    }
    screen.tell_waiting_for(&arguments.sources);
    let collection = collection(arguments)?;
    if let [only] = collection.sources.as_slice()
        && look_database::is_meant(only)
    {
        return look_database::show(arguments, only, screen);
    }
    if !arguments.documents.is_empty() {
        return look_documents::show(arguments, &collection, screen);
    }
    if arguments.copies {
        return look_copies::show(arguments, &collection, screen);
    }
    let seen = read(arguments, &collection, screen)?;
    let report = seen.report(&collection);
    let mut out = screen.out_as(arguments.format);
    match arguments.format {
        CheckFormat::Json => {
            serde_json::to_writer_pretty(&mut out, &report).map_err(std::io::Error::from)?;
            writeln!(out)?;
        }
        CheckFormat::Text => {
            write!(out, "{}", look_text(&report, screen.look))?;
            if arguments.save.is_none() {
                write!(out, "{}", next_steps(arguments, &report, screen))?;
            }
        }
    }
    out.flush()?;
    tell_skipped(&report, screen);
    if let Some(file) = &arguments.save {
        look_save::save(file, &collection, &seen.proposed, &report, arguments.replace, screen)?;
        screen.tell(&format!(
            "\nsaved as {0}; every command takes it in place of the sources: run RECIPE {0}",
            file.display()
        ));
    }
    Ok(Exit::Done)
}

/// The collection, in which fields are to be found where none are chosen.
fn collection(arguments: &LookArguments) -> Result<Collection, Failure> {
    let mut collection = arguments.reading.collection(&arguments.sources)?;
    for source in &mut collection.sources {
        source.options.propose = true;
    }
    Ok(collection)
}

/// What the collection holds.
pub(crate) fn report(arguments: &LookArguments, screen: &Screen) -> Result<LookReport, Failure> {
    let collection = collection(arguments)?;
    Ok(read(arguments, &collection, screen)?.report(&collection))
}

/// What one worker has seen.
#[derive(Default)]
struct Seen {
    survey: Survey,
    /// The fields of the documents of each file; files that are documents are one by their format.
    fields: HashMap<Arc<str>, FieldSurvey>,
    /// Which of these the present batch belongs to.
    group: Option<Arc<str>>,
}

/// All that was seen.
pub(crate) struct SeenAll {
    findings: Findings,
    fields: HashMap<Arc<str>, FieldSurvey>,
    summary: Summary,
    files: Vec<ReadFile>,
    pub(crate) proposed: Vec<Proposed>,
    passed_over: Vec<String>,
}

/// The pass that looks at everything, at a share of the documents closely, and asks a share of these for their languages.
struct Looking {
    close: f64,
    language: f64,
}

impl Pass for Looking {
    type State = Seen;
    type Left = ();

    fn state(&self) -> Seen {
        Seen::default()
    }

    fn batch(&self, seen: &mut Seen, batch: &BatchFacts, (): &mut ()) {
        let group = group_key(batch);
        seen.fields.entry(group.clone()).or_default();
        seen.group = Some(group);
    }

    fn document(&self, seen: &mut Seen, document: &Numbered<'_>, (): &mut ()) {
        let Numbered { record, order, .. } = document;
        if let Some(fields) = seen.group.as_ref().and_then(|group| seen.fields.get_mut(group)) {
            fields.document(*order, record);
        }
        if record.is_of_fields_alone() {
            return;
        }
        // The same documents whatever the threads: chosen by what they are called.
        let chance = yarrup_io::short_hash(record.id.as_bytes()) as f64 / u64::MAX as f64;
        let depth = match chance {
            chance if chance <= self.language => Depth::Language,
            chance if chance <= self.close => Depth::Close,
            _ => Depth::Length,
        };
        seen.survey.document(*order, &record.id, &record.text, depth);
    }
}

fn read(arguments: &LookArguments, collection: &Collection, screen: &Screen) -> Result<SeenAll, Failure> {
    let mut source = Source::open(collection)?;
    let share = |bytes: u64| match arguments.all {
        true => 1.0,
        false => (bytes as f64 / source.likely_bytes().max(1) as f64).min(1.0),
    };
    let looking = Looking { close: share(CLOSE_BYTES), language: share(LANGUAGE_BYTES) };
    let policy = Policy { compare_ids: true, ..lenient(threads(arguments.threads)) };
    let Reading { states, summary } = read_all(&mut source, policy, &looking, screen)?;
    let mut all = Seen::default();
    for worker in states {
        all.survey.absorb(worker.survey);
        for (name, fields) in worker.fields {
            all.fields.entry(name).or_default().absorb(fields);
        }
    }
    // That no document was taken may be for a field that is not there.
    refuse_unknown_fields(collection, None, screen)?;
    if let Some(failure) = no_document(&summary, &source).filter(|_| !arguments.reading.asks_for_none()) {
        return Err(failure);
    }
    Ok(SeenAll {
        findings: all.survey.finish(),
        fields: all.fields,
        summary,
        files: source.read_files().to_vec(),
        proposed: source.proposed().to_vec(),
        passed_over: source.passed_over().to_vec(),
    })
}

/// Tables are looked at one by one; files that are documents, or hold nothing but such, by their format.
fn group_key(batch: &BatchFacts) -> Arc<str> {
    match batch.format {
        Some(format) if !batch.is_table => Arc::from(format.name()),
        _ => batch.name.clone(),
    }
}

impl SeenAll {
    /// The number of a document, counted from one.
    fn number(&self, order: Order) -> u64 {
        self.summary.number(order)
    }

    fn named(&self, place: &Place, words: u64) -> NamedDocument {
        NamedDocument { number: self.number(place.order), id: place.id.clone(), words }
    }

    fn report(&self, collection: &Collection) -> LookReport {
        let found = &self.findings;
        let groups = self.groups(collection);
        let texts = documents_of(&groups, "text");
        // Only texts are parted by lines.
        let separator = found.separator.as_ref().filter(|_| texts * 2 > self.summary.documents);
        let numbers =
            |pair: Option<(Order, Order)>| pair.map(|(one, other)| (self.number(one), self.number(other)));
        let extreme = |at: &Option<(u64, Place)>| at.as_ref().map(|(words, place)| self.named(place, *words));
        LookReport {
            collection: collection.name.clone(),
            documents: self.summary.documents,
            documents_left_out: self.summary.left_out,
            files: self.files.iter().filter(|file| !file.format.is_wrapping()).count() as u64,
            bytes: self.files.iter().filter(|file| !file.inside).map(|file| file.bytes).sum(),
            groups,
            words: length_facts(&found.words),
            characters: length_facts(&found.characters),
            shortest: extreme(&found.shortest),
            longest: extreme(&found.longest),
            empty: found.empty,
            first_empty: found.first_empty.as_ref().map(|place| self.named(place, 0)),
            copies: found.copies,
            copied: numbers(found.copied),
            near_copies: found.near_copies,
            nearly_copied: numbers(found.nearly_copied),
            looked_at: found.looked_at,
            languages_looked_at: found.languages_looked_at,
            languages: found
                .languages
                .iter()
                .map(|(language, documents)| (language.code.to_owned(), language.name.to_owned(), *documents))
                .collect(),
            language_unsure: found.language_unsure,
            scripts: found
                .scripts
                .iter()
                .map(|(name, letters, documents)| ((*name).to_owned(), *letters, *documents))
                .collect(),
            dirt: found
                .dirt
                .iter()
                .map(|row| DirtRow {
                    what: row.dirt.words().to_owned(),
                    count: row.count,
                    documents: row.documents,
                    example: row.example.clone(),
                    number: self.number(row.first.order),
                    id: row.first.id.clone(),
                    step: row.dirt.step().to_owned(),
                })
                .collect(),
            repeated_lines: found
                .repeated_lines
                .iter()
                .map(|line| RepeatedRow {
                    line: line.line.clone(),
                    documents: line.documents,
                    number: self.number(line.first),
                })
                .collect(),
            separator: separator.map(|found| SeparatorRow {
                line: found.line.clone(),
                documents: found.documents,
                places: found.places,
            }),
            skipped: self
                .summary
                .first_skipped
                .iter()
                .map(|skipped| (skipped.place.clone(), skipped.why.to_string()))
                .collect(),
            skipped_count: self.summary.skipped(),
            repeated_ids: self.summary.repeated_ids(),
            first_repeated_id: self.summary.first_repeated_id().map(str::to_owned),
            replaced: self.summary.broken_bytes + self.files.iter().map(|file| file.replaced).sum::<u64>(),
            passed_over: self.passed_over.clone(),
        }
    }

    /// The files in groups of one shape: of one format, with the same fields taken for the same things.
    fn groups(&self, collection: &Collection) -> Vec<GroupRow> {
        let proposed: HashMap<&str, &Proposed> =
            self.proposed.iter().map(|proposed| (proposed.name.as_str(), proposed)).collect();
        let mut groups: Vec<(String, GroupRow)> = Vec::new();
        let mut surveys: BTreeMap<usize, FieldSurvey> = BTreeMap::new();
        for file in self.files.iter().filter(|file| !file.format.is_wrapping()) {
            let own = self.fields.get(file.name.as_str());
            let fields = own.or_else(|| self.fields.get(file.format.name()));
            let paths = fields.map_or_else(Vec::new, |fields| {
                fields.fields().iter().map(|field| field.path.clone()).collect::<Vec<_>>()
            });
            // Files of documents are of one group whatever fields each has.
            let shape = match own {
                Some(_) => format!("{} {paths:?}", file.format.name()),
                None => file.format.name().to_owned(),
            };
            let at = groups.iter().position(|(known, _)| *known == shape).unwrap_or_else(|| {
                let row = GroupRow { format: file.format.name().to_owned(), ..GroupRow::default() };
                groups.push((shape, row));
                groups.len() - 1
            });
            let row = &mut groups[at].1;
            row.names.push(file.name.clone());
            row.bytes += file.bytes;
            let encoding = file.encoding.unwrap_or_default();
            if !encoding.is_empty() && !row.encodings.iter().any(|known| known == encoding) {
                row.encodings.push(encoding.to_owned());
            }
            if let Some(own) = own {
                surveys.entry(at).or_default().absorb(own.clone());
            } else if let Some(fields) = fields {
                surveys.entry(at).or_insert_with(|| fields.clone());
            }
            if row.names.len() == 1 {
                choose(row, proposed.get(file.name.as_str()).copied(), collection, &paths);
            }
        }
        for (at, survey) in surveys {
            let row = &mut groups[at].1;
            row.documents = survey.documents();
            row.fields = survey
                .fields()
                .into_iter()
                .map(|field| {
                    let (distinct, distinct_exact) = field.distinct.count();
                    // An estimate may come out higher than there can be.
                    let distinct = if field.list { distinct } else { distinct.min(field.filled) };
                    let kind = field.kind.map_or("empty", yarrup_io::FieldType::words);
                    FieldRow {
                        path: field.path.clone(),
                        kind: if field.list { format!("list of {kind}") } else { kind.to_owned() },
                        filled: field.filled,
                        distinct,
                        distinct_exact,
                        longest: field.longest,
                        values: field.few_values(),
                        examples: field.examples.iter().map(|(_, example)| example.clone()).collect(),
                    }
                })
                .collect();
        }
        groups.into_iter().map(|(_, row)| row).collect()
    }
}

/// How many documents are of this format.
fn documents_of(groups: &[GroupRow], format: &str) -> u64 {
    groups.iter().filter(|group| group.format == format).map(|group| group.documents).sum()
}

/// Which fields are taken for what, and why.
fn choose(row: &mut GroupRow, proposed: Option<&Proposed>, collection: &Collection, paths: &[String]) {
    let has = |path: &str| paths.iter().any(|known| known == path);
    let chosen = |why: &str, path: String| Chosen { field: Some(path), why: why.to_owned() };
    let of =
        |proposal: &Option<(String, String)>, asked: Option<String>, by_name: &str| match (proposal, asked) {
            (Some((path, why)), _) => chosen(why, path.clone()),
            (None, Some(path)) => chosen("", path),
            (None, None) if has(by_name) => chosen("it is called so", by_name.to_owned()),
            (None, None) => Chosen::default(),
        };
    let joined = |text: &[String]| (!text.is_empty()).then(|| text.join(" + "));
    if let Some(Proposed { proposal, selection, .. }) = proposed {
        row.text = of(&proposal.text, joined(&selection.text), "text");
        row.id = of(&proposal.id, selection.id.clone(), "id");
        row.title = of(&proposal.title, selection.title.clone(), "");
        return;
    }
    // Documents that have their text already: what was said of the source that has such fields.
    let asked = || collection.sources.iter().map(|source| &source.selection);
    let text = asked().find(|asked| !asked.text.is_empty() && asked.text.iter().any(|path| has(path)));
    row.text =
        of(&None, Some(text.and_then(|asked| joined(&asked.text)).unwrap_or_else(|| "text".to_owned())), "");
    row.id = of(&None, asked().find_map(|asked| asked.id.clone().filter(|path| has(path))), "id");
    row.title = of(&None, asked().find_map(|asked| asked.title.clone().filter(|path| has(path))), "");
}

fn length_facts(lengths: &Lengths) -> LengthFacts {
    LengthFacts {
        sum: lengths.sum(),
        smallest: lengths.smallest(),
        median: lengths.quantile(0.5),
        mean: lengths.mean(),
        ninth_tenth: lengths.quantile(0.9),
        largest: lengths.largest(),
        ranges: lengths.ranges(),
    }
}

/// What went wrong, on standard error.
fn tell_skipped(report: &LookReport, screen: &Screen) {
    for (place, why) in &report.skipped {
        screen.warn(&format!("{}: {}", visible(place), visible(why)));
    }
    let more = report.skipped_count - report.skipped.len() as u64;
    if more > 0 {
        screen.warn(&format!("and {} that gave no document", counted(more, "other unreadable record")));
    }
    if report.replaced > 0 {
        screen.warn(&format!(
            "{} of text not valid in the encoding and replaced by U+FFFD; another --encoding may fit",
            counted(report.replaced, "byte")
        ));
    }
    tell_passed_over(&report.passed_over, screen);
}

fn next_steps(arguments: &LookArguments, report: &LookReport, screen: &Screen) -> String {
    let look = screen.look;
    let (program, places) = (
        program(),
        arguments.sources.iter().map(|place| shell_word(&without_login(place))).collect::<Vec<_>>().join(" "),
    );
    let mut out = format!("\n{}\n", look.heading("Where to look next"));
    let chosen = [("table", &arguments.reading.table), ("query", &arguments.reading.query)];
    let chosen = chosen.into_iter().filter_map(|(option, value)| Some((option, value.as_ref()?)));
    // What is chosen of a database belongs to every call.
    let mut chosen: String =
        chosen.map(|(option, value)| format!(" --{option} {}", shell_word(value))).collect();
    let without_menus = " --without-menus";
    if arguments.reading.without_menus {
        chosen.push_str(without_menus);
    }
    if let Some(separator) = &arguments.reading.separator_line {
        chosen.push_str(&format!(" --separator-line {}", shell_word(separator)));
    }
    let mut line = |command: String| out.push_str(&format!("  {}\n", look.command(&command)));
    line(format!("{program} look {places}{chosen} --documents 1,longest,random"));
    let has_text = report.groups.iter().any(|group| group.text.field.is_some());
    if has_text && report.languages_looked_at < report.documents - report.empty {
        line(format!("{program} look {places}{chosen} --all"));
    }
    let is_file = matches!(arguments.sources.as_slice(), [only] if Path::new(only).extension().is_some_and(|ending| ending == "toml"));
    let pages = documents_of(&report.groups, "html");
    // Where most documents are web pages, what many repeat is likely to be menus.
    let may_have_menus = pages * 2 > report.documents && !report.repeated_lines.is_empty();
    if let Some(found) = report.separator.as_ref().filter(|_| !is_file) {
        line(format!("{program} look {places}{chosen} --separator-line {}", shell_word(&found.line)));
    }
    if may_have_menus && !arguments.reading.without_menus && !is_file {
        line(format!("{program} look {places}{chosen}{without_menus}"));
    }
    if !is_file {
        line(format!("{program} look {places}{chosen} --save collection.toml"));
    }
    let one = report.groups.first().filter(|_| report.groups.len() == 1);
    let text = one.and_then(|group| group.text.field.as_deref()).filter(|field| *field != "text" && !is_file);
    let text = text.map(|field| format!(" --text {}", shell_word(field))).unwrap_or_default();
    let text = if has_text { text } else { " --text FIELD".to_owned() };
    line(format!(
        "{program} run RECIPE {}{text}",
        if one.is_some() || is_file { format!("{places}{chosen}") } else { "collection.toml".to_owned() }
    ));
    out
}
