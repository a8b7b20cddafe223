//! What is shown of one text on its way through recipes.

use std::io::Write;
use std::path::Path;

use yarrup_core::compare::{align, described};
use yarrup_core::{StepName, Tag, TextTrace, TokenFate, TokenStepTrace, TokenTrace, Trace};
use yarrup_report::{GUTTER, Look, Marked, counted, grouped, in_columns, shown, visible, wrapped};

use crate::failure::Failure;
use crate::recipe_file::{Compiled, lists_beside};
use crate::screen::Screen;

/// The least and the most that the column of the steps' names may take.
const NAMES: (usize, usize) = (12, 28);

/// What is shown of one step.
struct Block {
    /// Its place in the recipe, from 1; 0 for the text, and the largest for what is left.
    step: usize,
    lines: Vec<String>,
}

/// The place of what is left.
const CLEAN: usize = usize::MAX;

/// The way of one text through a recipe, step by step.
fn blocks(trace: &Trace<'_>, original: &str, end: usize, look: Look) -> Vec<Block> {
    let steps = trace.text_steps.iter().map(|step| step.step).chain([trace.split]);
    let steps = steps.chain(trace.token_steps.iter().map(|step| step.step));
    let names = steps.map(|step| name(step).chars().count() + 2).max().unwrap_or(0).clamp(NAMES.0, NAMES.1);
    let block = |step: usize, name: &str, pieces: &[Marked], notes: Vec<String>| {
        let name: String = name.chars().take(names - 2).collect();
        let name = look.heading(&format!("{name:<width$}", width = names - 2));
        let mut lines: Vec<String> =
            format!("{name}  {}", wrapped(pieces, names, look)).split('\n').map(str::to_owned).collect();
        let plain = Look { colour: false, ..look };
        for note in &notes {
            let note = wrapped(&[Marked::Same(note.clone())], names, plain);
            lines
                .extend(note.lines().map(|line| format!("{}{}", " ".repeat(names), look.faint(line.trim()))));
        }
        Block { step, lines }
    };
    let mut shown = vec![block(0, "text", &[Marked::Same(original.to_owned())], Vec::new())];
    let mut before = original;
    for step in &trace.text_steps {
        let pieces = text_pieces(step, before);
        shown.push(block(step.step.number, &name(step.step), &pieces, text_notes(step, look)));
        before = &step.text;
    }
    if end < trace.split.number {
        return shown;
    }
    let put_in = if trace.split.put_in { ", put in: the recipe has no split" } else { "" };
    let note = format!("{}{put_in}", counted(trace.tokens.len() as u64, "token"));
    shown.push(block(trace.split.number, &name(trace.split), &token_pieces(&trace.tokens), vec![note]));
    for step in &trace.token_steps {
        shown.push(block(step.step.number, &name(step.step), &fate_pieces(step), fate_notes(step, look)));
        // No later step sees the document.
        if step.left_out.is_some() {
            break;
        }
    }
    shown.push(block(CLEAN, "clean", &[Marked::Same(trace.clean.clone())], Vec::new()));
    shown
}

/// The least width of a column of several recipes.
const COLUMN: usize = 48;

