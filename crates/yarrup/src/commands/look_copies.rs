//! `yarrup look --copies`: which documents repeat others and what differs, and which passages many documents have.

use std::collections::{BTreeMap, HashMap, HashSet};
use std::io::Write;

use serde_json::json;
use yarrup_core::compare::{Stretch, differences};
use yarrup_core::recipe::NoRecipes;
use yarrup_core::step::{Copies, CopySort, Document};
use yarrup_core::suggest::{Proposal, Suggestion, accept};
use yarrup_core::survey::{Passage, Passages};
use yarrup_core::{Learning, ToLearn};
use yarrup_io::{Collection, Numbered, Pass, Source, Summary};
use yarrup_report::{counted, excerpt, grouped, visible, visible_name};

use crate::arguments::{CheckFormat, LookArguments};
use crate::failure::{Exit, Failure};
use crate::learning::reread;
use crate::reading::{lenient, read_all, read_documents, threads};
use crate::recipe_file::compile_text;
use crate::screen::Screen;

/// What documents are compared by: their words in small letters, without marks.
const RECIPE: &str = "[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\n[[step]]\ndo = \"drop\"\nkinds = [\"punctuation\", \"symbol\"]\n\
                      [[step]]\ndo = \"documents\"\ncopies = \"near\"\n";
/// In how many documents a passage must stand.
const LEAST: u64 = 3;
/// How many copies of a group are shown, how much of a text is kept to show what differs, and how many differences are shown.
const SHOWN_COPIES: usize = 6;
const KEPT_BYTES: usize = 64 << 10;
const SHOWN_DIFFERENCES: usize = 3;
/// The longest stretch that is shown, in columns.
const WIDEST: usize = 96;

pub(super) fn show(
    arguments: &LookArguments,
    collection: &Collection,
    screen: &Screen,
) -> Result<Exit, Failure> {
    let mut collection = collection.clone();
    reread(&mut collection)?;
    let compiled = compile_text("copies", RECIPE.to_owned(), RECIPE.to_owned())?;
    let Some(to_learn) = ToLearn::next(&compiled.pipeline) else {
        return Err(Failure::Sentence("copies cannot be looked for".to_owned()));
    };
    let threads = threads(arguments.threads);
    let reading = read_documents(&collection, threads, &First { to_learn: &to_learn }, screen)?;
    let (mut learning, mut passages) = (to_learn.begin(), Passages::new(LEAST));
    for (one, other) in reading.states {
        learning.absorb(one);
        passages.absorb(other);
    }
    let copies = learning.learned().into_iter().find_map(|step| step.copies).unwrap_or_default();
    let groups = Groups::of(copies, most(arguments));
    passages.needs_another_pass();
    let second = Second { groups: &groups, passages: &passages };
    let reading = read_all(&mut Source::open(&collection)?, lenient(threads), &second, screen)?;
    let (mut kept, mut found) = (Kept::default(), passages.fresh());
    for (theirs, more) in reading.states {
        kept.absorb(theirs);
        found.absorb(more);
    }
    let report = Report {
        groups,
        kept,
        passages: found.finish(),
        documents: reading.summary.documents,
        summary: &reading.summary,
    };
    let mut out = screen.out_as(arguments.format);
    match arguments.format {
        CheckFormat::Json => {
            serde_json::to_writer_pretty(&mut out, &report.as_json()).map_err(std::io::Error::from)?;
            writeln!(out)?;
        }
        CheckFormat::Text => report.print(most(arguments), screen, &mut out)?,
    }
    out.flush()?;
    Ok(Exit::Done)
}

/// How many groups and passages are shown.
fn most(arguments: &LookArguments) -> usize {
    match (arguments.top, arguments.format) {
        (Some(0), _) | (None, CheckFormat::Json) => usize::MAX,
        (Some(top), _) => top,
        (None, CheckFormat::Text) => 10,
    }
}

/// The first pass: what documents are copies, and which runs of words come often.
struct First<'p> {
    to_learn: &'p ToLearn<'p>,
}

