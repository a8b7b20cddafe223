//! `yarrup new`: a commented recipe to start from.

use std::io::Write;

use yarrup_core::recipe::STARTERS;
use yarrup_io::write_file;

use crate::arguments::NewArguments;
use crate::failure::{Exit, Failure};
use crate::screen::{Screen, program, shell_word};

pub(crate) fn new(arguments: &NewArguments, screen: &Screen) -> Result<Exit, Failure> {
    let Some(starter) = STARTERS.iter().find(|starter| starter.aim == arguments.aim) else {
        return Err(Failure::Sentence(format!("no recipe is for `{}`", arguments.aim)));
    };
    let path = arguments.file.display().to_string();
    if path == "-" {
        let mut out = screen.out();
        out.write_all(starter.text.as_bytes())?;
        out.flush()?;
        return Ok(Exit::Done);
    }
    write_file(&arguments.file, starter.text.as_bytes(), arguments.replace)?;
    let (program, word) = (program(), shell_word(&path));
    let mut out = screen.out();
    writeln!(out, "{path}: a recipe for {}\n", starter.aim)?;
    writeln!(out, "  {}", screen.look.command(&format!("{program} try {word} 'some text'")))?;
    writeln!(out, "  {}", screen.look.command(&format!("{program} check {word}")))?;
    writeln!(out, "  {}", screen.look.command(&format!("{program} run {word} SOURCE")))?;
    out.flush()?;
    Ok(Exit::Done)
}
