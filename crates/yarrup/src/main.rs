//! `yarrup`: reusable text-cleaning recipes for raw document collections, with an exact account of what they did.

mod arguments;
mod choose_arguments;
mod commands;
mod compare_arguments;
mod comparing;
mod completing;
mod counting;
mod demo_files;
mod effort;
mod exploring;
mod failure;
mod figures;
mod help;
mod interrupt;
mod kept_documents;
mod learning;
mod merging;
mod output;
mod reading;
mod recipe_file;
mod row_target;
mod rows;
mod running;
mod screen;
mod source_arguments;
mod studied;
mod study_arguments;
mod timing;
mod token_table;
mod wanted_document;
mod watching;

use std::io::Write as _;
use std::process::ExitCode;

use clap::FromArgMatches as _;

use arguments::{Arguments, Command};
use failure::Exit;
use output::{Output, Shape};
use screen::Screen;

fn main() -> ExitCode {
    if std::env::args_os().nth(1).is_some_and(|argument| argument == yarrup_io::READER_ARGUMENT) {
        yarrup_io::serve_files();
        return ExitCode::SUCCESS;
    }
    match completing::answer() {
        Ok(false) => {}
        Ok(true) => return ExitCode::SUCCESS,
        Err(error) => return told_usage(&error),
    }
    let typed = help::command().try_get_matches();
    let arguments = match typed.and_then(|typed| Arguments::from_arg_matches(&typed)) {
        Ok(arguments) => arguments,
        Err(error) => return told_usage(&help::with_meant(error)),
    };
    let effort = effort::Effort::begin();
    let screen = Screen::new(&arguments);
    interrupt::clean_up_when_interrupted();
    let result = match &arguments.command {
        Command::Demo(command) => commands::demo::demo(command, &screen),
        Command::Lock(command) => commands::lock::lock(command, &screen),
        Command::Look(command) => commands::look::look(command, &screen),
        Command::Run(command) => commands::run::run(command, &screen),
        Command::Merge(command) => commands::merge::merge(command, &screen),
        Command::Pipe(command) => commands::pipe::pipe(command, &screen),
        Command::Try(command) => commands::try_out::try_out(command, &screen),
        Command::Check(command) => commands::check::check(command, &screen),
        Command::New(command) => commands::new::new(command, &screen),
        Command::Steps(command) => commands::steps::steps(command, &screen),
        Command::Completions(command) => commands::completions::completions(command, &screen),
        Command::Manual(command) => commands::completions::manual(command, &screen),
        Command::Help(command) => commands::help_topic::help(command, &screen),
        Command::Schema(command) => commands::schema::schema(command, &screen),
        Command::Reduce(command) => commands::reduce::reduce(command, &screen),
        Command::Shelf(command) => commands::shelf::shelf(command, &screen),
        Command::Learn(command) => commands::learn::learn(command, &screen),
        Command::Export(command) => commands::export::export(command, &screen),
        Command::Matrix(command) => commands::matrix::matrix(command, &screen),
        Command::Report(command) => commands::report::report(command, &screen),
        Command::Figure(command) => commands::figure::figure(command, &screen),
        Command::Terms(command) => commands::terms::terms(command, &screen),
        Command::Find(command) => commands::find::find(command, &screen),
        Command::Why(command) => commands::why::why(command, &screen),
        Command::Lists(command) => commands::lists::lists(command, &screen),
        Command::Suggest(command) => commands::suggest::suggest(command, &screen),
        Command::Matches(command) => commands::matches::matches(command, &screen),
        Command::Compare(command) => commands::compare::compare(command, &screen),
    };
    let exit = result.unwrap_or_else(|failure| screen.tell_failure(&failure));
    if screen.verbose {
        screen.tell(&effort.told(screen.bytes_read()));
    }
    match exit {
        Exit::Done => ExitCode::SUCCESS,
        other => ExitCode::from(other as u8),
    }
}

/// Writes the help that was asked for, with examples.
fn write_help(error: &clap::Error, text: &str, colour: bool) -> std::io::Result<()> {
    let mut out = Output::new(Shape::Text, colour, None);
    out.write_all(text.as_bytes())?;
    if error.kind() == clap::error::ErrorKind::DisplayHelp
        && let Some(name) = help::asked_for(std::env::args())
    {
        let is_long = std::env::args().any(|word| word == "--help");
        out.write_all(help::examples_of(&name, is_long).as_bytes())?;
    }
    out.flush()
}

/// Help, or what is wrong with the arguments: they may be other people's text as well, such as the names of their files.
fn told_usage(error: &clap::Error) -> ExitCode {
    use std::io::IsTerminal as _;
    let is_terminal =
        if error.use_stderr() { std::io::stderr().is_terminal() } else { std::io::stdout().is_terminal() };
    let colour = is_terminal && std::env::var_os("NO_COLOR").is_none_or(|value| value.is_empty());
    let text = if colour { error.render().ansi().to_string() } else { error.render().to_string() };
    if error.use_stderr() {
        output::say(&text, colour);
    } else if let Err(why) = write_help(error, &text, colour) {
        // The reader may have had enough.
        return ExitCode::from(if why.kind() == std::io::ErrorKind::BrokenPipe { 0 } else { 2 });
    }
    ExitCode::from(u8::try_from(error.exit_code()).unwrap_or(2))
}
