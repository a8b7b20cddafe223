//! Lines of signs that part one text into many: `%`, `---`, `***`.

use std::collections::HashMap;

/// A longer line of signs underlines a heading, or is part of a drawing.
const LONGEST: usize = 3;
/// A text is parted by a line that stands in it so often or more often.
const FEWEST_PLACES: u64 = 3;

/// A line that parts texts.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct SeparatorFound {
    /// The line.
    pub line: String,
    /// How many documents it parts.
    pub documents: u64,
    /// How often it stands there.
    pub places: u64,
}

#[derive(Default)]
pub(super) struct Separators {
    /// By line: the documents that it parts, and how often it stands in these.
    lines: HashMap<String, (u64, u64)>,
}

impl Separators {
    pub(super) fn document(&mut self, text: &str) {
        // A document has few such lines.
        let mut own: Vec<(&str, u64)> = Vec::new();
        for line in text.lines().map(str::trim_end).filter(|line| is_of_signs(line)) {
            match own.iter_mut().find(|(known, _)| *known == line) {
                Some((_, places)) => *places += 1,
                None => own.push((line, 1)),
            }
        }
        for (line, places) in own.into_iter().filter(|(_, places)| *places >= FEWEST_PLACES) {
            self.note(line, (1, places));
        }
    }

    /// There are few such lines: a sign, or up to three of it.
    fn note(&mut self, line: &str, (documents, places): (u64, u64)) {
        let known = self.lines.entry(line.to_owned()).or_default();
        *known = (known.0 + documents, known.1 + places);
    }

    pub(super) fn absorb(&mut self, other: Separators) {
        for (line, counts) in other.lines {
            self.note(&line, counts);
        }
    }

    /// The line that parts most documents, if it parts half of so many.
    pub(super) fn finish(self, documents: u64) -> Option<SeparatorFound> {
        let found = self.lines.into_iter().filter(|(_, (parted, _))| parted * 2 >= documents);
        let (line, (documents, places)) =
            found.max_by(|(one, counts), (other, theirs)| counts.cmp(theirs).then_with(|| other.cmp(one)))?;
        Some(SeparatorFound { line, documents, places })
    }
}

/// Whether a line is one sign alone, or up to three that are the same.
fn is_of_signs(line: &str) -> bool {
    let mut signs = line.chars();
    let Some(first) = signs.next().filter(|first| !first.is_alphanumeric() && !first.is_whitespace()) else {
        return false;
    };
    // Brackets alone on a line are those of programs and data.
    !matches!(first, '{' | '}' | '(' | ')' | '[' | ']' | '<' | '>' | '"' | '\'' | '.' | ',' | ';')
        && line.chars().count() <= LONGEST
        && signs.all(|sign| sign == first)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_line_that_parts_half_of_the_texts_is_found() {
        let notes = "The terns are back.\n%\nFog all day.\n% \nFive eggs.\n%\nThe ferry is late.\n";
        let plain = "The terns are back.\n\nFog all day.\n";
        let code = "{\n}\n}\n}\n------\n------\n------\n";
        let found = |texts: &[&str], parts: usize| {
            let mut all = Separators::default();
            for part in 0..parts {
                let mut own = Separators::default();
                texts.iter().skip(part).step_by(parts).for_each(|text| own.document(text));
                all.absorb(own);
            }
            all.finish(texts.len() as u64)
        };
        let percent = SeparatorFound { line: "%".into(), documents: 1, places: 3 };
        for parts in 1..3 {
            assert_eq!(found(&[notes, plain], parts), Some(percent.clone()));
            assert_eq!(found(&[notes, plain, code], parts), None);
        }
        assert_eq!(found(&[code, plain], 1), None);
        assert_eq!(found(&["a\n***\nb\n***\nc", notes], 1), Some(percent));
    }
}
