//! Tagging: first each word by what speaks for its tags whatever the others get, then from left to right, with the tags of the words before and the first
//! guesses for those behind.

use std::hash::BuildHasher;

use hashbrown::{HashMap, HashTable};

use crate::part_of_speech::Tag;
use crate::tag::features::{
    AFTER, BEFORE, Capitals, HERE, Letters, PLACES, Side, Sketch, TWO_AFTER, TWO_BEFORE, WITH_TAGS,
    WITHOUT_TAGS, of_form, with_tags, without_tags,
};
use crate::tag::form::{Form, text_number};
use crate::tag::gate::allowed;
use crate::tag::model::{Looked, Model};
use crate::unicode::small_letters;

/// Tags sentences by a model, and keeps what it has worked out of each form: one for each thread.
pub struct Tagger<'m> {
    model: &'m Model,
    hasher: foldhash::fast::RandomState,
    /// The numbers of the forms, by the hashes of their texts.
    numbers: HashTable<u32>,
    /// By number.
    known: Vec<KnownForm>,
    texts: Vec<Box<str>>,
    /// The scores of all known forms, by where they stand.
    here: Rows<1>,
    near: Rows<2>,
    far: Rows<2>,
    /// The forms of the present sentence, with two places of nothing on either side.
    sentence: Vec<u32>,
    guesses: Guesses,
    /// How many words it remembers at most.
    most: usize,
}

/// How many forms are kept before all are forgotten.
const MOST_KNOWN: usize = 400_000;

/// How many words are scored at a time.
const TOGETHER: usize = 16;

/// A form has fewer features by itself.
const MOST_OF_A_FORM: usize = 64;

/// How much speaks for each tag.
type Scores = [i32; Tag::COUNT];

/// What a model says of a form, wherever it stands: half a line of the processor's cache.
#[derive(Clone, Copy)]
#[repr(align(32))]
struct KnownForm {
    sketch: Sketch,
    /// The tags that it may have, a bit for each.
    allowed: u32,
    /// The rows of its scores: where it stands itself, for the word next to it, and for the next but one.
    here: u32,
    near: u32,
    far: u32,
    letters: Letters,
}

impl KnownForm {
    /// The tag, if it may have no other.
    #[inline]
    fn only(&self) -> Option<Tag> {
        Tag::numbered(self.allowed.trailing_zeros() as u8).filter(|_| self.allowed.is_power_of_two())
    }
}

/// Words that are worked on together, with two forms on either side.
struct Block<'k> {
    forms: [&'k KnownForm; TOGETHER + 4],
    count: usize,
}

/// What is known of the words of a sentence while it is tagged.
#[derive(Default)]
struct Guesses {
    words: Vec<Guess>,
    /// The guessed tags of the words behind each word.
    behind: Vec<Side>,
    /// The tags of the words that have theirs, seen from the next.
    before: Side,
}

/// What is known of a word.
struct Guess {
    /// How much speaks for each tag, as far as it is known.
    scores: Scores,
    tag: Tag,
    /// Whether the word has this tag whatever others have.
    is_certain: bool,
}

/// A tag that is so far ahead of the next stays ahead whatever tags the others get. Of 326,000 words of documentation that may have several tags, 35 of the
/// 148,000 that are further ahead would have got another, and every second one need not be looked at again.
const FAR_AHEAD: i32 = 12_000;

/// The same before anything is known but what each form around the word says by itself. Of 1,914,489 tokens of documentation, 327 get another tag than they would
/// if everything were looked at, and an eighth of the work is saved.
const FAR_AHEAD_BY_FORMS: i32 = 14_000;

impl Guesses {
    fn clear(&mut self) {
        self.words.clear();
        self.before = Side::default();
    }

    fn tell_behind(&mut self) {
        self.behind.clear();
        self.behind.resize(self.words.len(), Side::default());
        let mut side = Side::default();
        for (behind, word) in self.behind.iter_mut().zip(&self.words).rev() {
            *behind = side;
            side = side.beyond(word.tag);
        }
    }
}

/// Scores of forms, for one place or two. Rare words share most of theirs: each row stands but once, so that they stay near the processor.
struct Rows<const N: usize> {
    rows: Vec<[Scores; N]>,
    numbers: HashMap<[Scores; N], u32, foldhash::fast::RandomState>,
}

impl<const N: usize> Rows<N> {
    fn new() -> Rows<N> {
        Rows { rows: Vec::new(), numbers: HashMap::default() }
    }

    fn clear(&mut self) {
        self.rows.clear();
        self.numbers.clear();
    }

    /// The number of a row.
    fn number(&mut self, scores: [Scores; N]) -> u32 {
        let next = self.rows.len() as u32;
        let row = *self.numbers.entry(scores).or_insert(next);
        if row == next {
            self.rows.push(scores);
        }
        row
    }

