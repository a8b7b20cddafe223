//! Reading whole files that the user names, but none without end.

use std::fs::File;
use std::io::{self, Read};
use std::path::Path;

/// The most that is read of a file which is held in memory as a whole: a list, a recipe, a model.
const LONGEST: u64 = 1 << 30;

/// Reads a whole file, unless it is larger than any list, recipe or model is.
///
/// # Errors
///
/// What the system says, or that the file is too large, as a device without an end is.
pub fn read_bounded(path: &Path) -> io::Result<Vec<u8>> {
    bounded(File::open(path)?, LONGEST)
}

fn bounded(file: impl Read, longest: u64) -> io::Result<Vec<u8>> {
    let mut bytes = Vec::new();
    file.take(longest + 1).read_to_end(&mut bytes)?;
    if bytes.len() as u64 > longest {
        return Err(io::Error::other(format!("larger than {} MB; not read", longest >> 20)));
    }
    Ok(bytes)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_has_no_end_is_not_read_to_it() {
        assert!(
            bounded(io::repeat(b'a'), 5 << 20).expect_err("endless").to_string().contains("larger than 5 MB")
        );
        assert_eq!(bounded([b'a'; 5].as_slice(), 5).expect("short"), [b'a'; 5]);
    }
}
