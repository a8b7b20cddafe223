//! Where two rows of terms differ.

use serde::Serialize;

/// A stretch of two rows of terms.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Stretch<'t> {
    /// Both have it.
    Same(Vec<&'t str>),
    /// The first alone has it.
    Here(Vec<&'t str>),
    /// The second alone has it.
    There(Vec<&'t str>),
}

/// The most edits that are looked for; rows that differ more are told as wholly different between their common ends.
const MOST_EDITS: usize = 1_000;

/// The stretches of two rows of terms: the shortest row of edits, after Myers (1986, "An O(ND) Difference Algorithm and Its Variations").
///
/// ```
/// use yarrup_core::compare::{Stretch, differences};
///
/// let found = differences(&["a", "tern", "nests"], &["tern", "nest"]);
/// assert_eq!(found[0], Stretch::Here(vec!["a"]));
/// assert_eq!(found[1], Stretch::Same(vec!["tern"]));
/// assert_eq!(found[2..], [Stretch::Here(vec!["nests"]), Stretch::There(vec!["nest"])]);
/// ```
pub fn differences<'t>(here: &[&'t str], there: &[&'t str]) -> Vec<Stretch<'t>> {
    let begin = here.iter().zip(there).take_while(|(one, other)| one == other).count();
    let (ours, theirs) = (&here[begin..], &there[begin..]);
    let end = ours.iter().rev().zip(theirs.iter().rev()).take_while(|(one, other)| one == other).count();
    let (ours, theirs) = (&ours[..ours.len() - end], &theirs[..theirs.len() - end]);
    let mut stretches = Vec::new();
    let mut add = |stretch: Stretch<'t>| match (stretches.last_mut(), stretch) {
        (_, Stretch::Same(terms) | Stretch::Here(terms) | Stretch::There(terms)) if terms.is_empty() => {}
        (Some(Stretch::Same(last)), Stretch::Same(terms))
        | (Some(Stretch::Here(last)), Stretch::Here(terms))
        | (Some(Stretch::There(last)), Stretch::There(terms)) => last.extend(terms),
        (_, stretch) => stretches.push(stretch),
    };
    add(Stretch::Same(here[..begin].to_vec()));
    match edits(ours, theirs) {
        Some(edits) => {
            // What goes stands before what comes in its place.
            let (mut gone, mut come) = (Vec::new(), Vec::new());
            for edit in edits {
                match edit {
                    Edit::Here(term) => gone.push(term),
                    Edit::There(term) => come.push(term),
                    Edit::Same(term) => {
                        add(Stretch::Here(std::mem::take(&mut gone)));
                        add(Stretch::There(std::mem::take(&mut come)));
                        add(Stretch::Same(vec![term]));
                    }
                }
            }
            add(Stretch::Here(gone));
            add(Stretch::There(come));
        }
        None => {
            add(Stretch::Here(ours.to_vec()));
            add(Stretch::There(theirs.to_vec()));
        }
    }
    add(Stretch::Same(here[here.len() - end..].to_vec()));
    stretches
}

#[derive(Clone, Copy)]
enum Edit<'t> {
    Same(&'t str),
    Here(&'t str),
    There(&'t str),
}

/// The shortest row of edits; none if there are more than [`MOST_EDITS`].
fn edits<'t>(here: &[&'t str], there: &[&'t str]) -> Option<Vec<Edit<'t>>> {
    let (ours, theirs) = (here.len() as isize, there.len() as isize);
    let most = (here.len() + there.len()).min(MOST_EDITS) as isize;
    // By diagonal, the furthest place that is reached; and how it was for each number of edits.
    let mut furthest = vec![0isize; 2 * most as usize + 3];
    let at = |diagonal: isize| (diagonal + most + 1) as usize;
    let mut rounds: Vec<Vec<isize>> = Vec::new();
    for count in 0..=most {
        rounds.push(furthest.clone());
        for diagonal in (-count..=count).step_by(2) {
            let from_above = diagonal == -count
                || (diagonal != count && furthest[at(diagonal - 1)] < furthest[at(diagonal + 1)]);
            let mut x = if from_above { furthest[at(diagonal + 1)] } else { furthest[at(diagonal - 1)] + 1 };
            while x < ours
                && x - diagonal < theirs
                && x >= 0
                && x - diagonal >= 0
                && here[x as usize] == there[(x - diagonal) as usize]
            {
                x += 1;
            }
            furthest[at(diagonal)] = x;
            if x >= ours && x - diagonal >= theirs {
                return Some(walked_back(here, there, &rounds, at));
            }
        }
    }
    None
}

fn walked_back<'t>(
    here: &[&'t str],
    there: &[&'t str],
    rounds: &[Vec<isize>],
    at: impl Fn(isize) -> usize,
) -> Vec<Edit<'t>> {
    let (mut x, mut y) = (here.len() as isize, there.len() as isize);
    let mut edits = Vec::new();
    for (count, furthest) in rounds.iter().enumerate().rev() {
        let (count, diagonal) = (count as isize, x - y);
        let from_above = diagonal == -count
            || (diagonal != count && furthest[at(diagonal - 1)] < furthest[at(diagonal + 1)]);
        let before = if from_above { diagonal + 1 } else { diagonal - 1 };
        let start = if count == 0 { 0 } else { furthest[at(before)] };
        let start_y = if count == 0 { 0 } else { start - before };
        while x > start && y > start_y {
            (x, y) = (x - 1, y - 1);
            edits.push(Edit::Same(here[x as usize]));
        }
        if count > 0 {
            if from_above {
                y -= 1;
                edits.push(Edit::There(there[y as usize]));
            } else {
                x -= 1;
                edits.push(Edit::Here(here[x as usize]));
            }
        }
    }
    edits.reverse();
    edits
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn both_rows_can_be_read_from_the_stretches(
            here in prop::collection::vec(0usize..5, 0..30),
            there in prop::collection::vec(0usize..5, 0..30),
        ) {
            const WORDS: [&str; 5] = ["tern", "gull", "owl", "nest", "egg"];
            let words = |row: &[usize]| -> Vec<&str> { row.iter().map(|word| WORDS[*word]).collect() };
            let (here, there) = (words(&here), words(&there));
            let (mut ours, mut theirs, mut same) = (Vec::new(), Vec::new(), 0);
            for stretch in differences(&here, &there) {
                match stretch {
                    Stretch::Same(terms) => {
                        same += terms.len();
                        ours.extend(terms.clone());
                        theirs.extend(terms);
                    }
                    Stretch::Here(terms) => ours.extend(terms),
                    Stretch::There(terms) => theirs.extend(terms),
                }
            }
            // As many are the same as in a longest common row.
            let mut longest = vec![vec![0usize; there.len() + 1]; here.len() + 1];
            for (a, one) in here.iter().enumerate() {
                for (b, other) in there.iter().enumerate() {
                    longest[a + 1][b + 1] = if one == other { longest[a][b] + 1 } else { longest[a][b + 1].max(longest[a + 1][b]) };
                }
            }
            prop_assert_eq!(same, longest[here.len()][there.len()]);
            prop_assert_eq!(ours, here);
            prop_assert_eq!(theirs, there);
        }
    }
}
