//! Bounds that a comparison must keep to.

use yarrup_core::Condition;

use crate::failure::{Failure, meant, option};

/// Bounds as they were stated.
pub(crate) struct Bounds(Vec<Condition>);

impl Bounds {
    /// Reads the bounds that were typed.
    pub(crate) fn read(typed: &[String]) -> Result<Bounds, Failure> {
        let read = |typed: &String| {
            Condition::read(typed).map_err(|why| Failure::Sentence(format!("--fail-if: `{typed}`: {why}")))
        };
        typed.iter().map(read).collect::<Result<_, _>>().map(Bounds)
    }

    /// Those that hold, as they were typed, with the measures that they name.
    pub(crate) fn broken(&self, measures: &[(&'static str, f64)]) -> Result<Vec<String>, Failure> {
        let mut broken = Vec::new();
        for bound in &self.0 {
            let mut named: Vec<(String, Option<f64>)> = Vec::new();
            let holds = bound.holds(&mut |name: &str| {
                let found = measures.iter().find(|(known, _)| *known == name).map(|(_, value)| *value);
                if !named.iter().any(|(known, _)| known == name) {
                    named.push((name.to_owned(), found));
                }
                found.map(|value| value.to_string().into())
            });
            if let Some((unknown, _)) = named.iter().find(|(_, found)| found.is_none()) {
                let names = measures.iter().map(|(name, _)| *name);
                let why = format!("this comparison has no measure `{unknown}`; {}", meant(unknown, names));
                return Err(option("fail-if", &why));
            }
            if holds {
                let values: Vec<String> = named
                    .iter()
                    .filter_map(|(name, value)| Some(format!("{name} is {}", rounded((*value)?))))
                    .collect();
                broken.push(format!("{bound}: {}", values.join(", ")));
            }
        }
        Ok(broken)
    }
}

/// A measure as it is shown.
pub(crate) fn rounded(value: f64) -> String {
    if value.fract() == 0.0 && value.abs() < 1e15 { format!("{value:.0}") } else { format!("{value:.4}") }
}
