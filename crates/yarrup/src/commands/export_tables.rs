//! `yarrup export` of tables: documents, tokens, terms, forms, effects as CSV, JSON Lines, Parquet or SQLite.

use std::io;
use std::ops::ControlFlow;
use std::path::Path;

use yarrup_core::{Account, EndedToken, Fields, FormFate, Outputs};
use yarrup_io::{
    Cells, FieldSurvey, FieldType, Holding, Numbered, Pass, Policy, RowCell, RowColumn, RowFile, RowFormat,
    RowTable, Sink, Summary, form_entry, read, read_account, refuse_taken, term_entries,
};
use yarrup_report::counted;

use super::find::option;
use crate::arguments::{ExportArguments, ExportFormat, ExportWhat};
use crate::failure::{Exit, Failure};
use crate::output::Shape;
use crate::reading::{ended, threads};
use crate::screen::{Progress, Screen};
use crate::studied::{Again, Studied, refuse_inside};

pub(crate) fn export(arguments: &ExportArguments, screen: &Screen) -> Result<Exit, Failure> {
    if arguments.recipe.is_some() {
        return Err(option("recipe", "goes with --as conllu; tables are made with the recipe of the run"));
    }
    let cells = if arguments.as_is { Cells::AsIs } else { Cells::Safe };
    let format = match arguments.format {
        ExportFormat::Csv => RowFormat::Csv(cells),
        ExportFormat::Jsonl => RowFormat::JsonLines,
        ExportFormat::Parquet => RowFormat::Parquet,
        ExportFormat::Sqlite | ExportFormat::Conllu => RowFormat::Sqlite,
    };
    if let Some(out) = &arguments.out {
        refuse_inside(out, &arguments.run)?;
        refuse_taken(out, arguments.replace)?;
    } else if format == RowFormat::Sqlite {
        return Err(option("as", "sqlite needs --out and a file"));
    }
    let begin = |table: &RowTable| -> Result<RowFile, Failure> {
        match &arguments.out {
            Some(path) => Ok(RowFile::create(path, arguments.replace, format, table)?),
            None => {
                let shape = if format == RowFormat::JsonLines { Shape::Json } else { Shape::Data };
                Ok(RowFile::stream(Box::new(screen.out_as(shape)), format, table)?)
            }
        }
    };
    let rows = match arguments.what {
        ExportWhat::Documents | ExportWhat::Tokens => {
            let run = Studied::open(&arguments.run)?;
            let table = match arguments.what {
                ExportWhat::Documents => document_table(&run, screen)?,
                _ => token_table(arguments),
            };
            let out = begin(&table)?;
            match arguments.what {
                ExportWhat::Documents => write(&run, &Documents { table: &table }, out, arguments, screen)?,
                _ => write(&run, &Tokens { run: &run, arguments }, out, arguments, screen)?,
            }
        }
        other => {
            let account = read_account(&arguments.run)?;
            let (table, rows) = counted_table(&account, other);
            let mut out = begin(&table)?;
            for row in &rows {
                out.row(row).map_err(|why| failed(arguments, why))?;
            }
            finish(out, arguments)?;
            rows.len() as u64
        }
    };
    if let Some(path) = &arguments.out {
        screen.tell(&format!("{}: {}", path.display(), counted(rows, "row")));
    }
    Ok(Exit::Done)
}

fn failed(arguments: &ExportArguments, why: io::Error) -> Failure {
    match &arguments.out {
        Some(path) => Failure::File { path: path.display().to_string(), why: why.to_string() },
        None => Failure::Output(why),
    }
}

fn finish(out: RowFile, arguments: &ExportArguments) -> Result<(), Failure> {
    Ok(out.finish(arguments.out.as_deref().unwrap_or(Path::new("standard output")))?)
}

fn column(name: &str, kind: FieldType) -> RowColumn {
    RowColumn { name: name.to_owned(), kind }
}

