//! Learning a model from a treebank: an averaged perceptron (Collins 2002, "Discriminative training methods for hidden Markov models"),
//! decoded from left to right with its own guesses as history, and with first guesses, made without any tags, for the words behind.

use hashbrown::HashMap;

use crate::part_of_speech::Tag;
use crate::tag::conllu::{Sentence, Word};
use crate::tag::features::{
    AFTER, BEFORE, Capitals, HERE, Letters, PLACES, Side, Sketch, TWO_AFTER, TWO_BEFORE, of_form, with_tags,
    without_tags,
};
use crate::tag::form::{Asked, Form, text_number};
use crate::tag::gate::{SETTLED, allowed};
use crate::tag::model::{LearnedLemmas, LearnedWords, Model, Weights, row_of};
use crate::tag::tagger::best;
use crate::tag::word_classes::{ClassTable, WordClasses};
use crate::tag::word_uses::{UseTable, WordUses};
use crate::unicode::small_letters;

type Map<K, V> = HashMap<K, V, foldhash::fast::RandomState>;

/// How many perceptrons are learned and averaged.
const PERCEPTRONS: u64 = 10;
/// How often the treebank is gone through by each.
const ROUNDS: u64 = 12;
/// In so many rounds also the sentences of which few words have tags are gone through. They tell much about rare words, and nothing about how often a tag
/// occurs: what follows puts that right.
const ROUNDS_OF_ALL: u64 = 4;
/// A word that comes this often is a class of its own.
const COMMON: u32 = 10;
/// A word that comes this often has been seen with all its tags.
const SETTLED_FROM: u32 = 25;
/// Every so many sentences are learned a second time without capitals, so that text without them is served.
const UNCAPITALISED: usize = 3;

/// What running text of a language tells of words, beside a treebank.
#[derive(Clone, Copy, Debug, Default)]
pub struct RunningText<'t> {
    /// Words that stand among the same neighbours.
    pub classes: Option<&'t WordClasses>,
    /// How a model uses words.
    pub uses: Option<&'t WordUses>,
}

/// Learns a model from the words of the sentences that have tags, and from what running text of the language tells of more words. A word without a tag is
/// seen only by its neighbours: what it may be is guessed.
pub fn learn(sentences: &[Sentence], language: &str, about: &str, text: RunningText<'_>) -> Model {
    let classes = text.classes.map(WordClasses::table).unwrap_or_default();
    let uses = text.uses.map(WordUses::table).unwrap_or_default();
    let asked = if language == "en" { Asked::English } else { Asked::Nothing };
    let mut counts: Map<u32, u32> = Map::default();
    let mut seen: Map<u32, u32> = Map::default();
    let tagged = |word: &'_ Word| Some((text_number(&small_letters(&word.form)), word.tag?));
    for (number, tag) in sentences.iter().flat_map(|sentence| sentence.words.iter().filter_map(tagged)) {
        *counts.entry(number).or_default() += 1;
        *seen.entry(number).or_default() |= 1 << tag as u32;
    }
    for (word, tags) in &mut seen {
        if counts.get(word).is_some_and(|&count| count >= SETTLED_FROM) {
            *tags |= SETTLED;
        }
    }
    let allowed_of = |form: &Form<'_>| allowed(form, seen.get(&form.number()).copied());
    let mut common: Vec<u32> =
        counts.iter().filter(|(_, count)| **count >= COMMON).map(|(&word, _)| word).collect();
    common.sort_unstable();
    let is_common = |word: u32| common.binary_search(&word).is_ok();
    let mut prepared: Vec<Prepared> = Vec::new();
    for (number, sentence) in sentences.iter().enumerate() {
        let words = || sentence.words.iter().map(|word| (word.form.as_str(), word.tag));
        prepared.push(Prepared::new(words(), asked, (&is_common, (&classes, &uses)), &allowed_of));
        if number % UNCAPITALISED == 0 {
            let lowered: Vec<(String, Option<Tag>)> =
                words().map(|(form, tag)| (form.to_lowercase(), tag)).collect();
            let words = lowered.iter().map(|(form, tag)| (form.as_str(), *tag));
            prepared.push(Prepared::new(words, asked, (&is_common, (&classes, &uses)), &allowed_of));
        }
    }
    // Several perceptrons that have met the sentences in other orders err in other places: their mean errs less.
    let mut means: Map<u32, [f64; Tag::COUNT]> = Map::default();
    for number in 0..PERCEPTRONS {
        learned_in_order_of(number, &prepared).add_means(&mut means);
    }
    let mut seen: Vec<(u32, u32)> = seen.into_iter().collect();
    seen.sort_unstable();
    let features = rounded(means).into_iter().map(|(feature, weights)| (feature, row_of(&weights))).collect();
    Model::new(
        about.to_owned(),
        language.to_owned(),
        asked,
        Weights::of(features),
        LearnedWords { common, seen, classes, uses },
        lemmas(sentences),
    )
}

