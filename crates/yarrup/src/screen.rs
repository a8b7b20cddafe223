//! What there is to write on: decided once, from the terminal, `NO_COLOR` and the arguments.

use std::collections::HashSet;
use std::io::{self, IsTerminal, Write};
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{Duration, Instant};

use annotate_snippets::{AnnotationKind, Level, Renderer, Snippet};
use clap::builder::styling::{AnsiColor, Effects};
use indicatif::{ProgressBar, ProgressDrawTarget, ProgressStyle};
use yarrup_core::advice::Advice;
use yarrup_core::recipe::Fault;
use yarrup_report::Look;

use crate::arguments::{Arguments, Colour};
use crate::failure::{Exit, Failure};
use crate::output::{Breaking, Output, Shape, say};

/// The width where nothing tells.
const DEFAULT_WIDTH: usize = 100;

pub(crate) struct Screen {
    /// How results look on standard output.
    pub(crate) look: Look,
    /// Whether messages on standard error may be coloured.
    colour_messages: bool,
    pub(crate) quiet: bool,
    pub(crate) verbose: bool,
    /// Whether it tells of what went wrong.
    warns: bool,
    /// Whether it is known how many columns there are.
    pub(crate) knows_width: bool,
    /// What is told only once.
    told: Mutex<HashSet<String>>,
    /// How many bytes the bars have seen read.
    read: Arc<AtomicU64>,
}

/// How many mistakes of a recipe are shown.
const MOST_FAULTS: usize = 10;

impl Screen {
    pub(crate) fn new(arguments: &Arguments) -> Screen {
        Screen::with(arguments.colour, arguments.quiet, arguments.verbose)
    }

    /// One for work of which nothing is shown.
    pub(crate) fn silent() -> Screen {
        Screen { warns: false, ..Screen::with(Colour::Never, true, false) }
    }

    fn with(colour: Colour, quiet: bool, verbose: bool) -> Screen {
        let no_colour = std::env::var_os("NO_COLOR").is_some_and(|value| !value.is_empty())
            || std::env::var_os("TERM").is_some_and(|term| term == "dumb");
        let coloured = |terminal: bool| match colour {
            Colour::Always => true,
            Colour::Never => false,
            Colour::Auto => terminal && !no_colour,
        };
        let width = std::env::var("COLUMNS").ok().and_then(|columns| columns.parse().ok());
        let width = width.or_else(|| io::stdout().is_terminal().then(terminal_width).flatten());
        Screen {
            look: Look {
                colour: coloured(io::stdout().is_terminal()),
                width: width.unwrap_or(DEFAULT_WIDTH).clamp(40, 400),
                wraps: width.is_some(),
            },
            colour_messages: coloured(io::stderr().is_terminal()),
            quiet,
            verbose,
            warns: true,
            knows_width: width.is_some(),
            told: Mutex::default(),
            read: Arc::default(),
        }
    }

    /// How many bytes were read, by all passes together; none if nobody counted.
    pub(crate) fn bytes_read(&self) -> Option<u64> {
        Some(self.read.load(Ordering::Relaxed)).filter(|bytes| *bytes > 0)
    }

    /// The same for work whose messages nobody wants to read: what goes wrong is still told.
    pub(crate) fn hushed(&self) -> Screen {
        let Screen { look, colour_messages, verbose, warns, knows_width, .. } = *self;
        let read = Arc::clone(&self.read);
        Screen {
            look,
            colour_messages,
            quiet: true,
            verbose,
            warns,
            knows_width,
            told: Mutex::default(),
            read,
        }
    }

    /// Standard output for people, buffered.
    pub(crate) fn out(&self) -> Output {
        self.out_as(Shape::Text)
    }

    /// Standard output for what has this shape, buffered.
    pub(crate) fn out_as(&self, shape: impl Into<Shape>) -> Output {
        let breaking = Breaking { width: self.look.width, program: program() };
        Output::new(shape.into(), self.look.colour, Some(breaking).filter(|_| self.look.wraps))
    }

    /// Wipes a terminal before it is drawn on anew.
    pub(crate) fn clear(&self) {
        if io::stdout().is_terminal() {
            let _ = write!(io::stdout(), "\u{1b}[2J\u{1b}[H");
        }
    }

    /// Tells something that is no result. Where even that cannot be written, nothing can be done about it.
    pub(crate) fn tell(&self, message: &str) {
        if !self.quiet {
            say(&format!("{message}\n"), self.colour_messages);
        }
    }

    /// Tells of something that went wrong, also to the quiet.
    pub(crate) fn warn(&self, message: &str) {
        if !self.warns {
            return;
        }
        let title = if self.colour_messages { "\u{1b}[1;33mwarning\u{1b}[0m" } else { "warning" };
        say(&format!("{title}: {message}\n"), self.colour_messages);
    }

    /// As [`Screen::warn`], but tells the same only once: a collection may be read several times.
    pub(crate) fn warn_once(&self, message: &str) {
        let mut told = self.told.lock().unwrap_or_else(PoisonError::into_inner);
        if told.insert(message.to_owned()) {
            self.warn(message);
        }
    }

    /// Tells why a command did not do its work.
    pub(crate) fn tell_failure(&self, failure: &Failure) -> Exit {
        if failure.is_closed_pipe() {
            return Exit::Done;
        }
        let message = match failure {
            Failure::Recipe { path, text, faults } => self.faults(path, text, faults),
            other => {
                let title = if self.colour_messages { "\u{1b}[1;91merror\u{1b}[0m" } else { "error" };
                format!("{title}: {other}\n")
            }
        };
        say(&message, self.colour_messages);
        Exit::Unusable
    }

