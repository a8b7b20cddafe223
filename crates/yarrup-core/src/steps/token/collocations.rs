//! Learning which words belong together, by how often they stand side by side.

use std::sync::Arc;

use hashbrown::{HashMap, HashSet};

use crate::count_sketch::CountSketch;
use crate::part_of_speech::Tag;
use crate::seen::{Seen, SeenReader};
use crate::step::{Arriving, Gap, Learned, Learner, Place, Shown, Term, Terms, mixed_text_hash, same};
use crate::steps::token::tag_patterns::TagPatterns;

type State = foldhash::fast::RandomState;

/// What makes words a phrase.
#[derive(Debug)]
pub(crate) struct Criteria {
    pub(crate) min_count: u64,
    pub(crate) score: Score,
    pub(crate) min_score: f64,
    pub(crate) top: usize,
    /// How many words a phrase may have: two or three.
    pub(crate) longest: usize,
    /// Whether words that were dropped may have stood between them.
    pub(crate) across: bool,
    /// What may not stand at its ends.
    pub(crate) stop: HashSet<String, State>,
    /// Which parts of speech its words have at least every other time; any, if there are none.
    pub(crate) tags: TagPatterns,
    /// Phrases that are known: their words are in no other.
    pub(crate) listed: Terms,
}

/// How strongly words belong together.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Score {
    /// Pointwise mutual information, normalised (Bouma 2009).
    Npmi,
    /// The log-likelihood ratio (Dunning 1993).
    Likelihood,
    /// The C-value (Frantzi, Ananiadou and Mima 2000, "Automatic recognition of multi-word terms: the C-value/NC-value method"): how often a phrase
    /// comes by itself and not within longer ones, more for more words.
    CValue,
}

/// How often words stand side by side: count, how many of these with parts of speech that fit, documents, and the last of them.
#[derive(Clone, Copy, Debug, Default)]
struct Counts {
    count: u32,
    fits: u32,
    documents: u32,
    last: u32,
}

/// Up to three words that stand side by side; the third is [`NO_WORD`] in a pair.
type Run = (u32, u32, u32);
const NO_WORD: u32 = u32::MAX;

/// How many different runs of words one worker keeps. Beyond it, a first pass only sketches how often runs come, and a second counts those that
/// may come often enough: memory stays bounded, and the result the same. As many as a table of 2^23 places holds: some 200 MB, and enough for 100 MB of
/// prose without a second pass.
const MOST_RUNS: usize = 7 << 20;

/// What a token is to the learner.
#[derive(Clone, Copy, Debug)]
enum Word {
    /// A word, by its number.
    Number(u32),
    /// Something that no phrase goes over.
    Parts,
}

/// Counts neighbours, and learns which of them belong together.
pub(crate) struct Collocations {
    criteria: Arc<Criteria>,
    words: HashMap<String, u32, State>,
    spellings: Vec<String>,
    /// By the number that a token's spelling has: the word that it is, if it was seen.
    known: Vec<Option<Word>>,
    /// By word: the hash of its spelling, the same for every worker.
    hashes: Vec<u64>,
    counts: Vec<u64>,
    tokens: u64,
    runs: HashMap<Run, Counts, State>,
    document: u32,
    most_runs: usize,
    /// Once there are too many runs: how often they come, at least.
    sketch: Option<Box<CountSketch>>,
    /// In a second pass: what the first has sketched.
    filter: Option<Arc<CountSketch>>,
}

impl Collocations {
    pub(crate) fn new(criteria: Arc<Criteria>) -> Collocations {
        Collocations::keeping(criteria, MOST_RUNS)
    }

    fn keeping(criteria: Arc<Criteria>, most_runs: usize) -> Collocations {
        Collocations {
            criteria,
            words: HashMap::default(),
            spellings: Vec::new(),
            known: Vec::new(),
            hashes: Vec::new(),
            counts: Vec::new(),
            tokens: 0,
            runs: HashMap::default(),
            document: 0,
            most_runs,
            sketch: None,
            filter: None,
        }
    }

