//! `yarrup redraw`: the page and the figures of a run once more, without its sources.

use std::sync::{Mutex, PoisonError};

use yarrup_io::{RECIPE_FILE, read_account, read_file_of, read_run, replace_in_run};

use super::run_page::Drawn;
use crate::arguments::RedrawArguments;
use crate::failure::{Exit, Failure};
use crate::screen::Screen;

pub(crate) fn redraw(arguments: &RedrawArguments, screen: &Screen) -> Result<Exit, Failure> {
    let run = &arguments.run;
    let (record, account) = (read_run(run)?, read_account(run)?);
    let recipe = read_file_of(run, &record, RECIPE_FILE)?;
    let recipe_text = String::from_utf8_lossy(&recipe);
    let (effects, vocabulary) = (account.effects(), account.vocabulary());
    let drawn = Drawn {
        recipe_text: &recipe_text,
        record: &record,
        account: &account,
        effects: &effects,
        vocabulary: &vocabulary,
    };
    let files = Mutex::new(Vec::new());
    drawn.write(|name, content| {
        let mut files = files.lock().unwrap_or_else(PoisonError::into_inner);
        files.push((name.to_owned(), content.to_vec()));
        Ok(())
    })?;
    replace_in_run(run, &files.into_inner().unwrap_or_else(PoisonError::into_inner))?;
    screen.tell(&format!("{}/report.html and the figures are drawn anew", run.display()));
    Ok(Exit::Done)
}
