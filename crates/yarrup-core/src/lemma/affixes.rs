//! Dictionaries in Hunspell's format, read from the user's system: a list of words with flags, and a file of the affixes that the flags
//! allow. Nothing is expanded: affixes are taken off a word, and what is left is looked up.
//!
//! Read are all four sorts of flags (one character, two, numbers, UTF-8) and their aliases, prefixes and suffixes, their crossing, affixes
//! on affixes (two suffixes deep), conditions, needed and forbidden affixes, forbidden words, words for compounds alone, `ICONV`, `OCONV`, `CIRCUMFIX`,
//! `FULLSTRIP`, `KEEPCASE`, and the stems that `st:` fields name. Compounds are not taken apart.
//!
//! Which of several words a form is of is chosen elsewhere ([`choice`](super::choice)).

use hashbrown::HashMap;

use crate::lemma::affix_condition::{Class, classes, fits_end, fits_start};
use crate::lemma::affix_lines::{Flag, FlagSort, Reader, field_start, split_flags};
use crate::lemma::{DictionaryFiles, with_capital};
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
    pub(super) distance: usize,
    /// The prefix that was taken off.
    pub(super) prefix: String,
    /// How many bytes of suffixes were taken off.
    pub(super) suffix: usize,
}

/// What was taken off a form.
#[derive(Clone, Copy, Debug, Default)]
struct Taken<'f> {
    prefix: &'f str,
    suffix: usize,
    distance: usize,
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

    /// Whether the dictionary lists a word, and `form` is a form of it.
    pub(crate) fn is_form_of(&self, form: &str, word: &str) -> bool {
        self.has(word) && self.readings(form).iter().any(|reading| reading.stem == word)
    }

    /// Whether the dictionary lists a word that has forms.
    pub(super) fn has_forms(&self, word: &str) -> bool {
        self.words.get(word).is_some_and(|entries| entries.iter().any(|entry| !entry.flags.is_empty()))
    }

    /// A word in the letters in which the dictionary gives it back.
    pub(super) fn as_written(&self, word: String) -> String {
        self.output.iter().fold(word, |word, (from, to)| match word.contains(from.as_str()) {
            true => word.replace(from.as_str(), to),
            false => word,
        })
    }

    /// A form in the letters that the dictionary has it in.
    pub(super) fn as_read(&self, form: &str) -> String {
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
