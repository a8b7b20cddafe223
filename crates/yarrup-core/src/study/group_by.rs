//! Groups of documents by the values of a field.

use std::cmp::Ordering;
use std::collections::BTreeMap;
use std::fmt;

/// A field by whose values documents are grouped.
#[derive(Clone, Debug, PartialEq)]
pub struct GroupBy {
    path: String,
    bins: Bins,
}

/// Which values fall together.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Bins {
    /// As suits the values: see [`GroupBy::suited_to`].
    Suited,
    /// Each by itself.
    Values,
    /// Dates of so many characters: those of a year (4), a month (7), a day (10).
    Dates(usize),
    /// Numbers, from each multiple of this up to the next.
    Width(f64),
}

/// A group of documents: those with one value of a field, or with values that fall together.
#[derive(Clone, Debug, PartialEq)]
pub enum Group {
    /// Numbers from this one on, up to this one; or a single number where both are the same.
    Numbers(f64, f64),
    /// A value.
    Value(String),
    /// The documents that do not have the field.
    Without,
}

/// How many different values are each a group where nothing else is asked for.
const FEW: usize = 12;

impl GroupBy {
    /// Reads `FIELD`, `FIELD:year`, `FIELD:month`, `FIELD:day`, `FIELD:values`, or `FIELD:10` for numbers in bins of this width.
    ///
    /// # Errors
    ///
    /// A sentence that says what is wrong.
    pub fn read(written: &str) -> Result<GroupBy, String> {
        let (path, bins) = match written.rsplit_once(':') {
            Some((path, "year")) => (path, Bins::Dates(4)),
            Some((path, "month")) => (path, Bins::Dates(7)),
            Some((path, "day")) => (path, Bins::Dates(10)),
            Some((path, "values")) => (path, Bins::Values),
            Some((path, width)) if width.parse::<f64>().is_ok() => {
                let width = width.parse().unwrap_or(0.0);
                if !(width > 0.0 && f64::is_finite(width)) {
                    return Err(format!("`{written}`: bins need a width above 0"));
                }
                (path, Bins::Width(width))
            }
            _ => (written, Bins::Suited),
        };
        if path.is_empty() {
            return Err(format!("`{written}` names no field"));
        }
        Ok(GroupBy { path: path.to_owned(), bins })
    }

    /// The path of the field.
    pub fn path(&self) -> &str {
        &self.path
    }

    /// Whether the groups can only be told once all values are known.
    pub fn is_open(&self) -> bool {
        self.bins == Bins::Suited
    }

    /// The groups that suit these values: each value by itself if there are few of them; dates by year, month or day, and numbers in bins of a
    /// round width, if there are many.
    pub fn suited_to<'v>(self, values: &(impl Iterator<Item = &'v str> + Clone)) -> GroupBy {
        if !self.is_open() {
            return self;
        }
        let dates = || values.clone().all(is_date);
        let numbers = || values.clone().map(number);
        let bins = if values.clone().take(FEW + 1).count() <= FEW {
            Bins::Values
        } else if dates() {
            let distinct = |length: usize| {
                let mut starts: Vec<&str> = values.clone().map(|value| &value[..length]).collect();
                starts.sort_unstable();
                starts.dedup();
                starts.len()
            };
            let coarse = [4, 7].into_iter().find(|length| distinct(*length) > 2);
            Bins::Dates(coarse.unwrap_or(if distinct(7) > 1 { 7 } else { 10 }))
        } else if numbers().all(|number| number.is_some()) {
            let (least, most) = numbers()
                .flatten()
                .fold((f64::MAX, f64::MIN), |(least, most), number| (least.min(number), most.max(number)));
            Bins::Width(round_width((most - least) / 8.0))
        } else {
            Bins::Values
        };
        GroupBy { bins, ..self }
    }

    /// The group of a document with this value of the field.
    ///
    /// ```
    /// use yarrup_core::study::GroupBy;
    ///
    /// let by = GroupBy::read("seen:month").expect("a field");
    /// assert_eq!(by.group(Some("2031-05-04T06:30")).to_string(), "2031-05");
    /// let by = GroupBy::read("count:10").expect("a field");
    /// assert_eq!(by.group(Some("17")).to_string(), "10 to 20");
    /// assert_eq!(by.group(None).to_string(), "(none)");
    /// ```
    pub fn group(&self, value: Option<&str>) -> Group {
        let Some(value) = value.map(str::trim).filter(|value| !value.is_empty()) else {
            return Group::Without;
        };
        match self.bins {
            Bins::Dates(length) if is_date(value) => Group::Value(value[..length].to_owned()),
            Bins::Width(width) => match number(value) {
                Some(number) => {
                    let bin = (number / width).floor();
                    Group::Numbers(bin * width, (bin + 1.0) * width)
                }
                None => Group::Value(value.to_owned()),
            },
            _ => Group::Value(value.to_owned()),
        }
    }
}

