//! Addresses on the network, in a build without the network.

use crate::collection::Login;
use crate::documents::{Out, ReadError};
use crate::left_out::told;
use crate::place::SourceError;

const WHAT: &str = "the network";
const FEATURE: &str = "web";

/// Refuses every address.
pub(crate) fn check(place: &str) -> Result<(), SourceError> {
    Err(SourceError::Address { place: place.to_owned(), why: told(WHAT, FEATURE) })
}

/// Refuses to read an address.
pub(crate) fn read(_address: &str, _login: Option<&Login>, _out: &mut dyn Out) -> Result<(), ReadError> {
    Err(ReadError::sentence(told(WHAT, FEATURE)))
}
