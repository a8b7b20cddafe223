use std::ops::Range;

use crate::kind::emoji_length;
use crate::step::{Built, Facts, Key, Operation, Rewriter, Role, Settings, SettingsError, Stage, TextStep};
use crate::unicode::{self, Category};

const CLASSES: &[&str] =
    &["punctuation", "symbols", "currency", "digits", "numbers", "marks", "emoji", "control"];
const INSIDE: &[&str] = &["apostrophes", "hyphens", "points"];

const CLASSES_KEY: Key<Vec<&'static str>> = Key::some_of(
    "classes",
    CLASSES,
    "the characters to remove: `punctuation` (general category P), `symbols` (S, such as `$ + = |`, but no \
                    emoji), `currency` (Sc alone), `digits` (Nd), `numbers` (N, `½` and `²` too), `marks` (M: combining accents), `emoji` (whole sequences), `control` (Cc and Cf, but no line break or tab)",
);

pub(crate) const TO: Key<&'static str> =
    Key::one_of("to", &["space", "nothing"], "what replaces them; `nothing` joins the text on either side")
        .or("space");

pub(crate) const INSIDE_WORDS: Key<Vec<&'static str>> = Key::some_of(
    "inside_words",
    INSIDE,
    "marks to keep between two letters or digits: `apostrophes` (`don't`), `hyphens` \
                    (`nest-box`), `points` (`3.5`, `e.g`). To keep marks everywhere, spare them: `spare = [\"#\", \"@\"]`",
);

pub(crate) static ERASE: Operation = Operation {
    name: "erase",
    stage: Stage::Text,
    about: "removes all characters of certain Unicode classes. Doing it twice changes nothing",
    keys: &[&CLASSES_KEY.facts, &TO.facts, &INSIDE_WORDS.facts],
    example: "classes = [\"punctuation\"]\nto = \"space\"\ninside_words = [\"apostrophes\", \"hyphens\"]",
    roles: &[Role::Erases],
    learns: None,
    build: |settings| Ok(Built::Text(Box::new(Erase::new(settings)?))),
};

struct Erase {
    punctuation: bool,
    symbols: bool,
    currency: bool,
    digits: bool,
    numbers: bool,
    marks: bool,
    emoji: bool,
    control: bool,
    apostrophes: bool,
    hyphens: bool,
    points: bool,
    instead: &'static str,
    /// Which ASCII characters go, for the fast path.
    ascii: [bool; 128],
}

impl Erase {
    fn new(settings: &Settings) -> Result<Erase, SettingsError> {
        let classes = settings.get(&CLASSES_KEY);
        if classes.is_empty() {
            return Err(SettingsError::needs_one_of(&[&CLASSES_KEY.facts]));
        }
        let has = |name| classes.contains(&name);
        let inside = settings.get(&INSIDE_WORDS);
        let stays = |name| inside.contains(&name);
        let instead = if settings.get(&TO) == Some("nothing") { "" } else { " " };
        let mut erase = Erase {
            punctuation: has("punctuation"),
            symbols: has("symbols"),
            currency: has("currency"),
            digits: has("digits") || has("numbers"),
            numbers: has("numbers"),
            marks: has("marks"),
            emoji: has("emoji"),
            control: has("control"),
            apostrophes: stays("apostrophes"),
            hyphens: stays("hyphens"),
            points: stays("points"),
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
            Category::OtherNumber => self.numbers,
            Category::Mark | Category::SpacingMark => self.marks && c != '\u{fe0f}',
            Category::Symbol | Category::ModifierSymbol => {
                // Pictographs that are drawn as text by default (`©`, `→`) are symbols, unless U+FE0F follows.
                match unicode::is_emoji(c) {
                    true => self.emoji,
                    false => self.symbols || (self.currency && unicode::is_currency(c)),
                }
            }
            Category::Format => self.control,
            // White space is no control character to anybody who reads.
            Category::Other => self.control && c.is_control() && !unicode::is_white_space(c),
            _ => false,
        }
    }

    /// Whether a mark that would go stays, because of the letters or digits on either side.
    fn stays(&self, text: &str, at: usize, c: char) -> bool {
        let inside = match c {
            c if unicode::is_apostrophe(c) => self.apostrophes,
            '.' => self.points,
            c if unicode::is_dash(c) && !matches!(c, '\u{2013}'..='\u{2015}') => self.hyphens,
            _ => false,
        };
        let solid = |c: Option<char>| {
            c.is_some_and(|c| {
                unicode::is_letter(c) || unicode::is_number(c) || unicode::category(c) == Category::Mark
            })
        };
        inside && solid(text[..at].chars().next_back()) && solid(text[at + c.len_utf8()..].chars().next())
    }
}

/// The sort of matches that join two words.
pub const JOINED: &str = "joined two words";
/// How much of the words on either side an example shows, in characters.
const AROUND: usize = 20;

