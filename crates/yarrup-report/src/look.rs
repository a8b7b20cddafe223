//! What a collection holds, as `look` shows it. Text and JSON are views of one value.

use serde::Serialize;
use unicode_width::UnicodeWidthStr;

use crate::numbers::{counted, grouped, percent, sized};
use crate::terminal::{Align, Look, bars, cut, table, visible};

/// What was found in a collection.
#[derive(Clone, Debug, Default, Serialize)]
pub struct LookReport {
    /// Its name, if it has one.
    pub collection: Option<String>,
    /// Documents taken.
    pub documents: u64,
    /// Documents that the conditions leave out.
    pub documents_left_out: u64,
    /// Files read, those in archives among them.
    pub files: u64,
    /// The bytes of all files; those in archives are counted in these.
    pub bytes: u64,
    /// Files of one shape each, in the order of the sources.
    pub groups: Vec<GroupRow>,
    /// How many words documents have.
    pub words: LengthFacts,
    /// How many characters documents have.
    pub characters: LengthFacts,
    /// The document of the fewest words.
    pub shortest: Option<NamedDocument>,
    /// The document of the most words.
    pub longest: Option<NamedDocument>,
    /// Documents without any word.
    pub empty: u64,
    /// The first of them.
    pub first_empty: Option<NamedDocument>,
    /// Documents whose text an earlier one has, to the letter.
    pub copies: u64,
    /// Two documents that are the same, by their numbers.
    pub copied: Option<(u64, u64)>,
    /// Documents that are nearly the same as an earlier one.
    pub near_copies: u64,
    /// Two of them, by their numbers.
    pub nearly_copied: Option<(u64, u64)>,
    /// Documents that were looked at closely. What follows speaks of these.
    pub looked_at: u64,
    /// Documents among these that were asked for their language.
    pub languages_looked_at: u64,
    /// Languages: code, name, documents.
    pub languages: Vec<(String, String, u64)>,
    /// Documents whose language cannot be told.
    pub language_unsure: u64,
    /// Scripts: name, letters, documents.
    pub scripts: Vec<(String, u64, u64)>,
    /// What is no language.
    pub dirt: Vec<DirtRow>,
    /// Lines that several documents have.
    pub repeated_lines: Vec<RepeatedRow>,
    /// A line of signs that parts most texts into several.
    pub separator: Option<SeparatorRow>,
    /// Records and files that gave no document: place and reason; the first of them.
    pub skipped: Vec<(String, String)>,
    /// How many there are.
    pub skipped_count: u64,
    /// Documents whose id an earlier one has.
    pub repeated_ids: u64,
    /// The first such id.
    pub first_repeated_id: Option<String>,
    /// Bytes and places of text that were not valid in their encoding and are U+FFFD now.
    pub replaced: u64,
    /// Files that are of no format that is read.
    pub passed_over: Vec<String>,
}

/// Files of one shape.
#[derive(Clone, Debug, Default, Serialize)]
pub struct GroupRow {
    /// The names of the files.
    pub names: Vec<String>,
    /// How they are written.
    pub format: String,
    /// Their documents.
    pub documents: u64,
    /// Their bytes.
    pub bytes: u64,
    /// The encodings of their text.
    pub encodings: Vec<String>,
    /// The field that is taken for the text.
    pub text: Chosen,
    /// The field that is taken for the id.
    pub id: Chosen,
    /// The field that is taken for the title.
    pub title: Chosen,
    /// Their fields.
    pub fields: Vec<FieldRow>,
}

/// A field that was chosen for something, and why.
#[derive(Clone, Debug, Default, Serialize)]
pub struct Chosen {
    /// Its path; none if no field was.
    pub field: Option<String>,
    /// Why.
    pub why: String,
}

/// A field.
#[derive(Clone, Debug, Default, Serialize)]
pub struct FieldRow {
    /// Its path.
    pub path: String,
    /// Its type, in words.
    #[serde(rename = "type")]
    pub kind: String,
    /// Documents in which it says something.
    pub filled: u64,
    /// Different values.
    pub distinct: u64,
    /// Whether that is exact.
    pub distinct_exact: bool,
    /// The bytes of its longest value.
    pub longest: u64,
    /// Some values.
    pub examples: Vec<String>,
    /// All values with how often each came, the commonest first, if there are few of them and they repeat.
    pub values: Vec<(String, u64)>,
}

