use std::ops::Range;

use super::{Rewriter, TextStep};
use crate::recipe::{Built, Key, Operation, Settings, Shape, Stage};
use crate::unicode::{self, Category};

const CLASSES: &[&str] = &["punctuation", "symbols", "digits", "emoji"];

pub(crate) static ERASE: Operation = Operation {
    name: "erase",
    stage: Stage::Text,
    about: "takes out characters of whole classes of Unicode",
    keys: &[
        Key {
            name: "classes",
            shape: Shape::SomeOf(CLASSES),
            default: None,
            about: "which characters go: `punctuation` (general category P), `symbols` (S, such as `$ + = |`, but no \
                    emoji), `digits` (Nd), `emoji` (whole sequences)",
        },
        Key {
            name: "to",
            shape: Shape::OneOf(&["space", "nothing"]),
            default: Some("space"),
            about: "what stands in their place; `nothing` joins what stood on either side",
        },
    ],
    example: "classes = [\"punctuation\"]\nto = \"space\"",
    build: |settings| Ok(Built::Text(Box::new(Erase::new(settings)?))),
};

struct Erase {
    punctuation: bool,
    symbols: bool,
    digits: bool,
    emoji: bool,
    instead: &'static str,
    /// Which ASCII characters go, for the fast path.
    ascii: [bool; 128],
}

impl Erase {
    fn new(settings: &Settings) -> Result<Erase, String> {
        let classes = settings.choices("classes");
        if classes.is_empty() {
            return Err("`erase` needs `classes`".into());
        }
        let has = |name| classes.contains(&name);
        let instead = if settings.choice("to") == Some("nothing") { "" } else { " " };
        let mut erase = Erase {
            punctuation: has("punctuation"),
            symbols: has("symbols"),
            digits: has("digits"),
            emoji: has("emoji"),
            instead,
            ascii: [false; 128],
        };
        for byte in 0..128u8 {
            erase.ascii[usize::from(byte)] = erase.takes(char::from(byte));
        }
        Ok(erase)
    }

    fn takes(&self, c: char) -> bool {
        match unicode::category(c) {
            Category::Punctuation => self.punctuation,
            Category::Digit => self.digits,
            Category::Symbol | Category::ModifierSymbol => {
                // Pictographs that are drawn as text by default (`©`, `→`) are symbols, unless U+FE0F follows.
                if unicode::is_emoji(c) { self.emoji } else { self.symbols }
            }
            _ => false,
        }
    }

    /// How many bytes the emoji sequence at the start of `text` takes; 0 if there is none.
    fn emoji_length(&self, text: &str) -> usize {
        if !self.emoji {
            return 0;
        }
        let mut chars = text.char_indices().peekable();
        let Some((_, first)) = chars.next() else {
            return 0;
        };
        let second = chars.peek().map(|&(_, c)| c);
        let keycap = || {
            let mut rest = text[first.len_utf8()..].chars();
            let next = rest.next();
            next == Some('\u{20e3}') || (next == Some('\u{fe0f}') && rest.next() == Some('\u{20e3}'))
        };
        let starts = unicode::is_emoji(first)
            || (unicode::is_pictographic(first) && second == Some('\u{fe0f}'))
            || (matches!(first, '0'..='9' | '#' | '*') && keycap());
        if !starts {
            return 0;
        }
        let is_flag = |c| unicode::word_break(c) == unicode::WordBreak::RegionalIndicator;
        let mut end = first.len_utf8();
        let mut previous = first;
        let mut flags = usize::from(is_flag(first));
        for (at, c) in chars {
            // Variation selector, keycap, joiner, skin tones and tags ride on an emoji; a joiner brings the next one.
            let rides = matches!(c, '\u{fe0f}' | '\u{20e3}' | '\u{200d}' | '\u{1f3fb}'..='\u{1f3ff}' | '\u{e0020}'..='\u{e007f}')
                || (previous == '\u{200d}' && unicode::is_pictographic(c))
                || (is_flag(c) && flags == 1 && is_flag(previous));
            if !rides {
                break;
            }
            flags += usize::from(is_flag(c));
            previous = c;
            end = at + c.len_utf8();
        }
        end
    }
}

impl TextStep for Erase {
    fn rewrite(&self, text: &str, range: Range<usize>, out: &mut Rewriter<'_>) -> u64 {
        let stretch = &text[range];
        let bytes = stretch.as_bytes();
        let (mut at, mut kept, mut matches) = (0, 0, 0);
        while at < bytes.len() {
            let byte = bytes[at];
            // A keycap makes an emoji of an ASCII character: U+20E3 and U+FE0F both begin with a byte beyond ASCII.
            let plain = byte < 0x80 && !(self.emoji && bytes.get(at + 1).is_some_and(|&next| next >= 0x80));
            let length = if plain {
                usize::from(self.ascii[usize::from(byte)])
            } else {
                let Some(c) = stretch[at..].chars().next() else {
                    break;
                };
                let emoji = self.emoji_length(&stretch[at..]);

                if emoji > 0 {
                    emoji
                } else if self.takes(c) {
                    c.len_utf8()
                } else {
                    at += c.len_utf8();
                    continue;
                }
            };
            if length == 0 {
                at += 1;
                continue;
            }
            out.keep(&stretch[kept..at]);
            out.replace(length, self.instead);
            matches += 1;
            at += length;
            kept = at;
        }
        out.keep(&stretch[kept..]);
        matches
    }
}

#[cfg(test)]
mod tests {
    use crate::recipe::testing;

    fn erased(settings: &str, text: &str) -> String {
        testing::clean(&format!("[[step]]\ndo = \"erase\"\n{settings}\n"), text)
    }

    #[test]
    fn classes_are_those_of_unicode() {
        let text = "“Don’t”… 5€ (+3) ٣ 👩\u{200d}🔬🏽 ☀\u{fe0f} 3\u{fe0f}\u{20e3} 🇫🇷🇩🇪 ©";
        assert_eq!(
            erased("classes = [\"punctuation\"]\nto = \"nothing\"", text),
            "Dont 5€ +3 ٣ 👩\u{200d}🔬🏽 ☀\u{fe0f} 3\u{fe0f}\u{20e3} 🇫🇷🇩🇪 ©"
        );
        assert_eq!(erased("classes = [\"emoji\"]\nto = \"nothing\"", text), "“Don’t”… 5€ (+3) ٣     ©");
        assert_eq!(
            erased("classes = [\"symbols\", \"digits\"]\nto = \"nothing\"", "5€ (+3) ٣ © 🐦"),
            " ()   🐦"
        );
        assert_eq!(erased("classes = [\"punctuation\"]", "nest-box"), "nest box");
    }

    #[test]
    fn spared_words_keep_their_marks() {
        assert_eq!(
            erased("classes = [\"punctuation\"]\nspare = [\"don't\", \"#\"]", "Don't go, #tern!"),
            "Don't go  #tern "
        );
    }
}
