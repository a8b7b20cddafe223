//! What the terminal tells of a run.

use std::io::Write;

use yarrup_core::MatchRow;
use yarrup_io::{ORIGINALS_FILE, RunRecord};
use yarrup_report::{
    Align, Coverage, Look, StepRow, bars, counted, effect_table, grouped, percent, shown, sized, table,
    visible, visible_name,
};

use crate::failure::Failure;
use crate::screen::{Screen, program, shell_word};

/// How many terms the terminal shows.
pub(crate) const SHOWN_TERMS: usize = 15;

/// The size of a run that is told.
const TOLD_FROM: u64 = 10_000_000;

/// A run that stands in its folder, and what is told of it.
pub(crate) struct RunSummary {
    pub(crate) name: String,
    pub(crate) record: RunRecord,
    pub(crate) steps: Vec<StepRow>,
    pub(crate) top: Vec<(String, u64)>,
    pub(crate) coverage: Vec<Coverage>,
    pub(crate) matches: Vec<MatchRow>,
    /// The documents that steps left out: the step, the reason, how many.
    pub(crate) left_out: Vec<(String, String, u64)>,
    pub(crate) folder: String,
    /// The files of the run and how many bytes each has.
    pub(crate) sizes: Vec<(String, u64)>,
    /// The seconds that each step takes, and what part of the text that was measured on; if that was asked for.
    pub(crate) times: Option<(Vec<f64>, f64)>,
}

/// The sorts of matches that steps tell apart, as the cells of a table: step, sort, count, documents, examples.
pub(crate) fn sorted_matches(rows: &[MatchRow]) -> Vec<[String; 5]> {
    let cells = |row: &MatchRow| {
        let name = row.label.as_deref().map_or_else(|| row.operation.clone(), visible);
        let cut = |example: &String| {
            let seen = shown(example);
            match seen.char_indices().nth(30) {
                Some((at, _)) => format!("{}…", &seen[..at]),
                None => seen,
            }
        };
        let examples: Vec<String> = row.examples.iter().map(cut).collect();
        [
            format!("{} {name}", row.step),
            visible(&row.sort),
            grouped(row.count),
            grouped(row.documents),
            examples.join(" · "),
        ]
    };
    rows.iter().filter(|row| !row.sort.is_empty()).map(cells).collect()
}

/// How much less is left than the split made: `60.5 % less: 1,234 of 5,678 tokens, 345 of 678 distinct words are left`.
fn less(steps: &[StepRow]) -> Option<String> {
    // What was found before text steps is another text.
    let mut rows = steps.iter().filter(|row| row.step > 0 && row.tokens.is_some());
    let (first, last) = (rows.next()?, rows.next_back()?);
    let (before, after) = (first.tokens?, last.tokens?);
    let change = if after <= before {
        format!("{} less", percent(before - after, before))
    } else {
        format!("{} more", percent(after - before, before))
    };
    Some(format!(
        "{change}: {} of {} tokens ({}) and {} of {} distinct words are left",
        grouped(after),
        grouped(before),
        percent(after, before),
        grouped(last.types.unwrap_or(0)),
        grouped(first.types.unwrap_or(0))
    ))
}

impl RunSummary {
    /// One line for a run that is not shown whole.
    pub(crate) fn in_a_line(&self) -> String {
        let totals = &self.record.totals;
        format!(
            "{}, {} as found, {} kept, {}",
            counted(totals.documents, "document"),
            counted(totals.tokens_found, "token"),
            grouped(totals.tokens_kept),
            counted(totals.terms, "term")
        )
    }

