//! Recipes to start from, by aim.

/// A recipe to start from.
#[derive(Clone, Copy, Debug)]
pub struct Starter {
    /// What it is for, in one or two words.
    pub aim: &'static str,
    /// The recipe, with comments that explain its order.
    pub text: &'static str,
}

/// The recipes to start from.
pub static STARTERS: &[Starter] = &[
    Starter { aim: "topics", text: include_str!("starters/topics.toml") },
    Starter { aim: "counts", text: include_str!("starters/counts.toml") },
    Starter { aim: "search", text: include_str!("starters/search.toml") },
    Starter { aim: "sentences", text: include_str!("starters/sentences.toml") },
    Starter { aim: "posts", text: include_str!("starters/posts.toml") },
    Starter { aim: "model-input", text: include_str!("starters/model-input.toml") },
];

#[cfg(test)]
mod tests {
    use super::*;
    use crate::advice::check;
    use crate::examples;
    use crate::recipe::read;
    use crate::testing;

    #[test]
    fn every_starter_passes_in_silence() {
        for starter in STARTERS {
            let recipe = read(starter.text).unwrap_or_else(|faults| panic!("{}: {faults:?}", starter.aim));
            assert_eq!(recipe.name.as_deref(), Some(starter.aim));
            assert_eq!(check(&recipe, &testing::pipeline(starter.text)), [], "{}", starter.aim);
        }
    }

    #[test]
    fn starters_do_what_their_examples_say() {
        for starter in STARTERS {
            let recipe = read(starter.text).unwrap_or_else(|faults| panic!("{}: {faults:?}", starter.aim));
            assert!(!recipe.examples.is_empty(), "{}", starter.aim);
            for outcome in examples::run(&recipe.examples, &testing::pipeline(starter.text)) {
                assert_eq!(outcome.misses, [], "{}", starter.aim);
            }
        }
    }
}
