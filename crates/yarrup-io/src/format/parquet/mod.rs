//! Parquet: a row is a document. Whoever works on the rows reads them, a piece of a row group at a time.

mod rows;
mod values;

use std::fs::File;
use std::sync::Arc;

use parquet::file::metadata::ParquetMetaData;
use parquet::file::reader::{FileReader, SerializedFileReader};

use crate::documents::{Documents, Format, Give, Input, Out, Piece, PieceOfFile, ReadError, Reader, Start};
use crate::format::facts;
use crate::record::Why;

pub(crate) struct Parquet;

impl Reader for Parquet {
    fn format(&self) -> Format {
        Format::of(&facts::PARQUET)
    }

    fn recognises(&self, start: &Start<'_>) -> bool {
        start.bytes.starts_with(b"PAR1")
    }

    fn is_read_apart(&self) -> bool {
        true
    }

    fn read(&self, input: &mut Input<'_>, out: &mut dyn Out) -> Result<(), ReadError> {
        let name = input.name.clone();
        let (path, kept) = input.on_disk()?;
        if let Some(piece) = out.piece().cloned() {
            return rows::read(&path, &name, &piece, &mut |rows| out.give(Documents(rows)));
        }
        let file = File::open(&path)?;
        let size = file.metadata()?.len();
        let reader = SerializedFileReader::new(file).map_err(|why| damaged(&why))?;
        let (kept, mut first) = (Arc::new(kept), true);
        let mut pieces = pieces_of(reader.metadata(), size).peekable();
        while let Some(piece) = pieces.next() {
            // The first rows show the fields, and are all there is of a small file.
            let is_read_here = std::mem::take(&mut first) || piece.bytes > LARGEST_PIECE_BYTES;
            if is_read_here {
                match rows::read(&path, &name, &piece, &mut |rows| out.give(Documents(rows))) {
                    // Damage costs its piece, here as well.
                    Err(error @ ReadError::Told(_)) if pieces.peek().is_some() => {
                        out.malformed(piece.place(&name), Why::File(error.told()))?;
                    }
                    read => read?,
                }
            } else {
                let (path, name, kept) = (path.clone(), name.clone(), kept.clone());
                let of = piece.clone();
                out.give(PieceOfFile {
                    piece,
                    read: move |give: &mut Give<'_>| {
                        let _kept = &kept;
                        rows::read(&path, &name, &of, give)
                    },
                })?;
            }
        }
        Ok(())
    }
}

/// How many bytes a piece aims at, unpacked: enough that opening the file for it costs little.
const PIECE_BYTES: u64 = 4 << 20;
/// The largest piece that is read by whoever works on it. Rows with lists in them cannot be passed over, so that they come by whole row groups, which may
/// be larger: those are read one after the other, a batch at a time.
const LARGEST_PIECE_BYTES: u64 = 64 << 20;

/// How many bytes of a file a piece has at least: text packs to a thousandth at most, and what says that it holds more is made to go on for ever.
const LEAST_PACKED: u64 = 1 << 12;

/// The pieces of a file of this size, in order.
fn pieces_of(metadata: &ParquetMetaData, size: u64) -> impl Iterator<Item = Piece> {
    let is_flat = rows::is_flat(metadata.file_metadata().schema_descr());
    let mut before = 0;
    metadata.row_groups().iter().enumerate().flat_map(move |(group, facts)| {
        let rows = u64::try_from(facts.num_rows()).unwrap_or_default();
        let bytes = u64::try_from(facts.total_byte_size()).unwrap_or_default();
        let count = if is_flat {
            bytes.div_ceil(PIECE_BYTES).min(size / LEAST_PACKED).clamp(1, rows.max(1))
        } else {
            1
        };
        let group_begins = before;
        before = u64::saturating_add(before, rows);
        (0..count).map(move |number| {
            let at = |number: u64| rows / count * number + (rows % count).min(number);
            Piece { group, before: group_begins, rows: at(number)..at(number + 1), bytes: bytes / count }
        })
    })
}

fn damaged(error: &parquet::errors::ParquetError) -> ReadError {
    let told = error.to_string();
    let lower = told.to_ascii_lowercase();
    if lower.contains("codec") || lower.contains("compress") || lower.contains("feature") {
        return ReadError::sentence(format!(
            "compressed in a way that is not read; write it with snappy, zstd, gzip or lz4: {told}"
        ));
    }
    ReadError::sentence(format!("damaged Parquet file, cut off or not copied to its end: {told}"))
}
