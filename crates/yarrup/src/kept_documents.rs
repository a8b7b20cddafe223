//! Documents that are kept in memory, to be taken through a recipe again and again.

use std::borrow::Cow;
use std::collections::BTreeMap;
use std::sync::OnceLock;

use yarrup_core::step::Document;
use yarrup_core::{Fields, in_order, language_of};
use yarrup_io::{Collection, Numbered, Pass, Policy, Source};

use crate::failure::Failure;
use crate::reading::{SMALL, no_document, read_all, tell_losses, threads};
use crate::screen::Screen;

/// Documents in memory, in the order in which they were read.
pub(crate) struct KeptDocuments {
    documents: Vec<KeptDocument>,
    languages: OnceLock<BTreeMap<&'static str, u64>>,
}

struct KeptDocument {
    order: u64,
    text: String,
    fields: Vec<(String, String)>,
}

impl Fields for KeptDocument {
    fn field(&self, path: &str) -> Option<Cow<'_, str>> {
        self.fields.iter().find(|(name, _)| name == path).map(|(_, value)| Cow::Borrowed(value.as_str()))
    }
}

/// How many documents a thread takes at a time.
const LOT: usize = 64;

impl KeptDocuments {
    /// Reads all documents of a collection.
    pub(crate) fn read(
        collection: &Collection,
        policy: Policy,
        screen: &Screen,
    ) -> Result<KeptDocuments, Failure> {
        let mut source = Source::open(collection)?;
        let reading = read_all(&mut source, policy, &Keeping, screen)?;
        if let Some(failure) = no_document(&reading.summary, &source) {
            return Err(failure);
        }
        tell_losses(&reading.summary, screen);
        let mut kept: Vec<KeptDocument> = reading.states.into_iter().flatten().collect();
        kept.sort_by_key(|document| document.order);
        let documents = KeptDocuments { documents: kept, languages: OnceLock::new() };
        documents.languages();
        Ok(documents)
    }

    /// How many documents are in which language: of a large collection one of sixteen is asked.
    pub(crate) fn languages(&self) -> BTreeMap<&'static str, u64> {
        let asked = || {
            let few = self.bytes() < SMALL;
            let states = self.each(threads(None), BTreeMap::new, |languages, document| {
                if (few || document.text.len().is_multiple_of(16))
                    && let Some(language) = language_of(document.text)
                {
                    *languages.entry(language).or_insert(0) += 1;
                }
            });
            states.into_iter().fold(BTreeMap::new(), |mut sum, state| {
                state.into_iter().for_each(|(language, count)| *sum.entry(language).or_insert(0) += count);
                sum
            })
        };
        self.languages.get_or_init(asked).clone()
    }

    /// How many bytes of text they have.
    pub(crate) fn bytes(&self) -> u64 {
        self.documents.iter().map(|document| document.text.len() as u64).sum()
    }

    /// How many there are.
    pub(crate) fn count(&self) -> u64 {
        self.documents.len() as u64
    }

    /// Takes all of them through `work` on some threads, each with a state of its own. Returns the states.
    pub(crate) fn each<S: Send>(
        &self,
        threads: usize,
        state: impl Fn() -> S + Sync,
        work: impl Fn(&mut S, &Document<'_>) + Sync,
    ) -> Vec<S> {
        let mut lots = self.documents.chunks(LOT);
        let done = in_order(
            threads,
            || Ok::<_, std::convert::Infallible>(lots.next()),
            state,
            |state, lot| {
                for document in lot {
                    work(state, &Document { text: &document.text, fields: document, order: document.order });
                }
                Ok(())
            },
            |()| Ok(()),
        );
        match done {
            Ok(states) => states,
            Err(never) => match never {},
        }
    }
}

/// The pass that keeps documents.
struct Keeping;

impl Pass for Keeping {
    type State = Vec<KeptDocument>;
    type Left = ();

    fn state(&self) -> Self::State {
        Vec::new()
    }

    fn document(&self, kept: &mut Self::State, document: &Numbered<'_>, (): &mut ()) {
        let record = &document.record;
        let mut fields = Vec::new();
        record.each_value(|path, _| {
            // The text itself is kept already.
            let value = record.field(path).filter(|value| **value != *record.text);
            fields.extend(value.map(|value| (path.to_owned(), value.into_owned())));
        });
        kept.push(KeptDocument { order: document.order, text: record.text.to_string(), fields });
    }
}
