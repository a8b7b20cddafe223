//! `yarrup new`: a commented recipe to start from.

use std::io::Write;

use yarrup_core::recipe::{STARTERS, nearest};
use yarrup_core::{language_names, language_tag};
use yarrup_io::write_file;
use yarrup_report::visible;

use crate::arguments::NewArguments;
use crate::failure::{Exit, Failure};
use crate::screen::{Screen, program, shell_word};

pub(crate) fn new(arguments: &NewArguments, screen: &Screen) -> Result<Exit, Failure> {
    let Some(starter) = STARTERS.iter().find(|starter| starter.aim == arguments.aim) else {
        return Err(Failure::Sentence(format!("no recipe is for `{}`", arguments.aim)));
    };
    let Some(language) = language_tag(&arguments.language) else {
        let meant = nearest(&arguments.language, language_names());
        let meant = meant.map(|name| format!("; did you mean `{name}`?")).unwrap_or_default();
        return Err(Failure::Sentence(format!(
            "--language: `{}` is not the name of a language that is known here, nor a tag of two or three letters, such as `en` or `pt-BR`{meant}",
            visible(&arguments.language)
        )));
    };
    let text = starter.text_in(&language);
    let path = arguments.file.display().to_string();
    if path == "-" {
        let mut out = screen.out();
        out.write_all(text.as_bytes())?;
        out.flush()?;
        return Ok(Exit::Done);
    }
    write_file(&arguments.file, text.as_bytes(), arguments.replace)?;
    let (program, word) = (program(), shell_word(&path));
    let mut out = screen.out();
    let of_language = if language == "en" { String::new() } else { format!(", for texts in `{language}`") };
    writeln!(out, "{path}: a recipe for {}{of_language}\n", starter.aim)?;
    writeln!(out, "  {}", screen.look.command(&format!("{program} try {word} 'some text'")))?;
    writeln!(out, "  {}", screen.look.command(&format!("{program} check {word}")))?;
    writeln!(out, "  {}", screen.look.command(&format!("{program} run {word} SOURCE")))?;
    out.flush()?;
    Ok(Exit::Done)
}
