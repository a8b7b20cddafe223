//! Compressed files: gzip, Zstandard, bzip2, xz. What is in them is read as if it lay there by itself.

use std::io::{self, Read};

use super::{ReadError, Reader, Start, Unit};
use crate::input::Input;
use crate::intake::Intake;
use crate::names::ending;

/// A way of compressing.
pub(super) struct Compressed {
    name: &'static str,
    about: &'static str,
    endings: &'static [&'static str],
    sign: &'static [u8],
    unpack: Unpack,
}

type Unpack = for<'r> fn(Box<dyn Read + 'r>) -> io::Result<Box<dyn Read + 'r>>;

pub(super) static GZIP: Compressed = Compressed {
    name: "gzip",
    about: "compressed by gzip",
    endings: &["gz", "tgz"],
    sign: b"\x1f\x8b\x08",
    // Several files, packed one by one and joined, are one as well.
    unpack: |reader| Ok(Box::new(flate2::read::MultiGzDecoder::new(reader))),
};

pub(super) static ZSTD: Compressed = Compressed {
    name: "zstd",
    about: "compressed by Zstandard",
    endings: &["zst", "zstd"],
    sign: b"\x28\xb5\x2f\xfd",
    unpack: |reader| {
        let mut decoder = zstd::Decoder::new(reader)?;
        // Archives for long keeping are packed with windows of up to 2 GB; this takes 128 MB of memory at most.
        decoder.window_log_max(27)?;
        Ok(Box::new(decoder))
    },
};

pub(super) static BZIP2: Compressed = Compressed {
    name: "bzip2",
    about: "compressed by bzip2",
    endings: &["bz2"],
    sign: b"BZh",
    unpack: |reader| Ok(Box::new(bzip2::read::MultiBzDecoder::new(reader))),
};

pub(super) static XZ: Compressed = Compressed {
    name: "xz",
    about: "compressed by xz",
    endings: &["xz"],
    sign: b"\xfd7zXZ\0",
    unpack: |reader| Ok(Box::new(lzma_rust2::XzReader::new_mem_limit(reader, true, XZ_MEMORY_KB))),
};

/// The most memory that an xz file may ask for.
const XZ_MEMORY_KB: u32 = 512 << 10;

impl Reader for Compressed {
    fn name(&self) -> &'static str {
        self.name
    }

    fn about(&self) -> &'static str {
        self.about
    }

    fn endings(&self) -> &'static [&'static str] {
        self.endings
    }

    fn units(&self) -> &'static [Unit] {
        &[]
    }

    fn recognises(&self, start: &Start<'_>) -> bool {
        start.bytes.starts_with(self.sign)
    }

    fn read(&self, input: &mut Input<'_>, intake: &mut Intake<'_>) -> Result<(), ReadError> {
        let names = (input.name.clone(), inner_name(&input.file_name, self.endings));
        let (side, asked_for) = (input.side.clone(), input.asked_for);
        let packed = input.opened.bytes.clone();
        let reader = (self.unpack)(Box::new(&mut input.opened))?;
        intake.read_inside(names, reader, || packed.get(), side, asked_for)
    }
}

/// The name of what was compressed.
fn inner_name(name: &str, endings: &[&str]) -> String {
    match ending(name) {
        Some(ending) if ending == "tgz" => format!("{}.tar", &name[..name.len() - 4]),
        Some(ending) if endings.contains(&ending.as_str()) => {
            name[..name.len() - ending.len() - 1].to_owned()
        }
        _ => name.to_owned(),
    }
}
