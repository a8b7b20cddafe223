//! Tables, bars and marked text on a terminal.

use anstyle::{AnsiColor, Effects, Style};
use comfy_table::{Cell, CellAlignment, ContentArrangement, Table};
use unicode_width::{UnicodeWidthChar as _, UnicodeWidthStr};

use crate::numbers::{grouped, percent, plural};

/// How the terminal at hand is drawn on. Decided once, and passed down.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Look {
    /// Whether colours and strikes are drawn.
    pub colour: bool,
    /// How many columns there are.
    pub width: usize,
    /// Whether lines must fit into them: what another program reads may be as long as it is.
    pub wraps: bool,
}

impl Look {
    pub(crate) fn paint(self, style: Style, text: &str) -> String {
        if self.colour { format!("{style}{text}{style:#}") } else { text.to_owned() }
    }

    /// Text that names a section.
    pub fn heading(self, text: &str) -> String {
        self.paint(Style::new().effects(Effects::BOLD), text)
    }

    /// Text that stands back.
    pub fn faint(self, text: &str) -> String {
        self.paint(Style::new().effects(Effects::DIMMED), text)
    }

    /// Something to type.
    pub fn command(self, text: &str) -> String {
        self.paint(AnsiColor::Cyan.on_default(), text)
    }
}

/// Text of a document as a terminal, a page or a figure may show it: control characters, those that turn the writing direction,
/// and those that no document may hold are shown by their numbers.
pub fn visible(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            '\n' => out.push('⏎'),
            '\t' => out.push('⇥'),
            c if is_unsafe(c) => out.extend(c.escape_unicode()),
            c => out.push(c),
        }
    }
    out
}

/// How many characters of a name are shown.
const NAME: usize = 80;

/// A term, a form or another name as [`visible`] shows it, cut where no line could hold it.
pub fn visible_name(name: &str) -> String {
    match name.char_indices().nth(NAME) {
        Some((at, _)) => format!("{}…", visible(&name[..at])),
        None => visible(name),
    }
}

/// Whether a character could steer a terminal, turn the direction of what stands around it, or end a line where no line ends: C0 and C1, the
/// bidirectional controls (Unicode Standard Annex 9), and the separators of lines and paragraphs; or whether no document may hold it.
fn is_unsafe(c: char) -> bool {
    c.is_control()
        || matches!(
            c,
            '\u{61c}' | '\u{200e}' | '\u{200f}' | '\u{2028}'..='\u{202e}' | '\u{2066}'..='\u{2069}'
        )
        || is_noncharacter(c)
}

/// Adds text of several lines as a terminal may show it. Of the sequences that a terminal obeys only those pass that set colours, and only where
/// these are `coloured`.
pub fn push_safe(text: &str, coloured: bool, out: &mut String) {
    let mut rest = text;
    while let Some(at) = rest.find(|c: char| is_unsafe(c) && !matches!(c, '\n' | '\t')) {
        out.push_str(&rest[..at]);
        rest = &rest[at..];
        let colour = if coloured { colour_sequence(rest) } else { 0 };
        if colour > 0 {
            out.push_str(&rest[..colour]);
            rest = &rest[colour..];
            continue;
        }
        let mut characters = rest.chars();
        out.extend(characters.next().into_iter().flat_map(char::escape_unicode));
        rest = characters.as_str();
    }
    out.push_str(rest);
}

/// The length of the sequence at the start of a text that sets colours or the look of letters; 0 if there is none.
fn colour_sequence(text: &str) -> usize {
    let Some(inside) = text.strip_prefix("\u{1b}[") else { return 0 };
    let length =
        inside.bytes().take_while(|byte| byte.is_ascii_digit() || matches!(byte, b';' | b':')).count();
    if inside.as_bytes().get(length) == Some(&b'm') { length + 3 } else { 0 }
}

