//! What the fields of a source are, and which of them is likely to be the text, the title and the id.

use std::collections::{BTreeMap, HashMap};

use yarrup_core::survey::Distinct;

use crate::record::members::Members;
use crate::record::{FieldType, Record, Value};
use crate::short_hash;

/// Fields of at most so many different values are told value by value.
const FEW: usize = 12;
/// How many examples of a field are kept.
const EXAMPLES: usize = 3;
/// The longest example, in characters.
const EXAMPLE: usize = 60;

/// Names by which people call the text of a document, in the languages of the demo and some more.
const TEXT_NAMES: [&str; 36] = [
    "text",
    "body",
    "content",
    "comment",
    "comments",
    "message",
    "note",
    "notes",
    "remark",
    "remarks",
    "description",
    "review",
    "post",
    "tweet",
    "abstract",
    "story",
    "answer",
    "feedback",
    "reply",
    "article",
    "document",
    "sentence",
    "utterance",
    "caption",
    "summary",
    "details",
    "kommentar",
    "bemerkung",
    "nachricht",
    "inhalt",
    "texte",
    "commentaire",
    "texto",
    "comentario",
    "testo",
    "commento",
];
const TITLE_NAMES: [&str; 14] = [
    "title", "subject", "heading", "headline", "caption", "topic", "titel", "betreff", "titre", "sujet",
    "titulo", "título", "asunto", "titolo",
];
const ID_NAMES: [&str; 14] = [
    "id",
    "uid",
    "uuid",
    "guid",
    "key",
    "number",
    "nr",
    "no",
    "ref",
    "reference",
    "code",
    "doi",
    "url",
    "message_id",
];
/// The longest id.
const LONGEST_ID: u64 = 100;

/// Looks at the fields of documents. Several of these add up to one, whichever documents each has seen.
#[derive(Clone, Debug, Default)]
pub struct FieldSurvey {
    documents: u64,
    fields: Vec<FieldFacts>,
    by_path: HashMap<String, usize>,
}

/// What is known of a field.
#[derive(Clone, Debug, Default)]
pub struct FieldFacts {
    /// The path of the field.
    pub path: String,
    /// Documents in which it says something.
    pub filled: u64,
    /// The type that all its values fit; none if it is never filled.
    pub kind: Option<FieldType>,
    /// Whether some of its values are arrays.
    pub list: bool,
    /// How many different values there are.
    pub distinct: Distinct,
    /// The sum of the words of all its values.
    pub words: u64,
    /// The bytes of its longest value.
    pub longest: u64,
    /// The first different values, with the order of their documents.
    pub examples: Vec<(u64, String)>,
    /// Its values, each with how often it came; none once there are more than a few, or longer ones than fit into a list.
    values: Option<BTreeMap<String, u64>>,
    /// Whether any value was no text: a number, a truth or a date.
    other_than_text: bool,
    /// Whether any value was something else than a whole number of 64 bits, written without quotes.
    other_than_whole: bool,
    /// How its dates are written.
    pub dates: DateShapes,
    /// The order of the last document that filled it, counted from one: an array may do so several times.
    last: u64,
    /// Where it was seen first: the order of the document, and its place in it.
    first: (u64, usize),
}

impl FieldSurvey {
    /// Notes the fields of a document, which stands at `order` among all of them.
    pub fn document(&mut self, order: u64, record: &Record<'_>) {
        self.documents += 1;
        let mut place = 0;
        record.each_value(|path, value| {
            let index = match self.by_path.get(path) {
                Some(index) => *index,
                None => {
                    let index = self.fields.len();
                    self.fields.push(FieldFacts {
                        path: path.to_owned(),
                        values: Some(BTreeMap::new()),
                        first: (order, place),
                        ..FieldFacts::default()
                    });
                    self.by_path.insert(path.to_owned(), index);
                    index
                }
            };
            place += 1;
            self.fields[index].note(order, value);
        });
    }

    /// Adds what another has seen.
    pub fn absorb(&mut self, other: FieldSurvey) {
        self.documents += other.documents;
        for theirs in other.fields {
            match self.by_path.get(&theirs.path) {
                Some(index) => self.fields[*index].absorb(theirs),
                None => {
                    self.by_path.insert(theirs.path.clone(), self.fields.len());
                    self.fields.push(theirs);
                }
            }
        }
    }

    /// How many documents were seen.
    pub fn documents(&self) -> u64 {
        self.documents
    }

    /// The fields, in the order in which documents have them.
    pub fn fields(&self) -> Vec<&FieldFacts> {
        let mut fields: Vec<_> = self.fields.iter().collect();
        fields.sort_by_key(|field| field.first);
        fields
    }

