//! The way from an input to its documents: its format is told, its reader called, and what is wrong with it noted.

use std::cell::Cell;
use std::io::{self, Read};
use std::rc::Rc;
use std::sync::Arc;
use std::sync::mpsc::SyncSender;

use crate::apart::{self, ReaderProcesses};
use crate::documents::{
    Batch, Chunk, Context, Format, Input, Inside, Message, More, NoDocument, Out, Passed, Proposed,
    ReadError, ReadFile, ReadOptions, Start,
};
use crate::encoding;
use crate::fields::FieldSurvey;
#[cfg(feature = "documents")]
use crate::format::compound;
use crate::format::facts;
use crate::format::zipped::{BOMB, is_bomb, zip_told};
use crate::names::ending;
use crate::record::{Item, Malformed, Selection, Why};
use crate::registry::{Formats, is_other_open_document, known_but_not_read, old_office_not_read};
use crate::sampling::Picker;
use crate::sidecar::with_file_fields;

/// Why a text in a folder is passed over whose ending is that of no format. Whoever names it, by itself or by a pattern, has it read.
pub const UNNAMED_TEXT: &str = "text whose ending names no format";

/// How many archives and compressions may lie in one another.
const DEEPEST: usize = 5;
/// How much all that lies in an archive may unpack to, archives in it and what lies in them together, before that is compared with its size.
const BOMB_BYTES_IN_ALL: u64 = 1 << 30;

/// From how many records fields are proposed.
const PROPOSED_FROM: u64 = 1000;

/// Where readers give their documents.
pub(crate) struct Intake<'s> {
    formats: Formats,
    options: &'s ReadOptions,
    context: Context,
    /// What was said of the fields, before anything was proposed.
    selection: Arc<Selection>,
    sender: &'s SyncSender<Message>,
    picker: &'s mut Picker,
    depth: usize,
    /// What all that lies in what is being read, at any depth, has unpacked to.
    unpacked: Rc<Cell<u64>>,
    /// The size of what is being read; none if it is not known.
    packed: Option<u64>,
    /// Who reads files whose readers can be broken.
    apart: Option<Arc<ReaderProcesses>>,
}

