//! Which of the words that a form may be of it is of, by what is likely in a language.
//!
//! Dictionaries also make words of words: `Zeitung` of `Zeit`, `verkaufen` of `kaufen`. What makes another word stays ([`derivation`]).

use crate::lemma::affixes::{AffixDictionary, Reading};
use crate::lemma::{derivation, is_infinitive, romance, scandinavian, slavic};
use crate::part_of_speech::Tag;

/// The vowels of the Slavic languages.
const VOWELS: [char; 27] = [
    'a', 'á', 'ą', 'e', 'é', 'ę', 'i', 'í', 'o', 'ó', 'u', 'ú', 'ů', 'y', 'ý', 'а', 'е', 'и', 'і', 'ї', 'о',
    'у', 'ы', 'э', 'ю', 'я', 'є',
];

/// The lemma of a form that is more than a form of the reading's word: a word that is made of it.
fn derived(language: &str, form: &str, small: &str, reading: &Reading) -> Option<String> {
    if let Some(word) = derivation::without_inflection(language, small, form, reading.suffix) {
        return Some(word);
    }
    if slavic::is_adverb_of(language, small, &reading.stem) {
        return Some(form.to_owned());
    }
    if reading.prefix.is_empty() || derivation::inflects(language, &reading.prefix) {
        return None;
    }
    let stem = match reading.prefix.starts_with(char::is_uppercase) {
        true => reading.stem.to_lowercase(),
        false => reading.stem.clone(),
    };
    Some(format!("{}{stem}", reading.prefix))
}

impl AffixDictionary {
    /// Whether a word is listed that is the participle of a verb, as far as its letters tell. It has a plural as well.
    pub(crate) fn is_participle(&self, word: &str, language: &str) -> bool {
        let of_verb = |verbs: Vec<String>| verbs.iter().any(|verb| self.has(verb));
        match language {
            // `important` is of no `importer`, nor `parent` of `parer`.
            "fr" => {
                word.ends_with(['é', 'i', 'u', 's', 't'])
                    && !word.ends_with("ant")
                    && !word.ends_with("ent")
                    && self.is_form_of(&format!("{word}e"), word)
            }
            "es" => of_verb(romance::spanish_infinitives(word)),
            "it" => of_verb(romance::italian_infinitives(word)),
            _ => false,
        }
    }

    /// Whether a word of a Slavic language is surely an entry of its own, and no form of another that the dictionary has as well: `plik` is no plural of
    /// `plika`, and `дело` no past of `деть`. Such a word ends in a consonant or in the vowel of a neuter, and has forms.
    fn is_slavic_entry(&self, word: &str, readings: &[Reading], language: &str) -> bool {
        if !matches!(language, "cs" | "pl" | "ru" | "uk") || !self.has_forms(word) {
            return false;
        }
        // Nouns and adjectives of Czech that never change: `použití`, `vlastní`.
        if language == "cs" && word.ends_with(['í', 'ý']) {
            return true;
        }
        let is_adjective =
            |stem: &str| ["y", "i", "ý", "í", "ий", "ый", "ой", "ій"].iter().any(|end| stem.ends_with(end));
        let of_adjective =
            || readings.iter().any(|reading| reading.stem != word && is_adjective(&reading.stem));
        // `точка` is no genitive of `точок`, but `nowa` is of `nowy`.
        if word.ends_with(['a', 'а', 'я']) {
            let is_masculine = |reading: &Reading| !reading.stem.ends_with(VOWELS);
            // A Russian adjective has another ending, but for its short form: `марка` is hardly ever of `маркий`.
            return (language == "ru" || !of_adjective())
                && readings.iter().all(|reading| {
                    reading.stem == word
                        || is_masculine(reading)
                        || language == "ru" && is_adjective(&reading.stem)
                });
        }
        // `długi` is long, and no debts.
        let adjective = word.strip_suffix('y').or(word.ends_with('i').then_some(word));
        let adjective = adjective.map(|stem| format!("{stem}ego"));
        let adjective = adjective.or_else(|| {
            ["ый", "ой", "ий"].iter().find_map(|end| word.strip_suffix(end).map(|stem| format!("{stem}ого")))
        });
        if adjective.is_some_and(|form| self.is_form_of(&form, word)) {
            return true;
        }
        let is_neuter = word.ends_with(['o', 'e', 'о', 'е']);
        if is_neuter {
            return !of_adjective();
        }
        // `ścieżek` is of `ścieżka`: a vowel comes in where the ending goes.
        let is_plural = readings.iter().any(|reading| {
            let bare = reading.stem.strip_suffix("ka").or_else(|| reading.stem.strip_suffix("ка"));
            let behind = bare.and_then(|bare| word.strip_prefix(bare));
            behind.is_some_and(|behind| ["ek", "iek", "ок", "ек"].contains(&behind))
        });
        !word.ends_with(VOWELS) && !is_plural
    }

