//! `yarrup completions` and `yarrup manual`: what shells and `man` know of the commands.

use std::io::Write;

use clap::CommandFactory as _;
use yarrup_io::NewFolder;

use crate::arguments::{Arguments, CompletionsArguments, ManualArguments};
use crate::completing;
use crate::failure::{Exit, Failure};
use crate::help::examples_of;
use crate::screen::Screen;

const NAME: &str = "yarrup";

pub(crate) fn completions(arguments: &CompletionsArguments, screen: &Screen) -> Result<Exit, Failure> {
    let mut out = screen.out();
    completing::write_script(arguments.shell, &mut out)?;
    out.flush()?;
    Ok(Exit::Done)
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
