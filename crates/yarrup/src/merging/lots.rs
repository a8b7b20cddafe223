//! The batches of all parts in the order of the collection, gathered to lots as a run gathers them.

use std::io::{BufRead, BufReader, Read};
use std::path::PathBuf;

use yarrup_io::{BatchCourse, BatchDone, CourseReader, FileOfRun, RunPart};

use super::Parts;
use crate::arguments::TokenFormat;
use crate::failure::Failure;
use crate::running::{Applied, PACKED_LOT};

/// The lots of all parts.
pub(crate) struct Lots {
    parts: Vec<Reading>,
    /// Whether the parts are of one collection; else each comes behind the one before.
    are_of_one: bool,
    /// Which part is read, where each comes behind the one before.
    now: usize,
    /// How many batches there were.
    batches: u64,
    /// How many batches there were in the parts before.
    before: u64,
    /// Whether the lines of documents are written, and packed.
    packs: Option<bool>,
}

/// A part that is being read.
struct Reading {
    named: PathBuf,
    course: CourseReader<FileOfRun>,
    documents: Option<Box<dyn Read + Send>>,
    tokens: Option<BufReader<FileOfRun>>,
    next: Option<BatchCourse>,
}

impl Reading {
    fn of(part: &RunPart, writes_documents: bool, tokens: Option<TokenFormat>) -> Result<Reading, Failure> {
        let tokens = match tokens {
            Some(TokenFormat::Csv) => Some(("tokens.csv", true)),
            Some(TokenFormat::Jsonl) => Some(("tokens.jsonl", false)),
            Some(TokenFormat::Parquet) | None => None,
        };
        let mut reading = Reading {
            named: part.named().to_owned(),
            course: part.course()?,
            documents: if writes_documents { part.documents()? } else { None },
            tokens: tokens.map(|(name, _)| part.file(name).map(BufReader::new)).transpose()?,
            next: None,
        };
        if let (Some(rows), Some((_, true))) = (&mut reading.tokens, tokens) {
            let mut head = String::new();
            rows.read_line(&mut head).map_err(|why| damaged(&reading.named, &why))?;
        }
        reading.advance()?;
        Ok(reading)
    }

    fn advance(&mut self) -> Result<(), Failure> {
        self.next = self.course.next_batch().map_err(|why| damaged(&self.named, &why))?;
        if self.next.is_none() {
            self.confirm().map_err(|why| damaged(&self.named, &why))?;
        }
        Ok(())
    }

    /// Makes sure that nothing is left of its files, which compares them with what the run wrote.
    fn confirm(&mut self) -> std::io::Result<()> {
        let mut left = Vec::new();
        let documents =
            self.documents.as_mut().map_or(Ok(0), |documents| documents.read_to_end(&mut left))?;
        let tokens = self.tokens.as_mut().map_or(Ok(0), |tokens| tokens.read_to_end(&mut left))?;
        match documents + tokens {
            0 => Ok(()),
            _ => Err(std::io::Error::other("it holds more than its course tells of; make the run again")),
        }
    }
}

fn damaged(named: &std::path::Path, why: &std::io::Error) -> Failure {
    Failure::File { path: named.display().to_string(), why: format!("the run cannot be read: {why}") }
}

impl Lots {
    /// Begins with the first lot. `packs` says whether documents are packed; none if they are not written.
    pub(crate) fn of(
        parts: &Parts,
        packs: Option<bool>,
        tokens: Option<TokenFormat>,
    ) -> Result<Lots, Failure> {
        let readings = parts.parts.iter().map(|part| Reading::of(part, packs.is_some(), tokens));
        Ok(Lots {
            parts: readings.collect::<Result<_, _>>()?,
            are_of_one: parts.are_of_one(),
            now: 0,
            batches: 0,
            before: 0,
            packs,
        })
    }

    /// The part that has the next batch.
    fn turn(&mut self) -> Result<Option<usize>, Failure> {
        if self.are_of_one {
            let waiting = self.parts.iter().enumerate();
            let waiting = waiting.filter_map(|(place, part)| Some((part.next.as_ref()?.number(), place)));
            let Some((number, place)) = waiting.min() else { return Ok(None) };
            // Parts that were read of collections of different lengths, or with other lots.
            if number != self.batches {
                return Err(Failure::Sentence(format!(
                    "the parts were not made alike: batch {} of the collection is in none of them or in two; make them with the same options",
                    self.batches + 1
                )));
            }
            return Ok(Some(place));
        }
        while self.now < self.parts.len() && self.parts[self.now].next.is_none() {
            self.now += 1;
            self.before = self.batches;
        }
        Ok((self.now < self.parts.len()).then_some(self.now))
    }

    fn lot(&mut self) -> Result<Option<(Vec<BatchDone>, Applied)>, Failure> {
        let least = if self.packs == Some(true) { PACKED_LOT as u64 } else { 0 };
        let (mut lot, mut applied, mut bytes) = (Vec::new(), Applied::default(), 0);
        while let Some(place) = self.turn()? {
            let before = self.before;
            let part = &mut self.parts[place];
            let Some(batch) = part.next.take() else { break };
            let BatchCourse { done, notes } = batch.behind(before);
            bytes += done.bytes;
            if let Some(documents) = &mut part.documents {
                applied
                    .lines
                    .add_from(documents, notes.document_bytes)
                    .map_err(|why| damaged(&part.named, &why))?;
            }
            if let Some(tokens) = &mut part.tokens {
                let mut rows = Vec::new();
                let read = tokens.by_ref().take(notes.token_bytes).read_to_end(&mut rows);
                read.map_err(|why| damaged(&part.named, &why))?;
                applied.tokens.take_lines(rows);
            }
            lot.push(done);
            applied.batches.push(notes);
            part.advance()?;
            self.batches += 1;
            if bytes >= least {
                break;
            }
        }
        if self.packs == Some(true) {
            applied.pack();
        }
        Ok((!lot.is_empty()).then_some((lot, applied)))
    }
}

impl Iterator for Lots {
    type Item = Result<(Vec<BatchDone>, Applied), Failure>;

    fn next(&mut self) -> Option<Self::Item> {
        self.lot().transpose()
    }
}
