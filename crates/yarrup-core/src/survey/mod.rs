//! What a collection is like before any step touched it: lengths, duplicates, languages, scripts, dirt.

mod dirt;
mod lengths;
mod lines;
mod near;
mod passages;
mod separators;
mod sketch;

use std::collections::HashMap;

use foldhash::fast::FixedState;
use unicode_script::{Script, UnicodeScript as _};

pub use dirt::{Dirt, DirtFound};
pub use lengths::Lengths;
pub use lines::RepeatedLine;
pub use passages::{Passage, Passages};
pub use separators::SeparatorFound;
pub use sketch::Distinct;

use crate::language::{Language, tell};
use crate::span::Span;
use crate::split::{Splitter as _, Words};
use crate::unicode;
use dirt::DirtCount;
use lines::RepeatedLines;
use near::NearDuplicates;
use separators::Separators;

/// Where a document stands among all of them: a larger number comes later. Numbers need not follow each other closely.
pub type Order = u64;

/// How closely to look at a document. Each depth takes several times as long as that before it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Depth {
    /// At its length, and whether another has the same text.
    Length,
    /// At its scripts, its dirt and its lines as well, and whether another is nearly the same.
    Close,
    /// At its language as well.
    Language,
}

/// A document that was found to be something.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Place {
    /// Where it stands.
    pub order: Order,
    /// Its id.
    pub id: String,
}

/// Looks at documents. Several of them add up to one, whichever documents each has seen.
pub struct Survey {
    lengths: LengthsOf,
    copies: HashMap<u64, Copies, FixedState>,
    close: CloseLook,
    spans: Vec<Span>,
    hasher: FixedState,
}

#[derive(Clone, Debug, Default)]
struct LengthsOf {
    words: Lengths,
    characters: Lengths,
    empty: u64,
    first_empty: Option<Place>,
    shortest: Option<(u64, Place)>,
    longest: Option<(u64, Place)>,
}

#[derive(Clone, Copy, Debug)]
struct Copies {
    count: u64,
    first: Order,
    second: Order,
}

/// What takes longer, and is done for a sample where there is much.
#[derive(Default)]
struct CloseLook {
    documents: u64,
    languages_of: u64,
    languages: HashMap<Language, u64>,
    language_unsure: u64,
    scripts: HashMap<Script, (u64, u64)>,
    dirt: [DirtCount; Dirt::ALL.len()],
    near: NearDuplicates,
    lines: RepeatedLines,
    separators: Separators,
}

/// What was found in a collection.
#[derive(Clone, Debug, Default)]
pub struct Findings {
    /// How many words documents have.
    pub words: Lengths,
    /// How many characters documents have.
    pub characters: Lengths,
    /// Documents without any word.
    pub empty: u64,
    /// The first of these.
    pub first_empty: Option<Place>,
    /// The document of the fewest words that has any, with its words.
    pub shortest: Option<(u64, Place)>,
    /// The document of the most words.
    pub longest: Option<(u64, Place)>,
    /// Documents whose text an earlier one has, to the letter.
    pub copies: u64,
    /// The first two documents of the most frequent text among these.
    pub copied: Option<(Order, Order)>,
    /// How many documents were looked at closely, which all that follows speaks of.
    pub looked_at: u64,
    /// How many of these were asked for their language.
    pub languages_looked_at: u64,
    /// Languages with their documents, most frequent first.
    pub languages: Vec<(Language, u64)>,
    /// Documents too short or too mixed for their language to be told.
    pub language_unsure: u64,
    /// Scripts by their names, with the letters and the documents that have any, most letters first.
    pub scripts: Vec<(&'static str, u64, u64)>,
    /// The dirt that was found, in the order of [`Dirt::ALL`].
    pub dirt: Vec<DirtFound>,
    /// Documents that are nearly the same as an earlier one, and not the same.
    pub near_copies: u64,
    /// The first two such documents.
    pub nearly_copied: Option<(Order, Order)>,
    /// Lines that stand in several documents, most frequent first.
    pub repeated_lines: Vec<RepeatedLine>,
    /// A line of signs that parts half of the documents or more.
    pub separator: Option<SeparatorFound>,
}

impl Default for Survey {
    fn default() -> Survey {
        Survey::new()
    }
}

impl Survey {
    /// A survey of no documents yet.
    pub fn new() -> Survey {
        Survey {
            lengths: LengthsOf::default(),
            // Not for keys that anyone could choose: hashes of texts, always the same.
            copies: HashMap::with_hasher(FixedState::default()),
            close: CloseLook::default(),
            spans: Vec::new(),
            hasher: FixedState::with_seed(0x5a17_4e2e),
        }
    }

