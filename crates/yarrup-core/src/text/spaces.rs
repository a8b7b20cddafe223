use std::ops::Range;

use super::{Rewriter, TextStep};
use crate::recipe::{Built, Key, Operation, Shape, Stage};
use crate::unicode;

pub(crate) static SPACES: Operation = Operation {
    name: "spaces",
    stage: Stage::Text,
    about: "makes one space of every run of white space, and none at either end",
    keys: &[Key {
        name: "lines",
        shape: Shape::OneOf(&["join", "keep"]),
        default: Some("join"),
        about: "`join`: line breaks become spaces too; `keep`: a run that breaks the line becomes one line break",
    }],
    example: "lines = \"join\"",
    build: |settings| {
        Ok(Built::Text(Box::new(Collapse { keep_lines: settings.choice("lines") == Some("keep") })))
    },
};

struct Collapse {
    keep_lines: bool,
}

impl TextStep for Collapse {
    fn rewrite(&self, text: &str, range: Range<usize>, out: &mut Rewriter<'_>) -> u64 {
        let stretch = &text[range.clone()];
        let (mut kept, mut matches) = (0, 0);
        let mut chars = stretch.char_indices().peekable();
        while let Some((start, c)) = chars.next() {
            if !unicode::is_white_space(c) {
                continue;
            }
            let mut end = start + c.len_utf8();
            while let Some((at, c)) = chars.next_if(|&(_, c)| unicode::is_white_space(c)) {
                end = at + c.len_utf8();
            }
            let run = &stretch[start..end];
            let breaks = |c| matches!(c, '\n'..='\r' | '\u{85}' | '\u{2028}' | '\u{2029}');
            let at_edge = range.start + start == 0 || range.start + end == text.len();
            let now = match () {
                () if at_edge => "",
                () if self.keep_lines && run.contains(breaks) => "\n",
                () => " ",
            };
            if run != now {
                out.keep(&stretch[kept..start]);
                out.replace(run.len(), now);
                matches += 1;
                kept = end;
            }
        }
        out.keep(&stretch[kept..]);
        matches
    }
}

#[cfg(test)]
mod tests {
    use crate::recipe::testing;

    #[test]
    fn runs_collapse_and_ends_are_trimmed() {
        let text = "\u{3000} two  terns\u{a0}\u{2003}on \r\n\n the  spit \n";
        assert_eq!(testing::clean("[[step]]\ndo = \"spaces\"\n", text), "two terns on the spit");
        assert_eq!(
            testing::clean("[[step]]\ndo = \"spaces\"\nlines = \"keep\"\n", text),
            "two terns on\nthe spit"
        );
    }
}
