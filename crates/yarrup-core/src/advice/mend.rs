//! Changes to the text of a recipe that leave the rest of it as it was written.

use std::ops::Range;

use crate::advice::Change;
use crate::recipe::Recipe;

/// The text of a recipe with a change made. None if it cannot be made line by line: a step that was put in or comes from another recipe, a
/// value over several lines.
pub fn mend(text: &str, recipe: &Recipe, change: &Change) -> Option<String> {
    match change {
        Change::Set { step, keys } => {
            let block = block(text, recipe, *step)?;
            let mut lines: Vec<String> = text[block.clone()].lines().map(str::to_owned).collect();
            for (key, value) in keys {
                let line = lines.iter().position(|line| {
                    line.trim_start()
                        .strip_prefix(*key)
                        .is_some_and(|rest| rest.trim_start().starts_with('='))
                });
                match line {
                    Some(line) if is_whole(&lines[line]) => {
                        let comment = comment(&lines[line]).to_owned();
                        lines[line] = format!("{key} = {value}{comment}");
                    }
                    Some(_) => return None,
                    None => {
                        let last = lines.iter().rposition(|line| is_key(line))?;
                        lines.insert(last + 1, format!("{key} = {value}"));
                    }
                }
            }
            let mut changed = lines.join("\n");
            changed.push('\n');
            Some(format!("{}{changed}{}", &text[..block.start], &text[block.end..]))
        }
        Change::MoveBefore { step, before } => {
            let (moved, target) = (block(text, recipe, *step)?, block(text, recipe, *before)?);
            if moved.start < target.end {
                return None;
            }
            let mut body = text[moved.clone()].to_owned();
            if !body.ends_with("\n\n") {
                body.push('\n');
            }
            let rest = format!("{}{}", &text[target.start..moved.start], &text[moved.end..]);
            let rest = format!("{}\n", rest.trim_end());
            Some(format!("{}{body}{rest}", &text[..target.start]))
        }
    }
}

/// The comment at the end of a line, with the blanks before it.
fn comment(line: &str) -> &str {
    let mut quote = None;
    for (at, c) in line.char_indices() {
        match (quote, c) {
            (None, '"' | '\'') => quote = Some(c),
            (Some(open), c) if c == open => quote = None,
            (None, '#') => return &line[line[..at].trim_end().len()..],
            _ => {}
        }
    }
    ""
}

/// Whether the value on a line ends there.
fn is_whole(line: &str) -> bool {
    let count = |sign: char| line.matches(sign).count();
    count('[') == count(']') && count('{') == count('}') && !line.contains("'''") && !line.contains("\"\"\"")
}

fn is_key(line: &str) -> bool {
    let trimmed = line.trim_start();
    !trimmed.starts_with(['#', '[']) && trimmed.contains('=')
}

/// The lines of the step with this number, with the comment that stands right above, up to the comment or header of the next.
fn block(text: &str, recipe: &Recipe, number: usize) -> Option<Range<usize>> {
    // Numbers count a split that was put in; the text knows nothing of it.
    let starts: Vec<usize> = recipe.steps.iter().map(|step| step.span.start).collect();
    let has_split = recipe.steps.iter().any(|step| step.operation.stage == crate::step::Stage::Split);
    let first_token = recipe.steps.iter().position(|step| step.operation.stage.needs_tokens());
    let index = match (has_split, first_token) {
        (false, Some(first)) if number - 1 > first => number - 2,
        (false, Some(first)) if number - 1 == first => return None,
        _ => number - 1,
    };
    let step = recipe.steps.get(index).filter(|step| !step.span.is_empty() && step.included.is_none())?;
    let header = |before: usize| {
        let at = text[..before].rfind("[[step]]")?;
        // Comment lines right above belong to the step.
        let mut start = text[..at].rfind('\n').map_or(0, |at| at + 1);
        while start > 0 {
            let line_start = text[..start - 1].rfind('\n').map_or(0, |at| at + 1);
            if !text[line_start..start].trim_start().starts_with('#') {
                break;
            }
            start = line_start;
        }
        Some(start)
    };
    let next = starts.iter().copied().filter(|&start| start > step.span.start).min();
    let start = header(step.span.start)?;
    let end = next.and_then(header).unwrap_or(text.len());
    Some(start..end)
}
