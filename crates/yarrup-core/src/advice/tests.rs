use crate::advice::{check, mend};
use crate::recipe::read;
use crate::testing;

fn codes(steps: &[&str]) -> Vec<(&'static str, usize)> {
    let text = recipe(steps);
    let read = read(&text).expect("no mistakes");
    check(&read, &testing::pipeline(&text)).into_iter().map(|advice| (advice.code, advice.step)).collect()
}

fn recipe(steps: &[&str]) -> String {
    steps.iter().map(|step| format!("[[step]]\ndo = {}\n\n", step.replace("; ", "\n"))).collect()
}

const ERASE: &str = "\"erase\"; classes = [\"punctuation\"]";
const GLUE: &str =
    "\"erase\"; classes = [\"punctuation\"]; to = \"nothing\"; inside_words = [\"apostrophes\"]";

type Case = (&'static [&'static str], &'static [(&'static str, usize)]);

/// Orders that cannot work, with what is told of them.
const WRONG: &[Case] = &[
    (
        &[
            "\"erase\"; classes = [\"punctuation\"]; inside_words = [\"apostrophes\"]",
            "\"mask\"; kinds = [\"url\", \"email\"]",
            "\"split\"",
        ],
        &[("never-finds", 2)],
    ),
    (&["\"erase\"; classes = [\"symbols\"]", "\"markup\"", "\"split\""], &[("never-finds", 2)]),
    (&["\"spaces\"", "\"lines\"; rejoin = true", "\"split\""], &[("never-finds", 2)]),
    (&["\"case\"", "\"unicode\"; repair = true", "\"split\""], &[("never-finds", 2)]),
    (&["\"split\"", "\"drop\"; kinds = [\"url\", \"punctuation\"]"], &[("kinds-never-arrive", 2)]),
    (
        &["\"split\"", "\"stopwords\"; lists = [\"en\"]; case = \"exact\"", "\"case\""],
        &[("case-after-list", 2)],
    ),
    (
        &[
            "\"erase\"; classes = [\"punctuation\"]; inside_words = [\"apostrophes\"]",
            "\"split\"; into = \"sentences\"",
        ],
        &[("sentences-lost", 2)],
    ),
    (&["\"case\"", "\"split\"; sentences = true"], &[("sentences-lost", 2)]),
    (
        &[
            "\"erase\"; classes = [\"punctuation\"]; inside_words = [\"apostrophes\"]",
            "\"split\"; into = \"posts\"",
        ],
        &[("signs-lost", 2)],
    ),
    (&[GLUE, "\"split\""], &[("joined-words", 1)]),
    (&[ERASE, "\"split\""], &[("contraction-tails", 1)]),
    (
        &["\"split\"; apostrophes = \"part\"", "\"drop\"; kinds = [\"punctuation\"]"],
        &[("contraction-tails", 1)],
    ),
    (&["\"spaces\"", "\"lines\"; drop = ['^--']", "\"split\""], &[("never-finds", 2)]),
    (&["\"split\"; into = \"sentences\"", "\"stopwords\"; lists = [\"en\"]"], &[("words-not-split", 2)]),
    (&["\"case\"; to = \"upper\"", "\"split\"", "\"stem\""], &[("never-finds", 3)]),
    (&["\"case\"", "\"split\"", "\"stem\"; spare = [\"US\", \"tern\"]"], &[("unreachable-entries", 3)]),
    (&["\"split\"", "\"stem\"", "\"stem\"; method = \"porter\""], &[("two-reducers", 3)]),
    (&["\"spaces\"", "\"mask\"; kinds = [\"url\"]; to = \"nothing\""], &[("spaces-too-early", 1)]),
    (&["\"split\"", "\"stopwords\"; lists = [\"en\"]", "\"tag\""], &[("tags-lost", 3)]),
    (
        &[
            "\"erase\"; classes = [\"punctuation\"]; inside_words = [\"apostrophes\"]",
            "\"split\"",
            "\"ngrams\"",
        ],
        &[("borders-lost", 3)],
    ),
    (
        &[
            "\"split\"",
            "\"stopwords\"; lists = [\"en\"]",
            "\"phrases\"; add = [\"the wash\", \"birds of prey\"]",
        ],
        &[("unreachable-entries", 3)],
    ),
    (
        &["\"erase\"; classes = [\"punctuation\"]; inside_words = [\"apostrophes\"]", "\"split\"", "\"tag\""],
        &[("tags-lost", 3)],
    ),
];

