//! How much a file may take to be read.

use serde::{Deserialize, Serialize};

use crate::documents::ReadOptions;

/// What any file may take, in seconds of processor time and in bytes of memory.
const SECONDS: u64 = 60;
const MEMORY: u64 = 1 << 30;
/// What each MB of it adds. A thousand pages of a PDF, some megabytes, take half a minute, and a spreadsheet some twenty times its packed size.
const SECONDS_A_MB: u64 = 10;
const TIMES_ITS_SIZE: u64 = 32;
/// The most memory that is given without being asked for.
const MOST_MEMORY: u64 = 8 << 30;

/// How much a file may take to be read.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub(super) struct Limits {
    /// Seconds of processor time.
    pub(super) seconds: u64,
    /// Bytes of memory.
    pub(super) memory: u64,
}

impl Limits {
    /// Those that were asked for, else some that suit a file of this size.
    pub(super) fn of(options: &ReadOptions, bytes: u64) -> Limits {
        Limits {
            seconds: options.file_seconds.unwrap_or(SECONDS + SECONDS_A_MB * (bytes >> 20)),
            memory: options
                .file_memory
                .unwrap_or((MEMORY + bytes.saturating_mul(TIMES_ITS_SIZE)).min(MOST_MEMORY)),
        }
    }

    /// The memory, as people write it.
    pub(super) fn told_memory(self) -> String {
        match self.memory {
            0..1_000_000 => format!("{} kB", self.memory / 1000),
            1_000_000..1_000_000_000 => format!("{} MB", self.memory / 1_000_000),
            _ => format!("{:.1} GB", self.memory as f64 / 1e9),
        }
    }
}

/// The addresses that the process takes besides what it reads: some 150 MB for the program and what the system's allocator sets aside, and the stack on
/// which the pages of a PDF are drawn.
#[cfg(unix)]
const OWN_MEMORY: u64 = 512 << 20;

/// Limits what this process may take from now on.
#[cfg(unix)]
pub(super) fn impose(limits: Limits) {
    use rustix::process::{Resource, getrlimit, setrlimit};
    use rustix::time::{ClockId, clock_gettime};

    let used = u64::try_from(clock_gettime(ClockId::ProcessCPUTime).tv_sec).unwrap_or_default();
    let wanted = [
        // A second that has begun counts as one.
        (Resource::Cpu, used + limits.seconds.max(1) + 1),
        (Resource::As, limits.memory.saturating_add(OWN_MEMORY)),
    ];
    for (resource, wanted) in wanted {
        let mut limit = getrlimit(resource);
        limit.current = Some(limit.maximum.map_or(wanted, |maximum| wanted.min(maximum)));
        // Where the system sets no limits, the file is read without them.
        let _ = setrlimit(resource, limit);
    }
    // A dump of a hostile file's memory is of no use to anybody.
    let mut limit = getrlimit(Resource::Core);
    limit.current = Some(0);
    let _ = setrlimit(Resource::Core, limit);
}

#[cfg(not(unix))]
pub(super) fn impose(_limits: Limits) {}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn limits_grow_with_the_file_unless_they_are_given() {
        let limits = |options: &ReadOptions, bytes| {
            let limits = Limits::of(options, bytes);
            (limits.seconds, limits.memory, limits.told_memory())
        };
        let given =
            ReadOptions { file_seconds: Some(3), file_memory: Some(50_000_000), ..ReadOptions::default() };
        assert_eq!(limits(&ReadOptions::default(), 600), (60, (1 << 30) + 19_200, "1.1 GB".to_owned()));
        assert_eq!(limits(&ReadOptions::default(), 100 << 20).0, 1060);
        assert_eq!(limits(&ReadOptions::default(), 1 << 40).1, 8 << 30);
        assert_eq!(limits(&given, 1 << 40), (3, 50_000_000, "50 MB".to_owned()));
    }
}
