//! Random recipes of every stage, and random documents, for the tests of laws.

use std::borrow::Cow;

use proptest::prelude::*;
use yarrup_core::{Fields, NoFiles, Pipeline, recipe};

/// A document with a field.
#[derive(Clone, Debug)]
pub(crate) struct Document {
    pub(crate) text: String,
    pub(crate) site: &'static str,
}

impl Fields for Document {
    fn field(&self, path: &str) -> Option<Cow<'_, str>> {
        (path == "site").then_some(Cow::Borrowed(self.site))
    }
}

fn step(choices: &'static [&'static str]) -> impl Strategy<Value = String> {
    let only = prop_oneof![4 => Just(""), 1 => Just("only = { site = \"spit\" }\n")];
    let spare = prop_oneof![4 => Just(""), 1 => Just("spare = [\"tern\", \"'\"]\n"),
        1 => Just("spare = { kinds = [\"number\"] }\n")];
    (prop::sample::select(choices), only, spare)
        .prop_map(|(step, only, spare)| format!("[[step]]\n{step}\n{only}{spare}"))
}

/// Recipes of every stage, with and without a split.
pub(crate) fn recipes() -> impl Strategy<Value = String> {
    const TEXT: &[&str] = &[
        "do = \"case\"",
        "do = \"case\"\nto = \"upper\"",
        "do = \"erase\"\nclasses = [\"punctuation\"]",
        "do = \"erase\"\nclasses = [\"punctuation\", \"symbols\"]\nto = \"nothing\"",
        "do = \"erase\"\nclasses = [\"digits\", \"emoji\"]\nto = \"nothing\"",
        "do = \"spaces\"",
        "do = \"unicode\"",
        "do = \"unicode\"\nform = \"nfkd\"\nrepair = true",
        "do = \"markup\"",
        "do = \"lines\"\nrejoin = true\nunwrap = true\ndrop = ['^> ']",
        "do = \"mask\"\nkinds = [\"url\", \"email\", \"mention\", \"hashtag\"]",
        "do = \"mask\"\nkinds = [\"number\", \"time\"]\nto = \"nothing\"\npatterns = { code = 'B\\d+' }",
        "do = \"contractions\"",
        "do = \"contractions\"\nunclear = \"drop\"\nmissing = true",
        "do = \"case\"\nto = \"fold\"\nspare_acronyms = true",
        "do = \"accents\"",
        "do = \"accents\"\numlauts = \"e\"",
        "do = \"replace\"\npattern = '(\\w)t'\nwith = '$1'",
        "do = \"replace\"\npairs = { tern = \"bird\", nest = \"\" }\ncase = \"ignore\"",
        "do = \"repeats\"",
    ];
    const TOKEN: &[&str] = &[
        "do = \"case\"",
        "do = \"drop\"\nkinds = [\"punctuation\", \"number\"]",
        "do = \"drop\"\nshorter_than = 2\nlonger_than = 6",
        "do = \"drop\"\ncontains = [\"digits\"]",
        "do = \"stopwords\"\nlists = [\"en\"]\nadd = [\"nest\"]",
        "do = \"stopwords\"\nadd = [\"The\", \"terns\"]\ncase = \"exact\"",
        "do = \"stem\"",
        "do = \"stem\"\nmethod = \"porter\"",
        "do = \"replace\"\npattern = '^[Tt]he$|s$'",
        "do = \"lemma\"\nunknown = \"stem\"",
        "do = \"keep\"\nkinds = [\"word\", \"number\"]",
        "do = \"limit\"\ntop = 9\nknown = [\"tern\", \"the\", \"nest\", \"the_tern\"]",
        "do = \"equate\"\nwords = { terns = \"tern\", the = \"a\" }",
        "do = \"tag\"",
        "do = \"tag\"\n[[step]]\ndo = \"drop\"\ntags = [\"determiner\", \"verb\"]",
        "do = \"label\"\nname = \"bird\"\nadd = [\"tern\", \"the nest\"]\n[[step]]\ndo = \"drop\"\nlabels = [\"bird\"]",
        "do = \"phrases\"\nadd = [\"the tern\", \"nest nesting\"]",
        "do = \"equate\"\nwords = { \"the terns\" = \"tern\", nest = \"home\" }",
        "do = \"ngrams\"\nsize = 2\nsmallest = 1",
        "do = \"ngrams\"\nsize = 2",
        "do = \"unique\"",
        "do = \"documents\"\nmin_tokens = 3",
        "do = \"documents\"\nwithout = [\"the tern\"]\nmax_tokens_before = 12",
    ];
    let split = prop_oneof![
        Just("[[step]]\ndo = \"split\"\n"),
        Just("[[step]]\ndo = \"split\"\ninto = \"spaces\"\n"),
        Just("[[step]]\ndo = \"split\"\nsentences = true\n"),
        Just("[[step]]\ndo = \"split\"\ninto = \"clitics\"\n"),
        Just("[[step]]\ndo = \"split\"\ninto = \"posts\"\nhashtags = \"part\"\nsentences = true\n"),
        Just("[[step]]\ndo = \"split\"\ninto = \"sentences\"\n"),
        Just(
            "[[step]]\ndo = \"split\"\ninto = \"words\"\nhyphens = \"keep\"\npunctuation = \"leave\"\ngroup = 3\n"
        ),
        Just("[[step]]\ndo = \"split\"\ninto = \"pattern\"\npattern = '[A-Z]?[a-z]+'\n"),
        Just("[[step]]\ndo = \"split\"\ninto = \"characters\"\n"),
    ];
    (
        prop::collection::vec(step(TEXT), 0..4),
        prop::option::weighted(0.8, split),
        prop::collection::vec(step(TOKEN), 0..5),
    )
        .prop_filter_map("a recipe has a step", |(text, split, token)| {
            // Without a split in between, `case` on the token side would be a text step behind a token step.
            let token = if split.is_none() {
                token.into_iter().filter(|step| !step.contains("\"case\"\n")).collect()
            } else {
                token
            };
            let recipe = format!("{}{}{}", text.concat(), split.unwrap_or_default(), token.concat());
            (!recipe.is_empty()).then_some(recipe)
        })
}