/// The lengths of documents.
#[derive(Clone, Debug, Default, Serialize)]
pub struct LengthFacts {
    /// All of them together.
    pub sum: u64,
    /// The smallest.
    pub smallest: u64,
    /// That which half of the documents do not exceed, nearly.
    pub median: u64,
    /// The mean.
    pub mean: f64,
    /// That which nine of ten documents do not exceed, nearly.
    pub ninth_tenth: u64,
    /// The largest.
    pub largest: u64,
    /// Ranges: from, to, documents.
    pub ranges: Vec<(u64, u64, u64)>,
}

/// A document by its number, its id and its words.
#[derive(Clone, Debug, Default, Serialize)]
pub struct NamedDocument {
    /// Its number, counted from one.
    pub number: u64,
    /// Its id.
    pub id: String,
    /// Its words.
    pub words: u64,
}

/// A sort of dirt.
#[derive(Clone, Debug, Default, Serialize)]
pub struct DirtRow {
    /// What it is.
    pub what: String,
    /// How often it was found.
    pub count: u64,
    /// In how many documents.
    pub documents: u64,
    /// What it looks like in the first of them.
    pub example: String,
    /// The number of that document.
    pub number: u64,
    /// Its id.
    pub id: String,
    /// The step of a recipe that treats it.
    pub step: String,
}

/// A line that several documents have.
#[derive(Clone, Debug, Default, Serialize)]
pub struct RepeatedRow {
    /// The line.
    pub line: String,
    /// Its documents.
    pub documents: u64,
    /// The number of the first of them.
    pub number: u64,
}

/// A line of signs that parts texts into several.
#[derive(Clone, Debug, Default, Serialize)]
pub struct SeparatorRow {
    /// The line.
    pub line: String,
    /// The documents that it parts.
    pub documents: u64,
    /// How often it stands in these.
    pub places: u64,
}

/// A document shown whole.
#[derive(Clone, Debug, Default, Serialize)]
pub struct DocumentShown {
    /// Its number, counted from one.
    pub number: u64,
    /// Its id.
    pub id: String,
    /// Its title.
    pub title: Option<String>,
    /// The file that it comes from.
    pub source: String,
    /// Its fields, the text not among them: path and value.
    pub fields: Vec<(String, String)>,
    /// Its text.
    pub text: String,
}

impl DocumentShown {
    /// The document for a terminal, its own line breaks kept.
    pub fn text_view(&self, look: Look) -> String {
        let title = self.title.as_deref().filter(|title| !title.is_empty());
        let title = title.map(|title| format!("  {}", visible(title))).unwrap_or_default();
        let mut out = format!(
            "{}  {}{title}\n",
            look.heading(&format!("document {}", grouped(self.number))),
            look.heading(&visible(&self.id)),
        );
        let width = self.fields.iter().map(|(path, _)| path.width()).max().unwrap_or(0).min(24);
        for (path, value) in self.fields.iter().filter(|(_, value)| !value.is_empty()) {
            let value = cut(&visible(value), look.width.saturating_sub(width + 4).max(20));
            out.push_str(&format!("  {}  {value}\n", look.faint(&format!("{:<width$}", visible(path)))));
        }
        out.push('\n');
        for line in self.text.trim_end_matches(['\n', '\r']).split('\n') {
            // A tab moves the cursor no further than a column.
            let shown: Vec<_> = line.trim_end_matches('\r').split('\t').map(visible).collect();
            out.push_str(&format!("{}\n", shown.join("\t")));
        }
        out
    }
}

/// How many fields of a group are shown.
const FIELDS: usize = 14;

/// The sources of what was found, for a terminal.
pub fn look_overview(report: &LookReport, look: Look) -> String {
    let mut out = String::new();
    let name = report.collection.as_deref().map_or_else(String::new, |name| format!("{}  ", visible(name)));
    let left_out = match report.documents_left_out {
        0 => String::new(),
        count => format!(", {} left out by conditions", grouped(count)),
    };
    out.push_str(&format!(
        "{}{} in {}, {}{left_out}\n",
        look.heading(&name),
        look.heading(&counted(report.documents, "document")),
        counted(report.files, "file"),
        sized(report.bytes)
    ));
    section(&mut out, look, "What there is");
    out.push_str(&groups(report, look));
    out
}

/// What was found, for a terminal.
pub fn look_text(report: &LookReport, look: Look) -> String {
    let mut out = look_overview(report, look);
    for group in report.groups.iter().filter(|group| group.fields.iter().any(|field| field.path != "text")) {
        section(&mut out, look, &format!("Fields of {}", names(group)));
        out.push_str(&fields(group, look));
    }
    // Of tables without a text there are only the fields to show.
    if !report.words.ranges.is_empty() {
        lengths(&mut out, report, look);
        copies(&mut out, report, look);
        languages(&mut out, report, look);
        dirt(&mut out, report, look);
    }
    out
}