    fn number(&mut self, word: &str) -> u32 {
        if let Some(&number) = self.words.get(word) {
            return number;
        }
        let number = self.spellings.len() as u32;
        self.spellings.push(word.to_owned());
        self.hashes.push(mixed_text_hash(word));
        self.counts.push(0);
        self.words.insert(word.to_owned(), number);
        number
    }

    /// What a token is to the learner.
    #[inline]
    fn word(&mut self, token: &Place<'_>) -> Word {
        match self.known.get(token.number as usize) {
            Some(Some(known)) => *known,
            _ => self.new_word(token),
        }
    }

    #[cold]
    fn new_word(&mut self, token: &Place<'_>) -> Word {
        // A token with a space in it cannot be told from several in the list of what was learned.
        let word = match token.parts() || token.text().contains(char::is_whitespace) {
            true => Word::Parts,
            false => Word::Number(self.number(token.text())),
        };
        let place = token.number as usize;
        if place >= self.known.len() {
            self.known.resize(place + 1, None);
        }
        self.known[place] = Some(word);
        word
    }

    fn is_stop(&self, number: u32) -> bool {
        self.criteria.stop.contains(&self.spellings[number as usize].to_lowercase())
    }

    fn note(&mut self, run: Run, fits: bool) {
        if let Some(sketch) = &mut self.sketch {
            sketch.add(hash_of(&self.hashes, run), 1);
            return;
        }
        if let Some(filter) = &self.filter
            && filter.most(hash_of(&self.hashes, run)) < self.criteria.min_count
        {
            return;
        }
        let counts = self.runs.entry(run).or_default();
        counts.count = counts.count.saturating_add(1);
        counts.fits = counts.fits.saturating_add(u32::from(fits));
        if counts.last != self.document {
            (counts.documents, counts.last) = (counts.documents + 1, self.document);
        }
        if self.runs.len() > self.most_runs && self.filter.is_none() {
            self.give_up_counting();
        }
    }

    /// Goes over from counting runs to a sketch of their counts.
    fn give_up_counting(&mut self) {
        if self.sketch.is_some() {
            return;
        }
        let mut sketch = Box::<CountSketch>::default();
        for (run, counts) in std::mem::take(&mut self.runs) {
            sketch.add(hash_of(&self.hashes, run), u64::from(counts.count));
        }
        self.sketch = Some(sketch);
    }

    /// The score of two words of which so many stand together.
    fn score(&self, a: u32, b: u32, together: u64) -> f64 {
        let total = self.tokens.max(1) as f64;
        let (a, b, both) = (self.counts[a as usize] as f64, self.counts[b as usize] as f64, together as f64);
        match self.criteria.score {
            Score::CValue => both,
            Score::Npmi => {
                let chance = both / total;
                if chance >= 1.0 { 1.0 } else { (chance * total * total / (a * b)).ln() / -chance.ln() }
            }
            Score::Likelihood => {
                let term = |count: f64, expected: f64| {
                    if count > 0.0 { count * (count / expected).ln() } else { 0.0 }
                };
                // The ratio tells as well which words avoid each other.
                if both <= a * b / total {
                    return 0.0;
                }
                let (only_a, only_b, neither) = (a - both, b - both, total - a - b + both);
                2.0 * (term(both, a * b / total)
                    + term(only_a, a * (total - b) / total)
                    + term(only_b, (total - a) * b / total)
                    + term(neither, (total - a) * (total - b) / total))
            }
        }
    }

