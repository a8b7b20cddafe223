//! `yarrup find`: the places of a word in the documents of a run, with the words around them.

use std::sync::atomic::AtomicUsize;

use yarrup_core::study::{GroupBy, Wanted};
use yarrup_core::{Condition, NoFields};
use yarrup_io::{Holding, NOTHING_LEFT, Policy, read, read_account, term_counts, written_in_documents};
use yarrup_report::{visible, visible_name};

use super::find_search::{Among, Counts, Found, Kept, Order, Query, Searching, Taking, Unit};
use super::find_show::Shown;
use crate::arguments::FindArguments;
use crate::failure::{Exit, Failure, option, spelled_like};
use crate::reading::{ended, threads};
use crate::screen::{Screen, program, shell_word};
use crate::studied::Studied;

/// How many places or documents are shown.
const SHOWN: usize = 25;
/// How many terms that the recipe makes of what is looked for are told.
const SHOWN_MADE: usize = 12;
/// How many documents are shown whole.
const SHOWN_WHOLE: usize = 3;

pub(crate) fn find(arguments: &FindArguments, screen: &Screen) -> Result<Exit, Failure> {
    let among = among(arguments)?;
    let run = Studied::open(&arguments.run)?;
    let conditions = conditions(&arguments.conditions)?;
    let by = arguments.by.as_deref().map(GroupBy::read).transpose().map_err(|why| option("by", &why))?;
    let looked_for = LookedFor::of(arguments, among, &run, screen)?;
    let kept = kept(arguments);
    let is_plain = conditions.is_empty() && by.is_none() && kept.order == Order::Document;
    // What `vocabulary.csv` says already need not be counted.
    let known = looked_for.counts.filter(|_| is_plain);
    let query = Query {
        wanted: looked_for.wanted,
        among,
        show: arguments.show.clone(),
        by: by.as_ref().map(|by| by.path().to_owned()),
        stops_early: known.is_some(),
        kept,
    };
    let threads = threads(arguments.threads);
    let (found, mut counts) = search(&run, &query, &conditions, (looked_for.holding, threads), screen)?;
    refuse_unknown_fields(&run, &conditions, screen)?;
    let by_field = by.as_ref().map(GroupBy::path).filter(|_| counts.by.keys().all(Option::is_none));
    let sort_field = match &query.kept.order {
        Order::Field(path) if found.iter().all(Found::is_unordered) => Some(path.as_str()),
        _ => None,
    };
    for (name, path) in [("by", by_field), ("sort", sort_field)] {
        // Where no place shows the field, other documents of the run may have it.
        if let Some(path) = path
            && !run.has_field(path, screen)?
        {
            let orders =
                if name == "sort" { "; other orders are before, after, document and count" } else { "" };
            let meant = match run.field_like(path, screen) {
                Some(meant) => format!("; did you mean `{}`?", visible(&meant)),
                None => orders.to_owned(),
            };
            return Err(option(name, &format!("no document of the run has a field `{path}`{meant}")));
        }
    }
    if let Some((places, of_documents)) = known {
        (counts.places, counts.documents) = (places, of_documents);
    }
    for (field, _) in query.show.iter().zip(&counts.has).filter(|(_, has)| !**has) {
        let meant = match run.field_like(field, screen) {
            Some(meant) => format!("; did you mean `{}`?", visible(&meant)),
            None => String::new(),
        };
        screen.warn(&format!("--show: none of the documents has a field `{}`{meant}", visible(field)));
    }
    let nothing = counts.documents == 0;
    let shown = Shown { query: &query, name: looked_for.name, found, counts, by };
    shown.print(arguments.format, run.record.totals.documents, screen)?;
    if nothing && is_plain && matches!(among, Among::Terms | Among::Forms | Among::Dropped(_)) {
        tell_spelled_like(arguments, &run, screen)?;
    }
    Ok(if nothing { Exit::Found } else { Exit::Done })
}

/// Tells which words of a run are spelled much like those that are not in it.
fn tell_spelled_like(arguments: &FindArguments, run: &Studied, screen: &Screen) -> Result<(), Failure> {
    if arguments.matches {
        return Ok(());
    }
    let account = read_account(&run.path)?;
    for word in arguments.what.iter().flat_map(|what| words_of(what)) {
        if account.rows_of(&word).is_empty()
            && account.documents_of(&word) == 0
            && let Some(told) = spelled_like(&account, &word)
        {
            screen.tell(&format!("note: `{}` is not in this run; {told}", visible_name(&word)));
        }
    }
    Ok(())
}