    /// The fields that are likely to be the text, the title and the id, each with the reason.
    pub fn propose(&self) -> Proposal {
        let fields = self.fields();
        let text = self.propose_text(&fields);
        let taken = text.as_ref().map(|(path, _)| path.clone());
        let free = |field: &&&FieldFacts| Some(&field.path) != taken.as_ref();
        let titles = fields.iter().filter(free).filter(|field| {
            is_named(&field.path, &TITLE_NAMES) && field.kind == Some(FieldType::Text) && field.longest <= 400
        });
        // What lies in something else may be its title, and not that of the document.
        let title = titles.min_by_key(|field| (field.list, field.path.matches('.').count()));
        let unique = |field: &&&FieldFacts| {
            // A sketch of many values is not exact, and neither is this question there.
            let (distinct, exact) = field.distinct.count();
            field.filled == self.documents
                && self.documents > 0
                && (distinct == self.documents || (!exact && distinct * 10 >= self.documents * 9))
                && field.longest <= LONGEST_ID
                && !field.list
                && matches!(field.kind, Some(FieldType::Text | FieldType::Whole))
        };
        let by_name =
            fields.iter().filter(free).filter(unique).find(|field| is_named(&field.path, &ID_NAMES));
        // A short text of one word that no two documents share is an id, whatever it is called.
        let by_values = || {
            let words = |field: &&&FieldFacts| field.words == field.filled && !field.other_than_text;
            // Titles without spaces between words are no ids.
            let named = |field: &&&FieldFacts| {
                is_named(&field.path, &TITLE_NAMES) || is_named(&field.path, &TEXT_NAMES)
            };
            fields
                .iter()
                .filter(free)
                .filter(unique)
                .find(|field| words(field) && !named(field) && self.documents > 2)
        };
        let id = by_name.or_else(by_values);
        Proposal {
            text,
            title: title.map(|field| (field.path.clone(), "its name says so".to_owned())),
            id: id.map(|field| {
                let named = if by_name.is_some() { ", and its name says so" } else { "" };
                (field.path.clone(), format!("no two documents share a value{named}"))
            }),
        }
    }

    fn propose_text(&self, fields: &[&FieldFacts]) -> Option<(String, String)> {
        let mean = |field: &FieldFacts| field.words as f64 / field.filled.max(1) as f64;
        let score = |field: &FieldFacts| {
            let share = field.filled as f64 / self.documents.max(1) as f64;
            let named = if is_named(&field.path, &TEXT_NAMES) { 4.0 } else { 1.0 };
            mean(field) * share * named
        };
        let candidates = fields.iter().filter(|field| {
            let named = is_named(&field.path, &TEXT_NAMES);
            // What is the same everywhere, or a word, is no text, unless it is called one.
            matches!(field.kind, Some(FieldType::Text))
                && (named || (mean(field) >= 2.5 && field.distinct.count().0 > 1 && field.has_words()))
                || (named && self.documents == 1 && field.kind == Some(FieldType::Text))
        });
        let best = candidates.max_by(|a, b| score(a).total_cmp(&score(b)).then(b.first.cmp(&a.first)))?;
        let words = mean(best).round();
        let longest =
            fields.iter().all(|field| mean(field) <= mean(best) || field.kind != Some(FieldType::Text));
        let named = is_named(&best.path, &TEXT_NAMES);
        let why = match (longest, named) {
            (true, true) => format!("the longest texts, {words} words on average, and its name says so"),
            (true, false) => format!("the longest texts, {words} words on average"),
            _ => format!("its name says so; {words} words on average"),
        };
        Some((best.path.clone(), why))
    }
}

/// Whether the last part of a path is one of these names, or ends in one as `ticket_id` does.
fn is_named(path: &str, names: &[&str]) -> bool {
    let last = path.rsplit('.').next().unwrap_or(path).trim().to_lowercase();
    let tail = last.rsplit(['_', '-', ' ']).next().unwrap_or(&last);
    names.contains(&last.as_str()) || names.contains(&tail)
}

/// How the dates of a field are written.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct DateShapes {
    /// Some without a time.
    pub days: bool,
    /// Some with a time of no zone.
    pub local: bool,
    /// Some with a time of a zone.
    pub zoned: bool,
}

impl DateShapes {
    fn note(&mut self, date: &str) {
        match date.trim().get(10..) {
            None | Some("") => self.days = true,
            Some(time) if time.ends_with(['Z', 'C']) || time.contains(['+', '-']) => self.zoned = true,
            Some(_) => self.local = true,
        }
    }
}

impl FieldFacts {
    /// Whether its values have more letters than digits: dates and times that people write have not.
    fn has_words(&self) -> bool {
        let count = |is: fn(char) -> bool| {
            self.examples.iter().flat_map(|(_, text)| text.chars()).filter(|c| is(*c)).count()
        };
        count(char::is_alphabetic) > count(|c| c.is_ascii_digit())
    }

