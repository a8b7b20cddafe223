//! What a stretch of text is does not depend on what stands around it.

use yarrup_core::{Kind, recognise};

const CASES: &[(Kind, &[&str])] = &[
    (
        Kind::Url,
        &[
            "https://example.org",
            "https://example.org/",
            "https://example.org/a/b.html",
            "http://example.org/a?x=1&y=2#top",
            "www.example.org/tides",
            "https://example.org/wiki/Tern_(bird)",
            "ftp://files.example.net/x.zip",
            "https://example.org:8443/a",
            "https://example.org/%C3%A9t%C3%A9",
            "https://example.org/~mira/",
            "example.com",
            "https://192.0.2.1/x",
            "https://例え.jp/海",
        ],
    ),
    (Kind::Email, &["warden@example.org", "first.last+tag@sub.example.co.uk", "a_b@example.org", "j@x.io"]),
    (Kind::Mention, &["@mira", "@bo_2", "@mira@birds.example.org"]),
    (Kind::Hashtag, &["#terns", "#SeaWall", "#été", "#2031Season", "#птицы", "#海鳥"]),
    (Kind::Emoji, &["🐦", "👩\u{200d}🔬", "🇫🇷", "3\u{fe0f}\u{20e3}", "☀\u{fe0f}", "👍🏽"]),
    (
        Kind::Date,
        &[
            "2031-05-17",
            "17.05.2031",
            "17/5/31",
            "17 May 2031",
            "May 17, 2031",
            "17th of May 2031",
            "17. Mai 2031",
            "17 mai 2031",
            "17 de mayo de 2031",
            "May 2031",
            "3 June",
            "June 3rd",
            "2031-05-17T06:30:00Z",
            "3–5 May 2031",
            "17 мая 2031",
            "17 maggio 2031",
            "17 mei 2031",
            "17 maja 2031",
            "2031年5月17日",
            "5月17日",
            "2031년 5월 17일",
            "2031 May 17",
            "17. května 2031",
            "17. toukokuuta",
            "17 июня",
            "3 juin",
            "12 de mayo",
            "17 d'abril de 2031",
            "17 Μαΐου 2031",
            "17 Mayıs 2031",
            "17 مايو 2031",
            "Sept. 3, 2031",
            "3 Dec 2031",
        ],
    ),
    (
        Kind::Time,
        &[
            "06:30",
            "6:30 am",
            "6.30 p.m.",
            "10am",
            "18:04:09",
            "18h30",
            "18 Uhr",
            "06:30–08:00",
            "9am-5pm",
            "18時30分",
            "18时",
            "6시 30분",
        ],
    ),
    (
        Kind::Money,
        &[
            "$5",
            "€ 5.50",
            "£3m",
            "5 €",
            "5,00€",
            "EUR 5",
            "20 euros",
            "US$5.50",
            "$1,000.50",
            "5 USD",
            "¥500",
            "₹1,00,000",
            "$3 million",
            "100元",
            "3,000円",
            "5000원",
            "200 рублей",
            "50 zł",
        ],
    ),
    (
        Kind::Percentage,
        &["5%", "5.5 %", "12 percent", "12 per cent", "3‰", "20 Prozent", "50 %", "5％", "5 процентов"],
    ),
    (
        Kind::Measure,
        &[
            "5km", "5 km", "3.5 m", "20 °C", "40 km/h", "12 m²", "250g", "3 kg", "5 GB", "100 mg", "5 км",
            "3公里", "2 кг",
        ],
    ),
    (
        Kind::Phone,
        &[
            "+44 20 7946 0018",
            "(020) 7946 0018",
            "020 7946 0018",
            "555-010-0199",
            "(555) 010-0199",
            "+1-555-010-0199",
            "07700 900123",
            "+442079460018",
        ],
    ),
    (
        Kind::Path,
        &[
            "/usr/share/terns",
            "~/notes/may.txt",
            "./data/cards.csv",
            "C:\\notes\\may.txt",
            "notes/may.txt",
            "../a/b",
        ],
    ),
    (Kind::Number, &["7", "1,000,000", "3.14", "١٢٫٥", "½", "1'000", "15.000.000", "2031"]),
    (Kind::Ip, &["192.0.2.1", "192.0.2.1:8080", "2001:db8::1", "fe80::1", "192.0.2.0/24"]),
    (Kind::Card, &["4111 1111 1111 1111", "4111111111111111", "5500-0000-0000-0004"]),
    (Kind::Account, &["GB82 WEST 1234 5698 7654 32", "DE89370400440532013000"]),
    (Kind::Version, &["1.4.2", "v1.2", "2.0.1-rc.1", "v0.9.12"]),
    (Kind::Isbn, &["978-3-16-148410-0", "ISBN 978-3-16-148410-0"]),
    (Kind::Mac, &["00:00:5e:00:53:af", "00-00-5E-00-53-AF"]),
    (Kind::Uuid, &["123e4567-e89b-12d3-a456-426614174000"]),
    (Kind::Coordinates, &["52.9876, 1.2345", "52°58′30″N 1°14′04″E"]),
];