    #[inline]
    fn get(&self, row: u32) -> &[Scores; N] {
        &self.rows[row as usize]
    }
}

impl Model {
    /// Whether the word, in any letter case, was in what the model learned from.
    pub fn has_seen(&self, form: &str) -> bool {
        self.seen.contains_key(&text_number(&small_letters(form)))
    }
}

impl<'m> Tagger<'m> {
    /// A tagger that has seen nothing yet.
    pub fn new(model: &'m Model) -> Tagger<'m> {
        Tagger::remembering(model, MOST_KNOWN)
    }

    /// As [`Tagger::new`], with room for so many words.
    fn remembering(model: &'m Model, most: usize) -> Tagger<'m> {
        let mut tagger = Tagger {
            model,
            hasher: foldhash::fast::RandomState::default(),
            numbers: HashTable::new(),
            known: Vec::new(),
            texts: Vec::new(),
            here: Rows::new(),
            near: Rows::new(),
            far: Rows::new(),
            sentence: Vec::new(),
            guesses: Guesses::default(),
            most,
        };
        tagger.forget();
        tagger
    }

    /// Whether it has worked out so many forms that it should begin anew.
    pub(crate) fn is_full(&self) -> bool {
        self.known.len() > self.most
    }

    /// Forgets all forms: their numbers mean nothing any more.
    pub(crate) fn forget(&mut self) {
        self.numbers.clear();
        self.known.clear();
        self.texts.clear();
        self.here.clear();
        self.near.clear();
        self.far.clear();
        // Number 0 is what stands before and behind a sentence.
        self.number("");
    }

    /// The number of a form, for [`Tagger::tag_numbers`], until it forgets.
    pub(crate) fn number(&mut self, form: &str) -> u32 {
        let hash = self.hasher.hash_one(form);
        if let Some(&number) = self.numbers.find(hash, |number| *self.texts[*number as usize] == *form) {
            return number;
        }
        let known = self.work_out(form);
        let number = self.known.len() as u32;
        self.known.push(known);
        self.texts.push(form.into());
        let (hasher, texts) = (&self.hasher, &self.texts);
        self.numbers.insert_unique(hash, number, |number| hasher.hash_one(&*texts[*number as usize]));
        number
    }

    /// What the model says of a form.
    fn work_out(&mut self, form: &str) -> KnownForm {
        let mut scores = [[0; Tag::COUNT]; PLACES];
        let model = self.model;
        let looked = Form::new(form, model.asked);
        let (mut weights, mut places) = (Looked::<MOST_OF_A_FORM>::new(), [0; MOST_OF_A_FORM]);
        let sketch = of_form(
            &looked,
            |word| model.common.contains_key(&word),
            (&model.classes, &model.uses),
            |place, feature| {
                places[weights.len()] = place;
                weights.note(model, &[feature]);
            },
        );
        weights.find(model);
        for (at, place) in places[..weights.len()].iter().enumerate() {
            weights.add(at..at + 1, model, &mut scores[*place]);
        }
        KnownForm {
            sketch,
            allowed: allowed(&looked, model.seen.get(&looked.number()).copied()),
            here: self.here.number([scores[HERE]]),
            near: self.near.number([scores[BEFORE], scores[AFTER]]),
            far: self.far.number([scores[TWO_BEFORE], scores[TWO_AFTER]]),
            letters: Letters::of(&looked),
        }
    }

    /// The number of a form in small letters.
    fn in_small_letters(&mut self, number: u32) -> u32 {
        let text = &self.texts[number as usize];
        match text.to_lowercase() {
            small if *small == **text => number,
            small => self.number(&small),
        }
    }

    /// The tags of the words of a sentence.
    pub fn tag<'w>(&mut self, words: impl Iterator<Item = &'w str>, tags: &mut Vec<Tag>) {
        if self.is_full() {
            self.forget();
        }
        let numbers: Vec<u32> = words.map(|word| self.number(word)).collect();
        self.tag_numbers(&numbers, tags);
    }

    /// The tags of the words of a sentence, which are known by their numbers.
    pub(crate) fn tag_numbers(&mut self, words: &[u32], tags: &mut Vec<Tag>) {
        tags.clear();
        let mut sentence = std::mem::take(&mut self.sentence);
        sentence.clear();
        sentence.extend([0, 0]);
        sentence.extend_from_slice(words);
        sentence.extend([0, 0]);
        let here = 2..sentence.len() - 2;
        let capitals = Capitals::of(here.clone().map(|at| self.known[sentence[at] as usize].letters));
        if capitals.tell_nothing() {
            for number in &mut sentence {
                *number = self.in_small_letters(*number);
            }
        }
        let capitals = capitals.as_read();
        let mut guesses = std::mem::take(&mut self.guesses);
        guesses.clear();
        for block in here.clone().step_by(TOGETHER) {
            self.guess_block(&self.block(&sentence, block), (block == 2, capitals), &mut guesses);
        }
        guesses.tell_behind();
        for block in here.step_by(TOGETHER) {
            self.tag_block(&self.block(&sentence, block), block - 2, &mut guesses, tags);
        }
        self.guesses = guesses;
        self.sentence = sentence;
    }

    /// The forms of a sentence from this one on, with two on either side: those of a block.
    #[inline]
    fn block(&self, sentence: &[u32], start: usize) -> Block<'_> {
        let count = TOGETHER.min(sentence.len() - 2 - start);
        let mut forms = [&self.known[0]; TOGETHER + 4];
        for (form, number) in forms.iter_mut().zip(&sentence[start - 2..]) {
            *form = &self.known[*number as usize];
        }
        Block { forms, count }
    }

