//! A learned model: how much each feature speaks for each tag, and what was learned of lemmas. One file, with its version and a check.

use std::sync::OnceLock;

use hashbrown::HashMap;

use crate::part_of_speech::Tag;
use crate::tag::form::Asked;
use crate::tag::word_classes::ClassTable;
use crate::tag::word_uses::UseTable;

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
    /// How running text uses words.
    pub(super) uses: UseTable,
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

/// How much each feature speaks for each tag.
///
/// A bit for each place where a feature with weights may lie: most features have none, and so small a table stays near the processor. How many bits are
/// set before it tells where a feature's row stands (a rank directory: Jacobson 1989, "Space-efficient static trees and graphs"), which is one place in
/// memory.
#[derive(Debug)]
pub(super) struct Weights {
    /// What belongs to a place of the bits of a feature's number. These numbers are well mixed.
    mask: u32,
    any: Vec<u64>,
    /// By 64 places: how many before them are taken.
    before: Vec<u32>,
    /// For each place that is taken, a mark of its first feature, and whether it has more than one. Few places are taken by chance, and those that are need not
    /// be read for it.
    marks: Vec<u8>,
    /// One for each place that is taken, in their order; behind these the second and further features of a place, and
    /// then the row of nothing.
    rows: Vec<FeatureRow>,
}

/// The weights of a feature.
#[derive(Clone, Copy, Debug, Default)]
struct FeatureRow {
    feature: u32,
    /// The next row of the same place; 0 if there is none.
    next: u32,
    weights: Row,
}

/// What belongs to a place of the bits of a feature's number, where there are so many features: one place of eight is taken, or fewer.
fn mask_for(features: usize) -> u32 {
    let places = (features * 8 + 1).next_power_of_two().max(64);
    u32::try_from(places - 1).unwrap_or(u32::MAX)
}

/// The bit of a mark that says that a place has several features.
const SEVERAL: u8 = 1 << 7;

/// A mark of a feature, made of bits that do not belong to its place.
#[inline]
fn mark(feature: u32) -> u8 {
    (feature >> 24) as u8 & !SEVERAL
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
    /// Each feature with its row. A feature stands there once.
    pub(super) fn of(mut features: Vec<(u32, Row)>) -> Weights {
        features.retain(|(_, row)| *row != Row::default());
        let mask = mask_for(features.len());
        let mut any = vec![0u64; (mask as usize + 1) / 64];
        for place in features.iter().map(|(feature, _)| (feature & mask) as usize) {
            any[place / 64] |= 1 << (place % 64);
        }
        let mut taken = 0;
        let before = any.iter().map(|bits| {
            let before = taken;
            taken += bits.count_ones();
            before
        });
        let before: Vec<u32> = before.collect();
        let mut weights = Weights {
            mask,
            any,
            before,
            marks: vec![0; taken as usize],
            rows: vec![FeatureRow::default(); taken as usize],
        };
        let mut filled = vec![false; taken as usize];
        for (feature, row) in features {
            let first = weights.rank(feature);
            if !std::mem::replace(&mut filled[first], true) {
                weights.rows[first] = FeatureRow { feature, next: 0, weights: row };
                weights.marks[first] = mark(feature);
                continue;
            }
            weights.marks[first] |= SEVERAL;
            let own = weights.rows.len() as u32;
            let next = std::mem::replace(&mut weights.rows[first].next, own);
            weights.rows.push(FeatureRow { feature, next, weights: row });
        }
        weights.rows.push(FeatureRow::default());
        weights
    }

    /// The row of the first feature that has the place of this one, if any has.
    #[inline]
    fn rank(&self, feature: u32) -> usize {
        let place = (feature & self.mask) as usize;
        let below = self.any[place / 64] & ((1 << (place % 64)) - 1);
        self.before[place / 64] as usize + below.count_ones() as usize
    }

    /// Whether there may be a row of the feature.
    #[inline]
    fn may_have(&self, feature: u32) -> bool {
        let place = (feature & self.mask) as usize;
        self.any[place / 64] >> (place % 64) & 1 == 1
    }

    /// The row of a feature behind the first of its place.
    #[cold]
    fn further(&self, feature: u32, first: usize) -> Option<usize> {
        let mut at = self.rows[first].next as usize;
        while at != 0 && self.rows[at].feature != feature {
            at = self.rows[at].next as usize;
        }
        (at != 0).then_some(at)
    }

    fn all(&self) -> impl Iterator<Item = (u32, &Row)> {
        let (_nothing, rows) = self.rows.split_last().unzip();
        rows.into_iter().flatten().map(|row| (row.feature, &row.weights))
    }
}

/// Features that may have weights, with their rows: at most so many.
///
/// They are looked up step by step, all of them at each, so that the processor waits for many places in memory at a time, and without a branch on what
/// nobody can foresee.
pub(super) struct Looked<const MOST: usize> {
    features: [u32; MOST],
    rows: [u32; MOST],
    count: usize,
}

impl<const MOST: usize> Looked<MOST> {
    /// None.
    pub(super) fn new() -> Looked<MOST> {
        Looked { features: [0; MOST], rows: [0; MOST], count: 0 }
    }

    /// How many there are.
    pub(super) fn len(&self) -> usize {
        self.count
    }

