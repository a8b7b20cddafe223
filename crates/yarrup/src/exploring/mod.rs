//! The page of a run that one explores: what of the run it shows, within the size that it may have.

mod choosing;
mod taking;

use std::collections::BTreeMap;

use yarrup_core::step::Term;
use yarrup_core::study::GroupBy;
use yarrup_core::{Account, Effect};
use yarrup_io::{KeptOriginals, RunError, read_file_of};
use yarrup_report::{
    DocumentsNamed, Explored, ExplorerPage, Figure, ReportData, RunFacts, ShownDocument, explorer_html,
    grouped, step_rows, visible,
};

use crate::failure::Failure;
use crate::screen::Screen;
use crate::studied::Studied;

use choosing::Chosen;

/// The size of the page that a run draws, in bytes: a larger one would take longer than the run.
pub(crate) const SIZE_IN_RUN: u64 = 5_000_000;
/// What a page takes that shows nothing, in bytes.
const EMPTY_PAGE: u64 = 700_000;
/// How many bytes of text go into a page for each byte that the page may have, at first: packed, with their tokens and tables, they take more than they are.
const TEXT_OF_PAGE: f64 = 0.5;
/// How often a page is made that is too large, or much smaller than it may be, with fewer or more documents each time.
const TRIALS: usize = 4;
/// What part of the size that it may have a page has at least, if more documents can be shown; and what part is aimed at.
const FULL: f64 = 0.75;
const AIM: f64 = 0.92;
/// How many terms, and how many other forms, are shown of a run whose documents are not: in a page that is made sooner, and in others.
const QUICK_ROWS: usize = 20_000;
const MOST_ROWS: usize = 100_000;
/// How many documents are named that nothing is left of, or that a step left out.
const NAMED_DOCUMENTS: usize = 50;
/// How many sources are named.
const NAMED_SOURCES: usize = 12;

/// What is wished of a page.
pub(crate) struct Wish {
    /// The field whose values are compared.
    pub(crate) by: Option<GroupBy>,
    /// How many bytes it may have.
    pub(crate) size: u64,
    /// Whether it may be smaller than it could be, to be made sooner.
    pub(crate) quick: bool,
}

/// What a page is made from, beside the documents of the run.
pub(crate) struct Material<'a> {
    pub(crate) run: &'a Studied,
    pub(crate) account: &'a Account,
    pub(crate) effects: &'a [Effect],
    pub(crate) vocabulary: &'a [Term<'a>],
    /// Tokens, and distinct terms among the first so many.
    pub(crate) growth: &'a [(u64, u64)],
    /// Documents by their tokens, as found and in the end.
    pub(crate) lengths: &'a BTreeMap<u64, (u64, u64)>,
    pub(crate) recipe_text: &'a str,
    pub(crate) cloud: Option<&'a Figure>,
}

