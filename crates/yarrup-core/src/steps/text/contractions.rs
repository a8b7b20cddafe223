//! Contracted forms written out: `don't` becomes `do not`.
//!
//! The English table is our own and stands in `words/contractions.rs`. `docs/contractions.md` tells the rule for `'s` and `'d`.

use std::borrow::Cow;
use std::ops::Range;

use hashbrown::HashMap;

use crate::lemma::{Classes, english_lexicon};
use crate::step::{
    Built, Entry, Facts, Key, Operation, PairList, Rewriter, Role, Settings, SettingsError, Stage, TextStep,
};
use crate::unicode;
use crate::word_finder::stands_alone;
use crate::words::{
    english_contractions, follows_has, follows_is, follows_would, is_between, is_function_word,
    is_participle, is_state,
};

const TABLE: Key<&'static str> =
    Key::one_of("table", &["en", "none"], "the table that comes with Yarrup, or only your own").or("en");

const UNCLEAR_KEY: Key<&'static str> = Key::one_of("unclear", &["keep", "is", "drop"], "what to do with `'s` and `'d` if the next words do not decide: `keep` leaves them, `is` writes `is` and `would`, `drop` removes them").or("keep");

const MISSING: Key<bool> = Key::truth("missing", "also expands forms without their apostrophe (`dont`, `im`, `youre`), except those that are words themselves (`ill`, `were`, \
                    `its`, `cant` is expanded)").or("false");

const PAIRS: Key<Vec<(String, String)>> =
    Key::named("pairs", "your own forms: `{ \"gonna\" = \"going to\" }`; they are tried before the table");

const TABLES: Key<Vec<PairList>> = Key::pairs("tables", "own CSV files of pairs");

pub(crate) static CONTRACTIONS: Operation = Operation {
    name: "contractions",
    stage: Stage::Text,
    about: "expands English contractions (`don't` to `do not`, `they'll've` to `they will have`), with any kind of apostrophe, and keeps capitals. The words that follow decide what `'s` and `'d` mean; names and words with an apostrophe (`o'clock`, `O'Hara`) stay. \
            Doing it twice changes nothing",
    keys: &[&TABLE.facts, &UNCLEAR_KEY.facts, &MISSING.facts, &PAIRS.facts, &TABLES.facts],
    example: "unclear = \"keep\"\npairs = { \"gonna\" = \"going to\" }",
    roles: &[Role::WritesOut, Role::KnowsLanguage],
    learns: None,
    build: |settings| Ok(Built::Text(Box::new(Contractions::new(settings)?))),
};

struct Contractions {
    /// By the form in small letters with plain apostrophes.
    table: HashMap<String, String, foldhash::fast::RandomState>,
    english: bool,
    unclear: Unclear,
    missing: bool,
    /// Whether an own form has no apostrophe, so that every word must be looked up.
    every_word: bool,
    entries: Vec<Entry>,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Unclear {
    Keep,
    Is,
    Drop,
}

const SORTS: [&str; 7] =
    ["written out", "'s as is", "'s as has", "'d as would", "'d as had", "unclear", "'d as did"];
const WRITTEN: usize = 0;
const IS: usize = 1;
const HAS: usize = 2;
const WOULD: usize = 3;
const HAD: usize = 4;
const UNCLEAR: usize = 5;
const DID: usize = 6;

impl Contractions {
    fn new(settings: &Settings) -> Result<Contractions, SettingsError> {
        let english = settings.get(&TABLE) != Some("none");
        let has_own = !settings.get(&PAIRS).is_empty() || !settings.get(&TABLES).is_empty();
        if !english && !has_own {
            let why = "`contractions` needs `pairs` or `tables` where `table` is `none`";
            return Err(SettingsError::key(&TABLE.facts, why));
        }
        if english && let Some(language) = settings.language().filter(|language| *language != "en") {
            return Err(format!(
                "`contractions` has a table for English, and the recipe is for `{language}`: set `table = \"none\"` and name own forms with `pairs` or `tables`"
            ).into());
        }
        let mut all = Contractions {
            table: HashMap::default(),
            english,
            unclear: match settings.get(&UNCLEAR_KEY) {
                Some("is") => Unclear::Is,
                Some("drop") => Unclear::Drop,
                _ => Unclear::Keep,
            },
            missing: settings.get(&MISSING) == Some(true),
            every_word: false,
            entries: Vec::new(),
        };
        for (form, full) in settings.get(&PAIRS) {
            all.take("pairs", form, full);
        }
        for table in settings.get(&TABLES) {
            for (form, full) in &table.pairs {
                all.take(&table.name, form, full);
            }
        }
        all.every_word = all.missing || all.table.keys().any(|form| !form.contains('\''));
        if english {
            all.take_english();
        }
        Ok(all)
    }

