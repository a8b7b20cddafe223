//! What the terminal tells of a comparison.

use std::io::Write;

use yarrup_core::compare::{Conflation, DisagreementKind, Missing, Overview, StepPair, StepStatus, Stretch};
use yarrup_report::{
    Align, Marked, counted, cut, give_way, grouped, percent, share, table, visible, visible_name, wrapped,
};

use super::compare_tables::{most_bits, status_name, stretches, why};
use crate::compare_arguments::CompareArguments;
use crate::comparing::{Comparison, MOST_LABELLED, PairFacts};
use crate::failure::Failure;
use crate::output::Output;
use crate::screen::Screen;

/// How many characters of a reason or of a list a line has room for.
const LONGEST: usize = 110;

/// Prints the comparison: two sides in full, more of them as tables.
pub(super) fn show(
    comparison: &Comparison<'_>,
    arguments: &CompareArguments,
    screen: &Screen,
    out: &mut Output,
) -> Result<(), Failure> {
    let look = screen.look;
    let what = if comparison.of_runs { "run" } else { "recipe" };
    let head = format!("{} compared", counted(comparison.sides.len() as u64, what));
    let of = match (&comparison.pairs[0].drift, comparison.of_runs) {
        (Some(_), _) => " on the documents of each".to_owned(),
        (None, _) => format!(
            " on {} from {}",
            counted(comparison.documents, "document"),
            counted(comparison.sources.len() as u64, "file")
        ),
    };
    writeln!(out, "{}{of}", look.heading(&head))?;
    let is_pair = comparison.sides.len() == 2;
    let shown = Shown { comparison, rows: arguments.rows, screen };
    if is_pair {
        writeln!(out)?;
        for side in &comparison.sides {
            writeln!(out, "  {}  {}", look.heading(&side.letter), visible(&side.name))?;
        }
        shown.steps(&comparison.pairs[0].steps, out)?;
    }
    if is_pair {
        shown.sums(out)?;
    } else {
        shown.against_the_first(out)?;
    }
    if !is_pair {
        shown.times(out)?;
    }
    shown.labels(out)?;
    shown.mates(out)?;
    if is_pair {
        shown.pair(&comparison.pairs[0], out)?;
    }
    if let Some(folder) = &arguments.out {
        let folder = folder.display();
        writeln!(
            out,
            "\n{}",
            look.faint(&format!("all of it: {folder}/comparison.html, and as tables beside it"))
        )?;
    } else {
        let more = match is_pair {
            true => {
                "--out FOLDER writes all of it: tables, JSON, and a page to explore; --rows N shows more here"
            }
            false => {
                "compare two of them for the words behind the numbers, or write all of it with --out FOLDER"
            }
        };
        writeln!(out, "\n{}", look.faint(more))?;
    }
    Ok(())
}

struct Shown<'c> {
    comparison: &'c Comparison<'c>,
    rows: usize,
    screen: &'c Screen,
}

/// A change of a count, with its sign.
fn change(before: u64, after: u64) -> String {
    match after.cmp(&before) {
        std::cmp::Ordering::Equal => "=".to_owned(),
        std::cmp::Ordering::Less => format!("−{}", grouped(before - after)),
        std::cmp::Ordering::Greater => format!("+{}", grouped(after - before)),
    }
}

