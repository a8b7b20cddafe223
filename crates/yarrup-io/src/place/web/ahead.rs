//! Files of a listing, fetched ahead of their turn.

use std::collections::VecDeque;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::sync::mpsc::{Receiver, RecvTimeoutError, SyncSender, sync_channel};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread;
use std::time::Duration;

use url::Url;

use crate::documents::{Out, Passed, ReadError};
use crate::place::web::fetching::{AT_A_TIME, Fetched, Fetcher, Heard};

/// How many files may wait for their turn.
const WAITING: usize = 4 * AT_A_TIME;
/// How often is told what came while the next file is waited for.
const TELLS: Duration = Duration::from_millis(100);

/// What became of an address, and the other servers that it led to.
type Outcome = (Result<Result<Fetched, String>, ReadError>, Vec<String>);

/// An address, and who waits for what is there.
type Job = (Url, SyncSender<Outcome>);

/// Fetches addresses in threads of its own, some at a time, and gives them in their order.
pub(super) struct Ahead {
    /// Those that no thread has been given yet.
    later: VecDeque<Job>,
    to_threads: Option<SyncSender<Job>>,
    outcomes: VecDeque<(Url, Receiver<Outcome>)>,
    /// Bytes that came and were not told.
    passed: Arc<AtomicU64>,
    stopped: Arc<AtomicBool>,
}

impl Ahead {
    pub(super) fn begin(fetcher: &Arc<Fetcher>, addresses: Vec<Url>) -> Ahead {
        let (to_threads, jobs) = sync_channel::<Job>(WAITING);
        let jobs = Arc::new(Mutex::new(jobs));
        let (passed, stopped) = (Arc::new(AtomicU64::new(0)), Arc::new(AtomicBool::new(false)));
        for _ in 0..AT_A_TIME.min(addresses.len()) {
            let (fetcher, jobs) = (fetcher.clone(), jobs.clone());
            let (passed, stopped) = (passed.clone(), stopped.clone());
            thread::spawn(move || work(&fetcher, &jobs, &passed, &stopped));
        }
        let (later, outcomes) = addresses
            .into_iter()
            .map(|url| {
                let (sender, outcome) = sync_channel(1);
                ((url.clone(), sender), (url, outcome))
            })
            .unzip();
        let mut ahead = Ahead { later, to_threads: Some(to_threads), outcomes, passed, stopped };
        for _ in 0..WAITING {
            ahead.hand_out();
        }
        ahead
    }

    /// Gives the threads one address more.
    fn hand_out(&mut self) {
        match (self.later.pop_front(), &self.to_threads) {
            (Some(job), Some(threads)) => drop(threads.send(job)),
            _ => self.to_threads = None,
        }
    }

    /// What is at this address, when it is there; none if it is not the next of those that are fetched.
    pub(super) fn take(
        &mut self,
        url: &Url,
        out: &mut dyn Out,
    ) -> Result<Option<Result<Fetched, String>>, ReadError> {
        let Some((_, outcome)) = self.outcomes.pop_front_if(|(next, _)| next == url) else {
            return Ok(None);
        };
        let (fetched, servers) = loop {
            let outcome = outcome.recv_timeout(TELLS);
            out.give(Passed(self.passed.swap(0, Ordering::Relaxed)))?;
            match outcome {
                Ok(outcome) => break outcome,
                Err(RecvTimeoutError::Timeout) => {}
                Err(RecvTimeoutError::Disconnected) => {
                    return Ok(Some(Err("given up: fetching it failed".to_owned())));
                }
            }
        };
        for server in servers {
            out.note(elsewhere(&server))?;
        }
        self.hand_out();
        fetched.map(Some)
    }
}

/// That a server sent us to another one.
pub(super) fn elsewhere(server: &str) -> String {
    format!("the server redirects to another one, {server}")
}

impl Drop for Ahead {
    fn drop(&mut self) {
        self.stopped.store(true, Ordering::Relaxed);
    }
}

fn work(fetcher: &Fetcher, jobs: &Mutex<Receiver<Job>>, passed: &AtomicU64, stopped: &AtomicBool) {
    loop {
        let job = jobs.lock().unwrap_or_else(PoisonError::into_inner).recv();
        let Ok((url, outcome)) = job else { return };
        let mut servers = Vec::new();
        let mut hear = |heard| {
            match heard {
                Heard::Bytes(count) => drop(passed.fetch_add(count, Ordering::Relaxed)),
                Heard::Elsewhere(server) => servers.push(server),
            }
            if stopped.load(Ordering::Relaxed) { Err(ReadError::Stopped) } else { Ok(()) }
        };
        let fetched = fetcher.fetch_in_turn(&url, &mut hear);
        if stopped.load(Ordering::Relaxed) || outcome.send((fetched, servers)).is_err() {
            return;
        }
    }
}