/// The way of one text through all recipes: in columns where there is room, else one below the other; and what they leave.
pub(super) fn show_all(
    recipes: &[Compiled],
    traces: &[Trace<'_>],
    original: &str,
    end: usize,
    screen: &Screen,
) -> Result<(), Failure> {
    let look = screen.look;
    let mut out = screen.out();
    let room = (look.width + GUTTER) / recipes.len().max(1) - GUTTER;
    if recipes.len() > 1 && room >= COLUMN && screen.knows_width {
        let narrow = Look { width: room, ..look };
        let columns: Vec<Vec<Block>> =
            traces.iter().map(|trace| blocks(trace, original, end, narrow)).collect();
        let heads: Vec<Vec<String>> =
            recipes.iter().map(|compiled| vec![look.heading(&visible(&compiled.path))]).collect();
        write!(out, "{}", in_columns(&heads, room))?;
        for row in rows(recipes, &columns) {
            let cells: Vec<Vec<String>> = row
                .iter()
                .zip(&columns)
                .map(|(at, column)| {
                    at.and_then(|at| column.get(at)).map_or(Vec::new(), |block| block.lines.clone())
                })
                .collect();
            write!(out, "{}", in_columns(&cells, room))?;
        }
    } else {
        for (compiled, trace) in recipes.iter().zip(traces) {
            if recipes.len() > 1 {
                writeln!(out, "{}", look.heading(&visible(&compiled.path)))?;
            }
            for line in blocks(trace, original, end, look).iter().flat_map(|block| &block.lines) {
                writeln!(out, "{line}")?;
            }
            if recipes.len() > 1 {
                writeln!(out)?;
            }
        }
    }
    out.flush()?;
    if recipes.len() > 1 {
        beside(recipes, traces, screen)?;
    }
    Ok(())
}

/// Which blocks stand in one row: those of steps that are the same in two recipes, and that stand in the same place in more.
fn rows(recipes: &[Compiled], columns: &[Vec<Block>]) -> Vec<Vec<Option<usize>>> {
    let place = |column: usize, step: usize| columns[column].iter().position(|block| block.step == step);
    let [one, other] = recipes else {
        let longest = columns.iter().map(Vec::len).max().unwrap_or(0);
        return (0..longest)
            .map(|row| columns.iter().map(|column| (row < column.len()).then_some(row)).collect())
            .collect();
    };
    let steps = |compiled: &Compiled| described(&compiled.recipe, &lists_beside(Path::new(&compiled.path)));
    let pairs = align(&steps(one), &steps(other));
    let mut rows = vec![vec![place(0, 0), place(1, 0)]];
    let mut shown = 0;
    for pair in &pairs {
        // A step that stands elsewhere in the first recipe is shown where it stands there.
        let here = pair.here.filter(|here| *here > shown);
        if let Some(here) = here {
            rows.extend((shown + 1..here).map(|step| vec![place(0, step), None]));
            shown = here;
        }
        rows.push(vec![here.and_then(|step| place(0, step)), pair.there.and_then(|step| place(1, step))]);
    }
    rows.push(vec![place(0, CLEAN), place(1, CLEAN)]);
    rows.retain(|row| row.iter().any(Option::is_some));
    rows
}

/// What each recipe leaves; terms that another does not leave are marked.
fn beside(recipes: &[Compiled], traces: &[Trace<'_>], screen: &Screen) -> Result<(), Failure> {
    let look = screen.look;
    let mut out = screen.out();
    let terms: Vec<Vec<&str>> = traces.iter().map(|trace| trace.clean.split_whitespace().collect()).collect();
    writeln!(out, "{}", look.heading("side by side"))?;
    let names: Vec<String> = recipes.iter().map(|compiled| visible(&compiled.path)).collect();
    let width = names.iter().map(|name| name.chars().count() + 2).max().unwrap_or(0).clamp(NAMES.0, 40);
    for (name, own) in names.iter().zip(&terms) {
        let mut pieces = Vec::new();
        for term in own {
            if !pieces.is_empty() {
                pieces.push(Marked::Same(" ".to_owned()));
            }
            let everywhere = terms.iter().all(|others| others.contains(term));
            pieces.push(if everywhere {
                Marked::Same((*term).to_owned())
            } else {
                Marked::New((*term).to_owned())
            });
        }
        let name: String = name.chars().take(width - 2).collect();
        writeln!(
            out,
            "{}  {}",
            look.heading(&format!("{name:<fill$}", fill = width - 2)),
            wrapped(&pieces, width, look)
        )?;
        let count = counted(own.len() as u64, "term");
        writeln!(out, "{}{}", " ".repeat(width), look.faint(&format!("{count}; marked: not in all")))?;
    }
    out.flush()?;
    Ok(())
}

fn name(step: &StepName) -> String {
    let named = step.label.as_deref().map_or_else(|| step.operation.to_owned(), visible);
    format!("{:>2} {named}", step.number)
}

fn text_pieces(step: &TextTrace<'_>, before: &str) -> Vec<Marked> {
    let mut pieces = Vec::new();
    let mut at = 0;
    for change in &step.changes {
        pieces.push(Marked::Same(step.text[at..change.now.start].to_owned()));
        let (was, now) = (&before[change.was.clone()], &step.text[change.now.clone()]);
        // A letter that changed its case is shown once; what was replaced or taken out is shown as it was as well.
        if was.to_lowercase() != now.to_lowercase() {
            pieces.push(Marked::Gone(was.to_owned()));
        }
        if !now.is_empty() {
            pieces.push(Marked::New(now.to_owned()));
        }
        at = change.now.end;
    }
    pieces.push(Marked::Same(step.text[at..].to_owned()));
    pieces.retain(|piece| !matches!(piece, Marked::Same(text) if text.is_empty()));
    // Neighbours of one fate are shown as one stretch.
    pieces.dedup_by(|next, piece| match (piece, next) {
        (Marked::Gone(text), Marked::Gone(more)) | (Marked::New(text), Marked::New(more)) => {
            text.push_str(more);
            true
        }
        _ => false,
    });
    pieces
}

/// What is told of a text that steps have made too long.
const TOO_LONG: &str = "the text would become more than 32 times as long: nothing of it is kept";

fn text_notes(step: &TextTrace<'_>, look: Look) -> Vec<String> {
    let first = match (step.applied, step.matches) {
        _ if step.is_overgrown => TOO_LONG.to_owned(),
        (false, _) => NOT_DONE.to_owned(),
        (true, 0) => "nothing to change".to_owned(),
        (true, matches) => format!("{} changed", counted(matches, "place")),
    };
    let sorts: Vec<String> = step
        .sorts
        .iter()
        .map(|(name, sort)| {
            let examples: Vec<String> = sort.examples().map(shown).collect();
            format!("{} {}: {}", visible(name), sort.count, examples.join(", "))
        })
        .collect();
    let mut notes = vec![first];
    for sort in sorts {
        // As many on a line as fit.
        let last = notes
            .last_mut()
            .filter(|last| last.chars().count() + sort.chars().count() + NAMES.1 + 3 < look.width);
        match last {
            Some(last) => *last = format!("{last}; {sort}"),
            None => notes.push(sort),
        }
    }
    notes
}

fn bordered(tokens: impl Iterator<Item = Marked>) -> Vec<Marked> {
    let mut pieces: Vec<Marked> = Vec::new();
    for token in tokens {
        if !pieces.is_empty() {
            pieces.push(Marked::Border);
        }
        pieces.push(token);
    }
    pieces
}

fn token_pieces(tokens: &[TokenTrace]) -> Vec<Marked> {
    bordered(tokens.iter().map(|token| Marked::Same(token.form.clone())))
}

fn fate_pieces(step: &TokenStepTrace<'_>) -> Vec<Marked> {
    bordered(step.tokens.iter().map(|(_, form, fate)| match fate {
        TokenFate::Kept => Marked::Same(form.clone()),
        TokenFate::Changed(to) => Marked::New(to.clone()),
        TokenFate::Dropped(_) | TokenFate::Joined(_) => Marked::Gone(form.clone()),
        TokenFate::Added => Marked::New(form.clone()),
        TokenFate::Marked(mark) => Marked::Noted(form.clone(), mark.clone()),
    }))
}

/// What is said of a step whose condition does not hold.
const NOT_DONE: &str = "not done: its `only` does not hold for this document";

/// What a token step dropped, by reason, and what it changed.
fn fate_notes(step: &TokenStepTrace<'_>, look: Look) -> Vec<String> {
    if !step.applied {
        return vec![NOT_DONE.to_owned()];
    }
    if let Some(reason) = &step.left_out {
        return vec![format!("the document is left out: {}", visible(reason))];
    }
    let mut reasons: Vec<(&str, Vec<&str>)> = Vec::new();
    let (mut changed, mut joined, mut added) = (0, 0, 0);
    let mut marks: Vec<(&str, u64)> = Vec::new();
    for (_, form, fate) in &step.tokens {
        match fate {
            TokenFate::Kept => {}
            TokenFate::Joined(_) => joined += 1,
            TokenFate::Added => added += 1,
            TokenFate::Marked(mark) => match marks.iter_mut().find(|(known, _)| known == mark) {
                Some((_, count)) => *count += 1,
                None => marks.push((mark, 1)),
            },
            TokenFate::Changed(_) => changed += 1,
            TokenFate::Dropped(reason) => match reasons.iter_mut().find(|(known, _)| known == reason) {
                Some((_, forms)) => forms.push(form),
                None => reasons.push((reason, vec![form])),
            },
        }
    }
    let mut notes: Vec<String> = reasons
        .into_iter()
        .map(|(reason, mut forms)| {
            let count = counted(forms.len() as u64, "token");
            let mut seen = Vec::new();
            forms.retain(|form| {
                !seen.contains(form) && {
                    seen.push(form);
                    true
                }
            });
            let mut shown = String::new();
            for (index, form) in forms.iter().enumerate() {
                if index > 0 && shown.len() + form.len() + reason.len() + 40 > look.width {
                    shown.push_str(&format!(", {} more", forms.len() - index));
                    break;
                }
                shown.push_str(if index == 0 { "" } else { ", " });
                shown.push_str(&visible(form));
            }
            format!("{count} dropped, {}: {shown}", visible(reason))
        })
        .collect();
    if changed > 0 {
        notes.push(format!("{} changed", counted(changed, "token")));
    }
    if joined > 0 {
        notes.push(format!("{} made into {}", counted(joined, "token"), grouped(added)));
    }
    if !marks.is_empty() {
        marks.sort_by_key(|(_, count)| std::cmp::Reverse(*count));
        let mut line = String::new();
        for (mark, count) in marks {
            // Parts of speech have a plural; labels are what their author calls them.
            let plural = Tag::named(mark).filter(|_| count > 1).map(Tag::plural);
            let one = format!("{count} {}", plural.map_or_else(|| visible(mark), str::to_owned));
            if !line.is_empty() && line.chars().count() + one.chars().count() + NAMES.1 + 4 > look.width {
                notes.push(std::mem::take(&mut line));
            }
            line.push_str(if line.is_empty() { "" } else { ", " });
            line.push_str(&one);
        }
        notes.push(line);
    }
    if notes.is_empty() {
        notes.push("nothing to change".to_owned());
    }
    notes
}