    fn renderer(&self, colour: bool) -> Renderer {
        // Yellow, in which warnings come otherwise, cannot be read on white.
        let warning = AnsiColor::Magenta.on_default().effects(Effects::BOLD);
        let renderer = if colour { Renderer::styled().warning(warning) } else { Renderer::plain() };
        renderer.term_width(self.look.width)
    }

    /// All mistakes of a recipe, each with its place underlined.
    pub(crate) fn faults(&self, path: &str, text: &str, faults: &[Fault]) -> String {
        let renderer = self.renderer(self.colour_messages);
        let mut out = String::new();
        for fault in faults.iter().take(MOST_FAULTS) {
            let snippet = Snippet::source(text)
                .path(path)
                .annotation(AnnotationKind::Primary.span(fault.span.clone()).label(fault.label.as_str()));
            let mut group = Level::ERROR.primary_title(fault.title.as_str()).element(snippet);
            if let Some(help) = &fault.help {
                group = group.element(Level::HELP.message(help.as_str()));
            }
            out.push_str(&renderer.render(&[group]));
            out.push_str("\n\n");
        }
        let count = faults.len();
        let more = count.saturating_sub(MOST_FAULTS);
        let shown = if more > 0 { format!(", the first {MOST_FAULTS} shown") } else { String::new() };
        out.push_str(&format!("{path}: {count} mistake{}{shown}\n", if count == 1 { "" } else { "s" }));
        out
    }

    /// Advice on a recipe, with the place of its step underlined.
    pub(crate) fn advice(&self, path: &str, text: &str, advice: &Advice) -> String {
        let snippet = Snippet::source(text)
            .path(path)
            .annotation(AnnotationKind::Primary.span(advice.span.clone()).label(advice.why.as_str()));
        let notes = advice.because.iter().map(|cause| Level::NOTE.message(cause.as_str()));
        let cures: Vec<String> = advice
            .fixes
            .iter()
            .map(|fix| match fix.toml().filter(|toml| !fix.told.contains(toml.as_str())) {
                Some(toml) => format!("{}:\n{toml}", fix.told),
                None => fix.told.clone(),
            })
            .collect();
        let cures = cures.iter().map(|cure| Level::HELP.message(cure.as_str()));
        let group = Level::WARNING
            .primary_title(advice.what.as_str())
            .id(advice.code)
            .element(snippet)
            .elements(notes.chain(cures));
        format!("{}\n", self.renderer(self.look.colour).render(&[group]))
    }

    /// Says that the program waits for the keyboard, where it reads standard input and nothing is sent there.
    pub(crate) fn tell_waiting(&self, what: &str) {
        if io::stdin().is_terminal() {
            self.tell(&format!("reading {what} from the keyboard; Ctrl-D on a line of its own ends it"));
        }
    }

    /// The same, if one of the sources is standard input.
    pub(crate) fn tell_waiting_for(&self, sources: &[String]) {
        if sources.iter().any(|source| source == "-") {
            self.tell_waiting("documents");
        }
    }

    /// A bar for work on this many bytes; 0 if that is not known.
    pub(crate) fn progress(&self, bytes: u64) -> Progress {
        let bar = ProgressBar::with_draw_target((bytes > 0).then_some(bytes), ProgressDrawTarget::hidden());
        let style = match bytes {
            0 => "{bytes} read, {bytes_per_sec}",
            _ => "{bar:32} {bytes} of {total_bytes}, {bytes_per_sec}, {eta} to go",
        };
        if let Ok(style) = ProgressStyle::with_template(style) {
            bar.set_style(style);
        }
        Progress {
            bar,
            begun: Instant::now(),
            hidden: !self.quiet && io::stderr().is_terminal(),
            read: Arc::clone(&self.read),
        }
    }
}

/// How far some work has come: drawn on a terminal only, and only once it has taken longer than [`PATIENCE`].
pub(crate) struct Progress {
    bar: ProgressBar,
    begun: Instant,
    /// Whether it may be drawn, and is not yet.
    hidden: bool,
    read: Arc<AtomicU64>,
}

/// How long work may take before its progress is shown.
const PATIENCE: Duration = Duration::from_secs(1);

impl Progress {
    pub(crate) fn advance(&mut self, bytes: u64) {
        if self.hidden && self.begun.elapsed() > PATIENCE {
            self.bar.set_draw_target(ProgressDrawTarget::stderr_with_hz(8));
            self.hidden = false;
        }
        self.read.fetch_add(bytes, Ordering::Relaxed);
        self.bar.inc(bytes);
    }

    pub(crate) fn end(self) {
        self.bar.finish_and_clear();
    }
}

fn terminal_width() -> Option<usize> {
    terminal_size::terminal_size().map(|(width, _)| usize::from(width.0))
}

/// The program as it was called, for commands that can be typed again.
pub(crate) fn program() -> String {
    let called =
        std::env::args().next().filter(|name| name.contains('/')).unwrap_or_else(|| "yarrup".to_owned());
    shell_word(&called)
}

/// A word as a shell takes it.
pub(crate) fn shell_word(word: &str) -> String {
    let plain = |c: char| c.is_alphanumeric() || matches!(c, '/' | '.' | '-' | '_' | ',');
    if !word.is_empty() && word.chars().all(plain) {
        word.to_owned()
    } else {
        format!("'{}'", word.replace('\'', "'\\''"))
    }
}
