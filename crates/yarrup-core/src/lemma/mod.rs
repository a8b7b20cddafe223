//! Lemmas: the word that a form is listed under in a dictionary.

mod affix_condition;
mod affix_lines;
mod affixes;
mod choice;
mod compounds;
mod derivation;
mod dutch;
mod english;
mod german;
mod irregular;
mod lexicon;
mod romance;
mod scandinavian;
mod slavic;

use std::borrow::Cow;
use std::collections::HashSet;
use std::sync::Arc;

pub(crate) use affixes::AffixDictionary;
pub use english::features as english_features;
pub(crate) use english::{English, Readings, english};
pub(crate) use irregular::{IRREGULAR, irregular};
use irregular::{german_noun, german_singular, irregular_behind_any_prefix, irregular_behind_prefix};
pub(crate) use lexicon::{Classes, english_lexicon};

use crate::part_of_speech::Tag;
use crate::words::stop_list;

/// The two files of a dictionary in Hunspell's format, decoded.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct DictionaryFiles {
    /// The name or path.
    pub name: String,
    /// The text of the `.aff` file.
    pub affixes: String,
    /// The text of the `.dic` file.
    pub words: String,
}

/// The lemma of a form.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Lemma<'f> {
    pub(crate) text: Cow<'f, str>,
    pub(crate) known: Known,
}

/// Whether a word was found in a table or a lexicon.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Known {
    Yes,
    No,
}

impl<'f> Lemma<'f> {
    /// A lemma that a table holds.
    fn of(lemma: &str) -> Lemma<'f> {
        Lemma { text: Cow::Owned(lemma.to_owned()), known: Known::Yes }
    }
}

/// The lemmatiser of a language that has a dictionary in Hunspell's format: the table of irregular forms on the shelf, if there is one,
/// then the dictionary.
#[derive(Debug)]
pub(crate) struct DictionaryLemmas {
    dictionary: AffixDictionary,
    language: String,
    function_words: HashSet<String>,
}

impl DictionaryLemmas {
    /// Reads the dictionary.
    pub(crate) fn read(files: &DictionaryFiles) -> Result<DictionaryLemmas, String> {
        // `de_DE`, or a path that ends in it.
        let name = files.name.rsplit(['/', '\\']).next().unwrap_or_default();
        let language = name.split(['_', '-', '.']).next().unwrap_or_default().to_lowercase();
        // `no` stands for Bokmål, as Norwegian without anything else does.
        let language = if language == "no" { "nb".to_owned() } else { language };
        let function_words = stop_list(&language).unwrap_or_default().into_iter().collect();
        Ok(DictionaryLemmas { dictionary: AffixDictionary::read(files)?, language, function_words })
    }

    /// The lemma of a form; none if neither knows it.
    pub(crate) fn lemma(&self, form: &str, tag: Option<Tag>) -> Option<String> {
        let found = self.as_written(form, tag);
        if let Some(found) = found.as_ref().filter(|found| *found != form) {
            // Of `l'última` the dictionary takes off what is elided: what is left is looked up like any other form.
            let is_left = form
                .to_lowercase()
                .strip_suffix(&found.to_lowercase())
                .is_some_and(|head| head.ends_with(['\'', '’']));
            if is_left || self.leads_on(form, found) {
                let again = self.as_written(found, tag);
                let on = again.filter(|again| is_left || is_infinitive(&self.language, again));
                return on.or_else(|| Some(found.clone()));
            }
        }
        let may_be_noun = self.language == "de"
            && form.starts_with(char::is_lowercase)
            && matches!(tag, None | Some(Tag::Noun | Tag::ProperNoun));
        if !may_be_noun || found.as_ref().is_some_and(|lemma| lemma != form) || self.dictionary.knows(form) {
            return found;
        }
        // `pakete`, where all letters were made small: German dictionaries list nouns with their capital.
        self.as_written(&with_capital(form), tag).map(|noun| noun.to_lowercase()).or(found)
    }

    /// Whether the lemma of a form may be a form of a verb: `employés` is of `employer`, as `employé` is, and `beschriebene` of `beschreiben`; `basando` is left
    /// of `basandosi`.
    fn leads_on(&self, form: &str, found: &str) -> bool {
        match self.language.as_str() {
            "it" => !is_infinitive("it", found),
            "fr" => !is_infinitive("fr", found) && self.dictionary.is_participle(found, "fr"),
            // What an adjective has behind it.
            "de" => {
                form.starts_with(char::is_lowercase)
                    && form
                        .strip_prefix(found)
                        .is_some_and(|ending| ["e", "em", "en", "er", "es"].contains(&ending))
            }
            _ => false,
        }
    }

    /// The lemma of a form as it is written, with its capitals.
    fn as_written(&self, form: &str, tag: Option<Tag>) -> Option<String> {
        let may_be_noun = matches!(tag, None | Some(Tag::Noun));
        self.listed(form, tag).or_else(|| if may_be_noun { self.compound(form) } else { None })
    }

