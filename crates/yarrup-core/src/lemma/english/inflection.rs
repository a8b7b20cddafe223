//! What the form of an English word tells of its number, degree, tense and verb form, given its part of speech. Nothing is guessed from the
//! sentence: where a form stands for several, all are told.

use std::sync::OnceLock;

use hashbrown::HashMap;

use super::{State, english, irregular_lines};
use crate::morphology::Features;
use crate::part_of_speech::Tag;
use crate::unicode::small_letters;

/// Nouns with one form for both numbers, and those that are plural as they stand.
const INVARIABLE: &[&str] = &[
    "aircraft",
    "bison",
    "cod",
    "crossroads",
    "deer",
    "fish",
    "gallows",
    "grouse",
    "headquarters",
    "means",
    "moose",
    "offspring",
    "quail",
    "salmon",
    "series",
    "sheep",
    "shrimp",
    "spacecraft",
    "species",
    "squid",
    "swine",
    "trout",
    "works",
    "watercraft",
    "hovercraft",
    "barracks",
];
const PLURAL: &[&str] = &[
    "cattle",
    "clothes",
    "folk",
    "goods",
    "jeans",
    "outskirts",
    "pants",
    "people",
    "police",
    "pliers",
    "premises",
    "proceeds",
    "scissors",
    "shorts",
    "thanks",
    "tongs",
    "trousers",
    "tweezers",
    "whereabouts",
];

/// Comparatives and superlatives that no rule takes apart.
const COMPARATIVE: &[&str] =
    &["better", "elder", "farther", "further", "latter", "less", "lesser", "more", "worse"];
const SUPERLATIVE: &[&str] = &["best", "eldest", "farthest", "furthest", "least", "most", "worst"];

/// What a form of a verb is told by, where the table of irregular forms has it.
const PAST: Features = Features::PAST.and(Features::FINITE).and(Features::PARTICIPLE);
const PRETERITE: Features = Features::PAST.and(Features::FINITE);
const PARTICIPLE: Features = Features::PAST.and(Features::PARTICIPLE);
const BASE: Features = Features::FINITE.and(Features::INFINITIVE);
const THIRD: Features = Features::SINGULAR.and(Features::THIRD).and(Features::PRESENT).and(Features::FINITE);
const ING: Features = Features::GERUND.and(Features::PARTICIPLE);
const NOW: Features = Features::PRESENT.and(Features::FINITE);

/// What the form of an English word with this part of speech tells of number, degree, tense and verb form; nothing of names, nor of classes
/// without such features.
///
/// ```
/// use yarrup_core::{Tag, english_features};
///
/// assert_eq!(english_features("terns", Tag::Noun).to_string(), "Number=Plur");
/// ```
pub fn features(form: &str, tag: Tag) -> Features {
    let small = small_letters(form);
    match tag {
        Tag::Noun => noun(form, &small),
        Tag::Adjective => match degree(form, &small, tag) {
            Features::COMPARATIVE => Features::COMPARATIVE,
            Features::SUPERLATIVE => Features::SUPERLATIVE,
            _ => Features::POSITIVE,
        },
        Tag::Adverb => degree(form, &small, tag),
        Tag::Verb | Tag::Auxiliary => verb(form, &small),
        _ => Features::default(),
    }
}

fn noun(form: &str, small: &str) -> Features {
    if !small.chars().any(char::is_alphabetic) {
        return Features::default();
    }
    match () {
        () if INVARIABLE.contains(&small) => Features::SINGULAR.and(Features::PLURAL),
        () if PLURAL.contains(&small) => Features::PLURAL,
        () if english().lemma(form, Some(Tag::Noun)).text.to_lowercase() != small => Features::PLURAL,
        () => Features::SINGULAR,
    }
}

/// Comparative or superlative; nothing of a word that is neither.
fn degree(form: &str, small: &str, tag: Tag) -> Features {
    let is_compared = || english().lemma(form, Some(tag)).text != small;
    match () {
        () if COMPARATIVE.contains(&small) => Features::COMPARATIVE,
        () if SUPERLATIVE.contains(&small) => Features::SUPERLATIVE,
        () if small.ends_with("er") && is_compared() => Features::COMPARATIVE,
        () if small.ends_with("est") && is_compared() => Features::SUPERLATIVE,
        () => Features::default(),
    }
}

fn verb(form: &str, small: &str) -> Features {
    if let Some(known) = irregular().get(small) {
        return *known;
    }
    match () {
        () if english().lemma(form, Some(Tag::Verb)).text == small => BASE,
        () if small.ends_with("ing") => ING,
        () if small.ends_with('s') => THIRD,
        () if small.ends_with("ed") || small.ends_with("'d") => PAST,
        () => Features::default(),
    }
}

