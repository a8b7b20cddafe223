//! What was found in the documents of a run, as it is printed.

use std::io::Write;

use serde_json::{Map, Value, json};
use yarrup_core::Tag;
use yarrup_core::study::{Group, GroupBy, grouped_values};
use yarrup_io::TableWriter;
use yarrup_report::{
    Align, ContextLine, context_lines, counted, grouped, marked_document, percent, table, visible,
    visible_name,
};

use super::find_search::{Among, Counts, Found, FoundPlace, Query, Unit};
use crate::arguments::RowFormat;
use crate::failure::Failure;
use crate::output::Output;
use crate::screen::Screen;

/// What was found.
pub(super) struct Shown<'q> {
    pub(super) query: &'q Query,
    /// What was looked for.
    pub(super) name: String,
    pub(super) found: Vec<Found>,
    pub(super) counts: Counts,
    pub(super) by: Option<GroupBy>,
}

/// A value with its places and documents.
type GroupCounts = (Group, (u64, u64));

impl Shown<'_> {
    pub(super) fn print(mut self, format: RowFormat, all: u64, screen: &Screen) -> Result<(), Failure> {
        let groups = self.groups();
        let mut out = screen.out_as(format);
        match format {
            RowFormat::Table => self.print_table(&groups, all, screen, &mut out)?,
            RowFormat::Csv => self.print_csv(&mut out)?,
            RowFormat::Json => {
                let rows: Vec<Value> = self.found.iter().map(|found| self.row(found)).collect();
                let mut value = json!({
                    "what": self.name,
                    "places": self.counts.places,
                    "documents": self.counts.documents,
                });
                if self.by.is_some() {
                    let group = |(group, (places, documents)): &GroupCounts| json!({ "value": group.to_string(), "places": places, "documents": documents });
                    value["by"] = groups.iter().map(group).collect();
                }
                value["found"] = Value::Array(rows);
                writeln!(out, "{value:#}")?;
            }
            RowFormat::Jsonl => {
                for found in &self.found {
                    writeln!(out, "{}", self.row(found))?;
                }
            }
        }
        Ok(out.flush()?)
    }

    fn groups(&mut self) -> Vec<GroupCounts> {
        let values = std::mem::take(&mut self.counts.by);
        let Some(by) = self.by.take() else { return Vec::new() };
        let by = by.suited_to(&values.keys().flatten().map(String::as_str));
        let groups = grouped_values(&by, values, |sum: &mut (u64, u64), (places, documents)| {
            sum.0 += places;
            sum.1 += documents;
        });
        self.by = Some(by);
        groups
    }

    fn print_table(
        &self,
        groups: &[GroupCounts],
        all: u64,
        screen: &Screen,
        out: &mut Output,
    ) -> Result<(), Failure> {
        let (look, query) = (screen.look, self.query);
        let is_emptied = query.among == Among::Emptied;
        let numbers =
            if is_emptied { counted(self.counts.documents, "document") } else { in_numbers(&self.counts) };
        writeln!(out, "{}  {numbers} of {}\n", look.heading(&self.name), grouped(all))?;
        if let Some(by) = &self.by {
            let header = [
                (by.path(), Align::Left),
                ("places", Align::Right),
                ("share", Align::Right),
                ("documents", Align::Right),
            ];
            let row = |(group, (places, documents)): &GroupCounts| {
                vec![
                    visible_name(&group.to_string()),
                    grouped(*places),
                    percent(*places, self.counts.places),
                    grouped(*documents),
                ]
            };
            writeln!(out, "{}", table(&header, &groups.iter().map(row).collect::<Vec<_>>(), look))?;
        }
        if self.found.is_empty() {
            return Ok(());
        }
        match query.unit() {
            Unit::Whole => self.print_whole(screen, out)?,
            Unit::Documents => write!(out, "{}", self.documents_table(screen))?,
            Unit::Places if is_emptied => write!(out, "{}", self.emptied_table(screen))?,
            Unit::Places => {
                let mut header = vec!["document"];
                header.extend(query.show.iter().map(String::as_str));
                let is_dropped = matches!(query.among, Among::Dropped(_) | Among::Forms)
                    && self.found.iter().flat_map(|found| &found.places).any(|place| place.dropped.is_some());
                if is_dropped {
                    header.push("dropped at");
                }
                let line = |found: &Found| {
                    let place = found.places.first().cloned().unwrap_or_default();
                    let mut lead = vec![found.id.clone()];
                    lead.extend(found.shown.iter().map(|value| value.clone().unwrap_or_default()));
                    if is_dropped {
                        lead.push(dropped_at(&place));
                    }
                    ContextLine { lead, before: place.before, words: place.words, after: place.after }
                };
                let lines: Vec<ContextLine> = self.found.iter().map(line).collect();
                write!(out, "{}", context_lines(&header, &lines, look))?;
            }
        }
        let (shown, of, noun) = match query.unit() {
            Unit::Places if !is_emptied => (self.found.len() as u64, self.counts.places, "places"),
            _ => (self.found.len() as u64, self.counts.documents, "documents"),
        };
        if shown < of {
            let note = format!("{} of {} {noun}; --first 0 shows all", grouped(shown), grouped(of));
            writeln!(out, "{}", look.faint(&note))?;
        }
        Ok(())
    }

    fn print_whole(&self, screen: &Screen, out: &mut Output) -> Result<(), Failure> {
        let look = screen.look;
        for found in &self.found {
            let mut head = look.heading(&visible_name(&found.id));
            head.push_str(&format!("  {}", counted(found.count, "place")));
            for (name, value) in self.query.show.iter().zip(&found.shown) {
                let value = value.as_deref().unwrap_or("–");
                head.push_str(&look.faint(&format!("  {} {}", visible_name(name), visible_name(value))));
            }
            let spans: Vec<(usize, usize)> = found
                .places
                .iter()
                .map(|place| (place.span.start as usize, place.span.end as usize))
                .collect();
            writeln!(out, "{head}\n{}", marked_document(&found.text, &spans, look))?;
        }
        Ok(())
    }

    fn documents_table(&self, screen: &Screen) -> String {
        let mut header = vec![("document", Align::Left), ("places", Align::Right)];
        header.extend(self.query.show.iter().map(|field| (field.as_str(), Align::Left)));
        let row = |found: &Found| {
            let mut cells = vec![visible(&found.id), grouped(found.count)];
            cells.extend(found.shown.iter().map(|value| visible_name(value.as_deref().unwrap_or_default())));
            cells
        };
        table(&header, &self.found.iter().map(row).collect::<Vec<_>>(), screen.look)
    }

    fn emptied_table(&self, screen: &Screen) -> String {
        let mut header = vec![("document", Align::Left), ("tokens as found", Align::Right)];
        header.extend(self.query.show.iter().map(|field| (field.as_str(), Align::Left)));
        header.push(("text", Align::Left));
        let row = |found: &Found| {
            let place = found.places.first().cloned().unwrap_or_default();
            let mut cells = vec![visible(&found.id), place.token];
            cells.extend(found.shown.iter().map(|value| visible_name(value.as_deref().unwrap_or_default())));
            cells.push(visible_name(place.after.trim()));
            cells
        };
        table(&header, &self.found.iter().map(row).collect::<Vec<_>>(), screen.look)
    }

    /// The columns behind the fields that are shown.
    fn columns(&self) -> &'static [&'static str] {
        match (self.query.unit(), self.query.among) {
            (Unit::Documents, _) => &["places"],
            (Unit::Whole, _) => &["places", "text"],
            (Unit::Places, Among::Emptied) => &["tokens_before", "text"],
            (Unit::Places, Among::Text) => &["before", "words", "after", "start", "end"],
            (Unit::Places, Among::Terms) => &["before", "words", "after", "start", "end", "term", "tag"],
            (Unit::Places, _) => {
                &["before", "words", "after", "start", "end", "form", "tag", "step", "reason"]
            }
        }
    }

    fn cells(&self, found: &Found) -> Vec<Value> {
        let place = found.places.first().cloned().unwrap_or_default();
        let cell = |column: &&str| match *column {
            "places" => found.count.into(),
            "text" if self.query.among == Among::Emptied => place.after.trim().into(),
            "text" => found.text.clone().into(),
            "tokens_before" => place.token.parse::<u64>().map_or(Value::Null, Value::from),
            "before" => place.before.as_str().into(),
            "words" => place.words.as_str().into(),
            "after" => place.after.as_str().into(),
            "start" => place.span.start.into(),
            "end" => place.span.end.into(),
            "tag" => place.tag.map_or(Value::Null, Value::from),
            "step" => place.dropped.as_ref().map_or(Value::Null, |(step, _)| (*step).into()),
            "reason" => place.dropped.as_ref().map_or(Value::Null, |(_, reason)| reason.as_str().into()),
            _ => place.token.as_str().into(),
        };
        self.columns().iter().map(cell).collect()
    }

    fn row(&self, found: &Found) -> Value {
        let mut row = Map::new();
        row.insert("id".to_owned(), found.id.as_str().into());
        for (name, value) in self.query.show.iter().zip(&found.shown) {
            row.insert(name.clone(), value.as_deref().map_or(Value::Null, Value::from));
        }
        let cells = self.columns().iter().zip(self.cells(found));
        row.extend(cells.map(|(name, value)| ((*name).to_owned(), value)));
        if self.query.unit() == Unit::Whole {
            let span = |place: &FoundPlace| json!([place.span.start, place.span.end]);
            row.insert("spans".to_owned(), found.places.iter().map(span).collect());
        }
        Value::Object(row)
    }

    fn print_csv(&self, out: &mut Output) -> Result<(), Failure> {
        let failed = |why: yarrup_io::TableError| Failure::Output(yarrup_io::table_failure(why));
        let mut columns = vec!["id"];
        columns.extend(self.query.show.iter().map(String::as_str));
        columns.extend(self.columns());
        let mut table = TableWriter::new(out, columns).map_err(failed)?;
        for found in &self.found {
            let mut cells = vec![found.id.clone()];
            cells.extend(found.shown.iter().map(|value| value.clone().unwrap_or_default()));
            cells.extend(self.cells(found).into_iter().map(|cell| match cell {
                Value::Null => String::new(),
                Value::String(text) => text,
                other => other.to_string(),
            }));
            table.row(cells).map_err(failed)?;
        }
        Ok(table.finish()?)
    }
}

/// The step that dropped a place, and why.
fn dropped_at(place: &FoundPlace) -> String {
    let tag = place.tag.and_then(Tag::named).map_or(String::new(), |tag| format!(" ({tag})"));
    match &place.dropped {
        Some((step, reason)) => format!("{step} {}{tag}", visible(reason)),
        None => String::new(),
    }
}

/// `2,104 places in 812 documents`.
fn in_numbers(counts: &Counts) -> String {
    format!("{} in {}", counted(counts.places, "place"), counted(counts.documents, "document"))
}
