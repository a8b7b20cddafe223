//! The laws of the text steps and the splitters, over random texts: what a step's page says of it is so.

use proptest::prelude::*;
use yarrup_core::split::{
    Characters, Clitics, Lines, Paragraphs, Posts, Sentences, Spaces, Splitter, UnicodeSentences, Words,
};
use yarrup_core::step::Stage;
use yarrup_core::unicode::{Category, category};
use yarrup_core::{NoFields, NoFiles, OPERATIONS, Outputs, Pipeline, Span, Worker, recipe};

fn compiled(recipe: &str) -> Pipeline {
    let recipe = recipe::read(recipe).unwrap_or_else(|faults| panic!("{recipe}: {faults:?}"));
    Pipeline::compile(&recipe, &NoFiles).unwrap_or_else(|faults| panic!("{faults:?}"))
}

/// What text steps make of a text.
fn rewritten(pipeline: &Pipeline, text: &str) -> String {
    let mut worker = Worker::new(pipeline, Outputs { clean: true, tokens: false, ends: false });
    worker.document(text, &NoFields).clean.to_owned()
}

/// Texts of words, marks, signs and odd characters.
fn texts() -> impl Strategy<Value = String> {
    const PIECES: &[&str] = &[
        "tern",
        "Terns",
        "don't",
        "it’s",
        "I'd",
        "'tis",
        "shouldn't've",
        "https://example.org/a?b=1",
        "warden@example.org",
        "@mira",
        "#SeaWall",
        ":-)",
        "🐦",
        "👩\u{200d}🔬",
        "17 May 2031",
        "06:30",
        "£5.50",
        "15 %",
        "40 km",
        "3,000.5",
        "<b>",
        "</p>",
        "&amp;",
        "&lt;",
        "<url>",
        "soooo",
        "!!!",
        "…",
        "...",
        "“",
        "”",
        "«",
        "—",
        "–",
        "-",
        "nest-box",
        "breed-\ning",
        "e\u{301}",
        "Ã©",
        "ﬁ",
        "Straße",
        "Ångström",
        "ΟΔΟΣ",
        "İ",
        "ёлка",
        "鳥の巣",
        "ไทย",
        "\u{200b}",
        "\u{ad}",
        "\u{7}",
        "Dr.",
        "e.g.",
        "U.S.",
        "p.m.",
        "J.",
        "1.",
        "The",
        "it.",
        "He",
        "\"",
        "'",
        "(",
        ")",
        "`",
        "´",
        "¯\\_(ツ)_/¯",
        "+44 20 7946 0018",
        "\u{fe0f}",
        "가",
        "\u{1100}\u{1161}",
        "x",
        "AB",
        "> quote",
        "-- ",
        "\u{344}",
    ];
    const GAPS: &[&str] = &[" ", " ", " ", "", "\n", "\n\n", "\u{a0}", "  ", "\t", ". ", ", "];
    let piece = (prop::sample::select(PIECES), prop::sample::select(GAPS));
    prop::collection::vec(piece, 0..14)
        .prop_map(|pieces| pieces.into_iter().map(|(word, gap)| format!("{word}{gap}")).collect())
}