/// The order in which groups of these names are shown: numbers by their size, others by their letters, documents without the field last.
pub fn group_order(one: &str, other: &str) -> Ordering {
    let rank = |name: &str| match number(name.split(" to ").next().unwrap_or(name)) {
        _ if name == WITHOUT => (2, 0.0),
        Some(number) => (0, number),
        None => (1, 0.0),
    };
    let ((kind, from), (other_kind, other_from)) = (rank(one), rank(other));
    kind.cmp(&other_kind).then(from.total_cmp(&other_from)).then_with(|| one.cmp(other))
}

/// What documents without the field are called.
const WITHOUT: &str = "(none)";

impl fmt::Display for Group {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Group::Numbers(from, to) => write!(f, "{} to {}", plain(*from), plain(*to)),
            Group::Value(value) => f.write_str(value),
            Group::Without => f.write_str(WITHOUT),
        }
    }
}

/// Groups with what was counted for each, in the order in which they are shown. What falls together is added up by `add`.
pub fn grouped_values<T: Default>(
    by: &GroupBy,
    values: BTreeMap<Option<String>, T>,
    mut add: impl FnMut(&mut T, T),
) -> Vec<(Group, T)> {
    let mut groups: Vec<(Group, T)> = Vec::new();
    for (value, count) in values {
        let group = by.group(value.as_deref());
        match groups.iter_mut().find(|(known, _)| *known == group) {
            Some((_, sum)) => add(sum, count),
            None => groups.push((group, count)),
        }
    }
    groups.sort_by(|(a, _), (b, _)| group_order(&a.to_string(), &b.to_string()));
    groups
}

fn number(value: &str) -> Option<f64> {
    value.parse().ok().filter(|number: &f64| number.is_finite())
}

/// Without the noise of binary fractions.
fn plain(number: f64) -> f64 {
    (number * 1e9).round() / 1e9
}

/// Whether a value begins as ISO 8601 writes a date.
fn is_date(value: &str) -> bool {
    value.len() >= 10
        && value.bytes().take(10).enumerate().all(|(at, byte)| match at {
            4 | 7 => byte == b'-',
            _ => byte.is_ascii_digit(),
        })
        && value.as_bytes().get(10).is_none_or(|byte| matches!(byte, b'T' | b' '))
}

/// The least width of 1, 2 or 5 times a power of ten that is at least this.
fn round_width(width: f64) -> f64 {
    if width <= 0.0 || !width.is_finite() {
        return 1.0;
    }
    let power = 10f64.powf(width.log10().floor());
    [1.0, 2.0, 5.0, 10.0].into_iter().map(|step| step * power).find(|step| *step >= width).unwrap_or(width)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn groups_suit_the_values() {
        let groups = |written: &str, values: &[String]| {
            let by = GroupBy::read(written).expect("a field");
            let by = by.suited_to(&values.iter().map(String::as_str));
            let counted = values.iter().map(|value| (Some(value.clone()), 1u64)).collect();
            let groups = grouped_values(&by, counted, |sum, count| *sum += count);
            groups.iter().map(|(group, count)| format!("{group}: {count}")).collect::<Vec<_>>()
        };
        let numbers: Vec<String> = (0..100).map(|number| number.to_string()).collect();
        assert_eq!(groups("n", &numbers)[..2], ["0 to 20: 20", "20 to 40: 20"]);
        assert_eq!(groups("n:50", &numbers), ["0 to 50: 50", "50 to 100: 50"]);
        assert_eq!(groups("n", &numbers[..3]), ["0: 1", "1: 1", "2: 1"]);
        let days: Vec<String> = (1..=28).map(|day| format!("2031-05-{day:02}")).collect();
        assert_eq!(groups("d", &days).len(), 28);
        let months: Vec<String> =
            (1..=12).flat_map(|month| [3, 9].map(|day| format!("2031-{month:02}-{day:02}"))).collect();
        assert_eq!(groups("d", &months)[0], "2031-01: 2");
        let years: Vec<String> = (2001..=2020).map(|year| format!("{year}-05-05")).collect();
        assert_eq!(groups("d", &years)[0], "2001: 1");
        let words: Vec<String> = ('a'..='z').map(String::from).collect();
        assert_eq!(groups("w", &words).len(), 26);
    }

    #[test]
    fn what_cannot_be_grouped_is_told() {
        assert!(GroupBy::read(":year").is_err() && GroupBy::read("n:0").is_err());
        assert_eq!(GroupBy::read("a:b").map(|by| by.path().to_owned()), Ok("a:b".to_owned()));
    }

    #[test]
    fn groups_are_ordered_for_people() {
        let by = GroupBy::read("x:values").expect("a field");
        let values = ["10", "9", "b", "a"].map(|value| (Some(value.to_owned()), 1u64));
        let values = values.into_iter().chain([(None, 1)]).collect();
        let groups = grouped_values(&by, values, |sum, count| *sum += count);
        let names: Vec<String> = groups.iter().map(|(group, _)| group.to_string()).collect();
        assert_eq!(names, ["9", "10", "a", "b", "(none)"]);
    }
}