    fn take(&mut self, list: &str, form: &str, full: &str) {
        let form = plain(form).into_owned();
        if !self.table.contains_key(&form) {
            self.entries.push(Entry { word: form.clone(), list: list.to_owned() });
            self.table.insert(form, full.to_owned());
        }
    }

    fn take_english(&mut self) {
        for (form, full) in english_contractions(self.missing) {
            self.take("en", &form, &full);
        }
    }

    /// What becomes of the word at `place`, which holds an apostrophe or may be a form without one.
    fn word(&self, text: &str, place: Range<usize>, out: &mut Rewriter<'_>) {
        let spelled = &text[place.clone()];
        let form = plain(spelled);
        if let Some(full) = self.table.get(form.as_ref()) {
            return out.replace_as(WRITTEN, place, &in_case_of(spelled, full));
        }
        // A quote that opens is no part of the form behind it.
        if let Some(quote) = spelled.chars().next().filter(|&c| is_apostrophe(c)) {
            return self.word(text, place.start + quote.len_utf8()..place.end, out);
        }
        if !self.english {
            return;
        }
        let Some(apostrophe) = spelled.char_indices().rfind(|(_, c)| is_apostrophe(*c)).map(|(at, _)| at)
        else {
            return;
        };
        let (base, tail) =
            (&form[..form.rfind('\'').unwrap_or(0)], form.rsplit('\'').next().unwrap_or_default());
        if base.is_empty() {
            return;
        }
        let tail_at = place.start + apostrophe..place.end;
        let shouts = base.chars().count() > 1 && spelled.chars().all(|c| !c.is_lowercase());
        let mut put = |sort: usize, word: &str| {
            let word = if shouts { word.to_uppercase() } else { word.to_owned() };
            out.replace_as(sort, tail_at.clone(), &format!(" {word}"));
        };
        match tail {
            // Behind a noun these are never anything else; behind a name in -d or -l neither.
            "ll" => put(WRITTEN, "will"),
            "ve" => put(WRITTEN, "have"),
            "re" if !base.contains('\'') => put(WRITTEN, "are"),
            "s" => match decide_s(base, &text[..place.start], self.following(text, place.end)) {
                Some(IS) => put(IS, "is"),
                Some(_) => put(HAS, "has"),
                None => self.unclear(tail_at, " is", out),
            },
            "d" => match decide_d(base, self.following(text, place.end)) {
                Some(WOULD) => put(WOULD, "would"),
                Some(DID) => put(DID, "did"),
                Some(_) => put(HAD, "had"),
                None => self.unclear(tail_at, " would", out),
            },
            _ => {}
        }
    }

