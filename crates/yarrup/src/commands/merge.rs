//! `yarrup merge`: runs over the parts of a collection in, the run over the whole out.

use yarrup_io::RunFolder;

use crate::arguments::{MergeArguments, Written};
use crate::failure::{Exit, Failure, option};
use crate::merging::{self, Parts, Wanted};
use crate::reading::threads;
use crate::screen::Screen;

pub(crate) fn merge(arguments: &MergeArguments, screen: &Screen) -> Result<Exit, Failure> {
    if arguments.write.contains(&Written::None) && arguments.write.len() > 1 {
        return Err(option("write", "`none` stands alone"));
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