/// The perceptron of this number, which meets the sentences in an order of its own in every round.
fn learned_in_order_of(number: u64, prepared: &[Prepared]) -> Learning {
    // Pseudorandom numbers by shifts (Marsaglia 2003, "Xorshift RNGs").
    let mut random = 0x2545_f491_4f6c_dd1du64.wrapping_mul(2 * number + 1);
    let mut learning = Learning { weights: Map::default(), step: 0 };
    let mut order: Vec<usize> = (0..prepared.len()).collect();
    for round in 0..ROUNDS {
        if round == ROUNDS_OF_ALL {
            order.retain(|at| prepared[*at].is_tagged());
        }
        for index in (1..order.len()).rev() {
            random ^= random << 13;
            random ^= random >> 7;
            random ^= random << 17;
            order.swap(index, (random % (index as u64 + 1)) as usize);
        }
        for &index in &order {
            learning.sentence(&prepared[index]);
        }
    }
    learning
}

fn mostly_tagged(tags: impl ExactSizeIterator<Item = Option<Tag>>) -> bool {
    let words = tags.len();
    tags.flatten().count() * 2 > words
}

impl Sentence {
    /// Whether most of its words have tags: others are examples of single words.
    pub fn is_tagged(&self) -> bool {
        mostly_tagged(self.words.iter().map(|word| word.tag))
    }
}

/// A sentence with its features worked out.
struct Prepared {
    words: Vec<PreparedWord>,
}

struct PreparedWord {
    sketch: Sketch,
    /// That of the word behind it.
    after: Sketch,
    /// The features that depend on no tag.
    features: Vec<u32>,
    tag: Option<Tag>,
    /// The tags that the word may have, a bit for each; the right one is among `allowed`.
    open: u32,
    allowed: u32,
}

/// What is worked out of a form: its sketch, and its features by the place in which it stands.
type OfForm = (Sketch, [Vec<u32>; PLACES]);

impl Prepared {
    /// Whether most of its words have tags.
    fn is_tagged(&self) -> bool {
        mostly_tagged(self.words.iter().map(|word| word.tag))
    }

