//! What is done when the user, or the system, ends the program before its work is done: what is unfinished goes, and the exit status says why.

#[cfg(unix)]
use std::sync::Arc;

/// Begins to listen for the signals that ask a program to end. Where that cannot be, they end it as ever.
#[cfg(unix)]
pub(crate) fn clean_up_when_interrupted() {
    use signal_hook::consts::{SIGHUP, SIGINT, SIGTERM, SIGXFSZ};
    use signal_hook::iterator::Signals;

    /// What a shell adds to the number of a signal to tell that it ended a program.
    const ENDED_BY: i32 = 128;

    // A file that grows beyond a limit of the system ends the program too, unless that is listened for: writing then fails, and is told.
    let _ = signal_hook::flag::register(SIGXFSZ, Arc::default());
    let Ok(mut signals) = Signals::new([SIGINT, SIGTERM, SIGHUP]) else { return };
    // Without the thread a signal would be noted and nothing done.
    let handle = signals.handle();
    let listening = std::thread::Builder::new().name("interrupt".into()).spawn(move || {
        if let Some(signal) = signals.forever().next() {
            yarrup_io::remove_unfinished();
            std::process::exit(ENDED_BY + signal);
        }
    });
    if listening.is_err() {
        handle.close();
    }
}

#[cfg(not(unix))]
pub(crate) fn clean_up_when_interrupted() {}