    fn unclear(&self, tail: Range<usize>, full: &str, out: &mut Rewriter<'_>) {
        match self.unclear {
            Unclear::Keep => out.note(UNCLEAR, tail),
            Unclear::Is => out.replace_as(UNCLEAR, tail, full),
            Unclear::Drop => out.replace_as(UNCLEAR, tail, ""),
        }
    }
}

/// Words behind which `'s` is a verb and no possessive.
fn is_subject(base: &str) -> bool {
    matches!(
        base,
        "it" | "he"
            | "she"
            | "that"
            | "this"
            | "there"
            | "here"
            | "who"
            | "what"
            | "where"
            | "when"
            | "why"
            | "how"
            | "everything"
            | "something"
            | "nothing"
            | "anything"
    )
}

/// The words that follow, in two parts: those that are looked past, and the others.
fn ahead(next: impl Iterator<Item = String>) -> (Vec<String>, Vec<String>) {
    let mut words: Vec<String> = next.take(AHEAD).collect();
    let passed = words.iter().take_while(|word| is_between(word)).count();
    let others = words.split_off(passed);
    (words, others)
}

/// How many words are looked at.
const AHEAD: usize = 8;

/// Whether `'s` behind `base` is `is` or `has`, by the words that follow, and in some cases by the text before. None if it may be a possessive.
fn decide_s(base: &str, before: &str, next: impl Iterator<Item = String>) -> Option<usize> {
    let (passed, words) = ahead(next);
    let word_at = |place: usize| words.get(place).map_or("", String::as_str);
    let word = word_at(0);
    if matches!(word, "been" | "got" | "gotten") {
        return Some(HAS);
    }
    if is_question(base) && asks_for_what_was_done(&words) {
        return Some(HAS);
    }
    let anybody =
        matches!(base, "everybody" | "everyone" | "somebody" | "someone" | "nobody" | "anybody" | "anyone");
    let participle = is_participle(word);
    // `it's put me off`, `something's told me`.
    let acts = is_unchanged(word) && begins_object(word_at(1))
        || participle && matches!(word_at(1), "me" | "him" | "us" | "them");
    if acts && (is_subject(base) || anybody) {
        return Some(HAS);
    }
    // `she's lost`, but `she's lost her key`.
    let is_state = is_state(word) && !begins_object(word_at(1));
    if is_subject(base) {
        let person = matches!(base, "he" | "she" | "who");
        // `it's needed`, `what's wanted`.
        let has = follows_has(word) && (person || !is_state)
            || (person && participle && word_at(1) != "by" && !is_state);
        return Some(if has { HAS } else { IS });
    }
    if anybody && participle {
        return Some(if is_state { IS } else { HAS });
    }
    // Behind a noun: only what cannot follow a possessive decides. `the keeper's daily round`: some of what is looked past may be owned.
    let looked_past = !passed.is_empty() && !passed.iter().any(|word| may_be_owned(word));
    if follows_has(word) && (looked_past || ends_a_possessive(word)) {
        return Some(HAS);
    }
    let ends = words.len() == 1
        || matches!(word_at(1), "of" | "to" | "that" | "and" | "but" | "with" | "about" | "because");
    // `nobody's perfect`: what everybody has is seldom said with a noun that is an adjective as well.
    let is_said_of_it = ends && word != "own" && (is_state || is_adjective(word, !anybody));
    let is_said = match word {
        _ if is_said_of_it => true,
        // `without Mira's knowing it`, `behind Mira's back`: a clause begins where this is said of her.
        "back" => anybody || begins_clause(before),
        "very" => !begins_noun_phrase(&words[1..]),
        _ if follows_is(word) => true,
        _ if word.len() > 4 && word.ends_with("ing") => {
            anybody || goes_on(word, word_at(1)) && begins_clause(before)
        }
        _ => looked_past && !begins_noun_phrase(&words),
    };
    is_said.then_some(IS)
}

/// Whether the noun behind this text may be the first of its clause, with what belongs to it: an article, adjectives.
fn begins_clause(before: &str) -> bool {
    let before = before.trim_end_matches(['\'', '"', '(', '‘', '“', '*', '_']);
    for word in before.split(' ').rev().skip_while(|word| word.is_empty()).take(4) {
        if word.is_empty() || word.contains('\n') || word.ends_with(|c: char| !unicode::is_letter(c)) {
            return true;
        }
        let word = plain(word);
        if begins_clause_behind(&word) {
            return true;
        }
        let describes = is_adjective(&word, false) && !is_function_word(&word);
        let belongs = begins_object(&word) || describes || matches!(&*word, "mr" | "mrs" | "miss" | "dr");
        if !belongs {
            return false;
        }
    }
    true
}

/// Words behind which a clause begins: conjunctions, and verbs of saying and thinking.
fn begins_clause_behind(word: &str) -> bool {
    matches!(
        word,
        "and"
            | "but"
            | "or"
            | "because"
            | "if"
            | "when"
            | "that"
            | "while"
            | "so"
            | "where"
            | "whether"
            | "now"
            | "then"
            | "yes"
            | "no"
            | "well"
            | "oh"
            | "think"
            | "thinks"
            | "thought"
            | "know"
            | "knows"
            | "believe"
            | "guess"
            | "say"
            | "says"
            | "said"
            | "hope"
            | "see"
            | "hear"
            | "heard"
            | "suppose"
            | "means"
            | "sure"
            | "glad"
    )
}

/// Whether a word that is looked past may belong to what somebody has: `the program's very essence`, `Mira's only hope`, `the keeper's daily round`.
fn may_be_owned(word: &str) -> bool {
    matches!(word, "very" | "only" | "own" | "ever" | "first" | "once")
        || word.ends_with("ly") && is_noun_or_adjective(word)
}

/// Whether a word is a noun or an adjective by the lexicon.
fn is_noun_or_adjective(word: &str) -> bool {
    let classes = english_lexicon().classes(word);
    classes.is_some_and(|classes| classes.has(Classes::NOUN) || classes.has(Classes::ADJECTIVE))
}

/// Whether a noun comes next, behind adjectives or without any: `the tern's remarkably long bill`.
fn begins_noun_phrase(words: &[String]) -> bool {
    let adjectives = words.iter().take_while(|word| is_adjective(word, false) || is_participle(word)).count();
    words.get(adjectives).is_some_and(|word| is_content(word))
}

/// Whether somebody does this now, `the tern's flying`, by the word that follows: there are nouns in -ing, and such words stand before nouns (`the keeper's
/// dressing room`).
fn goes_on(word: &str, next: &str) -> bool {
    let is_when_or_where = matches!(next, "home" | "today" | "tonight" | "tomorrow" | "outside" | "inside");
    let may_be_noun = is_noun_in_ing(word) || is_content(next) && !is_when_or_where;
    word != "being" && (begins_object(next) || !may_be_noun)
}

/// Whether a word is a noun, in the plural too, or an adjective, and none of the small words that the lexicon has as such.
fn is_content(word: &str) -> bool {
    let forms = [Some(word), word.strip_suffix('s'), word.strip_suffix("es")];
    !is_function_word(word) && !is_between(word) && forms.into_iter().flatten().any(is_noun_or_adjective)
}

fn is_question(base: &str) -> bool {
    matches!(base, "where" | "what" | "who" | "when" | "why" | "how")
}

/// Whether a question goes on as in `where's Mira gone` and `what's he done`.
fn asks_for_what_was_done(words: &[String]) -> bool {
    let word_at = |place: usize| words.get(place).map_or("", String::as_str);
    let pronoun = matches!(word_at(0), "he" | "she" | "it" | "that" | "this");
    let done = |word: &str| is_participle(word) || follows_has(word);
    (pronoun && done(word_at(1)) && !is_state(word_at(1)))
        || words
            .iter()
            .skip(1)
            .take(3)
            .any(|word| matches!(word.as_str(), "gone" | "been" | "got" | "happened" | "become"))
}

/// Whether no noun that somebody has begins with this participle: `Mira's gone`.
fn ends_a_possessive(word: &str) -> bool {
    matches!(word, "gone" | "become" | "arrived" | "happened" | "disappeared" | "vanished" | "begun" | "come")
}

/// Participles that are as the verb itself: `it's set`, but `she's set the table`.
fn is_unchanged(word: &str) -> bool {
    matches!(
        word,
        "put"
            | "set"
            | "cut"
            | "hurt"
            | "hit"
            | "shut"
            | "let"
            | "read"
            | "cost"
            | "split"
            | "spread"
            | "cast"
            | "shed"
            | "beat"
            | "upset"
    )
}

/// Whether a word begins the object of a verb.
fn begins_object(word: &str) -> bool {
    matches!(
        word,
        "the"
            | "a"
            | "an"
            | "his"
            | "her"
            | "my"
            | "your"
            | "our"
            | "their"
            | "its"
            | "me"
            | "him"
            | "them"
            | "it"
            | "us"
            | "you"
            | "this"
            | "that"
            | "these"
            | "those"
            | "some"
            | "all"
            | "everything"
            | "nothing"
            | "something"
            | "weight"
            | "interest"
            | "control"
            | "count"
            | "two"
            | "three"
            | "no"
            | "any"
            | "every"
            | "himself"
            | "herself"
    )
}

/// Whether a word is an adjective by the lexicon, and no noun if `alone`.
fn is_adjective(word: &str, alone: bool) -> bool {
    english_lexicon()
        .classes(word)
        .is_some_and(|classes| classes.has(Classes::ADJECTIVE) && !(alone && classes.has(Classes::NOUN)))
}

/// Nouns in -ing that a possessive often stands before.
fn is_noun_in_ing(word: &str) -> bool {
    matches!(
        word,
        "building"
            | "wedding"
            | "meeting"
            | "painting"
            | "ceiling"
            | "evening"
            | "morning"
            | "feeling"
            | "being"
            | "clothing"
            | "beginning"
            | "lodging"
            | "ruling"
            | "training"
            | "thing"
            | "spring"
            | "string"
            | "king"
            | "wing"
            | "ring"
            | "opening"
            | "nesting"
            | "breeding"
            | "landing"
            | "parking"
            | "accounting"
            | "blessing"
            | "drawing"
            | "dressing"
            | "engineering"
            | "hearing"
            | "housing"
            | "marketing"
            | "offering"
            | "planning"
            | "programming"
            | "reasoning"
            | "recording"
            | "saying"
            | "setting"
            | "spelling"
            | "teaching"
            | "understanding"
            | "upbringing"
            | "warning"
            | "writing"
    )
}

/// Whether `'d` is `had`, `would` or `did`, by the words that follow. None if it may be either.
fn decide_d(base: &str, next: impl Iterator<Item = String>) -> Option<usize> {
    let (_, words) = ahead(next);
    let word_at = |place: usize| words.get(place).map_or("", String::as_str);
    let word = word_at(0);
    // `I'd better go`, `he'd to leave`, `she'd no idea`.
    if matches!(word, "better" | "best" | "to" | "a" | "an" | "the" | "no") && !is_question(base) {
        return Some(HAD);
    }
    // `how'd you find it`, `where'd the money go`, but `where'd she gone`.
    if is_question(base) {
        if matches!(word, "i" | "you" | "he" | "she" | "it" | "we" | "they") {
            return Some(if is_participle(word_at(1)) { HAD } else { DID });
        }
        if !matches!(base, "who" | "what") {
            let done = words.iter().skip(1).take(3).any(|word| is_participle(word));
            return (words.len() > 1).then_some(if done { HAD } else { DID });
        }
    }
    if follows_would(word) {
        return Some(WOULD);
    }
    if is_participle(word) {
        return Some(HAD);
    }
    // Some other verb is a base form.
    crate::words::dictionary("en")
        .is_some_and(|words| {
            words.has(&format!("{word}ing")) || words.has(&format!("{}ing", word.trim_end_matches('e')))
        })
        .then_some(WOULD)
}

impl Contractions {
    /// The words that follow `at` on the same line, in small letters, up to the next mark; contracted ones by their first word as it is
    /// written out, so that it does not matter which of two is written out first.
    fn following<'t>(&'t self, text: &'t str, at: usize) -> impl Iterator<Item = String> + 't {
        let mut rest = &text[at..];
        std::iter::from_fn(move || {
            let trimmed = rest.trim_start_matches([' ', '\u{a0}']);
            if trimmed.len() == rest.len() {
                return None;
            }
            let mut place = word_at(trimmed, 0, trimmed.len());
            // `built-in` is no `built` that ends a clause.
            while let Some(part) =
                trimmed[place.end..].strip_prefix('-').map(|part| word_at(part, 0, part.len()))
                && !part.is_empty()
            {
                place.end += 1 + part.end;
            }
            let word = plain(&trimmed[place.clone()]);
            rest = &trimmed[place.end..];
            let first = match self.table.get(word.as_ref()) {
                Some(full) => full.split(' ').next().unwrap_or_default().to_lowercase(),
                None => word.split('\'').next().unwrap_or_default().to_owned(),
            };
            (!first.is_empty()).then_some(first)
        })
    }
}

fn is_apostrophe(c: char) -> bool {
    // What is typed for one counts as well.
    unicode::is_apostrophe(c) || matches!(c, '\u{2018}' | '\u{b4}' | '`')
}

/// A form as the table has it: in small letters, with plain apostrophes.
fn plain(form: &str) -> Cow<'_, str> {
    if form.bytes().all(|byte| byte.is_ascii_lowercase() || byte == b'\'') {
        return form.into();
    }
    form.chars()
        .map(|c| if is_apostrophe(c) { '\'' } else { c })
        .flat_map(char::to_lowercase)
        .collect::<String>()
        .into()
}