    /// Whether the dictionary lists a word of a Slavic language as a masculine noun, by its instrumental: `profil` is one, and no past tense.
    pub(crate) fn is_slavic_noun(&self, word: &str, language: &str) -> bool {
        let endings: &[&str] = match language {
            "cs" | "pl" => &["em", "iem"],
            "ru" | "uk" => &["ом", "ем"],
            _ => &[],
        };
        endings.iter().any(|ending| self.is_form_of(&format!("{word}{ending}"), word))
    }

    /// Whether a word of Danish or Norwegian is an entry of its own before it is the imperative of a verb, `fejl`, which is a noun with a definite form; or an
    /// infinitive before it is a form of another word, `bruke`.
    fn is_scandinavian_entry(&self, word: &str, language: &str) -> bool {
        if !matches!(language, "da" | "nb") {
            return false;
        }
        let has_form = |word: &str, endings: &[&str]| {
            endings.iter().any(|ending| self.is_form_of(&format!("{word}{ending}"), word))
        };
        match (word.chars().next_back(), word.strip_suffix('e')) {
            (_, Some(_)) if language == "nb" => self.is_scandinavian_verb(word) || has_form(word, &["n"]),
            // In Danish, `huse` is several houses, but `løse` is no form of `løs` before it is the verb.
            (_, Some(bare)) => {
                self.is_scandinavian_verb(word) && (bare.ends_with("er") || !has_form(bare, &["en", "et"]))
            }
            (Some('a' | 'i' | 'o' | 'u' | 'y' | 'æ' | 'ø' | 'å'), _) => false,
            _ => {
                !word.strip_suffix('r').is_some_and(|verb| self.is_scandinavian_verb(verb))
                    && has_form(word, &["en", "et", "t"])
            }
        }
    }

    /// Whether this word of Danish or Norwegian is a verb: it has a present participle.
    pub(crate) fn is_scandinavian_verb(&self, word: &str) -> bool {
        ["nde", "ende"].iter().any(|ending| self.is_form_of(&format!("{word}{ending}"), word))
    }

    /// Whether the dictionary lists this word of a Romance language with a plural, as it lists nouns and adjectives, and `form` is the one or the other. What
    /// it lists of verbs has none, but for participles.
    pub(crate) fn is_number_of(&self, form: &str, word: &str, language: &str) -> bool {
        let of_form = |plural: &String| (form == word || *plural == form) && self.is_form_of(plural, word);
        romance::plurals(language, word).iter().any(of_form) && !self.is_participle(word, language)
    }

