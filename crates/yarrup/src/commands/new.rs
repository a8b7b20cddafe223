//! `yarrup new`: a commented recipe to start from.

use std::io::Write;

use yarrup_core::recipe::STARTERS;

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
    let refused = |why: std::io::Error| match why.kind() {
        std::io::ErrorKind::AlreadyExists => {
            Failure::Sentence(format!("{path} exists already; nothing was written"))
        }
        _ => Failure::File { path: path.clone(), why: why.to_string() },
    };
    let mut file = std::fs::File::create_new(&arguments.file).map_err(refused)?;
    file.write_all(starter.text.as_bytes()).map_err(refused)?;
    let (program, word) = (program(), shell_word(&path));
    let mut out = screen.out();
    writeln!(out, "{path}: a recipe for {}\n", starter.aim)?;
    writeln!(out, "  {}", screen.look.command(&format!("{program} try {word} 'some text'")))?;
    writeln!(out, "  {}", screen.look.command(&format!("{program} check {word}")))?;
    writeln!(out, "  {}", screen.look.command(&format!("{program} run {word} SOURCE")))?;
    out.flush()?;
    Ok(Exit::Done)
}