/// `full` in the letter case of the form `spelled`: all capitals, a first capital, or as it is; `i` is always a capital.
fn in_case_of(spelled: &str, full: &str) -> String {
    let letters = || spelled.chars().filter(|c| c.is_alphabetic());
    let capitals = letters().filter(|c| c.is_uppercase()).count();
    // `I'm` has one capital of two letters, and is no shout.
    let count = letters().count();
    if capitals > 1 && capitals == count {
        return full.to_uppercase();
    }
    let mut cased = String::with_capacity(full.len());
    if letters().next().is_some_and(char::is_uppercase) {
        let mut chars = full.chars();
        cased.extend(chars.next().into_iter().flat_map(char::to_uppercase));
        cased.push_str(chars.as_str());
    } else {
        cased.push_str(full);
    }
    cased
}

impl Facts for Contractions {
    fn entries(&self) -> &[Entry] {
        &self.entries
    }
}

impl TextStep for Contractions {
    fn sorts(&self) -> Vec<String> {
        SORTS.map(str::to_owned).to_vec()
    }

    fn rewrite(&self, text: &str, range: Range<usize>, out: &mut Rewriter<'_>) {
        let bytes = text.as_bytes();
        let is_sign = |byte: &u8| matches!(byte, b'\'' | b'`') || *byte >= 0x80;
        let mut at = range.start;
        while at < range.end {
            let offset = if self.every_word {
                text[at..range.end].find(|c: char| unicode::is_letter(c) || is_apostrophe(c))
            } else {
                bytes[at..range.end].iter().position(is_sign)
            };
            let Some(sign) = offset.map(|offset| at + offset) else { break };
            let Some(c) = text[sign..].chars().next() else { break };
            let behind = sign + c.len_utf8();
            if !self.every_word && !is_apostrophe(c) {
                at = behind;
                continue;
            }
            // Back to where the word begins, but not into what was looked at.
            let letters = text[at..sign].chars().rev().take_while(|&c| unicode::is_letter(c)).take(LONGEST);
            let start = sign - letters.map(char::len_utf8).sum::<usize>();
            let place = word_at(text, start, range.end);
            at = place.end.max(behind);
            if place.end > sign && stands_alone(text, &place) {
                self.word(text, place, out);
            }
        }
    }
}

