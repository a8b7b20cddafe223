//! The laws of the engine, over random recipes and random texts: what the fast path counts is what a slow and simple twin
//! counts, whoever shares the work.

mod random;

use std::collections::{BTreeMap, BTreeSet, HashSet};

use proptest::prelude::*;
use random::{Document, compiled, documents, recipes};
use yarrup_core::compare::described;
use yarrup_core::{
    Account, Alternative, Effect, EndedToken, FormFate, MergeError, NoFiles, Outputs, Pipeline, Relation,
    SideBySide, TokenFate, Trace, Worker, in_order, recipe,
};

/// A recipe of nothing but the split of another.
fn split_alone(recipe: &str) -> Pipeline {
    let split = recipe.split("[[step]]").find(|step| step.contains("do = \"split\""));
    compiled(&format!("[[step]]\n{}", split.unwrap_or("do = \"split\"")))
}

const ALL: Outputs = Outputs { clean: true, tokens: true, ends: false };

fn account(pipeline: &Pipeline, documents: &[Document]) -> Account {
    let mut worker = Worker::new(pipeline, ALL);
    for document in documents {
        worker.document(&document.text, document);
    }
    worker.into_account()
}

/// The effects as sums over traces, document by document and token by token.
fn effects_by_hand(
    pipeline: &Pipeline,
    documents: &[Document],
    traces: &[Trace<'_>],
    found_by: &Pipeline,
) -> Vec<Effect> {
    let distinct = |words: Vec<String>| Some(words.into_iter().collect::<HashSet<_>>().len() as u64);
    let found: Vec<String> = documents
        .iter()
        .flat_map(|document| found_by.trace(&document.text, document).tokens)
        .map(|token| token.form)
        .collect();
    let characters = |texts: Vec<&str>| Some(texts.iter().map(|text| text.chars().count() as u64).sum());
    let mut effects = vec![Effect {
        operation: "as found".to_owned(),
        tokens_out: Some(found.len() as u64),
        types_out: distinct(found),
        characters_out: characters(documents.iter().map(|document| document.text.as_str()).collect()),
        ..Effect::default()
    }];
    let (mut text, mut token) = (0, 0);
    for step in pipeline.steps() {
        let named = Effect {
            step: step.number,
            operation: step.operation.to_owned(),
            put_in: step.put_in,
            ..Effect::default()
        };
        effects.push(match step.stage {
            yarrup_core::step::Stage::Split => {
                let forms: Vec<String> = traces
                    .iter()
                    .flat_map(|trace| trace.tokens.iter().map(|token| token.form.clone()))
                    .collect();
                Effect { tokens_out: Some(forms.len() as u64), types_out: distinct(forms), ..named }
            }
            yarrup_core::step::Stage::Token | yarrup_core::step::Stage::Collection => {
                let steps: Vec<_> = traces.iter().map(|trace| &trace.token_steps[token]).collect();
                token += 1;
                let (mut before, mut after) = (vec![], vec![]);
                let (mut dropped, mut joined, mut changed, mut marked, mut touched, mut added) =
                    (0, 0, 0, 0, 0, 0);
                for step in steps {
                    let mut touches = step.left_out.is_some();
                    for (_, form, fate) in &step.tokens {
                        if *fate != TokenFate::Added {
                            before.push(form.clone());
                        }
                        match fate {
                            TokenFate::Kept => after.push(form.clone()),
                            TokenFate::Marked(_) => {
                                after.push(form.clone());
                                marked += 1;
                            }
                            TokenFate::Added => {
                                after.push(form.clone());
                                added += 1;
                            }
                            TokenFate::Changed(to) => {
                                after.push(to.clone());
                                changed += 1;
                            }
                            TokenFate::Dropped(_) => dropped += 1,
                            TokenFate::Joined(_) => joined += 1,
                        }
                        touches |= *fate != TokenFate::Kept;
                    }
                    touched += u64::from(touches);
                }
                Effect {
                    documents_touched: Some(touched),
                    tokens_in: Some(before.len() as u64),
                    tokens_dropped: Some(dropped),
                    tokens_added: Some(added),
                    tokens_joined: Some(joined),
                    tokens_marked: Some(marked),
                    tokens_changed: Some(changed),
                    tokens_out: Some(after.len() as u64),
                    types_in: distinct(before),
                    types_out: distinct(after),
                    ..named
                }
            }
            yarrup_core::step::Stage::Text | yarrup_core::step::Stage::TextOrToken => {
                let steps: Vec<_> = traces.iter().map(|trace| &trace.text_steps[text]).collect();
                let before: Vec<&str> = match text {
                    0 => documents.iter().map(|document| document.text.as_str()).collect(),
                    _ => traces.iter().map(|trace| trace.text_steps[text - 1].text.as_str()).collect(),
                };
                text += 1;
                Effect {
                    documents_touched: Some(steps.iter().filter(|step| step.matches > 0).count() as u64),
                    matches: Some(steps.iter().map(|step| step.matches).sum()),
                    characters_in: characters(before),
                    characters_out: characters(steps.iter().map(|step| step.text.as_str()).collect()),
                    ..named
                }
            }
        });
    }
    effects
}

/// The tokens that are left behind all steps.
fn survivors(trace: &Trace<'_>) -> Vec<String> {
    let Some(last) = trace.token_steps.last() else {
        return trace.tokens.iter().map(|token| token.form.clone()).collect();
    };
    let left = last.tokens.iter().filter_map(|(_, form, fate)| match fate {
        TokenFate::Kept | TokenFate::Marked(_) | TokenFate::Added => Some(form.clone()),
        TokenFate::Changed(to) => Some(to.clone()),
        TokenFate::Dropped(_) | TokenFate::Joined(_) => None,
    });
    left.collect()
}

/// Vocabulary by hand: each term with its tokens and its documents.
fn vocabulary_by_hand(traces: &[Trace<'_>]) -> BTreeMap<String, (u64, u64)> {
    let mut counts: BTreeMap<String, (u64, BTreeSet<usize>)> = BTreeMap::new();
    for (number, trace) in traces.iter().enumerate() {
        for term in survivors(trace) {
            let entry = counts.entry(term).or_default();
            entry.0 += 1;
            entry.1.insert(number);
        }
    }
    counts.into_iter().map(|(term, (count, documents))| (term, (count, documents.len() as u64))).collect()
}

/// The forms of each term by hand, for recipes that make no token of others.
fn forms_by_hand(traces: &[Trace<'_>]) -> BTreeMap<String, u64> {
    let mut forms: BTreeMap<String, BTreeSet<String>> = BTreeMap::new();
    for trace in traces {
        let mut alive: BTreeMap<usize, String> =
            trace.tokens.iter().enumerate().map(|(at, token)| (at, token.form.clone())).collect();
        for (at, _, fate) in trace.token_steps.iter().flat_map(|step| &step.tokens) {
            match fate {
                TokenFate::Changed(to) => *alive.get_mut(at).expect("alive") = to.clone(),
                TokenFate::Dropped(_) | TokenFate::Joined(_) => {
                    alive.remove(at);
                }
                _ => {}
            }
        }
        for (at, term) in alive {
            forms.entry(term).or_default().insert(trace.tokens[at].form.clone());
        }
    }
    forms.into_iter().map(|(term, forms)| (term, forms.len() as u64)).collect()
}

/// The sum of accounts; one at least.
fn merged(accounts: impl Iterator<Item = Account>) -> Account {
    accounts.reduce(|sum, next| sum.merge(next).expect("parts of one run")).expect("one account at least")
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    #[test]
    fn the_account_is_that_of_a_slow_twin(recipe in recipes(), documents in documents()) {
        let pipeline = compiled(&recipe);
        let traces: Vec<_> = documents.iter().map(|document| pipeline.trace(&document.text, document)).collect();
        let account = account(&pipeline, &documents);
        prop_assert!(account.is_balanced());
        prop_assert_eq!(account.effects(), effects_by_hand(&pipeline, &documents, &traces, &split_alone(&recipe)));
        let vocabulary: BTreeMap<_, _> = account
            .vocabulary()
            .into_iter()
            .map(|term| (term.text.to_owned(), (term.count, term.documents)))
            .collect();
        prop_assert_eq!(vocabulary, vocabulary_by_hand(&traces));
        let added: u64 = account.effects().into_iter().filter_map(|effect| effect.tokens_added).sum();
        if added == 0 {
            let forms: BTreeMap<_, _> =
                account.vocabulary().into_iter().map(|term| (term.text.to_owned(), term.forms)).collect();
            prop_assert_eq!(forms, forms_by_hand(&traces));
        }
        // Every token as split, and every one that a step has made, has one fate, and forms are in the order of the reports.
        let split: usize = traces.iter().map(|trace| trace.tokens.len()).sum();
        prop_assert_eq!(account.forms().map(|form| form.count).sum::<u64>(), split as u64 + added);
        let order: Vec<_> = account.forms().map(|form| (std::cmp::Reverse(form.count), form.text)).collect();
        prop_assert!(order.is_sorted());
        for form in account.forms() {
            if let FormFate::Dropped { step, reason } = form.fate {
                prop_assert!(!account.reason(step, reason).is_empty());
            }
        }
    }

    #[test]
    fn cleaned_text_and_spans_are_those_of_a_slow_twin(recipe in recipes(), documents in documents()) {
        let pipeline = compiled(&recipe);
        let mut worker = Worker::new(&pipeline, ALL);
        for document in &documents {
            let trace = pipeline.trace(&document.text, document);
            let cleaned = worker.document(&document.text, document);
            prop_assert_eq!(cleaned.clean, &trace.clean);
            let mut end = 0;
            for token in cleaned.tokens() {
                // A slice on character borders, in order; tokens that one change made several share its place.
                let text = document.text.get(token.span.start as usize..token.span.end as usize);
                prop_assert!(text.is_some_and(|text| !text.is_empty()), "{:?}", token);
                prop_assert!(token.span.end >= end);
                end = token.span.end;
                prop_assert_eq!(token.sentence.is_some(), recipe.contains("sentences"));
            }
        }
    }

    /// What is told of each token adds up to what the account has of each form, and the cleaned text tells the same terms.
    #[test]
    fn ends_and_cleaned_text_tell_what_the_account_counts(recipe in recipes(), documents in documents()) {
        let pipeline = compiled(&recipe);
        let mut worker = Worker::new(&pipeline, Outputs { clean: true, tokens: true, ends: true });
        let mut ends: BTreeMap<(String, String), u64> = BTreeMap::new();
        for document in &documents {
            let cleaned = worker.document(&document.text, document);
            for token in cleaned.ends() {
                prop_assert!(document.text.get(token.span.start as usize..token.span.end as usize).is_some());
                *ends.entry((token.form.to_owned(), format!("{:?}", token.fate))).or_default() += 1;
            }
            let trace = pipeline.trace(&document.text, document);
            for token in cleaned.ends() {
                // The token of the split that it is, or that it begins with.
                let first = &trace.tokens[token.place as usize - 1];
                prop_assert_eq!((token.span.start, token.sentence), (first.span.start, first.sentence));
            }
            let is_kept = |token: &EndedToken<'_>| matches!(token.fate, FormFate::Kept { .. });
            let mut kept: Vec<_> =
                cleaned.ends().filter(is_kept).map(|token| (token.span.start, token.sentence)).collect();
            let mut tokens: Vec<_> = cleaned.tokens().map(|token| (token.span.start, token.sentence)).collect();
            kept.sort();
            tokens.sort();
            prop_assert_eq!(&kept, &tokens);
            prop_assert_eq!(kept.len() as u64, cleaned.tokens_after);
            let terms: Vec<&str> = cleaned.tokens().map(|token| token.term).collect();
            prop_assert_eq!(cleaned.terms().map(|(_, term)| term).collect::<Vec<_>>(), terms.clone());
            if pipeline.clean_tells_terms() {
                let mut told = Vec::new();
                pipeline.terms_of_clean(cleaned.clean, &mut told);
                prop_assert_eq!(told, terms);
            }
        }
        let account = worker.into_account();
        let mut forms: BTreeMap<(String, String), u64> = BTreeMap::new();
        for row in account.forms() {
            *forms.entry((row.text.to_owned(), format!("{:?}", row.fate))).or_default() += row.count;
        }
        prop_assert_eq!(ends, forms);
        // Behind the last step a term stands where the vocabulary has it.
        for (rank, term) in (1..).zip(account.vocabulary()) {
            let last = account.ranks_of(term.text).pop().expect("a step");
            prop_assert_eq!((last.count, last.rank), (term.count, Some(rank)));
        }
        // What is told of all words at once is what is told of each.
        for ranks in account.step_ranks() {
            for number in 0..account.texts.len() as u32 {
                let word = account.texts.text(number);
                let told = account.ranks_of(word).into_iter().find(|row| row.step == ranks.step).expect("a step");
                prop_assert_eq!(u64::from(ranks.ranks[number as usize]), told.rank.unwrap_or(0), "{} {}", word, ranks.step);
            }
        }
        // Every token is counted in the row that is found for it.
        let mut rows = vec![0; account.form_count()];
        let mut worker = Worker::new(&pipeline, Outputs { ends: true, ..Outputs::default() });
        for document in &documents {
            for token in worker.document(&document.text, document).ends() {
                let row = account.row_among(account.rows_of(token.form), token.tag, token.fate);
                rows[row.expect("a row for every token")] += 1;
            }
        }
        prop_assert_eq!(&rows, &account.ends.count);
        // The way of a form that is left ends at its term.
        for row in 0..account.form_count() {
            let (form, way) = (account.form(row), account.way_of(row));
            let parts = account.steps.iter().any(|step| step.parts);
            if let FormFate::Kept { term } = form.fate && !(parts && way.is_empty()) {
                prop_assert_eq!(way.last().map_or(form.text, |(_, to)| *to), term);
            }
            prop_assert!(way.is_sorted_by_key(|(step, _)| *step));
        }
        let by_tag: u64 = account.terms_by_tag().iter().map(|(.., count)| count).sum();
        prop_assert_eq!(by_tag, account.totals.tokens_kept);
    }

    #[test]
    fn spans_of_a_recipe_that_only_recases_hold_the_words(documents in documents()) {
        let pipeline = compiled("[[step]]\ndo = \"case\"\n[[step]]\ndo = \"split\"\n");
        let mut worker = Worker::new(&pipeline, ALL);
        for document in &documents {
            for token in worker.document(&document.text, document).tokens() {
                // A sigma at the end of a token need not stand at the end of a word of the text.
                let plain = |text: &str| text.to_lowercase().replace('ς', "σ");
                prop_assert_eq!(plain(token.span.of(&document.text)), plain(token.term));
            }
        }
    }

    #[test]
    fn shards_add_up_and_threads_change_nothing(
        recipe in recipes(),
        documents in documents(),
        parts in prop::collection::vec(0usize..8, 0..4),
    ) {
        let pipeline = compiled(&recipe);
        let whole = account(&pipeline, &documents);
        let mut cuts: Vec<usize> = parts.into_iter().map(|cut| cut.min(documents.len())).collect();
        cuts.extend([0, documents.len()]);
        cuts.sort_unstable();
        let shards = cuts.windows(2).map(|cut| account(&pipeline, &documents[cut[0]..cut[1]])).rev();
        prop_assert_eq!(&merged(shards), &whole);

        let mut rest = documents.iter();
        let workers = in_order(
            3,
            || Ok::<_, ()>(rest.next()),
            || Worker::new(&pipeline, ALL),
            |worker, document| Ok(worker.document(&document.text, document).clean.to_owned()),
            |_| Ok(()),
        );
        prop_assert_eq!(merged(workers.unwrap_or_default().into_iter().map(Worker::into_account)), whole);
    }

    #[test]
    fn any_partition_comes_to_the_whole_in_any_groups_and_order(
        recipe in recipes(),
        documents in prop::collection::vec((documents(), 0usize..5), 1..6),
        turned in any::<bool>(),
        split in 0usize..6,
    ) {
        // Each document goes to any of five parts, of which some have none.
        let pipeline = compiled(&recipe);
        let placed: Vec<_> =
            documents.iter().flat_map(|(documents, part)| documents.iter().map(move |one| (one, *part))).collect();
        let all: Vec<_> = placed.iter().map(|(document, _)| (*document).clone()).collect();
        let whole = account(&pipeline, &all);
        let mut parts: Vec<Account> = (0..5)
            .map(|part| {
                let of_part = placed.iter().filter(|(_, place)| *place == part);
                account(&pipeline, &of_part.map(|(document, _)| (*document).clone()).collect::<Vec<_>>())
            })
            .collect();
        if turned {
            parts.reverse();
        }
        let sum = |parts: Vec<Account>| {
            Account::add_up::<MergeError>(parts.into_iter().map(Ok), Relation::Parts).expect("parts of one collection")
        };
        prop_assert_eq!(&sum(parts.clone()), &whole);
        let later = parts.split_off(split.min(parts.len() - 1));
        let grouped = if parts.is_empty() { vec![sum(later)] } else { vec![sum(later), sum(parts)] };
        prop_assert_eq!(sum(grouped), whole);
    }
    #[test]
    fn side_by_side_every_recipe_is_counted_as_in_a_run_of_its_own(
        first in recipes(),
        others in prop::collection::vec((recipes(), 0usize..9, 0usize..9), 1..4),
        documents in documents(),
        by in 1usize..4,
    ) {
        let steps = |recipe: &str| -> Vec<String> {
            recipe.split("[[step]]").skip(1).map(|step| format!("[[step]]{step}")).collect()
        };
        // Recipes that begin as the first does, and go on as others do.
        let mut texts = vec![first.clone()];
        texts.extend(others.iter().map(|(other, begin, end)| {
            let (own, other) = (steps(&first), steps(other));
            let end = (*end).min(other.len());
            own.iter().take(*begin).chain(&other[end..]).cloned().collect::<String>()
        }));
        let read: Vec<_> = texts.iter().filter_map(|text| recipe::read(text).ok()).collect();
        let made: Vec<_> = read
            .iter()
            .filter_map(|recipe| Some((Pipeline::compile(recipe, &NoFiles).ok()?, described(recipe, &NoFiles))))
            .collect();
        let alternatives: Vec<Alternative<'_>> =
            made.iter().map(|(pipeline, steps)| Alternative { pipeline, steps }).collect();
        let mut workers: Vec<SideBySide<'_>> =
            (0..by).map(|_| SideBySide::new(alternatives.clone())).collect();
        for (place, document) in documents.iter().enumerate() {
            let worker = &mut workers[place % by];
            worker.take(&yarrup_core::step::Document { text: &document.text, fields: document, order: place as u64 });
            for (at, (pipeline, _)) in made.iter().enumerate() {
                let mut own = Worker::new(pipeline, Outputs { clean: true, ..Outputs::default() });
                let cleaned = own.document(&document.text, document);
                prop_assert_eq!(worker.tokens(at), (cleaned.tokens_before, cleaned.tokens_after));
                let mut bag: Vec<&str> = worker.terms(at).iter()
                    .flat_map(|(term, tokens)| (0..*tokens).map(|_| worker.spelling(*term))).collect();
                bag.sort_unstable();
                let bag: Vec<String> = bag.into_iter().map(str::to_owned).collect();
                let terms = worker.terms_in_order(at, &document.text);
                let mut sorted = terms.clone();
                sorted.sort_unstable();
                prop_assert_eq!(bag, sorted);
                let mut told: Vec<&str> = cleaned.terms().map(|(_, term)| term).collect();
                if pipeline.is_text_recipe() {
                    pipeline.terms_of_clean(cleaned.clean, &mut told);
                }
                if !pipeline.is_text_recipe() || pipeline.clean_tells_terms() {
                    prop_assert_eq!(terms, told);
                }
                let clean = worker.clean(at, &document.text);
                prop_assert_eq!(clean, cleaned.clean);
            }
        }
        let pipelines: Vec<&Pipeline> = made.iter().map(|(pipeline, _)| pipeline).collect();
        for ((pipeline, _), account) in made.iter().zip(Account::of_side_by_side(workers, &pipelines)) {
            let own = documents.iter().fold(Worker::new(pipeline, Outputs::default()), |mut worker, document| {
                worker.document(&document.text, document);
                worker
            });
            prop_assert_eq!(account, own.into_account());
        }
    }
}