impl<'s> Intake<'s> {
    pub(crate) fn new(
        formats: Formats,
        options: &'s ReadOptions,
        context: Context,
        sender: &'s SyncSender<Message>,
        picker: &'s mut Picker,
        apart: Option<Arc<ReaderProcesses>>,
    ) -> Intake<'s> {
        let selection = context.selection.clone();
        Intake {
            formats,
            options,
            selection,
            context,
            sender,
            picker,
            depth: 0,
            unpacked: Rc::default(),
            packed: None,
            apart,
        }
    }

    fn read_as_told(&mut self, input: &mut Input<'_>) -> Result<(), ReadError> {
        if self.depth > DEEPEST {
            return Err(ReadError::sentence(format!(
                "archives in archives, more than {DEEPEST} deep; not read"
            )));
        }
        let format = self.format_of(input)?;
        self.context.format = Some(format);
        let reader = self.formats.reader(format);
        if let Some(unit) = self.options.unit
            && !format.units().is_empty()
            && !format.units().contains(&unit)
        {
            let units: Vec<_> = format.units().iter().map(|unit| unit.name()).collect();
            return Err(ReadError::sentence(format!(
                "documents of `{}` are by {}, not by {}",
                format.name(),
                units.join(" or "),
                unit.name()
            )));
        }
        let read = match self.apart.clone().filter(|_| reader.is_read_apart() && !self.options.trust_files) {
            Some(processes) => apart::read(&processes, reader, input, self),
            None => reader.read(input, self),
        };
        if read.is_ok() {
            // What the reader did not need, for the size and the hash.
            io::copy(&mut input.opened, &mut io::sink())?;
        }
        let hash = format!("{:032x}", input.opened.hash.digest128());
        if read.is_ok() && input.expected.as_ref().is_some_and(|expected| *expected != hash) {
            (self as &mut dyn Out).no_document(Why::File(
                "was cut or changed since the run wrote it; make the run again".into(),
            ))?;
        }
        // A file that ends too early has given documents too, and so has one of which only the first were wanted.
        let whole = read.is_ok();
        let noted = self.send(Message::Read(ReadFile {
            name: input.name.clone(),
            format,
            bytes: input.opened.bytes.get(),
            hash,
            encoding: input.encoding.map(encoding_rs::Encoding::name),
            replaced: input.replaced.get(),
            inside: self.depth > 1,
            whole,
        }));
        read.and(noted)
    }

    /// The format that was asked for, else that which the content shows, else that which the name says.
    fn format_of(&mut self, input: &mut Input<'_>) -> Result<Format, ReadError> {
        let by_name = ending(&input.file_name);
        let (members, media_type) = match input.opened.look()? {
            zip if zip.starts_with(b"PK\x03\x04") => members_and_media_type(input)?,
            #[cfg(feature = "documents")]
            old if old.starts_with(compound::SIGN) => (compound::names(input), String::new()),
            _ => Default::default(),
        };
        let start = input.opened.look()?;
        if self.options.encoding.is_none() && self.options.format.is_none() && encoding::is_utf_32(start) {
            return Err(ReadError::sentence("written in UTF-32, which is not read; write it as UTF-8"));
        }
        let text = self
            .options
            .encoding
            .or_else(|| encoding::of_start(start))
            .map(|encoding| encoding.decode(start).0);
        let named = by_name.as_deref().and_then(|ending| self.formats.of_ending(ending));
        let unnamed = named.is_none();
        let start = Start {
            bytes: start,
            text: text.as_deref(),
            unnamed,
            members: &members,
            media_type: &media_type,
        };
        let content = self.formats.of_content(&start);
        if let Some(asked) = self.options.format {
            // What is asked for may lie in an archive, or be compressed.
            return Ok(content
                .filter(|content| content.is_wrapping() && !asked.is_wrapping())
                .unwrap_or(asked));
        }
        if is_other_open_document(&start) && content.is_none_or(Format::is_wrapping) {
            return Err(ReadError::NotRead(
                "a file of an office program that is neither a text nor a table".to_owned(),
            ));
        }
        // A protected file may hold an empty document beside what is protected.
        if let Some(what) = old_office_not_read(&start) {
            return Err(ReadError::NotRead(what.to_owned()));
        }
        if let Some(content) = content {
            // Programs keep their own affairs in XML as well, under endings of their own.
            let is_of_a_program = content.name() == facts::XML.name && unnamed && by_name.is_some();
            return match is_of_a_program && !input.asked_for {
                true => Err(ReadError::NotRead(UNNAMED_TEXT.to_owned())),
                false => Ok(content),
            };
        }
        if text.as_deref().is_some_and(|text| text.trim_start().starts_with("<?xml")) {
            return Err(ReadError::NotRead("a picture, written in XML".to_owned()));
        }
        if let Some(what) = known_but_not_read(start.bytes) {
            return Err(ReadError::NotRead(what.to_owned()));
        }
        if text.is_none() {
            return Err(match named {
                Some(named) if !named.is_any_text() => ReadError::sentence(format!(
                    "its name says {}, but its content is not: damaged, or something else",
                    named.about()
                )),
                _ => ReadError::NotRead("not text, and of no format that is read".to_owned()),
            });
        }
        match named {
            Some(named) if named.is_any_text() => {
                // An empty text is a document without words; an empty table holds none.
                if start.bytes.is_empty() && !matches!(named.name(), "text" | "markdown") {
                    self.passed_over(format!("{} (empty)", input.name))?;
                }
                Ok(named)
            }
            Some(named) if start.bytes.is_empty() => {
                Err(ReadError::sentence(format!("empty, so not {}", named.about())))
            }
            Some(named) => Err(ReadError::sentence(format!(
                "its name says {}, but its content is plain text",
                named.about()
            ))),
            None if by_name.is_some() && !input.asked_for => Err(ReadError::NotRead(UNNAMED_TEXT.to_owned())),
            None => Ok(self.formats.plain_text()),
        }
    }

    /// Finds out which fields of a source are likely to be what, from its first records.
    fn propose(&mut self, chunk: &dyn Chunk) -> Result<(), ReadError> {
        let asked = self.context.selection.clone();
        let fields_only = Selection { fields_only: true, ..Selection::default() };
        let context = Context { selection: fields_only.into(), ..self.context.clone() };
        let mut survey = FieldSurvey::default();
        let _ = context.visit(chunk, &mut |item| {
            if let Item::Document(record) = item {
                survey.document(survey.documents(), &record);
            }
            if survey.documents() < PROPOSED_FROM { More::Continue(()) } else { More::Break(()) }
        });
        if survey.documents() == 0 {
            return Ok(());
        }
        let mut proposal = survey.propose();
        let mut selection = Selection::clone(&asked);
        let has = |path: &str| survey.fields().iter().any(|field| field.path == path);
        // What is chosen, or taken by its name anyway, needs no proposal.
        if !asked.text.is_empty() || has("text") {
            proposal.text = None;
        }
        if asked.id.is_some() || has("id") {
            proposal.id = None;
        }
        if asked.title.is_some() {
            proposal.title = None;
        }
        selection.text.extend(proposal.text.iter().map(|(path, _)| path.clone()));
        // Whoever asks what there is sees the fields, also where none is a text.
        selection.fields_only |= selection.text.is_empty() && !has("text");
        selection.id = selection.id.or(proposal.id.as_ref().map(|(path, _)| path.clone()));
        selection.title = selection.title.or(proposal.title.as_ref().map(|(path, _)| path.clone()));
        self.context.selection = selection.clone().into();
        self.context.proposed = true;
        let name = self.context.name.to_string();
        self.send(Message::Proposed(Box::new(Proposed { name, proposal, selection })))
    }

    fn send(&mut self, message: Message) -> Result<(), ReadError> {
        self.sender.send(message).map_err(|_| ReadError::Stopped)
    }
}

