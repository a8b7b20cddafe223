//! What tokens are made of, and the recogniser that finds it in text.

mod recognise;
mod set;

pub use recognise::recognise;
pub(crate) use recognise::{emoji_length, recognise_alike, recognise_at};
pub use set::KindSet;

use crate::unicode::{self, Category};

/// What a token is made of.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Kind {
    /// Holds a letter of any script, and is of no kind of its own.
    Word,
    /// A number: digits, with a sign and separators between them.
    Number,
    /// Punctuation marks alone.
    Punctuation,
    /// Symbols, alone or with punctuation marks.
    Symbol,
    /// A pictograph, or several.
    Emoji,
    /// A web address, with a scheme or without.
    Url,
    /// An e-mail address.
    Email,
    /// `@` and a name.
    Mention,
    /// `#` and a word.
    Hashtag,
    /// A face of marks: `:-)`.
    Emoticon,
    /// A day, by numbers or by the name of its month.
    Date,
    /// A time of day.
    Time,
    /// An amount of money.
    Money,
    /// A number of hundredths.
    Percentage,
    /// A number with a unit.
    Measure,
    /// A telephone number.
    Phone,
    /// The path of a file.
    Path,
    /// An address of the Internet Protocol.
    Ip,
    /// The number of a payment card, with a valid check digit.
    Card,
    /// The number of a bank account, with valid check digits.
    Account,
    /// The number of a version: `v1.2`, `2.0.1-rc1`.
    Version,
    /// The number of a book, with a valid check digit.
    Isbn,
    /// The address of a device in a network.
    Mac,
    /// An identifier of 128 bits.
    Uuid,
    /// A place on the map: latitude and longitude.
    Coordinates,
    /// Everything else: digits mixed with marks (`5:`), invisible characters.
    Other,
}

impl Kind {
    /// Every kind, in the order of the reports.
    pub const ALL: [Kind; 26] = [
        Kind::Word,
        Kind::Number,
        Kind::Punctuation,
        Kind::Symbol,
        Kind::Emoji,
        Kind::Url,
        Kind::Email,
        Kind::Mention,
        Kind::Hashtag,
        Kind::Emoticon,
        Kind::Date,
        Kind::Time,
        Kind::Money,
        Kind::Percentage,
        Kind::Measure,
        Kind::Phone,
        Kind::Path,
        Kind::Ip,
        Kind::Card,
        Kind::Account,
        Kind::Version,
        Kind::Isbn,
        Kind::Mac,
        Kind::Uuid,
        Kind::Coordinates,
        Kind::Other,
    ];
    /// The names of [`Kind::ALL`], in the same order, as recipes write them.
    pub const NAMES: &'static [&'static str] = &[
        "word",
        "number",
        "punctuation",
        "symbol",
        "emoji",
        "url",
        "email",
        "mention",
        "hashtag",
        "emoticon",
        "date",
        "time",
        "money",
        "percentage",
        "measure",
        "phone",
        "path",
        "ip",
        "card",
        "account",
        "version",
        "isbn",
        "mac",
        "uuid",
        "coordinates",
        "other",
    ];
    /// A text that is of each kind of [`Kind::ALL`], in the same order, for advice and examples.
    pub const SAMPLES: &'static [&'static str] = &[
        "tern",
        "1,200",
        "!",
        "+",
        "🐦",
        "https://example.org/tides?day=3",
        "warden@example.org",
        "@mira",
        "#terns",
        ":-)",
        "2031-05-17",
        "06:30",
        "£12.50",
        "15%",
        "40km",
        "+44 20 7946 0018",
        "/notes/may/terns.txt",
        "192.0.2.17",
        "4111 1111 1111 1111",
        "GB82 WEST 1234 5698 7654 32",
        "v1.4.2",
        "978-3-16-148410-0",
        "00:00:5e:00:53:af",
        "123e4567-e89b-12d3-a456-426614174000",
        "52.9876, 1.2345",
        "\u{200b}",
    ];

    /// The name of this kind, as recipes and tables write it.
    pub fn name(self) -> &'static str {
        Self::NAMES[self as usize]
    }

    /// The kind with this name.
    pub fn named(name: &str) -> Option<Kind> {
        Self::ALL.into_iter().find(|kind| kind.name() == name)
    }

    /// The kind of a token, told from its spelling alone: that of the recogniser if it finds one in the whole of it, else by
    /// the characters.
    pub fn of(token: &str) -> Kind {
        plain_kind(token.as_bytes()).unwrap_or_else(|| by_rules(token))
    }
}

