//! The splitters: the one step that turns text into tokens, and the kinds that tokens are of.

mod abbreviations;
mod blocks;
mod clitics;
mod graphemes;
mod kind;
mod pattern;
mod posts;
mod recognise;
mod refined;
mod sentences;
mod spaces;
mod unspaced;
mod whole;
mod words;

pub use blocks::{Lines, Paragraphs};
pub use clitics::Clitics;
pub use graphemes::{Characters, next_grapheme_boundary};
pub use kind::Kind;
pub use pattern::Pattern;
pub use posts::Posts;
pub(crate) use recognise::emoji_length;
pub use recognise::{KindSet, recognise};
pub use sentences::{Sentences, UnicodeSentences, next_sentence_boundary};
pub use spaces::Spaces;
pub(crate) use whole::Whole;
pub use words::{Words, next_word_boundary};

use crate::recipe::{Built, Key, Operation, Settings, Shape, Stage};
use crate::text::compiled_pattern;
use blocks::Groups;
use refined::{Joint, Refined};

/// A half-open range of bytes in a document's text.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Span {
    /// Where the first byte stands.
    pub start: u32,
    /// Where the byte after the last stands.
    pub end: u32,
}

impl Span {
    /// The stretch of `text` that this span covers. `text` is the one that the span was made for.
    pub fn of<'a>(&self, text: &'a str) -> &'a str {
        &text[self.start as usize..self.end as usize]
    }
}

/// Turns text into tokens.
pub trait Splitter: Send + Sync {
    /// Appends the spans of the tokens of `text` to `spans`, in order. Only runs of characters overlap.
    ///
    /// No token is empty or white space alone.
    fn split(&self, text: &str, spans: &mut Vec<Span>);

    /// Whether changing a letter's case without changing its length moves no boundary, so that the engine need not split the text as found
    /// once more.
    fn ignores_case(&self) -> bool {
        true
    }

    /// Whether its tokens are words or parts of words, and none holds white space.
    fn parts_words(&self) -> bool {
        true
    }

    /// What finds the sentences whose numbers tokens are to keep.
    fn sentences(&self) -> Option<&dyn Splitter> {
        None
    }
}

const KEEP_OR_PART: Shape = Shape::OneOf(&["keep", "part"]);

pub(crate) static SPLIT: Operation = Operation {
    name: "split",
    stage: Stage::Split,
    about: "cuts the text into tokens",
    keys: &[
        Key {
            name: "into",
            shape: Shape::OneOf(&[
                "words",
                "spaces",
                "clitics",
                "posts",
                "pattern",
                "characters",
                "sentences",
                "paragraphs",
                "lines",
            ]),
            default: Some("words"),
            about: "`words`: Unicode's word boundaries, punctuation marks being tokens of their own; `spaces`: whatever stands between white \
                    space; `clitics`: words with contractions and possessives parted (`do` `n't`), abbreviations, numbers and links whole; \
                    `posts`: links, mentions, hashtags, emoticons, emoji, amounts whole; `pattern`: by a regular expression; `characters`: \
                    characters as people see them, or runs of them; `sentences`, `paragraphs`, `lines`",
        },
        Key {
            name: "hyphens",
            shape: KEEP_OR_PART,
            default: None,
            about: "words with hyphens whole (`nest-box`) or parted. If left out: parted in `words`, whole in `clitics`, `posts` and `spaces`",
        },
        Key {
            name: "apostrophes",
            shape: KEEP_OR_PART,
            default: Some("keep"),
            about: "words with apostrophes whole (`don't`) or parted",
        },
        Key {
            name: "numbers",
            shape: KEEP_OR_PART,
            default: Some("keep"),
            about: "numbers with separators whole (`3,000.5`) or parted",
        },
        Key {
            name: "punctuation",
            shape: Shape::OneOf(&["keep", "leave"]),
            default: Some("keep"),
            about: "`leave`: punctuation marks part tokens and are none",
        },
        Key {
            name: "hashtags",
            shape: KEEP_OR_PART,
            default: Some("keep"),
            about: "hashtags of `posts` whole, or parted at capitals, digits and `_` (`#` `Sea` `Wall`)",
        },
        Key {
            name: "scripts",
            shape: Shape::OneOf(&["dictionary", "unicode"]),
            default: Some("dictionary"),
            about: "how scripts without spaces between words (Chinese, Japanese, Thai, Lao, Khmer, Burmese) are split: by dictionary, or letter by \
                    letter as Unicode's rules have it",
        },
        Key {
            name: "pattern",
            shape: Shape::Text,
            default: None,
            about: "the regular expression of `into = \"pattern\"`",
        },
        Key {
            name: "matches",
            shape: Shape::OneOf(&["tokens", "gaps"]),
            default: Some("tokens"),
            about: "whether what the pattern matches are the tokens, or what parts them",
        },
        Key {
            name: "size",
            shape: Shape::Whole { least: 1, most: 100 },
            default: Some("1"),
            about: "of `into = \"characters\"`: how many make a token; tokens of more than one overlap, and stay within words",
        },
        Key {
            name: "rules",
            shape: Shape::OneOf(&["careful", "unicode"]),
            default: Some("careful"),
            about: "how sentences are found: by our rules, which know abbreviations and initials in several languages, or by Unicode's default rules",
        },
        Key {
            name: "sentences",
            shape: Shape::Truth,
            default: Some("false"),
            about: "keeps on each token the number of its sentence, and puts each sentence of the cleaned text on a line",
        },
        Key {
            name: "group",
            shape: Shape::Whole { least: 1, most: 1_000_000_000 },
            default: None,
            about: "joins so many tokens to one, from the first to the last of them: groups of words or of sentences; the rest is a group of its own. \
                    Marks count for nothing and go with their words",
        },
        Key {
            name: "language",
            shape: Shape::Text,
            default: None,
            about: "the language of clitics and abbreviations, if not that of the recipe",
        },
    ],
    example: "into = \"words\"",
    build: |settings| Ok(Built::Split(splitter(settings)?)),
};