    /// The word of this language that `form` is a form of: that of the wanted part of speech, of the same letter case; of the form itself and a verb the
    /// form, unless a verb is wanted; else another word rather than the form, and either rather than one that is made of another; by the shortest affixes, the
    /// shorter, the first by its letters. None if the dictionary does not know the form.
    pub(crate) fn lemma(&self, form: &str, tag: Option<Tag>, language: &str) -> Option<String> {
        let mut readings = self.readings(form);
        if let Some(tag) = tag
            && readings.iter().any(|reading| reading.tag == Some(tag))
        {
            readings.retain(|reading| reading.tag == Some(tag));
        }
        let small = form.to_lowercase();
        let is_scandinavian_entry = self.is_scandinavian_entry(&small, language);
        // `finne` has the ending of a definite form.
        if !is_scandinavian_entry {
            self.keep_likely(&mut readings, &small, language);
        }
        let is_capital = |text: &str| text.chars().next().is_some_and(char::is_uppercase);
        // A noun in German has a capital; a tag other than noun or name speaks against a stem with one.
        let may_have_capital = match language {
            "de" => true,
            // Elsewhere a capital may be that of the head of a sentence: `Chyby` are mistakes before they are of a family called so.
            _ => {
                readings.iter().any(|reading| reading.stem == form)
                    || readings.iter().all(|reading| is_capital(&reading.stem))
            }
        };
        let wants_capital = is_capital(form)
            && may_have_capital
            && tag.is_none_or(|tag| matches!(tag, Tag::Noun | Tag::ProperNoun));
        let wants_verb = matches!(tag, Some(Tag::Verb | Tag::Auxiliary));
        let (as_read, as_read_small) = (self.as_read(form), self.as_read(&small));
        let has_plural = !wants_verb && self.is_number_of(&small, &small, language);
        let is_entry = !wants_verb
            && (is_scandinavian_entry
                || self.is_slavic_entry(&small, &readings, language)
                || form != small && self.is_slavic_entry(form, &readings, language));
        let is_participle = language == "fr" && self.is_participle(&small, language);
        let key = |(reading, lemma): &&(Reading, String)| {
            // What is listed as it stands is often a form that has an entry of its own: an affix rule tells more. But `casa` is a house before it is
            // of `casar`.
            let is_itself = reading.stem == as_read || reading.stem == as_read_small;
            let is_verb = !wants_verb
                && !is_itself
                && !is_participle
                && matches!(language, "ca" | "de" | "es" | "fr" | "it" | "pt")
                && is_infinitive(language, lemma);
            let is_derived = *lemma != reading.stem;
            // `formater` is several of `format` before it is the imperative of `formatere`.
            let is_imperative =
                matches!(language, "da" | "nb") && reading.stem.strip_suffix('e') == Some(small.as_str());
            // `contrato` is no first person: it has a noun behind its prefix.
            let is_prefixed_noun = is_derived
                && !reading.prefix.is_empty()
                && !wants_verb
                && matches!(language, "es" | "pt")
                && self.is_number_of(&reading.stem, &reading.stem, language);
            let rank = match () {
                () if is_prefixed_noun => 1,
                () if is_derived => 3,
                () if is_verb || is_imperative => 2,
                () if is_itself && !has_plural && !is_entry => 1,
                () => 0,
            };
            let length = lemma.chars().count();
            (is_capital(lemma) != wants_capital, rank, reading.distance, length, lemma.clone())
        };
        let lemmas: Vec<_> = readings
            .into_iter()
            .map(|reading| {
                let lemma = derived(language, form, &small, &reading).unwrap_or_else(|| reading.stem.clone());
                (reading, lemma)
            })
            .collect();
        let mut lemma = lemmas.iter().min_by_key(key).map(|(_, lemma)| lemma.clone())?;
        // `nuevas` is of `nuevo` before it is several of `nueva`, but `notas` is of no `noto`: of adjectives there are adverbs.
        if matches!(language, "es" | "it" | "pt")
            && let Some(stem) = lemma.strip_suffix('a')
            && let Some((_, masculine)) =
                lemmas.iter().find(|(_, other)| other.strip_suffix('o') == Some(stem))
            && self.knows(&format!("{stem}amente"))
        {
            lemma = masculine.clone();
        }
        Some(self.as_written(lemma))
    }

    /// Drops readings of a form, in small letters, that the language makes less likely than another.
    fn keep_likely(&self, readings: &mut Vec<Reading>, small: &str, language: &str) {
        if !matches!(language, "cs" | "da" | "nb" | "pl" | "uk") {
            return;
        }
        let stems: Vec<String> = readings.iter().map(|reading| reading.stem.clone()).collect();
        match language {
            "da" | "nb" => {
                let words: Vec<&str> =
                    stems.iter().map(String::as_str).filter(|stem| *stem != small).collect();
                let is_verb = |word: &str| self.is_scandinavian_verb(word);
                if let Some(noun) = scandinavian::definite_noun(small, &words, is_verb) {
                    readings.retain(|reading| reading.stem == noun);
                } else if language == "nb" && !stems.iter().any(|stem| stem == small && !small.ends_with('t'))
                {
                    // `brukt` is of `bruke`: whatever a noun may have behind it, the Norwegian dictionary allows behind `bruk`.
                    let verbs: Vec<&String> = stems.iter().filter(|stem| is_verb(stem)).collect();
                    readings.retain(|reading| {
                        let stem = reading.stem.as_str();
                        stem == small || !verbs.iter().any(|verb| verb.strip_suffix('e') == Some(stem))
                    });
                }
                // `filer` is several of `fil` before it is the present of `file`.
                if language == "da"
                    && let Some(noun) = small.strip_suffix("er")
                    && stems.iter().any(|stem| stem == noun)
                {
                    readings.retain(|reading| reading.stem.strip_suffix('e') != Some(noun));
                }
            }
            _ => {
                if slavic::has_ending_of_adjectives(language, small) {
                    let is_of_adjective =
                        |noun: &str| stems.iter().any(|word| slavic::is_masculine_of(language, word, noun));
                    readings.retain(|reading| !is_of_adjective(&reading.stem));
                }
                if language == "uk"
                    && slavic::may_be_ukrainian_past(small)
                    && stems.iter().any(|stem| is_infinitive("uk", stem))
                {
                    readings.retain(|reading| !reading.stem.ends_with("лий"));
                }
            }
        }
    }
}
