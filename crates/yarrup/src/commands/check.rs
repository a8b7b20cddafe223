//! `yarrup check`: mistakes in a recipe, and advice on it.

use std::io::Write;

use serde_json::json;
use yarrup_core::recipe::{self, Advice, Arrival, EntryAdvice, Verdict};
use yarrup_report::{Align, counted, table, visible};

use crate::arguments::{CheckArguments, CheckFormat};
use crate::failure::{Exit, Failure};
use crate::recipe_file::{Compiled, compile};
use crate::screen::Screen;

pub(crate) fn check(arguments: &CheckArguments, screen: &Screen) -> Result<Exit, Failure> {
    let compiled = match (compile(&arguments.recipe), arguments.format) {
        (Err(Failure::Recipe { path, text, faults }), CheckFormat::Json) => {
            let mut out = screen.out();
            let mistakes: Vec<_> = faults
                .iter()
                .map(|fault| {
                    let line = text[..fault.span.start.min(text.len())].matches('\n').count() + 1;
                    json!({"title": fault.title, "line": line, "start": fault.span.start, "end": fault.span.end,
                           "label": fault.label, "help": fault.help})
                })
                .collect();
            writeln!(out, "{:#}", json!({"recipe": path, "mistakes": mistakes, "advice": []}))?;
            out.flush()?;
            return Ok(Exit::Unusable);
        }
        (compiled, _) => compiled?,
    };
    let advice = recipe::check(&compiled.recipe, &compiled.pipeline);
    match arguments.format {
        CheckFormat::Json => print_json(&compiled, &advice, screen)?,
        CheckFormat::Text => print_text(&compiled, &advice, arguments.entries, screen)?,
    }
    Ok(if advice.is_empty() { Exit::Done } else { Exit::Found })
}

fn print_text(compiled: &Compiled, advice: &[Advice], entries: bool, screen: &Screen) -> Result<(), Failure> {
    compiled.tell_put_in(screen);
    let mut out = screen.out();
    for advice in advice {
        writeln!(out, "{}", screen.advice(&compiled.path, &compiled.text, advice))?;
        let mut shown: Vec<&EntryAdvice> = advice
            .entries
            .iter()
            .filter(|entry| entries || matches!(entry.verdict, Verdict::Unreachable(_)))
            .collect();
        let all = shown.len();
        if !entries {
            // A few for each step that is the cause.
            shown.sort_by_key(|entry| arrival(entry).map_or(0, |arrival| arrival.step));
            let mut of_step = (0, 0);
            shown.retain(|entry| {
                let step = arrival(entry).map_or(0, |arrival| arrival.step);
                of_step = if of_step.0 == step { (step, of_step.1 + 1) } else { (step, 1) };
                of_step.1 <= EXAMPLES
            });
        }
        let rows: Vec<Vec<String>> = shown.iter().map(|entry| row(entry, entries)).collect();
        let mut header = vec![
            ("entry", Align::Left),
            ("list", Align::Left),
            ("arrives as", Align::Left),
            ("because of step", Align::Left),
        ];
        if entries {
            header.push(("is missed", Align::Left));
        }
        write!(out, "{}", table(&header, &rows, screen.look))?;
        let more = all - rows.len();
        if more > 0 {
            writeln!(out, "  and {more} more; --entries lists them all")?;
        }
        writeln!(out)?;
    }
    let steps = compiled.pipeline.steps().len() as u64;
    match advice.len() {
        0 => writeln!(out, "{}: no mistakes, nothing to advise ({})", compiled.path, counted(steps, "step"))?,
        count => writeln!(out, "{}: no mistakes, {}", compiled.path, counted(count as u64, "warning"))?,
    }
    out.flush()?;
    Ok(())
}

/// How many entries are shown for each step that is the cause.
const EXAMPLES: usize = 4;

fn arrival(entry: &EntryAdvice) -> Option<&Arrival> {
    match &entry.verdict {
        Verdict::Unreachable(arrival) | Verdict::Covered(arrival) => Some(arrival),
        Verdict::Reachable => None,
    }
}

fn row(entry: &EntryAdvice, with_verdict: bool) -> Vec<String> {
    let (arrives, step) = match arrival(entry) {
        Some(arrival) if arrival.tokens.is_empty() => ("never".to_owned(), arrival),
        Some(arrival) => {
            (arrival.tokens.iter().map(|token| visible(token)).collect::<Vec<_>>().join(" + "), arrival)
        }
        None => return vec![visible(&entry.entry.word)],
    };
    let step = format!("{} {}", step.step, step.operation);
    let mut cells = vec![visible(&entry.entry.word), visible(&entry.entry.list), arrives, step];
    if with_verdict {
        let missed = matches!(entry.verdict, Verdict::Unreachable(_));
        cells.push(if missed { "yes" } else { "no: another entry covers it" }.to_owned());
    }
    cells
}

fn print_json(compiled: &Compiled, advice: &[Advice], screen: &Screen) -> Result<(), Failure> {
    let mut out = screen.out();
    let advice: Vec<_> = advice
        .iter()
        .map(|advice| {
            let entries: Vec<_> = advice
                .entries
                .iter()
                .map(|entry| {
                    let (verdict, arrival) = match &entry.verdict {
                        Verdict::Unreachable(arrival) => ("unreachable", Some(arrival)),
                        Verdict::Covered(arrival) => ("covered", Some(arrival)),
                        Verdict::Reachable => ("reachable", None),
                    };
                    json!({"entry": entry.entry.word, "list": entry.entry.list, "verdict": verdict,
                           "arrives_as": arrival.map(|arrival| &arrival.tokens),
                           "because_of_step": arrival.map(|arrival| arrival.step)})
                })
                .collect();
            json!({"code": advice.code, "step": advice.step, "start": advice.span.start, "end": advice.span.end,
                   "what": advice.what, "because": advice.because,
                   "why": advice.why, "fixes": advice.fixes, "entries": entries})
        })
        .collect();
    writeln!(out, "{:#}", json!({"recipe": compiled.path, "mistakes": [], "advice": advice}))?;
    out.flush()?;
    Ok(())
}
