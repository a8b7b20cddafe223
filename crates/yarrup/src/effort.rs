//! What a command has cost: time, and memory at its peak. Told with `--verbose`.

use std::time::Instant;

/// When a command began.
pub(crate) struct Effort {
    begin: Instant,
}

impl Effort {
    pub(crate) fn begin() -> Effort {
        Effort { begin: Instant::now() }
    }

    /// What it has cost, in a few words; how fast it was, if it read so many bytes.
    pub(crate) fn told(&self, bytes: Option<u64>) -> String {
        let seconds = self.begin.elapsed().as_secs_f64();
        let speed = bytes.filter(|bytes| *bytes > 0).map_or(String::new(), |bytes| {
            let megabytes = bytes as f64 / 1e6;
            format!(", {megabytes:.1} MB read, {:.1} MB/s", megabytes / seconds.max(1e-6))
        });
        let memory = peak_memory()
            .map_or(String::new(), |bytes| format!(", at most {:.0} MB of memory", bytes as f64 / 1e6));
        format!("{seconds:.2} s{speed}{memory}")
    }
}

/// The most memory that the program has had, in bytes; none where the system does not tell.
fn peak_memory() -> Option<u64> {
    let status = std::fs::read_to_string("/proc/self/status").ok()?;
    let line = status.lines().find_map(|line| line.strip_prefix("VmHWM:"))?;
    let kilobytes: u64 = line.trim().strip_suffix("kB")?.trim().parse().ok()?;
    Some(kilobytes * 1024)
}
