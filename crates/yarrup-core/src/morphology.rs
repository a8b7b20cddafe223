//! What the form of a word tells beside its part of speech: number, degree, tense.

use std::fmt;

/// Morphological features of a word, by the names and values of the universal features (Nivre et al. 2016, "Universal Dependencies v1"): for each
/// feature the values that the form can have. One value is certain; `walked` is `Fin` or `Part`, which the form alone does not tell.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub struct Features(u16);

/// A feature with one value, such as `Number=Plur`.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Feature {
    /// All values of the same feature.
    of: u16,
    value: u16,
}

impl Features {
    pub(crate) const COMPARATIVE: Features = Features(1);
    pub(crate) const POSITIVE: Features = Features(1 << 1);
    pub(crate) const SUPERLATIVE: Features = Features(1 << 2);
    pub(crate) const PLURAL: Features = Features(1 << 3);
    pub(crate) const SINGULAR: Features = Features(1 << 4);
    pub(crate) const THIRD: Features = Features(1 << 5);
    pub(crate) const PAST: Features = Features(1 << 6);
    pub(crate) const PRESENT: Features = Features(1 << 7);
    pub(crate) const FINITE: Features = Features(1 << 8);
    pub(crate) const GERUND: Features = Features(1 << 9);
    pub(crate) const INFINITIVE: Features = Features(1 << 10);
    pub(crate) const PARTICIPLE: Features = Features(1 << 11);

    /// These and those.
    pub(crate) const fn and(self, others: Features) -> Features {
        Features(self.0 | others.0)
    }

    /// Whether nothing is told.
    pub fn is_empty(self) -> bool {
        self.0 == 0
    }

    /// Whether the word has this value for certain: the form can have no other.
    pub fn have(self, feature: Feature) -> bool {
        self.0 & feature.of == feature.value
    }
}

impl fmt::Display for Features {
    /// As treebanks write them: `Number=Plur`, several with `|` between them, several values with a comma.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let mut last = "";
        let has = |bit: usize| self.0 >> bit & 1 == 1;
        for (_, written) in Feature::NAMES.iter().enumerate().filter(|(bit, _)| has(*bit)) {
            let (name, value) = parts(written);
            match last {
                before if before == name => write!(f, ",{value}")?,
                "" => f.write_str(written)?,
                _ => write!(f, "|{written}")?,
            }
            last = name;
        }
        Ok(())
    }
}

/// The name and the value of a feature.
fn parts(written: &str) -> (&str, &str) {
    written.split_once('=').unwrap_or((written, ""))
}

impl Feature {
    /// What a recipe may write: in the order of the alphabet, as treebanks have them, and of the bits.
    pub const NAMES: &'static [&'static str] = &[
        "Degree=Cmp",
        "Degree=Pos",
        "Degree=Sup",
        "Number=Plur",
        "Number=Sing",
        "Person=3",
        "Tense=Past",
        "Tense=Pres",
        "VerbForm=Fin",
        "VerbForm=Ger",
        "VerbForm=Inf",
        "VerbForm=Part",
    ];

    /// The feature written so.
    pub fn named(written: &str) -> Option<Feature> {
        let value = 1 << Feature::NAMES.iter().position(|known| *known == written)?;
        let same = Feature::NAMES.iter().enumerate().filter(|(_, known)| parts(known).0 == parts(written).0);
        Some(Feature { of: same.fold(0, |of, (bit, _)| of | 1 << bit), value })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_name_stands_for_a_value_of_its_own() {
        let all = Feature::NAMES.iter().map(|name| Feature::named(name).expect(name));
        let bits: Vec<u16> = all.map(|feature| feature.value).collect();
        assert_eq!(bits, (0..Feature::NAMES.len()).map(|bit| 1 << bit).collect::<Vec<u16>>());
        for (name, bit) in Feature::NAMES.iter().zip(bits) {
            assert_eq!(Features(bit).to_string(), *name);
        }
        for wrong in ["Number", "Number=Dual", "Case=Nom", "number=plur", ""] {
            assert_eq!(Feature::named(wrong), None, "{wrong}");
        }
    }

    #[test]
    fn only_what_is_certain_counts() {
        let walked = Features::PAST.and(Features::FINITE).and(Features::PARTICIPLE);
        assert_eq!(walked.to_string(), "Tense=Past|VerbForm=Fin,Part");
        let has = |name| walked.have(Feature::named(name).expect("a feature"));
        assert!(has("Tense=Past") && !has("VerbForm=Fin") && !has("VerbForm=Part") && !has("Number=Sing"));
        assert_eq!(Features::default().to_string(), "");
        assert!(!Features::default().have(Feature::named("Tense=Pres").expect("a feature")));
    }
}