    /// What speaks for the tags of the words of a block whatever others get, and the tags that they would get by that: of many words at a time, since none has to
    /// wait for another.
    fn guess_block(&self, block: &Block<'_>, (is_first, capitals): (bool, Capitals), guesses: &mut Guesses) {
        let mut looked = Looked::<{ TOGETHER * WITHOUT_TAGS }>::new();
        let mut ends = [0; TOGETHER];
        let first = guesses.words.len();
        for (at, end) in ends[..block.count].iter_mut().enumerate() {
            let around = &block.forms[at..at + 5];
            let guess = match around[2].only() {
                Some(tag) => Guess { scores: [0; Tag::COUNT], tag, is_certain: true },
                None => {
                    let scores = self.of_forms(around);
                    let tag = best(&scores, around[2].allowed, i32::MIN);
                    Guess {
                        scores,
                        tag,
                        is_certain: is_far_ahead(&scores, tag, around[2].allowed, FAR_AHEAD_BY_FORMS),
                    }
                }
            };
            if !guess.is_certain {
                let around = [&around[1].sketch, &around[2].sketch, &around[3].sketch];
                looked.note(self.model, &without_tags(around, is_first && at == 0, capitals));
            }
            *end = looked.len();
            guesses.words.push(guess);
        }
        looked.find(self.model);
        let mut start = 0;
        for (at, end) in ends[..block.count].iter().enumerate() {
            let guess = &mut guesses.words[first + at];
            if !guess.is_certain {
                let allowed = block.forms[at + 2].allowed;
                looked.add(start..*end, self.model, &mut guess.scores);
                guess.tag = best(&guess.scores, allowed, i32::MIN);
                guess.is_certain = is_far_ahead(&guess.scores, guess.tag, allowed, FAR_AHEAD);
            }
            start = *end;
        }
    }

    /// Tags the words of a block, the first of which is the word of the sentence with this index, behind those that have their tags.
    fn tag_block(&self, block: &Block<'_>, first: usize, guesses: &mut Guesses, tags: &mut Vec<Tag>) {
        let count = block.count;
        // What speaks for them because of the tags of others is looked up of many at a time as well, with the first guesses for those before.
        let mut likely = [Side::default(); TOGETHER];
        let mut looked = Looked::<{ TOGETHER * WITH_TAGS }>::new();
        let mut ends = [0; TOGETHER];
        let mut before = guesses.before;
        for at in 0..count {
            let (own, after) = (&block.forms[at + 2].sketch, &block.forms[at + 3].sketch);
            let guess = &guesses.words[first + at];
            likely[at] = before;
            if !guess.is_certain {
                looked.note(self.model, &with_tags(own, after, before, guesses.behind[first + at]));
            }
            ends[at] = looked.len();
            before = before.beyond(guess.tag);
        }
        looked.find(self.model);
        let mut before = guesses.before;
        let mut start = 0;
        for at in 0..count {
            let (own, after) = (block.forms[at + 2], block.forms[at + 3]);
            let guess = &mut guesses.words[first + at];
            if !guess.is_certain {
                if before == likely[at] {
                    looked.add(start..ends[at], self.model, &mut guess.scores);
                } else {
                    let behind = guesses.behind[first + at];
                    let features = with_tags(&own.sketch, &after.sketch, before, behind);
                    self.model.add(&features, &mut guess.scores);
                }
                guess.tag = best(&guess.scores, own.allowed, i32::MIN);
            }
            start = ends[at];
            before = before.beyond(guess.tag);
            tags.push(guess.tag);
        }
        guesses.before = before;
    }

