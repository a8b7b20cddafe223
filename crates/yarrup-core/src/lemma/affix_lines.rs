//! The lines of dictionaries in Hunspell's format: words, flags, and fields.

use crate::part_of_speech::Tag;

pub(super) type Flag = u32;

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum FlagSort {
    Character,
    Long,
    Number,
}

/// Where the morphological fields of a line begin that parts them by spaces: ` po:`.
pub(super) fn field_start(line: &str) -> Option<usize> {
    let spaces = line.match_indices(' ').map(|(at, _)| at);
    spaces.into_iter().find(|at| {
        let rest = &line.as_bytes()[at + 1..];
        rest.len() > 2 && rest[2] == b':' && rest[..2].iter().all(u8::is_ascii_lowercase)
    })
}

/// The text before an unescaped slash, and what stands behind it.
pub(super) fn split_flags(entry: &str) -> (&str, Option<&str>) {
    let slash =
        entry.match_indices('/').map(|(at, _)| at).find(|at| *at > 0 && entry.as_bytes()[at - 1] != b'\\');
    match slash {
        Some(at) => (&entry[..at], entry[at + 1..].split_whitespace().next()),
        None => (entry, None),
    }
}

pub(super) struct Reader {
    pub(super) sort: FlagSort,
    pub(super) aliases: Vec<Vec<Flag>>,
    pub(super) fields: Vec<String>,
}

impl Reader {
    /// The flags that a cell names, by an alias if there are any.
    pub(super) fn flags(&self, cell: &str) -> Vec<Flag> {
        if !self.aliases.is_empty()
            && let Ok(number) = cell.parse::<usize>()
        {
            return number
                .checked_sub(1)
                .and_then(|index| self.aliases.get(index))
                .cloned()
                .unwrap_or_default();
        }
        self.raw_flags(cell)
    }

    pub(super) fn raw_flags(&self, cell: &str) -> Vec<Flag> {
        match self.sort {
            FlagSort::Character => cell.chars().map(u32::from).collect(),
            FlagSort::Number => cell.split(',').filter_map(|number| number.trim().parse().ok()).collect(),
            FlagSort::Long => {
                let letters: Vec<char> = cell.chars().collect();
                letters
                    .chunks(2)
                    .map(|pair| pair.iter().fold(0, |flag, c| flag << 21 | u32::from(*c) & 0x1f_ffff))
                    .map(|flag: u32| flag)
                    .collect()
            }
        }
    }

    /// The part of speech and the stem that the fields behind a word name.
    pub(super) fn fields_of(&self, fields: &str) -> (Option<Tag>, Option<String>) {
        let mut text = fields.trim();
        if let Ok(number) = text.parse::<usize>()
            && let Some(alias) = number.checked_sub(1).and_then(|index| self.fields.get(index))
        {
            text = alias;
        }
        let (mut tag, mut stem) = (None, None);
        if let Some(bracketed) = text.strip_prefix('[') {
            return bracketed_fields(bracketed);
        }
        for field in text.split_whitespace() {
            if let Some(name) = field.strip_prefix("po:") {
                tag = tag.or_else(|| part_of_speech(name));
            } else if let Some(name) = field.strip_prefix("st:") {
                stem = Some(name.to_owned());
            }
        }
        (tag, stem)
    }
}

/// The part of speech and the stem of fields that stand in brackets: `$pedir$CAT=v,T=inf`. Portuguese dictionaries have them so.
fn bracketed_fields(fields: &str) -> (Option<Tag>, Option<String>) {
    let stem = fields.strip_prefix('$').and_then(|rest| rest.split('$').next());
    let class = fields.find("CAT=").map(|at| &fields[at + 4..]);
    let class = class.and_then(|rest| rest.split([',', ']', '$', '#']).next()).unwrap_or_default();
    let tag = match class {
        "nc" => Some(Tag::Noun),
        "np" => Some(Tag::ProperNoun),
        name => part_of_speech(name),
    };
    (tag, stem.map(str::to_owned))
}

/// The part of speech that a dictionary names: there is no standard, so the beginnings of the usual names.
fn part_of_speech(name: &str) -> Option<Tag> {
    const NAMES: &[(&str, Tag)] = &[
        ("nom", Tag::Noun),
        ("noun", Tag::Noun),
        ("subst", Tag::Noun),
        ("adj", Tag::Adjective),
        ("adv", Tag::Adverb),
        ("v", Tag::Verb),
        ("prn", Tag::ProperNoun),
        ("patr", Tag::ProperNoun),
        ("npr", Tag::ProperNoun),
        ("pro", Tag::Pronoun),
        ("prep", Tag::Adposition),
        ("det", Tag::Determiner),
        ("art", Tag::Determiner),
        ("conj", Tag::CoordinatingConjunction),
        ("cj", Tag::SubordinatingConjunction),
        ("interj", Tag::Interjection),
        ("num", Tag::Numeral),
        ("nb", Tag::Numeral),
    ];
    NAMES.iter().find(|(begin, _)| name.starts_with(begin)).map(|(_, tag)| *tag)
}