    /// What takes the room, where that is much.
    fn room(&self) -> Option<String> {
        let all: u64 = self.sizes.iter().map(|(_, bytes)| bytes).sum();
        if all < TOLD_FROM {
            return None;
        }
        let mut files = self.sizes.clone();
        files.sort_by_key(|(_, bytes)| std::cmp::Reverse(*bytes));
        let named: Vec<String> = files
            .iter()
            .take_while(|(_, bytes)| bytes * 20 >= all)
            .map(|(name, bytes)| format!("{name} {}", sized(*bytes)))
            .collect();
        Some(format!("{} takes {}: {}", visible(&self.folder), sized(all), named.join(", ")))
    }

    /// Where the original texts are, if not in the run.
    fn originals(&self) -> Option<String> {
        if self.record.reading.part.is_some() || !self.sizes.iter().any(|(name, _)| name == ORIGINALS_FILE) {
            return None;
        }
        let sources: Vec<String> = self.record.sources.iter().map(|source| visible(&source.name)).collect();
        Some(format!(
            "The original texts stay in {}, where `find` and `export` read them again; --with-originals copies them into the run",
            sources.join(", ")
        ))
    }

    /// How long the steps take.
    fn print_times(&self, look: Look, out: &mut impl Write) -> Result<(), Failure> {
        let Some((seconds, part)) = &self.times else { return Ok(()) };
        let all: f64 = seconds.iter().sum();
        writeln!(out, "\n{}", look.heading("The time of each step"))?;
        let columns = [("step", Align::Left), ("seconds", Align::Right), ("share", Align::Right)];
        let row = |name: &str, seconds: f64| {
            let share = if all > 0.0 { seconds / all * 100.0 } else { 0.0 };
            vec![name.to_owned(), format!("{seconds:.3}"), format!("{share:.1} %")]
        };
        let steps = self.steps.iter().filter(|step| step.step > 0);
        let mut rows: Vec<Vec<String>> = steps
            .zip(seconds)
            .map(|(step, seconds)| row(&format!("{} {}", step.step, visible(&step.name)), *seconds))
            .collect();
        rows.push(row("all steps", all));
        write!(out, "{}", table(&columns, &rows, look))?;
        let told = format!(
            "estimated on {:.1} % of the text, threads added up; reading, looking words up, counting and writing come on top",
            part * 100.0
        );
        writeln!(out, "  {}", look.faint(&told))?;
        Ok(())
    }

    /// How the documents stand against those of an earlier run.
    fn print_against(&self, look: Look, out: &mut impl Write) -> Result<(), Failure> {
        let Some(against) = &self.record.against else { return Ok(()) };
        let share = |share: f64| format!("{:.2} %", share * 100.0);
        let heading = format!("Against {}", visible(&against.run));
        writeln!(out, "\n{}", look.heading(&heading))?;
        let such = match against.such_as.len() {
            0 => String::new(),
            _ => {
                let words: Vec<String> = against.such_as.iter().map(|word| visible_name(word)).collect();
                format!(", such as {}", words.join(" · "))
            }
        };
        writeln!(
            out,
            "  {} of the words ({}) never came up there{such}",
            share(against.unknown_words_share),
            grouped(against.unknown_words)
        )?;
        writeln!(
            out,
            "  {} of the kept tokens are of terms that it has not got, and {} of its own are of terms that are not here",
            share(against.unknown_share),
            share(against.gone_share)
        )?;
        let run = (shell_word(&against.run), shell_word(&self.folder));
        writeln!(out, "  {}", look.command(&format!("{} compare {} {}", program(), run.0, run.1)))?;
        Ok(())
    }

