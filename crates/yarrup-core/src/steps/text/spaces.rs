use std::ops::Range;

use crate::step::{Built, Facts, Key, Operation, Rewriter, Role, Stage, TextStep};
use crate::unicode;

const LINES: Key<&'static str> = Key::one_of(
    "lines",
    &["join", "keep"],
    "`join`: line breaks become spaces too; `keep`: a run that breaks the line becomes one line break",
)
.or("join");

pub(crate) static SPACES: Operation = Operation {
    name: "spaces",
    stage: Stage::Text,
    about: "reduces every run of white space to one space, and removes it at both ends. Doing it twice changes nothing",
    keys: &[&LINES.facts],
    example: "lines = \"join\"",
    roles: &[Role::CollapsesSpaces],
    learns: None,
    build: |settings| {
        Ok(Built::Text(Box::new(Collapse { keep_lines: settings.get(&LINES) == Some("keep") })))
    },
};

struct Collapse {
    keep_lines: bool,
}

impl Facts for Collapse {}

impl TextStep for Collapse {
    fn rewrite(&self, text: &str, range: Range<usize>, out: &mut Rewriter<'_>) {
        let bytes = text.as_bytes();
        let mut at = range.start;
        while at < range.end {
            let byte = bytes[at];
            // The commonest first: a letter, and a single space before one.
            if (0x21..0x80).contains(&byte) {
                at += 1;
                continue;
            }
            if byte == b' ' && at > 0 && at + 1 < range.end && (0x21..0x80).contains(&bytes[at + 1]) {
                at += 2;
                continue;
            }
            let Some(c) = text[at..range.end].chars().next() else { break };
            if !unicode::is_white_space(c) {
                at += c.len_utf8();
                continue;
            }
            let rest = &text[at..range.end];
            let end = at + rest.find(|c| !unicode::is_white_space(c)).unwrap_or(rest.len());
            let breaks = |c| matches!(c, '\n'..='\r' | '\u{85}' | '\u{2028}' | '\u{2029}');
            let at_edge = at == 0 || end == text.len();
            let now = match () {
                () if at_edge => "",
                () if self.keep_lines && text[at..end].contains(breaks) => "\n",
                () => " ",
            };
            out.replace(at..end, now);
            at = end;
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::testing;

    #[test]
    fn runs_collapse_and_ends_are_trimmed() {
        let text = "\u{3000} two  terns\u{a0}\u{2003}on \r\n\n the  spit \n";
        assert_eq!(testing::clean("[[step]]\ndo = \"spaces\"\n", text), "two terns on the spit");
        assert_eq!(
            testing::clean("[[step]]\ndo = \"spaces\"\nlines = \"keep\"\n", text),
            "two terns on\nthe spit"
        );
        assert_eq!(testing::clean("[[step]]\ndo = \"spaces\"\n", "a b\tc é\u{301} d"), "a b c é\u{301} d");
    }
}