/// The words around marks that stand between two letters or digits; none if they do not, or are apostrophes.
fn joined_words(text: &str, marks: &Range<usize>) -> Option<Range<usize>> {
    let solid = |c: char| unicode::is_letter(c) || unicode::is_number(c);
    let spelled = &text[marks.clone()];
    if spelled.chars().all(unicode::is_apostrophe) {
        return None;
    }
    let before: usize =
        text[..marks.start].chars().rev().take(AROUND).take_while(|&c| solid(c)).map(char::len_utf8).sum();
    let after: usize =
        text[marks.end..].chars().take(AROUND).take_while(|&c| solid(c)).map(char::len_utf8).sum();
    (before > 0 && after > 0).then_some(marks.start - before..marks.end + after)
}

/// Notes the words that are joined over what is gone, if any are.
fn note_joined(text: &str, gone: &Range<usize>, out: &mut Rewriter<'_>) {
    if !gone.is_empty()
        && let Some(words) = joined_words(text, gone)
    {
        out.note(1, words);
    }
}

impl Facts for Erase {
    fn joins_words(&self) -> bool {
        self.instead.is_empty()
    }
}

impl TextStep for Erase {
    fn sorts(&self) -> Vec<String> {
        if self.instead.is_empty() { vec!["erased".into(), JOINED.into()] } else { Vec::new() }
    }

    fn rewrite(&self, text: &str, range: Range<usize>, out: &mut Rewriter<'_>) {
        let bytes = text.as_bytes();
        let mut at = range.start;
        // What is erased in one stretch, with nothing to stand in its place: letters may meet over it.
        let mut gone = at..at;
        while at < range.end {
            let byte = bytes[at];
            // A keycap makes an emoji of an ASCII character: U+20E3 and U+FE0F both begin with a byte beyond ASCII.
            let plain = byte < 0x80 && !(self.emoji && bytes.get(at + 1).is_some_and(|&next| next >= 0x80));
            if plain && !self.ascii[usize::from(byte)] {
                at += 1;
                continue;
            }
            let Some(c) = text[at..range.end].chars().next() else { break };
            let emoji = if self.emoji && !plain { emoji_length(&text[at..range.end]) } else { 0 };
            let length = if emoji > 0 { emoji } else { c.len_utf8() };
            if emoji > 0 || (self.takes(c) && !self.stays(text, at, c)) {
                let place = at..at + length;
                if self.instead.is_empty() {
                    if gone.end != at {
                        note_joined(text, &gone, out);
                        gone.start = at;
                    }
                    gone.end = place.end;
                }
                out.replace(place, self.instead);
            }
            at += length;
        }
        note_joined(text, &gone, out);
    }
}

#[cfg(test)]
mod tests {
    use crate::step::NoFields;
    use crate::testing;

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
        assert_eq!(erased("classes = [\"currency\"]\nto = \"nothing\"", "5€ + $3"), "5 + 3");
        assert_eq!(erased("classes = [\"numbers\"]\nto = \"nothing\"", "½ m² 5"), " m ");
        assert_eq!(
            erased("classes = [\"marks\", \"control\"]\nto = \"nothing\"", "e\u{301}\u{200b}\u{7}\ta\n"),
            "e\ta\n"
        );
        assert_eq!(erased("classes = [\"punctuation\"]", "nest-box"), "nest box");
    }

    #[test]
    fn every_place_where_letters_meet_is_counted() {
        let pipeline =
            testing::pipeline("[[step]]\ndo = \"erase\"\nclasses = [\"punctuation\"]\nto = \"nothing\"\n");
        let joined = |text: &str| {
            let trace = pipeline.trace(text, &NoFields);
            let found = trace.text_steps[0].sorts.iter().find(|(name, _)| name == super::JOINED);
            found.map_or((0, Vec::new()), |(_, sort)| {
                (sort.count, sort.examples().map(str::to_owned).collect())
            })
        };
        for (text, words) in [
            ("a book--but not", Some("book--but")),
            ("a book,\"thought Alice", Some("book,\"thought")),
            ("and/or", Some("and/or")),
            ("it... was", None),
            ("don't, 'twas", None),
            ("\"Well,\" he said", None),
            ("end.", None),
            ("x--\u{2019}y", Some("x--\u{2019}y")),
        ] {
            let (count, examples) = joined(text);
            assert_eq!(
                (count, examples.first().map(String::as_str)),
                (u64::from(words.is_some()), words),
                "{text}"
            );
        }
        assert_eq!(joined("a-b-c d,e").0, 3);
    }

    #[test]
    fn marks_inside_words_can_stay() {
        let settings =
            "classes = [\"punctuation\"]\ninside_words = [\"apostrophes\", \"hyphens\", \"points\"]";
        let text = "‘Don’t’ nest-box - 3.5. the wardens' e.g. l'été–x";
        assert_eq!(erased(settings, text), " Don’t  nest-box   3.5  the wardens  e.g  l'été x");
    }

    #[test]
    fn spared_words_keep_their_marks() {
        assert_eq!(
            erased("classes = [\"punctuation\"]\nspare = [\"don't\", \"#\"]", "Don't go, #tern!"),
            "Don't go  #tern "
        );
    }
}
