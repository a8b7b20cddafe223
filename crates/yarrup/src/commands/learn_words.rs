//! `yarrup learn --text` and `--uses-of`: what running text tells of words, for a tagger to learn with.

use std::fs::File;
use std::io::{BufRead as _, BufReader, Read as _};
use std::path::Path;

use yarrup_core::split::{Clitics, Splitter as _};
use yarrup_core::tag::{ClassCounts, WordClassLearner, WordUses};
use yarrup_io::{read_account, write_file};
use yarrup_report::{counted, grouped};

use crate::arguments::LearnArguments;
use crate::failure::{Exit, Failure};
use crate::screen::Screen;

/// The longest line that is read as one text.
const LONGEST_LINE: u64 = 64 << 20;

/// Classes of words, of plain text.
pub(super) fn learn_classes(
    arguments: &LearnArguments,
    out: &Path,
    screen: &Screen,
) -> Result<Exit, Failure> {
    let mut learner = WordClassLearner::default();
    for path in &arguments.text {
        read_lines(path, &arguments.language, &mut learner)?;
    }
    let tokens = learner.tokens();
    screen.tell(&format!(
        "{} read; every word is now put where it does best, in several rounds",
        counted(tokens, "token")
    ));
    let counts = ClassCounts {
        fine: usize::from(arguments.classes),
        coarse: usize::from(arguments.classes / 10).max(2),
        least: u64::from(arguments.least),
    };
    let classes = learner.learn(counts, |of_classes, round, moved| {
        let what = counted(moved as u64, if of_classes { "class" } else { "word" });
        screen.tell(&format!("  round {}: {what} moved", round + 1));
    });
    if classes.is_empty() {
        let least = counted(u64::from(arguments.least), "time");
        return Err(Failure::Sentence(format!(
            "no word of these texts comes {least} or more: give more text, or a smaller --least"
        )));
    }
    let what = format!("{} in classes", counted(classes.len() as u64, "word"));
    write_words(&what, &classes.to_text(), arguments, out, screen)
}

/// How a run uses words.
pub(super) fn count_uses(
    run: &Path,
    arguments: &LearnArguments,
    out: &Path,
    screen: &Screen,
) -> Result<Exit, Failure> {
    let account = read_account(run)?;
    let tagged = account.forms().filter_map(|form| Some((form.text, form.tag?, form.count)));
    let uses = WordUses::of_counts(tagged, u64::from(arguments.least));
    if uses.is_empty() {
        let (run, least) = (run.display(), counted(u64::from(arguments.least), "time"));
        return Err(Failure::Sentence(format!(
            "{run}: no word with a part of speech occurs {least} or more: the recipe needs a step `tag`, or --least a smaller number"
        )));
    }
    let what = format!("the uses of {}", counted(uses.len() as u64, "word"));
    write_words(&what, &uses.to_text(), arguments, out, screen)
}

/// Writes what was learned about words, and says what it is.
fn write_words(
    what: &str,
    text: &str,
    arguments: &LearnArguments,
    out: &Path,
    screen: &Screen,
) -> Result<Exit, Failure> {
    write_file(out, text.as_bytes(), arguments.replace)?;
    screen.tell(&format!("{what}: {} ({} bytes)", out.display(), grouped(text.len() as u64)));
    Ok(Exit::Done)
}

/// Each line of a file is a text of its own.
fn read_lines(path: &Path, language: &str, learner: &mut WordClassLearner) -> Result<(), Failure> {
    let told = |why: String| Failure::File { path: path.display().to_string(), why };
    let mut reader = BufReader::new(File::open(path).map_err(|error| told(error.to_string()))?);
    let splitter = Clitics::of(Some(language));
    let (mut line, mut spans, mut number) = (Vec::new(), Vec::new(), 0u64);
    loop {
        line.clear();
        number += 1;
        let read = reader.by_ref().take(LONGEST_LINE).read_until(b'\n', &mut line);
        if read.map_err(|error| told(error.to_string()))? == 0 {
            return Ok(());
        }
        if line.len() as u64 == LONGEST_LINE {
            return Err(told(format!("line {number} is longer than {} MB", LONGEST_LINE >> 20)));
        }
        let text = std::str::from_utf8(&line).map_err(|_| told(format!("line {number} is not UTF-8")))?;
        let shown = text.trim();
        if number == 1 && shown.starts_with('{') && shown.ends_with('}') {
            let help = "give plain text, a text on each line";
            return Err(told(format!(
                "looks like JSON Lines, whose names would be learned as words: {help}"
            )));
        }
        spans.clear();
        splitter.split(text, &mut spans);
        if !spans.is_empty() {
            learner.text(spans.iter().map(|span| span.of(text)));
        }
    }
}
