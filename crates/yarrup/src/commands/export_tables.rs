//! `yarrup export` of tables: documents, tokens, terms, forms, effects as files, or into a database.

use std::io::IsTerminal as _;
use std::ops::ControlFlow;
use std::path::Path;

use yarrup_core::{Account, Fields, Outputs, StepName};
use yarrup_io::{
    BatchDone, Cells, FieldSurvey, Holding, IntoDatabase, Numbered, Pass, Policy, Record, RowColumn,
    RowEncoder, RowFile, RowFormat, RowTable, RowType, Rows, Sink, Summary, TableMode, form_entry, read,
    read_account, refuse_taken, term_entries,
};
use yarrup_report::counted;

use crate::arguments::{ExportArguments, ExportFormat, ExportWhat};
use crate::counting::TermsOf;
use crate::failure::{Exit, Failure, option};
use crate::output::Shape;
use crate::reading::{ended, threads};
use crate::row_target::{Gathered, RowTarget};
use crate::screen::{Progress, Screen};
use crate::studied::{Again, Studied, refuse_inside};
use crate::token_table::{TokenRows, TokenTable, add_terms};

/// Writes a table of a run as a file, or to standard output.
pub(crate) fn export(arguments: &ExportArguments, screen: &Screen) -> Result<Exit, Failure> {
    let [what] = arguments.what[..] else {
        return Err(option("what", "several tables go --into a database, not into one file"));
    };
    let cells = if arguments.as_is { Cells::AsIs } else { Cells::Safe };
    let format = match arguments.format {
        Some(ExportFormat::Csv) => RowFormat::Csv(cells),
        Some(ExportFormat::Jsonl) => RowFormat::JsonLines,
        Some(ExportFormat::Parquet) => RowFormat::Parquet,
        _ => RowFormat::Sqlite,
    };
    if let Some(out) = &arguments.out {
        refuse_inside(out, &arguments.run)?;
        refuse_taken(out, arguments.replace)?;
    } else if format == RowFormat::Sqlite {
        return Err(option("as", "sqlite needs --out and a file"));
    } else if format == RowFormat::Parquet && std::io::stdout().is_terminal() {
        return Err(option(
            "as",
            "parquet is not for the eye: name a file with --out, or send it to a program",
        ));
    }
    let table = Table::of(&arguments.run, what, arguments, screen)?;
    let encoder = encoder(format, &table.table)?;
    let file = match &arguments.out {
        Some(path) => RowFile::create(path, arguments.replace, &encoder, &table.table)?,
        None => {
            let shape = if format == RowFormat::JsonLines { Shape::Json } else { Shape::Data };
            RowFile::stream(Box::new(screen.out_as(shape)), &encoder, &table.table)?
        }
    };
    let rows = table.write(&encoder, RowTarget::File(Box::new(file), arguments.out.clone()), screen)?;
    if let Some(path) = &arguments.out {
        screen.tell(&format!("{}: {}", path.display(), counted(rows, "row")));
    }
    Ok(Exit::Done)
}

/// Writes tables of a run into a database, all of them or none.
pub(crate) fn export_into(
    place: &str,
    arguments: &ExportArguments,
    screen: &Screen,
) -> Result<Exit, Failure> {
    if arguments.what.len() > 1 && arguments.table.is_some() {
        return Err(option("table", "names one table; each of several has the name of what it holds"));
    }
    if !place.contains("://") {
        refuse_inside(Path::new(place), &arguments.run)?;
    }
    let named =
        |what: &ExportWhat| (*what, arguments.table.clone().unwrap_or_else(|| what.table().to_owned()));
    let into = IntoTables {
        place,
        certificates: arguments.certificates.as_deref(),
        tables: arguments.what.iter().map(named).collect(),
        mode: match (arguments.append, arguments.replace) {
            (true, _) => TableMode::Append,
            (_, true) => TableMode::Replace,
            _ => TableMode::Create,
        },
    };
    into.check()?;
    into.write(&arguments.run, arguments, screen)?;
    Ok(Exit::Done)
}

/// Tables of a database that are to be written.
pub(super) struct IntoTables<'a> {
    pub(super) place: &'a str,
    pub(super) certificates: Option<&'a Path>,
    /// What is written, and how its table is called.
    pub(super) tables: Vec<(ExportWhat, String)>,
    pub(super) mode: TableMode,
}