#[test]
fn wrong_orders_are_told() {
    let mut wrong = Vec::new();
    for (steps, expected) in WRONG {
        let found = codes(steps);
        if found != *expected {
            wrong.push(format!("{steps:?}\n  {found:?}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn languages_are_compared() {
    let text = "language = \"de\"\n[[step]]\ndo = \"stopwords\"\nlists = [\"en\"]\n[[step]]\ndo = \"stem\"\nmethod = \"porter\"\n";
    let found = check(&read(text).expect("read"), &testing::pipeline(text));
    assert_eq!(found.iter().map(|advice| advice.code).collect::<Vec<_>>(), ["languages-disagree"; 2]);
    let only = text
        .replace("lists = [\"en\"]", "lists = [\"en\"]\nonly = { language = \"en\" }")
        .replace("\"stem\"\n", "\"stem\"\nonly = { language = \"en\" }\n");
    assert_eq!(check(&read(&only).expect("read"), &testing::pipeline(&only)), []);
}

#[test]
fn good_orders_get_no_advice() {
    let good: &[&[&str]] = &[
        &[
            "\"unicode\"",
            "\"markup\"",
            "\"mask\"; kinds = [\"url\", \"email\"]",
            "\"contractions\"",
            "\"case\"",
            "\"split\"",
            "\"stopwords\"; lists = [\"en\"]",
            "\"stem\"",
        ],
        &[
            "\"mask\"; kinds = [\"url\"]",
            "\"erase\"; classes = [\"punctuation\"]; inside_words = [\"apostrophes\"]",
            "\"split\"",
            "\"stopwords\"; lists = [\"en\"]",
        ],
        &[
            "\"contractions\"",
            "\"erase\"; classes = [\"punctuation\"]; inside_words = [\"apostrophes\"]",
            "\"case\"",
            "\"split\"",
            "\"drop\"; shorter_than = 2",
        ],
        &[
            "\"split\"; into = \"posts\"",
            "\"drop\"; kinds = [\"url\", \"mention\", \"punctuation\"]",
            "\"case\"",
            "\"stopwords\"; lists = [\"en\"]",
        ],
        &["\"split\"; into = \"sentences\""],
        &["\"split\"; into = \"clitics\"", "\"case\"", "\"stopwords\"; lists = [\"en\"]"],
        &[
            "\"unicode\"",
            "\"contractions\"",
            "\"erase\"; classes = [\"punctuation\"]",
            "\"split\"",
            "\"stopwords\"; lists = [\"en\"]",
        ],
        &["\"split\"; sentences = true", "\"case\"", "\"stopwords\"; lists = [\"en\"]"],
        &["\"markup\"", "\"lines\"; rejoin = true; unwrap = true", "\"spaces\""],
        &["\"case\"", "\"split\"; into = \"clitics\"", "\"drop\"; kinds = [\"punctuation\"]"],
        &["\"unicode\"; form = \"nfkc\"", "\"accents\"", "\"case\"", "\"split\""],
        &[
            "\"erase\"; classes = [\"punctuation\", \"digits\"]; to = \"space\"; spare = [\"'\", \"’\", \"-\"]",
            "\"spaces\"",
        ],
        &["\"split\"; into = \"spaces\"", "\"case\"", "\"stopwords\"; lists = [\"en\"]"],
        &["\"repeats\"", "\"mask\"; kinds = [\"mention\", \"hashtag\"]", "\"split\"; into = \"posts\""],
        &["\"split\"; into = \"characters\"; size = 3"],
        &["\"split\"", "\"drop\"; kinds = [\"number\", \"date\", \"time\", \"percentage\", \"punctuation\"]"],
        &["\"unicode\"", "\"split\"; into = \"paragraphs\""],
    ];
    for steps in good {
        assert_eq!(codes(steps), [], "{steps:?}");
    }
}

#[test]
fn advice_can_be_mended_and_allowed() {
    for (steps, expected) in WRONG {
        let text = recipe(steps);
        let parsed = read(&text).expect("read");
        let advice = check(&parsed, &testing::pipeline(&text));
        let mut mended = text.clone();
        for fix in advice.iter().flat_map(|advice| &advice.fixes) {
            let Some(change) = &fix.change else { continue };
            mended =
                mend(&mended, &read(&mended).expect("read"), change).expect("a recipe that can be changed");
        }
        if mended != text {
            let left = check(
                &read(&mended).unwrap_or_else(|faults| panic!("{mended}: {faults:?}")),
                &testing::pipeline(&mended),
            );
            assert_eq!(left, [], "{mended}");
        }
        let allow = |mut text: String| {
            for (code, _) in *expected {
                text = format!("allow = [\"{code}\"]\n{text}");
            }
            text
        };
        let allowed = allow(text);
        assert_eq!(check(&read(&allowed).expect("read"), &testing::pipeline(&allowed)), [], "{allowed}");
    }
}
