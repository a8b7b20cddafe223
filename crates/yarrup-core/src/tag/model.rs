//! A learned model: how much each feature speaks for each tag, and what was learned of lemmas. One file, with its version and a check.

use std::sync::OnceLock;

use hashbrown::HashMap;

use crate::part_of_speech::Tag;
use crate::tag::form::Asked;
use crate::tag::word_classes::ClassTable;

type Map<K, V> = HashMap<K, V, foldhash::fast::RandomState>;

/// A model as learned or loaded. Immutable.
#[derive(Debug)]
pub struct Model {
    /// What it was learned from and for, in one line.
    pub about: String,
    /// The language, such as `en`.
    pub language: String,
    pub(super) asked: Asked,
    weights: Weights,
    /// The words that are features by themselves, by their numbers.
    pub(super) common: Map<u32, ()>,
    /// The tags that a word has been seen with, a bit for each, by the number of the word in small letters.
    pub(super) seen: Map<u32, u32>,
    /// The classes of words that running text tells.
    pub(super) classes: ClassTable,
    lemmas: Packed,
}

/// What was learned of lemmas, unpacked when it is first asked for: a tagger never does.
#[derive(Debug, Default)]
struct Packed {
    bytes: Vec<u8>,
    unpacked: OnceLock<LearnedLemmas>,
}

impl Packed {
    fn of(lemmas: LearnedLemmas) -> Packed {
        Packed { bytes: Vec::new(), unpacked: lemmas.into() }
    }

    fn get(&self) -> &LearnedLemmas {
        // The check of the file says that all of it is there.
        self.unpacked
            .get_or_init(|| LearnedLemmas::read(&mut Input { rest: &self.bytes }).unwrap_or_default())
    }
}

/// How much each feature speaks for each tag: an open table (Knuth, The Art of Computer Programming 3, section 6.4, linear probing), so that a look is
/// one place in memory, which is nearly always enough, and a row of weights a feature, which the processor adds in a few steps.
#[derive(Debug, Default)]
pub(super) struct Weights {
    /// A feature and its row; a power of two of them, more than half without any feature. Row 0 is that of nothing.
    slots: Vec<(u32, u32)>,
    /// A bit for each place of a feature that has weights: most features have none, and so small a table stays near the processor.
    any: Vec<u64>,
    rows: Vec<Row>,
}

/// How many slots a table of so many features has.
fn slots_for(features: usize) -> usize {
    (features * 2 + 1).next_power_of_two()
}

/// A weight for each tag.
pub(super) type Row = [i16; Tag::COUNT];

/// The row of these weights, each with the number of its tag.
pub(super) fn row_of(weights: &[(u8, i16)]) -> Row {
    let mut row = [0; Tag::COUNT];
    for (tag, weight) in weights {
        row[usize::from(*tag) - 1] = *weight;
    }
    row
}

impl Weights {
    pub(super) fn of(features: Vec<(u32, Row)>) -> Weights {
        let mut weights = Weights::with_room_for(features.len());
        features.into_iter().for_each(|(feature, row)| weights.insert(feature, row));
        weights
    }

    fn with_room_for(features: usize) -> Weights {
        let mut rows = Vec::with_capacity(features + 1);
        rows.push(Row::default());
        let any = vec![0; (features / 8 + 1).next_power_of_two()];
        Weights { slots: vec![(0, 0); slots_for(features)], any, rows }
    }

    /// Adds a feature, of which there are no more than there is room for.
    fn insert(&mut self, feature: u32, row: Row) {
        if row == Row::default() {
            return;
        }
        let mask = self.slots.len() - 1;
        let mut at = feature as usize & mask;
        while self.slots[at].1 != 0 && self.slots[at].0 != feature {
            at = (at + 1) & mask;
        }
        self.slots[at] = (feature, self.rows.len() as u32);
        self.rows.push(row);
        let (word, bit) = self.bit(feature);
        self.any[word] |= bit;
    }

    /// The place of a feature's bit.
    #[inline]
    fn bit(&self, feature: u32) -> (usize, u64) {
        ((feature >> 6) as usize & (self.any.len() - 1), 1 << (feature & 63))
    }

    /// The row of a feature. The numbers of features are well mixed.
    #[inline]
    fn row(&self, feature: u32) -> u32 {
        let (word, bit) = self.bit(feature);
        if self.any[word] & bit == 0 { 0 } else { self.probed(feature) }
    }

    #[inline]
    fn probed(&self, feature: u32) -> u32 {
        let mask = self.slots.len() - 1;
        let mut at = feature as usize;
        loop {
            let (known, row) = self.slots[at & mask];
            if known == feature || row == 0 {
                return row;
            }
            at += 1;
        }
    }

    fn all(&self) -> impl Iterator<Item = (u32, &Row)> {
        let filled = self.slots.iter().filter(|(_, row)| *row != 0);
        filled.map(|(feature, row)| (*feature, &self.rows[*row as usize]))
    }
}

