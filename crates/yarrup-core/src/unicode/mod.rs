//! The properties of characters that the rules of this crate ask for.
//!
//! The table `properties.bin` is built from Unicode's data files by `scripts/unicode-properties.py`; its licence
//! stands beside it. Letter case comes from the standard library.

/// The version of the Unicode data that the table was built from.
pub const VERSION: &str = "15.0.0";

static PROPERTIES: &[u8] = include_bytes!("properties.bin");

const BLOCK: usize = 128;
const INDEX_BYTES: usize = 0x11_0000 / BLOCK * 2;
const PLANE_BYTES: usize = (PROPERTIES.len() - INDEX_BYTES) / 3;

const EXTENDED_PICTOGRAPHIC: u8 = 32;
const EMOJI_PRESENTATION: u8 = 64;
const WHITE_SPACE: u8 = 128;
const CATEGORY: u8 = 31;

/// The Word_Break property of a character (Unicode Standard Annex #29, table 3).
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[repr(u8)]
#[allow(missing_docs, reason = "the names are those of the annex")]
pub enum WordBreak {
    Other,
    Cr,
    Lf,
    Newline,
    Extend,
    Zwj,
    RegionalIndicator,
    Format,
    Katakana,
    HebrewLetter,
    ALetter,
    SingleQuote,
    DoubleQuote,
    MidNumLet,
    MidLetter,
    MidNum,
    Numeric,
    ExtendNumLet,
    WSegSpace,
}

/// The order of the script that builds the table.
const WORD_BREAKS: [WordBreak; 19] = [
    WordBreak::Other,
    WordBreak::Cr,
    WordBreak::Lf,
    WordBreak::Newline,
    WordBreak::Extend,
    WordBreak::Zwj,
    WordBreak::RegionalIndicator,
    WordBreak::Format,
    WordBreak::Katakana,
    WordBreak::HebrewLetter,
    WordBreak::ALetter,
    WordBreak::SingleQuote,
    WordBreak::DoubleQuote,
    WordBreak::MidNumLet,
    WordBreak::MidLetter,
    WordBreak::MidNum,
    WordBreak::Numeric,
    WordBreak::ExtendNumLet,
    WordBreak::WSegSpace,
];

/// The Sentence_Break property of a character (Unicode Standard Annex #29, table 4).
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[repr(u8)]
#[allow(missing_docs, reason = "the names are those of the annex")]
pub enum SentenceBreak {
    Other,
    Cr,
    Lf,
    Extend,
    Sep,
    Format,
    Sp,
    Lower,
    Upper,
    OLetter,
    Numeric,
    ATerm,
    SContinue,
    STerm,
    Close,
}

/// The order of the script that builds the table.
const SENTENCE_BREAKS: [SentenceBreak; 16] = [
    SentenceBreak::Other,
    SentenceBreak::Cr,
    SentenceBreak::Lf,
    SentenceBreak::Extend,
    SentenceBreak::Sep,
    SentenceBreak::Format,
    SentenceBreak::Sp,
    SentenceBreak::Lower,
    SentenceBreak::Upper,
    SentenceBreak::OLetter,
    SentenceBreak::Numeric,
    SentenceBreak::ATerm,
    SentenceBreak::SContinue,
    SentenceBreak::STerm,
    SentenceBreak::Close,
    SentenceBreak::Other,
];

/// The Grapheme_Cluster_Break property of a character (Unicode Standard Annex #29, table 2).
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[repr(u8)]
#[allow(missing_docs, reason = "the names are those of the annex")]
pub enum GraphemeBreak {
    Other,
    Cr,
    Lf,
    Control,
    Extend,
    Zwj,
    RegionalIndicator,
    Prepend,
    SpacingMark,
    L,
    V,
    T,
    Lv,
    Lvt,
}

/// The order of the script that builds the table.
const GRAPHEME_BREAKS: [GraphemeBreak; 16] = [
    GraphemeBreak::Other,
    GraphemeBreak::Cr,
    GraphemeBreak::Lf,
    GraphemeBreak::Control,
    GraphemeBreak::Extend,
    GraphemeBreak::Zwj,
    GraphemeBreak::RegionalIndicator,
    GraphemeBreak::Prepend,
    GraphemeBreak::SpacingMark,
    GraphemeBreak::L,
    GraphemeBreak::V,
    GraphemeBreak::T,
    GraphemeBreak::Lv,
    GraphemeBreak::Lvt,
    GraphemeBreak::Other,
    GraphemeBreak::Other,
];

