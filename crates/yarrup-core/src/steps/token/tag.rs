use crate::part_of_speech::Tag;
use crate::step::{
    Built, Facts, Gap, Key, Operation, Place, Role, Sequence, SequenceStep, SequenceWork, Settings,
    SettingsError, Stage,
};
use crate::tag::{self, Model, Tagger};
use crate::unicode;

const MODEL: Key<Vec<u8>> = Key::file(
    "model",
    "your own model, made by `yarrup learn` [default: the English one that comes with Yarrup]",
);

const LANGUAGE: Key<String> =
    Key::text("language", "the language of the documents, if not that of the recipe");

pub(crate) static TAG: Operation = Operation {
    name: "tag",
    stage: Stage::Token,
    about: "gives each token its part of speech, from the words around it",
    keys: &[&MODEL.facts, &LANGUAGE.facts],
    example: "language = \"en\"",
    roles: &[Role::Tags, Role::Marks],
    learns: None,
    build: |settings| Ok(Built::Sequence(Box::new(TagStep::new(settings)?))),
};

struct TagStep {
    model: ModelSource,
}

enum ModelSource {
    Shelf(&'static Model),
    Own(Box<Model>),
}

impl TagStep {
    fn new(settings: &Settings) -> Result<TagStep, SettingsError> {
        if let Some(bytes) = settings.get(&MODEL) {
            let model = Model::from_bytes(bytes)
                .map_err(|fault| SettingsError::key(&MODEL.facts, fault.to_string()))?;
            return Ok(TagStep { model: ModelSource::Own(Box::new(model)) });
        }
        match settings.language() {
            None | Some("en") => Ok(TagStep { model: ModelSource::Shelf(tag::english()) }),
            Some(other) => Err(SettingsError::key(
                &LANGUAGE.facts,
                format!(
                    "`tag` knows English, and the documents are in `{other}`: learn a model from a treebank with `yarrup learn` and name it as `model`"
                ),
            )),
        }
    }
}

impl Facts for TagStep {}

impl SequenceStep for TagStep {
    fn worker(&self) -> Box<dyn SequenceWork + '_> {
        let model = match &self.model {
            ModelSource::Shelf(model) => *model,
            ModelSource::Own(model) => model,
        };
        Box::new(Tagging {
            tagger: Tagger::new(model),
            parts_contractions: model.language == "en",
            tags: Vec::new(),
            spellings: Vec::new(),
            words: Vec::new(),
            heads: Vec::new(),
        })
    }
}

struct Tagging<'m> {
    tagger: Tagger<'m>,
    /// Whether `don't` is tagged as `do` and `n't`, which is how the model knows it.
    parts_contractions: bool,
    tags: Vec<Tag>,
    /// By the number of a spelling: what is known of it.
    spellings: Vec<Spelling>,
    /// The words of the present sentence by the tagger's numbers, and where among them each token's stands.
    words: Vec<u32>,
    heads: Vec<u32>,
}

/// What is known of a spelling.
#[derive(Clone, Copy)]
struct Spelling {
    /// The tagger's number of the word, or of the first part of a contraction.
    head: u32,
    /// That of the second part.
    tail: u32,
    /// Whether it ends a sentence.
    ends: bool,
    /// Whether it may close a sentence that has ended.
    closes: bool,
}

/// No number of a tagger's.
const NONE: u32 = u32::MAX;

/// The longest sentence that is tagged at once: text without any full stop must not cost memory without end.
const LONGEST_SENTENCE: usize = 400;

/// How many quotation marks and brackets may close a sentence.
const MOST_CLOSING: usize = 8;

impl Tagging<'_> {
    #[inline]
    fn spelling(&mut self, place: &Place<'_>) -> Spelling {
        match self.spellings.get(place.number as usize) {
            Some(known) if known.head != NONE => *known,
            _ => self.new_spelling(place),
        }
    }

    #[cold]
    fn new_spelling(&mut self, place: &Place<'_>) -> Spelling {
        let text = place.text();
        let (head, tail) = match parted(text).filter(|_| self.parts_contractions) {
            Some((head, tail)) => (self.tagger.number(head), self.tagger.number(tail)),
            None => (self.tagger.number(text), NONE),
        };
        let closes = matches!(text, "\"" | "\u{201d}" | "\u{2019}" | ")" | "]");
        let spelling = Spelling { head, tail, ends: ends(text), closes };
        let number = place.number as usize;
        if number >= self.spellings.len() {
            let unknown = Spelling { head: NONE, tail: NONE, ends: false, closes: false };
            self.spellings.resize(number + 1, unknown);
        }
        self.spellings[number] = spelling;
        spelling
    }

    /// Makes the words of the sentence ready that begins with the token `start`. Returns where the next one begins.
    fn sentence(&mut self, places: &[Place<'_>], start: usize) -> usize {
        self.words.clear();
        self.heads.clear();
        let mut has_ended = false;
        let mut end = start;
        while let Some(place) = places.get(end) {
            let length = end - start;
            let spelling = self.spelling(place);
            if length > 0 {
                let is_full = length >= LONGEST_SENTENCE;
                // A closing quotation mark or bracket belongs to the sentence that it closes.
                let closes = spelling.closes && length < LONGEST_SENTENCE + MOST_CLOSING;
                if place.gap == Gap::Paragraph || (has_ended || is_full) && !closes {
                    break;
                }
                has_ended |= is_full;
            }
            has_ended |= spelling.ends;
            self.heads.push(self.words.len() as u32);
            self.words.push(spelling.head);
            if spelling.tail != NONE {
                self.words.push(spelling.tail);
            }
            end += 1;
        }
        end
    }
}