    /// What speaks for each tag of the word in the middle of five forms, each form by itself.
    #[inline]
    fn of_forms(&self, around: &[&KnownForm]) -> Scores {
        let [mut scores] = *self.here.get(around[2].here);
        let [[before, _], [_, after]] = [self.near.get(around[1].near), self.near.get(around[3].near)];
        let [[two_before, _], [_, two_after]] = [self.far.get(around[0].far), self.far.get(around[4].far)];
        for (index, score) in scores.iter_mut().enumerate() {
            *score += before[index] + after[index] + two_before[index] + two_after[index];
        }
        scores
    }
}

/// The tag with the highest score among those that are allowed; of equals the first. No score is `lowest`.
pub(super) fn best<S: Copy + PartialOrd>(scores: &[S; Tag::COUNT], allowed: u32, lowest: S) -> Tag {
    let (mut best, mut highest) = (Tag::Noun as usize - 1, lowest);
    let mut left = allowed >> 1;
    while left != 0 {
        let index = left.trailing_zeros() as usize;
        left &= left - 1;
        if let Some(&score) = scores.get(index)
            && score > highest
        {
            (best, highest) = (index, score);
        }
    }
    Tag::ALL[best]
}

/// Whether this tag is far ahead of all others that are allowed.
#[inline]
fn is_far_ahead(scores: &Scores, tag: Tag, allowed: u32, by: i32) -> bool {
    let limit = scores[tag as usize - 1] - by;
    let mut left = allowed >> 1 & !(1 << (tag as u32 - 1));
    let mut is_ahead = true;
    while left != 0 {
        is_ahead &= scores.get(left.trailing_zeros() as usize).is_none_or(|score| *score <= limit);
        left &= left - 1;
    }
    is_ahead
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::tag::english;
    use crate::tag::form::Asked;

    fn tagged(tagger: &mut Tagger<'_>, text: &str) -> Vec<Tag> {
        let mut tags = Vec::new();
        tagger.tag(text.split(' '), &mut tags);
        tags
    }

    #[test]
    fn what_is_forgotten_is_worked_out_again() {
        let texts = [
            "The terns nest on the spit .",
            "She nests there .",
            "A nest of terns , he said .",
            "The terns nest on the spit .",
        ];
        let (mut all, mut few) = (Tagger::new(english()), Tagger::remembering(english(), 3));
        for text in texts {
            assert_eq!(tagged(&mut few, text), tagged(&mut all, text), "{text}");
            assert!(few.known.len() <= 10, "{}", few.known.len());
        }
        assert!(all.known.len() > 15, "{}", all.known.len());
    }

    #[test]
    fn words_further_behind_decide() {
        let mut tagger = Tagger::new(english());
        for (text, at, tag) in [
            ("They must have unemployment in order to keep wages down .", 2, Tag::Verb),
            ("They must have gone home in the dark .", 2, Tag::Auxiliary),
            ("Volunteers filled sandbags until the early hours .", 3, Tag::Adposition),
            ("Volunteers filled sandbags until the river fell .", 3, Tag::SubordinatingConjunction),
            (
                "Meanwhile the roof leaks , the pigeons have moved in and insurance alone costs taxpayers money .",
                3,
                Tag::Verb,
            ),
            ("Everybody has an idea , and nobody has a check .", 7, Tag::Verb),
            ("This is a question that her opponents have been quick to ask .", 10, Tag::Particle),
        ] {
            assert_eq!(tagged(&mut tagger, text)[at], tag, "{text}");
        }
    }

    #[test]
    fn a_text_in_capitals_is_no_row_of_names() {
        let mut tagger = Tagger::new(english());
        let loud = tagged(&mut tagger, "THE WARDENS COUNTED FIVE OLD NESTS NEAR THE SEA");
        let usual = tagged(&mut tagger, "The wardens counted five old nests near the sea");
        let names = |tags: &[Tag]| tags.iter().filter(|tag| **tag == Tag::ProperNoun).count();
        assert!(names(&loud) < 3, "{loud:?}");
        assert_eq!(names(&usual), 0, "{usual:?}");
        let kind = |written: &str| {
            let letters = |form: &str| Letters::of(&Form::new(form, Asked::English));
            Capitals::of(written.split(' ').map(letters))
        };
        for (written, expected) in [
            ("the terns nest", Capitals::None),
            ("The terns nest", Capitals::Usual),
            ("THE TERNS NEST", Capitals::Many),
            ("THE TERNS nest", Capitals::Many),
            ("THE terns nest here", Capitals::Usual),
            ("THE TERNS", Capitals::Usual),
            ("Storm Closes Bridge for a Week", Capitals::Titles),
            ("Mira Sand and Jon Reed met", Capitals::Usual),
            ("Mira Sandoval , Jon Reedman and Ann Dunmore", Capitals::Usual),
            ("7 , !", Capitals::None),
        ] {
            assert_eq!(kind(written), expected, "{written}");
        }
    }
}
