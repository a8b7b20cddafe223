//! Classes of words that stand among the same neighbours, learned from running text without any annotation: what a tagger can know of words
//! that no treebank holds.
//!
//! The classes are those that make the text likeliest when each word is told by its class, and each class by the class before it; they are found by
//! exchange: each word in turn goes to the class where it does best (Kneser and Ney 1993, "Improved clustering techniques for class-based
//! statistical language modelling"; Martin, Liermann and Ney 1998, "Algorithms for bigram and trigram word clustering"). Brown et al. 1992,
//! "Class-based n-gram models of natural language", is the source of the criterion.

use std::borrow::Cow;
use std::cmp::Reverse;
use std::collections::BTreeMap;
use std::fmt::Write as _;

use hashbrown::HashMap;

use crate::tag::form::text_number;
use crate::tag::word_file::{MalformedWordFile, lines};
use crate::unicode::small_letters;

type Map<K, V> = HashMap<K, V, foldhash::fast::RandomState>;

/// What is learned from running text: words in fine classes, and these in coarse ones.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct WordClasses {
    /// Words in small letters, each digit as 0, with their fine class.
    words: BTreeMap<String, u16>,
    /// The coarse class of each fine one.
    coarse: Vec<u16>,
}

/// How many classes there are to be, and which words get one.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct ClassCounts {
    /// Fine classes, at most 60,000.
    pub fine: usize,
    /// Coarse classes.
    pub coarse: usize,
    /// Words that come less often have none.
    pub least: u64,
}

/// Most rounds of exchange. A round in which fewer than one word in two hundred moves is the last.
const ROUNDS: usize = 12;

/// A word in small letters as it is looked up: each digit as 0.
fn folded(small: &str) -> Cow<'_, str> {
    if !small.bytes().any(|byte| byte.is_ascii_digit()) {
        return Cow::Borrowed(small);
    }
    Cow::Owned(small.chars().map(|c| if c.is_ascii_digit() { '0' } else { c }).collect())
}

/// Meets running text, and learns classes from it.
#[derive(Debug, Default)]
pub struct WordClassLearner {
    numbers: Map<String, u32>,
    counts: Vec<u64>,
    /// The words of all texts by their numbers, with [`END`] behind each text.
    stream: Vec<u32>,
}

const END: u32 = u32::MAX;

impl WordClassLearner {
    /// Meets the tokens of one text.
    pub fn text<'t>(&mut self, tokens: impl Iterator<Item = &'t str>) {
        for token in tokens {
            let small = small_letters(token);
            let word = folded(&small);
            let number = match self.numbers.get(&*word) {
                Some(&number) => number,
                None => {
                    let number = self.counts.len() as u32;
                    self.numbers.insert(word.into_owned(), number);
                    self.counts.push(0);
                    number
                }
            };
            self.counts[number as usize] += 1;
            self.stream.push(number);
        }
        self.stream.push(END);
    }

    /// How many tokens it has met.
    pub fn tokens(&self) -> u64 {
        self.counts.iter().sum()
    }

    /// The classes of the words met. `told` hears of each round: whether classes move and no longer words, which
    /// round it is, and how many moved.
    pub fn learn(self, counts: ClassCounts, mut told: impl FnMut(bool, usize, usize)) -> WordClasses {
        let mut words: Vec<(String, u32)> = self
            .numbers
            .into_iter()
            .filter(|(_, number)| self.counts[*number as usize] >= counts.least.max(1))
            .collect();
        words.sort_by(|a, b| {
            let count = |number: u32| Reverse(self.counts[number as usize]);
            (count(a.1), &a.0).cmp(&(count(b.1), &b.0))
        });
        // Words in the order of their counts, then those that are too rare, then what stands between texts.
        let (rare, between) = (words.len() as u32, words.len() as u32 + 1);
        let mut place = vec![rare; self.counts.len()];
        for (index, (_, number)) in words.iter().enumerate() {
            place[*number as usize] = index as u32;
        }
        let mut pairs: Map<(u32, u32), u64> = Map::default();
        let mut last = between;
        for number in self.stream {
            let here = if number == END { between } else { place[number as usize] };
            *pairs.entry((last, here)).or_default() += 1;
            last = here;
        }
        let fine =
            Exchange::new(words.len(), counts.fine, pairs).run(|round, moved| told(false, round, moved));
        // The fine classes stand among one another as words do.
        let pairs = fine.pairs_of_classes();
        let coarse =
            Exchange::new(fine.classes, counts.coarse, pairs).run(|round, moved| told(true, round, moved));
        WordClasses {
            words: words.into_iter().map(|(word, _)| word).zip(fine.class.iter().copied()).collect(),
            coarse: coarse.class[..fine.classes].to_vec(),
        }
    }
}