impl SequenceWork for Tagging<'_> {
    fn document(&mut self, tokens: &mut Sequence<'_>) {
        if self.tagger.is_full() {
            self.tagger.forget();
            self.spellings.clear();
        }
        let mut start = 0;
        while start < tokens.tokens().len() {
            let end = self.sentence(tokens.tokens(), start);
            self.tagger.tag_numbers(&self.words, &mut self.tags);
            for (place, head) in (start..end).zip(&self.heads) {
                if !tokens.tokens()[place].spared {
                    tokens.tag(place, self.tags[*head as usize]);
                }
            }
            start = end;
        }
    }
}

/// Whether a token ends a sentence.
fn ends(token: &str) -> bool {
    token.chars().all(|c| matches!(c, '.' | '!' | '?' | '\u{2026}' | '\u{203d}')) && token != ".."
}

/// A contracted form in its two parts, the way treebanks part them: `do` and `n't`, `warden` and `'s`.
fn parted(token: &str) -> Option<(&str, &str)> {
    if !token.contains(unicode::is_apostrophe) {
        return None;
    }
    let mut backwards = token.char_indices().rev();
    let (at, _) = backwards.find(|(_, c)| unicode::is_apostrophe(*c))?;
    let tail: String = token[at..].chars().skip(1).flat_map(char::to_lowercase).collect();
    let cut = match tail.as_str() {
        "t" if token[..at].ends_with(['n', 'N']) => at - 1,
        "s" | "m" | "re" | "ve" | "ll" | "d" => at,
        _ => return None,
    };
    (cut > 0).then(|| token.split_at(cut))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::testing;

    fn tags(recipe: &str, text: &str) -> Vec<(String, Option<Tag>)> {
        let pipeline = testing::pipeline(recipe);
        let mut worker =
            crate::Worker::new(&pipeline, crate::Outputs { clean: false, tokens: true, ends: false });
        let cleaned = worker.document(text, &crate::NoFields);
        cleaned.tokens().map(|token| (token.term.to_owned(), token.tag)).collect()
    }

    #[test]
    fn words_are_tagged_in_their_context() {
        let told: Vec<_> =
            tags("[[step]]\ndo = \"tag\"\n", "She saw the saw. The annual reports don't report losses.")
                .into_iter()
                .map(|(term, tag)| format!("{term}/{}", tag.map_or("", Tag::code)))
                .collect();
        assert_eq!(told[..5], ["She/PRON", "saw/VERB", "the/DET", "saw/NOUN", "./PUNCT"]);
        assert!(
            told.contains(&"reports/NOUN".to_owned()) && told.contains(&"report/VERB".to_owned()),
            "{told:?}"
        );
        assert!(told.contains(&"don't/AUX".to_owned()), "{told:?}");
    }

    /// The tags that the tagger gives to these sentences, one after the other.
    fn by_tagger(sentences: &[&str]) -> Vec<Tag> {
        let mut tagger = Tagger::new(tag::english());
        let mut all = Vec::new();
        for sentence in sentences {
            let mut tags = Vec::new();
            tagger.tag(sentence.split(' '), &mut tags);
            all.extend(tags);
        }
        all
    }

    #[test]
    fn long_sentences_are_tagged_whole_and_closed_by_their_quotes() {
        let split = "[[step]]\ndo = \"split\"\ninto = \"spaces\"\n[[step]]\ndo = \"tag\"\n";
        let by_step =
            |text: &str| -> Vec<Tag> { tags(split, text).into_iter().filter_map(|(_, tag)| tag).collect() };
        let long = ["they saw the saw and to watch a watch"; 30].join(" ");
        assert_eq!(by_step(&long), by_tagger(&[&long]));
        let words: Vec<&str> = long.split(' ').collect();
        let cut: Vec<String> = words.chunks(40).map(|piece| piece.join(" ")).collect();
        let cut: Vec<&str> = cut.iter().map(String::as_str).collect();
        assert_ne!(by_tagger(&[&long]), by_tagger(&cut), "a cut in forty words would be seen");
        let quoted = "he left . \u{201d} Nests fell ) and more .";
        assert_eq!(by_step(quoted), by_tagger(&["he left . \u{201d}", "Nests fell ) and more ."]));
        assert_eq!(by_step("he left\n\nNests fell"), by_tagger(&["he left", "Nests fell"]));
        // A row of marks without end costs no more than others.
        let marks = vec![")"; 5_000].join(" ");
        assert_eq!(by_step(&format!("he left . {marks}")).len(), 5_003);
    }

    #[test]
    fn a_model_that_is_none_is_refused() {
        assert_eq!(parted("don\u{2019}t"), Some(("do", "n\u{2019}t")));
        assert_eq!(parted("'tis"), None);
        assert_eq!(parted("o'clock"), None);
        let recipe = crate::recipe::read("language = \"fr\"\n[[step]]\ndo = \"tag\"\n").expect("read");
        let faults = crate::Pipeline::compile(&recipe, &crate::NoFiles).err().unwrap_or_default();
        assert!(faults[0].title.contains("yarrup learn"), "{}", faults[0].title);
    }

    proptest::proptest! {
        #[test]
        fn any_text_is_tagged_token_by_token(text in "([a-zA-ZȺİ ẞ'’.!?\n-]|n't|’s|https://example.org|🐦|鳥){0,40}") {
            let split = tags("[[step]]\ndo = \"split\"\n", &text);
            let tagged = tags("[[step]]\ndo = \"tag\"\n", &text);
            proptest::prop_assert_eq!(split.len(), tagged.len());
            proptest::prop_assert!(tagged.iter().all(|(_, tag)| tag.is_some()));
        }
    }
}
