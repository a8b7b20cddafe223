//! `yarrup check`: mistakes in a recipe, and advice on it.

use std::io::Write;

use serde_json::json;
use yarrup_core::recipe::{self, Advice, Verdict};
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
        let lost =
            advice.entries.iter().filter(|entry| entries || matches!(entry.verdict, Verdict::Unreachable(_)));
        let most = if entries { usize::MAX } else { 8 };
        let rows: Vec<Vec<String>> = lost
            .clone()
            .take(most)
            .map(|entry| {
                let (arrival, covered) = match &entry.verdict {
                    Verdict::Unreachable(arrival) => (Some(arrival), ""),
                    Verdict::Covered(arrival) => (Some(arrival), "nothing missed: another entry covers it"),
                    Verdict::Reachable => (None, ""),
                };
                let arrives = arrival.map_or_else(String::new, |arrival| match arrival.tokens.as_slice() {
                    [] => "never arrives".to_owned(),
                    tokens => tokens.iter().map(|token| visible(token)).collect::<Vec<_>>().join(" + "),
                });
                let step = arrival.map_or_else(String::new, |a| format!("{} {}", a.step, a.operation));
                vec![
                    visible(&entry.entry.word),
                    visible(&entry.entry.list),
                    arrives,
                    step,
                    covered.to_owned(),
                ]
            })
            .collect();
        let header = [
            ("entry", Align::Left),
            ("list", Align::Left),
            ("arrives as", Align::Left),
            ("because of step", Align::Left),
            ("", Align::Left),
        ];
        write!(out, "{}", table(&header, &rows, screen.look))?;
        let more = lost.count().saturating_sub(rows.len());
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
                   "what": advice.what, "why": advice.why, "fix": advice.fix, "entries": entries})
        })
        .collect();
    writeln!(out, "{:#}", json!({"recipe": compiled.path, "mistakes": [], "advice": advice}))?;
    out.flush()?;
    Ok(())
}
