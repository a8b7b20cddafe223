//! Damaged files of every format: whatever is wrong with one, it is told, and never breaks its reader.

use std::path::{Path, PathBuf};

use yarrup_io::{Collection, Item, Source, SourceSpec, Why};

/// Every file of the demo, of whatever format.
fn files(folder: &Path, found: &mut Vec<PathBuf>) {
    for entry in std::fs::read_dir(folder).expect("the demo").flatten() {
        let path = entry.path();
        if path.is_dir() {
            files(&path, found);
        } else if path.extension().is_some_and(|ending| ending != "toml" && ending != "yaml") {
            found.push(path);
        }
    }
    found.sort();
}

/// A generator of numbers from a seed (Marsaglia 2003, xorshift).
struct Numbers(u64);

impl Numbers {
    fn below(&mut self, bound: usize) -> usize {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        (self.0 % bound.max(1) as u64) as usize
    }
}

/// Reads a file, and returns how many documents and how many faults it gave.
fn read(path: &Path) -> (u64, u64) {
    let mut source = SourceSpec::at(path.to_str().expect("a plain path"));
    source.options.propose = true;
    let mut source = Source::open(&Collection::of(source)).expect("the file is there");
    let (mut documents, mut faults) = (0, 0);
    while let Some(batch) = source.next_batch() {
        let _ = batch.records(|item| {
            match item {
                Item::Document(_) => documents += 1,
                Item::Malformed(malformed) => {
                    faults += 1;
                    if let Why::File(why) | Why::Record(why) = &malformed.why {
                        assert!(
                            !why.is_empty() && !why.contains("fault of ours"),
                            "{}: {why}",
                            path.display()
                        );
                    }
                }
                Item::LeftOut => {}
            }
            Ok::<(), ()>(())
        });
    }
    (documents, faults + source.passed_over().len() as u64)
}

#[test]
fn damaged_files_are_told_and_break_nothing() {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo");
    let mut found = Vec::new();
    files(&demo, &mut found);
    // Many reports are alike.
    found.retain(|path| !path.parent().is_some_and(|folder| folder.ends_with("ward-reports")));
    assert!(found.len() >= 14);
    let folder = tempfile::tempdir().expect("a folder");
    let mut numbers = Numbers(0x5eed);
    for path in found {
        let whole = std::fs::read(&path).expect("a file of the demo");
        let damaged = folder.path().join(path.file_name().expect("a name"));
        for round in 0..18 {
            let mut bytes = whole.clone();
            match round % 3 {
                0 => bytes.truncate(numbers.below(whole.len())),
                1 => {
                    for _ in 0..1 + numbers.below(20) {
                        let at = numbers.below(bytes.len());
                        bytes[at] = numbers.below(256) as u8;
                    }
                }
                _ => {
                    let (from, length) = (numbers.below(bytes.len()), numbers.below(400));
                    bytes.drain(from..(from + length).min(whole.len()));
                }
            }
            std::fs::write(&damaged, &bytes).expect("written");
            let (documents, faults) = read(&damaged);
            // Nothing goes without a word, but for a table of which only the header is left.
            let few_lines = bytes.iter().filter(|byte| **byte == b'\n').count() < 2;
            assert!(documents + faults > 0 || few_lines, "{} in round {round}", path.display());
        }
    }
}