/// What was learned of single words.
#[derive(Debug, Default)]
pub(super) struct LearnedWords {
    /// Those that are features by themselves.
    pub(super) common: Vec<u32>,
    /// Each with the tags that it was seen with.
    pub(super) seen: Vec<(u32, u32)>,
    pub(super) classes: ClassTable,
}

/// What was learned of lemmas.
#[derive(Debug, Default)]
pub(super) struct LearnedLemmas {
    /// By form and tag.
    pub(super) forms: Map<(String, u8), String>,
    /// By the end of a form and the tag: how many bytes go, and what comes.
    pub(super) ends: Map<(String, u8), (u8, String)>,
}

impl LearnedLemmas {
    fn read(input: &mut Input<'_>) -> Option<LearnedLemmas> {
        let mut lemmas = LearnedLemmas::default();
        for _ in 0..input.number()? {
            let form = input.text()?;
            let tag = input.byte()?;
            lemmas.forms.insert((form, tag), input.text()?);
        }
        for _ in 0..input.number()? {
            let end = input.text()?;
            let (tag, cut) = (input.byte()?, input.byte()?);
            lemmas.ends.insert((end, tag), (cut, input.text()?));
        }
        Some(lemmas)
    }
}

/// What is wrong with a file that should be a model.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum MalformedModel {
    /// The file is something else.
    #[error("this is no model of yarrup: such a file begins with `{MAGIC}`")]
    NotAModel,
    /// The file was written by a version that is not known here.
    #[error("the model has version {0}, and this program reads version {VERSION}: learn it again")]
    Version(u32),
    /// The file is cut off or was changed.
    #[error("the model is damaged: its check does not agree with what it holds")]
    Damaged,
}

/// The first bytes of a model.
const MAGIC: &str = "yarrup model";
/// Grows whenever features or layout change.
const VERSION: u32 = 2;

impl Model {
    pub(super) fn new(
        about: String,
        language: String,
        asked: Asked,
        weights: Weights,
        words: LearnedWords,
        lemmas: LearnedLemmas,
    ) -> Model {
        let LearnedWords { common, seen, classes } = words;
        let common = common.into_iter().map(|word| (word, ())).collect();
        let lemmas = Packed::of(lemmas);
        Model { about, language, asked, weights, common, seen: seen.into_iter().collect(), classes, lemmas }
    }

    /// What was learned of lemmas.
    pub(super) fn lemmas(&self) -> &LearnedLemmas {
        self.lemmas.get()
    }

    /// How many features have a weight.
    pub fn len(&self) -> usize {
        self.weights.rows.len() - 1
    }

    /// Whether nothing was learned.
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// Adds the weights of a feature to the scores of the tags.
    #[inline]
    pub(super) fn add(&self, feature: u32, scores: &mut [i32; Tag::COUNT]) {
        self.add_row(self.row(feature), scores);
    }

    /// The row of a feature's weights; 0 if it has none.
    #[inline]
    pub(super) fn row(&self, feature: u32) -> u32 {
        self.weights.row(feature)
    }

    /// Adds the weights of a row to the scores of the tags.
    #[inline]
    pub(super) fn add_row(&self, row: u32, scores: &mut [i32; Tag::COUNT]) {
        for (score, weight) in scores.iter_mut().zip(&self.weights.rows[row as usize]) {
            *score += i32::from(*weight);
        }
    }

    /// The model as the bytes of a file: the same model gives the same bytes.
    pub fn to_bytes(&self) -> Vec<u8> {
        let mut out = Output::default();
        out.text(&self.about);
        out.text(&self.language);
        out.bytes.push(match self.asked {
            Asked::Nothing => 0,
            Asked::English => 1,
        });
        let mut features: Vec<_> = self.weights.all().collect();
        // In the order of their slots, so that whoever reads them fills the table from one end to the other.
        let mask = slots_for(features.len()) - 1;
        features.sort_unstable_by_key(|(feature, _)| (*feature as usize & mask, *feature));
        out.number(features.len() as u32);
        for (feature, row) in features {
            let spoken = row.iter().enumerate().filter(|(_, weight)| **weight != 0);
            out.number(feature);
            out.number(spoken.clone().fold(0, |tags, (tag, _)| tags | 1 << tag));
            spoken.for_each(|(_, weight)| out.bytes.extend(weight.to_le_bytes()));
        }
        let mut common: Vec<u32> = self.common.keys().copied().collect();
        common.sort_unstable();
        out.number(common.len() as u32);
        common.into_iter().for_each(|word| out.number(word));
        let mut seen: Vec<_> = self.seen.iter().map(|(&word, &tags)| (word, tags)).collect();
        seen.sort_unstable();
        out.number(seen.len() as u32);
        for (word, tags) in seen {
            out.number(word);
            out.number(tags);
        }
        out.number(self.classes.coarse.len() as u32);
        self.classes.coarse.iter().for_each(|coarse| out.short(*coarse));
        out.number(self.classes.words.len() as u32);
        for (word, class) in &self.classes.words {
            out.number(*word);
            out.short(*class);
        }
        let mut forms: Vec<_> = self.lemmas.get().forms.iter().collect();
        forms.sort_unstable();
        out.number(forms.len() as u32);
        for ((form, tag), lemma) in forms {
            out.text(form);
            out.bytes.push(*tag);
            out.text(lemma);
        }
        let mut ends: Vec<_> = self.lemmas.get().ends.iter().collect();
        ends.sort_unstable();
        out.number(ends.len() as u32);
        for ((end, tag), (cut, put)) in ends {
            out.text(end);
            out.bytes.push(*tag);
            out.bytes.push(*cut);
            out.text(put);
        }
        let mut file = MAGIC.as_bytes().to_vec();
        file.extend(VERSION.to_le_bytes());
        file.extend(check(&out.bytes).to_le_bytes());
        file.extend(out.bytes);
        file
    }

