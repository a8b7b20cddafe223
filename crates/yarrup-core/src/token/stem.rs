use super::{Form, Outcome, TokenStep};
use crate::recipe::{Built, Key, Operation, Settings, Shape, Stage};
use crate::split::Kind;
use crate::stem;

pub(crate) static STEM: Operation = Operation {
    name: "stem",
    stage: Stage::Token,
    about: "cuts words down to their stems",
    keys: &[Key {
        name: "method",
        shape: Shape::OneOf(&["porter2", "porter"]),
        default: Some("porter2"),
        about: "`porter`: Porter's algorithm of 1980; `porter2`: his English stemmer of 2001. Both are for English; \
                words of one or two letters and tokens that are no words are left alone",
    }],
    example: "method = \"porter2\"",
    build: |settings| Ok(Built::Token(Box::new(Stem::chosen(settings)))),
};

struct Stem {
    stem: fn(&str) -> String,
}

impl Stem {
    fn chosen(settings: &Settings) -> Stem {
        match settings.choice("method") {
            Some("porter") => Stem { stem: stem::porter },
            _ => Stem { stem: stem::porter2 },
        }
    }
}

impl TokenStep for Stem {
    fn apply(&self, form: &Form<'_>) -> Outcome {
        if form.kind != Kind::Word {
            return Outcome::Keep;
        }
        let stem = (self.stem)(form.text);
        if stem.is_empty() || stem == form.text { Outcome::Keep } else { Outcome::Change(stem) }
    }
}

#[cfg(test)]
mod tests {
    use crate::recipe::testing;

    #[test]
    fn words_are_stemmed_and_all_else_is_left_alone() {
        let recipe = "[[step]]\ndo = \"stem\"\nmethod = \"porter\"\nspare = [\"bus\"]\n";
        assert_eq!(testing::clean(recipe, "nesting terns, bus 1990s 's"), "nest tern , bus 1990 ' s");
    }
}