    /// The lemma of a form that a table or the dictionary leads to.
    fn listed(&self, form: &str, tag: Option<Tag>) -> Option<String> {
        // `VI` is no form of a verb.
        if form.len() > 1 && form.bytes().all(|letter| b"IVX".contains(&letter)) {
            return Some(form.to_owned());
        }
        let small = form.to_lowercase();
        let is_noun = matches!(tag, Some(Tag::Noun | Tag::ProperNoun));
        // A German noun begins with a capital, so that `Gang` is no form of a verb; at the head of a sentence nobody can know.
        let may_be_irregular = !(self.language == "de"
            && (is_noun || (tag.is_none() && form != small && self.dictionary.has(form))));
        let irregular = irregular(&self.language, &small)
            .or_else(|| {
                let found = irregular_behind_prefix(&self.language, &small, |verb| self.dictionary.has(verb));
                // `Vorrang` is of no `vorringen`.
                found.filter(|verb| self.language != "de" || *form == *small || self.dictionary.has(verb))
            })
            .filter(|_| may_be_irregular);
        // `vista` as a noun is no form of `ver`.
        if let Some(lemma) = irregular.filter(|lemma| !(is_noun && is_infinitive(&self.language, lemma))) {
            return Some(lemma);
        }
        // `Weg` and `Recht` are nouns, whatever `weg` and `recht` are.
        let is_german_noun = self.language == "de" && form != small && self.dictionary.has(form);
        if !is_german_noun && self.is_function_word(&small, tag) {
            return Some(small);
        }
        if let Some(lemma) = self.by_rule(form, &small, tag) {
            return Some(lemma);
        }
        let lemma = self.dictionary.lemma(form, tag, &self.language);
        if let Some(lemma) = self.beyond(&lemma, &small, tag) {
            return Some(lemma);
        }
        let lemma = lemma?;
        if self.language == "de" && form != small {
            return Some(self.without_umlaut(&lemma).unwrap_or(lemma));
        }
        Some(lemma)
    }

    /// What a compound that the dictionary does not know is of, by its last part, which is a noun.
    fn compound(&self, form: &str) -> Option<String> {
        let small = form.to_lowercase();
        let is_german = self.language == "de";
        if is_german && *form == *small {
            return None;
        }
        // Inside a compound, no noun of German has its capital.
        let noun = |part: &str| if is_german { with_capital(part) } else { part.to_owned() };
        let lemma = |last: &str| {
            let last_noun = noun(last);
            // Most ends of words are no words: asked first, since the rest takes longer.
            let is_known = self.dictionary.knows(&last_noun) || irregular(&self.language, last).is_some();
            let found = if is_known { self.listed(&last_noun, Some(Tag::Noun))? } else { return None };
            let is_noun = found == last || !self.is_verb(&found);
            is_noun.then(|| found.to_lowercase())
        };
        let is_word = |head: &str| self.dictionary.knows(head) || self.dictionary.knows(&noun(head));
        let base = compounds::base(&self.language, &small, lemma, is_word)?;
        Some(if *form == *small { base } else { with_capital(&base) })
    }

    /// Whether a word is the infinitive of a verb, as far as the dictionary tells.
    fn is_verb(&self, word: &str) -> bool {
        match self.language.as_str() {
            "da" | "nb" => self.dictionary.is_scandinavian_verb(word),
            "sv" => {
                let signs = scandinavian::swedish_signs_of_verb(word);
                signs.iter().any(|sign| self.dictionary.knows(sign))
            }
            language => !word.starts_with(char::is_uppercase) && is_infinitive(language, word),
        }
    }

    /// Whether a form is a function word, which is of no other word but those that the table names: `dans` is no plural of `dan`. Auxiliaries have
    /// more forms than the table, and a noun or a verb may be spelled like one.
    fn is_function_word(&self, small: &str, tag: Option<Tag>) -> bool {
        let may_be_one =
            !matches!(tag, Some(Tag::Noun | Tag::ProperNoun | Tag::Verb | Tag::Adjective | Tag::Auxiliary));
        may_be_one
            && self.function_words.contains(small)
            && !self.dictionary.lemma(small, tag, &self.language).is_some_and(|lemma| {
                let is_verb = is_infinitive(&self.language, &lemma);
                let is_listed = || irregular(&self.language, &lemma).is_some_and(|verb| verb == lemma);
                match self.language.as_str() {
                    // `смогла`, but not `хотя`.
                    "ru" => is_verb && !small.ends_with('я'),
                    _ => is_verb && small.chars().count() > 4 && is_listed(),
                }
            })
    }

    /// The lemma of a form that the dictionary lists as a word of its own, or not at all, by the rules of the language; the lemma must be in the
    /// dictionary.
    fn by_rule(&self, form: &str, small: &str, tag: Option<Tag>) -> Option<String> {
        let known = |words: Vec<String>| words.into_iter().find(|word| self.dictionary.has(word));
        match self.language.as_str() {
            "de" if form != small => german_noun(form).or_else(|| {
                german_singular(form).filter(|noun| self.dictionary.has(noun) || !self.dictionary.has(form))
            }),
            "de" if may_be_verb(tag) => known(german::infinitives(small)).or_else(|| {
                let is_own =
                    |verb: &str| self.dictionary.lemma(verb, Some(Tag::Verb), "de").as_deref() == Some(verb);
                german::without_zu(small).filter(|verb| self.dictionary.has(verb) || is_own(verb))
            }),
            "nl" if may_be_verb(tag) => known(dutch::participles(small)),
            _ => None,
        }
    }

