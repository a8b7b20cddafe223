//! CoNLL-U, the open format of treebanks: ten columns a word, sentences parted by empty lines.

use std::fmt::Write as _;

use crate::part_of_speech::Tag;

/// A sentence of a treebank.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Sentence {
    /// The comment lines before it, with their `#`.
    pub comments: Vec<String>,
    /// Its words, with what the format calls multiword tokens and empty nodes left out.
    pub words: Vec<Word>,
}

/// A word of a treebank.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Word {
    /// As it stands in the text.
    pub form: String,
    /// Its lemma; none where the treebank gives none.
    pub lemma: Option<String>,
    /// Its part of speech; none where the treebank gives none.
    pub tag: Option<Tag>,
    /// Morphological features, such as `Number=Plur`, or nothing.
    pub features: String,
    /// The last column: pairs such as `SpaceAfter=No`, or nothing.
    pub misc: String,
    /// The line of the file that it stands in, from 1.
    pub line: usize,
}

/// What is wrong with a file that should be CoNLL-U.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("line {line}: {what}")]
pub struct MalformedTreebank {
    /// The line, from 1.
    pub line: usize,
    /// What is wrong there, in one sentence.
    pub what: String,
}

/// Reads a treebank.
///
/// # Errors
///
/// The first line that is neither a comment, nor empty, nor a word of ten columns with a tag that is known.
pub fn read_conllu(text: &str) -> Result<Vec<Sentence>, MalformedTreebank> {
    let mut sentences = Vec::new();
    let mut sentence = Sentence::default();
    for (index, line) in text.lines().enumerate() {
        let line = line.trim_end_matches('\r');
        let malformed = |what: String| MalformedTreebank { line: index + 1, what };
        if line.trim().is_empty() {
            if !sentence.words.is_empty() {
                sentences.push(std::mem::take(&mut sentence));
            }
            continue;
        }
        if line.starts_with('#') {
            sentence.comments.push(line.to_owned());
            continue;
        }
        let columns: Vec<&str> = line.split('\t').collect();
        if columns.len() != 10 {
            return Err(malformed(format!(
                "a word has 10 columns with tabs between them, and here are {}",
                columns.len()
            )));
        }
        // `1-2` covers words that come one by one, `1.1` is a word that is not in the text.
        if columns[0].contains(['-', '.']) {
            continue;
        }
        if columns[0].parse::<u32>().is_err() {
            return Err(malformed(format!("`{}` is not the number of a word", columns[0])));
        }
        let filled = |column: &str| (column != "_" && !column.is_empty()).then(|| column.to_owned());
        if columns[1].is_empty() {
            return Err(malformed("the word itself is missing".to_owned()));
        }
        let tag = match filled(columns[3]) {
            None => None,
            Some(code) => {
                let known = Tag::ALL.into_iter().find(|tag| tag.code() == code);
                Some(known.ok_or_else(|| malformed(format!("`{code}` is none of the 17 universal tags")))?)
            }
        };
        let lemma = if columns[1] == "_" { Some("_".to_owned()) } else { filled(columns[2]) };
        let features = filled(columns[5]).unwrap_or_default();
        let misc = filled(columns[9]).unwrap_or_default();
        sentence.words.push(Word {
            form: columns[1].to_owned(),
            lemma,
            tag,
            features,
            misc,
            line: index + 1,
        });
    }
    if !sentence.words.is_empty() {
        sentences.push(sentence);
    }
    Ok(sentences)
}

/// Writes a sentence, with the empty line behind it.
pub fn write_conllu(sentence: &Sentence, out: &mut String) {
    for comment in &sentence.comments {
        out.push_str(comment);
        out.push('\n');
    }
    for (index, word) in sentence.words.iter().enumerate() {
        let or_blank = |text: &str| if text.is_empty() { "_".to_owned() } else { cell(text) };
        // Writing to a text cannot fail.
        let _ = writeln!(
            out,
            "{}\t{}\t{}\t{}\t_\t{}\t_\t_\t_\t{}",
            index + 1,
            or_blank(&word.form),
            or_blank(word.lemma.as_deref().unwrap_or_default()),
            word.tag.map_or("_", Tag::code),
            or_blank(&word.features),
            or_blank(&word.misc),
        );
    }
    out.push('\n');
}

/// A text that can stand in a cell: white space that would end the cell becomes a space.
fn cell(text: &str) -> String {
    text.replace(['\t', '\n', '\r', '\u{2028}', '\u{2029}'], " ")
}

#[cfg(test)]
mod tests {
    use super::*;

    const TWO: &str = "# text = Don't!\n1-2\tDon't\t_\t_\t_\t_\t_\t_\t_\tSpaceAfter=No\n1\tDo\tdo\tAUX\t_\t_\t_\t_\t_\t_\n2\tn't\tnot\tPART\t_\t_\t_\t_\t_\t_\n3\t!\t!\tPUNCT\t_\t_\t_\t_\t_\t_\n\n1\tTerns\t_\t_\t_\t_\t_\t_\t_\t_\n";

    #[test]
    fn sentences_are_read_and_written() {
        let sentences = read_conllu(TWO).expect("read");
        assert_eq!(sentences.len(), 2);
        assert_eq!(sentences[0].words[1].lemma.as_deref(), Some("not"));
        assert_eq!((sentences[1].words[0].tag, sentences[1].words[0].line), (None, 7));
        let mut out = String::new();
        sentences.iter().for_each(|sentence| write_conllu(sentence, &mut out));
        let again = read_conllu(&out).expect("read");
        assert_eq!(
            again[0].words.iter().map(|word| word.tag).collect::<Vec<_>>(),
            [Some(Tag::Auxiliary), Some(Tag::Particle), Some(Tag::Punctuation)]
        );
    }

    #[test]
    fn faults_are_told_with_their_line() {
        for (text, line, part) in [
            ("1\tx\n", 1, "10 columns"),
            ("# x\n1\tx\tx\tNOM\t_\t_\t_\t_\t_\t_\n", 2, "`NOM`"),
            ("a\tx\tx\tX\t_\t_\t_\t_\t_\t_\n", 1, "not the number"),
        ] {
            let fault = read_conllu(text).expect_err("malformed");
            assert_eq!(fault.line, line);
            assert!(fault.what.contains(part), "{}", fault.what);
        }
    }
}