    /// Whether all values are whole numbers of 64 bits, written without quotes.
    pub fn is_whole(&self) -> bool {
        self.filled > 0 && !self.other_than_whole
    }

    fn note(&mut self, order: u64, value: Value<'_>) {
        self.other_than_whole |= match &value {
            Value::Json(raw) => raw.get() != "null" && raw.get().parse::<i64>().is_err(),
            Value::Text(text, _) => !text.is_empty(),
        };
        match value {
            Value::Json(raw) => {
                let written = raw.get();
                match written.as_bytes().first() {
                    Some(b'n') => {}
                    Some(b'[') => {
                        self.list = true;
                        if let crate::record::members::Found::Text(text) = Members::text_of(raw, &self.path)
                            && !text.is_empty()
                        {
                            self.note_text(order, &text, FieldType::Text);
                        } else if written.len() > 2 {
                            self.note_filled(order);
                            self.kind = Some(FieldType::Text);
                            self.example(order, written);
                        }
                    }
                    Some(b'"') => {
                        if let crate::record::members::Found::Text(text) = Members::text_of(raw, &self.path) {
                            // A number in quotes is a text: whoever wrote it knew the difference.
                            let kind = FieldType::of(&text);
                            let kind = if kind == FieldType::Date { kind } else { FieldType::Text };
                            self.note_text(order, &text, kind);
                        } else {
                            self.note_text(order, written, FieldType::Text);
                        }
                    }
                    _ => self.note_text(order, written, FieldType::of(written)),
                }
            }
            Value::Text(text, kind) => self.note_text(order, &text, kind),
        }
    }

    fn note_filled(&mut self, order: u64) {
        let again = self.last == order + 1;
        self.last = order + 1;
        self.filled += u64::from(!again);
        self.list |= again;
    }

    fn note_text(&mut self, order: u64, text: &str, kind: FieldType) {
        if text.trim().is_empty() {
            return;
        }
        self.note_filled(order);
        self.kind = Some(self.kind.map_or(kind, |known| known.and(kind)));
        self.other_than_text |= kind != FieldType::Text;
        if kind == FieldType::Date {
            self.dates.note(text);
        }
        self.distinct.note(short_hash(text.as_bytes()));
        // Near enough for an average, and free.
        self.words += 1 + text.trim().bytes().filter(|byte| matches!(byte, b' ' | b'\n')).count() as u64;
        self.longest = self.longest.max(text.len() as u64);
        self.count_value(text.trim(), 1);
        self.example(order, text);
    }

    fn count_value(&mut self, value: &str, count: u64) {
        let Some(values) = &mut self.values else { return };
        if let Some(known) = values.get_mut(value) {
            *known += count;
        } else if values.len() < FEW && value.len() <= EXAMPLE {
            values.insert(value.to_owned(), count);
        } else {
            self.values = None;
        }
    }

    /// Its values with how often each came, the commonest first, if there are few of them and they repeat.
    pub fn few_values(&self) -> Vec<(String, u64)> {
        let values = self.values.iter().flatten().map(|(value, count)| (value.clone(), *count));
        let mut values: Vec<(String, u64)> = values.collect();
        let sum: u64 = values.iter().map(|(_, count)| count).sum();
        if values.len() < 2 || sum < 2 * values.len() as u64 {
            return Vec::new();
        }
        values.sort_by(|a, b| b.1.cmp(&a.1).then(a.0.cmp(&b.0)));
        values
    }

    fn example(&mut self, order: u64, text: &str) {
        let last = self.examples.last().map_or(0, |(order, _)| *order);
        if self.examples.len() == EXAMPLES && order >= last {
            return;
        }
        let example: String = text.trim().chars().take(EXAMPLE).collect();
        self.keep_example(order, example);
    }

    fn keep_example(&mut self, order: u64, example: String) {
        if let Some(known) = self.examples.iter_mut().find(|(_, known)| *known == example) {
            known.0 = known.0.min(order);
        } else {
            self.examples.push((order, example));
        }
        self.examples.sort();
        self.examples.truncate(EXAMPLES);
    }

    fn absorb(&mut self, other: FieldFacts) {
        self.filled += other.filled;
        self.kind = match (self.kind, other.kind) {
            (Some(ours), Some(theirs)) => Some(ours.and(theirs)),
            (ours, theirs) => ours.or(theirs),
        };
        self.list |= other.list;
        self.other_than_text |= other.other_than_text;
        self.other_than_whole |= other.other_than_whole;
        self.dates.days |= other.dates.days;
        self.dates.local |= other.dates.local;
        self.dates.zoned |= other.dates.zoned;
        self.distinct.absorb(&other.distinct);
        self.words += other.words;
        self.longest = self.longest.max(other.longest);
        match other.values {
            Some(values) => values.into_iter().for_each(|(value, count)| self.count_value(&value, count)),
            None => self.values = None,
        }
        self.first = self.first.min(other.first);
        for (order, example) in other.examples {
            self.keep_example(order, example);
        }
    }
}

