use hashbrown::HashSet;

use crate::step::{Built, Facts, Operation, Sequence, SequenceStep, SequenceWork, Stage};

pub(crate) static UNIQUE: Operation = Operation {
    name: "unique",
    stage: Stage::Token,
    about: "keeps the first token of each spelling in a document and drops the others",
    keys: &[],
    example: "",
    roles: &[],
    learns: None,
    build: |_| Ok(Built::Sequence(Box::new(Unique))),
};

struct Unique;

impl Facts for Unique {
    fn reason(&self, _number: u16) -> String {
        "seen before in the document".to_owned()
    }
}

impl SequenceStep for Unique {
    fn worker(&self) -> Box<dyn SequenceWork + '_> {
        Box::new(Once)
    }
}

struct Once;

impl SequenceWork for Once {
    fn document(&mut self, tokens: &mut Sequence<'_>) {
        let mut seen: HashSet<&str, foldhash::fast::RandomState> = HashSet::default();
        let again: Vec<usize> = tokens
            .tokens()
            .iter()
            .enumerate()
            .filter(|(_, token)| !token.spared && !seen.insert(token.text()))
            .map(|(place, _)| place)
            .collect();
        for place in again {
            tokens.drop(place, 0);
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::testing;

    #[test]
    fn each_term_stays_once_a_document() {
        let recipe = "[[step]]\ndo = \"unique\"\nspare = [\"gull\"]\n";
        assert_eq!(testing::clean(recipe, "a gull and a gull and a tern"), "a gull and gull tern");
    }
}