/// Words being exchanged between classes. The last two words are fixed in classes of their own: the rare ones, and what stands between texts.
struct Exchange {
    /// How many classes words may go to.
    classes: usize,
    words: usize,
    /// By word, the fixed two behind the others.
    class: Vec<u16>,
    after: Vec<Vec<(u32, f64)>>,
    before: Vec<Vec<(u32, f64)>>,
    /// How often each word comes.
    count: Vec<f64>,
    /// How often a class stands before another: rows of all classes, the fixed two as well.
    pairs: Vec<f64>,
    /// How often each class comes.
    total: Vec<f64>,
    /// n ln n of small counts.
    entropy: Vec<f64>,
}

/// The neighbours of a word that is being moved, by class.
#[derive(Default)]
struct Neighbours {
    count: Vec<f64>,
    classes: Vec<usize>,
}

impl Neighbours {
    fn gather(&mut self, of: &[(u32, f64)], word: usize, class: &[u16]) {
        for class in self.classes.drain(..) {
            self.count[class] = 0.0;
        }
        for (other, count) in of.iter().filter(|(other, _)| *other as usize != word) {
            let class = usize::from(class[*other as usize]);
            if self.count[class] == 0.0 {
                self.classes.push(class);
            }
            self.count[class] += count;
        }
    }
}

impl Exchange {
    fn new(words: usize, classes: usize, pairs: Map<(u32, u32), u64>) -> Exchange {
        let classes = classes.clamp(1, usize::from(u16::MAX) - 2).min(words.max(1));
        let mut pairs: Vec<((u32, u32), u64)> = pairs.into_iter().collect();
        // So that the same text gives the same classes.
        pairs.sort_unstable();
        let mut class: Vec<u16> = (0..words).map(|word| (word % classes) as u16).collect();
        class.extend([classes as u16, classes as u16 + 1]);
        let width = classes + 2;
        let mut exchange = Exchange {
            classes,
            words,
            class,
            after: vec![Vec::new(); words + 2],
            before: vec![Vec::new(); words + 2],
            count: vec![0.0; words + 2],
            pairs: vec![0.0; width * width],
            total: vec![0.0; width],
            entropy: (0..1 << 16)
                .map(|n| if n == 0 { 0.0 } else { f64::from(n) * f64::from(n).ln() })
                .collect(),
        };
        for ((first, second), count) in pairs {
            let (first, second, count) = (first as usize, second as usize, count as f64);
            exchange.after[first].push((second as u32, count));
            exchange.before[second].push((first as u32, count));
            exchange.count[first] += count;
            let (row, column) = (usize::from(exchange.class[first]), usize::from(exchange.class[second]));
            exchange.pairs[row * width + column] += count;
            exchange.total[row] += count;
        }
        exchange
    }

    fn entropy(&self, n: f64) -> f64 {
        self.entropy.get(n as usize).copied().unwrap_or_else(|| n * n.ln())
    }