fn text(text: &str) -> RowCell {
    RowCell::Text(text.to_owned())
}

fn whole(number: impl TryInto<i64>) -> RowCell {
    number.try_into().map_or(RowCell::Nothing, RowCell::Whole)
}

/// A text, or nothing where there is none.
fn some_text(given: &str) -> RowCell {
    if given.is_empty() { RowCell::Nothing } else { text(given) }
}

/// The tables that the account alone gives.
fn counted_table(account: &Account, what: ExportWhat) -> (RowTable, Vec<Vec<RowCell>>) {
    let (texts, wholes) = (FieldType::Text, FieldType::Whole);
    match what {
        ExportWhat::Forms => {
            let columns = vec![
                column("form", texts),
                column("kind", texts),
                column("tag", texts),
                column("count", wholes),
                column("documents", wholes),
                column("fate", texts),
                column("step", wholes),
                column("reason", texts),
                column("term", texts),
            ];
            let rows = account.forms().map(|row| {
                let entry = form_entry(account, &row);
                vec![
                    text(entry.form),
                    text(entry.kind),
                    some_text(entry.tag),
                    whole(entry.count),
                    whole(entry.documents),
                    text(entry.fate),
                    entry.step.map_or(RowCell::Nothing, whole),
                    some_text(entry.reason),
                    some_text(entry.term),
                ]
            });
            (RowTable { name: "forms", columns, indexed: &["form", "term"] }, rows.collect())
        }
        ExportWhat::Effects => {
            let counts = [
                "documents_touched",
                "tokens_in",
                "tokens_dropped",
                "tokens_joined",
                "tokens_added",
                "tokens_changed",
                "tokens_marked",
                "tokens_out",
                "types_in",
                "types_out",
                "matches",
                "characters_in",
                "characters_out",
            ];
            let mut columns = vec![column("step", wholes), column("do", texts), column("label", texts)];
            columns.extend(counts.map(|name| column(name, wholes)));
            let rows = account.effects().into_iter().map(|effect| {
                let mut cells = vec![
                    whole(effect.step),
                    text(&effect.operation),
                    some_text(effect.label.as_deref().unwrap_or_default()),
                ];
                let counts = [
                    effect.documents_touched,
                    effect.tokens_in,
                    effect.tokens_dropped,
                    effect.tokens_joined,
                    effect.tokens_added,
                    effect.tokens_changed,
                    effect.tokens_marked,
                    effect.tokens_out,
                    effect.types_in,
                    effect.types_out,
                    effect.matches,
                    effect.characters_in,
                    effect.characters_out,
                ];
                cells.extend(counts.map(|count| count.map_or(RowCell::Nothing, whole)));
                cells
            });
            (RowTable { name: "effects", columns, indexed: &["step"] }, rows.collect())
        }
        _ => {
            let columns = vec![
                column("rank", wholes),
                column("term", texts),
                column("count", wholes),
                column("documents", wholes),
                column("share", FieldType::Number),
                column("kind", texts),
                column("tag", texts),
                column("forms", wholes),
                column("commonest_form", texts),
            ];
            let vocabulary = account.vocabulary();
            let rows = term_entries(account, &vocabulary).map(|entry| {
                vec![
                    whole(entry.rank),
                    text(entry.term),
                    whole(entry.count),
                    whole(entry.documents),
                    RowCell::Number(entry.share),
                    text(entry.kind),
                    some_text(entry.tag),
                    whole(entry.forms),
                    text(entry.commonest_form),
                ]
            });
            (RowTable { name: "terms", columns, indexed: &["term"] }, rows.collect())
        }
    }
}

