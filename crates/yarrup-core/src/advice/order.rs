//! Orders of steps that cannot work as they are meant, found by sample texts.

use crate::advice::entries::text_before;
use crate::advice::{Advice, At, Change, Fix};
use crate::kind::Kind;
use crate::pipeline::{Pipeline, StepName};
use crate::run::trace::TokenFate;
use crate::span::Span;
use crate::step::{Form, Outcome, Stage};

pub(super) fn faults(at: &At<'_>) -> Vec<Advice> {
    let mut found = Vec::new();
    found.extend(never_finds(at));
    found.extend(kinds_never_arrive(at));
    found.extend(case_after_list(at));
    found.extend(sentences_lost(at));
    found.extend(signs_lost(at));
    found.extend(joined_words(at));
    found.extend(contraction_tails(at));
    found.extend(lines_gone(at));
    found.extend(words_not_split(at));
    found.extend(stems_nothing(at));
    found.extend(two_reducers(at));
    found.extend(tags_lost(at));
    found.extend(languages_disagree(at));
    found.extend(spaces_too_early(at));
    found
}

fn named(name: &StepName) -> String {
    format!("step {} (`{}`)", name.number, name.operation)
}

/// The letters and digits of a text in small letters, words parted by single spaces: what two texts have in common that differ in marks.
fn core_of(text: &str) -> String {
    let plain: String =
        text.to_lowercase().chars().map(|c| if c.is_alphanumeric() { c } else { ' ' }).collect();
    plain.split_whitespace().collect::<Vec<_>>().join(" ")
}

/// The index of the first step before `end` behind which `holds` is no longer true of the text.
fn first_spoiler(pipeline: &Pipeline, text: &str, end: usize, holds: impl Fn(&str) -> bool) -> usize {
    (0..end).find(|&step| !holds(&text_before(pipeline, text, step + 1))).unwrap_or(end.saturating_sub(1))
}

/// Text steps that cannot find their sample any more where they stand, although it is still there in pieces.
fn never_finds(at: &At<'_>) -> Vec<Advice> {
    let pipeline = at.pipeline;
    let mut found = Vec::new();
    for stage in &pipeline.text {
        let mut lost: Vec<(String, String, usize)> = Vec::new();
        for probe in stage.runs.probes() {
            let arrived = text_before(pipeline, &probe, stage.step);
            if arrived == probe || stage.matches(&arrived) || !stage.matches(&probe) {
                continue;
            }
            let left = core_of(&arrived);
            // What is gone altogether, or comes as the step would have left it, is no loss.
            if left.is_empty() || left == core_of(&stage.applied(&probe)) {
                continue;
            }
            let spoiler = first_spoiler(pipeline, &probe, stage.step, |text| stage.matches(text));
            lost.push((probe, arrived.trim().to_owned(), spoiler));
        }
        // Masking links on purpose before marks go is not to be told because another kind is lost: all that is lost by one step is one.
        let Some((_, _, spoiler)) = lost.first().cloned() else { continue };
        let (name, culprit) = (&pipeline.steps()[stage.step], &pipeline.steps()[spoiler]);
        if matches!(culprit.operation, "mask" | "replace" | "markup") {
            continue;
        }
        let what = format!("`{}` can never find what it looks for here", name.operation);
        let why = "an earlier step takes it to pieces, and the pieces stay in the text as words";
        let mut advice = at.advice("never-finds", stage.step, what, why);
        advice.because = lost
            .iter()
            .take(4)
            .map(|(probe, arrived, spoiler)| {
                let text = probe.replace('\n', "⏎");
                format!(
                    "`{text}` arrives as `{}` because of {}",
                    arrived.replace('\n', "⏎"),
                    named(&pipeline.steps()[*spoiler])
                )
            })
            .collect();
        advice.fixes = vec![Fix::change(
            format!("move {} to a place before {}", named(name), named(culprit)),
            Some(Change::MoveBefore { step: name.number, before: culprit.number }),
        )];
        found.push(advice);
    }
    found
}