fn section(out: &mut String, look: Look, title: &str) {
    out.push_str(&format!("\n{}\n", look.heading(title)));
}

fn names(group: &GroupRow) -> String {
    let first = group.names.first().map(|name| visible(name)).unwrap_or_default();
    match group.names.len() {
        0 | 1 => first,
        several => format!("{first} and {} more", grouped(several as u64 - 1)),
    }
}

/// The end of a name, which tells files apart.
fn short_name(group: &GroupRow, width: usize) -> String {
    let first = group.names.first().map(|name| visible(name)).unwrap_or_default();
    let more = match group.names.len() {
        0 | 1 => String::new(),
        several => format!(" +{}", grouped(several as u64 - 1)),
    };
    let room = width.saturating_sub(more.len() + 1);
    let kept: Vec<char> = first.chars().rev().take(room).collect();
    let kept: String = kept.into_iter().rev().collect();
    if kept.len() < first.len() { format!("…{kept}{more}") } else { format!("{kept}{more}") }
}

fn groups(report: &LookReport, look: Look) -> String {
    let header = [
        ("source", Align::Left),
        ("format", Align::Left),
        ("documents", Align::Right),
        ("size", Align::Right),
        ("encoding", Align::Left),
        ("text", Align::Left),
    ];
    let text =
        |group: &GroupRow| group.text.field.as_deref().map_or_else(|| "none found".to_owned(), visible);
    let encodings = |group: &GroupRow| match group.encodings.as_slice() {
        [first, second, others @ ..] if others.len() > 1 => {
            format!("{first}, {second} and {} more", others.len())
        }
        few => few.join(", "),
    };
    let widest = |of: &dyn Fn(&GroupRow) -> String| {
        report.groups.iter().map(|group| of(group).width()).max().unwrap_or(0)
    };
    // The names give way to the rest: their ends tell them apart.
    let rest = widest(&|group| group.format.clone()) + widest(&encodings).max(8) + widest(&text).max(4) + 38;
    let room = look.width.saturating_sub(rest).clamp(16, 60);
    let rows: Vec<Vec<String>> = report
        .groups
        .iter()
        .map(|group| {
            vec![
                short_name(group, room),
                group.format.clone(),
                grouped(group.documents),
                sized(group.bytes),
                encodings(group),
                text(group),
            ]
        })
        .collect();
    table(&header, &rows, look)
}

fn fields(group: &GroupRow, look: Look) -> String {
    let header = [
        ("field", Align::Left),
        ("type", Align::Left),
        ("filled", Align::Right),
        ("distinct", Align::Right),
        ("examples", Align::Left),
    ];
    let role = |path: &str| {
        let is = |chosen: &Chosen| {
            chosen.field.as_deref().is_some_and(|field| field.split(" + ").any(|one| one == path))
        };
        match () {
            () if is(&group.text) => " (text)",
            () if is(&group.id) => " (id)",
            () if is(&group.title) => " (title)",
            () => "",
        }
    };
    let width = |field: &FieldRow| visible(&field.path).width() + role(&field.path).len();
    let room = look.width.saturating_sub(group.fields.iter().map(width).max().unwrap_or(0) + 44).max(24);
    let rows: Vec<Vec<String>> = group
        .fields
        .iter()
        .take(FIELDS)
        .map(|field| {
            let about = if field.distinct_exact { "" } else { "about " };
            let examples: Vec<_> = field.examples.iter().map(|example| cut(&visible(example), 40)).collect();
            vec![
                format!("{}{}", visible(&field.path), role(&field.path)),
                field.kind.clone(),
                percent(field.filled, group.documents).replace(".0 %", " %"),
                format!("{about}{}", grouped(field.distinct)),
                cut(&examples.join(" · "), room),
            ]
        })
        .collect();
    let mut out = table(&header, &rows, look);
    for field in group.fields.iter().take(FIELDS).filter(|field| !field.values.is_empty()) {
        let value =
            |(value, count): &(String, u64)| format!("{}: {}", cut(&visible(value), 40), grouped(*count));
        let values: Vec<String> = field.values.iter().map(value).collect();
        let line = cut(&values.join(" · "), look.width.saturating_sub(field.path.width() + 4).max(24));
        out.push_str(&format!("  {} {}\n", look.heading(&visible(&field.path)), look.faint(&line)));
    }
    if group.fields.len() > FIELDS {
        let more = counted((group.fields.len() - FIELDS) as u64, "field");
        out.push_str(&format!("  {}\n", look.faint(&format!("and {more} more; --format json has them all"))));
    }
    for (what, chosen) in [("text", &group.text), ("id", &group.id), ("title", &group.title)] {
        if let Some(field) = &chosen.field
            && !chosen.why.is_empty()
            && field != what
        {
            let line = format!("{what} is taken from {}: {}", visible(field), chosen.why);
            out.push_str(&format!("  {}\n", look.faint(&line)));
        } else if what == "text" && chosen.field.is_none() {
            out.push_str("  no field looks like the text; choose one with --text\n");
        }
    }
    out
}

