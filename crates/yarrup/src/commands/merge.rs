//! `yarrup merge`: runs over the parts of a collection in, the run over the whole out.

use yarrup_io::RunFolder;

use crate::arguments::{MergeArguments, Written};
use crate::failure::{Exit, Failure, option};
use crate::learning::{LearnedBefore, freeze};
use crate::merging::{self, Parts, Wanted};
use crate::reading::threads;
use crate::recipe_file::compile;
use crate::screen::Screen;

pub(crate) fn merge(arguments: &MergeArguments, screen: &Screen) -> Result<Exit, Failure> {
    if arguments.write.contains(&Written::None) && arguments.write.len() > 1 {
        return Err(option("write", "`none` stands alone"));
    }
    if let Some(recipe) = &arguments.freeze {
        let before = LearnedBefore::of(compile(recipe)?, arguments.learned.as_deref())?;
        return freeze(before, &arguments.parts, (&arguments.out, arguments.replace), screen);
    }
    let folder = RunFolder::create(&arguments.out, arguments.replace)?;
    let parts = Parts::open(&arguments.parts)?;
    let wanted = Wanted {
        write: &arguments.write,
        documents: arguments.documents,
        threads: threads(arguments.threads),
    };
    merging::merge(&parts, folder, &wanted, screen)?.print(screen)?;
    Ok(Exit::Done)
}