pub(crate) fn documents() -> impl Strategy<Value = Vec<Document>> {
    const WORDS: &[&str] = &[
        "the",
        "The",
        "THE",
        "tern",
        "Terns",
        "terns",
        "nest",
        "nesting",
        "Nests",
        "don't",
        "don’t",
        "I",
        "3,000",
        "-7",
        "12:30",
        "ÉTÉ",
        "été",
        "ΟΔΟΣ",
        "İn",
        "Straße",
        "🐦",
        "👩‍🔬",
        "3️⃣",
        "…",
        "“",
        "”",
        ".",
        "!",
        "nest-box",
        "鳥の巣",
        "e\u{301}",
        "B12",
        "€",
        "=",
        "under",
        "https://example.org/a",
        "warden@example.org",
        "@mira",
        "#SeaWall",
        ":-)",
        "can't",
        "it's",
        "dont",
        "<b>",
        "</p>",
        "&amp;",
        "sooo",
        "breed-\ning",
        "Dr.",
        "cafÃ©",
        "RSPB",
    ];
    let piece =
        (prop::sample::select(WORDS), prop::sample::select(&[" ", "  ", "\n", "", "\u{a0}", ", "][..]));
    let text = prop::collection::vec(piece, 0..14)
        .prop_map(|pieces| pieces.into_iter().map(|(word, gap)| format!("{word}{gap}")).collect::<String>());
    let document =
        (text, prop::sample::select(&["spit", "hide"][..])).prop_map(|(text, site)| Document { text, site });
    prop::collection::vec(document, 0..8)
}

/// What the recipe makes.
pub(crate) fn compiled(recipe: &str) -> Pipeline {
    let recipe = recipe::read(recipe).unwrap_or_else(|faults| panic!("{faults:?}"));
    Pipeline::compile(&recipe, &NoFiles).unwrap_or_else(|faults| panic!("{faults:?}"))
}
