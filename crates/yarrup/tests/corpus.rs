//! The inputs that the fuzzer has found worth keeping, through its targets, without it.

use std::fs;
use std::path::Path;

#[allow(unreachable_pub, reason = "a library of its own, for the fuzzer")]
#[path = "../../../fuzz/src/lib.rs"]
mod targets;

#[test]
fn every_input_of_the_corpus_holds_what_must_hold() {
    let corpus = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../fuzz/corpus");
    for (name, target) in targets::TARGETS {
        let mut files: Vec<_> = fs::read_dir(corpus.join(name))
            .unwrap_or_else(|why| panic!("{name}: {why}"))
            .map(|entry| entry.expect("an entry").path())
            .collect();
        files.sort();
        assert!(files.len() >= 10, "{name} has inputs");
        for file in files {
            let input = fs::read(&file).expect("a file");
            let held = std::panic::catch_unwind(|| target(&input));
            assert!(held.is_ok(), "{} breaks `{name}`", file.display());
        }
    }
}
