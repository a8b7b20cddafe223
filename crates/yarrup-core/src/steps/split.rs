//! `split`: which splitter a recipe asks for.

use crate::pattern::compiled_pattern;
use crate::split::{
    Characters, Clitics, Groups, Joint, Lines, Numbered, Paragraphs, Pattern, Posts, Refined, Sentences,
    Spaces, Splitter, UnicodeSentences, Words,
};
use crate::step::{Built, Key, KeyFacts, Operation, Settings, SettingsError, Stage};

pub(crate) const INTO: Key<&'static str> = Key::one_of("into", &[
                "words",
                "spaces",
                "clitics",
                "posts",
                "pattern",
                "characters",
                "sentences",
                "paragraphs",
                "lines",
            ], "`words`: Unicode's word boundaries, with punctuation marks as separate tokens; `spaces`: at white space only; `clitics`: contractions and possessives separated (`do` `n't`), abbreviations, numbers and links whole; `posts`: links, mentions, hashtags, emoticons, emoji and amounts whole; `pattern`: by a regular expression; `characters`: characters as readers see them, or runs of them; `sentences`, `paragraphs`, `lines`").or("words");

const HYPHENS: Key<&'static str> = Key::one_of(
    "hyphens",
    &["keep", "part"],
    "`keep`: words with hyphens stay whole (`nest-box`); `part`: they are split [default: `part` in `words`, `keep` in `clitics`, `posts` and `spaces`]",
);

pub(crate) const APOSTROPHES: Key<&'static str> = Key::one_of(
    "apostrophes",
    &["keep", "part"],
    "`keep`: words with apostrophes stay whole (`don't`); `part`: they are split",
)
.or("keep");

const NUMBERS: Key<&'static str> = Key::one_of(
    "numbers",
    &["keep", "part"],
    "`keep`: numbers with separators stay whole (`3,000.5`); `part`: they are split",
)
.or("keep");

const PUNCTUATION: Key<&'static str> = Key::one_of(
    "punctuation",
    &["keep", "leave"],
    "`leave`: punctuation marks separate tokens but are not tokens",
)
.or("keep");

pub(crate) const HASHTAGS: Key<&'static str> = Key::one_of(
    "hashtags",
    &["keep", "part"],
    "for `posts`: hashtags stay whole, or are split at capitals, digits and `_` (`#` `Sea` `Wall`)",
)
.or("keep");

const SCRIPTS: Key<&'static str> = Key::one_of("scripts", &["dictionary", "unicode"], "how scripts without spaces between words (Chinese, Japanese, Thai, Lao, Khmer, Burmese) are split: by a dictionary, or letter by letter as in Unicode's rules").or("dictionary");

const PATTERN: Key<String> = Key::text("pattern", "the regular expression of `into = \"pattern\"`");

const MATCHES: Key<&'static str> = Key::one_of(
    "matches",
    &["tokens", "gaps"],
    "whether the pattern matches the tokens, or the gaps between them",
)
.or("tokens");

const SIZE: Key<u64> = Key::whole("size", 1, 100, "for `into = \"characters\"`: how many characters a token has; tokens of more than one overlap, and stay within words").or("1");

const RULES: Key<&'static str> = Key::one_of("rules", &["careful", "unicode"], "how sentences are found: `careful` knows abbreviations and initials in several languages; `unicode` uses Unicode's default rules").or("careful");

pub(crate) const SENTENCES: Key<bool> = Key::truth(
    "sentences",
    "records the sentence of each token, and writes each sentence of the cleaned text on its own line",
)
.or("false");

pub(crate) const GROUP: Key<u64> = Key::whole(
    "group",
    1,
    1_000_000_000,
    "joins this many tokens into one: groups of words or of sentences. The last group may be smaller. Punctuation marks are not counted and stay with their words",
);

const LANGUAGE: Key<String> =
    Key::text("language", "the language of clitics and abbreviations, if not that of the recipe");