impl<'p> Pass for First<'p> {
    type State = (Learning<'p>, Passages);
    type Left = ();

    fn state(&self) -> Self::State {
        (self.to_learn.begin(), Passages::new(LEAST))
    }

    fn document(&self, (learning, passages): &mut Self::State, document: &Numbered<'_>, (): &mut ()) {
        let Numbered { record, order, .. } = document;
        learning.document(&Document { text: &record.text, fields: record, order: *order });
        passages.document(*order, &record.text);
    }
}

/// Documents that repeat one another.
struct Groups {
    /// By the place of the original: its copies, in their order.
    groups: BTreeMap<u64, Vec<(u64, CopySort)>>,
    /// The originals of the groups that are shown, the largest first.
    shown: Vec<u64>,
    /// The documents whose texts are shown.
    wanted: HashSet<u64>,
    /// All documents that are in a group.
    members: HashSet<u64>,
}

impl Groups {
    fn of(copies: Copies, most: usize) -> Groups {
        let mut groups: BTreeMap<u64, Vec<(u64, CopySort)>> = BTreeMap::new();
        for (copy, original, sort) in Vec::from(copies) {
            groups.entry(original).or_default().push((copy, sort));
        }
        let mut shown: Vec<u64> = groups.keys().copied().collect();
        shown.sort_by_key(|original| (std::cmp::Reverse(groups[original].len()), *original));
        shown.truncate(most);
        let mut wanted: HashSet<u64> = HashSet::new();
        for original in &shown {
            let near = groups[original].iter().take(SHOWN_COPIES).filter(|(_, sort)| *sort == CopySort::Near);
            wanted.extend(near.map(|(copy, _)| *copy));
            wanted.insert(*original);
        }
        let members = groups
            .iter()
            .flat_map(|(original, copies)| copies.iter().map(|(copy, _)| *copy).chain([*original]))
            .collect();
        Groups { groups, shown, wanted, members }
    }

    fn count(&self, sort: CopySort) -> u64 {
        self.groups.values().flatten().filter(|(_, known)| *known == sort).count() as u64
    }
}

/// The ids of the documents in groups, and the texts of those that are shown.
#[derive(Default)]
struct Kept {
    ids: HashMap<u64, String>,
    texts: HashMap<u64, String>,
}

impl Kept {
    fn absorb(&mut self, other: Kept) {
        self.ids.extend(other.ids);
        self.texts.extend(other.texts);
    }
}

/// The second pass: the documents in groups, and the passages.
struct Second<'g> {
    groups: &'g Groups,
    passages: &'g Passages,
}

impl Pass for Second<'_> {
    type State = (Kept, Passages);
    type Left = ();

    fn state(&self) -> Self::State {
        (Kept::default(), self.passages.fresh())
    }

    fn document(&self, (kept, passages): &mut Self::State, document: &Numbered<'_>, (): &mut ()) {
        let Numbered { record, order, .. } = document;
        passages.document(*order, &record.text);
        if self.groups.members.contains(order) {
            kept.ids.insert(*order, record.id.to_string());
        }
        if self.groups.wanted.contains(order) {
            let end = record.text.floor_char_boundary(KEPT_BYTES);
            kept.texts.insert(*order, record.text[..end].to_owned());
        }
    }
}

/// What is told.
struct Report<'s> {
    groups: Groups,
    kept: Kept,
    passages: Vec<Passage>,
    documents: u64,
    summary: &'s Summary,
}

