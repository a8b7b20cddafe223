//! Links, mentions and hashtags that a split cannot keep whole, because their signs are gone.

use crate::advice::samples::{core_of, first_spoiler, named, text_before};
use crate::advice::{Advice, Change, Fix, Reviewed};
use crate::kind::Kind;
use crate::recipe::codes::SIGNS_LOST;
use crate::step::Role;
use crate::steps::split::HASHTAGS;

pub(super) fn advise(at: &Reviewed<'_>) -> Vec<Advice> {
    found(at).into_iter().collect()
}

fn found(at: &Reviewed<'_>) -> Option<Advice> {
    let pipeline = at.pipeline;
    let step = at.step(pipeline.split)?;
    if at.into() != "posts" || step.settings.get(&HASHTAGS) == Some("part") {
        return None;
    }
    let mut lost = Vec::new();
    for kind in [Kind::Mention, Kind::Hashtag, Kind::Url, Kind::Email] {
        let sample = format!("see {} there", Kind::SAMPLES[kind as usize]);
        let arrives = |text: &str| {
            let mut spans = Vec::new();
            pipeline.splitter.split(text, &mut spans);
            spans.iter().any(|span| Kind::of(span.of(text)) == kind)
        };
        let arrived = text_before(pipeline, &sample, pipeline.split);
        let core = core_of(Kind::SAMPLES[kind as usize]);
        if arrives(&arrived) || !core_of(&arrived).contains(&core) {
            continue;
        }
        let spoiler = first_spoiler(pipeline, &sample, pipeline.split, arrives);
        lost.push((kind, arrived, spoiler));
    }
    let (_, _, spoiler) = lost.first()?;
    let culprit = &pipeline.steps()[*spoiler];
    let kinds: Vec<String> = lost.iter().map(|(kind, ..)| format!("`{}`", kind.name())).collect();
    let what = format!("`posts` cannot keep tokens of kind {} whole", kinds.join(", "));
    let mut advice = at.advice(
        &SIGNS_LOST,
        pipeline.split,
        what,
        "the signs that identify them are gone, and their parts look like words",
    );
    advice.because = lost
        .iter()
        .map(|(kind, arrived, spoiler)| {
            let sample = Kind::SAMPLES[*kind as usize];
            format!(
                "`see {sample} there` arrives as `{}` because of {}",
                arrived.trim(),
                named(&pipeline.steps()[*spoiler])
            )
        })
        .collect();
    let change = (at.plays(*spoiler, Role::Erases)
        && at.step(*spoiler).is_some_and(|step| step.spare.words.is_empty() && step.spare.kinds.is_empty()))
    .then(|| Change::Set {
        step: culprit.number,
        keys: vec![(
            "spare",
            "{ kinds = [\"url\", \"email\", \"mention\", \"hashtag\", \"emoticon\"] }".to_owned(),
        )],
    });
    advice.fixes = vec![Fix::change(
        format!("spare these kinds in {}, or drop marks after the split with `drop`", named(culprit)),
        change,
    )];
    Some(advice)
}