/// The fields of the documents as columns, with the types that all values fit.
fn document_table(run: &Studied, screen: &Screen) -> Result<RowTable, Failure> {
    struct Surveying;
    impl Pass for Surveying {
        type State = FieldSurvey;
        type Left = ();

        fn state(&self) -> FieldSurvey {
            FieldSurvey::default()
        }

        fn document(&self, survey: &mut FieldSurvey, document: &Numbered<'_>, (): &mut ()) {
            survey.document(document.order, &document.record);
        }
    }
    let mut survey = FieldSurvey::default();
    for state in run.pass(&Surveying, screen)? {
        survey.absorb(state);
    }
    let fields = survey.fields();
    let columns = fields.iter().map(|field| {
        let kind = if field.list { FieldType::Text } else { field.kind.unwrap_or(FieldType::Text) };
        column(&field.path, kind)
    });
    let columns = columns.collect();
    Ok(RowTable { name: "documents", columns, indexed: &["id"] })
}

/// The pass that makes a row of every document.
struct Documents<'r> {
    table: &'r RowTable,
}

/// What a batch leaves behind.
#[derive(Default)]
struct Left {
    rows: Vec<Vec<RowCell>>,
    fault: Option<Failure>,
}

impl Pass for Documents<'_> {
    type State = ();
    type Left = Left;

    fn state(&self) {}

    fn document(&self, (): &mut (), document: &Numbered<'_>, left: &mut Left) {
        let cell = |column: &RowColumn| {
            let value = document.record.field(&column.name);
            value.map_or(RowCell::Nothing, |value| RowCell::of(&value, column.kind))
        };
        left.rows.push(self.table.columns.iter().map(cell).collect());
    }
}

fn token_table(arguments: &ExportArguments) -> RowTable {
    let (texts, wholes) = (FieldType::Text, FieldType::Whole);
    let mut columns = vec![column("document", texts)];
    columns.extend(arguments.fields.iter().map(|field| column(field, texts)));
    columns.extend([
        column("position", wholes),
        column("kept_position", wholes),
        column("sentence", wholes),
        column("text", texts),
        column("start", wholes),
        column("end", wholes),
        column("start_character", wholes),
        column("end_character", wholes),
        column("kind", texts),
        column("tag", texts),
        column("lemma", texts),
        column("labels", texts),
        column("term", texts),
    ]);
    if arguments.dropped {
        columns.extend([
            column("form", texts),
            column("fate", texts),
            column("step", wholes),
            column("reason", texts),
        ]);
    }
    RowTable { name: "tokens", columns, indexed: &["document", "term"] }
}

/// The pass that makes a row of every token.
struct Tokens<'r> {
    run: &'r Studied,
    arguments: &'r ExportArguments,
}

impl<'r> Pass for Tokens<'r> {
    type State = Again<'r>;
    type Left = Left;

    fn state(&self) -> Again<'r> {
        Again::new(self.run, Outputs { ends: true, ..Outputs::default() })
    }

    fn document(&self, again: &mut Again<'r>, document: &Numbered<'_>, left: &mut Left) {
        let record = &document.record;
        let id = record.field("id").unwrap_or_default().into_owned();
        let Some(original) = record.field("text") else {
            let run = self.run.path.display().to_string();
            left.fault.get_or_insert(Failure::NoOriginals { run, instead: "" });
            return;
        };
        let cleaned = match again.document(record, &original) {
            Ok(cleaned) => cleaned,
            Err(fault) => {
                left.fault.get_or_insert(fault);
                return;
            }
        };
        let fields: Vec<RowCell> = self
            .arguments
            .fields
            .iter()
            .map(|name| record.field(name).map_or(RowCell::Nothing, |value| text(&value)))
            .collect();
        let (mut kept, mut characters) = (0u64, Characters::default());
        for token in cleaned.ends() {
            let is_kept = matches!(token.fate, FormFate::Kept { .. });
            kept += u64::from(is_kept);
            if is_kept || self.arguments.dropped {
                let row = self.row(&id, &fields, &original, &token, is_kept.then_some(kept), &mut characters);
                left.rows.push(row);
            }
        }
    }
}

