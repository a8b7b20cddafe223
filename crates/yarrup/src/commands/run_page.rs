//! The figures of a run, drawn as files and for its page.

use std::sync::{Mutex, PoisonError};

use yarrup_core::Account;
use yarrup_io::RunError;
use yarrup_report::{Figure, Fonts, png, visible};

use super::run_figures::{Choices, FIGURES, FigureData};
use crate::failure::Failure;

/// The figure that the page shows as it is drawn.
const PAGE_FIGURE: &str = "cloud";

/// How many figures are drawn at a time.
const DRAWING: usize = 3;

/// Which figures are wanted.
#[derive(Clone, Copy, Debug)]
pub(crate) struct WantedFigures {
    /// All of them, as files.
    pub(crate) files: bool,
    /// That of the page.
    pub(crate) page: bool,
}

/// Draws the figures that are wanted and that the run has something for, and writes each as SVG and PNG by its name in the run folder. Returns that
/// of the page.
pub(crate) fn draw_figures(
    data: &FigureData<'_>,
    choices: &Choices,
    (fonts, wanted): (&Fonts, WantedFigures),
    write: impl Fn(&str, &[u8]) -> Result<(), RunError> + Sync,
) -> Result<Option<Figure>, Failure> {
    let draw = |name: &'static str| -> Result<Option<Figure>, Failure> {
        let of_page = wanted.page && name == PAGE_FIGURE;
        if !wanted.files && !of_page {
            return Ok(None);
        }
        let Some(figure) = data.draw(name, choices, fonts) else { return Ok(None) };
        if !wanted.files {
            return Ok(Some(figure));
        }
        write(&format!("figures/{name}.svg"), figure.svg.as_bytes())?;
        let pixels = png(&figure, fonts).map_err(|why| Failure::Sentence(why.to_string()))?;
        write(&format!("figures/{name}.png"), &pixels)?;
        Ok(of_page.then_some(figure))
    };
    // A few at a time: each takes some megabytes while it is drawn. The last takes longest, and begins first.
    let left = Mutex::new(FIGURES.map(|(name, _)| name).to_vec());
    let next = || left.lock().unwrap_or_else(PoisonError::into_inner).pop();
    let drawn: Vec<Result<Option<Figure>, Failure>> = std::thread::scope(|scope| {
        let work = || std::iter::from_fn(next).map(draw).collect::<Vec<_>>();
        let threads: Vec<_> = (0..DRAWING).map(|_| scope.spawn(work)).collect();
        let joined = threads.into_iter();
        joined
            .flat_map(|thread| thread.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic)))
            .collect()
    });
    drawn.into_iter().try_fold(None, |of_page, figure| Ok(of_page.or(figure?)))
}

/// The documents that steps left out: the step, the reason, how many.
pub(super) fn left_out(account: &Account) -> Vec<(String, String, u64)> {
    let row = |(step, reason, count): (usize, &str, u64)| {
        let record = &account.steps[step - 1];
        let name = record.label.as_ref().unwrap_or(&record.operation);
        (format!("{step} {}", visible(name)), visible(reason), count)
    };
    account.documents_left_out().into_iter().map(row).collect()
}
