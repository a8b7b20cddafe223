use crate::step::{
    Built, Facts, Gap, Key, Operation, Sequence, SequenceStep, SequenceWork, Settings, SettingsError, Stage,
};

const SIZE: Key<u64> = Key::whole("size", 1, 9, "how many tokens the longest runs have").or("2");

const SMALLEST: Key<u64> = Key::whole(
    "smallest",
    1,
    9,
    "how many tokens the shortest runs have, if not the same; with 1 the single tokens stay",
);

const ACROSS: Key<bool> = Key::truth("across", "whether runs cross dropped words").or("false");

const JOIN: Key<String> = Key::text("join", "what to put between the tokens of a run").or("_");

pub(crate) static NGRAMS: Operation = Operation {
    name: "ngrams",
    stage: Stage::Token,
    about: "makes tokens from runs of neighbouring tokens; runs do not cross punctuation marks, dropped words or paragraph breaks",
    keys: &[&SIZE.facts, &SMALLEST.facts, &JOIN.facts, &ACROSS.facts],
    example: "size = 2\nsmallest = 1",
    roles: &[],
    learns: None,
    build: |settings| Ok(Built::Sequence(Box::new(NGrams::new(settings)?))),
};

/// The number of the reason for which tokens go whose runs would be too many.
const TOO_MANY: u16 = 1;

struct NGrams {
    smallest: usize,
    size: usize,
    join: String,
    /// The widest gap that a run goes over.
    widest: Gap,
    most_bytes: usize,
}

impl NGrams {
    fn new(settings: &Settings) -> Result<NGrams, SettingsError> {
        let size = settings.get(&SIZE).unwrap_or(2) as usize;
        let smallest = settings.get(&SMALLEST).map_or(size, |smallest| smallest as usize);
        if smallest > size {
            let why = format!("`smallest` is {smallest}, and `size` is {size}");
            return Err(SettingsError::key(&SMALLEST.facts, why));
        }
        let widest = if settings.get(&ACROSS) == Some(true) { Gap::Words } else { Gap::None };
        Ok(NGrams { smallest, size, join: join_of(settings, &JOIN)?, widest, most_bytes: MOST_BYTES })
    }
}

/// The sign of a step that joins tokens.
pub(super) fn join_of(settings: &Settings, key: &Key<String>) -> Result<String, SettingsError> {
    let join = settings.get(key).unwrap_or("_");
    if join.contains(char::is_whitespace) {
        let why = format!(
            "`{}` holds white space, which parts the terms of the cleaned text: take another sign, such as `_`",
            key.facts.name
        );
        return Err(SettingsError::key(&key.facts, why));
    }
    Ok(join.to_owned())
}

impl Facts for NGrams {
    fn reason(&self, number: u16) -> String {
        match number {
            TOO_MANY => "the runs of its document would fill the memory".to_owned(),
            _ => "in no run".to_owned(),
        }
    }

    fn joins_tokens(&self) -> bool {
        true
    }

    fn join_sign(&self) -> Option<&str> {
        Some(&self.join)
    }
}

impl SequenceStep for NGrams {
    fn worker(&self) -> Box<dyn SequenceWork + '_> {
        Box::new(Running(self))
    }
}

struct Running<'s>(&'s NGrams);

/// The most bytes that the runs of one document may take. Several such steps in a row make many times as many tokens.
const MOST_BYTES: usize = 2 << 30;
/// What a run takes besides its text.
const RUN_BYTES: usize = size_of::<(usize, usize, String)>() * 2;

impl SequenceWork for Running<'_> {
    fn document(&mut self, tokens: &mut Sequence<'_>) {
        let mut runs = Vec::new();
        let mut bytes = 0;
        let places = tokens.tokens();
        for start in 0..places.len() {
            let mut text = String::new();
            for end in start + 1..=places.len().min(start + self.0.size) {
                let last = &places[end - 1];
                let length = end - start;
                if last.spared
                    || (length > 1 && (last.gap > self.0.widest || last.parts() || places[start].parts()))
                {
                    break;
                }
                if length > 1 {
                    text.push_str(&self.0.join);
                }
                text.push_str(last.text());
                if length >= self.0.smallest {
                    bytes += text.len() + RUN_BYTES;
                    if bytes > self.0.most_bytes {
                        return tokens.replace_all(TOO_MANY);
                    }
                    runs.push((start, end, text.clone()));
                }
            }
        }
        tokens.replace_all(0);
        for (start, end, text) in runs {
            tokens.run(start, end, text);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::step::{Edits, Place};
    use crate::testing;

    #[test]
    fn runs_stay_within_marks_and_paragraphs() {
        let text = "grey gull nests, two\n\neggs hatch";
        let bigrams = "[[step]]\ndo = \"ngrams\"\n";
        assert_eq!(testing::clean(bigrams, text), "grey_gull gull_nests eggs_hatch");
        let both = "[[step]]\ndo = \"ngrams\"\nsize = 2\nsmallest = 1\njoin = \"+\"\n";
        assert_eq!(testing::clean(both, "a b c"), "a a+b b b+c c");
    }

    #[test]
    fn runs_that_would_fill_the_memory_are_not_made() {
        let place = |text| Place::alone(text, 0);
        let made = |most_bytes| {
            let step = NGrams { smallest: 1, size: 3, join: "_".to_owned(), widest: Gap::None, most_bytes };
            let mut tokens = Sequence::new(["grey", "gull", "nests"].map(place).into());
            Running(&step).document(&mut tokens);
            let Edits { edits, replaced, .. } = tokens.into_edits();
            (edits.len(), replaced)
        };
        assert_eq!(made(6 * RUN_BYTES + 47), (6, Some(0)));
        // One byte less: none of them, and every token goes with its reason.
        assert_eq!(made(6 * RUN_BYTES + 46), (0, Some(TOO_MANY)));
    }

    #[test]
    fn runs_go_over_dropped_words_only_where_asked_and_never_over_marks() {
        let drop = "[[step]]\ndo = \"drop\"\nwords = [\"the\"]\nkinds = [\"punctuation\"]\n[[step]]\ndo = \"ngrams\"\n";
        let text = "saw the tern nest. gull eggs\n\nthe end here";
        assert_eq!(testing::clean(drop, text), "tern_nest gull_eggs end_here");
        let across = format!("{drop}across = true\n");
        assert_eq!(testing::clean(&across, text), "saw_tern tern_nest gull_eggs end_here");
    }

    #[test]
    fn spared_tokens_stay_themselves() {
        let recipe = "[[step]]\ndo = \"ngrams\"\nspare = [\"tern\"]\n";
        assert_eq!(testing::clean(recipe, "a b tern c d"), "a_b tern c_d");
    }
}
