//! Archives: zip and tar. Their members are read one after the other, never written to disk.

use std::collections::HashMap;
use std::io::{self, Read, Seek as _, SeekFrom};
use std::sync::Arc;

use crate::documents::{Format, FormatFacts, Input, Inside, Out, ReadError, Reader, Start, io_told};
use crate::format::text::read_whole;
use crate::format::zipped::zip_told;
use crate::names::is_hidden;
use crate::record::Why;
use crate::sidecar::{SideFiles, side_fields};

/// How many members an archive may have.
const MOST_MEMBERS: usize = 1_000_000;

pub(crate) struct Zip;

impl Reader for Zip {
    fn format(&self) -> Format {
        Format::of(&FormatFacts {
            name: "zip",
            about: "a zip archive",
            endings: &["zip"],
            units: &[],
            is_any_text: false,
        })
    }

    fn recognises(&self, start: &Start<'_>) -> bool {
        start.bytes.starts_with(b"PK\x03\x04") || start.bytes.starts_with(b"PK\x05\x06")
    }

    fn read(&self, input: &mut Input<'_>, out: &mut dyn Out) -> Result<(), ReadError> {
        let outer = input.name.clone();
        let mut content = input.seekable()?;
        let size = content.seek(SeekFrom::End(0))?;
        content.rewind()?;
        let mut archive = zip::ZipArchive::new(content).map_err(|why| zip_told(&why))?;
        if archive.len() > MOST_MEMBERS {
            return Err(ReadError::sentence(format!("more than {MOST_MEMBERS} members; not read")));
        }
        let (mut members, mut packed) = (Vec::new(), 0_u64);
        for index in 0..archive.len() {
            let member = archive.by_index_raw(index).map_err(|why| zip_told(&why))?;
            packed = packed.saturating_add(member.compressed_size());
            if packed > size && !out.options().trust_archives {
                return Err(ReadError::sentence(
                    "its members lie over one another, as in archives that are made to fill a machine; \
                     --trust-archives reads it all the same",
                ));
            }
            let name =
                member.name().map(|name| name.into_owned()).unwrap_or_else(|_| format!("member {index}"));
            if !member.is_dir() && !member.is_symlink() {
                members.push((name, index));
            }
        }
        // By path, as a folder would be read: the order of packing is chance.
        members.sort();
        let sides = SideFiles::among(members.iter().map(|(name, _)| name.as_str()));
        let by_name: HashMap<&str, usize> =
            members.iter().map(|(name, index)| (name.as_str(), *index)).collect();
        for (name, index) in &members {
            if sides.is_side(name) {
                continue;
            }
            let Some(full) = admitted(&outer, name, out)? else { continue };
            let side = match sides.of(name).and_then(|side| Some((side, *by_name.get(side)?))) {
                Some((side, index)) => {
                    let bytes = archive
                        .by_index(index)
                        .map_err(|why| zip_told(&why))
                        .and_then(|member| Ok(read_whole(member.take(2 << 20))?))?;
                    side_of(&format!("{outer}/{side}"), &bytes, out)?
                }
                None => None,
            };
            match archive.by_index(*index) {
                Ok(member) => {
                    let packed = member.compressed_size();
                    let asked_for = out.options().asks_for(name);
                    out.read_inside(Inside {
                        name: full.clone(),
                        file_name: full,
                        reader: Box::new(member),
                        packed: Box::new(move || packed),
                        side,
                        asked_for,
                    })?;
                }
                Err(why) => out.malformed(full, Why::File(sentence(zip_told(&why))))?,
            }
        }
        Ok(())
    }
}

/// The sentence of an error of a member.
fn sentence(error: ReadError) -> String {
    match error {
        ReadError::Told(why) | ReadError::NotRead(why) => why,
        ReadError::Io(error) => io_told(&error),
        ReadError::Stopped => String::new(),
    }
}

/// The full name of a member, if it is to be read.
fn admitted(outer: &str, name: &str, out: &mut dyn Out) -> Result<Option<String>, ReadError> {
    let name = name.replace('\\', "/");
    let name = name.trim_start_matches("./");
    if name.split('/').any(|part| part == "..") || name.starts_with('/') || name.get(1..3) == Some(":/") {
        let why = "its name climbs out of the archive, as only an attack does; not read".to_owned();
        out.malformed(format!("{outer}/{name}"), Why::File(why))?;
        return Ok(None);
    }
    let hidden = name.split('/').any(is_hidden) && !out.options().hidden;
    Ok((!hidden && out.options().takes(name)).then(|| format!("{outer}/{name}")))
}

