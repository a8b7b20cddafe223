//! `yarrup learn`: a tagger and lemmatiser from annotated text, and how good one is.

use std::io::Write as _;
use std::path::Path;

use serde_json::json;
use yarrup_core::Tag;
use yarrup_core::tag::{
    Evaluation, Model, RunningText, Sentence, WordClasses, WordUses, english, evaluate, learn as learn_model,
    read_conllu, write_conllu,
};
use yarrup_io::{read_bounded, refuse_taken, write_file};
use yarrup_report::{Align, counted, grouped, percent, table, visible};

use super::learn_words::{count_uses, learn_classes};
use crate::arguments::{CheckFormat, LearnArguments};
use crate::failure::{Exit, Failure, text_of, told_of_file};
use crate::screen::Screen;

pub(crate) fn learn(arguments: &LearnArguments, screen: &Screen) -> Result<Exit, Failure> {
    // Before any work is done.
    for path in arguments.out.iter().chain(&arguments.predictions) {
        refuse_taken(path, arguments.replace)?;
    }
    if let (false, Some(out)) = (arguments.text.is_empty(), &arguments.out) {
        return learn_classes(arguments, out, screen);
    }
    if let (Some(run), Some(out)) = (&arguments.uses_of, &arguments.out) {
        return count_uses(run, arguments, out, screen);
    }
    let sentences = read_all(&arguments.treebanks)?;
    let classes = arguments.word_classes.as_deref().map(|path| read_learned(path, WordClasses::from_text));
    let uses = arguments.word_uses.as_deref().map(|path| read_learned(path, WordUses::from_text));
    let (classes, uses) = (classes.transpose()?, uses.transpose()?);
    let text = RunningText { classes: classes.as_ref(), uses: uses.as_ref() };
    let learns = arguments.out.is_some();
    if learns && sentences.is_empty() {
        return Err(Failure::Sentence("name at least one treebank (CoNLL-U) to learn from".to_owned()));
    }
    if !learns && !sentences.is_empty() && arguments.folds.is_none() {
        return Err(Failure::Sentence(
            "say where the model is to be written, with --out; or compare with --folds".to_owned(),
        ));
    }
    if let Some(folds) = arguments.folds {
        let (figures, predicted) = across_folds(&sentences, usize::from(folds), text, arguments);
        if let Some(path) = &arguments.predictions {
            write_predictions(path, &predicted, arguments.replace)?;
        }
        let what = format!(
            "{} of {}, each by a model of the others",
            counted(sentences.len() as u64, "sentence"),
            shown(&arguments.treebanks)
        );
        print(&figures, &what, arguments, screen)?;
    }
    let mut own = None;
    if let Some(out) = &arguments.out {
        let words: usize = sentences.iter().map(|sentence| sentence.words.len()).sum();
        let about = format!(
            "learned from {}: {}, {}",
            shown(&arguments.treebanks),
            counted(sentences.len() as u64, "sentence"),
            counted(words as u64, "word")
        );
        let model = learn_model(&sentences, &arguments.language, &about, text);
        let bytes = model.to_bytes();
        write_file(out, &bytes, arguments.replace)?;
        screen.tell(&format!(
            "{about}; {} in {} ({} bytes)",
            counted(model.len() as u64, "feature"),
            out.display(),
            grouped(bytes.len() as u64)
        ));
        own = Some(model);
    }
    if let Some(gold) = &arguments.evaluate {
        let gold_sentences = read_treebank(gold)?;
        let model = match (&own, &arguments.model) {
            (Some(model), _) => model,
            (None, Some(path)) => own.insert(read_model(path)?),
            (None, None) => {
                if arguments.language != "en" {
                    return Err(Failure::Sentence(
                        "only the English model is on the shelf: name yours with --model".to_owned(),
                    ));
                }
                english()
            }
        };
        let (figures, predicted) = evaluate(model, &gold_sentences, &|form, tag| model.lemma_of(form, tag));
        if let Some(path) = &arguments.predictions {
            write_predictions(path, &predicted, arguments.replace)?;
        }
        let what = format!("{} of {}", counted(gold_sentences.len() as u64, "sentence"), gold.display());
        print(&figures, &what, arguments, screen)?;
    }
    Ok(Exit::Done)
}

