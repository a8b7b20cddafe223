//! Batches of work over threads, with results in order and bounded memory.

use std::sync::{Condvar, Mutex, PoisonError};

/// How many finished results may wait for one that comes before them, for each thread.
const WAITING_PER_THREAD: u64 = 3;

/// What the threads share besides the source: the place of the next result, and those that wait for it.
struct Turn<O, S> {
    next: u64,
    waiting: Vec<(u64, O)>,
    sink: S,
    stopped: bool,
}

/// Takes every batch of `source` through `work` on `threads` threads, each with a state of its own, and gives the results to
/// `sink` in the order of the batches. Returns the states.
///
/// Which thread works on which batch depends on timing: results must not depend on the state, and states must add up.
/// At most a few batches a thread are in memory at any time.
///
/// # Errors
///
/// The first error that `source`, `work` or `sink` gives, first in the order of time; everything ends soon after.
pub fn in_order<B, O, W, E>(
    threads: usize,
    source: impl FnMut() -> Result<Option<B>, E> + Send,
    state: impl Fn() -> W + Sync,
    work: impl Fn(&mut W, B) -> Result<O, E> + Sync,
    sink: impl FnMut(O) -> Result<(), E> + Send,
) -> Result<Vec<W>, E>
where
    O: Send,
    W: Send,
    E: Send,
{
    if threads <= 1 {
        return one_by_one(source, state, work, sink);
    }
    let source = Mutex::new((0, source, false));
    let turn = Mutex::new(Turn { next: 0, waiting: Vec::new(), sink, stopped: false });
    let moved = Condvar::new();
    let most_ahead = WAITING_PER_THREAD * threads as u64;
    let run = || -> Result<W, E> {
        let mut state = state();
        loop {
            let (number, batch) = {
                let mut source = source.lock().unwrap_or_else(PoisonError::into_inner);
                let (number, next, ended) = &mut *source;
                if *ended {
                    return Ok(state);
                }
                let Some(batch) = next()? else {
                    *ended = true;
                    return Ok(state);
                };
                *number += 1;
                (*number - 1, batch)
            };
            let result = work(&mut state, batch)?;
            let mut turn = turn.lock().unwrap_or_else(PoisonError::into_inner);
            // The thread whose turn it is never waits, so the others are woken in the end.
            while number > turn.next + most_ahead && !turn.stopped {
                turn = moved.wait(turn).unwrap_or_else(PoisonError::into_inner);
            }
            if turn.stopped {
                return Ok(state);
            }
            turn.waiting.push((number, result));
            while let Some(ready) = turn.waiting.iter().position(|(number, _)| *number == turn.next) {
                let (_, result) = turn.waiting.swap_remove(ready);
                turn.next += 1;
                (turn.sink)(result)?;
            }
            moved.notify_all();
        }
    };
    // However a thread ends, by an error or by a panic, the others must not go on waiting for its result.
    let guarded = || {
        let stop = StopOnDrop(|| {
            source.lock().unwrap_or_else(PoisonError::into_inner).2 = true;
            turn.lock().unwrap_or_else(PoisonError::into_inner).stopped = true;
            moved.notify_all();
        });
        let result = run();
        if result.is_ok() {
            std::mem::forget(stop);
        }
        result
    };
    std::thread::scope(|scope| {
        let threads: Vec<_> = (0..threads).map(|_| scope.spawn(guarded)).collect();
        threads
            .into_iter()
            .map(|thread| thread.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic)))
            .collect()
    })
}

struct StopOnDrop<F: Fn()>(F);

impl<F: Fn()> Drop for StopOnDrop<F> {
    fn drop(&mut self) {
        (self.0)();
    }
}

fn one_by_one<B, O, W, E>(
    mut source: impl FnMut() -> Result<Option<B>, E>,
    state: impl Fn() -> W,
    work: impl Fn(&mut W, B) -> Result<O, E>,
    mut sink: impl FnMut(O) -> Result<(), E>,
) -> Result<Vec<W>, E> {
    let mut state = state();
    while let Some(batch) = source()? {
        let result = work(&mut state, batch)?;
        sink(result)?;
    }
    Ok(vec![state])
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn squares(threads: usize, most: u64, fail_at: Option<u64>) -> (Result<u64, String>, Vec<u64>) {
        let mut numbers = 0..most;
        let mut written = Vec::new();
        let states = in_order(
            threads,
            || Ok(numbers.next()),
            || 0u64,
            |sum, number| {
                if Some(number) == fail_at {
                    return Err(format!("no {number}"));
                }
                // Uneven work, so that results come out of order.
                std::hint::black_box((0..(number * 7919) % 5000).sum::<u64>());
                *sum += number;
                Ok(number * number)
            },
            |square| {
                written.push(square);
                Ok(())
            },
        );
        (states.map(|states| states.into_iter().sum()), written)
    }

    proptest! {
        #[test]
        fn results_come_in_order_from_any_number_of_threads(threads in 1usize..9, most in 0u64..200) {
            let (sum, written) = squares(threads, most, None);
            prop_assert_eq!(sum, Ok((0..most).sum::<u64>()));
            prop_assert_eq!(written, (0..most).map(|n| n * n).collect::<Vec<_>>());
        }

        #[test]
        fn an_error_ends_the_run(threads in 1usize..9, fail_at in 0u64..100) {
            let (sum, written) = squares(threads, 100, Some(fail_at));
            prop_assert_eq!(sum, Err(format!("no {fail_at}")));
            let in_order: Vec<_> = (0..written.len() as u64).map(|n| n * n).collect();
            prop_assert_eq!(written, in_order);
        }
    }

    /// While the first batch is not done, the others must not run far ahead: what they leave waits in memory.
    #[test]
    fn few_results_wait_for_one_that_is_late() {
        use std::sync::atomic::{AtomicU64, Ordering};
        use std::time::Duration;
        for threads in [2, 4] {
            let (mut numbers, taken, late) = (0..200u64, AtomicU64::new(0), AtomicU64::new(0));
            let done: Result<Vec<()>, ()> = in_order(
                threads,
                || {
                    let next = numbers.next();
                    taken.fetch_add(u64::from(next.is_some()), Ordering::SeqCst);
                    Ok(next)
                },
                || (),
                |(), number| {
                    if number == 0 {
                        std::thread::sleep(Duration::from_millis(150));
                        late.store(taken.load(Ordering::SeqCst), Ordering::SeqCst);
                    }
                    Ok(number)
                },
                |_| Ok(()),
            );
            assert!(done.is_ok());
            let most = WAITING_PER_THREAD * threads as u64 + threads as u64 + 1;
            let late = late.into_inner();
            assert!(late > threads as u64 && late <= most, "{late} of at most {most} with {threads} threads");
        }
    }

    #[test]
    #[should_panic(expected = "worker broke")]
    fn a_panic_of_a_worker_is_passed_on() {
        let mut numbers = 0..50;
        let _: Result<Vec<()>, ()> = in_order(
            4,
            || Ok(numbers.next()),
            || (),
            |(), number: i32| {
                if number == 3 { panic!("worker broke") } else { Ok(()) }
            },
            |()| Ok(()),
        );
    }
}
