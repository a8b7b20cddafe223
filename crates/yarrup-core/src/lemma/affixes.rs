//! Dictionaries in Hunspell's format, read from the user's system: a list of words with flags, and a file of the affixes that the flags
//! allow. Nothing is expanded: affixes are taken off a word, and what is left is looked up.
//!
//! Read are all four sorts of flags (one character, two, numbers, UTF-8) and their aliases, prefixes and suffixes, their crossing, affixes
//! on affixes (two suffixes deep), conditions, needed and forbidden affixes, forbidden words, words for compounds alone, `ICONV`, `OCONV`, `CIRCUMFIX`,
//! `FULLSTRIP`, `KEEPCASE`, and the stems that `st:` fields name. Compounds are not taken apart.
//!
//! Dictionaries also make words of words: `Zeitung` of `Zeit`, `verkaufen` of `kaufen`. What makes another word stays ([`derivation`]).

use hashbrown::HashMap;

use crate::lemma::affix_condition::{Class, classes, fits_end, fits_start};
use crate::lemma::affix_lines::{Flag, FlagSort, Reader, field_start, split_flags};
use crate::lemma::{DictionaryFiles, derivation, is_infinitive, romance, scandinavian, slavic, with_capital};
use crate::part_of_speech::Tag;

type Map<K, V> = HashMap<K, V, foldhash::fast::RandomState>;

/// A dictionary that has been read.
#[derive(Debug)]
pub(crate) struct AffixDictionary {
    words: Map<String, Vec<Entry>>,
    /// Suffix rules by the letters that they add.
    suffixes: Map<String, Vec<Affix>>,
    prefixes: Map<String, Vec<Affix>>,
    longest_suffix: usize,
    longest_prefix: usize,
    /// The flags of suffixes that may stand behind another, in order. Few dictionaries have any.
    continuing: Vec<Flag>,
    input: Vec<(String, String)>,
    output: Vec<(String, String)>,
    special: Special,
}

#[derive(Clone, Debug, Default)]
struct Entry {
    flags: Vec<Flag>,
    tag: Option<Tag>,
    stem: Option<String>,
}

#[derive(Clone, Debug)]
struct Affix {
    flag: Flag,
    crosses: bool,
    /// What the affix takes the place of.
    strip: String,
    condition: Vec<Class>,
    /// Flags of affixes that may follow, and of what the whole needs.
    flags: Vec<Flag>,
    tag: Option<Tag>,
}

#[derive(Clone, Copy, Debug, Default)]
struct Special {
    needs_affix: Option<Flag>,
    forbidden: Option<Flag>,
    only_in_compound: Option<Flag>,
    circumfix: Option<Flag>,
    full_strip: bool,
}

/// A word that a form may be of.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Reading {
    pub(crate) stem: String,
    pub(crate) tag: Option<Tag>,
    /// How many letters the affixes add or take.
    distance: usize,
    /// The prefix that was taken off.
    prefix: String,
    /// How many bytes of suffixes were taken off.
    suffix: usize,
}