    /// What the rules of the language make of a form where the dictionary leads no further: to a stem, to the form itself, or to nothing.
    fn beyond(&self, found: &Option<String>, small: &str, tag: Option<Tag>) -> Option<String> {
        let language = self.language.as_str();
        let is_itself = found.as_ref().is_none_or(|found| found == small);
        // `mesa` and `revistas` are of listed nouns.
        let word = found.as_deref().unwrap_or(small);
        if tag != Some(Tag::Verb) && self.dictionary.is_number_of(small, word, language) {
            return None;
        }
        let may_be_verb = may_be_verb(tag);
        let has = |word: &str| self.dictionary.has(word);
        let known = |words: Vec<String>| words.into_iter().find(|word| has(word));
        // `riprese` is of `riprendere`, unless the dictionary has another verb for it.
        if may_be_verb
            && found.as_ref().is_none_or(|found| !is_infinitive(language, found))
            && !self.dictionary.is_slavic_noun(small, language)
            && let Some(verb) = irregular_behind_any_prefix(language, small, has)
        {
            return Some(verb);
        }
        // `normale` is not of `normare`; but `vale` is of `valere`.
        if language == "it"
            && tag != Some(Tag::Verb)
            && let Some(verb) = found
            && is_infinitive("it", verb)
            && !verb.ends_with("lere")
            && !verb.ends_with("lire")
            && let Some(adjective) = self.italian_adjective(small, verb)
        {
            return Some(adjective);
        }
        match (language, found) {
            ("nl", Some(_)) if may_be_verb && dutch::has_verbal_prefix(small) && has(small) => {
                Some(small.to_owned())
            }
            ("nl", _) if small.ends_with("jes") && has(&small[..small.len() - 1]) => {
                Some(small[..small.len() - 1].to_owned())
            }
            // `denk` is listed as the stem of a verb, and has no diminutive, as nouns have: `vraagje`.
            ("nl", Some(stem)) if stem == small && may_be_verb && self.is_dutch_stem(small, tag) => {
                known(dutch::verbs(small))
            }
            // `werkte` leads to `werk`, `leeft` to `leef`: stems of verbs.
            ("nl", Some(stem)) if may_be_verb && dutch::is_verbal(small, stem) => {
                let verbs = dutch::verbs(stem);
                // `pakketten` are several of `pakket`.
                let derived =
                    verbs.iter().find(|verb| small.len() == stem.len() + 1 && self.dictionary.knows(verb));
                let derived = derived.cloned();
                known(verbs).or(derived)
            }
            // `bomen` leads to `bom` by its letters, and to `boom` by the rules of spelling.
            ("nl", Some(found)) if found != small && small.ends_with("en") && !is_infinitive("nl", found) => {
                known(dutch::singulars(small))
            }
            // `stazioni` is not of `stazionare`.
            ("it", _) if small.ends_with("ioni") => known(vec![format!("{}e", &small[..small.len() - 1])]),
            ("it", _) if is_itself && may_be_verb => known(romance::italian_infinitives(small)),
            ("es", _) if is_itself && may_be_verb => {
                known(romance::spanish_infinitives(small)).or_else(|| {
                    romance::without_spanish_diphthong(small).into_iter().find_map(|regular| {
                        let lemma = self.dictionary.lemma(&regular, Some(Tag::Verb), "es")?;
                        (is_infinitive("es", &lemma) && lemma != regular).then_some(lemma)
                    })
                })
            }
            ("it", Some(found)) if may_be_verb && found.ends_with("to") => {
                known(romance::italian_infinitives(found))
            }
            ("sv", found) => self.swedish(small, found.as_deref(), tag),
            ("pl", found) => self.polish(small, found.as_deref(), may_be_verb),
            ("da" | "nb", found) => found
                .as_deref()
                .and_then(|found| self.doubled(small, found))
                .or_else(|| self.scandinavian(small, may_be_verb)),
            ("uk", Some(found)) => slavic::positive("uk", found, has),
            ("cs", _) => self.czech(small, found.as_deref(), may_be_verb),
            ("ro", _) => self.romanian(small, found.as_deref(), may_be_verb),
            // `учёт` is listed like this, and so are its forms; of other words there is a form with `е` alone.
            ("ru", _) if small.contains('ё') && is_itself && !has(small) => {
                self.dictionary.lemma(&small.replace('ё', "е"), tag, "ru")
            }
            _ => None,
        }
    }

    /// What a form of Danish or Norwegian is of that is no form of the verb that the dictionary leads to: `strømmen` is of `strøm`, whose last letter is doubled.
    /// `autentisere` is an infinitive itself.
    fn doubled(&self, small: &str, found: &str) -> Option<String> {
        if small.ends_with("isere") && small.strip_suffix('e') == Some(found) {
            return Some(small.to_owned());
        }
        let stem = found.strip_suffix('e').filter(|_| small.strip_suffix('n') == Some(found))?;
        let is_noun = self.dictionary.is_form_of(&format!("{found}rne"), found);
        let (at, last) = stem.char_indices().next_back()?;
        let single = stem[..at].ends_with(last).then(|| &stem[..at])?;
        (!is_noun && self.dictionary.has(single)).then(|| single.to_owned())
    }

    /// What a regular past tense, comparative or superlative of Danish or Norwegian is of: `kjøpte` is of no adjective `kjøpt`, and `finere` of no `finer`.
    fn scandinavian(&self, small: &str, may_be_verb: bool) -> Option<String> {
        if self.dictionary.is_scandinavian_verb(small) {
            return None;
        }
        // What the Danish dictionary lists as it stands is no past tense.
        let may_be_past = may_be_verb && (self.language == "nb" || !self.dictionary.has(small));
        let verbs = if may_be_past { scandinavian::infinitives(small) } else { Vec::new() };
        let verb = verbs.into_iter().find(|verb| self.dictionary.is_scandinavian_verb(verb));
        verb.or_else(|| {
            let adjectives = scandinavian::positives(small);
            adjectives.into_iter().find(|word| self.dictionary.is_form_of(&format!("{word}t"), word))
        })
    }

    /// Whether a word of Dutch is the stem of a verb before it is a noun or an adjective: `denk`, but not `vraag`, which has a diminutive, `monitor`, which has
    /// a plural, or `open`, which has a superlative.
    fn is_dutch_stem(&self, small: &str, tag: Option<Tag>) -> bool {
        if !self.dictionary.is_form_of(&format!("{small}t"), small) {
            return false;
        }
        // `bom`, `bommetje`.
        let doubled = small.chars().next_back().map(|last| format!("{small}{last}etje"));
        let ends = ["je", "tje", "pje", "etje", "s", "'s", "st", "ste"];
        let mut others = ends.iter().map(|end| format!("{small}{end}")).chain(doubled);
        tag == Some(Tag::Verb) || !others.any(|form| self.dictionary.knows(&form))
    }