/// Adds JSON in which what could steer a terminal is escaped: it reads back as it was.
pub fn push_json_safe(json: &str, out: &mut String) {
    let mut rest = json;
    // Control characters below the space are escaped already where JSON may hold them.
    while let Some(at) = rest.find(|c: char| is_unsafe(c) && c >= '\u{7f}') {
        out.push_str(&rest[..at]);
        let mut characters = rest[at..].chars();
        if let Some(c) = characters.next() {
            let mut units = [0; 2];
            for unit in c.encode_utf16(&mut units) {
                out.push_str(&format!("\\u{unit:04x}"));
            }
        }
        rest = characters.as_str();
    }
    out.push_str(rest);
}

/// An example of what was matched: as [`visible`], but white space and characters that cannot be seen, where there is nothing else, by
/// their numbers.
pub fn shown(example: &str) -> String {
    let unseen = |c: char| {
        c.is_whitespace() || c == '\u{ad}' || UnicodeWidthStr::width(c.encode_utf8(&mut [0; 4]) as &str) == 0
    };
    if !example.is_empty() && example.chars().all(unseen) {
        let numbers: Vec<String> = example.chars().map(|c| format!("U+{:04X}", u32::from(c))).collect();
        return numbers.join(" ");
    }
    visible(example)
}

/// The code points that Unicode keeps out of text, and XML out of documents.
fn is_noncharacter(c: char) -> bool {
    let code = u32::from(c);
    code & 0xfffe == 0xfffe || (0xfdd0..=0xfdef).contains(&code)
}

/// On which side a column's cells stand.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Align {
    /// Text.
    Left,
    /// Numbers.
    Right,
}

/// The spaces around a cell.
const PADDING: usize = 2;

/// A table with a header, without lines but one under the header.
pub fn table(header: &[(&str, Align)], rows: &[Vec<String>], look: Look) -> String {
    let mut table = Table::new();
    let line = comfy_table::LineStyle::new(' ', '─', ' ', ' ');
    let style = comfy_table::presets::NOTHING.header_separator(line);
    table.load_style(style);
    let arrangement = if look.wraps { ContentArrangement::Dynamic } else { ContentArrangement::Disabled };
    table.set_content_arrangement(arrangement);
    table.set_width(u16::try_from(look.width).unwrap_or(u16::MAX));
    table.set_header(header.iter().map(|(name, align)| Cell::new(name).set_alignment(side(*align))));
    for row in rows {
        table.add_row(
            row.iter().zip(header).map(|(cell, (_, align))| Cell::new(cell).set_alignment(side(*align))),
        );
    }
    // A number that is cut in two is none; a heading may stand on several lines.
    for (place, (column, (title, align))) in table.column_iter_mut().zip(header).enumerate() {
        if *align == Align::Right {
            let cells = rows.iter().filter_map(|row| row.get(place)).map(|cell| cell.width());
            let words = title.split(' ').map(UnicodeWidthStr::width);
            let least = cells.chain(words).max().unwrap_or(0) + PADDING;
            let least = comfy_table::Width::Fixed(u16::try_from(least).unwrap_or(u16::MAX));
            column.set_constraint(comfy_table::ColumnConstraint::LowerBoundary(least));
        }
    }
    let mut out: String = table.lines().map(|line| format!("{}\n", line.trim_end())).collect();
    if look.colour
        && let Some(end) = out.find('\n')
    {
        out = format!("{}{}", look.heading(&out[..end]), &out[end..]);
    }
    out
}

fn side(align: Align) -> CellAlignment {
    match align {
        Align::Left => CellAlignment::Left,
        Align::Right => CellAlignment::Right,
    }
}

/// A step's effect as the table shows it. Numbers that do not apply are none.
#[derive(Clone, Debug, Default)]
pub struct StepRow {
    /// The step's place.
    pub step: usize,
    /// Its operation, with its label if it has one.
    pub name: String,
    /// Tokens that go on.
    pub tokens: Option<u64>,
    /// Tokens dropped.
    pub dropped: Option<u64>,
    /// Tokens that became part of others.
    pub joined: Option<u64>,
    /// Tokens that were made of others.
    pub made: Option<u64>,
    /// Tokens that got another spelling.
    pub changed: Option<u64>,
    /// Tokens that got a part of speech or a label.
    pub marked: Option<u64>,
    /// Places that a text step matched.
    pub matches: Option<u64>,
    /// Distinct words that go on.
    pub types: Option<u64>,
    /// Documents touched.
    pub documents: Option<u64>,
}

