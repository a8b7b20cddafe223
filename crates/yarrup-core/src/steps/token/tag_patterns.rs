//! Which parts of speech the words of a term have.

use crate::part_of_speech::Tag;

/// The usual shapes of terms in English and languages like it (Justeson and Katz 1995, "Technical terminology: some linguistic properties and an algorithm for
/// identification in text"): adjectives and nouns before a noun, or two nouns around a preposition.
const TERMS: &[&str] = &["adj|noun|propn noun", "adj|noun|propn adj|noun|propn noun", "noun adp noun|propn"];
/// Names of two words or three.
const NAMES: &[&str] = &["propn propn", "propn propn propn", "propn adp propn"];

/// Runs of parts of speech, of two or three words.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(crate) struct TagPatterns {
    /// For each word, a bit for each part of speech that it may have.
    patterns: Vec<Vec<u32>>,
}

impl TagPatterns {
    /// The patterns as they are written: parts of speech with spaces between, `|` between those of which one is enough, `terms` and `names` for
    /// the usual ones.
    ///
    /// # Errors
    ///
    /// If one is no such run.
    pub(crate) fn read<'w>(written: impl IntoIterator<Item = &'w str>) -> Result<TagPatterns, String> {
        let mut patterns = Vec::new();
        for written in written {
            match written.trim() {
                "terms" => {
                    patterns
                        .extend(TERMS.iter().map(|pattern| read(pattern)).collect::<Result<Vec<_>, _>>()?);
                }
                "names" => {
                    patterns
                        .extend(NAMES.iter().map(|pattern| read(pattern)).collect::<Result<Vec<_>, _>>()?);
                }
                written => patterns.push(read(written)?),
            }
        }
        Ok(TagPatterns { patterns })
    }

    /// Whether there are none.
    pub(crate) fn is_empty(&self) -> bool {
        self.patterns.is_empty()
    }

    /// Whether words with these tags make a term.
    pub(crate) fn fit(&self, tags: &[Option<Tag>]) -> bool {
        let bits = |tag: &Option<Tag>| tag.map_or(0, |tag| 1 << tag as u32);
        self.patterns.iter().any(|pattern| {
            pattern.len() == tags.len()
                && pattern.iter().zip(tags).all(|(wanted, tag)| wanted & bits(tag) != 0)
        })
    }
}

fn read(written: &str) -> Result<Vec<u32>, String> {
    let word = |word: &str| {
        word.split('|').try_fold(0, |bits, name| {
            let tag = Tag::named(&name.replace('_', " ")).ok_or_else(|| {
                let names: Vec<String> = Tag::ALL.iter().map(|tag| tag.name().replace(' ', "_")).collect();
                format!("`{name}` in `{written}` is not a part of speech; use one of {}", names.join(", "))
            })?;
            Ok::<u32, String>(bits | 1 << tag as u32)
        })
    };
    let words = written.split_whitespace().map(word).collect::<Result<Vec<u32>, String>>()?;
    if !(2..=3).contains(&words.len()) {
        return Err(format!(
            "`{written}` is not a pattern for a phrase: write two or three parts of speech with spaces between them"
        ));
    }
    Ok(words)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn patterns_are_read_and_fit() {
        let fits = |written: &[&str], tags: &str| {
            let tags: Vec<Option<Tag>> = tags.split(' ').map(Tag::named).collect();
            TagPatterns::read(written.iter().copied()).expect("patterns").fit(&tags)
        };
        for (tags, is_term, is_name) in [
            ("ADJ NOUN", true, false),
            ("NOUN NOUN", true, false),
            ("PROPN NOUN", true, false),
            ("ADJ NOUN NOUN", true, false),
            ("NOUN ADP NOUN", true, false),
            ("PROPN PROPN", false, true),
            ("PROPN ADP PROPN", false, true),
            ("NOUN ADJ", false, false),
            ("VERB NOUN", false, false),
            ("NOUN ADP ADJ", false, false),
            ("NOUN x", false, false),
        ] {
            assert_eq!((fits(&["terms"], tags), fits(&["names"], tags)), (is_term, is_name), "{tags}");
        }
        assert!(fits(&["verb proper_noun|pronoun"], "VERB PRON"));
        for (written, told) in
            [("noun", "two or three"), ("noun nuon", "`nuon`"), ("noun noun noun noun", "two or three")]
        {
            assert!(TagPatterns::read([written]).is_err_and(|why| why.contains(told)), "{written}");
        }
    }
}
