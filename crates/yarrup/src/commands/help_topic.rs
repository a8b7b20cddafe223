//! `yarrup help`: a page on a topic, or the help of a command.

use std::io::Write;

use yarrup_report::visible;

use crate::arguments::HelpArguments;
use crate::failure::{Exit, Failure, meant_or};
use crate::help::{command, examples_of};
use crate::screen::Screen;

/// The topics, each with its page.
const TOPICS: &[(&str, &str)] = &[
    ("recipes", include_str!("../topics/recipes.txt")),
    ("sources", include_str!("../topics/sources.txt")),
    ("fields", include_str!("../topics/fields.txt")),
    ("runs", include_str!("../topics/runs.txt")),
];

/// Their names.
pub(crate) fn topics() -> impl Iterator<Item = &'static str> {
    TOPICS.iter().map(|(name, _)| *name)
}

pub(crate) fn help(arguments: &HelpArguments, screen: &Screen) -> Result<Exit, Failure> {
    let mut definition = command();
    definition.build();
    let mut out = screen.out();
    let Some(name) = &arguments.topic else {
        write!(out, "{}", definition.render_help())?;
        let topics: Vec<&str> = topics().collect();
        writeln!(out, "\nTopics: {} (`yarrup help recipes`)", topics.join(", "))?;
        out.flush()?;
        return Ok(Exit::Done);
    };
    if let Some((_, page)) = TOPICS.iter().find(|(topic, _)| topic == name) {
        for line in page.lines() {
            let is_heading = !line.is_empty()
                && !line.starts_with(' ')
                && line.chars().all(|c| c.is_uppercase() || c == ' ');
            let line = if is_heading { screen.look.heading(line) } else { line.to_owned() };
            writeln!(out, "{line}")?;
        }
    } else if let Some(sub) = definition.find_subcommand_mut(name) {
        write!(out, "{}{}", sub.render_long_help(), examples_of(name, true))?;
    } else {
        let mut known: Vec<&str> = topics().collect();
        known.extend(definition.get_subcommands().map(clap::Command::get_name));
        let help = meant_or(name, known, || "`yarrup help` lists both".to_owned());
        return Err(Failure::Sentence(format!(
            "no command and no topic is called `{}`; {help}",
            visible(name)
        )));
    }
    out.flush()?;
    Ok(Exit::Done)
}