impl Tokens<'_> {
    fn row(
        &self,
        id: &str,
        fields: &[RowCell],
        original: &str,
        token: &EndedToken<'_>,
        kept: Option<u64>,
        characters: &mut Characters,
    ) -> Vec<RowCell> {
        let pipeline = &self.run.compiled.pipeline;
        let (start, end) = (token.span.start as usize, token.span.end as usize);
        let labels = pipeline.labels().iter().enumerate();
        let labels: Vec<&str> =
            labels.filter(|(bit, _)| token.labels >> bit & 1 == 1).map(|(_, label)| label.as_str()).collect();
        let term = match token.fate {
            FormFate::Kept { term } => text(term),
            FormFate::Joined { into: Some(into), .. } => text(into),
            _ => RowCell::Nothing,
        };
        let mut cells = vec![text(id)];
        cells.extend_from_slice(fields);
        cells.extend([
            whole(token.place),
            kept.map_or(RowCell::Nothing, whole),
            token.sentence.map_or(RowCell::Nothing, whole),
            text(token.span.of(original)),
            whole(start as u64),
            whole(end as u64),
            whole(characters.before(original, start)),
            whole(characters.before(original, end)),
            text(token.kind.name()),
            token.tag.map_or(RowCell::Nothing, |tag| text(tag.code())),
            token.lemma.map_or(RowCell::Nothing, text),
            some_text(&labels.join(" ")),
            term,
        ]);
        if self.arguments.dropped {
            let (fate, step, reason) = match token.fate {
                FormFate::Kept { .. } => ("kept", None, String::new()),
                FormFate::Dropped { step, reason } => ("dropped", Some(step), pipeline.reason(step, reason)),
                FormFate::Joined { step, .. } => ("joined", Some(step), "part of another token".to_owned()),
            };
            cells.extend([
                text(token.form),
                text(fate),
                step.map_or(RowCell::Nothing, |step| whole(step as u64)),
                some_text(&reason),
            ]);
        }
        cells
    }
}

/// Counts characters up to places of a text that hardly ever go back.
#[derive(Default)]
struct Characters {
    at: usize,
    count: u64,
}

impl Characters {
    fn before(&mut self, text: &str, place: usize) -> u64 {
        let count = |from: usize, to: usize| text.get(from..to).map_or(0, |part| part.chars().count() as u64);
        if place >= self.at {
            self.count += count(self.at, place);
        } else {
            self.count -= count(place, self.at);
        }
        self.at = place;
        self.count
    }
}

/// Takes the rows of a pass into the file. Returns how many there are.
fn write<P: Pass<Left = Left>>(
    run: &Studied,
    pass: &P,
    out: RowFile,
    arguments: &ExportArguments,
    screen: &Screen,
) -> Result<u64, Failure> {
    let (documents, mut source) = run.documents(&[], Holding::default())?;
    let mut writing = Writing { out, arguments, rows: 0, progress: screen.progress(source.bytes()) };
    let policy = Policy { threads: threads(None), strict: true, compare_ids: false };
    read(&mut source, policy, pass, &mut writing).map_err(ended)?;
    writing.progress.end();
    documents.confirm(&source)?;
    finish(writing.out, arguments)?;
    Ok(writing.rows)
}

struct Writing<'a> {
    out: RowFile,
    arguments: &'a ExportArguments,
    rows: u64,
    progress: Progress,
}

impl Sink<Left> for Writing<'_> {
    type Error = Failure;

    fn left(&mut self, left: Left) -> Result<ControlFlow<()>, Failure> {
        if let Some(fault) = left.fault {
            return Err(fault);
        }
        for row in &left.rows {
            self.out.row(row).map_err(|why| failed(self.arguments, why))?;
        }
        self.rows += left.rows.len() as u64;
        Ok(ControlFlow::Continue(()))
    }

    fn batch_done(&mut self, bytes: u64, _so_far: &Summary) {
        self.progress.advance(bytes);
    }
}
