//! Finding terms of one or many words among tokens.

use hashbrown::HashMap;

use crate::step::{Entry, Gap, Place, Settings};

type State = foldhash::fast::RandomState;

/// A token as which a word of a list's entry arrives at a step.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ArrivedToken {
    /// Its spelling.
    pub text: String,
    /// What stands between it and the one before it.
    pub gap: Gap,
}

/// The tokens as which an entry of a word list arrives at a step, in one of the sorts of documents that there are.
pub type Arrival = Vec<ArrivedToken>;

/// Knows how the entries of word lists arrive at a step: split as the recipe splits, and taken through the steps before.
pub trait Arrivals: Send + Sync {
    /// For each entry, the ways in which it arrives whole. None if its first or its last word never arrives.
    fn of(&self, entries: &[&str]) -> Vec<Vec<Arrival>>;
}

/// Terms of one or many words, found among tokens from left to right, the longest that fits first.
///
/// The words of the terms are numbered, and the terms form a tree by their words: a token that is the word of no term costs one look-up.
#[derive(Clone, Debug)]
pub struct Terms {
    exact: bool,
    /// Whether terms may go over words that are no tokens any more.
    across: bool,
    words: HashMap<String, u32, State>,
    /// From a node behind the root by a word to the next node.
    next: HashMap<(u32, u32), u32, State>,
    /// By word: the node that it leads to from the root; the root itself if no term begins with it.
    first: Vec<u32>,
    /// By node: the terms that end there.
    ends: Vec<Vec<End>>,
}

/// A term that ends at a node.
#[derive(Clone, Debug, PartialEq, Eq)]
struct End {
    number: usize,
    /// The widest gap that may stand before each of its words.
    gaps: Vec<Gap>,
}

/// The number of a word that no term has.
const NO_WORD: u32 = u32::MAX;

impl Terms {
    /// No terms at all. `exact` tells letter cases apart; `across` lets terms go over words that were dropped.
    pub fn new(exact: bool, across: bool) -> Terms {
        let (words, next) = (HashMap::default(), HashMap::default());
        Terms { exact, across, words, next, first: Vec::new(), ends: vec![Vec::new()] }
    }

    /// Terms as the entries of word lists name them, numbered as they come. One of several words is split as the recipe splits, and taken
    /// through the steps before; one of one word stands as it is written, unless the recipe splits it. Gives as well the numbers of those
    /// of several words that can never arrive.
    pub fn of_entries(mut self, entries: &[&str], settings: &Settings) -> (Terms, Vec<usize>) {
        let arrivals = settings.arrivals(entries);
        let mut lost = Vec::new();
        for (number, (entry, arrivals)) in entries.iter().zip(arrivals).enumerate() {
            let several = entry.trim().contains(char::is_whitespace);
            if !several {
                self.add_word(number, entry.trim());
            } else if arrivals.is_empty() {
                lost.push(number);
            }
            for arrival in arrivals.iter().filter(|arrival| several || arrival.len() > 1) {
                self.add(number, arrival);
            }
        }
        (self, lost)
    }

    /// Adds a term whose words stand as they are, with white space between.
    pub fn add_words(&mut self, number: usize, words: &str) {
        let arrival: Arrival = words
            .split_whitespace()
            .map(|word| ArrivedToken { text: word.to_owned(), gap: Gap::None })
            .collect();
        self.add(number, &arrival);
    }

    fn add_word(&mut self, number: usize, word: &str) {
        self.add(number, &[ArrivedToken { text: word.to_owned(), gap: Gap::None }]);
    }

    /// Adds a term as it arrives.
    pub fn add(&mut self, number: usize, arrival: &[ArrivedToken]) {
        let mut node = 0;
        for token in arrival.iter().filter(|token| !token.text.is_empty()) {
            let next_word = self.words.len() as u32;
            let text = if self.exact { token.text.clone() } else { token.text.to_lowercase() };
            let word = *self.words.entry(text).or_insert(next_word);
            self.first.resize(self.words.len(), 0);
            let next = match node {
                0 => &mut self.first[word as usize],
                _ => self.next.entry((node, word)).or_default(),
            };
            if *next == 0 {
                *next = self.ends.len() as u32;
                self.ends.push(Vec::new());
            }
            node = *next;
        }
        let end = End { number, gaps: arrival.iter().map(|token| token.gap).collect() };
        let ends = &mut self.ends[node as usize];
        if node > 0 && !ends.contains(&end) {
            ends.push(end);
        }
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.words.is_empty()
    }

    /// Whether some term has several words.
    pub fn has_runs(&self) -> bool {
        !self.next.is_empty()
    }