/// Refuses conditions on fields that no document of the run has.
fn refuse_unknown_fields(run: &Studied, conditions: &[Condition], screen: &Screen) -> Result<(), Failure> {
    let unseen = || conditions.iter().find_map(|condition| condition.unseen_fields().next());
    if unseen().is_some() {
        // Only the documents that can hold what is looked for were asked.
        run.ask(conditions, screen)?;
    }
    match unseen() {
        Some(field) => Err(run.no_field(field, screen)),
        None => Ok(()),
    }
}

/// Looks through the documents of a run for which the conditions hold, and of which the lines hold these bytes.
pub(super) fn search(
    run: &Studied,
    query: &Query,
    conditions: &[Condition],
    (holding, threads): (Holding, usize),
    screen: &Screen,
) -> Result<(Vec<Found>, Counts), Failure> {
    let (documents, mut source) = run.documents(conditions, holding)?;
    let searching = Searching { run, query, enough: AtomicUsize::new(0) };
    let mut taking = Taking {
        query,
        enough: &searching.enough,
        found: Vec::new(),
        counts: Counts::default(),
        progress: screen.progress(source.bytes()),
    };
    let policy = Policy::strict(threads);
    read(&mut source, policy, &searching, &mut taking).map_err(ended)?;
    taking.progress.end();
    documents.confirm(&source)?;
    let (mut found, counts) = (taking.found, taking.counts);
    query.kept.cut(&mut found, true);
    Ok((found, counts))
}

/// The first places of a term, or of a word that was dropped, and the first documents with their numbers of places. None where the run holds no
/// original texts.
pub(super) fn first_places(
    run: &Studied,
    word: &str,
    among: Among,
    (places, documents): (usize, usize),
    screen: &Screen,
) -> Result<(Vec<Found>, Vec<Found>), Failure> {
    let first = |unit, most| {
        let query = Query {
            wanted: Wanted::words(vec![vec![word.to_owned()]], false),
            among,
            show: Vec::new(),
            by: None,
            kept: Kept { unit, most, order: Order::Document },
            stops_early: true,
        };
        let holding = match among {
            Among::Terms if run.compiled.pipeline.clean_tells_terms() => {
                Holding::all([written_in_documents(word)])
            }
            _ => Holding::default(),
        };
        Ok::<_, Failure>(search(run, &query, &[], (holding, threads(None)), screen)?.0)
    };
    Ok((first(Unit::Places, places)?, first(Unit::Documents, documents)?))
}

/// Conditions as they were typed.
pub(super) fn conditions(written: &[String]) -> Result<Vec<Condition>, Failure> {
    written.iter().map(|written| Condition::read(written).map_err(|why| option("where", &why))).collect()
}

fn among(arguments: &FindArguments) -> Result<Among, Failure> {
    let among = if arguments.emptied {
        Among::Emptied
    } else if arguments.original {
        Among::Text
    } else if arguments.dropped {
        Among::Dropped(arguments.step)
    } else if arguments.form {
        Among::Forms
    } else {
        Among::Terms
    };
    let pattern = arguments.matches || arguments.original;
    if pattern && arguments.what.len() != 1 {
        let name = if arguments.matches { "matches" } else { "text" };
        return Err(option(name, "needs one regular expression"));
    }
    let may_be_all = matches!(among, Among::Dropped(_) | Among::Emptied);
    if arguments.what.is_empty() && !may_be_all {
        return Err(Failure::Sentence(
            "say what to look for: a term, a phrase in quotes, --matches or --text with a pattern, --dropped, or --emptied"
                .to_owned(),
        ));
    }
    Ok(among)
}

fn kept(arguments: &FindArguments) -> Kept {
    let unit = if arguments.whole {
        Unit::Whole
    } else if arguments.documents {
        Unit::Documents
    } else {
        Unit::Places
    };
    let most = arguments.sample.or(arguments.first).unwrap_or(match unit {
        Unit::Whole => SHOWN_WHOLE,
        _ => SHOWN,
    });
    let order = match (arguments.sample, arguments.sort.as_str()) {
        (Some(_), _) => Order::Chance(arguments.seed.unwrap_or_default()),
        (None, "document") => Order::Document,
        (None, "before") => Order::Before,
        (None, "after") => Order::After,
        (None, "count") => Order::Count,
        (None, field) => Order::Field(field.to_owned()),
    };
    Kept { unit, most: if most == 0 { usize::MAX } else { most }, order }
}

/// What is looked for, and what is known of it before the documents are read.
struct LookedFor {
    wanted: Wanted,
    /// As it is named above the results.
    name: String,
    /// Tokens and documents, where the vocabulary tells them.
    counts: Option<(u64, u64)>,
    /// What the lines of documents that can hold it hold.
    holding: Holding,
}

