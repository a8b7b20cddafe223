//! What text steps matched.

use crate::account::Account;

/// What a text step matched, of one sort.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct MatchRow {
    /// The step's place in the recipe, from 1.
    pub step: usize,
    /// The operation.
    pub operation: String,
    /// The step's label.
    pub label: Option<String>,
    /// The sort of matches; empty for a step that tells none apart.
    pub sort: String,
    /// How often.
    pub count: u64,
    /// In how many documents.
    pub documents: u64,
    /// A few of the texts that matched.
    pub examples: Vec<String>,
}

impl Account {
    /// What the text steps matched, step by step and sort by sort.
    pub fn matches(&self) -> Vec<MatchRow> {
        let mut rows = Vec::new();
        for (index, (step, tally)) in self.steps.iter().zip(&self.text_steps).enumerate() {
            for (number, seen) in tally.matched.sorts().iter().enumerate().filter(|(_, seen)| seen.count > 0)
            {
                rows.push(MatchRow {
                    step: index + 1,
                    operation: step.operation.clone(),
                    label: step.label.clone(),
                    sort: step.sorts.get(number).cloned().unwrap_or_default(),
                    count: seen.count,
                    documents: seen.documents,
                    examples: seen.examples().map(str::to_owned).collect(),
                });
            }
        }
        rows
    }
}
