//! `yarrup completions` and `yarrup manual`: what shells and `man` know of the commands.

use std::collections::BTreeSet;
use std::io::Write;

use clap::builder::PossibleValuesParser;
use clap::{CommandFactory as _, ValueHint};
use yarrup_core::suggest::Sort;
use yarrup_core::words::stop_list_names;
use yarrup_core::{OPERATIONS, shelf};
use yarrup_io::NewFolder;

use crate::arguments::{Arguments, CompletionsArguments, ManualArguments};
use crate::commands::help_topic::topics;
use crate::commands::matches::kind_names;
use crate::failure::{Exit, Failure};
use crate::help::examples_of;
use crate::screen::Screen;

const NAME: &str = "yarrup";

pub(crate) fn completions(arguments: &CompletionsArguments, screen: &Screen) -> Result<Exit, Failure> {
    let mut script = Vec::new();
    clap_complete::generate(arguments.shell, &mut with_names(Arguments::command()), NAME, &mut script);
    let mut out = screen.out();
    out.write_all(&script)?;
    out.flush()?;
    Ok(Exit::Done)
}

/// The names that an argument of a command takes, of those that the commands look up themselves so that a mistake is told with what may be meant.
fn names_of(command: &str, argument: &str) -> Vec<String> {
    match (command, argument) {
        ("steps", "name") => OPERATIONS.iter().map(|operation| operation.name.to_owned()).collect(),
        ("shelf", "name") => shelf().into_iter().map(|item| item.name).collect(),
        ("help", "topic") => {
            let definition = Arguments::command();
            let commands = definition.get_subcommands().filter(|command| !command.is_hide_set());
            let commands = commands.map(|command| command.get_name().to_owned());
            topics().map(str::to_owned).chain(commands).collect()
        }
        ("matches", "kinds") => kind_names().map(str::to_owned).collect(),
        ("suggest", "only") => Sort::ALL.iter().map(|sort| sort.name().to_owned()).collect(),
        (_, "language") => {
            let codes = stop_list_names().filter(|name| name.len() == 2);
            codes.map(str::to_owned).collect::<BTreeSet<_>>().into_iter().collect()
        }
        _ => Vec::new(),
    }
}

/// The commands with the names of what they look up, and with sources as paths: they may be addresses, but those cannot be completed.
fn with_names(definition: clap::Command) -> clap::Command {
    definition.mut_subcommands(|command| {
        let name = command.get_name().to_owned();
        command.mut_args(|argument| {
            let is_source = argument
                .get_value_names()
                .is_some_and(|names| names.iter().any(|name| name.as_str() == "SOURCE"));
            let names = names_of(&name, argument.get_id().as_str());
            match names.is_empty() {
                _ if is_source => argument.value_hint(ValueHint::AnyPath),
                true => argument,
                false => argument.value_parser(PossibleValuesParser::new(names)),
            }
        })
    })
}

/// Writes a page for the program and one for each command.
pub(crate) fn manual(arguments: &ManualArguments, screen: &Screen) -> Result<Exit, Failure> {
    // As it is: pages leave nothing out.
    let definition = Arguments::command().name(NAME);
    let folder = NewFolder::create(&arguments.out)?;
    let mut pages = vec![(format!("{NAME}.1"), definition.clone())];
    for sub in definition.get_subcommands().filter(|sub| !sub.is_hide_set()) {
        let name = format!("{NAME}-{}", sub.get_name());
        let page = sub.clone().after_long_help(examples_of(sub.get_name(), true));
        pages.push((format!("{name}.1"), page.name(name.clone()).display_name(name)));
    }
    for (file, page) in &pages {
        let mut content = Vec::new();
        clap_mangen::Man::new(page.clone()).render(&mut content)?;
        folder.write(file, &content)?;
    }
    folder.finish()?;
    screen.tell(&format!(
        "{} pages; `man -l {}` shows the first",
        pages.len(),
        arguments.out.join("yarrup.1").display()
    ));
    Ok(Exit::Done)
}