    /// How strongly the words of a run belong together.
    fn score_of(&self, (a, b, c): Run, together: u64) -> f64 {
        if c == NO_WORD {
            self.score(a, b, together)
        } else if self.is_stop(b) {
            // With a stop word inside, its neighbours must belong together; else each pair must.
            self.score(a, c, together)
        } else {
            let pair = |a, b| {
                self.runs
                    .get(&(a, b, NO_WORD))
                    .map_or(0.0, |counts| self.score(a, b, u64::from(counts.count)))
            };
            pair(a, b).min(pair(b, c))
        }
    }

    /// Whether a run may be a phrase: it comes often enough, begins and ends with no stop word, and its parts of speech fit.
    fn may_be(&self, (a, b, c): Run, counts: &Counts) -> bool {
        let last = if c == NO_WORD { b } else { c };
        let criteria = &self.criteria;
        u64::from(counts.count) >= criteria.min_count
            && (criteria.tags.is_empty() || counts.fits * 2 >= counts.count)
            && !self.is_stop(a)
            && !self.is_stop(last)
    }

    /// The runs that may be phrases, with their scores.
    fn scored(&self) -> Vec<(Run, &Counts, f64)> {
        let may_be = self.runs.iter().filter(|(run, counts)| self.may_be(**run, counts));
        if self.criteria.score == Score::CValue {
            return c_values(&may_be.map(|(run, counts)| (*run, counts)).collect::<Vec<_>>());
        }
        may_be.map(|(run, counts)| (*run, counts, self.score_of(*run, u64::from(counts.count)))).collect()
    }

    /// Which tokens are in listed phrases.
    fn are_listed(&self, tokens: &[Place<'_>]) -> Vec<bool> {
        let listed = &self.criteria.listed;
        if listed.is_empty() {
            return Vec::new();
        }
        let mut are = vec![false; tokens.len()];
        listed.find(tokens, |start, end, _| are[start..end].fill(end - start > 1));
        are
    }
}

/// The C-values of runs: how often a run comes, less the mean count of the longer runs that it is a part of; times the binary logarithm of its words.
fn c_values<'c>(runs: &[(Run, &'c Counts)]) -> Vec<(Run, &'c Counts, f64)> {
    let mut within: HashMap<Run, (u64, u64), State> = HashMap::default();
    for ((a, b, c), counts) in runs.iter().filter(|((.., c), _)| *c != NO_WORD) {
        for part in [(*a, *b, NO_WORD), (*b, *c, NO_WORD)] {
            let (sum, longer) = within.entry(part).or_default();
            (*sum, *longer) = (*sum + u64::from(counts.count), *longer + 1);
        }
    }
    let value = |(run, counts): &(Run, &'c Counts)| {
        let words: f64 = if run.2 == NO_WORD { 2.0 } else { 3.0 };
        let nested = within.get(run).map_or(0.0, |(sum, longer)| *sum as f64 / *longer as f64);
        (*run, *counts, words.log2() * (f64::from(counts.count) - nested))
    };
    runs.iter().map(value).collect()
}

impl Learner for Collocations {
    fn shown(&self) -> Shown {
        Shown::Tokens
    }

    fn tokens(&mut self, arriving: &Arriving<'_>) {
        self.document += 1;
        let widest = if self.criteria.across { Gap::Words } else { Gap::None };
        let mut before: [Option<(u32, Option<Tag>)>; 2] = [None, None];
        let are_listed = self.are_listed(arriving.tokens);
        for (place, token) in arriving.tokens.iter().enumerate() {
            let is_listed = are_listed.get(place).is_some_and(|is_listed| *is_listed);
            if is_listed || token.spared {
                before = [None, None];
                continue;
            }
            let Word::Number(here) = self.word(token) else {
                before = [None, None];
                continue;
            };
            if token.gap > widest {
                before = [None, None];
            }
            self.counts[here as usize] += 1;
            self.tokens += 1;
            if let Some((last, tag)) = before[1] {
                let fits = self.criteria.tags.fit(&[tag, token.tag]);
                self.note((last, here, NO_WORD), fits);
                if self.criteria.longest > 2
                    && let Some((first, first_tag)) = before[0]
                {
                    let fits = self.criteria.tags.fit(&[first_tag, tag, token.tag]);
                    self.note((first, last, here), fits);
                }
            }
            before = [before[1], Some((here, token.tag))];
        }
    }