fn shown(paths: &[std::path::PathBuf]) -> String {
    match paths {
        [one] => one.display().to_string(),
        many => counted(many.len() as u64, "file"),
    }
}

fn refused(path: &Path) -> impl Fn(std::io::Error) -> Failure {
    let path = path.display().to_string();
    move |why| Failure::File { path: path.clone(), why: told_of_file(&why) }
}

fn read_treebank(path: &Path) -> Result<Vec<Sentence>, Failure> {
    let told = |why: String| Failure::File { path: path.display().to_string(), why };
    let text = text_of(path)?;
    let sentences = read_conllu(&text).map_err(|fault| told(format!("is not CoNLL-U: {fault}")))?;
    if !sentences.iter().any(|sentence| sentence.words.iter().any(|word| word.tag.is_some())) {
        return Err(told("holds no word with a universal part of speech (the fourth column)".to_owned()));
    }
    Ok(sentences)
}

fn read_all(paths: &[std::path::PathBuf]) -> Result<Vec<Sentence>, Failure> {
    let mut sentences = Vec::new();
    for path in paths {
        sentences.extend(read_treebank(path)?);
    }
    Ok(sentences)
}

fn read_model(path: &Path) -> Result<Model, Failure> {
    let bytes = read_bounded(path).map_err(refused(path))?;
    Model::from_bytes(&bytes)
        .map_err(|fault| Failure::File { path: path.display().to_string(), why: fault.to_string() })
}

/// A file of what was learned from running text.
fn read_learned<T, E: ToString>(path: &Path, read: impl Fn(&str) -> Result<T, E>) -> Result<T, Failure> {
    let bytes = read_bounded(path).map_err(refused(path))?;
    let told = |fault: E| Failure::File { path: path.display().to_string(), why: fault.to_string() };
    read(&String::from_utf8_lossy(&bytes)).map_err(told)
}

fn write_predictions(path: &Path, sentences: &[Sentence], replace: bool) -> Result<(), Failure> {
    let mut out = String::new();
    for sentence in sentences {
        write_conllu(sentence, &mut out);
    }
    Ok(write_file(path, out.as_bytes(), replace)?)
}

/// Every sentence tagged by a model of those in other folds.
fn across_folds(
    sentences: &[Sentence],
    folds: usize,
    text: RunningText<'_>,
    arguments: &LearnArguments,
) -> (Evaluation, Vec<Sentence>) {
    let mut figures = Evaluation::default();
    let mut predicted: Vec<(usize, Sentence)> = Vec::new();
    // Examples of single words are learned from, but they are no text to be measured on.
    let (whole, examples): (Vec<Sentence>, Vec<Sentence>) =
        sentences.iter().cloned().partition(Sentence::is_tagged);
    for fold in 0..folds {
        let (own, others): (Vec<_>, Vec<_>) =
            whole.iter().enumerate().partition(|(number, _)| number % folds == fold);
        let [own, mut others] = [own, others]
            .map(|part| part.into_iter().map(|(_, sentence)| sentence.clone()).collect::<Vec<Sentence>>());
        others.extend_from_slice(&examples);
        let model = learn_model(&others, &arguments.language, "", text);
        let (found, tagged) = evaluate(&model, &own, &|form, tag| model.lemma_of(form, tag));
        figures.absorb(found);
        predicted
            .extend(tagged.into_iter().enumerate().map(|(place, sentence)| (place * folds + fold, sentence)));
    }
    predicted.sort_by_key(|(number, _)| *number);
    (figures, predicted.into_iter().map(|(_, sentence)| sentence).collect())
}

/// How many confusions and wrong lemmas are shown.
const SHOWN: usize = 15;