/// The longest run of letters that may be a part of a contracted form.
const LONGEST: usize = 40;

/// The word at `at`, with the apostrophes inside of it, and one before it if the form has it there.
fn word_at(text: &str, at: usize, end: usize) -> Range<usize> {
    let mut place = at;
    let mut chars = text[at..end].chars().peekable();
    let mut last_letter = at;
    let mut run = 0;
    let mut before = None;
    while let Some(c) = chars.next() {
        let letter = unicode::is_letter(c);
        let joins = is_apostrophe(c)
            && chars.peek().is_some_and(|&next| unicode::is_letter(next))
            && !before.is_some_and(is_apostrophe);
        // A hyphen joins `you-all` alone: not looked for here.
        if !(letter || joins) {
            break;
        }
        place += c.len_utf8();
        if letter {
            last_letter = place;
            run += 1;
        }
        before = Some(c);
        if run > 4 * LONGEST {
            break;
        }
    }
    at..last_letter
}

#[cfg(test)]
mod tests {
    use crate::testing;

    fn expanded(settings: &str, text: &str) -> String {
        testing::clean(&format!("[[step]]\ndo = \"contractions\"\n{settings}\n"), text)
    }

    #[test]
    fn contracted_forms_are_written_out() {
        let table = [
            ("I don't, can't, won't and shan't.", "I do not, can not, will not and shall not."),
            ("They'll've gone; you're, we've, I'm", "They will have gone; you are, we have, I am"),
            ("DON'T! Don’t donʼt", "DO NOT! Do not do not"),
            ("Shouldn't've, wouldn't've, I'd've", "Should not have, would not have, I would have"),
            ("Y'all'd've and y'all", "You all would have and you all"),
            ("'Tis 'twas ’em let's", "It is it was them let us"),
            ("at 5 o'clock O'Hara rock'n'roll fo'c'sle", "at 5 o'clock O'Hara rock'n'roll fo'c'sle"),
            ("the tern'll fly, the terns've flown", "the tern will fly, the terns have flown"),
            ("IT'S I'LL", "IT IS I WILL"),
            ("'don't' 'it's", "'do not' 'it is"),
            ("'quoted' words' end", "'quoted' words' end"),
            ("cannot", "cannot"),
            ("dont im were", "dont im were"),
        ];
        for (text, expected) in table {
            assert_eq!(expanded("", text), expected, "{text}");
        }
        assert_eq!(expanded("missing = true", "Dont, im, were ILL youre"), "Do not, i am, were ILL you are");
    }