    fn new<'w>(
        words: impl Iterator<Item = (&'w str, Option<Tag>)>,
        asked: Asked,
        (is_common, of_text): (&impl Fn(u32) -> bool, (&ClassTable, &UseTable)),
        allowed_of: &impl Fn(&Form<'_>) -> u32,
    ) -> Prepared {
        let words: Vec<(Form<'_>, Option<Tag>)> =
            words.map(|(form, tag)| (Form::new(form, asked), tag)).collect();
        let capitals = Capitals::of(words.iter().map(|(form, _)| Letters::of(form)));
        let lowered: Vec<String> = match capitals.tell_nothing() {
            true => words.iter().map(|(form, _)| form.text.to_lowercase()).collect(),
            false => Vec::new(),
        };
        let read = words.iter().enumerate().map(|(at, (form, _))| match lowered.get(at) {
            Some(text) => Form { text, ..form.clone() },
            None => form.clone(),
        });
        let nothing = || [Form::new("", asked), Form::new("", asked)];
        let forms: Vec<Form<'_>> = nothing().into_iter().chain(read).chain(nothing()).collect();
        let of_forms: Vec<OfForm> = forms
            .iter()
            .map(|form| {
                let mut features: [Vec<u32>; PLACES] = Default::default();
                let sketch =
                    of_form(form, is_common, of_text, |place, feature| features[place].push(feature));
                (sketch, features)
            })
            .collect();
        let capitals = capitals.as_read();
        let word = |(at, around): (usize, &[OfForm])| {
            let places = [TWO_BEFORE, BEFORE, HERE, AFTER, TWO_AFTER];
            let mut features: Vec<u32> = around
                .iter()
                .zip(places)
                .flat_map(|((_, features), place)| &features[place])
                .copied()
                .collect();
            let near = [&around[1].0, &around[2].0, &around[3].0];
            features.extend(without_tags(near, at == 0, capitals));
            let (tag, open) = (words[at].1, allowed_of(&forms[at + 2]));
            PreparedWord {
                sketch: around[2].0,
                after: around[3].0,
                features,
                tag,
                open,
                allowed: open | tag.map_or(0, |tag| 1 << tag as u32),
            }
        };
        Prepared { words: of_forms.windows(5).enumerate().map(word).collect() }
    }
}

/// A weight that is being learned: its present value, and the sum over all steps so far.
#[derive(Clone, Copy, Default)]
struct Weight {
    now: f32,
    sum: f64,
    /// The step up to which `sum` reaches.
    step: u64,
}

struct Learning {
    weights: Map<u32, [Weight; Tag::COUNT]>,
    step: u64,
}

impl Learning {
    fn sentence(&mut self, sentence: &Prepared) {
        let words = &sentence.words;
        let mut before = Side::default();
        for (word, behind) in words.iter().zip(self.guessed_behind(words)) {
            let with_tags = with_tags(&word.sketch, &word.after, before, behind);
            let guess = best(&self.scores(word.features.iter().chain(&with_tags)), word.allowed, f32::MIN);
            self.step += 1;
            if let Some(tag) = word.tag.filter(|tag| *tag != guess) {
                for &feature in word.features.iter().chain(&with_tags) {
                    let weights = self.weights.entry(feature).or_default();
                    weights[tag as usize - 1].change(1.0, self.step);
                    weights[guess as usize - 1].change(-1.0, self.step);
                }
            }
            before = before.beyond(guess);
        }
    }

    /// By word: the tags of the words behind it, as they are guessed without any tags.
    fn guessed_behind(&self, words: &[PreparedWord]) -> Vec<Side> {
        let mut side = Side::default();
        let mut behind: Vec<Side> = words
            .iter()
            .rev()
            .map(|word| {
                let own = side;
                side = side.beyond(best(&self.scores(word.features.iter()), word.open, f32::MIN));
                own
            })
            .collect();
        behind.reverse();
        behind
    }

    fn scores<'f>(&self, features: impl Iterator<Item = &'f u32>) -> [f32; Tag::COUNT] {
        let mut scores = [0f32; Tag::COUNT];
        for weights in features.filter_map(|feature| self.weights.get(feature)) {
            for (score, weight) in scores.iter_mut().zip(weights) {
                *score += weight.now;
            }
        }
        scores
    }

    /// Adds the mean of each weight over all steps.
    fn add_means(self, means: &mut Map<u32, [f64; Tag::COUNT]>) {
        let steps = self.step.max(1) as f64;
        for (feature, weights) in self.weights {
            let row = means.entry(feature).or_default();
            for (mean, mut weight) in row.iter_mut().zip(weights) {
                weight.change(0.0, self.step);
                *mean += weight.sum / steps;
            }
        }
    }
}

/// The means of all perceptrons as whole numbers; those that hardly speak are left out.
fn rounded(means: Map<u32, [f64; Tag::COUNT]>) -> Vec<(u32, Vec<(u8, i16)>)> {
    const SCALE: f64 = 200.0;
    // A large model is as good without a third of its weights; in a small one each may be all that tells a word.
    const LARGE: usize = 100_000;
    let least = if means.len() > LARGE { 120.0 } else { 50.0 };
    let mut features: Vec<(u32, Vec<(u8, i16)>)> = means
        .into_iter()
        .filter_map(|(feature, row)| {
            let spoken: Vec<(u8, i16)> = (1..)
                .zip(row)
                .map(|(tag, mean)| (tag, (mean / PERCEPTRONS as f64 * SCALE).round()))
                .filter(|(_, mean)| mean.abs() >= least)
                .map(|(tag, mean)| (tag, mean.clamp(-32_000.0, 32_000.0) as i16))
                .collect();
            (!spoken.is_empty()).then_some((feature, spoken))
        })
        .collect();
    features.sort_unstable();
    features
}

impl Weight {
    fn change(&mut self, by: f32, step: u64) {
        self.sum += f64::from(self.now) * (step - self.step) as f64;
        self.step = step;
        self.now += by;
    }
}

/// The longest end of a form that rules are learned for, in characters.
const LONGEST_END: usize = 6;

/// Learns lemmas: whole forms, and what happens at the ends of forms.
fn lemmas(sentences: &[Sentence]) -> LearnedLemmas {
    let mut forms: Map<(String, u8), Map<String, u32>> = Map::default();
    let mut ends: Map<(String, u8), Map<(u8, String), u32>> = Map::default();
    for word in sentences.iter().flat_map(|sentence| &sentence.words) {
        let (Some(tag), Some(lemma)) = (word.tag, word.lemma.as_deref()) else { continue };
        let form = lemma_key(&word.form, tag);
        *forms.entry((form.clone(), tag as u8)).or_default().entry(lemma.to_owned()).or_default() += 1;
        let shared = form
            .char_indices()
            .zip(lemma.chars())
            .take_while(|((_, a), b)| a == b)
            .map(|((at, a), _)| at + a.len_utf8())
            .last();
        let shared = shared.unwrap_or(0);
        let Ok(cut) = u8::try_from(form.len() - shared) else { continue };
        let put = lemma[shared..].to_owned();
        let starts: Vec<usize> =
            form.char_indices().map(|(at, _)| at).rev().take(LONGEST_END).chain([form.len()]).collect();
        for start in starts {
            if form.len() - start >= usize::from(cut) {
                *ends
                    .entry((form[start..].to_owned(), tag as u8))
                    .or_default()
                    .entry((cut, put.clone()))
                    .or_default() += 1;
            }
        }
    }
    let forms = forms.into_iter().filter_map(|(key, lemmas)| Some((key, commonest(lemmas)?))).collect();
    let ends = ends.into_iter().filter(|(_, rules)| rules.values().sum::<u32>() > 1);
    LearnedLemmas { forms, ends: ends.filter_map(|(key, rules)| Some((key, commonest(rules)?))).collect() }
}

/// The form as lemmas are looked up by: in small letters, but for names.
pub(super) fn lemma_key(form: &str, tag: Tag) -> String {
    if tag == Tag::ProperNoun { form.to_owned() } else { form.to_lowercase() }
}

fn commonest<T: Ord>(counts: Map<T, u32>) -> Option<T> {
    counts.into_iter().max_by(|a, b| a.1.cmp(&b.1).then_with(|| b.0.cmp(&a.0))).map(|(what, _)| what)
}

impl Model {
    /// The lemma that was learned for a form with this tag; none where nothing was learned of such words.
    pub fn lemma(&self, form: &str, tag: Tag) -> Option<String> {
        let key = lemma_key(form, tag);
        let whole = (key, tag as u8);
        if let Some(lemma) = self.lemmas().forms.get(&whole) {
            return Some(lemma.clone());
        }
        let key = whole.0;
        let starts: Vec<usize> = key.char_indices().map(|(at, _)| at).rev().take(LONGEST_END).collect();
        let starts = starts.into_iter().rev().chain([key.len()]);
        for start in starts {
            if let Some((cut, put)) = self.lemmas().ends.get(&(key[start..].to_owned(), tag as u8)) {
                let kept = key.len().checked_sub(usize::from(*cut)).and_then(|kept| key.get(..kept))?;
                let lemma = format!("{kept}{put}");
                return (!lemma.is_empty()).then_some(lemma);
            }
        }
        None
    }