    /// Looks at a document.
    pub fn document(&mut self, order: Order, id: &str, text: &str, depth: Depth) {
        let words = self.count_words(text);
        let characters = text.chars().count() as u64;
        self.lengths.note(order, id, words, characters);
        if words == 0 {
            return;
        }
        let hash = std::hash::BuildHasher::hash_one(&self.hasher, text);
        let copies =
            self.copies.entry(hash).or_insert(Copies { count: 0, first: Order::MAX, second: Order::MAX });
        copies.count += 1;
        copies.note(order);
        if depth >= Depth::Close {
            self.close.document(order, id, text, hash);
        }
        if depth >= Depth::Language {
            self.close.note_language(text);
        }
    }

    /// Tokens that begin with a letter or a digit.
    fn count_words(&mut self, text: &str) -> u64 {
        self.spans.clear();
        Words::default().split(text, &mut self.spans);
        let is_word = |span: &&Span| match text.as_bytes()[span.start as usize] {
            byte if byte.is_ascii() => byte.is_ascii_alphanumeric(),
            _ => span.of(text).chars().next().is_some_and(char::is_alphanumeric),
        };
        self.spans.iter().filter(is_word).count() as u64
    }

    /// Adds what another survey has seen.
    pub fn absorb(&mut self, other: Survey) {
        self.lengths.absorb(other.lengths);
        for (hash, theirs) in other.copies {
            let ours =
                self.copies.entry(hash).or_insert(Copies { count: 0, first: Order::MAX, second: Order::MAX });
            ours.count += theirs.count;
            ours.note(theirs.first);
            ours.note(theirs.second);
        }
        self.close.absorb(other.close);
    }

    /// What was found.
    pub fn finish(self) -> Findings {
        let copied = self.copies.values().filter(|copies| copies.count > 1);
        let copies = copied.clone().map(|copies| copies.count - 1).sum();
        let most = copied.max_by_key(|copies| (copies.count, std::cmp::Reverse(copies.first)));
        let (near_copies, nearly_copied) = self.close.near.finish();
        let mut languages: Vec<(Language, u64)> = self.close.languages.into_iter().collect();
        languages.sort_by_key(|(language, count)| (std::cmp::Reverse(*count), language.code));
        let mut scripts: Vec<_> = self
            .close
            .scripts
            .into_iter()
            .map(|(script, (letters, documents))| (script.full_name(), letters, documents))
            .collect();
        scripts.sort_by_key(|(name, letters, _)| (std::cmp::Reverse(*letters), *name));
        let dirt = Dirt::ALL
            .into_iter()
            .zip(self.close.dirt)
            .filter_map(|(dirt, count)| count.found(dirt))
            .collect();
        Findings {
            words: self.lengths.words,
            characters: self.lengths.characters,
            empty: self.lengths.empty,
            first_empty: self.lengths.first_empty,
            shortest: self.lengths.shortest,
            longest: self.lengths.longest,
            copies,
            copied: most.map(|copies| (copies.first, copies.second)),
            looked_at: self.close.documents,
            languages_looked_at: self.close.languages_of,
            languages,
            language_unsure: self.close.language_unsure,
            scripts,
            dirt,
            near_copies,
            nearly_copied,
            repeated_lines: self.close.lines.finish(self.close.documents),
            separator: self.close.separators.finish(self.close.documents),
        }
    }
}

impl Copies {
    /// Takes an order among the first two.
    fn note(&mut self, order: Order) {
        if order < self.first {
            self.second = self.first;
            self.first = order;
        } else if order < self.second && order != self.first {
            self.second = order;
        }
    }
}

/// Takes the earlier of two places.
fn earlier(ours: &mut Option<Place>, theirs: Option<Place>) {
    if let Some(theirs) = theirs
        && ours.as_ref().is_none_or(|ours| theirs.order < ours.order)
    {
        *ours = Some(theirs);
    }
}

impl LengthsOf {
    fn note(&mut self, order: Order, id: &str, words: u64, characters: u64) {
        self.words.note(words);
        self.characters.note(characters);
        let place = || Place { order, id: id.to_owned() };
        if words == 0 {
            self.empty += 1;
            if self.first_empty.as_ref().is_none_or(|first| order < first.order) {
                self.first_empty = Some(place());
            }
            return;
        }
        let before = |ours: &Option<(u64, Place)>, better: fn(u64, u64) -> bool| match ours {
            None => true,
            Some((known, at)) => better(words, *known) || (words == *known && order < at.order),
        };
        if before(&self.shortest, |new, known| new < known) {
            self.shortest = Some((words, place()));
        }
        if before(&self.longest, |new, known| new > known) {
            self.longest = Some((words, place()));
        }
    }

