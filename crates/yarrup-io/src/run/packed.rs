//! Values in files of our own: what the file is, the version of its layout (4 bytes, the lowest first) and the XXH3 hash (64 bits) of all that follows,
//! which is the value in Postcard, compressed by Zstandard.

use std::io::{self, BufWriter, Write};

use serde::Serialize;
use serde::de::DeserializeOwned;

/// How a file is told from others.
pub(super) struct Form {
    /// What it begins with.
    pub(super) magic: &'static [u8; 16],
    /// The version of the layout. It grows with every change of what the value holds.
    pub(super) version: u32,
    /// What it holds, with its article.
    pub(super) what: &'static str,
    /// What is to be done where it is of another version.
    pub(super) again: &'static str,
}

/// Faster is hardly larger.
const LEVEL: i32 = 1;

impl Form {
    /// Writes a value.
    pub(super) fn write(&self, value: &impl Serialize, mut out: impl Write) -> io::Result<()> {
        // Packed as it is written: a copy of all texts would be held beside them else.
        let packing = BufWriter::new(zstd::Encoder::new(Vec::new(), LEVEL)?);
        let packed = postcard::to_io(value, packing).map_err(io::Error::other)?;
        let packed = packed.into_inner().map_err(io::IntoInnerError::into_error)?.finish()?;
        out.write_all(self.magic)?;
        out.write_all(&self.version.to_le_bytes())?;
        out.write_all(&crate::short_hash(&packed).to_le_bytes())?;
        out.write_all(&packed)?;
        out.flush()
    }

    /// Reads a value, or tells what is wrong with the file.
    pub(super) fn read<T: DeserializeOwned>(&self, bytes: &[u8]) -> Result<T, String> {
        let Form { magic, what, again, .. } = self;
        let header = magic.len() + 4 + 8;
        let Some((header, packed)) =
            bytes.split_at_checked(header).filter(|(header, _)| header.starts_with(*magic))
        else {
            return Err(format!("this is not {what} of yarrup"));
        };
        let (version, hash) = header[magic.len()..].split_at(4);
        let version = version.try_into().map_or(0, u32::from_le_bytes);
        if version != self.version {
            return Err(format!(
                "it is {what} of layout {version}, and this version of yarrup reads layout {}: {again}",
                self.version
            ));
        }
        if hash != crate::short_hash(packed).to_le_bytes() {
            return Err("the file was cut or changed since it was written".to_owned());
        }
        let unreadable = |why: &dyn std::fmt::Display| format!("it cannot be read: {why}");
        let plain = zstd::stream::decode_all(packed).map_err(|why| unreadable(&why))?;
        postcard::from_bytes(&plain).map_err(|why| unreadable(&why))
    }
}
