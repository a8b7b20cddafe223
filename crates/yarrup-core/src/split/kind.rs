use crate::unicode::{self, Category};

/// What a token is made of.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Kind {
    /// Holds a letter of any script.
    Word,
    /// A number: digits, with a sign and separators between them.
    Number,
    /// Punctuation marks alone.
    Punctuation,
    /// Symbols, alone or with punctuation marks.
    Symbol,
    /// A pictograph, or several.
    Emoji,
    /// Everything else: digits mixed with marks (`5%`, `12:30`), invisible characters.
    Other,
}

impl Kind {
    /// Every kind, in the order of the reports.
    pub const ALL: [Kind; 6] =
        [Kind::Word, Kind::Number, Kind::Punctuation, Kind::Symbol, Kind::Emoji, Kind::Other];
    /// The names of [`Kind::ALL`], in the same order, as recipes write them.
    pub const NAMES: &'static [&'static str] = &["word", "number", "punctuation", "symbol", "emoji", "other"];

    /// The name of this kind, as recipes and tables write it.
    pub fn name(self) -> &'static str {
        Self::NAMES[self as usize]
    }

    /// The kind with this name.
    pub fn named(name: &str) -> Option<Kind> {
        Self::ALL.into_iter().find(|kind| kind.name() == name)
    }

    /// The kind of a token, told from its spelling alone.
    pub fn of(token: &str) -> Kind {
        if token.bytes().any(|byte| byte.is_ascii_alphabetic()) {
            return Kind::Word;
        }
        let mut seen = [false; 6];
        for c in token.chars() {
            if unicode::is_letter(c) {
                return Kind::Word;
            }
            let kind = match unicode::category(c) {
                // A combining keycap makes an emoji of the digit before it; U+FE0F asks for the pictograph.
                Category::Mark if c == '\u{20e3}' || c == '\u{fe0f}' => Kind::Emoji,
                Category::Mark | Category::SpacingMark | Category::Format => continue,
                Category::Digit | Category::OtherNumber => Kind::Number,
                Category::Punctuation => Kind::Punctuation,
                _ if unicode::is_emoji(c) => Kind::Emoji,
                Category::Symbol | Category::ModifierSymbol => Kind::Symbol,
                _ => Kind::Other,
            };
            seen[kind as usize] = true;
        }
        let has = |kind: Kind| seen[kind as usize];
        if has(Kind::Emoji) {
            Kind::Emoji
        } else if has(Kind::Number) {
            if is_number(token) { Kind::Number } else { Kind::Other }
        } else if has(Kind::Other) {
            Kind::Other
        } else if has(Kind::Symbol) {
            Kind::Symbol
        } else if has(Kind::Punctuation) {
            Kind::Punctuation
        } else {
            Kind::Other
        }
    }
}

/// Whether `token` is a number: an optional sign, then digits with single separators between them.
fn is_number(token: &str) -> bool {
    let digits = token.strip_prefix(['+', '-', '\u{2212}', '\u{b1}']).unwrap_or(token);
    let mut after_digit = false;
    for c in digits.chars() {
        let digit = matches!(unicode::category(c), Category::Digit | Category::OtherNumber);
        // Arabic decimal and thousands separators, and the narrow and no-break spaces, stand beside the ASCII ones.
        let separator =
            matches!(c, '.' | ',' | '\'' | '\u{2019}' | '_' | '\u{66b}' | '\u{66c}' | '\u{a0}' | '\u{202f}');
        let stands_well = digit || (separator && after_digit);
        if !stands_well {
            return false;
        }
        after_digit = digit;
    }
    after_digit
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn kinds_are_told_from_spelling() {
        let table = [
            (Kind::Word, &["nest", "don't", "3rd", "Übung", "птица", "鳥", "B12", "ｱ"][..]),
            (Kind::Number, &["7", "-3", "+4.5", "1,000,000", "3.14", "−2", "١٢٫٥", "½", "1'000", "²"]),
            (Kind::Punctuation, &[".", "…", "“", "¿", "—", "?!", "、"]),
            (Kind::Symbol, &["$", "+", "©", "<3".trim_end_matches('3'), "→", "^_^"]),
            (Kind::Emoji, &["🐦", "👩\u{200d}🔬", "☀\u{fe0f}", "3\u{fe0f}\u{20e3}", "🇫🇷"]),
            (Kind::Other, &["5%", "12:30", "5.", "1..2", "\u{200b}", "\u{1}", "(5)"]),
        ];
        for (kind, tokens) in table {
            for token in tokens {
                assert_eq!(Kind::of(token), kind, "{token:?}");
            }
        }
    }

    #[test]
    fn names_and_kinds_agree() {
        for kind in Kind::ALL {
            assert_eq!(Kind::named(kind.name()), Some(kind));
        }
    }
}
