//! Figures as pixels, in a build that draws none.

use thiserror::Error;

use crate::figure::{Figure, Fonts};

/// Why a figure could not be drawn as pixels.
#[derive(Debug, Error)]
#[error(
    "this yarrup was built without PNG; name a file that ends in .svg, or build it with `--features figures`"
)]
pub struct PngError(());

/// Refuses.
///
/// # Errors
///
/// Always.
pub fn png(_figure: &Figure, _fonts: &Fonts) -> Result<Vec<u8>, PngError> {
    Err(PngError(()))
}