    /// The effect of every step, the top terms, and where to look next.
    pub(crate) fn print(&self, screen: &Screen) -> Result<(), Failure> {
        let look = screen.look;
        let mut out = screen.out();
        let totals = &self.record.totals;
        writeln!(
            out,
            "{}  {} from {}{}",
            look.heading(&visible(&self.name)),
            counted(totals.documents, "document"),
            counted(self.record.sources.iter().filter(|source| !source.is_wrapping()).count() as u64, "file"),
            match totals.documents_left_out {
                0 => String::new(),
                count => format!(", {} left out by conditions", grouped(count)),
            },
        )?;
        writeln!(out, "\n{}", look.heading("The effect of each step"))?;
        write!(out, "{}", effect_table(&self.steps, look))?;
        if let Some(sentence) = less(&self.steps) {
            writeln!(out, "  {}", look.faint(&sentence))?;
        }
        self.print_times(look, &mut out)?;
        // Sorts that a step tells apart: how often each of a step came stands in the table above already.
        let sorts: Vec<Vec<String>> =
            sorted_matches(&self.matches).into_iter().map(|cells| cells.to_vec()).collect();
        if !sorts.is_empty() {
            writeln!(out, "\n{}", look.heading("What the text steps matched"))?;
            let columns = [
                ("step", Align::Left),
                ("sort", Align::Left),
                ("count", Align::Right),
                ("documents", Align::Right),
                ("such as", Align::Left),
            ];
            write!(out, "{}", table(&columns, &sorts, look))?;
        }
        if !self.left_out.is_empty() {
            let all: u64 = self.left_out.iter().map(|(.., count)| count).sum();
            let heading = format!("Documents left out: {} of {}", grouped(all), grouped(totals.documents));
            writeln!(out, "\n{}", look.heading(&heading))?;
            let columns = [("step", Align::Left), ("reason", Align::Left), ("documents", Align::Right)];
            let row = |(step, reason, count): &(String, String, u64)| {
                vec![step.clone(), reason.clone(), grouped(*count)]
            };
            let rows: Vec<Vec<String>> = self.left_out.iter().map(row).collect();
            write!(out, "{}", table(&columns, &rows, look))?;
        }
        if !self.top.is_empty() {
            writeln!(out, "\n{}", look.heading(&format!("Top terms of {}", grouped(totals.terms))))?;
            write!(out, "{}", bars(&self.top, look))?;
            let covers: Vec<_> = self
                .coverage
                .iter()
                .map(|cover| {
                    let cover_word = if cover.terms == 1 { "covers" } else { "cover" };
                    format!(
                        "{} ({} of the vocabulary) {cover_word} {:.0} %",
                        counted(cover.terms, "term"),
                        percent(cover.terms, totals.terms),
                        cover.share * 100.0
                    )
                })
                .collect();
            for cover in covers {
                writeln!(out, "  {}", look.faint(&format!("{cover} of all tokens")))?;
            }
        }
        self.print_against(look, &mut out)?;
        for sentence in [self.room(), self.originals()].into_iter().flatten() {
            writeln!(out, "\n{}", look.faint(&sentence))?;
        }
        let (program, run) = (program(), shell_word(&self.folder));
        if let Some(part) = self.record.reading.part {
            writeln!(out, "\n{}", look.heading(&format!("This is part {part}")))?;
            writeln!(out, "  {}\n", look.command(&format!("{program} merge PART… --out RUN")))?;
            out.flush()?;
            self.warn(screen);
            return Ok(());
        }
        let first = self.top.first().map_or("WORD", |(term, _)| term.as_str());
        writeln!(out, "\n{}", look.heading("Where to look next"))?;
        if self.sizes.iter().any(|(name, _)| name == "report.html") {
            writeln!(out, "  {run}/report.html   the whole picture, in a browser")?;
        }
        writeln!(out, "  {}", look.command(&format!("{program} terms {run}")))?;
        writeln!(out, "  {}", look.command(&format!("{program} find {run} {}", shell_word(first))))?;
        writeln!(out, "  {}", look.command(&format!("{program} terms {run} --dropped")))?;
        writeln!(out, "  {}\n", look.command(&format!("{program} why {run} {}", shell_word(first))))?;
        out.flush()?;
        self.warn(screen);
        Ok(())
    }

    fn warn(&self, screen: &Screen) {
        for warning in &self.record.warnings {
            screen.warn_once(&visible(warning));
        }
    }
}