    fn run(mut self, mut told: impl FnMut(usize, usize)) -> Exchange {
        let width = self.classes + 2;
        let neighbours = || Neighbours { count: vec![0.0; width], classes: Vec::new() };
        let (mut after, mut before) = (neighbours(), neighbours());
        for round in 0..ROUNDS {
            let mut moved = 0;
            for word in 0..self.words {
                after.gather(&self.after[word], word, &self.class);
                before.gather(&self.before[word], word, &self.class);
                let itself: f64 = self.after[word]
                    .iter()
                    .filter(|(other, _)| *other as usize == word)
                    .map(|(_, n)| n)
                    .sum();
                let old = usize::from(self.class[word]);
                self.put(word, old, (&after, &before), itself, -1.0);
                let mut best = (f64::MIN, old);
                for class in 0..self.classes {
                    let gain = self.gain(word, class, (&after, &before), itself);
                    if gain > best.0 {
                        best = (gain, class);
                    }
                }
                self.put(word, best.1, (&after, &before), itself, 1.0);
                self.class[word] = best.1 as u16;
                moved += usize::from(best.1 != old);
            }
            told(round, moved);
            if moved * 200 < self.words {
                break;
            }
        }
        self
    }

    /// Puts a word into a class, or takes it out.
    fn put(
        &mut self,
        word: usize,
        class: usize,
        (after, before): (&Neighbours, &Neighbours),
        itself: f64,
        sign: f64,
    ) {
        let width = self.classes + 2;
        for &other in &after.classes {
            self.pairs[class * width + other] += sign * after.count[other];
        }
        for &other in &before.classes {
            self.pairs[other * width + class] += sign * before.count[other];
        }
        self.pairs[class * width + class] += sign * itself;
        self.total[class] += sign * self.count[word];
    }

    /// How much likelier the text is with the word, which is in no class, in this one.
    fn gain(
        &self,
        word: usize,
        class: usize,
        (after, before): (&Neighbours, &Neighbours),
        itself: f64,
    ) -> f64 {
        let width = self.classes + 2;
        let row = &self.pairs[class * width..(class + 1) * width];
        let change = |was: f64, more: f64| self.entropy(was + more) - self.entropy(was);
        let mut gain = -2.0 * change(self.total[class], self.count[word]);
        for &other in after.classes.iter().filter(|other| **other != class) {
            gain += change(row[other], after.count[other]);
        }
        for &other in before.classes.iter().filter(|other| **other != class) {
            gain += change(self.pairs[other * width + class], before.count[other]);
        }
        gain + change(row[class], after.count[class] + before.count[class] + itself)
    }

    /// How often each class stands before each, as pairs of words.
    fn pairs_of_classes(&self) -> Map<(u32, u32), u64> {
        let width = self.classes + 2;
        let counts = self.pairs.iter().enumerate().filter(|(_, count)| **count > 0.0);
        counts
            .map(|(place, &count)| (((place / width) as u32, (place % width) as u32), count as u64))
            .collect()
    }
}

/// The first line of a file of classes.
const HEADER: &str = "# word classes of yarrup: coarse class, fine class, words";

impl WordClasses {
    /// How many words have a class.
    pub fn len(&self) -> usize {
        self.words.len()
    }

    /// Whether no word has one.
    pub fn is_empty(&self) -> bool {
        self.words.is_empty()
    }

    /// The classes as a text: a line for each fine class, with its coarse class and its words.
    pub fn to_text(&self) -> String {
        let mut lines: BTreeMap<(u16, u16), Vec<&str>> = BTreeMap::new();
        for (word, &fine) in &self.words {
            lines.entry((self.coarse[usize::from(fine)], fine)).or_default().push(word);
        }
        let mut out = format!("{HEADER}\n");
        for ((coarse, fine), words) in lines {
            // Writing to a text cannot fail.
            let _ = writeln!(out, "{coarse}\t{fine}\t{}", words.join(" "));
        }
        out
    }

    /// Reads what [`WordClasses::to_text`] writes; lines that begin with `#` are notes.
    ///
    /// # Errors
    ///
    /// The first line that is not made so.
    pub fn from_text(text: &str) -> Result<WordClasses, MalformedWordFile> {
        let mut classes = WordClasses::default();
        for line in lines(text, HEADER, "word classes")? {
            let [Ok(coarse), Ok(fine)] = line.cells.map(str::parse::<u16>) else {
                return Err(line.malformed("a line begins with two numbers, each followed by a tab"));
            };
            let fine_place = usize::from(fine);
            if classes.coarse.len() <= fine_place {
                classes.coarse.resize(fine_place + 1, 0);
            }
            classes.coarse[fine_place] = coarse;
            classes.words.extend(line.words().map(|word| (word.to_owned(), fine)));
        }
        Ok(classes)
    }