    #[test]
    fn the_words_behind_decide() {
        let table = [
            ("it's been", "it has been"),
            ("it's red", "it is red"),
            ("he's seen it", "he has seen it"),
            ("it's broken", "it is broken"),
            ("she's never been", "she has never been"),
            ("who's there", "who is there"),
            ("Mira's not here", "Mira is not here"),
            ("the tern's nest", "the tern's nest"),
            ("the tern's nesting", "the tern's nesting"),
            ("the tern's flying", "the tern is flying"),
            ("the tide's been", "the tide has been"),
            ("I'd better go", "I had better go"),
            ("she'd rather stay", "she would rather stay"),
            ("they'd gone", "they had gone"),
            ("he'd never seen", "he had never seen"),
            ("we'd like", "we would like"),
            ("we'd hatch", "we would hatch"),
            ("I'd", "I'd"),
            ("how'd you get here", "how did you get here"),
            ("who'd know", "who would know"),
            ("that's", "that is"),
            ("She's tired", "She is tired"),
            ("He's lost.", "He is lost."),
            ("He's lost his key", "He has lost his key"),
            ("She's called Mira", "She is called Mira"),
            ("She's called me", "She has called me"),
            ("he's used to it", "he is used to it"),
            ("it's set in stone", "it is set in stone"),
            ("she's set the table", "she has set the table"),
            ("it's put me off", "it has put me off"),
            ("nobody's hurt him", "nobody has hurt him"),
            ("where's Mira gone", "where has Mira gone"),
            ("what's he done", "what has he done"),
            ("what's happened", "what has happened"),
            ("who's eaten the fish", "who has eaten the fish"),
            ("Where's the boat?", "Where is the boat?"),
            ("what's needed", "what is needed"),
            ("the bus's just left", "the bus has just left"),
            ("Mira's gone home", "Mira has gone home"),
            ("the tide's high", "the tide's high"),
            ("Mira's happy.", "Mira is happy."),
            ("Nobody's perfect.", "Nobody is perfect."),
            ("Nobody's boat", "Nobody's boat"),
            ("Mira's tired of it", "Mira is tired of it"),
            ("Mira's tired terns", "Mira's tired terns"),
            ("he'd to go", "he had to go"),
            ("she'd no idea", "she had no idea"),
            ("where'd the money go", "where did the money go"),
            ("the tern'd fly", "the tern would fly"),
            ("Mira'd gone", "Mira had gone"),
            ("the program's very essence", "the program's very essence"),
            ("Mira's very tired.", "Mira is very tired."),
            ("the keeper's daily round", "the keeper's daily round"),
            ("the tern's remarkably long bill", "the tern's remarkably long bill"),
            ("the tern's remarkably loud.", "the tern is remarkably loud."),
            ("Mira's always late for it", "Mira is always late for it"),
            ("time's nearly up", "time is nearly up"),
            ("one's own", "one's own"),
            ("without Mira's knowing it", "without Mira's knowing it"),
            ("I think Mira's knowing it", "I think Mira is knowing it"),
            ("on the old man's coming home", "on the old man's coming home"),
            ("Look, the old man's coming home", "Look, the old man is coming home"),
            ("behind a friend's back", "behind a friend's back"),
            ("My friend's back.", "My friend is back."),
            ("Rust's built-in tests", "Rust's built-in tests"),
            ("Mira's parting words", "Mira's parting words"),
            ("her brother's being an heir", "her brother's being an heir"),
            ("Mira's dressing room", "Mira's dressing room"),
            ("the firm's operating systems", "the firm's operating systems"),
            ("Mira's running a bath", "Mira is running a bath"),
            ("Mira's building a hut", "Mira is building a hut"),
            ("one man's folly", "one man's folly"),
            ("something's always told me so", "something has always told me so"),
            ("that's made him angry", "that has made him angry"),
        ];
        for (text, expected) in table {
            assert_eq!(expanded("", text), expected, "{text}");
        }
        assert_eq!(expanded("unclear = \"is\"", "the tern's nest I'd"), "the tern is nest I would");
        assert_eq!(expanded("unclear = \"drop\"", "the tern's nest"), "the tern nest");
    }

    #[test]
    fn own_forms_go_before() {
        let settings = "pairs = { gonna = \"going to\", \"don't\" = \"don not\" }";
        assert_eq!(expanded(settings, "Gonna, don't can't"), "Going to, don not can not");
        assert_eq!(
            expanded("table = \"none\"\npairs = { \"s'il\" = \"si il\" }", "s'il don't"),
            "si il don't"
        );
    }

    #[test]
    fn no_text_is_worse_than_linear() {
        for piece in ["'", "a'", "''a", "don't", "it's not ", "’s"] {
            let text = piece.repeat(20_000);
            assert!(!expanded("missing = true", &text).is_empty());
            assert!(!expanded("", &text).is_empty());
        }
    }
}