/// What was taken off a form.
#[derive(Clone, Copy, Debug, Default)]
struct Taken<'f> {
    prefix: &'f str,
    suffix: usize,
    distance: usize,
}

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
    /// Reads the two files.
    ///
    /// # Errors
    ///
    /// If the affix file holds a rule that cannot be read, with its line.
    pub(crate) fn read(files: &DictionaryFiles) -> Result<AffixDictionary, String> {
        let mut reader = Reader { sort: FlagSort::Character, aliases: Vec::new(), fields: Vec::new() };
        let mut dictionary = AffixDictionary {
            words: Map::default(),
            suffixes: Map::default(),
            prefixes: Map::default(),
            longest_suffix: 0,
            longest_prefix: 0,
            continuing: Vec::new(),
            input: Vec::new(),
            output: Vec::new(),
            special: Special::default(),
        };
        dictionary
            .read_affixes(&files.affixes, &mut reader)
            .map_err(|fault| format!("{}: {fault}", files.name))?;
        let flags = dictionary.suffixes.values().flatten().flat_map(|suffix| &suffix.flags);
        dictionary.continuing = flags.copied().collect();
        dictionary.continuing.sort_unstable();
        dictionary.continuing.dedup();
        for line in files.words.lines().skip(1) {
            dictionary.read_word(line, &reader);
        }
        if dictionary.words.is_empty() {
            return Err(format!("{}: the dictionary holds no words", files.name));
        }
        Ok(dictionary)
    }

    fn read_affixes(&mut self, text: &str, reader: &mut Reader) -> Result<(), String> {
        // The sort of flags first: it may stand behind the first use.
        for line in text.lines() {
            if let Some(sort) = line.strip_prefix("FLAG ") {
                reader.sort = match sort.trim() {
                    "long" => FlagSort::Long,
                    "num" => FlagSort::Number,
                    _ => FlagSort::Character,
                };
            }
        }
        let mut crosses: Map<Flag, bool> = Map::default();
        let mut seen_count = [false; 4];
        for (index, line) in text.lines().enumerate() {
            let line = line.trim_start_matches('\u{feff}');
            let mut cells = line.split_whitespace();
            let Some(command) = cells.next() else { continue };
            let cells: Vec<&str> = cells.collect();
            let fault = |what: &str| format!("line {} of the affix file: {what}", index + 1);
            let flag = || cells.first().and_then(|cell| reader.flags(cell).first().copied());
            match command {
                "NEEDAFFIX" | "PSEUDOROOT" => self.special.needs_affix = flag(),
                "FORBIDDENWORD" => self.special.forbidden = flag(),
                "ONLYINCOMPOUND" => self.special.only_in_compound = flag(),
                "CIRCUMFIX" => self.special.circumfix = flag(),
                "FULLSTRIP" => self.special.full_strip = true,
                "AF" if seen_count[0] => {
                    let flags = cells.first().map_or(Vec::new(), |cell| reader.raw_flags(cell));
                    reader.aliases.push(flags);
                }
                "AF" => seen_count[0] = true,
                "AM" if seen_count[1] => reader.fields.push(cells.join(" ")),
                "AM" => seen_count[1] = true,
                "ICONV" if seen_count[2] => {
                    if let [from, to, ..] = cells[..] {
                        self.input.push((from.to_owned(), to.to_owned()));
                    }
                }
                "ICONV" => seen_count[2] = true,
                "OCONV" if seen_count[3] => {
                    if let [from, to, ..] = cells[..] {
                        self.output.push((from.to_owned(), to.to_owned()));
                    }
                }
                "OCONV" => seen_count[3] = true,
                "PFX" | "SFX" => {
                    let [name, second, ..] = cells[..] else {
                        return Err(fault("an affix needs a flag and a rule"));
                    };
                    let name =
                        reader.flags(name).first().copied().ok_or_else(|| fault("a flag is missing"))?;
                    let is_header = !crosses.contains_key(&name)
                        && matches!(second, "Y" | "N")
                        && cells.get(2).is_some_and(|count| count.parse::<u32>().is_ok());
                    if is_header {
                        crosses.insert(name, second == "Y");
                        continue;
                    }
                    let Some(add) = cells.get(2) else {
                        return Err(fault("an affix rule needs what it adds"));
                    };
                    let (add, flags) = split_flags(add);
                    let nothing =
                        |text: &str| if text == "0" { String::new() } else { text.replace("\\/", "/") };
                    let (strip, add) = (nothing(second), nothing(add));
                    let condition = cells.get(3).copied().unwrap_or(".");
                    let rest = cells.get(4..).unwrap_or_default().join(" ");
                    let affix = Affix {
                        flag: name,
                        crosses: crosses.get(&name).copied().unwrap_or(true),
                        strip,
                        condition: classes(condition).ok_or_else(|| fault("the condition is not closed"))?,
                        flags: flags.map_or(Vec::new(), |flags| reader.flags(flags)),
                        tag: reader.fields_of(&rest).0,
                    };
                    let length = add.chars().count();
                    if command == "PFX" {
                        self.longest_prefix = self.longest_prefix.max(length);
                        self.prefixes.entry(add).or_default().push(affix);
                    } else {
                        self.longest_suffix = self.longest_suffix.max(length);
                        self.suffixes.entry(add).or_default().push(affix);
                    }
                }
                _ => {}
            }
        }
        Ok(())
    }

    fn read_word(&mut self, line: &str, reader: &Reader) {
        let (entry, fields) = match line.find(['\t']).or_else(|| field_start(line)) {
            Some(at) => (&line[..at], &line[at..]),
            None => (line, ""),
        };
        let (word, flags) = split_flags(entry.trim());
        if word.is_empty() {
            return;
        }
        let (tag, stem) = reader.fields_of(fields);
        let entry = Entry { flags: flags.map_or(Vec::new(), |flags| reader.flags(flags)), tag, stem };
        self.words.entry(word.replace("\\/", "/")).or_default().push(entry);
    }

    /// Whether the dictionary lists the word as it is written.
    pub(crate) fn has(&self, word: &str) -> bool {
        self.words.contains_key(word)
    }

    /// Whether the dictionary has the word, or a word that it is a form of.
    pub(crate) fn knows(&self, word: &str) -> bool {
        !self.readings(word).is_empty()
    }

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
        if !matches!(language, "cs" | "pl" | "ru" | "uk") {
            return false;
        }
        let has_forms = |entries: &Vec<Entry>| entries.iter().any(|entry| !entry.flags.is_empty());
        if !self.words.get(word).is_some_and(has_forms) {
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
            let is_masculine = |reading: &Reading| {
                reading.stem.ends_with(|c: char| !"aeiouyáéíóúůýаеиоуыэюяіїє".contains(c))
            };
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
        let ends_in_vowel =
            word.ends_with(['a', 'ą', 'ę', 'i', 'u', 'y', 'а', 'и', 'і', 'ї', 'у', 'ы', 'э', 'ю', 'я', 'є']);
        // `ścieżek` is of `ścieżka`: a vowel comes in where the ending goes.
        let is_plural = readings.iter().any(|reading| {
            let bare = reading.stem.strip_suffix("ka").or_else(|| reading.stem.strip_suffix("ка"));
            let behind = bare.and_then(|bare| word.strip_prefix(bare));
            behind.is_some_and(|behind| ["ek", "iek", "ок", "ек"].contains(&behind))
        });
        !ends_in_vowel && !is_plural
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

    /// Whether the dictionary lists a word, and `form` is a form of it.
    pub(crate) fn is_form_of(&self, form: &str, word: &str) -> bool {
        self.has(word) && self.readings(form).iter().any(|reading| reading.stem == word)
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
        self.keep_likely(&mut readings, form, language);
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
        let small = form.to_lowercase();
        let (as_read, as_read_small) = (self.as_read(form), self.as_read(&small));
        let has_plural = !wants_verb && self.is_number_of(&small, &small, language);
        let is_entry = !wants_verb
            && ([small.as_str(), form].iter().any(|word| self.is_slavic_entry(word, &readings, language))
                || self.is_scandinavian_entry(&small, language));
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
        Some(self.output.iter().fold(lemma, |lemma, (from, to)| match lemma.contains(from.as_str()) {
            true => lemma.replace(from.as_str(), to),
            false => lemma,
        }))
    }

    /// Drops readings that the language makes less likely than another.
    fn keep_likely(&self, readings: &mut Vec<Reading>, form: &str, language: &str) {
        let stems: Vec<String> = readings.iter().map(|reading| reading.stem.clone()).collect();
        match language {
            "da" | "nb" => {
                let words: Vec<&str> =
                    stems.iter().map(String::as_str).filter(|stem| *stem != form).collect();
                let is_verb = |word: &str| self.is_scandinavian_verb(word);
                // `finne` has the ending of a definite form.
                if self.is_scandinavian_entry(form, language) {
                    return;
                }
                if let Some(noun) = scandinavian::definite_noun(form, &words, is_verb) {
                    readings.retain(|reading| reading.stem == noun);
                } else if language == "nb" && !stems.iter().any(|stem| stem == form && !form.ends_with('t')) {
                    // `brukt` is of `bruke`: whatever a noun may have behind it, the Norwegian dictionary allows behind `bruk`.
                    let verbs: Vec<&String> = stems.iter().filter(|stem| is_verb(stem)).collect();
                    readings.retain(|reading| {
                        let stem = reading.stem.as_str();
                        stem == form || !verbs.iter().any(|verb| verb.strip_suffix('e') == Some(stem))
                    });
                }
                // `filer` is several of `fil` before it is the present of `file`.
                if language == "da"
                    && let Some(noun) = form.strip_suffix("er")
                    && stems.iter().any(|stem| stem == noun)
                {
                    readings.retain(|reading| reading.stem.strip_suffix('e') != Some(noun));
                }
            }
            "cs" | "pl" | "uk" => {
                if slavic::has_ending_of_adjectives(language, form) {
                    let is_of_adjective =
                        |noun: &str| stems.iter().any(|word| slavic::is_masculine_of(language, word, noun));
                    readings.retain(|reading| !is_of_adjective(&reading.stem));
                }
                if language == "uk"
                    && slavic::may_be_ukrainian_past(form)
                    && stems.iter().any(|stem| is_infinitive("uk", stem))
                {
                    readings.retain(|reading| !reading.stem.ends_with("лий"));
                }
            }
            _ => {}
        }
    }

    /// A form in the letters that the dictionary has it in.
    fn as_read(&self, form: &str) -> String {
        self.input.iter().fold(form.to_owned(), |form, (from, to)| match form.contains(from.as_str()) {
            true => form.replace(from.as_str(), to),
            false => form,
        })
    }

    /// All words that `form` may be of.
    pub(crate) fn readings(&self, form: &str) -> Vec<Reading> {
        let form = self.as_read(form);
        let mut found = Vec::new();
        self.read_form(&form, &mut found);
        let small = form.to_lowercase();
        if small != form {
            self.read_form(&small, &mut found);
            // `HAUS` is of `Haus`.
            if form.chars().all(|c| !c.is_lowercase()) {
                self.read_form(&with_capital(&small), &mut found);
            }
        }
        found
    }

    fn read_form(&self, form: &str, found: &mut Vec<Reading>) {
        let none = Taken::default();
        self.look_up(form, &[], None, none, found);
        self.take_suffix(form, &[], none, found);
        for (at, _) in form.char_indices().skip(1).take(self.longest_prefix) {
            let Some(prefixes) = self.prefixes.get(&form[..at]) else { continue };
            for prefix in prefixes {
                let stem = format!("{}{}", prefix.strip, &form[at..]);
                if !fits_start(&prefix.condition, &stem) {
                    continue;
                }
                // Half of what stands around a participle is inflection.
                let is_half = self.special.circumfix.is_some_and(|flag| prefix.flags.contains(&flag));
                let kept = if is_half { "" } else { &form[..at] };
                let taken = Taken { prefix: kept, suffix: 0, distance: at + prefix.strip.len() };
                self.look_up(&stem, &[prefix], prefix.tag, taken, found);
                if prefix.crosses {
                    self.take_suffix(&stem, &[prefix], taken, found);
                }
            }
        }
    }

    /// Takes one suffix off, then a second that the first is allowed on.
    fn take_suffix(&self, word: &str, prefixes: &[&Affix], taken: Taken<'_>, found: &mut Vec<Reading>) {
        let before = taken.distance;
        for (suffix, stem, distance) in self.suffixes_of(word) {
            if !prefixes.is_empty() && !suffix.crosses {
                continue;
            }
            let mut affixes = prefixes.to_vec();
            affixes.push(suffix);
            let length = distance - suffix.strip.len();
            let taken = Taken { suffix: length, distance: before + distance, ..taken };
            self.look_up(&stem, &affixes, suffix.tag, taken, found);
            // The inner suffix carries the flag of the outer.
            if self.continuing.binary_search(&suffix.flag).is_err() {
                continue;
            }
            for (inner, stem, more) in self.suffixes_of(&stem) {
                if inner.flags.contains(&suffix.flag) {
                    let mut affixes = prefixes.to_vec();
                    affixes.push(inner);
                    let both = length + (more - inner.strip.len()).saturating_sub(suffix.strip.len());
                    let taken = Taken { suffix: both, distance: taken.distance + more, ..taken };
                    self.look_up(&stem, &affixes, inner.tag, taken, found);
                }
            }
        }
    }

    fn suffixes_of<'s>(&'s self, word: &'s str) -> impl Iterator<Item = (&'s Affix, String, usize)> + 's {
        let starts = word.char_indices().map(|(at, _)| at).rev().take(self.longest_suffix);
        let starts = starts.chain([word.len()]).collect::<Vec<_>>();
        starts.into_iter().flat_map(move |at| {
            let rules = self.suffixes.get(&word[at..]).map_or(&[][..], Vec::as_slice);
            rules.iter().filter_map(move |rule| {
                if at == 0 && !self.special.full_strip && rule.strip.is_empty() {
                    return None;
                }
                // Most rules do not fit: what they are asked of is not put together for it.
                let (head, strip) = (&word[..at], rule.strip.as_str());
                if at + strip.len() == 0 || !fits_end(&rule.condition, head, strip) {
                    return None;
                }
                let mut stem = String::with_capacity(at + strip.len());
                stem.push_str(head);
                stem.push_str(strip);
                Some((rule, stem, word.len() - at + strip.len()))
            })
        })
    }

    /// Adds the readings of a stem that carries the flags of these affixes.
    fn look_up(
        &self,
        stem: &str,
        affixes: &[&Affix],
        tag: Option<Tag>,
        taken: Taken<'_>,
        found: &mut Vec<Reading>,
    ) {
        let Some(entries) = self.words.get(stem) else { return };
        let has = |flags: &[Flag], flag: Option<Flag>| flag.is_some_and(|flag| flags.contains(&flag));
        for entry in entries {
            // A prefix may be allowed by the suffix beside it, rather than by the word.
            let allowed = affixes.iter().all(|affix| {
                entry.flags.contains(&affix.flag)
                    || affixes
                        .iter()
                        .any(|other| other.flags.contains(&affix.flag) && entry.flags.contains(&other.flag))
            });
            let refused = has(&entry.flags, self.special.forbidden)
                || (affixes.is_empty() && has(&entry.flags, self.special.needs_affix))
                || has(&entry.flags, self.special.only_in_compound)
                || affixes
                    .iter()
                    .any(|affix| has(&affix.flags, self.special.needs_affix) && affixes.len() == 1)
                || affixes.iter().any(|affix| has(&affix.flags, self.special.only_in_compound));
            let circumfixed =
                affixes.iter().filter(|affix| has(&affix.flags, self.special.circumfix)).count();
            if !allowed || refused || circumfixed == 1 {
                continue;
            }
            let stem = entry.stem.clone().unwrap_or_else(|| stem.to_owned());
            let reading = Reading {
                stem,
                tag: entry.tag.or(tag),
                distance: taken.distance,
                prefix: taken.prefix.to_owned(),
                suffix: taken.suffix,
            };
            if !found.contains(&reading) {
                found.push(reading);
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn dictionary(affixes: &str, words: &str) -> AffixDictionary {
        let files = DictionaryFiles { name: "made".into(), affixes: affixes.into(), words: words.into() };
        AffixDictionary::read(&files).expect("read")
    }

    #[test]
    fn suffixes_prefixes_and_their_crossing() {
        let made = dictionary(
            "PFX U Y 1\nPFX U 0 un .\nSFX S Y 2\nSFX S y ies [^aeiou]y\nSFX S 0 s [^y]\nSFX N N 1\nSFX N 0 ness .\n",
            "4\nberry/S\nlock/US\nkind/UN\nnest/S\n",
        );
        for (form, lemma) in [
            ("berries", "berry"),
            ("nests", "nest"),
            // A prefix makes another word.
            ("unlock", "unlock"),
            ("unlocks", "unlock"),
            ("kindness", "kind"),
        ] {
            assert_eq!(made.lemma(form, None, "en").as_deref(), Some(lemma), "{form}");
        }
        // A suffix that does not cross takes no prefix beside it.
        for form in ["berrys", "unkindness", "unnest", "s", "xnests"] {
            assert_eq!(made.lemma(form, None, "xx"), None, "{form}");
        }
    }

    #[test]
    fn two_suffixes_deep_and_all_sorts_of_flags() {
        for (head, flags) in [
            ("", ["A", "B"]),
            ("FLAG long\n", ["Aa", "Bb"]),
            ("FLAG num\n", ["101", "202"]),
            ("FLAG UTF-8\n", ["é", "ł"]),
        ] {
            let [a, b] = flags;
            let affixes = format!("{head}SFX {a} Y 1\nSFX {a} 0 er/{b} .\nSFX {b} Y 1\nSFX {b} 0 s .\n");
            let made = dictionary(&affixes, &format!("1\nnest/{a}\n"));
            assert_eq!(made.lemma("nesters", None, "xx").as_deref(), Some("nest"), "{head}");
            assert_eq!(made.lemma("nests", None, "xx"), None);
        }
        let aliased = dictionary("AF 1\nAF S\nSFX S Y 1\nSFX S 0 s .\n", "1\nnest/1\n");
        assert_eq!(aliased.lemma("nests", None, "xx").as_deref(), Some("nest"));
    }

    #[test]
    fn needed_forbidden_and_circumfixed() {
        let made = dictionary(
            "NEEDAFFIX x\nFORBIDDENWORD f\nCIRCUMFIX c\nPFX g Y 1\nPFX g 0 ge/c .\nSFX t Y 1\nSFX t 0 t/c .\nSFX S Y 1\nSFX S 0 s .\n",
            "3\nlach/gt\nbrut/xS\nfoo/fS\n",
        );
        assert_eq!(made.lemma("gelacht", None, "xx").as_deref(), Some("lach"));
        assert_eq!(made.lemma("gelach", None, "xx"), None);
        assert_eq!(made.lemma("brut", None, "xx"), None);
        assert_eq!(made.lemma("bruts", None, "xx").as_deref(), Some("brut"));
        assert_eq!(made.lemma("foos", None, "xx"), None);
    }

    #[test]
    fn parts_of_speech_and_stems_come_from_fields() {
        let made =
            dictionary("SFX S Y 1\nSFX S 0 s .\n", "2\nporte/S po:nom is:fem\nporte/S po:v1_t st:porter\n");
        assert_eq!(made.lemma("portes", Some(Tag::Verb), "xx").as_deref(), Some("porter"));
        assert_eq!(made.lemma("portes", Some(Tag::Noun), "xx").as_deref(), Some("porte"));
    }

    #[test]
    fn faults_have_their_line() {
        let files = DictionaryFiles {
            name: "made".into(),
            affixes: "SFX S Y 1\nSFX S 0 s [^y\n".into(),
            words: "1\na\n".into(),
        };
        assert!(AffixDictionary::read(&files).expect_err("faulty").contains("line 2"));
    }

    proptest::proptest! {
        #[test]
        fn any_files_are_read_or_refused(affixes in "(SFX|PFX|FLAG|AF|SET|ICONV|NEEDAFFIX|[ \n]|Y|0|1|num|long|\\[|\\]|\\^|[a-zÀ-ÿ/.,]){0,60}", words in "([a-zÀ-ÿ/\n0-9,\t ]|st:|po:){0,40}", form in "[a-zA-ZÀ-ÿİ]{0,6}") {
            let files = DictionaryFiles { name: "made".into(), affixes, words };
            if let Ok(made) = AffixDictionary::read(&files) {
                made.lemma(&form, None, "xx");
            }
        }
    }
}