fn side_of(name: &str, bytes: &[u8], out: &mut dyn Out) -> Result<Option<Arc<str>>, ReadError> {
    match side_fields(name, bytes) {
        Ok(fields) => Ok(Some(fields.into())),
        Err(why) => {
            out.malformed(name.to_owned(), Why::File(why))?;
            Ok(None)
        }
    }
}

pub(crate) struct Tar;

/// How much of a tar archive's small files is held back, so that a side file that comes behind its document still finds it.
const HELD_BACK: usize = 16 << 20;
/// The largest file that is held back.
const SMALL: u64 = 1 << 20;

impl Reader for Tar {
    fn format(&self) -> Format {
        Format::of(&FormatFacts {
            name: "tar",
            about: "a tar archive",
            endings: &["tar"],
            units: &[],
            is_any_text: false,
        })
    }

    fn recognises(&self, start: &Start<'_>) -> bool {
        start.bytes.get(257..262) == Some(b"ustar")
    }

    fn read(&self, input: &mut Input<'_>, out: &mut dyn Out) -> Result<(), ReadError> {
        let outer = input.name.clone();
        let packed = input.opened.bytes.clone();
        let mut archive = tar::Archive::new(&mut input.opened);
        let mut held: Vec<(String, Vec<u8>)> = Vec::new();
        let mut held_bytes = 0;
        for (count, entry) in archive.entries()?.enumerate() {
            if count >= MOST_MEMBERS {
                return Err(ReadError::sentence(format!(
                    "more than {MOST_MEMBERS} members; the rest is not read"
                )));
            }
            let entry = match entry {
                Ok(entry) => entry,
                Err(why) => {
                    read_held(&outer, &mut held, out)?;
                    return Err(tar_told(why));
                }
            };
            if !matches!(entry.header().entry_type(), tar::EntryType::Regular | tar::EntryType::Continuous) {
                continue;
            }
            let name = String::from_utf8_lossy(&entry.path_bytes()).into_owned();
            let size = entry.size();
            if size <= SMALL {
                let bytes = read_whole(entry).map_err(tar_told)?;
                held_bytes += bytes.len();
                held.push((name, bytes));
                if held_bytes > HELD_BACK {
                    held_bytes = 0;
                    read_held(&outer, &mut held, out)?;
                }
                continue;
            }
            held_bytes = 0;
            read_held(&outer, &mut held, out)?;
            if let Some(full) = admitted(&outer, &name, out)? {
                let asked_for = out.options().asks_for(&name);
                let before = packed.get();
                // A tar archive packs nothing.
                out.read_inside(Inside {
                    name: full.clone(),
                    file_name: full,
                    reader: Box::new(entry),
                    packed: Box::new(|| packed.get() - before + size),
                    side: None,
                    asked_for,
                })?;
            }
        }
        read_held(&outer, &mut held, out)
    }
}

fn tar_told(error: io::Error) -> ReadError {
    match error.kind() {
        io::ErrorKind::UnexpectedEof => ReadError::Io(error),
        _ => ReadError::sentence(format!("damaged archive: {error}")),
    }
}

fn read_held(outer: &str, held: &mut Vec<(String, Vec<u8>)>, out: &mut dyn Out) -> Result<(), ReadError> {
    let held = std::mem::take(held);
    let sides = SideFiles::among(held.iter().map(|(name, _)| name.as_str()));
    for (name, bytes) in &held {
        if sides.is_side(name) {
            continue;
        }
        let Some(full) = admitted(outer, name, out)? else { continue };
        let side = match sides.of(name).and_then(|side| held.iter().find(|(name, _)| name == side)) {
            Some((side, bytes)) => side_of(&format!("{outer}/{side}"), bytes, out)?,
            None => None,
        };
        let asked_for = out.options().asks_for(name);
        out.read_inside(Inside {
            name: full.clone(),
            file_name: full,
            reader: Box::new(bytes.as_slice()),
            packed: Box::new(|| bytes.len() as u64),
            side,
            asked_for,
        })?;
    }
    Ok(())
}
