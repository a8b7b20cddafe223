//! `split`: which splitter a recipe asks for.

use crate::pattern::compiled_pattern;
use crate::split::{
    Characters, Clitics, Groups, Joint, Lines, Numbered, Paragraphs, Pattern, Posts, Refined, Sentences,
    Spaces, Splitter, UnicodeSentences, Words,
};
use crate::step::{Built, Key, Operation, Settings, Shape, Stage};

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
