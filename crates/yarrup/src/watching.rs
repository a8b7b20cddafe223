//! Doing something again whenever files change.

use std::path::PathBuf;
use std::time::{Duration, SystemTime};

use crate::failure::{Exit, Failure};
use crate::screen::Screen;

/// How often it is looked whether a file has changed: no one notices so short a while.
const PAUSE: Duration = Duration::from_millis(25);

/// Does something, and again whenever one of these files changes, until interrupted. A failure is told, and the next change waited for.
pub(crate) fn watch(
    files: &[PathBuf],
    screen: &Screen,
    mut show: impl FnMut() -> Result<(), Failure>,
) -> Result<Exit, Failure> {
    loop {
        let seen = changed_at(files);
        if let Err(failure) = show() {
            if failure.is_closed_pipe() {
                return Ok(Exit::Done);
            }
            screen.tell_failure(&failure);
        }
        screen.tell("waiting for a change of the recipe; Ctrl-C ends");
        while changed_at(files) == seen {
            std::thread::sleep(PAUSE);
        }
        screen.clear();
    }
}

/// When the files were changed last, and how long they are.
fn changed_at(files: &[PathBuf]) -> Vec<Option<(SystemTime, u64)>> {
    let told = |path: &PathBuf| {
        let about = std::fs::metadata(path).ok()?;
        Some((about.modified().ok()?, about.len()))
    };
    files.iter().map(told).collect()
}