    fn absorb(&mut self, other: Box<dyn Learner>) {
        let mut other: Collocations = same(other);
        if self.sketch.is_some() || other.sketch.is_some() {
            self.give_up_counting();
            other.give_up_counting();
        }
        let numbers: Vec<u32> = other.spellings.iter().map(|word| self.number(word)).collect();
        for (number, count) in numbers.iter().zip(&other.counts) {
            self.counts[*number as usize] += count;
        }
        self.tokens += other.tokens;
        for ((a, b, c), theirs) in other.runs {
            let ours = |number: u32| numbers.get(number as usize).copied().unwrap_or(NO_WORD);
            let counts = self.runs.entry((ours(a), ours(b), ours(c))).or_default();
            counts.count = counts.count.saturating_add(theirs.count);
            counts.fits = counts.fits.saturating_add(theirs.fits);
            counts.documents += theirs.documents;
        }
        if let (Some(ours), Some(theirs)) = (&mut self.sketch, &other.sketch) {
            ours.absorb(theirs);
        }
    }

    fn needs_another_pass(&mut self) -> bool {
        let Some(sketch) = self.sketch.take() else { return false };
        let again = Collocations::keeping(Arc::clone(&self.criteria), self.most_runs);
        *self = Collocations { filter: Some(Arc::from(sketch)), ..again };
        true
    }

    fn seen(&mut self) -> Seen {
        let mut seen = Seen::default();
        seen.numbers.extend([u64::from(self.filter.is_some()), self.tokens, self.spellings.len() as u64]);
        seen.numbers.append(&mut self.counts);
        seen.texts.append(&mut self.spellings);
        let mut runs: Vec<(Run, Counts)> = std::mem::take(&mut self.runs).into_iter().collect();
        runs.sort_unstable_by_key(|(run, _)| *run);
        seen.numbers.push(runs.len() as u64);
        for ((a, b, c), counts) in runs {
            seen.numbers.extend([a, b, c, counts.count, counts.fits, counts.documents].map(u64::from));
        }
        if let Some(sketch) = self.sketch.as_deref().or(self.filter.as_deref()) {
            seen.bytes = sketch.bytes();
        }
        seen
    }

    fn that_has(&self, seen: Seen) -> Option<Box<dyn Learner>> {
        let mut seen = seen.read();
        let mut learner = Collocations::keeping(Arc::clone(&self.criteria), self.most_runs);
        let is_second = seen.number()? == 1;
        learner.tokens = seen.number()?;
        for count in seen.many(SeenReader::number)? {
            let number = learner.number(&seen.text()?);
            *learner.counts.get_mut(number as usize)? += count;
        }
        let words = learner.spellings.len() as u32;
        let runs = seen.many(|seen| {
            let run = (seen.small()?, seen.small()?, seen.small()?);
            let is_run = run.0 < words && run.1 < words && (run.2 < words || run.2 == NO_WORD);
            let (count, fits) = (seen.small()?, seen.small()?);
            let counts = Counts { count, fits, documents: seen.small()?, last: 0 };
            is_run.then_some((run, counts))
        })?;
        learner.runs = runs.into_iter().collect();
        let sketch = CountSketch::of_bytes(&seen.bytes());
        match is_second {
            true => learner.filter = Some(Arc::new(sketch?)),
            false => learner.sketch = sketch.map(Box::new),
        }
        seen.is_empty().then(|| -> Box<dyn Learner> { Box::new(learner) })
    }

    fn fresh(&self) -> Box<dyn Learner> {
        let fresh = Collocations::keeping(Arc::clone(&self.criteria), self.most_runs);
        Box::new(Collocations { filter: self.filter.clone(), ..fresh })
    }