    /// As a model keeps them.
    pub(super) fn table(&self) -> ClassTable {
        let mut words: Vec<(u32, u16)> =
            self.words.iter().map(|(word, &fine)| (text_number(word), fine)).collect();
        words.sort_unstable();
        words.dedup_by_key(|(word, _)| *word);
        ClassTable { words, coarse: self.coarse.clone() }
    }
}

/// Classes of words as a model keeps them: words by their numbers.
#[derive(Debug, Default)]
pub(super) struct ClassTable {
    /// In the order of the numbers.
    pub(super) words: Vec<(u32, u16)>,
    pub(super) coarse: Vec<u16>,
}

impl ClassTable {
    /// The coarse and the fine class of a word in small letters, from 1; 0 of one that has none.
    pub(super) fn of(&self, small: &str) -> [u32; 2] {
        let number = text_number(&folded(small));
        let Ok(place) = self.words.binary_search_by_key(&number, |(word, _)| *word) else { return [0; 2] };
        let fine = self.words[place].1;
        [self.coarse.get(usize::from(fine)).map_or(0, |coarse| u32::from(*coarse) + 1), u32::from(fine) + 1]
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Sentences of two patterns: animals walk, foods are eaten.
    fn learned() -> WordClasses {
        let mut learner = WordClassLearner::default();
        let animals = ["cat", "dog", "hen", "fox"];
        let foods = ["bread", "cheese", "soup", "cake"];
        for round in 0..40 {
            let (animal, food) = (animals[round % 4], foods[(round / 4) % 4]);
            let (walks, eats) = (["walks", "runs"][round % 2], ["eat", "want"][(round / 2) % 2]);
            learner.text(format!("the {animal} {walks} there").split(' '));
            learner.text(format!("they {eats} some {food} now").split(' '));
        }
        assert_eq!(learner.tokens(), 40 * 9);
        learner.learn(ClassCounts { fine: 8, coarse: 4, least: 2 }, |_, _, _| {})
    }

    #[test]
    fn words_among_the_same_neighbours_fall_together() {
        let classes = learned();
        let of = |word: &str| classes.words.get(word).copied();
        for (same, other) in [
            (["cat", "dog"], "bread"),
            (["hen", "fox"], "eat"),
            (["bread", "cake"], "cat"),
            (["walks", "runs"], "soup"),
            (["eat", "want"], "walks"),
        ] {
            assert_eq!(of(same[0]), of(same[1]), "{same:?}: {}", classes.to_text());
            assert_ne!(of(same[0]), of(other), "{same:?} {other}: {}", classes.to_text());
        }
        assert_eq!(of("nobody"), None);
    }

    #[test]
    fn the_same_text_gives_the_same_classes_and_they_can_be_written() {
        let classes = learned();
        assert_eq!(learned(), classes);
        assert_eq!(WordClasses::from_text(&classes.to_text()), Ok(classes.clone()));
        let table = classes.table();
        assert_eq!(table.of("cat"), table.of("dog"));
        assert_eq!((table.of("cat")[1], table.of("gull")), (u32::from(classes.words["cat"]) + 1, [0, 0]));
        for (text, line) in [("", 1), ("cat dog\n", 1), (&format!("{HEADER}\n1\tx\tcat\n"), 2)] {
            assert_eq!(WordClasses::from_text(text).map_err(|fault| fault.line), Err(line), "{text:?}");
        }
    }

    #[test]
    fn no_text_gives_no_classes() {
        let counts = ClassCounts { fine: 8, coarse: 4, least: 2 };
        assert!(WordClassLearner::default().learn(counts, |_, _, _| {}).is_empty());
        let mut once = WordClassLearner::default();
        once.text(["one", "two"].into_iter());
        assert!(once.learn(counts, |_, _, _| {}).is_empty());
    }
}