pub(crate) static SPLIT: Operation = Operation {
    name: "split",
    stage: Stage::Split,
    about: "splits the text into tokens",
    keys: &[
        &INTO.facts,
        &HYPHENS.facts,
        &APOSTROPHES.facts,
        &NUMBERS.facts,
        &PUNCTUATION.facts,
        &HASHTAGS.facts,
        &SCRIPTS.facts,
        &PATTERN.facts,
        &MATCHES.facts,
        &SIZE.facts,
        &RULES.facts,
        &SENTENCES.facts,
        &GROUP.facts,
        &LANGUAGE.facts,
    ],
    example: "into = \"words\"",
    roles: &[],
    learns: None,
    build: |settings| Ok(Built::Split(splitter(settings)?)),
};

fn splitter(settings: &Settings) -> Result<Box<dyn Splitter>, SettingsError> {
    let language = settings.language();
    let into = settings.get(&INTO).unwrap_or("words");
    let words = Words { without_dictionary: settings.get(&SCRIPTS) == Some("unicode") };
    let careful = settings.get(&RULES) != Some("unicode");
    let sentences = || -> Box<dyn Splitter> {
        if careful { Box::new(Sentences::of(language)) } else { Box::new(UnicodeSentences) }
    };
    let needs = |key: &KeyFacts, of: &[&str]| match settings.has(key) && !of.contains(&into) {
        true => Err(SettingsError::key(
            key,
            format!(
                "`{}` is for `into = \"{}\"`, and this splits into `{into}`",
                key.name,
                of.join("\"`, `\"")
            ),
        )),
        false => Ok(()),
    };
    needs(&PATTERN.facts, &["pattern"])?;
    needs(&MATCHES.facts, &["pattern"])?;
    needs(&SIZE.facts, &["characters"])?;
    needs(&HASHTAGS.facts, &["posts"])?;
    for key in [&HYPHENS.facts, &APOSTROPHES.facts, &NUMBERS.facts, &PUNCTUATION.facts] {
        needs(key, &["words", "spaces", "clitics", "posts"])?;
    }
    let base: Box<dyn Splitter> = match into {
        "spaces" => Box::new(Spaces),
        "clitics" => Box::new(Clitics::of(language).with_words(words)),
        "posts" => Box::new(Posts::of(language, settings.get(&HASHTAGS) == Some("part")).with_words(words)),
        "pattern" => {
            let written = settings
                .get(&PATTERN)
                .ok_or_else(|| SettingsError::key(&INTO.facts, "`into = \"pattern\"` needs a `pattern`"))?;
            Box::new(Pattern {
                pattern: compiled_pattern("pattern", written).map_err(SettingsError::at(&PATTERN.facts))?,
                gaps: settings.get(&MATCHES) == Some("gaps"),
            })
        }
        "characters" => {
            let size = settings.get(&SIZE).and_then(|size| usize::try_from(size).ok()).unwrap_or(1);
            if size > 1 && settings.has(&GROUP.facts) {
                let why = "`group` joins characters only where `size` is 1";
                return Err(SettingsError::key(&GROUP.facts, why));
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
            .get(&HYPHENS)
            .map(|choice| if choice == "keep" { Joint::Keep } else { Joint::Part }),
        part_apostrophes: settings.get(&APOSTROPHES) == Some("part"),
        part_numbers: settings.get(&NUMBERS) == Some("part"),
        leave_punctuation: settings.get(&PUNCTUATION) == Some("leave"),
    };
    let plain = refined.hyphens.is_none()
        && !refined.part_apostrophes
        && !refined.part_numbers
        && !refined.leave_punctuation;
    let base = if plain { refined.of } else { Box::new(refined) };
    let base: Box<dyn Splitter> = match settings.get(&GROUP).and_then(|size| usize::try_from(size).ok()) {
        Some(size) => Box::new(Groups { of: base, size }),
        None => base,
    };
    // Sentences that are tokens are numbered without being asked for.
    let numbered = settings.get(&SENTENCES) == Some(true) || into == "sentences";
    Ok(if numbered { Box::new(Numbered { of: base, sentences: sentences() }) } else { base })
}
