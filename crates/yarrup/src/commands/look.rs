//! `yarrup look`.
use crate::arguments::LookArguments;
use crate::failure::{Exit, Failure};
use crate::screen::Screen;
pub(crate) fn look(_arguments: &LookArguments, _screen: &Screen) -> Result<Exit, Failure> {
    Ok(Exit::Done)
}