impl Report<'_> {
    fn id(&self, order: u64) -> &str {
        self.kept.ids.get(&order).map_or("", String::as_str)
    }

    fn text(&self, order: u64) -> &str {
        self.kept.texts.get(&order).map_or("", String::as_str)
    }

    fn print(&self, most: usize, screen: &Screen, out: &mut impl Write) -> Result<(), Failure> {
        let look = screen.look;
        let (exact, near) = (self.groups.count(CopySort::Exact), self.groups.count(CopySort::Near));
        if exact + near == 0 {
            writeln!(out, "{}", look.heading("No document repeats another"))?;
        } else {
            let heading = format!(
                "{} of {} repeat an earlier one: {} word for word, {} nearly",
                grouped(exact + near),
                counted(self.documents, "document"),
                grouped(exact),
                grouped(near)
            );
            writeln!(out, "{}", look.heading(&heading))?;
        }
        for original in &self.groups.shown {
            self.print_group(*original, screen, out)?;
        }
        let more = self.groups.groups.len() - self.groups.shown.len();
        if more > 0 {
            let note = format!("and {}: --top 0 shows them", counted(more as u64, "more group"));
            writeln!(out, "  {}", look.faint(&note))?;
        }
        writeln!(out)?;
        if self.passages.is_empty() {
            writeln!(out, "{}", look.heading(&format!("No passage occurs in {LEAST} documents or more")))?;
        } else {
            let heading =
                format!("{} in {LEAST} documents or more", counted(self.passages.len() as u64, "passage"));
            writeln!(out, "{}", look.heading(&heading))?;
            let shown: Vec<&Passage> = self.passages.iter().take(most).collect();
            let width = shown.iter().map(|passage| grouped(passage.count).len()).max().unwrap_or(0);
            for passage in &shown {
                let sort = if passage.is_lines { "lines" } else { "inside of lines" };
                let facts = format!("in {}, {sort}", counted(passage.documents, "document"));
                writeln!(
                    out,
                    "  {:>width$}×  {}  {}",
                    grouped(passage.count),
                    excerpt(&passage.text, WIDEST),
                    look.faint(&facts)
                )?;
            }
            if self.passages.len() > shown.len() {
                let note = format!(
                    "and {} more: --top 0 shows them",
                    grouped((self.passages.len() - shown.len()) as u64)
                );
                writeln!(out, "  {}", look.faint(&note))?;
            }
        }
        let steps = self.steps(most)?;
        if !steps.is_empty() {
            writeln!(out, "\n{}", look.heading("Ready for a recipe"))?;
            steps.trim_end().lines().try_for_each(|line| writeln!(out, "{}", visible(line)))?;
        }
        Ok(())
    }

    fn print_group(&self, original: u64, screen: &Screen, out: &mut impl Write) -> Result<(), Failure> {
        let look = screen.look;
        let copies = &self.groups.groups[&original];
        let number = self.summary.number(original);
        writeln!(
            out,
            "\n  {}  {}",
            visible_name(self.id(original)),
            look.faint(&format!("document {}: {}", grouped(number), excerpt(self.text(original), WIDEST)))
        )?;
        for (copy, sort) in copies.iter().take(SHOWN_COPIES) {
            let told = match sort {
                CopySort::Exact => look.faint("the same words"),
                CopySort::Near => told_differences(self.text(original), self.text(*copy)),
            };
            writeln!(out, "    {}  {told}", visible_name(self.id(*copy)))?;
        }
        if copies.len() > SHOWN_COPIES {
            writeln!(
                out,
                "    {}",
                look.faint(&format!(
                    "and {}",
                    counted((copies.len() - SHOWN_COPIES) as u64, "more document")
                ))
            )?;
        }
        Ok(())
    }

    /// The steps that leave out what was found.
    fn steps(&self, most: usize) -> Result<String, Failure> {
        let mut proposals: Vec<Proposal> = self
            .passages
            .iter()
            .take(most.min(1_000))
            .map(|passage| Suggestion::of_passage(passage).proposal)
            .collect();
        if !self.groups.groups.is_empty() {
            proposals.push(Proposal::without_copies());
        }
        let accepted =
            accept("", &NoRecipes, &proposals).map_err(|why| Failure::Sentence(why.to_string()))?;
        Ok(accepted.text)
    }

    fn as_json(&self) -> serde_json::Value {
        let groups = self.groups.shown.iter().map(|original| {
            let copies: Vec<_> = self.groups.groups[original]
                .iter()
                .map(|(copy, sort)| json!({ "id": self.id(*copy), "same_words": *sort == CopySort::Exact }))
                .collect();
            json!({ "id": self.id(*original), "copies": copies })
        });
        let passages = self.passages.iter().map(|passage| {
            json!({ "text": passage.text, "count": passage.count, "documents": passage.documents, "is_lines": passage.is_lines })
        });
        json!({
            "documents": self.documents,
            "copies": self.groups.count(CopySort::Exact),
            "near_copies": self.groups.count(CopySort::Near),
            "groups": groups.collect::<Vec<_>>(),
            "passages": passages.collect::<Vec<_>>(),
            "steps": self.steps(usize::MAX).unwrap_or_default(),
        })
    }
}

/// Where a copy differs from its original, word by word.
fn told_differences(original: &str, copy: &str) -> String {
    let (ours, theirs): (Vec<&str>, Vec<&str>) =
        (original.split_whitespace().collect(), copy.split_whitespace().collect());
    let mut told: Vec<String> = Vec::new();
    let mut gone: Option<String> = None;
    for stretch in differences(&ours, &theirs) {
        match stretch {
            Stretch::Here(words) => {
                told.extend(gone.take());
                gone = Some(format!("[-{}-]", excerpt(&words.join(" "), WIDEST)));
            }
            Stretch::There(words) => {
                told.push(format!(
                    "{}{{+{}+}}",
                    gone.take().unwrap_or_default(),
                    excerpt(&words.join(" "), WIDEST)
                ));
            }
            Stretch::Same(_) => told.extend(gone.take()),
        }
    }
    told.extend(gone);
    let more = told.len().saturating_sub(SHOWN_DIFFERENCES);
    told.truncate(SHOWN_DIFFERENCES);
    let more = if more > 0 { format!(" and {more} more") } else { String::new() };
    match told.as_slice() {
        [] => "the same apart from spacing".to_owned(),
        told => format!("{}{more}", told.join(" … ")),
    }
}
