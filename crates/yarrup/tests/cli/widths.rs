//! What is printed for people fits the width that they have, whatever documents, fields and recipes are called.

use unicode_width::UnicodeWidthStr;

use crate::home::Home;

/// Words as documents have them: wide, long, of no width, from right to left.
const WORDS: [&str; 14] = [
    "tern",
    "gull",
    "海鸟",
    "観察日誌",
    "Möwenbeobachtungsstation",
    "👩\u{200d}👩\u{200d}👧",
    "a\u{301}\u{301}",
    "שלום",
    "مرحبا",
    "นกนางนวล",
    "pneumonoultramicroscopicsilicovolcanoconiosispneumonoultramicroscopic",
    "https://example.org/a/very/long/path/that/goes/on?and=on",
    "don't",
    "naïve",
];

fn hostile_home() -> Home {
    let mut lines = String::new();
    for number in 0..60usize {
        let words: Vec<&str> =
            (0..3 + number * 7 % 40).map(|at| WORDS[(number * 5 + at * (at + 3)) % WORDS.len()]).collect();
        let sites = ["North Spit", "砂州の観察小屋", &"x".repeat(80)];
        let document = serde_json::json!({
            "id": format!("id-{number}-{}", "長い名前".repeat(number % 5)),
            "text": words.join(" "),
            "site": (sites[number % 3]),
            "a very long field name that goes on": number * 1_000_003,
            "rating": number % 5,
        });
        lines.push_str(&format!("{document}\n"));
    }
    let recipe = |method: &str| {
        format!(
            "recipe = \"hostile\"\nlanguage = \"en\"\n[[step]]\ndo = \"case\"\nlabel = \"a label that is rather long for a column\"\n\
             [[step]]\ndo = \"split\"\n[[step]]\ndo = \"stopwords\"\nlists = [\"en\"]\n[[step]]\ndo = \"stem\"\nmethod = \"{method}\"\n"
        )
    };
    let home = Home::new()
        .file("notes.jsonl", lines)
        .file("one.toml", recipe("porter2"))
        .file("other.toml", recipe("porter"));
    home.done("run one.toml notes.jsonl --out one");
    home.done("run other.toml notes.jsonl --out other");
    home
}

/// The numbers of several parts in a text, such as 1,234 and 5.6.
fn numbers(text: &str) -> impl Iterator<Item = &str> {
    let runs = text.split(|c: char| !c.is_ascii_digit() && !matches!(c, ',' | '.'));
    runs.map(|run| run.trim_matches([',', '.'])).filter(|run| run.contains([',', '.']))
}

#[test]
fn nothing_is_wider_than_the_screen_and_numbers_stay_whole() {
    let home = hostile_home();
    for command in [
        "look notes.jsonl",
        "look notes.jsonl --documents 1,longest",
        "look notes.jsonl --copies",
        "run one.toml notes.jsonl --out again --replace",
        "try one.toml --from notes.jsonl",
        "check one.toml notes.jsonl",
        "terms one",
        "terms one --dropped",
        "find one tern",
        "find one tern --documents",
        "find one tern --whole",
        "find one tern --by site",
        "why one tern",
        "why one 海鸟",
        "suggest one",
        "compare one other",
        "matches notes.jsonl --kinds url",
        "reduce running Möwenbeobachtungsstation --with porter2,porter",
        "shelf",
        "steps",
        "steps split",
        "help recipes",
    ] {
        let whole = home.done_at(command, None);
        for columns in [40, 60, 80, 140] {
            let out = home.done_at(command, Some(columns));
            for line in out.lines() {
                // Commands to copy are not broken, nor is what has no place to break it.
                let can_break = line.trim().contains(' ') && !line.contains(env!("CARGO_BIN_EXE_yarrup"));
                assert!(
                    !can_break || line.width() <= columns,
                    "{command} at {columns}: {} wide: {line}",
                    line.width()
                );
            }
            // Times are others each time.
            for found in out.lines().filter(|line| !line.contains("time of")).flat_map(numbers) {
                assert!(whole.contains(found), "{command} at {columns}: {found} is cut");
            }
        }
    }
}