/// The features of irregular forms of verbs, and of those that are their own past: from the table of irregular forms, whose lines name the
/// preterite before the participle.
fn irregular() -> &'static HashMap<&'static str, Features, State> {
    static IRREGULAR: OnceLock<HashMap<&'static str, Features, State>> = OnceLock::new();
    IRREGULAR.get_or_init(|| {
        let mut known: HashMap<&'static str, Features, State> = HashMap::default();
        let mut add = |form: &'static str, features: Features| {
            let so_far = known.entry(form).or_default();
            *so_far = so_far.and(features);
        };
        for (_, lemma, forms) in irregular_lines().filter(|(tag, ..)| *tag == Tag::Verb) {
            let forms: Vec<&str> = forms
                .map(|form| form.strip_suffix('~').unwrap_or(form))
                .filter(|form| !form.ends_with("ing") && !form.ends_with('s'))
                .collect();
            match forms[..] {
                // `cut` is its own past: which it is, the form does not tell.
                [] => add(lemma, BASE.and(Features::PARTICIPLE)),
                [one] if one.ends_with("en") || one.ends_with("wn") => add(one, PARTICIPLE),
                [one] if one.ends_with("came") || one.ends_with("ran") => {
                    add(one, PRETERITE);
                    add(lemma, BASE.and(Features::PARTICIPLE));
                }
                [one] => add(one, PAST),
                [.., last] => {
                    for form in &forms[..forms.len() - 1] {
                        let is_participle = form.ends_with('n') || form.ends_with("ne");
                        add(form, if is_participle { PARTICIPLE } else { PRETERITE });
                    }
                    add(last, if last.ends_with("ed") { PAST } else { PARTICIPLE });
                }
            }
        }
        // What has both readings although two forms stand in its line, and the verbs of which every form is one of its own.
        for (forms, features) in [
            ("got forgot hid bit", PAST),
            ("be have do", BASE),
            ("am are 'm 're 've", NOW),
            ("is has does 's", THIRD),
            ("was", PRETERITE.and(Features::SINGULAR)),
            ("were did", PRETERITE),
            ("had", PAST),
            ("been done gone", PARTICIPLE),
            ("being having doing", ING),
            ("can could may might must shall should will would ought 'll 'd ca wo cannot", Features::FINITE),
        ] {
            known.extend(forms.split(' ').map(|form| (form, features)));
        }
        known
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn forms_tell_number_degree_and_tense() {
        for (tag, forms) in [
            (
                Tag::Noun,
                "tern Number=Sing terns Number=Plur mice Number=Plur sheep Number=Plur,Sing people Number=Plur bus Number=Sing \
                 APIs Number=Plur children Number=Plur glass Number=Sing",
            ),
            (
                Tag::Adjective,
                "old Degree=Pos older Degree=Cmp oldest Degree=Sup better Degree=Cmp worst Degree=Sup eager Degree=Pos \
                 honest Degree=Pos bigger Degree=Cmp",
            ),
            (Tag::Adverb, "faster Degree=Cmp best Degree=Sup quickly _ over _ rather _ ever _"),
            (
                Tag::Verb,
                "counts Number=Sing|Person=3|Tense=Pres|VerbForm=Fin counted Tense=Past|VerbForm=Fin,Part counting VerbForm=Ger,Part \
                 count VerbForm=Fin,Inf saw Tense=Past|VerbForm=Fin seen Tense=Past|VerbForm=Part cut VerbForm=Fin,Inf,Part \
                 came Tense=Past|VerbForm=Fin come VerbForm=Fin,Inf,Part found Tense=Past|VerbForm=Fin,Part \
                 beaten Tense=Past|VerbForm=Part got Tense=Past|VerbForm=Fin,Part bring VerbForm=Fin,Inf sung Tense=Past|VerbForm=Part \
                 goes Number=Sing|Person=3|Tense=Pres|VerbForm=Fin",
            ),
            (
                Tag::Auxiliary,
                "was Number=Sing|Tense=Past|VerbForm=Fin been Tense=Past|VerbForm=Part being VerbForm=Ger,Part would VerbForm=Fin \
                 's Number=Sing|Person=3|Tense=Pres|VerbForm=Fin are Tense=Pres|VerbForm=Fin",
            ),
            (Tag::ProperNoun, "James _ Wendle _"),
            (Tag::Determiner, "these _"),
        ] {
            let mut words = forms.split_whitespace();
            while let (Some(form), Some(expected)) = (words.next(), words.next()) {
                let found = features(form, tag).to_string();
                assert_eq!(if found.is_empty() { "_" } else { &found }, expected, "{form} as {tag}");
            }
        }
    }
}