/// The effect of every step as cells, under the names of their columns: tokens in − dropped − joined + made = tokens left. What no step did has no
/// column. The share is that of the tokens which the split made.
pub(crate) fn step_table(steps: &[StepRow]) -> (Vec<(&'static str, Align)>, Vec<Vec<String>>) {
    let joins = steps.iter().any(|step| step.joined.is_some_and(|count| count > 0));
    let mut header = vec![("step", Align::Right), ("", Align::Left), ("dropped", Align::Right)];
    if joins {
        header.extend([("joined", Align::Right), ("made", Align::Right)]);
    }
    header.extend([
        ("changed", Align::Right),
        ("left", Align::Right),
        ("share", Align::Right),
        ("distinct words", Align::Right),
        ("documents", Align::Right),
    ]);
    let whole = steps.iter().skip(1).find_map(|step| step.tokens).unwrap_or(0);
    let number = |count: Option<u64>| count.map(grouped).unwrap_or_default();
    let row = |step: &StepRow| {
        let changed = match (step.matches, step.marked) {
            (Some(matches), _) => format!("{} {}", grouped(matches), plural(matches, "place")),
            (None, Some(marked)) if marked > 0 => format!("{} marked", grouped(marked)),
            _ => number(step.changed),
        };
        let share = step.tokens.filter(|_| step.step > 0).map(|tokens| percent(tokens, whole));
        let mut cells = vec![step.step.to_string(), visible(&step.name), number(step.dropped)];
        if joins {
            // Most steps join nothing: what they leave empty lets the others be seen.
            let some = |count: Option<u64>| number(count.filter(|count| *count > 0));
            cells.extend([some(step.joined), some(step.made)]);
        }
        cells.extend([
            changed,
            number(step.tokens),
            share.unwrap_or_default(),
            number(step.types),
            number(step.documents),
        ]);
        cells
    };
    (header, steps.iter().map(row).collect())
}

/// The effect of every step as a table, as wide as it needs.
pub fn effect_table(steps: &[StepRow], look: Look) -> String {
    let (mut header, mut rows) = step_table(steps);
    let gone = give_way(&mut header, &mut rows, &["share", "distinct words", "documents"], look);
    let mut out = table(&header, &rows, look);
    if !gone.is_empty() {
        let note = format!("  no room for {}; effects.csv has them\n", gone.join(", "));
        out.push_str(&look.faint(&note));
    }
    out
}

/// Takes out the columns of these names, in their order, until the rest finds room. Returns what is gone.
pub fn give_way<'t>(
    header: &mut Vec<(&'t str, Align)>,
    rows: &mut [Vec<String>],
    names: &[&str],
    look: Look,
) -> Vec<&'t str> {
    let room = |header: &[(&str, Align)], rows: &[Vec<String>]| -> usize {
        let of_column = |(place, (title, _)): (usize, &(&str, Align))| {
            // A heading may stand on several lines.
            let heading = title.split(' ').map(UnicodeWidthStr::width).max().unwrap_or(0);
            rows.iter().map(|row| row[place].width()).max().unwrap_or(0).max(heading) + PADDING + 1
        };
        header.iter().enumerate().map(of_column).sum()
    };
    let mut gone = Vec::new();
    for name in names {
        if !look.wraps || room(header, rows) <= look.width {
            break;
        }
        if let Some(place) = header.iter().position(|(title, _)| title == name) {
            gone.push(header.remove(place).0);
            for row in rows.iter_mut() {
                row.remove(place);
            }
        }
    }
    gone
}

/// Words with their counts as bars; the longest fills the room that is left.
pub fn bars(rows: &[(String, u64)], look: Look) -> String {
    let most = rows.iter().map(|(_, count)| *count).max().unwrap_or(0).max(1);
    let words: Vec<String> = rows.iter().map(|(word, _)| visible_name(word)).collect();
    let word_width = words.iter().map(|word| word.width()).max().unwrap_or(0).min(look.width / 3);
    let number_width = grouped(most).len();
    let room = look.width.saturating_sub(word_width + number_width + 5).clamp(8, 60);
    let mut out = String::new();
    for (word, (_, count)) in words.iter().zip(rows) {
        let word = cut(word, word_width);
        let padding = " ".repeat(word_width - word.width());
        let bar = look.paint(AnsiColor::Cyan.on_default(), &bar(*count, most, room));
        out.push_str(&format!("  {padding}{word} {:>number_width$} {bar}\n", grouped(*count)));
    }
    out
}

