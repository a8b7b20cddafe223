//! Counting more things than memory holds.

/// How often things come, never told too low (Cormode and Muthukrishnan 2005, "An improved data stream summary: the count-min sketch").
pub(crate) struct CountSketch {
    cells: Vec<u16>,
}

/// The cells of a sketch: 64 MB.
const CELLS: usize = 1 << 25;

impl Default for CountSketch {
    fn default() -> CountSketch {
        CountSketch { cells: vec![0; CELLS] }
    }
}

impl CountSketch {
    fn places(hash: u64) -> [usize; 2] {
        [hash as usize % CELLS, (hash >> 32) as usize % CELLS]
    }

    /// What was kept of one.
    pub(crate) fn of_bytes(bytes: &[u8]) -> Option<CountSketch> {
        let cells = bytes.chunks_exact(2).map(|cell| u16::from_le_bytes([cell[0], cell[1]]));
        (bytes.len() == 2 * CELLS).then(|| CountSketch { cells: cells.collect() })
    }

    /// The sketch as [`CountSketch::of_bytes`] reads it.
    pub(crate) fn bytes(&self) -> Vec<u8> {
        self.cells.iter().flat_map(|cell| cell.to_le_bytes()).collect()
    }

    /// Counts what has this hash so often more.
    pub(crate) fn add(&mut self, hash: u64, count: u64) {
        for place in CountSketch::places(hash) {
            let cell = &mut self.cells[place];
            *cell = cell.saturating_add(u16::try_from(count).unwrap_or(u16::MAX));
        }
    }

    /// The most that it can have come. A full cell says nothing.
    pub(crate) fn most(&self, hash: u64) -> u64 {
        let least = CountSketch::places(hash).into_iter().map(|place| self.cells[place]).min().unwrap_or(0);
        if least == u16::MAX { u64::MAX } else { u64::from(least) }
    }

    /// Adds what another has counted.
    pub(crate) fn absorb(&mut self, other: &CountSketch) {
        for (ours, theirs) in self.cells.iter_mut().zip(&other.cells) {
            *ours = ours.saturating_add(*theirs);
        }
    }
}
