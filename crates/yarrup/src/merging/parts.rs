//! The runs that are to be put together, and whether they belong together.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use yarrup_core::Relation;
use yarrup_io::{
    Collection, Part, Pick, RECIPE_FILE, ReadingRecord, RunPart, SourceRecord, read_collection, read_file_of,
    read_originals,
};
use yarrup_report::visible;

use crate::arguments::TokenFormat;
use crate::failure::Failure;
use crate::learning::complete;
use crate::reading::TOLD_NOTES;
use crate::recipe_file::{Compiled, compile_text};

/// Runs that are to be put together, in the order of their collection.
pub(crate) struct Parts {
    /// One at least.
    pub(crate) parts: Vec<RunPart>,
    relation: Relation,
}

impl Parts {
    /// Opens runs and refuses those that are not of one recipe, or no parts of one collection.
    pub(crate) fn open(named: &[PathBuf]) -> Result<Parts, Failure> {
        let mut parts =
            named.iter().map(|named| Ok(RunPart::open(named)?)).collect::<Result<Vec<_>, Failure>>()?;
        let Some(first) = parts.first() else {
            return Err(Failure::Sentence("there is nothing to put together".to_owned()));
        };
        for other in &parts[1..] {
            of_one_recipe(first, other)?;
        }
        let relation = if parts.iter().any(|part| part.record.reading.part.is_some()) {
            parts.sort_by_key(|part| part.record.reading.part);
            let numbers: Vec<Option<Part>> = parts.iter().map(|part| part.record.reading.part).collect();
            complete(&numbers).map_err(|why| {
                Failure::Sentence(format!("these are not all parts of one collection: {why}"))
            })?;
            for other in &parts[1..] {
                if other.record.collection != parts[0].record.collection {
                    let why = "they are of different collections, or were read with other options";
                    return Err(together(&parts[0], other, why));
                }
            }
            Relation::Parts
        } else {
            for part in &parts {
                of_all_documents(part)?;
            }
            Relation::Apart
        };
        Ok(Parts { parts, relation })
    }

    /// How their collections belong together.
    pub(crate) fn relation(&self) -> Relation {
        self.relation
    }

    pub(crate) fn first(&self) -> &RunPart {
        &self.parts[0]
    }

    /// Whether they are of one collection.
    pub(crate) fn are_of_one(&self) -> bool {
        self.relation == Relation::Parts
    }

    /// Those of which sources and what is told of them add up.
    fn apart(&self) -> &[RunPart] {
        if self.are_of_one() { &self.parts[..1] } else { &self.parts }
    }

    pub(crate) fn has_documents(&self) -> bool {
        self.first().record.documents_file().is_some()
    }

    /// The recipe, as it was given and with all that was learned.
    pub(crate) fn compiled(&self) -> Result<Compiled, Failure> {
        let part = self.first();
        let text = |name: &str| -> Result<String, Failure> {
            let bytes = read_file_of(part.folder(), &part.record, name)?;
            String::from_utf8(bytes).map_err(|_| Failure::File {
                path: part.named().join(name).display().to_string(),
                why: "is not UTF-8".to_owned(),
            })
        };
        let frozen = part.record.frozen_recipe();
        let path = part.folder().join(frozen).display().to_string();
        compile_text(&path, text(RECIPE_FILE)?, text(frozen)?)
    }

    /// The copies of what the recipe names, as they stand in the run.
    pub(crate) fn inputs(&self) -> Result<Vec<(String, Vec<u8>)>, Failure> {
        let part = self.first();
        let names = part.record.files.keys().filter(|name| name.starts_with("inputs/"));
        names.map(|name| Ok((name.clone(), read_file_of(part.folder(), &part.record, name)?))).collect()
    }

    /// The sources of all.
    pub(crate) fn sources(&self) -> Vec<SourceRecord> {
        self.apart().iter().flat_map(|part| part.record.sources.clone()).collect()
    }

    /// What was said of the sources.
    pub(crate) fn collection(&self) -> Result<Collection, Failure> {
        let read = |part: &RunPart| {
            read_collection(&part.record.collection, Path::new(""))
                .map(|mut collection| {
                    collection.sources.iter_mut().for_each(|source| source.base = None);
                    collection
                })
                .map_err(|_| unreadable(part, "run.json"))
        };
        joined(self.apart().iter().map(read))
    }

    /// Where the original texts are that the documents refer to.
    pub(crate) fn originals(&self) -> Result<Collection, Failure> {
        joined(self.apart().iter().map(|part| {
            let originals = read_originals(part.folder(), &part.record)?;
            let collection = originals.and_then(|originals| {
                let folder = part.folder().canonicalize().ok()?;
                read_collection(&originals.collection, &folder).ok()
            });
            collection.ok_or_else(|| unreadable(part, "originals.json"))
        }))
    }

