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
    fn starters_do_what_they_say() {
        let clean = |aim: &str, text: &str| {
            let starter = STARTERS.iter().find(|starter| starter.aim == aim).expect("an aim");
            testing::clean(starter.text, text)
        };
        let post = "Soooo many #terns @mira :-) didn’t see https://example.org/a &amp; it's <b>GREAT</b>!!!";
        assert_eq!(clean("posts", post), "soo #terns <mention> :-) see <url> great");
        assert_eq!(
            clean("topics", "The wardens’ nests weren't nesting at https://example.org"),
            "warden nest not nest"
        );
        assert_eq!(
            clean("counts", "The US tern-watch: 12 breed-\ning terns"),
            "the US tern-watch 12 breeding terns"
        );
        assert_eq!(clean("search", "Übung, Straße ﬁne 06:30"), "ubung strasse fine 06:30");
        assert_eq!(
            clean("sentences", "Dr. Sand came. <p>It was 5 p.m.</p>"),
            "Dr. Sand came.\nIt was 5 p.m."
        );
        assert_eq!(clean("model-input", "CafÃ©  at  warden@example.org"), "Café at <email>");
    }
}