    /// Notes those of some features that may have weights.
    #[inline]
    pub(super) fn note<const N: usize>(&mut self, model: &Model, features: &[u32; N]) {
        for feature in features {
            self.features[self.count] = *feature;
            self.count += usize::from(model.weights.may_have(*feature));
        }
    }

    /// Finds the rows of all that were noted.
    #[inline]
    pub(super) fn find(&mut self, model: &Model) {
        let weights = &model.weights;
        let features = &self.features[..self.count];
        let nothing = (weights.rows.len() - 1) as u32;
        for (row, feature) in self.rows.iter_mut().zip(features) {
            let first = weights.rank(*feature);
            let mark = weights.marks[first] ^ mark(*feature);
            *row = if mark == 0 || mark & SEVERAL != 0 { first as u32 } else { nothing };
        }
        for (row, feature) in self.rows.iter_mut().zip(features) {
            let first = *row as usize;
            let FeatureRow { feature: other, next, .. } = weights.rows[first];
            *row = if other == *feature { *row } else { nothing };
            if other != *feature && next != 0 {
                *row = weights.further(*feature, first).map_or(nothing, |row| row as u32);
            }
        }
    }

    /// Adds the weights of those in this range to the scores of the tags.
    #[inline]
    pub(super) fn add(&self, range: std::ops::Range<usize>, model: &Model, scores: &mut [i32; Tag::COUNT]) {
        // A sum of its own stays in the processor's wide registers.
        let mut sum = *scores;
        for row in &self.rows[range] {
            for (score, weight) in sum.iter_mut().zip(&model.weights.rows[*row as usize].weights) {
                *score += i32::from(*weight);
            }
        }
        *scores = sum;
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
    pub(super) uses: UseTable,
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
    #[error("this is not a model made by yarrup: such a file begins with `{MAGIC}`")]
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
const VERSION: u32 = 3;

impl Model {
    pub(super) fn new(
        about: String,
        language: String,
        asked: Asked,
        weights: Weights,
        words: LearnedWords,
        lemmas: LearnedLemmas,
    ) -> Model {
        let LearnedWords { common, seen, classes, uses } = words;
        let common = common.into_iter().map(|word| (word, ())).collect();
        let lemmas = Packed::of(lemmas);
        let seen = seen.into_iter().collect();
        Model { about, language, asked, weights, common, seen, classes, uses, lemmas }
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

    /// Adds the weights of some features to the scores of the tags.
    #[inline]
    pub(super) fn add<const N: usize>(&self, features: &[u32; N], scores: &mut [i32; Tag::COUNT]) {
        let mut looked = Looked::<N>::new();
        looked.note(self, features);
        looked.find(self);
        looked.add(0..looked.len(), self, scores);
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
        // In the order of their places, so that whoever reads them fills the table from one end to the other.
        let mask = mask_for(features.len());
        features.sort_unstable_by_key(|(feature, _)| (*feature & mask, *feature));
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
        out.number(self.uses.words.len() as u32);
        for (word, of_word) in &self.uses.words {
            out.number(*word);
            out.bytes.push(*of_word);
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
        let mut features = Vec::with_capacity((count as usize).min(input.rest.len() / 8));
        for _ in 0..count {
            let (feature, mut tags) = (input.number()?, input.number()?);
            let mut row = Row::default();
            while tags != 0 {
                *row.get_mut(tags.trailing_zeros() as usize)? = input.short()? as i16;
                tags &= tags - 1;
            }
            features.push((feature, row));
        }
        let weights = Weights::of(features);
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
        for _ in 0..input.number()? {
            words.uses.words.push((input.number()?, input.byte()?));
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

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// Features that fall upon one another in the table, and such as nobody has learned.
        #[test]
        fn every_feature_has_its_own_weights(
            learned in prop::collection::btree_map(prop_oneof![0..40u32, any::<u32>(), (0..9u32).prop_map(|high| high << 23 | 7)], -3..4i16, 0..60),
            asked in prop::array::uniform8(prop_oneof![0..40u32, (0..12u32).prop_map(|high| high << 23 | 7)]),
        ) {
            let row = |weight: i16| row_of(&[(1, weight), (Tag::COUNT as u8, -weight)]);
            let weights = Weights::of(learned.iter().map(|(feature, weight)| (*feature, row(*weight))).collect());
            let kept = learned.values().filter(|weight| **weight != 0).count();
            prop_assert_eq!(weights.all().count(), kept);
            let words = LearnedWords::default();
            let lemmas = LearnedLemmas::default();
            let model = Model::new(String::new(), String::new(), Asked::Nothing, weights, words, lemmas);
            let mut scores = [10; Tag::COUNT];
            model.add(&asked, &mut scores);
            let sum: i32 = asked.iter().map(|feature| i32::from(learned.get(feature).copied().unwrap_or(0))).sum();
            prop_assert_eq!((scores[0], scores[1], scores[Tag::COUNT - 1]), (10 + sum, 10, 10 - sum));
            let again = Model::from_bytes(&model.to_bytes()).expect("a model");
            prop_assert_eq!(again.to_bytes(), model.to_bytes());
            let mut same = [10; Tag::COUNT];
            again.add(&asked, &mut same);
            prop_assert_eq!(same, scores);
        }
    }
}