const BEFORE: &[&str] = &[
    "",
    "see ",
    "(",
    "\"",
    "“",
    "„",
    "«",
    "« ",
    "— ",
    "–",
    "word, ",
    "word; ",
    "word: ",
    "line\n",
    "[",
    "'",
    "‘",
    "海",
    "ไทย",
    "한국",
    "。",
    "¿",
    "* ",
    "- ",
    "/ ",
    "| ",
    "word—",
    "... ",
    "… ",
    "word. ",
    "{",
    "\t",
    "\u{a0}",
];
const AFTER: &[&str] = &[
    "",
    " word",
    ".",
    ",",
    ")",
    "\"",
    "”",
    "“",
    "»",
    " »",
    "?",
    "!",
    ";",
    ":",
    "…",
    "...",
    "\n",
    "。",
    "、",
    "]",
    "'",
    "’",
    " —",
    "—",
    ". Then",
    ", then",
    "; then",
    "海",
    "를",
    "?!",
    " (word)",
    " /",
    " |",
    ").",
    ".)",
    "\".",
    "}",
    "\t",
    "\u{a0}",
    "'s word",
    "’s word",
];

/// Whether what stands behind a stretch may go on with it: letters of any script with a hashtag or a name in a link, and Korean writes figures and what
/// they count as one word.
fn goes_on(kind: Kind, stretch: &str, after: &str) -> bool {
    let apart = matches!(after, "海" | "를");
    match kind {
        Kind::Hashtag => apart,
        Kind::Url => apart && !stretch.ends_with(|c: char| c.is_ascii_alphanumeric() || c == ')'),
        Kind::Number => after == "를",
        _ => false,
    }
}

/// Whether a sign between such letters names itself, as in `以#号开始的行`.
fn is_sign(stretch: &str, before: &str) -> bool {
    stretch == "#海鳥" && matches!(before, "海" | "ไทย" | "한국")
}

#[test]
fn a_stretch_is_what_it_is_wherever_it_stands() {
    let mut wrong = Vec::new();
    for (kind, stretches) in CASES {
        for stretch in *stretches {
            for before in BEFORE.iter().filter(|before| !is_sign(stretch, before)) {
                for after in AFTER.iter().filter(|after| !goes_on(*kind, stretch, after)) {
                    let text = format!("{before}{stretch}{after}");
                    let mut found = Vec::new();
                    recognise(&text, |kind, place| found.push((kind, place)));
                    if found != [(*kind, before.len()..before.len() + stretch.len())] {
                        let told: Vec<_> =
                            found.iter().map(|(kind, place)| (kind.name(), &text[place.clone()])).collect();
                        wrong.push(format!("{} in {text:?}: {told:?}", kind.name()));
                    }
                }
            }
        }
    }
    assert!(wrong.is_empty(), "{} are wrong:\n{}", wrong.len(), wrong[..wrong.len().min(60)].join("\n"));
}