/// More settings of operations than their examples.
const MORE: &[(&str, &str)] = &[
    ("unicode", "form = \"nfkc\"\nrepair = true"),
    ("unicode", "form = \"nfkd\""),
    ("unicode", "form = \"nfd\"\nquotes = false\ndashes = false"),
    (
        "mask",
        "kinds = [\"url\", \"email\", \"mention\", \"hashtag\", \"emoticon\", \"emoji\", \"date\", \"time\", \"money\", \"percentage\", \"measure\", \"phone\", \"number\"]",
    ),
    ("contractions", "unclear = \"is\"\nmissing = true"),
    ("case", "to = \"upper\""),
    ("case", "to = \"fold\""),
    ("case", "to = \"lower\"\nlanguage = \"tr\""),
    ("case", "spare_acronyms = true"),
    ("accents", ""),
    ("accents", "exceptions = \"language\"\nlanguage = \"sv\""),
    (
        "erase",
        "classes = [\"punctuation\", \"symbols\", \"digits\", \"emoji\", \"control\"]\nto = \"nothing\"",
    ),
    ("erase", "classes = [\"punctuation\"]\ninside_words = [\"apostrophes\", \"hyphens\", \"points\"]"),
    ("repeats", "letters = 1\nmarks = 2"),
    ("spaces", "lines = \"keep\""),
];

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]

    /// Every operation whose page says that doing it twice changes nothing.
    #[test]
    fn steps_are_idempotent_where_their_page_says_so(text in texts()) {
        for operation in OPERATIONS.iter().filter(|operation| operation.about.contains("Doing it twice changes nothing.")
            || operation.about.ends_with("Doing it twice changes nothing"))
        {
            let more = MORE.iter().filter(|(name, _)| *name == operation.name).map(|(_, settings)| *settings);
            for settings in more.chain([operation.example]) {
                let pipeline = compiled(&format!("[[step]]\ndo = \"{}\"\n{settings}\n", operation.name));
                let once = rewritten(&pipeline, &text);
                prop_assert_eq!(&rewritten(&pipeline, &once), &once, "{} {}", operation.name, settings);
            }
        }
    }

    /// Words that white space parts stay parted, whatever is erased or masked between them.
    #[test]
    fn nothing_is_joined_that_a_space_parted(pieces in prop::collection::vec(texts(), 1..4)) {
        // Marker words that no step touches, with white space around each.
        let text: String = pieces.iter().enumerate().map(|(n, piece)| format!(" zq{}qz {piece} ", "abcd".as_bytes()[n] as char)).collect();
        for step in [
            "do = \"erase\"\nclasses = [\"punctuation\", \"symbols\", \"digits\", \"emoji\", \"marks\"]\nto = \"nothing\"",
            "do = \"mask\"\nkinds = [\"url\", \"email\", \"mention\", \"date\", \"time\", \"money\", \"phone\", \"number\"]\nto = \"nothing\"",
            "do = \"mask\"\nkinds = [\"hashtag\", \"emoticon\", \"emoji\"]\nto = \"space\"",
            "do = \"repeats\"",
            "do = \"unicode\"",
        ] {
            let cleaned = rewritten(&compiled(&format!("[[step]]\n{step}\n")), &text);
            for n in 0..pieces.len() {
                let marker = format!("zq{}qz", "abcd".as_bytes()[n] as char);
                let at = cleaned.find(&marker).expect("the marker is still there");
                let around = |c: Option<char>| c.is_none_or(char::is_whitespace);
                prop_assert!(around(cleaned[..at].chars().next_back()) && around(cleaned[at + marker.len()..].chars().next()), "{} {:?}", step, cleaned);
            }
        }
    }

    /// Every splitter gives all of the text but white space and what nobody sees, in order, on character borders.
    #[test]
    fn splitting_loses_nothing_but_what_nobody_sees(text in texts()) {
        let splitters: [(&str, Box<dyn Splitter>); 11] = [
            ("words", Box::new(Words::default())),
            ("words by rules", Box::new(Words { without_dictionary: true })),
            ("spaces", Box::new(Spaces)),
            ("clitics", Box::new(Clitics::of(Some("en")))),
            ("clitics fr", Box::new(Clitics::of(Some("fr")))),
            ("posts", Box::new(Posts::of(None, true))),
            ("characters", Box::new(Characters { size: 1 })),
            ("sentences", Box::new(Sentences::of(None))),
            ("unicode sentences", Box::new(UnicodeSentences)),
            ("paragraphs", Box::new(Paragraphs)),
            ("lines", Box::new(Lines)),
        ];
        // What nobody sees may be part of a word, and is no token by itself.
        let is_seen = |c: &char| !c.is_whitespace() && !c.is_control() && category(*c) != Category::Format;
        let solid = |text: &str| text.chars().filter(is_seen).collect::<String>();
        for (name, splitter) in splitters {
            let mut spans: Vec<Span> = Vec::new();
            splitter.split(&text, &mut spans);
            let tokens: Vec<&str> = spans.iter().map(|span| span.of(&text)).collect();
            let mut end = 0;
            for (span, token) in spans.iter().zip(&tokens) {
                prop_assert!(span.start >= end && !token.trim().is_empty(), "{} {:?}", name, tokens);
                end = span.end;
            }
            // The sign between the parts of a hashtag is the one thing that is let go.
            let expected = if name == "posts" { solid(&text).replace('_', "") } else { solid(&text) };
            let joined = if name == "posts" { solid(&tokens.concat()).replace('_', "") } else { solid(&tokens.concat()) };
            prop_assert_eq!(joined, expected, "{}", name);
        }
    }

    /// A text that a step does not change is not copied: it is the very same bytes, and no place is counted.
    #[test]
    fn what_changes_nothing_matches_nothing(text in texts()) {
        for operation in OPERATIONS.iter().filter(|operation| matches!(operation.stage, Stage::Text | Stage::TextOrToken)) {
            let pipeline = compiled(&format!("[[step]]\ndo = \"{}\"\n{}\n", operation.name, operation.example));
            let trace = pipeline.trace(&text, &NoFields);
            let step = &trace.text_steps[0];
            prop_assert_eq!(step.matches == 0, step.text == text, "{}", operation.name);
            let mut rewriter = pipeline.rewriter();
            let same_bytes = rewriter.rewrite(&text, &NoFields).as_ptr() == text.as_ptr();
            prop_assert_eq!(same_bytes, step.matches == 0, "{}", operation.name);
        }
    }
}
