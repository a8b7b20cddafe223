//! How well a model does on annotated text.

use std::collections::{BTreeMap, HashSet};

use crate::part_of_speech::Tag;
use crate::tag::conllu::Sentence;
use crate::tag::{Model, Tagger};

/// What came of comparing a model with annotated text. Words without a tag, or without a lemma, are not counted there.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Evaluation {
    /// Words with a tag.
    pub tagged: u64,
    /// Words that got the tag of the gold.
    pub right: u64,
    /// Words with a tag that were not in what the model learned from, and how many of them got theirs.
    pub unknown: (u64, u64),
    /// By gold tag: how many words, how many were guessed so rightly, and how many were guessed so in all.
    pub by_tag: BTreeMap<Tag, (u64, u64, u64)>,
    /// Gold tag and guessed tag, with how often.
    pub confused: BTreeMap<(Tag, Tag), u64>,
    /// Words with a lemma; those right given the right tags; those right given the guessed tags.
    pub lemmas: (u64, u64, u64),
    /// The same for words whose lemma is not the form, letter case aside.
    pub changing_lemmas: (u64, u64, u64),
    /// The words that were wrong: place, form, gold, guess. Lemmas first have their tags right.
    pub wrong_lemmas: Vec<(String, Tag, String, String)>,
}

impl Evaluation {
    /// The share of words with the right tag, from 0 to 1.
    pub fn accuracy(&self) -> f64 {
        if self.tagged == 0 { 0.0 } else { self.right as f64 / self.tagged as f64 }
    }

    /// Adds another evaluation.
    pub fn absorb(&mut self, other: Evaluation) {
        self.tagged += other.tagged;
        self.right += other.right;
        self.unknown.0 += other.unknown.0;
        self.unknown.1 += other.unknown.1;
        for (tag, counts) in other.by_tag {
            let ours = self.by_tag.entry(tag).or_default();
            *ours = (ours.0 + counts.0, ours.1 + counts.1, ours.2 + counts.2);
        }
        for (pair, count) in other.confused {
            *self.confused.entry(pair).or_default() += count;
        }
        for (ours, theirs) in
            [(&mut self.lemmas, other.lemmas), (&mut self.changing_lemmas, other.changing_lemmas)]
        {
            *ours = (ours.0 + theirs.0, ours.1 + theirs.1, ours.2 + theirs.2);
        }
        self.wrong_lemmas.extend(other.wrong_lemmas);
    }
}

/// Compares a model with annotated text, on the text's own words. Returns the figures, and the sentences with the model's tags and
/// lemmas. `lemma` gives the lemma of a form with a tag.
pub fn evaluate(
    model: &Model,
    gold: &[Sentence],
    lemma: &dyn Fn(&str, Tag) -> String,
) -> (Evaluation, Vec<Sentence>) {
    let mut figures = Evaluation::default();
    let mut predicted = Vec::with_capacity(gold.len());
    let mut tagger = Tagger::new(model);
    let mut tags = Vec::new();
    let mut told: HashSet<(String, Tag)> = HashSet::new();
    for sentence in gold {
        tagger.tag(sentence.words.iter().map(|word| word.form.as_str()), &mut tags);
        let mut guess = sentence.clone();
        for ((word, gold), &tag) in guess.words.iter_mut().zip(&sentence.words).zip(&tags) {
            let guessed_lemma = lemma(&gold.form, tag);
            if let Some(right) = gold.tag {
                let is_right = right == tag;
                figures.tagged += 1;
                figures.right += u64::from(is_right);
                if !model.has_seen(&gold.form) {
                    figures.unknown.0 += 1;
                    figures.unknown.1 += u64::from(is_right);
                }
                let counts = figures.by_tag.entry(right).or_default();
                counts.0 += 1;
                counts.1 += u64::from(is_right);
                figures.by_tag.entry(tag).or_default().2 += 1;
                if !is_right {
                    *figures.confused.entry((right, tag)).or_default() += 1;
                }
                if let Some(right_lemma) = &gold.lemma {
                    let given = lemma(&gold.form, right);
                    let changes = right_lemma.to_lowercase() != gold.form.to_lowercase();
                    let counted =
                        [Some(&mut figures.lemmas), changes.then_some(&mut figures.changing_lemmas)];
                    for counts in counted.into_iter().flatten() {
                        counts.0 += 1;
                        counts.1 += u64::from(given == *right_lemma);
                        counts.2 += u64::from(guessed_lemma == *right_lemma);
                    }
                    if given != *right_lemma && told.insert((gold.form.clone(), right)) {
                        figures.wrong_lemmas.push((gold.form.clone(), right, right_lemma.clone(), given));
                    }
                }
            }
            word.tag = Some(tag);
            word.lemma = Some(guessed_lemma);
        }
        predicted.push(guess);
    }
    (figures, predicted)
}