    /// What a noun or a verb of Swedish is of, where the dictionary leads to another word, or to none.
    fn swedish(&self, small: &str, found: Option<&str>, tag: Option<Tag>) -> Option<String> {
        if tag != Some(Tag::Verb)
            && let Some(verb) = found.filter(|found| self.is_verb(found))
            && let Some(noun) = self.swedish_noun(small, verb)
        {
            return Some(noun);
        }
        if !may_be_verb(tag) {
            return None;
        }
        let past = scandinavian::swedish_infinitives(small);
        past.into_iter().find(|verb| self.dictionary.has(verb)).or_else(|| {
            let is_itself = found.is_none_or(|found| found == small);
            let present = scandinavian::swedish_present(small).filter(|_| is_itself)?;
            // `server` and `filter` are nouns.
            let has_form = |ending: &&str| self.dictionary.is_form_of(&format!("{small}{ending}"), small);
            let is_noun = ["n", "s"].iter().any(has_form);
            (!is_noun && self.dictionary.has(&present) && self.is_verb(&present)).then_some(present)
        })
    }

    /// The noun that a word of Swedish is of before it is a form of this verb: `skrivaren` is of `skrivare`, `tryck` has the definite form `trycket`, and
    /// `loggarna` are several of `logg`.
    fn swedish_noun(&self, small: &str, verb: &str) -> Option<String> {
        let stem = verb.strip_suffix('a')?;
        if small == stem {
            let is_noun =
                ["et", "en"].iter().any(|end| self.dictionary.is_form_of(&format!("{stem}{end}"), stem));
            return is_noun.then(|| small.to_owned());
        }
        // `åtgärder` are several of `åtgärd` before they are a form of `åtgärda`.
        let is_plural = ["er", "ar", "erna", "arna"].iter().any(|end| small.strip_suffix(end) == Some(stem))
            && self.dictionary.is_form_of(small, stem);
        if is_plural {
            return Some(stem.to_owned());
        }
        let behind = small.strip_prefix(verb)?;
        if !["re", "ren", "rens", "res", "rna", "rnas"].contains(&behind) {
            return None;
        }
        Some(format!("{verb}re"))
    }

    /// What an adverbial participle of Polish is of, or an adjective that is taken for a noun: `tworząc`, `starą`.
    fn polish(&self, small: &str, found: Option<&str>, may_be_verb: bool) -> Option<String> {
        if may_be_verb && small.ends_with("ąc") {
            let verb = self.dictionary.lemma(&format!("{small}y"), Some(Tag::Verb), "pl");
            return verb.filter(|verb| is_infinitive("pl", verb));
        }
        let stem = found.filter(|found| *found != small)?.strip_suffix('a')?;
        if !["ą", "ej", "e"].iter().any(|ending| small.ends_with(ending)) {
            return None;
        }
        let adjectives = ["y", "i"].map(|ending| format!("{stem}{ending}"));
        let is_adjective = |word: &String| {
            self.dictionary.is_form_of(small, word) && self.dictionary.is_form_of(&format!("{word}m"), word)
        };
        adjectives.into_iter().find(is_adjective)
    }

    /// What a comparative or a form of a verb of Czech is of.
    fn czech(&self, small: &str, found: Option<&str>, may_be_verb: bool) -> Option<String> {
        let has = |word: &str| self.dictionary.has(word);
        if let Some(adjective) = found.and_then(|found| slavic::positive("cs", found, has)) {
            return Some(adjective);
        }
        let is_settled = found.is_some_and(|found| is_infinitive("cs", found));
        if !may_be_verb || is_settled || self.dictionary.is_slavic_noun(small, "cs") {
            return None;
        }
        let verbs = slavic::czech_infinitives(small, found);
        // What is denied may be listed without: `nepsal`.
        let denied = small.strip_prefix("ne").map(|small| slavic::czech_infinitives(small, None));
        verbs.into_iter().chain(denied.unwrap_or_default()).find(|verb| has(verb))
    }

    /// What a form of Romanian is of, of which the dictionary lists the form itself, or the first person of a verb.
    fn romanian(&self, small: &str, found: Option<&str>, may_be_verb: bool) -> Option<String> {
        // `network-ul` is `network` with its article.
        if let Some(noun) = found.and_then(|found| found.strip_suffix("-ul")) {
            return Some(noun.to_owned());
        }
        let (has, is_form_of) = (
            |word: &str| self.dictionary.has(word),
            |form: &str, word: &str| self.dictionary.is_form_of(form, word),
        );
        let base = || romance::romanian_base(small, has, is_form_of);
        let first = found.filter(|_| may_be_verb);
        let infinitive =
            || first.and_then(|first| romance::romanian_infinitive(first, |form| is_form_of(form, first)));
        // `vara` is listed as it stands.
        if has(small) {
            return base().or_else(infinitive);
        }
        // `aștepta` leads to the first person `aștept`.
        let leads_on = found.is_none() || first.is_some_and(|first| small.starts_with(first));
        infinitive().or_else(|| if leads_on { base() } else { None })
    }

    /// The adjective or noun in `-ale` or `-ile` that a form is, which the dictionary makes of a verb.
    fn italian_adjective(&self, small: &str, verb: &str) -> Option<String> {
        let of_verb = |form: &str| self.dictionary.lemma(form, None, "it").as_deref() == Some(verb);
        let is_adjective = |form: &str| form.ends_with("ale") || form.ends_with("ile");
        let singular = small.strip_suffix('i').map(|stem| format!("{stem}e"));
        let found = std::iter::once(small.to_owned()).chain(singular);
        found.into_iter().find(|form| is_adjective(form) && of_verb(form))
    }

