//! The processes that read files for this one.

use std::ffi::OsString;
use std::fs::File;
use std::io::{BufReader, Read, Seek};
use std::path::PathBuf;
use std::process::{Child, ChildStdin, Command, ExitStatus, Stdio};
use std::sync::mpsc::{Receiver, RecvTimeoutError, sync_channel};
use std::sync::{Mutex, PoisonError};
use std::thread;
use std::time::Duration;

use super::READER_ARGUMENT;
use super::limits::Limits;
use super::protocol::{Answer, Request, Sent, receive, send};
use crate::documents::ReadError;
use crate::documents::guard::BROKE;

/// How many times its processor time a file may take by the clock: other programs are at work as well.
const TIMES_BY_THE_CLOCK: u64 = 10;
/// How many parts may wait to be taken.
const WAITING: usize = 2;
/// How much of what a process said when it died is looked at.
const LAST_WORDS: u64 = 4096;

/// The processes that read files for this one: as many as files are read at once, begun when they are needed.
#[derive(Debug)]
pub struct ReaderProcesses {
    program: PathBuf,
    idle: Mutex<Vec<ReaderProcess>>,
}

impl ReaderProcesses {
    /// Processes of this program, which is to call [`serve_files`](super::serve_files) when [`READER_ARGUMENT`] is its first argument.
    pub fn of(program: PathBuf) -> ReaderProcesses {
        ReaderProcesses { program, idle: Mutex::default() }
    }

    /// Has a file read.
    pub(super) fn read(
        &self,
        request: &Request,
        take: &mut dyn FnMut(Answer) -> Result<(), ReadError>,
    ) -> Result<(), ReadError> {
        let idle = self.idle.lock().unwrap_or_else(PoisonError::into_inner).pop();
        let mut process = match idle {
            Some(process) => process,
            None => ReaderProcess::begin(&self.program).map_err(|why| {
                ReadError::sentence(format!(
                    "no process can be begun to read it: {why}; --trust-files reads it without one"
                ))
            })?,
        };
        let read = process.read(request, take);
        if process.is_ready {
            self.idle.lock().unwrap_or_else(PoisonError::into_inner).push(process);
        }
        read
    }
}

/// A process that reads files, one after the other.
#[derive(Debug)]
struct ReaderProcess {
    child: Child,
    requests: ChildStdin,
    sent: Receiver<Sent>,
    /// What it says to nobody, such as why it dies.
    last_words: File,
    /// Whether it waits for the next file.
    is_ready: bool,
}

impl ReaderProcess {
    fn begin(program: &PathBuf) -> std::io::Result<ReaderProcess> {
        let last_words = tempfile::tempfile()?;
        let mut command = Command::new(program);
        command.arg(OsString::from(READER_ARGUMENT));
        command.stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(last_words.try_clone()?);
        command.env_remove("RUST_BACKTRACE");
        // An interruption from the terminal is for us, and ends it through its standard input.
        #[cfg(unix)]
        std::os::unix::process::CommandExt::process_group(&mut command, 0);
        let mut child = command.spawn()?;
        let (Some(requests), Some(output)) = (child.stdin.take(), child.stdout.take()) else {
            return Err(std::io::Error::other("no pipe"));
        };
        let (sender, sent) = sync_channel(WAITING);
        thread::Builder::new().name("answers".into()).spawn(move || {
            let mut output = BufReader::new(output);
            while let Ok(Some(message)) = receive(&mut output) {
                if sender.send(message).is_err() {
                    return;
                }
            }
        })?;
        Ok(ReaderProcess { child, requests, sent, last_words, is_ready: true })
    }

    fn read(
        &mut self,
        request: &Request,
        take: &mut dyn FnMut(Answer) -> Result<(), ReadError>,
    ) -> Result<(), ReadError> {
        // Only one that has read to the end can read another.
        self.is_ready = false;
        // One that has died is told of by what it does not send.
        let _ = send(&mut self.requests, request);
        let patience = Duration::from_secs(request.limits.seconds.saturating_mul(TIMES_BY_THE_CLOCK).max(60));
        loop {
            match self.sent.recv_timeout(patience) {
                Ok(Sent::Part(answer)) => take(answer)?,
                Ok(end) => {
                    self.is_ready = true;
                    return match end {
                        Sent::Failed(why) => Err(ReadError::Told(why)),
                        Sent::NotRead(what) => Err(ReadError::NotRead(what)),
                        Sent::Done | Sent::Part(_) => Ok(()),
                    };
                }
                Err(RecvTimeoutError::Timeout) => {
                    return Err(ReadError::sentence(format!(
                        "nothing came out of it for {} s; --file-seconds allows more",
                        patience.as_secs()
                    )));
                }
                Err(RecvTimeoutError::Disconnected) => return Err(self.cause_of_death(request.limits)),
            }
        }
    }

    /// Why the process has died.
    fn cause_of_death(&mut self, limits: Limits) -> ReadError {
        let Ok(status) = self.child.wait() else { return ReadError::sentence(BROKE) };
        let mut said = Vec::new();
        let _ = self.last_words.rewind();
        let _ = (&mut self.last_words).take(LAST_WORDS).read_to_end(&mut said);
        let said = String::from_utf8_lossy(&said);
        let memory = || {
            format!(
                "cannot be read: it takes more than {} of memory, as files do that are made to fill a machine; \
                 --file-memory allows more",
                limits.told_memory()
            )
        };
        ReadError::Told(match ended_by(status) {
            Some(Signal::Time) => format!(
                "cannot be read: it takes more than {} s of processor time, as files do that are made to go on for ever; \
                 --file-seconds allows more",
                limits.seconds
            ),
            // What the standard library says, and no file can.
            _ if said.contains("memory allocation of") => memory(),
            _ if said.contains("overflowed its stack") => NESTS.to_owned(),
            Some(Signal::Memory) => NESTS.to_owned(),
            Some(Signal::Killed) => format!("{}; or the system was short of memory", memory()),
            _ => BROKE.to_owned(),
        })
    }
}

/// What is told of a file that ran its reader out of its stack.
const NESTS: &str =
    "cannot be read: its parts lie in one another without end, as in files that are made to break programs";

impl Drop for ReaderProcess {
    fn drop(&mut self) {
        // It may have died already, and is waited for so that it leaves no trace in the table of processes.
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

/// The signals that tell something of the file.
enum Signal {
    Time,
    Memory,
    Killed,
}

#[cfg(unix)]
fn ended_by(status: ExitStatus) -> Option<Signal> {
    use rustix::process::Signal as Of;
    use std::os::unix::process::ExitStatusExt as _;
    let signal = status.signal()?;
    [
        (Of::XCPU, Signal::Time),
        (Of::SEGV, Signal::Memory),
        (Of::BUS, Signal::Memory),
        (Of::KILL, Signal::Killed),
    ]
    .into_iter()
    .find(|(of, _)| of.as_raw() == signal)
    .map(|(_, signal)| signal)
}

#[cfg(not(unix))]
fn ended_by(_status: ExitStatus) -> Option<Signal> {
    None
}
