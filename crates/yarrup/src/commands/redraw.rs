//! `yarrup redraw`: the page and the figures of a run once more, without its sources.

use yarrup_io::{read_account, read_run, recipe_path, replace_in_run};

use super::run_page::Drawn;
use crate::arguments::RedrawArguments;
use crate::failure::{Exit, Failure};
use crate::screen::Screen;

pub(crate) fn redraw(arguments: &RedrawArguments, screen: &Screen) -> Result<Exit, Failure> {
    let run = &arguments.run;
    let (record, account) = (read_run(run)?, read_account(run)?);
    let recipe = recipe_path(run);
    let recipe_text = std::fs::read_to_string(&recipe)
        .map_err(|why| Failure::File { path: recipe.display().to_string(), why: why.to_string() })?;
    let (effects, vocabulary) = (account.effects(), account.vocabulary());
    let drawn = Drawn {
        recipe_text: &recipe_text,
        record: &record,
        account: &account,
        effects: &effects,
        vocabulary: &vocabulary,
    };
    drawn.write(|name, content| replace_in_run(run, name, content))?;
    screen.tell(&format!("{}/report.html and the figures are drawn anew", run.display()));
    Ok(Exit::Done)
}
