//! Files of old Office programs: many streams in one file (MS-CFB).

use std::io::Read;

use cfb::CompoundFile;

use crate::documents::guard::guarded;
use crate::documents::{Input, ReadError, ReadSeek};

/// The first bytes of every such file.
pub(crate) const SIGN: &[u8] = b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1";

/// The most that a stream may hold.
const LARGEST_STREAM: u64 = 512 << 20;

/// The names of the streams that a file holds; none if it is damaged.
pub(crate) fn names(input: &mut Input<'_>) -> Vec<String> {
    let names = guarded(|| {
        let file = Compound::open(input).ok()?;
        Some(file.0.read_root_storage().map(|entry| entry.name().to_owned()).collect())
    });
    names.flatten().unwrap_or_default()
}

/// An open file.
pub(super) struct Compound<'i>(CompoundFile<Box<dyn ReadSeek + 'i>>);

impl<'i> Compound<'i> {
    pub(super) fn open(input: &'i mut Input<'_>) -> Result<Compound<'i>, ReadError> {
        let file = CompoundFile::open(input.seekable()?);
        file.map(Compound).map_err(|why| ReadError::sentence(format!("damaged Office file: {why}")))
    }

    /// The content of a stream; none if there is no such stream.
    pub(super) fn stream(&mut self, name: &str) -> Result<Option<Vec<u8>>, ReadError> {
        if !self.0.is_stream(name) {
            return Ok(None);
        }
        let stream = self.0.open_stream(name)?;
        let mut bytes = Vec::new();
        stream.take(LARGEST_STREAM + 1).read_to_end(&mut bytes)?;
        if bytes.len() as u64 > LARGEST_STREAM {
            return Err(ReadError::sentence(format!("its stream `{name}` is larger than 512 MB; not read")));
        }
        Ok(Some(bytes))
    }
}
