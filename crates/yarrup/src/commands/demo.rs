//! `yarrup demo`: the made-up collection, its recipes, and a first run of each.

use crate::arguments::DemoArguments;
use crate::failure::{Exit, Failure};
use crate::screen::Screen;

pub(crate) fn demo(_arguments: &DemoArguments, _screen: &Screen) -> Result<Exit, Failure> {
    Ok(Exit::Done)
}