/// The first letter of a character's general category, with the few finer ones that a rule of ours needs.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Category {
    /// L*, but for Lt and Lm.
    Letter,
    /// Lt: a digraph with a capital first, such as `ǅ`.
    TitlecaseLetter,
    /// Lm: a letter that modifies another.
    ModifierLetter,
    /// Mn and Me: a mark that takes no room of its own.
    Mark,
    /// Mc: a mark that takes room.
    SpacingMark,
    /// Nd: a decimal digit.
    Digit,
    /// Nl and No: other numbers, such as `½` and `Ⅷ`.
    OtherNumber,
    /// P*.
    Punctuation,
    /// S*, but for Sk.
    Symbol,
    /// Sk: a symbol that modifies.
    ModifierSymbol,
    /// Z*.
    Separator,
    /// Cf: an invisible character that steers layout.
    Format,
    /// Every other: control, surrogate, private use, unassigned.
    Other,
}

fn position(c: char) -> usize {
    let code = c as usize;
    let slot = code / BLOCK * 2;
    let row = usize::from(u16::from_le_bytes([PROPERTIES[slot], PROPERTIES[slot + 1]]));
    INDEX_BYTES + row * BLOCK + code % BLOCK
}

fn general(c: char) -> u8 {
    PROPERTIES[position(c) + PLANE_BYTES]
}

/// The Word_Break property of `c`.
pub fn word_break(c: char) -> WordBreak {
    WORD_BREAKS[usize::from(PROPERTIES[position(c)])]
}

/// The Sentence_Break property of `c`.
pub fn sentence_break(c: char) -> SentenceBreak {
    SENTENCE_BREAKS[usize::from(PROPERTIES[position(c) + 2 * PLANE_BYTES] & 15)]
}

/// The Grapheme_Cluster_Break property of `c`.
pub fn grapheme_break(c: char) -> GraphemeBreak {
    GRAPHEME_BREAKS[usize::from(PROPERTIES[position(c) + 2 * PLANE_BYTES] >> 4)]
}

/// The general category of `c`, as far as our rules tell categories apart.
pub fn category(c: char) -> Category {
    match general(c) & CATEGORY {
        5 | 6 | 9 => Category::Letter,
        7 => Category::TitlecaseLetter,
        8 => Category::ModifierLetter,
        10 | 12 => Category::Mark,
        11 => Category::SpacingMark,
        13 => Category::Digit,
        14 | 15 => Category::OtherNumber,
        16..=22 => Category::Punctuation,
        23 | 24 | 26 => Category::Symbol,
        25 => Category::ModifierSymbol,
        27..=29 => Category::Separator,
        2 => Category::Format,
        _ => Category::Other,
    }
}

/// Whether `c` is a letter of any script.
pub fn is_letter(c: char) -> bool {
    matches!(category(c), Category::Letter | Category::TitlecaseLetter | Category::ModifierLetter)
}

/// Whether `c` is a decimal digit or another number of any script.
pub fn is_number(c: char) -> bool {
    matches!(category(c), Category::Digit | Category::OtherNumber)
}

/// Whether `c` is a punctuation mark that opens: Ps or Pi.
pub fn is_opening(c: char) -> bool {
    matches!(general(c) & CATEGORY, 18 | 20)
}

/// Whether `c` is a currency symbol: Sc.
pub fn is_currency(c: char) -> bool {
    general(c) & CATEGORY == 24
}

/// Whether `c` is a dash or a hyphen: Pd.
pub fn is_dash(c: char) -> bool {
    general(c) & CATEGORY == 17
}

/// A word in small letters, with one sort of apostrophe.
pub(crate) fn small_letters(word: &str) -> String {
    word.to_lowercase().replace('\u{2019}', "'")
}

/// Whether `c` is an apostrophe: the plain one, the quote that most text has for it, the letter, or the wide one.
pub fn is_apostrophe(c: char) -> bool {
    matches!(c, '\'' | '\u{2019}' | '\u{2bc}' | '\u{ff07}')
}