impl Material<'_> {
    /// The page, as HTML.
    pub(crate) fn html(&self, wish: &Wish, screen: &Screen) -> Result<String, Failure> {
        let steps = step_rows(self.effects);
        self.within_size(wish, screen, |data| {
            let page = ExplorerPage { data, steps: &steps, cloud: self.cloud };
            explorer_html(&page)
                .map_err(|why| Failure::File { path: "report.html".to_owned(), why: why.to_string() })
        })
    }

    /// What the page shows, as JSON.
    pub(crate) fn json(&self, wish: &Wish, screen: &Screen) -> Result<String, Failure> {
        self.within_size(wish, screen, |data| {
            data.json().map_err(|why| Failure::File { path: "--data".to_owned(), why: why.to_string() })
        })
    }

    /// What is made of the value, with as many documents as there is room for.
    fn within_size(
        &self,
        wish: &Wish,
        screen: &Screen,
        made: impl Fn(&ReportData<'_>) -> Result<String, Failure>,
    ) -> Result<String, Failure> {
        // What the page takes beside the scripts and styles that every page has.
        let own = |size: u64| size.saturating_sub(EMPTY_PAGE).max(1) as f64;
        let mut room = (own(wish.size) * TEXT_OF_PAGE) as u64;
        let (mut facts, chosen) = self.chosen(wish, screen)?;
        // The largest so far that is not too large.
        let (mut fitting, mut shown_before): (Option<String>, u64) = (None, 0);
        for trial in 1..=TRIALS {
            let documents = self.documents(chosen.as_ref(), room, &mut facts, screen);
            let page =
                made(&ReportData::of(&self.explored(wish, chosen.as_ref(), &facts, documents.as_deref())))?;
            let shown = documents.map_or(0, |documents| documents.len() as u64);
            let (size, is_last) = (page.len() as u64, trial == TRIALS || shown == 0);
            let part = own(size) / own(wish.size);
            if size <= wish.size {
                // Where no term lacks documents any more, there are no more of them.
                if is_last
                    || wish.quick
                    || part > FULL
                    || shown == self.documents_held()
                    || shown == shown_before
                {
                    return Ok(page);
                }
                shown_before = shown;
                fitting = Some(page);
            } else if is_last {
                return Ok(fitting.unwrap_or(page));
            }
            room = (room as f64 * AIM / part) as u64;
        }
        Ok(fitting.unwrap_or_default())
    }

    /// How many documents the run holds.
    fn documents_held(&self) -> u64 {
        self.account.totals.documents - self.account.totals.dropped
    }

    /// The documents that are shown in this room; none where that is not possible, and why is noted.
    fn documents(
        &self,
        chosen: Option<&Chosen>,
        room: u64,
        facts: &mut RunFacts,
        screen: &Screen,
    ) -> Option<Vec<ShownDocument>> {
        match chosen?.documents(self.run, self.account, room, screen) {
            Ok(Some(documents)) => return Some(documents),
            Ok(None) => facts.without_documents = Some(WITHOUT_ORIGINALS.to_owned()),
            // All else is in the account: a page without documents is better than none.
            Err(failure) => {
                screen.warn(&format!("{NOT_SHOWN}: {failure}"));
                facts.without_documents = Some(UNREADABLE_DOCUMENTS.to_owned());
            }
        }
        None
    }

    fn explored<'e>(
        &'e self,
        wish: &'e Wish,
        chosen: Option<&'e Chosen>,
        facts: &'e RunFacts,
        documents: Option<&'e [ShownDocument]>,
    ) -> Explored<'e> {
        let Material { account, effects, vocabulary, growth, lengths, .. } = *self;
        let groups = |by: &'e GroupBy| Some((by.path(), chosen?.table()?));
        Explored {
            account,
            effects,
            vocabulary,
            growth,
            lengths,
            groups: wish.by.as_ref().and_then(groups),
            facts,
            documents,
            most_rows: if wish.quick { QUICK_ROWS } else { MOST_ROWS },
        }
    }

    /// What is told of the run, and the documents to choose from; none where the run holds none.
    fn chosen(&self, wish: &Wish, screen: &Screen) -> Result<(RunFacts, Option<Chosen>), Failure> {
        let record = &self.run.record;
        // Where no documents can be shown, there is nothing to choose.
        let shows_none = wish.by.is_none() && record.reading.originals == Some(KeptOriginals::LeftOut);
        let read = match shows_none {
            true => Ok(None),
            false => Chosen::of(self.run, self.vocabulary, wish, screen).map(Some),
        };
        let (chosen, without_documents) = match read {
            Ok(None) => (None, Some(WITHOUT_ORIGINALS)),
            Ok(chosen) => (chosen, None),
            Err(failure) if wish.by.is_some() => return Err(failure),
            Err(Failure::Run(RunError::NoDocuments { .. })) => (None, Some(WITHOUT_DOCUMENTS)),
            Err(failure) => {
                screen.warn(&format!("{NOT_SHOWN}: {failure}"));
                (None, Some(UNREADABLE_DOCUMENTS))
            }
        };
        let files: Vec<_> = record.sources.iter().filter(|source| !source.is_wrapping()).collect();
        let mut sources: Vec<_> =
            files.iter().take(NAMED_SOURCES).map(|source| visible(&source.name)).collect();
        if files.len() > sources.len() {
            sources.push(format!("and {} more", grouped((files.len() - sources.len()) as u64)));
        }
        let emptied = match &chosen {
            Some(chosen) => chosen.emptied().to_vec(),
            None if shows_none && record.totals.documents_emptied > 0 => choosing::emptied(self.run, screen)
                .unwrap_or_else(|failure| {
                    screen.warn(&format!("the page names no documents that are left empty: {failure}"));
                    Vec::new()
                }),
            None => Vec::new(),
        };
        let facts = RunFacts {
            yarrup: record.yarrup.clone(),
            recipe_text: self.recipe_text.to_owned(),
            sources,
            warnings: record.warnings.clone(),
            emptied: DocumentsNamed { documents: record.totals.documents_emptied, ids: emptied },
            left_out: self.left_out()?,
            without_documents: without_documents.map(str::to_owned),
        };
        Ok((facts, chosen))
    }

    /// The documents that steps left out, with the ids of the first of them.
    fn left_out(&self) -> Result<Vec<(usize, String, DocumentsNamed)>, Failure> {
        let (run, account) = (self.run, self.account);
        let mut left_out: Vec<(usize, String, DocumentsNamed)> = account
            .documents_left_out()
            .into_iter()
            .map(|(step, reason, documents)| {
                (step, reason.to_owned(), DocumentsNamed { documents, ids: Vec::new() })
            })
            .collect();
        if left_out.is_empty() || !run.record.files.contains_key(DROPPED_DOCUMENTS) {
            return Ok(left_out);
        }
        let table = read_file_of(&run.path, &run.record, DROPPED_DOCUMENTS)?;
        let damaged = |why: csv::Error| Failure::File {
            path: run.path.join(DROPPED_DOCUMENTS).display().to_string(),
            why: why.to_string(),
        };
        for row in yarrup_io::dropped_documents(&table) {
            let (id, step, reason) = row.map_err(damaged)?;
            let of = left_out.iter_mut().find(|(known, why, named)| {
                (*known, why.as_str()) == (step, reason.as_str()) && named.ids.len() < NAMED_DOCUMENTS
            });
            if let Some((.., named)) = of {
                named.ids.push(id);
            }
        }
        Ok(left_out)
    }
}

/// The table of documents that a step left out.
const DROPPED_DOCUMENTS: &str = "dropped-documents.csv";
/// Why a page shows no documents.
const WITHOUT_DOCUMENTS: &str = "The run was made without its documents, so this page has none.";
const NOT_SHOWN: &str = "the page shows no documents, for they cannot be read";
const UNREADABLE_DOCUMENTS: &str = "The documents could not be read when this page was made, so it has none; `yarrup report` makes it again.";
const WITHOUT_ORIGINALS: &str =
    "The run was made without the original texts, so this page cannot show what became of each token.";
