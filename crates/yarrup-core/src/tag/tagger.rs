//! Tagging: from left to right, each word by what speaks for its tags.

use hashbrown::HashMap;

use crate::part_of_speech::Tag;
use crate::tag::features::{
    AFTER, BEFORE, Capitals, HERE, Letters, PLACES, Sketch, TWO_AFTER, TWO_BEFORE, WITHOUT_TAGS, of_form,
    with_tags, without_tags,
};
use crate::tag::form::{Form, text_number};
use crate::tag::gate::allowed;
use crate::tag::model::{Looked, Model};
use crate::unicode::small_letters;

/// Tags sentences by a model, and keeps what it has worked out of each form: one for each thread.
pub struct Tagger<'m> {
    model: &'m Model,
    forms: HashMap<String, u32, foldhash::fast::RandomState>,
    known: Vec<KnownForm>,
    /// The scores of all known forms. Rare words share most of theirs: each row stands but once, so that they stay near the processor.
    rows: Vec<Scores>,
    row_numbers: HashMap<Scores, u32, foldhash::fast::RandomState>,
    /// The forms of the present sentence, with two places of nothing on either side.
    sentence: Vec<u32>,
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

/// What a model says of a form, wherever it stands.
struct KnownForm {
    sketch: Sketch,
    /// The tags that it may have, a bit for each.
    allowed: u32,
    /// The tag, if it may have no other.
    only: Option<Tag>,
    /// By place: the row of its scores.
    scores: [u32; PLACES],
    letters: Letters,
    /// The number of the form in small letters.
    small: u32,
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
        let (forms, row_numbers) = (HashMap::default(), HashMap::default());
        let (known, rows, sentence) = (Vec::new(), Vec::new(), Vec::new());
        let mut tagger = Tagger { model, forms, known, rows, row_numbers, sentence, most };
        tagger.forget();
        tagger
    }

    /// Whether it has worked out so many forms that it should begin anew.
    pub(crate) fn is_full(&self) -> bool {
        self.known.len() > self.most
    }

    /// Forgets all forms: their numbers mean nothing any more.
    pub(crate) fn forget(&mut self) {
        self.forms.clear();
        self.known.clear();
        self.rows.clear();
        self.row_numbers.clear();
        // Number 0 is what stands before and behind a sentence.
        self.number("");
    }

    /// The number of a form, for [`Tagger::tag_numbers`], until it forgets.
    pub(crate) fn number(&mut self, form: &str) -> u32 {
        if let Some(&number) = self.forms.get(form) {
            return number;
        }
        let small = form.to_lowercase();
        let in_small_letters = if small == form { None } else { Some(self.number(&small)) };
        let mut scores = [[0; Tag::COUNT]; PLACES];
        let model = self.model;
        let looked = Form::new(form, model.asked);
        let (mut weights, mut places) = (Looked::<MOST_OF_A_FORM>::new(), [0; MOST_OF_A_FORM]);
        let sketch = of_form(
            &looked,
            |word| model.common.contains_key(&word),
            &model.classes,
            |place, feature| {
                places[weights.len()] = place;
                weights.note(model, &[feature]);
            },
        );
        weights.find(model);
        for (at, place) in places[..weights.len()].iter().enumerate() {
            weights.add(at..at + 1, model, &mut scores[*place]);
        }
        let allowed = allowed(&looked, model.seen.get(&looked.number()).copied());
        let known = KnownForm {
            sketch,
            allowed,
            only: (allowed.count_ones() == 1).then(|| best(&[0; Tag::COUNT], allowed)),
            scores: scores.map(|scores| self.row(scores)),
            letters: Letters::of(&looked),
            small: in_small_letters.unwrap_or(self.known.len() as u32),
        };
        let number = self.known.len() as u32;
        self.known.push(known);
        self.forms.insert(form.to_owned(), number);
        number
    }

    /// The number of a row of scores.
    fn row(&mut self, scores: Scores) -> u32 {
        let next = self.rows.len() as u32;
        let row = *self.row_numbers.entry(scores).or_insert(next);
        if row == next {
            self.rows.push(scores);
        }
        row
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
                *number = self.known[*number as usize].small;
            }
        }
        let capitals = capitals.as_read();
        let mut scores = [[0; Tag::COUNT]; TOGETHER];
        let mut looked = Looked::<{ TOGETHER * WITHOUT_TAGS }>::new();
        for block in here.step_by(TOGETHER) {
            let count = TOGETHER.min(sentence.len() - 2 - block);
            // Those of the block, with two on either side.
            let mut forms = [&self.known[0]; TOGETHER + 4];
            for (form, number) in forms.iter_mut().zip(&sentence[block - 2..]) {
                *form = &self.known[*number as usize];
            }
            // What speaks for the tags of a word whatever those before it get: of many words at a time, since none has to wait for another.
            looked.clear();
            let mut ends = [0; TOGETHER];
            for (at, end) in ends[..count].iter_mut().enumerate() {
                let around = &forms[at..at + 5];
                if around[2].only.is_none() {
                    let [two_before, before, own, after, two_after] =
                        [around[0], around[1], around[2], around[3], around[4]].map(|form| &form.sketch);
                    let is_first = block + at == 2;
                    let features =
                        without_tags([own, before, after, two_before, two_after], is_first, capitals);
                    looked.note(self.model, &features);
                }
                *end = looked.len();
            }
            looked.find(self.model);
            let mut start = 0;
            for (at, (scores, end)) in scores[..count].iter_mut().zip(ends).enumerate() {
                let around = &forms[at..at + 5];
                if around[2].only.is_none() {
                    *scores = self.of_forms(around);
                    looked.add(start..end, self.model, scores);
                }
                start = end;
            }
            for (at, scores) in scores[..count].iter_mut().enumerate() {
                let [own, after] = [forms[at + 2], forms[at + 3]];
                let tag = own.only.unwrap_or_else(|| {
                    let last = (tags.last().copied(), tags.len().checked_sub(2).map(|index| tags[index]));
                    self.model.add(&with_tags(&own.sketch, &after.sketch, last), scores);
                    best(scores, own.allowed)
                });
                tags.push(tag);
            }
        }
        self.sentence = sentence;
    }

    /// What speaks for each tag of the word in the middle of five forms, each form by itself.
    #[inline]
    fn of_forms(&self, around: &[&KnownForm]) -> Scores {
        let row = |at: usize, place: usize| &self.rows[around[at].scores[place] as usize];
        let mut scores = *row(2, HERE);
        let rows = [row(1, BEFORE), row(3, AFTER), row(0, TWO_BEFORE), row(4, TWO_AFTER)];
        for (index, score) in scores.iter_mut().enumerate() {
            *score += rows[0][index] + rows[1][index] + rows[2][index] + rows[3][index];
        }
        scores
    }
}

/// The tag with the highest score among those that are allowed; of equals the first.
pub(super) fn best(scores: &[i32; Tag::COUNT], allowed: u32) -> Tag {
    let (mut best, mut highest) = (Tag::Noun as usize - 1, i32::MIN);
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