    /// The lemma of a form with this tag: of an English model by the lemmatiser on the shelf, else as it was learned; the form itself
    /// where nothing was.
    pub fn lemma_of(&self, form: &str, tag: Tag) -> String {
        match self.asked {
            Asked::English => crate::lemma::english().lemma(form, Some(tag)).text.into_owned(),
            Asked::Nothing => self.lemma(form, tag).unwrap_or_else(|| form.to_owned()),
        }
    }

    /// The commonest lemma that was learned for a form with any tag.
    pub fn lemma_without_tag(&self, form: &str) -> Option<String> {
        let small = form.to_lowercase();
        let tags = self.seen.get(&text_number(&small.replace('\u{2019}', "'"))).copied()?;
        let candidates = [Tag::Verb, Tag::Noun, Tag::Adjective, Tag::Adverb];
        let known = candidates.into_iter().chain(Tag::ALL).filter(|tag| tags >> *tag as u32 & 1 == 1);
        known.into_iter().find_map(|tag| self.lemmas().forms.get(&(lemma_key(form, tag), tag as u8)).cloned())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::tag::{Tagger, read_conllu};

    fn sentences(text: &str) -> Vec<Sentence> {
        let mut lines = String::new();
        for sentence in text.lines() {
            for (place, word) in (1..).zip(sentence.split(' ')) {
                let (form, tag) = word.split_once('/').unwrap_or((word, "_"));
                lines.push_str(&format!("{place}\t{form}\t_\t{tag}\t_\t_\t_\t_\t_\t_\n"));
            }
            lines.push('\n');
        }
        read_conllu(&lines).expect("a treebank")
    }

    #[test]
    fn a_word_without_a_tag_is_seen_by_its_neighbours_alone() {
        let treebank = sentences(
            "the/DET tern/NOUN flew/VERB\nthe/DET gull/NOUN slept/VERB\na tern/NOUN\ngrate/VERB the nutmeg\ngrate/VERB the peel",
        );
        let whole: Vec<bool> = treebank.iter().map(Sentence::is_tagged).collect();
        assert_eq!(whole, [true, true, false, false, false]);
        let model = learn(&treebank, "xx", "", RunningText::default());
        assert!(model.has_seen("grate") && model.has_seen("tern"));
        assert!(!model.has_seen("nutmeg") && !model.has_seen("a"));
        let mut tags = Vec::new();
        Tagger::new(&model).tag(["grate", "the", "gull"].into_iter(), &mut tags);
        assert_eq!(tags, [Tag::Verb, Tag::Determiner, Tag::Noun]);
    }
}