    /// The singular of a German plural that has nothing but an umlaut: `Väter`, `Vögeln`.
    fn without_umlaut(&self, form: &str) -> Option<String> {
        let singular = form
            .strip_suffix('n')
            .filter(|stem| stem.ends_with("er") || stem.ends_with("el"))
            .unwrap_or(form);
        if !["er", "el", "en"].iter().any(|ending| singular.ends_with(ending)) {
            return None;
        }
        let at = singular.rfind(['ä', 'ö', 'ü', 'Ä', 'Ö', 'Ü'])?;
        let umlaut = singular[at..].chars().next()?;
        let plain = match umlaut {
            'ä' => 'a',
            'ö' => 'o',
            'ü' => 'u',
            'Ä' => 'A',
            'Ö' => 'O',
            _ => 'U',
        };
        let base = format!("{}{plain}{}", &singular[..at], &singular[at + umlaut.len_utf8()..]);
        self.dictionary.has(&base).then_some(base)
    }
}

/// A word with its first letter as a capital.
fn with_capital(word: &str) -> String {
    let mut letters = word.chars();
    let first = letters.next();
    first.into_iter().flat_map(char::to_uppercase).chain(letters).collect()
}

/// Whether a word with this tag may be a form of a verb; a participle is one though it is tagged as an adjective.
fn may_be_verb(tag: Option<Tag>) -> bool {
    tag.is_none_or(|tag| matches!(tag, Tag::Verb | Tag::Auxiliary | Tag::Adjective))
}

/// Whether a lemma of one of the tables of irregular forms is a verb, by its ending.
fn is_infinitive(language: &str, lemma: &str) -> bool {
    let endings: &[&str] = match language {
        "de" | "nl" => &["en", "ern", "eln", "tun", "gaan", "staan", "doen", "zien", "sein", "zijn"],
        "ca" | "es" | "fr" | "pt" => &["r", "re", "pôr"],
        "it" => &["are", "ere", "ire", "dire", "fare"],
        "ru" => &["ть", "ти", "чь"],
        "cs" => &["at", "it", "et", "ět", "át", "ít", "ýt", "ést", "íct", "out", "ci"],
        "pl" => &["ć"],
        "uk" => &["ти", "тися"],
        "sv" => &["a", "få", "gå", "stå", "ge", "se", "bli", "ta", "dra", "slå", "dö"],
        _ => &[],
    };
    endings.iter().any(|ending| lemma.ends_with(ending))
}

/// Tells whether there is such a word.
#[derive(Clone, Debug)]
pub(crate) enum Speller {
    English(&'static English),
    Dictionary(Arc<AffixDictionary>),
}

impl Speller {
    /// By the dictionary in these files.
    pub(crate) fn dictionary(files: &DictionaryFiles) -> Result<Speller, String> {
        Ok(Speller::Dictionary(Arc::new(AffixDictionary::read(files)?)))
    }