/// Whether `c` is a hyphen: the plain one, or one of the two that are nothing else.
pub fn is_hyphen(c: char) -> bool {
    matches!(c, '-' | '\u{2010}' | '\u{2011}')
}

/// Whether `c` has the property White_Space.
pub fn is_white_space(c: char) -> bool {
    general(c) & WHITE_SPACE != 0
}

/// Whether this is a letter of a script whose words stand without spaces between them: Han, Hiragana, Katakana, Thai, Lao, Khmer, Burmese.
pub fn is_unspaced(c: char) -> bool {
    let other = || {
        matches!(
            c as u32,
            0x0e01..=0x0e3a
                | 0x0e40..=0x0e4e
                | 0x0e81..=0x0ecd
                | 0x0edc..=0x0edf
                | 0x1000..=0x103f
                | 0x1050..=0x108f
                | 0x109a..=0x109f
                | 0x1780..=0x17d3
                | 0x17d7
                | 0x17dc..=0x17dd
                | 0x3005..=0x3007
                | 0x3021..=0x3029
                | 0x3041..=0x3096
                | 0x309d..=0x309f
                | 0x3400..=0x4dbf
                | 0x4e00..=0x9fff
                | 0xa9e0..=0xa9ef
                | 0xa9fa..=0xa9fe
                | 0xaa60..=0xaa7f
                | 0xf900..=0xfaff
                | 0x20000..=0x3ffff
        )
    };
    c >= '\u{e01}' && (is_katakana(c) || other())
}

/// Whether this is a letter of Katakana, of any width.
pub fn is_katakana(c: char) -> bool {
    matches!(c as u32, 0x30a1..=0x30fa | 0x30fc..=0x30ff | 0x31f0..=0x31ff | 0xff66..=0xff9d)
}

/// Whether `c` has the property Extended_Pictographic.
pub fn is_pictographic(c: char) -> bool {
    general(c) & EXTENDED_PICTOGRAPHIC != 0
}

/// Whether `c` is drawn as an emoji without being asked to.
pub fn is_emoji(c: char) -> bool {
    general(c) & EMOJI_PRESENTATION != 0
}

/// Whether word boundaries and white space stay where they are when `b` takes the place of `a`.
pub fn splits_alike(a: char, b: char) -> bool {
    word_break(a) == word_break(b)
        && is_pictographic(a) == is_pictographic(b)
        && is_white_space(a) == is_white_space(b)
}

/// Whether `c` has the property Cased (Unicode Standard, definition D135).
pub fn is_cased(c: char) -> bool {
    c.is_lowercase() || c.is_uppercase() || category(c) == Category::TitlecaseLetter
}

/// Whether `c` has the property Case_Ignorable (Unicode Standard, definition D136).
pub fn is_case_ignorable(c: char) -> bool {
    matches!(
        category(c),
        Category::Mark | Category::Format | Category::ModifierLetter | Category::ModifierSymbol
    ) || matches!(word_break(c), WordBreak::MidLetter | WordBreak::MidNumLet | WordBreak::SingleQuote)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn characters_have_the_properties_that_unicode_prints() {
        assert_eq!(word_break('a'), WordBreak::ALetter);
        assert_eq!(word_break('\u{2019}'), WordBreak::MidNumLet);
        assert_eq!(word_break('\u{5d0}'), WordBreak::HebrewLetter);
        assert_eq!(word_break('カ'), WordBreak::Katakana);
        assert_eq!(word_break('ก'), WordBreak::Other);
        assert_eq!(word_break('\u{10ffff}'), WordBreak::Other);
        assert_eq!(category('…'), Category::Punctuation);
        assert_eq!(category('½'), Category::OtherNumber);
        assert_eq!(category('$'), Category::Symbol);
        assert_eq!(category('漢'), Category::Letter);
        assert_eq!(sentence_break('.'), SentenceBreak::ATerm);
        assert_eq!(sentence_break('”'), SentenceBreak::Close);
        assert_eq!(grapheme_break('가'), GraphemeBreak::Lv);
        assert!(is_currency('€') && is_dash('–') && is_opening('(') && is_opening('“') && !is_opening('”'));
        assert!(is_white_space('\u{2003}') && !is_white_space('\u{200b}'));
        assert!(is_emoji('🐦') && is_pictographic('©') && !is_emoji('©'));
    }
}