fn range((from, to): (u64, u64)) -> String {
    if from == to { grouped(from) } else { format!("{}–{}", grouped(from), grouped(to)) }
}

fn lengths(out: &mut String, report: &LookReport, look: Look) {
    if report.documents == 1 {
        section(out, look, "Length");
        let (words, characters) = (report.words.sum, report.characters.sum);
        out.push_str(&format!("  {}, {}\n", counted(words, "word"), counted(characters, "character")));
        return;
    }
    let mut histogram = |title: &str, facts: &LengthFacts| {
        section(out, look, title);
        let rows: Vec<(String, u64)> =
            facts.ranges.iter().map(|(from, to, documents)| (range((*from, *to)), *documents)).collect();
        out.push_str(&bars(&rows, look));
    };
    histogram("Words in a document", &report.words);
    histogram("Characters in a document", &report.characters);
    let facts = |name: &str, facts: &LengthFacts| {
        format!(
            "  {} {name}: from {} to {}, half of the documents up to about {}, nine of ten up to about {}, {} on average\n",
            grouped(facts.sum),
            grouped(facts.smallest),
            grouped(facts.largest),
            grouped(facts.median),
            grouped(facts.ninth_tenth),
            grouped(facts.mean.round() as u64)
        )
    };
    out.push_str(&facts("words", &report.words));
    out.push_str(&facts("characters", &report.characters));
    let named = |what: &str, at: &NamedDocument| {
        let words =
            if what == "first empty" { String::new() } else { format!(", {}", counted(at.words, "word")) };
        format!("{what} {} ({}{words})", grouped(at.number), visible(&at.id))
    };
    let mut ends = Vec::new();
    ends.extend(report.shortest.iter().map(|at| named("shortest", at)));
    ends.extend(report.longest.iter().map(|at| named("longest", at)));
    if report.empty > 0 {
        let first = report.first_empty.as_ref().map(|at| named("first empty", at)).unwrap_or_default();
        ends.push(format!("{} without a word, {first}", counted(report.empty, "document")));
    }
    out.push_str(&format!("  {}\n", ends.join("; ")));
}

fn copies(out: &mut String, report: &LookReport, look: Look) {
    if report.documents < 2 {
        return;
    }
    section(out, look, "Copies");
    let pair = |pair: &Option<(u64, u64)>| {
        pair.map(|(one, other)| format!(", such as {} and {}", grouped(one), grouped(other)))
            .unwrap_or_default()
    };
    if report.copies == 0 && report.near_copies == 0 {
        out.push_str("  none, and none nearly\n");
    }
    if report.copies > 0 {
        let line =
            format!("  {} an earlier one to the letter{}\n", repeats(report.copies), pair(&report.copied));
        out.push_str(&line);
    }
    if report.near_copies > 0 {
        out.push_str(&format!(
            "  {} an earlier one nearly{}{}\n",
            repeats(report.near_copies),
            of_sample(report, report.looked_at),
            pair(&report.nearly_copied)
        ));
    }
    if let Some(first) = &report.first_repeated_id {
        let have = if report.repeated_ids == 1 {
            "1 document has"
        } else {
            &format!("{} documents have", grouped(report.repeated_ids))
        };
        out.push_str(&format!("  {have} the id of an earlier one, the first {}\n", visible(first)));
    }
}

fn repeats(count: u64) -> String {
    if count == 1 { "1 document repeats".to_owned() } else { format!("{} documents repeat", grouped(count)) }
}

/// Whether what follows speaks of a sample, for a heading.
fn of_sample(report: &LookReport, looked_at: u64) -> String {
    if looked_at < report.documents - report.empty {
        format!(" (a sample of {})", counted(looked_at, "document"))
    } else {
        String::new()
    }
}