    fn absorb(&mut self, other: LengthsOf) {
        self.words.absorb(&other.words);
        self.characters.absorb(&other.characters);
        self.empty += other.empty;
        earlier(&mut self.first_empty, other.first_empty);
        let replaces = |ours: &Option<(u64, Place)>,
                        theirs: &Option<(u64, Place)>,
                        better: fn(u64, u64) -> bool| {
            match (ours, theirs) {
                (_, None) => false,
                (None, Some(_)) => true,
                (Some((known, at)), Some((new, other))) => {
                    better(*new, *known) || (new == known && other.order < at.order)
                }
            }
        };
        if replaces(&self.shortest, &other.shortest, |new, known| new < known) {
            self.shortest = other.shortest;
        }
        if replaces(&self.longest, &other.longest, |new, known| new > known) {
            self.longest = other.longest;
        }
    }
}

impl CloseLook {
    fn document(&mut self, order: Order, id: &str, text: &str, hash: u64) {
        self.documents += 1;
        self.note_scripts(text);
        dirt::find(text, |dirt, example| self.dirt[dirt as usize].note(order, id, example));
        for count in &mut self.dirt {
            count.end_document();
        }
        self.near.document(order, text, hash);
        self.lines.document(order, text);
        self.separators.document(text);
    }

    fn note_language(&mut self, text: &str) {
        self.languages_of += 1;
        match tell(text) {
            Some(language) => *self.languages.entry(language).or_default() += 1,
            None => self.language_unsure += 1,
        }
    }

    fn note_scripts(&mut self, text: &str) {
        // Nearly all of nearly every text is of one script, often in ASCII.
        let mut counts: [(Script, u64); 6] = [(Script::Common, 0); 6];
        let mut latin = 0;
        for c in text.chars() {
            if c.is_ascii() {
                latin += u64::from(c.is_ascii_alphabetic());
                continue;
            }
            if !unicode::is_letter(c) {
                continue;
            }
            let script = c.script();
            if matches!(script, Script::Common | Script::Inherited) {
                continue;
            }
            if script == Script::Latin {
                latin += 1;
            } else if let Some(count) =
                counts.iter_mut().find(|(known, count)| *known == script || *count == 0)
            {
                *count = (script, count.1 + 1);
            }
        }
        for (script, letters) in
            counts.into_iter().chain([(Script::Latin, latin)]).filter(|(_, letters)| *letters > 0)
        {
            let ours = self.scripts.entry(script).or_default();
            ours.0 += letters;
            ours.1 += 1;
        }
    }

    fn absorb(&mut self, other: CloseLook) {
        self.documents += other.documents;
        self.languages_of += other.languages_of;
        for (language, count) in other.languages {
            *self.languages.entry(language).or_default() += count;
        }
        self.language_unsure += other.language_unsure;
        for (script, (letters, documents)) in other.scripts {
            let ours = self.scripts.entry(script).or_default();
            ours.0 += letters;
            ours.1 += documents;
        }
        for (ours, theirs) in self.dirt.iter_mut().zip(other.dirt) {
            ours.absorb(theirs);
        }
        self.near.absorb(other.near);
        self.lines.absorb(other.lines);
        self.separators.absorb(other.separators);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn survey(texts: &[&str], halves: usize) -> Findings {
        let mut all = Survey::new();
        for half in 0..halves {
            let mut part = Survey::new();
            for (index, text) in texts.iter().enumerate().filter(|(index, _)| index % halves == half) {
                part.document(index as Order, &format!("d{index}"), text, Depth::Language);
            }
            all.absorb(part);
        }
        all.finish()
    }

    const TEXTS: [&str; 8] = [
        "The terns came back to the spit this morning, and they have been screaming ever since.",
        "Die Möwen sind heute früh zurückgekommen und schreien seitdem ohne Pause über der Bucht.",
        "",
        "tern",
        "The terns came back to the spit this morning, and they have been screaming ever since.",
        "Les sternes sont revenues ce matin sur la plage et elles crient depuis sans arrêt.",
        "Сегодня утром на косу вернулись первые птицы, и это было самое красивое, что мы видели в этом году. Они что-то искали и очень шумели.",
        "The terns came back to the spit this morning, and they have been screaming ever after.",
    ];

    #[test]
    fn a_collection_is_described() {
        let found = survey(&TEXTS, 1);
        assert_eq!((found.words.documents(), found.empty, found.copies, found.near_copies), (8, 1, 1, 1));
        assert_eq!(found.copied, Some((0, 4)));
        assert_eq!(found.nearly_copied, Some((0, 7)));
        assert_eq!(found.shortest.map(|(words, at)| (words, at.id)), Some((1, "d3".into())));
        assert_eq!(found.first_empty.map(|at| at.id), Some("d2".into()));
        let languages: Vec<_> =
            found.languages.iter().map(|(language, count)| (language.code, *count)).collect();
        assert_eq!(languages, [("en", 3), ("de", 1), ("fr", 1), ("ru", 1)]);
        assert_eq!(found.language_unsure, 1);
        let scripts: Vec<_> = found.scripts.iter().map(|(name, _, documents)| (*name, *documents)).collect();
        assert_eq!(scripts, [("Latin", 6), ("Cyrillic", 1)]);
    }

    #[test]
    fn parts_add_up_to_the_whole() {
        let whole = format!("{:?}", survey(&TEXTS, 1));
        assert_eq!(format!("{:?}", survey(&TEXTS, 2)), whole);
        assert_eq!(format!("{:?}", survey(&TEXTS, 3)), whole);
    }
}