    /// Reads the bytes of a model's file.
    ///
    /// # Errors
    ///
    /// If they are no model, one of another version, or damaged.
    pub fn from_bytes(bytes: &[u8]) -> Result<Model, MalformedModel> {
        let rest = bytes.strip_prefix(MAGIC.as_bytes()).ok_or(MalformedModel::NotAModel)?;
        let (version, rest) = rest.split_first_chunk::<4>().ok_or(MalformedModel::Damaged)?;
        let version = u32::from_le_bytes(*version);
        if version != VERSION {
            return Err(MalformedModel::Version(version));
        }
        let (sum, rest) = rest.split_first_chunk::<8>().ok_or(MalformedModel::Damaged)?;
        if u64::from_le_bytes(*sum) != check(rest) {
            return Err(MalformedModel::Damaged);
        }
        Model::read(&mut Input { rest }).ok_or(MalformedModel::Damaged)
    }

    fn read(input: &mut Input<'_>) -> Option<Model> {
        let (about, language) = (input.text()?, input.text()?);
        let asked = if input.byte()? == 1 { Asked::English } else { Asked::Nothing };
        let count = input.number()?;
        // No more room than the file can fill.
        let mut weights = Weights::with_room_for((count as usize).min(input.rest.len() / 8));
        for _ in 0..count {
            let (feature, mut tags) = (input.number()?, input.number()?);
            let mut row = Row::default();
            while tags != 0 {
                *row.get_mut(tags.trailing_zeros() as usize)? = input.short()? as i16;
                tags &= tags - 1;
            }
            weights.insert(feature, row);
        }
        let mut words = LearnedWords::default();
        for _ in 0..input.number()? {
            words.common.push(input.number()?);
        }
        for _ in 0..input.number()? {
            words.seen.push((input.number()?, input.number()?));
        }
        for _ in 0..input.number()? {
            words.classes.coarse.push(input.short()?);
        }
        for _ in 0..input.number()? {
            words.classes.words.push((input.number()?, input.short()?));
        }
        let lemmas = LearnedLemmas::default();
        let mut model = Model::new(about, language, asked, weights, words, lemmas);
        model.lemmas = Packed { bytes: input.rest.to_vec(), unpacked: OnceLock::new() };
        Some(model)
    }
}

#[derive(Default)]
struct Output {
    bytes: Vec<u8>,
}

impl Output {
    fn number(&mut self, number: u32) {
        self.bytes.extend(number.to_le_bytes());
    }

    fn short(&mut self, number: u16) {
        self.bytes.extend(number.to_le_bytes());
    }

    fn text(&mut self, text: &str) {
        self.number(text.len() as u32);
        self.bytes.extend(text.as_bytes());
    }
}

struct Input<'b> {
    rest: &'b [u8],
}

impl Input<'_> {
    fn byte(&mut self) -> Option<u8> {
        let (&byte, rest) = self.rest.split_first()?;
        self.rest = rest;
        Some(byte)
    }

    fn number(&mut self) -> Option<u32> {
        let (number, rest) = self.rest.split_first_chunk::<4>()?;
        self.rest = rest;
        Some(u32::from_le_bytes(*number))
    }

    fn short(&mut self) -> Option<u16> {
        let (number, rest) = self.rest.split_first_chunk::<2>()?;
        self.rest = rest;
        Some(u16::from_le_bytes(*number))
    }

    fn text(&mut self) -> Option<String> {
        let length = self.number()? as usize;
        let (text, rest) = self.rest.split_at_checked(length)?;
        self.rest = rest;
        String::from_utf8(text.to_vec()).ok()
    }
}

/// A check sum (as Fowler, Noll, Vo 1991: FNV-1a, but by eight bytes at a time): told are accidents, not forgeries.
fn check(bytes: &[u8]) -> u64 {
    let mix = |hash: u64, part: u64| (hash ^ part).wrapping_mul(0x0100_0000_01b3).rotate_left(23);
    let (words, rest) = bytes.as_chunks::<8>();
    let hash = words.iter().fold(0xcbf2_9ce4_8422_2325, |hash, word| mix(hash, u64::from_le_bytes(*word)));
    rest.iter().fold(mix(hash, bytes.len() as u64), |hash, &byte| mix(hash, u64::from(byte)))
}