    /// Whether a term of one word is this token.
    pub fn has_token(&self, token: &str) -> bool {
        let word = self.word(token, &mut String::new());
        !self.ends[self.node(0, word) as usize].is_empty()
    }

    /// The node that a word leads to from another; the root if it leads to none.
    #[inline]
    fn node(&self, from: u32, word: u32) -> u32 {
        let next = match from {
            0 => self.first.get(word as usize),
            _ => self.next.get(&(from, word)),
        };
        next.copied().unwrap_or_default()
    }

    fn word(&self, token: &str, folded: &mut String) -> u32 {
        let as_it_is = self.exact || token.bytes().all(|byte| byte.is_ascii() && !byte.is_ascii_uppercase());
        let known = if as_it_is {
            self.words.get(token)
        } else {
            folded.clear();
            folded.extend(token.chars().flat_map(char::to_lowercase));
            // A final sigma is not made so letter by letter.
            if token.contains('Σ') {
                *folded = token.to_lowercase();
            }
            self.words.get(folded.as_str())
        };
        known.copied().unwrap_or(NO_WORD)
    }

    /// Tells `found` the first place, that behind the last, and the number of the term, of each match. Matches do not overlap, do not go
    /// over the borders of paragraphs, nor over gaps that the term does not have, and keep away from tokens that are spared.
    pub fn find(&self, tokens: &[Place<'_>], found: impl FnMut(usize, usize, usize)) {
        self.find_words(tokens, &self.words_of(tokens), found);
    }

    /// What finds the terms in one document after the other, and remembers which spellings are words of terms.
    pub(crate) fn finder(&self) -> Finder<'_> {
        Finder { terms: self, known: Vec::new(), words: Vec::new(), folded: String::new() }
    }