    /// Whether the word, in any letter case, is a word or a form of one.
    pub(crate) fn knows(&self, word: &str) -> bool {
        match self {
            Speller::English(english) => english.knows(&word.to_lowercase()),
            Speller::Dictionary(dictionary) => dictionary.knows(word),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn lemmas(name: &str, affixes: &str, words: &str) -> DictionaryLemmas {
        let files = DictionaryFiles { name: name.into(), affixes: affixes.into(), words: words.into() };
        DictionaryLemmas::read(&files).expect("a dictionary")
    }

    fn check(lemmas: &DictionaryLemmas, table: &[(&str, Option<Tag>, &str)]) {
        for (form, tag, expected) in table {
            assert_eq!(lemmas.lemma(form, *tag).as_deref().unwrap_or(form), *expected, "{form} {tag:?}");
        }
    }

    #[test]
    fn a_noun_is_itself_before_it_is_a_form_of_a_verb() {
        let affixes = "SFX R Y 2\nSFX R ar a ar\nSFX R ar an ar\nSFX S Y 1\nSFX S 0 s [aeiou]\nSFX G Y 2\nSFX G o a o\nSFX G o as o\n";
        let words = "casar/R\ncasa/S\nnuevo/G\nnueva/S\nnuevamente\njugar/R\ncaer\nnoto/G\nnota/S\nrever\nrevista/S\n";
        let spanish = lemmas("es_ES", affixes, &format!("11\n{words}"));
        check(
            &spanish,
            &[
                ("casa", None, "casa"),
                ("casa", Some(Tag::Verb), "casar"),
                ("casas", None, "casa"),
                ("casan", None, "casar"),
                // There is an adverb of what is an adjective.
                ("nuevas", None, "nuevo"),
                ("nueva", None, "nuevo"),
                ("notas", None, "nota"),
                ("nota", None, "nota"),
                ("revistas", None, "revista"),
                ("juegan", None, "jugar"),
                ("caídas", None, "caer"),
                ("fueron", None, "ser"),
            ],
        );
    }

    #[test]
    fn compounds_are_inflected_by_their_last_part() {
        let german = lemmas(
            "de_DE",
            "SFX N Y 1\nSFX N 0 n e\nSFX E Y 2\nSFX E 0 en .\nSFX E 0 s .\n",
            "8\nSicherheit\nKopie/N\nBild/E\nSchirm/E\nabbrechen\nlegen\nbelegen\nverbinden\n",
        );
        check(
            &german,
            &[
                ("Sicherheitskopien", None, "Sicherheitskopie"),
                ("sicherheitskopien", None, "sicherheitskopie"),
                ("Bildschirmen", None, "Bildschirm"),
                ("Bildkopie", None, "Bildkopie"),
                ("Bildkopien", Some(Tag::Adjective), "Bildkopien"),
                // `Ge` is no word.
                ("Geschirmen", None, "Geschirmen"),
                ("abzubrechen", None, "abbrechen"),
                ("verbunden", None, "verbinden"),
                ("belegen", None, "belegen"),
            ],
        );
        let swedish = lemmas(
            "sv_SE",
            "SFX V Y 4\nSFX V a ande a\nSFX V a ade a\nSFX V 0 re a\nSFX V 0 ren a\nSFX N Y 2\nSFX N 0 en .\nSFX N 0 s .\nSFX T Y 2\nSFX T 0 et .\nSFX T 0 a .\n",
            "9\nmeny\nknapp/N\nvisa/V\nvisar\nskriva/V\ntryck/T\ntrycka/V\nserver/N\nserva/V\n",
        );
        check(
            &swedish,
            &[
                ("menyknappen", None, "menyknapp"),
                ("visar", None, "visa"),
                ("skrivare", None, "skrivare"),
                ("skrivaren", None, "skrivare"),
                ("tryck", None, "tryck"),
                ("server", None, "server"),
            ],
        );
    }

    #[test]
    fn stems_of_verbs_and_doubled_letters_are_told_from_nouns() {
        let dutch = lemmas(
            "nl_NL",
            "SFX V Y 1\nSFX V 0 t .\nSFX N Y 1\nSFX N 0 je .\n",
            "9\ndenk/V\ndenken\nvraag/VN\nvragen\nlees/V\nlezen\nopen/V\nopenst\nopenen\n",
        );
        check(
            &dutch,
            &[
                ("denk", None, "denken"),
                ("lees", None, "lezen"),
                ("vraag", None, "vraag"),
                ("vraag", Some(Tag::Verb), "vragen"),
                ("denk", Some(Tag::Noun), "denk"),
                ("open", None, "open"),
            ],
        );
        let danish = lemmas(
            "da_DK",
            "SFX V Y 2\nSFX V 0 n e\nSFX V 0 nde e\nSFX N Y 2\nSFX N 0 n e\nSFX N 0 rne e\n",
            "4\nstrøm\nstrømme/V\npak\npakke/VN\n",
        );
        check(&danish, &[("strømmen", None, "strøm"), ("pakken", None, "pakke")]);
        let norwegian = lemmas("nb_NO", "SFX V Y 1\nSFX V 0 e r\n", "2\nautentiser/V\nlærer/V\n");
        check(&norwegian, &[("autentisere", None, "autentisere"), ("lærere", None, "lærer")]);
        let german = lemmas("de_DE", "", "1\nnehmen\n");
        check(&german, &[("nimm", None, "nehmen"), ("gib", None, "geben"), ("lies", None, "lesen")]);
    }

    #[test]
    fn polish_participles_and_adjectives_lead_to_their_words() {
        let affixes =
            "SFX V Y 1\nSFX V yć ący yć\nSFX A Y 2\nSFX A y ą y\nSFX A y ym y\nSFX F Y 1\nSFX F a ą a\n";
        let polish = lemmas("pl_PL", affixes, "4\ntworzyć/V\nstary/A\nstara/F\nlampa/F\n");
        check(
            &polish,
            &[
                ("tworząc", None, "tworzyć"),
                ("starą", None, "stary"),
                ("lampą", None, "lampa"),
                ("którymi", None, "który"),
                ("należy", None, "należeć"),
            ],
        );
    }

    #[test]
    fn slavic_nouns_are_no_forms_of_rarer_words() {
        let affixes = "SFX F Y 3\nSFX F a 0 [^k]a\nSFX F ka k [^ż]ka\nSFX F ka ek żka\nSFX M Y 2\nSFX M 0 i [kn]\nSFX M 0 y [^kn]\nSFX N Y 1\nSFX N o a o\n\
                       SFX V Y 1\nSFX V ć enie ć\nSFX A Y 1\nSFX A y e y\nSFX P Y 1\nSFX P 0 m .\n";
        let words = "plik/M\nplika/F\nścieżka/F\nścieżek/M\nsłowo/N\nsłowa/P\npoleci\npolecić/V\nlist/M\nlista/F\nmały/A\nmałe/P\n";
        let polish = lemmas("pl_PL", affixes, &format!("12\n{words}"));
        check(
            &polish,
            &[
                ("plik", None, "plik"),
                ("pliki", None, "plik"),
                ("list", None, "list"),
                ("ścieżek", None, "ścieżka"),
                ("słowa", None, "słowo"),
                ("małe", None, "mały"),
            ],
        );
        let russian =
            lemmas("ru_RU", "SFX V Y 1\nSFX V ть ло ть\nSFX N Y 1\nSFX N о а о\n", "2\nмыть/V\nмыло/N\n");
        check(&russian, &[("мыло", None, "мыло"), ("мыло", Some(Tag::Verb), "мыть")]);
    }

    #[test]
    fn danish_and_norwegian_forms_are_of_the_likelier_word() {
        // Definite forms of nouns, plurals and forms of verbs, as generous as the Norwegian dictionary is.
        let affixes = "SFX N Y 4\nSFX N 0 en [^e]\nSFX N 0 ene [^e]\nSFX N 0 n e\nSFX N 0 ne e\nSFX P Y 1\nSFX P 0 er [^e]\n\
                       SFX V Y 4\nSFX V 0 r e\nSFX V 0 nde e\nSFX V e 0 e\nSFX V e t e\nSFX A Y 2\nSFX A 0 t .\nSFX A 0 e .\n";
        let words = "hus/N\nhuse/NV\nside/N\nsid/N\nfil/NP\nfile/NV\nbruk/NA\nbruke/V\nkjøpe/V\nkjøpt/A\nfeil/N\nfeile/V\nfin/A\nformat/NP\nformatere/V\n";
        let norwegian = lemmas("nb_NO", affixes, &format!("15\n{words}"));
        check(
            &norwegian,
            &[
                ("husene", None, "hus"),
                ("Husene", None, "hus"),
                ("siden", None, "side"),
                ("brukt", None, "bruke"),
                ("bruke", None, "bruke"),
                ("kjøpte", None, "kjøpe"),
                ("feil", None, "feil"),
                ("finere", None, "fin"),
                ("bøkene", None, "bok"),
                ("eldst", None, "gammel"),
                // A function word is of no rarer word.
                ("hvor", None, "hvor"),
            ],
        );
        let danish = lemmas("da_DK", affixes, &format!("15\n{words}"));
        check(&danish, &[("filer", None, "fil"), ("formater", None, "format"), ("børnene", None, "barn")]);
        // `no` is Bokmål.
        assert_eq!(lemmas("no", affixes, "1\nhus/N\n").lemma("bøkene", None).as_deref(), Some("bok"));
    }

    #[test]
    fn czech_ukrainian_and_romanian_forms_lead_to_what_dictionaries_list_under_another_form() {
        let affixes = "SFX A Y 4\nSFX A ý ou ý\nSFX A ý é ý\nSFX A ý ě ý\nSFX A ý ost ý\nSFX N Y 1\nSFX N a ou a\nSFX B Y 1\nSFX B m 0 ím\n";
        let words = "nový/A\nnova/N\nvidím/B\nvidět\nviděl\npsal\npsát\nvypsat\nkrásný/A\nkrásnější\n";
        let czech = lemmas("cs_CZ", affixes, &format!("10\n{words}"));
        check(
            &czech,
            &[
                ("novou", None, "nový"),
                ("nově", None, "nově"),
                ("novost", None, "novost"),
                ("vidí", None, "vidět"),
                ("viděla", None, "vidět"),
                ("vypíše", None, "vypsat"),
                ("krásnější", None, "krásný"),
                // Negation stays.
                ("nemůže", None, "nemoci"),
                ("dětem", None, "dítě"),
            ],
        );
        let affixes = "SFX A Y 2\nSFX A ий ого ий\nSFX A ий о ий\nSFX N Y 1\nSFX N е ого е\nSFX L Y 1\nSFX L ий а ий\nSFX V Y 1\nSFX V ти ла ти\n";
        let ukrainian = lemmas("uk_UA", affixes, "4\nновий/A\nнове/N\nсмілий/L\nсміти/V\n");
        check(
            &ukrainian,
            &[
                ("нового", None, "новий"),
                ("ново", None, "ново"),
                ("сміла", None, "сміти"),
                ("людей", None, "людина"),
            ],
        );
        let affixes = "SFX I Y 1\nSFX I esc ește esc\n";
        let romanian = lemmas("ro_RO", affixes, "4\nvorbesc/I\nvară\nvara\nnetwork-ul\n");
        check(
            &romanian,
            &[
                ("vorbește", None, "vorbi"),
                ("vara", None, "vară"),
                ("network-ul", None, "network"),
                ("cărților", None, "carte"),
                ("sunt", None, "fi"),
            ],
        );
        let catalan = lemmas("ca", "", "1\nfer\n");
        check(&catalan, &[("feien", None, "fer"), ("homes", None, "home")]);
    }

    #[test]
    fn a_lemma_is_its_own_lemma() {
        let check_all = |lemmas: &DictionaryLemmas, table: &[(&str, &str)]| {
            for (form, lemma) in table {
                for form in [form, lemma] {
                    assert_eq!(lemmas.lemma(form, None).as_deref().unwrap_or(form), *lemma, "{form}");
                }
            }
        };
        // Feminines are no genitives of rarer masculines.
        let affixes = "SFX F Y 1\nSFX F а и а\nSFX M Y 2\nSFX M ок ка ок\nSFX M 0 а т\nSFX A Y 2\nSFX A ий а ий\nSFX A ий ого ий\n";
        let words = "точка/F\nточок/M\nмарка/F\nмаркий/A\nучёт/M\n";
        let ukrainian = lemmas("uk_UA", affixes, &format!("5\n{words}"));
        check_all(&ukrainian, &[("точки", "точка")]);
        let russian = lemmas("ru_RU", affixes, &format!("5\n{words}"));
        check_all(&russian, &[("марки", "марка"), ("учёта", "учёт")]);
        // Adjectives are not several of a noun, nor are their forms those of a noun that looks like a feminine.
        let affixes = "SFX M Y 1\nSFX M 0 i g\nSFX A Y 3\nSFX A 0 ego [gk]i\nSFX A y ego y\nSFX A y e y\nSFX F Y 1\nSFX F a e a\n";
        let polish = lemmas("pl_PL", affixes, "4\ndług/M\ndługi/A\nnowy/A\nnowa/F\n");
        check_all(&polish, &[("długiego", "długi"), ("nowe", "nowy"), ("nowego", "nowy")]);
        // A noun in a consonant is no past tense.
        let czech = lemmas("cs_CZ", "SFX M Y 1\nSFX M 0 em .\n", "2\nprofil/M\nprofit/M\n");
        check_all(&czech, &[("profilem", "profil")]);
        // Participles are of their verbs in all their forms, but what ends like one is not.
        let affixes = "SFX V Y 3\nSFX V er é er\nSFX V er ant er\nSFX V er ent er\nSFX A Y 3\nSFX A 0 e .\nSFX A 0 s .\nSFX A 0 es .\n";
        let words = "employer/V\nemployé/A\nimporter/V\nimportant/A\nparer/V\nparent/A\n";
        let french = lemmas("fr_FR", affixes, &format!("6\n{words}"));
        check_all(&french, &[("employées", "employer"), ("importantes", "important"), ("parents", "parent")]);
        let german = lemmas("de_DE", "SFX A Y 1\nSFX A 0 e .\n", "3\nbeschreiben\nbeschrieben/A\nWeg\n");
        check_all(
            &german,
            &[("beschriebene", "beschreiben"), ("Weg", "Weg"), ("verschiedene", "verschieden")],
        );
        // A noun behind a prefix is no first person.
        let affixes = "PFX C Y 1\nPFX C 0 contra .\nSFX S Y 1\nSFX S 0 s o\nSFX V Y 1\nSFX V ar o ar\n";
        let spanish = lemmas("es_ES", affixes, "2\nto/CS\ncontratar/V\n");
        check_all(&spanish, &[("contratos", "contrato")]);
        // What stands behind an elided word is looked up as well.
        let affixes = "PFX L Y 1\nPFX L 0 l' a\nSFX A Y 1\nSFX A 0 a .\n";
        let catalan = lemmas("ca", affixes, "2\nalt/A\nalta/L\n");
        check_all(&catalan, &[("l'alta", "alt")]);
        let dutch = lemmas("nl_NL", "", "3\nbewaren\nreden\nrijden\n");
        check_all(&dutch, &[("bewaren", "bewaren"), ("redenen", "reden")]);
    }

    #[test]
    fn a_capital_at_the_head_of_a_sentence_makes_no_name() {
        let czech = lemmas("cs_CZ", "SFX N Y 1\nSFX N a y a\n", "3\nchyba/N\nChyba/N\nHana/N\n");
        check(&czech, &[("Chyby", None, "chyba"), ("Chyba", None, "Chyba"), ("Hany", None, "Hana")]);
    }

    #[test]
    fn inflection_goes_and_derivation_stays() {
        let affixes = "PFX V Y 1\nPFX V 0 ver .\nSFX T Y 1\nSFX T en te en\nSFX J Y 2\nSFX J 0 ung .\nSFX J 0 ungen .\n";
        let german = lemmas(
            "de_DE",
            affixes,
            "9\nkaufen/VT\nmachen/T\nZeit/J\ngemacht\nBuch\nBücher\nHandtuch\nabholen\n",
        );
        check(
            &german,
            &[
                ("verkaufte", None, "verkaufen"),
                ("kaufte", None, "kaufen"),
                ("gemacht", None, "machen"),
                ("abgeholt", None, "abholen"),
                ("Zeitung", None, "Zeitung"),
                ("Zeitungen", None, "Zeitung"),
                ("Büchern", None, "Buch"),
                ("Handtücher", None, "Handtuch"),
                ("ausgegangen", None, "ausgehen"),
            ],
        );
    }

    #[test]
    fn dutch_spelling_and_function_words() {
        let affixes =
            "ICONV 1\nICONV ij ĳ\nOCONV 1\nOCONV ĳ ij\nSFX V Y 3\nSFX V 0 te .\nSFX V 0 t .\nSFX V 0 ten .\n";
        let words = "14\nwerk/V\nwerken\nmaak/V\nmaken\nleef/V\nleven\nbetalen\neen\ngeen\nenen\nlĳst\nmeisje\nmeisjes\nkunnen\n";
        check(
            &lemmas("nl_NL", affixes, words),
            &[
                ("werkte", None, "werken"),
                ("werkten", None, "werken"),
                ("leeft", None, "leven"),
                ("gemaakt", None, "maken"),
                ("betaald", None, "betalen"),
                ("een", None, "een"),
                ("geen", None, "geen"),
                ("kunnen", None, "kunnen"),
                ("lijst", None, "lijst"),
                ("meisjes", None, "meisje"),
                ("liep", None, "lopen"),
            ],
        );
    }

    #[test]
    fn stems_of_fields_and_tables_of_other_languages() {
        let french = lemmas("fr", "SFX S Y 1\nSFX S 0 s .\n", "2\nla po:det st:le\nle po:det\n");
        check(&french, &[("la", None, "le"), ("le", None, "le")]);
        // A function word is no form of a rarer word, unless a tag says so.
        let french = lemmas("fr", "SFX S Y 1\nSFX S 0 s .\n", "2\ndan/S\ndans\n");
        check(&french, &[("dans", None, "dans"), ("Dans", None, "dans"), ("dans", Some(Tag::Noun), "dan")]);
        // Of nouns and adjectives, even the bare form has a suffix, of no letters.
        let affixes = "FLAG long\nNEEDAFFIX ()\nSFX S. Y 2\nSFX S. 0 0 .\nSFX S. 0 s .\nSFX F. Y 3\nSFX F. 0 0 .\nSFX F. 0 e .\nSFX F. 0 s .\n\
                       SFX a0 Y 2\nSFX a0 er e er\nSFX a0 er é er\n";
        let words = "4\ntable/S.()\ntabler/a0\noublié/F.()\noublier/a0\n";
        check(
            &lemmas("fr", affixes, words),
            &[
                ("table", None, "table"),
                ("tables", None, "table"),
                ("table", Some(Tag::Verb), "tabler"),
                ("oublié", None, "oublier"),
                ("oublie", None, "oublier"),
            ],
        );
        let portuguese =
            lemmas("pt_PT", "SFX L Y 1\nSFX L 0 x .\n", "2\npedem/L\t[$pedir$CAT=v,T=inf]\npedir\t[CAT=v]\n");
        check(&portuguese, &[("pedem", None, "pedir")]);
        let catalan = lemmas(
            "ca",
            "SFX S Y 1\nSFX S a es a\nSFX R Y 1\nSFX R ar a ar\n",
            "3\ncasa/S\ncasar/R\nparlar/R\n",
        );
        check(&catalan, &[("casa", None, "casa"), ("cases", None, "casa"), ("parla", None, "parlar")]);
        let portuguese = lemmas("pt_PT", "SFX M Y 2\nSFX M r mento r\nSFX M r mentos r\n", "1\npagar/M\n");
        check(&portuguese, &[("pagamentos", None, "pagamento"), ("pagamento", None, "pagamento")]);
        let italian = lemmas("it_IT", "SFX A Y 1\nSFX A are i are\n", "3\nuccellare/A\nmangiare\nmangiato\n");
        check(
            &italian,
            &[
                ("uccelli", None, "uccello"),
                ("mangiate", None, "mangiare"),
                ("una", None, "uno"),
                ("disegno", None, "disegno"),
                ("vendite", None, "vendita"),
            ],
        );
        let russian = lemmas("ru_RU", "SFX A Y 1\nSFX A а ы а\n", "1\nсестра/A\n");
        check(&russian, &[("сёстры", None, "сестра")]);
    }
}