/// A bar of eighths of a block.
fn bar(count: u64, most: u64, room: usize) -> String {
    const EIGHTHS: [&str; 8] = ["", "▏", "▎", "▍", "▌", "▋", "▊", "▉"];
    let eighths = ((count as f64 / most as f64) * (room * 8) as f64).round() as usize;
    let eighths = if count > 0 { eighths.max(1) } else { 0 };
    format!("{}{}", "█".repeat(eighths / 8), EIGHTHS[eighths % 8])
}

/// The start of `text` that fits, with an ellipsis if that is not all.
pub fn cut(text: &str, width: usize) -> String {
    if text.width() <= width {
        return text.to_owned();
    }
    let mut used = 1;
    let fits = |c: &char| {
        used += c.width().unwrap_or(0);
        used <= width
    };
    text.chars().take_while(fits).chain(['…']).collect()
}

/// The start of a text of a document on one line of so many columns, as [`visible`] shows it.
pub fn excerpt(text: &str, width: usize) -> String {
    // So many words fill the line, however long the text is.
    let line = text.split_whitespace().take(width).collect::<Vec<_>>().join(" ");
    cut(&visible(&line), width)
}

/// A piece of text with what became of it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Marked {
    /// As it was.
    Same(String),
    /// New or changed.
    New(String),
    /// Taken out.
    Gone(String),
    /// Text that a step has said something of.
    Noted(String, String),
    /// A border between two tokens.
    Border,
}

impl Marked {
    fn text(&self, look: Look) -> String {
        match self {
            Marked::Same(text) => visible(text),
            Marked::New(text) if look.colour => visible(text),
            Marked::New(text) => format!("{{+{}+}}", visible(text)),
            Marked::Gone(text) if look.colour => visible(text),
            Marked::Gone(text) => format!("[-{}-]", visible(text)),
            Marked::Noted(text, note) => format!("{}/{}", visible(text), visible(note)),
            Marked::Border => "·".to_owned(),
        }
    }

    fn style(&self) -> Style {
        match self {
            Marked::Same(_) => Style::new(),
            Marked::New(_) => AnsiColor::Green.on_default().effects(Effects::UNDERLINE),
            Marked::Gone(_) => AnsiColor::Red.on_default().effects(Effects::STRIKETHROUGH),
            Marked::Noted(..) => AnsiColor::Cyan.on_default(),
            Marked::Border => Style::new().effects(Effects::DIMMED),
        }
    }
}

/// Marked text in lines that fit behind `indent` columns, the first of them already used up. Breaks at spaces and borders,
/// else anywhere.
pub fn wrapped(pieces: &[Marked], indent: usize, look: Look) -> String {
    let room = look.width.saturating_sub(indent + 1).max(20);
    let mut out = String::new();
    let mut used = 0;
    let new_line = |out: &mut String| {
        out.push('\n');
        out.push_str(&" ".repeat(indent));
    };
    for piece in pieces {
        let text = piece.text(look);
        if *piece == Marked::Border {
            // At the end of a line rather than at the start of the next.
            out.push_str(&look.paint(piece.style(), &text));
            used += 1;
            continue;
        }
        // A token stays whole where it fits on a line; running text breaks behind its spaces.
        for part in text.split_inclusive(' ') {
            let width = part.trim_end().width();
            if used > 0 && used + width > room {
                new_line(&mut out);
                used = 0;
            }
            if width <= room {
                out.push_str(&look.paint(piece.style(), part));
                used += part.width();
                continue;
            }
            for c in part.chars() {
                let c = c.to_string();
                if used + c.width() > room {
                    new_line(&mut out);
                    used = 0;
                }
                used += c.width();
                out.push_str(&look.paint(piece.style(), &c));
            }
        }
    }
    out
}