/// The kind of a token by all rules.
fn by_rules(token: &str) -> Kind {
    // A placeholder of an own pattern is no word, whatever it is called.
    if let Some(name) = token.strip_prefix('<').and_then(|rest| rest.strip_suffix('>')) {
        return Kind::named(unnumbered(name)).filter(|kind| KindSet::FOUND.has(*kind)).unwrap_or(Kind::Other);
    }
    let whole = recognise_at(token, 0).filter(|(_, range)| *range == (0..token.len()));
    whole.map_or_else(|| by_characters(token), |(kind, _)| kind)
}

/// The name of a placeholder without the number of its value: `email` of `email-17`.
fn unnumbered(name: &str) -> &str {
    let bare = name.trim_end_matches(|c: char| c.is_ascii_digit());
    match bare.strip_suffix('-') {
        Some(name_alone) if bare.len() < name.len() => name_alone,
        _ => name,
    }
}

/// Where a placeholder ends that begins at `start` of a text: as it is written, or with the number of a value, `<email-17>` for `<email>`.
pub(crate) fn placeholder_end(text: &str, start: usize, placeholder: &str) -> Option<usize> {
    let open = placeholder.strip_suffix('>')?;
    let rest = text.get(start..)?.strip_prefix(open)?;
    let number = rest.strip_prefix('-').map(|rest| rest.trim_start_matches(|c: char| c.is_ascii_digit()));
    let closed = |rest: &str| rest.starts_with('>').then(|| text.len() - rest.len() + 1);
    closed(rest).or_else(|| number.and_then(closed))
}

/// The kind of what nothing of a kind of its own can be, without a look at the rules: words of letters alone, names with digits and `_` in them, words with
/// apostrophes, and small whole numbers. Most forms are of these.
fn plain_kind(token: &[u8]) -> Option<Kind> {
    let (first, rest) = token.split_first()?;
    if token.iter().all(u8::is_ascii_alphabetic) {
        // Faces of letters are the only other thing that letters alone can be.
        return Some(if matches!(token, b"xD" | b"XD") { Kind::Emoticon } else { Kind::Word });
    }
    let inside = |byte: &u8| byte.is_ascii_alphanumeric() || matches!(byte, b'_' | b'\'');
    // `o_O` and `xD` are faces, and capitals may begin an account or an amount.
    let may_be_face = matches!(rest.first(), Some(b'_' | b'D'));
    let may_begin =
        first.is_ascii_lowercase() || first.is_ascii_uppercase() && !rest.iter().any(u8::is_ascii_digit);
    if may_begin && !may_be_face && rest.iter().all(inside) {
        return Some(Kind::Word);
    }
    (token.len() <= 4 && token.iter().all(u8::is_ascii_digit)).then_some(Kind::Number)
}

