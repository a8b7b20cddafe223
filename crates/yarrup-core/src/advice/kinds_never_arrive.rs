//! Kinds that are to be dropped but that the split never makes tokens of.

use crate::advice::samples::named;
use crate::advice::{Advice, Change, Fix, Reviewed};
use crate::kind::Kind;
use crate::recipe::codes::KINDS_NEVER_ARRIVE;
use crate::steps::split::INTO;

/// Kinds that `drop` is to drop but that the split never makes tokens of.
pub(super) fn advise(at: &Reviewed<'_>) -> Vec<Advice> {
    const PARTED: &[Kind] = &[
        Kind::Url,
        Kind::Email,
        Kind::Mention,
        Kind::Hashtag,
        Kind::Emoticon,
        Kind::Date,
        Kind::Time,
        Kind::Money,
        Kind::Percentage,
        Kind::Path,
        Kind::Ip,
    ];
    let pipeline = at.pipeline;
    let mut found = Vec::new();
    for stage in &pipeline.tokens {
        let mut lost = Vec::new();
        for &kind in stage.facts().drops_kinds().iter().filter(|kind| PARTED.contains(kind)) {
            let sample = format!("see {} there", Kind::SAMPLES[kind as usize]);
            let trace = pipeline.trace_up_to(&sample, pipeline.full_variant(), stage.step);
            let whole = trace
                .tokens
                .iter()
                .any(|token| token.kind == kind && token.form == Kind::SAMPLES[kind as usize]);
            // What of its parts passes the step: numbers may well be dropped as such.
            let behind = pipeline.trace_up_to(&sample, pipeline.full_variant(), stage.step + 1).clean;
            let parts: Vec<String> = behind
                .split_whitespace()
                .filter(|form| *form != "see" && *form != "there" && form.chars().any(char::is_alphanumeric))
                .map(str::to_owned)
                .collect();
            let masked =
                trace.tokens.iter().any(|token| token.form.starts_with('<') && token.form.ends_with('>'));
            if !whole && !parts.is_empty() && !masked {
                lost.push((kind, parts));
            }
        }
        if lost.is_empty() {
            continue;
        }
        let kinds: Vec<String> = lost.iter().map(|(kind, _)| format!("`{}`", kind.name())).collect();
        let what = format!("tokens of kind {} never arrive here", kinds.join(", "));
        let mut advice = at.advice(
            &KINDS_NEVER_ARRIVE,
            stage.step,
            what,
            "their parts arrive as words, numbers and marks",
        );
        advice.because = lost
            .iter()
            .take(4)
            .map(|(kind, parts)| {
                let parts: Vec<String> = parts.iter().map(|part| format!("`{part}`")).collect();
                format!("`{}` arrives as {}", Kind::SAMPLES[*kind as usize], parts.join(" + "))
            })
            .collect();
        let split = &pipeline.steps()[pipeline.split];
        let change = (!split.put_in).then(|| Change::Set {
            step: split.number,
            keys: vec![(INTO.facts.name, "\"posts\"".to_owned())],
        });
        advice.fixes = vec![Fix::change(
            format!("split into `posts`, which keeps them whole ({})", named(split)),
            change.filter(|_| at.into() == "words"),
        )];
        found.push(advice);
    }
    found
}
