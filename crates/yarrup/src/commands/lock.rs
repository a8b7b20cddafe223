//! `yarrup lock`: what a recipe stands on, written down beside it.

use std::io::Write;

use yarrup_io::{RecipeLock, write_file};
use yarrup_report::{counted, visible};

use crate::arguments::LockArguments;
use crate::failure::{Exit, Failure};
use crate::recipe_file::compile;
use crate::screen::Screen;

pub(crate) fn lock(arguments: &LockArguments, screen: &Screen) -> Result<Exit, Failure> {
    let compiled = compile(&arguments.recipe)?;
    let place = RecipeLock::place(&arguments.recipe);
    let now = compiled.lock();
    let mut out = screen.out();
    // One that cannot be read is made anew.
    if let Ok(Some(before)) = RecipeLock::read(&place) {
        for change in before.changes(&now) {
            writeln!(out, "{}", visible(&change))?;
        }
    }
    // A lock is made anew whenever it is asked for: what it was is told.
    write_file(&place, now.toml(&compiled.path).as_bytes(), true)?;
    writeln!(
        out,
        "{} records {}{} at yarrup {}",
        visible(&place.display().to_string()),
        visible(&compiled.path),
        match now.files.len() as u64 {
            0 => String::new(),
            files => format!(" and {} that it names", counted(files, "file")),
        },
        now.yarrup
    )?;
    out.flush()?;
    Ok(Exit::Done)
}
