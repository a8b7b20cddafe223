//! `yarrup`: reusable text-cleaning recipes for raw document collections, with an exact account of what they did.

mod arguments;
mod commands;
mod demo_files;
mod failure;
mod interrupt;
mod learning;
mod output;
mod reading;
mod recipe_file;
mod screen;
mod source_arguments;

use std::process::ExitCode;

use clap::Parser;

use arguments::{Arguments, Command};
use failure::Exit;
use screen::Screen;

fn main() -> ExitCode {
    if std::env::args_os().nth(1).is_some_and(|argument| argument == yarrup_io::READER_ARGUMENT) {
        yarrup_io::serve_files();
        return ExitCode::SUCCESS;
    }
    let arguments = Arguments::parse();
    let screen = Screen::new(&arguments);
    interrupt::clean_up_when_interrupted();
    let result = match &arguments.command {
        Command::Demo(command) => commands::demo::demo(command, &screen),
        Command::Look(command) => commands::look::look(command, &screen),
        Command::Run(command) => commands::run::run(command, &screen),
        Command::Pipe(command) => commands::pipe::pipe(command, &screen),
        Command::Try(command) => commands::try_out::try_out(command, &screen),
        Command::Check(command) => commands::check::check(command, &screen),
        Command::New(command) => commands::new::new(command, &screen),
        Command::Schema => commands::schema::schema(&screen),
        Command::Reduce(command) => commands::reduce::reduce(command, &screen),
        Command::Shelf(command) => commands::shelf::shelf(command, &screen),
        Command::Learn(command) => commands::learn::learn(command, &screen),
        Command::Export(command) => commands::export::export(command, &screen),
        Command::Redraw(command) => commands::redraw::redraw(command, &screen),
        Command::Terms(command) => commands::terms::terms(command, &screen),
        Command::Why(command) => commands::why::why(command, &screen),
    };
    let exit = result.unwrap_or_else(|failure| screen.tell_failure(&failure));
    match exit {
        Exit::Done => ExitCode::SUCCESS,
        other => ExitCode::from(other as u8),
    }
}