    fn learned(
        self: Box<Self>,
        _vocabulary: &mut dyn Iterator<Item = Term<'_>>,
        _documents: u64,
    ) -> Vec<Learned> {
        let spelled = |number: u32| self.spellings.get(number as usize).map(String::as_str);
        let scored = self.scored().into_iter().filter(|(.., score)| *score >= self.criteria.min_score);
        let named = scored.map(|(run, counts, score)| {
            let words: Vec<&str> = [run.0, run.1, run.2].into_iter().filter_map(spelled).collect();
            (words.join(" "), counts, score)
        });
        let mut learned: Vec<(String, &Counts, f64)> = named.collect();
        learned
            .sort_by(|a, b| b.2.total_cmp(&a.2).then(b.1.count.cmp(&a.1.count)).then_with(|| a.0.cmp(&b.0)));
        learned.truncate(self.criteria.top);
        let as_learned = |(text, counts, score): (String, &Counts, f64)| Learned {
            text,
            to: None,
            count: u64::from(counts.count),
            documents: u64::from(counts.documents),
            score: Some(score),
        };
        learned.into_iter().map(as_learned).collect()
    }
}

/// The hash of a run by those of its words.
fn hash_of(hashes: &[u64], (a, b, c): Run) -> u64 {
    let third = hashes.get(c as usize).copied().unwrap_or(0x51ed_270b);
    let mix = |sum: u64, next: u64| (sum ^ next).wrapping_mul(0x9e37_79b9_7f4a_7c15).rotate_left(31);
    mix(mix(mix(0, hashes[a as usize]), hashes[b as usize]), third)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::step::{Document, NoFields, Place};

    fn learner(most_runs: usize) -> Collocations {
        let criteria = Criteria {
            min_count: 2,
            score: Score::Npmi,
            min_score: 0.0,
            top: usize::MAX,
            longest: 3,
            across: false,
            stop: ["of".to_owned()].into_iter().collect(),
            tags: TagPatterns::default(),
            listed: Terms::new(false, false),
        };
        Collocations::keeping(Arc::new(criteria), most_runs)
    }

    /// A number for a spelling: a small one, and another for each that the tests have.
    fn number_of(text: &str) -> u32 {
        (mixed_text_hash(text) % 1_000_003) as u32
    }

    fn show(learner: &mut dyn Learner, texts: &[&str]) {
        for text in texts {
            let place = |text| Place::alone(text, number_of(text));
            let tokens: Vec<Place<'_>> = text.split(' ').map(place).collect();
            let document = Document { text, fields: &NoFields, order: 0 };
            learner.tokens(&Arriving {
                document: &document,
                tokens_before: tokens.len() as u64,
                tokens: &tokens,
            });
        }
    }

    /// What workers learn that each see some of the texts, in as many passes as they want.
    fn learned(most_runs: usize, shards: &[&[&str]]) -> (Vec<Learned>, u32) {
        let mut sum: Box<dyn Learner> = Box::new(learner(most_runs));
        let mut passes = 0;
        loop {
            let mut others: Vec<Box<dyn Learner>> = shards[1..].iter().map(|_| sum.fresh()).collect();
            show(sum.as_mut(), shards[0]);
            for (other, texts) in others.iter_mut().zip(&shards[1..]) {
                show(other.as_mut(), texts);
            }
            // What each has seen may be kept in between, and what was begun as well.
            for mut other in others {
                let seen = other.seen();
                let kept = other.that_has(seen).expect("what it has seen");
                sum.absorb(kept);
            }
            passes += 1;
            if !sum.needs_another_pass() {
                return (sum.learned(&mut std::iter::empty(), 0), passes);
            }
            let seen = sum.seen();
            sum = sum.that_has(seen).expect("what the next pass begins with");
        }
    }

    /// Dunning 1993's ratio by its definition, for `a` standing before `b` both times of four tokens.
    #[test]
    fn only_words_that_attract_each_other_have_a_likelihood() {
        let mut one = learner(MOST_RUNS);
        let criteria = Criteria {
            score: Score::Likelihood,
            min_count: 2,
            min_score: 0.0,
            top: 9,
            longest: 2,
            across: false,
            stop: HashSet::default(),
            tags: TagPatterns::default(),
            listed: Terms::new(false, false),
        };
        one.criteria = Arc::new(criteria);
        show(&mut one, &["a b", "a b", "c a", "c c"]);
        let (a, b, c) = (one.words["a"], one.words["b"], one.words["c"]);
        // 8 tokens; a 3, b 2, c 3; a b twice: 2(2 ln(2/.75) + 1 ln(1/2.25) + 0 + 5 ln(5/3.75)).
        let expected = 2.0 * (2.0 * (2.0f64 / 0.75).ln() + (1.0f64 / 2.25).ln() + 5.0 * (5.0f64 / 3.75).ln());
        assert!((one.score(a, b, 2) - expected).abs() < 1e-9, "{}", one.score(a, b, 2));
        // Once in eight, where 9/8 would be by chance.
        assert!(one.score(c, a, 1).abs() < 1e-12);
        // Bouma 2009: ln(p(ab) / (p(a) p(b))) / -ln p(ab), with a = 3/8, b = 2/8, ab = 2/8.
        let npmi = Collocations { criteria: learner(1).criteria, ..one };
        let expected = (0.25f64 / (0.375 * 0.25)).ln() / -(0.25f64.ln());
        assert!((npmi.score(a, b, 2) - expected).abs() < 1e-9);
    }

    fn phrases(criteria: Criteria, texts: &[&str]) -> Vec<(String, u64)> {
        let mut learner: Box<dyn Learner> = Box::new(Collocations::new(Arc::new(criteria)));
        show(learner.as_mut(), texts);
        let learned = learner.learned(&mut std::iter::empty(), 0);
        learned.into_iter().map(|phrase| (phrase.text, phrase.count)).collect()
    }

    fn criteria() -> Criteria {
        let stop = ["of".to_owned(), "The".to_lowercase()].into_iter().collect();
        Criteria {
            min_count: 2,
            score: Score::Npmi,
            min_score: -1.0,
            top: usize::MAX,
            longest: 3,
            across: false,
            stop,
            tags: TagPatterns::default(),
            listed: Terms::new(false, false),
        }
    }

    #[test]
    fn three_words_belong_together_as_much_as_the_weaker_two() {
        // `marsh harrier` always; `harrier saw` as often as not.
        let texts = [
            "marsh harrier saw",
            "marsh harrier saw",
            "harrier x saw y",
            "harrier x saw y",
            "saw x",
            "saw z",
        ];
        let strict = |min_score| {
            let found = phrases(Criteria { min_score, ..criteria() }, &texts);
            found.into_iter().any(|(phrase, _)| phrase == "marsh harrier saw")
        };
        let mut one = Collocations::new(Arc::new(criteria()));
        show(&mut one, &texts);
        let (a, b, c) = (one.words["marsh"], one.words["harrier"], one.words["saw"]);
        let (strong, weak) = (one.score(a, b, 2), one.score(b, c, 2));
        assert!(strong > weak + 0.05, "{strong} {weak}");
        assert!(strict(weak) && !strict(f64::midpoint(weak, strong)));
        assert_eq!(one.score_of((a, b, c), 2), weak);
    }

    #[test]
    fn phrases_end_with_no_stop_word_and_come_in_a_fixed_order() {
        let texts = [
            "birds of prey",
            "birds of prey",
            "zed yak",
            "zed yak",
            "ant bee",
            "ant bee",
            "the tern",
            "the tern",
            "of gulls",
            "of gulls",
        ];
        let found = phrases(criteria(), &texts);
        let names: Vec<&str> = found.iter().map(|(phrase, _)| phrase.as_str()).collect();
        // Equal scores: by count, then by their letters.
        assert_eq!(names, ["ant bee", "birds of prey", "zed yak"]);
        let more = [&texts[..], &["zed yak"]].concat();
        let found = phrases(Criteria { score: Score::Likelihood, ..criteria() }, &more);
        assert_eq!(found[0], ("zed yak".to_owned(), 3));
        let top = phrases(Criteria { top: 1, ..criteria() }, &texts);
        assert_eq!(top, [("ant bee".to_owned(), 2)]);
        assert!(phrases(Criteria { min_count: 3, ..criteria() }, &texts).is_empty());
        let two = phrases(Criteria { longest: 2, ..criteria() }, &texts);
        assert!(two.iter().all(|(phrase, _)| phrase.split(' ').count() == 2), "{two:?}");
    }

    /// The example of Frantzi, Ananiadou and Mima 2000, section 2.3, in small: a part of longer terms counts for what it is beside them.
    #[test]
    fn a_part_of_longer_phrases_counts_by_itself_alone() {
        let texts: Vec<&str> =
            [vec!["soft contact lens"; 5], vec!["hard contact lens"; 3], vec!["contact lens"; 2]].concat();
        let values = Criteria { score: Score::CValue, stop: HashSet::default(), min_count: 2, ..criteria() };
        let mut learner: Box<dyn Learner> = Box::new(Collocations::new(Arc::new(values)));
        show(learner.as_mut(), &texts);
        let learned = learner.learned(&mut std::iter::empty(), 0);
        let value = |phrase: &str| learned.iter().find(|one| one.text == phrase).and_then(|one| one.score);
        // Ten times, less the mean of five and three.
        assert_eq!(value("contact lens"), Some(10.0 - 4.0));
        assert_eq!(value("soft contact lens"), Some(3f64.log2() * 5.0));
        // Never without the lens.
        assert_eq!(value("soft contact"), Some(0.0));
    }

    #[test]
    fn parts_of_speech_must_fit_every_other_time() {
        let learned = |fitting: usize| {
            let tags = TagPatterns::read(["adjective noun"]).expect("a pattern");
            let criteria = Criteria { tags, stop: HashSet::default(), ..criteria() };
            let mut learner: Box<dyn Learner> = Box::new(Collocations::new(Arc::new(criteria)));
            for text in 0..4 {
                let second = if text < fitting { Tag::Noun } else { Tag::Verb };
                let place = |text, tag| Place { tag: Some(tag), ..Place::alone(text, number_of(text)) };
                let tokens = [place("old", Tag::Adjective), place("marsh", second)];
                let document = Document { text: "", fields: &NoFields, order: text as u64 };
                learner.tokens(&Arriving { document: &document, tokens_before: 2, tokens: &tokens });
            }
            learner.learned(&mut std::iter::empty(), 0).len()
        };
        assert_eq!((learned(1), learned(2), learned(4)), (0, 1, 1));
    }

    #[test]
    fn shards_and_bounded_memory_change_nothing() {
        let texts = [
            "marsh harrier over the marsh",
            "a marsh harrier and birds of prey",
            "birds of prey at the harrier nest",
            "the nest of a marsh harrier by the marsh",
        ];
        let (whole, passes) = learned(MOST_RUNS, &[&texts]);
        assert!(whole.iter().any(|phrase| phrase.text == "birds of prey" && phrase.documents == 2));
        assert_eq!(passes, 1);
        assert_eq!(learned(MOST_RUNS, &[&texts[..1], &texts[1..]]), (whole.clone(), 1));
        assert_eq!(learned(5, &[&texts]), (whole.clone(), 2));
        assert_eq!(learned(5, &[&texts[2..], &texts[..2]]), (whole, 2));
    }
}
