//! `yarrup look --documents`: documents whole.

use std::io::Write;

use yarrup_core::Fields as _;
use yarrup_io::{Collection, Numbered, Pass, Reading, Record, Source, Value};
use yarrup_report::{DocumentShown, visible};

use crate::arguments::{CheckFormat, LookArguments};
use crate::failure::{Exit, Failure};
use crate::reading::{no_document, search};
use crate::screen::Screen;
use crate::wanted_document::WantedDocument;

/// A document that is wanted, and what was found for it so far.
struct Wish {
    wanted: WantedDocument,
    written: String,
    found: Option<DocumentShown>,
    /// The bytes of what was found, for the longest and the shortest.
    length: usize,
}

impl Wish {
    fn read(written: &str) -> Wish {
        let wanted = WantedDocument::read(written);
        Wish { wanted, written: written.trim().to_owned(), found: None, length: 0 }
    }

    /// Whether nothing later can change what was found.
    fn is_settled(&self) -> bool {
        self.found.is_some() && matches!(self.wanted, WantedDocument::Number(_) | WantedDocument::Id(_))
    }

    fn look_at(&mut self, number: u64, record: &Record<'_>, source: &str) {
        let length = record.text.len();
        let takes = match &self.wanted {
            WantedDocument::Number(wanted) => *wanted == number,
            WantedDocument::Id(id) => self.found.is_none() && *id == record.id,
            WantedDocument::Longest => self.found.is_none() || length > self.length,
            WantedDocument::Shortest => {
                !record.text.trim().is_empty() && (self.found.is_none() || length < self.length)
            }
            // The n-th document takes the place of the one before it once in n times, so that each is as likely in the end.
            WantedDocument::Random => random_below(number) == 0,
        };
        if takes {
            self.found = Some(shown(number, record, source));
            self.length = length;
        }
    }
}

/// A number below `bound`, by chance. Nothing that is compared depends on it.
fn random_below(bound: u64) -> u64 {
    use std::hash::{BuildHasher, RandomState};
    RandomState::new().hash_one(bound) % bound.max(1)
}

fn shown(number: u64, record: &Record<'_>, source: &str) -> DocumentShown {
    let mut fields = Vec::new();
    record.each_value(|path, value| {
        let value = match (&value, record.field(path)) {
            // As people read it, not as JSON writes it.
            (_, Some(text)) => text.into_owned(),
            (Value::Json(raw), None) => raw.get().to_owned(),
            (Value::Text(text, _), None) => text.to_string(),
        };
        if value != record.text && !fields.iter().any(|(known, _)| known == path) {
            fields.push((path.to_owned(), value));
        }
    });
    DocumentShown {
        number,
        id: record.id.to_string(),
        title: record.title.as_deref().map(str::to_owned),
        source: source.to_owned(),
        fields,
        text: record.text.to_string(),
    }
}

/// The pass that looks for documents, one after the other.
struct Searching<'a> {
    wanted: &'a [String],
}

/// What is looked for, and how many documents were looked at.
struct Search {
    wishes: Vec<Wish>,
    number: u64,
}

impl Pass for Searching<'_> {
    type State = Search;
    /// Whether nothing later can change what was found.
    type Left = bool;

    fn state(&self) -> Search {
        Search { wishes: self.wanted.iter().map(|written| Wish::read(written)).collect(), number: 0 }
    }

    fn document(&self, search: &mut Search, document: &Numbered<'_>, settled: &mut bool) {
        search.number += 1;
        for wish in &mut search.wishes {
            wish.look_at(search.number, &document.record, document.file);
        }
        *settled = search.wishes.iter().all(Wish::is_settled);
    }
}

/// Shows the documents that are asked for, in the order in which they are.
pub(crate) fn show(
    arguments: &LookArguments,
    collection: &Collection,
    screen: &Screen,
) -> Result<Exit, Failure> {
    let mut source = Source::open(collection)?;
    let wanted = WantedDocument::written_out(&arguments.documents);
    let searching = Searching { wanted: &wanted };
    let Reading { states, summary } = search(&mut source, &searching, screen)?;
    if let Some(failure) = no_document(&summary, &source) {
        return Err(failure);
    }
    let number = summary.documents;
    let wishes: Vec<Wish> = states.into_iter().flat_map(|search| search.wishes).collect();
    let mut out = screen.out_as(arguments.format);
    let mut first = true;
    for wish in &wishes {
        let Some(document) = &wish.found else { continue };
        match arguments.format {
            CheckFormat::Json => {
                serde_json::to_writer(&mut out, document).map_err(std::io::Error::from)?;
                writeln!(out)?;
            }
            CheckFormat::Text => {
                let gap = if first { "" } else { "\n" };
                write!(out, "{gap}{}", document.text_view(screen.look))?;
            }
        }
        first = false;
    }
    out.flush()?;
    let missing: Vec<_> = wishes
        .iter()
        .filter(|wish| wish.found.is_none())
        .map(|wish| format!("`{}`", visible(&wish.written)))
        .collect();
    if missing.is_empty() {
        return Ok(Exit::Done);
    }
    screen.warn(&format!("no document {}; there are {number}, by number or id", missing.join(", ")));
    Ok(Exit::Found)
}