/// Kinds that `drop` is to drop but that the split never makes tokens of.
fn kinds_never_arrive(at: &At<'_>) -> Vec<Advice> {
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
        let Some(step) = at.step(stage.step) else { continue };
        if step.operation.name != "drop" {
            continue;
        }
        let mut lost = Vec::new();
        for kind in step
            .settings
            .choices("kinds")
            .into_iter()
            .filter_map(Kind::named)
            .filter(|kind| PARTED.contains(kind))
        {
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
        let mut advice =
            at.advice("kinds-never-arrive", stage.step, what, "their parts pass as words, numbers and marks");
        advice.because = lost
            .iter()
            .take(4)
            .map(|(kind, parts)| {
                let parts: Vec<String> = parts.iter().map(|part| format!("`{part}`")).collect();
                format!("`{}` arrives as {}", Kind::SAMPLES[*kind as usize], parts.join(" + "))
            })
            .collect();
        let split = &pipeline.steps()[pipeline.split];
        let change = (!split.put_in)
            .then(|| Change::Set { step: split.number, keys: vec![("into", "\"posts\"".to_owned())] });
        advice.fixes = vec![Fix::change(
            format!("split into `posts`, which keeps them whole ({})", named(split)),
            change.filter(|_| {
                at.step(pipeline.split)
                    .is_some_and(|step| matches!(step.settings.choice("into"), None | Some("words")))
            }),
        )];
        found.push(advice);
    }
    found
}

/// Lists that compare letter case exactly, with a change of case behind them and none before.
fn case_after_list(at: &At<'_>) -> Vec<Advice> {
    let pipeline = at.pipeline;
    let mut found = Vec::new();
    for (place, stage) in pipeline.tokens.iter().enumerate() {
        let later = pipeline.tokens[place + 1..]
            .iter()
            .find(|later| pipeline.steps()[later.step].operation == "case");
        let Some(later) = later else { continue };
        let Some(step) = at.step(stage.step) else { continue };
        let escaped: Vec<(String, String)> = stage
            .facts()
            .entries()
            .iter()
            .take(40)
            .filter_map(|entry| {
                let mut chars = entry.word.chars();
                let capital: String = chars.next()?.to_uppercase().chain(chars).collect();
                let trace = pipeline.trace_up_to(&capital, pipeline.full_variant(), usize::MAX);
                (capital != entry.word && trace.clean == entry.word).then(|| (capital, entry.word.clone()))
            })
            .collect();
        let Some((capital, word)) = escaped.first() else { continue };
        let name = &pipeline.steps()[later.step];
        let what = format!("words with a capital pass this list, and {} makes entries of them", named(name));
        let mut advice = at.advice(
            "case-after-list",
            stage.step,
            what,
            "the list compares letter case exactly, and the case is changed only behind it",
        );
        advice.because = vec![format!("`{capital}` passes, and stays in as `{word}`")];
        advice.fixes = vec![Fix::change(
            format!("move {} to a place before {}", named(name), named(&pipeline.steps()[stage.step])),
            Some(Change::MoveBefore { step: name.number, before: pipeline.steps()[stage.step].number }),
        )];
        if step.operation.keys.iter().any(|key| key.name == "case") {
            advice.fixes.push(Fix::told(format!(
                "or take `case = \"exact\"` out of {}",
                named(&pipeline.steps()[stage.step])
            )));
        }
        found.push(advice);
    }
    found
}

/// A text whose sentences only marks and capitals tell apart.
const SENTENCES: &str = "Dr. Sand came at 5 p.m. with J. Reed. The terns were back, e.g. on the spit. Did they nest? Yes! They did.";

fn sentences_lost(at: &At<'_>) -> Option<Advice> {
    let pipeline = at.pipeline;
    let splitter = pipeline.splitter.sentences()?;
    let count = |text: &str| {
        let mut spans: Vec<Span> = Vec::new();
        splitter.split(text, &mut spans);
        spans.len()
    };
    let expected = count(SENTENCES);
    let arrived = count(&text_before(pipeline, SENTENCES, pipeline.split));
    if arrived == expected {
        return None;
    }
    let spoiler = first_spoiler(pipeline, SENTENCES, pipeline.split, |text| count(text) == expected);
    let culprit = &pipeline.steps()[spoiler];
    let what = format!("sentences cannot be told apart here: of {expected} in a sample, {arrived} are found");
    let mut advice = at.advice(
        "sentences-lost",
        pipeline.split,
        what,
        "full stops and capitals tell where a sentence ends",
    );
    advice.because = vec![format!("{} takes away what tells them apart", named(culprit))];
    let both_sides = at.step(spoiler).is_some_and(|step| step.operation.stage == Stage::TextOrToken);
    let told = match (both_sides, culprit.operation) {
        (true, _) => format!("move {} to a place behind the split", named(culprit)),
        (_, "erase") => format!("spare the marks that end sentences in {}", named(culprit)),
        _ => format!("take {} out", named(culprit)),
    };
    let change = match (both_sides, culprit.operation) {
        // The split comes to stand before it: the same, and the text steps between stay before the split.
        (false, "erase")
            if at
                .step(spoiler)
                .is_some_and(|step| step.spare.words.is_empty() && step.spare.kinds.is_empty()) =>
        {
            Some(Change::Set {
                step: culprit.number,
                keys: vec![("spare", "[\".\", \"!\", \"?\", \"…\"]".to_owned())],
            })
        }
        (true, _) if spoiler + 1 == pipeline.split => {
            Some(Change::MoveBefore { step: pipeline.steps()[pipeline.split].number, before: culprit.number })
        }
        _ => None,
    };
    advice.fixes = vec![Fix::change(told, change)];
    Some(advice)
}

