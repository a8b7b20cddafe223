//! The condition of an affix: what the stem's end, or its start, must be.

/// A place of a condition: any character, or some, or any but some.
#[derive(Clone, Debug)]
pub(super) enum Class {
    Any,
    Some(Vec<char>),
    Not(Vec<char>),
}

pub(super) fn classes(condition: &str) -> Option<Vec<Class>> {
    if condition == "." || condition == "0" {
        return Some(Vec::new());
    }
    let mut classes = Vec::new();
    let mut letters = condition.chars();
    while let Some(letter) = letters.next() {
        classes.push(match letter {
            '.' => Class::Any,
            '[' => {
                let mut inside: Vec<char> = Vec::new();
                loop {
                    match letters.next()? {
                        ']' => break,
                        other => inside.push(other),
                    }
                }
                match inside.split_first() {
                    Some(('^', rest)) => Class::Not(rest.to_vec()),
                    _ => Class::Some(inside),
                }
            }
            other => Class::Some(vec![other]),
        });
    }
    Some(classes)
}

impl Class {
    fn fits(&self, letter: char) -> bool {
        match self {
            Class::Any => true,
            Class::Some(letters) => letters.contains(&letter),
            Class::Not(letters) => !letters.contains(&letter),
        }
    }
}

/// Whether a stem, which is `head` and `tail`, ends as the condition says.
pub(super) fn fits_end(condition: &[Class], head: &str, tail: &str) -> bool {
    let mut letters = tail.chars().rev().chain(head.chars().rev());
    condition.iter().rev().all(|class| letters.next().is_some_and(|letter| class.fits(letter)))
}

pub(super) fn fits_start(condition: &[Class], stem: &str) -> bool {
    let mut letters = stem.chars();
    condition.iter().all(|class| letters.next().is_some_and(|letter| class.fits(letter)))
}
