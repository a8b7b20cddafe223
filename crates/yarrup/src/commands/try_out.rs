//! `yarrup try`: one text through every step.

use std::borrow::Cow;
use std::io::{Read, Write};

use yarrup_core::{Fields, StepName, TextTrace, TokenFate, TokenStepTrace, TokenTrace, Trace};
use yarrup_io::{Item, Source};
use yarrup_report::{Look, Marked, counted, visible, wrapped};

use crate::arguments::TryArguments;
use crate::failure::{Exit, Failure, told};
use crate::recipe_file::{Compiled, compile};
use crate::screen::Screen;

pub(crate) fn try_out(arguments: &TryArguments, screen: &Screen) -> Result<Exit, Failure> {
    let compiled = compile(&arguments.recipe)?;
    match &arguments.from {
        Some(place) => document(arguments, place, &compiled, screen)?,
        None => {
            let text = match arguments.given_text.as_deref() {
                Some("-") | None => standard_input()?,
                Some(text) => text.to_owned(),
            };
            print(&compiled.pipeline.trace(&text, &GivenFields(&arguments.given)), &text, screen)?;
        }
    }
    Ok(Exit::Done)
}

fn standard_input() -> Result<String, Failure> {
    let mut bytes = Vec::new();
    std::io::stdin()
        .read_to_end(&mut bytes)
        .map_err(|why| Failure::File { path: "standard input".into(), why: why.to_string() })?;
    Ok(String::from_utf8_lossy(&bytes).into_owned())
}

/// Finds the document and shows its way through the recipe.
fn document(
    arguments: &TryArguments,
    place: &str,
    compiled: &Compiled,
    screen: &Screen,
) -> Result<(), Failure> {
    let mut source = Source::open(&arguments.reading.collection(&[place.to_owned()])?)?;
    let mut seen: Vec<String> = Vec::new();
    let mut first_bad = None;
    while let Some(batch) = source.next_batch() {
        let mut found = None;
        // Found ends the search: the error channel of the walk says so.
        let _ = batch.records(|item| {
            let record = match item {
                Item::Document(record) => record,
                Item::Malformed(bad) => {
                    first_bad.get_or_insert(bad);
                    return Ok(());
                }
                Item::LeftOut => return Ok(()),
            };
            if arguments.document.as_deref().is_none_or(|id| id == record.id) {
                found = Some((compiled.pipeline.trace(&record.text, &record), record.text.to_string()));
                if arguments.document.is_none() {
                    screen.tell(&format!("document {}", visible(&record.id)));
                }
                return Err(());
            }
            if seen.len() < 5 {
                seen.push(record.id.to_string());
            }
            Ok(())
        });
        if let Some((trace, text)) = found {
            return print(&trace, &text, screen);
        }
    }
    Err(Failure::Told(match (&arguments.document, first_bad) {
        (_, Some(bad)) if seen.is_empty() => told(&bad),
        (Some(id), _) if !seen.is_empty() => {
            format!("{place}: no document has the id `{id}`; the first ids are `{}`", seen.join("`, `"))
        }
        _ => format!("{place}: holds no document"),
    }))
}

/// The fields that were given on the command line.
struct GivenFields<'a>(&'a [(String, String)]);

impl Fields for GivenFields<'_> {
    fn field(&self, path: &str) -> Option<Cow<'_, str>> {
        self.0.iter().find(|(name, _)| name == path).map(|(_, value)| Cow::Borrowed(value.as_str()))
    }
}

/// The least and the most that the column of the steps' names may take.
const NAMES: (usize, usize) = (12, 28);

fn print(trace: &Trace<'_>, original: &str, screen: &Screen) -> Result<(), Failure> {
    let look = screen.look;
    let mut out = screen.out();
    let steps = trace.text_steps.iter().map(|step| step.step).chain([trace.split]);
    let steps = steps.chain(trace.token_steps.iter().map(|step| step.step));
    let names = steps.map(|step| name(step).chars().count() + 2).max().unwrap_or(0).clamp(NAMES.0, NAMES.1);
    let line = |out: &mut dyn Write, name: &str, pieces: &[Marked]| {
        let name: String = name.chars().take(names - 2).collect();
        writeln!(
            out,
            "{}  {}",
            look.heading(&format!("{name:<width$}", width = names - 2)),
            wrapped(pieces, names, look)
        )
    };
    let note = |out: &mut dyn Write, text: &str| writeln!(out, "{}{}", " ".repeat(names), look.faint(text));
    line(&mut out, "text", &[Marked::Same(original.to_owned())])?;
    let mut before = original;
    for step in &trace.text_steps {
        line(&mut out, &name(step.step), &text_pieces(step, before))?;
        note(&mut out, &text_note(step))?;
        before = &step.text;
    }
    line(&mut out, &name(trace.split), &token_pieces(&trace.tokens))?;
    let put_in = if trace.split.put_in { ", put in: the recipe has no split" } else { "" };
    note(&mut out, &format!("{}{put_in}", counted(trace.tokens.len() as u64, "token")))?;
    for step in &trace.token_steps {
        line(&mut out, &name(step.step), &fate_pieces(step))?;
        for text in fate_notes(step, look) {
            note(&mut out, &text)?;
        }
    }
    line(&mut out, "clean", &[Marked::Same(trace.clean.clone())])?;
    out.flush()?;
    Ok(())
}

