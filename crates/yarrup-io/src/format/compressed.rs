//! Compressed files: gzip, Zstandard, bzip2, xz. What is in them is read as if it lay there by itself.

use std::io::{self, Read};

use crate::documents::{Format, FormatFacts, Input, Inside, Out, ReadError, Reader, Start};
use crate::names::ending;

/// A way of compressing.
pub(crate) struct Compressed {
    facts: &'static FormatFacts,
    sign: &'static [u8],
    unpack: Unpack,
}

type Unpack = for<'r> fn(Box<dyn Read + 'r>) -> io::Result<Box<dyn Read + 'r>>;

pub(crate) static GZIP: Compressed = Compressed {
    facts: &FormatFacts {
        name: "gzip",
        about: "compressed by gzip",
        endings: &["gz", "tgz"],
        units: &[],
        is_any_text: false,
    },
    sign: b"\x1f\x8b\x08",
    // Several files, packed one by one and joined, are one as well.
    unpack: |reader| Ok(Box::new(flate2::read::MultiGzDecoder::new(reader))),
};

pub(crate) static ZSTD: Compressed = Compressed {
    facts: &FormatFacts {
        name: "zstd",
        about: "compressed by Zstandard",
        endings: &["zst", "zstd"],
        units: &[],
        is_any_text: false,
    },
    sign: b"\x28\xb5\x2f\xfd",
    unpack: |reader| {
        let mut decoder = zstd::Decoder::new(reader)?;
        // Archives for long keeping are packed with windows of up to 2 GB; this takes 128 MB of memory at most.
        decoder.window_log_max(27)?;
        Ok(Box::new(decoder))
    },
};

pub(crate) static BZIP2: Compressed = Compressed {
    facts: &FormatFacts {
        name: "bzip2",
        about: "compressed by bzip2",
        endings: &["bz2"],
        units: &[],
        is_any_text: false,
    },
    sign: b"BZh",
    unpack: |reader| Ok(Box::new(bzip2::read::MultiBzDecoder::new(reader))),
};

pub(crate) static XZ: Compressed = Compressed {
    facts: &FormatFacts {
        name: "xz",
        about: "compressed by xz",
        endings: &["xz"],
        units: &[],
        is_any_text: false,
    },
    sign: b"\xfd7zXZ\0",
    unpack: |reader| Ok(Box::new(lzma_rust2::XzReader::new_mem_limit(reader, true, XZ_MEMORY_KB))),
};

/// The most memory that an xz file may ask for.
const XZ_MEMORY_KB: u32 = 512 << 10;

impl Reader for Compressed {
    fn format(&self) -> Format {
        Format::of(self.facts)
    }

    fn recognises(&self, start: &Start<'_>) -> bool {
        start.bytes.starts_with(self.sign)
    }

    fn read(&self, input: &mut Input<'_>, out: &mut dyn Out) -> Result<(), ReadError> {
        let packed = input.opened.bytes.clone();
        out.read_inside(Inside {
            name: input.name.clone(),
            file_name: inner_name(&input.file_name, self.facts.endings),
            side: input.side.clone(),
            asked_for: input.asked_for,
            reader: (self.unpack)(Box::new(&mut input.opened))?,
            packed: Box::new(move || packed.get()),
        })
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