impl IntoTables<'_> {
    /// Finds out whether the database can be reached, and whether the tables are there or not as they should be, before any work is done.
    pub(super) fn check(&self) -> Result<(), Failure> {
        let names: Vec<&str> = self.tables.iter().map(|(_, name)| name.as_str()).collect();
        Ok(IntoDatabase::check(self.place, self.certificates, &names, self.mode)?)
    }

    /// Writes the tables, all of them or none.
    pub(super) fn write(
        &self,
        run: &Path,
        arguments: &ExportArguments,
        screen: &Screen,
    ) -> Result<(), Failure> {
        let mut database = IntoDatabase::open(self.place, self.certificates)?;
        let mut told = Vec::new();
        for (what, name) in &self.tables {
            let mut table = Table::of(run, *what, arguments, screen)?;
            table.table.name.clone_from(name);
            database.table(&table.table, self.mode)?;
            let encoder = encoder(database.format(), &table.table)?;
            let rows = table.write(&encoder, RowTarget::Database(&mut database), screen)?;
            told.push(format!("{} in table `{name}`", counted(rows, "row")));
        }
        let shown = database.place().to_owned();
        for warning in database.finish()? {
            screen.warn(&format!("{shown}: {warning}"));
        }
        screen.tell(&format!("{shown}: {}", told.join(", ")));
        Ok(())
    }
}

fn encoder(format: RowFormat, table: &RowTable) -> Result<RowEncoder, Failure> {
    RowEncoder::new(format, table).map_err(|why| Failure::Sentence(why.to_string()))
}

impl ExportWhat {
    /// How its table is called.
    fn table(self) -> &'static str {
        match self {
            ExportWhat::Documents => "documents",
            ExportWhat::Tokens => "tokens",
            ExportWhat::Counts => "counts",
            ExportWhat::Terms => "terms",
            ExportWhat::Forms => "forms",
            ExportWhat::Effects => "effects",
        }
    }
}

/// A table of a run that is to be written.
struct Table {
    table: RowTable,
    rows: From,
}

/// Where the rows of a table come from.
enum From {
    /// They are counted already.
    Counted(Rows),
    /// The documents.
    Documents(Studied, DocumentColumns),
    /// The tokens of the documents, or the terms that they come to.
    Tokens(Studied, TokenTable, ExportWhat),
}

impl Table {
    fn of(
        run: &Path,
        what: ExportWhat,
        arguments: &ExportArguments,
        screen: &Screen,
    ) -> Result<Table, Failure> {
        match what {
            ExportWhat::Documents => {
                let run = Studied::open(run)?;
                let (table, columns) = document_table(&run, arguments, screen)?;
                Ok(Table { table, rows: From::Documents(run, columns) })
            }
            ExportWhat::Tokens | ExportWhat::Counts => {
                let run = Studied::open(run)?;
                for field in &arguments.fields {
                    if !run.has_field(field, screen)? {
                        return Err(run.no_field(field, screen));
                    }
                }
                let tokens = TokenTable { fields: arguments.fields.clone(), dropped: arguments.dropped };
                let table = if what == ExportWhat::Tokens { tokens.table() } else { tokens.term_table() };
                Ok(Table { table, rows: From::Tokens(run, tokens, what) })
            }
            other => {
                let account = read_account(run)?;
                let (table, rows) = counted_table(&account, other);
                Ok(Table { table, rows: From::Counted(rows) })
            }
        }
    }

    /// Writes the rows. Returns how many there are.
    fn write(self, encoder: &RowEncoder, target: RowTarget<'_>, screen: &Screen) -> Result<u64, Failure> {
        let columns = &self.table.columns;
        match self.rows {
            From::Counted(rows) => {
                let mut gathered = Gathered::default();
                *gathered.rows(columns) = rows;
                gathered.encode(encoder);
                let mut target = target;
                let count = gathered.write(&mut target)?;
                target.finish()?;
                Ok(count)
            }
            From::Documents(run, document) => {
                let making = Documents { run: &run, document: &document };
                write(&run, &Gathering { making, columns, encoder }, target, screen)
            }
            From::Tokens(run, tokens, ExportWhat::Tokens) => {
                let making = Tokens { run: &run, tokens: &tokens };
                write(&run, &Gathering { making, columns, encoder }, target, screen)
            }
            From::Tokens(run, tokens, _) => {
                let making = Terms { run: &run, fields: &tokens.fields };
                write(&run, &Gathering { making, columns, encoder }, target, screen)
            }
        }
    }
}

