//! The figures of a run, drawn as files and for its page.

use std::sync::{Mutex, PoisonError};

use yarrup_io::RunError;
use yarrup_report::{Figure, Fonts, counted, png};

use super::{Choices, FIGURES, FigureData};
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

/// What is told of letters that no font has.
pub(crate) fn missing(fonts: &Fonts) -> Option<String> {
    let missing = fonts.missing();
    let first: Vec<String> =
        missing.iter().take(6).map(|letter| format!("{letter} (U+{:04X})", u32::from(*letter))).collect();
    (!missing.is_empty()).then(|| {
        format!(
            "PNG figures cannot show {}: {}{}; no font of this system has them, and `yarrup figure --font FILE` takes one that does",
            counted(missing.len() as u64, "letter"),
            first.join(", "),
            if missing.len() > first.len() { " and others" } else { "" }
        )
    })
}