fn languages(out: &mut String, report: &LookReport, look: Look) {
    section(out, look, &format!("Languages{}", of_sample(report, report.languages_looked_at)));
    // Documents in several languages are in none of them: they stand by themselves, however few they are.
    let (several, named): (Vec<_>, Vec<_>) = report.languages.iter().partition(|(code, ..)| *code == "mul");
    let mut rows: Vec<(String, u64)> = named
        .iter()
        .take(8)
        .map(|(code, name, documents)| {
            (format!("{name} ({code}) {:>6}", percent(*documents, report.languages_looked_at)), *documents)
        })
        .collect();
    let others: u64 = named.iter().skip(8).map(|(_, _, documents)| documents).sum();
    if others > 0 {
        rows.push((format!("others {:>6}", percent(others, report.languages_looked_at)), others));
    }
    for (code, name, documents) in several {
        let share = percent(*documents, report.languages_looked_at);
        rows.push((format!("{name} ({code}) {share:>6}"), *documents));
    }
    if report.language_unsure > 0 {
        let share = percent(report.language_unsure, report.languages_looked_at);
        rows.push((format!("cannot be told {share:>6}"), report.language_unsure));
    }
    out.push_str(&bars(&rows, look));
    let letters: u64 = report.scripts.iter().map(|(_, letters, _)| letters).sum();
    let scripts: Vec<_> = report
        .scripts
        .iter()
        .take(6)
        .map(|(name, count, documents)| {
            format!(
                "{name} {} of the letters, in {}",
                percent(*count, letters),
                counted(*documents, "document")
            )
        })
        .collect();
    out.push_str(&format!(
        "  scripts: {}\n",
        if scripts.is_empty() { "none".into() } else { scripts.join("; ") }
    ));
}

fn dirt(out: &mut String, report: &LookReport, look: Look) {
    section(out, look, &format!("Dirt{}", of_sample(report, report.looked_at)));
    if report.dirt.is_empty() && report.repeated_lines.is_empty() && report.separator.is_none() {
        out.push_str("  none\n");
    }
    if !report.dirt.is_empty() {
        let header = [
            ("what", Align::Left),
            ("places", Align::Right),
            ("documents", Align::Right),
            ("first", Align::Left),
            ("in", Align::Left),
            ("step", Align::Left),
        ];
        // So that no cell is broken in two.
        let room = (look.width.saturating_sub(78) / 2).clamp(10, 34);
        let rows: Vec<Vec<String>> = report
            .dirt
            .iter()
            .map(|row| {
                vec![
                    row.what.clone(),
                    grouped(row.count),
                    grouped(row.documents),
                    cut(&visible(&row.example), room),
                    cut(&visible(&row.id), room),
                    row.step.clone(),
                ]
            })
            .collect();
        out.push_str(&table(&header, &rows, look));
    }
    if let Some(SeparatorRow { line, documents, places }) = &report.separator {
        out.push_str(&format!(
            "  lines of “{line}” divide {}, in {}: --separator-line reads the parts as documents\n",
            counted(*documents, "document"),
            counted(*places, "place")
        ));
    }
    for row in &report.repeated_lines {
        let line = cut(&visible(&row.line), look.width.saturating_sub(50).max(20));
        out.push_str(&format!(
            "  {} have the line “{line}”, the first of them {}; step: lines\n",
            counted(row.documents, "document"),
            grouped(row.number)
        ));
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn hostile_text_moves_no_cursor() {
        let shown = DocumentShown {
            number: 1,
            id: "a\u{1b}[2J".into(),
            fields: vec![("f\u{1b}".into(), "v\u{1b}".into())],
            text: "one\r\n\u{1b}[31mtwo\tthree".into(),
            ..DocumentShown::default()
        };
        let out = shown.text_view(Look { colour: false, width: 80, wraps: true });
        assert!(!out.contains('\u{1b}') && !out.contains('\r'), "{out}");
        assert!(out.ends_with("one\n\\u{1b}[31mtwo\tthree\n"), "{out}");
    }

    #[test]
    fn a_sample_is_told() {
        let mut report = LookReport {
            documents: 1000,
            looked_at: 1000,
            languages_looked_at: 1000,
            words: LengthFacts { ranges: vec![(1, 1, 1000)], ..LengthFacts::default() },
            ..LookReport::default()
        };
        assert!(!look_text(&report, Look { colour: false, width: 80, wraps: true }).contains("sample"));
        (report.looked_at, report.languages_looked_at) = (100, 50);
        assert!(
            look_text(&report, Look { colour: false, width: 80, wraps: true })
                .contains("Dirt (a sample of 100 documents)")
        );
        // Rows without a text have no lengths, and nothing can be said of their texts.
        report.words = LengthFacts::default();
        assert!(!look_text(&report, Look { colour: false, width: 80, wraps: true }).contains("Dirt"));
    }
}