fn print(
    figures: &Evaluation,
    what: &str,
    arguments: &LearnArguments,
    screen: &Screen,
) -> Result<(), Failure> {
    let mut out = screen.out_as(arguments.format);
    if arguments.format == CheckFormat::Json {
        writeln!(out, "{:#}", as_json(figures))?;
        out.flush()?;
        return Ok(());
    }
    let look = screen.look;
    writeln!(out, "{}", look.heading(what))?;
    let line = |name: &str, right: u64, of: u64| {
        format!("  {name:<34} {:>8}   {} of {}", percent(right, of), grouped(right), grouped(of))
    };
    writeln!(out, "{}", line("parts of speech right", figures.right, figures.tagged))?;
    writeln!(out, "{}", line("of words not learned from", figures.unknown.1, figures.unknown.0))?;
    if figures.tagged > 0 && figures.unknown.0 == 0 {
        let note =
            "  every word here is one that the model has learned from: this says little about other text";
        writeln!(out, "{}", look.faint(note))?;
    }
    let (lemmas, given, guessed) = figures.lemmas;
    if lemmas > 0 {
        let (changing, changing_given, changing_guessed) = figures.changing_lemmas;
        writeln!(out, "{}", line("lemmas right, given the right tags", given, lemmas))?;
        writeln!(out, "{}", line("  where lemma and form differ", changing_given, changing))?;
        writeln!(out, "{}", line("lemmas right, given guessed tags", guessed, lemmas))?;
        writeln!(out, "{}", line("  where lemma and form differ", changing_guessed, changing))?;
    }
    writeln!(out)?;
    let header = [
        ("part of speech", Align::Left),
        ("words", Align::Right),
        ("found", Align::Right),
        ("of those guessed, right", Align::Right),
    ];
    let rows: Vec<Vec<String>> = figures
        .by_tag
        .iter()
        .map(|(tag, (words, right, guessed))| {
            let share = |of: u64| if of == 0 { "–".to_owned() } else { percent(*right, of) };
            vec![tag.name().to_owned(), grouped(*words), share(*words), share(*guessed)]
        })
        .collect();
    write!(out, "{}", table(&header, &rows, look))?;
    let mut confused: Vec<(&(Tag, Tag), &u64)> = figures.confused.iter().collect();
    confused.sort_by(|a, b| b.1.cmp(a.1).then(a.0.cmp(b.0)));
    if !confused.is_empty() {
        let header = [("is", Align::Left), ("taken for", Align::Left), ("times", Align::Right)];
        let rows: Vec<Vec<String>> = confused
            .iter()
            .take(SHOWN)
            .map(|((is, taken), count)| vec![is.name().to_owned(), taken.name().to_owned(), grouped(**count)])
            .collect();
        write!(out, "\n{}", table(&header, &rows, look))?;
    }
    if !figures.wrong_lemmas.is_empty() {
        let header = [
            ("word", Align::Left),
            ("part of speech", Align::Left),
            ("lemma", Align::Left),
            ("given", Align::Left),
        ];
        let rows: Vec<Vec<String>> = figures
            .wrong_lemmas
            .iter()
            .take(SHOWN)
            .map(|(form, tag, right, given)| {
                vec![visible(form), tag.name().to_owned(), visible(right), visible(given)]
            })
            .collect();
        write!(out, "\n{}", table(&header, &rows, look))?;
    }
    out.flush()?;
    Ok(())
}

fn as_json(figures: &Evaluation) -> serde_json::Value {
    let lemmas = |(words, given, guessed): (u64, u64, u64)| json!({ "words": words, "right_given_tags": given, "right_guessed_tags": guessed });
    json!({
        "words": figures.tagged,
        "right": figures.right,
        "accuracy": figures.accuracy(),
        "unknown_words": figures.unknown.0,
        "unknown_right": figures.unknown.1,
        "lemmas": lemmas(figures.lemmas),
        "changing_lemmas": lemmas(figures.changing_lemmas),
        "by_tag": figures.by_tag.iter().map(|(tag, (words, right, guessed))| {
            json!({ "tag": tag.code(), "words": words, "right": right, "guessed": guessed })
        }).collect::<Vec<_>>(),
        "confused": figures.confused.iter().map(|((is, taken), count)| {
            json!({ "is": is.code(), "taken_for": taken.code(), "count": count })
        }).collect::<Vec<_>>(),
        "wrong_lemmas": figures.wrong_lemmas.iter().map(|(form, tag, right, given)| {
            json!({ "form": form, "tag": tag.code(), "lemma": right, "given": given })
        }).collect::<Vec<_>>(),
    })
}