impl Out for Intake<'_> {
    fn options(&self) -> &ReadOptions {
        self.options
    }

    fn name(&self) -> &Arc<str> {
        &self.context.name
    }

    fn rename(&mut self, name: Arc<str>) -> Arc<str> {
        std::mem::replace(&mut self.context.name, name)
    }

    fn selection(&self) -> &Selection {
        &self.context.selection
    }

    fn give_chunk(&mut self, chunk: Box<dyn Chunk>) -> Result<(), ReadError> {
        if self.options.propose && !self.context.proposed && !chunk.has_text() {
            self.propose(&*chunk)?;
        }
        if self.picker.picks_all() {
            return self.send(Message::Batch(Batch { context: self.context.clone(), chunk }));
        }
        let bytes = chunk.bytes();
        let given = self.picker.pick(&self.context, &*chunk);
        let full = self.picker.is_full();
        for batch in given {
            self.send(Message::Batch(batch))?;
        }
        self.send(Message::Batch(Batch { context: self.context.clone(), chunk: Box::new(Passed(bytes)) }))?;
        if full { Err(ReadError::Stopped) } else { Ok(()) }
    }

    fn malformed(&mut self, place: String, why: Why) -> Result<(), ReadError> {
        self.send(Message::Batch(Batch {
            context: self.context.clone(),
            chunk: Box::new(NoDocument(Malformed { place, why, line: None })),
        }))
    }

    fn passed_over(&mut self, name: String) -> Result<(), ReadError> {
        self.send(Message::PassedOver(name))
    }

    fn note(&mut self, what: String) -> Result<(), ReadError> {
        let name = self.context.name.clone();
        self.send(Message::Note(format!("{name}: {what}")))
    }

    fn read(&mut self, input: &mut Input<'_>) -> Result<(), ReadError> {
        let name: Arc<str> = input.name.as_str().into();
        let (own, inherited) = (input.side.clone(), self.context.side.clone());
        let side = match self.selection.names_files {
            true => Some(with_file_fields(own.as_deref(), inherited.as_deref(), &name).into()),
            false => own.or(inherited),
        };
        let context = Context {
            name: name.clone(),
            side,
            proposed: false,
            selection: self.selection.clone(),
            format: None,
        };
        let outer = std::mem::replace(&mut self.context, context);
        if self.depth == 0 {
            self.unpacked.set(0);
            self.packed = input.disk.as_ref().and_then(|path| Some(path.metadata().ok()?.len()));
        }
        self.depth += 1;
        let result = self.read_as_told(input);
        self.depth -= 1;
        let result = match result {
            Err(ReadError::NotRead(what)) if !input.asked_for => self.passed_over(format!("{name} ({what})")),
            Err(error) => failed(self, error),
            Ok(()) => Ok(()),
        };
        self.context = outer;
        result
    }

    fn read_inside(&mut self, inside: Inside<'_>) -> Result<(), ReadError> {
        let Inside { name, file_name, reader, packed, side, asked_for } = inside;
        let all = self.unpacked.clone();
        let any = self.options.trust_archives;
        let bounded = Bounded { reader, packed, unpacked: 0, all, all_packed: self.packed, any };
        let mut input = Input::new(name, bounded);
        input.file_name = file_name;
        input.side = side;
        input.asked_for = asked_for;
        self.read(&mut input)
    }
}