/// A count of a recipe or run with its name.
type Count = (&'static str, fn(&Overview) -> u64);

/// The columns that go first where there is no room for all.
const GIVING_WAY: [&str; 7] =
    ["once only", "rank overlap", "terms only in A", "only here", "apart here", "together here", "emptied"];

/// How many terms are shown on either side of a difference.
const AROUND: usize = 8;

/// Terms that both texts have: those next to a difference alone, where there are many.
fn shortened(terms: &[&str], is_first: bool, is_last: bool) -> String {
    if terms.len() <= 3 * AROUND {
        return terms.join(" ");
    }
    let begin = if is_first { "" } else { &terms[..AROUND].join(" ") };
    let end = if is_last { "" } else { &terms[terms.len() - AROUND..].join(" ") };
    format!("{begin} … {end}").trim().to_owned()
}

/// The first entries of a list, as many as a line has room for.
fn some(entries: &[String]) -> String {
    let mut line = String::new();
    for (index, entry) in entries.iter().enumerate() {
        if line.chars().count() + entry.chars().count() > LONGEST / 2 {
            line.push_str(&format!(" and {} more", grouped((entries.len() - index) as u64)));
            break;
        }
        line.push_str(if index == 0 { "" } else { ", " });
        line.push_str(&visible_name(entry));
    }
    line
}

/// How a recipe or run stands to the first; what is asked only of the same documents stands last.
fn against_cells(pair: &PairFacts<'_>) -> Vec<String> {
    let both = &pair.vocabularies;
    let mut cells = vec![
        grouped(both.only_here.0),
        grouped(both.only_there.0),
        share(both.shared_tokens),
        format!("{:.3}", both.rank_overlap),
    ];
    if pair.drift.is_none() {
        let all = pair.changed.map(|changed| changed.all()).unwrap_or_default();
        let changed = match (all.documents, all.changed) {
            // Nobody could look at the documents.
            (0, _) => "–".to_owned(),
            (_, 0) => "none".to_owned(),
            (documents, changed) => percent(changed, documents),
        };
        cells.extend([grouped(pair.together_there.tokens), grouped(pair.together_here.tokens), changed]);
    }
    cells
}

impl Shown<'_> {
    /// The steps that differ.
    fn steps(&self, pairs: &[StepPair], out: &mut Output) -> Result<(), Failure> {
        let look = self.screen.look;
        let same = pairs.iter().filter(|pair| pair.status == StepStatus::Same).count() as u64;
        writeln!(out, "\n{}", look.heading("The steps"))?;
        let place = |step: Option<usize>| step.map_or_else(|| "–".to_owned(), |step| step.to_string());
        let mut rows = Vec::new();
        for pair in pairs.iter().filter(|pair| pair.status != StepStatus::Same) {
            let head = [
                place(pair.here),
                place(pair.there),
                pair.operation.to_owned(),
                match pair.status {
                    StepStatus::Removed => "only in A".to_owned(),
                    StepStatus::Added => "only in B".to_owned(),
                    status => status_name(status).to_owned(),
                },
            ];
            if pair.keys.is_empty() {
                rows.push(head.iter().cloned().chain([String::new()]).collect());
            }
            for (index, key) in pair.keys.iter().enumerate() {
                let value = |value: &Option<String>| value.as_deref().map_or_else(|| "–".to_owned(), visible);
                let is_of_one = matches!(pair.status, StepStatus::Added | StepStatus::Removed);
                let mut told = match is_of_one {
                    true => format!(
                        "{}: {}",
                        key.name,
                        value(if key.here.is_some() { &key.here } else { &key.there })
                    ),
                    false => format!("{}: {} → {}", key.name, value(&key.here), value(&key.there)),
                };
                let is_list = !is_of_one && key.entries_here.len() + key.entries_there.len() > 0;
                if is_list && !key.entries_here.is_empty() {
                    told.push_str(&format!(
                        "; only in A {}: {}",
                        grouped(key.entries_here.len() as u64),
                        some(&key.entries_here)
                    ));
                }
                if is_list && !key.entries_there.is_empty() {
                    told.push_str(&format!(
                        "; only in B {}: {}",
                        grouped(key.entries_there.len() as u64),
                        some(&key.entries_there)
                    ));
                }
                let cells = if index == 0 { head.clone() } else { [const { String::new() }; 4] };
                rows.push(cells.into_iter().chain([told]).collect());
            }
        }
        if let [one, other] = self.comparison.sides.as_slice()
            && one.language != other.language
        {
            let name =
                |language: &Option<String>| language.as_deref().map_or_else(|| "none".to_owned(), visible);
            writeln!(
                out,
                "  A is for texts in this language: {}; B for {}",
                name(&one.language),
                name(&other.language)
            )?;
        }
        if rows.is_empty() {
            writeln!(out, "  all {} are the same", grouped(same))?;
            return Ok(());
        }
        let columns = [
            ("A", Align::Right),
            ("B", Align::Right),
            ("step", Align::Left),
            ("", Align::Left),
            ("what differs", Align::Left),
        ];
        write!(out, "{}", table(&columns, &rows, look))?;
        if same > 0 {
            let verb = if same == 1 { "is" } else { "are" };
            writeln!(
                out,
                "  {}",
                look.faint(&format!("the other {} {verb} the same in both", counted(same, "step")))
            )?;
        }
        Ok(())
    }

    /// Says something that stands back, on as many lines as it takes.
    fn aside(&self, text: &str, out: &mut Output) -> Result<(), Failure> {
        let look = self.screen.look;
        let plain = yarrup_report::Look { colour: false, ..look };
        for line in wrapped(&[Marked::Same(text.to_owned())], 2, plain).lines() {
            writeln!(out, "  {}", look.faint(line.trim()))?;
        }
        Ok(())
    }

    /// The sums of two recipes or runs side by side.
    fn sums(&self, out: &mut Output) -> Result<(), Failure> {
        let look = self.screen.look;
        let [one, other] = self.comparison.sides.as_slice() else { return Ok(()) };
        writeln!(out, "\n{}", look.heading("In sums"))?;
        let counts: [Count; 10] = [
            ("documents", |overview| overview.documents),
            ("left out by steps", |overview| overview.left_out),
            ("left without a token", |overview| overview.emptied),
            ("tokens as found", |overview| overview.tokens_found),
            ("distinct spellings as found", |overview| overview.types_found),
            ("tokens kept", |overview| overview.tokens),
            ("terms", |overview| overview.terms),
            ("terms that come once", |overview| overview.hapaxes),
            ("terms that cover half of the tokens", |overview| overview.cover_half),
            ("terms that cover nine tenths", |overview| overview.cover_most),
        ];
        let mut rows: Vec<Vec<String>> = counts
            .iter()
            .map(|(name, count)| {
                let (before, after) = (count(&one.overview), count(&other.overview));
                vec![(*name).to_owned(), grouped(before), grouped(after), change(before, after)]
            })
            .collect();
        if !one.seconds.is_empty() && !other.seconds.is_empty() {
            let time = |seconds: &[f64]| format!("{:.3} s", seconds.iter().sum::<f64>());
            let name = "time of the steps, estimated".to_owned();
            rows.push(vec![name, time(&one.seconds), time(&other.seconds), String::new()]);
        }
        let columns = [("", Align::Left), ("A", Align::Right), ("B", Align::Right), ("", Align::Right)];
        write!(out, "{}", table(&columns, &rows, look))?;
        Ok(())
    }

    /// Each recipe or run in a line, with what differs from the first.
    fn against_the_first(&self, out: &mut Output) -> Result<(), Failure> {
        let look = self.screen.look;
        let sides = &self.comparison.sides;
        let first = &sides[0].overview;
        let is_drift = self.comparison.pairs.iter().any(|pair| pair.drift.is_some());
        let keys: Vec<String> = sides
            .iter()
            .find(|side| !side.settings.is_empty())
            .map_or(Vec::new(), |side| side.settings.iter().map(|(key, _)| key.clone()).collect());
        let counts: [Count; 6] = [
            ("documents", |overview| overview.documents),
            ("tokens found", |overview| overview.tokens_found),
            ("emptied", |overview| overview.emptied),
            ("tokens kept", |overview| overview.tokens),
            ("terms", |overview| overview.terms),
            ("once only", |overview| overview.hapaxes),
        ];
        // What is the same in all of them is told once.
        let (varying, same): (Vec<_>, Vec<_>) = counts.into_iter().partition(|(name, value)| {
            matches!(*name, "tokens kept" | "terms")
                || sides.iter().any(|side| value(&side.overview) != value(first))
        });
        let same: Vec<String> =
            same.iter().map(|(name, value)| format!("{name} {}", grouped(value(first)))).collect();
        writeln!(out, "\n{}", look.heading("Each against A"))?;
        let name_column = if keys.is_empty() { vec![""] } else { keys.iter().map(String::as_str).collect() };
        let mut columns = vec![("", Align::Left)];
        columns.extend(name_column.iter().map(|name| (*name, Align::Left)));
        columns.extend(varying.iter().map(|(name, _)| (*name, Align::Right)));
        columns.extend([
            ("terms only in A", Align::Right),
            ("only here", Align::Right),
            ("tokens shared", Align::Right),
            ("rank overlap", Align::Right),
        ]);
        if !is_drift {
            columns.extend([
                ("together here", Align::Right),
                ("apart here", Align::Right),
                ("documents changed", Align::Right),
            ]);
        }
        let mut idle = Vec::new();
        let rows = sides.iter().enumerate().map(|(place, side)| {
            let mut row = vec![side.letter.clone()];
            match side.settings.is_empty() {
                false => row.extend(side.settings.iter().map(|(_, value)| visible(value))),
                true => {
                    row.push(visible(&side.name));
                    row.extend(keys.iter().skip(1).map(|_| String::new()));
                }
            }
            row.extend(varying.iter().map(|(_, value)| {
                let own = value(&side.overview);
                match place {
                    0 => grouped(own),
                    _ => format!("{} {}", grouped(own), change(value(first), own)),
                }
            }));
            let Some(pair) = self.comparison.pairs.iter().find(|pair| pair.there == place) else {
                row.resize(columns.len(), String::new());
                return row;
            };
            row.extend(against_cells(pair));
            let all = pair.changed.map(|changed| changed.all()).unwrap_or_default();
            if all.changed == 0 && all.documents > 0 && side.without.is_some() {
                idle.push(side.name.strip_prefix("without ").unwrap_or(&side.name).to_owned());
            }
            row
        });
        let mut rows: Vec<Vec<String>> = rows.collect();
        let gone = give_way(&mut columns, &mut rows, &GIVING_WAY, look);
        let tells_together = columns.iter().any(|(name, _)| name.starts_with("together"));
        write!(out, "{}", table(&columns, &rows, look))?;
        if !gone.is_empty() {
            writeln!(
                out,
                "  {}",
                look.faint(&format!("found no room: {}; --format csv has all", gone.join(", ")))
            )?;
        }
        if !same.is_empty() {
            writeln!(out, "  {}", look.faint(&format!("the same in all: {}", same.join(", "))))?;
        }
        if tells_together {
            writeln!(
                out,
                "  {}",
                look.faint("together here: tokens of words that fall together only here, and in A are apart; apart here: the other way round")
            )?;
        }
        for step in idle {
            writeln!(
                out,
                "  step {} changes nothing in this place: without it all documents come out the same",
                visible(&step)
            )?;
        }
        Ok(())
    }

    /// How well labels are told.
    fn labels(&self, out: &mut Output) -> Result<(), Failure> {
        let look = self.screen.look;
        let (Some(labels), Some(field)) = (&self.comparison.labels, &self.comparison.label) else {
            return Ok(());
        };
        let most = most_bits(self.comparison);
        writeln!(
            out,
            "\n{}",
            look.heading(&format!("How well `{}` can be told from the terms", visible(field)))
        )?;
        let columns = [
            ("", Align::Left),
            ("", Align::Left),
            ("accuracy", Align::Right),
            ("95 of 100 drawings", Align::Right),
            ("macro F1", Align::Right),
            ("against A", Align::Right),
            ("information kept", Align::Right),
        ];
        let found = (String::new(), "text as found".to_owned());
        let names: Vec<(String, String)> = self
            .comparison
            .sides
            .iter()
            .map(|side| (side.letter.clone(), visible(&side.name)))
            .chain([found])
            .collect();
        let rows = labels.rows.iter().zip(names).map(|(row, (letter, name))| {
            let telling = &row.telling;
            let gain = row.gain.map_or_else(String::new, |(low, high)| {
                let points = |gain: f64| format!("{:+.1}", gain * 100.0).replace('-', "−");
                let told = format!("{} to {} points", points(low), points(high));
                match (low, high) {
                    (0.0, 0.0) => "the same".to_owned(),
                    (low, high) if low <= 0.0 && high >= 0.0 => format!("{told}: may be chance"),
                    _ => told,
                }
            });
            vec![
                letter,
                name,
                share(telling.accuracy),
                format!("{} to {}", share(telling.range.0), share(telling.range.1)),
                format!("{:.3}", telling.macro_f1),
                gain,
                if most > 0.0 { share(row.bits / most) } else { String::new() },
            ]
        });
        write!(out, "{}", table(&columns, &rows.collect::<Vec<_>>(), look))?;
        let majority = labels.rows.first().map_or(0.0, |row| row.telling.majority);
        let sample = match labels.documents {
            documents if documents >= MOST_LABELLED as u64 => "a sample of ",
            _ => "",
        };
        self.aside(
            &format!(
                "multinomial naive Bayes, learned on four fifths and asked about the rest, five times; {sample}{} with {}; always saying the commonest label is right in {}",
                counted(labels.documents, "document"),
                counted(labels.labels as u64, "label"),
                share(majority)
            ),
            out,
        )?;
        Ok(())
    }

    /// How long the steps of each take.
    fn times(&self, out: &mut Output) -> Result<(), Failure> {
        let told: Vec<String> = self
            .comparison
            .sides
            .iter()
            .filter(|side| !side.seconds.is_empty())
            .map(|side| format!("{} {:.3} s", side.letter, side.seconds.iter().sum::<f64>()))
            .collect();
        if !told.is_empty() {
            let told = format!("time of the steps alone, estimated: {}", told.join(", "));
            self.aside(&told, out)?;
        }
        Ok(())
    }

    fn mates(&self, out: &mut Output) -> Result<(), Failure> {
        let look = self.screen.look;
        if self.comparison.sides.iter().all(|side| side.mates.is_none()) {
            return Ok(());
        }
        writeln!(out, "\n{}", look.heading("Pairs of words that fall together"))?;
        let columns = [
            ("", Align::Left),
            ("", Align::Left),
            ("of those that should", Align::Right),
            ("of those that should not", Align::Right),
        ];
        let part = |(all, together): (u64, u64)| format!("{} of {}", grouped(together), grouped(all));
        let rows = self.comparison.sides.iter().filter_map(|side| {
            let mates = side.mates?;
            Some(vec![side.letter.clone(), visible(&side.name), part(mates.mates), part(mates.others)])
        });
        write!(out, "{}", table(&columns, &rows.collect::<Vec<_>>(), look))?;
        Ok(())
    }

    /// Two sides in full.
    fn pair(&self, pair: &PairFacts<'_>, out: &mut Output) -> Result<(), Failure> {
        self.vocabularies(pair, out)?;
        self.drift(pair, out)?;
        if pair.drift.is_none() {
            self.together(pair, out)?;
        }
        self.splits(pair, out)?;
        self.documents(pair, out)
    }

    fn vocabularies(&self, pair: &PairFacts<'_>, out: &mut Output) -> Result<(), Failure> {
        let look = self.screen.look;
        let both = &pair.vocabularies;
        writeln!(out, "\n{}", look.heading("The vocabularies"))?;
        writeln!(
            out,
            "  {} in both; {} only in A ({}), {} only in B ({})",
            counted(both.common, "term"),
            grouped(both.only_here.0),
            counted(both.only_here.1, "token"),
            grouped(both.only_there.0),
            counted(both.only_there.1, "token")
        )?;
        writeln!(
            out,
            "  {} of the terms and {} of the tokens are shared; rank-biased overlap {:.3} {}",
            share(both.shared_terms),
            share(both.shared_tokens),
            both.rank_overlap,
            look.faint("(1: the same order; the first 50 ranks weigh 85 %)")
        )?;
        let is_drift = pair.drift.is_some();
        let gone: Vec<(&str, u64)> =
            both.gone().take(self.rows).map(|(term, row)| (term, row.count)).collect();
        let new: Vec<(&str, u64)> =
            both.new_there().take(self.rows).map(|(term, row)| (term, row.count)).collect();
        let names =
            |terms: &[(&'_ str, u64)]| terms.iter().map(|(term, _)| (*term).to_owned()).collect::<Vec<_>>();
        let reasons = |terms: &[(&str, u64)], reversed: bool| -> Vec<String> {
            if is_drift {
                return terms.iter().map(|_| String::new()).collect();
            }
            let pairing = if reversed { pair.pairing.reversed() } else { pair.pairing };
            let names = names(terms);
            let names: Vec<&str> = names.iter().map(String::as_str).collect();
            let missing: Vec<Missing<'_>> = pairing.missing(&names);
            missing.iter().map(|missing| cut(&visible(&why(missing, pairing.there())), LONGEST)).collect()
        };
        for (title, terms, reversed, column) in
            [("Only in A", &gone, false, "in B"), ("Only in B", &new, true, "in A")]
        {
            if terms.is_empty() {
                continue;
            }
            let mut columns = vec![(title, Align::Left), ("tokens", Align::Right)];
            if !is_drift {
                columns.push((column, Align::Left));
            }
            let rows = terms.iter().zip(reasons(terms, reversed)).map(|((term, count), why)| {
                let mut row = vec![visible_name(term), grouped(*count)];
                if !is_drift {
                    row.push(why);
                }
                row
            });
            writeln!(out)?;
            write!(out, "{}", table(&columns, &rows.collect::<Vec<_>>(), look))?;
        }
        let movers = both.movers();
        if !is_drift && !movers.is_empty() {
            let columns = [
                ("Moved most", Align::Left),
                ("rank in A", Align::Right),
                ("in B", Align::Right),
                ("tokens in A", Align::Right),
                ("in B", Align::Right),
            ];
            let rows = movers.iter().take(self.rows).filter_map(|row| {
                let (here, there) = (row.here?, row.there?);
                Some(vec![
                    visible_name(row.term),
                    grouped(here.rank),
                    grouped(there.rank),
                    grouped(here.count),
                    grouped(there.count),
                ])
            });
            writeln!(out)?;
            write!(out, "{}", table(&columns, &rows.collect::<Vec<_>>(), look))?;
        }
        Ok(())
    }

    fn drift(&self, pair: &PairFacts<'_>, out: &mut Output) -> Result<(), Failure> {
        let look = self.screen.look;
        let Some((drift, shift)) = &pair.drift else { return Ok(()) };
        writeln!(out, "\n{}", look.heading("What has changed from A to B"))?;
        writeln!(
            out,
            "  {} of the tokens of B are of terms that A has not got; {} of those of A are of terms that B has not got",
            share(drift.unknown_share),
            share(drift.gone_share)
        )?;
        let lengths = &shift.lengths;
        writeln!(
            out,
            "  documents have {:.1} tokens as found in A and {:.1} in B on average, the median is {} and {}; the distributions are at most {} apart",
            lengths.mean.0,
            lengths.mean.1,
            grouped(lengths.median.0),
            grouped(lengths.median.1),
            share(lengths.distance)
        )?;
        let (ours, theirs) = &shift.languages;
        if !ours.is_empty() && !theirs.is_empty() {
            let mut names: Vec<&String> = ours.keys().chain(theirs.keys()).collect();
            names.sort_unstable();
            names.dedup();
            let all = |counts: &std::collections::BTreeMap<String, u64>| counts.values().sum::<u64>();
            let part = |counts: &std::collections::BTreeMap<String, u64>, name: &String| {
                percent(counts.get(name).copied().unwrap_or(0), all(counts))
            };
            names.sort_by_key(|name| {
                std::cmp::Reverse(
                    ours.get(*name).copied().unwrap_or(0).max(theirs.get(*name).copied().unwrap_or(0)),
                )
            });
            let told: Vec<String> = names
                .iter()
                .take(6)
                .map(|name| format!("{} {} → {}", visible(name), part(ours, name), part(theirs, name)))
                .collect();
            writeln!(out, "  languages: {}", told.join(", "))?;
        }
        let columns = [
            ("Share moved most", Align::Left),
            ("tokens in A", Align::Right),
            ("in B", Align::Right),
            ("log-likelihood", Align::Right),
            ("times as often", Align::Right),
        ];
        let rows = drift.moved.iter().take(self.rows).map(|row| {
            vec![
                visible_name(row.term),
                grouped(row.here),
                grouped(row.there),
                format!("{:.1}", row.g2),
                format!("{:.2}", row.log_ratio.exp2()),
            ]
        });
        writeln!(out)?;
        write!(out, "{}", table(&columns, &rows.collect::<Vec<_>>(), look))?;
        Ok(())
    }

    fn together(&self, pair: &PairFacts<'_>, out: &mut Output) -> Result<(), Failure> {
        let look = self.screen.look;
        if pair.together_here.merged.is_empty() && pair.together_there.merged.is_empty() {
            return Ok(());
        }
        writeln!(out, "\n{}", look.heading("Words that fall together"))?;
        for (letter, conflation) in [("A", &pair.together_here), ("B", &pair.together_there)] {
            self.conflation(letter, conflation, out)?;
        }
        Ok(())
    }

    fn conflation(&self, letter: &str, conflation: &Conflation<'_>, out: &mut Output) -> Result<(), Failure> {
        let look = self.screen.look;
        if conflation.merged.is_empty() {
            return Ok(());
        }
        writeln!(
            out,
            "  only in {letter}: {}, {}",
            counted(conflation.merged.len() as u64, "group"),
            counted(conflation.tokens, "token")
        )?;
        for merged in conflation.merged.iter().take(self.rows) {
            let parts: Vec<String> = merged
                .parts
                .iter()
                .take(6)
                .map(|part| {
                    // The word that people know, where the term is a stem.
                    let name = if part.form.to_lowercase() == part.term { part.term } else { part.form };
                    format!("{} {}", visible_name(name), grouped(part.tokens))
                })
                .collect();
            let more = merged.parts.len().saturating_sub(6);
            let more = if more > 0 { format!(" and {more} more") } else { String::new() };
            writeln!(
                out,
                "     {} = {}{more}",
                visible_name(merged.term),
                parts.join(look.faint(" + ").as_str())
            )?;
        }
        Ok(())
    }

    fn splits(&self, pair: &PairFacts<'_>, out: &mut Output) -> Result<(), Failure> {
        let look = self.screen.look;
        let Some(splits) = pair.splits else { return Ok(()) };
        let name = |kind: DisagreementKind| match kind {
            DisagreementKind::Parted => "whole in A, parted in B",
            DisagreementKind::Whole => "parted in A, whole in B",
            DisagreementKind::CutElsewhere => "cut at other places",
            DisagreementKind::OtherEdges => "one token with other edges",
            DisagreementKind::OnlyHere => "tokens only in A",
            DisagreementKind::OnlyThere => "tokens only in B",
        };
        writeln!(out, "\n{}", look.heading("Where the text is cut otherwise"))?;
        let disagreements = splits.disagreements();
        let columns = [("", Align::Left), ("places", Align::Right), ("such as", Align::Left)];
        let rows = splits.by_kind().map(|(kind, count)| {
            let examples: Vec<String> = disagreements
                .iter()
                .filter(|row| row.kind == kind)
                .take(self.rows.min(5))
                .map(|row| {
                    let side = |parts: &[String]| visible(&parts.join("·"));
                    let told = match kind {
                        DisagreementKind::OnlyHere => side(&row.here),
                        DisagreementKind::OnlyThere => side(&row.there),
                        DisagreementKind::Parted => side(&row.there),
                        DisagreementKind::Whole => side(&row.here),
                        _ => format!("{} / {}", side(&row.here), side(&row.there)),
                    };
                    format!("{} {}", cut(&told, 40), grouped(row.count))
                })
                .collect();
            vec![name(kind).to_owned(), grouped(count), examples.join(", ")]
        });
        let rows: Vec<Vec<String>> = rows.collect();
        if rows.is_empty() {
            writeln!(out, "  nowhere: all {} are at the same places", counted(splits.alike(), "token"))?;
            return Ok(());
        }
        write!(out, "{}", table(&columns, &rows, look))?;
        writeln!(
            out,
            "  {}",
            look.faint(&format!("{} are at the same places in both", counted(splits.alike(), "token")))
        )?;
        Ok(())
    }

    fn documents(&self, pair: &PairFacts<'_>, out: &mut Output) -> Result<(), Failure> {
        let look = self.screen.look;
        let Some(changed) = pair.changed else { return Ok(()) };
        let all = changed.all();
        writeln!(out, "\n{}", look.heading("The documents"))?;
        writeln!(
            out,
            "  {} of {} change; {} of their terms differ",
            grouped(all.changed),
            counted(all.documents, "document"),
            share(all.terms.share())
        )?;
        if let Some(field) = &self.comparison.by {
            let columns = [
                (field.as_str(), Align::Left),
                ("documents", Align::Right),
                ("changed", Align::Right),
                ("terms in A", Align::Right),
                ("in B", Align::Right),
                ("differ", Align::Right),
            ];
            let mut groups: Vec<_> = changed.groups().iter().collect();
            groups.sort_by(|one, other| other.1.terms.share().total_cmp(&one.1.terms.share()));
            let all = groups.len();
            let rows = groups.into_iter().take(self.rows).map(|(name, sums)| {
                vec![
                    visible_name(name),
                    grouped(sums.documents),
                    percent(sums.changed, sums.documents),
                    grouped(sums.terms.here),
                    grouped(sums.terms.there),
                    share(sums.terms.share()),
                ]
            });
            write!(out, "\n{}", table(&columns, &rows.collect::<Vec<_>>(), look))?;
            if all > self.rows {
                writeln!(
                    out,
                    "  {}",
                    look.faint(&format!("{} more", counted((all - self.rows) as u64, "value")))
                )?;
            }
        }
        let shown = self.rows.div_ceil(3).min(3);
        if shown > 0 && changed.top().len() > 0 {
            writeln!(
                out,
                "  the most changed, {}:",
                look.faint("with the terms that are only in A as removed, and those only in B as added")
            )?;
        }
        for (change, document) in changed.top().take(shown) {
            let line = format!(
                "  {}  {} in A, {} in B, {} in both",
                visible_name(&document.id),
                counted(change.here, "term"),
                grouped(change.there),
                grouped(change.common)
            );
            writeln!(out, "{line}")?;
            let mut pieces = Vec::new();
            let mut room = look.width.saturating_sub(5) * 4;
            let stretches = stretches(document);
            for (place, stretch) in stretches.iter().enumerate() {
                if !pieces.is_empty() {
                    pieces.push(Marked::Same(" ".to_owned()));
                }
                let text = match stretch {
                    Stretch::Same(terms) => shortened(terms, place == 0, place + 1 == stretches.len()),
                    Stretch::Here(terms) | Stretch::There(terms) => terms.join(" "),
                };
                let text = cut(&text, room);
                let used = text.chars().count() + 1;
                pieces.push(match stretch {
                    Stretch::Same(_) => Marked::Same(text),
                    Stretch::Here(_) => Marked::Gone(text),
                    Stretch::There(_) => Marked::New(text),
                });
                if used >= room {
                    break;
                }
                room -= used;
            }
            writeln!(out, "     {}", wrapped(&pieces, 5, look))?;
        }
        Ok(())
    }
}
