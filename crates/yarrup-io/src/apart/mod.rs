//! Reading files apart: in a process of its own, with limits on its memory, its time and its stack.
//!
//! The packages that read some formats can be made to call themselves without end, to unpack without end, or to fill the machine, by a file of a few
//! hundred bytes. Such a file then costs a process that was there for it, and the collection goes on. One process reads many files, one after the other,
//! and is replaced when it dies.

mod limits;
mod process;
mod protocol;
mod serving;

pub use process::ReaderProcesses;
pub use serving::serve_files;

/// The first argument of a program that is to read files for another one.
pub const READER_ARGUMENT: &str = "--read-files-for-another-process";

use std::fs;
use std::sync::Arc;

use crate::documents::{Documents, Give, Input, Out, PieceOfFile, ReadError, Reader, TakenOut, WholeFile};
use crate::record::Why;
use limits::Limits;
use protocol::{Answer, Asked, Request};

/// Reads an input in another process.
///
/// # Errors
///
/// What keeps it from being read, or from being read to its end.
pub(crate) fn read(
    processes: &Arc<ReaderProcesses>,
    reader: &dyn Reader,
    input: &mut Input<'_>,
    out: &mut dyn Out,
) -> Result<(), ReadError> {
    let (path, kept) = input.on_disk_by_text()?;
    let bytes = fs::metadata(&path)?.len();
    let request = Request {
        format: reader.format().name().to_owned(),
        name: input.name.clone(),
        file_name: input.file_name.clone(),
        path,
        piece: None,
        asked: Asked::of(out.options()),
        limits: Limits::of(out.options(), bytes),
    };
    if !reader.is_read_whole() {
        let kept = Arc::new(kept);
        return processes.read(&request, &mut |answer| match answer {
            Answer::Documents(documents) => out.give(Documents(documents)),
            Answer::Piece(piece) => {
                let (processes, kept) = (processes.clone(), kept.clone());
                let request = Request { piece: Some(piece.clone()), ..request.clone() };
                out.give(PieceOfFile {
                    piece,
                    read: move |give: &mut Give<'_>| {
                        let _kept = &kept;
                        processes.read(&request, &mut |answer| match answer {
                            Answer::Documents(documents) => give(documents),
                            _ => Ok(()),
                        })
                    },
                })
            }
            Answer::Malformed { place, why } => out.malformed(place, why),
            Answer::PassedOver(name) => out.passed_over(name),
            Answer::Note(note) => out.note(note),
        });
    }
    // Whoever works on it reads it, so that several are read at once.
    let processes = processes.clone();
    out.give(WholeFile {
        bytes,
        take_out: move || {
            let _kept = &kept;
            let mut taken = TakenOut::default();
            let read = processes.read(&request, &mut |answer| {
                match answer {
                    Answer::Documents(documents) => taken.documents.extend(documents),
                    Answer::Malformed { place, why } => taken.faults.push((place, why)),
                    Answer::Piece(_) | Answer::PassedOver(_) | Answer::Note(_) => {}
                }
                Ok(())
            });
            match read {
                Ok(()) => Ok(taken),
                // What came before the fault was read.
                Err(error) if !taken.documents.is_empty() => {
                    taken.faults.push((request.name.clone(), Why::File(error.told())));
                    Ok(taken)
                }
                Err(error) => Err(error.told()),
            }
        },
    })
}
