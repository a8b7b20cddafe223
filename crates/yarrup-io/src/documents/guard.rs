//! Packages that read other people's formats panic on some inputs. Such an input is told of, and costs one file, not the run.

use std::cell::Cell;
use std::panic::{self, AssertUnwindSafe};
use std::sync::Once;

thread_local! {
    static GUARDED: Cell<bool> = const { Cell::new(false) };
}

/// What is told of an input that breaks its reader.
pub(crate) const BROKE: &str = "cannot be read: it breaks the reader of its format, which is a fault of ours";

/// Does some work on hostile input; none if it panics, which is not printed.
pub(crate) fn guarded<T>(work: impl FnOnce() -> T) -> Option<T> {
    static SILENCE: Once = Once::new();
    SILENCE.call_once(|| {
        let told = panic::take_hook();
        panic::set_hook(Box::new(move |panic| {
            if !GUARDED.get() {
                told(panic);
            }
        }));
    });
    let outer = GUARDED.replace(true);
    let result = panic::catch_unwind(AssertUnwindSafe(work)).ok();
    GUARDED.set(outer);
    result
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_panic_is_nothing_and_the_next_work_is_done() {
        assert_eq!(guarded(|| -> u8 { panic!("hostile") }), None);
        assert_eq!(guarded(|| 7), Some(7));
    }
}