/// The tables that the account alone gives.
fn counted_table(account: &Account, what: ExportWhat) -> (RowTable, Rows) {
    use RowType::{Number, Text, Whole};
    let table = |name: &str, columns: &[(&str, RowType)], indexed| RowTable {
        name: name.to_owned(),
        columns: columns.iter().map(|(name, kind)| RowColumn::new(name, *kind)).collect(),
        indexed,
    };
    match what {
        ExportWhat::Forms => {
            let columns = [
                ("form", Text),
                ("kind", Text),
                ("tag", Text),
                ("count", Whole),
                ("documents", Whole),
                ("fate", Text),
                ("step", Whole),
                ("reason", Text),
                ("term", Text),
            ];
            let table = table("forms", &columns, &["form", "term"]);
            let mut rows = Rows::of(&table.columns);
            for row in account.forms() {
                let entry = form_entry(account, &row);
                rows.text(entry.form);
                rows.text(entry.kind);
                rows.text_or_nothing(entry.tag);
                rows.whole(entry.count);
                rows.whole(entry.documents);
                rows.text(entry.fate);
                rows.whole_or_nothing(entry.step);
                rows.text_or_nothing(entry.reason);
                rows.text_or_nothing(entry.term);
            }
            (table, rows)
        }
        ExportWhat::Effects => {
            let mut columns = vec![("step", Whole), ("do", Text), ("label", Text)];
            columns.extend(EFFECT_COUNTS.map(|name| (name, Whole)));
            let table = table("effects", &columns, &["step"]);
            let mut rows = Rows::of(&table.columns);
            for effect in account.effects() {
                rows.whole(effect.step);
                rows.text(&effect.operation);
                rows.text_or_nothing(effect.label.as_deref().unwrap_or_default());
                for count in [
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
                ] {
                    rows.whole_or_nothing(count);
                }
            }
            (table, rows)
        }
        _ => {
            let columns = [
                ("rank", Whole),
                ("term", Text),
                ("count", Whole),
                ("documents", Whole),
                ("share", Number),
                ("kind", Text),
                ("tag", Text),
                ("forms", Whole),
                ("commonest_form", Text),
            ];
            let table = table("terms", &columns, &["term"]);
            let mut rows = Rows::of(&table.columns);
            let vocabulary = account.vocabulary();
            for entry in term_entries(account, &vocabulary) {
                rows.whole(entry.rank);
                rows.text(entry.term);
                rows.whole(entry.count);
                rows.whole(entry.documents);
                rows.number(entry.share);
                rows.text(entry.kind);
                rows.text_or_nothing(entry.tag);
                rows.whole(entry.forms);
                rows.text(entry.commonest_form);
            }
            (table, rows)
        }
    }
}

/// The counts of an effect, as columns.
const EFFECT_COUNTS: [&str; 13] = [
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

/// How the columns of documents are filled.
struct DocumentColumns(Vec<Filled>);

/// What fills a column.
enum Filled {
    /// A field, by its path.
    Field(String),
    /// The list of the terms.
    Terms,
    /// What is left behind the step with this number.
    Behind(usize),
}

/// The fields of the documents as columns, with the types that all values fit.
fn document_table(
    run: &Studied,
    arguments: &ExportArguments,
    screen: &Screen,
) -> Result<(RowTable, DocumentColumns), Failure> {
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
    let (mut columns, mut filled) = (Vec::new(), Vec::new());
    for field in survey.fields() {
        let name = match field.path.as_str() {
            "clean" => arguments.clean_as.as_deref().unwrap_or("clean"),
            path => path,
        };
        columns.push(RowColumn::new(name, RowType::of(field)));
        filled.push(Filled::Field(field.path.clone()));
    }
    for step in chosen_steps(run, &arguments.stages)? {
        let name = format!("step_{}_{}", step.number, step.operation);
        columns.push(RowColumn::new(&name, RowType::Text));
        filled.push(Filled::Behind(step.number));
    }
    if let Some(name) = &arguments.term_list {
        columns.push(RowColumn::new(name, RowType::Texts));
        filled.push(Filled::Terms);
    }
    let taken = |(number, column): (usize, &RowColumn)| {
        columns[..number].iter().any(|other| other.name == column.name).then(|| column.name.clone())
    };
    if let Some(name) = columns.iter().enumerate().find_map(taken) {
        let why = format!("the documents have a field `{name}` already; choose another name");
        let is_list = arguments.term_list.as_ref() == Some(&name);
        return Err(option(if is_list { "term-list" } else { "clean-as" }, &why));
    }
    Ok((RowTable { name: "documents".to_owned(), columns, indexed: &["id"] }, DocumentColumns(filled)))
}

/// The steps that are asked for by their numbers.
fn chosen_steps<'r>(run: &'r Studied, asked: &[String]) -> Result<Vec<&'r StepName>, Failure> {
    let steps = run.compiled.pipeline.steps();
    if asked.iter().any(|asked| asked == "all") {
        return Ok(steps.iter().collect());
    }
    let step = |asked: &String| {
        let found = steps.iter().find(|step| step.number.to_string() == *asked);
        let why = || format!("no step `{asked}`; the recipe has steps 1 to {}", steps.len());
        found.ok_or_else(|| option("stages", &why()))
    };
    asked.iter().map(step).collect()
}

/// What is left of a document behind a step: its text, or its tokens parted by spaces.
fn behind_step(run: &Studied, record: &Record<'_>, number: usize) -> Result<String, Failure> {
    let original = run.original(record)?;
    let trace = run.compiled.pipeline.trace_to(&original, record, number);
    let text = trace.text_steps.iter().find(|step| step.step.number == number);
    Ok(text.map_or(trace.clean, |step| step.text.clone()))
}