    /// As [`Terms::find`], among tokens with these words.
    fn find_words(&self, tokens: &[Place<'_>], words: &[u32], mut found: impl FnMut(usize, usize, usize)) {
        let mut start = 0;
        while start < tokens.len() {
            if words[start] == NO_WORD {
                start += 1;
                continue;
            }
            let mut longest = None;
            self.each_at(tokens, words, start, |end, term| longest = Some((end, term)));
            match longest {
                Some((end, number)) => {
                    found(start, end, number);
                    start = end;
                }
                None => start += 1,
            }
        }
    }

    /// The numbers of the terms that tokens hold, in order: also of those that stand within others.
    pub fn held(&self, tokens: &[Place<'_>]) -> Vec<usize> {
        let words = self.words_of(tokens);
        let mut held = Vec::new();
        for start in 0..tokens.len() {
            self.each_at(tokens, &words, start, |_, term| held.push(term));
        }
        held.sort_unstable();
        held.dedup();
        held
    }

    fn words_of(&self, tokens: &[Place<'_>]) -> Vec<u32> {
        let mut folded = String::new();
        tokens.iter().map(|token| self.word(token.text(), &mut folded)).collect()
    }

    /// Tells every term that begins at a place: the place behind it, and its number. Longer ones come later.
    fn each_at(
        &self,
        tokens: &[Place<'_>],
        words: &[u32],
        start: usize,
        mut visit: impl FnMut(usize, usize),
    ) {
        let mut node = 0;
        for at in start..tokens.len() {
            let parted = at > start && tokens[at].gap == Gap::Paragraph;
            if words[at] == NO_WORD || tokens[at].spared || parted {
                return;
            }
            node = self.node(node, words[at]);
            if node == 0 {
                return;
            }
            let gap = |place: &Place<'_>| match place.gap {
                Gap::Words if self.across => Gap::None,
                gap => gap,
            };
            let behind = &tokens[start + 1..=at];
            let fits =
                |end: &&End| behind.iter().zip(&end.gaps[1..]).all(|(token, widest)| gap(token) <= *widest);
            if let Some(end) = self.ends[node as usize].iter().find(fits) {
                visit(at + 1, end.number);
            }
        }
    }
}

/// The entries of lists of terms, for the advice on a recipe: those of one word, which must arrive as they are written.
pub(crate) fn single_entries<'l>(lists: impl Iterator<Item = (&'l str, &'l [String])>) -> Vec<Entry> {
    let all = lists.flat_map(|(name, words)| words.iter().map(move |word| (name, word)));
    all.filter(|(_, word)| !word.trim().contains(char::is_whitespace))
        .map(|(list, word)| Entry { word: word.clone(), list: list.to_owned() })
        .collect()
}

/// Finds terms in documents whose spellings are numbered alike.
pub(crate) struct Finder<'t> {
    terms: &'t Terms,
    /// By the number of a spelling: the number of the word that it is, if it was asked for.
    known: Vec<Option<u32>>,
    /// The words of the present document.
    words: Vec<u32>,
    folded: String,
}

impl Finder<'_> {
    /// As [`Terms::find`].
    pub(crate) fn find(&mut self, tokens: &[Place<'_>], found: impl FnMut(usize, usize, usize)) {
        self.words.clear();
        for token in tokens {
            let place = token.number as usize;
            let word = match self.known.get(place).copied().flatten() {
                Some(word) => word,
                None => {
                    let word = self.terms.word(token.text(), &mut self.folded);
                    if place >= self.known.len() {
                        self.known.resize(place + 1, None);
                    }
                    self.known[place] = Some(word);
                    word
                }
            };
            self.words.push(word);
        }
        self.terms.find_words(tokens, &self.words, found);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn places(text: &str) -> Vec<Place<'_>> {
        let gap = |word: &str| match word.chars().next() {
            Some('¶') => Gap::Paragraph,
            Some('…') => Gap::Words,
            Some(';') => Gap::Mark,
            _ => Gap::None,
        };
        text.split(' ')
            .map(|word| {
                let text = word.trim_start_matches(['¶', '…', ';']);
                Place { gap: gap(word), spared: text == "SPARED", ..Place::alone(text, 0) }
            })
            .collect()
    }

    fn terms(words: &[&str], exact: bool, across: bool) -> Terms {
        let mut terms = Terms::new(exact, across);
        words.iter().enumerate().for_each(|(number, words)| terms.add_words(number, words));
        terms
    }

    fn found(words: &[&str], exact: bool, text: &str) -> Vec<(usize, usize, usize)> {
        let mut hits = Vec::new();
        terms(words, exact, false).find(&places(text), |start, end, number| hits.push((start, end, number)));
        hits
    }

    #[test]
    fn the_longest_term_wins_and_words_are_whole() {
        let terms = ["marsh harrier", "harrier", "marsh harrier nest", "nest"];
        assert_eq!(
            found(&terms, false, "a Marsh harrier nest by marsh harriers , harrier"),
            [(1, 4, 2), (8, 9, 1)]
        );
        assert_eq!(found(&terms, true, "Marsh harrier"), [(1, 2, 1)]);
        assert_eq!(found(&terms, false, "marsh SPARED harrier nest"), [(2, 3, 1), (3, 4, 3)]);
        // The longest does not fit: a shorter one does.
        assert_eq!(found(&["nest box", "nest"], false, "nest boxes"), [(0, 1, 1)]);
        assert_eq!(
            found(&["nest box lid", "nest box", "box lid"], false, "nest box lids box lid"),
            [(0, 2, 1), (3, 5, 2)]
        );
        assert_eq!(found(&["ΟΔΟΣ"], false, "οδος Οδος"), [(0, 1, 0), (1, 2, 0)]);
    }

    #[test]
    fn gaps_part_terms_that_do_not_have_them() {
        let two = ["nest box"];
        for (text, hits) in
            [("nest box", 1), ("nest …box", 0), ("nest ;box", 0), ("nest ¶box", 0), ("¶nest box", 1)]
        {
            assert_eq!(found(&two, false, text).len(), hits, "{text}");
        }
        let mut across = Vec::new();
        terms(&two, false, true)
            .find(&places("nest …box nest ;box"), |start, end, _| across.push((start, end)));
        assert_eq!(across, [(0, 2)]);
        let mut gapped = Terms::new(false, false);
        let token = |text: &str, gap| ArrivedToken { text: text.to_owned(), gap };
        gapped.add(7, &[token("birds", Gap::Mark), token("prey", Gap::Words)]);
        let mut hits = Vec::new();
        gapped
            .find(&places("birds …prey birds ;prey birds prey"), |start, _, term| hits.push((start, term)));
        assert_eq!(hits, [(0, 7), (4, 7)]);
    }

    #[test]
    fn terms_within_others_are_held() {
        let terms = terms(&["nest", "nest box", "box lid", "lid"], false, false);
        assert_eq!(terms.held(&places("a Nest box lid")), [0, 1, 2, 3]);
        assert_eq!(terms.held(&places("a box")), []);
        assert!(terms.has_token("NEST") && !terms.has_token("box"));
    }

    #[test]
    fn control_characters_are_characters_like_others() {
        let terms = terms(&["marsh harrier"], false, false);
        let texts = ["\u{2}marsh", "harrier\u{3}", "marsh\u{3}\u{2}harrier", "marsh", "harrier"];
        let places: Vec<Place<'_>> = texts.iter().map(|text| Place::alone(text, 0)).collect();
        let mut hits = Vec::new();
        terms.find(&places, |start, end, _| hits.push((start, end)));
        assert_eq!(hits, [(3, 5)]);
    }
}
