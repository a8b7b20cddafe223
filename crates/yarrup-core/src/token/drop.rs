use super::{Form, Outcome, TokenStep};
use crate::recipe::{Built, Key, Operation, Settings, Shape, Stage};
use crate::split::Kind;
use crate::unicode::{self, Category};

const LIMITS: Shape = Shape::Whole { least: 1, most: 1_000_000 };

pub(crate) static DROP: Operation = Operation {
    name: "drop",
    stage: Stage::Token,
    about: "drops tokens by kind, by what they contain, or by length",
    keys: &[
        Key {
            name: "kinds",
            shape: Shape::SomeOf(Kind::NAMES),
            default: None,
            about: "tokens of these kinds; `number` means tokens that are numbers: digits, with a sign and separators",
        },
        Key {
            name: "contains",
            shape: Shape::SomeOf(&["digits"]),
            default: None,
            about: "tokens that hold such a character anywhere, whatever their kind (`B12`, `3rd`, `12:30`)",
        },
        Key {
            name: "shorter_than",
            shape: LIMITS,
            default: None,
            about: "tokens of fewer characters (code points)",
        },
        Key {
            name: "longer_than",
            shape: LIMITS,
            default: None,
            about: "tokens of more characters (code points)",
        },
    ],
    example: "kinds = [\"punctuation\", \"number\"]\nshorter_than = 3",
    build: |settings| Ok(Built::Token(Box::new(Drop::new(settings)?))),
};

struct Drop {
    kinds: Vec<Kind>,
    digits: bool,
    shorter_than: Option<usize>,
    longer_than: Option<usize>,
}

const DIGITS: u16 = 100;
const SHORT: u16 = 101;
const LONG: u16 = 102;

impl Drop {
    fn new(settings: &Settings) -> Result<Drop, String> {
        let length = |key| settings.whole(key).and_then(|n| usize::try_from(n).ok());
        let drop = Drop {
            kinds: settings.choices("kinds").into_iter().filter_map(Kind::named).collect(),
            digits: settings.choices("contains").contains(&"digits"),
            shorter_than: length("shorter_than"),
            longer_than: length("longer_than"),
        };
        if drop.kinds.is_empty() && !drop.digits && drop.shorter_than.is_none() && drop.longer_than.is_none()
        {
            return Err(
                "`drop` needs at least one of `kinds`, `contains`, `shorter_than`, `longer_than`".into()
            );
        }
        Ok(drop)
    }
}

impl TokenStep for Drop {
    fn apply(&self, form: &Form<'_>) -> Outcome {
        let is_digit = |c| matches!(unicode::category(c), Category::Digit | Category::OtherNumber);
        let length = || form.text.chars().count();
        if self.kinds.contains(&form.kind) {
            Outcome::Drop(form.kind as u16)
        } else if self.digits && form.text.chars().any(is_digit) {
            Outcome::Drop(DIGITS)
        } else if self.shorter_than.is_some_and(|least| length() < least) {
            Outcome::Drop(SHORT)
        } else if self.longer_than.is_some_and(|most| length() > most) {
            Outcome::Drop(LONG)
        } else {
            Outcome::Keep
        }
    }

    fn reason(&self, number: u16) -> String {
        let characters = |n: Option<usize>| match n {
            Some(1) => "1 character".to_owned(),
            n => format!("{} characters", n.unwrap_or(0)),
        };
        match number {
            DIGITS => "contains digits".to_owned(),
            SHORT => format!("shorter than {}", characters(self.shorter_than)),
            LONG => format!("longer than {}", characters(self.longer_than)),
            kind => Kind::ALL.get(usize::from(kind)).map_or("", |kind| kind.name()).to_owned(),
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::recipe::testing;

    #[test]
    fn numbers_are_dropped_whole_or_wherever_digits_stand() {
        let text = "7 -3,000.5 B12 3rd 12:30 nest";
        let split = "[[step]]\ndo = \"split\"\ninto = \"spaces\"\n[[step]]\ndo = \"drop\"\n";
        assert_eq!(testing::clean(&format!("{split}kinds = [\"number\"]"), text), "B12 3rd 12:30 nest");
        assert_eq!(testing::clean(&format!("{split}contains = [\"digits\"]"), text), "nest");
    }

    #[test]
    fn lengths_are_counted_in_characters() {
        let split = "[[step]]\ndo = \"split\"\n[[step]]\ndo = \"drop\"\n";
        assert_eq!(testing::clean(&format!("{split}shorter_than = 3"), "åå ööö été né"), "ööö été");
        assert_eq!(testing::clean(&format!("{split}longer_than = 2"), "åå ööö été né"), "åå né");
    }
}