fn splitter(settings: &Settings) -> Result<Box<dyn Splitter>, String> {
    let language = settings.language();
    let into = settings.choice("into").unwrap_or("words");
    let words = Words { without_dictionary: settings.choice("scripts") == Some("unicode") };
    let careful = settings.choice("rules") != Some("unicode");
    let sentences = || -> Box<dyn Splitter> {
        if careful { Box::new(Sentences::of(language)) } else { Box::new(UnicodeSentences) }
    };
    let needs = |key: &str, of: &[&str]| match settings.has(key) && !of.contains(&into) {
        true => {
            Err(format!("`{key}` is for `into = \"{}\"`, and this splits into `{into}`", of.join("\"`, `\"")))
        }
        false => Ok(()),
    };
    needs("pattern", &["pattern"])?;
    needs("matches", &["pattern"])?;
    needs("size", &["characters"])?;
    needs("hashtags", &["posts"])?;
    for key in ["hyphens", "apostrophes", "numbers", "punctuation"] {
        needs(key, &["words", "spaces", "clitics", "posts"])?;
    }
    let base: Box<dyn Splitter> = match into {
        "spaces" => Box::new(Spaces),
        "clitics" => Box::new(Clitics::of(language).with_words(words)),
        "posts" => {
            Box::new(Posts::of(language, settings.choice("hashtags") == Some("part")).with_words(words))
        }
        "pattern" => {
            let written = settings.text("pattern").ok_or("`into = \"pattern\"` needs a `pattern`")?;
            Box::new(Pattern {
                pattern: compiled_pattern("pattern", written)?,
                gaps: settings.choice("matches") == Some("gaps"),
            })
        }
        "characters" => {
            let size = settings.whole("size").and_then(|size| usize::try_from(size).ok()).unwrap_or(1);
            if size > 1 && settings.has("group") {
                return Err("`group` joins characters only where `size` is 1".into());
            }
            Box::new(Characters { size })
        }
        "sentences" => sentences(),
        "paragraphs" => Box::new(Paragraphs),
        "lines" => Box::new(Lines),
        _ => Box::new(words),
    };
    let refined = Refined {
        of: base,
        hyphens: settings
            .choice("hyphens")
            .map(|choice| if choice == "keep" { Joint::Keep } else { Joint::Part }),
        part_apostrophes: settings.choice("apostrophes") == Some("part"),
        part_numbers: settings.choice("numbers") == Some("part"),
        leave_punctuation: settings.choice("punctuation") == Some("leave"),
    };
    let plain = refined.hyphens.is_none()
        && !refined.part_apostrophes
        && !refined.part_numbers
        && !refined.leave_punctuation;
    let base = if plain { refined.of } else { Box::new(refined) };
    let base: Box<dyn Splitter> = match settings.whole("group").and_then(|size| usize::try_from(size).ok()) {
        Some(size) => Box::new(Groups { of: base, size }),
        None => base,
    };
    // Sentences that are tokens are numbered without being asked for.
    let numbered = settings.truth("sentences") == Some(true) || into == "sentences";
    Ok(if numbered { Box::new(Numbered { of: base, sentences: sentences() }) } else { base })
}

/// Another splitter's tokens, which keep the numbers of their sentences.
struct Numbered {
    of: Box<dyn Splitter>,
    sentences: Box<dyn Splitter>,
}

impl Splitter for Numbered {
    fn split(&self, text: &str, spans: &mut Vec<Span>) {
        self.of.split(text, spans);
    }

    fn ignores_case(&self) -> bool {
        self.of.ignores_case()
    }

    fn parts_words(&self) -> bool {
        self.of.parts_words()
    }

    fn sentences(&self) -> Option<&dyn Splitter> {
        Some(self.sentences.as_ref())
    }
}