    /// How the sources were read.
    pub(crate) fn reading(&self) -> ReadingRecord {
        let mut sum = ReadingRecord { part: None, ..self.first().record.reading.clone() };
        for part in &self.apart()[1..] {
            let reading = &part.record.reading;
            sum.likely_bytes += reading.likely_bytes;
            sum.stays &= reading.stays;
            sum.notes.extend(reading.notes.iter().cloned());
            sum.more_notes += reading.more_notes;
        }
        let more = sum.notes.len().saturating_sub(TOLD_NOTES);
        sum.notes.truncate(TOLD_NOTES);
        sum.more_notes += more as u64;
        sum
    }

    /// The format of the tables of tokens, if all have one.
    pub(crate) fn tokens(&self) -> Result<Option<TokenFormat>, Failure> {
        let files = [("tokens.csv", TokenFormat::Csv), ("tokens.jsonl", TokenFormat::Jsonl)];
        let has = |name: &str| self.parts.iter().filter(|part| part.record.files.contains_key(name)).count();
        if has("tokens.parquet") > 0 {
            return Err(Failure::Sentence(
                "tables of tokens in Parquet cannot be put together: leave --tokens out of the parts, and write the table of the whole by `yarrup \
                 export RUN --what tokens`"
                    .to_owned(),
            ));
        }
        match files.into_iter().find(|(name, _)| has(name) > 0) {
            None => Ok(None),
            Some((name, format)) if has(name) == self.parts.len() => Ok(Some(format)),
            Some((name, _)) => Err(Failure::Sentence(format!("only some of the runs have {name}"))),
        }
    }
}

fn unreadable(part: &RunPart, file: &str) -> Failure {
    Failure::File {
        path: part.named().join(file).display().to_string(),
        why: "what it says of the sources cannot be read".to_owned(),
    }
}

/// One collection of the sources of all.
fn joined(collections: impl Iterator<Item = Result<Collection, Failure>>) -> Result<Collection, Failure> {
    let mut sum: Option<Collection> = None;
    for collection in collections {
        let collection = collection?;
        match &mut sum {
            None => sum = Some(collection),
            Some(sum) => {
                // As a run over all of them: it is named by no collection file.
                (sum.name, sum.about) = (None, None);
                sum.sources.extend(collection.sources);
            }
        }
    }
    Ok(sum.unwrap_or_default())
}

/// Refuses runs that are not of one recipe.
fn of_one_recipe(first: &RunPart, other: &RunPart) -> Result<(), Failure> {
    let (ours, theirs) = (&first.record, &other.record);
    let lists = |part: &RunPart| -> BTreeMap<String, String> {
        part.record.word_lists.iter().map(|list| (list.name.clone(), list.hash.clone())).collect()
    };
    let (our_lists, their_lists) = (lists(first), lists(other));
    let another = their_lists.iter().find(|(name, hash)| our_lists.get(*name) != Some(hash));
    let another = another.or_else(|| our_lists.iter().find(|(name, _)| !their_lists.contains_key(*name)));
    let why = if ours.yarrup != theirs.yarrup {
        format!("they were made by versions {} and {} of yarrup", ours.yarrup, theirs.yarrup)
    } else if ours.recipe_hash != theirs.recipe_hash {
        "they are of different recipes".to_owned()
    } else if let Some((name, _)) = another {
        format!("`{}`, which the recipe names, was not the same for both", visible(name))
    } else if ours.reading.originals != theirs.reading.originals {
        "one has documents or original texts that the other has not; make both with the same --with-originals, --without-originals, or --write"
            .to_owned()
    } else {
        return Ok(());
    };
    Err(together(first, other, &why))
}

fn together(first: &RunPart, other: &RunPart, why: &str) -> Failure {
    let (first, other) = (first.named().display(), other.named().display());
    Failure::Sentence(format!("{first} and {other} do not go together: {why}"))
}

/// Refuses a run over a choice of the documents, which is no part of a run over all of them.
fn of_all_documents(part: &RunPart) -> Result<(), Failure> {
    let collection =
        read_collection(&part.record.collection, Path::new("")).map_err(|_| unreadable(part, "run.json"))?;
    if collection.pick != Pick::All {
        return Err(Failure::Sentence(format!(
            "{}: is a run over a choice of the documents (--first or --sample), which does not add up with others; --part K/N makes parts of one choice",
            part.named().display()
        )));
    }
    Ok(())
}