fn signs_lost(at: &At<'_>) -> Option<Advice> {
    let pipeline = at.pipeline;
    let step = at.step(pipeline.split)?;
    if step.settings.choice("into") != Some("posts") || step.settings.choice("hashtags") == Some("part") {
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
        "signs-lost",
        pipeline.split,
        what,
        "the signs that tell them are gone, and their parts pass as words",
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
    let change = (culprit.operation == "erase"
        && at.step(*spoiler).is_some_and(|step| step.spare.words.is_empty() && step.spare.kinds.is_empty()))
    .then(|| Change::Set {
        step: culprit.number,
        keys: vec![(
            "spare",
            "{ kinds = [\"url\", \"email\", \"mention\", \"hashtag\", \"emoticon\"] }".to_owned(),
        )],
    });
    advice.fixes = vec![Fix::change(
        format!("spare these kinds in {}, or drop marks behind the split with `drop`", named(culprit)),
        change,
    )];
    Some(advice)
}

/// Texts in which a mark parts two words.
const PARTED: [&str; 5] = ["nest-box", "and/or", "terns,gulls", "left.Then", "wait…no"];

fn joined_words(at: &At<'_>) -> Vec<Advice> {
    let pipeline = at.pipeline;
    let mut found = Vec::new();
    for stage in &pipeline.text {
        let Some(step) = at.step(stage.step) else { continue };
        if step.operation.name != "erase" || step.settings.choice("to") != Some("nothing") {
            continue;
        }
        let joined: Vec<(&str, String)> = PARTED
            .into_iter()
            .map(|text| (text, text_before(pipeline, text, stage.step + 1)))
            .filter(|(text, after)| {
                *after == text.chars().filter(|c| c.is_alphanumeric()).collect::<String>()
                    || (after.to_lowercase()
                        == text.to_lowercase().chars().filter(|c| c.is_alphanumeric()).collect::<String>())
            })
            .collect();
        // That a hyphen alone is deleted may well be meant: `e-mail`.
        if joined.len() < 2 {
            continue;
        }
        let name = &pipeline.steps()[stage.step];
        let mut advice = at.advice(
            "joined-words",
            stage.step,
            "erasing marks to nothing joins the words that they part",
            "the joined words are words of nobody",
        );
        advice.because =
            joined.iter().take(3).map(|(text, after)| format!("`{text}` becomes `{after}`")).collect();
        let mut keys = vec![("to", "\"space\"".to_owned())];
        if !step.settings.has("inside_words") && !step.spare.words.iter().any(|word| word == "'") {
            keys.push(("inside_words", "[\"apostrophes\"]".to_owned()));
        }
        advice.fixes = vec![Fix::change(
            format!("put a space in their place in {}, and leave apostrophes inside words", named(name)),
            Some(Change::Set { step: name.number, keys }),
        )];
        found.push(advice);
    }
    found
}

/// Contracted forms whose tails are no words.
const CONTRACTED: &str =
    "I don't think it's here and they'll see we've won, you're late, I'm sure, he'd go to Mira's nest";
/// Their tails.
const TAILS: &[&str] = &["s", "t", "ll", "ve", "re", "m", "d", "don", "isn"];

fn contraction_tails(at: &At<'_>) -> Option<Advice> {
    let pipeline = at.pipeline;
    let language = at.recipe.language.as_deref().unwrap_or("en");
    let into = at.step(pipeline.split).and_then(|step| step.settings.choice("into")).unwrap_or("words");
    if !language.starts_with("en")
        || !matches!(into, "words" | "spaces" | "posts")
        || pipeline.is_text_recipe()
    {
        return None;
    }
    let trace = pipeline.trace_up_to(CONTRACTED, pipeline.full_variant(), usize::MAX);
    let tails: Vec<&str> = TAILS
        .iter()
        .copied()
        .filter(|tail| trace.clean.split_whitespace().any(|term| term.eq_ignore_ascii_case(tail)))
        .collect();
    if tails.len() < 2 {
        return None;
    }
    let has_tail = |text: &str| {
        text.split(|c: char| !c.is_alphanumeric() && !matches!(c, '\'' | '’'))
            .any(|word| TAILS[..7].contains(&word.to_lowercase().as_str()))
    };
    let spoiler = (0..pipeline.split).find(|&step| has_tail(&text_before(pipeline, CONTRACTED, step + 1)));
    let index = spoiler.unwrap_or(pipeline.split);
    let name = &pipeline.steps()[index];
    let listed: Vec<String> = tails.iter().map(|tail| format!("`{tail}`")).collect();
    let mut advice = at.advice(
        "contraction-tails",
        index,
        format!("the tails of contracted forms are left as terms: {}", listed.join(", ")),
        "they are no words, and stand high in every list",
    );
    advice.because = vec![format!("{} parts `don't` and `it's` at the apostrophe", named(name))];
    let change = match name.operation {
        "erase" if at.step(index).is_some_and(|step| !step.settings.has("inside_words")) => {
            Some(Change::Set {
                step: name.number,
                keys: vec![("inside_words", "[\"apostrophes\"]".to_owned())],
            })
        }
        "split" if !name.put_in => {
            Some(Change::Set { step: name.number, keys: vec![("apostrophes", "\"keep\"".to_owned())] })
        }
        _ => None,
    };
    advice.fixes = vec![Fix::change(
        format!(
            "leave apostrophes inside words in {}, or write contracted forms out before it with `contractions`",
            named(name)
        ),
        change,
    )];
    Some(advice)
}

/// Lines that are to be dropped behind a step that has joined all lines.
fn lines_gone(at: &At<'_>) -> Option<Advice> {
    const SAMPLE: &str = "one line\nanother line";
    let pipeline = at.pipeline;
    let steps = pipeline.steps();
    let stage = pipeline.text.iter().find(|stage| {
        at.step(stage.step).is_some_and(|step| {
            let drops = ["drop", "known", "repeated_in"].iter().any(|key| step.settings.has(key));
            step.operation.name == "lines" && drops
        })
    })?;
    if text_before(pipeline, SAMPLE, stage.step).contains('\n') {
        return None;
    }
    let spoiler = first_spoiler(pipeline, SAMPLE, stage.step, |text| text.contains('\n'));
    let (name, culprit) = (&steps[stage.step], &steps[spoiler]);
    let what = "`lines` has but one line to drop here";
    let mut advice = at.advice(
        "never-finds",
        stage.step,
        what,
        "all line breaks are gone, so that a pattern meets the whole text",
    );
    advice.because = vec![format!("{} makes spaces of line breaks", named(culprit))];
    advice.fixes = vec![Fix::change(
        format!("move {} to a place before {}", named(name), named(culprit)),
        Some(Change::MoveBefore { step: name.number, before: culprit.number }),
    )];
    Some(advice)
}

/// Steps for single words behind a split that makes larger tokens.
fn words_not_split(at: &At<'_>) -> Option<Advice> {
    let pipeline = at.pipeline;
    let split = at.step(pipeline.split)?;
    let into = split.settings.choice("into").unwrap_or("words");
    if pipeline.splitter.parts_words() || into == "pattern" {
        return None;
    }
    let steps = pipeline.steps();
    let stage = pipeline
        .tokens
        .iter()
        .find(|stage| matches!(steps[stage.step].operation, "stopwords" | "stem" | "lemma" | "accents"))?;
    if steps[stage.step].operation == "accents" {
        return None;
    }
    let name = &steps[stage.step];
    let what = format!(
        "`{}` is for single words, and the tokens are {}",
        name.operation,
        if split.settings.has("group") { "groups" } else { into }
    );
    let mut advice = at.advice(
        "words-not-split",
        stage.step,
        what,
        "no whole sentence, line or group is a word of any list",
    );
    advice.because = vec![format!("{} makes one token of each", named(&steps[pipeline.split]))];
    let change = (into == "sentences" && !split.settings.has("group")).then(|| Change::Set {
        step: steps[pipeline.split].number,
        keys: vec![("into", "\"words\"".to_owned()), ("sentences", "true".to_owned())],
    });
    advice.fixes = vec![Fix::change("split into words and keep the sentences".to_owned(), change)];
    Some(advice)
}

/// Stemmers that meet words in a shape that they leave alone.
fn stems_nothing(at: &At<'_>) -> Option<Advice> {
    const SAMPLE: &str = "nesting";
    let pipeline = at.pipeline;
    let steps = pipeline.steps();
    let stage = pipeline.tokens.iter().find(|stage| steps[stage.step].operation == "stem")?;
    let changes = |text: &str| stage.apply(&Form::new(text), pipeline.full_variant()) != Outcome::Keep;
    let arrived = pipeline.trace_up_to(SAMPLE, pipeline.full_variant(), stage.step).clean;
    if !changes(SAMPLE) || changes(&arrived) || arrived.to_lowercase() != SAMPLE {
        return None;
    }
    let culprit = steps[..stage.step].iter().find(|name| name.operation == "case")?;
    let name = &steps[stage.step];
    let mut advice = at.advice(
        "never-finds",
        stage.step,
        "`stem` leaves every word as it is here",
        "the stemmers are for small letters",
    );
    advice.because = vec![format!("`{SAMPLE}` arrives as `{arrived}` because of {}", named(culprit))];
    advice.fixes = vec![Fix::told(format!(
        "let {} change to small letters, or move it behind {}",
        named(culprit),
        named(name)
    ))];
    Some(advice)
}

/// A tagger that reads sentences out of which words or full stops have been taken.
fn tags_lost(at: &At<'_>) -> Option<Advice> {
    const SAMPLE: &str = "The wardens were counting two nests. They left.";
    let pipeline = at.pipeline;
    let steps = pipeline.steps();
    let stage = pipeline.tokens.iter().find(|stage| steps[stage.step].operation == "tag")?;
    let trace = pipeline.trace_up_to(SAMPLE, pipeline.full_variant(), stage.step);
    let spoils = |fate: &TokenFate, form: &str| match fate {
        TokenFate::Dropped(_) | TokenFate::Joined(_) => true,
        TokenFate::Changed(to) => to.to_lowercase() != form.to_lowercase(),
        _ => false,
    };
    let text = trace.text_steps.iter().find(|step| !step.text.contains('.')).map(|step| step.step);
    let token = trace
        .token_steps
        .iter()
        .find(|step| step.tokens.iter().any(|(_, form, fate)| spoils(fate, form)))
        .map(|step| step.step);
    let culprit = text.or(token)?;
    let name = &steps[stage.step];
    let mut advice = at.advice(
        "tags-lost",
        stage.step,
        "`tag` reads sentences out of which something has been taken",
        "parts of speech are told by the words around, and sentences by their full stops",
    );
    let left: Vec<&str> = trace.clean.split_whitespace().collect();
    advice.because = vec![format!("behind {} `{SAMPLE}` is `{}`", named(culprit), left.join(" "))];
    let to = if text.is_some() {
        format!("move {} behind {}", named(culprit), named(name))
    } else {
        format!("move {} before {}", named(name), named(culprit))
    };
    let to = if text.is_some() { format!("{to}, as `drop` with `kinds = [\"punctuation\"]`") } else { to };
    let change = text.is_none().then_some(Change::MoveBefore { step: name.number, before: culprit.number });
    advice.fixes = vec![Fix::change(to, change)];
    Some(advice)
}

fn two_reducers(at: &At<'_>) -> Option<Advice> {
    let mut reducers = at
        .pipeline
        .tokens
        .iter()
        .filter(|stage| matches!(at.pipeline.steps()[stage.step].operation, "stem" | "lemma"));
    let first = reducers.next()?;
    let both_work = |second: &&crate::pipeline::TokenStage| {
        let only = |index| at.step(index).and_then(|step| step.only.clone());
        only(first.step).is_none() || only(second.step).is_none() || only(first.step) == only(second.step)
    };
    let second = reducers.find(both_work)?;
    let steps = at.pipeline.steps();
    let what = format!("words that {} has cut down are cut down again", named(&steps[first.step]));
    let mut advice =
        at.advice("two-reducers", second.step, what, "a stem is no word, and what is cut from it is chance");
    let sample = "organisations generalised nesting";
    let trace = at.pipeline.trace_up_to(sample, at.pipeline.full_variant(), second.step + 1);
    advice.because = vec![format!("`{sample}` becomes `{}`", trace.clean)];
    advice.fixes =
        vec![Fix::told(format!("take {} or {} out", named(&steps[first.step]), named(&steps[second.step])))];
    Some(advice)
}

/// The language of a list on the shelf: `en-long` is English.
fn list_language(name: &str) -> &str {
    name.split('-').next().unwrap_or(name)
}

fn languages_disagree(at: &At<'_>) -> Vec<Advice> {
    let Some(language) = at.recipe.language.as_deref() else { return Vec::new() };
    let primary = language.split('-').next().unwrap_or(language);
    let mut found = Vec::new();
    for (index, name) in at.pipeline.steps().iter().enumerate() {
        let Some(step) = at.step(index).filter(|step| step.only.is_none()) else { continue };
        let others: Vec<String> = match step.operation.name {
            // Without a method the stemmer is that of the language.
            "stem" if primary != "en" => match step.settings.choice("method") {
                Some("own" | "light") | None => Vec::new(),
                Some(method) => vec![format!("`{method}` is for English")],
            },
            "stopwords" => {
                let lists = step
                    .settings
                    .references()
                    .filter(|list| !list.is_file() && list_language(&list.name) != primary);
                // A recipe for one language may well drop the function words of others beside its own.
                let has_own = step.settings.references().any(|list| list_language(&list.name) == primary);
                if has_own {
                    Vec::new()
                } else {
                    lists.map(|list| format!("the list `{}` is for another language", list.name)).collect()
                }
            }
            _ => Vec::new(),
        };
        if others.is_empty() {
            continue;
        }
        let what = format!("the recipe is for `{language}`, and {} is not", named(name));
        let mut advice = at.advice(
            "languages-disagree",
            index,
            what,
            "rules and words of one language do harm in another",
        );
        advice.because = others;
        advice.fixes = vec![Fix::told(
            "change the recipe's `language`, or say with `only = { language = \"…\" }` on which documents the step works",
        )];
        found.push(advice);
    }
    found
}

/// A text recipe that makes white space one, and then leaves more of it.
fn spaces_too_early(at: &At<'_>) -> Option<Advice> {
    let pipeline = at.pipeline;
    let spaces =
        pipeline.text.iter().rev().find(|stage| pipeline.steps()[stage.step].operation == "spaces")?;
    if !pipeline.is_text_recipe() {
        return None;
    }
    let sample = format!(
        "see {} and {} now, or not - at {} 5 + 3 <b>here</b> 🐦 end",
        Kind::SAMPLES[Kind::Url as usize],
        Kind::SAMPLES[Kind::Mention as usize],
        Kind::SAMPLES[Kind::Email as usize]
    );
    let after = text_before(pipeline, &sample, pipeline.split);
    let at_spaces = text_before(pipeline, &sample, spaces.step + 1);
    if !after.contains("  ") || at_spaces.contains("  ") {
        return None;
    }
    let culprit = (spaces.step + 1..pipeline.split)
        .find(|&step| text_before(pipeline, &sample, step + 1).contains("  "))?;
    let steps = pipeline.steps();
    let mut advice = at.advice(
        "spaces-too-early",
        spaces.step,
        format!("{} leaves more white space behind it", named(&steps[culprit])),
        "the cleaned text has runs of spaces that this step was to take out",
    );
    advice.because = vec![format!("`{}` comes out", after.split_inclusive("  ").next().unwrap_or_default())];
    advice.fixes = vec![Fix::change(
        format!("move {} behind {}", named(&steps[spaces.step]), named(&steps[culprit])),
        None,
    )];
    Some(advice)
}

#[cfg(test)]
mod tests {
    use crate::advice::{check, mend};
    use crate::recipe::read;
    use crate::testing;

    fn codes(steps: &[&str]) -> Vec<(&'static str, usize)> {
        let text = recipe(steps);
        let read = read(&text).expect("no mistakes");
        check(&read, &testing::pipeline(&text)).into_iter().map(|advice| (advice.code, advice.step)).collect()
    }

    fn recipe(steps: &[&str]) -> String {
        steps.iter().map(|step| format!("[[step]]\ndo = {}\n\n", step.replace("; ", "\n"))).collect()
    }

    const ERASE: &str = "\"erase\"; classes = [\"punctuation\"]";
    const GLUE: &str =
        "\"erase\"; classes = [\"punctuation\"]; to = \"nothing\"; inside_words = [\"apostrophes\"]";

    type Case = (&'static [&'static str], &'static [(&'static str, usize)]);

    /// Orders that cannot work, with what is told of them.
    const WRONG: &[Case] = &[
        (
            &[
                "\"erase\"; classes = [\"punctuation\"]; inside_words = [\"apostrophes\"]",
                "\"mask\"; kinds = [\"url\", \"email\"]",
                "\"split\"",
            ],
            &[("never-finds", 2)],
        ),
        (&["\"erase\"; classes = [\"symbols\"]", "\"markup\"", "\"split\""], &[("never-finds", 2)]),
        (&["\"spaces\"", "\"lines\"; rejoin = true", "\"split\""], &[("never-finds", 2)]),
        (&["\"case\"", "\"unicode\"; repair = true", "\"split\""], &[("never-finds", 2)]),
        (&["\"split\"", "\"drop\"; kinds = [\"url\", \"punctuation\"]"], &[("kinds-never-arrive", 2)]),
        (
            &["\"split\"", "\"stopwords\"; lists = [\"en\"]; case = \"exact\"", "\"case\""],
            &[("case-after-list", 2)],
        ),
        (
            &[
                "\"erase\"; classes = [\"punctuation\"]; inside_words = [\"apostrophes\"]",
                "\"split\"; into = \"sentences\"",
            ],
            &[("sentences-lost", 2)],
        ),
        (&["\"case\"", "\"split\"; sentences = true"], &[("sentences-lost", 2)]),
        (
            &[
                "\"erase\"; classes = [\"punctuation\"]; inside_words = [\"apostrophes\"]",
                "\"split\"; into = \"posts\"",
            ],
            &[("signs-lost", 2)],
        ),
        (&[GLUE, "\"split\""], &[("joined-words", 1)]),
        (&[ERASE, "\"split\""], &[("contraction-tails", 1)]),
        (
            &["\"split\"; apostrophes = \"part\"", "\"drop\"; kinds = [\"punctuation\"]"],
            &[("contraction-tails", 1)],
        ),
        (&["\"spaces\"", "\"lines\"; drop = ['^--']", "\"split\""], &[("never-finds", 2)]),
        (&["\"split\"; into = \"sentences\"", "\"stopwords\"; lists = [\"en\"]"], &[("words-not-split", 2)]),
        (&["\"case\"; to = \"upper\"", "\"split\"", "\"stem\""], &[("never-finds", 3)]),
        (&["\"case\"", "\"split\"", "\"stem\"; spare = [\"US\", \"tern\"]"], &[("unreachable-entries", 3)]),
        (&["\"split\"", "\"stem\"", "\"stem\"; method = \"porter\""], &[("two-reducers", 3)]),
        (&["\"spaces\"", "\"mask\"; kinds = [\"url\"]; to = \"nothing\""], &[("spaces-too-early", 1)]),
        (&["\"split\"", "\"stopwords\"; lists = [\"en\"]", "\"tag\""], &[("tags-lost", 3)]),
        (
            &[
                "\"erase\"; classes = [\"punctuation\"]; inside_words = [\"apostrophes\"]",
                "\"split\"",
                "\"tag\"",
            ],
            &[("tags-lost", 3)],
        ),
    ];

    #[test]
    fn wrong_orders_are_told() {
        let mut wrong = Vec::new();
        for (steps, expected) in WRONG {
            let found = codes(steps);
            if found != *expected {
                wrong.push(format!("{steps:?}\n  {found:?}"));
            }
        }
        assert!(wrong.is_empty(), "{}", wrong.join("\n"));
    }

    #[test]
    fn languages_are_compared() {
        let text = "language = \"de\"\n[[step]]\ndo = \"stopwords\"\nlists = [\"en\"]\n[[step]]\ndo = \"stem\"\nmethod = \"porter\"\n";
        let found = check(&read(text).expect("read"), &testing::pipeline(text));
        assert_eq!(found.iter().map(|advice| advice.code).collect::<Vec<_>>(), ["languages-disagree"; 2]);
        let only = text
            .replace("lists = [\"en\"]", "lists = [\"en\"]\nonly = { language = \"en\" }")
            .replace("\"stem\"\n", "\"stem\"\nonly = { language = \"en\" }\n");
        assert_eq!(check(&read(&only).expect("read"), &testing::pipeline(&only)), []);
    }

    #[test]
    fn good_orders_get_no_advice() {
        let good: &[&[&str]] = &[
            &[
                "\"unicode\"",
                "\"markup\"",
                "\"mask\"; kinds = [\"url\", \"email\"]",
                "\"contractions\"",
                "\"case\"",
                "\"split\"",
                "\"stopwords\"; lists = [\"en\"]",
                "\"stem\"",
            ],
            &[
                "\"mask\"; kinds = [\"url\"]",
                "\"erase\"; classes = [\"punctuation\"]; inside_words = [\"apostrophes\"]",
                "\"split\"",
                "\"stopwords\"; lists = [\"en\"]",
            ],
            &[
                "\"contractions\"",
                "\"erase\"; classes = [\"punctuation\"]; inside_words = [\"apostrophes\"]",
                "\"case\"",
                "\"split\"",
                "\"drop\"; shorter_than = 2",
            ],
            &[
                "\"split\"; into = \"posts\"",
                "\"drop\"; kinds = [\"url\", \"mention\", \"punctuation\"]",
                "\"case\"",
                "\"stopwords\"; lists = [\"en\"]",
            ],
            &["\"split\"; into = \"sentences\""],
            &["\"split\"; into = \"clitics\"", "\"case\"", "\"stopwords\"; lists = [\"en\"]"],
            &[
                "\"unicode\"",
                "\"contractions\"",
                "\"erase\"; classes = [\"punctuation\"]",
                "\"split\"",
                "\"stopwords\"; lists = [\"en\"]",
            ],
            &["\"split\"; sentences = true", "\"case\"", "\"stopwords\"; lists = [\"en\"]"],
            &["\"markup\"", "\"lines\"; rejoin = true; unwrap = true", "\"spaces\""],
            &["\"case\"", "\"split\"; into = \"clitics\"", "\"drop\"; kinds = [\"punctuation\"]"],
            &["\"unicode\"; form = \"nfkc\"", "\"accents\"", "\"case\"", "\"split\""],
            &[
                "\"erase\"; classes = [\"punctuation\", \"digits\"]; to = \"space\"; spare = [\"'\", \"’\", \"-\"]",
                "\"spaces\"",
            ],
            &["\"split\"; into = \"spaces\"", "\"case\"", "\"stopwords\"; lists = [\"en\"]"],
            &["\"repeats\"", "\"mask\"; kinds = [\"mention\", \"hashtag\"]", "\"split\"; into = \"posts\""],
            &["\"split\"; into = \"characters\"; size = 3"],
            &[
                "\"split\"",
                "\"drop\"; kinds = [\"number\", \"date\", \"time\", \"percentage\", \"punctuation\"]",
            ],
            &["\"unicode\"", "\"split\"; into = \"paragraphs\""],
        ];
        for steps in good {
            assert_eq!(codes(steps), [], "{steps:?}");
        }
    }

    #[test]
    fn advice_can_be_mended_and_allowed() {
        for (steps, expected) in WRONG {
            let text = recipe(steps);
            let parsed = read(&text).expect("read");
            let advice = check(&parsed, &testing::pipeline(&text));
            let mut mended = text.clone();
            for fix in advice.iter().flat_map(|advice| &advice.fixes) {
                let Some(change) = &fix.change else { continue };
                mended = mend(&mended, &read(&mended).expect("read"), change)
                    .expect("a recipe that can be changed");
            }
            if mended != text {
                let left = check(
                    &read(&mended).unwrap_or_else(|faults| panic!("{mended}: {faults:?}")),
                    &testing::pipeline(&mended),
                );
                assert_eq!(left, [], "{mended}");
            }
            let allow = |mut text: String| {
                for (code, _) in *expected {
                    text = format!("allow = [\"{code}\"]\n{text}");
                }
                text
            };
            let allowed = allow(text);
            assert_eq!(check(&read(&allowed).expect("read"), &testing::pipeline(&allowed)), [], "{allowed}");
        }
    }
}