/// Which fields are likely to be what, and why.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Proposal {
    /// The text.
    pub text: Option<(String, String)>,
    /// The title.
    pub title: Option<(String, String)>,
    /// The id.
    pub id: Option<(String, String)>,
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::documents::{Context, Documents, More, RawDocument};
    use crate::record::{Item, Selection};

    fn survey(lines: &[&str]) -> FieldSurvey {
        let raw = |line: &&str| RawDocument { fields: (*line).to_owned(), ..RawDocument::default() };
        let context = Context {
            name: "x".into(),
            selection: Selection { fields_only: true, ..Selection::default() }.into(),
            side: None,
            format: None,
            proposed: false,
        };
        let mut survey = FieldSurvey::default();
        let mut order = 0;
        let _ = context.visit(&Documents(lines.iter().map(raw).collect()), &mut |item| {
            if let Item::Document(record) = item {
                survey.document(order, &record);
            }
            order += 1;
            More::Continue(())
        });
        survey
    }

    #[test]
    fn the_text_the_title_and_the_id_are_proposed() {
        let survey = survey(&[
            r#"{"card":"c-1","site":"Gull Hide","subject":"The hide","rating":5,"when":"2031-05-04","remark":"A lovely hide with kind wardens and sand","tags":["a","b"]}"#,
            r#"{"card":"c-2","site":"Gull Hide","subject":"No bus","rating":2,"when":"2031-05-05","remark":"The path was closed and there was no bus back","tags":[]}"#,
            r#"{"card":"c-3","site":"North Spit","subject":"Terns","rating":"n/a","when":"2031-05-06","remark":null,"tags":["b"]}"#,
        ]);
        let proposal = survey.propose();
        assert_eq!(proposal.text.map(|(path, _)| path).as_deref(), Some("remark"));
        assert_eq!(proposal.title.map(|(path, _)| path).as_deref(), Some("subject"));
        assert_eq!(proposal.id.map(|(path, _)| path).as_deref(), Some("card"));
        let facts: Vec<_> = survey
            .fields()
            .iter()
            .map(|field| (field.path.as_str(), field.filled, field.kind, field.distinct.count().0))
            .collect();
        assert_eq!(
            facts,
            [
                ("card", 3, Some(FieldType::Text), 3),
                ("site", 3, Some(FieldType::Text), 2),
                ("subject", 3, Some(FieldType::Text), 3),
                ("rating", 3, Some(FieldType::Text), 3),
                ("when", 3, Some(FieldType::Date), 3),
                ("remark", 2, Some(FieldType::Text), 2),
                ("tags", 2, Some(FieldType::Text), 2),
            ]
        );
    }

    #[test]
    fn the_title_of_something_else_is_not_that_of_the_document() {
        let titles = |document: &str| survey(&[document]).propose().title.map(|(path, _)| path);
        let link = r#""link":{"title":"All terns"}"#;
        assert_eq!(titles(&format!(r#"{{{link},"title":"A tern"}}"#)).as_deref(), Some("title"));
        assert_eq!(titles(&format!("{{{link}}}")).as_deref(), Some("link.title"));
        assert_eq!(
            titles(r#"{"titel":["a b","c"],"subject":{"title":"A tern"}}"#).as_deref(),
            Some("subject.title")
        );
    }

    #[test]
    fn dates_in_words_are_no_text_and_titles_no_ids() {
        let proposal = survey(&[
            r#"{"title":"鳥の巣","when":"Wed, 4 Jan 2006 07:00:00 +0200"}"#,
            r#"{"title":"嵐の後","when":"Wed, 4 Jan 2006 07:01:00 +0200"}"#,
            r#"{"title":"潮の塔","when":"Thu, 5 Jan 2006 07:02:00 +0200"}"#,
        ])
        .propose();
        assert_eq!((proposal.text, proposal.id), (None, None));
        assert_eq!(proposal.title.map(|(path, _)| path).as_deref(), Some("title"));
    }

    #[test]
    fn numbers_and_dates_are_no_text() {
        let proposal = survey(&[r#"{"n":1,"d":"2031-01-01"}"#, r#"{"n":2,"d":"2031-01-02"}"#]).propose();
        assert_eq!(proposal.text, None);
        assert_eq!(proposal.title, None);
    }
}
