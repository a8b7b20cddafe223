//! One text on its way through a recipe, as data.

use serde_json::{Value, json};
use yarrup_core::{TextTrace, TokenFate, TokenStepTrace, TokenTrace, Trace};

use crate::recipe_file::Compiled;

/// Every step: a text step with the text behind it and its changes, the split with its tokens and their spans (bytes of the original), and a token step with what
/// became of each token that came to it. Not further than the step with the number `end`.
pub(super) fn json(compiled: &Compiled, trace: &Trace<'_>, original: &str, end: usize) -> Value {
    let mut before = original;
    let mut steps: Vec<Value> = Vec::new();
    for step in &trace.text_steps {
        steps.push(text_step(step, before));
        before = &step.text;
    }
    let is_split = end >= trace.split.number;
    if is_split {
        let tokens: Vec<Value> = trace.tokens.iter().map(token).collect();
        let split = trace.split;
        steps.push(json!({"step": split.number, "do": split.operation, "label": split.label, "put_in": split.put_in, "tokens": tokens}));
        steps.extend(trace.token_steps.iter().map(|step| token_step(step, &trace.tokens)));
    }
    let clean = if is_split { Value::from(trace.clean.as_str()) } else { Value::Null };
    json!({"recipe": compiled.path, "text": original, "steps": steps, "clean": clean})
}

fn text_step(step: &TextTrace<'_>, before: &str) -> Value {
    let changes: Vec<Value> = step
        .changes
        .iter()
        .map(|change| {
            json!({"start": change.was.start, "end": change.was.end,
                   "was": &before[change.was.clone()], "now": &step.text[change.now.clone()]})
        })
        .collect();
    let sorts: Vec<Value> =
        step.sorts.iter().map(|(name, sort)| json!({"sort": name, "count": sort.count})).collect();
    json!({"step": step.step.number, "do": step.step.operation, "label": step.step.label, "applied": step.applied,
           "matches": step.matches, "sorts": sorts, "changes": changes, "text": step.text})
}

fn token(token: &TokenTrace) -> Value {
    json!({"form": token.form, "kind": token.kind.name(), "start": token.span.start, "end": token.span.end,
           "sentence": token.sentence})
}

fn token_step(step: &TokenStepTrace<'_>, tokens: &[TokenTrace]) -> Value {
    let told: Vec<Value> = step
        .tokens
        .iter()
        .map(|(place, form, fate)| {
            let (fate, what) = match fate {
                TokenFate::Kept => ("kept", Value::Null),
                TokenFate::Changed(to) => ("changed", to.as_str().into()),
                TokenFate::Dropped(reason) => ("dropped", reason.as_str().into()),
                TokenFate::Marked(mark) => ("marked", mark.as_str().into()),
                TokenFate::Joined(into) => ("joined", into.as_deref().into()),
                TokenFate::Added => ("added", Value::Null),
            };
            let span = tokens.get(*place).map(|token| token.span);
            json!({"form": form, "fate": fate, "what": what, "start": span.map(|span| span.start)})
        })
        .collect();
    json!({"step": step.step.number, "do": step.step.operation, "label": step.step.label, "applied": step.applied,
           "left_out": step.left_out, "tokens": told})
}