/// Makes rows of documents.
trait Making: Sync {
    /// What a worker keeps.
    type State: Send;

    fn state(&self) -> Self::State;

    /// Adds the rows of a document.
    fn add(&self, state: &mut Self::State, record: &Record<'_>, rows: &mut Rows) -> Result<(), Failure>;
}

/// The pass that gathers rows and encodes them.
struct Gathering<'r, M> {
    making: M,
    columns: &'r [RowColumn],
    encoder: &'r RowEncoder,
}

impl<M: Making> Pass for Gathering<'_, M> {
    type State = M::State;
    type Left = Gathered;

    fn state(&self) -> M::State {
        self.making.state()
    }

    fn lot(&self) -> usize {
        self.encoder.format().lot()
    }

    fn document(&self, state: &mut M::State, document: &Numbered<'_>, left: &mut Gathered) {
        if let Err(fault) = self.making.add(state, &document.record, left.rows(self.columns)) {
            left.fail(fault);
        }
        left.encode_many(self.encoder);
    }

    fn lot_done(&self, _state: &mut M::State, left: &mut Gathered) {
        left.encode(self.encoder);
    }
}

/// A row a document.
struct Documents<'r> {
    run: &'r Studied,
    document: &'r DocumentColumns,
}

impl<'r> Making for Documents<'r> {
    type State = TermsOf<'r>;

    fn state(&self) -> TermsOf<'r> {
        TermsOf::new(self.run)
    }

    fn add(&self, terms: &mut TermsOf<'r>, record: &Record<'_>, rows: &mut Rows) -> Result<(), Failure> {
        for filled in &self.document.0 {
            match filled {
                Filled::Field(field) => match record.value(field) {
                    Some(value) => rows.written(&value),
                    None => rows.nothing(),
                },
                Filled::Behind(step) => rows.text(&behind_step(self.run, record, *step)?),
                Filled::Terms => terms.each(record, |terms| rows.texts(terms))?,
            }
        }
        Ok(())
    }
}

/// A row a token.
struct Tokens<'r> {
    run: &'r Studied,
    tokens: &'r TokenTable,
}

impl<'r> Making for Tokens<'r> {
    type State = (Again<'r>, TokenRows<'r>);

    fn state(&self) -> Self::State {
        let again = Again::new(self.run, Outputs { ends: true, ..Outputs::default() });
        (again, TokenRows::new(&self.run.compiled.pipeline, self.tokens.clone()))
    }

    fn add(
        &self,
        (again, tokens): &mut Self::State,
        record: &Record<'_>,
        rows: &mut Rows,
    ) -> Result<(), Failure> {
        let original = self.run.original(record)?;
        let id = record.field("id").unwrap_or_default();
        tokens.add((&id, record), &original, &again.document(record, &original)?, rows);
        Ok(())
    }
}

/// A row a term of a document.
struct Terms<'r> {
    run: &'r Studied,
    fields: &'r [String],
}

impl<'r> Making for Terms<'r> {
    type State = TermsOf<'r>;

    fn state(&self) -> TermsOf<'r> {
        TermsOf::new(self.run)
    }

    fn add(&self, terms: &mut TermsOf<'r>, record: &Record<'_>, rows: &mut Rows) -> Result<(), Failure> {
        terms.each(record, |terms| add_terms(record, self.fields, terms, rows))
    }
}

/// Takes the rows of a pass to where they go. Returns how many there are.
fn write<P: Pass<Left = Gathered>>(
    run: &Studied,
    pass: &P,
    target: RowTarget<'_>,
    screen: &Screen,
) -> Result<u64, Failure> {
    let (documents, mut source) = run.documents(&[], Holding::default())?;
    let mut writing = Writing { target, rows: 0, progress: screen.progress(source.bytes()) };
    let policy = Policy::strict(threads(None));
    read(&mut source, policy, pass, &mut writing).map_err(ended)?;
    writing.progress.end();
    documents.confirm(&source)?;
    writing.target.finish()?;
    Ok(writing.rows)
}

struct Writing<'a> {
    target: RowTarget<'a>,
    rows: u64,
    progress: Progress,
}

impl Sink<Gathered> for Writing<'_> {
    type Error = Failure;

    fn left(&mut self, gathered: Gathered) -> Result<ControlFlow<()>, Failure> {
        self.rows += gathered.write(&mut self.target)?;
        Ok(ControlFlow::Continue(()))
    }

    fn batch_done(&mut self, batch: BatchDone, _so_far: &Summary) -> Result<(), Failure> {
        self.progress.advance(batch.bytes);
        Ok(())
    }
}