/// The longest media type of a package.
const LONGEST_MEDIA_TYPE: u64 = 200;

/// The names in a zip archive, and what it says that it is: OpenDocument has a member for that, which is the first as a rule, but not always.
fn members_and_media_type(input: &mut Input<'_>) -> Result<(Vec<String>, String), ReadError> {
    let mut archive = zip::ZipArchive::new(input.seekable()?).map_err(|why| zip_told(&why))?;
    let members = archive.file_names().flatten().map(|name| name.into_owned()).collect();
    let mut media_type = Vec::new();
    if let Ok(member) = archive.by_name("mimetype") {
        // A member that cannot be unpacked says nothing.
        let _ = member.take(LONGEST_MEDIA_TYPE).read_to_end(&mut media_type);
    }
    Ok((members, String::from_utf8_lossy(&media_type).trim().to_owned()))
}

/// Notes why what is being read cannot be read. Only that nobody wants more stays an error.
pub(crate) fn failed(out: &mut dyn Out, error: ReadError) -> Result<(), ReadError> {
    match error {
        ReadError::Stopped => Err(ReadError::Stopped),
        other => out.no_document(Why::File(other.told())),
    }
}

/// Ends what unpacks to far more than any text does.
struct Bounded<R, P> {
    reader: R,
    packed: P,
    unpacked: u64,
    /// What all that lies in the same archive, at any depth, has unpacked to.
    all: Rc<Cell<u64>>,
    /// The size of that archive; none if it is not known.
    all_packed: Option<u64>,
    any: bool,
}

impl<R: Read, P: Fn() -> u64> Read for Bounded<R, P> {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        let count = self.reader.read(buffer)?;
        self.unpacked += count as u64;
        let all = self.all.get() + count as u64;
        self.all.set(all);
        let in_all = all > BOMB_BYTES_IN_ALL && self.all_packed.is_some_and(|packed| is_bomb(all, packed));
        if !self.any && (in_all || is_bomb(self.unpacked, (self.packed)())) {
            return Err(io::Error::other(BOMB));
        }
        Ok(count)
    }
}
