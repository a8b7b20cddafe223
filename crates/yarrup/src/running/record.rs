//! The record of a run: what went in, what came out, what deserves a look.

use std::collections::BTreeMap;

use yarrup_core::step::Term;
use yarrup_core::{Effect, Origin};
use yarrup_io::{
    Input, RunRecord, Source, SourceRecord, StepEffect, Summary, TotalsRecord, write_collection,
};
use yarrup_report::{counted, grouped, visible_name};

use super::Whole;
use crate::reading::{broken, told_notes};
use crate::recipe_file::Compiled;

impl Whole<'_> {
    /// The record, with what is told of letters that figures lack.
    pub(super) fn record(
        &self,
        (effects, vocabulary): (&[Effect], &[Term<'_>]),
        missing_letters: Option<String>,
    ) -> RunRecord {
        let compiled = self.compiled;
        RunRecord {
            yarrup: env!("CARGO_PKG_VERSION").to_owned(),
            layout: 0,
            recipe: compiled.recipe.name.clone(),
            recipe_hash: yarrup_io::hash(compiled.text.as_bytes()),
            language: compiled.recipe.language.clone(),
            sources: self.sources.to_vec(),
            word_lists: self.word_lists.clone(),
            collection: write_collection(self.collection),
            reading: self.reading.clone(),
            totals: self.totals(vocabulary.len() as u64),
            steps: effects.iter().map(StepEffect::from).collect(),
            against: self.against.cloned(),
            warnings: self.warnings(missing_letters),
            files: BTreeMap::new(),
        }
    }

    fn totals(&self, terms: u64) -> TotalsRecord {
        let (totals, summary) = (self.account.totals, self.summary);
        TotalsRecord {
            documents: totals.documents,
            documents_empty_as_found: totals.empty,
            documents_emptied: totals.emptied,
            documents_left_out: summary.left_out,
            documents_dropped: totals.dropped,
            documents_with_repeated_ids: summary.repeated_ids(),
            records_skipped: summary.skipped_records,
            files_unreadable: summary.skipped_files,
            broken_bytes: summary.broken_bytes,
            documents_with_broken_bytes: summary.broken_documents,
            characters: totals.characters,
            tokens_found: totals.tokens_found,
            types_found: self.account.types_found(),
            tokens_kept: totals.tokens_kept,
            terms,
            forms: self.account.form_count() as u64,
        }
    }

    fn warnings(&self, missing_letters: Option<String>) -> Vec<String> {
        let (totals, summary) = (self.account.totals, self.summary);
        let mut warnings = Vec::new();
        let mut warn = |count: u64, what: String| {
            if count > 0 {
                warnings.push(what);
            }
        };
        let (skipped, unreadable) = (summary.skipped_records, summary.skipped_files);
        let records = match skipped {
            1 => "1 unreadable record or page".to_owned(),
            _ => format!("{} unreadable records or pages", grouped(skipped)),
        };
        warn(skipped, format!("{records} skipped: see skipped.csv"));
        warn(unreadable, format!("{} not read whole: see skipped.csv", counted(unreadable, "file")));
        warn(summary.repeated_ids(), repeated_ids(summary));
        let replaced = self.sources.iter().map(|file| file.replaced).sum();
        warn(
            replaced,
            format!(
                "{} of the text not valid in its encoding and replaced by U+FFFD",
                counted(replaced, "place")
            ),
        );
        warn(summary.broken_bytes, broken(summary));
        for note in told_notes(self.reading) {
            warn(1, note);
        }
        let (overgrown, first) = &self.noted.overgrown;
        warn(
            *overgrown,
            format!(
                "of {} a step makes more than 32 times as much text, and nothing of the cleaned text is kept: see skipped.csv; the first is {first}",
                counted(*overgrown, "document")
            ),
        );
        let titles = self.collection.sources.iter().find_map(|source| source.selection.title.as_deref());
        if let Some(title) = titles.filter(|_| !summary.titled && totals.documents > 0) {
            warn(1, format!("no document has the field `{title}` that was chosen for the title"));
        }
        let is_all_dropped = totals.documents > 0 && totals.dropped == totals.documents;
        warn(u64::from(is_all_dropped), "the recipe left every document out".to_owned());
        warn(u64::from(missing_letters.is_some()), missing_letters.unwrap_or_default());
        let mut named: Vec<String> =
            self.noted.emptied.iter().map(|id| format!("`{}`", visible_name(id))).collect();
        if totals.emptied > named.len() as u64 {
            named.push("…".to_owned());
        }
        warn(
            totals.emptied,
            format!(
                "{} left without any token: {}; `yarrup find RUN --emptied` lists them",
                counted(totals.emptied, "document"),
                named.join(", ")
            ),
        );
        warnings
    }
}

/// What is told of ids that several documents have.
fn repeated_ids(summary: &Summary) -> String {
    let have = match summary.repeated_ids() {
        1 => "1 document has".to_owned(),
        count => format!("{} documents have", grouped(count)),
    };
    format!(
        "{have} an id that an earlier one has, the first of them `{}`: an id should name one document; choose another with --id",
        summary.first_repeated_id().unwrap_or_default()
    )
}

/// The files that were read, as a record names them.
pub(crate) fn sources_record(source: &Source) -> Vec<SourceRecord> {
    let record = |file: &yarrup_io::ReadFile| SourceRecord {
        name: file.name.clone(),
        format: file.format.name().to_owned(),
        encoding: file.encoding.map(str::to_owned),
        bytes: file.bytes,
        hash: file.hash.clone(),
        whole: file.whole,
        inside: file.inside,
        replaced: file.replaced,
    };
    source.read_files().iter().map(record).collect()
}

/// The files that a recipe names, as a record names them.
pub(crate) fn word_lists(inputs: &[Input]) -> Vec<SourceRecord> {
    let record = |input: &Input| SourceRecord {
        name: input.name.clone(),
        format: "words".to_owned(),
        encoding: None,
        bytes: input.content.len() as u64,
        hash: yarrup_io::hash(&input.content),
        whole: true,
        inside: false,
        replaced: 0,
    };
    inputs.iter().map(record).collect()
}

/// Of what an account is.
pub(crate) fn origin(compiled: &Compiled, source: &Source) -> Origin {
    let files = source.read_files().iter().map(|file| (file.name.clone(), file.hash.clone()));
    let mut sources: Vec<_> = files.collect();
    sources.sort();
    Origin {
        name: compiled.name(),
        about: compiled.recipe.about.clone().unwrap_or_default(),
        recipe: yarrup_io::hash(compiled.frozen.as_bytes()),
        sources,
    }
}