fn by_characters(token: &str) -> Kind {
    let mut seen = [false; 6];
    let (number, punctuation, symbol, emoji, other) = (0, 1, 2, 3, 4);
    for c in token.chars() {
        if unicode::is_letter(c) {
            return Kind::Word;
        }
        let kind = match unicode::category(c) {
            // A combining keycap makes an emoji of the digit before it; U+FE0F asks for the pictograph.
            Category::Mark if c == '\u{20e3}' || c == '\u{fe0f}' => emoji,
            Category::Mark | Category::SpacingMark | Category::Format => continue,
            Category::Digit | Category::OtherNumber => number,
            Category::Punctuation => punctuation,
            _ if unicode::is_emoji(c) => emoji,
            Category::Symbol | Category::ModifierSymbol => symbol,
            _ => other,
        };
        seen[kind] = true;
    }
    if seen[emoji] {
        Kind::Emoji
    } else if seen[number] || seen[other] {
        Kind::Other
    } else if seen[symbol] {
        Kind::Symbol
    } else if seen[punctuation] {
        Kind::Punctuation
    } else {
        Kind::Other
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn kinds_are_told_from_spelling() {
        let table = [
            (
                Kind::Word,
                &["nest", "don't", "3rd", "Übung", "птица", "鳥", "B12", "ｱ", "e.g", "nest-box", "n't"][..],
            ),
            (Kind::Number, &["7", "-3", "+4.5", "1,000,000", "3.14", "−2", "١٢٫٥", "½", "1'000", "²"]),
            (Kind::Punctuation, &[".", "…", "“", "¿", "—", "?!", "、", "..."]),
            (Kind::Symbol, &["$", "+", "©", "→", "<"]),
            (Kind::Emoji, &["🐦", "👩\u{200d}🔬", "☀\u{fe0f}", "3\u{fe0f}\u{20e3}", "🇫🇷", "🐦🐦"]),
            (Kind::Other, &["5.", "1..2", "\u{200b}", "\u{1}", "(5)", "1/2:"]),
            (Kind::Time, &["12:30"]),
            (Kind::Url, &["<url>", "example.org"]),
            (Kind::Email, &["<email-17>"]),
            (Kind::Other, &["<ticket>", "<ticket-3>"]),
        ];
        for (kind, tokens) in table {
            for token in tokens {
                assert_eq!(Kind::of(token), kind, "{token:?}");
            }
        }
    }

    proptest! {
        #[test]
        fn the_kind_of_a_token_is_what_the_recogniser_finds_in_all_of_it(
            token in "[a-zA-Z0-9]{1,3}([-._:/@#+,'’% ]|//)?[a-zA-Z0-9éß鳥€😀]{0,4}([-._:/@)%]|\\PC)?[a-z0-9]{0,3}|\\PC{1,6}",
        ) {
            let mut whole = None;
            recognise(&token, |kind, range| whole = (range == (0..token.len())).then_some(kind).or(whole));
            prop_assume!(!token.starts_with('<'));
            prop_assert_eq!(Kind::of(&token), whole.unwrap_or_else(|| by_characters(&token)));
        }
    }

    #[test]
    fn what_needs_no_rules_is_of_the_kind_that_they_give() {
        let numbers = (1..=4).flat_map(|digits| {
            (0..10u32.pow(digits)).map(move |n| format!("{n:0digits$}", digits = digits as usize))
        });
        let names = [
            "foo_bar", "o_O", "xD", "aD4", "don't", "o'", "v2", "x'_'", "u8", "p'D", "mAh", "i18n", "a__",
            "e2e4",
        ];
        for token in numbers.chain(names.map(str::to_owned)) {
            if let Some(kind) = plain_kind(token.as_bytes()) {
                assert_eq!(kind, by_rules(&token), "{token}");
            }
        }
    }

    proptest! {
        #[test]
        fn plain_tokens_are_of_the_kind_that_the_rules_give(token in "[a-zA-Z][a-zA-Z0-9_']{0,24}") {
            let expected = by_rules(&token);
            prop_assert_eq!(plain_kind(token.as_bytes()).unwrap_or(expected), expected);
        }
    }

    #[test]
    fn placeholders_end_with_or_without_a_number() {
        let end = |text: &str| placeholder_end(text, 1, "<email>").map(|end| text[1..end].to_owned());
        assert_eq!(end("a<email> b").as_deref(), Some("<email>"));
        assert_eq!(end("a<email-17>b>").as_deref(), Some("<email-17>"));
        for other in ["a<email-17", "a<emails>", "a<email-x>", "a<email17>", "a<email"] {
            assert_eq!(end(other), None, "{other}");
        }
    }

    #[test]
    fn names_samples_and_kinds_agree() {
        for kind in Kind::ALL {
            assert_eq!(Kind::named(kind.name()), Some(kind));
            assert_eq!(Kind::of(Kind::SAMPLES[kind as usize]), kind);
        }
    }
}
