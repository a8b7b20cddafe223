//! What a run leaves behind. `run` makes it of a collection, `pipe` of what comes in, `merge` of the parts of one: in the same way, so that it comes to
//! the same.

mod applying;
mod earlier;
mod noting;
mod record;
mod show;
mod whole;
mod writing;

pub(crate) use applying::{Applied, Applying, Weighing};
pub(crate) use earlier::Earlier;
pub(crate) use noting::{CourseKeeping, Lengths, Noting, add_lengths};
pub(crate) use record::{origin, sources_record, word_lists};
pub(crate) use show::RunSummary;
pub(crate) use whole::{Whole, WrittenWhole, referred};
pub(crate) use writing::{Noted, PACKED_LOT, Writing, are_packed};

use yarrup_io::RunFolder;

use crate::failure::Failure;

/// The failure of not being able to write a file of the run.
pub(crate) fn cannot_write(folder: &RunFolder, file: &str, why: &dyn std::fmt::Display) -> Failure {
    Failure::File { path: folder.named().join(file).display().to_string(), why: why.to_string() }
}

/// As [`cannot_write`], for a table.
pub(crate) fn table_failed<'f, E: std::fmt::Display>(
    folder: &'f RunFolder,
    file: &'f str,
) -> impl FnOnce(E) -> Failure + 'f {
    move |why| cannot_write(folder, file, &why)
}