/// How many columns lie between two columns of text.
pub const GUTTER: usize = 3;

/// Lines of text side by side, each in a column of this width; a line may have colours in it.
pub fn in_columns(cells: &[Vec<String>], width: usize) -> String {
    let lines = cells.iter().map(Vec::len).max().unwrap_or(0);
    let mut out = String::new();
    for line in 0..lines {
        let mut row = String::new();
        for (number, cell) in cells.iter().enumerate() {
            if number > 0 {
                row.push_str(" │ ");
            }
            let text = cell.get(line).map_or("", String::as_str);
            row.push_str(text);
            row.push_str(&" ".repeat(width.saturating_sub(shown_width(text))));
        }
        out.push_str(row.trim_end());
        out.push('\n');
    }
    out
}

/// How many columns a text takes up in which colours may be set.
fn shown_width(text: &str) -> usize {
    let (mut rest, mut width) = (text, 0);
    while let Some(at) = rest.find('\u{1b}') {
        width += rest[..at].width();
        rest = &rest[at..];
        let length = colour_sequence(rest).max(1);
        rest = &rest[length..];
    }
    width + rest.width()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_cut_fits_its_columns() {
        for (text, width, expected) in [
            ("tern", 4, "tern"),
            ("terns", 4, "ter…"),
            ("terns", 1, "…"),
            ("", 0, ""),
            // Two columns each: half a sign is none.
            ("海鳥の巣", 8, "海鳥の巣"),
            ("海鳥の巣", 7, "海鳥の…"),
            ("海鳥の巣", 6, "海鳥…"),
            // A mark takes no column of its own.
            ("e\u{301}te\u{301}", 3, "e\u{301}te\u{301}"),
            ("e\u{301}te\u{301}s", 3, "e\u{301}t…"),
        ] {
            assert_eq!(cut(text, width), expected, "{text} {width}");
        }
        assert_eq!(excerpt("  a tern\n\n on\ta wall ", 40), "a tern on a wall");
        assert_eq!(excerpt("a tern on a wall", 8), "a tern …");
        // What would move the cursor is shown.
        assert!(!excerpt("a\u{1b}[2Jb", 40).contains('\u{1b}'));
    }

    #[test]
    fn numbers_are_never_cut_and_nothing_wraps_for_other_programs() {
        let header = [("name", Align::Left), ("tokens", Align::Right)];
        let rows = vec![vec!["a name of many words that is long".to_owned(), "1,234,567".to_owned()]];
        let narrow = table(&header, &rows, Look { width: 24, ..PLAIN });
        assert!(narrow.contains("1,234,567") && narrow.lines().count() > 3, "{narrow}");
        let piped = table(&header, &rows, Look { width: 24, wraps: false, ..PLAIN });
        assert!(piped.contains("a name of many words that is long"), "{piped}");
    }

    #[test]
    fn columns_stand_side_by_side() {
        let cells = [vec!["a".to_owned(), "\u{1b}[1mbold\u{1b}[0m".to_owned()], vec!["鳥の巣".to_owned()]];
        assert_eq!(in_columns(&cells, 6), "a      │ 鳥の巣\n\u{1b}[1mbold\u{1b}[0m   │\n");
    }

    #[test]
    fn nothing_but_colours_steers_a_terminal() {
        let text = "\u{1b}[1mred\u{1b}[0m\u{1b}[2J\u{1b}]0;x\u{7}\u{9b}31m\u{202e}\r\tx\n\u{1b}[38;5;9m";
        let shown = |coloured| {
            let mut out = String::new();
            push_safe(text, coloured, &mut out);
            out
        };
        let rest = "\\u{1b}[2J\\u{1b}]0;x\\u{7}\\u{9b}31m\\u{202e}\\u{d}\tx\n";
        assert_eq!(shown(true), format!("\u{1b}[1mred\u{1b}[0m{rest}\u{1b}[38;5;9m"));
        assert_eq!(shown(false), format!("\\u{{1b}}[1mred\\u{{1b}}[0m{rest}\\u{{1b}}[38;5;9m"));
    }

    #[test]
    fn json_is_escaped_and_means_the_same() {
        let text = "\u{1b}\u{9b}\u{202e}\u{1ffff}é";
        let json = serde_json::to_string(text).expect("a text");
        let mut out = String::new();
        push_json_safe(&json, &mut out);
        assert_eq!(out, "\"\\u001b\\u009b\\u202e\\ud83f\\udfffé\"");
        assert_eq!(serde_json::from_str::<String>(&out).expect("a text"), text);
    }

    const PLAIN: Look = Look { colour: false, width: 80, wraps: true };

    #[test]
    fn unseen_examples_are_shown_by_number() {
        assert_eq!(shown("\u{200b}\u{ad}"), "U+200B U+00AD");
        assert_eq!(shown("\u{a0}"), "U+00A0");
        assert_eq!(shown("nest \u{7}"), "nest \\u{7}");
        assert_eq!(shown(""), "");
    }

    #[test]
    fn bars_are_drawn_in_eighths() {
        assert_eq!(bar(8, 8, 3), "███");
        assert_eq!(bar(1, 24, 3), "▏");
        assert_eq!(bar(0, 24, 3), "");
        let out = bars(&[("tern".into(), 1200), ("鳥".into(), 600)], PLAIN);
        assert!(out.starts_with("  tern 1,200 █"), "{out}");
        assert!(out.contains("    鳥   600 █"), "{out}");
    }

    #[test]
    fn document_text_cannot_move_the_cursor() {
        assert_eq!(visible("a\u{1b}[2Jb\nc\u{202e}"), "a\\u{1b}[2Jb⏎c\\u{202e}");
        assert_eq!(
            visible("\u{9b}2J\u{61c}\u{85}\u{7f}\u{2028}"),
            "\\u{9b}2J\\u{61c}\\u{85}\\u{7f}\\u{2028}"
        );
        assert_eq!(visible("\u{fffe}\u{1ffff}é鳥"), "\\u{fffe}\\u{1ffff}é鳥");
    }

    #[test]
    fn marks_can_be_read_without_colour() {
        let pieces = [
            Marked::Gone("The".into()),
            Marked::Border,
            Marked::New("tern".into()),
            Marked::Same(" x".into()),
        ];
        assert_eq!(wrapped(&pieces, 4, PLAIN), "[-The-]·{+tern+} x");
    }

    #[test]
    fn long_text_is_wrapped_behind_its_indent() {
        let look = Look { colour: false, width: 30, wraps: true };
        let out = wrapped(&[Marked::Same("one two three four five six seven".into())], 8, look);
        assert_eq!(out, "one two three four \n        five six seven");
    }

    #[test]
    fn the_effect_table_reads_well() {
        let steps = [
            StepRow { name: "as found".into(), tokens: Some(1200), types: Some(400), ..StepRow::default() },
            StepRow {
                step: 1,
                name: "case".into(),
                matches: Some(1),
                documents: Some(1),
                ..StepRow::default()
            },
            StepRow {
                step: 2,
                name: "split".into(),
                tokens: Some(1000),
                types: Some(390),
                ..StepRow::default()
            },
            StepRow {
                step: 3,
                name: "stopwords".into(),
                tokens: Some(500),
                dropped: Some(500),
                changed: Some(0),
                types: Some(300),
                documents: Some(20),
                ..StepRow::default()
            },
        ];
        let out = effect_table(&steps, Look { colour: false, width: 100, wraps: true });
        let lines: Vec<_> = out.lines().collect();
        assert_eq!(lines.len(), 6, "{out}");
        assert!(lines[3].contains("1 place"), "{out}");
        assert!(lines[5].contains("500") && lines[5].contains("50.0 %"), "{out}");
        assert!(!lines[0].contains("joined"), "{out}");
        let joining = StepRow { joined: Some(12), made: Some(6), ..steps[3].clone() };
        let out = effect_table(&[joining], Look { colour: false, width: 120, wraps: true });
        assert!(out.contains("joined") && out.contains(" 12 ") && out.contains(" 6 "), "{out}");
        let tagging = StepRow { marked: Some(900), ..steps[3].clone() };
        assert!(
            effect_table(&[tagging], Look { colour: false, width: 120, wraps: true }).contains("900 marked")
        );
    }
}