fn name(step: &StepName) -> String {
    let named = step.label.as_deref().map_or_else(|| step.operation.to_owned(), visible);
    format!("{:>2} {named}", step.number)
}

fn text_pieces(step: &TextTrace<'_>, before: &str) -> Vec<Marked> {
    let mut pieces = Vec::new();
    let mut at = 0;
    for change in &step.changes {
        pieces.push(Marked::Same(step.text[at..change.now.start].to_owned()));
        let (was, now) = (&before[change.was.clone()], &step.text[change.now.clone()]);
        // A letter that changed its case is shown once; what was replaced or taken out is shown as it was as well.
        if was.to_lowercase() != now.to_lowercase() {
            pieces.push(Marked::Gone(was.to_owned()));
        }
        if !now.is_empty() {
            pieces.push(Marked::New(now.to_owned()));
        }
        at = change.now.end;
    }
    pieces.push(Marked::Same(step.text[at..].to_owned()));
    pieces.retain(|piece| !matches!(piece, Marked::Same(text) if text.is_empty()));
    // Neighbours of one fate are shown as one stretch.
    pieces.dedup_by(|next, piece| match (piece, next) {
        (Marked::Gone(text), Marked::Gone(more)) | (Marked::New(text), Marked::New(more)) => {
            text.push_str(more);
            true
        }
        _ => false,
    });
    pieces
}

fn text_note(step: &TextTrace<'_>) -> String {
    match (step.applied, step.matches) {
        (false, _) => NOT_DONE.to_owned(),
        (true, 0) => "nothing to change".to_owned(),
        (true, matches) => format!("{} changed", counted(matches, "place")),
    }
}

fn bordered(tokens: impl Iterator<Item = Marked>) -> Vec<Marked> {
    let mut pieces: Vec<Marked> = Vec::new();
    for token in tokens {
        if !pieces.is_empty() {
            pieces.push(Marked::Border);
        }
        pieces.push(token);
    }
    pieces
}

fn token_pieces(tokens: &[TokenTrace]) -> Vec<Marked> {
    bordered(tokens.iter().map(|token| Marked::Same(token.form.clone())))
}

fn fate_pieces(step: &TokenStepTrace<'_>) -> Vec<Marked> {
    bordered(step.tokens.iter().map(|(_, form, fate)| match fate {
        TokenFate::Kept => Marked::Same(form.clone()),
        TokenFate::Changed(to) => Marked::New(to.clone()),
        TokenFate::Dropped(_) => Marked::Gone(form.clone()),
    }))
}

/// What is said of a step whose condition does not hold.
const NOT_DONE: &str = "not done: its `only` does not hold for this document";

/// What a token step dropped, by reason, and what it changed.
fn fate_notes(step: &TokenStepTrace<'_>, look: Look) -> Vec<String> {
    if !step.applied {
        return vec![NOT_DONE.to_owned()];
    }
    let mut reasons: Vec<(&str, Vec<&str>)> = Vec::new();
    let mut changed = 0;
    for (_, form, fate) in &step.tokens {
        match fate {
            TokenFate::Kept => {}
            TokenFate::Changed(_) => changed += 1,
            TokenFate::Dropped(reason) => match reasons.iter_mut().find(|(known, _)| known == reason) {
                Some((_, forms)) => forms.push(form),
                None => reasons.push((reason, vec![form])),
            },
        }
    }
    let mut notes: Vec<String> = reasons
        .into_iter()
        .map(|(reason, mut forms)| {
            let count = counted(forms.len() as u64, "token");
            let mut seen = Vec::new();
            forms.retain(|form| {
                !seen.contains(form) && {
                    seen.push(form);
                    true
                }
            });
            let mut shown = String::new();
            for (index, form) in forms.iter().enumerate() {
                if shown.len() + form.len() + reason.len() + 40 > look.width {
                    shown.push_str(&format!(", {} more", forms.len() - index));
                    break;
                }
                shown.push_str(if index == 0 { "" } else { ", " });
                shown.push_str(&visible(form));
            }
            format!("{count} dropped, {}: {shown}", visible(reason))
        })
        .collect();
    if changed > 0 {
        notes.push(format!("{} changed", counted(changed, "token")));
    }
    if notes.is_empty() {
        notes.push("nothing to change".to_owned());
    }
    notes
}