impl LookedFor {
    fn of(
        arguments: &FindArguments,
        among: Among,
        run: &Studied,
        screen: &Screen,
    ) -> Result<LookedFor, Failure> {
        let what = &arguments.what;
        let named = what.iter().map(|what| visible_name(what)).collect::<Vec<_>>();
        let anywhere = |wanted, name| LookedFor { wanted, name, counts: None, holding: Holding::default() };
        if among == Among::Emptied {
            let totals = &run.record.totals;
            let emptied = totals.documents_emptied + totals.documents_empty_as_found;
            return Ok(LookedFor {
                wanted: Wanted::any(),
                name: "documents of which nothing is left".to_owned(),
                counts: Some((emptied, emptied)),
                holding: Holding::all([NOTHING_LEFT.to_vec()]),
            });
        }
        if arguments.matches || arguments.original {
            let name = if arguments.matches { "--matches" } else { "--text" };
            let wanted = Wanted::matching(name, &what[0]).map_err(Failure::Sentence)?;
            return Ok(anywhere(wanted, named.join(", ")));
        }
        if matches!(among, Among::Forms | Among::Dropped(_)) {
            let runs = what.iter().map(|what| words_of(what)).collect();
            let wanted = if what.is_empty() { Wanted::any() } else { Wanted::words(runs, arguments.all) };
            let name = match (among, named.is_empty()) {
                (Among::Dropped(_), true) => "dropped words".to_owned(),
                (Among::Dropped(_), false) => format!("{}, dropped", named.join(", ")),
                _ => named.join(", "),
            };
            return Ok(anywhere(wanted, name));
        }
        LookedFor::terms(arguments, run, screen)
    }

    fn terms(arguments: &FindArguments, run: &Studied, screen: &Screen) -> Result<LookedFor, Failure> {
        let pipeline = &run.compiled.pipeline;
        let what: Vec<&str> = arguments.what.iter().map(String::as_str).collect();
        let counts = term_counts(&run.path, &run.record, &what)?;
        let mut runs = Vec::new();
        for (what, counts) in what.iter().zip(&counts) {
            if counts.is_some() {
                runs.push(vec![(*what).to_owned()]);
                // It may be a word of the text as well, of which the recipe makes another term.
                let clean = pipeline.trace(what, &NoFields).clean;
                if !clean.is_empty() && clean != *what && !clean.contains(char::is_whitespace) {
                    screen.tell(&format!(
                        "note: `{}` is a term; of a word that is written like this the recipe makes `{}`",
                        visible_name(what),
                        visible_name(&clean)
                    ));
                }
                continue;
            }
            let words = words_of(what);
            let known =
                term_counts(&run.path, &run.record, &words.iter().map(String::as_str).collect::<Vec<_>>())?;
            if words.len() > 1 && known.iter().all(Option::is_some) {
                runs.push(words);
                continue;
            }
            // A word as it stands in the text: what the recipe makes of it.
            let clean = pipeline.trace(what, &NoFields).clean;
            let made = words_of(&clean);
            if !made.is_empty() && made != words {
                let shown = made.iter().take(SHOWN_MADE).map(|term| format!("`{}`", visible_name(term)));
                let mut shown = shown.collect::<Vec<String>>().join(", ");
                if made.len() > SHOWN_MADE {
                    shown.push_str(&format!(" and {} more", made.len() - SHOWN_MADE));
                }
                screen.tell(&format!(
                    "note: the recipe makes {shown} of `{}`; this looks for that",
                    visible_name(what)
                ));
                runs.push(made);
            } else {
                if made.is_empty() {
                    let (program, path) = (program(), shell_word(&run.path.display().to_string()));
                    screen.tell(&format!(
                        "note: the recipe leaves nothing of `{0}`; `{program} find {path} --dropped {1}` finds where it was dropped",
                        visible_name(what),
                        shell_word(what)
                    ));
                }
                runs.push(words);
            }
        }
        let single = runs.len() == 1 && runs[0].len() == 1;
        let counts = match counts.as_slice() {
            [Some(counts)] if single => Some(*counts),
            _ if single => term_counts(&run.path, &run.record, &[&runs[0][0]])?[0],
            _ => None,
        };
        let name = runs.iter().map(|run| visible_name(&run.join(" "))).collect::<Vec<_>>();
        let joined = name.join(if arguments.all { " and " } else { ", " });
        let wanted = Wanted::words(runs, arguments.all);
        // Each needed term stands in the cleaned text as it is.
        let needed = wanted.needed();
        let holding = if pipeline.clean_tells_terms() {
            Holding::all(needed.iter().map(|term| written_in_documents(term)))
        } else {
            Holding::default()
        };
        Ok(LookedFor { wanted, name: joined, counts, holding })
    }
}

/// The words of a phrase.
fn words_of(phrase: &str) -> Vec<String> {
    phrase.split_whitespace().map(str::to_owned).collect()
}
